"""Facts and findings that several kinds of station share: the visit, pipes, motors, sensor loops, controls not switched off."""

from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from goodbalance.core.balance.facts import Conditions, Facts, choice, fact, words, yes_no
from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.physics.pipework import FrictionSchool
from goodbalance.core.physics.signals import left_for_transmitter_v


class VisitFacts(Facts):
    """The visit and the safe start, as every station asks it."""

    purpose: str = words("Why you are here", hint="for example: controller replaced after a flood")
    site_contact: str = words("Person on site")
    controls_off: bool = yes_no(
        "Controls in OFF, isolated, proved dead, and somebody minds the water", default=False,
        hint="before anything is touched; HAND starts a motor",
    )  # fmt: skip
    hazards: str = words("Hazards seen", max_length=2000, long_text=True)


def pipe_friction() -> Any:
    """By which school the friction of a pipe is reckoned."""
    labels = {
        "hazen_williams": "Hazen-Williams (default: the usual school for mains)",
        "darcy_weisbach": "Darcy-Weisbach with Colebrook",
    }
    return choice("Pipe friction by", FrictionSchool, labels, default=FrictionSchool.HAZEN_WILLIAMS)


def hazen_williams_c(section: str) -> Any:
    """C of a pipe, asked with that school; section is where its school is asked."""
    asked = ((f"{section}.friction", ("hazen_williams",)),)
    hint = "120 for an older main, 140 for new plastic"
    return fact("Hazen-Williams C", Q.COUNT, 40.0, 160.0, usual=(90.0, 150.0), only_if=asked, hint=hint, typical=130.0, doubt=0.1)


def sand_roughness_m(section: str) -> Any:
    """Sand roughness of a pipe, asked with the other school."""
    asked = ((f"{section}.friction", ("darcy_weisbach",)),)
    return fact("Sand roughness", Q.SMALL_LENGTH, 1e-6, 0.02, usual=(0.0000015, 0.006), only_if=asked, typical=0.0001, doubt=0.7)


def wave_speed_ms() -> Any:
    """How fast a shock runs in a pipe."""
    hint = "about 1000 in steel or iron, 300 to 500 in soft plastic"
    return fact("Speed of a pressure wave in it", Q.VELOCITY, 50.0, 1500.0, usual=(200.0, 1400.0), default=1000.0, doubt=0.25, hint=hint)


class Permits(StrEnum):
    """Which state of a contact lets pumps run."""

    CLOSED = "closed"
    OPEN = "open"


def permits(of: str, only_if: Conditions) -> Any:
    """How a guarding contact is built."""
    labels = {"closed": "closed (default: a broken wire stops them)", "open": "open (a broken wire is not noticed)"}
    return choice(f"{of} lets pumps run while it is", Permits, labels, default=Permits.CLOSED, only_if=only_if)


def loop_supply_v() -> Any:
    """What feeds a sensor's loop. [V]"""
    return fact(
        "Supply of the sensor's loop", Q.SIGNAL_VOLTAGE, 5.0, 60.0, default=None, hint="4-20 mA: measured while it runs"
    )


def loop_ohm() -> Any:
    """Resistance in a sensor's loop beside the transmitter. [ohm]"""
    return fact("Input and cable of the loop together", Q.RESISTANCE, 0.0, 5000.0, default=None, hint="250 and the cable")


def second_input_ohm() -> Any:
    """Resistance of another device's input that the same current passes through. [ohm]"""
    hint = "another controller, a telemetry unit, a display; empty where the loop ends here"
    return fact("A second input looped in, its resistance", Q.RESISTANCE, 0.0, 5000.0, default=None, hint=hint)


@dataclass(frozen=True, slots=True)
class LoopBudget:
    """What feeds a sensor's loop [V], input and cable in it, a second input looped in [ohm], and what the transmitter needs [V]; None where nobody noted it."""

    supply_v: float | None = None
    ohm: float | None = None
    second_ohm: float | None = None
    least_v: float | None = None

    @property
    def whole_ohm(self) -> float | None:
        """Resistances in series add. [ohm]"""
        return None if self.ohm is None else self.ohm + (self.second_ohm or 0.0)

    @property
    def left_v(self) -> float | None:
        """What is left for the transmitter at its highest current; None where something is not noted. [V]"""
        return None if self.supply_v is None or self.whole_ohm is None else left_for_transmitter_v(self.supply_v, self.whole_ohm)


def least_loop_v() -> Any:
    """What a transmitter needs. [V]"""
    return fact("Least voltage of the transmitter (maker)", Q.SIGNAL_VOLTAGE, 3.0, 60.0, default=None)


def starved_loop(subject: str, budget: LoopBudget) -> tuple[Finding, ...]:
    """That a transmitter lacks voltage at its highest current: then it reads well until the level or pressure is high."""
    if budget.left_v is None or budget.least_v is None or budget.left_v >= budget.least_v:
        return ()
    terms = (
        Term("v", "", budget.supply_v or 0.0, Q.SIGNAL_VOLTAGE), Term("r", "", budget.whole_ohm or 0.0, Q.RESISTANCE),
        Term("l", "", budget.left_v, Q.SIGNAL_VOLTAGE), Term("n", "", budget.least_v, Q.SIGNAL_VOLTAGE),
    )  # fmt: skip
    text = "At 22 mA the loop's {v} less what {r} take leave {l}; the transmitter needs {n}: it reads too low just when it matters."
    return (Finding("loop_starved", Severity.STOP, subject, text, terms),)


def turn_by_clock(duty_count: int, alternation: Alternation, period_s: float) -> tuple[str, ...]:
    """That the lead changes by the clock, where it does."""
    if duty_count < 2 or alternation is not Alternation.CLOCK:
        return ()
    return (f"The lead changes every {period_s / 3600.0:g} h, at the next stop of all pumps.",)


def controls_not_off(controls_off: bool) -> tuple[Finding, ...]:
    """That somebody may be hurt by a pump that starts, while the survey does not say that controls are off."""
    if controls_off:
        return ()
    text = (
        "Controls are not noted as OFF, isolated and proved dead. Pumps may start without warning, and HAND starts one at "
        "once: switch OFF, isolate, lock, prove dead, and let somebody mind the water meanwhile."
    )
    return (Finding("controls_not_off", Severity.CAUTION, "visit.controls_off", text),)
