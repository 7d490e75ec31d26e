"""A station read from the database, each record once: what is written later is read on from there."""

from typing import Annotated

from fastapi import Depends, HTTPException, Request
from sqlalchemy.orm import Session

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.record.history import History
from goodbalance.core.stations.registry import KINDS
from goodbalance.store import records, summaries
from goodbalance.store.models import StationRow
from goodbalance.store.verify import UNSEALED
from goodbalance.web.guards import PersonDep, SessionDep
from goodbalance.web.memory import Memory
from goodbalance.web.needs import needs_of
from goodbalance.web.progress import progress_words
from goodbalance.web.rendering import units_of
from goodbalance.web.work import Work

_histories: Memory[tuple[int, int, str], History] = Memory(256)
_latest: Memory[int, records.Known] = Memory(256)


def load_work(session: Session, station_id: int, units: UnitSystem, upto: int | None = None, check: bool = False) -> Work:
    """The station, or 404. With upto, as it stood at that entry of its record.

    check: look whether a row of the record was changed since this process has read it, and then read it all again.
    """
    row = records.station(session, station_id)
    if row is None:
        raise HTTPException(404, f"There is no station number {station_id}. The stations are listed on the first page.")
    if row.removed_at is not None:
        raise HTTPException(404, f"{row.name} was removed by {row.removed_by} on {row.removed_at:%Y-%m-%d}.")
    seq = row.head_seq if upto is None else upto
    if not 1 <= seq <= row.head_seq:
        raise HTTPException(404, f"The record of this station has entries 1 to {row.head_seq}, not {seq}.")
    key = (row.id, seq, row.head_hash if seq == row.head_seq else row.uid)
    known = _latest.get(row.id)
    if check and known is not None and not records.is_as_known(session, row.id, known):
        _latest.take(row.id)
        _histories.take(key)
    history = _histories.once(key, lambda: _read(session, row, seq))
    if seq == row.head_seq and history.last is not None and history.last.hash != row.head_hash and not history.broken:
        history.broken = f"entry {history.last.seq} of the record is not the last one that was written"
    kind = KINDS.get(row.kind)
    if kind is None:
        raise HTTPException(404, f"This version does not know stations of kind {row.kind!r}.")
    return Work(row, history, kind, units, "" if records.is_sealed(session, row) else UNSEALED)


def _read(session: Session, row: StationRow, seq: int) -> History:
    """The record up to an entry; the whole of it is read on from where this process has read it to."""
    if seq != row.head_seq:
        return records.history(session, row.id, seq)
    known = records.read_on(session, row.id, _latest.get(row.id))
    _latest.put(row.id, known)
    return known.history


def work_of(request: Request, station_id: int, session: SessionDep, person: PersonDep) -> Work:
    """The station of the path, for the person who asks."""
    work = load_work(session, station_id, units_of(request), check=request.method in ("GET", "HEAD"))
    request.state.work = work
    return work


WorkDep = Annotated[Work, Depends(work_of)]


def after_save(request: Request, session: Session, work: Work) -> Work:
    """The station as it stands after something was saved; the list of stations learns how far it is."""
    after = load_work(session, work.row.id, units_of(request))
    summaries.put(session, after.row, after.history.last.by if after.history.last else "", progress_words(after), needs_of(after))
    return after
