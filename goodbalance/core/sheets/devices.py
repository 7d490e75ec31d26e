"""How the devices of a station stand: what somebody saw each of their numbers show, and what they hold by it."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

from goodbalance.core.balance.asked_number import number_before_unit
from goodbalance.core.sheets.entry_sheet import EntrySheet, Row, RowKind, shown_limits, si_of
from goodbalance.core.sheets.profile import MAIN, Display

UNIT_NAMES = ("level_unit", "unit")  # of the meanings by which a display is told its unit
Place = tuple[str, str]  # a device and a code of it


class Source(StrEnum):
    """How a number of a device is known."""

    READ_BACK = "read back"
    AS_FOUND = "as found"
    RESET = "factory reset"


class Match(StrEnum):
    """Whether a read-back agrees with the sheet."""

    SAME = "same"
    DIFFERS = "differs"
    NOT_READ = "not read back"


@dataclass(frozen=True, slots=True)
class Noted:
    """What a display showed, how that is known, who says so and when. seq: of its entry in the record."""

    text: str
    source: Source
    author: str
    at: str
    seq: int


@dataclass(frozen=True, slots=True)
class Stand:
    """One row of the sheet and what is known of it: noted is None where nobody looked. before: what was found before the work."""

    row: Row
    noted: Noted | None
    match: Match
    before: str = ""

    @property
    def typed(self) -> str:
        """What was read back after typing; empty where nothing was."""
        return self.noted.text if self.noted is not None and self.noted.source is Source.READ_BACK else ""


@dataclass(frozen=True, slots=True)
class DeviceValues:
    """What the devices hold as far as somebody looked, in SI or in our word, and what they have a place for.

    by_meaning, settings: what is known, by meaning and by the plan's setting (of several that hold it, the one farthest off).
    places, placed: every meaning, and every
    setting of the plan, that has a parameter of its own or is done by wiring.
    """

    by_meaning: Mapping[str, float | str]
    settings: Mapping[str, float]
    places: frozenset[str]
    placed: frozenset[str]
    habits: Mapping[str, str] = field(default_factory=dict)  # meanings that a family does in one way always, in our word
    formed: Mapping[str, float] = field(default_factory=dict)  # settings of the plan that a family makes itself from another, in SI
    most_pumps: int = 0  # that the first of them can call; 0 where its family does not say
    heirs: tuple["DeviceValues", ...] = ()  # the same as drives 2, 3 and on hold it, where each drive holds all numbers itself

    def is_held_by(self, other: "DeviceValues") -> bool:
        """Whether another drive holds just what this one does."""
        return (self.by_meaning, self.settings) == (other.by_meaning, other.settings)


def compare(row: Row, text: str) -> Match:
    """Whether a read-back agrees. Numbers may differ in how they are written, not in value."""
    text = text.strip()
    if not text:
        return Match.NOT_READ
    if row.kind is RowKind.READING:
        return Match.SAME  # it tells, and nothing of ours should stand there
    if row.parameter.options:
        return Match.SAME if text.casefold() == row.shows.casefold() else Match.DIFFERS
    try:
        seen, wanted = number_before_unit(text), float(row.shows)
    except ValueError:
        return Match.DIFFERS
    return Match.SAME if abs(seen - wanted) < 1e-9 else Match.DIFFERS


def stands_of(
    sheet: EntrySheet, found: Mapping[Place, Noted], back: Mapping[Place, Noted], resets: Mapping[str, Noted]
) -> tuple[Stand, ...]:
    """Every row with the latest that is known of it.

    found, back: what was noted before the work and read back, by device and code; an empty device is any. resets: factory resets, by the id of the device: one
    makes untrue what was noted before it, and shows what a new device shows.
    """
    stands = []
    for row in sheet.rows:
        as_found, read = _noted(found, row), _noted(back, row)
        known = [each for each in (as_found, read) if each is not None]
        reset = resets.get(row.device)
        if reset is not None:
            known.append(Noted(row.default_shows, Source.RESET, reset.author, reset.at, reset.seq))
        noted = max(known, key=lambda each: each.seq, default=None)
        is_back = noted is not None and noted.source is Source.READ_BACK
        match = compare(row, noted.text) if noted is not None and is_back else Match.NOT_READ
        stands.append(Stand(row, noted, match, as_found.text if as_found is not None else ""))
    return tuple(stands)


def _noted(noted: Mapping[Place, Noted], row: Row) -> Noted | None:
    """What was noted of a row; an empty text takes a note back."""
    code = row.parameter.code
    found = max((each for each in (noted.get((row.device, code)), noted.get(("", code))) if each is not None), key=lambda n: n.seq, default=None)
    return found if found is not None and found.text.strip() else None


def values_of(sheet: EntrySheet, stands: tuple[Stand, ...]) -> DeviceValues:
    """What the devices hold. A number measured from another follows the one its device holds, planned where nobody looked.

    Where nobody looked at a drive it is taken to hold what drive 1 does: numbers are copied there.
    """
    counted = _as_counted(stands)
    first = _values(sheet, counted)
    drives = {int(place.split(".")[1]) for place in first.places if place.startswith("drive.")}
    return replace(first, heirs=tuple(_values(sheet, _led_by(counted, drive)) for drive in sorted(drives - {1})))


def _led_by(stands: tuple[Stand, ...], drive: int) -> tuple[Stand, ...]:
    """The same with what this drive was seen to hold in the place of what drive 1 does."""
    own = {stand.row.parameter.meaning: stand for stand in stands if stand.noted is not None}
    found = []
    for stand in stands:
        row, (place, _, name) = stand.row, stand.row.parameter.meaning.partition(".1.")
        other = own.get(f"drive.{drive}.{name}") if place == "drive" else None
        found.append(stand if other is None else replace(other, row=replace(other.row, parameter=row.parameter, setting=row.setting)))
    return tuple(found)


def _values(sheet: EntrySheet, stands: tuple[Stand, ...]) -> DeviceValues:
    by_meaning: dict[str, float | str] = {}
    settings: dict[str, float] = {}
    for based in (False, True):  # those that others are measured from come first
        for stand in stands:
            row, meaning = stand.row, stand.row.parameter.meaning
            if bool(row.parameter.base) is not based or not meaning:
                continue
            value = _value(stand, by_meaning)
            if value is None:
                continue
            by_meaning[meaning] = value
            if row.setting and isinstance(value, float):
                before = settings.get(row.setting, value)
                settings[row.setting] = value if _off(value, row) >= _off(before, row) else before
    devices = (sheet.profile, *sheet.companions)
    wired = {meaning for device in devices for meaning in device.wired}
    rows = {row.parameter.meaning for row in sheet.rows if row.parameter.meaning}
    habits = {meaning: word for device in devices for meaning, word in device.habits.items() if meaning not in rows}
    placed = frozenset(row.setting for row in sheet.rows if row.setting)
    made = _formed(sheet, by_meaning)
    formed = {meaning.removeprefix("setting."): value for meaning, value in made.items() if meaning.startswith("setting.")}
    places = frozenset(rows | wired | habits.keys() | made.keys())
    return DeviceValues({**habits, **made, **by_meaning}, {**settings, **formed}, places, placed | formed.keys(), habits, formed, sheet.profile.pumps)


def _formed(sheet: EntrySheet, by_meaning: Mapping[str, float | str]) -> dict[str, float]:
    """What families make themselves: from what is known of the number it is made from, or from what is planned of it."""
    planned = {row.parameter.meaning: row.value for row in sheet.rows if row.value is not None}
    found = {}
    for device in (sheet.profile, *sheet.companions):
        for meaning, how in device.formed.items():
            base = by_meaning.get(how.of, planned.get(how.of))
            if isinstance(base, float):
                found[meaning] = base - how.less
    return found


def _as_counted(stands: tuple[Stand, ...]) -> tuple[Stand, ...]:
    """The same where a display was seen to count in another unit than the sheet takes it for: its numbers are then in that one.

    A unit told to one drive is that of its own rows; told to a device, that of all.
    """
    counted: dict[tuple[str, str], Display] = {}
    for stand in stands:
        place, _, name = stand.row.parameter.meaning.rpartition(".")
        word = _value(stand, {}) if name in UNIT_NAMES and stand.row.parameter.options else None
        if isinstance(word, str) and stand.noted is not None and word in set(Display):
            counted[stand.row.device, "" if place == "display" else place] = Display(word)
    if not counted:
        return stands
    found = []
    for stand in stands:
        row = stand.row
        display = counted.get((row.device, row.parameter.meaning.rpartition(".")[0]), counted.get((row.device, "")))
        other = row.scale is not None and display is not None and display is not row.scale.display and row.parameter.unit in MAIN
        found.append(replace(stand, row=replace(row, scale=replace(row.scale, display=display))) if other and row.scale is not None and display is not None else stand)
    return tuple(found)


def can_show(row: Row, shown: float) -> bool:
    """Whether the display can show this number at all."""
    low, high = shown_limits(row.parameter, row.scale) if row.scale is not None else (-math.inf, math.inf)
    return low - 1e-9 <= shown <= high + 1e-9


def found_of(stands: tuple[Stand, ...]) -> dict[str, float]:
    """What the devices held before the work, as far as it was noted, in SI by the plan's setting."""
    found: dict[str, float] = {}
    bases: dict[str, float | str] = {}
    for stand in sorted(stands, key=lambda each: bool(each.row.parameter.base)):
        noted = Noted(stand.before, Source.AS_FOUND, "", "", 0) if stand.before else None
        value = None if noted is None else _value(replace(stand, noted=noted), bases)
        if value is not None:
            bases[stand.row.parameter.meaning] = value
        if stand.row.setting and isinstance(value, float):
            found.setdefault(stand.row.setting, value)
    return found


def _off(value: float, row: Row) -> float:
    """How far a value is from what the row was to hold."""
    return 0.0 if row.value is None else abs(value - row.value)


def _value(stand: Stand, known: Mapping[str, float | str]) -> float | str | None:
    """What a row holds in SI, or our word for what it shows; None where that is not known, or no number."""
    row, noted = stand.row, stand.noted
    base = known.get(row.parameter.base, row.base)
    moved = bool(row.parameter.base) and row.parameter.base in known
    text = noted.text if noted is not None else row.shows if moved else ""
    if row.kind is RowKind.REFUSED and not text:
        text = row.default_shows  # it takes nothing of what the plan wants
    if row.parameter.options:
        return next((word for word, shown in row.parameter.options.items() if shown.casefold() == text.strip().casefold()), None)
    try:
        shown = number_before_unit(text)
    except ValueError:
        return None
    if row.scale is None or not isinstance(base, float) or not can_show(row, shown):
        return None
    return si_of(shown, row.parameter, row.scale, base)

