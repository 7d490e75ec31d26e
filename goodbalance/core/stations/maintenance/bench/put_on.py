"""A maintenance pump put on the bench: line at its stop pressure and at rest, by a plan or by what its device really holds."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.errors import OutOfRange
from goodbalance.core.stations.maintenance.bench.rehearse import MaintenanceBench
from goodbalance.core.stations.maintenance.controller.logic import MaintenanceLogic
from goodbalance.core.stations.maintenance.controller.numbers import Numbers, numbers_of
from goodbalance.core.stations.maintenance.plant.hydraulics import hydraulics
from goodbalance.core.stations.maintenance.plant.plant import MaintenancePlant
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.shared.faults import Faults

DRIFT_PAS = 200.0  # by which a drifting sensor reads less each second


def maintenance_bench(
    survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan, pressure_pa: float | None = None, numbers: Numbers | None = None
) -> MaintenanceBench:
    """The line of this plan on the bench, nothing running: at a pressure (default: the stop), the supply in its middle.

    numbers: as the device really holds them; by default as the plan wants them.
    """
    held, hyd = numbers or numbers_of(survey, choices, plan), hydraulics(survey)
    top_pa = hyd.shut_off_pa(True)
    if pressure_pa is not None and not 0.0 <= pressure_pa <= top_pa:
        raise OutOfRange("pressure_pa", pressure_pa, f"0 to {top_pa:.0f} Pa, where the pump shuts off")
    supply_pa = 0.5 * (hyd.supply_pa(False) + hyd.supply_pa(True))
    at_pa = min(held.stop_pressure, hyd.shut_off_pa(False)) if pressure_pa is None else pressure_pa
    plant = MaintenancePlant(hyd, max(at_pa, supply_pa), supply_pa, held.mains_pa)
    return MaintenanceBench(plant, MaintenanceLogic(held), Faults(1, DRIFT_PAS))
