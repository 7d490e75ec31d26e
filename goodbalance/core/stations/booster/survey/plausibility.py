"""What does not fit together in a booster's survey, as far as it is filled in: STOP is impossible, CAUTION needs a look."""

from collections.abc import Mapping
from typing import Any

from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.pumps import HeadCurve
from goodbalance.core.stations.booster.survey.survey import CURVE_ROWS, HOURS
from goodbalance.core.stations.shared.facts import controls_not_off, standby_alone

SLIP_POWER = 2.2  # times the plate's shaft power, beyond which what a curve takes is a slip
RESIDUAL_SHARE = 0.04  # of the shut-off head by which a point may lie off the smooth curve
_ORDERED = (  # lower fact, higher fact, quantity, severity, words with {low} and {high}
    ("supply.low_pa", "supply.high_pa", Q.PRESSURE, Severity.STOP, "The lowest pressure of the main, {low}, is over its highest, {high}."),
    ("supply.water_low_m", "supply.water_high_m", Q.LENGTH, Severity.STOP, "The lowest water level, {low}, is over the highest, {high}."),
    ("control.outside_zero_pa", "control.outside_full_pa", Q.PRESSURE, Severity.STOP, "The least that can be asked for from outside, {low}, is over the most, {high}."),
    ("outlets.lowest_m", "outlets.worst_m", Q.LENGTH, Severity.CAUTION, "The lowest outlet, {low}, is above the worst outlet, {high}. Is that so?"),
    ("outlets.worst_m", "outlets.top_m", Q.LENGTH, Severity.CAUTION, "The highest point of the pipes, {high}, is under the worst outlet, {low}: the standing column is taken up to {high} only."),
    ("demand.least_m3s", "demand.mean_m3s", Q.FLOW, Severity.STOP, "The smallest flow, {low}, is over the mean flow, {high}."),
    ("demand.mean_m3s", "demand.design_m3s", Q.FLOW, Severity.STOP, "The mean flow, {low}, is over the design flow, {high}."),
    ("outlets.permitted_pa", "vessel.rating_pa", Q.PRESSURE, Severity.CAUTION, "More is permitted at the lowest outlet, {low}, than the weakest part is rated for, {high}."),
    ("vessel.relief_pa", "vessel.rating_pa", Q.PRESSURE, Severity.CAUTION, "The relief valve opens at {low}, over the weakest rating of {high}: it protects nothing."),
    ("as_found.restart", "as_found.set_pressure", Q.PRESSURE, Severity.CAUTION, "As found, the restart, {low}, stood over the set pressure, {high}: it could never sleep. If it was so, leave it: it is a finding."),
    ("as_found.cut_in", "as_found.cut_out", Q.PRESSURE, Severity.CAUTION, "As found, cut-in, {low}, stood over cut-out, {high}. If it was so, leave it: it is a finding."),
)  # fmt: skip


def plausibility(values: Mapping[str, Any]) -> list[Finding]:
    """Every contradiction among the facts known so far."""
    found = []
    for low_path, high_path, quantity, severity, text in _ORDERED:
        low, high = values.get(low_path), values.get(high_path)
        if low is not None and high is not None and low > high:
            terms = (Term("low", "", low, quantity), Term("high", "", high, quantity))
            found.append(Finding(f"order_{low_path}", severity, low_path, text, terms))
    found += [*_curve(values), *standby_alone(values), *_supply(values), *_hours(values), *_sensor(values)]
    return found + list(controls_not_off(bool(values.get("visit.controls_off"))))


def _curve(values: Mapping[str, Any]) -> list[Finding]:
    subject, points, halves = "pumping.curve.0.flow_m3s", [], 0
    powers: list[tuple[float, float]] = []
    for row in range(CURVE_ROWS):
        flow, head, power = (values.get(f"pumping.curve.{row}.{part}") for part in ("flow_m3s", "head_m", "power_w"))
        if flow is not None and head is not None:
            points.append((flow, head))
            if power is not None:
                powers.append((flow, power))
        elif flow is not None or head is not None or power is not None:
            halves += 1
    if halves:
        return [Finding("curve_half", Severity.STOP, subject, "A point of the pump curve needs both flow and head.")]
    if not points:
        return (
            [
                Finding(
                    "curve_missing",
                    Severity.STOP,
                    subject,
                    "The pump curve is missing: three or more points, from no flow on.",
                )
            ]
            if _started(values)
            else []
        )
    try:
        curve = HeadCurve(tuple(points))
    except OutOfRange:
        text = f"The pump curve has {len(points)} usable points; three or more at different flows are needed."
        return [Finding("curve_short", Severity.STOP, subject, text)]
    ordered = sorted(points)
    if any(later[1] > earlier[1] for earlier, later in zip(ordered, ordered[1:])) or not curve.is_falling():
        text = "The pump curve does not fall all the way: check flows and heads, the tool cannot reckon with two flows for one head."
        return [Finding("curve_rising", Severity.STOP, subject, text)]
    found = []
    if curve.worst_residual_m > RESIDUAL_SHARE * curve.shut_off_head_m:
        terms: tuple[Term, ...] = (Term("off", "", curve.worst_residual_m, Q.HEAD),)
        text = "One point lies {off} off the smooth curve through all: check it."
        found.append(Finding("curve_residual", Severity.CAUTION, subject, text, terms))
    if ordered[0][0] > 0.1 * ordered[-1][0]:
        text = "The curve does not begin near no flow: the shut-off head, on which sleep and cut-out rest, is guessed."
        found.append(Finding("curve_no_shut_off", Severity.CAUTION, subject, text))
    rated_w = values.get("motor.rated_power_w")
    if powers and rated_w is not None and max(power for _, power in powers) > 1.4 * rated_w:
        terms = (Term("p", "", max(power for _, power in powers), Q.POWER), Term("r", "", rated_w, Q.POWER))
        text = "The pump takes up to {p}, far over the motor's {r}: another impeller, or another motor?"
        slip = max(power for _, power in powers) > SLIP_POWER * rated_w
        found.append(Finding("power_over", Severity.STOP if slip else Severity.CAUTION, "motor.rated_power_w", text, terms))
    return found


def _started(values: Mapping[str, Any]) -> bool:
    """Whether the pumps' section was filled in, so that a missing curve is worth saying."""
    return "pumping.starts_per_hour" in values


def _supply(values: Mapping[str, Any]) -> list[Finding]:
    found = []
    pump_m, low_m = values.get("supply.pump_m"), values.get("supply.water_low_m")
    if pump_m is not None and low_m is not None:
        kind = values.get("supply.kind", "flooded")
        terms: tuple[Term, ...] = (Term("w", "", low_m, Q.LENGTH), Term("p", "", pump_m, Q.LENGTH))
        if kind == "flooded" and low_m < pump_m:
            text = (
                "The lowest water, {w}, is under the pump suction, {p}: that is a suction lift, not a flooded suction."
            )
            found.append(Finding("not_flooded", Severity.CAUTION, "supply.kind", text, terms))
        if kind == "suction_lift" and pump_m - low_m > 7.5:
            terms = (Term("l", "", pump_m - low_m, Q.LENGTH),)
            text = "The pumps would have to lift {l} by suction: no pump does that for long."
            found.append(Finding("lift_too_high", Severity.STOP, "supply.water_low_m", text, terms))
    return found


def _hours(values: Mapping[str, Any]) -> list[Finding]:
    if not values.get("demand.hourly"):
        return []
    known = sum(values.get(f"demand.hours.{hour}.flow_m3s") is not None for hour in range(HOURS))
    if known == HOURS:
        return []
    text = f"{known} of {HOURS} hours are filled in: until all are, a usual pattern is taken."
    return [Finding("hours_missing", Severity.CAUTION, "demand.hours.0.flow_m3s", text)]


def _sensor(values: Mapping[str, Any]) -> list[Finding]:
    found = []
    range_pa, permitted_pa = values.get("sensor.range_pa"), values.get("outlets.permitted_pa")
    if range_pa is not None and permitted_pa is not None and range_pa < 0.5 * permitted_pa:
        terms = (Term("r", "", range_pa, Q.PRESSURE),)
        text = "The sensor reads up to {r} only. Is that its range, or the set pressure?"
        found.append(Finding("short_range", Severity.CAUTION, "sensor.range_pa", text, terms))
    return found
