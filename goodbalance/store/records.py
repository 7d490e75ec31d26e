"""Stations and their records: create, append, read back, take in.

Only `keep` commits, since it must be able to begin again; all else leaves that to its caller, who does it once.
"""

import hashlib
import json
import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy import func, insert, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from goodbalance.core.errors import BrokenFile
from goodbalance.core.record.bodies import checked_body
from goodbalance.core.record.chain import FIRST_HASH, Entry, Kind, seal
from goodbalance.core.record.history import History, history_of
from goodbalance.core.record.seals import head_holds, seal_of_head
from goodbalance.store.database import beginning_again, seal_keys_of
from goodbalance.store.models import AttachmentRow, EntryRow, StationRow, utc_now

APART = (Kind.TREND, Kind.STEP_TEST, Kind.PHOTO, Kind.FAMILY)  # what they bring is long: it stands in a table of its own


@dataclass(frozen=True, slots=True)
class Draft:
    """An entry to be written. save_key: a repeat under it counts once, for this person at this station.

    typed: what a repeat must bring again to be one, where the body holds more than was typed; default the body.
    """

    kind: Kind
    body: dict[str, Any]
    save_key: str | None = None
    typed: Any = None


@dataclass(frozen=True, slots=True)
class Appended:
    """What an append did: the entry, and whether it had been saved before under the same key."""

    entry: Entry
    repeated: bool


def stations(session: Session) -> list[StationRow]:
    """All stations, the ones changed last first."""
    return list(session.scalars(select(StationRow).order_by(StationRow.changed_at.desc(), StationRow.id)))


def alike(session: Session, station: StationRow, most: int = 100) -> list[StationRow]:
    """Other stations of the same kind that are in the list, those changed last first."""
    query = select(StationRow).where(StationRow.kind == station.kind, StationRow.id != station.id, StationRow.removed_at.is_(None), StationRow.archived_at.is_(None))
    return list(session.scalars(query.order_by(StationRow.changed_at.desc(), StationRow.id).limit(most)))


def station(session: Session, station_id: int) -> StationRow | None:
    return session.get(StationRow, station_id)


def create_station(
    session: Session, name: str, place: str, kind: str, author: str, save_key: str | None = None
) -> StationRow:
    """A new station whose record starts with who made it. The same again under one save_key is the same station."""
    uid = uuid.uuid4().hex
    if save_key is not None:
        uid = hashlib.sha256(json.dumps([author, save_key, name, place, kind]).encode()).hexdigest()[:32]
        made = session.scalar(select(StationRow).where(StationRow.uid == uid))
        if made is not None:
            return made
    row = _new_row(uid, name, place, kind)
    session.add(row)
    try:
        session.flush()
    except IntegrityError:  # the same key, at the same moment
        session.rollback()
        return session.scalars(select(StationRow).where(StationRow.uid == uid)).one()
    append(session, row.id, Kind.CREATED, {"uid": uid, "name": name, "place": place, "kind": kind}, author)
    return row


def _new_row(uid: str, name: str, place: str, kind: str) -> StationRow:
    return StationRow(uid=uid, name=name, place=place, kind=kind, head_seq=0, head_hash=FIRST_HASH)


def keep(
    session: Session,
    station_id: int,
    author: str,
    make: Sequence[Draft] | Callable[[History], Sequence[Draft]],
    known: History | None = None,
) -> list[Appended]:
    """Write entries at the end of a record and commit; after a collision with another writer, all of it anew.

    make: the entries, or what makes them from the record as it stands once it is locked (it may raise, and nothing is
    written). known: the record as the caller has it; it is read again only if somebody has written since.
    Raises as `append` does, and what the database raises when it is away.
    """
    for attempt in beginning_again(session):
        with attempt:
            row = _locked(session, station_id)
            drafts = make
            if callable(make):
                if known is not None and known.seq < row.head_seq and not known.broken:
                    known = history_of(entries(session, station_id, after=known.seq), known)
                fresh = known is not None and known.last is not None and known.last.hash == row.head_hash
                drafts = make(known if fresh and known is not None else history(session, station_id))
            done = [_append(session, row, draft, author) for draft in drafts]
            session.commit()
    return done


def append(
    session: Session, station_id: int, kind: Kind, body: dict[str, Any], author: str, save_key: str | None = None
) -> Appended:
    """Add an entry at the end of a record. A save_key seen before adds nothing and gives back what was saved then.

    Raises pydantic.ValidationError for a body of the wrong shape and LookupError for an unknown station.
    """
    return _append(session, _locked(session, station_id), Draft(kind, body, save_key), author)


def _locked(session: Session, station_id: int) -> StationRow:
    """The station, locked, as it is now and not as this session may have read it before."""
    query = select(StationRow).where(StationRow.id == station_id).with_for_update()
    row = session.scalar(query.execution_options(populate_existing=True))
    if row is None or row.removed_at is not None:
        raise LookupError(f"no station {station_id}")
    return row


def _append(session: Session, row: StationRow, draft: Draft, author: str) -> Appended:
    body = checked_body(draft.kind, draft.body)
    before = kept(session, row.id, author, draft)
    if before is not None:
        return Appended(before, True)
    key = None if draft.save_key is None else _own_key(row.id, author, draft)
    now = utc_now()
    entry = seal(
        row.head_seq + 1, draft.kind, body, author, now.isoformat(timespec="milliseconds") + "Z", row.head_hash
    )
    _put_apart(session, row.id, [entry])
    session.add(EntryRow(**_columns(row.id, entry, key)))
    row.head_seq, row.head_hash, row.changed_at = entry.seq, entry.hash, now
    seal_head(session, row)
    session.flush()
    return Appended(entry, False)


def seal_head(session: Session, row: StationRow) -> None:
    """Seal a head with this installation's newest key, where it has one."""
    keys = seal_keys_of(session)
    row.head_seal = seal_of_head(keys[0], row.uid, row.head_seq, row.head_hash) if keys else None


def is_sealed(session: Session, row: StationRow) -> bool:
    """Whether a head bears a seal of this installation."""
    return head_holds(seal_keys_of(session), row.head_seal, row.uid, row.head_seq, row.head_hash)


def kept(session: Session, station_id: int, author: str, draft: Draft) -> Entry | None:
    """The entry that this very save has made before; None if it is new."""
    if draft.save_key is None:
        return None
    key = _own_key(station_id, author, draft)
    row = session.scalar(select(EntryRow).where(EntryRow.save_key == key))
    return None if row is None else _entry(row, _texts(session, station_id, [row]))


def _own_key(station_id: int, author: str, draft: Draft) -> str:
    """A save key as it is stored: of this station, this person and what was typed, so that no other save can have it."""
    typed = draft.body if draft.typed is None else draft.typed
    parts = [station_id, author, draft.save_key, draft.kind.value, typed]
    return hashlib.sha256(json.dumps(parts, sort_keys=True, default=str).encode()).hexdigest()


def entries(session: Session, station_id: int, upto: int | None = None, after: int = 0) -> list[Entry]:
    """The record in order, whole, or what follows one entry, up to another."""
    query = select(EntryRow).where(EntryRow.station_id == station_id, EntryRow.seq > after).order_by(EntryRow.seq)
    if upto is not None:
        query = query.where(EntryRow.seq <= upto)
    rows = list(session.scalars(query))
    texts = _texts(session, station_id, rows)
    return [_entry(row, texts) for row in rows]


@dataclass(frozen=True, slots=True)
class Filter:
    """Which entries of a record are looked for: of a kind, by a person, on a day (2026-11-28, UTC)."""

    kind: str = ""
    author: str = ""
    day: str = ""


def found_entries(session: Session, station_id: int, only: Filter, most: int, skip: int = 0) -> tuple[list[Entry], int]:
    """The entries that are looked for, the last one first, so many of them; and how many there are."""
    wanted = [EntryRow.station_id == station_id]
    if only.kind:
        wanted.append(EntryRow.kind == only.kind)
    if only.author:
        wanted.append(EntryRow.author == only.author)
    if only.day:
        wanted.append(EntryRow.at.startswith(only.day, autoescape=True))
    count = session.scalar(select(func.count()).select_from(EntryRow).where(*wanted)) or 0
    rows = list(session.scalars(select(EntryRow).where(*wanted).order_by(EntryRow.seq.desc()).limit(most).offset(skip)))
    texts = _texts(session, station_id, rows)
    return [_entry(row, texts) for row in rows], count


def authors(session: Session, station_id: int) -> list[str]:
    """Everybody who wrote in a record, by name."""
    return list(session.scalars(select(EntryRow.author).where(EntryRow.station_id == station_id).distinct().order_by(EntryRow.author)))


def history(session: Session, station_id: int, upto: int | None = None) -> History:
    """What the record adds up to, whole or up to an entry."""
    return history_of(entries(session, station_id, upto))


@dataclass(frozen=True, slots=True)
class Known:
    """A record as far as it was read, and a sum over its rows by which a later change of one of them shows."""

    history: History
    rows_sum: int


def read_on(session: Session, station_id: int, known: Known | None = None) -> Known:
    """The whole record: only what is new of it is read where it is known already and has held."""
    if known is None or known.history.last is None or known.history.broken:
        read = history(session, station_id)
        return Known(read, _sum(session, station_id, 0, read.seq))
    seq = known.history.seq
    read = history_of(entries(session, station_id, after=seq), known.history)
    return Known(read, known.rows_sum + _sum(session, station_id, seq, read.seq))


def is_as_known(session: Session, station_id: int, known: Known) -> bool:
    """Whether no row of what is known of a record was changed since it was read."""
    return _sum(session, station_id, 0, known.history.seq) == known.rows_sum


def _sum(session: Session, station_id: int, after: int, upto: int) -> int:
    """A sum over all that the rows after one entry and up to another hold, made in the database: sooner than reading them."""
    parts = (EntryRow.seq, EntryRow.kind, EntryRow.body, EntryRow.author, EntryRow.at, EntryRow.previous, EntryRow.hash)
    row = func.crc32(func.concat_ws("\n", *parts, func.coalesce(EntryRow.brought_by, "")))
    query = select(func.sum(row)).where(EntryRow.station_id == station_id, EntryRow.seq > after, EntryRow.seq <= upto)
    return int(session.scalar(query) or 0)


def take_in(session: Session, incoming: list[Entry], brought_by: str) -> tuple[StationRow, int]:
    """Store a checked record from a file: a new station, or the entries that follow on the one already here.

    A file cannot speak for people here: what it adds says who brought it. Returns the station and how many entries were
    added. Raises BrokenFile when the record here has gone another way, or was removed.
    """
    first = incoming[0].body
    row = session.scalar(select(StationRow).where(StationRow.uid == first["uid"]).with_for_update())
    if row is None:
        row = _new_row(first["uid"], first["name"], first["place"], first["kind"])
        session.add(row)
        session.flush()
    elif row.removed_at is not None:
        day = f"{row.removed_at:%Y-%m-%d}"
        raise BrokenFile(f"this station was removed here by {row.removed_by} on {day}; nothing was taken")
    elif row.head_seq > len(incoming) or (row.head_seq and incoming[row.head_seq - 1].hash != row.head_hash):
        here = f"entry {row.head_seq} here"
        raise BrokenFile(
            f"this station is already here and its record differs from the file ({here}); nothing was taken"
        )
    added = incoming[row.head_seq :]
    if added:
        _put_apart(session, row.id, added)
        session.execute(insert(EntryRow), [_columns(row.id, replace(entry, brought_by=brought_by), None) for entry in added])
        row.head_seq, row.head_hash, row.changed_at = added[-1].seq, added[-1].hash, utc_now()
        seal_head(session, row)
    session.flush()
    return row, len(added)


def _texts(session: Session, station_id: int, rows: list[EntryRow]) -> dict[str, str]:
    """The long texts of these entries, by their digests."""
    bodies = [json.loads(row.body) for row in rows if Kind(row.kind) in APART]
    digests = {body["text"]["apart"] for body in bodies if isinstance(body["text"], dict)}
    if not digests:
        return {}
    query = select(AttachmentRow).where(AttachmentRow.station_id == station_id, AttachmentRow.digest.in_(digests))
    return {row.digest: row.text for row in session.scalars(query)}


def _put_apart(session: Session, station_id: int, added: list[Entry]) -> None:
    """Keep the long texts of entries that are about to be written; the same text twice is one."""
    texts = {_digest(entry.body["text"]): entry.body["text"] for entry in added if entry.kind in APART}
    if texts:
        rows = [{"station_id": station_id, "digest": digest, "text": text} for digest, text in texts.items()]
        session.execute(insert(AttachmentRow).prefix_with("IGNORE"), rows)


def _digest(text: str) -> str:
    return hashlib.sha256(text.encode()).hexdigest()


def _entry(row: EntryRow, texts: dict[str, str]) -> Entry:
    body = json.loads(row.body)
    if Kind(row.kind) in APART and isinstance(body["text"], dict):
        body["text"] = texts.get(body["text"]["apart"], "")  # where it is gone the entry's hash tells
    return Entry(row.seq, Kind(row.kind), body, row.author, row.at, row.previous, row.hash, row.brought_by or "")


def _columns(station_id: int, entry: Entry, save_key: str | None) -> dict[str, Any]:
    """An entry as its row holds it: a long text only by its digest."""
    body = {**entry.body, "text": {"apart": _digest(entry.body["text"])}} if entry.kind in APART else entry.body
    return {
        "station_id": station_id, "seq": entry.seq, "kind": entry.kind.value,
        "body": json.dumps(body, sort_keys=True, ensure_ascii=False), "author": entry.author, "at": entry.at,
        "previous": entry.previous, "hash": entry.hash, "brought_by": entry.brought_by or None, "save_key": save_key,
    }  # fmt: skip
