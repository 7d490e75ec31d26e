"""A load monitor that lets a pump try again: after what wait, how often, what comes then; one that follows a drive's speed; and contacts in a winding."""

import math
import unittest
from dataclasses import replace

from goodbalance.core.control.retries import Again
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.currents import of_plate
from goodbalance.core.protection.names import After, Follows, UnderloadBy
from goodbalance.core.protection.numbers import MotorNumbers
from goodbalance.core.protection.watch import Watch
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.lift.controller.program import program_of
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.shared.held import Held
from tests import boosters, stations
from tests.core.test_protection import PLATE
from tests.trails import false_trails


class RetryTest(unittest.TestCase):
    """A load monitor that lets a pump try again: as often and as late as it may, and no oftener."""

    AFTER = After.TRIES
    FACTS = {"protection": {"underload_by": "power", "refill_s": 400.0, "patience_s": 1500.0}}

    def station(self, **chosen: float):
        survey, choices = stations.survey(**self.FACTS), stations.choices(chosen=chosen)
        choices = choices.model_copy(update={"protection": choices.protection.model_copy(update={"after": self.AFTER})})
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
        self.assertEqual([each.again.count for each in program_of(survey, choices, plan).motors], [0.0, 0.0])

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
        watch, now_s = Watch(PLATE, of_plate(PLATE), MotorNumbers(by=UnderloadBy.POWER, underload=2500.0, delay_s=5.0, again=Again(60.0, 1.0))), 0.0
        for _ in range(3):
            while watch.look(now_s, 1000.0) is None:
                now_s += 1.0
            watch.retries.stopped(now_s, watch.numbers.again)
            self.assertIsNotNone(watch.retries.due_s)
            watch.look(now_s, None)
            now_s += 60.0
            self.assertTrue(watch.retries.may_try(now_s))
            for _ in range(62):
                self.assertIsNone(watch.look(now_s, PLATE.input_w))
                now_s += 1.0


class LongWaitTest(RetryTest):
    """The same with a long wait in place of a person; only what differs is looked at anew."""

    AFTER = After.LONG_WAIT

    def test_it_tries_so_often_so_late_and_then_stays_out_until_somebody_comes(self) -> None:
        """Trips at 73, 506 and 939 s with two tries between; then 2 h of rest, 939 + 7200 = 8139 s, and it begins anew: trip at 8152, a try at 8572 s."""
        survey, choices, plan = self.station(retry_wait_1=420.0, retries_1=2.0, underload_delay_1=13.0, long_wait_1=7200.0)
        window = plan.setting("long_wait_1").window
        self.assertEqual((window.low, window.high), (840.0, 86400.0))  # two tries of 420 s; a day
        self.assertEqual(false_trails(plan), [])
        acts = (TimedAction(0.0, "inflow", "", 0.002), TimedAction(0.0, "switch", "2", 1.0), TimedAction(0.0, "switch", "1", 0.0), TimedAction(60.0, "shut", "1", 1.0))
        run = rehearse(LIFT.bench(survey, choices, plan, 1.6), acts, 8700.0)
        starts = [event.at_s for event in among(run.events, Thing.PUMP, Doing.STARTS)]
        self.assertEqual(len(starts), 5)
        for found, wanted in zip(starts, (0.0, 493.0, 926.0, 8139.0, 8572.0)):
            self.assertAlmostEqual(found, wanted, delta=6.1)
        (link,) = [link for link in rehearse(LIFT.bench(survey, choices, plan, 1.6), acts, 4139.0).bench.reasons()[0].links if link.name == "Next try"]
        self.assertIn("long wait", link.text)
        self.assertAlmostEqual(link.remaining_s, 4000.0, delta=6.1)

    def test_what_it_does_is_proved_and_what_it_does_not_fails(self) -> None:
        """Waits, tries and rest pass as planned, for each kind; with a wait, a count or a rest of another length just that proof fails."""
        for kind, made in ((LIFT, stations), (BOOSTER, boosters)):
            facts = {"protection": {**self.FACTS["protection"], "closed_trips": True, "follows": Follows.CUBE}}
            survey, choices = made.survey(**facts), made.choices()
            if kind is BOOSTER:
                survey = made.survey(**facts, control={"kind": "on_off"})
            choices = choices.model_copy(update={"protection": choices.protection.model_copy(update={"after": After.LONG_WAIT})})
            plan = kind.reckon(survey, choices, False)
            only = frozenset({"retries_1", "tries_1"})
            program = (program_of if kind is LIFT else numbers_of)(survey, choices, plan)
            for change, fails in (({}, set()), ({"wait_s": 1.5 * program.motors[0].again.wait_s}, {"retries_1"}), ({"count": 0.0}, {"retries_1", "tries_1"}), ({"long_s": math.inf}, {"tries_1"})):
                motors = tuple(replace(each, again=replace(each.again, **change)) for each in program.motors)
                found = kind.prove_on_bench(survey, choices, plan, Held(plan, replace(program, motors=motors)), only=only)
                self.assertEqual({each.proof.id for each in found if each.verdict.value != "passed"}, fails, (kind.id, change))


class FollowTest(unittest.TestCase):
    """With a drive the load falls as the cube of the speed."""

    def plan(self, follows: Follows, by: str = "power", closed_trips: bool = True):
        survey = stations.survey(drives={"fitted": True}, protection={"underload_by": by, "follows": follows, "closed_trips": closed_trips})
        return LIFT.reckon(survey, stations.choices(), False)

    def test_from_which_speed_on_honest_work_takes_more_than_a_closed_valve_at_full_speed(self) -> None:
        """Closed 1420.28 W x 1.08 x 1.05 = 1610.6 W; least honest work 2424.57 W x 0.92 x 0.95 = 2119.08 W at full speed: (1610.6 / 2119.08)^(1/3) = 0.9126.
        Half way to 0.97: 0.94; there 2119.08 x 0.94^3 = 1760.07 W bounds the limit from above. By the cube it is 2119.08 W itself, at one limit 0.6 of it."""
        plan = self.plan(Follows.FROM_SPEED)
        speed, limit = plan.setting("underload_speed_1"), plan.setting("underload_1")
        self.assertAlmostEqual(speed.window.low, (1610.6 / 2119.08) ** (1.0 / 3.0), places=4)
        self.assertEqual((speed.window.high, speed.value), (0.97, 0.94))
        self.assertAlmostEqual(limit.window.high, 2119.08 * 0.94**3, delta=0.1)
        self.assertAlmostEqual(self.plan(Follows.CUBE).setting("underload_1").window.high, 2119.08, delta=0.1)
        self.assertTrue(self.plan(Follows.FIXED).setting("underload_1").window.is_empty)
        for plan in (self.plan(Follows.FROM_SPEED), self.plan(Follows.CUBE), self.plan(Follows.FROM_SPEED, "current"), self.plan(Follows.FROM_SPEED, closed_trips=False)):
            self.assertEqual(false_trails(plan), [])

    def test_a_current_has_no_cube_and_where_one_limit_cannot_tell_the_ways_out_are_named(self) -> None:
        self.assertIn("cube_of_current", [finding.code for finding in self.plan(Follows.CUBE, "current").findings])
        (told,) = [finding.text for finding in self.plan(Follows.FIXED, "current").findings if finding.code == "cannot_tell"]
        self.assertIn("above a speed", told)

    def test_the_monitor_heeds_the_speed(self) -> None:
        """1000 W at half speed: under 2500 W it is low at any speed, from 0.8 on it is not looked at, by the cube the limit is 312.5 W."""
        for numbers, trips in (({}, True), ({"from_speed": 0.8}, False), ({"cube": True}, False)):
            watch = Watch(PLATE, of_plate(PLATE), MotorNumbers(by=UnderloadBy.POWER, underload=2500.0, delay_s=5.0, **numbers))
            watch.look(0.0, 1000.0, 0.5)
            self.assertEqual(watch.look(6.0, 1000.0, 0.5) is Trip.UNDERLOAD, trips, numbers)
            self.assertIs(watch.look(12.0, 200.0, 0.5) is Trip.UNDERLOAD, trips, numbers) if trips else None
        cube = Watch(PLATE, of_plate(PLATE), MotorNumbers(by=UnderloadBy.POWER, underload=2500.0, delay_s=5.0, cube=True))
        cube.look(0.0, 300.0, 0.5)
        self.assertIs(cube.look(6.0, 300.0, 0.5), Trip.UNDERLOAD)


class WindingTest(unittest.TestCase):
    def test_contacts_in_a_winding_open_before_it_burns_and_after_an_overload_that_is_set_right(self) -> None:
        """Heat goes to x^2 with 1200 s: at 1.15 times the plate's current x^2 = 1.3225, and 1.2 is there after 1200 ln(1.3225 / 0.1225) = 2854.9 s."""
        watch = Watch(PLATE, of_plate(PLATE), MotorNumbers(hot=True))
        load_w = PLATE.input_w * 1.15
        watch.model = replace(watch.model, idle_a=0.0, active_a=PLATE.current_a)
        watch.look(0.0, load_w)
        self.assertAlmostEqual(watch.left_s(), 1200.0 * math.log(1.3225 / 0.1225), delta=0.5)
        self.assertIsNone(watch.look(2850.0, load_w))
        self.assertIs(watch.look(2856.0, load_w), Trip.HOT)
        self.assertFalse(watch.burns)
        cool = Watch(PLATE, of_plate(PLATE), MotorNumbers(hot=True))
        cool.look(0.0, PLATE.input_w)
        self.assertIsNone(cool.look(36000.0, PLATE.input_w))

    def test_a_wire_off_its_contacts_keeps_the_pump_still_and_that_is_proved(self) -> None:
        for kind, made in ((LIFT, stations), (BOOSTER, boosters)):
            survey, choices = made.survey(protection={"winding_by": "contact"}), made.choices()
            plan = kind.reckon(survey, choices, False)
            (shown,) = kind.prove_on_bench(survey, choices, plan, only=frozenset({"hot_1"}))
            self.assertEqual(shown.verdict.value, "passed", kind.id)
            program = (program_of if kind is LIFT else numbers_of)(survey, choices, plan)
            deaf = Held(plan, replace(program, motors=tuple(replace(each, hot=False) for each in program.motors)))
            (shown,) = kind.prove_on_bench(survey, choices, plan, deaf, only=frozenset({"hot_1"}))
            self.assertEqual(shown.verdict.value, "failed", kind.id)
            self.assertIn("winding.1", [joint.meaning for joint in kind.joints(survey, choices, plan)])
            self.assertNotIn("hot_1", [proof.id for proof in kind.proofs(made.survey(), choices, plan)])


class CasingTest(unittest.TestCase):
    FACTS = {"protection": {"casing_by": "thermostat", "casing_m3": 0.002, "casing_most_c": 90.0}}

    def test_between_warm_water_and_what_the_seal_stands_and_how_long_it_takes(self) -> None:
        """Water 16 degrees: 26 to 80, half way 53. 1420.28 W at closed valve x 2200 / 2840.56 to the shaft = 1100 W into 2 l: 1100 / 8360 = 0.1316 K/s, 37 K in 281 s."""
        plan = LIFT.reckon(stations.survey(**self.FACTS), stations.choices(), False)
        stop = plan.setting("casing_stop_1")
        self.assertEqual((stop.window.low, stop.window.high, stop.value), (26.0, 80.0, 53.0))
        (time,) = [figure for figure in plan.figures if figure.id == "casing_time_1"]
        self.assertAlmostEqual(time.value, 0.002 * 4.18e6 * 37.0 / 1100.0, delta=0.2)
        self.assertEqual(false_trails(plan), [])
        self.assertNotIn("casing_stop_1", LIFT.reckon(stations.survey(), stations.choices(), False))

    def test_it_is_stopped_there_cools_at_rest_and_boils_where_nothing_watches(self) -> None:
        """1100 W into 2 l of 16 degrees: 53 after 281 s, 100 after 638 s; an hour at rest leaves 1/e of what is over 16."""
        for stop_c, wanted in ((53.0, Trip.CASING), (math.inf, None)):
            watch = Watch(PLATE, of_plate(PLATE), MotorNumbers(casing_c=stop_c), water_c=16.0, casing_c=16.0, casing_jk=0.002 * 4.18e6)
            watch.look(0.0, 1100.0 / PLATE.efficiency, still=True)
            self.assertAlmostEqual(watch.left_s(), (37.0 if wanted else 84.0) * 8360.0 / 1100.0, delta=0.1)
            self.assertIs(watch.look(300.0, 1100.0 / PLATE.efficiency, still=True), wanted)
        self.assertAlmostEqual(watch.casing_c, 16.0 + 300.0 * 1100.0 / 8360.0)
        watch.look(300.0, None)
        watch.look(3900.0, 1100.0 / PLATE.efficiency, still=True)
        self.assertAlmostEqual(watch.casing_c, 16.0 + 300.0 * 1100.0 / 8360.0 / math.e, places=4)
        watch.look(5000.0, 1100.0 / PLATE.efficiency, still=True)
        self.assertTrue(watch.boils)
        watch.look(5001.0, 1100.0 / PLATE.efficiency)
        watch.look(5002.0, 1100.0 / PLATE.efficiency)
        self.assertEqual(watch.casing_c, 16.0)  # what flows through takes the heat along

    def test_both_kinds_prove_it_and_one_that_is_turned_too_high_fails(self) -> None:
        for kind, made in ((LIFT, stations), (BOOSTER, boosters)):
            survey, choices = made.survey(**self.FACTS), made.choices()
            plan = kind.reckon(survey, choices, False)
            program = (program_of if kind is LIFT else numbers_of)(survey, choices, plan)
            for more, verdict in ((0.0, "passed"), (15.0, "failed")):
                held = Held(plan, replace(program, motors=tuple(replace(each, casing_c=each.casing_c + more) for each in program.motors)))
                (shown,) = kind.prove_on_bench(survey, choices, plan, held, only=frozenset({"casing_1"}))
                self.assertEqual(shown.verdict.value, verdict, (kind.id, more))
        survey = boosters.survey()
        run = rehearse(BOOSTER.bench(survey, boosters.choices(), BOOSTER.reckon(survey, boosters.choices(), False)), (TimedAction(0.0, "switch", "1", 0.0), TimedAction(5.0, "shut", "1", 1.0)), 3600.0)
        self.assertIn("boils", [event.of for event in among(run.events, Thing.HARM, Doing.COMES)])
