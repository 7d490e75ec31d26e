"""What to look at in a run of a ring, to judge a proof."""

from goodbalance.core.rehearsal.engine import Run
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among
from goodbalance.core.stations.circulator.bench.rehearse import RingBench
from goodbalance.core.stations.circulator.names import Alarm, Harm

RingRun = Run[RingBench]


def first_start(run: RingRun, after_s: float = -1.0) -> Event | None:
    """The first start of the pump later than a time. [s]"""
    return next(among(run.events, Thing.PUMP, Doing.STARTS, after_s=after_s), None)


def first_stop(run: RingRun, after_s: float = -1.0) -> Event | None:
    """Its first stop later than a time. [s]"""
    return next(among(run.events, Thing.PUMP, Doing.STOPS, after_s=after_s), None)


def passed(run: RingRun, of: str) -> float | None:
    """How long an opened tap took to become hot, or a cold one cold. [s]"""
    event = next(among(run.events, Thing.CONTACT, Doing.PASSES, of=of), None)
    return None if event is None else event.value("w")


def alarm(run: RingRun, which: Alarm, after_s: float = -1.0) -> Event | None:
    """When an alarm first came. [s]"""
    return next(among(run.events, Thing.ALARM, Doing.COMES, of=which, after_s=after_s), None)


def harm(run: RingRun, which: Harm) -> Event | None:
    """When a harm first came. [s]"""
    return next(among(run.events, Thing.HARM, Doing.COMES, of=which), None)


def at_c(event: Event | None) -> float | None:
    """The return at which something happened. [degrees C]"""
    return None if event is None else event.value("t")


def between_s(first: Event | None, second: Event | None) -> float | None:
    """The time from one event to another. [s]"""
    return None if first is None or second is None else second.at_s - first.at_s
