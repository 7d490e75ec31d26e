"""What the motor of a maintenance pump does: its plate, and the loads of honest work and of trouble."""

from goodbalance.core.protection.currents import Clamped, fitted
from goodbalance.core.protection.duty import AIR_SHARE, Load, MotorDuty
from goodbalance.core.protection.readings import At
from goodbalance.core.stations.maintenance.plant.hydraulics import hydraulics
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey

FLOWS = 24  # looked at between none and what it gives at most


def duties(survey: MaintenanceSurvey) -> tuple[MotorDuty, ...]:
    """Its one motor: from the closed line, where a least run holds it, to what it gives into a line at the pressure of the supply."""
    hyd = hydraulics(survey)
    curves = hyd.curves
    most_m3s = hyd.gives_m3s(max(hyd.supply_pa(False), 0.5 * hyd.read_at_pa), hyd.supply_pa(True))
    powers = [curves.power_w(most_m3s * step / FLOWS) for step in range(FLOWS + 1)]
    closed_w, plate = powers[0], curves.plate
    loads = {At.CLOSED: closed_w, At.LEAST: closed_w, At.MOST: powers[-1], At.NORMAL: powers[FLOWS // 2]}
    read = tuple(Clamped(loads[each.at] / plate.input_w, each.mean_a) for each in survey.clamped if each.at in loads)
    lowest = Load("the closed line, where the least run holds it", min(powers))
    duty = MotorDuty(
        pumps=(1,), plate=plate, model=fitted(plate, read), highest=Load("the most of honest work", max(powers)), lowest=lowest, least=lowest,
        closed=Load("closed valve", closed_w), dry=Load("a dry pump", AIR_SHARE * closed_w), readings=survey.clamped, water_c=survey.line.temperature_c,
        starts_per_hour=survey.pumping.starts_per_hour,
    )  # fmt: skip
    return (duty,)
