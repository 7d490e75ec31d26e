"""The entry sheet: what to change at the keypad, in its order, exactly as its display will show it."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from goodbalance.core.balance.quantities import si_per
from goodbalance.core.balance.window import Window, round_inside
from goodbalance.core.sheets.profile import MAIN, PRESSURES, STEPS, Convention, Display, KeypadUnit, Parameter, Profile

_SI_PER_UNIT = {
    Display.METRES: 1.0,
    Display.FEET: si_per("foot", "m"),
    Display.BAR: si_per("bar", "Pa"),
    Display.KILOPASCAL: si_per("kPa", "Pa"),
    Display.PSI: si_per("psi", "Pa"),
    Display.METRES_OF_WATER: si_per("m_H2O", "Pa"),
}
_FACTORS = {
    KeypadUnit.MINUTES: si_per("s", "minute"),
    KeypadUnit.HOURS: si_per("s", "hour"),
    KeypadUnit.MILLIAMPERE: si_per("A", "mA"),
    KeypadUnit.PERCENT: 100.0,
    KeypadUnit.KILOWATT: si_per("W", "kW"),
    KeypadUnit.KILOHM: si_per("ohm", "kohm"),
    KeypadUnit.BAR: si_per("Pa", "bar"),
    KeypadUnit.LITRES_PER_MINUTE: si_per("m**3/s", "liter/minute"),
    KeypadUnit.MILLIMETRES_PER_SECOND: si_per("m", "mm"),
    KeypadUnit.PERCENT_PER_METRE: 100.0,
}
NEAR_SPAN = 0.005  # of a sensor's span: by so much the keypad may misstate its ends before every reading is off
_SLACK = 1e-6  # of a value: what units put between a number and its bound


@dataclass(frozen=True, slots=True)
class KeypadValue:
    """What one meaning must be set to: a number in SI or a word, with why, and the window it must stay in.

    setting: the id of the plan's setting it holds, where it holds one. reach: zero and span in SI of the sensor that
    reads it, where that is not the one the keypad's scale stands for; a span of NaN is not known. own: a person chose
    this number, so it is typed even where its window does not hold it. near: how far off, in SI, the keypad may say it.
    """

    value: float | str
    reason: str
    window: Window | None = None
    setting: str = ""
    reach: tuple[float, float] | None = None
    own: bool = False
    near: float = math.inf


@dataclass(frozen=True, slots=True)
class Scale:
    """How a keypad shows levels or pressures: unit, step, decimals, and the sensor's zero and span for per cent, in SI.

    full_hz and full_rpm stand for full speed. depth: what 100 % of depth is, in SI, counted from the floor. weight: what a
    level weighs where it is shown as a pressure, rho g [Pa/m], counted from the sensor's zero; 1 where pressures are pressures.
    """

    display: Display
    step: float
    decimals: int
    zero: float
    span: float
    full_hz: float = 50.0
    full_rpm: float = 0.0
    depth: float = math.nan
    weight: float = 1.0

    def factor(self, unit: KeypadUnit) -> float:
        """What a value in SI is multiplied by to stand on the keypad, for all but levels."""
        if unit in (KeypadUnit.HERTZ, KeypadUnit.ROTATION):
            return self.full_hz if unit is KeypadUnit.HERTZ else self.full_rpm
        return _FACTORS.get(unit, 1.0)

    @property
    def per_unit(self) -> float:
        """What one of its units is in SI, as a difference."""
        if self.display is Display.PERCENT_OF_SPAN:
            return self.span / 100.0
        if self.display is Display.PERCENT_OF_DEPTH:
            return self.depth / 100.0
        return _SI_PER_UNIT[self.display] / (self.weight if self.display in PRESSURES else 1.0)

    @property
    def origin(self) -> float:
        """What stands in SI where the display shows 0."""
        by_sensor = self.display is Display.PERCENT_OF_SPAN or (self.weight != 1.0 and self.display in PRESSURES)
        return self.zero if by_sensor else 0.0

    def on(self, reach: tuple[float, float] | None) -> "Scale":
        """The same keypad for a value that another sensor reads: its per cent are of that sensor's range."""
        return self if reach is None else replace(self, zero=reach[0], span=reach[1])

    def shown(self, value_si: float) -> float:
        """The value as the keypad shows it, not yet rounded."""
        return (value_si - self.origin) / self.per_unit

    def si(self, shown: float) -> float:
        """The SI value of what the keypad shows."""
        return self.origin + shown * self.per_unit


class RowKind(StrEnum):
    """What a person does with a row: type it, check that it stands as it was when new, leave it, or nothing, because it cannot be."""

    CHANGE = "change"
    CHECK = "check"  # the plan relies on what a new device shows
    LEAVE = "leave"
    REFUSED = "refused"
    READING = "reading"  # looked at before and after the work, never typed


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
    base: float = 0.0  # in SI, what it is measured from, where its convention asks for that
    scale: Scale | None = None  # the keypad's, or that of the sensor that reads it
    harm: str = ""  # what follows where the number lies outside its window
    device: str = ""  # the id of the profile it belongs to


@dataclass(frozen=True, slots=True)
class EntrySheet:
    """What is typed, device by device."""

    profile: Profile
    rows: tuple[Row, ...]
    companions: tuple[Profile, ...] = ()

    @property
    def changes(self) -> tuple[Row, ...]:
        """What the person types, in keypad order; refused rows stand among them."""
        return tuple(row for row in self.rows if row.kind in (RowKind.CHANGE, RowKind.REFUSED))

    @property
    def checks(self) -> tuple[Row, ...]:
        """What a new device shows already and the plan relies on: looked at, not typed."""
        return tuple(row for row in self.rows if row.kind is RowKind.CHECK)

    @property
    def leaves(self) -> tuple[Row, ...]:
        """Rows of which this plan needs nothing."""
        return tuple(row for row in self.rows if row.kind is RowKind.LEAVE)

    @property
    def readings(self) -> tuple[Row, ...]:
        """What the devices only tell: hours, starts, software."""
        return tuple(row for row in self.rows if row.kind is RowKind.READING)

    def row(self, code: str) -> Row:
        """The row of a parameter code; KeyError if the sheet has none."""
        for row in self.rows:
            if row.parameter.code == code:
                return row
        raise KeyError(code)


def entry_sheet(
    profile: Profile, values: Mapping[str, KeypadValue], scale: Scale, companions: tuple[Profile, ...] = ()
) -> EntrySheet:
    """Convert what the plan wants into what the keypad shows. A value the keypad cannot hold is refused with a reason.

    companions: other devices set in the same job, after the first; each names itself in the menu.
    """
    rows: list[Row] = []
    pumps = values.get("pumps.count")
    for device in (profile, *companions):
        entries = device.entries(None if pumps is None else int(pumps.value), beside=device is not profile)
        bases = _bases(entries, values, scale)
        for parameter in entries:
            wanted = values.get(parameter.meaning) if parameter.meaning else None
            own = scale.on(None if wanted is None else wanted.reach)
            row = _row(len(rows) + 1, parameter, wanted, own, bases.get(parameter.base, 0.0))
            rows.append(replace(row, device=device.id))
    return EntrySheet(profile, as_shown(tuple(rows)), companions)


def _bases(entries: tuple[Parameter, ...], values: Mapping[str, KeypadValue], scale: Scale) -> dict[str, float]:
    """The values others are measured from, in SI, as the keypad holds them after rounding; else as the plan has them."""
    found = {}
    for meaning in {parameter.base for parameter in entries if parameter.base} & values.keys():
        found[meaning] = float(values[meaning].value)
        for parameter in entries:
            if parameter.meaning == meaning and not parameter.base:
                shown, trouble = _fitted(parameter, values[meaning], scale, 0.0)
                found[meaning] = found[meaning] if trouble else si_of(shown, parameter, scale)
                break
    return found


def _row(number: int, parameter: Parameter, wanted: KeypadValue | None, scale: Scale, base: float) -> Row:
    unit = parameter.shown_unit or (scale.display.value if parameter.unit in MAIN else parameter.unit.value)
    unknown = parameter.unit in MAIN and math.isnan(scale.span) and scale.display is Display.PERCENT_OF_SPAN
    default = "" if unknown else _default_shows(parameter, scale)
    if parameter.read_only:
        return Row(number, parameter, RowKind.READING, "", unit, "", "looked at before and after the work")
    if wanted is None and not unknown:
        return Row(number, parameter, RowKind.LEAVE, default, unit, default, "not used by this plan", base=base, scale=scale)
    why, setting = ("", "") if wanted is None else (wanted.reason, wanted.setting)
    shows, trouble = "", ""
    if unknown:
        trouble = (
            f"{parameter.code} is shown in per cent of its sensor's range, and that range is not noted in the survey."
        )
    elif parameter.options and wanted is not None:
        shows = parameter.options.get(str(wanted.value), "")
        if not shows:
            trouble = f"{parameter.code} offers {', '.join(parameter.options.values())}, not {wanted.value}."
    elif parameter.base and not base:
        trouble = f"{parameter.code} is measured from a value this plan does not have."
    elif wanted is not None:
        shown, trouble = _fitted(parameter, wanted, scale, base)
        shows = "" if trouble else f"{shown:.{_decimals(parameter, scale)}f}"
    row = Row(number, parameter, RowKind.REFUSED, shows, unit, default, why, trouble, setting, None, base, scale)
    if trouble or wanted is None:
        return row
    kind = RowKind.CHECK if shows == default else RowKind.CHANGE
    if parameter.options:
        return replace(row, kind=kind)
    held = si_of(float(shows), parameter, scale, base)
    harm = harm_outside(wanted.window, held)
    if abs(held - float(wanted.value)) > wanted.near:
        asked, off = on_keypad(float(wanted.value), parameter, scale, base), abs(held - float(wanted.value)) / wanted.near * NEAR_SPAN
        harm = f"The display cannot say {asked:.4g} more closely: every reading is off by up to {off:.1%} of the span."
    return replace(row, kind=kind, value=held, harm=harm)


def as_shown(rows: tuple[Row, ...]) -> tuple[Row, ...]:
    """The same with what hangs on other rows: shown only while they show something, and no farther than their numbers."""
    shown = {(row.device, row.parameter.code): row.shows or row.default_shows for row in rows}
    return tuple(_hanging(row, shown) if row.parameter.when or row.parameter.at_least or row.parameter.at_most else row for row in rows)


def _hanging(row: Row, shown: Mapping[tuple[str, str], str]) -> Row:
    parameter = row.parameter
    for code, text in parameter.when.items():
        if shown.get((row.device, code)) in text.split("|"):
            continue
        if row.kind in (RowKind.CHECK, RowKind.LEAVE):
            return replace(row, kind=RowKind.LEAVE, reason=f"not shown while {code} does not show {text.replace('|', ' or ')}")
        return replace(row, kind=RowKind.REFUSED, shows="", value=None, trouble=f"{parameter.code} is shown only while {code} shows {text.replace('|', ' or ')}.")
    for code, side in ((parameter.at_least, 1.0), (parameter.at_most, -1.0)):
        try:
            own, other = float(row.shows), float(shown.get((row.device, code), ""))
        except ValueError:
            continue
        if row.kind is RowKind.CHANGE and side * (own - other) < 0.0:
            way = "less" if side > 0.0 else "more"
            return replace(row, kind=RowKind.REFUSED, shows="", value=None, trouble=f"{parameter.code} takes no {way} than {code} shows: {other:g}. {own:g} does not fit.")
    return row


def harm_outside(window: Window | None, value: float) -> str:
    """What follows where a number lies outside its window; empty where it lies inside or has none."""
    if window is None:
        return ""
    slack = _SLACK * max(1.0, abs(value)) if math.isfinite(value) else 0.0
    sides = (value < window.low - slack, window.governing_lower), (value > window.high + slack, window.governing_upper)
    return " ".join(bound.harm for beyond, bound in sides if beyond)


def si_of(shown: float, parameter: Parameter, scale: Scale, base: float = 0.0) -> float:
    """What a number on the keypad means in SI. base: the value in SI it is measured from, by its convention."""
    shown *= parameter.display_factor
    match parameter.convention:
        case Convention.SHARE_OF:
            return shown / 100.0 * base
        case Convention.DROP_BELOW:
            return base - shown * scale.per_unit
        case Convention.RISE_ABOVE:
            return base + shown * scale.per_unit
        case Convention.BAND:
            return 100.0 / shown if shown else math.inf
        case Convention.REPEATS:
            return 60.0 / shown if shown else math.inf
    if parameter.unit in STEPS:
        return shown * scale.per_unit
    if parameter.unit in MAIN:
        return scale.si(shown)
    return shown / scale.factor(parameter.unit)


def on_keypad(value_si: float, parameter: Parameter, scale: Scale, base: float) -> float:
    """The inverse of si_of."""
    return _undivided(value_si, parameter, scale, base) / parameter.display_factor


def _undivided(value_si: float, parameter: Parameter, scale: Scale, base: float) -> float:
    match parameter.convention:
        case Convention.SHARE_OF:
            return value_si / base * 100.0
        case Convention.DROP_BELOW:
            return (base - value_si) / scale.per_unit
        case Convention.RISE_ABOVE:
            return (value_si - base) / scale.per_unit
        case Convention.BAND:
            return 100.0 / value_si if value_si else math.inf
        case Convention.REPEATS:
            return 60.0 / value_si if value_si else math.inf
    if parameter.unit in STEPS:
        return value_si / scale.per_unit
    if parameter.unit in MAIN:
        return scale.shown(value_si)
    return value_si * scale.factor(parameter.unit)


def _is_main(parameter: Parameter) -> bool:
    """Whether it is shown on the scale of levels or pressures, with its step."""
    return parameter.unit in MAIN


def _decimals(parameter: Parameter, scale: Scale) -> int:
    return scale.decimals if _is_main(parameter) else parameter.decimals


def _default_shows(parameter: Parameter, scale: Scale) -> str:
    if parameter.default is None:
        return ""
    if parameter.options:
        return str(parameter.default)
    default = float(parameter.default)
    if _is_main(parameter):
        default = _edge(default, parameter, scale)
    return f"{default:.{_decimals(parameter, scale)}f}"


def _edge(value_si: float, parameter: Parameter, scale: Scale) -> float:
    """A limit or default of a level or pressure, which stands in SI in the profile, as the keypad shows it."""
    differs = parameter.convention is not Convention.ABSOLUTE or parameter.unit in STEPS
    return value_si / scale.per_unit if differs else scale.shown(value_si)


def shown_limits(parameter: Parameter, scale: Scale) -> tuple[float, float]:
    """The least and the most that a display can show of a number."""
    if not _is_main(parameter):
        return parameter.low, parameter.high
    return _edge(parameter.low, parameter, scale), _edge(parameter.high, parameter, scale)


def _fitted(parameter: Parameter, wanted: KeypadValue, scale: Scale, base: float) -> tuple[float, str]:
    """The number as the keypad can hold it, or why it cannot."""
    value = float(wanted.value)
    is_main = _is_main(parameter)
    step = scale.step if is_main else 10.0**-parameter.decimals
    low, high = shown_limits(parameter, scale)
    exact = on_keypad(value, parameter, scale, base)
    if not low - 1e-9 <= exact <= high + 1e-9:
        nearest = min(max(exact, low), high)
        return math.nan, f"{parameter.code} takes {low:g} to {high:g}; {exact:.4g} does not fit. Nearest: {nearest:g}."
    window = wanted.window
    if window is not None and window.is_empty and not wanted.own:
        return math.nan, "Its window is empty: no number is right before one of its bounds moves. See Reckon, or type your own there."
    beyond = 0.0 if window is None else max(window.low - value, value - window.high)
    if window is None or beyond > _SLACK * max(1.0, abs(value)):
        return round_inside(exact, step, low, high), ""  # what a person set outside its window is not moved unseen
    edges = [on_keypad(edge, parameter, scale, base) for edge in (window.low, window.high)]
    lowest, highest = min(edges), max(edges)  # a drop turns them round
    shown = round_inside(exact, step, max(low, lowest), min(high, highest))
    if math.isnan(shown):
        nearest = round(exact / step) * step
        return math.nan, (
            f"No step of {step:g} lies inside the window {lowest:.3f} to {highest:.3f}. Nearest outside it: {nearest:g}."
        )
    return shown, ""
