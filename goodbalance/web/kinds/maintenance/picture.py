"""The numbers of a maintenance pump's picture: every pressure that counts, on one scale."""

from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.names import main_start
from goodbalance.core.stations.maintenance.plant.hydraulics import hydraulics
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey

SPARE = 0.08  # of the whole span, above and below what is drawn


def drawing(survey: MaintenanceSurvey, plan: Plan, units: UnitSystem) -> dict[str, Any]:
    """Pressures in pascal at the sensor."""
    hyd = hydraulics(survey)
    values = {setting.id: setting.value for setting in plan.settings}
    named = [
        ("supply, at most", hyd.supply_pa(True)), ("main's churn, least", hyd.churn_pa(False)), ("main's churn, most", hyd.churn_pa(True)),
        ("shut-off, least", hyd.shut_off_pa(False)), ("shut-off, most", hyd.shut_off_pa(True)),
    ]  # fmt: skip
    limit_pa, part = min((rating - down, name) for name, rating, down in hyd.rated_parts)
    top_pa = max(pa for _, pa in named)
    if limit_pa < 1.25 * top_pa:
        named.append((part, limit_pa))
    flags = [main_start(number) for number in range(survey.mains.count, 0, -1)] + [S.START_PRESSURE, S.STOP_PRESSURE]
    every = [pa for _, pa in named] + [values[one] for one in flags]
    span_pa = max(every) - min(every)
    return {
        "low_pa": max(0.0, min(every) - SPARE * span_pa), "high_pa": max(every) + SPARE * span_pa, "mains": survey.mains.count,
        "marks": [{"name": name, "pa": pa, "text": show(pa, Quantity.PRESSURE, units)} for name, pa in named], "flag_ids": [str(one) for one in flags],
    }  # fmt: skip
