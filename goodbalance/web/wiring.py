"""The wiring walk: terminal by terminal, first dead and then live, with what was seen, photos, and what is put in for the work."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, HTTPException, Request, Response
from fastapi.responses import RedirectResponse

from goodbalance.core.record.chain import Kind
from goodbalance.core.sheets.wiring import Found, Phase, Step, Walk
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.guards import SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep, after_save
from goodbalance.web.photos import photos_at
from goodbalance.web.rendering import page
from goodbalance.web.work import Work

router = APIRouter()
Text = Annotated[str, Form()]


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


def _walk_and_step(work: Work, device: str, place: str) -> tuple[Walk, Step]:
    if work.wiring is None:
        raise HTTPException(409, "There is no plan yet: complete the survey first. What must be wired follows from it.")
    step = work.wiring.step(device, place)
    if step is None:
        raise HTTPException(422, f"place is {f'{device}/{place}'[:80]!r}; this walk has no such terminals.")
    return work.wiring, step


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
        "may_energise": walk.may_energise(waivers), "faults": faults, "photos": photos_at(work, step.device, step.place) if step is not None else [],
        "photos_at": lambda one: photos_at(work, one.device, one.place), "typed": {}, "problem": "",
    }  # fmt: skip
