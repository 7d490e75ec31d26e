"""The numbers of the booster's picture: pressure at the sensor over flow, with curves, demands, path and forbidden corners."""

from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.stations.booster.names import CUT_INS, CUT_OUTS
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import BoosterHydraulics, hydraulics
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.trials.sweep import hand_sweep
from goodbalance.core.stations.booster.windows.held import held_pa

POINTS = 40
FLAGS = (
    S.FILL_PRESSURE, S.BURST_STOP, *reversed(CUT_INS), S.RESTART, S.NO_FLOW_PRESSURE, S.EMERGENCY_PRESSURE, S.NIGHT_PRESSURE,
    S.SET_PRESSURE, *reversed(CUT_OUTS), S.HIGH_STOP,
)  # fmt: skip
DEMANDS = (0.25, 0.5, 0.75, 1.0)
SLOWER = (0.9, 0.8, 0.7)


def drawing(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> dict[str, Any]:
    """Flows in m3/s, pressures in Pa; lists of [flow, pressure] for each line."""
    hyd, design = hydraulics(survey), survey.demand.design_m3s
    values = {setting.id: setting.value for setting in plan.settings}
    duty = survey.pumping.duty_count
    flow_max = 1.22 * max(design, survey.demand.design_m3s + (survey.demand.flush_m3s or 0.0) * 0.5)
    full = values.get(S.MOST_SPEED, values.get(S.FIXED_SPEED, 1.0))
    tops = [hyd.delivered_pa(0.0, 1, hyd.suction_low_pa, full), values[S.HIGH_STOP], hyd.column_pa]
    steps = [flow_max * k / POINTS for k in range(POINTS + 1)]
    rows = hand_sweep(survey, choices, plan)
    return {
        "flow_max_m3s": flow_max,
        "top_pa": 1.08 * max(tops),
        "low_pa": 0.6 * min([hyd.column_pa, *(values[name] for name in FLAGS if name in values)]),
        "pumps": survey.pumping.count,
        "curves": [
            {"pumps": n, "speed": speed, "points": _curve(hyd, steps, n, speed)}
            for n in range(1, duty + 1)
            for speed in ((full, *(full * s for s in SLOWER)) if n == duty else (full,))
        ],
        "demands": [{"share": share, "points": _demand(hyd, steps, share)} for share in DEMANDS],
        "wanted": [[q, hyd.wanted_pa(q)] for q in steps if q <= design * 1.0001],
        "path": [[q, held_pa(survey, choices, values, q)] for q in steps if q <= design * 1.0001],
        "stops": [
            {"name": row.name, "flow_m3s": row.flow_m3s, "pa": row.set_pa, "pumps": row.best.pumps if row.best else 0,
             "speed": row.best.speed if row.best else None}
            for row in rows
        ],
        "design_m3s": design,
        "least_m3s": survey.demand.least_m3s,
        "too_little_m3s": survey.pumping.least_flow_m3s,
        "most_m3s": hyd.most_m3s * duty,
        "npsh_m3s": _npsh_limit(hyd, steps, duty),
        "column_pa": hyd.column_pa,
        "rating_pa": hyd.weakest.at_sensor_pa,
        "flag_ids": [name for name in FLAGS if name in values],
        "tank_m3": survey.vessel.volume_m3,
    }  # fmt: skip


def _curve(hyd: BoosterHydraulics, steps: list[float], pumps: int, speed: float) -> list[list[float]]:
    """Pressure that so many pumps give at the lowest suction, up to the end of their curve."""
    last = hyd.most_m3s * speed * pumps
    found = [[q, hyd.delivered_pa(q, pumps, hyd.suction_pa(q), speed)] for q in steps if q <= last]
    return [point for point in found if point[1] >= 0.0]


def _demand(hyd: BoosterHydraulics, steps: list[float], share: float) -> list[list[float]]:
    """Pressure that drives a flow through outlets opened to a share: column and losses, and p = residual (Q / share Qd)^2."""
    outlets, design = hyd.survey.outlets, hyd.survey.demand.design_m3s
    residual_pa = max(outlets.residual_pa, 1e4)
    base = outlets.worst_m - outlets.sensor_m
    return [[q, hyd.column_of(base + hyd.pipe.loss_m(q)) + residual_pa * (q / (share * design)) ** 2] for q in steps]


def _npsh_limit(hyd: BoosterHydraulics, steps: list[float], pumps: int) -> float | None:
    """The flow from which all duty pumps at full speed lack suction, at the lowest supply; None where never."""
    for q in steps:
        needed_m = hyd.npsh_required_m(q / pumps, 1.0)
        if needed_m is not None and hyd.npsh_available_m(hyd.suction_pa(q)) < needed_m:
            return q
    return None
