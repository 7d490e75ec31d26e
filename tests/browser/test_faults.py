"""A first energising with a wrong rotation, a fault found from what is seen, and a gap in the proofs kept as an open point."""


from tests.browser.case import BrowserTest


class FaultsTest(BrowserTest):
    def note(self, good: bool, **reads: str) -> None:
        """The step that is shown: the station is so, these were read, and it is as it must be or not."""
        tech = self.tech
        for name, text in reads.items():
            box = tech.one(f'[name="{name}"]')
            box.clear()
            box.send_keys(text)
        self.press('[name="confirmed"]')
        tech.leave(lambda: self.press(f'button[name="good"][value="{"yes" if good else "no"}"]'))

    def press(self, css: str) -> None:
        """With a thumb: scrolled clear of the bar at the bottom first."""
        button = self.tech.one(css)
        self.tech.driver.execute_script("arguments[0].scrollIntoView({ block: 'center' })", button)
        button.click()

    def test_a_first_energising_in_which_a_pump_turns_the_wrong_way(self) -> None:
        """On a phone, by hazard: the supply is read, the bump is wrong, two leads are swapped dead, the next bump is right."""
        station = self.prepared_station()
        tech = self.tech
        self.browser.size(390, 844)
        self.addCleanup(self.browser.size, 1280, 800)
        tech.open(f"/stations/{station}/energising")
        while "Rotation" not in (title := tech.one("h1").text):
            reads = {"insulation": "150", "earth": "0.2"} if "Insulation" in title else {}
            if "Supply voltages" in title:
                reads = {"volts_1": "399", "volts_2": "401", "volts_3": "400"}
                tech.see(".must", "every switch OFF")
            self.note(True, **reads)
        tech.see(".hazard", "Nobody in reach of the shaft")
        self.press('button[name="good"][value="yes"]')
        tech.see("[role=alert]", "Say first how the station is")
        self.note(False)
        tech.see("h1", "Two motor leads of pump 1 swapped")
        tech.see(".must", "proved dead")
        self.note(True)
        tech.see("h1", "Rotation of pump 1")
        self.note(True)
        tech.see("h1", "Supply under the load of pump 1")
        self.assertLessEqual(tech.driver.execute_script("return document.documentElement.scrollWidth"), 390)
        tech.view("handover")
        tech.see("main", "Rotation of pump 1 by a bump")
        self.assertEqual([each for each in self.browser.complaints() if "422" not in each], [])

    def test_from_a_broken_bench_to_its_cause(self) -> None:
        """A starter is broken on the bench; what is seen there is taken as if on site, and the cause and what would start it come back."""
        station = self.prepared_station()
        tech = self.tech
        tech.open(f"/stations/{station}/rehearse")
        tech.breaks("starter", "1")
        tech.all("[data-inflow]")[2].click()
        tech.one('[data-speed="600"]').click()
        tech.one("#play").click()
        tech.see("#alarms", "Pump 1 failed")
        tech.wait(lambda: tech.one('.reason [data-ways="1"]').text == "What would start it?")
        tech.driver.execute_script("document.querySelector('.reason [data-ways=\"1\"]').click()")
        tech.see("#ways-told", "put right")
        tech.leave(tech.one("#ask-why").click)
        self.assertEqual(tech.one('[data-sign="runs.1"]').get_attribute("value"), "no")
        tech.one("#why button.go").click()
        first = tech.see("#causes .causes", "fits all you saw").split("\n")
        self.assertIn("Pump 1", "".join(first[:4]))
        tech.see("#causes", "Then try")

    def test_what_nobody_would_notice_is_kept_as_an_open_point(self) -> None:
        station = self.prepared_station()
        tech = self.tech
        tech.open(f"/stations/{station}/prove")
        tech.leave(tech.one('a[href$="/noticing"]').click)
        tech.one("[data-go]").click()
        tech.wait(lambda: len(tech.all("[data-best]")) > 1)
        tech.one("[data-stop]").click()
        tech.wait(lambda: tech.one("[data-go]").is_displayed())
        tech.see("[data-go]", "Go on with the other")
        tech.open(f"/stations/{station}/noticing")  # what was tried is still there
        tried = len(tech.all("[data-best]"))
        self.assertGreater(tried, 1)
        tech.see("[data-told]", f"{tried} of ")
        tech.one("[data-go]").click()
        tech.wait(lambda: len(tech.all("[data-best]")) == len(tech.all("[data-fault]")))
        tech.see("[data-told]", "pass every proof")
        tech.one("[data-gaps]").click()
        self.assertFalse(any(body.is_displayed() for body in tech.all('[data-best="fails"]')))
        keep = tech.one('[data-best="nothing"] [data-keep]')
        keep.click()
        tech.see('[data-best="nothing"]', "Kept as an open point")
        tech.view("handover")
        tech.see("main", "No proof notices it")
        tech.open(f"/stations/{station}/guarded")
        tech.see(".guarded", "In HAND" if not tech.all(".guarded td") else "stops")
