"""Kestrel Point: its people and stations, written into the records as its people would have typed them."""

from sqlalchemy.orm import Session

from goodbalance.core.record.chain import Kind
from goodbalance.store import people, records
from goodbalance.store.people import Role

PASSWORD = "tideline"
TECHNICIAN = "Iris Vane"
LEAD = "Tomas Reld"

SLIPWAY = {
    "visit.purpose": "Old floats replaced by a level controller",
    "visit.site_contact": "Noor Halvard, harbour office",
    "visit.controls_off": "yes",
    "visit.hazards": "Open grating beside the panel. Tide over 3.1 m floods the lower yard.",
    "well.shape": "circle",
    "well.diameter_m": "1.80",
    "well.depth_m": "4.20",
    "well.intake_m": "0.18",
    "inlet.invert_m": "2.40",
    "inlet.overflow_m": "3.70",
    "inflow.min_m3s": "0.3",
    "inflow.mean_m3s": "1.3",
    "inflow.peak_m3s": "5.8",
    "main.outlet_m": "9.6",
    "main.length_m": "142",
    "main.diameter_m": "90",
    "main.hazen_williams_c": "130",
    "main.minor_k": "9",
    "pumping.count": "2",
    "pump_1.curve.0.flow_m3s": "0",
    "pump_1.curve.0.head_m": "17.4",
    "pump_1.curve.1.flow_m3s": "4",
    "pump_1.curve.1.head_m": "15.6",
    "pump_1.curve.2.flow_m3s": "8",
    "pump_1.curve.2.head_m": "12.7",
    "pump_1.curve.3.flow_m3s": "12",
    "pump_1.curve.3.head_m": "8.6",
    "pump_1.min_submergence_m": "0.22",
    "pump_1.bell_diameter_m": "110",
    "pump_1.starts_per_hour": "15",
    "pump_1.rated_voltage_v": "400",
    "pump_1.rated_current_a": "4.7",
    "pump_1.rated_power_w": "2.2",
    "sensor.mounting_m": "0.10",
    "sensor.range_m": "4",
    "sensor.noise_m": "0.01",
    "demands.starts_per_hour": "10",
    "demands.response_s": "15",
    "as_found.stop_m": "0.45",
    "as_found.start_1_m": "0.80",
    "as_found.start_2_m": "1.10",
    "as_found.high_alarm_m": "1.60",
    "as_found.notes": "Assist float tangled in the lifting chain. Alarm lamp dark, lamp itself is good.",
}


def load_demo(session: Session) -> str:
    """Make people and stations if there is nobody yet. Returns how to sign in."""
    how = f"{TECHNICIAN!r} or {LEAD!r} with the password {PASSWORD!r}"
    if not people.nobody_yet(session):
        return how
    people.add_person(session, LEAD, Role.LEAD, PASSWORD)
    people.add_person(session, TECHNICIAN, Role.TECHNICIAN, PASSWORD)
    row = records.create_station(session, "Slipway sump", "Kestrel Point, boat slip", "lift", TECHNICIAN)
    _write_facts(session, row.id, SLIPWAY)
    return how


def _write_facts(session: Session, station_id: int, facts: dict[str, str]) -> None:
    """The facts section by section, as a technician fills them in."""
    groups: dict[str, dict[str, dict[str, str]]] = {}
    for path, text in facts.items():
        groups.setdefault(path.split(".")[0], {})[path] = {"text": text, "units": "metric"}
    for changes in groups.values():
        records.append(session, station_id, Kind.FACTS, {"changes": changes}, TECHNICIAN)
