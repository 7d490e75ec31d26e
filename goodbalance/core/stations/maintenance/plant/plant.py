"""The water of a fire line on the bench: stiff line with its leak, sprinklers, a bleed, the maintenance pump, main pumps behind their own switches."""

import math
from dataclasses import dataclass, field

from scipy.optimize import brentq

from goodbalance.core.stations.maintenance.plant.hydraulics import MaintenanceHydraulics

LEAK_TIMES = 8.0  # the permitted leak, that a leak larger than permitted lets through
CHECK_SHARE = 0.05  # of what the pump gives, back through a check valve that leaks
AIR_SHARE = 0.02  # of the line's water, as a pocket of air
RELIEF_SHARE = 4.0  # times what the pump gives, through a relief valve a tenth over its pressure
WORN, BACKWARDS = 0.88, 0.5  # of the pump's head
MAIN_M3S_SHARE = 40.0  # times what the maintenance pump gives: what a main pump can bring while the line is under its churn
PRESSURE_PA = 0.5  # to which a balance is found
CHANGE_SHARE = 0.02  # by which the pressure may change in one part of a step
SHORTEST_S = 0.01


@dataclass
class MaintenancePlant:
    """Pressure at the sensor [Pa], flows as of the last step [m3/s], what went where since the start [m3]."""

    hydraulics: MaintenanceHydraulics
    pressure_pa: float
    supply_pa: float
    starts_pa: tuple[float, ...]  # of the main pumps, at their own switches
    bleed_m3s: float = 0.0  # as the cock is set, at the pressure where leaks are told
    sprinklers: int = 0
    leaks: bool = False
    air: bool = False
    shut: bool = False
    worn: bool = False
    backwards: bool = False
    backflow: bool = False
    mains: set[int] = field(default_factory=set)  # that run, 0 for the first; only a person stops them
    for_fire: set[int] = field(default_factory=set)  # of these, that started while a sprinkler was open
    mains_power: bool = True
    gives_m3s: float = 0.0
    out_m3s: float = 0.0
    relieved: bool = False
    pumped_m3: float = 0.0
    lost_m3: float = 0.0
    energy_j: float = 0.0
    climbs_pas: float = 0.0

    def __post_init__(self) -> None:
        hyd = self.hydraulics
        self.rate_m3s = max(hyd.gives_m3s(hyd.read_at_pa * 0.95, hyd.supply_pa(False)), 1e-6)

    @property
    def head_share(self) -> float:
        """Of the pump's head that is left."""
        return (WORN if self.worn else 1.0) * (BACKWARDS if self.backwards else 1.0)

    def gives(self, pressure_pa: float, runs: bool) -> float:
        """What the maintenance pump brings at a pressure. [Pa, m3/s]"""
        return self.hydraulics.gives_m3s(pressure_pa, self.supply_pa, self.head_share) if runs and not self.shut else 0.0

    def held_up(self, pressure_pa: float) -> float:
        """What supply and running main pumps bring through their check valves where the line stands under them. [Pa, m3/s]"""
        holds_pa = self.supply_pa + (self.hydraulics.survey.mains.churn_pa if self.mains else 0.0)
        under = holds_pa - pressure_pa
        return MAIN_M3S_SHARE * self.rate_m3s * math.sqrt(under / max(holds_pa, 1e4)) * max(1, len(self.mains)) if under > 0.0 else 0.0

    def out(self, pressure_pa: float, runs: bool) -> float:
        """What leaves the line: leak, bleed, sprinklers, relief, a check valve that does not hold. [Pa, m3/s]"""
        if pressure_pa <= 0.0:
            return 0.0
        hyd, line = self.hydraulics, self.hydraulics.survey.line
        told = line.leak_m3s + self.bleed_m3s
        if self.leaks:
            told += LEAK_TIMES * line.permitted_m3s
        found = hyd.leaks_m3s(pressure_pa, told) + self.sprinklers * hyd.sprinkler_m3s(pressure_pa)
        if line.relief_pa is not None and pressure_pa > line.relief_pa:
            found += RELIEF_SHARE * self.rate_m3s * (pressure_pa - line.relief_pa) / (0.1 * line.relief_pa)
        if self.backflow and not runs and pressure_pa > self.supply_pa:
            found += CHECK_SHARE * self.rate_m3s * math.sqrt((pressure_pa - self.supply_pa) / hyd.read_at_pa)
        return found

    def advance(self, runs: bool, step_s: float) -> None:
        """Go on for a time with the maintenance pump on or off. Parts are cut so that the pressure does not move far in one."""
        left_s = step_s
        while left_s > 1e-9:
            part_s = min(left_s, self._part_s(runs))
            self._part(runs, part_s)
            left_s -= part_s

    def stores(self, pressure_pa: float) -> float:
        """What the line takes for each pascal more. [m3/Pa]"""
        return self.hydraulics.stores_m3pa(pressure_pa, AIR_SHARE * self.hydraulics.survey.line.volume_m3 if self.air else 0.0)

    def _part_s(self, runs: bool) -> float:
        net = abs(self._net(self.pressure_pa, runs))
        if net <= 0.0:
            return math.inf
        return max(SHORTEST_S, CHANGE_SHARE * max(self.pressure_pa, 1e4) * self.stores(self.pressure_pa) / net)

    def _net(self, pressure_pa: float, runs: bool) -> float:
        return self.gives(pressure_pa, runs) + self.held_up(pressure_pa) - self.out(pressure_pa, runs)

    def _part(self, runs: bool, step_s: float) -> None:
        """The pressure at the end of a step. Source: implicit Euler step of the line's continuity, bracketed root."""
        before_pa = self.pressure_pa
        stores = self.stores(before_pa)

        def surplus(pressure_pa: float) -> float:
            return self._net(pressure_pa, runs) - stores * (pressure_pa - before_pa) / step_s

        high_pa = max(before_pa, self.supply_pa, self.hydraulics.shut_off_pa(True) + self.hydraulics.survey.mains.churn_pa) * 1.2 + 1e5
        self.pressure_pa = float(brentq(surplus, 0.0, high_pa, xtol=PRESSURE_PA, rtol=1e-12)) if surplus(0.0) > 0.0 else 0.0
        self.gives_m3s, self.out_m3s = self.gives(self.pressure_pa, runs), self.out(self.pressure_pa, runs)
        self.climbs_pas = (self.pressure_pa - before_pa) / step_s
        self.pumped_m3 += self.gives_m3s * step_s
        self.lost_m3 += self.out_m3s * step_s
        relief_pa = self.hydraulics.survey.line.relief_pa
        self.relieved = relief_pa is not None and self.pressure_pa > relief_pa
        self._mains()

    def _mains(self) -> None:
        """Each main pump's own switch: it starts once the line falls under its start, and only a person stops it."""
        if self.mains_power:
            called = {number for number, start_pa in enumerate(self.starts_pa) if self.pressure_pa < start_pa} - self.mains
            self.mains |= called
            self.for_fire |= called if self.sprinklers else set()
