"""What begins again by itself: a set after lack of water or a power failure, a pump after a lost prime; after what wait, how often, what comes then."""

import math
import unittest
from dataclasses import replace

from goodbalance.core.control.reasons import LinkState
from goodbalance.core.control.retries import Again
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.asked import ProtectionChoices
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.names import PRIME, WATER, Stop
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.survey.choices import PrimeBy, Reset
from goodbalance.core.stations.shared.held import Held
from tests import boosters
from tests.core.test_booster_logic import FULL, LogicTest, logic
from tests.trails import false_trails

GONE, IN_AIR = {"suction_pa": -1e3}, {"powers_w": (100.0,) * 3}
AFTER = {"suction_reset": "long_wait", "lost_prime": "long_wait"}
FACTS = {"protection": {"refill_s": 400.0, "patience_s": 1500.0}}


class LogicOfTriesTest(LogicTest):
    """Delay 3 s for lack of water, 10 s for a lost prime; waits of 60 s, twice, then a person or 300 s."""

    def box(self, long_s: float = math.inf):
        box = logic({"suction_reset": "tries"}, pumps=1)
        again = Again(60.0, 2.0, long_s)
        box.numbers = replace(box.numbers, water_again=again, prime_again=again)
        box.own = (box.numbers,)
        return self.walk(box, (0.5, 340e3), (1.0, 400e3, 0.9))

    def test_lack_of_water_stops_it_three_times_and_then_a_person_must_come(self) -> None:
        box = self.box()
        for number in (1, 2):
            self.walk(box, (3.5, 400e3, None, GONE), (59.5, 330e3))
            self.assertEqual((box.stage, box.water.made, box.stops[Stop.LOW_SUCTION]), (0, number, False))
            self.walk(box, (1.0, 330e3))
            self.assertEqual(box.stage, 1)
        self.walk(box, (3.5, 400e3, None, GONE), (600.0, 330e3))
        self.assertEqual((box.stage, box.stops[Stop.LOW_SUCTION]), (0, True))
        box.reset()
        self.walk(box, (6.0, 330e3))
        self.assertEqual((box.stage, box.water.made), (1, 0))

    def test_the_wait_alone_does_not_bring_it_back(self) -> None:
        """The wait is over and water is not: as soon as it has been back for five seconds it goes on."""
        box = self.walk(self.box(), (200.0, 330e3, None, GONE), (4.5, 330e3))
        self.assertEqual(box.stage, 0)
        self.assertEqual(self.walk(box, (1.0, 330e3)).stage, 1)

    def test_a_set_that_had_water_for_a_wait_has_all_its_tries_again(self) -> None:
        for well_s, made in ((50.0, 2), (61.0, 1)):
            box = self.walk(self.box(), (3.5, 400e3, None, GONE), (60.5, 330e3), (well_s, 400e3, 0.9), (3.5, 400e3, None, GONE))
            self.assertEqual(box.water.made, made)

    def test_a_long_wait_takes_the_place_of_the_person(self) -> None:
        box = self.box(300.0)
        for _ in range(2):
            self.walk(box, (3.5, 400e3, None, GONE), (60.5, 330e3))
        self.walk(box, (3.5, 400e3, None, GONE), (299.0, 330e3))
        self.assertEqual((box.stage, box.stops[Stop.LOW_SUCTION]), (0, False))
        self.assertEqual(self.walk(box, (2.0, 330e3)).stage, 1)

    def test_a_reset_lets_it_begin_at_once_when_water_is_there(self) -> None:
        box = self.walk(self.box(), (3.5, 400e3, None, GONE), (20.0, 330e3))
        self.assertEqual(box.stage, 0)
        box.reset()
        self.assertEqual(self.walk(box, (1.0, 330e3)).stage, 1)

    def test_a_pump_in_air_is_given_up_three_times_and_stays_out(self) -> None:
        box = self.box()
        for _ in range(2):
            self.walk(box, (10.5, 400e3, None, IN_AIR))
            self.assertIs(box.tripped[0], Trip.NO_PRIME)
            self.walk(box, (60.5, 330e3))
            self.assertIsNone(box.tripped[0])
        self.walk(box, (10.5, 400e3, None, IN_AIR), (600.0, 330e3))
        self.assertIs(box.tripped[0], Trip.NO_PRIME)

    def test_another_trip_meanwhile_needs_its_person(self) -> None:
        box = self.walk(self.box(), (10.5, 400e3, None, IN_AIR))
        box.tripped[0] = Trip.OVERLOAD
        self.walk(box, (200.0, 330e3))
        self.assertEqual((box.tripped[0], box.primes[0].made), (Trip.OVERLOAD, 0))


class PrimeByTest(LogicTest):
    """What tells of a lost prime: the power of each pump, or what all share: the flow switch, or a pressure that stays away."""

    TABLE = (  # by what, what is seen for eleven seconds, pressure, given up
        ("power", IN_AIR, 400e3, True), ("power", {"flow_open": True}, 330e3, False),
        ("flow", IN_AIR, 400e3, False), ("flow", {"flow_open": True}, 330e3, True), ("flow", {"flow_open": True}, 345e3, False), ("flow", {}, 330e3, False),
        ("pressure", IN_AIR, 400e3, False), ("pressure", {"speeds": FULL}, 299e3, True), ("pressure", {"speeds": FULL}, 301e3, False), ("pressure", {"speeds": (0.8,) * 3}, 299e3, False),
    )  # fmt: skip

    def test_what_is_seen_and_who_is_given_up(self) -> None:
        """Restart 340 kPa, no-prime pressure 300 kPa, delay 10 s; a run-out counts under 250 kPa only."""
        for by, change, pressure, gone in self.TABLE:
            box = logic(pumps=1)
            box.numbers = replace(box.numbers, prime_by=PrimeBy(by), no_prime_pressure=300e3, burst_stop=250e3, burst_delay=100.0)
            box.own = (box.numbers,)
            self.walk(box, (0.5, 340e3), (1.0, 400e3, 0.9), (10.5, pressure, None, change))
            self.assertEqual(box.tripped[0] is Trip.NO_PRIME, gone, (by, change, pressure))

    def test_each_is_proved_and_another_threshold_or_delay_fails(self) -> None:
        for by, kind in (("flow", "constant"), ("pressure", "constant"), ("pressure", "on_off"), ("flow", "flow_stop")):
            survey = boosters.survey(control={"kind": kind, "flow_switch": True, "flow_switch_m3s": 0.0003}, vessel={"volume_m3": 0.8}, **FACTS)
            choices = boosters.choices(schools={"prime_by": by, "lost_prime": "tries"})
            plan = BOOSTER.reckon(survey, choices, False)
            self.assertNotIn("no_switch_for_prime", [finding.code for finding in plan.findings])
            self.assertEqual((S.NO_PRIME_PRESSURE in plan, S.NO_PRIME_LOAD in plan, false_trails(plan)), (by == "pressure", False, []))
            held = numbers_of(survey, choices, plan)
            for change, fails in (({}, set()), ({"no_prime_delay": 2.0 * held.no_prime_delay}, {"no_prime"})):
                found = BOOSTER.prove_on_bench(survey, choices, plan, Held(plan, replace(held, **change)), only=frozenset({"no_prime", "prime_wait", "prime_tries"}))
                self.assertEqual({each.proof.id for each in found if each.verdict.value != "passed"}, fails, (by, kind, change))
            self.assertEqual("burst" in BOOSTER.scenes(survey, choices, plan), by == "flow")  # a pressure that stays away may be either
        watched = boosters.survey(protection={"underload_by": "power", **FACTS["protection"]})
        plan = BOOSTER.reckon(watched, choices := boosters.choices(schools={"prime_by": "pressure"}), False)
        self.assertNotIn("no_prime", BOOSTER.scenes(watched, choices, plan))  # the load monitor is there first
        bare = boosters.plan_of(schools={"prime_by": "flow"})
        self.assertIn("no_switch_for_prime", [finding.code for finding in bare.findings])


class PowerBackTest(LogicTest):
    """After the supply was away: a delay for all, and a gap where each pump has a switch of its own."""

    OWN = {"control": {"kind": "on_off", "own_switches": True}, "vessel": {"volume_m3": 0.8}}

    def test_windows_by_hand(self) -> None:
        """The supply settles in 5 s, users bear 15 s; a start takes 1 s, and two waits share the 15 s. With a monitor that waits, or a person who resets, there is no delay."""
        plan = boosters.plan_of(**self.OWN)
        windows = {one: plan.setting(one).window for one in (S.POWER_DELAY, S.START_GAP)}
        self.assertEqual({one: (window.low, window.high) for one, window in windows.items()}, {S.POWER_DELAY: (5.0, 15.0), S.START_GAP: (1.0, 7.5)})
        self.assertEqual(false_trails(plan), [])
        watched = boosters.plan_of(control={"phase_monitor": True}, protection={"monitor": "voltages"})
        by_hand = BOOSTER.reckon(boosters.survey(), boosters.choices().model_copy(update={"protection": ProtectionChoices(power_return="by_hand")}), False)
        self.assertEqual([S.POWER_DELAY in each or S.START_GAP in each for each in (watched, by_hand)], [False, False])

    def test_nobody_starts_before_its_time_and_no_two_together(self) -> None:
        """Delay 7 s, gap 2 s: back at 60 s with every switch closed the pumps start at 67, 69 and 71 s."""
        survey, choices = boosters.survey(**self.OWN), boosters.choices(chosen={S.POWER_DELAY: 7.0, S.START_GAP: 2.0})
        acts = (TimedAction(0.0, "power", "", 0.0), TimedAction(0.0, "outlets", "", 2.0), TimedAction(60.0, "power", "", 1.0))
        run = rehearse(BOOSTER.bench(survey, choices, BOOSTER.reckon(survey, choices, False), 50e3), acts, 90.0)
        starts = [event.at_s for event in among(run.events, Thing.PUMP, Doing.STARTS)]
        self.assertEqual(len(starts), 3)
        for found, wanted in zip(starts, (67.0, 69.0, 71.0)):
            self.assertAlmostEqual(found, wanted, delta=0.6)
        at_64 = rehearse(BOOSTER.bench(survey, choices, BOOSTER.reckon(survey, choices, False), 50e3), acts, 64.0).seen_at(64.0).reasons()[0]
        self.assertEqual(at_64.links[at_64.deciding].name, "Restart")
        self.assertAlmostEqual(at_64.links[at_64.deciding].remaining_s, 3.0, delta=0.6)

    def test_another_delay_or_gap_fails_its_proof(self) -> None:
        for facts in ({}, self.OWN):
            survey, choices = boosters.survey(**facts), boosters.choices()
            plan = BOOSTER.reckon(survey, choices, False)
            held = numbers_of(survey, choices, plan)
            for change, fails in (({}, set()), ({"power_delay": 0.0}, {"power_delay"}), *([({"start_gap": 0.0}, {"start_gap"})] if facts else [])):
                found = BOOSTER.prove_on_bench(survey, choices, plan, Held(plan, replace(held, **change)), only=frozenset({"power_delay", "start_gap"}))
                self.assertEqual({each.proof.id for each in found if each.verdict.value != "passed"}, fails, change)


class PlanOfTriesTest(unittest.TestCase):
    def test_between_refilling_cooling_and_what_can_be_waited_for(self) -> None:
        """Water is back after 400 s, 20 starts an hour are 180 s; 1500 s can be waited; two tries of 480 s, a day at most of long wait."""
        plan = boosters.plan_of(schools=AFTER, **FACTS)
        for ids in (WATER, PRIME):
            wait, count, long = map(plan.setting, ids)
            self.assertEqual((wait.window.low, wait.window.high, wait.value), (400.0, 1500.0, 480.0))
            self.assertEqual({bound.cause: bound.value for bound in wait.window.lower}["cooling between two starts"], 180.0)
            self.assertEqual((count.window.low, count.value, long.window.low, long.window.high), (1.0, 2.0, 960.0, 86400.0))
            self.assertAlmostEqual(count.window.high, 1500.0 / 480.0)
        self.assertEqual(false_trails(plan), [])

    def test_only_where_it_is_chosen_and_something_can_stop_it(self) -> None:
        self.assertNotIn(S.WATER_WAIT, boosters.plan_of(schools={"suction_reset": "by_hand", "lost_prime": "tries"}))
        blind = boosters.plan_of(schools=AFTER, control={"suction_by": "none"})
        self.assertEqual([one in blind for one in (S.WATER_WAIT, S.PRIME_WAIT, S.PRIME_LONG_WAIT)], [False, True, True])
        self.assertNotIn(S.PRIME_LONG_WAIT, boosters.plan_of(schools={"lost_prime": "tries"}))

    def test_what_it_does_is_proved_and_what_it_does_not_fails(self) -> None:
        """As planned all pass, whoever sees the suction; with another wait, count or long wait just those proofs fail."""
        for reset, control, supply in (
            ("tries", {}, {}), ("long_wait", {"suction_by": "switch"}, {}), ("tries", {}, {"kind": "suction_lift", "pump_m": 0.0, "water_low_m": -2.0, "water_high_m": -1.0}),
        ):  # fmt: skip
            survey = boosters.survey(control=control, supply=supply, suction_sensor={"low_pa": -1e5, "high_pa": 3e5, "noise_pa": 500.0}, **FACTS)
            choices = boosters.choices(schools={"suction_reset": reset, "lost_prime": reset})
            plan = BOOSTER.reckon(survey, choices, False)
            numbers = numbers_of(survey, choices, plan)
            water, prime = numbers.water_again, numbers.prime_again
            self.assertEqual((water.count, prime.wait_s), (2.0, 480.0))
            only = frozenset({"water_wait", "water_tries", "prime_wait", "prime_tries", *(["water_back"] if not control else [])})
            cases = [
                ({}, set()), ({"water_again": replace(water, wait_s=600.0)}, {"water_wait"} if reset == "tries" else {"water_wait", "water_tries"}), ({"water_again": replace(water, count=1.0)}, {"water_tries"}),
                ({"suction_reset": Reset.AUTOMATIC, "water_again": Again()}, {"water_wait", "water_tries"}), ({"prime_again": Again()}, {"prime_wait", "prime_tries"}),
                ({"prime_again": replace(prime, count=3.0)}, {"prime_tries"}),
            ]  # fmt: skip
            if reset == "long_wait":
                cases.append(({"prime_again": replace(prime, long_s=math.inf), "water_again": replace(water, long_s=2.0 * water.long_s)}, {"prime_tries", "water_tries"}))
            for change, fails in cases:
                found = BOOSTER.prove_on_bench(survey, choices, plan, Held(plan, replace(numbers, **change)), only=only)
                self.assertEqual({each.proof.id for each in found if each.verdict.value != "passed"} - {"water_back"}, fails, (reset, control, change))
                if not change:
                    self.assertEqual({each.proof.id for each in found}, only)

    def test_the_next_try_and_what_is_left_stand_in_the_reason_line(self) -> None:
        survey = boosters.survey(**FACTS)
        choices = boosters.choices(schools={"suction_reset": "tries", "lost_prime": "tries"})
        plan = BOOSTER.reckon(survey, choices, False)
        acts = (TimedAction(1.0, "outlets", "", 0.3), TimedAction(60.0, "dry", "", 1.0))
        links = rehearse(BOOSTER.bench(survey, choices, plan), acts, 200.0).seen_at(200.0).reasons()[0].links
        (link,) = [link for link in links if link.name == "Next try"]
        self.assertIn("1 more after it", link.text)
        self.assertIs(link.state, LinkState.WAITS)
        stops_s = 60.0 + plan.value(S.LOW_SUCTION_DELAY, 0.0)
        self.assertAlmostEqual(link.remaining_s, stops_s + 480.0 - 200.0, delta=1.1)
        late = rehearse(BOOSTER.bench(survey, choices, plan), acts, 700.0)
        self.assertTrue(any("as soon as water is back" in link.text for link in late.seen_at(700.0).reasons()[0].links))
        self.assertEqual([event.at_s for event in among(late.events, Thing.LIMIT, Doing.CLEARS, of=Stop.LOW_SUCTION)], [])
        air = rehearse(BOOSTER.bench(survey, choices, plan), (TimedAction(1.0, "outlets", "", 0.3), TimedAction(60.0, "air", "1", 1.0)), 200.0)
        self.assertEqual([link.name for link in air.bench.reasons()[0].links][0], "Next try")


if __name__ == "__main__":
    unittest.main()
