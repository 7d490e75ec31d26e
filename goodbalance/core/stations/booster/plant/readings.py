"""A booster's numbers as instruments show them, and as other controllers state them."""

from collections.abc import Mapping
from typing import Any

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Otherwise, Term
from goodbalance.core.physics.scaling_check import CheckedScaling, worked_out
from goodbalance.core.physics.signals import Reading
from goodbalance.core.stations.booster.names import CUT_INS, CUT_OUTS
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey

NOT_THERE = (S.LOW_SUCTION_STOP, S.LOW_SUCTION_RESET, S.LOW_SUCTION_ALARM, S.PRECHARGE, S.BOOST, S.REMOTE_PRESSURE)


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


UNDER_SET = (S.RESTART, S.NIGHT_PRESSURE, S.NO_FLOW_PRESSURE, S.EMERGENCY_PRESSURE)
RISES: dict[str, tuple[S, str]] = {**{stops: (starts, "cut-in") for starts, stops in zip(CUT_INS, CUT_OUTS)}, S.LOW_SUCTION_RESET: (S.LOW_SUCTION_STOP, "the stop")}


def otherwise(survey: BoosterSurvey, plan: Plan, setting: Setting) -> Otherwise | None:
    """A restart as a share of the set pressure and as a drop below it, a cut-out as a rise, a gain as a band, and so on."""
    value, set_pa = setting.value, plan.value(S.SET_PRESSURE, 0.0)
    if setting.id in UNDER_SET and set_pa > 0.0:
        share, drop = Term("k", "", value / set_pa, Q.PERCENT), Term("d", "", set_pa - value, Q.PRESSURE)
        return Otherwise("{k} of the set pressure, or {d} below it", (share, drop))
    if setting.id in RISES:
        base_id, name = RISES[setting.id]
        return Otherwise(f"{{d}} above {name}", (Term("d", "", value - plan.value(base_id, 0.0), Q.PRESSURE),))
    if setting.id == S.GAIN and value > 0.0:
        return Otherwise("a proportional band of {b} %", (Term("b", "", 100.0 / value, Q.RATIO),))
    if setting.id == S.RESET_TIME and value > 0.0:
        return Otherwise("{r} repeats a minute", (Term("r", "", 60.0 / value, Q.RATIO),))
    if setting.group == "speeds":
        hertz = Term("f", "", value * survey.motor.rated_hz, Q.FREQUENCY)
        return Otherwise("{f}, or {n}", (hertz, Term("n", "", value * survey.motor.rated_rpm, Q.ROTATION)))
    return None


def checked_scaling(survey: BoosterSurvey, check: Mapping[str, Any]) -> CheckedScaling:
    """A scaling check worked out in pascal."""
    return worked_out(hydraulics(survey).signal, check)
