"""Random fire lines with their maintenance pumps: stiff or soft, with one to three main pumps, started by their people or not known."""

import math
import random
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.maintenance.windows.reckon import reckon

Line = tuple[MaintenanceSurvey, MaintenanceChoices, Plan]
WATER = 9800.0  # N/m3


def line(rng: random.Random) -> tuple[MaintenanceSurvey, MaintenanceChoices]:
    """One of them: a pump somewhat over the churn of its main pump."""
    low = rng.uniform(0.0, 5e5)
    high, churn, permitted = low + rng.uniform(0.1e5, 2e5), rng.uniform(5e5, 12e5), math.exp(rng.uniform(math.log(1e-6), math.log(5e-5)))
    head = churn / WATER * rng.uniform(1.15, 1.6) + 10.0
    rate = max(3e-4, permitted * 6.0 * rng.uniform(1.5, 10.0))
    falls, power, count = head * rng.uniform(0.2, 0.6) / rate**2, WATER * head * rate * 2.2, rng.choice([1, 1, 2, 3])
    mains: dict[str, Any] = {"count": count, "churn_pa": churn}
    if rng.random() < 0.5:
        first = high + churn * rng.uniform(0.3, 0.8)
        mains |= {f"start_{number}_pa": first - (number - 1) * 8e4 for number in range(1, count + 1)}
    survey = MaintenanceSurvey.model_validate({
        "visit": {"controls_off": True}, "suction": {"low_pa": low, "high_pa": high}, "mains": mains,
        "line": {
            "volume_m3": rng.uniform(0.1, 20.0), "wave_ms": rng.choice([400.0, 1000.0, 1250.0]), "air_m3": rng.choice([0.0, 0.0, rng.uniform(0.001, 0.05)]),
            "vessel_m3": rng.choice([0.0, 0.0, rng.uniform(0.01, 0.1)]), "rating_pa": rng.choice([16e5, 25e5, 40e5]), "relief_pa": rng.choice([None, None, (high + churn) * 1.6]),
            "permitted_m3s": permitted, "leak_m3s": permitted * rng.choice([0.0, 0.1, 0.5, 0.9]), "sprinkler_m3s": rng.uniform(5e-4, 3e-3),
        },
        "pumping": {
            "starts_per_hour": rng.choice([6.0, 10.0, 15.0, 20.0]),
            "curve": [{"flow_m3s": rate * s, "head_m": head - falls * (rate * s) ** 2, "power_w": WATER * head * rate * (0.8 + s)} for s in (0.0, 0.5, 1.0, 1.2)],
        },
        "motor": {"rated_current_a": max(0.3, power / (math.sqrt(3.0) * 400.0 * 0.85)), "rated_power_w": max(25.0, 0.8 * power)},
        "control": {"phase_monitor": rng.random() < 0.5},
        "sensor": {
            "height_m": 0.0, "range_pa": rng.choice([25e5, 40e5]), "noise_pa": rng.choice([300.0, 1e3, 3e3]), "error_share": rng.choice([0.001, 0.0025]),
            "scan_s": rng.choice([0.1, 0.2, 0.5]), "filter_s": rng.choice([0.0, 0.2, 0.5]), "run_down_s": rng.choice([0.0, 0.3, 1.0]),
        },
    })  # fmt: skip
    schools = {"run_on": rng.choice(["timer", "timer", "none"]), "alarm_reset": rng.choice(["automatic", "by_hand"])}
    return survey, MaintenanceChoices.model_validate({"schools": schools, "protection": {"power_return": rng.choice(["by_itself", "by_hand"])}})


def lines(rng: random.Random, count: int) -> list[Line]:
    """So many whose plan is sound."""
    found: list[Line] = []
    while len(found) < count:
        try:
            survey, choices = line(rng)
            plan = reckon(survey, choices, False)
        except (GoodBalanceError, ValueError):
            continue
        if plan.is_sound:
            found.append((survey, choices, plan))
    return found
