"""What usually happens at a fire line before somebody comes and looks, and what water and hands can do there then."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.rehearsal.proving import HAND, OFF, Scene
from goodbalance.core.rehearsal.troubles import Lever
from goodbalance.core.stations.maintenance.bench.rehearse import MaintenanceBench
from goodbalance.core.stations.maintenance.names import Act
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.plant.hydraulics import hydraulics
from goodbalance.core.stations.maintenance.proofs.on_bench import act
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey

AUTO, BETWEEN_S = 2.0, 2.0  # the place of a switch; a hand between two places of it
WORKS_S = 120.0


def _rest_pa(survey: MaintenanceSurvey, plan: Plan) -> float:
    return min(plan.value(S.STOP_PRESSURE, 0.0), hydraulics(survey).shut_off_pa(False))


def stories(survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> tuple[Scene, ...]:
    """Hours at rest, a small bleed, one sprinkler, and a sprinkler that was closed again."""
    rest_pa, drip = _rest_pa(survey, plan), survey.line.permitted_m3s
    return (
        Scene("hours at rest", rest_pa, (), 4.0 * 3600.0), Scene("a small bleed", rest_pa, (act(60.0, Act.BLEED, drip),), 3600.0),
        Scene("a sprinkler opens", rest_pa, (act(60.0, Act.SPRINKLERS, 1.0),), 600.0),
        Scene("a test of the main pump is over", hydraulics(survey).churn_pa(True), (), 1800.0),
    )  # fmt: skip


def at_work(survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> Scene:
    """The pump in HAND brings the line up and holds it against a bleed."""
    return Scene("the pump at work", _rest_pa(survey, plan), (act(0.0, Act.BLEED, 5.0 * survey.line.permitted_m3s), act(0.0, Act.SWITCH, HAND, "1")), WORKS_S)


def levers(bench: MaintenanceBench) -> tuple[Lever, ...]:
    """Bleeds, a sprinkler, reset, the switch."""
    drip = bench.survey.line.permitted_m3s
    off, auto = act(0.0, Act.SWITCH, OFF, "1"), act(BETWEEN_S, Act.SWITCH, AUTO, "1")
    return (
        Lever("Bleed by the drop", (act(0.0, Act.BLEED, drip),)), Lever("Bleed shut", (act(0.0, Act.BLEED, 0.0),)), Lever("Reset pressed", (act(0.0, Act.RESET, 0.0),)),
        Lever("The pump to OFF and back to AUTO", (off, auto)), Lever("The pump to OFF: nothing keeps the line then", (off,)),
        Lever("The pump to HAND: it climbs to its shut-off, stay beside it", (act(0.0, Act.SWITCH, HAND, "1"),)),
    )  # fmt: skip
