"""The plan and what its devices really do, as read back from them."""

from dataclasses import dataclass
from typing import Generic, TypeVar

from goodbalance.core.balance.plan import Plan

P = TypeVar("P")


@dataclass(frozen=True, slots=True)
class Held(Generic[P]):
    """The plan as the devices hold it, and the program they work by."""

    plan: Plan
    program: P
