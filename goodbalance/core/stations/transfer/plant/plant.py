"""The water of a transfer set on the bench: line with its storage, tanks with their valves, sources, draws, leaks."""

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from scipy.optimize import brentq

from goodbalance.core.stations.transfer.plant.hydraulics import SHUT, TransferHydraulics
from goodbalance.core.stations.transfer.plant.valves import DRIBBLE, Valve

LEAK_MORE = 20.0  # times the line's own leak with the fault in, at least LEAK_SHARE of what the pumps bring
LEAK_SHARE, CHECK_SHARE, BURST_SHARE = 0.02, 0.05, 20.0  # of what the pumps bring, at the running pressure
AIR_SHARE = 0.05  # of the line's water, as a trapped pocket of air
HEAVIER = 1.10  # a brine in the place of water
VALVE_HEADS, TWICE_G = 40.0, 19.6133  # velocity heads lost in a valve that is half closed [m/s2]
WORN, BACKWARDS = 0.88, 0.5  # of a pump's head
NEAR_M = 0.2  # where a search turns that has gone beyond its bounds
MOST_SECANTS = 8  # before the balance of a step is sought between bounds
NODE_M = 1e-6  # to which the height of the line is found between bounds
EXACT_M3S = 1e-9  # so much may be left over of the flows of a step
COVER_M = 0.1  # of water over the intake, until a pump that drew air gives again
SAG_SHARE = 0.04  # by which the pressure of the closed line may change in one part of a step
DAY_S = 86400.0
DAY = (  # of a usual day, hour by hour: 0 at the mean draw, 1 at the largest, -1 at none
    -0.85, -0.9, -0.92, -0.92, -0.85, -0.5, 0.35, 0.9, 1.0, 0.6, 0.25, 0.15, 0.4, 0.3, 0.0, -0.05, 0.1, 0.45, 0.85, 0.7, 0.3, -0.1, -0.45, -0.7,
)  # fmt: skip

Balance = tuple[float, float, list[float], list[float]]  # what is left over of the flows, the pressure, what each pump gives and each tank gets


@dataclass
class TransferPlant:
    """Levels [m], pressure at the sensor [Pa], flows as of the last step [m3/s], and what went where since the start [m3]."""

    hydraulics: TransferHydraulics
    levels_m: list[float]
    sources_m: list[float]
    pressure_pa: float
    valves: list[Valve]
    draw_share: float = 1.0  # of each tank's mean
    pattern: bool = False
    bleeds_pas: float = 0.0  # by how much a cock lets the closed line fall each second
    throttled: float = 0.0  # how far somebody has closed the valve at the pumps
    stuck_open: frozenset[int] = frozenset()
    stuck_shut: frozenset[int] = frozenset()
    dribbling: frozenset[int] = frozenset()
    shut: frozenset[int] = frozenset()  # pumps whose water does not move
    worn: frozenset[int] = frozenset()
    backwards: frozenset[int] = frozenset()
    backflow: frozenset[int] = frozenset()  # pumps whose check valve leaks
    leaks: bool = False
    burst: bool = False
    air: bool = False
    dry: bool = False
    heavy: bool = False
    pumped_m3s: list[float] = field(default_factory=list)
    filled_m3s: list[float] = field(default_factory=list)
    drawn_m3s: list[float] = field(default_factory=list)
    pumped_m3: float = 0.0
    drawn_m3: float = 0.0
    spilled_m3: float = 0.0
    leaked_m3: float = 0.0
    came_m3: float = 0.0
    energy_j: float = 0.0
    spills: frozenset[int] = frozenset()
    stands: tuple[Any, float] = (None, 0.0)  # what the last balance was asked for, and its pressure, where nothing moved any more
    node_m: float = 0.0  # how high the line stood where it divides
    slope_m2s: float = -1.0  # by how much less is left over of the flows for each metre that it stands higher, as of the last balance
    sucked: frozenset[int] = frozenset()  # sources whose water stands under the intake, until it covers it again
    climbs_pas: float = 0.0  # how fast the pressure rose in the last part of a step

    def __post_init__(self) -> None:
        hyd = self.hydraulics
        self.pumped_m3s = self.pumped_m3s or [0.0] * len(hyd.pumps)
        self.filled_m3s = self.filled_m3s or [0.0] * len(hyd.branches)
        self.drawn_m3s = self.drawn_m3s or [0.0] * len(hyd.branches)
        self.top_m = max(branch.tank.inlet_m for branch in hyd.branches)
        self.rate_m3s, self.at_pa = max(hyd.most_rate_m3s, 1e-6), max(hyd.highest_running[0], 1e4)

    @property
    def stuck(self) -> frozenset[int]:
        """Tanks whose valve does not move."""
        return self.stuck_open | self.stuck_shut

    # what is wanted, and what leaks

    def draws(self, now_s: float) -> list[float]:
        """What users of each tank draw now, where it has water."""
        found = []
        shape = DAY[int(now_s % DAY_S // 3600.0)] if self.pattern else 0.0
        for branch, level, filled in zip(self.hydraulics.branches, self.levels_m, self.filled_m3s):
            tank = branch.tank
            day = tank.mean_m3s + shape * (tank.peak_m3s - tank.mean_m3s if shape > 0.0 else tank.mean_m3s)
            wanted = self.draw_share * day
            found.append(wanted if level > tank.outlet_m else min(wanted, filled))  # users of an empty tank get what comes
        return found

    def openings(self) -> list[float]:
        """How far each tank's inlet is open now, what is stuck counted."""
        found = []
        for tank, valve in enumerate(self.valves):
            opening = 0.0 if tank in self.stuck_shut else 1.0 if tank in self.stuck_open else valve.opening
            found.append(max(opening, DRIBBLE) if tank in self.dribbling else opening)
        return found

    def out_m3s(self, pressure_pa: float, pumping: frozenset[int]) -> float:
        """What leaves the line the wrong way: its leak, a burst, and check valves that do not hold while their pump stands."""
        if pressure_pa <= 0.0:
            return 0.0
        root = math.sqrt(pressure_pa / self.at_pa)
        out = self.hydraulics.leak_m3s(pressure_pa)
        if self.leaks:
            out = max(LEAK_MORE * out, LEAK_SHARE * self.rate_m3s * root)
        if self.bleeds_pas:
            out += self.bleeds_pas * self.hydraulics.stores_m3pa(pressure_pa)
        if self.burst:
            out += BURST_SHARE * self.rate_m3s * root
        return out + CHECK_SHARE * self.rate_m3s * root * len(self.backflow - pumping)

    def _head_share(self, pump: int) -> float:
        return (WORN if pump in self.worn else 1.0) * (BACKWARDS if pump in self.backwards else 1.0)

    def gives(self, running: tuple[int, ...]) -> frozenset[int]:
        """Pumps that run and have water and an open way."""
        return frozenset(p for p in running if p not in self.shut and not self.dry and self.hydraulics.pumps[p].source not in self.sucked)

    # one step

    def advance(self, running: tuple[int, ...], now_s: float, step_s: float) -> None:
        """Go on for a time with these pumps. Parts are cut so that no valve and no pressure moves far in one."""
        done_s, self.drawn_m3s = 0.0, self.draws(now_s)
        while done_s < step_s - 1e-9:
            part_s = min(step_s - done_s, self._part_s(running))
            self._part(running, now_s + done_s, part_s)
            done_s += part_s

    def _part_s(self, running: tuple[int, ...]) -> float:
        """How long flows may be taken for steady."""
        hyd, longest = self.hydraulics, math.inf
        for tank, (valve, level) in enumerate(zip(self.valves, self.levels_m)):
            rate = (self.filled_m3s[tank] - self.drawn_m3s[tank]) / valve.tank.area_m2
            if tank in self.stuck:
                continue
            if valve.travels(level):
                share = max(0.05, min(0.25, 0.2 * valve.opening)) if running else 0.5  # what a valve takes goes with the square of how far it is shut
                longest = min(longest, max(0.05, share * valve.tank.closing_s))
            if not rate:
                continue
            if valve.throttles(level, rate > 0.0):
                longest = min(longest, max(0.05, 0.02 * valve.tank.throttles_m / abs(rate)))
            beyond = valve.next_m(level, rate > 0.0)
            if beyond is not None:
                longest = min(longest, max(0.05, abs(beyond - level) / abs(rate)))
        if not running and max(self.openings()) <= SHUT:
            out = self.out_m3s(self.pressure_pa, frozenset())
            if out > 0.0 and self.pressure_pa > 100.0:
                longest = min(longest, max(0.02, SAG_SHARE * self.pressure_pa * self.stores(self.pressure_pa, math.inf) / out))
        for source in hyd.survey.sources:
            if source.area_m2 and running:
                longest = min(longest, max(1.0, 0.5 * source.area_m2 / self.rate_m3s))
        return longest

    def stores(self, pressure_pa: float, opened_m: float) -> float:
        """What the line takes for each pascal more; a line open to a tank and not full up to it empties as a pipe. opened_m: the lowest inlet that is open."""
        hyd = self.hydraulics
        full_to_m = opened_m if opened_m < math.inf else self.top_m - (hyd.air_pa - hyd.vapour_pa) / hyd.weight  # a closed line holds on by the pressure of the air
        if hyd.head_m(pressure_pa) < full_to_m:
            return hyd.line.area_m2 / hyd.weight
        return hyd.stores_m3pa(pressure_pa, AIR_SHARE * hyd.volume_m3 if self.air else 0.0)

    def _part(self, running: tuple[int, ...], now_s: float, step_s: float) -> None:
        hyd, pumping = self.hydraulics, self.gives(running)
        for tank, (valve, level) in enumerate(zip(self.valves, self.levels_m)):  # where the water will have pushed it by the end of the step
            valve.move(level + (self.filled_m3s[tank] - self.drawn_m3s[tank]) * step_s / valve.tank.area_m2, step_s)
        openings = self.openings()
        lifts = [branch.lift_m(level) for branch, level in zip(hyd.branches, self.levels_m)]
        opened_m = min((lift for lift, opening in zip(lifts, openings) if opening > SHUT), default=math.inf)
        before_pa = self.pressure_pa
        stores = self.stores(before_pa, opened_m)
        if not pumping and opened_m == math.inf:
            self._sag(stores, step_s)
            given, filled = [0.0] * len(hyd.pumps), [0.0] * len(lifts)
        else:
            asked = (pumping, tuple(openings), tuple(lifts), tuple(round(level, 3) for level in self.sources_m), self.throttled, self.worn, self.backwards, self.leaks, self.burst, self.backflow, self.bleeds_pas)
            if asked == self.stands[0] and self.stands[1] == self.pressure_pa:
                given, filled = self.pumped_m3s, self.filled_m3s  # nothing moves
            else:
                given, filled = self._balance(pumping, openings, lifts, opened_m, stores, step_s)
                still = abs(self.pressure_pa - before_pa) < 1.0
                self.stands = (asked, self.pressure_pa) if still else (None, 0.0)
        lost = self.out_m3s(self.pressure_pa, pumping)
        self.climbs_pas = (self.pressure_pa - before_pa) / step_s
        self.pumped_m3s, self.filled_m3s, self.drawn_m3s = given, filled, self.draws(now_s)
        self._count(lost, step_s)

    def _sag(self, stores: float, step_s: float) -> None:
        """The closed line loses pressure through its leak: the root of the pressure falls evenly. Source: q = k sqrt(p), dp/dt = -q/C."""
        if self.pressure_pa <= 0.0:
            return
        root = math.sqrt(self.pressure_pa)
        factor = self.out_m3s(self.pressure_pa, frozenset()) / root
        self.pressure_pa = max(0.0, root - 0.5 * factor * step_s / stores) ** 2

    def _balance(
        self, pumping: frozenset[int], openings: list[float], lifts: list[float], opened_m: float, stores: float, step_s: float
    ) -> tuple[list[float], list[float]]:
        """Pumps, line, branches, leak and storage in balance at the end of a step. Source: implicit Euler step of the line's continuity."""
        hyd, before_pa = self.hydraulics, self.pressure_pa
        throttle = (self.throttled / max(1e-6, 1.0 - self.throttled)) ** 2 * VALVE_HEADS if self.throttled else 0.0

        def given(head_m: float) -> list[float]:
            return [hyd.pumps[p].flow_m3s(head_m - self.sources_m[hyd.pumps[p].source], self._head_share(p)) if p in pumping else 0.0 for p in range(len(hyd.pumps))]

        def taken(node_m: float) -> list[float]:
            return [branch.flow_m3s(node_m - lift, opening) for branch, lift, opening in zip(hyd.branches, lifts, openings)]

        def balance(node_m: float) -> Balance:
            filled = taken(node_m) if self.throttled < 1.0 else [0.0] * len(lifts)
            out = sum(filled)
            head_m = node_m + hyd.line.loss_m(out) + throttle * hyd.line.velocity_ms(out) ** 2 / TWICE_G
            pumped, pressure_pa = given(head_m), hyd.weight * (head_m - hyd.sensor_m)
            left = sum(pumped) - out - self.out_m3s(pressure_pa, pumping) - stores * (pressure_pa - before_pa) / step_s
            return left, pressure_pa, pumped, filled

        tops = [self.sources_m[hyd.pumps[p].source] + hyd.pumps[p].a * self._head_share(p) for p in pumping]
        high_m = max([hyd.head_m(before_pa), *tops]) + 1e-6
        low_m = min([hyd.sensor_m, hyd.head_m(before_pa), opened_m]) - 1.0
        _, pressure_pa, pumped, filled = self._root(balance, low_m, high_m)
        self.pressure_pa = max(0.0, pressure_pa)
        return pumped, filled

    def _root(self, balance: Callable[[float], Balance], low_m: float, high_m: float) -> Balance:
        """Where nothing is left over: by secants from where the line stood and how steep it was, or between bounds where they fail.

        Source: secant method; Brent 1973.
        """
        here = min(max(self.node_m, low_m), high_m)
        found = balance(here)
        for _ in range(MOST_SECANTS):
            left, self.node_m = found[0], here
            if -EXACT_M3S < left < EXACT_M3S:
                return found
            low_m, high_m = (here, high_m) if left > 0.0 else (low_m, here)
            following = here - left / self.slope_m2s
            if not low_m < following < high_m:  # the line does not reach an inlet any more, or reaches it again
                following = min(high_m, low_m + NEAR_M) if left > 0.0 else max(low_m, high_m - NEAR_M)
            found = balance(following)
            if (found[0] - left) * (following - here) < 0.0:
                self.slope_m2s = (found[0] - left) / (following - here)
            here = following
        if balance(low_m)[0] > 0.0 > balance(high_m)[0]:
            self.node_m = float(brentq(lambda node_m: balance(node_m)[0], low_m, high_m, xtol=NODE_M, rtol=1e-12))
        else:
            self.node_m = high_m if balance(high_m)[0] >= 0.0 else low_m
        return balance(self.node_m)

    def _count(self, lost: float, step_s: float) -> None:
        """Levels, and what went where."""
        hyd, spills = self.hydraulics, set()
        for tank, branch in enumerate(hyd.branches):
            facts = branch.tank
            level = self.levels_m[tank] + (self.filled_m3s[tank] - self.drawn_m3s[tank]) * step_s / facts.area_m2
            if level > facts.overflow_m:
                self.spilled_m3 += (level - facts.overflow_m) * facts.area_m2
                level = facts.overflow_m
                spills.add(tank)
            if level < facts.outlet_m and self.drawn_m3s[tank] > self.filled_m3s[tank]:
                short = min(self.drawn_m3s[tank] * step_s, (min(facts.outlet_m, self.levels_m[tank]) - level) * facts.area_m2)
                self.drawn_m3 -= short
                level += short / facts.area_m2
            self.levels_m[tank] = level
            self.drawn_m3 += self.drawn_m3s[tank] * step_s
        self.spills = frozenset(spills)
        self.pumped_m3 += sum(self.pumped_m3s) * step_s
        self.leaked_m3 += lost * step_s
        for place, source in enumerate(hyd.survey.sources):
            taken = sum(flow for flow, pump in zip(self.pumped_m3s, hyd.pumps) if pump.source == place)
            self.came_m3 += source.inflow_m3s * step_s
            if source.area_m2:
                level = self.sources_m[place] + (source.inflow_m3s - taken) * step_s / source.area_m2
                self.sources_m[place] = min(level, source.high_m)
        for place, source in enumerate(hyd.survey.sources):
            level = self.sources_m[place]
            if level <= source.safe_m:
                self.sucked |= {place}
            elif level >= source.safe_m + COVER_M:
                self.sucked -= {place}
