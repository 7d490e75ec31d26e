"""What the motors of a booster set do: their plate, and the loads of honest work and of trouble."""

from goodbalance.core.protection.currents import Clamped, fitted
from goodbalance.core.protection.duty import AIR_SHARE, Load, MotorDuty
from goodbalance.core.protection.readings import At
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey

FLOWS = 24  # looked at between the least and the most flow


def duties(survey: BoosterSurvey, least_speed: float = 1.0) -> tuple[MotorDuty, ...]:
    """The motors, all alike: from the least flow worth running for to the end of the curve. least_speed: of honest work, where drives turn them."""
    hyd, plate = hydraulics(survey), survey.motor.plate
    low_m3s = min(survey.demand.least_m3s, hyd.most_m3s)
    flows = [low_m3s + (hyd.most_m3s - low_m3s) * step / FLOWS for step in range(FLOWS + 1)]
    powers, closed_w = [hyd.motor_w(flow, 1.0) for flow in flows], hyd.motor_w(0.0, 1.0)
    lowest = Load("the least of honest work", min(powers))
    if survey.has_drives and least_speed < 1.0:
        lowest = Load("least speed", min(hyd.motor_w(flow * least_speed, least_speed) for flow in flows), least_speed)
    loads = {At.CLOSED: closed_w, At.LEAST: powers[0], At.MOST: powers[-1], At.NORMAL: powers[FLOWS // 2]}
    read = tuple(Clamped(loads[each.at] / plate.input_w, each.mean_a) for each in survey.clamped if each.at in loads)
    return (
        MotorDuty(
            pumps=tuple(range(1, survey.pumping.count + 1)), plate=plate, model=fitted(plate, read), highest=Load("the end of the curve", max(powers)), lowest=lowest, least=Load("the least of honest work", min(powers)),
            closed=Load("closed valve", closed_w), dry=Load("a dry pump", AIR_SHARE * closed_w), readings=survey.clamped, driven=survey.has_drives,
            water_c=survey.supply.temperature_c, starts_per_hour=survey.pumping.starts_per_hour,
        ),
    )  # fmt: skip
