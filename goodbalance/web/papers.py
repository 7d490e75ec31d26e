"""What is taken away from a station as a file: the record and the card as PDF, the entry sheet and all tables as XLSX."""

from collections.abc import Iterator

from fastapi import APIRouter, HTTPException, Request, Response
from fastapi.responses import RedirectResponse

from goodbalance.core.balance.proof import Answer
from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.balance.window import Window
from goodbalance.exchange.papers import Paper, PaperSection, PaperTable, pdf_of, xlsx_of
from goodbalance.exchange.station_file import file_stem
from goodbalance.store.deeds import Deed
from goodbalance.web.guards import SessionDep, noted
from goodbalance.web.handover import as_found, as_left
from goodbalance.web.loading import WorkDep
from goodbalance.web.prove import seen_words
from goodbalance.web.rendering import moment
from goodbalance.web.work import Work

router = APIRouter()
STATES = {"passed": "passed", "failed": "FAILED", "stale": "to repeat, what it proves changed", "held": "outputs held, contacts not proved", "bench": "bench only", "open": "not proved"}
KEY_SETTINGS = 8  # that a card's code says as text
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


@router.get("/stations/{station_id}/handover.pdf", name="handover_pdf")
def handover_pdf(request: Request, session: SessionDep, work: WorkDep) -> Response:
    """The record as it stands, as PDF."""
    return _file(request, session, work, "record.pdf", pdf_of(record_paper(work)))


@router.get("/stations/{station_id}/card.pdf", name="card_pdf")
def card_pdf(request: Request, session: SessionDep, work: WorkDep, code: str = "address") -> Response:
    """The card for the panel door, with a QR that opens the station or says its key settings as text."""
    if code not in ("address", "settings"):
        raise HTTPException(422, f"code is {code[:20]!r}; accepted: address, settings.")
    text = short_address(request, work) if code == "address" else settings_text(work)
    return _file(request, session, work, "card.pdf", pdf_of(card_paper(work, text)))


@router.get("/stations/{station_id}/tables.xlsx", name="tables_xlsx")
def tables_xlsx(request: Request, session: SessionDep, work: WorkDep) -> Response:
    """The entry sheet, the settings with their windows, what follows and the proofs, as one workbook."""
    sheets = [("Settings", _settings(work)), ("Entry sheet", _sheet(work)), ("What follows", _figures(work)), ("Proofs", _proofs(work))]
    return _file(request, session, work, "tables.xlsx", xlsx_of([(title, table) for title, table in sheets if table.rows]), XLSX)


@router.get("/s/{station_id}", name="short")
def short(request: Request, station_id: int) -> Response:
    """The short address that a card's code carries."""
    return RedirectResponse(request.url_for("show_station", station_id=station_id), status_code=303)


def short_address(request: Request, work: Work) -> str:
    """Where the station is, as short as it can be said."""
    return str(request.url_for("short", station_id=work.row.id))


def settings_text(work: Work) -> str:
    """The first settings as they were left, or as they are planned, for somebody without a network."""
    left = as_left(work)
    told = [f"{s.label}: {show(s.value if left[s.id].value is None else left[s.id].value, s.quantity, work.units, s.more_decimals)}" for s in work.plan.settings[:KEY_SETTINGS]]
    return "\n".join([work.history.name, *told, f"entry {work.history.seq}, {work.history.last.at[:10] if work.history.last else ''}"])


def record_paper(work: Work) -> Paper:
    """The handover as sections: settings, what follows, findings, proofs, keypad, open points, cautions, signature."""
    _needs_plan(work)
    return Paper(work.history.name, f"{work.history.place}. Commissioning record of a {work.kind.label[:1].lower()}{work.kind.label[1:]}", _foot(work), tuple(_sections(work)))


def card_paper(work: Work, code: str) -> Paper:
    """What hangs in the panel door."""
    _needs_plan(work)
    left = as_left(work)
    rows = tuple((s.label, _value(left[s.id].value if left[s.id].value is not None else s.value, s.quantity, work.units, s.more_decimals), "as left" if left[s.id].value is not None else f"planned, {left[s.id].words}") for s in work.plan.settings)
    sections = [PaperSection("Settings", (), PaperTable(("Setting", "Value", "Known"), rows, (3.0, 1.5, 2.5)))]
    clock = work.kind.by_clock(work.survey, work.choices)
    if clock:
        sections.append(PaperSection("By the clock", tuple(clock)))
    sections.append(PaperSection("Cautions", tuple(work.kind.cautions(work.survey, work.choices))))
    if work.plan.declined:
        sections.append(PaperSection("Not protected", (", ".join(setting.label for setting in work.plan.declined),)))
    if work.open_points or work.left_for_later:
        sections.append(PaperSection("Open", (*(point.text for _, point in work.open_points), *(f"Left for later: {one}" for one in work.left_for_later))))
    return Paper(work.history.name, work.history.place, _foot(work), tuple(sections), code)


def _needs_plan(work: Work) -> None:
    if work.plan is None:
        raise HTTPException(409, "There is no plan yet: complete the survey first.")


def _file(request: Request, session: SessionDep, work: Work, ending: str, data: bytes, media: str = "application/pdf") -> Response:
    noted(request, session, Deed.SETTINGS_TAKEN_OUT, f"{work.history.name}, {ending}")
    session.commit()
    return Response(data, media_type=media, headers={"Content-Disposition": f'attachment; filename="{file_stem(work.history.name)}-{ending}"'})


def _foot(work: Work) -> str:
    signed = work.history.signature
    who = f"Signed {signed.name}, {moment(signed.at)}" if signed is not None else "Not signed"
    return f"{who}. Entry {work.history.seq}, seal {work.history.last.hash[:16] if work.history.last else ''}. Local codes, the makers' manuals and licensed people come first."


def _sections(work: Work) -> Iterator[PaperSection]:
    yield PaperSection("Settings", (), _settings(work))
    yield PaperSection("What follows", (), _figures(work))
    left = work.plan if work.held is None else work.held.plan
    if left.findings:
        yield PaperSection("Findings", tuple(f"{finding.severity.value}: {finding.worded(work.units)}" for finding in left.findings))
    yield PaperSection("Proofs", (), _proofs(work))
    sheet = _sheet(work)
    if sheet.rows:
        yield PaperSection("At the keypad", (), sheet)
    clock = work.kind.by_clock(work.survey, work.choices)
    if clock:
        yield PaperSection("By the clock", tuple(clock))
    yield PaperSection("Open points", (*(point.text for _, point in work.open_points), *(f"Left for later: {one}" for one in work.left_for_later)) or ("None noted.",))
    yield PaperSection("Cautions", tuple(work.kind.cautions(work.survey, work.choices)))
    notes = work.kind.notes_as_found(work.survey)
    if notes:
        yield PaperSection("As found", tuple(notes.splitlines()))
    signed = work.history.signature
    if signed is not None:
        yield PaperSection("Signature", (f"{signed.name}, {signed.role}, {moment(signed.at)}. {signed.statement}",))


def _value(value: float | None, quantity: Quantity, units: UnitSystem, more: int = 0) -> str:
    return "not noted" if value is None else show(value, quantity, units, more)


def _within(window: Window, quantity: Quantity, units: UnitSystem) -> str:
    return "no room" if window.is_empty else f"{show(window.low, quantity, units)} to {show(window.high, quantity, units)}"


def _settings(work: Work) -> PaperTable:
    _needs_plan(work)
    left, found = as_left(work), as_found(work)
    rows = tuple(
        (
            s.label, _value(found[s.id], s.quantity, work.units, s.more_decimals), left[s.id].words if left[s.id].value is None else _value(left[s.id].value, s.quantity, work.units, s.more_decimals),
            show(s.value, s.quantity, work.units, s.more_decimals), _within(s.window, s.quantity, work.units), f"At least: {s.window.governing_lower.cause}. At most: {s.window.governing_upper.cause}.",
        )
        for s in work.plan.settings
    )  # fmt: skip
    return PaperTable(("Setting", "As found", "As left", "Planned", "Window", "Why"), rows, (2.2, 1.2, 1.5, 1.2, 1.9, 3.0))


def _figures(work: Work) -> PaperTable:
    plan = work.plan if work.held is None else work.held.plan
    rows = tuple((f.label, show(f.value, f.quantity, work.units), f.limit_worded(work.units) if f.limit else "", "" if f.keeps else "MISSED") for f in plan.figures)
    return PaperTable(("What follows", "Value", "Limit", ""), rows, (3.0, 1.2, 3.0, 0.8))


def _proofs(work: Work) -> PaperTable:
    rows = []
    for proof in work.proofs:
        state, last = work.proof_state(proof)
        expected = show(proof.expected, proof.quantity, work.units) if proof.answer is Answer.NUMBER else "in turn" if proof.answer is Answer.SEQUENCE else "yes"
        by = "" if last is None else f"{last.author}, {moment(last.at)}" + (f", with {last.instrument}" if last.instrument else "")
        rows.append((proof.title, expected, "" if last is None else seen_words(last, proof, work.units), STATES[state], by))
    return PaperTable(("Proof", "Expected", "Seen", "Verdict", "By"), tuple(rows), (3.0, 1.2, 1.2, 1.6, 2.4))


def _sheet(work: Work) -> PaperTable:
    rows = tuple(
        (stand.row.parameter.menu, stand.row.parameter.code, stand.row.parameter.name, f"{stand.row.shows} {stand.row.unit}".strip(), stand.before, stand.typed, stand.match.value.replace("_", " "))
        for stand in (work.comparisons if work.sheet is not None else ())
    )  # fmt: skip
    return PaperTable(("Menu", "Code", "Parameter", "Display shows", "As found", "Read back", "Match"), rows, (1.6, 1.0, 2.4, 1.4, 1.1, 1.1, 1.1))
