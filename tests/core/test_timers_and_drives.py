"""Windows of timers and drives, worked by hand on the station of tests/stations.py, and drives at work on the bench.

Area 2 m2, peak 6 l/s, mean 2 l/s. A pump gives Q = sqrt((20 - lift)/1e5): 10 l/s at the inlet invert (lift 10 m),
8.485 l/s at the intake (lift 12.8 m). Levels are set by hand: cut-out 0.4, low alarm 0.6, stop 1.0, starts 1.6 and 2.0,
high alarm 2.4 m; overflow 4.5 m.
"""

import math
import unittest

from goodbalance.core.physics.pumps import HeadCurve, at_speed
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.windows.reckon import reckon
from tests.core.test_lift_bench import inflow
from tests.stations import CURVE, choices, survey

LEVELS = {"low_cut_out": 0.4, "low_alarm": 0.6, "stop": 1.0, "start_1": 1.6, "start_2": 2.0, "high_alarm": 2.4}
CONTROLLER = {"kind": "pump_controller"}
DRIVES = {"fitted": True, "least_hz": 25.0, "rated_hz": 50.0, "ramp_s": 8.0}
NARROW = {"outlet_m": 13.0, "length_m": 0.5, "diameter_m": 0.1, "hazen_williams_c": 150.0, "minor_k": 0.0}


def plan_of(schools=None, chosen=None, **changes):
    decided = choices(schools=schools or {}, chosen={**LEVELS, **(chosen or {})})
    return reckon(survey(**{"control": CONTROLLER, **changes}), decided)


class TimerWindowTest(unittest.TestCase):
    def test_every_window_by_hand(self) -> None:
        plan = plan_of({"assist_by": "level_or_timer", "many_starts": "warns"})
        self.assertNotIn("starts_limit", plan_of())
        weak_m3s = math.sqrt(7.2 / 1e5)  # 8.485 l/s at the intake
        for timer, low_s, high_s in (
            ("call_delay", 1.0, 0.4 * 2.0 / 0.006),  # to the assist start, and from there to the alarm: 133 s
            ("start_gap", 2.0, (4.5 - 2.4) * 2.0 / 0.006 / 2),  # two pumps before the overflow: 350 s each
            ("feedback_lost", 2.0 + 1.0, (2.4 - 1.6) * 2.0 / 0.006),  # 267 s from duty start to alarm
            ("least_run", 20.0, 0.6 * 2.0 / 0.010),  # 120 s from start to stop at 10 l/s
            ("least_rest", 10.0, (2.4 - 1.0) * 2.0 / 0.006),  # 467 s from stop to alarm
            ("stop_delay", 0.0, 0.4 * 2.0 / 0.020),  # both pumps from stop to low alarm: 40 s
            ("longest_run", 1.4 * 2.0 / (weak_m3s - 0.002), 14400.0),  # 432 s from the alarm to stop, weakest pump
            ("starts_limit", 3600.0 * 0.010 / (4.0 * 0.6 * 2.0), 15.0),  # 7.5 at half the pump's rate; what the motor stands
            ("assist_after", 0.6 * 2.0 / (weak_m3s - 0.002), 0.8 * 2.0 / 0.006),  # 185 to 267 s
        ):
            with self.subTest(timer=timer):
                setting = plan.setting(timer)
                self.assertAlmostEqual(setting.window.low, low_s, delta=0.01 + 0.005 * low_s)
                self.assertAlmostEqual(setting.window.high, high_s, delta=0.01 + 0.005 * high_s)
                self.assertTrue(setting.window.holds(setting.value))

    def test_the_believed_rate_of_a_look_down_sensor(self) -> None:
        look_down = {
            "kind": "look_down",
            "face_m": 5.0,
            "blanking_m": 0.3,
            "far_m": 4.9,
            "mounting_m": None,
            "range_m": None,
        }
        setting = plan_of(sensor=look_down).setting("believed_rate")
        # both pumps less the lowest inflow, (20 - 0.5) l/s on 2 m2; a step of 0.15 m in a false echo of 5 s
        self.assertAlmostEqual(setting.window.low, 0.0195 / 2.0, delta=0.0001)
        self.assertAlmostEqual(setting.window.high, 0.03, places=6)

    def test_a_panel_that_stays_has_only_its_dials(self) -> None:
        plan = plan_of(control={})
        self.assertEqual([s.id for s in plan.group("timers")], ["call_delay", "start_gap", "feedback_lost"])

    def test_a_timer_without_room_says_what_opens_it(self) -> None:
        slow = {**CONTROLLER, "starting_s": 100.0}
        setting = plan_of(control=slow, inflow={"peak_m3s": 0.05, "mean_m3s": 0.002, "min_m3s": 0.0005}).setting(
            "start_gap"
        )
        self.assertTrue(setting.window.is_empty)  # (4.5 - 2.4) 2 / 0.05 / 2 = 42 s, less than 100 s
        opener = next(o for o in setting.window.openers if "motors that start" in o.what)
        self.assertAlmostEqual(opener.needed, 42.0, delta=0.3)


class DriveWindowTest(unittest.TestCase):
    def test_least_speed_by_static_lift_velocity_and_maker(self) -> None:
        plan = plan_of({"speed_mode": "by_level"}, drives=DRIVES, main=NARROW)
        bounds = {bound.cause: bound.value for bound in plan.setting("least_speed").window.lower}
        self.assertAlmostEqual(bounds["shut-off head beats the static lift"], 1.05 * math.sqrt(12.0 / 20.0), places=6)
        # 0.7 m/s in 100 mm is 5.498 l/s: 20 n^2 - 1e5 (0.005498)^2 = 12 + loss, so n is a little over 0.8664
        self.assertAlmostEqual(bounds["velocity that clears the main"], math.sqrt((12.0 + 3.0226) / 20.0), delta=0.002)
        self.assertEqual(bounds["maker's least frequency"], 0.5)

    def test_full_speed_level_lies_between_stop_and_assist(self) -> None:
        window = plan_of({"speed_mode": "by_level"}, drives=DRIVES, main=NARROW).setting("full_speed_level").window
        self.assertAlmostEqual(window.low, 1.0 + 0.15)
        self.assertAlmostEqual(window.high, 2.0 - 0.15)

    def test_gains_of_the_level_loop(self) -> None:
        """k = (Q(1) - Q(n))/(1 - n) at the held level; K between d/(k b) and A/(2 k t); T from 4 A/(k K)."""
        fixed = {"hold_level": 1.5, "least_speed": 0.9, "hold_gain": 2.0, "ramp": 8.0}
        plan = plan_of({"speed_mode": "hold_level"}, fixed, drives=DRIVES)
        lift_m = 13.0 - 1.5
        full, slow = math.sqrt((20.0 - lift_m) / 1e5), math.sqrt((20.0 * 0.81 - lift_m) / 1e5)
        k = (full - slow) / 0.1
        gain, reset = plan.setting("hold_gain").window, plan.setting("hold_reset").window
        self.assertAlmostEqual(gain.low, (0.006 - 0.002) / k / 0.5, delta=0.01 * gain.low)  # 0.5 m to the assist
        self.assertAlmostEqual(gain.high, 2.0 / (k * 2.0 * 5.0), delta=0.01 * gain.high)  # a scan and half of 8 s
        self.assertAlmostEqual(reset.low, 4.0 * 2.0 / (k * 2.0), delta=0.01 * reset.low)

    def test_affinity_is_exact_for_a_parabola(self) -> None:
        curve = HeadCurve(tuple((p["flow_m3s"], p["head_m"]) for p in CURVE))
        for share in (0.5, 0.8, 1.0):
            slower = at_speed(curve, share)
            for flow in (0.0, 0.004, 0.009):
                self.assertAlmostEqual(slower.head_m(flow * share), share**2 * curve.head_m(flow), places=9)


class DriveBenchTest(unittest.TestCase):
    def run_with(self, mode: str, flow_m3s: float, until_s: float, chosen=None):
        station, decided = (
            survey(control=CONTROLLER, drives=DRIVES),
            choices(schools={"speed_mode": mode}, chosen={**LEVELS, **(chosen or {})}),
        )
        bench = lift_bench(station, decided, reckon(station, decided), 1.65)
        before_m3 = bench.plant.volume_m3
        run = rehearse(bench, (inflow(0.0, flow_m3s),), until_s)
        plant = bench.plant
        balance_m3 = plant.inflow_total_m3 - plant.pumped_total_m3 - plant.spilled_total_m3
        self.assertAlmostEqual(plant.volume_m3 - before_m3, balance_m3, places=8)
        return run

    def test_by_level_it_comes_to_rest_where_the_pump_gives_the_inflow(self) -> None:
        run = self.run_with("by_level", 0.0075, 4 * 3600.0, {"least_speed": 0.85, "full_speed_level": 1.7})
        bench = run.bench
        level_m = bench.plant.level_m
        speed = 0.85 + 0.15 * (level_m - 1.0) / 0.7
        self.assertAlmostEqual(bench.plant.speed, speed, delta=0.003)
        self.assertAlmostEqual(math.sqrt((20.0 * speed**2 - (13.0 - level_m)) / 1e5), 0.0075, delta=0.0001)

    def test_the_loop_holds_its_level_without_a_lasting_error(self) -> None:
        run = self.run_with(
            "hold_level",
            0.0075,
            6 * 3600.0,
            {"least_speed": 0.85, "hold_level": 1.5, "hold_gain": 1.5, "hold_reset": 600.0},
        )
        levels = [row[1] for row in run.trace if row[0] > 4 * 3600.0]
        self.assertLess(max(levels) - min(levels), 0.01)
        self.assertAlmostEqual(levels[-1], 1.5, delta=0.01)

    def test_without_a_level_it_runs_full(self) -> None:
        station = survey(control={**CONTROLLER, "level_by": "sensor_and_floats", "floats": 2}, drives=DRIVES)
        decided = choices(
            schools={"speed_mode": "by_level"}, chosen={**LEVELS, "least_speed": 0.85, "full_speed_level": 1.8}
        )
        bench = lift_bench(station, decided, reckon(station, decided), 1.65)
        run = rehearse(bench, (inflow(0.0, 0.0075),), 60.0)
        self.assertLess(run.bench.plant.speed, 1.0)
        lift = (TimedAction(0.0, "loop_open", "", 1.0), TimedAction(10.0, "float_up", "high_alarm", 1.0))
        run = rehearse(lift_bench(station, decided, reckon(station, decided), 1.65), (inflow(0.0, 0.015), *lift), 120.0)
        self.assertEqual(run.bench.plant.speed, 1.0)
        self.assertEqual(len(run.bench.running), 2)
