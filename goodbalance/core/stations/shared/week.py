"""The week's clock of any kind of station: days, periods in which something is wanted, and what they leave between them."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

DAY_S = 86400.0
WEEK_S = 7.0 * DAY_S


class Days(StrEnum):
    """On which days of the week a line of the schedule begins."""

    ALL = "all"
    WORKDAYS = "workdays"
    WEEKEND = "weekend"
    MONDAY = "monday"
    TUESDAY = "tuesday"
    WEDNESDAY = "wednesday"
    THURSDAY = "thursday"
    FRIDAY = "friday"
    SATURDAY = "saturday"
    SUNDAY = "sunday"

    @property
    def numbers(self) -> tuple[int, ...]:
        """The days, 0 for Monday."""
        groups = {Days.ALL: range(7), Days.WORKDAYS: range(5), Days.WEEKEND: range(5, 7)}
        return tuple(groups[self]) if self in groups else (list(Days).index(self) - 3,)


DAY_LABELS = {
    "all": "every day", "workdays": "Monday to Friday", "weekend": "Saturday and Sunday", "monday": "Monday", "tuesday": "Tuesday", "wednesday": "Wednesday",
    "thursday": "Thursday", "friday": "Friday", "saturday": "Saturday", "sunday": "Sunday",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Period:
    """A time of the day on some days of the week, by the clock. to_s at or before from_s: over midnight, into the next day. [s after midnight]"""

    days: Days
    from_s: float
    to_s: float

    @property
    def lasts_s(self) -> float:
        """How long it is; nothing where it begins when it ends. [s]"""
        return (self.to_s - self.from_s) % DAY_S if self.to_s != self.from_s + DAY_S else DAY_S

    def begun(self, earlier_s: float) -> "Period":
        """The same begun so much earlier; at midnight at the earliest, for its day is the one on which it begins."""
        return Period(self.days, max(0.0, self.from_s - earlier_s), self.to_s if self.to_s > 0.0 or self.lasts_s > 0.0 else 0.0)


Spans = tuple[tuple[float, float], ...]  # in the week, in order, apart from each other; one over its end goes on beyond WEEK_S


def spans(periods: Iterable[Period]) -> Spans:
    """When in the week at least one of them runs, joined where they meet. An empty answer: never; (0, WEEK_S): always. [s after Monday, midnight]"""
    marks = sorted((day * DAY_S + each.from_s, day * DAY_S + each.from_s + each.lasts_s) for each in periods for day in each.days.numbers if each.lasts_s > 0.0)
    joined: list[list[float]] = []
    for begin, end in marks:
        if joined and begin <= joined[-1][1]:
            joined[-1][1] = max(joined[-1][1], end)
        else:
            joined.append([begin, end])
    while len(joined) > 1 and joined[-1][1] - WEEK_S >= joined[0][0]:  # the last runs into the first
        joined[-1][1] = max(joined[-1][1], joined[0][1] + WEEK_S)
        del joined[0]
    if joined and joined[0][1] - joined[0][0] >= WEEK_S or (len(joined) == 1 and joined[0][1] - WEEK_S >= joined[0][0]):
        return ((0.0, WEEK_S),)
    return tuple((begin, end) for begin, end in joined)


def runs_at(found: Spans, week_s: float) -> bool:
    """Whether a time of the week lies in one of them. [s]"""
    at_s = week_s % WEEK_S
    return any(begin <= at_s < end or begin <= at_s + WEEK_S < end for begin, end in found)


def until_change_s(found: Spans, week_s: float) -> float:
    """How long until the next begin or end; no end where there is none. [s]"""
    at_s = week_s % WEEK_S
    edges = {edge % WEEK_S for span in found for edge in span} if found != ((0.0, WEEK_S),) else set()
    return min(((edge - at_s) % WEEK_S or WEEK_S for edge in edges), default=float("inf"))


def rests(found: Spans) -> Spans:
    """What lies between them, over the end of the week too. [s]"""
    if not found:
        return ((0.0, WEEK_S),)
    if found == ((0.0, WEEK_S),):
        return ()
    following = (*found[1:], (found[0][0] + WEEK_S, 0.0))
    return tuple((end, begin) for (_, end), (begin, _) in zip(found, following) if begin > end)


def lasts_s(found: Spans) -> float:
    """What they add up to. [s]"""
    return sum(end - begin for begin, end in found)


def missing_s(wanted: Spans, given: Spans) -> float:
    """How much of what is wanted in the week is not given. [s]"""
    turned = [(begin + shift, end + shift) for begin, end in given for shift in (-WEEK_S, 0.0, WEEK_S)]
    shared = sum(max(0.0, min(end, to) - max(begin, since)) for begin, end in wanted for since, to in turned)
    return max(0.0, lasts_s(wanted) - shared)


def most_rest_in_a_day_s(found: Spans) -> float:
    """The most of any 24 hours in which nothing runs. Looked at from each end of a run and up to each begin of one. [s]"""
    still = [(begin + shift, end + shift) for begin, end in rests(found) for shift in (-WEEK_S, 0.0, WEEK_S)]
    edges = [begin for begin, _ in still] + [end - DAY_S for _, end in still]
    return max((sum(max(0.0, min(end, at + DAY_S) - max(begin, at)) for begin, end in still) for at in edges), default=0.0)
