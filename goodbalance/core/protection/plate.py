"""The plate of a motor: what is asked of it, what follows from it, and what on it does not fit together."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from goodbalance.core.balance.facts import choice, fact
from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.errors import OutOfRange

MOST_EFFICIENCY, LEAST_EFFICIENCY = 0.98, 0.35  # of a motor that drives a pump
ROUNDED = 1.02  # by which a plate's rounded numbers may lie over what is possible
OFF_EFFICIENCY = 0.10  # of the plate's, by which its other numbers may make another
MOST_SLIP, MOST_POLE_PAIRS = 0.12, 8


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


def efficiency() -> Any:
    """As the plate says it; it checks the other numbers."""
    return fact("Nameplate efficiency", Q.PERCENT, 0.2, 0.99, default=None, hint="empty where the plate says none; it checks the other numbers")


def rated_hz(**more: Any) -> Any:
    """The frequency for which the plate holds. more: as of any fact."""
    return fact("Nameplate frequency", Q.FREQUENCY, 20.0, 120.0, default=50.0, **more)


def rated_rpm() -> Any:
    """Its speed under full load."""
    return fact("Nameplate speed", Q.ROTATION, 200.0, 12000.0, default=None, hint="empty where the plate says none; it checks the frequency")


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


def plate_findings(values: Mapping[str, Any], plate: str) -> list[Finding]:
    """What on a nameplate does not fit together, of facts known so far. plate: the path of its section."""
    of = {name: values.get(f"{plate}.{name}") for name in ("rated_voltage_v", "rated_current_a", "rated_power_w", "power_factor", "efficiency", "rated_hz", "rated_rpm")}
    return [*_powers(of, Phases(values.get(f"{plate}.phases") or Phases.THREE), plate), *_speeds(of, values.get(f"{plate}.rotor"), plate)]


def _powers(of: Mapping[str, Any], phases: Phases, plate: str) -> Iterator[Finding]:
    """Shaft power against what the motor takes: more than that nobody gets out, and what the plate calls its efficiency lies between them."""
    volts, amps, shaft_w, factor = (of[name] for name in ("rated_voltage_v", "rated_current_a", "rated_power_w", "power_factor"))
    if None in (volts, amps, shaft_w, factor):
        return
    whole_va, subject = apparent_va(phases, volts, amps), f"{plate}.rated_power_w"
    made = shaft_w / (whole_va * factor)
    terms = Term("p", "at the shaft", shaft_w, Q.POWER), Term("q", "from the supply", whole_va * factor, Q.POWER), Term("e", "efficiency", made, Q.PERCENT)
    if shaft_w > ROUNDED * whole_va:
        text = "The plate gives {p} at the shaft and takes {s} at its voltage and current: power, current, voltage or the number of phases is misread."
        yield Finding("plate_gives_more", Severity.STOP, subject, text, (terms[0], Term("s", "from the supply", whole_va, Q.APPARENT_POWER)))
    elif made > MOST_EFFICIENCY * ROUNDED:
        yield Finding("plate_gives_more", Severity.CAUTION, subject, "The plate gives {p} and takes {q}, an efficiency of {e}: no motor has that. Is the power factor the plate's own?", terms)
    elif made < LEAST_EFFICIENCY:
        yield Finding("plate_gives_little", Severity.CAUTION, subject, "The plate takes {q} and gives {p}, an efficiency of {e}: power or current is misread, or belongs to another voltage.", terms)
    elif of["efficiency"] is not None and abs(made / of["efficiency"] - 1.0) > OFF_EFFICIENCY:
        text = "The plate says {n} efficiency, its other numbers make {e}: one of power, current, voltage and power factor is misread."
        yield Finding("plate_efficiency", Severity.CAUTION, f"{plate}.efficiency", text, (terms[2], Term("n", "nameplate", of["efficiency"], Q.PERCENT)))


def _speeds(of: Mapping[str, Any], turns: Any, plate: str) -> Iterator[Finding]:
    """An induction motor's speed a little under what its frequency makes with some number of poles.

    Source: synchronous speed n = 60 f / p, p pole pairs; slip s = 1 - n / n_s.
    """
    hz, rpm = of["rated_hz"], of["rated_rpm"]
    if hz is None or rpm is None or turns == Rotor.PERMANENT:
        return
    slips = [1.0 - rpm / (60.0 * hz / pairs) for pairs in range(1, MOST_POLE_PAIRS + 1)]
    if not any(0.0 <= slip <= MOST_SLIP for slip in slips):
        terms = Term("n", "nameplate", rpm, Q.ROTATION), Term("f", "frequency", hz, Q.FREQUENCY)
        yield Finding("plate_speed", Severity.CAUTION, f"{plate}.rated_rpm", "No induction motor turns at {n} on {f}: speed or frequency is misread.", terms)
