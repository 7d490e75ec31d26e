"""From survey and choices to the plan of a transfer set."""

from dataclasses import replace

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.protection.plan import declinable, protect
from goodbalance.core.stations.transfer.names import MAX_TANKS, Level
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.motors import duties
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey
from goodbalance.core.stations.transfer.windows.consequences import figures
from goodbalance.core.stations.transfer.windows.findings import findings
from goodbalance.core.stations.transfer.windows.levels import SourceLevels, TankLevels
from goodbalance.core.stations.transfer.windows.openers import openers
from goodbalance.core.stations.transfer.windows.pressures import Pressures
from goodbalance.core.stations.transfer.windows.times import Times

DECLINABLE: dict[str, tuple[str, ...]] = {
    S.LEAST_PRESSURE: (S.LEAST_DELAY,), S.SOURCE_STOP_1: (S.SOURCE_BACK_1, S.SOURCE_STOP_2, S.SOURCE_BACK_2, S.SOURCE_DELAY), S.LONGEST_RUN: (),
    **{Level.LOW_ALARM.of(number): () for number in range(1, MAX_TANKS + 1)}, **declinable(2),
}  # fmt: skip
EXPLAINED = 3  # empty windows whose openers are searched


def reckon(survey: TransferSurvey, choices: TransferChoices, explain_empty: bool = True) -> Plan:
    """The plan: every pressure, level and time in its window, what follows, and what is wrong with it.

    Raises OutOfRange or NoSolution where the facts make no station. explain_empty: search what opens empty windows.
    """
    made = make_settings(survey, choices)
    guarded = protect(duties(survey), survey.protection, choices.protection, choices.chosen, survey.control.phase_monitor)
    settings = (*(_explained(survey, choices, made) if explain_empty else made), *guarded.settings)
    bare = Plan(settings, ())
    whole = Plan(settings, (*figures(survey, choices, bare), *guarded.figures), (*findings(survey, choices, bare), *guarded.findings))
    return whole.without({one: DECLINABLE[one] for one in choices.declined if one in DECLINABLE}) if choices.declined else whole


def make_settings(survey: TransferSurvey, choices: TransferChoices) -> tuple[Setting, ...]:
    """Every setting but those of the motors, each built on those before it."""
    values: dict[str, float] = {}
    rooms = [room(survey, choices, values) for room in (Pressures, TankLevels, SourceLevels, Times)]
    for room in rooms:
        room.make_all()
    return tuple(setting for room in rooms for setting in room.made)


def _explained(survey: TransferSurvey, choices: TransferChoices, settings: tuple[Setting, ...]) -> tuple[Setting, ...]:
    """The same with what would open the empty windows."""
    empty = [setting.id for setting in settings if setting.window.is_empty]
    if not empty:
        return settings

    def opens(setting_id: str, other: TransferSurvey, chosen: TransferChoices) -> bool:
        try:
            still = {setting.id for setting in make_settings(other, chosen) if setting.window.is_empty}
        except GoodBalanceError:
            return False
        return setting_id not in still and not still - set(empty)

    found = {one: openers(survey, choices, lambda s, c, one=one: opens(one, s, c)) for one in empty[:EXPLAINED]}  # type: ignore[misc]
    return tuple(replace(setting, window=replace(setting.window, openers=found[setting.id])) if setting.id in found else setting for setting in settings)
