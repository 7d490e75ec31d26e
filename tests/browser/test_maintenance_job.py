"""A maintenance pump commissioned in a browser, from an empty survey to a signed handover, its main pump never touched."""

from tests.browser.case import BrowserTest

# one main pump, a line of a workshop; not the demo's
WORKSHOP = {
    "visit.controls_off": "yes", "authority.licensed": "Perrin Holt", "authority.rule": "workshop rule 2", "authority.receiver_told": "yes", "authority.impaired": "yes",
    "suction.low_pa": "2,1", "suction.high_pa": "2.8", "mains.churn_pa": "6.5", "mains.start_1_pa": "9",
    "line.volume_m3": "2.4", "line.wave_ms": "1150", "line.rating_pa": "16", "line.leak_m3s": "0.05", "line.permitted_m3s": "0,2", "line.sprinkler_m3s": "0.9", "line.sprinkler_pa": "0.5",
    "pumping.starts_per_hour": "12", "motor.rated_voltage_v": "400", "motor.rated_current_a": "3.4", "motor.rated_power_w": "1.5", "motor.power_factor": "0.8",
    "sensor.height_m": "1,4", "sensor.range_pa": "16", "sensor.noise_pa": "0.01", "sensor.error_share": "0.25", "sensor.filter_s": "0.2", "sensor.scan_s": "0.2",
    "as_found.stop_pressure": "8.5", "as_found.start_pressure": "7.8",
}  # fmt: skip
CURVE = "flow_lps;head_m;power_kw\n0;112;0,95\n0,3;108;1,1\n0,6;98;1,28\n0,9;83;1,42\n1,1;70;1,5\n"


class MaintenanceJobTest(BrowserTest):
    def test_from_an_empty_survey_to_a_signed_handover(self) -> None:
        tech = self.tech
        tech.begin("Ada Wren", "quite long enough here")
        tech.new_station("Workshop line", "Pump room", "maintenance")
        tech.fill_in(WORKSHOP)
        tech.all_saved()
        tech.one('input[form="csv-pumping-curve"]').send_keys(self.chosen("pump.csv", CURVE))
        tech.leave(tech.one('button[form="csv-pumping-curve"]').click)
        tech.wait(lambda: tech.state("survey").startswith("complete"))
        tech.see("body", "Licensed people, the authority's rules and the maker come first")
        self.reckon()
        self.rehearse()
        tech.view("enter")
        tech.read_back_all()
        tech.one('form[action$="/stored"] button').click()
        tech.wait(lambda: tech.state("enter") == "read back")
        tech.view("prove")
        tech.one(".on-bench button").click()
        tech.see("#after-least_run", "bench only, prove on site")
        self.assertNotIn("failed", tech.state("prove"))
        for proof_id in [p.get_attribute("id").removeprefix("after-") for p in tech.all(".proof")]:
            tech.observe(proof_id, self.good_answer(proof_id))
        tech.wait(lambda: tech.state("prove") == "all passed")
        tech.view("handover")
        for words in ("Workshop line", "its people's: recorded, witnessed", "Licensed people"):
            tech.see("body", words)
        tech.one("#sign-role").send_keys("commissioning technician")
        tech.one("#sign-password").send_keys("quite long enough here")
        tech.one('form[action$="/sign"] button').click()
        tech.see("main", "Signed by Ada Wren, commissioning technician")
        self.assertEqual(self.browser.complaints(), [])

    def reckon(self) -> None:
        """The main pump starts where the maintenance pump should: no room, and the window says whose number opens it. Its people move it."""
        tech = self.tech
        tech.view("reckon")
        tech.see("#setting-start_pressure", "No room")
        tech.see("#setting-start_pressure", "a first main pump that starts at")
        tech.view("survey")
        tech.fill_in({"mains.start_1_pa": "7.2"})
        tech.all_saved()
        tech.view("reckon")
        before = tech.number('[data-level="stop_pressure"]')
        tech.drag_flag("stop_pressure", -8)
        tech.wait(lambda: tech.number('[data-level="stop_pressure"]') > before)
        tech.all_saved()
        tech.type_setting("least_run", "110")
        tech.see("#setting-least_run", "use ")
        tech.all_saved()
        tech.wait(lambda: "empty" not in tech.state("reckon"))

    def rehearse(self) -> None:
        tech = self.tech
        tech.view("rehearse")
        tech.one('[data-speed="10"]').click()
        tech.all('[data-knob="bleed"] [data-preset]')[2].click()
        tech.one("#play").click()
        tech.see("#events", "The pump starts at")
        tech.see("#reasons", "the least run holds it")
        tech.all('[data-knob="bleed"] [data-preset]')[0].click()
        tech.all('[data-knob="sprinklers"] [data-preset]')[1].click()
        tech.see("#events", "a sprinkler is open")
        self.keep_and_replay("one sprinkler opens")
