"""The level sensor of a lift station: where it sits, what its signal stands for, what it does without an echo."""

from enum import StrEnum

from goodbalance.core.balance.facts import Facts, choice, fact
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.stations.shared.facts import LoopBudget, least_loop_v, loop_ohm, loop_supply_v, second_input_ohm

WATER_KGM3 = 1000.0  # where no survey says otherwise


class SensorKind(StrEnum):
    """Where the level sensor is: in the water, or above it looking down."""

    SUBMERGED = "submerged"
    LOOK_DOWN = "look_down"


class RangeGivenAs(StrEnum):
    """How the range stands on its nameplate."""

    DEPTH = "depth"
    PRESSURE = "pressure"


class Span(StrEnum):
    """What the output of a look-down sensor spans: all that it measures, or what is set in it."""

    WHOLE = "whole"
    LEVELS = "levels"
    DISTANCES = "distances"


class LostEcho(StrEnum):
    """What a look-down sensor does when no echo comes back."""

    FAIL = "fail"
    HOLD = "hold"


class Signal(StrEnum):
    """The signal of a level sensor."""

    MA_4_20 = "4_20_ma"
    MA_0_20 = "0_20_ma"
    V_0_10 = "0_10_v"


_LOOKS_DOWN = (("sensor.kind", ("look_down",)),)
_SPANNED = (*_LOOKS_DOWN, ("sensor.span", ("levels", "distances")))


class LevelSensor(Facts):
    """What reads the level and where it sits."""

    kind: SensorKind = choice(
        "Kind",
        SensorKind,
        {"submerged": "Submerged pressure sensor", "look_down": "Look-down sensor (sound or radar)"},
        default=SensorKind.SUBMERGED,
    )
    signal: Signal = choice(
        "Signal", Signal, {"4_20_ma": "4-20 mA", "0_20_ma": "0-20 mA", "0_10_v": "0-10 V"}, default=Signal.MA_4_20
    )
    mounting_m: float | None = fact(
        "Sensing face above floor", Q.LEVEL, 0.0, 30.0, usual=(0.02, 1.5), only_if=(("sensor.kind", ("submerged",)),), typical=0.10, doubt=0.5
    )
    range_given_as: RangeGivenAs = choice(
        "Range on the label as",
        RangeGivenAs,
        {"depth": "Depth of water", "pressure": "Pressure"},
        default=RangeGivenAs.DEPTH,
        only_if=(("sensor.kind", ("submerged",)),),
    )
    range_m: float | None = fact(
        "Range, depth",
        Q.LEVEL,
        0.2,
        100.0,
        usual=(1.0, 20.0),
        only_if=(("sensor.kind", ("submerged",)), ("sensor.range_given_as", ("depth",))),
    )
    range_pa: float | None = fact(
        "Range, pressure",
        Q.PRESSURE,
        2e3,
        1e6,
        usual=(1e4, 2e5),
        only_if=(("sensor.kind", ("submerged",)), ("sensor.range_given_as", ("pressure",))),
    )
    face_m: float | None = fact(
        "Sensor face above floor", Q.LEVEL, 0.3, 60.0, usual=(1.5, 15.0), only_if=(("sensor.kind", ("look_down",)),)
    )
    blanking_m: float | None = fact(
        "Blanking distance",
        Q.LEVEL,
        0.0,
        5.0,
        usual=(0.1, 0.6),
        only_if=(("sensor.kind", ("look_down",)),),
        hint="nothing closer to the face is seen",
    )
    far_m: float | None = fact(
        "Farthest distance measured", Q.LEVEL, 0.3, 60.0, usual=(1.5, 15.0), only_if=(("sensor.kind", ("look_down",)),)
    )
    span: Span = choice(
        "Its output spans",
        Span,
        {
            "whole": "all it measures, from its farthest point up to its face",
            "levels": "from one level to another, as set in it",
            "distances": "from one distance to another, as set in it",
        },
        default=Span.WHOLE,
        only_if=_LOOKS_DOWN,
    )
    zero_m: float | None = fact(
        "Empty signal stands for", Q.LEVEL, 0.0, 60.0, only_if=_SPANNED, hint="a level above the floor, or a distance from the face"
    )
    full_m: float | None = fact(
        "Full signal stands for", Q.LEVEL, 0.0, 60.0, only_if=_SPANNED, hint="a level above the floor, or a distance from the face"
    )
    lost_echo: LostEcho = choice(
        "Without an echo",
        LostEcho,
        {"fail": "it gives a failure signal (default: somebody is told)", "hold": "it holds its last reading (foam that passes is ridden out)"},
        default=LostEcho.FAIL,
        only_if=_LOOKS_DOWN,
    )
    lost_echo_s: float = fact("It waits for an echo", Q.TIME, 0.0, 600.0, usual=(1.0, 120.0), default=10.0, only_if=_LOOKS_DOWN)
    offset_m: float = fact(
        "Field offset, added to its reading", Q.LEVEL, -2.0, 2.0, usual=(-0.2, 0.2), default=0.0,
        hint="by the level stick on the scaling bench; 0 where its drawing is right",
    )  # fmt: skip
    density_kgm3: float = fact("Density of the liquid", Q.DENSITY, 600.0, 1800.0, usual=(980.0, 1060.0), default=WATER_KGM3)
    noise_m: float = fact(
        "Wobble of the reading",
        Q.LEVEL,
        0.0,
        1.0,
        usual=(0.0, 0.1),
        default=0.01,
        hint="half the spread of the display with still inflow",
    )
    counts: int = fact("Counts of the controller's input", Q.COUNT, 100, 16_777_216, default=4000)
    loop_supply_v: float | None = loop_supply_v()
    loop_ohm: float | None = loop_ohm()
    second_input_ohm: float | None = second_input_ohm()
    least_loop_v: float | None = least_loop_v()

    @property
    def budget(self) -> LoopBudget:
        """What its loop has and needs."""
        return LoopBudget(self.loop_supply_v, self.loop_ohm, self.second_input_ohm, self.least_loop_v)

    @property
    def spanned_m(self) -> tuple[float, float] | None:
        """The levels of empty and full signal, where they are set in a look-down sensor; None where it spans all it measures."""
        return spanned_m(self.kind, self.span, self.face_m, self.zero_m, self.full_m)


def spanned_m(kind: str, span: str, face_m: float | None, zero_m: float | None, full_m: float | None) -> tuple[float, float] | None:
    """The levels of empty and full signal of a look-down sensor, whether given as levels or as distances from its face."""
    if kind != SensorKind.LOOK_DOWN or span not in (Span.LEVELS, Span.DISTANCES) or zero_m is None or full_m is None:
        return None
    if span == Span.LEVELS:
        return zero_m, full_m
    return None if face_m is None else (face_m - zero_m, face_m - full_m)
