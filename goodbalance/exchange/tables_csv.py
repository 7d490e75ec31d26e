"""CSV from outside: trends of levels, and tables of level and volume. The formats are described in docs/formats.md."""

import csv
import io
import math
from dataclasses import dataclass
from datetime import datetime

from goodbalance.core.errors import BrokenFile

LARGEST_CSV_BYTES = 600_000
MOST_ROWS = 40_000
_TO_METRES = {"level_m": 1.0, "level_cm": 0.01, "level_mm": 0.001, "level_ft": 0.3048, "level_in": 0.0254}
_TO_CUBIC_METRES = {"volume_m3": 1.0, "volume_l": 0.001, "volume_gal": 0.003785411784}
_TO_SECONDS = {"time_s": 1.0, "time_min": 60.0, "time_h": 3600.0}


@dataclass(frozen=True, slots=True)
class LevelTrend:
    """A trend as read: times from the first row on, levels, one column of 0 and 1 per pump, time of day of the first row."""

    times_s: tuple[float, ...]
    levels_m: tuple[float, ...]
    pumps: tuple[tuple[float, ...], ...]
    clock_s: float


def csv_text(data: bytes) -> str:
    """The text of an uploaded CSV file. Raises BrokenFile for one too large or not in UTF-8."""
    if len(data) > LARGEST_CSV_BYTES:
        raise BrokenFile(f"the file holds {len(data)} bytes; accepted: up to {LARGEST_CSV_BYTES}")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as wrong:
        raise BrokenFile(f"the file is not text in UTF-8: {wrong.reason} at byte {wrong.start}") from wrong


def read_level_trend(text: str) -> LevelTrend:
    """Columns by name: a time (time_s, time_min, time_h or time as ISO 8601), a level, and pump_1 to pump_4 if recorded."""
    head, rows = _rows(text)
    time_at, level_at = _column(head, (*_TO_SECONDS, "time")), _column(head, _TO_METRES)
    pumps_at = [head.index(f"pump_{n}") for n in range(1, 5) if f"pump_{n}" in head]
    stamped = head[time_at] == "time"
    first: datetime | None = None
    times, levels, pumps = [], [], [[] for _ in pumps_at]
    for line, row in rows:
        if stamped:
            stamp = _stamp(row[time_at], line)
            first = first or stamp
            try:
                times.append((stamp - first).total_seconds())
            except TypeError as wrong:
                raise BrokenFile(f"line {line}: some times have a zone and some have none") from wrong
        else:
            times.append(_number(row[time_at], line, head[time_at]) * _TO_SECONDS[head[time_at]])
        levels.append(_number(row[level_at], line, head[level_at]) * _TO_METRES[head[level_at]])
        for column, place in zip(pumps, pumps_at):
            column.append(_on_or_off(row[place], line, head[place]))
    for line, (earlier, later) in enumerate(zip(times, times[1:]), 3):
        if not later > earlier:
            raise BrokenFile(f"line {line}: the time does not go on from the line before")
    clock_s = 0.0 if first is None else first.hour * 3600.0 + first.minute * 60.0 + first.second
    begin = times[0]
    return LevelTrend(tuple(t - begin for t in times), tuple(levels), tuple(map(tuple, pumps)), clock_s)


def read_volume_table(text: str, most: int) -> tuple[tuple[float, float], ...]:
    """Level and volume in SI, rising. A longer table is thinned to `most` lines, those that bend most kept."""
    head, rows = _rows(text)
    level_at, volume_at = _column(head, _TO_METRES), _column(head, _TO_CUBIC_METRES)
    points = []
    for line, row in rows:
        level_m = _number(row[level_at], line, head[level_at]) * _TO_METRES[head[level_at]]
        volume_m3 = _number(row[volume_at], line, head[volume_at]) * _TO_CUBIC_METRES[head[volume_at]]
        if points and not (level_m > points[-1][0] and volume_m3 > points[-1][1]):
            raise BrokenFile(f"line {line}: level and volume must both rise from line to line")
        points.append((level_m, volume_m3))
    if len(points) < 2:
        raise BrokenFile(f"the table has {len(points)} lines; two or more are needed")
    return thinned(points, most)


def thinned(points: list[tuple[float, float]], most: int) -> tuple[tuple[float, float], ...]:
    """Keep the ends, then always the point that lies farthest from the straight line between its kept neighbours."""
    kept = {0, len(points) - 1}
    while len(kept) < min(most, len(points)):
        order = sorted(kept)
        off = [
            (abs(points[i][1] - _between(points[a], points[b], points[i][0])), i)
            for a, b in zip(order, order[1:])
            for i in range(a + 1, b)
        ]
        kept.add(max(off)[1])
    return tuple(points[index] for index in sorted(kept))


def _between(low: tuple[float, float], high: tuple[float, float], at: float) -> float:
    return low[1] + (high[1] - low[1]) * (at - low[0]) / (high[0] - low[0])


def _rows(text: str) -> tuple[list[str], list[tuple[int, list[str]]]]:
    """The header in small letters, and the rows with their line numbers."""
    first = text.split("\n", 1)[0]
    separator = ";" if first.count(";") > first.count(",") else "\t" if first.count("\t") > first.count(",") else ","
    try:
        lines = list(csv.reader(io.StringIO(text), delimiter=separator))
    except csv.Error as wrong:
        raise BrokenFile(f"the file is not CSV: {wrong}") from wrong
    if not lines or not any(cell.strip() for cell in lines[0]):
        raise BrokenFile("the file is empty; its first line names the columns")
    head = [cell.strip().lower() for cell in lines[0]]
    rows = [(number, row) for number, row in enumerate(lines[1:], 2) if any(cell.strip() for cell in row)]
    if len(rows) > MOST_ROWS:
        raise BrokenFile(f"the file has {len(rows)} rows; accepted: up to {MOST_ROWS}")
    for number, row in rows:
        if len(row) < len(head):
            raise BrokenFile(f"line {number} has {len(row)} cells, the first line names {len(head)}")
    return head, rows


def _column(head: list[str], names: object) -> int:
    known = tuple(names)  # type: ignore[call-overload]
    found = [index for index, name in enumerate(head) if name in known]
    if len(found) != 1:
        raise BrokenFile(f"the first line names {len(found)} columns of {', '.join(known)}; accepted: exactly one")
    return found[0]


def _number(cell: str, line: int, name: str) -> float:
    try:
        value = float(cell.strip().replace(",", "."))
    except ValueError:
        value = math.nan
    if not math.isfinite(value) or abs(value) > 1e9:
        raise BrokenFile(f"line {line}, {name}: {cell.strip()[:40]!r} is not a number")
    return value


def _on_or_off(cell: str, line: int, name: str) -> float:
    states = {"0": 0.0, "1": 1.0, "off": 0.0, "on": 1.0, "0.0": 0.0, "1.0": 1.0}
    state = states.get(cell.strip().lower())
    if state is None:
        raise BrokenFile(f"line {line}, {name}: {cell.strip()[:40]!r}; accepted: 0 or 1")
    return state


def _stamp(cell: str, line: int) -> datetime:
    try:
        return datetime.fromisoformat(cell.strip())
    except ValueError as wrong:
        raise BrokenFile(
            f"line {line}, time: {cell.strip()[:40]!r} is not a date and time as in 2026-11-25T06:30:00"
        ) from wrong
