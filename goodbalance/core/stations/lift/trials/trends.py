"""A trend of levels beside the survey and the plan: what it says otherwise, and what of it can be used."""

import numpy as np

from goodbalance.core.balance.plan import Finding, Plan, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.physics.level_trend import Cycle, TrendReport, read_trend
from goodbalance.core.stations.lift.names import Role
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.trials.measured import WORTH_SAYING

INFLOW_SHARE = 0.25  # a mean inflow further off than this contradicts the survey
UNEVEN = 1.5  # run times of alternating pumps further apart than this are worth a look
MOST_RUNS = 5


def trend_report(
    survey: LiftSurvey, times_s: tuple[float, ...], levels_m: tuple[float, ...], pumps: tuple[tuple[float, ...], ...],
    clock_s: float,
) -> TrendReport:  # fmt: skip
    """The trend read with the surveyed well. Raises OutOfRange where it tells nothing."""
    columns = tuple(np.array(column) for column in pumps)
    return read_trend(hydraulics(survey).well, np.array(times_s), np.array(levels_m), columns, clock_s)


def trend_findings(survey: LiftSurvey, plan: Plan | None, report: TrendReport) -> list[Finding]:
    """Where the trend contradicts the survey, or shows what the plan must not."""
    return [*_inflow(survey, report), *_levels(survey, plan, report), *_starts(survey, report), *_pumps(survey, report)]


def _say(code: str, severity: Severity, subject: str, text: str, *terms: Term) -> Finding:
    return Finding(code, severity, subject, text, terms)


def _inflow(survey: LiftSurvey, report: TrendReport) -> list[Finding]:
    found, inflow = [], survey.inflow
    seen, said = Term("seen", "seen", report.inflow_mean_m3s, Q.FLOW), Term("said", "survey", inflow.mean_m3s, Q.FLOW)
    if abs(report.inflow_mean_m3s - inflow.mean_m3s) > INFLOW_SHARE * inflow.mean_m3s:
        text = "Mean inflow in the trend is {seen}; the survey says {said}."
        found.append(_say("trend_mean", Severity.CAUTION, "inflow.mean_m3s", text, seen, said))
    if report.inflow_peak_m3s > inflow.peak_m3s * (1.0 + WORTH_SAYING):
        terms = Term("seen", "seen", report.inflow_peak_m3s, Q.FLOW), Term("said", "survey", inflow.peak_m3s, Q.FLOW)
        text = "A storm in the trend reached {seen}, more than the peak of {said} in the survey."
        found.append(_say("trend_peak", Severity.CAUTION, "inflow.peak_m3s", text, *terms))
    if report.inflow_min_m3s < inflow.min_m3s * (1.0 - INFLOW_SHARE):
        terms = Term("seen", "seen", report.inflow_min_m3s, Q.FLOW), Term("said", "survey", inflow.min_m3s, Q.FLOW)
        text = "The lowest inflow in the trend is {seen}; the survey says {said}: water stands longer than reckoned."
        found.append(_say("trend_min", Severity.NOTE, "inflow.min_m3s", text, *terms))
    return found


def _levels(survey: LiftSurvey, plan: Plan | None, report: TrendReport) -> list[Finding]:
    found = []
    high, overflow = (
        Term("high", "highest", report.highest_m, Q.LEVEL),
        Term("over", "", survey.inlet.overflow_m, Q.LEVEL),
    )
    if report.highest_m >= survey.inlet.overflow_m - 0.01:
        text = "The level reached {high}: the well stood at its overflow, {over}."
        found.append(_say("trend_overflow", Severity.STOP, "inlet.overflow_m", text, high, overflow))
    elif plan is not None and report.highest_m > plan.value(Role.HIGH_ALARM, survey.inlet.overflow_m):
        alarm = Term("alarm", "high alarm", plan.value(Role.HIGH_ALARM, 0.0), Q.LEVEL)
        text = "The level reached {high}, above the planned high alarm at {alarm}."
        found.append(_say("trend_high", Severity.NOTE, Role.HIGH_ALARM, text, high, alarm))
    if report.lowest_m <= survey.well.intake_m:
        terms = Term("low", "lowest", report.lowest_m, Q.LEVEL), Term("intake", "", survey.well.intake_m, Q.LEVEL)
        text = "The level fell to {low}, to the pump intake at {intake}: a pump drew air."
        found.append(_say("trend_dry", Severity.STOP, "well.intake_m", text, *terms))
    for name, seen_m, setting in ((Role.STOP, report.stop_m, Role.STOP), ("duty start", report.start_m, Role.START_1)):
        noted_m = survey.as_found_of(setting)
        if noted_m is not None and abs(noted_m - seen_m) > 0.05:
            terms = Term("seen", "seen", seen_m, Q.LEVEL), Term("noted", "as found", noted_m, Q.LEVEL)
            text = f"By the trend the {name} is at {{seen}}; as found it was noted at {{noted}}: another zero, or set otherwise?"
            found.append(_say(f"trend_{setting}", Severity.CAUTION, f"as_found.{setting}_m", text, *terms))
    return found


def _starts(survey: LiftSurvey, report: TrendReport) -> list[Finding]:
    permitted = min(survey.demands.starts_per_hour, *(pump.starts_per_hour for pump in survey.pumps))
    found = []
    for share in report.pumps:
        if share.busiest_hour > permitted:
            text = f"Pump {share.pump} started {share.busiest_hour} times in its busiest hour; permitted are {permitted:g}."
            found.append(_say("trend_starts", Severity.CAUTION, "demands.starts_per_hour", text))
    if not report.pumps and report.busiest_hour > permitted * survey.pumping.duty_count:
        text = f"In the busiest hour pumps started {report.busiest_hour} times; permitted are {permitted:g} of each."
        found.append(_say("trend_starts", Severity.CAUTION, "demands.starts_per_hour", text))
    return found


def _pumps(survey: LiftSurvey, report: TrendReport) -> list[Finding]:
    found, hyd = [], hydraulics(survey)
    level_m = (report.start_m + report.stop_m) / 2.0
    for share in report.pumps:
        if share.rate_m3s is None or share.pump > hyd.pump_count:
            continue
        curve_m3s = hyd.point((share.pump - 1,), level_m).flow_m3s
        if curve_m3s > 0.0 and abs(share.rate_m3s - curve_m3s) > WORTH_SAYING * curve_m3s:
            terms = Term("seen", "seen", share.rate_m3s, Q.FLOW), Term("curve", "by curve", curve_m3s, Q.FLOW)
            text = f"Pump {share.pump} gave {{seen}} in the trend; its curve promises {{curve}}."
            found.append(_say("trend_rate", Severity.CAUTION, f"pump_{share.pump}", text, *terms))
    ran = [share.run_s for share in report.pumps]
    if len(ran) > 1 and max(ran) > UNEVEN * max(min(ran), 1.0):
        most, least = max(report.pumps, key=lambda s: s.run_s), min(report.pumps, key=lambda s: s.run_s)
        terms = Term("most", "most", most.run_s, Q.DURATION), Term("least", "least", least.run_s, Q.DURATION)
        text = f"Pump {most.pump} ran {{most}}, pump {least.pump} only {{least}}: they do not share the work."
        found.append(_say("trend_uneven", Severity.CAUTION, "pumping.count", text, *terms))
    return found


def hourly_m3s(report: TrendReport) -> tuple[float, ...]:
    """Inflow of all 24 hours; an hour without a reading takes the mean of the nearest ones known. Empty under a day."""
    known = [(hour, flow) for hour, flow in enumerate(report.by_hour_m3s) if flow is not None]
    if len(known) < 12:
        return ()
    found = []
    for hour, flow in enumerate(report.by_hour_m3s):
        near = sorted(known, key=lambda other: min(abs(other[0] - hour), 24 - abs(other[0] - hour)))[:2]
        found.append(flow if flow is not None else (near[0][1] + near[1][1]) / 2.0)
    return tuple(found)


def drawdown_runs(report: TrendReport, pump: int) -> list[dict[str, dict[str, float]]]:
    """Cycles of one pump as timed drawdowns: those it ran alone, or all where the trend does not tell who ran."""
    told = any(cycle.pump is not None for cycle in report.cycles)
    own = [cycle for cycle in report.cycles if cycle.pump == pump or not told]
    return [_run(cycle) for cycle in own[:MOST_RUNS]]


def _run(cycle: Cycle) -> dict[str, dict[str, float]]:
    named = {"before": cycle.fill, "pumping": cycle.draw, "after": cycle.after}
    return {
        name: {"from_m": part.from_m, "to_m": part.to_m, "time_s": part.to_s - part.from_s}
        for name, part in named.items()
        if part is not None
    }
