"""Files from elsewhere under headings of their own: what each column is, told once by a person, and the file as it reads under our headings."""

import csv
import hashlib
import io
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date, datetime, time

from goodbalance.core.errors import BrokenFile
from goodbalance.exchange.tables_csv import MOST_ROWS, headings, separated

SHOWN_ROWS, MOST_COLUMNS = 4, 60
DAY_FIRST = ("%d.%m.%Y", "%d/%m/%Y", "%d-%m-%Y", "%d.%m.%y", "%d/%m/%y")
MONTH_FIRST = ("%m/%d/%Y", "%m-%d-%Y", "%m.%d.%Y", "%m/%d/%y")
YEAR_FIRST = ("%Y-%m-%d", "%Y/%m/%d", "%Y.%m.%d", "%Y%m%d")
CLOCKS = ("%H:%M:%S", "%H:%M", "%H:%M:%S.%f", "%I:%M:%S %p", "%I:%M %p", "%H.%M", "%H.%M.%S")
STAMPED, STAMPED_MDY, DATED, DATED_MDY, CLOCK = "stamped", "stamped_mdy", "dated", "dated_mdy", "clock"
_DATES = {STAMPED: DAY_FIRST, STAMPED_MDY: MONTH_FIRST, DATED: DAY_FIRST, DATED_MDY: MONTH_FIRST}


@dataclass(frozen=True, slots=True)
class Column:
    """Something a file must or may bring: our headings for it with what each means, of which one is chosen."""

    label: str
    headings: tuple[tuple[str, str], ...]
    needed: bool = True


def _units(quantity: str, said: str, **units: str) -> Column:
    return Column(said, tuple((f"{quantity}_{name}", f"{said}, {words}") for name, words in units.items()))


_SECONDS = (("time_s", "Time, seconds"), ("time_min", "Time, minutes"), ("time_h", "Time, hours"))
TIME = Column("Time", _SECONDS)
MOMENT = Column(
    "Time",
    (
        *_SECONDS, (STAMPED, "Date and time, day first or year first"), (STAMPED_MDY, "Date and time, month first"),
        (DATED, "Date alone, day first or year first"), (DATED_MDY, "Date alone, month first"),
    ),
)  # fmt: skip
TIME_OF_DAY = Column("Time of day", ((CLOCK, "Time of day, beside a date"),), needed=False)
LEVEL = _units("level", "Level", m="metres", cm="centimetres", mm="millimetres", ft="feet", **{"in": "inches"})
VOLUME = _units("volume", "Volume", m3="m³", l="litres", gal="US gallons")
PRESSURE = _units("pressure", "Pressure", bar="bar", kpa="kPa", psi="psi", pa="Pa")
FLOW = _units("flow", "Flow", lps="l/s", m3h="m³/h", m3s="m³/s", gpm="US gal/min")
HEAD = _units("head", "Head", m="metres", ft="feet")
SPEED = Column("Speed", (("speed_percent", "Speed, %"), ("speed_share", "Speed, share of 1"), ("speed_hz", "Speed, Hz"), ("speed_rpm", "Speed, r/min")))
PUMPS = tuple(Column(f"Pump {number} runs", ((f"pump_{number}", f"Pump {number} runs, 0 or 1"),), needed=False) for number in range(1, 6))
NPSH = Column("NPSH", (("npsh_m", "NPSH, metres"), ("npsh_ft", "NPSH, feet")), needed=False)
POWER = Column("Power", (("power_kw", "Power, kW"), ("power_w", "Power, W"), ("power_hp", "Power, hp")), needed=False)

LEVEL_TREND = (MOMENT, TIME_OF_DAY, LEVEL, *PUMPS)
PRESSURE_TREND = (MOMENT, TIME_OF_DAY, PRESSURE, *PUMPS)
VOLUME_TABLE = (LEVEL, VOLUME)
PUMP_CURVE = (FLOW, HEAD, NPSH, POWER)
STEP_TEST = (TIME, SPEED, PRESSURE)
Columns = tuple[Column, ...]


def is_ours(text: str, columns: Columns) -> bool:
    """Whether the first line names each needed column once, under a heading that is known. Raises BrokenFile for no CSV."""
    written = headings(text)
    return all(sum(name in (*dict(column.headings), *(("time",) if column is MOMENT else ())) for name in written) == 1 for column in columns if column.needed)


def first_lines(text: str) -> tuple[list[str], list[list[str]]]:
    """The headings as they are written, and the first rows under them. Raises BrokenFile for too many columns."""
    lines = _lines(text)
    if len(lines[0]) > MOST_COLUMNS:
        raise BrokenFile(f"the first line names {len(lines[0])} columns; accepted: up to {MOST_COLUMNS}")
    return [cell.strip() for cell in lines[0]], [[cell.strip() for cell in row] for row in lines[1 : SHOWN_ROWS + 1]]


def signature(text: str, columns: Columns) -> str:
    """By which files with the same headings, wanted for the same, are known again."""
    written = [cell.strip().casefold() for cell in _lines(text)[0]]
    return hashlib.sha256("\n".join([*(column.label for column in columns), "", *written]).encode()).hexdigest()


def told_wrong(told: Mapping[int, str], columns: Columns, count: int) -> str:
    """What is wrong with what a person said of the columns, 0 for the first; nothing where all is well."""
    known = {heading: column for column in columns for heading, _ in column.headings}
    for place, heading in told.items():
        if heading not in known or not 0 <= place < count:
            return f"Column {place + 1} cannot be {heading[:20]!r}"
    for column in columns:
        here = [place for place, heading in told.items() if known[heading] is column]
        if len(here) > 1:
            return f"{column.label} stands in columns {' and '.join(str(place + 1) for place in sorted(here))}: one of them"
        if column.needed and not here:
            return f"No column is said to be: {column.label}"
    dated = any(heading in (DATED, DATED_MDY) for heading in told.values())
    if dated is not (CLOCK in told.values()) and any(column is TIME_OF_DAY for column in columns):
        return "A date alone needs a column with the time of day, and a time of day a date"
    return ""


def under_our_headings(text: str, told: Mapping[int, str]) -> str:
    """The file with the columns that were told and no other, under our headings, date and time joined. Raises BrokenFile naming the line."""
    lines, out = _lines(text), io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    clock_at = next((place for place, heading in told.items() if heading == CLOCK), None)
    kept = [(place, heading) for place, heading in sorted(told.items()) if heading != CLOCK]
    write.writerow(["time" if heading in _DATES else heading for _, heading in kept])
    if len(lines) > MOST_ROWS + 1:
        raise BrokenFile(f"the file has {len(lines) - 1} rows; accepted: up to {MOST_ROWS}")
    for number, row in enumerate(lines[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        if len(row) <= max(told):
            raise BrokenFile(f"line {number} has {len(row)} cells; column {max(told) + 1} is said to be of use")
        clock = "" if clock_at is None else row[clock_at]
        write.writerow([_moment(row[place], clock, _DATES[heading], number) if heading in _DATES else row[place].strip() for place, heading in kept])
    return out.getvalue()


def _moment(cell: str, clock: str, dates: Iterable[str], line: int) -> str:
    """A date and a time of day, in one cell or two, as in 2026-11-25T06:30:00."""
    whole = f"{cell.strip()} {clock.strip()}".strip()
    with_zone = _iso(whole)
    if with_zone is not None:
        return with_zone
    day, _, rest = whole.replace("T", " ", 1).partition(" ")
    on, at = _first(day, (*dates, *YEAR_FIRST)), _first(rest.strip().upper(), CLOCKS)
    if on is None or at is None:
        raise BrokenFile(f"line {line}: {whole[:40]!r} is no date and time in the order that was told")
    return datetime.combine(date(on.year, on.month, on.day), time(at.hour, at.minute, at.second, at.microsecond)).isoformat()


def _iso(whole: str) -> str | None:
    try:
        return datetime.fromisoformat(whole).isoformat()
    except ValueError:
        return None


def _first(text: str, forms: Iterable[str]) -> datetime | None:
    for form in forms:
        try:
            return datetime.strptime(text, form)
        except ValueError:
            continue
    return None


def _lines(text: str) -> list[list[str]]:
    return separated(text)
