"""Rules of alternation, standby, feedback, broken parts, and proving everything on the bench."""

import unittest

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.control.latch_panel import Alternation, Contacts, LatchPanel, Switch
from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.sheets.profile import LevelDisplay
from goodbalance.core.stations.lift.bench_proofs import prove_on_bench
from goodbalance.core.stations.lift.keypad import held_relays, level_scale
from goodbalance.core.stations.lift.proofs import proofs
from goodbalance.core.stations.lift.readings import readings
from goodbalance.core.stations.lift.reckon import reckon
from goodbalance.core.stations.lift.rehearse import lift_bench
from goodbalance.core.stations.lift.week import busiest_hour, report
from tests.core.test_lift_bench import bench, inflow, starts_of
from tests.core.test_sheets import PROFILE, sheet_of
from tests.stations import choices, survey

CALL, REST = Contacts(True, True, (True, False, False)), Contacts(False, True, (False, False, False))


def leads(panel: LatchPanel, cycles: int, run_s: float = 100.0, begin_s: float = 0.0) -> list[int]:
    """Which pump leads in each of several cycles: called for run_s, then at rest for as long."""
    found, now_s = [], begin_s
    for _ in range(cycles):
        panel.scan(CALL, now_s)
        found.append(panel.running.index(True) + 1)
        now_s += run_s
        panel.scan(CALL, now_s)
        panel.scan(REST, now_s)
        now_s += run_s
    return found


class AlternationTest(unittest.TestCase):
    """Each rule as the manual would print it: who leads, cycle by cycle."""

    def test_who_leads(self) -> None:
        for rule, standby, expected in (
            (Alternation.ALL_STOPPED, False, [1, 2, 3, 1, 2]),
            (Alternation.ALL_STOPPED, True, [1, 2, 1, 2, 1]),  # pump 3 stands by
            (Alternation.FIXED, False, [1, 1, 1, 1, 1]),
            (Alternation.CLOCK, False, [1, 1, 1, 2, 2]),  # 200 s a cycle, the turn passes after 500 s
        ):
            with self.subTest(rule=rule, standby=standby):
                panel = LatchPanel(3, 0.0, alternation=rule, clock_period_s=500.0, standby=standby)
                self.assertEqual(leads(panel, 5), expected)

    def test_run_hours_give_the_turn_to_the_pump_that_has_run_least(self) -> None:
        panel = LatchPanel(3, 0.0, alternation=Alternation.RUN_HOURS, run_s=[0.0, 500.0, 120.0])
        # pump 1 runs 100 (100 < 120), again (200 > 120): then pump 3 runs to 220, then pump 1 (200 < 220)
        self.assertEqual(leads(panel, 4), [1, 1, 3, 1])

    def test_a_standby_runs_only_in_the_place_of_another(self) -> None:
        panel = LatchPanel(3, 0.0, standby=True)
        both = Contacts(True, True, (True, True))
        panel.scan(both, 0.0)
        self.assertEqual(panel.running, [True, True, False])
        panel.turn_switch(1, Switch.OFF)
        panel.scan(both, 1.0)
        self.assertEqual(panel.running, [True, False, True])

    def test_a_starter_without_feedback_is_given_up_and_off_resets_it(self) -> None:
        panel = LatchPanel(2, 0.0, feedback_s=5.0)
        call = Contacts(True, True, (True, False))
        for second in range(7):
            panel.scan(call, float(second), (False, panel.running[1]))
        self.assertEqual(panel.given_up, [True, False])
        self.assertEqual(panel.running, [False, True])
        panel.turn_switch(0, Switch.OFF)
        panel.turn_switch(0, Switch.AUTO)
        self.assertEqual(panel.given_up, [False, False])


class FaultTest(unittest.TestCase):
    def run_with(self, *faults: tuple[str, str], flow_m3s: float = 0.005, until_s: float = 3600.0, level_m=None):
        actions = tuple(TimedAction(0.0, kind, target, 1.0) for kind, target in faults)
        return rehearse(bench(level_m), (inflow(0.0, flow_m3s), *actions), until_s)

    def test_the_other_pump_takes_over_within_seconds(self) -> None:
        run = self.run_with(("starter", "1"))
        given_up = next(e.at_s for e in run.events if "given up" in e.text)
        called = next(e.at_s for e in run.events if e.subject == "relay_start_1" and "energises" in e.text)
        self.assertAlmostEqual(given_up - called, 6.0, delta=1.1)  # one scan to notice, 5 s to believe
        self.assertLessEqual(starts_of(run, 2)[0] - called, 12.0)
        self.assertEqual(starts_of(run, 1), [])
        line = run.bench.reasons()[0]
        self.assertEqual(line.links[line.deciding].name, "Starter")

    def test_a_clogged_pump_and_a_leaking_valve_need_longer(self) -> None:
        clean_s, clogged_s, leaking_s = (
            sum(self.run_with(*faults, flow_m3s=0.002, until_s=4 * 3600.0).bench.run_s)
            for faults in ((), (("clogged", "1"), ("clogged", "2")), (("check_valve", "2"),))
        )
        self.assertGreater(clogged_s, 1.8 * clean_s)
        self.assertGreater(leaking_s, 1.05 * clean_s)

    def test_each_broken_loop_is_noticed_but_a_frozen_one_is_not(self) -> None:
        for kind, noticed in (("loop_open", True), ("loop_short", True), ("frozen", False)):
            run = self.run_with((kind, ""), until_s=60.0)
            self.assertIs(run.bench.logic.sensor_failed, noticed, kind)

    def test_with_a_dead_zero_a_broken_wire_reads_as_an_empty_well(self) -> None:
        for signal in ("0_20_ma", "0_10_v"):
            station = survey(sensor={"signal": signal})
            dead = lift_bench(station, choices(), reckon(station, choices()))
            actions = (inflow(0.0, 0.005), TimedAction(300.0, "loop_open", "", 1.0))
            run = rehearse(dead, actions, 400.0)
            self.assertFalse(dead.logic.sensor_failed)
            self.assertEqual(dead.running, ())
            self.assertTrue(dead.logic.is_closed("low_alarm"))
            self.assertFalse(any("given up" in event.text for event in run.events))

    def test_a_level_on_the_instruments(self) -> None:
        # 1.10 m on 0.10 to 5.10 m: 20 % of span, 4 + 0.2 x 16 = 7.2 mA, 2 V, 800 of 4000 counts
        for signal, words in (("4_20_ma", "7.20 mA"), ("0_20_ma", "4.00 mA"), ("0_10_v", "2.00 V")):
            told = readings(survey(sensor={"signal": signal}), 1.10).worded(UnitSystem.METRIC)
            self.assertEqual(told, f"20.0 % of span, {words}, 800 counts")

    def test_a_frozen_sensor_floods_and_a_drifting_one_starts_late(self) -> None:
        run = self.run_with(("frozen", ""), flow_m3s=0.006, until_s=7200.0)
        self.assertTrue(any("overflows" in e.text for e in run.events))
        healthy, drifting = (
            next(e.terms[0].value for e in self.run_with(*f, flow_m3s=0.005).events if "Pump 1 starts" in e.text)
            for f in ((), (("drift", ""),))
        )
        self.assertGreater(drifting, healthy + 0.01)

    def test_the_low_float_stops_every_pump(self) -> None:
        run = rehearse(bench(2.4), (inflow(0.0, 0.008), TimedAction(60.0, "low_float", "", 1.0)), 70.0)
        self.assertEqual(run.bench.running, ())
        line = run.bench.reasons()[0]
        self.assertIn("float has opened", line.links[line.deciding].text)

    def test_unknown_parts_are_refused(self) -> None:
        for kind, target in (("starter", "9"), ("starter", ""), ("gremlin", "1")):
            with self.assertRaises(OutOfRange):
                self.run_with((kind, target), until_s=1.0)


class BenchProofTest(unittest.TestCase):
    def test_every_plan_that_fits_proves_itself(self) -> None:
        for changes, decided in (
            ({}, choices()),
            ({"pumping": {"count": 1}}, choices()),
            ({"pumping": {"count": 3}}, choices()),
            ({"pumping": {"count": 3, "standby": True}}, choices(schools={"alternation": "fixed"})),
            ({"demands": {"low_float": True}}, choices(schools={"sensor_failure": "run_duty"})),
            ({"sensor": {"signal": "0_10_v"}}, choices()),
            ({}, choices(schools={"alarm_relay": "in_health"})),
        ):
            station = survey(**changes)
            plan = reckon(station, decided)
            shown = prove_on_bench(station, decided, plan)
            wrong = [(p.proof.id, p.proof.expected, p.seen) for p in shown if p.verdict is not Verdict.PASSED]
            self.assertEqual(wrong, [], changes)
            by_eye = {p.id for p in proofs(station, decided, plan)} - {p.proof.id for p in shown}
            self.assertLessEqual(by_eye, {"lead", "standby"})

    def test_one_wrong_number_at_the_keypad_fails_its_proofs(self) -> None:
        station, decided = survey(), choices()
        plan, sheet = sheet_of(station, decided)
        scale = level_scale(station, PROFILE, LevelDisplay.METRES)
        wrong = f"{plan.setting('start_1').value + 0.2:.2f}"  # relay 2, duty start, typed 20 cm too high
        relays = held_relays(decided, plan, sheet, {"2 b": wrong, "3 b": "not a number"}, scale)
        failed = {p.proof.id for p in prove_on_bench(station, decided, plan, relays) if p.verdict is Verdict.FAILED}
        self.assertEqual(failed, {"up_start_1"})


class WeekTest(unittest.TestCase):
    def test_the_report_adds_up(self) -> None:
        station = bench()
        before_m3 = station.plant.volume_m3
        run = rehearse(station, (TimedAction(0.0, "pattern", "", 1.0),), 2 * 86400.0)
        found = report(run)
        # 2 l/s mean for two days are 345.6 m3; what came went, but for the change in the well
        self.assertAlmostEqual(found.inflow_m3, 345.6, delta=0.6)
        left_m3 = station.plant.volume_m3 - before_m3
        self.assertAlmostEqual(found.inflow_m3 - found.pumped_m3, left_m3, places=6)
        self.assertEqual([p.starts for p in found.pumps], station.starts)
        self.assertLessEqual(max(p.busiest_hour for p in found.pumps), 10)
        self.assertEqual((found.spilled_m3, found.harms), (0.0, ()))

    def test_busiest_hour_by_hand(self) -> None:
        self.assertEqual(busiest_hour([]), 0)
        self.assertEqual(busiest_hour([0.0, 1000.0, 3599.0, 3600.0, 9000.0]), 3)  # 3600 is an hour after 0

    def test_a_storm_beyond_all_pumps_is_reported_as_harm(self) -> None:
        station = lift_bench(survey(), choices(), reckon(survey(), choices()))
        run = rehearse(station, (inflow(0.0, 0.05),), 3600.0)
        found = report(run)
        self.assertEqual(found.harms, ("The well overflows",))
        self.assertGreater(found.spilled_m3, 0.0)
        self.assertEqual(found.high_alarms, 1)
