"""Survey: the facts of a station, saved as they are typed."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.facts import sections
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.record.chain import Kind
from goodbalance.core.record.history import History
from goodbalance.exchange.typed import Typed, as_shown, default_text, is_asked
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.rendering import page, units_of
from goodbalance.web.work import Work, WorkDep, load_work

router = APIRouter()
SaveKey = Annotated[str, Field(min_length=8, max_length=64)]


class FactsSave(BaseModel):
    """Changed fields as typed, the entry the page was built on, and a key that makes a repeat count once."""

    model_config = ConfigDict(extra="forbid")
    save_key: SaveKey
    base_seq: int = Field(ge=0)
    units: UnitSystem
    changes: dict[str, Annotated[str, Field(max_length=2000)]] = Field(min_length=1, max_length=400)


@router.get("/stations/{station_id}/survey", name="show_survey")
def show_survey(request: Request, work: WorkDep) -> Response:
    return page(request, "survey.html", {"work": work, "view": "survey", "parts": form_parts(work), **remarks(work)})


@router.post("/stations/{station_id}/facts", name="save_facts", dependencies=[Depends(not_forged)])
def save_facts(request: Request, session: SessionDep, person: WriterDep, work: WorkDep, save: FactsSave) -> Response:
    _check_paths(work, save.changes)
    conflicts, kept = _conflicts(work.history, save, person.name)
    if kept:
        body = {"changes": {path: {"text": text, "units": save.units.value} for path, text in kept.items()}}
        records.keep(session, work.row.id, person.name, [Draft(Kind.FACTS, body, save.save_key)])
    after = load_work(session, work.row.id, units_of(request))
    return JSONResponse({"seq": after.history.seq, "conflicts": conflicts, "progress": shapes(after), **remarks(after)})


@router.post("/stations/{station_id}/survey", name="save_survey_form", dependencies=[Depends(not_forged)])
def save_survey_form(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """The whole form, for a page without script: only what differs is saved."""
    typed = {key: str(value)[:2000] for key, value in form.items() if "." in key}
    _check_paths(work, typed)
    shown = {field["path"]: field["text"] for part in form_parts(work) for field in part["fields"]}
    changes = {path: text for path, text in typed.items() if text != shown.get(path, "")}
    if changes:
        units = units_of(request).value
        body = {"changes": {path: {"text": text, "units": units} for path, text in changes.items()}}
        key = str(form.get("save_key", "")) or None
        records.keep(session, work.row.id, person.name, [Draft(Kind.FACTS, body, key)])
    back = "show_enter" if form.get("next") == "enter" else "show_survey"
    return RedirectResponse(request.url_for(back, station_id=work.row.id), status_code=303)


def form_parts(work: Work) -> list[dict[str, Any]]:
    """The form's sections and fields, each with its text as this person reads it."""
    return parts_of(work.kind.survey_model, work.history.facts, work.units)


def parts_of(
    model: Any, written: dict[str, Any], units: UnitSystem, context: dict[str, str] | None = None
) -> list[dict[str, Any]]:
    """Sections and fields of any facts model with what is written in them. context: answers of another form."""
    answers, found = dict(context or {}), []
    for part in sections(model):
        fields = []
        for question in part.facts:
            entry = written.get(question.path)
            default = default_text(question, units)
            asked = question.fact
            if entry is None:
                text = default
            else:
                text = as_shown(Typed(entry.text, UnitSystem(entry.units)), asked.quantity, units)
            answers[question.path] = text.strip()
            only_if = (*part.only_if, *asked.only_if, *(question.table[2] if question.table else ()))
            fields.append(
                {"path": question.path, "fact": asked, "text": text, "default": default, "only_if": only_if, "row": _row_of(question.path), "table": question.table}
            )  # fmt: skip
        found.append({"id": part.id, "title": part.title, "lead": part.lead, "only_if": part.only_if, "fields": fields})
    for part in found:
        part["asked"] = is_asked(part["only_if"], answers)
        for field in part["fields"]:
            field["asked"] = is_asked(field["only_if"], answers)
    return found


def _row_of(path: str) -> str | None:
    """The row a field of a small table stands in: pump_1.curve.2 for pump_1.curve.2.head_m."""
    head, _, _ = path.rpartition(".")
    return head if head.rpartition(".")[2].isdecimal() else None


def remarks(work: Work) -> dict[str, Any]:
    """What stands beside the fields: refused, unusual, missing, and what does not fit together."""
    findings = [
        {"path": finding.subject, "severity": finding.severity.value, "text": finding.worded(work.units)}
        for finding in work.findings
    ]
    reading = work.reading
    return {"problems": reading.problems, "unusual": reading.unusual, "missing": reading.missing, "findings": findings}


def shapes(work: Work) -> dict[str, dict[str, str]]:
    """How far each view is, for a script to show."""
    return {view: {"shape": state.shape, "word": state.word} for view, state in work.progress().items()}


def _check_paths(work: Work, changes: dict[str, str]) -> None:
    known = {question.path for part in sections(work.kind.survey_model) for question in part.facts}
    for path in changes:
        if path not in known:
            raise HTTPException(422, f"{path[:80]!r} is not a fact of this survey.")


def _conflicts(history: History, save: FactsSave, author: str) -> tuple[dict[str, dict[str, str]], dict[str, str]]:
    """Fields that somebody else has changed since the page was built, and the changes that can be kept."""
    conflicts, kept = {}, {}
    for path, text in save.changes.items():
        there = history.facts.get(path)
        if there is not None and there.seq > save.base_seq and there.author != author and there.text != text:
            conflicts[path] = {"text": there.text, "author": there.author, "mine": text}
        else:
            kept[path] = text
    return conflicts, kept
