"""What the motors of a lift station do: their plates, what they take at a flow, and the loads of honest work and of trouble."""

import math

from goodbalance.core.balance.facts import once_each
from goodbalance.core.physics.pumps import between
from goodbalance.core.protection.currents import Clamped, fitted
from goodbalance.core.protection.duty import AIR_SHARE, Load, MotorDuty
from goodbalance.core.protection.plate import MOST_EFFICIENCY, Plate
from goodbalance.core.protection.readings import At
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.survey.pump import Pump
from goodbalance.core.stations.lift.survey.survey import LiftSurvey

IDLE_SHARE = 0.5  # of the plate's input that a pump takes without flow, where its curve has no powers
TABLE_STEP_M, SPEED_STEP = 0.4, 0.05
FLOWS = 24  # looked at between the least and the most flow of honest work


def plate_of(pump: Pump) -> Plate:
    """The nameplate of a pump's motor."""
    return Plate(
        phases=pump.phases, voltage_v=pump.rated_voltage_v, current_a=pump.rated_current_a, shaft_w=pump.rated_power_w, power_factor=pump.power_factor,
        service_factor=pump.service_factor, start_factor=pump.standing_factor, rotor=pump.rotor,
    )  # fmt: skip


class Motors:
    """Plates and powers of one survey's pumps, 0 for pump 1; built once and kept."""

    def __init__(self, survey: LiftSurvey) -> None:
        self.survey, self.hyd = survey, hydraulics(survey)
        self.plates = tuple(map(plate_of, survey.pumps))
        self._powers = tuple(self._rows(pump, plate) for pump, plate in zip(survey.pumps, self.plates))
        self._tables: dict[tuple[tuple[int, ...], float], list[tuple[float, ...]]] = {}  # the bench's, by pumps and speed

    def __deepcopy__(self, memo: dict[int, object]) -> "Motors":
        return self

    @staticmethod
    def _rows(pump: Pump, plate: Plate) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Flows and what the motor takes there: shaft powers of the curve over the motor's efficiency; without them half
        the plate's input without flow and all of it at the last point."""
        rows = sorted((point.flow_m3s, point.power_w) for point in pump.curve if point.flow_m3s is not None and point.power_w is not None)
        if rows:
            gives = min(plate.efficiency, MOST_EFFICIENCY)
            return tuple(flow for flow, _ in rows), tuple(shaft_w / gives for _, shaft_w in rows)
        last_m3s = max(point.flow_m3s for point in pump.curve if point.flow_m3s is not None)
        return (0.0, last_m3s), (IDLE_SHARE * plate.input_w, plate.input_w)

    def input_w(self, pump: int, flow_m3s: float, speed: float = 1.0) -> float:
        """What a motor takes at a flow, by affinity: read at Q/n and scaled by n cubed. [W]

        Source: affinity laws of centrifugal pumps.
        """
        return between(flow_m3s / speed, *self._powers[pump]) * speed**3 if speed > 0.0 else 0.0

    def inputs_w(self, running: tuple[int, ...], level_m: float, speed: float) -> tuple[float, ...]:
        """What each of these motors takes while they run together, by a table over the level, straight between. [W]"""
        speed = max(SPEED_STEP, round(speed / SPEED_STEP) * SPEED_STEP)
        table = self._tables.get((running, speed)) or self._make_table(running, speed)
        place = min(max(0.0, level_m / TABLE_STEP_M), len(table) - 1.001)
        low, high = table[int(place)], table[int(place) + 1]
        share = place - int(place)
        return tuple([below + (above - below) * share for below, above in zip(low, high)])

    def _make_table(self, running: tuple[int, ...], speed: float) -> list[tuple[float, ...]]:
        table = []
        for mark in range(math.ceil(self.hyd.well.top_m / TABLE_STEP_M) + 2):
            shares = self.hyd.point(running, mark * TABLE_STEP_M, speed).shares_m3s
            table.append(tuple(self.input_w(pump, share, speed) for pump, share in zip(running, shares)))
        self._tables[running, speed] = table
        return table


@once_each
def motors(survey: LiftSurvey) -> Motors:
    """The motors of this survey; asked again for the same survey they come from memory."""
    return Motors(survey)


def duties(survey: LiftSurvey, least_speed: float = 1.0) -> tuple[MotorDuty, ...]:
    """Each motor, alike ones together: between all calls at the lowest level and one alone at the inlet invert.

    least_speed: of its drive, a share of full.
    """
    count = survey.pumping.count
    alike = [tuple(range(count))] if survey.pumping.twins else [(pump,) for pump in range(count)]
    return tuple(_duty(motors(survey), pumps, least_speed) for pumps in alike)


def _duty(of: Motors, pumps: tuple[int, ...], least_speed: float) -> MotorDuty:
    hyd, pump = of.hyd, pumps[0]
    plate, everybody = of.plates[pump], tuple(range(hyd.pump_count))
    low_m3s = hyd.point(everybody, hyd.slow_level_m).shares_m3s[pump]
    high_m3s = hyd.point((pump,), hyd.fast_level_m).flow_m3s
    powers = [of.input_w(pump, low_m3s + (high_m3s - low_m3s) * step / FLOWS) for step in range(FLOWS + 1)]
    closed_w, driven = of.input_w(pump, 0.0), of.survey.drives.fitted
    lowest = Load("the least of honest work", min(powers))
    if driven:  # at its least speed it just lifts the water, somewhere between no flow and some
        lowest = Load("least speed", min(closed_w, *powers) * least_speed**3, least_speed)
    readings = tuple(read for read in of.survey.clamped if read.pump - 1 in pumps)
    loads = {At.CLOSED: closed_w, At.NORMAL: powers[FLOWS // 2], At.MOST: powers[-1]}
    known = tuple(Clamped(loads[read.at] / plate.input_w, read.mean_a) for read in readings if read.at in loads)
    return MotorDuty(
        pumps=tuple(each + 1 for each in pumps), plate=plate, model=fitted(plate, known), highest=Load("the most of honest work", max(powers)),
        lowest=lowest, least=Load("the least of honest work", min(powers)), closed=Load("closed valve", closed_w), dry=Load("a dry pump", AIR_SHARE * closed_w), readings=readings, driven=driven,
        water_c=of.survey.main.temperature_c, starts_per_hour=min(of.survey.pumps[pump].starts_per_hour, of.survey.demands.starts_per_hour),
    )  # fmt: skip
