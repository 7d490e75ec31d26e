"""Files under headings of their own: as they were told before, or a page on which a person says what each column is."""

from fastapi import FastAPI, Request, Response, UploadFile
from sqlalchemy.orm import Session

from goodbalance.core.errors import BrokenFile
from goodbalance.exchange.columns import Columns, first_lines, is_ours, signature, told_wrong, under_our_headings
from goodbalance.exchange.tables_csv import LARGEST_CSV_BYTES, csv_text
from goodbalance.store import columns as kept
from goodbalance.store.models import PersonRow
from goodbalance.web.rendering import page

TEXT, NAME, ANEW, KEEP, PLACE = "columns_text", "columns_name", "columns_anew", "columns_keep", "column."
NOT_SENT_ON = (TEXT, NAME, ANEW, KEEP, "csrf")


class UnknownColumns(Exception):
    """Nobody has said yet what the columns of a file are, or what was said does not do. form: what came with it."""

    def __init__(self, name: str, text: str, columns: Columns, form: dict[str, str], told: dict[int, str], wrong: str = "") -> None:
        super().__init__(wrong or "its columns are not known")
        self.name, self.text, self.columns, self.form, self.told, self.wrong = name, text, columns, form, told, wrong


def sent_file(session: Session, person: PersonRow, form: dict[str, str], file: UploadFile | None, columns: Columns) -> tuple[str, str]:
    """The name and the text of a file that was sent, under our headings. Raises BrokenFile, and UnknownColumns where a person must say what they are."""
    if TEXT in form:
        return _told(session, person, form, columns)
    if file is None or not file.filename:
        raise BrokenFile("no file was chosen")
    name, text = file.filename[-120:], csv_text(file.file.read())
    if ANEW not in form and is_ours(text, columns):
        return name, text
    first_lines(text)
    told = kept.known(session, signature(text, columns))
    if told is None or ANEW in form:
        raise UnknownColumns(name, text, columns, form, told or {})
    try:
        return name, under_our_headings(text, told)
    except BrokenFile as wrong:
        raise UnknownColumns(name, text, columns, form, told, f"As told before: {wrong}.") from wrong


def _told(session: Session, person: PersonRow, form: dict[str, str], columns: Columns) -> tuple[str, str]:
    """What a person said on the page of columns, taken and kept."""
    name, text = form.get(NAME, "file.csv")[-120:], form[TEXT].replace("\r\n", "\n")
    if len(text.encode()) > LARGEST_CSV_BYTES:
        raise BrokenFile(f"the file holds more than {LARGEST_CSV_BYTES} bytes")
    places = (key.removeprefix(PLACE) for key, heading in form.items() if key.startswith(PLACE) and heading)
    told = {int(place): form[PLACE + place] for place in places if place.isascii() and place.isdecimal() and len(place) < 4}
    wrong = told_wrong(told, columns, len(first_lines(text)[0]))
    if wrong:
        raise UnknownColumns(name, text, columns, form, told, f"{wrong}.")
    try:
        renamed = under_our_headings(text, told)
    except BrokenFile as trouble:
        raise UnknownColumns(name, text, columns, form, told, f"{trouble}.") from trouble
    if KEEP in form:
        kept.keep(session, signature(text, columns), told, person.name)
    return name, renamed


def answer_for(app: FastAPI) -> None:
    """Where nobody knows what the columns are, a person is asked."""
    app.add_exception_handler(UnknownColumns, _ask)


async def _ask(request: Request, unknown: Exception) -> Response:
    assert isinstance(unknown, UnknownColumns)
    headings, rows = first_lines(unknown.text)
    sent = {key: value for key, value in unknown.form.items() if key not in NOT_SENT_ON and not key.startswith(PLACE)}
    shown = {
        "name": unknown.name, "text": unknown.text, "headings": headings, "rows": rows, "columns": unknown.columns, "told": unknown.told, "wrong": unknown.wrong,
        "sent": sent, "back": request.headers.get("referer", "/"),
    }  # fmt: skip
    return page(request, "columns.html", shown, status=422)
