"""From survey and choices to the plan of a booster set."""

from collections.abc import Set as AbstractSet
from dataclasses import dataclass, replace
from functools import partial

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.protection.plan import declinable, protect
from goodbalance.core.stations.booster.names import PRIME, WATER
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.motors import duties
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.closing import Regulator, closings
from goodbalance.core.stations.booster.windows.consequences import figures
from goodbalance.core.stations.booster.windows.findings import findings
from goodbalance.core.stations.booster.windows.limits import Limits
from goodbalance.core.stations.booster.windows.loads import Loads
from goodbalance.core.stations.booster.windows.loop_settings import LoopSettings
from goodbalance.core.stations.booster.windows.making import LOOP, Windows
from goodbalance.core.stations.booster.windows.openers import openers
from goodbalance.core.stations.booster.windows.own_switches import OwnSwitches
from goodbalance.core.stations.booster.windows.pressures import Pressures
from goodbalance.core.stations.booster.windows.restarts import Restarts
from goodbalance.core.stations.booster.windows.set_values import SetValues
from goodbalance.core.stations.booster.windows.speeds import Speeds
from goodbalance.core.stations.booster.windows.suction_stops import SuctionStops
from goodbalance.core.stations.booster.windows.tank_floats import TankFloats
from goodbalance.core.stations.booster.windows.times import Times
from goodbalance.core.stations.booster.windows.tries import Tries

DECLINABLE: dict[str, tuple[str, ...]] = {
    S.LOW_SUCTION_STOP: (S.LOW_SUCTION_RESET, S.LOW_SUCTION_ALARM, S.LOW_SUCTION_DELAY, *WATER),
    S.LOW_LEVEL_STOP: (S.LOW_LEVEL_ALARM, S.LOW_SUCTION_DELAY, *WATER), S.LOW_SUCTION_ALARM: (), S.LOW_LEVEL_ALARM: (), S.BURST_STOP: (S.BURST_DELAY,), S.NO_PRIME_DELAY: (S.NO_PRIME_LOAD, S.NO_PRIME_PRESSURE, *PRIME), S.CLOSED_DELAY: (S.CLOSED_LOAD,),
    S.STARTS_ALARM: (), S.MAX_RUN: (), **declinable(1),
}  # fmt: skip
EXPLAINED = 3  # empty windows whose openers are searched; what hangs on them opens with them


@dataclass(frozen=True, slots=True)
class Rooms:
    """The settings of a plan as they were made, and the rooms that know more of them."""

    settings: tuple[Setting, ...]
    values: dict[str, float]
    speeds: Speeds
    loop: LoopSettings | None


def reckon(survey: BoosterSurvey, choices: BoosterChoices, explain_empty: bool = True) -> Plan:
    """The plan: every pressure, speed, time and gain in its window, what follows, and what is wrong with it.

    Raises OutOfRange or NoSolution where the facts make no station. explain_empty: search what opens empty windows.
    """
    rooms = make_rooms(survey, choices)
    least_speed = max(0.0, rooms.values.get(S.LEAST_SPEED, 1.0))
    guarded = protect(duties(survey, least_speed), survey.protection, choices.protection, choices.chosen, survey.control.phase_monitor)
    told = (*findings(survey, choices, rooms.values), *rooms.speeds.findings(), *guarded.findings)
    follows = (*figures(survey, choices, rooms.values), *(rooms.loop.figures() if rooms.loop is not None else ()), *guarded.figures)
    settings = (*(_explained(survey, choices, rooms.settings) if explain_empty else rooms.settings), *guarded.settings)
    whole = Plan(settings, follows, told)
    return whole.without({one: DECLINABLE[one] for one in choices.declined if one in DECLINABLE}) if choices.declined else whole


def make_rooms(survey: BoosterSurvey, choices: BoosterChoices, with_loop: bool = True) -> Rooms:
    """Every setting, each built on those before it. with_loop: the gains too, which take longest."""
    values: dict[str, float] = {}
    pressures = (OwnSwitches if survey.own_switches else Pressures)(survey, choices, values)
    limits = Limits(survey, choices, values)
    suction = (TankFloats if survey.switch_in_tank else SuctionStops)(survey, choices, values)
    speeds, times = Speeds(survey, choices, values), Times(survey, choices, values)
    asked = SetValues(pressures)
    tries, loads, restarts = Tries(survey, choices, values), Loads(survey, choices, values), Restarts(survey, choices, values)
    rooms: list[Windows] = [pressures, asked, limits, suction, speeds, times, tries, loads, restarts]
    if not survey.holds_constant:
        rooms = [speeds, pressures, limits, suction, times, tries, loads, restarts]  # the fixed speed decides which pressures can be reached
    loop = LoopSettings(survey, choices, values) if with_loop else None
    for room in (*rooms, *([] if loop is None else [loop])):
        room.make_all()
    if survey.holds_constant:
        limits.high_stop(() if loop is None else closings(survey, regulator_of(values)))
    shown = (pressures, asked, limits, suction, speeds, loads, times, tries, restarts, *([] if loop is None else [loop]))
    return Rooms(tuple(setting for room in shown for setting in room.made), values, speeds, loop)


def regulator_of(values: dict[str, float]) -> Regulator:
    """The loop's numbers among the settings."""
    return Regulator(
        values[S.SET_PRESSURE], values.get(S.PRECHARGE, 0.0), values[S.GAIN], values[S.RESET_TIME], values[S.FILTER],
        max(0.0, values[S.LEAST_SPEED]), values[S.MOST_SPEED], values[S.RAMP],
    )  # fmt: skip


def _explained(survey: BoosterSurvey, choices: BoosterChoices, settings: tuple[Setting, ...]) -> tuple[Setting, ...]:
    """The same with what would open the empty windows; the gains are reckoned only where one of theirs is empty."""
    empty = {setting.id: setting.group for setting in settings if setting.window.is_empty}
    if not empty:
        return settings

    def still_empty(other: BoosterSurvey, chosen: BoosterChoices, with_loop: bool) -> set[str]:
        try:
            made = make_rooms(other, chosen, with_loop).settings
        except GoodBalanceError:
            return {"refused"}
        return {setting.id for setting in made if setting.window.is_empty}

    def opens(others: AbstractSet[str], with_loop: bool, s: BoosterSurvey, c: BoosterChoices) -> bool:
        return not still_empty(s, c, with_loop) - others

    found = {}
    for setting_id, group in list(empty.items())[:EXPLAINED]:
        others, values = empty.keys() - {setting_id}, {setting.id: setting.value for setting in settings}
        found[setting_id] = openers(
            survey, choices, partial(opens, others, group == LOOP or setting_id == S.HIGH_STOP), values,
        )
    return tuple(
        replace(setting, window=replace(setting.window, openers=found[setting.id])) if setting.id in found else setting
        for setting in settings
    )
