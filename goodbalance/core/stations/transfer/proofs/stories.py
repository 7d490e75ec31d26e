"""What usually happens at a transfer set before somebody comes and looks, and what users and hands can do there then."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.rehearsal.proving import OFF, Scene
from goodbalance.core.rehearsal.troubles import Lever
from goodbalance.core.stations.shared.acts import switch_levers
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.transfer.bench.rehearse import TransferBench
from goodbalance.core.stations.transfer.controller.numbers import numbers_of
from goodbalance.core.stations.transfer.names import Act
from goodbalance.core.stations.transfer.proofs.scenes import Scenes, act
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey

DAY_S, WORKS_S = 86400.0, 300.0


def stories(survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> tuple[Scene, ...]:
    """A usual day, a tank that wants water, a set at rest, and much drawn."""
    of = Scenes(survey, choices, Held(plan, numbers_of(survey, choices, plan)), plan)
    longest_s = min(6.0 * 3600.0, 2.0 * of.delay_s + 3600.0)
    return (
        Scene("a tank wants water", of.full_m, (act(0.0, Act.LEVEL, of.low_m, "1"),), longest_s),
        Scene("a usual morning", of.full_m, (act(0.0, Act.PATTERN, 1.0),), 12.0 * 3600.0),
        of.full("nobody draws", 3600.0),
        Scene("much is drawn", of.full_m, (act(0.0, Act.DRAW, 3.0),), longest_s),
    )  # fmt: skip


def at_work(survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> Scene:
    """Pump 1 fills; the others are switched off, so that none steps in."""
    of = Scenes(survey, choices, Held(plan, numbers_of(survey, choices, plan)), plan)
    others = tuple(act(0.0, Act.SWITCH, OFF, str(pump)) for pump in range(2, survey.pumping.count + 1))
    pressed = (act(1.0, Act.START, 1.0),) if survey.control.by_pressure else ()
    low_m = max(survey.tank_1.outlet_m, 0.5 * of.low_m)
    return Scene("pump 1 at work", of.full_m, (*others, act(0.0, Act.LEVEL, low_m, "1"), *pressed), WORKS_S)


def levers(bench: TransferBench) -> tuple[Lever, ...]:
    """Draws, water in the source, a low tank, start, reset, switches."""
    survey = bench.survey
    found = [
        Lever("Much is drawn", (act(0.0, Act.DRAW, 3.0),)), Lever("Nobody draws", (act(0.0, Act.DRAW, 0.0),)),
        Lever("Start pressed", (act(0.0, Act.START, 1.0),)), Lever("Reset pressed", (act(0.0, Act.RESET, 0.0),)),
    ]  # fmt: skip
    found += [Lever(f"Source {number} stands high", (act(0.0, Act.SOURCE, source.high_m, str(number)),)) for number, source in enumerate(survey.sources, 1)]
    for number, tank in enumerate(survey.all_tanks, 1):
        low_m = max(tank.outlet_m, tank.reopens_m - tank.throttles_m - 0.05)
        found.append(Lever(f"Tank {number} is let down", (act(0.0, Act.LEVEL, low_m, str(number)),)))
    for pump in range(1, survey.pumping.count + 1):
        found += switch_levers(Act.SWITCH, pump, bench.logic.tripped[pump - 1] is not None)
    return tuple(found)
