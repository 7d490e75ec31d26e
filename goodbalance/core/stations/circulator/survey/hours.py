"""The hours a ring is to run: those that are wanted, begun earlier by the lead, or those typed by hand."""

from goodbalance.core.stations.circulator.names import Mode
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices, Hours, Wins
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.survey.use import HOUR_S, Outside
from goodbalance.core.stations.shared.week import DAY_S, WEEK_S, Days, Period, Spans, spans

ALWAYS: Spans = ((0.0, WEEK_S),)


def by_clock(survey: CirculatorSurvey, choices: CirculatorChoices) -> bool:
    """Whether the pump's own clock starts and stops it."""
    only_outside = survey.control.outside is not Outside.NONE and choices.schools.wins is Wins.OUTSIDE
    return choices.schools.hours is not Hours.ALWAYS and choices.schools.mode is not Mode.LEARNING and not only_outside


def typed(survey: CirculatorSurvey, choices: CirculatorChoices, lead_s: float) -> tuple[Period, ...]:
    """The times of the week as they are typed; none where it runs always. [s]"""
    if not by_clock(survey, choices):
        return ()
    if choices.schools.hours is Hours.OWN:
        return choices.hours.periods
    return tuple(period.begun(lead_s) for period in survey.use.wanted)


def running(survey: CirculatorSurvey, choices: CirculatorChoices, lead_s: float) -> Spans:
    """When in the week it runs by its clock. [s]"""
    return spans(typed(survey, choices, lead_s)) if by_clock(survey, choices) else ALWAYS


def in_mode(survey: CirculatorSurvey, choices: CirculatorChoices, lead_s: float, mode: Mode) -> Spans:
    """Its hours by the week's clock; of a learning pump every hour that is wanted, and the one before, once it has learnt. [s]"""
    if mode is not Mode.LEARNING:
        return running(survey, choices, lead_s)
    if choices.schools.hours is Hours.ALWAYS:
        return ALWAYS
    wanted = spans(survey.use.wanted)
    day = {int((begin % DAY_S + step * HOUR_S) % DAY_S // HOUR_S) for begin, end in wanted for step in range(-1, int(min(end - begin, WEEK_S) // HOUR_S) + 1)}
    return spans(Period(Days.ALL, hour * HOUR_S, (hour + 1) * HOUR_S) for hour in day)
