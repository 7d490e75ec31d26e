"""A kind of station that only the tests know, worked with in a browser: its drawing, its flag, its bench."""

from selenium.webdriver.common.keys import Keys

from tests.browser.case import BrowserTest
from tests.cistern.pages import forget, register
from tests.web.test_new_kind import POND


class NewKindTest(BrowserTest):
    @classmethod
    def setUpClass(cls) -> None:
        register()
        cls.addClassCleanup(forget)
        super().setUpClass()

    def test_its_flag_is_moved_and_its_bench_runs(self) -> None:
        tech = self.tech
        station = self.prepared_station(POND, "cistern")
        tech.open(f"/stations/{station}/reckon")
        tech.wait(lambda: tech.one('[data-flag="float"]'))
        self.browser.driver.execute_script("document.querySelector('[data-flag=\"float\"]').focus()")
        self.browser.driver.switch_to.active_element.send_keys(Keys.ARROW_RIGHT)
        tech.wait(lambda: tech.one('[data-level="float"]').get_attribute("value") == "1.62")
        tech.open(f"/stations/{station}/rehearse")
        tech.one('[data-speed="60"]').click()
        tech.one("#play").click()
        tech.see("#events", "Pump 1 starts at 0.40 m")
        tech.wait(lambda: self.browser.driver.execute_script("return document.querySelectorAll('#section rect.water').length") == 1)
        tech.open(f"/stations/{station}/card")
        tech.wait(lambda: tech.one("#card-section .flag"))
        for view in ("survey", "enter", "prove", "handover"):
            tech.open(f"/stations/{station}/{view}")
            tech.wait(lambda: tech.one("main"))
        self.assertEqual(self.browser.complaints(), [])
