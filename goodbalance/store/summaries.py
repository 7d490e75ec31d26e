"""The list of stations: a page of summaries in one query, found by name or place, and stations put away or removed."""

import json
from dataclasses import astuple, dataclass
from enum import StrEnum
from typing import Any

from sqlalchemy import ColumnElement, case, delete, func, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from goodbalance.store.database import COLLISIONS, ROW_GONE, number_of
from goodbalance.store.models import AttachmentRow, EntryRow, StationRow, SummaryRow, utc_now

PAGE = 50
UNKNOWN = 1001  # the weight of what is not worked out


@dataclass(frozen=True, slots=True)
class Need:
    """Something a station needs of people. weight: how grave; view: the page where it is done."""

    weight: int
    text: str
    view: str


@dataclass(frozen=True, slots=True)
class Summary:
    """What the list says of a station. progress: view to shape and word; None where it is to be worked out again."""

    station: StationRow
    author: str = ""
    progress: dict[str, tuple[str, str]] | None = None
    needs: tuple[Need, ...] = ()


class Order(StrEnum):
    """In which order the list stands: what needs somebody first, what was changed last, or by its place."""

    NEEDS = "needs"
    CHANGED = "changed"
    SITE = "site"
    NAME = "name"


@dataclass(frozen=True, slots=True)
class Wanted:
    """Which stations a list is to show. kind: only of this kind; pressing: only those of which a need weighs so much."""

    search: str = ""
    archived: bool = False
    order: Order = Order.NEEDS
    kind: str = ""
    pressing: int = 0


def page_of(session: Session, page: int, wanted: Wanted) -> tuple[list[Summary], int]:
    """One page of the list, and how many there are in all. A station whose needs are not worked out yet counts as pressing."""
    known = SummaryRow.head_hash == StationRow.head_hash
    weight = case((known, SummaryRow.weight), else_=UNKNOWN)
    found = _found(wanted)
    if wanted.pressing:
        found.append(weight >= wanted.pressing)
    joined = select(StationRow.id).outerjoin(SummaryRow, SummaryRow.station_id == StationRow.id).where(*found)
    count = session.scalar(select(func.count()).select_from(joined.subquery())) or 0
    latest = (StationRow.changed_at.desc(), StationRow.id)
    order: tuple[Any, ...] = {Order.NEEDS: (weight.desc(), *latest), Order.CHANGED: latest, Order.SITE: (StationRow.place, StationRow.name, StationRow.id), Order.NAME: (StationRow.name, StationRow.id)}[wanted.order]
    here = joined.order_by(*order).limit(PAGE).offset(PAGE * (page - 1)).subquery()
    query = (
        select(StationRow, SummaryRow)  # whole rows for one page only, however far down the list it is
        .join(here, here.c.id == StationRow.id)
        .outerjoin(SummaryRow, SummaryRow.station_id == StationRow.id)
        .order_by(*order)
    )
    return [_summary(station, row) for station, row in session.execute(query)], count


def _found(wanted: Wanted) -> list[ColumnElement[bool]]:
    found = [StationRow.removed_at.is_(None), StationRow.archived_at.is_not(None) if wanted.archived else StationRow.archived_at.is_(None)]
    if wanted.kind:
        found.append(StationRow.kind == wanted.kind)
    for word in wanted.search.split()[:8]:
        either = StationRow.name.icontains(word, autoescape=True) | StationRow.place.icontains(word, autoescape=True)
        found.append(either)
    return found


def _summary(station: StationRow, row: SummaryRow | None) -> Summary:
    if row is None or row.head_hash != station.head_hash:
        return Summary(station)
    return Summary(station, row.author, json.loads(row.progress), tuple(Need(*each) for each in json.loads(row.needs)))


def put(session: Session, station: StationRow, author: str, progress: dict[str, tuple[str, str]], needs: tuple[Need, ...] = ()) -> Summary:
    """Keep what was worked out for the station as it stands, and commit. Who is not quick enough leaves it to the next;
    of a station that somebody removed meanwhile nothing is kept."""
    told = {
        "head_hash": station.head_hash, "author": author[:80], "progress": json.dumps(progress), "needs": json.dumps([astuple(need) for need in needs]),
        "weight": max((need.weight for need in needs), default=0),
    }  # fmt: skip
    station_id = station.id
    session.commit()  # what was read until now holds no lock while this is written
    try:
        session.execute(insert(SummaryRow).values(station_id=station_id, **told).on_duplicate_key_update(**told))
        session.commit()
    except DBAPIError as wrong:
        if number_of(wrong) not in (*COLLISIONS, ROW_GONE):
            raise
        session.rollback()
    return Summary(station, author, progress, needs)


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
