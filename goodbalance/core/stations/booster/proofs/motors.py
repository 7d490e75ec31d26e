"""How the bench shows what protects the motors of a booster set: each pump by itself, in HAND."""

from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.names import Guarding, motor_id
from goodbalance.core.protection.proofs import UNDER_SPEED, WATCHED_S
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.proving import HAND, OFF, Look, Scene
from goodbalance.core.stations.booster.bench.looks import BoosterRun
from goodbalance.core.stations.booster.bench.rehearse import BoosterBench
from goodbalance.core.stations.booster.names import Act, Check, PumpFault
from goodbalance.core.stations.booster.plant.motors import duties
from goodbalance.core.stations.booster.proofs.scenes import Scenes, act
from goodbalance.core.stations.shared.motor_scenes import given_up, guard_of, warm_s

SHUT_AT_S = 60.0  # by then a pump that works honestly has shown that its guard lets it
CHECKS = (Check.OVERLOAD, Check.UNDERLOAD, Check.RETRIES, Check.TRIES, Check.AWAKE, Check.HOT, Check.CASING)


def shown(scenes: Scenes, proof: Proof) -> tuple[Scene, Look[BoosterBench]] | None:
    """The scene of a guard and what to look at; None where it needs a person. Mean flow is drawn, at full speed where drives turn the pumps."""
    pump = proof.of
    acts = [act(0.0, Act.OUTLETS, scenes.mean), act(0.0, Act.HAND_SPEED, 1.0)]
    acts += [act(0.0, Act.SWITCH, HAND if other == pump else OFF, other) for other in (str(n + 1) for n in range(scenes.survey.pumping.count))]
    if proof.check == Check.HOT:
        acts.insert(0, act(0.0, PumpFault.WINDING, 1.0, pump))
        return scenes.scene(f"contacts in the winding of pump {pump} open", 60.0, *acts), lambda run: given_up(run.events) == [(Trip.HOT, int(pump))]
    if proof.check == Check.CASING:
        if scenes.survey.protection.closed_trips and motor_id(Guarding.UNDERLOAD, 1) in scenes.wanted:
            return None  # its load monitor is there first
        until_s = SHUT_AT_S + warm_s(duties(scenes.survey)[0], scenes.survey.protection, proof.expected)
        scene = scenes.scene(f"valve of pump {pump} shut until its casing is hot", until_s, *acts, act(SHUT_AT_S, PumpFault.SHUT, 1.0, pump))
        return scene, lambda run: run.bench.motors.watches[int(pump) - 1].stopped_c
    if proof.check == Check.AWAKE:
        if not scenes.survey.protection.closed_trips:
            return None
        slow = scenes.wanted.value(motor_id(Guarding.UNDERLOAD_SPEED, 1), 1.0) - UNDER_SPEED
        until_s = SHUT_AT_S + scenes.wanted.value(motor_id(Guarding.UNDERLOAD_DELAY, 1), 0.0) + WATCHED_S
        shut = (act(1.0, Act.HAND_SPEED, max(0.0, slow)), act(SHUT_AT_S, PumpFault.SHUT, 1.0, pump))
        return scenes.scene(f"valve of pump {pump} shut, slowly", until_s, *acts, *shut), lambda run: not run.bench.logic.tripped[int(pump) - 1] and int(pump) - 1 in run.bench.running
    if proof.check in (Check.RETRIES, Check.TRIES):
        if not scenes.survey.protection.closed_trips:
            return None
        guard = guard_of(scenes.wanted, 1)
        scene = scenes.scene(f"valve of pump {pump} left shut", SHUT_AT_S + guard.ends_s, *acts, act(SHUT_AT_S, PumpFault.SHUT, 1.0, pump))
        return scene, lambda run: guard.seen(run.events, proof.answer is Answer.NUMBER)
    if proof.check == Check.OVERLOAD:
        acts.insert(0, act(0.0, PumpFault.STALLED, 1.0, pump))
        scene = scenes.scene(f"pump {pump} blocked", 2.0 * proof.expected + 30.0, *acts)
        return scene, lambda run: _given_up_s(run, 0.0, Trip.OVERLOAD)
    acts.append(act(SHUT_AT_S, PumpFault.SHUT, 1.0, pump))
    if proof.answer is Answer.NUMBER:
        scene = scenes.scene(f"valve of pump {pump} shut", SHUT_AT_S + 2.0 * proof.expected + 30.0, *acts)
        return scene, lambda run: _given_up_s(run, SHUT_AT_S, Trip.UNDERLOAD)
    delay_s = scenes.wanted.value(motor_id(Guarding.UNDERLOAD_DELAY, 1), 0.0)
    scene = scenes.scene(f"valve of pump {pump} shut", SHUT_AT_S + delay_s + WATCHED_S, *acts)
    return scene, lambda run: not run.bench.logic.tripped[int(pump) - 1] and int(pump) - 1 in run.bench.running


def _given_up_s(run: BoosterRun, from_s: float, trip: Trip) -> float | None:
    """How long after an instant a pump was first given up for that. None where it was given up before, or not."""
    gone = next(among(run.events, Thing.PUMP, Doing.GIVEN_UP), None)
    return gone.at_s - from_s if gone is not None and gone.of == trip and gone.at_s >= from_s else None
