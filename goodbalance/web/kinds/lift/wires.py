"""Old floats to relays: which relay takes which float's wires, and what the panel sees at every level."""

from typing import Any

from fastapi import APIRouter, Request, Response

from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.sheet.retrofit import retrofit_map
from goodbalance.web.loading import WorkDep
from goodbalance.web.rendering import page

router = APIRouter()


@router.get("/stations/{station_id}/wires", name="show_wires")
def show_wires(request: Request, work: WorkDep) -> Response:
    """Which relay takes which old float's wires, contact by contact."""
    more: dict[str, Any] = {"work": work, "view": "enter"}
    if work.kind is LIFT and work.held is not None:
        more["wiring"] = retrofit_map(work.survey, work.choices, work.plan, work.held.program.relays)
    return page(request, "lift/wires.html", more)
