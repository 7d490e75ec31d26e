"""Runs of the bench that are going on: a page asks for the next stretch, and the run goes on from where this process left it."""

import hashlib
import threading
import time
from typing import Any, Literal

from fastapi import HTTPException
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.record.bodies import Act
from goodbalance.core.rehearsal.engine import LONGEST_RUN_S, Run, TimedAction, begun, check_order
from goodbalance.web import computing
from goodbalance.web.memory import Memory
from goodbalance.web.work import Work

LOOK_WITHIN_S, KEEP_WITHIN_S = 2.0, 15.0  # how long a run is worked out for one question
TURN_WITHIN_S = 10.0
MOST_ACTIONS = 2000
_benches = threading.Semaphore(2)  # runs that move at a time in this process
_runs: Memory[str, Run[Any]] = Memory(24)


class BenchAsk(BaseModel):
    """A run so far as the page knows it, and the stretch of time it wants to see."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    start: float = Field(ge=0.0, le=1e7)  # a level in m or a pressure in Pa, by the kind of station
    actions: tuple[Act, ...] = Field(max_length=MOST_ACTIONS)
    from_s: float = Field(ge=0.0, le=LONGEST_RUN_S)
    to_s: float = Field(ge=0.0, le=LONGEST_RUN_S)
    covers: int | None = None  # replay on the plan as it stood at this entry
    name: str = Field("", max_length=64)  # of a run that goes on, chosen by the page
    program: Literal["planned", "as_held"] = "planned"  # what the controllers run: the plan, or what was seen of them
    next_event: bool = False  # stop at the first thing that happens after from_s
    known: int = Field(0, ge=0, le=MOST_ACTIONS)  # how many actions of it were sent before; `actions` are those after


class NotKnown(Exception):
    """This process has fewer actions of the run than the page takes for known: it sends those after `known` again."""

    def __init__(self, known: int) -> None:
        super().__init__(known)
        self.known = known


def actions_of(ask: BenchAsk) -> tuple[TimedAction, ...]:
    return tuple(TimedAction(act.at_s, act.kind, act.target, act.value) for act in ask.actions)


def _check_length(work: Work, ask: BenchAsk) -> None:
    longest_s = work.kind.longest_run_s
    if ask.to_s > longest_s:
        raise HTTPException(422, f"to_s is {ask.to_s:g}; the bench runs this station up to {longest_s:g} s.")
    if ask.next_event and ask.from_s > ask.to_s:
        raise HTTPException(422, f"from_s is {ask.from_s:g}; accepted where the next event is asked for: up to to_s, {ask.to_s:g}.")


def check_bench(work: Work, ask: BenchAsk) -> None:
    _check_length(work, ask)
    if work.plan is None:
        raise HTTPException(409, "There is no plan to rehearse yet: complete the survey first.")


def _run_key(work: Work, ask: BenchAsk) -> str:
    parts = (
        work.history.uid,
        work.history.seq,
        work.history.last.hash if work.history.last else "",
        ask.start,
        ask.program,
        ask.name or ask.actions[:1],
    )
    return hashlib.sha256(repr(parts).encode()).hexdigest()


def take_run(work: Work, ask: BenchAsk, within_s: float | None = None) -> tuple[Run[Any], bool]:
    """The run up to ask.to_s, or as far as it gets in so much time, and whether it got there.

    It goes on from where this process left it, or from the start. The result is the same. With next_event it gets as far as
    the next event, or to ask.to_s where nothing happens before. Raises NotKnown.
    """
    check_bench(work, ask)
    key = _run_key(work, ask)
    run = _runs.take(key)
    before = () if run is None else run.actions
    if ask.known > len(before):
        if run is not None:
            _runs.put(key, run)
        raise NotKnown(len(before))
    actions = before[: ask.known] + actions_of(ask)
    if len(actions) > MOST_ACTIONS:
        raise HTTPException(422, f"actions are {len(actions)}; a run takes up to {MOST_ACTIONS}.")
    check_order(actions)
    if run is not None:
        rest = actions[run.taken :]
        if actions[: run.taken] != before[: run.taken] or run.now_s > (ask.from_s if ask.next_event else ask.to_s) or (rest and rest[0].at_s <= run.now_s):
            run = None  # what comes at the instant of its last scan comes before that scan
    if not _benches.acquire(timeout=TURN_WITHIN_S):
        raise computing.Busy
    try:
        if run is None:
            run = begun(work.kind.bench(work.survey, work.choices, *work.runs(ask.program, ask.start)), actions)
        run.actions = actions
        until = time.monotonic() + (LOOK_WITHIN_S if within_s is None else within_s)
        there = run.go_to(ask.from_s if ask.next_event else ask.to_s, lambda: time.monotonic() > until)
        return run, there and (not ask.next_event or run.go_to(ask.to_s, lambda: time.monotonic() > until, to_event=True))
    finally:
        _benches.release()


def put_back(work: Work, ask: BenchAsk, run: Run[Any]) -> None:
    _runs.put(_run_key(work, ask), run)
