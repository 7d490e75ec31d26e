"""From a step test in HAND to a model: gain, dead time, time constant, and how far the fit can be trusted."""

import math
from dataclasses import dataclass

import numpy as np
from scipy.optimize import least_squares

from goodbalance.core.errors import GoodBalanceError

LEAST_ROWS = 20
LEAST_STEP = 1.0  # % of output
LEAST_ANSWER_TO_NOISE = 5.0
LEAST_FIT = 0.80
SETTLED_SHARE = 0.10  # of the whole answer by which the last quarter of the record may differ from the one before


class UnusableStep(GoodBalanceError, ValueError):
    """A record from which no model can be taken; the text says why and what to do."""


@dataclass(frozen=True, slots=True)
class Fopdt:
    """First order plus dead time: K e^(-theta s)/(T s + 1). [% per %, s, s]"""

    gain: float
    dead_s: float
    time_s: float

    def answer(self, times_s: np.ndarray, step_at_s: float, step: float, start: float) -> np.ndarray:
        """What it measures after a step of the output: y0 + K du (1 - exp(-(t - t0 - theta)/T))."""
        since = np.maximum(0.0, times_s - step_at_s - self.dead_s)
        return start + self.gain * step * (1.0 - np.exp(-since / self.time_s))


@dataclass(frozen=True, slots=True)
class StepFit:
    """The model of a step test and its quality. fit: 1 - residual/spread (R squared); noise: standard deviation before the step."""

    model: Fopdt
    two_points: Fopdt  # the same by the times of 28.3 and 63.2 %
    step_at_s: float
    step: float
    start: float
    fit: float
    noise: float


def fit_step(times_s: np.ndarray, outputs: np.ndarray, measured: np.ndarray) -> StepFit:
    """Find the step of the output and fit the answer, by two points and then by least squares. All in %, times in s.

    Two points: T = 1.5 (t63 - t28), theta = t63 - T (Smith). Raises UnusableStep for a record without one clear step,
    at a limit, too noisy, not settled before or after, or that does not behave like first order.
    """
    if len(times_s) < LEAST_ROWS or not np.all(np.diff(times_s) > 0.0):
        raise UnusableStep(f"the record has {len(times_s)} rows; {LEAST_ROWS} or more with rising times are needed")
    at, step = _find_step(outputs)
    before, after = measured[:at], measured[at:]
    if at < 5:
        raise UnusableStep("the record begins less than 5 rows before the step: record the rest before it too")
    slope, level = np.polyfit(times_s[:at], before, 1)
    noise = float((before - slope * times_s[:at] - level).std())
    drift = abs(float(slope)) * float(times_s[at - 1] - times_s[0])
    start, tenth, quarter = float(before.mean()), max(2, len(after) // 10), max(2, len(after) // 4)
    end = float(after[-tenth:].mean())
    change = end - start
    if drift > max(0.3 * abs(change), 4.0 * noise):
        raise UnusableStep("the measurement was not at rest before the step: wait until it is")
    off = np.abs(before - np.median(before))
    if float(off.max()) > max(0.5 * abs(change), 12.0 * float(np.median(off))):
        raise UnusableStep("something moved the measurement before the step: let all come to rest, then record")
    if abs(change) < LEAST_ANSWER_TO_NOISE * max(noise, 1e-9) or abs(change) < 1e-6:
        raise UnusableStep(
            f"the measurement moved by {abs(change):.3g}, not clearly more than its noise of {noise:.3g}: make a larger step"
        )
    if len(set(np.round(after[-tenth:], 9))) == 1 and _at_limit(end):
        raise UnusableStep(f"the measurement stands at the end of its range, {end:.1f} %: make a smaller step")
    late, earlier = float(after[-quarter:].mean()), float(after[-2 * quarter : -quarter].mean())
    if abs(late - earlier) > SETTLED_SHARE * abs(change) + noise:
        raise UnusableStep("the measurement was still moving when the record ended: record longer")
    step_at_s = float(times_s[at])
    rough = _two_points(times_s, measured, at, start, change, step)
    model = _least_squares(times_s[at:], after, step_at_s, step, start, rough)
    residual = after - model.answer(times_s[at:], step_at_s, step, start)
    fit = 1.0 - float((residual**2).sum() / ((after - after.mean()) ** 2).sum())
    if fit < LEAST_FIT:
        raise UnusableStep(f"the answer does not look like first order with dead time: the fit explains {fit:.0%} only")
    return StepFit(model, rough, step_at_s, step, start, fit, noise)


def _find_step(outputs: np.ndarray) -> tuple[int, float]:
    """Row of the one change of the output, and its size."""
    changes = np.nonzero(np.abs(np.diff(outputs)) > LEAST_STEP / 2.0)[0]
    if len(changes) == 0:
        raise UnusableStep(f"the output never changed by {LEAST_STEP:g} % or more: there is no step in the record")
    first, last = int(changes[0]), int(changes[-1])
    if last - first > 3:
        raise UnusableStep("the output changed more than once: one step, then hands off until all is at rest")
    step = float(outputs[last + 1 :].mean() - outputs[: first + 1].mean())
    if abs(step) < LEAST_STEP:
        raise UnusableStep(f"the output changed by {abs(step):.2g} %; {LEAST_STEP:g} % or more is needed")
    return first + 1, step


def _at_limit(value: float) -> bool:
    return value <= 0.05 or value >= 99.95


def _two_points(times_s: np.ndarray, measured: np.ndarray, at: int, start: float, change: float, step: float) -> Fopdt:
    share = (measured[at:] - start) / change
    crossings = []
    for wanted in (0.283, 0.632):
        reached = np.nonzero(share >= wanted)[0]
        place = int(reached[0]) if len(reached) else len(share) - 1
        crossings.append(float(times_s[at + place] - times_s[at]))
    time_s = max(1.5 * (crossings[1] - crossings[0]), 1e-3)
    return Fopdt(change / step, max(0.0, crossings[1] - time_s), time_s)


def _least_squares(
    times_s: np.ndarray, after: np.ndarray, step_at_s: float, step: float, start: float, rough: Fopdt
) -> Fopdt:
    longest = float(times_s[-1] - times_s[0])

    def misses(guess: np.ndarray) -> np.ndarray:
        return Fopdt(guess[0], guess[1], guess[2]).answer(times_s, step_at_s, step, start) - after

    first = [rough.gain, min(rough.dead_s, 0.9 * longest), min(rough.time_s, longest)]
    low, high = [-math.inf, 0.0, 1e-4], [math.inf, longest, 10.0 * longest]
    found = least_squares(misses, first, bounds=(low, high), x_scale=[abs(rough.gain) or 1.0, 1.0, 1.0])
    return Fopdt(*(float(value) for value in found.x))
