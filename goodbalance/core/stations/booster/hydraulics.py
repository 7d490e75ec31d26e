"""A surveyed booster set as equations: what its pumps must add, at which speed, and what the pipes take."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.pipework import FrictionSchool, Main
from goodbalance.core.physics.pumps import HeadCurve
from goodbalance.core.physics.vessels import ATMOSPHERE_PA
from goodbalance.core.physics.water import head_of_pressure_m, pressure_of_head_pa
from goodbalance.core.stations.booster.survey import BoosterSurvey

DENSITY_KGM3 = 998.2  # water at 20 degrees C
VAPOUR_PA = 2339.0  # water at 20 degrees C


def head_of(pressure_pa: float) -> float:
    """Metres of cold water that stand for a pressure."""
    return head_of_pressure_m(pressure_pa, DENSITY_KGM3)


def column_of(height_m: float) -> float:
    """Pressure under a column of cold water. [Pa]"""
    return pressure_of_head_pa(height_m, DENSITY_KGM3)


@dataclass(frozen=True, slots=True)
class Holding:
    """How so many pumps hold a pressure at one flow: their common speed, as a share of full; infinite beyond their curve."""

    flow_m3s: float
    pumps: int
    speed: float
    npsh_margin_m: float | None  # available less required; None without a curve of it

    @property
    def feasible(self) -> bool:
        """Whether the pumps can: not over full speed, and with enough pressure at their suction."""
        return self.speed <= 1.0 + 1e-9 and (self.npsh_margin_m is None or self.npsh_margin_m >= 0.0)


class BoosterHydraulics:
    """Everything the pressures are reckoned from. Built once per survey and kept."""

    def __init__(self, survey: BoosterSurvey) -> None:
        self.survey = survey
        points = [p for p in survey.pumping.curve if p.flow_m3s is not None and p.head_m is not None]
        self.curve = HeadCurve(tuple((p.flow_m3s, p.head_m) for p in points))
        self._npsh = [(p.flow_m3s, p.npsh_m) for p in points if p.npsh_m is not None]
        outlets = survey.outlets
        hazen = outlets.friction is FrictionSchool.HAZEN_WILLIAMS
        roughness = outlets.hazen_williams_c if hazen else outlets.sand_roughness_m
        self.pipe = Main(outlets.length_m, outlets.diameter_m, outlets.friction, roughness or 0.0, outlets.minor_k)

    @property
    def column_pa(self) -> float:
        """What the standing column presses on the sensor: rho g (highest point - sensor)."""
        return column_of(self.survey.outlets.top_m - self.survey.outlets.sensor_m)

    def wanted_pa(self, flow_m3s: float) -> float:
        """Pressure at the sensor that supplies the worst outlet at a flow: column to it, losses, and what it wants."""
        outlets = self.survey.outlets
        return column_of(outlets.worst_m - outlets.sensor_m + self.pipe.loss_m(flow_m3s)) + outlets.residual_pa

    def added_m(self, set_pa: float, suction_pa: float) -> float:
        """Head the pumps must add between suction and sensor."""
        return head_of(set_pa - suction_pa)

    def speed(self, head_wanted_m: float, flow_m3s: float, pumps: int) -> float:
        """Common speed at which so many pumps side by side give a head at a total flow. Infinite where none does.

        By affinity the parabola H = a + b Q + c Q^2 becomes H = a n^2 + b n q + c q^2 with q = Q/pumps: a quadratic in n.
        """
        if pumps < 1:
            raise OutOfRange("pumps", pumps, "1 or more")
        a, b, c = self.curve.coefficients
        each = flow_m3s / pumps
        rest = c * each * each - head_wanted_m
        square = (b * each) ** 2 - 4.0 * a * rest
        if square < 0.0 or a <= 0.0:
            return math.inf
        return max(0.0, (-b * each + math.sqrt(square)) / (2.0 * a))

    def delivered_pa(self, flow_m3s: float, pumps: int, suction_pa: float, speed: float = 1.0) -> float:
        """Pressure at the sensor that so many pumps give at a total flow and speed."""
        a, b, c = self.curve.coefficients
        each = flow_m3s / pumps
        return suction_pa + column_of(a * speed * speed + b * speed * each + c * each * each)

    def npsh_required_m(self, flow_m3s: float, speed: float) -> float | None:
        """Of one pump, by affinity: read at Q/n and scaled by n squared; straight between the maker's points."""
        if len(self._npsh) < 2 or speed <= 0.0:
            return None
        flows, heads = zip(*self._npsh)
        return float(np.interp(flow_m3s / speed, flows, heads)) * speed * speed

    def npsh_available_m(self, suction_pa: float) -> float:
        """At the suction flange, where the pressure was surveyed with its losses: (p_atm + p - p_v)/(rho g)."""
        return head_of(ATMOSPHERE_PA + suction_pa - VAPOUR_PA)

    def holding(self, set_pa: float, suction_pa: float, flow_m3s: float, pumps: int) -> Holding:
        """The speed at which so many pumps hold a set pressure at a flow, and what suction they have to spare."""
        speed = self.speed(self.added_m(set_pa, suction_pa), flow_m3s, pumps)
        needed_m = None if math.isinf(speed) else self.npsh_required_m(flow_m3s / pumps, speed)
        margin_m = None if needed_m is None else self.npsh_available_m(suction_pa) - needed_m
        return Holding(flow_m3s, pumps, speed, margin_m)

    def hand_sweep(
        self, set_pa: float, suction_pa: float, shares: tuple[float, ...]
    ) -> tuple[tuple[Holding, ...], ...]:
        """For each share of the design flow, how one, two and more duty pumps hold the set pressure."""
        counts = range(1, self.survey.pumping.duty_count + 1)
        design_m3s = self.survey.demand.design_m3s
        return tuple(
            tuple(self.holding(set_pa, suction_pa, share * design_m3s, count) for count in counts) for share in shares
        )

    def no_flow_speeds(self, set_pa: float) -> tuple[float, float]:
        """Speeds that just hold the set pressure at no flow, at the highest and at the lowest suction pressure."""
        supply = self.survey.supply
        return tuple(self.speed(self.added_m(set_pa, pa), 0.0, 1) for pa in (supply.high_pa, supply.low_pa))  # type: ignore[return-value]


@lru_cache(maxsize=64)
def hydraulics(survey: BoosterSurvey) -> BoosterHydraulics:
    """The equations of this survey; asked again for the same survey they come from memory."""
    return BoosterHydraulics(survey)
