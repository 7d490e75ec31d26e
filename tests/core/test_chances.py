"""How likely a setting stays inside: against the closed formula drawn directly, and against reckoning every draw in full."""

import unittest

import numpy as np

from goodbalance.core.balance.chances import WIDTH
from goodbalance.core.balance.facts import Facts
from goodbalance.core.stations.booster.windows import chances as booster
from goodbalance.core.stations.lift.windows.chances import area_moved, chances, inflow_moved, pumps_moved
from goodbalance.core.stations.lift.windows.reckon import reckon
from tests import boosters
from tests.stations import choices, survey

DOUBT = {"pump_rate_share": 0.10, "inflow_share": 0.20, "area_share": 0.05, "level_m": 0.02}


class ChancesTest(unittest.TestCase):
    def test_the_high_alarm_against_its_own_formula(self) -> None:
        """Overflow 4.5 - i t / A: 4.5 - 0.006 x 600 / 2 = 2.70 m; the alarm at 2.60, reading off by e, i and A unsure."""
        station = survey(sureness=DOUBT)
        decided = choices(chosen={"high_alarm": 2.60})
        found = chances(station, decided, reckon(station, decided))["high_alarm"]
        rng = np.random.default_rng(7)
        i, area, e = (rng.standard_normal(400_000) / WIDTH for _ in range(3))
        direct = np.mean(2.60 + 0.02 * e <= 4.5 - 0.006 * (1 + 0.20 * i) * 600 / (2.0 * (1 + 0.05 * area)))
        self.assertAlmostEqual(found, direct, delta=0.01)
        self.assertLess(found, 0.95)

    def test_a_bound_that_bends_over_its_doubt(self) -> None:
        """The same with an area known to a quarter only: a straight line would tell 3 % more chance, a parabola does not."""
        station = survey(sureness={**dict.fromkeys(DOUBT, 0.0), "area_share": 0.25})
        decided = choices(chosen={"high_alarm": 2.40})
        found = chances(station, decided, reckon(station, decided))["high_alarm"]
        area = np.random.default_rng(7).standard_normal(400_000) / WIDTH
        direct = np.mean(4.5 - 0.006 * 600 / (2.0 * (1 + 0.25 * area)) >= 2.40)
        self.assertAlmostEqual(found, direct, delta=0.012)

    def test_every_setting_against_reckoning_each_draw_in_full(self) -> None:
        station = survey(sureness={**DOUBT, "level_m": 0.0}, control={"kind": "pump_controller"})
        decided = choices(chosen={"stop": 0.90, "start_1": 1.37, "high_alarm": 2.62})
        plan = reckon(station, decided)
        fixed = choices(chosen={s.id: s.value for s in plan.settings})
        rng, count = np.random.default_rng(11), 300
        inside = dict.fromkeys((s.id for s in plan.settings), 0)
        for q, i, a in rng.standard_normal((count, 3)) / WIDTH:
            moved = area_moved(inflow_moved(pumps_moved(station, q), i), a)
            for setting in reckon(moved, fixed, False).settings:
                inside[setting.id] += setting.window.holds(setting.value)
        for setting_id, share in chances(station, decided, plan).items():
            self.assertAlmostEqual(share, inside[setting_id] / count, delta=0.07, msg=setting_id)
        self.assertLess(min(inside.values()) / count, 0.9)  # something is at stake

    def test_what_is_usual_counts_as_unsure(self) -> None:
        """Nobody asked the crew: 600 s known to a half only. 4.5 - 0.006 x 600 (1 + 0.5 t) / 2 >= 2.60 where t <= 0.11."""
        station = survey(sureness=dict.fromkeys(DOUBT, 0.0))
        decided = choices(chosen={"high_alarm": 2.60})
        plan = reckon(station, decided)
        self.assertEqual(chances(station, decided, plan)["high_alarm"], 1.0)
        found = chances(station, decided, plan, {"demands.response_s": 0.5, "main.sand_roughness_m": 0.7})["high_alarm"]
        doubt = np.random.default_rng(7).standard_normal(400_000) / WIDTH
        self.assertAlmostEqual(found, np.mean(4.5 - 0.006 * 600 * (1 + 0.5 * doubt) / 2.0 >= 2.60), delta=0.01)
        self.assertLess(found, 0.7)

    def test_sure_facts_make_sure_settings_and_draws_repeat(self) -> None:
        sure = survey(sureness=dict.fromkeys(DOUBT, 0.0))
        self.assertEqual(set(chances(sure, choices(), reckon(sure, choices())).values()), {1.0})
        unsure = survey(sureness=DOUBT)
        plan = reckon(unsure, choices())
        self.assertEqual(chances(unsure, choices(), plan), chances(unsure, choices(), plan))


def numbers(facts: object, path: str = "") -> dict[str, object]:
    """Every fact by its path."""
    if isinstance(facts, dict):
        return {k: v for name, part in facts.items() for k, v in numbers(part, f"{path}.{name}").items()}
    if isinstance(facts, (list, tuple)):
        return {k: v for place, part in enumerate(facts) for k, v in numbers(part, f"{path}.{place}").items()}
    return {path[1:]: facts}


class MovedTest(unittest.TestCase):
    def assert_moved(self, station: Facts, moved: Facts, factors: dict[str, float]) -> None:
        """Just the facts named were multiplied, each by its factor; a second pump like the first is written out."""
        before, after = numbers(station.model_dump()), numbers(moved.model_dump())
        self.assertEqual({path for path in before if before[path] != after.get(path, before[path])}, set(factors))
        for path, factor in factors.items():
            self.assertAlmostEqual(after[path] / before[path], factor, places=12, msg=path)

    def test_a_lift_station_moves_by_its_doubt(self) -> None:
        table = [{"level_m": 0.0, "volume_m3": 0.5}, {"level_m": 4.0, "volume_m3": 9.0}]
        round_well = {
            "shape": "benched",
            "diameter_m": 2.0,
            "floor_diameter_m": 0.8,
            "benching_m": 0.6,
            "second_area_m2": 1.5,
        }
        station = survey(sureness=DOUBT)
        rates = [
            path
            for path, value in numbers(station.model_dump()).items()
            if path.endswith("flow_m3s") and "curve" in path and value
        ]
        self.assertGreater(len(rates), 1)
        self.assert_moved(station, pumps_moved(station, 1.0), dict.fromkeys(rates, 1.10))
        inflows = ("inflow.min_m3s", "inflow.mean_m3s", "inflow.peak_m3s")
        self.assert_moved(station, inflow_moved(station, -1.0), dict.fromkeys(inflows, 0.80))
        benched = survey(sureness=DOUBT, well=round_well)
        widths = ("well.diameter_m", "well.floor_diameter_m")  # an area goes with the square of a width
        self.assert_moved(
            benched, area_moved(benched, 1.0), {**dict.fromkeys(widths, 1.05**0.5), "well.width_m": 1.05, "well.second_area_m2": 1.05}
        )
        tabled = survey(sureness=DOUBT, well={"shape": "table", "table": table})
        moved = area_moved(tabled, -1.0).well.table
        self.assertEqual([round(point.volume_m3, 9) for point in moved if point.volume_m3 is not None], [0.475, 8.55])

    def test_a_booster_moves_by_its_doubt(self) -> None:
        doubt = {"head_share": 0.04, "demand_share": 0.2, "loss_share": 0.3}
        station = boosters.survey(sureness=doubt, outlets={"length_m": 40.0, "minor_k": 3.0})
        heads = [
            path
            for path, value in numbers(station.model_dump()).items()
            if "curve" in path and path.endswith("head_m") and value
        ]
        self.assertGreater(len(heads), 2)
        self.assert_moved(station, booster.heads_moved(station, 1.0), dict.fromkeys(heads, 1.04))
        demands = ("demand.least_m3s", "demand.mean_m3s", "demand.design_m3s")
        self.assert_moved(station, booster.demand_moved(station, 1.0), dict.fromkeys(demands, 1.2))
        losses = ("outlets.length_m", "outlets.minor_k")
        self.assert_moved(station, booster.loss_moved(station, -1.0), dict.fromkeys(losses, 0.7))

    def test_a_booster_against_reckoning_each_draw_in_full(self) -> None:
        doubt = {"head_share": 0.04, "demand_share": 0.2, "loss_share": 0.3, "reading_pa": 0.0}
        station, decided = (
            boosters.survey(sureness=doubt, outlets={"length_m": 60.0, "diameter_m": 0.06}),
            boosters.choices(),
        )
        plan = booster.reckon(station, decided, False)
        fixed = boosters.choices({setting.id: setting.value for setting in plan.settings})
        rng, count = np.random.default_rng(5), 100
        inside = dict.fromkeys((setting.id for setting in plan.settings), 0)
        for h, d, k in rng.standard_normal((count, 3)) / WIDTH:
            moved = booster.loss_moved(booster.demand_moved(booster.heads_moved(station, h), d), k)
            for setting in booster.reckon(moved, fixed, False).settings:
                inside[setting.id] += setting.window.holds(setting.value)
        for setting_id, share in booster.chances(station, decided, plan).items():
            self.assertAlmostEqual(share, inside[setting_id] / count, delta=0.15, msg=setting_id)
        self.assertLess(min(inside.values()) / count, 0.95)  # something is at stake
