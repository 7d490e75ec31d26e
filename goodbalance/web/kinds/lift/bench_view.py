"""The bench's page of a lift station: its knobs, its contacts, what can be broken, totals."""

from typing import Any

from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.control.level_drive import DriveMode
from goodbalance.web.bench_views import breaks, presets, pumps, unit_of
from goodbalance.web.work import Work


def view(work: Work) -> dict[str, Any]:
    bench, units = work.kind.bench(work.survey, work.choices, work.plan), work.units
    logic, inflow = bench.logic, work.survey.inflow
    running = tuple(range(logic.panel.duty_count))
    beyond_m3s = 1.3 * bench.plant.pumped_m3s(running, work.survey.inlet.invert_m)  # more than all pumps can take
    level, flow = unit_of(Quantity.LEVEL, units), unit_of(Quantity.FLOW, units, 1)
    highest = max(inflow.peak_m3s * 2.0, beyond_m3s * 1.2)
    steps = (("lowest", inflow.min_m3s), ("mean", inflow.mean_m3s), ("peak", inflow.peak_m3s), ("storm", beyond_m3s))
    return {
        "start": bench.plant.level_m,
        "pumps": logic.panel.pump_count,
        "longest_s": work.kind.longest_run_s,
        "speeds": (1, 10, 60, 600),
        "knobs": [
            {"kind": "inflow", "label": "Inflow", "low": 0.0, "high": highest, "value": inflow.mean_m3s, "unit": flow,
             "presets": presets(steps, Quantity.FLOW, units)},
            *_outside(bench, units),
        ],
        "toggles": [{"kind": "pattern", "words": "day"}, {"kind": "rain", "words": "rain"}],
        "breaks": breaks(work, bench),
        "contacts": _contacts(bench, units),
        "floats": [{"role": relay.role, "column": f"float_{relay.role}"} for relay in logic.floats]
        or [{"role": relay.role, "column": f"relay_{relay.role}"} for relay in logic.relays],
        "main": level,
        "trend": {
            "lines": [
                {"column": "level_m", "label": "Level", "unit": level, "scale": "main"},
                {"column": "inflow_m3s", "label": "Inflow", "unit": flow, "scale": "flow", "stepped": True},
            ],
            "low": 0.0, "high": max(relay.on_m for relay in logic.relays) * 1.15, "other_high": highest * 0.5,
            "marks": [relay.on_m for relay in logic.relays],
        },
    }  # fmt: skip


def _outside(bench: Any, units: UnitSystem) -> list[dict[str, Any]]:
    """The knob of the outside signal, where it says the speed."""
    drive = bench.logic.drive
    if drive is None or drive.mode is not DriveMode.OUTSIDE:
        return []
    steps = (("empty", 0.0), ("half", 0.5), ("full", 1.0))
    return [{"kind": "outside", "label": "Outside signal", "low": 0.0, "high": 1.0, "value": bench.outside, "unit": unit_of(Quantity.PERCENT, units),
             "presets": presets(steps, Quantity.PERCENT, units)}]  # fmt: skip


def _contacts(bench: Any, units: UnitSystem) -> list[dict[str, Any]]:
    """Relays, and floats behind a sensor, with the words of their two states."""
    logic, groups = bench.logic, []
    alone = logic.alone
    items = []
    for relay in logic.relays:
        rest, energised = (
            ("open", "closed") if alone else ("alarm", "healthy") if relay.normally_closed and relay.role.endswith("alarm") else ("rest", "energised")
        )
        items.append(
            {
                "column": f"relay_{relay.role}",
                "role": relay.role,
                "label": f"{relay.number or ''} {relay.label}".strip(),
                "rest": rest,
                "energised": energised,
            }
        )
    numbered = any(relay.number for relay in logic.relays)
    groups.append({"title": "Floats" if alone else "Relays" if numbered else "Levels", "items": items})
    if logic.floats:
        floats = [
            {"column": f"float_{relay.role}", "role": "", "label": f"{relay.label} {show(relay.level_m, Quantity.LEVEL, units)}",
             "rest": "open", "energised": "closed"}
            for relay in logic.floats
        ]  # fmt: skip
        groups.append({"title": "Floats", "items": floats})
    return groups


def totals(bench: Any, work: Work) -> list[dict[str, str]]:
    """Pumps, speed, and water in, out and spilled."""
    found, plant = pumps(bench), bench.plant
    if bench.logic.drive is not None:
        speed = plant.speed if bench.running else 0.0
        found.append({"name": "Speed", "text": show(speed, Quantity.PERCENT, work.units)})
    for name, volume in (
        ("In", plant.inflow_total_m3),
        ("Pumped", plant.pumped_total_m3),
        ("Spilled", plant.spilled_total_m3),
    ):
        found.append({"name": name, "text": show(volume, Quantity.VOLUME, work.units)})
    return found
