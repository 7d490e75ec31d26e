"""The bench's page of a transfer set: its knobs, what can be broken, the trend's axes, totals."""

from typing import Any

from goodbalance.core.balance.quantities import Quantity, show
from goodbalance.core.stations.transfer.names import State
from goodbalance.core.stations.transfer.survey.control import FullBy
from goodbalance.web.bench_views import breaks, presets, pumps, unit_of
from goodbalance.web.work import Work

SAID = {
    State.FILL: "fills", State.THROTTLE: "a valve throttles", State.HELD: "holds", State.WAIT: "waits, the delay counts", State.OFF: "off", State.LOCKED: "locked out",
}  # fmt: skip
MOST_DRAW = 6.0  # of the mean


def view(work: Work) -> dict[str, Any]:
    survey, units = work.survey, work.units
    bench = work.kind.bench(survey, work.choices, work.plan)
    numbers, level, share, flow, pressure = bench.logic.numbers, *(unit_of(q, units) for q in (Quantity.LEVEL, Quantity.PERCENT, Quantity.FLOW, Quantity.PRESSURE))
    mean, peak = sum(tank.mean_m3s for tank in survey.all_tanks), sum(tank.peak_m3s for tank in survey.all_tanks)
    most = peak / mean if mean > 0.0 else 1.0
    knobs: list[dict[str, Any]] = [
        {"kind": "draw", "label": "Drawn, of the mean", "low": 0.0, "high": max(MOST_DRAW, 1.2 * most), "value": 1.0, "unit": share,
         "presets": presets((("none", 0.0), ("mean", 1.0), ("largest", most)), Quantity.PERCENT, units)},
    ]  # fmt: skip
    for number, tank in enumerate(survey.all_tanks, 1):
        low_m = max(tank.outlet_m, tank.reopens_m - tank.throttles_m - 0.05)
        knobs.append(
            {"kind": "level", "target": str(number), "label": f"Level, {survey.tank_name(number)}", "low": 0.0, "high": tank.overflow_m, "value": bench.plant.levels_m[number - 1], "unit": level,
             "presets": presets((("low", low_m),), Quantity.LEVEL, units)}
        )  # fmt: skip
    for number, source in enumerate(survey.sources, 1):
        knobs.append(
            {"kind": "source", "target": str(number), "label": f"Source {number}" if len(survey.sources) > 1 else "Source", "low": min(source.safe_m, source.low_m) - 1.0, "high": source.high_m + 0.5,
             "value": bench.plant.sources_m[number - 1], "unit": level, "presets": presets((("lowest", source.low_m), ("highest", source.high_m)), Quantity.LEVEL, units)}
        )  # fmt: skip
    knobs.append({"kind": "throttle", "label": "Valve at the pumps, closed", "low": 0.0, "high": 1.0, "value": 0.0, "unit": share, "presets": presets((("open", 0.0), ("shut", 1.0)), Quantity.PERCENT, units)})
    by_levels = numbers.full_by is FullBy.LEVELS
    marks = [] if by_levels else [mark for mark in (numbers.stop_pressure, numbers.restart_pressure) if 0.0 < mark < 1e8]
    lines = [
        {"column": "pressure_pa", "label": "Pressure", "unit": pressure, "scale": "main"},
        *({"column": f"level_{number}_m", "label": survey.tank_name(number)[:1].upper() + survey.tank_name(number)[1:], "unit": level, "scale": "level"} for number in range(1, survey.tanks.count + 1)),
        {"column": "flow_m3s", "label": "Pumped", "unit": flow, "scale": "flow", "stepped": True, "hidden": survey.tanks.count > 1},
    ]  # fmt: skip
    return {
        "start": bench.start, "pumps": survey.pumping.count, "longest_s": work.kind.longest_run_s, "speeds": (1, 10, 60, 600), "knobs": knobs, "toggles": [{"kind": "pattern", "words": "day"}],
        "acts": [{"kind": "start", "words": "press start"}], "breaks": breaks(work, bench), "contacts": [], "floats": [], "main": pressure, "level": level, "flow": flow,
        "trend": {"lines": lines, "low": 0.0, "high": 1.15 * bench.hyd.shut_off_pa(True), "other_high": 1.3 * bench.hyd.most_rate_m3s, "marks": marks},
    }  # fmt: skip


def totals(bench: Any, work: Work) -> list[dict[str, str]]:
    """What the set does, pumps, the extremes since the last action, where the water went, energy."""
    plant, units = bench.plant, work.units
    found = [{"name": "The set", "text": SAID[bench.logic.state]}]
    if bench.lowest_pa <= bench.highest_pa:
        low, high = (show(pa, Quantity.PRESSURE, units) for pa in (bench.lowest_pa, bench.highest_pa))
        found.append({"name": "Since you acted", "text": f"{low} to {high}"})
    found += pumps(bench)
    for name, volume in (("Pumped", plant.pumped_m3), ("Drawn", plant.drawn_m3), ("Spilled", plant.spilled_m3), ("Leaked", plant.leaked_m3)):
        if volume > 0.0 or name in ("Pumped", "Drawn"):
            found.append({"name": name, "text": show(volume, Quantity.VOLUME, units)})
    found.append({"name": "Energy", "text": show(plant.energy_j, Quantity.ENERGY, units, 1)})
    return found
