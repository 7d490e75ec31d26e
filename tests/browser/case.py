"""What browser tests share: a server, a browser, one person, and a station whose survey is written."""

import tempfile
import unittest
from pathlib import Path

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from goodbalance.core.record.chain import Kind
from goodbalance.store import people, records
from goodbalance.store.people import Role
from tools.stage.browser import Browser
from tools.stage.server import WebServer, empty_session
from tools.stage.technician import Technician

# not the demo's: a square pit with three of the curve's points, a pressure-ranged sensor and comma decimals
PIT = {
    "visit.controls_off": "yes", "well.shape": "rectangle", "well.length_m": "2,2", "well.width_m": "1,5",
    "well.depth_m": "5", "well.intake_m": "0,25", "inlet.invert_m": "2.9", "inlet.overflow_m": "4.4",
    "inflow.min_m3s": "0.6", "inflow.mean_m3s": "2.4", "inflow.peak_m3s": "9", "main.outlet_m": "11.5",
    "main.length_m": "88", "main.diameter_m": "110", "main.hazen_williams_c": "135", "main.minor_k": "7",
    "pump_1.curve.0.flow_m3s": "0", "pump_1.curve.0.head_m": "19", "pump_1.curve.1.flow_m3s": "9",
    "pump_1.curve.1.head_m": "15", "pump_1.curve.2.flow_m3s": "18", "pump_1.curve.2.head_m": "7",
    "pump_1.min_submergence_m": "0.35", "pump_1.bell_diameter_m": "150", "pump_1.starts_per_hour": "12",
    "pump_1.rated_voltage_v": "400", "pump_1.rated_current_a": "8.1", "pump_1.rated_power_w": "4",
    "sensor.mounting_m": "0.15", "sensor.range_given_as": "pressure", "sensor.range_pa": "0.5",
    "demands.starts_per_hour": "9", "demands.response_s": "10", "as_found.stop_m": "0.6", "as_found.start_1_m": "0.9",
}  # fmt: skip


class BrowserTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.web = cls.enterClassContext(WebServer())
        cls.browser = cls.enterClassContext(Browser())

    def setUp(self) -> None:
        empty_session().close()
        self.tech = Technician(self.browser, self.web.address)
        self.tech.open("/sign-in")
        self.browser.driver.execute_script("localStorage.clear(); indexedDB.deleteDatabase('goodbalance'); caches.delete('goodbalance-pages')")
        self.browser.driver.delete_all_cookies()
        self.browser.complaints()

    def prepared_station(self, facts: dict[str, str] | None = None, kind: str = "lift", decided: dict[str, str] | None = None) -> int:
        """A station with its survey written, for tests that begin later in the job."""
        with empty_session() as session:
            people.add_person(session, "Ada Wren", Role.LEAD, "quite long enough here")
            station_id = records.create_station(session, "North pit", "Yard", kind, "Ada Wren").id
            changes = {path: {"text": text, "units": "metric"} for path, text in (facts or PIT).items()}
            records.append(session, station_id, Kind.FACTS, {"changes": changes}, "Ada Wren")
            answers = {path: {"text": text, "units": "metric"} for path, text in (decided or {}).items()}
            if answers:
                records.append(session, station_id, Kind.CHOICES, {"changes": answers}, "Ada Wren")
            session.commit()
        self.sign_in()
        return station_id

    def sign_in(self) -> None:
        self.tech.open("/sign-in")
        self.tech.one("#name").send_keys("Ada Wren")
        self.tech.one("#password").send_keys("quite long enough here", Keys.ENTER)
        self.tech.see("h1", "Stations")

    def choose(self, path: str, value: str) -> None:
        """A school or rule in Reckon."""
        self.tech.one(f'#choices [data-fact="{path}"] option[value="{value}"]').click()

    def keep_and_replay(self, note: str) -> None:
        """Keep the run on the bench, open it again, and see it go the same way."""
        tech = self.tech
        tech.one("#keep").click()
        tech.one("#keep-note").send_keys(note)
        tech.one('#keep-dialog button[value="keep"]').click()
        tech.see("#told", "Kept as entry")
        tech.view("rehearse")
        tech.one('a[href*="run="]').click()
        tech.one("#replay").click()
        tech.see("#told", "exactly the same way")

    def shown_at_keypad(self, code: str) -> float:
        row = next(row for row in self.tech.all(".keypad tr") if f" {code} " in f" {row.text.replace(chr(10), ' ')} ")
        return float(row.find_element(By.CSS_SELECTOR, ".display").text)

    def good_answer(self, proof_id: str, sequence: str = "2 1 2") -> str:
        """What is seen where all is well."""
        if proof_id == "alternation":
            return sequence
        text = self.tech.one(f"#after-{proof_id} summary .num").text
        return text.split()[0] if text else "yes"

    def chosen(self, name: str, text: str) -> str:
        """A file to choose in the page; its path."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / name
        path.write_text(text, encoding="utf-8")
        return str(path)
