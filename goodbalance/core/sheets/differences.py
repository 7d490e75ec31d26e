"""What stands between a plan and its devices: differences with their likeliest reason, refusals, and what nothing carries.

Each is a matter that must be mended, or waived by name, before somebody signs.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from goodbalance.core.balance.asked_number import number_before_unit
from goodbalance.core.balance.plan import Plan
from goodbalance.core.sheets.carried import Uncarried
from goodbalance.core.sheets.devices import Match, Source, Stand, can_show
from goodbalance.core.sheets.entry_sheet import Row, RowKind, harm_outside, on_keypad, shown_limits, si_of
from goodbalance.core.sheets.profile import MAIN, PRESSURES, Convention, Display, KeypadUnit

MOST_BASES = (Convention.SHARE_OF, Convention.DROP_BELOW, Convention.RISE_ABOVE)
_LEVELS = (Display.METRES, Display.FEET, Display.PSI, Display.PERCENT_OF_DEPTH)
_TIMES = {KeypadUnit.SECONDS: 1.0, KeypadUnit.MINUTES: 60.0, KeypadUnit.HOURS: 3600.0}  # [s]
_SPEEDS = (KeypadUnit.HERTZ, KeypadUnit.ROTATION, KeypadUnit.PERCENT)


@dataclass(frozen=True, slots=True)
class Matter:
    """Something to settle. about: its name in a waiver; hint: what it looks like and how to mend it."""

    about: str
    words: str
    harm: str
    hint: str = ""


def matters(stands: tuple[Stand, ...], uncarried: tuple[Uncarried, ...], plan: Plan) -> tuple[Matter, ...]:
    """Everything to settle, in the order of the sheet: numbers that differ, numbers a device does not take, and what none carries
    though harm follows. plan: with the windows that the harms are read from."""
    found = []
    refused: dict[tuple[str, str], list[Row]] = {}  # the same number of several drives is one matter
    for stand in stands:
        row = stand.row
        if row.kind is RowKind.REFUSED and stand.match is Match.NOT_READ:
            refused.setdefault((row.device, row.parameter.name), []).append(row)
        elif stand.match is Match.DIFFERS:
            found.append(_difference(stand, stands, plan))
        elif row.harm and not row.setting:  # a number of its own beyond its window is told by the statement
            found.append(Matter(_about(row, row.shows), f"{row.parameter.code}, {row.parameter.name}: {row.shows} is as near as it gets.", row.harm))
    for rows in refused.values():
        codes = ", ".join(row.parameter.code for row in rows)
        words = f"{codes}, {rows[0].parameter.name}: not taken. {rows[0].trouble}"
        found.append(Matter(_about(rows[0], ""), words, _harm(rows[0], None, plan)))
    found += [
        Matter(each.about, f"{each.label}: none of these devices has a place for it.", each.harm) for each in uncarried if each.harm
    ]
    return tuple(found)


def _about(row: Row, shown: str) -> str:
    """A waiver holds for what the display shows now, and not for what it may show later."""
    return f"{row.device}/{row.parameter.code}={shown[:40]}"


def _difference(stand: Stand, stands: tuple[Stand, ...], plan: Plan) -> Matter:
    row, shown = stand.row, stand.typed.strip()
    words = f"{row.parameter.code}, {row.parameter.name}: shows {shown}, {row.shows or 'nothing'} should stand there."
    seen = _number(shown) if not row.parameter.options else math.nan
    held = None if math.isnan(seen) or row.scale is None else si_of(seen, row.parameter, row.scale, row.base)
    return Matter(_about(row, shown), words, _harm(row, held, plan), hint_of(stand, stands))


def _harm(row: Row, held: float | None, plan: Plan) -> str:
    """What follows from what stands there, by the window of the setting it holds."""
    if row.setting and row.setting in plan:
        window = plan.setting(row.setting).window
        if held is None:
            return f"{window.governing_lower.harm} Or: {window.governing_upper.harm}"
        return harm_outside(window, held) or "None by its window; it is another number than planned."
    return f"The device works otherwise than planned ({row.reason})."


def _number(text: str) -> float:
    try:
        return number_before_unit(text)
    except ValueError:
        return math.nan


def hint_of(stand: Stand, stands: tuple[Stand, ...]) -> str:
    """The first of the usual slips that gives just this number, with how to mend it; empty where none does."""
    row, shown = stand.row, stand.typed.strip()
    if row.parameter.options:
        if shown.casefold() not in {option.casefold() for option in row.parameter.options.values()}:
            return f"The display offers {', '.join(row.parameter.options.values())}. Look again."
        return "That is what a new device shows: not typed, or not saved. Type and save it again." if shown.casefold() == row.default_shows.casefold() else ""
    seen = _number(shown)
    if math.isnan(seen):
        return "That is no number. Look again."
    found = next((words for value, words in _slips(stand, stands) if _alike(value, seen, row)), "")
    if not found and not can_show(row, seen) and row.scale is not None:
        return "The display shows {:g} to {:g}: it cannot show that. Look again.".format(*shown_limits(row.parameter, row.scale))
    return found


def _alike(value: float, seen: float, row: Row) -> bool:
    """Whether a number is what the display showed, to half a step of it."""
    decimals = row.scale.decimals if row.scale is not None and row.parameter.unit in MAIN else row.parameter.decimals
    return abs(value - seen) <= 0.51 * 10.0**-decimals + 1e-9 * abs(value)


def _slips(stand: Stand, stands: tuple[Stand, ...]) -> Iterator[tuple[float, str]]:
    """What each slip would have made of the number."""
    row = stand.row
    wanted = _number(row.shows)
    if stand.noted is not None and stand.noted.source is Source.READ_BACK and stand.before:
        yield _number(stand.before), "That is what was found before: not typed, or not saved. Type and save it again."
    yield _number(row.default_shows), "That is what a new device shows: not typed, or not saved. Type and save it again."
    if math.isnan(wanted):
        return
    for other, how in _others(row, stands):
        yield _number(other.shows), how.format(code=other.parameter.code)
    for power in (1, -1, 2, -2, 3, -3):
        yield wanted * 10.0**power, f"The decimal point slipped: {row.shows} was meant."
    if row.parameter.display_factor != 1.0:
        yield wanted * row.parameter.display_factor, f"The display counts in {row.parameter.shown_unit}: {row.shows} of them are meant."
    yield from _units(row)
    yield from _bases(row)


def _others(row: Row, stands: tuple[Stand, ...]) -> Iterator[tuple[Row, str]]:
    """The same number of another pump or relay, then the rows just before and after."""
    tail = row.parameter.code.partition(" ")[2]
    for each in stands:
        other = each.row
        if other.device != row.device or other is row or other.parameter.options or not other.shows:
            continue
        if tail and other.parameter.code.partition(" ")[2] == tail and other.shows != row.shows:
            yield other, "That belongs under {code}: the numbers of two pumps or relays were swapped."
        elif abs(other.number - row.number) <= 1:
            yield other, "That belongs under {code}: typed one row off."


def _units(row: Row) -> Iterator[tuple[float, str]]:
    """The same value as other units write it."""
    parameter, scale, value = row.parameter, row.scale, row.value
    if scale is None or value is None:
        return
    if parameter.unit in MAIN:
        stands = scale.weight != 1.0  # a level, which a display may show by its weight
        for display in _LEVELS if stands else PRESSURES:
            if display is not scale.display and parameter.convention not in (Convention.SHARE_OF,):
                yield on_keypad(value, parameter, replace(scale, display=display), row.base), f"That is the number in {display.value}: the display counts in {row.unit}."
        if scale.display is not Display.PERCENT_OF_SPAN and scale.span > 0.0:
            yield (value - scale.zero) / scale.span * 100.0, f"That is the number in % of span: the display counts in {row.unit}."
    elif parameter.unit in _TIMES:
        for unit, seconds in _TIMES.items():
            if unit is not parameter.unit:
                yield value / seconds / parameter.display_factor, f"That is the number in {unit.value}: the display counts in {row.unit}."
    elif parameter.unit in _SPEEDS:
        for unit in _SPEEDS:
            if unit is not parameter.unit and scale.factor(unit) > 0.0:
                yield value * scale.factor(unit), f"That is the number in {unit.value}: the display counts in {row.unit}."


def _bases(row: Row) -> Iterator[tuple[float, str]]:
    """The same value measured otherwise from its base."""
    parameter, scale, value = row.parameter, row.scale, row.value
    if scale is None or value is None or parameter.convention not in MOST_BASES:
        return
    plain = parameter.model_copy(update={"convention": Convention.ABSOLUTE, "unit": KeypadUnit.PRESSURE, "base": ""})
    yield on_keypad(value, plain, scale, 0.0), f"That is the value itself: the display wants it measured from {parameter.base.partition('.')[2].replace('_', ' ')}."
    if row.base:
        yield value / row.base * 100.0, "That is a share of its base: the display wants a difference."
        yield (row.base - value) / scale.per_unit, "That is a difference from its base: the display wants a share, or a rise."
