"""What a person in front of a maintenance pump can see: gauge, display, pump with its current, main pumps, lamps."""

from collections.abc import Iterator

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.alarms import Cause
from goodbalance.core.control.trips import Trip
from goodbalance.core.rehearsal.troubles import Sign
from goodbalance.core.stations.maintenance.bench.rehearse import MaintenanceBench
from goodbalance.core.stations.maintenance.names import Alarm, State
from goodbalance.core.stations.shared.supply import supply_signs

GAUGES, DISPLAY, PUMP, SUPPLY, MAINS, LAMPS = "The gauge", "The display", "The maintenance pump", "The supply of current", "Main pumps", "Lamps and alarms"
NEAR_PA, LIKE_PA = 1e4, 6e4  # two people at a gauge; so far the same happens at another pressure
NEAR_SHARE, LEAST_A = 0.05, 0.2  # two people at a clamp meter


def signs(bench: MaintenanceBench) -> tuple[Sign, ...]:
    """In the order in which they are asked; always the same ones of one station."""
    return (*_line(bench), *_pump(bench), *_lamps(bench))


def _line(bench: MaintenanceBench) -> Iterator[Sign]:
    plant, logic = bench.plant, bench.logic
    yield Sign("pressure", GAUGES, "Pressure on the gauge", plant.pressure_pa, Q.PRESSURE, LIKE_PA)
    shown_pa = bench.read_pa if logic.power and not bench.failed else None
    yield Sign("display", DISPLAY, "Pressure on the display", shown_pa, Q.PRESSURE, LIKE_PA)
    yield Sign("off", DISPLAY, "The display over the gauge", None if shown_pa is None else shown_pa - plant.pressure_pa, Q.PRESSURE, NEAR_PA, between=("display", "pressure"))
    yield Sign("supply", DISPLAY, "The controller has supply", float(logic.power))
    for state, label in ((State.WAIT, "It says that its start delay counts"), (State.LEAST, "It says that a least run holds it")):
        yield Sign(f"state.{state}", DISPLAY, label, float(logic.power and logic.state is state))
    yield Sign("mains", MAINS, "A main pump runs", float(bool(plant.mains)))
    yield from supply_signs(SUPPLY, bench.supply, bench.faults.parts, logic.power)


def _pump(bench: MaintenanceBench) -> Iterator[Sign]:
    watch, runs = bench.motors.watches[0], bool(bench.running)
    yield Sign("runs.1", PUMP, "Its starter has pulled in", float(runs))
    leads_a = watch.leads_a() if runs else (0.0,) * watch.plate.phases.leads
    yield Sign("current.1", PUMP, "Its current, on the lead that carries most", max(leads_a), Q.CURRENT, LEAST_A, NEAR_SHARE)
    if len(leads_a) > 1:
        yield Sign("lead_low.1", PUMP, "The same on the lead that carries least", min(leads_a), Q.CURRENT, LEAST_A, NEAR_SHARE)
    yield Sign("tripped.1", PUMP, "It is given up: tripped, waits for a person", float(bench.logic.trip is not None))
    yield Sign("overload.1", PUMP, "Its overload has tripped: flag or button at the starter", float(bench.logic.trip is Trip.OVERLOAD))


def _lamps(bench: MaintenanceBench) -> Iterator[Sign]:
    up = bench.alarms.lamps if bench.logic.power else {}
    words = {
        Alarm.SENSOR: "Pressure sensor", Alarm.LONG: "Runs too long", Alarm.NOT_AUTO: "Not in AUTO", Alarm.PHASE: "Phases", Alarm.PUMP: "Pump failed",
        **({Alarm.WAITS: "It waits for a person after a power cut"} if bench.logic.numbers.waits_after else {}),
    }  # fmt: skip
    for alarm, label in words.items():
        yield Sign(f"alarm.{alarm}", LAMPS, label, float(Cause(alarm, 1 if alarm is Alarm.PUMP else 0) in up))
