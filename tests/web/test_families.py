"""Families of people's own by real requests: copied, checked, saved as revisions, tried, taken into a record that then holds them."""

import html
import json
import re

from goodbalance.exchange.family_files import read_family, toml_of, xlsx_of
from goodbalance.exchange.family_tables import tables_of
from goodbalance.exchange.profiles import shipped_profiles
from tests.web.visits import WebTest, key
from tools.stage.server import Visitor
from tools.stage.typed_stations import ROUND_WELL

PASSWORD = "quite long enough here"


class FamiliesTest(WebTest):
    def own(self, **head: str) -> dict:
        """A copy of the tray under a name of its own."""
        page = self.ada.get("/families/new?like=ebbstone_tray").text
        tables = json.loads(html.unescape(re.search(r'id="tables">(.*?)</script>', page, re.S)[1]))
        tables["head"] |= {"id": "yard_tray", "name": "Yard tray", **head}
        return tables

    def save(self, tables: dict, base: int = 0, who: Visitor | None = None):
        return (who or self.ada).json("/families/save", {"tables": tables, "base": base})

    def shown(self, path: str) -> str:
        """What the drum of the duty start is to show."""
        return re.search(r'4 lift</th>.*?class="display">([0-9.]+)<', self.ada.get(f"{path}/enter").text, re.S)[1]

    def test_a_copy_is_checked_tried_saved_and_found_again(self) -> None:
        path = self.station(ROUND_WELL)
        station = int(path.rsplit("/", 1)[1])
        tables = self.own()
        answer = self.ada.json("/families/check", {"tables": tables, "station": station}).json()
        self.assertEqual(answer["problems"], [])
        self.assertIn("carries all of the plan", answer["tried"])
        tables["parameters"][2]["high"] = "0.9"
        tables["parameters"][2]["default"] = "0.5"
        answer = self.ada.json("/families/check", {"tables": tables, "station": station}).json()
        self.assertRegex(html.unescape(answer["tried"]), r"not taken\. .*0\.9")
        tables["parameters"][2]["high"] = "lots"
        (problem,) = self.ada.json("/families/check", {"tables": tables}).json()["problems"]
        self.assertEqual((problem["part"], problem["row"], problem["column"]), ("parameter", 2, "high"))
        self.assertEqual(self.save(tables).json(), {"revision": 1, "sound": False, "problems": [problem]})
        tables["parameters"][2]["high"] = "30"
        self.assertEqual(self.save(tables, 1).json(), {"revision": 2, "sound": True, "problems": []})
        self.assertEqual(self.save(tables, 1).json()["revision"], 2)  # the same again is that revision
        page = self.ada.get("/controllers").text
        self.assertIn("Yard tray", page)
        self.assertIn("can be used", page)
        self.assertIn("lots", self.ada.get("/families/yard_tray?revision=1").text)
        bo = Visitor(self.web.address).sign_in("Bo Lund", PASSWORD)
        tables["head"]["about"] = "mine"
        moved = self.save(tables, 1, bo)
        self.assertEqual((moved.status_code, "Ada Wren has saved revision 2 meanwhile" in moved.json()["error"]), (409, True))
        for name in ("ebbstone_tray", "Big", "", "new", "a" * 41):
            self.assertEqual(self.save(self.own(id=name)).status_code, 422, name)
        cy = Visitor(self.web.address).sign_in("Cy Rook", PASSWORD)
        self.assertEqual(self.save(tables, 2, cy).status_code, 403)
        self.assertEqual(cy.get("/families/yard_tray").status_code, 200)
        self.assertEqual(self.ada.json("/families/save", {"tables": {"head": 1}, "base": 0}).status_code, 422)

    def test_a_station_keeps_the_revision_it_took_and_its_file_brings_it_along(self) -> None:
        """The drums of the own tray turn in steps of 5 cm; a later revision in steps of 1 cm counts only when it is taken anew."""
        path = self.station(ROUND_WELL)
        tables = self.own(displays="m 0.05 2; ft 0.2 2; % 1 1")
        self.save(tables)
        self.assertEqual(self.ada.form(f"{path}/family", family="nobody", save_key=key()).status_code, 422)
        page = self.ada.form(f"{path}/family", family="yard_tray", save_key=key()).text
        self.assertIn("Yard tray", page)
        self.assertRegex(page, r"Yard tray, revision 1 \(here 1\)")
        self.assertIn(self.shown(path), ("1.20", "1.25"))
        self.save({**tables, "head": {**tables["head"], "displays": "m 0.01 2; ft 0.02 2; % 0.2 1"}}, 1)
        self.assertIn(self.shown(path), ("1.20", "1.25"))
        self.ada.form(f"{path}/family", family="yard_tray", save_key=key())
        self.assertEqual(self.shown(path), "1.21")
        whole = self.ada.get(f"{path}/station.json")
        self.assertEqual([entry["body"]["revision"] for entry in whole.json()["record"] if entry["kind"] == "family"], [1, 2])
        broken = whole.content.replace(b"yard_tray", b"yard_trays", 1)
        self.assertEqual(self.upload("/stations/import", broken, "x.json").status_code, 422)

    def test_files_in_and_out(self) -> None:
        tray = shipped_profiles()["ebbstone_tray"]
        for ending in ("toml", "xlsx", "csv"):
            data = self.ada.get(f"/families/ebbstone_tray/file.{ending}").content
            self.assertEqual(read_family(f"a.{ending}", data, tables_of(tray)), tables_of(tray))
        self.assertEqual(self.ada.get("/families/ebbstone_tray/file.pdf").status_code, 404)
        for name, data in (("mine.xlsx", xlsx_of(tables_of(tray))), ("mine.toml", toml_of(tray).encode())):
            page = self.upload("/families/file", data, name)
            self.assertEqual((page.status_code, "Ebbstone tray" in page.text, "ships with the app" in page.text), (200, True, False))
        refused = self.upload("/families/file", b"code,colour\n1,red\n", "mine.csv")
        self.assertEqual((refused.status_code, "names &#39;colour&#39;; accepted: code" in refused.text), (422, True))
        page = self.upload("/families/file", b"code;name\nq<script>;Mine\n", "mine.csv", like="ebbstone_tray").text
        self.assertNotIn("q<script>", page)
        self.assertIn("q\\u003cscript\\u003e", page)
