"""Rehearse: the station on the bench. The page holds start state and actions; the server runs them."""

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import JSONResponse
from pydantic import Field

from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.record.chain import Kind
from goodbalance.core.rehearsal.engine import begun
from goodbalance.core.rehearsal.events import Doing, Event, Thing
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web import computing
from goodbalance.web.guards import SessionDep, WriterDep, not_forged
from goodbalance.web.kinds.pages import pages_of
from goodbalance.web.loading import WorkDep, after_save, load_work
from goodbalance.web.memory import Memory
from goodbalance.web.reckon import plan_view
from goodbalance.web.rendering import clock, page, units_of
from goodbalance.web.running import KEEP_WITHIN_S, BenchAsk, NotKnown, actions_of, check_bench, put_back, take_run
from goodbalance.web.survey import SaveKey, shapes
from goodbalance.web.work import Work

router = APIRouter()
_firsts: Memory[Any, dict[str, Any]] = Memory(64)
MOST_ROWS = 1500
REPLAY_WITHIN_S = 60.0  # how long a kept run is worked out again


class KeepRun(BenchAsk):
    save_key: SaveKey
    note: Annotated[str, Field(max_length=500)] = ""


@router.get("/stations/{station_id}/rehearse", name="show_rehearse")
def show_rehearse(
    request: Request, session: SessionDep, work: WorkDep, run: int | None = None, program: Literal["planned", "as_held"] | None = None
) -> Response:
    """The bench with a new run or a kept one. program: what the controllers run; as they stand once somebody looked at one."""
    more: dict[str, Any] = {"work": work, "view": "rehearse"}
    shown = work
    kept = None
    if run is not None:
        entry, kept = next(((e, body) for e, body in work.history.runs if e.seq == run), (None, None))
        if kept is None:
            raise HTTPException(404, f"There is no kept run number {run} at this station.")
        shown = load_work(session, work.row.id, units_of(request), kept["covers"])
        more["kept_by"] = entry
    if shown.plan is not None:
        looked = any(stand.noted is not None for stand in shown.stands)
        runs = kept.get("program", "planned") if kept is not None else program or ("as_held" if looked else "planned")
        more |= {"program": runs, "looked": looked}
        drawn = shown.as_it_stands() if runs == "as_held" else (shown.plan, shown.choices)
        more |= plan_view(shown, *drawn) | {
            "bench": pages_of(shown).bench(shown),
            "kept": _with_start(shown, kept),
            "run": run,
            "first": _first(shown, runs, _with_start(shown, kept)),
        }
    return page(request, "rehearse.html", more)


def _first(work: Work, program: str, kept: dict[str, Any] | None) -> dict[str, Any]:
    """How everything stands before the run begins, so that the page has its shape before its script asks."""
    at = None if kept is None else kept["start"]
    return _firsts.once((work.head, work.decided, work.units, program, at), lambda: _stands(work, program, at))


def _stands(work: Work, program: str, at: float | None) -> dict[str, Any]:
    plan, start, numbers = work.runs(program, at)
    try:
        run = begun(work.kind.bench(work.survey, work.choices, plan, start, numbers), ())
        run.go_to(0.0)
    except GoodBalanceError:  # devices may hold such numbers; the bench says so when it is asked
        return {"reasons": [], "totals": [], "brief": False, "opened": False}
    reasons = [
        {**line, "links": [{**link, "after": not line["runs"] and place > line["deciding"], "decides": place == line["deciding"]} for place, link in enumerate(line["links"])]}
        for line in _reasons(run.bench, work, 0.0)
    ]
    return {"reasons": reasons, "totals": pages_of(work).totals(run.bench, work), "brief": len(reasons) > 1, "opened": len(reasons) == 2}


def _with_start(work: Work, kept: dict[str, Any] | None) -> dict[str, Any] | None:
    """A kept run with its start state under the one name the page knows."""
    return None if kept is None else {**kept, "start": kept[work.kind.start_name]}


@router.post("/stations/{station_id}/bench", name="run_bench", dependencies=[Depends(not_forged)])
def run_bench(request: Request, session: SessionDep, work: WorkDep, ask: BenchAsk) -> Response:
    """What happened between two times of the run, and how everything stands at the second, or as far as it got by then.

    A page sends what was done since it asked last; a process that lacks what came before says how much it knows.
    """
    stood = work if ask.covers is None else load_work(session, work.row.id, units_of(request), ask.covers)
    try:
        run, there = take_run(stood, ask)
    except NotKnown as lacking:
        return JSONResponse({"known": lacking.known})
    met = ask.next_event and there and bool(run.events) and run.events[-1].at_s > ask.from_s
    to_s = ask.to_s if there and not met else run.now_s
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
        "met": met,
        "columns": ["time_s", *seen.columns],
        "rows": rows,
        "events": events[-400:],
        "now": clock(to_s),
        "reasons": _reasons(seen, work, to_s - run.now_s),
        "totals": pages_of(work).totals(seen, work),
        "alarms": _alarms(seen),
    }
    put_back(stood, ask, run)
    return JSONResponse(answer)


@router.post("/stations/{station_id}/runs", name="keep_run", dependencies=[Depends(not_forged)])
def keep_run(request: Request, session: SessionDep, person: WriterDep, work: WorkDep, ask: KeepRun) -> Response:
    """Store start state and timed actions, with the fingerprint of the run that they give."""
    if not ask.to_s > 0.0:
        raise HTTPException(422, "The run has not begun; start it first.")
    run, there = take_run(work, ask, KEEP_WITHIN_S)
    digest = run.digest()
    put_back(work, ask, run)
    if not there:
        raise HTTPException(422, f"to_s is {ask.to_s:g}; worked out so far: {run.now_s:.0f}. Let the bench run to there, then keep it.")
    body = {
        "covers": work.history.seq,
        work.kind.start_name: ask.start,
        "program": ask.program,
        "until_s": ask.to_s,
        "actions": [act.model_dump() for act in ask.actions],
        "digest": digest,
        "note": ask.note,
    }
    draft = Draft(Kind.REHEARSAL, body, ask.save_key, typed=ask.model_dump())
    (appended,) = records.keep(session, work.row.id, person.name, [draft])
    after = after_save(request, session, work)
    return JSONResponse({"seq": after.history.seq, "run": appended.entry.seq, "progress": shapes(after)})


@router.get("/stations/{station_id}/runs/{run}", name="kept_run")
def kept_run(work: WorkDep, run: int) -> JSONResponse:
    """A kept run as the bench is asked for it: start state, program, the entry whose plan it ran on, what was done and how long."""
    body = next((body for entry, body in work.history.runs if entry.seq == run), None)
    if body is None:
        raise HTTPException(404, f"There is no kept run number {run} at this station.")
    return JSONResponse({"start": body[work.kind.start_name], "program": body.get("program", "planned"), **{part: body[part] for part in ("covers", "until_s", "actions")}})


@router.post("/stations/{station_id}/runs/{run}/replay", name="replay_run", dependencies=[Depends(not_forged)])
def replay_run(request: Request, session: SessionDep, work: WorkDep, run: int) -> Response:
    """Run a kept run again from its start and say whether it went the same way."""
    body = next((body for entry, body in work.history.runs if entry.seq == run), None)
    if body is None:
        raise HTTPException(404, f"There is no kept run number {run} at this station.")
    stood = load_work(session, work.row.id, units_of(request), body["covers"])
    ask = BenchAsk(start=body[work.kind.start_name], actions=body["actions"], from_s=0.0, to_s=body["until_s"])
    check_bench(stood, ask)
    runs = stood.runs(body.get("program", "planned"), ask.start)
    parts = (stood.kind, stood.survey, stood.choices, runs, actions_of(ask), ask.to_s)
    return JSONResponse({"same": computing.answer(computing.digest_of_run, *parts, within_s=REPLAY_WITHIN_S) == body["digest"]})


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
    panel = bench.alarms
    shown = [{"text": panel.words[alarm], "lamp": lamp.value} for alarm, lamp in panel.lamps.items()]
    return {"shown": shown, "sounding": panel.sounding}
