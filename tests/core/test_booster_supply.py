"""Lack of water at a booster set: where an outlet draws air, what stays in a main, what the suction sensor can read, and the way back."""

import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.names import Alarm
from goodbalance.core.stations.booster.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.booster.windows.reckon import reckon
from goodbalance.core.stations.shared.held import Held
from tests.boosters import METRE_PA, bounds, choices, plan_of, survey
from tests.core.test_booster_bench import act, run, station

BREAK_TANK = {"kind": "flooded", "pump_m": 0.0, "water_low_m": 1.0, "water_high_m": 2.0, "loss_pa": 0.0}
HIGH_UP = {"permitted_pa": 900e3}


def codes(plan) -> set[str]:
    return {finding.code for finding in plan.findings}


class LowSideTest(unittest.TestCase):
    def test_a_break_tank_is_stopped_before_its_outlet_draws_air(self) -> None:
        """S = D (1 + 2.3 Fr) over an outlet of 0.1 m at 0.15 m, 6 l/s: v = 0.764 m/s, Fr = 0.771, S = 0.277 m: 0.427 m."""
        supply = {**BREAK_TANK, "outlet_m": 0.15, "outlet_diameter_m": 0.1}
        plan = plan_of(supply=supply, outlets=HIGH_UP)
        froude = 0.006 / (math.pi * 0.01 / 4.0) / math.sqrt(9.80665 * 0.1)
        level_m = 0.15 + 0.1 * (1.0 + 2.3 * froude)
        window = plan.setting("low_suction_stop").window
        self.assertAlmostEqual(window.low, level_m * METRE_PA + 1.5e3, delta=2.0)
        self.assertAlmostEqual(window.high, 1.0 * METRE_PA - 3e3, delta=2.0)
        self.assertGreater(plan.value("low_suction_stop", 0.0), 1.5e3)  # a drained tank reads nothing: it trips
        self.assertNotIn("outlet_unknown", codes(plan))
        unknown = plan_of(supply=BREAK_TANK, outlets=HIGH_UP)
        self.assertIn("outlet_unknown", codes(unknown))
        self.assertGreater(unknown.setting("low_suction_stop").window.low, 1.5e3)

    def test_an_outlet_under_the_pump_does_not_let_the_stop_down_under_what_air_reads(self) -> None:
        """The outlet draws air at -0.1 bar, but a suction full of air reads 0: the stop stands over that, 3 x 500 Pa."""
        for supply in (
            {**BREAK_TANK, "water_low_m": 1.5, "outlet_m": -1.6, "outlet_diameter_m": 0.1},
            {"low_pa": 250e3, "high_pa": 400e3, "main_floor_pa": 0.0},
        ):
            made = survey(supply=supply, outlets=HIGH_UP), choices()
            plan = reckon(*made)
            self.assertEqual(plan.setting("low_suction_stop").window.low, 1.5e3)
            (shown,) = prove_on_bench(*made, plan, None, frozenset({"low_suction_delay"}))
            self.assertIs(shown.verdict, Verdict.PASSED)

    def test_more_flow_needs_more_water_but_loses_more_on_its_way(self) -> None:
        """With 0.3 bar lost at 6 l/s the outlet's reading is highest near no flow; the bound holds over all flows."""
        supply = {**BREAK_TANK, "water_low_m": 6.0, "water_high_m": 7.0, "loss_pa": 30e3, "outlet_m": 0.1, "outlet_diameter_m": 0.1}
        low = bounds(plan_of(supply=supply, outlets=HIGH_UP), "low_suction_stop", "lower")["the outlet draws air"]
        for step in range(401):
            flow = 0.006 * step / 400.0
            froude = flow / (math.pi * 0.01 / 4.0) / math.sqrt(9.80665 * 0.1)
            reads = (0.1 + 0.1 * (1.0 + 2.3 * froude)) * METRE_PA - 30e3 * (flow / 0.006) ** 2
            self.assertLessEqual(reads, low - 1.5e3 + 40.0)

    def test_a_main_keeps_what_its_supplier_or_the_rule_asks(self) -> None:
        main = {"low_pa": 250e3, "high_pa": 400e3, "main_floor_pa": None}
        plan = plan_of(supply=main, outlets=HIGH_UP)
        self.assertEqual(bounds(plan, "low_suction_stop", "lower")["pressure to leave in a main, by rule"], 140e3)
        self.assertIn("main_floor_unknown", codes(plan))
        told = plan_of(supply={**main, "main_floor_pa": 180e3}, outlets=HIGH_UP)
        self.assertEqual(told.setting("low_suction_stop").window.low, 180e3)
        self.assertNotIn("main_floor_unknown", codes(told))

    def test_a_suction_lift_is_told_that_lost_prime_needs_another_eye(self) -> None:
        lift = {"kind": "suction_lift", "pump_m": 3.0, "water_low_m": 0.0, "water_high_m": 1.0, "outlet_m": -0.8, "outlet_diameter_m": 0.1, "loss_pa": 5e3}
        plan = plan_of(supply=lift, outlets=HIGH_UP)
        window = plan.setting("low_suction_stop").window
        self.assertIn("the foot valve draws air", {bound.cause for bound in window.lower})
        self.assertLess(window.high, -3.0 * METRE_PA)
        self.assertIn("lost_prime", codes(plan))

    def test_the_suction_sensor_must_be_able_to_read_it(self) -> None:
        lift = {"kind": "suction_lift", "pump_m": 3.0, "water_low_m": 0.0, "water_high_m": 1.0, "outlet_m": -0.8, "outlet_diameter_m": 0.1}
        plan = plan_of(supply=lift, outlets=HIGH_UP, suction_sensor={"low_pa": 0.0, "high_pa": 4e5})
        self.assertTrue(plan.setting("low_suction_stop").window.is_empty)  # a sensor from 0 up sees no vacuum
        seen = plan_of(supply=lift, outlets=HIGH_UP, suction_sensor={"low_pa": -1e5, "high_pa": 4e5})
        self.assertFalse(seen.setting("low_suction_stop").window.is_empty)
        self.assertIn("suction_range_unknown", codes(plan_of(supply=lift, outlets=HIGH_UP)))

    @settings(max_examples=60, deadline=None)
    @given(
        st.floats(0.001, 0.004), st.floats(250e3, 420e3), st.integers(1, 4), st.floats(0.0, 150e3),
        st.floats(0.3, 1.0),
    )  # fmt: skip
    def test_npsh_holds_at_the_largest_flow_one_pump_carries(self, most, set_pa, count, low_pa, speed) -> None:
        """Whatever flow one pump gives at whatever speed up to full, while it holds the pressure: its NPSH is kept at the stop."""
        plan = plan_of(
            {"set_pressure": set_pa}, supply={"low_pa": low_pa, "high_pa": low_pa + 50e3},
            pumping={"count": count}, demand={"design_m3s": most * count, "mean_m3s": 0.0008},
        )  # fmt: skip
        stop = bounds(plan, "low_suction_stop", "lower")["NPSH of the pumps"]
        flow2 = (60.0 * speed**2 - (set_pa - low_pa) / METRE_PA) / 2e6
        if flow2 <= 0.0 or flow2**0.5 > min(most * count, 0.004 * speed):
            return
        q = flow2**0.5 / speed
        points = [(0.0, 1.0), (0.002, 1.4), (0.004, 2.6)]
        (a, na), (b, nb) = next(pair for pair in zip(points, points[1:]) if q <= pair[1][0])
        needed_m = (na + (nb - na) * (q - a) / (b - a)) * speed**2
        self.assertGreaterEqual((101_325 + stop - 2339.2) / METRE_PA, needed_m + 0.5 - 0.02)


class DipTest(unittest.TestCase):
    NARROW = {"low_pa": 60e3, "high_pa": 62e3, "main_floor_pa": 35e3}

    def trips(self, made, *, switched: bool = False) -> int:
        """How often it stops for lack of water while outlets are opened for design flow at once, at the lowest supply."""
        widely = act(1.0, "outlets", 1.0), act(200.0, "outlets", 0.2)
        found = run(made, act(0.0, "suction", 60e3), *(widely if switched else (act(1.0, "outlets", 0.2), act(60.0, "outlets", 1.0))), until_s=500.0)
        return len([event for event in found.events if (event.thing, event.doing, event.of) == (Thing.ALARM, Doing.COMES, Alarm.LOW_SUCTION)])

    def test_the_delay_sits_out_the_dip_while_pumps_bring_the_pressure_back(self) -> None:
        """2.5 bar per (l/s)2 of suction pipe: three pumps at full speed fill the tank with 10.6 l/s, far over the 6 of design; the bench trips with the rule's delay and not with the plan's."""
        for loss_pa, volume_m3 in ((10e3, 0.3), (14e3, 0.3), (16e3, 0.1)):
            made = station({"no_flow": "flow"}, supply={**self.NARROW, "loss_pa": loss_pa}, vessel={"volume_m3": volume_m3})
            short = choices({"low_suction_delay": 3.0}, {"no_flow": "flow"})
            with self.subTest(loss_pa=loss_pa, volume_m3=volume_m3):
                self.assertGreater(self.trips((made[0], short, reckon(made[0], short, False))), 0)
                self.assertEqual(self.trips(made), 0, made[2].value("low_suction_delay", 0.0))
        wide = station({"no_flow": "flow"}, supply={**self.NARROW, "loss_pa": 1e3})[2]
        self.assertEqual(set(bounds(wide, "low_suction_delay", "lower")), {"honest dips of the suction"})

    def test_a_switched_set_is_reckoned_with_what_its_pumps_give_and_not_with_what_is_drawn(self) -> None:
        """Three pumps at cut-in, 3.73 bar or 38.1 m, with 60 kPa less 10 kPa (Q/6)2 before them: 60 - 2e6 q2 = 38.1 - 6.1 + 0.028e6 (3q)2, q = 3.53 l/s."""
        switched = {"control": {"kind": "on_off"}, "vessel": {"volume_m3": 2.0}, "outlets": {"permitted_pa": 800e3}}
        for loss_pa, sound in ((10e3, True), (14e3, False)):
            made = station({}, supply={**self.NARROW, "main_floor_pa": 25e3, "loss_pa": loss_pa}, **switched)
            cut_in_m = made[2].value("cut_in", 0.0) / METRE_PA
            back_m = loss_pa / METRE_PA / 0.006**2  # per square of the flow
            each = math.sqrt((60.0 - cut_in_m + 60e3 / METRE_PA) / (2e6 + 9.0 * back_m))
            low_pa = 60e3 - loss_pa * (3.0 * each / 0.006) ** 2
            self.assertAlmostEqual(bounds(made[2], "low_suction_stop", "upper")["lowest suction of normal work"], low_pa - 3.0 * 500.0, delta=20.0)
            self.assertEqual((made[2].is_sound, self.trips(made, switched=True) > 0), (sound, not sound), loss_pa)


class WayBackTest(unittest.TestCase):
    def test_the_reset_lies_over_the_spring_back_and_under_the_lowest_supply(self) -> None:
        """Main 1.2 to 4.5 bar, 0.8 bar lost: a stop at 0.3 reads 1.1 as soon as the pumps rest; at 1.2 it must come back."""
        main = {"low_pa": 120e3, "high_pa": 450e3, "loss_pa": 80e3, "main_floor_pa": 0.0}
        plan = plan_of({"low_suction_stop": 30e3}, supply=main, outlets=HIGH_UP)
        window = plan.setting("low_suction_reset").window
        self.assertAlmostEqual(window.low, 30e3 + 80e3 + 1.5e3)
        self.assertAlmostEqual(window.high, 120e3 - 1.5e3)
        free = plan_of(supply=main, outlets=HIGH_UP)
        self.assertFalse(free.setting("low_suction_reset").window.is_empty)  # the stop leaves room for it

    def test_the_bench_comes_back_at_the_lowest_supply_and_not_by_the_spring_back(self) -> None:
        main = {"low_pa": 120e3, "high_pa": 125e3, "loss_pa": 40e3, "main_floor_pa": 0.0}
        facts, decided, plan = station({"no_flow": "flow"}, supply=main)
        self.assertTrue(plan.is_sound, [s.id for s in plan.settings if s.window.is_empty])
        stop, reset = plan.value("low_suction_stop", 0.0), plan.value("low_suction_reset", 0.0)
        lacking = TimedAction(60.0, "suction", "", stop + 30e3)  # under the stop while water flows, over it at rest
        found = rehearse(booster_bench(facts, decided, plan), (TimedAction(1.0, "outlets", "", 1.0), lacking), 200.0)
        self.assertLess(stop + 30e3, reset)
        self.assertEqual(set(found.bench.logic.stops), {"low_suction"})
        back = TimedAction(120.0, "suction", "", 120e3)
        again = rehearse(booster_bench(facts, decided, plan), (TimedAction(1.0, "outlets", "", 1.0), lacking, back), 200.0)
        self.assertTrue(again.bench.running)

    def test_a_stop_that_cannot_see_an_emptied_tank_fails_its_proof(self) -> None:
        supply = {**BREAK_TANK, "water_low_m": 2.0, "water_high_m": 2.1, "outlet_m": 0.15, "outlet_diameter_m": 0.1}
        facts, decided, plan = station({"no_flow": "flow"}, supply=supply)
        (right,) = prove_on_bench(facts, decided, plan, None, frozenset({"low_suction_delay"}))
        self.assertIs(right.verdict, Verdict.PASSED, right.seen)
        as_held = choices({"low_suction_stop": -38e3}, {"no_flow": "flow"})
        held = Held(reckon(facts, as_held, False), numbers_of(facts, as_held, reckon(facts, as_held, False)))
        (wrong,) = prove_on_bench(facts, decided, plan, held, frozenset({"low_suction_delay"}))
        self.assertIs(wrong.verdict, Verdict.FAILED)


class SafeStartTest(unittest.TestCase):
    def test_hand_is_no_safe_place(self) -> None:
        told = next(f.text for f in plan_of(visit={"controls_off": False}).findings if f.code == "controls_not_off")
        for word in ("OFF", "isolate", "HAND starts", "mind the water"):
            self.assertIn(word, told)
        self.assertTrue(survey().visit.controls_off)
