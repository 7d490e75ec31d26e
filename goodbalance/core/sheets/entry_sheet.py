"""The entry sheet: what to change at the keypad, in its order, exactly as its display will show it."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from goodbalance.core.balance.window import Window, round_inside
from goodbalance.core.sheets.profile import KeypadUnit, LevelDisplay, Parameter, Profile

METRES_PER_FOOT = 0.3048
_FACTORS = {
    KeypadUnit.MINUTES: 1.0 / 60.0,
    KeypadUnit.MILLIAMPERE: 1000.0,
    KeypadUnit.PERCENT: 100.0,
    KeypadUnit.MILLIMETRES_PER_SECOND: 1000.0,
    KeypadUnit.PERCENT_PER_METRE: 100.0,
}


@dataclass(frozen=True, slots=True)
class KeypadValue:
    """What one meaning must be set to: a number in SI or a word, with why, and the window it must stay in.

    setting: the id of the plan's setting it holds, where it holds one.
    """

    value: float | str
    reason: str
    window: Window | None = None
    setting: str = ""


@dataclass(frozen=True, slots=True)
class LevelScale:
    """How a keypad shows levels: its unit, step and decimals, and the span for per cent; full_hz stands for full speed."""

    display: LevelDisplay
    step: float
    decimals: int
    zero_m: float
    span_m: float
    full_hz: float = 50.0

    def factor(self, unit: KeypadUnit) -> float:
        """What a value in SI is multiplied by to stand on the keypad, for all but levels."""
        return self.full_hz if unit is KeypadUnit.HERTZ else _FACTORS.get(unit, 1.0)

    def shown(self, level_m: float) -> float:
        if self.display is LevelDisplay.FEET:
            return level_m / METRES_PER_FOOT
        if self.display is LevelDisplay.PERCENT_OF_SPAN:
            return (level_m - self.zero_m) / self.span_m * 100.0
        return level_m

    def level_m(self, shown: float) -> float:
        if self.display is LevelDisplay.FEET:
            return shown * METRES_PER_FOOT
        if self.display is LevelDisplay.PERCENT_OF_SPAN:
            return self.zero_m + shown / 100.0 * self.span_m
        return shown


class RowKind(StrEnum):
    CHANGE = "change"
    LEAVE = "leave"
    REFUSED = "refused"


@dataclass(frozen=True, slots=True)
class Row:
    """One parameter on the sheet."""

    number: int
    parameter: Parameter
    kind: RowKind
    shows: str  # exactly as the display will show it
    unit: str
    default_shows: str
    reason: str
    trouble: str = ""  # why it is refused, and the nearest possible value
    setting: str = ""  # the plan's setting this entry holds
    value: float | None = None  # what it really sets, in SI, after rounding


@dataclass(frozen=True, slots=True)
class EntrySheet:
    profile: Profile
    rows: tuple[Row, ...]
    companions: tuple[Profile, ...] = ()

    @property
    def changes(self) -> tuple[Row, ...]:
        """What the person types, in keypad order; refused rows stand among them."""
        return tuple(row for row in self.rows if row.kind is not RowKind.LEAVE)

    @property
    def leaves(self) -> tuple[Row, ...]:
        return tuple(row for row in self.rows if row.kind is RowKind.LEAVE)

    def row(self, code: str) -> Row:
        """The row of a parameter code; KeyError if the sheet has none."""
        for row in self.rows:
            if row.parameter.code == code:
                return row
        raise KeyError(code)


def entry_sheet(
    profile: Profile, values: Mapping[str, KeypadValue], scale: LevelScale, companions: tuple[Profile, ...] = ()
) -> EntrySheet:
    """Convert what the plan wants into what the keypad shows. A value the keypad cannot hold is refused with a reason.

    companions: other devices set in the same job, after the first; each names itself in the menu.
    """
    rows = []
    for device in (profile, *companions):
        for parameter in device.entries():
            if device is not profile:
                parameter = parameter.model_copy(update={"menu": f"{device.name}: {parameter.menu}"[:60]})
            wanted = values.get(parameter.meaning) if parameter.meaning else None
            rows.append(_row(len(rows) + 1, parameter, wanted, scale))
    return EntrySheet(profile, tuple(rows), companions)


def _row(number: int, parameter: Parameter, wanted: KeypadValue | None, scale: LevelScale) -> Row:
    unit = scale.display.value if parameter.unit is KeypadUnit.LEVEL else parameter.unit.value
    default = _default_shows(parameter, scale)
    if wanted is None:
        return Row(number, parameter, RowKind.LEAVE, default, unit, default, "not used by this plan")
    if parameter.options:
        shows = parameter.options.get(str(wanted.value))
        if shows is None:
            trouble = f"{parameter.code} offers {', '.join(parameter.options.values())}, not {wanted.value}."
            return Row(number, parameter, RowKind.REFUSED, "", unit, default, wanted.reason, trouble)
        kind = RowKind.LEAVE if shows == default else RowKind.CHANGE
        return Row(number, parameter, kind, shows, unit, default, wanted.reason)
    shown, trouble = _fitted(parameter, wanted, scale)
    if trouble:
        return Row(number, parameter, RowKind.REFUSED, "", unit, default, wanted.reason, trouble)
    text = f"{shown:.{_decimals(parameter, scale)}f}"
    kind = RowKind.LEAVE if text == default else RowKind.CHANGE
    return Row(
        number, parameter, kind, text, unit, default, wanted.reason, "", wanted.setting, si_of(shown, parameter, scale)
    )


def si_of(shown: float, parameter: Parameter, scale: LevelScale) -> float:
    """What a number on the keypad means in SI."""
    if parameter.unit is KeypadUnit.LEVEL:
        return scale.level_m(shown)
    return shown / scale.factor(parameter.unit)


def _on_keypad(value_si: float, parameter: Parameter, scale: LevelScale) -> float:
    if parameter.unit is KeypadUnit.LEVEL:
        return scale.shown(value_si)
    return value_si * scale.factor(parameter.unit)


def _decimals(parameter: Parameter, scale: LevelScale) -> int:
    return scale.decimals if parameter.unit is KeypadUnit.LEVEL else parameter.decimals


def _default_shows(parameter: Parameter, scale: LevelScale) -> str:
    if parameter.options:
        return str(parameter.default)
    default = float(parameter.default)
    if parameter.unit is KeypadUnit.LEVEL:
        default = scale.shown(default)
    return f"{default:.{_decimals(parameter, scale)}f}"


def _fitted(parameter: Parameter, wanted: KeypadValue, scale: LevelScale) -> tuple[float, str]:
    """The number as the keypad can hold it, or why it cannot."""
    value = float(wanted.value)
    is_level = parameter.unit is KeypadUnit.LEVEL
    step = scale.step if is_level else 10.0**-parameter.decimals
    low, high = (
        (scale.shown(parameter.low), scale.shown(parameter.high)) if is_level else (parameter.low, parameter.high)
    )
    exact = _on_keypad(value, parameter, scale)
    if not low - 1e-9 <= exact <= high + 1e-9:
        nearest = min(max(exact, low), high)
        return math.nan, f"{parameter.code} takes {low:g} to {high:g}; {exact:.4g} does not fit. Nearest: {nearest:g}."
    if wanted.window is None:
        return round_inside(exact, step, low, high), ""
    lowest, highest = (_on_keypad(edge, parameter, scale) for edge in (wanted.window.low, wanted.window.high))
    shown = round_inside(exact, step, max(low, lowest), min(high, highest))
    if math.isnan(shown):
        nearest = round(exact / step) * step
        return math.nan, (
            f"No step of {step:g} lies inside the window {lowest:.3f} to {highest:.3f}. Nearest outside it: {nearest:g}."
        )
    return shown, ""
