"""The pressure loop of a booster set, made linear at a working point: gain, time constant, dead time."""

import math
from dataclasses import dataclass

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


def loop_model(hyd: BoosterHydraulics, at: WorkingPoint, filter_s: float, ramp_s: float = 0.0) -> Fopdt:
    """From speed (% of full) to reading (% of the sensor's range), near a working point.

    C dp/dt = Q_pumps(n, p) - Q_drawn(p): K = (dQ/dn) / (g_pumps + g_drawn), T = C / (g_pumps + g_drawn), where g is how
    much less is given and more is drawn per pascal. Filter, drive lag, ramp and scan follow by the half rule (Skogestad 2003):
    the largest lag is T, half of the second adds to it, half and the rest to the dead time. A ramp counts as the lag of
    half the time in which it makes a usual step.
    """
    a, b, c = hyd.curve.coefficients
    each = at.flow_m3s / at.pumps
    speed = hyd.speed(hyd.added_m(at.set_pa, at.suction_pa), at.flow_m3s, at.pumps)
    if not math.isfinite(speed):
        speed = 1.0
    slope_m = -(b * speed + 2.0 * c * each)  # metres lost per m3/s of one pump
    per_speed_m = 2.0 * a * speed + b * each  # metres per unit of speed
    slope_m = max(slope_m, 1e-6)
    pumps_m3spa = at.pumps / (slope_m * hyd.column_of(1.0))
    outlet_pa = hyd.column_of(hyd.survey.outlets.worst_m - hyd.survey.outlets.sensor_m)
    drawn_m3spa = at.flow_m3s / (2.0 * max(at.set_pa - outlet_pa, 1e4))  # Q = k sqrt(p): dQ/dp = Q / 2p
    sum_m3spa = pumps_m3spa + drawn_m3spa
    range_pa = at.range_pa or hyd.survey.sensor.range_pa
    gain = at.pumps * per_speed_m / slope_m / sum_m3spa / range_pa  # share of range per share of speed
    time_s = compliance_m3pa(hyd, at.set_pa, at.precharge_pa) / sum_m3spa
    lags = sorted((time_s, filter_s, DRIVE_LAG_S, USUAL_STEP * ramp_s / 2.0), reverse=True)
    return Fopdt(gain, SCAN_S + lags[1] / 2.0 + lags[2] + lags[3], lags[0] + lags[1] / 2.0)
