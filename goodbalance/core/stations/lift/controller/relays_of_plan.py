"""The relays and floats that make a plan work, each with its two levels and what it does when the level is lost."""

from dataclasses import replace

from goodbalance.core.balance.plan import Plan
from goodbalance.core.control.relays import LevelRelay, OnFailure, relay_numbers
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.stations.lift.names import STARTS, STOPS, Role, role_of
from goodbalance.core.stations.lift.survey.choices import AlarmRelay, LiftChoices, OnSensorFailure
from goodbalance.core.stations.lift.survey.sensing import ControlKind
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.float_ladder import is_alone


def relays_of(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> tuple[LevelRelay, ...]:
    """The contacts of this plan's levels, from the floor up: level relays, or the floats themselves where they are alone.

    Stop and low-level cut-out energise on rise and release on fall, so that a dead controller stops the pumps. Where a
    relay runs each pump by itself, its start and its stop are that relay's two levels.
    """
    gap_m = survey.control.swing_m if is_alone(survey) else choices.rules.relay_gap_m
    labels = {s.id: s.label.removesuffix(" level") for s in plan.group("levels")}
    levels = {setting.id: setting.value for setting in plan.group("levels")}
    starts = [role for role in STARTS if role in levels]
    runs_on = choices.schools.sensor_failure is OnSensorFailure.RUN_DUTY
    keep = OnFailure.ENERGISE if runs_on else OnFailure.RELEASE
    in_health = choices.schools.alarm_relay is AlarmRelay.IN_HEALTH and not is_alone(survey)
    relays = []
    if Role.LOW_CUT_OUT in levels:
        relays.append(_permit(Role.LOW_CUT_OUT, "Low-level cut-out", levels[Role.LOW_CUT_OUT], gap_m, keep))
    if Role.LOW_ALARM in levels:
        relays.append(_alarm(Role.LOW_ALARM, "Low alarm", levels[Role.LOW_ALARM], gap_m, OnFailure.RELEASE, in_health))
    by_itself = survey.control.kind is ControlKind.RELAYS_ALONE and Role.STOP in levels
    if not by_itself:
        own = is_alone(survey) or Role.STOP_2 in levels
        for role in (role for role in STOPS if role in levels):
            on_failure = keep if role == Role.STOP else OnFailure.RELEASE
            relays.append(_permit(role, labels[role] if own else "Common stop", levels[role], gap_m, on_failure))
    stays = choices.schools.alternation is Alternation.FIXED
    for call, role in enumerate(starts, 1):
        on_failure = keep if role == Role.START_1 else OnFailure.RELEASE
        off_m = levels.get(STOPS[call - 1], levels[Role.STOP]) if by_itself else levels[role] - gap_m
        label = labels[role] if not by_itself else f"Pump {call}" if stays else f"Call {call}"
        relays.append(LevelRelay(role, label, levels[role], off_m, on_failure))
    if Role.HIGH_ALARM in levels:
        relays.append(_alarm(Role.HIGH_ALARM, "High alarm", levels[Role.HIGH_ALARM], -gap_m, OnFailure.ENERGISE, in_health))
    closed = survey.relays.closed_at_rest if not is_alone(survey) and not survey.control.has_calls else frozenset()
    return _numbered([relay.by_its_twin() if relay.role in closed and not relay.normally_closed else relay for relay in relays], survey)


def _numbered(relays: list[LevelRelay], survey: LiftSurvey) -> tuple[LevelRelay, ...]:
    """The same with the number each relay has on its controller, where it has one."""
    if survey.control.has_calls or is_alone(survey):
        return tuple(relays)
    numbers = relay_numbers((relay.role for relay in relays), survey.relays.wished)
    return tuple(replace(relay, number=numbers[relay.role]) for relay in relays)


def floats_of(survey: LiftSurvey, plan: Plan) -> tuple[LevelRelay, ...]:
    """The floats behind a sensor, lowest first. A float acts within its swing: at its height in the way that counts."""
    swing_m, found = survey.control.swing_m, []
    for setting in plan.group("floats"):
        role = role_of(setting.id)
        found.append(float_of(role, setting.label, setting.value, swing_m))
    return tuple(found)


def float_of(role: str, label: str, height_m: float, swing_m: float) -> LevelRelay:
    """A float of that role at that height. [m]"""
    if role == Role.STOP:
        return _permit(role, label, height_m, swing_m, OnFailure.RELEASE)
    if role == Role.LOW_ALARM:
        return _alarm(role, label, height_m, swing_m, OnFailure.RELEASE, False)
    return LevelRelay(role, label, height_m, height_m - swing_m, OnFailure.RELEASE)


def _permit(role: str, label: str, level_m: float, gap_m: float, on_failure: OnFailure) -> LevelRelay:
    """A relay that permits above its level: energises one gap above, releases at the level."""
    return LevelRelay(role, label, level_m + gap_m, level_m, on_failure, sets_at_off=True)


def _alarm(role: str, label: str, level_m: float, gap_m: float, on_failure: OnFailure, in_health: bool) -> LevelRelay:
    """An alarm relay: energised in alarm, or in health on its normally closed contact, then released on failure."""
    if not in_health:
        return LevelRelay(role, label, level_m, level_m + gap_m, on_failure)
    return LevelRelay(role, label, level_m + gap_m, level_m, OnFailure.RELEASE, normally_closed=True, sets_at_off=True)
