"""What a trend of pressures tells of a booster set: how steady it is, how often it starts and sleeps, whether it hunts."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from goodbalance.core.balance.plan import Finding, Plan, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.errors import OutOfRange
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey

LEAST_ROWS = 30
WITHIN = 0.02  # of the set pressure
HUNTS_SWINGS, HUNTS_SHARE = 6, 0.03  # so many swings in a row, each of this share of the set pressure, mean hunting
MOST_EVEN = 0.6  # spread of the swings' lengths over their mean, above which they are people, not a loop


@dataclass(frozen=True, slots=True)
class PumpShare:
    """One pump of a trend."""

    pump: int
    starts: int
    run_s: float


@dataclass(frozen=True, slots=True)
class Hunting:
    """A stretch in which the pressure swings evenly. period_s: from crest to crest; height_pa: crest to trough."""

    from_s: float
    to_s: float
    period_s: float
    height_pa: float


@dataclass(frozen=True, slots=True)
class PressureReport:
    """A trend summed up. Shares of time; sleeps: how often all pumps had stopped."""

    lasted_s: float
    lowest_pa: float
    highest_pa: float
    mean_pa: float
    within_share: float  # while a pump ran, within 2 % of the set pressure
    pumps: tuple[PumpShare, ...]
    busiest_hour: int  # most starts of one pump within any hour
    sleeps: int
    asleep_share: float
    hunting: Hunting | None


def pressure_report(
    plan: Plan | None, times_s: Sequence[float], pressures_pa: Sequence[float], pumps: Sequence[Sequence[float]]
) -> PressureReport:
    """Work a trend out. Raises OutOfRange for one that is too short."""
    if len(times_s) < LEAST_ROWS:
        raise OutOfRange("rows", len(times_s), f"{LEAST_ROWS} or more")
    times, pressure = np.asarray(times_s), np.asarray(pressures_pa)
    lasting = np.diff(times, append=times[-1] + (times[-1] - times[-2]))
    states = np.asarray(pumps, dtype=float).reshape(len(pumps), len(times)) > 0.5
    running = np.asarray(states.any(axis=0)) if len(pumps) else np.ones(len(times), dtype=bool)
    held_pa = (
        plan.value(S.SET_PRESSURE, plan.value(S.CUT_IN, float(pressure.mean())))
        if plan is not None
        else float(pressure.mean())
    )
    ran_s = float(lasting[running].sum())
    near = running & (np.abs(pressure - held_pa) <= WITHIN * held_pa)
    shares, busiest = [], 0
    for number in range(1, len(pumps) + 1):
        state = states[number - 1]
        starts = times[1:][state[1:] & ~state[:-1]]
        shares.append(PumpShare(number, len(starts), float(lasting[state].sum())))
        busiest = max(busiest, _busiest(starts))
    slept = int((running[:-1] & ~running[1:]).sum()) if len(pumps) else 0
    return PressureReport(
        float(times[-1]), float(pressure.min()), float(pressure.max()), float((pressure * lasting).sum() / lasting.sum()),
        float(lasting[near].sum()) / ran_s if ran_s else 0.0, tuple(shares), busiest, slept,
        float(lasting[~running].sum() / lasting.sum()), _hunting(times, pressure, held_pa),
    )  # fmt: skip


def _busiest(starts: np.ndarray) -> int:
    """Most starts within any hour."""
    return max((int(((starts >= at) & (starts < at + 3600.0)).sum()) for at in starts), default=0)


def _hunting(times: np.ndarray, pressure: np.ndarray, held_pa: float) -> Hunting | None:
    """The first stretch of even swings: turning points that alternate by more than a share of the pressure held."""
    turns = _turning_points(pressure, HUNTS_SHARE * held_pa)[1:]  # where the trend begins is no crest
    for first in range(len(turns) - HUNTS_SWINGS):
        picked = turns[first : first + HUNTS_SWINGS + 1]
        lengths = np.diff(times[picked])
        if lengths.std() > MOST_EVEN * lengths.mean() / 2.0 or lengths.mean() > 120.0:
            continue
        heights = np.abs(np.diff(pressure[picked]))
        if heights.std() > MOST_EVEN * heights.mean() / 2.0:
            continue
        return Hunting(
            float(times[picked[0]]), float(times[picked[-1]]), float(2.0 * lengths.mean()), float(heights.mean())
        )
    return None


def _turning_points(values: np.ndarray, least: float) -> list[int]:
    """Crests and troughs in turn, each at least so far from the one before."""
    turns, best, way = [0], 0, 0
    for place in range(1, len(values)):
        change = values[place] - values[turns[-1]]
        if way == 0:
            if abs(change) >= least:
                way, best = (1 if change > 0 else -1), place
        elif (values[place] - values[best]) * way >= 0.0:
            best = place
        elif (values[best] - values[place]) * way >= least:
            turns.append(best)
            way, best = -way, place
    return turns


def pressure_findings(survey: BoosterSurvey, plan: Plan | None, report: PressureReport) -> list[Finding]:
    """Where a trend shows what the plan does not allow."""
    found: list[Finding] = []

    def say(code: str, severity: Severity, text: str, *terms: Term) -> None:
        found.append(Finding(code, severity, "trend", text, terms))

    if report.hunting is not None:
        period, height = (
            Term("t", "", report.hunting.period_s, Q.TIME),
            Term("h", "", report.hunting.height_pa, Q.PRESSURE),
        )
        say(
            "hunts",
            Severity.STOP,
            "It hunts: the pressure swings by {h} every {t}. Less gain, a longer reset time, or a look at the tank.",
            period,
            height,
        )
    allowed = survey.pumping.starts_per_hour
    if report.busiest_hour > allowed:
        terms = (Term("n", "", float(report.busiest_hour), Q.COUNT), Term("a", "", allowed, Q.STARTS))
        say(
            "starts",
            Severity.STOP,
            "A pump started {n} times within an hour; {a} are allowed. Tank, check valve, leak, or the restart too close.",
            *terms,
        )
    if plan is None:
        return found
    back_pa = plan.value(S.RESTART, plan.value(S.CUT_IN, 0.0))
    if report.lowest_pa < back_pa - 5e4:
        terms = (Term("p", "", report.lowest_pa, Q.PRESSURE), Term("r", "", back_pa, Q.PRESSURE))
        say("sags", Severity.CAUTION, "The pressure fell to {p}, well under the {r} at which pumps come back.", *terms)
    high_pa = plan.value(S.HIGH_STOP, float("inf"))
    if report.highest_pa > high_pa:
        terms = (Term("p", "", report.highest_pa, Q.PRESSURE), Term("s", "", high_pa, Q.PRESSURE))
        say(
            "over",
            Severity.STOP,
            "The pressure rose to {p}, over the high-pressure stop of {s}: it did not stop.",
            *terms,
        )
    if report.pumps and report.sleeps == 0 and report.lasted_s > 7200.0:
        say("never_rests", Severity.CAUTION, "The set never rested in this trend: a leak, or no flow is not told.")
    return found
