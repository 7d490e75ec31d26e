"""The installation's secrets: the key that signs sessions and those that seal records. Never in the database."""

import os
import secrets
from pathlib import Path

from sqlalchemy import Engine

from goodbalance.launch.errors import CannotStart
from goodbalance.store.database import migrate, open_engine, session_maker
from goodbalance.store.verify import seal_all

SEAL_KEYS = "seal-keys"


def session_key(folder: Path) -> str:
    """The key that signs sessions: from the environment, or made once and kept in a 0600 file."""
    if key := os.environ.get("GOODBALANCE_SESSION_KEY"):
        return key
    path = folder / "session-key"
    if not path.exists():
        _write(path, secrets.token_hex(32))
    return _read(path)


def seal_keys(folder: Path) -> tuple[bytes, ...]:
    """The keys that seal records, the newest first; none where there is none yet. They are not kept in the database."""
    told, path = os.environ.get("GOODBALANCE_SEAL_KEYS"), folder / SEAL_KEYS
    text = told or (_read(path) if path.exists() else "")
    return tuple(line.encode() for line in text.split())


def sealed(url: str, folder: Path, anew: bool) -> tuple[Engine, int]:
    """An engine over a migrated database whose records are sealed, and how many were sealed just now.

    Where there is no key yet, or with `anew`, one is made; it is kept only after the records bear its seal.
    """
    old = seal_keys(folder)
    make = anew or not old
    keys = (secrets.token_hex(32).encode(), *old) if make else old
    engine, count = open_engine(url, keys), 0
    migrate(engine)
    if make:
        with session_maker(engine)() as session:
            count = seal_all(session, first=not old)
            session.commit()
        _write(folder / SEAL_KEYS, "\n".join(key.decode() for key in keys))
    return engine, count


def _read(path: Path) -> str:
    try:
        return path.read_text().strip()
    except OSError as wrong:
        raise CannotStart(f"{path} cannot be read: {wrong.strerror}") from wrong


def _write(path: Path, text: str) -> None:
    """Whole or not at all, and for nobody else to read."""
    made = path.with_suffix(".new")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with os.fdopen(os.open(made, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
            file.write(text)
        made.replace(path)
    except OSError as wrong:
        raise CannotStart(f"{path} cannot be made: {wrong.strerror}") from wrong
