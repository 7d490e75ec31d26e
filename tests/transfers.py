"""A transfer set in round numbers, for tests: H = 60 - 4e6 q^2, pipes without loss, valves by their flow at 1 bar."""

from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.rehearsal.engine import Run, TimedAction, rehearse
from goodbalance.core.stations.transfer.bench.put_on import transfer_bench
from goodbalance.core.stations.transfer.bench.rehearse import TransferBench
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey
from goodbalance.core.stations.transfer.windows.reckon import reckon

METRE_PA = 9806.65  # of a liquid of 1000 kg/m3
A_M, C = 60.0, 4e6  # of the pump
VALVE = 10.1972 / 2e-3**2  # head over flow squared of a valve that passes 2 l/s at 1 bar
CURVE = [{"flow_m3s": q, "head_m": A_M - C * q * q, "power_w": 700.0 + 3e5 * q} for q in (0.0, 0.0008, 0.0016, 0.0024, 0.0032)]


def tank(**changes: object) -> dict[str, object]:
    """Its inlet 23 m over the datum; it shuts at 2 m and opens again at 1.6 m."""
    return {
        "floor_m": 20.0, "area_m2": 10.0, "overflow_m": 2.4, "outlet_m": 0.2, "entry_m": 3.0, "branch_m": 0.1, "branch_diameter_m": 1.0, "branch_k": 0.0, "valve_m3s": 2e-3, "closes_m": 2.0,
        "throttles_m": 0.0, "opens_drop_m": 0.4, "closing_s": 10.0, "mean_m3s": 2e-4, "peak_m3s": 6e-4,
    } | changes  # fmt: skip


def survey(**changes: dict[str, object]) -> TransferSurvey:
    """The set with sections changed."""
    facts: dict[str, dict[str, object]] = {
        "visit": {"controls_off": True}, "source": {"low_m": 2.0, "high_m": 4.0, "safe_m": 1.0, "loss_m": 0.0}, "pumping": {"starts_per_hour": 12.0, "curve": CURVE},
        "motor": {"rated_current_a": 3.4, "rated_power_w": 1500.0},
        "line": {"length_m": 100.0, "diameter_m": 0.3, "friction": "darcy_weisbach", "sand_roughness_m": 1.5e-6, "minor_k": 0.0, "rating_pa": 10e5, "density_kgm3": 1000.0},
        "tanks": {"drinking": False, "lost_m3": 20.0}, "tank_1": tank(), "sensor": {"height_m": 0.0, "range_pa": 10e5, "noise_pa": 1e3},
    }  # fmt: skip
    for section, change in changes.items():
        facts[section] = {**facts.get(section, {}), **change}
    return TransferSurvey.model_validate(facts)


def choices(**schools: object) -> TransferChoices:
    """With schools changed; chosen settings under `chosen`."""
    chosen = schools.pop("chosen", {})
    return TransferChoices.model_validate({"schools": schools, "chosen": chosen})


def plan_of(facts: TransferSurvey, decided: TransferChoices | None = None) -> Plan:
    """Without a search for what opens empty windows."""
    return reckon(facts, decided or TransferChoices(), False)


def run(facts: TransferSurvey, until_s: float, *acts: tuple[Any, ...], decided: TransferChoices | None = None, start_m: float | None = None) -> Run[TransferBench]:
    """The set as planned, on the bench. acts: (at_s, kind, target, value)."""
    decided = decided or TransferChoices()
    return rehearse(transfer_bench(facts, decided, plan_of(facts, decided), start_m), tuple(TimedAction(*act) for act in acts), until_s)
