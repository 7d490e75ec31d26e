"""A booster set put on the bench: at rest, by a plan or by what its devices really hold."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.control.rotation import Rotation
from goodbalance.core.errors import OutOfRange
from goodbalance.core.stations.booster.bench.rehearse import STRAIGHT_RAMP_S, BoosterBench
from goodbalance.core.stations.booster.controller.logic import BoosterLogic
from goodbalance.core.stations.booster.controller.numbers import Numbers, numbers_of
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.faults import BoosterFaults
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.plant.loop_model import DRIVE_LAG_S
from goodbalance.core.stations.booster.plant.zone import BoosterPlant
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey


def booster_bench(
    survey: BoosterSurvey, choices: BoosterChoices, plan: Plan, pressure_pa: float | None = None,
    numbers: Numbers | None = None,
) -> BoosterBench:  # fmt: skip
    """The set of this plan on the bench, asleep at a pressure (default: where it fell asleep), all outlets closed.

    numbers: as the devices really hold them; by default as the plan wants them.
    """
    held = numbers or numbers_of(survey, choices, plan)
    hyd, pumping = hydraulics(survey), survey.pumping
    weakest_pa = hyd.weakest.at_sensor_pa
    start_pa = min(held.set_pressure, weakest_pa) if pressure_pa is None else pressure_pa  # a device may hold more than parts stand
    if not 0.0 <= start_pa <= weakest_pa:
        raise OutOfRange("pressure_pa", start_pa, f"0 to {weakest_pa:g} Pa, where the weakest part stands at its rating")
    supply_pa = (hyd.source_pa(False) + hyd.source_pa(True)) / 2.0
    rotation = Rotation(pumping.count, held.alternation, held.clock_period_s, held.standby.count, all_turn=held.standby.turns)
    precharge_pa = plan.value(S.PRECHARGE, 0.0)
    lag_s = DRIVE_LAG_S if survey.has_drives else 0.0
    plant = BoosterPlant(hyd, precharge_pa, start_pa, supply_pa, speeds=[0.0] * pumping.count, lag_s=lag_s)
    own = held.heirs or (held,) * (pumping.count - 1)
    ramps_s = tuple(each.ramp_s if survey.has_drives else STRAIGHT_RAMP_S for each in (held, *own))
    return BoosterBench(
        plant, BoosterLogic(held, rotation), BoosterFaults(pumping.count), suction_by=survey.control.suction_by,
        generator=survey.motor.generator, ramps_s=ramps_s,
    )  # fmt: skip
