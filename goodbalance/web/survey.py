"""Survey: the facts of a station, saved as they are typed."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse
from markupsafe import Markup
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.facts import Alike, sections
from goodbalance.core.balance.plan import Severity
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.record.chain import Entry, Kind
from goodbalance.core.record.history import History
from goodbalance.exchange.typed import default_text, is_asked, left_for_later
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.conflicts import Conflicts, shown_text, text_conflicts
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.kinds.pages import pages_of
from goodbalance.web.loading import WorkDep, after_save, load_work
from goodbalance.web.progress import progress
from goodbalance.web.rendering import page, units_of, written
from goodbalance.web.sketch import Sketch
from goodbalance.web.work import Work

router = APIRouter()
MUCH = 5  # facts missing, from which on stations alike are offered
NOT_COPIED = ("visit", "as_found")  # sections that are this visit's and this station's own
OF_SURVEY = "survey"  # the device of a photo that shows a section of the survey
SaveKey = Annotated[str, Field(min_length=8, max_length=64)]


class FactsSave(BaseModel):
    """Changed fields as typed, what the page had shown there before, and a key that makes a repeat count once.

    base_seq: the entry the page was built on, for fields of which it does not say what they were.
    """

    model_config = ConfigDict(extra="forbid")
    save_key: SaveKey
    base_seq: int = Field(ge=0)
    units: UnitSystem
    changes: dict[str, Annotated[str, Field(max_length=2000)]] = Field(min_length=1, max_length=400)
    was: dict[str, Annotated[str, Field(max_length=2000)]] = Field(default_factory=dict, max_length=400)


@router.get("/stations/{station_id}/survey", name="show_survey")
def show_survey(request: Request, session: SessionDep, work: WorkDep) -> Response:
    """The form. While much is missing still, stations alike are offered to copy from."""
    alike = records.alike(session, work.row) if len(work.reading.missing) >= MUCH else []
    return page(request, "survey.html", {**_view(request, work), "alike": alike})


@router.post("/stations/{station_id}/copy", name="copy_survey", dependencies=[Depends(not_forged)])
def copy_survey(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """What stands in the survey of a station alike into the fields that nobody filled in here; never its visit, nor what was found there."""
    chosen = str(form.get("from", ""))
    other = records.station(session, int(chosen)) if chosen.isascii() and chosen.isdecimal() and len(chosen) < 10 else None
    if other is None or other.kind != work.row.kind or other.id == work.row.id or other.removed_at is not None:
        raise HTTPException(422, f"from is {chosen[:20]!r}; accepted: another station of this kind.")
    theirs = records.history(session, other.id).facts
    known = {question.path for part in sections(work.kind.survey_model) for question in part.facts if part.id not in NOT_COPIED}
    empty = {path: there for path, there in theirs.items() if path in known and there.text.strip() and left_for_later(there.text) is None and not (path in work.history.facts and work.history.facts[path].text.strip())}
    if empty:
        body = {"changes": {path: {"text": there.text, "units": there.units} for path, there in empty.items()}}
        records.keep(session, work.row.id, person.name, [Draft(Kind.FACTS, body, str(form.get("save_key", "")) or None)])
        after_save(request, session, work)
    return RedirectResponse(request.url_for("show_survey", station_id=work.row.id), status_code=303)


def _view(request: Request, work: Work) -> dict[str, Any]:
    """What the survey's page shows. A section is written once for what stands in it and whether it is asked."""

    def sheet(part: dict[str, Any]) -> Markup:
        stands = tuple((field["text"], field["asked"], field["typed"]) for field in part["fields"])
        return written(request, "_survey_part.html", {"work": work, "part": part}, work.kind.id, part["id"], part["asked"], stands)

    def table(alike: Alike, among: list[dict[str, Any]]) -> Markup:
        lines = [part for part in among if part["alike"] == alike]
        stands = tuple((part["asked"], *(field["text"] for field in part["fields"] if field["beside"])) for part in lines)
        return written(request, "_survey_alike.html", {"work": work, "alike": alike, "lines": lines}, work.kind.id, alike.title, stands)

    parts = form_parts(work)
    return {"work": work, "view": "survey", "parts": parts, "sheet": sheet, "table": table, "sketch": drawn(work, parts), "photos": _photos(work), **remarks(work)}


def _photos(work: Work) -> dict[str, list[Entry]]:
    """The photos of each section, oldest first."""
    found: dict[str, list[Entry]] = {}
    for entry in work.history.photos:
        if entry.body["device"] == OF_SURVEY:
            found.setdefault(entry.body["place"], []).append(entry)
    return found


def drawn(work: Work, parts: list[dict[str, Any]]) -> Markup:
    """The station as far as it is known; empty where its kind has no drawing."""
    fields = {field["path"]: field for part in parts for field in ({**field, "asked": field["asked"] and part["asked"]} for field in part["fields"])}
    told = {path for path, there in work.history.facts.items() if there.text.strip()}
    sketch = Sketch(work.reading.values, told, fields, work.units)
    pages_of(work).sketch(sketch)
    return sketch.svg() if sketch.pieces else Markup("")


@router.post("/stations/{station_id}/facts", name="save_facts", dependencies=[Depends(not_forged)])
def save_facts(request: Request, session: SessionDep, person: WriterDep, work: WorkDep, save: FactsSave) -> Response:
    _check_paths(work, save.changes)
    conflicts: Conflicts = {}

    def make(history: History) -> list[Draft]:
        conflicts.clear()
        conflicts.update(_conflicts(work, history, save, person.name))
        kept = {path: text for path, text in save.changes.items() if path not in conflicts}
        body = {"changes": {path: {"text": text, "units": save.units.value} for path, text in kept.items()}}
        return [Draft(Kind.FACTS, body, save.save_key)] if kept else []

    records.keep(session, work.row.id, person.name, make, work.history)
    after = after_save(request, session, work)
    return JSONResponse({"seq": after.history.seq, "conflicts": conflicts, "progress": shapes(after), "sketch": drawn(after, form_parts(after)), **remarks(after)})


@router.post("/stations/{station_id}/survey", name="save_survey_form", dependencies=[Depends(not_forged)])
def save_survey_form(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """The whole form, for a page without script: only what differs from what the page had shown is saved."""
    typed = {key: value[:2000] for key, value in form.items() if "." in key}
    _check_paths(work, typed)
    units = units_of(request)
    was = {field["path"]: field["text"] for part in form_parts(as_seen(session, work, form)) for field in part["fields"]}
    changes = {path: text for path, text in typed.items() if text != was.get(path, "")}
    conflicts: Conflicts = {}

    def make(history: History) -> list[Draft]:
        conflicts.clear()
        conflicts.update(text_conflicts(work.kind.survey_model, history.facts, changes, was, units))
        kept = {path: text for path, text in changes.items() if path not in conflicts}
        body = {"changes": {path: {"text": text, "units": units.value} for path, text in kept.items()}}
        return [Draft(Kind.FACTS, body, form.get("save_key") or None)] if kept else []

    if changes:
        records.keep(session, work.row.id, person.name, make, work.history)
    if conflicts:
        after = load_work(session, work.row.id, units)
        return page(request, "survey.html", {**_view(request, after), "conflicts": conflicts}, 409)
    back = "show_enter" if form.get("next") == "enter" else "show_survey"
    return RedirectResponse(request.url_for(back, station_id=work.row.id), status_code=303)


def as_seen(session: SessionDep, work: Work, form: dict[str, str]) -> Work:
    """The station as the page had it that sends this form; as it is now where the form does not say."""
    seq = form.get("base_seq", "")
    seen = int(seq) if seq.isascii() and seq.isdecimal() and len(seq) < 10 else work.history.seq
    return load_work(session, work.row.id, work.units, min(max(seen, 1), work.history.seq))


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
            asked, text = question.fact, shown_text(question, entry, units)
            answers[question.path] = text.strip()
            only_if = (*part.only_if, *asked.only_if, *(question.table[2] if question.table else ()))
            fields.append(
                {
                    "path": question.path, "fact": asked, "text": text, "default": default, "typed": entry is not None and bool(entry.text.strip()), "only_if": only_if, "row": _row_of(question.path), "table": question.table,
                    "beside": part.alike is not None and question.path.rpartition(".")[2] in dict(part.alike.columns),
                }
            )  # fmt: skip
        curves = [field["path"].split(".")[1] for field in fields if field["path"].startswith(f"{part.id}.curve") and field["path"].endswith(".0.flow_m3s")]
        found.append(
            {"id": part.id, "title": part.title, "lead": part.lead, "only_if": part.only_if, "fields": fields, "curves": curves, "alike": part.alike}
        )
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
    """What stands beside the fields: refused, unusual, missing, and what does not fit together; and beside each section how much of it."""
    findings = [
        {"path": finding.subject, "severity": finding.severity.value, "text": finding.worded(work.units)}
        for finding in work.findings
    ]
    reading = work.reading
    return {
        "problems": reading.problems, "unusual": reading.unusual, "read_as": reading.read_as, "missing": reading.missing, "findings": findings, "counts": _counts(work),
    }  # fmt: skip


def _counts(work: Work) -> dict[str, dict[str, str]]:
    """Of each section the worst that stands in it, as a shape and in words."""
    reading = work.reading
    wrong = [*reading.problems, *(finding.subject for finding in work.findings if finding.severity is Severity.STOP)]
    questions = [*reading.unusual, *(finding.subject for finding in work.findings)]
    found = {}
    for part in sections(work.kind.survey_model):
        bad, missing, doubtful = (sum(path.startswith(f"{part.id}.") for path in paths) for paths in (wrong, reading.missing, questions))
        shape = "stop" if bad else "open" if missing else "caution" if doubtful else "ok"
        found[part.id] = {"shape": shape, "word": f"{bad} to correct" if bad else f"{missing} left" if missing else "check" if doubtful else ""}
    return found


def shapes(work: Work) -> dict[str, dict[str, str]]:
    """How far each view is, for a script to show."""
    return {view: {"shape": state.shape, "word": state.word} for view, state in progress(work).items()}


def _check_paths(work: Work, changes: dict[str, str]) -> None:
    known = {question.path for part in sections(work.kind.survey_model) for question in part.facts}
    for path in changes:
        if path not in known:
            raise HTTPException(422, f"{path[:80]!r} is not a fact of this survey.")


def _conflicts(work: Work, history: History, save: FactsSave, author: str) -> Conflicts:
    """Fields that have changed since the page had them."""
    found = text_conflicts(work.kind.survey_model, history.facts, save.changes, save.was, save.units)
    for path, text in save.changes.items():
        there = history.facts.get(path)
        if path in save.was or there is None or there.seq <= save.base_seq or there.author == author or there.text == text:
            continue
        found[path] = {"text": there.text, "author": there.author, "mine": text}
    return found
