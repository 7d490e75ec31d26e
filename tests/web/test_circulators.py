"""Rings by real requests: every page with its caution, modes side by side, the bench, both devices, the week on them, the demo with its failed proof."""

import html
import re

from goodbalance.core.stations.circulator.names import LOCAL_RULES
from goodbalance.demo.bunkhouse import BUNKHOUSE
from tests.web.visits import WebTest, key

VIEWS = ("survey", "reckon", "rehearse", "enter", "prove", "handover", "card", "log", "wiring", "modes", "guarded", "noticing", "why")


class CirculatorTest(WebTest):
    def ring(self, **changes: str) -> str:
        return self.station({**BUNKHOUSE, **changes}, "circulator")

    def text(self, address: str) -> str:
        return re.sub(r"\s+", " ", html.unescape(re.sub(r"<[^>]+>", " ", self.ada.get(address).text)))

    def decide(self, path: str, **changes: str) -> None:
        changed = {name.replace("__", "."): text for name, text in changes.items()}
        answer = self.ada.json(f"{path}/choices", {"save_key": key(), "units": "metric", "changes": changed})
        self.assertEqual((answer.status_code, answer.json().get("problems")), (200, {}), answer.text[:300])

    def test_every_view_of_every_kind_of_ring_in_both_units(self) -> None:
        path, empty = self.ring(), self.station(kind="circulator")
        others = [self.ring(**{"ring.kind": kind}) for kind in ("crossover", "heating")]
        for units in ("metric", "us"):
            self.ada.form("/me", units=units, next="/")
            for address in (path, *others):
                for view in VIEWS:
                    answer = self.ada.get(f"{address}/{view}")
                    self.assertEqual(answer.status_code, 200, view)
                    self.assertIn(LOCAL_RULES, self.text(f"{address}/{view}"), view)
                    self.assertNotRegex(answer.text, r"\b(nan|inf|Infinity)\b", view)
        for view in VIEWS:
            self.assertIn(self.ada.get(f"{empty}/{view}").status_code, (200, 409), view)
        self.assertEqual(self.ada.get(f"{self.station()}/modes").status_code, 422)

    def test_a_curve_for_each_speed_from_files_and_branches_in_one_table(self) -> None:
        """A file for speed 1 goes into its own curve and no other; each branch has a line in the table, and what is told of it names it."""
        path = self.ring(**{"pump.own_curves": "yes", "pump.speeds": "2", "branch_2.back_m": "-3"})
        said = self.text(f"{path}/survey")
        self.assertIn("The curve of speed 1 is missing", self.ada.get(f"{path}/survey").text)
        for words in ("Branches, side by side", "Length out, m", "Bore back, mm", "Its flow by"):
            self.assertIn(words, said)
        page = self.ada.get(f"{path}/survey").text
        self.assertEqual(page.count('data-fact="branch_2.there_m"'), 1)
        self.assertRegex(page, r'aria-label="Branch 2: Length back"[^>]*value="-3"')
        self.assertRegex(page, r'data-fact-box="branch_1.closes_c"\s+data-only-if=\'\[\["branch_1.valve"')
        slow = b"flow_lps;head_m;power_kw\n0;1,5;0,004\n0,1;1,3;0,006\n0,25;0,6;0,008\n"
        self.assertEqual(self.upload(f"{path}/curve-csv", slow, "slow.csv", part="pump", curve="curve_1").status_code, 200)
        page = self.ada.get(f"{path}/survey").text
        self.assertRegex(page, r'data-fact="pump.curve_1.0.head_m"[^>]*value="1.5"')
        self.assertRegex(page, r'data-fact="pump.curve.0.head_m"[^>]*value="5.2"')
        self.assertNotIn("The curve of speed 1 is missing", page)
        answer = self.upload(f"{path}/curve-csv", slow, "slow.csv", part="pump", curve="curve_7")
        self.assertEqual((answer.status_code, "accepted: pump.curve, pump.curve_1" in html.unescape(answer.text)), (422, True))
        self.ada.json(f"{path}/facts", {"save_key": key(), "base_seq": 0, "units": "metric", "changes": {"branch_2.back_m": "14"}})
        self.decide(path, schools__mode="fixed_speed")
        self.assertIn("which adds at that flow, by its curve", self.text(f"{path}/reckon"))

    def test_modes_side_by_side_and_the_chosen_one_typed(self) -> None:
        path = self.ring()
        said = self.text(f"{path}/modes")
        for words in ("A constant pressure (chosen)", "It learns the hours by itself", "the pump does not know it", "keeps the rule", "no window"):
            self.assertIn(words, said)
        self.decide(path, schools__mode="fixed_speed")
        self.assertIn("A fixed speed (chosen)", self.text(f"{path}/modes"))
        self.assertIn("speed, from the plan", self.text(f"{path}/enter"))
        self.decide(path, schools__mode="constant_flow")
        self.assertIn("This pump does not know the mode that is chosen", self.text(f"{path}/reckon"))

    def test_a_small_device_keeps_two_times_and_tells_what_it_cannot_carry(self) -> None:
        """A third warm time has no place in the shell; the chart holds six, and both show the start with its lead taken off."""
        path = self.ring(**{"use.periods": "3", "use.days_3": "sunday", "use.from_3_h": "1", "use.to_3_h": "2"})
        self.decide(path, keypad__profile="moon_shell")
        said = self.text(f"{path}/enter")
        self.assertIn("Time 3 of the week", said)
        self.assertIn("It rests when it is wanted warm", said)
        self.decide(path, keypad__profile="nautilus_chart", keypad__pressure_display="kPa")
        said = self.text(f"{path}/enter")
        self.assertNotIn("Time 3 of the week", said)
        self.assertIn("from the hours, its lead taken off", said)
        self.assertIn("day seven", said)

    def test_a_week_on_the_bench_is_kept_and_bad_acts_are_refused(self) -> None:
        path = self.ring()
        acts = [{"at_s": 25200.0, "kind": "tap", "target": "3", "value": 1e-4}, {"at_s": 25320.0, "kind": "tap", "target": "3", "value": 0.0}, {"at_s": 30000.0, "kind": "shut", "target": "3", "value": 1.0}]
        ask = {"start": 20.0, "actions": acts, "from_s": 0.0, "to_s": 43200.0}
        told = self.ada.json(f"{path}/bench", ask).json()
        words = " ".join(event["text"] for event in told["events"])
        for said in ("The pump starts", "Tap 3 is hot after", "Branch 3 ends at"):
            self.assertIn(said, words)
        kept = self.ada.json(f"{path}/runs", {**ask, "save_key": key(), "note": "a valve shut"})
        self.assertEqual(kept.status_code, 200, kept.text[:300])
        self.assertTrue(self.ada.json(f"{path}/runs/{kept.json()['run']}/replay", {}).json()["same"])
        for wrong in ({"kind": "tap", "target": "9", "value": 1e-4}, {"kind": "tap", "target": "1", "value": 4.0}, {"kind": "cold_tap", "target": "1", "value": 1e-4}, {"kind": "valve", "target": "1", "value": -1.0}, {"kind": "switch", "target": "2", "value": 1.0}):
            body = {**ask, "actions": [{"at_s": 1.0, **wrong}]}
            self.assertEqual(self.ada.json(f"{path}/bench", body).status_code, 422, wrong)
        self.assertEqual(self.ada.json(f"{path}/bench", {**ask, "start": 300.0}).status_code, 422)

    def test_the_week_and_the_owner_stand_in_the_record(self) -> None:
        path = self.ring()
        said = self.text(f"{path}/handover")
        self.assertIn("The owner may move the hours", said)
        self.assertIn("set by hand at the valve", said)
        self.assertIn("in the hours that are typed", said)
        card = self.text(f"{path}/card")
        self.assertRegex(card, r"It runs Monday to Friday from 05:[12]\d to 22:30\.")
        self.assertIn("After weeks away draw every tap hot", card)

    def test_bad_facts_are_named(self) -> None:
        path = self.ring()
        for field, typed, words in (
            ("ring.branches", "9", "accepted"), ("heat.set_c", "300", "accepted"), ("branch_1.there_m", "-2", "accepted"), ("branch_2.material", "glass", "accepted: "), ("use.from_1_h", "25", "accepted"),
            ("valves.points.0.turns", "much", "not a number"), ("pump.speed_1", "0", "accepted"), ("branch_3.insulation_m", "1e99", "accepted"),
        ):  # fmt: skip
            answer = self.save_facts(path, {field: typed})
            self.assertIn(words, str(answer.json()["problems"].get(field)), field)
            self.save_facts(path, {field: BUNKHOUSE.get(field, "")})
