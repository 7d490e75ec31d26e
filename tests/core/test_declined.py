"""Protections a job does without: gone from plan, sheet, program and proofs, told in the plan; those people depend on stay."""

import unittest

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.lift.controller.program import program_of
from goodbalance.core.stations.lift.kind import LIFT
from tests import boosters, stations

WAYS = (
    (LIFT, stations, {}), (LIFT, stations, {"control": {"kind": "pump_controller", "level_by": "sensor_and_floats", "floats": 3}}),
    (LIFT, stations, {"control": {"kind": "relays_alone"}}), (LIFT, stations, {"control": {"level_by": "floats", "floats": 5}}),
    (BOOSTER, boosters, {"suction_sensor": {"low_pa": -1e5, "high_pa": 4e5}}), (BOOSTER, boosters, {"control": {"kind": "on_off"}}),
)  # fmt: skip


class DeclinedTest(unittest.TestCase):
    def test_each_by_itself_leaves_nothing_of_it_behind_and_the_rest_as_it_was(self) -> None:
        for kind, made, changes in WAYS:
            survey, choices = made.survey(**changes), made.choices()
            whole = kind.reckon(survey, choices, False)
            failed = [each.proof.id for each in kind.prove_on_bench(survey, choices, whole) if each.verdict is Verdict.FAILED]
            for setting_id, others in kind.declinable.items():
                if setting_id not in whole:
                    continue
                with self.subTest(kind=kind.id, changes=changes, declined=setting_id):
                    fewer = choices.model_copy(update={"declined": (setting_id,)})
                    plan = kind.reckon(survey, fewer, False)
                    gone = {setting_id, *others}
                    self.assertEqual([s for s in whole.settings if s.id not in gone], list(plan.settings))
                    self.assertEqual([s.id for s in plan.declined], [setting_id])
                    named = {one for proof in kind.proofs(survey, fewer, plan) for one in (*proof.proves, proof.of)}
                    self.assertFalse(gone & named)
                    values = kind.keypad.values(survey, fewer, plan, fewer.keypad.display)
                    self.assertFalse([m for m in values if m.split(".")[-1] in gone and m.startswith(("setting.", "drive."))])
                    shown = kind.prove_on_bench(survey, fewer, plan)
                    self.assertEqual([each.proof.id for each in shown if each.verdict is Verdict.FAILED], failed)
                    kind.joints(survey, fewer, plan)
                    bench = kind.bench(survey, fewer, plan)
                    kind.live.expected(survey, fewer, plan, kind.live.told(bench, 0.0))
                    for setting in plan.settings:
                        plan.built_on(setting.window.governing_lower, True)

    def test_what_protects_people_is_not_declined(self) -> None:
        """A high alarm and a high-pressure stop never; a cut-out not where a pump runs on blind; a low alarm not where it alone tells of a broken wire."""
        for kind, made, changes, schools, setting_id, words in (
            (LIFT, stations, {}, {}, "high_alarm", "in the street"), (BOOSTER, boosters, {}, {}, "high_stop", "People stand beside"),
            (LIFT, stations, {}, {"sensor_failure": "run_duty"}, "low_cut_out", "no low-level float stops it"),
            (LIFT, stations, {"sensor": {"signal": "0_10_v"}}, {}, "low_alarm", "only the low alarm tells"), (LIFT, stations, {}, {}, "start_1", "no protection"),
        ):  # fmt: skip
            survey, choices = made.survey(**changes), made.choices(schools=schools)
            self.assertIn(words, kind.not_declined(survey, choices, kind.reckon(survey, choices, False), setting_id))
            sneaked = kind.reckon(survey, choices.model_copy(update={"declined": ("high_alarm", "high_stop", "start_1", "set_pressure")}), False)
            self.assertEqual(sneaked.declined, ())
        survey = stations.survey(demands={"low_float": True})
        choices = stations.choices(schools={"sensor_failure": "run_duty"})
        self.assertEqual(LIFT.not_declined(survey, choices, LIFT.reckon(survey, choices, False), "low_cut_out"), "")

    def test_what_is_declined_does_not_act(self) -> None:
        """With a stop that never opens the cut-out at 0.35 m saves the pump, and without it nothing does; a booster without its stop runs dry."""
        for declined, running in (((), ()), (("low_cut_out",), (0,))):
            survey, choices = stations.survey(), stations.choices(declined=declined)
            plan = LIFT.reckon(survey, choices, False)
            program = program_of(survey, choices, plan, lacking=frozenset(("stop",)))
            acts = (TimedAction(0.0, "inflow", "", 0.004), TimedAction(200.0, "inflow", "", 0.0))
            run = rehearse(LIFT.bench(survey, choices, plan, 1.6, program), acts, 4000.0)
            self.assertEqual((run.bench.running, run.bench.plant.level_m < 0.34), (running, bool(running)))
        survey = boosters.survey(suction_sensor={"low_pa": -1e5, "high_pa": 4e5})
        for declined, runs in (((), False), (("low_suction_stop",), True)):
            choices = boosters.choices().model_copy(update={"declined": declined})
            plan = BOOSTER.reckon(survey, choices, False)
            numbers = numbers_of(survey, choices, plan)
            self.assertIs(numbers.low_suction_stop < -1e8, runs)
