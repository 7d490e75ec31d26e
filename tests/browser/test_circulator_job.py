"""A ring commissioned in a browser, from an empty survey to a signed handover, its hours over midnight, its week on a page."""

from selenium.webdriver import Keys

from tests.browser.case import BrowserTest

# two branches of a small guest house; not the demo's
GUESTS = {
    "visit.controls_off": "yes", "ring.branches": "2", "heat.set_c": "61", "heat.watts": "14", "heat.volume_m3": "0,3",
    "common.there_m": "4", "common.back_m": "4,5", "common.bore_m": "22", "common.back_bore_m": "16",
    "branch_1.name": "upper rooms", "branch_1.there_m": "24", "branch_1.there_bore_m": "16", "branch_1.back_m": "24", "branch_1.back_bore_m": "10", "branch_1.around_c": "18",
    "branch_2.name": "kitchen", "branch_2.there_m": "9", "branch_2.there_bore_m": "16", "branch_2.back_m": "9", "branch_2.back_bore_m": "10",
    "valves.turns": "4", "valves.kv_m3s": "1.1", "pump.vented": "yes", "pump.speeds": "3", "pump.speed_1": "55", "pump.speed_2": "78",
    "use.from_1_h": "6", "use.to_1_h": "0.5", "use.wait_s": "20", "as_found.mode_known": "yes", "as_found.mode": "fixed_speed", "as_found.speed": "3",
}  # fmt: skip
CURVE = "flow_lps;head_m;power_kw\n0;4,2;0,008\n0,1;4;0,014\n0,2;3,6;0,02\n0,35;2,5;0,027\n0,5;1;0,032\n"


class CirculatorJobTest(BrowserTest):
    def test_from_an_empty_survey_to_a_signed_handover(self) -> None:
        tech = self.tech
        tech.begin("Ada Wren", "quite long enough here")
        tech.new_station("Guest house ring", "Cellar", "circulator")
        tech.fill_in({**GUESTS, "branch_2.back_m": "0,1"})
        tech.see("table.alike tbody:nth-of-type(2) .said", "Length back is 0.10 m; accepted: 0.20 m")
        self.assertFalse(tech.one("table.alike tbody:nth-of-type(3)").is_displayed())
        tech.fill_in({"branch_2.back_m": "9"})
        tech.all_saved()
        tech.one('input[form="csv-pump-curve"]').send_keys(self.chosen("pump.csv", CURVE))
        tech.leave(tech.one('button[form="csv-pump-curve"]').click)
        tech.wait(lambda: tech.state("survey").startswith("complete"))
        self.reckon()
        self.rehearse()
        tech.view("enter")
        tech.read_back_all()
        tech.one('form[action$="/stored"] button').click()
        tech.wait(lambda: tech.state("enter") == "read back")
        tech.view("prove")
        tech.one(".on-bench button").click()
        tech.see("#after-return_1", "bench only, prove on site")
        self.assertNotIn("failed", tech.state("prove"))
        for proof_id in [p.get_attribute("id").removeprefix("after-") for p in tech.all(".proof")]:
            tech.observe(proof_id, self.good_answer(proof_id))
        tech.wait(lambda: tech.state("prove") == "all passed")
        tech.view("handover")
        for words in ("Guest house ring", "set by hand at the valve", "The owner may move the hours", "Local rules on hygiene"):
            tech.see("body", words)
        self.assertEqual(len(tech.all(".week-strip tr")), 8)
        tech.one("#sign-role").send_keys("commissioning technician")
        tech.one("#sign-password").send_keys("quite long enough here")
        tech.one('form[action$="/sign"] button').click()
        tech.see("main", "Signed by Ada Wren, commissioning technician")
        self.assertEqual(self.browser.complaints(), [])

    def reckon(self) -> None:
        """A rule that is too warm for this store leaves no room, and says what opens it; then the modes, and a valve by keyboard."""
        tech = self.tech
        tech.view("reckon")
        tech.one("#choices summary").click()
        tech.fill_in({"rules.least_return_c": "61"})
        tech.see("#setting-set_pressure", "No room")
        tech.see("#setting-set_pressure", "a coldest point of")
        tech.fill_in({"rules.least_return_c": "52", "rules.source": "house rule of the valley"})
        tech.all_saved()
        tech.wait(lambda: "empty" not in tech.state("reckon"))
        self.by_keyboard()
        tech.type_setting("valve_2", "1.2")
        tech.see("#setting-valve_2", "use ")
        tech.all_saved()
        tech.leave(tech.one('a[href$="/modes"]').click)
        tech.see("main", "A constant pressure (chosen)")
        tech.view("reckon")

    def by_keyboard(self) -> None:
        """Arrows nudge a valve by a step and go on to the next number; w says why."""
        tech = self.tech
        before = tech.number('[data-level="valve_2"]')
        tech.wait(lambda: tech.one('[data-level="valve_2"]').send_keys(Keys.ARROW_RIGHT) is None)  # the page may just draw it anew
        tech.wait(lambda: abs(tech.number('[data-level="valve_2"]') - before - 0.1) < 1e-6)
        tech.all_saved()
        tech.wait(lambda: tech.one('[data-level="valve_1"]').send_keys(Keys.ARROW_DOWN, "w") is None)
        tech.see("#setting-valve_2", "its own coldest point")

    def rehearse(self) -> None:
        tech = self.tech
        tech.view("rehearse")
        tech.one('[data-speed="7200"]').click()
        tech.one("#play").click()
        tech.see("#events", "The pump starts")
        tech.one('[data-speed="10"]').click()
        tech.all('[data-knob="tap1"] [data-preset]')[1].click()
        tech.see("#events", "Tap 1 is hot after")
        self.browser.size(390, 844, touch=True)  # on a phone, with a finger: the controls unfold with what is touched
        tech.driver.execute_script("arguments[0].scrollIntoView({ block: 'center' })", tech.one('.touch[title^="Heat"]'))
        tech.one('.touch[title^="Heat"]').click()
        tech.wait(lambda: tech.one('[data-break="weak_heater"]').is_displayed())
        self.browser.size(1280, 800)
        self.keep_and_replay("a tap in the morning")
