"""Rehearse: the station on the bench. The page holds start state and actions; the server runs them."""

import hashlib
import threading
import time
from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.record.bodies import Act
from goodbalance.core.record.chain import Kind
from goodbalance.core.rehearsal.engine import LONGEST_RUN_S, Run, TimedAction, begun
from goodbalance.core.rehearsal.events import Doing, Event, Thing
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web import computing
from goodbalance.web.bench_views import VIEWS
from goodbalance.web.guards import SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep, after_save, load_work
from goodbalance.web.memory import Memory
from goodbalance.web.reckon import plan_view
from goodbalance.web.rendering import clock, page, part, units_of
from goodbalance.web.survey import SaveKey, shapes
from goodbalance.web.work import Work

router = APIRouter()
MOST_ROWS = 1500
DAY_S = 86400.0
LOOK_WITHIN_S, KEEP_WITHIN_S, REPLAY_WITHIN_S = 2.0, 15.0, 60.0  # how long a run is worked out for one question
TURN_WITHIN_S = 10.0
_benches = threading.Semaphore(2)  # runs that move at a time in this process
_runs: Memory[str, Run] = Memory(24)


class BenchAsk(BaseModel):
    """A run so far as the page knows it, and the stretch of time it wants to see."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    start: float = Field(ge=0.0, le=1e7)  # a level in m or a pressure in Pa, by the kind of station
    actions: tuple[Act, ...] = Field(max_length=2000)
    from_s: float = Field(ge=0.0, le=LONGEST_RUN_S)
    to_s: float = Field(ge=0.0, le=LONGEST_RUN_S)
    covers: int | None = None  # replay on the plan as it stood at this entry


class KeepRun(BenchAsk):
    save_key: SaveKey
    note: Annotated[str, Field(max_length=500)] = ""


@router.get("/stations/{station_id}/rehearse", name="show_rehearse")
def show_rehearse(request: Request, session: SessionDep, work: WorkDep, run: int | None = None) -> Response:
    more: dict[str, Any] = {"work": work, "view": "rehearse"}
    shown = work
    kept = None
    if run is not None:
        entry, kept = next(((e, body) for e, body in work.history.runs if e.seq == run), (None, None))
        if kept is None:
            raise HTTPException(404, f"There is no kept run number {run} at this station.")
        shown = load_work(session, work.row.id, units_of(request), kept["covers"])
        more["kept_by"] = entry
    if shown.plan is not None and not any(s.window.is_empty for s in shown.plan.settings):
        more |= plan_view(shown, shown.plan, shown.choices) | {
            "bench": VIEWS[shown.kind.id].view(shown),
            "kept": _with_start(shown, kept),
            "run": run,
        }
    return page(request, "rehearse.html", more)


def _with_start(work: Work, kept: dict[str, Any] | None) -> dict[str, Any] | None:
    """A kept run with its start state under the one name the page knows."""
    return None if kept is None else {**kept, "start": kept[work.kind.start_name]}


@router.post("/stations/{station_id}/bench", name="run_bench", dependencies=[Depends(not_forged)])
def run_bench(request: Request, session: SessionDep, work: WorkDep, ask: BenchAsk) -> Response:
    """What happened between two times of the run, and how everything stands at the second, or as far as it got by then."""
    stood = work if ask.covers is None else load_work(session, work.row.id, units_of(request), ask.covers)
    run, there = _take_run(stood, ask)
    to_s = ask.to_s if there else run.now_s
    seen = run.seen_at(to_s)
    rows = [row for row in run.trace if row[0] > ask.from_s or ask.from_s == 0.0]
    rows = rows[:: max(1, len(rows) // MOST_ROWS + 1)] + [(to_s, *seen.sample(to_s))]
    events = [
        {"at": clock(event.at_s), "at_s": event.at_s, "look": _look(event), "text": event.worded(work.units)}
        for event in run.events
        if event.at_s > ask.from_s or ask.from_s == 0.0
    ]
    answer = {
        "to_s": to_s,  # less than was asked for where that takes long: ask again
        "columns": ["time_s", *seen.columns],
        "rows": rows,
        "events": events[-400:],
        "now": clock(to_s),
        "reasons": _reasons(seen, work, to_s - run.now_s),
        "totals": VIEWS[work.kind.id].totals(seen, work),
        "alarms": _alarms(seen),
    }
    _put_back(stood, ask, run)
    return JSONResponse(answer)


@router.post("/stations/{station_id}/runs", name="keep_run", dependencies=[Depends(not_forged)])
def keep_run(request: Request, session: SessionDep, person: WriterDep, work: WorkDep, ask: KeepRun) -> Response:
    """Store start state and timed actions, with the fingerprint of the run that they give."""
    if not ask.to_s > 0.0:
        raise HTTPException(422, "The run has not begun; start it first.")
    run, there = _take_run(work, ask, KEEP_WITHIN_S)
    digest = run.digest()
    _put_back(work, ask, run)
    if not there:
        raise HTTPException(422, f"to_s is {ask.to_s:g}; worked out so far: {run.now_s:.0f}. Let the bench run to there, then keep it.")
    body = {
        "covers": work.history.seq,
        work.kind.start_name: ask.start,
        "until_s": ask.to_s,
        "actions": [act.model_dump() for act in ask.actions],
        "digest": digest,
        "note": ask.note,
    }
    draft = Draft(Kind.REHEARSAL, body, ask.save_key, typed=ask.model_dump())
    (appended,) = records.keep(session, work.row.id, person.name, [draft])
    after = after_save(request, session, work)
    return JSONResponse({"seq": after.history.seq, "run": appended.entry.seq, "progress": shapes(after)})


@router.post("/stations/{station_id}/runs/{run}/replay", name="replay_run", dependencies=[Depends(not_forged)])
def replay_run(request: Request, session: SessionDep, work: WorkDep, run: int) -> Response:
    """Run a kept run again from its start and say whether it went the same way."""
    body = next((body for entry, body in work.history.runs if entry.seq == run), None)
    if body is None:
        raise HTTPException(404, f"There is no kept run number {run} at this station.")
    stood = load_work(session, work.row.id, units_of(request), body["covers"])
    ask = BenchAsk(start=body[work.kind.start_name], actions=body["actions"], from_s=0.0, to_s=body["until_s"])
    _check_bench(stood, ask)
    parts = (stood.kind.id, stood.survey, stood.choices, stood.plan, ask.start, _actions(ask), ask.to_s)
    return JSONResponse({"same": computing.answer(computing.digest_of_run, *parts, within_s=REPLAY_WITHIN_S) == body["digest"]})


class WeekAsk(BaseModel):
    """How many days of the week to have run."""

    model_config = ConfigDict(extra="forbid")
    days: int = Field(ge=1, le=7)


@router.post("/stations/{station_id}/week", name="run_week", dependencies=[Depends(not_forged)])
def run_week(request: Request, work: WorkDep, ask: WeekAsk) -> Response:
    """Run on by the day pattern to the end of a day and sum up. The page asks day by day, so it can show and stop."""
    if work.kind.levels is None:
        raise HTTPException(422, "A week of days is run of stations with a level.")
    start_m = VIEWS[work.kind.id].view(work)["start"] if work.plan is not None else 0.0
    pattern = Act(at_s=0.0, kind="pattern", value=1.0)
    whole = BenchAsk(start=start_m, actions=(pattern,), from_s=0.0, to_s=ask.days * DAY_S)
    run, there = _take_run(work, whole, KEEP_WITHIN_S)
    if not there:
        _put_back(work, whole, run)
        raise computing.TooLong
    summed = work.kind.levels.report(run)
    html = part(request, "_week.html", {"work": work, "report": summed, "days": ask.days})
    _put_back(work, whole, run)
    return JSONResponse({"days": ask.days, "html": html})


def _actions(ask: BenchAsk) -> tuple[TimedAction, ...]:
    return tuple(TimedAction(act.at_s, act.kind, act.target, act.value) for act in ask.actions)


def _check_length(work: Work, ask: BenchAsk) -> None:
    longest_s = work.kind.longest_run_s
    if ask.to_s > longest_s:
        raise HTTPException(422, f"to_s is {ask.to_s:g}; the bench runs this station up to {longest_s:g} s.")


def _check_bench(work: Work, ask: BenchAsk) -> None:
    _check_length(work, ask)
    if work.plan is None or any(setting.window.is_empty for setting in work.plan.settings):
        raise HTTPException(409, "There is no plan to rehearse yet: complete the survey and open every window first.")


def _run_key(work: Work, ask: BenchAsk) -> str:
    parts = (
        work.history.uid,
        work.history.seq,
        work.history.last.hash if work.history.last else "",
        ask.start,
        ask.actions[:1],
    )
    return hashlib.sha256(repr(parts).encode()).hexdigest()


def _take_run(work: Work, ask: BenchAsk, within_s: float | None = None) -> tuple[Run, bool]:
    """The run up to ask.to_s, or as far as it gets in so much time, and whether it got there.

    It goes on from where this process left it, or from the start. The result is the same.
    """
    _check_bench(work, ask)
    actions = _actions(ask)
    key = _run_key(work, ask)
    run = _runs.take(key)
    if run is not None:
        same_past = actions[: run.taken] == run.actions[: run.taken]
        rest = actions[run.taken :]
        if not same_past or run.now_s > ask.to_s or (rest and rest[0].at_s < run.now_s):
            run = None
    if not _benches.acquire(timeout=TURN_WITHIN_S):
        raise computing.Busy
    try:
        if run is None:
            run = begun(work.kind.bench(work.survey, work.choices, work.plan, ask.start), actions)
        run.actions = actions
        until = time.monotonic() + (LOOK_WITHIN_S if within_s is None else within_s)
        return run, run.go_to(ask.to_s, lambda: time.monotonic() > until)
    finally:
        _benches.release()


def _put_back(work: Work, ask: BenchAsk, run: Run) -> None:
    _runs.put(_run_key(work, ask), run)


def _reasons(bench: Any, work: Work, since_scan_s: float) -> list[dict[str, Any]]:
    found = []
    for line in bench.reasons():
        links = []
        for link in line.links:
            left = None if link.remaining_s is None else max(0.0, link.remaining_s)
            links.append(
                {"name": link.name, "state": link.state.value, "text": link.worded(work.units), "left_s": left}
            )
        found.append({"pump": line.pump, "runs": line.runs, "deciding": line.deciding, "links": links})
    return found


def _look(event: Event) -> str:
    """How an event is set on the page: what hurts stands out, what a person did stands apart."""
    hurts = event.thing in (Thing.HARM, Thing.LIMIT) or event.doing is Doing.GIVEN_UP
    return "harm" if hurts else event.thing.value


def _alarms(bench: Any) -> dict[str, Any]:
    """What is up on the alarm panel, the newest last, and whether it sounds."""
    panel = bench.logic.alarms
    shown = [{"text": panel.words[alarm], "lamp": lamp.value} for alarm, lamp in panel.lamps.items()]
    return {"shown": shown, "sounding": panel.sounding}
