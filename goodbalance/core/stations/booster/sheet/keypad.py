"""What of a booster's plan goes into controllers and drives, by meaning; and what they really hold."""

import math
from collections.abc import Mapping
from dataclasses import replace

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.protection import keypad as protection
from goodbalance.core.protection.monitor import MEANINGS as SUPPLY_MEANINGS
from goodbalance.core.protection.monitor import RATED
from goodbalance.core.protection.names import GROUP
from goodbalance.core.protection.numbers import MEANINGS
from goodbalance.core.sheets.entry_sheet import NEAR_SPAN, EntrySheet, KeypadValue, Scale
from goodbalance.core.sheets.profile import Display, Profile
from goodbalance.core.stations.booster.names import BY_DIAL
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.motors import duties
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.control import ControlKind, Device, OutsideSet, SuctionBy
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.survey.week import TIMES
from goodbalance.core.stations.booster.windows.reckon import reckon
from goodbalance.core.stations.shared.crew import crew_values

MOTOR, WALL, PANEL = "motor speed controller", "wall drive with PID", "panel regulator"
SWITCH, DRIVE, TANK = "pressure switch", "plain drive", "pressure tank"
SWITCHES = "pressure switches and their monitor"
SUCTION_SWITCH, TANK_FLOATS = "suction switch", "tank floats"
_REGULATING = {Device.MOTOR_MOUNTED: MOTOR, Device.WALL_DRIVE: WALL, Device.PANEL_REGULATOR: PANEL}

_TELLS_OF_WATER: dict[str, tuple[str, ...]] = {SuctionBy.SWITCH: (SUCTION_SWITCH,), SuctionBy.FLOAT: (TANK_FLOATS,)}

_OF_THE_SET = (
    "sensor_failure", "suction_reset", "suction_contact", "prime_by", "lost_prime", "alternation", "clock_period", "standby", "most", "sharing", "form", "no_flow", "setback", "slow_fill", "fill_end",
    "night_from", "night_to", "power_return", "run_out", "long_run", "many_starts",
)  # fmt: skip
_ASKING = ("outside", "outside_zero", "outside_full", "outside_lost", "local_remote", "run_contact", "direct_keys", "smooth")
_LINES = tuple(f"schedule_{number}_{name}" for number in range(1, TIMES + 1) for name in ("days", "from"))
_OF_A_DRIVE = ("range", "signal", "unit", "rated_hz", "address", "voltage", "current", "power", "rated_rpm")


def meanings() -> frozenset[str]:
    """Every meaning a device of a booster set may ask for, {n} standing for a drive's number."""
    once = ("pumps.count", "pumps.alternation", "pumps.clock_period", "pumps.standby", "pumps.most", "sensor.range", "sensor.signal", "display.unit", "control.stop")
    of_the_set = (*_OF_THE_SET, *_ASKING, *_LINES)
    dials = (f"switch.{one}" for one in BY_DIAL)
    drive = (f"drive.{{n}}.{name}" for name in (*of_the_set, *_OF_A_DRIVE, *S))
    return frozenset((*once, *MEANINGS, *SUPPLY_MEANINGS, RATED, f"pump.{{n}}.{protection.RUNNING}", *(f"control.{name}" for name in of_the_set), *(f"setting.{one}" for one in S), *dials, *drive))


def family_of(answers: Mapping[str, str]) -> str:
    """The family of the device the numbers are typed into."""
    kind = answers.get("control.kind", ControlKind.CONSTANT)
    if kind != ControlKind.CONSTANT:
        own = kind == ControlKind.ON_OFF and answers.get("control.own_switches") == "yes" and answers.get("pumping.count", "2") != "1"
        return SWITCHES if own else SWITCH
    return _REGULATING[Device(answers.get("control.device") or Device.MOTOR_MOUNTED)]


def companions_of(answers: Mapping[str, str]) -> tuple[str, ...]:
    """What is set beside it: drives that only follow it, switches of lack of water at themselves, and the tank's gas, by hand."""
    follows = family_of(answers) == PANEL or answers.get("control.kind") == ControlKind.FIXED
    volume = answers.get("vessel.volume_m3", "").strip().replace(",", ".")
    driven = answers.get("control.kind", ControlKind.CONSTANT) in (ControlKind.CONSTANT, ControlKind.FIXED)
    told = _TELLS_OF_WATER.get(answers.get("control.suction_by", ""), ())
    return (*((DRIVE,) if follows else ()), *told, *((TANK,) if volume.strip("0.") else ()), *protection.companions_of(answers, driven))


def keypad_scale(survey: BoosterSurvey, profile: Profile, display: Display) -> Scale:
    """How this family shows pressures of this set. KeyError if it cannot show them in that unit."""
    motor = survey.motor
    return Scale(
        display,
        profile.steps[display],
        profile.decimals[display],
        0.0,
        survey.sensor.range_pa,
        motor.rated_hz,
        motor.rated_rpm,
    )


def keypad_values(
    survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, display: Display
) -> dict[str, KeypadValue]:
    """Everything a device of any family may ask for, once for the set and once for each drive."""
    control, sensor = survey.control, survey.sensor
    shared = {
        "range": KeypadValue(sensor.range_pa, "range of the discharge sensor", near=NEAR_SPAN * sensor.range_pa),
        "signal": KeypadValue(sensor.signal.value, "signal of the discharge sensor"),
        "unit": KeypadValue(display.value, "unit chosen for this controller"),
        "rated_hz": KeypadValue(survey.motor.rated_hz, "nameplate"),
        **_functions(survey, choices),
    }
    values = {
        "pumps.count": KeypadValue(float(survey.pumping.count), "pumps of the survey"),
        "sensor.range": shared["range"], "sensor.signal": shared["signal"], "display.unit": shared["unit"],
        "control.stop": KeypadValue("flow" if control.kind is ControlKind.FLOW_STOP else "pressure", "kind of control"),
    }  # fmt: skip
    values |= {f"pumps.{name}": shared[name] for name in ("alternation", "clock_period", "standby", "most") if name in shared}
    values |= {f"control.{name}": value for name, value in _functions(survey, choices).items()}
    dials = BY_DIAL if control.by_contact else ()
    values |= {f"switch.{setting.id}": _whole(setting, survey) for setting in plan.settings if setting.id in dials}
    typed = [setting for setting in plan.settings if setting.group != GROUP and setting.id not in dials]
    for setting in typed:
        values[f"setting.{setting.id}"] = _whole(setting, survey)
    if survey.has_drives:
        for number in range(1, survey.pumping.count + 1):
            values |= _drive_values(number, survey, typed, shared)
    return values | protection.values_of(plan, duties(survey))


def _functions(survey: BoosterSurvey, choices: BoosterChoices) -> dict[str, KeypadValue]:
    """What is chosen of the functions this set has, and of those only what acts: nothing of one that is switched off."""
    schools, rules, why = choices.schools, choices.rules, "from Schools"
    found = {"sensor_failure": KeypadValue(schools.sensor_failure.value, why), "power_return": KeypadValue(choices.protection.power_return.value, why)}
    if survey.control.suction_by is not SuctionBy.NONE:
        found["suction_reset"] = KeypadValue(schools.suction_reset.value, why)
    if survey.control.by_contact:
        found["suction_contact"] = KeypadValue(survey.suction_switch.permits.value, "from the survey: which state of its contact lets pumps run")
    found["prime_by"] = KeypadValue(schools.prime_by.value, why)
    found["lost_prime"] = KeypadValue(schools.lost_prime.value, why)
    found |= crew_values(survey.pumping)
    if survey.pumping.duty_count > 1:
        found["alternation"] = KeypadValue(schools.alternation.value, "who leads next, from Schools")
        if schools.alternation is Alternation.CLOCK:
            found["clock_period"] = KeypadValue(rules.clock_period_s, "turn passes by the clock, from Rules")
    found |= {"long_run": KeypadValue(schools.long_run.value, why), "many_starts": KeypadValue(schools.many_starts.value, why)}
    if not survey.holds_constant:
        return found
    if survey.pumping.duty_count > 1:
        found["sharing"] = KeypadValue(schools.sharing.value, why)
    found["form"] = KeypadValue("dependent", "the form the gains are reckoned in")
    found["no_flow"] = KeypadValue(schools.no_flow.value, why)
    if survey.remote is None:
        found["setback"] = KeypadValue(schools.setback.value, why)
    found["slow_fill"] = KeypadValue("yes" if schools.slow_fill else "no", why)
    if schools.slow_fill:
        found["fill_end"] = KeypadValue(schools.fill_end.value, why)
    found["run_out"] = KeypadValue(schools.run_out.value, why)
    found |= _asking(survey, choices)
    if schools.night:
        found["night_from"] = KeypadValue(rules.night_from_h * 3600.0, "night begins, from Rules")
        found["night_to"] = KeypadValue(rules.night_to_h * 3600.0, "night ends, from Rules")
    return found


def _asking(survey: BoosterSurvey, choices: BoosterChoices) -> dict[str, KeypadValue]:
    """Who may ask for another set pressure, and when the week's clock does."""
    control, told = survey.control, "from the survey"
    found = {
        "outside": KeypadValue(control.outside.value, told), "run_contact": KeypadValue("yes" if control.run_contact else "no", told),
        "direct_keys": KeypadValue("yes" if control.direct_keys else "no", told),
        "smooth": KeypadValue("yes", "so that the loop goes on from the speed that stands"),
    }  # fmt: skip
    if control.outside is not OutsideSet.NONE:
        near_pa = NEAR_SPAN * abs((control.outside_full_pa or 0.0) - (control.outside_zero_pa or 0.0))
        found["outside_zero"] = KeypadValue(control.outside_zero_pa or 0.0, "what its empty signal stands for", near=near_pa)
        found["outside_full"] = KeypadValue(control.outside_full_pa or 0.0, "what its full signal stands for", near=near_pa)
        found["outside_lost"] = KeypadValue(choices.schools.outside_lost.value, "from Schools")
        found["local_remote"] = KeypadValue("yes" if control.local_remote else "no", told)
    for number, (days, hour, _) in enumerate(choices.schedule.begins, 1):
        found[f"schedule_{number}_days"] = KeypadValue(days.value, "from the weekly schedule")
        found[f"schedule_{number}_from"] = KeypadValue(hour * 3600.0, "from the weekly schedule")
    return found


def _whole(setting: Setting, survey: BoosterSurvey) -> KeypadValue:
    why = f"{setting.label.lower()}, from the plan"
    return KeypadValue(setting.value, why, setting.window, setting.id, _reach(setting.id, survey), setting.chosen is not None)


def _reach(setting_id: str, survey: BoosterSurvey) -> tuple[float, float] | None:
    """Zero and span of the sensor that reads a setting; None for the discharge sensor's own."""
    if setting_id == S.REMOTE_PRESSURE and survey.remote is not None:
        return 0.0, survey.remote.range_pa
    if setting_id in (S.LOW_SUCTION_STOP, S.LOW_SUCTION_RESET, S.LOW_SUCTION_ALARM):
        sensor = survey.suction_sensor
        if sensor.low_pa is None or sensor.high_pa is None:
            return 0.0, math.nan
        return sensor.low_pa, sensor.high_pa - sensor.low_pa
    return None


def _drive_values(
    number: int, survey: BoosterSurvey, typed: list[Setting], shared: dict[str, KeypadValue]
) -> dict[str, KeypadValue]:
    motor = survey.motor
    own = {
        "address": KeypadValue(float(number), "each drive its own"),
        "voltage": KeypadValue(motor.rated_voltage_v, f"nameplate of pump {number}"),
        "current": KeypadValue(motor.rated_current_a, f"nameplate of pump {number}"),
        "power": KeypadValue(motor.rated_power_w / 1000.0, f"nameplate of pump {number}"),
        "rated_rpm": KeypadValue(motor.rated_rpm, f"nameplate of pump {number}"),
    }
    settings = {s.id: replace(_whole(s, survey), setting=s.id if number == 1 else "") for s in typed}
    return {f"drive.{number}.{name}": value for name, value in {**shared, **own, **settings}.items()}


def recheck(survey: BoosterSurvey, choices: BoosterChoices, sheet: EntrySheet) -> Plan:
    """The plan with every setting exactly as the keypad holds it after rounding, so that windows can be checked again."""
    kept = {setting.id: setting.value for setting in reckon(survey, choices, False).settings}
    kept |= {row.setting: row.value for row in sheet.rows if row.setting and row.value is not None}
    return reckon(survey, choices.model_copy(update={"chosen": kept}), False)
