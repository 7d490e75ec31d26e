"""Pieces of which every kind of station builds its bench's page."""

from collections.abc import Iterable
from typing import Any

from goodbalance.core.balance.quantities import Quantity, UnitSystem, display_unit, show
from goodbalance.web.rendering import clock
from goodbalance.web.work import Work


def unit_of(quantity: Quantity, units: UnitSystem, more: int = 0) -> dict[str, Any]:
    """A unit for a script: symbol, factor from SI, what it shows at nothing, decimals."""
    unit = display_unit(quantity, units)
    return {"symbol": unit.symbol, "per_si": 1.0 / unit.si_per_unit, "at_zero": unit.at_zero, "decimals": unit.decimals + more}


def presets(pairs: Iterable[tuple[str, float]], quantity: Quantity, units: UnitSystem) -> list[dict[str, Any]]:
    return [{"name": name, "value": value, "text": show(value, quantity, units, 1)} for name, value in pairs]


def breaks(work: Work, bench: Any) -> list[dict[str, Any]]:
    """What can be broken, part by part: each button with its action when broken and when mended."""
    listed = work.kind.diagnosis.troubles(bench)
    groups: dict[str, list[dict[str, Any]]] = {}
    for trouble in listed:
        button = {"kind": trouble.kind, "words": trouble.words, "target": trouble.target, "broken": trouble.broken, "mended": trouble.mended}
        groups.setdefault(trouble.place, []).append(button)
    return [{"name": place, "pump": place.removeprefix("Pump ") if place.startswith("Pump ") else "", "buttons": buttons} for place, buttons in groups.items()]


def pumps(bench: Any) -> list[dict[str, str]]:
    """Starts and run time of each pump."""
    return [
        {"name": f"Pump {index + 1}", "text": f"{starts} start{'' if starts == 1 else 's'}, {clock(run_s)} run"}
        for index, (starts, run_s) in enumerate(zip(bench.starts, bench.run_s))
    ]

