"""A ring put on the bench on Monday at midnight: at one temperature throughout and at rest, by a plan or by what its device really holds."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.errors import OutOfRange
from goodbalance.core.stations.circulator.bench.happenings import Limits
from goodbalance.core.stations.circulator.bench.rehearse import RingBench
from goodbalance.core.stations.circulator.controller.logic import RingLogic
from goodbalance.core.stations.circulator.controller.numbers import Numbers, numbers_of
from goodbalance.core.stations.circulator.plant.equations import equations
from goodbalance.core.stations.circulator.plant.plant import RingPlant
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.windows.making import velocities
from goodbalance.core.stations.shared.faults import Faults

LOWEST_C, HIGHEST_C = 0.0, 95.0


def ring_bench(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan, start_c: float | None = None, numbers: Numbers | None = None) -> RingBench:
    """The ring of this plan on the bench, nothing running, all its water at one temperature (default: what goes out into it).

    numbers: as the device really holds them; by default as the plan wants them.
    """
    held, eq = numbers or numbers_of(survey, choices, plan), equations(survey)
    if start_c is not None and not LOWEST_C <= start_c <= HIGHEST_C:
        raise OutOfRange("start_c", start_c, f"{LOWEST_C:g} to {HIGHEST_C:g} degrees C")
    plant = RingPlant(eq, list(eq.kvs(held.by_mode())), eq.flow_c if start_c is None else start_c, eq.caps(held.by_mode()))
    plant.backflow = not survey.pump.check_valve
    rules = choices.rules
    limits = Limits(
        least_c=survey.use.hot_c if survey.crosses else rules.least_return_c, scald_c=rules.scald_c, cold_c=rules.cold_c, cold_s=rules.cold_s, rest_s=rules.longest_rest_s,
        velocities=tuple(velocities(choices).items()), margin_k=0.3,
    )  # fmt: skip
    return RingBench(plant, RingLogic(held), Faults(1, 0.0), limits)
