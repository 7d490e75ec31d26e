"""When people draw by habit: in the hours in which it is wanted warm, so often an hour, one tap after the other."""

import math
from dataclasses import dataclass

from goodbalance.core.balance.facts import once_each
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.survey.use import HOUR_S
from goodbalance.core.stations.shared.week import Spans, runs_at, spans, until_change_s


@dataclass(frozen=True, slots=True)
class Habits:
    """The hours of the week in which people draw, and each tap with when it is opened and shut in an hour, to the second."""

    wanted: Spans
    draws: tuple[tuple[int, float, float], ...]


@once_each
def habits(survey: CirculatorSurvey) -> Habits:
    """By the survey."""
    pattern, count, found = survey.use.pattern, len(survey.branches), []
    for number in range(count):
        for begin, end in pattern:
            shift = HOUR_S * number / (count * max(1, len(pattern)))
            found.append((number, float(math.ceil(begin + shift)), float(math.ceil(end + shift))))
    return Habits(spans(survey.use.wanted), tuple(found))


def open_at(survey: CirculatorSurvey, now_s: float) -> frozenset[int]:
    """The taps that are open at a time of the week, 0 for the first. [s]"""
    known = habits(survey)
    if not runs_at(known.wanted, now_s):
        return frozenset()
    in_hour = now_s % HOUR_S
    return frozenset(number for number, begin, end in known.draws if (in_hour - begin) % HOUR_S < end - begin - 1e-6)


def until_s(survey: CirculatorSurvey, now_s: float) -> float:
    """How long until one is opened or shut. [s]"""
    known = habits(survey)
    change = until_change_s(known.wanted, now_s)
    if not runs_at(known.wanted, now_s):
        return change
    edges = [edge for _, begin, end in known.draws for edge in (begin, end)]
    return min([change, *((edge - now_s) % HOUR_S or HOUR_S for edge in edges)])
