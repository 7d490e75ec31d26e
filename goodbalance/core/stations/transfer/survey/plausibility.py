"""What does not fit together in the survey of a transfer set, as far as it is filled in: STOP is impossible, CAUTION needs a look."""

from collections.abc import Iterator, Mapping
from typing import Any

from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.physics.water import pressure_of_head_pa, water_at
from goodbalance.core.protection.plate import plate_findings
from goodbalance.core.stations.shared.crew import standby_fits
from goodbalance.core.stations.shared.facts import controls_not_off
from goodbalance.core.stations.shared.pump_facts import curve_findings
from goodbalance.core.stations.transfer.names import MAX_TANKS

SAID_TWICE = 0.02  # by which two statements of one range may differ
_ORDERED = (  # lower fact, higher fact, quantity, severity, words with {low} and {high}
    ("source.low_m", "source.high_m", Q.LENGTH, Severity.STOP, "The lowest level of the source, {low}, is over its highest, {high}."),
    ("source.safe_m", "source.low_m", Q.LENGTH, Severity.CAUTION, "The pump may draw from {low} on only, and the source falls to {high} in honest work: it must stop then."),
    ("source_2.low_m", "source_2.high_m", Q.LENGTH, Severity.STOP, "The lowest level of the source of pump 2, {low}, is over its highest, {high}."),
    ("as_found.restart_pressure", "as_found.stop_pressure", Q.PRESSURE, Severity.CAUTION, "As found, the restart, {low}, stood over the stop, {high}. If it was so, leave it: it is a finding."),
    ("line.relief_pa", "line.rating_pa", Q.PRESSURE, Severity.CAUTION, "The relief valve opens at {low}, over the weakest rating of {high}: it protects nothing."),
)  # fmt: skip
_OF_A_TANK = (
    ("outlet_m", "overflow_m", Q.LEVEL, Severity.STOP, "Users of this tank get nothing under {low}, and it overflows at {high}."),
    ("closes_m", "overflow_m", Q.LEVEL, Severity.STOP, "The valve shuts at {low}, over the overflow at {high}: it never shuts."),
    ("mean_m3s", "peak_m3s", Q.FLOW, Severity.STOP, "The mean draw, {low}, is over the largest, {high}."),
)


def plausibility(values: Mapping[str, Any]) -> list[Finding]:
    """Every contradiction among the facts known so far."""
    found = [*_orders(values, "", _ORDERED)]
    for number in range(1, MAX_TANKS + 1):
        found += _orders(values, f"tank_{number}.", _OF_A_TANK)
        found += _tank(values, f"tank_{number}.")
    found += [*_said_twice(values), *curve_findings(values, "pumping.curve", "motor", "the stop pressure"), *plate_findings(values, "motor"), *standby_fits(values)]
    if values.get("pumping.own_source"):
        found += curve_findings({**values, "second.starts_per_hour": 1.0}, "second.curve", "second", "the stop pressure") + plate_findings(values, "second")
        if values.get("pumping.standby"):
            text = "Pump 2 has a source of its own: it stands by for nobody. Both are duty pumps that take turns, or pump 1 always leads."
            found.append(Finding("own_source_standby", Severity.STOP, "pumping.standby", text))
    return found + list(controls_not_off(bool(values.get("visit.controls_off"))))


def _orders(values: Mapping[str, Any], prefix: str, pairs: tuple[tuple[str, str, Q, Severity, str], ...]) -> Iterator[Finding]:
    """Facts that must stand in order."""
    for low_path, high_path, quantity, severity, text in pairs:
        low, high = values.get(prefix + low_path), values.get(prefix + high_path)
        if low is not None and high is not None and low > high:
            yield Finding(f"order_{prefix}{low_path}", severity, prefix + low_path, text, (Term("low", "", low, quantity), Term("high", "", high, quantity)))


def _tank(values: Mapping[str, Any], prefix: str) -> Iterator[Finding]:
    """What of one tank contradicts itself."""
    by_pressure = values.get("control.full_by", "pressure") != "levels"
    if by_pressure and values.get(f"{prefix}inlet") == "open":
        text = "Its inlet is an open pipe: nothing raises the pressure when it is full. Fit a float valve, or fill by levels."
        yield Finding(f"open_{prefix}", Severity.STOP, f"{prefix}inlet", text)
    entry, over = values.get(f"{prefix}entry_m"), values.get(f"{prefix}overflow_m")
    if values.get(f"{prefix}entry", "top") == "top" and entry is not None and over is not None and entry < over:
        terms = Term("e", "", entry, Q.LEVEL), Term("o", "", over, Q.LEVEL)
        text = "Water comes in at {e}, under the overflow at {o}, and is said to fall freely: full, the inlet is under water. Is an air gap or a backflow preventer there?"
        yield Finding(f"no_air_gap_{prefix}", Severity.CAUTION, f"{prefix}entry_m", text, terms)
    drop, closes = values.get(f"{prefix}opens_drop_m"), values.get(f"{prefix}closes_m")
    if drop is not None and closes is not None and drop > closes:
        yield Finding(f"drop_{prefix}", Severity.STOP, f"{prefix}opens_drop_m", "It opens again only under the floor of the tank: check both numbers.")


def _said_twice(values: Mapping[str, Any]) -> Iterator[Finding]:
    """A sensor's range said in bar and in metres that do not belong together."""
    range_pa, head_m = values.get("sensor.range_pa"), values.get("sensor.range_head_m")
    if range_pa is None or head_m is None:
        return
    density = values.get("line.density_kgm3") or water_at(values.get("line.temperature_c") or 15.0).density_kgm3
    in_water_pa = pressure_of_head_pa(head_m, water_at(15.0).density_kgm3)
    if abs(in_water_pa - range_pa) <= SAID_TWICE * range_pa or abs(pressure_of_head_pa(head_m, density) - range_pa) <= SAID_TWICE * range_pa:
        return
    terms = Term("p", "", range_pa, Q.PRESSURE), Term("h", "", head_m, Q.HEAD), Term("q", "", in_water_pa, Q.PRESSURE)
    text = "The range is said twice, {p} and {h}: {h} of water are {q}. One of them is wrong; read the label, and every setpoint with it."
    yield Finding("range_said_twice", Severity.STOP, "sensor.range_head_m", text, terms)
