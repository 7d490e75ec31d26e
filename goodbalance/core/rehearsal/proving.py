"""Proving a plan on the bench, for any kind of station: scenes are played once each, and every proof is read off its scene."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from goodbalance.core.balance.proof import Proof, Verdict, judge
from goodbalance.core.rehearsal.engine import AnyBench, Run, TimedAction, rehearse

HAND, OFF = 0.0, 1.0  # values of a switch action
Seen = float | bool | tuple[int, ...] | None
Look = Callable[[Run[AnyBench]], Seen]


@dataclass(frozen=True, slots=True)
class Scene:
    """One run that shows some proofs: at which level or pressure it begins (SI), what is done, how long."""

    name: str
    start: float
    actions: tuple[TimedAction, ...]
    until_s: float


@dataclass(frozen=True, slots=True)
class BenchProof:
    """A proof as the bench shows it: what was seen (None: it did not happen), the verdict, and the scene."""

    proof: Proof
    seen: Seen
    verdict: Verdict
    scene: Scene


def prove_scenes(
    listed: Iterable[Proof],
    shown: Callable[[Proof], tuple[Scene, Look[AnyBench]] | None],
    bench: Callable[[float], AnyBench],
    only: frozenset[str] | None = None,
) -> tuple[BenchProof, ...]:
    """Play every scene and judge the proofs read off it. What no scene shows, because it needs a person, is left out.

    bench: the station at the start of a scene. only: the proofs asked for, by id; all where it is None.
    """
    runs: dict[Scene, Run[AnyBench]] = {}
    found = []
    for proof in listed:
        scene_and_look = shown(proof) if only is None or proof.id in only else None
        if scene_and_look is None:
            continue
        scene, look = scene_and_look
        if scene not in runs:
            runs[scene] = rehearse(bench(scene.start), scene.actions, scene.until_s)
        seen = look(runs[scene])
        verdict = Verdict.FAILED if seen is None else judge(proof, seen)
        found.append(BenchProof(proof, seen, verdict, scene))
    return tuple(found)
