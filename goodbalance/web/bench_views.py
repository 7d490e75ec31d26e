"""Pieces of which every kind of station builds its bench's page."""

from collections.abc import Iterable
from typing import Any

from goodbalance.core.balance.quantities import Quantity, UnitSystem, display_unit, show
from goodbalance.web.rendering import clock


def unit_of(quantity: Quantity, units: UnitSystem, more: int = 0) -> dict[str, Any]:
    """A unit for a script: symbol, factor from SI, decimals."""
    unit = display_unit(quantity, units)
    return {"symbol": unit.symbol, "per_si": unit.from_si(1.0), "decimals": unit.decimals + more}


def presets(pairs: Iterable[tuple[str, float]], quantity: Quantity, units: UnitSystem) -> list[dict[str, Any]]:
    return [{"name": name, "value": value, "text": show(value, quantity, units, 1)} for name, value in pairs]


def buttons(name: str, buttons: Iterable[tuple[str, str]], target: str = "") -> dict[str, Any]:
    """A group of things to break: each button with its action when broken and when mended."""
    listed = [{"kind": kind, "words": words, "target": target, "broken": 1, "mended": 0} for kind, words in buttons]
    return {"name": name, "buttons": listed}


POWER = {"kind": "power", "words": "power", "target": "", "broken": 0, "mended": 1}
PHASE = {"kind": "phase", "words": "a phase", "target": "", "broken": 1, "mended": 0}


def pumps(bench: Any) -> list[dict[str, str]]:
    """Starts and run time of each pump."""
    return [
        {"name": f"Pump {index + 1}", "text": f"{starts} start{'' if starts == 1 else 's'}, {clock(run_s)} run"}
        for index, (starts, run_s) in enumerate(zip(bench.starts, bench.run_s))
    ]


SENSOR = (("loop_open", "loop open"), ("loop_short", "loop short"), ("frozen", "frozen"), ("drift", "drifts"))  # buttons
