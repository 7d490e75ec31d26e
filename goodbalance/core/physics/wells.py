"""Wet wells and tanks: area and volume by level, and back."""

import math
from dataclasses import dataclass
from itertools import accumulate

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.water import GRAVITY_MS2


@dataclass(frozen=True, slots=True)
class Piece:
    """A slice of a well between two heights. Areas may differ (benching); sides are then straight, similar shapes."""

    bottom_m: float
    top_m: float
    bottom_area_m2: float
    top_area_m2: float

    def area_m2(self, level_m: float) -> float:
        """Plan area at a level inside this piece: the square root of the area changes linearly with height."""
        if self.bottom_area_m2 == self.top_area_m2:
            return self.bottom_area_m2
        share = (level_m - self.bottom_m) / (self.top_m - self.bottom_m)
        root = math.sqrt(self.bottom_area_m2) * (1.0 - share) + math.sqrt(self.top_area_m2) * share
        return root * root

    def volume_m3(self, level_m: float) -> float:
        """Volume below a level inside this piece: frustum, V = h/3 (A0 + A + sqrt(A0 A))."""
        height_m = min(max(level_m, self.bottom_m), self.top_m) - self.bottom_m
        if self.bottom_area_m2 == self.top_area_m2:
            return height_m * self.bottom_area_m2
        area_m2 = self.area_m2(self.bottom_m + height_m)
        return height_m / 3.0 * (self.bottom_area_m2 + area_m2 + math.sqrt(self.bottom_area_m2 * area_m2))

    def level_m(self, volume_m3: float) -> float:
        """Level over this much of the piece's own water: inverse of volume_m3.

        With r = sqrt(A) = r0 + s h the volume is (r^3 - r0^3)/(3 s), so h = ((r0^3 + 3 s V)^(1/3) - r0)/s. Where the sides
        are all but upright rounding would eat that: then h = V/A0, made better by Newton's method.
        """
        if self.bottom_area_m2 == self.top_area_m2:
            return self.bottom_m + volume_m3 / self.bottom_area_m2
        root = math.sqrt(self.bottom_area_m2)
        slope = (math.sqrt(self.top_area_m2) - root) / (self.top_m - self.bottom_m)
        if abs(slope) * (self.top_m - self.bottom_m) > 1e-3 * root:
            return self.bottom_m + (math.cbrt(root**3 + 3.0 * slope * volume_m3) - root) / slope
        level_m = self.bottom_m + volume_m3 / self.bottom_area_m2
        for _ in range(2 if slope else 0):
            level_m -= (self.volume_m3(level_m) - volume_m3) / self.area_m2(level_m)
        return level_m


class Well:
    """A well built of stacked pieces, floor first. Heights are above the floor of the lowest piece."""

    def __init__(self, pieces: tuple[Piece, ...]) -> None:
        if not pieces:
            raise OutOfRange("pieces", 0, "at least one")
        for piece in pieces:
            if not piece.top_m > piece.bottom_m:
                raise OutOfRange("top_m", piece.top_m, f"more than {piece.bottom_m}")
            if not (piece.bottom_area_m2 > 0.0 and piece.top_area_m2 > 0.0):
                raise OutOfRange("area_m2", min(piece.bottom_area_m2, piece.top_area_m2), "more than 0")
        for lower, upper in zip(pieces, pieces[1:]):
            if not abs(lower.top_m - upper.bottom_m) < 1e-9:
                raise OutOfRange("bottom_m", upper.bottom_m, f"{lower.top_m}, the top of the piece below")
        self.pieces = pieces
        self.floor_m, self.top_m = pieces[0].bottom_m, pieces[-1].top_m
        each_m3 = [piece.volume_m3(piece.top_m) for piece in pieces]
        self._below_m3 = tuple(accumulate(each_m3, initial=0.0))  # under each piece, and at last under the top
        self.volume_at_top_m3 = self._below_m3[-1]

    def area_m2(self, level_m: float) -> float:
        """Plan area at a level; below the floor and above the top the nearest piece counts."""
        for piece in self.pieces:
            if level_m < piece.top_m:
                return piece.area_m2(max(level_m, piece.bottom_m))
        return self.pieces[-1].top_area_m2

    def volume_m3(self, level_m: float) -> float:
        """Volume between the floor and a level. Above the top the well is taken to go on with its top area."""
        if level_m <= self.floor_m:
            return 0.0
        for piece, below_m3 in zip(self.pieces, self._below_m3):
            if level_m < piece.top_m:
                return below_m3 + piece.volume_m3(level_m)
        return self.volume_at_top_m3 + (level_m - self.top_m) * self.pieces[-1].top_area_m2

    def level_m(self, volume_m3: float) -> float:
        """Level that holds this volume: inverse of volume_m3. Raises OutOfRange if negative."""
        if not volume_m3 >= 0.0:
            raise OutOfRange("volume_m3", volume_m3, "0 or more")
        if volume_m3 >= self.volume_at_top_m3:
            return self.top_m + (volume_m3 - self.volume_at_top_m3) / self.pieces[-1].top_area_m2
        for piece, below_m3, upto_m3 in zip(self.pieces, self._below_m3, self._below_m3[1:]):
            if volume_m3 <= upto_m3:
                return piece.level_m(volume_m3 - below_m3)
        return self.top_m

    def level_after_m(self, level_m: float, volume_m3: float) -> float:
        """Where the water stands after so much came in (or left, below 0). Under the floor the well is taken to go on."""
        asked_m3 = self.volume_m3(level_m) + volume_m3
        return self.level_m(asked_m3) if asked_m3 >= 0.0 else self.floor_m + asked_m3 / self.pieces[0].bottom_area_m2

    def mean_area_m2(self, level_m: float, volume_m3: float) -> float:
        """The area by which so much water moves the level: V over the way from this level; where nothing moves, the area there."""
        way_m = self.level_after_m(level_m, volume_m3) - level_m
        return volume_m3 / way_m if abs(way_m) > 1e-12 else self.area_m2(level_m)


def circle_area_m2(diameter_m: float) -> float:
    """Plan area of a round well: pi D^2 / 4.

    Source: geometry.
    """
    if not diameter_m > 0.0:
        raise OutOfRange("diameter_m", diameter_m, "more than 0")
    return math.pi * diameter_m**2 / 4.0


def straight_well(area_m2: float, depth_m: float) -> Well:
    """A well with the same area from floor to top."""
    return Well((Piece(0.0, depth_m, area_m2, area_m2),))


def with_second_well(first: Well, second_area_m2: float, joined_above_m: float) -> Well:
    """Two wells as one: above the joining pipe both areas count, below it the first well alone.

    The second well's water below the joining pipe never moves, so it is not counted.
    """
    if not second_area_m2 > 0.0:
        raise OutOfRange("second_area_m2", second_area_m2, "more than 0")
    pieces = []
    for piece in first.pieces:
        if joined_above_m >= piece.top_m:
            pieces.append(piece)
            continue
        if joined_above_m > piece.bottom_m:
            pieces.append(Piece(piece.bottom_m, joined_above_m, piece.bottom_area_m2, piece.area_m2(joined_above_m)))
        bottom_m = max(piece.bottom_m, joined_above_m)
        slices = 1 if piece.bottom_area_m2 == piece.top_area_m2 else 16  # a sum of a cone and a prism is neither
        for index in range(slices):
            low_m = bottom_m + (piece.top_m - bottom_m) * index / slices
            high_m = bottom_m + (piece.top_m - bottom_m) * (index + 1) / slices
            areas = (piece.area_m2(low_m) + second_area_m2, piece.area_m2(high_m) + second_area_m2)
            pieces.append(Piece(low_m, high_m, *areas))
    return Well(tuple(pieces))


def vortex_submergence_m(bell_diameter_m: float, flow_m3s: float) -> float:
    """Submergence over the intake that keeps an air-drawing vortex away: S = D (1 + 2.3 Fr), Fr = v / sqrt(g D). [m]

    Source: ANSI/HI 9.8, for an intake bell of diameter D with mean velocity v through it.
    """
    if not bell_diameter_m > 0.0:
        raise OutOfRange("bell_diameter_m", bell_diameter_m, "more than 0")
    velocity_ms = flow_m3s / circle_area_m2(bell_diameter_m)
    return bell_diameter_m * (1.0 + 2.3 * velocity_ms / math.sqrt(GRAVITY_MS2 * bell_diameter_m))


def shortest_cycle_s(active_volume_m3: float, pump_flow_m3s: float) -> float:
    """Shortest time between two starts of one fixed-speed pump on a wet well: T = 4 V / Q. [s]

    At constant inflow i the well fills in V/i and empties in V/(Q - i). The sum is least at i = Q/2.

    Source: classic pump-well sizing.

    >>> shortest_cycle_s(active_volume_m3=1.5, pump_flow_m3s=0.020)
    300.0
    """
    if not active_volume_m3 >= 0.0:
        raise OutOfRange("active_volume_m3", active_volume_m3, "0 or more")
    if not pump_flow_m3s > 0.0:
        raise OutOfRange("pump_flow_m3s", pump_flow_m3s, "more than 0")
    return 4.0 * active_volume_m3 / pump_flow_m3s


def active_volume_for_cycle_m3(pump_flow_m3s: float, cycle_s: float) -> float:
    """Volume between stop and start so that no inflow starts the pump sooner than every cycle_s: V = Q T / 4. [m3]

    Source: classic pump-well sizing.
    """
    if not pump_flow_m3s > 0.0:
        raise OutOfRange("pump_flow_m3s", pump_flow_m3s, "more than 0")
    if not cycle_s > 0.0:
        raise OutOfRange("cycle_s", cycle_s, "more than 0")
    return pump_flow_m3s * cycle_s / 4.0


def cycle_s(active_volume_m3: float, pump_flow_m3s: float, inflow_m3s: float) -> float:
    """Time between two starts at this inflow: T = V/i + V/(Q - i). Infinite with no inflow or when the pump is outrun.

    Source: mass balance: fill time plus emptying time.
    """
    if not 0.0 < inflow_m3s < pump_flow_m3s:
        return math.inf
    return active_volume_m3 / inflow_m3s + active_volume_m3 / (pump_flow_m3s - inflow_m3s)
