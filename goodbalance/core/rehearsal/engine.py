"""The bench engine: a start state plus timed actions gives the same run every time.

It scans the controller on a grid, of one second unless the bench wants a finer one. Where nothing can change for a while (no timer ends, no level is
near a switching point) it takes one longer step instead of many short ones.
"""

import copy
import hashlib
import json
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Generic, Protocol, Self, TypeVar

from goodbalance.core.control.alarms import AlarmPanel
from goodbalance.core.control.reasons import ReasonLine
from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.events import Event

SCAN_S = 1.0
LONGEST_RUN_S = 8.0 * 86400.0


@dataclass(frozen=True, slots=True)
class TimedAction:
    """What the person does to the bench at a time: turn a switch, set the inflow, break or mend something."""

    at_s: float
    kind: str
    target: str
    value: float


class Bench(Protocol):
    """A station and its controller that can be run. Facts and equations among its parts are shared by its copies."""

    scan_s: float  # the grid of its scans

    @property
    def alarms(self) -> AlarmPanel:
        """What its controller tells by lamp and sounder."""

    def act(self, action: TimedAction) -> list[Event]:
        """Take an action. Raises OutOfRange for one this bench does not know."""

    def scan(self, now_s: float) -> list[Event]:
        """Let the controller read and act once; what changed."""

    def quiet_s(self, now_s: float) -> float:
        """How long the controller's scans can change nothing. [s]"""

    def peek(self, now_s: float, step_s: float) -> Self:
        """A copy with the plant moved on by less than quiet_s, to look at between scans."""

    def advance(self, now_s: float, step_s: float) -> None:
        """Let the plant run."""

    def sample(self, now_s: float) -> tuple[float, ...]:
        """One row of the trace, in the order of columns."""

    def reasons(self) -> tuple[ReasonLine, ...]:
        """Why each pump runs or not, now."""

    @property
    def start(self) -> float:
        """The state it can be started from again: the level or pressure at which it stands, in SI."""

    @property
    def columns(self) -> tuple[str, ...]:
        """Names of the trace's columns, units in the name."""


AnyBench = TypeVar("AnyBench", bound=Bench)


@dataclass
class Run(Generic[AnyBench]):
    """A run so far: the bench at its present instant, the trace behind it, and the events."""

    bench: AnyBench
    actions: tuple[TimedAction, ...] = ()
    now_s: float = 0.0
    taken: int = 0
    trace: list[tuple[float, ...]] = field(default_factory=list)
    events: list[Event] = field(default_factory=list)

    def go_to(self, until_s: float, enough: Callable[[], bool] = lambda: False, to_event: bool = False) -> bool:
        """Run on to the last scan at or before a time; actions due on the way are taken at their time.

        A step is never cut short by the time asked for, so that looking at a run does not change it. enough: asked between
        steps whether to leave it at that for now. to_event: stop at the first later scan at which something happens.
        Returns whether it got there.
        """
        if not self.now_s <= until_s <= LONGEST_RUN_S:
            raise OutOfRange("until_s", until_s, f"{self.now_s:g} to {LONGEST_RUN_S:g}")
        came_s = self.now_s
        while True:
            before = len(self.events)
            self._scan_once()
            if to_event and self.now_s > came_s and len(self.events) > before:
                return True
            scan_s = self.bench.scan_s
            step_s = max(scan_s, scan_s * int(self.bench.quiet_s(self.now_s) / scan_s))
            next_s = self.now_s + step_s
            if self.taken < len(self.actions):
                next_s = min(next_s, self.actions[self.taken].at_s)
            if next_s > until_s:
                return True
            self.bench.advance(self.now_s, next_s - self.now_s)
            self.now_s = next_s
            if enough():
                before = len(self.events)
                self._scan_once()  # what happens at this instant belongs to what has been run
                return to_event and len(self.events) > before

    def _scan_once(self) -> None:
        """Take the actions that are due, scan, and note it; a second scan at the same instant only takes actions."""
        due = False
        while self.taken < len(self.actions) and self.actions[self.taken].at_s <= self.now_s:
            self.events += self.bench.act(self.actions[self.taken])
            self.taken += 1
            due = True
        scanned = bool(self.trace) and self.trace[-1][0] == self.now_s
        if due or not scanned:
            self.events += self.bench.scan(self.now_s)
            self.trace.append((self.now_s, *self.bench.sample(self.now_s)))

    def branch(self) -> "Run[AnyBench]":
        """A second run that stands where this one does and goes its own way from here."""
        bench = copy.deepcopy(self.bench)
        return Run(bench, self.actions, self.now_s, self.taken, list(self.trace), list(self.events))

    def seen_at(self, until_s: float) -> AnyBench:
        """The bench as it stands between the last scan and a time up to which go_to has run."""
        step_s = until_s - self.now_s
        return self.bench.peek(self.now_s, step_s) if step_s > 0.0 else self.bench

    def digest(self) -> str:
        """A fingerprint of trace and events: two runs with the same one went the same way."""
        rows = [[round(value, 6) for value in row] for row in self.trace]
        said = [[round(event.at_s, 3), event.thing, event.doing, event.of, event.pump] for event in self.events]
        return hashlib.sha256(json.dumps([rows, said]).encode()).hexdigest()


def rehearse(bench: AnyBench, actions: tuple[TimedAction, ...], until_s: float) -> Run[AnyBench]:
    """Run a fresh bench through timed actions to a time. Actions must be in order and not before 0."""
    run = begun(bench, actions)
    run.go_to(until_s)
    return run


def begun(bench: AnyBench, actions: tuple[TimedAction, ...]) -> Run[AnyBench]:
    """A run of a fresh bench that has not moved yet. Raises OutOfRange where the actions are not in order of time."""
    check_order(actions)
    return Run(bench, actions)


def check_order(actions: tuple[TimedAction, ...]) -> None:
    """Raises OutOfRange where actions are not in order of time, or before 0."""
    for earlier, later in zip(actions, actions[1:]):
        if not earlier.at_s <= later.at_s:
            raise OutOfRange("at_s", later.at_s, f"{earlier.at_s:g} or later, actions are in order of time")
    if actions and not actions[0].at_s >= 0.0:
        raise OutOfRange("at_s", actions[0].at_s, "0 or more")
