"""What the motors of a transfer set do: their plates, and the loads of honest work and of trouble."""

from goodbalance.core.protection.currents import Clamped, fitted
from goodbalance.core.protection.duty import AIR_SHARE, Load, MotorDuty
from goodbalance.core.protection.readings import At
from goodbalance.core.stations.transfer.plant.hydraulics import TransferHydraulics, hydraulics
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey

FLOWS = 24  # looked at between the least and the most flow


def duties(survey: TransferSurvey) -> tuple[MotorDuty, ...]:
    """The motors, alike ones together: from the stop against a closing valve to all tanks open at the highest source."""
    hyd = hydraulics(survey)
    if len(survey.sources) == 1 or survey.second is None:
        return (_duty(hyd, tuple(range(survey.pumping.count)), survey.pumping.starts_per_hour),)
    return _duty(hyd, (0,), survey.pumping.starts_per_hour), _duty(hyd, (1,), survey.second.starts_per_hour)


def _duty(hyd: TransferHydraulics, pumps: tuple[int, ...], starts_per_hour: float) -> MotorDuty:
    first, survey = pumps[0], hyd.survey
    curves, low_m3s, high_m3s = hyd.pumps[first].curves, *_honest_m3s(hyd, first)
    plate = curves.plate
    powers = [curves.power_w(low_m3s + (high_m3s - low_m3s) * step / FLOWS) for step in range(FLOWS + 1)]
    closed_w = curves.power_w(0.0)
    loads = {At.CLOSED: closed_w, At.LEAST: powers[0], At.MOST: powers[-1], At.NORMAL: powers[FLOWS // 2]}
    readings = tuple(read for read in survey.clamped if read.pump - 1 in pumps)
    read = tuple(Clamped(loads[each.at] / plate.input_w, each.mean_a) for each in readings if each.at in loads)
    lowest = Load("the least of honest work", min(powers))
    return MotorDuty(
        pumps=tuple(pump + 1 for pump in pumps), plate=plate, model=fitted(plate, read), highest=Load("the most of honest work", max(powers)), lowest=lowest, least=lowest,
        closed=Load("closed valve", closed_w), dry=Load("a dry pump", AIR_SHARE * closed_w), readings=readings, water_c=survey.line.temperature_c,
        starts_per_hour=starts_per_hour,
    )  # fmt: skip


def _honest_m3s(hyd: TransferHydraulics, pump: int) -> tuple[float, float]:
    """The least and the most flow of one pump while valves stand open. What it gives while a valve closes is trouble that ends by itself."""
    flows = [hyd.running(way, (pump,), high).total_m3s for way in hyd.ways for high in (False, True)]
    return min(flows), max(flows)
