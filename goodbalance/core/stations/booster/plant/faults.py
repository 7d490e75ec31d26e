"""What can be broken on the bench of a booster set, and how a broken part behaves."""

from dataclasses import dataclass, field

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.signals import Scaling, SignalRange
from goodbalance.core.rehearsal.engine import Event, TimedAction

DRIFT_PAS = 200.0  # how fast a drifting sensor reads less: a tenth of a bar in 50 s

SET_FAULTS = {
    "loop_open": ("Sensor loop opened", "Sensor loop closed again"),
    "loop_short": ("Sensor loop shorted", "Short of the sensor loop removed"),
    "frozen": ("Sensor frozen at its reading", "Sensor moves again"),
    "drift": ("Sensor begins to read less and less", "Sensor set right again"),
    "remote_lost": ("Remote sensor's plug pulled", "Remote sensor plugged in again"),
    "dry": ("The supply runs empty", "The supply has water again"),
    "flow_stuck": ("Flow switch stuck: it says that water flows", "Flow switch moves again"),
    "waterlogged": ("The tank is waterlogged: its gas is gone", "The tank has its gas again"),
    "burst": ("A pipe bursts", "The burst is closed"),
    "phase": ("One phase of the supply is lost", "All phases are back"),
}
PUMP_FAULTS = {
    "trip": ("drive trips", "drive is mended; OFF resets it"),
    "air": ("is full of air", "is primed and vented again"),
    "check_valve": ("has a leaking check valve", "has a tight check valve again"),
    "shut": ("stands behind a closed valve", "has its valve open again"),
    "backwards": ("turns the wrong way", "turns the right way again"),
}


@dataclass
class Faults:
    """Which faults are in, and what they need to remember."""

    pump_count: int
    parts: set[str] = field(default_factory=set)
    pumps: dict[str, frozenset[int]] = field(default_factory=dict)
    frozen: float | None = None
    drift_since_s: float = 0.0

    def take(self, action: TimedAction) -> list[Event]:
        """Put a fault in (value 1) or out (value 0). Raises OutOfRange for an unknown fault or pump."""
        on = bool(action.value)
        if action.kind in SET_FAULTS:
            (self.parts.add if on else self.parts.discard)(action.kind)
            if action.kind == "frozen":
                self.frozen = None
            if action.kind == "drift":
                self.drift_since_s = action.at_s
            return [Event(action.at_s, "you", SET_FAULTS[action.kind][0 if on else 1])]
        if action.kind in PUMP_FAULTS:
            if action.target not in {str(number) for number in range(1, self.pump_count + 1)}:
                raise OutOfRange("target", action.target, f"1 to {self.pump_count}")
            pump = frozenset({int(action.target) - 1})
            had = self.of(action.kind)
            self.pumps[action.kind] = had | pump if on else had - pump
            return [Event(action.at_s, "you", f"Pump {action.target} {PUMP_FAULTS[action.kind][0 if on else 1]}")]
        known = ", ".join((*SET_FAULTS, *PUMP_FAULTS))
        raise OutOfRange(
            "kind",
            action.kind,
            f"outlets, suction, switch, hand_speed, power, generator, night, clock, drain, silence, reset, {known}",
        )

    def of(self, fault: str) -> frozenset[int]:
        """Pumps (0 is pump 1) with that fault."""
        return self.pumps.get(fault, frozenset())

    def signal(self, pressure_pa: float, now_s: float, scaling: Scaling, kind: SignalRange) -> float:
        """What the controller's input sees at this pressure, in amperes or volts."""
        if "loop_open" in self.parts:
            return kind.opened
        if "loop_short" in self.parts:
            return kind.shorted
        if "drift" in self.parts:
            pressure_pa -= DRIFT_PAS * (now_s - self.drift_since_s)
        signal = kind.healthy(scaling.signal(pressure_pa))
        if "frozen" not in self.parts:
            return signal
        if self.frozen is None:
            self.frozen = signal
        return self.frozen
