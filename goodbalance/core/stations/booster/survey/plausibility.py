"""What does not fit together in a booster's survey, as far as it is filled in: STOP is impossible, CAUTION needs a look."""

from collections.abc import Mapping
from typing import Any

from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.protection.plate import plate_findings
from goodbalance.core.stations.booster.survey.survey import HOURS
from goodbalance.core.stations.shared.crew import standby_fits
from goodbalance.core.stations.shared.facts import controls_not_off
from goodbalance.core.stations.shared.pump_facts import curve_findings

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
    found += [*curve_findings(values, "pumping.curve", "motor", "sleep and cut-out"), *plate_findings(values, "motor"), *standby_fits(values), *_switches(values), *_supply(values), *_float(values), *_hours(values), *_sensor(values)]
    return found + list(controls_not_off(bool(values.get("visit.controls_off"))))


def _switches(values: Mapping[str, Any]) -> list[Finding]:
    """A switch for each pump knows of no other pump."""
    own = values.get("control.own_switches") and values.get("control.kind") == "on_off"
    if not own or not values.get("pumping.standby"):
        return []
    text = "With a pressure switch for each pump all of them may run at once, and the last switch is the standby: say that there is none, or take one controller for all."
    return [Finding("own_standby", Severity.STOP, "pumping.standby", text)]


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


def _float(values: Mapping[str, Any]) -> list[Finding]:
    """A float hangs in a tank."""
    if values.get("control.suction_by") != "float" or values.get("supply.kind", "flooded") != "town_main":
        return []
    text = "A town main has no tank that a float could hang in: lack of water is seen by a pressure switch or sensor."
    return [Finding("float_in_main", Severity.STOP, "control.suction_by", text)]


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
