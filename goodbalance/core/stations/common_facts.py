"""Facts and findings that several kinds of station share: the visit, pipe friction, controls not switched off."""

from typing import Any

from goodbalance.core.balance.facts import Facts, choice, fact, words, yes_no
from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.physics.pipework import FrictionSchool


class VisitFacts(Facts):
    """The visit and the safe start, as every station asks it."""

    purpose: str = words("Why you are here", hint="for example: controller replaced after a flood")
    site_contact: str = words("Person on site")
    controls_off: bool = yes_no("Controls in OFF or HAND before anything is touched", default=False)
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
    return fact("Hazen-Williams C", Q.COUNT, 40.0, 160.0, usual=(90.0, 150.0), only_if=asked, hint=hint)


def sand_roughness_m(section: str) -> Any:
    """Sand roughness of a pipe, asked with the other school."""
    asked = ((f"{section}.friction", ("darcy_weisbach",)),)
    return fact("Sand roughness", Q.SMALL_LENGTH, 1e-6, 0.02, usual=(0.0000015, 0.006), only_if=asked)


def controls_not_off(controls_off: bool) -> tuple[Finding, ...]:
    """That somebody may be hurt by a pump that starts, while the survey does not say that controls are off."""
    if controls_off:
        return ()
    text = "Controls are not noted as OFF or HAND. Pumps may start without warning: switch off, lock, prove dead."
    return (Finding("controls_not_off", Severity.CAUTION, "visit.controls_off", text),)
