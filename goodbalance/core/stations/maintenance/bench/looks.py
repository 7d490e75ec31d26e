"""What to look at in a run of a maintenance pump, to judge a proof."""

from goodbalance.core.rehearsal.engine import Run
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among
from goodbalance.core.stations.maintenance.bench.rehearse import MaintenanceBench
from goodbalance.core.stations.maintenance.names import Alarm, Harm, State

MaintenanceRun = Run[MaintenanceBench]


def first_start(run: MaintenanceRun, after_s: float = -1.0) -> Event | None:
    """The first start of the pump later than a time. [s]"""
    return next(among(run.events, Thing.PUMP, Doing.STARTS, after_s=after_s), None)


def first_stop(run: MaintenanceRun, after_s: float = -1.0) -> Event | None:
    """Its first stop later than a time. [s]"""
    return next(among(run.events, Thing.PUMP, Doing.STOPS, after_s=after_s), None)


def enters(run: MaintenanceRun, state: State, after_s: float = -1.0) -> Event | None:
    """When it first went into a state later than a time. [s]"""
    return next(among(run.events, Thing.SET, Doing.ENTERS, of=state, after_s=after_s), None)


def at_pa(event: Event | None) -> float | None:
    """The pressure at which something happened. [Pa]"""
    return None if event is None else event.value("p")


def between_s(first: Event | None, second: Event | None) -> float | None:
    """The time from one event to another. [s]"""
    return None if first is None or second is None else second.at_s - first.at_s


def alarm(run: MaintenanceRun, which: Alarm, after_s: float = -1.0) -> Event | None:
    """When an alarm first came. [s]"""
    return next(among(run.events, Thing.ALARM, Doing.COMES, of=which, after_s=after_s), None)


def main_out(run: MaintenanceRun) -> bool:
    """Whether every main pump stayed out."""
    return not run.bench.plant.mains and not any(True for _ in among(run.events, Thing.HARM, Doing.COMES, of=Harm.MAIN_STARTS))
