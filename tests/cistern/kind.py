"""The cistern: what is asked, its one setting, its bench, its one proof."""

import copy
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from goodbalance.core.balance.facts import Facts, fact, section
from goodbalance.core.balance.plan import Figure, Finding, Plan, Severity, placed
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import Bound, Source, Window
from goodbalance.core.control.alarms import AlarmPanel
from goodbalance.core.control.reasons import Link, LinkState, ReasonLine
from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.engine import SCAN_S, TimedAction
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among
from goodbalance.core.rehearsal.proving import BenchProof, Scene, prove_scenes
from goodbalance.core.stations.kind import StationKind
from goodbalance.core.stations.shared.choices import Choices
from goodbalance.core.stations.shared.facts import VisitFacts
from goodbalance.core.stations.shared.held import Held

FREEBOARD_M, SWING_M = 0.1, 0.05


class Tank(Facts):
    area_m2: float = fact("Plan area", Q.AREA, 0.1, 1000.0)
    depth_m: float = fact("Depth", Q.LEVEL, 0.5, 20.0)
    reserve_m: float = fact("Level kept for the fire hose", Q.LEVEL, 0.0, 20.0)


class Water(Facts):
    fills_m3s: float = fact("What the pump brings", Q.FLOW, 1e-5, 1.0)
    drawn_m3s: float = fact("What is drawn", Q.FLOW, 0.0, 1.0)


class CisternSurvey(Facts):
    visit: VisitFacts = section("The visit", default=VisitFacts())
    tank: Tank = section("The tank")
    water: Water = section("Water in and out")


class CisternChoices(Choices):
    """Nothing but the float."""


def float_window(survey: CisternSurvey) -> Window:
    tank = survey.tank
    low = Term("r", "reserve", tank.reserve_m, Q.LEVEL)
    high = Term("d", "depth", tank.depth_m, Q.LEVEL), Term("f", "freeboard", FREEBOARD_M, Q.LEVEL)
    low_m, high_m = tank.reserve_m + SWING_M, tank.depth_m - FREEBOARD_M
    swing = Term("s", "swing of the float", SWING_M, Q.LEVEL)
    return Window(
        (Bound(low_m, "reserve", "The hose runs dry.", Source.CODE, Trail("h = r + s", (low, swing), Term("h", "", low_m, Q.LEVEL), "code")),),
        (Bound(high_m, "brim", "It spills.", Source.PHYSICS, Trail("h = d - f", high, Term("h", "", high_m, Q.LEVEL), "survey")),),
    )


@dataclass
class CisternBench:
    """Water in a straight tank, a float that calls the pump."""

    survey: CisternSurvey
    float_m: float
    level_m: float
    drawn_m3s: float
    runs: bool = False
    starts: list[int] = field(default_factory=lambda: [0])
    run_s: list[float] = field(default_factory=lambda: [0.0])
    alarms: AlarmPanel = field(default_factory=AlarmPanel)
    scan_s: float = SCAN_S
    columns = ("level_m", "drawn_m3s", "pump_1")

    @property
    def start(self) -> float:
        return self.level_m

    def act(self, action: TimedAction) -> list[Event]:
        if action.kind != "drawn" or not 0.0 <= action.value <= 1.0:
            raise OutOfRange(action.kind, action.value, "drawn, 0 to 1 m3/s")
        self.drawn_m3s = action.value
        return [Event(action.at_s, Thing.YOU, Doing.DOES, "drawn", 0, "Somebody opens a tap")]

    def scan(self, now_s: float) -> list[Event]:
        before = self.runs
        self.runs = self.level_m < self.float_m - (0.0 if self.runs else SWING_M)
        if self.runs is before:
            return []
        self.starts[0] += self.runs
        text = f"Pump 1 {'starts' if self.runs else 'stops'} at {{level}}"
        at = (Term("level", "", self.level_m, Q.LEVEL),)
        return [Event(now_s, Thing.PUMP, Doing.STARTS if self.runs else Doing.STOPS, "", 1, text, at)]

    def quiet_s(self, now_s: float) -> float:
        return 0.0

    def advance(self, now_s: float, step_s: float) -> None:
        comes = self.survey.water.fills_m3s if self.runs else 0.0
        self.run_s[0] += step_s if self.runs else 0.0
        self.level_m = max(0.0, self.level_m + (comes - self.drawn_m3s) * step_s / self.survey.tank.area_m2)

    def peek(self, now_s: float, step_s: float) -> "CisternBench":
        seen = copy.copy(self)
        seen.run_s = list(self.run_s)
        seen.advance(now_s, step_s)
        return seen

    def sample(self, now_s: float) -> tuple[float, ...]:
        return self.level_m, self.drawn_m3s, float(self.runs)

    def reasons(self) -> tuple[ReasonLine, ...]:
        state = LinkState.HOLDS if self.runs else LinkState.BLOCKS
        return (ReasonLine("Pump 1", self.runs, (Link("Float", state, "hangs down" if self.runs else "is up", is_demand=True),)),)


class CisternKind(StationKind[CisternSurvey, CisternChoices, float]):
    id = "cistern"
    label = "Cistern"
    main = Q.LEVEL
    start_name = "start_level_m"
    groups = (("floats", ""),)
    upright = True
    longest_run_s = 7200.0
    survey_model = CisternSurvey
    choices_model = CisternChoices

    def plausibility(self, values: Mapping[str, Any]) -> list[Finding]:
        reserve, depth = values.get("tank.reserve_m"), values.get("tank.depth_m")
        if reserve is None or depth is None or reserve < depth:
            return []
        return [Finding("reserve", Severity.STOP, "tank.reserve_m", "The reserve is above the brim.")]

    def reckon(self, survey: CisternSurvey, choices: CisternChoices, explain_empty: bool = True) -> Plan:
        window = float_window(survey)
        setting = placed("float", ("Fill float", "ball"), Q.LEVEL, window, 0.8, 0.01, choices.chosen.get("float"), "Let it fill.", "floats")
        volume = setting.value * survey.tank.area_m2
        terms = (Term("h", "float", setting.value, Q.LEVEL), Term("a", "area", survey.tank.area_m2, Q.AREA))
        trail = Trail("v = h · a", terms, Term("v", "", volume, Q.VOLUME), "survey")
        return Plan((setting,), (Figure("volume", "Water kept", volume, Q.VOLUME, trail),))

    def bench(
        self, survey: CisternSurvey, choices: CisternChoices, plan: Plan, start: float | None = None, program: float | None = None
    ) -> CisternBench:
        float_m = plan.setting("float").value if program is None else program
        return CisternBench(survey, float_m, survey.tank.reserve_m if start is None else start, survey.water.drawn_m3s)

    def proofs(self, survey: CisternSurvey, choices: CisternChoices, plan: Plan) -> tuple[Proof, ...]:
        setting = plan.setting("float")
        return (
            Proof(
                "stops", "The float stops the pump", "Floats", "The tank stands low.", ("It may spill.",), "Let it fill.",
                "The pump stops at this level.", Answer.NUMBER, setting.value, 0.03, proves=(setting.id,),
            ),
        )  # fmt: skip

    def prove_on_bench(
        self, survey: CisternSurvey, choices: CisternChoices, plan: Plan, held: Held[float] | None = None,
        only: frozenset[str] | None = None,
    ) -> tuple[BenchProof, ...]:  # fmt: skip
        net_m3s = survey.water.fills_m3s - survey.water.drawn_m3s
        scene = Scene("it fills", survey.tank.reserve_m, (), 2.0 * survey.tank.depth_m * survey.tank.area_m2 / net_m3s)

        def stopped_at(run: Any) -> float | None:
            event = next(among(run.events, Thing.PUMP, Doing.STOPS), None)
            return None if event is None else event.value("level")

        return prove_scenes(
            self.proofs(survey, choices, plan), lambda _: (scene, stopped_at), lambda start: self.bench(survey, choices, plan, start), only
        )


CISTERN = CisternKind()
