"""From survey and choices to the plan of a lift station."""

import copy
import math
from collections.abc import Callable
from dataclasses import replace

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.balance.window import Bound, Window
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.protection.plan import declinable, protect
from goodbalance.core.stations.lift.names import Role, float_id
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.plant.motors import duties
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.sensing import MAX_PUMPS
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.consequences import figures
from goodbalance.core.stations.lift.windows.drive_settings import DriveSettings
from goodbalance.core.stations.lift.windows.findings import findings, timing_findings
from goodbalance.core.stations.lift.windows.float_ladder import FloatLadder, is_alone, main_ladder
from goodbalance.core.stations.lift.windows.ladder import Ladder, climb
from goodbalance.core.stations.lift.windows.openers import openers
from goodbalance.core.stations.lift.windows.seals import seal_settings
from goodbalance.core.stations.lift.windows.timers import Timers, with_backup_run_on

DECLINABLE: dict[str, tuple[str, ...]] = {Role.LOW_CUT_OUT: (), Role.LOW_ALARM: (), S.LONGEST_RUN: (), S.FEEDBACK_LOST: (), **declinable(MAX_PUMPS)}
LEAN_SHARES = (1.0, 0.5, 0.25, 0.1, 0.0)  # how much of the free play to use; less where that closes a window above


def reckon(survey: LiftSurvey, choices: LiftChoices, explain_empty: bool = True) -> Plan:
    """The plan: every level in its window, what follows from the whole, and what is wrong with it.

    With explain_empty, each empty window carries what would open it; leave it out while a flag is being dragged.
    Raises OutOfRange or NoSolution where the facts make no station (check the survey first).
    """
    ladder = main_ladder(survey, choices)
    levels, windows = settle(ladder)
    settings = _on_rungs(ladder, levels, windows)
    driving = DriveSettings(ladder, levels)
    drives = driving.settings()
    ramp_s = next((setting.value for setting in drives if setting.id == S.RAMP), 0.0)
    timers = Timers(ladder, levels, is_alone(survey), ramp_s)
    after = timers.settings()
    if survey.control.has_floats and not is_alone(survey):
        floats = FloatLadder(survey, choices, levels)
        heights, float_windows = settle(floats)
        settings += _floats(floats, heights, float_windows)
        after = (*after, *with_backup_run_on(timers, heights))
    least_speed = next((setting.value for setting in drives if setting.id == S.LEAST_SPEED), 1.0)
    guarded = protect(duties(survey, least_speed), survey.protection, choices.protection, choices.chosen, survey.control.phase_monitor)
    settings += (*drives, *after, *guarded.settings, *seal_settings(survey, choices))
    if explain_empty:
        settings = _explained(survey, choices, settings)
    told = (*findings(ladder), *timing_findings(survey, settings), *guarded.findings)
    whole = Plan(settings, (*figures(ladder, levels), *driving.figures(drives), *guarded.figures), told)
    return whole.without({one: DECLINABLE[one] for one in choices.declined if one in DECLINABLE}) if choices.declined else whole


def _explained(survey: LiftSurvey, choices: LiftChoices, settings: tuple[Setting, ...]) -> tuple[Setting, ...]:
    """The settings with what would open the first empty window of each group, found by reckoning again."""
    found, told = [], set()
    for setting in settings:
        if not setting.window.is_empty or setting.group in told:
            found.append(setting)
            continue
        told.add(setting.group)
        ways = openers(survey, choices, _opens(setting) if setting.group != "levels" else None)
        found.append(replace(setting, window=replace(setting.window, openers=ways)))
    return tuple(found)


def _opens(setting: Setting) -> Callable[[LiftSurvey, LiftChoices], bool]:
    def opens(survey: LiftSurvey, choices: LiftChoices) -> bool:
        try:
            return not reckon(survey, choices, False).setting(setting.id).window.is_empty
        except (GoodBalanceError, KeyError):
            return False

    return opens


def _on_rungs(ladder: Ladder, levels: dict[str, float], windows: dict[str, Window]) -> tuple[Setting, ...]:
    recommended = _recommended(ladder, levels)
    return tuple(
        Setting(
            id=rung.id,
            label=rung.label,
            twin=rung.twin,
            quantity=Quantity.LEVEL,
            window=windows[rung.id],
            recommended=math.nan if windows[rung.id].is_empty else recommended[rung.id],
            chosen=ladder.chosen.get(rung.id),
            value=levels[rung.id],
            step=ladder.choices.step_m,
            proved_by=rung.proved_by,
            group="levels",
        )
        for rung in ladder.rungs
    )


def _floats(ladder: FloatLadder, heights: dict[str, float], windows: dict[str, Window]) -> tuple[Setting, ...]:
    """The floats behind a sensor. Bounds that stand on another float name it by its own id, those on the sensor's levels keep theirs."""

    def renamed(bounds: tuple[Bound, ...], kept: tuple[Bound, ...]) -> tuple[Bound, ...]:
        return tuple(
            replace(bound, refers_to=float_id(bound.refers_to)) if bound.refers_to and bound not in kept else bound
            for bound in bounds
        )

    found = []
    for setting in _on_rungs(ladder, heights, windows):
        kept = ladder.above_the_sensors(setting.id)
        window = Window(renamed(setting.window.lower, kept), renamed(setting.window.upper, ()))
        label = f"{setting.label.removesuffix(' level')} float"
        proof = "Lift this float by its cable: its contact must act."
        named = replace(setting, id=float_id(setting.id), label=label, twin="hang at", window=window, proved_by=proof, group="floats")
        found.append(named)
    return tuple(found)


def settle(ladder: Ladder) -> tuple[dict[str, float], dict[str, Window]]:
    """Levels and their windows, with the most generous lean that keeps every window open."""
    for share in LEAN_SHARES:
        levels = climb(ladder, share)
        windows = _windows(ladder, levels)
        free = (rung_id for rung_id in ladder.ids if rung_id not in ladder.chosen)
        if all(windows[rung_id].holds(levels[rung_id]) for rung_id in free):
            break
    return levels, windows


def _windows(ladder: Ladder, levels: dict[str, float]) -> dict[str, Window]:
    """Each rung's window with all other levels as they are in force."""
    found = {}
    for rung_id in ladder.ids:
        others = {other: level for other, level in levels.items() if other != rung_id}
        found[rung_id] = Window(ladder.lower(rung_id, others), ladder.upper(rung_id, others))
    return found


def _recommended(ladder: Ladder, levels: dict[str, float]) -> dict[str, float]:
    """What each level would be if it were left to the tool while the other choices stand."""
    recommended = dict(levels)
    for rung_id in ladder.chosen:
        if rung_id in recommended:
            freed = copy.copy(ladder)
            freed.chosen = {key: value for key, value in ladder.chosen.items() if key != rung_id}
            recommended[rung_id] = settle(freed)[0][rung_id]
    return recommended
