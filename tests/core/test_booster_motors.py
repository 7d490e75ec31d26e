"""Motors, drives, generators, pipes and curves of a booster set: what one takes, what it stands, and what is said of it."""

import math
import unittest

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.surge import joukowsky_pa, pipe_period_s, slowing_ms2
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from tests.boosters import CURVE, METRE_PA, bounds, plan_of, survey

FLOW = {"no_flow": "flow"}
POWERS = [{**p, "power_w": 800.0 + 3e5 * p["flow_m3s"]} for p in CURVE]  # 0.8, 1.4, 2.0 kW


def codes(plan) -> set[str]:
    return {finding.code for finding in plan.findings}


def figure(plan, name: str):
    return next((f for f in plan.figures if f.id == name), None)


class MotorTest(unittest.TestCase):
    def test_amperes_follow_the_input_and_not_the_shaft(self) -> None:
        """400 V, 4 A, cos 0.85: 2355.6 W in; at just that, behind a drive that loses 4 %, the motor takes its 4 A."""
        hyd = hydraulics(survey())
        rated_w = math.sqrt(3.0) * 400.0 * 4.0 * 0.85
        self.assertAlmostEqual(hyd.rated_input_w, rated_w)
        self.assertAlmostEqual(hyd.current_a(rated_w / 0.96), 4.0)
        half = math.sqrt(1.0 - 0.85**2 + 0.85**2 * 0.25)
        self.assertAlmostEqual(hyd.current_a(0.5 * rated_w / 0.96), 4.0 * half)
        self.assertAlmostEqual(hydraulics(survey(motor={"phases": "one"})).rated_input_w, 400.0 * 4.0 * 0.85)
        straight = hydraulics(survey(control={"kind": "on_off"}))
        self.assertAlmostEqual(straight.current_a(rated_w), 4.0)

    def test_a_motor_that_overloads_on_its_way_down_the_curve(self) -> None:
        strong = [{**p, "power_w": 1500.0 + 4e5 * p["flow_m3s"]} for p in CURVE]  # 3.1 kW at 4 l/s into a motor for 2.36
        self.assertIn("motor_overloads", codes(plan_of({}, FLOW, pumping={"curve": strong})))
        self.assertNotIn("motor_overloads", codes(plan_of({}, FLOW, pumping={"curve": POWERS})))

    def test_a_generator_by_the_phases_and_the_least_that_opens_it(self) -> None:
        """2.77 kVA a motor, 1.5 at a start: 3 kVA start none beside... one needs 1.5 x 2.771 = 4.16 kVA."""
        for phases, root in (("three", math.sqrt(3.0)), ("one", 1.0)):
            each = root * 400.0 * 4.0
            facts = {"generator": True, "generator_va": 1.2 * each, "phases": phases}
            window = plan_of({}, FLOW, explain=True, motor=facts).setting("emergency_pumps").window
            self.assertTrue(window.is_empty)
            needed = next(o.needed for o in window.openers if "generator" in o.what)
            self.assertAlmostEqual(needed, 1.5 * each, delta=0.02 * each)

    def test_switched_pumps_have_one_speed_and_their_own_power(self) -> None:
        """A pump at its mean rate between the pressures, not slowed down to the users' flow."""
        plan = plan_of({"cut_in": 360e3, "cut_out": 480e3}, control={"kind": "on_off"}, vessel={"volume_m3": 3.0}, pumping={"curve": POWERS, "count": 1})
        labels = {f.id: f.label for f in plan.figures}
        self.assertEqual(labels["speed_all"], "Pressure at design flow")  # one pump: nothing is together
        rates = [math.sqrt((60.0 - (p - 20e3) / METRE_PA) / 2e6) for p in range(360_000, 480_000, 500)]
        mean = sum(rates) / len(rates)
        self.assertAlmostEqual(figure(plan, "energy").value, (800.0 + 3e5 * mean) / mean, delta=6e3)
        self.assertNotIn("Speed", " ".join(labels.values()))


class PipeTest(unittest.TestCase):
    def test_shock_period_and_slowing_by_hand(self) -> None:
        self.assertEqual(joukowsky_pa(1000.0, 1200.0, 2.0), 2.4e6)
        self.assertEqual(pipe_period_s(600.0, 1200.0), 1.0)
        self.assertAlmostEqual(slowing_ms2(20.0, 40.0, 1.0, 4.0), 9.80665 * 24.0 / 40.0)
        self.assertEqual(slowing_ms2(20.0, 40.0, 0.0, 0.0), 0.0)
        for call in (
            lambda: joukowsky_pa(1000.0, 0.0, 1.0), lambda: joukowsky_pa(math.nan, 1.0, 1.0), lambda: joukowsky_pa(1.0, 1.0, -1.0),
            lambda: pipe_period_s(-1.0, 1000.0), lambda: pipe_period_s(1.0, math.nan), lambda: slowing_ms2(1.0, 0.0, 1.0, 0.0),
        ):  # fmt: skip
            self.assertRaises(OutOfRange, call)

    def test_a_ramp_lasts_several_periods_and_its_lag_is_in_the_loop(self) -> None:
        """800 m at 1000 m/s: five periods of 1.6 s; a slower ramp leaves less gain."""
        long = {"length_m": 800.0, "diameter_m": 0.1}
        plan = plan_of({}, FLOW, outlets=long)
        self.assertAlmostEqual(bounds(plan, "ramp", "lower")["pipe periods"], 8.0)
        self.assertEqual(bounds(plan, "ramp", "lower")["drive"], 3.0)
        quick, slow = (plan_of({"ramp": ramp}, FLOW).setting("gain").window.high for ramp in (3.0, 9.0))
        self.assertLess(slow, 0.95 * quick)

    def test_what_is_said_of_long_pipes_short_ones_and_starved_loops(self) -> None:
        far = {"length_m": 2000.0, "diameter_m": 0.08, "hazen_williams_c": 140.0}
        self.assertIn("surge", codes(plan_of({}, FLOW, outlets=far)))
        steep = {"length_m": 25.0, "diameter_m": 0.06, "hazen_williams_c": 140.0}
        self.assertIn("check_valve_slams", codes(plan_of({}, FLOW, outlets=steep, vessel={"volume_m3": 0.0})))
        self.assertNotIn("check_valve_slams", codes(plan_of({}, FLOW, outlets=steep)))
        loop = {"loop_supply_v": 20.0, "loop_ohm": 500.0, "least_loop_v": 10.0}  # 20 - 11 = 9 V
        told = next(f for f in plan_of({}, FLOW, sensor=loop).findings if f.code == "loop_starved").worded(UnitSystem.METRIC)
        self.assertIn("9.00 V", told)

    def test_warm_water_flows_more_easily(self) -> None:
        """Darcy-Weisbach follows the viscosity of the water that flows: 60 degrees lose less than 10."""
        rough = {"length_m": 200.0, "diameter_m": 0.05, "friction": "darcy_weisbach", "sand_roughness_m": 1e-5}
        cold, warm = (hydraulics(survey(outlets=rough, supply={"temperature_c": t})).pipe.friction_m(0.003) for t in (10.0, 60.0))
        self.assertLess(warm, 0.9 * cold)


class CurveTest(unittest.TestCase):
    def test_run_out_and_the_preferred_range(self) -> None:
        """One pump alone at 3.9 bar and 1 bar of supply gives 3.9 l/s; a maker's limit of 3 l/s is passed."""
        self.assertIn("run_out", codes(plan_of({"set_pressure": 390e3}, FLOW, pumping={"most_flow_m3s": 0.003})))
        self.assertNotIn("run_out", codes(plan_of({"set_pressure": 390e3}, FLOW)))
        plan = plan_of({"set_pressure": 400e3}, FLOW, pumping={"best_flow_m3s": 0.0025})
        speed = math.sqrt((380e3 / METRE_PA + 8.0) / 60.0)
        self.assertAlmostEqual(figure(plan, "best_share").value, 0.002 / speed / 0.0025, places=4)
        self.assertTrue(figure(plan, "best_share").keeps)
        self.assertIsNone(figure(plan_of({}, FLOW), "best_share"))
        best = hydraulics(survey(pumping={"curve": POWERS})).best_flow_m3s
        tried = max((k * 1e-6 for k in range(1, 4000)), key=lambda q: q * (60.0 - 2e6 * q * q) / (800.0 + 3e5 * q))
        self.assertAlmostEqual(best, tried, delta=2e-5)

    def test_a_night_that_never_comes_is_refused(self) -> None:
        night = {**FLOW, "night": True}
        self.assertIn("night_empty", codes(plan_of({}, night, {"night_from_h": 6, "night_to_h": 6})))
        self.assertNotIn("night_empty", codes(plan_of({}, night)))

    def test_speeds_hold_for_the_night_too(self) -> None:
        """3.6 bar by night need 77 % without flow at the lowest supply, by day 80 %; the least speed lies under the lower."""
        chosen = {"set_pressure": 400e3, "restart": 340e3, "night_pressure": 360e3}
        plan = plan_of(chosen, {**FLOW, "night": True})
        self.assertAlmostEqual(plan.setting("least_speed").window.high, math.sqrt(260e3 / METRE_PA / 60.0) - 0.01, places=5)
