"""Trends of pressure from a CSV file: how steady a booster set is, how often it starts and sleeps, whether it hunts."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, File, Form, HTTPException, Request, Response, UploadFile
from fastapi.responses import RedirectResponse

from goodbalance.core.balance.quantities import Quantity, display_unit
from goodbalance.core.errors import BrokenFile, OutOfRange
from goodbalance.core.record.chain import Kind
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.trials.pressure_trend import PressureReport, pressure_findings, pressure_report
from goodbalance.exchange.columns import PRESSURE_TREND
from goodbalance.exchange.tables_csv import Trend, read_pressure_trend
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.columns import NAME, sent_file
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep
from goodbalance.web.rendering import page
from goodbalance.web.work import Work

router = APIRouter()
DRAWN = 1600


@router.get("/stations/{station_id}/pressure-trends", name="show_pressure_trends")
def show_pressure_trends(request: Request, work: WorkDep, seq: int | None = None) -> Response:
    """One trend of the record, the latest where none is named; where there is none, how one is taken in."""
    view = _view(work)
    if seq is None and work.history.trends:
        seq = work.history.trends[-1].seq
    if seq is not None:
        entry = next((entry for entry in work.history.trends if entry.seq == seq), None)
        if entry is None:
            raise HTTPException(404, f"Entry {seq} of this record is no trend.")
        trend = read_pressure_trend(entry.body["text"])
        report, unit = _report(work, trend), display_unit(Quantity.PRESSURE, work.units)
        every = max(1, len(trend.times_s) // DRAWN)
        view |= {
            "entry": entry, "report": report, "rows": len(trend.times_s), "told": pressure_findings(work.survey, work.plan, report),
            "picture": {
                "rows": [[t, unit.from_si(p)] for t, p in zip(trend.times_s[::every], trend.values[::every])],
                "draws": _running(trend), "unit": {"symbol": unit.symbol, "decimals": unit.decimals},
            },
        }  # fmt: skip
    return page(request, "booster/pressure_trends.html", view)


@router.post("/stations/{station_id}/pressure-trends", name="take_pressure_trend", dependencies=[Depends(not_forged)])
def take_pressure_trend(
    form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep,
    save_key: Annotated[str, Form()], file: Annotated[UploadFile | None, File()] = None,
) -> Response:  # fmt: skip
    view, name = _view(work), (file.filename if file is not None else form.get(NAME, "")) or "the file"
    try:
        name, text = sent_file(session, person, form, file, PRESSURE_TREND)
        _report(work, read_pressure_trend(text))
    except (BrokenFile, OutOfRange) as wrong:
        problem = f"{name[:80]}: {wrong}. Nothing was stored."
        return page(request, "booster/pressure_trends.html", {**view, "problem": problem}, status=422)
    body = {"name": name, "text": text}
    (appended,) = records.keep(session, work.row.id, person.name, [Draft(Kind.TREND, body, save_key)])
    url = request.url_for("show_pressure_trends", station_id=work.row.id)
    return RedirectResponse(f"{url}?seq={appended.entry.seq}", status_code=303)


def _report(work: Work, trend: Trend) -> PressureReport:
    return pressure_report(work.plan, trend.times_s, trend.values, trend.pumps)


def _running(trend: Trend) -> list[list[float]]:
    """Stretches in which any pump ran, as [from, to]."""
    found: list[list[float]] = []
    for place, time_s in enumerate(trend.times_s):
        if any(column[place] for column in trend.pumps):
            if found and place and found[-1][1] == trend.times_s[place - 1]:
                found[-1][1] = time_s
            else:
                found.append([time_s, time_s])
    return found[:800]


def _view(work: Work) -> dict[str, Any]:
    if work.kind is not BOOSTER:
        raise HTTPException(422, "Trends of pressure belong to a booster set.")
    if work.survey is None:
        raise HTTPException(409, "Complete the survey first: a trend is judged by the plan.")
    return {"work": work, "view": "prove", "listed": work.history.trends[::-1], "problem": ""}
