"""Level relays: each with its own on and off level, and what it does when the level is not known."""

from dataclasses import dataclass
from enum import StrEnum


class OnFailure(StrEnum):
    """What a relay does while the level signal is failed."""

    RELEASE = "release"
    ENERGISE = "energise"
    HOLD = "hold"


@dataclass(frozen=True, slots=True)
class LevelRelay:
    """One relay of a level controller.

    With on_m above off_m it energises on rise and releases on fall; with on_m below off_m the other way round.
    """

    role: str
    label: str
    on_m: float
    off_m: float
    on_failure: OnFailure
    normally_closed: bool = False  # its closed-at-rest contact is the one that is wired
    sets_at_off: bool = False  # the level that matters is the one where it releases; the other is a gap away

    @property
    def energises_on_rise(self) -> bool:
        return self.on_m >= self.off_m

    def closes(self, energised: bool) -> bool:
        """Whether the wired contact is closed."""
        return energised is not self.normally_closed

    @property
    def level_m(self) -> float:
        """The level it is there for."""
        return self.off_m if self.sets_at_off else self.on_m

    def follows(self, energised: bool, level_m: float | None) -> bool:
        """The relay's next state from its present one and the level; None means the level signal is failed."""
        if level_m is None:
            return {OnFailure.RELEASE: False, OnFailure.ENERGISE: True, OnFailure.HOLD: energised}[self.on_failure]
        if self.energises_on_rise:
            return level_m >= self.on_m or (energised and level_m > self.off_m)
        return level_m <= self.on_m or (energised and level_m < self.off_m)
