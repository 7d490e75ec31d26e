"""What is doubtful of a ring, and how likely its settings stay inside their windows for all that."""

from collections.abc import Mapping

from goodbalance.core.balance import chances as balance
from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.stations.circulator.plant.equations import equations
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.windows.openers import with_sections as changed
from goodbalance.core.stations.circulator.windows.reckon import reckon


def chances(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan, unsure: Mapping[str, float] | None = None) -> dict[str, float]:
    """The share of draws in which each setting stays inside its window, by id. unsure: facts that stand on what is usual."""
    fixed = choices.model_copy(update={"chosen": {setting.id: setting.value for setting in plan.settings}})
    reckoned = lambda moved: reckon(moved, fixed, False)  # noqa: E731
    return balance.chances(plan, survey, reckoned, (losses_moved, heads_moved, lengths_moved, *balance.typical_moves(unsure or {})), Quantity.TEMPERATURE, choices.rules.sensor_k)


def losses_moved(survey: CirculatorSurvey, way: float) -> CirculatorSurvey:
    """What every pipe loses moved by `way` times its 95 % half width."""
    eq, factor = equations(survey), max(0.05, 1.0 + way * survey.sureness.loss_share)
    update: dict[str, object] = {f"branch_{number}": branch.model_copy(update={"loss_wmk": factor * eq.pipes[number - 1].there.lost_wmk}) for number, branch in enumerate(survey.branches, 1)}
    return changed(survey, common=survey.common.model_copy(update={"loss_wmk": factor * eq.there.lost_wmk}), **update)


def heads_moved(survey: CirculatorSurvey, way: float) -> CirculatorSurvey:
    """Every head of the pump curve moved likewise."""
    return changed(survey, pump=survey.pump.with_heads(1.0 + way * survey.sureness.head_share))


def lengths_moved(survey: CirculatorSurvey, way: float) -> CirculatorSurvey:
    """The lengths of all branches moved likewise."""
    factor = max(0.05, 1.0 + way * survey.sureness.length_share)
    update: dict[str, object] = {
        f"branch_{number}": branch.model_copy(update={"there_m": factor * branch.there_m, "back_m": factor * branch.back_m}) for number, branch in enumerate(survey.branches, 1)
    }
    return changed(survey, **update)
