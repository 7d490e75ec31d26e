"""In which order proofs need the fewest changes: whose scene is the same go together, and switches are turned as seldom as may be."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise, permutations

from goodbalance.core.balance.proof import Proof
from goodbalance.core.rehearsal.proving import HAND, OFF, Scene

MOST_TRIED = 7  # so many ways to stand are put into every order; of more the nearest comes next
Stand = frozenset[tuple[str, float]]  # switches (by pump, 1 for pump 1) that do not stand in AUTO, with their place
AUTO: Stand = frozenset()


@dataclass(frozen=True, slots=True)
class Together:
    """Proofs that are made while the switches stand so. stand: None where a person needs no pump, or judges by eye."""

    stand: Stand | None
    proofs: tuple[Proof, ...]


@dataclass(frozen=True, slots=True)
class Ordered:
    """Every proof, and how often a switch is turned and something is done for them."""

    groups: tuple[Together, ...]
    turns: int
    doings: int


def stand_of(scene: Scene) -> Stand:
    """How the switches stand as a scene begins."""
    return frozenset((action.target, action.value) for action in scene.actions if action.at_s == 0.0 and action.kind == "switch" and action.value in (HAND, OFF))


def as_listed(proofs: Sequence[Proof], scenes: Mapping[str, Scene]) -> Ordered:
    """The same proofs in the order they come in, counted."""
    groups = tuple(Together(stand_of(scenes[proof.id]) if proof.id in scenes else None, (proof,)) for proof in proofs)
    return Ordered(groups, _turns([group.stand for group in groups if group.stand is not None]), _doings(proofs, scenes))


def fewest_changes(proofs: Sequence[Proof], scenes: Mapping[str, Scene]) -> Ordered:
    """By how the switches stand, those ways in the order that turns the fewest; within each, what one scene shows together."""
    stands: dict[Stand, list[Proof]] = {}
    for proof in proofs:
        if proof.id in scenes:
            stands.setdefault(stand_of(scenes[proof.id]), []).append(proof)
    way = _shortest(list(stands))
    groups = [Together(stand, _by_scene(stands[stand], scenes)) for stand in way]
    rest = tuple(proof for proof in proofs if proof.id not in scenes)
    ordered = [proof for group in groups for proof in group.proofs]
    return Ordered((*groups, *((Together(None, rest),) if rest else ())), _turns(way), _doings([*ordered, *rest], scenes))


def _by_scene(proofs: list[Proof], scenes: Mapping[str, Scene]) -> tuple[Proof, ...]:
    """Proofs of one scene side by side, scenes in the order in which they first come."""
    places: dict[Scene, int] = {}
    for proof in proofs:
        places.setdefault(scenes[proof.id], len(places))
    return tuple(sorted(proofs, key=lambda proof: places[scenes[proof.id]]))


def _apart(one: Stand, other: Stand) -> int:
    """How many switches must be turned from one to the other."""
    return len({pump for pump, _ in one ^ other})


def _turns(way: Sequence[Stand]) -> int:
    return sum(_apart(one, other) for one, other in pairwise((AUTO, *way, AUTO)))


def _doings(proofs: Sequence[Proof], scenes: Mapping[str, Scene]) -> int:
    """How often something new is done: proofs that follow each other and are shown by one scene are one doing."""
    shown = [scenes.get(proof.id, proof.id) for proof in proofs]
    return sum(one != other for one, other in pairwise(("", *shown)))


def _shortest(stands: list[Stand]) -> list[Stand]:
    """The order of the ways to stand that turns the fewest switches, from AUTO and back to it."""
    if len(stands) <= MOST_TRIED:
        return list(min(permutations(stands), key=lambda way: _turns(list(way)))) if stands else []
    way, left = [], list(stands)
    here = AUTO
    while left:
        here = min(left, key=lambda stand: _apart(here, stand))
        left.remove(here)
        way.append(here)
    return way
