"""The station of a survey, drawn from what is known so far: each measurement a tag that leads to its field.

Made as SVG by the server, so that it stands there without a script too. Coordinates are those of a sheet WIDE by HIGH.
"""

from collections.abc import Collection, Mapping
from typing import Any

from markupsafe import Markup, escape

from goodbalance.core.balance.quantities import UnitSystem, display_unit, show_number

WIDE, HIGH = 400, 430
LINE = 19  # from one tag to the next below
Point = tuple[float, float]


class Sketch:
    """A drawing under way. values: what is known, SI by path; typed: what somebody has told; fields: the form's fields by path.

    What hangs on facts that nobody has told is drawn dotted, with `?` in its tag; what is only taken to be so, dashed.
    """

    def __init__(self, values: Mapping[str, Any], typed: Collection[str], fields: Mapping[str, dict[str, Any]], units: UnitSystem) -> None:
        self.values, self.typed, self.fields, self.units = values, typed, fields, units
        self.pieces: list[Markup] = []
        self._low_m, self._high_m, self._bottom, self._top = 0.0, 1.0, float(HIGH), 0.0

    def at(self, path: str, otherwise: float) -> float:
        """A number as told, else one to draw with."""
        value = self.values.get(path)
        return float(value) if isinstance(value, int | float) else otherwise

    def says(self, path: str, *answers: str) -> bool:
        """Whether a question has one of these answers."""
        return str(self.fields[path]["text"]).strip() in answers if path in self.fields else False

    def count(self, path: str, most: int) -> int:
        """How many there are, at least one and at most so many as the drawing has room for."""
        return max(1, min(most, int(self.at(path, 1))))

    def heights(self, low_m: float, high_m: float, bottom: float, top: float) -> None:
        """Which heights the sheet shows between which two of its lines."""
        self._low_m, self._high_m, self._bottom, self._top = low_m, max(high_m, low_m + 0.1), bottom, top

    def y(self, level_m: float) -> float:
        """Where a height stands; what is out of reach stands at the edge."""
        share = (level_m - self._low_m) / (self._high_m - self._low_m)
        return round(self._bottom + min(max(share, -0.02), 1.02) * (self._top - self._bottom), 1)

    def line(self, way: str, *told_by: str, name: str = "wall", part: str = "") -> None:
        """A line or an outline. told_by: the facts it hangs on. part: the section it belongs to."""
        self.pieces.append(Markup('<path class="{} {}" d="{}"{}/>').format(name, self._known(told_by), way, _of(part)))

    def water(self, x: float, wide: float, top: float, bottom: float) -> None:
        """Water between two heights of the sheet."""
        self.pieces.append(Markup('<rect class="wet" x="{}" y="{}" width="{}" height="{}"/>').format(x, top, wide, max(0.0, bottom - top)))

    def pump(self, x: float, y: float, word: str, part: str, *told_by: str, below: float = 0.0, beside: bool = False) -> None:
        """A pump; touched it leads to its section. Its word stands under it, at a height of its own, or beside it."""
        at = (x + 17, y + 4, "start") if beside else (x, below or y + 25, "middle")
        sign = Markup('<circle class="wall {}" cx="{}" cy="{}" r="13"/><path class="ink" d="M{} {}l9 -5v10z"/>').format(self._known(told_by), x, y, x - 4, y)
        self.place(part, at[0], at[1], sign, word, at[2])

    def place(self, part: str, x: float, y: float, sign: Markup, word: str, anchor: str = "middle") -> None:
        """A sign that leads to a section of the survey, with its word at x, y."""
        label = Markup('<text x="{}" y="{}" text-anchor="{}">{}</text>').format(x, y, anchor, word)
        self.pieces.append(Markup('<a href="#part-{}" class="place" data-place="{}" tabindex="-1">{}{}</a>').format(part, part, sign, label))

    def tag(self, path: str, word: str, x: float, y: float, measured: tuple[Point, Point] | None = None, anchor: str = "start") -> None:
        """A measurement, where its field is asked. measured: from where to where. anchor: which end of the tag stands at x."""
        field = self.fields.get(path)
        if field is None or not field["asked"]:
            return
        quantity = field["fact"].quantity
        unit = "" if quantity is None else display_unit(quantity, self.units).symbol
        told = str(field["text"]).strip()
        usual = field["fact"].typical if told.casefold().startswith("typical") else None
        if usual is not None and quantity is not None:
            told = show_number(usual.value, quantity, self.units)
        text = f"{word} ?" if not told or path not in self.values else f"{word} {told[:14]} {unit}".rstrip()
        wide = len(text) * 7.22 + 8.0
        left = x - wide + 8.0 if anchor == "end" else x
        arrow = Markup('<path class="dim" d="M{} {}L{} {}" marker-start="url(#sketch-end)" marker-end="url(#sketch-end)"/>').format(*measured[0], *measured[1]) if measured else ""  # fmt: skip
        self.pieces.append(
            Markup('<a href="#f-{}" class="tag {}" data-tag="{}" tabindex="-1"><title>{}</title>{}<rect class="touch" x="{}" y="{}" width="{}" height="18"/><text x="{}" y="{}" text-anchor="{}">{}</text></a>').format(
                path.replace(".", "-"), self._known((path,)), path, field["fact"].label, arrow, round(left - 4, 1), round(y - 13, 1), round(wide, 1), x, y, anchor, text
            )
        )  # fmt: skip

    def wanted(self, path: str) -> bool:
        """Whether a measurement has its place in the drawing: what is needed always, what may be left out once it is told."""
        field = self.fields.get(path)
        return field is not None and field["asked"] and (field["fact"].required or path in self.values)

    def ladder(self, marks: list[tuple[str, str, float]], x: float, edge: float, anchor: str = "start", foot: float | None = None) -> None:
        """Heights one above the other, each a tag with a line to where it stands: path, word, height. foot: from where they are measured."""
        shown = [mark for mark in marks if self.wanted(mark[0])]
        wanted = [self.y(level_m) for _, _, level_m in shown]
        order = sorted(range(len(shown)), key=lambda index: wanted[index])
        at, floor = [0.0] * len(shown), 12.0
        for index in order:
            floor = at[index] = max(wanted[index] + 4, floor)
            floor += LINE
        ceiling = HIGH - 6.0
        for index in reversed(order):
            ceiling = at[index] = min(at[index], ceiling)
            ceiling -= LINE
        for rank, index in enumerate(order):
            path, word, level_m = shown[index]
            side = -1 if anchor == "start" else 1
            dim_x = edge - side * (4 + 4 * (rank % 3))
            measured = ((dim_x, self.y(level_m)), (dim_x, foot)) if foot is not None else None
            self.pieces.append(Markup('<path class="lead" d="M{} {}L{} {}"/>').format(x + 5 * -side, at[index] - 4, edge, self.y(level_m)))
            self.tag(path, word, x, at[index], measured, anchor)

    def svg(self) -> Markup:
        """The whole drawing."""
        end = Markup('<defs><marker id="sketch-end" viewBox="-3 -4 6 8" markerWidth="6" markerHeight="8" orient="auto"><path d="M0 -4V4"/></marker></defs>')
        return Markup('<svg class="sketch" viewBox="0 0 {} {}" role="group" aria-label="The station as far as it is known">').format(WIDE, HIGH) + end + Markup("").join(self.pieces) + Markup("</svg>")

    def _known(self, paths: tuple[str, ...]) -> str:
        if any(path in self.fields and self.fields[path]["asked"] and path not in self.values for path in paths):
            return "is-unknown"
        usual = any(str(self.fields[path]["text"]).casefold().startswith("typical") for path in paths if path in self.fields)
        return "is-told" if not usual and all(path in self.typed or path not in self.fields for path in paths) else "is-taken"


def _of(part: str) -> Markup:
    return Markup(' data-of="{}"').format(escape(part)) if part else Markup("")
