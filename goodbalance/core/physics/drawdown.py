"""Timed drawdown: what a pump really gives, from the well's level over time with the pump off and on."""

import math
from dataclasses import dataclass

from scipy.stats import t as student

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.wells import Well

TIME_ERROR_S = 0.5  # starting and stopping a watch by hand


@dataclass(frozen=True, slots=True)
class Stretch:
    """Level at the start and end of a timed stretch. [m, m, s]"""

    from_m: float
    to_m: float
    time_s: float


@dataclass(frozen=True, slots=True)
class DrawdownRun:
    """One run: the well fills with all pumps off, then one pump draws it down, then it may fill again."""

    before: Stretch
    pumping: Stretch
    after: Stretch | None = None


@dataclass(frozen=True, slots=True)
class RunRate:
    """One run worked out. [m3/s]"""

    inflow_m3s: float
    rate_m3s: float
    error_m3s: float  # from reading levels and watch


@dataclass(frozen=True, slots=True)
class DrawdownResult:
    """All runs of one pump. The error holds with 95 % where there are two runs or more."""

    runs: tuple[RunRate, ...]
    rate_m3s: float
    error_m3s: float
    mean_level_m: float  # at which the rate was measured


def drawdown(well: Well, runs: tuple[DrawdownRun, ...], reading_error_m: float) -> DrawdownResult:
    """Rate of a pump: q = i + V/t, V drawn down in t while i flows in; i from the fills before and after, averaged.

    The error is the larger of what the readings allow and what the runs scatter: Student's t for 95 %, s t / sqrt(n).
    Raises OutOfRange for a stretch that does not go the right way or takes no time, or for no runs at all.

    Source: mass balance of the well while its area is known.
    """
    if not runs:
        raise OutOfRange("runs", 0, "at least one")
    rated = tuple(_rate(well, run, reading_error_m) for run in runs)
    count = len(rated)
    mean_m3s = sum(run.rate_m3s for run in rated) / count
    readings_m3s = math.sqrt(sum(run.error_m3s**2 for run in rated)) / count
    scatter_m3s = 0.0
    if count > 1:
        deviation_m3s = math.sqrt(sum((run.rate_m3s - mean_m3s) ** 2 for run in rated) / (count - 1))
        scatter_m3s = deviation_m3s * float(student.ppf(0.975, count - 1)) / math.sqrt(count)
    level_m = sum((run.pumping.from_m + run.pumping.to_m) / 2.0 for run in runs) / count
    return DrawdownResult(rated, mean_m3s, max(readings_m3s, scatter_m3s), level_m)


def _rate(well: Well, run: DrawdownRun, reading_error_m: float) -> RunRate:
    fills = [run.before] if run.after is None else [run.before, run.after]
    inflows = [_flow_m3s(well, fill, rising=True) for fill in fills]
    inflow_m3s = sum(inflows) / len(inflows)
    drawn_m3s = _flow_m3s(well, run.pumping, rising=False)
    errors = [_error_m3s(well, fill, reading_error_m) / len(fills) for fill in fills]
    errors.append(_error_m3s(well, run.pumping, reading_error_m))
    return RunRate(inflow_m3s, inflow_m3s + drawn_m3s, math.sqrt(sum(error**2 for error in errors)))


def _flow_m3s(well: Well, stretch: Stretch, rising: bool) -> float:
    if not stretch.time_s > 0.0:
        raise OutOfRange("time_s", stretch.time_s, "more than 0")
    change_m3 = well.volume_m3(stretch.to_m) - well.volume_m3(stretch.from_m)
    if rising and not change_m3 >= 0.0:
        raise OutOfRange("to_m", stretch.to_m, f"{stretch.from_m:g} or more: with pumps off the level rises")
    if not rising and not change_m3 < 0.0:
        raise OutOfRange("to_m", stretch.to_m, f"less than {stretch.from_m:g}: the pump draws the level down")
    return abs(change_m3) / stretch.time_s


def _error_m3s(well: Well, stretch: Stretch, reading_error_m: float) -> float:
    """Two readings of the level and two touches of the watch, added as squares."""
    area_m2 = well.area_m2((stretch.from_m + stretch.to_m) / 2.0)
    volume_m3 = abs(well.volume_m3(stretch.to_m) - well.volume_m3(stretch.from_m))
    by_level = area_m2 * reading_error_m * math.sqrt(2.0) / stretch.time_s
    by_watch = volume_m3 / stretch.time_s**2 * TIME_ERROR_S * math.sqrt(2.0)
    return math.hypot(by_level, by_watch)
