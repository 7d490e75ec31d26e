"""What of the plan goes into a maintenance pump's controller, by meaning; and how a device shows it. Main pumps' starts never do."""

from collections.abc import Mapping

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.protection import keypad as protection
from goodbalance.core.protection.monitor import MEANINGS as SUPPLY_MEANINGS
from goodbalance.core.protection.monitor import RATED
from goodbalance.core.protection.names import GROUP
from goodbalance.core.protection.numbers import MEANINGS
from goodbalance.core.sheets.entry_sheet import NEAR_SPAN, EntrySheet, KeypadValue, Scale
from goodbalance.core.sheets.profile import Display, Profile
from goodbalance.core.stations.maintenance.names import OTHERS
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.plant.motors import duties
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.maintenance.windows.reckon import reckon

CONTROLLER = "maintenance controller"
TYPED = (S.STOP_PRESSURE, S.START_PRESSURE, S.ON_DELAY, S.LEAST_RUN, S.LONG_RUN)


def meanings() -> frozenset[str]:
    """Every meaning a device may ask for, {n} standing for a pump's number."""
    once = ("sensor.range", "sensor.signal", "sensor.filter", "display.unit", "alarm.reset", "control.power_return", "control.run_on")
    return frozenset((*once, *MEANINGS, *SUPPLY_MEANINGS, RATED, f"pump.{{n}}.{protection.RUNNING}", *(f"setting.{one}" for one in TYPED)))


def family_of(answers: Mapping[str, str]) -> str:
    """The family of the device the numbers are typed into."""
    return CONTROLLER


def companions_of(answers: Mapping[str, str]) -> tuple[str, ...]:
    """What is set beside it: its starter, and what watches the motor."""
    return protection.companions_of(answers, False)


def keypad_scale(survey: MaintenanceSurvey, profile: Profile, display: Display) -> Scale:
    """How this family shows pressures of this line. KeyError if it cannot show them in that unit."""
    return Scale(display, profile.steps[display], profile.decimals[display], 0.0, survey.sensor.range_pa)


def keypad_values(survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan, display: Display) -> dict[str, KeypadValue]:
    """Everything a device of any family may ask for."""
    sensor, schools, why = survey.sensor, choices.schools, "from Schools"
    values = {
        "display.unit": KeypadValue(display.value, "unit chosen for this controller"),
        "sensor.range": KeypadValue(sensor.range_pa, "range of the pressure sensor", near=NEAR_SPAN * sensor.range_pa), "sensor.signal": KeypadValue(sensor.signal.value, "signal of the pressure sensor"),
        "sensor.filter": KeypadValue(sensor.filter_s, "its filter, as surveyed"), "control.power_return": KeypadValue(choices.protection.power_return.value, why),
        "control.run_on": KeypadValue(schools.run_on.value, why), "alarm.reset": KeypadValue(schools.alarm_reset.value, why),
    }  # fmt: skip
    for setting in plan.settings:
        if setting.group not in (GROUP, OTHERS):
            values[f"setting.{setting.id}"] = KeypadValue(
                setting.value, f"{setting.label.lower()}, from the plan", setting.window, setting.id, None if setting.quantity is Q.PRESSURE else (0.0, 1.0), setting.chosen is not None
            )
    return values | protection.values_of(plan, duties(survey))


def recheck(survey: MaintenanceSurvey, choices: MaintenanceChoices, sheet: EntrySheet) -> Plan:
    """The plan with every setting exactly as the keypad holds it after rounding, so that windows can be checked again."""
    kept = {setting.id: setting.value for setting in reckon(survey, choices, False).settings}
    kept |= {row.setting: row.value for row in sheet.rows if row.setting and row.value is not None}
    return reckon(survey, choices.model_copy(update={"chosen": kept}), False)
