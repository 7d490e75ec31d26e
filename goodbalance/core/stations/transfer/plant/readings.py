"""A transfer set's pressures as instruments show them, and as other controllers state them."""

from collections.abc import Mapping
from typing import Any

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Otherwise, Term
from goodbalance.core.physics.scaling_check import CheckedScaling, worked_out
from goodbalance.core.physics.signals import Reading
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.hydraulics import hydraulics
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey


def readings(survey: TransferSurvey, pressure_pa: float) -> Reading:
    """The pressure on a meter in the loop, on a display in per cent, and as raw counts."""
    hyd, sensor = hydraulics(survey), survey.sensor
    share = pressure_pa / sensor.range_pa
    return Reading(pressure_pa, share, hyd.scaling.signal(pressure_pa), hyd.signal.quantity, round(share * sensor.counts))


def is_read(setting: Setting) -> bool:
    """Whether the pressure sensor reads this setting."""
    return setting.quantity is Q.PRESSURE


def otherwise(survey: TransferSurvey, plan: Plan, setting: Setting) -> Otherwise | None:
    """A pressure as head over the sensor, a restart also as a drop below the stop and a share of it; a source's level over the lowest the pump may draw from."""
    if setting.quantity is Q.PRESSURE:
        head = Term("h", "", setting.value / hydraulics(survey).weight, Q.HEAD)
        if setting.id == S.RESTART_PRESSURE and plan.value(S.STOP_PRESSURE, 0.0) > 0.0:
            stop_pa = plan.value(S.STOP_PRESSURE, 0.0)
            share, drop = Term("k", "", setting.value / stop_pa, Q.PERCENT), Term("d", "", stop_pa - setting.value, Q.PRESSURE)
            return Otherwise("{h} of this liquid; {d} below the stop, {k} of it", (head, share, drop))
        return Otherwise("{h} of this liquid over the sensor", (head,))
    for place, source in enumerate(survey.sources, 1):
        if setting.id in (f"source_stop_{place}", f"source_back_{place}"):
            return Otherwise("{h} over the lowest the pump may draw from", (Term("h", "", setting.value - source.safe_m, Q.LEVEL),))
    return None


def checked_scaling(survey: TransferSurvey, check: Mapping[str, Any]) -> CheckedScaling:
    """A scaling check worked out in pascal."""
    return worked_out(hydraulics(survey).signal, check)
