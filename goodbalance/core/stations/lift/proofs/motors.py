"""How the bench shows what protects the motors of a lift station: each pump by itself, in HAND."""

from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.names import Guarding, motor_id
from goodbalance.core.protection.proofs import WATCHED_S
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.proving import HAND, OFF, Scene
from goodbalance.core.stations.lift.bench import looks
from goodbalance.core.stations.lift.bench.looks import LiftRun
from goodbalance.core.stations.lift.names import Act, Check, PumpFault
from goodbalance.core.stations.lift.plant.motors import duties
from goodbalance.core.stations.lift.proofs.scenes import Scenes, Shown

SHUT_AT_S = 60.0  # by then a pump that works honestly has shown that its guard lets it
SHARE = 0.8  # of what the pump gives that comes in: the water stays high while it runs


def shown(scenes: Scenes, proof: Proof) -> Shown:
    """The scene of a guard and what to look at."""
    pump, others = proof.of, (str(n + 1) for n in range(scenes.hyd.pump_count))
    alone_m3s = scenes.hyd.point((int(pump) - 1,), scenes.top_m).flow_m3s
    acts = [TimedAction(0.0, Act.INFLOW, "", SHARE * alone_m3s)]
    acts += [TimedAction(0.0, Act.SWITCH, other, HAND if other == pump else OFF) for other in others]
    if proof.check == Check.OVERLOAD:
        acts.insert(0, TimedAction(0.0, PumpFault.STALLED, pump, 1.0))
        scene = Scene(f"pump {pump} blocked", scenes.start_m, tuple(acts), 2.0 * proof.expected + 30.0)
        return scene, _until_given_up_s
    acts.append(TimedAction(SHUT_AT_S, PumpFault.SHUT, pump, 1.0))
    if proof.answer is Answer.NUMBER:
        scene = Scene(f"valve of pump {pump} shut", scenes.top_m, tuple(acts), SHUT_AT_S + 2.0 * proof.expected + 30.0)
        return scene, lambda run: looks.after_first_s(run, looks.done(run, PumpFault.SHUT), Thing.PUMP, Doing.GIVEN_UP, Trip.UNDERLOAD)
    scene = Scene(f"valve of pump {pump} shut", scenes.top_m, tuple(acts), SHUT_AT_S + _delay_s(scenes, int(pump)) + WATCHED_S)
    return scene, lambda run: not run.bench.logic.panel.tripped[int(pump) - 1] and int(pump) - 1 in run.bench.running


def _delay_s(scenes: Scenes, pump: int) -> float:
    owner = next(duty.number for duty in duties(scenes.survey) if pump in duty.pumps)
    return scenes.plan.value(motor_id(Guarding.UNDERLOAD_DELAY, owner), 0.0)


def _until_given_up_s(run: LiftRun) -> float | None:
    started = next(among(run.events, Thing.PUMP, Doing.STARTS), None)
    return looks.after_first_s(run, started, Thing.PUMP, Doing.GIVEN_UP, Trip.OVERLOAD)
