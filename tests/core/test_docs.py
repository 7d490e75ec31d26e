"""The docs tell of everything that can stand in a file: kinds of entries, units, conventions, meanings, columns, actions."""

import re
import unittest
from pathlib import Path

from goodbalance.core.record.chain import Kind
from goodbalance.core.sheets.profile import Convention, Display, KeypadUnit
from goodbalance.core.stations.booster.names import ACTS as BOOSTER_ACTS
from goodbalance.core.stations.lift.names import ACTS as LIFT_ACTS
from goodbalance.core.stations.lift.names import Role as LEVELS
from goodbalance.core.stations.lift.names import SettingId as LIFT_SETTINGS
from goodbalance.core.stations.transfer.names import ACTS as TRANSFER_ACTS
from goodbalance.exchange import tables_csv
from goodbalance.exchange.profiles import shipped_profiles
from tests.boosters import plan_of

DOCS = Path(__file__).parent.parent.parent / "docs"
FORMATS = "".join((DOCS / name).read_text(encoding="utf-8") for name in ("formats.md", "profiles.md"))


# settings of a plan that a drive may hold: of boosters of every kind, and the levels and speeds of a lift's drives
IN_A_DRIVE = {
    setting.id
    for schools, changes in (
        ({"setback": "square", "night": True, "slow_fill": True}, {"remote": {"height_m": 10.0, "range_pa": 6e5}}),
        ({}, {"control": {"kind": "fixed"}}),
        ({"suction_reset": "long_wait", "lost_prime": "long_wait", "prime_by": "pressure"}, {}),
        ({}, {}),
        ({}, {"control": {"direct_keys": True}}),
        ({}, {"motor": {"generator": True, "generator_va": 9e3}, "control": {"suction_by": "sensor"}}),
    )
    for setting in plan_of({}, schools, **changes).settings
} | {*LIFT_SETTINGS, *LEVELS}


def told(word: str) -> bool:
    return f"`{word}`" in FORMATS


class FormatsTest(unittest.TestCase):
    def test_every_kind_of_entry_unit_and_convention(self) -> None:
        for names in (Kind, Convention, Display, KeypadUnit):
            missing = [name.value for name in names if name.value and not told(name.value)]
            self.assertEqual(missing, [], names.__name__)

    def test_every_meaning_of_the_shipped_profiles(self) -> None:
        """`setting.<id>` and `drive.{n}.<id>` tell of the settings of a plan as a group; the rest stands by its own name."""
        for profile in shipped_profiles().values():
            for parameter in profile.parameter:
                place, _, last = parameter.meaning.rpartition(".")
                if not place or place == "setting" or (place == "drive.{n}" and last in IN_A_DRIVE):
                    continue
                self.assertTrue(told(parameter.meaning) or f".{last}`" in FORMATS, parameter.meaning)

    def test_every_column_and_action(self) -> None:
        columns = [name for key, table in vars(tables_csv).items() if key.startswith("_TO_") for name in table]
        self.assertEqual([name for name in columns if not told(name)], [])
        self.assertEqual([act for acts in (*BOOSTER_ACTS, *LIFT_ACTS, *TRANSFER_ACTS) for act in acts if not told(act)], [])

    def test_every_family_has_its_row_and_its_idea(self) -> None:
        rows = re.findall(r"^\| ([^|]+) \(`([^`]+)`\) \|", FORMATS, re.MULTILINE)
        self.assertEqual(sorted(rows), sorted((p.name, p.family) for p in shipped_profiles().values()))
        self.assertEqual([p.family for p in shipped_profiles().values() if not told(p.family)], [])

    def test_every_convention_is_carried_and_no_family_carries_those_that_give_a_device_away(self) -> None:
        """A restart as a share, a scaled speed, a choice of sharing, a fixed speed, a form switch: five families."""
        marks: dict[str, set[str]] = {}
        for profile in shipped_profiles().values():
            for parameter in profile.parameter:
                last = parameter.meaning.rpartition(".")[2]
                marks.setdefault(parameter.convention.value, set()).add(profile.id)
                if parameter.display_factor != 1.0 and parameter.unit is KeypadUnit.ROTATION:
                    marks.setdefault("scaled speed", set()).add(profile.id)
                if last in ("fixed_speed", "form") or (last == "sharing" and len(parameter.options) > 1):
                    marks.setdefault(last, set()).add(profile.id)
                if parameter.shared:
                    marks.setdefault("copied", set()).add(profile.id)
        self.assertEqual([way.value for way in Convention if way.value not in marks], [])
        together = ("share_of", "scaled speed", "sharing", "fixed_speed")
        for mark in (*together, "form", "copied"):
            self.assertTrue(marks[mark], mark)
        for profile_id in shipped_profiles():
            self.assertLess(sum(profile_id in marks[mark] for mark in together), 2, profile_id)
        self.assertNotIn("skerry_leaf", marks["copied"])


class ReadmeTest(unittest.TestCase):
    def leads(self, root: Path, page: str, heading: str = "") -> bool:
        """Whether the page is there, with a heading of that name where one is asked for."""
        if not (root / page).exists() or not heading:
            return (root / page).exists()
        headings = re.findall(r"^#+ (.+)$", (root / page).read_text(encoding="utf-8"), re.MULTILINE)
        return heading in [text.lower().replace(" ", "-") for text in headings]

    def test_every_link_leads_somewhere_and_every_picture_is_linked(self) -> None:
        readme = DOCS.parent / "README.md"
        text = readme.read_text(encoding="utf-8")
        links = re.findall(r"\]\((docs/[^)]+)\)", text)
        self.assertEqual([link for link in links if not self.leads(readme.parent, *link.split("#"))], [])
        pictures = {f"docs/screenshots/{path.name}" for path in (DOCS / "screenshots").glob("*.png")}
        self.assertEqual(pictures - set(links), set())
        self.assertLess(len(pictures), 20)
