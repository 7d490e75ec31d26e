"""Units at the edge, trails, windows and rounding into them."""

import math
import unittest

from hypothesis import assume, given
from hypothesis import strategies as st

from goodbalance.core.balance.quantities import Quantity, UnitSystem, display_unit, show, si_per
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import Bound, Source, Window, round_inside
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.signals import MA_0_20, MA_4_20, V_0_10, Scaling
from goodbalance.core.physics.water import head_of_pressure_m, pressure_of_head_pa

TRAIL = Trail("h = a", (Term("a", "a", 1.0, Quantity.LEVEL),), Term("h", "h", 1.0, Quantity.LEVEL), "test")


def bound(value: float) -> Bound:
    return Bound(value, "cause", "harm", Source.RULE, TRAIL)


class UnitsTest(unittest.TestCase):
    def test_known_conversions(self) -> None:
        for quantity, si, us in (
            (Quantity.LEVEL, 0.3048, 1.0),
            (Quantity.FLOW, 0.003785411784 / 60.0, 1.0),  # one US gallon is 3.785411784 litres
            (Quantity.PRESSURE, 6894.757293168, 1.0),
            (Quantity.SMALL_LENGTH, 0.0254, 1.0),
            (Quantity.VALVE_FLOW, 0.003785411784 / 60.0 * (1e5 / 6894.757293168) ** 0.5, 1.0),  # Cv: gpm at 1 psi
        ):
            self.assertAlmostEqual(display_unit(quantity, UnitSystem.US).from_si(si), us, places=9)

    def test_a_unit_is_as_large_as_its_definition(self) -> None:
        hp = 550 * 0.3048 * 0.45359237 * 9.80665  # 550 foot-pounds a second
        for unit, si, size in (("foot", "m", 0.3048), ("gallon", "m**3", 231 * 0.0254**3), ("hp", "W", hp)):
            self.assertAlmostEqual(si_per(unit, si) / size, 1.0, places=12, msg=unit)
        self.assertEqual(si_per("m_H2O", "Pa"), 9806.65)  # of a keypad that shows metres of water

    @given(st.sampled_from(list(Quantity)), st.sampled_from(list(UnitSystem)), st.floats(-1e6, 1e6))
    def test_there_and_back(self, quantity: Quantity, system: UnitSystem, value: float) -> None:
        unit = display_unit(quantity, system)
        self.assertAlmostEqual(unit.to_si(unit.from_si(value)), value, delta=abs(value) * 1e-12 + 1e-12)

    def test_a_shown_number_carries_its_unit_and_no_negative_zero(self) -> None:
        self.assertEqual(show(0.0094, Quantity.FLOW, UnitSystem.METRIC), "9.4 l/s")
        self.assertEqual(show(-0.0001, Quantity.LEVEL, UnitSystem.METRIC), "0.00 m")
        self.assertEqual(show(math.inf, Quantity.TIME, UnitSystem.METRIC), "no limit")


class TrailTest(unittest.TestCase):
    def test_numbers_are_put_in_where_the_symbols_stand(self) -> None:
        trail = Trail(
            "V = Q · T / 4",
            (Term("Q", "rate", 0.010, Quantity.FLOW), Term("T", "cycle", 360.0, Quantity.TIME)),
            Term("V", "volume", 0.9, Quantity.VOLUME),
            "test",
        )
        self.assertEqual(trail.with_numbers(UnitSystem.METRIC), "V = 10.00 l/s · 360.0 s / 4 = 0.9000 m³")
        self.assertEqual(trail.lines(UnitSystem.METRIC)[1], "Q = 10.00 l/s: rate")


class WindowTest(unittest.TestCase):
    def test_the_tightest_bound_on_each_side_governs(self) -> None:
        window = Window((bound(1.0), bound(2.0)), (bound(5.0), bound(4.0)))
        self.assertEqual((window.low, window.high), (2.0, 4.0))
        self.assertEqual([window.lean(v) for v in (2.0, 3.0, 4.0, 4.5)], [-1.0, 0.0, 1.0, 1.5])

    def test_crossed_bounds_are_an_empty_window(self) -> None:
        window = Window((bound(2.0),), (bound(1.9),))
        self.assertTrue(window.is_empty)
        self.assertFalse(window.holds(1.95))

    @given(st.floats(0.0, 10.0), st.floats(0.0, 10.0), st.floats(0.0, 3.0), st.sampled_from([0.01, 0.05, 0.003048]))
    def test_rounding_stays_inside_or_says_that_it_cannot(
        self, value: float, low: float, width: float, step: float
    ) -> None:
        rounded = round_inside(value, step, low, low + width)
        if math.isnan(rounded):
            self.assertLess(width, step)
        else:
            self.assertTrue(low - 2e-6 * step - 1e-9 <= rounded <= low + width + 2e-6 * step + 1e-9)
            self.assertAlmostEqual(rounded / step, round(rounded / step), places=5)

    def test_a_value_beside_a_bound_moves_a_whole_step_inward(self) -> None:
        self.assertEqual(round_inside(0.954, 0.01, 0.954, 1.09), 0.96)
        self.assertEqual(round_inside(1.089, 0.01, 0.954, 1.084), 1.08)


class SignalTest(unittest.TestCase):
    def test_twelve_milliampere_is_half_of_the_span(self) -> None:
        scaling = Scaling(0.004, 0.020, 0.10, 4.10)
        self.assertAlmostEqual(scaling.value(0.012), 2.10)
        self.assertAlmostEqual(scaling.signal(2.10), 0.012)

    @given(st.floats(-10, 10), st.floats(-10, 10), st.floats(-5, 5))
    def test_scaling_has_an_inverse(self, low: float, high: float, value: float) -> None:
        assume(abs(high - low) > 1e-3)
        scaling = Scaling(0.004, 0.020, low, high)
        self.assertAlmostEqual(scaling.value(scaling.signal(value)), value, places=6)

    def test_a_span_of_nothing_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            Scaling(0.004, 0.020, 1.0, 1.0)

    def test_failure_currents_of_ne_43(self) -> None:
        self.assertEqual(
            [MA_4_20.has_failed(ma / 1000) for ma in (3.6, 3.7, 3.8, 20.5, 20.9, 21.0)],
            [True, False, False, False, False, True],
        )
        for kind in (MA_4_20, MA_0_20, V_0_10):
            self.assertTrue(kind.has_failed(math.nan))

    def test_a_dead_zero_cannot_tell_a_broken_wire(self) -> None:
        self.assertTrue(MA_4_20.has_failed(MA_4_20.opened))
        self.assertFalse(MA_0_20.has_failed(MA_0_20.opened))
        self.assertFalse(V_0_10.has_failed(V_0_10.opened))

    def test_ten_metres_of_water_are_nearly_one_bar(self) -> None:
        self.assertAlmostEqual(pressure_of_head_pa(10.0, 1000.0), 98066.5)
        self.assertAlmostEqual(head_of_pressure_m(98066.5, 1000.0), 10.0)
