"""Gains for a process with dead time, by several rules, and how robust a loop with them is."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from goodbalance.core.control.identification import Fopdt
from goodbalance.core.control.pid import Gains
from goodbalance.core.errors import OutOfRange


@dataclass(frozen=True, slots=True)
class Margins:
    """Robustness of a closed loop. Ms: largest sensitivity; the loop stays at least 1/Ms away from instability."""

    ms: float
    gain_margin: float
    phase_margin_deg: float


def simc(model: Fopdt, closed_s: float | None = None) -> Gains:
    """SIMC: Kc = T/(K (tc + theta)), Ti = min(T, 4 (tc + theta)). tc is theta unless given (Skogestad 2003).

    Source: Skogestad 2003.
    """
    wanted_s = _closed_s(model, model.dead_s if closed_s is None else closed_s)
    return Gains(
        model.time_s / (model.gain * (wanted_s + model.dead_s)), min(model.time_s, 4.0 * (wanted_s + model.dead_s))
    )


def lambda_tuning(model: Fopdt, closed_s: float | None = None) -> Gains:
    """Lambda: Kc = T/(K (lambda + theta)), Ti = T; lambda is three times the larger of T and theta unless given.

    Source: Dahlin 1968.
    """
    wanted_s = _closed_s(model, 3.0 * max(model.time_s, model.dead_s) if closed_s is None else closed_s)
    return Gains(model.time_s / (model.gain * (wanted_s + model.dead_s)), model.time_s)


def amigo(model: Fopdt) -> Gains:
    """AMIGO for PI: Kc = 0.15/K + (0.35 - theta T/(theta + T)^2) T/(K theta), Ti = 0.35 theta + 13 theta T^2/(T^2 + 12 theta T + 7 theta^2).

    Source: Hagglund and Astrom 2002.
    """
    k, theta, t = model.gain, _dead(model), model.time_s
    kc = 0.15 / k + (0.35 - theta * t / (theta + t) ** 2) * t / (k * theta)
    return Gains(kc, 0.35 * theta + 13.0 * theta * t * t / (t * t + 12.0 * theta * t + 7.0 * theta * theta))


def ziegler_nichols(model: Fopdt) -> Gains:
    """Ziegler-Nichols by step response for PI: Kc = 0.9 T/(K theta), Ti = theta/0.3. For comparison only: it swings.

    Source: Ziegler and Nichols 1942.
    """
    theta = _dead(model)
    return Gains(0.9 * model.time_s / (model.gain * theta), theta / 0.3)


def sensitivity(model: Fopdt, gains: Gains, frequencies: int = 300) -> float:
    """Ms of a PI loop alone, quickly: looked at where it peaks, from the slow swing of lag and reset to ten times 1/theta.

    Source: Ms = max |1/(1 + L)|, Astrom and Hagglund 1995.
    """
    if not gains.ti_s > 0.0:
        return math.inf
    return float(1.0 / np.abs(1.0 + gains.kc * _answer(model, gains.ti_s, frequencies)).min())


def _answer(model: Fopdt, ti_s: float, frequencies: int) -> np.ndarray:
    """What the open loop answers at a gain of one: K e^(-theta s)/(T s + 1) (1 + 1/(Ti s))."""
    dead_s = max(model.dead_s, 1e-3 * model.time_s)
    slowest = 0.01 / dead_s if math.isinf(ti_s) else min(0.01 / dead_s, 0.03 / math.sqrt(model.time_s * ti_s))
    s = 1j * slowest * np.exp(math.log(10.0 / dead_s / slowest) * _shares(frequencies))
    integral = 0.0 if math.isinf(ti_s) else 1.0 / (ti_s * s)
    return np.asarray(model.gain * (1.0 + integral) * np.exp(-model.dead_s * s) / (model.time_s * s + 1.0))


@lru_cache(maxsize=4)
def _shares(count: int) -> np.ndarray:
    """The way from the slowest frequency to the quickest, in equal steps of their logarithm."""
    return np.linspace(0.0, 1.0, count)


@dataclass(frozen=True, slots=True)
class CalmGains:
    """The gains that keep a sensitivity. Under `low` a short reset time swings slowly (0 where it never does), over `high` it hunts."""

    low: float
    high: float


def calm_gains(model: Fopdt, ti_s: float, ms: float) -> CalmGains | None:
    """The lively gains that keep Ms under a limit; None where there are none.

    With a reset time shorter than the lag Ms has a hill: a crawling loop is calm, a faster one swings slowly, for the
    integral runs ahead of the process, then comes the calm stretch below the edge of stability. That stretch is meant.

    At each frequency, with the loop's answer a at a gain of one, the gains between the roots k of
    |a|^2 k^2 + 2 Re(a) k + 1 - 1/Ms^2 = 0 come nearer than 1/Ms to instability; the calm ones are those in none of these.
    """
    if not ti_s > 0.0 or not model.gain > 0.0:
        return None
    answer = _answer(model, ti_s, 400)
    turned = np.nonzero(np.unwrap(np.angle(answer)) <= -math.pi)[0]  # the first is the edge of stability
    highest = 1.0 / float(abs(answer[turned[0]])) if len(turned) else 1e4 / model.gain
    half, square = answer.real, answer.real**2 + answer.imag**2
    under_root = half**2 - square * (1.0 - 1.0 / ms**2)
    near = (under_root >= 0.0) & (half < 0.0)
    centre, reach = -half[near] / square[near], np.sqrt(under_root[near]) / square[near]
    order = np.argsort(centre - reach)
    begins, ends = (centre - reach)[order], np.maximum.accumulate((centre + reach)[order])
    lows, highs = np.append(0.0, ends), np.append(begins, highest)  # calm from where all so far end to where the next begins
    calm = np.nonzero((highs > lows * LEAST_STRETCH) & (lows < highest) & (highs > 1e-3 * highest))[0]
    return CalmGains(float(lows[calm[-1]]), min(float(highs[calm[-1]]), highest)) if len(calm) else None


LEAST_STRETCH = 1.05  # a calm stretch that spans less than a twentieth is none to set a gain in
GRID = 25.0  # points for each factor e of T over theta at which the shortest reset time is searched


def least_reset_s(model: Fopdt, ms: float) -> float:
    """The shortest reset time for which some gain keeps the sensitivity. [s]

    It does not hang on the gain of the process, and over the dead time on T/theta alone: searched once for each point of a
    grid of that ratio, and straight between two of them.
    """
    dead_s = max(model.dead_s, 1e-3 * model.time_s)
    place = GRID * math.log(model.time_s / dead_s)
    left = math.floor(place)
    low, high = _least_reset(left, ms), _least_reset(left + 1, ms)
    return dead_s * (low + (high - low) * (place - left))


@lru_cache(maxsize=4096)
def _least_reset(place: int, ms: float) -> float:
    """The same over the dead time, for a process with a dead time of one, by bisection on the ratio."""
    model = Fopdt(1.0, 1.0, math.exp(place / GRID))
    short, calm = 0.05, 40.0
    for _ in range(14):
        middle = math.sqrt(short * calm)
        short, calm = (short, middle) if calm_gains(model, middle, ms) else (middle, calm)
    return calm


def margins(model: Fopdt, gains: Gains) -> Margins:
    """Ms, gain and phase margin of the loop, by sweeping the frequency response of K e^(-theta s)/(Ts + 1) Kc (1 + 1/(Ti s) + Td s).

    Source: Bode's frequency response, Astrom and Hagglund 1995.
    """
    slowest = max(model.time_s, gains.ti_s if math.isfinite(gains.ti_s) else 0.0, model.dead_s)
    fastest = min(model.time_s, max(model.dead_s, 1e-3 * model.time_s))
    w = np.geomspace(1e-3 / slowest, 200.0 / fastest, 40_000)
    s = 1j * w
    integral = 0.0 if math.isinf(gains.ti_s) else 1.0 / (gains.ti_s * s)
    loop = (
        model.gain * gains.kc * (1.0 + integral + gains.td_s * s) * np.exp(-model.dead_s * s) / (model.time_s * s + 1.0)
    )
    size, phase = np.abs(loop), np.unwrap(np.angle(loop))
    phase -= (
        2.0 * math.pi * round((float(phase[0]) + (0.0 if math.isinf(gains.ti_s) else math.pi / 2.0)) / (2.0 * math.pi))
    )
    return Margins(float(np.max(1.0 / np.abs(1.0 + loop))), _gain_margin(size, phase), _phase_margin_deg(size, phase))


def _gain_margin(size: np.ndarray, phase: np.ndarray) -> float:
    """One over the size where the phase first passes -180 degrees; infinite where it never does."""
    passed = np.nonzero((phase[:-1] > -math.pi) & (phase[1:] <= -math.pi))[0]
    return float(1.0 / size[passed[0]]) if len(passed) else math.inf


def _phase_margin_deg(size: np.ndarray, phase: np.ndarray) -> float:
    """The least distance of the phase from -180 degrees where the size passes one."""
    passed = np.nonzero((size[:-1] - 1.0) * (size[1:] - 1.0) <= 0.0)[0]
    return float(np.degrees(np.min(phase[passed] + math.pi))) if len(passed) else math.inf


def _closed_s(model: Fopdt, closed_s: float) -> float:
    if model.gain == 0.0:
        raise OutOfRange("gain", model.gain, "other than 0: the output moves nothing")
    if not closed_s + model.dead_s > 0.0:
        raise OutOfRange("closed_s", closed_s, "more than 0 where there is no dead time")
    return closed_s


def _dead(model: Fopdt) -> float:
    if not model.dead_s > 0.0:
        raise OutOfRange("dead_s", model.dead_s, "more than 0: the rule divides by it")
    return model.dead_s
