"""The crew of a set: how many pumps there are, how many may run at once, who stands by; and how a controller is told of it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from goodbalance.core.balance.facts import Facts, fact, yes_no
from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.sheets.carried import Function, Told
from goodbalance.core.sheets.entry_sheet import KeypadValue

NO, YES, TURNS = "no", "yes", "turns"  # of a standby: none, always the last, one that takes its turn
_STANDS_BY = ("pumping.standby", (YES,))
_NAMES = ("pumps", "control", "drive.1")  # under which of them a family asks
STANDBY = Function(
    "Which pump stands by", tuple(f"{name}.standby" for name in _NAMES), NO,
    "All pumps run at once: the supply, the source or the pipe gives less than they take. Nobody is left to stand by.",
)  # fmt: skip
MOST = Function(
    "Most pumps running at once", tuple(f"{name}.most" for name in _NAMES), 9.0,
    "One pump more runs than may: the supply, the source or the pipe gives less than they take.",
)  # fmt: skip

RESTS, STANDS = "has its rest: as many run as share the work", "standby: runs in the place of another"  # of a pump that stands by and takes its turn, or does not


class Crew(Facts):
    """How many pumps there are, and how many of them may run at once."""

    count: int
    standby: bool = yes_no("Last pump is standby", default=False, hint="runs only in the place of another")
    most_at_once: int | None = fact(
        "Most pumps running at once", Q.COUNT, 1, 4, default=None, only_if=(_STANDS_BY, ("pumping.count", ("3", "4", "5"))),
        hint="empty: all but the last; fewer where supply, source or pipe give no more",
    )  # fmt: skip
    standby_turns: bool = yes_no(
        "The standby takes its turn with the others", default=False, only_if=(_STANDS_BY,),
        hint="no pump stands for months; as many run at once as without it",
    )  # fmt: skip

    @property
    def duty_count(self) -> int:
        """Pumps that share the work: all but those that stand by."""
        return duty_of(self.count, self.standby, self.most_at_once)

    @property
    def turning_count(self) -> int:
        """Pumps that take turns: those that stand by too where they do."""
        return self.count if self.standby_turns else self.duty_count

    @property
    def stands_by(self) -> "Standby":
        """Who stands by, as the survey says."""
        return Standby(self.count - self.duty_count, self.standby_turns)


@dataclass(frozen=True, slots=True)
class Standby:
    """Pumps that run only in the place of others: how many of the last, and whether they take their turn all the same."""

    count: int = 0
    turns: bool = False

    @property
    def word(self) -> str:
        """As a controller is told."""
        return NO if not self.count else TURNS if self.turns else YES


def duty_of(count: int, standby: bool, most_at_once: int | None) -> int:
    """How many pumps share the work: all of them, or with a standby all but one, or fewer where that is said. At least one."""
    if not standby:
        return count
    return max(1, min(count - 1, count if most_at_once is None else most_at_once))


def standby_fits(values: Mapping[str, Any]) -> list[Finding]:
    """That a pump stands by others, and is left to do so. values: what of the survey is known, by path."""
    count, most = values.get("pumping.count", 2), values.get("pumping.most_at_once")
    if not values.get("pumping.standby"):
        return []
    if count < 2:
        return [Finding("standby_alone", Severity.STOP, "pumping.standby", "One pump alone cannot have a standby.")]
    if most is None or most < count:
        return []
    terms = (Term("m", "", most, Q.COUNT), Term("n", "", count, Q.COUNT))
    text = "Of {n} pumps {m} may run at once: then none is left to stand by. Say fewer, or that there is no standby."
    return [Finding("most_is_all", Severity.STOP, "pumping.most_at_once", text, terms)]


def standby_unlike(values: Mapping[str, Any]) -> list[Finding]:
    """That a standby that takes its turn must be as the others are: the plan stands on those that share the work."""
    if not (values.get("pumping.standby") and values.get("pumping.standby_turns")) or values.get("pumping.twins", True):
        return []
    text = "A standby that takes its turn must be like the others: every level and time stands on the pumps that share the work."
    return [Finding("standby_unlike", Severity.STOP, "pumping.standby_turns", text)]


def crew_values(pumping: Crew) -> dict[str, KeypadValue]:
    """What a controller of several pumps is told of who stands by, by the last part of the meaning."""
    if pumping.count < 2:
        return {}
    found = {"standby": KeypadValue(pumping.stands_by.word, "from the survey")}
    if pumping.standby and pumping.count > 2:
        found["most"] = KeypadValue(float(pumping.duty_count), "most that may run at once, from the survey")
    return found


def crew_as_told(told: Told, pumps: int, planned: Standby) -> Standby:
    """Who stands by, as the controller of so many pumps was told; as planned where nobody asks."""
    if not any(meaning in told.wanted for meaning in STANDBY.meanings):
        return planned
    word, most = told.word(STANDBY), told.word(MOST)
    if word not in (YES, TURNS):
        return Standby()
    return Standby(pumps - duty_of(pumps, True, round(most) if isinstance(most, float) else None), word == TURNS)
