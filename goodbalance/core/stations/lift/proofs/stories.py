"""What usually happens at a lift station before somebody comes and looks, and what water and hands can do there then."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.proving import OFF, Scene
from goodbalance.core.rehearsal.troubles import Lever
from goodbalance.core.stations.lift.bench.rehearse import MOST_INFLOW_M3S, LiftBench
from goodbalance.core.stations.lift.names import Act
from goodbalance.core.stations.lift.proofs.scenes import Scenes
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.shared.acts import switch_levers

SHORTEST_S, LONGEST_S = 600.0, 7200.0
ALL_SHARE = 1.3  # of what all duty pumps can give: more comes than goes


def stories(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> tuple[Scene, ...]:
    """Cycles at the mean inflow, the peak, more than the pumps can give, and a well drawn down with nothing coming in."""
    of = Scenes(survey, plan, choices.rules)
    well, inflow, at_m = of.hyd.well, survey.inflow, max(0.0, of.start_m - 0.05)
    one_m3s, all_m3s = of.hyd.strongest_m3s(1, of.stop_m), of.hyd.strongest_m3s(len(of.duty), of.start_m)
    band_m3, spare_m3 = well.volume_m3(of.start_m) - well.volume_m3(of.stop_m), well.volume_m3(survey.inlet.overflow_m) - well.volume_m3(at_m)
    mean_m3s, flood_m3s = max(inflow.mean_m3s, 1e-6), max(ALL_SHARE * all_m3s, inflow.peak_m3s)
    fills_s, empties_s = band_m3 / mean_m3s, band_m3 / max(one_m3s - mean_m3s, 0.1 * one_m3s)
    return (
        Scene("the mean inflow", of.stop_m + 0.02, (_flow(mean_m3s),), _within(1.5 * (fills_s + empties_s))),
        Scene("the peak inflow", at_m, (_flow(inflow.peak_m3s),), _within(1.5 * spare_m3 / max(inflow.peak_m3s, 1e-6))),
        Scene("more than the pumps can give", at_m, (_flow(flood_m3s),), _within(1.5 * spare_m3 / flood_m3s)),
        Scene("hardly any inflow", min(of.start_m + 0.02, of.top_m), (_flow(0.0),), _within(1.5 * band_m3 / one_m3s)),
    )  # fmt: skip


def at_work(survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> Scene:
    """Pump 1 runs at about its start level, with as much coming in as it takes."""
    of = Scenes(survey, plan, choices.rules)
    at_m = min(of.start_m + 0.02, of.top_m)
    others = tuple(TimedAction(0.0, Act.SWITCH, str(pump), OFF) for pump in range(2, of.hyd.pump_count + 1))
    return Scene("pump 1 at work", at_m, (_flow(0.98 * of.hyd.point((0,), at_m).flow_m3s), *others), LONGEST_S)


def _flow(inflow_m3s: float) -> TimedAction:
    return TimedAction(0.0, Act.INFLOW, "", min(inflow_m3s, MOST_INFLOW_M3S))


def _within(seconds: float) -> float:
    return min(LONGEST_S, max(SHORTEST_S, seconds))


def levers(bench: LiftBench) -> tuple[Lever, ...]:
    """Water that comes or stays away, switches, the reset."""
    plant, pumps = bench.plant, range(1, bench.logic.panel.pump_count + 1)
    beyond_m3s = ALL_SHARE * plant.pumped_m3s(tuple(range(len(pumps))), max(plant.level_m, plant.intake_m + 0.1))
    found = [
        Lever("The water rises: more comes in than goes", (_flow(max(beyond_m3s, plant.hydraulics.survey.inflow.peak_m3s)),)),
        Lever("The water falls: nothing comes in", (_flow(0.0),)),
        Lever("Alarms reset", (TimedAction(0.0, Act.RESET, "", 0.0),)),
    ]
    for pump in pumps:
        found += switch_levers(Act.SWITCH, pump, bench.logic.panel.tripped[pump - 1] is not None)
    return tuple(found)
