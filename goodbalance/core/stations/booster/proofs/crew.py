"""Proofs that no more pumps run at once than may, and that the standby comes; and how the bench shows them."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Proof
from goodbalance.core.rehearsal.proving import Scene
from goodbalance.core.stations.booster.bench import looks
from goodbalance.core.stations.booster.names import Act, Check
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.proofs.scenes import CALM_S, FLOOD, SET, STARTING, Scenes, Shown, act
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.shared.crew_proofs import crew_proofs, duty_off, most_at_once, stands_in

CHECKS = (Check.MOST_AT_ONCE, Check.STANDBY)
SUNK = 0.9  # of what is held: so low the pressure stands where all that may run give all they can


def proofs(survey: BoosterSurvey, plan: Plan) -> Iterator[Proof]:
    """Both, where pumps stand by."""
    soon = " Close again before the burst delay is over." if S.BURST_DELAY in plan else ""
    return crew_proofs(survey.pumping, CHECKS, SET, (STARTING, FLOOD), f"Open outlets slowly until the pressure sinks and stays under what is held.{soon}")


def shown(scenes: Scenes, proof: Proof) -> Shown:
    """The scene of one and what to look at."""
    pumping = scenes.survey.pumping
    if proof.check == Check.STANDBY:
        acts = (*duty_off(pumping, CALM_S, Act.SWITCH), act(1.0, Act.OUTLETS, scenes.mean))
        scene = scenes.scene("every duty pump to OFF", 2.0 * CALM_S + scenes.calls_s, *sorted(acts, key=lambda each: each.at_s))
        return scene, lambda run: stands_in(pumping, looks.running_at_end(run))
    return _every_call(scenes), lambda run: most_at_once(run.events) == pumping.duty_count


def _every_call(scenes: Scenes) -> Scene:
    """Outlets opened pump by pump until all that may run give all they can, the pressure a little under what is held."""
    hyd, duty = scenes.hyd, scenes.survey.pumping.duty_count
    held_pa = scenes.n.set_pressure if scenes.survey.holds_constant else scenes.lowest_call_pa
    sunk_pa, flow_m3s = SUNK * held_pa, 0.0
    for _ in range(4):  # what is lost before the pumps hangs on what they bring
        flow_m3s = 0.5 * flow_m3s + 0.5 * duty * hyd.flow_at(1.0, hyd.added_m(sunk_pa, scenes.supply_pa - hyd.suction_loss_pa(flow_m3s)))
    wide = scenes.opened(flow_m3s, sunk_pa)
    every_s = max(15.0, 1.5 * scenes.n.join_delay)
    acts = [act(1.0 + every_s * k, Act.OUTLETS, wide * (k + 1) / (duty + 1)) for k in range(duty + 1)]
    return scenes.scene("all that may run is called", 1.0 + every_s * (duty + 1) + 10.0, *acts)
