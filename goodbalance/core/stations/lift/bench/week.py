"""What a run of days shows: starts, run time, longest stay, alarms and harms of each pump and the well."""

from dataclasses import dataclass

from goodbalance.core.physics.level_trend import busiest
from goodbalance.core.rehearsal.engine import Run


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


def report(run: Run) -> RunReport:
    """Sum a run up. The bench must be that of a lift station."""
    bench = run.bench
    plant = bench.plant  # type: ignore[attr-defined]
    pumps = []
    all_starts: list[float] = []
    for index, run_s in enumerate(bench.run_s):  # type: ignore[attr-defined]
        starts = [e.at_s for e in run.events if e.subject == f"pump_{index + 1}" and "starts" in e.text]
        all_starts += starts
        named = sum(e.subject == "alarm" and e.text.startswith(f"Alarm: Pump {index + 1}") for e in run.events)
        pumps.append(PumpReport(index + 1, len(starts), busiest(tuple(starts)), run_s, named))
    all_starts.sort()
    stays = [later - earlier for earlier, later in zip(all_starts, all_starts[1:])]
    alarms = sum(event.subject == "alarm" and event.text == "Alarm: High level" for event in run.events)
    harms = tuple(dict.fromkeys(e.text.split(":")[0].split(" at {")[0] for e in run.events if e.subject == "harm"))
    return RunReport(
        run.now_s, tuple(pumps), plant.inflow_total_m3, plant.pumped_total_m3, plant.spilled_total_m3,
        max(stays, default=run.now_s), alarms, harms,
    )  # fmt: skip
