"""A surveyed fire line as equations: supply, maintenance pump, main pumps' churn, what the closed line stores, leaks and lets through."""

import math
from functools import cached_property

from scipy.optimize import brentq

from goodbalance.core.balance.facts import once_each
from goodbalance.core.physics.signals import Scaling
from goodbalance.core.physics.water import GRAVITY_MS2, air_pressure_pa, water_at
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.shared.pressure_sensor import SIGNALS
from goodbalance.core.stations.shared.pump_facts import PumpCurves

PARTS = 64  # into which a sag or a filling is cut
LEAK_FROM_PA = 1e4  # under which no leak is reckoned


class MaintenanceHydraulics:
    """Everything the line is reckoned from. Built once per survey and kept."""

    def __init__(self, survey: MaintenanceSurvey) -> None:
        self.survey, line = survey, survey.line
        water = water_at(line.temperature_c)
        self.density_kgm3, self.weight = water.density_kgm3, water.density_kgm3 * GRAVITY_MS2
        self.air_pa = air_pressure_pa(line.altitude_m)
        self.curves = PumpCurves(survey.pumping.curve, survey.motor.plate)
        self.a, self.b, self.c = self.curves.head.coefficients
        self.signal = SIGNALS[survey.sensor.signal]
        self.scaling = Scaling(self.signal.low, self.signal.high, 0.0, survey.sensor.range_pa)

    def __deepcopy__(self, memo: dict[int, object]) -> "MaintenanceHydraulics":
        return self  # what it keeps stays true for every copy

    def supply_pa(self, high: bool) -> float:
        """What the supply presses on the sensor while nothing runs."""
        return self.survey.suction.high_pa if high else self.survey.suction.low_pa

    def churn_pa(self, high: bool) -> float:
        """What a main pump holds without flow, with the lowest or the highest supply."""
        return self.supply_pa(high) + self.survey.mains.churn_pa

    def shut_off_pa(self, high: bool, share: float = 1.0) -> float:
        """What the maintenance pump reaches against the closed line. share: of its head, where it is worn."""
        return self.supply_pa(high) + self.weight * self.a * share

    def gives_m3s(self, pressure_pa: float, supply_pa: float, share: float = 1.0) -> float:
        """What the pump gives into the line at a pressure; nothing where it does not reach it. Source: quadratic formula on the fitted curve. [Pa]"""
        rest = self.a * share - (pressure_pa - supply_pa) / self.weight
        if rest <= 0.0:
            return 0.0
        b, c = self.b * share, self.c * share
        if abs(c) < 1e-12:
            return -rest / b if b < 0.0 else 0.0
        square = b * b - 4.0 * c * rest
        if square < 0.0:
            return self.curves.head.last_flow_m3s
        root = (-b - math.sqrt(square)) / (2.0 * c)
        return root if root > 0.0 else (-b + math.sqrt(square)) / (2.0 * c)

    # what the closed line stores and loses

    @cached_property
    def precharge_pa(self) -> float:
        """Of its vessel: as noted, or nine tenths of what a main pump holds with the lowest supply."""
        noted = self.survey.line.precharge_pa
        return 0.9 * self.churn_pa(False) if noted is None else noted

    def stores_m3pa(self, pressure_pa: float, more_air_m3: float = 0.0) -> float:
        """What the closed line takes for each pascal more: water and pipe walls, V/(rho a^2); trapped air and a vessel's gas.

        Source: definition of the wave speed in a pipe; Boyle 1662. air is told at no pressure, a vessel by its precharge.
        """
        line, absolute = self.survey.line, max(pressure_pa, 0.0) + self.air_pa
        stored = line.volume_m3 / (self.density_kgm3 * line.wave_ms**2) + (line.air_m3 + more_air_m3) * self.air_pa / absolute**2
        if line.vessel_m3 > 0.0 and pressure_pa > self.precharge_pa:
            stored += line.vessel_m3 * (self.precharge_pa + self.air_pa) / absolute**2
        return stored

    @cached_property
    def read_at_pa(self) -> float:
        """The pressure at which leaks are told: what a main pump holds with the lowest supply, where the stop stands."""
        return max(self.churn_pa(False), LEAK_FROM_PA)

    def leaks_m3s(self, pressure_pa: float, told_m3s: float) -> float:
        """What leaks at a pressure, of a leak as told. Source: Torricelli 1643. [Pa]"""
        return told_m3s * math.sqrt(pressure_pa / self.read_at_pa) if pressure_pa > 0.0 else 0.0

    def sags_s(self, from_pa: float, to_pa: float, told_m3s: float) -> float:
        """How long the closed line takes from one pressure to a lower one; infinite without a leak.

        The supply holds it up through the pumps' check valves: it does not sag under that. Source: dp/dt = -q(p)/C(p), added up in PARTS.
        """
        if told_m3s <= 0.0 or to_pa < self.supply_pa(False):
            return math.inf
        if from_pa <= to_pa:
            return 0.0
        step = (from_pa - to_pa) / PARTS
        middles = (to_pa + (part + 0.5) * step for part in range(PARTS))
        return sum(self.stores_m3pa(middle) * step / self.leaks_m3s(middle, told_m3s) for middle in middles)

    def fills_s(self, from_pa: float, to_pa: float, high: bool, told_m3s: float) -> float:
        """How long the pump takes to bring the line up, its leak counted; infinite where it does not come so far. Source: the same, the other way. [Pa]"""
        if to_pa <= from_pa:
            return 0.0
        step, total = (to_pa - from_pa) / PARTS, 0.0
        for part in range(PARTS):
            middle = from_pa + (part + 0.5) * step
            net = self.gives_m3s(middle, self.supply_pa(high)) - self.leaks_m3s(middle, told_m3s)
            if net <= 0.0:
                return math.inf
            total += self.stores_m3pa(middle) * step / net
        return total

    def settles_pa(self, high: bool, told_m3s: float) -> float:
        """Where a pump that runs on leaves the line: its shut-off, less what its leak takes. [Pa]"""
        top_pa, supply_pa = self.shut_off_pa(high), self.supply_pa(high)
        if told_m3s <= 0.0:
            return top_pa

        def net(pressure_pa: float) -> float:
            return self.gives_m3s(pressure_pa, supply_pa) - self.leaks_m3s(pressure_pa, told_m3s)

        return float(brentq(net, supply_pa, top_pa, xtol=1.0)) if net(supply_pa) > 0.0 else supply_pa

    def sprinkler_m3s(self, pressure_pa: float) -> float:
        """What the smallest single sprinkler gives at a pressure of the line. Source: q = k sqrt(p). [Pa]"""
        line = self.survey.line
        return line.sprinkler_m3s * math.sqrt(max(0.0, pressure_pa) / line.sprinkler_pa)

    @property
    def rated_parts(self) -> tuple[tuple[str, float, float], ...]:
        """Each part with its rating and the column from the sensor down to it. [Pa, Pa]"""
        line = self.survey.line
        down_pa = 0.0 if line.lowest_m is None else max(0.0, self.weight * (self.survey.sensor.height_m - line.lowest_m))
        relief = () if line.relief_pa is None else (("relief valve", line.relief_pa, 0.0),)
        return (("line at its lowest point", line.rating_pa, down_pa), *relief)


@once_each
def hydraulics(survey: MaintenanceSurvey) -> MaintenanceHydraulics:
    """The equations of this survey; asked again for the same survey they come from memory."""
    return MaintenanceHydraulics(survey)
