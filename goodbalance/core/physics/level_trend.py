"""What a trend of levels tells: cycles, inflow, pump rates, starts, and how run time is shared."""

from dataclasses import dataclass

import numpy as np

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.wells import Well

LEAST_SWING = 0.1  # share of the whole range of levels that counts as a turn
LEAST_SWING_M = 0.03
HOUR_S, DAY_S = 3600.0, 86400.0


@dataclass(frozen=True, slots=True)
class Stretch:
    """A stretch in which the same pumps ran. rate_m3s: change of volume, by least squares over its inner rows."""

    from_s: float
    to_s: float
    from_m: float
    to_m: float
    rate_m3s: float
    pumps: tuple[int, ...]  # which ran; (0,) where the trend does not tell which

    @property
    def lasts_s(self) -> float:
        """How long it lasts. [s]"""
        return self.to_s - self.from_s


@dataclass(frozen=True, slots=True)
class Cycle:
    """A pumped stretch between two fills. pump is its number where the trend tells and it ran alone, else None."""

    fill: Stretch
    draw: Stretch
    after: Stretch | None
    inflow_m3s: float
    rate_m3s: float
    pump: int | None


@dataclass(frozen=True, slots=True)
class PumpShare:
    """One pump over the trend."""

    pump: int
    starts: int
    busiest_hour: int
    run_s: float
    rate_m3s: float | None  # median over the cycles in which it ran alone


@dataclass(frozen=True, slots=True)
class TrendReport:
    """All that a trend of levels tells."""

    lasted_s: float
    lowest_m: float
    highest_m: float
    start_m: float  # median level at which pumping began
    stop_m: float
    cycles: tuple[Cycle, ...]
    starts_s: tuple[float, ...]  # of any pump
    inflow_min_m3s: float
    inflow_mean_m3s: float
    inflow_peak_m3s: float
    by_hour_m3s: tuple[float | None, ...]  # hour of the day; None where nothing was seen; empty under a day
    pumps: tuple[PumpShare, ...]

    @property
    def starts_per_hour(self) -> float:
        """Starts of all pumps together, over the whole trend. [1/h]"""
        return len(self.starts_s) / (self.lasted_s / HOUR_S)

    @property
    def busiest_hour(self) -> int:
        """Most starts of all pumps together in any 60 minutes."""
        return busiest(self.starts_s)


def read_trend(
    well: Well, times_s: np.ndarray, levels_m: np.ndarray, pumps: tuple[np.ndarray, ...] = (), clock_s: float = 0.0
) -> TrendReport:
    """Find the cycles of a wet well and what they tell.

    times_s rising, levels_m above the floor, pumps: one array of 0 and 1 for each pump that was recorded; without them
    a falling level is taken as pumped, and the level turns where it goes back by more than a tenth of its range.
    clock_s: time of day of the first row. Raises OutOfRange where there are too few rows or no cycle.
    """
    if len(times_s) < 10:
        raise OutOfRange("rows", len(times_s), "10 or more")
    if not np.all(np.diff(times_s) > 0.0):
        raise OutOfRange("time", float(times_s[int(np.argmin(np.diff(times_s)))]), "times that rise from row to row")
    volumes_m3 = np.array([well.volume_m3(level) for level in levels_m.tolist()])
    cuts = _by_pumps(pumps) if pumps else _by_turns(levels_m)
    found = (_stretch(a, b, ran, times_s, levels_m, volumes_m3) for a, b, ran in cuts)
    stretches = [stretch for stretch in found if stretch is not None]
    cycles = _cycles(stretches)
    if not cycles:
        raise OutOfRange(
            "level", round(float(np.ptp(levels_m)), 3), "a level that rises and is pumped down at least once"
        )
    flows = _inflows(stretches, cycles)
    shares = tuple(_share(number, times_s, on, cycles) for number, on in enumerate(pumps, 1))
    began = [b for a, b in zip(stretches, stretches[1:]) if b.pumps and not a.pumps]
    ended = [a for a, b in zip(stretches, stretches[1:]) if a.pumps and not b.pumps] or [cycle.draw for cycle in cycles]
    weights = np.array([stretch.lasts_s for stretch in stretches])
    own = tuple(sorted(at for on in pumps for at in _starts(times_s, on))) or tuple(s.from_s for s in began)
    return TrendReport(
        float(times_s[-1] - times_s[0]),
        float(levels_m.min()),
        float(levels_m.max()),
        float(np.median([stretch.from_m for stretch in began])),
        float(np.median([stretch.to_m for stretch in ended])),
        cycles,
        own,
        float(flows.min()),
        float((flows * weights).sum() / weights.sum()),
        float(flows.max()),
        _by_hour(stretches, flows, clock_s, float(times_s[-1] - times_s[0])),
        shares,
    )


Cut = tuple[int, int, tuple[int, ...]]  # first row, last row, pumps that ran


def _by_pumps(pumps: tuple[np.ndarray, ...]) -> list[Cut]:
    """Cut where the set of running pumps changes; every row between is of one set."""
    states = np.array([on > 0.5 for on in pumps])
    edges = [0, *(np.nonzero(np.any(states[:, 1:] != states[:, :-1], axis=0))[0] + 1).tolist(), states.shape[1]]
    return [
        (a, b - 1, tuple(number for number, on in enumerate(states[:, a], 1) if on)) for a, b in zip(edges, edges[1:])
    ]


def _by_turns(levels_m: np.ndarray) -> list[Cut]:
    """Cut at the turning points: a turn counts when the level has gone back by the swing. Falling is pumped."""
    swing_m = max(LEAST_SWING_M, LEAST_SWING * float(np.ptp(levels_m)))
    levels = levels_m.tolist()
    turns, best, rising = [0], 0, levels[min(len(levels) - 1, 5)] >= levels[0]
    for index, level in enumerate(levels):
        further = level >= levels[best] if rising else level <= levels[best]
        if further:
            best = index
        elif abs(level - levels[best]) > swing_m:
            turns.append(best)
            rising, best = not rising, index
    cut = sorted({*turns, len(levels) - 1})
    return [
        # the rows beside a turn are left out: pumps start and stop between two of them
        (a + 1 if b - a > 3 else a, b - 1 if b - a > 3 else b, (0,) if levels[b] < levels[a] else ())
        for a, b in zip(cut, cut[1:])
        if abs(levels[b] - levels[a]) >= 0.5 * swing_m
    ]


def _stretch(
    a: int, b: int, ran: tuple[int, ...], times_s: np.ndarray, levels_m: np.ndarray, volumes_m3: np.ndarray
) -> Stretch | None:
    """None where one row alone shows no slope."""
    if b <= a:
        return None
    slope = float(np.polyfit(times_s[a : b + 1] - times_s[a], volumes_m3[a : b + 1], 1)[0])
    return Stretch(float(times_s[a]), float(times_s[b]), float(levels_m[a]), float(levels_m[b]), slope, ran)


def _cycles(stretches: list[Stretch]) -> tuple[Cycle, ...]:
    """Pumped stretches that stand right after a fill, with the fill after them where it follows at once."""
    found = []
    for before, draw, after in zip(stretches, stretches[1:], [*stretches[2:], None]):
        if before.pumps or not draw.pumps:
            continue
        fills = [before] + ([after] if after is not None and not after.pumps else [])
        inflow_m3s = sum(fill.rate_m3s for fill in fills) / len(fills)
        pump = draw.pumps[0] if len(draw.pumps) == 1 and draw.pumps[0] else None
        found.append(
            Cycle(before, draw, fills[1] if len(fills) > 1 else None, inflow_m3s, inflow_m3s - draw.rate_m3s, pump)
        )
    return tuple(found)


def _inflows(stretches: list[Stretch], cycles: tuple[Cycle, ...]) -> np.ndarray:
    """Inflow in each stretch: its rise without pumps, or with one pump its change plus what that pump gave (median).

    Where several pumps ran, or one whose rate is not known, the two nearest known stretches are averaged: rates of
    pumps side by side do not add up.
    """
    alone: dict[tuple[int, ...], list[float]] = {}
    for cycle in cycles:
        alone.setdefault(cycle.draw.pumps, []).append(cycle.rate_m3s)
    rates: dict[tuple[int, ...], float] = {ran: float(np.median(found)) for ran, found in alone.items() if len(ran) == 1}
    known = {
        index: max(0.0, stretch.rate_m3s + rates.get(stretch.pumps, 0.0))
        for index, stretch in enumerate(stretches)
        if not stretch.pumps or stretch.pumps in rates
    }
    flows = []
    for index, stretch in enumerate(stretches):
        if index in known:
            flows.append(known[index])
            continue
        near = sorted(known, key=lambda other: abs(stretches[other].from_s - stretch.from_s))[:2]
        flows.append(sum(known[other] for other in near) / len(near))
    return np.array(flows)


def _by_hour(stretches: list[Stretch], flows: np.ndarray, clock_s: float, lasted_s: float) -> tuple[float | None, ...]:
    if lasted_s < DAY_S:
        return ()
    volume, time = np.zeros(24), np.zeros(24)
    for stretch, flow in zip(stretches, flows.tolist()):
        hour = int(((clock_s + (stretch.from_s + stretch.to_s) / 2.0) % DAY_S) // HOUR_S)
        volume[hour] += flow * stretch.lasts_s
        time[hour] += stretch.lasts_s
    return tuple(float(v / t) if t > 0.0 else None for v, t in zip(volume, time))


def _starts(times_s: np.ndarray, on: np.ndarray) -> list[float]:
    states = on > 0.5
    return [float(time_s) for time_s in times_s[1:][states[1:] & ~states[:-1]]]


def _share(number: int, times_s: np.ndarray, on: np.ndarray, cycles: tuple[Cycle, ...]) -> PumpShare:
    starts = _starts(times_s, on)
    run_s = float(np.diff(times_s)[(on > 0.5)[:-1]].sum())
    rates = [cycle.rate_m3s for cycle in cycles if cycle.pump == number]
    return PumpShare(number, len(starts), busiest(tuple(starts)), run_s, float(np.median(rates)) if rates else None)


def busiest(starts_s: tuple[float, ...]) -> int:
    """Most starts in any 60 minutes, by two pointers over the sorted times."""
    most, first = 0, 0
    for last, at_s in enumerate(starts_s):
        while starts_s[first] <= at_s - HOUR_S:
            first += 1
        most = max(most, last - first + 1)
    return most
