"""The plate of a motor: what is asked of it, and what follows from it."""

import math
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from goodbalance.core.balance.facts import choice, fact
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.errors import OutOfRange


class Phases(StrEnum):
    """Phases of a motor's supply."""

    THREE = "three"
    ONE = "one"

    @property
    def leads(self) -> int:
        """Leads on which a clamp meter reads the motor's current."""
        return 3 if self is Phases.THREE else 1

    @property
    def factor(self) -> float:
        """What V I is multiplied by for the apparent power: the root of 3 with three phases."""
        return math.sqrt(3.0) if self is Phases.THREE else 1.0


class Rotor(StrEnum):
    """What makes the field in the rotor."""

    INDUCTION = "induction"
    PERMANENT = "permanent"


def phases() -> Any:
    """Of a motor's supply."""
    return choice("Phases", Phases, {"three": "Three", "one": "One"}, default=Phases.THREE)


def rotor() -> Any:
    """Whether a part of the current only magnetises."""
    labels = {"induction": "Induction motor", "permanent": "Permanent magnets (turns only with its drive)"}
    return choice("Rotor", Rotor, labels, default=Rotor.INDUCTION, hint="a magnet rotor gives voltage while water turns it, switched off too")


def service_factor() -> Any:
    """By how much a motor may be loaded for good."""
    return fact("Service factor", Q.RATIO, 1.0, 1.5, default=1.0, hint="1 where the plate says none")


def start_factor() -> Any:
    """Current with the rotor standing, over the plate's. Drives and soft starters give it no chance."""
    return fact("Current of the standing rotor, over nameplate", Q.RATIO, 1.0, 12.0, usual=(4.0, 8.5), default=6.0, hint="on the plate as a letter or as I_A/I_N")


def apparent_va(phases: Phases, voltage_v: float, current_a: float) -> float:
    """What a motor takes from its supply: V I, times the root of 3 with three phases. [VA]

    Source: definition of apparent power in a balanced system.
    """
    return voltage_v * current_a * phases.factor


@dataclass(frozen=True, slots=True, kw_only=True)
class Plate:
    """A motor's nameplate. shaft_w is what it gives, input_w what it takes; the two are never mixed up. [V, A, W]"""

    phases: Phases
    voltage_v: float
    current_a: float
    shaft_w: float
    power_factor: float
    service_factor: float = 1.0
    start_factor: float = 6.0
    rotor: Rotor = Rotor.INDUCTION

    def __post_init__(self) -> None:
        for name in ("voltage_v", "current_a", "shaft_w", "power_factor"):
            if not getattr(self, name) > 0.0:
                raise OutOfRange(name, getattr(self, name), "more than 0")

    @property
    def input_w(self) -> float:
        """What it takes at the plate's current: V I cos phi, times the root of 3 with three phases. [W]"""
        return self.apparent_va * self.power_factor

    @property
    def apparent_va(self) -> float:
        """What it takes from its supply at the plate's current, working part or not. [VA]"""
        return apparent_va(self.phases, self.voltage_v, self.current_a)

    @property
    def efficiency(self) -> float:
        """What of that comes out at the shaft; over 1 where the plate contradicts itself."""
        return self.shaft_w / self.input_w

    @property
    def idle_share(self) -> float:
        """Of the plate's current, the part that only magnetises: sin phi. None with permanent magnets.

        Source: current triangle at the plate's power factor.
        """
        return 0.0 if self.rotor is Rotor.PERMANENT else math.sqrt(max(0.0, 1.0 - self.power_factor**2))
