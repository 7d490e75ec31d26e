"""Who did what that stands in no record: came in or was refused, changed a person, took a file in or out.

Kept in the database for leads to read, and said in the log under the number of the request.
"""

from enum import StrEnum

import structlog
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from goodbalance.store.models import DeedRow

log = structlog.get_logger("goodbalance")
PAGE = 100


class Deed(StrEnum):
    """What is told; the words are the ones a lead reads."""

    SIGNED_IN = "signed in"
    SIGN_IN_REFUSED = "wrong password"
    CODE_REFUSED = "wrong code"
    SIGNED_OUT = "signed out"
    PASSWORD_CHANGED = "password changed"
    SESSIONS_ENDED = "signed out elsewhere"
    LINK_MADE = "link for a password made"
    LINK_USED = "password set by a link"
    SECOND_FACTOR_ON = "second factor on"
    SECOND_FACTOR_OFF = "second factor off"
    PERSON_ADDED = "person added"
    ROLE_CHANGED = "role changed"
    PERSON_LEFT = "no longer here"
    PERSON_BACK = "back again"
    REFUSED = "refused"
    RECORD_SIGNED = "record signed"
    STATION_TAKEN_IN = "station taken in"
    FILE_REFUSED = "file refused"
    STATION_TAKEN_OUT = "station taken out"
    SETTINGS_TAKEN_OUT = "settings taken out"
    MAY_WRITE_DEVICES = "may write to devices"
    NO_DEVICES = "may no longer write to devices"
    DEVICE_WRITTEN = "device written"
    ALL_TAKEN_OUT = "every station taken out"
    COPY_MADE = "copy of the database made"
    RECORD_SHARED = "link to a record made"
    SHARE_REVOKED = "link to a record revoked"
    STATION_PUT_AWAY = "station put away"
    STATION_BROUGHT_BACK = "station brought back"
    STATION_REMOVED = "station removed"


def note(session: Session, what: Deed, who: str, about: str = "", address: str = "", request: str = "") -> None:
    """Keep what was done, once the caller commits, and say it in the log now."""
    row = DeedRow(what=what.value, who=who[:80], about=about[:200], address=address[:64], request=request[:16])
    session.add(row)
    log.info("deed", what=row.what, who=row.who, about=row.about, address=row.address)


def page_of(session: Session, page: int = 1, who: str = "") -> tuple[list[DeedRow], int]:
    """A page of what was done, the last first, and how many there are; of one person, or of everybody."""
    found = [DeedRow.who == who] if who else []
    count = session.scalar(select(func.count()).select_from(DeedRow).where(*found)) or 0
    query = select(DeedRow).where(*found).order_by(DeedRow.id.desc()).limit(PAGE).offset(PAGE * (page - 1))
    return list(session.scalars(query)), count
