"""A level as the instruments show it: per cent of span, signal, counts of the controller's input; and their check."""

from collections.abc import Mapping
from typing import Any

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Otherwise, Term
from goodbalance.core.physics.scaling_check import CheckedScaling, worked_out
from goodbalance.core.physics.signals import Reading
from goodbalance.core.stations.lift.names import STARTS, Role
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.survey.survey import LiftSurvey


def readings(survey: LiftSurvey, level_m: float) -> Reading:
    """The level on a meter in the loop, on a display in per cent, and as raw counts."""
    hyd = hydraulics(survey)
    if survey.sensor is None:
        return Reading(level_m, 0.0, 0.0, hyd.signal.quantity, 0, by_float=True)
    share = (level_m - hyd.sensor_low_m) / hyd.sensor_span_m
    return Reading(
        level_m, share, hyd.scaling.signal(level_m), hyd.signal.quantity, round(share * survey.sensor.counts)
    )


def is_read(setting: Setting) -> bool:
    """Whether the level sensor reads this setting."""
    return setting.quantity is Q.LEVEL and setting.group != "floats"


def otherwise(plan: Plan, setting: Setting) -> Otherwise | None:
    """A start level as a hysteresis above the stop level, as controllers with one level and a band take it."""
    if Role.STOP not in plan or setting.id not in STARTS:
        return None
    height_m = setting.value - plan.setting(Role.STOP).value
    return Otherwise("{d} above the stop level", (Term("d", "", height_m, Q.LENGTH),))


def checked_scaling(survey: LiftSurvey, check: Mapping[str, Any]) -> CheckedScaling:
    """A scaling check worked out in metres."""
    return worked_out(hydraulics(survey).signal, check)
