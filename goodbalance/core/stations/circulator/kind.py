"""The ring with its circulator as one of the kinds."""

from collections.abc import Mapping
from typing import Any

from goodbalance.core.balance.plan import TIMERS, Finding, Plan, Setting
from goodbalance.core.balance.proof import Proof
from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.balance.trail import Otherwise, Term
from goodbalance.core.rehearsal.proving import BenchProof, Scene
from goodbalance.core.rehearsal.troubles import Lever, Sign, Trouble
from goodbalance.core.sheets.devices import DeviceValues
from goodbalance.core.sheets.entry_sheet import EntrySheet, KeypadValue, Scale
from goodbalance.core.sheets.profile import Display, Profile
from goodbalance.core.sheets.wiring import Joint
from goodbalance.core.stations.circulator.bench.breakable import dangers, troubles
from goodbalance.core.stations.circulator.bench.put_on import ring_bench
from goodbalance.core.stations.circulator.bench.rehearse import LONGEST_S, RingBench
from goodbalance.core.stations.circulator.bench.signs import signs
from goodbalance.core.stations.circulator.controller.numbers import Numbers
from goodbalance.core.stations.circulator.names import BY_HAND, IN_HOURS, LOCAL_RULES
from goodbalance.core.stations.circulator.names import SettingId as S
from goodbalance.core.stations.circulator.plant.equations import equations
from goodbalance.core.stations.circulator.proofs.listed import proofs
from goodbalance.core.stations.circulator.proofs.on_bench import prove_on_bench, scenes
from goodbalance.core.stations.circulator.proofs.stories import at_work, levers, stories
from goodbalance.core.stations.circulator.sheet import cautions, keypad, wires
from goodbalance.core.stations.circulator.sheet.as_held import held
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.hours import by_clock, typed
from goodbalance.core.stations.circulator.survey.plausibility import plausibility
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.windows.chances import chances
from goodbalance.core.stations.circulator.windows.making import PUMP
from goodbalance.core.stations.circulator.windows.reckon import reckon
from goodbalance.core.stations.kind import Diagnosing, Keypad, StationKind
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.shared.week import DAY_LABELS


class RingKeypad(Keypad[CirculatorSurvey, CirculatorChoices, Numbers]):
    """Circulators that are typed into."""

    section = ""
    families = (keypad.CONTROLLER,)

    def meanings(self) -> frozenset[str]:
        return keypad.meanings()

    def family_of(self, answers: Mapping[str, str]) -> str:
        return keypad.family_of(answers)

    def companions_of(self, answers: Mapping[str, str]) -> tuple[str, ...]:
        return keypad.companions_of(answers)

    def scale(self, survey: CirculatorSurvey, profile: Profile, display: Display) -> Scale:
        return keypad.keypad_scale(survey, profile, display)

    def values(self, survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan, display: Display) -> dict[str, KeypadValue]:
        return keypad.keypad_values(survey, choices, plan, display)

    def recheck(self, survey: CirculatorSurvey, choices: CirculatorChoices, sheet: EntrySheet) -> Plan:
        return keypad.recheck(survey, choices, sheet)

    def held(self, survey: CirculatorSurvey, choices: CirculatorChoices, device: DeviceValues, display: Display) -> Held[Numbers]:
        return held(survey, choices, device, display)


class RingDiagnosing(Diagnosing[CirculatorSurvey, CirculatorChoices]):
    """What can be broken of it, seen and felt."""

    def troubles(self, bench: RingBench) -> tuple[Trouble, ...]:
        return troubles(bench)

    def signs(self, bench: RingBench) -> tuple[Sign, ...]:
        return signs(bench)

    def stories(self, survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> tuple[Scene, ...]:
        return stories(survey, choices, plan)

    def at_work(self, survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> Scene:
        return at_work(survey, choices, plan)

    def dangers(self, bench: RingBench) -> tuple[Trouble, ...]:
        return dangers(bench)

    def levers(self, bench: RingBench) -> tuple[Lever, ...]:
        return levers(bench)


class CirculatorKind(StationKind[CirculatorSurvey, CirculatorChoices, Numbers]):
    """A pump that keeps hot water or heat going round. Its motor guards itself: a circulator of this size has no starter to be set."""

    id = "circulator"
    label = "Circulator"
    main = Quantity.TEMPERATURE
    start_name = "start_c"
    groups = ((PUMP, ""), (BY_HAND, "Valves: set by hand, typed nowhere"), (IN_HOURS, "Hours"), (TIMERS, "Times"))
    recorded = {BY_HAND: "set by hand at the valve", IN_HOURS: "in the hours that are typed"}
    caution = LOCAL_RULES
    longest_run_s = LONGEST_S
    survey_model = CirculatorSurvey
    choices_model = CirculatorChoices
    keypad = RingKeypad()
    diagnosis = RingDiagnosing()
    wire_meanings = wires.MEANINGS
    declinable = {S.KICK_EVERY: ()}

    def plausibility(self, values: Mapping[str, Any]) -> list[Finding]:
        return plausibility(values)

    def reckon(self, survey: CirculatorSurvey, choices: CirculatorChoices, explain_empty: bool = True) -> Plan:
        return reckon(survey, choices, explain_empty)

    def bench(
        self, survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan, start: float | None = None, program: Numbers | None = None
    ) -> RingBench:
        return ring_bench(survey, choices, plan, start, program)

    def proofs(self, survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> tuple[Proof, ...]:
        return proofs(survey, choices, plan)

    def prove_on_bench(
        self, survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan, held: Held[Numbers] | None = None,
        only: frozenset[str] | None = None, broken: Trouble | None = None,
    ) -> tuple[BenchProof, ...]:  # fmt: skip
        return prove_on_bench(survey, choices, plan, held, only, broken)

    def scenes(self, survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> dict[str, Scene]:
        return scenes(survey, choices, plan)

    def joints(self, survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> tuple[Joint, ...]:
        return wires.joints(survey, choices, plan)

    def otherwise(self, survey: CirculatorSurvey, plan: Plan, setting: Setting) -> Otherwise | None:
        """What a balancing valve lets through at its turns; a speed as a share of full speed."""
        if setting.id.startswith("valve_"):
            return Otherwise("{k} through it at 1 bar", (Term("k", "", equations(survey).kv_of(setting.value), Quantity.VALVE_FLOW),))
        if setting.id == S.SPEED:
            curve = equations(survey).curve
            step = curve.step_of(setting.value)
            if curve.steps[step - 1].own is not None:
                return Otherwise("{p} without flow, by its own curve", (Term("p", "", curve.at_step_pa(step, 0.0), Quantity.DIFFERENCE),))
            return Otherwise("{n} of full speed", (Term("n", "", curve.steps[step - 1].share, Quantity.PERCENT),))
        return None

    def chances(self, survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan, unsure: Mapping[str, float] | None = None) -> dict[str, float]:
        return chances(survey, choices, plan, unsure)

    def as_found(self, survey: CirculatorSurvey, setting_id: str) -> float | None:
        return survey.as_found_of(setting_id)

    def notes_as_found(self, survey: CirculatorSurvey) -> str:
        return survey.as_found.notes

    def cautions(self, survey: CirculatorSurvey, choices: CirculatorChoices) -> tuple[str, ...]:
        return cautions.cautions(survey, choices)

    def by_clock(self, survey: CirculatorSurvey, choices: CirculatorChoices) -> tuple[str, ...]:
        if not by_clock(survey, choices):
            return ()
        lead_s = reckon(survey, choices, False).value(S.LEAD, 0.0)
        return tuple(f"It runs {DAY_LABELS[each.days]} from {_hour(each.from_s)} to {_hour(each.to_s)}." for each in typed(survey, choices, lead_s))


def _hour(time_s: float) -> str:
    """A time of the day as a clock shows it."""
    minutes = round(time_s / 60.0)
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


CIRCULATOR = CirculatorKind()
