"""Warm water in the cold pipe of a crossover valve: how long a cold tap runs warm, and the flow that keeps that short."""

import math

from goodbalance.core.stations.circulator.plant.equations import RingEquations
from goodbalance.core.stations.circulator.plant.pieces import CARRIES_JM3K

HALVINGS = 48


def warm_s(eq: RingEquations, number: int, flow_m3s: float, tap_c: float, limit_c: float) -> float:
    """How long the cold tap of a branch runs warmer than a limit, 0 for the first; no end where what comes through its crossover valve meanwhile alone makes it so. [s]

    The cold pipe is warm for as far as the water that crosses stays over the limit on its way; that length, with its wall, has to be run out, while
    the valve goes on passing. Source: exponential cooling along the pipe, mixing at the tap, plug flow.
    """
    pipe, taken = eq.pipes[number].back, eq.survey.branches[number].tap_m3s
    if flow_m3s <= 0.0 or tap_c <= limit_c:
        return 0.0
    if flow_m3s >= taken:
        return math.inf
    mixed_c = (limit_c * taken - tap_c * flow_m3s) / (taken - flow_m3s)  # what the cold pipe may give so that the tap keeps the limit
    if mixed_c < eq.survey.heat.cold_c:
        return math.inf
    length_m = pipe.length_m
    if mixed_c > pipe.around_c:
        length_m = min(length_m, CARRIES_JM3K * flow_m3s / pipe.lost_wmk * math.log((tap_c - pipe.around_c) / (mixed_c - pipe.around_c)))
    return pipe.fills_m3 * length_m / pipe.length_m / (taken - flow_m3s)


def most_m3s(eq: RingEquations, number: int, divides_c: float, limit_c: float, time_s: float) -> float:
    """The largest flow with which a cold tap runs warm for no longer; nothing where every flow is too much. Source: bisection. [degrees C, s]"""
    there = eq.pipes[number].there

    def holds(flow_m3s: float) -> bool:
        return warm_s(eq, number, flow_m3s, there.leaves_c(divides_c, flow_m3s), limit_c) <= time_s

    low, high = 1e-8, eq.survey.branches[number].tap_m3s
    if not holds(low):
        return 0.0
    for _ in range(HALVINGS):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if holds(middle) else (low, middle)
    return low
