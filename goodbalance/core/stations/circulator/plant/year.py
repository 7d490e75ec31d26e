"""What a ring costs in a year: heat it loses running and resting, and what the pump takes."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from goodbalance.core.stations.circulator.plant.equations import RingEquations, Warmth
from goodbalance.core.stations.circulator.plant.pieces import CARRIES_JM3K, Piece
from goodbalance.core.stations.shared.week import WEEK_S, Spans, lasts_s, rests

YEAR_S = 365.0 * 86400.0


@dataclass(frozen=True, slots=True)
class Costs:
    """What goes away in a year. [J]"""

    heat_j: float
    pump_j: float


def profile(eq: RingEquations, flows_m3s: Sequence[float], warm: Warmth, in_c: float) -> tuple[tuple[Piece, float, float], ...]:
    """Every piece with the temperature at its begin and its flow, running steadily."""
    found: list[tuple[Piece, float, float]] = [(eq.there, in_c, sum(flows_m3s))]
    for number, (pipe, flow) in enumerate(zip(eq.pipes, flows_m3s)):
        found += [(pipe.there, warm.divides_c, flow), (pipe.back, eq.emits_c(number, warm.taps_c[number], flow), flow)]
    if eq.back is not None:
        found.append((eq.back, warm.meets_c, sum(flows_m3s)))
    return tuple(found)


def lost_w(eq: RingEquations, flows_m3s: Sequence[float], warm: Warmth, in_c: float) -> float:
    """Heat lost by all pipes, running steadily; what heaters give to rooms is not lost. Source: heat that the water carries less at each piece's end."""
    return sum(CARRIES_JM3K * flow * (begins_c - piece.leaves_c(begins_c, flow)) for piece, begins_c, flow in profile(eq, flows_m3s, warm, in_c))


def mean_over_k(piece: Piece, begins_c: float, flow_m3s: float) -> float:
    """How far a piece's water is over its air in the mean, running steadily: what it loses, over what a kelvin loses."""
    return CARRIES_JM3K * flow_m3s * (begins_c - piece.leaves_c(begins_c, flow_m3s)) / piece.lost_wk if flow_m3s > 0.0 else 0.0


def costs(eq: RingEquations, flows_m3s: Sequence[float], warm: Warmth, in_c: float, power_w: float, runs: Spans) -> Costs:
    """A year of a week's hours. While it rests each piece gives away what it holds, by its own time constant.

    Source: steady loss while it runs; C (T - T_a) (1 - e^(-t/tau)) in each rest.
    """
    running_s, rest_j = lasts_s(runs), 0.0
    pieces = profile(eq, flows_m3s, warm, in_c)
    for begin, end in rests(runs):
        for piece, begins_c, flow in pieces:
            rest_j += piece.holds_jk * mean_over_k(piece, begins_c, flow) * (1.0 - math.exp(-(end - begin) / piece.constant_s))
    week_j = lost_w(eq, flows_m3s, warm, in_c) * running_s + rest_j
    return Costs(week_j * YEAR_S / WEEK_S, power_w * running_s * YEAR_S / WEEK_S)
