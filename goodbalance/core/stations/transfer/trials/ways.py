"""The same line filled two ways: pumps switched on and off as planned, or a drive that holds a constant pressure and sleeps when the valve is shut."""

import math
from dataclasses import dataclass

from scipy.optimize import brentq

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import Bound, Source
from goodbalance.core.stations.shared.making import bound, term
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.hydraulics import Flows, PumpSide, TransferHydraulics, hydraulics
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey
from goodbalance.core.stations.transfer.windows.making import PRESSURES, Windows

SET_PRESSURE, SLEEP_SPEED, SPEEDS = "set_pressure", "sleep_speed", "speeds"
DAY_S = 86400.0
SPEED_STEP, SPEED_APART = 0.001, 0.005  # shares of full speed: of a keypad, and what a speed moves by while nothing changes


@dataclass(frozen=True, slots=True)
class Fill:
    """One pump filling one tank in one way, source halfway. speed: a share of full; starts: a day, while the mean is drawn."""

    pump: int  # 1 for pump 1
    tank: int
    constant: bool
    speed: float
    flow_m3s: float
    pressure_pa: float
    power_w: float
    fills_s: float  # from where the valve opens until it shuts, net of the mean draw; infinite where more is drawn
    starts: float
    day_m3: float

    @property
    def per_volume(self) -> float:
        """[J/m3]"""
        return self.power_w / self.flow_m3s if self.flow_m3s > 0.0 else math.inf


@dataclass(frozen=True, slots=True)
class Comparison:
    """Both ways, and the settings the second would have."""

    fills: tuple[Fill, ...]
    settings: tuple[Setting, ...]  # set pressure, sleep speed

    def per_volume(self, constant: bool) -> float:
        """Energy of the mean day by the water it brings, duty pumps taking turns. [J/m3]"""
        of_it = [fill for fill in self.fills if fill.constant is constant]
        volume_m3 = sum(fill.day_m3 for fill in of_it)
        return sum(fill.day_m3 * fill.per_volume for fill in of_it) / volume_m3 if volume_m3 > 0.0 else 0.0

    def starts(self, constant: bool) -> float:
        """Starts of a day, all tanks together, duty pumps taking turns."""
        pumps = len({fill.pump for fill in self.fills})
        return sum(fill.starts for fill in self.fills if fill.constant is constant) / pumps

    def longest_fill_s(self, constant: bool) -> float:
        """The longest fill of any tank by any pump."""
        return max(fill.fills_s for fill in self.fills if fill.constant is constant)


def speed_of(pump: PumpSide, flow_m3s: float, head_m: float) -> float:
    """The share of full speed at which it gives a flow against a head over its source's water. [m3/s, m]

    Source: affinity laws, H = a s^2 + b q s + c q^2 solved for s.
    """
    b, rest = pump.b * flow_m3s, pump.c * flow_m3s * flow_m3s - head_m
    return max(0.0, (-b + math.sqrt(max(0.0, b * b - 4.0 * pump.a * rest))) / (2.0 * pump.a))


def power_w(pump: PumpSide, flow_m3s: float, speed: float, drive_share: float) -> float:
    """What a drive takes from the supply. speed: a share of full. Source: affinity laws, P = s^3 P0(q / s). [m3/s]"""
    return speed**3 * pump.curves.power_w(flow_m3s / speed) / drive_share if speed > 0.0 else 0.0


def held(hyd: TransferHydraulics, tank: int, pressure_pa: float) -> float:
    """What comes into one tank, its valve fully open, while the sensor's pressure is held. Source: continuity, bracketed root. [Pa, m3/s]"""
    branch = hyd.branches[tank]
    lift_m, head_m = branch.lift_m(branch.tank.closes_m), hyd.head_m(pressure_pa)
    if head_m <= lift_m:
        return 0.0

    def surplus(flow_m3s: float) -> float:
        return branch.flow_m3s(head_m - hyd.line.loss_m(flow_m3s) - lift_m, 1.0) - flow_m3s

    return float(brentq(surplus, 0.0, branch.flow_m3s(head_m - lift_m, 1.0), xtol=1e-12))


def needed_pa(hyd: TransferHydraulics, tank: int, flow_m3s: float) -> float:
    """The pressure at the sensor that brings a flow into one tank, its valve fully open. Source: the same, the other way. [m3/s]"""
    most_pa = hyd.columns_pa[tank] + hyd.weight * 1.0
    while held(hyd, tank, most_pa) < flow_m3s:
        most_pa = hyd.columns_pa[tank] + 2.0 * (most_pa - hyd.columns_pa[tank])
    return float(brentq(lambda pa: held(hyd, tank, pa) - flow_m3s, hyd.columns_pa[tank], most_pa, xtol=1.0))


class ConstantPressure(Windows):
    """The settings a drive would have on this line."""

    def __init__(self, survey: TransferSurvey, choices: TransferChoices) -> None:
        super().__init__(survey, choices)
        self.steps = {**self.steps, SPEEDS: SPEED_STEP}
        self.chosen = {}  # the plan's choices are of the other way
        self.rates = tuple(self._rate_m3s(tank) for tank in range(len(self.hyd.branches)))

    def _rate_m3s(self, tank: int) -> float:
        """What it should be filled with: by rule of its largest draw, and no less than a pump wants."""
        return max(self.rules.fill_share * self.hyd.branches[tank].tank.peak_m3s, self.survey.pumping.least_flow_m3s)

    def make_all(self) -> None:
        set_pa = self.place(
            SET_PRESSURE, ("Set pressure", "constant pressure"), tuple(self._fills(tank) for tank in range(len(self.rates))), (self._at_full_speed(), *self._ratings()), 0.1,
            "Fill each tank alone: the pressure is held.", PRESSURES, Q.PRESSURE,
        )  # fmt: skip
        self.place(SLEEP_SPEED, ("Sleep speed", "standby speed"), (self._no_flow(set_pa),), (self._least_fill(set_pa),), 0.4, "Shut the valve: the drive comes under it and sleeps.", SPEEDS, Q.PERCENT)

    def _fills(self, tank: int) -> Bound:
        rate = self.rates[tank]
        running_pa = needed_pa(self.hyd, tank, rate)
        terms = (
            term("c", "standing column", self.hyd.columns_pa[tank]), term("f", "lost in pipes and open valve at the fill rate by rule", running_pa - self.hyd.columns_pa[tank]), *self.wobbles(),
        )  # fmt: skip
        words = (f"running pressure at the fill rate{self.of(tank)}", "The tank fills too slowly, and falls while most is drawn.")
        return bound("p = c + f + w + e", terms, running_pa + self.wobble_pa + self.error_pa, "survey", words)

    def _at_full_speed(self) -> Bound:
        """The pump that reaches least, at its fill rate and full speed, with a margin to regulate in."""
        hyd, worn, rate = self.hyd, self.rules.worn_share, max(self.rates)
        sources = hyd.sources_m(False)

        def reaches_m(pump: PumpSide) -> float:
            return sources[pump.source] + (pump.a + pump.b * rate + pump.c * rate * rate) * (1.0 - worn)

        weakest = min((hyd.pumps[each] for each in hyd.duty), key=reaches_m)
        source_m = sources[weakest.source]
        terms = (
            term("z", "lowest water of its source over the sensor", source_m - hyd.sensor_m, Q.HEAD), term("H", "its head at the fill rate, worn", reaches_m(weakest) - source_m, Q.HEAD),
            term("g", "weight of the liquid over that of its head, Pa/m", hyd.weight, Q.RATIO), *self.apart(),
        )  # fmt: skip
        harm = "Full speed does not reach it: the drive never regulates, and does not notice that the valve is shut."
        return bound("p = g · (z + H) - w - e - m", terms, hyd.weight * (reaches_m(weakest) - hyd.sensor_m) - self.apart_pa, "pump curve", ("full speed at the lowest source", harm))

    def _ratings(self) -> tuple[Bound, ...]:
        found = []
        for name, rating_pa, down_pa in self.hyd.rated_parts:
            terms = (term("R", f"rating, {name}", rating_pa), term("k", "of it that may be reached", self.rules.rating_share, Q.PERCENT), term("d", "column down to it", down_pa), *self.apart())
            value = self.rules.rating_share * rating_pa - down_pa - self.apart_pa
            found.append(bound("p = k · R - d - w - e - m", terms, value, "survey", (name, "It leaks or bursts."), Source.MAKER))
        return tuple(found)

    def _turns(self, set_pa: float, high: bool, flowing: bool) -> float:
        """The speed of the pump that turns fastest without flow, or slowest while it fills."""
        hyd, sources = self.hyd, self.hyd.sources_m(high)
        flows = [held(hyd, tank, set_pa) for tank in range(len(self.rates))] if flowing else [0.0]
        found = [speed_of(hyd.pumps[each], flow, hyd.head_m(set_pa) - sources[hyd.pumps[each].source]) for each in hyd.duty for flow in flows]
        return min(found) if flowing else max(found)

    def _no_flow(self, set_pa: float) -> Bound:
        speed = self._turns(set_pa, False, False)
        terms = (term("s", "speed at the set pressure without flow, lowest source", speed, Q.PERCENT), term("m", "what a speed moves by", SPEED_APART, Q.PERCENT))
        harm = "It never sleeps: the pump turns against the shut valve and warms its water."
        return bound("n = s + m", terms, speed + SPEED_APART, "affinity laws", ("no flow", harm), refers_to=SET_PRESSURE, quantity=Q.PERCENT)

    def _least_fill(self, set_pa: float) -> Bound:
        speed = self._turns(set_pa, True, True)
        terms = (term("s", "lowest speed of an honest fill, highest source", speed, Q.PERCENT), term("m", "what a speed moves by", SPEED_APART, Q.PERCENT))
        harm = "It sleeps while a tank still fills, wakes, and sleeps again."
        return bound("n = s - m", terms, speed - SPEED_APART, "affinity laws", ("an honest fill", harm), refers_to=SET_PRESSURE, quantity=Q.PERCENT)


def compare(survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> Comparison:
    """Both ways, pump by pump and tank by tank, each tank filled alone."""
    hyd, drive = hydraulics(survey), ConstantPressure(survey, choices)
    drive.make_all()
    set_pa, found = drive.so_far[SET_PRESSURE], []
    levels = [(low + high) / 2.0 for low, high in zip(hyd.sources_m(False), hyd.sources_m(True))]
    full = [branch.tank.closes_m for branch in hyd.branches]
    for pump in hyd.duty:
        side = hyd.pumps[pump]
        for tank in range(len(hyd.branches)):
            openings = [1.0 if each == tank else 0.0 for each in range(len(hyd.branches))]
            flows: Flows = hyd.flows((pump,), openings, full, levels)
            found.append(_fill(hyd, plan, pump, tank, flows.total_m3s, flows.pressure_pa, None, side.curves.power_w(flows.total_m3s)))
            flow = held(hyd, tank, set_pa)
            speed = speed_of(side, flow, hyd.head_m(set_pa) - levels[side.source])
            if speed > 1.0:  # it cannot hold it there: it does what it does at full speed
                flow, speed = flows.total_m3s, 1.0
            pressure_pa = min(set_pa, flows.pressure_pa) if speed >= 1.0 else set_pa
            found.append(_fill(hyd, plan, pump, tank, flow, pressure_pa, speed, power_w(side, flow, speed, choices.rules.drive_share)))
    return Comparison(tuple(found), tuple(drive.made))


def _fill(hyd: TransferHydraulics, plan: Plan, pump: int, tank: int, flow_m3s: float, pressure_pa: float, speed: float | None, power: float) -> Fill:
    """One fill with its times. On and off waits for the restart delay after the valve opens; a drive wakes as the pressure falls."""
    facts = hyd.branches[tank].tank
    mean = facts.mean_m3s
    waits_s = plan.value(S.RESTART_DELAY, 0.0) if speed is None else 0.0
    volume_m3 = facts.area_m2 * max(facts.opens_drop_m, facts.throttles_m) + mean * waits_s
    fills_s = volume_m3 / (flow_m3s - mean) if flow_m3s > mean else math.inf
    cycle_s = (volume_m3 / mean if mean > 0.0 else math.inf) + fills_s
    return Fill(
        pump + 1, tank + 1, speed is not None, 1.0 if speed is None else speed, flow_m3s, pressure_pa, power, fills_s, DAY_S / cycle_s if cycle_s < math.inf else 0.0, mean * DAY_S,
    )  # fmt: skip
