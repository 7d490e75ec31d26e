"""A surveyed transfer set as equations: pumps on their sources, the common line, branches with their valves, and what the closed line stores."""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from cachetools import LRUCache
from scipy.optimize import brentq

from goodbalance.core.balance.facts import once_each
from goodbalance.core.errors import NoSolution
from goodbalance.core.physics.pipework import FrictionSchool, Main
from goodbalance.core.physics.signals import Scaling
from goodbalance.core.physics.water import GRAVITY_MS2, air_pressure_pa, water_at
from goodbalance.core.stations.shared.pressure_sensor import SIGNALS
from goodbalance.core.stations.shared.pump_facts import PumpCurves
from goodbalance.core.stations.transfer.survey.source import Source
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey
from goodbalance.core.stations.transfer.survey.tanks import Entry, TankFacts

KV_M = 1e5 / (1000.0 * GRAVITY_MS2)  # the head that 1 bar is, for a valve's flow at 1 bar: IEC 60534
SHUT = 1e-6  # an opening under which a valve counts as shut
STILL_M3S = 1e-12
ROUND = 1e-7  # by how much a flow may change in the last turn of a fixed point, as a share; what is left is some twentieth of it


@dataclass(frozen=True, slots=True)
class PumpSide:
    """One pump on its source: H = a + b q + c q^2 less what its suction takes. source: 0 for the first."""

    curves: PumpCurves
    source: int
    a: float
    b: float
    c: float

    def flow_m3s(self, head_m: float, share: float = 1.0) -> float:
        """Its flow where the line stands so high over the water of its source; 0 where it does not reach it. share: of its head, where it is worn. [m]

        Source: the quadratic formula on the fitted curve.
        """
        a, b, c = self.a * share, self.b * share, self.c * share
        rest = a - head_m
        if rest <= 0.0:
            return 0.0
        if abs(c) < 1e-12:
            return -rest / b if b < 0.0 else 0.0
        square = b * b - 4.0 * c * rest
        if square < 0.0:
            raise NoSolution(f"the head curve never falls to {head_m:.2f} m")
        root = (-b - math.sqrt(square)) / (2.0 * c)
        return root if root > 0.0 else (-b + math.sqrt(square)) / (2.0 * c)


@dataclass(frozen=True, slots=True)
class Flows:
    """What passes: pressure at the sensor [Pa], what each pump gives and each tank gets [m3/s]."""

    pressure_pa: float
    pumped_m3s: tuple[float, ...]
    filled_m3s: tuple[float, ...]

    @property
    def total_m3s(self) -> float:
        """What all pumps give."""
        return sum(self.pumped_m3s)


class Branch:
    """A tank's branch with its valve."""

    def __init__(self, tank: TankFacts, school: FrictionSchool, roughness: float, viscosity_m2s: float) -> None:
        self.tank = tank
        self.pipe = Main(tank.branch_m, tank.branch_diameter_m, school, roughness, tank.branch_k, viscosity_m2s)
        self.pipe_like = self.pipe.loss_m(tank.valve_m3s) / tank.valve_m3s**2  # what its pipe takes, as if it went with the square: where a search begins

    def lift_m(self, level_m: float) -> float:
        """The height against which water comes in while the tank stands at a level: its inlet, or its water over a bottom entry. [m]"""
        under = self.tank.floor_m + level_m
        return max(self.tank.inlet_m, under) if self.tank.entry is Entry.BOTTOM else self.tank.inlet_m

    def flow_m3s(self, over_m: float, opening: float) -> float:
        """What comes in where the line stands so much over the lift, through a valve opened to a share. [m]

        Source: Kv with the square of the opening; pipe loss by its school; Newton on r q^2 + h(q), the pipe taken to go with the square.
        """
        if over_m <= 0.0 or opening <= SHUT:
            return 0.0
        valve = KV_M / (self.tank.valve_m3s * opening) ** 2
        flow = math.sqrt(over_m / (valve + self.pipe_like))
        for _ in range(60):
            pipe = self.pipe.loss_m(flow)
            lost = valve * flow * flow
            following = flow * (1.0 + 0.5 * (over_m - lost - pipe) / (lost + 0.94 * pipe))  # friction goes with a power of 1.85 to 2, its fittings with 2
            if abs(following - flow) <= ROUND * flow:
                return following
            flow = following if following > 0.0 else 0.5 * flow
        return flow


class TransferHydraulics:
    """Everything the set is reckoned from. Built once per survey and kept."""

    def __init__(self, survey: TransferSurvey) -> None:
        self.survey, line = survey, survey.line
        water = water_at(line.temperature_c)
        self.density_kgm3 = line.density_kgm3 or water.density_kgm3
        self.weight = self.density_kgm3 * GRAVITY_MS2
        self.vapour_pa, self.air_pa = water.vapour_pa, air_pressure_pa(line.altitude_m)
        roughness = (line.hazen_williams_c if line.friction is FrictionSchool.HAZEN_WILLIAMS else line.sand_roughness_m) or 0.0
        self.line = Main(line.length_m, line.diameter_m, line.friction, roughness, line.minor_k, water.viscosity_m2s)
        self.branches = tuple(Branch(tank, line.friction, roughness, water.viscosity_m2s) for tank in survey.all_tanks)
        self.sensor_m = survey.sensor.height_m
        self.signal = SIGNALS[survey.sensor.signal]
        self.scaling = Scaling(self.signal.low, self.signal.high, 0.0, survey.sensor.range_pa)
        self.pumps = self._pumps()
        self.duty = tuple(range(survey.pumping.duty_count))
        self.steady: dict[tuple[tuple[int, ...], tuple[int, ...], bool], Flows] = {}  # what runs with valves open: as many as there are tanks and pumps to combine
        self.closings: LRUCache[float, Any] = LRUCache(64)  # what closing valves do, by the stop pressure

    def __deepcopy__(self, memo: dict[int, object]) -> "TransferHydraulics":
        return self  # what it keeps stays true for every copy

    def _pumps(self) -> tuple[PumpSide, ...]:
        survey = self.survey
        first = PumpCurves(survey.pumping.curve, survey.motor.plate)
        made = [_side(first, 0, survey.source) for _ in range(survey.pumping.count)]
        if len(survey.sources) > 1 and survey.second is not None and survey.source_2 is not None:
            made[1] = _side(PumpCurves(survey.second.curve, survey.second.plate), 1, survey.source_2)
        return tuple(made)

    # heights as pressures

    def column_pa(self, height_m: float) -> float:
        """What a column up to a height presses on the sensor."""
        return self.weight * (height_m - self.sensor_m)

    def head_m(self, pressure_pa: float) -> float:
        """How high the line stands, above the datum, at a pressure of the sensor."""
        return self.sensor_m + pressure_pa / self.weight

    @cached_property
    def columns_pa(self) -> tuple[float, ...]:
        """The standing column of each tank: to its inlet, or to its full level over a bottom entry."""
        return tuple(self.column_pa(branch.lift_m(branch.tank.closes_m)) for branch in self.branches)

    @property
    def highest_column(self) -> int:
        """Which tank's column is highest, 0 for the first."""
        return max(range(len(self.columns_pa)), key=lambda each: self.columns_pa[each])

    def sources_m(self, high: bool) -> tuple[float, ...]:
        """Levels of the sources at their highest or lowest."""
        return tuple(source.high_m if high else source.low_m for source in self.survey.sources)

    def shut_off_pa(self, high: bool) -> float:
        """What pumps reach against closed valves: the least of them at the lowest source, the most of them at the highest."""
        levels = self.sources_m(high)
        reached = [self.column_pa(levels[pump.source] + pump.a) for pump in self.pumps]
        return max(reached) if high else min(reached)

    # what flows

    def flows(self, pumps: Sequence[int], openings: Sequence[float], levels_m: Sequence[float], sources_m: Sequence[float]) -> Flows:
        """Pumps (0 for pump 1) and open tanks in balance: what pumps give goes through the line and divides. Source: continuity and energy, bracketed root."""
        lifts = [branch.lift_m(level) for branch, level in zip(self.branches, levels_m)]
        opened = [lift for lift, opening in zip(lifts, openings) if opening > SHUT]
        top_m = max((sources_m[self.pumps[pump].source] + self.pumps[pump].a for pump in pumps), default=-math.inf)
        count = len(self.pumps)
        if not opened or top_m <= min(opened):
            still_pa = self.column_pa(max(top_m, min(opened)) if opened and pumps else top_m if pumps else min(opened, default=self.sensor_m))
            return Flows(still_pa, (0.0,) * count, (0.0,) * len(lifts))

        def taken(node_m: float) -> list[float]:
            return [branch.flow_m3s(node_m - lift, opening) for branch, lift, opening in zip(self.branches, lifts, openings)]

        def given(head_m: float) -> list[float]:
            return [self.pumps[p].flow_m3s(head_m - sources_m[self.pumps[p].source]) if p in pumps else 0.0 for p in range(count)]

        def surplus(node_m: float) -> float:
            out = sum(taken(node_m))
            return sum(given(node_m + self.line.loss_m(out))) - out

        low_m = min(opened)
        node_m = float(brentq(surplus, low_m, top_m, xtol=1e-9)) if surplus(low_m) > 0.0 else low_m
        filled = taken(node_m)
        head_m = node_m + self.line.loss_m(sum(filled))
        return Flows(self.weight * (head_m - self.sensor_m), tuple(given(head_m)), tuple(filled))

    def running(self, opened: Sequence[int], pumps: Sequence[int], high: bool) -> Flows:
        """These pumps fill these tanks through valves fully open, at the highest or the lowest source, tanks nearly full."""
        asked = (tuple(opened), tuple(pumps), high)
        if asked not in self.steady:
            openings = [1.0 if tank in opened else 0.0 for tank in range(len(self.branches))]
            self.steady[asked] = self.flows(pumps, openings, [branch.tank.closes_m for branch in self.branches], self.sources_m(high))
        return self.steady[asked]

    @cached_property
    def ways(self) -> tuple[tuple[int, ...], ...]:
        """Every set of tanks that may be open together."""
        tanks = range(len(self.branches))
        return tuple(way for size in range(1, len(self.branches) + 1) for way in itertools.combinations(tanks, size))

    @cached_property
    def highest_running(self) -> tuple[float, tuple[int, ...]]:
        """The highest pressure while filling: all duty pumps, highest source; and which tanks are open then. [Pa]"""
        return max((self.running(way, self.duty, True).pressure_pa, way) for way in self.ways)

    @cached_property
    def lowest_running(self) -> tuple[float, tuple[int, ...]]:
        """The lowest: one pump, lowest source. [Pa]"""
        return min((self.running(way, (pump,), False).pressure_pa, way) for way in self.ways for pump in self.duty)

    @cached_property
    def least_rate_m3s(self) -> float:
        """What the weakest pump brings at its lowest source into every tank together. [m3/s]"""
        every = self.ways[-1]
        return min(self.running(every, (pump,), False).total_m3s for pump in self.duty)

    @cached_property
    def most_rate_m3s(self) -> float:
        """What all duty pumps bring at the highest source into every tank together. [m3/s]"""
        return self.running(self.ways[-1], self.duty, True).total_m3s

    def alone_m3s(self, tank: int, high: bool = False) -> float:
        """What the weakest pump brings into one tank alone (all duty pumps at the highest source). [m3/s]"""
        if high:
            return self.running((tank,), self.duty, True).total_m3s
        return min(self.running((tank,), (pump,), False).total_m3s for pump in self.duty)

    @cached_property
    def teams(self) -> tuple[tuple[int, ...], ...]:
        """Pumps that may run when a fill ends: each duty pump alone, and all together."""
        alone = tuple((pump,) for pump in self.duty)
        return (*alone, self.duty) if len(self.duty) > 1 else alone

    def opened_for(self, tank: int, pressure_pa: float, pumps: Sequence[int], high: bool) -> float:
        """How far a valve is still open when pumps, filling that tank alone, hold a pressure: 1 where it is higher from the start, 0 where never. [Pa]

        Source: what pumps give at that pressure, less what pipes take of it, is left for the valve; its Kv solved for the opening.
        """
        branch, sources, head_m = self.branches[tank], self.sources_m(high), self.head_m(pressure_pa)
        flow = sum(self.pumps[pump].flow_m3s(head_m - sources[self.pumps[pump].source]) for pump in pumps)
        left_m = head_m - self.line.loss_m(flow) - branch.lift_m(branch.tank.closes_m) - branch.pipe.loss_m(flow)
        if left_m <= 0.0:
            return 1.0
        opening = flow * math.sqrt(KV_M / left_m) / branch.tank.valve_m3s
        return 0.0 if opening <= 10.0 * SHUT else min(1.0, opening)

    # what the closed line stores and loses

    @cached_property
    def volume_m3(self) -> float:
        """Water in the line and its branches."""
        return self.line.volume_m3 + sum(branch.pipe.volume_m3 for branch in self.branches)

    @cached_property
    def precharge_pa(self) -> float:
        """Of its vessel: as noted, or nine tenths of the highest column."""
        noted = self.survey.line.precharge_pa
        return 0.9 * max(0.0, max(self.columns_pa)) if noted is None else noted

    def stores_m3pa(self, pressure_pa: float, air_m3: float = 0.0) -> float:
        """What the closed line takes for each pascal more: water and pipe walls, V/(rho a^2), the gas of a vessel or of trapped air. [m3/Pa]

        Source: definition of the wave speed in a pipe; Boyle 1662.
        """
        stored = self.volume_m3 / (self.density_kgm3 * self.survey.line.wave_ms**2)
        absolute = max(pressure_pa + self.air_pa, 1e3)
        vessel = self.survey.line.vessel_m3
        if vessel > 0.0 and pressure_pa > self.precharge_pa:
            stored += vessel * (self.precharge_pa + self.air_pa) / absolute**2
        return stored + (air_m3 * self.air_pa / absolute**2 if air_m3 > 0.0 else 0.0)

    @cached_property
    def leak_at_pa(self) -> float:
        """The pressure at which its leak was read."""
        return self.survey.line.leak_at_pa or max(self.highest_running[0], 1e4)

    def leak_m3s(self, pressure_pa: float) -> float:
        """What leaks out of the closed line: with the root of the pressure. Source: Torricelli 1643."""
        leak = self.survey.line.leak_m3s
        return leak * math.sqrt(pressure_pa / self.leak_at_pa) if leak > 0.0 and pressure_pa > 0.0 else 0.0

    def sags_s(self, from_pa: float, to_pa: float, leaks: float = 1.0) -> float:
        """How long the closed line takes to sag from one pressure to a lower one; infinite without a leak. leaks: times its leak. [Pa, s]

        Source: dp/dt = -q(p)/C(p), added up over equal parts of the root of the pressure, in which it is nearly straight.
        """
        if self.survey.line.leak_m3s * leaks <= 0.0 or from_pa <= to_pa:
            return math.inf if self.survey.line.leak_m3s * leaks <= 0.0 else 0.0
        high, low, parts, total = math.sqrt(from_pa), math.sqrt(max(to_pa, 0.0)), 64, 0.0
        step = (high - low) / parts
        factor = 2.0 * math.sqrt(self.leak_at_pa) / (self.survey.line.leak_m3s * leaks)
        for part in range(parts):
            total += self.stores_m3pa((low + (part + 0.5) * step) ** 2) * factor * step
        return total

    def sags_to_pa(self, from_pa: float, time_s: float) -> float:
        """Where the closed line stands after a time. [Pa, s]"""
        if time_s <= 0.0 or self.sags_s(from_pa, 0.0) == math.inf:
            return from_pa
        if self.sags_s(from_pa, 0.0) <= time_s:
            return 0.0
        return float(brentq(lambda pa: self.sags_s(from_pa, pa) - time_s, 0.0, from_pa, xtol=1.0))

    @property
    def rated_parts(self) -> tuple[tuple[str, float, float], ...]:
        """Each part with its rating and the column from the sensor down to it. [Pa, Pa]"""
        line = self.survey.line
        down_pa = 0.0 if line.lowest_m is None else max(0.0, self.weight * (self.sensor_m - line.lowest_m))
        relief = () if line.relief_pa is None else (("relief valve", line.relief_pa, 0.0),)
        return (("line at its lowest point", line.rating_pa, down_pa), *relief)


def _side(curves: PumpCurves, place: int, source: Source) -> PumpSide:
    """A pump on its source, its suction loss taken off its curve."""
    a, b, c = curves.head.coefficients
    return PumpSide(curves, place, a, b, c - source.loss_m / curves.head.last_flow_m3s**2)


@once_each
def hydraulics(survey: TransferSurvey) -> TransferHydraulics:
    """The equations of this survey; asked again for the same survey they come from memory."""
    return TransferHydraulics(survey)
