"""Proving a plan on the bench, for any kind of station: scenes are played once each, and every proof is read off its scene."""

import contextlib
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from goodbalance.core.balance.proof import Proof, Verdict, judge
from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.engine import LONGEST_RUN_S, AnyBench, Run, TimedAction, begun, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.troubles import Sign, Trouble

HAND, OFF = 0.0, 1.0  # values of a switch action
JUST_S = 1e-6  # before an instant
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
    """A proof as the bench shows it: what was seen (None: it did not happen), the verdict, and the scene.

    alarms: those that came in it, as they are worded; ended: what a person could see at its end; turned: pumps that ran in it.
    """

    proof: Proof
    seen: Seen
    verdict: Verdict
    scene: Scene
    alarms: frozenset[str] = frozenset()
    ended: tuple[Sign, ...] = ()
    turned: frozenset[int] = frozenset()


def prove_scenes(
    listed: Iterable[Proof],
    shown: Callable[[Proof], tuple[Scene, Look[AnyBench]] | None],
    bench: Callable[[float], AnyBench],
    only: frozenset[str] | None = None,
    signs: Callable[[AnyBench], tuple[Sign, ...]] | None = None,
    broken: Trouble | None = None,
) -> tuple[BenchProof, ...]:
    """Play every scene and judge the proofs read off it. What no scene shows, because it needs a person, is left out.

    bench: the station at the start of a scene. only: the proofs asked for, by id; all where it is None. signs: what a
    person could see of it; broken: a part that is broken before every scene begins.
    """
    looked: list[tuple[Proof, Scene, Look[AnyBench]]] = []
    for proof in listed:
        scene_and_look = shown(proof) if only is None or proof.id in only else None
        if scene_and_look is not None:
            looked.append((proof, *scene_and_look))

    def begins(start: float) -> AnyBench:
        stands = bench(start)
        if broken is not None:
            stands.act(broken.put(0.0))
        return stands

    runs = play({scene for _, scene, _ in looked}, begins)
    found = []
    for proof, scene, look in looked:
        run = runs.get(scene)
        seen = None if run is None else look(run)
        alarms = () if run is None else among(run.events, Thing.ALARM, Doing.COMES)
        ended = () if run is None or signs is None else signs(run.bench)
        verdict = Verdict.FAILED if seen is None else judge(proof, seen)
        turned = frozenset() if run is None else _turned(run)
        found.append(BenchProof(proof, seen, verdict, scene, frozenset(event.text for event in alarms), ended, turned))
    return tuple(found)


def _turned(run: Run[AnyBench]) -> frozenset[int]:
    """Pumps that ran at any time of it."""
    places = [(place, int(name.removeprefix("pump_"))) for place, name in enumerate(run.bench.columns, 1) if name.startswith("pump_")]
    return frozenset(pump for place, pump in places if any(row[place] for row in run.trace))


def play(scenes: Iterable[Scene], bench: Callable[[float], AnyBench]) -> dict[Scene, Run[AnyBench]]:
    """Run every scene. What scenes have in common from their start is run once, and each goes on from there by itself.

    A scene that cannot begin where it should, cannot be acted or takes longer than a bench runs is left out: devices may hold
    such numbers.
    """
    runs: dict[Scene, Run[AnyBench]] = {}
    groups: dict[float, list[Scene]] = {}
    for scene in scenes:
        if 0.0 < scene.until_s <= LONGEST_RUN_S:
            groups.setdefault(scene.start, []).append(scene)
    for start, group in groups.items():
        try:
            _play_on(begun(bench(start), ()), group, runs)
        except OutOfRange:  # one of them: then each by itself
            runs |= _play_alone(group, bench)
    return runs


def _play_alone(scenes: list[Scene], bench: Callable[[float], AnyBench]) -> dict[Scene, Run[AnyBench]]:
    """Run each scene from its own start; those that cannot be played are left out."""
    runs = {}
    for scene in scenes:
        with contextlib.suppress(OutOfRange):
            runs[scene] = rehearse(bench(scene.start), scene.actions, scene.until_s)
    return runs


def _play_on(run: Run[AnyBench], scenes: list[Scene], runs: dict[Scene, Run[AnyBench]]) -> None:
    """Play scenes that were the same up to where this run stands. runs: where they are put."""
    ways: dict[tuple[TimedAction, ...], list[Scene]] = {}
    for scene in scenes:
        ways.setdefault(_next_together(scene, run.taken), []).append(scene)
    parts = [(doing[0].at_s, doing, group) for doing, group in ways.items() if doing]
    parts += [(scene.until_s, (), [scene]) for scene in ways.get((), ())]
    parts.sort(key=lambda part: part[0])
    for place, (at_s, doing, group) in enumerate(parts):
        if run.now_s < at_s - JUST_S:
            run.go_to(at_s - JUST_S)  # so far those that come later have the way in common
        branch = run if place == len(parts) - 1 else run.branch()
        if len(group) == 1:
            branch.actions = group[0].actions
            branch.go_to(group[0].until_s)
            runs[group[0]] = branch
        else:
            branch.actions += doing
            branch.go_to(at_s)
            _play_on(branch, group, runs)


def _next_together(scene: Scene, taken: int) -> tuple[TimedAction, ...]:
    """What is done next in a scene, at one instant; nothing where it only goes on to its end."""
    rest = [action for action in scene.actions[taken:] if action.at_s <= scene.until_s]
    return tuple(action for action in rest if action.at_s == rest[0].at_s)
