"""The next level on the way at which something of a lift station moves: until then the bench may take one long step."""

import math
from collections.abc import Callable, Iterable, Iterator

from goodbalance.core.rehearsal.engine import SCAN_S
from goodbalance.core.stations.lift.controller.logic import DOUBT_M, LiftLogic
from goodbalance.core.stations.lift.plant.faults import LiftFaults
from goodbalance.core.stations.lift.plant.water import LiftPlant

FOLLOWED_S, SURE = 240.0, 1.15  # how far ahead a false reading is looked at, and by how much pumps may give more meanwhile
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


def false_reading_left_s(
    plant: LiftPlant, logic: LiftLogic, faults: LiftFaults, true_m: Callable[[float], float], running: tuple[int, ...], now_s: float
) -> float:
    """How long a reading that is not true can move nothing, in whole scans. true_m: the level that the controller takes for one. [s]"""
    if faults.reading_is_true or logic.alone or logic.sensor_failed or logic.level_m is None:
        return math.inf
    holds_s = faults.holds_s(now_s)
    if holds_s > 0.0:
        return holds_s
    if logic.leader is not None:
        return 0.0
    down_m, up_m = _to_next_readings_m(logic, logic.level_m, true_m)
    falls_ms, rises_ms = _moves_ms(plant, running, now_s, down_m, up_m)
    falls_ms, rises_ms = falls_ms + faults.drift_ms, rises_ms - faults.drift_ms
    ways_s = [way_m / rate_ms for way_m, rate_ms in ((down_m, falls_ms), (up_m, rises_ms)) if rate_ms > 0.0]
    return SCAN_S * math.floor(min([FOLLOWED_S, *ways_s]) / SCAN_S)


def _moves_ms(plant: LiftPlant, running: tuple[int, ...], now_s: float, down_m: float, up_m: float) -> tuple[float, float]:
    """How fast the water may fall and rise at most while it is followed; below 0 where it surely goes the other way. [m/s]"""
    if plant.snores_for_s(running, now_s, FOLLOWED_S) >= FOLLOWED_S:
        return 0.0, 0.0
    well, here_m = plant.hydraulics.well, plant.level_m
    areas_m2 = [well.area_m2(level_m) for level_m in (here_m - down_m, here_m, here_m + up_m)]
    came_m3s, gone_m3s = (plant.inflow_at_m3s(now_s), plant.inflow_at_m3s(now_s + FOLLOWED_S)), plant.taken_m3s(running, now_s)
    falls_m3s, rises_m3s = SURE * gone_m3s - min(came_m3s), max(came_m3s) - gone_m3s / SURE
    return max(falls_m3s / area_m2 for area_m2 in areas_m2), max(rises_m3s / area_m2 for area_m2 in areas_m2)


def _to_next_readings_m(logic: LiftLogic, read_m: float, true_m: Callable[[float], float]) -> tuple[float, float]:
    """How far the water may fall and rise until what the controller takes it for comes to a level that means something to it. [m]

    For a reading that is not true: relays on either side of their points, floats it is compared with, the ends of its scale,
    and where drives that go by it come to full speed.
    """
    ends_m = (logic.scaling.value_low, logic.scaling.value_high)
    marks_m = [*ends_m, ends_m[0] + DOUBT_M, ends_m[1] - DOUBT_M, ends_m[0] - DOUBT_M, ends_m[1] + DOUBT_M]
    for relay in (*logic.relays, *logic.floats):
        marks_m += (relay.on_m, relay.off_m)
    for relay in logic.floats:
        marks_m += (min(relay.on_m, relay.off_m) - DOUBT_M, max(relay.on_m, relay.off_m) + DOUBT_M)
    if logic.drive is not None:
        marks_m.append(logic.drive.full_m)
    here_m = true_m(read_m)
    ways_m = [true_m(mark_m) - here_m for mark_m in marks_m]
    return min((-way_m for way_m in ways_m if way_m <= 0.0), default=math.inf), min((way_m for way_m in ways_m if way_m >= 0.0), default=math.inf)
