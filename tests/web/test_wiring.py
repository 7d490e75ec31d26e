"""The wiring walk by real requests: dead before live, a fault that holds, photos, and what is put in for the work."""

import base64
import html
import io
import re

from PIL import Image

from tests.web.visits import WebTest, key
from tools.stage.server import Visitor
from tools.stage.typed_stations import ROUND_WELL

PASSWORD = "quite long enough here"


def picture(kind: str = "JPEG", size: tuple[int, int] = (3000, 2000)) -> bytes:
    """A photo with the place it was taken at in it."""
    exif = Image.Exif()
    exif[0x010F], exif[0x0112] = "Some Maker", 6  # who made the camera; turned by a quarter
    out = io.BytesIO()
    Image.linear_gradient("L").resize(size).convert("RGB").save(out, kind, exif=exif)
    return out.getvalue()


class WiringTest(WebTest):
    def look(self, path: str, place: str, found: str = "ok", phase: str = "dead", seen: str = "", device: str = "ebbstone_tray"):
        return self.ada.form(f"{path}/wire-looks", device=device, place=place, phase=phase, found=found, seen=seen, save_key=key())

    def all_dead(self, path: str) -> str:
        """Look at everything dead, one after the other as the page leads; the last page."""
        page = self.ada.get(f"{path}/wiring").text
        for _ in range(60):
            if "may be energised" in page:
                return page
            at_hand = page.split('id="at-hand"')[1]
            device, place = (html.unescape(at_hand.split(f'name="{name}"')[1].split('value="')[1].split('"')[0]) for name in ("device", "place"))
            page = self.look(path, place, device=device).text
        self.fail("the walk never ends")

    def test_dead_then_live_and_a_fault_holds_until_somebody_mends_or_waives_it(self) -> None:
        path = self.station(ROUND_WELL)
        page = self.ada.get(f"{path}/wiring").text
        for words in ("not to be energised", "Dead 0 of", "Supply of the device", "Waits until all is right", "K1, K2, K3"):
            self.assertIn(words, page)
        refused = self.look(path, "relay.4", phase="live")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("nothing is energised before. Nothing was noted.", refused.text)
        page = self.all_dead(path)
        self.assertIn("live 0 of", page)
        self.assertEqual(self.look(path, "relay.4", phase="live", seen="24 V across it, open").status_code, 200)
        told = self.look(path, "input.level", found="fault")
        self.assertEqual((told.status_code, "Say what is wrong there" in told.text), (422, True))
        page = self.look(path, "input.level", found="fault", seen="<b>plus and minus</b> swapped").text
        self.assertIn("&lt;b&gt;plus and minus&lt;/b&gt; swapped", page)
        for view in ("reckon", "enter", "prove", "handover"):
            self.assertIn("energise: 1 wiring fault", self.ada.get(f"{path}/{view}").text, view)
        self.assertIn("1 wiring fault", self.ada.get("/").text)
        self.assertEqual(self.look(path, "relay.4", phase="live").status_code, 422)
        self.settle(path)
        signed = self.sign(path)
        self.assertEqual(signed.status_code, 422)
        self.assertIn("A wiring fault stands", signed.text)
        about = html.unescape(re.split(r'name="about"\s+value="', page)[1].split('"')[0])
        self.ada.form(f"{path}/waivers", save_key=key(), about=about, reason="the maker says either way is right", back="wiring")
        self.assertIn("may be energised", self.ada.get(f"{path}/wiring").text)
        page = self.sign(path).text
        self.assertIn("looks of the wiring walk made and right", page)
        self.assertIn("&lt;b&gt;plus and minus&lt;/b&gt; swapped", page)
        self.assertIn("the maker says either way is right", page)

    def test_a_look_counts_only_while_the_same_wires_are_wanted_there(self) -> None:
        path = self.station(ROUND_WELL)
        self.all_dead(path)
        self.save_facts(path, {"relays.high_alarm": "4"})
        page = self.ada.get(f"{path}/wiring").text
        self.assertIn("not to be energised", page)
        self.assertIn("look again: the plan has changed", page)

    def test_what_is_put_in_for_the_work_stays_on_every_view_until_it_is_out(self) -> None:
        path = self.station(ROUND_WELL)
        self.ada.form(f"{path}/open-points", text="Jumper at b1, b2", temporary="jumper", back="wiring", save_key=key())
        for view in ("survey", "reckon", "rehearse", "enter", "prove", "handover", "wiring", "log"):
            self.assertIn("<b>Still in:</b> Jumper at b1, b2", self.ada.get(f"{path}/{view}").text, view)
        point = self.ada.get(f"{path}/prove").text.split(f"{path}/open-points/")[1].split('"')[0]
        bo = Visitor(self.web.address).sign_in("Bo Lund", PASSWORD)
        page = bo.form(f"{path}/open-points/{point}", how="taken out, put back", back="prove", save_key=key())
        self.assertTrue(str(page.url.path).endswith("/prove"))
        self.assertNotIn("Still in:", page.text)
        for wrong in ({"temporary": "ladder"}, {"back": "//elsewhere"}):
            self.assertEqual(self.ada.form(f"{path}/open-points", text="x", save_key=key(), **wrong).status_code, 422)

    def test_a_photo_is_kept_small_upright_and_without_its_data_and_other_files_are_refused(self) -> None:
        path = self.station(ROUND_WELL)
        where = {"device": "ebbstone_tray", "place": "relay.4"}
        for kind in ("JPEG", "PNG", "WEBP"):
            self.assertEqual(self.upload(f"{path}/photos", picture(kind), "strip.jpg", **where).status_code, 200)
        page = self.ada.get(f"{path}/wiring?device=ebbstone_tray&place=relay.4").text
        seq = page.split(f"{path}/photos/")[1].split('"')[0]
        answer = self.ada.get(f"{path}/photos/{seq}")
        self.assertEqual(answer.headers["content-type"], "image/jpeg")
        kept = Image.open(io.BytesIO(answer.content))
        self.assertEqual((kept.format, kept.size, dict(kept.getexif())), ("JPEG", (853, 1280), {}))
        for data, name in ((b"<svg onload='x'/>", "a.svg"), (b"\xff\xd8\xff\xe0 torn", "torn.jpg"), (b"", "none.png")):
            refused = self.upload(f"{path}/photos", data, name, **where)
            self.assertEqual((refused.status_code, "accepted: JPEG, PNG or WEBP" in refused.text), (422, True), name)
        self.assertEqual(self.upload(f"{path}/photos", picture(), "x.jpg", device="ebbstone_tray", place="relay.99").status_code, 422)
        whole = self.ada.get(f"{path}/station.json")
        self.assertEqual(len([entry for entry in whole.json()["record"] if entry["kind"] == "photo"]), 3)
        self.assertEqual(self.upload("/stations/import", whole.content, "station.json").status_code, 200)

    def test_a_photo_of_a_section_of_the_survey_comes_small_or_as_a_file(self) -> None:
        path = self.station(ROUND_WELL)
        self.upload(f"{path}/photos", picture(), "plate.jpg", device="survey", place="pump_1")
        image = base64.b64encode(picture(size=(400, 300))).decode()
        body = {"save_key": key(), "device": "survey", "place": "pump_1", "image": image}
        kept = self.ada.json(f"{path}/photo", body).json()
        self.assertEqual(self.ada.json(f"{path}/photo", body).status_code, 200)  # sent twice, kept once
        self.assertEqual(self.ada.get(kept["url"]).headers["content-type"], "image/jpeg")
        for page, words in ((f"{path}/survey", "Pump 1: "), (f"{path}/log", "photo</a> of Pump 1"), (f"{path}/handover", 'alt="Pump 1"')):
            self.assertEqual(self.ada.get(page).text.count(words), 2, page)
        for wrong, status, words in (
            ({"place": "attic"}, 422, "a section of this survey"), ({"image": "no base64"}, 422, "Nothing was stored"), ({"image": ""}, 422, "image"),
            ({"image": base64.b64encode(b"GIF89a").decode()}, 422, "accepted: JPEG, PNG or WEBP"), ({"device": "elsewhere"}, 422, "no such terminals"), ({"image": "A" * 2_100_000}, 413, "too large"),
        ):  # fmt: skip
            answer = self.ada.json(f"{path}/photo", {**body, "save_key": key(), **wrong})
            self.assertEqual((answer.status_code, words in answer.text), (status, True), answer.text[:300])

    def test_a_reader_looks_and_writes_nothing(self) -> None:
        path = self.station(ROUND_WELL)
        cy = Visitor(self.web.address).sign_in("Cy Rook", PASSWORD)
        self.assertEqual(cy.get(f"{path}/wiring").status_code, 200)
        refused = cy.form(f"{path}/wire-looks", device="ebbstone_tray", place="supply", phase="dead", found="ok", save_key=key())
        self.assertEqual(refused.status_code, 403)
