"""Two runs on one trend: what was done once, on the plan as it was and as it is."""

from tests.browser.case import BrowserTest


class BesideTest(BrowserTest):
    def run_to(self, least_s: int) -> None:
        """At the highest speed until so much has passed, then stop there."""
        tech = self.tech
        tech.one('[data-speed="600"]').click()
        tech.one("#play").click()
        tech.wait(lambda: self.seconds() >= least_s)
        tech.one("#play").click()
        tech.wait(lambda: tech.one("#play").text == "Go on")

    def seconds(self) -> int:
        hours, minutes, seconds = (int(part) for part in self.tech.one("#clock").text.split(" ")[-1].split(":"))
        return hours * 3600 + minutes * 60 + seconds

    def choose_beside(self, words: str) -> None:
        next(option for option in self.tech.all("#beside option") if words in option.text).click()

    def test_the_same_hands_on_the_plan_before_and_after_a_change(self) -> None:
        tech, station_id = self.tech, self.prepared_station()
        tech.open(f"/stations/{station_id}/rehearse")
        self.run_to(1800)
        tech.one("#keep").click()
        tech.one("#keep-note").send_keys("before")
        tech.one('#keep-dialog button[value="keep"]').click()
        tech.see("#told", "Kept as entry")
        tech.view("reckon")
        before = tech.number('[data-level="start_1"]')
        tech.type_setting("start_1", f"{before - 0.3:.2f}")
        tech.all_saved()
        tech.view("rehearse")
        self.choose_beside("the same on the plan of: before")
        tech.see("#beside", "Start this run first")
        self.run_to(1800)
        self.choose_beside("the same on the plan of: before")
        tech.see("#beside table", "Pumped")  # a band less deep: other starts, and other amounts when the run ends
        tech.see(".trend .u-legend", "the same on the plan of: before")
        here, there = (cell.text for cell in tech.all("#beside tbody tr:last-child td"))
        self.assertNotEqual(here, there)
        self.assertIn(here, tech.one("#totals").text)
        self.choose_beside("before, as kept")
        tech.see(".trend .u-legend", "before, as kept")
        self.choose_beside("nothing")
        tech.wait(lambda: "before" not in tech.one(".trend .u-legend").text)
        self.assertEqual(self.browser.complaints(), [])
