"""Which pressures a booster set holds at a flow: by day, with setback, at night, on the generator, at the far end."""

from collections.abc import Callable, Mapping

from scipy.optimize import brentq

from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import BoosterHydraulics, hydraulics
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, Setback
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey

ByFlow = Callable[[float], float]  # pressure at the sensor by total flow


def held_pa(survey: BoosterSurvey, choices: BoosterChoices, values: Mapping[str, float], flow_m3s: float) -> float:
    """The pressure the set is to hold at a flow: p0 + (p - p0)(Q/Qd)^2 with setback, or in a straight line."""
    full_pa = values.get(S.SET_PRESSURE, values.get(S.CUT_IN, 0.0))
    low_pa = values.get(S.NO_FLOW_PRESSURE)
    if low_pa is None or choices.schools.setback is Setback.NONE:
        return full_pa
    share = min(1.0, max(0.0, flow_m3s / survey.demand.design_m3s))
    return low_pa + (full_pa - low_pa) * (share**2 if choices.schools.setback is Setback.SQUARE else share)


def modes(
    survey: BoosterSurvey, choices: BoosterChoices, values: Mapping[str, float], every_day: bool = False
) -> tuple[ByFlow, ...]:
    """Every way the set works in: by day, and at night, on the generator and by the remote sensor where it has them.

    every_day: without the generator, where a harm that lasts as long as a power failure does not count.
    """
    hyd = hydraulics(survey)

    def day(flow_m3s: float) -> float:
        return held_pa(survey, choices, values, flow_m3s)

    found: list[ByFlow] = [day]
    for name in (S.NIGHT_PRESSURE,) if every_day else (S.NIGHT_PRESSURE, S.EMERGENCY_PRESSURE):
        if name in values:
            found.append(_at_most(values[name], day))
    if survey.remote is not None and S.REMOTE_PRESSURE in values:
        up_pa = values[S.REMOTE_PRESSURE] + hyd.column_of(survey.remote.height_m - survey.outlets.sensor_m)
        found.append(lambda flow_m3s: up_pa + hyd.column_of(hyd.pipe.loss_m(flow_m3s)))
    return tuple(found)


def _at_most(most_pa: float, held: ByFlow) -> ByFlow:
    return lambda flow_m3s: min(most_pa, held(flow_m3s))


def carried_m3s(hyd: BoosterHydraulics, held: ByFlow, speed: float, pumps: int, suction_pa: float) -> float:
    """Total flow that so many pumps give at a speed while the pressure of a mode holds; 0 where they cannot reach it.

    The held pressure may rise with the flow, so the flow is the root of what the pumps give less the flow itself.
    """
    if not speed > 0.0:
        return 0.0
    high = pumps * hyd.flow_at(speed, hyd.added_m(held(0.0), suction_pa))
    if high <= 0.0 or held(high) == held(0.0):
        return high

    def over_m3s(flow_m3s: float) -> float:
        return pumps * hyd.flow_at(speed, hyd.added_m(held(flow_m3s), suction_pa)) - flow_m3s

    return float(brentq(over_m3s, 0.0, high, xtol=1e-12)) if over_m3s(high) < 0.0 else high
