"""First energising and return to service: one step after the other, by hazard; who made each, and why any came before its turn."""

from typing import Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import RedirectResponse

from goodbalance.core.balance.plan import Finding, Setting
from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.protection.energising import MUST, Does, Made, State, Step, before, remarks, states, steps
from goodbalance.core.protection.names import Guarding
from goodbalance.core.record.chain import Entry, Kind
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep
from goodbalance.web.motors import duties_of
from goodbalance.web.rendering import page, units_of
from goodbalance.web.work import Work

router = APIRouter()


@router.get("/stations/{station_id}/energising", name="show_energising")
def show_energising(request: Request, work: WorkDep, step: str = "") -> Response:
    return page(request, "energising.html", _view(work, step, {}, []))


@router.post("/stations/{station_id}/energising", name="save_energising", dependencies=[Depends(not_forged)])
def save_energising(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """One step noted. How the station is must be confirmed, and what is made before its turn needs a reason."""
    form = {key: str(value)[:500] for key, value in form.items()}
    listed, units = steps_of(work), units_of(request)
    step = next((each for each in listed if each.id == form.get("step")), None)
    if step is None:
        raise HTTPException(422, f"step is {form.get('step', '')[:40]!r}; this station has no such step.")
    if form.get("good") not in ("yes", "no"):
        raise HTTPException(422, f"good is {form.get('good', '')[:20]!r}; accepted: yes, no.")
    problems: list[str] = []
    good, why_now = form["good"] == "yes", form.get("why_now", "").strip()
    numbers = _numbers(form, step, units, problems)
    if form.get("confirmed") != step.must:
        problems.append(f"Say first how the station is: {MUST[step.must][0].lower()}{MUST[step.must][1:]}.")
    open_before = before(listed, states(listed, made_of(work)), step)
    if open_before and not why_now:
        problems.append(f"{open_before[0].title} comes first. Say why this one is made before it, or make that one.")
    if good and step.does is Does.JUMPERS and (left := _put_in(work)):
        problems.append(f"Still in: {'; '.join(left)[:200]}. Note there that it is out again.")
    heavy = [finding.worded(units) for finding in _remarks(work, step, numbers) if finding.severity.value == "stop"]
    if good and heavy:
        problems.append(f"{heavy[0]} Note it as not as it must be.")
    if problems:
        return page(request, "energising.html", _view(work, step.id, form, problems), status=422)
    body = {"step": step.id, "good": good, "confirmed": step.must.value, "numbers": numbers, "why_now": why_now if open_before else "", "note": form.get("note", "").strip()}
    records.keep(session, work.row.id, person.name, [Draft(Kind.ENERGISING, body, form.get("save_key") or None)])
    return RedirectResponse(request.url_for("show_energising", station_id=work.row.id), status_code=303)


def _numbers(form: dict[str, str], step: Step, units: UnitSystem, problems: list[str]) -> dict[str, float]:
    """What was read in this step, in SI: all of it."""
    found = {}
    for name, asked in step.asks:
        value = asked.read_or_note(form.get(name, ""), units, problems)
        if value is not None:
            found[name] = value
    return found


def steps_of(work: Work) -> tuple[Step, ...]:
    """The steps of this station, with the numbers of its plan."""
    duties, kind = duties_of(work), work.kind.motors
    found = [_told(setting, work.units) for setting in _provisional(work)]
    return steps(duties, kind.water_side(work.survey), "; ".join(found) or "the overload by the plate", kind.has_floats(work.survey), kind.protection(work.survey).watches_leakage, kind.told(work.survey))


def _provisional(work: Work) -> list[Setting]:
    """What must protect it before the first run."""
    if work.plan is None:
        return []
    wanted = work.kind.motors.provisional(work.survey)
    return [setting for setting in work.plan.settings if setting.id in wanted or setting.id.startswith(f"{Guarding.OVERLOAD}_") and not setting.id.startswith(Guarding.OVERLOAD_CLASS)]


def _told(setting: Setting, units: UnitSystem) -> str:
    return f"{setting.label.lower()} {show(setting.value, Quantity(setting.quantity), units)}"


def made_of(work: Work) -> tuple[Made, ...]:
    """What was noted, the oldest first."""
    parts = ("step", "good", "numbers", "why_now")
    return tuple(Made(**{part: entry.body[part] for part in parts if part in entry.body}) for entry in work.history.energised)


def last_of(work: Work) -> dict[str, Entry]:
    """The last note of each step."""
    return {entry.body["step"]: entry for entry in work.history.energised}


def _put_in(work: Work) -> list[str]:
    """What was put in for the work and is not out again."""
    history = work.history
    return [history.open_points[point].text for point in sorted(history.temporary) if point not in history.closed_points]


def _remarks(work: Work, step: Step, numbers: dict[str, float]) -> list[Finding]:
    entry = last_of(work).get(Does.SUPPLY)
    duty = next((duty for duty in duties_of(work) if step.pump in duty.pumps), duties_of(work)[0])
    return remarks(step, duty.plate, numbers, {} if entry is None else entry.body["numbers"])


def _view(work: Work, wanted: str, typed: dict[str, str], problems: list[str]) -> dict[str, Any]:
    listed, last = steps_of(work), last_of(work)
    now = states(listed, made_of(work))
    following = next((step for step in listed if now[step.id] in (State.OPEN, State.WRONG) and not before(listed, now, step)), None)
    shown = next((step for step in listed if step.id == wanted), following)
    found = {step.id: _remarks(work, step, last[step.id].body["numbers"]) for step in listed if step.id in last}
    return {
        "work": work, "view": "prove", "steps": [step for step in listed if now[step.id] is not State.NOT_NEEDED], "now": now, "last": last, "shown": shown,
        "must": MUST, "open_before": () if shown is None else before(listed, now, shown), "remarks": found, "typed": typed, "problems": problems,
        "quantity_of": {step.id: {name: asked.quantity.value for name, asked in step.asks} for step in listed},
    }  # fmt: skip


def energised(work: Work) -> list[dict[str, Any]]:
    """Every step with how it stands, for the record; empty where none was made."""
    if work.kind.motors is None or work.survey is None or not work.history.energised:
        return []
    listed, last = steps_of(work), last_of(work)
    now = states(listed, made_of(work))
    rows = [{"step": step, "state": now[step.id], "last": last.get(step.id)} for step in listed if now[step.id] is not State.NOT_NEEDED or step.id in last]
    for row in rows:
        entry, asks = row["last"], dict(row["step"].asks)
        row["read"] = [] if entry is None else [
            f"{asks[name].label} {show(value, asks[name].quantity, work.units) if asks[name].quantity is not Quantity.RATIO else f'{value:g}'}" for name, value in entry.body["numbers"].items() if name in asks
        ]  # fmt: skip
    return rows
