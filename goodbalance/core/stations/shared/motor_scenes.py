"""What a bench of any kind shows of a load monitor that tries again, and of a casing that heats up."""

from collections.abc import Iterable
from dataclasses import dataclass

from goodbalance.core.balance.plan import Plan
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.asked import ProtectionFacts
from goodbalance.core.protection.casing import heats_ks
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.names import Guarding, motor_id
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among

SPENT_S, NEAR_SHARE, LEAST_S = 60.0, 0.05, 3.0  # watched beyond the end; how far off a long wait may be


def given_up(events: Iterable[Event]) -> list[tuple[str, int]]:
    """Which pumps were given up and why, in order; 1 for pump 1."""
    return [(event.of, event.pump) for event in among(events, Thing.PUMP, Doing.GIVEN_UP)]


def warm_s(duty: MotorDuty, facts: ProtectionFacts, stop_c: float) -> float:
    """So long a valve is kept shut until the water in a casing must have come to that temperature, and a fifth more. [s]"""
    return 1.2 * (stop_c - duty.water_c) / heats_ks(duty, facts.casing_m3) + SPENT_S


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
        if not tripped:
            return None
        tried = [event.at_s for event in among(events, Thing.PUMP, Doing.STARTS, after_s=tripped[0])]
        if first:
            return tried[0] - tripped[0] if tried else None
        if not self.long_s:
            return len(tried) == self.count
        if len(tried) <= self.count or len(tripped) <= self.count:
            return False
        rested_s = tried[self.count] - tripped[self.count]
        return abs(rested_s - self.long_s) <= max(LEAST_S, NEAR_SHARE * self.long_s)


def guard_of(plan: Plan, number: int) -> Tries:
    """Of the motors whose settings stand under that number."""
    delay_s, wait_s, count, long_s = (
        plan.value(motor_id(each, number), 0.0) for each in (Guarding.UNDERLOAD_DELAY, Guarding.RETRY_WAIT, Guarding.RETRIES, Guarding.LONG_WAIT)
    )  # fmt: skip
    return Tries(delay_s, wait_s, round(count), long_s)
