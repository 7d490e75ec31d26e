"""The list of stations, new ones, files taken in, and a station's record."""

import re
from typing import Annotated, Any

import structlog
from fastapi import APIRouter, Depends, File, Form, HTTPException, Request, Response, UploadFile
from fastapi.responses import JSONResponse, RedirectResponse
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from sqlalchemy.orm import Session

from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.errors import BrokenFile
from goodbalance.core.record.chain import Kind
from goodbalance.core.stations.registry import KINDS
from goodbalance.exchange.examples import examples
from goodbalance.exchange.station_file import read_station
from goodbalance.store import records, summaries
from goodbalance.store.deeds import Deed
from goodbalance.store.models import StationRow
from goodbalance.store.records import Filter
from goodbalance.store.summaries import Need, Order, Summary, Wanted
from goodbalance.web import computing, record_words
from goodbalance.web.door import not_them
from goodbalance.web.guards import LeadDep, PersonDep, SessionDep, WriterDep, not_forged, noted
from goodbalance.web.loading import WorkDep, load_work
from goodbalance.web.needs import PRESSING, needs_of
from goodbalance.web.progress import progress, progress_words
from goodbalance.web.rendering import VIEWS, page, units_of

_DAY = re.compile(r"^[0-9]{4}-[0-9]{2}-[0-9]{2}$")
log = structlog.get_logger("goodbalance")
router = APIRouter()
Text = Annotated[str, Form()]
LOG_PAGE = 100
EVERY = Wanted()
ORDERS = {Order.NEEDS: "what needs somebody", Order.CHANGED: "changed last", Order.SITE: "by site", Order.NAME: "by name"}
READ_WITHIN_S = 60.0  # a file of the largest size


def _list(request: Request, session: SessionDep, more: dict[str, Any], status: int = 200, page_number: int = 1, wanted: Wanted = EVERY) -> Response:
    """The list of stations. What is new of a station is worked out here; what fails stays with its own card."""
    listed, count = summaries.page_of(session, page_number, wanted)
    fresh = [item if item.progress is not None else _worked_out(request, session, item.station) for item in listed]
    if wanted.order is Order.NEEDS:  # what was only now worked out is put where it belongs
        fresh.sort(key=lambda item: -max((need.weight for need in item.needs), default=0))
    fresh = [item for item in fresh if any(need.weight >= wanted.pressing for need in item.needs) or not wanted.pressing]
    pages = max(1, -(-count // summaries.PAGE))
    view = {
        "listed": fresh, "count": count, "kinds": KINDS.values(), "labels": {kind.id: kind.label for kind in KINDS.values()},
        "typed": {}, "wanted": wanted, "archived": wanted.archived, "page_number": page_number, "pages": pages, "orders": ORDERS, "pressing": PRESSING,
        "examples": examples().values() if not count and wanted == EVERY else (), "tombstones": summaries.tombstones(session) if wanted.archived else [],
    }  # fmt: skip
    return page(request, "stations.html", {**view, **more}, status)


def _worked_out(request: Request, session: Session, row: StationRow) -> Summary:
    """How far a station is, kept for the next time. An error nobody foresaw is this station's alone."""
    try:
        work = load_work(session, row.id, units_of(request))
        return summaries.put(session, row, work.history.last.by if work.history.last else "", progress_words(work), needs_of(work))
    except (DBAPIError, PoolTimeout):
        raise  # that is the database's trouble
    except Exception as error:
        log.error("summary", station=row.id, exc_info=error)
        return Summary(row, "", {view: ("stop", "cannot be read") for view, _ in VIEWS}, (Need(1000, "It cannot be read", "log"),))


@router.get("/", name="stations")
def list_stations(
    request: Request, session: SessionDep, person: PersonDep, q: str = "", page: int = 1, archived: bool = False, order: str = "needs", kind: str = "", pressing: bool = False
) -> Response:
    """What needs somebody first, unless another order is asked for."""
    ordered = Order(order) if order in ORDERS else Order.NEEDS
    wanted = Wanted(q[:80], archived, ordered, kind if kind in KINDS else "", PRESSING if pressing else 0)
    return _list(request, session, {}, 200, min(max(page, 1), 100_000), wanted)


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


@router.post("/examples/{example_id}", name="start_example", dependencies=[Depends(not_forged)])
def start_example(request: Request, session: SessionDep, person: WriterDep, example_id: str) -> Response:
    """A station of ours to begin with: its survey is filled in, its first plan is there at once."""
    example = examples().get(example_id)
    if example is None:
        raise HTTPException(404, f"There is no example {example_id[:40]!r}; there are: {', '.join(examples())}.")
    row = records.create_station(session, example.name, example.place, example.kind, person.name)
    for what, typed in ((Kind.FACTS, example.facts), (Kind.CHOICES, example.choices)):
        if typed:
            records.append(session, row.id, what, {"changes": {path: {"text": text, "units": "metric"} for path, text in typed.items()}}, person.name)
    session.commit()
    return RedirectResponse(request.url_for("show_reckon", station_id=row.id), status_code=303)


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
def show_log(
    request: Request, session: SessionDep, work: WorkDep, added: int | None = None, page_number: int = 1, kind: str = "", by: str = "", day: str = ""
) -> Response:
    """The record in words, the last entries first, a page at a time; of one kind, person or day where that is asked."""
    problem = "" if not day or _DAY.match(day) else f"Day is {day[:40]!r}; accepted: a day as in 2026-11-28."
    only = Filter(kind if kind in record_words.KINDS else "", by[:80], day if not problem else "")
    at = min(max(page_number, 1), 100_000)
    entries, count = records.found_entries(session, work.row.id, only, LOG_PAGE, LOG_PAGE * (at - 1))
    known = {setting.id: setting.quantity for setting in work.plan.settings} if work.plan is not None else {}
    more = {
        "entries": entries, "page_number": at, "pages": max(1, -(-count // LOG_PAGE)), "added": added, "only": only, "problem": problem, "kinds": record_words.KINDS, "authors": records.authors(session, work.row.id),
        "words": record_words.Words(work), "quantity_of": lambda setting: known.get(setting, Quantity.LEVEL),
    }  # fmt: skip
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
