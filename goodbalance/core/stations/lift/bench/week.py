"""What a run of days shows: starts, run time, longest stay, alarms and harms of each pump and the well."""

from dataclasses import dataclass

from goodbalance.core.physics.level_trend import busiest
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.stations.lift.bench.looks import LiftRun
from goodbalance.core.stations.lift.names import Alarm
from goodbalance.core.stations.lift.wording import harm_brief


@dataclass(frozen=True, slots=True)
class PumpReport:
    """One pump over the run."""

    pump: int
    starts: int
    busiest_hour: int  # most starts in any 60 minutes
    run_s: float
    alarms: int  # that named this pump


@dataclass(frozen=True, slots=True)
class RunReport:
    """The whole station over the run."""

    lasted_s: float
    pumps: tuple[PumpReport, ...]
    inflow_m3: float
    pumped_m3: float
    spilled_m3: float
    longest_stay_s: float  # longest time between two starts of any pump: water stood that long
    high_alarms: int
    harms: tuple[str, ...]


def report(run: LiftRun) -> RunReport:
    """Sum a run up."""
    bench, plant = run.bench, run.bench.plant
    pumps = []
    all_starts: list[float] = []
    for index, run_s in enumerate(bench.run_s):
        starts = [event.at_s for event in among(run.events, Thing.PUMP, Doing.STARTS, pump=index + 1)]
        all_starts += starts
        named = sum(1 for _ in among(run.events, Thing.ALARM, Doing.COMES, pump=index + 1))
        pumps.append(PumpReport(index + 1, len(starts), busiest(tuple(starts)), run_s, named))
    all_starts.sort()
    stays = [later - earlier for earlier, later in zip(all_starts, all_starts[1:])]
    alarms = sum(1 for _ in among(run.events, Thing.ALARM, Doing.COMES, of=Alarm.HIGH))
    hurt = (event for event in run.events if event.thing is Thing.HARM or event.doing is Doing.GIVEN_UP)
    harms = tuple(dict.fromkeys(harm_brief(event) for event in hurt))
    return RunReport(
        run.now_s, tuple(pumps), plant.inflow_total_m3, plant.pumped_total_m3, plant.spilled_total_m3,
        max(stays, default=run.now_s), alarms, harms,
    )  # fmt: skip
