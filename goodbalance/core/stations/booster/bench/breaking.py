"""How what is broken reaches water and motors of a booster set on the bench."""

from goodbalance.core.protection.monitor import SupplyWatch
from goodbalance.core.protection.names import SupplyFault
from goodbalance.core.protection.watch import WELL_FED, Fed
from goodbalance.core.stations.booster.names import PumpFault, SetFault
from goodbalance.core.stations.booster.plant.faults import BoosterFaults
from goodbalance.core.stations.booster.plant.zone import BoosterPlant

BURST_SHARE = 1.5  # of what all duty pumps can give, through a burst pipe


def burst_share(plant: BoosterPlant, duty_count: int) -> float:
    """What flows out of a burst pipe, of the design flow."""
    hyd = plant.hydraulics
    return BURST_SHARE * max(1.0, hyd.most_m3s * duty_count / hyd.survey.demand.design_m3s)


def broken_to_plant(plant: BoosterPlant, faults: BoosterFaults, draws: bool, still: frozenset[int], wrong: bool, burst: float) -> None:
    """Let broken parts act on the water. draws: whether the supply has water; still: pumps that hum and do not turn; wrong: whether all turn the wrong way."""
    every = frozenset(range(len(plant.speeds)))
    plant.air_bound = faults.of(PumpFault.AIR) | (frozenset() if draws else every)
    plant.leaking = faults.of(PumpFault.CHECK_VALVE) if plant.hydraulics.survey.pumping.check_valves else every
    plant.backwards = every if wrong else faults.of(PumpFault.BACKWARDS)
    plant.shut = faults.of(PumpFault.SHUT) | faults.of(PumpFault.STALLED) | still
    plant.waterlogged = SetFault.WATERLOGGED in faults.parts
    plant.burst_share = burst if SetFault.BURST in faults.parts else 0.0


def fed_by(supply: SupplyWatch, faults: BoosterFaults, driven: bool) -> Fed:
    """What the motors run on; a drive makes its own voltage, and stops by itself without a phase."""
    if driven or supply.whole(faults.parts):
        return WELL_FED
    return Fed(SupplyFault.PHASE in faults.parts and supply.three, supply.share(faults.parts), supply.uneven(faults.parts))


def turns_wrong(supply: SupplyWatch, faults: BoosterFaults, driven: bool) -> bool:
    """Whether swapped phases turn the pumps the wrong way; a drive makes its own order."""
    return SupplyFault.SWAPPED in faults.parts and supply.three and not driven


def lets_run(supply: SupplyWatch, supplied: bool, faults: BoosterFaults, driven: bool) -> bool:
    """Whether the supply lets pumps run: as its monitor says; without one drives miss a phase by themselves, and motors on the line run on."""
    return supplied if supply.numbers.fitted else not (driven and SupplyFault.PHASE in faults.parts)
