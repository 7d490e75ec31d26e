"""Drives that are the whole control of a lift station: who leads, whose reading counts, and what a wrong answer in the ring does."""

import unittest

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.control.alarms import Cause
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing
from goodbalance.core.sheets.entry_sheet import RowKind, entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.controller.team import Leader, TeamNumbers
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.names import Alarm, Outcome
from goodbalance.core.stations.lift.survey.plausibility import plausibility
from goodbalance.core.stations.lift.survey.team import Inputs, LinkLost
from goodbalance.exchange.profiles import shipped_profiles
from tests.core.test_lift_bench import inflow
from tests.core.test_timers_and_drives import DRIVES, LEVELS
from tests.read_backs import held
from tests.stations import choices, survey

GONE = 0.0  # the signal of an open loop
LEADS = {"node", "link", "input"}


def broken(signal: float) -> bool:
    return signal < 0.0036


def numbers(inputs=Inputs.OWN, failover=True, link_lost=LinkLost.ALONE, takes_over=True, takeover_s=5.0) -> TeamNumbers:
    return TeamNumbers(inputs, failover, link_lost, takes_over, takeover_s)


def station(pumps: int = 3, **team):
    return survey(control={"kind": "drives_alone"}, drives=DRIVES, pumping={"count": pumps}, team=team)


def decided(**schools):
    return choices(schools=schools, chosen={**LEVELS, "start_3": 2.2, "least_speed": 0.85})


class LeaderTest(unittest.TestCase):
    def test_the_next_alive_takes_over_when_the_silence_has_lasted(self) -> None:
        """Drive 1 silent from 10 s on, 5 s of patience: nobody leads until 15 s, then drive 2; with drive 2 dead too drive 3."""
        for dead, then in ((frozenset({0}), 1), (frozenset({0, 1}), 2)):
            team = Leader(numbers(), 3)
            self.assertEqual(team.hears((0.010, 0.011, 0.012), broken, 9.0), 0.010)
            team.alive = frozenset(range(3)) - dead
            self.assertIsNone(team.hears((GONE, 0.011, 0.012), broken, 10.0))
            self.assertAlmostEqual(team.left_s(), 5.0)
            self.assertIsNone(team.hears((GONE, 0.011, 0.012), broken, 14.9))
            self.assertEqual(team.hears((GONE, 0.011, 0.012), broken, 15.0), (0.010, 0.011, 0.012)[then])
            self.assertEqual((team.leader, team.reads), (then, then))
        alone = Leader(numbers(takes_over=False), 2)
        alone.alive = frozenset({1})
        alone.hears((0.010, 0.011), broken, 0.0)
        self.assertEqual(alone.hears((0.010, 0.011), broken, 6.0), 0.010)
        self.assertIsNone(alone.reads)  # whatever drive 1's wires say, nobody reads them

    def test_whose_reading_counts(self) -> None:
        for inputs, failover, signals, alive, reads in (
            (Inputs.OWN, True, (0.010, 0.011), {0, 1}, 0), (Inputs.OWN, True, (GONE, 0.011), {0, 1}, 1), (Inputs.OWN, False, (GONE, 0.011), {0, 1}, None),
            (Inputs.OWN, True, (GONE, GONE), {0, 1}, None), (Inputs.LOOPED, True, (GONE, 0.011), {0, 1}, None), (Inputs.TOLD, True, (0.010, GONE), {0, 1}, 0),
        ):  # fmt: skip
            team = Leader(numbers(inputs, failover), 2)
            team.alive = frozenset(alive)
            team.hears(signals, broken, 0.0)
            self.assertEqual(team.reads, reads, (inputs, signals))

    def test_alone_each_latches_between_its_own_stop_and_start(self) -> None:
        """Pairs 1.0 to 1.6 and 1.0 to 2.0 m: at 1.8 m the first runs; at 2.1 both; at 1.2 both hold; at 0.9 none."""
        team, pairs = Leader(numbers(), 2), ((1.0, 1.6), (1.0, 2.0))
        for level_m, runs in ((1.5, (False, False)), (1.8, (True, False)), (2.1, (True, True)), (1.2, (True, True)), (0.9, (False, False))):
            self.assertEqual(team.judge_alone((level_m, level_m), pairs), runs, level_m)
        self.assertEqual(team.judge_alone((2.1, None), pairs), (True, False))  # a deaf and blind drive stands
        told = Leader(numbers(Inputs.TOLD), 2)
        self.assertEqual(told.judge_alone((2.1, 2.1), pairs), (True, False))
        stops = Leader(numbers(link_lost=LinkLost.STOP), 2)
        self.assertEqual(stops.judge_alone((2.1, 2.1), pairs), (True, False))


class TeamPlanTest(unittest.TestCase):
    def test_the_window_of_the_takeover(self) -> None:
        """Silence of 2 s is honest; 0.8 m from duty start to alarm are 1.6 m3, at 6 l/s 267 s."""
        window = LIFT.reckon(station(2), choices(chosen=LEVELS), False).setting("takeover").window
        self.assertEqual(window.low, 2.0)
        self.assertAlmostEqual(window.high, 0.8 * 2.0 / 0.006)
        self.assertNotIn("takeover", LIFT.reckon(station(1), choices(chosen=LEVELS), False))

    def test_what_does_not_fit(self) -> None:
        codes = {finding.code for finding in plausibility({"control.kind": "drives_alone", "drives.fitted": False, "control.level_by": "floats"})}
        self.assertLessEqual({"no_drives", "floats_need_a_panel"}, codes)

    def test_one_loop_through_three_inputs_adds_up(self) -> None:
        """24 V, 270 ohm and two more inputs of 250: 24 - 0.022 x 770 = 7.06 V."""
        loop = {"loop_supply_v": 24.0, "loop_ohm": 270.0, "second_input_ohm": 250.0, "least_loop_v": 10.0}
        looped = station(inputs="looped").model_copy(update={"sensor": survey(sensor=loop).sensor})
        self.assertAlmostEqual(looped.level_budget.left_v or 0.0, 7.06)
        self.assertIn("loop_starved", {finding.code for finding in LIFT.reckon(looped, decided(), False).findings})
        joints = {joint.meaning: joint for joint in LIFT.joints(looped, decided(), LIFT.reckon(looped, decided(), False))}
        self.assertEqual([name for name in joints if name.startswith("input.level")], ["input.level.1", "input.level.2", "input.level.3"])
        self.assertIn("the level input of drive 1", joints["input.level.2"].to)
        self.assertNotIn("supply", joints)


class TeamBenchTest(unittest.TestCase):
    def play(self, made, *actions: TimedAction, flow_m3s: float = 0.006, until_s: float = 120.0, level_m: float = 1.59):
        plan = LIFT.reckon(made, decided(), False)
        bench = lift_bench(made, decided(), plan, level_m)
        before_m3 = bench.plant.volume_m3
        found = rehearse(bench, (inflow(0.0, flow_m3s), *actions), until_s)
        plant = found.bench.plant
        self.assertAlmostEqual(plant.volume_m3 - before_m3, plant.inflow_total_m3 - plant.pumped_total_m3 - plant.spilled_total_m3, places=8)
        return found.bench

    def test_a_silent_leader_is_replaced_and_told_of(self) -> None:
        bench = self.play(station(), TimedAction(60.0, "node", "1", 1.0))
        self.assertEqual(bench.running, (1,))
        self.assertIn(Cause(Alarm.NODE, 1), bench.alarms.lamps)
        lines = [[link.text for link in line.links] for line in bench.reasons()]
        self.assertIn("silent: its electronics are dead, or without supply", lines[0])
        self.assertIn("drive 2 leads", lines[1])
        back = self.play(station(), TimedAction(60.0, "node", "1", 1.0), TimedAction(100.0, "node", "1", 0.0), until_s=110.0)
        self.assertNotIn(Cause(Alarm.NODE, 1), back.alarms.lamps)

    def test_nobody_leads_where_nobody_may(self) -> None:
        bench = self.play(station(takes_over=False), TimedAction(60.0, "node", "1", 1.0), until_s=200.0)
        self.assertEqual(bench.running, ())
        self.assertTrue(bench.logic.sensor_failed)

    def test_another_s_reading_serves(self) -> None:
        bench = self.play(station(), TimedAction(60.0, "input", "1", 1.0))
        self.assertTrue(bench.running)
        self.assertIn("drive 1 leads, by the reading of drive 2", [link.text for link in bench.reasons()[0].links])
        alone = self.play(station(failover=False), TimedAction(60.0, "input", "1", 1.0))
        self.assertEqual((alone.running, alone.logic.sensor_failed), ((), True))

    def test_without_the_link_each_goes_by_its_own_pair(self) -> None:
        off = TimedAction(0.0, "link", "", 1.0)
        bench = self.play(station(), off, flow_m3s=0.016, level_m=2.05)
        self.assertEqual(bench.running, (0, 1))
        self.assertIn("the link is off: by its own pair, {start} to {stop}", [link.text for link in bench.reasons()[0].links])
        leader = self.play(station(link_lost="stop"), off, flow_m3s=0.016, level_m=2.05)
        self.assertEqual(leader.running, (0,))
        told = self.play(station(inputs="told"), off, flow_m3s=0.016, level_m=2.05)
        self.assertEqual(told.running, (0,))
        self.assertIn("the link is off: it is told no level", [link.text for link in told.reasons()[1].links])

    def test_alone_with_the_leader_deaf_long_steps_still_stop_at_the_pair(self) -> None:
        """No relay moves then: only the pair of drive 2 says where it stops, and the well falls for minutes before."""
        made, at = station(), (inflow(0.0, 0.006), TimedAction(0.0, "link", "", 1.0), TimedAction(0.0, "input", "1", 1.0), TimedAction(0.0, "input", "3", 1.0))
        plan = LIFT.reckon(made, decided(), False)
        run = rehearse(lift_bench(made, decided(), plan, plan.value("start_2", 0.0) + 0.05), at, 3600.0)
        stopped = [event for event in run.events if event.doing is Doing.STOPS and event.thing is Thing.PUMP]
        levels = {row[0]: row[1] for row in run.trace}
        self.assertEqual([event.pump for event in stopped][:1], [2])
        for event in stopped:
            self.assertAlmostEqual(levels[event.at_s], plan.value("stop", 0.0), delta=0.01)


class RingTest(unittest.TestCase):
    def sheet(self, made, schools=None):
        chosen, ring = decided(**(schools or {})), shipped_profiles()["brittlestar_ring"]
        plan = LIFT.reckon(made, chosen, False)
        values = LIFT.keypad.values(made, chosen, plan, Display.METRES)
        return chosen, plan, entry_sheet(ring, values, LIFT.keypad.scale(made, ring, Display.METRES))

    def test_the_ring_carries_every_part_of_the_plan(self) -> None:
        for made, schools in (
            (station(), {"speed_mode": "by_level", "stops": "own"}), (station(2, inputs="looped"), {"speed_mode": "hold_level", "alternation": "clock"}),
            (station(inputs="told", link_lost="stop"), {"speed_mode": "economical", "alarm_reset": "by_hand", "alarm_relay": "in_health"}),
        ):  # fmt: skip
            chosen, plan, sheet = self.sheet(made, schools)
            refused = [(row.parameter.code, row.trouble) for row in sheet.rows if row.kind is RowKind.REFUSED]
            self.assertEqual([each for each in refused if "window is empty" not in each[1]], [])
            typed = {row.parameter.code: row.shows for row in sheet.rows if row.kind in (RowKind.CHANGE, RowKind.CHECK)}
            as_typed = held(LIFT, made, chosen, sheet, typed, Display.METRES)
            self.assertEqual([each.about for each in as_typed.uncarried if each.harm], [])
            failed = [(each.proof.id, each.seen) for each in LIFT.prove_on_bench(made, chosen, plan, as_typed) if each.verdict is Verdict.FAILED]
            self.assertEqual(failed, [], schools)

    def test_a_wrong_answer_fails_its_proof(self) -> None:
        made = station()
        chosen, plan, sheet = self.sheet(made)
        for code, shows, failing in (
            ("1 heir", "no", "node"), ("1 deaf", "no", "link"), ("1 borrow", "no", "input"), ("1 eyes", "3", "link"), ("1 turn", "0", "alternation"),
            ("1 low end", "0.60", "up_start_1"), ("1 go 1", "1.75", "up_start_1"), ("1 tongue", "2", "up_start_1"), ("1 blind", "yes", "sensor_failure"),
        ):  # fmt: skip
            with self.subTest(code):
                self.assertNotEqual(sheet.row(code).shows, shows)
                wrong = held(LIFT, made, chosen, sheet, {code: shows}, Display.METRES)
                failed = {each.proof.id for each in LIFT.prove_on_bench(made, chosen, plan, wrong) if each.verdict is Verdict.FAILED}
                self.assertIn(failing, failed)

    def test_a_standby_has_no_pair_to_go_alone_by(self) -> None:
        made = survey(control={"kind": "drives_alone"}, drives=DRIVES, pumping={"count": 2, "standby": True})
        chosen = choices(chosen={key: value for key, value in LEVELS.items() if key != "start_2"})
        plan = LIFT.reckon(made, chosen, False)
        found = {each.proof.id: each for each in LIFT.prove_on_bench(made, chosen, plan, None, frozenset(LEADS))}
        self.assertEqual((found["link"].verdict, found["link"].proof.expects), (Verdict.PASSED, Outcome.LEADER_ALONE))

    def test_each_proof_is_asked_of_the_team_it_fits(self) -> None:
        for made, asked in ((station(), LEADS), (station(inputs="told"), {"node", "link"}), (station(1), set())):
            plan = LIFT.reckon(made, decided(), False)
            self.assertEqual({proof.id for proof in LIFT.proofs(made, decided(), plan)} & LEADS, asked)
