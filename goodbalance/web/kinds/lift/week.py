"""A week of days on the bench of a lift station, run in one go and summed up."""

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.record.bodies import Act
from goodbalance.core.stations.lift.bench.week import report
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.web import computing
from goodbalance.web.guards import not_forged
from goodbalance.web.loading import WorkDep
from goodbalance.web.rendering import part
from goodbalance.web.running import KEEP_WITHIN_S, BenchAsk, put_back, take_run

router = APIRouter()
DAY_S = 86400.0


class WeekAsk(BaseModel):
    """How many days of the week to have run."""

    model_config = ConfigDict(extra="forbid")
    days: int = Field(ge=1, le=7)


@router.post("/stations/{station_id}/week", name="run_week", dependencies=[Depends(not_forged)])
def run_week(request: Request, work: WorkDep, ask: WeekAsk) -> Response:
    """Run on by the day pattern to the end of a day and sum up. The page asks day by day, so it can show and stop."""
    if work.kind is not LIFT:
        raise HTTPException(422, "A week of days is run of stations with a level.")
    start_m = LIFT.bench(work.survey, work.choices, work.plan).plant.level_m if work.plan is not None else 0.0
    pattern = Act(at_s=0.0, kind="pattern", value=1.0)
    whole = BenchAsk(start=start_m, actions=(pattern,), from_s=0.0, to_s=ask.days * DAY_S)
    run, there = take_run(work, whole, KEEP_WITHIN_S)
    if not there:
        put_back(work, whole, run)
        raise computing.TooLong
    summed = report(run)
    html = part(request, "lift/_a_week.html", {"work": work, "report": summed, "days": ask.days})
    put_back(work, whole, run)
    return JSONResponse({"days": ask.days, "html": html})
