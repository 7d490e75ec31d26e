"""The water side of a booster set on the bench: a pressure zone between pumps that ramp and outlets that open."""

import copy
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from goodbalance.core.stations.booster.plant.hydraulics import BoosterHydraulics
from goodbalance.core.stations.booster.plant.loop_model import LEAST_COMPLIANCE_M3PA, PIPE_MODULUS_PA, passes

ITERATIONS = 40
PART_PA, MOST_PARTS = 1e3, 16  # a long step is cut so that the pressure moves by about this much in each part
AHEAD_PA = 50.0  # a step begins its search where the pace leads, if that is as far as this
EXACT_M3 = 1e-9  # a step may be off by this much; what is pumped and drawn still adds up
LOWEST_PA, HIGHEST_PA = -101_324.0, 1e8
AT_REST = 1e-4  # a share of full speed within which motor and drive agree
TURNING = 1e-3  # a share of full speed below which a pump moves nothing
LEAK_SHARE = 0.1  # of the design flow that runs back through a leaking check valve at 30 m
BACKWARDS_SHARE = 0.45  # of its head that a centrifugal pump gives when it turns the wrong way
WATERLOGGED_SHARE = 0.05  # of its gas that a waterlogged tank has left
AIR_POWER_SHARE = 0.25  # of its power at no flow that a pump takes in air


Balance = Callable[[float], tuple[float, float, float]]  # by the pressure: what is left over, the flow and the water held
Turning = list[tuple[float, float, float]]  # groups of pumps that push: how many, a n^2 and b n of their curve


def _root(rest: float, linear: float, c: float) -> float:
    """q of 0 = rest + linear q + c q^2, for a curve that falls."""
    if -1e-12 < c < 1e-12:
        return -rest / linear if linear < 0.0 else 0.0
    square = linear * linear - 4.0 * c * rest
    return (-linear - math.sqrt(square)) / (2.0 * c) if square > 0.0 else 0.0


@dataclass
class BoosterPlant:
    """Pressure at the sensor over time, from what pumps give and outlets take. Gauge pressures, speeds as shares of full.

    Each step is implicit: the new pressure is the root of storage = inflow - outflow, which falls with the pressure, so
    that a zone of pipes alone (very stiff) and one with a tank are stepped alike and water is conserved exactly.
    """

    hydraulics: BoosterHydraulics
    precharge_pa: float
    pressure_pa: float
    suction_pa: float  # of the supply, without flow
    open_share: float = 0.0  # of the design demand, as outlets opened
    burst_share: float = 0.0  # the same for a burst at the sensor's height
    speeds: list[float] = field(default_factory=list)  # of each pump; 0 at rest
    air_bound: frozenset[int] = frozenset()
    leaking: frozenset[int] = frozenset()  # check valves that let water back while their pump rests
    shut: frozenset[int] = frozenset()  # pumps behind a closed valve
    backwards: frozenset[int] = frozenset()  # pumps that turn the wrong way
    waterlogged: bool = False
    drained: bool = False  # the riser is empty above the pressure's own column
    pumped_m3: float = 0.0
    drawn_m3: float = 0.0
    energy_j: float = 0.0
    lag_s: float = 0.0  # of motor and impeller behind their drive
    driven: list[float] = field(default_factory=list)  # where each drive's ramp stands, a share of full speed
    pace_pas: float = 0.0  # at which the pressure moved in the last step
    slope: float = 1e-8  # of the balance over the pressure, as the last step found it

    def __post_init__(self) -> None:
        hyd = self.hydraulics
        survey = hyd.survey
        self.speeds = self.speeds or [0.0] * survey.pumping.count
        self.driven = self.driven or list(self.speeds)
        outlets = survey.outlets
        self.sensor_m = outlets.sensor_m
        self.outlet_pa = hyd.column_of(outlets.worst_m - outlets.sensor_m)
        design_pa = max(outlets.residual_pa, 1e4)
        self.orifice = survey.demand.design_m3s / math.sqrt(design_pa)  # m3/s per root of Pa over the outlet
        self.pipe_m3pa = LEAST_COMPLIANCE_M3PA + hyd.pipe.volume_m3 / PIPE_MODULUS_PA
        self.riser_m3pa = hyd.pipe.volume_m3 / max(hyd.column_pa, 1e3)
        self.tank_m3 = survey.vessel.volume_m3
        self.loss_per_square = hyd.pipe.loss_m(survey.demand.design_m3s) / survey.demand.design_m3s**2
        self.loss_pa = hyd.column_of(self.loss_per_square)  # per square of the flow
        self.suction_loss = survey.supply.loss_pa / survey.demand.design_m3s**2
        self.flow_m3s = 0.0  # of all pumps, as the last step found it
        self.per_pa = 1.0 / hyd.column_of(1.0)
        self.curve, self.rise_m, self.air_pa = hyd.curve.coefficients, hyd.rise_m, hyd.air_pa
        self.takes = 0.0, 0.0  # what outlets open by a share take per root of pascal, the pipe's loss taken into it
        self.comes_after: dict[float, float] = {}  # how far motors come after their drives in a step of so many seconds

    def stored_m3(self, pressure_pa: float) -> float:
        """Water the zone holds at a pressure, more than at none: pipes by their stiffness, the tank by Boyle."""
        stored = self.pipe_m3pa * pressure_pa
        if self.drained:
            stored += self.riser_m3pa * max(0.0, pressure_pa)
        if self.tank_m3 > 0.0 and pressure_pa > self.precharge_pa:
            gas_m3 = self.tank_m3 * (WATERLOGGED_SHARE if self.waterlogged else 1.0)
            air_pa = self.air_pa
            stored += gas_m3 * (1.0 - (self.precharge_pa + air_pa) / (pressure_pa + air_pa))
        return stored

    def drawn_m3s(self, pressure_pa: float) -> float:
        """What the open outlets and a burst take: k sqrt(p over the outlet), the pipe's loss taken into the root."""
        over_pa = pressure_pa - self.outlet_pa
        drawn = 0.0
        if self.open_share > 0.0 and over_pa > 0.0:
            if self.open_share != self.takes[0]:
                k = self.open_share * self.orifice
                self.takes = self.open_share, k / math.sqrt(1.0 + k * k * self.loss_pa)
            drawn = self.takes[1] * math.sqrt(over_pa)
        if self.burst_share > 0.0 and pressure_pa > 0.0:
            drawn += self.burst_share * self.orifice * math.sqrt(pressure_pa)
        return drawn

    def remote_pa(self, height_m: float) -> float:
        """What a sensor at the far end reads: the pressure here less the column and what the pipe loses now."""
        drop_pa = (height_m - self.sensor_m) / self.per_pa
        flow = self.drawn_m3s(self.pressure_pa) if self.burst_share == 0.0 else self.flow_m3s
        return self.pressure_pa - drop_pa - self.loss_pa * flow * flow

    @property
    def inlet_pa(self) -> float:
        """Pressure at the pump suction with the present flow."""
        return self.suction_pa - self.suction_loss * self.flow_m3s * self.flow_m3s

    def pump_m3s(self, pump: int, pressure_pa: float) -> float:
        """Flow of one pump at a pressure behind it: by affinity, none back through a tight check valve."""
        speed = self.speeds[pump]
        added_m = (pressure_pa - self.inlet_pa) * self.per_pa + self.hydraulics.rise_m
        if speed > TURNING:
            if pump in self.air_bound or pump in self.shut:
                return 0.0
            pushes = speed * math.sqrt(BACKWARDS_SHARE) if pump in self.backwards else speed
            return self.hydraulics.flow_at(pushes, added_m)
        return self._leak_m3s(pump, added_m) if pump in self.leaking else 0.0

    def pumps_m3s(self, pressure_pa: float) -> float:
        """Flow of all pumps together."""
        return self._together_m3s(pressure_pa, self._turning())

    def _turning(self) -> Turning:
        """Pumps that push, neighbours of one speed together: how many, and a n^2 and b n of their curve at that speed."""
        a, b, _ = self.curve
        whole = not (self.air_bound or self.shut or self.backwards)
        if whole:
            turn = [speed for speed in self.speeds if speed > TURNING]
            if not turn or turn.count(turn[0]) == len(turn):  # as most often: all that turn go alike
                return [(len(turn), a * turn[0] * turn[0], b * turn[0])] if turn else []
        groups: list[list[float]] = []
        for pump, speed in enumerate(self.speeds):
            if speed > TURNING and (whole or (pump not in self.air_bound and pump not in self.shut)):
                pushes = speed if whole or pump not in self.backwards else speed * math.sqrt(BACKWARDS_SHARE)
                if groups and groups[-1][1] == pushes:
                    groups[-1][0] += 1
                else:
                    groups.append([1, pushes])
        return [(count, a * n * n, b * n) for count, n in groups]

    def _together_m3s(self, pressure_pa: float, turning: Turning) -> float:
        """Flow of all pumps: of each group the larger root of H = a n^2 + b n q + c q^2, and what leaks back."""
        c, flow = self.curve[2], 0.0
        added_m = (pressure_pa - self.inlet_pa) * self.per_pa + self.rise_m
        for count, shut_off_m, linear in turning:
            rest = shut_off_m - added_m
            if rest > 0.0:
                flow += count * _root(rest, linear, c)
        if self.leaking:
            flow += sum([self._leak_m3s(pump, added_m) for pump in self.leaking])
        return flow

    def _leak_m3s(self, pump: int, added_m: float) -> float:
        """What runs back through a leaking check valve while its pump rests."""
        if added_m <= 0.0 or self.speeds[pump] > TURNING or pump in self.shut:
            return 0.0
        return -LEAK_SHARE * self.hydraulics.survey.demand.design_m3s * math.sqrt(added_m / 30.0)

    def flows_m3s(self) -> list[float]:
        """Flow of each pump now."""
        if self.is_whole(tuple(range(len(self.speeds)))):  # then pumps of one speed give alike
            alike: dict[float, float] = {}
            for pump, speed in enumerate(self.speeds):
                if speed not in alike:
                    alike[speed] = self.pump_m3s(pump, self.pressure_pa)
            return [alike[speed] for speed in self.speeds]
        return [self.pump_m3s(pump, self.pressure_pa) for pump in range(len(self.speeds))]

    def powers_w(self, flows_m3s: list[float]) -> list[float]:
        """What each pump takes at its flow; in air a share of what it takes without flow."""
        found: list[float] = []
        known: dict[tuple[float, float], float] = {}  # pumps at one speed and flow are reckoned once
        for pump, at in enumerate(zip(self.speeds, flows_m3s, strict=True)):
            speed, flow = at
            if speed <= TURNING:
                found.append(0.0)
            elif pump in self.air_bound:
                found.append(AIR_POWER_SHARE * self.hydraulics.power_w(0.0, speed))
            else:
                if at not in known:
                    known[at] = self.hydraulics.power_w(max(0.0, flow), speed)
                found.append(known[at])
        return found

    def turn_at(self, speeds: list[float]) -> None:
        """Let pumps and their drives turn at these speeds already."""
        self.speeds, self.driven = list(speeds), list(speeds)

    def ramp(self, wanted: list[float], ramps_s: Sequence[float], step_s: float) -> None:
        """Move every drive toward what is wanted, as fast as its own ramp lets it; motor and impeller follow with their lag."""
        share = self.comes_after.get(step_s)
        if share is None:
            share = self.comes_after[step_s] = passes(step_s, self.lag_s)
        driven, speeds = [], []
        for told, drive, speed, ramp_s in zip(wanted, self.driven, self.speeds, ramps_s):
            if told == drive == speed:
                driven.append(told)
                speeds.append(told)
                continue
            way, most = told - drive, step_s / ramp_s if ramp_s > 0.0 else 1.0
            drive = told if -most <= way <= most else drive + math.copysign(most, way)
            behind = (drive - speed) * (1.0 - share)
            driven.append(drive)
            speeds.append(drive if -AT_REST < behind < AT_REST else drive - behind)
        self.driven, self.speeds = driven, speeds

    def follow(self, wanted: list[float], ramps_s: Sequence[float], step_s: float, ahead_s: float = 0.0) -> None:
        """Move every drive and let time pass. ahead_s: so long before its end a coarse step takes the speeds it goes by."""
        self.ramp(wanted, ramps_s, step_s - ahead_s)
        self.advance(step_s)
        if ahead_s > 0.0:
            self.ramp(wanted, ramps_s, ahead_s)

    def is_whole(self, pumps: tuple[int, ...]) -> bool:
        """Whether nothing is wrong with these pumps."""
        return self.gives(pumps) and self.leaking.isdisjoint(pumps)

    def gives(self, pumps: tuple[int, ...]) -> bool:
        """Whether these pumps give what their curve says while they turn: a check valve that leaks does so at rest."""
        return (self.air_bound | self.shut | self.backwards).isdisjoint(pumps)

    def after(self, step_s: float) -> "BoosterPlant":
        """A copy that time has passed for, at the present speeds."""
        later = copy.copy(self)
        later.run_on(step_s)
        return later

    def run_on(self, step_s: float) -> None:
        """Let much time pass at the present speeds, in as many steps as the pressure asks for."""
        stiff = self.stored_m3(self.pressure_pa + PART_PA) - self.stored_m3(self.pressure_pa)
        surplus_m3s = self.pumps_m3s(self.pressure_pa) - self.drawn_m3s(self.pressure_pa)
        parts = min(MOST_PARTS, 1 + int(abs(surplus_m3s) * step_s / max(stiff, 1e-12)))
        for _ in range(parts):
            self.advance(step_s / parts)

    def stand(self, pressure_pa: float, pumps: tuple[int, ...], speed: float, step_s: float) -> None:
        """Let time pass at a working point: these pumps at their speed, and just what is drawn is given."""
        before, self.pressure_pa = self.stored_m3(self.pressure_pa), pressure_pa
        self.speeds = [speed if pump in pumps else n for pump, n in enumerate(self.speeds)]
        self.driven, self.pace_pas = list(self.speeds), 0.0
        self.flow_m3s = self.drawn_m3s(pressure_pa)
        self.drawn_m3 += self.flow_m3s * step_s
        self.pumped_m3 += self.flow_m3s * step_s + self.stored_m3(pressure_pa) - before

    def advance(self, step_s: float) -> None:
        """Let time pass: V(p') - V(p) = (pumped(p') - drawn(p')) dt, found by secants, or between bounds where they fail."""
        before = self.stored_m3(self.pressure_pa)
        balance = self._balance(before, step_s)
        middle, flow, stored = self._by_secant(balance, step_s) or self._by_brackets(balance)
        self.pumped_m3 += flow * step_s
        self.drawn_m3 += flow * step_s - (stored - before)
        self.pace_pas = (middle - self.pressure_pa) / step_s
        self.pressure_pa, self.flow_m3s = middle, max(0.0, flow)
        if self.drained and middle >= self.hydraulics.column_pa:
            self.drained = False  # full: what the riser takes from here on is its stiffness only

    def _balance(self, before: float, step_s: float) -> Balance:
        """What a pressure at the end of a step leaves over of the balance, with the flow of the pumps and the water held at it.

        Pumps of one speed give the larger root of H = a n^2 + b n q + c q^2 each; what is the same at every pressure is taken out of it.
        """
        turning, per_pa, twice_c = self._turning(), self.per_pa, 2.0 * self.curve[2]
        base_m, stored_m3, drawn_m3s = self.rise_m - self.inlet_pa * per_pa, self.stored_m3, self.drawn_m3s
        if not turning and not self.leaking:
            def at_rest(pressure_pa: float) -> tuple[float, float, float]:
                stored = stored_m3(pressure_pa)
                return stored - before + drawn_m3s(pressure_pa) * step_s, 0.0, stored
            return at_rest
        if self.leaking or len(turning) != 1 or twice_c > -1e-12:
            def balance(pressure_pa: float) -> tuple[float, float, float]:
                flow, stored = self._together_m3s(pressure_pa, turning), stored_m3(pressure_pa)
                return stored - before - (flow - drawn_m3s(pressure_pa)) * step_s, flow, stored
            return balance
        count, shut_off_m, linear = turning[0]

        def alike(pressure_pa: float) -> tuple[float, float, float]:
            rest_m, stored = shut_off_m - base_m - pressure_pa * per_pa, stored_m3(pressure_pa)
            flow = count * (-linear - math.sqrt(linear * linear - 2.0 * twice_c * rest_m)) / twice_c if rest_m > 0.0 else 0.0
            return stored - before - (flow - drawn_m3s(pressure_pa)) * step_s, flow, stored
        return alike

    def _by_secant(self, balance: Balance, step_s: float) -> tuple[float, float, float] | None:
        """From the pace and slope of the step before: the new pressure, with the flow and the water held at it.

        None where that does not lead to the root at once.
        """
        here, going_pa = self.pressure_pa, self.pace_pas * step_s
        if abs(going_pa) > AHEAD_PA:  # a small pace must not carry itself on within what counts as exact
            here = max(LOWEST_PA, min(HIGHEST_PA, here + going_pa))
        there, flow, stored = balance(here)
        for _ in range(6):
            if -EXACT_M3 < there < EXACT_M3:
                return here, flow, stored
            following = here - there / self.slope
            if not LOWEST_PA < following < HIGHEST_PA:
                return None
            then, flow, stored = balance(following)
            if then != there and (then - there) / (following - here) > 0.0:
                self.slope = (then - there) / (following - here)
            here, there = following, then
        return None

    def _by_brackets(self, balance: Balance) -> tuple[float, float, float]:
        """Regula falsi between bounds that grow until they hold the root; always gets there."""

        def miss(pressure_pa: float) -> float:
            return balance(pressure_pa)[0]

        low, high = self._bounds(miss)
        low_miss, high_miss = miss(low), miss(high)
        middle = self.pressure_pa
        for _ in range(ITERATIONS):
            middle = low - low_miss * (high - low) / (high_miss - low_miss) if high_miss != low_miss else low
            if not low < middle < high:
                middle = 0.5 * (low + high)
            found = miss(middle)
            if abs(found) < EXACT_M3 or high - low < 1e-3:
                break
            if found < 0.0:
                low, low_miss, high_miss = middle, found, 0.5 * high_miss  # Illinois: no end may stay for ever
            else:
                high, high_miss, low_miss = middle, found, 0.5 * low_miss
        return middle, *balance(middle)[1:]

    @staticmethod
    def _sides(miss: Callable[[float], float], at: float, way: float) -> float:
        """Walk one way with ever longer strides until the root lies behind."""
        width = 1e3
        while miss(at) * way < 0.0 and LOWEST_PA < at < HIGHEST_PA:
            at, width = min(HIGHEST_PA, max(LOWEST_PA, at + way * width)), 2.0 * width
        return at

    def _bounds(self, miss: Callable[[float], float]) -> tuple[float, float]:
        """Pressures around the root: the miss rises with the pressure."""
        low, high = self._sides(miss, self.pressure_pa, -1.0), self._sides(miss, self.pressure_pa, 1.0)
        return (low, high) if high > low else (low - 1.0, high + 1.0)
