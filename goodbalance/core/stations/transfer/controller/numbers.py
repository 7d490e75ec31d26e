"""The numbers a transfer set's controller works with, taken from a plan or as its devices really hold them."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.physics.signals import SignalRange
from goodbalance.core.protection.monitor import MonitorNumbers, monitor_numbers
from goodbalance.core.protection.names import Restart
from goodbalance.core.protection.numbers import MotorNumbers
from goodbalance.core.protection.numbers import numbers_of as motor_numbers
from goodbalance.core.stations.shared.crew import Standby
from goodbalance.core.stations.transfer.names import OF_A_TANK, Level
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.hydraulics import hydraulics
from goodbalance.core.stations.transfer.plant.motors import duties
from goodbalance.core.stations.transfer.survey.choices import (
    AfterCut,
    AlarmReset,
    DelayFrom,
    Reset,
    RestartBy,
    TransferChoices,
)
from goodbalance.core.stations.transfer.survey.control import FullBy
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey


def _setting(setting_id: S, without: float) -> Any:
    """A number that a setting gives. without: what acts where neither plan nor device has such a setting."""
    return field(metadata={"setting": setting_id, "without": without})


NOWHERE: dict[Level, float] = {  # what acts where a level has no place: it is never reached
    Level.STOP: math.inf, Level.START: -math.inf, Level.ASSIST: -math.inf, Level.HIGH_ALARM: math.inf, Level.LOW_ALARM: -math.inf,
    Level.SOURCE_STOP: -math.inf, Level.SOURCE_BACK: -math.inf,
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Numbers:
    """Settings in SI; what is not used never acts (infinite, or beyond reach). tanks, sources: the levels of each."""

    full_by: FullBy
    watched: bool  # whether a broken wire to a tank is told from a level
    signal: SignalRange  # that the pressure sensor's input is set to
    range_pa: float
    pumps: int  # that the controller knows of
    standby: Standby  # who of them stands by
    alternation: Alternation
    clock_period_s: float
    restart_by: RestartBy
    delay_from: DelayFrom
    after_cut: AfterCut
    source_reset: Reset
    alarms_by_hand: bool
    filter_s: float
    throttles_pa: float  # over this it says that a valve throttles
    tanks: tuple[Mapping[Level, float], ...]
    sources: tuple[Mapping[Level, float], ...]
    motors: tuple[MotorNumbers, ...] = ()  # what protects each pump's motor
    monitor: MonitorNumbers = MonitorNumbers()  # of the supply
    waits_after: bool = False  # whether a person must reset before pumps start again once the supply is back
    stop_pressure: float = _setting(S.STOP_PRESSURE, math.inf)
    restart_pressure: float = _setting(S.RESTART_PRESSURE, -math.inf)
    least_pressure: float = _setting(S.LEAST_PRESSURE, -math.inf)
    restart_delay: float = _setting(S.RESTART_DELAY, 0.0)
    source_delay: float = _setting(S.SOURCE_DELAY, 0.0)
    wire_delay: float = _setting(S.WIRE_DELAY, 0.0)
    assist_after: float = _setting(S.ASSIST_AFTER, math.inf)
    least_delay: float = _setting(S.LEAST_DELAY, math.inf)
    longest_run: float = _setting(S.LONGEST_RUN, math.inf)
    start_gap: float = _setting(S.START_GAP, 0.0)

    def __deepcopy__(self, memo: dict[int, object]) -> "Numbers":
        return self  # nothing of it changes

    @property
    def by_pressure(self) -> bool:
        """Whether a pressure says that tanks are full."""
        return self.full_by is not FullBy.LEVELS


def numbers_of(survey: TransferSurvey, choices: TransferChoices, plan: Plan, lacking: frozenset[str] = frozenset()) -> Numbers:
    """Every number the controller needs, by the plan; what this plan does not have is put out of reach.

    lacking: settings of the plan that no device has a place for: they never act.
    """
    schools, hyd, control = choices.schools, hydraulics(survey), survey.control
    held = {setting.id: setting.value for setting in plan.settings if setting.id not in lacking}
    return Numbers(
        full_by=control.full_by, watched=control.tells_broken_wire, signal=hyd.signal, range_pa=survey.sensor.range_pa, pumps=survey.pumping.count, standby=survey.pumping.stands_by,
        alternation=schools.alternation if survey.pumping.duty_count > 1 else Alternation.FIXED, clock_period_s=choices.rules.clock_period_s,
        restart_by=schools.restart_by, delay_from=schools.delay_from, after_cut=schools.after_cut, source_reset=schools.source_reset,
        alarms_by_hand=schools.alarm_reset is AlarmReset.BY_HAND, filter_s=survey.sensor.filter_s, throttles_pa=hyd.highest_running[0] + choices.rules.margin_pa / 2.0,
        tanks=tuple(_levels(held, OF_A_TANK, number) for number in range(1, survey.tanks.count + 1)),
        sources=tuple(_levels(held, (Level.SOURCE_STOP, Level.SOURCE_BACK), number) for number in range(1, len(survey.sources) + 1)),
        motors=motor_numbers(held, duties(survey), survey.protection), monitor=monitor_numbers(held, control.phase_monitor, survey.protection.monitor),
        waits_after=choices.protection.power_return is Restart.BY_HAND, **{name: held.get(setting_id, without) for name, setting_id, without in _SETTINGS},
    )  # fmt: skip


def _levels(held: Mapping[str, float], levels: tuple[Level, ...], number: int) -> Mapping[Level, float]:
    return {level: held.get(level.of(number), NOWHERE[level]) for level in levels}


_SETTINGS = tuple((each.name, each.metadata["setting"], each.metadata["without"]) for each in fields(Numbers) if each.metadata)
WITHOUT: dict[str, float] = {  # what acts where a setting has no place
    **{setting_id: without for _, setting_id, without in _SETTINGS},
    **{one: NOWHERE[level] for level in Level for one in S if one.startswith(f"{level}_")},
}  # fmt: skip
