"""Sensor signals: linear scaling, what a sensor can see, and when its signal means failure."""

from dataclasses import dataclass

from goodbalance.core.errors import OutOfRange

# NAMUR NE 43: a transmitter measures between these currents and signals its own failure outside them.
NE43_MEASURE_LOW_A, NE43_MEASURE_HIGH_A = 0.0038, 0.0205
NE43_FAIL_LOW_A, NE43_FAIL_HIGH_A = 0.0036, 0.0210


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


def has_failed(current_a: float) -> bool:
    """Whether a 4-20 mA signal means a failed sensor or loop (NAMUR NE 43); NaN counts as failed."""
    return not NE43_FAIL_LOW_A < current_a < NE43_FAIL_HIGH_A
