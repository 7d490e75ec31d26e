"""Pump head curves, and several pumps side by side on one main."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from scipy.optimize import brentq

from goodbalance.core.errors import NoSolution, OutOfRange
from goodbalance.core.physics.pipework import Main

LEAST_SHARE = 1e-4  # of full speed


@dataclass(frozen=True)
class HeadCurve:
    """Head over flow as a least-squares parabola H = a + b Q + c Q^2 through three or more points; b is 0 or less where they fall.

    points: (flow_m3s, head_m) pairs with different flows.
    """

    points: tuple[tuple[float, float], ...]

    def __post_init__(self) -> None:
        if len({flow for flow, _ in self.points}) < 3:
            raise OutOfRange("points", len(self.points), "three or more points at different flows")

    @cached_property
    def coefficients(self) -> tuple[float, float, float]:
        """(a, b, c) of H = a + b Q + c Q^2 [m, m/(m3/s), m/(m3/s)^2].

        Source: least squares through the maker's points.
        """
        flows, heads = zip(*self.points)
        scale = max(flows)  # fit in Q/Qmax so that the squares stay well conditioned
        shares, lifts = np.array(flows) / scale, np.array(heads)
        c, b, a = np.polyfit(shares, lifts, 2).tolist()
        falls = all(later <= earlier for (_, earlier), (_, later) in zip(sorted(self.points), sorted(self.points)[1:]))
        if b > 0.0 and falls:  # a curve flat at no flow must not be fitted as one that rises there
            (a, c), b = np.linalg.lstsq(np.column_stack([np.ones_like(shares), shares**2]), lifts)[0].tolist(), 0.0
        return a, b / scale, c / scale**2

    @cached_property
    def worst_residual_m(self) -> float:
        """Largest distance of a typed point from the fitted curve. [m]"""
        return max(abs(self.head_m(flow) - head) for flow, head in self.points)

    @property
    def shut_off_head_m(self) -> float:
        """Head at no flow."""
        return self.coefficients[0]

    @property
    def last_flow_m3s(self) -> float:
        """The largest flow the curve was given for."""
        return max(flow for flow, _ in self.points)

    def head_m(self, flow_m3s: float) -> float:
        """Head at a flow and full speed. [m]"""
        a, b, c = self.coefficients
        return a + (b + c * flow_m3s) * flow_m3s

    def is_falling(self) -> bool:
        """Whether head falls all the way from no flow to the last given flow (a rising part has two flows for one head)."""
        _, b, c = self.coefficients
        return b <= 1e-9 and b + 2.0 * c * self.last_flow_m3s < 0.0

    def flow_m3s(self, head_m: float) -> float:
        """Flow at a head: the larger root of the parabola; 0 at or above the shut-off head (the check valve stays shut).

        Source: the quadratic formula on the fitted curve.
        """
        a, b, c = self.coefficients
        rest = a - head_m
        if rest <= 0.0:
            return 0.0
        if abs(c) < 1e-12:
            return -rest / b if b < 0.0 else 0.0
        square = b * b - 4.0 * c * rest
        if square < 0.0:
            raise NoSolution(f"the head curve never falls to {head_m:.2f} m")
        root = (-b - math.sqrt(square)) / (2.0 * c)
        return root if root > 0.0 else (-b + math.sqrt(square)) / (2.0 * c)


def between(at: float, places: Sequence[float], values: Sequence[float]) -> float:
    """A maker's points read straight from one to the next; beyond them the outer value. places rise."""
    if at <= places[0]:
        return values[0]
    for low, high, before, after in zip(places, places[1:], values, values[1:]):
        if at <= high:
            return before + (after - before) * (at - low) / (high - low)
    return values[-1]


@lru_cache(maxsize=2048)
def at_speed(curve: HeadCurve, share: float) -> HeadCurve:
    """The curve at a share of full speed, by affinity: flow goes with n, head with n squared. Exact for a parabola.

    Below LEAST_SHARE nothing is told from nothing any more, and squares of squares would not be numbers.

    Source: affinity laws of centrifugal pumps, ISO 9906 annex for speed.
    """
    if share == 1.0:
        return curve
    if not share > 0.0:
        raise OutOfRange("share", share, "more than 0")
    share = max(share, LEAST_SHARE)
    return HeadCurve(tuple((flow * share, head * share * share) for flow, head in curve.points))


@dataclass(frozen=True, slots=True)
class OperatingPoint:
    """Where pumps and main agree: total flow, head at the pumps, each pump's share."""

    flow_m3s: float
    head_m: float
    shares_m3s: tuple[float, ...]


def operating_point(curves: tuple[HeadCurve, ...], static_head_m: float, main: Main) -> OperatingPoint:
    """The point at which pumps in parallel meet the main: static head + losses = head of every pump.

    Flows add at equal head; a pump whose shut-off head is below the common head gives nothing.
    Found by bracketed root on the head between static and the highest shut-off head.

    Source: energy balance of pumps side by side on one main.
    """
    if not curves:
        return OperatingPoint(0.0, static_head_m, ())
    top_m = max(curve.shut_off_head_m for curve in curves)
    if top_m <= static_head_m:
        return OperatingPoint(0.0, static_head_m, (0.0,) * len(curves))

    def surplus_m(head_m: float) -> float:
        return head_m - static_head_m - main.loss_m(sum(curve.flow_m3s(head_m) for curve in curves))

    if surplus_m(static_head_m) == 0.0:  # a main without losses
        head_m = static_head_m
    else:
        head_m = float(brentq(surplus_m, static_head_m, top_m, xtol=1e-10))
    shares = tuple(curve.flow_m3s(head_m) for curve in curves)
    return OperatingPoint(sum(shares), head_m, shares)
