"""Numbers as people type them, and what does not fit together in a survey."""

import pickle
import unittest

from hypothesis import given
from hypothesis import strategies as st

from goodbalance.core.balance.asked_number import AskedNumber, number_before_unit, typed_number
from goodbalance.core.balance.quantities import DisplayUnit, Quantity, UnitSystem
from goodbalance.core.errors import OutOfRange
from goodbalance.core.stations.lift.survey.plausibility import plausibility
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.exchange.typed import Typed, as_shown, facts_from, left_for_later, read_facts
from tools.stage.typed_stations import ROUND_WELL

METRIC, US = UnitSystem.METRIC, UnitSystem.US


def reading(**changes: str):
    """The demo's survey with some fields typed otherwise; __ stands for the dot of a path."""
    typed = {path: Typed(text) for path, text in ROUND_WELL.items()}
    typed |= {path.replace("__", "."): Typed(text) for path, text in changes.items()}
    return read_facts(LiftSurvey, typed, METRIC)


class TypedNumberTest(unittest.TestCase):
    def test_what_is_a_number(self) -> None:
        for text, value in (
            ("1.8", 1.8),
            ("1,8", 1.8),
            (" 1 800 ", 1800.0),
            ("-.5", -0.5),
            ("2e-3", 0.002),
            ("\u22121", -1.0),
        ):
            self.assertEqual(typed_number(text), value)

    def test_what_is_not(self) -> None:
        for text in ("", "abc", "1.2.3", "1,2,3", "nan", "inf", "1e999", "0x10", "1" * 50, "--1", "1 m", "١٢"):
            with self.subTest(text=text), self.assertRaises(ValueError):
                typed_number(text)

    @given(st.text(max_size=60))
    def test_no_text_breaks_it(self, text: str) -> None:
        try:
            typed_number(text)
        except ValueError:
            pass


class AskedNumberTest(unittest.TestCase):
    LEVEL = AskedNumber(label="Level", quantity=Quantity.LEVEL, low=0.5, high=3.0)

    def test_it_is_read_in_the_unit_of_whoever_types(self) -> None:
        self.assertEqual(self.LEVEL.read(" 1,25 ", METRIC), 1.25)
        self.assertAlmostEqual(self.LEVEL.read("4.1", US), 4.1 * 0.3048)  # feet
        hertz = AskedNumber(label="Speed", low=0.0, high=1.0, unit=DisplayUnit("Hz", 1, 1.0 / 60.0))
        self.assertEqual((hertz.read("45", METRIC), hertz.read("60", US)), (0.75, 1.0))
        count = AskedNumber(label="Pumps", quantity=Quantity.COUNT, low=1, high=4, whole=True)
        self.assertIs(type(count.read("3", METRIC)), int)

    def test_a_refusal_names_field_value_and_what_is_accepted(self) -> None:
        timer = AskedNumber(label="Time", quantity=Quantity.TIME, low=0.0, high=60.0, above_low=True)
        count = AskedNumber(label="Pumps", quantity=Quantity.COUNT, low=1, high=4, whole=True)
        hertz = AskedNumber(label="Speed", low=0.0, high=1.0, unit=DisplayUnit("Hz", 1, 1.0 / 60.0))
        for asked, text, units, words in (
            (self.LEVEL, "deep", METRIC, "Level: 'deep' is not a number; accepted: 0.50 m to 3.00 m"),
            (self.LEVEL, "", METRIC, "Level: '' is not a number; accepted: 0.50 m to 3.00 m"),
            (self.LEVEL, "0.49", METRIC, "Level is 0.49 m; accepted: 0.50 m to 3.00 m"),
            (self.LEVEL, "10", US, "Level is 10.00 ft; accepted: 1.64 ft to 9.84 ft"),
            (self.LEVEL, "1e12", METRIC, "Level is 1e12; accepted: 0.50 m to 3.00 m"),
            (timer, "0", METRIC, "Time is 0 s; accepted: more than 0 s, up to 60 s"),
            (count, "2.5", METRIC, "Pumps is 2.5; accepted: a whole number, 1 to 4"),
            (count, "5", METRIC, "Pumps is 5; accepted: a whole number, 1 to 4"),
            (hertz, "61", METRIC, "Speed is 61 Hz; accepted: 0 to 60 Hz"),
            (AskedNumber(label="Seen", quantity=Quantity.PRESSURE), "x", US, "Seen: 'x' is not a number; accepted: a number in psi"),
        ):  # fmt: skip
            with self.assertRaises(OutOfRange) as refused:
                asked.read(text, units)
            self.assertEqual(str(refused.exception), words)
            self.assertEqual(str(pickle.loads(pickle.dumps(refused.exception))), words)
            problems: list[str] = []
            self.assertIsNone(asked.read_or_note(text, units, problems))
            self.assertEqual(problems, [f"{words}."])
        self.assertEqual([self.LEVEL.read(text, METRIC) for text in ("0.5", "3")], [0.5, 3.0])  # its limits are accepted

    def test_a_display_shows_a_unit_behind_its_number(self) -> None:
        for text, value in (("4.5 bar", 4.5), ("4,5bar", 4.5), ("12 000 l", 12000.0), ("\u22123.2 \u00b0C", -3.2), ("1e-3", 1e-3), ("50 %", 50.0)):
            self.assertEqual(number_before_unit(text), value, text)
        for text in ("", "bar", "5 6", "4.5.1", "nan", "--5"):
            with self.assertRaises(ValueError, msg=text):
                number_before_unit(text)


class ReadFactsTest(unittest.TestCase):
    def test_a_whole_survey_becomes_si(self) -> None:
        found = reading(well__diameter_m="1,80")
        self.assertTrue(found.complete, (found.problems, found.missing))
        survey = facts_from(LiftSurvey, found)
        self.assertEqual(survey.well.diameter_m, 1.8)
        self.assertAlmostEqual(survey.inflow.peak_m3s, 0.0057)
        self.assertEqual(survey.demands.response_s, 840.0)
        self.assertEqual(len([p for p in survey.pump_1.curve if p.flow_m3s is not None]), 4)

    def test_each_bad_entry_names_field_value_and_what_is_accepted(self) -> None:
        for text, part in (
            ("abc", "'abc' is not a number"), ("nan", "'nan' is not a number"), ("inf", "not a number"),
            ("-1", "is -1.00 m; accepted: 0.30 m to 40.00 m"), ("0", "is 0.00 m"), ("1e30", "is 1e30"), ("999999", "accepted"),
        ):  # fmt: skip
            message = reading(well__diameter_m=text).problems["well.diameter_m"]
            self.assertTrue(message.startswith("Inside diameter"), message)
            self.assertIn(part, message)

    def test_an_empty_needed_field_is_missing_and_not_a_zero(self) -> None:
        found = reading(well__diameter_m=" ")
        self.assertEqual(found.missing, ["well.diameter_m"])
        self.assertNotIn("well.diameter_m", found.values)

    def test_what_is_left_for_later_is_missing_where_it_is_needed_and_its_default_elsewhere(self) -> None:
        found = reading(well__diameter_m="later, drawing")
        self.assertEqual((found.missing, found.later), (["well.diameter_m"], {"well.diameter_m": "Inside diameter: drawing"}))
        self.assertEqual(found.read_as["well.diameter_m"], "Left for later: drawing. It stands among the open points.")
        for text, left in (("later", ""), ("LATER: plate", "plate"), ("later plate", "plate"), ("?", ""), ("? office", "office"), ("laterally", None), ("12 later", None), ("", None)):
            self.assertEqual(left_for_later(text), left, text)

    def test_what_is_usual_may_stand_for_what_nobody_has_measured(self) -> None:
        found = reading(well__intake_m="Typical")
        self.assertEqual((found.values["well.intake_m"], found.typical["well.intake_m"]), (0.15, 0.4))
        self.assertEqual(found.later, {"well.intake_m": "Pump intake above floor: typical 0.15 m, not measured"})
        self.assertIn("counts as unsure", found.read_as["well.intake_m"])
        self.assertEqual(found.typical["main.wave_ms"], 0.25)  # a default that nobody has measured either
        self.assertNotIn("main.wave_ms", reading(main__wave_ms="980").typical)
        self.assertIn("nothing is typical here", reading(well__depth_m="typical").problems["well.depth_m"])

    def test_only_what_the_answers_ask_for_is_needed(self) -> None:
        found = reading(well__shape="rectangle")
        self.assertEqual(sorted(found.missing), ["well.length_m", "well.width_m"])
        found = reading(pumping__twins="no")
        self.assertIn("pump_2.starts_per_hour", found.missing)
        self.assertNotIn("pump_3.starts_per_hour", found.missing)

    def test_a_slip_of_units_is_questioned_not_refused(self) -> None:
        found = reading(well__diameter_m="18")
        self.assertEqual(found.values["well.diameter_m"], 18.0)
        self.assertIn("Did you read it in ft?", reading(well__diameter_m="18").unusual["well.diameter_m"])
        self.assertIn("Is it 0.90 m?", reading(well__intake_m="9").unusual["well.intake_m"])
        self.assertIn("unusual", reading(main__length_m="30000").unusual["main.length_m"])

    def test_a_whole_number_is_asked_for_where_one_is_meant(self) -> None:
        self.assertIn("a whole number", reading(pumping__count="2.5").problems["pumping.count"])

    def test_an_answer_that_is_not_offered_is_refused(self) -> None:
        self.assertIn("not one of the answers", reading(well__shape="heart").problems["well.shape"])

    def test_us_units_are_read_and_shown_back_as_typed(self) -> None:
        typed = {path: Typed(text) for path, text in ROUND_WELL.items()} | {"well.depth_m": Typed("13.8", US)}
        found = read_facts(LiftSurvey, typed, US)
        self.assertAlmostEqual(found.values["well.depth_m"], 13.8 * 0.3048)
        self.assertEqual(as_shown(Typed("13.8", US), Quantity.LEVEL, US), "13.8")
        self.assertEqual(as_shown(Typed("13.8", US), Quantity.LEVEL, METRIC), "4.2062")


class PlausibilityTest(unittest.TestCase):
    def codes(self, **changes: str) -> dict[str, str]:
        return {finding.code: finding.subject for finding in plausibility(reading(**changes).values)}

    def test_the_station_as_typed_is_plausible(self) -> None:
        self.assertEqual(self.codes(), {})

    def test_each_contradiction_stands_at_its_field(self) -> None:
        for changes, code, subject in (
            ({"inlet__overflow_m": "2.0"}, "order", "inlet.overflow_m"),
            ({"well__intake_m": "3"}, "order", "inlet.invert_m"),
            ({"inflow__min_m3s": "2"}, "order", "inflow.mean_m3s"),
            ({"sensor__range_m": "2"}, "sensor_reach", "sensor.range_m"),
            ({"sensor__signal": "0_10_v"}, "dead_zero", "sensor.signal"),
            ({"pump_1__curve__3__head_m": "16"}, "curve_rising", "pump_1.curve.0.flow_m3s"),
            ({"pump_1__curve__3__head_m": ""}, "curve_half", "pump_1.curve.0.flow_m3s"),
            ({"pump_1__curve__2__flow_m3s": "4.2"}, "curve_residual", "pump_1.curve.0.flow_m3s"),
            ({"main__outlet_m": "25"}, "curve_below_lift", "pump_1.curve.0.flow_m3s"),
            ({"as_found__stop_m": "0.9"}, "as_found_order", "as_found.start_1_m"),
        ):
            with self.subTest(code=code):
                self.assertEqual(self.codes(**changes).get(code), subject)

    def test_a_look_down_sensor_is_blind_near_its_face(self) -> None:
        look_down = {
            "sensor__kind": "look_down",
            "sensor__face_m": "3.8",
            "sensor__blanking_m": "0.4",
            "sensor__far_m": "3.0",
        }
        found = self.codes(**look_down)
        self.assertEqual(found["sensor_reach"], "sensor.blanking_m")  # 3.8 - 0.4 = 3.4 m, overflow at 3.7 m
        self.assertEqual(found["sensor_low"], "sensor.far_m")  # 3.8 - 3.0 = 0.8 m, intake at 0.18 m
