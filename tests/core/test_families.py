"""Families as tables and files: round trips of all that ship and of random cells, and what is wrong told at its cell."""

import io
import unittest
import zipfile

from hypothesis import given, settings
from hypothesis import strategies as st

from goodbalance.core.errors import BrokenFile
from goodbalance.exchange.family_files import csv_of, read_family, toml_of, xlsx_of
from goodbalance.exchange.family_tables import (
    HEAD,
    PARAMETER,
    TERMINALS,
    Part,
    Tables,
    profile_of,
    tables_from,
    tables_of,
)
from goodbalance.exchange.profiles import read_profile, shipped_profiles

TEN = """code\tname\tmeaning\tunit\tdecimals\tlow\thigh\tdefault\toptions
u\tUnit\tdisplay.level_unit\t\t\t\t\tm\tm = m; ft = ft
r{n}+\tPulls at\trelay.{n}.on\tlevel\t2\t0\t20\t5\t
r{n}-\tLets go at\trelay.{n}.off\tlevel\t2\t0\t20\t4\t
s\tSignal\tsensor.signal\t\t\t\t\tcurrent\t4_20_ma = current; 0_10_v = volts
f\tFull signal\tsensor.full_level\tlevel\t2\t0.1\t20\t5\t
"""
HEADED = {
    "id": "yard_box", "name": "Yard box", "family": "relay level controller", "about": "", "relays": "6", "drives": "", "displays": "m 0.01 2; ft 0.05 2",
    "save_action": "Hold the lid until it shows", "save_shows": "kept", "resets": "", "cautions": "Mains inside.\nOFF first.", "wired": "", "low_word_first": "",
}  # fmt: skip
CELLS = st.text(st.characters(blacklist_categories=("Cs", "Cc")), max_size=30)


def ten_rows(**changes: str) -> Tables:
    made = read_family("x.tsv", TEN.encode(), Tables(HEADED))
    rows = tuple({**row, "menu": "Box", "repeat": "relay" if "{n}" in row["code"] else "", **changes} for row in made.parameters)
    return Tables(HEADED, rows, ({**dict.fromkeys(TERMINALS, ""), "labels": "1, 2", "name": "Sensor", "meaning": "input.level"},))


class RoundTripTest(unittest.TestCase):
    def test_every_family_that_ships_comes_back_from_each_file(self) -> None:
        for profile in shipped_profiles().values():
            with self.subTest(profile=profile.id):
                tables = tables_of(profile)
                self.assertEqual(profile_of(tables), (profile, ()))
                self.assertEqual(read_profile(toml_of(profile)), profile)
                self.assertEqual(read_family("a.XLSX", xlsx_of(tables)), tables)
                self.assertEqual(read_family("a.csv", csv_of(tables).encode(), tables), tables)
                self.assertEqual(tables_from(tables.plain()), tables)

    @settings(max_examples=25)
    @given(st.lists(st.fixed_dictionaries(dict.fromkeys(PARAMETER, CELLS)), min_size=1, max_size=4), CELLS)
    def test_any_cell_is_kept_and_never_breaks_it(self, rows, about) -> None:
        """Whatever is typed comes back from a workbook but for spaces at its ends, and is told wrong in words or taken."""
        tables = Tables({**HEADED, "about": about.strip()}, tuple({name: text.strip() for name, text in row.items()} for row in rows))
        filled = tuple(row for row in tables.parameters if any(row.values()))
        self.assertEqual(read_family("a.xlsx", xlsx_of(tables)).parameters, filled)
        profile, problems = profile_of(tables)
        self.assertTrue((profile is None) is bool(problems))
        self.assertTrue(all(problem.words for problem in problems))

    def test_a_family_of_ten_rows_as_a_newcomer_pastes_it(self) -> None:
        profile, problems = profile_of(ten_rows())
        self.assertEqual(problems, ())
        self.assertEqual([parameter.code for parameter in profile.entries()][:4], ["u", "r1+", "r1-", "r2+"])
        self.assertEqual(profile.cautions, ("Mains inside.", "OFF first."))
        self.assertEqual(profile.strip()[0].labels, ("1", "2"))


class WrongTest(unittest.TestCase):
    def test_what_is_wrong_is_told_at_its_cell(self) -> None:
        for row, column, text, words in (
            (1, "high", "lots", "'lots' is no number"), (1, "unit", "yards", "'yards'; accepted: level"), (3, "options", "4_20_ma", "pairs with = between"),
            (2, "meaning", "relay.{n}.of", "is no meaning that a kind of station knows"), (1, "default", "99", "is not a number from 0 to 20"),
            (1, "decimals", "-1", "is no whole number"), (0, "code", "f", "parameter codes stand twice: f"), (1, "base", "relay.{n}.off", "goes with no base"),
            (1, "repeat", "pump", "it is repeated per pump, and this family has no pumps"), (4, "high", "0.1", "is not a number from 0.1 to 0.1"), (3, "when", "zz = x", "there is no parameter 'zz' here"),
        ):  # fmt: skip
            with self.subTest(column=column, text=text):
                tables = ten_rows()
                rows = tuple({**each, column: text} if number == row else each for number, each in enumerate(tables.parameters))
                profile, problems = profile_of(Tables(tables.head, rows, tables.terminals))
                self.assertIsNone(profile)
                found = [problem for problem in problems if words in problem.words]
                self.assertTrue(found, problems)
                if column != "code":
                    self.assertEqual((found[0].part, found[0].row), (Part.PARAMETER, row))
        for key, text, words in (("displays", "yd 1 0", "accepted: a unit"), ("displays", "", "shows levels or pressures in some unit"), ("id", "Big One", "small letters, digits and _"), ("name", "", "it is empty"), ("relays", "many", "is no whole number"), ("relays", "99", "less than or equal to 16")):
            tables = ten_rows()
            _, problems = profile_of(Tables({**tables.head, key: text}, tables.parameters))
            self.assertTrue(any(words in problem.words and problem.column == key for problem in problems), (key, problems))

    def test_files_that_are_none_are_refused_in_words(self) -> None:
        bomb = io.BytesIO()
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as packed:
            packed.writestr("xl/workbook.xml", b"0" * 30_000_000)
        other = io.BytesIO()
        with zipfile.ZipFile(other, "w") as packed:
            packed.writestr("a.txt", "x")
        for name, data, words in (
            ("a.xlsx", b"PK\x03\x04 torn", "no workbook"), ("a.xlsx", bomb.getvalue(), "too large once unpacked"), ("a.xlsx", other.getvalue(), "no workbook"),
            ("a.doc", b"x", "accepted: toml, xlsx, csv"), ("a.toml", b"id = ", "is not TOML"), ("a.csv", b"code,colour\n1,red\n", "names 'colour'"),
            ("a.csv", b"code,code\n1,2\n", "one of them twice"), ("a.csv", b"", "names no columns"), ("a.csv", b"\xff\xfe", "not text in UTF-8"),
            ("a.csv", b"code\n" + b"x\n" * 700, "accepted: up to 600"),
        ):  # fmt: skip
            with self.subTest(name=name, words=words), self.assertRaisesRegex(BrokenFile, words):
                read_family(name, data)
        for plain in (None, {}, {"head": {}, "parameters": 3, "terminals": []}, {"head": {"id": 5}, "parameters": [], "terminals": []}, {"head": {}, "parameters": [{"code": "x" * 2001}], "terminals": []}):
            with self.assertRaises(BrokenFile):
                tables_from(plain)
        self.assertEqual(tables_from({"head": {}, "parameters": [], "terminals": []}).head, dict.fromkeys(HEAD, ""))
