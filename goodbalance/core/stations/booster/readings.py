"""A pressure as the discharge sensor's instruments show it."""

from collections.abc import Mapping
from typing import Any

from goodbalance.core.balance.plan import Setting
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.physics.scaling_check import CheckedScaling, worked_out
from goodbalance.core.physics.signals import Reading
from goodbalance.core.stations.booster.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey import BoosterSurvey

NOT_THERE = ("low_suction_stop", "low_suction_reset", "precharge", "boost", "remote_pressure")


def readings(survey: BoosterSurvey, pressure_pa: float) -> Reading:
    """The pressure on a meter in the loop, on a display in per cent, and as raw counts."""
    hyd, sensor = hydraulics(survey), survey.sensor
    share = pressure_pa / sensor.range_pa
    return Reading(
        pressure_pa, share, hyd.scaling.signal(pressure_pa), hyd.signal.quantity, round(share * sensor.counts)
    )


def is_read(setting: Setting) -> bool:
    """Whether the discharge sensor reads this setting."""
    return setting.quantity is Q.PRESSURE and setting.id not in NOT_THERE


def checked_scaling(survey: BoosterSurvey, check: Mapping[str, Any]) -> CheckedScaling:
    """A scaling check worked out in pascal."""
    return worked_out(hydraulics(survey).signal, check)
