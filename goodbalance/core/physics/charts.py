"""Numbers read off the picture of a chart: two marks on each straight axis say what a place on the picture is worth."""

import math
from dataclasses import dataclass
from itertools import pairwise

from goodbalance.core.errors import OutOfRange

LEAST_ANGLE_RAD = math.radians(20.0)  # axes that lie closer than this are one line to a finger
LEAST_APART = 8.0  # pixels between the two marks of an axis


@dataclass(frozen=True, slots=True)
class Mark:
    """A place on a picture [pixels, right and down] at which an axis has a value, in any unit."""

    x: float
    y: float
    value: float


@dataclass(frozen=True, slots=True)
class Axis:
    """A straight axis with even divisions, by two marks on it."""

    name: str
    first: Mark
    second: Mark

    @property
    def along(self) -> tuple[float, float]:
        """From the first mark to the second. [pixels]"""
        return self.second.x - self.first.x, self.second.y - self.first.y


def read_chart(across: Axis, up: Axis, points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """What each place of a picture is worth on both axes, the smallest `across` first.

    The picture may be turned or skewed: a value of one axis runs parallel to the other axis, so that with P = first mark,
    d = along: P + s d_across + t d_up is a place, and s, t its shares between the marks (a linear equation in two unknowns).
    Raises OutOfRange where marks or axes cannot be told apart, or two points stand at the same place across.
    """
    for axis in (across, up):
        if math.hypot(*axis.along) < LEAST_APART:
            raise OutOfRange(f"Between the two marks of the {axis.name} axis", f"{math.hypot(*axis.along):.0f} pixels", f"{LEAST_APART:g} or more")
        if axis.first.value == axis.second.value:
            raise OutOfRange(f"Each mark of the {axis.name} axis", f"{axis.first.value:g}", "two values")
    (ax, ay), (ux, uy) = across.along, up.along
    area = ax * uy - ay * ux
    if abs(area) < math.sin(LEAST_ANGLE_RAD) * math.hypot(ax, ay) * math.hypot(ux, uy):
        raise OutOfRange(f"The way of the {up.name} axis", f"that of the {across.name} axis", "axes that cross")
    found = []
    for x, y in points:
        from_across, from_up = (x - across.first.x, y - across.first.y), (x - up.first.x, y - up.first.y)
        share = (from_across[0] * uy - from_across[1] * ux) / area
        height = (ax * from_up[1] - ay * from_up[0]) / area
        found.append((_value(across, share), _value(up, height)))
    found.sort()
    for (one, _), (other, _) in pairwise(found):
        if other - one < 1e-6 * abs(across.second.value - across.first.value):
            raise OutOfRange(f"A point on the {across.name} axis", f"{one:.4g} a second time", "each place once")
    return found


def _value(axis: Axis, share: float) -> float:
    return axis.first.value + share * (axis.second.value - axis.first.value)
