"""From survey and choices to the plan of a ring."""

from dataclasses import replace

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.windows.consequences import figures
from goodbalance.core.stations.circulator.windows.findings import findings
from goodbalance.core.stations.circulator.windows.openers import openers
from goodbalance.core.stations.circulator.windows.set_values import SetValues
from goodbalance.core.stations.circulator.windows.times import Times
from goodbalance.core.stations.circulator.windows.valves import Valves

EXPLAINED = 3  # empty windows whose openers are searched


def reckon(survey: CirculatorSurvey, choices: CirculatorChoices, explain_empty: bool = True) -> Plan:
    """The plan: every valve, set value and time in its window, what follows, and what is wrong with it.

    Raises OutOfRange or NoSolution where the facts make no ring. explain_empty: search what opens empty windows.
    """
    made = make_settings(survey, choices)
    settings = _explained(survey, choices, made) if explain_empty else made
    bare = Plan(settings, ())
    return Plan(settings, figures(survey, choices, bare), findings(survey, choices, bare))


def make_settings(survey: CirculatorSurvey, choices: CirculatorChoices) -> tuple[Setting, ...]:
    """Every setting, each built on those before it; valves first, for the pump's number stands on them."""
    values: dict[str, float] = {}
    found: list[Setting] = []
    for room in (Valves(survey, choices, values), SetValues(survey, choices, values), Times(survey, choices, values)):
        room.make_all()
        found += room.made
    return tuple(found)


def _explained(survey: CirculatorSurvey, choices: CirculatorChoices, settings: tuple[Setting, ...]) -> tuple[Setting, ...]:
    """The same with what would open the empty windows."""
    empty = [setting.id for setting in settings if setting.window.is_empty]
    if not empty:
        return settings

    def opens(setting_id: str, other: CirculatorSurvey, chosen: CirculatorChoices) -> bool:
        try:
            still = {setting.id for setting in make_settings(other, chosen) if setting.window.is_empty}
        except GoodBalanceError:
            return False
        return setting_id not in still and not still - set(empty)

    found = {one: openers(survey, choices, lambda s, c, one=one: opens(one, s, c)) for one in empty[:EXPLAINED]}  # type: ignore[misc]
    return tuple(replace(setting, window=replace(setting.window, openers=found[setting.id])) if setting.id in found else setting for setting in settings)
