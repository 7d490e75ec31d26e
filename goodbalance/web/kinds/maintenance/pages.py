"""The web side of maintenance pumps."""

from pathlib import Path
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.web.kinds.maintenance import bench_view, sketch
from goodbalance.web.kinds.maintenance.picture import drawing
from goodbalance.web.kinds.pages import KindPages
from goodbalance.web.sketch import Sketch
from goodbalance.web.work import Work


class MaintenancePages(KindPages):
    """One scale of pressure, from the supply to the ratings, with every start, stop and churn on it."""

    id = "maintenance"
    folder = Path(__file__).parent
    picture_told = "One scale of pressure: the supply, the main pumps' starts, start and stop of the maintenance pump, churn, shut-off and ratings in their order"

    def picture(self, work: Work, plan: Plan, choices: Any, settings: list[dict[str, Any]]) -> dict[str, Any]:
        picture = drawing(work.survey, plan, work.units)
        by_id = {setting["id"]: setting for setting in settings}
        picture["flags"] = [by_id[name] for name in picture["flag_ids"]]
        picture["highest"] = picture["high_pa"]
        return picture

    def sketch(self, to: Sketch) -> None:
        sketch.draw(to)

    def bench(self, work: Work) -> dict[str, Any]:
        return bench_view.view(work)

    def totals(self, seen: Any, work: Work) -> list[dict[str, str]]:
        return bench_view.totals(seen, work)
