"""Contacts of their own that hold pumps back: how each is built, what a device makes of it, and what a cut wire or a jumper does."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from types import MappingProxyType


class Takes(StrEnum):
    """Which state of a contact lets pumps run: as it is built, or as a device takes it. NONE: there is no such contact, or it is not heeded."""

    NONE = "no"
    CLOSED = "closed"
    OPEN = "open"


@dataclass(frozen=True, slots=True)
class Guards:
    """Every such contact of a station, by its name: how its contact is built (fitted), and what the device makes of it (taken)."""

    fitted: Mapping[str, Takes] = field(default_factory=lambda: MappingProxyType({}))
    taken: Mapping[str, Takes] = field(default_factory=lambda: MappingProxyType({}))

    def heeded(self, guard: str) -> bool:
        """Whether anything listens to it."""
        return self.taken.get(guard, Takes.NONE) is not Takes.NONE

    def holds(self, guard: str, acts: bool, cut: bool = False) -> bool:
        """Whether it holds pumps back: acts, where what it guards against is there; cut, where one of its wires is off.

        Where nothing is fitted a jumper sits across its terminals, as the wiring walk wants it.
        """
        built, taken = self.fitted.get(guard, Takes.NONE), self.taken.get(guard, Takes.NONE)
        if taken is Takes.NONE:
            return False
        closed = True if built is Takes.NONE else False if cut else acts is (built is Takes.OPEN)
        return closed is (taken is Takes.OPEN)
