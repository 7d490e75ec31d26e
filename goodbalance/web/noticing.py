"""Which faults would nobody notice: every fault of the station against every proof of its plan, a few at a time."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.quantities import UnitSystem, show
from goodbalance.core.rehearsal.noticing import Closing, Notice
from goodbalance.core.rehearsal.proving import BenchProof
from goodbalance.core.rehearsal.troubles import Sign, Trouble
from goodbalance.web import computing
from goodbalance.web.guards import not_forged
from goodbalance.web.loading import WorkDep
from goodbalance.web.memory import Memory
from goodbalance.web.rendering import page, part
from goodbalance.web.work import Decided, Work

router = APIRouter()
MOST_AT_ONCE = 400  # faults that a page may name; a piece takes as many as it has time for
WITHIN_S = 60.0  # the first fault of a piece must be through by then
_healthy: Memory[tuple[str, Decided], list[BenchProof]] = Memory(32)


class SomeFaults(BaseModel):
    """Some faults to be put in, by id."""

    model_config = ConfigDict(extra="forbid")
    ids: list[Annotated[str, Field(max_length=80)]] = Field(min_length=1, max_length=MOST_AT_ONCE)


@router.get("/stations/{station_id}/noticing", name="show_noticing")
def show_noticing(request: Request, work: WorkDep) -> Response:
    """The table, empty: its script asks for it row by row."""
    listed = troubles_of(work) if work.proofs else ()
    return page(request, "noticing.html", {"work": work, "view": "prove", "troubles": listed, "lanes": computing.CORES})


@router.post("/stations/{station_id}/noticing", name="notice_some", dependencies=[Depends(not_forged)])
def notice_some(request: Request, work: WorkDep, asked: SomeFaults) -> Response:
    """Rows of the table, from the first of these faults on. It changes nothing, so whoever may read may ask."""
    if not work.proofs:
        raise HTTPException(409, "There is nothing to prove yet: complete the survey and open every window first.")
    known = {trouble.id: trouble for trouble in troubles_of(work)}
    unknown = [fault for fault in asked.ids if fault not in known]
    if unknown:
        raise HTTPException(422, f"ids holds {unknown[0]!r}; this station has no such fault.")
    parts = (work.kind, work.survey, work.choices, work.typed_plan, work.held)
    key = work.head, work.decided
    named = tuple(known[fault] for fault in asked.ids)
    healthy, rows = computing.answer(computing.against_proofs, *parts, _healthy.get(key), named, within_s=WITHIN_S, stands_back=True)
    _healthy.put(key, healthy)
    more = {"work": work, "closing_words": lambda closing: closing_words(closing, work.units), "Notice": Notice}
    return JSONResponse({"rows": [{"id": row.trouble.id, "best": row.best, "html": part(request, "_noticed.html", {**more, "row": row})} for row in rows]})


def troubles_of(work: Work) -> tuple[Trouble, ...]:
    """What can be broken of a station on the bench."""
    if work.kind.diagnosis is None:
        raise HTTPException(422, "Nothing of a station of this kind can be broken on the bench.")
    if work.plan is None:
        raise HTTPException(409, "There is no plan yet: complete the survey first.")
    found: tuple[Trouble, ...] = work.kind.diagnosis.troubles(work.kind.bench(work.survey, work.choices, work.plan))
    return found


def value_words(sign: Sign, value: float | None, units: UnitSystem) -> str:
    """What a person would say that they see."""
    if value is None:
        return "nothing shown"
    if sign.quantity is None:
        return "yes" if value else "no"
    return show(value, sign.quantity, units)


def closing_words(closing: Closing, units: UnitSystem) -> dict[str, Any]:
    """What would tell of a fault that no proof notices."""
    sign = closing.sign
    return {
        "sign": f"{sign.place}: {sign.label[0].lower()}{sign.label[1:]}", "scene": closing.scene,
        "broken": value_words(sign, closing.broken, units), "healthy": value_words(sign, sign.value, units),
    }  # fmt: skip
