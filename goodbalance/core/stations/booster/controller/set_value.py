"""The set value of a booster set and the value in force: who asks for which pressure, and what of it is obeyed."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from goodbalance.core.stations.booster.survey.choices import OutsideLost
from goodbalance.core.stations.booster.survey.control import OutsideSet
from goodbalance.core.stations.shared.week import Days

DAY_S, HOUR_S = 86400.0, 3600.0


class Asks(StrEnum):
    """Whose value is in force."""

    OWN = "own"
    SCHEDULE = "schedule"
    KEYS = "keys"
    OUTSIDE = "outside"
    HELD = "held"
    LOST = "lost"  # the own one, because nobody outside is heard


@dataclass(frozen=True, slots=True)
class Line:
    """One line of a weekly schedule, by its number there: from when which pressure. [h, Pa]"""

    number: int
    days: Days
    from_h: float
    pressure: float

    def since_s(self, week_s: float) -> float:
        """How long ago it last began, by the time since Monday midnight. [s]"""
        begins = (day * DAY_S + self.from_h * HOUR_S for day in self.days.numbers)
        return min((week_s - begin) % (7.0 * DAY_S) for begin in begins)


def scheduled(lines: Sequence[Line], week_s: float) -> Line | None:
    """The line in force at a time since Monday midnight: that which began last; None without a schedule. [s]"""
    return min(lines, key=lambda line: line.since_s(week_s), default=None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Asking:
    """Who may ask for what. The outside signal stands for zero_pa when empty and full_pa when full; keys: whether those on
    its face change the set pressure without a code; local_remote: whether a switch decides that nobody outside is obeyed."""

    outside: OutsideSet = OutsideSet.NONE
    zero_pa: float = 0.0
    full_pa: float = 0.0
    lost: OutsideLost = OutsideLost.LOCAL
    local_remote: bool = False
    run_contact: bool = False
    keys: bool = False
    smooth: bool = True
    lines: tuple[Line, ...] = ()


@dataclass
class SetValue:
    """What is asked for now. share: of the outside signal, None where it is lost; remote, closed: switch and contact; keyed: by the keys.

    loop_by_hand: whether the regulator is put by, its output then standing at the speed a person gives. [Pa]
    """

    asking: Asking
    share: float | None = None
    remote: bool = True
    closed: bool = True
    keyed: float | None = None
    by_week: bool = True  # whether the week's clock counts: it can be put off for a while
    loop_by_hand: bool = False
    held: float | None = None  # what the outside last asked for

    def hears(self, share: float | None) -> None:
        """What comes from outside at this scan."""
        self.share = share
        if share is not None:
            self.held = self.asked_pa(share)

    def asked_pa(self, share: float) -> float:
        """What a share of the outside signal asks for. [Pa]"""
        return self.asking.zero_pa + (self.asking.full_pa - self.asking.zero_pa) * share

    def share_for(self, pressure_pa: float) -> float:
        """The share of the outside signal that asks for a pressure, as near as it can. [Pa]"""
        span_pa = self.asking.full_pa - self.asking.zero_pa
        return min(1.0, max(0.0, (pressure_pa - self.asking.zero_pa) / span_pa)) if span_pa else 0.0

    @property
    def obeys_outside(self) -> bool:
        """Whether anybody outside is obeyed: a switch in local says no."""
        return self.asking.outside is not OutsideSet.NONE and (self.remote or not self.asking.local_remote)

    @property
    def may_run(self) -> bool:
        """Whether the run command is there: in remote by the outside contact, in local always."""
        return self.closed or not self.asking.run_contact or (self.asking.local_remote and not self.remote)

    def in_force(self, set_pa: float, week_s: float, lowest_pa: float, highest_pa: float) -> tuple[float, Asks]:
        """The pressure in force and who asks for it. Limits hold for whatever a person or somebody outside asks; not for the own one."""
        base_pa, who, asking = set_pa, Asks.OWN, self.asking
        if asking.outside is OutsideSet.NONE and not asking.lines and not asking.keys:
            return base_pa, who  # nobody else may ask
        line = scheduled(self.asking.lines, week_s) if self.by_week else None
        if line is not None:
            base_pa, who = min(highest_pa, max(lowest_pa, line.pressure)), Asks.SCHEDULE
        if self.keyed is not None and self.asking.keys:
            base_pa, who = min(highest_pa, max(lowest_pa, self.keyed)), Asks.KEYS
        if not self.obeys_outside:
            return base_pa, who
        if self.share is not None:
            return min(highest_pa, max(lowest_pa, self.asked_pa(self.share))), Asks.OUTSIDE
        if self.asking.lost is OutsideLost.HOLD and self.held is not None:
            return min(highest_pa, max(lowest_pa, self.held)), Asks.HELD
        return base_pa, Asks.LOST
