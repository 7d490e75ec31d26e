"""Drives that decide among themselves: who leads, whose reading counts, and how each goes on alone when the link is lost."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from goodbalance.core.stations.lift.survey.team import Inputs, LinkLost


@dataclass(frozen=True, slots=True)
class TeamNumbers:
    """How a team is set: by what each drive knows the level, and what is done without a signal, the link or the leader. [s]"""

    inputs: Inputs
    failover: bool
    link_lost: LinkLost
    takes_over: bool
    takeover_s: float


@dataclass
class Leader:
    """Who leads a team of drives, as scans go by. Indexes from 0; reads: whose input counts now, None where none does."""

    numbers: TeamNumbers
    drives: int
    leader: int = 0
    reads: int | None = 0
    alive: frozenset[int] = frozenset()
    linked: bool = True
    silent_since_s: float | None = None
    alone: list[bool] = field(default_factory=list)  # who runs by its own pair while the link is lost
    now_s: float = 0.0

    def __post_init__(self) -> None:
        self.alive = self.alive or frozenset(range(self.drives))
        self.alone = self.alone or [False] * self.drives

    def hears(self, signals: Sequence[float], has_failed: Callable[[float], bool], now_s: float) -> float | None:
        """The signal the team goes by at this scan; None while the leader has just fallen silent and nobody has taken over."""
        self.now_s = now_s
        if self.leader in self.alive:
            self.silent_since_s = None
        else:
            self.silent_since_s = now_s if self.silent_since_s is None else self.silent_since_s
            if now_s - self.silent_since_s < self.numbers.takeover_s:
                return None
            if self.numbers.takes_over and self.alive:
                self.leader = min(self.alive, key=lambda drive: (drive - self.leader) % self.drives)
                self.silent_since_s = None
        self.reads = self._reading_of(signals, has_failed)
        return signals[self.leader] if self.reads is None else signals[self.reads]

    @property
    def nobody(self) -> bool:
        """Whether nobody leads, and nobody will."""
        return self.leader not in self.alive and self.left_s() <= 0.0

    def _reading_of(self, signals: Sequence[float], has_failed: Callable[[float], bool]) -> int | None:
        """Whose input counts: the leader's own, or another's where that is allowed."""
        if self.leader not in self.alive:
            return None
        first = 0 if self.numbers.inputs is Inputs.TOLD else self.leader
        if first in self.alive and not has_failed(signals[first]):
            return first
        if not self.numbers.failover or self.numbers.inputs is not Inputs.OWN or not self.linked:
            return None
        return next((drive for drive in sorted(self.alive) if not has_failed(signals[drive])), None)

    def goes_alone(self, drive: int) -> bool:
        """Whether this drive may go on by itself while the link is lost: it needs a signal, and where the others stand the lead."""
        sees = self.numbers.inputs is not Inputs.TOLD or drive == 0
        return drive in self.alive and sees and (self.numbers.link_lost is LinkLost.ALONE or drive == self.leader)

    def judge_alone(self, levels_m: Sequence[float | None], pairs_m: Sequence[tuple[float, float]]) -> tuple[bool, ...]:
        """Who runs while the link is lost, each by its own level between its stop and its start. [m]"""
        for drive, (stop_m, start_m) in enumerate(pairs_m):
            level_m = levels_m[drive] if self.goes_alone(drive) else None
            self.alone[drive] = level_m is not None and level_m > stop_m and (self.alone[drive] or level_m >= start_m)
        return tuple(self.alone)

    def left_s(self) -> float:
        """Until somebody takes the lead; infinite where nobody waits for that. [s]"""
        return math.inf if self.silent_since_s is None else self.silent_since_s + self.numbers.takeover_s - self.now_s
