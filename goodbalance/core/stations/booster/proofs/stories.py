"""What usually happens at a booster set before somebody comes and looks, and what users and hands can do there then."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.proving import OFF, Scene
from goodbalance.core.rehearsal.troubles import Lever
from goodbalance.core.stations.booster.bench.rehearse import BoosterBench
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.names import Act
from goodbalance.core.stations.booster.proofs.scenes import Scenes, act
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.shared.acts import switch_levers
from goodbalance.core.stations.shared.held import Held

LASTS_S, RESTS_S = 150.0, 240.0


def stories(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> tuple[Scene, ...]:
    """Taps closed after a mean flow, one tap open, the design flow, and a set at rest."""
    of = Scenes(survey, choices, Held(plan, numbers_of(survey, choices, plan)), plan)
    rests_s = min(900.0, RESTS_S + of.wait_s)
    return (
        of.asked("a mean flow, then every tap closed", rests_s, act(1.0, Act.OUTLETS, of.mean), act(0.5 * rests_s, Act.OUTLETS, 0.0)),
        of.asked("one tap open", LASTS_S, act(1.0, Act.OUTLETS, of.tap)),
        of.asked("the design flow", LASTS_S, act(1.0, Act.OUTLETS, 1.0)),
        of.asked("nobody draws", LASTS_S),
    )  # fmt: skip


def at_work(survey: BoosterSurvey, choices: BoosterChoices, plan: Plan) -> Scene:
    """Pump 1 runs at the mean flow; the others are switched off, so that none steps in."""
    of = Scenes(survey, choices, Held(plan, numbers_of(survey, choices, plan)), plan)
    others = tuple(TimedAction(0.0, Act.SWITCH, str(pump), OFF) for pump in range(2, survey.pumping.count + 1))
    share = min(of.mean, 0.6 * of.hyd.most_m3s / survey.demand.design_m3s)
    return of.asked("pump 1 at work", LASTS_S, *others, act(1.0, Act.OUTLETS, share))


def levers(bench: BoosterBench) -> tuple[Lever, ...]:
    """Taps, water in the supply, switches, the reset."""
    hyd = bench.hyd
    found = [
        Lever("Water is drawn: every outlet open", (act(0.0, Act.OUTLETS, 1.0),)),
        Lever("Nobody draws: every outlet closed", (act(0.0, Act.OUTLETS, 0.0),)),
        Lever("The supply at its highest pressure", (act(0.0, Act.SUCTION, hyd.source_pa(True)),)),
        Lever("Reset pressed", (act(0.0, Act.RESET, 0.0),)),
    ]
    for pump in range(1, len(bench.plant.speeds) + 1):
        found += switch_levers(Act.SWITCH, pump, bench.logic.tripped[pump - 1] is not None)
    return tuple(found)
