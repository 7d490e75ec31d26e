"""Reading a bench run: levels at which things happened, times between them, who ran."""

from collections.abc import Iterable

from goodbalance.core.control.alarms import Cause, Lamp
from goodbalance.core.control.trips import Trip
from goodbalance.core.rehearsal.engine import Run
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among
from goodbalance.core.stations.lift.bench.rehearse import LiftBench
from goodbalance.core.stations.lift.names import Alarm

LiftRun = Run[LiftBench]


def _level(event: Event | None) -> float | None:
    return None if event is None else event.value("level")


def contact_level(run: LiftRun, role: str, pulls: bool) -> float | None:
    """Level at which the contact of a role first moved after the start of the run. None where it moved the other way.

    pulls: whether its relay should pull then, or its float close.
    """
    moved = next(among(run.events, Thing.CONTACT, of=role, after_s=0.0), None)
    return None if moved is None or (moved.doing is Doing.CLOSES) is not pulls else _level(moved)


def full_speed_level(run: LiftRun, rising: bool = True) -> float | None:
    """Level at which the drives were first told full speed, or on the way down first less."""
    return _level(next(among(run.events, Thing.SPEED, Doing.COMES if rising else Doing.CLEARS, after_s=0.0), None))


def speed_at_end(run: LiftRun) -> float:
    """The drives' speed at the end of the run, a share of full; 0 where none turns."""
    return run.bench.plant.speed if run.bench.running else 0.0


def stop_level(run: LiftRun) -> float | None:
    """Level at which a pump first stopped."""
    return _level(next(among(run.events, Thing.PUMP, Doing.STOPS, after_s=0.0), None))


def _moves(run: LiftRun) -> Iterable[Event]:
    return among(run.events, Thing.PUMP, Doing.STARTS, Doing.STOPS)


def joined_level(run: LiftRun, role: str, number: int, rested: int = 0) -> float | None:
    """Level of the call that brought the number-th pump of a cycle; `rested` pumps of the first group rest by then.

    The pump itself may wait for the start gap while the water rises on: then its call's level counts, not where it started.
    role: of the relay that makes that call.
    """
    running: set[int] = set()
    called_m = None
    for event in run.events:
        if event.thing is Thing.CONTACT and event.of == role and event.at_s > 0.0 and event.doing is Doing.CLOSES:
            called_m = _level(event)
        if event.thing is Thing.PUMP and event.doing in (Doing.STARTS, Doing.STOPS):
            (running.add if event.doing is Doing.STARTS else running.discard)(event.pump - 1)
            if sum(one >= rested for one in running) == number - rested:
                return _level(event) if called_m is None else called_m
    return None


def leads(run: LiftRun) -> tuple[int, ...]:
    """Which pump started first in each cycle."""
    found, running = [], 0
    for event in _moves(run):
        starts = event.doing is Doing.STARTS
        if starts and running == 0:
            found.append(event.pump)
        running += 1 if starts else -1
    return tuple(found)


def left_level(run: LiftRun, left: int) -> float | None:
    """Level at which a pump stopped and so many were left running, after all had run."""
    running = 0
    for event in _moves(run):
        running += 1 if event.doing is Doing.STARTS else -1
        if event.doing is Doing.STOPS and running == left:
            return _level(event)
    return None


def never_together(run: LiftRun, first: int) -> bool | None:
    """Whether no pump of the first group stayed on beside one of the second for more than one scan. None: none met."""
    running: set[int] = set()
    met, since_s = False, None
    for event in _moves(run):
        if since_s is not None and event.at_s - since_s > 1.5:
            return False
        (running.add if event.doing is Doing.STARTS else running.discard)(event.pump - 1)
        mixed = any(p < first for p in running) and any(p >= first for p in running)
        met = met or any(p >= first for p in running)
        since_s = (event.at_s if since_s is None else since_s) if mixed else None
    return (since_s is None) if met else None


def after_first_s(run: LiftRun, first: Event | None, thing: Thing, doing: Doing, of: str | None = None) -> float | None:
    """Time from an event to the first of another kind after it. None where one never came."""
    if first is None:
        return None
    later = run.events[run.events.index(first) + 1 :]
    event = next(among(later, thing, doing, of=of), None)
    return None if event is None else event.at_s - first.at_s


def starts_let_pass(run: LiftRun) -> float | None:
    """How often the first pump that was told of for its starts, or locked out, had been let start by then. None where none was."""
    told = next(among(run.events, Thing.ALARM, Doing.COMES, of=Alarm.STARTS), None)
    locked = next(among(run.events, Thing.PUMP, Doing.GIVEN_UP, of=Trip.TOO_OFTEN), None)
    event = locked or told
    if event is None:
        return None
    starts = sum(start.at_s <= event.at_s for start in among(run.events, Thing.PUMP, Doing.STARTS, pump=event.pump))
    return float(starts - (0 if locked else 1))


def contact(run: LiftRun, role: str, *doings: Doing) -> Event | None:
    """The first time the contact of a role moved after the start."""
    return next(among(run.events, Thing.CONTACT, *doings, of=role, after_s=0.0), None)


def done(run: LiftRun, act: str, doing: Doing = Doing.DOES) -> Event | None:
    """The first time a person did that after the start; with CLEARS: took a fault out again."""
    return next(among(run.events, Thing.YOU, doing, of=act, after_s=0.0), None)


def _starts(run: LiftRun, after_s: float) -> list[Event]:
    return list(among(run.events, Thing.PUMP, Doing.STARTS, after_s=after_s))


def apart_s(run: LiftRun, after_s: float) -> float | None:
    """Time between the first two pump starts after a time. None where there were not two."""
    starts = _starts(run, after_s)
    return starts[1].at_s - starts[0].at_s if len(starts) > 1 else None


def started_after(run: LiftRun, after_s: float) -> frozenset[int]:
    """Pumps that started after a time, 0 for pump 1."""
    return frozenset(event.pump - 1 for event in _starts(run, after_s))


def running_at_end(run: LiftRun) -> tuple[int, ...]:
    """Pumps that turn at the end of the run, 0 for pump 1."""
    return run.bench.running


def ran(run: LiftRun) -> bool:
    """Whether any pump ever started."""
    return any(_starts(run, -1.0))


def tells(run: LiftRun) -> str:
    """How the alarms of a run show themselves at its end, lamp and sounder; empty where none is up."""
    alarms = run.bench.alarms
    shows = "flashing" if alarms.flashes and Lamp.FLASHING in alarms.lamps.values() else "steady"
    return f"{shows}_{'sounder' if alarms.sounding else 'lamp_only'}" if alarms.lamps else ""


def told(run: LiftRun, alarm: str) -> bool:
    """Whether an alarm came in the run."""
    return any(among(run.events, Thing.ALARM, Doing.COMES, of=alarm))


def is_up(run: LiftRun, alarm: str, pump: int = 0) -> bool:
    """Whether an alarm is up at the end of the run. pump: 1 for pump 1, where it is about one."""
    return Cause(alarm, pump) in run.bench.logic.alarms.lamps
