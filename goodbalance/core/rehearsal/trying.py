"""What to try next: where causes look alike, something is done on the bench with each of them, and what follows tells them apart."""

import contextlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.diagnosis import AS_IT_SHOULD, Cause, Check, Look, Played, split_by
from goodbalance.core.rehearsal.engine import AnyBench, Run, TimedAction, begun
from goodbalance.core.rehearsal.proving import Scene
from goodbalance.core.rehearsal.troubles import Lever, Sign

LOOKS_AFTER_S = (4.0, 10.0)  # the first before a starter without feedback is given up again
LEAST_SHARE, MOST_CAUSES, MOST_TRIES = 0.02, 6, 2
LEAST_BITS = 0.05
NOW_S = 1e-6


@dataclass(frozen=True, slots=True)
class Try:
    """Something to do, what to look at so many seconds later, and what each outcome would mean."""

    lever: Lever
    check: Check
    after_s: float


def tries(
    bench: Callable[[float], AnyBench], signs: Callable[[AnyBench], tuple[Sign, ...]], levers: Callable[[AnyBench], Sequence[Lever]], played: Played,
    found: Sequence[Cause], stories: Mapping[str, Scene], before: tuple[TimedAction, ...] = (),
) -> tuple[Try, ...]:  # fmt: skip
    """The deeds that are expected to split these causes best, the best first; none where one cause is left."""
    likely = [cause for cause in found if cause.share >= LEAST_SHARE][:MOST_CAUSES]
    if len(likely) < 2:
        return ()
    stands = [_there(bench, cause, stories[cause.like.story], before) for cause in likely]
    ways: list[Try] = []
    for lever in levers(stands[0].bench):
        looks: dict[float, list[Look]] = {after_s: [] for after_s in LOOKS_AFTER_S}
        for cause, run in zip(likely, stands):
            for after_s, values in _after(run, lever, signs):
                looks[after_s].append((AS_IT_SHOULD if cause.trouble is None else cause.trouble.id, cause.share, values))
        splits = [Try(lever, check, after_s) for after_s in LOOKS_AFTER_S for check in split_by(played, looks[after_s], frozenset())]
        best = max(splits, key=lambda way: way.check.bits, default=None)
        if best is not None and best.check.bits >= LEAST_BITS:
            ways.append(best)
    ways.sort(key=lambda way: -way.check.bits)
    return tuple(_unlike(ways))[:MOST_TRIES]


def _unlike(ways: Sequence[Try]) -> Iterator[Try]:
    """Without those that tell no more than one before them."""
    told = 0.0
    for way in ways:
        if not told or way.check.bits < told - 1e-9:
            told = way.check.bits
            yield way


def _there(bench: Callable[[float], AnyBench], cause: Cause, story: Scene, before: tuple[TimedAction, ...]) -> Run[AnyBench]:
    """The bench as it looks where this cause looks most like what was seen."""
    breaks = () if cause.trouble is None else (cause.trouble.put(cause.like.since_s),)
    run = begun(bench(story.start), tuple(sorted((*before, *story.actions, *breaks), key=lambda action: action.at_s)))
    run.go_to(cause.like.at_s)
    return run


def _after(run: Run[AnyBench], lever: Lever, signs: Callable[[AnyBench], tuple[Sign, ...]]) -> Iterator[tuple[float, tuple[float | None, ...]]]:
    """What is seen some seconds after it was done; nothing where it cannot be done."""
    branch = run.branch()
    done = tuple(replace(action, at_s=run.now_s + NOW_S + action.at_s) for action in lever.actions)
    branch.actions = (*branch.actions[: branch.taken], *done)
    with contextlib.suppress(OutOfRange):
        for after_s in LOOKS_AFTER_S:
            branch.go_to(done[-1].at_s + after_s)
            yield after_s, tuple(sign.value for sign in signs(branch.bench))
