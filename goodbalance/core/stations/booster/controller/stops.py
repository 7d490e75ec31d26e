"""What stops a booster set or one of its pumps, and what raises its alarms; and what its controller sees."""

import math
from abc import ABC, abstractmethod
from dataclasses import dataclass, field

from goodbalance.core.control.alarms import AlarmPanel, Cause
from goodbalance.core.control.retries import Retries
from goodbalance.core.control.rotation import Rotation
from goodbalance.core.control.trips import Trip
from goodbalance.core.stations.booster.controller.numbers import Numbers
from goodbalance.core.stations.booster.names import Alarm, Mode, Stop, Wait
from goodbalance.core.stations.booster.survey.choices import OnFailure, PrimeBy, Reset
from goodbalance.core.stations.booster.survey.control import ControlKind
from goodbalance.core.stations.booster.wording import alarm_words

FAILURE_DELAY_S = 2.0
BACK_DELAY_S = 5.0  # how long the water must be back before it counts
SCAN_S = 0.5  # between scans of the slow logic
SMOOTH_S = 5.0  # over which a power is averaged
LOADED = 2.0  # times its power without flow: a pump that surely moves water
NEAR_FULL = 0.06  # noise keeps a regulator a little under its upper end


@dataclass(frozen=True, slots=True)
class Seen:
    """What the controller reads at one scan. suction_pa is None where nothing measures it; water_ok and low_water are the switches' words."""

    pressure_pa: float | None  # None: the signal means failure
    remote_pa: float | None
    suction_pa: float | None
    water_ok: bool
    flow_open: bool  # the flow switch says that nothing flows
    flow_m3s: float  # as the controller works it out from speed and pressure, for the setback
    powers_w: tuple[float, ...]
    idle_powers_w: tuple[float, ...]  # what each would take without flow at its speed
    speeds: tuple[float, ...]
    low_water: bool = False  # the switch that warns before lack of water says so
    at_switches_pa: float = 0.0  # the water itself, for switches of the pumps' own


@dataclass
class Guard(ABC):
    """What stops the set and its pumps, with the conditions that must last. What calls pumps builds on it."""

    numbers: Numbers
    rotation: Rotation
    alarms: AlarmPanel = field(default_factory=AlarmPanel)
    tripped: list[Trip | None] = field(default_factory=list)
    phases_ok: bool = True
    was_supplied: bool = True  # power and phases, at the scan before
    slowed: bool = False  # after a run-out, until a person resets
    waits: bool = False  # until a person resets, for the supply was away
    supply_left_s: float | None = None  # so long a monitor still holds pumps back, the supply being right again
    mode: Mode = Mode.ASLEEP
    stops: dict[Stop, bool] = field(default_factory=dict)  # what stops the whole set: True where a person must reset it
    since: dict[tuple[Wait, int], float] = field(default_factory=dict)  # when conditions began that last, some of one pump
    remote_lost: bool = False
    flow_m3s: float = 0.0  # followed slowly, for the setback
    now_s: float = 0.0
    load: float = LOADED  # power of the pumps that serve, over their power without flow, smoothed
    last_load: float = LOADED  # the same as of the last scan
    scanned_s: float = 0.0  # when the scan before was
    water: Retries = field(default_factory=Retries)  # after lack of water
    primes: list[Retries] = field(default_factory=list)  # of each pump, after it was given up without water
    low_water: bool = False  # the supply is running low
    closed_noted: bool = False  # a pump ran against closed outlets since the last reset

    def lasts(self, wait: Wait, holds: bool, delay_s: float, pump: int = 0) -> bool:
        """Whether a condition has held without a break for its delay. pump: which, of one that each pump has (0 is pump 1)."""
        if not holds:
            self.since.pop((wait, pump), None)  # its time begins when it does again
            return False
        return self.now_s - self.since.setdefault((wait, pump), self.now_s) >= delay_s - 1e-9

    def left_s(self, wait: Wait, delay_s: float, pump: int = 0) -> float | None:
        """What is left of a delay that counts; None where it does not."""
        began = self.since.get((wait, pump))
        return None if began is None else max(0.0, began + delay_s - self.now_s)

    @property
    @abstractmethod
    def sensor_failed(self) -> bool:
        """Whether the controller has given the pressure signal up."""

    @property
    @abstractmethod
    def over_started(self) -> tuple[int, ...]:
        """Pumps that started more often within the hour than they may."""

    @abstractmethod
    def serving(self) -> tuple[int, ...]:
        """Pumps that serve by call."""

    @abstractmethod
    def by_hand(self) -> tuple[int, ...]:
        """Pumps that run in HAND."""

    @abstractmethod
    def can_serve(self) -> int:
        """How many pumps can serve."""

    @abstractmethod
    def target_pa(self, flow_m3s: float) -> float:
        """The pressure to hold at a flow. [Pa]"""

    @abstractmethod
    def take_over(self, speed: float) -> None:
        """Let the regulator go on from a speed."""

    @abstractmethod
    def count_starts(self, turning: tuple[int, ...]) -> None:
        """Note which of the pumps that turn by call began since the last scan."""


def judge_stops(logic: Guard, seen: Seen) -> None:
    """Raise and clear what stops all pumps, by what is seen and how long it has lasted."""
    n = logic.numbers
    _stop(
        logic,
        Stop.SENSOR,
        logic.lasts(Wait.SENSOR, seen.pressure_pa is None, FAILURE_DELAY_S) and n.on_failure is OnFailure.STOP_ALL,
    )
    logic.remote_lost = n.remote_pressure is not None and logic.lasts(Wait.REMOTE, seen.remote_pa is None, FAILURE_DELAY_S)
    low = not seen.water_ok or (seen.suction_pa is not None and seen.suction_pa <= n.low_suction_stop)
    back = seen.water_ok and (seen.suction_pa is None or seen.suction_pa >= n.low_suction_reset)
    _judge_water(logic, low, back)
    logic.low_water = logic.lasts(Wait.LOW_WATER, seen.low_water, FAILURE_DELAY_S)
    if seen.pressure_pa is not None and seen.pressure_pa >= n.high_stop:
        logic.stops[Stop.HIGH] = True
    limit_pa = (
        n.burst_stop
        if n.kind is not ControlKind.CONSTANT
        else min(n.burst_stop, logic.target_pa(logic.flow_m3s) - n.band_pa)
    )
    low_pressure = seen.pressure_pa is not None and seen.pressure_pa < limit_pa
    if logic.lasts(Wait.BURST, low_pressure and logic.mode is not Mode.FILLING and _flat_out(logic, seen), n.burst_delay):
        if n.run_out_slows:
            logic.slowed = True
        else:
            logic.stops[Stop.BURST] = True
    if logic.lasts(Wait.FILL, logic.mode is Mode.FILLING, n.fill_timeout):
        if n.fill_stops:
            logic.stops[Stop.FILL] = True
        else:
            logic.mode = Mode.RUNNING
            logic.take_over(n.fill_speed)


def _judge_water(logic: Guard, low: bool, back: bool) -> None:
    """Stop for lack of water, and let the set begin again when water and wait allow it, or a person does."""
    n, water, lacks = logic.numbers, logic.water, Stop.LOW_SUCTION in logic.stops
    if logic.lasts(Wait.LOW_SUCTION, low, n.low_suction_delay) and not lacks:
        water.stopped(logic.now_s, n.water_again)
        logic.stops[Stop.LOW_SUCTION] = n.suction_reset is not Reset.AUTOMATIC and water.due_s is None
    elif low:
        water.falters()
    elif not lacks:
        water.works(logic.now_s, n.water_again)
    lacking = Stop.LOW_SUCTION in logic.stops and logic.lasts(Wait.WATER_BACK, back, BACK_DELAY_S)
    if lacking and not logic.stops[Stop.LOW_SUCTION] and (water.due_s is None or water.may_try(logic.now_s)):
        del logic.stops[Stop.LOW_SUCTION]


def _stop(logic: Guard, name: Stop, holds: bool) -> None:
    """A stop that lasts as long as its cause."""
    if holds:
        logic.stops[name] = False
    else:
        logic.stops.pop(name, None)


def _flat_out(logic: Guard, seen: Seen) -> bool:
    """Whether every pump that can serve does, at full speed."""
    serving = logic.serving()
    full = logic.numbers.most_speed if logic.numbers.kind is ControlKind.CONSTANT else logic.numbers.fixed_speed
    return bool(serving) and len(serving) >= logic.can_serve() and all(seen.speeds[pump] >= full - NEAR_FULL for pump in serving)


def judge_pumps(logic: Guard, seen: Seen) -> None:
    """Give up a pump that turns in air; note one that runs too long."""
    n = logic.numbers
    _try_again(logic)
    serving = logic.serving()
    running, shared = (*serving, *logic.by_hand()), _all_dry(logic, seen)
    for pump, (prime, power_w, idle_w) in enumerate(zip(logic.primes, seen.powers_w, seen.idle_powers_w)):
        if pump not in running:
            logic.since.pop((Wait.AIR, pump), None)
            logic.since.pop((Wait.LONG, pump), None)
            prime.falters()
            continue
        in_air = 0.0 < idle_w and power_w < n.no_prime_load * idle_w if shared is None else shared and pump in serving
        if not logic.lasts(Wait.AIR, in_air, n.no_prime_delay, pump):
            if in_air:
                prime.falters()
            elif idle_w > 0.0:
                prime.works(logic.now_s, n.prime_again)
        else:
            prime.stopped(logic.now_s, n.prime_again)
            logic.tripped[pump] = Trip.NO_PRIME
            serving = logic.serving()  # another may take over
        if logic.lasts(Wait.LONG, True, n.max_run, pump) and n.long_stops and pump in serving:
            logic.tripped[pump] = Trip.TOO_LONG
            serving = logic.serving()
    logic.count_starts(() if logic.mode is Mode.TESTING else serving)


def run_longer(logic: Guard, by_s: float) -> None:
    """As if every pump that runs without a stop had done so for longer. [s]"""
    for pump in range(len(logic.tripped)):
        if (Wait.LONG, pump) in logic.since:
            logic.since[Wait.LONG, pump] -= by_s


def _try_again(logic: Guard) -> None:
    """Let pumps that were given up without water begin again when their wait is over. A trip that somebody reset counts no more."""
    for pump, prime in enumerate(logic.primes):
        if not prime.out:
            continue
        if logic.tripped[pump] is not Trip.NO_PRIME:
            prime.reset()
        elif prime.may_try(logic.now_s):
            logic.tripped[pump] = None


def _all_dry(logic: Guard, seen: Seen) -> bool | None:
    """Whether the pumps that serve move no water, by what they share: the flow switch or the pressure. None where each is told by its power."""
    n = logic.numbers
    if n.prime_by is PrimeBy.POWER:
        return None
    if seen.pressure_pa is None:
        return False
    if n.prime_by is PrimeBy.FLOW:
        return seen.flow_open and seen.pressure_pa < n.calls_under_pa
    return seen.pressure_pa < n.no_prime_pressure and _flat_out(logic, seen)


def closed_load(logic: Guard, seen: Seen) -> float | None:
    """The largest power of a pump that serves, over its power without flow; None where that is not watched.

    It is watched while the pressure is there. A set that holds its pressure lets pumps too many go: there one is watched
    that is left alone. Of a switched set all run until they stop together.
    """
    n = logic.numbers
    constant = n.kind is ControlKind.CONSTANT
    if seen.pressure_pa is None or seen.pressure_pa <= (n.restart if constant else n.cut_in):
        return None
    serving = logic.serving()
    if not serving or (len(serving) > 1 and constant):
        return None
    loads = [seen.powers_w[pump] / seen.idle_powers_w[pump] for pump in serving if seen.idle_powers_w[pump] > 0.0]
    return max(loads) if len(loads) == len(serving) else None


def runs_closed(logic: Guard, seen: Seen) -> bool:
    """Whether pumps have taken no more power than without flow for too long, though the pressure is there."""
    n, load = logic.numbers, closed_load(logic, seen)
    if load is None:
        logic.load = logic.last_load = LOADED
        return logic.lasts(Wait.CLOSED, False, n.closed_delay)
    # the reading's noise lets the pump breathe in and out of the tank: its power is looked at smoothly
    since_s = logic.now_s - logic.scanned_s
    stood_s = max(0.0, since_s - SCAN_S)  # over a long step it has stood as it was at the last scan
    logic.load += (logic.last_load - logic.load) * min(1.0, stood_s / SMOOTH_S)
    logic.last_load = load
    logic.load += (logic.last_load - logic.load) * min(since_s, SCAN_S) / SMOOTH_S
    return logic.lasts(Wait.CLOSED, logic.load <= n.closed_load, n.closed_delay)


def causes_of(logic: Guard) -> dict[Cause, str]:
    """What raises an alarm now, with its words."""
    long_s = logic.numbers.max_run
    long = () if math.isinf(long_s) else [pump for pump in range(len(logic.tripped)) if logic.left_s(Wait.LONG, long_s, pump) == 0.0]
    faulty = logic.stops or logic.sensor_failed or logic.remote_lost or logic.closed_noted or logic.waits or logic.slowed or logic.low_water or not logic.phases_ok
    over_started = logic.over_started
    if not (faulty or long or over_started or any(logic.tripped)):
        return {}
    found = [Cause(Alarm(stop)) for stop in logic.stops]
    if logic.sensor_failed and Cause(Alarm.SENSOR) not in found:
        found.append(Cause(Alarm.SENSOR))
    if logic.remote_lost:
        found.append(Cause(Alarm.REMOTE))
    if logic.low_water:
        found.append(Cause(Alarm.LOW_WATER))
    if not logic.phases_ok:
        found.append(Cause(Alarm.PHASE))
    if logic.waits:
        found.append(Cause(Alarm.WAITS))
    if logic.slowed:
        found.append(Cause(Alarm.BURST))
    if logic.closed_noted:
        found.append(Cause(Alarm.CLOSED))
    found += [Cause(Alarm.STARTS, pump + 1) for pump in over_started]
    for pump, why in enumerate(logic.tripped):
        if why:
            found.append(Cause(Alarm.PUMP, pump + 1))
        if pump in long:
            found.append(Cause(Alarm.LONG, pump + 1))
    return {cause: alarm_words(cause, logic.tripped[cause.pump - 1] if cause.pump else None, logic.numbers.monitor.has_dials) for cause in found}
