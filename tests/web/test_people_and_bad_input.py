"""Who may do what, two at one station, and every kind of bad input."""

from tests.web.visits import WebTest, key
from tools.stage.server import Visitor, empty_session
from tools.stage.typed_stations import ROUND_WELL


class PeopleTest(WebTest):
    def test_two_people_see_each_other_instead_of_overwriting(self) -> None:
        path = self.station({"well.depth_m": "4.0"})
        bo = Visitor(self.web.address).sign_in("Bo Lund", "quite long enough here")
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
        path = self.station(ROUND_WELL)
        cy = Visitor(self.web.address).sign_in("Cy Rook", "quite long enough here")
        self.assertEqual(cy.get(f"{path}/reckon").status_code, 200)
        self.assertEqual(self.save_facts(path, {"well.depth_m": "4"}, who=cy).status_code, 403)
        self.assertEqual(cy.form("/people", name="Di", password="quite long enough here", role="lead").status_code, 403)

    def test_nothing_is_shown_or_written_without_signing_in_or_token(self) -> None:
        path = self.station(ROUND_WELL)
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
        self.assertIn("accepted: 12 to 200", first.form("/first-person", name="Eve", password="short").text)
        self.assertIn("No station yet", first.form("/first-person", name="Eve", password="quite long enough here").text)
        late = Visitor(self.web.address)
        late.get("/sign-in")
        self.assertEqual(late.form("/first-person", name="Mal", password="quite long enough here").status_code, 403)

    def test_an_outside_address_is_not_followed_after_signing_in(self) -> None:
        visitor = Visitor(self.web.address)
        visitor.get("/sign-in")
        answer = visitor.form("/sign-in", name="Ada Wren", password="quite long enough here", then="//elsewhere.example/x")
        self.assertEqual(str(answer.url), f"{self.web.address}/")


class BadInputTest(WebTest):
    def test_unknown_places_get_a_useful_404(self) -> None:
        path = self.station(ROUND_WELL)
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
        path = self.station(ROUND_WELL)
        save = {"save_key": key(), "units": "metric"}
        for where, body, words in (
            ("facts", {**save, "base_seq": 1, "changes": {"well.colour": "red"}}, "not a fact"),
            ("facts", {**save, "base_seq": 1, "changes": {}}, "changes"),
            ("facts", {**save, "base_seq": 1, "units": "cubits", "changes": {"well.depth_m": "1"}}, "units"),
            ("facts", {**save, "base_seq": 1, "changes": {"well.depth_m": "1" * 3000}}, "well.depth_m"),
            ("choices", {**save, "chosen": {"moon": 1.0}}, "not a setting of this plan"),
            ("choices", {**save, "chosen": {"stop": -1.0}}, "accepted: 0.00 m to 100.00 m"),
            ("choices", {**save, "chosen": {"stop": "high"}}, "chosen.stop"),
            ("read-back", {"save_key": key(), "code": "zz", "typed": "1"}, "no such entry"),
            ("reckon/preview", {"chosen": {"stop": 1e99}}, "chosen.stop"),
            ("runs", {"start": 0.8, "actions": [], "from_s": 0, "to_s": 0, "save_key": key()}, "has not begun"),
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
        self.assertEqual(self.ada.json(f"{path}/reckon/preview", {"chosen": {"stop": 0.7}}).status_code, 200)

    def test_what_is_refused_at_a_field_is_still_kept_as_typed(self) -> None:
        path = self.station(ROUND_WELL)
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
        path = self.station(ROUND_WELL)
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
