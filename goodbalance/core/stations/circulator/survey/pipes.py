"""The pipes of a ring: what both ends have in common, and each branch out to its farthest tap and back."""

from enum import StrEnum
from typing import Any

from goodbalance.core.balance.facts import Conditions, Facts, choice, fact, section, words
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.stations.circulator.names import MAX_BRANCHES

VALVE_ROWS = 6


class RingKind(StrEnum):
    """How the water comes back."""

    RETURN = "return"
    CROSSOVER = "crossover"
    HEATING = "heating"


class Material(StrEnum):
    """What its pipes are of."""

    COPPER = "copper"
    STEEL = "steel"
    STAINLESS = "stainless"
    PLASTIC = "plastic"


class ValveKind(StrEnum):
    """What makes the flow of a branch."""

    BALANCING = "balancing"
    THERMOSTATIC = "thermostatic"
    OPEN = "open"


class Emitter(StrEnum):
    """What gives the heat of a heating circuit away."""

    RADIATORS = "radiators"
    UNDERFLOOR = "underfloor"
    SINGLE_PIPE = "single_pipe"


WATER: Conditions = (("ring.kind", ("return", "crossover")),)
RETURNS: Conditions = (("ring.kind", ("return", "heating")),)
CROSSES: Conditions = (("ring.kind", ("crossover",)),)
HEATS: Conditions = (("ring.kind", ("heating",)),)


def _material() -> Any:
    labels = {"copper": "Copper", "stainless": "Stainless steel", "steel": "Steel", "plastic": "Plastic or composite"}
    return choice("Its pipes are of", Material, labels, default=Material.COPPER)


def _insulation_m() -> Any:
    return fact("Insulation around them", Q.SMALL_LENGTH, 0.0, 0.2, usual=(0.009, 0.06), default=0.02, hint="0: bare; a gap of a few elbows counts like metres of pipe")


def _around_c() -> Any:
    return fact("Air around them", Q.TEMPERATURE, -20.0, 60.0, usual=(5.0, 30.0), default=20.0)


def _loss_wmk() -> Any:
    hint = "W for each metre and kelvin, from the maker; empty: reckoned by layers"
    return fact("They lose", Q.RATIO, 0.01, 20.0, usual=(0.1, 2.0), default=None, hint=hint)


class Ring(Facts):
    """What kind of ring it is."""

    kind: RingKind = choice(
        "The water comes back", RingKind,
        {"return": "Hot water, by a return pipe", "crossover": "Hot water, through a crossover valve at the farthest tap and the cold pipe", "heating": "Heating: through radiators or floors"},
        default=RingKind.RETURN,
    )  # fmt: skip
    branches: int = fact("Branches", Q.COUNT, 1, MAX_BRANCHES, default=1, hint="circuits, for heating")
    insulation_wmk: float = fact("Insulation conducts", Q.RATIO, 0.01, 1.0, usual=(0.025, 0.05), default=0.035, doubt=0.15, hint="W for each metre and kelvin, from its label")


class Common(Facts):
    """The pipes that all branches have in common, from the heat to where they divide and from where they meet back to it."""

    there_m: float = fact("Length out, to where the branches divide", Q.LENGTH, 0.1, 500.0, usual=(0.5, 60.0))
    back_m: float = fact("Length back, from where they meet", Q.LENGTH, 0.1, 500.0, usual=(0.5, 60.0), only_if=RETURNS, default=1.0)
    bore_m: float = fact("Inner diameter out", Q.SMALL_LENGTH, 0.006, 0.3, usual=(0.013, 0.06))
    back_bore_m: float = fact("Inner diameter back", Q.SMALL_LENGTH, 0.006, 0.3, usual=(0.010, 0.05), only_if=RETURNS, default=0.016)
    material: Material = _material()
    insulation_m: float = _insulation_m()
    around_c: float = _around_c()
    loss_wmk: float | None = _loss_wmk()
    fittings_k: float = fact("Sum of fitting losses K", Q.RATIO, 0.0, 500.0, default=10.0, doubt=0.5)


class ValvePoint(Facts):
    """What a balancing valve lets through at a number of turns open."""

    turns: float | None = fact("Turns open", Q.RATIO, 0.05, 30.0, default=None)
    kv_m3s: float | None = fact("It lets through", Q.VALVE_FLOW, 1e-7, 1.0, default=None)


class Valves(Facts):
    """The balancing valves, which are alike."""

    turns: float = fact("Turns from shut to open", Q.RATIO, 0.25, 30.0, usual=(1.0, 10.0), default=4.0)
    kv_m3s: float = fact("Balancing valve lets through, open", Q.VALVE_FLOW, 1e-6, 1.0, usual=(1e-4, 3e-3), default=5e-4, hint="the maker's Kv, or Cv in US units")
    points: tuple[ValvePoint, ...] = section("From the maker's table", "Turns and what it lets through; empty: a straight line from shut to open.", rows=VALVE_ROWS, default=())
    thermostatic_m3s: float = fact("A thermostatic valve lets through, open", Q.VALVE_FLOW, 1e-6, 1.0, usual=(5e-5, 1e-3), default=2e-4)
    band_k: float = fact("It closes over the last", Q.RATIO, 0.5, 20.0, usual=(1.0, 8.0), default=4.0, hint="kelvin")


class BranchFacts(Facts):
    """One branch: out to its farthest tap, and back."""

    name: str = words("What people call it", max_length=40)
    there_m: float = fact("Length out, to its farthest tap or its heaters", Q.LENGTH, 0.2, 1000.0, usual=(2.0, 120.0))
    there_bore_m: float = fact("Inner diameter out", Q.SMALL_LENGTH, 0.004, 0.2, usual=(0.010, 0.05))
    back_m: float = fact("Length back", Q.LENGTH, 0.2, 1000.0, usual=(2.0, 120.0), hint="with a crossover valve: the cold pipe from that tap to the heat")
    back_bore_m: float = fact("Inner diameter back", Q.SMALL_LENGTH, 0.004, 0.2, usual=(0.008, 0.05))
    material: Material = _material()
    insulation_m: float = _insulation_m()
    back_insulation_m: float = fact("Insulation around the way back", Q.SMALL_LENGTH, 0.0, 0.2, default=0.013)
    around_c: float = _around_c()
    loss_wmk: float | None = _loss_wmk()
    fittings_k: float = fact("Sum of fitting losses K", Q.RATIO, 0.0, 500.0, default=12.0, doubt=0.5)
    valve: ValveKind = choice(
        "What makes its flow", ValveKind,
        {"balancing": "Balancing valve (set by turns; with a crossover valve by its flow)", "thermostatic": "Thermostatic valve (it closes when hot)", "open": "Open pipe (nothing is set)"},
        default=ValveKind.BALANCING,
    )  # fmt: skip
    closes_c: float = fact("A thermostatic valve is shut at", Q.TEMPERATURE, 10.0, 90.0, usual=(30.0, 65.0), default=57.0, only_if=((".valve", ("thermostatic",)),))
    tap_m: float = fact("From the ring to the tap itself", Q.LENGTH, 0.0, 50.0, usual=(0.1, 6.0), default=1.0, only_if=WATER)
    tap_bore_m: float = fact("Inner diameter of that", Q.SMALL_LENGTH, 0.004, 0.06, usual=(0.008, 0.02), default=0.012, only_if=WATER)
    tap_m3s: float = fact("Its tap gives", Q.LEAK, 1e-6, 0.005, usual=(3e-5, 3e-4), default=1e-4, only_if=WATER)
    load_w: float = fact("Heat it must give", Q.POWER, 10.0, 2e6, usual=(300.0, 1e5), default=3000.0, only_if=HEATS)
    drop_k: float = fact("The water may cool by", Q.RATIO, 1.0, 60.0, usual=(4.0, 25.0), default=15.0, only_if=HEATS, hint="kelvin, at that heat")
    emitter: Emitter = choice("It gives heat by", Emitter, {"radiators": "Radiators with valves of their own", "underfloor": "Pipes in floors or walls", "single_pipe": "Radiators on a single pipe"}, default=Emitter.RADIATORS, only_if=HEATS)
    room_c: float = fact("Its rooms are held at", Q.TEMPERATURE, 5.0, 35.0, default=20.0, only_if=HEATS)
    found_turns: float | None = fact("Its valve as found, turns open", Q.RATIO, 0.0, 30.0, default=None)
    found_c: float | None = fact("Its return as found", Q.TEMPERATURE, 0.0, 95.0, default=None, hint="a clip-on thermometer under tape, after an hour's run")
