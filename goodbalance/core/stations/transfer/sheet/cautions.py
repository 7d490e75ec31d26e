"""What can hurt people at a transfer set; shown where the hand is about to move and on the door card."""

from goodbalance.core.stations.shared.facts import turn_by_clock
from goodbalance.core.stations.transfer.names import Level
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.control import FullBy
from goodbalance.core.stations.transfer.survey.source import SourceKind
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey
from goodbalance.core.stations.transfer.windows.reckon import DECLINABLE


def cautions(survey: TransferSurvey, choices: TransferChoices) -> tuple[str, ...]:
    """The cautions that apply to this set, gravest first."""
    found = ["Pumps start by themselves. Lock and tag the supply, prove dead, before touching pump or panel."]
    if survey.control.by_pressure:
        found.append("A delay counts unseen: after minutes of standing still the pump starts without warning, whoever stands beside it.")
        found.append("The stop pressure is no protection of pipes: against a closed valve a pump reaches its shut-off pressure.")
    found += [
        "Stored pressure in the line: isolate and let it off before opening anything.",
        "At the tanks: ladder, edge, closed space, drowning. Not alone, not without a permit where it needs one.",
        "In HAND nothing stops a pump but its motor's guards: it overflows the tank. Stay beside it.",
    ]
    if any(source.kind in (SourceKind.WELL, SourceKind.SUMP, SourceKind.CISTERN) for source in survey.sources):
        found.append("No entry into well, sump or cistern without permit, gas test and attendant.")
    if survey.tanks.drinking:
        found.append("Drinking water: keep parts and hands clean, keep the air gap, prevent backflow, flush and sample after works as local rules ask.")
    if any(tank.reserve_m3 > 0.0 for tank in survey.all_tanks):
        found.append("A reserve is kept in a tank: its owner is told before it is drawn. Fire systems: licensed people and the authority's rules only.")
    found.append("Local codes, the makers' manuals and licensed people come first.")
    return tuple(found)


def not_declined(survey: TransferSurvey, setting_id: str) -> str:
    """Why a protection may not be declined at a set; empty where it may."""
    if setting_id.startswith(Level.HIGH_ALARM):
        return "Nothing else stops a pump before the tank overflows: the high alarm is not declined."
    if setting_id == S.LONGEST_RUN and survey.control.full_by is FullBy.PRESSURE:
        return "Nothing else ends a run when a valve sticks open: the longest run is not declined."
    return "" if setting_id in DECLINABLE else "It is no protection that a job may do without."


def by_clock(survey: TransferSurvey, choices: TransferChoices) -> tuple[str, ...]:
    """What the controller's clock changes; empty where nothing hangs on it."""
    return turn_by_clock(survey.pumping.duty_count, choices.schools.alternation, choices.rules.clock_period_s)
