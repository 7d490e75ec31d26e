"""How long nothing can change on the bench of a maintenance pump: until a timer ends, or the pressure reaches a switching point."""

import math
from collections.abc import Iterator

from goodbalance.core.stations.maintenance.controller.logic import MaintenanceLogic
from goodbalance.core.stations.maintenance.names import Wait
from goodbalance.core.stations.maintenance.plant.plant import MaintenancePlant

NEAR = 0.4  # of the way to a switching point a step may go
LONGEST_STEP_S = 600.0
READS_PA = 50.0  # by which a filtered reading may lag behind and stand all the same


def calm_s(plant: MaintenancePlant, logic: MaintenanceLogic, read_pa: float, shown_pa: float, runs: bool) -> float:
    """So long the controller's scans change nothing, by where line and timers stand. [Pa, s]"""
    n = logic.numbers
    low_pa, high_pa = min(read_pa, shown_pa) - READS_PA, max(read_pa, shown_pa) + READS_PA
    marks = (n.stop_pressure, n.start_pressure)
    behind_pa = read_pa - shown_pa + plant.climbs_pas * n.filter_s  # on an even slope a filter is so far behind
    if abs(behind_pa) > READS_PA and (any(low_pa <= mark <= high_pa for mark in marks) or abs(plant.climbs_pas) > READS_PA):
        return 0.0
    return max(0.0, min((LONGEST_STEP_S, *_timers(logic), *_marks(plant, logic, read_pa, runs))))


def _timers(logic: MaintenanceLogic) -> Iterator[float]:
    n = logic.numbers
    for wait, time_s in ((Wait.START, n.on_delay), (Wait.LONG, n.long_run), (Wait.SENSOR, 2.0)):
        left_s = logic.left_s(wait, time_s)
        if left_s is not None and left_s > 0.0:
            yield left_s
    if logic.called and logic.least_left_s > 0.0:
        yield logic.least_left_s


def _marks(plant: MaintenancePlant, logic: MaintenanceLogic, read_pa: float, runs: bool) -> Iterator[float]:
    """The pressure on its way to start, stop, a main pump's start, the supply or the relief valve."""
    rate = (plant.gives_m3s + plant.held_up(plant.pressure_pa) - plant.out_m3s) / plant.stores(plant.pressure_pa)
    if abs(rate) < 1e-9:
        return
    n, relief_pa = logic.numbers, plant.hydraulics.survey.line.relief_pa
    others = (*plant.starts_pa, plant.supply_pa, *(() if relief_pa is None else (relief_pa,)))
    for at_pa, marks in ((read_pa, (n.stop_pressure, n.start_pressure)), (plant.pressure_pa, others)):
        for mark in marks:
            way = (mark - at_pa) / rate
            if math.isfinite(mark) and way > 0.0:
                yield NEAR * way
    if runs and plant.climbs_pas > READS_PA:
        yield 0.0  # it still climbs
