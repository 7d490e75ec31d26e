"""Finding what would open an empty window: one thing changed at a time, by the least amount that is enough."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from goodbalance.core.balance.window import Opener

Case = tuple[Any, Any]  # survey and choices


@dataclass(frozen=True, slots=True)
class Lever:
    """One thing that could be changed: its value now, how far it may go, and the case with it changed.

    what: names the fact and holds {now} and {needed}; quantity is empty where the change is a yes or no.
    """

    what: str
    now: float
    limit: float
    quantity: str
    changed: Callable[[float], Case]


def search(levers: Iterable[Lever], opens: Callable[[Any, Any], bool], steps: int) -> tuple[Opener, ...]:
    """Every lever that opens it, with the least amount needed, found by bisection in so many steps."""
    found = []
    for lever in levers:
        if lever.now == lever.limit and lever.quantity:
            continue  # already as far as it goes, or not a fact of this station
        if not opens(*lever.changed(lever.limit)):
            continue
        if not lever.quantity:
            found.append(Opener(lever.what, lever.now, lever.limit, lever.quantity))
            continue
        closed, opened = lever.now, lever.limit
        for _ in range(steps):
            middle = (closed + opened) / 2.0
            closed, opened = (closed, middle) if opens(*lever.changed(middle)) else (middle, opened)
        found.append(Opener(lever.what, lever.now, opened, lever.quantity))
    return tuple(found)
