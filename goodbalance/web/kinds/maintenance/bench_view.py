"""The bench's page of a maintenance pump: its knobs, what can be broken, the trend's axes, totals."""

from typing import Any

from goodbalance.core.balance.quantities import Quantity, show
from goodbalance.core.stations.maintenance.names import State
from goodbalance.web.bench_views import breaks, presets, pumps, unit_of
from goodbalance.web.work import Work

SAID = {State.HELD: "holds", State.WAIT: "start delay counts", State.RUNS: "brings the line up", State.LEAST: "least run holds it", State.OFF: "off"}


def view(work: Work) -> dict[str, Any]:
    survey, units = work.survey, work.units
    bench = work.kind.bench(survey, work.choices, work.plan)
    numbers, leak, count, flow, pressure = bench.logic.numbers, *(unit_of(q, units) for q in (Quantity.LEAK, Quantity.COUNT, Quantity.FLOW, Quantity.PRESSURE))
    drip, supply = survey.line.permitted_m3s, survey.suction
    knobs: list[dict[str, Any]] = [
        {"kind": "bleed", "label": "Bleed", "low": 0.0, "high": 20.0 * drip, "value": 0.0, "unit": leak,
         "presets": presets((("shut", 0.0), ("by the drop", drip), ("open", 10.0 * drip)), Quantity.LEAK, units)},
        {"kind": "sprinklers", "label": "Sprinklers open", "low": 0.0, "high": 4.0, "value": 0.0, "unit": count, "presets": presets((("none", 0.0), ("one", 1.0)), Quantity.COUNT, units)},
        {"kind": "suction", "label": "Supply", "low": 0.0, "high": 1.5 * supply.high_pa, "value": bench.plant.supply_pa, "unit": pressure,
         "presets": presets((("lowest", supply.low_pa), ("highest", supply.high_pa)), Quantity.PRESSURE, units)},
    ]  # fmt: skip
    marks = [mark for mark in (numbers.stop_pressure, numbers.start_pressure, *numbers.mains_pa) if 0.0 < mark < 1e8]
    lines = [
        {"column": "pressure_pa", "label": "Pressure", "unit": pressure, "scale": "main"}, {"column": "flow_m3s", "label": "Given", "unit": flow, "scale": "flow", "stepped": True, "hidden": True},
    ]  # fmt: skip
    return {
        "start": bench.start, "pumps": 1, "longest_s": work.kind.longest_run_s, "speeds": (1, 10, 60, 600), "knobs": knobs, "toggles": [],
        "acts": [{"kind": "mains_off", "words": "main pumps stopped by their people"}], "breaks": breaks(work, bench), "contacts": [], "floats": [], "main": pressure, "flow": flow,
        "trend": {"lines": lines, "low": 0.0, "high": 1.1 * bench.hyd.shut_off_pa(True), "other_high": 1.5 * bench.plant.rate_m3s, "marks": marks},
    }  # fmt: skip


def totals(bench: Any, work: Work) -> list[dict[str, str]]:
    """What it does, the main pumps, the extremes since the last action, where the water went, energy."""
    plant, units = bench.plant, work.units
    found = [{"name": "The pump", "text": SAID[bench.logic.state]}, {"name": "Main pumps", "text": f"{len(plant.mains)} running" if plant.mains else "out"}]
    if bench.lowest_pa <= bench.highest_pa:
        low, high = (show(pa, Quantity.PRESSURE, units) for pa in (bench.lowest_pa, bench.highest_pa))
        found.append({"name": "Since you acted", "text": f"{low} to {high}"})
    found += pumps(bench)
    for name, volume in (("Given", plant.pumped_m3), ("Lost", plant.lost_m3)):
        found.append({"name": name, "text": show(1.0 * volume, Quantity.VOLUME, units)})
    found.append({"name": "Energy", "text": show(plant.energy_j, Quantity.ENERGY, units, 1)})
    return found
