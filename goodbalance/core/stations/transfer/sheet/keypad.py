"""What of a transfer plan goes into controllers, by meaning; and how a device shows it."""

from collections.abc import Mapping

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.protection import keypad as protection
from goodbalance.core.protection.monitor import MEANINGS as SUPPLY_MEANINGS
from goodbalance.core.protection.monitor import RATED
from goodbalance.core.protection.names import GROUP
from goodbalance.core.protection.numbers import MEANINGS
from goodbalance.core.sheets.entry_sheet import NEAR_SPAN, EntrySheet, KeypadValue, Scale
from goodbalance.core.sheets.profile import Display, Profile
from goodbalance.core.stations.shared.crew import crew_values
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.motors import duties
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.control import SourceBy
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey
from goodbalance.core.stations.transfer.windows.reckon import reckon

CONTROLLER = "transfer controller"
OF_THE_SET = ("full_by", "restart_by", "delay_from", "after_cut", "source_reset", "power_return")


def meanings() -> frozenset[str]:
    """Every meaning a device of a transfer set may ask for, {n} standing for a pump's number."""
    once = ("pumps.count", "pumps.alternation", "pumps.clock_period", "pumps.standby", "pumps.most", "sensor.range", "sensor.signal", "sensor.filter", "display.unit", "alarm.reset")
    return frozenset((*once, *MEANINGS, *SUPPLY_MEANINGS, RATED, f"pump.{{n}}.{protection.RUNNING}", *(f"control.{name}" for name in OF_THE_SET), *(f"setting.{one}" for one in S)))


def family_of(answers: Mapping[str, str]) -> str:
    """The family of the device the numbers are typed into."""
    return CONTROLLER


def companions_of(answers: Mapping[str, str]) -> tuple[str, ...]:
    """What is set beside it: starters, and what watches the motors."""
    return protection.companions_of(answers, False)


def keypad_scale(survey: TransferSurvey, profile: Profile, display: Display) -> Scale:
    """How this family shows pressures of this set. KeyError if it cannot show them in that unit."""
    return Scale(display, profile.steps[display], profile.decimals[display], 0.0, survey.sensor.range_pa)


def keypad_values(survey: TransferSurvey, choices: TransferChoices, plan: Plan, display: Display) -> dict[str, KeypadValue]:
    """Everything a device of any family may ask for."""
    sensor = survey.sensor
    values = {
        "pumps.count": KeypadValue(float(survey.pumping.count), "pumps of the survey"), "display.unit": KeypadValue(display.value, "unit chosen for this controller"),
        "sensor.range": KeypadValue(sensor.range_pa, "range of the pressure sensor", near=NEAR_SPAN * sensor.range_pa), "sensor.signal": KeypadValue(sensor.signal.value, "signal of the pressure sensor"),
        "sensor.filter": KeypadValue(sensor.filter_s, "its filter, as surveyed: what goes past the stop is reckoned with it"), **_functions(survey, choices),
    }  # fmt: skip
    for setting in plan.settings:
        if setting.group != GROUP:
            values[f"setting.{setting.id}"] = KeypadValue(
                setting.value, f"{setting.label.lower()}, from the plan", setting.window, setting.id, None if setting.quantity is Q.PRESSURE else (0.0, 1.0), setting.chosen is not None
            )
    return values | protection.values_of(plan, duties(survey))


def _functions(survey: TransferSurvey, choices: TransferChoices) -> dict[str, KeypadValue]:
    """What is chosen of the functions this set has."""
    schools, why = choices.schools, "from Schools"
    found = {
        "control.full_by": KeypadValue(survey.control.full_by.value, "from the survey"), "control.power_return": KeypadValue(choices.protection.power_return.value, why),
        "alarm.reset": KeypadValue(schools.alarm_reset.value, why),
    }  # fmt: skip
    if survey.control.by_pressure:
        found |= {f"control.{name}": KeypadValue(getattr(schools, name).value, why) for name in ("restart_by", "delay_from", "after_cut")}
    if survey.control.source_by is not SourceBy.NONE:
        found["control.source_reset"] = KeypadValue(schools.source_reset.value, why)
    found |= {f"pumps.{name}": value for name, value in crew_values(survey.pumping).items()}
    if survey.pumping.duty_count > 1:
        found["pumps.alternation"] = KeypadValue(schools.alternation.value, "who leads next, from Schools")
        if schools.alternation is Alternation.CLOCK:
            found["pumps.clock_period"] = KeypadValue(choices.rules.clock_period_s, "turn passes by the clock, from Rules")
    return found


def recheck(survey: TransferSurvey, choices: TransferChoices, sheet: EntrySheet) -> Plan:
    """The plan with every setting exactly as the keypad holds it after rounding, so that windows can be checked again."""
    kept = {setting.id: setting.value for setting in reckon(survey, choices, False).settings}
    kept |= {row.setting: row.value for row in sheet.rows if row.setting and row.value is not None}
    return reckon(survey, choices.model_copy(update={"chosen": kept}), False)
