"""How far the pressure overshoots when outlets are closed at once: tried on the nonlinear set with the gains in force."""

import math
from dataclasses import dataclass
from functools import lru_cache

from goodbalance.core.control.pid import Gains, Pid
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.plant.loop_model import DRIVE_LAG_S, SCAN_S
from goodbalance.core.stations.booster.plant.zone import BoosterPlant
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey

LONGEST_S = 30.0
PASSED_S = 1.5  # so long under its peak the pressure has passed it


@dataclass(frozen=True, slots=True)
class Closing:
    """Outlets closed at once: from what, and how far the pressure rose over the set pressure."""

    name: str
    overshoot_pa: float


@dataclass(frozen=True, slots=True)
class Regulator:
    """The loop's numbers, in the terms of its trial. Speeds as shares of full."""

    set_pa: float
    precharge_pa: float
    gain: float
    reset_s: float
    filter_s: float
    least_speed: float
    most_speed: float
    ramp_s: float


def closings(survey: BoosterSurvey, loop: Regulator) -> tuple[Closing, ...]:
    """From design flow to mean flow and from mean flow to one tap, at the highest supply."""
    demand = survey.demand
    mean, tap = demand.mean_m3s / demand.design_m3s, demand.least_m3s / demand.design_m3s
    return (
        Closing("design flow", overshoot_pa(survey, loop, 1.0, mean)),
        Closing("mean flow", overshoot_pa(survey, loop, mean, tap)),
    )


@lru_cache(maxsize=512)
def overshoot_pa(survey: BoosterSurvey, loop: Regulator, before: float, after: float) -> float:
    """Highest rise over the set pressure when outlets go from one share of the design flow to a smaller one. [Pa]

    The fewest duty pumps that hold it run at one speed; none leaves meanwhile. Stopped where the pressure falls again.
    """
    hyd, pumping = hydraulics(survey), survey.pumping
    plant = BoosterPlant(hyd, loop.precharge_pa, loop.set_pa, hyd.source_pa(True), open_share=before, lag_s=DRIVE_LAG_S)
    flow = plant.drawn_m3s(loop.set_pa)
    head_m = hyd.added_m(loop.set_pa, hyd.suction_pa(flow, True))
    speeds = [hyd.speed(head_m, flow, n) for n in range(1, pumping.duty_count + 1)]
    pumps = next((n for n, speed in enumerate(speeds, 1) if speed <= loop.most_speed), pumping.duty_count)
    speed = min(loop.most_speed, max(loop.least_speed, speeds[pumps - 1] if math.isfinite(speeds[pumps - 1]) else 1.0))
    turning = [speed if pump < pumps else 0.0 for pump in range(pumping.count)]
    plant.turn_at(turning)
    plant.flow_m3s = flow
    ranges = [survey.sensor.range_pa, *([] if survey.remote is None else [survey.remote.range_pa])]
    per = 100.0 / max(ranges)  # of two sensors the one that makes the loop slower
    pid = Pid(Gains(loop.gain, loop.reset_s), 100.0 * loop.least_speed, 100.0 * loop.most_speed, filter_s=loop.filter_s)
    pid.take_over(100.0 * speed, loop.set_pa * per, loop.set_pa * per)
    plant.open_share, peak_pa, since_s = after, loop.set_pa, 0.0
    for _ in range(round(LONGEST_S / SCAN_S)):
        output = pid.scan(loop.set_pa * per, plant.pressure_pa * per, SCAN_S) / 100.0
        plant.ramp([output if pump < pumps else 0.0 for pump in range(pumping.count)], (loop.ramp_s,) * pumping.count, SCAN_S)
        plant.advance(SCAN_S)
        since_s = 0.0 if plant.pressure_pa >= peak_pa else since_s + SCAN_S
        peak_pa = max(peak_pa, plant.pressure_pa)
        if since_s >= PASSED_S and peak_pa > loop.set_pa:
            break
    return peak_pa - loop.set_pa
