"""The web side of transfer sets."""

from pathlib import Path
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.web.kinds.pages import KindPages
from goodbalance.web.kinds.transfer import bench_view, sketch, ways
from goodbalance.web.kinds.transfer.picture import drawing
from goodbalance.web.sketch import Sketch
from goodbalance.web.work import Work


class TransferPages(KindPages):
    """Sources, pumps and tanks at their heights; pressures as heights of head."""

    id = "transfer"
    folder = Path(__file__).parent
    rooms = (ways,)
    picture_told = "Sources, pumps and tanks at their heights, with the pressures of the line as heights its water would stand at"

    def picture(self, work: Work, plan: Plan, choices: Any, settings: list[dict[str, Any]]) -> dict[str, Any]:
        picture = drawing(work.survey, choices, plan, work.units)
        by_id = {setting["id"]: setting for setting in settings}
        picture["flags"] = [by_id[name] for name in picture["flag_ids"]]
        picture["highest"] = picture["big"]["overflow_m"] if picture["by_levels"] else (picture["high_m"] - picture["sensor_m"]) * picture["weight"]
        return picture

    def sketch(self, to: Sketch) -> None:
        sketch.draw(to)

    def bench(self, work: Work) -> dict[str, Any]:
        return bench_view.view(work)

    def totals(self, seen: Any, work: Work) -> list[dict[str, str]]:
        return bench_view.totals(seen, work)
