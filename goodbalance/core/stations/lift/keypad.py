"""What of a lift plan goes into a relay level controller, by meaning."""

from collections.abc import Mapping
from dataclasses import replace

from goodbalance.core.balance.plan import Plan
from goodbalance.core.control.relays import LevelRelay
from goodbalance.core.sheets.entry_sheet import EntrySheet, KeypadValue, LevelScale
from goodbalance.core.sheets.profile import LevelDisplay, Profile
from goodbalance.core.sheets.read_back import plain_number
from goodbalance.core.stations.lift.choices import LiftChoices
from goodbalance.core.stations.lift.hydraulics import hydraulics
from goodbalance.core.stations.lift.logic import FAILURE_DELAY_S, relays_of
from goodbalance.core.stations.lift.reckon import reckon
from goodbalance.core.stations.lift.survey import LiftSurvey


def level_scale(survey: LiftSurvey, profile: Profile, display: LevelDisplay) -> LevelScale:
    """How this family shows levels of this station. KeyError if it cannot show them in that unit."""
    hyd = hydraulics(survey)
    return LevelScale(
        display, profile.level_steps[display], profile.level_decimals[display], hyd.sensor_low_m, hyd.sensor_span_m
    )


def keypad_values(
    survey: LiftSurvey, choices: LiftChoices, plan: Plan, display: LevelDisplay
) -> dict[str, KeypadValue]:
    """Sensor scaling and, relay by relay, function, both levels and what it does on sensor failure."""
    hyd = hydraulics(survey)
    values = {
        "sensor.signal": KeypadValue(survey.sensor.signal.value, "signal of the surveyed sensor"),
        "display.level_unit": KeypadValue(display.value, "unit chosen for this controller"),
        "sensor.zero_level": KeypadValue(hyd.sensor_low_m, "lowest level the sensor reads, above the floor"),
        "sensor.full_level": KeypadValue(hyd.sensor_low_m + hyd.sensor_span_m, "lowest level plus the sensor's span"),
        "sensor.fail_delay": KeypadValue(FAILURE_DELAY_S, "long enough to ignore a loose moment"),
    }
    if hyd.signal.fail_low is not None:
        values["sensor.fail_low"] = KeypadValue(hyd.signal.fail_low, "NAMUR NE 43: 3.6 mA or less means failure")
    for number, relay in enumerate(relays_of(plan, choices), 1):
        setting = plan.setting(relay.role)
        own = "off_m" if relay.sets_at_off else "on_m"
        gap = "gap of the relay beside it"
        why = f"{setting.label.lower()} from the plan"
        values[f"relay.{number}.function"] = KeypadValue("level", f"{relay.label.lower()} relay")
        values[f"relay.{number}.on"] = KeypadValue(
            relay.on_m, why if own == "on_m" else gap, setting.window if own == "on_m" else None
        )
        values[f"relay.{number}.off"] = KeypadValue(
            relay.off_m, why if own == "off_m" else gap, setting.window if own == "off_m" else None
        )
        values[f"relay.{number}.on_failure"] = KeypadValue(
            relay.on_failure.value, f"{relay.label.lower()} when the sensor fails"
        )
    return values


def recheck(survey: LiftSurvey, choices: LiftChoices, sheet: EntrySheet) -> Plan:
    """The plan with every level exactly as the keypad holds it after rounding, so that windows can be checked again."""
    plan = reckon(survey, choices)
    levels = {setting.id: setting.value for setting in plan.settings}
    for number, relay in enumerate(relays_of(plan, choices), 1):
        own = "off" if relay.sets_at_off else "on"
        for row in sheet.rows:
            if row.parameter.meaning == f"relay.{number}.{own}" and row.level_m is not None:
                levels[relay.role] = row.level_m
    return reckon(survey, choices.model_copy(update={"levels_m": levels}))


def held_relays(
    choices: LiftChoices, plan: Plan, sheet: EntrySheet, typed: Mapping[str, str], scale: LevelScale
) -> tuple[LevelRelay, ...]:
    """The relays as the controller really holds them: levels read back take the place of the planned ones.

    What was not read back, or is no number, stays as planned.
    """
    held: dict[str, float] = {}
    for row in sheet.rows:
        try:
            held[row.parameter.meaning] = scale.level_m(plain_number(typed.get(row.parameter.code, "")))
        except ValueError:
            continue
    return tuple(
        replace(
            relay,
            on_m=held.get(f"relay.{number}.on", relay.on_m),
            off_m=held.get(f"relay.{number}.off", relay.off_m),
        )
        for number, relay in enumerate(relays_of(plan, choices), 1)
    )
