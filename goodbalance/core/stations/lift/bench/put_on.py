"""A lift station put on the bench: at rest, by a plan or by what its devices really hold."""

import math
from dataclasses import astuple, replace

from goodbalance.core.balance.plan import Plan
from goodbalance.core.control.alarms import AlarmPanel
from goodbalance.core.control.level_drive import LevelDrive
from goodbalance.core.control.relays import LevelRelay, OnFailure
from goodbalance.core.control.rotation import Rotation
from goodbalance.core.control.sequencer import Sequencer
from goodbalance.core.errors import OutOfRange
from goodbalance.core.stations.lift.bench.rehearse import LiftBench
from goodbalance.core.stations.lift.controller.logic import LiftLogic
from goodbalance.core.stations.lift.controller.program import LiftProgram, program_of
from goodbalance.core.stations.lift.names import STARTS, Role
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.plant.water import LiftPlant
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.drive_settings import DriveSettings
from goodbalance.core.stations.lift.windows.float_ladder import main_ladder

LEAST_SPEED = 0.05  # a drive told less turns nothing


def lift_bench(
    survey: LiftSurvey,
    choices: LiftChoices,
    plan: Plan,
    level_m: float | None = None,
    program: LiftProgram | None = None,
) -> LiftBench:
    """The station of this plan on the bench, at rest with the well at a level (default: just above stop).

    program: as the devices really hold it; by default as the plan wants it.
    """
    hyd, pumping = hydraulics(survey), survey.pumping
    ladder = main_ladder(survey, choices)
    stop_m = plan.value(Role.STOP, ladder.maker_submergence.value)
    start_m = min(stop_m + 2.0 * choices.rules.relay_gap_m, survey.inlet.overflow_m) if level_m is None else level_m
    if not 0.0 <= start_m <= survey.inlet.overflow_m:
        raise OutOfRange("level_m", start_m, f"0 to {survey.inlet.overflow_m:g} m, the overflow")
    runs = _with_every_start(program or program_of(survey, choices, plan), pumping.count)
    rotation = Rotation(
        pumping.count, runs.alternation, runs.clock_period_s, runs.standby.count, runs.first_group, runs.first_rests, runs.standby.turns
    )  # fmt: skip
    drive = None if runs.drive is None else LevelDrive(*astuple(runs.drive))
    panel = Sequencer(rotation, runs.timing, runs.suspect_cycles, unknown=frozenset(range(runs.pumps, pumping.count)))
    return LiftBench(
        LiftPlant(hyd, start_m, survey.inflow.mean_m3s), LiftLogic(runs, panel, drive, AlarmPanel(runs.alarm_by_hand, runs.alarm_flashes, runs.alarm_sounds)),
        flow_per_speed_m3s=DriveSettings(ladder, {}).flow_per_speed_m3s(stop_m, max(LEAST_SPEED, drive.least)) if drive else 0.0,
    )  # fmt: skip


def _with_every_start(program: LiftProgram, pumps: int) -> LiftProgram:
    """The program of a controller that was told of fewer pumps that stand by than planned: for the calls it makes more nobody gave a level."""
    roles = {relay.role for relay in program.relays}
    lacking = [role for role in STARTS[: pumps - program.standby.count] if role not in roles]
    heirs = tuple(_with_every_start(heir, pumps) for heir in program.heirs)
    if program.alone or not lacking:
        return replace(program, heirs=heirs) if heirs else program
    never = tuple(LevelRelay(role, f"Start {STARTS.index(role) + 1}", math.inf, math.inf, OnFailure.RELEASE) for role in lacking)
    return replace(program, relays=(*program.relays, *never), heirs=heirs)
