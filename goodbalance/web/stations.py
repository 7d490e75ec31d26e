"""The list of stations, new ones, files taken in, and a station's record."""

from typing import Annotated, Any

import structlog
from fastapi import APIRouter, Depends, File, Form, HTTPException, Request, Response, UploadFile
from fastapi.responses import JSONResponse, RedirectResponse
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from sqlalchemy.orm import Session

from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.errors import BrokenFile
from goodbalance.core.stations.registry import KINDS
from goodbalance.exchange.station_file import read_station
from goodbalance.store import records, summaries
from goodbalance.store.deeds import Deed
from goodbalance.store.models import StationRow
from goodbalance.store.summaries import Summary
from goodbalance.web import computing
from goodbalance.web.door import not_them
from goodbalance.web.guards import LeadDep, PersonDep, SessionDep, WriterDep, not_forged, noted
from goodbalance.web.loading import WorkDep, load_work
from goodbalance.web.progress import progress, progress_words
from goodbalance.web.rendering import VIEWS, page, units_of

log = structlog.get_logger("goodbalance")
router = APIRouter()
Text = Annotated[str, Form()]
LOG_PAGE = 100
READ_WITHIN_S = 60.0  # a file of the largest size


def _list(
    request: Request, session: SessionDep, more: dict[str, Any], status: int = 200, page_number: int = 1, search: str = "", archived: bool = False
) -> Response:
    """The list of stations. What is new of a station is worked out here; what fails stays with its own card."""
    listed, count = summaries.page_of(session, page_number, search, archived)
    fresh = [item if item.progress is not None else _worked_out(request, session, item.station) for item in listed]
    pages = max(1, -(-count // summaries.PAGE))
    view = {
        "listed": fresh, "count": count, "kinds": KINDS.values(), "labels": {kind.id: kind.label for kind in KINDS.values()},
        "typed": {}, "search": search, "archived": archived, "page_number": page_number, "pages": pages,
        "tombstones": summaries.tombstones(session) if archived else [],
    }  # fmt: skip
    return page(request, "stations.html", {**view, **more}, status)


def _worked_out(request: Request, session: Session, row: StationRow) -> Summary:
    """How far a station is, kept for the next time. An error nobody foresaw is this station's alone."""
    try:
        work = load_work(session, row.id, units_of(request))
        return summaries.put(session, row, work.history.last.by if work.history.last else "", progress_words(work))
    except (DBAPIError, PoolTimeout):
        raise  # that is the database's trouble
    except Exception as error:
        log.error("summary", station=row.id, exc_info=error)
        return Summary(row, "", {view: ("stop", "cannot be read") for view, _ in VIEWS})


@router.get("/", name="stations")
def list_stations(
    request: Request, session: SessionDep, person: PersonDep, q: str = "", page: int = 1, archived: bool = False
) -> Response:
    return _list(request, session, {}, 200, min(max(page, 1), 100_000), q[:80], archived)


@router.post("/stations/{station_id}/archive", name="archive_station", dependencies=[Depends(not_forged)])
def archive_station(
    request: Request, session: SessionDep, person: WriterDep, station_id: int, back: Text = ""
) -> Response:
    """Put a station away, or back into the list. Needs nothing of its record: it may be the one that cannot be read."""
    row = _row(session, station_id)
    summaries.archive(row, None if back else person.name)
    noted(request, session, Deed.STATION_BROUGHT_BACK if back else Deed.STATION_PUT_AWAY, row.name)
    session.commit()
    return RedirectResponse(str(request.url_for("stations")) + ("" if back else "?archived=1"), status_code=303)


@router.post("/stations/{station_id}/remove", name="remove_station", dependencies=[Depends(not_forged)])
def remove_station(
    request: Request, session: SessionDep, person: LeadDep, station_id: int, name: Text = "", password: Text = ""
) -> Response:
    """Remove a station's record for good; a tombstone stays. Only a lead, with its name and the password typed."""
    row = _row(session, station_id)
    if row.archived_at is None:
        raise HTTPException(409, f"{row.name} is in the list. Archive it first, and keep its file.")
    if name.strip() != row.name:
        raise HTTPException(422, f"name is {name[:80]!r}; accepted: {row.name}, as the station is called.")
    if problem := not_them(request, session, person, password):
        raise HTTPException(422, problem)
    summaries.remove(session, row, person.name)
    noted(request, session, Deed.STATION_REMOVED, row.name)
    session.commit()
    return RedirectResponse(str(request.url_for("stations")) + "?archived=1", status_code=303)


def _row(session: Session, station_id: int) -> StationRow:
    row = records.station(session, station_id)
    if row is None or row.removed_at is not None:
        raise HTTPException(404, f"There is no station number {station_id}. The stations are listed on the first page.")
    return row


@router.post("/stations", name="new_station", dependencies=[Depends(not_forged)])
def new_station(
    request: Request, session: SessionDep, person: WriterDep, name: Text, kind: Text, place: Text = "", save_key: Text = ""
) -> Response:
    name, place = " ".join(name.split()), " ".join(place.split())
    problem = ""
    if not 1 <= len(name) <= 80:
        problem = f"Name is {len(name)} letters long; accepted: 1 to 80."
    elif len(place) > 120:
        problem = f"Place is {len(place)} letters long; accepted: up to 120."
    elif kind not in KINDS:
        problem = f"Kind is {kind[:40]!r}; accepted: {', '.join(KINDS)}."
    if problem:
        typed = {"name": name, "place": place, "kind": kind}
        return _list(request, session, {"problem": problem, "typed": typed}, 422)
    row = records.create_station(session, name, place, kind, person.name, save_key or None)
    session.commit()
    return RedirectResponse(request.url_for("show_survey", station_id=row.id), status_code=303)


@router.post("/stations/import", name="import_station", dependencies=[Depends(not_forged)])
def import_station(
    request: Request, session: SessionDep, person: WriterDep, file: Annotated[UploadFile, File()]
) -> Response:
    name = (file.filename or "the file")[:80]
    try:
        entries = computing.answer(read_station, file.file.read(), within_s=READ_WITHIN_S)
        row, added = records.take_in(session, entries, person.name)
    except BrokenFile as wrong:
        session.rollback()
        noted(request, session, Deed.FILE_REFUSED, f"{name}: {wrong}")
        session.commit()
        return _list(request, session, {"import_problem": f"{name}: {wrong}. Nothing was stored."}, 422)
    noted(request, session, Deed.STATION_TAKEN_IN, f"{row.name}, {added} entries from {name}")
    session.commit()
    return RedirectResponse(f"{request.url_for('show_log', station_id=row.id)}?added={added}", status_code=303)


@router.get("/stations/{station_id}", name="show_station")
def show_station(request: Request, work: WorkDep) -> Response:
    """To the first view that still has work."""
    far = progress(work)
    following = next((view for view, _ in VIEWS if far[view].shape not in ("ok", "caution")), "handover")
    return RedirectResponse(request.url_for(f"show_{following}", station_id=work.row.id), status_code=303)


@router.get("/stations/{station_id}/log", name="show_log")
def show_log(request: Request, session: SessionDep, work: WorkDep, added: int | None = None, page_number: int = 1) -> Response:
    """The record, the last entries first, a page at a time."""
    pages = max(1, -(-work.history.seq // LOG_PAGE))
    last = work.history.seq - LOG_PAGE * (min(max(page_number, 1), pages) - 1)
    entries = records.entries(session, work.row.id, last, max(0, last - LOG_PAGE))
    known = {setting.id: setting.quantity for setting in work.plan.settings} if work.plan is not None else {}
    more = {"entries": entries[::-1], "page_number": min(max(page_number, 1), pages), "pages": pages, "added": added, "quantity_of": lambda setting: known.get(setting, Quantity.LEVEL)}
    return page(request, "log.html", {"work": work, "view": "log", **more})


@router.get("/stations/{station_id}/since", name="since")
def since(request: Request, session: SessionDep, work: WorkDep, person: PersonDep, seq: int) -> JSONResponse:
    """Who else has written since an entry, so that a page can say so."""
    if not 0 <= seq <= work.history.seq:
        raise HTTPException(422, f"seq is {seq}; accepted: 0 to {work.history.seq}")
    if seq == work.history.seq:
        return JSONResponse({"seq": seq, "others": []})
    newer = records.entries(session, work.row.id, after=seq)
    others = sorted({entry.author for entry in newer if entry.author != person.name})
    return JSONResponse({"seq": work.history.seq, "others": others})
