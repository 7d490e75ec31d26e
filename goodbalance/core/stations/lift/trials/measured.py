"""Pump rates measured on site: compared with the curve, and put in its place."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.physics.drawdown import DrawdownResult, DrawdownRun, Stretch, drawdown
from goodbalance.core.record.history import History
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.survey.choices import LiftChoices, PumpRate
from goodbalance.core.stations.lift.survey.survey import LiftSurvey

WORTH_SAYING = 0.08  # a difference from the curve beyond this share and beyond the error is a finding


@dataclass(frozen=True, slots=True)
class Measured:
    """One pump measured, beside what its curve promises at the same level."""

    pump: int
    result: DrawdownResult
    curve_m3s: float

    @property
    def share(self) -> float:
        """Measured over promised."""
        return self.result.rate_m3s / self.curve_m3s


def measure(survey: LiftSurvey, pump: int, runs: list[Mapping[str, Any]]) -> Measured:
    """Work a pump's drawdown out against the surveyed well and curve. Raises OutOfRange for impossible readings."""
    hyd = hydraulics(survey)
    timed = tuple(
        DrawdownRun(Stretch(**run["before"]), Stretch(**run["pumping"]), Stretch(**run["after"]) if run.get("after") else None)
        for run in runs
    )
    result = drawdown(hyd.well, timed, max(survey.sensor.noise_m if survey.sensor else 0.0, 0.005))
    curve_m3s = hyd.point((pump - 1,), result.mean_level_m).flow_m3s
    return Measured(pump, result, curve_m3s)


def measured_of(survey: LiftSurvey, history: History) -> tuple[Measured, ...]:
    """Pumps measured by timed drawdown; one that does not fit the survey any more is left out."""
    found = []
    for pump, entry in sorted(history.drawdowns.items()):
        try:
            found.append(measure(survey, pump, entry.body["runs"]))
        except (GoodBalanceError, IndexError):
            continue
    return tuple(found)


def with_measured(survey: LiftSurvey, choices: LiftChoices, measured: tuple[Measured, ...]) -> LiftSurvey:
    """The survey with each measured pump's curve scaled in flow to what was measured, if the school says so.

    With twins a pump that was not measured is taken to be as its curve says; the pumps are then no longer alike.
    """
    if choices.schools.pump_rate is not PumpRate.MEASURED or not measured:
        return survey
    pumps = list(survey.pumps)
    for found in measured:
        if found.pump <= len(pumps) and found.curve_m3s > 0.0:
            pump = pumps[found.pump - 1]
            curve = tuple(
                point.model_copy(update={"flow_m3s": None if point.flow_m3s is None else point.flow_m3s * found.share})
                for point in pump.curve
            )
            pumps[found.pump - 1] = pump.model_copy(update={"curve": curve})
    change: dict[str, Any] = {f"pump_{number}": pump for number, pump in enumerate(pumps, 1)}
    change["pumping"] = survey.pumping.model_copy(update={"twins": False})
    return survey.model_copy(update=change)


def measured_findings(survey: LiftSurvey, choices: LiftChoices, measured: tuple[Measured, ...]) -> list[Finding]:
    """Where a pump gives clearly other than its curve promises."""
    found = []
    for one in measured:
        off_m3s = one.result.rate_m3s - one.curve_m3s
        if abs(off_m3s) <= max(WORTH_SAYING * one.curve_m3s, one.result.error_m3s):
            continue
        terms = (
            Term("measured", "measured", one.result.rate_m3s, Q.FLOW),
            Term("curve", "by curve", one.curve_m3s, Q.FLOW),
            Term("share", "share", abs(off_m3s) / one.curve_m3s, Q.PERCENT),
        )
        if off_m3s < 0.0:
            text = f"Pump {one.pump} gives {{measured}}, {{share}} less than its curve's {{curve}}: worn, clogged, a valve half shut, air, or wrong rotation?"
        else:
            text = f"Pump {one.pump} gives {{measured}}, {{share}} more than its curve's {{curve}}: wrong curve, well area or main?"
        found.append(Finding("measured_off", Severity.CAUTION, f"pump_{one.pump}", text, terms))
    return found
