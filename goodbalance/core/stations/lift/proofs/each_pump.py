"""Proof that each pump, by itself, moves what its curve says: worn, clogged, shut and leaking ones show here and hardly anywhere else."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.proving import HAND, OFF, Scene
from goodbalance.core.stations.lift.bench.looks import LiftRun
from goodbalance.core.stations.lift.names import Act, Check, Role
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.proofs.scenes import Scenes, Shown
from goodbalance.core.stations.lift.survey.survey import LiftSurvey

GROUP = "Each pump by itself"
CAUTIONS = ("In HAND no level contact stops the pump: stay beside it and watch the level.", "Work from above. No entry into the well without permit, gas test and attendant.")
FLOW_SHARE = 0.12  # what a tape and a watch may be off together
BAND_SHARE, BEGINS_S = 0.7, 5.0  # of the band that is drawn down, and when the watch is started


def proofs(survey: LiftSurvey, plan: Plan) -> Iterator[Proof]:
    """One for each pump."""
    hyd, (high_m, low_m) = hydraulics(survey), _band_m(survey, plan)
    for pump in range(hyd.pump_count):
        flow_m3s = hyd.point((pump,), (high_m + low_m) / 2.0).flow_m3s
        yield Proof(
            Check.FLOW, f"Pump {pump + 1} moves what its curve says", GROUP, "Every other pump in OFF; the inflow shut off, or timed before and after.", CAUTIONS,
            "In HAND at full speed let it draw the well down and take the time between two marks (Timed drawdown reckons the inflow out).",
            "This much flows. Less: clogged, worn, a valve half shut, air, the wrong rotation, or a check valve of another pump that leaks.",
            Answer.NUMBER, flow_m3s, FLOW_SHARE * flow_m3s, Q.FLOW, of=str(pump + 1),
        )  # fmt: skip


def _band_m(survey: LiftSurvey, plan: Plan) -> tuple[float, float]:
    """From which level to which it is drawn down."""
    start_m = plan.value(Role.START_1, 0.0)
    stop_m = plan.value(Role.STOP, max(0.0, start_m - survey.control.swing_m))
    return start_m, start_m - BAND_SHARE * (start_m - stop_m)


def shown(scenes: Scenes, proof: Proof) -> Shown:
    """The scene of one pump and what to look at."""
    well, (high_m, low_m) = scenes.hyd.well, _band_m(scenes.survey, scenes.plan)
    pump, pumps = proof.of, [str(number) for number in range(1, scenes.hyd.pump_count + 1)]
    acts = [TimedAction(0.0, Act.SWITCH, each, HAND if each == pump else OFF) for each in pumps]
    ends_s = BEGINS_S + max(10.0, (well.volume_m3(high_m) - well.volume_m3(low_m)) / proof.expected)
    still = [TimedAction(at_s, Act.INFLOW, "", 0.0) for at_s in (0.0, BEGINS_S, ends_s)]  # nothing comes in, and somebody looks at both ends

    def flow_m3s(run: LiftRun) -> float | None:
        place, begins = run.bench.columns.index("level_m") + 1, next((row for row in run.trace if row[0] >= BEGINS_S), None)
        if begins is None or run.now_s <= begins[0]:
            return None
        return (well.volume_m3(begins[place]) - well.volume_m3(run.bench.plant.level_m)) / (run.now_s - begins[0])

    return Scene(f"pump {pump} alone in HAND", high_m, (*acts, *still), ends_s), flow_m3s
