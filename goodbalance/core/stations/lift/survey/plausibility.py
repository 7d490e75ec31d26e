"""What does not fit together in a survey, while it is still being written: each finding stands beside its field."""

from collections.abc import Mapping, Sequence
from typing import Any

from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.pumps import HeadCurve
from goodbalance.core.physics.water import head_of_pressure_m
from goodbalance.core.protection.plate import plate_findings
from goodbalance.core.stations.lift.survey.level_sensor import spanned_m
from goodbalance.core.stations.lift.survey.pump import CURVE_ROWS
from goodbalance.core.stations.lift.survey.sensing import (
    FREE,
    MAX_PUMPS,
    ControlKind,
    FloatsAre,
    LevelBy,
    float_roles,
)
from goodbalance.core.stations.lift.survey.survey import HOURS, TABLE_ROWS
from goodbalance.core.stations.shared.crew import duty_of, standby_fits, standby_unlike
from goodbalance.core.stations.shared.facts import Permits

FLOAT_NAMES = {
    "low_alarm": "low alarm", "stop": "stop", "start_1": "duty start", "start_2": "assist start", "start_3": "third start",
    "start_4": "fourth start", "high_alarm": "high alarm",
}  # fmt: skip
MOST_POWER = 1.5  # times its plate's, beyond which a curve's shaft power is a slip
RESIDUAL_SHARE = 0.06  # a typed point further from the fitted curve than this share of shut-off head is questioned
LARGE_OFFSET_M = 0.3  # a field offset beyond this hides a fault
HOURS_SHARE = 0.10  # how far the hours may average off the mean inflow

_GUARDS = (  # whether it is there, how it is built, what it is
    ("demands.low_float", "demands.low_float_permits", "the separate low-level float"), ("control.phase_monitor", "control.phase_permits", "the phase monitor"),
    ("control.run_contact", "control.run_permits", "the run command"), ("control.backwards_contact", "control.backwards_permits", "the backspin"),
)  # fmt: skip
_HEIGHTS = (  # lower, higher, what it means
    ("well.intake_m", "inlet.invert_m", "The pump intake at {low} is not below the inlet invert at {high}."),
    ("inlet.invert_m", "inlet.overflow_m", "The overflow at {high} is not above the inlet invert at {low}."),
    ("inlet.overflow_m", "well.depth_m", "The overflow at {low} is above the cover at {high}: the well spills at its cover."),
    ("inlet.invert_m", "well.depth_m", "The inlet invert at {low} is above the cover at {high}."),
    ("sensor.mounting_m", "inlet.invert_m", "The sensor face at {low} sits above the inlet invert at {high}: it sees no start."),
)  # fmt: skip
_FLOWS = (
    ("inflow.min_m3s", "inflow.mean_m3s", "The lowest inflow, {low}, is more than the mean, {high}."),
    ("inflow.mean_m3s", "inflow.peak_m3s", "The mean inflow, {low}, is more than the peak, {high}."),
)
_AS_FOUND = ("low_cut_out_m", "low_alarm_m", "stop_m", "start_1_m", "start_2_m", "high_alarm_m")


def plausibility(values: Mapping[str, Any]) -> list[Finding]:
    """Findings over the SI values known so far, by path. Nothing is said of what is not yet known."""
    found = [*_order(values, _HEIGHTS, Q.LEVEL), *_order(values, _FLOWS, Q.FLOW)]
    found += [*standby_fits(values), *standby_unlike(values)]
    found += _hours(values)
    found += _relays(values)
    found += _sensor(values)
    found += _floats(values)
    found += _guards(values)
    found += _well(values)
    driven = {"rated_hz": values.get("drives.rated_hz")} if values.get("drives.fitted") else {}
    for number in range(1, MAX_PUMPS + 1):
        found += _curve(values, number)
        found += plate_findings({**values, **{f"pump_{number}.{name}": value for name, value in driven.items()}}, f"pump_{number}")
    found += _as_found(values)
    return found


def _order(values: Mapping[str, Any], rules: tuple[tuple[str, str, str], ...], quantity: Q) -> list[Finding]:
    found = []
    for low, high, text in rules:
        strict = quantity is Q.LEVEL and low != "inlet.overflow_m"
        if (
            low in values
            and high in values
            and (values[low] > values[high] or (strict and values[low] == values[high]))
        ):
            terms = (Term("low", low, values[low], quantity), Term("high", high, values[high], quantity))
            found.append(Finding("order", Severity.STOP, high, text, terms))
    return found


def _hours(values: Mapping[str, Any]) -> list[Finding]:
    """Whether the hours add up to the mean, and stay under the peak."""
    asked = [values.get(f"inflow.hours.{hour}.flow_m3s") for hour in range(HOURS)]
    flows = [float(flow) for flow in asked if flow is not None]
    mean, peak = values.get("inflow.mean_m3s"), values.get("inflow.peak_m3s")
    if not values.get("inflow.hourly") or len(flows) < HOURS or mean is None or peak is None:
        return []
    found, by_hour = [], sum(flows) / HOURS
    if abs(by_hour - mean) > HOURS_SHARE * mean:
        terms = (Term("hours", "mean of the hours", by_hour, Q.FLOW), Term("mean", "mean inflow", mean, Q.FLOW))
        text = "The hours average {hours}; the mean inflow says {mean}."
        found.append(Finding("hours_mean", Severity.CAUTION, "inflow.hours.0.flow_m3s", text, terms))
    if max(flows) > peak:
        terms = (Term("most", "busiest hour", max(flows), Q.FLOW), Term("peak", "peak inflow", peak, Q.FLOW))
        text = "The busiest hour brings {most}, more than the peak inflow of {peak}."
        found.append(Finding("hours_peak", Severity.STOP, "inflow.hours.0.flow_m3s", text, terms))
    return found


def _relays(values: Mapping[str, Any]) -> list[Finding]:
    """One relay for two roles, and relays that run the pumps by themselves beside floats, which need a panel."""
    found: list[Finding] = []
    of: dict[int, str] = {}
    for path, number in values.items():
        if not path.startswith("relays.") or number is None:
            continue
        if number in of:
            terms = (Term("number", "relay", number, Q.COUNT),)
            text = "Relay {number} is chosen twice. One relay does one thing: give this one another number, or none."
            found.append(Finding("relay_twice", Severity.STOP, path, text, terms))
        of.setdefault(number, path)
    if values.get("control.kind") == ControlKind.DRIVES_ALONE:
        if not values.get("drives.fitted"):
            text = "Drives are to run the pumps, and the survey knows of none: say that they are fitted."
            found.append(Finding("no_drives", Severity.STOP, "drives.fitted", text))
        if values.get("control.level_by", LevelBy.SENSOR) != LevelBy.SENSOR:
            text = "Drives without a controller beside read a sensor only: floats need a panel or a pump controller."
            found.append(Finding("floats_need_a_panel", Severity.STOP, "control.level_by", text))
    by_itself = values.get("control.kind") == ControlKind.RELAYS_ALONE
    if by_itself and values.get("control.level_by", LevelBy.SENSOR) != LevelBy.SENSOR:
        text = "A relay controller that runs the pumps by itself reads a sensor only: floats need a panel or a pump controller."
        found.append(Finding("floats_need_a_panel", Severity.STOP, "control.level_by", text))
    return found


def _well(values: Mapping[str, Any]) -> list[Finding]:
    shape = values.get("well.shape")
    if shape == "benched":
        rules = (
            ("well.floor_diameter_m", "well.diameter_m", "The floor, {low}, is not smaller than the well, {high}."),
            ("well.benching_m", "well.depth_m", "The benching, {low}, is not lower than the well is deep, {high}."),
        )
        return _order(values, rules, Q.LEVEL)
    if shape != "table":
        return []
    subject = "well.table.0.level_m"
    lines: list[tuple[float, float]] = []
    for row in range(TABLE_ROWS):
        level, volume = (values.get(f"well.table.{row}.{part}") for part in ("level_m", "volume_m3"))
        if level is not None and volume is not None:
            lines.append((level, volume))
        elif level is not None or volume is not None:
            return [Finding("table_half", Severity.STOP, subject, "A line of the table needs both level and volume.")]
    if len(lines) < 2:
        text = f"The table has {len(lines)} lines; two or more are needed."
        return [Finding("table_short", Severity.STOP, subject, text)]
    if any(b[0] <= a[0] or b[1] <= a[1] for a, b in zip(lines, lines[1:])) or (lines[0][0] > 0.0) != (
        lines[0][1] > 0.0
    ):
        text = "Level and volume must both rise from line to line, and an empty well stands at the floor."
        return [Finding("table_order", Severity.STOP, subject, text)]
    overflow_m = values.get("inlet.overflow_m")
    if overflow_m is not None and lines[-1][0] < overflow_m:
        terms = (Term("top", "top", lines[-1][0], Q.LEVEL), Term("overflow", "overflow", overflow_m, Q.LEVEL))
        text = "The table ends at {top}, below the overflow at {overflow}: above it the last slice is taken to go on."
        return [Finding("table_ends", Severity.CAUTION, subject, text, terms)]
    return []


def sensor_reach_m(values: Mapping[str, Any]) -> float | None:
    """Highest level the sensor can read, as far as the survey tells."""
    offset_m = values.get("sensor.offset_m", 0.0)
    if values.get("sensor.kind", "submerged") == "look_down":
        face_m, blanking_m, spans_m = values.get("sensor.face_m"), values.get("sensor.blanking_m"), _spanned_m(values)
        seen_m = None if face_m is None or blanking_m is None else face_m - blanking_m
        return None if seen_m is None else offset_m + (seen_m if spans_m is None else min(seen_m, spans_m[1]))
    mounting_m, range_m = values.get("sensor.mounting_m"), values.get("sensor.range_m")
    if values.get("sensor.range_given_as", "depth") == "pressure" and "sensor.range_pa" in values:
        range_m = head_of_pressure_m(values["sensor.range_pa"], values.get("sensor.density_kgm3", 1000.0))
    return None if mounting_m is None or range_m is None else mounting_m + range_m + offset_m


def _floats(values: Mapping[str, Any]) -> list[Finding]:
    """What each float is there for, from the floor up, as the answers make it."""
    by = values.get("control.level_by", LevelBy.SENSOR)
    if by == LevelBy.SENSOR:
        return []
    count = int(values.get("pumping.count", 2))
    duty = duty_of(count, bool(values.get("pumping.standby")), values.get("pumping.most_at_once"))
    if values.get("control.floats_are") == FloatsAre.EACH:
        usual_yes = ("stop", "start_1", "high_alarm")
        chosen = [role for role in FREE if values.get(f"control.float_{role}", role in usual_yes)]
        return _chosen_floats(chosen, by == LevelBy.FLOATS, duty)
    told = (str(values.get(f"control.{name}", usual)) for name, usual in (("lowest_float", "stop"), ("top_float", "high_alarm")))
    lowest, top = told
    roles = float_roles(by, lowest, top, int(values.get("control.floats", 2)), duty)
    return [_float_table(roles)]


def _guards(values: Mapping[str, Any]) -> list[Finding]:
    """Contacts that are open while all is well, and cannot tell a broken wire."""
    text = "The contact of {what} is open while all is well: a broken wire or a pulled plug lets pumps run on, and no proof can show it. Have it built the other way round."
    return [
        Finding("guard_open", Severity.CAUTION, permits, text.replace("{what}", what))
        for fitted, permits, what in _GUARDS if values.get(fitted) and values.get(permits) == Permits.OPEN
    ]  # fmt: skip


def _float_table(roles: Sequence[str]) -> Finding:
    table = ", ".join(f"{number} {FLOAT_NAMES[role]}" for number, role in enumerate(roles, 1))
    return Finding("float_roles", Severity.NOTE, "control.floats", f"The floats, from the floor up: {table}.")


def _chosen_floats(roles: list[str], alone: bool, duty: int) -> list[Finding]:
    """What is wrong with roles that somebody has chosen one by one."""
    starts = [role for role in roles if role.startswith("start_")]
    if not roles:
        return [Finding("no_floats", Severity.STOP, "control.floats_are", "No float is chosen: choose at least one, or say that there are none.")]
    if alone and not starts:
        return [Finding("floats_never_start", Severity.STOP, "control.float_start_1", "Floats alone run this station, and none of them starts a pump.")]
    if starts != [f"start_{number}" for number in range(1, len(starts) + 1)]:
        text = "A later start has a float and one before it has none: calls come one after the other, from the duty start up."
        return [Finding("starts_with_a_gap", Severity.STOP, "control.float_start_1", text)]
    if len(starts) > duty:
        text = "There are more start floats than pumps that share the work: the highest would call nobody."
        return [Finding("start_without_pump", Severity.STOP, f"control.float_{starts[-1]}", text)]
    return [_float_table(roles)]


def _spanned_m(values: Mapping[str, Any]) -> tuple[float, float] | None:
    """The span that is set in a look-down sensor, as far as the survey tells."""
    names = ("face_m", "zero_m", "full_m")
    return spanned_m(values.get("sensor.kind", ""), values.get("sensor.span", ""), *(values.get(f"sensor.{name}") for name in names))


def _span(values: Mapping[str, Any]) -> list[Finding]:
    """What is wrong with the span that is set in a look-down sensor."""
    spans_m, face_m = _spanned_m(values), values.get("sensor.face_m")
    if spans_m is None or face_m is None:
        return []
    zero, full = (Term(name, "", value, Q.LEVEL) for name, value in zip(("zero", "full"), spans_m))
    if spans_m[1] <= spans_m[0]:
        text = "Empty signal stands for the level {zero} and full signal for {full}: full must stand higher, so as a distance nearer."
        return [Finding("span_turned", Severity.STOP, "sensor.full_m", text, (zero, full))]
    found = []
    far_m, blanking_m = values.get("sensor.far_m"), values.get("sensor.blanking_m")
    if far_m is not None and spans_m[0] < face_m - far_m - 1e-6:
        text = "The span begins at {zero}, but the sensor sees down to {low} only: below that it gives no echo."
        found.append(Finding("span_too_deep", Severity.STOP, "sensor.zero_m", text, (zero, Term("low", "", face_m - far_m, Q.LEVEL))))
    if blanking_m is not None and spans_m[1] > face_m - blanking_m + 1e-6:
        text = "The span goes up to {full}, but blanking shortens it: above {high} the sensor sees nothing, whatever its output could say."
        found.append(Finding("span_blanked", Severity.CAUTION, "sensor.full_m", text, (full, Term("high", "", face_m - blanking_m, Q.LEVEL))))
    return found


def _sensor(values: Mapping[str, Any]) -> list[Finding]:
    found = _span(values)
    reach_m, overflow_m = sensor_reach_m(values), values.get("inlet.overflow_m")
    look_down = values.get("sensor.kind", "submerged") == "look_down"
    if reach_m is not None and overflow_m is not None and reach_m < overflow_m:
        subject = "sensor.blanking_m" if look_down else "sensor.range_m"
        terms: tuple[Term, ...] = (Term("reach", "reach", reach_m, Q.LEVEL), Term("overflow", "overflow", overflow_m, Q.LEVEL))
        text = "The sensor reads up to {reach} only and cannot see the overflow at {overflow}."
        found.append(Finding("sensor_reach", Severity.CAUTION, subject, text, terms))
    if look_down and {"sensor.face_m", "sensor.far_m"} <= values.keys():
        lowest_m = values["sensor.face_m"] - values["sensor.far_m"]
        if lowest_m > values.get("well.intake_m", lowest_m):
            terms = (Term("lowest", "lowest", lowest_m, Q.LEVEL),)
            text = "The sensor reads down to {lowest} only, above the pump intake."
            found.append(Finding("sensor_low", Severity.CAUTION, "sensor.far_m", text, terms))
    if look_down and values.get("sensor.lost_echo") == "hold":
        text = "A lost echo holds the last reading: nobody is told, and pumps go on as they stood. Give it floats behind, or let it fail."
        found.append(Finding("echo_held", Severity.CAUTION, "sensor.lost_echo", text))
    offset_m = values.get("sensor.offset_m", 0.0)
    if abs(offset_m) > LARGE_OFFSET_M:
        terms = (Term("offset", "", offset_m, Q.LEVEL),)
        text = "A field offset of {offset} is more than a drawing errs: look for a sensor that hangs elsewhere, a blocked vent tube, a wrong range."
        found.append(Finding("offset_large", Severity.CAUTION, "sensor.offset_m", text, terms))
    if values.get("sensor.signal", "4_20_ma") != "4_20_ma":
        text = "A signal that starts at zero cannot tell a broken wire from an empty well: sensor failure goes unseen."
        found.append(Finding("dead_zero", Severity.CAUTION, "sensor.signal", text))
    return found


def _curve(values: Mapping[str, Any], number: int) -> list[Finding]:
    subject = f"pump_{number}.curve.0.flow_m3s"
    points, halves = [], 0
    for row in range(CURVE_ROWS):
        flow, head = (values.get(f"pump_{number}.curve.{row}.{part}") for part in ("flow_m3s", "head_m"))
        if flow is not None and head is not None:
            points.append((flow, head))
        elif flow is not None or head is not None:
            halves += 1
    if halves:
        text = "A point of the head curve needs both flow and head."
        return [Finding("curve_half", Severity.STOP, subject, text)]
    if not points:
        return []
    try:
        curve = HeadCurve(tuple(points))
    except OutOfRange:
        text = f"The head curve has {len(points)} usable points; three or more at different flows are needed."
        return [Finding("curve_short", Severity.STOP, subject, text)]
    ordered = sorted(points)
    if any(later[1] >= earlier[1] for earlier, later in zip(ordered, ordered[1:])) or not curve.is_falling():
        text = "The head curve does not fall all the way: check flows and heads, the tool cannot reckon with two flows for one head."
        return [Finding("curve_rising", Severity.STOP, subject, text)]
    found = []
    if curve.worst_residual_m > RESIDUAL_SHARE * curve.shut_off_head_m:
        terms: tuple[Term, ...] = (Term("off", "residual", curve.worst_residual_m, Q.HEAD),)
        text = "One point lies {off} off the smooth curve through all: check it."
        found.append(Finding("curve_residual", Severity.CAUTION, subject, text, terms))
    lift_m = (
        values["main.outlet_m"] - values["well.intake_m"]
        if {"main.outlet_m", "well.intake_m"} <= values.keys()
        else None
    )
    if lift_m is not None and curve.shut_off_head_m <= lift_m:
        terms = (Term("head", "head", curve.shut_off_head_m, Q.HEAD), Term("lift", "lift", lift_m, Q.HEAD))
        text = "Shut-off head {head} does not reach the static lift of {lift}: this pump moves nothing."
        found.append(Finding("curve_below_lift", Severity.STOP, subject, text, terms))
    return found + _power(values, number)


def _power(values: Mapping[str, Any], number: int) -> list[Finding]:
    """A curve that asks far more of the shaft than the plate says it gives."""
    powers = [power for row in range(CURVE_ROWS) if (power := values.get(f"pump_{number}.curve.{row}.power_w")) is not None]
    rated_w = values.get(f"pump_{number}.rated_power_w")
    if not powers or rated_w is None or max(powers) <= MOST_POWER * rated_w:
        return []
    terms = Term("p", "curve", max(powers), Q.POWER), Term("r", "plate", rated_w, Q.POWER)
    text = "The curve asks {p} of the shaft, the plate says {r}: one of the two is wrong, or belongs to another pump."
    return [Finding("power_over", Severity.STOP, f"pump_{number}.rated_power_w", text, terms)]


def _as_found(values: Mapping[str, Any]) -> list[Finding]:
    known = [(name, values[f"as_found.{name}"]) for name in _AS_FOUND if f"as_found.{name}" in values]
    found = []
    for (low_name, low), (high_name, high) in zip(known, known[1:]):
        if low >= high:
            terms = (Term("low", low_name, low, Q.LEVEL), Term("high", high_name, high, Q.LEVEL))
            text = "As found, {high} is not above {low}, the level that should be lower. If it was really so, leave it: it is a finding."
            found.append(Finding("as_found_order", Severity.CAUTION, f"as_found.{high_name}", text, terms))
    return found
