"""Working the trails of a plan out again: what stands in a formula, with the numbers beside it, must give the number shown."""

import math
from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.trail import Trail

KNOWN: dict[str, Any] = {"max": max, "min": min, "sqrt": math.sqrt, "ln": math.log, "exp": math.exp, "floor": lambda value: math.floor(value + 1e-9)}


def worked_out(trail: Trail) -> float:
    """The right-hand side of a trail's formula with its terms put in."""
    expression = trail.formula.partition(" = ")[2].replace("·", "*").replace("^", "**").replace("²", "**2")
    return float(eval(expression, {"__builtins__": {}}, {**KNOWN, **{term.symbol: term.value for term in trail.terms}}))


def is_false(trail: Trail, shown: float) -> bool:
    """Whether the trail gives another number than is shown; 3.1416 is as near as a person writes it."""
    if not math.isfinite(shown):
        return False
    try:
        found = worked_out(trail)
    except ZeroDivisionError:
        return False  # told as no limit
    return not math.isclose(found, shown, rel_tol=1e-5, abs_tol=1e-9) or not math.isclose(trail.result.value, shown, rel_tol=1e-9, abs_tol=1e-12)


def false_trails(plan: Plan) -> list[str]:
    """Every bound and figure of a plan whose trail does not lead to its number."""
    found = []
    for setting in plan.settings:
        for bound in (*setting.window.lower, *setting.window.upper):
            if is_false(bound.trail, bound.value):
                found.append(f"{setting.id}, {bound.cause}: {bound.trail.formula} gives {worked_out(bound.trail)!r}, not {bound.value!r}")
    for figure in plan.figures:
        if is_false(figure.trail, figure.value):
            found.append(f"{figure.id}: {figure.trail.formula} gives {worked_out(figure.trail)!r}, not {figure.value!r}")
    return found


def false_verdicts(plan: Plan) -> list[str]:
    """Every figure that keeps its limit by its own words and is told as missed, or the other way round.

    Where turns are credited the limit is of one pump, which the figure is not.
    """
    found = []
    for figure in plan.figures:
        limits = [term.value for term in figure.limit_terms]
        if "credited" in figure.limit or not limits or not math.isfinite(figure.value):
            continue
        if figure.limit.startswith("at most {"):
            keeps = figure.value <= limits[0]
        elif figure.limit.startswith("at least"):
            keeps = figure.value >= limits[0]
        elif figure.limit.startswith("{L} to {H}"):
            keeps = limits[0] <= figure.value <= limits[1]
        else:
            continue
        near = any(math.isclose(figure.value, limit, rel_tol=0.021) for limit in limits)  # rules let a hair's breadth pass
        if keeps is not figure.keeps and not near:
            found.append(f"{figure.id} is {figure.value:g}, {figure.limit} {limits}: told as {'kept' if figure.keeps else 'missed'}")
    return found
