"""A transfer set on the bench: where the water goes, states with their timers, and what each fault does."""

import random
import unittest

from goodbalance.core.control.reasons import LinkState
from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.stations.transfer.bench import looks
from goodbalance.core.stations.transfer.bench.breakable import troubles
from goodbalance.core.stations.transfer.bench.put_on import transfer_bench
from goodbalance.core.stations.transfer.names import ACTS, Act, Alarm, Harm, Lock, State
from goodbalance.core.stations.transfer.plant.closing import closing
from goodbalance.core.stations.transfer.plant.hydraulics import hydraulics
from goodbalance.core.stations.transfer.windows.consequences import leak_starts
from tests.transfers import METRE_PA, choices, plan_of, run, survey, tank
from tools.march.transfers import Own, sets

TWO = {"tanks": {"count": 2, "drinking": False, "lost_m3": 20.0}, "tank_2": tank(floor_m=26.0)}
LEVELS = {"control": {"full_by": "levels", "tank_wire": "watched"}}
LOW = (0.0, "level", "1", 1.0)
FULL = (0.0, "draw", "", 0.0)


def states(found) -> list[str]:
    return [event.of for event in among(found.events, Thing.SET, Doing.ENTERS)]


class LongStepTest(unittest.TestCase):
    def test_long_steps_and_single_scans_tell_the_same(self) -> None:
        """Hours of draw, a stuck valve, users that draw more, on random sets of each kind: the same things happen in the same order, within half a minute."""
        for _, facts, decided, plan in sets(random.Random(11), 3):
            told = []
            for single in (False, True):
                bench = transfer_bench(facts, decided, plan)
                if single:
                    bench.quiet_s = lambda now_s: 0.0  # type: ignore[method-assign]
                acts = (TimedAction(0.0, "pattern", "", 1.0), TimedAction(9000.0, "stuck_shut", "1", 1.0), TimedAction(11000.0, "stuck_shut", "1", 0.0), TimedAction(12000.0, "draw", "", 2.5))
                told.append([(event.at_s, event.thing, event.doing, event.of, event.pump) for event in rehearse(bench, acts, 25000.0).events])
            self.assertEqual([each[1:] for each in told[0]], [each[1:] for each in told[1]])
            self.assertLessEqual(max(abs(one[0] - other[0]) for one, other in zip(*told)), 30.0)

    def test_a_sensor_that_reads_falsely_is_followed_in_long_steps_too(self) -> None:
        facts = survey()
        for fault in ("loop_open", "frozen", "drift"):
            runs = []
            for single in (False, True):
                bench = transfer_bench(facts, choices(), plan_of(facts))
                if single:
                    bench.quiet_s = lambda now_s: 0.0  # type: ignore[method-assign]
                runs.append(rehearse(bench, (TimedAction(0.0, "pattern", "", 1.0), TimedAction(500.0, fault, "", 1.0)), 9000.0))
            told = [[(event.at_s, event.thing, event.doing, event.of, event.pump) for event in each.events] for each in runs]
            with self.subTest(fault):
                self.assertEqual([each[1:] for each in told[0]], [each[1:] for each in told[1]])
                self.assertLessEqual(max(abs(one[0] - other[0]) for one, other in zip(*told)), 30.0)
                self.assertLess(len(runs[0].trace), 0.2 * len(runs[1].trace))


class WaterTest(unittest.TestCase):
    def test_no_water_is_lost_or_made(self) -> None:
        """What was pumped stands in the tanks, was drawn, spilled or leaked; whatever is turned and broken meanwhile."""
        for own, facts, decided, plan in sets(random.Random(11), 6):
            bench = transfer_bench(facts, decided, plan)
            held = [branch.tank.area_m2 * level for branch, level in zip(bench.hyd.branches, bench.plant.levels_m)]
            acts = [TimedAction(0.0, "pattern", "", 1.0), TimedAction(20000.0, "stuck_open", "1", 1.0), TimedAction(30000.0, "leak", "", 1.0), TimedAction(40000.0, "check_valve", "1", 1.0)]
            plant = rehearse(bench, tuple(acts), 86400.0).bench.plant
            now = sum(branch.tank.area_m2 * level for branch, level in zip(bench.hyd.branches, plant.levels_m))
            off = plant.pumped_m3 - plant.leaked_m3 - (now - sum(held)) - plant.drawn_m3 - plant.spilled_m3
            with self.subTest(own.rate):
                self.assertLess(abs(off), 0.004 * plant.pumped_m3 + 2.0 * bench.hyd.volume_m3)  # the line itself stores a little
                self.assertGreater(plant.pumped_m3, 0.0)

    def test_a_bench_told_twice_goes_the_same_way(self) -> None:
        acts = ((0.0, "pattern", "", 1.0), (30000.0, "stuck_shut", "2", 1.0))
        self.assertEqual(run(survey(**TWO), 86400.0, *acts).digest(), run(survey(**TWO), 86400.0, *acts).digest())

    def test_the_lowest_restart_by_trying(self) -> None:
        """Restart pressures tried one by one: under the column of the higher tank it never calls, over it by its error it does."""
        facts, column_pa = survey(**TWO), 29.0 * METRE_PA
        calls = {}
        for off_pa in (-12e3, -2e3, 2e3, 12e3):
            found = run(facts, 2.0 * 3600.0, (0.0, "level", "2", 1.0), FULL, decided=choices(chosen={"restart_pressure": column_pa + off_pa}))
            calls[off_pa] = bool(looks.starts(found))
        self.assertEqual(calls, {-12e3: False, -2e3: False, 2e3: True, 12e3: True})
        self.assertGreater(plan_of(facts).setting("restart_pressure").window.low, column_pa + 2e3)

    def test_past_the_stop_as_reckoned(self) -> None:
        """Nobody draws, the tank fills to the end: at the worst moment of the scan the pressure goes as far as reckoned, within 2 %."""
        facts = survey(source={"low_m": 4.0, "high_m": 4.0}, sensor={"scan_s": 0.1, "filter_s": 0.0, "run_down_s": 6.0}, tank_1=tank(closing_s=25.0))
        stop_pa = plan_of(facts).value("stop_pressure", 0.0)
        found = run(facts, 9000.0, LOW, FULL, (1.0, "start", "", 1.0))
        until_s = looks.first_stop(found).at_s + 10.0
        past_pa = max(row[1] for row in found.trace if 100.0 < row[0] < until_s) - stop_pa
        self.assertAlmostEqual(past_pa, closing(hydraulics(facts), 0, stop_pa, (0,)).past_pa, delta=0.02 * past_pa)

    def test_a_ball_float_on_a_wide_tank_is_not_looked_past(self) -> None:
        """Half an hour of slow throttling, marched in long steps: the pump still stops where the pressure reaches its stop."""
        own = Own(random.Random(1100006))  # 31 m2, 0.2 m of throttling, 2.5 l/s
        facts, decided = own.survey(), own.choices()
        plan = plan_of(facts, decided)
        bench = transfer_bench(facts, decided, plan)
        acts = TimedAction(0.0, "level", "1", 1.5), TimedAction(1.0, "start", "", 1.0)
        found = rehearse(bench, acts, 4.0 * 3600.0)
        self.assertAlmostEqual(looks.stop_pa(found), plan.value("stop_pressure", 0.0), delta=150.0)

    def test_starts_for_a_leak_alone(self) -> None:
        facts = survey(source={"low_m": 3.0, "high_m": 3.0}, line={"diameter_m": 0.1, "leak_m3s": 2e-6, "leak_at_pa": 4e5}, sensor={"scan_s": 0.2, "filter_s": 0.0})
        begun = looks.starts(run(facts, 86400.0, FULL))
        an_hour = 3600.0 * (len(begun) - 1) / (begun[-1].at_s - begun[0].at_s)
        self.assertAlmostEqual(an_hour, leak_starts(hydraulics(facts), choices(), plan_of(facts)), delta=0.01 * an_hour)


class StatesTest(unittest.TestCase):
    def test_fills_throttles_holds_waits_and_fills_again(self) -> None:
        found = run(survey(), 86400.0, (0.0, "draw", "", 1.0))
        self.assertEqual(states(found)[:5], [State.WAIT, State.FILL, State.THROTTLE, State.HELD, State.WAIT])
        waited = looks.between_s(looks.enters_wait(found), looks.first_start(found))
        self.assertAlmostEqual(waited, plan_of(survey()).value("restart_delay", 0.0), delta=1.1)

    def test_the_delay_is_told_to_the_second_and_what_would_start_it(self) -> None:
        delay_s = plan_of(survey()).value("restart_delay", 0.0)
        found = run(survey(), 60.0, LOW, FULL)
        begun = looks.enters_wait(found)
        line = found.seen_at(60.0).reasons()[0]
        demand = line.links[line.deciding]
        self.assertEqual((line.runs, demand.name, demand.state), (False, "Demand", LinkState.WAITS))
        self.assertAlmostEqual(demand.remaining_s, delay_s - (60.0 - begun.at_s), delta=0.01)
        self.assertIn("Start would do it now", demand.text)
        pressed = run(survey(), 70.0, LOW, FULL, (60.0, "start", "", 1.0))
        self.assertAlmostEqual(looks.first_start(pressed).at_s, 60.0, delta=1.1)

    def test_from_the_drop_or_from_the_stop(self) -> None:
        """Long after its stop a pump that counts from there starts at once; one that counts from the drop takes its delay."""
        decided = choices(delay_from="stop", chosen={"restart_delay": 900.0})
        at_once = run(survey(), 7200.0, FULL, (5000.0, "level", "1", 1.0), decided=decided)
        self.assertLess(looks.first_start(at_once).at_s, 5010.0)
        later = run(survey(), 7200.0, FULL, (5000.0, "level", "1", 1.0), decided=choices(chosen={"restart_delay": 900.0}))
        self.assertAlmostEqual(looks.first_start(later).at_s, 5900.0, delta=5.0)

    def test_what_a_power_cut_does_to_the_delay(self) -> None:
        """Cut at 400 s for 100 s, half a delay of 800 s over: it begins anew, goes on, or is skipped."""
        for after, starts_s in (("anew", 500.0 + 800.0), ("kept", 500.0 + 400.0), ("skipped", 500.0)):
            decided = choices(after_cut=after, chosen={"restart_delay": 800.0})
            found = run(survey(), 2000.0, LOW, FULL, (400.0, "power", "", 0.0), (500.0, "power", "", 1.0), decided=decided)
            self.assertAlmostEqual(looks.first_start(found).at_s, starts_s, delta=6.0, msg=after)

    def test_the_delay_alone(self) -> None:
        """Without a restart pressure it looks each time whether the line takes water: a start each delay, against shut valves."""
        found = run(survey(), 4000.0, FULL, decided=choices(restart_by="time_alone", chosen={"restart_delay": 600.0}))
        begun = looks.starts(found)
        self.assertEqual(len(begun), 6)
        self.assertAlmostEqual(begun[1].at_s - begun[0].at_s, 603.0, delta=3.0)  # it fills a few seconds, then stops

    def test_levels_latch_and_the_assist_helps(self) -> None:
        facts = survey(**LEVELS, pumping={"count": 2})
        plan = plan_of(facts)
        found = run(facts, 3600.0, (0.0, "level", "1", plan.value("assist_1", 0.0) - 0.01), FULL)
        first, second = looks.starts(found)[:2]
        self.assertEqual(second.at_s - first.at_s, plan.value("start_gap", 0.0))
        self.assertAlmostEqual(found.bench.plant.levels_m[0], plan.value("stop_1", 0.0), delta=0.01)

    def test_a_second_pump_comes_when_one_does_not_fill_it(self) -> None:
        facts = survey(pumping={"count": 2})
        found = run(facts, 9000.0, (0.0, "stuck_open", "1", 1.0), LOW, (1.0, "start", "", 1.0))
        first, second = looks.starts(found)[:2]
        self.assertAlmostEqual(second.at_s - first.at_s, plan_of(facts).value("assist_after", 0.0), delta=2.0)


class FaultsTest(unittest.TestCase):
    def harms(self, found) -> set[str]:
        return {event.of for event in among(found.events, Thing.HARM, Doing.COMES)}

    def test_a_valve_that_sticks_open_ends_with_the_longest_run(self) -> None:
        found = run(survey(), 40000.0, (0.0, "stuck_open", "1", 1.0), (0.0, "level", "1", 1.5))
        locked, spilled = looks.alarm(found, Alarm.LONG), next(among(found.events, Thing.HARM, of=Harm.OVERFLOWS))
        self.assertAlmostEqual(locked.at_s - looks.first_start(found).at_s, plan_of(survey()).value("longest_run", 0.0), delta=2.0)
        self.assertLess(spilled.at_s, locked.at_s)
        self.assertLess(found.bench.plant.spilled_m3, 20.0)  # no more than may be lost
        self.assertEqual((found.bench.logic.state, set(found.bench.logic.locks)), (State.LOCKED, {Lock.LONG}))

    def test_a_valve_that_sticks_shut_is_started_against_each_delay(self) -> None:
        """Time alone starts it over and over against closed water; by pressure it starts for its leak, or not at all."""
        alone = run(survey(), 7200.0, (0.0, "stuck_shut", "1", 1.0), decided=choices(restart_by="time_alone", chosen={"restart_delay": 600.0}))
        self.assertGreaterEqual(len(looks.starts(alone)), 11)
        self.assertEqual(looks.starts(run(survey(), 7200.0, (0.0, "stuck_shut", "1", 1.0))), [])

    def test_a_check_valve_that_leaks_starts_it_without_need(self) -> None:
        found = run(survey(line={"diameter_m": 0.1}), 7200.0, FULL, (10.0, "check_valve", "1", 1.0))
        self.assertGreater(len(looks.starts(found)), 3)
        self.assertEqual(looks.starts(run(survey(line={"diameter_m": 0.1}), 7200.0, FULL)), [])

    def test_a_burst_locks_out_after_its_delay(self) -> None:
        found = run(survey(), 1500.0, LOW, FULL, (1.0, "start", "", 1.0), (300.0, "burst", "", 1.0))
        self.assertAlmostEqual(looks.alarm(found, Alarm.BURST).at_s, 300.0 + plan_of(survey()).value("least_delay", 0.0), delta=4.0)

    def test_a_source_that_fails_stops_and_gives_back(self) -> None:
        plan = plan_of(survey())
        acts = (LOW, FULL, (1.0, "start", "", 1.0), (100.0, "source", "1", 1.2), (200.0, "source", "1", plan.value("source_back_1", 0.0) - 0.02), (300.0, "source", "1", 4.0))
        found = run(survey(), 1000.0, *acts)
        self.assertAlmostEqual(looks.first_stop(found).at_s, 100.0 + plan.value("source_delay", 0.0), delta=1.1)
        self.assertGreater(looks.first_start(found, 150.0).at_s, 299.0)
        self.assertNotIn(Harm.DRAWS_AIR, self.harms(found))
        blind = run(survey(control={"source_by": "none"}), 400.0, LOW, FULL, (1.0, "start", "", 1.0), (100.0, "source", "1", 0.5))
        self.assertIn(Harm.DRAWS_AIR, self.harms(blind))

    def test_a_broken_wire_in_each_way_of_wiring(self) -> None:
        """Told: stops and alarms. Closed while wanted: stops in silence. Open while wanted: fills until it overflows."""
        acts = ((0.0, "level", "1", 1.85), FULL, (300.0, "wire_off", "1", 1.0))
        for wire, alarms, moves, spills in (("sensor", True, False, False), ("watched", True, False, False), ("opens", False, False, False), ("closes", False, True, True)):
            found = run(survey(control={"full_by": "levels", "tank_wire": wire}, tank_1=tank(inlet="open")), 12000.0, *acts)
            seen = (looks.alarm(found, Alarm.WIRE, 1) is not None, bool(looks.starts(found, 299.0)) or 0 in found.bench.running or found.bench.plant.spilled_m3 > 0.0)
            self.assertEqual((seen, found.bench.plant.spilled_m3 > 0.0), ((alarms, moves), spills), wire)

    def test_both_ways_back_each_other(self) -> None:
        """A frozen sensor never lets it start: the low level does. One that never stops it: the high level does."""
        facts = survey(control={"full_by": "both", "tank_wire": "sensor"})
        plan = plan_of(facts)
        found = run(facts, 86400.0, (0.0, "frozen", "", 1.0), (0.0, "draw", "", 3.0))
        self.assertIsNotNone(looks.alarm(found, Alarm.LOW, 1))
        self.assertAlmostEqual(looks.first_start(found).at_s, looks.alarm(found, Alarm.LOW, 1).at_s, delta=1.1)
        over = run(facts, 40000.0, (0.0, "level", "1", 1.5), FULL, (0.0, "stuck_open", "1", 1.0), (1.0, "start", "", 1.0))
        self.assertIsNotNone(looks.alarm(over, Alarm.HIGH, 1))
        self.assertLess(over.bench.plant.levels_m[0], plan.value("high_alarm_1", 0.0) + 0.02)

    def test_everything_that_can_be_broken_can_be_mended(self) -> None:
        """Each fault put in and out again leaves a set that fills as before; and no action the bench does not know is taken."""
        facts = survey(**TWO, control={"full_by": "both"}, pumping={"count": 2}, line={"diameter_m": 0.1})  # a narrow line fills again soon
        plan = plan_of(facts)
        listed = troubles(transfer_bench(facts, choices(), plan))
        self.assertGreater(len(listed), 40)
        for trouble in listed:
            acts = (TimedAction(0.0, "draw", "", 0.0), trouble.put(5.0), trouble.mend(60.0), TimedAction(70.0, "switch", "1", 1.0), TimedAction(71.0, "switch", "1", 2.0), TimedAction(75.0, "reset", "", 1.0))
            low = (TimedAction(80.0, "level", "1", 1.0), TimedAction(81.0, "start", "", 1.0))
            found = rehearse(transfer_bench(facts, choices(), plan), (*acts, *low), 400.0)
            with self.subTest(trouble.id):
                self.assertTrue(found.bench.running, [link.name for link in found.bench.reasons()[0].links if link.state is not LinkState.HOLDS])

    def test_bad_actions_are_refused_by_name(self) -> None:
        bench = transfer_bench(survey(), choices(), plan_of(survey()))
        for kind, target, value in (("flood", "", 1.0), ("level", "2", 1.0), ("level", "1", 2.5), ("throttle", "", 1.1), ("source", "9", 1.0), ("switch", "1", 7.0), ("stuck_open", "0", 1.0), ("draw", "", float("nan"))):
            with self.subTest(kind), self.assertRaises(OutOfRange):
                bench.act(TimedAction(0.0, kind, target, value))
        self.assertEqual(len(ACTS), 6)
        self.assertIn(Act.BLEED, Act)
