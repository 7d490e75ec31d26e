"""What a person in front of a transfer set can see: gauge, display, tanks, sources, pumps with their currents, lamps."""

from collections.abc import Iterator

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.alarms import Cause
from goodbalance.core.control.trips import Trip
from goodbalance.core.rehearsal.troubles import Sign
from goodbalance.core.stations.shared.supply import supply_signs
from goodbalance.core.stations.transfer.bench.rehearse import TransferBench
from goodbalance.core.stations.transfer.names import Alarm, State
from goodbalance.core.stations.transfer.survey.control import SourceBy

GAUGES, DISPLAY, TANKS, SUPPLY, LAMPS = "The gauge", "The display", "Tanks and sources", "The mains", "Lamps and alarms"
NEAR_PA, LIKE_PA, NEAR_M = 1e4, 4e4, 0.05  # two people at a gauge; so far the same happens at another pressure; two people with a tape
NEAR_SHARE, LEAST_A = 0.05, 0.2  # two people at a clamp meter
MOVES_M3S = 2e-5  # less passes unheard


def signs(bench: TransferBench) -> tuple[Sign, ...]:
    """In the order in which they are asked; always the same ones of one station."""
    return (*_water(bench), *_pumps(bench), *_lamps(bench))


def _water(bench: TransferBench) -> Iterator[Sign]:
    plant, logic = bench.plant, bench.logic
    yield Sign("pressure", GAUGES, "Pressure on the gauge", bench.pressure_pa, Q.PRESSURE, LIKE_PA)
    if bench.survey.control.by_pressure:
        shown_pa = bench.read_pa if logic.power and bench.seen is not None and bench.seen.pressure_pa is not None else None
        yield Sign("display", DISPLAY, "Pressure on the display", shown_pa, Q.PRESSURE, LIKE_PA)
        off_pa = None if shown_pa is None else shown_pa - bench.pressure_pa
        yield Sign("off", DISPLAY, "The display over the gauge", off_pa, Q.PRESSURE, NEAR_PA, between=("display", "pressure"))
    yield Sign("supply", DISPLAY, "The controller has supply", float(logic.power))
    for state, label in ((State.WAIT, "It says that a delay counts"), (State.LOCKED, "It says that it is locked out")):
        yield Sign(f"state.{state}", DISPLAY, label, float(logic.power and logic.state is state))
    for tank, level in enumerate(plant.levels_m):
        yield Sign(f"level.{tank + 1}", TANKS, f"Level of {bench.survey.tank_name(tank + 1)}", level, Q.LEVEL, NEAR_M)
        yield Sign(f"comes.{tank + 1}", TANKS, f"Water comes into {bench.survey.tank_name(tank + 1)}", float(plant.filled_m3s[tank] > MOVES_M3S))
    for source, level in enumerate(plant.sources_m):
        dry = bench.plant.dry
        yield Sign(f"source.{source + 1}", TANKS, f"Level of source {source + 1}", bench.survey.sources[source].safe_m if dry else level, Q.LEVEL, NEAR_M)
    yield from supply_signs(SUPPLY, bench.supply, bench.faults.parts, logic.power)


def _pumps(bench: TransferBench) -> Iterator[Sign]:
    logic = bench.logic
    for pump, watch in enumerate(bench.motors.watches):
        place, number, runs = f"Pump {pump + 1}", pump + 1, pump in bench.running
        yield Sign(f"runs.{number}", place, "Its starter has pulled in", float(runs))
        leads_a = watch.leads_a() if runs else (0.0,) * watch.plate.phases.leads
        yield Sign(f"current.{number}", place, "Its current, on the lead that carries most", max(leads_a), Q.CURRENT, LEAST_A, NEAR_SHARE)
        if len(leads_a) > 1:
            yield Sign(f"lead_low.{number}", place, "The same on the lead that carries least", min(leads_a), Q.CURRENT, LEAST_A, NEAR_SHARE)
        yield Sign(f"tripped.{number}", place, "It is given up: tripped, waits for a person", float(logic.tripped[pump] is not None))
        yield Sign(f"overload.{number}", place, "Its overload has tripped: flag or button at the starter", float(logic.tripped[pump] is Trip.OVERLOAD))


def _lamps(bench: TransferBench) -> Iterator[Sign]:
    up, survey = bench.alarms.lamps if bench.logic.power else {}, bench.survey
    words = {
        **({Alarm.SENSOR: "Pressure sensor", Alarm.BURST: "No pressure: a burst"} if survey.control.by_pressure else {}), Alarm.LONG: "Ran too long", Alarm.PHASE: "Phases",
        **({Alarm.WAITS: "It waits for a person after a power cut"} if bench.logic.numbers.waits_after else {}),
    }  # fmt: skip
    for alarm, label in words.items():
        yield Sign(f"alarm.{alarm}", LAMPS, label, float(Cause(alarm) in up))
    numbered: list[tuple[Alarm, str, int]] = [(Alarm.PUMP, "Pump <n> failed", len(bench.starts))]
    if survey.control.source_by is not SourceBy.NONE:
        numbered.append((Alarm.SOURCE, "Lack of water in source <n>", len(survey.sources)))
    if survey.control.by_levels:
        numbered += [(Alarm.HIGH, "Tank <n> too high", survey.tanks.count), (Alarm.LOW, "Tank <n> low", survey.tanks.count), (Alarm.WIRE, "Wire to tank <n>", survey.tanks.count)]
    for alarm, label, count in numbered:
        for number in range(1, count + 1):
            yield Sign(f"alarm.{alarm}.{number}", LAMPS, label.replace("<n>", str(number)), float(Cause(alarm, number) in up))
