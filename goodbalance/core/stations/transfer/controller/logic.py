"""The controller of a transfer set on the bench, scanned as the real boxes are: what holds pumps back, what calls them, who serves."""

import math
from dataclasses import dataclass, field

from goodbalance.core.control.alarms import AlarmPanel
from goodbalance.core.control.rotation import Rotation
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.control.trips import Trip
from goodbalance.core.stations.transfer.controller.numbers import Numbers
from goodbalance.core.stations.transfer.names import Hold, Level, Lock, State, Wait
from goodbalance.core.stations.transfer.survey.choices import AfterCut, DelayFrom, Reset, RestartBy
from goodbalance.core.stations.transfer.survey.control import FullBy

FAILURE_DELAY_S = 2.0  # until a signal out of its range counts
CLEARS_M = 0.05  # under the high alarm, at which pumps are given back
LOCK_OF = {Lock.LONG: "the longest run is over", Lock.BURST: "it ran into an open pipe"}


@dataclass(frozen=True, slots=True)
class Seen:
    """What the controller sees: pressure as filtered (None: the signal means failure), the level of each tank and source.

    tanks: None where a broken wire is told; infinite where a plain contact says full or empty. silent: tanks whose alarms cannot come.
    """

    pressure_pa: float | None
    tanks: tuple[float | None, ...] = ()
    sources: tuple[float, ...] = ()
    silent: frozenset[int] = frozenset()


@dataclass
class TransferLogic:
    """Scan-based: read, judge what holds and locks, decide whether water is wanted, say who serves."""

    numbers: Numbers
    rotation: Rotation
    pump_source: tuple[int, ...]
    switches: list[Switch] = field(default_factory=list)
    tripped: list[Trip | None] = field(default_factory=list)
    power: bool = True
    phases_ok: bool = True
    supply_left_s: float | None = None
    filling: bool = False
    forced: bool = False  # a person pressed start: what is called once
    calls: list[int] = field(default_factory=list)  # of each tank: 0, 1, or 2 with its assist
    locks: dict[Lock, bool] = field(default_factory=dict)
    holds: set[tuple[Hold, int]] = field(default_factory=set)  # with the tank or source it is about, 0 for the first
    waits: bool = False  # for a person, after a power cut
    stopped_s: float = -math.inf  # when the last fill ended
    since: dict[tuple[Wait, int], float] = field(default_factory=dict)
    served: tuple[int, ...] = ()
    run_s: list[float] = field(default_factory=list)
    now_s: float = 0.0
    clock_s: float = 0.0
    was_supplied: bool = True
    cut_s: float = 0.0  # when the supply went
    alarms: AlarmPanel = field(default_factory=AlarmPanel)
    pressure_pa: float = 0.0

    def __post_init__(self) -> None:
        count = self.rotation.pump_count
        self.switches = self.switches or [Switch.AUTO] * count
        self.tripped = self.tripped or [None] * count
        self.run_s = self.run_s or [0.0] * count
        self.calls = self.calls or [0] * len(self.numbers.tanks)
        self.alarms.by_hand = self.numbers.alarms_by_hand

    # timers

    def lasts(self, wait: Wait, holds: bool, time_s: float, of: int = 0) -> bool:
        """Whether a condition has held for so long; it begins to count when it first does. [s]"""
        if not holds:
            self.since.pop((wait, of), None)
            return False
        return self.now_s - self.since.setdefault((wait, of), self.now_s) >= time_s - 1e-9

    def left_s(self, wait: Wait, time_s: float, of: int = 0) -> float | None:
        """What is left of a wait; None while it does not count. [s]"""
        begun = self.since.get((wait, of))
        return None if begun is None else max(0.0, begun + time_s - self.now_s)

    # one scan

    def scan(self, seen: Seen, now_s: float) -> None:
        """Judge, decide, share out."""
        self.now_s = now_s
        self._see_supply()
        if seen.pressure_pa is not None:
            self.pressure_pa = seen.pressure_pa
        self._judge(seen)
        before = len(self.served)
        if not (self.power and self.phases_ok):
            self.served = ()
        elif self.waits or self.locks:
            self._end_fill()
            self.served = ()
        else:
            self._decide(seen)
            self.served = self._serving()
        if len(self.served) < before:
            available = [self.is_available(pump) for pump in range(self.rotation.pump_count)]
            self.rotation.stopped(0, not self.served, available, self.run_s, self.clock_s + now_s)

    def _see_supply(self) -> None:
        """What a power cut does to what counts."""
        supplied = self.power and self.phases_ok
        if not supplied and self.was_supplied:
            self.cut_s = self.now_s
        if supplied and not self.was_supplied:
            self._back()
        self.was_supplied = supplied

    def _back(self) -> None:
        n, away_s = self.numbers, self.now_s - self.cut_s
        self.waits = n.waits_after
        kept = n.after_cut is AfterCut.KEPT
        if not kept:
            self.filling, self.stopped_s = False, self.now_s if n.after_cut is AfterCut.ANEW else -math.inf
        else:
            self.stopped_s += away_s
        self.since = {key: begun + away_s for key, begun in self.since.items()} if kept else {}
        if n.after_cut is AfterCut.SKIPPED:
            self.since[Wait.RESTART, 0] = -math.inf

    def _judge(self, seen: Seen) -> None:
        """What holds pumps back by itself, and what locks them out."""
        n = self.numbers
        if not self.power:
            return
        self._hold(Hold.SENSOR, 0, n.by_pressure and self.lasts(Wait.SENSOR, seen.pressure_pa is None, FAILURE_DELAY_S))
        for tank, level in enumerate(seen.tanks):
            self._hold(Hold.WIRE, tank, self.lasts(Wait.WIRE, level is None, n.wire_delay, tank))
            told = level is not None and tank not in seen.silent
            high_m = n.tanks[tank][Level.HIGH_ALARM]
            held = (Hold.HIGH, tank) in self.holds
            self._hold(Hold.HIGH, tank, told and (level or 0.0) >= high_m - (CLEARS_M if held else 0.0))
        for source, level in enumerate(seen.sources):
            stop_m, back_m = n.sources[source][Level.SOURCE_STOP], n.sources[source][Level.SOURCE_BACK]
            if (Hold.SOURCE, source) not in self.holds:
                self._hold(Hold.SOURCE, source, self.lasts(Wait.SOURCE, level <= stop_m, n.source_delay, source))
            elif n.source_reset is Reset.AUTOMATIC:
                self._hold(Hold.SOURCE, source, level < max(back_m, stop_m))
        turning = bool(self.served)
        if self.lasts(Wait.RUN, turning, n.longest_run):
            self.locks[Lock.LONG] = True
        if self.lasts(Wait.BURST, turning and self.pressure_pa < n.least_pressure and n.by_pressure, n.least_delay):
            self.locks[Lock.BURST] = True

    def _hold(self, hold: Hold, of: int, holds: bool) -> None:
        (self.holds.add if holds else self.holds.discard)((hold, of))

    @property
    def stopped(self) -> bool:
        """Whether something keeps every pump out."""
        if not self.power or not self.phases_ok or self.waits or self.locks:
            return True
        kinds = {hold for hold, _ in self.holds}
        if Hold.HIGH in kinds or Hold.SENSOR in kinds:
            return True
        if Hold.WIRE in kinds and self.numbers.full_by is FullBy.LEVELS:
            return len([tank for tank in range(len(self.calls)) if (Hold.WIRE, tank) in self.holds]) == len(self.calls)
        return False

    def _decide(self, seen: Seen) -> None:
        """Whether water is wanted."""
        if self.numbers.full_by is FullBy.LEVELS:
            self._by_levels(seen)
            return
        if self.stopped:
            self._end_fill()
            return
        n = self.numbers
        if self.filling:
            if seen.pressure_pa is not None and seen.pressure_pa >= n.stop_pressure:
                self._end_fill()
        elif self._restarts(seen) or self._too_low(seen):
            self._begin_fill()

    def _restarts(self, seen: Seen) -> bool:
        """Whether the line may be filled again: pressure and delay, or the delay alone."""
        n = self.numbers
        if seen.pressure_pa is None:
            return False
        if n.restart_by is RestartBy.TIME_ALONE:
            return self.lasts(Wait.RESTART, True, n.restart_delay)
        low = seen.pressure_pa <= n.restart_pressure
        if n.delay_from is DelayFrom.STOP:
            self.lasts(Wait.RESTART, low, 0.0)
            return low and self.now_s - self.stopped_s >= n.restart_delay - 1e-9
        return self.lasts(Wait.RESTART, low, n.restart_delay)

    def restarts_in_s(self) -> float | None:
        """What is left of the restart delay; None while it does not count. [s]"""
        n = self.numbers
        if self.filling or (Wait.RESTART, 0) not in self.since:
            return None
        if n.delay_from is DelayFrom.STOP and n.restart_by is RestartBy.PRESSURE_AND_TIME:
            return max(0.0, self.stopped_s + n.restart_delay - self.now_s)
        return self.left_s(Wait.RESTART, n.restart_delay)

    def _too_low(self, seen: Seen) -> bool:
        """Behind the pressure: a tank that stands low calls whatever the pressure says."""
        if self.numbers.full_by is not FullBy.BOTH:
            return False
        return any(level is not None and tank not in seen.silent and level <= self.numbers.tanks[tank][Level.LOW_ALARM] for tank, level in enumerate(seen.tanks))

    def _begin_fill(self) -> None:
        self.filling = True
        self.since.pop((Wait.RESTART, 0), None)

    def _end_fill(self) -> None:
        if self.filling:
            self.filling, self.stopped_s = False, self.now_s
            for wait in (Wait.RESTART, Wait.ASSIST):
                self.since.pop((wait, 0), None)
        self.calls, self.forced = [0] * len(self.calls), False

    def _by_levels(self, seen: Seen) -> None:
        """Each tank calls for itself; a start latches until its stop."""
        for tank, level in enumerate(seen.tanks):
            levels = self.numbers.tanks[tank]
            if level is None or (Hold.WIRE, tank) in self.holds or self.stopped:
                if (Hold.WIRE, tank) in self.holds or self.stopped:
                    self.calls[tank] = 0
                continue
            if level >= levels[Level.STOP]:
                self.calls[tank] = 0
            elif level <= levels[Level.ASSIST]:
                self.calls[tank] = 2
            elif level <= levels[Level.START]:
                self.calls[tank] = max(1, self.calls[tank])
        if self.forced and self.stopped:
            self.forced = False
        full = all(level is not None and level >= self.numbers.tanks[tank][Level.STOP] for tank, level in enumerate(seen.tanks))
        self.forced = self.forced and not full
        self.filling = any(self.calls) or self.forced

    # who serves

    def is_available(self, pump: int) -> bool:
        """Whether this pump can be called: in AUTO, not given up, with water in its source."""
        return self.switches[pump] is Switch.AUTO and not self.tripped[pump] and pump < self.numbers.pumps and (Hold.SOURCE, self.pump_source[pump]) not in self.holds

    @property
    def wanted(self) -> int:
        """How many pumps are wanted now."""
        if not self.filling:
            return 0
        n, most = self.numbers, self.rotation.duty_count
        if n.full_by is FullBy.LEVELS:
            return min(most, max(1, *self.calls) if self.calls else 1)
        begun = self.since.get((Wait.ASSIST, 0), self.now_s)
        return min(most, 1 + (int((self.now_s - begun + 1e-9) // n.assist_after) if n.assist_after < math.inf else 0))

    def _serving(self) -> tuple[int, ...]:
        """The first available pumps in turn; one more only a gap after the one before."""
        self.lasts(Wait.ASSIST, self.filling, math.inf)
        free = [pump for pump in self.rotation.order if self.is_available(pump)][: self.wanted]
        kept = [pump for pump in free if pump in self.served]
        for pump in free:
            if pump in kept:
                continue
            if kept and not self.lasts(Wait.GAP, True, self.numbers.start_gap):
                break
            kept.append(pump)
            self.since[Wait.GAP, 0] = self.now_s
        return tuple(pump for pump in free if pump in kept)

    def by_hand(self) -> tuple[int, ...]:
        """Pumps that run in HAND."""
        if Switch.HAND not in self.switches or not self.power or not self.phases_ok:
            return ()
        return tuple(p for p, place in enumerate(self.switches) if place is Switch.HAND and not self.tripped[p])

    @property
    def state(self) -> State:
        """What the set is doing, as its display says it."""
        if self.locks:
            return State.LOCKED
        if not self.power or all(place is Switch.OFF for place in self.switches):
            return State.OFF
        if self.served:
            return State.THROTTLE if self.numbers.by_pressure and self.pressure_pa > self.numbers.throttles_pa else State.FILL
        return State.WAIT if self.restarts_in_s() is not None and not self.stopped else State.HELD

    # what people do

    def start(self) -> None:
        """Somebody presses start: it fills now, whatever delay counts. What holds or locks pumps still does."""
        if not self.locks and not self.waits:
            self._begin_fill()
            self.forced = True

    def reset(self) -> None:
        """What a person's reset clears: locks, waits, a source that gives again."""
        self.locks, self.waits = {}, False
        for wait in (Wait.RUN, Wait.BURST):
            self.since.pop((wait, 0), None)
        if self.numbers.source_reset is Reset.BY_HAND:
            self.holds = {held for held in self.holds if held[0] is not Hold.SOURCE}
        self.alarms.reset()

    def turn_switch(self, pump: int, place: Switch) -> None:
        """HAND, OFF or AUTO of one pump; OFF clears its trip."""
        self.switches[pump] = place
        if place is Switch.OFF:
            self.tripped[pump] = None
