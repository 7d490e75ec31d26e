"""The lift stations of Kestrel Point: their facts as typed, and what was done on their benches."""


def curve(pump: str, *points: tuple[str, str]) -> dict[str, str]:
    """A pump's head curve as typed: flow in l/s and head in m."""
    return {
        f"{pump}.curve.{row}.{name}": text
        for row, point in enumerate(points)
        for name, text in zip(("flow_m3s", "head_m"), point)
    }


SLIPWAY = {
    "visit.purpose": "A level controller in place of a burnt-out panel",
    "visit.site_contact": "Brannoc Eddy, boat slip",
    "visit.controls_off": "yes",
    "visit.hazards": "Boats are washed above the cover: water comes without warning. Spring tides reach the yard.",
    "well.shape": "rectangle",
    "well.length_m": "2.35",
    "well.width_m": "1.65",
    "well.depth_m": "3.85",
    "well.intake_m": "0.14",
    "well.second_area_m2": "1.9",  # a silt trap; the sill between them keeps its last water
    "well.joined_above_m": "0.66",
    "inlet.invert_m": "2.15",
    "inlet.overflow_m": "3.30",
    "inflow.min_m3s": "0.35",
    "inflow.mean_m3s": "1.5",
    "inflow.peak_m3s": "6.4",
    "main.outlet_m": "7.4",
    "main.length_m": "96",
    "main.diameter_m": "104",
    "main.hazen_williams_c": "125",
    "main.minor_k": "11",
    "pumping.count": "2",
    "pumping.twins": "no",
    "protection.leakage_by": "pulsed",
    "protection.leakage_a": "0.3",
    **curve("pump_1", ("0", "13.2"), ("3.1", "12.1"), ("6.3", "9.8"), ("9.9", "6.1")),
    "pump_1.min_submergence_m": "0.19",
    "pump_1.bell_diameter_m": "96",
    "pump_1.starts_per_hour": "18",
    "pump_1.rated_voltage_v": "400",
    "pump_1.rated_current_a": "2.9",
    "pump_1.rated_power_w": "1.3",
    **curve("pump_2", ("0", "16.1"), ("5.5", "14.4"), ("10.4", "11.2"), ("14.8", "7.3")),
    "pump_2.min_submergence_m": "0.26",
    "pump_2.bell_diameter_m": "128",
    "pump_2.starts_per_hour": "14",
    "pump_2.rated_voltage_v": "400",
    "pump_2.rated_current_a": "5.1",
    "pump_2.rated_power_w": "2.4",
    "control.kind": "relays_alone",
    "control.starting_s": "1.2",
    "relays.start_1": "5",  # the cable of the small pump was long enough for this one only
    "sensor.mounting_m": "0.08",
    "sensor.range_m": "3.5",
    "sensor.noise_m": "0.012",
    "demands.starts_per_hour": "9",
    "demands.response_s": "18",
    "as_found.stop_m": "0.36",
    "as_found.start_1_m": "0.74",
    "as_found.start_2_m": "0.93",
    "as_found.high_alarm_m": "1.35",
    "as_found.notes": "The panel burnt where salt had crept along the rail. The larger pump ran on a hand switch all winter.",
}
SLIPWAY_CHOICES = {"schools.stops": "own", "schools.alternation": "fixed"}
_LARGE = {
    "min_submergence_m": "0.34",
    "bell_diameter_m": "165",
    "starts_per_hour": "11",
    "rated_voltage_v": "400",
    "rated_current_a": "11.8",
    "rated_power_w": "5.6",
}
SEAL_CLINIC = {
    "visit.purpose": "Fourth pump and drives; a sensor that hangs clear of fat and hair",
    "visit.site_contact": "Sefa Holmlin, seal clinic",
    "visit.controls_off": "yes",
    "visit.entry": "permit_held",
    "visit.hazards": "Disinfectant drains into the well after each patient. The pool is let down on Mondays.",
    "well.shape": "benched",
    "well.diameter_m": "2.90",
    "well.floor_diameter_m": "1.70",
    "well.benching_m": "0.50",
    "well.depth_m": "6.40",
    "well.intake_m": "0.16",
    "well.lost_share": "6",
    "inlet.invert_m": "3.75",
    "inlet.overflow_m": "5.55",
    "inflow.min_m3s": "0.8",
    "inflow.mean_m3s": "3.7",
    "inflow.peak_m3s": "26",
    "main.outlet_m": "12.6",
    "main.length_m": "265",
    "main.diameter_m": "148",
    "main.hazen_williams_c": "135",
    "main.minor_k": "17",
    "pumping.count": "4",
    "pumping.twins": "no",
    "pumping.arrangement": "small_first",
    "control.kind": "pump_controller",
    "control.level_by": "sensor_and_floats",
    "control.floats": "1",
    "control.swing_m": "0.14",
    "control.starting_s": "1.8",
    "control.phase_monitor": "yes",
    "control.seal_probes": "yes",
    "protection.winding_by": "contact",
    "drives.fitted": "yes",
    "drives.rated_hz": "50",
    "drives.least_hz": "28",
    "drives.ramp_s": "7",
    **curve("pump_1", ("0", "22.7"), ("5.4", "21.1"), ("11.2", "17.3"), ("17.3", "10.9")),
    "pump_1.min_submergence_m": "0.28",
    "pump_1.bell_diameter_m": "125",
    "pump_1.starts_per_hour": "16",
    "pump_1.rated_voltage_v": "400",
    "pump_1.rated_current_a": "8.3",
    "pump_1.rated_power_w": "3.9",
    **{
        path: text
        for pump in ("pump_2", "pump_3", "pump_4")
        for path, text in {
            **curve(pump, ("0", "24.9"), ("7.1", "23.0"), ("14.6", "18.6"), ("22.4", "11.3")),
            **{f"{pump}.{name}": value for name, value in _LARGE.items()},
        }.items()
    },
    "sensor.kind": "look_down",
    "sensor.face_m": "6.10",
    "sensor.blanking_m": "0.35",
    "sensor.far_m": "6.00",
    "sensor.noise_m": "0.02",
    "demands.starts_per_hour": "8",
    "demands.response_s": "6",
    "demands.low_float": "yes",
    "as_found.stop_m": "0.62",
    "as_found.start_1_m": "1.05",
    "as_found.start_2_m": "1.55",
    "as_found.high_alarm_m": "3.20",
    "as_found.notes": "The old sensor lay in fat and read what it liked. The high float was tied up out of the way.",
}
# the same clinic if the new sewer came in lower: stop and starts no longer fit under the inlet
SHALLOW = {**SEAL_CLINIC, "visit.purpose": "Study: new sewer 2.4 m lower", "inlet.invert_m": "1.35"}
CLINIC_CHOICES = {"schools.speed_mode": "by_level", "schools.alarm_reset": "by_hand"}

FOAM = (  # a false echo, while much flows in
    {"at_s": 0.0, "kind": "inflow", "target": "", "value": 0.009},
    {"at_s": 420.0, "kind": "echo", "target": "", "value": 1.0},
)
SMALL_PUMP_TRIPS = (
    {"at_s": 0.0, "kind": "inflow", "target": "", "value": 0.0034},
    {"at_s": 700.0, "kind": "overload", "target": "1", "value": 1.0},
)
SLIPWAY_DRAWDOWN = [
    {
        "before": {"from_m": 0.86, "to_m": 0.94, "time_s": 427.0},
        "pumping": {"from_m": 0.94, "to_m": 0.72, "time_s": down_s},
        "after": {"from_m": 0.72, "to_m": 0.80, "time_s": 431.5},
    }
    for down_s in (194.3, 197.6, 195.2)
]
