"""Controller families as files: TOML whole, XLSX with a sheet for each table, CSV of the parameters."""

import csv
import io
import zipfile
from typing import Any

import tomli_w
from openpyxl import Workbook, load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from goodbalance.core.errors import BrokenFile
from goodbalance.core.sheets.profile import Profile
from goodbalance.exchange.family_tables import HEAD, MOST_ROWS, PARAMETER, TERMINALS, Tables, tables_of
from goodbalance.exchange.profiles import read_profile
from goodbalance.exchange.tables_csv import csv_text

FORMULA = ("=", "+", "@", "'")  # what a spreadsheet takes a text for that begins so: a ' before it keeps it a text
LARGEST_UNPACKED = 20_000_000
SHEETS = (("family", ("key", "value")), ("parameters", PARAMETER), ("terminals", TERMINALS))


def toml_of(profile: Profile) -> str:
    """The file of a family, as those that ship are written."""
    whole: dict[str, Any] = profile.model_dump(mode="json", exclude_defaults=True, exclude_none=True)
    first = {key: whole.pop(key) for key in list(whole) if key not in ("parameter", "terminals", "steps", "decimals")}
    rest = {key: whole[key] for key in ("steps", "decimals", "parameter", "terminals") if key in whole}
    return tomli_w.dumps({**first, **rest})


def csv_of(tables: Tables) -> str:
    """The parameters as CSV, as a spreadsheet takes them."""
    out = io.StringIO()
    writer = csv.DictWriter(out, PARAMETER, lineterminator="\n")
    writer.writeheader()
    writer.writerows(tables.parameters)
    return out.getvalue()


def xlsx_of(tables: Tables) -> bytes:
    """A workbook with a sheet for each table; every cell is text."""
    book = Workbook(write_only=True)
    listed = [[row.get(name, "") for name in PARAMETER] for row in tables.parameters], [[row.get(name, "") for name in TERMINALS] for row in tables.terminals]
    rows = ([[key, tables.head.get(key, "")] for key in HEAD], *listed)
    for (name, columns), filled in zip(SHEETS, rows):
        sheet = book.create_sheet(name)
        for row in ([list(columns)] + filled):
            sheet.append([f"'{cell}" if cell and cell[0] in FORMULA else cell for cell in row])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def read_family(name: str, data: bytes, before: Tables | None = None) -> Tables:
    """Tables from a file, by the ending of its name. before: whose head and terminals a CSV leaves as they are. Raises BrokenFile."""
    ending = name.rsplit(".", 1)[-1].lower()
    if ending == "toml":
        return tables_of(read_profile(csv_text(data)))
    if ending == "xlsx":
        return _from_xlsx(data)
    if ending in ("csv", "txt", "tsv"):
        before = before or Tables()
        return Tables(before.head, _rows(_csv(csv_text(data)), PARAMETER, "the first line"), before.terminals)
    raise BrokenFile(f"a file ending in {ending[:10]!r}; accepted: toml, xlsx, csv")


def _csv(text: str) -> list[list[str]]:
    first = text.split("\n", 1)[0]
    separator = max(",;\t", key=first.count)
    try:
        return list(csv.reader(io.StringIO(text), delimiter=separator))
    except csv.Error as wrong:
        raise BrokenFile(f"the file is not CSV: {wrong}") from wrong


def _from_xlsx(data: bytes) -> Tables:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            unpacked = sum(each.file_size for each in packed.infolist())
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True) if unpacked <= LARGEST_UNPACKED else None
    except (zipfile.BadZipFile, InvalidFileException, KeyError, ValueError, OSError, TypeError) as wrong:
        raise BrokenFile("the file is no workbook (XLSX) that can be read") from wrong
    if book is None:
        raise BrokenFile("the workbook is too large once unpacked")
    found: dict[str, tuple[dict[str, str], ...]] = {}
    head: dict[str, str] = {}
    for name, columns in SHEETS:
        if name not in book.sheetnames:
            if name == "parameters":
                raise BrokenFile(f"the workbook has no sheet {name!r}; its sheets: {', '.join(book.sheetnames)[:80]}")
            continue
        lines = [[_cell(cell) for cell in row] for row in book[name].iter_rows(max_row=MOST_ROWS + 2, max_col=len(columns) + 10, values_only=True)]
        if name == "family":
            head = {row[0]: row[1] for row in lines if len(row) > 1 and row[0] in HEAD}
        else:
            found[name] = _rows(lines, columns, f"the first row of sheet {name!r}")
    return Tables({key: head.get(key, "") for key in HEAD}, found.get("parameters", ()), found.get("terminals", ()))


def _cell(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    text = f"{value:.10g}" if isinstance(value, float) else str(value)
    return text[1:] if text[:1] == "'" and text[1:2] in FORMULA else text


def _rows(lines: list[list[str]], columns: tuple[str, ...], where: str) -> tuple[dict[str, str], ...]:
    """Rows by the names of their columns, in whatever order these stand; what no column is called is refused."""
    names = [cell.strip().lower() for cell in (lines[0] if lines else [])]
    while names and not names[-1]:
        names.pop()
    unknown = [name for name in names if name not in columns]
    if not names or unknown or len(set(names)) < len(names):
        told = f"names {unknown[0][:30]!r}" if unknown else "names no columns, or one of them twice"
        raise BrokenFile(f"{where} {told}; accepted: {', '.join(columns)}")
    filled = [row for row in lines[1:] if any(cell.strip() for cell in row)]
    if len(filled) > MOST_ROWS:
        raise BrokenFile(f"{len(filled)} rows; accepted: up to {MOST_ROWS}")
    return tuple({**dict.fromkeys(columns, ""), **dict(zip(names, (cell.strip() for cell in row)))} for row in filled)
