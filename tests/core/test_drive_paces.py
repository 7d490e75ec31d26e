"""Drives at an economical speed and as an outside signal says, by hand on the station of test_timers_and_drives.

H = 20 n2 - 1e5 Q2, outlet 13 m: at the stop (1.0 m) the lift is 12 m, at the duty start (1.6 m) 11.4 m. The main hardly resists.
"""

import math
import unittest

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.control.level_drive import DriveMode, LevelDrive, OutsideLost
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Thing, among
from goodbalance.core.sheets.entry_sheet import entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.exchange.profiles import shipped_profiles
from tests.core.test_lift_bench import inflow
from tests.core.test_timers_and_drives import CONTROLLER, DRIVES, LEVELS, NARROW, plan_of
from tests.read_backs import held
from tests.stations import CURVE, choices, survey

TOLD = {**DRIVES, "outside": True}
POWERED = tuple({**point, "power_w": 1000.0 + 1e5 * point["flow_m3s"]} for point in CURVE)


class PaceWindowTest(unittest.TestCase):
    def test_the_economical_speed_takes_least_for_each_cubic_metre(self) -> None:
        """P = n3 (1000 + 1e5 Q/n), Q = sqrt((20 n2 - 11.4)/1e5): e = P/Q is 200.8 kJ/m3 at n = 0.80, 183.2 at 0.86, 207.8 at 1."""
        changes = {"drives": DRIVES, "main": NARROW, "pump_1": {"curve": POWERED}}
        plan = plan_of({"speed_mode": "economical"}, {"least_speed": 0.80}, **changes)
        setting = plan.setting("economical_speed")
        self.assertAlmostEqual(setting.recommended, 0.86, delta=0.011)
        bounds = {bound.cause: bound.value for bound in setting.window.lower}
        self.assertAlmostEqual(bounds["carries the mean inflow"], math.sqrt(12.4 / 20.0), delta=0.002)  # 2 l/s: 1e5 Q2 is 0.4 m
        self.assertEqual((bounds["least speed"], setting.window.high), (0.80, 0.95))
        figures = {figure.id: figure.value for figure in plan.figures}
        self.assertAlmostEqual(figures["energy_economical"], 183_200.0, delta=1500.0)
        self.assertAlmostEqual(figures["energy_full"], 207_800.0, delta=2500.0)

    def test_full_speed_begins_between_duty_start_and_assist(self) -> None:
        window = plan_of({"speed_mode": "economical"}, drives=DRIVES, main=NARROW).setting("full_speed_level").window
        self.assertAlmostEqual(window.low, 1.6 + 0.15)
        self.assertAlmostEqual(window.high, 2.0 - 0.15)

    def test_both_ends_of_the_outside_signal(self) -> None:
        """Two pumps share 6 l/s at the stop: 20 n2 = 12 + 1e5 x 0.003 x 0.003, n = 0.8031."""
        plan = plan_of({"speed_mode": "outside"}, {"least_speed": 0.7}, drives=TOLD, main=NARROW)
        zero, full = plan.setting("outside_zero_speed"), plan.setting("outside_full_speed")
        self.assertEqual((zero.window.low, zero.recommended, full.recommended), (0.7, 0.7, 1.0))
        bounds = {bound.cause: bound.value for bound in full.window.lower}
        self.assertAlmostEqual(bounds["carries the peak inflow"], math.sqrt(12.9 / 20.0), delta=0.003)
        self.assertNotIn("no_outside_signal", {finding.code for finding in plan.findings})
        self.assertIn("no_outside_signal", {finding.code for finding in plan_of({"speed_mode": "outside"}, drives=DRIVES).findings})


class OutsideDriveTest(unittest.TestCase):
    def told(self, lost: OutsideLost) -> list[float]:
        """3/4 of the signal, then none, then 3/4 again; from 60 % to 100 % that is 90 %."""
        drive = LevelDrive(DriveMode.OUTSIDE, 0.5, ramp_s=0.01, outside_zero=0.6, outside_full=1.0, outside_lost=lost)
        found = []
        for share in (0.75, None, 0.75):
            drive.scan(None, True, 1.0, share)
            found.append(round(drive.speed, 6))
        return found

    def test_what_it_does_without_its_signal(self) -> None:
        self.assertEqual(self.told(OutsideLost.FULL), [0.9, 1.0, 0.9])
        self.assertEqual(self.told(OutsideLost.HOLD), [0.9, 0.9, 0.9])
        self.assertEqual(self.told(OutsideLost.LEAST), [0.9, 0.5, 0.9])

    def test_no_less_than_least_and_full_where_nothing_was_ever_told(self) -> None:
        low = LevelDrive(DriveMode.OUTSIDE, 0.7, ramp_s=0.01, outside_zero=0.2)
        low.scan(None, True, 1.0, 0.0)
        self.assertAlmostEqual(low.speed, 0.7)
        new = LevelDrive(DriveMode.OUTSIDE, 0.7, ramp_s=0.01, outside_lost=OutsideLost.HOLD)
        new.scan(None, True, 1.0, None)
        self.assertEqual(new.speed, 1.0)


class PaceBenchTest(unittest.TestCase):
    def station(self, mode: str, **chosen: float):
        decided = choices(schools={"speed_mode": mode}, chosen={**LEVELS, "least_speed": 0.8, **chosen})
        return survey(control=CONTROLLER, drives=TOLD, main=NARROW), decided

    def test_a_storm_is_met_at_full_speed_until_all_have_stopped(self) -> None:
        station, decided = self.station("economical", economical_speed=0.86, full_speed_level=1.8)
        plan = LIFT.reckon(station, decided, False)
        storm = (inflow(0.0, 0.0080), inflow(900.0, 0.0020))
        run = rehearse(lift_bench(station, decided, plan, 1.62), storm, 3 * 3600.0)
        full = list(among(run.events, Thing.SPEED))
        self.assertEqual(len(full), 1)
        self.assertAlmostEqual(full[0].value("level") or 0.0, 1.8, delta=0.01)
        speeds = [(row[0], row[-1]) for row in run.trace if row[-1] > 0.0]
        stops_s = next(event.at_s for event in run.events if event.thing is Thing.PUMP and event.doing == "stops")
        self.assertTrue(all(speed > 0.99 for at_s, speed in speeds if full[0].at_s + 10.0 < at_s < stops_s))
        self.assertTrue(all(speed < 0.87 for at_s, speed in speeds if at_s < full[0].at_s or at_s > stops_s + 20.0))

    def test_every_drive_number_that_is_wrong_fails_its_proof(self) -> None:
        profiles = shipped_profiles()
        wheel, leaf = profiles["wrackline_wheel"], profiles["skerry_leaf"]
        for mode, chosen, code, shows, failing in (
            ("economical", {"economical_speed": 0.86, "full_speed_level": 1.8}, "pace thrift", "49.0", "economical"),
            ("economical", {"economical_speed": 0.86, "full_speed_level": 1.8}, "pace full at", "1.70", "full_speed"),
            ("by_level", {"full_speed_level": 1.7}, "pace full at", "1.40", "full_speed"),
            ("by_level", {"full_speed_level": 1.4, "start_2": 2.1}, "pace full at", "1.25", "full_speed_falling"),
            ("outside", {"outside_zero_speed": 0.85}, "told at rest", "46.0", "outside_empty"),
            ("outside", {"outside_zero_speed": 0.85}, "told at full", "46.0", "outside_full"),
            ("outside", {"outside_zero_speed": 0.85}, "if untold", "crawl", "outside_lost"),
        ):  # fmt: skip
            with self.subTest(code, mode=mode):
                station, decided = self.station(mode, **chosen)
                plan = LIFT.reckon(station, decided, False)
                values = LIFT.keypad.values(station, decided, plan, Display.METRES)
                sheet = entry_sheet(wheel, values, LIFT.keypad.scale(station, wheel, Display.METRES), (leaf,))
                self.assertEqual([row.trouble for row in sheet.rows if row.trouble], [])
                right = held(LIFT, station, decided, sheet, {}, Display.METRES)
                self.assertEqual([each.about for each in right.uncarried if each.harm], [])
                verdicts = {each.proof.id: each.verdict for each in LIFT.prove_on_bench(station, decided, plan, right)}
                self.assertIs(verdicts[failing], Verdict.PASSED)
                self.assertNotIn(Verdict.FAILED, verdicts.values())
                wrong = held(LIFT, station, decided, sheet, {code: shows}, Display.METRES)
                failed = {each.proof.id for each in LIFT.prove_on_bench(station, decided, plan, wrong) if each.verdict is Verdict.FAILED}
                self.assertIn(failing, failed)

    def test_the_reason_says_where_the_speed_comes_from(self) -> None:
        station, decided = self.station("outside", outside_zero_speed=0.85)
        bench = lift_bench(station, decided, LIFT.reckon(station, decided, False), 1.62)
        run = rehearse(bench, (inflow(0.0, 0.004), TimedAction(30.0, "outside_lost", "", 1.0)), 60.0)
        links = [link.text for line in run.bench.reasons() for link in line.links if link.name == "Speed"]
        self.assertEqual(links, ["{speed}, the outside signal is lost: full"])
