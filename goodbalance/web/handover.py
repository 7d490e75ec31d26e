"""Hand over: as-found to as-left with reasons, proofs, open points, the signature, the card, the files."""

import csv
import io
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, HTTPException, Request, Response
from fastapi.responses import RedirectResponse
from markupsafe import Markup
from sqlalchemy.orm import Session

from goodbalance.core.protection.readings import WORDS, unbalance
from goodbalance.core.record.chain import Entry, Kind
from goodbalance.core.record.history import History
from goodbalance.core.sheets.devices import Match, Source, found_of
from goodbalance.core.sheets.wiring import Phase
from goodbalance.exchange.papers import qr_svg
from goodbalance.exchange.station_file import file_stem, write_station
from goodbalance.store import records, shares
from goodbalance.store.deeds import Deed
from goodbalance.store.records import Draft
from goodbalance.web.door import not_them
from goodbalance.web.energising import energised
from goodbalance.web.guards import SessionDep, WriterDep, not_forged, noted
from goodbalance.web.kinds.pages import pages_of
from goodbalance.web.loading import WorkDep, load_work
from goodbalance.web.motors import readings_of
from goodbalance.web.pictures import picture_of
from goodbalance.web.prove import METHODS, seen_words
from goodbalance.web.reckon import plan_view
from goodbalance.web.record_words import Words
from goodbalance.web.rendering import VIEWS, moment, page, units_of
from goodbalance.web.scaling import checks
from goodbalance.web.work import Work


class Moved(Exception):
    """Somebody has written since the record was seen."""


router = APIRouter()
_COLUMNS = (
    "setting", "label", "quantity", "as_found", "as_left", "planned", "lowest", "highest", "lower_cause", "upper_cause", "set_by",
    "known_by",
)  # fmt: skip
Text = Annotated[str, Form()]
BACK = (*(view for view, _ in VIEWS), "wiring")  # pages on which is noted what was put in for the work, and that it is out


@router.get("/stations/{station_id}/handover", name="show_handover")
def show_handover(request: Request, session: SessionDep, work: WorkDep, at: int | None = None) -> Response:
    frozen = at is not None and at != work.history.seq
    shown = load_work(session, work.row.id, units_of(request), at) if frozen else work
    return page(
        request, "handover.html", {**_view(shown), "work": work, "shown": shown, "frozen": at if frozen else None, "shares": shares.of_station(session, work.row.id)}
    )


@router.get("/stations/{station_id}/card", name="show_card")
def show_card(request: Request, work: WorkDep) -> Response:
    """The card for the panel door: as the devices stand, its drawing too."""
    more = _view(work)
    if work.plan is not None:
        more["picture"] = picture_of(work, *work.as_it_stands())
    address = str(request.url_for("short", station_id=work.row.id))
    return page(request, "card.html", {**more, "work": work, "shown": work, "address": address, "code": Markup(qr_svg(address))})


@router.post("/stations/{station_id}/sign", name="sign", dependencies=[Depends(not_forged)])
def sign(
    request: Request, session: SessionDep, person: WriterDep, work: WorkDep, name: Text, role: Text, save_key: Text, seen: Text, password: Text = ""
) -> Response:
    """Sign the record as it was seen, with one's password. If it has moved since, nothing is signed and what changed is shown."""
    name, role = " ".join(name.split()), " ".join(role.split())
    problem = ""
    if work.plan is None:
        problem = "There is no plan to sign yet: complete the survey first."
    elif not 1 <= len(name) <= 80 or not 1 <= len(role) <= 80:
        problem = "Name and role are needed, each 1 to 80 letters."
    elif work.wire_faults:
        problem = f"A wiring fault stands: {work.wire_faults[0].words}. Mend it and look again, or say in the wiring walk why it may stay; then sign."
    elif work.unsettled:
        problem = (
            f"{len(work.unsettled)} between plan and devices not settled: {work.unsettled[0].words} Mend what differs, or say in "
            "Enter why it may stay; then sign."
        )  # fmt: skip
    else:
        problem = not_them(request, session, person, password)
    if problem:
        typed = {"name": name[:80], "role": role[:80]}
        more = {"work": work, "shown": work, "frozen": None, "sign_problem": problem, "typed": typed}
        return page(request, "handover.html", {**_view(work), **more}, 422)
    body = {"name": name, "role": role, "statement": statement_of(work)}

    draft = Draft(Kind.SIGNATURE, body, save_key, typed=[name, role, seen])

    def signature(history: History) -> list[Draft]:
        stands = history.last is not None and history.last.hash == seen
        if not stands and records.kept(session, work.row.id, person.name, draft) is None:
            raise Moved
        return [draft]

    try:
        (signed,) = records.keep(session, work.row.id, person.name, signature, work.history)
    except Moved:
        session.rollback()
        now = load_work(session, work.row.id, units_of(request))
        more = {"work": now, "shown": now, "frozen": None, "since": _since(session, now, seen), "typed": {"name": name, "role": role}}
        return page(request, "handover.html", {**_view(now), **more}, 409)
    if not signed.repeated:
        noted(request, session, Deed.RECORD_SIGNED, f"{work.history.name}, entry {signed.entry.seq}")
        session.commit()
    return RedirectResponse(request.url_for("show_handover", station_id=work.row.id), status_code=303)


@router.post("/stations/{station_id}/open-points", name="add_open_point", dependencies=[Depends(not_forged)])
def add_open_point(
    request: Request, session: SessionDep, person: WriterDep, work: WorkDep, text: Text, save_key: Text, temporary: Text = "", back: Text = "handover"
) -> Response:
    """Something left behind, or with `temporary` something put in for the work. back: the view to go on with."""
    text = text.strip()
    if not 1 <= len(text) <= 1000:
        raise HTTPException(422, f"The open point is {len(text)} letters long; accepted: 1 to 1000.")
    if temporary not in ("", "jumper", "setting", "other") or back not in BACK:
        raise HTTPException(422, f"temporary is {temporary[:20]!r}, back {back[:20]!r}; accepted: jumper, setting, other, or none; {', '.join(BACK)}.")
    body = {"text": text, **({"temporary": temporary} if temporary else {})}
    records.keep(session, work.row.id, person.name, [Draft(Kind.OPEN_POINT, body, save_key)])
    return RedirectResponse(request.url_for(f"show_{back}", station_id=work.row.id), status_code=303)


@router.post("/stations/{station_id}/open-points/{point}", name="close_open_point", dependencies=[Depends(not_forged)])
def close_open_point(
    request: Request, session: SessionDep, person: WriterDep, work: WorkDep, point: int, how: Text, save_key: Text, back: Text = "handover"
) -> Response:
    how = how.strip()
    if back not in BACK:
        raise HTTPException(422, f"back is {back[:20]!r}; accepted: {', '.join(BACK)}.")
    if not 1 <= len(how) <= 1000:
        raise HTTPException(422, "Say how the point was closed, 1 to 1000 letters.")
    draft = Draft(Kind.POINT_CLOSED, {"point": point, "how": how}, save_key)

    def close(history: History) -> list[Draft]:
        """Once: whoever comes second reads what the first wrote beside what they typed."""
        if point not in history.open_points:
            raise HTTPException(404, f"There is no open point number {point} at this station.")
        closed = history.closed_points.get(point)
        if closed is not None and records.kept(session, work.row.id, person.name, draft) is None:
            raise HTTPException(409, f"{closed.author} has closed this point meanwhile: \u201c{closed.text}\u201d. You wrote: \u201c{how}\u201d. If both count, add yours as a new point.")
        return [draft]

    records.keep(session, work.row.id, person.name, close, work.history)
    return RedirectResponse(request.url_for(f"show_{back}", station_id=work.row.id), status_code=303)


@router.get("/stations/{station_id}/station.json", name="export_station")
def export_station(request: Request, session: SessionDep, work: WorkDep) -> Response:
    noted(request, session, Deed.STATION_TAKEN_OUT, work.history.name)
    session.commit()
    text = write_station(records.entries(session, work.row.id))
    return Response(text, media_type="application/json", headers=_attached(work, "station.json"))


@router.get("/stations/{station_id}/settings.csv", name="export_settings")
def export_settings(request: Request, session: SessionDep, work: WorkDep) -> Response:
    """Settings in SI, one a line, as found, as left where somebody looked, as planned, with window and causes; then the entries."""
    if work.plan is None:
        raise HTTPException(409, "There is no plan yet: complete the survey first.")
    noted(request, session, Deed.SETTINGS_TAKEN_OUT, work.history.name)
    session.commit()
    out = io.StringIO()
    rows = csv.writer(out)
    rows.writerow(_COLUMNS)
    left, found = as_left(work), as_found(work)
    for setting in work.plan.settings:
        window, stands = setting.window, left[setting.id]
        numbers = (found[setting.id], stands.value, setting.value, window.low, window.high)
        by = "tool" if setting.chosen is None else "person"
        rows.writerow(
            [
                setting.id, setting.label, setting.quantity.value, *("" if value is None else f"{value:.4f}" for value in numbers),
                window.governing_lower.cause, window.governing_upper.cause, by, stands.words,
            ]
        )  # fmt: skip
    if work.sheet is not None:
        rows.writerow([])
        rows.writerow(["code", "parameter", "planned", "unit", "as_found", "read_back", "match", "known_by"])
        for stand in work.comparisons:
            row, known = stand.row, stand.noted.source.value if stand.noted is not None else "nobody looked"
            shown = [_plain(stand.before), _plain(stand.typed), stand.match.value, known]
            rows.writerow([row.parameter.code, row.parameter.name, row.shows, row.unit, *shown])
    return Response(out.getvalue(), media_type="text/csv; charset=utf-8", headers=_attached(work, "settings.csv"))


@dataclass(frozen=True, slots=True)
class Left:
    """How a setting was left, in SI: value is None where nobody read it back. words: how it is known; by: who says so."""

    value: float | None
    words: str
    by: str = ""
    differs: bool = False


def as_found(work: Work) -> dict[str, float | None]:
    """Every setting as it stood before the work, in SI: as a device showed it, else as the survey says; None where nobody noted it."""
    if work.plan is None:
        return {}
    shown = found_of(work.stands)
    return {s.id: shown.get(s.id, work.kind.as_found(work.survey, s.id)) for s in work.plan.settings}


def as_left(work: Work) -> dict[str, Left]:
    """Every setting of the plan as it was read back, never as it was planned."""
    if work.plan is None:
        return {}
    if work.kind.keypad is None:
        return {s.id: Left(s.value, "set by hand, as planned") for s in work.plan.settings}
    device, found = work.device, {s.id: Left(None, work.kind.recorded.get(s.group, "not carried by any device")) for s in work.plan.settings}
    for stand in work.stands:
        setting_id = stand.row.setting
        if setting_id not in found or (found[setting_id].value is not None and found[setting_id].differs):
            continue
        value = device.settings.get(setting_id) if device is not None and stand.noted is not None else None
        if stand.noted is None or value is None:
            found[setting_id] = Left(None, "not read back") if found[setting_id].value is None else found[setting_id]
        elif stand.noted.source is Source.READ_BACK:
            found[setting_id] = Left(value, stand.noted.source.value, f"{stand.noted.author}, {moment(stand.noted.at)}", stand.match is Match.DIFFERS)
        elif found[setting_id].value is None:
            found[setting_id] = Left(None, f"not read back, {stand.noted.source.value} {stand.noted.text}")
    return found


def statement_of(work: Work) -> str:
    """What a signature says: counted, so that nothing is signed as done that was not."""
    same = sum(stand.match is Match.SAME for stand in work.comparisons)
    settings = () if work.plan is None else work.plan.settings
    outside = [s.label for s in settings if not s.window.holds(s.value) or s.window.is_empty]
    settled = (*work.matters, *(work.wiring.faults if work.wiring is not None else ()))
    left_so = [matter.words for matter in settled if matter.about in work.history.waivers]
    declined = () if work.plan is None else work.plan.declined
    passed = sum(work.proof_state(proof)[0] == "passed" for proof in work.proofs)
    points = len(work.open_points)
    right, looks = work.walked
    walked = f" {right} of {looks} looks of the wiring walk made and right." if looks else ""
    return (
        f"As this record says: {same} of {len(work.comparisons)} numbers read back as they should stand, {passed} of "
        f"{len(work.proofs)} proofs passed on site, {points or 'no'} open point{'s' if points != 1 else ''}."
        + walked
        + (f" Left for later: {', '.join(work.left_for_later)}." if work.left_for_later else "")
        + (f" Outside its window: {', '.join(outside)}." if outside else "")
        + (f" Done without: {', '.join(setting.label for setting in declined)}." if declined else "")
        + (f" Left so by waiver: {' '.join(left_so)}" if left_so else "")
    )[:1000]


def _since(session: Session, work: Work, seen: str) -> list[Entry]:
    """What was written after the entry with that hash; all of the record where there is none."""
    entries = records.entries(session, work.row.id)
    place = next((number for number, entry in enumerate(entries) if entry.hash == seen), -1)
    return entries[place + 1 :]


def _plain(text: str) -> str:
    """Typed text that a spreadsheet will not take for a formula."""
    return "'" + text if text.lstrip("\r\n ")[:1] in ("=", "+", "-", "@", "\t") or text[:1] == "\r" else text


def _attached(work: Work, ending: str) -> dict[str, str]:
    return {"Content-Disposition": f'attachment; filename="{file_stem(work.history.name)}-{ending}"'}


def _view(work: Work) -> dict[str, Any]:
    more: dict[str, Any] = {"view": "handover", "typed": {}, "statement": statement_of(work), "methods": dict(METHODS)}
    if work.plan is None:
        return more
    proofs = [(proof, *work.proof_state(proof), work.history.tries(proof.id)) for proof in work.proofs]
    return {
        **more,
        **plan_view(work, work.plan, work.choices),
        "left_proofs": proofs,
        "as_left": as_left(work),
        "left_plan": work.plan if work.held is None else work.held.plan,  # figures and findings as the devices stand
        "scaling_checks": checks(work)[:1],
        "motor_readings": readings_of(work),
        "energised": energised(work),
        "at_words": WORDS,
        "uneven": unbalance,
        "walk": work.wiring,
        "phases": tuple(Phase),
        "photos": work.history.photos,
        "shows": Words(work).photo,
        **pages_of(work).handover(work),
        "as_found": as_found(work),
        "cautions": work.kind.cautions(work.survey, work.choices),
        "by_clock": work.kind.by_clock(work.survey, work.choices),
        "seen_words": lambda observed, proof: seen_words(observed, proof, work.units),
    }
