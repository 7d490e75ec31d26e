"""Numbers with a unit of their own, worked by hand, refused by name, and back and forth through every unit that is shown."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from goodbalance.core.balance.asked_number import AskedNumber, has_own_unit
from goodbalance.core.balance.own_units import in_si
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.quantities import UnitSystem, display_unit
from goodbalance.core.errors import OutOfRange
from goodbalance.exchange.tables_csv import read_pump_curve
from goodbalance.exchange.typed import Typed, read_facts
from tests.stations import survey


class OwnUnitsTest(unittest.TestCase):
    def test_by_hand(self) -> None:
        """14 ft 6 in are 14.5 · 0.3048 m; 145 psi 145 · 6894.757 Pa; 7 mWC 7 · 9806.65 Pa as a pressure and 7 m as a head; 120 gpm 120 · 3.785412e-3 / 60 m3/s."""
        for text, quantity, value in (
            ("14 ft 6 in", Q.LEVEL, 4.4196), ("14' 6 1/2\"", Q.LEVEL, 4.4323), ("-3 ft", Q.LENGTH, -0.9144), ("145 psi", Q.PRESSURE, 999739.8), ("7 mWC", Q.PRESSURE, 68646.55), ("7 mWC", Q.HEAD, 7.0), ("7,5 m", Q.HEAD, 7.5),
            ("120 gpm", Q.FLOW, 7.57082e-3), ("36 m³/h", Q.FLOW, 0.01), ("36m3/h", Q.FLOW, 0.01), ("1 h 30 min", Q.TIME, 5400.0), ("1 200 l", Q.VOLUME, 1.2), ("50 °F", Q.TEMPERATURE, 10.0), ("-4 C", Q.TEMPERATURE, -4.0), ("2 hp", Q.POWER, 1491.4),
            ("45 %", Q.PERCENT, 0.45), ("2.5 Kv", Q.VALVE_FLOW, 2.5 / 3600.0), ("1 Cv", Q.VALVE_FLOW, 0.865 / 3600.0), ("3/4 in", Q.SMALL_LENGTH, 0.01905), ("4e-3 m", Q.LENGTH, 4e-3), ("2.31 ft of water", Q.PRESSURE, 6905.0), ("8 /h", Q.STARTS, 8.0),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertAlmostEqual(in_si(text, quantity) / value, 1.0, delta=3e-4)

    def test_units_of_something_else_and_nonsense_are_refused_by_name(self) -> None:
        for text, quantity, words in (
            ("12 psi", Q.LEVEL, "is in psi, which is no unit"), ("3 gpm", Q.PRESSURE, "no unit"), ("4 m", Q.PRESSURE, "no unit"), ("5 furlongs", Q.LENGTH, "not a number"), ("3 ft of", Q.LENGTH, "not a number"), ("ft 3", Q.LENGTH, "not a number"),
            ("1/0 in", Q.LENGTH, "divided by nothing"), ("10 C 5 C", Q.TEMPERATURE, "two temperatures"), ("7 m", Q.COUNT, "no unit"), ("9" * 80 + " m", Q.LENGTH, "not a number"), ("", Q.LENGTH, "not a number"), ("1 m; drop", Q.LENGTH, "not a number"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(ValueError, words):
                in_si(text, quantity)
        with self.assertRaisesRegex(OutOfRange, "well depth: '12 psi' is in psi, which is no unit of this; accepted: 0.00 m to 9.00 m"):
            AskedNumber(label="well depth", quantity=Q.LEVEL, low=0.0, high=9.0).read("12 psi", UnitSystem.METRIC)

    @settings(max_examples=150, deadline=None)
    @given(st.sampled_from([each for each in Q if display_unit(each, UnitSystem.METRIC).symbol not in ("", "kVA")]), st.sampled_from(list(UnitSystem)), st.floats(0.01, 9e4))
    def test_every_unit_that_is_shown_can_be_typed(self, quantity: Q, system: UnitSystem, value: float) -> None:
        unit = display_unit(quantity, system)
        symbol = unit.symbol.replace("m³/h (Kv)", "Kv").replace("gpm (Cv)", "Cv").replace("kWh/kgal", "")
        if symbol:
            self.assertAlmostEqual(in_si(f"{value:.6f} {symbol}", quantity), unit.to_si(round(value, 6)), delta=1e-9 * max(1.0, abs(unit.to_si(value))))

    def test_a_survey_keeps_what_was_typed_and_says_how_it_was_read(self) -> None:
        model = type(survey())
        reading = read_facts(model, {"well.diameter_m": Typed("6 ft 6 in", UnitSystem.METRIC), "well.depth_m": Typed("3 psi")}, UnitSystem.US)
        self.assertAlmostEqual(reading.values["well.diameter_m"], 1.9812)
        self.assertEqual(reading.read_as["well.diameter_m"], "Read as 6.500 ft.")
        self.assertNotIn("well.depth_m", reading.values)
        self.assertTrue(has_own_unit("14 ft 6 in") and not has_own_unit("1 200,5") and not has_own_unit("nothing"))

    def test_a_table_takes_a_cell_with_its_own_unit(self) -> None:
        points = read_pump_curve("flow_lps;head_m;power_kw\n0;60 ft;2 hp\n36 m3/h;12;3\n20;9;3\n", 8)
        self.assertAlmostEqual(points[0].head_m or 0.0, 18.288)
        self.assertAlmostEqual(points[0].power_w or 0.0, 1491.4, delta=0.1)
        self.assertAlmostEqual(points[1].flow_m3s or 0.0, 0.01)
