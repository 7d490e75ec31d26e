"""A ring in round numbers, for tests: two branches of 20 and 40 m, pipes that lose 0.2 W/(m K), H = 4 - 6e6 q^2, valves of Kv 1 m3/h over 4 turns."""

from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.windows.reckon import reckon

A_M, C = 4.0, 6e6  # of the pump
CURVE = [{"flow_m3s": q, "head_m": A_M - C * q * q, "power_w": 10.0 + 4e4 * q} for q in (0.0, 2e-4, 4e-4, 6e-4, 8e-4)]
LOSES = 0.2


def _branch(length: float, **more: object) -> dict[str, object]:
    return {"there_m": length, "there_bore_m": 0.02, "back_m": length, "back_bore_m": 0.013, "loss_wmk": LOSES, "around_c": 20.0, **more}


def survey(**changes: dict[str, object]) -> CirculatorSurvey:
    """The ring with sections changed."""
    facts: dict[str, dict[str, object]] = {
        "visit": {"controls_off": True}, "ring": {"branches": 2}, "heat": {"set_c": 60.0, "watts": 15000.0, "kv_m3s": 1e-3, "cold_c": 10.0},
        "common": {"there_m": 5.0, "bore_m": 0.025, "back_m": 5.0, "back_bore_m": 0.02, "loss_wmk": LOSES, "around_c": 20.0}, "branch_1": _branch(20.0), "branch_2": _branch(40.0),
        "valves": {"turns": 4.0, "kv_m3s": 1.0 / 3600.0}, "pump": {"curve": CURVE, "vented": True, "by_flow": True, "by_return": True, "learns": True},
    }  # fmt: skip
    for section, change in changes.items():
        base = _branch(30.0) if section.startswith("branch_") else {}
        facts[section] = {**base, **facts.get(section, {}), **change}
    return CirculatorSurvey.model_validate(facts)


def choices(**schools: Any) -> CirculatorChoices:
    """With schools changed; chosen settings under `chosen`, rules under `rules`, own hours under `own`."""
    chosen, rules, own = (schools.pop(name, {}) for name in ("chosen", "rules", "own"))
    return CirculatorChoices.model_validate({"schools": schools, "chosen": chosen, "rules": {"source": "house rule", **rules}, "hours": own})


def plan_of(facts: CirculatorSurvey, decided: CirculatorChoices | None = None) -> Plan:
    """Without a search for what opens empty windows."""
    return reckon(facts, decided or choices(), False)
