"""Pressures of a maintenance pump's line as instruments show them, and as other controllers state them."""

from collections.abc import Mapping
from typing import Any

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Otherwise, Term
from goodbalance.core.physics.scaling_check import CheckedScaling, worked_out
from goodbalance.core.physics.signals import Reading
from goodbalance.core.stations.maintenance.names import OTHERS
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.plant.hydraulics import hydraulics
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey


def readings(survey: MaintenanceSurvey, pressure_pa: float) -> Reading:
    """The pressure on a meter in the loop, on a display in per cent, and as raw counts."""
    hyd, sensor = hydraulics(survey), survey.sensor
    share = pressure_pa / sensor.range_pa
    return Reading(pressure_pa, share, hyd.scaling.signal(pressure_pa), hyd.signal.quantity, round(share * sensor.counts))


def is_read(setting: Setting) -> bool:
    """Whether the maintenance pump's sensor reads this setting; the main pumps have their own."""
    return setting.quantity is Q.PRESSURE and setting.group != OTHERS


def otherwise(survey: MaintenanceSurvey, plan: Plan, setting: Setting) -> Otherwise | None:
    """A start as a drop below the stop; the stop over the main pump's churn with the lowest supply."""
    if setting.id == S.START_PRESSURE:
        return Otherwise("{d} below the stop", (Term("d", "", plan.value(S.STOP_PRESSURE, 0.0) - setting.value, Q.PRESSURE),))
    if setting.id == S.STOP_PRESSURE:
        return Otherwise("{d} over the main pump's churn with the lowest supply", (Term("d", "", setting.value - hydraulics(survey).churn_pa(False), Q.PRESSURE),))
    return None


def checked_scaling(survey: MaintenanceSurvey, check: Mapping[str, Any]) -> CheckedScaling:
    """A scaling check worked out in pascal."""
    return worked_out(hydraulics(survey).signal, check)
