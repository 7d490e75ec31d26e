"""Three pumps, a controller, floats behind the sensor, drives: the whole job in a browser."""

import itertools

from selenium.webdriver.common.keys import Keys

from tests.browser.case import BrowserTest

TRIPLEX = {
    "pumping.count": "3", "control.kind": "pump_controller", "control.level_by": "sensor_and_floats",
    "control.floats": "4", "control.swing_m": "0.12", "control.phase_monitor": "yes", "drives.fitted": "yes",
    "drives.least_hz": "28", "sureness.inflow_share": "20",
}  # fmt: skip


class TriplexTest(BrowserTest):
    """Three pumps, a controller, floats behind the sensor, drives: from the survey to the proofs."""

    def touch(self, part: str, what: str) -> None:
        """A part of the drawing, by keyboard: what can be done with it comes up, and the first of it has the focus."""
        tech = self.tech
        rooms = [button.rect for button in tech.all(".touch")]
        for first, second in itertools.combinations(rooms, 2):
            apart = any(low[at] + low[size] <= high[at] + 1 for at, size in (("x", "width"), ("y", "height")) for low, high in ((first, second), (second, first)))
            self.assertTrue(apart, f"a finger could mean both: {first} {second}")
        tech.one(f'.touch[title^="{part}"]').send_keys(Keys.ENTER)
        tech.wait(lambda: tech.one(f'[data-part]:not([hidden]) [data-break="{what}"]').is_displayed())
        self.assertEqual(tech.driver.execute_script("return document.activeElement.closest('[data-part]').querySelector('b').textContent"), part)
        tech.one(f'[data-part]:not([hidden]) [data-break="{what}"]').click()

    def test_from_survey_to_proofs(self) -> None:
        tech, station_id = self.tech, self.prepared_station()
        tech.open(f"/stations/{station_id}/survey")
        self.assertFalse(tech.one('[data-fact="control.floats"]').is_displayed())  # asked only where there are floats
        tech.fill_in(TRIPLEX)
        tech.all_saved()
        tech.wait(lambda: tech.state("survey").startswith("complete"))

        tech.view("reckon")
        tech.one("#choices summary").click()
        tech.see('[data-reasons-of="schools.stops"]', "cleans the well")
        self.choose("schools.stops", "own")
        tech.see('[data-reasons-of="schools.stops"]', "gentler on the main")
        self.choose("schools.stops", "common")
        self.choose("schools.speed_mode", "by_level")
        tech.wait(lambda: tech.all("#setting-full_speed_level"))
        self.assertFalse(tech.one('[data-fact="rules.clock_period_s"]').is_displayed())
        self.choose("schools.alternation", "clock")
        tech.wait(lambda: tech.one('[data-fact="rules.clock_period_s"]').is_displayed())
        self.choose("schools.alternation", "all_stopped")
        tech.all_saved()
        tech.see('[data-stays="high_alarm"]', "of 100")
        rest = tech.number('[data-level="least_rest"]')
        field = tech.one('[data-level="least_rest"]')
        field.send_keys(Keys.CONTROL, "a", Keys.NULL, str(int(rest) + 7), Keys.ENTER)
        tech.see("#setting-least_rest", "use ")
        tech.one("#level-as option[value='signal']").click()
        self.assertIn("mA", tech.one("#section").text)
        tech.all_saved()
        tech.wait(lambda: tech.state("reckon").startswith("all inside") or "limit" in tech.state("reckon"))

        tech.view("rehearse")
        tech.wait(lambda: len(tech.all("#reasons .reason")) == 3)
        tech.one('[data-speed="600"]').click()
        tech.all("[data-inflow]")[2].click()
        tech.one("#play").click()
        tech.see("#events", "Pump 1 starts")
        self.assertNotIn("full from", tech.one("#reasons").text)  # a line a pump, until its links are asked for
        tech.driver.execute_script("document.querySelector('[data-links=\"Pump 1\"]').click()")
        tech.see("#reasons", "full from")  # the drive says why it turns as fast as it does
        tech.driver.execute_script("document.querySelector('[data-links=\"Pump 1\"]').click()")
        tech.breaks("loop_open")
        in_sight = "const trend = document.querySelector('#trend .u-over').getBoundingClientRect(); return scrollY + trend.top + trend.height / 2"
        self.assertLess(tech.driver.execute_script(in_sight), 800.0)  # also while something is broken
        tech.see("#events", "the floats take over")
        tech.see("#alarms", "Level signal lost: new")
        tech.one('[data-act="silence"]').click()
        tech.see("#alarms", "Level signal lost: known")
        self.touch("Pump 1", "stalled")
        tech.see("#reasons", "tripped: overload; OFF resets")
        together = tech.one('.touch[title^="Pump 1"]')
        self.assertIn("Pump 1, Pump 2, Pump 3: work or break one", together.get_attribute("title"))  # the well is narrow, they stand 20 px apart
        together.send_keys(Keys.ENTER)
        tech.wait(lambda: tech.driver.execute_script("return document.activeElement.closest('[data-part]').querySelector('b').textContent") == "Pump 2")
        tech.one('[data-part]:not([hidden]) [data-switch="1"][data-place="1"]').click()  # its switch comes up with it
        tech.wait(lambda: tech.one('.switches [data-switch="1"][data-place="1"]').get_attribute("aria-pressed") == "true")

        tech.view("enter")
        for code in ("rest least", "pace full at", "tie high", "3 plate A"):
            self.assertTrue(any(code in row.text for row in tech.all(".keypad tr")), code)
        self.assertEqual(self.shown_at_keypad("rest least"), int(rest) + 7)

        tech.view("prove")
        tech.one(".on-bench button").click()
        tech.see("#after-float_high_alarm", "bench only, prove on site")
        self.assertNotIn("failed", tech.state("prove"))
        tech.observe("float_high_alarm", "yes")
        tech.observe("timer_start_gap", tech.one("#after-timer_start_gap summary .num").text.split()[0])
        tech.wait(lambda: tech.state("prove").startswith("2 of"))
        self.assertEqual(self.browser.complaints(), [])
