"""Motor readings: a clamp meter at the pump, one reading at a time, with what to expect and what is odd, told at once."""

from typing import Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import RedirectResponse

from goodbalance.core.balance.asked_number import AskedNumber
from goodbalance.core.balance.plan import Finding
from goodbalance.core.balance.quantities import Quantity, UnitSystem
from goodbalance.core.protection.by_head import NAMES, Base, by_head
from goodbalance.core.protection.duty import Load, MotorDuty
from goodbalance.core.protection.names import Guarding, motor_id
from goodbalance.core.protection.readings import WORDS, At, ReadCurrent, remarks
from goodbalance.core.record.chain import Kind
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep
from goodbalance.web.rendering import page, units_of
from goodbalance.web.work import Work

router = APIRouter()
HOW: dict[At, str] = {
    At.CLOSED: "Run the pump in HAND, close its discharge valve, read all leads within half a minute, open the valve again.",
    At.LEAST: "Run the pump in HAND with the least flow of honest work: one tap open, or the highest lift.",
    At.NORMAL: "Run the pump in HAND as it usually works, for two minutes, then read all leads.",
    At.MOST: "Run the pump in HAND with the most flow it can be asked for: every outlet open, or the lowest lift.",
    At.DRY: "Only where its maker permits it, and no longer than he permits: read at once, then give it water again.",
}
CAUTIONS: dict[At, str] = {
    At.CLOSED: "The water in the casing heats up: no longer than half a minute.",
    At.DRY: "A dry seal burns within seconds: only as the maker permits.",
}
ALWAYS = (
    "The panel is live and open: licensed people only, one hand, meter and gloves for the voltage.",
    "In HAND nothing but its guards stops the pump: stay beside it.",
)
AT_A_DRIVE = "At a drive's output a clamp meter misleads: true RMS, or the drive's own reading."
AMPS = AskedNumber(label="current", quantity=Quantity.CURRENT, low=0.0, high=10_000.0)
SHARE = AskedNumber(label="share", quantity=Quantity.PERCENT, low=0.01, high=10.0)
STATED = AskedNumber(label="number worked out", quantity=Quantity.CURRENT, low=0.01, high=10_000.0)
VOLTS = AskedNumber(label="voltage", quantity=Quantity.VOLTAGE, low=0.0, high=20_000.0)


@router.get("/stations/{station_id}/motors", name="show_motors")
def show_motors(request: Request, work: WorkDep, pump: int = 1, at: At = At.CLOSED) -> Response:
    view = _view(work, pump, at, {})
    return page(request, "motors.html", view | {"head": _by_head(view, dict(request.query_params), units_of(request))})


def _by_head(view: dict[str, Any], asked: dict[str, str], units: UnitSystem) -> dict[str, Any]:
    """A threshold that somebody worked out by head, as asked for in the page's address, and what is to be said of it."""
    asked = {key: text[:40] for key, text in asked.items() if key in {"guard", "base", "share", "stated"}}
    found: tuple[Finding, ...] = ()
    problems: list[str] = []
    overload = next((setting for setting in view["guards"] if setting.id == motor_id(Guarding.OVERLOAD, view["duty"].number)), None)
    bases = tuple(Base) if overload is not None else (Base.PLATE, Base.RUNNING)
    guards = {Guarding.OVERLOAD: "overload", Guarding.UNDERLOAD: "under-load"} if overload is not None else {Guarding.UNDERLOAD: "under-load"}
    if "share" in asked:
        share = SHARE.read_or_note(asked["share"], units, problems)
        stated = STATED.read_or_note(asked["stated"], units, problems) if asked.get("stated", "").strip() else None
        for name, accepted in (("guard", guards), ("base", bases)):
            if asked.get(name) not in accepted:
                problems.append(f"{name} is {asked.get(name, '')!r}; accepted: {', '.join(accepted)}.")
        if share is not None and not problems:
            found = by_head(view["duty"], Guarding(asked["guard"]), Base(asked["base"]), share, stated, overload)
    return {"asked": asked, "found": found, "problems": problems, "bases": {base: NAMES[base] for base in bases}, "guards": guards}


@router.post("/stations/{station_id}/motors", name="save_motor", dependencies=[Depends(not_forged)])
def save_motor(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """One reading kept; an empty one takes back what stood there. Then on to the next point."""
    form = {key: str(value)[:500] for key, value in form.items()}
    pump = int(form["pump"]) if form.get("pump", "").isdecimal() and len(form["pump"]) < 4 else 0
    if form.get("at") not in set(At):
        raise HTTPException(422, f"at is {form.get('at', '')[:20]!r}; accepted: {', '.join(At)}.")
    at = At(form["at"])
    view = _view(work, pump, at, form)
    leads, problems = view["duty"].plate.phases.leads, view["problems"]
    amps, volts = _numbers(form, "amps", leads, AMPS, units_of(request), problems), _numbers(form, "volts", leads, VOLTS, units_of(request), problems)
    taken_back = not amps and not volts and not problems
    if not amps and not problems and not (taken_back and (pump, at) in work.history.motors):
        problems.append("No current is filled in: read at least one lead.")
    if problems:
        return page(request, "motors.html", view | {"head": _by_head(view, {}, units_of(request))}, status=422)
    body = {"pump": pump, "at": at.value, "amps": amps, "volts": volts, "note": form.get("note", "").strip()}
    records.keep(session, work.row.id, person.name, [Draft(Kind.MOTOR, body, form.get("save_key") or None)])
    return RedirectResponse(f"{request.url_for('show_motors', station_id=work.row.id)}?pump={pump}&at={at}", status_code=303)


def _numbers(form: dict[str, str], name: str, leads: int, asked: AskedNumber, units: UnitSystem, problems: list[str]) -> list[float]:
    """What was typed for each lead, in SI: all of them or none, for an unbalance cannot be told from a part."""
    texts = [form.get(f"{name}.{lead}", "").strip() for lead in range(1, leads + 1)]
    if not any(texts):
        return []
    found = []
    for lead, text in enumerate(texts, 1):
        value = asked.model_copy(update={"label": f"{asked.label}, lead {lead}"}).read_or_note(text, units, problems)
        if value is not None:
            found.append(value)
    return found if len(found) == leads else []


def _view(work: Work, pump: int, at: At, typed: dict[str, str]) -> dict[str, Any]:
    duty = next((each for each in duties_of(work) if pump in each.pumps), None)
    if duty is None:
        pumps = max(number for each in duties_of(work) for number in each.pumps)
        raise HTTPException(422, f"pump is {pump}; accepted: 1 to {pumps}")
    read = {each.at: each for each in duty.readings if each.pump == pump}
    loads = {At.CLOSED: duty.closed, At.LEAST: duty.lowest, At.MOST: duty.highest, At.DRY: duty.dry}
    return {
        "work": work, "view": "survey", "pump": pump, "at": at, "duty": duty, "typed": typed, "problems": [], "points": tuple(At), "words": WORDS, "how": HOW,
        "pumps": sorted(number for each in duties_of(work) for number in each.pumps), "read": read, "leads": range(1, duty.plate.phases.leads + 1),
        "cautions": (*ALWAYS, *([CAUTIONS[at]] if at in CAUTIONS else []), *([AT_A_DRIVE] if duty.driven else [])),
        "expects": {point: _expected(duty, load) for point, load in loads.items()}, "remarks": {point: remarks(duty.plate, each, duty.readings) for point, each in read.items()},
        "entries": {point: work.history.motors[pump, point] for point in read},
        "guards": () if work.plan is None else [setting for setting in work.plan.settings if setting.group == "protection" and setting.id.endswith(f"_{duty.number}")],
    }  # fmt: skip


def _expected(duty: MotorDuty, load: Load) -> tuple[float, float]:
    """Between which currents a reading is to be expected there, by the motor as it is known so far."""
    current_a, spread = duty.current_a(load), duty.model.spread
    return current_a * (1.0 - spread), current_a * (1.0 + spread)


def duties_of(work: Work) -> tuple[MotorDuty, ...]:
    """The motors of a station with what was read of them."""
    if work.kind.motors is None:
        raise HTTPException(422, "A station of this kind has no motors to read.")
    if work.survey is None:
        raise HTTPException(409, "Complete the survey first: what to expect follows from plate and curve.")
    duties: tuple[MotorDuty, ...] = work.kind.motors.duties(work.survey)
    return duties


def readings_of(work: Work) -> list[tuple[ReadCurrent, Any]]:
    """Every reading of the record that still counts, with its entry, pump by pump."""
    if work.kind.motors is None or work.survey is None:
        return []
    return [(read, work.history.motors[read.pump, read.at]) for duty in duties_of(work) for read in sorted(duty.readings, key=lambda each: (each.pump, tuple(At).index(each.at)))]
