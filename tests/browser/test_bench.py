"""The bench in a browser: a week, from event to event and back, and two runs on one trend, on the plan as it was and as it is."""

from selenium.webdriver.common.keys import Keys

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


class BenchTest(BrowserTest):
    def test_a_week_runs_in_the_page_and_the_bench_proves_the_plan(self) -> None:
        tech, station_id = self.tech, self.prepared_station()
        tech.open(f"/stations/{station_id}/rehearse")
        tech.one("#week [data-go]").click()
        tech.see("#week", "7 days:")
        tech.see("#week", "No harm seen")
        tech.view("prove")
        tech.one(".on-bench button").click()
        tech.see("#after-common_stop", "bench only, prove on site")
        self.assertEqual(tech.state("prove"), "0 of 28 passed")
        self.assertEqual(self.browser.complaints(), [])

    def test_from_event_to_event_and_back_and_another_way_from_there(self) -> None:
        tech, station_id = self.tech, self.prepared_station()
        tech.open(f"/stations/{station_id}/rehearse")
        clock = lambda: tech.one("#clock").text  # noqa: E731
        tech.all("[data-inflow]")[2].click()
        while "Pump 1 starts" not in tech.one("#events").text:
            before = clock()
            tech.one("#event-next").click()
            tech.wait(lambda before=before: clock() > before)
        started = clock()
        tech.one("#event-next").click()
        tech.wait(lambda: clock() > started)
        tech.breaks("loop_open")
        tech.one("#event-next").click()
        tech.see("#reasons", "level signal lost")
        while clock() > started:  # before the loop opened; it stands as whole again
            before = clock()
            tech.one("#event-before").click()
            tech.wait(lambda before=before: clock() < before)
        tech.wait(lambda: tech.one('[data-break="loop_open"]').get_attribute("aria-pressed") == "false")
        tech.see("#told", "happens again")
        self.assertNotIn("level signal lost", tech.one("#reasons").text)
        tech.all('.switches [data-switch="1"]')[1].click()  # another way from here: pump 1 off, the loop never opens
        tech.see("#reasons", "OFF")
        tech.one("#event-next").click()
        tech.wait(lambda: clock() > started)
        self.assertNotIn("level signal lost", tech.one("#reasons").text)
        tech.all("#events [data-at]")[-1].click()  # the first thing that happened
        tech.wait(lambda: clock() == "00:00:00")
        self.assertEqual(self.browser.complaints(), [])

    def test_a_drawdown_timed_with_the_watch_of_the_page(self) -> None:
        tech, station_id = self.tech, self.prepared_station()
        tech.open(f"/stations/{station_id}/drawdown")
        watch = tech.one('[data-watch="d-1.pumping.time"]')
        watch.click()
        tech.wait(lambda: "Stop" in watch.text)
        watch.click()
        self.assertRegex(tech.one('[name="1.pumping.time"]').get_attribute("value"), r"^[0-9]+\.[0-9]$")
        typed = {
            "before.from": "1,0",
            "before.to": "1,2",
            "before.time": "300",
            "pumping.from": "1,2",
            "pumping.to": "0,9",
        }
        for part, text in {**typed, "pumping.time": "90"}.items():
            tech.one(f'[name="1.{part}"]').send_keys(Keys.CONTROL, "a", Keys.NULL, text)
        tech.one("form .button.go").click()
        # 3.3 m2: fills at 0.66 / 300 = 2.2 l/s, drawn down at 0.99 / 90 = 11 l/s: 13.2 l/s
        tech.see("aside", "13.20 l/s")
        tech.one("#use-rate").click()
        tech.see("aside", "with the measured rates")
