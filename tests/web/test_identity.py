"""Who somebody is: sessions, passwords, second factors, roles, guessing, what is asked again before it counts, who did what."""

from datetime import timedelta

import pyotp
from sqlalchemy import text
from starlette.testclient import TestClient

from goodbalance.store import people, second_factor, throttle
from goodbalance.store.database import session_maker
from goodbalance.store.models import utc_now
from goodbalance.web.app import create_app
from tests.web.visits import PASSWORD, WebTest, key
from tools.stage.server import Visitor, engine
from tools.stage.typed_stations import ROUND_WELL


class SessionTest(WebTest):
    OLD, NEW = PASSWORD, "nine grey herons waited"

    def test_signing_out_ends_the_session_and_not_only_the_cookie(self) -> None:
        copied = dict(self.ada.http.cookies)
        self.ada.form("/sign-out")
        thief = Visitor(self.web.address)
        thief.http.cookies.update(copied)
        self.assertEqual(thief.http.get("/people", headers={"Accept": "application/json"}).status_code, 401)

    def test_a_new_password_signs_out_every_other_browser(self) -> None:
        other = Visitor(self.web.address).sign_in("Ada Wren", self.OLD)
        self.assertEqual(self.ada.get("/people").text.count('<td class="small">python-httpx'), 2)
        for old, new, words in (
            ("not mine at all", self.NEW, "the one you signed in with"),
            (self.OLD, "short", "12 to 200 letters"),
            (self.OLD, "password1234", "very common password"),
            (self.OLD, "adawrenadawren", "too easy"),
        ):
            answer = self.ada.form("/me/password", old=old, password=new)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.text)
        self.assertIn("Every other browser of yours is signed out", self.ada.form("/me/password", old=self.OLD, password=self.NEW).text)
        self.assertEqual(other.http.get("/people", headers={"Accept": "application/json"}).status_code, 401)
        self.assertEqual(self.ada.get("/people").status_code, 200)
        Visitor(self.web.address).sign_in("Ada Wren", self.NEW)
        self.ada.form("/me/sessions")
        self.assertEqual(self.ada.get("/people").text.count('<td class="small">python-httpx'), 1)

    def test_sessions_end_by_themselves(self) -> None:
        for column, days in (("seen_at", 4), ("begun_at", 15)):
            visitor = Visitor(self.web.address).sign_in("Ada Wren", self.OLD)
            with session_maker(engine())() as session:
                session.execute(text(f"UPDATE session SET {column} = {column} - INTERVAL {days} DAY"))
                session.commit()
            self.assertEqual(visitor.http.get("/people", headers={"Accept": "application/json"}).status_code, 401, column)

    def test_behind_tls_the_cookie_stays_with_tls_and_only_our_hosts_are_answered(self) -> None:
        app = create_app(engine(), "key", "https://pumps.example.org")
        visitor = TestClient(app, "https://pumps.example.org")
        page = visitor.get("/sign-in")
        other = visitor.get("/sign-in", headers={"Host": "elsewhere.example.org"})
        self.assertEqual((page.status_code, other.status_code), (200, 400))
        cookie = page.headers["set-cookie"]
        for words in ("__Host-goodbalance=", "secure", "httponly", "path=/"):
            self.assertIn(words, cookie.replace("Secure", "secure").replace("HttpOnly", "httponly"))
        self.assertIn("max-age", page.headers["strict-transport-security"])
        self.assertNotIn("strict-transport-security", self.ada.get("/").headers)
        self.assertEqual(self.ada.http.get("/sign-in", headers={"Host": "elsewhere.example.org"}).status_code, 400)

    def test_roles_change_people_leave_and_a_lead_always_stays(self) -> None:
        bo = Visitor(self.web.address).sign_in("Bo Lund", self.OLD)
        path = self.station(ROUND_WELL)
        bo.form(f"{path}/open-points", text="Hatch loose", save_key=key())
        with session_maker(engine())() as session:
            ids = {person.name: person.id for person in people.people(session)}
        self.assertEqual(bo.form(f"/people/{ids['Ada Wren']}/role", role="reader").status_code, 403)
        self.assertIn("no other lead", self.ada.form(f"/people/{ids['Ada Wren']}/role", role="reader").text)
        self.assertIn("no other lead", self.ada.form(f"/people/{ids['Ada Wren']}/retire").text)
        self.assertEqual(self.ada.form("/people/999999/retire").status_code, 404)
        self.ada.form(f"/people/{ids['Bo Lund']}/role", role="lead")
        bo.sign_in("Bo Lund", self.OLD)  # was signed out with the change
        self.assertEqual(bo.form(f"/people/{ids['Ada Wren']}/retire").status_code, 200)
        ask = {"Accept": "application/json"}
        self.assertEqual(self.ada.http.get("/people", headers=ask).status_code, 401)
        self.assertEqual(self.ada.form("/sign-in", name="Ada Wren", password=self.OLD).status_code, 422)
        self.assertIn("Ada Wren", bo.get(f"{path}/log").text)  # what she wrote stays
        bo.form(f"/people/{ids['Ada Wren']}/retire", back="1")
        Visitor(self.web.address).sign_in("Ada Wren", self.OLD)

    def test_who_guesses_waits_longer_each_time_and_nobody_else_does(self) -> None:
        guesser = Visitor(self.web.address)
        guesser.get("/sign-in")
        tried = [guesser.form("/sign-in", name="Ada  Wren", password=f"guess {n}").status_code for n in range(6)]
        self.assertEqual(tried, [422] * 5 + [429])
        self.assertEqual(guesser.form("/sign-in", name="ada wren", password=self.OLD).status_code, 429)  # even if right
        Visitor(self.web.address).sign_in("Bo Lund", self.OLD)
        self.assertEqual(self.ada.get("/").status_code, 200)  # who is in stays in

        began = utc_now()
        with session_maker(engine())() as session:
            waits = []
            for _ in range(9):
                throttle.failed(session, "Ada", "10.0.0.1", began)
                waits.append(throttle.wait_s(session, "ada", "10.0.0.1", began))
            self.assertEqual(waits, [0.0] * 4 + [2.0, 4.0, 8.0, 16.0, 32.0])
            self.assertEqual(throttle.wait_s(session, "Ada", "10.0.0.2", began), 0.0)
            self.assertEqual(throttle.wait_s(session, "Ada", "10.0.0.1", began + timedelta(seconds=33)), 0.0)
            throttle.succeeded(session, "Ada", "10.0.0.1")
            throttle.failed(session, "Ada", "10.0.0.1", began)
            self.assertEqual(throttle.wait_s(session, "Ada", "10.0.0.1", began), 0.0)


class SecondFactorTest(WebTest):
    def offered(self, who: Visitor) -> str:
        return who.get("/me/second-factor").text.split('name="secret" value="')[1].split('"')[0]

    def test_a_code_is_asked_after_the_password_and_counts_once(self) -> None:
        bo = Visitor(self.web.address).sign_in("Bo Lund", PASSWORD)
        secret = self.offered(bo)
        totp = pyotp.TOTP(secret)
        first = totp.now()
        for code, password, words in (("000000x", PASSWORD, "the six digits"), (first, "not it at all", "not your password")):
            self.assertIn(words, bo.form("/me/second-factor", secret=secret, code=code, password=password).text)
        self.assertIn("Turn it off", bo.form("/me/second-factor", secret=secret, code=first, password=PASSWORD).text)
        with session_maker(engine())() as session:
            kept = people.named(session, "Bo Lund")
            self.assertNotIn(secret, kept.code_secret)
            self.assertFalse(second_factor.accepts(session, kept, first))  # it was used to turn it on
            kept.code_step = None  # as when a while has passed
            session.commit()
        again, thief = Visitor(self.web.address), Visitor(self.web.address)
        for visitor in (again, thief):
            visitor.get("/sign-in")
            self.assertIn("six digits", visitor.form("/sign-in", name="Bo Lund", password=PASSWORD).text)
            visitor.get("/sign-in/code")
            self.assertIn("Sign in", visitor.get("/").text.split("<h1>")[1][:10])  # half in is not in
            visitor.get("/sign-in/code")
        code = totp.now()
        self.assertEqual(again.form("/sign-in/code", code=code).url.path, "/")
        self.assertIn("used already", thief.form("/sign-in/code", code=code).text)
        tried = [thief.form("/sign-in/code", code="123456").status_code for _ in range(5)]
        self.assertEqual(tried, [422] * 4 + [429])
        self.assertEqual(again.get("/").status_code, 200)

    def test_a_lost_telephone_is_helped_by_a_lead_and_behind_a_public_address_leads_need_one(self) -> None:
        with session_maker(engine())() as session:
            bo = people.named(session, "Bo Lund")
            secret = second_factor.new_secret()
            second_factor.turn_on(session, bo, secret, pyotp.TOTP(secret).now())
            session.commit()
            bo_id = bo.id
        self.assertIn("password and code", self.ada.get("/people").text)
        self.ada.form(f"/people/{bo_id}/second-factor")
        Visitor(self.web.address).sign_in("Bo Lund", PASSWORD)

        outside = TestClient(create_app(engine(), "key", "http://pumps.example.org"), "http://pumps.example.org")
        token = outside.get("/sign-in").text.split('name="csrf" content="')[1].split('"')[0]
        outside.post("/sign-in", data={"csrf": token, "name": "Ada Wren", "password": PASSWORD})
        page = outside.get("/people").text
        token = page.split('name="csrf" content="')[1].split('"')[0]
        self.assertIn("Set up your second factor below", page)
        answer = outside.post("/people", data={"csrf": token, "name": "Dee", "role": "lead"})
        self.assertEqual(answer.status_code, 403)
        self.assertIn("second factor first", answer.text)


class AskedAgainTest(WebTest):
    def test_a_signature_and_a_removal_need_the_password_and_wrong_ones_are_counted(self) -> None:
        path = self.station(ROUND_WELL)
        seen = self.seen(path)
        sign = {"name": "Ada Wren", "role": "lead", "seen": seen}
        for password, words in (("", "Type your password"), ("not it at all", "not your password")):
            answer = self.ada.form(f"{path}/sign", **sign, save_key=key(), password=password)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.text)
        self.ada.form(f"{path}/archive")
        self.assertEqual(self.ada.form(f"{path}/remove", name="Test pit", password="not it").status_code, 422)
        tried = [self.ada.form(f"{path}/sign", **sign, save_key=key(), password="no").text for _ in range(4)]
        self.assertEqual(["Too many wrong tries" in answer for answer in tried], [False] * 3 + [True])
        self.assertEqual(self.ada.get(f"{path}/handover").text.count("Signed by"), 0)

    def test_ten_minutes_after_the_password_people_are_changed_only_with_it_again(self) -> None:
        with session_maker(engine())() as session:
            session.execute(text("UPDATE session SET shown_at = shown_at - INTERVAL 11 MINUTE"))
            session.commit()
            bo = people.named(session, "Bo Lund").id
        self.assertNotIn("No longer here", self.ada.get("/people").text)
        for path, fields in (("/people", {"name": "Dee", "role": "reader"}), (f"/people/{bo}/role", {"role": "lead"}), (f"/people/{bo}/link", {})):
            answer = self.ada.form(path, **fields)
            self.assertEqual((answer.status_code, "Type your password first" in answer.text), (403, True), path)
        self.assertIn('value="Dee"', self.ada.form("/people", name="Dee", role="reader").text)  # nothing typed is lost
        self.assertEqual(self.ada.form("/me/shown", password="not it at all").status_code, 422)
        self.assertIn("No longer here", self.ada.form("/me/shown", password=PASSWORD).text)
        self.assertEqual(self.ada.form("/people", name="Dee", role="reader").status_code, 200)

    def test_who_did_what_stands_under_the_number_of_the_request(self) -> None:
        stranger = Visitor(self.web.address)
        stranger.get("/sign-in")
        stranger.form("/sign-in", name="Bo Lund", password="guess guess guess")
        stranger.form("/sign-in", name="hunter2 typed into the wrong field", password="x")
        bo = Visitor(self.web.address).sign_in("Bo Lund", PASSWORD)
        self.assertEqual(bo.form("/people", name="Dee", role="lead").status_code, 403)
        self.assertEqual(bo.get("/people/deeds").status_code, 403)
        path = self.station(ROUND_WELL)
        taken_out = self.ada.get(f"{path}/station.json")
        self.sign(path)
        self.ada.get(f"{path}/settings.csv")
        shown = self.ada.get("/people/deeds").text
        for words in ("wrong password", "signed in", "POST /people: Only a lead", "station taken out", "settings taken out", "Test pit, entry 3"):
            self.assertIn(words, shown)
        self.assertIn(taken_out.headers["x-request-id"], shown)
        self.assertNotIn("hunter2", shown)
        self.assertEqual(self.ada.get("/people/deeds?who=Bo+Lund").text.count("<td>Ada Wren</td>"), 0)
