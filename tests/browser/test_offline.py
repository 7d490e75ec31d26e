"""A panel in a cellar: a station that was opened once opens without a server, is filled in, and everything arrives once."""

from goodbalance.core.record.chain import Entry, Kind
from goodbalance.store import people, records
from goodbalance.store.database import session_maker
from goodbalance.store.people import Role
from tests.browser.case import BrowserTest
from tools.stage.server import engine

VIEWS = ("survey", "reckon", "rehearse", "enter", "prove", "handover")


class OfflineTest(BrowserTest):
    def kept_station(self) -> int:
        """A station that this browser has kept: each of its pages."""
        station_id = self.prepared_station()
        self.tech.open(f"/stations/{station_id}/survey")
        self.tech.see("#kept-how", "Opens without signal")
        return station_id

    def later(self, station_id: int) -> list[Entry]:
        with session_maker(engine())() as session:
            return [entry for entry in records.entries(session, station_id) if entry.seq > 2]

    def fill_in_without_signal(self, station_id: int) -> None:
        """A fact, a number at the keypad, a proof, an open point: one of each, in this order."""
        tech = self.tech
        tech.open(f"/stations/{station_id}/survey")
        tech.see("#no-signal", "No signal. This page as it stood")
        tech.fill_in({"well.depth_m": "5.25"})
        tech.see("#unsaved", "1 to send")
        tech.open(f"/stations/{station_id}/enter?one=1")
        shown = tech.one(".huge .display").text
        tech.one("section:not([hidden]) > form [name=typed]").send_keys(shown)
        tech.reach("section:not([hidden]) > form .button.go").click()
        tech.wait(lambda: "one=2" in tech.driver.current_url)
        tech.see("section:not([hidden]) > .quiet", "2 of")
        tech.open(f"/stations/{station_id}/prove")
        tech.reach("#after-up_low_cut_out summary").click()
        tech.one("#seen-up_low_cut_out").send_keys("0.33")
        tech.reach("#after-up_low_cut_out .button.go").click()
        tech.see("#after-up_low_cut_out", "To send: 0.33")
        tech.open(f"/stations/{station_id}/handover")
        tech.reach('form[action$="/open-points"] [name=text]').send_keys("Lid of the sump is cracked")
        tech.reach('form[action$="/open-points"] button').click()
        tech.see("main", "To send: Lid of the sump is cracked")
        tech.see("#unsaved", "4 to send")

    def assert_all_arrived(self, station_id: int) -> None:
        self.tech.wait(lambda: not self.tech.kept_in_browser())
        found = [entry.kind for entry in self.later(station_id)]
        self.assertEqual(found, [Kind.FACTS, Kind.READ_BACK, Kind.OBSERVATION, Kind.OPEN_POINT])

    def test_a_day_without_signal_arrives_in_order_and_once(self) -> None:
        tech, station_id = self.tech, self.kept_station()
        with self.web.away():
            for view in VIEWS:
                tech.open(f"/stations/{station_id}/{view}")
                tech.see("#no-signal", "No signal")
                self.assertEqual(tech.one(f'.tabs a[data-view="{view}"]').get_attribute("aria-current"), "page")
            self.fill_in_without_signal(station_id)
            tech.open(f"/stations/{station_id}/survey")  # opened anew it shows what was typed, not what the server knew
            tech.wait(lambda: tech.one('[data-fact="well.depth_m"]').get_attribute("value") == "5.25")
            tech.open(f"/stations/{station_id}/enter")
            tech.see(".keypad", "to send")
            tech.open("/stations/999/survey")
            tech.see("main", "this page is not kept here")
            tech.see("#kept-stations", "North pit")
        tech.open(f"/stations/{station_id}/prove")
        self.assert_all_arrived(station_id)
        tech.see("#after-up_low_cut_out", "0.33 m")
        self.assertFalse(tech.one("#no-signal").is_displayed())

    def test_the_tab_closed_and_the_session_ended_lose_nothing(self) -> None:
        tech, station_id = self.tech, self.kept_station()
        first = tech.driver.current_window_handle
        with self.web.away():
            tech.driver.switch_to.new_window("tab")
            self.browser.size(1280, 800)
            self.fill_in_without_signal(station_id)
            tech.driver.close()
            tech.driver.switch_to.window(first)
            tech.driver.delete_cookie("goodbalance")
        tech.open(f"/stations/{station_id}/survey")
        tech.see("#unsaved", "4 changes wait for Ada Wren")
        self.sign_in()
        self.assert_all_arrived(station_id)

    def test_both_texts_are_kept_where_somebody_else_changed_the_field_meanwhile(self) -> None:
        tech, station_id = self.tech, self.kept_station()
        with self.web.away():
            self.fill_in_without_signal(station_id)
            with session_maker(engine())() as session:
                people.add_person(session, "Bo Lund", Role.TECHNICIAN, "quite long enough here")
                records.append(session, station_id, Kind.FACTS, {"changes": {"well.depth_m": {"text": "4.75", "units": "metric"}}}, "Bo Lund")
                session.commit()
        tech.open("/")  # on a page that knows nothing of the field
        tech.see("#unsaved", '1 to decide: Bo Lund wrote "4.75" meanwhile, you typed "5.25"')
        self.assertEqual([entry.author for entry in self.later(station_id) if entry.kind is Kind.FACTS], ["Bo Lund"])
        tech.one("#unsaved [data-show]").click()
        tech.see("#unsaved-list tbody", "Keep theirs")
        tech.one("#unsaved-list tbody button").click()
        tech.wait(lambda: not tech.kept_in_browser())
        texts = [entry.body["changes"]["well.depth_m"]["text"] for entry in self.later(station_id) if entry.kind is Kind.FACTS]
        self.assertEqual(texts, ["4.75", "5.25"])

    def test_a_browser_that_cannot_keep_pages_says_why(self) -> None:
        tech, station_id = self.tech, self.prepared_station()
        broken = (
            ("Object.defineProperty(window, 'isSecureContext', { value: false })", "reached by TLS"),
            ("delete Navigator.prototype.serviceWorker", "this browser cannot keep pages"),
            ("ServiceWorkerContainer.prototype.register = () => Promise.reject(new Error('denied'))", "refuses to keep pages (denied)"),
        )
        for script, words in broken:
            added = tech.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": script})
            tech.open(f"/stations/{station_id}/survey")
            tech.see("#kept-how", words)
            tech.driver.execute_cdp_cmd("Page.removeScriptToEvaluateOnNewDocument", added)

    def test_who_signs_out_leaves_no_pages_and_nobody_sees_another_s(self) -> None:
        tech, station_id = self.tech, self.kept_station()
        with session_maker(engine())() as session:
            people.add_person(session, "Bo Lund", Role.TECHNICIAN, "quite long enough here")
            session.commit()
        kept = "return caches.open('goodbalance-pages').then((pages) => pages.keys()).then((keys) => keys.map((key) => new URL(key.url).pathname))"
        self.assertIn(f"/stations/{station_id}/prove", tech.driver.execute_script(kept))
        tech.driver.delete_cookie("goodbalance")
        tech.open("/sign-in")
        tech.one("#name").send_keys("Bo Lund")
        tech.one("#password").send_keys("quite long enough here")
        tech.one("button.go").click()
        tech.see("h1", "Stations")
        tech.wait(lambda: f"/stations/{station_id}/prove" not in tech.driver.execute_script(kept))
        tech.open(f"/stations/{station_id}/survey")
        tech.see("#kept-how", "Opens without signal")
        tech.open("/people")
        tech.one('form[action$="/sign-out"] button').click()
        tech.see("h1", "Sign in")
        tech.wait(lambda: tech.driver.execute_script(kept) == [])

    def test_a_full_disk_is_told_and_what_was_kept_stays(self) -> None:
        tech, station_id = self.tech, self.kept_station()
        with session_maker(engine())() as session:
            other = records.create_station(session, "South pit", "Yard", "lift", "Ada Wren").id
            session.commit()
        tech.driver.execute_cdp_cmd("Storage.overrideQuotaForOrigin", {"origin": self.web.address, "quotaSize": 1000})
        try:
            tech.open(f"/stations/{other}/survey")
            tech.see("#kept-how", "no room to keep it")
        finally:
            tech.driver.execute_cdp_cmd("Storage.overrideQuotaForOrigin", {"origin": self.web.address})
        with self.web.away():
            tech.open(f"/stations/{station_id}/prove")
            tech.see("#no-signal", "No signal")

    def test_what_is_saved_does_not_fetch_every_page_anew_each_time(self) -> None:
        tech, station_id = self.tech, self.kept_station()
        kept = "return caches.open('goodbalance-pages').then((pages) => pages.match(arguments[0])).then((page) => page.headers.get('x-kept-at'))"
        first = [tech.driver.execute_script(kept, f"/stations/{station_id}/{page}") for page in ("enter?one=all", "prove")]
        tech.fill_in({"well.depth_m": "5.25"})
        tech.wait(lambda: self.later(station_id))
        tech.view("reckon")
        tech.see("#kept-how", "Opens without signal")
        again = [tech.driver.execute_script(kept, f"/stations/{station_id}/{page}") for page in ("enter?one=all", "prove")]
        self.assertEqual(again, first)  # within a minute
        self.assertLess(first[0], tech.driver.execute_script(kept, f"/stations/{station_id}/reckon"))  # what is looked at is kept as it is
