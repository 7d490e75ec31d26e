"""The hand sweep: the speed that holds the set pressure at each demand, as reckoned and as found by hand on site."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from goodbalance.core.balance.plan import Finding, Plan, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.errors import OutOfRange
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import Holding, hydraulics
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.held import held_pa

SHARES = (0.0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
AGREES = 0.03  # of full speed by which hand and reckoning may differ
BELIEVED = 0.15  # of full speed: a speed farther off than this is no speed of these pumps at this flow
FAR_ENOUGH = 0.9  # of the design flow that must have been held before it counts as held at every flow
WRONG_WAY_HEAD = (0.25, 0.65)  # of its head that a pump gives turning the wrong way
HELD_SHARE = 0.03  # of the set pressure by which "held" may be off


@dataclass(frozen=True, slots=True)
class SweepRow:
    """One demand: its name, flow, the pressure wanted there, and how one, two and more duty pumps hold it."""

    name: str
    flow_m3s: float
    set_pa: float
    holdings: tuple[Holding, ...]

    @property
    def best(self) -> Holding | None:
        """The feasible way that takes least power; among equal ones the fewer pumps."""
        able = [holding for holding in self.holdings if holding.feasible]
        return min(able, key=lambda holding: (holding.power_w, holding.pumps)) if able else None


def hand_sweep(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, high: bool = False) -> tuple[SweepRow, ...]:
    """From no flow to the design flow, and with fire or flushing flow on top; at the lowest or the highest supply."""
    hyd, design_m3s = hydraulics(survey), survey.demand.design_m3s
    values = {setting.id: setting.value for setting in plan.settings}
    cases = [(f"{share:.0%}".replace("%", " %"), share * design_m3s) for share in SHARES]
    if survey.demand.flush_m3s:
        cases.append(("with flushing", design_m3s + survey.demand.flush_m3s))
    found = []
    for name, flow in cases:
        set_pa = held_pa(survey, choices, values, flow)
        counts = range(1, survey.pumping.duty_count + 1)
        suction_pa = hyd.suction_pa(flow, high)
        found.append(SweepRow(name, flow, set_pa, tuple(hyd.holding(set_pa, suction_pa, flow, n) for n in counts)))
    return tuple(found)


@dataclass(frozen=True, slots=True)
class HandRow:
    """One line of the sweep by hand, beside what was reckoned for the same flow and suction."""

    outlets: int
    flow_m3s: float
    pumps: int
    held: bool
    speed: float
    pressure_pa: float
    suction_pa: float
    reckoned: float  # speed; infinite where none is enough
    word: str  # agrees, faster, slower, not held


@dataclass(frozen=True, slots=True)
class HandSweep:
    """A sweep by hand worked out: its lines, what they say, and whether the loop may be tuned now."""

    rows: tuple[HandRow, ...]
    findings: tuple[Finding, ...]

    @property
    def may_tune(self) -> bool:
        """Whether every flow was held by hand, from a tap or none to the design flow, at speeds that can be believed."""
        stopped = any(finding.severity is Severity.STOP for finding in self.findings)
        return bool(self.rows) and all(row.held for row in self.rows) and not stopped


def worked_out(survey: BoosterSurvey, plan: Plan, body: Mapping[str, Any]) -> HandSweep:
    """Speeds found by hand against the pump curve by affinity, at the suction pressure read.

    body: flow_m3s of one outlet, and rows of outlets, pumps, held, speed, pressure_pa, suction_pa. Raises OutOfRange.
    """
    each, lines = body["outlet_m3s"], body["rows"]
    if not lines:
        raise OutOfRange("rows", 0, "one line or more")
    hyd, found = hydraulics(survey), []
    for line in lines:
        flow = each * line["outlets"]
        added_m = hyd.added_m(line["pressure_pa"], line["suction_pa"])
        reckoned = hyd.speed(added_m, flow, line["pumps"]) if added_m > 0.0 else 0.0
        off = line["speed"] - reckoned
        word = (
            "not held" if not line["held"] else "agrees" if abs(off) <= AGREES else "faster" if off > 0.0 else "slower"
        )
        found.append(
            HandRow(
                line["outlets"],
                flow,
                line["pumps"],
                line["held"],
                line["speed"],
                line["pressure_pa"],
                line["suction_pa"],
                reckoned,
                word,
            )
        )
    rows = tuple(found)
    return HandSweep(rows, (*_said(survey, plan, rows), *_reach(survey, rows)))


def _reach(survey: BoosterSurvey, rows: Sequence[HandRow]) -> list[Finding]:
    """Whether the lines go from little flow to the design flow."""
    held, design, least = [row.flow_m3s for row in rows if row.held], survey.demand.design_m3s, survey.demand.least_m3s
    if not held or len(held) < len(rows):
        return []  # a line that was not held says more
    found = []
    if max(held) < FAR_ENOUGH * design:
        terms = (Term("q", "", max(held), Q.FLOW), Term("d", "", design, Q.FLOW))
        text = "The largest flow held is {q}; the design flow is {d}: open more outlets, up to it."
        found.append(Finding("not_far_enough", Severity.STOP, "sweep", text, terms))
    if min(held) > max(2.0 * least, 0.1 * design):
        terms = (Term("q", "", min(held), Q.FLOW), Term("l", "", least, Q.FLOW))
        text = "The smallest flow held is {q}; at night {l} is drawn, and there the pressure answers most: hold one tap too."
        found.append(Finding("not_little_enough", Severity.STOP, "sweep", text, terms))
    return found


def _said(survey: BoosterSurvey, plan: Plan, rows: Sequence[HandRow]) -> list[Finding]:
    """What the lines tell: why a flow was not held, and what a speed beside the curve means."""
    hyd, found = hydraulics(survey), []
    wanted_pa = plan.value(S.SET_PRESSURE, plan.value(S.CUT_IN, 0.0))
    for row in rows:
        lines = Term("k", "", float(row.outlets), Q.COUNT)
        if not row.held:
            found.append(_why_not(survey, plan, row))
        elif abs(row.pressure_pa - wanted_pa) > HELD_SHARE * wanted_pa:
            terms = (lines, Term("p", "", row.pressure_pa, Q.PRESSURE), Term("s", "", wanted_pa, Q.PRESSURE))
            text = "With {k} outlets {p} was held, not the set pressure of {s}: hold that one."
            found.append(Finding("other_pressure", Severity.CAUTION, "sweep", text, terms))
        elif abs(row.speed - row.reckoned) > BELIEVED:
            ratio = row.speed / row.reckoned if row.reckoned > 0.0 and math.isfinite(row.reckoned) else 0.0
            as_hz = abs(ratio * 100.0 / survey.motor.rated_hz - 1.0) < 0.1
            terms = (lines, Term("n", "", row.speed, Q.PERCENT), Term("r", "", row.reckoned, Q.PERCENT))
            text = "With {k} outlets {n} cannot be: {r} is reckoned. " + (
                "Were these Hz? Choose the unit above the lines." if as_hz else "Read speed, flow and pumps again."
            )
            found.append(Finding("speed_not_believed", Severity.STOP, "sweep", text, terms))
        elif row.word == "faster":
            text = "With {k} outlets it took {n}, reckoned {r}: a worn impeller, a valve half shut, air, or more flow than thought."
            terms = (lines, Term("n", "", row.speed, Q.PERCENT), Term("r", "", row.reckoned, Q.PERCENT))
            found.append(Finding("faster", Severity.CAUTION, "sweep", text, terms))
        elif row.word == "slower":
            text = "With {k} outlets {n} was enough, reckoned {r}: less flow than thought, another impeller, or a gauge that is off."
            terms = (lines, Term("n", "", row.speed, Q.PERCENT), Term("r", "", row.reckoned, Q.PERCENT))
            found.append(Finding("slower", Severity.NOTE, "sweep", text, terms))
        if row.suction_pa < hyd.suction_pa(row.flow_m3s) - 2e4:
            terms = (
                lines,
                Term("p", "", row.suction_pa, Q.PRESSURE),
                Term("l", "", hyd.suction_pa(row.flow_m3s), Q.PRESSURE),
            )
            text = "With {k} outlets the suction fell to {p}, under the {l} of the survey: strainer, valve, or the survey is wrong."
            found.append(Finding("suction_sags", Severity.CAUTION, "supply", text, terms))
    return found


def _why_not(survey: BoosterSurvey, plan: Plan, row: HandRow) -> Finding:
    """The likeliest reason why a flow was not held by hand."""
    hyd = hydraulics(survey)
    wanted_pa = plan.value(S.SET_PRESSURE, plan.value(S.CUT_IN, 0.0))
    lines = Term("k", "", float(row.outlets), Q.COUNT)
    needed = hyd.speed(hyd.added_m(wanted_pa, row.suction_pa), row.flow_m3s, row.pumps)
    gave_m, could_m = hyd.added_m(row.pressure_pa, row.suction_pa), _head_m(survey, row)
    share = gave_m / could_m if could_m > 0.0 else 0.0
    terms = (
        lines,
        Term("h", "", gave_m, Q.HEAD),
        Term("c", "", could_m, Q.HEAD),
        Term("p", "", row.suction_pa, Q.PRESSURE),
    )
    npsh_m = hyd.npsh_required_m(row.flow_m3s / row.pumps, max(row.speed, 0.1))
    if npsh_m is not None and hyd.npsh_available_m(row.suction_pa) < npsh_m:
        code, text = (
            "suction",
            "With {k} outlets the suction at {p} is too low for the pump: it cavitates. Open the suction, clean the strainer.",
        )
    elif needed > 1.0:
        code, text = (
            "undersized",
            "With {k} outlets the set pressure is beyond what so many pumps can: undersized, or one more must run.",
        )
    elif share < 0.1:
        code, text = (
            "no_water",
            "With {k} outlets the pump adds {h} of {c}: it has no water. Prime it, open the suction valve.",
        )
    elif row.outlets == 0 and WRONG_WAY_HEAD[0] <= share <= WRONG_WAY_HEAD[1]:
        code, text = (
            "wrong_rotation",
            "With no outlet open the pump adds {h} of {c}: it may turn the wrong way. Isolate, swap two motor leads, bump again.",
        )
    elif share < 0.9:
        code, text = (
            "closed_valve",
            "With {k} outlets the pump adds {h} of {c}: a valve half shut, a clogged impeller, or a flow it was not told of.",
        )
    else:
        code, text = (
            "too_slow",
            "With {k} outlets the pump adds {h} of {c} as its curve says: turn it faster, or read the gauge again.",
        )
    return Finding(code, Severity.STOP, "sweep", text, terms)


def _head_m(survey: BoosterSurvey, row: HandRow) -> float:
    """What the curve says at the speed and flow of a line."""
    if row.speed <= 0.0:
        return math.nan
    each = row.flow_m3s / row.pumps / row.speed
    return hydraulics(survey).curve.head_m(each) * row.speed**2


def may_tune(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, latest: HandSweep | None) -> Finding | None:
    """Why the loop must wait, or None. By what was held on site; where nothing was tried, by the reckoned sweep."""
    rows = hand_sweep(survey, choices, plan)
    short = [row for row in rows if row.best is None and row.flow_m3s <= survey.demand.design_m3s * 1.0001]
    if short:
        terms = (Term("Q", "", short[0].flow_m3s, Q.FLOW),)
        text = "Even at full speed the pumps cannot hold {Q} at the lowest suction, as reckoned. No gains will help: more pump, less pressure, or better suction."
        return Finding("undersized", Severity.STOP, "sweep", text, terms)
    if latest is None:
        return Finding(
            "not_tried",
            Severity.STOP,
            "sweep",
            "Nothing was held by hand yet. Gains cannot give what the pumps lack: sweep first.",
        )
    if not latest.may_tune:
        return next(f for f in latest.findings if f.severity is Severity.STOP)
    return None
