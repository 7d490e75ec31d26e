"""PID controllers: their three forms, the conventions of their dials, and one scan of the working controller.

Error in per cent of the sensor's span, output in per cent of full speed, unless a convention says otherwise. Changing
the span or the full speed changes the meaning of a gain.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

from goodbalance.core.errors import OutOfRange


class PidForm(StrEnum):
    """How a controller combines its three parts; the same numbers mean another thing in each."""

    INDEPENDENT = "independent"  # u = Kp e + Ki int(e) + Kd de/dt
    DEPENDENT = "dependent"  # u = Kc (e + int(e)/Ti + Td de/dt)
    SERIES = "series"  # u = K' (1 + 1/(Ti' s)) (1 + Td' s) e


@dataclass(frozen=True, slots=True)
class Gains:
    """Gains in the dependent form, to which all others are converted. Ti infinite: no integral. [%/%, s, s]"""

    kc: float
    ti_s: float
    td_s: float = 0.0

    def __post_init__(self) -> None:
        if not self.ti_s > 0.0:
            raise OutOfRange("ti_s", self.ti_s, "more than 0; leave it infinite for no integral")
        if not self.td_s >= 0.0:
            raise OutOfRange("td_s", self.td_s, "0 or more")

    def independent(self) -> tuple[float, float, float]:
        """(Kp, Ki [1/s], Kd [s]): Kp = Kc, Ki = Kc/Ti, Kd = Kc Td."""
        return self.kc, self.kc / self.ti_s, self.kc * self.td_s

    def series(self) -> tuple[float, float, float]:
        """(K', Ti', Td') of the series form, from Kc = K'(1 + Td'/Ti'), Ti = Ti' + Td', Td = Ti' Td'/(Ti' + Td').

        Raises OutOfRange where no series form exists: it needs Ti of at least 4 Td.
        """
        if self.td_s == 0.0:
            return self.kc, self.ti_s, 0.0
        if math.isinf(self.ti_s):
            return self.kc, math.inf, self.td_s
        rest = 1.0 - 4.0 * self.td_s / self.ti_s
        if rest < 0.0:
            raise OutOfRange("td_s", self.td_s, f"up to a quarter of Ti, {self.ti_s / 4.0:g}, in the series form")
        root = math.sqrt(rest)
        return self.kc * (1.0 + root) / 2.0, self.ti_s * (1.0 + root) / 2.0, self.ti_s * (1.0 - root) / 2.0

    @property
    def proportional_band(self) -> float:
        """100/Kc: the error that moves the output from end to end. [% of span]"""
        return 100.0 / self.kc if self.kc else math.inf

    @property
    def repeats_per_min(self) -> float:
        """60/Ti: how often a minute the integral repeats the proportional part.

        Source: definition of repeats.
        """
        return 60.0 / self.ti_s


def from_independent(kp: float, ki: float, kd: float = 0.0) -> Gains:
    """Kc = Kp, Ti = Kp/Ki, Td = Kd/Kp. Raises OutOfRange without proportional part.

    Source: algebra of the standard form, ISA-5.1 names.
    """
    if kp == 0.0:
        raise OutOfRange("kp", kp, "other than 0: without it there is no dependent form")
    return Gains(kp, kp / ki if ki else math.inf, kd / kp)


def from_series(gain: float, ti_s: float, td_s: float = 0.0) -> Gains:
    """Kc = K'(1 + Td'/Ti'), Ti = Ti' + Td', Td = Ti' Td'/(Ti' + Td'). Raises OutOfRange for times that are none.

    Source: algebra of the interacting form.
    """
    if not ti_s > 0.0:
        raise OutOfRange("ti_s", ti_s, "more than 0; leave it infinite for no integral")
    if not td_s >= 0.0:
        raise OutOfRange("td_s", td_s, "0 or more")
    if math.isinf(ti_s):
        return Gains(gain, math.inf, td_s)
    return Gains(gain * (1.0 + td_s / ti_s), ti_s + td_s, ti_s * td_s / (ti_s + td_s))


def gain_from_band(band_percent: float) -> float:
    """Kc from a proportional band in per cent of span.

    Source: definition of the proportional band.
    """
    if not band_percent > 0.0:
        raise OutOfRange("band_percent", band_percent, "more than 0")
    return 100.0 / band_percent


def gain_per_unit(kc: float, span: float, full_output: float = 100.0) -> float:
    """Output units per engineering unit of error, for controllers that take the error unscaled: Kc full/span."""
    if not span > 0.0:
        raise OutOfRange("span", span, "more than 0")
    return kc * full_output / span


def gain_from_unit(gain: float, span: float, full_output: float = 100.0) -> float:
    """Kc from output units per engineering unit of error: the inverse of gain_per_unit."""
    if not full_output > 0.0:
        raise OutOfRange("full_output", full_output, "more than 0")
    return gain * span / full_output


@dataclass
class Pid:
    """One working controller. The derivative acts on the filtered measurement, so that a new set point does not kick.

    Anti-windup: the integral carries the output to a limit and no further; away from it it moves at once.
    """

    gains: Gains
    low: float
    high: float
    filter_s: float = 0.0
    integral: float = 0.0
    measured: float | None = None  # filtered
    output: float = 0.0

    def scan(self, wanted: float, measured: float, elapsed_s: float) -> float:
        """The output after one scan. wanted and measured in % of span, elapsed time since the scan before."""
        before = measured if self.measured is None else self.measured
        share = 1.0 if self.filter_s <= 0.0 else 1.0 - math.exp(-elapsed_s / self.filter_s)
        self.measured = before + share * (measured - before)
        error = wanted - self.measured
        slope = (self.measured - before) / elapsed_s if elapsed_s > 0.0 else 0.0
        proportional = self.gains.kc * (error - self.gains.td_s * slope)
        step = self.gains.kc * error * elapsed_s / self.gains.ti_s
        now = proportional + self.integral
        if step > 0.0:
            self.integral += min(step, max(0.0, self.high - now))
        else:
            self.integral += max(step, min(0.0, self.low - now))
        self.output = min(self.high, max(self.low, proportional + self.integral))
        return self.output

    def take_over(self, output: float, wanted: float, measured: float) -> None:
        """Go on from a hand-set output without a jump."""
        self.measured, self.output = measured, output
        self.integral = output - self.gains.kc * (wanted - measured)
