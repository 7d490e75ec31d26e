"""Comparing what the display showed on reading back with what should stand there."""

from dataclasses import dataclass
from enum import StrEnum

from goodbalance.core.balance.asked_number import number_before_unit
from goodbalance.core.sheets.entry_sheet import EntrySheet, Row


class Match(StrEnum):
    """Whether a read-back agrees with the sheet."""

    SAME = "same"
    DIFFERS = "differs"
    NOT_READ = "not read back"


@dataclass(frozen=True, slots=True)
class Comparison:
    """One parameter read back."""

    row: Row
    typed: str
    match: Match


def compare(row: Row, typed: str) -> Match:
    """Whether a read-back agrees. Numbers may differ in how they are written, not in value."""
    text = typed.strip()
    if not text:
        return Match.NOT_READ
    if row.parameter.options:
        return Match.SAME if text.casefold() == row.shows.casefold() else Match.DIFFERS
    try:
        seen, wanted = number_before_unit(text), float(row.shows)
    except ValueError:
        return Match.DIFFERS
    return Match.SAME if abs(seen - wanted) < 1e-9 else Match.DIFFERS


def compare_all(sheet: EntrySheet, typed: dict[str, str]) -> tuple[Comparison, ...]:
    """Every row that was to be changed, with what was read back."""
    return tuple(
        Comparison(row, typed.get(row.parameter.code, ""), compare(row, typed.get(row.parameter.code, "")))
        for row in sheet.changes
    )
