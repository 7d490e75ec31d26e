"""The order of proofs that needs the fewest changes: worked by hand, and against every order there is."""

import unittest
from itertools import permutations

from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.order import AUTO, as_listed, fewest_changes, stand_of
from goodbalance.core.rehearsal.proving import HAND, OFF, Scene
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.lift.kind import LIFT
from tests import boosters, stations

FIRST, SECOND, NONE = {"1": HAND, "2": OFF}, {"1": OFF, "2": HAND}, {"1": OFF, "2": OFF}


def proof(name: str) -> Proof:
    return Proof(name, name, "", "", (), "", "", Answer.YES_NO)


def scene(name: str, places: dict[str, float]) -> Scene:
    later = TimedAction(5.0, "switch", "1", OFF)  # in the scene, not before it
    return Scene(name, 0.0, (*(TimedAction(0.0, "switch", pump, place) for pump, place in places.items()), TimedAction(0.0, "inflow", "", 0.1), later), 10.0)


class OrderTest(unittest.TestCase):
    def test_worked_by_hand(self) -> None:
        """Listed: first in HAND, AUTO, first in HAND, all OFF, second in HAND: 2 + 2 + 2 + 1 + 1 + 2 = 10 turns. Put together: AUTO, first in HAND (2),
        all OFF (1), second in HAND (1), back (2): 6 turns, and the two proofs of one scene are one doing."""
        scenes = {"a": scene("one", FIRST), "b": scene("two", {}), "c": scene("one", FIRST), "d": scene("three", NONE), "e": scene("four", SECOND)}
        proofs = [proof(name) for name in "abcdef"]
        listed, fewest = as_listed(proofs, scenes), fewest_changes(proofs, scenes)
        self.assertEqual((listed.turns, listed.doings), (10, 6))
        self.assertEqual((fewest.turns, fewest.doings), (6, 5))
        groups = {group.stand: "".join(each.id for each in group.proofs) for group in fewest.groups}
        self.assertEqual(groups, {AUTO: "b", stand_of(scenes["a"]): "ac", stand_of(scenes["d"]): "d", stand_of(scenes["e"]): "e", None: "f"})
        self.assertIsNone(fewest.groups[-1].stand)  # by eye comes last

    def test_no_other_order_turns_fewer(self) -> None:
        places = ({"1": HAND, "2": OFF, "3": OFF}, {"1": OFF, "2": HAND, "3": OFF}, {"1": OFF, "2": OFF, "3": OFF}, {"2": OFF}, {})
        scenes = {str(number): scene(str(number), each) for number, each in enumerate(places)}
        proofs = [proof(name) for name in scenes]
        least = min(as_listed(list(order), scenes).turns for order in permutations(proofs))
        self.assertEqual(fewest_changes(proofs, scenes).turns, least)

    def test_of_real_plans_every_proof_stands_once_and_nothing_takes_longer(self) -> None:
        for kind, made in ((LIFT, stations), (BOOSTER, boosters)):
            survey, choices = made.survey(control={"phase_monitor": True}, protection={"monitor": "voltages"}), made.choices()
            plan = kind.reckon(survey, choices, False)
            proofs, scenes = kind.proofs(survey, choices, plan), kind.scenes(survey, choices, plan)
            shown = {each.proof.id: each.scene for each in kind.prove_on_bench(survey, choices, plan)}
            self.assertEqual(scenes, shown)
            listed, fewest = as_listed(proofs, scenes), fewest_changes(proofs, scenes)
            self.assertEqual(sorted(each.id for group in fewest.groups for each in group.proofs), sorted(each.id for each in proofs))
            self.assertLess(fewest.turns, listed.turns)
            self.assertLessEqual(fewest.doings, listed.doings)

    def test_with_nothing_to_prove(self) -> None:
        self.assertEqual((fewest_changes([], {}).groups, fewest_changes([], {}).turns, as_listed([], {}).doings), ((), 0, 0))
