"""Trends of levels from a CSV file: what they tell, where they contradict the survey, and what of them is used."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, File, Form, HTTPException, Request, Response, UploadFile
from fastapi.responses import RedirectResponse

from goodbalance.core.balance.facts import sections
from goodbalance.core.balance.quantities import Quantity, UnitSystem, display_unit
from goodbalance.core.errors import BrokenFile, OutOfRange
from goodbalance.core.record.chain import Entry, Kind
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.trials.measured import measure
from goodbalance.core.stations.lift.trials.trends import drawdown_runs, hourly_m3s, trend_findings, trend_report
from goodbalance.exchange.columns import LEVEL_TREND, VOLUME_TABLE
from goodbalance.exchange.tables_csv import Trend, read_level_trend, read_volume_table
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.columns import NAME, sent_file
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep
from goodbalance.web.memory import Memory
from goodbalance.web.rendering import page
from goodbalance.web.work import Work

router = APIRouter()
DRAWN = 1600  # points of the drawing
_read: Memory[str, Trend] = Memory(8)
Upload = Annotated[UploadFile | None, File()]


@router.get("/stations/{station_id}/trends", name="show_trends")
def show_trends(request: Request, work: WorkDep) -> Response:
    """The latest trend of the record; where there is none, how one is taken in."""
    if work.history.trends:
        return show_trend(request, work, work.history.trends[-1].seq)
    return page(request, "lift/trends.html", _view(work))


@router.get("/stations/{station_id}/trends/{seq}", name="show_trend")
def show_trend(request: Request, work: WorkDep, seq: int) -> Response:
    entry = _entry(work, seq)
    return page(request, "lift/trends.html", {**_view(work), **_told(work, entry)})


@router.post("/stations/{station_id}/trends", name="take_trend", dependencies=[Depends(not_forged)])
def take_trend(
    form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep, save_key: Annotated[str, Form()], file: Upload = None
) -> Response:  # fmt: skip
    view, name = _view(work), (file.filename if file is not None else form.get(NAME, "")) or "the file"
    try:
        name, text = sent_file(session, person, form, file, LEVEL_TREND)
        _report(work, read_level_trend(text))
    except (BrokenFile, OutOfRange) as wrong:
        problem = f"{name[:80]}: {wrong}. Nothing was stored."
        return page(request, "lift/trends.html", {**view, "problem": problem}, status=422)
    body = {"name": name, "text": text}
    (appended,) = records.keep(session, work.row.id, person.name, [Draft(Kind.TREND, body, save_key)])
    return RedirectResponse(
        request.url_for("show_trend", station_id=work.row.id, seq=appended.entry.seq), status_code=303
    )


@router.post("/stations/{station_id}/trends/{seq}/use", name="use_trend", dependencies=[Depends(not_forged)])
def use_trend(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep, seq: int) -> Response:
    """Take what a trend tells into the record: its inflows into the survey, or its cycles as drawdowns of one pump."""
    entry = _entry(work, seq)
    report = _report(work, _trend(entry))
    what, save_key = str(form.get("what", "")), str(form.get("save_key", "")) or None
    if what == "inflow":
        unit = display_unit(Quantity.FLOW, UnitSystem.METRIC)
        hours = hourly_m3s(report)
        mean_m3s = sum(hours) / len(hours) if hours else report.inflow_mean_m3s  # a whole day counts each hour once
        seen = {"min": report.inflow_min_m3s, "mean": mean_m3s, "peak": report.inflow_peak_m3s}
        changes = {
            f"inflow.{name}_m3s": {"text": f"{unit.from_si(max(0.0, value)):.3f}", "units": "metric"}
            for name, value in seen.items()
        }
        if hours:
            changes["inflow.hourly"] = {"text": "yes", "units": "metric"}
        for hour, flow in enumerate(hours):
            text = f"{unit.from_si(max(0.0, flow)):.3f}"
            changes[f"inflow.hours.{hour}.flow_m3s"] = {"text": text, "units": "metric"}
        records.keep(session, work.row.id, person.name, [Draft(Kind.FACTS, {"changes": changes}, save_key)])
        return RedirectResponse(
            f"{request.url_for('show_survey', station_id=work.row.id)}#part-inflow", status_code=303
        )
    pump = int(what.removeprefix("pump_")) if what.removeprefix("pump_").isdecimal() else 0
    if not 1 <= pump <= len(work.survey_as_written.pumps):
        raise HTTPException(
            422, f"what is {what[:40]!r}; accepted: inflow, or pump_1 to pump_{len(work.survey_as_written.pumps)}."
        )
    runs = drawdown_runs(report, pump)
    if not runs:
        raise HTTPException(422, f"In this trend pump {pump} never ran alone.")
    measure(work.survey_as_written, pump, runs)
    body = {"pump": pump, "runs": runs}
    records.keep(session, work.row.id, person.name, [Draft(Kind.DRAWDOWN, body, save_key)])
    return RedirectResponse(f"{request.url_for('show_drawdown', station_id=work.row.id)}?pump={pump}", status_code=303)


@router.post("/stations/{station_id}/table-csv", name="take_table", dependencies=[Depends(not_forged)])
def take_table(
    form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep, save_key: Annotated[str, Form()], file: Upload = None
) -> Response:  # fmt: skip
    """A table of level and volume into the survey of the well."""
    paths = {question.path for part in sections(work.kind.survey_model) for question in part.facts}
    lines = sum(f"well.table.{row}.level_m" in paths for row in range(100))
    if not lines:
        raise HTTPException(422, "A station of this kind has no table of level and volume.")
    name = (file.filename if file is not None else form.get(NAME, "")) or "the file"
    try:
        points = read_volume_table(sent_file(session, person, form, file, VOLUME_TABLE)[1], lines)
    except BrokenFile as wrong:
        raise HTTPException(422, f"{name[:80]}: {wrong}. Nothing was stored.") from wrong
    texts = {"well.shape": "table"}
    for row in range(lines):
        level, volume = (f"{value:.6g}" for value in points[row]) if row < len(points) else ("", "")
        texts |= {f"well.table.{row}.level_m": level, f"well.table.{row}.volume_m3": volume}
    changes = {path: {"text": text, "units": "metric"} for path, text in texts.items()}
    records.keep(session, work.row.id, person.name, [Draft(Kind.FACTS, {"changes": changes}, save_key)])
    return RedirectResponse(f"{request.url_for('show_survey', station_id=work.row.id)}#part-well", status_code=303)


def _entry(work: Work, seq: int) -> Entry:
    found = next((entry for entry in work.history.trends if entry.seq == seq), None)
    if found is None:
        raise HTTPException(404, f"Entry {seq} of this record is no trend.")
    return found


def _trend(entry: Entry) -> Trend:
    """A trend of the record, read once; only a cache."""
    return _read.once(entry.hash, lambda: read_level_trend(entry.body["text"]))


def _report(work: Work, trend: Trend) -> Any:
    return trend_report(
        work.survey_as_written, trend.times_s, trend.values, trend.pumps, trend.clock_s
    )


def _told(work: Work, entry: Entry) -> dict[str, Any]:
    trend = _trend(entry)
    report = _report(work, trend)
    level, every = display_unit(Quantity.LEVEL, work.units), max(1, len(trend.times_s) // DRAWN)
    picture = {
        "rows": [[t, level.from_si(h)] for t, h in zip(trend.times_s[::every], trend.values[::every])],
        "draws": [[cycle.draw.from_s, cycle.draw.to_s, cycle.pump] for cycle in report.cycles[:400]],
        "unit": {"symbol": level.symbol, "decimals": level.decimals},
    }
    return {
        "entry": entry, "report": report, "picture": picture, "rows": len(trend.times_s),
        "told": trend_findings(work.survey_as_written, work.plan, report),
    }  # fmt: skip


def _view(work: Work) -> dict[str, Any]:
    if work.kind is not LIFT:
        raise HTTPException(422, "Trends of levels belong to a station with a level.")
    if work.survey_as_written is None:
        raise HTTPException(409, "Complete the survey first: flows follow from the area of the well.")
    return {
        "work": work,
        "view": "survey",
        "new_trends": work.history.trends[::-1],
        "problem": "",
        "pumps": len(work.survey_as_written.pumps),
    }
