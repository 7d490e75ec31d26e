"""The maintenance pump of a fire line as one of the kinds."""

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
from goodbalance.core.stations.maintenance.bench.breakable import dangers, troubles
from goodbalance.core.stations.maintenance.bench.put_on import maintenance_bench
from goodbalance.core.stations.maintenance.bench.rehearse import LONGEST_S, MaintenanceBench
from goodbalance.core.stations.maintenance.bench.signs import signs
from goodbalance.core.stations.maintenance.controller.numbers import Numbers
from goodbalance.core.stations.maintenance.names import LICENSED, OTHERS
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.plant import readings as instruments
from goodbalance.core.stations.maintenance.plant.motors import duties
from goodbalance.core.stations.maintenance.proofs.listed import proofs
from goodbalance.core.stations.maintenance.proofs.on_bench import prove_on_bench, scenes
from goodbalance.core.stations.maintenance.proofs.stories import at_work, levers, stories
from goodbalance.core.stations.maintenance.sheet import cautions, keypad, wires
from goodbalance.core.stations.maintenance.sheet.as_held import held
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices
from goodbalance.core.stations.maintenance.survey.plausibility import plausibility
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.maintenance.windows.chances import chances
from goodbalance.core.stations.maintenance.windows.reckon import DECLINABLE, reckon
from goodbalance.core.stations.shared.held import Held


class MaintenanceInstruments(Instruments[MaintenanceSurvey, MaintenanceChoices]):
    """The pressure sensor of the line."""

    def is_fitted(self, survey: MaintenanceSurvey) -> bool:
        return True

    def is_read(self, setting: Setting) -> bool:
        return instruments.is_read(setting)

    def readings(self, survey: MaintenanceSurvey, value: float) -> Reading:
        return instruments.readings(survey, value)

    def allowed_error(self, choices: MaintenanceChoices) -> float:
        return choices.rules.scaling_error_share

    def check_scaling(self, survey: MaintenanceSurvey, body: Mapping[str, Any]) -> CheckedScaling:
        return instruments.checked_scaling(survey, body)


class MaintenanceKeypad(Keypad[MaintenanceSurvey, MaintenanceChoices, Numbers]):
    """Controllers of maintenance pumps."""

    section = ""
    families = (keypad.CONTROLLER,)

    def meanings(self) -> frozenset[str]:
        return keypad.meanings()

    def family_of(self, answers: Mapping[str, str]) -> str:
        return keypad.family_of(answers)

    def companions_of(self, answers: Mapping[str, str]) -> tuple[str, ...]:
        return keypad.companions_of(answers)

    def scale(self, survey: MaintenanceSurvey, profile: Profile, display: Display) -> Scale:
        return keypad.keypad_scale(survey, profile, display)

    def values(self, survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan, display: Display) -> dict[str, KeypadValue]:
        return keypad.keypad_values(survey, choices, plan, display)

    def recheck(self, survey: MaintenanceSurvey, choices: MaintenanceChoices, sheet: EntrySheet) -> Plan:
        return keypad.recheck(survey, choices, sheet)

    def held(self, survey: MaintenanceSurvey, choices: MaintenanceChoices, device: DeviceValues, display: Display) -> Held[Numbers]:
        return held(survey, choices, device, display)


class MaintenanceMotors(Motored[MaintenanceSurvey]):
    """The motor of the maintenance pump; a main pump's is not looked at."""

    def duties(self, survey: MaintenanceSurvey) -> tuple[MotorDuty, ...]:
        return duties(survey)

    def water_side(self, survey: MaintenanceSurvey) -> str:
        return "Fill and vent pump and suction; look that the line stands at the supply's pressure, that valves to the line are locked open and the sensing line's cock is shut."

    def told(self, survey: MaintenanceSurvey) -> tuple[str, str]:
        rule = survey.authority.rule.strip() or "the rule in force"
        first = f"With a licensed person beside you tell the alarm receiver, begin the owner's impairment procedure by {rule}, and have somebody guard what the system guards."
        return first, "Tell the alarm receiver that it is back in service, end the impairment; the licensed person hears both."

    def provisional(self, survey: MaintenanceSurvey) -> tuple[str, ...]:
        return (S.STOP_PRESSURE, S.LONG_RUN)

    def protection(self, survey: MaintenanceSurvey) -> ProtectionFacts:
        return survey.protection

    def has_floats(self, survey: MaintenanceSurvey) -> bool:
        return False

    def with_readings(self, survey: MaintenanceSurvey, readings: tuple[ReadCurrent, ...]) -> MaintenanceSurvey:
        return survey.model_copy(update={"clamped": readings})


class MaintenanceDiagnosing(Diagnosing[MaintenanceSurvey, MaintenanceChoices]):
    """What can be broken of it, and seen."""

    def troubles(self, bench: MaintenanceBench) -> tuple[Trouble, ...]:
        return troubles(bench)

    def signs(self, bench: MaintenanceBench) -> tuple[Sign, ...]:
        return signs(bench)

    def stories(self, survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> tuple[Scene, ...]:
        return stories(survey, choices, plan)

    def at_work(self, survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> Scene:
        return at_work(survey, choices, plan)

    def dangers(self, bench: MaintenanceBench) -> tuple[Trouble, ...]:
        return dangers(bench)

    def levers(self, bench: MaintenanceBench) -> tuple[Lever, ...]:
        return levers(bench)


class MaintenanceKind(StationKind[MaintenanceSurvey, MaintenanceChoices, Numbers]):
    """A small pump that keeps a fire line at pressure, so that the main pump starts only for a fire."""

    id = "maintenance"
    label = "Maintenance pump of a fire line"
    main = Quantity.PRESSURE
    start_name = "start_pa"
    groups = (("pressures", ""), (OTHERS, "Main pumps' starts: their people's, recorded here, never typed from here"), ("timers", "Timers"), (GROUP, "The motor and its supply"))
    recorded = {OTHERS: "its people's: recorded, witnessed"}
    caution = LICENSED
    longest_run_s = LONGEST_S
    survey_model = MaintenanceSurvey
    choices_model = MaintenanceChoices
    instruments = MaintenanceInstruments()
    keypad = MaintenanceKeypad()
    motors = MaintenanceMotors()
    diagnosis = MaintenanceDiagnosing()
    wire_meanings = wires.MEANINGS
    declinable = DECLINABLE

    def plausibility(self, values: Mapping[str, Any]) -> list[Finding]:
        return plausibility(values)

    def reckon(self, survey: MaintenanceSurvey, choices: MaintenanceChoices, explain_empty: bool = True) -> Plan:
        return reckon(survey, choices, explain_empty)

    def bench(
        self, survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan, start: float | None = None, program: Numbers | None = None
    ) -> MaintenanceBench:
        return maintenance_bench(survey, choices, plan, start, program)

    def proofs(self, survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> tuple[Proof, ...]:
        return proofs(survey, choices, plan)

    def prove_on_bench(
        self, survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan, held: Held[Numbers] | None = None,
        only: frozenset[str] | None = None, broken: Trouble | None = None,
    ) -> tuple[BenchProof, ...]:  # fmt: skip
        return prove_on_bench(survey, choices, plan, held, only, broken)

    def scenes(self, survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> dict[str, Scene]:
        return scenes(survey, choices, plan)

    def not_declined(self, survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan, setting_id: str) -> str:
        return "" if setting_id in DECLINABLE else "It is no protection that a job may do without."

    def joints(self, survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> tuple[Joint, ...]:
        return wires.joints(survey, choices, plan)

    def otherwise(self, survey: MaintenanceSurvey, plan: Plan, setting: Setting) -> Otherwise | None:
        return instruments.otherwise(survey, plan, setting)

    def chances(self, survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan, unsure: Mapping[str, float] | None = None) -> dict[str, float]:
        return chances(survey, choices, plan, unsure)

    def as_found(self, survey: MaintenanceSurvey, setting_id: str) -> float | None:
        return survey.as_found_of(setting_id)

    def notes_as_found(self, survey: MaintenanceSurvey) -> str:
        return survey.as_found.notes

    def cautions(self, survey: MaintenanceSurvey, choices: MaintenanceChoices) -> tuple[str, ...]:
        return cautions.cautions(survey, choices)



MAINTENANCE = MaintenanceKind()
