"""What can be broken of a station on the bench, and what a person in front of it can see."""

from dataclasses import dataclass

from goodbalance.core.balance.quantities import Quantity
from goodbalance.core.rehearsal.engine import TimedAction

PLAIN = 3.0  # steps that nobody takes for the same


@dataclass(frozen=True, slots=True)
class Trouble:
    """A part that is broken, or a switch that stands as it should not.

    place: whose it is, as a heading; words: what is wrong, in two or three words under that heading; said: the same as a
    sentence; kind, target: the action at the bench, with its values when it is broken and when it is mended.
    turning: the pump that must be called before it can do anything; None where it may act while all rest.
    """

    place: str
    words: str
    said: str
    kind: str
    target: str = ""
    broken: float = 1.0
    mended: float = 0.0
    turning: int | None = None

    @property
    def id(self) -> str:
        """Its name in tables and files."""
        return f"{self.kind}.{self.target}" if self.target else self.kind

    def put(self, at_s: float) -> TimedAction:
        """Breaks it. [s]"""
        return TimedAction(at_s, self.kind, self.target, self.broken)

    def mend(self, at_s: float) -> TimedAction:
        """Puts it right. [s]"""
        return TimedAction(at_s, self.kind, self.target, self.mended)


@dataclass(frozen=True, slots=True)
class Sign:
    """Something a person at the panel can see. value: in SI, or 1 and 0 for yes and no; None where nothing is shown.

    quantity: None where it is yes or no. near, share: by how much two people who read the same number may differ, in SI and
    as a share of it, the larger counts. place: under which heading it is asked.
    between: two others of which it is the difference, so that nobody is asked for it.
    """

    id: str
    place: str
    label: str
    value: float | None
    quantity: Quantity | None = None
    near: float = 0.0
    share: float = 0.0
    between: tuple[str, str] | None = None

    def differs(self, other: float | None) -> float:
        """How far another value is off, in steps of what two people read apart; for yes and no 0 or PLAIN."""
        return self.apart(self.value, other)

    def apart(self, one: float | None, other: float | None) -> float:
        """The same between any two of its values."""
        if one is None or other is None:
            return 0.0 if one is other else PLAIN
        if self.quantity is None:
            return 0.0 if one == other else PLAIN
        return abs(one - other) / max(self.near, self.share * max(abs(one), abs(other)))


@dataclass(frozen=True, slots=True)
class Lever:
    """Something that water, a switch or a hand can do at a station. actions: with times counted from when it is done."""

    words: str
    actions: tuple[TimedAction, ...]
