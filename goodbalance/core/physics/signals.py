"""Sensor signals: linear scaling, what a sensor can see, and when its signal means failure."""

import math
from dataclasses import dataclass

from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.errors import OutOfRange


@dataclass(frozen=True, slots=True)
class Scaling:
    """A straight line from signal to value: y = y0 + (s - s0) / (s1 - s0) * (y1 - y0)."""

    signal_low: float
    signal_high: float
    value_low: float
    value_high: float

    def __post_init__(self) -> None:
        if not self.signal_high > self.signal_low:
            raise OutOfRange("signal_high", self.signal_high, f"more than {self.signal_low}")
        if not self.value_high != self.value_low:
            raise OutOfRange("value_high", self.value_high, f"not equal to {self.value_low}")

    def value(self, signal: float) -> float:
        """The measured value at this signal."""
        share = (signal - self.signal_low) / (self.signal_high - self.signal_low)
        return self.value_low + share * (self.value_high - self.value_low)

    def signal(self, value: float) -> float:
        """The signal at this measured value."""
        share = (value - self.value_low) / (self.value_high - self.value_low)
        return self.signal_low + share * (self.signal_high - self.signal_low)


    def is_as(self, other: "Scaling") -> bool:
        """Whether another is the same line, but for the last digits of its arithmetic."""
        pairs = zip((self.signal_low, self.signal_high, self.value_low, self.value_high), (other.signal_low, other.signal_high, other.value_low, other.value_high))
        return all(math.isclose(one, two, rel_tol=1e-9, abs_tol=1e-12) for one, two in pairs)


@dataclass(frozen=True, slots=True)
class SignalRange:
    """A kind of analog signal: what stands for 0 and 100 %, where a healthy sensor stops, what means failure.

    fail_low is None for a signal that starts at zero: there a broken wire reads as an empty well.
    opened and shorted are what the input sees with a broken and with a shorted loop.
    """

    low: float
    high: float
    fail_low: float | None
    fail_high: float
    lowest: float
    highest: float
    opened: float
    shorted: float
    quantity: Quantity

    @property
    def has_live_zero(self) -> bool:
        """Zero is told by a signal above nothing, so that a broken wire can be told from it."""
        return self.fail_low is not None

    def has_failed(self, signal: float) -> bool:
        """Whether the signal means a failed sensor or loop; NaN counts as failed."""
        if self.fail_low is None:
            return not signal < self.fail_high
        return not self.fail_low < signal < self.fail_high

    def healthy(self, signal: float) -> float:
        """What a healthy sensor gives when asked for this signal: it stops at its ends."""
        return min(max(signal, self.lowest), self.highest)


# NAMUR NE 43: a transmitter measures from 3.8 to 20.5 mA; 3.6 mA or less and 21 mA or more mean failure.
MA_4_20 = SignalRange(0.004, 0.020, 0.0036, 0.021, 0.0038, 0.0205, 0.0, 0.024, Quantity.LOOP_CURRENT)
MA_0_20 = SignalRange(0.0, 0.020, None, 0.021, 0.0, 0.0205, 0.0, 0.024, Quantity.LOOP_CURRENT)
V_0_10 = SignalRange(0.0, 10.0, None, 10.5, 0.0, 10.25, 0.0, 0.0, Quantity.SIGNAL_VOLTAGE)


WORST_LOOP_A = 0.022  # what a failed transmitter may draw, NAMUR NE 43


def left_for_transmitter_v(supply_v: float, loop_ohm: float) -> float:
    """What a loop's supply leaves for its transmitter at the worst current: V - 0.022 A (R_input + R_cable). [V]

    Source: Ohm's law; the current is that of NAMUR NE 43.

    >>> round(left_for_transmitter_v(24.0, 300.0), 3)
    17.4
    """
    if not loop_ohm >= 0.0:
        raise OutOfRange("loop_ohm", loop_ohm, "0 or more")
    return supply_v - WORST_LOOP_A * loop_ohm


@dataclass(frozen=True, slots=True)
class Reading:
    """One level or pressure as its instruments show it. signal is in amperes or volts, as its quantity says."""

    value: float
    share: float
    signal: float
    quantity: Quantity
    counts: int
    by_float: bool = False

    def worded(self, system: UnitSystem) -> str:
        """For example: 24.5 % of span, 7.92 mA, 980 counts."""
        if self.by_float:
            return "no reading, a float hangs there"
        signal = show(self.signal, self.quantity, system)
        return f"{self.share * 100.0:.1f} % of span, {signal}, {self.counts} counts"

    def ways(self, system: UnitSystem) -> dict[str, str]:
        """The same one by one: per cent of span, signal, counts; nothing where a float knows the level."""
        if self.by_float:
            return {}
        signal = show(self.signal, self.quantity, system)
        return {"span": f"{self.share * 100.0:.1f} %", "signal": signal, "counts": str(self.counts)}
