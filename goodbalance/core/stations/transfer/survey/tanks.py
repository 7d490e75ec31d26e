"""The tanks that are filled, each with its float valve, and what users draw."""

from enum import StrEnum

from goodbalance.core.balance.facts import Facts, choice, fact, words, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.stations.transfer.names import MAX_TANKS


class Inlet(StrEnum):
    """How water comes into a tank."""

    FLOAT_VALVE = "float_valve"
    OPEN = "open"


class Entry(StrEnum):
    """At which side it comes in."""

    TOP = "top"
    BOTTOM = "bottom"


def _valve(tank: int) -> tuple[tuple[str, tuple[str, ...]], ...]:
    return ((f"tank_{tank}.inlet", ("float_valve",)),)


class TankFacts(Facts):
    """One tank. Levels are above its floor, heights above the datum of the site."""

    name: str = words("What people call it", max_length=40)
    floor_m: float = fact("Height of its floor", Q.LENGTH, -500.0, 5000.0)
    area_m2: float = fact("Plan area", Q.AREA, 0.05, 20000.0, usual=(0.5, 1000.0))
    overflow_m: float = fact("Overflow level above its floor", Q.LEVEL, 0.1, 50.0, usual=(0.8, 8.0))
    outlet_m: float = fact("Level at which users get nothing more", Q.LEVEL, 0.0, 20.0, usual=(0.05, 0.5), default=0.15)
    entry: Entry = choice("Water comes in", Entry, {"top": "At the top, falling freely", "bottom": "At the bottom, under the water"}, default=Entry.TOP)
    entry_m: float = fact("Height of the inlet above its floor", Q.LEVEL, 0.0, 60.0, usual=(0.1, 8.0), hint="the highest point the water must reach")
    branch_m: float = fact("Length of its own branch", Q.LENGTH, 0.1, 20000.0, usual=(1.0, 2000.0), hint="from where the line divides")
    branch_diameter_m: float = fact("Inner diameter of the branch", Q.SMALL_LENGTH, 0.008, 2.0, usual=(0.015, 0.3))
    branch_k: float = fact("Sum of fitting losses K of the branch", Q.RATIO, 0.0, 500.0, default=5.0)
    inlet: Inlet = choice("Its inlet", Inlet, {"float_valve": "A float valve closes it", "open": "Is an open pipe"}, default=Inlet.FLOAT_VALVE)
    valve_m3s: float = fact("Size of the valve, fully open", Q.VALVE_FLOW, 1e-6, 10.0, usual=(1e-4, 0.5), default=2e-3, hint="the maker's Kv, or Cv in US units; of an open pipe the loss of its mouth")
    closes_m: float = fact("Level at which the valve is shut", Q.LEVEL, 0.05, 50.0, usual=(0.5, 8.0), default=2.0, hint="of an open pipe: does not count")
    throttles_m: float = fact("It throttles over the last", Q.LEVEL, 0.0, 5.0, usual=(0.0, 0.5), default=0.1, hint="0 for a valve that snaps shut")
    opens_drop_m: float = fact("It opens again when the level has fallen by", Q.LEVEL, 0.0, 20.0, usual=(0.0, 2.0), default=0.3, hint="0 for a valve that dribbles at once")
    closing_s: float = fact("It takes at least so long to close", Q.TIME, 0.0, 600.0, usual=(0.0, 60.0), default=5.0, hint="a pilot valve its own time; a ball float follows the water")
    reserve_m3: float = fact("Water kept in it for fire or other need", Q.VOLUME, 0.0, 20000.0, default=0.0)
    mean_m3s: float = fact("Mean draw", Q.FLOW, 0.0, 5.0, usual=(1e-6, 0.5))
    peak_m3s: float = fact("Largest draw", Q.FLOW, 0.0, 10.0, usual=(1e-5, 1.0))

    @property
    def inlet_m(self) -> float:
        """The highest point that water must reach, above the datum."""
        return self.floor_m + self.entry_m

    @property
    def has_valve(self) -> bool:
        """Whether a float valve closes it."""
        return self.inlet is Inlet.FLOAT_VALVE

    @property
    def reopens_m(self) -> float:
        """The level at which its valve passes water again: at once for one that dribbles."""
        return max(self.outlet_m, self.closes_m - self.opens_drop_m)

    def volume_m3(self, low_m: float, high_m: float) -> float:
        """Between two of its levels; nothing where the second is not above the first."""
        return self.area_m2 * max(0.0, high_m - low_m)


class Tanks(Facts):
    """How many there are, and what is wanted of them."""

    count: int = fact("Tanks on this line", Q.COUNT, 1, MAX_TANKS, default=1)
    outage_s: float = fact("Longest time without refill that users must be served", Q.DURATION, 0.0, 30 * 86400.0, usual=(3600.0, 3 * 86400.0), default=4 * 3600.0, hint="until a pump is mended or the source is back")
    drinking: bool = yes_no("It is drinking water", default=True, hint="then it must not grow old in the tank")
    peak_lasts_s: float = fact("The largest draw lasts", Q.DURATION, 60.0, 86400.0, usual=(900.0, 6 * 3600.0), default=2 * 3600.0)
    lost_m3: float = fact("Water that may be lost before the set locks out", Q.VOLUME, 0.05, 10000.0, usual=(0.5, 200.0), default=5.0, hint="over an overflow, or out of a broken pipe")
    response_s: float = fact("Crew's response time after an alarm", Q.DURATION, 0.0, 172800.0, usual=(300.0, 28800.0), default=3600.0)
