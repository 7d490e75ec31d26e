"""The numbers of a ring's picture: its branches as loops, one inside the other, with the temperature along each."""

from typing import Any

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.stations.circulator.names import crossing, valve
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.pipes import ValveKind
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.windows.consequences import at_rest

COOL_SHARE = 0.35  # of the way from its air to its hottest water: where the shade begins


def drawing(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan, units: UnitSystem) -> dict[str, Any]:
    """Temperatures in degrees C, as the ring runs by its plan; each branch with its valve in words."""
    runs = at_rest(survey, choices, plan)
    warm = runs.warmth
    around = min(branch.around_c for branch in survey.branches)
    hot = survey.heat.flow_c
    return {
        "kind": survey.ring.kind.value, "mixing": survey.heat.mixing, "heat": survey.heat.kind.value, "out_c": hot, "divides_c": warm.divides_c, "back_c": warm.back_c, "low_c": around + COOL_SHARE * (hot - around), "high_c": hot,
        "branches": [
            {"name": survey.branch_name(number), "far_c": warm.taps_c[number - 1], "end_c": warm.ends_c[number - 1], "valve": _valve(survey, plan, number, units), "acting": branch.valve is ValveKind.THERMOSTATIC,
             "flow": show(runs.running.branches_m3s[number - 1], Quantity.LEAK, units)}
            for number, branch in enumerate(survey.branches, 1)
        ],
        "pump": {"flow": show(runs.running.flow_m3s, Quantity.LEAK, units), "adds": show(runs.running.adds_pa, Quantity.DIFFERENCE, units)},
    }  # fmt: skip


def _valve(survey: CirculatorSurvey, plan: Plan, number: int, units: UnitSystem) -> str:
    """A branch's valve as it is set, in few letters."""
    if valve(number) in plan:
        return f"{plan.value(valve(number), 0.0):.1f}"
    if crossing(number) in plan:
        return show(plan.value(crossing(number), 0.0), Quantity.LEAK, units).split(" ")[0]
    branch = survey.branches[number - 1]
    return f"<{show(branch.closes_c, Quantity.TEMPERATURE, units).split()[0]}" if branch.valve is ValveKind.THERMOSTATIC else "open"
