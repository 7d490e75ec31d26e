"""Motor readings by real requests: one at a time, odd ones told at once, what follows in plan, sheet and hand over."""

import re

from tests.web.visits import PASSWORD, WebTest, key
from tools.stage.server import Visitor
from tools.stage.typed_stations import ROUND_WELL, TANK_SET


class MotorsTest(WebTest):
    def read(self, path: str, pump: int, at: str, *amps: str, volts: tuple[str, ...] = (), who: Visitor | None = None, **more: str):
        fields = {f"amps.{lead}": text for lead, text in enumerate(amps, 1)} | {f"volts.{lead}": text for lead, text in enumerate(volts, 1)}
        return (who or self.ada).form(f"{path}/motors", pump=str(pump), at=at, save_key=key(), **fields, **more)

    @staticmethod
    def trip(page: str) -> float:
        return float(re.search(r'id="setting-overload_1"[^>]*data-value="([0-9.]+)"', page)[1])

    def test_readings_are_led_through_and_the_plan_follows_them(self) -> None:
        """Highest lead 4.1 A: from 4.305 to 5.33 A, which the code's 5.52 A over a plate of 4.8 A does not cap; four fifths of the way up: 5.125 A."""
        path = self.station(ROUND_WELL)
        page = self.ada.get(f"{path}/motors").text
        for words in ("close its discharge valve", "no longer than half a minute", "Expected", "Not read yet"):
            self.assertIn(words, page)
        before = self.trip(self.ada.get(f"{path}/reckon").text)
        page = self.read(path, 1, "closed", "3,0", "3.1", "2.9", volts=("398", "400", "399"), note="meter 3, checked in spring").text
        self.assertIn("nothing odd", page)
        self.assertIn("On to:", page)
        closed_only = self.trip(self.ada.get(f"{path}/reckon").text)
        page = self.read(path, 1, "normal", "3.9", "4.1", "4.0").text
        self.assertIn("From 2 readings", page)
        after = self.trip(self.ada.get(f"{path}/reckon").text)
        self.assertNotEqual(before, closed_only)
        self.assertAlmostEqual(after, 5.125, delta=0.051)
        self.assertIn("meter 3, checked in spring", self.ada.get(f"{path}/handover").text)
        self.assertIn("highest current read in honest work", self.ada.get(f"{path}/reckon").text)
        self.read(path, 1, "normal", "", "", "")  # taken back
        self.assertEqual(self.trip(self.ada.get(f"{path}/reckon").text), closed_only)

    def test_what_is_odd_is_told_before_the_meter_is_off_and_stays_a_finding(self) -> None:
        path = self.station(ROUND_WELL)
        page = self.read(path, 2, "normal", "3.6", "4.4", "3.6", volts=("398", "412", "391")).text
        self.assertIn("move all three leads on by one", page)
        self.assertIn("The phases of the supply differ", page)
        page = self.read(path, 1, "most", "5.9", "6.0", "5.9").text
        self.assertIn("a fault to find", page)
        self.assertIn("a fault to find", self.ada.get(f"{path}/reckon").text)
        self.assertIn("window empty", self.ada.get(f"{path}/reckon").text)

    def test_what_cannot_be_is_refused_by_field_and_nothing_is_kept(self) -> None:
        path = self.station(ROUND_WELL)
        for fields, words in (
            ({"amps.1": "six"}, "current, lead 1"), ({"amps.1": "6", "amps.2": "6"}, "current, lead 3"), ({"amps.1": "-1", "amps.2": "6", "amps.3": "6"}, "current, lead 1"),
            ({}, "No current is filled in"), ({"amps.1": "6", "amps.2": "6", "amps.3": "1e9"}, "current, lead 3"), ({"amps.1": "6", "amps.2": "6", "amps.3": "6", "volts.1": "x"}, "voltage, lead 1"),
        ):  # fmt: skip
            answer = self.ada.form(f"{path}/motors", pump="1", at="normal", save_key=key(), **fields)
            self.assertEqual(answer.status_code, 422, fields)
            self.assertIn(words, answer.text)
        for pump, at in (("9", "normal"), ("0", "normal"), ("x", "normal"), ("1", "sideways")):
            self.assertEqual(self.ada.form(f"{path}/motors", pump=pump, at=at, save_key=key(), **{"amps.1": "6", "amps.2": "6", "amps.3": "6"}).status_code, 422)
        self.assertEqual(self.ada.get(f"{path}/motors?pump=9").status_code, 422)
        self.assertEqual(self.ada.get(f"{path}/motors?at=sideways").status_code, 422)
        self.assertEqual(self.ada.get(f"{self.station()}/motors").status_code, 409)
        reader = Visitor(self.web.address).sign_in("Cy Rook", PASSWORD)
        self.assertEqual(self.read(path, 1, "normal", "6", "6", "6", who=reader).status_code, 403)
        self.assertIn("Not read yet", self.ada.get(f"{path}/motors").text)

    def test_a_number_by_head_is_checked_against_its_own_rule_and_told_what_it_does(self) -> None:
        """Dry run as 70 % of a plate of 4.8 A is 3.36 A; 2.2 A typed for it is 1 - 2.2/3.36 = 34.5 % less."""
        path = self.station(ROUND_WELL)
        page = self.ada.get(f"{path}/motors?guard=underload&base=plate&share=70&stated=2,2").text
        for words in ("70 % of the nameplate (4.80 A) is 3.36 A", "35 % less", "As an under-load it"):
            self.assertIn(words, page)
        page = self.ada.get(f"{path}/motors?guard=overload&base=plate&share=150").text
        self.assertIn("7.20 A", page)
        self.assertIn("The winding burns before it trips.", page)
        for query, words in (("guard=overload&base=plate&share=x", "share"), ("guard=sideways&base=plate&share=50", "guard is"), ("guard=overload&base=guess&share=50", "base is"),
                             ("guard=overload&base=plate&share=50&stated=-3", "number worked out")):  # fmt: skip
            self.assertIn(words, self.ada.get(f"{path}/motors?{query}").text.split('id="by-head"')[1])

    def test_a_booster_s_motors_on_drives_say_how_they_are_read(self) -> None:
        path = self.station(TANK_SET, "booster")
        page = self.ada.get(f"{path}/motors").text
        self.assertTrue("the drive's own reading" in page.replace("&#39;", "'"))
