"""What can be broken on the bench of a lift station, and how a broken part behaves."""

from dataclasses import dataclass, field

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.signals import Scaling, SignalRange
from goodbalance.core.rehearsal.engine import Event, TimedAction

CLOGGED_SHARE = 0.35  # what a clogged pump still moves
LEAK_SHARE = 0.30  # of the others' flow that runs back through a leaking check valve
DRIFT_MS = 0.0001  # how fast a drifting sensor loses level: 6 mm a minute
ECHO_M = 0.8  # how far above the water a false echo stands

SENSOR_FAULTS = {
    "loop_open": ("Sensor loop opened", "Sensor loop closed again"),
    "loop_short": ("Sensor loop shorted", "Short of the sensor loop removed"),
    "frozen": ("Sensor frozen at its reading", "Sensor moves again"),
    "drift": ("Sensor begins to drift downward", "Sensor set right again"),
    "echo": ("A false echo: the sensor sees foam", "The false echo is gone"),
    "low_float": ("Low-level float turned down", "Low-level float hangs free again"),
    "phase": ("One phase of the supply is lost", "All phases are back"),
}
FLOAT_FAULTS = {
    "float_up": ("float caught with its head up", "float hangs free again"),
    "float_down": ("float caught hanging down", "float hangs free again"),
}
PUMP_FAULTS = {
    "starter": ("starter does not pull in", "starter mended"),
    "clogged": ("is clogged", "is clean again"),
    "check_valve": ("has a leaking check valve", "has a tight check valve again"),
    "feedback": ("feedback wire is off", "feedback wire is back"),
    "overload": ("is overloaded", "runs freely again"),
    "seal": ("has water in its seal", "has a dry seal again"),
}


@dataclass
class Faults:
    """Which faults are in, and what they need to remember."""

    pump_count: int
    float_roles: tuple[str, ...] = ()
    floats: dict[str, str] = field(default_factory=dict)  # role: float_up or float_down
    sensor: set[str] = field(default_factory=set)
    pumps: dict[str, set[int]] = field(default_factory=dict)
    frozen: float | None = None
    drift_since_s: float = 0.0

    def take(self, action: TimedAction) -> list[Event]:
        """Put a fault in (value 1) or out (value 0). Raises OutOfRange for an unknown fault or pump."""
        on = bool(action.value)
        if action.kind in SENSOR_FAULTS:
            (self.sensor.add if on else self.sensor.discard)(action.kind)
            if action.kind == "frozen":
                self.frozen = None
            if action.kind == "drift":
                self.drift_since_s = action.at_s
            return [Event(action.at_s, "you", SENSOR_FAULTS[action.kind][0 if on else 1])]
        if action.kind in FLOAT_FAULTS:
            if action.target not in self.float_roles:
                raise OutOfRange("target", action.target, ", ".join(self.float_roles) or "none: there are no floats")
            if on:
                self.floats[action.target] = action.kind
            else:
                self.floats.pop(action.target, None)
            name = action.target.replace("_", " ").capitalize()
            return [Event(action.at_s, "you", f"{name} {FLOAT_FAULTS[action.kind][0 if on else 1]}")]
        if action.kind in PUMP_FAULTS:
            if action.target not in {str(number) for number in range(1, self.pump_count + 1)}:
                raise OutOfRange("target", action.target, f"1 to {self.pump_count}")
            pump = int(action.target) - 1
            broken = self.pumps.setdefault(action.kind, set())
            (broken.add if on else broken.discard)(pump)
            return [Event(action.at_s, "you", f"Pump {pump + 1} {PUMP_FAULTS[action.kind][0 if on else 1]}")]
        known = ", ".join((*SENSOR_FAULTS, *FLOAT_FAULTS, *PUMP_FAULTS))
        raise OutOfRange("kind", action.kind, f"inflow, pattern, rain, switch, power, silence, reset, {known}")

    def has(self, fault: str, pump: int) -> bool:
        """Whether this pump (0 is pump 1) has that fault."""
        return pump in self.pumps.get(fault, ())

    def signal(self, level_m: float, now_s: float, scaling: Scaling, kind: SignalRange) -> float:
        """What the controller's input sees at this level, in amperes or volts."""
        if "loop_open" in self.sensor:
            return kind.opened
        if "loop_short" in self.sensor:
            return kind.shorted
        if "echo" in self.sensor:
            level_m += ECHO_M
        if "drift" in self.sensor:
            level_m -= DRIFT_MS * (now_s - self.drift_since_s)
        signal = kind.healthy(scaling.signal(level_m))
        if "frozen" not in self.sensor:
            return signal
        if self.frozen is None:
            self.frozen = signal
        return self.frozen

    @property
    def reading_is_true(self) -> bool:
        """Whether the controller sees the level as it is."""
        return not self.sensor - {"low_float", "phase"}
