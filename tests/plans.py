"""Plans of chosen stations as they stand in tests/core/plans: every bound, figure and finding with its numbers.

`python -m tests.plans` writes them anew after a rule was changed on purpose; what differs is then read line by line.
"""

from collections.abc import Iterator
from pathlib import Path

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.balance.trail import Trail
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.kind import AnyKind
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.windows.reckon import reckon
from goodbalance.core.stations.transfer.kind import TRANSFER
from goodbalance.demo.aquarium import AQUARIUM, AQUARIUM_CHOICES
from goodbalance.demo.brine import BRINE, BRINE_CHOICES
from goodbalance.demo.lifts import CLINIC_CHOICES, SEAL_CLINIC, SHALLOW, SLIPWAY, SLIPWAY_CHOICES
from goodbalance.exchange.typed import Typed, answers_of, facts_from, read_facts
from tests import boosters, stations, transfers
from tools.stage.typed_stations import DEEP_WELL, ROUND_WELL, TANK_SET

FOLDER = Path(__file__).parent / "core/plans"
METRIC = UnitSystem.METRIC
DRIVES = {"fitted": True, "rated_hz": 50.0, "least_hz": 25.0, "ramp_s": 5.0}
SWITCHES = {"flow_switch": True, "flow_switch_m3s": 0.0002}


def typed(kind: AnyKind, facts: dict[str, str], decided: dict[str, str]) -> Plan:
    """The plan of a station as a person types it."""
    written = {path: Typed(text, METRIC) for path, text in facts.items()}
    survey = facts_from(kind.survey_model, read_facts(kind.survey_model, written, METRIC))
    chosen = {path: Typed(text, METRIC) for path, text in decided.items()}
    reading = read_facts(kind.choices_model, chosen, METRIC, answers_of(kind.survey_model, written))
    return kind.reckon(survey, facts_from(kind.choices_model, reading), False)


def lift(
    schools: dict[str, object] | None = None, chosen: dict[str, float] | None = None, **changes: dict[str, object]
) -> Plan:
    return reckon(stations.survey(**changes), stations.choices(schools=schools or {}, chosen=chosen or {}), False)


def plans() -> Iterator[tuple[str, Plan]]:
    """Each station by its name."""
    benched = {"shape": "benched", "diameter_m": 2.0, "floor_diameter_m": 0.8, "benching_m": 0.6, "second_area_m2": 1.5}
    floats = {"kind": "pump_controller", "level_by": "sensor_and_floats", "floats": 4}
    yield "lift", lift()
    yield (
        "lift, benched, own stops",
        lift(
            {"stops": "own", "detention": "well_and_main"},
            well=benched,
            main={"length_m": 90.0, "diameter_m": 0.1, "minor_k": 6.0},
        ),
    )
    yield (
        "lift, floats behind a sensor, drives hold a level",
        lift({"speed_mode": "hold_level"}, control=floats, drives=DRIVES),
    )
    yield (
        "lift, one float behind a sensor, drives by level",
        lift({"speed_mode": "by_level"}, control={**floats, "floats": 1}, drives=DRIVES),
    )
    yield "lift, drives at an economical speed", lift({"speed_mode": "economical"}, {"least_speed": 0.8}, control=floats, drives=DRIVES)
    yield "lift, drives without a controller", lift({"stops": "own"}, control={"kind": "drives_alone"}, drives=DRIVES, pumping={"count": 3})
    yield "lift, drives as told from outside", lift({"speed_mode": "outside"}, drives={**DRIVES, "outside": True})
    yield (
        "lift, three pumps, assist by time",
        lift({"assist_by": "level_or_timer"}, {"start_1": 1.2}, pumping={"count": 3, "standby": True}),
    )
    yield "lift, benched, start chosen", lift({}, {"start_1": 0.9}, well=benched)
    yield "lift, one pump", lift(pumping={"count": 1})
    yield "lift, levels chosen across", lift({}, {"start_1": 0.45, "stop": 0.6, "high_alarm": 0.5}, control=floats)
    yield "lift, more comes than a pump gives", lift(inflow={"mean_m3s": 0.0085, "peak_m3s": 0.012})
    for name, facts, decided in (
        ("slipway", SLIPWAY, SLIPWAY_CHOICES), ("clinic", SEAL_CLINIC, CLINIC_CHOICES), ("shallow", SHALLOW, {}),
        ("round well", ROUND_WELL, {}), ("deep well", DEEP_WELL, {}),
    ):  # fmt: skip
        yield name, typed(LIFT, facts, decided)
    for count in (2, 3):
        alone = {"kind": "pump_controller", "level_by": "floats", "floats": count, "lowest_float": "stop"}
        yield f"lift, {count} floats alone", lift(control=alone)
    yield "clinic, own stops", typed(LIFT, SEAL_CLINIC, {**CLINIC_CHOICES, "schools.stops": "own"})
    weaker = [{**point, "flow_m3s": 0.7 * point["flow_m3s"]} for point in stations.CURVE]
    own = {"min_submergence_m": 0.3, "bell_diameter_m": 0.2, "starts_per_hour": 12.0, "rated_voltage_v": 400.0, "rated_current_a": 4.0, "rated_power_w": 1500.0}
    volumes = [{"level_m": h, "volume_m3": 1.2 * h + 0.12 * h * h} for h in (0.0, 0.4, 0.8, 1.2, 1.6, 2.2, 3.0, 4.0, 5.0)]
    yield (
        "lift, unlike pumps in a well given by its volumes",
        lift(
            pumping={"twins": False}, pump_1={"best_flow_m3s": 0.008}, pump_2={"curve": weaker, "best_flow_m3s": 0.006, **own},
            well={"shape": "table", "table": volumes},
        ),
    )  # fmt: skip
    yield "booster", boosters.plan_of()
    yield (
        "booster, setback, night, slow fill",
        boosters.plan_of(schools={"setback": "square", "night": True, "slow_fill": True}),
    )
    yield (
        "booster, serial, flow switch",
        boosters.plan_of(schools={"sharing": "serial", "no_flow": "flow"}, control=SWITCHES),
    )
    yield (
        "booster, short stops, amigo",
        boosters.plan_of(schools={"no_flow": "bump", "tuning": "amigo", "suction_reset": "by_hand"}),
    )
    yield (
        "booster, relief valve, generator",
        boosters.plan_of(vessel={"relief_pa": 700e3}, motor={"generator": True, "generator_va": 9e3}),
    )
    yield "booster, far sensor", boosters.plan_of(remote={"height_m": 18.0, "range_pa": 600e3})
    for kind in ("on_off", "flow_stop", "fixed"):
        yield f"booster, {kind}", boosters.plan_of(control={"kind": kind, **SWITCHES}, vessel={"volume_m3": 0.8})
    lifted = {"kind": "suction_lift", "pump_m": 3.0, "water_low_m": 1.0, "water_high_m": 1.5, "loss_pa": 5e3}
    yield "booster, suction lift", boosters.plan_of(supply=lifted, control={"suction_by": "sensor"})
    asked = {"outside": "link", "outside_zero_pa": 1e5, "outside_full_pa": 8e5, "direct_keys": True}
    yield "booster, asked from outside and by its keys", boosters.plan_of(control=asked)
    yield "booster, one pump", boosters.plan_of(pumping={"count": 1})
    yield "booster, one pump, on off", boosters.plan_of(control={"kind": "on_off"}, vessel={"volume_m3": 0.8}, pumping={"count": 1})
    yield "booster, a switch for each pump", boosters.plan_of(control={"kind": "on_off", "own_switches": True}, vessel={"volume_m3": 0.8})
    yield "aquarium", typed(BOOSTER, AQUARIUM, AQUARIUM_CHOICES)
    yield "tank set", typed(BOOSTER, TANK_SET, {})
    yield "brine", typed(TRANSFER, BRINE, BRINE_CHOICES)
    yield "transfer, by levels", transfers.plan_of(transfers.survey(control={"full_by": "levels"}, pumping={"count": 2}, tanks={"drinking": True}, source={"area_m2": 4.0}))
    both = transfers.survey(control={"full_by": "both"}, line={"leak_m3s": 2e-7, "leak_at_pa": 4e5, "vessel_m3": 0.1}, tank_1=transfers.tank(throttles_m=0.1, opens_drop_m=0.02))
    yield "transfer, both, dribbling", transfers.plan_of(both, transfers.choices(delay_from="stop"))


def _trail(trail: Trail) -> str:
    terms = ", ".join(f"{term.symbol} {term.value:.5g} {term.meaning}" for term in trail.terms)
    return f"{trail.formula} [{trail.source}] {terms}"


def told(plan: Plan) -> str:
    """A plan as text: five digits of every number."""
    lines = []
    for setting in plan.settings:
        lines.append(
            f"{setting.id} {setting.value:.5g} recommended {setting.recommended:.5g} step {setting.step:.3g} {setting.standing}"
        )
        for side, bounds in (("at least", setting.window.lower), ("at most", setting.window.upper)):
            for bound in bounds:
                lines.append(
                    f"  {side} {bound.value:.5g} {bound.source} {bound.cause} ({bound.refers_to}): {_trail(bound.trail)}"
                )
    for figure in plan.figures:
        limits = ", ".join(f"{term.value:.5g}" for term in figure.limit_terms)
        lines.append(
            f"{figure.id} {figure.label} {figure.value:.5g} {'keeps' if figure.keeps else 'misses'} {figure.limit} {limits}: {_trail(figure.trail)}"
        )
    for finding in plan.findings:
        numbers = ", ".join(f"{term.symbol} {term.value:.5g}" for term in finding.terms)
        lines.append(f"{finding.severity} {finding.code} {finding.subject}: {finding.text} {numbers}")
    return "\n".join(lines) + "\n"


def file_of(name: str) -> Path:
    return FOLDER / f"{name.replace(', ', '-').replace(' ', '_')}.txt"


if __name__ == "__main__":
    FOLDER.mkdir(exist_ok=True)
    for name, plan in plans():
        file_of(name).write_text(told(plan), encoding="utf-8")
        print(f"{file_of(name)}: {len(plan.settings)} settings")
