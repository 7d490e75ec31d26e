"""The transfer set as one of the kinds."""

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
from goodbalance.core.rehearsal.proving import BenchProof, Scene
from goodbalance.core.rehearsal.troubles import Lever, Sign, Trouble
from goodbalance.core.sheets.devices import DeviceValues
from goodbalance.core.sheets.entry_sheet import EntrySheet, KeypadValue, Scale
from goodbalance.core.sheets.profile import Display, Profile
from goodbalance.core.sheets.wiring import Joint
from goodbalance.core.stations.kind import Diagnosing, Instruments, Keypad, Motored, StationKind
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.transfer.bench.breakable import dangers, troubles
from goodbalance.core.stations.transfer.bench.put_on import transfer_bench
from goodbalance.core.stations.transfer.bench.rehearse import LONGEST_S, TransferBench
from goodbalance.core.stations.transfer.bench.signs import signs
from goodbalance.core.stations.transfer.controller.numbers import Numbers
from goodbalance.core.stations.transfer.names import Level
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant import readings as instruments
from goodbalance.core.stations.transfer.plant.motors import duties
from goodbalance.core.stations.transfer.proofs.listed import proofs
from goodbalance.core.stations.transfer.proofs.on_bench import prove_on_bench, scenes
from goodbalance.core.stations.transfer.proofs.stories import at_work, levers, stories
from goodbalance.core.stations.transfer.sheet import cautions, keypad, wires
from goodbalance.core.stations.transfer.sheet.as_held import held
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.plausibility import plausibility
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey
from goodbalance.core.stations.transfer.windows.chances import chances
from goodbalance.core.stations.transfer.windows.reckon import DECLINABLE, reckon


class TransferInstruments(Instruments[TransferSurvey, TransferChoices]):
    """The pressure sensor of the line."""

    def is_fitted(self, survey: TransferSurvey) -> bool:
        return survey.control.by_pressure

    def is_read(self, setting: Setting) -> bool:
        return instruments.is_read(setting)

    def readings(self, survey: TransferSurvey, value: float) -> Reading:
        return instruments.readings(survey, value)

    def allowed_error(self, choices: TransferChoices) -> float:
        return choices.rules.scaling_error_share

    def check_scaling(self, survey: TransferSurvey, body: Mapping[str, Any]) -> CheckedScaling:
        return instruments.checked_scaling(survey, body)


class TransferKeypad(Keypad[TransferSurvey, TransferChoices, Numbers]):
    """Transfer controllers."""

    section = ""
    families = (keypad.CONTROLLER,)

    def meanings(self) -> frozenset[str]:
        return keypad.meanings()

    def family_of(self, answers: Mapping[str, str]) -> str:
        return keypad.family_of(answers)

    def companions_of(self, answers: Mapping[str, str]) -> tuple[str, ...]:
        return keypad.companions_of(answers)

    def scale(self, survey: TransferSurvey, profile: Profile, display: Display) -> Scale:
        return keypad.keypad_scale(survey, profile, display)

    def values(self, survey: TransferSurvey, choices: TransferChoices, plan: Plan, display: Display) -> dict[str, KeypadValue]:
        return keypad.keypad_values(survey, choices, plan, display)

    def recheck(self, survey: TransferSurvey, choices: TransferChoices, sheet: EntrySheet) -> Plan:
        return keypad.recheck(survey, choices, sheet)

    def held(self, survey: TransferSurvey, choices: TransferChoices, device: DeviceValues, display: Display) -> Held[Numbers]:
        return held(survey, choices, device, display)


class TransferMotors(Motored[TransferSurvey]):
    """The pumps' motors."""

    def duties(self, survey: TransferSurvey) -> tuple[MotorDuty, ...]:
        return duties(survey)

    def water_side(self, survey: TransferSurvey) -> str:
        return "Fill and vent the pumps and the suction, look that the source stands over the intake, open the line to a tank that takes water, look that check valves and the gauge are there; somebody stands at the tank."

    def provisional(self, survey: TransferSurvey) -> tuple[str, ...]:
        return (S.SOURCE_STOP_1, S.STOP_PRESSURE, Level.HIGH_ALARM.of(1))

    def protection(self, survey: TransferSurvey) -> ProtectionFacts:
        return survey.protection

    def has_floats(self, survey: TransferSurvey) -> bool:
        return survey.control.by_levels

    def with_readings(self, survey: TransferSurvey, readings: tuple[ReadCurrent, ...]) -> TransferSurvey:
        return survey.model_copy(update={"clamped": readings})


class TransferDiagnosing(Diagnosing[TransferSurvey, TransferChoices]):
    """What can be broken of it, and seen."""

    def troubles(self, bench: TransferBench) -> tuple[Trouble, ...]:
        return troubles(bench)

    def signs(self, bench: TransferBench) -> tuple[Sign, ...]:
        return signs(bench)

    def stories(self, survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> tuple[Scene, ...]:
        return stories(survey, choices, plan)

    def at_work(self, survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> Scene:
        return at_work(survey, choices, plan)

    def dangers(self, bench: TransferBench) -> tuple[Trouble, ...]:
        return dangers(bench)

    def levers(self, bench: TransferBench) -> tuple[Lever, ...]:
        return levers(bench)


class TransferKind(StationKind[TransferSurvey, TransferChoices, Numbers]):
    """Pumps that fill tanks from a source."""

    id = "transfer"
    label = "Transfer set"
    main = Quantity.PRESSURE
    start_name = "start_level_m"
    groups = (("pressures", ""), ("levels", "Levels in the tanks"), ("sources", "The source"), ("timers", "Timers"), (GROUP, "Motors and their supply"))
    longest_run_s = LONGEST_S
    survey_model = TransferSurvey
    choices_model = TransferChoices
    instruments = TransferInstruments()
    keypad = TransferKeypad()
    motors = TransferMotors()
    diagnosis = TransferDiagnosing()
    wire_meanings = wires.MEANINGS
    declinable = DECLINABLE

    def plausibility(self, values: Mapping[str, Any]) -> list[Finding]:
        return plausibility(values)

    def reckon(self, survey: TransferSurvey, choices: TransferChoices, explain_empty: bool = True) -> Plan:
        return reckon(survey, choices, explain_empty)

    def bench(
        self, survey: TransferSurvey, choices: TransferChoices, plan: Plan, start: float | None = None, program: Numbers | None = None
    ) -> TransferBench:
        return transfer_bench(survey, choices, plan, start, program)

    def proofs(self, survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> tuple[Proof, ...]:
        return proofs(survey, choices, plan)

    def prove_on_bench(
        self, survey: TransferSurvey, choices: TransferChoices, plan: Plan, held: Held[Numbers] | None = None,
        only: frozenset[str] | None = None, broken: Trouble | None = None,
    ) -> tuple[BenchProof, ...]:  # fmt: skip
        return prove_on_bench(survey, choices, plan, held, only, broken)

    def scenes(self, survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> dict[str, Scene]:
        return scenes(survey, choices, plan)

    def not_declined(self, survey: TransferSurvey, choices: TransferChoices, plan: Plan, setting_id: str) -> str:
        return cautions.not_declined(survey, setting_id)

    def joints(self, survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> tuple[Joint, ...]:
        return wires.joints(survey, choices, plan)

    def otherwise(self, survey: TransferSurvey, plan: Plan, setting: Setting) -> Otherwise | None:
        return instruments.otherwise(survey, plan, setting)

    def chances(self, survey: TransferSurvey, choices: TransferChoices, plan: Plan, unsure: Mapping[str, float] | None = None) -> dict[str, float]:
        return chances(survey, choices, plan, unsure)

    def as_found(self, survey: TransferSurvey, setting_id: str) -> float | None:
        return survey.as_found_of(setting_id)

    def notes_as_found(self, survey: TransferSurvey) -> str:
        return survey.as_found.notes

    def cautions(self, survey: TransferSurvey, choices: TransferChoices) -> tuple[str, ...]:
        return cautions.cautions(survey, choices)

    def by_clock(self, survey: TransferSurvey, choices: TransferChoices) -> tuple[str, ...]:
        return cautions.by_clock(survey, choices)


TRANSFER = TransferKind()
