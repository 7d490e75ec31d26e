"""Stations and their records: create, append, read back, take in. Nothing here commits; the caller does, once."""

import json
import uuid
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from goodbalance.core.errors import BrokenFile
from goodbalance.core.record.bodies import checked_body
from goodbalance.core.record.chain import FIRST_HASH, Entry, Kind, seal
from goodbalance.core.record.history import History, history_of
from goodbalance.store.models import EntryRow, StationRow, utc_now


@dataclass(frozen=True, slots=True)
class Appended:
    """What an append did: the entry, and whether it had been saved before under the same key."""

    entry: Entry
    repeated: bool


def stations(session: Session) -> list[StationRow]:
    """All stations, the ones changed last first."""
    return list(session.scalars(select(StationRow).order_by(StationRow.changed_at.desc(), StationRow.id)))


def station(session: Session, station_id: int) -> StationRow | None:
    return session.get(StationRow, station_id)


def create_station(session: Session, name: str, place: str, kind: str, author: str) -> StationRow:
    """A new station whose record starts with who made it."""
    uid = uuid.uuid4().hex
    row = _new_row(uid, name, place, kind)
    session.add(row)
    session.flush()
    append(session, row.id, Kind.CREATED, {"uid": uid, "name": name, "place": place, "kind": kind}, author)
    return row


def _new_row(uid: str, name: str, place: str, kind: str) -> StationRow:
    return StationRow(uid=uid, name=name, place=place, kind=kind, head_seq=0, head_hash=FIRST_HASH)


def append(
    session: Session, station_id: int, kind: Kind, body: dict[str, Any], author: str, save_key: str | None = None
) -> Appended:
    """Add an entry at the end of a record. A save_key seen before adds nothing and gives back what was saved then.

    Raises pydantic.ValidationError for a body of the wrong shape and LookupError for an unknown station.
    """
    body = checked_body(kind, body)
    row = session.scalar(select(StationRow).where(StationRow.id == station_id).with_for_update())
    if row is None:
        raise LookupError(f"no station {station_id}")
    if save_key is not None:
        before = session.scalar(select(EntryRow).where(EntryRow.save_key == save_key))
        if before is not None:
            return Appended(_entry(before), True)
    now = utc_now()
    entry = seal(row.head_seq + 1, kind, body, author, now.isoformat(timespec="milliseconds") + "Z", row.head_hash)
    session.add(_row(station_id, entry, save_key))
    row.head_seq, row.head_hash, row.changed_at = entry.seq, entry.hash, now
    session.flush()
    return Appended(entry, False)


def entries(session: Session, station_id: int, upto: int | None = None) -> list[Entry]:
    """The record in order, whole or up to an entry."""
    query = select(EntryRow).where(EntryRow.station_id == station_id).order_by(EntryRow.seq)
    if upto is not None:
        query = query.where(EntryRow.seq <= upto)
    return [_entry(row) for row in session.scalars(query)]


def history(session: Session, station_id: int, upto: int | None = None) -> History:
    """What the record adds up to, whole or up to an entry."""
    return history_of(entries(session, station_id, upto))


def take_in(session: Session, incoming: list[Entry]) -> tuple[StationRow, int]:
    """Store a checked record from a file: a new station, or the entries that follow on the one already here.

    Returns the station and how many entries were added. Raises BrokenFile when the record here has gone another way.
    """
    first = incoming[0].body
    row = session.scalar(select(StationRow).where(StationRow.uid == first["uid"]).with_for_update())
    if row is None:
        row = _new_row(first["uid"], first["name"], first["place"], first["kind"])
        session.add(row)
        session.flush()
    elif row.head_seq > len(incoming) or (row.head_seq and incoming[row.head_seq - 1].hash != row.head_hash):
        here = f"entry {row.head_seq} here"
        raise BrokenFile(
            f"this station is already here and its record differs from the file ({here}); nothing was taken"
        )
    added = incoming[row.head_seq :]
    session.add_all(_row(row.id, entry, None) for entry in added)
    if added:
        row.head_seq, row.head_hash, row.changed_at = added[-1].seq, added[-1].hash, utc_now()
    session.flush()
    return row, len(added)


def _entry(row: EntryRow) -> Entry:
    return Entry(row.seq, Kind(row.kind), json.loads(row.body), row.author, row.at, row.previous, row.hash)


def _row(station_id: int, entry: Entry, save_key: str | None) -> EntryRow:
    return EntryRow(
        station_id=station_id,
        seq=entry.seq,
        kind=entry.kind.value,
        body=json.dumps(entry.body, sort_keys=True, ensure_ascii=False),
        author=entry.author,
        at=entry.at,
        previous=entry.previous,
        hash=entry.hash,
        save_key=save_key,
    )
