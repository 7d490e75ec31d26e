"""A transfer set commissioned in a browser in feet, gallons and psi: from an empty survey to a signed handover."""

from tests.browser.case import BrowserTest
from tools.stage.typed_stations import HILL_CURVE, HILL_TANK


class TransferJobTest(BrowserTest):
    def test_from_an_empty_survey_to_a_signed_handover(self) -> None:
        self.survey()
        self.reckon()
        self.rehearse()
        self.enter_and_prove()
        self.hand_over()
        self.assertEqual(self.browser.complaints(), [])

    def survey(self) -> None:
        """The range is typed once in psi and once in feet of head; the two do not belong together at first."""
        tech = self.tech
        tech.begin("Ada Wren", "quite long enough here")
        tech.new_station("Hill tank", "Orchard", "transfer")
        tech.leave(lambda: tech.one('select[name="units"] option[value="us"]').click())
        tech.see('[data-fact-box="tank_1.valve_m3s"]', "Cv")
        tech.fill_in({**HILL_TANK, "sensor.range_head_m": "150", "tank_1.throttles_m": "0.25", "tanks.lost_m3": "4000"})
        tech.all_saved()
        tech.one('input[form="csv-pumping-curve"]').send_keys(self.chosen("pump.csv", HILL_CURVE))
        tech.leave(tech.one('button[form="csv-pumping-curve"]').click)
        self.assertEqual(tech.one('[data-fact="pumping.curve.1.head_m"]').get_attribute("value"), "199")
        tech.see('[data-fact-box="sensor.range_head_m"]', "150")
        tech.fill_in({"sensor.range_head_m": "346"})
        tech.all_saved()
        tech.wait(lambda: tech.state("survey").startswith("complete"))

    def reckon(self) -> None:
        """A valve thought to follow the water: no longest run fits. The window says what opens it; at the valve it is seen to snap."""
        tech = self.tech
        tech.view("reckon")
        tech.see("#setting-longest_run", "No room")
        tech.see("#setting-longest_run", "throttles over 0.00 ft instead of 0.25 ft")
        tech.view("survey")
        tech.fill_in({"tank_1.throttles_m": "0", "tanks.lost_m3": "6000"})
        tech.all_saved()
        tech.view("reckon")
        tech.see("#setting-stop_pressure", "psi")
        # standing column: 96 + 9.2 - 2 ft of water at 62.37 lb/ft3 is 44.7 psi; shut-off at the lowest source 205 + 6 - 2 - 0.8 ft
        tech.wait(lambda: 44.7 < tech.number('[data-level="restart_pressure"]') < tech.number('[data-level="stop_pressure"]') < 90.2)
        before = tech.number('[data-level="stop_pressure"]')
        tech.drag_flag("stop_pressure", -8)
        tech.wait(lambda: tech.number('[data-level="stop_pressure"]') > before)
        tech.all_saved()
        tech.type_setting("restart_delay", "4")
        tech.see("#setting-restart_delay", "use ")
        tech.all_saved()
        tech.wait(lambda: "empty" not in tech.state("reckon"))
        self.stop_psi = tech.number('[data-level="stop_pressure"]')

    def rehearse(self) -> None:
        """The tank falls, the delay counts, the pump fills; the valve sticks and the longest run ends it."""
        tech = self.tech
        tech.view("rehearse")
        tech.one('[data-speed="60"]').click()
        tech.one('[data-knob="level1"] [data-preset]').click()
        tech.one("#play").click()
        tech.see("#reasons", "the delay counts")
        tech.see("#events", "Pump 1 starts")
        tech.breaks("stuck_open", "1")
        tech.one('[data-speed="600"]').click()
        tech.see("#events", "Tank 1 overflows")
        tech.see("#reasons", "longest run")
        self.keep_and_replay("the valve sticks open")

    def enter_and_prove(self) -> None:
        tech = self.tech
        tech.view("enter")
        tech.read_back_all()
        tech.one('form[action$="/stored"] button').click()
        tech.wait(lambda: tech.state("enter") == "read back")
        tech.view("prove")
        tech.one(".on-bench button").click()
        tech.see("#after-stops", "bench only, prove on site")
        self.assertNotIn("failed", tech.state("prove"))
        tech.observe("stops", f"{self.stop_psi + 9:.1f}")
        tech.see("#after-stops", "failed")
        for proof_id in [p.get_attribute("id").removeprefix("after-") for p in tech.all(".proof")]:
            tech.observe(proof_id, self.good_answer(proof_id))
        tech.wait(lambda: tech.state("prove") == "all passed")

    def hand_over(self) -> None:
        tech = self.tech
        tech.view("handover")
        for words in ("Hill tank", "psi", "Restart delay"):
            tech.see("main", words)
        tech.one("#sign-role").send_keys("commissioning technician")
        tech.one("#sign-password").send_keys("quite long enough here")
        tech.one('form[action$="/sign"] button').click()
        tech.see("main", "Signed by Ada Wren, commissioning technician")
        self.assertEqual(tech.state("handover"), "signed")
        tech.one('a[href$="/card"]').click()
        tech.see("main", "Hill tank")
