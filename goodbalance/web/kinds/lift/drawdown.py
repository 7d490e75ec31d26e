"""Timed drawdown: measure what a pump really gives, with a stopwatch in the page."""

from typing import Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import RedirectResponse

from goodbalance.core.balance.asked_number import AskedNumber
from goodbalance.core.balance.quantities import Quantity, UnitSystem
from goodbalance.core.errors import OutOfRange
from goodbalance.core.record.chain import Kind
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.trials.measured import measure
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep
from goodbalance.web.rendering import page, units_of
from goodbalance.web.work import Work

router = APIRouter()
RUNS = 3
STRETCHES = (
    ("before", "Fills, all pumps OFF"),
    ("pumping", "This pump in HAND draws down"),
    ("after", "Fills again, if you have the time"),
)
LEVEL = AskedNumber(label="level", quantity=Quantity.LEVEL, low=0.0, high=100.0)
PARTS = (
    ("from", "from", LEVEL),
    ("to", "to", LEVEL),
    ("time", "in", AskedNumber(label="time", quantity=Quantity.TIME, low=0.0, high=86400.0, above_low=True)),
)


@router.get("/stations/{station_id}/drawdown", name="show_drawdown")
def show_drawdown(request: Request, work: WorkDep, pump: int = 1) -> Response:
    return page(request, "lift/drawdown.html", _view(work, pump, {}))


@router.post("/stations/{station_id}/drawdown", name="save_drawdown", dependencies=[Depends(not_forged)])
def save_drawdown(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    form = {key: str(value)[:40] for key, value in form.items()}
    pump = int(form["pump"]) if form.get("pump", "").isdecimal() else 0
    view = _view(work, pump, form)
    runs, problems = read_runs(form, units_of(request))
    if not problems:
        try:
            measure(work.survey_as_written, pump, runs)
        except OutOfRange as wrong:
            problems = [str(wrong)]
    if problems:
        return page(request, "lift/drawdown.html", {**view, "problems": problems}, status=422)
    body = {"pump": pump, "runs": runs}
    key = str(form.get("save_key", "")) or None
    records.keep(session, work.row.id, person.name, [Draft(Kind.DRAWDOWN, body, key)])
    return RedirectResponse(f"{request.url_for('show_drawdown', station_id=work.row.id)}?pump={pump}", status_code=303)


def read_runs(form: dict[str, str], units: UnitSystem) -> tuple[list[dict[str, Any]], list[str]]:
    """Runs in SI, and what is wrong with the fields. An empty run and an empty second fill are left out."""
    runs, problems = [], []
    for number in range(1, RUNS + 1):
        run: dict[str, Any] = {}
        for stretch, name in STRETCHES:
            texts = {part: form.get(f"{number}.{stretch}.{part}", "").strip() for part, _, _ in PARTS}
            if not any(texts.values()):
                continue
            numbers = {}
            for part, word, asked in PARTS:
                named = asked.model_copy(update={"label": f"Run {number}, {name.lower()}, {word}"})
                value = named.read_or_note(texts[part], units, problems)
                if value is not None:
                    numbers[part] = value
            if len(numbers) == 3:
                run[stretch] = {"from_m": numbers["from"], "to_m": numbers["to"], "time_s": numbers["time"]}
        if run and not problems and not {"before", "pumping"} <= run.keys():
            problems.append(f"Run {number} needs the fill before and the drawdown, each with both levels and the time.")
        if run:
            runs.append(run)
    if not runs and not problems:
        problems.append("No run is filled in. One is needed; three show how sure the rate is.")
    return runs, problems


def _view(work: Work, pump: int, typed: dict[str, str]) -> dict[str, Any]:
    if work.kind is not LIFT:
        raise HTTPException(422, "Pump rates are measured by drawdown where there is a well.")
    if work.survey_as_written is None:
        raise HTTPException(409, "Complete the survey first: the rate follows from the area of the well.")
    count = len(work.survey_as_written.pumps)
    if not 1 <= pump <= count:
        raise HTTPException(422, f"pump is {pump}; accepted: 1 to {count}")
    return {
        "work": work, "view": "survey", "pump": pump, "count": count, "typed": typed, "problems": [],
        "stretches": STRETCHES, "parts": [(part, word, asked.quantity) for part, word, asked in PARTS], "runs": range(1, RUNS + 1),
    }  # fmt: skip
