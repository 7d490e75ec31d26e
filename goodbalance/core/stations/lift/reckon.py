"""From survey and choices to the plan of a lift station."""

import math

from goodbalance.core.balance.plan import Plan, Setting
from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.balance.window import Window
from goodbalance.core.stations.lift.choices import LiftChoices
from goodbalance.core.stations.lift.consequences import figures, findings
from goodbalance.core.stations.lift.ladder import Ladder, climb
from goodbalance.core.stations.lift.openers import openers
from goodbalance.core.stations.lift.survey import LiftSurvey

LEAN_SHARES = (1.0, 0.5, 0.25, 0.1, 0.0)  # how much of the free play to use; less where that closes a window above


def reckon(survey: LiftSurvey, choices: LiftChoices, explain_empty: bool = True) -> Plan:
    """The plan: every level in its window, what follows from the whole, and what is wrong with it.

    With explain_empty, each empty window carries what would open it; leave it out while a flag is being dragged.
    Raises OutOfRange or NoSolution where the facts make no station (check the survey first).
    """
    ladder = Ladder(survey, choices)
    levels, windows = settle(ladder)
    recommended = _recommended(survey, choices, levels)
    if explain_empty and any(window.is_empty for window in windows.values()):
        empty = next(rung_id for rung_id in ladder.ids if windows[rung_id].is_empty)
        window = windows[empty]
        windows[empty] = Window(window.lower, window.upper, openers(survey, choices))
    settings = tuple(
        Setting(
            id=rung.id,
            label=rung.label,
            twin=rung.twin,
            quantity=Quantity.LEVEL,
            window=windows[rung.id],
            recommended=math.nan if windows[rung.id].is_empty else recommended[rung.id],
            chosen=choices.levels_m.get(rung.id),
            value=levels[rung.id],
            step=choices.step_m,
            proved_by=rung.proved_by,
        )
        for rung in ladder.rungs
    )
    return Plan(settings, figures(ladder, levels), findings(ladder, levels))


def settle(ladder: Ladder) -> tuple[dict[str, float], dict[str, Window]]:
    """Levels and their windows, with the most generous lean that keeps every window open."""
    for share in LEAN_SHARES:
        levels = climb(ladder, share)
        windows = _windows(ladder, levels)
        free = (rung_id for rung_id in ladder.ids if rung_id not in ladder.choices.levels_m)
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


def _recommended(survey: LiftSurvey, choices: LiftChoices, levels: dict[str, float]) -> dict[str, float]:
    """What each level would be if it were left to the tool while the other choices stand."""
    recommended = dict(levels)
    for rung_id in choices.levels_m:
        if rung_id in recommended:
            rest = {k: v for k, v in choices.levels_m.items() if k != rung_id}
            ladder = Ladder(survey, choices.model_copy(update={"levels_m": rest}))
            recommended[rung_id] = settle(ladder)[0][rung_id]
    return recommended
