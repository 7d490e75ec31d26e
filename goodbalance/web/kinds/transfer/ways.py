"""Two ways to fill the same line, side by side."""

from fastapi import APIRouter, HTTPException, Request, Response

from goodbalance.core.stations.transfer.kind import TRANSFER
from goodbalance.core.stations.transfer.trials.ways import Comparison, compare
from goodbalance.web.loading import WorkDep
from goodbalance.web.memory import Memory
from goodbalance.web.rendering import page
from goodbalance.web.work import Decided

router = APIRouter()
_compared: Memory[Decided, Comparison] = Memory(64)


@router.get("/stations/{station_id}/ways", name="show_ways")
def show_ways(request: Request, work: WorkDep) -> Response:
    """On and off as planned against a drive that holds a constant pressure: energy, starts, time to fill."""
    if work.kind is not TRANSFER:
        raise HTTPException(422, "Ways to fill a line are compared for transfer sets.")
    if work.plan is None:
        raise HTTPException(409, "Complete the survey first: the ways are reckoned from its facts.")
    if not work.survey.control.by_pressure:
        raise HTTPException(409, "Ways to fill are compared where a float valve closes the line; here levels come back from the tanks.")
    both = _compared.once(work.decided, lambda: compare(work.survey, work.choices, work.plan))
    return page(request, "transfer/ways.html", {"work": work, "view": "reckon", "both": both})
