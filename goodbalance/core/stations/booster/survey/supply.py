"""Where the water of a booster set comes from, and what pressure it brings to the pumps."""

from enum import StrEnum

from goodbalance.core.balance.facts import Facts, choice, fact, yes_no
from goodbalance.core.balance.quantities import Quantity as Q


class SupplyKind(StrEnum):
    """Where the water comes from."""

    FLOODED = "flooded"
    TOWN_MAIN = "town_main"
    SUCTION_LIFT = "suction_lift"


_MAIN = (("supply.kind", ("town_main",)),)
_LEVELS = (("supply.kind", ("flooded", "suction_lift")),)
_LIFT = (("supply.kind", ("suction_lift",)),)


class Supply(Facts):
    """Where the water comes from."""

    kind: SupplyKind = choice(
        "Supply",
        SupplyKind,
        {
            "flooded": "Tank above the pumps",
            "town_main": "Town main",
            "suction_lift": "Suction lift, with a foot valve",
        },
        default=SupplyKind.FLOODED,
    )
    low_pa: float | None = fact(
        "Lowest pressure of the main", Q.PRESSURE, 0.0, 2e6, usual=(5e4, 6e5), only_if=_MAIN, hint="while others draw"
    )
    high_pa: float | None = fact("Highest pressure of the main", Q.PRESSURE, 0.0, 2e6, usual=(1e5, 9e5), only_if=_MAIN)
    main_floor_pa: float | None = fact(
        "Pressure that must stay in the main (water company)", Q.PRESSURE, 0.0, 1e6, default=None,
        only_if=_MAIN, hint="empty where nobody asks; local rules count",
    )  # fmt: skip
    pump_m: float | None = fact("Height of the pump suction", Q.LENGTH, -500.0, 5000.0, only_if=_LEVELS)
    water_low_m: float | None = fact("Lowest water level of the supply", Q.LENGTH, -500.0, 5000.0, only_if=_LEVELS)
    water_high_m: float | None = fact("Highest water level of the supply", Q.LENGTH, -500.0, 5000.0, only_if=_LEVELS)
    outlet_m: float | None = fact(
        "Height of the tank's outlet, or of the foot valve", Q.LENGTH, -500.0, 5000.0, default=None, only_if=_LEVELS,
        hint="its middle: water that stands just above it is sucked in with air",
    )  # fmt: skip
    outlet_diameter_m: float | None = fact(
        "Diameter of that opening", Q.SMALL_LENGTH, 0.01, 2.0, usual=(0.02, 0.5), default=None, only_if=_LEVELS
    )
    foot_valve: bool = yes_no("A foot valve holds the water when pumps rest", default=True, only_if=_LIFT)
    loss_pa: float = fact(
        "Lost on the suction side at design flow", Q.PRESSURE, 0.0, 2e5, default=3e3,
        hint="suction gauge at rest less the same at full draw",
    )  # fmt: skip
    temperature_c: float = fact("Warmest water", Q.TEMPERATURE, 1.0, 90.0, usual=(4.0, 30.0), default=15.0)
    altitude_m: float = fact("Height above the sea", Q.LENGTH, -430.0, 5000.0, default=0.0)
