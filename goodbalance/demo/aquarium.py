"""The Aquarium booster of Kestrel Point: four pumps, one of them standby, a sensor far off, a night pressure; signed."""

import math

import numpy as np

from goodbalance.core.balance.proof import Answer
from goodbalance.core.control.identification import fit_step
from goodbalance.core.record.chain import Kind
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.plant.loop_model import DRIVE_LAG_S
from goodbalance.core.stations.booster.plant.zone import BoosterPlant
from goodbalance.demo.job import Job

CURVE = (  # l/s, m, NPSH m, kW
    ("0", "61.2", "1.2", "0.87"),
    ("0.9", "59.3", "1.3", "1.22"),
    ("1.8", "53.4", "1.7", "1.68"),
    ("2.6", "44.7", "2.4", "1.97"),
    ("3.2", "36.2", "3.2", "2.10"),
    ("3.7", "27.8", "4.1", "2.18"),
)
AQUARIUM = {
    "visit.purpose": "Fourth pump as standby, and a sensor in the upper hall",
    "visit.site_contact": "Ottoline Graw, life support",
    "visit.controls_off": "yes",
    "visit.hazards": "Salt crust on the cable trays. The ray pool may be without water for forty minutes, not longer.",
    "control.kind": "constant",
    "control.device": "wall_drive",
    "control.flow_switch": "yes",
    "control.flow_switch_m3s": "0.14",
    "control.phase_monitor": "yes",
    "protection.monitor": "voltages",
    "protection.high_voltage": "104",
    "protection.settles_s": "12",
    "protection.winding_by": "contact",
    "control.remote": "yes",
    "supply.kind": "flooded",
    "supply.pump_m": "4.6",
    "supply.water_low_m": "6.3",
    "supply.water_high_m": "7.6",
    "supply.loss_pa": "0.03",
    "supply.outlet_m": "4.9",
    "supply.outlet_diameter_m": "125",
    "suction_sensor.low_pa": "-1",
    "suction_sensor.high_pa": "2",
    "suction_sensor.noise_pa": "0.003",
    "supply.temperature_c": "17",
    "supply.altitude_m": "5",
    "outlets.sensor_m": "5.1",
    "outlets.worst_m": "23.8",
    "outlets.lowest_m": "3.4",
    "outlets.top_m": "25.6",
    "outlets.residual_pa": "0.9",
    "outlets.permitted_pa": "6.5",
    "outlets.length_m": "118",
    "outlets.diameter_m": "80",
    "outlets.hazen_williams_c": "140",
    "outlets.minor_k": "21",
    "demand.least_m3s": "0.3",
    "demand.mean_m3s": "2.3",
    "demand.design_m3s": "7.6",
    "pumping.count": "4",
    "pumping.standby": "yes",
    "pumping.starts_per_hour": "22",
    "pumping.least_flow_m3s": "0.16",
    "motor.rated_voltage_v": "400",
    "motor.rated_current_a": "4.6",
    "motor.rated_power_w": "2.2",
    "motor.power_factor": "0.86",
    "motor.rated_hz": "50",
    "motor.rated_rpm": "2910",
    "motor.least_hz": "18",
    "motor.ramp_s": "2",
    "motor.generator": "yes",
    "motor.generator_va": "11",
    "motor.start_factor": "1.4",
    "vessel.volume_m3": "0.13",
    "vessel.precharge_found_pa": "1.1",
    "vessel.rating_pa": "10",
    "vessel.relief_pa": "8",
    "sensor.range_pa": "10",
    "sensor.noise_pa": "0.012",
    "remote.height_m": "24.1",
    "remote.range_pa": "4",
    "as_found.set_pressure": "4.6",
    "as_found.restart": "4.4",
    "as_found.notes": "The old set knew nothing of the upper hall: full pressure all night, and too little there on open days.",
} | {
    f"pumping.curve.{row}.{name}": text
    for row, points in enumerate(CURVE)
    for name, text in zip(("flow_m3s", "head_m", "npsh_m", "power_w"), points)
}
AQUARIUM_CHOICES = {
    "schools.no_flow": "flow",
    "schools.night": "yes",
    "rules.night_residual_pa": "0.7",
    "rules.settle_s": "40",  # the tank makes the set calm: with 30 s no gain suits the whole doubt of the step test
}

HALL_GOES_BLIND = (  # the far sensor's cable is cut, then pump 2 trips, then the cistern is shut for a while
    {"at_s": 10.0, "kind": "outlets", "target": "", "value": 0.55},
    {"at_s": 80.0, "kind": "remote_lost", "target": "", "value": 1.0},
    {"at_s": 170.0, "kind": "trip", "target": "2", "value": 1.0},
    {"at_s": 260.0, "kind": "dry", "target": "", "value": 1.0},
    {"at_s": 305.0, "kind": "dry", "target": "", "value": 0.0},
)
SWEPT = (  # outlets, pumps, how far the speed by hand was from the reckoned one
    (0, 1, -0.003),
    (3, 1, 0.005),
    (5, 1, 0.009),
    (10, 2, -0.004),
    (15, 3, 0.006),
    (20, 3, 0.010),
)
NIGHT_PA = 3.45e5  # with less at night one pump would be called back as soon as it had left
OUTLET_M3S = 0.38e-3
OFF = {"precharge": -4e3, "holds": 2e3, "wakes": 1.5e3, "high": -6e3, "boost": -1.5e3, "night": 1.2e3}


def finish(job: Job, lead: str) -> None:
    """Sweep, step test, rehearsal, keypad, proofs, signature."""
    job.choose({"night_pressure": NIGHT_PA})
    job.walk_wiring(None, {"input.discharge": "4.01 mA with the cock shut and vented", "link.drives": "59 ohm from A to B, all off"})
    sweep_by_hand(job)
    step_test(job)
    job.keep_run("The upper hall goes blind, a pump trips, the supply stops for a while", HALL_GOES_BLIND, 480.0)
    job.check_scaling([(0.0, -1e3), (2.5e5, 2.49e5), (5.5e5, 5.51e5)], "hand pump and reference gauge of the workshop")
    trend(job)
    job.read_back()
    job.write(Kind.STORED, {"shown": job.profile.save_shows})
    for proof in job.kind.proofs(job.survey, job.choices, job.plan):
        if proof.answer is Answer.NUMBER:
            job.observe(proof.id, OFF.get(proof.id, 0.0))
        else:
            seen = "2 3 1" if proof.answer is Answer.SEQUENCE else "yes"
            job.observation(proof, seen, "real_water", "", "passed")
    job.write(
        Kind.SIGNATURE,
        {
            "name": lead,
            "role": "lead technician",
            "statement": "Entered, read back and proved as written here; what is open is listed as open.",
        },
        author=lead,
    )


def sweep_by_hand(job: Job) -> None:
    """Outlets opened one after the other, the speed that held the set pressure each time."""
    hyd, set_pa = hydraulics(job.survey), job.plan.value("set_pressure", 0.0)
    rows = []
    for outlets, pumps, off in SWEPT:
        flow = outlets * OUTLET_M3S
        suction_pa = hyd.suction_pa(flow) + 3e3
        speed = hyd.speed(hyd.added_m(set_pa, suction_pa), flow, pumps) + off
        rows.append(
            {
                "outlets": outlets,
                "pumps": pumps,
                "held": True,
                "speed": round(speed, 3),
                "pressure_pa": set_pa,
                "suction_pa": round(suction_pa),
            }
        )
    job.write(
        Kind.HAND_SWEEP, {"outlet_m3s": OUTLET_M3S, "rows": rows, "note": "reference gauge at the header, touch-pool taps one by one"}
    )


def step_trace(job: Job) -> str:
    """A step of 5 % in HAND with one pump at mean flow, as the drive's recorder wrote it."""
    survey, flow = job.survey, job.survey.demand.mean_m3s
    hyd, set_pa = hydraulics(survey), job.plan.value("set_pressure", 0.0)
    plant = BoosterPlant(hyd, job.plan.value("precharge", 0.0), set_pa, hyd.source_pa(False), lag_s=DRIVE_LAG_S)
    over_pa = set_pa - plant.outlet_pa - plant.loss_pa * flow * flow
    plant.open_share = flow / (plant.orifice * math.sqrt(over_pa))  # taps open until the mean flow is drawn
    speed = hyd.speed(hyd.added_m(set_pa, hyd.suction_pa(flow)), flow, 1)
    rng, seen, rows = np.random.default_rng(31), set_pa, []
    others = [0.0] * (survey.pumping.count - 1)
    plant.turn_at([speed, *others])
    for step in range(2400):
        now_s = step * 0.05
        told = speed if now_s < 25.0 else speed + 0.05
        plant.ramp([told, *others], [job.plan.value("ramp", 3.0)] * survey.pumping.count, 0.05)
        plant.advance(0.05)
        seen += (plant.pressure_pa - seen) * 0.05 / 0.3  # the drive's own filter
        if step % 2 == 0 and now_s <= 110.0:
            noisy = seen + rng.normal(0.0, 350.0)
            rows.append(f"{now_s:.1f},{told * 100.0:.2f},{noisy / 1e5:.4f}")
    return "\n".join(["time_s,speed_percent,pressure_bar", *rows]) + "\n"


def step_test(job: Job) -> None:
    """The step test taken in, and the gains that follow from it."""
    text = step_trace(job)
    rows = np.array([[float(cell) for cell in line.split(",")] for line in text.strip().split("\n")[1:]])
    range_pa = job.survey.sensor.range_pa
    fit = fit_step(rows[:, 0], rows[:, 1], rows[:, 2] * 1e5 / range_pa * 100.0)
    points = [{"gain": m.gain, "time_s": m.time_s, "dead_s": m.dead_s} for m in (fit.model, *fit.region)]
    model = {**points[0], "fit": fit.fit, "region": points[1:]}
    flow = job.survey.demand.mean_m3s
    body = {
        "name": "aquarium-step.csv",
        "text": text,
        "flow_m3s": flow,
        "pumps": 1,
        "range_pa": range_pa,
        "model": model,
    }
    job.write(Kind.STEP_TEST, body)
    measured = {**points[0], "region": points[1:], "flow_m3s": flow, "pumps": 1}
    job.survey = type(job.survey).model_validate({**job.survey.model_dump(), "measured": measured})
    job.plan = job.kind.reckon(job.survey, job.choices)


def trend(job: Job) -> None:
    """An hour of the set as left, outlets opened and closed as people do; a row each second."""
    rng = np.random.default_rng(53)
    acts, at_s = [TimedAction(0.0, "outlets", "", 0.15)], 0.0
    while at_s < 3400.0:
        at_s += float(rng.uniform(45.0, 210.0))
        acts.append(TimedAction(round(at_s), "outlets", "", float(rng.choice([0.0, 0.0, 0.05, 0.1, 0.25, 0.5, 0.8]))))
    bench = job.kind.bench(job.survey, job.choices, job.plan)
    run = rehearse(bench, tuple(acts), 3600.0)
    columns = bench.columns  # type: ignore[attr-defined]
    pumps = [f"pump_{number}" for number in range(1, job.survey.pumping.count + 1)]
    places = [columns.index(name) + 1 for name in ("pressure_pa", *pumps)]
    trace = np.array(run.trace)
    times = np.arange(0.0, 3600.0, 2.0)
    rows_at = np.searchsorted(trace[:, 0], times, side="right") - 1
    lines = [
        f"{t:.0f},{trace[k, places[0]] / 1e5:.3f},{','.join(str(int(trace[k, p])) for p in places[1:])}"
        for t, k in zip(times, rows_at)
    ]
    text = "\n".join([",".join(["time_s", "pressure_bar", *pumps]), *lines]) + "\n"
    job.write(Kind.TREND, {"name": "aquarium-first-hour.csv", "text": text})
