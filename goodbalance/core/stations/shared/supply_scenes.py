"""How a bench of any kind shows what its monitor of the supply does: pump 1 runs in HAND, and somebody turns the supply."""

from collections.abc import Callable

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.protection.names import SupplyAct, SupplyFault, Watching
from goodbalance.core.protection.proofs import short
from goodbalance.core.rehearsal.engine import AnyBench, Run, TimedAction
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.proving import Look, Scene

STEP, STEPS, BEFORE = 0.005, 9, 4  # of the plate's voltage; how many steps are turned, so many of them before it may let go
UNDER, LOST_S, MORE_S = 0.03, 10.0, 15.0  # well under the limit; how long a phase is away; watched beyond the expected time
OnWatch = Callable[[str, float, tuple[TimedAction, ...]], Scene]  # a scene by its name, its end and what is done, with pump 1 running in HAND


def supply_shown(proof: Proof, plan: Plan, plate_v: float, scene: OnWatch, from_s: float) -> tuple[Scene, Look[AnyBench]]:
    """The scene of a proof of the monitor, and what to look at. scene: by its name, its end and what is done, with pump 1 running in HAND by from_s."""
    if proof.answer is not Answer.NUMBER:
        acts = (TimedAction(from_s, SupplyFault.SWAPPED, "", 1.0),)
        return scene("phases swapped", from_s + MORE_S, acts), lambda run: not run.bench.reasons()[0].runs and not _stopped_before(run, from_s)
    if proof.of == short(Watching.DELAY):
        low = plan.value(Watching.LOW, 0.0) / plate_v - UNDER
        acts = (TimedAction(from_s, SupplyAct.VOLTS, "", low),)
        return scene("supply sags", from_s + 1.5 * proof.expected + MORE_S, acts), lambda run: _after_s(run, from_s, Doing.STOPS)
    if proof.of == short(Watching.BACK):
        lost = (TimedAction(from_s, SupplyFault.PHASE, "", 1.0), TimedAction(from_s + LOST_S, SupplyFault.PHASE, "", 0.0))
        until_s = from_s + LOST_S + 1.2 * proof.expected + MORE_S
        return scene("a phase lost and back", until_s, lost), lambda run: _after_s(run, from_s + LOST_S, Doing.STARTS)
    return _turned(proof, plan, plate_v, scene, from_s)


def _turned(proof: Proof, plan: Plan, plate_v: float, scene: OnWatch, from_s: float) -> tuple[Scene, Look[AnyBench]]:
    """The supply turned by steps, each held until the monitor would have let go."""
    act = SupplyAct.UNEVENNESS if proof.of == short(Watching.UNEVEN) else SupplyAct.VOLTS
    unit = 1.0 if act is SupplyAct.UNEVENNESS else plate_v
    way = -STEP if proof.of == short(Watching.LOW) else STEP
    way = way / 4.0 if act is SupplyAct.UNEVENNESS else way
    every_s = plan.value(Watching.DELAY, 0.0) + 2.0
    acts = tuple(TimedAction(from_s + k * every_s, act, "", max(0.0, proof.expected / unit + way * (k - BEFORE + 0.5))) for k in range(STEPS))

    def look(run: Run[AnyBench]) -> float | None:
        """What the supply stood at when the first pump stopped; None where one stopped before it was turned, or none did."""
        stopped = next(among(run.events, Thing.PUMP, Doing.STOPS), None)
        if stopped is None:
            return None
        turned = [value for event in among(run.events, Thing.YOU, of=act) if event.at_s < stopped.at_s and (value := event.value("v")) is not None]
        return turned[-1] * unit if turned else None

    return scene(f"{act} turned", from_s + STEPS * every_s + MORE_S, acts), look


def _stopped_before(run: Run[AnyBench], at_s: float) -> bool:
    return any(event.at_s < at_s for event in among(run.events, Thing.PUMP, Doing.STOPS))


def _after_s(run: Run[AnyBench], from_s: float, doing: Doing) -> float | None:
    """How long after an instant a pump first moved so. [s]"""
    moved = next(among(run.events, Thing.PUMP, doing, after_s=from_s - 0.01), None)
    return None if moved is None else moved.at_s - from_s
