"""A booster's numbers as its drives take them: every convention there and back, shared and own values, what is refused."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from goodbalance.core.sheets.entry_sheet import RowKind, entry_sheet, si_of
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.exchange.profiles import shipped_profiles
from tests.boosters import choices, survey
from goodbalance.core.stations.booster.reckon import reckon

PROFILES = {profile.family: profile for profile in shipped_profiles().values()}
MOTOR, WALL, SWITCH = (PROFILES[name] for name in ("motor speed controller", "wall drive with PID", "pressure switch"))
SET = {
    "set_pressure": 400e3, "restart": 360e3, "night_pressure": 380e3, "low_suction_stop": -15e3, "low_suction_reset": 5e3,
    "gain": 4.0, "reset_time": 12.0, "least_speed": 0.6, "join_speed": 0.95, "fill_timeout": 240.0,
}  # fmt: skip
CHANGES = {"control": {"suction_by": "sensor"}, "supply": {"low_pa": 60e3, "high_pa": 62e3}}


def made(chosen=None, schools=None, **changes):
    facts = survey(**{**CHANGES, **changes})
    decided = choices(SET if chosen is None else chosen, {"no_flow": "bump", "night": True, **(schools or {})})
    return facts, decided, reckon(facts, decided, False)


def sheet_of(profile, station, display=Display.BAR):
    scale = BOOSTER.keypad_scale(station[0], profile, display)
    return entry_sheet(profile, BOOSTER.keypad_values(*station, display), scale), scale


class ConventionTest(unittest.TestCase):
    def test_one_plan_in_two_families_by_hand(self) -> None:
        motor, _ = sheet_of(MOTOR, made())
        wall, _ = sheet_of(WALL, made())
        for sheet, code, shows in (
            (motor, "1 b1", "4.00"), (motor, "1 b2", "90"),  # restart: 3.6 of 4.0 bar is 90 %
            (motor, "1 b3", "0.20"),  # night: 0.2 bar below
            (motor, "1 c1", "-0.15"), (motor, "1 c2", "0.20"),  # reset: 0.2 bar above the stop
            (motor, "1 d1", "174"),  # 0.6 x 2900 rpm, a tenth shown
            (motor, "1 F1", "25.0"),  # gain 4: a proportional band of 100 / 4 %
            (motor, "1 H4", "4.0"),  # minutes
            (wall, "1.30", "4.00"), (wall, "1.31", "0.40"),  # restart: a drop of 0.4 bar
            (wall, "1.32", "3.80"), (wall, "1.63", "-0.15"), (wall, "1.64", "0.05"),
            (wall, "1.08", "30.0"),  # Hz
            (wall, "1.24", "4.00"), (wall, "1.25", "5.00"),  # 60 / 12 s repeats a minute
        ):  # fmt: skip
            with self.subTest(code=code):
                self.assertEqual(sheet.row(code).shows, shows)

    def test_each_drive_has_its_own_address_and_shares_the_rest(self) -> None:
        for profile in (MOTOR, WALL):
            sheet, _ = sheet_of(profile, made())
            drives = {
                n: [row for row in sheet.rows if row.parameter.meaning.startswith(f"drive.{n}.")] for n in (1, 2, 3)
            }
            shown = [[row.shows for row in rows] for rows in drives.values()]
            self.assertEqual([rows[0] for rows in shown], ["1", "2", "3"])  # address
            self.assertEqual(shown[0][1:], shown[1][1:])
            self.assertEqual(shown[1][1:], shown[2][1:])

    def test_units_of_the_display(self) -> None:
        for display, shows in (
            (Display.KILOPASCAL, 400.0),
            (Display.PSI, 58.02),
            (Display.METRES_OF_WATER, 40.79),
            (Display.PERCENT_OF_SPAN, 40.0),
        ):
            sheet, scale = sheet_of(MOTOR, made(), display)
            row = sheet.row("1 b1")
            self.assertAlmostEqual(float(row.shows), shows, delta=0.51 * scale.step)
            self.assertEqual(sheet.row("1 b2").shows, "90")  # a share knows no unit

    @settings(max_examples=60, deadline=None)
    @given(st.floats(350e3, 450e3), st.floats(0.75, 0.95), st.floats(1.0, 8.0), st.floats(5.0, 25.0), st.sampled_from([MOTOR, WALL]),
           st.sampled_from([Display.BAR, Display.PSI, Display.KILOPASCAL, Display.METRES_OF_WATER, Display.PERCENT_OF_SPAN]))  # fmt: skip
    def test_what_stands_on_the_keypad_comes_back_as_the_plan_within_its_step(
        self, set_pa, share, gain, reset, profile, display
    ) -> None:
        station = made({"set_pressure": set_pa, "restart": set_pa * share, "gain": gain, "reset_time": reset})
        sheet, scale = sheet_of(profile, station, display)
        values = {setting.id: setting.value for setting in station[2].settings}
        for row in sheet.rows:
            if row.setting and row.value is not None and row.kind is RowKind.CHANGE:
                self.assertAlmostEqual(
                    si_of(float(row.shows), row.parameter, scale, row.base),
                    row.value,
                    delta=1e-6 * max(1.0, abs(row.value)),
                )
                inside = station[2].setting(row.setting).window
                if not inside.holds(values[row.setting]):
                    self.assertAlmostEqual(
                        row.value,
                        values[row.setting],
                        delta=0.03 * abs(values[row.setting]) + 1.5 * scale.step * scale.per_unit,
                    )


class DecisionTest(unittest.TestCase):
    def test_a_value_set_outside_its_window_is_typed_as_it_was_decided(self) -> None:
        """A restart of 3.40 bar, under the 3.46 bar the worst outlet needs: told in Reckon, not moved behind anybody's back."""
        station = made({**SET, "restart": 340e3}, {"night": False})
        self.assertEqual(station[2].setting("restart").standing.value, "below the window")
        sheet, _ = sheet_of(WALL, station)
        self.assertEqual(sheet.row("1.31").shows, "0.60")
        self.assertFalse(BOOSTER.recheck(station[0], station[1], sheet).is_sound)

    def test_an_empty_window_is_refused_on_every_drive(self) -> None:
        facts, decided, _ = made({"set_pressure": 400e3})
        tall = facts.model_copy(update={"outlets": facts.outlets.model_copy(update={"top_m": 45.0})})
        sheet, _ = sheet_of(WALL, (tall, decided, reckon(tall, decided, False)))
        for code in ("1.31", "2.31", "3.31"):
            self.assertIs(sheet.row(code).kind, RowKind.REFUSED)

    def test_what_a_family_cannot_hold_is_refused_with_the_nearest(self) -> None:
        long = made({**SET, "max_run": 30.0 * 86400.0})
        sheet, _ = sheet_of(MOTOR, long)
        row = sheet.row("1 J3")
        self.assertIs(row.kind, RowKind.REFUSED)
        self.assertIn("takes 1 to 20000; 4.32e+04 does not fit. Nearest: 20000", row.trouble)  # 30 days in minutes

    def test_the_switch_of_an_on_off_set_takes_cut_in_and_cut_out(self) -> None:
        station = made(
            {"cut_in": 360e3, "cut_out": 480e3},
            control={"kind": "on_off", "suction_by": "switch"},
            vessel={"volume_m3": 1.5},
        )
        sheet, _ = sheet_of(SWITCH, station)
        shown = {row.parameter.meaning: row.shows for row in sheet.rows}
        self.assertEqual((shown["setting.cut_in"], shown["setting.cut_out"]), ("3.60", "1.20"))  # so much above cut-in


class HeldTest(unittest.TestCase):
    """What was read back takes the place of the plan; a value measured from another follows the one read back."""

    def held(self, typed: dict[str, str], profile=MOTOR):
        station = made()
        sheet, scale = sheet_of(profile, station)
        return BOOSTER.held(station[0], station[1], sheet, typed, scale).numbers

    def test_a_set_pressure_typed_wrong_takes_the_restart_with_it(self) -> None:
        numbers = self.held({"1 b1": "5.00"})
        self.assertAlmostEqual(numbers.set_pressure, 500e3)
        self.assertAlmostEqual(numbers.restart, 450e3)  # 90 % of what stands there
        self.assertAlmostEqual(numbers.night_pressure, 480e3)  # 0.2 bar below it
        wall = self.held({"1.30": "5.00"}, WALL)
        self.assertAlmostEqual(wall.restart, 460e3)  # a drop of 0.4 bar

    def test_conventions_are_read_back_as_they_stand(self) -> None:
        numbers = self.held({"1 b2": "80", "1 F1": "50", "1 d1": "145", "1 H4": "2,0", "1 c2": "0.4"})
        self.assertAlmostEqual(numbers.restart, 320e3)
        self.assertAlmostEqual(numbers.gain, 2.0)
        self.assertAlmostEqual(numbers.least_speed, 0.5)
        self.assertAlmostEqual(numbers.low_suction_reset, 25e3)
        self.assertAlmostEqual(self.held({"1.25": "10"}, WALL).reset_time, 6.0)

    def test_what_is_no_number_stays_as_planned(self) -> None:
        self.assertAlmostEqual(self.held({"1 b1": "four"}).set_pressure, 400e3)
