"""The controller of a maintenance pump on the bench, scanned as the real boxes are: start, start delay, stop, least run, long run."""

import math
from dataclasses import dataclass, field

from goodbalance.core.control.alarms import AlarmPanel
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.control.trips import Trip
from goodbalance.core.stations.maintenance.controller.numbers import Numbers
from goodbalance.core.stations.maintenance.names import State, Wait

FAILURE_DELAY_S = 2.0  # until a signal out of its range counts


@dataclass
class MaintenanceLogic:
    """Scan-based: read, judge, decide. It never speaks to a main pump."""

    numbers: Numbers
    switch: Switch = Switch.AUTO
    trip: Trip | None = None  # why it was given up
    power: bool = True
    phases_ok: bool = True
    supply_left_s: float | None = None
    called: bool = False
    begun_s: float = -math.inf  # when the pump was called
    waits: bool = False  # for a person, after a power cut
    failed: bool = False  # the sensor
    too_long: bool = False
    since: dict[Wait, float] = field(default_factory=dict)
    now_s: float = 0.0
    was_supplied: bool = True
    pressure_pa: float = 0.0
    alarms: AlarmPanel = field(default_factory=AlarmPanel)

    def __post_init__(self) -> None:
        self.alarms.by_hand = self.numbers.alarms_by_hand

    # timers

    def lasts(self, wait: Wait, holds: bool, time_s: float) -> bool:
        """Whether a condition has held for so long; it begins to count when it first does. [s]"""
        if not holds:
            self.since.pop(wait, None)
            return False
        return self.now_s - self.since.setdefault(wait, self.now_s) >= time_s - 1e-9

    def left_s(self, wait: Wait, time_s: float) -> float | None:
        """What is left of a wait; None while it does not count. [s]"""
        begun = self.since.get(wait)
        return None if begun is None else max(0.0, begun + time_s - self.now_s)

    @property
    def least_left_s(self) -> float:
        """What is left of the least run. [s]"""
        return max(0.0, self.begun_s + self.numbers.least_run - self.now_s) if self.called else 0.0

    # one scan

    def scan(self, pressure_pa: float | None, now_s: float) -> None:
        """Judge, decide. pressure_pa: as filtered; None where the signal means failure."""
        self.now_s = now_s
        supplied = self.power and self.phases_ok
        if supplied and not self.was_supplied:
            self.waits, self.since, self.called = self.numbers.waits_after, {}, False
        self.was_supplied = supplied
        if pressure_pa is not None:
            self.pressure_pa = pressure_pa
        if not self.power:
            return
        self.failed = self.lasts(Wait.SENSOR, pressure_pa is None, FAILURE_DELAY_S)
        self._decide(pressure_pa)
        turning = self.serves or self.by_hand
        self.too_long = self.lasts(Wait.LONG, turning, self.numbers.long_run)

    def _decide(self, pressure_pa: float | None) -> None:
        n = self.numbers
        if not self.ready:
            self.called = False
            self.since.pop(Wait.START, None)
        elif self.called:
            if pressure_pa is not None and pressure_pa >= n.stop_pressure and self.least_left_s <= 1e-9:
                self.called = False
        elif self.lasts(Wait.START, pressure_pa is not None and pressure_pa <= n.start_pressure, n.on_delay):
            self.called, self.begun_s = True, self.now_s
            self.since.pop(Wait.START, None)

    @property
    def ready(self) -> bool:
        """Whether nothing keeps it out in AUTO. A failed sensor does: it may neither start nor stop by a reading that is none."""
        return self.switch is Switch.AUTO and self.power and self.phases_ok and not self.waits and not self.failed and self.trip is None

    @property
    def serves(self) -> bool:
        """Whether it is told to run in AUTO."""
        return self.called and self.ready

    @property
    def by_hand(self) -> bool:
        """Whether it is told to run in HAND."""
        return self.switch is Switch.HAND and self.power and self.phases_ok and self.trip is None

    @property
    def state(self) -> State:
        """What it is doing, as its display says it."""
        if self.switch is Switch.OFF or not self.power:
            return State.OFF
        if self.serves:
            return State.LEAST if self.pressure_pa >= self.numbers.stop_pressure else State.RUNS
        if self.by_hand:
            return State.RUNS
        return State.WAIT if Wait.START in self.since else State.HELD

    @property
    def tripped(self) -> tuple[Trip | None, ...]:
        """Why each pump was given up, as every kind's logic says it: here there is one."""
        return (self.trip,)

    # what people do

    def reset(self) -> None:
        """What a person's reset clears: the wait after a power cut, and alarms whose cause has gone."""
        self.waits = False
        self.alarms.reset()

    def turn_switch(self, place: Switch) -> None:
        """HAND, OFF or AUTO; OFF clears its trip."""
        self.switch = place
        if place is Switch.OFF:
            self.trip = None
