"""What can hurt people at a booster set; shown where the hand is about to move and on the door card."""

from goodbalance.core.protection.names import After
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, OnFailure
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.reckon import DECLINABLE
from goodbalance.core.stations.shared.facts import turn_by_clock


def cautions(survey: BoosterSurvey, choices: BoosterChoices) -> tuple[str, ...]:
    """The cautions that apply to this set, gravest first."""
    found = ["Pumps start by themselves. Lock and tag the supply, prove dead, before touching pump or panel."]
    if survey.has_drives:
        found.append("Drives keep their charge after switching off: wait the time on the label, then prove dead.")
    if survey.holds_constant:
        found.append("No dial or knob on a drive may set the pressure: it gets knocked. Switch such a source off.")
    found += [
        "Stored pressure in tank and pipes: isolate and let it off before opening anything.",
        "In HAND no set pressure stops a pump: stay beside it, an outlet open.",
        "A pump that runs against closed outlets boils its water: scalding.",
        "Drinking water: keep parts and hoses clean, prevent backflow, flush and sample after works as local rules ask.",
    ]
    if choices.schools.sensor_failure is OnFailure.RUN_DUTY:
        found.append(
            "When the pressure sensor fails one pump runs on blind; only the relief valve limits the pressure."
        )
    if choices.schools.lost_prime is not After.BY_HAND:
        found.append("A pump that was given up without water tries again by itself while somebody vents it: OFF first, and locked.")
    if survey.demand.flush_m3s:
        found.append("Fire systems: licensed people and the authority's rules only; this record does not replace them.")
    found.append("Local codes, the makers' manuals and licensed people come first.")
    return tuple(found)


def not_declined(setting_id: str) -> str:
    """Why a protection may not be declined at a set; empty where it may."""
    if setting_id == S.HIGH_STOP:
        return "People stand beside the pipes that it keeps whole: the high-pressure stop is not declined."
    return "" if setting_id in DECLINABLE else "It is no protection that a job may do without."


def by_clock(survey: BoosterSurvey, choices: BoosterChoices) -> tuple[str, ...]:
    """What the controller's clock changes; empty where nothing hangs on it."""
    rules, schools = choices.rules, choices.schools
    found = list(turn_by_clock(survey.pumping.duty_count, schools.alternation, rules.clock_period_s))
    if survey.holds_constant and choices.schools.night:
        found.append(f"Night set pressure from {rules.night_from_h} h to {rules.night_to_h} h.")
    return tuple(found)
