"""A surveyed lift station as equations: its well, pumps, main and the reach of its sensor."""

from functools import cached_property

from goodbalance.core.balance.facts import once_each
from goodbalance.core.physics.pipework import FrictionSchool, Main
from goodbalance.core.physics.pumps import HeadCurve, OperatingPoint, at_speed, between, operating_point
from goodbalance.core.physics.signals import MA_0_20, MA_4_20, V_0_10, Scaling, SignalRange
from goodbalance.core.physics.water import air_pressure_pa, head_of_pressure_m, water_at
from goodbalance.core.physics.wells import Piece, Well, circle_area_m2, straight_well, with_second_well
from goodbalance.core.stations.lift.survey.level_sensor import RangeGivenAs, SensorKind, Signal
from goodbalance.core.stations.lift.survey.pump import Pump
from goodbalance.core.stations.lift.survey.survey import LiftSurvey, RisingMain, WellShape, WetWell

SIGNALS = {Signal.MA_4_20: MA_4_20, Signal.MA_0_20: MA_0_20, Signal.V_0_10: V_0_10}


def curve_of(pump: Pump) -> HeadCurve:
    """The pump's curve from its filled-in points. Raises OutOfRange with fewer than three."""
    points = ((p.flow_m3s, p.head_m) for p in pump.curve)
    return HeadCurve(tuple((q, h) for q, h in points if q is not None and h is not None))


def well_of(well: WetWell) -> Well:
    """The wet well as volume by level, less the share taken up by pumps, rails and solids."""
    first = _first_well(well)
    if well.second_area_m2 is None:
        return first
    return with_second_well(first, well.second_area_m2, well.joined_above_m or 0.0)


def _first_well(well: WetWell) -> Well:
    free = 1.0 - well.lost_share
    if well.shape is WellShape.TABLE:
        return _well_of_table(well, free)
    if well.shape is WellShape.RECTANGLE:
        return straight_well((well.length_m or 0.0) * (well.width_m or 0.0) * free, well.depth_m)
    area_m2 = circle_area_m2(well.diameter_m or 0.0) * free
    if well.shape is WellShape.CIRCLE:
        return straight_well(area_m2, well.depth_m)
    height_m = well.benching_m or 0.0
    floor_m2 = circle_area_m2(well.floor_diameter_m or 0.0) * free
    return Well((Piece(0.0, height_m, floor_m2, area_m2), Piece(height_m, well.depth_m, area_m2, area_m2)))


def _well_of_table(well: WetWell, free: float) -> Well:
    """Straight slices between the lines of the table; below the first and above the last the nearest slice goes on."""
    points = [(p.level_m, p.volume_m3) for p in well.table if p.level_m is not None and p.volume_m3 is not None]
    if points and points[0][0] > 0.0:
        points.insert(0, (0.0, 0.0))
    pieces = []
    for (low_m, low_m3), (high_m, high_m3) in zip(points, points[1:]):
        area_m2 = (high_m3 - low_m3) / (high_m - low_m) * free if high_m > low_m else 0.0
        pieces.append(Piece(low_m, high_m, area_m2, area_m2))
    return Well(tuple(pieces))


def main_of(main: RisingMain) -> Main:
    """The rising main as loss by flow."""
    roughness = main.hazen_williams_c if main.friction is FrictionSchool.HAZEN_WILLIAMS else main.sand_roughness_m
    viscosity_m2s = water_at(main.temperature_c).viscosity_m2s
    return Main(main.length_m, main.diameter_m, main.friction, roughness or 0.0, main.minor_k, viscosity_m2s)


class Hydraulics:
    """Everything the levels are reckoned from. Built once per survey and kept."""

    def __init__(self, survey: LiftSurvey) -> None:
        self.survey = survey
        self.well = well_of(survey.well)
        self.main = main_of(survey.main)
        self.curves = tuple(curve_of(pump) for pump in survey.pumps)
        self.flow_tables: dict[tuple[tuple[int, ...], float], list[float]] = {}  # the bench's, by pumps and speed
        self._points: dict[tuple[tuple[int, ...], float, float], OperatingPoint] = {}

    def __deepcopy__(self, memo: dict[int, object]) -> "Hydraulics":
        return self  # what it keeps stays true for every copy

    @cached_property
    def pump_count(self) -> int:
        """Pumps installed."""
        return len(self.curves)

    @cached_property
    def duty_count(self) -> int:
        """Pumps that share the work: all but a standby."""
        return self.survey.pumping.duty_count

    def point(self, running: tuple[int, ...], level_m: float, speed: float = 1.0) -> OperatingPoint:
        """Operating point of the pumps with these indexes (0 is pump 1) at a well level, all at a share of full speed."""
        key = (running, round(level_m, 4), speed)
        if key not in self._points:
            curves = tuple(at_speed(self.curves[index], speed) for index in running)
            self._points[key] = operating_point(curves, self.survey.main.outlet_m - level_m, self.main)
        return self._points[key]

    @cached_property
    def strongest_first(self) -> tuple[int, ...]:
        """Pump indexes by their rate alone, the largest first."""
        level_m = self.fast_level_m
        return tuple(sorted(range(self.pump_count), key=lambda i: -self.point((i,), level_m).flow_m3s))

    @cached_property
    def fast_level_m(self) -> float:
        """Level at which pumps are fastest in normal work: the inlet invert, where the lift is least."""
        return self.survey.inlet.invert_m

    @cached_property
    def slow_level_m(self) -> float:
        """Level at which pumps are slowest in normal work: the intake, where the lift is most."""
        return self.survey.well.intake_m

    def called(self, calls: int, without: int | None = None) -> tuple[int, ...]:
        """The strongest pumps that may run on so many calls, group by group; `without` leaves one out of service."""
        pumping = self.survey.pumping
        first = pumping.first_group
        here = [pump for pump in self.strongest_first if pump != without]
        if not first:
            return tuple(sorted(here[:calls]))
        small, large = [p for p in here if p < first], [p for p in here if p >= first]
        above = max(0, calls - first)
        if above and pumping.first_rests and large:
            return tuple(sorted(large[:above]))
        own = small[:calls]
        lacking = min(calls, first) - len(own)  # calls the first group cannot serve go on to the second
        return tuple(sorted(own + large[: above + lacking]))

    @cached_property
    def outages(self) -> tuple[int | None, ...]:
        """All in service, and the one pump whose absence puts larger ones into its band: a small one that comes first."""
        return (None, 0) if self.survey.pumping.first_group == 1 else (None,)

    def strongest_m3s(self, calls: int, level_m: float, without: int | None = None) -> float:
        """Total flow of the strongest pumps that so many calls can bring. [m3/s]"""
        return self.point(self.called(calls, without), level_m).flow_m3s

    def npsh_required_m(self, pump: int, flow_m3s: float) -> float | None:
        """Straight between the maker's points; None with fewer than two."""
        points = sorted((p.flow_m3s, p.npsh_m) for p in self.survey.pumps[pump].curve if p.flow_m3s is not None and p.npsh_m is not None)
        return between(flow_m3s, *zip(*points)) if len(points) > 1 else None

    @cached_property
    def suction_room_m(self) -> float:
        """What air and vapour leave a pump at its suction: (p_atm - p_v)/(rho g)."""
        water = water_at(self.survey.main.temperature_c)
        return head_of_pressure_m(air_pressure_pa(self.survey.main.altitude_m) - water.vapour_pa, water.density_kgm3)

    def firm_m3s(self) -> float:
        """Firm capacity: all calls with the pump out whose absence costs most, at the slow level. [m3/s]"""
        return min(
            self.point(self.called(self.duty_count, without=pump), self.slow_level_m).flow_m3s
            for pump in range(self.pump_count)
        )

    @cached_property
    def sensor_low_m(self) -> float:
        """Lowest level the sensor can tell apart: its zero of measurement, with the offset found in the field."""
        return self.bare_low_m + self.offset_m

    @cached_property
    def bare_low_m(self) -> float:
        """Its zero of measurement by drawing and label, without the offset found in the field."""
        sensor = self.survey.sensor
        if sensor is None:
            return 0.0
        if sensor.kind is SensorKind.SUBMERGED:
            return sensor.mounting_m or 0.0
        if sensor.spanned_m is not None:
            return sensor.spanned_m[0]
        return (sensor.face_m or 0.0) - (sensor.far_m or 0.0)

    @cached_property
    def offset_m(self) -> float:
        """What is added to the sensor's reading, as found in the field."""
        return 0.0 if self.survey.sensor is None else self.survey.sensor.offset_m

    @cached_property
    def sensor_high_m(self) -> float:
        """Highest readable level: top of range; of a look-down sensor its face minus blanking, or less where its span ends below."""
        sensor = self.survey.sensor
        if sensor is not None and sensor.kind is SensorKind.LOOK_DOWN:
            seen_m = (sensor.face_m or 0.0) - (sensor.blanking_m or 0.0)
            return self.offset_m + (seen_m if sensor.spanned_m is None else min(seen_m, sensor.spanned_m[1]))
        return self.sensor_low_m + self.sensor_span_m

    @cached_property
    def sensor_span_m(self) -> float:
        """Levels from zero to full signal. Of a look-down sensor that spans all it measures full signal stands for the face itself."""
        sensor = self.survey.sensor
        if sensor is None:
            return self.survey.well.depth_m
        if sensor.spanned_m is not None:
            return sensor.spanned_m[1] - sensor.spanned_m[0]
        if sensor.kind is SensorKind.LOOK_DOWN:
            return sensor.far_m or 0.0
        if sensor.range_given_as is RangeGivenAs.PRESSURE:
            return head_of_pressure_m(sensor.range_pa or 0.0, sensor.density_kgm3)
        return sensor.range_m or 0.0

    @cached_property
    def signal(self) -> SignalRange:
        """The kind of signal the sensor gives; without a sensor the usual one, for form's sake."""
        if self.survey.sensor is None:
            return MA_4_20
        return SIGNALS[self.survey.sensor.signal]

    @cached_property
    def scaling(self) -> Scaling:
        """From signal to level, as it is entered into the controller."""
        top_m = self.sensor_low_m + self.sensor_span_m
        return Scaling(self.signal.low, self.signal.high, self.sensor_low_m, top_m)

    @cached_property
    def reading_margin_m(self) -> float:
        """Least difference a reading can be trusted to show: the larger of 3 x wobble and 5 counts; a third of a float's swing."""
        sensor = self.survey.sensor
        if sensor is None:
            return self.survey.control.swing_m / 3.0
        return max(3.0 * sensor.noise_m, 5.0 * self.sensor_span_m / sensor.counts)


@once_each
def hydraulics(survey: LiftSurvey) -> Hydraulics:
    """The equations of this survey; asked again for the same survey they come from memory."""
    return Hydraulics(survey)
