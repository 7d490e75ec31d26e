"""Entry sheets, read-back and proofs of a lift station."""

import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from goodbalance.core.balance.proof import Answer, Verdict, judge, read_sequence, takes_turns
from goodbalance.core.balance.window import Window
from goodbalance.core.sheets.entry_sheet import KeypadValue, RowKind, entry_sheet
from goodbalance.core.sheets.profile import Display, Parameter
from goodbalance.core.sheets.read_back import Match, compare
from goodbalance.core.stations.lift.keypad import keypad_values, keypad_scale, recheck
from goodbalance.core.stations.lift.proofs import proofs
from goodbalance.core.stations.lift.reckon import reckon
from goodbalance.exchange.profiles import shipped_profiles
from tests.core.test_balance import bound
from tests.stations import choices, survey

PROFILE = shipped_profiles()["ebbstone_r8"]


def sheet_of(station, decided, display=Display.METRES):
    plan = reckon(station, decided)
    values = keypad_values(station, decided, plan, display)
    return plan, entry_sheet(PROFILE, values, keypad_scale(station, PROFILE, display))


class EntrySheetTest(unittest.TestCase):
    def setUp(self) -> None:
        self.plan, self.sheet = sheet_of(survey(), choices())

    def level(self, setting_id: str) -> float:
        return self.plan.setting(setting_id).value

    def test_relays_carry_the_plan_in_metres(self) -> None:
        # relay 1 common stop: lets go at stop, pulls in one gap (0.05 m) above; relay 5 low alarm: the other way round
        for code, expected in (
            ("1 c", self.level("stop")),
            ("1 b", self.level("stop") + 0.05),
            ("2 b", self.level("start_1")),
            ("3 b", self.level("start_2")),
            ("4 b", self.level("high_alarm")),
            ("5 b", self.level("low_alarm")),
            ("5 c", self.level("low_alarm") + 0.05),
            ("6 c", self.level("low_cut_out")),
        ):
            self.assertEqual(self.sheet.row(code).shows, f"{expected:.2f}", code)
        self.assertEqual([self.sheet.row(f"{n} d").shows for n in (1, 4)], ["droP", "PuLL"])

    def test_sensor_scaling_is_entered_once(self) -> None:
        self.assertEqual((self.sheet.row("in 3").shows, self.sheet.row("in 4").shows), ("0.10", "5.10"))

    def test_what_equals_the_default_is_left(self) -> None:
        left = {row.parameter.code for row in self.sheet.leaves}
        self.assertIn("in 1", left)  # 4-20 mA when new
        self.assertIn("1 d", left)  # drops when the signal is lost, as new
        self.assertIn("7 A", left)  # relay 7 is not used
        numbers = [row.number for row in self.sheet.changes]
        self.assertEqual(numbers, sorted(numbers))  # keypad order
        self.assertEqual(len(self.sheet.rows), 52)

    def test_feet_and_per_cent_of_span(self) -> None:
        stop_m = self.level("stop")
        _, feet = sheet_of(survey(), choices(), Display.FEET)
        self.assertAlmostEqual(float(feet.row("1 c").shows), stop_m / 0.3048, delta=0.011)
        _, span = sheet_of(survey(), choices(), Display.PERCENT_OF_SPAN)
        self.assertAlmostEqual(float(span.row("1 c").shows), (stop_m - 0.10) / 5.0 * 100.0, delta=0.11)
        self.assertEqual(span.row("in 2").shows, "SPAn")

    @settings(max_examples=40, deadline=None)
    @given(st.floats(0.6, 0.9), st.sampled_from([Display.METRES, Display.FEET, Display.PERCENT_OF_SPAN]))
    def test_what_the_keypad_holds_is_still_inside_its_window(self, stop_m, display) -> None:
        station, decided = survey(), choices(chosen={"stop": stop_m})
        plan, sheet = sheet_of(station, decided, display)
        if not plan.is_sound:
            return
        self.assertFalse([row for row in sheet.rows if row.kind is RowKind.REFUSED])
        row = sheet.row("1 c")
        self.assertTrue(plan.setting("stop").window.holds(row.value))
        after = recheck(station, decided, sheet)
        self.assertAlmostEqual(after.setting("stop").value, row.value)

    def test_out_of_range_is_refused_with_the_nearest(self) -> None:
        scale = keypad_scale(survey(), PROFILE, Display.METRES)
        row = entry_sheet(PROFILE, {"relay.1.on": KeypadValue(31.2, "test")}, scale).row("1 b")
        self.assertIs(row.kind, RowKind.REFUSED)
        self.assertIn("takes 0 to 30; 31.2 does not fit. Nearest: 30", row.trouble)

    def test_a_window_between_two_steps_is_refused(self) -> None:
        scale = keypad_scale(survey(), PROFILE, Display.METRES)
        narrow = Window((bound(1.001),), (bound(1.009),))
        row = entry_sheet(PROFILE, {"relay.1.on": KeypadValue(1.005, "test", narrow)}, scale).row("1 b")
        self.assertIs(row.kind, RowKind.REFUSED)
        self.assertIn("No step of 0.01 lies inside the window 1.001 to 1.009", row.trouble)

    def test_an_option_the_family_lacks_is_refused(self) -> None:
        scale = keypad_scale(survey(), PROFILE, Display.METRES)
        row = entry_sheet(PROFILE, {"sensor.signal": KeypadValue("0_5_v", "test")}, scale).row("in 1")
        self.assertIs(row.kind, RowKind.REFUSED)

    def test_a_profile_with_an_impossible_default_is_refused(self) -> None:
        for wrong in (
            {"default": 9.0, "high": 5.0},
            {"default": "x", "options": {"a": "b"}},
            {"default": "x", "high": 5.0},
        ):
            with self.assertRaises(ValidationError):
                Parameter(code="1", menu="m", name="n", **wrong)


class ReadBackTest(unittest.TestCase):
    def test_numbers_agree_however_they_are_written(self) -> None:
        _, sheet = sheet_of(survey(), choices())
        row = sheet.row("in 3")  # shows 0.10
        for typed, expected in (
            ("0.10", Match.SAME), ("0,1", Match.SAME), (" .1 m", Match.SAME), ("0.11", Match.DIFFERS),
            ("1.0", Match.DIFFERS), ("abc", Match.DIFFERS), ("nan", Match.DIFFERS), ("", Match.NOT_READ),
        ):  # fmt: skip
            self.assertIs(compare(row, typed), expected, typed)
        self.assertIs(compare(sheet.row("1 A"), "levl"), Match.SAME)
        self.assertIs(compare(sheet.row("1 A"), "FAuL"), Match.DIFFERS)


class ProofTest(unittest.TestCase):
    def setUp(self) -> None:
        self.station, self.decided = survey(), choices()
        self.plan = reckon(self.station, self.decided)
        self.proofs = {p.id: p for p in proofs(self.station, self.decided, self.plan)}

    def test_every_level_is_proved_up_and_down_and_every_function_once(self) -> None:
        for role in ("low_cut_out", "low_alarm", "stop", "start_1", "start_2", "high_alarm"):
            self.assertIn(f"up_{role}", self.proofs)
            self.assertIn(f"down_{role}", self.proofs)
        for name in ("common_stop", "assist_2", "alternation", "high_alarm_clears", "sensor_failure"):
            self.assertIn(name, self.proofs)
        for proof in self.proofs.values():
            self.assertTrue(proof.cautions and proof.action and proof.must_see)

    def test_rising_proofs_come_in_the_order_the_water_meets_them(self) -> None:
        rising = [p.expected for p in self.proofs.values() if p.id.startswith("up_")]
        falling = [p.expected for p in self.proofs.values() if p.id.startswith("down_")]
        self.assertEqual(rising, sorted(rising))
        self.assertEqual(falling, sorted(falling, reverse=True))

    def test_a_level_is_judged_by_its_tolerance(self) -> None:
        proof = self.proofs["up_start_1"]
        self.assertAlmostEqual(proof.tolerance, 0.03)  # 3 x wobble of 0.01 m
        for off_m, expected in ((0.0, "passed"), (0.03, "passed"), (-0.03, "passed"), (0.031, "failed")):
            self.assertEqual(judge(proof, proof.expected + off_m), expected)
        self.assertIs(judge(proof, math.nan), Verdict.FAILED)

    def test_turns(self) -> None:
        for sequence, pumps, good in (
            ((1, 2, 1), 2, True), ((2, 1, 2), 2, True), ((1, 1, 2), 2, False), ((1, 2), 2, False),
            ((1, 2, 3), 3, True), ((3, 1, 2), 3, True), ((1, 3, 2), 3, False), ((1, 2, 4), 2, False),
        ):  # fmt: skip
            self.assertIs(takes_turns(sequence, pumps, 3), good, sequence)
        self.assertEqual(read_sequence("1, 2-1"), (1, 2, 1))
        with self.assertRaises(ValueError):
            read_sequence("one two")

    def test_a_single_pump_needs_no_alternation_and_a_float_is_proved(self) -> None:
        station = survey(pumping={"count": 1}, demands={"low_float": True})
        ids = [p.id for p in proofs(station, self.decided, reckon(station, self.decided))]
        self.assertNotIn("alternation", ids)
        self.assertIn("low_float", ids)

    def test_yes_no_takes_yes_only(self) -> None:
        proof = self.proofs["sensor_failure"]
        self.assertIs(proof.answer, Answer.YES_NO)
        self.assertEqual([judge(proof, seen) for seen in (True, False)], ["passed", "failed"])
