"""What the devices of a station really do: the plan as they hold it, the program they run, and what none of them carries."""

from dataclasses import dataclass
from typing import Generic, TypeVar

from goodbalance.core.balance.plan import Plan
from goodbalance.core.sheets.carried import Uncarried

P = TypeVar("P")


@dataclass(frozen=True, slots=True)
class Held(Generic[P]):
    """The plan with every number as the devices hold it, the program they run, and what is not carried."""

    plan: Plan
    program: P
    uncarried: tuple[Uncarried, ...] = ()
