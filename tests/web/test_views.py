"""The six views by real requests on a real database: the job from survey to signature, without scripts."""

import json
import re
import tempfile
from pathlib import Path

from goodbalance.store import people
from goodbalance.store.people import Role
from goodbalance.web.app import release_of
from tests.web.visits import WebTest, key
from tools.stage.server import Visitor, empty_session
from tools.stage.typed_stations import ROUND_WELL


class WholeJobTest(WebTest):
    def test_from_survey_to_signature(self) -> None:
        path = self.station()
        self.assertIn("still asks for", self.ada.get(f"{path}/reckon").text)
        answer = self.save_facts(path, ROUND_WELL).json()
        self.assertEqual((answer["missing"], answer["problems"]), ([], {}))
        self.assertEqual(answer["progress"]["survey"]["word"], "complete")
        page = self.ada.get(f"{path}/reckon").text
        for words in ("Duty start level", "The pump starts too often", "Time from high alarm to overflow"):
            self.assertIn(words, page)
        self.assertIn("Type these 30", self.ada.get(f"{path}/enter").text)

        read = self.ada.json(f"{path}/read-back", {"save_key": key(), "code": "eye empty", "typed": "0,11"}).json()
        self.assertEqual(read["match"], "same")
        read = self.ada.json(f"{path}/read-back", {"save_key": key(), "code": "4 lift", "typed": "9.99"}).json()
        self.assertEqual(read["match"], "differs")
        self.assertIn("1 differ", self.ada.get(f"{path}/enter").text)

        self.observe(path, "sensor_failure", "no")
        self.assertIn("1 failed", self.ada.get(f"{path}/prove").text)
        self.observe(path, "sensor_failure", "yes")
        page = self.ada.get(f"{path}/prove").text
        self.assertNotIn("1 failed", page)
        self.assertIn("not seen", page)  # the failed try stays in sight

        self.ada.form(f"{path}/open-points", text="Lid hinge on order", save_key=key())
        self.assertIn("1 between plan and devices not settled: 4 lift", self.sign(path, role="technician").text)
        self.ada.json(f"{path}/read-back", {"save_key": key(), "code": "4 lift", "typed": "1.21"})
        self.sign(path, role="technician")
        page = self.ada.get(f"{path}/handover").text
        for words in ("Signed by <b>Ada Wren</b>", "Lid hinge on order", "0.82 m"):
            self.assertIn(words, page)

        self.save_facts(path, {"as_found.start_1_m": "0.95"}, base_seq=99)
        page = self.ada.get(f"{path}/handover").text
        self.assertIn("Changed since Ada Wren signed", page)
        seq = page.split("?at=")[1].split('"')[0]
        frozen = self.ada.get(f"{path}/handover?at={seq}").text
        self.assertIn("0.82 m", frozen)
        self.assertNotIn("0.95 m", frozen)

    def observe(self, path: str, proof: str, seen: str):
        return self.ada.form(f"{path}/observations", proof_id=proof, method="real_water", save_key=key(), seen=seen)

    def test_a_proof_goes_stale_when_its_expected_value_moves(self) -> None:
        path = self.station(ROUND_WELL)
        page = self.ada.get(f"{path}/reckon").text
        start = page.split('data-level="start_1"')[1].split('value="')[1].split('"')[0]
        self.observe(path, "up_start_1", start.replace(".", ","))
        self.assertIn("1 of 28 passed", self.ada.get(f"{path}/prove").text)
        body = {"save_key": key(), "units": "metric", "chosen": {"start_1": float(start) + 0.05}}
        self.assertEqual(self.ada.json(f"{path}/choices", body).status_code, 200)
        page = self.ada.get(f"{path}/prove").text
        self.assertIn("what it proves changed, repeat", page)
        self.assertRegex(page, rf"[Dd]uty start[a-z ]* was {start} m, is {float(start) + 0.05:.2f} m")

    def test_a_proof_goes_stale_when_a_school_turns_what_must_be_seen(self) -> None:
        path = self.station(ROUND_WELL)
        self.observe(path, "power_return", "yes")
        self.assertNotIn("what it proves changed", self.ada.get(f"{path}/prove").text)
        body = {"save_key": key(), "units": "metric", "changes": {"protection.power_return": "by_hand"}}
        self.assertEqual(self.ada.json(f"{path}/choices", body).status_code, 200)
        page = self.ada.get(f"{path}/prove").text
        self.assertIn("what it proves changed, repeat", page)
        self.assertIn("what must be seen was: ", page)

    def test_a_function_shown_with_outputs_held_is_not_proved(self) -> None:
        path = self.station(ROUND_WELL)
        for method, words, passed in (
            ("simulation_outputs_held", "outputs held, prove the contacts", 0),
            ("simulation_outputs_moving", "simulation, outputs moving", 1),
        ):
            self.ada.form(
                f"{path}/observations", proof_id="sensor_failure", method=method, save_key=key(), seen="yes"
            )
            page = self.ada.get(f"{path}/prove").text
            self.assertIn(words, page)
            self.assertIn(f"{passed} of 28 passed", page)

    def test_relay_numbers_are_chosen_beside_the_sheet(self) -> None:
        path = self.station(ROUND_WELL)
        chosen = {"relays.stop": "7", "relays.high_alarm": "1", "next": "enter"}
        page = self.ada.form(f"{path}/survey", save_key=key(), **chosen).text
        for words in ("Type these", "7 drop", "common stop relay"):
            self.assertIn(words, page)
        wires = self.ada.get(f"{path}/wires").text
        self.assertLess(wires.index("<b>relay 1</b>"), wires.index("<b>relay 7</b>"))
        self.assertNotIn("<b>relay 6</b>", wires)
        page = self.ada.form(f"{path}/survey", save_key=key(), **{**chosen, "relays.low_alarm": "1"}).text
        self.assertIn("Relay 1 is chosen twice", page)
        page = self.ada.form(f"{path}/survey", save_key=key(), **{**chosen, "relays.low_alarm": "12"}).text
        self.assertRegex(page, "Low-level alarm: none of these devices has a place for it|Low alarm: none of these devices has a place")

    def test_files_out_and_in(self) -> None:
        path = self.station(ROUND_WELL)
        text = self.ada.get(f"{path}/station.json").text
        self.assertEqual(json.loads(text)["format"], "good-balance-station")
        csv = self.ada.get(f"{path}/settings.csv").text
        self.assertIn("start_1,Duty start level,level,0.8200,", csv)
        with empty_session() as session:
            people.add_person(session, "Ada Wren", Role.LEAD, "quite long enough here")
            session.commit()
        self.ada = Visitor(self.web.address).sign_in("Ada Wren", "quite long enough here")
        answer = self.upload(text.encode())
        self.assertIn("added 2 entries", answer.text)
        again = self.ada.get(f"{str(answer.url.path).removesuffix('/log')}/station.json").text
        self.assertEqual(again, text)
        self.assertIn("Nothing in the file was new", self.upload(text.encode()).text)

    def upload(self, data: bytes):
        files = {"file": ("station.json", data, "application/json")}
        return self.ada.http.post("/stations/import", data={"csrf": self.ada.token}, files=files)

    def test_a_broken_file_stores_nothing(self) -> None:
        text = self.ada.get(f"{self.station(ROUND_WELL)}/station.json").text
        for data, words in (
            (b"hello", "not JSON"),
            (text.replace("1.84", "1.94", 1).encode(), "was changed after it was written"),
            (b"x" * 20_500_000, "accepted: up to 20000000"),
        ):
            answer = self.upload(data)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.text)
        self.assertEqual(self.ada.get("/").text.count("station-card"), 1)
        self.assertEqual(self.upload(b"x" * 22_000_000).status_code, 413)

    def test_a_form_without_script_saves_only_what_changed(self) -> None:
        path = self.station({"well.depth_m": "4,20"})
        self.ada.form(f"{path}/survey", **{"well.depth_m": "4,20", "well.intake_m": "0.18", "save_key": key()})
        log = self.ada.get(f"{path}/log").text
        self.assertEqual(log.count("Wet well, depth, floor to cover:"), 1)
        self.assertEqual(log.count("Wet well, pump intake above floor:"), 1)
        self.save_facts(path, ROUND_WELL)
        self.ada.form(f"{path}/reckon", setting="stop", value="0,70", save_key=key())
        self.assertIn("set by hand", self.ada.get(f"{path}/reckon").text)
        self.ada.form(f"{path}/reckon", setting="stop", value="", save_key=key())
        self.assertNotIn("set by hand", self.ada.get(f"{path}/reckon").text)


class KeptFilesTest(WebTest):
    def test_static_files_are_kept_for_as_long_as_their_address_holds(self) -> None:
        page = self.ada.get(f"{self.station()}/reckon").text
        found = re.findall(r'(?:href|src)="(/static/([0-9a-f]{12})/[^"]+)"', page)
        self.assertGreater(len(found), 3)
        self.assertEqual(len({release for _, release in found}), 1)
        for address, release in found:
            answer = self.ada.get(address)
            self.assertEqual((answer.status_code, answer.headers["cache-control"]), (200, "public, max-age=31536000, immutable"), address)
            for other in (address.replace(release, "0123456789ab"), address.replace(f"{release}/", f"{release}/none-")):
                gone = self.ada.get(other)
                self.assertEqual((gone.status_code, gone.headers["cache-control"]), (404, "no-cache"), other)
            self.assertEqual(self.ada.get(address.replace(f"/{release}", "")).headers["cache-control"], "no-cache")
        self.assertIn('<meta name="description" content="Here every setting stands', page)

    def test_the_address_changes_with_any_file(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "a.js").write_text("1")
            before = release_of([folder])
            self.assertEqual(release_of([folder]), before)
            (folder / "a.js").write_text("2")
            changed = release_of([folder])
            (folder / "a.js").rename(folder / "b.js")
            self.assertEqual(len({before, changed, release_of([folder])}), 3)


class ReckonAndBenchTest(WebTest):
    def test_a_preview_stores_nothing_and_follows_the_flag(self) -> None:
        path = self.station(ROUND_WELL)
        answer = self.ada.json(f"{path}/reckon/preview", {"chosen": {"start_1": 1.20}}).json()
        flag = next(f for f in answer["picture"]["flags"] if f["id"] == "start_1")
        self.assertEqual((flag["value"], flag["chosen"]), (1.2, True))
        self.assertNotIn("set by hand", self.ada.get(f"{path}/reckon").text)

    def test_an_empty_window_says_what_would_open_it(self) -> None:
        path = self.station({**ROUND_WELL, "inlet.invert_m": "0.95"})
        self.assertIn("No room:", self.ada.get(f"{path}/reckon").text)
        found = self.ada.get(f"{path}/openers").json()
        for told in (self.ada.get(f"{path}/reckon?explain=1").text, "".join(found.values())):
            for words in ("One of these would open it", "starts permitted instead of 10.0/h"):
                self.assertIn(words, told)
        page = self.ada.get(f"{path}/enter").text  # everything else goes on
        self.assertIn("type your own there", page)
        self.assertIn("Type these", page)
        chosen = {"save_key": key(), "units": "metric", "chosen": {"start_1": 0.9, "start_2": 1.0, "high_alarm": 1.1}}
        self.ada.json(f"{path}/choices", chosen)
        page = self.ada.get(f"{path}/enter").text
        self.assertRegex(page, r'4 lift</th>.{0,300}Outside its\s+window: Water backs up the sewer.{0,200}<span class="display">0.90')
        for view in ("rehearse", "prove", "handover"):
            self.assertNotIn("open every window", self.ada.get(f"{path}/{view}").text)
        self.assertIn("Outside its window: ", self.ada.get(f"{path}/handover").text)
        seen = self.ada.json(f"{path}/bench", {"start": 0.5, "actions": [], "from_s": 0.0, "to_s": 60.0})
        self.assertEqual(seen.status_code, 200)

    def test_us_units_are_for_the_reader_only(self) -> None:
        path = self.station(ROUND_WELL)
        self.ada.form("/me", units="us")
        page = self.ada.get(f"{path}/survey").text
        self.assertIn('value="6.0367"', page)  # 1.84 m
        self.save_facts(path, {"well.diameter_m": "6"}, base_seq=99, units="us")
        self.assertIn('value="6"', self.ada.get(f"{path}/survey").text)
        self.ada.form("/me", units="metric")
        self.assertIn('value="1.8288"', self.ada.get(f"{path}/survey").text)

    def test_a_station_alike_is_copied_into_what_is_empty(self) -> None:
        """Its well and pumps come over, not its visit, not what was found there; what stands here already stays."""
        there, here, other = self.station(ROUND_WELL), self.station(), self.station(kind="booster")
        number = there.rsplit("/", 1)[1]
        self.assertIn(f'<option value="{number}">', self.ada.get(f"{here}/survey").text)
        self.save_facts(here, {"well.depth_m": "5.5"})
        page = self.ada.form(f"{here}/copy", **{"from": number, "save_key": key()}).text
        answers = self.save_facts(here, {"visit.controls_off": "no"}).json()
        self.assertEqual(answers["missing"], [])
        record = {path: change["text"] for entry in self.ada.get(f"{here}/station.json").json()["record"] if entry["kind"] == "facts" for path, change in entry["body"]["changes"].items()}
        self.assertEqual((record["well.depth_m"], record["well.diameter_m"]), ("5.5", ROUND_WELL["well.diameter_m"]))
        self.assertFalse([path for path in record if path.startswith(("as_found.", "visit.purpose"))])
        self.assertNotIn('id="copy"', page)
        for wrong in ("", "x", "9" * 30, other.rsplit("/", 1)[1], here.rsplit("/", 1)[1]):
            self.assertEqual(self.ada.form(f"{here}/copy", **{"from": wrong}).status_code, 422, wrong)

    def test_any_unit_is_read_as_it_is_typed(self) -> None:
        """In the survey, in Reckon and in a proof: feet and inches are metres, psi is no level, and the page says what was read."""
        path = self.station(ROUND_WELL)
        answer = self.save_facts(path, {"well.diameter_m": "6 ft 6 in", "well.depth_m": "3 psi"}).json()
        self.assertEqual(answer["read_as"], {"well.diameter_m": "Read as 1.981 m."})
        self.assertIn("is in psi, which is no unit of this", answer["problems"]["well.depth_m"])
        self.save_facts(path, {"well.depth_m": ROUND_WELL["well.depth_m"]})
        self.assertIn("6 ft 6 in", self.ada.get(f"{path}/survey").text)
        read = lambda setting, text: self.ada.json(f"{path}/number", {"setting": setting, "text": text})  # noqa: E731
        self.assertAlmostEqual(read("start_1", "3 ft 3 in").json()["value"], 0.9906)
        self.assertIn("not a number", read("start_1", "much").json()["problem"])
        self.assertEqual(read("start_99", "1 m").status_code, 422)
        seen = self.ada.form(f"{path}/observations", proof_id="up_start_1", seen="47 in", method="real_water", save_key=key())
        self.assertEqual(seen.status_code, 200)
        self.assertIn("1.19 m", self.ada.get(f"{path}/prove").text)

    def test_the_bench_runs_keeps_and_replays(self) -> None:
        path = self.station(ROUND_WELL)
        actions = [
            {"at_s": 0.0, "kind": "inflow", "target": "", "value": 0.004},
            {"at_s": 700.3, "kind": "loop_open", "target": "", "value": 1.0},
        ]
        ask = {"start": 0.8, "actions": actions, "from_s": 0.0, "to_s": 0.0}
        for to_s in (100.0, 650.0, 700.3, 900.0):
            answer = self.ada.json(f"{path}/bench", {**ask, "to_s": to_s})
            self.assertEqual(answer.status_code, 200, answer.text)
        seen = answer.json()
        self.assertEqual(seen["rows"][-1][0], 900.0)
        self.assertTrue(any("given up" in event["text"] for event in seen["events"]))
        self.assertEqual([line["runs"] for line in seen["reasons"]], [False, False])
        kept = self.ada.json(f"{path}/runs", {**ask, "to_s": 900.0, "save_key": key(), "note": "loop opens"}).json()
        self.assertTrue(self.ada.json(f"{path}/runs/{kept['run']}/replay", {}).json()["same"])
        self.save_facts(path, {"inlet.invert_m": "2.2"}, base_seq=99)  # the plan moves on, the run does not
        self.assertTrue(self.ada.json(f"{path}/runs/{kept['run']}/replay", {}).json()["same"])
        self.assertIn("loop opens", self.ada.get(f"{path}/rehearse?run={kept['run']}").text)

    def test_the_next_event_is_met_alike_by_a_process_that_knows_the_run_and_one_that_does_not(self) -> None:
        path = self.station(ROUND_WELL)
        rises = {"at_s": 0.0, "kind": "inflow", "target": "", "value": 0.004}
        ask = {"start": 0.8, "name": key(), "actions": [rises], "from_s": 0.0, "to_s": 86400.0, "next_event": True}
        whole = self.ada.json(f"{path}/bench", {**ask, "name": key(), "to_s": 2000.0, "next_event": False}).json()
        times = sorted({event["at_s"] for event in whole["events"] if event["at_s"] > 0.0})
        first = self.ada.json(f"{path}/bench", ask).json()
        self.assertEqual((first["met"], first["to_s"]), (True, times[0]))
        self.assertEqual(first["events"][-1]["at_s"], times[0])
        for name in (ask["name"], key()):  # the second begins anew
            then = self.ada.json(f"{path}/bench", {**ask, "name": name, "from_s": times[0]}).json()
            self.assertEqual((then["met"], then["to_s"], then["events"][0]["at_s"]), (True, times[1], times[1]))
        quiet = self.ada.json(f"{path}/bench", {**ask, "name": key(), "from_s": times[0], "to_s": times[0] + 1.0}).json()
        self.assertEqual((quiet["met"], quiet["to_s"], quiet["events"]), (False, times[0] + 1.0, []))
        turned = self.ada.json(f"{path}/bench", {**ask, "from_s": 90000.0})
        self.assertEqual((turned.status_code, "from_s is 90000" in turned.text), (422, True))

    def test_a_page_sends_only_what_it_has_not_sent_before(self) -> None:
        path = self.station(ROUND_WELL)
        rises = {"at_s": 0.0, "kind": "inflow", "target": "", "value": 0.004}
        breaks, ends = {**rises, "at_s": 700.3, "kind": "loop_open", "value": 1.0}, {**rises, "at_s": 800.0, "value": 0.0}
        ask = {"start": 0.8, "name": key(), "from_s": 0.0}
        whole = self.ada.json(f"{path}/bench", {**ask, "name": "", "actions": [rises, breaks, ends], "to_s": 900.0}).json()
        events = []
        for known, actions, from_s, to_s in ((0, [rises], 0.0, 650.0), (1, [breaks], 650.0, 750.0), (2, [], 750.0, 760.0), (2, [ends], 760.0, 900.0)):
            part = self.ada.json(f"{path}/bench", {**ask, "known": known, "actions": actions, "from_s": from_s, "to_s": to_s}).json()
            events += part["events"]
        self.assertEqual((events, part["rows"][-1]), (whole["events"], whole["rows"][-1]))
        late = self.ada.json(f"{path}/bench", {**ask, "known": 3, "actions": [{**rises, "at_s": 900.0}], "from_s": 900.0, "to_s": 910.0}).json()
        again = self.ada.json(f"{path}/bench", {**ask, "name": key(), "actions": [rises, breaks, ends, {**rises, "at_s": 900.0}], "to_s": 910.0})
        self.assertEqual(late["rows"][-1], again.json()["rows"][-1])  # at the instant of a scan that was made already
        lacking = {**ask, "known": 5, "actions": [], "to_s": 900.0}
        self.assertEqual(self.ada.json(f"{path}/bench", lacking).json(), {"known": 4})
        self.assertEqual(self.ada.json(f"{path}/bench", {**lacking, "name": key()}).json(), {"known": 0})
        early = self.ada.json(f"{path}/bench", {**ask, "known": 3, "actions": [{**ends, "at_s": 5.0}], "to_s": 950.0})
        self.assertIn("in order of time", early.text)
        kept = self.ada.json(f"{path}/runs", {**ask, "actions": [rises, breaks, ends], "to_s": 900.0, "save_key": key()}).json()
        self.assertTrue(self.ada.json(f"{path}/runs/{kept['run']}/replay", {}).json()["same"])

    def test_what_was_clicked_on_a_curve_sheet_is_checked_and_power_is_read_at_the_flows_that_stand_there(self) -> None:
        """Flow 0 to 20 l/s over 600 pixels, power 0 to 5 kW up 400: at 9 l/s half way between 2 and 3 kW less a tenth, 2.45."""
        path = self.station(ROUND_WELL)
        url = f"{path}/curve-picture"
        flow = [{"x": 100, "y": 500, "text": "0"}, {"x": 700, "y": 500, "text": "20"}]
        power = [{"x": 100, "y": 500, "text": "0"}, {"x": 100, "y": 100, "text": "5"}]
        body = {"save_key": key(), "table": "pump_1.curve", "name": "power_w", "units": "metric", "flow": flow, "other": power, "points": [[100, 340], [700, 260]]}
        self.assertEqual(self.ada.json(url, body).status_code, 200)
        facts = [entry for entry in self.ada.get(f"{path}/station.json").json()["record"] if entry["kind"] == "facts"][-1]["body"]["changes"]
        known = {one: float(two) for one, two in ((row, ROUND_WELL.get(f"pump_1.curve.{row}.flow_m3s")) for row in range(6)) if two}
        for row, at in known.items():
            self.assertAlmostEqual(float(facts[f"pump_1.curve.{row}.power_w"]["text"]), 2.0 + at / 20.0, delta=0.006)
        for wrong, words in (
            ({"table": "well.curve"}, "is no pump curve that is asked for"), ({"name": "speed"}, "name"), ({"points": [[1, 2]]}, "points"),
            ({"flow": [{**flow[0], "text": "none"}, flow[1]]}, "'none' is not a number"), ({"other": flow}, "accepted: axes that cross"),
            ({"flow": [flow[0], {**flow[1], "text": "1e-9"}], "points": [[400, 300], [700, 300]]}, "accepted"), ({"flow": [flow[0], flow[0]]}, "0 pixels"),
            ({"points": [[100, 340], [100, 260]]}, "a second time"), ({"points": [["x", 340], [100, 260]]}, "points"),
        ):  # fmt: skip
            answer = self.ada.json(url, {**body, "save_key": key(), **wrong})
            self.assertEqual((answer.status_code, words in answer.text), (422, True), (wrong, answer.text[:300]))

    def test_the_bench_refuses_nonsense(self) -> None:
        path = self.station(ROUND_WELL)
        ask = {"start": 0.8, "actions": [], "from_s": 0.0, "to_s": 60.0}
        for change in (
            {"to_s": -1.0}, {"to_s": 1e9}, {"start": 50.0}, {"covers": 999}, {"extra": 1},
            {"actions": [{"at_s": 0.0, "kind": "explode"}]}, {"actions": [{"at_s": 5.0, "kind": "power"}, {"at_s": 1.0, "kind": "power"}]},
        ):  # fmt: skip
            answer = self.ada.json(f"{path}/bench", {**ask, **change})
            self.assertIn(answer.status_code, (404, 422), change)
            self.assertTrue(answer.json()["error"])
