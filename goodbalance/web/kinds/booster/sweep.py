"""Hand sweep of a booster set: reckoned and by hand, side by side; its energy over a day."""

from typing import Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import RedirectResponse

from goodbalance.core.balance.asked_number import AskedNumber
from goodbalance.core.balance.quantities import DisplayUnit, Quantity, UnitSystem
from goodbalance.core.errors import OutOfRange
from goodbalance.core.record.chain import Kind
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.choices import Sharing
from goodbalance.core.stations.booster.trials.energy import ChangeOver, DayEnergy, change_overs, day_energy, hours_m3s
from goodbalance.core.stations.booster.trials.sweep import HandSweep, hand_sweep, worked_out
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep
from goodbalance.web.memory import Memory
from goodbalance.web.pictures import picture_of
from goodbalance.web.rendering import page, units_of
from goodbalance.web.work import Decided, Work

router = APIRouter()
_energies: Memory[Decided, tuple[tuple[DayEnergy, ...], dict[Sharing, tuple[ChangeOver, ...]]]] = Memory(64)
ROWS = 6
SPEED_UNITS = (("percent", "% of full speed"), ("hz", "Hz"), ("rpm", "rpm"))
ONE_OUTLET = AskedNumber(label="Flow of one outlet", quantity=Quantity.FLOW, low=1e-6, high=10.0)


@router.get("/stations/{station_id}/sweep", name="show_sweep")
def show_sweep(request: Request, work: WorkDep, supply: str = "low") -> Response:
    return page(request, "booster/sweep.html", _view(work, {}, supply == "high"))


@router.post("/stations/{station_id}/sweep", name="save_sweep", dependencies=[Depends(not_forged)])
def save_sweep(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """The speeds that held the pressure by hand."""
    form = {key: str(value)[:500] for key, value in form.items()}
    view = _view(work, form, False)
    units = units_of(request)
    outlet = ONE_OUTLET.read_or_note(form.get("outlet", ""), units, view["problems"])
    rows = _hand_rows(form, units, view["problems"], work)
    if not rows and not view["problems"]:
        view["problems"].append("No line is filled in. Begin with every outlet closed.")
    if not view["problems"]:
        body = {"outlet_m3s": outlet, "rows": rows, "note": form.get("note", "").strip()}
        key = str(form.get("save_key", "")) or None
        records.keep(session, work.row.id, person.name, [Draft(Kind.HAND_SWEEP, body, key)])
        return RedirectResponse(f"{request.url_for('show_sweep', station_id=work.row.id)}#by-hand", status_code=303)
    return page(request, "booster/sweep.html", view, status=422)


def _hand_rows(form: dict[str, str], units: UnitSystem, problems: list[str], work: Work) -> list[dict[str, Any]]:
    """Filled lines in SI; a line begun and not finished is a problem. Speeds in the unit that was chosen for them."""
    rows, most, motor = [], work.survey.pumping.count, work.survey.motor
    unit = form.get("speed_unit", "")
    if unit not in dict(SPEED_UNITS):
        problems.append(f"Unit of the speeds: {unit[:20]!r}; accepted: {', '.join(words for _, words in SPEED_UNITS)}.")
        return []
    full = {"percent": 100.0, "hz": motor.rated_hz, "rpm": motor.rated_rpm}[unit]
    speed_unit = DisplayUnit(dict(SPEED_UNITS)[unit], 1, 1.0 / full)
    for number in range(ROWS):
        texts = {name: form.get(f"{number}.{name}", "").strip() for name in ("speed", "pressure", "suction")}
        if not any(texts.values()):
            continue
        line, held = f"Line {number + 1}", form.get(f"{number}.held", "yes")
        asked = {
            "speed": AskedNumber(label=f"{line}, speed", low=0.0, high=1.0, unit=speed_unit),
            "pressure": AskedNumber(label=f"{line}, pressure", quantity=Quantity.PRESSURE, low=-1e5, high=1e7),
            "suction": AskedNumber(label=f"{line}, suction", quantity=Quantity.PRESSURE, low=-1e5, high=1e7),
            "outlets": AskedNumber(label=f"{line}, outlets", quantity=Quantity.COUNT, low=0, high=500, whole=True),
            "pumps": AskedNumber(label=f"{line}, pumps", quantity=Quantity.COUNT, low=1, high=most, whole=True),
        }
        texts["outlets"] = form.get(f"{number}.outlets", "").strip() or str(number)
        texts["pumps"] = form.get(f"{number}.pumps", "1").strip()
        values = {name: asked[name].read_or_note(text, units, problems) for name, text in texts.items()}
        if held not in ("yes", "no"):
            problems.append(f"{line}, held: {held[:20]!r}; accepted: yes or no.")
        if not problems:
            rows.append(
                {"outlets": values["outlets"], "pumps": values["pumps"], "held": held == "yes", "speed": values["speed"],
                 "pressure_pa": values["pressure"], "suction_pa": values["suction"]}
            )  # fmt: skip
    return rows


@router.get("/stations/{station_id}/energy", name="show_energy")
def show_energy(request: Request, work: WorkDep) -> Response:
    """What a day costs in every way the choices allow, and where the cheapest number of pumps changes."""
    _planned(work)
    if not work.survey.holds_constant:
        raise HTTPException(409, "Energy is compared between ways to regulate; this set is switched on and off.")
    ways, overs = _energies.once(work.decided, lambda: _energy(work))
    return page(request, "booster/energy.html", {
        "work": work, "view": "reckon", "ways": ways, "hours": hours_m3s(work.survey), "overs": overs,
        "known": hydraulics(work.survey).knows_power,
    })  # fmt: skip


def _energy(work: Work) -> tuple[tuple[DayEnergy, ...], dict[Sharing, tuple[ChangeOver, ...]]]:
    sharings = tuple(Sharing) if work.survey.pumping.duty_count > 1 else ()
    overs = {way: change_overs(work.survey, work.choices, work.plan, way) for way in sharings}
    return day_energy(work.survey, work.choices, work.plan), overs


def latest_sweep(work: Work) -> HandSweep | None:
    """The last sweep by hand that fits the plan, worked out."""
    if work.plan is None:
        return None
    for entry in work.history.hand_sweeps[::-1]:
        try:
            return worked_out(work.survey, work.plan, entry.body)
        except OutOfRange:
            continue
    return None


def _booster(work: Work) -> None:
    if work.kind is not BOOSTER:
        raise HTTPException(422, "Only a booster set is swept by hand.")


def _planned(work: Work) -> None:
    _booster(work)
    if work.plan is None:
        raise HTTPException(409, "Complete the survey first: the sweep follows from the plan.")


def _view(work: Work, typed: dict[str, str], high: bool) -> dict[str, Any]:
    _planned(work)
    if not work.survey.has_drives:
        raise HTTPException(409, "A hand sweep tries speeds; these pumps have one speed only. Their pressures stand in Reckon.")
    hyd = hydraulics(work.survey)
    points = [p for p in work.survey.pumping.curve if p.flow_m3s is not None and p.head_m is not None]
    return {
        "work": work, "view": "reckon", "typed": typed, "problems": [], "rows": range(ROWS), "high": high,
        "speed_units": SPEED_UNITS,
        "sweep": hand_sweep(work.survey, work.choices, work.plan, high), "picture": picture_of(work, work.plan, work.choices),
        "by_hand": latest_sweep(work), "entry": work.history.hand_sweeps[-1] if work.history.hand_sweeps else None,
        "outlet": work.survey.demand.least_m3s, "amps": hyd.current_a,
        "fit": [(point, hyd.curve.head_m(point.flow_m3s)) for point in points],
    }  # fmt: skip
