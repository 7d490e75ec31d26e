"""The hand sweep, pressures and speeds of a booster set by hand, and its pressure zone against physics."""

import math
import unittest
from unittest import mock

from hypothesis import given, settings
from hypothesis import strategies as st

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.vessels import drawdown_m3
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.plant.readings import otherwise
from goodbalance.core.stations.booster.plant.zone import BoosterPlant
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.booster.trials.sweep import hand_sweep
from tests.boosters import CURVE, METRE_PA, bounds, plan_of, survey


class SweepTest(unittest.TestCase):
    def test_speed_by_affinity_against_marching_the_speed_down(self) -> None:
        """60 n^2 - 2e6 q^2 = H: closed form against trying speeds one by one."""
        hyd = hydraulics(survey())
        for head_m, flow_m3s, pumps in ((35.0, 0.0, 1), (35.0, 0.003, 1), (35.0, 0.006, 2), (50.0, 0.006, 3)):
            n = next(k / 1e5 for k in range(200_000) if 60.0 * (k / 1e5) ** 2 - 2e6 * (flow_m3s / pumps) ** 2 >= head_m)
            self.assertAlmostEqual(hyd.speed(head_m, flow_m3s, pumps), n, delta=2e-5)

    @settings(max_examples=80, deadline=None)
    @given(st.floats(200e3, 450e3), st.floats(0.0, 0.006), st.integers(1, 3), st.floats(20e3, 100e3))
    def test_at_the_speed_found_the_pumps_deliver_the_set_pressure(self, set_pa, flow, pumps, suction) -> None:
        hyd = hydraulics(survey())
        found = hyd.holding(set_pa, suction, flow, pumps)
        self.assertAlmostEqual(hyd.delivered_pa(flow, pumps, suction, found.speed), set_pa, delta=1.0)
        self.assertGreaterEqual(
            hyd.holding(set_pa, suction, flow + 1e-4, pumps).speed, found.speed
        )  # more flow, more speed

    def test_the_sweep_says_what_cannot_be_held(self) -> None:
        plan = plan_of({"set_pressure": 400e3})
        rows = hand_sweep(survey(), BoosterChoices(), plan)
        # 38.8 m to add: one pump gives sqrt((60 - 38.8)/2e6) = 3.26 l/s, so half of 6 l/s needs one, all of it two
        picked = [rows[0], rows[5], rows[10]]
        self.assertEqual(
            [[h.feasible for h in row.holdings] for row in picked], [[True] * 3, [True] * 3, [False, True, True]]
        )

    def test_npsh_by_affinity(self) -> None:
        """Required at half speed and half flow is a quarter; available from air, vapour and suction pressure."""
        hyd = hydraulics(survey())
        self.assertAlmostEqual(hyd.npsh_required_m(0.002, 1.0), 1.0 + 0.4)
        self.assertAlmostEqual(hyd.npsh_required_m(0.001, 0.5), (1.0 + 0.4) / 4.0)
        self.assertAlmostEqual(hyd.npsh_available_m(20e3), (101_325 + 20e3 - 2339.2) / METRE_PA, places=4)


class PressureWindowTest(unittest.TestCase):
    def test_the_set_pressure_by_hand(self) -> None:
        plan = plan_of()
        self.assertAlmostEqual(
            bounds(plan, "set_pressure", "lower")["worst outlet at design flow"], 20.0 * METRE_PA + 150e3, delta=20.0
        )
        upper = bounds(plan, "set_pressure", "upper")
        self.assertAlmostEqual(upper["permitted at the lowest outlet"], 600e3 - 5.0 * METRE_PA, delta=2.0)
        # three pumps at 2 l/s each: 60 - 8 = 52 m on top of 0.2 bar
        self.assertAlmostEqual(upper["what the pumps can at design flow"], 20e3 + 52.0 * METRE_PA, delta=2.0)
        self.assertAlmostEqual(upper["rating: lowest pipes and fittings"], 900e3 - 5.0 * METRE_PA, delta=2.0)
        self.assertAlmostEqual(upper["range of the sensor"], 1000e3 - 6e3)

    def test_restart_stands_above_the_column_and_under_the_wobble(self) -> None:
        plan = plan_of({"set_pressure": 400e3})
        self.assertAlmostEqual(bounds(plan, "restart", "lower")["standing column"], 25.0 * METRE_PA + 20e3, delta=2.0)
        self.assertAlmostEqual(plan.setting("restart").window.high, 400e3 - 10e3)
        tall = plan_of({"set_pressure": 400e3}, outlets={"top_m": 45.0}).setting("restart")
        self.assertTrue(tall.window.is_empty)  # 4.4 bar of standing water: it would never wake

    def test_numbers_as_other_controllers_state_them(self) -> None:
        """3.4 of 4.0 bar: 85 %, or 0.6 bar less; a gain of 4 is a band of 25 %; 12 s are 5 repeats a minute; 0.95 of 50 Hz."""
        chosen = {"set_pressure": 400e3, "restart": 340e3, "gain": 4.0, "reset_time": 12.0, "join_speed": 0.95}
        plan = plan_of(
            {**chosen, "low_suction_stop": -20e3, "low_suction_reset": 5e3}, control={"suction_by": "sensor"}
        )
        for setting_id, words in (
            ("restart", "85 % of the set pressure, or 0.60 bar below it"),
            ("low_suction_reset", "0.25 bar above the stop"),
            ("gain", "a proportional band of 25.00 %"),
            ("reset_time", "5.00 repeats a minute"),
            ("join_speed", "47.5 Hz, or 2755 rpm"),
        ):
            self.assertEqual(otherwise(survey(), plan, plan.setting(setting_id)).worded(UnitSystem.METRIC), words)
        self.assertIsNone(otherwise(survey(), plan, plan.setting("set_pressure")))
        switched = plan_of({"cut_in": 360e3, "cut_out": 480e3}, control={"kind": "on_off"}, vessel={"volume_m3": 1.5})
        self.assertEqual(
            otherwise(survey(), switched, switched.setting("cut_out")).worded(UnitSystem.METRIC),
            "1.20 bar above cut-in",
        )

    def test_on_off_sets_stop_under_the_shut_off_pressure(self) -> None:
        plan = plan_of({"cut_in": 380e3}, control={"kind": "on_off"})
        self.assertEqual([s.id for s in plan.settings][:2], ["cut_in", "cut_out"])
        self.assertAlmostEqual(
            bounds(plan, "cut_out", "upper")["shut-off pressure of a pump"], 20e3 + 60.0 * METRE_PA - 10e3, delta=2.0
        )
        self.assertAlmostEqual(bounds(plan, "cut_out", "lower")["cut-in and a step"], 400e3)
        weak = plan_of(control={"kind": "on_off"}, supply={"low_pa": 0.0})
        shut = "shut-off pressure of a pump"  # 0.2 bar less in front, 0.2 bar less behind
        self.assertAlmostEqual(
            bounds(weak, "cut_out", "upper")[shut], bounds(plan, "cut_out", "upper")[shut] - 20e3, delta=1.0
        )

    def test_suction_limits_and_high_stop(self) -> None:
        plan = plan_of({"set_pressure": 400e3, "low_suction_stop": -20e3, "boost": 0.0})
        # one pump alone gives sqrt((60 - 38.8)/2e6) = 3.26 l/s before the next joins, not a third of 6 l/s: 2.06 m of NPSH
        flow = math.sqrt((60.0 - 380e3 / METRE_PA) / 2e6)
        lower = bounds(plan, "low_suction_stop", "lower")
        needed_m = 1.4 + (2.6 - 1.4) * (flow - 0.002) / 0.002  # straight between the maker's points at 2 and 4 l/s
        self.assertAlmostEqual(lower["NPSH of the pumps"], 2339.2 - 101_325 + (needed_m + 0.5) * METRE_PA, delta=20.0)
        self.assertEqual(lower["water company's limit"], 0.0)
        upper = bounds(plan, "low_suction_stop", "upper")
        self.assertAlmostEqual(upper["lowest suction of normal work"], 20e3 - 1.5e3)
        self.assertAlmostEqual(upper["room for the reset"], 20e3 - 3e3)
        reset = plan.setting("low_suction_reset").window
        self.assertAlmostEqual(reset.low, -20e3 + 1.5e3)
        self.assertAlmostEqual(reset.high, 20e3 - 1.5e3)
        self.assertAlmostEqual(bounds(plan, "high_stop", "lower")["normal work and its overshoot"], 450e3)

    def test_precharge_and_the_tank_by_both_schools(self) -> None:
        plan = plan_of({"set_pressure": 400e3, "restart": 340e3, "boost": 0.0})
        self.assertAlmostEqual(plan.setting("precharge").value, 0.9 * 340e3, delta=1e3)
        figure = next(f for f in plan.figures if f.id == "drawdown")
        p0, p1, p2 = (plan.setting("precharge").value + 101_325, 441_325.0, 501_325.0)
        self.assertAlmostEqual(figure.value, 0.3 * p0 * (1 / p1 - 1 / p2))
        # by speed it sleeps up to 2.1 l/s: at 1 bar of supply the sleep speed of 81 % gives that; a minute of it is 128 l
        asleep = plan.value("sleep_speed", 0.0)
        flow = math.sqrt((60.0 * asleep**2 - 300e3 / METRE_PA) / 2e6)
        refill = 1.0 / math.sqrt((60.0 - 240e3 / METRE_PA) / 2e6)  # by one pump at full speed from 3.4 bar, 1 bar of supply
        by_starts = (180.0 - plan.value("sleep_delay", 0.0)) / (1.0 / flow + refill)
        self.assertEqual([round(term.value, 6) for term in figure.limit_terms], [round(by_starts, 6), round(60.0 * flow, 6)])


class SpeedWindowTest(unittest.TestCase):
    def test_sleep_lies_between_no_flow_and_the_smallest_flow(self) -> None:
        plan = plan_of({"set_pressure": 400e3}, supply={"low_pa": 90e3, "high_pa": 100e3}, demand={"least_m3s": 0.001})
        window = plan.setting("sleep_speed").window
        self.assertAlmostEqual(window.low, math.sqrt(310e3 / METRE_PA / 60.0) + 0.01, places=5)
        self.assertAlmostEqual(window.high, math.sqrt((300e3 / METRE_PA + 2.0) / 60.0) - 0.01, places=5)

    def test_a_wide_suction_makes_speed_blind_and_it_is_said(self) -> None:
        plan = plan_of({"set_pressure": 400e3})
        self.assertTrue(plan.setting("sleep_speed").window.is_empty)
        told = next(f for f in plan.findings if f.code == "speed_blind").worded(UnitSystem.METRIC)
        self.assertIn("71 % to 80 %", told)  # sqrt(30.6/60) and sqrt(38.8/60)

    def test_one_pump_less_still_carries_the_flow_when_one_leaves(self) -> None:
        steady = {"low_pa": 60e3, "high_pa": 60e3}
        plan = plan_of({"set_pressure": 400e3, "join_speed": 0.95}, supply=steady)
        leave, hyd = plan.setting("leave_speed").window.high, hydraulics(survey(supply=steady))
        head_m = hyd.added_m(400e3, 60e3)
        for pumps in (2, 3):
            left = pumps * math.sqrt((60.0 * leave**2 - head_m) / 2e6)  # flow of N pumps at the leaving speed
            carried = (pumps - 1) * math.sqrt((60.0 * 0.95**2 - head_m) / 2e6)  # N - 1 at the joining speed
            self.assertLessEqual(left, carried * 0.9 + 1e-9)

    def test_no_speeds_without_drives(self) -> None:
        self.assertEqual([s.id for s in plan_of(control={"kind": "on_off"}).settings if s.group == "speeds"], [])


class FindingTest(unittest.TestCase):
    def test_a_set_too_small_says_so(self) -> None:
        plan = plan_of({"set_pressure": 560e3})
        firm = next(f for f in plan.figures if f.id == "speed_firm")
        self.assertFalse(firm.keeps)
        self.assertEqual(plan.setting("set_pressure").standing.value, "above the window")

    def test_pumps_that_cavitate_are_named(self) -> None:
        thirsty = [{**point, "npsh_m": point["npsh_m"] + 16.0} for point in CURVE]
        plan = plan_of({"set_pressure": 400e3}, pumping={"curve": thirsty})
        self.assertIn("npsh", [finding.code for finding in plan.findings])

    def test_a_curve_of_two_points_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            plan_of(pumping={"curve": CURVE[:2]})


class PlantTest(unittest.TestCase):
    """The zone of the set above: 0.3 m3 tank charged to 3 bar, and the same without a tank."""

    def plant(self, tank_m3: float = 0.3, pressure_pa: float = 400e3, speeds=(0.0, 0.0, 0.0), **more) -> BoosterPlant:
        hyd = hydraulics(survey(vessel={"volume_m3": tank_m3}))
        return BoosterPlant(hyd, 300e3, pressure_pa, 60e3, speeds=list(speeds), **more)

    def run_for(self, plant: BoosterPlant, seconds: float, step_s: float = 0.05) -> BoosterPlant:
        for _ in range(round(seconds / step_s)):
            plant.advance(step_s)
        return plant

    def test_at_rest_it_comes_to_the_operating_point(self) -> None:
        """Pumped = drawn: 2 n sqrt-curve against the orifice, solved apart by bisection; within half a per cent."""
        for tank_m3, open_share in ((0.3, 0.5), (0.0, 0.5), (0.3, 1.0), (0.0, 0.2)):
            plant = self.run_for(self.plant(tank_m3, speeds=(0.9, 0.9, 0.0), open_share=open_share), 240.0)
            k = open_share * 0.006 / math.sqrt(150e3)
            low, high = 20.0 * METRE_PA, 600e3
            for _ in range(60):
                p = (low + high) / 2.0
                head = 60.0 * 0.81 - (p - 60e3) / METRE_PA
                pumped = 2.0 * math.sqrt(max(0.0, head) / 2e6)
                low, high = (p, high) if pumped > k * math.sqrt(p - 20.0 * METRE_PA) else (low, p)
            self.assertAlmostEqual(plant.pressure_pa, p, delta=0.005 * p, msg=(tank_m3, open_share))

    def test_without_demand_nothing_flows_and_the_pressure_stays(self) -> None:
        plant = self.run_for(self.plant(), 60.0)
        self.assertEqual(plant.pumped_m3, 0.0)
        self.assertAlmostEqual(plant.pressure_pa, 400e3, delta=0.1)
        running = self.run_for(self.plant(speeds=(0.9, 0.0, 0.0)), 240.0)
        # shut off: 0.81 x 60 m on top of the suction
        self.assertAlmostEqual(running.pressure_pa, 60e3 + 48.6 * METRE_PA, delta=500.0)
        self.assertAlmostEqual(running.pumps_m3s(running.pressure_pa), 0.0, delta=1e-5)

    def test_the_tank_gives_what_boyle_says(self) -> None:
        plant = self.plant(open_share=0.3)
        while plant.pressure_pa > 340e3:
            plant.advance(0.05)
        by_boyle = drawdown_m3(0.3, 300e3, plant.pressure_pa, 400e3)
        self.assertAlmostEqual(plant.drawn_m3, by_boyle + plant.pipe_m3pa * (400e3 - plant.pressure_pa), places=6)

    @settings(max_examples=30, deadline=None)
    @given(
        st.floats(0.0, 1.0),
        st.lists(st.floats(0.0, 1.0), min_size=3, max_size=3),
        st.sampled_from([0.0, 0.3]),
        st.floats(0.02, 0.5),
    )
    def test_water_is_conserved_whatever_happens(self, share, speeds, tank_m3, step_s) -> None:
        plant = self.plant(tank_m3, open_share=share, burst_share=0.1, leaking=frozenset({2}))
        before = plant.stored_m3(plant.pressure_pa)
        for k in range(100):
            plant.ramp(speeds if k % 40 < 25 else [0.0] * 3, (3.0,) * 3, step_s)
            plant.advance(step_s)
        self.assertAlmostEqual(plant.stored_m3(plant.pressure_pa) - before, plant.pumped_m3 - plant.drawn_m3, places=9)
        self.assertTrue(-101_325.0 < plant.pressure_pa < 2e6)

    def test_a_leaking_check_valve_empties_the_tank_and_an_air_bound_pump_gives_nothing(self) -> None:
        leaking = self.run_for(self.plant(leaking=frozenset({0})), 120.0)
        self.assertLess(leaking.pressure_pa, 300e3)
        bound = self.run_for(self.plant(speeds=(1.0, 0.0, 0.0), air_bound=frozenset({0}), open_share=0.3), 10.0)
        self.assertEqual(bound.pumped_m3, 0.0)

    @given(
        st.floats(0.0, 1.5), st.lists(st.floats(0.0, 1.0), min_size=3, max_size=3), st.sampled_from([0.0, 0.3]), st.floats(0.05, 5.0),
        st.floats(0.0, 600e3),
    )  # fmt: skip
    def test_between_bounds_it_finds_what_secants_find(self, share, speeds, tank_m3, step_s, pressure_pa) -> None:
        quick, sure = (self.plant(tank_m3, pressure_pa, speeds, open_share=share) for _ in range(2))
        quick.advance(step_s)
        with mock.patch.object(BoosterPlant, "_by_secant", return_value=None):
            sure.advance(step_s)
        self.assertAlmostEqual(quick.pressure_pa, sure.pressure_pa, delta=20.0)
        self.assertAlmostEqual(quick.pumped_m3, sure.pumped_m3, delta=1e-6 + 1e-4 * quick.pumped_m3)

    def test_nothing_drifts_where_nothing_flows(self) -> None:
        plant = self.plant(0.0, 400e3, (0.0, 0.0, 0.0), open_share=0.02)
        self.run_for(plant, 0.3)
        plant.open_share = 0.0
        plant.advance(0.1)
        still_pa = plant.pressure_pa
        self.run_for(plant, 60.0, 0.1)
        self.assertAlmostEqual(plant.pressure_pa, still_pa, delta=1.0)

    def test_a_leaking_valve_lets_a_tenth_of_the_design_flow_back_at_30_m(self) -> None:
        plant = self.plant(leaking=frozenset({0, 1}))
        for head_m, share in ((30.0, 0.1), (7.5, 0.05)):  # with the root of the head: half of it at a quarter
            back = plant.pumps_m3s(60e3 + head_m * METRE_PA)
            self.assertAlmostEqual(back, -2.0 * share * 0.006, delta=1e-6, msg=str(head_m))

    def test_a_shut_valve_and_air_each_stop_a_pump(self) -> None:
        plant = self.plant(speeds=(1.0, 1.0, 1.0), open_share=1.0)
        each = plant.pump_m3s(0, 400e3)
        for parts, left in (({"shut": {0}}, 2), ({"air_bound": {0}}, 2), ({"shut": {0}, "air_bound": {1}}, 1), ({"shut": {0}, "air_bound": {0}}, 2)):
            for name in ("shut", "air_bound"):
                setattr(plant, name, frozenset(parts.get(name, ())))
            self.assertAlmostEqual(plant.pumps_m3s(400e3), left * each, places=9, msg=str(parts))
            self.assertAlmostEqual(sum(plant.flows_m3s()), left * each, places=9, msg=str(parts))

    def test_a_drained_riser_takes_its_own_volume_and_then_only_its_stiffness(self) -> None:
        plant = self.plant(0.0, 0.0, (0.85, 0.0, 0.0), drained=True)
        volume_m3, column_pa = plant.hydraulics.pipe.volume_m3, plant.hydraulics.column_pa  # 0.39 m3 under 25 m
        while plant.drained and plant.pumped_m3 < 10.0:
            self.assertLess(plant.pressure_pa, column_pa)
            plant.advance(0.1)
        self.assertAlmostEqual(plant.pumped_m3, volume_m3, delta=0.01 * volume_m3)
        at_full_m3 = plant.pumped_m3
        self.run_for(plant, 10.0)
        self.assertLess(plant.pumped_m3 - at_full_m3, 0.002)
        self.assertGreater(plant.pressure_pa, column_pa)

    def test_small_and_large_steps_agree(self) -> None:
        fine, coarse = (
            self.run_for(self.plant(speeds=(0.9, 0.0, 0.0), open_share=0.4), 20.0, step) for step in (0.005, 0.1)
        )
        self.assertAlmostEqual(fine.pressure_pa, coarse.pressure_pa, delta=500.0)
