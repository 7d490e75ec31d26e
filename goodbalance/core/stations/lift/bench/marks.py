"""The next level on the way at which something of a lift station moves: until then the bench may take one long step."""

import math
from collections.abc import Callable, Iterable, Iterator

from goodbalance.core.stations.lift.controller.logic import LiftLogic
from goodbalance.core.stations.lift.plant.water import LiftPlant

TOUCHING_M = 1e-6  # closer than this to a switching point, the next scan comes at once
Turn = tuple[bool, float, float]  # whether it acts on the rise, and the levels at which it comes on and goes off [m]


def next_mark_m(plant: LiftPlant, logic: LiftLogic, turns: Iterable[tuple[Turn, bool]], true_m: Callable[[float], float], runs: bool, rises: bool) -> float:
    """A relay or float as it stands now, a drive that goes by its own reading, full speed, the overflow or the intake. [m]

    turns: each with whether it is on. true_m: the level that the controller takes for one. runs: whether a pump does.
    """
    level_m = plant.level_m
    last_m = plant.overflow_m if rises else plant.intake_m
    if rises:
        ahead_m = last_m if last_m > level_m - TOUCHING_M else level_m + 1.0
    else:
        ahead_m = last_m if last_m < level_m + TOUCHING_M else 0.0
    for (on_rise, on_m, off_m), on in turns:
        mark_m = off_m if on else on_m
        if (on is not on_rise) is rises and (level_m - TOUCHING_M < mark_m < ahead_m if rises else ahead_m < mark_m < level_m + TOUCHING_M):
            ahead_m = mark_m
    for mark_m in (*_full_speed_m(logic, true_m, runs, rises), *_pairs_m(logic, true_m, rises)):
        if level_m - TOUCHING_M < mark_m < ahead_m if rises else ahead_m < mark_m < level_m + TOUCHING_M:
            ahead_m = mark_m
    return ahead_m


def _full_speed_m(logic: LiftLogic, true_m: Callable[[float], float], runs: bool, rises: bool) -> Iterator[float]:
    """Where drives that go by the level come to full speed, or leave it."""
    drive = logic.drive
    if drive is not None and drive.goes_full and runs and not drive.flat_out and (drive.wanted >= 1.0) is not rises:
        yield true_m(drive.full_m)


def _pairs_m(logic: LiftLogic, true_m: Callable[[float], float], rises: bool) -> Iterator[float]:
    """Where drives that do not hear each other start, or stop, each by its own pair."""
    if logic.leader is None or logic.panel.alone is None:
        return
    for (stop_m, start_m), runs in zip(logic.pairs_m(), logic.panel.alone):
        if runs is not rises and math.isfinite(start_m if rises else stop_m):
            yield true_m(start_m if rises else stop_m)
