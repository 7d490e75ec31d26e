"""How low a booster set pulls its own suction: in steady work, and for how long while pumps bring the pressure back at full speed."""

from dataclasses import dataclass
from functools import lru_cache

from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.plant.zone import BoosterPlant
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.making import last_cut_in

STEP_S, REFILL_S = 0.5, 60.0  # with every pump that serves, until the pressure is back
TURNS = 20  # flow of all pumps and suction, each from the other


@dataclass(frozen=True, slots=True)
class Dip:
    """The lowest suction, the flow at which it stands, and how long it lies at or under the low-suction stop. [Pa, m3/s, s]"""

    suction_pa: float
    flow_m3s: float
    lasts_s: float


def working_low_pa(survey: BoosterSurvey, values: dict[str, float]) -> float:
    """The lowest suction of steady work, at the lowest supply: at design flow, or where a switched set gives more at its cut-in, at that. [Pa]"""
    hyd = hydraulics(survey)
    if S.CUT_IN not in values or survey.holds_constant:
        return hyd.suction_low_pa
    flow, suction_pa = 0.0, hyd.suction_low_pa
    for _ in range(TURNS):
        each = hyd.flow_at(values.get(S.FIXED_SPEED, 1.0), hyd.added_m(values[last_cut_in(values)], suction_pa))
        flow = 0.5 * (flow + survey.pumping.duty_count * each)
        suction_pa = hyd.suction_pa(flow)
    return min(hyd.suction_low_pa, suction_pa)


def dip(survey: BoosterSurvey, values: dict[str, float]) -> Dip | None:
    """Outlets opened for design flow while one pump runs, at the lowest supply: at full speed they join after their delay until the pressure is back.

    None where the suction stays over the stop, or one pump carries it. Source: the zone's own balance, stepped; ramps are left out, they only soften it.
    """
    hyd, wanted_pa, duty = hydraulics(survey), values.get(S.SET_PRESSURE), survey.pumping.duty_count
    if wanted_pa is None or duty < 2 or not survey.holds_constant:
        return None
    together = duty * hyd.flow_at(1.0, hyd.added_m(values.get(S.RESTART, wanted_pa), hyd.suction_low_pa))
    if hyd.suction_pa(together) > values[S.LOW_SUCTION_STOP]:
        return None
    return _played(survey, values.get(S.PRECHARGE, 0.0), wanted_pa, values[S.LOW_SUCTION_STOP], values.get(S.JOIN_DELAY, 0.0))


@lru_cache(maxsize=256)
def _played(survey: BoosterSurvey, precharge_pa: float, wanted_pa: float, stop_pa: float, join_s: float) -> Dip | None:
    hyd, pumping = hydraulics(survey), survey.pumping
    plant = BoosterPlant(hyd, precharge_pa, wanted_pa, hyd.source_pa(False), open_share=1.0)
    lowest_pa, most_m3s, lies_s, lasts_s, at_s = hyd.source_pa(False), 0.0, 0.0, 0.0, 0.0
    while at_s < pumping.duty_count * join_s + REFILL_S:
        pumps = min(pumping.duty_count, 1 + int(at_s / join_s) if join_s > 0.0 else pumping.duty_count)
        if len([speed for speed in plant.speeds if speed]) != pumps:
            plant.turn_at([1.0 if pump < pumps else 0.0 for pump in range(pumping.count)])
        plant.advance(STEP_S)
        at_s += STEP_S
        if at_s > STEP_S and plant.pressure_pa >= wanted_pa:
            break
        lies_s = lies_s + STEP_S if plant.inlet_pa <= stop_pa else 0.0
        lasts_s, (lowest_pa, most_m3s) = max(lasts_s, lies_s), min((lowest_pa, most_m3s), (plant.inlet_pa, plant.flow_m3s))
    return Dip(lowest_pa, most_m3s, lasts_s) if lasts_s > 0.0 else None
