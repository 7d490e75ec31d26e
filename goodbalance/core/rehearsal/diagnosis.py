"""Why a station is as it is seen: faults are put in on the bench, what follows is compared with what somebody saw, and the rest is a sum.

Every fault is played through the same stories. A look at the bench every so often gives the signs it brings about, and how long
it brings them about. By Bayes' rule the signs that were seen then weigh the faults against each other (all of them as likely
before anything was seen), and the next look is the one that is expected to leave the least doubt (Shannon's entropy).
"""

import math
from collections import defaultdict
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.engine import AnyBench, TimedAction, begun
from goodbalance.core.rehearsal.proving import Scene
from goodbalance.core.rehearsal.troubles import PLAIN, Sign, Trouble

LOOKS = 36  # at one story
MEANWHILE = 1.0 / 3.0  # of a story, after which a fault may come as well
WRONG = 0.02  # how likely somebody takes a yes for a no, or misreads by far
AS_IT_SHOULD = ""  # the id of nothing being broken
LEAST_SHARE = 1e-4  # of the likeliest look: what is less likely is left out of the sum over the next look
MOST_CHECKS = 3
LEAST_BITS = 0.1  # less is no reason to look

Values = tuple[float | None, ...]
Look = tuple[str, float, Values]  # a cause, how likely it is and looks like that, and how it looks
Seen = Mapping[str, float | None]  # signs as somebody saw them, by id; None where nothing is shown


@dataclass(frozen=True, slots=True)
class Glimpse:
    """How everything looks at one time of one story. since_s: when the fault came in it."""

    story: str
    at_s: float
    values: Values
    since_s: float = 0.0


@dataclass(frozen=True, slots=True)
class Played:
    """Everything that faults bring about at one station. looks: by the fault's id, AS_IT_SHOULD for none."""

    signs: tuple[Sign, ...]
    troubles: tuple[Trouble, ...]
    looks: Mapping[str, tuple[Glimpse, ...]]


@dataclass(frozen=True, slots=True)
class Cause:
    """A fault that may be behind what was seen, how likely it is, and where on the bench it looks most alike.

    trouble: None where nothing is broken. against: signs that were seen and are not so there, each with what it should be.
    """

    trouble: Trouble | None
    share: float
    like: Glimpse
    against: tuple[Sign, ...]


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a further look may show, how likely that is, and which cause it would leave in front."""

    low: float | None
    high: float | None
    share: float
    leaves: Trouble | None


@dataclass(frozen=True, slots=True)
class Check:
    """A sign not looked at yet, by how many bits it is expected to lessen the doubt, and what each outcome would mean."""

    sign: Sign
    bits: float
    outcomes: tuple[Outcome, ...]


def play_all(
    bench: Callable[[float], AnyBench], signs: Callable[[AnyBench], tuple[Sign, ...]], troubles: Sequence[Trouble | None],
    stories: Sequence[Scene], before: tuple[TimedAction, ...] = (),
) -> dict[str, tuple[Glimpse, ...]]:  # fmt: skip
    """Play faults (None: nothing broken) through every story. before: how the switches stand."""
    found = {}
    for trouble in troubles:
        looks: list[Glimpse] = []
        for story in stories:
            for since_s in (0.0,) if trouble is None else (0.0, MEANWHILE * story.until_s):
                looks += _looks(bench, signs, trouble, story, since_s, before)
        found[AS_IT_SHOULD if trouble is None else trouble.id] = tuple(looks)
    return found


def _looks(
    bench: Callable[[float], AnyBench], signs: Callable[[AnyBench], tuple[Sign, ...]], trouble: Trouble | None, story: Scene, since_s: float,
    before: tuple[TimedAction, ...],
) -> Iterator[Glimpse]:  # fmt: skip
    """One story with a fault in it from a time on, looked at every so often from then on."""
    breaks = () if trouble is None else (trouble.put(since_s),)
    actions = sorted((*before, *story.actions, *breaks), key=lambda action: action.at_s)
    try:
        run = begun(bench(story.start), tuple(actions))
        for look in range(1, LOOKS + 1):
            at_s = since_s + (story.until_s - since_s) * look / LOOKS
            run.go_to(at_s)
            yield Glimpse(story.name, at_s, tuple(sign.value for sign in signs(run.seen_at(at_s))), since_s)
    except OutOfRange:
        return  # devices may hold numbers with which a story cannot begin


def causes(played: Played, seen: Seen) -> tuple[Cause, ...]:
    """Every fault with how likely it is after what was seen, the likeliest first; their shares add up to 1."""
    places = [place for place, sign in enumerate(played.signs) if sign.id in seen]
    troubles = {AS_IT_SHOULD: None, **{trouble.id: trouble for trouble in played.troubles}}
    found: list[tuple[float, Trouble | None, Glimpse]] = []
    for name, looks in played.looks.items():
        weighed = [(_weight(played.signs, places, look.values, seen), look) for look in looks]
        if weighed:
            like = max(weighed, key=lambda pair: pair[0])[1]
            found.append((sum(weight for weight, _ in weighed) / len(weighed), troubles[name], like))
    whole = sum(weight for weight, _, _ in found) or 1.0
    found.sort(key=lambda each: -each[0])
    return tuple(Cause(trouble, weight / whole, like, _against(played.signs, like, seen)) for weight, trouble, like in found)


def _weight(signs: Sequence[Sign], places: Sequence[int], values: Values, seen: Seen) -> float:
    """How likely somebody sees just this where it looks like that."""
    weight = 1.0
    for place in places:
        off = signs[place].apart(seen[signs[place].id], values[place])
        weight *= max(WRONG, math.exp(-0.5 * off * off))
    return weight


def _against(signs: Sequence[Sign], like: Glimpse, seen: Seen) -> tuple[Sign, ...]:
    pairs = [(sign, value) for sign, value in zip(signs, like.values) if sign.id in seen]
    return tuple(_with(sign, value) for sign, value in pairs if sign.apart(seen[sign.id], value) >= PLAIN)


def _with(sign: Sign, value: float | None) -> Sign:
    return replace(sign, value=value)


def checks(played: Played, seen: Seen) -> tuple[Check, ...]:
    """What to look at next: the signs not seen yet that split the causes best, the best first."""
    places = [place for place, sign in enumerate(played.signs) if sign.id in seen]
    likely: list[Look] = []
    for name, looks in played.looks.items():
        likely += [(name, _weight(played.signs, places, look.values, seen) / len(looks), look.values) for look in looks]
    found = split_by(played, likely, seen.keys())
    return tuple(check for check in found if check.bits >= LEAST_BITS)[:MOST_CHECKS]


def split_by(played: Played, likely: list[Look], known: Collection[str]) -> list[Check]:
    """By how much each sign that is not known yet is expected to lessen the doubt between these looks, the best first."""
    most = max((weight for _, weight, _ in likely), default=0.0)
    likely = [each for each in likely if each[1] > LEAST_SHARE * most]
    doubt, whole = _entropy(_by_cause(likely)), sum(weight for _, weight, _ in likely)
    found = []
    for place, sign in enumerate(played.signs):
        if sign.id in known or sign.between is not None:
            continue
        split = _split(sign, place, likely)
        left = sum(sum(weight for _, weight, _ in part) / whole * _entropy(_by_cause(part)) for part in split)
        if doubt - left > 1e-6:
            found.append(Check(sign, doubt - left, _outcomes(played, place, split, whole)))
    return sorted(found, key=lambda check: -check.bits)


def _split(sign: Sign, place: int, likely: list[Look]) -> list[list[Look]]:
    """The looks that a person could not tell apart by this sign, together."""
    nothing = [each for each in likely if each[2][place] is None]
    shown = sorted((each for each in likely if each[2][place] is not None), key=lambda each: each[2][place] or 0.0)
    parts: list[list[Look]] = [nothing] if nothing else []
    for each in shown:
        if parts and parts[-1] is not nothing and sign.apart(parts[-1][-1][2][place], each[2][place]) < PLAIN:
            parts[-1].append(each)
        else:
            parts.append([each])
    return parts


def _by_cause(likely: list[Look]) -> list[float]:
    sums: dict[str, float] = defaultdict(float)
    for name, weight, _ in likely:
        sums[name] += weight
    return list(sums.values())


def _entropy(weights: Sequence[float]) -> float:
    """Doubt over causes of these weights. [bits]"""
    whole = sum(weights)
    return -sum(weight / whole * math.log2(weight / whole) for weight in weights if weight > 0.0)


def _outcomes(played: Played, place: int, split: list[list[Look]], whole: float) -> tuple[Outcome, ...]:
    troubles = {trouble.id: trouble for trouble in played.troubles}
    found = []
    for part in split:
        sums: dict[str, float] = defaultdict(float)
        for name, weight, _ in part:
            sums[name] += weight
        shown = [value for _, _, values in part if (value := values[place]) is not None]
        likeliest = max(sums, key=lambda name: sums[name])
        low, high = (min(shown), max(shown)) if shown else (None, None)
        found.append(Outcome(low, high, sum(sums.values()) / whole, troubles.get(likeliest)))
    found.sort(key=lambda outcome: -outcome.share)
    return tuple(found)
