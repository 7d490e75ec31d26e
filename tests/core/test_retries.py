"""A load monitor that lets a pump try again: after what wait, how often, and what a person's visit changes."""

import unittest

from goodbalance.core.protection.currents import of_plate
from goodbalance.core.protection.names import After, UnderloadBy
from goodbalance.core.protection.numbers import MotorNumbers
from goodbalance.core.protection.watch import Watch
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.stations.lift.controller.program import program_of
from goodbalance.core.stations.lift.kind import LIFT
from tests import stations
from tests.core.test_protection import PLATE
from tests.trails import false_trails


class RetryTest(unittest.TestCase):
    """A load monitor that lets a pump try again: as often and as late as it may, and no oftener."""

    FACTS = {"protection": {"underload_by": "power", "refill_s": 400.0, "patience_s": 1500.0}}

    def station(self, **chosen: float):
        survey, choices = stations.survey(**self.FACTS), stations.choices(chosen=chosen)
        choices = choices.model_copy(update={"protection": choices.protection.model_copy(update={"after": After.TRIES})})
        return survey, choices, LIFT.reckon(survey, choices, False)

    def test_between_refilling_cooling_and_what_can_be_waited_for(self) -> None:
        """Water is back after 400 s, 15 starts an hour are 240 s; 1500 s can be waited: 400 to 1500 s, and 1500 / 480 = 3.1 tries."""
        *_, plan = self.station()
        wait, count = plan.setting("retry_wait_1"), plan.setting("retries_1")
        self.assertEqual((wait.window.low, wait.window.high), (400.0, 1500.0))
        self.assertEqual({bound.cause: bound.value for bound in wait.window.lower}["cooling between two starts"], 3600.0 / plan.setting("retry_wait_1").window.lower[1].trail.terms[0].value)
        self.assertEqual((wait.value, count.value, count.step), (480.0, 2.0, 1.0))  # 400 + 0.1 x 1100 = 510 in steps of 60; 1 + 0.3 x 2.125
        self.assertAlmostEqual(count.window.high, 1500.0 / 480.0)
        self.assertEqual(false_trails(plan), [])
        hasty = self.station(retry_wait_1=1400.0)[2].setting("retries_1")
        self.assertLess(hasty.window.high, 2.0)

    def test_without_being_asked_to_it_waits_for_a_person(self) -> None:
        survey, choices = stations.survey(**self.FACTS), stations.choices()
        plan = LIFT.reckon(survey, choices, False)
        self.assertNotIn("retries_1", plan)
        self.assertEqual([each.retries for each in program_of(survey, choices, plan).motors], [0.0, 0.0])

    def test_it_tries_so_often_so_late_and_then_stays_out_until_somebody_comes(self) -> None:
        """Valve shut from 60 s on, 13 s delay, 420 s wait, twice: trips at 73 s; tries at 493 and at 926 s, each for 13 s; then nothing more. OFF and AUTO: it counts anew."""
        survey, choices, plan = self.station(retry_wait_1=420.0, retries_1=2.0, underload_delay_1=13.0)
        acts = (
            TimedAction(0.0, "inflow", "", 0.002), TimedAction(0.0, "switch", "2", 1.0), TimedAction(0.0, "switch", "1", 0.0), TimedAction(60.0, "shut", "1", 1.0),
            TimedAction(3000.0, "switch", "1", 1.0), TimedAction(3010.0, "switch", "1", 0.0),
        )  # fmt: skip
        run = rehearse(LIFT.bench(survey, choices, plan, 1.6), acts, 3600.0)
        starts = [event.at_s for event in among(run.events, Thing.PUMP, Doing.STARTS)]
        gone = [event.at_s for event in among(run.events, Thing.PUMP, Doing.GIVEN_UP)]
        for found, wanted in zip((*starts, *gone), (0.0, 493.0, 926.0, 3010.0, 3443.0, 73.0, 506.0, 939.0, 3023.0, 3456.0)):
            self.assertAlmostEqual(found, wanted, delta=3.1)
        self.assertEqual((len(starts), len(gone)), (5, 5))
        seen = rehearse(LIFT.bench(survey, choices, plan, 1.6), acts, 200.0).seen_at(200.0).reasons()[0].links
        (link,) = [link for link in seen if link.name == "Next try"]
        self.assertAlmostEqual(link.remaining_s, 293.0, delta=4.1)
        self.assertIn("1 more after it", link.text)
        locked = rehearse(LIFT.bench(survey, choices, plan, 1.6), acts, 2000.0).seen_at(2000.0).reasons()[0].links
        self.assertNotIn("Next try", [link.name for link in locked])

    def test_a_pump_that_has_worked_well_for_a_wait_has_all_its_tries_again(self) -> None:
        watch, now_s = Watch(PLATE, of_plate(PLATE), MotorNumbers(by=UnderloadBy.POWER, underload=2500.0, delay_s=5.0, retry_wait_s=60.0, retries=1.0)), 0.0
        for _ in range(3):
            while watch.look(now_s, 1000.0) is None:
                now_s += 1.0
            watch.stopped(now_s)
            self.assertIsNotNone(watch.due_s)
            watch.look(now_s, None)
            now_s += 60.0
            self.assertTrue(watch.may_try(now_s))
            for _ in range(62):
                self.assertIsNone(watch.look(now_s, PLATE.input_w))
                now_s += 1.0
