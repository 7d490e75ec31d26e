"""CSV from outside: trends of levels, tables of level and volume, pump curves, step tests. The formats are described in docs/formats.md."""

import csv
import io
import re
from dataclasses import dataclass
from datetime import datetime

from goodbalance.core.balance.asked_number import AskedNumber, has_own_unit
from goodbalance.core.balance.quantities import Quantity, UnitSystem, si_per
from goodbalance.core.errors import BrokenFile, OutOfRange

LARGEST_CSV_BYTES = 600_000
MOST_ROWS = 40_000


def _columns(quantity: str, si: str, **units: str) -> dict[str, float]:
    """What each heading of a quantity is worth in SI: flow_lps holds litres per second."""
    return {f"{quantity}_{written}": si_per(unit, si) for written, unit in units.items()}


_TO_METRES = _columns("level", "m", m="m", cm="cm", mm="mm", ft="foot", **{"in": "inch"})
_TO_CUBIC_METRES = _columns("volume", "m**3", m3="m**3", l="liter", gal="gallon")
_TO_SECONDS = _columns("time", "s", s="s", min="minute", h="hour")
_TO_FLOW = _columns("flow", "m**3/s", m3s="m**3/s", lps="l/s", m3h="m**3/hour", gpm="gallon/minute")
_TO_HEAD = _columns("head", "m", m="m", ft="foot")
_TO_NPSH = _columns("npsh", "m", m="m", ft="foot")
_TO_POWER = _columns("power", "W", w="W", kw="kW", hp="hp")
_TO_PRESSURE = _columns("pressure", "Pa", pa="Pa", kpa="kPa", bar="bar", psi="psi")
_FACTORS = _TO_METRES | _TO_CUBIC_METRES | _TO_SECONDS | _TO_FLOW | _TO_HEAD | _TO_NPSH | _TO_POWER | _TO_PRESSURE
_OF_HEADING = {
    "level": Quantity.LEVEL, "volume": Quantity.VOLUME, "time": Quantity.TIME, "flow": Quantity.FLOW, "head": Quantity.HEAD, "npsh": Quantity.HEAD, "power": Quantity.POWER, "pressure": Quantity.PRESSURE,
}  # fmt: skip
_TO_SPEED = {"speed_percent": 1.0, "speed_share": 100.0}
_WRITTEN = {"m³": "m3", "l/s": "lps", "m3/s": "m3s", "m³/s": "m3s", "m3/h": "m3h", "m³/h": "m3h", "gal/min": "gpm", "%": "percent", "sec": "s", "minutes": "min", "hours": "h"}
_STAMPS = ("date", "date and time", "datetime", "timestamp", "date/time")
_HEADING = re.compile(r"([a-z]+) *[\[( ] *([^\])]+?) *[\])]?")
_STATES = {"0": 0.0, "1": 1.0, "off": 0.0, "on": 1.0, "0.0": 0.0, "1.0": 1.0}
_DATES = ("%d.%m.%Y %H:%M:%S", "%d.%m.%Y %H:%M", "%Y/%m/%d %H:%M:%S", "%Y/%m/%d %H:%M")


@dataclass(frozen=True, slots=True)
class Trend:
    """A trend as read: times from the first row on, levels or pressures in SI, a column of 0 and 1 per pump, time of day of the first row."""

    times_s: tuple[float, ...]
    values: tuple[float, ...]
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


def read_level_trend(text: str) -> Trend:
    """A trend of levels in metres."""
    return _read_trend(text, _TO_METRES)


def read_pressure_trend(text: str) -> Trend:
    """A trend of pressures in pascal."""
    return _read_trend(text, _TO_PRESSURE)


def _read_trend(text: str, factors: dict[str, float]) -> Trend:
    """Columns by name: a time (time_s, time_min, time_h or time as ISO 8601), a value, and pump_1 to pump_5 if recorded."""
    head, rows = _rows(text)
    time_at, value_at = _column(head, (*_TO_SECONDS, "time")), _column(head, factors)
    pumps_at = [head.index(f"pump_{n}") for n in range(1, 6) if f"pump_{n}" in head]
    stamped = head[time_at] == "time"
    first: datetime | None = None
    times, values, pumps = [], [], [[] for _ in pumps_at]
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
        values.append(_number(row[value_at], line, head[value_at]) * factors[head[value_at]])
        for column, place in zip(pumps, pumps_at):
            column.append(_on_or_off(row[place], line, head[place]))
    for line, (earlier, later) in enumerate(zip(times, times[1:]), 3):
        if not later > earlier:
            raise BrokenFile(f"line {line}: the time does not go on from the line before")
    clock_s = 0.0 if first is None else first.hour * 3600.0 + first.minute * 60.0 + first.second
    if not times:
        raise BrokenFile("the file has no rows under its first line")
    begin = times[0]
    return Trend(tuple(t - begin for t in times), tuple(values), tuple(map(tuple, pumps)), clock_s)


def read_columns(text: str) -> tuple[tuple[str, ...], tuple[tuple[float, tuple[float, ...]], ...]]:
    """Every column of a trend as it stands, by name, beside the time [s]; those that are no numbers are left out."""
    head, rows = _rows(text)
    trend_at = _column(head, (*_TO_SECONDS, "time"))
    if head[trend_at] != "time_s":
        return (), ()
    names = [(name, place) for place, name in enumerate(head) if place != trend_at and all(_is_number(row[place]) for _, row in rows[:50])]
    found = [
        (_number(row[trend_at], line, "time_s"), tuple(_number(row[place], line, name) for name, place in names)) for line, row in rows
    ]
    return tuple(name for name, _ in names), tuple(found)


def _is_number(cell: str) -> bool:
    try:
        float(cell)
    except ValueError:
        return False
    return True


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


@dataclass(frozen=True, slots=True)
class CurveRow:
    """One point of a pump curve; NPSH and power where the file has them."""

    flow_m3s: float
    head_m: float
    npsh_m: float | None
    power_w: float | None


def read_pump_curve(text: str, most: int) -> tuple[CurveRow, ...]:
    """Flow and head, NPSH and power where there are, flows rising. Thinned to `most` points, those that bend most kept."""
    head, rows = _rows(text)
    flow_at, head_at = _column(head, _TO_FLOW), _column(head, _TO_HEAD)
    more = [(_column(head, names), names) if any(n in head for n in names) else None for names in (_TO_NPSH, _TO_POWER)]
    points = []
    for line, row in rows:
        flow = _number(row[flow_at], line, head[flow_at]) * _TO_FLOW[head[flow_at]]
        lift = _number(row[head_at], line, head[head_at]) * _TO_HEAD[head[head_at]]
        if points and not flow > points[-1].flow_m3s:
            raise BrokenFile(f"line {line}: the flow must rise from line to line")
        rest = [
            None
            if at is None or not row[at[0]].strip()
            else _number(row[at[0]], line, head[at[0]]) * at[1][head[at[0]]]
            for at in more
        ]
        points.append(CurveRow(flow, lift, *rest))
    if len(points) < 3:
        raise BrokenFile(f"the curve has {len(points)} points; three or more are needed")
    kept = {flow for flow, _ in thinned([(point.flow_m3s, point.head_m) for point in points], most)}
    return tuple(point for point in points if point.flow_m3s in kept)


@dataclass(frozen=True, slots=True)
class StepTrace:
    """A step test as read: times from the first row on, speed in % of full, pressure in Pa."""

    times_s: tuple[float, ...]
    speeds: tuple[float, ...]
    pressures_pa: tuple[float, ...]


def read_step_test(text: str, full_hz: float, full_rpm: float) -> StepTrace:
    """Time, speed (speed_percent, speed_share, speed_hz or speed_rpm) and pressure. full_hz, full_rpm stand for 100 %."""
    head, rows = _rows(text)
    speeds = {**_TO_SPEED, "speed_hz": 100.0 / full_hz, "speed_rpm": 100.0 / full_rpm}
    time_at, speed_at, pressure_at = _column(head, _TO_SECONDS), _column(head, speeds), _column(head, _TO_PRESSURE)
    found = []
    for line, row in rows:
        time_s = _number(row[time_at], line, head[time_at]) * _TO_SECONDS[head[time_at]]
        if found and not time_s > found[-1][0]:
            raise BrokenFile(f"line {line}: the time does not go on from the line before")
        speed = _number(row[speed_at], line, head[speed_at]) * speeds[head[speed_at]]
        found.append(
            (time_s, speed, _number(row[pressure_at], line, head[pressure_at]) * _TO_PRESSURE[head[pressure_at]])
        )
    if not found:
        raise BrokenFile("the file has no rows under its first line")
    begin = found[0][0]
    times, speed, pressure = zip(*((t - begin, s, p) for t, s, p in found))
    return StepTrace(times, speed, pressure)


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


def separated(text: str) -> list[list[str]]:
    """The cells of a file line by line, by a comma, a semicolon or a tab as its first line has them. Raises BrokenFile."""
    first = text.split("\n", 1)[0]
    separator = ";" if first.count(";") > first.count(",") else "\t" if first.count("\t") > first.count(",") else ","
    try:
        lines = list(csv.reader(io.StringIO(text), delimiter=separator))
    except csv.Error as wrong:
        raise BrokenFile(f"the file is not CSV: {wrong}") from wrong
    if not lines or not any(cell.strip() for cell in lines[0]):
        raise BrokenFile("the file is empty; its first line names the columns")
    return lines


def headings(text: str) -> list[str]:
    """What the first line names, under the names they have here. Raises BrokenFile."""
    return _under_our_names([cell.strip().lower() for cell in separated(text)[0]])


def _under_our_names(written: list[str]) -> list[str]:
    ours = {name.partition("_")[0] for name in written if "_" in name or name == "time"}  # of what the file has under our names
    return [name if _heading(name).partition("_")[0] in ours else _heading(name) for name in written]


def _rows(text: str) -> tuple[list[str], list[tuple[int, list[str]]]]:
    """The header in small letters, and the rows with their line numbers."""
    lines = separated(text)
    written = [cell.strip().lower() for cell in lines[0]]
    head = _under_our_names(written)
    rows = [(number, row) for number, row in enumerate(lines[1:], 2) if any(cell.strip() for cell in row)]
    if len(rows) > MOST_ROWS:
        raise BrokenFile(f"the file has {len(rows)} rows; accepted: up to {MOST_ROWS}")
    for number, row in rows:
        if len(row) < len(head):
            raise BrokenFile(f"line {number} has {len(row)} cells, the first line names {len(head)}")
    for place, name in enumerate(written):
        if name != head[place] and head[place].startswith("pump_") and any(row[place].strip().lower() not in _STATES for _, row in rows):
            head[place] = name  # amps or hours of a pump, not whether it runs
    return head, rows


def _heading(cell: str) -> str:
    """A heading as it is written elsewhere, under the name it has here: level (m), flow [l/s], pump 1, timestamp."""
    if cell in _STAMPS:
        return "time"
    found = _HEADING.fullmatch(cell) if len(cell) <= 40 else None
    return cell if found is None else f"{found[1]}_{_WRITTEN.get(found[2], found[2])}"


def _column(head: list[str], names: object) -> int:
    known = tuple(names)  # type: ignore[call-overload]
    found = [index for index, name in enumerate(head) if name in known]
    if len(found) != 1:
        raise BrokenFile(f"the first line names {len(found)} columns of {', '.join(known)}; accepted: exactly one")
    return found[0]


def _number(cell: str, line: int, name: str) -> float:
    try:
        if has_own_unit(cell) and name in _FACTORS:  # what is typed with a unit goes before the heading's
            return AskedNumber(label=f"line {line}, {name}", quantity=_OF_HEADING[name.partition("_")[0]], low=-1e9, high=1e9).read(cell, UnitSystem.METRIC) / _FACTORS[name]
        return AskedNumber(label=f"line {line}, {name}", low=-1e9, high=1e9).read(cell, UnitSystem.METRIC)
    except OutOfRange as wrong:
        raise BrokenFile(str(wrong)) from wrong


def _on_or_off(cell: str, line: int, name: str) -> float:
    state = _STATES.get(cell.strip().lower())
    if state is None:
        raise BrokenFile(f"line {line}, {name}: {cell.strip()[:40]!r}; accepted: 0 or 1")
    return state


def _stamp(cell: str, line: int) -> datetime:
    try:
        return datetime.fromisoformat(cell.strip())
    except ValueError:
        pass
    for form in _DATES:
        try:
            return datetime.strptime(cell.strip(), form)  # as in ISO, without a zone where the file has none
        except ValueError:
            continue
    raise BrokenFile(f"line {line}, time: {cell.strip()[:40]!r} is not a date and time as in 2026-11-25T06:30:00, 25.11.2026 06:30 or 2026/11/25 06:30")


def read_pairs(text: str) -> list[tuple[int, str, str]]:
    """Lines of a code and what its display showed, with a tab, a semicolon or a comma between; with the line's number.

    Empty lines are left out, and so is a heading "code". Raises BrokenFile naming the first line that holds no pair.
    """
    found = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        between = next((mark for mark in "\t;," if mark in line), None)
        if between is None:
            raise BrokenFile(f"line {number} is {line[:60]!r}; accepted: a code, then a tab, a semicolon or a comma, then what the display shows")
        code, shown = (cell.strip().strip('"').strip() for cell in line.split(between, 1))
        if between == "\t" or between == ";":
            shown = shown.split(between)[0].strip()
        if code.casefold() != "code":
            found.append((number, code, shown))
    return found
