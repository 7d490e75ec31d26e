"""What is doubtful of a fire line, and how likely its settings stay inside their windows for all that."""

from collections.abc import Mapping

from goodbalance.core.balance import chances as balance
from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.maintenance.windows.reckon import reckon


def chances(survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan, unsure: Mapping[str, float] | None = None) -> dict[str, float]:
    """The share of draws in which each setting stays inside its window, by id. unsure: facts that stand on what is usual."""
    fixed = choices.model_copy(update={"chosen": {setting.id: setting.value for setting in plan.settings}})
    reckoned = lambda moved: reckon(moved, fixed, False)  # noqa: E731
    error_pa = survey.sensor.error_share * survey.sensor.range_pa
    return balance.chances(plan, survey, reckoned, (heads_moved, supply_moved, leaks_moved, *balance.typical_moves(unsure or {})), Quantity.PRESSURE, error_pa)


def heads_moved(survey: MaintenanceSurvey, way: float) -> MaintenanceSurvey:
    """Every head of the pump curve moved by `way` times its 95 % half width."""
    factor = 1.0 + way * survey.sureness.head_share
    curve = tuple(point if point.head_m is None else point.model_copy(update={"head_m": point.head_m * factor}) for point in survey.pumping.curve)
    return survey.model_copy(update={"pumping": survey.pumping.model_copy(update={"curve": curve})})


def supply_moved(survey: MaintenanceSurvey, way: float) -> MaintenanceSurvey:
    """Both pressures of the supply moved by `way` times their 95 % half width."""
    factor = 1.0 + way * survey.sureness.suction_share
    moved = {name: getattr(survey.suction, name) * factor for name in ("low_pa", "high_pa")}
    return survey.model_copy(update={"suction": survey.suction.model_copy(update=moved)})


def leaks_moved(survey: MaintenanceSurvey, way: float) -> MaintenanceSurvey:
    """Leak and permitted leak moved by `way` times their 95 % half width."""
    factor = max(0.01, 1.0 + way * survey.sureness.leak_share)
    moved = {name: getattr(survey.line, name) * factor for name in ("leak_m3s", "permitted_m3s")}
    return survey.model_copy(update={"line": survey.line.model_copy(update=moved)})
