"""What is doubtful of a lift station, and how likely its settings stay inside their windows for all that."""

from collections.abc import Mapping

from goodbalance.core.balance import chances as balance
from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.reckon import reckon


def chances(survey: LiftSurvey, choices: LiftChoices, plan: Plan, unsure: Mapping[str, float] | None = None) -> dict[str, float]:
    """The share of draws in which each setting stays inside its window, by id. unsure: facts that stand on what is usual."""
    fixed = choices.model_copy(update={"chosen": {setting.id: setting.value for setting in plan.settings}})
    moves = (pumps_moved, inflow_moved, area_moved, *balance.typical_moves(unsure or {}))
    reckoned = lambda moved: reckon(moved, fixed, False)  # noqa: E731
    return balance.chances(plan, survey, reckoned, moves, Quantity.LEVEL, survey.sureness.level_m)


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
