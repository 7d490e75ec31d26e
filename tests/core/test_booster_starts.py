"""Starts of a booster set: what is reckoned against marching the water, and against the bench."""

import math
import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.vessels import drawdown_m3
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.names import Harm
from goodbalance.core.stations.booster.windows.switched import shortest_cycle, stored_for_m3
from goodbalance.core.stations.shared.held import Held
from tests.boosters import METRE_PA, plan_of
from tests.core.test_booster_bench import station

AIR_PA = 101_325.0


def figure(plan, name: str):
    return next(f for f in plan.figures if f.id == name)


def marched_starts(tank_m3: float, charge_pa: float, low_pa: float, high_pa: float, supply_pa: float, drawn_m3s: float) -> float:
    """Starts an hour of one switched pump on a tank at one demand, second by second: gas by Boyle, curve 60 - 2e6 Q^2."""
    gas = tank_m3 * (charge_pa + AIR_PA) / (low_pa + AIR_PA)
    on, since, starts, dt = True, 0.0, 0, 0.05
    for _ in range(round(3600.0 / dt)):
        pressure = tank_m3 * (charge_pa + AIR_PA) / gas - AIR_PA
        if on and pressure >= high_pa:
            on = False
        elif not on and pressure <= low_pa:
            on, starts = True, starts + 1
        head = (pressure - supply_pa) / METRE_PA
        pumped = math.sqrt(max(0.0, 60.0 - head) / 2e6) if on else 0.0
        gas = min(tank_m3 * 0.999, gas - (pumped - drawn_m3s) * dt)
        since += dt
    return float(starts)


class SwitchedTest(unittest.TestCase):
    def test_short_stops_start_a_motor_once_in_each_delay(self) -> None:
        for delay_s, keeps in ((179.0, False), (181.0, True)):  # 20 starts an hour are one in 180 s
            told = figure(plan_of({"sleep_delay": delay_s}, {"no_flow": "bump"}), "starts_worst")
            self.assertAlmostEqual(told.value, 3600.0 / delay_s, places=6)
            self.assertIs(told.keeps, keeps, delay_s)

    def test_the_pumps_own_rate_and_not_the_users_mean_wears_it_out(self) -> None:
        """100 l at 20 starts: no cut-out within reach keeps that, though the mean demand of 0.5 l/s would seem to."""
        changes = {
            "control": {"kind": "on_off"}, "pumping": {"count": 1, "starts_per_hour": 20.0}, "vessel": {"volume_m3": 0.1},
            "demand": {"least_m3s": 1e-4, "mean_m3s": 5e-4, "design_m3s": 3e-3},
        }  # fmt: skip
        self.assertTrue(plan_of(**changes).setting("cut_out").window.is_empty)
        as_before = {"cut_in": 366e3, "cut_out": 490e3, "precharge": 329e3}
        told = figure(plan_of(as_before, **changes), "starts_worst")
        self.assertFalse(told.keeps)
        worst = max(marched_starts(0.1, 329e3, 366e3, 490e3, 100e3, d * 1e-4) for d in (5.0, 10.0, 14.0, 16.0, 18.0))
        self.assertGreater(worst, 80.0)
        self.assertLessEqual(worst, told.value + 1.0)
        self.assertLess(told.value, 1.2 * worst)  # and no more cautious than it must be

    @settings(max_examples=12, deadline=None)
    @given(st.floats(0.3, 3.0), st.floats(300e3, 380e3), st.floats(40e3, 120e3), st.floats(0.0, 90e3), st.floats(0.1, 0.95))
    def test_no_demand_starts_it_more_often_than_reckoned(self, tank, low, band, supply, share) -> None:
        plan = plan_of(
            {"cut_in": low, "cut_out": low + band, "precharge": 0.9 * low}, control={"kind": "on_off"}, vessel={"volume_m3": tank},
            pumping={"count": 1}, supply={"low_pa": supply, "high_pa": supply + 1e3}, outlets={"permitted_pa": 900e3},
        )  # fmt: skip
        rate = math.sqrt(max(0.0, 60.0 - (low + band / 2.0 - supply) / METRE_PA) / 2e6)
        seen = marched_starts(tank, 0.9 * low, low, low + band, supply + 1e3, share * rate)
        self.assertLessEqual(seen, figure(plan, "starts_worst").value + 1.0)

    def test_several_pumps_cycle_together_just_over_what_one_gives(self) -> None:
        """40 l, 2 l/s each, 10 s apart: one pump 4 x 20 = 80 s; two at just over 2 l/s 20 x 2 + 10 = 50 s; solved back."""
        self.assertEqual(shortest_cycle(0.040, 0.002, 1, 10.0).time_s, 80.0)
        two = shortest_cycle(0.040, 0.002, 2, 10.0)
        self.assertEqual((two.time_s, two.pumps), (50.0, 2))
        # three: 20 x 3/2 + 2 x 10 = 50 s as well
        self.assertAlmostEqual(stored_for_m3(50.0, 0.002, 3, 10.0), 0.040)

    def test_the_bench_with_two_pumps_keeps_to_it(self) -> None:
        facts, decided, plan = station(
            {}, control={"kind": "on_off"}, vessel={"volume_m3": 2.0}, outlets={"permitted_pa": 800e3},
            demand={"design_m3s": 0.006, "least_m3s": 5e-4},
        )  # fmt: skip
        limit = figure(plan, "starts_worst").value
        for share in (0.35, 0.5, 0.7):
            found = rehearse(booster_bench(facts, decided, plan), (TimedAction(0.0, "outlets", "", share),), 3600.0)
            self.assertLessEqual(max(found.bench.starts), limit + 1.0, share)


class AsleepTest(unittest.TestCase):
    FLOW = {
        "control": {"flow_switch": True, "flow_switch_m3s": 4.5e-4}, "supply": {"low_pa": 5e4, "high_pa": 6e4},
        "pumping": {"count": 1, "starts_per_hour": 20.0}, "sensor": {"range_pa": 1e6, "noise_pa": 300.0},
        "demand": {"least_m3s": 5e-4, "mean_m3s": 1e-3, "design_m3s": 2e-3},
    }  # fmt: skip

    def test_a_set_that_sleeps_by_flow_starts_as_often_as_the_bench_shows(self) -> None:
        facts, decided, plan = station({"no_flow": "flow"}, **self.FLOW)
        told = figure(plan, "starts_worst")
        open_share = 0.44 / 2.0 * (150e3 / (plan.value("set_pressure", 0.0) - 20.0 * METRE_PA)) ** 0.5
        worst = 0
        for share in (0.7 * open_share, 0.85 * open_share, 0.95 * open_share):
            found = rehearse(booster_bench(facts, decided, plan), (TimedAction(0.0, "outlets", "", share),), 3600.0)
            worst = max(worst, *found.bench.starts)
        self.assertGreater(worst, 0.7 * told.value)  # not far from what is reckoned
        self.assertLessEqual(worst, told.value + 1.0)
        self.assertTrue(told.keeps)

    def test_the_delay_before_sleep_spaces_the_starts(self) -> None:
        """D litres at 0.45 l/s, refilled by one pump at full speed from the restart: 180 s less both is what must be waited."""
        plan = plan_of({"set_pressure": 400e3, "restart": 350e3, "precharge": 315e3, "boost": 20e3, "ramp": 3.0}, {"no_flow": "flow"}, **self.FLOW)
        stored = drawdown_m3(0.3, 315e3, 350e3, 420e3)
        refill = stored / math.sqrt((60.0 - 290e3 / METRE_PA) / 2e6)
        bound = next(b for b in plan.setting("sleep_delay").window.lower if b.cause.startswith("starts"))
        self.assertAlmostEqual(bound.value, 180.0 - stored / 4.5e-4 - refill, delta=0.1)


class RatingTest(unittest.TestCase):
    HOUSE = {
        "outlets": {"sensor_m": 30.0, "worst_m": 50.0, "lowest_m": 0.0, "top_m": 55.0, "permitted_pa": 950e3},
        "vessel": {"volume_m3": 0.3, "rating_pa": 1e6},
        "supply": {"kind": "flooded", "pump_m": 29.5, "water_low_m": 31.0, "water_high_m": 32.0},
    }  # fmt: skip

    def test_each_part_has_its_own_height(self) -> None:
        """10 bar parts 30 m under the sensor: nine tenths less 30 m of water; a tank on the roof, 20 m up, gains as much."""
        plan = plan_of({}, {"no_flow": "flow"}, **self.HOUSE)
        self.assertAlmostEqual(plan.setting("high_stop").window.high, 900e3 - 30.0 * METRE_PA, delta=2.0)
        roof = {**self.HOUSE, "vessel": {"volume_m3": 0.3, "rating_pa": 16e5, "tank_rating_pa": 6e5, "height_m": 50.0, "relief_pa": 8e5, "relief_m": 20.0}}
        found = {b.cause: b.value for b in plan_of({}, {"no_flow": "flow"}, **roof).setting("high_stop").window.upper}
        self.assertAlmostEqual(found["rating: tank"], 0.9 * 6e5 + 20.0 * METRE_PA, delta=2.0)
        self.assertAlmostEqual(found["relief valve"], 8e5 - 10.0 * METRE_PA - 6e3, delta=2.0)

    def test_the_bench_tells_of_the_part_that_breaks(self) -> None:
        """Blind and in HAND a pump rises to its shut-off: 60 m and 2 m of supply less 0.5 m, and 30 m down to the fittings."""
        weak = {**self.HOUSE, "vessel": {"volume_m3": 0.3, "rating_pa": 8e5}}
        facts, decided, plan = station({"no_flow": "flow"}, **weak)
        acts = (TimedAction(0.0, "loop_short", "", 1.0), TimedAction(1.0, "switch", "1", 0.0))
        found = rehearse(booster_bench(facts, decided, plan), acts, 60.0)
        told = next(among(found.events, Thing.HARM, of=Harm.OVER_RATING))
        self.assertEqual(told.terms[1].value, 8e5)
        self.assertAlmostEqual(found.bench.highest_pa + 30.0 * METRE_PA, 91.5 * METRE_PA, delta=METRE_PA)


class LongestRunTest(unittest.TestCase):
    """A pump that runs on and on, as if it had done so for hours: the alarm when its longest run is over, and what follows."""

    SWITCHED = {"vessel": {"volume_m3": 2.0}, "outlets": {"permitted_pa": 800e3}, "demand": {"design_m3s": 0.005}}

    def test_the_right_time_passes_and_any_other_fails(self) -> None:
        own = {**self.SWITCHED, "control": {"kind": "on_off", "own_switches": True}}
        for no_flow, long_run, changes in (
            ("speed", "warns", {}), ("bump", "stops", {}), ("speed", "stops", own), ("speed", "warns", {**self.SWITCHED, "control": {"kind": "flow_stop"}}),
        ):  # fmt: skip
            facts, decided, plan = station({"no_flow": no_flow, "long_run": long_run}, **changes)
            held = numbers_of(facts, decided, plan)

            def verdict(facts=facts, decided=decided, plan=plan, **told) -> Verdict:
                (shown,) = BOOSTER.prove_on_bench(facts, decided, plan, Held(plan, replace(held, **told)), only=frozenset({"max_run"}))  # noqa: B023
                return shown.verdict

            self.assertIs(verdict(), Verdict.PASSED, (no_flow, changes))
            for told in ({"max_run": 1.02 * held.max_run}, {"max_run": 0.98 * held.max_run}, {"max_run": math.inf}, {"long_stops": not held.long_stops}):
                self.assertIs(verdict(**told), Verdict.FAILED, (no_flow, changes, told))

    def test_hours_that_are_set_on_count_for_pumps_that_run_and_for_no_other(self) -> None:
        """10 h limit: 9.9 h set on while pump 1 runs alone, 0.1 h more by the clock; pump 2 has not run at all."""
        facts, decided, plan = station({"no_flow": "speed"})
        plan = BOOSTER.reckon(facts, decided.model_copy(update={"chosen": {"max_run": 36000.0}}), False)
        acts = (TimedAction(1.0, "outlets", "", 0.15), TimedAction(120.0, "ran", "", 9.9), TimedAction(400.0, "outlets", "", 1.0))
        found = rehearse(booster_bench(facts, decided, plan), acts, 500.0)
        (first, second), told = list(among(found.events, Thing.PUMP, Doing.STARTS))[:2], list(among(found.events, Thing.ALARM, Doing.COMES, of="long"))
        self.assertEqual([each.pump for each in told], [first.pump])
        self.assertGreater(second.at_s, 400.0)
        self.assertAlmostEqual(told[0].at_s, first.at_s + 0.1 * 3600.0, delta=1.0)
        with self.assertRaisesRegex(OutOfRange, "ran"):
            rehearse(booster_bench(facts, decided, plan), (TimedAction(1.0, "ran", "", -1.0),), 5.0)
