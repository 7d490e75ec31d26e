"""The supply of any station on the bench: what can be broken of it, and what a meter shows."""

from collections.abc import Collection, Iterator

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.protection.monitor import SupplyWatch
from goodbalance.core.protection.names import SupplyFault
from goodbalance.core.protection.wording import SHORT, SUPPLY_FAULTS
from goodbalance.core.rehearsal.troubles import Sign, Trouble

NEAR_V, NEAR_SHARE = 3.0, 0.02  # two people with a voltmeter
PHASED = (SupplyFault.SWAPPED, SupplyFault.UNEVEN)  # only where there are three of them


def supply_troubles(place: str, supply: SupplyWatch) -> Iterator[Trouble]:
    """What can be wrong with the supply under the heading of that place."""
    for fault in SupplyFault:
        if supply.three or fault not in PHASED:
            yield Trouble(place, SHORT[fault], SUPPLY_FAULTS[fault][0], fault)


def supply_signs(place: str, supply: SupplyWatch, faults: Collection[str], power: bool) -> Iterator[Sign]:
    """What a voltmeter and a phase meter show at the incoming terminals."""
    each = [share * supply.plate_v for share in supply.phases(faults)] if power else [0.0]
    there = [volts for volts in each if volts > 0.0]
    yield Sign("phases", place, "Every phase of the supply is there, by meter", float(len(there) == len(supply.phases(faults))))
    yield Sign("volts_low", place, "Lowest voltage of the phases that are there", min(there, default=0.0), Q.VOLTAGE, NEAR_V, NEAR_SHARE)
    yield Sign("volts_high", place, "Highest voltage of the phases", max(each), Q.VOLTAGE, NEAR_V, NEAR_SHARE)
    if supply.three:
        yield Sign("order", place, "The phases are in their order, by phase meter", float(power and SupplyFault.SWAPPED not in faults))
