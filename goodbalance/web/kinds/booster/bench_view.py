"""The bench's page of a booster set: its knobs, what can be broken, the trend's axes, totals."""

from typing import Any

from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.stations.booster.controller.set_value import Asks
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.control import ControlKind, OutsideSet
from goodbalance.core.stations.shared.facts import turn_by_clock
from goodbalance.web.bench_views import breaks, presets, pumps, unit_of
from goodbalance.web.work import Work

WHOSE = {
    Asks.SCHEDULE: "by the week's clock", Asks.KEYS: "by its keys", Asks.OUTSIDE: "asked from outside", Asks.HELD: "last asked from outside",
    Asks.LOST: "its own, nobody outside heard",
}  # fmt: skip

def _lines(units: UnitSystem, pumps_: int) -> list[dict[str, Any]]:
    """What the trend draws."""
    pressure, flow, share, power = (
        unit_of(q, units) for q in (Quantity.PRESSURE, Quantity.FLOW, Quantity.PERCENT, Quantity.POWER)
    )
    return [
        {"column": "pressure_pa", "label": "Pressure", "unit": pressure, "scale": "main"},
        {"column": "set_pa", "label": "Wanted", "unit": pressure, "scale": "main", "dash": True, "soft": True},
        {"column": "flow_m3s", "label": "Flow", "unit": flow, "scale": "flow"},
        {"column": "power_w", "label": "Power", "unit": power, "scale": "power", "hidden": True},
        *(
            {"column": f"speed_{n + 1}", "label": f"Speed {n + 1}", "unit": share, "scale": "speed", "thin": True}
            for n in range(pumps_)
        ),
    ]


def view(work: Work) -> dict[str, Any]:
    survey, units = work.survey, work.units
    bench, hyd = work.kind.bench(survey, work.choices, work.plan), hydraulics(survey)
    demand, numbers = survey.demand, bench.logic.numbers
    pressure, flow, share = (unit_of(q, units) for q in (Quantity.PRESSURE, Quantity.FLOW, Quantity.PERCENT))
    tap, mean = demand.least_m3s / demand.design_m3s, demand.mean_m3s / demand.design_m3s
    low_pa, high_pa = hyd.source_pa(False), hyd.source_pa(True)
    knobs = [
        {"kind": "outlets", "label": "Outlets open", "low": 0.0, "high": 1.5, "value": 0.0, "unit": share,
         "presets": presets((("none", 0.0), ("one tap", tap), ("mean", mean), ("design", 1.0)), Quantity.PERCENT, units)},
        {"kind": "suction", "label": "Supply", "low": min(-5e4, low_pa - 1e5), "high": high_pa + 5e4,
         "value": bench.plant.suction_pa, "unit": pressure,
         "presets": presets((("lowest", low_pa), ("highest", high_pa)), Quantity.PRESSURE, units)},
    ]  # fmt: skip
    if numbers.driven:
        knobs.append(
            {
                "kind": "hand_speed",
                "label": "Speed in HAND",
                "low": 0.0,
                "high": 1.0,
                "value": 1.0,
                "unit": share,
                "presets": [],
            }
        )
    knobs += _asking_knobs(bench, units)
    toggles = [{"kind": "night", "words": "night"}] if numbers.night_pressure is not None else []
    if survey.motor.generator:
        toggles.append({"kind": "generator", "words": "on the generator"})
    marks = [
        flag for flag in (numbers.set_pressure, numbers.restart, numbers.cut_in, numbers.cut_out, *(starts for starts, _ in numbers.switches[1:])) if 0.0 < flag < 1e8
    ]
    return {
        "start": bench.plant.pressure_pa,
        "pumps": survey.pumping.count,
        "longest_s": work.kind.longest_run_s,
        "speeds": (1, 10, 60),
        "knobs": knobs,
        "toggles": toggles,
        "acts": [{"kind": "drain", "words": "drain the pipes", "value": 1}, *_clock_acts(work), *_run_acts(work)],
        "breaks": breaks(work, bench),
        "contacts": [],
        "floats": [],
        "main": pressure,
        "flow": flow,
        "tank": survey.vessel.volume_m3 > 0.0,
        "trend": {"lines": _lines(units, survey.pumping.count), "low": 0.0, "high": 1.15 * numbers.high_stop, "other_high": 1.2 * demand.design_m3s, "marks": marks},
    }  # fmt: skip


def _asking_knobs(bench: Any, units: UnitSystem) -> list[dict[str, Any]]:
    """What keys and the outside ask for, and the speed of a loop by hand."""
    logic, pressure, share = bench.logic, unit_of(Quantity.PRESSURE, units), unit_of(Quantity.PERCENT, units)
    asking, n, found = logic.numbers.asking, logic.numbers, []
    if asking.outside is not OutsideSet.NONE:
        found.append({"kind": "outside", "label": "Asked from outside", "low": 0.0, "high": 1.0, "value": bench.outside, "unit": share, "presets": []})
    if asking.keys:
        found.append({"kind": "keys", "label": "Keys ask for", "low": 0.0, "high": 1.2 * n.highest_set, "value": n.set_pressure, "unit": pressure, "presets": []})
    if n.driven and n.kind is ControlKind.CONSTANT:
        found.append({"kind": "loop_speed", "label": "Loop by hand, speed", "low": 0.0, "high": 1.0, "value": 0.8, "unit": share, "presets": []})
    return found


def _clock_acts(work: Work) -> list[dict[str, Any]]:
    """The clock set on by the period after which the turn passes, where it does."""
    if not turn_by_clock(work.survey.pumping.duty_count, work.choices.schools.alternation, 0.0):
        return []
    hours = work.choices.rules.clock_period_s / 3600.0
    return [{"kind": "clock", "words": f"set the clock on by {hours:g} h", "value": hours}]


def _run_acts(work: Work) -> list[dict[str, Any]]:
    """Running pumps brought to a minute before their longest run is over: nobody waits for days at the bench."""
    hours = work.plan.value(S.MAX_RUN, 0.0) / 3600.0 if work.plan is not None else 0.0
    return [{"kind": "ran", "words": f"as if pumps had run {hours:.3g} h but a minute", "value": max(0.0, hours - 1.0 / 60.0)}] if hours else []


def totals(bench: Any, work: Work) -> list[dict[str, str]]:
    """What the set does, pumps, the extremes since the last action, water and energy."""
    plant, logic, units = bench.plant, bench.logic, work.units
    mode = "stopped" if logic.stopped else logic.mode.value
    found = [{"name": "The set", "text": mode}]
    if bench.lowest_pa <= bench.highest_pa:
        low, high = (show(pa, Quantity.PRESSURE, units) for pa in (bench.lowest_pa, bench.highest_pa))
        found.append({"name": "Since you acted", "text": f"{low} to {high}"})
    if logic.numbers.kind is ControlKind.CONSTANT:
        in_force_pa, who = logic.in_force()
        found.append({"name": "Set value", "text": show(logic.numbers.set_pressure, Quantity.PRESSURE, units)})
        if who is not Asks.OWN:
            found.append({"name": "In force", "text": f"{show(in_force_pa, Quantity.PRESSURE, units)}, {WHOSE[who]}"})
    found += pumps(bench)
    found += [
        {"name": "Suction", "text": show(plant.inlet_pa, Quantity.PRESSURE, units)},
        {"name": "Power", "text": show(sum(plant.powers_w(plant.flows_m3s())), Quantity.POWER, units)},
        {"name": "Pumped", "text": show(plant.pumped_m3, Quantity.VOLUME, units)},
        {"name": "Energy", "text": show(plant.energy_j, Quantity.ENERGY, units, 1)},
    ]
    if plant.pumped_m3 > 1e-3 and plant.energy_j > 0.0:
        found.append(
            {
                "name": "Each m³" if units is UnitSystem.METRIC else "Each 1000 gal",
                "text": show(plant.energy_j / plant.pumped_m3, Quantity.ENERGY_PER_VOLUME, units),
            }
        )
    return found
