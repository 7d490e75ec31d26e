"""The bench's page of a ring: its knobs, what can be broken, the trend's axes, totals."""

from typing import Any

from goodbalance.core.balance.quantities import Quantity, show
from goodbalance.core.stations.circulator.survey.use import Outside
from goodbalance.core.stations.circulator.wording import STATES
from goodbalance.web.bench_views import breaks, presets, pumps, unit_of
from goodbalance.web.rendering import clock
from goodbalance.web.work import Work

FEW = 2  # branches whose valves have knobs beside the others; of more they come up with the branches
DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def view(work: Work) -> dict[str, Any]:
    survey, units = work.survey, work.units
    bench = work.kind.bench(survey, work.choices, work.plan)
    leak, share, warm, power, count = (unit_of(q, units) for q in (Quantity.LEAK, Quantity.PERCENT, Quantity.TEMPERATURE, Quantity.POWER, Quantity.RATIO))
    knobs: list[dict[str, Any]] = []
    for number, branch in enumerate(survey.branches, 1):
        name, most = survey.branch_name(number), branch.tap_m3s
        if not survey.heats:
            shown = presets((("shut", 0.0), ("open", most)), Quantity.LEAK, units)
            knobs.append({"kind": "tap", "target": str(number), "label": f"Hot tap, {name}", "low": 0.0, "high": 2.0 * most, "value": 0.0, "unit": leak, "presets": shown})
        if survey.crosses:
            shown = presets((("shut", 0.0), ("open", most)), Quantity.LEAK, units)
            knobs.append({"kind": "cold_tap", "target": str(number), "label": f"Cold tap, {name}", "low": 0.0, "high": 2.0 * most, "value": 0.0, "unit": leak, "presets": shown})
    if survey.heats:
        shown = presets((("shut", 0.0), ("open", 1.0)), Quantity.PERCENT, units)
        knobs.append({"kind": "emitters", "label": "Valves of the heaters, open", "low": 0.0, "high": 1.0, "value": 1.0, "unit": share, "presets": shown})
    else:
        for number, value in enumerate(bench.plant.kvs, 1):
            turns = bench.eq.turns_of(value)
            knobs.append(
                {"kind": "valve", "part": "Branches" if len(survey.branches) > FEW else "", "target": str(number), "label": f"Valve, {survey.branch_name(number)}, turns", "low": 0.0, "high": bench.eq.open_turns, "value": turns, "unit": count,
                 "presets": [{"name": "shut", "value": 0.0, "text": "0"}, {"name": "as set", "value": turns, "text": f"{turns:.1f}"}]}
            )  # fmt: skip
    lines = [
        {"column": "out_c", "label": "Going out", "unit": warm, "scale": "main"}, {"column": "back_c", "label": "Coming back", "unit": warm, "scale": "main"},
        *({"column": f"end_{number}_c", "label": f"Return, {survey.branch_name(number)}", "unit": warm, "scale": "main", "hidden": len(survey.branches) > 2} for number in range(1, len(survey.branches) + 1)),
        {"column": "flow_m3s", "label": "Flow", "unit": leak, "scale": "flow", "stepped": True},
    ]  # fmt: skip
    acts = [{"kind": "set_clock", "words": "set its clock to the time"}]
    if survey.control.outside is Outside.BUTTON:
        acts.append({"kind": "button", "words": "push the button"})
    toggles = [{"kind": "outside", "words": "outside contact"}] if survey.control.outside is Outside.BUILDING else []
    toggles += [] if survey.heats else [{"kind": "pattern", "words": "people draw"}]
    marks = [] if survey.heats else [work.choices.rules.least_return_c]
    return {
        "start": bench.start, "pumps": 1, "longest_s": work.kind.longest_run_s, "speeds": (10, 60, 600, 7200), "knobs": knobs, "toggles": toggles, "acts": acts, "breaks": breaks(work, bench), "contacts": [],
        "floats": [], "main": warm, "flow": leak, "power": power, "trend": {"lines": lines, "low": 0.0, "high": 1.1 * survey.heat.set_c, "other_high": 1.6 * work.kind.bench(survey, work.choices, work.plan).eq.curve.head.last_flow_m3s, "marks": marks},
    }  # fmt: skip


def totals(bench: Any, work: Work) -> list[dict[str, str]]:
    """The time of its week, what it does, taps, where the heat went."""
    plant, units, logic = bench.plant, work.units, bench.logic
    time_s = logic.now_s
    found = [{"name": "Real time", "text": f"{DAYS[int(time_s // 86400.0) % 7]} {clock(time_s % 86400.0)}"}]
    if abs(logic.clock_off_s) > 60.0:
        found.append({"name": "Its clock says", "text": f"{DAYS[int(logic.week_s // 86400.0) % 7]} {clock(logic.week_s % 86400.0)}"})
    found.append({"name": "The circulator", "text": STATES[logic.state]})
    found += pumps(bench)
    coldest, _ = plant.coldest()
    found.append({"name": "Coldest point", "text": show(coldest, Quantity.TEMPERATURE, units)})
    for number, tap in enumerate(plant.taps, 1):
        if tap > 0.0:
            found.append({"name": f"Tap, {bench.survey.branch_name(number)}", "text": show(plant.at_taps[number - 1], Quantity.TEMPERATURE, units)})
    for number, tap in enumerate(plant.cold_taps, 1):
        if tap > 0.0:
            found.append({"name": f"Cold tap, {bench.survey.branch_name(number)}", "text": show(plant.cold_taps_c[number - 1], Quantity.TEMPERATURE, units)})
    lost = sum(plug.lost_j for plug in plant.plugs)
    named = (("Heat given", plant.heated_j), ("Lost by pipes", lost), ("Drawn", plant.drawn_j), ("Given to rooms", plant.given_j), ("The pump took", plant.energy_j))
    found += [{"name": name, "text": show(joule, Quantity.ENERGY, units, 1)} for name, joule in named if joule > 0.0 or name in ("Heat given", "Lost by pipes")]
    return found
