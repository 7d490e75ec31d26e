"""What a record may be believed for: files that speak for nobody here, signatures of what was seen, one station's trouble."""

import json
import re
from datetime import UTC, datetime

from sqlalchemy import text

from goodbalance.core.record.chain import Kind, seal
from goodbalance.exchange.station_file import read_station, write_station
from goodbalance.store import records, verify
from goodbalance.store.database import open_engine, session_maker
from tests.web.visits import PASSWORD, WebTest, key
from tools.stage.server import Visitor, engine, server
from tools.stage.typed_stations import ROUND_WELL


class FileTest(WebTest):
    def exported(self) -> list:
        path = self.station(ROUND_WELL)
        self.sign(path, "Ada Wren")
        entries = read_station(self.ada.get(f"{path}/station.json").content)
        self.ada.form(f"{path}/archive")
        self.assertEqual(self.ada.form(f"{path}/remove", name="Test pit", password=PASSWORD).status_code, 200)
        with session_maker(engine())() as session:  # as on another server: nothing of it is here
            session.execute(text("DELETE FROM station"))
            session.commit()
        return entries

    def sealed(self, entries: list, *more: tuple[Kind, dict]) -> bytes:
        """The file with more entries, sealed as anybody can."""
        for kind, body in more:
            last = entries[-1]
            entries = [*entries, seal(last.seq + 1, kind, body, "Ada Wren", "2026-10-01T08:00:00.000Z", last.hash)]
        return write_station(entries).encode()

    def test_a_file_speaks_for_nobody_here(self) -> None:
        """A technician brings a file with a lead's signature in it: it is shown as given elsewhere, and counts for none."""
        entries = self.exported()
        bo = Visitor(self.web.address).sign_in("Bo Lund", PASSWORD)
        answer = bo.http.post("/stations/import", data={"csrf": bo.token}, files={"file": ("a.json", self.sealed(entries))})
        self.assertEqual(answer.status_code, 200)
        path = answer.url.path.removesuffix("/log")
        self.assertIn("Ada Wren (from a file, brought in by Bo Lund)", answer.text)
        page = self.ada.get(f"{path}/handover").text
        self.assertIn("Signed elsewhere by Ada Wren", page)
        self.assertIn("signed elsewhere", self.ada.get("/").text)
        self.assertNotIn("Signed by <b>", page)
        self.assertIn("Signed by <b>Ada Wren</b>", self.sign(path).text)

    def test_files_pass_the_bounds_of_the_forms(self) -> None:
        entries = self.exported()
        run = {"covers": 2, "until_s": 60.0, "actions": [], "digest": "0" * 64}
        stretch = {"from_m": 1.0, "to_m": 1.1, "time_s": 1e-300}
        for kind, body, words in (
            (Kind.CHOICES, {"chosen": {"start_1": 1e308}}, "less than or equal to 1000000000"),
            (Kind.DRAWDOWN, {"pump": 1, "runs": [{"before": stretch, "pumping": stretch}]}, "greater than or equal to 0.1"),
            (Kind.REHEARSAL, {**run, "start_pa": 1e5}, "says start_level_m, and only that"),
            (Kind.REHEARSAL, {**run, "start_level_m": 1.0, "until_s": 1e12}, "less than or equal to 691200"),
            (Kind.STEP_TEST, {"name": "a", "text": "b", "flow_m3s": 0.001, "pumps": 1, "range_pa": 1e6,
                              "model": {"gain": 1.0, "time_s": 1e308, "dead_s": 0.0, "fit": 0.9}}, "less than or equal to 100000"),
            (Kind.OPEN_POINT, {"text": "half \ud800"}, "half a letter"),
        ):  # fmt: skip
            with self.subTest(kind=kind, words=words):
                self.assertIn(words, self.upload_refused(self.forged(entries, kind, body)))
        moved = json.loads(self.sealed(entries))
        moved["record"][0]["at"] = "yesterday, perhaps"
        self.assertIn("accepted: UTC as", self.upload_refused(json.dumps(moved).encode()))

    def forged(self, entries: list, kind: Kind, body: dict) -> bytes:
        whole = json.loads(self.sealed(entries))
        last = entries[-1]
        made = seal(last.seq + 1, kind, body, "Ada Wren", "2026-10-01T08:00:00.000Z", last.hash)
        parts = ("seq", "kind", "author", "at", "body", "previous", "hash")
        whole["record"].append({part: getattr(made, part) for part in parts})
        return json.dumps(whole).encode()

    def upload_refused(self, data: bytes) -> str:
        files = {"file": ("a.json", data)}
        answer = self.ada.http.post("/stations/import", data={"csrf": self.ada.token}, files=files)
        self.assertEqual(answer.status_code, 422)
        return answer.text


class SigningTest(WebTest):
    def test_only_what_was_seen_is_signed_and_only_once(self) -> None:
        path = self.station(ROUND_WELL)
        bo = Visitor(self.web.address).sign_in("Bo Lund", PASSWORD)
        seen = self.seen(path)
        bo.form(f"{path}/open-points", text="Hatch loose", save_key=key())
        answer = self.sign(path, seen=seen)
        self.assertEqual(answer.status_code, 409)
        for words in ("nothing was signed", "Bo Lund: open point", "Hatch loose"):
            self.assertIn(words, answer.text)
        again = self.seen(path)
        fields = {"name": "Ada Wren", "role": "lead", "save_key": key(), "seen": again, "password": PASSWORD}
        for _ in range(2):  # sent twice by a shaky network: once
            self.assertIn("Signed by <b>Ada Wren</b>", self.ada.form(f"{path}/sign", **fields).text)
        other = self.sign(path, "Bo Lund", "technician", bo, again)  # the same page, signed by another meanwhile
        self.assertEqual(other.status_code, 409)
        kinds = [entry["kind"] for entry in self.ada.get(f"{path}/station.json").json()["record"]]
        self.assertEqual(kinds.count("signature"), 1)

    def test_a_point_is_closed_once_and_the_second_reads_what_the_first_wrote(self) -> None:
        path = self.station(ROUND_WELL)
        bo = Visitor(self.web.address).sign_in("Bo Lund", PASSWORD)
        bo.form(f"{path}/open-points", text="Hatch loose", save_key=key())
        mine = {"how": "new hinge", "save_key": key()}
        for _ in range(2):  # the second time by a shaky network
            self.assertEqual(self.ada.form(f"{path}/open-points/3", **mine).status_code, 200)
        late = bo.form(f"{path}/open-points/3", how="welded shut", save_key=key())
        self.assertEqual(late.status_code, 409)
        for words in ("Ada Wren has closed", "new hinge", "welded shut"):
            self.assertIn(words, late.text)
        self.assertEqual(bo.form(f"{path}/open-points/99", how="x", save_key=key()).status_code, 404)

    def test_a_signature_counts_what_was_done(self) -> None:
        path = self.station(ROUND_WELL)
        page = self.sign(path).text
        self.assertRegex(page, "0 of 37 numbers read back as they should stand, 0 of 28 proofs passed on site, no open points")


class TamperTest(WebTest):
    def test_a_row_changed_in_the_database_is_told_on_every_view_and_by_the_check(self) -> None:
        with session_maker(engine())() as session:
            made = records.create_station(session, "Quiet pit", "Yard", "lift", "Ada Wren")
            changes = {path: {"text": told, "units": "metric"} for path, told in ROUND_WELL.items()}
            records.append(session, made.id, Kind.FACTS, {"changes": changes}, "Ada Wren")
            session.execute(text("UPDATE entry SET author = 'Bo Lund' WHERE station_id = :id AND seq = 2"), {"id": made.id})
            session.commit()
            self.assertEqual(
                [(row.name, why) for row, why in verify.broken_records(session)],
                [("Quiet pit", "entry 2 of the record was changed after it was written")],
            )
        for view in ("survey", "reckon", "rehearse", "enter", "prove", "handover", "log"):
            page = self.ada.get(f"/stations/{made.id}/{view}").text
            self.assertIn("entry 2 of the record was changed after it was written", page, view)
        self.assertIn("record does not hold", self.ada.get("/").text)

    def test_a_change_after_somebody_has_read_it_shows_at_the_next_look_and_is_gone_when_it_is_put_back(self) -> None:
        path = self.station(ROUND_WELL)
        number = int(path.rpartition("/")[2])
        self.assertNotIn("does not hold", self.ada.get(f"{path}/survey").text)
        for author, told in (("Bo Lund", True), ("Ada Wren", False)):
            with session_maker(engine())() as session:
                session.execute(text("UPDATE entry SET author = :who WHERE station_id = :id AND seq = 2"), {"who": author, "id": number})
                session.commit()
            for view in ("survey", "log"):
                self.assertEqual("This record does not hold" in self.ada.get(f"{path}/{view}").text, told, (author, view))

    def test_a_chain_written_anew_by_hand_lacks_the_seal_and_a_new_key_seals_only_what_holds(self) -> None:
        good = self.station(ROUND_WELL)
        with session_maker(engine())() as session:
            forged = records.create_station(session, "Loud pit", "Yard", "lift", "Ada Wren")
            first = records.entries(session, forged.id)[0]
            again = seal(1, Kind.CREATED, {**first.body, "place": "Elsewhere"}, "Bo Lund", first.at, first.previous)
            change = {"body": json.dumps(again.body), "author": again.author, "hash": again.hash, "id": forged.id}
            session.execute(text("UPDATE entry SET body = :body, author = :author, hash = :hash WHERE station_id = :id"), change)
            session.execute(text("UPDATE station SET head_hash = :hash WHERE id = :id"), {"hash": again.hash, "id": forged.id})
            session.commit()
        told = "does not bear the seal of this installation"
        self.assertIn(told, self.ada.get(f"/stations/{forged.id}/log").text)
        self.assertNotIn(told, self.ada.get(f"{good}/log").text)
        newer = open_engine(server().url, (b"newer seal", b"test seal"))
        with session_maker(newer)() as session:
            self.assertEqual(verify.seal_all(session, first=False), 1)
            self.assertEqual([row.name for row, _ in verify.broken_records(session)], ["Loud pit"])
            session.rollback()
        newer.dispose()


class ListTest(WebTest):
    def test_one_station_s_trouble_stays_its_own_and_it_can_be_put_away_and_removed(self) -> None:
        good = self.station(ROUND_WELL)
        with session_maker(engine())() as session:
            bad_id = records.create_station(session, "Test pit", "Yard", "lift", "Ada Wren").id
            session.execute(text("UPDATE entry SET body = '{}' WHERE station_id = :id"), {"id": bad_id})
            session.commit()
        bad = f"/stations/{bad_id}"
        front = self.ada.get("/").text
        self.assertIn("complete", front)
        self.assertIn("cannot be read", front)
        bo = Visitor(self.web.address).sign_in("Bo Lund", PASSWORD)
        self.assertEqual(self.ada.form(f"{bad}/remove", name="Test pit").status_code, 409)  # first put away
        self.assertEqual(bo.form(f"{bad}/archive").status_code, 200)
        self.assertNotIn("cannot be read", self.ada.get("/").text)
        self.assertEqual(bo.form(f"{bad}/remove", name="Test pit").status_code, 403)
        self.assertEqual(self.ada.form(f"{bad}/remove", name="Best pit").status_code, 422)
        self.assertIn("removed by Ada Wren", self.ada.form(f"{bad}/remove", name="Test pit", password=PASSWORD).text)
        self.assertIn("was removed by Ada Wren", self.ada.get(f"{bad}/log").text)
        self.assertEqual(self.save_facts(bad, {"well.depth_m": "4"}).status_code, 404)
        self.assertEqual(self.ada.get(f"{good}/reckon").status_code, 200)

    def test_a_removed_station_does_not_come_back_by_file(self) -> None:
        path = self.station(ROUND_WELL)
        data = self.ada.get(f"{path}/station.json").content
        self.ada.form(f"{path}/archive")
        self.ada.form(f"{path}/remove", name="Test pit", password=PASSWORD)
        answer = self.ada.http.post("/stations/import", data={"csrf": self.ada.token}, files={"file": ("a.json", data)})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("was removed here by Ada Wren", answer.text)

    def test_pages_and_search(self) -> None:
        with session_maker(engine())() as session:
            for number in range(53):
                records.create_station(session, f"Pit {number:02}", "North" if number % 2 else "South 100%", "lift", "Ada Wren")
            session.commit()
        for query, cards, words in (
            ("", 50, "page 1 of 2"), ("?page=2", 3, "page 2 of 2"), ("?q=pit+07", 1, "Pit 07"), ("?q=north&page=1", 26, "North"),
            ("?q=100%25", 27, "South"), ("?q=_", 0, "No station has"), ("?page=99", 0, "page 99"),
        ):  # fmt: skip
            page = self.ada.get(f"/{query}").text
            self.assertEqual((page.count('class="station-card"'), words in page), (cards, True), query)


class HomeTest(WebTest):
    def cards(self, query: str = "") -> list[str]:
        return [card.split("</h2>")[0].split("<h2>")[1] for card in self.ada.get(f"/{query}").text.split('class="station-card"')[1:]]

    def test_what_needs_somebody_stands_first_with_its_next_step(self) -> None:
        """A jumper comes before a failed proof, that before the next step of a survey; orders, kinds and the pressing ones alone."""
        names = {"Jumper": ROUND_WELL, "Failed": ROUND_WELL, "Begun": None, "Ready": ROUND_WELL}
        paths = {name: self.station(facts, name=name, place="East" if name == "Begun" else "West") for name, facts in names.items()}
        self.ada.form(f"{paths['Jumper']}/open-points", text="Bridge over the high float", temporary="jumper", save_key=key())
        self.ada.form(f"{paths['Failed']}/observations", proof_id="sensor_failure", method="real_water", save_key=key(), seen="no")
        self.assertEqual(self.cards()[:2], ["Jumper", "Failed"])
        page = self.ada.get("/").text
        for words in ("1 jumper or temporary setting still in", "1 proof failed", "Go on with the survey: ", f'{paths["Failed"]}/prove">1 proof failed'):
            self.assertIn(words, page)
        self.assertEqual(self.cards("?pressing=1"), ["Jumper", "Failed"])
        self.assertEqual(self.cards("?order=site")[0], "Begun")
        self.assertIn('class="site">West', self.ada.get("/?order=site").text)
        self.assertEqual(self.cards("?order=name"), ["Begun", "Failed", "Jumper", "Ready"])
        self.assertEqual(self.cards("?kind=booster"), [])
        self.assertEqual(len(self.cards("?order=nonsense&kind=nonsense")), 4)
        self.ada.form(f"{paths['Failed']}/observations", proof_id="sensor_failure", method="real_water", save_key=key(), seen="yes")
        self.assertEqual(self.cards("?pressing=1"), ["Jumper"])

    def test_an_empty_list_offers_examples_of_ours_that_lead_to_a_sound_plan(self) -> None:
        page = self.ada.get("/").text
        self.assertIn("Begin with one of ours", page)
        offered = re.findall(r'action="(/examples/[a-z_]+)"', page)
        self.assertEqual(len(offered), 3)
        for address in offered:
            plan = self.ada.form(address)
            self.assertTrue(str(plan.url.path).endswith("/reckon"), address)
            self.assertIn("Reckon</span>", plan.text)
            self.assertIn("all inside", plan.text, address)
        self.assertNotIn("Begin with one of ours", self.ada.get("/").text)
        self.assertEqual(self.ada.form("/examples/none").status_code, 404)

    def test_each_view_says_what_it_is_for_until_it_is_put_away(self) -> None:
        path = self.station(ROUND_WELL)
        told = lambda view: self.ada.get(f"{path}/{view}").text.split("</head>")[1]  # noqa: E731
        for view, words in (("survey", "you note what is there"), ("reckon", "in its window between two harms"), ("rehearse", "runs before you touch the real one"), ("enter", "what you type at the keypad"), ("prove", "made to happen on site"), ("handover", "what was found and what is left")):
            self.assertIn(words, told(view))
        self.ada.form("/me", dismiss="reckon", then=f"{path}/reckon")
        self.assertNotIn("in its window between two harms", told("reckon"))
        self.assertIn("you note what is there", told("survey"))
        self.assertEqual(self.ada.form("/me", dismiss="everything").status_code, 422)
        self.ada.form("/me", dismiss="none")
        self.assertIn("in its window between two harms", told("reckon"))

    def test_the_record_speaks_in_words_and_is_found_by_kind_person_and_day(self) -> None:
        path = self.station(ROUND_WELL)
        self.ada.json(f"{path}/choices", {"save_key": key(), "units": "metric", "chosen": {"start_1": 1.23}})
        self.ada.form(f"{path}/observations", proof_id="up_start_1", method="real_water", save_key=key(), seen="1.2")
        said = self.ada.get(f"{path}/log").text
        for words in ("inside diameter:", "Duty start level:", "1.23 m"):
            self.assertIn(words, said)
        for ids in ("well.diameter_m", "start_1<", "up_start_1"):
            self.assertNotIn(ids, said)
        only = self.ada.get(f"{path}/log?kind=observation").text
        self.assertEqual((only.count("proof <b>"), "inside diameter" in only), (1, False))
        today = datetime.now(UTC).date().isoformat()
        self.assertIn("Duty start level:", self.ada.get(f"{path}/log?by=Ada+Wren&day={today}").text)
        self.assertIn("Nothing of that", self.ada.get(f"{path}/log?by=Ada+Wren&day=2020-01-01").text)
        self.assertIn("Nothing of that", self.ada.get(f"{path}/log?by=Nobody%25").text)
        self.assertIn("accepted: a day as in", self.ada.get(f"{path}/log?day=%25").text)


class ConflictTest(WebTest):
    def save(self, path: str, text: str, was: str, units: str = "metric") -> dict:
        body = {"save_key": key(), "base_seq": 10**6, "units": units, "changes": {"well.depth_m": text}, "was": {"well.depth_m": was}}
        return self.ada.json(f"{path}/facts", body).json()

    def test_a_fact_changed_meanwhile_is_shown_beside_and_not_overwritten(self) -> None:
        path = self.station(ROUND_WELL)  # depth 4.26
        self.assertEqual(self.save(path, "4.3", "4.26")["conflicts"], {})
        there = self.save(path, "4.4", "4.26")["conflicts"]["well.depth_m"]  # another tab of the same person
        self.assertEqual((there["text"], there["author"], there["mine"]), ("4.3", "Ada Wren", "4.4"))
        self.assertEqual(self.save(path, "4.3", "4.26")["conflicts"], {})  # the same text: nothing to decide
        self.assertEqual(self.save(path, "4.4", "4.3")["conflicts"], {})  # overruled, now that it is known
        # the same digits in feet are another depth: 4.4 ft, which this metric page would show as 1.3411
        self.assertEqual(self.save(path, "4.4", "14.436", "us")["conflicts"], {})
        self.assertEqual(self.save(path, "4.5", "4.4")["conflicts"]["well.depth_m"]["text"], "1.3411")

    def test_a_page_without_script_overwrites_nothing_it_had_not_shown(self) -> None:
        path = self.station({"well.depth_m": "4.2", "well.intake_m": "0.2"})
        seq = self.ada.get(f"{path}/survey").text.split('name="base_seq" value="')[1].split('"')[0]
        self.save(path, "4.3", "4.2")
        shown = {"well.depth_m": "4.2", "well.intake_m": "0.25", "save_key": key(), "base_seq": seq}
        page = self.ada.form(f"{path}/survey", **shown)  # depth as it stood on the page: not a change
        self.assertEqual(page.status_code, 200)
        self.assertIn('value="4.3"', page.text)
        self.assertIn('value="0.25"', page.text)
        page = self.ada.form(f"{path}/survey", **{**shown, "well.depth_m": "4.9"})
        self.assertEqual(page.status_code, 409)
        self.assertIn('you typed "4.9"', page.text)

    def test_choices_and_settings_are_not_overwritten_either(self) -> None:
        path = self.station(ROUND_WELL)

        def choose(**body) -> list[dict]:
            return self.ada.json(f"{path}/choices", {"save_key": key(), "units": "metric", **body}).json()["conflicts"]

        self.assertEqual(choose(chosen={"start_1": 1.25}, was={"start_1": None}), [])
        (found,) = choose(chosen={"start_1": 1.30}, was={"start_1": None})
        self.assertEqual((found["theirs"], found["mine"]), ("1.25 m", "1.30 m"))
        self.assertEqual(choose(**found["again"]), [])
        way = "schools.alternation"
        self.assertEqual(choose(changes={way: "each_stop"}, was={way: "all_stopped"}), [])
        (found,) = choose(changes={way: "fixed"}, was={way: "all_stopped"})
        self.assertEqual((found["theirs"], found["by"]), ("each_stop", "Ada Wren"))
        answer = self.ada.form(f"{path}/reckon", setting="start_1", value="1.4", save_key=key(), base_seq="2")
        self.assertEqual(answer.status_code, 409)
        self.assertIn("Duty start level is 1.30 m since you loaded the page; you set 1.40 m", answer.text)
