"""A transfer set put on the bench: at rest and full, by a plan or by what its devices really hold."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.control.rotation import Rotation
from goodbalance.core.errors import OutOfRange
from goodbalance.core.stations.transfer.bench.rehearse import TransferBench
from goodbalance.core.stations.transfer.controller.logic import TransferLogic
from goodbalance.core.stations.transfer.controller.numbers import Numbers, numbers_of
from goodbalance.core.stations.transfer.names import Level
from goodbalance.core.stations.transfer.plant.faults import TransferFaults
from goodbalance.core.stations.transfer.plant.hydraulics import hydraulics
from goodbalance.core.stations.transfer.plant.plant import TransferPlant
from goodbalance.core.stations.transfer.plant.valves import Valve
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey

DRIFT_PAS = 200.0  # by which a drifting sensor reads less each second


def transfer_bench(
    survey: TransferSurvey, choices: TransferChoices, plan: Plan, level_m: float | None = None, numbers: Numbers | None = None
) -> TransferBench:
    """The set of this plan on the bench, no pump running: tank 1 at a level (default: full), the others full; the line at rest.

    numbers: as the devices really hold them; by default as the plan wants them.
    """
    held = numbers or numbers_of(survey, choices, plan)
    hyd, pumping = hydraulics(survey), survey.pumping
    levels = [min(plan.value(Level.STOP.of(number), tank.closes_m), tank.overflow_m) for number, tank in enumerate(survey.all_tanks, 1)]
    top_m = survey.tank_1.overflow_m
    if level_m is not None:
        if not 0.0 <= level_m <= top_m:
            raise OutOfRange("level_m", level_m, f"0 to {top_m:g} m, where tank 1 overflows")
        levels[0] = level_m
    valves = []
    for branch, level in zip(hyd.branches, levels):
        facts = branch.tank
        shut = facts.has_valve and survey.control.by_pressure and level > facts.closes_m - facts.opens_drop_m
        valve = Valve(facts, 0.0, 0.0 if shut else 1.0)
        valve.put(level)
        valves.append(valve)
    sources = [(source.low_m + source.high_m) / 2.0 for source in survey.sources]
    closed = all(valve.opening <= 0.0 for valve in valves)
    open_pa = min((hyd.column_pa(branch.lift_m(level)) for branch, level, valve in zip(hyd.branches, levels, valves) if valve.opening > 0.0), default=0.0)
    at_rest_pa = min(held.stop_pressure, hyd.shut_off_pa(True)) if closed else max(0.0, open_pa)
    plant = TransferPlant(hyd, levels, sources, at_rest_pa, valves)
    rotation = Rotation(pumping.count, held.alternation, held.clock_period_s, held.standby.count, all_turn=held.standby.turns)
    logic = TransferLogic(held, rotation, tuple(pump.source for pump in hyd.pumps))
    return TransferBench(plant, logic, TransferFaults(pumping.count, DRIFT_PAS, tank_count=survey.tanks.count))
