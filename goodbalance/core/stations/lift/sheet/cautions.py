"""What can hurt people at a lift station; shown where the hand is about to move and on the door card."""

from goodbalance.core.stations.lift.names import Role
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.survey.choices import LiftChoices, OnSensorFailure
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.reckon import DECLINABLE
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


def not_declined(survey: LiftSurvey, choices: LiftChoices, setting_id: str) -> str:
    """Why a protection may not be declined at this station; empty where it may."""
    if setting_id == Role.HIGH_ALARM:
        return "Without the high alarm nobody learns of the water before it stands in the street: it is not declined."
    blind = choices.schools.sensor_failure is OnSensorFailure.RUN_DUTY and not survey.demands.low_float
    if setting_id == Role.LOW_CUT_OUT and blind:
        return "With the signal lost a pump runs on, and no low-level float stops it: the cut-out is not declined."
    if setting_id == Role.LOW_ALARM and survey.sensor is not None and not hydraulics(survey).signal.has_live_zero:
        return "A broken wire of this signal reads as an empty well, and only the low alarm tells: it is not declined."
    return "" if setting_id in DECLINABLE else "It is no protection that a job may do without."


def by_clock(survey: LiftSurvey, choices: LiftChoices) -> tuple[str, ...]:
    """What the controller's clock changes; empty where nothing hangs on it."""
    return turn_by_clock(survey.pumping.duty_count, choices.schools.alternation, choices.rules.clock_period_s)
