"""What still protects a pump in AUTO, in HAND and past its controller: every danger is brought about on the bench in each of them."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from goodbalance.core.control.trips import Trip
from goodbalance.core.rehearsal.engine import AnyBench, Run, TimedAction, begun
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.proving import HAND, Scene
from goodbalance.core.rehearsal.troubles import Trouble

DANGER_S, WITHIN_S = 120.0, 1800.0  # when it comes in the scene, and for how long somebody is waited for
LOOK_S, POWER = 5.0, "power"  # between two looks; what is away for a contactor past the controller too
GONE_S, BACK_S = 60.0, 4.0 * 3600.0  # how long after the stop the cause goes, and for how long a start is waited for then


class Returns(StrEnum):
    """What follows when the cause of a stop has gone. NOT_ASKED: nothing stopped, or the cause is not one that goes."""

    BY_ITSELF = "by_itself"
    PERSON = "person"
    NOT_ASKED = "not_asked"


class Mode(StrEnum):
    """How a pump is worked. BYPASS: by a contactor or switch past the controller, straight on the line."""

    AUTO = "auto"
    HAND = "hand"
    BYPASS = "bypass"


@dataclass(frozen=True, slots=True)
class Guarded:
    """What becomes of a running pump: after which time it stands, and by which trip or alarm it is told; harms that come first.

    stops_s: None where nothing stops it. by: the trip's name or the alarm's words; empty where it only stops. returns: in AUTO,
    whether it starts again when the cause has gone, and after which time (back_s).
    """

    stops_s: float | None
    by: str = ""
    harms: tuple[str, ...] = ()
    returns: Returns = Returns.NOT_ASKED
    back_s: float = 0.0


def guarded(bench: Callable[[float], AnyBench], scene: Scene, dangers: Sequence[Trouble], pump: int = 1, driven: bool = False) -> dict[str, Mapping[Mode, Guarded]]:
    """Each danger, by its id, in each mode. scene: one in which the pump (1 for pump 1) runs by DANGER_S. driven: whether a drive guards its motor.

    Past the controller only what sits in the motor's own circuit is left, which is its overload; past a drive not even that,
    unless the bypass has one of its own.
    """
    found: dict[str, Mapping[Mode, Guarded]] = {}
    for danger in dangers:
        auto, hand = (_played(bench, scene, danger, pump, mode) for mode in (Mode.AUTO, Mode.HAND))
        keeps = (hand.by == Trip.OVERLOAD and not driven) or danger.kind == POWER
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
    run.go_to(DANGER_S)
    _look_until(run, DANGER_S + WITHIN_S, lambda: not run.bench.reasons()[pump - 1].runs)
    harms = tuple(dict.fromkeys(_brief(event.text) for event in among(run.events, Thing.HARM, Doing.COMES, after_s=DANGER_S - 1.0)))
    if not runs_before or run.bench.reasons()[pump - 1].runs:
        return Guarded(None, "", harms)
    stopped = list(among(run.events, Thing.PUMP, Doing.STOPS, pump=pump, after_s=DANGER_S - 1.0))
    stops_s = (stopped[-1].at_s if stopped else run.now_s) - DANGER_S
    given_up = next(among(run.events, Thing.PUMP, Doing.GIVEN_UP, pump=pump, after_s=DANGER_S - 1.0), None)
    alarm = next((event.text for event in among(run.events, Thing.ALARM, Doing.COMES, after_s=DANGER_S - 1.0) if event.text not in known), "")
    by = given_up.of if given_up is not None else alarm.removeprefix("Alarm: ")
    returns, back_s = _mended(run, danger, pump) if mode is Mode.AUTO else (Returns.NOT_ASKED, 0.0)
    return Guarded(max(0.0, stops_s), by, harms, returns, back_s)


def _mended(run: Run[AnyBench], danger: Trouble, pump: int) -> tuple[Returns, float]:
    """The cause goes a minute after the stop, and nobody touches anything: whether the pump starts again, and after which time."""
    if danger.broken == danger.mended:
        return Returns.NOT_ASKED, 0.0
    gone_s = run.now_s + GONE_S
    run.actions = (*run.actions[: run.taken], danger.mend(gone_s))
    _look_until(run, gone_s + BACK_S, lambda: run.now_s >= gone_s and run.bench.reasons()[pump - 1].runs)
    runs = run.bench.reasons()[pump - 1].runs
    return (Returns.BY_ITSELF, max(0.0, run.now_s - gone_s)) if runs else (Returns.PERSON, 0.0)


def _look_until(run: Run[AnyBench], until_s: float, holds: Callable[[], bool]) -> None:
    """Run on, and look every few seconds whether something holds; a long step of the bench is not cut short by it."""
    look_s = run.now_s
    while look_s < until_s and not holds():
        look_s = min(until_s, max(look_s, run.now_s) + LOOK_S)
        run.go_to(look_s)
