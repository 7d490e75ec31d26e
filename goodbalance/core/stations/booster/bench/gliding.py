"""When a booster set on the bench moves so slowly and so far from every limit that a few coarse steps take the place of many fine ones.

It glides where the pressure moves little and its pace hardly bends, and where nothing that the controller or a person compares
comes near its limit: each quantity must be farther from it than it can move until the next scan, by how it moved since the last look.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from goodbalance.core.stations.booster.names import Mode

GLIDES_S = (4.0, 2.0, 1.0)  # without a scan of the slow logic
PARTS_S = (0.5, 0.25)  # in which sensor, regulator, drives and water go on meanwhile
BEND_PA = 200.0  # by which a pressure may miss a straight line in one part
BOW_PA = 400.0  # and between the ends of the longest glide
SWEEP_PA = 3e4  # by which it may move in one glide
SURE = 1.5  # times as far as a quantity moves at its pace must its limit be

@dataclass(frozen=True, slots=True)
class Glance:
    """How everything stood at one instant: the pace of the pressure, and how far each quantity was beyond its limit."""

    at_s: float
    mode: Mode
    served: tuple[int, ...]
    pace_pas: float
    beyond: tuple[float, ...]
    margins: tuple[float, ...]  # by which noise may move each

    def follows(self, before: "Glance | None") -> bool:
        """Whether the same things were compared at the look before, so that both tell how they move."""
        return before is not None and before.at_s < self.at_s and before.mode is self.mode and before.served == self.served and len(before.beyond) == len(self.beyond)


@dataclass(frozen=True, slots=True)
class Glide:
    """How long the set is let go on without a scan, and in which parts. [s]"""

    lasts_s: float
    part_s: float


def glance(at_s: float, mode: Mode, served: tuple[int, ...], pace_pas: float, compared: Iterator[tuple[float, float, float]]) -> Glance:
    """How everything stands now. compared: each quantity, its limit, and by how much noise may move it; limits that are none are left out."""
    known = [(value - limit, margin) for value, limit, margin in compared if math.isfinite(limit)]
    return Glance(at_s, mode, served, pace_pas, tuple([beyond for beyond, _ in known]), tuple([margin for _, margin in known]))


def glide_of(now: Glance, before: Glance | None) -> Glide | None:
    """How the set can be let go on without a scan, the longest that is sure; None where it cannot."""
    if before is None or not now.follows(before) or now.mode in (Mode.BOOSTING, Mode.TESTING):
        return None
    since_s = now.at_s - before.at_s
    bend_pas2, pace_pas = abs(now.pace_pas - before.pace_pas) / since_s, abs(now.pace_pas)
    part_s = next((each for each in PARTS_S if bend_pas2 * each * each <= BEND_PA), None)
    if part_s is None:
        return None
    clear_s = _clear_s(now, before, since_s)
    for lasts_s in GLIDES_S:
        bow_pa = bend_pas2 * lasts_s * lasts_s / 8.0
        if lasts_s < clear_s and pace_pas * lasts_s + 4.0 * bow_pa <= SWEEP_PA and (bow_pa <= BOW_PA or lasts_s < GLIDES_S[0]):
            return Glide(lasts_s, part_s)
    return None


def _clear_s(now: Glance, before: Glance, since_s: float) -> float:
    """So long nothing that is compared can come to its limit. [s]"""
    clear_s = math.inf
    for here, there, margin in zip(now.beyond, before.beyond, now.margins):
        free, moved = abs(here) - margin, SURE * abs(here - there)
        if free <= 0.0:
            return 0.0
        if moved * clear_s > free * since_s:
            clear_s = free * since_s / moved
    return clear_s
