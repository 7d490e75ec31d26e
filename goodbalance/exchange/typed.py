"""Surveys and choices as people type them, read into SI facts."""

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from goodbalance.core.balance.asked_number import AskedNumber, has_own_unit, typed_number
from goodbalance.core.balance.facts import AskedFact, Conditions, Facts, Section, sections
from goodbalance.core.balance.quantities import Quantity, UnitSystem, display_unit, show
from goodbalance.core.errors import OutOfRange

_TYPICAL = re.compile(r"typical\b.*", re.IGNORECASE | re.DOTALL)
_LATER = re.compile(r"(?:later\b|\?)[\s:,;.-]*(.*)", re.IGNORECASE | re.DOTALL)


@dataclass(frozen=True, slots=True)
class Typed:
    """What stood in a field, and the unit system its writer read it in."""

    text: str
    units: UnitSystem = UnitSystem.METRIC


@dataclass(frozen=True, slots=True)
class Problem:
    """Why a field is not accepted: which, what stood there, what would be."""

    path: str
    text: str


@dataclass
class Reading:
    """A form read: SI values by path, what is refused, what is unusual, and what is still missing."""

    values: dict[str, Any] = field(default_factory=dict)
    problems: dict[str, str] = field(default_factory=dict)
    unusual: dict[str, str] = field(default_factory=dict)
    read_as: dict[str, str] = field(default_factory=dict)  # what was typed with a unit of its own
    missing: list[str] = field(default_factory=list)
    later: dict[str, str] = field(default_factory=dict)  # what somebody left for later, and where it will come from
    typical: dict[str, float] = field(default_factory=dict)  # what nobody has measured, so that the usual stands for it: how far off that may be, a share

    @property
    def complete(self) -> bool:
        return not self.problems and not self.missing


def read_facts(
    model: type[Facts], typed: Mapping[str, Typed], units: UnitSystem, context: Mapping[str, str] | None = None
) -> Reading:
    """Read every asked field of a survey. Messages are worded in the reader's units.

    context: answers of another form on which fields of this one may depend.
    """
    reading = Reading()
    asked = sections(model)
    answers = {**(context or {}), **answers_of(model, typed)}
    for part in asked:
        if not is_asked(part.only_if, answers):
            continue
        for question in part.facts:
            in_table = question.table[2] if question.table else ()
            if is_asked((*question.fact.only_if, *in_table), answers):
                _read_one(question, typed.get(question.path, Typed("")), units, reading)
    return reading


def answers_of(model: type[Facts], typed: Mapping[str, Typed]) -> dict[str, str]:
    """What stands in each field, its default where nothing does."""
    texts = {path: entry.text.strip() for path, entry in typed.items()}
    return {**_default_answers(sections(model)), **{path: text for path, text in texts.items() if text}}


def facts_from(model: type[Facts], reading: Reading) -> Facts:
    """The survey itself. Call only for a complete reading."""
    nested: dict[str, Any] = {}
    for name, part in _parts(reading.values).items():
        nested[name] = part
    for part in sections(model):  # a section whose fields all keep their defaults is still there
        if part.id not in nested and not part.only_if:
            nested[part.id] = {}
    return model.model_validate(nested)


def is_asked(conditions: Conditions, answers: Mapping[str, str]) -> bool:
    """Whether the answers so far make a fact asked."""
    return all(answers.get(path, "") in accepted for path, accepted in conditions)


def as_shown(entry: Typed, quantity: Quantity | None, units: UnitSystem) -> str:
    """The text for a person of this unit system: as typed when it was typed in that system, else converted."""
    if quantity is None or entry.units is units or not entry.text.strip():
        return entry.text
    try:
        value_si = display_unit(quantity, entry.units).to_si(typed_number(entry.text))
    except ValueError:
        return entry.text
    return f"{display_unit(quantity, units).from_si(value_si):.5g}"


def _default_answers(asked: tuple[Section, ...]) -> dict[str, str]:
    found = {}
    for part in asked:
        for question in part.facts:
            text = default_text(question, UnitSystem.METRIC)
            if text:
                found[question.path] = text
    return found


def default_text(question: AskedFact, units: UnitSystem) -> str:
    """A fact's default as it would be typed; empty where it has none."""
    default, asked = question.default, question.fact
    if question.kind is bool:
        return "yes" if default else "no"
    if asked.options:
        return str(default.value)
    if isinstance(default, int | float) and not isinstance(default, bool) and asked.quantity is not None:
        return f"{display_unit(asked.quantity, units).from_si(default):.6g}"
    return ""


def _read_one(question: AskedFact, entry: Typed, units: UnitSystem, reading: Reading) -> None:
    asked, path, text = question.fact, question.path, entry.text.strip()
    left = left_for_later(text) if asked.quantity is not None else None
    if left is not None:
        reading.later[path] = f"{asked.label}{f': {left}' if left else ''}"
        reading.read_as[path] = f"Left for later{f': {left}' if left else ''}. It stands among the open points."
    if asked.quantity is not None and _TYPICAL.fullmatch(text):
        _take_typical(question, units, reading)
        return
    if not text or left is not None:
        if asked.required and not default_text(question, units):
            reading.missing.append(path)
        elif not default_text(question, units) or question.kind is str:
            return
        else:
            _take_default(question, reading)
        return
    if asked.options:
        if text not in dict(asked.options):
            accepted = ", ".join(value for value, _ in asked.options)
            reading.problems[path] = f"{asked.label}: {text[:40]!r} is not one of the answers; accepted: {accepted}."
        else:
            reading.values[path] = text == "yes" if question.kind is bool else text
        return
    if question.kind is str or question.kind is date:
        if len(text) > asked.max_length:
            reading.problems[path] = f"{asked.label} is {len(text)} letters long; accepted: up to {asked.max_length}."
        else:
            reading.values[path] = text
        return
    _read_number(question, entry, units, reading)


def left_for_later(text: str) -> str | None:
    """Where a number will come from that somebody cannot read now: "nameplate" of "later, nameplate"; None for any other text."""
    found = _LATER.fullmatch(text.strip())
    return None if found is None else found[1].strip()[:80]


def _take_default(question: AskedFact, reading: Reading) -> None:
    if question.fact.quantity is not None and question.default is not None and question.default is not ...:
        reading.values[question.path] = question.default
        if question.fact.typical is not None:
            reading.typical[question.path] = question.fact.typical.share


def _take_typical(question: AskedFact, units: UnitSystem, reading: Reading) -> None:
    """What is usual in the place of a number that nobody has measured: an open point, and counted as unsure."""
    asked, path = question.fact, question.path
    if asked.typical is None or asked.quantity is None:
        reading.problems[path] = f"{asked.label}: nothing is typical here; accepted: a number, or \"later, nameplate\"."
        return
    said = show(asked.typical.value, asked.quantity, units)
    reading.values[path], reading.typical[path] = asked.typical.value, asked.typical.share
    reading.later[path] = f"{asked.label}: typical {said}, not measured"
    reading.read_as[path] = f"Typical {said}; not measured, so it counts as unsure."


def _read_number(question: AskedFact, entry: Typed, units: UnitSystem, reading: Reading) -> None:
    asked, path = question.fact, question.path
    assert asked.quantity is not None and asked.low is not None and asked.high is not None
    number = AskedNumber(
        label=asked.label, quantity=asked.quantity, low=asked.low, high=asked.high, whole=question.kind is int
    )  # fmt: skip
    try:
        value_si = number.read(entry.text, entry.units, units)
    except OutOfRange as wrong:
        reading.problems[path] = f"{wrong}."
        return
    reading.values[path] = value_si
    own = has_own_unit(entry.text)
    if own:
        reading.read_as[path] = f"Read as {show(value_si, asked.quantity, units, 1)}."
    _question_magnitude(question, math.nan if own else typed_number(entry.text), value_si, entry, units, reading)


def _question_magnitude(
    question: AskedFact, value: float, value_si: float, entry: Typed, units: UnitSystem, reading: Reading
) -> None:
    """A value that is possible but unusual is taken, with a question; a likely slip of units is named."""
    asked = question.fact
    if asked.usual is None or asked.quantity is None or asked.usual[0] <= value_si <= asked.usual[1]:
        return
    low, high = (show(limit, asked.quantity, units) for limit in asked.usual)
    text = f"{show(value_si, asked.quantity, units)} is unusual here (usual: {low} to {high})."
    other = UnitSystem.US if entry.units is UnitSystem.METRIC else UnitSystem.METRIC
    other_unit = display_unit(asked.quantity, other)
    slips = [(other_unit.to_si(value), f"Did you read it in {other_unit.symbol}?")] if math.isfinite(value) else []
    slips += [(value_si / factor, f"Is it {show(value_si / factor, asked.quantity, units)}?") for factor in (10, 1000)]
    for meant_si, question_text in slips:
        if value_si != meant_si and asked.usual[0] <= meant_si <= asked.usual[1]:
            text += f" {question_text}"
            break
    reading.unusual[question.path] = text


def _parts(values: Mapping[str, Any]) -> dict[str, Any]:
    """Flat paths into nested dicts; runs of numbered rows into lists without empty rows."""
    tree: dict[str, Any] = {}
    for path, value in values.items():
        node = tree
        *steps, last = path.split(".")
        for step in steps:
            node = node.setdefault(step, {})
        node[last] = value
    return _listed(tree)


def _listed(node: Any) -> Any:
    if not isinstance(node, dict):
        return node
    if node and all(key.isdecimal() for key in node):
        return [_listed(node[key]) for key in sorted(node, key=int)]
    return {key: _listed(value) for key, value in node.items()}
