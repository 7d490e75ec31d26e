"""The lift stations of Kestrel Point: their facts as typed, and what was done on their benches."""

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


SEAL_CLINIC = {
    "visit.purpose": "New controller for three pumps",
    "visit.site_contact": "Dr. Ilse Marrow, seal clinic",
    "visit.controls_off": "yes",
    "visit.entry": "permit_held",
    "visit.hazards": "Chlorine store next door. Wash-down hose may fill the well without warning.",
    "well.shape": "benched",
    "well.diameter_m": "2.60",
    "well.floor_diameter_m": "1.40",
    "well.benching_m": "0.60",
    "well.depth_m": "5.80",
    "well.intake_m": "0.22",
    "well.lost_share": "4",
    "inlet.invert_m": "3.40",
    "inlet.overflow_m": "5.10",
    "inflow.min_m3s": "1.2",
    "inflow.mean_m3s": "4.5",
    "inflow.peak_m3s": "19",
    "main.outlet_m": "14.2",
    "main.length_m": "310",
    "main.diameter_m": "132",
    "main.hazen_williams_c": "140",
    "main.minor_k": "14",
    "pumping.count": "3",
    "control.kind": "pump_controller",
    "control.level_by": "sensor_and_floats",
    "control.floats": "2",
    "control.swing_m": "0.12",
    "control.starting_s": "1.5",
    "control.phase_monitor": "yes",
    "control.seal_probes": "yes",
    "drives.fitted": "yes",
    "drives.rated_hz": "50",
    "drives.least_hz": "30",
    "drives.ramp_s": "6",
    "pump_1.curve.0.flow_m3s": "0",
    "pump_1.curve.0.head_m": "24",
    "pump_1.curve.1.flow_m3s": "6",
    "pump_1.curve.1.head_m": "21.9",
    "pump_1.curve.2.flow_m3s": "12",
    "pump_1.curve.2.head_m": "18.2",
    "pump_1.curve.3.flow_m3s": "18",
    "pump_1.curve.3.head_m": "12.9",
    "pump_1.min_submergence_m": "0.30",
    "pump_1.bell_diameter_m": "150",
    "pump_1.starts_per_hour": "12",
    "pump_1.rated_voltage_v": "400",
    "pump_1.rated_current_a": "9.6",
    "pump_1.rated_power_w": "4.5",
    "sensor.mounting_m": "0.12",
    "sensor.range_given_as": "pressure",
    "sensor.range_pa": "0.6",
    "sensor.density_kgm3": "1005",
    "sensor.noise_m": "0.015",
    "demands.starts_per_hour": "10",
    "demands.response_s": "12",
    "demands.low_float": "yes",
    "as_found.stop_m": "0.55",
    "as_found.start_1_m": "1.00",
    "as_found.start_2_m": "1.20",
    "as_found.high_alarm_m": "2.60",
    "as_found.notes": "Third pump was never called: its start level stood above the overflow.",
}
# the same clinic if the new sewer came in lower: stop and starts no longer fit under the inlet
SHALLOW = {**SEAL_CLINIC, "visit.purpose": "Study: new sewer 2.3 m lower", "inlet.invert_m": "1.10"}


CLINIC_CHOICES = {"schools.speed_mode": "by_level", "schools.alarm_reset": "by_hand"}

SENSOR_DRIFTS = (
    {"at_s": 0.0, "kind": "inflow", "target": "", "value": 0.006},
    {"at_s": 300.0, "kind": "drift", "target": "", "value": 1.0},
)


LOOP_OPENS = (
    {"at_s": 0.0, "kind": "inflow", "target": "", "value": 0.0058},
    {"at_s": 600.0, "kind": "loop_open", "target": "", "value": 1.0},
    {"at_s": 900.0, "kind": "loop_open", "target": "", "value": 0.0},
)


SLIPWAY_DRAWDOWN = [
    {
        "before": {"from_m": 1.00, "to_m": 1.10, "time_s": 121.0},
        "pumping": {"from_m": 1.10, "to_m": 0.80, "time_s": down_s},
        "after": {"from_m": 0.80, "to_m": 0.90, "time_s": 118.5},
    }
    for down_s in (127.4, 125.9, 128.8)
]
