"""What does not fit together in the survey of a ring, as far as it is filled in: STOP is impossible, CAUTION needs a look."""

from collections.abc import Iterator, Mapping
from typing import Any

from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.pumps import HeadCurve
from goodbalance.core.stations.circulator.names import MAX_BRANCHES
from goodbalance.core.stations.circulator.survey.pipes import VALVE_ROWS
from goodbalance.core.stations.circulator.survey.pump import OWN_POINTS, POINTS
from goodbalance.core.stations.shared.facts import controls_not_off

STOP, CAUTION = Severity.STOP, Severity.CAUTION
FAR_K, SHORT_HEAD_M = 25.0, 0.3  # a return further under the flow than any ring that works; a shut-off head that moves nothing

FIT_SHARE = 0.02  # of the shut-off head: how far a smooth curve may pass by a point


def plausibility(values: Mapping[str, Any]) -> list[Finding]:
    """Every contradiction among the facts known so far."""
    found = [*_curve(values), *_warmth(values), *_branches(values), *_valves(values), *_as_found(values)]
    return found + list(controls_not_off(bool(values.get("visit.controls_off"))))


def _points(values: Mapping[str, Any], name: str, rows: int) -> tuple[list[tuple[float, float]], bool]:
    """Whole points of a curve, and whether one is only half there."""
    cells = [tuple(values.get(f"pump.{name}.{row}.{part}") for part in ("flow_m3s", "head_m", "power_w")) for row in range(rows)]
    half = any((flow is None or head is None) and any(part is not None for part in (flow, head, power)) for flow, head, power in cells)
    return [(flow, head) for flow, head, _ in cells if flow is not None and head is not None], half


def _curve(values: Mapping[str, Any]) -> Iterator[Finding]:
    """The curve at full speed, then those of the lower speeds under it."""
    points, half = _points(values, "curve", POINTS)
    yield from _one_curve(points, half, "curve", "The pump curve")
    if not points and not half and "pump.loudest_pa" in values and "heat.watts" in values:
        yield Finding("curve_missing", STOP, "pump.curve.0.flow_m3s", "The pump curve is missing: three or more points, from no flow on.")
    if not values.get("pump.own_curves"):
        return
    over, over_name = _fitted(points), "full speed"
    for number in range(int(values.get("pump.speeds", 1)) - 1, 0, -1):
        name, said = f"curve_{number}", f"The curve of speed {number}"
        points, half = _points(values, name, OWN_POINTS)
        yield from _one_curve(points, half, name, said)
        if not points and not half:
            yield Finding(f"{name}_missing", STOP, f"pump.{name}.0.flow_m3s", f"{said} is missing: three or more points, from no flow on, or no curve for each speed.")
        more = None if over is None else next(((flow, head) for flow, head in points if head > over.head_m(flow) + FIT_SHARE * over.shut_off_head_m), None)
        if more is not None:
            terms = Term("h", "", more[1], Q.HEAD), Term("q", "", more[0], Q.LEAK)
            yield Finding(f"{name}_over", STOP, f"pump.{name}.0.head_m", f"{said} gives {{h}} at {{q}}, more than {over_name} there: were two curves mixed up?", terms)
        over, over_name = _fitted(points) or over, f"speed {number}"


def _fitted(points: list[tuple[float, float]]) -> HeadCurve | None:
    try:
        return HeadCurve(tuple(points))
    except OutOfRange:
        return None


def _one_curve(points: list[tuple[float, float]], half: bool, name: str, said: str) -> Iterator[Finding]:
    subject = f"pump.{name}.0.flow_m3s"
    if half:
        yield Finding(f"{name}_half", STOP, subject, f"A point of {said[0].lower()}{said[1:]} needs both flow and head.")
    elif points:
        curve, ordered = _fitted(points), sorted(points)
        if curve is None:
            yield Finding(f"{name}_short", STOP, subject, f"{said} has {len(points)} usable points; three or more at different flows are needed.")
        elif any(later[1] > earlier[1] for earlier, later in zip(ordered, ordered[1:])) or not curve.is_falling():
            yield Finding(f"{name}_rising", STOP, subject, f"{said} does not fall all the way: check flows and heads, the tool cannot reckon with two flows for one head.")
        elif curve.shut_off_head_m < SHORT_HEAD_M:
            yield Finding(f"{name}_low", CAUTION, f"pump.{name}.0.head_m", "Its shut-off head is {h}: was it read in another unit?", (Term("h", "", curve.shut_off_head_m, Q.HEAD),))


def _warmth(values: Mapping[str, Any]) -> Iterator[Finding]:
    set_c, mixed_c = values.get("heat.set_c"), values.get("heat.mixed_c")
    if values.get("heat.mixing") and set_c is not None and mixed_c is not None and mixed_c > set_c:
        yield Finding("mixed_hotter", STOP, "heat.mixed_c", "The mixing valve is set to {m}, over the {s} that the heat holds.", (Term("m", "", mixed_c, Q.TEMPERATURE), Term("s", "", set_c, Q.TEMPERATURE)))
    cold_c = values.get("heat.cold_c")
    if set_c is not None and cold_c is not None and cold_c >= set_c:
        yield Finding("cold_hotter", STOP, "heat.cold_c", "Cold water at {c} is no cooler than the heat at {s}.", (Term("c", "", cold_c, Q.TEMPERATURE), Term("s", "", set_c, Q.TEMPERATURE)))
    hot_c = values.get("use.hot_c")
    if hot_c is not None and set_c is not None and hot_c >= set_c and values.get("ring.kind") != "heating":
        yield Finding("never_hot", STOP, "use.hot_c", "Water counts as hot from {h}, and the heat holds {s}: no tap is ever hot.", (Term("h", "", hot_c, Q.TEMPERATURE), Term("s", "", set_c, Q.TEMPERATURE)))


def _branches(values: Mapping[str, Any]) -> Iterator[Finding]:
    """A way back wider than the way out, and air warmer than the water."""
    set_c = values.get("heat.set_c")
    for number in range(1, MAX_BRANCHES + 1):
        there, back = values.get(f"branch_{number}.there_bore_m"), values.get(f"branch_{number}.back_bore_m")
        if there is not None and back is not None and back > 1.5 * there:
            terms = Term("b", "", back, Q.SMALL_LENGTH), Term("t", "", there, Q.SMALL_LENGTH)
            yield Finding(f"wide_back_{number}", CAUTION, f"branch_{number}.back_bore_m", "The way back, {b}, is wider than the way out, {t}: were the two mixed up?", terms)
        around = values.get(f"branch_{number}.around_c")
        if around is not None and set_c is not None and around >= set_c:
            yield Finding(f"warm_air_{number}", STOP, f"branch_{number}.around_c", "Air at {a} is no cooler than the water: nothing is lost there.", (Term("a", "", around, Q.TEMPERATURE),))


def _valves(values: Mapping[str, Any]) -> Iterator[Finding]:
    rows = [(values.get(f"valves.points.{row}.turns"), values.get(f"valves.points.{row}.kv_m3s")) for row in range(VALVE_ROWS)]
    known = sorted((turns, kv) for turns, kv in rows if turns is not None and kv is not None)
    if any((turns is None) is not (kv is None) for turns, kv in rows):
        yield Finding("valve_half", STOP, "valves.points.0.turns", "A line of the valve's table needs both turns and what it lets through.")
    if len(known) == 1:
        yield Finding("valve_short", CAUTION, "valves.points.0.turns", "One line of the valve's table says nothing: two or more, or a straight line is taken.")
    if any(later[1] <= earlier[1] for earlier, later in zip(known, known[1:])):
        yield Finding("valve_falls", STOP, "valves.points.0.kv_m3s", "The valve lets less through when it is opened further: check its table.")


def _as_found(values: Mapping[str, Any]) -> Iterator[Finding]:
    out_c, back_c = values.get("as_found.flow_c"), values.get("as_found.return_c")
    if out_c is not None and back_c is not None and back_c > out_c:
        yield Finding("found_hotter", CAUTION, "as_found.return_c", "As found, the return, {b}, was hotter than the flow, {o}: a pump mounted backwards, or thermometers mixed up.", (Term("b", "", back_c, Q.TEMPERATURE), Term("o", "", out_c, Q.TEMPERATURE)))
    for number in range(1, MAX_BRANCHES + 1):
        found_c = values.get(f"branch_{number}.found_c")
        if found_c is not None and out_c is not None and out_c - found_c > FAR_K:
            terms = Term("f", "", found_c, Q.TEMPERATURE), Term("o", "", out_c, Q.TEMPERATURE)
            yield Finding(f"found_cool_{number}", CAUTION, f"branch_{number}.found_c", "As found it came back at {f}, far under {o}: nothing runs there. Its valve, air, or a check valve that hangs.", terms)
