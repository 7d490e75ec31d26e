"""How the bench shows what protects the motors of a lift station: each pump by itself, in HAND, and what happens when the supply fails."""

from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.monitor import supply_of
from goodbalance.core.protection.names import Guarding, Watching, motor_id
from goodbalance.core.protection.proofs import WATCHED_S
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.proving import HAND, OFF, Scene
from goodbalance.core.stations.lift.bench import looks
from goodbalance.core.stations.lift.bench.looks import LiftRun
from goodbalance.core.stations.lift.names import Act, Check, Outcome, PumpFault
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.plant.motors import duties
from goodbalance.core.stations.lift.proofs.scenes import Scenes, Shown
from goodbalance.core.stations.shared.motor_scenes import given_up, guard_of, warm_s
from goodbalance.core.stations.shared.supply_scenes import supply_shown

SHUT_AT_S = 60.0  # by then a pump that works honestly has shown that its guard lets it
STARTED_S, FULL_SHARE = 30.0, 0.95  # by then a pump in HAND runs; of what it gives that comes in while the supply is turned
SHARE = 0.8  # of what the pump gives that comes in: the water stays high while it runs


def shown(scenes: Scenes, proof: Proof) -> Shown | None:
    """The scene of a guard and what to look at; None where it needs a person."""
    if proof.check == Check.POWER_RETURN:
        return _power_return(scenes, proof.expects == Outcome.WAITS_FOR_PERSON)
    if proof.check in (Check.SUPPLY, Check.SWAPPED):
        return _supply(scenes, proof)
    pump, others = proof.of, (str(n + 1) for n in range(scenes.hyd.pump_count))
    alone_m3s = scenes.hyd.point((int(pump) - 1,), scenes.top_m).flow_m3s
    acts = [TimedAction(0.0, Act.INFLOW, "", SHARE * alone_m3s)]
    acts += [TimedAction(0.0, Act.SWITCH, other, HAND if other == pump else OFF) for other in others]
    if proof.check == Check.HOT:
        acts.insert(0, TimedAction(0.0, PumpFault.WINDING, pump, 1.0))
        return Scene(f"contacts in the winding of pump {pump} open", scenes.start_m, tuple(acts), 60.0), lambda run: given_up(run.events) == [(Trip.HOT, int(pump))]
    if proof.check == Check.CASING:
        duty = next(each for each in duties(scenes.survey) if int(pump) in each.pumps)
        if scenes.survey.protection.closed_trips and motor_id(Guarding.UNDERLOAD, duty.number) in scenes.plan:
            return None  # its load monitor is there first
        shut = TimedAction(SHUT_AT_S, PumpFault.SHUT, pump, 1.0), TimedAction(SHUT_AT_S, Act.INFLOW, "", 0.0)
        scene = Scene(f"valve of pump {pump} shut until its casing is hot", scenes.top_m, (*acts, *shut), SHUT_AT_S + warm_s(duty, scenes.survey.protection, proof.expected))
        return scene, lambda run: run.bench.motors.watches[int(pump) - 1].stopped_c
    if proof.check in (Check.RETRIES, Check.TRIES):
        return _tried(scenes, proof, acts)
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


def _tried(scenes: Scenes, proof: Proof, acts: list[TimedAction]) -> Shown | None:
    """The valve shut until all tries are spent, and one wait more. None where the load monitor does not act at a shut valve."""
    if not scenes.survey.protection.closed_trips:
        return None
    guard = guard_of(scenes.plan, next(duty.number for duty in duties(scenes.survey) if int(proof.of) in duty.pumps))
    acts.append(TimedAction(SHUT_AT_S, PumpFault.SHUT, proof.of, 1.0))
    scene = Scene(f"valve of pump {proof.of} left shut", scenes.top_m, (*acts, TimedAction(SHUT_AT_S, Act.INFLOW, "", 0.0)), SHUT_AT_S + guard.ends_s)
    return scene, lambda run: guard.seen(run.events, proof.answer is Answer.NUMBER)


def _supply(scenes: Scenes, proof: Proof) -> Shown:
    """The scene of a proof of the supply's monitor: pump 1 in HAND, and as much comes in as it gives."""
    alone_m3s = scenes.hyd.point((0,), scenes.top_m).flow_m3s
    hands = [TimedAction(0.0, Act.SWITCH, str(n + 1), OFF if n else HAND) for n in range(scenes.hyd.pump_count)]
    still = (TimedAction(0.0, Act.INFLOW, "", FULL_SHARE * alone_m3s), *hands)

    def scene(name: str, until_s: float, acts: tuple[TimedAction, ...]) -> Scene:
        return Scene(name, scenes.top_m, (*still, *acts), until_s)

    return supply_shown(proof, scenes.plan, supply_of(duties(scenes.survey)).plate_v, scene, STARTED_S + scenes.gap_s)


def _power_return(scenes: Scenes, by_hand: bool) -> Shown:
    """Supply away while a pump runs, and back when every pump has rested; whoever resets comes later."""
    gone_s, plan = 10.0 + scenes.gap_s, scenes.plan
    back_s = gone_s + 10.0 + plan.value(S.LEAST_REST, 0.0)
    starts_s = back_s + plan.value(Watching.BACK, 0.0) + scenes.gap_s + plan.value(S.CALL_DELAY, 0.0) + 15.0
    reset = (TimedAction(starts_s, Act.RESET, "", 1.0),) if by_hand else ()
    cut = (TimedAction(gone_s, Act.POWER, "", 0.0), TimedAction(back_s, Act.POWER, "", 1.0))
    flow = TimedAction(0.0, Act.INFLOW, "", FULL_SHARE * scenes.hyd.strongest_m3s(1, scenes.top_m))

    def look(run: LiftRun) -> bool:
        begins = [event.at_s for event in among(run.events, Thing.PUMP, Doing.STARTS, after_s=back_s - 0.01)]
        return bool(begins) and (begins[0] >= starts_s) is by_hand

    return Scene("power away and back", scenes.top_m, (flow, *cut, *reset), starts_s + (scenes.gap_s + 15.0 if by_hand else 0.0)), look


def _delay_s(scenes: Scenes, pump: int) -> float:
    owner = next(duty.number for duty in duties(scenes.survey) if pump in duty.pumps)
    return scenes.plan.value(motor_id(Guarding.UNDERLOAD_DELAY, owner), 0.0)


def _until_given_up_s(run: LiftRun) -> float | None:
    started = next(among(run.events, Thing.PUMP, Doing.STARTS), None)
    return looks.after_first_s(run, started, Thing.PUMP, Doing.GIVEN_UP, Trip.OVERLOAD)
