"""What a person in front of a booster set can see: gauges, display, pumps with their speeds and currents, lamps."""

from collections.abc import Iterator

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.alarms import Cause
from goodbalance.core.control.trips import Trip
from goodbalance.core.rehearsal.troubles import Sign
from goodbalance.core.stations.booster.bench.rehearse import BoosterBench
from goodbalance.core.stations.booster.names import Alarm, Mode
from goodbalance.core.stations.booster.survey.control import SuctionBy
from goodbalance.core.stations.shared.supply import supply_signs

GAUGES, DISPLAY, SUPPLY, LAMPS = "The gauges", "The display", "The mains", "Lamps and alarms"
TRIPS = {
    Trip.OVERLOAD: "Its overload has tripped: flag or button at the starter, or the drive says so", Trip.DRIVE: "Its drive says that it has tripped otherwise",
    Trip.NO_PRIME: "It moved no water: so the controller says",
}  # fmt: skip
NEAR_PA = 1e4  # two people at a gauge
LIKE_PA = 4e4  # so far the same happens at another pressure, for nobody knows how much is drawn
NEAR_SPEED = 0.03
NEAR_SHARE, LEAST_A = 0.05, 0.2  # two people at a clamp meter
MOVES_SHARE = 0.02  # of the design flow: less passes unheard


def signs(bench: BoosterBench) -> tuple[Sign, ...]:
    """In the order in which they are asked; always the same ones of one station."""
    return (*_water(bench), *_pumps(bench), *_lamps(bench))


def _water(bench: BoosterBench) -> Iterator[Sign]:
    plant, logic = bench.plant, bench.logic
    yield Sign("pressure", GAUGES, "Pressure on the gauge", plant.pressure_pa, Q.PRESSURE, LIKE_PA)
    yield Sign("suction", GAUGES, "Suction pressure on the gauge", plant.inlet_pa, Q.PRESSURE, NEAR_PA)
    yield Sign("flows", GAUGES, "Water is drawn", float(plant.flow_m3s > MOVES_SHARE * bench.survey.demand.design_m3s))
    seen = bench.seen
    shown = seen is not None and seen.pressure_pa is not None and logic.power
    shown_pa = bench.read_pa if shown else None
    yield Sign("display", DISPLAY, "Pressure on the display", shown_pa, Q.PRESSURE, LIKE_PA)
    off_pa = None if shown_pa is None else shown_pa - plant.pressure_pa
    yield Sign("off", DISPLAY, "The display over the gauge", off_pa, Q.PRESSURE, NEAR_PA, between=("display", "pressure"))
    yield Sign("supply", DISPLAY, "The controller has supply", float(logic.power))
    yield from supply_signs(SUPPLY, bench.supply, bench.faults.parts, logic.power)
    yield Sign("asleep", DISPLAY, "It says that it rests", float(logic.power and logic.mode is Mode.ASLEEP and not logic.stopped))
    yield Sign("stopped", DISPLAY, "It says that it is stopped", float(logic.power and bool(logic.stopped)))


def _pumps(bench: BoosterBench) -> Iterator[Sign]:
    logic, driven = bench.logic, bench.survey.has_drives
    for pump, watch in enumerate(bench.motors.watches):
        place, number = f"Pump {pump + 1}", pump + 1
        runs = pump in bench.running
        yield Sign(f"runs.{number}", place, "It is switched on: its starter pulled in, or its drive running", float(runs))
        if driven:
            yield Sign(f"speed.{number}", place, "Its speed", bench.plant.speeds[pump], Q.PERCENT, NEAR_SPEED)
        leads_a = watch.leads_a() if runs else (0.0,) * watch.plate.phases.leads
        yield Sign(f"current.{number}", place, "Its current, on the lead that carries most", max(leads_a), Q.CURRENT, LEAST_A, NEAR_SHARE)
        if len(leads_a) > 1:
            yield Sign(f"lead_low.{number}", place, "The same on the lead that carries least", min(leads_a), Q.CURRENT, LEAST_A, NEAR_SHARE)
        yield Sign(f"tripped.{number}", place, "It is given up: tripped, waits for a person", float(logic.tripped[pump] is not None))
        for trip, label in TRIPS.items():
            yield Sign(f"{trip.name.lower()}.{number}", place, label, float(logic.tripped[pump] is trip))


def _lamps(bench: BoosterBench) -> Iterator[Sign]:
    up = bench.alarms.lamps if bench.logic.power else {}
    words = {
        Alarm.SENSOR: "Pressure sensor", **({Alarm.LOW_SUCTION: "Lack of water"} if bench.suction_by is not SuctionBy.NONE else {}), **({Alarm.LOW_WATER: "Low water, before it stops"} if bench.water is not None and bench.water.switch.alarm_pa is not None else {}), Alarm.HIGH: "High pressure",
        Alarm.BURST: "Run-out, a burst", Alarm.FILL: "Pipes do not fill", Alarm.PHASE: "Phases", Alarm.CLOSED: "Ran against closed outlets", Alarm.STARTS: "Too many starts",
        **({Alarm.WAITS: "It waits for a person after a power cut"} if bench.logic.numbers.waits_after else {}),
    }  # fmt: skip
    if bench.survey.remote is not None:
        words[Alarm.REMOTE] = "Remote sensor"
    for alarm, label in words.items():
        yield Sign(f"alarm.{alarm}", LAMPS, label, float(Cause(alarm) in up))
    for pump in range(1, len(bench.motors.watches) + 1):
        for alarm, label in ((Alarm.PUMP, "failed"), (Alarm.LONG, "ran too long")):
            yield Sign(f"alarm.{alarm}.{pump}", LAMPS, f"Pump {pump} {label}", float(Cause(alarm, pump) in up))
