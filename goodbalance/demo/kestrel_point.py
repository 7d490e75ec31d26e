"""Kestrel Point: its people and stations, written into the records as its people would have typed them."""

from sqlalchemy.orm import Session

from goodbalance.core.protection.readings import At
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.circulator.kind import CIRCULATOR
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.maintenance.kind import MAINTENANCE
from goodbalance.core.stations.transfer.kind import TRANSFER
from goodbalance.demo import bunkhouse, pier
from goodbalance.demo.aquarium import AQUARIUM, AQUARIUM_CHOICES, finish
from goodbalance.demo.brine import BRINE, BRINE_CHOICES, STUCK_VALVE
from goodbalance.demo.job import Job
from goodbalance.demo.lifts import (
    CLINIC_CHOICES,
    FOAM,
    SEAL_CLINIC,
    SHALLOW,
    SLIPWAY,
    SLIPWAY_CHOICES,
    SLIPWAY_DRAWDOWN,
    SMALL_PUMP_TRIPS,
)
from goodbalance.store import people
from goodbalance.store.people import Role

PASSWORD = "brine kelp saltglass"
TECHNICIAN = "Runa Tessel"
LEAD = "Aldo Fenwhistle"


FIRST_READ = {
    "insulation.1": {"insulation": 180.0, "earth": 0.08}, "insulation.2": {"insulation": 95.0, "earth": 0.11},
    "supply": {"volts_1": 401.0, "volts_2": 403.0, "volts_3": 400.0},
    "loaded.1": {"volts_1": 397.0, "volts_2": 400.0, "volts_3": 398.0},
}  # fmt: skip


def load_demo(session: Session) -> str:
    """Make people and stations if there is nobody yet. Returns how to sign in."""
    how = f"{TECHNICIAN!r} or {LEAD!r} with the password {PASSWORD!r}"
    if not people.nobody_yet(session):
        return how
    people.add_person(session, LEAD, Role.LEAD, PASSWORD)
    people.add_person(session, TECHNICIAN, Role.TECHNICIAN, PASSWORD)
    Job(session, LIFT, TECHNICIAN, "Seal clinic lift, lower sewer", "Kestrel Point, seal clinic", SHALLOW)
    clinic = Job(
        session, LIFT, TECHNICIAN, "Seal clinic lift", "Kestrel Point, seal clinic", SEAL_CLINIC, CLINIC_CHOICES
    )
    clinic.take_trend("clinic-before-the-fourth-pump.csv", clogged="2", pumps=3)
    clinic.check_scaling([(0.80, 0.83), (1.90, 1.91), (3.10, 3.08)], "folding rule from the cover frame")
    clinic.prove_on_bench()
    clinic.read_back(23)
    clinic.keep_run("Foam under the sensor: a false echo while much flows in", FOAM, 7200.0)
    slipway = Job(session, LIFT, TECHNICIAN, "Slipway sump", "Kestrel Point, boat slip", SLIPWAY, SLIPWAY_CHOICES)
    slipway.keep_run("The small pump trips in a wash of boats", SMALL_PUMP_TRIPS, 2100.0)
    slipway.draw_down(1, SLIPWAY_DRAWDOWN)
    slipway.read_motor(1, At.CLOSED, (2.08, 2.15, 2.05), (398.0, 401.0, 399.0), "ring meter of the slip, looked at in spring")
    slipway.read_motor(1, At.NORMAL, (2.58, 2.66, 2.61))
    slipway.read_motor(2, At.NORMAL, (4.52, 4.61, 4.83), (397.0, 400.0, 398.0), "lead 3 a little warm at its terminal")
    slipway.energise(13, FIRST_READ, {"rotation.1": "it turned against its arrow; leads 1 and 3 changed places"})
    slipway.walk_wiring(4, {"input.level": "6.1 mA with 0.54 m by the folding rule"})
    slipway.open_point("High alarm set 20 cm lower until the workshop has heard it; then back to what the sheet says", "setting")
    slipway.read_back(12)
    slipway.observe("up_low_alarm", off=-0.01)
    slipway.observe("up_start_1", off=0.02, note="the trailer of the pilot boat was being hosed")
    slipway.observe("up_start_2", off=0.11, note="relay 5 had taken its place")
    slipway.open_point("Seal around the new cable of pump 2 to be poured when it is dry")
    aquarium = Job(
        session, BOOSTER, TECHNICIAN, "Aquarium booster", "Kestrel Point, aquarium", AQUARIUM, AQUARIUM_CHOICES
    )
    finish(aquarium, LEAD)
    brine = Job(session, TRANSFER, TECHNICIAN, "Brine header transfer", "Kestrel Point, tank house", BRINE, BRINE_CHOICES)
    brine.keep_run("The lower header's valve sticks open while the upper one waits", STUCK_VALVE, 14400.0)
    brine.check_scaling([(0.0, 2e3), (2.63e5, 2.65e5), (3.23e5, 3.24e5)], "the two headers themselves, pumps off, one open after the other")
    brine.read_back(14)
    brine.observe("free", off=2e3)
    brine.observe("restarts", off=1.5e3, note="let down at the gauge cock, a bucket under it")
    brine.open_point("The float of the lower header scrapes at its guide: file it, then see it shut three times")
    fire = Job(session, MAINTENANCE, TECHNICIAN, "Pier fire line", "Kestrel Point, pier", pier.PIER, pier.PIER_CHOICES)
    pier.finish(fire, LEAD)
    ring = Job(session, CIRCULATOR, TECHNICIAN, "Bunkhouse ring", "Kestrel Point, bunkhouse", bunkhouse.BUNKHOUSE, bunkhouse.BUNKHOUSE_CHOICES)
    bunkhouse.finish(ring)
    return how
