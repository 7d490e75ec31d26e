"""What any set of like pumps asks: how many, their curve, their motors' plate; and what does not fit together in it."""

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Any

from goodbalance.core.balance.facts import Facts, fact, section
from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.pumps import HeadCurve, between
from goodbalance.core.protection.plate import (
    Phases,
    Plate,
    Rotor,
    efficiency,
    phases,
    rated_hz,
    rated_rpm,
    rotor,
    service_factor,
    start_factor,
)

CURVE_ROWS = 8
IDLE_POWER_SHARE = 0.45  # of nameplate power a pump takes at no flow, where its maker's power curve is not known
RESIDUAL_SHARE = 0.04  # of the shut-off head by which a point may lie off the smooth curve
OVER_SHARE, SLIP_SHARE = 1.4, 2.2  # times the plate's shaft power: another motor; a slip


class CurvePoint(Facts):
    """One point of a pump's curve at full speed."""

    flow_m3s: float | None = fact("Flow", Q.FLOW, 0.0, 10.0, default=None)
    head_m: float | None = fact("Head", Q.HEAD, 0.0, 800.0, default=None)
    npsh_m: float | None = fact("NPSH required", Q.HEAD, 0.0, 50.0, default=None)
    power_w: float | None = fact("Power taken", Q.POWER, 1.0, 2e6, default=None)


def curve_table(rows: int = CURVE_ROWS) -> Any:
    """The small table of a pump's curve."""
    return section(
        "Pump curve at full speed",
        "Three or more points, from no flow on; leave the rest empty. Power: what the motor takes from the supply.",
        rows=rows,
    )


class MotorPlate(Facts):
    """The nameplate of motors that are all alike."""

    phases: Phases = phases()
    rated_voltage_v: float = fact("Nameplate voltage", Q.VOLTAGE, 12.0, 15000.0, usual=(110.0, 690.0), default=400.0)
    rated_current_a: float = fact("Nameplate current", Q.CURRENT, 0.1, 3000.0, usual=(0.5, 400.0))
    rated_power_w: float = fact("Nameplate shaft power", Q.POWER, 20.0, 5e6, usual=(200.0, 300e3))
    power_factor: float = fact("Power factor", Q.RATIO, 0.3, 1.0, usual=(0.6, 0.95), default=0.85, doubt=0.08)
    efficiency: float | None = efficiency()
    service_factor: float = service_factor()
    standing_factor: float = start_factor()
    rotor: Rotor = rotor()

    @property
    def plate(self) -> Plate:
        """The same as equations."""
        return Plate(
            phases=self.phases, voltage_v=self.rated_voltage_v, current_a=self.rated_current_a, shaft_w=self.rated_power_w, power_factor=self.power_factor,
            service_factor=self.service_factor, start_factor=self.standing_factor, rotor=self.rotor,
        )  # fmt: skip


class MotorOnTheLine(MotorPlate):
    """The same of a motor straight on its supply."""

    rated_hz: float = rated_hz()
    rated_rpm: float | None = rated_rpm()


class PumpCurves:
    """A pump as its points say: head by a smooth curve, power and NPSH straight from one point to the next."""

    def __init__(self, points: Sequence[CurvePoint], plate: Plate) -> None:
        known = [(p.flow_m3s, p.head_m, p) for p in points if p.flow_m3s is not None and p.head_m is not None]
        self.head = HeadCurve(tuple((flow, head) for flow, head, _ in known))
        self._npsh = tuple(sorted((flow, p.npsh_m) for flow, _, p in known if p.npsh_m is not None))
        self._power = tuple(sorted((flow, p.power_w) for flow, _, p in known if p.power_w is not None))
        self.plate = plate

    @property
    def knows_power(self) -> bool:
        """Whether the maker's power curve was surveyed; otherwise power is estimated from the nameplate."""
        return len(self._power) >= 2

    @cached_property
    def power_columns(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Flows, and what the motor takes there from the supply at full speed. [m3/s, W]"""
        if self.knows_power:
            return tuple(zip(*self._power))  # type: ignore[return-value]
        return (0.0, self.head.last_flow_m3s), (IDLE_POWER_SHARE * self.plate.input_w, self.plate.input_w)

    def power_w(self, flow_m3s: float) -> float:
        """What the motor takes from the supply at full speed. [W]"""
        return between(flow_m3s, *self.power_columns)

    @cached_property
    def npsh_columns(self) -> tuple[tuple[float, ...], tuple[float, ...]] | None:
        """Flows, and what the pump needs at its suction there; None where the maker's points do not say. [m3/s, m]"""
        return tuple(zip(*self._npsh)) if len(self._npsh) >= 2 else None  # type: ignore[return-value]


def curve_findings(values: Mapping[str, Any], table: str, plate: str, rests: str) -> list[Finding]:
    """What is wrong with a curve as typed. table, plate: the paths of curve and nameplate; rests: what a guessed shut-off head carries."""
    subject, points, halves = f"{table}.0.flow_m3s", [], 0
    powers: list[tuple[float, float]] = []
    for row in range(CURVE_ROWS):
        flow, head, power = (values.get(f"{table}.{row}.{part}") for part in ("flow_m3s", "head_m", "power_w"))
        if flow is not None and head is not None:
            points.append((flow, head))
            powers += [] if power is None else [(flow, power)]
        elif flow is not None or head is not None or power is not None:
            halves += 1
    if halves:
        return [Finding("curve_half", Severity.STOP, subject, "A point of the pump curve needs both flow and head.")]
    if not points:
        if f"{table.partition('.')[0]}.starts_per_hour" not in values:  # its section was not filled in yet
            return []
        return [Finding("curve_missing", Severity.STOP, subject, "The pump curve is missing: three or more points, from no flow on.")]
    try:
        curve = HeadCurve(tuple(points))
    except OutOfRange:
        text = f"The pump curve has {len(points)} usable points; three or more at different flows are needed."
        return [Finding("curve_short", Severity.STOP, subject, text)]
    ordered = sorted(points)
    if any(later[1] > earlier[1] for earlier, later in zip(ordered, ordered[1:])) or not curve.is_falling():
        text = "The pump curve does not fall all the way: check flows and heads, the tool cannot reckon with two flows for one head."
        return [Finding("curve_rising", Severity.STOP, subject, text)]
    return _doubts(curve, ordered, powers, values.get(f"{plate}.rated_power_w"), subject, plate, rests)


def _doubts(
    curve: HeadCurve, ordered: Sequence[tuple[float, float]], powers: Sequence[tuple[float, float]], rated_w: float | None, subject: str, plate: str, rests: str
) -> list[Finding]:
    """What needs a look in a curve that can be reckoned with."""
    found = []
    if curve.worst_residual_m > RESIDUAL_SHARE * curve.shut_off_head_m:
        terms: tuple[Term, ...] = (Term("off", "", curve.worst_residual_m, Q.HEAD),)
        found.append(Finding("curve_residual", Severity.CAUTION, subject, "One point lies {off} off the smooth curve through all: check it.", terms))
    if ordered[0][0] > 0.1 * ordered[-1][0]:
        found.append(Finding("curve_no_shut_off", Severity.CAUTION, subject, f"The curve does not begin near no flow: the shut-off head, on which {rests} rest, is guessed."))
    if powers and rated_w is not None and max(power for _, power in powers) > OVER_SHARE * rated_w:
        most_w = max(power for _, power in powers)
        terms = (Term("p", "", most_w, Q.POWER), Term("r", "", rated_w, Q.POWER))
        text = "The pump takes up to {p}, far over the motor's {r}: another impeller, or another motor?"
        found.append(Finding("power_over", Severity.STOP if most_w > SLIP_SHARE * rated_w else Severity.CAUTION, f"{plate}.rated_power_w", text, terms))
    return found
