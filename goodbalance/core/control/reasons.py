"""Why a pump runs or does not: the chain of permissives and demands, and the link that decides."""

from dataclasses import dataclass
from enum import StrEnum

from goodbalance.core.balance.trail import Term, Worded


class LinkState(StrEnum):
    """What a link of a reason line does to its pump now."""

    HOLDS = "holds"  # this link lets the pump run
    BLOCKS = "blocks"  # this link keeps it from running
    WAITS = "waits"  # this link will let it run when its timer ends


@dataclass(frozen=True, slots=True)
class Link(Worded):
    """One permissive or demand in the order the panel tests them."""

    name: str
    state: LinkState
    text: str
    terms: tuple[Term, ...] = ()
    remaining_s: float | None = None
    is_demand: bool = False  # the link that asks for the pump, as against those that permit it


@dataclass(frozen=True, slots=True)
class ReasonLine:
    """The chain for one pump at one instant. The first link that does not hold decides; else the demand."""

    pump: str
    runs: bool
    links: tuple[Link, ...]

    @property
    def deciding(self) -> int:
        """Place of the link that decides: the first that does not hold, or else the one that calls for the pump."""
        for index, link in enumerate(self.links):
            if link.state is not LinkState.HOLDS:
                return index
        return next((index for index, link in enumerate(self.links) if link.is_demand), len(self.links) - 1)
