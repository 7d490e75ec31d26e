"""The Pier fire line of Kestrel Point: a maintenance pump on the common header of two zones with two main pumps; finished and signed."""

from goodbalance.core.balance.proof import Answer
from goodbalance.core.protection.readings import At
from goodbalance.core.record.chain import Kind
from goodbalance.demo.job import Job

PIER_CHOICES = {"rules.differential_pa": "0.7", "rules.least_run_s": "60"}
DRIPPING_HYDRANT = (
    {"at_s": 30.0, "kind": "bleed", "target": "", "value": 4e-6},
    {"at_s": 900.0, "kind": "bleed", "target": "", "value": 0.0},
    {"at_s": 1800.0, "kind": "sprinklers", "target": "", "value": 1.0},
    {"at_s": 1860.0, "kind": "sprinklers", "target": "", "value": 0.0},
    {"at_s": 1920.0, "kind": "mains_off", "target": "", "value": 1.0},
)
CURVE = (  # l/s, m, kW
    ("0", "118.0", "0.92"),
    ("0.25", "115.2", "1.07"),
    ("0.50", "107.5", "1.24"),
    ("0.75", "94.4", "1.41"),
    ("1.00", "76.3", "1.54"),
)
PIER = {
    "visit.purpose": "The main pump started twice this autumn though nothing burned; the start of the maintenance pump had crept down to it",
    "visit.site_contact": "Odile Harrow, harbour guard",
    "visit.controls_off": "yes",
    "visit.hazards": "Pump room under the pier, wet floor at spring tide. The zone of the fish hall is never drained while people cook.",
    "authority.licensed": "Isbrand Keel",
    "authority.rule": "fire rule of the harbour, sheet 9",
    "authority.receiver_told": "yes",
    "authority.impaired": "yes",
    "authority.notes": "Told at the harbour guard's desk before the first cock; two people with hose lines on the planks meanwhile.",
    "suction.low_pa": "1.6",
    "suction.high_pa": "2.4",
    "mains.count": "2",
    "mains.churn_pa": "7.2",
    "mains.start_1_pa": "7.4",
    "mains.start_2_pa": "6.6",
    "line.volume_m3": "3.4",
    "line.wave_ms": "1100",
    "line.lowest_m": "0.8",
    "line.rating_pa": "16",
    "line.leak_m3s": "0.03",
    "line.permitted_m3s": "0.25",
    "line.sprinkler_m3s": "0.95",
    "line.sprinkler_pa": "0.5",
    "line.temperature_c": "11",
    "line.altitude_m": "3",
    "pumping.starts_per_hour": "15",
    "motor.rated_voltage_v": "400",
    "motor.rated_current_a": "3.3",
    "motor.rated_power_w": "1.5",
    "motor.power_factor": "0.82",
    "sensor.height_m": "3.2",
    "sensor.range_pa": "16",
    "sensor.noise_pa": "0.01",
    "sensor.error_share": "0.25",
    "sensor.filter_s": "0.3",
    "sensor.scan_s": "0.2",
    "sensor.run_down_s": "0.4",
    "control.phase_monitor": "yes",
    "as_found.stop_pressure": "8.9",
    "as_found.start_pressure": "7.5",
    "as_found.on_delay": "6",
    "as_found.least_run": "0",
    "as_found.notes": "It ran for seconds, forty times in an hour; the gauge at the header jumped like a fish.",
} | {
    f"pumping.curve.{row}.{name}": text
    for row, points in enumerate(CURVE)
    for name, text in zip(("flow_m3s", "head_m", "power_w"), points)
}
OFF = {"starts": -2e3, "stops": 3e3, "least_run": 1.0, "on_delay": 0.3, "long_run": 4.0}
FIRST_READ = {
    "insulation.1": {"insulation": 240.0, "earth": 0.06}, "supply": {"volts_1": 400.0, "volts_2": 402.0, "volts_3": 401.0},
    "loaded.1": {"volts_1": 398.0, "volts_2": 400.0, "volts_3": 399.0}, "currents.1": {"amps_1": 2.84, "amps_2": 2.91, "amps_3": 2.88},
}  # fmt: skip


def finish(job: Job, lead: str) -> None:
    """Wiring, rehearsal, keypad, proofs with the licensed person's words, signature."""
    job.walk_wiring(None, {"input.line": "4.00 mA with the cock shut and vented"})
    job.read_motor(1, At.CLOSED, (2.24, 2.31, 2.27), (399.0, 401.0, 400.0), "against the closed line, while the least run held it")
    job.energise(99, FIRST_READ, {})
    job.keep_run("A hydrant drips, then one sprinkler opens in the fish hall", DRIPPING_HYDRANT, 3600.0)
    job.check_scaling([(0.0, 0.0), (8e5, 8.02e5), (12e5, 11.99e5)], "reference gauge of the fire workshop on the test cock")
    job.read_back()
    job.write(Kind.STORED, {"shown": job.profile.save_shows})
    for proof in job.kind.proofs(job.survey, job.choices, job.plan):
        if proof.answer is Answer.NUMBER:
            job.observe(proof.id, OFF.get(proof.id, 0.0), note="run by Isbrand Keel, witnessed" if proof.check == "witness" else "")
        else:
            job.observation(proof, "yes", "real_water", "receiver told 8:10, ended 11:45, by Isbrand Keel" if proof.check in ("told", "auto") else "", "passed")
    statement = "Entered, read back and proved as written here, under the eyes of a licensed person; what is open is listed as open."
    job.write(Kind.SIGNATURE, {"name": lead, "role": "lead technician", "statement": statement}, author=lead)
