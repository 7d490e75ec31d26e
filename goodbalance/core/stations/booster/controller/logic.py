"""The controller of a booster set on the bench, scanned as the real boxes are: what stops it, what calls pumps, who serves."""

import math
from collections.abc import Callable
from dataclasses import dataclass, field

from goodbalance.core.control.retries import Retries
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.control.trips import Trip
from goodbalance.core.stations.booster.controller.own_switches import OwnSwitches
from goodbalance.core.stations.booster.controller.regulator import Regulator
from goodbalance.core.stations.booster.controller.stops import (
    FAILURE_DELAY_S,
    Seen,
    causes_of,
    judge_pumps,
    judge_stops,
    runs_closed,
)
from goodbalance.core.stations.booster.names import Mode, Stop, Wait
from goodbalance.core.stations.booster.survey.choices import NoFlowBy, OnFailure, Sharing
from goodbalance.core.stations.booster.survey.control import SHORT_STOP_S, ControlKind

BOOST_LIMIT_S = 60.0


@dataclass
class BoosterLogic(Regulator):
    """Scan-based: read, judge what stops the set, decide how many pumps are wanted, say who serves and at what speed."""

    switches: list[Switch] = field(default_factory=list)
    power: bool = True
    hand_speed: float = 1.0
    run_s: list[float] = field(default_factory=list)
    served: tuple[int, ...] = ()  # who serves, as of the last scan
    turned: tuple[int, ...] = ()  # who turned by call, as of the last scan
    started_s: list[list[float]] = field(default_factory=list)  # starts of each pump within the last hour

    def __post_init__(self) -> None:
        count = self.rotation.pump_count
        self.switches = self.switches or [Switch.AUTO] * count
        self.tripped = self.tripped or [None] * count
        self.primes = self.primes or [Retries() for _ in range(count)]
        self.run_s = self.run_s or [0.0] * count
        self.started_s = self.started_s or [[] for _ in range(count)]
        self.own = (self.numbers, *self.numbers.heirs)  # of each drive; one for all where they hold the same
        self.callers = OwnSwitches(self.numbers.switches) if self.numbers.switches else None
        super().__post_init__()

    def _lead(self) -> None:
        """Where drives hold numbers of their own the one whose turn it is goes by its own."""
        if len(self.own) > 1 and self.own[0].each_leads and self.own[self.lead] is not self.numbers:
            self.go_by(self.own[self.lead])

    @property
    def lead(self) -> int:
        """The pump whose turn it is to start first."""
        return next((pump for pump in self.rotation.order if self.switches[pump] is Switch.AUTO and not self.tripped[pump]), 0)

    def leads(self, pump: int) -> bool:
        """Whether what the drive of this pump holds counts now, and others hold something else."""
        return len(self.own) > 1 and self.own[0].each_leads and self.own[pump] is self.numbers

    def within_own(self, pump: int, speed: float) -> float:
        """A speed that is asked for, within the limits that the drive of this pump holds itself."""
        if len(self.own) == 1 or speed <= 0.0:
            return speed
        own = self.own[pump]
        return min(own.most_speed, max(own.least_speed, speed))

    # one scan

    def scan(self, seen: Seen, now_s: float) -> None:
        """Judge, decide, share out."""
        self.scanned_s, self.now_s = self.now_s, now_s
        self._lead()
        self._see_supply()
        if seen.pressure_pa is not None:
            self.believed_pa = seen.pressure_pa
        judge_stops(self, seen)
        judge_pumps(self, seen)
        self._read_clock()
        before = self.stage
        if self.callers is not None:
            self.callers.look(seen.at_switches_pa)
        if self.stopped:
            self.mode, self.stage = Mode.ASLEEP, 0
        elif self.numbers.kind is ControlKind.CONSTANT:
            self._hold(seen)
        elif self.callers is not None:
            self.stage = self._one_by_one(sum(self.callers.closed))
            self.mode = Mode.RUNNING if self.stage else Mode.ASLEEP
        else:
            self._switch(seen)
        if runs_closed(self, seen) and self.stage:
            self.closed_noted = True
            self._sleep()
            if self.callers is not None:
                self.callers.let_go()
        self.stage = min(self.stage, self.most_pumps)
        if self.stage < before:
            available = [self.is_available(pump) or self.callers is not None for pump in range(self.rotation.pump_count)]  # a relay passes nobody over
            self.rotation.stopped(0, self.stage == 0, available, self.run_s, self.clock_s + now_s)
            self._lead()
        self.served = self.serving()
        causes = causes_of(self)
        if causes.keys() != self.alarms.causes or self.alarms.lamps:
            self.alarms.update(causes)

    def _one_by_one(self, called: int) -> int:
        """How many of the pumps that switches call may run: one more only when the gap since the last start is over."""
        if called <= self.stage or not self.numbers.start_gap:
            return called
        if self.left_s(Wait.GAP, self.numbers.start_gap):
            return self.stage
        self.since[Wait.GAP, 0] = self.now_s
        return self.stage + 1

    def _see_supply(self) -> None:
        """Whether the supply has just come back, and who may start then."""
        if not self.power or not self.phases_ok:
            self.was_supplied = False
        elif not self.was_supplied:
            self.was_supplied, self.waits = True, self.numbers.waits_after
            self.since[Wait.POWER_BACK, 0] = self.now_s

    def count_starts(self, turning: tuple[int, ...]) -> None:
        """Note which of the pumps that turn by call began since the last scan; a short stop ends in a start too."""
        for pump in turning:
            if pump not in self.turned:
                self.started_s[pump].append(self.now_s)
        self.turned = turning
        for starts in self.started_s:
            while starts and starts[0] <= self.now_s - 3600.0:
                starts.pop(0)
        for pump in self.over_started if self.numbers.starts_lock else ():
            self.tripped[pump], self.started_s[pump] = self.tripped[pump] or Trip.TOO_OFTEN, []  # counted anew once somebody has reset it

    @property
    def over_started(self) -> tuple[int, ...]:
        """Pumps that started more often within the last hour than the alarm allows."""
        return tuple(p for p, starts in enumerate(self.started_s) if len(starts) > self.numbers.starts_alarm)

    @property
    def stopped(self) -> bool:
        """Whether something stops the whole set."""
        return bool(self.stops) or not self.power or not self.phases_ok or self.waits or not self.value.may_run or self.comes_back

    @property
    def comes_back(self) -> bool:
        """Whether the supply was away, and its delay still counts."""
        return bool(self.left_s(Wait.POWER_BACK, self.numbers.power_delay))

    @property
    def most_pumps(self) -> int:
        """How many may run now."""
        if self.slowed:
            return 1
        return min(self.rotation.duty_count, self.numbers.emergency_pumps) if self.on_generator else self.rotation.duty_count

    def is_available(self, pump: int) -> bool:
        """Whether this pump can be called: in AUTO and not given up."""
        return self.switches[pump] is Switch.AUTO and not self.tripped[pump] and pump < self.numbers.pumps

    def serving(self) -> tuple[int, ...]:
        """Which pumps serve the calls, the lead first."""
        if self.stage == 0 or self.stopped:
            return ()
        known = self.numbers.pumps
        if self.callers is not None:  # nobody stands in for a pump that does not come: the next has a lower switch
            called = [pump for pump, closed in zip(self.rotation.order, self.callers.closed) if closed and self.is_available(pump)]
            return tuple(called[: min(self.stage, self.most_pumps)])
        free = [p for p in self.rotation.order if self.switches[p] is Switch.AUTO and not self.tripped[p] and p < known]
        return tuple(free[: min(self.stage, self.rotation.duty_count)])

    def by_hand(self) -> tuple[int, ...]:
        """Pumps that run in HAND."""
        if Switch.HAND not in self.switches or not self.power or not self.phases_ok or Stop.HIGH in self.stops:
            return ()
        return tuple(p for p, place in enumerate(self.switches) if place is Switch.HAND and not self.tripped[p])

    def wanted_speeds(self) -> list[float]:
        """What each drive or contactor is told now, as a share of full speed."""
        n, wanted = self.numbers, [0.0] * self.rotation.pump_count
        for pump in self.by_hand():
            wanted[pump] = self.hand_speed if n.driven else 1.0
        for place, pump in enumerate(self.served):
            wanted[pump] = self.within_own(pump, self._speed_of(place, len(self.served), pump))
        return wanted

    def regulating(self) -> tuple[int, ...]:
        """Pumps that turn at the regulator's output now."""
        n = self.numbers
        if n.kind is not ControlKind.CONSTANT or self.blind or self.slowed or self.mode not in (Mode.RUNNING, Mode.BOOSTING) or self.value.loop_by_hand:
            return ()
        return self.served[-1:] if n.sharing is Sharing.SERIAL else self.served

    def _speed_of(self, place: int, count: int, pump: int) -> float:
        n = self.numbers
        if n.kind is not ControlKind.CONSTANT:
            return n.fixed_speed if len(self.own) == 1 else self.own[pump].fixed_speed
        if self.mode is Mode.TESTING:
            return 0.0
        if self.blind or self.slowed or self.mode is Mode.FILLING:
            return n.fill_speed
        if n.sharing is Sharing.SERIAL and place < count - 1:
            return n.most_speed
        return self.output

    @property
    def blind(self) -> bool:
        """Whether one pump runs on although the pressure is not known."""
        return (Wait.SENSOR, 0) in self.since and self.numbers.on_failure is OnFailure.RUN_DUTY and self.sensor_failed

    @property
    def sensor_failed(self) -> bool:
        """Whether the discharge sensor is given up."""
        return self.now_s - self.since.get((Wait.SENSOR, 0), math.inf) >= FAILURE_DELAY_S

    def can_serve(self) -> int:
        """How many pumps could serve now."""
        return min(self.most_pumps, sum(self.is_available(pump) for pump in range(self.rotation.pump_count)))

    # constant pressure

    def _hold(self, seen: Seen) -> None:
        if seen.pressure_pa is None:
            if self.blind and self.stage == 0:
                self.stage = 1
            return
        if self.slowed:
            self.stage, self.mode = 1, Mode.RUNNING
            return
        if self.value.loop_by_hand and self.stage:
            return  # a person has the speed: nothing is called, dropped or put to sleep
        if self.mode is Mode.RUNNING:
            self._share(seen)
        for move in MOVES[self.mode]:
            if move.when(self, seen, seen.pressure_pa):
                self._enter(move.to)
                move.then(self)
                return

    def _sleep(self) -> None:
        self._enter(Mode.ASLEEP)
        self.rest()

    def wake(self) -> None:
        """One pump is wanted, from its least speed on."""
        self.stage = 1
        self.take_over(self.numbers.least_speed)

    def rest(self) -> None:
        """No pump is wanted."""
        self.stage, self.flow_m3s = 0, 0.0

    def _enter(self, mode: Mode) -> None:
        """Take up a mode; what counted towards leaving the one before counts no more."""
        self.mode = mode
        for wait in (Wait.IDLE, Wait.BOOST, Wait.TEST, Wait.BUMP):
            self.since.pop((wait, 0), None)

    def _share(self, seen: Seen) -> None:
        """Call one pump more, or let one go."""
        n = self.numbers
        wants = self.output >= n.join_speed and self.stage < self.can_serve()
        if n.sharing is Sharing.SERIAL and seen.pressure_pa is not None:  # one at full speed may be just enough
            wants = wants and seen.pressure_pa < self.target_pa(self.flow_m3s) - n.band_pa / 2.0
        if self.lasts(Wait.JOIN, wants, n.join_delay):
            self.stage += 1
            self.since.pop((Wait.JOIN, 0), None)
            if n.sharing is Sharing.SERIAL:
                self.take_over(n.idle_speed)
        idle = self.stage > 1 and self.output <= n.leave_speed
        # a pump at full speed against closing outlets must not wait until the high-pressure stop
        climbs = (
            n.sharing is Sharing.SERIAL
            and idle
            and (seen.pressure_pa or 0.0) > self.target_pa(self.flow_m3s) + 2.0 * n.band_pa
        )
        if self.lasts(Wait.LEAVE, idle, 0.0 if climbs else n.leave_delay):
            self.stage -= 1
            self.since.pop((Wait.LEAVE, 0), None)
            if n.sharing is Sharing.SERIAL:
                self.take_over(n.most_speed)

    def no_flow(self, seen: Seen) -> bool:
        """Whether the pump that is left has told long enough that nobody draws."""
        n = self.numbers
        idle = seen.flow_open if n.no_flow is NoFlowBy.FLOW else self.output <= n.sleep_speed
        return n.no_flow is not NoFlowBy.BUMP and self.lasts(Wait.IDLE, self.stage == 1 and idle, n.sleep_delay)

    def may_feel(self) -> bool:
        """Whether it is time to stop for a moment and feel whether anybody draws."""
        n = self.numbers
        slow = self.stage == 1 and self.output <= n.bump_below
        return n.no_flow is NoFlowBy.BUMP and self.lasts(Wait.BUMP, slow, n.sleep_delay)

    # on and off

    def _switch(self, seen: Seen) -> None:
        n = self.numbers
        if seen.pressure_pa is None:
            if self.blind and self.stage == 0:
                self.stage = 1
            return
        low = seen.pressure_pa <= n.cut_in
        if self.stage == 0:
            if low:
                self.stage, self.mode = 1, Mode.RUNNING
                self.since[Wait.RAN, 0] = self.now_s
            return
        if self.lasts(Wait.JOIN, low and self.stage < self.can_serve(), n.join_delay):
            self.stage += 1
            self.since.pop((Wait.JOIN, 0), None)
        ran = self.now_s - self.since.get((Wait.RAN, 0), self.now_s) >= n.least_run
        if n.kind is ControlKind.FLOW_STOP:
            ends = self.lasts(Wait.NO_FLOW, seen.flow_open and not low, n.flow_delay)
        else:
            ends = seen.pressure_pa >= n.cut_out
        if ends and ran:
            self._sleep()

    # what people see and do

    def reset(self) -> None:
        """What a person's reset clears: stops whose cause has gone, and alarms."""
        self.stops = {stop: held for stop, held in self.stops.items() if not held}
        self.water.reset()
        for wait in (Wait.BURST, Wait.FILL, Wait.CLOSED):
            self.since.pop((wait, 0), None)
        if self.slowed:
            self.take_over(self.numbers.fill_speed)
        self.closed_noted = self.waits = self.slowed = False
        self.started_s = [[] for _ in self.started_s]
        self.alarms.update(causes_of(self))
        self.alarms.reset()

    def turn_switch(self, pump: int, place: Switch) -> None:
        """HAND, OFF or AUTO of one pump; OFF clears its trip."""
        self.switches[pump] = place
        if place is Switch.OFF:
            self.tripped[pump] = None
            self.primes[pump].reset()
            self.since.pop((Wait.AIR, pump), None)


@dataclass(frozen=True, slots=True)
class Move:
    """From one mode of a set that holds a pressure into another: when, by what is seen and the pressure, and what is done then."""

    to: Mode
    when: Callable[[BoosterLogic, Seen, float], bool]
    then: Callable[[BoosterLogic], None] = lambda logic: None


def _boost(logic: BoosterLogic) -> None:
    if logic.output < logic.numbers.idle_speed:  # closed outlets had brought it under the speed that holds the pressure
        logic.take_over(logic.numbers.idle_speed)


MOVES: dict[Mode, tuple[Move, ...]] = {  # looked at in this order, one at each scan
    Mode.ASLEEP: (
        Move(
            Mode.FILLING,
            lambda logic, seen, pa: pa <= logic.numbers.restart and logic.numbers.slow_fill and pa < logic.numbers.fill_pressure,
            BoosterLogic.wake,
        ),
        Move(Mode.RUNNING, lambda logic, seen, pa: pa <= logic.numbers.restart, BoosterLogic.wake),
    ),
    Mode.FILLING: (
        Move(
            Mode.RUNNING,
            lambda logic, seen, pa: pa >= logic.numbers.fill_pressure,
            lambda logic: logic.take_over(logic.numbers.fill_speed),
        ),
    ),
    Mode.RUNNING: (
        Move(Mode.TESTING, lambda logic, seen, pa: logic.may_feel()),
        Move(Mode.BOOSTING, lambda logic, seen, pa: logic.numbers.boost > 0.0 and logic.no_flow(seen), _boost),
        Move(Mode.ASLEEP, lambda logic, seen, pa: logic.numbers.boost <= 0.0 and logic.no_flow(seen), BoosterLogic.rest),
    ),
    Mode.BOOSTING: (
        Move(
            Mode.ASLEEP,
            lambda logic, seen, pa: pa >= logic.target_pa(0.0) - logic.numbers.band_pa / 4.0 or logic.lasts(Wait.BOOST, True, BOOST_LIMIT_S),
            BoosterLogic.rest,
        ),
        Move(Mode.RUNNING, lambda logic, seen, pa: pa < logic.numbers.restart),
    ),
    Mode.TESTING: (
        Move(
            Mode.RUNNING,
            lambda logic, seen, pa: pa < logic.target_pa(0.0) - logic.numbers.band_pa,
            lambda logic: logic.take_over(logic.numbers.idle_speed),
        ),
        Move(Mode.ASLEEP, lambda logic, seen, pa: logic.lasts(Wait.TEST, True, SHORT_STOP_S), BoosterLogic.rest),
    ),
}
