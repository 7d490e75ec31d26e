"""A maintenance pump in round numbers, for tests: H = 120 - 3e7 q^2, a line of 2 m3 that takes 0.02 l a bar, supply 2 to 3 bar, churn 8 bar."""

from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.maintenance.windows.reckon import reckon

A_M, C = 120.0, 3e7  # of the pump
CURVE = [{"flow_m3s": q, "head_m": A_M - C * q * q, "power_w": 900.0 + 6e5 * q} for q in (0.0, 0.0004, 0.0008, 0.0012, 0.0016)]


def survey(**changes: dict[str, object]) -> MaintenanceSurvey:
    """The line with sections changed."""
    facts: dict[str, dict[str, object]] = {
        "visit": {"controls_off": True}, "authority": {"licensed": "Isa Moor", "rule": "house rule 4", "receiver_told": True, "impaired": True},
        "suction": {"low_pa": 2e5, "high_pa": 3e5}, "mains": {"churn_pa": 8e5, "start_1_pa": 8.4e5},
        "line": {"volume_m3": 2.0, "wave_ms": 1000.0, "rating_pa": 20e5, "permitted_m3s": 5e-6, "leak_m3s": 1e-6, "sprinkler_m3s": 1.5e-3, "sprinkler_pa": 1e5},
        "pumping": {"starts_per_hour": 15.0, "curve": CURVE}, "motor": {"rated_current_a": 4.0, "rated_power_w": 1800.0},
        "sensor": {"height_m": 0.0, "range_pa": 20e5, "noise_pa": 1e3, "error_share": 0.0025, "scan_s": 0.1, "filter_s": 0.2, "run_down_s": 0.3},
    }  # fmt: skip
    for section, change in changes.items():
        facts[section] = {**facts.get(section, {}), **change}
    return MaintenanceSurvey.model_validate(facts)


def choices(**schools: Any) -> MaintenanceChoices:
    """With schools changed; chosen settings under `chosen`."""
    chosen = schools.pop("chosen", {})
    return MaintenanceChoices.model_validate({"schools": schools, "chosen": chosen})


def plan_of(facts: MaintenanceSurvey, decided: MaintenanceChoices | None = None) -> Plan:
    """Without a search for what opens empty windows."""
    return reckon(facts, decided or MaintenanceChoices(), False)
