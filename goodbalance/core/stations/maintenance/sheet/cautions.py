"""What can hurt people and buildings at a maintenance pump; shown where the hand is about to move and on the door card."""

from goodbalance.core.protection.names import Restart
from goodbalance.core.stations.maintenance.names import LICENSED
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices, RunOn
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey


def cautions(survey: MaintenanceSurvey, choices: MaintenanceChoices) -> tuple[str, ...]:
    """The cautions that apply, gravest first."""
    found = [
        LICENSED,
        "Before any bleed the alarm receiver is told and the impairment procedure is followed; afterwards both are ended, and it is written when.",
        "The main pump is not started, stopped, set or tested from here.",
        "The pump starts by itself. Lock and tag the supply, prove dead, before touching pump or panel.",
        "Stored pressure in a stiff line: open cocks by the drop, stand aside.",
        "In OFF or HAND nothing keeps the line: the next sag starts the main pump and calls the brigade. Left in AUTO at the end.",
    ]
    if choices.schools.run_on is RunOn.TIMER:
        found.append("A least run carries the line to the pump's shut-off: parts and gauges must stand it.")
    if choices.protection.power_return is Restart.BY_HAND:
        found.append("After a power cut it waits for a person, and the line sags meanwhile to the main pump's start.")
    found.append("Local codes, the makers' manuals and licensed people come first.")
    return tuple(found)
