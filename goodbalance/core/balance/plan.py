"""What reckoning gives back: settings in their windows, figures that follow from them, and findings."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.balance.trail import Term, Trail, Worded
from goodbalance.core.balance.window import Bound, Window, round_inside


class Severity(StrEnum):
    """How much a finding weighs: STOP must be solved first, CAUTION needs a look, NOTE informs."""

    STOP = "stop"
    CAUTION = "caution"
    NOTE = "note"


@dataclass(frozen=True, slots=True)
class Finding(Worded):
    """Something the reckoning noticed. `text` names its numbers as {symbol}; each edge words them in its units."""

    code: str
    severity: Severity
    subject: str  # the path of a fact, or the id of a setting
    text: str
    terms: tuple[Term, ...] = ()


class Standing(StrEnum):
    """How a value stands in its window."""

    INSIDE = "inside"
    NEAR_LOW = "near the low side"
    NEAR_HIGH = "near the high side"
    BELOW = "below the window"
    ABOVE = "above the window"
    EMPTY = "window empty"


NOT_USED_LEAN = -0.5  # of a timer at nothing: on the low side, and at rest
NEAR_EDGE_LEAN = 0.8  # beyond four fifths of the way to a bound a value counts as near it


TIMERS = "timers"  # the group whose windows span from seconds to hours
BY_RATIO = (TIMERS, "loop")  # groups whose windows span decades: measured by ratio, not by difference
DECADES = 50.0  # a time whose window spans so much, in whatever group, too


def _goes_by_ratio(group: str, quantity: Quantity, window: Window) -> bool:
    if quantity is Quantity.COUNT:
        return False
    return group in BY_RATIO or (quantity is Quantity.DURATION and 0.0 < DECADES * window.low < window.high)


def _lean_by_ratio(value: float, window: Window) -> float:
    low = max(window.low, 1e-3 * window.high)
    if not 0.0 < low < window.high:
        return 0.0
    return 2.0 * math.log(max(value, low / 2.0) / low) / math.log(window.high / low) - 1.0


@dataclass(frozen=True, slots=True)
class Setting:
    """One number to be set: its window, the recommended value, and what the person chose."""

    id: str
    label: str
    twin: str  # the regional twin of the label, given once as a hint
    quantity: Quantity
    window: Window
    recommended: float  # NaN when the window is empty
    chosen: float | None
    value: float  # what is in force: chosen, else recommended, else the lower bound
    step: float
    proved_by: str
    group: str = "levels"  # settings of one group stand together

    @property
    def lean(self) -> float:
        """Where the value stands: -1 on the lower bound, +1 on the upper. Timers and gains are measured by ratio, not by difference."""
        if self.window.is_empty or not _goes_by_ratio(self.group, self.quantity, self.window):
            return self.window.lean(self.value)
        return NOT_USED_LEAN if self._is_not_used else _lean_by_ratio(self.value, self.window)

    @property
    def more_decimals(self) -> int:
        """Decimals to show beside the usual ones, so that one step can be seen."""
        return 1 if self.quantity is Quantity.PERCENT and self.step < 0.01 else 0

    @property
    def _is_not_used(self) -> bool:
        """Whether this is a timer that stands at nothing, and may."""
        return self.group == TIMERS and self.value == self.window.low == 0.0

    @property
    def recommended_lean(self) -> float:
        """Where the recommended value stands."""
        if self.window.is_empty or not _goes_by_ratio(self.group, self.quantity, self.window):
            return self.window.lean(self.recommended)
        if self.recommended == self.window.low == 0.0:
            return NOT_USED_LEAN
        return _lean_by_ratio(self.recommended, self.window)

    @property
    def standing(self) -> Standing:
        """Whether the value stands in its window, leans to one side of it, or beyond."""
        if self.window.is_empty:
            return Standing.EMPTY
        if not self.window.holds(self.value):
            return Standing.BELOW if self.value < self.window.low else Standing.ABOVE
        lean = self.lean
        if abs(lean) <= NEAR_EDGE_LEAN or self.window.width <= 2.0 * self.step:
            return Standing.INSIDE
        return Standing.NEAR_LOW if lean < 0.0 else Standing.NEAR_HIGH


def placed(
    setting_id: str,
    labels: tuple[str, str],
    quantity: Quantity,
    window: Window,
    lean: float,
    step: float,
    chosen: float | None,
    proved_by: str,
    group: str,
) -> Setting:
    """A setting of its own: recommended a share `lean` of the way up its window (a timer by ratio), on the keypad's step.

    labels: the label and its regional twin.
    """  # fmt: skip
    if _goes_by_ratio(group, quantity, window) and 0.0 < window.low < window.high:
        wanted = window.low * (window.high / window.low) ** lean
    else:
        wanted = window.low + lean * max(0.0, window.width)
    recommended = math.nan if window.is_empty else round_inside(wanted, step, window.low, window.high)
    if math.isnan(recommended) and not window.is_empty:
        recommended = wanted  # no step of the keypad falls inside: the sheet will say so
    closed = next((edge for edge in (window.low, window.high) if math.isfinite(edge)), 0.0)  # where nothing fits
    value = chosen if chosen is not None else closed if window.is_empty else recommended
    label, twin = labels
    return Setting(setting_id, label, twin, quantity, window, recommended, chosen, value, step, proved_by, group)


@dataclass(frozen=True, slots=True)
class Figure:
    """A consequence of the whole plan, with the limit it should keep and whether it does."""

    id: str
    label: str
    value: float
    quantity: Quantity
    trail: Trail
    keeps: bool = True
    limit: str = ""  # the limit in words, numbers as {symbol}
    limit_terms: tuple[Term, ...] = ()

    def limit_worded(self, system: UnitSystem) -> str:
        """The limit in a person's units."""
        return self.limit.format(**{t.symbol: show(t.value, t.quantity, system) for t in self.limit_terms})


@dataclass(frozen=True, slots=True)
class Plan:
    """Settings in the order they stand in the station, consequences, and findings. declined: protections left out by choice."""

    settings: tuple[Setting, ...]
    figures: tuple[Figure, ...]
    findings: tuple[Finding, ...] = field(default=())
    declined: tuple[Setting, ...] = field(default=())

    def without(self, declined: Mapping[str, tuple[str, ...]]) -> "Plan":
        """The same without protections, by id, each with what goes with it."""
        gone = {*declined, *(other for others in declined.values() for other in others)}
        if not gone.intersection(setting.id for setting in self.settings):
            return self
        kept = tuple(setting for setting in self.settings if setting.id not in gone)
        return replace(self, settings=kept, declined=tuple(setting for setting in self.settings if setting.id in declined))

    def setting(self, setting_id: str) -> Setting:
        """The setting of that id; KeyError if this plan has none."""
        for setting in self.settings:
            if setting.id == setting_id:
                return setting
        raise KeyError(setting_id)

    def __contains__(self, setting_id: object) -> bool:
        return any(setting.id == setting_id for setting in self.settings)

    def group(self, name: str) -> tuple[Setting, ...]:
        """The settings of one group, in their order."""
        return tuple(setting for setting in self.settings if setting.group == name)

    def value(self, setting_id: str, otherwise: float) -> float:
        """The value in force of a setting, or `otherwise` where this plan has none."""
        return next((s.value for s in self.settings if s.id == setting_id), otherwise)

    def built_on(self, bound: Bound, below: bool) -> tuple[Bound, ...]:
        """The bounds a bound stands on, the first fact first: each refers to a level, whose own bound governs next.

        below: follow lower bounds (a level pushed up from the floor) or upper ones (pressed down from the top).
        """
        chain, seen = [bound], set()
        while chain[-1].refers_to and chain[-1].refers_to not in seen and chain[-1].refers_to in self:
            seen.add(chain[-1].refers_to)
            window = self.setting(chain[-1].refers_to).window
            chain.append(window.governing_lower if below else window.governing_upper)
        return tuple(reversed(chain))

    @property
    def is_sound(self) -> bool:
        """Whether every value in force lies inside its window."""
        return all(s.window.holds(s.value) and not s.window.is_empty for s in self.settings)
