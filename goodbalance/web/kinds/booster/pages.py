"""The web side of booster sets."""

from pathlib import Path
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity, display_unit, show
from goodbalance.web.kinds.booster import bench_view, loop, pressure_trends, sketch, sweep
from goodbalance.web.kinds.booster.picture import drawing
from goodbalance.web.kinds.pages import KindPages
from goodbalance.web.sketch import Sketch
from goodbalance.web.work import Work


class BoosterPages(KindPages):
    """Pressure over flow; the hand sweep, the loop, energy of a day, trends of pressure."""

    id = "booster"
    folder = Path(__file__).parent
    rooms = (sweep, loop, pressure_trends)
    picture_told = "Pressure over flow: pump curves, demands, the path of the set pressure, settings as flags"

    def picture(self, work: Work, plan: Plan, choices: Any, settings: list[dict[str, Any]]) -> dict[str, Any]:
        """Axes, and the cases of the sweep in words."""
        picture = drawing(work.survey, choices, plan)
        flow = display_unit(Quantity.FLOW, work.units)
        picture["flow"] = {"symbol": flow.symbol, "per_si": flow.from_si(1.0), "decimals": flow.decimals}
        by_id = {setting["id"]: setting for setting in settings}
        picture["flags"] = [by_id[name] for name in picture["flag_ids"]]
        picture["highest"] = picture["top_pa"]
        for stop in picture["stops"]:
            turns = "" if stop["speed"] is None else f"{stop['pumps']} at {show(stop['speed'], Quantity.PERCENT, work.units)}"
            stop["words"] = turns or "cannot"
        return picture

    def sketch(self, to: Sketch) -> None:
        sketch.draw(to)

    def bench(self, work: Work) -> dict[str, Any]:
        return bench_view.view(work)

    def totals(self, seen: Any, work: Work) -> list[dict[str, str]]:
        return bench_view.totals(seen, work)

    def handover(self, work: Work) -> dict[str, Any]:
        return {"by_hand": sweep.latest_sweep(work)}
