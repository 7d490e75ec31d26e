"""The booster set as one of the kinds."""

from collections.abc import Mapping
from typing import Any

from goodbalance.core.balance.plan import Finding, Plan, Setting
from goodbalance.core.balance.proof import Proof
from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.balance.trail import Otherwise
from goodbalance.core.physics.scaling_check import CheckedScaling
from goodbalance.core.physics.signals import Reading
from goodbalance.core.protection.asked import ProtectionFacts
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.names import GROUP
from goodbalance.core.protection.readings import ReadCurrent
from goodbalance.core.record.history import History
from goodbalance.core.rehearsal.proving import BenchProof, Scene
from goodbalance.core.rehearsal.troubles import Lever, Sign, Trouble
from goodbalance.core.sheets.devices import DeviceValues
from goodbalance.core.sheets.entry_sheet import EntrySheet, KeypadValue, Scale
from goodbalance.core.sheets.profile import Display, Profile
from goodbalance.core.sheets.wiring import Joint
from goodbalance.core.stations.booster.bench.breakable import dangers, troubles
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.booster.bench.rehearse import LONGEST_S, BoosterBench
from goodbalance.core.stations.booster.bench.signs import signs
from goodbalance.core.stations.booster.controller.numbers import Numbers
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant import readings as instruments
from goodbalance.core.stations.booster.plant.motors import duties
from goodbalance.core.stations.booster.proofs.listed import proofs
from goodbalance.core.stations.booster.proofs.live import LIVE
from goodbalance.core.stations.booster.proofs.on_bench import prove_on_bench, scenes
from goodbalance.core.stations.booster.proofs.stories import at_work, levers, stories
from goodbalance.core.stations.booster.sheet import cautions, keypad, wires
from goodbalance.core.stations.booster.sheet.as_held import held
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.plausibility import plausibility
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.trials import measured
from goodbalance.core.stations.booster.windows.chances import chances
from goodbalance.core.stations.booster.windows.reckon import DECLINABLE, reckon
from goodbalance.core.stations.kind import Diagnosing, Instruments, Keypad, Measuring, Motored, StationKind
from goodbalance.core.stations.shared.held import Held


class BoosterInstruments(Instruments[BoosterSurvey, BoosterChoices]):
    """The discharge sensor."""

    def is_fitted(self, survey: BoosterSurvey) -> bool:
        return True

    def is_read(self, setting: Setting) -> bool:
        return instruments.is_read(setting)

    def readings(self, survey: BoosterSurvey, value: float) -> Reading:
        return instruments.readings(survey, value)

    def allowed_error(self, choices: BoosterChoices) -> float:
        return choices.rules.scaling_error_share

    def check_scaling(self, survey: BoosterSurvey, body: Mapping[str, Any]) -> CheckedScaling:
        return instruments.checked_scaling(survey, body)


class BoosterKeypad(Keypad[BoosterSurvey, BoosterChoices, Numbers]):
    """Wall drives, pressure controllers and switches."""

    section = ""
    families = (keypad.MOTOR, keypad.WALL, keypad.PANEL, keypad.SWITCH, keypad.SWITCHES)

    def meanings(self) -> frozenset[str]:
        return keypad.meanings()

    def family_of(self, answers: Mapping[str, str]) -> str:
        return keypad.family_of(answers)

    def companions_of(self, answers: Mapping[str, str]) -> tuple[str, ...]:
        return keypad.companions_of(answers)

    def scale(self, survey: BoosterSurvey, profile: Profile, display: Display) -> Scale:
        return keypad.keypad_scale(survey, profile, display)

    def values(self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, display: Display) -> dict[str, KeypadValue]:
        return keypad.keypad_values(survey, choices, plan, display)

    def recheck(self, survey: BoosterSurvey, choices: BoosterChoices, sheet: EntrySheet) -> Plan:
        return keypad.recheck(survey, choices, sheet)

    def held(self, survey: BoosterSurvey, choices: BoosterChoices, device: DeviceValues, display: Display) -> Held[Numbers]:
        return held(survey, choices, device, display)


class BoosterMeasuring(Measuring[BoosterSurvey, BoosterChoices]):
    """Step tests of the loop."""

    def measured_of(self, survey: BoosterSurvey, history: History) -> tuple[measured.StepTested, ...]:
        return measured.measured_of(survey, history)

    def with_measured(self, survey: BoosterSurvey, choices: BoosterChoices, measured_: tuple[Any, ...]) -> BoosterSurvey:
        return measured.with_measured(survey, choices, measured_)

    def findings(self, survey: BoosterSurvey, choices: BoosterChoices, measured_: tuple[Any, ...]) -> list[Finding]:
        return measured.measured_findings(survey, choices, measured_)


class BoosterMotors(Motored[BoosterSurvey]):
    """The pumps' motors."""

    def duties(self, survey: BoosterSurvey) -> tuple[MotorDuty, ...]:
        return duties(survey)

    def water_side(self, survey: BoosterSurvey) -> str:
        return "Open the suction, fill and vent every casing, check the tank's gas with its water side empty, open one outlet, look that the gauge and the relief valve are there."

    def provisional(self, survey: BoosterSurvey) -> tuple[str, ...]:
        return (S.LOW_LEVEL_STOP if survey.switch_in_tank else S.LOW_SUCTION_STOP, S.HIGH_STOP)

    def protection(self, survey: BoosterSurvey) -> ProtectionFacts:
        return survey.protection

    def has_floats(self, survey: BoosterSurvey) -> bool:
        return False

    def with_readings(self, survey: BoosterSurvey, readings: tuple[ReadCurrent, ...]) -> BoosterSurvey:
        return survey.model_copy(update={"clamped": readings})


class BoosterDiagnosing(Diagnosing[BoosterSurvey, BoosterChoices]):
    """What can be broken of it, and seen."""

    def troubles(self, bench: BoosterBench) -> tuple[Trouble, ...]:
        return troubles(bench)

    def signs(self, bench: BoosterBench) -> tuple[Sign, ...]:
        return signs(bench)

    def stories(self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> tuple[Scene, ...]:
        return stories(survey, choices, plan)

    def at_work(self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> Scene:
        return at_work(survey, choices, plan)

    def dangers(self, bench: BoosterBench) -> tuple[Trouble, ...]:
        return dangers(bench)

    def levers(self, bench: BoosterBench) -> tuple[Lever, ...]:
        return levers(bench)


class BoosterKind(StationKind[BoosterSurvey, BoosterChoices, Numbers]):
    """Pumps that keep a pressure for people who draw water."""

    id = "booster"
    label = "Booster set"
    main = Quantity.PRESSURE
    start_name = "start_pa"
    groups = (
        ("pressures", ""),
        ("levels", "Water in the tank"),
        ("speeds", "Speeds"),
        ("loads", "Loads of the pumps"),
        ("loop", "The loop"),
        ("power", "On the generator"),
        ("timers", "Timers"),
        (GROUP, "Motors and their supply"),
    )
    longest_run_s = LONGEST_S
    survey_model = BoosterSurvey
    choices_model = BoosterChoices
    instruments = BoosterInstruments()
    keypad = BoosterKeypad()
    measuring = BoosterMeasuring()
    motors = BoosterMotors()
    live = LIVE
    diagnosis = BoosterDiagnosing()
    wire_meanings = wires.MEANINGS
    declinable = DECLINABLE

    def plausibility(self, values: Mapping[str, Any]) -> list[Finding]:
        return plausibility(values)

    def reckon(self, survey: BoosterSurvey, choices: BoosterChoices, explain_empty: bool = True) -> Plan:
        return reckon(survey, choices, explain_empty)

    def bench(
        self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, start: float | None = None, program: Numbers | None = None
    ) -> BoosterBench:
        return booster_bench(survey, choices, plan, start, program)

    def proofs(self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> tuple[Proof, ...]:
        return proofs(survey, choices, plan)

    def prove_on_bench(
        self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, held: Held[Numbers] | None = None,
        only: frozenset[str] | None = None, broken: Trouble | None = None,
    ) -> tuple[BenchProof, ...]:  # fmt: skip
        return prove_on_bench(survey, choices, plan, held, only, broken)

    def scenes(self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> dict[str, Scene]:
        return scenes(survey, choices, plan)

    def not_declined(self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, setting_id: str) -> str:
        return cautions.not_declined(setting_id)

    def joints(self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> tuple[Joint, ...]:
        return wires.joints(survey, choices, plan)

    def otherwise(self, survey: BoosterSurvey, plan: Plan, setting: Setting) -> Otherwise | None:
        return instruments.otherwise(survey, plan, setting)

    def chances(self, survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, unsure: Mapping[str, float] | None = None) -> dict[str, float]:
        return chances(survey, choices, plan, unsure)

    def as_found(self, survey: BoosterSurvey, setting_id: str) -> float | None:
        return survey.as_found_of(setting_id)

    def notes_as_found(self, survey: BoosterSurvey) -> str:
        return survey.as_found.notes

    def cautions(self, survey: BoosterSurvey, choices: BoosterChoices) -> tuple[str, ...]:
        return cautions.cautions(survey, choices)

    def by_clock(self, survey: BoosterSurvey, choices: BoosterChoices) -> tuple[str, ...]:
        return cautions.by_clock(survey, choices)


BOOSTER = BoosterKind()
