"""Which faults nobody would notice, and why a station is as it is seen: by real requests."""

import html
import re

from tests.web.visits import PASSWORD, WebTest, key
from tools.stage.server import Visitor
from tools.stage.typed_stations import ROUND_WELL, TANK_SET

AUTO, OFF = 2, 1


class NoticingTest(WebTest):
    def rows(self, path: str, *faults: str) -> dict[str, dict[str, str]]:
        answer = self.ada.json(f"{path}/noticing", {"ids": list(faults)})
        self.assertEqual(answer.status_code, 200, answer.text)
        return {row["id"]: row for row in answer.json()["rows"]}

    def test_each_fault_is_put_in_and_what_passes_every_proof_is_told_with_what_would_tell(self) -> None:
        path = self.station(ROUND_WELL)
        page = self.ada.get(f"{path}/noticing").text
        self.assertIn("Which faults would nobody notice", self.ada.get(f"{path}/prove").text)
        faults = re.findall(r'data-fault="([^"]+)"', page)
        self.assertGreater(len(faults), 20)
        self.assertIn("Pump 1 starter does not pull in", page)
        rows = self.rows(path, "loop_open", "starter.1", "dial.2", "overload.2")
        self.assertEqual({name: row["best"] for name, row in rows.items()}, {"loop_open": "fails", "starter.1": "fails", "dial.2": "alarm", "overload.2": "nothing"})
        gap = re.sub(r"<[^>]+>|\s+", " ", html.unescape(rows["overload.2"]["html"]))
        gap = re.sub(r"\s+", " ", gap)
        for words in ("by nobody", "What would tell", "instead of", "ends", "Keep as an open point"):
            self.assertIn(words, gap)
        cells = len(re.findall(r'<td\s+class="mark', rows["starter.1"]["html"]))
        self.assertEqual(cells, page.count('id="proof-'))

    def test_what_was_tried_stays_until_plan_or_devices_change(self) -> None:
        path = self.station({**ROUND_WELL, "inflow.mean_m3s": "2.3"})
        rows = self.rows(path, "loop_open", "dial.2")
        self.ada.form(f"{path}/open-points", text="Ask for the key", save_key=key())  # changes no number
        page = re.sub(r"\s+", " ", self.ada.get(f"{path}/noticing").text)
        self.assertEqual(re.findall(r'data-fault="([^"]+)" data-best="([^"]+)"', page), [(name, row["best"]) for name, row in sorted(rows.items(), key=lambda pair: page.index(f'data-fault="{pair[0]}"'))])
        self.assertIn(f"2 of {page.count('data-fault=')} tried: 0 pass every proof and raise no alarm, 1 only raise an alarm.", page)
        again = self.rows(path, "dial.2", "loop_open", "starter.1")  # those that are known come at once, by themselves
        self.assertEqual(list(again), ["dial.2", "loop_open"])
        self.assertEqual(again["dial.2"], rows["dial.2"])
        self.save_facts(path, {"well.depth_m": "5.4"})
        self.assertNotIn("data-best", self.ada.get(f"{path}/noticing").text)

    def test_the_numbers_that_were_read_back_are_the_ones_that_are_proved(self) -> None:
        """A float set's seal and a booster: kinds share the page; what is not there is refused by name."""
        path = self.station(TANK_SET, "booster")
        rows = self.rows(path, "dry")
        self.assertEqual(rows["dry"]["best"], "fails")
        for ids, words in ((["nobody"], "no such fault"), ([], "ids"), (["dry"] * 401, "ids")):
            answer = self.ada.json(f"{path}/noticing", {"ids": ids})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.text)
        empty = self.station()
        self.assertIn("There is nothing to prove yet", self.ada.get(f"{empty}/noticing").text)
        self.assertEqual(self.ada.json(f"{empty}/noticing", {"ids": ["dry"]}).status_code, 409)


class WhyTest(WebTest):
    def ask(self, path: str, switches: list[int], who: Visitor | None = None, **seen: str) -> str:
        """As the page asks: until every fault has been played."""
        for _ in range(30):
            answer = (who or self.ada).json(f"{path}/why", {"switches": switches, "seen": {name.replace("__", "."): text for name, text in seen.items()}})
            self.assertEqual(answer.status_code, 200, answer.text)
            if "html" in answer.json():
                return re.sub(r"\s+", " ", html.unescape(answer.json()["html"]))
            self.assertLess(answer.json()["played"], answer.json()["of"] + 1)
        raise AssertionError("never answered")

    def test_symptoms_give_causes_the_next_look_and_what_would_start_it(self) -> None:
        """Water at 1.2 m, over the duty start, and rising; pump 1 called, not pulled in and given up: its starter. A reader may ask."""
        path = self.station(ROUND_WELL)
        page = self.ada.get(f"{path}/why").text
        for words in ("Level, by stick or tape", "Its current", "High level", "Switches"):
            self.assertIn(words, page)
        cy = Visitor(self.web.address).sign_in("Cy Rook", PASSWORD)
        nothing = self.ask(path, [AUTO, AUTO], cy)
        self.assertIn("Nothing is filled in yet", nothing)
        self.assertIn("Look at this next", nothing)
        seen = {"level": "1.2", "runs__1": "no", "tripped__1": "yes", "current__1": "0", "alarm__pump__1": "yes"}
        found = self.ask(path, [AUTO, AUTO], **seen)
        first = found.split("</li>")[0]
        self.assertRegex(first, "Pump 1 (starter does not pull in|feedback wire is off|is blocked)")
        self.assertIn("fits all you saw", first)
        self.assertIn("Look at this next", found)
        where = dict(re.findall(r'data-(cause|story|at|since)="([^"]*)"', first))
        asked = {"switches": [AUTO, AUTO], "cause": where["cause"], "story": where["story"], "at_s": float(where["at"]), "since_s": float(where["since"])}
        ways = self.ada.json(f"{path}/ways", {**asked, "pump": 1, "starts": True}).json()["html"]
        self.assertIn("put right; then Pump 1 to OFF and back to AUTO", html.unescape(ways))

    def test_off_is_not_a_fault(self) -> None:
        path = self.station(ROUND_WELL)
        found = self.ask(path, [OFF, OFF], level="1.6", runs__1="no", runs__2="no", rises="yes", falls="no")
        self.assertIn("fits all you saw", found.split("</li>")[0])
        self.assertIn("Nothing is broken: it does what its numbers say", found)

    def test_a_run_of_the_bench_can_be_asked_the_same(self) -> None:
        path = self.station(ROUND_WELL)
        acts = [{"at_s": 0.0, "kind": "inflow", "target": "", "value": 0.01}, {"at_s": 1.0, "kind": "starter", "target": "1", "value": 1.0}]
        acts.append({"at_s": 1.0, "kind": "switch", "target": "2", "value": 1.0})
        run = {"start": 0.5, "actions": acts, "from_s": 0.0, "to_s": 900.0}
        told = self.ada.json(f"{path}/bench-signs", run).json()
        self.assertEqual(told["switches"], [AUTO, OFF])
        self.assertEqual(told["seen"]["runs.1"], "no")
        ways = html.unescape(self.ada.json(f"{path}/bench-ways", {**run, "pump": 1, "starts": True}).json()["html"])
        self.assertIn("Pump 1: starter, put right", ways)
        self.assertNotIn("Pump 2: starter, put right", ways)  # it is not broken
        ways = html.unescape(self.ada.json(f"{path}/bench-ways", {**run, "pump": 2, "starts": True}).json()["html"])
        self.assertIn("Pump 2 to HAND", ways)

    def test_what_cannot_be_seen_is_refused_by_name(self) -> None:
        path = self.station(ROUND_WELL)
        for switches, seen, words in (
            ([AUTO], {}, "one for each of the 2 pumps"), ([AUTO, 3], {}, "switches"), ([AUTO, AUTO], {"level": "high"}, "The water, level, by stick or tape"),
            ([AUTO, AUTO], {"runs.1": "perhaps"}, "accepted: yes, no"), ([AUTO, AUTO], {"moon": "full"}, "no such sign"), ([AUTO, AUTO], {"off": "1"}, "no such sign"),
        ):  # fmt: skip
            answer = self.ada.json(f"{path}/why", {"switches": switches, "seen": seen})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.text)
        asked = {"switches": [AUTO, AUTO], "cause": "gremlin", "story": "the peak inflow", "at_s": 1.0, "since_s": 0.0, "pump": 1, "starts": True}
        self.assertEqual(self.ada.json(f"{path}/ways", asked).status_code, 422)
        self.assertEqual(self.ada.json(f"{path}/ways", {**asked, "cause": "", "pump": 9}).status_code, 422)
