"""The window of a setting: what bounds it from below and from above, and what would open it."""

import math
from dataclasses import dataclass, field
from enum import StrEnum

from goodbalance.core.balance.trail import Trail

RULE = "rule of thumb; edit it under Rules"  # who says a bound that anybody may set otherwise


class Source(StrEnum):
    """Who makes a bound. The tool defers to CODE and MAKER."""

    PHYSICS = "physics"
    RULE = "rule"
    CODE = "code"
    MAKER = "maker"
    CHOICE = "choice"


@dataclass(frozen=True, slots=True)
class Bound:
    """One limit of a window: where it lies, what makes it, and what happens beyond it."""

    value: float
    cause: str
    harm: str
    source: Source
    trail: Trail
    refers_to: str = ""  # the setting whose level it is built on, if any


@dataclass(frozen=True, slots=True)
class Opener:
    """One change that would open an empty window, found by reckoning again with the change made."""

    what: str  # names the fact and holds {now} and {needed}
    now: float
    needed: float
    quantity: str  # value of a Quantity, or "" where the change is a yes or no


@dataclass(frozen=True, slots=True)
class Window:
    """All candidate bounds of a setting. The tightest on each side governs."""

    lower: tuple[Bound, ...]
    upper: tuple[Bound, ...]
    openers: tuple[Opener, ...] = field(default=())

    @property
    def governing_lower(self) -> Bound:
        """The lower bound that counts: the highest."""
        return max(self.lower, key=lambda bound: bound.value)

    @property
    def governing_upper(self) -> Bound:
        """The upper bound that counts: the lowest."""
        return min(self.upper, key=lambda bound: bound.value)

    @property
    def low(self) -> float:
        """Where the window begins, in SI."""
        return self.governing_lower.value

    @property
    def high(self) -> float:
        """Where it ends, in SI."""
        return self.governing_upper.value

    @property
    def width(self) -> float:
        """High minus low; negative when the window is empty."""
        return self.high - self.low

    @property
    def is_empty(self) -> bool:
        """No value keeps both sides."""
        return not self.width >= -1e-9

    def holds(self, value: float) -> bool:
        """Whether a value lies inside, ends included (to a nanometre, for floating-point noise)."""
        return self.low - 1e-9 <= value <= self.high + 1e-9

    def lean(self, value: float) -> float:
        """Where a value stands: -1 on the lower bound, 0 in the middle, +1 on the upper; beyond when outside."""
        half = self.width / 2.0
        if self.is_empty or not half > 0.0:
            return 0.0
        return (value - (self.low + self.high) / 2.0) / half


def round_inside(value: float, step: float, low: float, high: float) -> float:
    """The multiple of `step` nearest to `value` that lies in low..high; NaN when the grid misses the window.

    A controller shows multiples of its step only, so a value just inside a bound may have to move
    a whole step away from it: rounding always goes toward the safer side, into the window.
    """
    count = round(value / step)
    lowest, highest = math.ceil(low / step - 1e-6), math.floor(high / step + 1e-6)
    if lowest > highest:
        return math.nan
    return round(min(max(count, lowest), highest) * step, 9)
