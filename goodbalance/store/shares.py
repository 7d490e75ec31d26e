"""Links by which an owner reads one signed revision of a record without an account: for a time, and until they are revoked."""

import hashlib
import secrets
from datetime import timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from goodbalance.store.models import ShareRow, utc_now

LONGEST_DAYS = 400
MOST = 20  # of one station that are valid at once


def make(session: Session, station_id: int, seq: int, reader: str, by: str, days: int) -> str:
    """A new link; its token, which is shown once and never kept. seq: the entry of the signature that it shows."""
    token = secrets.token_urlsafe(24)
    session.add(ShareRow(token_hash=_hash(token), station_id=station_id, seq=seq, reader=reader, made_by=by, until=utc_now() + timedelta(days=days)))
    return token


def of_station(session: Session, station_id: int) -> list[ShareRow]:
    """The links of a station that still hold, the latest first."""
    query = select(ShareRow).where(ShareRow.station_id == station_id, ShareRow.revoked_at.is_(None), ShareRow.until > utc_now())
    return list(session.scalars(query.order_by(ShareRow.id.desc())))


def found(session: Session, token: str) -> ShareRow | None:
    """The link of a token, where it holds still."""
    if not token or len(token) > 64:
        return None
    return session.scalar(select(ShareRow).where(ShareRow.token_hash == _hash(token), ShareRow.revoked_at.is_(None), ShareRow.until > utc_now()))


def revoke(session: Session, station_id: int, share_id: int) -> bool:
    """End a link. Whether there was one."""
    row = session.get(ShareRow, share_id)
    if row is None or row.station_id != station_id or row.revoked_at is not None:
        return False
    row.revoked_at = utc_now()
    return True


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
