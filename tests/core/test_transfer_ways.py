"""On and off against a held pressure on the set in round numbers: H = 60 - 4e6 q^2, a valve of 2 l/s at 1 bar, inlet 20 m over the source's middle."""

import unittest

from goodbalance.core.stations.transfer.trials.ways import SET_PRESSURE, SLEEP_SPEED, compare
from tests.transfers import A_M, METRE_PA, VALVE, C, choices, plan_of, survey, tank

DAY_S = 86400.0


class WaysTest(unittest.TestCase):
    def test_both_ways_by_hand(self) -> None:
        """The drive fills with 1.5 times 0.6 l/s: 23 m and what 0.9 l/s lose in the valve, 10.1972 · (0.9 / 2)^2 = 2.065 m."""
        facts, decided = survey(), choices()
        both = compare(facts, decided, plan_of(facts))
        on_off, drive = both.fills
        flow = ((A_M - 20.0) / (C + VALVE)) ** 0.5  # 60 - 4e6 q^2 = 20 + 2.549e6 q^2: 2.471 l/s
        self.assertAlmostEqual(on_off.flow_m3s / flow, 1.0, delta=2e-3)  # its pipes are wide, not without loss
        self.assertAlmostEqual(on_off.per_volume, (700.0 + 3e5 * flow) / flow, delta=2e3)

        held_pa = {setting.id: setting for setting in both.settings}[SET_PRESSURE]
        wobble_pa, error_pa = max(3.0 * 1e3, 5.0 * 10e5 / 4000), 0.005 * 10e5
        self.assertAlmostEqual(held_pa.window.low, METRE_PA * (23.0 + 2.065) + wobble_pa + error_pa, delta=60.0)
        rate = 9e-4  # full speed, worn by 3 %, from 2 m of water: 2 + 0.97 (60 - 4e6 · 0.81e-6) = 57.06 m
        self.assertAlmostEqual(held_pa.window.high, METRE_PA * (2.0 + 0.97 * (A_M - C * rate**2)) - wobble_pa - error_pa - 1e4, delta=30.0)

        head_m = held_pa.value / METRE_PA - 3.0  # over the middle of the source
        flow = ((held_pa.value / METRE_PA - 23.0) / VALVE) ** 0.5
        speed = ((head_m + C * flow**2) / A_M) ** 0.5  # s^2 60 - 4e6 q^2 = h
        self.assertAlmostEqual(drive.flow_m3s / flow, 1.0, delta=2e-3)
        self.assertAlmostEqual(drive.speed, speed, delta=1e-3)
        self.assertAlmostEqual(drive.power_w, speed**3 * (700.0 + 3e5 * flow / speed) / 0.96, delta=2.0)
        sleep = {setting.id: setting for setting in both.settings}[SLEEP_SPEED]
        self.assertAlmostEqual(sleep.window.low, ((held_pa.value / METRE_PA - 2.0) / A_M) ** 0.5 + 0.005, delta=1e-4)

        # a fill of 4 m3 net of 0.2 l/s; on and off the level falls on while the delay counts; a day of 17.28 m3
        delay_m3 = plan_of(facts).value("restart_delay", 0.0) * 2e-4
        for fill, volume in ((on_off, 4.0 + delay_m3), (drive, 4.0)):
            self.assertAlmostEqual(fill.fills_s, volume / (fill.flow_m3s - 2e-4), delta=1e-6 * fill.fills_s)
            self.assertAlmostEqual(fill.starts, DAY_S / (volume / 2e-4 + fill.fills_s), delta=1e-6)

    def test_a_drive_that_cannot_hold_it_works_as_if_it_were_not_there(self) -> None:
        """Two tanks far apart in height: at the pressure of the upper one the lower one takes all the pump gives."""
        facts = survey(tanks={"count": 2, "drinking": False, "lost_m3": 20.0}, tank_2=tank(floor_m=40.0))
        both = compare(facts, choices(), plan_of(facts))
        lower = [fill for fill in both.fills if fill.tank == 1]
        self.assertEqual([fill.speed for fill in lower], [1.0, 1.0])
        self.assertEqual(lower[0].flow_m3s, lower[1].flow_m3s)
        self.assertAlmostEqual(lower[1].power_w, lower[0].power_w / 0.96, delta=1e-6)
        self.assertGreater(both.per_volume(True), 0.0)

    def test_more_fill_costs_more_and_takes_less_time(self) -> None:
        facts, last = survey(), None
        for share in (1.2, 1.8, 2.6):
            decided = choices()
            decided = decided.model_copy(update={"rules": decided.rules.model_copy(update={"fill_share": share})})
            both = compare(facts, decided, plan_of(facts))
            now = (both.per_volume(True), -both.longest_fill_s(True))
            self.assertTrue(last is None or (now[0] > last[0] and now[1] > last[1]), (share, now, last))
            last = now


class NothingDrawnTest(unittest.TestCase):
    def test_without_a_draw_nothing_starts_and_nothing_divides_by_it(self) -> None:
        facts = survey(tank_1=tank(mean_m3s=0.0, peak_m3s=0.0), pumping={"least_flow_m3s": 3e-4})
        both = compare(facts, choices(), plan_of(facts))
        self.assertEqual((both.starts(False), both.starts(True), both.per_volume(True)), (0.0, 0.0, 0.0))
