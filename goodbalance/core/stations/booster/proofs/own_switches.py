"""Proofs of sets in which each pump has a pressure switch of its own: every switch by itself, the other pumps in OFF."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.proving import OFF
from goodbalance.core.stations.booster.bench import looks
from goodbalance.core.stations.booster.names import CUT_INS, CUT_OUTS, Act, Check
from goodbalance.core.stations.booster.proofs.scenes import FLOOD, PRESSED, STARTING, WORK, Scenes, Shown, act
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey

ABOVE_PA, UNDER_PA = 1.5e4, 1e3  # where water is drawn down from; where a pump is surely called
CHECKS = frozenset({Check.CUT_IN, Check.CUT_OUT})


def proofs(survey: BoosterSurvey, plan: Plan, tolerance_pa: float) -> Iterator[Proof]:
    """For each switch where it closes and where it opens. tolerance_pa: of a pressure read off the gauge."""
    for number in range(1, survey.pumping.count + 1):
        before = f"Pump {number} in AUTO, every other pump in OFF, the turn with pump 1; at rest."
        parts = (
            (Check.CUT_IN, CUT_INS, f"Switch {number} starts its pump", (STARTING, FLOOD), "Draw water slowly.", f"Pump {number}, and no other, starts when the gauge shows this."),
            (
                Check.CUT_OUT, CUT_OUTS, f"Switch {number} stops its pump", (STARTING, PRESSED), "Once it has started close every outlet slowly.",
                "The pump stops when the gauge shows this, and stays stopped.",
            ),
        )  # fmt: skip
        for check, settings, title, cautions, action, seen in parts:
            setting = settings[number - 1]
            if setting in plan:
                yield Proof(check, title, WORK, before, cautions, action, seen, Answer.NUMBER, plan.value(setting, 0.0), tolerance_pa, Q.PRESSURE, proves=(setting,), of=str(number))


def shown(scenes: Scenes, proof: Proof) -> Shown:
    """Its scene and what to look at: the other pumps in OFF, drawn down gently, or called and left to fill."""
    number = int(proof.of)
    closes_pa, _ = scenes.n.switches[number - 1]
    off = tuple(TimedAction(0.0, Act.SWITCH, str(pump), OFF) for pump in range(1, scenes.survey.pumping.count + 1) if pump != number)
    if proof.check == Check.CUT_IN:
        start_pa = max(0.0, closes_pa) + ABOVE_PA
        share, falls_s = scenes.gently(start_pa, max(0.0, closes_pa))
        acts = (*off, act(1.0, Act.OUTLETS, share))
        return scenes.scene(f"water drawn slowly, pump {number} alone", 60.0 + 2.0 * falls_s, *acts, start_pa=start_pa), looks.starts_pa
    start_pa = max(0.0, closes_pa - UNDER_PA)
    until_s = 120.0 + 10.0 * scenes.store_s
    return scenes.scene(f"pump {number} alone, every outlet closed", until_s, *off, start_pa=start_pa), lambda run: looks.stops_pa(run, 0.0)
