"""Finding what would open an empty window: one thing changed at a time, by the least amount that is enough.

A limit may lie far off (a generator of 5 MVA): the way to it is first looked at in ever larger parts from the value now,
so that bisection begins close to the least change.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from goodbalance.core.balance.window import Opener

PARTS = (1.0 / 4096.0, 1.0 / 512.0, 1.0 / 64.0, 1.0 / 16.0, 1.0 / 4.0, 1.0)  # of the way to the limit

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


def to(case: Case) -> Callable[[float], Case]:
    """The change that is a yes or no: it leads to this case."""
    return lambda _: case


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
        way, closed, opened = lever.limit - lever.now, lever.now, lever.limit
        for part in PARTS[:-1]:
            if opens(*lever.changed(lever.now + part * way)):
                opened = lever.now + part * way
                break
            closed = lever.now + part * way
        for _ in range(steps):
            middle = (closed + opened) / 2.0
            closed, opened = (closed, middle) if opens(*lever.changed(middle)) else (middle, opened)
        found.append(Opener(lever.what, lever.now, opened, lever.quantity))
    return tuple(found)
