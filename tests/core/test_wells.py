"""Wells, submergence and cycles against hand calculation and brute force."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics import wells
from goodbalance.core.stations.lift.windows.cycles import (
    assist_cycle_s,
    assist_volume_for_cycle_m3,
    shortest_assist_cycle_s,
)

BENCHED = wells.Well(
    (
        wells.Piece(0.0, 0.6, wells.circle_area_m2(0.8), wells.circle_area_m2(2.0)),
        wells.Piece(0.6, 4.0, wells.circle_area_m2(2.0), wells.circle_area_m2(2.0)),
    )
)


class WellTest(unittest.TestCase):
    def test_a_benched_well_holds_a_frustum_and_a_cylinder(self) -> None:
        # frustum: pi h / 3 (R^2 + R r + r^2) = pi 0.6 / 3 (1 + 0.4 + 0.16) = 0.98018; cylinder to 1.6 m: pi 1^2 1.0
        self.assertAlmostEqual(BENCHED.volume_m3(0.6), math.pi * 0.6 / 3 * (1.0 + 0.4 + 0.16), places=9)
        self.assertAlmostEqual(BENCHED.volume_m3(1.6), 0.980177 + 3.141593, places=5)

    @given(st.floats(0.0, 5.0))
    def test_level_is_the_inverse_of_volume(self, level_m: float) -> None:
        self.assertAlmostEqual(BENCHED.level_m(BENCHED.volume_m3(level_m)), level_m, places=9)

    @given(st.floats(0.1, 30.0), st.sampled_from((1e-15, 1e-13, 1e-9, 1e-6, 1e-3, 0.5, -0.9)), st.floats(0.0, 1.0))
    def test_and_stays_so_where_the_sides_are_all_but_upright(self, area_m2: float, more: float, share: float) -> None:
        piece = wells.Piece(0.5, 4.5, area_m2, area_m2 * (1.0 + more))
        self.assertAlmostEqual(piece.level_m(piece.volume_m3(0.5 + 4.0 * share)), 0.5 + 4.0 * share, places=9)

    @given(st.floats(0.0, 4.9), st.floats(0.001, 0.1))
    def test_volume_rises_with_level_by_about_the_area(self, level_m: float, rise_m: float) -> None:
        gained_m3 = BENCHED.volume_m3(level_m + rise_m) - BENCHED.volume_m3(level_m)
        areas = sorted((BENCHED.area_m2(level_m), BENCHED.area_m2(level_m + rise_m)))
        self.assertGreaterEqual(gained_m3, areas[0] * rise_m - 1e-9)
        self.assertLessEqual(gained_m3, areas[1] * rise_m + 1e-9)

    def test_pieces_must_stand_on_each_other(self) -> None:
        with self.assertRaisesRegex(OutOfRange, "bottom_m is 1.0"):
            wells.Well((wells.Piece(0.0, 0.5, 1.0, 1.0), wells.Piece(1.0, 2.0, 1.0, 1.0)))

    def test_nan_is_refused_where_a_number_must_be_positive(self) -> None:
        for call in (lambda: wells.circle_area_m2(math.nan), lambda: wells.shortest_cycle_s(1.0, math.nan)):
            with self.assertRaises(OutOfRange):
                call()


class SubmergenceTest(unittest.TestCase):
    def test_vortex_submergence_of_a_100_mm_intake(self) -> None:
        # Q = 9 l/s: v = 0.009 / (pi 0.01 / 4) = 1.1459 m/s; Fr = 1.1459 / sqrt(9.80665 * 0.1) = 1.1572
        # S = 0.1 (1 + 2.3 * 1.15715) = 0.36614 m
        self.assertAlmostEqual(wells.vortex_submergence_m(0.100, 0.009), 0.36614, places=4)


class ShortestCycleTest(unittest.TestCase):
    def test_no_other_inflow_cycles_faster(self) -> None:
        inflows_m3s = [0.020 * part / 1000 for part in range(1, 1000)]
        searched_s = min(1.5 / i + 1.5 / (0.020 - i) for i in inflows_m3s)
        self.assertAlmostEqual(wells.shortest_cycle_s(1.5, 0.020), searched_s, places=6)

    def test_volume_for_a_cycle_gives_that_cycle_back(self) -> None:
        volume_m3 = wells.active_volume_for_cycle_m3(0.010, 360.0)
        self.assertAlmostEqual(volume_m3, 0.9)  # 0.010 * 360 / 4
        self.assertAlmostEqual(wells.shortest_cycle_s(volume_m3, 0.010), 360.0)

    def test_an_outrun_pump_never_cycles(self) -> None:
        self.assertEqual(wells.cycle_s(1.0, 0.01, 0.012), math.inf)
        self.assertEqual(wells.cycle_s(1.0, 0.01, 0.0), math.inf)


class AssistCycleTest(unittest.TestCase):
    def test_a_stopwatch_agrees_with_the_formula(self) -> None:
        """March the water in small steps through one whole cycle of the assist pump."""
        duty_m3, assist_m3, one_m3s, two_m3s, inflow_m3s = 0.9, 1.3, 0.010, 0.017, 0.013
        volume_m3, clock_s, running, step_s = assist_m3, 0.0, 2, 0.01
        while True:
            volume_m3 += (inflow_m3s - (0.0, one_m3s, two_m3s)[running]) * step_s
            clock_s += step_s
            if running == 2 and volume_m3 <= 0.0:
                running = 0
            elif running == 0 and volume_m3 >= duty_m3:
                running = 1
            elif running == 1 and volume_m3 >= assist_m3:
                break
        self.assertAlmostEqual(clock_s, assist_cycle_s(duty_m3, assist_m3, one_m3s, two_m3s, inflow_m3s), delta=0.1)

    def test_the_search_finds_the_worst_inflow(self) -> None:
        inflows_m3s = [0.010 + 0.007 * part / 5000 for part in range(1, 5000)]
        searched_s = min(assist_cycle_s(0.9, 1.3, 0.010, 0.017, i) for i in inflows_m3s)
        self.assertAlmostEqual(shortest_assist_cycle_s(0.9, 1.3, 0.010, 0.017), searched_s, delta=0.01)

    @given(st.floats(0.1, 5.0), st.floats(0.002, 0.05), st.floats(1.05, 2.0), st.floats(60.0, 1800.0))
    def test_the_volume_found_keeps_the_cycle(
        self, duty_m3: float, one_m3s: float, ratio: float, cycle_s: float
    ) -> None:
        volume_m3 = assist_volume_for_cycle_m3(duty_m3, one_m3s, one_m3s * ratio, cycle_s)
        shortest_s = shortest_assist_cycle_s(duty_m3, volume_m3, one_m3s, one_m3s * ratio)
        self.assertGreaterEqual(volume_m3, duty_m3)
        self.assertGreaterEqual(shortest_s, cycle_s * (1.0 - 1e-4))
