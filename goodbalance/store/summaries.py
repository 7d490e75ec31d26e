"""The list of stations: a page of summaries in one query, found by name or place, and stations put away or removed."""

import json
from dataclasses import dataclass

from sqlalchemy import ColumnElement, delete, func, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from goodbalance.store.database import COLLISIONS, ROW_GONE, number_of
from goodbalance.store.models import AttachmentRow, EntryRow, StationRow, SummaryRow, utc_now

PAGE = 50


@dataclass(frozen=True, slots=True)
class Summary:
    """What the list says of a station. progress: view to shape and word; None where it is to be worked out again."""

    station: StationRow
    author: str = ""
    progress: dict[str, tuple[str, str]] | None = None


def page_of(session: Session, page: int = 1, search: str = "", archived: bool = False) -> tuple[list[Summary], int]:
    """One page of the list, the stations changed last first, and how many there are in all."""
    found = _found(search, archived)
    count = session.scalar(select(func.count()).select_from(StationRow).where(*found)) or 0
    order = (StationRow.changed_at.desc(), StationRow.id)
    here = select(StationRow.id).where(*found).order_by(*order).limit(PAGE).offset(PAGE * (page - 1)).subquery()
    query = (
        select(StationRow, SummaryRow)  # whole rows for one page only, however far down the list it is
        .join(here, here.c.id == StationRow.id)
        .outerjoin(SummaryRow, SummaryRow.station_id == StationRow.id)
        .order_by(*order)
    )
    return [_summary(station, row) for station, row in session.execute(query)], count


def _found(search: str, archived: bool) -> list[ColumnElement[bool]]:
    found = [StationRow.removed_at.is_(None), StationRow.archived_at.is_not(None) if archived else StationRow.archived_at.is_(None)]
    for word in search.split()[:8]:
        either = StationRow.name.icontains(word, autoescape=True) | StationRow.place.icontains(word, autoescape=True)
        found.append(either)
    return found


def _summary(station: StationRow, row: SummaryRow | None) -> Summary:
    if row is None or row.head_hash != station.head_hash:
        return Summary(station)
    return Summary(station, row.author, json.loads(row.progress))


def put(session: Session, station: StationRow, author: str, progress: dict[str, tuple[str, str]]) -> Summary:
    """Keep what was worked out for the station as it stands, and commit. Who is not quick enough leaves it to the next;
    of a station that somebody removed meanwhile nothing is kept."""
    told = {"head_hash": station.head_hash, "author": author[:80], "progress": json.dumps(progress)}
    station_id = station.id
    session.commit()  # what was read until now holds no lock while this is written
    try:
        session.execute(insert(SummaryRow).values(station_id=station_id, **told).on_duplicate_key_update(**told))
        session.commit()
    except DBAPIError as wrong:
        if number_of(wrong) not in (*COLLISIONS, ROW_GONE):
            raise
        session.rollback()
    return Summary(station, author, progress)


def archive(station: StationRow, by: str | None) -> None:
    """Put a station away, or (by nobody) back into the list."""
    station.archived_at, station.archived_by = (None, None) if by is None else (utc_now(), by)


def remove(session: Session, station: StationRow, by: str) -> None:
    """Take a station's record out for good. A tombstone stays: what it was called, its last hash, who removed it and when."""
    session.execute(delete(EntryRow).where(EntryRow.station_id == station.id))
    session.execute(delete(SummaryRow).where(SummaryRow.station_id == station.id))
    session.execute(delete(AttachmentRow).where(AttachmentRow.station_id == station.id))
    station.removed_at, station.removed_by = utc_now(), by


def tombstones(session: Session) -> list[StationRow]:
    """The stations that were removed, the last one first; a hundred at most."""
    query = select(StationRow).where(StationRow.removed_at.is_not(None)).order_by(StationRow.removed_at.desc())
    return list(session.scalars(query.limit(100)))
