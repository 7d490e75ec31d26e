"""Kestrel Point: its people and stations, written into the records as its people would have typed them."""

import numpy as np
from sqlalchemy.orm import Session

from goodbalance.core.balance.proof import Answer, Proof, judge
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.record.chain import Kind
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.sheets.entry_sheet import entry_sheet
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.exchange.profiles import shipped_profiles
from goodbalance.exchange.typed import Typed, answers_of, facts_from, read_facts
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


def load_demo(session: Session) -> str:
    """Make people and stations if there is nobody yet. Returns how to sign in."""
    how = f"{TECHNICIAN!r} or {LEAD!r} with the password {PASSWORD!r}"
    if not people.nobody_yet(session):
        return how
    people.add_person(session, LEAD, Role.LEAD, PASSWORD)
    people.add_person(session, TECHNICIAN, Role.TECHNICIAN, PASSWORD)
    _Job(session, "Seal clinic lift, lower sewer", "Kestrel Point, seal clinic", SHALLOW)
    clinic = _Job(session, "Seal clinic lift", "Kestrel Point, seal clinic", SEAL_CLINIC, CLINIC_CHOICES)
    clinic.take_trend("clinic-before-visit.csv", clogged="3")
    clinic.check_scaling([(0.62, 0.66), (1.40, 1.43), (2.55, 2.56)], "level stick, last checked in spring")
    clinic.prove_on_bench()
    clinic.read_back(14)
    clinic.keep_run("Sensor drifts: the high float calls, and puts the sensor out", SENSOR_DRIFTS, 9000.0)
    slipway = _Job(session, "Slipway sump", "Kestrel Point, boat slip", SLIPWAY)
    slipway.keep_run("Sensor loop opens at peak inflow", LOOP_OPENS, 1500.0)
    slipway.draw_down(1, SLIPWAY_DRAWDOWN)
    slipway.read_back(9)
    slipway.observe("up_low_cut_out", off_m=0.01)
    slipway.observe("up_low_alarm", off_m=0.02, note="wobbles with the wash of the ferry")
    slipway.observe("up_stop", off_m=-0.01)
    slipway.observe("up_start_1", off_m=0.09, note="relay 2 came late")
    slipway.open_point("Alarm lamp dark although the lamp is good: look for the relay socket")
    return how


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


class _Job:
    """One station of the demo, worked on as its technician would: everything goes through the record."""

    def __init__(
        self, session: Session, name: str, place: str, facts: dict[str, str], choices: dict[str, str] | None = None
    ) -> None:
        self.session = session
        self.row = records.create_station(session, name, place, "lift", TECHNICIAN)
        groups: dict[str, dict[str, dict[str, str]]] = {}
        for path, text in facts.items():
            groups.setdefault(path.split(".")[0], {})[path] = {"text": text, "units": "metric"}
        for changes in groups.values():
            self._write(Kind.FACTS, {"changes": changes})
        if choices:
            changes = {path: {"text": text, "units": "metric"} for path, text in choices.items()}
            self._write(Kind.CHOICES, {"changes": changes})
        typed = {path: Typed(text) for path, text in facts.items()}
        answers = answers_of(LIFT.survey_model, typed)
        self.survey = facts_from(LIFT.survey_model, read_facts(LIFT.survey_model, typed, UnitSystem.METRIC))
        decided = {path: Typed(text) for path, text in (choices or {}).items()}
        read = read_facts(LIFT.choices_model, decided, UnitSystem.METRIC, answers)
        self.choices = facts_from(LIFT.choices_model, read)
        family = LIFT.family_of(answers)
        self.profile = next(profile for profile in shipped_profiles().values() if profile.family == family)
        self.plan = LIFT.reckon(self.survey, self.choices)

    def _write(self, kind: Kind, body: dict[str, object]) -> None:
        records.append(self.session, self.row.id, kind, body, TECHNICIAN)

    def draw_down(self, pump: int, runs: list[dict[str, dict[str, float]]]) -> None:
        self._write(Kind.DRAWDOWN, {"pump": pump, "runs": runs})

    def take_trend(self, name: str, clogged: str) -> None:
        """Thirty hours as the old controller ran it, levels as found, at full speed, one pump clogged; a row each 20 s."""
        old = self.survey.model_copy(update={"drives": self.survey.drives.model_copy(update={"fitted": False})})
        noted = {setting: LIFT.as_found_m(old, setting) for setting in ("stop", "start_1", "start_2", "high_alarm")}
        as_was = self.choices.model_copy(update={"chosen": {**noted, "start_3": 5.2}})
        bench = LIFT.bench(old, as_was, LIFT.reckon(old, as_was, False))
        pattern = (TimedAction(0.0, "pattern", "", 1.0), TimedAction(0.0, "clogged", clogged, 1.0))
        run = rehearse(bench, pattern, 30 * 3600.0)
        pumps = [f"pump_{number}" for number in range(1, self.survey.pumping.count + 1)]
        at = [bench.columns.index(column) + 1 for column in ("level_m", *pumps)]
        times_s = np.arange(0.0, run.now_s, 20.0)
        trace = np.array(run.trace)
        level = np.interp(times_s, trace[:, 0], trace[:, at[0]])
        row_of = np.searchsorted(trace[:, 0], times_s, side="right") - 1
        states = trace[row_of][:, at[1:]].astype(int)
        rows = [f"{second:.0f},{h:.3f}," + ",".join(map(str, on)) for second, h, on in zip(times_s, level, states)]
        text = "\n".join([",".join(["time_s", "level_m", *pumps]), *rows]) + "\n"
        self._write(Kind.TREND, {"name": name, "text": text})

    def check_scaling(self, points: list[tuple[float, float]], note: str) -> None:
        scale = LIFT.keypad_scale(self.survey, self.profile, self.choices.keypad.level_display)
        listed = [{"applied": true, "shown": shown} for true, shown in points]
        body = {
            "by": "level",
            "points": listed,
            "zero": scale.zero,
            "full": scale.zero + scale.span,
            "note": note,
        }
        self._write(Kind.SCALING, body)

    def keep_run(self, note: str, actions: tuple[dict[str, object], ...], until_s: float) -> None:
        bench = LIFT.bench(self.survey, self.choices, self.plan)
        start_m = bench.plant.level_m
        run = rehearse(bench, tuple(TimedAction(**act) for act in actions), until_s)
        covers = len(records.entries(self.session, self.row.id))
        body = {"covers": covers, "start_level_m": start_m, "until_s": until_s, "actions": list(actions)}
        self._write(Kind.REHEARSAL, {**body, "digest": run.digest(), "note": note})

    def read_back(self, count: int) -> None:
        """The first numbers of the sheet, read off the display as they should stand."""
        display = self.choices.keypad.level_display
        values = LIFT.keypad_values(self.survey, self.choices, self.plan, display)
        sheet = entry_sheet(self.profile, values, LIFT.keypad_scale(self.survey, self.profile, display))
        for row in sheet.changes[:count]:
            self._write(Kind.READ_BACK, {"code": row.parameter.code, "typed": row.shows})

    def observe(self, proof_id: str, off_m: float, note: str = "") -> None:
        """A level seen with real water, this far from what was expected."""
        proof = next(p for p in LIFT.proofs(self.survey, self.choices, self.plan) if p.id == proof_id)
        seen_m = proof.expected + off_m
        self._observation(proof, f"{seen_m:.2f}", "real_water", note, judge(proof, seen_m).value)

    def prove_on_bench(self) -> None:
        for shown in LIFT.prove_on_bench(self.survey, self.choices, self.plan):
            text = f"{shown.seen:.3f}" if isinstance(shown.seen, float) else "yes"
            text = " ".join(map(str, shown.seen)) if isinstance(shown.seen, tuple) else text
            self._observation(shown.proof, text, "bench", shown.scene.name, shown.verdict.value)

    def _observation(self, proof: Proof, seen: str, method: str, note: str, verdict: str) -> None:
        expected = proof.expected if proof.answer is Answer.NUMBER else None
        body = {"proof": proof.id, "seen": seen, "units": "metric", "method": method, "note": note}
        self._write(Kind.OBSERVATION, {**body, "verdict": verdict, "expected": expected})

    def open_point(self, text: str) -> None:
        self._write(Kind.OPEN_POINT, {"text": text})
