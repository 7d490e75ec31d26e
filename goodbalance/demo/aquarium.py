"""The Aquarium booster of Kestrel Point: three pumps with drives, a tank, less pressure at night; finished and signed."""

import numpy as np

from goodbalance.core.balance.proof import Answer
from goodbalance.core.control.identification import fit_step
from goodbalance.core.record.chain import Kind
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.stations.booster.hydraulics import hydraulics
from goodbalance.core.stations.booster.loop_model import DRIVE_LAG_S
from goodbalance.core.stations.booster.plant import BoosterPlant
from goodbalance.demo.job import Job

CURVE = (  # l/s, m, NPSH m, kW
    ("0", "58", "1.1", "0.62"),
    ("0.8", "56.2", "1.2", "0.88"),
    ("1.6", "52.1", "1.6", "1.05"),
    ("2.4", "45.7", "2.3", "1.40"),
    ("3.0", "39.7", "3.1", "1.62"),
    ("3.6", "32.4", "4.0", "1.74"),
)
AQUARIUM = {
    "visit.purpose": "New pump set for the upper tanks and the touch pool",
    "visit.site_contact": "Wren Tolland, life support",
    "visit.controls_off": "yes",
    "visit.hazards": "Salt spray on the floor. Tanks above must not lose their water for more than an hour.",
    "control.kind": "constant",
    "control.device": "motor_mounted",
    "control.flow_switch": "yes",
    "control.flow_switch_m3s": "0.12",
    "control.phase_monitor": "yes",
    "supply.kind": "flooded",
    "supply.pump_m": "11.4",
    "supply.water_low_m": "12.9",
    "supply.water_high_m": "13.8",
    "supply.loss_pa": "0.04",
    "supply.outlet_m": "11.55",
    "supply.outlet_diameter_m": "100",
    "suction_sensor.low_pa": "-1",
    "suction_sensor.high_pa": "1.5",
    "suction_sensor.noise_pa": "0.002",
    "supply.temperature_c": "19",
    "supply.altitude_m": "12",
    "outlets.sensor_m": "11.9",
    "outlets.worst_m": "30.5",
    "outlets.lowest_m": "8.2",
    "outlets.top_m": "33",
    "outlets.residual_pa": "1.2",
    "outlets.permitted_pa": "6",
    "outlets.length_m": "72",
    "outlets.diameter_m": "65",
    "outlets.hazen_williams_c": "145",
    "outlets.minor_k": "14",
    "demand.least_m3s": "0.25",
    "demand.mean_m3s": "1.6",
    "demand.design_m3s": "4.8",
    "pumping.count": "3",
    "pumping.starts_per_hour": "20",
    "pumping.least_flow_m3s": "0.1",
    "motor.rated_voltage_v": "400",
    "motor.rated_current_a": "3.3",
    "motor.rated_power_w": "1.5",
    "motor.power_factor": "0.84",
    "motor.rated_hz": "50",
    "motor.rated_rpm": "2900",
    "motor.least_hz": "20",
    "motor.ramp_s": "2.5",
    "motor.generator": "yes",
    "motor.generator_va": "7.5",
    "motor.start_factor": "1.5",
    "vessel.volume_m3": "0.12",
    "vessel.precharge_found_pa": "1.6",
    "vessel.rating_pa": "10",
    "vessel.relief_pa": "9",
    "sensor.range_pa": "10",
    "sensor.noise_pa": "0.015",
    "as_found.set_pressure": "5.2",
    "as_found.restart": "5.1",
    "as_found.notes": "Old set started forty times an hour; its tank was waterlogged.",
} | {
    f"pumping.curve.{row}.{name}": text
    for row, points in enumerate(CURVE)
    for name, text in zip(("flow_m3s", "head_m", "npsh_m", "power_w"), points)
}
AQUARIUM_CHOICES = {"schools.no_flow": "flow", "schools.night": "yes", "rules.night_residual_pa": "0.8"}

FILTER_DOWN = (
    {"at_s": 5.0, "kind": "outlets", "target": "", "value": 0.35},
    {"at_s": 90.0, "kind": "trip", "target": "1", "value": 1.0},
    {"at_s": 150.0, "kind": "dry", "target": "", "value": 1.0},
    {"at_s": 200.0, "kind": "dry", "target": "", "value": 0.0},
)
SWEPT = (  # outlets, pumps, how far the speed by hand was from the reckoned one
    (0, 1, 0.004),
    (2, 1, -0.006),
    (4, 1, 0.008),
    (8, 2, 0.011),
    (12, 3, 0.007),
)
NIGHT_PA = 3.72e5  # with less at night one pump would be called back as soon as it had left
OUTLET_M3S = 0.4e-3
OFF = {"precharge": 3e3, "holds": -1.5e3, "wakes": -2e3, "high": 4e3, "boost": 1e3, "night": -1e3}


def finish(job: Job, lead: str) -> None:
    """Sweep, step test, rehearsal, keypad, proofs, signature."""
    job.choose({"night_pressure": NIGHT_PA})
    sweep_by_hand(job)
    step_test(job)
    job.keep_run("The lead trips, then the supply runs dry for a while", FILTER_DOWN, 420.0)
    job.check_scaling([(0.0, 1e3), (3.0e5, 3.02e5), (6.0e5, 6.03e5)], "test gauge 0 to 10 bar, class 0.6")
    trend(job)
    job.read_back()
    job.write(Kind.STORED, {"shown": job.profile.save_shows})
    for proof in job.kind.proofs(job.survey, job.choices, job.plan):
        if proof.answer is Answer.NUMBER:
            job.observe(proof.id, OFF.get(proof.id, 0.0))
        else:
            seen = "1 2 3" if proof.answer is Answer.SEQUENCE else "yes"
            job.observation(proof, seen, "real_water", "", "passed")
    job.write(
        Kind.SIGNATURE,
        {
            "name": lead,
            "role": "lead technician",
            "statement": "The settings were entered, read back and proved as this record says. Open points are listed.",
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
        Kind.HAND_SWEEP, {"outlet_m3s": OUTLET_M3S, "rows": rows, "note": "set's own gauge, flow from the rinse meter"}
    )


def step_trace(job: Job) -> str:
    """A step of 4 % in HAND with one pump at mean flow, as the drive's recorder wrote it."""
    survey, demand = job.survey, job.survey.demand
    hyd, set_pa = hydraulics(survey), job.plan.value("set_pressure", 0.0)
    plant = BoosterPlant(
        hyd,
        job.plan.value("precharge", 0.0),
        set_pa,
        hyd.source_pa(False),
        open_share=demand.mean_m3s / demand.design_m3s,
        lag_s=DRIVE_LAG_S,
    )
    flow = plant.drawn_m3s(set_pa)
    speed = hyd.speed(hyd.added_m(set_pa, hyd.suction_pa(flow)), flow, 1)
    rng, seen, rows = np.random.default_rng(7), set_pa, []
    plant.turn_at([speed, 0.0, 0.0])
    for step in range(2400):
        now_s = step * 0.05
        told = speed if now_s < 20.0 else speed + 0.04
        plant.ramp([told, 0.0, 0.0], job.plan.value("ramp", 3.0), 0.05)
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
    rng = np.random.default_rng(11)
    acts, at_s = [TimedAction(0.0, "outlets", "", 0.2)], 0.0
    while at_s < 3400.0:
        at_s += float(rng.uniform(60.0, 260.0))
        acts.append(TimedAction(round(at_s), "outlets", "", float(rng.choice([0.0, 0.0, 0.06, 0.15, 0.3, 0.45, 0.7]))))
    bench = job.kind.bench(job.survey, job.choices, job.plan)
    run = rehearse(bench, tuple(acts), 3600.0)
    columns = bench.columns  # type: ignore[attr-defined]
    places = [columns.index(name) + 1 for name in ("pressure_pa", "pump_1", "pump_2", "pump_3")]
    trace = np.array(run.trace)
    times = np.arange(0.0, 3600.0, 2.0)
    rows_at = np.searchsorted(trace[:, 0], times, side="right") - 1
    lines = [
        f"{t:.0f},{trace[k, places[0]] / 1e5:.3f},{','.join(str(int(trace[k, p])) for p in places[1:])}"
        for t, k in zip(times, rows_at)
    ]
    text = "\n".join(["time_s,pressure_bar,pump_1,pump_2,pump_3", *lines]) + "\n"
    job.write(Kind.TREND, {"name": "aquarium-first-hour.csv", "text": text})
