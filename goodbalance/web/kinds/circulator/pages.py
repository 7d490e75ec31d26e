"""The web side of circulators and their rings."""

from pathlib import Path
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.web.kinds.circulator import bench_view, modes, sketch
from goodbalance.web.kinds.circulator.picture import drawing
from goodbalance.web.kinds.circulator.week import week_of
from goodbalance.web.kinds.pages import KindPages
from goodbalance.web.sketch import Sketch
from goodbalance.web.work import Work


class CirculatorPages(KindPages):
    """The branches as loops, one inside the other, with the temperature along each by shade and number."""

    id = "circulator"
    folder = Path(__file__).parent
    rooms = (modes,)
    picture_told = "The ring: heat, pump, and each branch as a loop out to its farthest tap and back, with temperatures along it"
    reads_as_signal = False

    def picture(self, work: Work, plan: Plan, choices: Any, settings: list[dict[str, Any]]) -> dict[str, Any]:
        return {**drawing(work.survey, choices, plan, work.units), "flags": [], "highest": 0.0}

    def sketch(self, to: Sketch) -> None:
        sketch.draw(to)

    def bench(self, work: Work) -> dict[str, Any]:
        return bench_view.view(work)

    def totals(self, seen: Any, work: Work) -> list[dict[str, str]]:
        return bench_view.totals(seen, work)

    def reckon(self, work: Work) -> dict[str, Any]:
        return {"week": week_of(work)}

    def handover(self, work: Work) -> dict[str, Any]:
        return {"week": week_of(work)}
