"""A booster's numbers as instruments show them, and as other controllers state them."""

from collections.abc import Mapping
from typing import Any

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Otherwise, Term
from goodbalance.core.physics.scaling_check import CheckedScaling, worked_out
from goodbalance.core.physics.signals import Reading
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey

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


UNDER_SET = ("restart", "night_pressure", "no_flow_pressure", "emergency_pressure")
RISES = {"cut_out": ("cut_in", "cut-in"), "low_suction_reset": ("low_suction_stop", "the stop")}


def otherwise(survey: BoosterSurvey, plan: Plan, setting: Setting) -> Otherwise | None:
    """A restart as a share of the set pressure and as a drop below it, a cut-out as a rise, a gain as a band, and so on."""
    value, set_pa = setting.value, plan.value("set_pressure", 0.0)
    if setting.id in UNDER_SET and set_pa > 0.0:
        share, drop = Term("k", "", value / set_pa, Q.PERCENT), Term("d", "", set_pa - value, Q.PRESSURE)
        return Otherwise("{k} of the set pressure, or {d} below it", (share, drop))
    if setting.id in RISES:
        base_id, name = RISES[setting.id]
        return Otherwise(f"{{d}} above {name}", (Term("d", "", value - plan.value(base_id, 0.0), Q.PRESSURE),))
    if setting.id == "gain" and value > 0.0:
        return Otherwise("a proportional band of {b} %", (Term("b", "", 100.0 / value, Q.RATIO),))
    if setting.id == "reset_time" and value > 0.0:
        return Otherwise("{r} repeats a minute", (Term("r", "", 60.0 / value, Q.RATIO),))
    if setting.group == "speeds":
        hertz = Term("f", "", value * survey.motor.rated_hz, Q.FREQUENCY)
        return Otherwise("{f}, or {n}", (hertz, Term("n", "", value * survey.motor.rated_rpm, Q.ROTATION)))
    return None


def checked_scaling(survey: BoosterSurvey, check: Mapping[str, Any]) -> CheckedScaling:
    """A scaling check worked out in pascal."""
    return worked_out(hydraulics(survey).signal, check)
