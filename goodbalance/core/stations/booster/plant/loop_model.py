"""The pressure loop of a booster set, made linear at a working point: gain, time constant, dead time."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from goodbalance.core.control.identification import Fopdt
from goodbalance.core.stations.booster.plant.hydraulics import BoosterHydraulics

SCAN_S = 0.1  # how often the controller reckons
DRIVE_LAG_S = 0.3  # of motor and impeller behind the drive's output, for small changes
PIPE_MODULUS_PA = 1.0e9  # of water and pipe wall together: a soft plastic pipe
USUAL_STEP = 0.1  # of full speed that a change of demand usually asks for
LEAST_COMPLIANCE_M3PA = 2e-9  # hoses, trapped air, the sensor's own line


@dataclass(frozen=True, slots=True)
class WorkingPoint:
    """Where the set works: pressure held, total flow, pumps, suction; and the tank's precharge."""

    set_pa: float
    flow_m3s: float
    pumps: int
    suction_pa: float
    precharge_pa: float
    range_pa: float = 0.0  # of the sensor that is regulated by; 0: the discharge sensor's


def compliance_m3pa(hyd: BoosterHydraulics, pressure_pa: float, precharge_pa: float) -> float:
    """Water the zone takes per pascal: pipes by stiffness, tank by Boyle V P0 / P^2. [m3/Pa]"""
    pipe = LEAST_COMPLIANCE_M3PA + hyd.pipe.volume_m3 / PIPE_MODULUS_PA
    tank_m3 = hyd.survey.vessel.volume_m3
    if tank_m3 <= 0.0 or pressure_pa <= precharge_pa:
        return pipe
    return pipe + tank_m3 * (precharge_pa + hyd.air_pa) / (pressure_pa + hyd.air_pa) ** 2


def slopes(hyd: BoosterHydraulics, speed: float, flow_m3s: float, pumps: int) -> tuple[float, float]:
    """How the flow of so many pumps grows with their speed and falls with the pressure. [m3/s for full speed, m3/s/Pa]

    Source: H = a n^2 + b n q + c q^2 by affinity, differentiated at q = Q/pumps.
    """
    a, b, c = hyd.curve.coefficients
    each = flow_m3s / pumps
    lost_m = max(-(b * speed + 2.0 * c * each), 1e-6)  # metres per m3/s of one pump
    return pumps * (2.0 * a * speed + b * each) / lost_m, pumps / (lost_m * hyd.column_of(1.0))


def loop_model(hyd: BoosterHydraulics, at: WorkingPoint, filter_s: float, ramp_s: float = 0.0) -> Fopdt:
    """From speed (% of full) to reading (% of the sensor's range), near a working point.

    C dp/dt = Q_pumps(n, p) - Q_drawn(p): K = (dQ/dn) / (g_pumps + g_drawn), T = C / (g_pumps + g_drawn), where g is how
    much less is given and more is drawn per pascal. Filter, drive lag, ramp and scan follow by the half rule (Skogestad 2003):
    the largest lag is T, half of the second adds to it, half and the rest to the dead time. A ramp counts as the lag of
    half the time in which it makes a usual step.
    """
    speed = hyd.speed(hyd.added_m(at.set_pa, at.suction_pa), at.flow_m3s, at.pumps)
    if not math.isfinite(speed):
        speed = 1.0
    per_speed, pumps_m3spa = slopes(hyd, speed, at.flow_m3s, at.pumps)
    outlet_pa = hyd.column_of(hyd.survey.outlets.worst_m - hyd.survey.outlets.sensor_m)
    drawn_m3spa = at.flow_m3s / (2.0 * max(at.set_pa - outlet_pa, 1e4))  # Q = k sqrt(p): dQ/dp = Q / 2p
    sum_m3spa = pumps_m3spa + drawn_m3spa
    range_pa = at.range_pa or hyd.survey.sensor.range_pa
    gain = per_speed / sum_m3spa / range_pa  # share of range per share of speed
    time_s = compliance_m3pa(hyd, at.set_pa, at.precharge_pa) / sum_m3spa
    lags = sorted((time_s, filter_s, DRIVE_LAG_S, USUAL_STEP * ramp_s / 2.0), reverse=True)
    return Fopdt(gain, SCAN_S + lags[1] / 2.0 + lags[2] + lags[3], lags[0] + lags[1] / 2.0)


@dataclass(frozen=True, slots=True)
class LinearZone:
    """Pumps and zone near a working point. [m3/s for full speed; m3/s/Pa; m3/Pa; s]"""

    per_speed: float  # given more with speed
    per_pa: float  # given less with pressure
    drawn_per_pa: float
    stored_per_pa: float
    lag_s: float  # of motor and impeller
    seen: float = 1.0  # of a change of pressure, by the sensor that is regulated by


@dataclass(frozen=True, slots=True)
class LinearRegulator:
    """A PI regulator near a working point. [share of full speed per Pa; s; Pa per m3/s]"""

    gain: float
    reset_s: float
    filter_s: float
    setback_pa: float = 0.0  # by which the set pressure rises with the flow
    setback_s: float = 0.0


@lru_cache(maxsize=512)
def shrinks_by(zone: LinearZone, regulator: LinearRegulator) -> float:
    """What one reckoning of the loop leaves of a disturbance in the long run; one or more does not die away.

    The largest eigenvalue of the step by which the bench goes on. States: pressure, reading, integral, speed, followed flow.
    """
    pressure, reading, integral, speed, flow = np.eye(5)
    read, moves = passes(SCAN_S, regulator.filter_s), passes(SCAN_S, zone.lag_s)
    setback = min(1.0, SCAN_S / regulator.setback_s) if regulator.setback_s > 0.0 else 1.0
    pumped = zone.per_speed * speed - zone.per_pa * pressure
    reading = reading + read * (zone.seen * pressure - reading)
    flow = flow + setback * (pumped - flow)
    error = regulator.setback_pa * flow - reading
    integral = integral + regulator.gain * SCAN_S / regulator.reset_s * error
    speed = speed + moves * (regulator.gain * error + integral - speed)
    held = zone.stored_per_pa + SCAN_S * (zone.per_pa + zone.drawn_per_pa)
    pressure = (zone.stored_per_pa * pressure + SCAN_S * zone.per_speed * speed) / held
    step = np.array((pressure, reading, integral, speed, flow))
    return float(np.abs(np.linalg.eigvals(step)).max())


def passes(step_s: float, lag_s: float) -> float:
    """Of a change, what a first-order lag lets through in a step."""
    return 1.0 - math.exp(-step_s / lag_s) if lag_s > 0.0 else 1.0
