"""Checking a scaled input: what stands before the sensor against what the display shows, and the scaling that would be right."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.signals import Scaling, SignalRange


@dataclass(frozen=True, slots=True)
class CheckPoint:
    """One point of the check sheet, both in the unit of the display."""

    true: float
    shown: float


@dataclass(frozen=True, slots=True)
class CheckedScaling:
    """A check worked out. Errors are shares of the span; corrected values are what should be entered at zero and full."""

    points: tuple[CheckPoint, ...]
    errors: tuple[float, ...]
    zero_error: float
    span_error: float
    bend: float  # largest distance of a point from the straight line: what no scaling can mend
    corrected_zero: float
    corrected_full: float

    @property
    def worst_error(self) -> float:
        """The error farthest from zero."""
        return max(self.errors, key=abs)

    @property
    def offset(self) -> float:
        """What added to every reading brings the points right in the mean, zero and span left as they are."""
        return sum(point.true - point.shown for point in self.points) / len(self.points)

    @property
    def left_by_offset(self) -> float:
        """The worst error that such an offset leaves, a share of the span."""
        mean = sum(self.errors) / len(self.errors)
        return max((error - mean for error in self.errors), key=abs)

    def keeps(self, allowed: float) -> bool:
        """Whether every point is within an allowed share of the span."""
        return abs(self.worst_error) <= allowed + 1e-12


def check_scaling(points: tuple[CheckPoint, ...], zero: float, full: float) -> CheckedScaling:
    """Errors of a linear scaling from zero to full, by the straight line through the points (least squares).

    shown = a + b true. Zero error: a + b zero - zero; span error: (b - 1); both as shares of the span. The display
    turns a signal share s into zero + s (full - zero); the truth is (shown - a)/b, so the right entries are
    (zero - a)/b and (full - a)/b. Two points give the line exactly; more show the bend.
    Raises OutOfRange with fewer than two different points, or where the display does not follow.
    """
    span = full - zero
    if span == 0.0:
        raise OutOfRange("full", full, f"other than {zero:g}")
    trues = [point.true for point in points]
    if len(set(trues)) < 2:
        raise OutOfRange("points", len(set(trues)), "two or more different ones")
    mean_true, mean_shown = sum(trues) / len(points), sum(point.shown for point in points) / len(points)
    spread = sum((point.true - mean_true) ** 2 for point in points)
    slope = sum((p.true - mean_true) * (p.shown - mean_shown) for p in points) / spread
    if not slope > 0.05:
        raise OutOfRange("shown", points[-1].shown, "numbers that rise with the true ones: the display does not follow")
    offset = mean_shown - slope * mean_true
    return CheckedScaling(
        points,
        tuple((point.shown - point.true) / span for point in points),
        (offset + slope * zero - zero) / span,
        slope - 1.0,
        max(abs(point.shown - offset - slope * point.true) for point in points) / abs(span),
        (zero - offset) / slope,
        (full - offset) / slope,
    )


def worked_out(signal: SignalRange, check: Mapping[str, Any]) -> CheckedScaling:
    """A check as the record holds it, in SI. A signal that was applied stands for what the scaling entered makes of it."""
    zero, full = check["zero"], check["full"]
    trues = [point["applied"] for point in check["points"]]
    if check["by"] == "signal":
        scaling = Scaling(signal.low, signal.high, zero, full)
        trues = [scaling.value(applied) for applied in trues]
    points = tuple(CheckPoint(true, point["shown"]) for true, point in zip(trues, check["points"]))
    return check_scaling(points, zero, full)
