"""The first energising by real requests: by hazard, signed step by step, a wrong rotation on the way."""

import html

from tests.web.visits import PASSWORD, WebTest, key
from tools.stage.server import Visitor
from tools.stage.typed_stations import ROUND_WELL, TANK_SET

MUST = {"water": "wet", "terminals": "dead", "insulation.1": "dead", "insulation.2": "dead", "guards": "dead", "panel": "dead", "covers": "closed", "supply": "still", "still": "still"}
VOLTS = {"volts_1": "400", "volts_2": "401", "volts_3": "399"}
READS = {"insulation.1": {"insulation": "200", "earth": "0.3"}, "insulation.2": {"insulation": "180", "earth": "0.3"}, "supply": VOLTS}


class EnergisingTest(WebTest):
    def note(self, path: str, step: str, must: str, good: str = "yes", who: Visitor | None = None, **more: str):
        return (who or self.ada).form(f"{path}/energising", step=step, confirmed=must, good=good, save_key=key(), **more)

    def shown(self, path: str) -> str:
        """The step that the page asks for."""
        page = self.ada.get(f"{path}/energising").text
        return page.split('name="step" value="')[1].split('"')[0] if 'name="step"' in page else ""

    def to_the_first_run(self, path: str) -> None:
        while (step := self.shown(path)) in MUST:
            self.assertEqual(self.note(path, step, MUST[step], **READS.get(step, {})).status_code, 200)

    def test_a_wrong_rotation_is_swapped_dead_and_bumped_again(self) -> None:
        path = self.station(ROUND_WELL)
        self.assertIn("First energising", self.ada.get(f"{path}/prove").text)
        self.to_the_first_run(path)
        self.assertEqual(self.shown(path), "rotation.1")
        self.note(path, "rotation.1", "runs", good="no")
        self.assertEqual(self.shown(path), "swap.1")
        refused = self.note(path, "rotation.1", "runs")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("Two motor leads of pump 1 swapped comes first", html.unescape(refused.text))
        self.note(path, "swap.1", "dead")
        self.assertEqual(self.shown(path), "rotation.1")
        self.note(path, "rotation.1", "runs")
        self.assertEqual(self.shown(path), "loaded.1")
        self.note(path, "loaded.1", "runs", **dict.fromkeys(VOLTS, "360"), note="meter 3")
        page = self.ada.get(f"{path}/energising?step=loaded.1").text
        self.assertIn("sags by", page)
        record = html.unescape(self.ada.get(f"{path}/handover").text)
        for words in ("First energising", "Rotation of pump 1 by a bump", "360 V", "meter 3", "not made"):
            self.assertIn(words, record)

    def test_earth_leakage_protection_is_a_fact_and_its_button_a_step(self) -> None:
        path = self.station({**ROUND_WELL, "protection.leakage_by": "pulsed", "protection.leakage_a": "300 mA"})
        self.to_the_first_run(path)
        self.assertEqual(self.shown(path), "leakage")
        self.note(path, "leakage", "still")
        self.assertEqual(self.shown(path), "rotation.1")
        self.assertIn("Earth leakage protection, 0.30 A, stands ahead", " ".join(self.ada.json(f"{path}/guarded", {}).json()["html"].split()))
        for typed in ("0", "40", "much"):
            refused = self.save_facts(path, {"protection.leakage_a": typed}).json()["problems"]
            self.assertIn("protection.leakage_a", str(refused))
        plain = self.station(ROUND_WELL)
        self.assertIn("No earth leakage protection is known here.", " ".join(self.ada.json(f"{plain}/guarded", {}).json()["html"].split()))

    def test_how_it_is_must_be_said_and_what_is_early_needs_a_reason(self) -> None:
        path = self.station(ROUND_WELL)
        page = self.ada.get(f"{path}/energising").text
        self.assertIn("overload", page + self.ada.get(f"{path}/energising?step=guards").text)
        refused = self.note(path, "water", "dead")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("Say first how the station is", refused.text)
        early = self.note(path, "covers", "closed")
        self.assertEqual(early.status_code, 422)
        self.assertIn("The water side is ready comes first", html.unescape(early.text))
        self.assertEqual(self.note(path, "covers", "closed", why_now="the crew of the panel left").status_code, 200)
        self.assertIn("before its turn: the crew of the panel left", self.ada.get(f"{path}/handover").text)

    def test_numbers_that_forbid_it_are_not_as_it_must_be(self) -> None:
        path = self.station(ROUND_WELL)
        reads = {"insulation": "0.2", "earth": "0.3", "why_now": "first thing"}
        refused = self.note(path, "insulation.1", "dead", **reads)
        self.assertEqual(refused.status_code, 422)
        self.assertIn("less than", refused.text)
        self.assertEqual(self.note(path, "insulation.1", "dead", "no", **reads).status_code, 200)
        for more, words in (({"insulation": "lots", "earth": "0.3"}, "Insulation to earth"), ({}, "Insulation to earth")):
            refused = self.note(path, "insulation.2", "dead", why_now="so", **more)
            self.assertEqual(refused.status_code, 422)
            self.assertIn(words, refused.text)
        for fields, words in (({"step": "moon"}, "no such step"), ({"good": "perhaps"}, "accepted: yes, no")):
            refused = self.ada.form(f"{path}/energising", **{"step": "water", "confirmed": "wet", "good": "yes", "save_key": key(), **fields})
            self.assertEqual(refused.status_code, 422)
            self.assertIn(words, html.unescape(refused.text))
        reader = Visitor(self.web.address).sign_in("Cy Rook", PASSWORD)
        self.assertEqual(self.note(path, "water", "wet", who=reader).status_code, 403)

    def test_jumpers_are_out_before_it_is_said_and_a_booster_has_its_own_water(self) -> None:
        path = self.station(TANK_SET, "booster")
        page = self.ada.get(f"{path}/energising").text
        self.assertIn("vent every casing", page)
        self.ada.form(f"{path}/open-points", text="jumper across the suction switch", temporary="jumper", save_key=key())
        refused = self.note(path, "jumpers", "dead", why_now="at the end of the day")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("jumper across the suction switch", refused.text)
        self.assertIn("Complete the survey first", self.ada.get(f"{self.station()}/energising").text)
