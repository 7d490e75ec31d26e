"""The lift station as one of the kinds."""

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
from goodbalance.core.rehearsal.engine import LONGEST_RUN_S
from goodbalance.core.rehearsal.proving import BenchProof, Scene
from goodbalance.core.rehearsal.troubles import Lever, Sign, Trouble
from goodbalance.core.sheets.devices import DeviceValues
from goodbalance.core.sheets.entry_sheet import EntrySheet, KeypadValue, Scale
from goodbalance.core.sheets.profile import Display, Profile
from goodbalance.core.sheets.wiring import Joint
from goodbalance.core.stations.kind import Diagnosing, Instruments, Keypad, Measuring, Motored, StationKind
from goodbalance.core.stations.lift.bench.breakable import dangers, troubles
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.bench.rehearse import LiftBench
from goodbalance.core.stations.lift.bench.signs import signs
from goodbalance.core.stations.lift.controller.program import LiftProgram
from goodbalance.core.stations.lift.names import Role
from goodbalance.core.stations.lift.plant import readings as instruments
from goodbalance.core.stations.lift.plant.motors import duties
from goodbalance.core.stations.lift.proofs.listed import proofs
from goodbalance.core.stations.lift.proofs.live import LIVE
from goodbalance.core.stations.lift.proofs.on_bench import prove_on_bench, scenes
from goodbalance.core.stations.lift.proofs.stories import at_work, levers, stories
from goodbalance.core.stations.lift.sheet import cautions, keypad, wires
from goodbalance.core.stations.lift.sheet.as_held import SILENT, held
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.plausibility import plausibility
from goodbalance.core.stations.lift.survey.sensing import LevelBy
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.trials import measured
from goodbalance.core.stations.lift.windows.chances import chances
from goodbalance.core.stations.lift.windows.reckon import DECLINABLE, reckon
from goodbalance.core.stations.shared.held import Held


class LiftInstruments(Instruments[LiftSurvey, LiftChoices]):
    """The level sensor."""

    def is_fitted(self, survey: LiftSurvey) -> bool:
        return survey.sensor is not None

    def is_read(self, setting: Setting) -> bool:
        return instruments.is_read(setting)

    def readings(self, survey: LiftSurvey, value: float) -> Reading:
        return instruments.readings(survey, value)

    def allowed_error(self, choices: LiftChoices) -> float:
        return choices.rules.scaling_error_share

    def check_scaling(self, survey: LiftSurvey, body: Mapping[str, Any]) -> CheckedScaling:
        return instruments.checked_scaling(survey, body)


class LiftKeypad(Keypad[LiftSurvey, LiftChoices, LiftProgram]):
    """Level relays, pump controllers and drives."""

    section = "relays"
    families = (keypad.RELAYS, keypad.CONTROLLER, keypad.PANEL, keypad.TEAM)

    def meanings(self) -> frozenset[str]:
        return keypad.meanings()

    def family_of(self, answers: Mapping[str, str]) -> str:
        return keypad.family_of(answers)

    def companions_of(self, answers: Mapping[str, str]) -> tuple[str, ...]:
        return keypad.companions_of(answers)

    def scale(self, survey: LiftSurvey, profile: Profile, display: Display) -> Scale:
        return keypad.keypad_scale(survey, profile, display)

    def values(self, survey: LiftSurvey, choices: LiftChoices, plan: Plan, display: Display) -> dict[str, KeypadValue]:
        return keypad.keypad_values(survey, choices, plan, display)

    def recheck(self, survey: LiftSurvey, choices: LiftChoices, sheet: EntrySheet) -> Plan:
        return keypad.recheck(survey, choices, sheet)

    def held(self, survey: LiftSurvey, choices: LiftChoices, device: DeviceValues, display: Display) -> Held[LiftProgram]:
        return held(survey, choices, device, display)


class LiftMeasuring(Measuring[LiftSurvey, LiftChoices]):
    """Timed drawdowns."""

    def measured_of(self, survey: LiftSurvey, history: History) -> tuple[measured.Measured, ...]:
        return measured.measured_of(survey, history)

    def with_measured(self, survey: LiftSurvey, choices: LiftChoices, measured_: tuple[Any, ...]) -> LiftSurvey:
        return measured.with_measured(survey, choices, measured_)

    def findings(self, survey: LiftSurvey, choices: LiftChoices, measured_: tuple[Any, ...]) -> list[Finding]:
        return measured.measured_findings(survey, choices, measured_)


class LiftMotors(Motored[LiftSurvey]):
    """The pumps' motors."""

    def duties(self, survey: LiftSurvey) -> tuple[MotorDuty, ...]:
        return duties(survey)

    def water_side(self, survey: LiftSurvey) -> str:
        return "Fill the well over the pumps' casings, open the valves of the rising main, look that check valves and guide rails sit, let air out of the casings."

    def provisional(self, survey: LiftSurvey) -> tuple[str, ...]:
        return (Role.LOW_CUT_OUT, Role.HIGH_ALARM)

    def protection(self, survey: LiftSurvey) -> ProtectionFacts:
        return survey.protection

    def has_floats(self, survey: LiftSurvey) -> bool:
        return survey.control.level_by is not LevelBy.SENSOR or survey.demands.low_float

    def with_readings(self, survey: LiftSurvey, readings: tuple[ReadCurrent, ...]) -> LiftSurvey:
        return survey.model_copy(update={"clamped": readings})


class LiftDiagnosing(Diagnosing[LiftSurvey, LiftChoices]):
    """What can be broken of it, and seen."""

    def troubles(self, bench: LiftBench) -> tuple[Trouble, ...]:
        return troubles(bench)

    def signs(self, bench: LiftBench) -> tuple[Sign, ...]:
        return signs(bench)

    def stories(self, survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> tuple[Scene, ...]:
        return stories(survey, choices, plan)

    def at_work(self, survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> Scene:
        return at_work(survey, choices, plan)

    def dangers(self, bench: LiftBench) -> tuple[Trouble, ...]:
        return dangers(bench)

    def levers(self, bench: LiftBench) -> tuple[Lever, ...]:
        return levers(bench)


class LiftKind(StationKind[LiftSurvey, LiftChoices, LiftProgram]):
    """Pumps that lift what flows in out of a well."""

    id = "lift"
    label = "Lift station"
    main = Quantity.LEVEL
    start_name = "start_level_m"
    groups = (
        ("levels", ""),
        ("floats", "Floats behind the sensor, hung by hand"),
        ("drives", "Drives"),
        ("timers", "Timers"),
        (GROUP, "Motors and their supply"),
    )
    upright = True
    longest_run_s = LONGEST_RUN_S
    survey_model = LiftSurvey
    choices_model = LiftChoices
    instruments = LiftInstruments()
    keypad = LiftKeypad()
    measuring = LiftMeasuring()
    motors = LiftMotors()
    live = LIVE
    diagnosis = LiftDiagnosing()
    wire_meanings = wires.MEANINGS
    declinable = DECLINABLE
    harms_without = SILENT

    def plausibility(self, values: Mapping[str, Any]) -> list[Finding]:
        return plausibility(values)

    def reckon(self, survey: LiftSurvey, choices: LiftChoices, explain_empty: bool = True) -> Plan:
        return reckon(survey, choices, explain_empty)

    def bench(
        self, survey: LiftSurvey, choices: LiftChoices, plan: Plan, start: float | None = None, program: LiftProgram | None = None
    ) -> LiftBench:
        return lift_bench(survey, choices, plan, start, program)

    def proofs(self, survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> tuple[Proof, ...]:
        return proofs(survey, choices, plan)

    def prove_on_bench(
        self, survey: LiftSurvey, choices: LiftChoices, plan: Plan, held: Held[LiftProgram] | None = None,
        only: frozenset[str] | None = None, broken: Trouble | None = None,
    ) -> tuple[BenchProof, ...]:  # fmt: skip
        return prove_on_bench(survey, choices, plan, held, only, broken)

    def scenes(self, survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> dict[str, Scene]:
        return scenes(survey, choices, plan)

    def not_declined(self, survey: LiftSurvey, choices: LiftChoices, plan: Plan, setting_id: str) -> str:
        return cautions.not_declined(survey, choices, setting_id)

    def joints(self, survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> tuple[Joint, ...]:
        return wires.joints(survey, choices, plan)

    def otherwise(self, survey: LiftSurvey, plan: Plan, setting: Setting) -> Otherwise | None:
        return instruments.otherwise(plan, setting)

    def chances(self, survey: LiftSurvey, choices: LiftChoices, plan: Plan, unsure: Mapping[str, float] | None = None) -> dict[str, float]:
        return chances(survey, choices, plan, unsure)

    def as_found(self, survey: LiftSurvey, setting_id: str) -> float | None:
        return survey.as_found_of(setting_id)

    def notes_as_found(self, survey: LiftSurvey) -> str:
        return survey.as_found.notes

    def cautions(self, survey: LiftSurvey, choices: LiftChoices) -> tuple[str, ...]:
        return cautions.cautions(survey, choices)

    def by_clock(self, survey: LiftSurvey, choices: LiftChoices) -> tuple[str, ...]:
        return cautions.by_clock(survey, choices)


LIFT = LiftKind()
