"""How likely each setting stays inside its window although the facts are not sure.

Every doubtful fact is moved to both ends of its 95 % range and the plan is reckoned again; a parabola through the
three values of each bound stands for the reckoning in 20,000 seeded draws of all facts at once.
"""

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from typing import Any

import numpy as np

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.balance.window import Bound
from goodbalance.core.errors import GoodBalanceError

DRAWS = 20_000
SEED = 20261125
WIDTH = 1.959964  # standard deviations from the mean to the end of a 95 % range


def chances(
    plan: Plan,
    survey: Any,
    reckoned: Callable[[Any], Plan],
    moves: Sequence[Callable[[Any, float], Any]],
    read: Quantity,
    reading_error: float,
) -> dict[str, float]:
    """The share of draws in which each setting stays inside its window, by id; settings with an empty window have none.

    reckoned: the plan of a survey with every setting held where it stands. moves: the survey with one fact moved to an
    end (-1 or 1) of its doubt. read, reading_error: what the sensor reads, and half the 95 % width of its error in SI.
    Empty where the station cannot be reckoned at an end of the doubt: then there is no honest figure.
    """
    ends = []
    try:
        middle = reckoned(survey)
        for moved in moves:
            low, high = moved(survey, -1.0), moved(survey, 1.0)
            ends.append((middle, middle) if low is survey else (reckoned(low), reckoned(high)))
    except GoodBalanceError:
        return {}
    if any(len(end.settings) != len(middle.settings) for pair in ends for end in pair):
        return {}
    rng = np.random.default_rng(SEED)
    draws = rng.standard_normal((len(ends), DRAWS)) / WIDTH
    off = rng.standard_normal(DRAWS) / WIDTH * reading_error
    open_ones = [setting for setting in plan.settings if not setting.window.is_empty]
    return {
        setting.id: _chance(setting, middle, ends, draws, off if setting.quantity is read else 0.0)
        for setting in open_ones
    }


def typical_moves(unsure: Mapping[str, float]) -> tuple[Callable[[Any, float], Any], ...]:
    """Moves for facts of a survey that stand on what is usual. unsure: by path, half the 95 % width, a share of each."""
    return tuple(partial(_fact_moved, path, share) for path, share in sorted(unsure.items()) if share > 0.0)


def _fact_moved(path: str, share: float, survey: Any, way: float) -> Any:
    """A survey with one of its numbers moved by `way` times its share; itself where it has none there."""
    part, _, name = path.partition(".")
    section = getattr(survey, part, None)
    value = getattr(section, name, None)
    if section is None or not isinstance(value, float):
        return survey
    return survey.model_copy(update={part: section.model_copy(update={name: value * (1.0 + way * share)})})


def _chance(
    setting: Setting, middle: Plan, ends: list[tuple[Plan, Plan]], draws: np.ndarray, off: np.ndarray | float
) -> float:
    here = middle.setting(setting.id)
    sides = [[pair[0].setting(setting.id), pair[1].setting(setting.id)] for pair in ends]
    holds = np.ones(draws.shape[1], dtype=bool)
    for place, bound in enumerate(here.window.lower):
        pairs = [(low.window.lower[place].value, high.window.lower[place].value) for low, high in sides]
        holds &= _spread(bound.value, pairs, draws) <= setting.value + _unshared(bound, off) + 1e-9
    for place, bound in enumerate(here.window.upper):
        pairs = [(low.window.upper[place].value, high.window.upper[place].value) for low, high in sides]
        holds &= _spread(bound.value, pairs, draws) >= setting.value + _unshared(bound, off) - 1e-9
    return float(holds.mean())


def _unshared(bound: Bound, off: np.ndarray | float) -> np.ndarray | float:
    """The error of the level reading; a bound built on another level moves with it, so that it cancels."""
    return 0.0 if bound.refers_to else off


def _spread(middle: float, pairs: list[tuple[float, float]], draws: np.ndarray) -> np.ndarray | float:
    """A bound over all draws: the sum of what each fact adds, by a parabola through its three values."""
    total = np.full(draws.shape[1], middle)
    for (low, high), at in zip(pairs, draws):
        if low != middle or high != middle:
            total += 0.5 * (high - low) * at + (0.5 * (high + low) - middle) * at * at
    return total
