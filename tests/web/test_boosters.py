"""Booster sets by real requests: every page, the sweep before the loop, files of every bad kind, the bench and its proofs."""

import re

from tests.web.visits import WebTest, key
from tools.stage.typed_stations import ROUND_WELL, TANK_SET

PLAIN = {**TANK_SET, "motor.generator": "no"}
SWEPT = {  # speeds by hand near the reckoned ones: 0, 0.8 and 4.8 l/s at 4.22 bar
    "outlet": "0,8", "speed_unit": "percent", "0.outlets": "0", "0.pumps": "1", "0.suction": "0.2", "0.pressure": "4.22", "0.speed": "84.6", "0.held": "yes",
    "1.outlets": "1", "1.pumps": "1", "1.suction": "0.19", "1.pressure": "4.22", "1.speed": "85.9", "1.held": "yes",
    "2.outlets": "6", "2.pumps": "3", "2.suction": "0.15", "2.pressure": "4.22", "2.speed": "89.5", "2.held": "yes",
}  # fmt: skip


def step_csv(after: float = 84.0, gain: float = 0.035, noise: float = 0.0, delay_s: float = 0.3) -> bytes:
    """A step from 80 % at 10 s, answered by `gain` bar per per cent with 2 s of lag, after a delay."""
    rows, pressure = [], 4.0
    for tenth in range(600):
        at_s = tenth / 10.0
        share, acts = (after if at_s >= start_s else 80.0 for start_s in (10.0, 10.0 + delay_s))
        pressure += (4.0 + gain * (acts - 80.0) - pressure) * 0.05
        rows.append(f"{at_s},{share},{pressure + noise * (1 if tenth % 2 else -1):.5f}")
    return ("time_s,speed_percent,pressure_bar\n" + "\n".join(rows)).encode()


class BoosterTest(WebTest):
    def booster(self, **changes: str) -> str:
        path = self.station({**PLAIN, **changes}, "booster")
        save = {"save_key": key(), "units": "metric", "changes": {"schools.no_flow": "flow"}}
        self.assertEqual(self.ada.json(f"{path}/choices", save).status_code, 200)
        return path


class OwnSwitchesTest(BoosterTest):
    def test_a_switch_for_each_pump_from_the_survey_to_the_rail_and_its_proofs(self) -> None:
        """Each mark has its window, its cone and its proof; a cone turned wrong is told with its harm and rehearsed as it stands; no standby."""
        path = self.booster(**{"control.kind": "on_off", "control.own_switches": "yes", "pumping.count": "3", "pumping.standby": "no", "vessel.volume_m3": "1.5", "outlets.permitted_pa": "9", "control.suction_by": "none"})
        text = lambda view: re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", self.ada.get(f"{path}/{view}").text))  # noqa: E731
        for words in ("Cut-in of switch 3", "Cut-out of switch 2", "cut-in of switch 1 less a step"):
            self.assertIn(words, text("reckon"))
        self.ada.json(f"{path}/choices", {"save_key": key(), "units": "metric", "changes": {"keypad.profile": "barnacle_rail"}})
        enter = text("enter")
        for words in ("Barnacle rail", "cone 3 tip", "cone 1 skirt", "Pump 2 closes at"):
            self.assertIn(words, enter)
        self.assertIn("Pump 4 opens at 4.00 bar not used by this plan", enter)
        self.assertNotIn("windows empty", enter)
        self.assertIn("Switch 2 starts its pump", text("prove"))
        self.assertIn("Pressure switch 3", text("wiring"))
        wrong = {"save_key": key(), "code": "cone 2 skirt", "typed": "2.00"}
        answer = self.ada.json(f"{path}/read-back", wrong)
        self.assertEqual(answer.status_code, 200, answer.text[:200])
        self.assertIn("1 differ", text("enter"))
        self.assertIn("Cut-in of switch 2", text("guarded") + text("handover"))
        broken = {"start": 422e3, "actions": [{"at_s": 0.0, "kind": "no_call", "target": "2", "value": 1.0}], "from_s": 0.0, "to_s": 5.0}
        said = self.ada.json(f"{path}/bench", broken).json()
        self.assertIn("switch 2 is open", " ".join(link["text"] for line in said["reasons"] for link in line["links"]))
        for kind, target in (("no_call", "4"), ("calls_on", "0"), ("calls_on", "x")):
            refused = {**broken, "actions": [{"at_s": 0.0, "kind": kind, "target": target, "value": 1.0}]}
            self.assertEqual(self.ada.json(f"{path}/bench", refused).status_code, 422)
        self.ada.json(f"{path}/facts", {"save_key": key(), "base_seq": 0, "units": "metric", "changes": {"pumping.standby": "yes"}})
        self.assertIn("say that there is none", text("survey"))


class PagesTest(BoosterTest):
    VIEWS = (
        "survey",
        "reckon",
        "sweep",
        "loop",
        "energy",
        "rehearse",
        "enter",
        "prove",
        "handover",
        "card",
        "pressure-trends",
        "log",
    )

    def test_every_page_answers_before_and_after_the_survey(self) -> None:
        path = self.booster()
        for view in self.VIEWS:
            self.assertEqual(self.ada.get(f"{path}/{view}").status_code, 200, view)
        empty = self.station(kind="booster")
        asked = {"sweep": 409, "loop": 409, "energy": 409, "pressure-trends": 409}
        for view in self.VIEWS:
            answer = self.ada.get(f"{empty}/{view}")
            self.assertEqual(answer.status_code, asked.get(view, 200), view)
            if view in asked:
                self.assertIn("Complete the survey first", answer.text)

    def test_each_kind_has_its_own_pages(self) -> None:
        booster, lift = self.booster(), self.station(ROUND_WELL)
        for view in ("drawdown", "trends"):
            self.assertIn(self.ada.get(f"{booster}/{view}").status_code, (409, 422), view)
        for view in ("sweep", "loop", "energy", "pressure-trends"):
            self.assertEqual(self.ada.get(f"{lift}/{view}").status_code, 422, view)
        switched = self.booster(**{"control.kind": "on_off"})
        for view in ("loop", "energy"):
            answer = self.ada.get(f"{switched}/{view}")
            self.assertEqual(answer.status_code, 409)
            self.assertIn("switched on and off", answer.text)

    def test_windows_without_end_are_still_drawn(self) -> None:
        """Without a tank no cut-out is high enough; a set pressure dragged to nothing needs no pump at all."""
        bare = self.booster(**{"control.kind": "on_off", "vessel.volume_m3": "0"})
        page = self.ada.get(f"{bare}/reckon?explain=1").text
        self.assertIn("No room", page)
        self.assertIn("a tank of", page)
        for word in ("Infinity", "NaN"):
            self.assertNotIn(word, page.split('id="picture">')[1])
        self.assertEqual(self.ada.json(f"{bare}/reckon/preview", {"chosen": {"cut_in": 3.9e5}}).status_code, 200)
        path = self.booster()
        for value in (-9e4, 0.0, 4.3, 9e6):
            self.assertEqual(
                self.ada.json(f"{path}/reckon/preview", {"chosen": {"set_pressure": value}}).status_code, 200
            )
        self.assertEqual(self.ada.json(f"{path}/reckon/preview", {"chosen": {"set_pressure": 1e12}}).status_code, 422)

    def test_the_three_conventions_of_a_restart_stand_on_the_sheets(self) -> None:
        """One family types it in bar, one as a per cent of the set pressure: both come to the same pressure."""
        seen = {}
        for device in ("motor_mounted", "wall_drive"):
            path = self.booster(**{"control.device": device})
            seen[device] = self.ada.get(f"{path}/enter").text
        self.assertNotEqual(seen["motor_mounted"], seen["wall_drive"])
        self.assertIn("Restart", seen["motor_mounted"] + seen["wall_drive"])
        for text in seen.values():
            self.assertNotIn("does not fit", text)

    def test_energy_compares_serial_with_synchronous_by_the_hour(self) -> None:
        page = self.ada.get(f"{self.booster()}/energy").text
        for words in ("kWh/m³", "all at one speed, with setback", "one regulates, the others full", "From"):
            self.assertIn(words, page)


class SweepTest(BoosterTest):
    def test_no_loop_before_the_pressure_is_held_by_hand(self) -> None:
        path = self.booster()
        self.assertIn("Hold by hand first", self.ada.get(f"{path}/loop").text)
        refused = self.upload(f"{path}/step-tests", step_csv(), "step.csv", flow="1.6", pumps="1")
        self.assertEqual(refused.status_code, 409)
        self.assertIn("Not yet", refused.text)
        lost = {**SWEPT, "2.held": "no", "2.pressure": "3.1", "2.speed": "100"}
        page = self.ada.form(f"{path}/sweep", save_key=key(), **lost).text
        self.assertIn("not held by hand", page)
        self.assertIn("Hold by hand first", self.ada.get(f"{path}/loop").text)
        page = self.ada.form(f"{path}/sweep", save_key=key(), **SWEPT).text
        self.assertIn("held at every flow tried", page)
        self.assertNotIn("Hold by hand first", self.ada.get(f"{path}/loop").text)
        self.assertIn("Swept by hand: 0 outlets 84.6 %", self.ada.get(f"{path}/handover").text)

    def test_bad_lines_are_named_and_kept(self) -> None:
        path = self.booster()
        for change, words in (
            ({"1.speed": "fast"}, "Line 2, speed: &#39;fast&#39; is not a number; accepted: 0 to 100 %"),
            ({"1.speed": "140"}, "Line 2, speed is 140 % of full speed; accepted: 0 to 100 % of full speed"),
            ({"speed_unit": ""}, "Unit of the speeds: &#39;&#39;; accepted: % of full speed, Hz, rpm"),
            ({"0.pumps": "\u00b2"}, "Line 1, pumps: &#39;\u00b2&#39; is not a number; accepted: a whole number, 1 to"),
            ({"speed_unit": "hz"}, "Line 1, speed is 84.6 Hz; accepted: 0 to 50 Hz"),
            ({"1.pressure": ""}, "Line 2, pressure"),
            ({"1.pumps": "4"}, "Line 2, pumps is 4; accepted: a whole number, 1 to 3"),
            ({"1.outlets": "-1"}, "Line 2, outlets is -1; accepted: a whole number, 0 to 500"),
            ({"1.held": "perhaps"}, "accepted: yes or no"),
            ({"outlet": "0"}, "Flow of one outlet is 0"),
            (
                {f"{line}.{part}": "" for line in range(3) for part in ("suction", "pressure", "speed")},
                "No line is filled in",
            ),
        ):
            answer = self.ada.form(f"{path}/sweep", save_key=key(), **{**SWEPT, **change})
            self.assertEqual(answer.status_code, 422, change)
            self.assertIn(words, answer.text)
        self.assertIn('value="85.9"', self.ada.form(f"{path}/sweep", save_key=key(), **{**SWEPT, "2.held": "x"}).text)
        self.assertNotIn("Last sweep", self.ada.get(f"{path}/sweep").text)

    def test_a_curve_from_a_file_goes_into_the_survey_or_says_why_not(self) -> None:
        path = self.booster()
        good = b"flow_m3h;head_m;power_kw\n0;61,5;0,7\n3,6;58;1,0\n7,2;50;1,3\n10,8;38;1,6\n"
        page = self.upload(f"{path}/curve-csv", good, "curve.csv", part="pumping").text
        self.assertRegex(page, r'data-fact="pumping.curve.1.flow_m3s"[^>]*value="1"')  # 3.6 m3/h is 1 l/s
        self.assertRegex(page, r'data-fact="pumping.curve.3.head_m"[^>]*value="38"')
        self.assertRegex(page, r'data-fact="pumping.curve.4.flow_m3s"[^>]*value=""')  # the old fifth and sixth are gone
        for text, words in (
            (b"", "empty"),
            (b"flow_lps,head_m\n0,60\n1,58\n", "three or more are needed"),
            (b"flow_lps,head_m\n0,60\n2,58\n1,50\n", "line 4: the flow must rise"),
            (b"flow_lps,head_m\n0,60\nx,58\n2,50\n", "line 3, flow_lps"),
            (b"head_m\n60\n", "What is in these columns?"),
            (b"\xff\xfe\x00", "not text in UTF-8"),
        ):
            answer = self.upload(f"{path}/curve-csv", text, "curve.csv", part="pumping")
            self.assertEqual(answer.status_code, 422, text)
            self.assertIn(words, answer.text)
        self.assertIn('value="61.5"', self.ada.get(f"{path}/survey").text)


class LoopTest(BoosterTest):
    def swept(self) -> str:
        path = self.booster()
        self.ada.form(f"{path}/sweep", save_key=key(), **SWEPT)
        return path

    def test_a_step_test_is_fitted_kept_and_reckoned_with(self) -> None:
        path = self.swept()
        before = self.ada.get(f"{path}/reckon").text
        page = self.upload(f"{path}/step-tests", step_csv(), "step.csv", flow="1.6", pumps="1").text
        # 0.035 bar per %, of 10 bar: 0.35 %/%; a lag of -0.1 / ln(0.95) = 1.95 s
        for words in ('Gain <b class="num">0.35</b>', "1.95 s</b>", "0.25 s</b>", "step.csv"):
            self.assertIn(words, page)
        self.assertNotEqual(self.gain(before), self.gain(self.ada.get(f"{path}/reckon").text))
        self.ada.json(
            f"{path}/choices", {"save_key": key(), "units": "metric", "changes": {"schools.process": "reckoned"}}
        )
        self.assertEqual(self.gain(before), self.gain(self.ada.get(f"{path}/reckon").text))
        self.assertIn("step test taken in", self.ada.get(f"{path}/log").text)
        self.ada.json(
            f"{path}/choices", {"save_key": key(), "units": "metric", "changes": {"schools.process": "measured"}}
        )
        at_once = self.upload(f"{path}/step-tests", step_csv(delay_s=0.0), "quick.csv", flow="1.6", pumps="1")
        self.assertEqual(at_once.status_code, 200)  # no dead time at all still makes a plan
        self.assertGreater(float(self.gain(self.ada.get(f"{path}/reckon").text)), 0.0)

    @staticmethod
    def gain(page: str) -> str:
        return page.split('data-setting="gain" data-value="')[1].split('"')[0]

    def test_what_cannot_be_fitted_is_refused_with_the_reason(self) -> None:
        path = self.swept()
        for text, fields, words in (
            (step_csv(after=80.0), {}, "step"),
            (step_csv(gain=-0.035), {}, "went the other way"),
            (step_csv(gain=0.0005, noise=0.05), {}, "noise"),
            (step_csv(), {"flow": "many"}, "flow"),
            (step_csv(), {"flow": "40"}, "accepted: 0.0 l/s to 9.6 l/s"),
            (step_csv(), {"pumps": "7"}, "accepted: a whole number, 1 to 3"),
            (b"time_s,speed_percent\n1,2\n", {}, "What is in these columns?"),
            (b"time_s,speed_percent,pressure_bar\n1,80,4\n0,80,4\n", {}, "line 3: the time does not go on"),
        ):
            answer = self.upload(f"{path}/step-tests", text, "step.csv", **{"flow": "1.6", "pumps": "1", **fields})
            self.assertEqual(answer.status_code, 422, words)
            self.assertIn(words, answer.text)
            self.assertRegex(answer.text, "[Nn]othing was stored")

    def test_the_search_goes_on_bit_by_bit_and_ends(self) -> None:
        path = self.booster()
        first = self.ada.json(f"{path}/loop-search", {"upto": 2}).json()
        self.assertEqual((first["looked"], first["done"]), (2, False))
        last = self.ada.json(f"{path}/loop-search", {"upto": 200}).json()
        self.assertEqual((last["looked"], last["done"]), (last["all"], True))
        self.assertIn("Take", last["html"])
        self.assertEqual(self.ada.json(f"{path}/loop-search", {"upto": 0}).status_code, 422)
        self.assertEqual(self.ada.json(f"{self.station(ROUND_WELL)}/loop-search", {"upto": 2}).status_code, 422)


class BenchTest(BoosterTest):
    def test_a_run_is_kept_and_replays_exactly(self) -> None:
        path = self.booster()
        acts = [
            {"at_s": 5.0, "kind": "outlets", "target": "", "value": 0.4},
            {"at_s": 60.0, "kind": "trip", "target": "1", "value": 1.0},
        ]
        ask = {"start": 422e3, "actions": acts, "from_s": 0.0, "to_s": 120.0}
        told = self.ada.json(f"{path}/bench", ask).json()
        self.assertEqual(len(told["reasons"]), 3)
        self.assertIn("Pump 1 starts", " ".join(event["text"] for event in told["events"]))
        pressures = [row[told["columns"].index("pressure_pa")] for row in told["rows"]]
        self.assertTrue(all(0.0 < p < 10e5 for p in pressures))
        kept = self.ada.json(f"{path}/runs", {**ask, "save_key": key(), "note": "lead trips"})
        self.assertEqual(kept.status_code, 200)
        self.assertIn("lead trips", self.ada.get(f"{path}/log").text)
        for wrong in (
            {**ask, "start": -1.0},
            {**ask, "start": 5e6},
            {**ask, "actions": [{"at_s": 1.0, "kind": "outlets", "target": "", "value": 3.0}]},
            {**ask, "actions": [{"at_s": 1.0, "kind": "trip", "target": "9", "value": 1.0}]},
            {**ask, "actions": [{"at_s": 1.0, "kind": "inflow", "target": "", "value": 1.0}]},
            {**ask, "to_s": 1e9},
        ):
            self.assertEqual(self.ada.json(f"{path}/bench", wrong).status_code, 422, wrong)

    def test_the_bench_proves_bit_by_bit_what_the_sheets_hold(self) -> None:
        path = self.booster()
        proofs = int(re.search(r"0 of ([0-9]+) passed", self.ada.get(f"{path}/prove").text).group(1))
        asked = self.ada.json(f"{path}/bench-some", {"save_key": key(), "ids": ["wakes", "sleeps"]})
        self.assertEqual(asked.status_code, 200)
        page = self.ada.get(f"{path}/prove").text
        self.assertEqual(page.count("bench only, prove on site"), 2)
        self.ada.form(f"{path}/bench-proofs", save_key=key())
        page = self.ada.get(f"{path}/prove").text
        self.assertGreaterEqual(
            page.count("bench only, prove on site"), proofs - 4
        )  # gauge, hands and eyes are needed for few
        self.assertNotRegex(page, "[1-9] failed")

    def test_a_trend_tells_a_hunting_set_from_a_steady_one(self) -> None:
        path = self.booster()
        rows = [(t, 4.22 + 0.15 * (1 if t % 12 < 6 else -1), 1) for t in range(0, 900, 2)]
        hunting = "time_s,pressure_bar,pump_1\n" + "\n".join(f"{t},{p:.3f},{on}" for t, p, on in rows)
        page = self.upload(f"{path}/pressure-trends", hunting.encode(), "hour.csv")
        self.assertIn("unt", page.text)
        steady = "time_s,pressure_kpa,pump_1\n" + "\n".join(f"{t},{422 + (t % 3) * 0.2},1" for t in range(0, 900, 2))
        self.assertNotIn("It hunts", self.upload(f"{path}/pressure-trends", steady.encode(), "calm.csv").text)
        for text, words in (
            (b"time_s,level_m\n0,1\n", "pressure_bar"),
            (b"time_s,pressure_bar\n0,4\n", "Nothing was stored"),
            (b"time_s,pressure_bar\n0,4\n1,none\n", "line 3, pressure_bar"),
        ):
            answer = self.upload(f"{path}/pressure-trends", text, "bad.csv")
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.text)
        self.assertEqual(self.ada.get(f"{path}/pressure-trends?seq=1").status_code, 404)
