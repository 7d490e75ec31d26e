"""Enter: the sheet for the keypad, one number at a time or all in a list, and the read-back."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.quantities import show
from goodbalance.core.record.chain import Kind
from goodbalance.core.sheets.read_back import Match
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.guards import FormDep, SessionDep, WriterDep, not_forged
from goodbalance.web.kinds.pages import pages_of
from goodbalance.web.loading import WorkDep, after_save
from goodbalance.web.reckon import choice_parts
from goodbalance.web.rendering import page
from goodbalance.web.survey import SaveKey, form_parts, shapes
from goodbalance.web.work import Work

router = APIRouter()


class ReadBackSave(BaseModel):
    model_config = ConfigDict(extra="forbid")
    save_key: SaveKey
    code: Annotated[str, Field(min_length=1, max_length=16)]
    typed: Annotated[str, Field(max_length=40)]


@router.get("/stations/{station_id}/enter", name="show_enter")
def show_enter(request: Request, work: WorkDep, one: int | None = None) -> Response:
    more: dict[str, Any] = {"work": work, "view": "enter", "keypad": _keypad_fields(work), "moved": _moved(work)}
    more |= {"beside": _beside(work), "unplaced": _unplaced(work), **pages_of(work).enter(work)}
    if work.sheet is not None and one is not None:
        count = len(work.comparisons)
        if not 1 <= one <= count:
            raise HTTPException(404, f"The sheet has {count} entries to make, there is no number {one}.")
        return page(request, "enter_one.html", {**more, "one": one, "count": count, "entry": work.comparisons[one - 1]})
    return page(request, "enter.html", more)


@router.post("/stations/{station_id}/read-back", name="save_read_back", dependencies=[Depends(not_forged)])
def save_read_back(
    request: Request, session: SessionDep, person: WriterDep, work: WorkDep, save: ReadBackSave
) -> Response:
    _append_read_back(session, work, person.name, save)
    after = after_save(request, session, work)
    match = next((c.match for c in after.comparisons if c.row.parameter.code == save.code), Match.NOT_READ)
    return JSONResponse({"seq": after.history.seq, "match": match.value, "progress": shapes(after)})


@router.post("/stations/{station_id}/read-back-form", name="save_read_back_form", dependencies=[Depends(not_forged)])
def save_read_back_form(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """One read-back from the one-at-a-time page, then on to the next."""
    save = ReadBackSave(save_key=str(form.get("save_key")), code=str(form.get("code")), typed=str(form.get("typed")))
    _append_read_back(session, work, person.name, save)
    after = after_save(request, session, work)
    codes = [comparison.row.parameter.code for comparison in after.comparisons]
    here = codes.index(save.code) + 1
    same = after.comparisons[here - 1].match is Match.SAME
    url = request.url_for("show_enter", station_id=work.row.id)
    following = here + 1 if same else here
    return RedirectResponse(f"{url}?one={following}" if following <= len(codes) else str(url), status_code=303)


@router.post("/stations/{station_id}/stored", name="save_stored", dependencies=[Depends(not_forged)])
def save_stored(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """The person confirms that the controller has stored its settings."""
    if work.sheet is None:
        raise HTTPException(409, "There is no entry sheet yet.")
    body = {"shown": work.profile.save_shows}
    key = str(form.get("save_key", "")) or None
    records.keep(session, work.row.id, person.name, [Draft(Kind.STORED, body, key)])
    return RedirectResponse(request.url_for("show_enter", station_id=work.row.id), status_code=303)


def _append_read_back(session: Any, work: Work, author: str, save: ReadBackSave) -> None:
    if work.sheet is None:
        raise HTTPException(409, "There is no entry sheet yet: complete the survey and open every window first.")
    if all(row.parameter.code != save.code for row in work.sheet.changes):
        raise HTTPException(422, f"code is {save.code!r}; the sheet has no such entry to make.")
    body = {"code": save.code, "typed": save.typed}
    records.keep(session, work.row.id, author, [Draft(Kind.READ_BACK, body, save.save_key)])


def _keypad_fields(work: Work) -> list[dict[str, Any]]:
    return next((group["fields"] for group in choice_parts(work) if group["id"] == "keypad"), [])


def _beside(work: Work) -> dict[str, Any] | None:
    """The part of the survey that is asked beside the sheet, with what does not fit together in it."""
    name = work.kind.keypad.section if work.kind.keypad is not None else ""
    part = next((part for part in form_parts(work) if part["id"] == name and part["asked"]), None)
    if part is None:
        return None
    told = [f.worded(work.units) for f in work.findings if f.subject.startswith(f"{name}.")]
    return {**part, "fields": [field for field in part["fields"] if field["asked"]], "told": told}


def _unplaced(work: Work) -> list[str]:
    """Settings that none of these devices has a place for, with their values."""
    if work.sheet is None or work.plan is None:
        return []
    settings = (work.plan.setting(setting_id) for setting_id in work.sheet.unplaced)
    return [f"{setting.label}: {show(setting.value, setting.quantity, work.units)}" for setting in settings]


def _moved(work: Work) -> list[dict[str, Any]]:
    """Settings that rounding to the keypad's step has moved, and whether each is still inside its window."""
    if work.plan is None or work.rechecked is None:
        return []
    found = []
    for before, after in zip(work.plan.settings, work.rechecked.settings):
        if abs(before.value - after.value) > 1e-6 or not after.window.holds(after.value):
            values = [show(value, before.quantity, work.units, 1) for value in (before.value, after.value)]
            if values[0] == values[1] and after.window.holds(after.value):
                continue
            outside = not after.window.holds(after.value)
            where = "now OUTSIDE its window" if outside else "still inside its window"
            words = f"{after.label}: {values[0]} becomes {values[1]} at the keypad, {where}."
            found.append({"words": words, "outside": outside})
    return found
