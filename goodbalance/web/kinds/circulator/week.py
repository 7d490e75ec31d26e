"""The week of a ring as a strip for each day: when it is wanted warm, and when the pump runs."""

from typing import Any

from goodbalance.core.stations.circulator.names import SettingId as S
from goodbalance.core.stations.circulator.survey.hours import ALWAYS, running
from goodbalance.core.stations.shared.week import DAY_S, WEEK_S, Spans, spans
from goodbalance.web.work import Work

DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


def week_of(work: Work) -> dict[str, Any] | None:
    """Each day with its spans as shares of the day; None where there is no plan, or nothing in the week changes."""
    if work.plan is None:
        return None
    runs = running(work.survey, work.choices, work.plan.value(S.LEAD, 0.0))
    if runs == ALWAYS:
        return None
    wanted = spans(work.survey.use.wanted)
    days: list[dict[str, Any]] = [{"name": name, "wanted": _of_day(wanted, day), "runs": _of_day(runs, day)} for day, name in enumerate(DAYS)]
    return {"days": [{**day, "said": _said(day["runs"])} for day in days]}


def _said(found: list[tuple[float, float]]) -> str:
    """The spans of a day as hours, for those who do not see them."""
    return ", ".join(f"runs {0.24 * begin:.1f} to {0.24 * (begin + width):.1f} h" for begin, width in found) or "rests"


def _of_day(found: Spans, day: int) -> list[tuple[float, float]]:
    """What of them lies on a day, as begin and width in per cent of it."""
    since, until = day * DAY_S, (day + 1) * DAY_S
    turned = [(begin + shift, end + shift) for begin, end in found for shift in (-WEEK_S, 0.0)]
    parts = [(max(begin, since), min(end, until)) for begin, end in turned]
    return [(100.0 * (begin - since) / DAY_S, 100.0 * (end - begin) / DAY_S) for begin, end in parts if end > begin]
