"""How likely a setting stays inside: against the closed formula drawn directly, and against reckoning every draw in full."""

import unittest

import numpy as np

from goodbalance.core.balance.chances import WIDTH
from goodbalance.core.stations.lift.windows.chances import area_moved, chances, inflow_moved, pumps_moved
from goodbalance.core.stations.lift.windows.reckon import reckon
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

    def test_sure_facts_make_sure_settings_and_draws_repeat(self) -> None:
        sure = survey(sureness=dict.fromkeys(DOUBT, 0.0))
        self.assertEqual(set(chances(sure, choices(), reckon(sure, choices())).values()), {1.0})
        unsure = survey(sureness=DOUBT)
        plan = reckon(unsure, choices())
        self.assertEqual(chances(unsure, choices(), plan), chances(unsure, choices(), plan))
