"""Head curves, pipe losses and operating points against hand calculation and a library."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from goodbalance.core.errors import NoSolution, OutOfRange
from goodbalance.core.physics.pipework import FrictionSchool, Main, darcy_friction_factor
from goodbalance.core.physics.pumps import HeadCurve, operating_point

CURVE = HeadCurve(((0.0, 20.0), (0.006, 16.4), (0.012, 5.6)))  # H = 20 - 100000 Q^2
MAIN = Main(100.0, 0.10, FrictionSchool.HAZEN_WILLIAMS, 130.0, 5.0)


class HeadCurveTest(unittest.TestCase):
    def test_three_points_of_a_parabola_give_it_back(self) -> None:
        a, b, c = CURVE.coefficients
        self.assertAlmostEqual(a, 20.0, places=9)
        self.assertAlmostEqual(b, 0.0, places=6)
        self.assertAlmostEqual(c, -100_000.0, places=3)
        self.assertAlmostEqual(CURVE.flow_m3s(10.0), 0.01, places=9)  # 20 - 100000 * 0.01^2 = 10

    def test_above_shut_off_the_check_valve_stays_shut(self) -> None:
        self.assertEqual(CURVE.flow_m3s(20.0), 0.0)
        self.assertEqual(CURVE.flow_m3s(25.0), 0.0)

    def test_a_rising_curve_is_noticed(self) -> None:
        self.assertTrue(CURVE.is_falling())
        self.assertFalse(HeadCurve(((0.0, 10.0), (0.005, 12.0), (0.010, 9.0))).is_falling())

    def test_two_points_are_refused(self) -> None:
        with self.assertRaisesRegex(OutOfRange, "three or more"):
            HeadCurve(((0.0, 20.0), (0.0, 19.0), (0.01, 10.0)))

    def test_a_head_that_is_never_reached_has_no_flow(self) -> None:
        with self.assertRaises(NoSolution):
            HeadCurve(((0.0, 20.0), (0.01, 12.0), (0.02, 12.0))).flow_m3s(5.0)


class MainTest(unittest.TestCase):
    def test_hazen_williams_by_hand(self) -> None:
        # 10.67 * 100 * 0.010^1.852 / (130^1.852 * 0.1^4.8704)
        # 0.010^1.852 = 1.97697e-4; 130^1.852 = 8222.9; 0.1^4.8704 = 1.34772e-5 -> 0.210942 / 0.110821 = 1.9034 m
        self.assertAlmostEqual(MAIN.friction_m(0.010), 1.9034, delta=0.002)

    def test_fittings_add_velocity_heads(self) -> None:
        velocity_ms = 0.010 / (math.pi * 0.01 / 4)
        self.assertAlmostEqual(MAIN.loss_m(0.010) - MAIN.friction_m(0.010), 5.0 * velocity_ms**2 / 19.6133, places=6)

    @given(st.floats(0.3, 4.0), st.floats(0.05, 1.0), st.floats(1e-6, 5e-4))
    def test_the_friction_factor_solves_colebrook(self, velocity_ms: float, diameter_m: float, roughness_m: float) -> None:
        reynolds = velocity_ms * diameter_m / 1.1e-6
        inverse_root = 1.0 / math.sqrt(darcy_friction_factor(velocity_ms, diameter_m, roughness_m))
        right = -2.0 * math.log10(roughness_m / (3.7 * diameter_m) + 2.51 * inverse_root / reynolds)
        self.assertAlmostEqual(inverse_root, right, places=6)

    def test_the_friction_factor_by_hand(self) -> None:
        # Re = 2 * 0.1/1e-6 = 200,000; e/D = 0.001. x = 1/sqrt(f) from 6.6: -2 log10(0.001/3.7 + 2.51 * 6.6/200000)
        # = -2 log10(2.7027e-4 + 8.283e-5) = 6.9042; again with 6.9042: -2 log10(3.5692e-4) = 6.8949; 6.8951; f = 0.02103
        self.assertAlmostEqual(darcy_friction_factor(2.0, 0.1, 1e-4, 1e-6), 0.02103, places=5)
        self.assertAlmostEqual(darcy_friction_factor(0.02, 0.1, 1e-4, 1e-6), 64.0 / 2000.0)  # laminar

    def test_no_flow_loses_nothing_and_a_pipe_needs_a_bore(self) -> None:
        self.assertEqual(MAIN.loss_m(0.0), 0.0)
        with self.assertRaisesRegex(OutOfRange, "diameter_m"):
            Main(10.0, 0.0, FrictionSchool.HAZEN_WILLIAMS, 130.0, 0.0)


class OperatingPointTest(unittest.TestCase):
    @given(st.floats(1.0, 19.0), st.integers(1, 3))
    def test_pumps_and_main_agree_at_one_head(self, static_m: float, count: int) -> None:
        point = operating_point((CURVE,) * count, static_m, MAIN)
        self.assertAlmostEqual(point.head_m, static_m + MAIN.loss_m(point.flow_m3s), places=6)
        for share in point.shares_m3s:
            self.assertAlmostEqual(CURVE.head_m(share), point.head_m, places=6)
        self.assertAlmostEqual(sum(point.shares_m3s), point.flow_m3s)

    def test_two_pumps_give_more_than_one_but_less_than_twice(self) -> None:
        one = operating_point((CURVE,), 8.0, MAIN).flow_m3s
        two = operating_point((CURVE, CURVE), 8.0, MAIN).flow_m3s
        self.assertTrue(one < two < 2.0 * one)

    def test_a_weak_pump_beside_a_strong_one_gives_nothing(self) -> None:
        weak = HeadCurve(((0.0, 9.0), (0.005, 7.0), (0.010, 3.0)))
        point = operating_point((CURVE, weak), 10.0, MAIN)
        self.assertEqual(point.shares_m3s[1], 0.0)
        self.assertGreater(point.shares_m3s[0], 0.0)

    def test_static_head_above_shut_off_moves_nothing(self) -> None:
        self.assertEqual(operating_point((CURVE,), 21.0, MAIN).flow_m3s, 0.0)
