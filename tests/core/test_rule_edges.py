"""Each rule at its edge: what governs by hand, just inside and just beyond, and the rule that another must not swallow."""

import unittest

from goodbalance.core.control.alarms import Cause
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.booster.controller.logic import BoosterLogic
from goodbalance.core.stations.booster.names import Mode, Stop
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.names import Alarm
from goodbalance.core.stations.lift.windows.chances import chances
from goodbalance.core.stations.lift.windows.reckon import reckon
from tests import boosters
from tests.core.test_booster_logic import FULL, SET, LogicTest
from tests.core.test_booster_logic import logic as controller
from tests.core.test_floats import backed
from tests.stations import choices, survey
from tests.trails import false_trails, false_verdicts


def bounds(plan, setting_id: str, side: str) -> dict[str, float]:
    return {bound.cause: bound.value for bound in getattr(plan.setting(setting_id).window, side)}


def keeps(plan, name: str) -> bool:
    return next(figure for figure in plan.figures if figure.id == name).keeps


class LiftWindowTest(unittest.TestCase):
    def test_levels_stand_apart_by_the_rule_or_by_the_wobble(self) -> None:
        """3 x 0.01 = 0.03 m of wobble against a step of 0.15 m by rule; with 0.06 m of wobble 0.18 m count."""
        for noise_m, step_m in ((0.01, 0.15), (0.06, 0.18)):
            plan = reckon(survey(sensor={"noise_m": noise_m}), choices(chosen={"start_1": 1.5}), False)
            self.assertAlmostEqual(bounds(plan, "start_2", "lower")["one step above the start before it"], 1.5 + step_m)

    def test_an_own_stop_lies_a_quarter_of_the_cycle_s_water_under_its_start(self) -> None:
        """At the inlet invert, 13 - 3 = 10 m: one pump gives sqrt(10/100000) = 10 l/s, both 20. Ten starts an hour: T = 360 s.
        V = (0.020 - 0.010) 360 / 4 = 0.9 m3, 0.45 m on 2 m2: from a start at 2.0 m down to 1.55 m."""
        decided = choices(schools={"stops": "own"}, chosen={"start_2": 2.0})
        plan = reckon(survey(), decided, False)
        self.assertAlmostEqual(bounds(plan, "stop_2", "upper")["volume for the assist's permitted starts"], 1.55, places=3)

    def test_what_follows_keeps_its_limit_up_to_it_and_no_further(self) -> None:
        """The main of 0.1 m at 10 and 20 l/s, at the invert: 1.27 and 2.55 m/s. From 2.5 m to the overflow at 4.5 m 4 m3 at
        6 l/s: 667 s. Between 0.5 and 1.5 m 2 m3 at 2 l/s: 1000 s."""
        levels = {"stop": 0.5, "start_1": 1.5, "start_2": 2.0, "high_alarm": 2.5}

        def plan(rules=None, **changes):
            return reckon(survey(**changes), choices(chosen=levels, rules=rules or {}), False)

        for name, inside, beyond in (
            ("velocity_2", {"rules": {"velocity_high_ms": 2.56}}, {"rules": {"velocity_high_ms": 2.53}}),
            ("velocity_1", {"rules": {"velocity_low_ms": 1.26}}, {"rules": {"velocity_low_ms": 1.29}}),
            ("storage", {"demands": {"response_s": 666.0}}, {"demands": {"response_s": 668.0}}),
            ("detention", {"rules": {"detention_s": 1001.0}}, {"rules": {"detention_s": 999.0}}),
            ("detention_low", {"rules": {"detention_low_s": 4001.0}}, {"rules": {"detention_low_s": 3999.0}}),
            ("firm", {"inflow": {"peak_m3s": 0.0082}}, {"inflow": {"peak_m3s": 0.0088}}),
        ):
            with self.subTest(name):
                thin = {"main": {"diameter_m": 0.1, "length_m": 0.5}}
                self.assertTrue(keeps(plan(**thin, **inside), name))
                self.assertFalse(keeps(plan(**thin, **beyond), name))

    def test_starts_keep_their_number(self) -> None:
        """The largest rate of one pump is 10 l/s: V = 0.010 x 360/4 = 0.9 m3 for ten starts an hour, 0.45 m."""
        for start_m, good in ((0.96, True), (0.94, False)):
            plan = reckon(survey(), choices(chosen={"stop": 0.5, "start_1": start_m}, schools={"alternation": "fixed"}), False)
            self.assertIs(keeps(plan, "starts_worst"), good)

    def test_the_reading_s_own_error_makes_a_setting_less_sure(self) -> None:
        decided = choices(chosen={"high_alarm": 2.69})  # the bound is 2.70 m
        shares = []
        for level_m in (0.0, 0.05):
            doubtful = survey(sureness={"pump_rate_share": 0.0, "inflow_share": 0.0, "area_share": 0.0, "level_m": level_m})
            shares.append(chances(doubtful, decided, reckon(doubtful, decided, False))["high_alarm"])
        self.assertEqual(shares[0], 1.0)
        # 0.01 m is 0.01/(0.05/1.96) = 0.392 standard deviations: 65 of 100
        self.assertAlmostEqual(shares[1], 0.652, delta=0.01)


class FloatTest(unittest.TestCase):
    def play(self, at_m: float, *actions: TimedAction, until_s: float):
        station, decided, plan = backed(4)
        still = TimedAction(0.0, "inflow", "", 0.0)
        return rehearse(lift_bench(station, decided, plan, at_m), (still, *actions), until_s)

    def test_the_high_float_calls_every_pump_while_the_sensor_is_trusted(self) -> None:
        run = self.play(1.3, TimedAction(1.0, "float_up", "high_alarm", 1.0), until_s=8.0)
        self.assertFalse(run.bench.logic.doubted)
        self.assertEqual(run.bench.running, (0, 1))
        self.assertIn(Cause(Alarm.HIGH), run.bench.logic.alarms.lamps)

    def test_a_dry_float_under_a_high_reading_puts_the_sensor_out(self) -> None:
        """The echo reads 0.8 m too high: 2.3 m over a start float at 1.8 m that hangs down. Ten seconds, then it is not believed."""
        for until_s, doubted in ((9.0, False), (15.0, True)):
            run = self.play(1.5, TimedAction(0.0, "echo", "", 1.0), until_s=until_s)
            self.assertIs(run.bench.logic.doubted, doubted)
        self.assertTrue(any(among(run.events, Thing.SENSOR, Doing.FAILS)))

    def test_a_float_under_water_over_a_low_reading_does_too(self) -> None:
        run = self.play(1.3, TimedAction(0.0, "float_up", "start_1", 1.0), until_s=15.0)
        self.assertTrue(run.bench.logic.doubted)


class BoosterWindowTest(unittest.TestCase):
    def test_a_relief_valve_bounds_the_pressure_under_it(self) -> None:
        """It opens at 5.5 bar at the sensor; the wobble is 3 x 20 mbar: 5.44 bar, under the 6 bar that outlets stand."""
        plan = boosters.plan_of(vessel={"relief_pa": 550e3})
        self.assertAlmostEqual(bounds(plan, "set_pressure", "upper")["relief valve"], 544e3)
        self.assertLessEqual(plan.setting("set_pressure").window.high, 544e3)

    def test_a_pump_is_called_before_full_speed(self) -> None:
        found = bounds(boosters.plan_of(), "join_speed", "upper")
        self.assertAlmostEqual(found["a little under full speed"], 0.98)

    def test_every_trail_and_verdict_of_each_way_of_control(self) -> None:
        for kind in ("constant", "on_off", "flow_stop", "fixed"):
            plan = boosters.plan_of(control={"kind": kind, "flow_switch": True, "flow_switch_m3s": 0.0002})
            self.assertEqual(false_trails(plan) + false_verdicts(plan), [], kind)


class BoosterLogicTest(LogicTest):
    def filling(self, slow_fill: bool) -> BoosterLogic:
        """Flat out under a low pressure for longer than a burst may last, from empty pipes on."""
        box = controller({"slow_fill": slow_fill, "fill_end": "go_on"}, pumps=1)
        return self.walk(box, (box.numbers.burst_delay + 5.0, 20e3, 1.0, {"speeds": FULL}))

    def test_pipes_that_fill_are_no_burst(self) -> None:
        filling = self.filling(True)
        self.assertEqual(filling.mode, Mode.FILLING)
        self.assertNotIn(Stop.BURST, filling.stops)
        self.assertIn(Stop.BURST, self.filling(False).stops)

    def test_on_the_bench_too(self) -> None:
        facts, decided = boosters.survey(), boosters.choices(SET, {"slow_fill": True})
        plan = boosters.reckon(facts, decided, False)
        drained = (TimedAction(1.0, "drain", "", 1.0),)
        run = rehearse(booster_bench(facts, decided, plan), drained, 60.0)
        self.assertTrue(any(among(run.events, Thing.SET, of=Mode.FILLING)))
        self.assertFalse(any(among(run.events, Thing.LIMIT, of=Stop.BURST)))
