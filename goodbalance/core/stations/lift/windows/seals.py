"""The window of a seal relay's dial: the resistance under which it takes an oil chamber for wet."""

from goodbalance.core.balance.plan import Setting, placed
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import RULE, Bound, Source, Window
from goodbalance.core.protection.names import GROUP
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.survey import LiftSurvey

APART, STEP_OHM, LEAN = 0.2, 1000.0, 0.3  # from wet and from dry; of the way up: water in oil conducts badly at first, damp cables better


def seal_settings(survey: LiftSurvey, choices: LiftChoices) -> tuple[Setting, ...]:
    """One dial for all pumps, where the relay has one. [ohm]"""
    control = survey.control
    if not (control.seal_probes and control.seal_dial):
        return ()
    wet_ohm, dry_ohm = control.seal_wet_ohm, control.seal_dry_ohm
    apart = Term("m", "apart by, a rule of ours", APART, Q.PERCENT)
    low, high = wet_ohm * (1.0 + APART), dry_ohm * (1.0 - APART)
    lower = Bound(
        low, "a wet chamber", "Water in the oil is not seen: bearings and winding go next.", Source.MAKER,
        Trail("R = w · (1 + m)", (Term("w", "resistance at which the chamber counts as wet", wet_ohm, Q.RESISTANCE), apart), Term("R", "bound", low, Q.RESISTANCE), f"maker; {RULE}"),
    )  # fmt: skip
    upper = Bound(
        high, "dry probes and their cables", "A damp cable raises the alarm until nobody listens.", Source.PHYSICS,
        Trail("R = d · (1 - m)", (Term("d", "resistance of dry probes with their cables", dry_ohm, Q.RESISTANCE), apart), Term("R", "bound", high, Q.RESISTANCE), f"meter; {RULE}"),
    )  # fmt: skip
    labels = ("Seal alarm under", "leakage relay sensitivity")
    proof = "With a resistance box across a probe's leads, turned down until the alarm comes."
    return (placed(S.SEAL_LIMIT, labels, Q.RESISTANCE, Window((lower,), (upper,)), LEAN, STEP_OHM, choices.chosen.get(S.SEAL_LIMIT), proof, GROUP),)
