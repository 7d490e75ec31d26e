"""Links by which somebody sets a password, once and within a day: for a new person, or one who forgot theirs.

A lead makes the link and never knows the password. The database holds only the hash of what the link says.
"""

import hashlib
import secrets
from datetime import timedelta

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from goodbalance.store import people, sessions
from goodbalance.store.models import LinkRow, PersonRow, utc_now

GOOD_FOR = timedelta(hours=24)


def make(session: Session, person: PersonRow) -> str:
    """A new link of this person's, instead of any they had; what it says."""
    token = secrets.token_urlsafe(32)
    session.execute(delete(LinkRow).where((LinkRow.person_id == person.id) | (LinkRow.until < utc_now())))
    session.add(LinkRow(id=_id(token), person_id=person.id, until=utc_now() + GOOD_FOR))
    session.flush()
    return token


def person_of(session: Session, token: str) -> PersonRow | None:
    """Whose link it is; None where it was used, is too old, or never was."""
    query = select(PersonRow).join(LinkRow, LinkRow.person_id == PersonRow.id)
    return session.scalar(query.where(LinkRow.id == _id(token), LinkRow.until > utc_now(), PersonRow.retired_at.is_(None)))


def use(session: Session, token: str, password: str) -> PersonRow | None:
    """Set the password; the link is spent and every session of that person ends. None where the link is good no more.

    Raises OutOfRange for a password that is no good; the link stays.
    """
    person = person_of(session, token)
    if person is None:
        return None
    people.set_password(person, password)
    if session.execute(delete(LinkRow).where(LinkRow.id == _id(token))).rowcount != 1:
        session.rollback()  # another browser was quicker with the same link
        return None
    sessions.end_others(session, person.id)
    return person


def _id(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
