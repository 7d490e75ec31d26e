"""What is doubtful of a booster set, and how likely its settings stay inside their windows for all that."""

from collections.abc import Mapping

from goodbalance.core.balance import chances as balance
from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.reckon import reckon


def chances(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, unsure: Mapping[str, float] | None = None) -> dict[str, float]:
    """The share of draws in which each setting stays inside its window, by id. unsure: facts that stand on what is usual."""
    fixed = choices.model_copy(update={"chosen": {setting.id: setting.value for setting in plan.settings}})
    moves = (heads_moved, demand_moved, loss_moved, *balance.typical_moves(unsure or {}))
    reckoned = lambda moved: reckon(moved, fixed, False)  # noqa: E731
    return balance.chances(plan, survey, reckoned, moves, Quantity.PRESSURE, survey.sureness.reading_pa)


def heads_moved(survey: BoosterSurvey, way: float) -> BoosterSurvey:
    """Every head of the pump curve moved by `way` times its 95 % half width."""
    share = survey.sureness.head_share
    if not share:
        return survey
    curve = tuple(
        point if point.head_m is None else point.model_copy(update={"head_m": point.head_m * (1.0 + way * share)})
        for point in survey.pumping.curve
    )
    return survey.model_copy(update={"pumping": survey.pumping.model_copy(update={"curve": curve})})


def demand_moved(survey: BoosterSurvey, way: float) -> BoosterSurvey:
    """Every demand moved by `way` times its 95 % half width."""
    share, demand = survey.sureness.demand_share, survey.demand
    if not share:
        return survey
    factor = max(0.01, 1.0 + way * share)
    change = {name: getattr(demand, name) * factor for name in ("least_m3s", "mean_m3s", "design_m3s")}
    return survey.model_copy(update={"demand": demand.model_copy(update=change)})


def loss_moved(survey: BoosterSurvey, way: float) -> BoosterSurvey:
    """The length that stands for the pipe's losses moved by `way` times its 95 % half width."""
    share, outlets = survey.sureness.loss_share, survey.outlets
    if not share:
        return survey
    change = {"length_m": outlets.length_m * (1.0 + way * share), "minor_k": outlets.minor_k * (1.0 + way * share)}
    return survey.model_copy(update={"outlets": outlets.model_copy(update=change)})
