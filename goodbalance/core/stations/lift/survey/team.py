"""Drives that are the whole control of a lift station: what each sees of the level, and what is left when one or the link is lost."""

from enum import StrEnum

from goodbalance.core.balance.facts import Facts, choice, fact, yes_no
from goodbalance.core.balance.quantities import Quantity as Q


class Inputs(StrEnum):
    """By what each drive of a team knows the level."""

    OWN = "own"
    LOOPED = "looped"
    TOLD = "told"


class LinkLost(StrEnum):
    """What the drives of a team do when they no longer hear each other."""

    ALONE = "alone"
    STOP = "stop"


_OWN = (("team.inputs", ("own",)),)


class Team(Facts):
    """How drives work together without a controller beside them. The one that leads decides for all."""

    inputs: Inputs = choice(
        "Each drive knows the level by",
        Inputs,
        {
            "own": "A sensor of its own",
            "looped": "One sensor, its loop through the input of every drive",
            "told": "One sensor at drive 1, which tells the others over the link",
        },
        default=Inputs.OWN,
    )
    failover: bool = yes_no("With its own signal lost a drive takes another's reading", default=True, only_if=_OWN)
    link_lost: LinkLost = choice(
        "When the link between them is lost",
        LinkLost,
        {
            "alone": "Each goes on alone, by its own start and stop (default: the well is emptied)",
            "stop": "The one that leads goes on alone, the others stand (no two pumps by mistake)",
        },
        default=LinkLost.ALONE,
    )
    takes_over: bool = yes_no("A stand-by takes the lead when the leading drive is silent", default=True)
    silence_s: float = fact(
        "Longest honest silence of the link", Q.TIME, 0.2, 60.0, usual=(0.5, 10.0), default=2.0, hint="a drive that restarts, a disturbance; ask the maker"
    )
