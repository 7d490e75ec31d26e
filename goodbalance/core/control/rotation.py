"""Whose turn it is: pumps in groups, and the rules by which the lead passes from one to the next."""

from dataclasses import dataclass, field
from enum import StrEnum


class Alternation(StrEnum):
    """When the turn passes from one pump to the next."""

    ALL_STOPPED = "all_stopped"  # each time all pumps have stopped
    EACH_STOP = "each_stop"  # each time a pump stops: the one that has led longest stops first
    FIXED = "fixed"  # never: pump 1 always leads
    RUN_HOURS = "run_hours"  # at all stopped, to the pump that has run least
    CLOCK = "clock"  # at the first all stopped after each full period


@dataclass
class Rotation:
    """The order of the pumps, group by group. Pump indexes from 0; pumps that stand by are the last and keep their places, unless all_turn.

    first_group: how many pumps from pump 1 on form a group of their own, 0 for one group. Their calls come first;
    with first_rests they rest while the second group serves a call of its own.
    """

    pump_count: int
    alternation: Alternation = Alternation.ALL_STOPPED
    clock_period_s: float = 86400.0
    standby: int = 0  # pumps that run only in the place of others
    first_group: int = 0
    first_rests: bool = True
    all_turn: bool = False  # those that stand by take their turn with the others; so many run at once as without them
    order: list[int] = field(default_factory=list)
    turned_at_s: float = 0.0
    duty_count: int = field(init=False, default=0)  # pumps that share the work: most that run at once

    def __post_init__(self) -> None:
        self.order = self.order or list(range(self.pump_count))
        self.duty_count = max(1, self.pump_count - self.standby)
        two = 0 < self.first_group < self.duty_count
        split = (range(self.first_group), range(self.first_group, self.duty_count))
        # calls of each group; pumps have the same numbers, a standby belongs to the last group
        self.groups: tuple[range, ...] = split if two else (range(self.duty_count),)

    def members(self, group: int) -> list[int]:
        """Pumps of a group in their present order, a standby last."""
        last = group == len(self.groups) - 1
        return [p for p in self.order if p in self.groups[group] or (last and p >= self.duty_count)]

    def serving(self, latched: list[bool], available: list[bool]) -> tuple[int, ...]:
        """Which pumps the latched calls go to: in each group the first available ones in turn.

        Calls the first group cannot serve itself go on to the second.
        """
        if True not in latched:
            return ()
        if len(self.groups) == 1:
            return tuple([pump for pump in self.order if available[pump]][: sum(latched)])
        calls = [sum(latched[call] for call in group) for group in self.groups]
        free = [[p for p in self.members(group) if available[p]] for group in range(len(calls))]
        rests = self.first_rests and calls[1] > 0 and bool(free[1])
        own = [] if rests else free[0][: calls[0]]
        lacking = 0 if rests else calls[0] - len(own)
        return (*own, *free[1][: calls[1] + lacking])

    def stopped(self, group: int, all_stopped: bool, available: list[bool], run_s: list[float], now_s: float) -> None:
        """A call of the group has dropped: pass the turn if the rule says so."""
        rule = self.alternation
        if rule is Alternation.FIXED or not (all_stopped or rule is Alternation.EACH_STOP):
            return
        members = [p for p in self.members(group) if self._turns(p)]
        if rule is Alternation.RUN_HOURS:
            self._put(members, sorted(members, key=lambda pump: run_s[pump]))  # stable: among equals the order stays
        elif rule is not Alternation.CLOCK or self._period_is_over(now_s):
            first = next((pump for pump in members if available[pump]), None)
            if first is not None:
                self.to_the_end(first)

    def to_the_end(self, pump: int) -> None:
        """Put a pump last among the duty pumps of its group."""
        group = next((g for g, calls in enumerate(self.groups) if pump in calls), len(self.groups) - 1)
        members = [p for p in self.members(group) if self._turns(p)]
        self._put(members, [p for p in members if p != pump] + [pump])

    def _turns(self, pump: int) -> bool:
        """Whether a pump shares the turn: a standby only where all do."""
        return self.all_turn or pump < self.duty_count

    def _put(self, members: list[int], ordered: list[int]) -> None:
        places = iter(ordered)
        self.order = [next(places) if pump in members else pump for pump in self.order]

    def _period_is_over(self, now_s: float) -> bool:
        if now_s - self.turned_at_s < self.clock_period_s:
            return False
        self.turned_at_s = now_s
        return True
