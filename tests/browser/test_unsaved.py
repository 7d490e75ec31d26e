"""What is typed survives a dead server, an ended session, another person at the same browser, two tabs and a full disk."""

from goodbalance.store import people, records
from goodbalance.store.database import session_maker
from goodbalance.store.people import Role
from tests.browser.case import BrowserTest
from tools.stage.server import Visitor, engine, server


class UnsavedTest(BrowserTest):
    def written(self, station_id: int) -> list[tuple[str, str]]:
        """Who wrote what of the well, after the survey was made."""
        with session_maker(engine())() as session:
            later = [e for e in records.entries(session, station_id) if e.seq > 2 and e.kind == "facts"]
        return [(e.author, change["text"]) for e in later for change in e.body["changes"].values()]

    def sign_out(self) -> None:
        """As when the session ends: the cookie is gone, the page stands as it did."""
        self.tech.driver.delete_cookie("goodbalance")

    def sign_in_as(self, name: str) -> None:
        self.tech.open("/sign-in")
        self.tech.one("#name").clear()
        self.tech.one("#name").send_keys(name)
        self.tech.one("#password").send_keys("quite long enough here")
        self.tech.one("button.go").click()
        self.tech.see("h1", "Stations")

    def typed_while_away(self, text: str = "5.25") -> int:
        tech, station_id = self.tech, self.prepared_station()
        with session_maker(engine())() as session:
            people.add_person(session, "Bo Lund", Role.TECHNICIAN, "quite long enough here")
            session.commit()
        tech.open(f"/stations/{station_id}/survey")
        tech.one("#survey")
        server().stop()
        try:
            tech.fill_in({"well.depth_m": text})
            tech.see("#unsaved", "The database is not answering")
        finally:
            server().start()
        return station_id

    def test_a_session_that_ended_meanwhile_loses_nothing(self) -> None:
        tech, station_id = self.tech, self.typed_while_away()
        self.sign_out()
        tech.one("#unsaved [data-retry]").click()
        tech.see("#unsaved", "Sign in again")
        tech.open("/sign-in")  # here nobody is: nothing may be sent, and nothing thrown away
        tech.see("#unsaved", "1 change waits for Ada Wren")
        self.assertEqual(self.written(station_id), [])
        self.sign_in_as("Ada Wren")
        tech.all_saved()
        tech.wait(lambda: self.written(station_id) == [("Ada Wren", "5.25")])
        tech.wait(lambda: not tech.kept_in_browser())

    def test_what_one_person_typed_never_goes_out_under_another_s_name(self) -> None:
        tech, station_id = self.tech, self.typed_while_away()
        self.sign_out()
        self.sign_in_as("Bo Lund")
        tech.open(f"/stations/{station_id}/survey")
        tech.see("#unsaved", "1 change waits for Ada Wren")
        tech.fill_in({"well.depth_m": "5.5"})
        tech.wait(lambda: self.written(station_id) == [("Bo Lund", "5.5")])
        # the browser lets go of an item when the answer has come, a moment after it was written
        tech.wait(lambda: [item["name"] for item in tech.kept_in_browser()] == ["Ada Wren"])

    def test_two_tabs_lose_nothing_and_send_nothing_twice(self) -> None:
        tech, station_id = self.tech, self.prepared_station()
        tech.open(f"/stations/{station_id}/survey")
        first = tech.driver.current_window_handle
        tech.driver.switch_to.new_window("tab")
        tech.open(f"/stations/{station_id}/survey")
        server().stop()
        try:
            tech.fill_in({"well.intake_m": "0.3", "well.length_m": "2.3"})
            tech.driver.switch_to.window(first)
            tech.fill_in({"well.depth_m": "5.3", "well.width_m": "1.6"})
            tech.see("#unsaved", "wait")
            self.assertEqual(len(tech.kept_in_browser()), 4)
        finally:
            server().start()
        for handle in tech.driver.window_handles:
            tech.driver.switch_to.window(handle)
            tech.driver.execute_script("document.querySelector('#unsaved [data-retry]').click()")
        tech.wait(lambda: not tech.kept_in_browser())
        self.assertEqual(sorted(text for _, text in self.written(station_id)), ["0.3", "1.6", "2.3", "5.3"])
        tech.driver.close()
        tech.driver.switch_to.window(first)

    def test_a_browser_without_room_says_so_and_sends_all_the_same(self) -> None:
        tech, station_id = self.tech, self.prepared_station()
        tech.open(f"/stations/{station_id}/survey")
        tech.driver.execute_script("IDBObjectStore.prototype.put = () => { throw new DOMException('full', 'QuotaExceededError'); }")
        server().stop()
        try:
            tech.fill_in({"well.depth_m": "5.25"})
            tech.see("#unsaved", "leave this page open")
        finally:
            server().start()
        tech.one("#unsaved [data-retry]").click()
        tech.all_saved()
        self.assertEqual(self.written(station_id), [("Ada Wren", "5.25")])

    def test_a_password_is_never_kept_in_the_browser(self) -> None:
        tech, station_id = self.tech, self.prepared_station()
        tech.open(f"/stations/{station_id}/handover")
        tech.one("#sign-role").send_keys("technician")
        tech.one("#sign-password").send_keys("quite long enough here")
        server().stop()
        try:
            tech.one('form[action$="/sign"] button').click()
            tech.see('form[action$="/sign"]', "Nothing was done")
            self.assertEqual(tech.kept_in_browser(), [])
        finally:
            server().start()
        tech.wait(lambda: Visitor(self.web.address).get("/readyz").status_code == 200)
        tech.one('form[action$="/sign"] button').click()
        tech.see("main", "Signed by Ada Wren, technician")

    def test_what_is_refused_steps_aside_can_be_read_and_blocks_nothing(self) -> None:
        tech, station_id = self.tech, self.prepared_station()
        tech.open(f"/stations/{station_id}/survey")
        with session_maker(engine())() as session:
            people.people(session)[0].role = Role.READER  # the right to write is taken meanwhile
            session.commit()
        tech.fill_in({"well.depth_m": "5.25"})
        tech.see("#unsaved", "1 refused: You can read here")
        with session_maker(engine())() as session:
            people.people(session)[0].role = Role.LEAD
            session.commit()
        tech.fill_in({"well.intake_m": "0.3"})
        tech.wait(lambda: self.written(station_id) == [("Ada Wren", "0.3")])
        tech.one("#unsaved [data-show]").click()
        tech.see("#unsaved-list", "well.depth_m")
        tech.one("#unsaved-list tbody button").click()
        tech.wait(lambda: ("Ada Wren", "5.25") in self.written(station_id))
