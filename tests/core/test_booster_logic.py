"""The booster's controller as a table: what it reads, scan by scan, and what the set and each pump then do."""

import unittest
from dataclasses import replace

from goodbalance.core.control.alarms import Cause
from goodbalance.core.control.rotation import Alternation, Rotation
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.control.trips import Trip
from goodbalance.core.stations.booster.controller.logic import BoosterLogic
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.controller.stops import Mode, Seen
from goodbalance.core.stations.booster.names import Alarm
from goodbalance.core.stations.booster.windows.reckon import reckon
from tests.boosters import choices, survey

SCAN_S = 0.5
SET = {
    "set_pressure": 400e3, "restart": 340e3, "boost": 20e3, "high_stop": 500e3, "low_suction_stop": 0.0, "low_suction_reset": 30e3,
    "burst_stop": 300e3, "least_speed": 0.5, "sleep_speed": 0.75, "join_speed": 0.95, "leave_speed": 0.8, "sleep_delay": 10.0,
    "join_delay": 12.0, "leave_delay": 30.0, "low_suction_delay": 3.0, "burst_delay": 20.0, "no_prime_delay": 10.0,
    "cut_in": 340e3, "cut_out": 450e3, "flow_delay": 15.0, "least_run": 4.0, "fill_pressure": 250e3, "fill_speed": 0.7,
    "fill_timeout": 60.0, "night_pressure": 360e3, "no_flow_pressure": 370e3, "emergency_pressure": 350e3, "emergency_pumps": 1.0,
}  # fmt: skip
FULL = (1.0, 1.0, 1.0)


def logic(schools=None, pumps: int = 3, alternation: Alternation = Alternation.FIXED, **changes) -> BoosterLogic:
    changes = {"control": {"suction_by": "sensor", **changes.pop("control", {})}, **changes}
    station, decided = survey(**changes), choices(SET, schools)
    numbers = numbers_of(station, decided, reckon(station, decided, False))
    return BoosterLogic(numbers, Rotation(pumps, alternation))


def seen(pressure: float | None = 400e3, **more) -> Seen:
    """Calm water at the set pressure, pumps that take what they should."""
    usual = {
        "remote_pa": None, "suction_pa": 60e3, "water_ok": True, "flow_open": False, "flow_m3s": 0.002,
        "powers_w": (1000.0,) * 3, "idle_powers_w": (800.0,) * 3, "speeds": FULL,
    }  # fmt: skip
    return Seen(**{"pressure_pa": pressure, **usual, **more})


class LogicTest(unittest.TestCase):
    def walk(self, box: BoosterLogic, *steps) -> BoosterLogic:
        """Each step: how long, the pressure, the regulator's output if it changes, and anything else that is seen."""
        for lasts_s, pressure, *rest in steps:
            output, more = (rest + [None, {}])[:2] if len(rest) != 1 else (rest[0], {})
            if output is not None:
                box.output = output
            for _ in range(round(lasts_s / SCAN_S)):
                box.scan(seen(pressure, **more), box.now_s + SCAN_S)
        return box


class RestTest(LogicTest):
    TABLE = (  # name, schools, steps, mode, stage
        ("rests above the restart", {}, [(5.0, 340.1e3)], Mode.ASLEEP, 0),
        ("wakes at it", {}, [(0.5, 340e3)], Mode.RUNNING, 1),
        ("runs on while somebody draws", {}, [(0.5, 340e3), (60.0, 400e3, 0.8)], Mode.RUNNING, 1),
        ("sits out its delay", {}, [(0.5, 340e3), (9.5, 400e3, 0.7)], Mode.RUNNING, 1),
        ("boosts when the delay is over", {}, [(0.5, 340e3), (10.5, 400e3, 0.7)], Mode.BOOSTING, 1),
        ("a tap in between begins the delay again", {}, [(0.5, 340e3), (8.0, 400e3, 0.7), (0.5, 400e3, 0.8), (8.0, 400e3, 0.7)], Mode.RUNNING, 1),
        ("rests when boosted", {}, [(0.5, 340e3), (10.5, 400e3, 0.7), (0.5, 418e3)], Mode.ASLEEP, 0),
        ("gives the boost up after a minute", {}, [(0.5, 340e3), (10.5, 400e3, 0.7), (61.0, 405e3)], Mode.ASLEEP, 0),
        ("a tap ends the boost", {}, [(0.5, 340e3), (10.5, 400e3, 0.7), (0.5, 330e3)], Mode.RUNNING, 1),
        ("the flow switch tells it", {"no_flow": "flow"}, [(0.5, 340e3), (10.5, 400e3, 0.9, {"flow_open": True})], Mode.BOOSTING, 1),
        ("a low speed does not, with a flow switch", {"no_flow": "flow"}, [(0.5, 340e3), (60.0, 400e3, 0.6)], Mode.RUNNING, 1),
        ("a short stop is tried", {"no_flow": "bump"}, [(0.5, 340e3), (10.5, 400e3, 0.7)], Mode.TESTING, 1),
        ("and ends in rest if nobody draws", {"no_flow": "bump"}, [(0.5, 340e3), (10.5, 400e3, 0.7), (5.5, 398e3)], Mode.ASLEEP, 0),
        ("or the pump comes back", {"no_flow": "bump"}, [(0.5, 340e3), (10.5, 400e3, 0.7), (2.0, 398e3), (0.5, 385e3)], Mode.RUNNING, 1),
        ("and the next short stop has its whole time", {"no_flow": "bump"},
         [(0.5, 340e3), (10.5, 400e3, 0.7), (2.0, 398e3), (0.5, 385e3), (10.5, 400e3, 0.7), (4.0, 398e3)], Mode.TESTING, 1),
        ("empty pipes are filled first", {"slow_fill": True}, [(0.5, 10e3)], Mode.FILLING, 1),
        ("until the fill pressure", {"slow_fill": True}, [(0.5, 10e3), (5.0, 200e3), (0.5, 250e3)], Mode.RUNNING, 1),
        ("and no longer than the timeout", {"slow_fill": True}, [(0.5, 10e3), (61.0, 200e3)], Mode.RUNNING, 1),
        ("or then it stops", {"slow_fill": True, "fill_end": "stop"}, [(0.5, 10e3), (61.0, 200e3)], Mode.ASLEEP, 0),
        ("full pipes are not filled", {"slow_fill": True}, [(0.5, 300e3)], Mode.RUNNING, 1),
    )  # fmt: skip

    def test_when_it_wakes_rests_and_fills(self) -> None:
        for name, schools, steps, mode, stage in self.TABLE:
            with self.subTest(name):
                box = self.walk(logic(schools), *steps)
                self.assertEqual((box.mode, box.stage), (mode, stage))


class StageTest(LogicTest):
    def test_pumps_join_and_leave_after_their_delays(self) -> None:
        box = self.walk(logic(), (0.5, 340e3), (12.0, 390e3, 0.96))
        self.assertEqual(box.stage, 1)
        self.walk(box, (0.5, 390e3))
        self.assertEqual((box.stage, box.served), (2, (0, 1)))
        self.walk(box, (12.5, 390e3), (60.0, 390e3))
        self.assertEqual(box.stage, 3)  # there are no more
        self.walk(box, (30.0, 400e3, 0.79))
        self.assertEqual(box.stage, 3)
        self.walk(box, (0.5, 400e3), (31.0, 400e3), (60.0, 400e3, 0.85))
        self.assertEqual(box.stage, 1)

    def test_a_dip_of_the_speed_begins_the_join_delay_again(self) -> None:
        box = self.walk(logic(), (0.5, 340e3), (11.0, 390e3, 0.96), (0.5, 390e3, 0.9), (11.0, 390e3, 0.96))
        self.assertEqual(box.stage, 1)

    def test_side_by_side_all_turn_alike_in_a_row_only_the_last_regulates(self) -> None:
        for sharing, speeds, regulating in (
            ("synchronous", [0.9, 0.9, 0.0], (0, 1)),
            ("serial", [1.0, 0.9, 0.0], (1,)),
        ):
            box = self.walk(logic({"sharing": sharing}), (0.5, 340e3), (13.0, 380e3, 0.96))
            box.output = 0.9
            self.assertEqual(box.wanted_speeds(), speeds, sharing)
            self.assertEqual(box.regulating(), regulating)

    def test_in_a_row_full_speed_alone_calls_nobody(self) -> None:
        held = self.walk(logic({"sharing": "serial"}), (0.5, 340e3), (60.0, 400e3, 1.0))
        self.assertEqual(held.stage, 1)
        sags = self.walk(logic({"sharing": "serial"}), (0.5, 340e3), (13.0, 380e3, 1.0))
        self.assertEqual(sags.stage, 2)
        # one that overshoots with a full pump beside it lets one go at once
        climbs = self.walk(sags, (0.5, 425e3, 0.6))
        self.assertEqual(climbs.stage, 1)

    def test_who_leads_next(self) -> None:
        for rule, leads in (
            (Alternation.FIXED, [0, 0, 0, 0]),
            (Alternation.ALL_STOPPED, [0, 1, 2, 0]),
            (Alternation.EACH_STOP, [0, 1, 2, 0]),
        ):
            box, found = logic(alternation=rule), []
            for _ in range(4):
                self.walk(box, (0.5, 340e3))
                found.append(box.served[0])
                self.walk(box, (10.5, 400e3, 0.7), (0.5, 420e3))
                self.assertIs(box.mode, Mode.ASLEEP)
            self.assertEqual(found, leads, rule)

    def test_one_that_is_off_tripped_or_out_of_reach_is_passed_over(self) -> None:
        box = logic()
        box.turn_switch(0, Switch.OFF)
        self.walk(box, (0.5, 340e3))
        self.assertEqual(box.served, (1,))
        box.tripped[1] = Trip.DRIVE
        self.walk(box, (0.5, 400e3))
        self.assertEqual(box.served, (2,))
        box.turn_switch(1, Switch.OFF)  # resets its trip
        box.turn_switch(1, Switch.AUTO)
        self.walk(box, (0.5, 400e3))
        self.assertEqual(box.served, (1,))
        box.turn_switch(2, Switch.HAND)
        box.hand_speed = 0.6
        self.assertEqual(box.wanted_speeds()[2], 0.6)

    def test_on_the_generator_fewer_pumps_and_less_pressure(self) -> None:
        box = self.walk(logic(motor={"generator": True, "generator_va": 9e3}), (0.5, 340e3), (13.0, 390e3, 0.96))
        self.assertEqual((box.stage, box.target_pa(0.002)), (2, 400e3))
        box.on_generator = True
        self.walk(box, (0.5, 390e3))
        self.assertEqual((box.stage, box.target_pa(0.002)), (1, 350e3))


class TargetTest(LogicTest):
    def test_what_is_held_by_night_by_flow_and_at_the_far_end(self) -> None:
        night = logic({"night": True})
        night.night = True
        self.assertEqual(night.target_pa(0.002), 360e3)
        for setback, expected in (("square", 370e3 + 30e3 / 9.0), ("linear", 370e3 + 10e3)):
            self.assertAlmostEqual(logic({"setback": setback}).target_pa(0.002), expected)  # a third of 6 l/s
            self.assertAlmostEqual(logic({"setback": setback}).target_pa(0.009), 400e3)
        far = logic(remote={"height_m": 18.0, "range_pa": 600e3})
        self.walk(far, (0.5, 340e3, None, {"remote_pa": 180e3}), (0.5, 400e3, None, {"remote_pa": 180e3}))
        for remote, higher in ((150e3, True), (250e3, False)):  # set to about 2 bar there
            far.take_over(0.8)
            far.regulate(400e3, remote, 0.002, 0.1)
            self.assertEqual(far.output > 0.8, higher)
        self.walk(far, (2.5, 400e3, None, {"remote_pa": None}))
        self.assertTrue(far.remote_lost)
        far.take_over(0.8)
        far.regulate(360e3, None, 0.002, 0.1)
        self.assertGreater(far.output, 0.8)  # on to its own set pressure

    def test_at_rest_the_regulator_only_follows(self) -> None:
        self.assertFalse(logic().regulate(300e3, None, 0.0, 0.1))


class StopTest(LogicTest):
    TABLE = (  # name, what is seen while a pump runs, for how long it must last, alarm, comes back by itself once it is gone
        ("sensor", {"pressure": None}, 2.0, "sensor", True),
        ("lack of water by pressure", {"suction_pa": -1e3}, 3.0, "low_suction", True),
        ("lack of water by its switch", {"water_ok": False}, 3.0, "low_suction", True),
        ("high pressure", {"pressure": 501e3}, 0.0, "high", False),
        ("run-out", {"pressure": 290e3, "speeds": FULL}, 20.0, "burst", False),
    )  # fmt: skip

    def running(self, schools=None) -> BoosterLogic:
        box = logic(schools, pumps=1)
        return self.walk(box, (0.5, 340e3), (1.0, 400e3, 0.9))

    def test_every_stop_acts_after_its_time_and_no_sooner(self) -> None:
        for name, change, lasts_s, alarm, by_itself in self.TABLE:
            with self.subTest(name):
                change = dict(change)
                pressure = change.pop("pressure", 400e3)
                early = self.walk(self.running(), (lasts_s, pressure, None, change)) if lasts_s else self.running()
                self.assertEqual(early.stage, 1)
                box = self.walk(self.running(), (lasts_s + 0.5, pressure, None, change))
                self.assertEqual((box.stage, box.mode), (0, Mode.ASLEEP))
                self.assertIn(Cause(alarm), box.alarms.lamps)
                self.assertEqual(box.wanted_speeds()[0], 0.0)
                self.walk(box, (7.0, 330e3))  # the cause is gone
                self.assertEqual(box.stage == 1, by_itself)
                box.reset()
                self.walk(box, (0.5, 330e3))
                self.assertEqual(box.stage, 1)

    def test_lack_of_water_that_waits_for_a_person(self) -> None:
        box = self.walk(self.running({"suction_reset": "by_hand"}), (3.5, 400e3, None, {"suction_pa": -1e3}))
        self.walk(box, (20.0, 330e3))
        self.assertEqual(box.stage, 0)
        box.reset()
        self.walk(box, (0.5, 330e3))
        self.assertEqual(box.stage, 1)

    def test_water_between_stop_and_reset_does_not_count(self) -> None:
        box = self.walk(
            self.running(), (3.5, 400e3, None, {"suction_pa": -1e3}), (20.0, 330e3, None, {"suction_pa": 20e3})
        )
        self.assertEqual(box.stage, 0)

    def test_blind_one_pump_runs_on_at_the_fill_speed(self) -> None:
        box = self.walk(self.running({"sensor_failure": "run_duty"}), (3.0, None))
        self.assertTrue(box.blind)
        self.assertEqual(box.wanted_speeds()[0], box.numbers.fill_speed)
        self.assertFalse(box.regulating())

    def test_a_pump_in_air_is_given_up_and_a_loaded_one_is_not(self) -> None:
        """Under 59 %, by plan, of what it takes without flow: 471 W of 800 W is air, 473 W is not."""
        for power_w, given_up in ((471.0, True), (473.0, False)):
            box = self.walk(self.running(), (10.5, 400e3, None, {"powers_w": (power_w,) * 3}))
            self.assertEqual(box.tripped[0] is Trip.NO_PRIME, given_up)

    def test_a_signal_that_fails_for_a_moment_starts_nothing(self) -> None:
        for failure in ("run_duty", "stop_all"):
            for kind in ("constant", "on_off"):
                box = self.walk(logic({"sensor_failure": failure}, control={"kind": kind}), (1.0, 400e3), (1.5, None))
                self.assertEqual(box.stage, 0, (failure, kind))

    def test_phases_and_power(self) -> None:
        for name in ("phases_ok", "power"):
            box = self.running()
            setattr(box, name, False)
            self.walk(box, (0.5, 400e3))
            self.assertEqual(box.stage, 0, name)

    def test_a_run_too_long_is_told_and_goes_on(self) -> None:
        box = self.running()
        box.numbers = replace(box.numbers, max_run=100.0)
        self.walk(box, (101.0, 400e3))
        self.assertEqual(box.stage, 1)
        self.assertIn(Cause(Alarm.LONG, 1), box.alarms.lamps)


class ShortStopTest(LogicTest):
    def test_every_pump_stands_still_while_it_feels_for_flow(self) -> None:
        box = self.walk(logic({"no_flow": "bump"}), (0.5, 340e3), (10.5, 400e3, 0.72))
        self.assertEqual((box.mode, box.stage), (Mode.TESTING, 1))
        self.assertEqual(box.wanted_speeds(), [0.0, 0.0, 0.0])
        self.walk(box, (1.0, 380e3))
        self.assertEqual(box.mode, Mode.RUNNING)
        self.assertGreater(box.wanted_speeds()[0], 0.5)


class StartsTest(LogicTest):
    def test_a_start_counts_for_an_hour(self) -> None:
        box = logic()
        box.started_s[0], box.now_s = [0.0, 1000.0, 3500.0], 3600.0
        box.count_starts(())
        self.assertEqual(box.started_s[0], [1000.0, 3500.0])
        box.started_s[1] = [3600.0 - n for n in range(int(box.numbers.starts_alarm), -1, -1)]
        self.assertEqual(box.over_started, (1,))
        self.walk(box, (0.5, 400e3))
        self.assertIn(Cause(Alarm.STARTS, 2), box.alarms.lamps)
        box.started_s[1].pop()
        self.assertEqual(box.over_started, ())


class SwitchedTest(LogicTest):
    def on_off(self, kind: str = "on_off") -> BoosterLogic:
        return logic(control={"kind": kind}, vessel={"volume_m3": 1.5}, outlets={"permitted_pa": 900e3})

    def test_on_and_off_by_pressure(self) -> None:
        box = self.walk(self.on_off(), (5.0, 341e3))
        self.assertEqual(box.stage, 0)
        self.walk(box, (0.5, 340e3), (1.0, 460e3))
        self.assertEqual(box.stage, 1)  # it runs its least time of 4 s
        self.walk(box, (3.5, 460e3))
        self.assertEqual(box.stage, 0)
        self.walk(box, (60.0, 400e3))
        self.assertEqual(box.stage, 0)

    def test_the_next_pump_joins_under_cut_in_and_all_stop_at_cut_out(self) -> None:
        box = self.walk(self.on_off(), (0.5, 340e3), (12.0, 338e3))
        self.assertEqual(box.stage, 1)
        self.walk(box, (0.5, 338e3))
        self.assertEqual((box.stage, box.wanted_speeds()), (2, [1.0, 1.0, 0.0]))
        self.walk(box, (30.0, 400e3), (0.5, 450e3))
        self.assertEqual(box.stage, 0)

    def test_it_runs_until_the_flow_has_ended(self) -> None:
        box = self.walk(self.on_off("flow_stop"), (0.5, 340e3), (60.0, 480e3))  # pressure alone does not stop it
        self.assertEqual(box.stage, 1)
        ended = {"flow_open": True}
        self.walk(box, (14.5, 480e3, None, ended), (0.5, 480e3), (14.5, 480e3, None, ended))
        self.assertEqual(box.stage, 1)
        self.walk(box, (1.0, 480e3, None, ended))
        self.assertEqual(box.stage, 0)
