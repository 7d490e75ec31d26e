"""What the controller, panel and drives of a lift station do, whether as the plan wants it or as they really hold it."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from goodbalance.core.balance.plan import Plan
from goodbalance.core.control.contacts import Guards
from goodbalance.core.control.level_drive import DriveMode, OutsideLost
from goodbalance.core.control.relays import LevelRelay, OnFailure
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.control.sequencer import Timing
from goodbalance.core.control.trips import Beyond
from goodbalance.core.physics.signals import Scaling, SignalRange
from goodbalance.core.protection.monitor import MonitorNumbers, monitor_numbers
from goodbalance.core.protection.names import Restart
from goodbalance.core.protection.numbers import MotorNumbers
from goodbalance.core.protection.numbers import numbers_of as motor_numbers
from goodbalance.core.stations.lift.controller.guards import guards_of
from goodbalance.core.stations.lift.controller.relays_of_plan import floats_of, relays_of
from goodbalance.core.stations.lift.controller.team import TeamNumbers
from goodbalance.core.stations.lift.names import STOPS, Role
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.plant.motors import duties
from goodbalance.core.stations.lift.survey.choices import (
    AlarmLamp,
    AlarmReset,
    AlarmSounder,
    LiftChoices,
    ManyStarts,
    SealLeak,
    Suspects,
)
from goodbalance.core.stations.lift.survey.level_sensor import LostEcho, SensorKind
from goodbalance.core.stations.lift.survey.sensing import ControlKind
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.float_ladder import is_alone
from goodbalance.core.stations.shared.crew import Standby

FAILURE_DELAY_S = 3.0  # a loop fault must last this long before the controller believes it
WITHOUT = {  # what acts where a controller has no such timer
    S.CALL_DELAY: 0.0, S.START_GAP: 0.0, S.FEEDBACK_LOST: math.inf, S.LEAST_RUN: 0.0, S.LEAST_REST: 0.0,
    S.STOP_DELAY: 0.0, S.LONGEST_RUN: math.inf, S.STARTS_LIMIT: math.inf, S.ASSIST_AFTER: math.inf, S.RUN_ON: 0.0, S.TAKEOVER: math.inf, S.BELIEVED_RATE: math.inf, S.FILL_RATE: math.inf, S.EMPTY_RATE: math.inf,
    S.LEAST_SPEED: 1.0, S.ECONOMICAL_SPEED: 1.0, S.OUTSIDE_ZERO_SPEED: 0.0, S.OUTSIDE_FULL_SPEED: 1.0, S.RAMP: 0.1, S.FULL_SPEED_LEVEL: 1.0, S.HOLD_LEVEL: 0.0, S.HOLD_GAIN: 0.0, S.HOLD_RESET: math.inf, S.SEAL_LIMIT: 0.0,
}  # fmt: skip
_OPEN_WITHOUT = (Role.LOW_ALARM, Role.HIGH_ALARM, Role.START_1, Role.START_2, Role.START_3, Role.START_4)


@dataclass(frozen=True, slots=True)
class LevelInput:
    """What the controller takes its level signal for. fail_delay_s: so long a failed signal must last before it is believed."""

    signal: SignalRange
    scaling: Scaling
    fail_delay_s: float = FAILURE_DELAY_S


@dataclass(frozen=True, slots=True)
class SensorOutput:
    """What a look-down sensor gives: its span, what it does so long after the last echo, and how fast it follows the water up and down. [m/s]"""

    scaling: Scaling
    lost: LostEcho
    lost_s: float
    fill_ms: float = math.inf
    empty_ms: float = math.inf


@dataclass(frozen=True, slots=True)
class DriveNumbers:
    """How the drives of a station are led: levels in m above the floor, speeds as shares of full, gain as share a metre."""

    mode: DriveMode
    least: float
    ramp_s: float
    low_m: float
    full_m: float
    hold_m: float
    gain: float
    reset_s: float
    economical: float
    outside_zero: float
    outside_full: float
    outside_lost: OutsideLost


@dataclass(frozen=True, slots=True, kw_only=True)
class LiftProgram:
    """Contacts, timers, turns, inputs, drives and alarms: all that the logic of a lift station is built from.

    relays: moved by the sensor, or the floats themselves with `alone`; floats: those behind a sensor. takes_over: whether
    these call and stop the pumps while the sensor is out. seal: what a wet seal does, None where nothing sees it.
    """

    relays: tuple[LevelRelay, ...]
    floats: tuple[LevelRelay, ...]
    alone: bool
    takes_over: bool
    sensor: LevelInput
    timing: Timing
    run_on_s: float
    believed_rate_ms: float
    alternation: Alternation
    clock_period_s: float
    pumps: int  # that the controller knows of
    standby: Standby  # who of them stands by
    first_group: int
    first_rests: bool
    blind: bool  # whether the controller was told to read no sensor
    drive: DriveNumbers | None
    alarm_by_hand: bool
    alarm_flashes: bool
    alarm_sounds: bool
    suspect_cycles: int  # 0: nobody looks for a pump that needs help each time
    seal: SealLeak | None
    seal_sees: bool  # whether its threshold lies over what a wet chamber conducts
    seal_cries: bool  # whether it lies over what dry probes conduct too
    guards: Guards = Guards()
    team: TeamNumbers | None = None  # of drives that decide by themselves
    output: SensorOutput | None = None  # of a look-down sensor: what it makes of the level; None where it has no settings of its own
    motors: tuple[MotorNumbers, ...] = ()  # what protects each pump's motor
    monitor: MonitorNumbers = MonitorNumbers()  # of the supply
    waits_after: bool = False  # whether a person must reset before pumps start again once the supply is back
    heirs: tuple["LiftProgram", ...] = ()  # by what drives 2, 3 and on hold themselves; empty where all hold the same

    def __deepcopy__(self, memo: dict[int, object]) -> "LiftProgram":
        return self  # nothing of it changes

    def relay(self, role: str) -> LevelRelay:
        """The relay of that role. KeyError where this station has none."""
        return {relay.role: relay for relay in self.relays}[role]


def program_of(
    survey: LiftSurvey, choices: LiftChoices, plan: Plan, beside: Mapping[str, float] | None = None,
    lacking: frozenset[str] = frozenset(),
) -> LiftProgram:  # fmt: skip
    """The program of a plan.

    beside: timers that the plan does not have and a device holds all the same, in SI by setting. lacking: settings of the plan
    that no device has a place for: they never act.
    """
    hyd, schools, control = hydraulics(survey), choices.schools, survey.control
    values = {**(beside or {}), **{setting.id: setting.value for setting in plan.settings}}

    def value(setting_id: S, nothing: float) -> float:
        return WITHOUT[setting_id] if setting_id in lacking else values.get(setting_id, nothing)

    timing = Timing(
        start_gap_s=value(S.START_GAP, 0.0), feedback_s=value(S.FEEDBACK_LOST, math.inf),
        start_delay_s=value(S.CALL_DELAY, 0.0), stop_delay_s=value(S.STOP_DELAY, 0.0), min_run_s=value(S.LEAST_RUN, 0.0),
        min_off_s=value(S.LEAST_REST, 0.0), max_run_s=value(S.LONGEST_RUN, math.inf), assist_s=value(S.ASSIST_AFTER, math.inf),
        long_passes=schools.long_run is Beyond.STOPS, most_starts=value(S.STARTS_LIMIT, math.inf), starts_lock=schools.many_starts is ManyStarts.STOPS,
    )  # fmt: skip
    relays = relays_of(survey, choices, plan)
    limit_ohm = value(S.SEAL_LIMIT, math.inf)
    carried = {one: held for one, held in values.items() if one not in lacking}
    return LiftProgram(
        relays=tuple(without_place(relay) if relay.role in lacking else relay for relay in relays),
        floats=floats_of(survey, plan), alone=is_alone(survey), takes_over=True,
        sensor=LevelInput(hyd.signal, hyd.scaling), timing=timing,
        run_on_s=value(S.RUN_ON, 0.0), believed_rate_ms=value(S.BELIEVED_RATE, math.inf),
        alternation=schools.alternation, clock_period_s=choices.rules.clock_period_s, pumps=survey.pumping.count, standby=survey.pumping.stands_by,
        first_group=survey.pumping.first_group, first_rests=survey.pumping.first_rests, blind=False,
        drive=_drive_of(survey, choices, values, lacking), alarm_by_hand=schools.alarm_reset is AlarmReset.BY_HAND,
        alarm_flashes=schools.alarm_lamp is AlarmLamp.FLASHING, alarm_sounds=schools.alarm_sounder is AlarmSounder.SOUNDER,
        suspect_cycles=choices.rules.suspect_cycles if control.has_calls and schools.suspects is Suspects.TOLD else 0,
        guards=guards_of(survey), seal=schools.seal_leak if control.seal_probes else None, seal_sees=limit_ohm >= control.seal_wet_ohm,
        seal_cries=control.seal_dial and limit_ohm >= control.seal_dry_ohm, output=_output_of(survey, value(S.FILL_RATE, math.inf), value(S.EMPTY_RATE, math.inf)), team=_team_of(survey, value(S.TAKEOVER, math.inf)),
        motors=motor_numbers(carried, duties(survey), survey.protection), monitor=monitor_numbers(carried, control.phase_monitor, survey.protection.monitor),
        waits_after=choices.protection.power_return is Restart.BY_HAND,
    )  # fmt: skip


def _output_of(survey: LiftSurvey, fill_ms: float, empty_ms: float) -> SensorOutput | None:
    """What is set in a look-down sensor; None for one in the water."""
    sensor = survey.sensor
    if sensor is None or sensor.kind is not SensorKind.LOOK_DOWN:
        return None
    return SensorOutput(hydraulics(survey).scaling, sensor.lost_echo, sensor.lost_echo_s, fill_ms, empty_ms)


def _team_of(survey: LiftSurvey, takeover_s: float) -> TeamNumbers | None:
    """How drives without a controller beside work together; None where something else decides."""
    if survey.control.kind is not ControlKind.DRIVES_ALONE or not survey.drives.fitted:
        return None
    team = survey.team
    return TeamNumbers(team.inputs, team.failover, team.link_lost, team.takes_over, takeover_s)


def _drive_of(
    survey: LiftSurvey, choices: LiftChoices, values: Mapping[str, float], lacking: frozenset[str]
) -> DriveNumbers | None:
    """The drives as one; None where there are none."""
    if not survey.drives.fitted:
        return None
    held = {**values, **{setting_id: WITHOUT[S(setting_id)] for setting_id in lacking if setting_id in set(WITHOUT)}}
    return DriveNumbers(
        DriveMode(choices.schools.speed_mode.value), held.get(S.LEAST_SPEED, 1.0), held.get(S.RAMP, survey.drives.ramp_s),
        held.get(Role.STOP, 0.0), held.get(S.FULL_SPEED_LEVEL, 1.0), held.get(S.HOLD_LEVEL, 0.0), held.get(S.HOLD_GAIN, 0.0),
        held.get(S.HOLD_RESET, math.inf), held.get(S.ECONOMICAL_SPEED, 1.0), held.get(S.OUTSIDE_ZERO_SPEED, 0.0),
        held.get(S.OUTSIDE_FULL_SPEED, 1.0), choices.schools.outside_lost,
    )  # fmt: skip


def without_place(relay: LevelRelay) -> LevelRelay:
    """The contact of a role that no device has a place for: a start or an alarm never comes, a stop never stops."""
    return _stuck(relay, (relay.role not in _OPEN_WITHOUT) is not relay.normally_closed)


def at_rest(relay: LevelRelay) -> LevelRelay:
    """A relay that was told to do nothing: it never pulls."""
    return _stuck(relay, False)


def _stuck(relay: LevelRelay, pulled: bool) -> LevelRelay:
    beyond_m = -math.inf if pulled else math.inf
    return replace(relay, on_m=beyond_m, off_m=beyond_m, on_failure=OnFailure.ENERGISE if pulled else OnFailure.RELEASE)


def level_without(role: str) -> float:
    """The level at which a role without a place acts: a start or high alarm never, a stop or low alarm only below all water. [m]"""
    falls = role in (*STOPS, Role.LOW_CUT_OUT, Role.LOW_ALARM)
    return -math.inf if falls else math.inf
