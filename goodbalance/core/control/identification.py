"""From a step test in HAND to a model: gain, dead time, time constant, and how far the fit can be trusted."""

import math
from dataclasses import dataclass

import numpy as np
from scipy.optimize import least_squares
from scipy.stats import chi2

from goodbalance.core.errors import GoodBalanceError

LEAST_ROWS = 20
LEAST_STEP = 1.0  # % of output
LEAST_ANSWER_TO_NOISE = 5.0
LEAST_FIT = 0.80
SETTLED_SHARE = 0.10  # of the whole answer by which the last quarter of the record may differ from the one before
SURE = 0.95  # of the region in which the true model is taken to lie
SCAN_S = 0.1  # rows need be no closer than controllers scan
ROWS_IN_DEAD = 3.0  # rows a dead time must last to be seen
STILL_ROWS = 6  # rows in a row at one and the same extreme that no wobbling reading makes
DISTURBED_SHARE = 0.08  # of the answer by which a stretch of the record may stray from the model
WIDEST = {"gain": 0.25, "dead time": 1.0, "time constant": 0.5}  # half width over value, beyond which nothing is told
DRIFT_SIGNS = 4.0  # standard errors from which a slope is believed


class UnusableStep(GoodBalanceError, ValueError):
    """A record from which no model can be taken; the text says why and what to do."""


@dataclass(frozen=True, slots=True)
class Fopdt:
    """First order plus dead time: K e^(-theta s)/(T s + 1). [% per %, s, s]"""

    gain: float
    dead_s: float
    time_s: float

    def answer(self, times_s: np.ndarray, step_at_s: float, step: float, start: float, drift: float = 0.0) -> np.ndarray:
        """What it measures after a step of the output: y0 + drift (t - t0) + K du (1 - exp(-(t - t0 - theta)/T)).

        Source: step response of a first-order lag with dead time.
        """
        since = np.maximum(0.0, times_s - step_at_s - self.dead_s)
        return start + drift * (times_s - step_at_s) + self.gain * step * (1.0 - np.exp(-since / self.time_s))


@dataclass(frozen=True, slots=True)
class StepFit:
    """The model of a step test and its quality. fit: 1 - residual/spread (R squared); noise: standard deviation before the step.

    region: models on the edge of the 95 % confidence region of the fit, the doubt about when within a row the step
    happened among it. drift: of the measurement by itself, in % a second.
    """

    model: Fopdt
    two_points: Fopdt  # the same by the times of 28.3 and 63.2 %
    step_at_s: float
    step: float
    start: float
    fit: float
    noise: float
    drift: float
    region: tuple[Fopdt, ...]

    def between(self, part: str) -> tuple[float, float]:
        """Least and most of one number of the model over its region: gain, dead_s or time_s."""
        found = [getattr(model, part) for model in (self.model, *self.region)]
        return min(found), max(found)


def fit_step(times_s: np.ndarray, outputs: np.ndarray, measured: np.ndarray) -> StepFit:
    """Find the step of the output and fit the answer, by two points and then by least squares. All in %, times in s.

    Two points: T = 1.5 (t63 - t28), theta = t63 - T (Smith). The step happened somewhere between two rows: the middle is
    taken, and half a row either way belongs to the doubt. A steady drift is fitted beside. Raises UnusableStep for a
    record without one clear step, at a limit or clipped, too noisy, with rows too far apart, not settled, disturbed, or
    that does not tell gain, dead time and time constant well enough.
    """
    if len(times_s) < LEAST_ROWS or not np.all(np.diff(times_s) > 0.0):
        raise UnusableStep(f"the record has {len(times_s)} rows; {LEAST_ROWS} or more with rising times are needed")
    at, ends, step = _find_step(outputs)
    noise = _at_rest(times_s, measured, at)
    start, change = _answered(times_s, measured, at, noise)
    step_at_s, half_row_s = (times_s[at - 1] + times_s[ends]) / 2.0, (times_s[ends] - times_s[at - 1]) / 2.0
    rough = _two_points(times_s, measured, at, start, change, step)
    fitted = _least_squares(times_s, measured, float(step_at_s), step, start, rough, noise)
    model = fitted.model
    after = measured[at:]
    residual = after - model.answer(times_s[at:], float(step_at_s), step, fitted.start, fitted.drift)
    fit = 1.0 - float((residual**2).sum() / ((after - after.mean()) ** 2).sum())
    if fit < LEAST_FIT:
        raise UnusableStep(f"the answer does not look like first order with dead time: the fit explains {fit:.0%} only")
    _undisturbed(residual, change, noise)
    if 2.0 * half_row_s > max(model.dead_s / ROWS_IN_DEAD, 1.01 * SCAN_S):
        raise UnusableStep(
            f"rows {2.0 * half_row_s:.3g} s apart cannot show a dead time of {model.dead_s:.2g} s, and gains hang on it: "
            f"record a row each {max(SCAN_S, model.dead_s / ROWS_IN_DEAD):.2g} s or less"
        )
    region = _region(fitted, float(half_row_s))
    told = StepFit(model, rough, float(step_at_s), step, fitted.start, fit, noise, fitted.drift, region)
    _told_apart(told)
    return told


def _at_rest(times_s: np.ndarray, measured: np.ndarray, at: int) -> float:
    """The noise before the step. UnusableStep where the measurement was not at rest."""
    if at < 5:
        raise UnusableStep("the record begins less than 5 rows before the step: record the rest before it too")
    before, later = measured[:at], measured[at:]
    slope, level = np.polyfit(times_s[:at], before, 1)
    noise = float((before - slope * times_s[:at] - level).std())
    drift = abs(float(slope)) * float(times_s[at - 1] - times_s[0])
    change = abs(float(later[-max(2, len(later) // 10) :].mean() - before.mean()))
    if drift > max(0.3 * change, 4.0 * noise):
        raise UnusableStep("the measurement was not at rest before the step: wait until it is")
    off = np.abs(before - np.median(before))
    if float(off.max()) > max(0.5 * change, 12.0 * float(np.median(off))):
        raise UnusableStep("something moved the measurement before the step: let all come to rest, then record")
    return noise


def _answered(times_s: np.ndarray, measured: np.ndarray, at: int, noise: float) -> tuple[float, float]:
    """Where the measurement began and by how much it changed. UnusableStep where it hardly did, clipped, or had no end."""
    before, after = measured[:at], measured[at:]
    start, tenth, quarter = float(before.mean()), max(2, len(after) // 10), max(2, len(after) // 4)
    end = float(after[-tenth:].mean())
    change = end - start
    if abs(change) < LEAST_ANSWER_TO_NOISE * max(noise, 1e-9) or abs(change) < 1e-6:
        raise UnusableStep(
            f"the measurement moved by {abs(change):.3g}, not clearly more than its noise of {noise:.3g}: make a larger step"
        )
    if len(set(np.round(after[-tenth:], 9))) == 1 and _at_limit(end):
        raise UnusableStep(f"the measurement stands at the end of its range, {end:.1f} %: make a smaller step")
    still, extreme = _longest_still(after, change > 0.0)
    wobbled = len(set(np.round(before, 9).tolist())) >= 3
    if wobbled and still >= STILL_ROWS and still > 3 * max(_longest_still(before, True)[0], _longest_still(before, False)[0]):
        raise UnusableStep(
            f"the reading stands still at {extreme:.1f} % for {still} rows while it wobbled before: it is clipped. Make a "
            "smaller step, or record the whole range"
        )
    late, earlier = float(after[-quarter:].mean()), float(after[-2 * quarter : -quarter].mean())
    if abs(late - earlier) > SETTLED_SHARE * abs(change) + noise:
        raise UnusableStep("the measurement was still moving when the record ended: record longer")
    return start, change


def _longest_still(values: np.ndarray, high: bool) -> tuple[int, float]:
    """The longest run of rows at one and the same extreme, and that extreme."""
    extreme = float(values.max() if high else values.min())
    longest = run = 0
    for at_it in (np.abs(values - extreme) < 1e-9).tolist():
        run = run + 1 if at_it else 0
        longest = max(longest, run)
    return longest, extreme


def _undisturbed(residual: np.ndarray, change: float, noise: float) -> None:
    """UnusableStep where a stretch of the record strays from the model as noise does not: something else happened."""
    window = max(3, len(residual) // 15)
    means = np.convolve(residual, np.full(window, 1.0 / window), mode="valid")
    strayed = float(np.abs(means).max())
    if strayed > DISTURBED_SHARE * abs(change) + 4.0 * noise / math.sqrt(window):
        raise UnusableStep(
            f"a stretch of the record strays by {strayed / abs(change):.0%} of the answer from any first-order model: a tap "
            "was opened, a pump joined, or the pipe swings. Once more, hands off until all is at rest"
        )


def _told_apart(told: StepFit) -> None:
    """UnusableStep where drift, noise or rows leave a number of the model open."""
    for name, part in (("gain", "gain"), ("dead time", "dead_s"), ("time constant", "time_s")):
        low, high = told.between(part)
        value = abs(getattr(told.model, part))
        if part == "dead_s":
            value = max(value, ROWS_IN_DEAD * SCAN_S)
        if (high - low) / 2.0 > WIDEST[name] * value:
            drifts = " beside its drift" if told.drift else ""
            raise UnusableStep(
                f"the {name} lies anywhere from {low:.2g} to {high:.2g}: the record{drifts} does not tell. Let all come to "
                "rest first, make a larger step, and record longer"
            )


def _find_step(outputs: np.ndarray) -> tuple[int, int, float]:
    """First row of the one change of the output, the row from which it has its new value, and its size."""
    changes = np.nonzero(np.abs(np.diff(outputs)) > LEAST_STEP / 2.0)[0]
    if len(changes) == 0:
        raise UnusableStep(f"the output never changed by {LEAST_STEP:g} % or more: there is no step in the record")
    first, last = int(changes[0]), int(changes[-1])
    if last - first > 3:
        raise UnusableStep("the output changed more than once: one step, then hands off until all is at rest")
    step = float(outputs[last + 1 :].mean() - outputs[: first + 1].mean())
    if abs(step) < LEAST_STEP:
        raise UnusableStep(f"the output changed by {abs(step):.2g} %; {LEAST_STEP:g} % or more is needed")
    return first + 1, last + 1, step


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


@dataclass(frozen=True, slots=True)
class _Fitted:
    """A least-squares fit: the model, where the measurement began, its drift, and the covariance of gain, dead time, time constant."""

    model: Fopdt
    start: float
    drift: float
    covariance: np.ndarray


def _least_squares(
    times_s: np.ndarray, measured: np.ndarray, step_at_s: float, step: float, start: float, rough: Fopdt, noise: float
) -> _Fitted:
    """Fitted over the whole record, rest and answer, with a drift where one shows by more than its own error."""
    longest = float(times_s[-1] - times_s[0])

    def misses(guess: np.ndarray) -> np.ndarray:
        model, drift = Fopdt(guess[0], guess[1], guess[2]), guess[4] if len(guess) > 4 else 0.0
        return np.asarray(model.answer(times_s, step_at_s, step, guess[3], drift) - measured)

    first = [rough.gain, min(rough.dead_s, 0.9 * longest), min(rough.time_s, longest), start]
    low, high = [-math.inf, 0.0, 1e-4, -math.inf], [math.inf, longest, 10.0 * longest, math.inf]
    scale = [abs(rough.gain) or 1.0, 1.0, 1.0, 1.0]
    found = least_squares(misses, first, bounds=(low, high), x_scale=scale)
    with_drift = least_squares(
        misses, [*found.x, 0.0], bounds=([*low, -math.inf], [*high, math.inf]), x_scale=[*scale, 1.0 / longest]
    )
    plain, drifting = _covariance(found.jac, found.fun, noise), _covariance(with_drift.jac, with_drift.fun, noise)
    if abs(with_drift.x[4]) > DRIFT_SIGNS * math.sqrt(drifting[4, 4]):
        found, plain = with_drift, drifting
    gain, dead_s, time_s, began, *drift = (float(value) for value in found.x)
    return _Fitted(Fopdt(gain, dead_s, time_s), began, drift[0] if drift else 0.0, plain[:3, :3])


def _covariance(jacobian: np.ndarray, misses: np.ndarray, noise: float) -> np.ndarray:
    """s^2 (J^T J)^-1. Misfits lie row beside row, so they count as fewer rows: by how much they resemble the next."""
    spread = max(float((misses**2).sum()) / max(1, len(misses) - jacobian.shape[1]), noise**2, 1e-12)
    alike = float(np.corrcoef(misses[:-1], misses[1:])[0, 1]) if misses.std() > 1e-12 else 0.0
    alike = min(0.98, max(0.0, alike if math.isfinite(alike) else 0.0))
    return np.asarray(spread * (1.0 + alike) / (1.0 - alike) * np.linalg.pinv(jacobian.T @ jacobian))


def _region(fitted: _Fitted, half_row_s: float) -> tuple[Fopdt, ...]:
    """Models at the ends of the axes of the confidence ellipsoid, each with the step half a row sooner and later."""
    model, found = fitted.model, []
    sizes, axes = np.linalg.eigh(fitted.covariance)
    reach = math.sqrt(float(chi2.ppf(SURE, 3)))
    for size, axis in zip(sizes.tolist(), axes.T.tolist()):
        for way in (-1.0, 1.0):
            away = [way * reach * math.sqrt(max(0.0, size)) * part for part in axis]
            for shift in (-half_row_s, half_row_s):
                dead_s, time_s = max(0.0, model.dead_s + away[1] + shift), max(1e-4, model.time_s + away[2])
                found.append(Fopdt(model.gain + away[0], dead_s, time_s))
    return tuple(found)
