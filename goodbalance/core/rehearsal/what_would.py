"""What would start a pump, and what would stop it: tried out by the logic, on copies of a run as it stands."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import product

from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.engine import AnyBench, Run
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.troubles import Lever, Trouble

WITHIN_S = 900.0  # so long somebody would stand there and wait
NOW_S = 1e-6


@dataclass(frozen=True, slots=True)
class Way:
    """What does it, one after the other, and after which time. Nothing in words: waiting is enough. [s]"""

    words: tuple[str, ...]
    after_s: float


def what_would(run: Run[AnyBench], pump: int, starts: bool, levers: Sequence[Lever], troubles: Sequence[Trouble]) -> tuple[Way, ...]:
    """What would start a pump (0 for pump 1), or stop it, the quickest first; two things together only where no single one does."""
    mends = [Lever(f"{trouble.place}: {trouble.words}, put right", (trouble.mend(0.0),)) for trouble in troubles]

    if run.bench.reasons()[pump].runs is starts:
        return ()
    waited = _after_s(run, pump, starts, ())
    if waited is not None:
        return (Way((), waited),)
    found = [(lever, after_s) for lever in (*mends, *levers) if (after_s := _after_s(run, pump, starts, (lever,))) is not None]
    if found:
        return tuple(sorted((Way((lever.words,), after_s) for lever, after_s in found), key=lambda way: way.after_s))
    pairs = ((mend, lever) for mend, lever in product(mends, levers))
    both = [(pair, after_s) for pair in pairs if (after_s := _after_s(run, pump, starts, pair)) is not None]
    return tuple(sorted((Way(tuple(lever.words for lever in pair), after_s) for pair, after_s in both), key=lambda way: way.after_s))


def _after_s(run: Run[AnyBench], pump: int, starts: bool, levers: Sequence[Lever]) -> float | None:
    """When it comes to that after these are done now, and stays; None where it does not in time."""

    def reached(bench: AnyBench) -> bool:
        return bench.reasons()[pump].runs is starts

    branch = run.branch()
    done = [replace(action, at_s=run.now_s + NOW_S + action.at_s) for lever in levers for action in lever.actions]
    branch.actions = (*branch.actions[: branch.taken], *sorted(done, key=lambda action: action.at_s))
    last_s = max((action.at_s for action in done), default=run.now_s)
    try:
        branch.go_to(run.now_s + WITHIN_S, lambda: branch.now_s >= last_s and reached(branch.bench))
    except OutOfRange:
        return None
    if branch.now_s < last_s or not reached(branch.bench):
        return None
    moved = among(branch.events, Thing.PUMP, Doing.STARTS if starts else Doing.STOPS, pump=pump + 1, after_s=run.now_s)
    return max((event.at_s for event in moved), default=branch.now_s) - run.now_s
