"""A motor on the bench with what protects it: how warm its overload and its winding are, and when one of its guards trips."""

import math
from dataclasses import dataclass, field
from enum import StrEnum

from goodbalance.core.control.retries import Retries
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.casing import HEAT_JM3K
from goodbalance.core.protection.currents import CurrentModel
from goodbalance.core.protection.names import UnderloadBy
from goodbalance.core.protection.numbers import MotorNumbers
from goodbalance.core.protection.plate import Plate
from goodbalance.core.protection.thermal import BURNS_AT, time_constant_s, trips_in_s, uneven_heat, warmed

HOT_AT = 1.2  # of the heat of full load, at which contacts in a winding open: before its insulation gives in
BOILS_C, CASING_S = 100.0, 3600.0  # at the casing; time constant of a casing at rest
DIALLED_UP = 1.8  # of where its overload should be
WINDING_S = 1200.0  # time constant of a winding: that of a small water-cooled motor, and it stands for all
PER_VOLTAGE = 6.0  # by so much more than the voltages the currents of a running motor are uneven (NEMA MG 1: 6 to 10 times)
ON_TWO = math.sqrt(3.0)  # times the current in the phases that are left


class Trouble(StrEnum):
    """What a motor may suffer on the bench."""

    NONE = "none"
    HEAVY = "heavy"  # rag or bearing: more load than its water asks
    STALLED = "stalled"  # the rotor stands under voltage
    TWO_PHASES = "two_phases"


@dataclass(frozen=True, slots=True)
class Fed:
    """What motors are fed with: on two phases of three, at a share of the plate's voltage, with so uneven phases (a share of the mean)."""

    two: bool = False
    voltage: float = 1.0
    uneven: float = 0.0

    @property
    def whole(self) -> bool:
        """Whether the supply is as the plate wants it."""
        return not self.two and self.voltage == 1.0 and self.uneven == 0.0


WELL_FED = Fed()
HEAVY_SHARE = 1.5  # of its load, with a rag in the impeller


@dataclass(slots=True)
class Watch:
    """One motor. What it took since the last look decides how warm it is now; what it takes now counts from now on."""

    plate: Plate
    model: CurrentModel
    numbers: MotorNumbers
    now_s: float = 0.0
    current_a: float = 0.0
    input_w: float = 0.0
    heat: float = 0.0  # of its overload: 1 where it trips
    winding: float = 0.0  # of its winding: 1 where it may be for good
    low_since_s: float | None = None
    water_c: float = 25.0
    casing_jk: float = 0.01 * HEAT_JM3K  # by which its water warms one kelvin
    casing_c: float = 25.0  # of the water in its casing
    stopped_c: float | None = None  # at which it was stopped by that last
    still: bool = False  # it turns, and that water does not move
    open: bool = False  # the circuit of the contacts in its winding has a wire off
    dialled_up: bool = False  # somebody turned its overload far up
    dialled: bool = False  # somebody turned its overload under the running current
    lasting_a: float = 0.0  # what the motor stands for good
    retries: Retries = field(default_factory=Retries)  # of its load monitor
    speed: float = 1.0  # at which it turns, a share of full
    on_two: bool = False  # one of its leads carries nothing
    uneven: float = 0.0  # of the voltages it runs on, a share of their mean

    def __post_init__(self) -> None:
        self.lasting_a = self.plate.current_a * self.plate.service_factor

    def look(self, now_s: float, input_w: float | None, speed: float = 1.0, trouble: Trouble = Trouble.NONE, voltage: float = 1.0, uneven: float = 0.0, still: bool = False) -> Trip | None:
        """What trips now. input_w: what the motor takes from here on; None while it rests. speed, voltage, uneven: shares; still: it turns, and its water does not move."""
        if input_w is None and self.current_a == 0.0:
            return None  # it cools: looked at when it starts
        step_s, self.now_s = now_s - self.now_s, now_s
        if step_s > 0.0:
            self._warm(step_s)
        if input_w is None:
            self.current_a = self.input_w = 0.0
            self.low_since_s = None
            self.retries.falters()
            return None
        self.on_two = trouble is Trouble.TWO_PHASES
        self.uneven, self.speed, self.still = uneven, speed, still and trouble is not Trouble.STALLED
        self._load(input_w, speed, trouble, voltage)
        if self.heat >= 1.0 - 1e-9:
            return Trip.OVERLOAD
        if self.numbers.hot and (self.winding >= HOT_AT - 1e-9 or self.open):
            return Trip.HOT
        if self.casing_c >= self.numbers.casing_c - 1e-9:
            self.stopped_c = self.casing_c
            return Trip.CASING
        if not self._is_low():
            self.low_since_s = None
            self.retries.works(now_s, self.numbers.again)
        else:
            self.low_since_s = now_s if self.low_since_s is None else self.low_since_s
            self.retries.falters()
        if self.low_since_s is not None and now_s - self.low_since_s >= self.numbers.delay_s - 1e-9:
            return Trip.UNDERLOAD
        return None

    def _warm(self, step_s: float) -> None:
        trip_a = self.trip_a
        self.heat = warmed(self.heat, self.felt_a / trip_a, time_constant_s(self.numbers.class_s), step_s) if trip_a < math.inf else 0.0
        self.winding = warmed(self.winding, self._over, WINDING_S, step_s)
        if self.current_a == 0.0:
            self.casing_c = self.water_c + (self.casing_c - self.water_c) * math.exp(-step_s / CASING_S)
        else:
            self.casing_c = min(BOILS_C, self.casing_c + self._heats_ks * step_s) if self.still else self.water_c

    @property
    def _heats_ks(self) -> float:
        """How fast the water in its casing heats up while it does not move: by all that the shaft gives. [K/s]"""
        return self.input_w * min(1.0, self.plate.efficiency) / self.casing_jk

    def leads_a(self) -> tuple[float, ...]:
        """What a clamp meter reads on each of its leads: on two phases the third carries nothing, uneven ones carry more and less. [A]"""
        if not self.plate.phases.leads == 3:
            return (self.current_a,)
        if self.on_two:
            return self.current_a, self.current_a, 0.0
        apart = min(1.0, PER_VOLTAGE * self.uneven)
        return self.current_a * (1.0 + apart), self.current_a, self.current_a * (1.0 - apart)

    @property
    def felt_a(self) -> float:
        """The current of the phase that carries most, which its overload goes by. [A]"""
        return self.current_a * (1.0 + PER_VOLTAGE * self.uneven)

    @property
    def _over(self) -> float:
        """What its winding stands for: the current over what it may carry for good, as the hottest phase feels it."""
        return self.current_a / self.lasting_a * (math.sqrt(uneven_heat(self.uneven)) if self.uneven else 1.0)

    @property
    def trip_a(self) -> float:
        """At which its overload trips in the end; under the running current where somebody turned it there. [A]"""
        if self.dialled_up:
            return DIALLED_UP * self.numbers.trip_a
        return min(self.numbers.trip_a, 0.8 * self.current_a) if self.dialled and self.current_a > 0.0 else self.numbers.trip_a

    def _load(self, input_w: float, speed: float, trouble: Trouble, voltage: float) -> None:
        self.input_w = input_w * (HEAVY_SHARE if trouble is Trouble.HEAVY else 1.0)
        if trouble is Trouble.STALLED:
            self.current_a = self.plate.current_a * self.plate.start_factor * voltage
            return
        factor = ON_TWO if trouble is Trouble.TWO_PHASES else 1.0
        self.current_a = self.model.current_a(self.input_w / self.plate.input_w, speed, voltage) * factor

    def _is_low(self) -> bool:
        by = self.numbers.by
        if by is UnderloadBy.NOTHING:
            return False
        return self.speed >= self.numbers.from_speed and (self.input_w if by is UnderloadBy.POWER else self.current_a) < self.limit

    @property
    def limit(self) -> float:
        """Under which its load monitor counts, at the speed it turns at. [W or A]"""
        return self.numbers.underload * (self.speed**3 if self.numbers.cube else 1.0)

    def margin(self) -> float:
        """By what share it takes more than its load monitor's limit."""
        told = self.input_w if self.numbers.by is UnderloadBy.POWER else self.current_a
        return told / self.limit - 1.0 if self.limit > 0.0 else math.inf

    @property
    def boils(self) -> bool:
        """Whether the water in its casing boils."""
        return self.casing_c >= BOILS_C

    @property
    def burns(self) -> bool:
        """Whether its winding is hotter than its insulation stands."""
        return self.winding >= BURNS_AT

    def left_s(self) -> float:
        """Time until one of its guards trips, or its winding burns, if everything stays as it is. [s]"""
        left_s = math.inf
        trip_a = self.trip_a
        if self.felt_a > trip_a:
            left_s = trips_in_s(self.felt_a / trip_a, self.numbers.class_s, self.heat)
        if self.low_since_s is not None:
            left_s = min(left_s, self.low_since_s + self.numbers.delay_s - self.now_s)
        if self.still and self._heats_ks > 0.0:
            left_s = min([left_s, *((to_c - self.casing_c) / self._heats_ks for to_c in (self.numbers.casing_c, BOILS_C) if to_c > self.casing_c)])
        left_s = min(left_s, self._heats_s(BURNS_AT), self._heats_s(HOT_AT) if self.numbers.hot else math.inf)
        return max(0.0, left_s)

    def _heats_s(self, heat: float) -> float:
        """Time until its winding is so hot; infinite where it is by now, or never will be. [s]"""
        ends = self._over * self._over
        return WINDING_S * math.log((ends - self.winding) / (ends - heat)) if ends > heat > self.winding else math.inf
