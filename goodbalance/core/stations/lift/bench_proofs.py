"""Proving a plan on the bench: the level is driven through every point, and each proof is judged by what happened.

Bench proofs prove the settings and the logic; wiring, sensor and pumps are proved on site.
"""

from collections.abc import Callable
from dataclasses import dataclass

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof, Verdict, judge
from goodbalance.core.control.relays import LevelRelay
from goodbalance.core.rehearsal.engine import Event, Run, TimedAction, rehearse
from goodbalance.core.stations.lift.choices import LiftChoices
from goodbalance.core.stations.lift.hydraulics import hydraulics
from goodbalance.core.stations.lift.proofs import CYCLES, proofs
from goodbalance.core.stations.lift.rehearse import lift_bench
from goodbalance.core.stations.lift.survey import LiftSurvey

HAND, OFF = 0.0, 1.0
RAMP_MS = 0.002  # how fast the level is driven up: slow against the scan, so that it is read to 2 mm
Seen = float | bool | tuple[int, ...] | None


@dataclass(frozen=True, slots=True)
class Scene:
    """One run that shows some proofs: where the level begins, what is done, how long."""

    name: str
    start_level_m: float
    actions: tuple[TimedAction, ...]
    until_s: float


@dataclass(frozen=True, slots=True)
class BenchProof:
    """A proof as the bench shows it: what was seen (None: it did not happen), the verdict, and the scene."""

    proof: Proof
    seen: Seen
    verdict: Verdict
    scene: Scene


def prove_on_bench(
    survey: LiftSurvey, choices: LiftChoices, plan: Plan, relays: tuple[LevelRelay, ...] | None = None
) -> tuple[BenchProof, ...]:
    """Play every scene and judge the proofs that the bench can show. What needs a person is left out.

    relays: as read back from the controller, so that one wrong number at the keypad fails its proof.
    """
    scenes = _Scenes(survey, plan)
    runs: dict[str, Run] = {}

    def play(scene: Scene) -> Run:
        if scene.name not in runs:
            runs[scene.name] = rehearse(
                lift_bench(survey, choices, plan, scene.start_level_m, relays), scene.actions, scene.until_s
            )
        return runs[scene.name]

    found = []
    for proof in proofs(survey, choices, plan):
        shown = scenes.of(proof)
        if shown is None:
            continue
        scene, look = shown
        seen = look(play(scene))
        verdict = Verdict.FAILED if seen is None else judge(proof, seen)
        found.append(BenchProof(proof, seen, verdict, scene))
    return tuple(found)


class _Scenes:
    """The scenes of one station, and how to read each proof off its run."""

    def __init__(self, survey: LiftSurvey, plan: Plan) -> None:
        self.survey, self.hyd = survey, hydraulics(survey)
        self.stop_m, self.start_m = plan.setting("stop").value, plan.setting("start_1").value
        self.top_m = min(plan.setting("high_alarm").value + 0.15, survey.inlet.overflow_m - 0.02)

    def of(self, proof: Proof) -> tuple[Scene, Callable[[Run], Seen]] | None:
        kind, _, role = proof.id.partition("_")
        if kind in ("up", "down"):
            scene = self._rising() if kind == "up" else self._falling()
            return scene, lambda run: _first_level(run.events, f"relay_{role}")
        if proof.id == "common_stop":
            return self._cycles(), lambda run: _first_level(run.events, "pump_", "stops")
        if kind == "assist":
            return self._assist(int(role)), lambda run: _joined_level(run.events, int(role))
        if proof.answer is Answer.SEQUENCE:
            return self._cycles(), lambda run: _leads(run.events)[:CYCLES]
        if proof.id == "high_alarm_clears":
            return self._falling(), _came_and_cleared
        if proof.id in ("sensor_failure", "low_float"):
            fault = "loop_open" if proof.id == "sensor_failure" else "low_float"
            return self._broken(fault), self._after_fault(proof)
        return None  # what a person must judge by eye

    def _switches(self, place: float, at_s: float = 0.0) -> tuple[TimedAction, ...]:
        return tuple(TimedAction(at_s, "switch", str(n + 1), place) for n in range(self.hyd.pump_count))

    def _rising(self) -> Scene:
        area_m2 = self.hyd.well.area_m2(self.start_m)
        flow = TimedAction(0.0, "inflow", "", area_m2 * RAMP_MS)
        low_m = self.survey.well.intake_m * 0.5
        return Scene("water rising", low_m, (*self._switches(OFF), flow), (self.top_m - low_m) / RAMP_MS * 1.3)

    def _falling(self) -> Scene:
        still = TimedAction(0.0, "inflow", "", 0.0)
        first = TimedAction(0.0, "switch", "1", HAND)
        others = tuple(TimedAction(0.0, "switch", str(n + 1), OFF) for n in range(1, self.hyd.pump_count))
        volume_m3 = self.hyd.well.volume_m3(self.top_m)
        slowest_m3s = max(1e-6, self.hyd.point((0,), self.hyd.slow_level_m).flow_m3s)
        return Scene("water falling", self.top_m, (still, first, *others), volume_m3 / slowest_m3s * 1.2 + 60.0)

    def _cycles(self) -> Scene:
        flow_m3s = self.hyd.strongest_m3s(1, self.stop_m) * 0.4
        volume_m3 = self.hyd.well.volume_m3(self.start_m) - self.hyd.well.volume_m3(self.stop_m)
        cycle_s = volume_m3 / flow_m3s + volume_m3 / (flow_m3s * 0.8)
        flow = TimedAction(0.0, "inflow", "", flow_m3s)
        return Scene("full cycles", (self.stop_m + self.start_m) / 2.0, (flow,), cycle_s * (CYCLES + 2))

    def _assist(self, number: int) -> Scene:
        # a fifth more than the pumps before it can take, and enough to rise: the level must come to its start
        area_m2 = self.hyd.well.area_m2(self.start_m)
        flow_m3s = 1.2 * self.hyd.strongest_m3s(number - 1, self.hyd.fast_level_m) + 0.0005 * area_m2
        flow = TimedAction(0.0, "inflow", "", flow_m3s)
        until_s = self.hyd.well.volume_m3(self.top_m) / (flow_m3s * 0.15) + 600.0
        return Scene(f"assist {number}", self.stop_m + 0.05, (flow,), min(until_s, 6 * 3600.0))

    def _broken(self, fault: str) -> Scene:
        flow = TimedAction(0.0, "inflow", "", self.hyd.strongest_m3s(1, self.stop_m) * 0.5)
        # at the duty start within seconds; broken while the pump runs; looked at before the well empties
        return Scene(f"{fault} while a pump runs", self.start_m - 0.01, (flow, TimedAction(60.0, fault, "", 1.0)), 75.0)

    def _after_fault(self, proof: Proof) -> Callable[[Run], Seen]:
        def look(run: Run) -> Seen:
            bench = run.bench
            running = len(bench.running)  # type: ignore[attr-defined]
            if proof.id == "low_float":
                return running == 0
            expected = 1 if proof.must_see.startswith("The duty pump runs") else 0
            alarm = "high_alarm" if self.hyd.signal.has_live_zero else "low_alarm"
            return running == expected and bench.logic.is_closed(alarm)  # type: ignore[attr-defined]

        return look


def _first_level(events: list[Event], subject: str, doing: str = "") -> float | None:
    """Level of the first event of a subject after the start of the run; None where it never came."""
    for event in events:
        if event.at_s > 0.0 and event.subject.startswith(subject) and doing in event.text and event.terms:
            return event.terms[0].value
    return None


def _joined_level(events: list[Event], number: int) -> float | None:
    """Level at which the number-th pump of a cycle started."""
    running = 0
    for event in events:
        if event.subject.startswith("pump_"):
            running += 1 if "starts" in event.text else -1
            if running == number:
                return event.terms[0].value
    return None


def _leads(events: list[Event]) -> tuple[int, ...]:
    """Which pump started first in each cycle."""
    found, running = [], 0
    for event in events:
        if event.subject.startswith("pump_"):
            starts = "starts" in event.text
            if starts and running == 0:
                found.append(int(event.subject.removeprefix("pump_")))
            running += 1 if starts else -1
    return tuple(found)


def _came_and_cleared(run: Run) -> bool:
    """Whether the high alarm, on at the start of a fall, let go again."""
    moves = [event for event in run.events if event.subject == "relay_high_alarm" and event.at_s > 0.0]
    return bool(moves) and not run.bench.logic.is_closed("high_alarm")  # type: ignore[attr-defined]
