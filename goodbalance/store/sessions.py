"""Who is signed in where. The browser holds a token, the database only its hash: a session can be ended from here."""

import hashlib
import secrets
from datetime import timedelta

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from goodbalance.store.models import PersonRow, SessionRow, utc_now

IDLE = timedelta(days=3)  # so long nobody used it
LONGEST = timedelta(days=14)
SHOWN = timedelta(minutes=10)  # so long after the password was typed its owner is taken to sit there
SEEN_EVERY = timedelta(minutes=5)  # how exactly the last use is kept: not each request writes


def begin(session: Session, person_id: int, browser: str) -> str:
    """A new session of this person; the token for the browser."""
    token = secrets.token_urlsafe(32)
    now = utc_now()
    session.execute(delete(SessionRow).where(SessionRow.begun_at < now - LONGEST))
    session.add(SessionRow(id=_id(token), person_id=person_id, begun_at=now, seen_at=now, browser=browser[:120], shown_at=now))
    session.flush()
    return token


def person_of(session: Session, token: str) -> tuple[PersonRow | None, bool]:
    """Whose session a token is, None where it has ended; and whether its last use was noted anew, to be committed."""
    now = utc_now()
    query = select(SessionRow, PersonRow).join(PersonRow, PersonRow.id == SessionRow.person_id)
    found = session.execute(query.where(SessionRow.id == _id(token), PersonRow.retired_at.is_(None))).first()
    if found is None or now - found[0].begun_at > LONGEST or now - found[0].seen_at > IDLE:
        return None, False
    row, person = found
    if now - row.seen_at < SEEN_EVERY:
        return person, False
    row.seen_at = now
    return person, True


def of(session: Session, person_id: int) -> list[SessionRow]:
    """The sessions of a person, the last used first."""
    query = select(SessionRow).where(SessionRow.person_id == person_id).order_by(SessionRow.seen_at.desc())
    return list(session.scalars(query))


def is_this(row: SessionRow, token: str) -> bool:
    """Whether a session is the one of this token."""
    return secrets.compare_digest(row.id, _id(token))


def shown_lately(session: Session, token: str) -> bool:
    """Whether the password was typed in this session a few minutes ago: asked before a person is changed."""
    row = session.get(SessionRow, _id(token))
    return row is not None and row.shown_at is not None and utc_now() - row.shown_at <= SHOWN


def show(session: Session, token: str) -> None:
    """The password has just been typed in this session, and was right."""
    row = session.get(SessionRow, _id(token))
    if row is not None:
        row.shown_at = utc_now()


def end(session: Session, token: str) -> None:
    """End one session: signing out."""
    session.execute(delete(SessionRow).where(SessionRow.id == _id(token)))


def end_others(session: Session, person_id: int, token: str = "") -> None:
    """End every session of a person, but the one of this token."""
    session.execute(delete(SessionRow).where(SessionRow.person_id == person_id, SessionRow.id != _id(token)))


def _id(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
