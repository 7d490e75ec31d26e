"""Reading a run of the booster's bench: when something was said, at which pressure, speed and suction."""

from collections.abc import Callable

from goodbalance.core.control.trips import Trip
from goodbalance.core.rehearsal.engine import Run
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among
from goodbalance.core.stations.booster.bench.rehearse import BoosterBench
from goodbalance.core.stations.booster.names import Alarm, Mode, Stop

BoosterRun = Run[BoosterBench]


def minus(value: float | None, less: float) -> float | None:
    """A difference; nothing where there was nothing."""
    return None if value is None else value - less


def _when(event: Event | None) -> float | None:
    return None if event is None else event.at_s


def _pressure(event: Event | None) -> float | None:
    return None if event is None else event.value("p")


def _enters(run: BoosterRun, mode: Mode, after_s: float = -1.0) -> Event | None:
    """The first time the set went into a mode."""
    return next(among(run.events, Thing.SET, of=mode, after_s=after_s), None)


def asleep_s(run: BoosterRun, after_s: float) -> float | None:
    """When the set first fell asleep after a time. [s]"""
    return _when(_enters(run, Mode.ASLEEP, after_s))


def asleep_pa(run: BoosterRun) -> float | None:
    """The pressure at which the set first fell asleep. [Pa]"""
    return _pressure(_enters(run, Mode.ASLEEP))


def wakes_pa(run: BoosterRun) -> float | None:
    """The pressure at which the set first woke. [Pa]"""
    return _pressure(next(among(run.events, Thing.SET, Doing.STARTS), None))


def starts_pa(run: BoosterRun) -> float | None:
    """The pressure at which a pump first started. [Pa]"""
    return _pressure(next(among(run.events, Thing.PUMP, Doing.STARTS), None))


def stops_pa(run: BoosterRun, after_s: float) -> float | None:
    """The pressure at which a pump first stopped after a time. [Pa]"""
    return _pressure(next(among(run.events, Thing.PUMP, Doing.STOPS, after_s=after_s), None))


def alarm_s(run: BoosterRun, alarm: Alarm) -> float | None:
    """When an alarm first came. [s]"""
    return _when(next(among(run.events, Thing.ALARM, Doing.COMES, of=alarm), None))


def given_up_s(run: BoosterRun, why: str) -> float | None:
    """When a pump was first given up for that cause. [s]"""
    return _when(next(among(run.events, Thing.PUMP, Doing.GIVEN_UP, of=why), None))


def falls_s(run: BoosterRun, after_s: float, limit_pa: float, full: float) -> float:
    """When the pressure was first under a limit later than a time, pump 1 at a speed at least. [s]"""
    pressure, speed = _column(run, "pressure_pa"), _column(run, "speed_1")
    return next((row[0] for row in run.trace if row[0] >= after_s and row[pressure] < limit_pa and row[speed] >= full), after_s)


def starts_let_pass(run: BoosterRun, locks: bool) -> float | None:
    """How often pump 1 had been let start when it was locked out for its starts, or where it is not to be, told of for them. None where it was not."""
    locked = next(among(run.events, Thing.PUMP, Doing.GIVEN_UP, of=Trip.TOO_OFTEN), None)
    event = locked if locks else next(among(run.events, Thing.ALARM, Doing.COMES, of=Alarm.STARTS), None)
    if event is None or event.pump != 1 or (locked is not None and not locks):
        return None
    starts = sum(start.at_s <= event.at_s for start in among(run.events, Thing.PUMP, Doing.STARTS, pump=1))
    return float(starts - 1)  # the one too many was let begin


def stop_at(run: BoosterRun, stop: Stop) -> float | None:
    """When the set was stopped for a reason. [s]"""
    return _when(_stops(run, stop))


def stop_pa(run: BoosterRun, stop: Stop) -> float | None:
    """The pressure at which it was. [Pa]"""
    return _pressure(_stops(run, stop))


def _stops(run: BoosterRun, stop: Stop, doing: Doing = Doing.COMES, after_s: float = -1.0) -> Event | None:
    return next(among(run.events, Thing.LIMIT, doing, of=stop, after_s=after_s), None)


def _column(run: BoosterRun, name: str) -> int:
    return run.bench.columns.index(name) + 1


def started(run: BoosterRun, after_s: float = 0.0) -> bool:
    """Whether any pump started."""
    return any(among(run.events, Thing.PUMP, Doing.STARTS, after_s=after_s))


def running_at_end(run: BoosterRun) -> tuple[int, ...]:
    """Pumps that run when it ends."""
    return run.bench.running


def in_force_at_end(run: BoosterRun) -> float:
    """The set pressure in force at the end of the run. [Pa]"""
    return run.bench.logic.in_force()[0]


def pressure_at_end(run: BoosterRun) -> float | None:
    """Middle of the pressures of the last forty seconds, each by how long it lasted, so that a short stop does not count. [Pa]"""
    place, since_s = _column(run, "pressure_pa"), run.now_s - 40.0
    ends_s = [*(row[0] for row in run.trace[1:]), run.now_s]
    lasted = sorted((row[place], end_s - max(row[0], since_s)) for row, end_s in zip(run.trace, ends_s) if end_s > since_s)
    half_s = sum(lasts_s for _, lasts_s in lasted) / 2.0
    for pressure_pa, lasts_s in lasted:
        half_s -= lasts_s
        if half_s <= 0.0:
            return pressure_pa
    return None


def lowest(run: BoosterRun) -> float | None:
    """Lowest pressure since the last action. [Pa]"""
    return run.bench.lowest_pa


def highest(run: BoosterRun) -> float | None:
    """Highest pressure since the last action. [Pa]"""
    return run.bench.highest_pa


def speed_at_end(run: BoosterRun) -> float | None:
    """Speed of the pumps that run when it ends, a share of full."""
    running = running_at_end(run)
    return run.bench.plant.speeds[running[0]] if running else None


def _rest_s(run: BoosterRun, after_s: float) -> float | None:
    """When the set boosts, tests or stops. [s]"""
    rests = (_enters(run, mode, after_s) for mode in (Mode.BOOSTING, Mode.TESTING, Mode.ASLEEP))
    return min((event.at_s for event in rests if event is not None), default=None)


def rest_after_speed_s(run: BoosterRun, speed: float, after_s: float) -> float | None:
    """Time from the moment the speed had come down to its limit for good. [s]"""
    rest_s = _rest_s(run, after_s)
    if rest_s is None:
        return None
    place, count = _column(run, "speed_1"), len(run.bench.plant.speeds)
    return rest_s - _ended_s(run, after_s, rest_s, lambda row: max(row[place : place + count]) > speed + 0.002 or _turning(run, row) > 1)


def rest_after_flow_s(run: BoosterRun, after_s: float, limit_m3s: float, alone: bool) -> float | None:
    """Time from the moment the flow had come under a limit for good; alone: and one pump was left. [s]"""
    rest_s, place = _rest_s(run, after_s), _column(run, "flow_m3s")
    if rest_s is None:
        return None
    return rest_s - _ended_s(run, after_s, rest_s, lambda row: row[place] >= limit_m3s or (alone and _turning(run, row) > 1))


def _turning(run: BoosterRun, row: tuple[float, ...]) -> int:
    """How many pumps turned in a row of the trace."""
    pumps = _column(run, "pump_1")
    return int(sum(row[pumps : pumps + len(run.bench.plant.speeds)]))


def _ended_s(run: BoosterRun, after_s: float, until_s: float, held: Callable[[tuple[float, ...]], bool]) -> float:
    """When a condition had ended for good between two times; each row of the trace stands until the next. [s]"""
    ended_s = after_s
    for row, following in zip(run.trace, run.trace[1:]):
        if after_s <= row[0] < until_s and held(row):
            ended_s = following[0]
    return ended_s


def rest_after_s(run: BoosterRun, after_s: float) -> float | None:
    """Time from a moment to the stop. [s]"""
    return minus(_rest_s(run, after_s), after_s)


def closed_for_s(run: BoosterRun, after_s: float, alone: bool) -> float | None:
    """Time from the moment hardly any flow was left to the stop with its alarm; alone: and one pump. [s]"""
    told_s, place = alarm_s(run, Alarm.CLOSED), _column(run, "flow_m3s")
    if told_s is None:
        return None
    most = 0.5 * run.bench.survey.demand.least_m3s
    return told_s - _ended_s(run, after_s, told_s, lambda row: row[place] > most or (alone and _turning(run, row) > 1))


def speed_while_filling(run: BoosterRun) -> float | None:
    """Speed in the middle of the time it filled; nothing where it did not end by itself."""
    begins, ends = _when(_enters(run, Mode.FILLING)), _when(next(among(run.events, Thing.SET, Doing.ENTERS, of=Mode.RUNNING), None))
    if begins is None or ends is None:
        return None
    place, count = _column(run, "speed_1"), len(run.bench.plant.speeds)
    middle = [row for row in run.trace if row[0] >= (begins + ends) / 2.0]
    return max(middle[0][place : place + count]) if middle else None


def joined_s(run: BoosterRun, after_s: float = 0.0) -> float | None:
    """When a second pump joined one that runs. [s]"""
    places = [_column(run, f"pump_{n + 1}") for n in range(len(run.bench.plant.speeds))]
    for before, row in zip(run.trace, run.trace[1:]):
        if (
            row[0] > after_s
            and sum(before[p] for p in places) >= 1.0
            and sum(row[p] for p in places) > sum(before[p] for p in places)
        ):
            return row[0]
    return None


def _speed_at(run: BoosterRun, at_s: float) -> float:
    place, count = _column(run, "speed_1"), len(run.bench.plant.speeds)
    rows = [row for row in run.trace if row[0] < at_s]
    running = [n for n in rows[-1][place : place + count] if n > 0.0]
    return min(running) if running else 0.0


def speed_when_second_joins(run: BoosterRun) -> float | None:
    """Speed of the regulating pump just before another joined."""
    at_s = joined_s(run)
    return None if at_s is None else _speed_at(run, at_s)


def second_after_s(run: BoosterRun) -> float | None:
    """Time from the first start to the second. [s]"""
    starts = [event.at_s for event in among(run.events, Thing.PUMP, Doing.STARTS)]
    return starts[1] - starts[0] if len(starts) > 1 else None


def left_s(run: BoosterRun, after_s: float) -> float | None:
    """When one of several pumps left the others. [s]"""
    places = [_column(run, f"pump_{n + 1}") for n in range(len(run.bench.plant.speeds))]
    for before, row in zip(run.trace, run.trace[1:]):
        was, now = sum(before[p] for p in places), sum(row[p] for p in places)
        if row[0] > after_s and was >= 2.0 and 1.0 <= now < was:
            return row[0]
    return None


def speed_when_one_leaves(run: BoosterRun, after_s: float) -> float | None:
    """Speed of the regulating pumps just before one left."""
    at_s = left_s(run, after_s)
    return None if at_s is None else _speed_at(run, at_s)


def not_called_back(run: BoosterRun, after_s: float) -> bool:
    """Whether, after one left, none joined again while outlets only closed."""
    at_s = left_s(run, after_s)
    return at_s is not None and joined_s(run, at_s) is None


def leads(run: BoosterRun) -> tuple[int, ...]:
    """The pump that started first each time the set woke; a short stop to feel for flow is no rest."""
    woke, found = False, []
    for event in run.events:
        if event.thing is Thing.SET and event.doing is Doing.STARTS:
            woke = True
        elif woke and event.thing is Thing.PUMP and event.doing is Doing.STARTS:
            found.append(event.pump)
            woke = False
    return tuple(found)


def most_running(run: BoosterRun, after_s: float = 0.0) -> int:
    """The most pumps that ran at once."""
    places = [_column(run, f"pump_{n + 1}") for n in range(len(run.bench.plant.speeds))]
    return int(max((sum(row[p] for p in places) for row in run.trace if row[0] > after_s), default=0.0))


def suction_before(run: BoosterRun, doing: Doing, delay_s: float) -> float | None:
    """Suction pressure when a condition that lasts for a delay began: one that stopped for lack of water, or freed again. [Pa]"""
    return _suction_at(run, _when(_stops(run, Stop.LOW_SUCTION, doing, 1.0)), delay_s)


def suction_at_alarm(run: BoosterRun, alarm: Alarm, delay_s: float) -> float | None:
    """Suction pressure when a condition that is told after a delay began. [Pa]"""
    return _suction_at(run, alarm_s(run, alarm), delay_s)


def _suction_at(run: BoosterRun, told_s: float | None, delay_s: float) -> float | None:
    if told_s is None:
        return None
    place = _column(run, "suction_pa")
    rows = [row for row in run.trace if row[0] <= told_s - delay_s + 0.6]
    return rows[-1][place] if rows else None


def ended_after_flat_out_s(run: BoosterRun, slows: bool) -> float | None:
    """Time from every pump at full speed with low pressure to the stop, or to where one goes on slowly. [s]"""
    stop_s = alarm_s(run, Alarm.BURST) if slows and run.bench.logic.slowed and len(running_at_end(run)) == 1 else stop_at(run, Stop.BURST)
    if slows and not run.bench.logic.slowed:
        return None
    if stop_s is None:
        return None
    bench, speeds, pressure = run.bench, _column(run, "speed_1"), _column(run, "pressure_pa")
    count, duty, n = len(bench.plant.speeds), bench.logic.rotation.duty_count, bench.logic.numbers
    full = n.most_speed if n.gain and n.restart > -1e300 else n.fixed_speed

    def yet(row: tuple[float, ...]) -> bool:
        slowest = sorted(row[speeds : speeds + count])[count - duty]
        return _turning(run, row) < duty or row[pressure] >= n.burst_stop or slowest < full - 0.06

    began_s = _ended_s(run, 0.0, stop_s, yet)
    return stop_s - began_s if began_s > 0.0 else None
