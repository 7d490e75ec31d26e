"""People who can sign in, and their passwords (argon2)."""

import os
import threading
from enum import StrEnum

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session
from zxcvbn import zxcvbn

from goodbalance.core.errors import OutOfRange
from goodbalance.store.models import PersonRow, utc_now

SHORTEST_PASSWORD, LONGEST_PASSWORD = 12, 200
LEAST_SCORE = 3  # of 4: not to be guessed within a hundred million tries
NO_PASSWORD = "none yet"  # no hash at all: nothing that is typed fits it
FIRST_ID = 1  # of whoever is made first: the table's key lets only one of many at once have it
_AT_ONCE = threading.Semaphore(2)  # a hash at full strength takes 64 MB: a crowd at the door must not take them all


class Role(StrEnum):
    LEAD = "lead"  # may add people
    TECHNICIAN = "technician"  # may write
    READER = "reader"  # may look


def _hasher() -> PasswordHasher:
    if os.environ.get("GOODBALANCE_FAST_HASH") == "1":  # tests only: a hash costs 0.3 s at full strength
        return PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)
    return PasswordHasher()


def people(session: Session) -> list[PersonRow]:
    return list(session.scalars(select(PersonRow).order_by(PersonRow.name)))


def nobody_yet(session: Session) -> bool:
    """Whether the first person is still to be made."""
    return session.scalar(select(func.count()).select_from(PersonRow)) == 0


def person(session: Session, person_id: int) -> PersonRow | None:
    return session.get(PersonRow, person_id)


def named(session: Session, name: str) -> PersonRow | None:
    return session.scalar(select(PersonRow).where(PersonRow.name == " ".join(name.split())))


def add_person(
    session: Session, name: str, role: Role, password: str | None, units: str = "metric", person_id: int | None = None
) -> PersonRow:
    """A new person; without a password they cannot sign in until they set one. Raises OutOfRange for an empty or taken
    name or a password that is no good."""
    name = " ".join(name.split())
    if not 1 <= len(name) <= 80:
        raise OutOfRange("name", name[:80], "1 to 80 letters")
    if password is not None:
        check_password(password, name)
    if named(session, name) is not None:
        raise OutOfRange("name", name, "a name nobody here has yet")
    hashed = NO_PASSWORD if password is None else _hash(password)
    row = PersonRow(id=person_id, name=name, role=role.value, password_hash=hashed, units=units)
    session.add(row)
    session.flush()
    return row


def check_password(password: str, name: str) -> None:
    """Raises OutOfRange for a password that is too short, or that the lists of common ones and patterns guess soon."""
    if not SHORTEST_PASSWORD <= len(password) <= LONGEST_PASSWORD:
        accepted = f"{SHORTEST_PASSWORD} to {LONGEST_PASSWORD} letters"
        raise OutOfRange("password", f"{len(password)} letters long", accepted)
    score, why = strength(password, name)
    if score < LEAST_SCORE:
        raise OutOfRange("password", f"too easy ({why})", "for example four words that do not belong together")


def strength(password: str, name: str) -> tuple[int, str]:
    """How hard a password is to guess, 0 to 4, and why not harder; common ones and what follows from the name are easy."""
    if not password:
        return 0, ""
    guessed = zxcvbn(password[:72], user_inputs=[*name.split(), "good", "balance"])
    return guessed["score"], guessed["feedback"]["warning"].rstrip(".") or "it is soon guessed"


def change_role(session: Session, person: PersonRow, role: Role) -> None:
    """Another role. Raises OutOfRange where no lead would be left."""
    if role is not Role.LEAD:
        _leads_left(session, person)
    person.role = role.value
    person.writes_devices = person.writes_devices and role is not Role.READER


def retire(session: Session, person: PersonRow, back: bool = False) -> None:
    """No longer here, or back again. Raises OutOfRange where no lead would be left."""
    if not back:
        _leads_left(session, person)
    person.retired_at = None if back else utc_now()


def _leads_left(session: Session, person: PersonRow) -> None:
    """That somebody else can still add people. All leads are locked meanwhile: two must not take each other's place."""
    query = select(PersonRow).where(PersonRow.role == Role.LEAD.value, PersonRow.retired_at.is_(None)).with_for_update()
    if all(lead.id == person.id for lead in session.scalars(query.execution_options(populate_existing=True))):
        raise OutOfRange("person", person.name, "somebody else while there is no other lead")


def change_password(session: Session, person: PersonRow, old: str, new: str) -> None:
    """A new password. Raises OutOfRange if the old one is wrong or the new one is no good."""
    if signed_in(session, person.name, old) is None:
        raise OutOfRange("old password", "not yours", "the one you signed in with")
    set_password(person, new)


def set_password(person: PersonRow, new: str) -> None:
    """A password for somebody who has shown who they are. Raises OutOfRange if it is no good."""
    check_password(new, person.name)
    person.password_hash = _hash(new)


def add_first_person(session: Session, name: str, password: str) -> PersonRow | None:
    """The lead who comes first; None if somebody else has just been made. Raises OutOfRange as `add_person`."""
    if not nobody_yet(session):
        return None
    try:
        return add_person(session, name, Role.LEAD, password, person_id=FIRST_ID)
    except IntegrityError:
        session.rollback()
        return None


def _hash(password: str) -> str:
    with _AT_ONCE:
        return _hasher().hash(password)


def signed_in(session: Session, name: str, password: str) -> PersonRow | None:
    """The person of that name if the password is theirs. Takes as long for an unknown name as for a wrong password."""
    row = named(session, name)
    if row is None or row.retired_at is not None or row.password_hash == NO_PASSWORD:
        _hash(password)
        return None
    try:
        with _AT_ONCE:
            _hasher().verify(row.password_hash, password)
    except (VerificationError, InvalidHashError):
        return None
    return row
