"""The scaling bench: known levels or pressures, or applied signals against what the display shows, and the scaling that would be right."""

from typing import Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import RedirectResponse

from goodbalance.core.balance.asked_number import AskedNumber
from goodbalance.core.balance.quantities import Quantity, UnitSystem
from goodbalance.core.errors import OutOfRange
from goodbalance.core.record.chain import Kind
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep
from goodbalance.web.rendering import page, units_of
from goodbalance.web.work import Work

router = APIRouter()
ROWS = 5
WAYS = {
    Quantity.LEVEL: (
        ("level", "Levels I measured (stick, tape, gauge)"),
        ("signal", "Signals I applied (loop calibrator)"),
    ),
    Quantity.PRESSURE: (("level", "Pressures I read (test gauge)"), ("signal", "Signals I applied (loop calibrator)")),
}
LIMITS = {
    Quantity.LEVEL: (-10.0, 100.0),
    Quantity.PRESSURE: (-1e5, 1e7),
    Quantity.LOOP_CURRENT: (0.0, 0.025),
    Quantity.SIGNAL_VOLTAGE: (0.0, 12.0),
}


@router.get("/stations/{station_id}/scaling", name="show_scaling")
def show_scaling(request: Request, work: WorkDep) -> Response:
    return page(request, "scaling.html", _view(work, {}))


@router.post("/stations/{station_id}/scaling", name="save_scaling", dependencies=[Depends(not_forged)])
def save_scaling(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    form = {key: str(value)[:500] for key, value in form.items()}
    view = _view(work, form)
    units = units_of(request)
    zero, full = (
        _asked(name, work.kind.main).read_or_note(form.get(name, ""), units, view["problems"]) for name in ("zero", "full")
    )
    points = _points(form, view, units)
    if not view["problems"]:
        body = {"by": view["way"], "points": points, "zero": zero, "full": full, "note": form.get("note", "").strip()}
        try:
            view["instruments"].check_scaling(work.survey_as_written, body)
        except OutOfRange as wrong:
            view["problems"].append(str(wrong))
        else:
            key = str(form.get("save_key", "")) or None
            records.keep(session, work.row.id, person.name, [Draft(Kind.SCALING, body, key)])
            return RedirectResponse(request.url_for("show_scaling", station_id=work.row.id), status_code=303)
    return page(request, "scaling.html", view, status=422)


def _points(form: dict[str, str], view: dict[str, Any], units: UnitSystem) -> list[dict[str, float]]:
    """Filled lines in SI; a line with one number only is a problem."""
    main = view["main"]
    applied = main if view["way"] == "level" else view["signal"]
    found = []
    for row in range(1, ROWS + 1):
        texts = [form.get(f"{row}.{part}", "").strip() for part in ("applied", "shown")]
        if not any(texts):
            continue
        problems = view["problems"]
        one = _asked(f"line {row}, applied", applied).read_or_note(texts[0], units, problems)
        two = _asked(f"line {row}, display", main).read_or_note(texts[1], units, problems)
        if one is not None and two is not None:
            found.append({"applied": one, "shown": two})
    if len(found) < 2 and not view["problems"]:
        view["problems"].append(f"{len(found)} lines are filled in; two or more points are needed.")
    return found


def _asked(name: str, quantity: Quantity) -> AskedNumber:
    low, high = LIMITS[quantity]
    return AskedNumber(label=name, quantity=quantity, low=low, high=high)


def checks(work: Work) -> list[tuple[Any, Any]]:
    """Every scaling check of the record worked out, the latest first; with its entry."""
    survey, instruments = work.survey_as_written, work.kind.instruments
    if survey is None or instruments is None or not instruments.is_fitted(survey):
        return []
    return [(entry, instruments.check_scaling(survey, entry.body)) for entry in work.history.scalings[::-1]]


def _view(work: Work, typed: dict[str, str]) -> dict[str, Any]:
    if work.survey_as_written is None:
        raise HTTPException(409, "Complete the survey first: the scaling follows from the sensor.")
    instruments, keypad = work.kind.instruments, work.kind.keypad
    if instruments is None or keypad is None or not instruments.is_fitted(work.survey_as_written):
        raise HTTPException(409, "This station has no sensor, it works by floats alone; there is nothing to scale.")
    scale = keypad.scale(work.survey_as_written, work.profile, work.display_of(work.choices))
    signal = instruments.readings(work.survey_as_written, scale.zero).quantity
    way = typed.get("by", "level")
    return {
        "work": work, "view": "survey", "typed": typed, "problems": [], "rows": range(1, ROWS + 1), "ways": WAYS[work.kind.main], "main": work.kind.main,
        "way": way if way in ("level", "signal") else "level", "signal": signal, "scale": scale, "instruments": instruments, "checks": checks(work),
        "allowed": instruments.allowed_error(work.choices),
    }  # fmt: skip
