"""The cistern's pages: its picture and its bench."""

from pathlib import Path
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity, show
from goodbalance.core.stations.registry import KINDS
from goodbalance.web.bench_views import presets, pumps, unit_of
from goodbalance.web.kinds.pages import PAGES, KindPages
from goodbalance.web.work import Work
from tests.cistern.kind import CISTERN


class CisternPages(KindPages):
    id = "cistern"
    folder = Path(__file__).parent
    picture_told = "The tank from the side, with its float"

    def picture(self, work: Work, plan: Plan, choices: Any, settings: list[dict[str, Any]]) -> dict[str, Any]:
        return {"depth_m": work.survey.tank.depth_m, "highest": work.survey.tank.depth_m, "flags": settings}

    def bench(self, work: Work) -> dict[str, Any]:
        level, flow = unit_of(Quantity.LEVEL, work.units), unit_of(Quantity.FLOW, work.units, 1)
        drawn = work.survey.water.drawn_m3s
        lines = [
            {"column": "level_m", "label": "Level", "unit": level, "scale": "main"},
            {"column": "drawn_m3s", "label": "Drawn", "unit": flow, "scale": "flow"},
        ]
        return {
            "start": work.survey.tank.reserve_m, "pumps": 1, "longest_s": work.kind.longest_run_s, "speeds": (1, 60),
            "knobs": [{"kind": "drawn", "label": "Drawn", "low": 0.0, "high": 2.0 * drawn, "value": drawn, "unit": flow,
                       "presets": presets((("none", 0.0),), Quantity.FLOW, work.units)}],
            "toggles": [], "breaks": [], "contacts": [], "floats": [], "main": level,
            "trend": {"lines": lines, "low": 0.0, "high": work.survey.tank.depth_m, "other_high": 2.0 * drawn, "marks": []},
        }  # fmt: skip

    def totals(self, seen: Any, work: Work) -> list[dict[str, str]]:
        return [*pumps(seen), {"name": "Level", "text": show(seen.level_m, Quantity.LEVEL, work.units)}]


def register() -> None:
    """All that makes the kind known: its core side and its pages."""
    KINDS[CISTERN.id] = CISTERN
    PAGES[CISTERN.id] = CisternPages()


def forget() -> None:
    del KINDS[CISTERN.id], PAGES[CISTERN.id]
