"""The list of stations, new ones, files taken in, and a station's record."""

from typing import Annotated

from fastapi import APIRouter, Depends, File, Form, HTTPException, Request, Response, UploadFile
from fastapi.responses import JSONResponse, RedirectResponse

from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.errors import BrokenFile
from goodbalance.core.stations.registry import KINDS
from goodbalance.exchange.station_file import read_station
from goodbalance.store import records
from goodbalance.web.guards import PersonDep, SessionDep, WriterDep, not_forged
from goodbalance.web.rendering import VIEWS, page, units_of
from goodbalance.web.work import WorkDep, load_work

router = APIRouter()
Text = Annotated[str, Form()]


def _list(request: Request, session: SessionDep, more: dict, status: int = 200) -> Response:
    works = [load_work(session, row.id, units_of(request)) for row in records.stations(session) if row.kind in KINDS]
    listed = [(work, work.progress()) for work in works]
    return page(request, "stations.html", {"listed": listed, "kinds": KINDS.values(), "typed": {}, **more}, status)


@router.get("/", name="stations")
def list_stations(request: Request, session: SessionDep, person: PersonDep) -> Response:
    return _list(request, session, {})


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
    try:
        entries = read_station(file.file.read())
        if entries[0].body["kind"] not in KINDS:
            raise BrokenFile(f"this version does not know stations of kind {entries[0].body['kind']!r}")
        row, added = records.take_in(session, entries)
    except BrokenFile as wrong:
        session.rollback()
        name = (file.filename or "the file")[:80]
        return _list(request, session, {"import_problem": f"{name}: {wrong}. Nothing was stored."}, 422)
    session.commit()
    return RedirectResponse(f"{request.url_for('show_log', station_id=row.id)}?added={added}", status_code=303)


@router.get("/stations/{station_id}", name="show_station")
def show_station(request: Request, work: WorkDep) -> Response:
    """To the first view that still has work."""
    progress = work.progress()
    following = next((view for view, _ in VIEWS if progress[view].shape not in ("ok", "caution")), "handover")
    return RedirectResponse(request.url_for(f"show_{following}", station_id=work.row.id), status_code=303)


@router.get("/stations/{station_id}/log", name="show_log")
def show_log(request: Request, session: SessionDep, work: WorkDep, added: int | None = None) -> Response:
    entries = records.entries(session, work.row.id)
    known = {setting.id: setting.quantity for setting in work.plan.settings} if work.plan is not None else {}
    more = {"entries": entries[::-1], "added": added, "quantity_of": lambda setting: known.get(setting, Quantity.LEVEL)}
    return page(request, "log.html", {"work": work, "view": "log", **more})


@router.get("/stations/{station_id}/since", name="since")
def since(request: Request, session: SessionDep, work: WorkDep, person: PersonDep, seq: int) -> JSONResponse:
    """Who else has written since an entry, so that a page can say so."""
    if not 0 <= seq <= work.history.seq:
        raise HTTPException(422, f"seq is {seq}; accepted: 0 to {work.history.seq}")
    if seq == work.history.seq:
        return JSONResponse({"seq": seq, "others": []})
    newer = [entry for entry in records.entries(session, work.row.id) if entry.seq > seq]
    others = sorted({entry.author for entry in newer if entry.author != person.name})
    return JSONResponse({"seq": work.history.seq, "others": others})
