"""The regulator of a booster set: which pressure is in force, and the speed that holds it."""

from dataclasses import dataclass, field

from goodbalance.core.control.pid import Gains, Pid
from goodbalance.core.stations.booster.controller.numbers import Numbers
from goodbalance.core.stations.booster.controller.set_value import Asks, SetValue
from goodbalance.core.stations.booster.controller.stops import Guard
from goodbalance.core.stations.booster.names import Mode
from goodbalance.core.stations.booster.survey.control import ControlKind

NOON_S, DAY_S = 12.0 * 3600.0, 86400.0


@dataclass
class Regulator(Guard):
    """What is asked for, by whom and by the clock, and the PID that holds it; it goes on many times between scans."""

    on_generator: bool = False
    night: bool = False
    stage: int = 0  # pumps that are wanted
    output: float = 0.0  # speed the regulator asks for, share of full
    believed_pa: float = 0.0
    clock_s: float = NOON_S  # what the clock says at the start (a Monday), and what it was set forward by
    pid: Pid = field(init=False)
    value: SetValue = field(init=False)

    def __post_init__(self) -> None:
        n = self.numbers
        self.value = SetValue(n.asking)
        self.pid = Pid(Gains(n.gain, n.reset_time), 100.0 * n.least_speed, 100.0 * n.most_speed)

    def go_by(self, numbers: Numbers) -> None:
        """Go on by other numbers from the speed that is given now: another drive leads."""
        self.numbers, self.value.asking = numbers, numbers.asking
        self.pid.gains = Gains(numbers.gain, numbers.reset_time)
        self.pid.low, self.pid.high = 100.0 * numbers.least_speed, 100.0 * numbers.most_speed
        self.take_over(self.output)

    def in_force(self) -> tuple[float, Asks]:
        """The set pressure in force, before setback, night and boost, and who asks for it. [Pa]"""
        n = self.numbers
        return self.value.in_force(n.set_pressure, self.clock_s + self.now_s, n.lowest_set, n.highest_set)

    def _read_clock(self) -> None:
        """Whether it is night by the clock, where night has hours."""
        n = self.numbers
        if n.night_from_h is None or n.night_to_h is None:
            return
        hour = (self.clock_s + self.now_s) % DAY_S / 3600.0
        since, lasts = (hour - n.night_from_h) % 24.0, (n.night_to_h - n.night_from_h) % 24.0
        self.night = since < lasts

    def set_clock(self, hour: float) -> None:
        """Set the clock forward to an hour of the day."""
        self.clock_s += (hour * 3600.0 - self.clock_s - self.now_s) % DAY_S
        self._read_clock()

    def target_pa(self, flow_m3s: float) -> float:
        """The pressure to hold now: by day, by night, on the generator, by setback, with boost."""
        n = self.numbers
        base_pa, who = self.in_force()
        if n.no_flow_pressure is not None:
            share = min(1.0, max(0.0, flow_m3s / n.design_m3s))
            low_pa = n.no_flow_pressure if who is Asks.OWN else min(n.no_flow_pressure, base_pa)
            base_pa = low_pa + (base_pa - low_pa) * (share**2 if n.setback_square else share)
        if self.night and n.night_pressure is not None:
            base_pa = min(base_pa, n.night_pressure)
        if self.on_generator and n.emergency_pressure is not None:
            base_pa = min(base_pa, n.emergency_pressure)
        return base_pa + (n.boost if self.mode is Mode.BOOSTING else 0.0)

    def regulate(self, pressure_pa: float, remote_pa: float | None, flow_m3s: float, elapsed_s: float) -> bool:
        """One reckoning of the PID; at rest it only follows. Returns whether it reckoned."""
        n = self.numbers
        if n.kind is not ControlKind.CONSTANT or self.mode not in (Mode.RUNNING, Mode.BOOSTING) or not self.stage:
            return False
        lag_s = n.setback_time
        self.flow_m3s += (flow_m3s - self.flow_m3s) * (min(1.0, elapsed_s / lag_s) if lag_s > 0.0 else 1.0)
        if n.remote_pressure is not None and remote_pa is not None and self.holds_far_end():
            wanted_pa, read_pa = n.remote_pressure, remote_pa
            per = 100.0 / n.remote_range_pa  # the same gain means another thing on another range
        else:
            wanted_pa, read_pa, per = self.target_pa(self.flow_m3s), pressure_pa, 100.0 / n.range_pa
        if self.value.loop_by_hand:
            if n.asking.smooth:  # the integral follows the speed by hand, so that nothing jumps when it is back in auto
                self.pid.take_over(100.0 * self.output, wanted_pa * per, read_pa * per)
            return False
        self.output = self.pid.scan(wanted_pa * per, read_pa * per, elapsed_s) / 100.0
        return True

    def holds_far_end(self) -> bool:
        """Whether the far sensor is regulated by now, where there is one: by day, and while its signal comes."""
        return not self.remote_lost and not self.night and not self.on_generator and self.mode is Mode.RUNNING

    def take_over(self, speed: float) -> None:
        """Let the regulator go on from this share of full speed without a bump."""
        per = 100.0 / self.numbers.range_pa
        self.output = speed
        self.pid.take_over(100.0 * speed, self.target_pa(0.0) * per, self.believed_pa * per)

    def put_by(self, by_hand: bool) -> None:
        """The regulator put by, or back in auto: it goes on from the speed that stands, or with what it reckoned before, as the device has it."""
        self.value.loop_by_hand = by_hand

    def stands(self, speed: float, pressure_pa: float, flow_m3s: float) -> None:
        """Let the regulator stand at its working point: no error, and the integral carries the speed."""
        per = 100.0 / self.numbers.range_pa
        self.output, self.flow_m3s = speed, flow_m3s
        self.pid.take_over(100.0 * speed, pressure_pa * per, pressure_pa * per)
