"""Proofs that a pump without water is given up, and begins again by itself, as a set does after lack of water, as late and as often as planned; and how the bench shows them."""

import math
from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.names import Guarding, motor_id
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.proving import HAND, OFF
from goodbalance.core.stations.booster.bench import looks
from goodbalance.core.stations.booster.bench.looks import BoosterRun
from goodbalance.core.stations.booster.controller.stops import NEAR_FULL
from goodbalance.core.stations.booster.names import PRIME, SHUT_PA, WATER, Act, Check, PumpFault, SetFault, Stop
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.proofs.scenes import CALM_S, DRY, INTERLOCK, LIMITS, STARTING, Scenes, Shown, act
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, PrimeBy
from goodbalance.core.stations.booster.survey.control import SuctionBy
from goodbalance.core.stations.booster.survey.supply import SupplyKind
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.shared.motor_scenes import began_again

CHECKS = (Check.NO_PRIME, Check.WATER_WAIT, Check.WATER_TRIES, Check.PRIME_WAIT, Check.PRIME_TRIES)
GAVE_S, RAN_S, BEYOND_S = 6.0, 12.0, 90.0  # lack of water lasts beyond its delay; a set runs between two; watched after the last
NEAR_SHARE, LEAST_S = 0.05, 5.0  # of a wait by hand and watch
SOONER = "(To be done sooner the wait may be turned down; put it back after.)"


def proofs(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> Iterator[Proof]:
    """Wait and tries of each where the plan has them."""
    if WATER[0] in plan:
        by_sensor = survey.control.suction_by is SuctionBy.SENSOR
        takes = "Shut the cock of the suction sensor and open its vent until the pumps stop, then set both back" if by_sensor else "Open the suction switch's contact at its own float or setting until the pumps stop, then let it close"
        before = "In AUTO, a pump runs, an outlet open; signs say that it starts by itself."
        yield _wait(Check.WATER_WAIT, plan, WATER[0], "After lack of water the set waits before it begins again", before, (STARTING, DRY, INTERLOCK), f"{takes}; take the time from the stop to the next start.")
        yield _tries(Check.WATER_TRIES, plan, WATER, "The tries after lack of water end", before, (STARTING, DRY, INTERLOCK), f"{takes}, and do so again each time it has begun again. {SOONER}")
    if PRIME[0] in plan:
        in_hand = choices.schools.prime_by is PrimeBy.POWER
        before = f"Pump 1 in {'HAND' if in_hand else 'AUTO, an outlet open'}, the others in OFF; signs say that it starts by itself."
        takes = "Close its suction valve until it is given up"
        yield _wait(Check.PRIME_WAIT, plan, PRIME[0], "After a lost prime a pump waits before it tries again", before, (STARTING, DRY), f"{takes}, open and vent it; take the time until it starts.")
        yield _tries(Check.PRIME_TRIES, plan, PRIME, "The tries after a lost prime end", before, (STARTING, DRY), f"{takes} and leave it closed; vent it before it runs on. {SOONER}")


def _wait(check: Check, plan: Plan, wait_id: S, title: str, before: str, cautions: tuple[str, ...], action: str) -> Proof:
    wait_s = plan.value(wait_id, 0.0)
    return Proof(check, title, LIMITS, before, cautions, action, "It begins by itself after this time.", Answer.NUMBER, wait_s, max(LEAST_S, NEAR_SHARE * wait_s), Q.DURATION, proves=(wait_id,))


def _tries(check: Check, plan: Plan, ids: tuple[S, S, S], title: str, before: str, cautions: tuple[str, ...], action: str) -> Proof:
    _, count_id, long_id = ids
    long_s = plan.value(long_id, 0.0)
    ends = f"then it waits {long_s / 60.0:.0f} min and begins anew" if long_s else "then it stays out until somebody resets it"
    times = plan.value(count_id, 0.0)
    proves = (count_id, *((long_id,) if long_s else ()))
    return Proof(check, title, LIMITS, before, cautions, action, f"It begins again {times:.0f} times, {ends}.", Answer.YES_NO, proves=proves)


def shown(scenes: Scenes, proof: Proof) -> Shown | None:
    """The scene of such a proof and what to look at, by the times the plan wants; None where a load monitor is there first."""
    by_power = scenes.choices.schools.prime_by is PrimeBy.POWER
    if not by_power and proof.check not in (Check.WATER_WAIT, Check.WATER_TRIES) and motor_id(Guarding.UNDERLOAD, 1) in scenes.wanted:
        return None
    if proof.check == Check.NO_PRIME:
        return _given_up(scenes)
    return _of_water(scenes, proof) if proof.check in (Check.WATER_WAIT, Check.WATER_TRIES) else _of_a_pump(scenes, proof)


def _alone(scenes: Scenes) -> tuple[list[TimedAction], float]:
    """Pump 1 alone at mean flow: in HAND where its power tells of it, else in AUTO; and until a pressure without pumps is gone. [s]"""
    in_hand = scenes.choices.schools.prime_by is PrimeBy.POWER
    acts = [act(0.0, Act.OUTLETS, scenes.mean), act(0.0, Act.HAND_SPEED, 1.0), *([act(0.0, Act.SWITCH, HAND, "1")] if in_hand else [])]
    acts += [act(0.0, Act.SWITCH, OFF, str(pump)) for pump in range(2, scenes.survey.pumping.count + 1)]
    return acts, 0.0 if in_hand else 4.0 * scenes.store_s + BEYOND_S


def _given_up(scenes: Scenes) -> Shown:
    """Air comes into pump 1 at work: from then, or from where what tells of it begins, until it is given up."""
    acts, falls_s = _alone(scenes)
    wide = [act(CALM_S, Act.OUTLETS, 2.0)] if falls_s else []
    scene = scenes.scene("air in pump 1", CALM_S + falls_s + scenes.n.no_prime_delay + 30.0, *acts, act(CALM_S, PumpFault.AIR, 1.0, "1"), *wide)
    by, n = scenes.choices.schools.prime_by, scenes.n
    limit_pa = {PrimeBy.POWER: math.inf, PrimeBy.FLOW: n.calls_under_pa, PrimeBy.PRESSURE: scenes.wanted.value(S.NO_PRIME_PRESSURE, 0.0)}[by]
    full = n.most_speed - NEAR_FULL if by is PrimeBy.PRESSURE and scenes.survey.holds_constant else 0.0
    return scene, lambda run: looks.minus(looks.given_up_s(run, Trip.NO_PRIME), looks.falls_s(run, CALM_S, limit_pa, full))


def _planned(scenes: Scenes, ids: tuple[S, S, S]) -> tuple[float, int, float]:
    wait_s, count, long_s = (scenes.wanted.value(one, 0.0) for one in ids)
    return wait_s, round(count), long_s


def _of_water(scenes: Scenes, proof: Proof) -> Shown:
    """Water taken away once, or as often as it comes back and once more, each time until the set has stopped."""
    wait_s, count, long_s = _planned(scenes, WATER)
    delay_s, times = scenes.wanted.value(S.LOW_SUCTION_DELAY, 0.0), 1 if proof.check == Check.WATER_WAIT else count + 1
    acts, every_s = [act(1.0, Act.OUTLETS, scenes.mean)], delay_s + wait_s + RAN_S
    for number in range(times):
        gone_s = CALM_S + number * every_s
        acts += [*_gone(scenes, gone_s), *_back(scenes, gone_s + delay_s + GAVE_S)]
    until_s = CALM_S + (times - 1) * every_s + delay_s + max(wait_s, long_s if times > 1 else 0.0) * 1.2 + BEYOND_S
    scene = scenes.scene("water taken away and given back", until_s, *acts)

    def look(run: BoosterRun) -> float | bool | None:
        gone = [event.at_s for event in among(run.events, Thing.LIMIT, Doing.COMES, of=Stop.LOW_SUCTION)]
        back = [event.at_s for event in among(run.events, Thing.LIMIT, Doing.CLEARS, of=Stop.LOW_SUCTION)]
        return began_again(gone, back, count, long_s, proof.answer is Answer.NUMBER)

    return scene, look


def _gone(scenes: Scenes, at_s: float) -> tuple[TimedAction, ...]:
    """The supply run empty; on a suction lift with a sensor lost prime reads as nothing, so there the valve is shut instead."""
    stop_pa = scenes.wanted.value(S.LOW_SUCTION_STOP, 0.0)
    if scenes.survey.supply.kind is SupplyKind.SUCTION_LIFT and S.LOW_SUCTION_STOP in scenes.wanted:
        return (act(at_s, Act.SUCTION, max(SHUT_PA, stop_pa - 2e4)),)
    return (act(at_s, SetFault.DRY, 1.0),)


def _back(scenes: Scenes, at_s: float) -> tuple[TimedAction, ...]:
    hyd = scenes.hyd
    return act(at_s, SetFault.DRY, 0.0), act(at_s, Act.SUCTION, (hyd.source_pa(False) + hyd.source_pa(True)) / 2.0)


def _of_a_pump(scenes: Scenes, proof: Proof) -> Shown:
    """Pump 1 alone, full of air from the start: until it has tried once, or as often as it may."""
    wait_s, count, long_s = _planned(scenes, PRIME)
    delay_s = scenes.wanted.value(S.NO_PRIME_DELAY, 0.0)
    acts, falls_s = _alone(scenes)
    acts = [act(0.0, PumpFault.AIR, 1.0, "1"), *acts, *([act(1.0, Act.OUTLETS, 2.0)] if falls_s else [])]
    times = 1 if proof.check == Check.PRIME_WAIT else count
    until_s = falls_s + (times + 1) * delay_s + times * wait_s * 1.1 + max(wait_s, long_s) * 1.2 + BEYOND_S
    scene = scenes.scene("air in pump 1 from the start", until_s, *acts)

    def look(run: BoosterRun) -> float | bool | None:
        gone = [event.at_s for event in among(run.events, Thing.PUMP, Doing.GIVEN_UP, of=Trip.NO_PRIME)]
        begun = [event.at_s for event in among(run.events, Thing.PUMP, Doing.STARTS, after_s=gone[0] if gone else math.inf)]
        return began_again(gone, begun, count, long_s, proof.answer is Answer.NUMBER)

    return scene, look

