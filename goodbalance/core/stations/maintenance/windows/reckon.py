"""From survey and choices to the plan of a maintenance pump."""

from dataclasses import replace

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.protection.plan import declinable, protect
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.plant.motors import duties
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.maintenance.windows.consequences import figures
from goodbalance.core.stations.maintenance.windows.findings import findings
from goodbalance.core.stations.maintenance.windows.openers import openers
from goodbalance.core.stations.maintenance.windows.pressures import Pressures
from goodbalance.core.stations.maintenance.windows.times import Times

DECLINABLE: dict[str, tuple[str, ...]] = {S.LONG_RUN: (), **declinable(1)}
EXPLAINED = 3  # empty windows whose openers are searched


def reckon(survey: MaintenanceSurvey, choices: MaintenanceChoices, explain_empty: bool = True) -> Plan:
    """The plan: every pressure and time in its window, what follows, and what is wrong with it.

    Raises OutOfRange or NoSolution where the facts make no line. explain_empty: search what opens empty windows.
    """
    made = make_settings(survey, choices)
    guarded = protect(duties(survey), survey.protection, choices.protection, choices.chosen, survey.control.phase_monitor)
    settings = (*(_explained(survey, choices, made) if explain_empty else made), *guarded.settings)
    bare = Plan(settings, ())
    whole = Plan(settings, (*figures(survey, choices, bare), *guarded.figures), (*findings(survey, choices, bare), *guarded.findings))
    return whole.without({one: DECLINABLE[one] for one in choices.declined if one in DECLINABLE}) if choices.declined else whole


def make_settings(survey: MaintenanceSurvey, choices: MaintenanceChoices) -> tuple[Setting, ...]:
    """Every setting but those of the motor, each built on those before it."""
    values: dict[str, float] = {}
    rooms = [room(survey, choices, values) for room in (Pressures, Times)]
    for room in rooms:
        room.make_all()
    return tuple(setting for room in rooms for setting in room.made)


def _explained(survey: MaintenanceSurvey, choices: MaintenanceChoices, settings: tuple[Setting, ...]) -> tuple[Setting, ...]:
    """The same with what would open the empty windows."""
    empty = [setting.id for setting in settings if setting.window.is_empty]
    if not empty:
        return settings

    def opens(setting_id: str, other: MaintenanceSurvey, chosen: MaintenanceChoices) -> bool:
        try:
            still = {setting.id for setting in make_settings(other, chosen) if setting.window.is_empty}
        except GoodBalanceError:
            return False
        return setting_id not in still and not still - set(empty)


    found = {one: openers(survey, choices, lambda s, c, one=one: opens(one, s, c)) for one in empty[:EXPLAINED]}  # type: ignore[misc]
    return tuple(replace(setting, window=replace(setting.window, openers=found[setting.id])) if setting.id in found else setting for setting in settings)
