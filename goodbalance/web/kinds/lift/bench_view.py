"""The bench's page of a lift station: its knobs, its contacts, what can be broken, totals."""

from typing import Any

from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.control.level_drive import DriveMode
from goodbalance.web.bench_views import PHASE, POWER, SENSOR, buttons, presets, pumps, unit_of
from goodbalance.web.work import Work

PUMP_BUTTONS = (
    ("starter", "starter"), ("feedback", "feedback"), ("overload", "turns heavily"), ("stalled", "blocked"), ("shut", "valve shut"), ("clogged", "clogged"),
    ("dial", "overload turned down"), ("check_valve", "check valve"), ("seal", "seal"),
)  # fmt: skip


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
        "breaks": _breaks(work, bench),
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


def _breaks(work: Work, bench: Any) -> list[dict[str, Any]]:
    control, groups = work.survey.control, []
    if work.survey.sensor is not None:
        looks_down = work.survey.sensor.kind == "look_down"
        groups.append(buttons("Sensor", SENSOR + ((("echo", "false echo"), ("lost_echo", "no echo")) if looks_down else ())))
    for relay in bench.float_relays:
        name = f"{relay.label} float" if bench.logic.alone else relay.label
        groups.append(buttons(name, (("float_up", "caught up"), ("float_down", "caught down")), relay.role))
    wires = [(relay.role, relay.label) for relay in bench.logic.relays] if not bench.logic.alone else []
    wires += [(contact, contact.replace("_", " ").capitalize()) for contact in bench.faults.wired[len(bench.logic.relays):]]
    groups += [buttons(f"{label}: its wires", (("wire_off", "a wire off"),), contact) for contact, label in wires]
    if work.plan.value("outside_zero_speed", 0.0):
        groups.append(buttons("Outside signal", (("outside_lost", "a wire off"),)))
    if work.survey.demands.low_float:
        groups.append(buttons("Low-level float", (("low_float", "turned down"),)))
    for pump in range(1, bench.logic.panel.pump_count + 1):
        listed = PUMP_BUTTONS if control.seal_probes else PUMP_BUTTONS[:-1]
        if control.backwards_contact:
            listed += (("backwards", "turns backwards"),)
        if bench.logic.leader is not None:
            listed += (("node", "silent drive"), ("input", "level input"))
        groups.append(buttons(f"Pump {pump}", listed, str(pump)))
    outside = [{"kind": "run", "words": "run contact says no", "target": "", "broken": 0, "mended": 1}] if control.run_contact else []
    if control.local_remote:
        outside.append({"kind": "remote", "words": "switched to local", "target": "", "broken": 0, "mended": 1})
    if outside:
        groups.append({"name": "Outside", "buttons": outside})
    if bench.logic.leader is not None:
        groups.append(buttons("Link between the drives", (("link", "off"),)))
    return [*groups, {"name": "Supply", "buttons": [POWER, PHASE]}]


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
