"""Broken parts on the bench, and proving everything on it."""

import math
import unittest
from dataclasses import replace

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.level_trend import busiest
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.bench.week import report
from goodbalance.core.stations.lift.controller.program import program_of
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.names import Alarm, Harm, Role
from goodbalance.core.stations.lift.plant.readings import readings
from goodbalance.core.stations.lift.proofs.listed import proofs
from goodbalance.core.stations.lift.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.lift.windows.reckon import reckon
from goodbalance.core.stations.shared.held import Held
from tests.core.test_lift_bench import bench, inflow, starts_of
from tests.core.test_sheets import PANEL, sheet_of
from tests.read_backs import held
from tests.stations import choices, survey


class FaultTest(unittest.TestCase):
    def run_with(self, *faults: tuple[str, str], flow_m3s: float = 0.005, until_s: float = 3600.0, level_m=None):
        actions = tuple(TimedAction(0.0, kind, target, 1.0) for kind, target in faults)
        return rehearse(bench(level_m), (inflow(0.0, flow_m3s), *actions), until_s)

    def test_the_other_pump_takes_over_within_seconds(self) -> None:
        run = self.run_with(("starter", "1"))
        given_up = next(among(run.events, Thing.PUMP, Doing.GIVEN_UP)).at_s
        called = next(among(run.events, Thing.CONTACT, Doing.CLOSES, of=Role.START_1)).at_s
        plan = reckon(survey(), choices())
        believed_s, gap_s = (plan.setting(timer).value for timer in ("feedback_lost", "start_gap"))
        self.assertAlmostEqual(given_up - called, plan.setting("call_delay").value + believed_s, delta=2.1)
        self.assertLessEqual(starts_of(run, 2)[0] - given_up, gap_s)
        self.assertEqual(starts_of(run, 1), [])
        line = run.bench.reasons()[0]
        self.assertEqual(line.links[line.deciding].name, "Starter")

    def test_the_alarm_of_a_wet_seal_names_its_pump(self) -> None:
        probed = bench(control={"seal_probes": True})
        run = rehearse(probed, (TimedAction(0.0, "seal", "2", 1.0),), 60.0)
        self.assertEqual([event.pump for event in among(run.events, Thing.ALARM, Doing.COMES, of=Alarm.SEAL)], [2])

    def test_the_alarm_of_a_long_run_names_its_pump(self) -> None:
        station = bench(control={"kind": "pump_controller"})
        station.logic.panel.over_run = {1}
        run = rehearse(station, (), 5.0)
        self.assertEqual([event.pump for event in among(run.events, Thing.ALARM, Doing.COMES, of=Alarm.LONG_RUN)], [2])

    def test_a_relay_between_its_levels_lets_go_without_power(self) -> None:
        plan = reckon(survey(), choices())
        stop_m, start_m = plan.setting("stop").value, plan.setting("start_1").value
        rises = (inflow(0.0, 0.006), inflow(25.0, 0.0))
        run = rehearse(bench(start_m - 0.05), rises, 3600.0)
        begun_s = starts_of(run, 1)[0]
        half_s = next(row[0] for row in run.trace if row[0] > begun_s + 5.0 and row[1] < start_m - 0.05)
        off = (TimedAction(half_s, "power", "", 0.0), TimedAction(half_s + 20.0, "power", "", 1.0))
        again = rehearse(bench(start_m - 0.05), (*rises, *off), half_s + 600.0)
        self.assertEqual(len(starts_of(again, 1)), 1)  # the level stands under the start: nothing calls it
        self.assertGreater(again.bench.plant.level_m, stop_m)

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
            self.assertFalse(any(among(run.events, Thing.SENSOR, Doing.FAILS)))

    def test_a_level_on_the_instruments(self) -> None:
        # 1.10 m on 0.10 to 5.10 m: 20 % of span, 4 + 0.2 x 16 = 7.2 mA, 2 V, 800 of 4000 counts
        for signal, words in (("4_20_ma", "7.20 mA"), ("0_20_ma", "4.00 mA"), ("0_10_v", "2.00 V")):
            told = readings(survey(sensor={"signal": signal}), 1.10).worded(UnitSystem.METRIC)
            self.assertEqual(told, f"20.0 % of span, {words}, 800 counts")

    def test_a_frozen_sensor_floods_and_a_drifting_one_starts_late(self) -> None:
        run = self.run_with(("frozen", ""), flow_m3s=0.006, until_s=7200.0)
        self.assertTrue(any(among(run.events, Thing.HARM, of=Harm.OVERFLOWS)))
        healthy, drifting = (
            next(among(self.run_with(*f, flow_m3s=0.005).events, Thing.PUMP, Doing.STARTS, pump=1)).value("level")
            for f in ((), (("drift", ""),))
        )
        self.assertGreater(drifting, healthy + 0.01)

    def test_long_steps_say_what_single_scans_say_of_a_false_reading(self) -> None:
        for kind in ("drift", "frozen"):
            for by_hand in (False, True):
                acts = (TimedAction(0.0, "pattern", "", 1.0), *([TimedAction(0.0, "switch", "1", 0.0)] if by_hand else []), TimedAction(900.0, kind, "", 1.0))
                runs = []
                for single in (False, True):
                    station = bench(demands={"low_float": True})
                    if single:
                        station.quiet_s = lambda now_s: 0.0
                    runs.append(rehearse(station, acts, 9000.0))
                long, each = ([(event.thing, event.doing, event.of, event.pump) for event in run.events] for run in runs)
                self.assertEqual(long, each)
                self.assertTrue(all(abs(one.at_s - other.at_s) <= 5.0 for one, other in zip(runs[0].events, runs[1].events)))
                self.assertLess(len(runs[0].trace), len(runs[1].trace) // 8)

    def test_the_low_float_stops_every_pump(self) -> None:
        station = survey(demands={"low_float": True})
        made = lift_bench(station, choices(), reckon(station, choices()), 2.4)
        run = rehearse(made, (inflow(0.0, 0.008), TimedAction(60.0, "low_float", "", 1.0)), 70.0)
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
            ({}, choices(chosen={"start_gap": 120.0}, schools={"assist_by": "level_or_timer"})),  # called in time, the assist waits while the water rises on
        ):
            station = survey(**changes)
            plan = reckon(station, decided)
            shown = prove_on_bench(station, decided, plan)
            wrong = [(p.proof.id, p.proof.expected, p.seen) for p in shown if p.verdict is not Verdict.PASSED]
            self.assertEqual(wrong, [], changes)
            by_eye = {p.id for p in proofs(station, decided, plan)} - {p.proof.id for p in shown}
            self.assertLessEqual(by_eye, {"lead", "timer_start_gap"})

    def test_one_wrong_number_at_the_keypad_fails_its_proofs(self) -> None:
        station, decided = survey(), choices()
        plan, sheet = sheet_of(station, decided, beside=(PANEL,))
        wrong = f"{plan.setting('start_1').value + 0.2:.2f}"  # relay 4, duty start, typed 20 cm too high
        found = held(LIFT, station, decided, sheet, {"4 lift": wrong, "5 lift": "not a number"}, Display.METRES)
        failed = {p.proof.id for p in prove_on_bench(station, decided, plan, found) if p.verdict is Verdict.FAILED}
        self.assertEqual(failed, {"up_start_1"})


class WeekTest(unittest.TestCase):
    def test_starts_are_counted_as_planned(self) -> None:
        """Whoever counts otherwise, or not at all, fails; a device that only warns fails where it was to lock out."""
        facts = survey(control={"kind": "pump_controller"})
        for school in ("warns", "stops"):
            decided = choices(schools={"many_starts": school})
            plan = reckon(facts, decided)
            asked = plan.value("starts_limit", 0.0)
            program = program_of(facts, decided, plan)
            for most, verdict in ((asked, Verdict.PASSED), (asked - 3.0, Verdict.FAILED), (asked + 4.0, Verdict.FAILED), (math.inf, Verdict.FAILED)):
                device = Held(plan, replace(program, timing=replace(program.timing, most_starts=most)))
                (shown,) = (each for each in prove_on_bench(facts, decided, plan, device) if each.proof.of == "starts_limit")
                self.assertIs(shown.verdict, verdict, (school, most, shown.seen))

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
        self.assertEqual(busiest(()), 0)
        self.assertEqual(busiest((0.0, 1000.0, 3599.0, 3600.0, 9000.0)), 3)  # 3600 is an hour after 0

    def test_a_storm_beyond_all_pumps_is_reported_as_harm(self) -> None:
        station = lift_bench(survey(), choices(), reckon(survey(), choices()))
        run = rehearse(station, (inflow(0.0, 0.05),), 3600.0)
        found = report(run)
        self.assertEqual(found.harms, ("The well overflows",))
        self.assertGreater(found.spilled_m3, 0.0)
        self.assertEqual(found.high_alarms, 1)
