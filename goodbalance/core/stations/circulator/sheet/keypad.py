"""What of the plan goes into a circulator, by meaning; and how a device shows it. Valves never do: they are set by hand."""

from collections.abc import Mapping

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.sheets.entry_sheet import EntrySheet, KeypadValue, Scale
from goodbalance.core.sheets.profile import Display, Profile
from goodbalance.core.stations.circulator.names import BY_HAND, IN_HOURS
from goodbalance.core.stations.circulator.names import SettingId as S
from goodbalance.core.stations.circulator.plant.equations import equations
from goodbalance.core.stations.circulator.survey.choices import MAX_OWN, CirculatorChoices
from goodbalance.core.stations.circulator.survey.hours import by_clock, typed
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.survey.use import Outside
from goodbalance.core.stations.circulator.windows.reckon import reckon
from goodbalance.core.stations.shared.week import DAY_S

CONTROLLER = "circulator"
TYPED = (S.SPEED, S.SET_PRESSURE, S.SET_FLOW, S.SET_RETURN, S.STAT_START, S.STAT_STOP, S.BUTTON_RUN, S.KICK_EVERY)
UNUSED = "unused"  # the days of a time that is not used
MINUTE_S = 60.0


def meanings() -> frozenset[str]:
    """Every meaning a device may ask for."""
    times = (f"schedule_{number}_{part}" for number in range(1, MAX_OWN + 1) for part in ("days", "from", "to"))
    return frozenset(("display.unit", "control.mode", "control.by_clock", "control.outside", "control.wins", *times, *(f"setting.{one}" for one in TYPED)))


def family_of(answers: Mapping[str, str]) -> str:
    """The family of the device the numbers are typed into."""
    return CONTROLLER


def companions_of(answers: Mapping[str, str]) -> tuple[str, ...]:
    """What is set beside it: nothing."""
    return ()


def keypad_scale(survey: CirculatorSurvey, profile: Profile, display: Display) -> Scale:
    """How this family shows pressures of this ring. KeyError if it cannot show them in that unit."""
    return Scale(display, profile.steps[display], profile.decimals[display], 0.0, equations(survey).curve.a)


def keypad_values(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan, display: Display) -> dict[str, KeypadValue]:
    """Everything a device of any family may ask for."""
    clock, why = by_clock(survey, choices), "from Schools"
    values = {
        "display.unit": KeypadValue(display.value, "unit chosen for this circulator"), "control.mode": KeypadValue(choices.schools.mode.value, why),
        "control.by_clock": KeypadValue("yes" if clock else "no", "from Schools: by its own clock, or always"), "control.outside": KeypadValue(survey.control.outside.value, "from the survey"),
    }  # fmt: skip
    if survey.control.outside is not Outside.NONE:
        values["control.wins"] = KeypadValue(choices.schools.wins.value, why)
    if clock:
        values |= _times(survey, choices, plan)
    for setting in plan.settings:
        if setting.group not in (BY_HAND, IN_HOURS):
            near = None if setting.quantity is Q.DIFFERENCE else (0.0, 1.0)
            values[f"setting.{setting.id}"] = KeypadValue(setting.value, f"{setting.label.lower()}, from the plan", setting.window, setting.id, near, setting.chosen is not None)
    return values


def _times(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> dict[str, KeypadValue]:
    """The times of the week as they are typed, the lead in them; those not used stand so."""
    found, times = {}, typed(survey, choices, plan.value(S.LEAD, 0.0))
    for number in range(1, MAX_OWN + 1):
        if number > len(times):
            found[f"schedule_{number}_days"] = KeypadValue(UNUSED, "not used")
            continue
        each = times[number - 1]
        found[f"schedule_{number}_days"] = KeypadValue(each.days.value, "from the hours")
        found[f"schedule_{number}_from"] = KeypadValue(each.from_s, "from the hours, its lead taken off", near=0.5 * MINUTE_S)
        found[f"schedule_{number}_to"] = KeypadValue(min(each.to_s, DAY_S), "from the hours", near=0.5 * MINUTE_S)
    return found


def recheck(survey: CirculatorSurvey, choices: CirculatorChoices, sheet: EntrySheet) -> Plan:
    """The plan with every setting exactly as the keypad holds it after rounding, so that windows can be checked again."""
    kept = {setting.id: setting.value for setting in reckon(survey, choices, False).settings}
    kept |= {row.setting: row.value for row in sheet.rows if row.setting and row.value is not None}
    return reckon(survey, choices.model_copy(update={"chosen": kept}), False)
