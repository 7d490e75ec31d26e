"""At the panel: the wiring walked with a fault, a number at a time on a phone, a stand-in watched live, a family written and used."""

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from goodbalance.demo.lifts import SLIPWAY, SLIPWAY_CHOICES
from goodbalance.exchange.modbus import Address
from goodbalance.standins.station import stand_in
from tests.answering import Answering
from tests.browser.case import BrowserTest


class WiringWalkTest(BrowserTest):
    def test_dead_then_live_with_a_fault_mended_and_a_jumper_taken_out(self) -> None:
        """On a phone: each group as the page leads, one fault told and mended, then live; a jumper stays in sight until it is out."""
        station = self.prepared_station()
        tech = self.tech
        self.browser.size(390, 844)
        self.addCleanup(self.browser.size, 1280, 800)
        tech.open(f"/stations/{station}/survey")
        tech.leave(lambda: tech.reach('a[href$="/wiring"]').click())
        tech.see("#at-hand", "Supply of the device")
        tech.see("#at-hand", "Waits until all is right")
        faulty = True
        while "may be energised" not in tech.one(".walk").text:
            title = tech.one("#at-hand h1").text
            if title == "Level sensor" and faulty:
                tech.one("#at-hand input[name=seen]").send_keys("plus and minus swapped")
                tech.leave(lambda: tech.one('#at-hand button[value="fault"]').click())
                tech.see("body", "Do not energise: 1 wiring fault")
                self.assertIn("1 wiring fault", tech.driver.find_element(By.CSS_SELECTOR, '.tabs a[data-view="survey"] .how').get_attribute("textContent"))
                faulty = False
            else:
                tech.leave(lambda: tech.one('#at-hand button[value="ok"]').click())
            if title == "Level sensor":
                self.assertFalse(faulty)
        self.assertNotIn("Do not energise", tech.one("body").text)
        live = [form for form in tech.all("#at-hand form") if form.find_elements(By.CSS_SELECTOR, 'input[name=phase][value="live"]')]
        live[0].find_element(By.CSS_SELECTOR, "input[name=seen]").send_keys("231 V")
        tech.leave(lambda: live[0].find_element(By.CSS_SELECTOR, 'button[value="ok"]').click())
        tech.see(".walk", "live 1 of")
        tech.driver.execute_script("document.querySelector('#at-hand details').scrollIntoView({ block: 'center' })")
        tech.one("#at-hand details summary").click()
        tech.leave(lambda: tech.one("#at-hand details button").click())
        tech.see(".temporary", "Still in: Jumper at")
        tech.view("reckon")
        tech.see(".temporary", "Still in: Jumper at")
        tech.leave(lambda: tech.one(".temporary button").click())
        self.assertEqual(tech.all(".temporary"), [])
        self.assertEqual(self.browser.complaints(), [])


class MotorReadingTest(BrowserTest):
    def test_one_reading_at_a_time_on_a_phone_with_what_is_odd_and_what_follows(self) -> None:
        """From the survey to the pump, by its points in order; a lead that stands out is told, read again, and the overload follows."""
        station = self.prepared_station()
        tech = self.tech
        self.browser.size(390, 844)
        self.addCleanup(self.browser.size, 1280, 800)

        def read(*amps: str) -> None:
            for lead, text in enumerate(amps, 1):
                box = tech.one(f'[name="amps.{lead}"]')
                box.clear()
                box.send_keys(text)
            box.send_keys(Keys.ENTER)

        tech.open(f"/stations/{station}/survey")
        tech.leave(lambda: tech.reach('a[href$="/motors"]').click())
        tech.see("h1", "closed valve")
        tech.see(".hazard", "no longer than half a minute")
        plate_a = float(tech.one(".figures-plain .num").text.split(" A")[0])
        read("x", "1", "1")
        tech.see("[role=alert]", "current, lead 1")
        self.assertEqual(tech.one('[name="amps.1"]').get_attribute("value"), "x")
        tech.leave(lambda: read(*(f"{0.7 * plate_a:.2f}",) * 3))
        tech.see(".motors", "nothing odd")
        while "normal work" not in tech.one("h1").text:
            following = tech.all(".motors a.go")
            tech.leave((following[0] if following else tech.one('.points a[href$="normal"]')).click)
        tech.leave(lambda: read(f"{0.85 * plate_a:.2f}", f"{1.0 * plate_a:.2f}", f"{0.85 * plate_a:.2f}"))
        tech.see("[role=alert]", "move all three leads on by one")
        tech.leave(lambda: read(*(f"{0.88 * plate_a:.2f}",) * 3))
        tech.see(".motors", "nothing odd")
        share = tech.one("#h-share")
        share.send_keys("60")
        tech.leave(lambda: share.send_keys(Keys.ENTER))
        tech.see("#by-head", "60 % of the nameplate")
        self.assertLessEqual(tech.driver.execute_script("return document.documentElement.scrollWidth"), 390)
        tech.view("handover")
        tech.see("main", "Motors, read with a clamp meter")
        self.assertEqual([each for each in self.browser.complaints() if "422" not in each], [])


class PanelTest(BrowserTest):
    def test_a_number_at_a_time_by_keyboard_on_a_phone(self) -> None:
        """The number fills the screen; a wrong read-back keeps it there and says what slipped, the right one goes on to the next."""
        station = self.prepared_station()
        tech = self.tech
        self.browser.size(390, 844)
        self.addCleanup(self.browser.size, 1280, 800)
        one = 1
        while not (tech.open(f"/stations/{station}/enter?one={one}") or "4 lift" in tech.one("h1").text):
            one += 1
        shown = tech.one(".huge .display").text
        self.assertGreater(tech.one(".huge .display").size["height"], 70)
        tech.leave(lambda: tech.one("#typed").send_keys(f"{float(shown) * 10:.2f}", Keys.ENTER))
        tech.see(".one", "The decimal point slipped")
        field = tech.one("#typed")
        field.clear()
        tech.leave(lambda: field.send_keys(shown, Keys.ENTER))
        self.assertIn(f"one={one + 1}", tech.driver.current_url)
        width = tech.driver.execute_script("return document.documentElement.scrollWidth")
        self.assertLessEqual(width, 390)


class LiveTest(BrowserTest):
    def test_a_stand_in_is_watched_lost_seen_at_once_and_its_trend_proves(self) -> None:
        station = self.prepared_station(SLIPWAY, decided=SLIPWAY_CHOICES)
        tech, app = self.tech, self.web.app
        there = Answering(stand_in("ebbstone_tray"), pace=8.0)
        self.addCleanup(setattr, app.state, "devices", {})
        with there:
            app.state.devices = {"Tray": Address("127.0.0.1", there.port)}
            tech.open(f"/stations/{station}/live")
            self.assertEqual(tech.one('[data-channel="level_m"] [data-value]').text, "\u2013")
            tech.one("#watch").click()
            tech.see("#standing", "live")
            tech.see('[data-channel="level_m"]', "as expected")
            tech.wait(lambda: tech.number("#recorded") >= 4)
        tech.see("#standing", "LOST for")
        tech.see("#standing", "nothing answers at 127.0.0.1")
        self.assertEqual({cell.text for cell in tech.all("[data-value]")}, {"\u2013"})
        tech.leave(lambda: tech.one("#keep").click())
        tech.see("main", "What this trend proves")


class FamilyTest(BrowserTest):
    def test_ten_rows_are_pasted_into_a_copy_and_the_job_takes_it(self) -> None:
        station = self.prepared_station()
        tech = self.tech
        tech.open("/families/new?like=ebbstone_tray")
        tech.see("#standing", "to mend")
        tech.one("#h-id").send_keys("yard_tray")
        tech.see("#standing", "nothing is wrong with it")
        self.paste('[data-table="parameters"] [data-column="high"]', "lots\t1\n")
        tech.see("#standing", "parameters, row 1, high: 'lots' is no number")
        tech.driver.refresh()
        tech.see("#saved", "as you left it here")
        tech.see("#standing", "'lots' is no number")
        self.paste('[data-table="parameters"] [data-column="high"]', "\tmetre\n")
        tech.see("#standing", "nothing is wrong with it")
        tech.one(f'#station option[value="{station}"]').click()
        tech.see("#tried", "carries all of the plan")
        tech.one("#save").click()
        tech.see("#saved", "saved as revision 1")
        tech.open(f"/stations/{station}/families")
        tech.leave(lambda: tech.one('form[action$="/family"] button').click())
        tech.see(".families", "set in this job")
        self.assertEqual(self.browser.complaints(), [])

    def paste(self, css: str, text: str) -> None:
        """Cells from a spreadsheet into one cell."""
        self.tech.driver.execute_script(
            "const data = new DataTransfer(); data.setData('text/plain', arguments[1]);"
            "document.querySelector(arguments[0]).dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))",
            css, text,
        )  # fmt: skip
