"""Most pumps at once, and who stands by: the plan, the controller, what it is told, its proofs, in every kind that has several pumps."""

import unittest
from dataclasses import replace

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.control.rotation import Rotation
from goodbalance.core.rehearsal.engine import begun
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.controller.numbers import numbers_of as booster_numbers
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.proofs.on_bench import scenes
from goodbalance.core.stations.lift.controller.program import program_of
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.shared.crew import RESTS, STANDS, Standby, duty_of
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.transfer.controller.numbers import numbers_of as transfer_numbers
from goodbalance.core.stations.transfer.kind import TRANSFER
from tests import boosters, stations, transfers

KINDS = ((LIFT, stations, Display.METRES, program_of), (BOOSTER, boosters, Display.BAR, booster_numbers), (TRANSFER, transfers, Display.METRES_OF_WATER, transfer_numbers))
BOTH = frozenset({"most_at_once", "standby", "alternation"})


def of_kind(kind, made, **pumping):
    """Survey, choices and plan of a station of like pumps."""
    survey = made.survey(pumping=pumping, **({"control": {"kind": "pump_controller"}} if kind is LIFT else {}))
    return survey, made.choices(), kind.reckon(survey, made.choices(), False)


class CountTest(unittest.TestCase):
    def test_pumps_that_share_the_work(self) -> None:
        for count, standby, most, duty in ((4, False, None, 4), (4, False, 2, 4), (4, True, None, 3), (4, True, 2, 2), (4, True, 1, 1), (4, True, 4, 3), (2, True, None, 1), (1, True, None, 1)):
            self.assertEqual(duty_of(count, standby, most), duty, (count, standby, most))

    def test_none_left_to_stand_by_is_refused_with_the_field_and_both_numbers(self) -> None:
        for kind, *_ in KINDS:
            told = {"pumping.count": 3, "pumping.standby": True, "pumping.most_at_once": 3}
            (found,) = [each for each in kind.plausibility(told) if each.code == "most_is_all"]
            self.assertEqual((found.subject, [term.value for term in found.terms]), ("pumping.most_at_once", [3, 3]))
            self.assertNotIn("most_is_all", [each.code for each in kind.plausibility({**told, "pumping.most_at_once": 2})])

    def test_two_of_four_is_planned_as_two_pumps_are(self) -> None:
        """What hangs on how many run together is the same; a pump out of service costs nothing as long as one stands by."""
        for kind, made, *_ in KINDS:
            two, most = (2, 4) if kind is not TRANSFER else (1, 3)
            plain = of_kind(kind, made, count=two)[2]
            limited = of_kind(kind, made, count=most, standby=True, most_at_once=two)[2]
            self.assertEqual({each.id: each.value for each in limited.settings}, {each.id: each.value for each in plain.settings}, kind.id)
        firm, whole = ({figure.id: figure.value for figure in of_kind(BOOSTER, boosters, count=4, standby=True, most_at_once=2)[2].figures}[which] for which in ("speed_firm", "speed_all"))
        self.assertEqual(firm, whole)


class RotationTest(unittest.TestCase):
    def test_two_of_four_by_turns_and_two_that_wait(self) -> None:
        """Whose turn it is after each stop of all, and who comes where pump 1 is out."""
        for turns, after in ((False, [(0, 1), (1, 0), (0, 1)]), (True, [(0, 1), (1, 2), (2, 3)])):
            rotation, every = Rotation(4, standby=2, all_turn=turns), [True] * 4
            self.assertEqual(rotation.duty_count, 2)
            seen = []
            for _ in after:
                seen.append(rotation.serving([True, True], every))
                rotation.stopped(0, True, every, [0.0] * 4, 0.0)
            self.assertEqual(seen, after, turns)
        self.assertEqual(Rotation(4, standby=2).serving([True, True], [False, True, True, True]), (1, 2))


class TypedTest(unittest.TestCase):
    def test_what_a_controller_is_told(self) -> None:
        for kind, made, display, _ in KINDS:
            for pumping, standby, most in (
                ({"count": 3}, "no", None), ({"count": 3, "standby": True}, "yes", 2.0), ({"count": 3, "standby": True, "most_at_once": 1, "standby_turns": True}, "turns", 1.0), ({"count": 2, "standby": True}, "yes", None),
            ):  # fmt: skip
                values = kind.keypad.values(*of_kind(kind, made, **pumping), display)
                told = values.get("pumps.most")
                self.assertEqual((values["pumps.standby"].value, None if told is None else told.value), (standby, most), (kind.id, pumping))


class ProofTest(unittest.TestCase):
    def test_the_right_crew_passes_and_one_told_otherwise_fails(self) -> None:
        """Of three pumps one or two may run: a controller told of none that stands by runs one more, or takes them all into the turn."""
        for kind, made, _, numbers in KINDS:
            for most in (1, 2):
                survey, choices, plan = of_kind(kind, made, count=3, standby=True, most_at_once=most)
                found = {each.proof.id: each.verdict for each in kind.prove_on_bench(survey, choices, plan, only=BOTH)}
                self.assertEqual(set(found.values()), {Verdict.PASSED}, (kind.id, most, found))
                self.assertLessEqual({"most_at_once", "standby"}, found.keys(), kind.id)
                wrong = Held(plan, replace(numbers(survey, choices, plan), standby=Standby()))
                told = {each.proof.id for each in kind.prove_on_bench(survey, choices, plan, wrong, only=BOTH) if each.verdict is Verdict.FAILED}
                if most > 1:  # a plan for one pump gives no second one a call; levels make no more calls than there are of them
                    self.assertIn("most_at_once" if kind is BOOSTER else "alternation", told, kind.id)

    def test_the_reason_line_says_why_a_third_pump_rests(self) -> None:
        for turns, words in ((False, STANDS), (True, RESTS)):
            survey, choices, plan = of_kind(BOOSTER, boosters, count=4, standby=True, most_at_once=2, standby_turns=turns)
            scene = scenes(survey, choices, plan)["most_at_once"]
            run = begun(BOOSTER.bench(survey, choices, plan, scene.start), scene.actions)
            run.go_to(scene.until_s)
            self.assertEqual(run.bench.running, (0, 1))
            self.assertEqual([line.links[-1].text for line in run.bench.reasons()[2:]], [words, words])


if __name__ == "__main__":
    unittest.main()
