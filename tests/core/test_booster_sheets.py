"""A booster's numbers as its drives take them: every convention there and back, shared and own values, what is refused."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from goodbalance.core.sheets.entry_sheet import RowKind, entry_sheet, si_of
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.windows.reckon import reckon
from goodbalance.exchange.profiles import shipped_profiles
from tests.boosters import choices, survey
from tests.read_backs import held, unplaced

PROFILES = {profile.family: profile for profile in shipped_profiles().values()}
MOTOR, WALL, REGULATOR = (
    PROFILES[name] for name in ("motor speed controller", "wall drive with PID", "panel regulator")
)

SWITCH, DRIVE, TANK = (PROFILES[name] for name in ("pressure switch", "plain drive", "pressure tank"))
SET = {
    "set_pressure": 400e3, "restart": 328e3, "night_pressure": 360e3, "low_suction_stop": -15e3, "low_suction_reset": 5e3,
    "gain": 4.0, "reset_time": 12.0, "least_speed": 0.65, "join_speed": 0.95, "fill_timeout": 240.0,
}  # fmt: skip
CHANGES = {"control": {"suction_by": "sensor"}, "supply": {"low_pa": 60e3, "high_pa": 62e3}}


def made(chosen=None, schools=None, **changes):
    facts = survey(**{**CHANGES, **changes})
    decided = choices(SET if chosen is None else chosen, {"no_flow": "bump", "night": True, **(schools or {})})
    return facts, decided, reckon(facts, decided, False)


def sheet_of(profile, station, display=Display.BAR, beside=()):
    scale = BOOSTER.keypad.scale(station[0], profile, display)
    return entry_sheet(profile, BOOSTER.keypad.values(*station, display), scale, beside), scale


class ConventionTest(unittest.TestCase):
    def test_one_plan_in_three_families_by_hand(self) -> None:
        motor, _ = sheet_of(MOTOR, made())
        wall, _ = sheet_of(WALL, made())
        panel, _ = sheet_of(REGULATOR, made())
        for sheet, code, shows in (
            (motor, "1 p 50", "4.00"), (motor, "1 p 20", "3.28"), (motor, "1 p 27", "3.60"),
            (motor, "1 p 43", "-0.15"), (motor, "1 p 45", "0.20"),  # reset: 0.2 bar above the stop
            (motor, "1 p 4", "157"),  # 0.65 x 2900 rpm = 1885 rpm, in dozens
            (motor, "1 p 30", "25.0"),  # gain 4: a proportional band of 100 / 4 %
            (motor, "1 p 31", "12.0"), (motor, "1 p 36", "4.0"),  # minutes
            (wall, "1 Loft 15", "4.00"), (wall, "1 Loft 16", "0.72"),  # restart: a drop of 0.72 bar
            (wall, "1 Loft 12", "3.60"), (wall, "1 Gate 4", "-0.15"), (wall, "1 Gate 5", "0.05"),
            (wall, "1 Mill 7", "32.5"),  # Hz
            (wall, "1 Loft 6", "4.00"), (wall, "1 Ditch 4", "240"),
            (panel, "line 6", "4.00"), (panel, "line 7", "82.0"),  # restart: 3.28 of 4.00 bar
            (panel, "line 11", "0.40"),  # night: so much below
            (panel, "line 2", "65.0"), (panel, "line 22", "95.0"),  # shares of full speed
            (panel, "line 17", "5.00"), (panel, "line 18", "4.00"),  # 60 / 12 s repeats a minute
            (panel, "line 16", "all parts"), (panel, "line 36", "4.0"),
        ):  # fmt: skip
            with self.subTest(code=code):
                self.assertEqual(sheet.row(code).shows, shows)
        self.assertEqual(motor.row("1 p 4").unit, "dozen rpm")

    def test_no_family_leaves_a_setting_without_a_place_or_a_way_of_sharing_unsaid(self) -> None:
        fixed = {"control": {"kind": "fixed"}}
        remote = {"remote": {"height_m": 10.0, "range_pa": 6e5}, "motor": {"generator": True, "generator_va": 9e3}}
        for profile, beside, changes in (
            (MOTOR, (TANK,), remote), (WALL, (TANK,), remote), (REGULATOR, (DRIVE, TANK), remote), (SWITCH, (DRIVE, TANK), fixed),
        ):  # fmt: skip
            schools = {} if changes is fixed else {"no_flow": "bump", "night": True}
            station = made({}, schools, **changes)
            sheet, _ = sheet_of(profile, station, beside=beside)
            self.assertEqual(unplaced(station[2], sheet), (), profile.id)
        serial = made(None, {"sharing": "serial"})
        for profile, code in ((MOTOR, "1 p 6"), (REGULATOR, "line 21"), (WALL, "1 Yard 2")):
            row = sheet_of(profile, serial)[0].row(code)
            self.assertEqual(row.kind is RowKind.REFUSED, profile is not WALL, row.trouble)
        station = made()
        bare, _ = sheet_of(REGULATOR, station)
        self.assertEqual(unplaced(station[2], bare), ("precharge", "ramp"))  # what the tank and the drives hold

    def test_a_fixed_speed_stands_in_each_plain_drive_and_its_pressures_in_the_switch(self) -> None:
        chosen = {"fixed_speed": 0.86, "cut_in": 350e3, "cut_out": 470e3}
        station = made(chosen, {}, control={"kind": "fixed"}, vessel={"volume_m3": 2.0})
        sheet, _ = sheet_of(SWITCH, station, beside=(DRIVE, TANK))
        self.assertEqual([sheet.row(f"{n} plate own").shows for n in (1, 2, 3)], ["43.0"] * 3)
        self.assertEqual((sheet.row("inner 6").shows, sheet.row("inner 7").shows), ("4.70", "1.20"))
        told = {"control.kind": "fixed", "vessel.volume_m3": "0,08"}
        devices = (BOOSTER.keypad.family_of(told), *BOOSTER.keypad.companions_of(told))
        self.assertEqual(devices, ("pressure switch", "plain drive", "pressure tank"))

    def test_each_drive_has_its_own_address_and_shares_the_rest(self) -> None:
        for profile, place in ((MOTOR, "p 1"), (WALL, "Yard 1")):
            sheet, _ = sheet_of(profile, made())
            drives = {
                n: [row for row in sheet.rows if row.parameter.meaning.startswith(f"drive.{n}.")] for n in (1, 2, 3)
            }
            shown = [[row.shows for row in rows] for rows in drives.values()]
            addresses = [sheet.row(f"{n} {place}").shows for n in (1, 2, 3)]
            self.assertEqual(addresses, ["1", "2", "3"])
            self.assertEqual([sum(a != b for a, b in zip(shown[0], other)) for other in shown[1:]], [1, 1])

    def test_units_of_the_display(self) -> None:
        for display, shows in (
            (Display.KILOPASCAL, 400.0),
            (Display.PSI, 58.02),
            (Display.METRES_OF_WATER, 40.79),
            (Display.PERCENT_OF_SPAN, 40.0),
        ):
            sheet, scale = sheet_of(REGULATOR, made(), display)
            row = sheet.row("line 6")
            self.assertAlmostEqual(float(row.shows), shows, delta=0.51 * scale.step)
            self.assertAlmostEqual(float(sheet.row("line 7").shows), 82.0, delta=0.1)  # a share knows no unit

    @settings(max_examples=60, deadline=None)
    @given(st.floats(350e3, 450e3), st.floats(0.75, 0.95), st.floats(1.0, 8.0), st.floats(5.0, 25.0), st.sampled_from([MOTOR, WALL, REGULATOR]),
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
        """A restart of 3.20 bar, under what the worst outlet needs: told in Reckon, not moved behind anybody's back."""
        station = made({**SET, "restart": 320e3}, {"night": False})
        self.assertEqual(station[2].setting("restart").standing.value, "below the window")
        sheet, _ = sheet_of(WALL, station)
        self.assertEqual(sheet.row("1 Loft 16").shows, "0.80")
        self.assertFalse(BOOSTER.keypad.recheck(station[0], station[1], sheet).is_sound)

    def test_an_empty_window_is_refused_on_every_drive(self) -> None:
        facts, decided, _ = made({"set_pressure": 400e3})
        tall = facts.model_copy(update={"outlets": facts.outlets.model_copy(update={"top_m": 45.0})})
        sheet, _ = sheet_of(WALL, (tall, decided, reckon(tall, decided, False)))
        for code in ("1 Loft 16", "2 Loft 16", "3 Loft 16"):
            self.assertIs(sheet.row(code).kind, RowKind.REFUSED)

    def test_what_a_family_cannot_hold_is_refused_with_the_nearest(self) -> None:
        long = made({**SET, "max_run": 30.0 * 86400.0})
        sheet, _ = sheet_of(MOTOR, long)
        row = sheet.row("1 p 48")
        self.assertIs(row.kind, RowKind.REFUSED)
        self.assertIn("takes 1 to 15000; 4.32e+04 does not fit. Nearest: 15000", row.trouble)  # 30 days in minutes

    def test_the_switch_of_an_on_off_set_takes_cut_in_and_cut_out(self) -> None:
        station = made(
            {"cut_in": 360e3, "cut_out": 480e3},
            control={"kind": "on_off", "suction_by": "switch"},
            vessel={"volume_m3": 1.5},
        )
        sheet, _ = sheet_of(SWITCH, station)
        shown = {row.parameter.meaning: row.shows for row in sheet.rows}
        self.assertEqual((shown["setting.cut_out"], shown["setting.cut_in"]), ("4.80", "1.20"))  # so much below cut-out


class HeldTest(unittest.TestCase):
    """What was read back takes the place of the plan; a value measured from another follows the one read back."""

    def held(self, typed: dict[str, str], profile=MOTOR):
        station = made()
        sheet, _ = sheet_of(profile, station)
        return held(BOOSTER, station[0], station[1], sheet, typed, Display.BAR).program

    def test_a_set_pressure_typed_wrong_takes_with_it_what_is_measured_from_it(self) -> None:
        numbers = self.held({"line 6": "5.00"}, REGULATOR)
        self.assertAlmostEqual(numbers.set_pressure, 500e3)
        self.assertAlmostEqual(numbers.restart, 410e3)  # 82 % of what stands there
        self.assertAlmostEqual(numbers.night_pressure, 460e3)  # 0.4 bar below it
        wall = self.held({"1 Loft 15": "5.00"}, WALL)
        self.assertAlmostEqual(wall.restart, 428e3)  # a drop of 0.72 bar
        motor = self.held({"1 p 50": "5.00"})
        self.assertAlmostEqual(motor.restart, 328e3)  # a pressure of its own

    def test_conventions_are_read_back_as_they_stand(self) -> None:
        numbers = self.held({"1 p 30": "50", "1 p 4": "165", "1 p 36": "2,0", "1 p 45": "0.4"})
        self.assertAlmostEqual(numbers.gain, 2.0)
        self.assertAlmostEqual(numbers.least_speed, 1980.0 / 2900.0)  # 165 dozen
        self.assertAlmostEqual(numbers.low_suction_reset, 25e3)
        page = self.held({"line 7": "70", "line 17": "10", "line 2": "55"}, REGULATOR)
        self.assertAlmostEqual(page.restart, 280e3)
        self.assertAlmostEqual(page.reset_time, 6.0)
        self.assertAlmostEqual(page.least_speed, 0.55)
        self.assertAlmostEqual(self.held({"1 Mill 7": "27.5"}, WALL).least_speed, 0.55)

    def test_what_is_no_number_stays_as_planned(self) -> None:
        self.assertAlmostEqual(self.held({"1 p 50": "four"}).set_pressure, 400e3)
