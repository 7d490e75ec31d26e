"""The numbers a circulator works with, taken from a plan or as its device really holds them."""

import math
from dataclasses import dataclass, field, fields
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.stations.circulator.names import Mode
from goodbalance.core.stations.circulator.names import SettingId as S
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices, Wins
from goodbalance.core.stations.circulator.survey.hours import by_clock, typed
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.survey.use import Outside
from goodbalance.core.stations.shared.week import Period


def _setting(setting_id: S, without: float) -> Any:
    """A number that a setting gives. without: what acts where neither plan nor device has such a setting."""
    return field(metadata={"setting": setting_id, "without": without})


@dataclass(frozen=True, slots=True, kw_only=True)
class Numbers:
    """Settings in SI; what is not used never acts. times: of the week, where it goes by its clock; valves: turns and crossover flows by their settings' ids."""

    mode: Mode
    by_clock: bool
    times: tuple[Period, ...]
    outside: Outside = Outside.NONE
    wins: Wins = Wins.BOTH
    clock_backup: bool = True
    valves: tuple[tuple[str, float], ...] = ()
    speed: float = _setting(S.SPEED, math.inf)
    set_pressure: float = _setting(S.SET_PRESSURE, 0.0)
    set_flow: float = _setting(S.SET_FLOW, 0.0)
    set_return: float = _setting(S.SET_RETURN, 0.0)
    stat_start: float = _setting(S.STAT_START, -math.inf)
    stat_stop: float = _setting(S.STAT_STOP, math.inf)
    button_run: float = _setting(S.BUTTON_RUN, 0.0)
    kick_every: float = _setting(S.KICK_EVERY, math.inf)

    def by_mode(self) -> dict[str, float]:
        """What goes with the modes, by the settings' ids, and the valves as they stand."""
        asked = {S.SET_PRESSURE: self.set_pressure, S.SET_FLOW: self.set_flow, S.SET_RETURN: self.set_return, **({S.SPEED: self.speed} if math.isfinite(self.speed) else {})}
        return {**{str(key): value for key, value in asked.items()}, **dict(self.valves)}


def numbers_of(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan, lacking: frozenset[str] = frozenset()) -> Numbers:
    """Every number the circulator needs, by the plan; what this plan does not have never acts.

    lacking: settings of the plan that no device has a place for: they never act.
    """
    held = {setting.id: setting.value for setting in plan.settings if setting.id not in lacking}
    valves = tuple((one, value) for one, value in held.items() if one.startswith(("valve_", "crossing_")))
    return Numbers(
        mode=choices.schools.mode, by_clock=by_clock(survey, choices), times=typed(survey, choices, plan.value(S.LEAD, 0.0)), outside=survey.control.outside, wins=choices.schools.wins,
        clock_backup=survey.control.clock_backup, valves=valves, **{name: held.get(setting_id, without) for name, setting_id, without in _SETTINGS},
    )  # fmt: skip


_SETTINGS = tuple((each.name, each.metadata["setting"], each.metadata["without"]) for each in fields(Numbers) if each.metadata)
WITHOUT: dict[str, float] = {setting_id: without for _, setting_id, without in _SETTINGS}  # what acts where a setting has no place
