"""Files of controller families: read, refused with their line, told to editors by a schema, and what hangs on other rows."""

import json
import unittest
from pathlib import Path

from goodbalance.core.errors import BrokenFile
from goodbalance.core.sheets.entry_sheet import KeypadValue, RowKind, Scale, entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.exchange.profiles import known_meanings, read_profile, schema_text, shipped_profiles
from tests import stations
from tests.read_backs import held

DOCS = Path(__file__).parent.parent.parent / "docs"
HEAD = '''id = "pebble"
name = "Pebble"
family = "pump controller"
relays = 0
save_action = "Turn it over"
save_shows = "dry"

[steps]
"m" = 0.01

[decimals]
"m" = 2
'''
WAY = '''
[[parameter]]
code = "way"
menu = "Top"
name = "How it goes"
meaning = "drives.mode"
default = "plain"
options = { "fixed" = "plain", "by_level" = "with it" }
'''
START = '''
[[parameter]]
code = "start"
menu = "Top"
name = "Start"
meaning = "setting.start_1"
unit = "level"
high = 9.0
default = 1.0
'''


class FileTest(unittest.TestCase):
    def test_what_is_wrong_is_told_with_its_line(self) -> None:
        """The head has 12 lines; a parameter's table begins on its second, so the first on line 14, the next on line 22."""
        self.assertEqual([p.code for p in read_profile(HEAD + WAY + START).parameter], ["way", "start"])
        for text, words in (
            (HEAD.replace("relays = 0", "relays = 99") + WAY, "line 4, relays: Input should be less than or equal to 16"),
            (HEAD + WAY.replace('"plain"\nopt', '"odd"\nopt'), "default 'odd' is none of the options"),
            (HEAD + WAY + START.replace("1.0", "99.0"), "line 22, parameter.1: Value error, default 99.0 is not a number from 0 to 9"),
            (HEAD + WAY.replace("drives.mode", "drives.mood"), "line 18, way: 'drives.mood' is no meaning"),
            (HEAD + START.replace("high = 9.0", "high = 0.0").replace("default = 1.0", "default = 0.0"), "leave no range"),
            (HEAD + WAY + WAY, "parameter codes stand twice: way"),
            (HEAD + START + 'colour = "red"\n', "line 22, parameter.0.colour: Extra inputs are not permitted"),
            (HEAD + START + 'at_most = "stop"\n', "start: there is no parameter 'stop' here"),
            (HEAD + START + 'convention = "drop_below"\nbase = "setting.stop"\n', "its base 'setting.stop' is the meaning of no parameter here"),
            (HEAD + START + "read_only = true\n", "a read-only parameter has no meaning and no default"),
            ("id = ", "the profile is not TOML"),
        ):
            with self.subTest(words):
                with self.assertRaises(BrokenFile) as caught:
                    read_profile(text)
                self.assertIn(words, str(caught.exception))

    def test_a_share_of_a_share_is_refused(self) -> None:
        stop = START.replace("start_1", "stop").replace('"start"', '"stop"')
        chain = "".join(
            piece + f'convention = "drop_below"\nbase = "setting.{base}"\n'
            for piece, base in ((START, "stop"), (stop, "start_2"))
        ) + START.replace("start_1", "start_2").replace('"start"', '"other"')  # fmt: skip
        with self.assertRaisesRegex(BrokenFile, "start: its base 'setting.stop' is itself measured from 'setting.start_2'"):
            read_profile(HEAD + chain)

    def test_the_published_schema_is_that_of_the_model(self) -> None:
        self.assertEqual((DOCS / "profile.schema.json").read_text(encoding="utf-8"), schema_text(), "python -m tools.schema writes it anew")
        self.assertIn("default", json.loads(schema_text())["$defs"]["Parameter"]["properties"])
        self.assertIn("relay.{n}.turns", known_meanings())


class PanelTest(unittest.TestCase):
    """Two panels without a display: rows for each pump, options that only flip, and no more pumps than a family can call."""

    def test_rows_for_each_pump_that_is_there(self) -> None:
        shelf = shipped_profiles()["sea_holly_shelf"]
        self.assertEqual([p.code for p in shelf.entries(3) if "ring" in p.code and "dry" not in p.code], ["1 ring", "2 ring", "3 ring"])
        self.assertEqual(len([group for group in shelf.strip(2) if group.meaning.startswith("mains.")]), 2)
        station = stations.survey(control={"level_by": "floats", "floats": 4}).model_copy(update={"sensor": None})
        plan = LIFT.reckon(station, stations.choices(), False)
        values = LIFT.keypad.values(station, stations.choices(), plan, Display.METRES)
        sheet = entry_sheet(shelf, values, LIFT.keypad.scale(station, shelf, Display.METRES))
        self.assertEqual(sheet.row("2 ring").shows, "5.0")
        self.assertEqual([row.trouble for row in sheet.rows if row.trouble], [])

    def test_a_third_pump_has_no_place_in_a_panel_for_two(self) -> None:
        pegs = shipped_profiles()["periwinkle_pegs"]
        for pumps, lacking in ((2, set()), (3, {"pump.3"})):
            station = stations.survey(control={"level_by": "floats", "floats": 4}, pumping={"count": pumps}).model_copy(update={"sensor": None})
            plan = LIFT.reckon(station, stations.choices(), False)
            values = LIFT.keypad.values(station, stations.choices(), plan, Display.METRES)
            sheet = entry_sheet(pegs, values, LIFT.keypad.scale(station, pegs, Display.METRES))
            told = {each.about for each in held(LIFT, station, stations.choices(), sheet, {}, Display.METRES).uncarried if each.about.startswith("pump.")}
            self.assertEqual(told, lacking)

    def test_what_flips_and_what_lamps_show_is_checked(self) -> None:
        flips = WAY.replace('default = "plain"\n', "") + "flips = true\n"
        self.assertTrue(read_profile(HEAD + flips).parameter[0].flips)
        for text, words in (
            (WAY + "flips = true\n", "nothing shows how it stands"), (WAY + "lamps = 2\n", "each option is then shown by the number of those that are lit"),
            (START + "per_pump = true\n", "repeated per pump, and this family has no pumps"), (START + "per_pump = true\nper_input = true\n", "one of them only"),
        ):  # fmt: skip
            with self.assertRaisesRegex(BrokenFile, words):
                read_profile(HEAD + text)


class HangingTest(unittest.TestCase):
    """Rows that are shown only sometimes, that other numbers bound, that nobody knows the default of, that only tell."""

    def sheet(self, text: str, **wanted: float | str):
        values = {meaning.replace("__", "."): KeypadValue(value, "test") for meaning, value in wanted.items()}
        return entry_sheet(read_profile(HEAD + text), values, Scale(Display.METRES, 0.01, 2, 0.0, 5.0))

    def test_each(self) -> None:
        only = WAY + START + 'when = { "way" = "with it" }\n'
        row = self.sheet(only, setting__start_1=2.0, drives__mode="fixed").row("start")
        self.assertEqual((row.kind, row.trouble), (RowKind.REFUSED, "start is shown only while way shows with it."))
        self.assertIs(self.sheet(only, setting__start_1=2.0, drives__mode="by_level").row("start").kind, RowKind.CHANGE)
        row = self.sheet(only, setting__start_1=1.0, drives__mode="fixed").row("start")
        self.assertEqual((row.kind, row.reason), (RowKind.LEAVE, "not shown while way does not show with it"))
        stop = START.replace("start_1", "stop").replace('"start"', '"stop"') + 'at_most = "start"\n'
        row = self.sheet(START + stop, setting__start_1=2.0, setting__stop=2.5).row("stop")
        self.assertEqual((row.kind, row.trouble), (RowKind.REFUSED, "stop takes no more than start shows: 2. 2.5 does not fit."))
        self.assertIs(self.sheet(START + stop, setting__start_1=2.0, setting__stop=1.5).row("stop").kind, RowKind.CHANGE)
        unknown = self.sheet(START.replace("default = 1.0\n", ""), setting__start_1=1.0).row("start")
        self.assertEqual((unknown.kind, unknown.default_shows), (RowKind.CHANGE, ""))
        told = '\n[[parameter]]\ncode = "hours"\nmenu = "Top"\nname = "Hours"\nread_only = true\n'
        self.assertEqual([row.parameter.code for row in self.sheet(START + told, setting__start_1=1.0).readings], ["hours"])
