"""Level relays: each with its own on and off level, and what it does when the level is not known."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum


class OnFailure(StrEnum):
    """What a relay does while the level signal is failed."""

    RELEASE = "release"
    ENERGISE = "energise"
    HOLD = "hold"


class Turns(StrEnum):
    """Which way a relay works, said by the level that counts: it pulls there, or lets go there, as the water rises or falls."""

    RISE = "rise"
    FALL = "fall"
    DROP_ON_FALL = "drop_on_fall"
    DROP_ON_RISE = "drop_on_rise"


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
    number: int = 0  # its place on the controller; 0 where it has none of its own

    def __deepcopy__(self, memo: dict[int, object]) -> "LevelRelay":
        return self  # nothing of it changes

    @property
    def energises_on_rise(self) -> bool:
        """Whether it pulls as the level rises, and not as it falls."""
        return self.on_m >= self.off_m

    def closes(self, energised: bool) -> bool:
        """Whether the wired contact is closed."""
        return energised is not self.normally_closed

    @property
    def shuts_m(self) -> float:
        """Where the wired contact closes."""
        return self.off_m if self.normally_closed else self.on_m

    @property
    def opens_m(self) -> float:
        """Where the wired contact opens."""
        return self.on_m if self.normally_closed else self.off_m

    def by_its_twin(self) -> "LevelRelay":
        """The same for whoever is wired to it, by the other contact: the relay works the other way round."""
        lost = {OnFailure.RELEASE: OnFailure.ENERGISE, OnFailure.ENERGISE: OnFailure.RELEASE, OnFailure.HOLD: OnFailure.HOLD}
        return replace(
            self, on_m=self.off_m, off_m=self.on_m, on_failure=lost[self.on_failure], normally_closed=not self.normally_closed,
            sets_at_off=not self.sets_at_off,
        )  # fmt: skip

    @property
    def level_m(self) -> float:
        """The level it is there for."""
        return self.off_m if self.sets_at_off else self.on_m

    @property
    def gap_m(self) -> float:
        """How far the water must turn back before it changes again."""
        return abs(self.on_m - self.off_m)

    @property
    def turns(self) -> Turns:
        """Which way it works."""
        if self.sets_at_off:
            return Turns.DROP_ON_FALL if self.energises_on_rise else Turns.DROP_ON_RISE
        return Turns.RISE if self.energises_on_rise else Turns.FALL

    def set_by(self, level_m: float, gap_m: float, turns: Turns) -> "LevelRelay":
        """The same contact told by the level that counts, the gap and its way."""
        back_m = level_m + (gap_m if turns in (Turns.FALL, Turns.DROP_ON_FALL) else -gap_m)
        at_off = turns in (Turns.DROP_ON_FALL, Turns.DROP_ON_RISE)
        on_m, off_m = (back_m, level_m) if at_off else (level_m, back_m)
        return replace(self, on_m=on_m, off_m=off_m, sets_at_off=at_off)

    def follows(self, energised: bool, level_m: float | None) -> bool:
        """The relay's next state from its present one and the level; None means the level signal is failed."""
        if level_m is None:
            return {OnFailure.RELEASE: False, OnFailure.ENERGISE: True, OnFailure.HOLD: energised}[self.on_failure]
        if self.energises_on_rise:
            return level_m >= self.on_m or (energised and level_m > self.off_m)
        return level_m <= self.on_m or (energised and level_m < self.off_m)


def relay_numbers(roles: Iterable[str], wished: Mapping[str, int]) -> dict[str, int]:
    """Which relay each role gets: the wished one where it is free, else the lowest that nobody has or wishes for.

    Of two that wish for the same relay the first in the order of the roles has it.

    >>> relay_numbers(("low_cut_out", "stop", "start_1"), {"start_1": 1})
    {'start_1': 1, 'low_cut_out': 2, 'stop': 3}
    """
    roles = tuple(roles)
    taken: dict[str, int] = {}
    for role in roles:
        if role in wished and wished[role] not in taken.values():
            taken[role] = wished[role]
    free = (number for number in range(1, len(roles) + 1) if number not in taken.values())
    return {**taken, **{role: next(free) for role in roles if role not in taken}}
