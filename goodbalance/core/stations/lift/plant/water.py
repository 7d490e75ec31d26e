"""The water side of a lift station on the bench: a well that fills and pumps that empty it."""

import math
from dataclasses import dataclass

from goodbalance.core.stations.lift.plant.faults import CLOGGED_SHARE
from goodbalance.core.stations.lift.plant.hydraulics import Hydraulics
from goodbalance.core.stations.lift.survey.survey import Inflow

TABLE_STEP_M = 0.1
SPEED_STEP = 0.02
AT_INTAKE_M = 1e-6  # closer than this the water stands at the intake
HOUR_S, DAY_S = 3600.0, 86400.0

# Hour by hour: below 0 the share of the way from mean down to lowest, above 0 the share of the busiest hour's rise.
DAY_SHAPE = (
    -0.7,
    -0.9,
    -1.0,
    -1.0,
    -0.9,
    -0.6,
    0.1,
    0.6,
    1.0,
    0.7,
    0.4,
    0.2,
    0.3,
    0.2,
    0.0,
    -0.1,
    0.0,
    0.3,
    0.6,
    0.7,
    0.4,
    0.1,
    -0.2,
    -0.5,
)

# A rain front: how it rises to its full share, stays and runs off. (seconds after its start, share of peak less mean)
RAIN = ((0.0, 0.0), (1800.0, 1.0), (5400.0, 1.0), (16200.0, 0.0))


def day_pattern_m3s(inflow: Inflow) -> tuple[float, ...]:
    """Inflow at each full hour of a dry day. Its average is the mean inflow; it stays between lowest and peak. [m3/s]

    Quiet hours go toward the lowest inflow; busy hours rise by as much water as the quiet ones lack. Where the survey
    knows the inflow hour by hour, that is the pattern.
    """
    if inflow.hours:
        return tuple(hour.flow_m3s for hour in inflow.hours)
    quiet = -sum(shape for shape in DAY_SHAPE if shape < 0.0)
    busy = sum(shape for shape in DAY_SHAPE if shape > 0.0)
    fall_m3s = inflow.mean_m3s - inflow.min_m3s
    rise_m3s = fall_m3s * quiet / busy
    shrink = min(1.0, (inflow.peak_m3s - inflow.mean_m3s) / rise_m3s) if rise_m3s > 0.0 else 0.0
    return tuple(inflow.mean_m3s + shape * shrink * (rise_m3s if shape > 0.0 else fall_m3s) for shape in DAY_SHAPE)


@dataclass
class LiftPlant:
    """Volume in the well over time, with what came in, went out and spilled."""

    hydraulics: Hydraulics
    level_m: float
    inflow_m3s: float  # steady inflow, used when no pattern is on
    pattern_m3s: tuple[float, ...] | None = None
    rain_at_s: float | None = None  # when a rain front began
    inflow_total_m3: float = 0.0
    pumped_total_m3: float = 0.0
    spilled_total_m3: float = 0.0
    volume_m3: float = 0.0
    clogged: frozenset[int] = frozenset()
    still: frozenset[int] = frozenset()  # pumps that give nothing although they are on: blocked, or behind a shut valve
    leak_share: float = 0.0  # of what is pumped that runs back through leaking check valves
    speed: float = 1.0  # of the pumps, as a share of full speed
    _asked: tuple[object, ...] = ()
    _answer_m3s: float = 0.0

    def __post_init__(self) -> None:
        self.volume_m3 = self.hydraulics.well.volume_m3(self.level_m)
        inlet = self.hydraulics.survey.inlet
        self.overflow_m = inlet.overflow_m
        self.overflow_m3 = self.hydraulics.well.volume_m3(inlet.overflow_m)
        self.intake_m = self.hydraulics.survey.well.intake_m
        self.intake_m3 = self.hydraulics.well.volume_m3(self.intake_m)

    def inflow_at_m3s(self, now_s: float) -> float:
        """Inflow at a time of the run; a pattern runs linearly from hour to hour, day after day."""
        return self._dry_m3s(now_s) + (0.0 if self.rain_at_s is None else self._rain_m3s(now_s - self.rain_at_s))

    def _rain_m3s(self, since_s: float) -> float:
        """What a rain front adds."""
        inflow = self.hydraulics.survey.inflow
        for (from_s, low), (to_s, high) in zip(RAIN, RAIN[1:]):
            if from_s <= since_s < to_s:
                share = low + (high - low) * (since_s - from_s) / (to_s - from_s)
                return share * (inflow.peak_m3s - inflow.mean_m3s)
        return 0.0

    def _dry_m3s(self, now_s: float) -> float:
        if self.pattern_m3s is None:
            return self.inflow_m3s
        hours = (now_s % DAY_S) / HOUR_S
        hour = int(hours)
        here, following = self.pattern_m3s[hour % 24], self.pattern_m3s[(hour + 1) % 24]
        return here + (following - here) * (hours - hour)

    def knot_left_s(self, now_s: float) -> float:
        """Time to the next bend of the inflow pattern; steps end there so that the sum stays exact. [s]"""
        dry_s = math.inf if self.pattern_m3s is None else HOUR_S - now_s % HOUR_S
        if self.rain_at_s is None:
            return dry_s
        return min([dry_s, *(self.rain_at_s + at_s - now_s for at_s, _ in RAIN if self.rain_at_s + at_s > now_s)])

    def snores_for_s(self, running: tuple[int, ...], now_s: float, within_s: float) -> float:
        """How long pumps take water and air together: the water stands at the intake, and less comes in than they would take. 0: not now. [s]

        The inflow must run straight within that time.
        """
        if not running or abs(self.level_m - self.intake_m) > AT_INTAKE_M:
            return 0.0
        could_m3s, now_m3s, then_m3s = self._could_m3s(running), self.inflow_at_m3s(now_s), self.inflow_at_m3s(now_s + within_s)
        if now_m3s >= could_m3s:
            return 0.0
        return within_s if then_m3s < could_m3s else within_s * (could_m3s - now_m3s) / (then_m3s - now_m3s)

    def drawn_share(self, running: tuple[int, ...], now_s: float) -> float:
        """How much of what these pumps draw is water: all above the intake, nothing below it, and at the intake what comes in; the rest is air."""
        if abs(self.level_m - self.intake_m) > AT_INTAKE_M:
            return 1.0 if self.level_m > self.intake_m else 0.0
        could_m3s = self._could_m3s(running)
        return min(1.0, self.inflow_at_m3s(now_s) / could_m3s) if could_m3s > 0.0 else 0.0

    def _could_m3s(self, running: tuple[int, ...]) -> float:
        """What these pumps would take with water just above their intakes."""
        return self.pumped_m3s(running, self.intake_m + AT_INTAKE_M)

    def taken_m3s(self, running: tuple[int, ...], now_s: float) -> float:
        """Flow these pumps take away at this instant: at the intake no more than comes in."""
        level_m = max(self.level_m, self.intake_m + AT_INTAKE_M) if self.level_m >= self.intake_m - AT_INTAKE_M else self.level_m
        return self.drawn_share(running, now_s) * self.pumped_m3s(running, level_m)

    def pumped_m3s(self, running: tuple[int, ...], level_m: float) -> float:
        """Flow these pumps would take away at a level; none at or under the intake, where they draw air.

        Clogged pumps give a share of their own flow; what leaks back through valves of resting pumps is subtracted.
        """
        running = self.moving(running)
        if not running or level_m <= self.intake_m:
            return 0.0
        asked = (running, level_m, self.speed, self.clogged, self.leak_share)
        if asked == self._asked:  # the same instant is looked at several times
            return self._answer_m3s
        self._asked, self._answer_m3s = asked, self._really_m3s(running, level_m)
        return self._answer_m3s

    def moving(self, running: tuple[int, ...]) -> tuple[int, ...]:
        """Those of the running pumps that move water."""
        return tuple([pump for pump in running if pump not in self.still]) if self.still else running

    def _really_m3s(self, running: tuple[int, ...], level_m: float) -> float:
        flow_m3s = self._from_table(running, level_m)
        if self.clogged:
            clean = tuple(pump for pump in running if pump not in self.clogged)
            clean_m3s = self._from_table(clean, level_m) if clean else 0.0
            flow_m3s = clean_m3s + CLOGGED_SHARE * (flow_m3s - clean_m3s)
        return flow_m3s * (1.0 - self.leak_share)

    def _from_table(self, running: tuple[int, ...], level_m: float) -> float:
        """Flow by tables over the level, one for each fiftieth of speed; straight between."""
        if self.speed >= 1.0:
            return self._at_grid_speed(running, level_m, 1.0)
        low = math.floor(self.speed / SPEED_STEP + 1e-9) * SPEED_STEP
        if low <= 0.0:
            return 0.0
        below, above = (
            self._at_grid_speed(running, level_m, low),
            self._at_grid_speed(running, level_m, low + SPEED_STEP),
        )
        return below + (above - below) * (self.speed - low) / SPEED_STEP

    def _at_grid_speed(self, running: tuple[int, ...], level_m: float, speed: float) -> float:
        speed = round(speed, 4)
        table = self.hydraulics.flow_tables.get((running, speed)) or self._make_table(running, speed)
        place = min(level_m / TABLE_STEP_M, len(table) - 1.001)
        index = int(place)
        return table[index] + (table[index + 1] - table[index]) * (place - index)

    def _make_table(self, running: tuple[int, ...], speed: float) -> list[float]:
        count = math.ceil(self.hydraulics.well.top_m / TABLE_STEP_M) + 2
        every = 1 if speed == 1.0 else 4  # between full tables four steps are straight enough
        marks = range(0, count + every, every)
        coarse = [self.hydraulics.point(running, index * TABLE_STEP_M, speed).flow_m3s for index in marks]
        flows = [
            coarse[index // every] + (coarse[index // every + 1] - coarse[index // every]) * (index % every) / every
            if index % every else coarse[index // every]
            for index in range(count)
        ]  # fmt: skip
        self.hydraulics.flow_tables[running, speed] = flows
        return flows

    def advance(self, running: tuple[int, ...], now_s: float, step_s: float) -> None:
        """Let time pass: inflow by the trapezoid, outflow by Kutta's third-order rule, down to the intake, and there what comes in. Water is conserved exactly."""
        came_m3 = 0.5 * (self.inflow_at_m3s(now_s) + self.inflow_at_m3s(now_s + step_s)) * step_s
        went_m3 = 0.0
        if self.snores_for_s(running, now_s, step_s) >= step_s:
            went_m3 = came_m3
        elif running:
            well, here_m3 = self.hydraulics.well, self.volume_m3
            drawn_to_m = self.intake_m + AT_INTAKE_M if self.level_m >= self.intake_m - AT_INTAKE_M else 0.0  # the last step ends at the intake
            first_m3 = self.pumped_m3s(running, max(drawn_to_m, self.level_m)) * step_s
            middle_m3 = self.pumped_m3s(running, max(drawn_to_m, well.level_m(max(0.0, here_m3 + 0.5 * (came_m3 - first_m3))))) * step_s
            last_m3 = self.pumped_m3s(running, max(drawn_to_m, well.level_m(max(0.0, here_m3 + came_m3 + first_m3 - 2.0 * middle_m3)))) * step_s
            went_m3 = min((first_m3 + 4.0 * middle_m3 + last_m3) / 6.0, max(0.0, here_m3 + came_m3 - self.intake_m3))
        self.volume_m3 = max(0.0, self.volume_m3 + came_m3 - went_m3)  # an emptied well, to the last digit
        spilled_m3 = max(0.0, self.volume_m3 - self.overflow_m3)
        self.volume_m3 -= spilled_m3
        self.inflow_total_m3 += came_m3
        self.pumped_total_m3 += went_m3
        self.spilled_total_m3 += spilled_m3
        self.level_m = self.hydraulics.well.level_m(self.volume_m3)

    def fills_in_s(self, now_s: float, mark_m: float, within_s: float) -> float:
        """Time until a well whose pumps rest stands at a mark, where the inflow runs straight within a time; infinite where it will not.

        V = i s + k s^2 / 2, solved for s: 2 V / (i + sqrt(i^2 + 2 k V)).
        """
        missing_m3, inflow_m3s = self.hydraulics.well.volume_m3(mark_m) - self.volume_m3, self.inflow_at_m3s(now_s)
        if missing_m3 <= 0.0 or within_s <= 0.0:
            return 0.0
        bends = (self.inflow_at_m3s(now_s + within_s) - inflow_m3s) / within_s
        square = inflow_m3s * inflow_m3s + 2.0 * bends * missing_m3
        return 2.0 * missing_m3 / (inflow_m3s + math.sqrt(square)) if square > 0.0 else math.inf

    def empties_in_s(self, running: tuple[int, ...], now_s: float, mark_m: float, within_s: float) -> float:
        """Time in which pumps that keep their speed bring the water to a mark, up or down: the sum of dV / |net| by Simpson's rule.

        The inflow counts as it is now or at the end of that time, whichever gets there sooner.
        """
        well, here_m3 = self.hydraulics.well, self.volume_m3
        moved_m3 = abs(well.volume_m3(mark_m) - here_m3)
        middle_m = well.level_m(max(0.0, (well.volume_m3(mark_m) + here_m3) / 2.0))
        gone_m3s = (self.pumped_m3s(running, self.level_m), self.pumped_m3s(running, middle_m), self.pumped_m3s(running, mark_m))
        return min(_by_simpson_s(moved_m3, gone_m3s, self.inflow_at_m3s(at_s)) for at_s in (now_s, now_s + within_s))

    def net_m3s(self, running: tuple[int, ...], now_s: float) -> float:
        """Inflow less outflow at this instant. [m3/s]"""
        return self.inflow_at_m3s(now_s) - self.taken_m3s(running, now_s)


def _by_simpson_s(moved_m3: float, gone_m3s: tuple[float, float, float], came_m3s: float) -> float:
    """Time in which this much goes or comes, by the flow at begin, middle and end; no longer than at the fastest of them. [s]"""
    nets = [came_m3s - gone for gone in gone_m3s]
    if min(nets) <= 0.0 <= max(nets):  # it may stand still on the way
        return moved_m3 / max(1e-12, max(map(abs, nets)))
    begin, middle, end = (1.0 / abs(net) for net in nets)
    return moved_m3 * (begin + 4.0 * middle + end) / 6.0
