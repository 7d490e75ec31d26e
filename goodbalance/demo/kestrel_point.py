"""Kestrel Point: its people and stations, written into the records as its people would have typed them."""

from sqlalchemy.orm import Session

from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.demo.aquarium import AQUARIUM, AQUARIUM_CHOICES, finish
from goodbalance.demo.job import Job
from goodbalance.demo.lifts import (
    CLINIC_CHOICES,
    LOOP_OPENS,
    SEAL_CLINIC,
    SENSOR_DRIFTS,
    SHALLOW,
    SLIPWAY,
    SLIPWAY_DRAWDOWN,
)
from goodbalance.store import people
from goodbalance.store.people import Role

PASSWORD = "tideline"
TECHNICIAN = "Iris Vane"
LEAD = "Tomas Reld"


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
    clinic.take_trend("clinic-before-visit.csv", clogged="3")
    clinic.check_scaling([(0.62, 0.66), (1.40, 1.43), (2.55, 2.56)], "level stick, last checked in spring")
    clinic.prove_on_bench()
    clinic.read_back(14)
    clinic.keep_run("Sensor drifts: the high float calls, and puts the sensor out", SENSOR_DRIFTS, 9000.0)
    slipway = Job(session, LIFT, TECHNICIAN, "Slipway sump", "Kestrel Point, boat slip", SLIPWAY)
    slipway.keep_run("Sensor loop opens at peak inflow", LOOP_OPENS, 1500.0)
    slipway.draw_down(1, SLIPWAY_DRAWDOWN)
    slipway.read_back(9)
    slipway.observe("up_low_cut_out", off=0.01)
    slipway.observe("up_low_alarm", off=0.02, note="wobbles with the wash of the ferry")
    slipway.observe("up_stop", off=-0.01)
    slipway.observe("up_start_1", off=0.09, note="relay 2 came late")
    slipway.open_point("Alarm lamp dark although the lamp is good: look for the relay socket")
    aquarium = Job(
        session, BOOSTER, TECHNICIAN, "Aquarium booster", "Kestrel Point, aquarium", AQUARIUM, AQUARIUM_CHOICES
    )
    finish(aquarium, LEAD)
    return how
