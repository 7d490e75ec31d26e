"""From start and stop contacts to pumps: calls latch and drop, go to the pumps in turn, and every timer is kept.

It knows nothing of levels or pressures: it sees contacts only. Scan by scan, time is an argument.
"""

import math
from dataclasses import dataclass, field
from enum import StrEnum

from goodbalance.core.control.rotation import Rotation
from goodbalance.core.control.trips import Trip

# So many cycles in a row a lead needed the assist, while others did not, before it is suspected. If chance alone called
# the assist in a share p of all cycles, k helped ones and k - 1 without between them come about with p^k (1 - p)^(k - 1),
# at most 3.5 % for 3 and 0.8 % for 4 (at p = k / (2 k - 1)): the least count that chance reaches in less than 1 of 100.
SUSPECT_CYCLES = 4


class Switch(StrEnum):
    """HAND-OFF-AUTO of one pump."""

    HAND = "hand"
    OFF = "off"
    AUTO = "auto"


@dataclass(frozen=True, slots=True)
class Contacts:
    """What the panel sees, a start and a stop contact for each call. Closed stop and low-water contacts let pumps run."""

    stop_closed: tuple[bool, ...]
    low_water_closed: bool
    start_closed: tuple[bool, ...]


@dataclass(frozen=True, slots=True)
class Timing:
    """Every timer of the panel. [s]; infinity or 0 where one is not used."""

    start_gap_s: float = 10.0  # between two starts, and after a power return
    feedback_s: float = 5.0  # a starter may be without feedback so long
    start_delay_s: float = 0.0  # a start contact must stay closed so long
    stop_delay_s: float = 0.0  # a call holds on so long after its stop contact opened
    min_run_s: float = 0.0
    min_off_s: float = 0.0
    max_run_s: float = math.inf  # then an alarm comes
    assist_s: float = math.inf  # the assist is called when the running pumps have not stopped within it
    long_passes: bool = True  # whether the turn passes after max_run_s
    most_starts: float = math.inf  # of one pump within an hour; then an alarm comes
    starts_lock: bool = False  # and no further start is made until a person resets it


@dataclass
class Sequencer:
    """Latches start calls, drops them at their stop contacts, and starts the pumps whose turn it is.

    A pump that is tripped (no feedback, overload, seal leak) is passed over until its switch is turned to OFF.
    """

    rotation: Rotation
    timing: Timing = field(default_factory=Timing)
    suspect_cycles: int = SUSPECT_CYCLES  # 0: nobody looks for one
    switches: list[Switch] = field(default_factory=list)
    power: bool = True
    phases_ok: bool = True
    latched: list[bool] = field(default_factory=list)
    running: list[bool] = field(default_factory=list)  # called in: the contactor coil has voltage
    tripped: list[Trip | None] = field(default_factory=list)
    run_s: list[float] = field(default_factory=list)
    started_s: list[float] = field(default_factory=list)
    stopped_s: list[float] = field(default_factory=list)
    missing_since_s: list[float | None] = field(default_factory=list)
    start_since_s: list[float | None] = field(default_factory=list)
    stop_since_s: list[float | None] = field(default_factory=list)
    latched_s: float = 0.0  # when the last call latched
    over_run: set[int] = field(default_factory=set)
    over_often: set[int] = field(default_factory=set)  # pumps that started more often than they may
    begun_s: list[list[float]] = field(default_factory=list)  # starts of each pump within the last hour
    cycles: tuple[tuple[int, bool], ...] = ()  # the last ones: who led, and whether it needed help
    lead: int | None = None
    most_calls: int = 0
    last_start_s: float = -1e9
    now_s: float = 0.0
    dead: frozenset[int] = frozenset()  # pumps whose drive is silent: nothing turns them, nobody can call them
    unknown: frozenset[int] = frozenset()  # pumps that the controller was not told of
    held: frozenset[int] = frozenset()  # pumps that turn backwards: not started before they stand
    alone: tuple[bool, ...] | None = None  # which pumps run each by itself; None while calls are shared out
    was_supplied: bool = True  # power and phases, at the scan before
    waits_after: bool = False  # whether a person must reset before pumps start again once the supply is back
    waits: bool = False  # it does so now
    supply_left_s: float | None = None  # so long a monitor still holds them back, the supply being right again

    def __post_init__(self) -> None:
        pumps, calls = self.pump_count, self.duty_count
        self.switches = self.switches or [Switch.AUTO] * pumps
        self.latched = self.latched or [False] * calls
        self.running = self.running or [False] * pumps
        self.tripped = self.tripped or [None] * pumps
        self.run_s = self.run_s or [0.0] * pumps
        self.started_s = self.started_s or [-math.inf] * pumps
        self.stopped_s = self.stopped_s or [-math.inf] * pumps
        self.begun_s = self.begun_s or [[] for _ in range(pumps)]
        self.missing_since_s = self.missing_since_s or [None] * pumps
        self.start_since_s = self.start_since_s or [None] * calls
        self.stop_since_s = self.stop_since_s or [None] * calls

    @property
    def pump_count(self) -> int:
        """Pumps installed, a standby among them."""
        return self.rotation.pump_count

    @property
    def duty_count(self) -> int:
        """Pumps that share the work; a standby is not among them."""
        return self.rotation.duty_count

    def turn_switch(self, pump: int, place: Switch) -> None:
        """HAND, OFF or AUTO; OFF also resets a tripped pump and its alarms."""
        self.switches[pump] = place
        if place is Switch.OFF:
            self.tripped[pump] = None
            self.over_run.discard(pump)
            self.over_often.discard(pump)
            self.cycles = tuple(cycle for cycle in self.cycles if cycle[0] != pump)

    def scan(self, contacts: Contacts, now_s: float, feedback: tuple[bool, ...] | None = None) -> None:
        """Read the contacts and act once. feedback: which starters are pulled in; None takes all as called."""
        elapsed_s = now_s - self.now_s
        self.run_s = [run + elapsed_s * on for run, on in zip(self.run_s, self.running)]
        self.now_s = now_s
        if not self.power:
            self._drop_all()
            self.was_supplied = False
            return
        self._watch_starters(feedback if feedback is not None else tuple(self.running))
        self._latch(contacts)
        if not self.phases_ok:
            self._stop_all()
            self.was_supplied = False
            return
        if not self.was_supplied:  # however long it was away, the first start waits one gap
            self.was_supplied, self.last_start_s, self.waits = True, now_s, self.waits_after
        self._limit_runs()
        served = self.serving()
        for pump in (
            *served,
            *(pump for pump in range(self.pump_count) if pump not in served),
        ):  # the lead starts first
            wanted = pump in served or self._by_hand(pump)
            if self.running[pump]:
                if not wanted and not self._must_run_on(pump, contacts):
                    self._stop(pump)
            elif wanted and self.gap_left_s() <= 0.0 and (self._by_hand(pump) or self.rest_left_s(pump) <= 0.0):
                if not self._may_begin(pump):
                    continue
                self.running[pump] = True
                self.started_s[pump] = self.last_start_s = now_s

    def _may_begin(self, pump: int) -> bool:
        """Whether one more start is made; it is counted, and where it is one too many told of. A person at the switch is not refused."""
        begun = self.begun_s[pump] = [at_s for at_s in self.begun_s[pump] if at_s > self.now_s - 3600.0]
        if len(begun) >= self.timing.most_starts:
            if self.timing.starts_lock and not self._by_hand(pump):
                self.tripped[pump], self.begun_s[pump] = Trip.TOO_OFTEN, []
                return False
            self.over_often.add(pump)
        begun.append(self.now_s)
        return True

    def _drop_all(self) -> None:
        self.latched = [False] * self.duty_count
        self.start_since_s, self.stop_since_s = [None] * self.duty_count, [None] * self.duty_count
        self.lead, self.most_calls = None, 0
        self._stop_all()

    def _stop_all(self) -> None:
        for pump in range(self.pump_count):
            if self.running[pump]:
                self._stop(pump)
        self.missing_since_s = [None] * self.pump_count

    def _stop(self, pump: int) -> None:
        self.running[pump] = False
        self.stopped_s[pump] = self.now_s

    def _by_hand(self, pump: int) -> bool:
        return self.switches[pump] is Switch.HAND and not self.tripped[pump] and pump not in self.dead

    def _must_run_on(self, pump: int, contacts: Contacts) -> bool:
        return contacts.low_water_closed and self.is_available(pump) and self.run_left_s(pump) > 0.0

    def _watch_starters(self, feedback: tuple[bool, ...]) -> None:
        for pump, (called, seen) in enumerate(zip(self.running, feedback)):
            if not called or seen:
                self.missing_since_s[pump] = None
                continue
            since_s = self.missing_since_s[pump]
            self.missing_since_s[pump] = since_s = self.now_s if since_s is None else since_s
            if self.now_s - since_s >= self.timing.feedback_s:
                self.tripped[pump] = Trip.NO_FEEDBACK
                self.missing_since_s[pump] = None

    def _latch(self, contacts: Contacts) -> None:
        before, now_s, timing = list(self.latched), self.now_s, self.timing
        for call, (starts, stays) in enumerate(zip(contacts.start_closed, contacts.stop_closed)):
            start_since_s = self.start_since_s[call] = _since(self.start_since_s[call], starts, now_s)
            stop_since_s = self.stop_since_s[call] = _since(self.stop_since_s[call], not stays, now_s)
            if not contacts.low_water_closed:
                self.latched[call] = False
            elif stop_since_s is not None:
                self.latched[call] = self.latched[call] and now_s - stop_since_s < timing.stop_delay_s
            elif start_since_s is not None and now_s - start_since_s >= timing.start_delay_s:
                self.latched[call] = True
        if self.latched == before and math.isinf(timing.assist_s):
            return
        if sum(self.latched) > sum(before):
            self.latched_s = now_s
        elif self.assist_left_s() <= 0.0:
            following = self.latched.index(False)
            self.latched[following] = contacts.stop_closed[following] and contacts.low_water_closed
            self.latched_s = now_s
        self._pass_turns(before)
        self._judge_cycle()

    def _pass_turns(self, before: list[bool]) -> None:
        available = [self.is_available(pump) for pump in range(self.pump_count)]
        for number, calls in enumerate(self.rotation.groups):
            had, has = sum(before[call] for call in calls), sum(self.latched[call] for call in calls)
            if has < had:
                self.rotation.stopped(number, has == 0, available, self.run_s, self.now_s)

    def _judge_cycle(self) -> None:
        """Remember who led each cycle and whether it needed the assist."""
        calls = sum(self.latched)
        if calls and self.lead is None:
            served = self.serving()
            self.lead = served[0] if served else None
        self.most_calls = max(self.most_calls, calls)
        if calls == 0 and self.most_calls:
            if self.lead is not None:
                self.cycles = (*self.cycles, (self.lead, self.most_calls > 1))[-2 * max(1, self.suspect_cycles) * self.pump_count :]
            self.lead, self.most_calls = None, 0

    def suspects(self) -> tuple[int, ...]:
        """Leads that needed help in each of so many cycles they led, while every cycle led by others in between did without.

        A storm calls the assist whoever leads, so it accuses nobody; nor does a panel whose lead never changes.
        """
        if not self.suspect_cycles:
            return ()
        return tuple(sorted({lead for lead, _ in self.cycles if self._is_suspect(lead)}))

    def _is_suspect(self, pump: int) -> bool:
        led = [place for place, (lead, _) in enumerate(self.cycles) if lead == pump][-self.suspect_cycles :]
        if len(led) < self.suspect_cycles or not all(self.cycles[place][1] for place in led):
            return False
        others = [helped for lead, helped in self.cycles[led[0] :] if lead != pump]
        return len(others) >= self.suspect_cycles - 1 and not any(others)

    def _limit_runs(self) -> None:
        for pump, on in enumerate(self.running):
            too_long = on and self.switches[pump] is Switch.AUTO and self.max_run_left_s(pump) <= 0.0
            if not too_long or pump in self.over_run:
                continue
            self.over_run.add(pump)
            if self.timing.long_passes and (pump < self.duty_count or self.rotation.all_turn):
                self.rotation.to_the_end(pump)

    def is_available(self, pump: int) -> bool:
        """Whether calls can go to this pump: in AUTO and not tripped."""
        return self.switches[pump] is Switch.AUTO and not self.tripped[pump] and pump not in self.out_of_call

    @property
    def out_of_call(self) -> frozenset[int]:
        """Pumps that no call can reach although they are in AUTO and not tripped."""
        return self.dead | self.held | self.unknown

    def serving(self) -> tuple[int, ...]:
        """Which pumps the latched calls go to, or run each by itself."""
        if self.alone is not None and not self.waits:
            return tuple([pump for pump, runs in enumerate(self.alone) if runs and self.is_available(pump)])
        if True not in self.latched or self.waits:
            return ()
        available = [place is Switch.AUTO and not why for place, why in zip(self.switches, self.tripped)]
        for pump in self.out_of_call:
            available[pump] = False
        return self.rotation.serving(self.latched, available)

    def gap_left_s(self) -> float:
        """Time until another pump may start. 0 when one may start now. [s]"""
        return max(0.0, self.last_start_s + self.timing.start_gap_s - self.now_s)

    def rest_left_s(self, pump: int) -> float:
        """Time until this pump has rested long enough to start again. [s]"""
        return max(0.0, self.stopped_s[pump] + self.timing.min_off_s - self.now_s)

    def run_left_s(self, pump: int) -> float:
        """Time until this pump has run long enough to be stopped. [s]"""
        return max(0.0, self.started_s[pump] + self.timing.min_run_s - self.now_s)

    def max_run_left_s(self, pump: int) -> float:
        """Time until this pump has run longer than it may. [s]"""
        return self.started_s[pump] + self.timing.max_run_s - self.now_s

    def feedback_left_s(self, pump: int) -> float | None:
        """Time until a starter without feedback is given up; None where nothing is missing. [s]"""
        since_s = self.missing_since_s[pump]
        return None if since_s is None else max(0.0, since_s + self.timing.feedback_s - self.now_s)

    def assist_left_s(self) -> float:
        """Time until the timer calls one more pump; infinite where it does not run. [s]"""
        if not any(self.latched) or all(self.latched) or math.isinf(self.timing.assist_s):
            return math.inf
        return self.latched_s + self.timing.assist_s - self.now_s

    def delay_left_s(self, call: int) -> float | None:
        """Time until a closed start contact is believed; None where none is waited for. [s]"""
        since_s = self.start_since_s[call]
        if since_s is None or self.latched[call]:
            return None
        return max(0.0, since_s + self.timing.start_delay_s - self.now_s)

    def _waits(self) -> bool:
        """Whether a start contact is closed and not yet believed, or a pump is wanted by hand."""
        return any(since is not None for since in self.start_since_s) or Switch.HAND in self.switches

    def next_change_s(self) -> float:
        """Time until a timer can change something by itself. [s]"""
        if True not in self.running and True not in self.latched and not self._waits():
            return math.inf
        left = [self.assist_left_s()]
        served = self.serving()
        for pump in range(self.pump_count):
            if self.running[pump]:
                if pump not in self.over_run and self.switches[pump] is Switch.AUTO:
                    left.append(self.max_run_left_s(pump))
                if pump not in served and self.switches[pump] is Switch.AUTO:
                    left.append(self.run_left_s(pump))
            elif pump in served:
                left += _counting(max(self.gap_left_s(), self.rest_left_s(pump)))
            elif self._by_hand(pump):
                left += _counting(self.gap_left_s())
            missing = self.feedback_left_s(pump)
            if missing is not None:
                left.append(missing)
        for call in range(self.duty_count):
            waits = self.delay_left_s(call)
            left += [] if waits is None else _counting(waits)
            opened_s = self.stop_since_s[call]
            if self.latched[call] and opened_s is not None:
                left.append(opened_s + self.timing.stop_delay_s - self.now_s)
        return max(0.0, min(left))


def _counting(left_s: float) -> list[float]:
    """A timer that still counts. One that has ended and moved nothing at its scan waits for a contact, which no clock moves. [s]"""
    return [left_s] if left_s > 0.0 else []


def _since(since_s: float | None, holds: bool, now_s: float) -> float | None:
    """Since when a condition holds."""
    return None if not holds else now_s if since_s is None else since_s
