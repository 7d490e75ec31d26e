"""A booster set reckoned by hand: a lossless pipe and a curve H = 60 - 2e6 Q^2 of one pump, so that numbers can be read off.

Sensor at 0 m, worst outlet 20 m, top 25 m, lowest -5 m; 1.5 bar wanted, 6 bar permitted; suction 0.2 to 1.0 bar.
A metre of water at 20 degrees C, 998.206 kg/m3, is 9789.06 Pa; its vapour pressure is 2339.2 Pa.
"""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.reckon import reckon

METRE_PA = 998.2061 * 9.80665  # water at 20 degrees C, IAPWS
CURVE = [{"flow_m3s": q, "head_m": 60.0 - 2e6 * q * q, "npsh_m": 1.0 + 1e5 * q * q} for q in (0.0, 0.002, 0.004)]


def survey(**changes) -> BoosterSurvey:
    facts = {
        "visit": {"controls_off": True},
        "control": {},
        "supply": {"kind": "town_main", "low_pa": 20e3, "high_pa": 100e3, "loss_pa": 0.0, "temperature_c": 20.0, "main_floor_pa": 0.0},
        "outlets": {
            "sensor_m": 0.0, "worst_m": 20.0, "lowest_m": -5.0, "top_m": 25.0, "residual_pa": 150e3, "permitted_pa": 600e3,
            "length_m": 0.5, "diameter_m": 1.0, "hazen_williams_c": 150.0, "minor_k": 0.0,
        },
        "demand": {"least_m3s": 0.0005, "mean_m3s": 0.002, "design_m3s": 0.006},
        "pumping": {"count": 3, "starts_per_hour": 20.0, "curve": CURVE},
        "vessel": {"volume_m3": 0.3, "rating_pa": 1000e3},
        "motor": {"rated_current_a": 4.0, "rated_power_w": 2000.0, "least_hz": 20.0},
        "sensor": {"range_pa": 1000e3, "noise_pa": 2e3},
    }  # fmt: skip
    for name, change in changes.items():
        facts[name] = {**facts.get(name, {}), **change}
    return BoosterSurvey.model_validate(facts)


def choices(chosen=None, schools=None, **rules) -> BoosterChoices:
    return BoosterChoices.model_validate({"chosen": chosen or {}, "schools": schools or {}, "rules": rules})


def plan_of(chosen=None, schools=None, rules=None, explain=False, **changes) -> Plan:
    """explain: with what opens its empty windows, which takes long to search."""
    return reckon(survey(**changes), choices(chosen, schools, **(rules or {})), explain)


def bounds(plan: Plan, setting_id: str, side: str) -> dict[str, float]:
    """Of one side of a setting's window, cause by cause."""
    return {bound.cause: bound.value for bound in getattr(plan.setting(setting_id).window, side)}
