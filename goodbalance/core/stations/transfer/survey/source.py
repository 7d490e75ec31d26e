"""Where the water comes from: levels, what flows in, and the lowest level a pump may draw from."""

from enum import StrEnum

from goodbalance.core.balance.facts import Facts, choice, fact
from goodbalance.core.balance.quantities import Quantity as Q


class SourceKind(StrEnum):
    """What the pump draws from."""

    CISTERN = "cistern"
    BOREHOLE = "borehole"
    BREAK_TANK = "break_tank"
    WELL = "well"
    SUMP = "sump"


class Source(Facts):
    """A source. Heights are above the datum of the site."""

    kind: SourceKind = choice(
        "Source", SourceKind,
        {"cistern": "Cistern", "borehole": "Borehole", "break_tank": "Break tank", "well": "Dug well", "sump": "Sump"}, default=SourceKind.CISTERN,
    )  # fmt: skip
    low_m: float = fact("Lowest water level in honest work", Q.LENGTH, -1000.0, 5000.0, hint="drawn down, in a dry season")
    high_m: float = fact("Highest water level", Q.LENGTH, -1000.0, 5000.0)
    safe_m: float = fact("Lowest level the pump may draw from", Q.LENGTH, -1000.0, 5000.0, hint="its intake and the cover its maker asks; above the foot valve")
    area_m2: float | None = fact("Plan area of the water", Q.AREA, 0.005, 1e6, default=None, hint="of a borehole that of its casing; empty where the level does not move")
    inflow_m3s: float = fact("What flows in", Q.FLOW, 0.0, 10.0, default=0.0, hint="the yield of a borehole, the filling of a cistern")
    loss_m: float = fact("Lost on the suction side at full flow", Q.HEAD, 0.0, 20.0, default=0.2)


SECOND = (("pumping.own_source", ("yes",)),)
