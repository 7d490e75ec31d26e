"""A controller family as tables of text: what is edited in the page, pasted from a spreadsheet, and kept as CSV or XLSX.

Every cell is text; an empty one means the default of its column. A family is a head (key to text), parameters and terminals.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from pydantic import ValidationError

from goodbalance.core.errors import BrokenFile
from goodbalance.core.sheets.profile import Convention, Display, KeypadUnit, Parameter, Profile
from goodbalance.core.sheets.terminals import Repeat, Terminals, Unused, repeat_of
from goodbalance.exchange.profiles import unknown_meaning

HEAD = (
    "id", "name", "family", "about", "relays", "drives", "pumps", "inputs", "displays", "save_action", "save_shows", "resets", "cautions", "wired", "habits", "formed", "low_word_first",
)  # fmt: skip
PARAMETER = (
    "code", "menu", "name", "meaning", "unit", "decimals", "low", "high", "default", "options", "convention", "base", "repeat", "access", "note",
    "read_only", "when", "at_least", "at_most", "only_stopped", "restart", "display_factor", "shown_unit", "shared", "asks", "lamps", "flips",
)  # fmt: skip
TERMINALS = ("labels", "name", "meaning", "cores", "unused", "repeat", "note")
CHOICES: dict[str, tuple[str, ...]] = {  # what a column accepts, where it is one of few
    "unit": tuple(KeypadUnit), "convention": ("", *Convention), "repeat": ("", *Repeat), "unused": ("", *Unused),
    **dict.fromkeys(("read_only", "only_stopped", "restart", "shared", "flips", "low_word_first"), ("", "yes", "no")),
}  # fmt: skip
_YES = ("read_only", "only_stopped", "restart", "shared", "flips")
_NUMBERS, _WHOLE = ("low", "high", "display_factor"), ("decimals", "lamps")
MOST_ROWS = 600


class Part(StrEnum):
    """The tables of a family."""

    HEAD = "head"
    PARAMETER = "parameter"
    TERMINALS = "terminals"


@dataclass(frozen=True, slots=True)
class Problem:
    """What is wrong: in which table, row (0 for the first; -1 where it is about no one row) and column."""

    part: Part
    row: int
    column: str
    words: str


@dataclass(frozen=True, slots=True)
class Tables:
    """A family as it is edited."""

    head: dict[str, str] = field(default_factory=dict)
    parameters: tuple[dict[str, str], ...] = ()
    terminals: tuple[dict[str, str], ...] = ()

    def plain(self) -> dict[str, Any]:
        """As JSON has it."""
        return {"head": self.head, "parameters": list(self.parameters), "terminals": list(self.terminals)}


def tables_of(profile: Profile) -> Tables:
    """A family as tables. The inverse of `profile_of`."""
    displays = "; ".join(f"{display.value} {step:g} {profile.decimals.get(display, 0)}" for display, step in profile.steps.items())
    head = {
        "id": profile.id, "name": profile.name, "family": profile.family, "about": profile.about, "relays": str(profile.relays),
        "drives": str(profile.drives), "pumps": str(profile.pumps), "inputs": str(profile.inputs), "displays": displays, "save_action": profile.save_action, "save_shows": profile.save_shows,
        "resets": profile.resets, "cautions": "\n".join(profile.cautions), "wired": ", ".join(profile.wired), "habits": ", ".join(f"{meaning} = {word}" for meaning, word in profile.habits.items()),
        "formed": ", ".join(f"{meaning} = {how.of} - {how.less:g}" for meaning, how in profile.formed.items()),
        "low_word_first": "yes" if profile.low_word_first else "",
    }  # fmt: skip
    return Tables(head, tuple(map(_row_of, profile.parameter)), tuple(map(_terminal_row, profile.terminals)))


def _row_of(p: Parameter) -> dict[str, str]:
    fresh = Parameter.model_fields
    default = "" if p.default is None else p.default if isinstance(p.default, str) else f"{p.default:g}"
    row = {
        "code": p.code, "menu": p.menu, "name": p.name, "meaning": p.meaning, "unit": p.unit.value, "default": default,
        "options": "; ".join(f"{ours} = {shown}" for ours, shown in p.options.items()),
        "convention": "" if p.convention is Convention.ABSOLUTE else p.convention.value, "base": p.base,
        "repeat": repeat_of(p) or "", "access": p.access, "note": p.note,
        "when": "; ".join(f"{code} = {shown}" for code, shown in p.when.items()), "at_least": p.at_least, "at_most": p.at_most,
        "shown_unit": p.shown_unit, "asks": p.asks, **{name: "yes" if getattr(p, name) else "" for name in _YES},
    }  # fmt: skip
    for name in (*_NUMBERS, *_WHOLE):
        value = getattr(p, name)
        row[name] = "" if value == fresh[name].default else f"{value:.10g}"
    return {name: row.get(name, "") for name in PARAMETER}


def _terminal_row(t: Terminals) -> dict[str, str]:
    return {
        "labels": ", ".join(t.labels), "name": t.name, "meaning": t.meaning, "cores": ", ".join(t.cores),
        "unused": "" if t.unused is Unused.EMPTY else t.unused.value, "repeat": repeat_of(t) or "", "note": t.note,
    }  # fmt: skip


def profile_of(tables: Tables) -> tuple[Profile | None, tuple[Problem, ...]]:
    """The family that these tables make, or what is wrong with them, cell by cell as far as that can be said."""
    problems: list[Problem] = []
    whole: dict[str, Any] = _head(tables.head, problems)
    whole["parameter"] = [
        _read(Part.PARAMETER, number, row, problems) for number, row in enumerate(tables.parameters) if any(cell.strip() for cell in row.values())
    ]
    whole["terminals"] = [
        _read(Part.TERMINALS, number, row, problems) for number, row in enumerate(tables.terminals) if any(cell.strip() for cell in row.values())
    ]
    if problems:
        return None, tuple(problems)
    try:
        profile = Profile.model_validate(whole)
    except ValidationError as wrong:
        return None, tuple(_problem(each, tables) for each in wrong.errors()[:40])
    unknown = [
        Problem(part, number, "meaning", words)
        for part, rows in ((Part.PARAMETER, profile.parameter), (Part.TERMINALS, profile.terminals))
        for number, row in enumerate(rows) if (words := unknown_meaning(row))
    ]  # fmt: skip
    return (None, tuple(unknown)) if unknown else (profile, ())


def _head(head: Mapping[str, str], problems: list[Problem]) -> dict[str, Any]:
    found: dict[str, Any] = {name: head.get(name, "").strip() for name in ("id", "name", "family", "about", "save_action", "save_shows", "resets")}
    for name in ("relays", "drives", "pumps", "inputs"):
        found[name] = _whole(head.get(name, "") or "0", Part.HEAD, -1, name, problems)
    found["cautions"] = [line.strip() for line in head.get("cautions", "").splitlines() if line.strip()]
    found["wired"] = [word.strip() for word in head.get("wired", "").split(",") if word.strip()]
    found["habits"] = {}
    for piece in filter(None, (each.strip() for each in head.get("habits", "").split(","))):
        meaning, equals, word = (part.strip() for part in piece.partition("="))
        if equals and meaning and word:
            found["habits"][meaning] = word
        else:
            problems.append(Problem(Part.HEAD, -1, "habits", f"{piece[:40]!r}; accepted: a meaning, =, our word, as in control.delay_from = stop"))
    found["formed"] = {}
    for piece in filter(None, (each.strip() for each in head.get("formed", "").split(","))):
        meaning, equals, rest = (part.strip() for part in piece.partition("="))
        of, minus, less = (part.strip() for part in rest.rpartition(" - "))
        try:
            found["formed"][meaning] = {"of": of, "less": float(less)}
        except ValueError:
            of = ""
        if not (equals and minus and meaning and of):
            found["formed"].pop(meaning, None)
            problems.append(Problem(Part.HEAD, -1, "formed", f"{piece[:60]!r}; accepted: a meaning, =, the meaning it is made from, -, a number in SI, as in setting.start_pressure = setting.stop_pressure - 70000"))
    found["low_word_first"] = head.get("low_word_first", "").strip() == "yes"
    steps, decimals = {}, {}
    for piece in filter(None, (each.strip() for each in head.get("displays", "").split(";"))):
        words = piece.rsplit(maxsplit=2)
        try:
            display, step, places = Display(words[0]), float(words[1]), int(words[2])
        except (ValueError, IndexError):
            known = ", ".join(Display)
            problems.append(Problem(Part.HEAD, -1, "displays", f"{piece[:40]!r}; accepted: a unit ({known}), one step of it, its decimals, as in m 0.01 2"))
            continue
        steps[display], decimals[display] = step, places
    if not steps and not any(problem.column == "displays" for problem in problems):
        problems.append(Problem(Part.HEAD, -1, "displays", "a display shows levels or pressures in some unit, as in m 0.01 2"))
    return {**found, "steps": steps, "decimals": decimals}


def _read(part: Part, number: int, row: Mapping[str, str], problems: list[Problem]) -> dict[str, Any]:
    """One row as the model takes it. A row that lacks something is told once."""
    cells = {name: (row.get(name) or "").strip() for name in (PARAMETER if part is Part.PARAMETER else TERMINALS)}
    found: dict[str, Any] = {}
    for name, text in cells.items():
        if name in CHOICES and text not in CHOICES[name]:
            problems.append(Problem(part, number, name, f"{text[:40]!r}; accepted: {', '.join(filter(None, CHOICES[name])) or 'nothing'}"))
    found |= {f"per_{repeat}": cells["repeat"] == repeat for repeat in Repeat}
    found |= {"note": cells["note"], "name": cells["name"], "meaning": cells["meaning"]}
    if part is Part.TERMINALS:
        listed = {name: [word.strip() for word in cells[name].split(",") if word.strip()] for name in ("labels", "cores")}
        return {**found, **listed, "unused": cells["unused"] or Unused.EMPTY.value}
    found |= {name: cells[name] for name in ("code", "menu", "unit", "base", "access", "at_least", "at_most", "shown_unit", "asks")}
    found |= {name: cells[name] == "yes" for name in _YES}
    found["convention"] = cells["convention"] or Convention.ABSOLUTE.value
    found |= {name: _pairs(cells[name], number, name, problems) for name in ("options", "when")}
    for name in _NUMBERS:
        if cells[name]:
            found[name] = _number(cells[name], part, number, name, problems)
    for name in _WHOLE:
        if cells[name]:
            found[name] = _whole(cells[name], part, number, name, problems)
    if cells["default"]:
        found["default"] = cells["default"] if cells["options"] else _number(cells["default"], part, number, "default", problems)
    return found


def _pairs(text: str, row: int, column: str, problems: list[Problem]) -> dict[str, str]:
    found = {}
    for piece in filter(None, (each.strip() for each in text.split(";"))):
        left, equals, right = piece.partition("=")
        if not equals or not left.strip() or not right.strip():
            problems.append(Problem(Part.PARAMETER, row, column, f"{piece[:40]!r}; accepted: pairs with = between them and ; after each, as in yes = on; no = off"))
        found[left.strip()] = right.strip()
    return found


def _number(text: str, part: Part, row: int, column: str, problems: list[Problem]) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = float("nan")
    if not abs(value) < 1e9:
        problems.append(Problem(part, row, column, f"{text[:40]!r} is no number"))
        return 0.0
    return value


def _whole(text: str, part: Part, row: int, column: str, problems: list[Problem]) -> int:
    if not (text.strip().isascii() and text.strip().isdecimal()):
        problems.append(Problem(part, row, column, f"{text.strip()[:40]!r} is no whole number"))
        return 0
    return int(text.strip()[:9])


def _in_words(error: Mapping[str, Any]) -> str:
    """What the model says, as a person would."""
    limits = error.get("ctx", {})
    plain = {
        "string_too_short": "it is empty", "string_too_long": f"longer than {limits.get('max_length')} letters",
        "string_pattern_mismatch": f"{str(error.get('input'))[:40]!r}; accepted: 1 to 40 small letters, digits and _",
        "too_short": "there is none: at least one is needed", "too_long": f"more than {limits.get('max_length')} of them",
    }  # fmt: skip
    return plain.get(str(error["type"]), str(error["msg"]).removeprefix("Value error, "))


def _problem(error: Mapping[str, Any], tables: Tables) -> Problem:
    """What the model says, at the cell it says it of."""
    loc, words = error["loc"], _in_words(error)
    if len(loc) > 1 and loc[0] in ("parameter", "terminals"):
        part = Part(loc[0])
        rows = tables.parameters if part is Part.PARAMETER else tables.terminals
        filled = [number for number, row in enumerate(rows) if any(cell.strip() for cell in row.values())]
        return Problem(part, filled[int(loc[1])], str(loc[2]) if len(loc) > 2 else "", words)
    for number, row in enumerate(tables.parameters):  # of the whole: at the first row whose code it names
        if row.get("code") and words.startswith(f"{row['code']}:"):
            return Problem(Part.PARAMETER, number, "", words)
    return Problem(Part.HEAD, -1, str(loc[0]) if loc else "", words)


def tables_from(plain: Any) -> Tables:
    """Tables as a page sends them. Raises BrokenFile for another shape."""
    if not isinstance(plain, dict):
        raise BrokenFile("the family is no table")
    head, rows = plain.get("head"), [plain.get("parameters"), plain.get("terminals")]
    if not isinstance(head, dict) or not all(isinstance(each, list) and len(each) <= MOST_ROWS for each in rows):
        raise BrokenFile(f"a family has a head, and up to {MOST_ROWS} parameters and terminals")
    return Tables(_texts(head, HEAD), *(tuple(_texts(row, names) for row in each) for each, names in zip(rows, (PARAMETER, TERMINALS))))


def _texts(row: Any, names: Iterable[str]) -> dict[str, str]:
    if not isinstance(row, dict) or not all(isinstance(value, str) and len(value) <= 2000 for value in row.values()):
        raise BrokenFile("every cell of a family is a text of up to 2000 letters")
    return {name: row.get(name, "") for name in names}
