"""Proof that each pump, the standby too, holds the set pressure by itself: one that is air-bound, shut, worn or wired the wrong way shows here."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.proving import HAND, OFF
from goodbalance.core.stations.booster.bench import looks
from goodbalance.core.stations.booster.names import Act, Check
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.proofs.scenes import Scenes, Shown, act
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey

GROUP = "Each pump by itself"
CAUTIONS = ("In HAND only the limits stop a pump: stay beside it and watch the gauge.", "The other pumps stand in OFF: somebody minds the pressure of the house meanwhile.")
STANDS_S = 30.0  # until a speed that is given holds its pressure
FLOW_SHARE, PRESSURE_SHARE = 0.6, 0.06  # of the end of its curve; by which a gauge at a throttled outlet may be off


def proofs(survey: BoosterSurvey, plan: Plan) -> Iterator[Proof]:
    """One for each pump, where drives turn them: at the speed that holds the set pressure."""
    worked = _at(survey, plan)
    if worked is None:
        return
    flow_m3s, speed = worked
    set_pa = plan.value(S.SET_PRESSURE, 0.0)
    for pump in range(1, survey.pumping.count + 1):
        yield Proof(
            Check.EACH_PUMP, f"Pump {pump} holds the pressure by itself", GROUP, "Every other pump in OFF; the supply at its lowest, or the difference added.", CAUTIONS,
            f"In HAND at {speed:.0%} of full speed open outlets for about {flow_m3s / survey.demand.design_m3s:.0%} of the design flow and read the gauge.",
            "The gauge shows the set pressure. Less: air, a valve half shut, the wrong rotation, wear, or a check valve of another pump that leaks.",
            Answer.NUMBER, set_pa, PRESSURE_SHARE * set_pa, Q.PRESSURE, of=str(pump),
        )  # fmt: skip


def _at(survey: BoosterSurvey, plan: Plan) -> tuple[float, float] | None:
    """Flow and speed at which one pump holds the set pressure from the lowest supply; None where it cannot, or no drive turns it."""
    hyd = hydraulics(survey)
    flow_m3s = min(survey.demand.mean_m3s, FLOW_SHARE * hyd.most_m3s)
    set_pa = plan.value(S.SET_PRESSURE, 0.0)
    if not survey.holds_constant or not set_pa:
        return None
    speed = hyd.speed(hyd.added_m(set_pa, hyd.suction_pa(flow_m3s)), flow_m3s, 1)
    return (flow_m3s, speed) if speed <= plan.value(S.MOST_SPEED, 1.0) else None


def shown(scenes: Scenes, proof: Proof) -> Shown | None:
    """The scene of one pump and what to look at: outlets opened so far that this flow passes at the set pressure."""
    worked = _at(scenes.survey, scenes.wanted)
    if worked is None:
        return None
    flow_m3s, speed = worked
    hyd, set_pa = scenes.hyd, scenes.wanted.value(S.SET_PRESSURE, 0.0)
    switches = tuple(TimedAction(0.0, Act.SWITCH, str(pump), HAND if str(pump) == proof.of else OFF) for pump in range(1, scenes.survey.pumping.count + 1))
    acts = (act(0.0, Act.HAND_SPEED, speed), act(0.0, Act.SUCTION, hyd.source_pa(False)), act(0.0, Act.OUTLETS, scenes.opened(flow_m3s, set_pa)))
    return scenes.scene(f"pump {proof.of} alone in HAND", STANDS_S, *acts, *switches), looks.pressure_at_end
