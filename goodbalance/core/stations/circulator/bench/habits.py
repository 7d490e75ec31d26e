"""When people draw by habit: in the hours in which it is wanted warm, so often an hour, one tap after the other."""

import math
from collections.abc import Iterator

from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.survey.use import HOUR_S
from goodbalance.core.stations.shared.week import runs_at, spans, until_change_s


def open_at(survey: CirculatorSurvey, now_s: float) -> frozenset[int]:
    """The taps that are open at a time of the week, 0 for the first. [s]"""
    if not runs_at(spans(survey.use.wanted), now_s):
        return frozenset()
    in_hour = now_s % HOUR_S
    return frozenset(number for number, begin, end in _draws(survey) if (in_hour - begin) % HOUR_S < end - begin - 1e-6)


def until_s(survey: CirculatorSurvey, now_s: float) -> float:
    """How long until one is opened or shut. [s]"""
    wanted = spans(survey.use.wanted)
    change = until_change_s(wanted, now_s)
    if not runs_at(wanted, now_s):
        return change
    edges = [edge for _, begin, end in _draws(survey) for edge in (begin, end)]
    return min([change, *((math.ceil(edge) - now_s) % HOUR_S or HOUR_S for edge in edges)])


def _draws(survey: CirculatorSurvey) -> Iterator[tuple[int, float, float]]:
    """Each tap with when it is opened and shut in an hour, to the second."""
    pattern, count = survey.use.pattern, len(survey.branches)
    for number in range(count):
        for begin, end in pattern:
            shift = HOUR_S * number / (count * max(1, len(pattern)))
            yield number, math.ceil(begin + shift), math.ceil(end + shift)
