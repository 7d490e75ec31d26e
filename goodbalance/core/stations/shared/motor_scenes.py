"""What a bench of any kind shows of what protects its motors: each pump by itself, in HAND."""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.asked import ProtectionFacts
from goodbalance.core.protection.casing import heats_ks
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.names import Guarding, MotorFault, motor_id
from goodbalance.core.protection.proofs import WATCHED_S, Checks
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among
from goodbalance.core.rehearsal.proving import Look, Scene

SHUT = "shut"  # the fault of a closed valve at one pump, in every kind
SHUT_AT_S = 60.0  # by then a pump that works honestly has shown that its guard lets it
InHand = Callable[[str, float, tuple[TimedAction, ...]], Scene]  # a scene by its name, its end and what is done, with the pump asked for in HAND
SPENT_S, NEAR_SHARE, LEAST_S = 60.0, 0.05, 3.0  # watched beyond the end; how far off a long wait may be


def given_up(events: Iterable[Event]) -> list[tuple[str, int]]:
    """Which pumps were given up and why, in order; 1 for pump 1."""
    return [(event.of, event.pump) for event in among(events, Thing.PUMP, Doing.GIVEN_UP)]


def warm_s(duty: MotorDuty, facts: ProtectionFacts, stop_c: float) -> float:
    """So long a valve is kept shut until the water in a casing must have come to that temperature, and a fifth more. [s]"""
    return 1.2 * (stop_c - duty.water_c) / heats_ks(duty, facts.casing_m3) + SPENT_S


def began_again(stopped_s: list[float], began_s: list[float], count: int, long_s: float, first: bool) -> float | bool | None:
    """The first wait, where that is asked; else whether it began again so often, and after that what was planned: a long wait, or a person (0). None where nothing was stopped."""
    if not stopped_s:
        return None
    if first:
        return began_s[0] - stopped_s[0] if began_s else None
    if not long_s:
        return len(began_s) == count
    if len(began_s) <= count or len(stopped_s) <= count:
        return False
    return abs(began_s[count] - stopped_s[count] - long_s) <= max(LEAST_S, NEAR_SHARE * long_s)


@dataclass(frozen=True, slots=True)
class Tries:
    """How a load monitor stops a pump and lets it try again, as planned. long_s: 0 where a person comes after the last try."""

    delay_s: float
    wait_s: float
    count: int
    long_s: float

    @property
    def ends_s(self) -> float:
        """From the cause on, so long until what comes after the last try has been seen."""
        spent_s = self.count * (self.wait_s + self.delay_s) + self.delay_s
        return spent_s + max(self.long_s, self.wait_s) * 1.2 + self.delay_s + SPENT_S

    def seen(self, events: tuple[Event, ...] | list[Event], first: bool) -> float | bool | None:
        """The first wait, where that is asked; else whether so many tries came, and after them what was planned."""
        tripped = [event.at_s for event in among(events, Thing.PUMP, Doing.GIVEN_UP, of=Trip.UNDERLOAD)]
        tried = [event.at_s for event in among(events, Thing.PUMP, Doing.STARTS, after_s=tripped[0] if tripped else math.inf)]
        return began_again(tripped, tried, self.count, self.long_s, first)


def guard_of(plan: Plan, number: int) -> Tries:
    """Of the motors whose settings stand under that number."""
    delay_s, wait_s, count, long_s = (
        plan.value(motor_id(each, number), 0.0) for each in (Guarding.UNDERLOAD_DELAY, Guarding.RETRY_WAIT, Guarding.RETRIES, Guarding.LONG_WAIT)
    )  # fmt: skip
    return Tries(delay_s, wait_s, round(count), long_s)


def hand_shown(proof: Proof, checks: Checks, plan: Plan, duty: MotorDuty, facts: ProtectionFacts, scene: InHand) -> tuple[Scene, Look[Any]] | None:
    """The scene of a guard of one pump and what to look at; None where it needs a person. plan: with the wanted numbers."""
    pump, number = proof.of, duty.number
    shut = TimedAction(SHUT_AT_S, SHUT, pump, 1.0)
    if proof.check == checks.hot:
        off = TimedAction(0.0, MotorFault.WINDING, pump, 1.0)
        return scene(f"contacts in the winding of pump {pump} open", 60.0, (off,)), lambda run: given_up(run.events) == [(Trip.HOT, int(pump))]
    if proof.check == checks.overload:
        made = scene(f"pump {pump} blocked", 2.0 * proof.expected + 30.0, (TimedAction(0.0, MotorFault.STALLED, pump, 1.0),))
        return made, lambda run: _given_up_s(run.events, 0.0, Trip.OVERLOAD)
    if proof.check == checks.casing:
        if facts.closed_trips and motor_id(Guarding.UNDERLOAD, number) in plan:
            return None  # its load monitor is there first
        made = scene(f"valve of pump {pump} shut until its casing is hot", SHUT_AT_S + warm_s(duty, facts, proof.expected), (shut,))
        return made, lambda run: run.bench.motors.watches[int(pump) - 1].stopped_c
    if proof.check in (checks.waits, checks.tries):
        if not facts.closed_trips:
            return None
        guard = guard_of(plan, number)
        return scene(f"valve of pump {pump} left shut", SHUT_AT_S + guard.ends_s, (shut,)), lambda run: guard.seen(run.events, proof.answer is Answer.NUMBER)
    if proof.answer is Answer.NUMBER:
        made = scene(f"valve of pump {pump} shut", SHUT_AT_S + 2.0 * proof.expected + 30.0, (shut,))
        return made, lambda run: _given_up_s(run.events, SHUT_AT_S, Trip.UNDERLOAD)
    delay_s = plan.value(motor_id(Guarding.UNDERLOAD_DELAY, number), 0.0)
    made = scene(f"valve of pump {pump} shut", SHUT_AT_S + delay_s + WATCHED_S, (shut,))
    return made, lambda run: not run.bench.logic.tripped[int(pump) - 1] and int(pump) - 1 in run.bench.running


def _given_up_s(events: Iterable[Event], from_s: float, trip: Trip) -> float | None:
    """How long after an instant a pump was first given up for that. None where it was given up before, or not."""
    gone = next(among(events, Thing.PUMP, Doing.GIVEN_UP), None)
    return gone.at_s - from_s if gone is not None and gone.of == trip and gone.at_s >= from_s else None
