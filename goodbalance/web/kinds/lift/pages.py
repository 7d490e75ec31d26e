"""The web side of lift stations."""

from pathlib import Path
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity, show
from goodbalance.core.stations.lift.sheet.retrofit import replaces_floats
from goodbalance.web.kinds.lift import bench_view, drawdown, sketch, trends, week, wires
from goodbalance.web.kinds.lift.picture import drawing
from goodbalance.web.kinds.pages import KindPages
from goodbalance.web.sketch import Sketch
from goodbalance.web.work import Work

HEIGHTS = ("depth", "invert", "overflow", "intake", "sensor_low", "sensor_high")


class LiftPages(KindPages):
    """The well cut open; drawdowns, trends of levels, weeks of days, old floats to relays."""

    id = "lift"
    folder = Path(__file__).parent
    rooms = (drawdown, trends, week, wires)
    picture_told = "The wet well cut open, with its levels as flags"

    def picture(self, work: Work, plan: Plan, choices: Any, settings: list[dict[str, Any]]) -> dict[str, Any]:
        """Volumes and times of the bands, and the fixed heights in words."""
        picture = drawing(work.survey, choices, plan)
        for band in picture["bands"]:
            band["volume"] = show(band["volume_m3"], Quantity.VOLUME, work.units)
            band["time"] = show(band["fill_s"], Quantity.DURATION, work.units)
        picture["flags"] = [setting for setting in settings if setting["group"] == "levels"]
        picture["highest"] = picture["depth_m"]
        picture["marks"] = {key: show(picture[f"{key}_m"], Quantity.LEVEL, work.units) for key in HEIGHTS}
        return picture

    def sketch(self, to: Sketch) -> None:
        sketch.draw(to)

    def bench(self, work: Work) -> dict[str, Any]:
        return bench_view.view(work)

    def totals(self, seen: Any, work: Work) -> list[dict[str, str]]:
        return bench_view.totals(seen, work)

    def enter(self, work: Work) -> dict[str, Any]:
        return {"replaces_floats": work.survey is not None and replaces_floats(work.survey)}
