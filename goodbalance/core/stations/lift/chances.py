"""How likely each setting stays inside its window although the facts are not sure.

Every doubtful fact is moved to both ends of its 95 % range and the plan is reckoned again; a parabola through the
three values of each bound stands for the reckoning in 20,000 seeded draws of all facts at once.
"""

import numpy as np

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.balance.window import Bound
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.stations.lift.choices import LiftChoices
from goodbalance.core.stations.lift.reckon import reckon
from goodbalance.core.stations.lift.survey import LiftSurvey

DRAWS = 20_000
SEED = 20261125
WIDTH = 1.959964  # standard deviations from the mean to the end of a 95 % range


def chances(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> dict[str, float]:
    """The share of draws in which each setting stays inside its window, by id; settings with an empty window have none.

    Empty where the station cannot be reckoned at an end of the doubt: then there is no honest figure.
    """
    fixed = choices.model_copy(update={"chosen": {setting.id: setting.value for setting in plan.settings}})
    ends = []
    try:
        middle = reckon(survey, fixed, False)
        for moved in (pumps_moved, inflow_moved, area_moved):
            low, high = moved(survey, -1.0), moved(survey, 1.0)
            both = (middle, middle) if low is survey else (reckon(low, fixed, False), reckon(high, fixed, False))
            ends.append(both)
    except GoodBalanceError:
        return {}
    rng = np.random.default_rng(SEED)
    draws = rng.standard_normal((len(ends), DRAWS)) / WIDTH
    level_m = rng.standard_normal(DRAWS) / WIDTH * survey.sureness.level_m
    open_ones = [setting for setting in plan.settings if not setting.window.is_empty]
    return {setting.id: _chance(setting, middle, ends, draws, level_m) for setting in open_ones}


def _chance(
    setting: Setting, middle: Plan, ends: list[tuple[Plan, Plan]], draws: np.ndarray, level_m: np.ndarray
) -> float:
    here = middle.setting(setting.id)
    sides = [[pair[0].setting(setting.id), pair[1].setting(setting.id)] for pair in ends]
    off = level_m if setting.quantity is Quantity.LEVEL else 0.0
    holds = np.ones(draws.shape[1], dtype=bool)
    for place, bound in enumerate(here.window.lower):
        pairs = [(low.window.lower[place].value, high.window.lower[place].value) for low, high in sides]
        holds &= _spread(bound.value, pairs, draws) <= setting.value + _unshared(bound, off) + 1e-9
    for place, bound in enumerate(here.window.upper):
        pairs = [(low.window.upper[place].value, high.window.upper[place].value) for low, high in sides]
        holds &= _spread(bound.value, pairs, draws) >= setting.value + _unshared(bound, off) - 1e-9
    return float(holds.mean())


def _unshared(bound: Bound, off: np.ndarray | float) -> np.ndarray | float:
    """The error of the level reading; a bound built on another level moves with it, so that it cancels."""
    return 0.0 if bound.refers_to else off


def _spread(middle: float, pairs: list[tuple[float, float]], draws: np.ndarray) -> np.ndarray | float:
    """A bound over all draws: the sum of what each fact adds, by a parabola through its three values."""
    total = np.full(draws.shape[1], middle)
    for (low, high), at in zip(pairs, draws):
        if low != middle or high != middle:
            total += 0.5 * (high - low) * at + (0.5 * (high + low) - middle) * at * at
    return total


def pumps_moved(survey: LiftSurvey, way: float) -> LiftSurvey:
    """Every pump's flow moved by `way` times its 95 % half width."""
    share = survey.sureness.pump_rate_share
    if not share:
        return survey
    pumps = {}
    for number, pump in enumerate(survey.pumps, 1):
        curve = tuple(
            point
            if point.flow_m3s is None
            else point.model_copy(update={"flow_m3s": point.flow_m3s * (1.0 + way * share)})
            for point in pump.curve
        )
        pumps[f"pump_{number}"] = pump.model_copy(update={"curve": curve})
    return survey.model_copy(update=pumps)


def inflow_moved(survey: LiftSurvey, way: float) -> LiftSurvey:
    """Every inflow moved by `way` times its 95 % half width."""
    share = survey.sureness.inflow_share
    if not share:
        return survey
    factor = max(0.01, 1.0 + way * share)
    inflow = survey.inflow
    change = {name: getattr(inflow, name) * factor for name in ("min_m3s", "mean_m3s", "peak_m3s")}
    return survey.model_copy(update={"inflow": inflow.model_copy(update=change)})


def area_moved(survey: LiftSurvey, way: float) -> LiftSurvey:
    """The area of the well moved by `way` times its 95 % half width."""
    share, well = survey.sureness.area_share, survey.well
    if not share:
        return survey
    factor = 1.0 + way * share
    root = factor**0.5
    change: dict[str, object] = {
        "diameter_m": well.diameter_m and well.diameter_m * root,
        "floor_diameter_m": well.floor_diameter_m and well.floor_diameter_m * root,
        "width_m": well.width_m and well.width_m * factor,
        "second_area_m2": well.second_area_m2 and well.second_area_m2 * factor,
        "table": tuple(
            point if point.volume_m3 is None else point.model_copy(update={"volume_m3": point.volume_m3 * factor})
            for point in well.table
        ),
    }
    return survey.model_copy(update={"well": well.model_copy(update=change)})
