"""What still protects a pump in AUTO, in HAND and past its controller: every danger is brought about on the bench in each of them."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from goodbalance.core.control.trips import Trip
from goodbalance.core.rehearsal.engine import AnyBench, TimedAction, begun
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.proving import HAND, Scene
from goodbalance.core.rehearsal.troubles import Trouble

DANGER_S, WITHIN_S = 120.0, 1800.0  # when it comes in the scene, and for how long somebody is waited for


class Mode(StrEnum):
    """How a pump is worked. BYPASS: by a contactor or switch past the controller, straight on the line."""

    AUTO = "auto"
    HAND = "hand"
    BYPASS = "bypass"


@dataclass(frozen=True, slots=True)
class Guarded:
    """What becomes of a running pump: after which time it stands, and by which trip or alarm it is told; harms that come first.

    stops_s: None where nothing stops it. by: the trip's name or the alarm's words; empty where it only stops.
    """

    stops_s: float | None
    by: str = ""
    harms: tuple[str, ...] = ()


def guarded(bench: Callable[[float], AnyBench], scene: Scene, dangers: Sequence[Trouble], pump: int = 1, driven: bool = False) -> dict[str, Mapping[Mode, Guarded]]:
    """Each danger, by its id, in each mode. scene: one in which the pump (1 for pump 1) runs by DANGER_S. driven: whether a drive guards its motor.

    Past the controller only what sits in the motor's own circuit is left, which is its overload; past a drive not even that,
    unless the bypass has one of its own.
    """
    found: dict[str, Mapping[Mode, Guarded]] = {}
    for danger in dangers:
        auto, hand = (_played(bench, scene, danger, pump, mode) for mode in (Mode.AUTO, Mode.HAND))
        keeps = hand.by == Trip.OVERLOAD and not driven
        found[danger.id] = {Mode.AUTO: auto, Mode.HAND: hand, Mode.BYPASS: hand if keeps else Guarded(None, "", hand.harms)}
    return found


def _brief(text: str) -> str:
    """A harm without its numbers and its advice."""
    return text.partition(":")[0].partition(" at {")[0]


def _played(bench: Callable[[float], AnyBench], scene: Scene, danger: Trouble, pump: int, mode: Mode) -> Guarded:
    turned = (TimedAction(0.0, "switch", str(pump), HAND),) if mode is Mode.HAND else ()
    run = begun(bench(scene.start), (*turned, *scene.actions, danger.put(DANGER_S)))
    run.go_to(DANGER_S - 1.0)
    runs_before = run.bench.reasons()[pump - 1].runs
    known = {event.text for event in among(run.events, Thing.ALARM, Doing.COMES)}
    run.go_to(DANGER_S + WITHIN_S, lambda: run.now_s > DANGER_S and not run.bench.reasons()[pump - 1].runs)
    harms = tuple(dict.fromkeys(_brief(event.text) for event in among(run.events, Thing.HARM, Doing.COMES, after_s=DANGER_S - 1.0)))
    if not runs_before or run.bench.reasons()[pump - 1].runs:
        return Guarded(None, "", harms)
    stopped = list(among(run.events, Thing.PUMP, Doing.STOPS, pump=pump, after_s=DANGER_S - 1.0))
    stops_s = (stopped[-1].at_s if stopped else run.now_s) - DANGER_S
    given_up = next(among(run.events, Thing.PUMP, Doing.GIVEN_UP, pump=pump, after_s=DANGER_S - 1.0), None)
    alarm = next((event.text for event in among(run.events, Thing.ALARM, Doing.COMES, after_s=DANGER_S - 1.0) if event.text not in known), "")
    return Guarded(max(0.0, stops_s), given_up.of if given_up is not None else alarm.removeprefix("Alarm: "), harms)
