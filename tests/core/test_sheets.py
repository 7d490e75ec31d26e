"""Entry sheets, read-back and proofs of a lift station."""

import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from goodbalance.core.balance.proof import Answer, Verdict, judge, read_sequence, takes_turns
from goodbalance.core.balance.window import Window
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Thing, among
from goodbalance.core.sheets.devices import Match, compare
from goodbalance.core.sheets.entry_sheet import KeypadValue, RowKind, entry_sheet
from goodbalance.core.sheets.profile import Display, Parameter
from goodbalance.core.stations.lift import names
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.names import Harm
from goodbalance.core.stations.lift.proofs.listed import proofs
from goodbalance.core.stations.lift.sheet.keypad import keypad_scale, keypad_values, recheck
from goodbalance.core.stations.lift.windows.reckon import reckon
from goodbalance.core.stations.registry import KINDS
from goodbalance.exchange.profiles import shipped_profiles
from tests.core.test_balance import bound
from tests.read_backs import held, unplaced
from tests.stations import choices, survey

PROFILE, PANEL, STARTERS = (shipped_profiles()[name] for name in ("ebbstone_tray", "dabberlock_panel", "cowrie_dials"))


def sheet_of(station, decided, display=Display.METRES, beside=()):
    plan = reckon(station, decided)
    values = keypad_values(station, decided, plan, display)
    return plan, entry_sheet(PROFILE, values, keypad_scale(station, PROFILE, display), (*beside, STARTERS))


class EntrySheetTest(unittest.TestCase):
    def setUp(self) -> None:
        self.plan, self.sheet = sheet_of(survey(), choices())

    def level(self, setting_id: str) -> float:
        return self.plan.setting(setting_id).value

    def test_relays_carry_the_plan_in_metres(self) -> None:
        # from the floor up: cut-out 1, low alarm 2, stop 3, starts 4 and 5, high alarm 6. A stop lets go at its level and
        # pulls in one gap (0.05 m) above; the low alarm the other way round
        for code, expected in (
            ("1 drop", self.level("low_cut_out")),
            ("2 lift", self.level("low_alarm")),
            ("2 drop", self.level("low_alarm") + 0.05),
            ("3 drop", self.level("stop")),
            ("3 lift", self.level("stop") + 0.05),
            ("4 lift", self.level("start_1")),
            ("5 lift", self.level("start_2")),
            ("6 lift", self.level("high_alarm")),
        ):
            self.assertEqual(self.sheet.row(code).shows, f"{expected:.2f}", code)
        self.assertEqual([self.sheet.row(f"{n} blind").shows for n in (3, 6)], ["falls", "lifts"])

    def test_relays_have_the_numbers_somebody_chose_and_the_rest_the_free_ones(self) -> None:
        station = survey(relays={"stop": 8, "high_alarm": 1})
        plan, sheet = sheet_of(station, choices(), beside=(PANEL,))
        level = {setting.id: f"{setting.value:.2f}" for setting in plan.settings}
        shown = {code: sheet.row(code).shows for code in ("8 drop", "1 lift", "2 drop", "3 lift", "4 lift", "5 lift")}
        roles = ("stop", "high_alarm", "low_cut_out", "low_alarm", "start_1", "start_2")
        self.assertEqual(list(shown.values()), [level[role] for role in roles])
        self.assertEqual([sheet.row(f"{n} token").shows for n in (6, 7)], ["blank", "blank"])
        self.assertEqual(unplaced(plan, sheet), ())
        _, beyond = sheet_of(survey(relays={"stop": 9}), choices(), beside=(PANEL,))  # the tray has eight
        self.assertEqual(unplaced(plan, beyond), ("stop",))
        _, no_panel = sheet_of(station, choices())
        self.assertEqual(unplaced(plan, no_panel), ("call_delay", "start_gap", "feedback_lost"))

    def test_a_dial_counts_in_its_own_marks(self) -> None:
        """start_gap 7 s on a dial of 2 s a mark: 4 marks are 8 s; a start believed after 2.5 s is 5 marks of half a second."""
        station, decided = survey(), choices(chosen={"start_gap": 7.0, "call_delay": 2.5})
        _, sheet = sheet_of(station, decided, beside=(PANEL,))
        gap, heed = sheet.row("chart gap"), sheet.row("chart heed")
        self.assertEqual((gap.shows, gap.unit, gap.value), ("4", "marks", 8.0))
        self.assertEqual((heed.default_shows, heed.kind), ("5", RowKind.CHECK))

    def test_a_relay_for_each_pump_carries_its_start_and_its_stop(self) -> None:
        station = survey(control={"kind": "relays_alone"}, relays={"start_1": 7})
        decided = choices(schools={"stops": "own", "alternation": "fixed"})
        plan, sheet = sheet_of(station, decided)
        level = {setting.id: f"{setting.value:.2f}" for setting in plan.settings}
        shown = [sheet.row(code).shows for code in ("7 lift", "7 drop", "3 lift", "3 drop", "4 lift")]
        self.assertEqual(shown, [level[role] for role in ("start_1", "stop", "start_2", "stop_2", "high_alarm")])
        self.assertEqual((sheet.row("apart").shows, sheet.row("next").shows), (f"{plan.value('start_gap', 0):.0f}", "never"))
        self.assertEqual(unplaced(plan, sheet), ())

    def test_a_stop_read_back_wrong_on_one_pump_s_relay_stops_that_pump_too_late(self) -> None:
        """Pump 2's relay lets go at 0.05 m in place of its stop: the bench shows that pump alone drawing air."""
        station, decided = survey(control={"kind": "relays_alone"}), choices()
        plan, sheet = sheet_of(station, decided)
        as_read = held(LIFT, station, decided, sheet, {"4 drop": "0.05", "1 drop": "0.02"}, Display.METRES)
        by_role = {relay.role: relay for relay in as_read.program.relays}
        self.assertAlmostEqual(by_role["start_1"].off_m, plan.value("stop", 0.0), places=2)
        self.assertEqual((by_role["start_2"].off_m, by_role["low_cut_out"].off_m), (0.05, 0.02))
        calm = (TimedAction(0.0, "inflow", "", 0.0),)
        for program, dry in ((as_read.program, True), (None, False)):
            bench = lift_bench(station, decided, plan, 2.8, program)
            run = rehearse(bench, calm, 1800.0)
            self.assertEqual(any(among(run.events, Thing.HARM, of=Harm.DRAWS_AIR)), dry)

    def test_sensor_scaling_is_entered_once(self) -> None:
        self.assertEqual((self.sheet.row("eye empty").shows, self.sheet.row("eye full").shows), ("0.10", "5.10"))

    def test_what_equals_the_default_is_checked_and_what_is_not_used_left(self) -> None:
        checks, left = ({row.parameter.code for row in rows} for rows in (self.sheet.checks, self.sheet.leaves))
        self.assertIn("eye wire", checks)  # 4-20 mA when new
        self.assertIn("1 blind", checks)  # lets go when the signal is lost, as new
        self.assertIn("7 token", left)  # relay 7 is not used
        numbers = [row.number for row in self.sheet.changes]
        self.assertEqual(numbers, sorted(numbers))  # keypad order
        self.assertEqual(len(self.sheet.rows), 1 + 8 * 4 + 12 + 2 * 2)  # and a dial and a notch for each starter

    def test_feet_and_per_cent_of_span(self) -> None:
        stop_m = self.level("stop")
        _, feet = sheet_of(survey(), choices(), Display.FEET)
        self.assertAlmostEqual(float(feet.row("3 drop").shows), stop_m / 0.3048, delta=0.011)
        _, span = sheet_of(survey(), choices(), Display.PERCENT_OF_SPAN)
        self.assertAlmostEqual(float(span.row("3 drop").shows), (stop_m - 0.10) / 5.0 * 100.0, delta=0.11)
        self.assertEqual(span.row("drums in").shows, "part")

    @settings(max_examples=40, deadline=None)
    @given(st.floats(0.6, 0.9), st.sampled_from([Display.METRES, Display.FEET, Display.PERCENT_OF_SPAN]))
    def test_what_the_keypad_holds_is_still_inside_its_window(self, stop_m, display) -> None:
        station, decided = survey(), choices(chosen={"stop": stop_m})
        plan, sheet = sheet_of(station, decided, display)
        if not plan.is_sound:
            return
        self.assertFalse([row for row in sheet.rows if row.kind is RowKind.REFUSED])
        row = sheet.row("3 drop")
        self.assertTrue(plan.setting("stop").window.holds(row.value))
        after = recheck(station, decided, sheet)
        self.assertAlmostEqual(after.setting("stop").value, row.value)

    def test_out_of_range_is_refused_with_the_nearest(self) -> None:
        scale = keypad_scale(survey(), PROFILE, Display.METRES)
        row = entry_sheet(PROFILE, {"relay.1.on": KeypadValue(31.2, "test")}, scale).row("1 lift")
        self.assertIs(row.kind, RowKind.REFUSED)
        self.assertIn("takes 0 to 30; 31.2 does not fit. Nearest: 30", row.trouble)

    def test_a_window_between_two_steps_is_refused(self) -> None:
        scale = keypad_scale(survey(), PROFILE, Display.METRES)
        narrow = Window((bound(1.001),), (bound(1.009),))
        row = entry_sheet(PROFILE, {"relay.1.on": KeypadValue(1.005, "test", narrow)}, scale).row("1 lift")
        self.assertIs(row.kind, RowKind.REFUSED)
        self.assertIn("No step of 0.01 lies inside the window 1.001 to 1.009", row.trouble)

    def test_an_option_the_family_lacks_is_refused(self) -> None:
        scale = keypad_scale(survey(), PROFILE, Display.METRES)
        row = entry_sheet(PROFILE, {"sensor.signal": KeypadValue("0_5_v", "test")}, scale).row("eye wire")
        self.assertIs(row.kind, RowKind.REFUSED)

    def test_a_profile_with_an_impossible_default_is_refused(self) -> None:
        for wrong in (
            {"default": 9.0, "high": 5.0},
            {"default": "x", "options": {"a": "b"}},
            {"default": "x", "high": 5.0},
            {"default": 1.0, "high": 5.0, "display_factor": 12.0},  # counted in what?
        ):
            with self.assertRaises(ValidationError):
                Parameter(code="1", menu="m", name="n", **wrong)


class MeaningTest(unittest.TestCase):
    def test_every_setting_a_family_asks_for_is_one_that_some_station_has(self) -> None:
        meanings = [meaning for kind in KINDS.values() if kind.keypad is not None for meaning in kind.keypad.meanings()]
        known = {*names.SettingId, *names.Role, *map(names.float_id, names.Role), *(meaning.partition(".")[2] for meaning in meanings if meaning.startswith("setting."))}
        for family, profile in shipped_profiles().items():
            for parameter in profile.entries(4):
                room, _, name = parameter.meaning.partition(".")
                if room == "setting":
                    self.assertIn(name, known, f"{family}: {parameter.code}")


class ReadBackTest(unittest.TestCase):
    def test_numbers_agree_however_they_are_written(self) -> None:
        _, sheet = sheet_of(survey(), choices())
        row = sheet.row("eye empty")  # shows 0.10
        for typed, expected in (
            ("0.10", Match.SAME), ("0,1", Match.SAME), (" .1 m", Match.SAME), ("0.11", Match.DIFFERS),
            ("1.0", Match.DIFFERS), ("abc", Match.DIFFERS), ("nan", Match.DIFFERS), ("", Match.NOT_READ),
        ):  # fmt: skip
            self.assertIs(compare(row, typed), expected, typed)
        self.assertIs(compare(sheet.row("1 token"), "Wave"), Match.SAME)
        self.assertIs(compare(sheet.row("1 token"), "bell"), Match.DIFFERS)


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
