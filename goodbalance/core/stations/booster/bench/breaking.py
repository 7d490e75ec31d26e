"""How what is broken reaches water and motors of a booster set on the bench."""

import math

from goodbalance.core.protection.monitor import SupplyWatch
from goodbalance.core.protection.names import SupplyFault
from goodbalance.core.protection.watch import WELL_FED, Fed
from goodbalance.core.stations.booster.controller.water_switch import Seeing
from goodbalance.core.stations.booster.names import PumpFault, SetFault
from goodbalance.core.stations.booster.plant.faults import BoosterFaults
from goodbalance.core.stations.booster.plant.zone import BoosterPlant
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey

BROKEN_PA = -1e6  # what the signal of a broken suction loop is taken for: no live zero stands for it
EMPTY_TANK_PA = -1e8  # under the lowest mark of any float
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


def suction_reads_pa(survey: BoosterSurvey, faults: BoosterFaults, inlet_pa: float) -> float:
    """What the suction sensor reads: it stops at the ends of its range, and without a wire far below them."""
    sensor = survey.suction_sensor
    low_pa = -math.inf if sensor.low_pa is None else sensor.low_pa
    if SetFault.SUCTION_WIRE in faults.parts:
        return BROKEN_PA
    return min(math.inf if sensor.high_pa is None else sensor.high_pa, max(low_pa, inlet_pa))


def told_of_water(water: Seeing | None, faults: BoosterFaults, inlet_pa: float, source_pa: float) -> tuple[bool, bool]:
    """What the switches of lack of water say: whether there is water, and whether it runs low. source_pa: of the tank, without losses."""
    if water is None:
        return True, False
    water.look(inlet_pa, EMPTY_TANK_PA if SetFault.DRY in faults.parts else source_pa)
    return water.says_water(SetFault.SUCTION_WIRE in faults.parts, SetFault.SUCTION_JUMPER in faults.parts), water.warns
