"""Enter: the sheet for the keypad, one number at a time or all in a list, and the read-back."""

from collections.abc import Iterable
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, HTTPException, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse
from markupsafe import Markup
from pydantic import BaseModel, ConfigDict, Field

from goodbalance.core.balance.quantities import show
from goodbalance.core.errors import BrokenFile
from goodbalance.core.record.chain import Kind
from goodbalance.core.sheets.devices import Match, Stand
from goodbalance.core.sheets.differences import hint_of
from goodbalance.core.sheets.entry_sheet import Row, RowKind
from goodbalance.core.sheets.registers import register_map
from goodbalance.exchange.modbus import DeviceSilent, read_device
from goodbalance.exchange.tables_csv import read_pairs
from goodbalance.store import records
from goodbalance.store.records import Draft
from goodbalance.web.guards import FormDep, PersonDep, SessionDep, WriterDep, not_forged
from goodbalance.web.kinds.pages import pages_of
from goodbalance.web.loading import WorkDep, after_save
from goodbalance.web.reckon import choice_parts
from goodbalance.web.rendering import page, part, written
from goodbalance.web.survey import SaveKey, form_parts, shapes
from goodbalance.web.work import Work

router = APIRouter()


class ReadBackSave(BaseModel):
    """What a display shows: read back after typing, or, with `before`, as found before the work."""

    model_config = ConfigDict(extra="forbid")
    save_key: SaveKey
    code: Annotated[str, Field(min_length=1, max_length=16)]
    typed: Annotated[str, Field(max_length=40)]
    device: Annotated[str, Field(max_length=40)] = ""
    before: bool = False


@router.get("/stations/{station_id}/enter", name="show_enter")
def show_enter(request: Request, person: PersonDep, work: WorkDep, one: int | Literal["all"] | None = None, found: bool = False) -> Response:
    """The sheet. one: that number of it alone, or all of them for a page that turns its leaves itself. found: to note what stood there before the work."""
    more = _view(request, work, found, person.writes_devices)
    if work.sheet is not None and one is not None:
        count = len(work.comparisons)
        if one != "all" and not 1 <= one <= count:
            raise HTTPException(404, f"The sheet has {count} entries to make, there is no number {one}.")
        wanted = range(1, count + 1) if one == "all" else (one,)
        hint = lambda entry: hint_of(entry, work.stands) if entry.match is Match.DIFFERS else ""  # noqa: E731
        leaves = [(number, work.comparisons[number - 1], hint(work.comparisons[number - 1])) for number in wanted]
        return page(request, "enter_one.html", {**more, "leaves": leaves, "count": count})
    return page(request, "enter.html", more)


@router.post("/stations/{station_id}/read-back", name="save_read_back", dependencies=[Depends(not_forged)])
def save_read_back(
    request: Request, session: SessionDep, person: WriterDep, work: WorkDep, save: ReadBackSave
) -> Response:
    _append_read_back(session, work, person.name, save)
    after = after_save(request, session, work)
    stand = _stand(after, save)
    hint = hint_of(stand, after.stands) if stand.match is Match.DIFFERS else ""
    answer = {"seq": after.history.seq, "match": stand.match.value, "hint": hint, "progress": shapes(after)}
    return JSONResponse({**answer, "matters": part(request, "_matters.html", {"work": after})})


@router.post("/stations/{station_id}/read-back-form", name="save_read_back_form", dependencies=[Depends(not_forged)])
def save_read_back_form(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """One read-back from the one-at-a-time page, then on to the next."""
    save = ReadBackSave(
        save_key=str(form.get("save_key")), code=str(form.get("code")), typed=str(form.get("typed")), device=str(form.get("device", ""))
    )  # fmt: skip
    _append_read_back(session, work, person.name, save)
    after = after_save(request, session, work)
    codes = [comparison.row.parameter.code for comparison in after.comparisons]
    if save.code not in codes:
        raise HTTPException(422, f"code is {save.code!r}; the sheet has no such entry to make or to check.")
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


@router.post("/stations/{station_id}/read-all", name="read_all", dependencies=[Depends(not_forged)])
def read_all(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """Somebody looked at every number that is not read back yet, and all of them stood as listed."""
    kind = str(form.get("kind", ""))
    wanted = _not_read(work, RowKind(kind)) if kind in (RowKind.CHANGE, RowKind.CHECK) else []
    _known_first(wanted)
    if not wanted:
        raise HTTPException(422, f"kind is {kind[:20]!r}; accepted: change or check, where some are not read back yet.")
    key = str(form.get("save_key", ""))
    drafts = [
        Draft(Kind.READ_BACK, _body(stand.row, stand.row.shows), f"{key}-{stand.row.number}"[:60] if key else None)
        for stand in wanted
    ]
    records.keep(session, work.row.id, person.name, drafts)
    after_save(request, session, work)
    return RedirectResponse(request.url_for("show_enter", station_id=work.row.id), status_code=303)


@router.post("/stations/{station_id}/read-list", name="read_list", dependencies=[Depends(not_forged)])
def read_list(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """Many read-backs pasted as lines of code and number. Where one line is wrong nothing is written, and what was pasted stays."""
    text, before, key = str(form.get("listed", ""))[:20000], form.get("before") == "yes", str(form.get("save_key", ""))
    rows = {stand.row.parameter.code.casefold(): stand.row for stand in work.stands}
    unseen = {stand.row.parameter.code for stand in work.stands if stand.row.parameter.flips and not stand.before}
    problem, drafts = "", []
    try:
        for number, code, shown in read_pairs(text):
            row = rows.pop(code.casefold(), None)
            if row is not None and not before and row.parameter.code in unseen:
                raise BrokenFile(f"line {number} is {code[:20]!r}: it only flips; note first, as found, what it does now")
            if row is None or not 1 <= len(shown) <= 40:
                wrong = "the sheet has no such code, or it stood before" if row is None else "what the display shows is 1 to 40 letters long"
                raise BrokenFile(f"line {number} is {code[:20]!r}, {shown[:40]!r}: {wrong}")
            drafts.append(Draft(Kind.AS_FOUND if before else Kind.READ_BACK, _body(row, shown), f"{key}-{number}"[:60] if key else None))
    except BrokenFile as told:
        problem = f"Nothing was taken over: {told}."
    if not drafts and not problem:
        problem = "Nothing was taken over: there is no line in it."
    if problem:
        more = {**_view(request, work, before), "listed": {"text": text, "problem": problem}}
        return page(request, "enter.html", more, 422)
    records.keep(session, work.row.id, person.name, drafts)
    after_save(request, session, work)
    url = request.url_for("show_enter", station_id=work.row.id)
    return RedirectResponse(f"{url}?found=1" if before else str(url), status_code=303)


@router.post("/stations/{station_id}/read-device", name="read_from_device", dependencies=[Depends(not_forged)])
def read_from_device(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """Every number of the controller read over Modbus, from a device that whoever keeps the server has allowed. Only read."""
    name, key = str(form.get("from", "")), str(form.get("save_key", ""))
    at = request.app.state.devices.get(name)
    if at is None or work.sheet is None:
        raise HTTPException(422, f"from is {name[:60]!r}; accepted: {', '.join(request.app.state.devices) or 'nothing, no device is allowed here'}.")
    stands = {s.row.parameter.code: s for s in work.stands if s.row.device == work.sheet.profile.id}
    try:
        shown = read_device(at.host, at.port, register_map(stand.row for stand in stands.values()))
    except DeviceSilent as told:
        more = {**_view(request, work, False), "silent": f"{name} was not read: {told}. Nothing was noted."}
        return page(request, "enter.html", more, 502)
    drafts = [
        Draft(Kind.READ_BACK, {**_body(stands[code].row, text), "via": f"{name} ({at.host}:{at.port})"}, f"{key}-{number}"[:60] if key else None)
        for number, (code, text) in enumerate(shown.items())
        if text and (stands[code].row.kind is not RowKind.LEAVE or text != stands[code].row.default_shows)
    ]
    records.keep(session, work.row.id, person.name, drafts)
    after_save(request, session, work)
    return RedirectResponse(request.url_for("show_enter", station_id=work.row.id), status_code=303)


@router.post("/stations/{station_id}/reset", name="save_reset", dependencies=[Depends(not_forged)])
def save_reset(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """A device was set back to what it shows when new: only after what stood in it was noted, or with why it was not."""
    device, why = str(form.get("device", "")), str(form.get("why", "")).strip()
    theirs = [stand for stand in work.comparisons if stand.row.device == device]
    if not theirs:
        raise HTTPException(422, f"device is {device[:40]!r}; this sheet has no such device.")
    lacking = [stand.row.parameter.code for stand in theirs if not stand.before and stand.row.kind is not RowKind.REFUSED]
    if lacking and not 10 <= len(why) <= 500:
        raise HTTPException(
            422, f"Not noted as found: {', '.join(lacking[:6])}{' and others' if len(lacking) > 6 else ''}. A reset wipes them for ever: "
            "note them first, or say in 10 to 500 letters why there is nothing to note."
        )  # fmt: skip
    key = str(form.get("save_key", "")) or None
    records.keep(session, work.row.id, person.name, [Draft(Kind.RESET, {"device": device, "why": why}, key)])
    after_save(request, session, work)
    return RedirectResponse(request.url_for("show_enter", station_id=work.row.id), status_code=303)


@router.post("/stations/{station_id}/waivers", name="save_waiver", dependencies=[Depends(not_forged)])
def save_waiver(form: FormDep, request: Request, session: SessionDep, person: WriterDep, work: WorkDep) -> Response:
    """Something between plan and devices stays as it is, for a reason; or a waiver is taken back, with an empty one."""
    about, reason = str(form.get("about", "")), str(form.get("reason", "")).strip()
    known = (*work.matters, *(work.wiring.faults if work.wiring is not None else ()))
    matter = next((matter for matter in known if matter.about == about), None)
    if matter is None and about not in work.history.waivers:
        raise HTTPException(422, f"about is {about[:80]!r}; nothing of that name is to be settled now.")
    if reason and not 10 <= len(reason) <= 500:
        raise HTTPException(422, f"The reason is {len(reason)} letters long; accepted: 10 to 500.")
    if not reason and about not in work.history.waivers:
        raise HTTPException(422, "Say why it may stay as it is, in 10 to 500 letters.")
    body = {"about": about, "words": (matter.words if matter is not None else "")[:500], "reason": reason}
    records.keep(session, work.row.id, person.name, [Draft(Kind.WAIVER, body, str(form.get("save_key", "")) or None)])
    after_save(request, session, work)
    if form.get("back") == "wiring":
        return RedirectResponse(request.url_for("show_wiring", station_id=work.row.id), status_code=303)
    return RedirectResponse(f"{request.url_for('show_enter', station_id=work.row.id)}#matters", status_code=303)


def _append_read_back(session: Any, work: Work, author: str, save: ReadBackSave) -> None:
    if work.sheet is None:
        raise HTTPException(409, "There is no entry sheet yet: complete the survey first.")
    stand = _stand(work, save)
    row = stand.row
    if not save.before:
        _known_first([stand])
    body = _body(row, save.typed)
    draft = Draft(Kind.AS_FOUND if save.before else Kind.READ_BACK, body, save.save_key)
    records.keep(session, work.row.id, author, [draft])


def _known_first(stands: Iterable[Stand]) -> None:
    """What only flips is read back after somebody has noted how it stood: 422 where nobody has."""
    unknown = [stand.row.parameter.code for stand in stands if stand.row.parameter.flips and not stand.before]
    if unknown:
        raise HTTPException(422, f"{', '.join(unknown)}: it only flips, and nothing shows how it stands. Note first, as found, what it does now.")


def _not_read(work: Work, kind: RowKind) -> list[Stand]:
    """What is to be typed, or to be checked, and has not been read back yet."""
    return [stand for stand in work.comparisons if stand.row.kind is kind and stand.match is Match.NOT_READ]


def _stand(work: Work, save: ReadBackSave) -> Stand:
    """The row that a read-back speaks of; 422 where the sheet has none."""
    for stand in work.stands:
        if stand.row.parameter.code == save.code and save.device in ("", stand.row.device):
            return stand
    raise HTTPException(422, f"code is {save.code!r}; the sheet has no such entry.")


def _body(row: Row, shown: str) -> dict[str, str]:
    return {"code": row.parameter.code, "typed": shown, "device": row.device}


def _view(request: Request, work: Work, before: bool, writes: bool = False) -> dict[str, Any]:
    """What the sheet's page shows."""
    more: dict[str, Any] = {"work": work, "view": "enter", "keypad": _keypad_fields(work), "moved": _moved(work)}
    more["writable"] = [name for name, at in request.app.state.devices.items() if at.may_write] if writes else []

    def line(stand: Stand) -> Markup:
        row = stand.row
        hangs_on = (work.decided, row.device, row.parameter.code, row.number, before, stand.typed, stand.before, stand.match)
        return written(request, "_keypad_row.html", {"stand": stand, "before": before, "hand_notes": _hand_notes}, *hangs_on)

    more["to_type"] = [stand for stand in work.comparisons if stand.row.kind is not RowKind.CHECK]
    more["to_check"] = [stand for stand in work.comparisons if stand.row.kind is RowKind.CHECK]
    more["told"] = [stand for stand in work.stands if stand.row.kind is RowKind.READING]
    more["not_read"] = {kind.value: _not_read(work, kind) for kind in (RowKind.CHANGE, RowKind.CHECK)}
    return {**more, "before": before, "line": line, "hand_notes": _hand_notes, "beside": _beside(work), **pages_of(work).enter(work)}


def _hand_notes(stand: Stand) -> list[str]:
    """What the hand must know before it types: what opens the menu, and when it takes or acts."""
    parameter = stand.row.parameter
    if parameter.flips:
        if not stand.before:
            return ["It only flips, and nothing shows how it stands: see first what it does, and note that as found."]
        so = stand.before.strip().casefold() == stand.row.shows.casefold()
        return ["It stood so when found: leave it, a flip would turn it away." if so else "It stood the other way when found: flip it once, see what it does."]
    found = [f"It asks: {parameter.asks}"] if parameter.asks else []
    found += [f"Shown by lamps: so many of {parameter.lamps} are lit."] if parameter.lamps else []
    found += [f"Behind {parameter.access}."] if parameter.access else []
    found += ["Only while its pump stands: switch it to OFF first."] if parameter.only_stopped else []
    return found + (["Acts only after switching off and on."] if parameter.restart else [])


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
