"""The numbers a maintenance pump's controller works with, taken from a plan or as its device really holds them."""

import math
from dataclasses import dataclass, field, fields
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.physics.signals import SignalRange
from goodbalance.core.protection.monitor import MonitorNumbers, monitor_numbers
from goodbalance.core.protection.names import Restart
from goodbalance.core.protection.numbers import MotorNumbers
from goodbalance.core.protection.numbers import numbers_of as motor_numbers
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.names import main_start
from goodbalance.core.stations.maintenance.plant.hydraulics import hydraulics
from goodbalance.core.stations.maintenance.plant.motors import duties
from goodbalance.core.stations.maintenance.survey.choices import AlarmReset, MaintenanceChoices
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey


def _setting(setting_id: S, without: float) -> Any:
    """A number that a setting gives. without: what acts where neither plan nor device has such a setting."""
    return field(metadata={"setting": setting_id, "without": without})


@dataclass(frozen=True, slots=True, kw_only=True)
class Numbers:
    """Settings in SI; what is not used never acts (infinite, or beyond reach). mains_pa: the main pumps' own starts."""

    signal: SignalRange  # that the sensor's input is set to
    range_pa: float
    filter_s: float
    alarms_by_hand: bool
    mains_pa: tuple[float, ...]
    motors: tuple[MotorNumbers, ...] = ()
    monitor: MonitorNumbers = MonitorNumbers()  # of the supply
    waits_after: bool = False  # whether a person must reset before it starts again once the supply is back
    stop_pressure: float = _setting(S.STOP_PRESSURE, math.inf)
    start_pressure: float = _setting(S.START_PRESSURE, -math.inf)
    on_delay: float = _setting(S.ON_DELAY, 0.0)
    least_run: float = _setting(S.LEAST_RUN, 0.0)
    long_run: float = _setting(S.LONG_RUN, math.inf)


def numbers_of(survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan, lacking: frozenset[str] = frozenset()) -> Numbers:
    """Every number the controller needs, by the plan; what this plan does not have is put out of reach.

    lacking: settings of the plan that no device has a place for: they never act.
    """
    held = {setting.id: setting.value for setting in plan.settings if setting.id not in lacking}
    return Numbers(
        signal=hydraulics(survey).signal, range_pa=survey.sensor.range_pa, filter_s=survey.sensor.filter_s, alarms_by_hand=choices.schools.alarm_reset is AlarmReset.BY_HAND,
        mains_pa=tuple(plan.value(main_start(number), 0.0) for number in range(1, survey.mains.count + 1)),
        motors=motor_numbers(held, duties(survey), survey.protection), monitor=monitor_numbers(held, survey.control.phase_monitor, survey.protection.monitor),
        waits_after=choices.protection.power_return is Restart.BY_HAND, **{name: held.get(setting_id, without) for name, setting_id, without in _SETTINGS},
    )  # fmt: skip


_SETTINGS = tuple((each.name, each.metadata["setting"], each.metadata["without"]) for each in fields(Numbers) if each.metadata)
WITHOUT: dict[str, float] = {setting_id: without for _, setting_id, without in _SETTINGS}  # what acts where a setting has no place
