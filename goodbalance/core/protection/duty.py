"""What the motors of a station do: the loads of honest work and of trouble, as currents and powers with their doubt."""

from dataclasses import dataclass

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.protection.currents import CurrentModel
from goodbalance.core.protection.plate import Plate
from goodbalance.core.protection.readings import WORDS, At, ReadCurrent

AIR_SHARE = 0.25  # of its power without flow that a pump takes in air


@dataclass(frozen=True, slots=True)
class Load:
    """Where a pump works: how it is called, what its motor takes there, and at which share of full speed. [W]"""

    name: str
    input_w: float
    speed: float = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class MotorDuty:
    """Motors that are alike, and what they do. pumps: which, 1 for pump 1; the first gives its number to their settings.

    water_c: the warmest water it moves. lowest, least: the least of honest work over all speeds of its drive, and at full speed.
    """

    pumps: tuple[int, ...]
    plate: Plate
    model: CurrentModel
    highest: Load
    lowest: Load
    least: Load
    closed: Load
    dry: Load
    starts_per_hour: float
    readings: tuple[ReadCurrent, ...] = ()
    driven: bool = False
    water_c: float = 25.0

    def __deepcopy__(self, memo: dict[int, object]) -> "MotorDuty":
        return self  # nothing in it changes

    @property
    def number(self) -> int:
        """Under which their settings stand."""
        return self.pumps[0]

    @property
    def of_which(self) -> str:
        """Whose they are, behind a label."""
        return "" if len(self.pumps) > 1 else f" of pump {self.number}"

    def slower(self, load: Load, speed: float) -> Load:
        """The same place on the pump's curve at a share of full speed.

        Source: affinity laws of centrifugal pumps, P as n cubed.
        """
        return Load(f"{load.name} at {speed:.0%} of full speed", load.input_w * speed**3, speed) if speed < 1.0 else load

    def current_a(self, load: Load) -> float:
        """The motor's current there. [A]"""
        return self.model.current_a(load.input_w / self.plate.input_w, load.speed)

    def read(self, *points: At) -> tuple[ReadCurrent, ...]:
        """What was read at these points."""
        return tuple(each for each in self.readings if each.at in points)

    def reckoned(self, symbol: str, load: Load) -> Term:
        """A current that was reckoned, as a term."""
        return Term(symbol, f"current at {load.name}, reckoned", self.current_a(load), Q.CURRENT)

    def read_term(self, symbol: str, read: ReadCurrent, value_a: float) -> Term:
        """A current that was read, as a term."""
        return Term(symbol, f"read at {WORDS[read.at]} of pump {read.pump}", value_a, Q.CURRENT)
