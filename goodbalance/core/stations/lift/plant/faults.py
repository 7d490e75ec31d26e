"""What can be broken on the bench of a lift station, and how a broken part behaves."""

import math
from dataclasses import dataclass, field

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.signals import Scaling, SignalRange
from goodbalance.core.protection.names import SupplyFault
from goodbalance.core.stations.lift.names import FloatFault, StationFault
from goodbalance.core.stations.lift.survey.level_sensor import LostEcho
from goodbalance.core.stations.shared.faults import Faults

CLOGGED_SHARE = 0.35  # what a clogged pump still moves
LEAK_SHARE = 0.30  # of the others' flow that runs back through a leaking check valve
DRIFT_MS = 0.0001  # how fast a drifting sensor loses level: 6 mm a minute
ECHO_M = 0.8  # how far above the water a false echo stands
READS_TRUE = frozenset((StationFault.LOW_FLOAT, StationFault.OUTSIDE_LOST, StationFault.LINK, *SupplyFault))  # faults that leave the sensor's reading as it is


@dataclass
class LiftFaults(Faults):
    """Which faults are in. floats: of each role, how it is caught. wires: contacts with a wire off, of those in wired.

    lost: what a look-down sensor does so long (lost_s) after its last echo; lost_at_s and last: when that was, and what it gave then.
    """

    drift_per_s: float = DRIFT_MS
    float_roles: tuple[str, ...] = ()
    floats: dict[str, FloatFault] = field(default_factory=dict)
    wired: tuple[str, ...] = ()
    wires: frozenset[str] = frozenset()
    lost: LostEcho = LostEcho.FAIL
    lost_s: float = 0.0
    lost_at_s: float = 0.0
    last: float | None = None

    def put_float(self, fault: FloatFault, on: bool, role: str) -> None:
        """A float caught or let go. Raises OutOfRange for a role that has no float."""
        if role not in self.float_roles:
            raise OutOfRange("target", role, ", ".join(self.float_roles) or "none: there are no floats")
        if on:
            self.floats[role] = fault
        else:
            self.floats.pop(role, None)

    def put_wire(self, on: bool, contact: str) -> None:
        """A wire of a contact off, or on again. Raises OutOfRange for a contact that is not there."""
        if contact not in self.wired:
            raise OutOfRange("target", contact, ", ".join(self.wired))
        self.wires = self.wires | {contact} if on else self.wires - {contact}

    @property
    def before_m(self) -> float:
        """How far above the water a false echo stands. [m]"""
        return ECHO_M if StationFault.ECHO in self.parts else 0.0

    def signal(self, value: float, now_s: float, scaling: Scaling, kind: SignalRange) -> float:
        """What the controller's input sees at this level, in amperes or volts."""
        if StationFault.LOST_ECHO in self.parts and not self.parts & {StationFault.LOOP_OPEN, StationFault.LOOP_SHORT}:
            if self.last is None:
                self.last, self.lost_at_s = kind.healthy(scaling.signal(value)), now_s
            fails = self.lost is LostEcho.FAIL and now_s - self.lost_at_s >= self.lost_s
            return (kind.low if kind.fail_low is None else kind.fail_low) if fails else self.last
        self.last = None
        return super().signal(value, now_s, scaling, kind)

    def holds_s(self, now_s: float) -> float:
        """How long what the controller's input sees stays as it is, however the water moves; 0 where it follows the water. [s]"""
        if self.parts & {StationFault.LOOP_OPEN, StationFault.LOOP_SHORT, StationFault.FROZEN}:
            return math.inf
        if StationFault.LOST_ECHO not in self.parts:
            return 0.0
        left_s = self.lost_at_s + self.lost_s - now_s
        return left_s if self.lost is LostEcho.FAIL and left_s > 0.0 else math.inf

    @property
    def drift_ms(self) -> float:
        """By how much the reading moves by itself. [m/s]"""
        return self.drift_per_s if StationFault.DRIFT in self.parts else 0.0

    @property
    def reading_is_true(self) -> bool:
        """Whether the controller sees the level as it is."""
        return not self.parts - READS_TRUE
