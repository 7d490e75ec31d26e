"""Which faults would nobody notice: every fault of the station against every proof of its plan, a few at a time."""

import hashlib
import pickle
from dataclasses import dataclass, field
from itertools import takewhile
from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.quantities import UnitSystem, show
from goodbalance.core.rehearsal.noticing import Closing, Notice, Noticed
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


@dataclass
class Table:
    """What is known of faults against proofs for one plan and what its devices hold: the proofs in health, and each fault tried so far."""

    healthy: list[BenchProof] | None = None
    rows: dict[str, Noticed] = field(default_factory=dict)


_tables: Memory[tuple[Decided, str], Table] = Memory(32)


class SomeFaults(BaseModel):
    """Some faults to be put in, by id."""

    model_config = ConfigDict(extra="forbid")
    ids: list[Annotated[str, Field(max_length=80)]] = Field(min_length=1, max_length=MOST_AT_ONCE)


@router.get("/stations/{station_id}/noticing", name="show_noticing")
def show_noticing(request: Request, work: WorkDep) -> Response:
    """The table with what is known of it; its script asks for the rest row by row."""
    listed = troubles_of(work) if work.proofs else ()
    known = _table_of(work).rows if listed else {}
    return page(request, "noticing.html", {"work": work, "view": "prove", "troubles": listed, "known": known, "lanes": computing.CORES, **_words(work)})


@router.post("/stations/{station_id}/noticing", name="notice_some", dependencies=[Depends(not_forged)])
def notice_some(request: Request, work: WorkDep, asked: SomeFaults) -> Response:
    """Rows of the table, from the first of these faults on. It changes nothing, so whoever may read may ask."""
    if not work.proofs:
        raise HTTPException(409, "There is nothing to prove yet: complete the survey and open every window first.")
    known = {trouble.id: trouble for trouble in troubles_of(work)}
    unknown = [fault for fault in asked.ids if fault not in known]
    if unknown:
        raise HTTPException(422, f"ids holds {unknown[0]!r}; this station has no such fault.")
    table = _table_of(work)
    if asked.ids[0] not in table.rows:
        parts = (work.kind, work.survey, work.choices, work.typed_plan, work.held)
        named = tuple(known[fault] for fault in asked.ids)
        table.healthy, found = computing.answer(computing.against_proofs, *parts, table.healthy, named, within_s=WITHIN_S, stands_back=True)
        table.rows.update({row.trouble.id: row for row in found})
    rows = [table.rows[fault] for fault in takewhile(table.rows.__contains__, asked.ids)]
    more = {"work": work, **_words(work)}
    return JSONResponse({"rows": [{"id": row.trouble.id, "best": row.best, "html": part(request, "_noticed.html", {**more, "row": row})} for row in rows]})


def _table_of(work: Work) -> Table:
    """What is known for this plan with these numbers in its devices, whatever else was noted since."""
    holds = hashlib.sha256(pickle.dumps((work.typed_plan, work.held))).hexdigest()
    return _tables.once((work.decided, holds), Table)


def _words(work: Work) -> dict[str, Any]:
    """What a row of the table is written with."""
    return {"closing_words": lambda closing: closing_words(closing, work.units), "Notice": Notice}


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
