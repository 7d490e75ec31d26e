"""Where the heat comes from, and the valve that mixes it down."""

from enum import StrEnum

from goodbalance.core.balance.facts import Facts, choice, fact, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.stations.circulator.survey.pipes import HEATS, WATER

_STORED = (("heat.kind", ("stored", "low_temperature")),)
_INSTANT = (("heat.kind", ("instantaneous",)),)
_LOW = (("heat.kind", ("low_temperature",)),)
_MIXED = (("heat.mixing", ("yes",)),)


class HeatKind(StrEnum):
    """What makes the water hot."""

    STORED = "stored"
    INSTANTANEOUS = "instantaneous"
    LOW_TEMPERATURE = "low_temperature"


class HeatFacts(Facts):
    """The source of heat."""

    kind: HeatKind = choice(
        "It is", HeatKind,
        {"stored": "A store, or a boiler that holds its temperature", "instantaneous": "Instantaneous: it heats only what flows", "low_temperature": "A low-temperature source, which wants a cool return"},
        default=HeatKind.STORED,
    )  # fmt: skip
    set_c: float = fact("It holds", Q.TEMPERATURE, 20.0, 90.0, usual=(35.0, 70.0), default=60.0)
    watts: float = fact("It can give", Q.POWER, 50.0, 5e6, usual=(1000.0, 2e5))
    volume_m3: float = fact("Water in its store", Q.VOLUME, 0.005, 100.0, usual=(0.05, 3.0), default=0.3, only_if=_STORED)
    least_m3s: float = fact("Least flow that keeps it lit", Q.LEAK, 1e-6, 0.01, usual=(2e-5, 2e-4), default=4e-5, only_if=_INSTANT)
    highest_return_c: float = fact("Highest return it may see", Q.TEMPERATURE, 15.0, 80.0, usual=(25.0, 60.0), default=50.0, only_if=_LOW, hint="above it, it stops or wastes its gain")
    hours_day_s: float = fact("It may serve the ring in a day for", Q.HOURS, 0.0, 86400.0, default=86400.0, only_if=_LOW, hint="24: all day; its maker says")
    kv_m3s: float = fact("What it lets through", Q.VALVE_FLOW, 1e-6, 1.0, usual=(2e-4, 1e-2), default=2e-3, hint="the maker's Kv of its coil, heater or boiler")
    mixing: bool = yes_no("A mixing valve stands behind it", default=False)
    mixed_c: float = fact("It mixes to", Q.TEMPERATURE, 20.0, 80.0, usual=(35.0, 62.0), default=58.0, only_if=_MIXED)
    to_cold: bool = yes_no("The return goes to its cold port too", default=True, only_if=_MIXED, hint="if not, its temperature creeps up while nobody draws: somebody is scalded")
    boiler_least_m3s: float = fact("Least flow of the boiler", Q.LEAK, 0.0, 0.05, default=0.0, only_if=HEATS)
    bypass: bool = yes_no("A bypass keeps that flow when the circuits shut", default=False, only_if=HEATS)
    cold_c: float = fact("Cold water comes at", Q.TEMPERATURE, 1.0, 35.0, usual=(5.0, 20.0), default=12.0, only_if=WATER)

    @property
    def flow_c(self) -> float:
        """What goes out into the ring."""
        return min(self.set_c, self.mixed_c) if self.mixing else self.set_c
