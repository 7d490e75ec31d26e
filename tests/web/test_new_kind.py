"""A kind of station that only the tests know: it registers itself, and all six views work without another edit."""

from tests.cistern.pages import forget, register
from tests.web.visits import WebTest, key
from tools.stage.server import Visitor

# 6 m2, 2 m deep: 12 m3. The float goes from 0.4 + 0.05 to 2.0 - 0.1 m; four fifths of the way up 0.45 + 0.8 x 1.45 = 1.61 m
POND = {
    "tank.area_m2": "6", "tank.depth_m": "2", "tank.reserve_m": "0.4", "water.fills_m3s": "5", "water.drawn_m3s": "1",
}  # fmt: skip


class NewKindTest(WebTest):
    @classmethod
    def setUpClass(cls) -> None:
        register()
        cls.addClassCleanup(forget)
        super().setUpClass()

    def setUp(self) -> None:
        super().setUp()
        self.path = self.station(POND, "cistern")

    def view(self, name: str, who: Visitor | None = None) -> str:
        answer = (who or self.ada).get(f"{self.path}/{name}")
        self.assertEqual(answer.status_code, 200, name)
        return answer.text

    def test_survey_and_reckon(self) -> None:
        self.assertIn("Somebody stands at the tap.", self.view("survey"))
        self.assertIn("Plan area", self.view("survey"))
        page = self.view("reckon")
        self.assertIn('value="1.61"', page)
        self.assertIn("The hose runs dry.", page)
        self.assertIn("/kinds/cistern/section.js", page)
        self.assertEqual(self.ada.get("/static/kinds/cistern/section.js").status_code, 200)
        dragged = self.ada.json(f"{self.path}/reckon/preview", {"chosen": {"float": 1.95}}).json()
        self.assertEqual(dragged["picture"]["settings"][0]["standing"], "above the window")
        # 1.00 m on 6 m2
        saved = self.ada.json(f"{self.path}/choices", {"save_key": key(), "units": "metric", "chosen": {"float": 1.0}, "was": {"float": None}})
        self.assertIn("6.00 m³", saved.json()["html"])
        impossible = self.save_facts(self.path, {"tank.reserve_m": "2.5"}, base_seq=9).json()
        self.assertIn("tank.reserve_m", str(impossible["findings"]))

    def test_rehearse_runs_and_is_kept_and_replayed(self) -> None:
        self.assertIn("/kinds/cistern/section.js", self.view("rehearse"))
        acts = [{"at_s": 10.0, "kind": "drawn", "target": "", "value": 0.0}]
        ask = {"start": 1.0, "actions": acts, "from_s": 0.0, "to_s": 1200.0}
        told = self.ada.json(f"{self.path}/bench", ask).json()
        words = [event["text"] for event in told["events"]]
        self.assertEqual(words[:2], ["Pump 1 starts at 1.00 m", "Somebody opens a tap"])
        self.assertRegex(words[2], r"Pump 1 stops at 1\.61 m")
        self.assertEqual(told["reasons"][0]["links"][0]["name"], "Float")
        kept = self.ada.json(f"{self.path}/runs", {**ask, "save_key": key(), "note": "fills"}).json()
        self.assertTrue(self.ada.json(f"{self.path}/runs/{kept['run']}/replay", {}).json()["same"])
        refused = self.ada.json(f"{self.path}/bench", {**ask, "actions": [{**acts[0], "kind": "seal"}]})
        self.assertEqual(refused.status_code, 422)

    def test_enter_prove_hand_over_and_travel(self) -> None:
        self.assertIn("nothing to type", self.view("enter").lower())
        self.assertIn("The float stops the pump", self.view("prove"))
        some = self.ada.json(f"{self.path}/bench-some", {"save_key": key(), "ids": ["stops"]})
        self.assertEqual(some.status_code, 200, some.text[:200])
        self.assertIn("stops", self.view("log"))
        self.ada.form(f"{self.path}/observations", proof_id="stops", method="real_water", save_key=key(), seen="1.60", note="")
        self.assertIn("all passed", self.view("handover"))
        self.assertIn("Signed", self.sign(self.path).text)
        self.assertIn("1.61", self.view("card"))
        text = self.ada.get(f"{self.path}/station.json").content
        self.assertIn(b'"cistern"', text)
        self.assertIn("Cistern", self.ada.get("/").text)

    def test_pages_of_other_kinds_refuse_it(self) -> None:
        for page in ("drawdown", "trends", "sweep", "loop", "energy"):
            self.assertEqual(self.ada.get(f"{self.path}/{page}").status_code, 422, page)

