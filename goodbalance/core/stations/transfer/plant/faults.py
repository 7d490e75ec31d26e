"""What can be broken of a transfer set, and what that needs to remember."""

from dataclasses import dataclass, field

from goodbalance.core.errors import OutOfRange
from goodbalance.core.stations.shared.faults import Faults
from goodbalance.core.stations.transfer.names import TankFault


@dataclass
class TransferFaults(Faults):
    """With the faults of each tank, 0 for tank 1."""

    tank_count: int = 1
    tanks: dict[str, frozenset[int]] = field(default_factory=dict)

    def put_tank(self, fault: TankFault, on: bool, target: str) -> int:
        """A fault at one tank, in or out. Returns the tank, 0 for tank 1. Raises OutOfRange."""
        if target not in {str(number) for number in range(1, self.tank_count + 1)}:
            raise OutOfRange("target", target, f"1 to {self.tank_count}")
        tank = int(target) - 1
        self.tanks[fault] = self.at(fault) | {tank} if on else self.at(fault) - {tank}
        return tank

    def at(self, fault: TankFault) -> frozenset[int]:
        """Tanks (0 is tank 1) with that fault."""
        return self.tanks.get(fault, frozenset())

    @property
    def none(self) -> bool:
        """Whether nothing is broken."""
        return not self.parts and not any(self.pumps.values()) and not any(self.tanks.values())
