"""A new survey as a walk around a simple station: the drawing leads, what is usual is offered, few answers make a plan."""

from PIL import Image, ImageDraw

from goodbalance.core.record.chain import Kind
from goodbalance.store import records
from goodbalance.store.database import session_maker
from tests.browser.case import BrowserTest
from tools.stage.server import engine

# a round pit with two equal pumps: what a person must read, pace or ask
WALK = {
    "visit.controls_off": "yes", "well.diameter_m": "1,8", "well.depth_m": "4.6", "inlet.invert_m": "2.5",
    "inlet.overflow_m": "3.9", "inflow.min_m3s": "0.5", "inflow.mean_m3s": "2", "inflow.peak_m3s": "7.5",
    "main.outlet_m": "9.5", "main.length_m": "140", "main.diameter_m": "102", "pump_1.rated_current_a": "6.4",
    "pump_1.rated_power_w": "3", "sensor.range_m": "5",
    "pump_1.curve.0.flow_m3s": "0", "pump_1.curve.0.head_m": "17", "pump_1.curve.1.flow_m3s": "8",
    "pump_1.curve.1.head_m": "14", "pump_1.curve.2.flow_m3s": "16", "pump_1.curve.2.head_m": "8",
}  # fmt: skip
MOST_ANSWERS = 25


class SurveyWalkTest(BrowserTest):
    def test_few_answers_lead_from_nothing_to_a_plan(self) -> None:
        tech = self.tech
        station_id = self.prepared_station({"visit.purpose": "new pumps"})
        tech.open(f"/stations/{station_id}/survey")
        before = self.answers(station_id)
        tech.fill_in(WALK)
        tech.see("[data-all-typical]", "Typical for 9 left")
        tech.reach("[data-all-typical]").click()
        tech.wait(lambda: tech.state("survey").startswith("complete"))
        tech.see('[data-fact-box="well.intake_m"]', "Typical 0.15 m; not measured, so it counts as unsure")
        given = len(WALK) + 1  # each field, and one touch for what is usual
        self.assertLessEqual(given, MOST_ANSWERS)
        self.assertEqual(len(self.answers(station_id)) - len(before), given)
        self.assertIn("tag is-taken", self.tag("well.intake_m").get_attribute("class").replace("in-use", "").strip())
        tech.view("reckon")
        tech.wait(lambda: tech.all("#setting-start_1"))
        tech.open(f"/stations/{station_id}/handover")
        tech.see("main", "Pump intake above floor: typical 0.15 m, not measured")
        self.assertEqual(self.browser.complaints(), [])

    def test_a_tag_in_the_drawing_leads_to_its_field_and_the_field_lights_it_up(self) -> None:
        tech = self.tech
        station_id = self.prepared_station({"visit.purpose": "new pumps"})
        for width, height, by_touch in ((1280, 800, False), (390, 844, True)):
            self.browser.size(width, height, by_touch)
            tech.open(f"/stations/{station_id}/survey")
            self.tech.one('#sketch [data-tag="inlet.overflow_m"] text').click()
            focused = tech.driver.switch_to.active_element
            self.assertEqual(focused.get_attribute("data-fact"), "inlet.overflow_m")
            tech.wait(lambda: "in-use" in self.tag("inlet.overflow_m").get_attribute("class"))
            self.assertTrue(tech.one('[data-tag="inlet.overflow_m"] .dim').is_displayed())
            self.assertTrue(tech.driver.execute_script(UNDER, focused), "the drawing covers the field that it leads to")
            focused.send_keys("3.9\t")
            tech.wait(lambda: "overflow 3.9 m" in self.tag("inlet.overflow_m").text)
            focused.clear()
            focused.send_keys("\t")
            tech.wait(lambda: "overflow ?" in self.tag("inlet.overflow_m").text)
        self.browser.size(1280, 800)

    def test_a_photo_without_signal_is_shown_at_once_and_sent_later(self) -> None:
        tech, station_id = self.tech, self.prepared_station()
        tech.open(f"/stations/{station_id}/survey")
        plate, text = self.chosen("plate.png", ""), self.chosen("notes.jpg", "no picture")
        Image.linear_gradient("L").resize((2400, 1600)).save(plate)
        with self.web.away():
            tech.one('[data-photos="pump_1"] input').send_keys(text)
            tech.see('[data-photos="pump_1"] [role=alert]', "notes.jpg is no picture")
            tech.one('[data-photos="pump_1"] input').send_keys(plate)
            tech.see("#unsaved", "1 to send")
            self.assertTrue(tech.one('[data-photos="pump_1"] img').get_attribute("src").startswith("data:image/jpeg"))
        tech.reach("#unsaved [data-retry]").click()
        tech.wait(lambda: not tech.kept_in_browser())
        tech.open(f"/stations/{station_id}/survey")
        shown = tech.reach('[data-photos="pump_1"] img')
        self.browser.until(lambda: int(shown.get_attribute("naturalWidth")) == 1280)

    def test_a_pump_curve_is_read_off_the_picture_of_its_sheet(self) -> None:
        """Flow 0 to 20 l/s from x 100 to x 700, head 0 to 25 m from y 500 to y 100: 30 pixels a l/s, 16 a metre."""
        tech, station_id = self.tech, self.prepared_station()
        sheet = self.chosen("sheet.png", "")
        chart = Image.new("RGB", (800, 600), "white")
        ImageDraw.Draw(chart).line([(100, 180), (400, 228), (700, 404)], "black", 3)
        chart.save(sheet)
        tech.open(f"/stations/{station_id}/survey")
        tech.reach('[data-from-picture="pump_1.curve"]').click()
        tech.one("#curve-picture [data-file]").send_keys(sheet)
        tech.see("#curve-picture [data-told]", "1 of 4")
        for x, y in ((100, 500), (700, 500), (100, 500), (100, 100)):
            self.touch(x, y)
        self.assertFalse(tech.one("#curve-picture [data-take]").is_enabled())
        for x, y in ((700, 404), (100, 180), (400, 228)):  # in any order
            self.touch(x, y)
        for mark, text in (("flow.0", "0"), ("flow.1", "72 m3/h"), ("other.0", "0"), ("other.1", "x")):
            tech.one(f'[data-mark="{mark}"]').send_keys(text)
        tech.one("#curve-picture [data-take]").click()
        tech.see("#curve-picture [data-wrong]", "A mark of the head axis: 'x' is not a number")
        tech.one('[data-mark="other.1"]').clear()
        tech.one('[data-mark="other.1"]').send_keys("25")
        tech.one("#curve-picture [data-take]").click()
        rows = [(row, name) for row in range(3) for name in ("flow_m3s", "head_m")]
        value = lambda row, name: float(tech.one(f'[data-fact="pump_1.curve.{row}.{name}"]').get_attribute("value"))  # noqa: E731
        tech.wait(lambda: abs(value(1, "head_m") - 17.0) < 0.1)  # a pixel is a sixteenth of a metre
        for one, wanted in zip(rows, [0.0, 20.0, 10.0, 17.0, 20.0, 6.0], strict=True):
            self.assertAlmostEqual(value(*one), wanted, delta=0.1)
        tech.wait(lambda: tech.all('[data-photos="pump_1"] img'))  # the sheet stays with its numbers

    def touch(self, x: int, y: int) -> None:
        """A place of the picture, told in its own pixels."""
        script = "const sheet = document.querySelector('#curve-picture canvas'), box = sheet.getBoundingClientRect(); sheet.dispatchEvent(new MouseEvent('click', { bubbles: true, clientX: box.left + arguments[0] * box.width / sheet.width, clientY: box.top + arguments[1] * box.height / sheet.height }))"
        self.tech.driver.execute_script(script, x, y)

    def tag(self, path: str):
        return self.tech.one(f'#sketch [data-tag="{path}"]')

    def answers(self, station_id: int) -> list[dict]:
        with session_maker(engine())() as session:
            return [entry.body for entry in records.entries(session, station_id) if entry.kind is Kind.FACTS]


UNDER = """
const box = arguments[0].getBoundingClientRect();
return document.elementFromPoint(box.left + box.width / 2, box.top + box.height / 2) === arguments[0];
"""
