"""How long nothing can change on the bench of a transfer set: until a timer ends, a level or a pressure reaches a switching point."""

import math
from collections.abc import Iterator

from goodbalance.core.stations.transfer.controller.logic import CLEARS_M, TransferLogic
from goodbalance.core.stations.transfer.names import Hold, Level, Wait
from goodbalance.core.stations.transfer.plant.hydraulics import KV_M, SHUT
from goodbalance.core.stations.transfer.plant.plant import TransferPlant
from goodbalance.core.stations.transfer.survey.control import FullBy

NEAR = 0.5  # of the way to a switching point a step may go
LONGEST_STEP_S = 900.0
AT_S = 1e-6  # within which a level stands at a mark
HOUR_S = 3600.0
READS_PA = 50.0  # by which a filtered reading may lag behind and stand all the same
SETTLES_PAS, SETTLES_S = 500.0, 10.0  # a pressure slower than this settles, by no more than it would go in this time
MOVES_PAS = 2000.0  # a pressure that moves faster is looked at scan by scan


def calm_s(plant: TransferPlant, logic: TransferLogic, read_pa: float, pressure_pa: float | None, running: tuple[int, ...], now_s: float) -> float:
    """So long the controller's scans change nothing, by where water and timers stand. [Pa, s]

    pressure_pa: as the sensor sees it now; None where its reading stands, whatever the water does.
    """
    reads, pressure_pa = pressure_pa is not None, read_pa if pressure_pa is None else pressure_pa
    closed = not running and max(plant.openings()) <= SHUT
    if not closed and _follows(plant, logic, read_pa, pressure_pa):
        return 0.0
    found = [LONGEST_STEP_S, *_timers(logic, now_s), *_water(plant, logic, bool(running), now_s), *_pressure(plant, logic, max(read_pa, pressure_pa), pressure_pa, running, reads)]
    if plant.pattern:
        found.append(HOUR_S - now_s % HOUR_S)
    return max(0.0, min(found))


def _follows(plant: TransferPlant, logic: TransferLogic, read_pa: float, pressure_pa: float) -> bool:
    """Whether the filtered reading is on its way to a pressure that moves, or past one that counts."""
    if abs(read_pa - pressure_pa) <= READS_PA:
        return False
    n = logic.numbers
    far_pa = READS_PA + SETTLES_S * abs(plant.climbs_pas)
    low_pa, high_pa = min(read_pa, pressure_pa) - far_pa, max(read_pa, pressure_pa) + far_pa
    return abs(plant.climbs_pas) > SETTLES_PAS or any(low_pa <= mark <= high_pa for mark in (n.stop_pressure, n.restart_pressure, n.least_pressure))


def drifts_s(logic: TransferLogic, read_pa: float, drift_pas: float) -> float:
    """How long a reading that moves by itself takes at least half way to the next pressure that counts. [s]"""
    n = logic.numbers
    ways = [abs(read_pa - mark) for mark in (n.stop_pressure, n.restart_pressure, n.least_pressure, n.throttles_pa, 0.0, n.range_pa) if math.isfinite(mark)]
    return NEAR * min(ways) / drift_pas


def _timers(logic: TransferLogic, now_s: float) -> Iterator[float]:
    n = logic.numbers
    ends = {
        Wait.SOURCE: n.source_delay, Wait.WIRE: n.wire_delay, Wait.SENSOR: 2.0, Wait.BURST: n.least_delay, Wait.RUN: n.longest_run, Wait.GAP: n.start_gap,
    }  # fmt: skip
    for (wait, _), begun in logic.since.items():
        if wait in ends and begun + ends[wait] > now_s:
            yield begun + ends[wait] - now_s
        if wait is Wait.ASSIST and n.assist_after < math.inf:
            yield n.assist_after - (now_s - begun) % n.assist_after
    left_s = logic.restarts_in_s()
    if left_s is not None:
        yield left_s


def _water(plant: TransferPlant, logic: TransferLogic, pumping: bool, now_s: float) -> Iterator[float]:
    """Tanks and sources on their way to a switching point, a valve's level, the overflow or the bottom."""
    n, hyd = logic.numbers, plant.hydraulics
    for tank, (branch, draws) in enumerate(zip(hyd.branches, plant.draws(now_s))):  # as they are from now on: an hour may begin here
        facts, level = branch.tank, plant.levels_m[tank]
        rate = (plant.filled_m3s[tank] - draws) / facts.area_m2
        if not rate:
            continue
        valve = plant.valves[tank]
        opens = valve.next_m(level, rate > 0.0)
        marks = [facts.overflow_m, facts.outlet_m, *([] if opens is None else [opens])]
        if n.full_by is not FullBy.PRESSURE:
            marks += [mark for mark in (*n.tanks[tank].values(), n.tanks[tank][Level.HIGH_ALARM] - CLEARS_M) if math.isfinite(mark)]
        for mark in marks:
            way = (mark - level) / rate
            if way > AT_S:
                yield way
            elif way > -AT_S and not facts.outlet_m < level < facts.overflow_m:
                continue  # it stands there
            elif way > -AT_S:
                yield 0.0  # a hair before it, or just come to it
        if valve.throttles(level, rate > 0.0):
            yield 0.05 * facts.throttles_m / abs(rate)
        if valve.travels(level) and tank not in plant.stuck and n.by_pressure and (rate > 0.0 if pumping and logic.filling else logic.restarts_in_s() is None):
            yield 0.0  # the pressure follows it: up while pumps fill against a valve that closes, down at rest as one opens
    for place, source in enumerate(hyd.survey.sources):
        if not source.area_m2:
            continue
        taken = sum(flow for flow, pump in zip(plant.pumped_m3s, hyd.pumps) if pump.source == place)
        rate = (source.inflow_m3s - taken) / source.area_m2
        marks = [n.sources[place][Level.SOURCE_STOP], n.sources[place][Level.SOURCE_BACK], source.safe_m, source.high_m]
        stays = not rate or (rate > 0.0 and plant.sources_m[place] >= source.high_m)
        for mark in () if stays else filter(math.isfinite, marks):
            way = (mark - plant.sources_m[place]) / rate
            if abs(way) <= AT_S:
                yield 0.0
            elif way > 0.0:
                yield way
        if pumping and rate:
            yield 0.5 / abs(rate)  # half a metre of the source changes what pumps give


def _climbs_pas(plant: TransferPlant, tank: int) -> float:
    """How fast the pressure rises at most while a valve follows the water: as if the pump kept its flow. Source: h = k q^2 / x^2, so dh/dx = 2 h / x."""
    valve, facts, flow = plant.valves[tank], plant.hydraulics.branches[tank].tank, plant.filled_m3s[tank]
    rate = (flow - plant.drawn_m3s[tank]) / facts.area_m2
    if rate <= 0.0 or valve.opening <= SHUT or tank in plant.stuck or not valve.throttles(plant.levels_m[tank], True):
        return 0.0
    lost_m = KV_M * (flow / (facts.valve_m3s * valve.opening)) ** 2
    return plant.hydraulics.weight * 2.0 * lost_m / valve.opening * rate / facts.throttles_m


def _opens(plant: TransferPlant, tank: int) -> bool:
    """Whether a valve that was shut begins to follow its falling water."""
    level, falls = plant.levels_m[tank], plant.drawn_m3s[tank] > plant.filled_m3s[tank]
    return falls and tank not in plant.stuck and plant.valves[tank].throttles(level, False)


def _open_pa(plant: TransferPlant) -> float:
    """The standing column of the lowest inlet that is open. [Pa]"""
    hyd = plant.hydraulics
    return min((hyd.column_pa(branch.lift_m(level)) for branch, level, opening in zip(hyd.branches, plant.levels_m, plant.openings()) if opening > SHUT), default=0.0)


def _pressure(plant: TransferPlant, logic: TransferLogic, high_pa: float, pressure_pa: float, running: tuple[int, ...], reads: bool) -> Iterator[float]:
    """The pressure on its way to stop or restart. high_pa: the higher of it and what is read; reads: whether that follows it."""
    n = logic.numbers
    closed = not running and max(plant.openings()) <= SHUT
    if abs(plant.climbs_pas) > MOVES_PAS and not closed:
        yield 0.0
    if not running:
        out = plant.out_m3s(plant.pressure_pa, frozenset())
        if not closed and reads and n.by_pressure and logic.restarts_in_s() is None and high_pa > max(n.restart_pressure, _open_pa(plant) + READS_PA):
            yield 0.0  # it falls through an inlet that opens, past the restart
        if closed and logic.restarts_in_s() is None and any(_opens(plant, tank) for tank in range(len(plant.valves))):
            yield 0.0
        if closed and out > 0.0 and plant.pressure_pa > 0.0:
            falls = out / plant.stores(plant.pressure_pa, math.inf)
            over_pa = high_pa - n.restart_pressure
            if n.by_pressure and over_pa > 0.0:
                yield NEAR * over_pa / falls
        return
    if n.by_pressure and logic.filling:
        climbs = max(plant.climbs_pas, *(_climbs_pas(plant, tank) for tank in range(len(plant.valves))))
        if climbs > 0.0:
            yield NEAR * max(0.0, n.stop_pressure - pressure_pa) / climbs
    if (Hold.SENSOR, 0) in logic.holds:
        yield 0.0
