"""What to look at in a run of a transfer set, to judge a proof."""

from collections.abc import Iterator

from goodbalance.core.rehearsal.engine import Run
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among
from goodbalance.core.stations.transfer.bench.rehearse import TransferBench
from goodbalance.core.stations.transfer.names import Act, Alarm, Hold, State

TransferRun = Run[TransferBench]


def starts(run: TransferRun, after_s: float = -1.0) -> list[Event]:
    """Every start of a pump later than a time. [s]"""
    return list(among(run.events, Thing.PUMP, Doing.STARTS, after_s=after_s))


def first_start(run: TransferRun, after_s: float = -1.0) -> Event | None:
    """The first of them."""
    return next(iter(starts(run, after_s)), None)


def first_stop(run: TransferRun, after_s: float = -1.0) -> Event | None:
    """The first stop of a pump later than a time. [s]"""
    return next(among(run.events, Thing.PUMP, Doing.STOPS, after_s=after_s), None)


def stop_pa(run: TransferRun, after_s: float = -1.0) -> float | None:
    """The pressure read when a pump first stopped later than a time. [Pa, s]"""
    event = first_stop(run, after_s)
    return None if event is None else event.value("p")


def highest_pa(run: TransferRun, after_s: float) -> float:
    """The highest pressure in the line later than a time. [Pa, s]"""
    place = run.bench.columns.index("pressure_pa") + 1
    return max([row[place] for row in run.trace if row[0] >= after_s] + [run.bench.pressure_pa])


def enters_wait(run: TransferRun, after_s: float = -1.0) -> Event | None:
    """When the delay first began to count later than a time. [s]"""
    return next(among(run.events, Thing.SET, Doing.ENTERS, of=State.WAIT, after_s=after_s), None)


def waits_pa(run: TransferRun, after_s: float = -1.0) -> float | None:
    """The pressure at which the delay began to count. [Pa]"""
    event = enters_wait(run, after_s)
    return None if event is None else event.value("p")


def starts_pa(run: TransferRun) -> float | None:
    """The pressure at which a pump first started. [Pa]"""
    event = first_start(run)
    return None if event is None else event.value("p")


def between_s(first: Event | None, second: Event | None) -> float | None:
    """The time from one event to another. [s]"""
    return None if first is None or second is None else second.at_s - first.at_s


def alarm(run: TransferRun, which: Alarm, of: int = 0, after_s: float = -1.0) -> Event | None:
    """When an alarm first came. of: its pump, tank or source, 1 for the first."""
    return next(among(run.events, Thing.ALARM, Doing.COMES, of=which, pump=of, after_s=after_s), None)


def done_values(run: TransferRun, act: Act, symbol: str) -> Iterator[tuple[float, float]]:
    """When a person turned something, and to what."""
    for event in among(run.events, Thing.YOU, of=act):
        value = event.value(symbol)
        if value is not None:
            yield event.at_s, value


def stood_at(run: TransferRun, act: Act, symbol: str, at_s: float) -> float | None:
    """Where something that a person turns stood at a time, turned before it. [s]"""
    turned = [value for when, value in done_values(run, act, symbol) if when <= at_s]
    return turned[-1] if turned else None


def leads(run: TransferRun) -> tuple[int, ...]:
    """Which pump led each fill, 1 for pump 1."""
    found, running = [], 0
    for event in among(run.events, Thing.PUMP, Doing.STARTS, Doing.STOPS):
        if event.doing is Doing.STARTS:
            if running == 0:
                found.append(event.pump)
            running += 1
        else:
            running = max(0, running - 1)
    return tuple(found)


def freed(run: TransferRun, hold: Hold, of: int, after_s: float) -> Event | None:
    """When what held pumps back let them go, later than a time. of: 1 for the first tank or source. [s]"""
    return next(among(run.events, Thing.LIMIT, Doing.CLEARS, of=f"{hold}_{of}", after_s=after_s), None)
