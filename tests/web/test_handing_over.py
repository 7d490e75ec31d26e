"""Entering, open points and signing by real requests: what is kept, what is refused, and where a forwarded address may lead."""

import io
import re
from urllib.parse import urlsplit

from openpyxl import load_workbook
from sqlalchemy import text

from goodbalance.store import shares
from goodbalance.store.database import session_maker
from tests.web.visits import WebTest, key
from tools.stage.server import Visitor, engine
from tools.stage.typed_stations import ROUND_WELL, TANK_SET


class EnterTest(WebTest):
    def test_one_number_at_a_time_goes_on_when_it_fits_and_stays_when_not(self) -> None:
        path = self.station(ROUND_WELL)
        page = self.ada.get(f"{path}/enter?one=1").text
        code = page.split('name="code" value="')[1].split('"')[0]
        shown = page.split('class="display')[1].split(">")[1].split("<")[0]
        wrong = self.ada.form(f"{path}/read-back-form", save_key=key(), code=code, typed="0.01")
        self.assertIn("one=1", str(wrong.url))
        right = self.ada.form(f"{path}/read-back-form", save_key=key(), code=code, typed=shown)
        self.assertIn("one=2", str(right.url))
        stored = self.ada.form(f"{path}/stored", save_key=key()).text
        self.assertIn("stored", stored)

    def test_bad_read_backs_are_refused_and_nothing_is_written(self) -> None:
        path = self.station(ROUND_WELL)
        before = self.ada.get(f"{path}/station.json").json()["record"]
        for fields, status in (
            ({"save_key": key(), "code": "no such", "typed": "1"}, 422),
            ({"save_key": "short", "code": "1 b", "typed": "1"}, 422),
            ({"code": "1 b", "typed": "1"}, 422),
            ({"save_key": key(), "code": "1 b", "typed": "x" * 300}, 422),
            ({"save_key": key()}, 422),
        ):
            self.assertEqual(self.ada.form(f"{path}/read-back-form", **fields).status_code, status, fields)
        for body in ({"save_key": key(), "code": "1 b"}, {"save_key": key(), "code": 7, "typed": "1"}, [], "text"):
            self.assertEqual(self.ada.json(f"{path}/read-back", body).status_code, 422, body)
        self.assertEqual(self.ada.get(f"{path}/station.json").json()["record"], before)
        empty = self.station()
        self.assertEqual(self.ada.form(f"{empty}/stored", save_key=key()).status_code, 409)
        self.assertEqual(
            self.ada.json(f"{empty}/read-back", {"save_key": key(), "code": "1 b", "typed": "1"}).status_code, 409
        )


class OpenPointTest(WebTest):
    def test_points_are_noted_closed_and_stand_in_the_record(self) -> None:
        path = self.station(ROUND_WELL)
        page = self.ada.form(f"{path}/open-points", text="  jumper 5-6 left in  ", save_key=key()).text
        self.assertIn("jumper 5-6 left in", page)
        seq = next(e["seq"] for e in self.ada.get(f"{path}/station.json").json()["record"] if e["kind"] == "open_point")
        for point, how, status in (
            (seq, "   ", 422),
            (seq, "x" * 1001, 422),
            (9999, "taken out", 404),
            ("x", "taken out", 422),
        ):
            self.assertEqual(self.ada.form(f"{path}/open-points/{point}", how=how, save_key=key()).status_code, status)
        page = self.ada.form(f"{path}/open-points/{seq}", how="taken out", save_key=key()).text
        self.assertIn("None noted", page)
        self.assertEqual(self.ada.form(f"{path}/open-points/{seq}", how="again", save_key=key()).status_code, 409)
        self.assertIn("taken out", self.ada.get(f"{path}/log").text)
        for wrong in ("", " ", "x" * 1001):
            self.assertEqual(self.ada.form(f"{path}/open-points", text=wrong, save_key=key()).status_code, 422)


class LeftForLaterTest(WebTest):
    def test_a_fact_left_for_later_is_an_open_point_until_it_is_filled_in(self) -> None:
        """An optional number that cannot be read now keeps its default and stands in survey, list, hand over, card, signature and file; one that is needed stays missing."""
        path = self.station({**TANK_SET, "outlets.minor_k": "later, from the drawing"}, "booster")
        self.assertIn("Left for later: from the drawing", self.ada.get(f"{path}/survey").text)
        left = "Sum of fitting losses K: from the drawing"
        for view in ("handover", "card"):
            self.assertIn(left, self.ada.get(f"{path}/{view}").text, view)
        self.assertIn("1 fact of the survey left for later", self.ada.get("/").text)
        self.assertIn(f"Left for later: {left}", self.ada.get(f"{path}/handover").text)  # also in what is signed
        self.assertIn("Most starts of a pump", self.ada.get(f"{path}/reckon").text)
        fill = lambda text: self.ada.json(f"{path}/facts", {"save_key": key(), "base_seq": 0, "units": "metric", "changes": {"outlets.minor_k": text}})  # noqa: E731
        self.assertEqual(fill("14").status_code, 200)
        for view in ("survey", "handover", "card"):
            self.assertNotIn("from the drawing", self.ada.get(f"{path}/{view}").text, view)
        self.ada.json(f"{path}/facts", {"save_key": key(), "base_seq": 0, "units": "metric", "changes": {"outlets.residual_pa": "? owner"}})
        page = self.ada.get(f"{path}/survey").text
        self.assertIn("1 left", page)
        self.assertIn("Left for later: owner", page)


class SigningTest(WebTest):
    def test_a_signature_freezes_the_station_as_it_stood(self) -> None:
        path = self.station({**TANK_SET}, "booster")
        for name, role, words in (
            ("  ", "lead", "1 to 80 letters"),
            ("Ada", " ", "1 to 80 letters"),
            ("x" * 81, "lead", "1 to 80 letters"),
        ):
            answer = self.sign(path, name, role)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.text)
        self.ada.json(
            f"{path}/choices", {"save_key": key(), "units": "metric", "changes": {}, "chosen": {"set_pressure": 430e3}}
        )
        self.assertIn("between plan and devices not settled: 1 p 15, 2 p 15, 3 p 15, Sleeps under: not taken", self.sign(path).text)
        self.settle(path)
        signed = self.sign(path, "Ada  Wren").text
        self.assertIn("Signed by <b>Ada Wren</b>, lead", signed)
        self.assertRegex(signed, "Left so by waiver: 1 p 15, 2 p 15, 3 p 15, Sleeps under: not taken")
        seq = self.ada.get(f"{path}/station.json").json()["record"][-1]["seq"]
        self.ada.json(
            f"{path}/choices", {"save_key": key(), "units": "metric", "changes": {}, "chosen": {"set_pressure": 450e3}}
        )
        now, then = self.ada.get(f"{path}/handover").text, self.ada.get(f"{path}/handover?at={seq}").text
        self.assertIn("Changed since Ada Wren signed it", now)
        self.assertRegex(now, r"not read back</div></td>\s*<td class=\"r num\">4.50 bar")
        self.assertRegex(then, r"not read back</div></td>\s*<td class=\"r num\">4.30 bar")
        empty = self.station()
        self.assertEqual(self.sign(empty, "Ada").status_code, 422)
        self.assertEqual(self.ada.get(f"{empty}/settings.csv").status_code, 409)

    def test_the_settings_file_of_a_booster_holds_pascal_seconds_and_shares(self) -> None:
        path = self.station({**TANK_SET}, "booster")
        self.ada.json(f"{path}/choices", {"save_key": key(), "units": "metric", "changes": {"schools.no_flow": "flow"}})
        lines = self.ada.get(f"{path}/settings.csv").text.splitlines()
        row = next(line.split(",") for line in lines if line.startswith("restart,"))
        self.assertIn("pressure", row)
        self.assertTrue(any(cell == "510000.0" or cell.startswith("510000") for cell in row), row)  # as found, 5.1 bar
        self.assertTrue(any(line.startswith("gain,") for line in lines))


class AddressTest(WebTest):
    def test_no_address_outside_is_followed(self) -> None:
        for then in (
            "//elsewhere.example/x",
            "/\\elsewhere.example/x",
            "https://elsewhere.example",
            "javascript:alert(1)",
        ):
            visitor = Visitor(self.web.address)
            visitor.get("/sign-in")
            answer = visitor.form("/sign-in", name="Ada Wren", password="quite long enough here", then=then)
            self.assertEqual(str(answer.url), f"{self.web.address}/")
            visitor.get("/")
            self.assertEqual(str(visitor.form("/me", units="us", then=then).url), f"{self.web.address}/")

    def test_habits_are_kept_and_unknown_ones_refused(self) -> None:
        path = self.station({**TANK_SET}, "booster")
        self.ada.form("/me", units="us", theme="pit", then=f"{path}/reckon")
        page = self.ada.get(f"{path}/reckon").text
        self.assertIn("psi", page)
        self.assertIn('data-look="pit"', page)
        for fields in ({"theme": "neon"}, {"units": "cubits"}):
            self.assertEqual(self.ada.form("/me", **fields).status_code, 422)
        bo = Visitor(self.web.address).sign_in("Bo Lund", "quite long enough here")
        self.assertNotIn("psi", bo.get(f"{path}/reckon").text.split("<main")[1])

    def test_people_are_added_by_leads_and_set_their_own_passwords(self) -> None:
        for name, role, status in (("Dee Marsh", "reader", 200), ("Dee  Marsh", "reader", 422), ("", "reader", 422), ("Ed", "king", 422), ("x" * 81, "reader", 422)):
            self.assertEqual(self.ada.form("/people", name=name, role=role).status_code, status, name)
        dee = Visitor(self.web.address)
        link = self.ada.form("/people", name="Dee Fell", role="technician").text.split('value="http')[1].split('"')[0]
        path = "/" + link.split("/", 3)[3]
        dee.get("/sign-in")
        self.assertEqual(dee.form("/sign-in", name="Dee Fell", password="none yet").status_code, 422)
        self.assertIn("Dee Fell, set your password", dee.get(path).text)
        self.assertIn("12 to 200 letters", dee.form(path, password="short").text)
        self.assertEqual(dee.form("/password/strength", password="deefelldeefell", token=path[6:]).json()["good"], False)
        self.assertIn("Your password is set", dee.form(path, password="nine grey herons waited").text)
        self.assertEqual((dee.get(path).status_code, dee.form(path, password="ten grey herons waited").status_code), (404, 404))
        dee.sign_in("Dee Fell", "nine grey herons waited")
        self.assertEqual(dee.form("/stations", name="Pit", place="", kind="lift").status_code, 200)
        self.ada.form("/sign-out")
        self.assertIn("Sign in", self.ada.get("/").text)


class TakenAwayTest(WebTest):
    def test_record_and_card_as_pdf_and_tables_as_xlsx(self) -> None:
        """What stands in the files is what stands on the pages: settings, sheet, proofs; a code on the card that leads back."""
        path = self.station(ROUND_WELL, name="Pit \u00d8 & <co>")
        self.sign(path)
        for address in (f"{path}/handover.pdf", f"{path}/card.pdf", f"{path}/card.pdf?code=settings"):
            answer = self.ada.get(address)
            self.assertEqual((answer.status_code, answer.headers["content-type"], answer.content[:5]), (200, "application/pdf", b"%PDF-"), address)
            self.assertGreater(len(answer.content), 8000)
        book = load_workbook(io.BytesIO(self.ada.get(f"{path}/tables.xlsx").content))
        self.assertEqual(book.sheetnames, ["Settings", "Entry sheet", "What follows", "Proofs"])
        settings = {row[0]: row for row in book["Settings"].iter_rows(values_only=True)}
        self.assertRegex(str(settings["Duty start level"][3]), r"^1\.[0-9]{2} m$")
        self.assertEqual({cell.data_type for row in book["Proofs"].iter_rows() for cell in row if cell.value}, {"s"})
        self.assertIn("<svg", self.ada.get(f"{path}/card").text.split('class="qr"')[1].split("</figure>")[0])
        number = path.rsplit("/", 1)[1]
        self.assertTrue(str(self.ada.get(f"/s/{number}").url.path).startswith(path))
        self.assertEqual(self.ada.get(f"{path}/card.pdf?code=else").status_code, 422)
        empty = self.station()
        self.assertEqual([self.ada.get(f"{empty}/{file}").status_code for file in ("handover.pdf", "card.pdf", "tables.xlsx")], [409, 409, 409])

    def test_an_owner_reads_one_signed_revision_by_a_link_until_it_is_revoked(self) -> None:
        path = self.station(ROUND_WELL)
        self.assertEqual(self.ada.form(f"{path}/shares", reader="Owner", days="10").status_code, 409)  # nothing signed
        self.sign(path)
        self.save_facts(path, {"well.depth_m": "4.5"})
        made = self.ada.form(f"{path}/shares", reader="Orla Finch", days="10").text
        address = urlsplit(re.search(r'share-address">(.*?)<', made)[1]).path
        stranger = Visitor(self.web.address)
        page = stranger.get(address)
        self.assertEqual(page.status_code, 200)
        for words in ("Duty start level", "Signed Ada Wren", "one signed revision"):
            self.assertIn(words, page.text)
        self.assertNotIn("4.50 m", page.text)  # changed after it was signed
        self.assertIn(" ft", stranger.get(f"{address}?units=us").text)
        self.assertEqual(stranger.get(f"{address}/record.pdf").content[:5], b"%PDF-")
        for wrong in ("/shared/short", "/shared/" + "x" * 90, address[:-1]):
            self.assertEqual(stranger.get(wrong).status_code, 404, wrong)
        for reader, days in (("", "10"), ("Orla", "0"), ("Orla", "9999"), ("Orla", "soon"), ("x" * 81, "5")):
            self.assertEqual(self.ada.form(f"{path}/shares", reader=reader, days=days).status_code, 422)
        share = re.search(r"/shares/(\d+)", self.ada.get(f"{path}/handover").text)[1]
        self.ada.form(f"{path}/shares/{share}")
        self.assertEqual(stranger.get(address).status_code, 404)
        self.assertEqual(self.ada.form(f"{path}/shares/{share}").status_code, 404)
        with session_maker(engine())() as session:
            made_again = shares.make(session, int(path.rsplit("/", 1)[1]), 3, "Late", "Ada Wren", 1)
            session.execute(text("UPDATE share SET until = '2020-01-01' WHERE reader = 'Late'"))
            session.commit()
        self.assertEqual(stranger.get(f"/shared/{made_again}").status_code, 404)
