"""The seal of a record's head: made with a key that is not in the database, so that nobody writes a chain anew unseen."""

import hashlib
import hmac


def seal_of_head(key: bytes, uid: str, seq: int, head_hash: str) -> str:
    """HMAC-SHA256 (RFC 2104) over station, number and hash of the last entry; the name of its key before it."""
    text = f"{uid} {seq} {head_hash}".encode()
    return f"{key_name(key)}:{hmac.new(key, text, hashlib.sha256).hexdigest()}"


def key_name(key: bytes) -> str:
    """What tells keys apart without telling them: the first letters of their own hash."""
    return hashlib.sha256(key).hexdigest()[:8]


def head_holds(keys: tuple[bytes, ...], seal: str | None, uid: str, seq: int, head_hash: str) -> bool:
    """Whether a head bears the seal of one of the keys. Without a key nothing can be said, and nothing is."""
    if not keys:
        return True
    return any(hmac.compare_digest(seal or "", seal_of_head(key, uid, seq, head_hash)) for key in keys)
