"""Proofs of a booster set's electric supply: a missing phase, what follows a power cut, and the dials of its monitor; and how the bench shows them."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.protection import proofs as protection
from goodbalance.core.protection.monitor import supply_of
from goodbalance.core.protection.names import Restart, SupplyFault, Watching
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.proving import HAND, OFF, Look, Scene
from goodbalance.core.stations.booster.bench import looks
from goodbalance.core.stations.booster.bench.looks import BoosterRun
from goodbalance.core.stations.booster.bench.rehearse import BoosterBench
from goodbalance.core.stations.booster.names import Act, Alarm, Check
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.motors import duties
from goodbalance.core.stations.booster.proofs.scenes import CALM_S, LIMITS, SHOCK, STARTING, Scenes, act
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.shared.supply_scenes import supply_shown

STARTED_S = 10.0  # by then a pump in HAND runs
LEAST_S, NEAR_SHARE = 1.5, 0.2  # of a short time by watch
CHECKS = (Check.PHASE, Check.POWER_RETURN, Check.POWER_DELAY, Check.START_GAP, Check.SUPPLY, Check.SWAPPED)


def proofs(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> Iterator[Proof]:
    """What the set does when its supply fails and comes back."""
    monitored, by_hand = survey.control.phase_monitor, choices.protection.power_return is Restart.BY_HAND
    if monitored:
        yield Proof(
            Check.PHASE, "A missing phase stops the set", LIMITS, "In AUTO, a pump runs; a licensed person.", (SHOCK,),
            "Take out one fuse of the monitor's supply.", "Every pump stops and an alarm comes.", Answer.YES_NO,
        )  # fmt: skip
    action, seen = protection.returns(by_hand)
    title = "After a power failure it waits for a reset" if by_hand else "After a power failure it goes on"
    yield Proof(Check.POWER_RETURN, title, LIMITS, "In AUTO, mean flow.", (STARTING,), action, f"{seen} It holds its pressure again.", Answer.YES_NO, decided=choices.protection.power_return.value)
    yield from _timed(plan)
    if monitored:
        yield from protection.supply_proofs(Check.SUPPLY, Check.SWAPPED, plan, supply_of(duties(survey)).three, 0.0)


def _timed(plan: Plan) -> Iterator[Proof]:
    """When the first pump comes back, and the next."""
    before = "In AUTO, outlets wide open, so that the pressure has fallen when the supply comes back."
    for check, setting_id, title, action, seen in (
        (Check.POWER_DELAY, S.POWER_DELAY, "After a power failure it waits for its delay", "Switch the supply off and on; take the time from on to the first start.", "The first pump starts after this, none sooner."),
        (Check.START_GAP, S.START_GAP, "Pumps come back one after the other", "Switch the supply off and on; take the time from the first start to the second.", "The second starts after this, and no two together."),
    ):  # fmt: skip
        if setting_id in plan:
            time_s = plan.value(setting_id, 0.0)
            yield Proof(check, title, LIMITS, before, (STARTING, SHOCK), action, seen, Answer.NUMBER, time_s, max(LEAST_S, NEAR_SHARE * time_s), Q.TIME, proves=(setting_id,))


def shown(scenes: Scenes, proof: Proof) -> tuple[Scene, Look[BoosterBench]]:
    """The scene of such a proof and what to look at."""
    if proof.check == Check.PHASE:
        scene = scenes.scene("a phase is lost", CALM_S + 10.0, act(1.0, Act.OUTLETS, scenes.mean), act(CALM_S, SupplyFault.PHASE, 1.0))
        return scene, lambda run: not looks.running_at_end(run) and looks.alarm_s(run, Alarm.PHASE) is not None
    if proof.check in (Check.POWER_DELAY, Check.START_GAP):
        return _comes_back(scenes, proof)
    return _power_return(scenes) if proof.check == Check.POWER_RETURN else _monitor(scenes, proof)


def _comes_back(scenes: Scenes, proof: Proof) -> tuple[Scene, Look[BoosterBench]]:
    """The supply away until the pressure is gone, every outlet open."""
    back_s = scenes.drains_s
    waits_s = scenes.wanted.value(S.POWER_DELAY, 0.0) + scenes.wanted.value(Watching.BACK, 0.0) + 2.0 * proof.expected
    scene = scenes.scene("supply back with the pressure low", back_s + waits_s + STARTED_S, act(0.0, Act.POWER, 0.0), act(0.0, Act.OUTLETS, 2.0), act(back_s, Act.POWER, 1.0))

    def look(run: BoosterRun) -> float | None:
        starts = [event.at_s for event in among(run.events, Thing.PUMP, Doing.STARTS, after_s=back_s - 1.0)]
        if proof.check == Check.POWER_DELAY:
            return starts[0] - back_s if starts else None
        return starts[1] - starts[0] if len(starts) > 1 else None

    return scene, look


def _power_return(scenes: Scenes) -> tuple[Scene, Look[BoosterBench]]:
    by_hand = scenes.choices.protection.power_return is Restart.BY_HAND
    back_s = CALM_S + 20.0
    reset_s = back_s + scenes.wanted.value(Watching.BACK, 0.0) + CALM_S
    acts = [act(1.0, Act.OUTLETS, scenes.mean), act(CALM_S, Act.POWER, 0.0), act(back_s, Act.POWER, 1.0), *([act(reset_s, Act.RESET, 1.0)] if by_hand else [])]
    held_pa = scenes.n.restart if scenes.survey.holds_constant else scenes.lowest_call_pa - 2e4
    fills_s = min(scenes.n.fill_timeout, 1200.0) if scenes.n.slow_fill else 0.0

    def look(run: BoosterRun) -> bool:
        begins = next(among(run.events, Thing.PUMP, Doing.STARTS, after_s=back_s - 1.0), None)
        runs = bool(looks.running_at_end(run)) or not scenes.survey.holds_constant  # it may be between two starts just then
        waited = begins is not None and (begins.at_s >= reset_s) is by_hand
        return waited and runs and (looks.pressure_at_end(run) or 0.0) >= held_pa

    return scenes.scene("power lost and back", reset_s + CALM_S + scenes.calls_s + fills_s, *acts), look


def _monitor(scenes: Scenes, proof: Proof) -> tuple[Scene, Look[BoosterBench]]:
    """The scene of a proof of the supply's monitor: pump 1 in HAND, at mean flow."""
    hands = [act(0.0, Act.SWITCH, OFF if n else HAND, str(n + 1)) for n in range(scenes.survey.pumping.count)]
    still = (act(0.0, Act.OUTLETS, scenes.mean), act(0.0, Act.HAND_SPEED, 1.0), *hands)

    def scene(name: str, until_s: float, acts: tuple[TimedAction, ...]) -> Scene:
        return scenes.scene(name, until_s, *still, *acts)

    return supply_shown(proof, scenes.wanted, supply_of(duties(scenes.survey)).plate_v, scene, STARTED_S)
