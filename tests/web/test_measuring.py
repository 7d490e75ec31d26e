"""Bench proofs, the week, and timed drawdown by real requests."""

from goodbalance.demo.kestrel_point import SLIPWAY
from tests.web.visits import WebTest, key


class BenchProofTest(WebTest):
    def test_the_bench_proves_the_plan_but_the_site_still_has_to(self) -> None:
        path = self.station(SLIPWAY)
        self.ada.form(f"{path}/bench-proofs", save_key=key())
        page = self.ada.get(f"{path}/prove").text
        self.assertEqual(page.count("bench only, prove on site"), 17)
        self.assertIn("0 of 17 passed", page)
        self.ada.form(
            f"{path}/observations", proof_id="sensor_failure", method="real_water", save_key=key(), seen="yes"
        )
        self.ada.form(f"{path}/bench-proofs", save_key=key())  # what is proved on site stays so
        self.assertIn("1 of 17 passed", self.ada.get(f"{path}/prove").text)

    def test_a_wrong_number_read_back_fails_on_the_bench(self) -> None:
        path = self.station(SLIPWAY)
        self.ada.json(f"{path}/read-back", {"save_key": key(), "code": "4 b", "typed": "3.58"})  # not 1.58
        self.ada.form(f"{path}/bench-proofs", save_key=key())
        page = self.ada.get(f"{path}/prove").text
        self.assertIn("3 failed", page)  # on the rise it never comes; on the fall it lets go too high or never clears
        self.assertIn("never came", page)
        self.assertIn("with 1 number as read back", page)

    def test_a_week_is_summed_up_day_by_day(self) -> None:
        path = self.station(SLIPWAY)
        for days in (1, 2):
            answer = self.ada.json(f"{path}/week", {"days": days}).json()
            self.assertIn(f"{days} days:", answer["html"])
        self.assertIn("No harm seen", answer["html"])
        self.assertEqual(self.ada.json(f"{path}/week", {"days": 8}).status_code, 422)
        self.assertEqual(self.ada.json(f"{self.station()}/week", {"days": 1}).status_code, 409)


class DrawdownTest(WebTest):
    RUN = {
        "1.before.from": "1,00", "1.before.to": "1.10", "1.before.time": "120",
        "1.pumping.from": "1.10", "1.pumping.to": "0.80", "1.pumping.time": "150",
    }  # fmt: skip

    def test_a_measured_rate_is_compared_kept_and_reckoned_with(self) -> None:
        path = self.station(SLIPWAY)
        page = self.ada.form(f"{path}/drawdown", pump="1", save_key=key(), **self.RUN).text
        # 2.545 m2: fills at 0.2545 / 120 = 2.12 l/s, drawn at 0.7634 / 150 = 5.09 l/s: 7.21 l/s
        self.assertIn("7.21 l/s", page)
        self.assertIn("less than its curve", page)
        self.assertIn("by timed drawdown", self.ada.get(f"{path}/handover").text)
        before = self.ada.get(f"{path}/reckon").text
        save = {"save_key": key(), "units": "metric", "changes": {"schools.pump_rate": "measured"}}
        self.ada.json(f"{path}/choices", save)
        self.assertNotEqual(self.firm(before), self.firm(self.ada.get(f"{path}/reckon").text))

    @staticmethod
    def firm(page: str) -> str:
        return page.split("Firm capacity, strongest pump out")[1].split('<b class="num">')[1].split("<")[0]

    def test_bad_readings_are_named_and_kept(self) -> None:
        path = self.station(SLIPWAY)
        for change, words in (
            ({"1.pumping.to": "abc"}, "Run 1, this pump in hand draws down, to: &#39;abc&#39; is not a number"),
            ({"1.pumping.time": "0"}, "accepted: 0 to 86400 s"),
            ({"1.pumping.to": "1.3"}, "draws the level down"),
            ({"1.before.to": "0.9"}, "the level rises"),
            (
                {"1.pumping.from": "", "1.pumping.to": "", "1.pumping.time": ""},
                "needs the fill before and the drawdown",
            ),
            (dict.fromkeys(self.RUN, ""), "No run is filled in"),
        ):
            answer = self.ada.form(f"{path}/drawdown", pump="1", save_key=key(), **{**self.RUN, **change})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.text)
        self.assertIn(
            'value="1,00"',
            self.ada.form(f"{path}/drawdown", pump="1", save_key=key(), **{**self.RUN, "1.before.to": "x"}).text,
        )
        self.assertEqual(self.ada.form(f"{path}/drawdown", pump="9", save_key=key(), **self.RUN).status_code, 422)
        self.assertEqual(self.ada.get(f"{self.station()}/drawdown").status_code, 409)
