"""A monitor of the supply from its survey to its proofs, a power cut that waits for a person, and the order of proofs: by real requests."""

import html
import re

from tests.web.visits import WebTest, key
from tools.stage.typed_stations import ROUND_WELL, TANK_SET

WATCHED = {"control.phase_monitor": "yes", "protection.monitor": "voltages", "protection.winding_by": "contact", "protection.casing_by": "thermostat"}


class SupplyTest(WebTest):
    def text(self, address: str) -> str:
        return re.sub(r"\s+", " ", html.unescape(re.sub(r"<[^>]+>", " ", self.ada.get(address).text)))

    def decide(self, path: str, **changes: str):
        changed = {name.replace("__", "."): text for name, text in changes.items()}
        return self.ada.json(f"{path}/choices", {"save_key": key(), "units": "metric", "changes": changed})

    def test_from_the_survey_to_the_proofs(self) -> None:
        """Asked only with a monitor; each dial in its window, typed at the comb, proved on the bench, and refused where it cannot be."""
        path = self.station(ROUND_WELL)
        self.assertNotIn("Usual unbalance of the supply", self.text(f"{path}/survey").split("Time until a supply")[0].split("What the phase monitor watches")[0])
        self.save_facts(path, WATCHED)
        reckon = self.text(f"{path}/reckon")
        for words in ("Under-voltage trip", "Over-voltage trip", "Unbalance trip", "Wait after the supply is back", "nobody pumps", "Casing stop"):
            self.assertIn(words, reckon)
        sheet = self.text(f"{path}/enter")
        for words in ("Coralline comb", "tooth 2", "Beadlet bulb", "1 collar"):
            self.assertIn(words, sheet)
        for typed, accepted in (("700", False), ("86", True)):
            answer = self.save_facts(path, {"protection.low_voltage": typed})
            self.assertEqual("accepted" not in answer.text, accepted, answer.text[:200])
        self.save_facts(path, {"protection.low_voltage": "90"})
        ids = ["supply_low", "supply_high", "supply_uneven", "supply_delay", "supply_back", "swapped", "phase", "hot_1", "casing_1", "power_return"]
        answer = self.ada.json(f"{path}/bench-some", {"save_key": key(), "ids": ids})
        self.assertEqual((answer.status_code, answer.json()["failed"]), (200, 0), answer.text)
        self.assertIn("no pump is ever turned backwards for a proof", self.text(f"{path}/prove"))

    def test_a_dial_that_was_read_back_otherwise_fails_its_proof(self) -> None:
        path = self.station(ROUND_WELL | WATCHED)
        page = self.ada.get(f"{path}/enter").text
        self.assertIn("tooth 6", page)
        answer = self.ada.json(f"{path}/read-back", {"save_key": key(), "code": "tooth 6", "device": "coralline_comb", "typed": "120"})
        self.assertEqual(answer.status_code, 200, answer.text[:300])
        shown = self.ada.json(f"{path}/bench-some", {"save_key": key(), "ids": ["supply_back", "supply_low"]})
        self.assertEqual(shown.json()["failed"], 1)

    def test_after_a_power_cut_somebody_must_come_where_that_was_chosen(self) -> None:
        for kind, facts, start, fill in (("lift", ROUND_WELL, 1.0, ("inflow", 0.02)), ("booster", TANK_SET, 3e5, ("outlets", 0.5))):
            path = self.station(facts, kind)
            self.assertEqual(self.decide(path, protection__power_return="by_hand").status_code, 200)
            acts = [
                {"at_s": 0.0, "kind": fill[0], "target": "", "value": fill[1]}, {"at_s": 600.0, "kind": "power", "target": "", "value": 0.0},
                {"at_s": 700.0, "kind": "power", "target": "", "value": 1.0},
            ]  # fmt: skip
            told = self.ada.json(f"{path}/bench", {"start": start, "actions": acts, "from_s": 0.0, "to_s": 1200.0}).json()
            self.assertIn("waits until a person resets", str(told), kind)
            self.assertIn("waits for a reset" if kind == "booster" else "before a reset", self.text(f"{path}/prove"))
            self.assertEqual(self.decide(path, protection__power_return="whenever").json().get("problems", {}).keys() | {"x"}, {"protection.power_return", "x"})

    def test_a_supply_is_turned_within_reason(self) -> None:
        path = self.station(ROUND_WELL)
        for kind, value in (("volts", 9.0), ("volts", -1.0), ("unevenness", 0.5), ("welded", 1.0), ("swapped ", 1.0)):
            acts = [{"at_s": 1.0, "kind": kind, "target": "", "value": value}]
            self.assertEqual(self.ada.json(f"{path}/bench", {"start": 1.0, "actions": acts, "from_s": 0.0, "to_s": 60.0}).status_code, 422, kind)

    def test_proofs_come_in_the_order_that_turns_switches_least(self) -> None:
        path = self.station(ROUND_WELL)
        page = self.text(f"{path}/prove")
        turns, by_function = map(int, re.search(r"turns switches least: (\d+) times, .*?\(by function (\d+)", page).groups())
        self.assertLess(turns, by_function)
        self.assertIn("Every switch in AUTO", page)
        other = self.text(f"{path}/prove?order=function")
        self.assertIn("Water rising", other)
        self.assertNotIn("Every switch in AUTO", other)
        self.assertEqual(sorted(re.findall(r'id="after-([^"]+)"', self.ada.get(f"{path}/prove").text)), sorted(re.findall(r'id="after-([^"]+)"', self.ada.get(f"{path}/prove?order=function").text)))
        self.assertEqual(self.ada.get(f"{path}/prove?order=sideways").status_code, 422)
        self.assertIn("Nothing to prove yet", self.text(f"{self.station()}/prove"))
