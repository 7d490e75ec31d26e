"""What does not fit together in the survey of a maintenance pump, as far as it is filled in: STOP is impossible, CAUTION needs a look."""

from collections.abc import Iterator, Mapping
from typing import Any

from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.protection.plate import plate_findings
from goodbalance.core.stations.shared.facts import controls_not_off
from goodbalance.core.stations.shared.pump_facts import curve_findings

_ORDERED = (  # lower fact, higher fact, quantity, severity, words with {low} and {high}
    ("suction.low_pa", "suction.high_pa", Q.PRESSURE, Severity.STOP, "The lowest pressure of the supply, {low}, is over its highest, {high}."),
    ("line.relief_pa", "line.rating_pa", Q.PRESSURE, Severity.CAUTION, "The relief valve opens at {low}, over the weakest rating of {high}: it protects nothing."),
    ("as_found.start_pressure", "as_found.stop_pressure", Q.PRESSURE, Severity.CAUTION, "As found, the start, {low}, stood over the stop, {high}. If it was so, leave it: it is a finding."),
    ("mains.start_2_pa", "mains.start_1_pa", Q.PRESSURE, Severity.CAUTION, "The second main pump starts at {low}, over the first at {high}: is the order meant so?"),
    ("mains.start_3_pa", "mains.start_2_pa", Q.PRESSURE, Severity.CAUTION, "The third main pump starts at {low}, over the second at {high}: is the order meant so?"),
)  # fmt: skip


def plausibility(values: Mapping[str, Any]) -> list[Finding]:
    """Every contradiction among the facts known so far."""
    found = [*_orders(values), *curve_findings(values, "pumping.curve", "motor", "the stop pressure"), *plate_findings(values, "motor")]
    return found + list(controls_not_off(bool(values.get("visit.controls_off"))))


def _orders(values: Mapping[str, Any]) -> Iterator[Finding]:
    """Facts that must stand in order; main pumps in the order of their schedule, the first one highest."""
    for low_path, high_path, quantity, severity, text in _ORDERED:
        low, high = values.get(low_path), values.get(high_path)
        if low is not None and high is not None and low > high:
            yield Finding(f"order_{low_path}", severity, low_path, text, (Term("low", "", low, quantity), Term("high", "", high, quantity)))
