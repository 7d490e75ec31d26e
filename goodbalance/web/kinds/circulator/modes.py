"""Every mode the pump could go by, side by side."""

from fastapi import APIRouter, HTTPException, Request, Response

from goodbalance.core.stations.circulator.kind import CIRCULATOR
from goodbalance.core.stations.circulator.survey.survey import MODE_LABELS
from goodbalance.core.stations.circulator.trials.modes import Tried, compare
from goodbalance.web.loading import WorkDep
from goodbalance.web.memory import Memory
from goodbalance.web.rendering import page
from goodbalance.web.work import Decided

router = APIRouter()
_compared: Memory[Decided, tuple[Tried, ...]] = Memory(64)


@router.get("/stations/{station_id}/modes", name="show_modes")
def show_modes(request: Request, work: WorkDep) -> Response:
    """What each mode gives and costs on this ring: coldest point, wait, noise, a year's heat and power."""
    if work.kind is not CIRCULATOR:
        raise HTTPException(422, "Modes are compared for circulators.")
    if work.plan is None:
        raise HTTPException(409, "Complete the survey first: the modes are reckoned from its facts.")
    tried = _compared.once(work.decided, lambda: compare(work.survey, work.choices, work.plan))
    return page(request, "circulator/modes.html", {"work": work, "view": "reckon", "tried": tried, "labels": MODE_LABELS, "chosen": work.choices.schools.mode})
