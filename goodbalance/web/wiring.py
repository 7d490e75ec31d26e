"""The wiring walk: terminal by terminal, first dead and then live, with what was seen, photos, and what is put in for the work."""

import base64
from typing import Annotated, Any

from fastapi import APIRouter, Depends, File, Form, HTTPException, Request, Response, UploadFile
from fastapi.responses import RedirectResponse

from goodbalance.core.errors import BrokenFile
from goodbalance.core.record.chain import Entry, Kind
from goodbalance.core.sheets.wiring import Found, Phase, Step, Walk
from goodbalance.exchange.photos import small_jpeg
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web import computing
from goodbalance.web.guards import SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep, after_save
from goodbalance.web.rendering import page
from goodbalance.web.work import Work

router = APIRouter()
MOST_PHOTOS = 30  # of a station, so that its file can still be taken in elsewhere
Text = Annotated[str, Form()]
Upload = Annotated[UploadFile, File()]


@router.get("/stations/{station_id}/wiring", name="show_wiring")
def show_wiring(request: Request, work: WorkDep, device: str = "", place: str = "") -> Response:
    """The walk, with one group of terminals at hand: the one asked for, or the next to look at."""
    if work.wiring is None:
        return page(request, "wiring.html", {"work": work, "view": "survey"})
    return page(request, "wiring.html", _view(work, device, place))


@router.post("/stations/{station_id}/wire-looks", name="save_wire_look", dependencies=[Depends(not_forged)])
def save_wire_look(
    request: Request, session: SessionDep, person: WriterDep, work: WorkDep, device: Text, place: Text, phase: Annotated[Phase, Form()],
    found: Annotated[Found, Form()], save_key: Text, seen: Text = "",
) -> Response:  # fmt: skip
    """What was found at a group of terminals. Nothing is looked at live before all is right dead."""
    walk, step = _walk_and_step(work, device, place)
    seen = " ".join(seen.split())
    problem = ""
    if len(seen) > 200:
        problem = f"What was seen is {len(seen)} letters long; accepted: up to 200."
    elif not step.looks(phase):
        problem = f"{step.title}: there is nothing to look at {phase.value}."
    elif found is Found.FAULT and not seen:
        problem = "Say what is wrong there: a fault without words helps nobody. What must be changed, what did the meter read?"
    elif phase is Phase.LIVE and not walk.may_energise(work.history.waivers):
        problem = "Not all has been looked at dead and found right, or a fault stands: nothing is energised before. Nothing was noted."
    if problem:
        more = {"problem": problem, "typed": {"seen": seen, "phase": phase.value}}
        return page(request, "wiring.html", {**_view(work, device, place), **more}, 422)
    body = {"device": device, "place": place, "phase": phase.value, "found": found.value, "seen": seen, "wants": step.wants}
    records.keep(session, work.row.id, person.name, [Draft(Kind.WIRE, body, save_key)])
    after = after_save(request, session, work)
    url = request.url_for("show_wiring", station_id=work.row.id)
    next_one = after.wiring.following(after.history.waivers) if after.wiring is not None and found is Found.OK else None
    if next_one is None:
        return RedirectResponse(url.include_query_params(device=device, place=place), status_code=303)
    return RedirectResponse(url.include_query_params(device=next_one[0].device, place=next_one[0].place), status_code=303)


@router.post("/stations/{station_id}/photos", name="save_photo", dependencies=[Depends(not_forged)])
def save_photo(
    request: Request, session: SessionDep, person: WriterDep, work: WorkDep, device: Text, place: Text, save_key: Text, file: Upload
) -> Response:
    """A picture of a group of terminals, made small and rid of all but the picture."""
    _walk_and_step(work, device, place)
    try:
        if len(work.history.photos) >= MOST_PHOTOS:
            raise BrokenFile(f"this station has {MOST_PHOTOS} photos already, and more are not kept")
        body = {"device": device, "place": place, "text": computing.answer(small_jpeg, file.file.read())}
    except BrokenFile as wrong:
        problem = f"{(file.filename or 'the file')[:80]}: {wrong}. Nothing was stored."
        return page(request, "wiring.html", {**_view(work, device, place), "problem": problem}, 422)
    records.keep(session, work.row.id, person.name, [Draft(Kind.PHOTO, body, save_key)])
    url = request.url_for("show_wiring", station_id=work.row.id)
    return RedirectResponse(url.include_query_params(device=device, place=place), status_code=303)


@router.get("/stations/{station_id}/photos/{seq}", name="show_photo")
def show_photo(session: SessionDep, work: WorkDep, seq: int) -> Response:
    if not any(entry.seq == seq for entry in work.history.photos):
        raise HTTPException(404, f"Entry {seq} of this record is no photo.")
    (photo,) = records.entries(session, work.row.id, upto=seq, after=seq - 1)
    return Response(base64.b64decode(photo.body["text"]), media_type="image/jpeg")


def _walk_and_step(work: Work, device: str, place: str) -> tuple[Walk, Step]:
    if work.wiring is None:
        raise HTTPException(409, "There is no plan yet: complete the survey first. What must be wired follows from it.")
    step = work.wiring.step(device, place)
    if step is None:
        raise HTTPException(422, f"place is {f'{device}/{place}'[:80]!r}; this walk has no such terminals.")
    return work.wiring, step


def photos_at(work: Work, step: Step) -> list[Entry]:
    """Pictures taken at a group of terminals."""
    return [entry for entry in work.history.photos if (entry.body["device"], entry.body["place"]) == (step.device, step.place)]


def _view(work: Work, device: str, place: str) -> dict[str, Any]:
    walk, waivers = work.wiring, work.history.waivers
    if walk is None:
        raise HTTPException(409, "There is no plan yet.")
    following = walk.following(waivers)
    steps = list(walk)
    step = walk.step(device, place) or (following[0] if following is not None else steps[0] if steps else None)
    faults = {matter.about: matter for matter in walk.faults}
    return {
        "work": work, "view": "survey", "walk": walk, "step": step, "steps": steps, "phases": tuple(Phase), "following": following,
        "may_energise": walk.may_energise(waivers), "faults": faults, "photos": photos_at(work, step) if step is not None else [],
        "photos_at": lambda one: photos_at(work, one), "typed": {}, "problem": "",
    }  # fmt: skip
