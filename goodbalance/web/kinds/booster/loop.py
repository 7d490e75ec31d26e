"""The loop of a booster set: step tests taken in, candidate gains side by side, and the search for the worst case."""

import math
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Depends, File, Form, HTTPException, Request, Response, UploadFile
from fastapi.responses import JSONResponse, RedirectResponse
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.asked_number import AskedNumber
from goodbalance.core.balance.quantities import Quantity, UnitSystem, display_unit
from goodbalance.core.control.identification import Fopdt, StepFit, UnusableStep, fit_step
from goodbalance.core.control.pid import Gains, gain_per_unit
from goodbalance.core.errors import BrokenFile, OutOfRange
from goodbalance.core.record.chain import Entry, Kind
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.trials.loop_trials import (
    Candidate,
    Searched,
    bench_of,
    best_of,
    candidates,
    grid,
    looked_at,
)
from goodbalance.core.stations.booster.trials.sweep import may_tune
from goodbalance.exchange.columns import STEP_TEST
from goodbalance.exchange.tables_csv import StepTrace, read_step_test
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web import computing
from goodbalance.web.bench_views import unit_of
from goodbalance.web.columns import NAME, TEXT, sent_file
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.kinds.booster.sweep import latest_sweep
from goodbalance.web.loading import WorkDep
from goodbalance.web.memory import Memory
from goodbalance.web.rendering import page, part
from goodbalance.web.work import Decided, Work

router = APIRouter()
DRAWN = 900
KEPT = 16
_tried: Memory[Decided, tuple[Candidate, ...]] = Memory(KEPT)
_searched: Memory[Decided, tuple[Searched, ...]] = Memory(KEPT)
_pictures: Memory[tuple[Decided, str], list[dict[str, Any]]] = Memory(KEPT)
_read: Memory[tuple[str, float, float], StepTrace] = Memory(KEPT)  # a page looks at its step test more than once
_fitted: Memory[tuple[str, float, float, float], StepFit] = Memory(KEPT)


@router.get("/stations/{station_id}/loop", name="show_loop")
def show_loop(request: Request, work: WorkDep) -> Response:
    return page(request, "booster/loop.html", _view(work))


@router.post("/stations/{station_id}/step-tests", name="take_step_test", dependencies=[Depends(not_forged)])
def take_step_test(
    form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep, save_key: Annotated[str, Form()],
    flow: Annotated[str, Form()], pumps: Annotated[str, Form()],
    text: Annotated[str, Form()] = "", file: Annotated[UploadFile | None, File()] = None,
) -> Response:  # fmt: skip
    """A step test from a file or typed line by line; refused with the reason if no model can be taken from it."""
    view = _view(work)
    if view["waits"] is not None:
        raise HTTPException(409, f"Not yet. {view['waits'].worded(work.units)}")
    sent = TEXT in form or (file is not None and bool(file.filename))
    name = ((file.filename or "") if file is not None else "")[-120:] or form.get(NAME, "")[-120:] or "typed"
    typed = {"flow": flow[:40], "pumps": pumps[:10], "text": text[:5000]}
    try:
        content = sent_file(session, person, form, file, STEP_TEST)[1] if sent else text.strip() + "\n"
        flow_m3s, count = _where(work, flow, pumps)
        fit = _fit(work, content)
    except (BrokenFile, UnusableStep, OutOfRange) as wrong:
        return page(
            request, "booster/loop.html", {**view, "problem": f"{name}: {wrong}. Nothing was stored.", "typed": typed}, 422
        )
    body = {
        "name": name, "text": content, "flow_m3s": flow_m3s, "pumps": count, "model": kept_model(fit),
        "range_pa": work.survey.sensor.range_pa,
    }  # fmt: skip
    records.keep(session, work.row.id, person.name, [Draft(Kind.STEP_TEST, body, save_key)])
    return RedirectResponse(f"{request.url_for('show_loop', station_id=work.row.id)}#step", status_code=303)


def kept_model(fit: StepFit) -> dict[str, Any]:
    """The fitted model and the edge of its doubt, as the record keeps them."""

    def point(model: Fopdt) -> dict[str, float]:
        return {S.GAIN: model.gain, "time_s": model.time_s, "dead_s": model.dead_s}

    return {**point(fit.model), "fit": fit.fit, "region": [point(model) for model in fit.region]}


class SearchAsk(BaseModel):
    """How many sets of gains to have looked at."""

    model_config = ConfigDict(extra="forbid")
    upto: int = Field(ge=1, le=200)


@router.post("/stations/{station_id}/loop-search", name="search_gains", dependencies=[Depends(not_forged)])
def search_gains(request: Request, work: WorkDep, ask: SearchAsk) -> Response:
    """Look at gains one after the other over demand, suction and spread. The page asks bit by bit, so it can show and stop."""
    _tunable(work)
    listed = grid(bench_of(work.survey, work.choices, work.plan))
    found = _searched.get(work.decided) or ()
    if len(found) < min(ask.upto, len(listed)):
        found += tuple(computing.answer(looked_at, work.survey, work.choices, work.plan, len(found), min(ask.upto, len(listed))))
        _searched.put(work.decided, found)
    done = len(found) >= len(listed)
    html = part(
        request,
        "booster/_searched.html",
        {"work": work, "best": best_of(found), "looked": len(found), "all": len(listed)},
    )
    return JSONResponse({"looked": len(found), "all": len(listed), "done": done, "html": html})


def _tunable(work: Work) -> None:
    if work.kind is not BOOSTER:
        raise HTTPException(422, "Only a booster set has a pressure loop.")
    if work.plan is None:
        raise HTTPException(409, "Complete the survey first: the loop follows from the plan.")
    if not work.survey.holds_constant:
        raise HTTPException(409, "This set is switched on and off: it has no loop to tune.")


def _where(work: Work, flow: str, pumps: str) -> tuple[float, int]:
    """Flow drawn and pumps that ran during the test. Raises OutOfRange."""
    drawn = AskedNumber(label="flow", quantity=Quantity.FLOW, low=0.0, high=2.0 * work.survey.demand.design_m3s)
    ran = AskedNumber(label="pumps", quantity=Quantity.COUNT, low=1, high=work.survey.pumping.count, whole=True)
    return drawn.read(flow, work.units), int(ran.read(pumps, work.units))


def _trace(work: Work, text: str) -> StepTrace:
    rated = work.survey.motor.rated_hz, work.survey.motor.rated_rpm
    return _read.once((text, *rated), lambda: read_step_test(text, *rated))


def _fit(work: Work, text: str) -> StepFit:
    """The model in per cent of the sensor's range per per cent of speed. A pump that answers backwards is refused."""
    range_pa, motor = work.survey.sensor.range_pa, work.survey.motor
    return _fitted.once((text, range_pa, motor.rated_hz, motor.rated_rpm), lambda: _fit_of(_trace(work, text), range_pa))


def _fit_of(trace: StepTrace, range_pa: float) -> StepFit:
    measured = np.array(trace.pressures_pa) / range_pa * 100.0
    fit = fit_step(np.array(trace.times_s), np.array(trace.speeds), measured)
    if fit.model.gain <= 0.0:
        raise UnusableStep(
            "the pressure went the other way than the speed: columns swapped, wrong rotation, or another pump took over"
        )
    return fit


def _view(work: Work) -> dict[str, Any]:
    _tunable(work)
    units = work.units
    tried = _tried.once(work.decided, lambda: candidates(bench_of(work.survey, work.choices, work.plan)))
    pressure, share = unit_of(Quantity.PRESSURE, units), unit_of(Quantity.PERCENT, units)
    entry = work.history.step_tests[-1] if work.history.step_tests else None
    hand = latest_sweep(work)
    return {
        "work": work, "view": "reckon", "problem": "", "typed": {}, "candidates": tried, "entry": entry,
        "waits": may_tune(work.survey, work.choices, work.plan, hand), "tests": work.history.step_tests[::-1],
        "fit": _told(work, entry), "isinf": math.isinf, "in_unit": display_unit(Quantity.PRESSURE, units).from_si, "conventions": [_conventions(work, c.gains) for c in tried],
        "picture": {"trials": _pictures.once((work.decided, units), lambda: _drawn(work, tried)), "step": _step_drawn(work, entry), "pressure": pressure, "speed": share},
        "case_names": [trial.case.name for trial in tried[0].trials],
    }  # fmt: skip


def _conventions(work: Work, gains: Gains) -> dict[str, Any]:
    """The same gains as other controllers take them."""
    kp, ki, _ = gains.independent()
    pressure = display_unit(Quantity.PRESSURE, work.units)
    span = pressure.from_si(work.survey.sensor.range_pa)
    return {
        "kp": kp, "ki": ki, "band": gains.proportional_band, "repeats": gains.repeats_per_min,
        "per_unit": gain_per_unit(gains.kc, span), "hz_per_unit": gain_per_unit(gains.kc, span, work.survey.motor.rated_hz),
        "unit": pressure.symbol,
    }  # fmt: skip


def _told(work: Work, entry: Entry | None) -> StepFit | None:
    if entry is None:
        return None
    try:
        return _fit(work, entry.body["text"])
    except (BrokenFile, UnusableStep):
        return None  # the survey has changed since: the model kept in the record stands


def _drawn(work: Work, tried: tuple[Candidate, ...]) -> list[dict[str, Any]]:
    """Traces of every candidate, case by case, in the reader's unit."""
    unit = display_unit(Quantity.PRESSURE, work.units)
    found = []
    for place in range(len(tried[0].trials)):
        rows = [candidate.trials[place].trace for candidate in tried]
        times = [round(row[0], 2) for row in rows[0]]
        lines = [[round(unit.from_si(row[1]), 4) for row in trace] for trace in rows]
        found.append(
            {"name": tried[0].trials[place].case.name, "times": times, "lines": lines, "names": [c.name for c in tried]}
        )
    return found


def _step_drawn(work: Work, entry: Entry | None) -> dict[str, Any] | None:
    """The step test with the answer of its model."""
    if entry is None:
        return None
    trace, fit = _trace(work, entry.body["text"]), _told(work, entry)
    unit, every = display_unit(Quantity.PRESSURE, UnitSystem(work.units)), max(1, len(trace.times_s) // DRAWN)
    times = trace.times_s[::every]
    modelled: list[float | None] = [None] * len(times)
    if fit is not None:
        answer = fit.model.answer(np.array(times), fit.step_at_s, fit.step, fit.start, fit.drift)
        modelled = [round(unit.from_si(float(v) / 100.0 * work.survey.sensor.range_pa), 4) for v in answer]
    return {
        "times": list(times), "pressure": [round(unit.from_si(p), 4) for p in trace.pressures_pa[::every]],
        "speed": list(trace.speeds[::every]), "model": modelled,
    }  # fmt: skip
