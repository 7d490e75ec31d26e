"""What of a lift plan goes into controllers, panels and drives, by meaning."""

from collections.abc import Mapping
from dataclasses import replace

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.control.contacts import Takes
from goodbalance.core.control.relays import LevelRelay
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.physics.water import GRAVITY_MS2
from goodbalance.core.protection import keypad as protection
from goodbalance.core.protection.monitor import MEANINGS as SUPPLY_MEANINGS
from goodbalance.core.protection.monitor import RATED
from goodbalance.core.protection.names import GROUP
from goodbalance.core.protection.numbers import MEANINGS
from goodbalance.core.sheets.entry_sheet import NEAR_SPAN, EntrySheet, KeypadValue, Scale
from goodbalance.core.sheets.profile import Display, Profile
from goodbalance.core.stations.lift.controller.guards import guards_of
from goodbalance.core.stations.lift.controller.program import FAILURE_DELAY_S
from goodbalance.core.stations.lift.controller.relays_of_plan import relays_of
from goodbalance.core.stations.lift.names import STARTS, STOPS, GuardContact, Role, float_id
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.plant.motors import duties
from goodbalance.core.stations.lift.survey.choices import AlarmSounder, LiftChoices, ManyStarts, SpeedMode, Suspects
from goodbalance.core.stations.lift.survey.level_sensor import WATER_KGM3, LevelSensor, SensorKind
from goodbalance.core.stations.lift.survey.sensing import ControlKind, LevelBy, WhoDecides
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.survey.team import Inputs
from goodbalance.core.stations.lift.windows.float_ladder import is_alone
from goodbalance.core.stations.lift.windows.reckon import reckon
from goodbalance.core.stations.shared.crew import crew_values

RELAYS, CONTROLLER, PANEL, DRIVE, CORDS = "relay level controller", "pump controller", "float panel", "lift drive", "hung floats"
TEAM = "lift drive team"
EYE = "look-down sensor"
USUAL = "usual"  # of a float: as the usual table has it, by the number of floats


_OWN = (
    "display.level_unit", "sensor.signal", "sensor.zero_level", "sensor.full_level", "sensor.fail_low", "sensor.fail_delay",
    "sensor.bare_zero", "sensor.bare_full", "sensor.offset",
    *(f"relay.{{n}}.{name}" for name in ("function", "on", "off", "level", "gap", "turns", "contact", "on_failure")),
    *(f"relays.{name}" for name in (S.CALL_DELAY, S.START_GAP, S.FEEDBACK_LOST, "alternation", "clock_period")),
    *(f"pumps.{name}" for name in ("count", "on_failure", "standby", "most", "first_group", "first_rests", "alternation", "stops", "clock_period", "power_return", "long_run", "many_starts")),
    "level.source", "pump.{n}.current", "pump.{n}.voltage", "inputs.run", "inputs.backwards", "inputs.remote", "alarm.relay", "alarm.reset", "alarm.lamp", "alarm.sounder", "pumps.suspects", "pumps.suspect_cycles", "inputs.phase", "inputs.seal", "inputs.low_float", "float.{n}.role", "floats.count", "floats.lowest", "drives.mode", "drives.outside_lost",
    *(f"echo.{name}" for name in ("zero_level", "full_level", "zero_distance", "full_distance", "blanking", "lost", "lost_delay")),
    *(f"drive.{{n}}.{name}" for name in ("address", "voltage", "current", "power", "rated_hz", "decides", "count", "pair_start", "pair_stop", "mode", "outside_lost")),
)  # fmt: skip


_TEAM = ("inputs", "failover", "link_lost", "takes_over")
OF_A_TEAM = {  # what else each drive of a team is told by itself, by the name it has where one controller is told for all
    "sensor.signal": "signal", "sensor.zero_level": "zero_level", "sensor.full_level": "full_level", "sensor.fail_low": "fail_low",
    "sensor.fail_delay": "fail_delay", "pumps.on_failure": "on_failure", "pumps.standby": "standby", "pumps.most": "most", "pumps.stops": "stops",
    "pumps.alternation": "alternation", "pumps.clock_period": "clock_period", "pumps.first_group": "first_group", "pumps.first_rests": "first_rests",
    "alarm.relay": "alarm_relay", "alarm.reset": "alarm_reset", "alarm.lamp": "alarm_lamp", "alarm.sounder": "alarm_sounder", "pumps.suspects": "suspects",
    "pumps.suspect_cycles": "suspect_cycles", "inputs.phase": "phase", "inputs.seal": "seal", "inputs.low_float": "low_float", "inputs.run": "run", "inputs.backwards": "backwards", "inputs.remote": "remote",
    "display.level_unit": "level_unit", "pumps.power_return": "power_return", "pumps.long_run": "long_run", "pumps.many_starts": "many_starts",
}  # fmt: skip


def meanings() -> frozenset[str]:
    """Every meaning a device of a lift station may ask for, {n} standing for a relay's or drive's number."""
    settings = (*S, *Role, *map(float_id, Role))
    return frozenset((*_OWN, *MEANINGS, *SUPPLY_MEANINGS, RATED, f"pump.{{n}}.{protection.RUNNING}", *(f"setting.{one}" for one in settings), *(f"drive.{{n}}.{one}" for one in (*S, *Role, *_TEAM, *OF_A_TEAM.values()))))


def family_of(answers: Mapping[str, str]) -> str:
    """The family of the device the numbers are typed into."""
    by_kind = {ControlKind.PUMP_CONTROLLER: CONTROLLER, ControlKind.DRIVES_ALONE: TEAM}
    kind = ControlKind(answers.get("control.kind") or ControlKind.RELAYS_TO_PANEL)
    if kind in by_kind:
        return by_kind[kind]
    return PANEL if answers.get("control.level_by") == LevelBy.FLOATS else RELAYS


def companions_of(answers: Mapping[str, str]) -> tuple[str, ...]:
    """Families of what is set beside it: the dials of a panel that stays, floats on their cords, the drives, a sensor with settings of its own."""
    alone = answers.get("control.kind") == ControlKind.RELAYS_ALONE
    eye = (EYE,) if answers.get("sensor.kind") == SensorKind.LOOK_DOWN and answers.get("control.level_by") != LevelBy.FLOATS else ()
    beside = (PANEL,) if family_of(answers) == RELAYS and not alone else ()
    if alone and answers.get("control.level_by") == LevelBy.SENSOR_AND_FLOATS:
        beside = (CORDS,)
    fitted = answers.get("drives.fitted") == "yes"
    driven = (DRIVE,) if fitted and family_of(answers) != TEAM else ()
    return (*beside, *driven, *eye, *protection.companions_of(answers, fitted))


def keypad_scale(survey: LiftSurvey, profile: Profile, display: Display) -> Scale:
    """How this family shows levels of this station. KeyError if it cannot show them in that unit."""
    hyd, sensor = hydraulics(survey), survey.sensor
    density_kgm3 = WATER_KGM3 if sensor is None else sensor.density_kgm3
    return Scale(
        display, profile.steps[display], profile.decimals[display], hyd.sensor_low_m, hyd.sensor_span_m,
        survey.drives.rated_hz, depth=survey.well.depth_m, weight=density_kgm3 * GRAVITY_MS2,
    )  # fmt: skip


def keypad_values(survey: LiftSurvey, choices: LiftChoices, plan: Plan, display: Display) -> dict[str, KeypadValue]:
    """Everything a device of any family may ask for: sensor, relays, settings, sharing, drives."""
    values = {"display.level_unit": KeypadValue(display.value, "unit chosen for this controller")}
    if survey.sensor is not None:
        values |= _sensor_values(survey, survey.sensor)
    for setting in filter(_typed, plan.settings):
        hangs = is_alone(survey) and setting.group == "levels"
        values[f"setting.{float_id(setting.id)}" if hangs else f"setting.{setting.id}"] = _whole(setting)
    if survey.control.kind is ControlKind.RELAYS_ALONE:
        values |= _values_of_relays_alone(choices, plan)
    for relay in relays_of(survey, choices, plan):
        if relay.number:
            values |= _relay_values(relay, survey, plan)
    for number, pump in enumerate(survey.pumps, 1):
        values[f"pump.{number}.current"] = KeypadValue(pump.rated_current_a, f"nameplate of pump {number}")
        values[f"pump.{number}.voltage"] = KeypadValue(pump.rated_voltage_v, f"nameplate of pump {number}")
    values |= _sharing_values(survey, choices) | _drive_values(survey, choices, plan) | protection.values_of(plan, duties(survey))
    return values | _team_values(survey, plan, values) if survey.control.kind is ControlKind.DRIVES_ALONE else values


def _team_values(survey: LiftSurvey, plan: Plan, values: Mapping[str, KeypadValue]) -> dict[str, KeypadValue]:
    """What each drive of a team is told by itself: every setting, its sensor, how the team works, and whose turn it is."""
    team = survey.team
    found: dict[str, KeypadValue] = {}
    told = {
        "inputs": team.inputs.value, "failover": "yes" if team.failover and team.inputs is Inputs.OWN else "no", "link_lost": team.link_lost.value,
        "takes_over": "yes" if team.takes_over else "no",
    }  # fmt: skip
    for number in range(1, survey.pumping.count + 1):
        own = {name: KeypadValue(word, "from the survey") for name, word in told.items()} if survey.pumping.count > 1 else {}
        own |= {name: values[meaning] for meaning, name in OF_A_TEAM.items() if meaning in values}
        own |= {each.id: replace(_whole(each), setting=each.id if number == 1 else "") for each in plan.settings if _typed(each)}
        found |= {f"drive.{number}.{name}": value for name, value in own.items()}
    return found


def _typed(setting: Setting) -> bool:
    """Whether the controller itself holds it; what guards the motors is set beside it, but for the seals."""
    return setting.group != GROUP or setting.id == S.SEAL_LIMIT


def _whole(setting: Setting) -> KeypadValue:
    why = f"{setting.label.lower()}, from the plan"
    return KeypadValue(setting.value, why, setting.window, setting.id, own=setting.chosen is not None)


def _sensor_values(survey: LiftSurvey, sensor: LevelSensor) -> dict[str, KeypadValue]:
    hyd = hydraulics(survey)
    near_m = NEAR_SPAN * hyd.sensor_span_m
    values = {
        "sensor.signal": KeypadValue(sensor.signal.value, "signal of the surveyed sensor"),
        "sensor.zero_level": KeypadValue(hyd.sensor_low_m, "lowest level the sensor reads, above the floor", near=near_m),
        "sensor.full_level": KeypadValue(hyd.sensor_low_m + hyd.sensor_span_m, "lowest level plus the sensor's span", near=near_m),
        "sensor.bare_zero": KeypadValue(hyd.bare_low_m, "lowest level by drawing, before the field offset", near=near_m),
        "sensor.bare_full": KeypadValue(hyd.bare_low_m + hyd.sensor_span_m, "that plus the sensor's span", near=near_m),
        "sensor.offset": KeypadValue(hyd.offset_m, "found with the level stick, added to the reading", near=near_m),
        "sensor.fail_delay": KeypadValue(FAILURE_DELAY_S, "long enough to ignore a loose moment"),
    }
    if hyd.signal.fail_low is not None:
        values["sensor.fail_low"] = KeypadValue(hyd.signal.fail_low, "NAMUR NE 43: 3.6 mA or less means failure")
    if sensor.kind is SensorKind.LOOK_DOWN:
        face_m, low_m = sensor.face_m or 0.0, hyd.bare_low_m
        top_m = low_m + hyd.sensor_span_m
        values |= {
            "echo.zero_level": KeypadValue(low_m, "level of empty signal, as surveyed", near=near_m),
            "echo.full_level": KeypadValue(top_m, "level of full signal, as surveyed", near=near_m),
            "echo.zero_distance": KeypadValue(face_m - low_m, "from the face down to the level of empty signal", near=near_m),
            "echo.full_distance": KeypadValue(face_m - top_m, "from the face down to the level of full signal", near=near_m),
            "echo.blanking": KeypadValue(sensor.blanking_m or 0.0, "nothing nearer to the face is seen"),
            "echo.lost": KeypadValue(sensor.lost_echo.value, "what it does without an echo, as surveyed"),
            "echo.lost_delay": KeypadValue(sensor.lost_echo_s, "so long it waits for one"),
        }
    return values


def _relay_values(relay: LevelRelay, survey: LiftSurvey, plan: Plan) -> dict[str, KeypadValue]:
    """One relay's two levels: one of them the plan's and the other a gap away; of a pump's own relay both the plan's."""
    number, own = relay.number, _whole(plan.setting(relay.role))
    gap = KeypadValue(0.0, "gap of the relay beside it")
    on, off = (replace(gap, value=relay.on_m), own) if relay.sets_at_off else (own, replace(gap, value=relay.off_m))
    if survey.control.kind is ControlKind.RELAYS_ALONE and relay.role in STARTS:
        stop = relay.role.replace("start", Role.STOP)
        back = _whole(plan.setting(stop if stop in plan else Role.STOP))
        on, off = (back, own) if relay.normally_closed else (own, back)
    name = relay.label.lower()
    return {
        f"relay.{number}.turns": KeypadValue(relay.turns.value, f"{name} relay"),
        f"relay.{number}.level": own,
        f"relay.{number}.gap": KeypadValue(relay.gap_m, f"{name}: from its level to where it turns back"),
        f"relay.{number}.contact": KeypadValue("closed" if relay.normally_closed else "open", f"contact of the {name} that is wired"),
        f"relay.{number}.function": KeypadValue("level", f"{name} relay"),
        f"relay.{number}.on": on,
        f"relay.{number}.off": off,
        f"relay.{number}.on_failure": KeypadValue(relay.on_failure.value, f"{name} when the sensor fails"),
    }


def _values_of_relays_alone(choices: LiftChoices, plan: Plan) -> dict[str, KeypadValue]:
    """What a relay controller must know where no panel behind it knows it: its timers and whose turn it is."""
    values = {
        f"relays.{setting.id}": _whole(setting)
        for setting in plan.settings
        if setting.id in (S.CALL_DELAY, S.START_GAP, S.FEEDBACK_LOST)
    }
    values["relays.alternation"] = KeypadValue(choices.schools.alternation.value, "who leads next, from Schools")
    if choices.schools.alternation is Alternation.CLOCK:
        values["relays.clock_period"] = KeypadValue(choices.rules.clock_period_s, "turn passes by the clock, from Rules")
    return values


def _sharing_values(survey: LiftSurvey, choices: LiftChoices) -> dict[str, KeypadValue]:
    """How pumps share the work, floats, alarms; nothing of a function that this station does not have."""
    schools, pumping, control, guards = choices.schools, survey.pumping, survey.control, guards_of(survey).fitted
    values = {
        "pumps.count": KeypadValue(float(pumping.count), "pumps of the survey"),
        "pumps.on_failure": KeypadValue(
            "floats" if control.has_floats else schools.sensor_failure.value, "when the level signal is lost"
        ),
        "level.source": KeypadValue(control.level_by.value, "from the survey"),
        "pumps.power_return": KeypadValue(choices.protection.power_return.value, "from Schools"),
        "alarm.relay": KeypadValue(schools.alarm_relay.value, "from Schools"),
        "alarm.reset": KeypadValue(schools.alarm_reset.value, "from Schools"),
        "inputs.phase": KeypadValue({Takes.NONE: "no", Takes.CLOSED: "yes", Takes.OPEN: "open"}[guards.get(GuardContact.PHASE, Takes.NONE)], "from the survey"),
        "inputs.seal": KeypadValue(schools.seal_leak.value if control.seal_probes else "no", "from survey and Schools"),
    }
    if control.kind is not ControlKind.RELAYS_ALONE:
        values["alarm.lamp"] = KeypadValue(schools.alarm_lamp.value, "from Schools")
        values["alarm.sounder"] = KeypadValue("yes" if schools.alarm_sounder is AlarmSounder.SOUNDER else "no", "from Schools")
    if control.has_calls:
        values["pumps.long_run"] = KeypadValue(schools.long_run.value, "from Schools")
        if schools.many_starts is not ManyStarts.UNCOUNTED:
            values["pumps.many_starts"] = KeypadValue(schools.many_starts.value, "from Schools")
    if control.has_calls and pumping.count > 1:
        values["pumps.suspects"] = KeypadValue("yes" if schools.suspects is Suspects.TOLD else "no", "from Schools")
        values["pumps.suspect_cycles"] = KeypadValue(float(choices.rules.suspect_cycles), "so many cycles in a row, from Rules")
    if control.kind is not ControlKind.RELAYS_ALONE:  # there its contact sits in series with the contactors, and nobody is told
        permits = guards.get(GuardContact.LOW_FLOAT, Takes.NONE)
        values["inputs.low_float"] = KeypadValue(permits.value, "from the survey: which state of its contact lets pumps run")
    if control.has_calls:
        told = ((GuardContact.RUN, "run"), (GuardContact.BACKWARDS, "backwards"), (GuardContact.LOCAL, "remote"))
        values |= {f"inputs.{name}": KeypadValue(guards.get(guard, Takes.NONE).value, "from the survey: which state of its contact permits") for guard, name in told}
    if pumping.count > 1:
        values |= {f"pumps.{name}": value for name, value in crew_values(pumping).items()}
        values["pumps.first_group"] = KeypadValue(float(pumping.first_group), "pumps that are called first, 0 for one group")
    if pumping.first_group:
        values["pumps.first_rests"] = KeypadValue("yes" if pumping.first_rests else "no", "from the survey")
    if pumping.duty_count > 1:
        values["pumps.alternation"] = KeypadValue(schools.alternation.value, "who leads next, from Schools")
        values["pumps.stops"] = KeypadValue(schools.stops.value, "from Schools")
        if schools.alternation is Alternation.CLOCK:
            period_s = choices.rules.clock_period_s
            values["pumps.clock_period"] = KeypadValue(period_s, "turn passes by the clock, from Rules")
    if control.has_floats:
        roles = control.float_roles(pumping.duty_count)
        values["floats.count"] = KeypadValue(float(len(roles)), "floats of the survey")
        own = not control.has_usual_floats(pumping.duty_count)
        for number, role in enumerate(roles, 1):
            values[f"float.{number}.role"] = KeypadValue(role if own else USUAL, "chosen in the survey" if own else "the usual table says it")
        values["floats.lowest"] = KeypadValue(Role.LOW_ALARM if roles[0] == Role.LOW_ALARM else Role.STOP, "from the survey")
    return values


def _drive_values(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> dict[str, KeypadValue]:
    drives = survey.drives
    if not drives.fitted:
        return {}
    mode, lost = choices.schools.speed_mode, choices.schools.outside_lost
    ways = {"mode": KeypadValue(mode.value, "from Schools")}
    if mode is SpeedMode.OUTSIDE:
        ways["outside_lost"] = KeypadValue(lost.value, "from Schools")
    values = {f"drives.{name}": value for name, value in ways.items()}
    for number, pump in enumerate(survey.pumps, 1):
        own = {
            "address": KeypadValue(float(number), "each drive its own"),
            "voltage": KeypadValue(pump.rated_voltage_v, f"nameplate of pump {number}"),
            "current": KeypadValue(pump.rated_current_a, f"nameplate of pump {number}"),
            "power": KeypadValue(pump.rated_power_w / 1000.0, f"nameplate of pump {number}"),
            "rated_hz": KeypadValue(drives.rated_hz, "survey"),
            "decides": KeypadValue(drives.decide.value, "survey"),
            "count": KeypadValue(float(survey.pumping.count), "pumps of the survey"),
        }
        team = drives.decide is WhoDecides.AMONG_THEMSELVES or survey.control.kind is ControlKind.DRIVES_ALONE
        values |= {f"drive.{number}.{name}": value for name, value in (own | ways if team else own).items()}
        for setting in plan.group("drives"):
            if not team and setting.id not in (S.LEAST_SPEED, S.RAMP):
                continue  # the controller works the speed out
            values[f"drive.{number}.{setting.id}"] = replace(_whole(setting), setting=setting.id if number == 1 else "")
        if team and STARTS[number - 1] in plan:
            values[f"drive.{number}.pair_start"] = _whole(plan.setting(STARTS[number - 1]))
            stop = STOPS[number - 1] if STOPS[number - 1] in plan else Role.STOP
            if stop in plan:  # floats alone may stop the pumps by time
                values[f"drive.{number}.pair_stop"] = _whole(plan.setting(stop))
    return values


def recheck(survey: LiftSurvey, choices: LiftChoices, sheet: EntrySheet) -> Plan:
    """The plan with every setting exactly as the keypad holds it after rounding, so that windows can be checked again."""
    kept = {setting.id: setting.value for setting in reckon(survey, choices, False).settings}
    kept |= {row.setting: row.value for row in sheet.rows if row.setting and row.value is not None}
    return reckon(survey, choices.model_copy(update={"chosen": kept}), False)
