"""When a booster set on the bench moves so slowly and so far from every limit that a few coarse steps take the place of many fine ones.

It glides where the pressure moves little and its pace hardly bends, and where nothing that the controller or a person compares
comes near its limit: each quantity must be farther from it than it can move until the next scan, by how it moved since the last look.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from goodbalance.core.stations.booster.names import Mode

GLIDE_S = 2.0  # without a scan of the slow logic
PARTS_S = (0.5, 0.25)  # in which sensor, regulator, drives and water go on meanwhile
BEND_PA = 200.0  # by which a pressure may miss a straight line in one part
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


def glance(at_s: float, mode: Mode, served: tuple[int, ...], pace_pas: float, compared: Iterator[tuple[float, float, float]]) -> Glance:
    """How everything stands now. compared: each quantity, its limit, and by how much noise may move it; limits that are none are left out."""
    known = [(value - limit, margin) for value, limit, margin in compared if math.isfinite(limit)]
    return Glance(at_s, mode, served, pace_pas, tuple([beyond for beyond, _ in known]), tuple([margin for _, margin in known]))


def glides_by(now: Glance, before: Glance | None) -> float:
    """The parts in which the set can be let go on for GLIDE_S without a scan; 0 where it cannot. [s]"""
    if before is None or now.mode is not before.mode or now.served != before.served or len(now.beyond) != len(before.beyond):
        return 0.0
    since_s = now.at_s - before.at_s
    if since_s <= 0.0 or now.mode in (Mode.BOOSTING, Mode.TESTING):
        return 0.0
    bend_pas2, ahead = abs(now.pace_pas - before.pace_pas) / since_s, SURE * GLIDE_S / since_s
    part_s = next((each for each in PARTS_S if bend_pas2 * each * each <= BEND_PA), 0.0)
    if not part_s or abs(now.pace_pas) * GLIDE_S + 0.5 * bend_pas2 * GLIDE_S * GLIDE_S > SWEEP_PA:
        return 0.0
    clear = all(abs(here) > margin + ahead * abs(here - there) for here, there, margin in zip(now.beyond, before.beyond, now.margins))
    return part_s if clear else 0.0
