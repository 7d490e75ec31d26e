"""The six views by real requests on a real database: the job from survey to signature, without scripts."""

import json
import unittest
import uuid

from goodbalance.demo.kestrel_point import SLIPWAY
from goodbalance.store import people
from goodbalance.store.people import Role
from tests.support import Visitor, WebServer, empty_session


def key() -> str:
    return uuid.uuid4().hex


class WebTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.web = cls.enterClassContext(WebServer())

    def setUp(self) -> None:
        with empty_session() as session:
            people.add_person(session, "Ada Wren", Role.LEAD, "long enough")
            people.add_person(session, "Bo Lund", Role.TECHNICIAN, "long enough")
            people.add_person(session, "Cy Rook", Role.READER, "long enough")
            session.commit()
        self.ada = Visitor(self.web.address).sign_in("Ada Wren", "long enough")

    def station(self, facts: dict[str, str] | None = None) -> str:
        """A new station with these facts; its address."""
        answer = self.ada.form("/stations", name="Test pit", place="Yard", kind="lift")
        path = str(answer.url.path).removesuffix("/survey")
        if facts:
            self.save_facts(path, facts)
        return path

    def save_facts(
        self, path: str, facts: dict[str, str], who: Visitor | None = None, base_seq: int = 0, units: str = "metric"
    ):
        body = {"save_key": key(), "base_seq": base_seq, "units": units, "changes": facts}
        return (who or self.ada).json(f"{path}/facts", body)


class WholeJobTest(WebTest):
    def test_from_survey_to_signature(self) -> None:
        path = self.station()
        self.assertIn("still asks for", self.ada.get(f"{path}/reckon").text)
        answer = self.save_facts(path, SLIPWAY).json()
        self.assertEqual((answer["missing"], answer["problems"]), ([], {}))
        self.assertEqual(answer["progress"]["survey"]["word"], "complete")
        page = self.ada.get(f"{path}/reckon").text
        for words in ("Duty start level", "The pump starts too often", "Time from high alarm to overflow"):
            self.assertIn(words, page)
        self.assertIn("Type these 23", self.ada.get(f"{path}/enter").text)

        read = self.ada.json(f"{path}/read-back", {"save_key": key(), "code": "in 3", "typed": "0,1"}).json()
        self.assertEqual(read["match"], "same")
        read = self.ada.json(f"{path}/read-back", {"save_key": key(), "code": "2 b", "typed": "9.99"}).json()
        self.assertEqual(read["match"], "differs")
        self.assertIn("1 differ", self.ada.get(f"{path}/enter").text)

        self.observe(path, "sensor_failure", "no")
        self.assertIn("1 failed", self.ada.get(f"{path}/prove").text)
        self.observe(path, "sensor_failure", "yes")
        page = self.ada.get(f"{path}/prove").text
        self.assertNotIn("1 failed", page)
        self.assertIn("not seen", page)  # the failed try stays in sight

        self.ada.form(f"{path}/open-points", text="Lid hinge on order", save_key=key())
        self.ada.form(f"{path}/sign", name="Ada Wren", role="technician", save_key=key())
        page = self.ada.get(f"{path}/handover").text
        for words in ("Signed by <b>Ada Wren</b>", "Lid hinge on order", "0.80 m"):
            self.assertIn(words, page)

        self.save_facts(path, {"as_found.start_1_m": "0.95"}, base_seq=99)
        page = self.ada.get(f"{path}/handover").text
        self.assertIn("Changed since Ada Wren signed", page)
        seq = page.split("?at=")[1].split('"')[0]
        frozen = self.ada.get(f"{path}/handover?at={seq}").text
        self.assertIn("0.80 m", frozen)
        self.assertNotIn("0.95 m", frozen)

    def observe(self, path: str, proof: str, seen: str):
        return self.ada.form(f"{path}/observations", proof_id=proof, method="real_water", save_key=key(), seen=seen)

    def test_a_proof_goes_stale_when_its_expected_value_moves(self) -> None:
        path = self.station(SLIPWAY)
        page = self.ada.get(f"{path}/reckon").text
        start = page.split('data-level="start_1"')[1].split('value="')[1].split('"')[0]
        self.observe(path, "up_start_1", start.replace(".", ","))
        self.assertIn("1 of 17 passed", self.ada.get(f"{path}/prove").text)
        body = {"save_key": key(), "units": "metric", "levels_m": {"start_1": float(start) + 0.05}}
        self.assertEqual(self.ada.json(f"{path}/choices", body).status_code, 200)
        self.assertIn("expected value changed, repeat", self.ada.get(f"{path}/prove").text)

    def test_files_out_and_in(self) -> None:
        path = self.station(SLIPWAY)
        text = self.ada.get(f"{path}/station.json").text
        self.assertEqual(json.loads(text)["format"], "good-balance-station")
        csv = self.ada.get(f"{path}/settings.csv").text
        self.assertIn("start_1,Duty start level,0.8000,", csv)
        with empty_session() as session:
            people.add_person(session, "Ada Wren", Role.LEAD, "long enough")
            session.commit()
        self.ada = Visitor(self.web.address).sign_in("Ada Wren", "long enough")
        answer = self.upload(text.encode())
        self.assertIn("added 2 entries", answer.text)
        again = self.ada.get(f"{str(answer.url.path).removesuffix('/log')}/station.json").text
        self.assertEqual(again, text)
        self.assertIn("Nothing in the file was new", self.upload(text.encode()).text)

    def upload(self, data: bytes):
        files = {"file": ("station.json", data, "application/json")}
        return self.ada.http.post("/stations/import", data={"csrf": self.ada.token}, files=files)

    def test_a_broken_file_stores_nothing(self) -> None:
        text = self.ada.get(f"{self.station(SLIPWAY)}/station.json").text
        for data, words in (
            (b"hello", "not JSON"),
            (text.replace("1.80", "1.90", 1).encode(), "was changed after it was written"),
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
        self.assertEqual(log.count("well.depth_m"), 1)
        self.assertEqual(log.count("well.intake_m"), 1)
        self.save_facts(path, SLIPWAY)
        self.ada.form(f"{path}/reckon", setting="stop", value="0,70", save_key=key())
        self.assertIn("set by hand", self.ada.get(f"{path}/reckon").text)
        self.ada.form(f"{path}/reckon", setting="stop", value="", save_key=key())
        self.assertNotIn("set by hand", self.ada.get(f"{path}/reckon").text)


class ReckonAndBenchTest(WebTest):
    def test_a_preview_stores_nothing_and_follows_the_flag(self) -> None:
        path = self.station(SLIPWAY)
        answer = self.ada.json(f"{path}/reckon/preview", {"levels_m": {"start_1": 1.20}}).json()
        flag = next(f for f in answer["picture"]["flags"] if f["id"] == "start_1")
        self.assertEqual((flag["level_m"], flag["chosen"]), (1.2, True))
        self.assertNotIn("set by hand", self.ada.get(f"{path}/reckon").text)

    def test_an_empty_window_says_what_would_open_it(self) -> None:
        path = self.station({**SLIPWAY, "inlet.invert_m": "0.95"})
        page = self.ada.get(f"{path}/reckon").text
        for words in ("No room:", "One of these would open it", "starts permitted instead of 10.0/h"):
            self.assertIn(words, page)
        self.assertIn("A window is empty", self.ada.get(f"{path}/enter").text)

    def test_us_units_are_for_the_reader_only(self) -> None:
        path = self.station(SLIPWAY)
        self.ada.form("/me", units="us")
        page = self.ada.get(f"{path}/survey").text
        self.assertIn('value="5.9055"', page)  # 1.80 m
        self.save_facts(path, {"well.diameter_m": "6"}, base_seq=99, units="us")
        self.assertIn('value="6"', self.ada.get(f"{path}/survey").text)
        self.ada.form("/me", units="metric")
        self.assertIn('value="1.8288"', self.ada.get(f"{path}/survey").text)

    def test_the_bench_runs_keeps_and_replays(self) -> None:
        path = self.station(SLIPWAY)
        actions = [
            {"at_s": 0.0, "kind": "inflow", "target": "", "value": 0.004},
            {"at_s": 700.3, "kind": "loop_open", "target": "", "value": 1.0},
        ]
        ask = {"start_level_m": 0.8, "actions": actions, "from_s": 0.0, "to_s": 0.0}
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

    def test_the_bench_refuses_nonsense(self) -> None:
        path = self.station(SLIPWAY)
        ask = {"start_level_m": 0.8, "actions": [], "from_s": 0.0, "to_s": 60.0}
        for change in (
            {"to_s": -1.0}, {"to_s": 1e9}, {"start_level_m": 50.0}, {"covers": 999}, {"extra": 1},
            {"actions": [{"at_s": 0.0, "kind": "explode"}]}, {"actions": [{"at_s": 5.0, "kind": "power"}, {"at_s": 1.0, "kind": "power"}]},
        ):  # fmt: skip
            answer = self.ada.json(f"{path}/bench", {**ask, **change})
            self.assertIn(answer.status_code, (404, 422), change)
            self.assertTrue(answer.json()["error"])


class BenchProofTest(WebTest):
    def test_the_bench_proves_the_plan_but_the_site_still_has_to(self) -> None:
        path = self.station(SLIPWAY)
        self.ada.form(f"{path}/bench-proofs", save_key=key())
        page = self.ada.get(f"{path}/prove").text
        self.assertEqual(page.count("bench only, prove on site"), 17)
        self.assertIn("0 of 17 passed", page)
        self.ada.form(
            f"{path}/observations", proof_id="sensor_failure", method="real_water", save_key=key(), seen="yes"
        )
        self.ada.form(f"{path}/bench-proofs", save_key=key())  # what is proved on site stays so
        self.assertIn("1 of 17 passed", self.ada.get(f"{path}/prove").text)

    def test_a_wrong_number_read_back_fails_on_the_bench(self) -> None:
        path = self.station(SLIPWAY)
        self.ada.json(f"{path}/read-back", {"save_key": key(), "code": "4 b", "typed": "3.58"})  # not 1.58
        self.ada.form(f"{path}/bench-proofs", save_key=key())
        page = self.ada.get(f"{path}/prove").text
        self.assertIn("3 failed", page)  # on the rise it never comes; on the fall it lets go too high or never clears
        self.assertIn("never came", page)
        self.assertIn("with 1 number as read back", page)

    def test_a_week_is_summed_up_day_by_day(self) -> None:
        path = self.station(SLIPWAY)
        for days in (1, 2):
            answer = self.ada.json(f"{path}/week", {"days": days}).json()
            self.assertIn(f"{days} days:", answer["html"])
        self.assertIn("No harm seen", answer["html"])
        self.assertEqual(self.ada.json(f"{path}/week", {"days": 8}).status_code, 422)
        self.assertEqual(self.ada.json(f"{self.station()}/week", {"days": 1}).status_code, 409)


class PeopleTest(WebTest):
    def test_two_people_see_each_other_instead_of_overwriting(self) -> None:
        path = self.station({"well.depth_m": "4.0"})
        bo = Visitor(self.web.address).sign_in("Bo Lund", "long enough")
        bo.get(f"{path}/survey")
        self.save_facts(path, {"well.depth_m": "4.2"}, base_seq=2)
        answer = self.save_facts(path, {"well.depth_m": "4.5", "well.intake_m": "0.2"}, who=bo, base_seq=2).json()
        self.assertEqual(answer["conflicts"]["well.depth_m"], {"text": "4.2", "author": "Ada Wren", "mine": "4.5"})
        page = bo.get(f"{path}/survey").text
        self.assertIn('value="4.2"', page)  # hers stands
        self.assertIn('value="0.2"', page)  # his other field was saved
        news = self.ada.get(f"{path}/since?seq=3", headers={"Accept": "application/json"}).json()
        self.assertEqual(news["others"], ["Bo Lund"])

    def test_a_repeated_save_counts_once(self) -> None:
        path = self.station()
        body = {"save_key": key(), "base_seq": 1, "units": "metric", "changes": {"well.depth_m": "4"}}
        seqs = [self.ada.json(f"{path}/facts", body).json()["seq"] for _ in range(3)]
        self.assertEqual(seqs, [2, 2, 2])

    def test_a_reader_reads(self) -> None:
        path = self.station(SLIPWAY)
        cy = Visitor(self.web.address).sign_in("Cy Rook", "long enough")
        self.assertEqual(cy.get(f"{path}/reckon").status_code, 200)
        self.assertEqual(self.save_facts(path, {"well.depth_m": "4"}, who=cy).status_code, 403)
        self.assertEqual(cy.form("/people", name="Di", password="long enough", role="lead").status_code, 403)

    def test_nothing_is_shown_or_written_without_signing_in_or_token(self) -> None:
        path = self.station(SLIPWAY)
        stranger = Visitor(self.web.address)
        self.assertIn("Sign in", stranger.get(f"{path}/reckon").text)
        self.assertEqual(stranger.get(f"{path}/station.json", headers={"Accept": "application/json"}).status_code, 401)
        self.ada.token = "forged"
        self.assertEqual(self.save_facts(path, {"well.depth_m": "4"}).status_code, 403)
        self.assertEqual(self.ada.form("/stations", name="x", kind="lift").status_code, 403)

    def test_the_first_person_is_made_once(self) -> None:
        empty_session().close()
        first = Visitor(self.web.address)
        self.assertIn("Nobody is here yet", first.get("/").text)
        self.assertIn("accepted: 8 to 200", first.form("/first-person", name="Eve", password="short").text)
        self.assertIn("No station yet", first.form("/first-person", name="Eve", password="long enough").text)
        late = Visitor(self.web.address)
        late.get("/sign-in")
        self.assertEqual(late.form("/first-person", name="Mal", password="long enough").status_code, 403)

    def test_an_outside_address_is_not_followed_after_signing_in(self) -> None:
        visitor = Visitor(self.web.address)
        visitor.get("/sign-in")
        answer = visitor.form("/sign-in", name="Ada Wren", password="long enough", then="//elsewhere.example/x")
        self.assertEqual(str(answer.url), f"{self.web.address}/")


class BadInputTest(WebTest):
    def test_unknown_places_get_a_useful_404(self) -> None:
        path = self.station(SLIPWAY)
        for where, words in (
            ("/nowhere", "There is no page /nowhere"),
            ("/stations/999999", "There is no station number 999999"),
            (f"{path}/rehearse?run=77", "no kept run number 77"),
            (f"{path}/enter?one=99", "there is no number 99"),
            (f"{path}/handover?at=99", "has entries 1 to 2, not 99"),
            ("/controllers/none", "no controller family"),
        ):
            answer = self.ada.get(where)
            self.assertEqual(answer.status_code, 404, where)
            self.assertIn(words, answer.text)

    def test_every_refusal_names_what_is_wrong(self) -> None:
        path = self.station(SLIPWAY)
        save = {"save_key": key(), "units": "metric"}
        for where, body, words in (
            ("facts", {**save, "base_seq": 1, "changes": {"well.colour": "red"}}, "not a fact"),
            ("facts", {**save, "base_seq": 1, "changes": {}}, "changes"),
            ("facts", {**save, "base_seq": 1, "units": "cubits", "changes": {"well.depth_m": "1"}}, "units"),
            ("facts", {**save, "base_seq": 1, "changes": {"well.depth_m": "1" * 3000}}, "well.depth_m"),
            ("choices", {**save, "levels_m": {"moon": 1.0}}, "not a level of this plan"),
            ("choices", {**save, "levels_m": {"stop": -1.0}}, "accepted: 0.00 m to 100.00 m"),
            ("choices", {**save, "levels_m": {"stop": "high"}}, "levels_m.stop"),
            ("read-back", {"save_key": key(), "code": "zz", "typed": "1"}, "no such entry"),
            ("reckon/preview", {"levels_m": {"stop": 1e99}}, "levels_m.stop"),
            ("runs", {"start_level_m": 0.8, "actions": [], "from_s": 0, "to_s": 0, "save_key": key()}, "has not begun"),
        ):
            answer = self.ada.json(f"{path}/{where}", body)
            self.assertEqual(answer.status_code, 422, (where, body, answer.text))
            self.assertIn(words, answer.json()["error"])
        broken = self.ada.http.post(
            f"{path}/facts",
            content=b"{",
            headers={"X-CSRF-Token": self.ada.token, "Content-Type": "application/json", "Accept": "application/json"},
        )
        self.assertEqual(broken.status_code, 422)
        self.assertEqual(self.ada.json(f"{path}/reckon/preview", {"levels_m": {"stop": 0.7}}).status_code, 200)

    def test_what_is_refused_at_a_field_is_still_kept_as_typed(self) -> None:
        path = self.station(SLIPWAY)
        for text in (
            "abc",
            "-3",
            "0",
            "1e40",
            "nan",
            "",
            "\u0661",
            "<script>alert(1)</script>",
            "'; DROP TABLE entry; --",
        ):
            answer = self.save_facts(path, {"well.diameter_m": text}, base_seq=99).json()
            self.assertTrue(answer["problems"].get("well.diameter_m") or "well.diameter_m" in answer["missing"], text)
            page = self.ada.get(f"{path}/survey")
            self.assertEqual(page.status_code, 200)
            self.assertNotIn("<script>alert", page.text)
        self.assertIn("DROP TABLE entry", self.ada.get(f"{path}/survey").text)
        self.assertEqual(self.ada.get(f"{path}/reckon").status_code, 200)

    def test_a_refused_observation_keeps_its_text(self) -> None:
        path = self.station(SLIPWAY)
        for proof, seen, words in (
            ("up_stop", "abc", "is not a number"),
            ("alternation", "one", "pump numbers"),
            ("sensor_failure", "", "choose Yes or No"),
        ):
            answer = self.ada.form(
                f"{path}/observations", proof_id=proof, method="real_water", save_key=key(), seen=seen, note="wet"
            )
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.text)
            self.assertIn('value="wet"', answer.text)
        answer = self.ada.form(f"{path}/observations", proof_id="none", method="real_water", save_key=key(), seen="1")
        self.assertEqual(answer.status_code, 422)

    def test_answers_carry_a_strict_policy(self) -> None:
        headers = self.ada.get("/").headers
        self.assertIn("script-src 'self'", headers["content-security-policy"])
        self.assertNotIn("unsafe", headers["content-security-policy"])
        self.assertEqual(headers["x-content-type-options"], "nosniff")
