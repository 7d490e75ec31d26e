"""A look-down sensor with settings of its own: its span as levels or distances, blanking, a lost echo, and wrong collars on the rod."""

import math
import unittest
from dataclasses import replace

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.rehearsal.engine import TimedAction, begun, rehearse
from goodbalance.core.sheets.entry_sheet import entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.survey.plausibility import plausibility
from goodbalance.exchange.profiles import shipped_profiles
from tests.read_backs import held
from tests.stations import choices, survey

EYE = {"kind": "look_down", "face_m": 5.5, "blanking_m": 0.4, "far_m": 5.4, "noise_m": 0.01, "counts": 4000}
METRIC = UnitSystem.METRIC


def with_eye(**changes):
    return survey(sensor={**EYE, "mounting_m": None, "range_m": None, **changes})


class SpanTest(unittest.TestCase):
    def test_a_span_as_levels_and_as_distances_is_the_same_and_blanking_shortens_it(self) -> None:
        """Face at 5.50 m; 4 mA at 0.50 m (5.00 m away), 20 mA at 4.50 m (1.00 m away): 1.70 m reads 4 + 16 x 1.2 / 4 = 8.80 mA."""
        for given in ({"span": "levels", "zero_m": 0.5, "full_m": 4.5}, {"span": "distances", "zero_m": 5.0, "full_m": 1.0}):
            hyd = hydraulics(with_eye(**given))
            self.assertAlmostEqual(hyd.scaling.signal(1.7), 0.0088)
            self.assertEqual((hyd.sensor_low_m, hyd.sensor_high_m), (0.5, 4.5))
        high = hydraulics(with_eye(span="levels", zero_m=0.5, full_m=5.3))
        self.assertAlmostEqual(high.sensor_high_m, 5.1)  # 5.50 - 0.40: the span goes further than it sees
        self.assertAlmostEqual(high.scaling.signal(5.3), 0.020)
        whole = hydraulics(with_eye())
        self.assertEqual((round(whole.sensor_low_m, 9), whole.sensor_high_m, whole.sensor_span_m), (0.1, 5.1, 5.4))

    def test_what_does_not_fit_is_told(self) -> None:
        plain = {f"sensor.{name}": value for name, value in EYE.items()}
        for given, code in (
            ({"span": "levels", "zero_m": 4.0, "full_m": 1.0}, "span_turned"), ({"span": "distances", "zero_m": 1.0, "full_m": 5.0}, "span_turned"),
            ({"span": "levels", "zero_m": 0.0, "full_m": 4.0}, "span_too_deep"), ({"span": "distances", "zero_m": 5.0, "full_m": 0.2}, "span_blanked"),
            ({"lost_echo": "hold"}, "echo_held"),
        ):  # fmt: skip
            codes = {finding.code for finding in plausibility({**plain, **{f"sensor.{name}": value for name, value in given.items()}})}
            self.assertIn(code, codes, given)
        self.assertFalse({f.code for f in plausibility(plain)} & {"span_turned", "span_too_deep", "span_blanked", "echo_held"})

    def test_levels_keep_inside_what_it_sees(self) -> None:
        """A span that begins at 0.90 m leaves no room for a cut-out below it."""
        plan = LIFT.reckon(with_eye(span="levels", zero_m=0.9, full_m=4.5), choices(), False)
        low = plan.setting("low_cut_out").window
        self.assertTrue(any(bound.cause == "lowest level the sensor can read" and bound.value > 0.9 for bound in low.lower))


class CollarTest(unittest.TestCase):
    def sheet(self, station):
        plan = LIFT.reckon(station, choices(), False)
        profiles = shipped_profiles()
        tray, beside = profiles["ebbstone_tray"], (profiles["dabberlock_panel"], profiles["gannet_eye"], profiles["cowrie_dials"])
        values = LIFT.keypad.values(station, choices(), plan, Display.METRES)
        return plan, entry_sheet(tray, values, LIFT.keypad.scale(station, tray, Display.METRES), beside)

    def test_its_rod_is_on_the_sheet_and_a_wrong_collar_misreads_on_the_bench(self) -> None:
        """The top collar at 0.50 m and not 1.00 m: full signal at 5.00 m, so 1.70 m gives 4 + 16 x 1.2 / 4.5 mA and reads 1.57 m."""
        station = with_eye(span="distances", zero_m=5.0, full_m=1.0)
        plan, sheet = self.sheet(station)
        shown = {row.parameter.code: row.shows for row in sheet.rows if row.device == "gannet_eye"}
        self.assertEqual(shown, {"low collar": "5.00", "top collar": "1.00", "shade": "0.40", "blink": "shuts", "blink after": "10", "nod up": "6.0", "nod down": "13.7"})
        right = held(LIFT, station, choices(), sheet, {"top collar": "1.00"}, Display.METRES)
        wrong = held(LIFT, station, choices(), sheet, {"top collar": "0.50"}, Display.METRES)
        self.assertEqual(lift_bench(station, choices(), plan, 1.7, right.program)._read_m(1.7), 1.7)
        self.assertAlmostEqual(lift_bench(station, choices(), plan, 1.7, wrong.program)._read_m(1.7), 0.5 + 1.2 / 4.5 * 4.0, places=6)
        failed = {each.proof.id for each in LIFT.prove_on_bench(station, choices(), plan, wrong) if each.verdict is Verdict.FAILED}
        self.assertIn("up_start_1", failed)
        self.assertEqual([each.proof.id for each in LIFT.prove_on_bench(station, choices(), plan, right) if each.verdict is Verdict.FAILED], [])

    def test_it_follows_rising_and_falling_water_apart(self) -> None:
        """Up: 6 l/s in 2 m2 are 3 mm/s, at most 0.15 m in the 5 s of a false echo, 30 mm/s. Down: both pumps at the invert give 20 l/s, less 0.5: 9.75 mm/s."""
        station = with_eye()
        plan, sheet = self.sheet(station)
        up, down = plan.setting("fill_rate").window, plan.setting("empty_rate").window
        self.assertEqual([round(1000.0 * edge, 3) for edge in (up.low, up.high, down.low, down.high)], [3.0, 30.0, 9.75, 30.0])
        for shown, failing in (({"nod up": "0.5"}, "up_start_1"), ({"nod down": "0.5"}, "down_low_alarm")):
            wrong = held(LIFT, station, choices(), sheet, shown, Display.METRES)
            failed = {each.proof.id for each in LIFT.prove_on_bench(station, choices(), plan, wrong) if each.verdict is Verdict.FAILED}
            self.assertIn(failing, failed)
        right = held(LIFT, station, choices(), sheet, {}, Display.METRES)
        one = frozenset({"false_echo"})
        self.assertEqual([each.verdict for each in LIFT.prove_on_bench(station, choices(), plan, right, one)], [Verdict.PASSED])
        leaps = replace(right.program, believed_rate_ms=math.inf, output=replace(right.program.output, fill_ms=math.inf))
        self.assertEqual([each.verdict for each in LIFT.prove_on_bench(station, choices(), plan, replace(right, program=leaps), one)], [Verdict.FAILED])

    def test_a_lost_echo_fails_after_its_wait_or_is_held_unseen(self) -> None:
        for lost, floats, alarm in (("fail", None, True), ("hold", None, False), ("fail", 3, True)):
            control = {"level_by": "sensor_and_floats", "floats": floats} if floats else {}
            station = survey(control=control, sensor={**EYE, "mounting_m": None, "range_m": None, "lost_echo": lost, "lost_echo_s": 12.0})
            plan = LIFT.reckon(station, choices(), False)
            bench = lift_bench(station, choices(), plan, 1.2)
            acts = (TimedAction(0.0, "inflow", "", 0.001), TimedAction(10.0, "lost_echo", "", 1.0))
            self.assertFalse(rehearse(lift_bench(station, choices(), plan, 1.2), acts, 20.0).bench.logic.sensor_failed)
            run = rehearse(bench, acts, 40.0)
            self.assertIs(run.bench.logic.sensor_failed, alarm)
            if not alarm:
                self.assertAlmostEqual(run.bench.logic.level_m, 1.205, places=2)
            shown = {each.proof.id: each.verdict for each in LIFT.prove_on_bench(station, choices(), plan)}
            self.assertIs(shown["lost_echo"], Verdict.PASSED, lost)
            self.assertNotIn(Verdict.FAILED, shown.values())

    def test_an_action_set_wrong_in_the_eye_fails_its_proof(self) -> None:
        station = with_eye(span="distances", zero_m=5.0, full_m=1.0)
        plan, sheet = self.sheet(station)
        for typed in ({"blink": "stares"}, {"blink after": "290"}):
            wrong = held(LIFT, station, choices(), sheet, typed, Display.METRES)
            failed = {each.proof.id for each in LIFT.prove_on_bench(station, choices(), plan, wrong) if each.verdict is Verdict.FAILED}
            self.assertIn("lost_echo", failed, typed)


class LongStepTest(unittest.TestCase):
    """Four hours with the day's inflow; the sensor breaks while the bench takes a long step."""

    def run_of(self, fault: str, believed: float, single: bool):
        facts = with_eye()
        plan = LIFT.reckon(facts, choices(), False)
        bench = lift_bench(facts, choices(), plan)
        bench.logic.believed_rate_ms = believed
        if single:
            bench.quiet_s = lambda now_s: 0.0
        return rehearse(bench, (TimedAction(0.0, "pattern", "", 1.0), TimedAction(437.0, fault, "", 1.0)), 4.0 * 3600.0)

    def test_what_it_reads_falsely_is_followed_as_scan_by_scan(self) -> None:
        for fault in ("echo", "lost_echo", "frozen", "drift"):
            for believed in (math.inf, 0.01):
                long, grid = (self.run_of(fault, believed, single) for single in (False, True))
                told = [[(event.thing, event.doing, event.of, event.pump) for event in run.events] for run in (long, grid)]
                with self.subTest(fault, believed=believed):
                    self.assertEqual(told[0], told[1])
                    self.assertLessEqual(max(abs(one.at_s - other.at_s) for one, other in zip(long.events, grid.events)), 15.0)
                    if fault != "echo":  # there the pumps come to draw air, scan by scan
                        self.assertLess(len(long.trace), 0.1 * len(grid.trace))

    def test_an_echo_is_followed_as_slowly_after_a_long_step(self) -> None:
        """Its eye follows by 6 mm a second: 66 mm in eleven scans, however long the controller had nothing to do before."""
        bench = lift_bench(with_eye(), choices(), LIFT.reckon(with_eye(), choices(), False))
        self.assertAlmostEqual(bench.eye.fill_ms, 0.006)
        run = begun(bench, (TimedAction(437.0, "echo", "", 1.0),))
        run.go_to(437.0)
        self.assertLess(len(run.trace), 10)  # 437 s in a few steps
        there_m = run.bench.plant.level_m
        run.go_to(447.0)
        self.assertAlmostEqual(run.bench.logic.level_m - there_m, 0.066, delta=0.0015)
