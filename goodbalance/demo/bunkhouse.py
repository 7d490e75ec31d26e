"""The Bunkhouse ring of Kestrel Point: hot water in four branches behind a mixing valve; all is done, but one return does not come warm."""

from goodbalance.core.balance.proof import Answer
from goodbalance.core.record.chain import Kind
from goodbalance.demo.job import Job

BUNKHOUSE_CHOICES = {
    "schools.hours": "wanted",
    "rules.source": "water rule of the point, leaf 4",
    "rules.least_return_c": "52",
    "rules.longest_rest_s": "480",
}
LATE_SHOWER = (
    {"at_s": 25200.0, "kind": "tap", "target": "3", "value": 1.2e-4},
    {"at_s": 25500.0, "kind": "tap", "target": "3", "value": 0.0},
    {"at_s": 30000.0, "kind": "shut", "target": "3", "value": 1.0},
)
CURVE = (("0", "5.2", "0.009"), ("6", "5.0", "0.017"), ("12", "4.5", "0.025"), ("20", "3.5", "0.033"), ("30", "1.7", "0.040"))  # l/min, m, kW
BRANCHES = (  # name, length, bores out and back in mm, insulation out and back in mm, air, tap's pipe in m, valve and return as found
    ("north bunks", "26", "20", "13", "20", "13", "16", "2.4", "2.5", "51"),
    ("galley", "14", "16", "10", "20", "13", "21", "1.2", "4", "56"),
    ("wash house", "38", "20", "13", "20", "20", "14", "1.8", "0.3", "34"),
    ("loft", "22", "16", "10", "13", "13", "19", "3.0", "3", "53"),
)
VALVE_TABLE = (("0.5", "0.09"), ("1", "0.19"), ("2", "0.44"), ("3", "0.81"), ("4", "1.15"), ("5", "1.4"))  # turns, Kv
BUNKHOUSE = {
    "visit.purpose": "The wash house waits minutes for warm water, and its return is hand-cold; somebody had turned at the valves",
    "visit.site_contact": "Merle Osk, warden of the bunkhouse",
    "visit.controls_off": "yes",
    "visit.hazards": "Store at 65 degrees in a low cellar; the mixing valve drips on the step.",
    "ring.kind": "return",
    "ring.branches": "4",
    "ring.insulation_wmk": "0.038",
    "heat.kind": "stored",
    "heat.set_c": "65",
    "heat.watts": "18",
    "heat.volume_m3": "0.5",
    "heat.kv_m3s": "6",
    "heat.mixing": "yes",
    "heat.mixed_c": "58",
    "heat.to_cold": "yes",
    "heat.cold_c": "11",
    "common.there_m": "7",
    "common.back_m": "7",
    "common.bore_m": "25",
    "common.back_bore_m": "20",
    "common.insulation_m": "30",
    "common.around_c": "18",
    "valves.turns": "5",
    "valves.kv_m3s": "1.4",
    "pump.speeds": "3",
    "pump.speed_1": "60",
    "pump.speed_2": "80",
    "pump.drive": "yes",
    "pump.least_speed": "30",
    "pump.learns": "yes",
    "pump.vented": "yes",
    "pump.ring_pa": "2.6",
    "use.periods": "2",
    "use.days_1": "workdays",
    "use.from_1_h": "5.5",
    "use.to_1_h": "22.5",
    "use.days_2": "weekend",
    "use.from_2_h": "6.5",
    "use.to_2_h": "23.5",
    "use.wait_s": "15",
    "control.clock_backup": "yes",
    "as_found.mode_known": "yes",
    "as_found.mode": "fixed_speed",
    "as_found.speed": "3",
    "as_found.flow_c": "58",
    "as_found.return_c": "50",
    "as_found.noisy": "yes",
    "as_found.notes": "Full speed day and night; the galley hissed. Hours: none. The valve of the wash house stood a third of a turn open.",
} | {
    f"branch_{number}.{name}": text
    for number, (called, length, out, back, wrap, wrap_back, air, tap, turns, found) in enumerate(BRANCHES, 1)
    for name, text in (
        ("name", called), ("there_m", length), ("back_m", length), ("there_bore_m", out), ("back_bore_m", back), ("insulation_m", wrap), ("back_insulation_m", wrap_back), ("around_c", air),
        ("tap_m", tap), ("tap_m3s", "7"), ("found_turns", turns), ("found_c", found),
    )
} | {
    f"valves.points.{row}.{name}": text for row, points in enumerate(VALVE_TABLE) for name, text in zip(("turns", "kv_m3s"), points)
} | {
    f"pump.curve.{row}.{name}": text for row, points in enumerate(CURVE) for name, text in zip(("flow_m3s", "head_m", "power_w"), points)
}  # fmt: skip
OFF = {"return_1": -0.4, "return_2": 0.6, "return_3": -4.2, "return_4": 0.3, "flow": -3e-6, "pressure": 250.0, "mixed": 0.5, "wait_1": 0.6, "wait_2": 0.4, "wait_3": 1.1, "wait_4": 0.5, "starts": 20.0}
COOL = "still four degrees short: bare pipe behind the washing troughs, the valve is right"


def finish(job: Job) -> None:
    """Wiring, rehearsal, keypad, and all proofs; the return of the wash house fails, so nobody signs."""
    job.walk_wiring(None, {})
    job.keep_run("A late shower, then the valve of the wash house is shut", LATE_SHOWER, 43200.0)
    job.read_back()
    job.write(Kind.STORED, {"shown": job.profile.save_shows})
    for proof in job.kind.proofs(job.survey, job.choices, job.typed_plan):
        if proof.answer is Answer.NUMBER:
            job.observe(proof.id, OFF.get(proof.id, 0.0), note=COOL if proof.id == "return_3" else "")
        else:
            job.observation(proof, "yes", "real_water", "six pulses, then still" if proof.check == "vented" else "", "passed")
    job.open_point("Wrap the bare pipe behind the washing troughs of the wash house, then read its return again")
