"""What the bench's page needs of each kind of station: knobs, contacts, what can be broken, the trend's axes, totals."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from goodbalance.core.balance.quantities import Quantity, UnitSystem, display_unit, show
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.control import ControlKind, SuctionBy
from goodbalance.core.stations.shared.facts import turn_by_clock
from goodbalance.web.rendering import clock
from goodbalance.web.work import Work


@dataclass(frozen=True, slots=True)
class BenchView:
    """view: what the page is built from; totals: what a run adds up to."""

    view: Callable[[Work], dict[str, Any]]
    totals: Callable[[Any, Work], list[dict[str, str]]]


def unit_of(quantity: Quantity, units: UnitSystem, more: int = 0) -> dict[str, Any]:
    """A unit for a script: symbol, factor from SI, decimals."""
    unit = display_unit(quantity, units)
    return {"symbol": unit.symbol, "per_si": unit.from_si(1.0), "decimals": unit.decimals + more}


def _presets(pairs: Iterable[tuple[str, float]], quantity: Quantity, units: UnitSystem) -> list[dict[str, Any]]:
    return [{"name": name, "value": value, "text": show(value, quantity, units, 1)} for name, value in pairs]


def _buttons(name: str, buttons: Iterable[tuple[str, str]], target: str = "") -> dict[str, Any]:
    """A group of things to break: each button with its action when broken and when mended."""
    listed = [{"kind": kind, "words": words, "target": target, "broken": 1, "mended": 0} for kind, words in buttons]
    return {"name": name, "buttons": listed}


_POWER = {"kind": "power", "words": "power", "target": "", "broken": 0, "mended": 1}
_PHASE = {"kind": "phase", "words": "a phase", "target": "", "broken": 1, "mended": 0}


def _pumps(bench: Any) -> list[dict[str, str]]:
    """Starts and run time of each pump."""
    return [
        {"name": f"Pump {index + 1}", "text": f"{starts} start{'' if starts == 1 else 's'}, {clock(run_s)} run"}
        for index, (starts, run_s) in enumerate(zip(bench.starts, bench.run_s))
    ]


# lift

SENSOR_BUTTONS = (("loop_open", "loop open"), ("loop_short", "loop short"), ("frozen", "frozen"), ("drift", "drifts"))
LIFT_PUMP_BUTTONS = (
    ("starter", "starter"), ("feedback", "feedback"), ("overload", "overload"), ("clogged", "clogged"),
    ("check_valve", "check valve"), ("seal", "seal"),
)  # fmt: skip


def _lift(work: Work) -> dict[str, Any]:
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
             "presets": _presets(steps, Quantity.FLOW, units)},
        ],
        "toggles": [{"kind": "pattern", "words": "day"}, {"kind": "rain", "words": "rain"}],
        "breaks": _lift_breaks(work, bench),
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


def _contacts(bench: Any, units: UnitSystem) -> list[dict[str, Any]]:
    """Relays, and floats behind a sensor, with the words of their two states."""
    logic, groups = bench.logic, []
    alone = logic.alone
    items = []
    for relay in logic.relays:
        rest, energised = (
            ("open", "closed") if alone else ("alarm", "healthy") if relay.normally_closed else ("rest", "energised")
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


def _lift_breaks(work: Work, bench: Any) -> list[dict[str, Any]]:
    control, groups = work.survey.control, []
    if work.survey.sensor is not None:
        looks_down = work.survey.sensor.kind == "look_down"
        groups.append(_buttons("Sensor", SENSOR_BUTTONS + ((("echo", "false echo"),) if looks_down else ())))
    for relay in bench.float_relays:
        name = relay.label if "float" in relay.label else f"{relay.label} float"
        groups.append(_buttons(name, (("float_up", "caught up"), ("float_down", "caught down")), relay.role))
    if work.survey.demands.low_float:
        groups.append(_buttons("Low-level float", (("low_float", "turned down"),)))
    for pump in range(1, bench.logic.panel.pump_count + 1):
        buttons = LIFT_PUMP_BUTTONS if control.seal_probes else LIFT_PUMP_BUTTONS[:-1]
        groups.append(_buttons(f"Pump {pump}", buttons, str(pump)))
    return [*groups, {"name": "Supply", "buttons": [_POWER, _PHASE]}]


def _lift_totals(bench: Any, work: Work) -> list[dict[str, str]]:
    """Pumps, speed, and water in, out and spilled."""
    totals, plant = _pumps(bench), bench.plant
    if bench.logic.drive is not None:
        speed = plant.speed if bench.running else 0.0
        totals.append({"name": "Speed", "text": show(speed, Quantity.PERCENT, work.units)})
    for name, volume in (
        ("In", plant.inflow_total_m3),
        ("Pumped", plant.pumped_total_m3),
        ("Spilled", plant.spilled_total_m3),
    ):
        totals.append({"name": name, "text": show(volume, Quantity.VOLUME, work.units)})
    return totals


# booster

BOOSTER_PUMP_BUTTONS = (
    ("trip", "trips"), ("air", "air-bound"), ("check_valve", "check valve leaks"), ("shut", "valve closed"), ("backwards", "wrong way"),
)  # fmt: skip


def _booster(work: Work) -> dict[str, Any]:
    survey, units = work.survey, work.units
    bench, hyd = work.kind.bench(survey, work.choices, work.plan), hydraulics(survey)
    demand, numbers = survey.demand, bench.logic.numbers
    pressure, flow, share = (unit_of(q, units) for q in (Quantity.PRESSURE, Quantity.FLOW, Quantity.PERCENT))
    tap, mean = demand.least_m3s / demand.design_m3s, demand.mean_m3s / demand.design_m3s
    low_pa, high_pa = hyd.source_pa(False), hyd.source_pa(True)
    knobs = [
        {"kind": "outlets", "label": "Outlets open", "low": 0.0, "high": 1.5, "value": 0.0, "unit": share,
         "presets": _presets((("none", 0.0), ("one tap", tap), ("mean", mean), ("design", 1.0)), Quantity.PERCENT, units)},
        {"kind": "suction", "label": "Supply", "low": min(-5e4, low_pa - 1e5), "high": high_pa + 5e4,
         "value": bench.plant.suction_pa, "unit": pressure,
         "presets": _presets((("lowest", low_pa), ("highest", high_pa)), Quantity.PRESSURE, units)},
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
    toggles = [{"kind": "night", "words": "night"}] if numbers.night_pressure is not None else []
    if survey.motor.generator:
        toggles.append({"kind": "generator", "words": "on the generator"})
    marks = [
        flag for flag in (numbers.set_pressure, numbers.restart, numbers.cut_in, numbers.cut_out) if 0.0 < flag < 1e8
    ]
    lines = [
        {"column": "pressure_pa", "label": "Pressure", "unit": pressure, "scale": "main"},
        {"column": "set_pa", "label": "Wanted", "unit": pressure, "scale": "main", "dash": True, "soft": True},
        {"column": "flow_m3s", "label": "Flow", "unit": flow, "scale": "flow"},
        {
            "column": "power_w",
            "label": "Power",
            "unit": unit_of(Quantity.POWER, units),
            "scale": "power",
            "hidden": True,
        },
        *(
            {"column": f"speed_{n + 1}", "label": f"Speed {n + 1}", "unit": share, "scale": "speed", "thin": True}
            for n in range(survey.pumping.count)
        ),
    ]
    return {
        "start": bench.plant.pressure_pa,
        "pumps": survey.pumping.count,
        "longest_s": work.kind.longest_run_s,
        "speeds": (1, 10, 60),
        "knobs": knobs,
        "toggles": toggles,
        "acts": [{"kind": "drain", "words": "drain the pipes", "value": 1}, *_clock_acts(work)],
        "breaks": _booster_breaks(work, bench),
        "contacts": [],
        "floats": [],
        "main": pressure,
        "flow": flow,
        "tank": survey.vessel.volume_m3 > 0.0,
        "trend": {"lines": lines, "low": 0.0, "high": 1.15 * numbers.high_stop, "other_high": 1.2 * demand.design_m3s, "marks": marks},
    }  # fmt: skip


def _clock_acts(work: Work) -> list[dict[str, Any]]:
    """The clock set on by the period after which the turn passes, where it does."""
    if not turn_by_clock(work.survey.pumping.duty_count, work.choices.schools.alternation, 0.0):
        return []
    hours = work.choices.rules.clock_period_s / 3600.0
    return [{"kind": "clock", "words": f"set the clock on by {hours:g} h", "value": hours}]


def _booster_breaks(work: Work, bench: Any) -> list[dict[str, Any]]:
    survey = work.survey
    groups = [_buttons("Sensor", SENSOR_BUTTONS)]
    if survey.remote is not None:
        groups.append(_buttons("Remote sensor", (("remote_lost", "unplugged"),)))
    if survey.control.flow_switch or survey.control.kind is ControlKind.FLOW_STOP:
        groups.append(_buttons("Flow switch", (("flow_stuck", "stuck"),)))
    water = "runs empty" if survey.control.suction_by is not SuctionBy.NONE else "runs empty, nothing sees it"
    groups.append(_buttons("Supply", (("dry", water),)))
    parts = [("burst", "burst")] + ([("waterlogged", "tank waterlogged")] if survey.vessel.volume_m3 > 0.0 else [])
    groups.append(_buttons("Pipes", parts))
    groups += [_buttons(f"Pump {pump}", BOOSTER_PUMP_BUTTONS, str(pump)) for pump in range(1, survey.pumping.count + 1)]
    return [*groups, {"name": "Mains", "buttons": [_POWER, _PHASE]}]


def _booster_totals(bench: Any, work: Work) -> list[dict[str, str]]:
    """What the set does, pumps, the extremes since the last action, water and energy."""
    plant, logic, units = bench.plant, bench.logic, work.units
    mode = "stopped" if logic.stopped else logic.mode.value
    totals = [{"name": "The set", "text": mode}]
    if bench.lowest_pa <= bench.highest_pa:
        low, high = (show(pa, Quantity.PRESSURE, units) for pa in (bench.lowest_pa, bench.highest_pa))
        totals.append({"name": "Since you acted", "text": f"{low} to {high}"})
    totals += _pumps(bench)
    totals += [
        {"name": "Suction", "text": show(plant.inlet_pa, Quantity.PRESSURE, units)},
        {"name": "Power", "text": show(sum(plant.power_w(p) for p in range(len(plant.speeds))), Quantity.POWER, units)},
        {"name": "Pumped", "text": show(plant.pumped_m3, Quantity.VOLUME, units)},
        {"name": "Energy", "text": show(plant.energy_j, Quantity.ENERGY, units, 1)},
    ]
    if plant.pumped_m3 > 1e-3 and plant.energy_j > 0.0:
        totals.append(
            {
                "name": "Each m³" if units is UnitSystem.METRIC else "Each 1000 gal",
                "text": show(plant.energy_j / plant.pumped_m3, Quantity.ENERGY_PER_VOLUME, units),
            }
        )
    return totals


VIEWS = {"lift": BenchView(_lift, _lift_totals), "booster": BenchView(_booster, _booster_totals)}
