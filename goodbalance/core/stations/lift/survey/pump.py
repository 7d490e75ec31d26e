"""One pump of a lift station as it is surveyed: its curve, its plate, and what its maker allows."""

from goodbalance.core.balance.facts import Facts, fact, section
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.protection.plate import (
    Phases,
    Rotor,
    efficiency,
    phases,
    rated_hz,
    rated_rpm,
    rotor,
    service_factor,
    start_factor,
)

CURVE_ROWS = 6


class CurvePoint(Facts):
    """One point of a head curve."""

    flow_m3s: float | None = fact("Flow", Q.FLOW, 0.0, 10.0, default=None)
    head_m: float | None = fact("Head", Q.HEAD, 0.0, 500.0, default=None)
    power_w: float | None = fact("Shaft power", Q.POWER, 1.0, 2e6, default=None)
    npsh_m: float | None = fact("NPSH required", Q.HEAD, 0.0, 50.0, default=None)


class Pump(Facts):
    """One pump: curve as head by flow, nameplate, and what its maker allows."""

    curve: tuple[CurvePoint, ...] = section(
        "Head curve",
        "Three or more points of the maker's curve, from no flow on; leave the rest empty.",
        rows=CURVE_ROWS,
    )
    min_submergence_m: float = fact(
        "Least submergence over intake (maker)",
        Q.LEVEL,
        0.0,
        10.0,
        usual=(0.05, 2.0),
        hint="or the level that cools the motor",
        typical=0.40,
        doubt=0.4,
    )
    bell_diameter_m: float = fact("Intake diameter", Q.SMALL_LENGTH, 0.01, 3.0, usual=(0.04, 0.8), typical=0.15, doubt=0.3)
    starts_per_hour: float = fact("Starts allowed per hour (maker)", Q.STARTS, 0.5, 120.0, usual=(4.0, 30.0), typical=10.0, doubt=0.3)
    rated_voltage_v: float = fact("Nameplate voltage", Q.VOLTAGE, 12.0, 15000.0, usual=(110.0, 690.0), typical=400.0, doubt=0.05)
    rated_current_a: float = fact("Nameplate current", Q.CURRENT, 0.1, 3000.0, usual=(0.5, 400.0))
    rated_power_w: float = fact("Nameplate shaft power", Q.POWER, 20.0, 5e6, usual=(200.0, 300e3))
    phases: Phases = phases()
    power_factor: float = fact("Power factor", Q.RATIO, 0.3, 1.0, usual=(0.6, 0.95), default=0.82, doubt=0.08)
    efficiency: float | None = efficiency()
    rated_hz: float = rated_hz(only_if=(("drives.fitted", ("no",)),))
    rated_rpm: float | None = rated_rpm()
    service_factor: float = service_factor()
    standing_factor: float = start_factor()
    rotor: Rotor = rotor()
    best_flow_m3s: float | None = fact(
        "Flow of best efficiency (maker)", Q.FLOW, 1e-6, 10.0, default=None, hint="empty where it is not known"
    )
    dry_pit_m: float | None = fact(
        "Dry pit: height of its impeller above the well floor", Q.LEVEL, -10.0, 30.0, default=None,
        hint="empty where the pump stands in the water",
    )  # fmt: skip
    suction_loss_m: float = fact(
        "Dry pit: lost in its suction pipe at its largest flow", Q.HEAD, 0.0, 20.0, usual=(0.05, 2.0), default=0.5
    )
