"""What is doubtful of a transfer set, and how likely its settings stay inside their windows for all that."""

from collections.abc import Mapping

from goodbalance.core.balance import chances as balance
from goodbalance.core.balance.facts import Facts
from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey
from goodbalance.core.stations.transfer.windows.reckon import reckon


def chances(survey: TransferSurvey, choices: TransferChoices, plan: Plan, unsure: Mapping[str, float] | None = None) -> dict[str, float]:
    """The share of draws in which each setting stays inside its window, by id. unsure: facts that stand on what is usual."""
    fixed = choices.model_copy(update={"chosen": {setting.id: setting.value for setting in plan.settings}})
    reckoned = lambda moved: reckon(moved, fixed, False)  # noqa: E731
    error_pa = survey.sensor.error_share * survey.sensor.range_pa
    return balance.chances(plan, survey, reckoned, (heads_moved, draws_moved, losses_moved, *balance.typical_moves(unsure or {})), Quantity.PRESSURE, error_pa)


def _scaled(facts: Facts, names: tuple[str, ...], factor: float) -> Facts:
    return facts.model_copy(update={name: getattr(facts, name) * factor for name in names})


def heads_moved(survey: TransferSurvey, way: float) -> TransferSurvey:
    """Every head of the pump curves moved by `way` times its 95 % half width."""
    factor = 1.0 + way * survey.sureness.head_share
    if factor == 1.0:
        return survey
    changes: dict[str, object] = {}
    for name in ("pumping", "second"):
        part = getattr(survey, name)
        if part is not None:
            curve = tuple(point if point.head_m is None else point.model_copy(update={"head_m": point.head_m * factor}) for point in part.curve)
            changes[name] = part.model_copy(update={"curve": curve})
    return survey.model_copy(update=changes)


def draws_moved(survey: TransferSurvey, way: float) -> TransferSurvey:
    """Every draw moved by `way` times its 95 % half width."""
    factor = max(0.01, 1.0 + way * survey.sureness.draw_share)
    if factor == 1.0:
        return survey
    tanks = {f"tank_{number}": _scaled(tank, ("mean_m3s", "peak_m3s"), factor) for number, tank in enumerate(survey.all_tanks, 1)}
    return survey.model_copy(update=tanks)


def losses_moved(survey: TransferSurvey, way: float) -> TransferSurvey:
    """The lengths that stand for the pipes' losses moved by `way` times their 95 % half width."""
    factor = 1.0 + way * survey.sureness.loss_share
    if factor == 1.0:
        return survey
    changes: dict[str, object] = {"line": _scaled(survey.line, ("length_m", "minor_k"), factor)}
    changes |= {f"tank_{number}": _scaled(tank, ("branch_m", "branch_k"), factor) for number, tank in enumerate(survey.all_tanks, 1)}
    return survey.model_copy(update=changes)
