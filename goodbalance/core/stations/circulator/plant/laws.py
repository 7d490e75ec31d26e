"""How a circulator answers a flow: its curve at a speed, and the laws by which it changes its speed by itself."""

import math
from dataclasses import dataclass

from goodbalance.core.errors import NoSolution
from goodbalance.core.physics.pumps import HeadCurve, between
from goodbalance.core.physics.water import GRAVITY_MS2
from goodbalance.core.stations.circulator.names import Mode
from goodbalance.core.stations.circulator.plant.pieces import MEAN_KGM3
from goodbalance.core.stations.circulator.survey.pump import CirculatorPoint, PumpFacts

WEIGHT = MEAN_KGM3 * GRAVITY_MS2  # of its water, for each metre of head
LEARNS_SHARE = 0.5  # of its shut-off head: the line a learning pump holds by itself
EFFICIENCY, HALF_POWER = 0.25, 0.5  # of a small circulator whose power nobody knows; of that at no flow


@dataclass(frozen=True, slots=True)
class StepCurve:
    """A fixed speed: its share of full speed, and its own curve where its maker gives one."""

    share: float
    own: "PumpCurve | None" = None


def pump_curve(pump: PumpFacts) -> "PumpCurve":
    """The pump of a survey, with each of its fixed speeds."""
    steps = tuple(StepCurve(step.share, PumpCurve(step.curve) if step.curve else None) for step in pump.steps)
    return PumpCurve(pump.curve, pump.slowest, steps)


class PumpCurve:
    """The pump by its points: head by a smooth curve, power straight from one point to the next, both by affinity at other speeds."""

    def __init__(self, points: tuple[CirculatorPoint, ...], slowest: float = 1.0, steps: tuple["StepCurve", ...] = ()) -> None:
        known = [(p.flow_m3s, p.head_m, p.power_w) for p in points if p.flow_m3s is not None and p.head_m is not None]
        self.head = HeadCurve(tuple((flow, head) for flow, head, _ in known))
        self.a, self.b, self.c = (WEIGHT * each for each in self.head.coefficients)
        powers = sorted((flow, power) for flow, _, power in known if power is not None)
        self.knows_power = len(powers) >= 2
        if not self.knows_power:
            most = max(flow * head for flow, head, _ in known) * WEIGHT / EFFICIENCY
            powers = [(0.0, HALF_POWER * most), (self.head.last_flow_m3s, most)]
        self.flows, self.powers = zip(*powers)
        self.slowest, self.steps = slowest, steps

    def gives_pa(self, flow_m3s: float, speed: float = 1.0) -> float:
        """What it adds at a flow and a speed. [m3/s, share of full speed]

        Source: affinity, H = n^2 a + n b Q + c Q^2.
        """
        return max(0.0, speed * speed * self.a + (speed * self.b + self.c * flow_m3s) * flow_m3s)

    def step_of(self, number: float) -> int:
        """Which of its fixed speeds a number means, 1 the lowest: the nearest there is."""
        return round(min(max(number, 1.0), float(len(self.steps))))

    def at_step_pa(self, step: int, flow_m3s: float) -> float:
        """What it adds at a flow on one of its fixed speeds, 1 the lowest: by its own curve, else by affinity. [m3/s]"""
        at = self.steps[step - 1]
        return self.gives_pa(flow_m3s, at.share) if at.own is None else at.own.gives_pa(flow_m3s)

    def flow_m3s(self, adds_pa: float, speed: float = 1.0) -> float:
        """The flow at which it adds so much; nothing where it never does. Source: quadratic formula. [Pa]"""
        rest = speed * speed * self.a - adds_pa
        if rest <= 0.0:
            return 0.0
        try:
            return self.head.flow_m3s(adds_pa / WEIGHT / (speed * speed)) * speed if speed > 0.0 else 0.0
        except NoSolution:
            return self.head.last_flow_m3s * speed

    def speed_for(self, flow_m3s: float, adds_pa: float) -> float:
        """The speed at which it adds so much at a flow. Source: the same equation, solved for n. [m3/s, Pa]"""
        rest = adds_pa - self.c * flow_m3s * flow_m3s
        part = self.b * flow_m3s
        return (-part + math.sqrt(max(0.0, part * part + 4.0 * self.a * rest))) / (2.0 * self.a)

    def power_w(self, flow_m3s: float, speed: float) -> float:
        """What it takes from the supply. Source: affinity, P goes with n^3 at Q/n."""
        return 0.0 if speed <= 0.0 else float(speed**3 * between(flow_m3s / speed, self.flows, self.powers))


@dataclass(frozen=True, slots=True)
class Law:
    """What the pump is told: a mode, and the number that goes with it, in SI; the number of a fixed speed as a share of full speed.

    share: of its head, where it is worn. step: which of its fixed speeds, 1 the lowest; 0: by the share of full speed alone.
    """

    mode: Mode
    value: float
    share: float = 1.0
    step: int = 0

    def adds_pa(self, curve: PumpCurve, flow_m3s: float) -> float:
        """What the pump adds at a flow under this law, between its slowest and its full speed. Falls or stands, but for a proportional
        pressure, which grows more slowly than any ring asks. [m3/s]"""
        most = self.share * curve.gives_pa(flow_m3s)
        if self.mode is Mode.SPEED:
            return self.share * (curve.at_step_pa(self.step, flow_m3s) if self.step else curve.gives_pa(flow_m3s, self.value))
        least = self.share * curve.gives_pa(flow_m3s, curve.slowest)
        if self.mode in (Mode.FLOW, Mode.RETURN):
            return most if flow_m3s < self.value else least
        return min(most, max(least, self.line_pa(curve, flow_m3s)))

    def speed(self, curve: PumpCurve, flow_m3s: float, adds_pa: float) -> float:
        """The speed it turns at for that, of full speed; of a fixed speed with a curve of its own the share it stands for. [m3/s, Pa]"""
        if self.step and curve.steps[self.step - 1].own is not None:
            return curve.steps[self.step - 1].share
        return min(1.0, max(curve.slowest * 0.5, curve.speed_for(flow_m3s, adds_pa / self.share)))

    def power_w(self, curve: PumpCurve, flow_m3s: float, speed: float) -> float:
        """What it takes from the supply at that: by the curve of its fixed speed where that tells, else by affinity. [m3/s, share of full speed]"""
        own = curve.steps[self.step - 1].own if self.step else None
        return curve.power_w(flow_m3s, speed) if own is None or not own.knows_power else own.power_w(flow_m3s, 1.0)

    def line_pa(self, curve: PumpCurve, flow_m3s: float) -> float:
        """The pressure it wants at a flow: the set one, or half of it at no flow and all of it where full speed gives no more. [m3/s]"""
        if self.mode is Mode.PRESSURE:
            return self.value
        wanted = LEARNS_SHARE * curve.a if self.mode is Mode.LEARNING else self.value
        last = curve.flow_m3s(wanted)
        return wanted * (0.5 + 0.5 * min(1.0, flow_m3s / last)) if last > 0.0 else wanted


def is_able(pump: PumpFacts, mode: Mode) -> bool:
    """Whether the pump knows this mode."""
    knows = {
        Mode.SPEED: True, Mode.PRESSURE: pump.drive and pump.by_pressure, Mode.PROPORTIONAL: pump.drive and pump.by_proportion, Mode.FLOW: pump.drive and pump.by_flow,
        Mode.RETURN: pump.drive and pump.by_return, Mode.LEARNING: pump.learns,
    }  # fmt: skip
    return knows[mode]
