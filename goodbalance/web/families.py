"""Families of people's own: copied, edited as tables, checked as they are typed, tried on a station's plan, kept as revisions, shared as files."""

import json
from typing import Annotated, Any

from fastapi import APIRouter, Depends, File, Form, HTTPException, Request, Response, UploadFile
from fastapi.responses import JSONResponse, RedirectResponse
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.errors import BrokenFile
from goodbalance.core.record.chain import Kind
from goodbalance.core.sheets.devices import stands_of
from goodbalance.core.sheets.differences import matters
from goodbalance.core.sheets.profile import Profile
from goodbalance.exchange.family_files import csv_of, read_family, toml_of, xlsx_of
from goodbalance.exchange.family_tables import (
    CHOICES,
    HEAD,
    PARAMETER,
    TERMINALS,
    Part,
    Problem,
    Tables,
    profile_of,
    tables_from,
    tables_of,
)
from goodbalance.exchange.profiles import known_meanings, known_wires, shipped_profiles
from goodbalance.store import families, records
from goodbalance.store.families import Draft
from goodbalance.store.records import Draft as EntryDraft
from goodbalance.web import computing
from goodbalance.web.guards import PersonDep, SessionDep, WriterDep, not_forged
from goodbalance.web.loading import WorkDep, after_save, load_work
from goodbalance.web.rendering import page, part, units_of

router = APIRouter()
Upload = Annotated[UploadFile, File()]
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


class FamilyAsked(BaseModel):
    """A family as the page has it now. station: whose plan it is tried on; base: the revision it was made from."""

    model_config = ConfigDict(extra="forbid")
    tables: dict[str, Any]
    base: int = Field(0, ge=0, le=1_000_000)
    station: int | None = None


@router.get("/families/new", name="new_family")
def new_family(request: Request, session: SessionDep, person: WriterDep, like: str = "") -> Response:
    """A family that begins as a copy of another, or with nothing."""
    tables = _known(session, like) if like else Tables(dict.fromkeys(HEAD, ""))
    head = {**tables.head, "id": "", "name": f"{tables.head['name']}, own"[:80] if like else ""}
    return _editor(request, session, Tables(head, tables.parameters, tables.terminals), 0)


@router.post("/families/file", name="family_from_file", dependencies=[Depends(not_forged)])
def family_from_file(request: Request, session: SessionDep, person: WriterDep, file: Upload, like: Annotated[str, Form()] = "") -> Response:
    """The editor filled from a file; nothing is kept before it is saved. like: whose head a CSV of parameters takes."""
    name = (file.filename or "file")[-80:]
    try:
        before = _known(session, like) if like else None
        tables = computing.answer(read_family, name, file.file.read(), before)
    except BrokenFile as wrong:
        return page(request, "controllers.html", {**listed(session), "problem": f"{name}: {wrong}."}, 422)
    there = families.revision(session, tables.head.get("id", ""))
    return _editor(request, session, tables, there.revision if there is not None else 0)


@router.get("/families/{family_id}", name="edit_family")
def edit_family(request: Request, session: SessionDep, person: PersonDep, family_id: str, revision: int | None = None) -> Response:
    row = families.revision(session, family_id, revision)
    if row is None:
        raise HTTPException(404, f"There is no family {family_id[:40]!r} of anybody's own, or no such revision of it.")
    last = families.revision(session, family_id)
    return _editor(request, session, tables_from(json.loads(row.tables)), last.revision if last is not None else row.revision, row.revision)


@router.get("/families/{family_id}/file.{ending}", name="family_file")
def family_file(session: SessionDep, person: PersonDep, family_id: str, ending: str) -> Response:
    """A family as a file, those that ship too: TOML whole, XLSX with all its tables, CSV of the parameters."""
    tables = _known(session, family_id)
    headers = {"Content-Disposition": f'attachment; filename="{family_id}.{ending}"'}
    if ending == "xlsx":
        return Response(xlsx_of(tables), media_type=XLSX, headers=headers)
    if ending == "csv":
        return Response(csv_of(tables), media_type="text/csv", headers=headers)
    profile, problems = profile_of(tables)
    if ending != "toml":
        raise HTTPException(404, f"A family is given as toml, xlsx or csv, not as {ending[:10]!r}.")
    if profile is None:
        raise HTTPException(409, f"It cannot be written as TOML while something is wrong with it: {problems[0].words}.")
    return Response(toml_of(profile), media_type="application/toml", headers=headers)


@router.post("/families/check", name="check_family", dependencies=[Depends(not_forged)])
def check_family(request: Request, session: SessionDep, person: PersonDep, asked: FamilyAsked) -> Response:
    """What is wrong with a family as it is typed now, and what it does with a station's plan."""
    tables = _tables(asked)
    profile, problems = profile_of(tables)
    named = tuple(problem for problem in problems if problem.column != "id" or problem.part is not Part.HEAD)
    answer: dict[str, Any] = {"problems": [_told(problem) for problem in (*named, *_own_name(tables))]}
    if profile is not None and asked.station is not None:
        answer["tried"] = part(request, "_tried.html", _tried(request, session, profile, asked.station))
    return JSONResponse(answer)


@router.post("/families/save", name="save_family", dependencies=[Depends(not_forged)])
def save_family(session: SessionDep, person: WriterDep, asked: FamilyAsked) -> Response:
    """The next revision, whatever is wrong with it: what was typed is kept. A station takes it only once nothing is."""
    tables = _tables(asked)
    wrong = _own_name(tables)
    if wrong:
        raise HTTPException(422, f"id: {wrong[0].words}")
    profile, problems = profile_of(tables)
    toml = toml_of(profile) if profile is not None else None
    draft = Draft(tables.head["id"], tables.head["name"].strip()[:80] or tables.head["id"], tables.plain(), toml)
    try:
        row = families.save(session, draft, person.name, asked.base)
    except families.Moved as moved:
        raise HTTPException(409, f"{moved}. Open it in another window, take over what they changed, and save again: what you typed stays here.") from moved
    except families.Full as full:
        raise HTTPException(409, f"No more than {families.MOST_FAMILIES} families of {families.MOST_REVISIONS} revisions are kept.") from full
    except LookupError as gone:
        raise HTTPException(422, f"base is {asked.base}; there is no revision of {draft.id} yet: 0 is accepted.") from gone
    return JSONResponse({"revision": row.revision, "sound": toml is not None, "problems": [_told(problem) for problem in problems]})


@router.post("/stations/{station_id}/family", name="take_family", dependencies=[Depends(not_forged)])
def take_family(
    request: Request, session: SessionDep, person: WriterDep, work: WorkDep, family: Annotated[str, Form()], save_key: Annotated[str, Form()]
) -> Response:
    """A family of somebody's own goes into this station's record, as it stands now, and becomes its controller where it suits."""
    row = families.revision(session, family)
    if row is None or row.toml is None:
        raise HTTPException(422, f"family is {family[:40]!r}; accepted: a family of somebody's own that nothing is wrong with.")
    drafts = [EntryDraft(Kind.FAMILY, {"family": row.id, "revision": row.revision, "text": row.toml}, save_key)]
    keypad = work.kind.keypad
    profile, _ = profile_of(tables_from(json.loads(row.tables)))
    if keypad is not None and profile is not None and profile.family == keypad.family_of(work.survey_answers):
        change = {"keypad.profile": {"text": row.id, "units": units_of(request).value}}
        drafts.append(EntryDraft(Kind.CHOICES, {"changes": change}, f"{save_key}-c"[:60]))
    records.keep(session, work.row.id, person.name, drafts)
    after_save(request, session, work)
    return RedirectResponse(request.url_for("show_families", station_id=work.row.id), status_code=303)


def listed(session: Any) -> dict[str, Any]:
    """What the list of families shows."""
    return {"profiles": shipped_profiles().values(), "own": families.latest(session)}


def _known(session: Any, family_id: str) -> Tables:
    """The tables of a family, shipped or of somebody's own."""
    profile = shipped_profiles().get(family_id)
    if profile is not None:
        return tables_of(profile)
    row = families.revision(session, family_id)
    if row is None:
        raise HTTPException(404, f"There is no controller family {family_id[:40]!r}.")
    return tables_from(json.loads(row.tables))


def _tables(asked: FamilyAsked) -> Tables:
    try:
        return tables_from(asked.tables)
    except BrokenFile as wrong:
        raise HTTPException(422, f"tables: {wrong}.") from wrong


def _own_name(tables: Tables) -> tuple[Problem, ...]:
    """That a family of somebody's own needs a name in the files, which none that ships has."""
    name = tables.head.get("id", "")
    if name in shipped_profiles():
        return (_wrong_id(f"{name!r} ships with the app; a family of your own has another name"),)
    fits = 1 <= len(name) <= 40 and all(letter in "abcdefghijklmnopqrstuvwxyz0123456789_" for letter in name)
    return () if fits and name not in ("new", "file", "check", "save") else (_wrong_id(f"{name[:40]!r}; accepted: 1 to 40 small letters, digits and _"),)


def _wrong_id(words: str) -> Problem:
    return Problem(Part.HEAD, -1, "id", words)


def _told(problem: Problem) -> dict[str, Any]:
    return {"part": str(problem.part), "row": problem.row, "column": problem.column, "words": problem.words}


def _tried(request: Request, session: Any, profile: Profile, station: int) -> dict[str, Any]:
    """What the family makes of a station's plan."""
    work = load_work(session, station, units_of(request))
    if work.plan is None or work.kind.keypad is None:
        return {"work": work, "why": "This station has no plan yet."}
    if profile.family not in work.kind.keypad.families:
        return {"work": work, "why": f"A station of this kind has no controller of family {profile.family!r}; accepted: {', '.join(work.kind.keypad.families)}."}
    carried = work.carried_by(profile)
    if carried is None:
        return {"work": work, "why": "This station works without a sheet."}
    sheet, held = carried
    return {"work": work, "why": "", "sheet": sheet, "matters": matters(stands_of(sheet, {}, {}, {}), held.uncarried, work.plan)}


def _editor(request: Request, session: Any, tables: Tables, base: int, shown: int | None = None) -> Response:
    """The page: the tables as they are now, and what each column takes."""
    _, problems = profile_of(tables)
    view = {
        "tables": tables.plain(), "base": base, "shown": base if shown is None else shown, "revisions": families.revisions(session, tables.head.get("id", ""))[:30],
        "columns": {"head": HEAD, "parameters": PARAMETER, "terminals": TERMINALS}, "choices": {name: list(map(str, words)) for name, words in CHOICES.items()},
        "meanings": sorted(known_meanings()), "wires": sorted(known_wires()), "problems": [_told(each) for each in problems],
        "stations": [(row.id, row.name) for row in records.stations(session) if row.removed_at is None][:200],
    }  # fmt: skip
    return page(request, "family.html", view)
