"""How often pumps start: the assist pump's shortest cycle with one common stop level."""

import math

from scipy.optimize import brentq

from goodbalance.core.errors import OutOfRange


def assist_cycle_s(
    duty_volume_m3: float, assist_volume_m3: float, duty_m3s: float, both_m3s: float, inflow_m3s: float
) -> float:
    """Time between two starts of the assist pump when all pumps stop together at the stop level. [s]

    Volumes count from the stop level: to the duty start, and to the assist start. With inflow i between the
    rate q1 of the pumps already running and q2 of all together:
    empty V2/(q2 - i), fill without pumps V1/i, fill against the running pumps (V2 - V1)/(i - q1).
    Infinite where the assist is not needed or all pumps are outrun.
    """
    if not duty_m3s < inflow_m3s < both_m3s:
        return math.inf
    return (
        assist_volume_m3 / (both_m3s - inflow_m3s)
        + duty_volume_m3 / inflow_m3s
        + (assist_volume_m3 - duty_volume_m3) / (inflow_m3s - duty_m3s)
    )


def shortest_assist_cycle_s(duty_volume_m3: float, assist_volume_m3: float, duty_m3s: float, both_m3s: float) -> float:
    """The shortest assist cycle over all inflows, by golden-section search (the cycle is convex in the inflow). [s]"""
    if not both_m3s > duty_m3s:
        return math.inf
    shrink = (math.sqrt(5.0) - 1.0) / 2.0
    low, high = duty_m3s, both_m3s
    for _ in range(48):
        left, right = high - shrink * (high - low), low + shrink * (high - low)
        if assist_cycle_s(duty_volume_m3, assist_volume_m3, duty_m3s, both_m3s, left) < assist_cycle_s(
            duty_volume_m3, assist_volume_m3, duty_m3s, both_m3s, right
        ):
            high = right
        else:
            low = left
    return assist_cycle_s(duty_volume_m3, assist_volume_m3, duty_m3s, both_m3s, (low + high) / 2.0)


def assist_volume_for_cycle_m3(duty_volume_m3: float, duty_m3s: float, both_m3s: float, cycle_s: float) -> float:
    """Least volume from stop level to assist start so that the assist never starts sooner than cycle_s. [m3]

    Bracketed root of shortest_assist_cycle_s. Never less than the duty volume. The classic 4V/q with the
    increment q2 - q1 over the whole band would be too small here: up to the duty start the well fills
    with no pump running, which is faster.
    """
    if not cycle_s > 0.0:
        raise OutOfRange("cycle_s", cycle_s, "more than 0")
    increment_m3s = both_m3s - duty_m3s
    if not increment_m3s > 0.0:
        return duty_volume_m3

    def spare_s(volume_m3: float) -> float:
        return shortest_assist_cycle_s(duty_volume_m3, volume_m3, duty_m3s, both_m3s) - cycle_s

    if spare_s(duty_volume_m3) >= 0.0:
        return duty_volume_m3
    return float(brentq(spare_s, duty_volume_m3, duty_volume_m3 + increment_m3s * cycle_s, xtol=1e-7))
