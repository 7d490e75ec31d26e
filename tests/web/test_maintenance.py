"""The maintenance pump by real requests: every page with its caution, the bench, the two devices, the ordered first energising, the demo as signed."""

import html
import re

from goodbalance.core.stations.maintenance.names import LICENSED
from goodbalance.demo.pier import PIER
from tests.web.visits import WebTest, key

VIEWS = ("survey", "reckon", "rehearse", "enter", "prove", "handover", "card", "log", "wiring", "energising", "motors", "scaling", "guarded", "noticing", "why")


class MaintenanceTest(WebTest):
    def line(self, **changes: str) -> str:
        return self.station({**PIER, **changes}, "maintenance")

    def text(self, address: str) -> str:
        return re.sub(r"\s+", " ", html.unescape(re.sub(r"<[^>]+>", " ", self.ada.get(address).text)))

    def decide(self, path: str, **changes: str) -> None:
        changed = {name.replace("__", "."): text for name, text in changes.items()}
        answer = self.ada.json(f"{path}/choices", {"save_key": key(), "units": "metric", "changes": changed})
        self.assertEqual((answer.status_code, answer.json().get("problems")), (200, {}), answer.text[:300])

    def test_who_comes_first_is_said_on_every_view_and_nothing_is_called_by_the_rules_word(self) -> None:
        path, empty = self.line(), self.station(kind="maintenance")
        for units in ("metric", "us"):
            self.ada.form("/me", units=units, next="/")
            for view in VIEWS:
                answer = self.ada.get(f"{path}/{view}")
                self.assertEqual(answer.status_code, 200, view)
                said = self.text(f"{path}/{view}")
                self.assertIn(LICENSED, said, view)
                self.assertNotIn("complian", said.lower(), view)
                self.assertNotRegex(answer.text, r"\b(nan|inf|Infinity)\b", view)
        for view in VIEWS:
            self.assertIn(self.ada.get(f"{empty}/{view}").status_code, (200, 409), view)

    def test_a_run_is_kept_and_bad_acts_are_refused(self) -> None:
        path = self.line()
        acts = [{"at_s": 5.0, "kind": "bleed", "target": "", "value": 5e-6}, {"at_s": 200.0, "kind": "sprinklers", "target": "", "value": 1.0}]
        ask = {"start": 9.4e5, "actions": acts, "from_s": 0.0, "to_s": 300.0}
        told = self.ada.json(f"{path}/bench", ask).json()
        words = " ".join(event["text"] for event in told["events"])
        for said in ("The pump starts at", "the least run holds it", "Main pump 1 starts at"):
            self.assertIn(said, words)
        self.assertNotIn("though nothing burns", words)
        self.assertEqual(self.ada.json(f"{path}/runs", {**ask, "save_key": key(), "note": "one sprinkler"}).status_code, 200)
        for wrong in ({"kind": "bleed", "value": -1.0}, {"kind": "sprinklers", "value": 99.0}, {"kind": "draw", "value": 1.0}, {"kind": "switch", "target": "2", "value": 1.0}):
            body = {**ask, "actions": [{"at_s": 1.0, "target": "", **wrong}]}
            self.assertEqual(self.ada.json(f"{path}/bench", body).status_code, 422, wrong)
        self.assertEqual(self.ada.json(f"{path}/bench", {**ask, "start": 9e7}).status_code, 422)

    def test_a_device_that_makes_the_start_itself(self) -> None:
        """Typed is the stop alone. Where its step does not fit the plan that is told with its harm, and the bench runs it so."""
        path = self.line()
        self.decide(path, keypad__profile="whelk_gauge_box")
        sheet = self.text(f"{path}/enter")
        self.assertIn("Red pointer: it rests from here on", sheet)
        self.assertNotIn("start pressure, from the plan", sheet)
        self.assertNotIn("makes it itself from another number", sheet)  # 0.7 bar is the differential: inside
        self.decide(path, rules__differential_pa="1.2")
        self.assertIn("The device makes it itself from another number, outside its window", self.text(f"{path}/enter"))
        self.decide(path, rules__differential_pa="0.7", keypad__profile="limpet_tablet")
        self.assertIn("start pressure, from the plan", self.text(f"{path}/enter"))

    def test_the_first_energising_begins_with_who_is_told_and_ends_in_auto(self) -> None:
        said = self.text(f"{self.line()}/energising")
        order = [said.index(words) for words in ("Who must know is told", "The water side is ready", "Rotation of pump 1 by a bump", "Every switch in AUTO", "Who was told is told again")]
        self.assertEqual(order, sorted(order))

    def test_bad_facts_are_named(self) -> None:
        path = self.line()
        for field, typed, words in (
            ("mains.count", "4", "accepted"), ("line.permitted_m3s", "-1", "accepted"), ("line.sprinkler_m3s", "none", "not a number"), ("authority.receiver_told", "perhaps", "accepted: "),
            ("suction.low_pa", "1e99", "accepted"), ("line.volume_m3", "0", "accepted"),
        ):  # fmt: skip
            answer = self.save_facts(path, {field: typed})
            self.assertIn(words, str(answer.json()["problems"].get(field)), field)
            self.save_facts(path, {field: PIER.get(field, "")})
