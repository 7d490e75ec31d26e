"""The circulator's control on the bench, scanned as the real ones are: clock, outside control, thermostat, button, a moment's turn after long rests, learning."""

import math
from dataclasses import dataclass, field

from goodbalance.core.control.alarms import AlarmPanel
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.stations.circulator.controller.numbers import Numbers
from goodbalance.core.stations.circulator.names import Mode, State
from goodbalance.core.stations.circulator.survey.choices import Wins
from goodbalance.core.stations.circulator.survey.use import Outside
from goodbalance.core.stations.shared.week import DAY_S, WEEK_S, Spans, runs_at, spans, until_change_s

KICK_S = 10.0  # how long a moment's turn lasts
HOUR_S = 3600.0
LEARNS_S = WEEK_S  # so long it only looks


@dataclass
class RingLogic:
    """Scan-based: read, judge, decide. clock_off_s: how far its clock is off the real time of the week."""

    numbers: Numbers
    switch: Switch = Switch.AUTO
    power: bool = True
    clock_off_s: float = 0.0
    clock_lost: bool = False  # it counts from Monday, midnight, since its supply came back
    contact: bool = False  # the building's
    pushed_s: float = -math.inf
    heated: bool = False  # the thermostat asks
    failed: bool = False  # the sensor at the return
    called: bool = False
    kicks_until_s: float = -math.inf
    stands_since_s: float = 0.0
    drawn_hours: set[int] = field(default_factory=set)  # hours of the day in which it felt a draw
    now_s: float = 0.0
    return_c: float = 0.0
    alarms: AlarmPanel = field(default_factory=AlarmPanel)

    def __post_init__(self) -> None:
        self.week: Spans = spans(self.numbers.times)

    # what asks

    @property
    def week_s(self) -> float:
        """The time of the week by its clock. [s]"""
        return (self.now_s + self.clock_off_s) % WEEK_S

    @property
    def clock_asks(self) -> bool:
        """Whether its own clock lets it run; always where it does not go by it."""
        if self.numbers.mode is Mode.LEARNING:
            return self.now_s < LEARNS_S or not self.drawn_hours.isdisjoint(self._near_hours())
        return not self.numbers.by_clock or runs_at(self.week, self.week_s)

    def _near_hours(self) -> tuple[int, int]:
        """This hour of the day, and the next one, for which it is warm in time."""
        hour = int(self.week_s % DAY_S // HOUR_S)
        return hour, (hour + 1) % 24

    @property
    def outside_asks(self) -> bool | None:
        """Whether the outside control asks; None where there is none."""
        outside = self.numbers.outside
        if outside is Outside.NONE:
            return None
        if outside is Outside.BUTTON:
            return self.now_s < self.pushed_s + self.numbers.button_run
        return self.heated if outside is Outside.THERMOSTAT else self.contact

    @property
    def asked(self) -> bool:
        """Clock and outside control together."""
        outside, wins = self.outside_asks, self.numbers.wins
        if outside is None:
            return self.clock_asks
        if wins is Wins.OUTSIDE:
            return outside
        return (self.clock_asks or outside) if wins is Wins.EITHER else (self.clock_asks and outside)

    @property
    def kicks(self) -> bool:
        """Whether it turns for a moment so that it does not seize."""
        return self.now_s < self.kicks_until_s

    @property
    def runs(self) -> bool:
        """Whether it is told to turn."""
        return self.power and (self.switch is Switch.HAND or (self.switch is Switch.AUTO and (self.called or self.kicks)))

    @property
    def state(self) -> State:
        """What it is doing, as its display says it."""
        if self.switch is Switch.OFF or not self.power:
            return State.OFF
        if self.switch is Switch.HAND or self.called:
            return State.RUNS
        return State.KICK if self.kicks else State.RESTS

    # one scan

    def scan(self, now_s: float, return_c: float | None, drawn: bool) -> None:
        """Judge, decide. return_c: at its sensor, None where the sensor is dead; drawn: whether somebody draws."""
        self.now_s = now_s
        if not self.power:
            self.called = False
            return
        self.failed = return_c is None and self._wants_sensor
        if return_c is not None:
            self.return_c = return_c
        if self.numbers.outside is Outside.THERMOSTAT:
            self.heated = True if self.failed else self.return_c <= self.numbers.stat_start or (self.heated and self.return_c < self.numbers.stat_stop)
        if drawn:
            self.drawn_hours.add(int(self.week_s % DAY_S // HOUR_S))
        self.called = self.asked
        if self.called or self.switch is Switch.HAND:
            self.stands_since_s = now_s
        elif self.switch is Switch.AUTO and now_s - self.stands_since_s >= self.numbers.kick_every - 1e-6:
            self.kicks_until_s, self.stands_since_s = now_s + KICK_S, now_s + KICK_S

    @property
    def _wants_sensor(self) -> bool:
        return self.numbers.mode is Mode.RETURN or self.numbers.outside is Outside.THERMOSTAT

    def until_s(self) -> float:
        """How long until its own clocks change something. [s]"""
        n, waits = self.numbers, [math.inf]
        if n.mode is Mode.LEARNING:
            waits.append(HOUR_S - self.week_s % HOUR_S)
        elif n.by_clock:
            waits.append(until_change_s(self.week, self.week_s))
        if n.outside is Outside.BUTTON and self.now_s < self.pushed_s + n.button_run:
            waits.append(self.pushed_s + n.button_run - self.now_s)
        if self.kicks:
            waits.append(self.kicks_until_s - self.now_s)
        elif not self.called and self.switch is Switch.AUTO and math.isfinite(n.kick_every):
            waits.append(max(0.0, self.stands_since_s + n.kick_every - self.now_s))
        return min(waits)

    # what people do

    def supply(self, there: bool, keeps_clock: bool) -> None:
        """The supply goes or comes back. A clock without a reserve begins anew at Monday, midnight."""
        if there and not self.power and not keeps_clock:
            self.clock_off_s, self.clock_lost = -self.now_s, True
        self.power = there

    def set_clock(self) -> None:
        """Somebody sets its clock to the real time."""
        self.clock_off_s, self.clock_lost = 0.0, False
