"""What can be broken on a bench whatever the kind of station: a sensor with its loop, and parts that are named by an enum."""

from dataclasses import dataclass, field
from enum import StrEnum

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.signals import Scaling, SignalRange


class LoopFault(StrEnum):
    """Faults of a sensor and its loop; every kind of station has these among its own."""

    OPEN = "loop_open"
    SHORT = "loop_short"
    FROZEN = "frozen"
    DRIFT = "drift"


def pump_of(target: str, pumps: int) -> int:
    """The pump a person means, 0 for pump 1. Raises OutOfRange."""
    if target not in {str(number) for number in range(1, pumps + 1)}:
        raise OutOfRange("target", target, f"1 to {pumps}")
    return int(target) - 1


@dataclass
class Faults:
    """Which faults are in, and what they need to remember.

    drift_per_s: by how much a drifting sensor reads less each second, in its own unit.
    """

    pump_count: int
    drift_per_s: float
    parts: set[str] = field(default_factory=set)
    pumps: dict[str, frozenset[int]] = field(default_factory=dict)
    frozen: float | None = None
    drift_since_s: float = 0.0

    def put(self, fault: StrEnum, on: bool, at_s: float) -> None:
        """A fault of the station, in or out."""
        (self.parts.add if on else self.parts.discard)(fault)
        if fault == LoopFault.FROZEN:
            self.frozen = None
        if fault == LoopFault.DRIFT:
            self.drift_since_s = at_s

    def put_pump(self, fault: StrEnum, on: bool, target: str) -> int:
        """A fault of one pump, in or out. Returns the pump, 0 for pump 1. Raises OutOfRange."""
        pump = pump_of(target, self.pump_count)
        self.pumps[fault] = self.of(fault) | {pump} if on else self.of(fault) - {pump}
        return pump

    @property
    def none(self) -> bool:
        """Whether nothing is broken."""
        return not self.parts and not any(self.pumps.values())

    def of(self, fault: str) -> frozenset[int]:
        """Pumps (0 is pump 1) with that fault."""
        return self.pumps.get(fault, frozenset())

    def signal(self, value: float, now_s: float, scaling: Scaling, kind: SignalRange) -> float:
        """What the controller's input sees where the sensor stands at a value in SI, in amperes or volts."""
        if LoopFault.OPEN in self.parts:
            return kind.opened
        if LoopFault.SHORT in self.parts:
            return kind.shorted
        if LoopFault.DRIFT in self.parts:
            value -= self.drift_per_s * (now_s - self.drift_since_s)
        signal = kind.healthy(scaling.signal(value))
        if LoopFault.FROZEN not in self.parts:
            return signal
        if self.frozen is None:
            self.frozen = signal
        return self.frozen
