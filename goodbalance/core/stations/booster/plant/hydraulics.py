"""A surveyed booster set as equations: what its pumps must add, at which speed, and what the pipes take."""

import math
from dataclasses import dataclass
from functools import cached_property

from goodbalance.core.balance.facts import once_each
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.pipework import FrictionSchool, Main
from goodbalance.core.physics.pumps import between
from goodbalance.core.physics.signals import MA_0_20, MA_4_20, V_0_10, Scaling
from goodbalance.core.physics.water import air_pressure_pa, head_of_pressure_m, pressure_of_head_pa, water_at
from goodbalance.core.protection.plate import apparent_va
from goodbalance.core.stations.booster.survey.control import PressureSignal
from goodbalance.core.stations.booster.survey.supply import SupplyKind
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.shared.pump_facts import PumpCurves

SIGNALS = {PressureSignal.MA_4_20: MA_4_20, PressureSignal.MA_0_20: MA_0_20, PressureSignal.V_0_10: V_0_10}


@dataclass(frozen=True, slots=True)
class Holding:
    """How so many pumps hold a pressure at one flow: their common speed, as a share of full; infinite beyond their curve."""

    flow_m3s: float
    pumps: int
    speed: float
    npsh_margin_m: float | None  # available less required; None without a curve of it
    power_w: float = math.nan  # of all together
    each_m3s: float = 0.0
    too_little: bool = False  # under the least flow of a running pump
    too_much: bool = False  # over the largest

    @property
    def feasible(self) -> bool:
        """Whether the pumps can: not over full speed, with enough pressure at their suction, and not beyond their curve."""
        enough = self.npsh_margin_m is None or self.npsh_margin_m >= 0.0
        return self.speed <= 1.0 + 1e-9 and enough and not self.too_much


@dataclass(frozen=True, slots=True)
class RatedPart:
    """A part that a pressure may break or open: at its own height, so with the column between the sensor and it."""

    name: str
    rating_pa: float
    down_pa: float  # column from the sensor down to it; negative for a part above

    @property
    def at_sensor_pa(self) -> float:
        """What the sensor reads when the part stands at its rating."""
        return self.rating_pa - self.down_pa


class BoosterHydraulics:
    """Everything the pressures are reckoned from. Built once per survey and kept."""

    def __init__(self, survey: BoosterSurvey) -> None:
        self.survey = survey
        self.pump = PumpCurves(survey.pumping.curve, survey.motor.plate)
        self.curve = self.pump.head
        self.most_m3s = survey.pumping.most_flow_m3s or self.curve.last_flow_m3s
        outlets, supply = survey.outlets, survey.supply
        hazen = outlets.friction is FrictionSchool.HAZEN_WILLIAMS
        roughness = outlets.hazen_williams_c if hazen else outlets.sand_roughness_m
        water = water_at(supply.temperature_c)
        self.pipe = Main(
            outlets.length_m, outlets.diameter_m, outlets.friction, roughness or 0.0, outlets.minor_k, water.viscosity_m2s
        )  # fmt: skip
        self.density_kgm3, self.vapour_pa = water.density_kgm3, water.vapour_pa
        self.air_pa = air_pressure_pa(supply.altitude_m)
        self.rise_m = 0.0 if supply.pump_m is None else outlets.sensor_m - supply.pump_m  # from pump up to the sensor
        self.signal = SIGNALS[survey.sensor.signal]
        self.scaling = Scaling(self.signal.low, self.signal.high, 0.0, survey.sensor.range_pa)

    def __deepcopy__(self, memo: dict[int, object]) -> "BoosterHydraulics":
        return self  # what it keeps stays true for every copy

    def head_of(self, pressure_pa: float) -> float:
        """Metres of this water that stand for a pressure."""
        return head_of_pressure_m(pressure_pa, self.density_kgm3)

    def column_of(self, height_m: float) -> float:
        """Pressure under a column of this water. [Pa]"""
        return pressure_of_head_pa(height_m, self.density_kgm3)

    # what the parts stand

    @cached_property
    def parts(self) -> tuple[RatedPart, ...]:
        """Pipes and fittings at the lowest of them, the tank, and the relief valve where there is one."""
        outlets, vessel, supply = self.survey.outlets, self.survey.vessel, self.survey.supply
        sensor_m = outlets.sensor_m
        tank_m = sensor_m if vessel.height_m is None else vessel.height_m
        pump_m = sensor_m if supply.pump_m is None else supply.pump_m
        own = vessel.tank_rating_pa is not None and vessel.volume_m3 > 0.0
        places = [outlets.lowest_m, sensor_m, pump_m, *([] if own or vessel.volume_m3 <= 0.0 else [tank_m])]
        found = [RatedPart("lowest pipes and fittings", vessel.rating_pa, self.column_of(sensor_m - min(places)))]
        if own:
            found.append(RatedPart("tank", vessel.tank_rating_pa or 0.0, self.column_of(sensor_m - tank_m)))
        return tuple(found)

    @cached_property
    def relief(self) -> RatedPart | None:
        """The relief valve, where there is one."""
        vessel, sensor_m = self.survey.vessel, self.survey.outlets.sensor_m
        if vessel.relief_pa is None:
            return None
        at_m = sensor_m if vessel.relief_m is None else vessel.relief_m
        return RatedPart("relief valve", vessel.relief_pa, self.column_of(sensor_m - at_m))

    @cached_property
    def weakest(self) -> RatedPart:
        """The part or valve that gives way first, as the sensor sees it."""
        every: list[RatedPart] = [*self.parts, *([] if self.relief is None else [self.relief])]
        return min(every, key=lambda part: part.at_sensor_pa)

    # what comes in

    def source_pa(self, high: bool) -> float:
        """Pressure at the pump suction without flow, at the highest or the lowest state of the supply."""
        supply = self.survey.supply
        if supply.kind is SupplyKind.TOWN_MAIN:
            return (supply.high_pa if high else supply.low_pa) or 0.0
        level_m = supply.water_high_m if high else supply.water_low_m
        return self.column_of((level_m or 0.0) - (supply.pump_m or 0.0))

    def suction_pa(self, flow_m3s: float, high: bool = False) -> float:
        """The same while water flows: less the loss at design flow times the square of the share of it."""
        return self.source_pa(high) - self.suction_loss_pa(flow_m3s)

    def suction_loss_pa(self, flow_m3s: float) -> float:
        """Lost in the suction pipe: with the square of the flow, from what was measured at design flow."""
        return self.survey.supply.loss_pa * (flow_m3s / self.survey.demand.design_m3s) ** 2

    @property
    def suction_low_pa(self) -> float:
        """The lowest the pumps ever see: lowest supply, design flow."""
        return self.suction_pa(self.survey.demand.design_m3s)

    @property
    def suction_high_pa(self) -> float:
        """The highest: highest supply, no flow."""
        return self.source_pa(True)

    # what goes out

    @property
    def column_pa(self) -> float:
        """What the standing column presses on the sensor: rho g (highest point - sensor)."""
        return self.column_of(self.survey.outlets.top_m - self.survey.outlets.sensor_m)

    def wanted_pa(self, flow_m3s: float, residual_pa: float | None = None) -> float:
        """Pressure at the sensor that supplies the worst outlet at a flow: column to it, losses, and what it wants."""
        outlets = self.survey.outlets
        rest_pa = outlets.residual_pa if residual_pa is None else residual_pa
        return self.column_of(outlets.worst_m - outlets.sensor_m + self.pipe.loss_m(flow_m3s)) + rest_pa

    # what the pumps do

    def added_m(self, set_pa: float, suction_pa: float) -> float:
        """Head the pumps must add between suction and sensor."""
        return self.head_of(set_pa - suction_pa) + self.rise_m

    def speed(self, head_wanted_m: float, flow_m3s: float, pumps: int) -> float:
        """Common speed at which so many pumps side by side give a head at a total flow. Infinite where none does.

        By affinity the parabola H = a + b Q + c Q^2 becomes H = a n^2 + b n q + c q^2 with q = Q/pumps: a quadratic in n.
        """
        if pumps < 1:
            raise OutOfRange("pumps", pumps, "1 or more")
        a, b, c = self.curve.coefficients
        each = flow_m3s / pumps
        rest = c * each * each - head_wanted_m
        if rest >= 0.0:
            return 0.0  # the suction alone gives it
        square = (b * each) ** 2 - 4.0 * a * rest
        if square < 0.0 or a <= 0.0:
            return math.inf
        return max(0.0, (-b * each + math.sqrt(square)) / (2.0 * a))

    def flow_at(self, speed: float, head_m: float) -> float:
        """Flow of one pump at a speed and head; 0 where it does not reach the head."""
        if speed <= 0.0 or head_m >= self.curve.shut_off_head_m * speed * speed:
            return 0.0
        return speed * self.curve.flow_m3s(head_m / (speed * speed))

    def delivered_pa(self, flow_m3s: float, pumps: int, suction_pa: float, speed: float = 1.0) -> float:
        """Pressure at the sensor that so many pumps give at a total flow and speed."""
        a, b, c = self.curve.coefficients
        each = flow_m3s / pumps
        return suction_pa + self.column_of(a * speed * speed + b * speed * each + c * each * each - self.rise_m)

    def shut_off_pa(self, high: bool = False) -> float:
        """Pressure at the sensor that one pump reaches with every outlet closed, full speed, lowest or highest supply."""
        return self.delivered_pa(0.0, 1, self.source_pa(high))

    def npsh_required_m(self, flow_m3s: float, speed: float) -> float | None:
        """Of one pump, by affinity: read at Q/n and scaled by n squared; straight between the maker's points."""
        columns = self.pump.npsh_columns
        if columns is None or speed <= 0.0:
            return None
        return between(flow_m3s / speed, *columns) * speed * speed

    @cached_property
    def most_npsh_m(self) -> float:
        """The most that is required anywhere on the curve at full speed; 0 where it is not known."""
        return 0.0 if self.pump.npsh_columns is None else max(self.pump.npsh_columns[1])

    @property
    def knows_power(self) -> bool:
        """Whether the maker's power curve was surveyed; otherwise power is estimated from the nameplate."""
        return self.pump.knows_power

    @cached_property
    def rated_input_w(self) -> float:
        """What the motor takes at its nameplate: V I cos phi, times the root of 3 with three phases. Not its shaft power."""
        motor = self.survey.motor
        return apparent_va(motor.phases, motor.rated_voltage_v, motor.rated_current_a) * motor.power_factor

    def motor_w(self, flow_m3s: float, speed: float) -> float:
        """What one motor takes, by affinity: read at Q/n and scaled by n cubed; straight between points."""
        if speed <= 0.0:
            return 0.0
        return between(flow_m3s / speed, *self.pump.power_columns) * speed**3

    def power_w(self, flow_m3s: float, speed: float) -> float:
        """What one pump takes from the supply: its motor, and what its drive turns into heat."""
        return self.motor_w(flow_m3s, speed) / self.drive_efficiency

    @cached_property
    def drive_efficiency(self) -> float:
        """Of the drives; 1 without them."""
        return self.survey.motor.drive_efficiency if self.survey.has_drives else 1.0

    @cached_property
    def best_flow_m3s(self) -> float | None:
        """Flow of best efficiency: as the maker says, or the most of Q H / P along the curve; None where neither is known."""
        told = self.survey.pumping.best_flow_m3s
        if told is not None or not self.knows_power:
            return told
        tried = [self.curve.last_flow_m3s * step / 200.0 for step in range(1, 201)]
        return max(tried, key=lambda flow: flow * max(0.0, self.curve.head_m(flow)) / self.motor_w(flow, 1.0))

    @cached_property
    def most_motor_w(self) -> tuple[float, float]:
        """The most one motor takes anywhere on the curve at full speed, and at which flow. [W, m3/s]"""
        flows = [self.most_m3s * step / 40.0 for step in range(41)]
        flow = max(flows, key=lambda each: self.motor_w(each, 1.0))
        return self.motor_w(flow, 1.0), flow

    @cached_property
    def idle_w(self) -> float:
        """What one pump takes at full speed without flow."""
        return self.power_w(0.0, 1.0)

    def current_a(self, power_w: float) -> float:
        """Motor current at a power taken from the supply: I = I_n sqrt(m^2 + (1 - m^2)(P/P_n)^2).

        m^2 = 1 - cos^2 phi is the magnetising part, P the motor's input, P_n its input at the nameplate.
        """
        motor = self.survey.motor
        idle_square, load = 1.0 - motor.power_factor**2, power_w * self.drive_efficiency / self.rated_input_w
        return motor.rated_current_a * math.sqrt(idle_square + (1 - idle_square) * load**2)

    def npsh_available_m(self, suction_pa: float) -> float:
        """At the suction flange, where the pressure was surveyed with its losses: (p_atm + p - p_v)/(rho g)."""
        return self.head_of(self.air_pa + suction_pa - self.vapour_pa)

    def holding(self, set_pa: float, suction_pa: float, flow_m3s: float, pumps: int) -> Holding:
        """The speed at which so many pumps hold a set pressure at a flow, and what suction they have to spare."""
        speed, each = self.speed(self.added_m(set_pa, suction_pa), flow_m3s, pumps), flow_m3s / pumps
        if math.isinf(speed):
            return Holding(flow_m3s, pumps, speed, None, each_m3s=each)
        needed_m = self.npsh_required_m(each, speed)
        margin_m = None if needed_m is None else self.npsh_available_m(suction_pa) - needed_m
        little = 0.0 < each < self.survey.pumping.least_flow_m3s * speed
        much = each > self.most_m3s * max(speed, 1e-9) * (1.0 + 1e-9)
        return Holding(flow_m3s, pumps, speed, margin_m, pumps * self.power_w(each, speed), each, little, much)

    def no_flow_speeds(self, set_pa: float) -> tuple[float, float]:
        """Speeds that just hold the set pressure at no flow, at the highest and at the lowest suction pressure."""
        low, high = (self.speed(self.added_m(set_pa, self.suction_pa(0.0, high)), 0.0, 1) for high in (True, False))
        return low, high


@once_each
def hydraulics(survey: BoosterSurvey) -> BoosterHydraulics:
    """The equations of this survey; asked again for the same survey they come from memory."""
    return BoosterHydraulics(survey)
