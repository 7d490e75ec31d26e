"""A small lift station for tests, its numbers chosen so that the arithmetic can be followed by hand."""

from typing import Any

from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.survey import LiftSurvey

# A main without length to speak of: the pumps work at the static head, so flows can be read off the curve.
# Curve H = 20 - Q^2 / 0.0012^... is given by three points of H = 20 - 100000 Q^2 (Q in m3/s).
CURVE = tuple({"flow_m3s": q, "head_m": 20.0 - 100_000.0 * q * q} for q in (0.0, 0.006, 0.012))


def survey(**changes: dict[str, Any]) -> LiftSurvey:
    """A rectangular 2 m x 1 m well (area 2 m2, so 1 m of level is 2 m3), two pumps; sections may be changed."""
    facts: dict[str, dict[str, Any]] = {
        "visit": {"controls_off": True},
        "well": {"shape": "rectangle", "length_m": 2.0, "width_m": 1.0, "depth_m": 5.0, "intake_m": 0.20},
        "inlet": {"invert_m": 3.0, "overflow_m": 4.5},
        "inflow": {"min_m3s": 0.0005, "mean_m3s": 0.002, "peak_m3s": 0.006},
        "main": {"outlet_m": 13.0, "length_m": 0.5, "diameter_m": 0.5, "hazen_williams_c": 150.0, "minor_k": 0.0},
        "pumping": {"count": 2},
        "pump_1": {
            "curve": CURVE,
            "min_submergence_m": 0.30,
            "bell_diameter_m": 0.20,
            "starts_per_hour": 15.0,
            "rated_voltage_v": 400.0,
            "rated_current_a": 5.0,
            "rated_power_w": 2200.0,
        },
        "sensor": {"mounting_m": 0.10, "range_m": 5.0, "noise_m": 0.01, "counts": 4000},
        "demands": {"starts_per_hour": 10.0, "response_s": 600.0},
        "as_found": {},
    }
    for name, change in changes.items():
        facts[name] = {**facts.get(name, {}), **change}
    return LiftSurvey.model_validate(facts)


def choices(**changes: Any) -> LiftChoices:
    return LiftChoices.model_validate(changes)
