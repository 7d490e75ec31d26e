"""Transfer sets by real requests: every page in both systems of units, a valve's size, curve files, the bench, proofs, and a device's own ways."""

import html
import re

from goodbalance.demo.brine import BRINE
from tests.web.visits import WebTest, key
from tools.stage.typed_stations import HILL_CURVE, HILL_TANK

VIEWS = ("survey", "reckon", "ways", "rehearse", "enter", "prove", "handover", "card", "log", "wiring", "energising", "motors", "scaling")


class TransferTest(WebTest):
    def hill(self, **changes: str) -> str:
        """The tank on the hill, typed in feet and gallons, its curve from a file."""
        path = self.station(kind="transfer")
        self.save_facts(path, {**HILL_TANK, **changes}, units="us")
        self.assertEqual(self.upload(f"{path}/curve-csv", HILL_CURVE.encode(), "curve.csv", part="pumping").status_code, 200)
        return path

    def text(self, address: str) -> str:
        return re.sub(r"\s+", " ", html.unescape(re.sub(r"<[^>]+>", " ", self.ada.get(address).text)))

    def bench(self, path: str, until_s: float, *acts: tuple[float, str, str, float]) -> dict[str, object]:
        actions = [dict(zip(("at_s", "kind", "target", "value"), act)) for act in acts]
        return {"start": 2.286, "actions": actions, "from_s": 0.0, "to_s": until_s}

    def decide(self, path: str, **changes: str) -> None:
        changed = {name.replace("__", "."): text for name, text in changes.items()}
        answer = self.ada.json(f"{path}/choices", {"save_key": key(), "units": "metric", "changes": changed})
        self.assertEqual((answer.status_code, answer.json().get("problems")), (200, {}), answer.text[:300])


class PagesTest(TransferTest):
    def test_every_page_answers_in_both_systems_of_units(self) -> None:
        path, empty = self.hill(), self.station(kind="transfer")
        for units in ("metric", "us"):
            self.ada.form("/me", units=units, next="/")
            for view in VIEWS:
                page = self.ada.get(f"{path}/{view}")
                self.assertEqual(page.status_code, 200, view)
                self.assertNotRegex(page.text, r"\b(nan|inf|Infinity)\b", view)
        for view in VIEWS:
            answer = self.ada.get(f"{empty}/{view}")
            self.assertIn(answer.status_code, (200, 409), view)
            if answer.status_code == 409:
                self.assertIn("Complete the survey first", answer.text)

    def test_a_valve_is_as_large_as_its_label_says_in_either_system(self) -> None:
        """Cv 30 is Kv 30 · 0.8650 = 25.9, and the friction of the line the same whoever reads it."""
        path = self.hill()
        self.ada.form("/me", units="metric", next="/")
        field = r'data-fact="tank_1.valve_m3s"[^>]*value="([0-9.]+)"'
        page = self.ada.get(f"{path}/survey").text
        found = re.search(field, page) or re.search(r'value="([0-9.]+)"[^>]*data-fact="tank_1.valve_m3s"', page)
        assert found is not None
        self.assertAlmostEqual(float(found.group(1)), 30.0 * 0.8650, delta=0.06)

    def test_a_curve_goes_only_where_one_is_asked_for(self) -> None:
        path = self.hill()
        for part, words in (("tank_1", "accepted: pumping.curve, second.curve"), ("", "'x.curve' is no pump curve")):
            answer = self.upload(f"{path}/curve-csv", HILL_CURVE.encode(), "curve.csv", part=part or "x")
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, html.unescape(answer.text))
        answer = self.upload(f"{path}/curve-csv", b"flow_gpm,head_ft\n0,10\n", "curve.csv", part="second")
        self.assertIn("three or more are needed", answer.text)

    def test_the_same_range_said_twice_and_not_the_same(self) -> None:
        path = self.hill(**{"sensor.range_head_m": "150"})
        page = html.unescape(self.ada.get(f"{path}/survey").text)
        told = next(line for line in re.findall(r'"text": ?"([^"]+)"', page) if "range" in line)
        for words in ("10.34 bar", "45.7 m"):
            self.assertIn(words, told)

    def test_bad_facts_are_named(self) -> None:
        path = self.hill()
        for field, typed, words in (
            ("tank_1.valve_m3s", "-3", "accepted"), ("tanks.count", "4", "accepted"), ("tanks.count", "1.5", "whole number"),
            ("line.wave_ms", "fast", "not a number"), ("control.full_by", "luck", "accepted"), ("source.low_m", "1e99", "accepted"),
        ):  # fmt: skip
            answer = self.save_facts(path, {field: typed}, units="us")
            self.assertIn(words, str(answer.json()["problems"].get(field)), answer.text[-600:])
            self.save_facts(path, {field: HILL_TANK.get(field, "")}, units="us")


class BenchTest(TransferTest):
    def test_a_run_is_kept_and_replays_exactly(self) -> None:
        path = self.hill()
        ask = self.bench(path, 600.0, (0.0, "level", "1", 1.9), (300.0, "loop_open", "", 1.0))
        told = self.ada.json(f"{path}/bench", ask).json()
        self.assertEqual(len(told["reasons"]), 1)
        self.assertIn("Pump 1 starts", " ".join(event["text"] for event in told["events"]))
        kept = self.ada.json(f"{path}/runs", {**ask, "save_key": key(), "note": "sensor loop opens"})
        self.assertEqual(kept.status_code, 200)
        again = self.ada.json(f"{path}/bench", ask).json()
        self.assertEqual(again["events"], told["events"])
        for wrong in (
            {**ask, "start": -1.0}, {**ask, "start": 99.0},
            self.bench(path, 60.0, (0.0, "draw", "", -1.0)), self.bench(path, 60.0, (0.0, "level", "2", 1.0)), self.bench(path, 60.0, (0.0, "level", "", 1.0)),
            self.bench(path, 60.0, (0.0, "stuck_open", "4", 1.0)), self.bench(path, 60.0, (0.0, "inflow", "", 1.0)), self.bench(path, 60.0, (0.0, "shut", "2", 1.0)),
            self.bench(path, 60.0, (0.0, "source", "2", 1.0)), self.bench(path, 1e9),
        ):  # fmt: skip
            self.assertEqual(self.ada.json(f"{path}/bench", wrong).status_code, 422, wrong)

    def test_why_it_has_not_restarted_to_the_second(self) -> None:
        """Ten seconds after the pressure fell the line says how long the delay still counts, and what would start it now."""
        path = self.hill()
        self.decide(path, keypad__profile="dunlin_ledger")
        asked = (0.0, "level", "1", 1.9)
        told = self.ada.json(f"{path}/bench", self.bench(path, 70.0, asked)).json()
        self.assertNotIn("starts", str(told["events"]))
        links = {link["name"]: link for link in told["reasons"][0]["links"]}
        self.assertEqual(told["reasons"][0]["deciding"], list(links).index("Demand"))
        self.assertIn("Start would do it now, at the cost of", links["Demand"]["text"])
        left_s = links["Demand"]["left_s"]
        self.assertGreater(left_s, 5.0)
        later = self.ada.json(f"{path}/bench", self.bench(path, 80.0 + left_s, asked)).json()["events"]
        started = next(event["at_s"] for event in later if "Pump 1 starts" in event["text"])
        self.assertAlmostEqual(started, 70.0 + left_s, delta=1.0)  # it looks once a second

    def test_every_proof_of_both_ways_passes_on_the_bench(self) -> None:
        hill, brine = self.hill(), self.station(BRINE, "transfer")
        for path in (hill, brine):
            self.ada.form(f"{path}/bench-proofs", save_key=key())
            page = self.ada.get(f"{path}/prove").text
            self.assertGreaterEqual(page.count("bench only, prove on site"), 15)
            self.assertNotRegex(page, "[1-9] failed")


class DevicesTest(TransferTest):
    def test_what_a_family_does_in_its_own_way_is_told_before_it_is_typed(self) -> None:
        """One states limits in metres of water and counts its delay from the drop; the other forms the restart from the stop."""
        path = self.hill()
        seen = {}
        for family in ("dunlin_ledger", "sandeel_slate"):
            self.decide(path, keypad__profile=family)
            seen[family] = self.text(f"{path}/enter")
            self.assertNotIn("does not fit", seen[family])
        self.assertNotEqual(*seen.values())
        # the stop, 68.3 psi, is 4.71 bar or 48.1 m of water; the restart, 49.5 psi, is 34.7 m of water or 1.30 bar under it
        for family, words in (
            ("dunlin_ledger", ("stop pressure, from the plan 48.1 mWC", "restart pressure, from the plan 34.7 mWC", "restart delay, from the plan 1.5 min")),
            ("sandeel_slate", ("stop pressure, from the plan 4.70 bar", "restart pressure, from the plan 1.30 bar", "one way of its own (stop)", "one way of its own (skipped)")),
        ):  # fmt: skip
            for word in words:
                self.assertIn(word, seen[family])
        self.assertNotIn("one way of its own", seen["dunlin_ledger"])

    def test_a_number_read_back_wrong_stands_on_the_bench_and_in_the_way_of_the_signature(self) -> None:
        path = self.hill()
        page = self.ada.get(f"{path}/enter").text
        codes = re.findall(r'data-code="([^"]+)" data-device="([^"]+)"', page)
        self.assertGreater(len(codes), 6)
        code, device = codes[0]
        shown = self.ada.json(f"{path}/read-back", {"save_key": key(), "code": html.unescape(code), "device": device, "typed": "1"})
        self.assertEqual(shown.status_code, 200, shown.text[:300])
        self.assertIn("matters", self.ada.get(f"{path}/enter").text)
