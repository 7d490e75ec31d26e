"""Devices by real requests: as found, factory reset, read back, what differs, waivers, and what a signature makes of them."""

import html
import json
import re

from tests.web.visits import WebTest, key
from tools.stage.typed_stations import ROUND_WELL


class DevicesTest(WebTest):
    def read(self, path: str, code: str, typed: str, **more: object) -> dict:
        return self.ada.json(f"{path}/read-back", {"save_key": key(), "code": code, "typed": typed, **more}).json()

    def test_from_found_to_reset_to_read_back_and_left(self) -> None:
        """Nothing is wiped before it is noted, the last that is known counts, and as left is what was read back."""
        path = self.station(ROUND_WELL)
        self.assertIn("Note what stands there now", self.ada.get(f"{path}/enter?found=1").text)
        self.read(path, "4 lift", "1.60", device="ebbstone_tray", before=True)
        refused = self.ada.form(f"{path}/reset", device="ebbstone_tray", save_key=key(), why="new")
        self.assertEqual(refused.status_code, 422)
        self.assertRegex(refused.text, "Not noted as found: .* and others. A reset wipes them for ever")
        self.assertEqual(self.ada.form(f"{path}/reset", device="whelk_page", save_key=key()).status_code, 422)
        self.ada.form(f"{path}/reset", device="ebbstone_tray", save_key=key(), why="new from the box, never typed into")
        self.assertEqual(self.read(path, "4 lift", "1.75")["hint"], "That is what a new device shows: not typed, or not saved. Type and save it again.")
        self.assertEqual(self.read(path, "4 lift", "1.60")["hint"], "That is what was found before: not typed, or not saved. Type and save it again.")
        self.assertEqual(self.read(path, "4 lift", "1.21")["match"], "same")
        page = self.ada.get(f"{path}/handover").text
        self.assertRegex(page, r"Duty start level</b></th>.{0,120}<b>1.21 m</b><div\s+class=\"small quiet said-by\">Ada Wren, ")
        self.assertRegex(page, r"Assist start level</b></th>.{0,120}not read back, factory reset 1.75")
        card = self.ada.get(f"{path}/card").text
        self.assertRegex(card, r"Duty start level</th><td\s+class=\"r num\"><b>1.21 m</b>")
        self.assertRegex(card, r"Assist start level</th><td\s+class=\"r num\">[0-9.]+ m\s+<div class=\"small said-by\">planned, not read back")
        csv = self.ada.get(f"{path}/settings.csv").text
        self.assertRegex(csv, r"start_1,Duty start level,level,1\.6000,1\.2100,1\.2\d\d\d,.*,read back")
        self.assertRegex(csv, r"start_2,Assist start level,level,[0-9.]*,,1\.\d+,.*,\"?not read back")
        self.assertRegex(csv, r"4 lift,Relay 4 pulls in at,1.21,m,1.60,1.21,same,read back")

    def test_all_that_stands_as_listed_is_read_back_under_one_name(self) -> None:
        path = self.station(ROUND_WELL)
        page = self.ada.get(f"{path}/enter").text
        for words in ("Type these 30, in this order", "Check these 7: the plan relies on what a new device shows", "24 are not used by this plan"):
            self.assertIn(words, page)
        for kind, words in (("check", "7 of 37 read back"), ("change", "not yet stored")):
            self.assertIn(words, self.ada.form(f"{path}/read-all", kind=kind, save_key=key()).text)
        self.assertEqual(self.ada.form(f"{path}/read-all", kind="check", save_key=key()).status_code, 422)
        self.assertIn("stored", self.ada.form(f"{path}/stored", save_key=key()).text)
        self.assertIn("37 of 37 numbers read back as they should stand", self.sign(path).text)

    def test_a_difference_runs_on_the_bench_and_must_be_settled_before_anybody_signs(self) -> None:
        """The duty start read back 20 cm too high: the bench starts there, the plan does not; a waiver holds for that number alone."""
        path = self.station(ROUND_WELL)
        self.assertIn("no number was read back yet", self.ada.get(f"{path}/rehearse").text)
        answer = self.read(path, "4 lift", "1.41")
        self.assertIn("4 lift, Relay 4 pulls in at: shows 1.41, 1.21 should stand there.", html.unescape(answer["matters"]))
        page = self.ada.get(f"{path}/rehearse").text
        for words in ("1 of 37 read back", 'data-program="as_held"', "1 between"):
            self.assertIn(words, page)
        self.assertIn('data-program="planned"', self.ada.get(f"{path}/rehearse?program=planned").text)
        acts = [{"at_s": 0.0, "kind": "inflow", "target": "", "value": 0.004}]
        started = {}
        for program in ("planned", "as_held"):
            ask = {"start": 0.8, "actions": acts, "from_s": 0.0, "to_s": 900.0, "program": program}
            events = self.ada.json(f"{path}/bench", ask).json()["events"]
            started[program] = float(re.search(r"at ([0-9.]+) m", next(e["text"] for e in events if "starts" in e["text"])).group(1))
        self.assertAlmostEqual(started["planned"], 1.21, delta=0.02)
        self.assertAlmostEqual(started["as_held"], 1.41, delta=0.02)
        kept = self.ada.json(f"{path}/runs", {**ask, "save_key": key(), "note": "late"}).json()["run"]
        self.assertTrue(self.ada.json(f"{path}/runs/{kept}/replay", {}).json()["same"])
        self.assertIn("Ran as it stood at the devices", self.ada.get(f"{path}/rehearse?run={kept}").text)
        for view, level_m in (("card", 1.41), ("rehearse", 1.41), ("rehearse?program=planned", 1.21)):
            drawn = json.loads(re.search(r'id="picture">(.*?)</script>', self.ada.get(f"{path}/{view}").text).group(1))
            self.assertAlmostEqual(next(flag["value"] for flag in drawn["flags"] if flag["id"] == "start_1"), level_m, delta=0.006)
        self.assertIn("1 between plan and devices not settled", self.sign(path).text)
        about = "ebbstone_tray/4 lift=1.41"
        for fields, status in (({"about": about, "reason": "because"}, 422), ({"about": "nothing", "reason": "x" * 20}, 422), ({"about": about, "reason": ""}, 422)):
            self.assertEqual(self.ada.form(f"{path}/waivers", save_key=key(), **fields).status_code, status)
        page = self.ada.form(f"{path}/waivers", save_key=key(), about=about, reason="the owner wants fewer starts at night").text
        self.assertIn("Left so by Ada Wren", page)
        signed = self.sign(path).text
        self.assertIn("Signed by <b>Ada Wren</b>", signed)
        self.assertRegex(signed, r"Left so by waiver: 4 lift, Relay 4 pulls in at: shows 1.41, 1.21 should stand there.")
        self.assertRegex(signed, r"<b>1.41 m</b> <b class=\"small\">differs</b>")
        self.read(path, "4 lift", "1.91")
        self.assertIn("1 between plan and devices not settled", self.sign(path).text)  # another number than the one that was waived
        self.ada.form(f"{path}/waivers", save_key=key(), about=about, reason="")
        self.assertEqual(self.ada.form(f"{path}/waivers", save_key=key(), about=about, reason="").status_code, 422)

    def test_which_family_carries_the_plan(self) -> None:
        path = self.station({**ROUND_WELL, "relays.low_alarm": "12"})
        page = self.ada.get(f"{path}/families").text
        tray, wheel = (page[page.index(name) :].split("</tr>")[0] for name in ("Ebbstone tray", "Wrackline wheel"))
        self.assertIn("Low alarm: none of these devices has a place for it.", tray)
        self.assertIn("Nobody is told that the well runs low.", tray)
        self.assertIn("Another way of control than the survey says", wheel)
        self.assertEqual(self.ada.get(f"{self.station()}/families").status_code, 409)

    def test_what_a_device_only_tells_stands_before_and_after_side_by_side(self) -> None:
        path = self.station({**ROUND_WELL, "control.kind": "pump_controller"})
        self.assertIn("What the devices tell now", self.ada.get(f"{path}/enter").text)
        self.read(path, "hours told", "10412", device="wrackline_wheel", before=True)
        self.assertEqual(self.read(path, "hours told", "10415", device="wrackline_wheel")["match"], "same")
        page = self.ada.get(f"{path}/handover").text
        self.assertRegex(page, r"Hours of all pumps since it was hung</th><td\s+class=\"r num\">10412</td><td class=\"r num\">10415")
        self.assertIn("application/schema+json", self.ada.get("/controllers/schema.json").headers["content-type"])

    def test_what_only_flips_is_seen_before_it_is_flipped(self) -> None:
        path = self.station({**ROUND_WELL, "control.level_by": "floats", "control.floats": "4"})
        body = {"save_key": key(), "units": "metric", "changes": {"keypad.profile": "periwinkle_pegs"}}
        self.assertEqual(self.ada.json(f"{path}/choices", body).status_code, 200)
        self.assertIn("It only flips, and nothing shows how it stands", self.ada.get(f"{path}/enter").text)
        early = self.ada.json(f"{path}/read-back", {"save_key": key(), "code": "left peg", "typed": "goes round"})
        self.assertEqual((early.status_code, "Note first, as found, what it does now" in early.text), (422, True))
        self.assertEqual(self.ada.form(f"{path}/read-all", kind="change", save_key=key()).status_code, 422)
        self.assertIn("it only flips", self.ada.form(f"{path}/read-list", save_key=key(), listed="left peg;goes round").text)
        self.read(path, "left peg", "first leads", device="periwinkle_pegs", before=True)
        self.read(path, "middle peg", "let go", device="periwinkle_pegs", before=True)
        page = self.ada.get(f"{path}/enter").text
        self.assertIn("It stood the other way when found: flip it once", page)
        self.assertIn("It stood so when found: leave it", page)
        self.assertEqual(self.read(path, "left peg", "goes round")["match"], "same")

    def test_many_are_read_back_from_a_list_or_none_of_them(self) -> None:
        path = self.station(ROUND_WELL)
        listed = "code\tshows\n4 lift\t1,21\n\n1 token;wave\n eye full , 3.00\n"
        refused = self.ada.form(f"{path}/read-list", save_key=key(), listed=listed + "9 lift\t1.0")
        self.assertEqual(refused.status_code, 422)
        for words in ("line 6 is &#39;9 lift&#39;, &#39;1.0&#39;: the sheet has no such code", "4 lift\t1,21"):
            self.assertIn(words, refused.text)
        self.assertIn("or it stood before", self.ada.form(f"{path}/read-list", save_key=key(), listed=listed + "4 lift;1.3").text)
        self.assertIn("no line in it", self.ada.form(f"{path}/read-list", save_key=key(), listed=" \n").text)
        self.assertIn("accepted: a code, then a tab", self.ada.form(f"{path}/read-list", save_key=key(), listed="4 lift 1.21").text)
        self.assertIn("0 of 37", self.ada.get(f"{path}/enter").text)
        self.ada.form(f"{path}/read-list", save_key=key(), listed=listed, before="yes")
        self.assertIn('value="1,21"', self.ada.get(f"{path}/enter?found=1").text)
        page = self.ada.form(f"{path}/read-list", save_key=key(), listed=listed).text
        self.assertRegex(page, "eye full, Level at full signal: shows 3.00, [0-9.]+ should stand there|[23] of 37 read back")

    def test_a_protection_is_declined_with_a_reason_and_stands_in_the_record(self) -> None:
        path = self.station(ROUND_WELL)
        self.assertIn("Nobody is told that the well runs low.", self.ada.get(f"{path}/reckon").text)
        for setting, reason, words in (
            ("high_alarm", "the owner sleeps beside it", "in the street"), ("start_1", "no need of any start", "no protection"), ("low_alarm", "no", "accepted: 10 to 500"),
        ):  # fmt: skip
            refused = self.ada.form(f"{path}/declined", setting=setting, reason=reason, save_key=key())
            self.assertEqual((refused.status_code, words in html.unescape(refused.text)), (422, True), setting)
        self.assertIn("data-level=\"low_alarm\"", self.ada.get(f"{path}/reckon").text)
        page = self.ada.form(f"{path}/declined", setting="low_alarm", reason="the owner has no relay left for it", save_key=key()).text
        self.assertIn("the owner has no relay left for it", page)
        self.assertNotIn("data-level=\"low_alarm\"", page)
        self.assertNotIn("Low alarm relay", self.ada.get(f"{path}/prove").text)
        for view, words in (("handover", "Done without: Low alarm"), ("card", "Not protected:"), ("log", "does without"), ("enter", "Type these"), ("rehearse", "Reckon"), ("wiring", "Relay 2: common stop")):
            self.assertIn(words, self.ada.get(f"{path}/{view}").text, view)
        self.ada.form(f"{path}/declined", setting="low_alarm", reason="", save_key=key())
        self.assertIn("data-level=\"low_alarm\"", self.ada.get(f"{path}/reckon").text)
        self.assertNotIn("Done without", self.ada.get(f"{path}/handover").text)
