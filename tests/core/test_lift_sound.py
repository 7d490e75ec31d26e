"""Lift stations where practice and textbook part: credit for turns, a small pump first, dry pits, ends of curves, shocks."""

import math
import unittest

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.proofs.listed import proofs
from goodbalance.core.stations.lift.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.lift.windows.reckon import reckon
from tests.stations import CURVE, choices, survey

BASE = survey().pump_1.model_dump()
SMALL = {**BASE, "curve": tuple({"flow_m3s": q * 0.35, "head_m": 20.0 - 1e5 * q * q} for q in (0.0, 0.006, 0.012))}


def plan_of(chosen=None, schools=None, rules=None, **changes):
    return reckon(survey(**changes), choices(chosen=chosen or {}, schools=schools or {}, rules=rules or {}), False)


def bounds(plan, setting_id, side):
    return {bound.cause: bound.value for bound in getattr(plan.setting(setting_id).window, side)}


def codes(plan):
    return {finding.code for finding in plan.findings}


def figure(plan, name):
    return next(f for f in plan.figures if f.id == name)


class CreditTest(unittest.TestCase):
    def test_only_a_turn_at_each_stop_earns_it(self) -> None:
        """10 starts, 10 l/s at the invert: 0.9 m3 without credit, half with two pumps in turn."""
        for alternation, pumps in (("all_stopped", 2), ("each_stop", 2), ("clock", 1), ("run_hours", 1), ("fixed", 1)):
            plan = plan_of({"stop": 1.0}, {"starts_credit": "alternation", "alternation": alternation})
            band_m = bounds(plan, "start_1", "lower")["volume for the permitted starts"] - 1.0
            self.assertAlmostEqual(band_m, 0.010 * 360.0 / 4.0 / pumps / 2.0, places=6, msg=alternation)

    def test_the_bench_by_the_clock_keeps_the_starts_of_one_pump(self) -> None:
        facts = survey()
        decided = choices(schools={"starts_credit": "alternation", "alternation": "clock"})
        plan = reckon(facts, decided, False)
        run = rehearse(lift_bench(facts, decided, plan), (TimedAction(0.0, "inflow", "", 0.005),), 4 * 3600.0)
        self.assertLessEqual(max(run.bench.starts) / 4.0, 10.2)
        self.assertTrue(figure(plan, "starts_worst").keeps)

    def test_a_large_pump_works_the_small_ones_band_while_it_is_out(self) -> None:
        changes = {"pumping": {"count": 3, "twins": False, "arrangement": "small_first"}, "pump_1": SMALL, "pump_2": BASE, "pump_3": BASE}
        facts, decided = survey(**changes), choices()
        plan = reckon(facts, decided, False)
        starts = bounds(plan_of({"stop": 1.0}, **changes), "start_1", "lower")["volume for the permitted starts"]
        self.assertAlmostEqual((starts - 1.0) * 2.0, 0.010 * 360.0 / 4.0, places=4)  # of a large one, not 3.5 l/s
        off = TimedAction(0.0, "switch", "1", 1.0)
        for inflow in (0.003, 0.0045, 0.006):
            run = rehearse(lift_bench(facts, decided, plan), (off, TimedAction(0.0, "inflow", "", inflow)), 4 * 3600.0)
            self.assertLessEqual(max(run.bench.starts) / 4.0, 10.3, inflow)


class BoundTest(unittest.TestCase):
    def test_a_pump_in_a_dry_pit_keeps_its_npsh(self) -> None:
        """Impeller 4 m over the floor, 8.5 m required at 10 l/s, 0.5 m margin, 0.4 m lost; 10.18 m of air at 16 degrees."""
        pump = {"dry_pit_m": 4.0, "suction_loss_m": 0.4, "curve": tuple({**p, "npsh_m": 8.5} for p in CURVE)}
        found = bounds(plan_of(pump_1={**BASE, **pump}), "stop", "lower")
        air_m = (101_325.0 - 1818.8) / (998.94 * 9.80665)
        self.assertAlmostEqual(found["NPSH of pump 1 in the dry pit"], 4.0 + 8.5 + 0.5 + 0.4 - air_m, delta=0.01)
        unknown = plan_of(pump_1={**BASE, "dry_pit_m": 4.0})
        self.assertIn("npsh_unknown", codes(unknown))
        self.assertNotIn("npsh_unknown", codes(plan_of()))

    def test_detention_at_the_lowest_inflow_too(self) -> None:
        """0.5 l/s for two hours are 3.6 m3: 1.8 m over the stop; a night without inflow bounds nothing."""
        found = bounds(plan_of({"stop": 1.0}), "start_1", "upper")
        self.assertAlmostEqual(found["longest detention at lowest inflow"], 1.0 + 0.0005 * 7200.0 / 2.0)
        self.assertNotIn("longest detention at lowest inflow", bounds(plan_of(inflow={"min_m3s": 0.0}), "start_1", "upper"))

    def test_a_ramp_between_drive_pipe_and_rising_well(self) -> None:
        """1000 m at 1000 m/s: a period of 2 s, five of them; 6 l/s fill from start to assist."""
        main = {"length_m": 1000.0, "diameter_m": 0.2}
        plan = plan_of({"start_1": 1.6, "start_2": 2.2}, drives={"fitted": True, "ramp_s": 4.0}, main=main)
        self.assertEqual(bounds(plan, "ramp", "lower"), {"shortest ramp of the drive": 4.0, "pipe periods of the main": 10.0})
        self.assertAlmostEqual(plan.setting("ramp").window.high, 0.6 * 2.0 / 0.006, places=6)

    def test_shocks_and_slams_are_said(self) -> None:
        """20 l/s in 100 mm is 2.2 m/s, at 1000 m/s 22 bar; 10 m of lift stop 20 m of water at 5 m/s2."""
        rated = plan_of(main={"length_m": 400.0, "diameter_m": 0.12, "rating_pa": 10e5})
        velocity = figure(rated, "velocity_2").value
        self.assertAlmostEqual(figure(rated, "surge").value, 998.94 * 1000.0 * velocity, delta=0.001 * 1e6 * velocity)
        self.assertAlmostEqual(figure(rated, "pipe_period").value, 0.8)
        self.assertIn("surge", codes(rated))
        self.assertNotIn("surge", codes(plan_of(main={"length_m": 400.0, "diameter_m": 0.12})))
        self.assertIn("check_valve_slams", codes(plan_of(main={"length_m": 20.0, "diameter_m": 0.12})))
        self.assertNotIn("check_valve_slams", codes(rated))

    def test_pumps_beyond_their_curve_and_motors_beyond_their_plate(self) -> None:
        """At the invert a pump gives sqrt(10/1e5) = 10 l/s; a curve that ends at 8 l/s does not tell of it."""
        short = tuple({"flow_m3s": q, "head_m": 20.0 - 1e5 * q * q} for q in (0.0, 0.004, 0.008))
        self.assertIn("beyond_curve", codes(plan_of(pump_1={**BASE, "curve": short})))
        self.assertNotIn("beyond_curve", codes(plan_of()))
        strong = tuple({**p, "power_w": 1500.0 + 1e5 * p["flow_m3s"]} for p in CURVE)  # 2.7 kW at 12 l/s on a 2.2 kW motor
        self.assertIn("motor_overloads", codes(plan_of(pump_1={**BASE, "curve": strong})))

    def test_a_starved_loop_reads_low_when_it_matters(self) -> None:
        """24 V less 22 mA through 600 ohm: 10.8 V for a transmitter that needs 12 V."""
        loop = {"loop_supply_v": 24.0, "loop_ohm": 600.0, "least_loop_v": 12.0}
        self.assertIn("loop_starved", codes(plan_of(sensor={**survey().sensor.model_dump(), **loop})))
        self.assertNotIn("loop_starved", codes(plan_of(sensor={**survey().sensor.model_dump(), **loop, "loop_ohm": 500.0})))

    def test_share_of_best_efficiency(self) -> None:
        plan = plan_of({"stop": 1.0, "start_1": 2.0}, pump_1={**BASE, "best_flow_m3s": 0.012})
        self.assertAlmostEqual(figure(plan, "best_share_1").value, math.sqrt(8.5 / 1e5) / 0.012, places=4)  # at 1.5 m


class ProofTest(unittest.TestCase):
    def test_the_start_gap_is_seen_although_pumps_must_rest(self) -> None:
        facts, decided = survey(control={"kind": "pump_controller"}), choices()
        plan = reckon(facts, decided, False)
        self.assertGreater(plan.value("least_rest", 0.0), 10.0)
        (shown,) = prove_on_bench(facts, decided, plan, None, frozenset({"timer_start_gap"}))
        self.assertIs(shown.verdict, Verdict.PASSED, shown.seen)

    def test_a_controller_without_relays_is_asked_for_calls_and_alarms_only(self) -> None:
        decided = choices()
        for kind, said in (("pump_controller", False), ("relays_to_panel", True)):
            facts = survey(control={"kind": kind})
            listed = proofs(facts, decided, reckon(facts, decided, False))
            self.assertIs(any("relay" in f"{p.title} {p.must_see}" for p in listed), said, kind)
        facts = survey(control={"kind": "pump_controller"})
        ids = {p.id for p in proofs(facts, decided, reckon(facts, decided, False))}
        self.assertLessEqual({"up_start_1", "down_stop", "up_high_alarm", "down_high_alarm", "down_low_cut_out"}, ids)
        self.assertFalse(ids & {"down_start_1", "up_stop", "up_low_cut_out"})
