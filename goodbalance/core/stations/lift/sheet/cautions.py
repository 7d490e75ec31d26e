"""What can hurt people at a lift station; shown where the hand is about to move and on the door card."""

from goodbalance.core.stations.lift.survey.choices import LiftChoices, OnSensorFailure
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.shared.facts import turn_by_clock


def cautions(survey: LiftSurvey, choices: LiftChoices) -> tuple[str, ...]:
    """The cautions that apply to this station, gravest first."""
    found = [
        "Pumps start by themselves. Lock and tag the supply, prove dead, before touching pump or panel.",
        "Wet wells hold gas without smell. No entry without permit, gas test and attendant.",
        "Open covers: danger of falling and drowning. Guard the opening.",
        "In HAND no level stops a pump: stay beside it.",
    ]
    if choices.schools.sensor_failure is OnSensorFailure.STOP_ALL:
        found.append("When the level sensor fails all pumps stop and the well fills: someone must come.")
    else:
        found.append("When the level sensor fails the duty pump runs on; only the low-level float stops it.")
    if not survey.demands.low_float:
        found.append("There is no separate low-level float: the level sensor is the only dry-run protection.")
    found.append("Local codes, the makers' manuals and licensed people come first.")
    return tuple(found)


def by_clock(survey: LiftSurvey, choices: LiftChoices) -> tuple[str, ...]:
    """What the controller's clock changes; empty where nothing hangs on it."""
    return turn_by_clock(survey.pumping.duty_count, choices.schools.alternation, choices.rules.clock_period_s)
