"""Booster sets on the bench: every kind proves itself, one wrong number does not, broken parts do what they do on site."""

import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.control.alarms import Cause
from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.engine import Run, TimedAction, rehearse
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.names import Alarm
from goodbalance.core.stations.booster.proofs.listed import proofs
from goodbalance.core.stations.booster.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.booster.windows.reckon import reckon
from goodbalance.core.stations.shared.held import Held
from tests.boosters import METRE_PA, choices, survey

STEADY = {
    "supply": {"low_pa": 60e3, "high_pa": 62e3},
    "demand": {"least_m3s": 0.0012},
    "motor": {"generator": True, "generator_va": 9e3},
    "pumping": {"starts_per_hour": 40.0},
}
ALL = {
    **STEADY,
    "control": {"suction_by": "sensor", "flow_switch": True, "flow_switch_m3s": 0.0006, "phase_monitor": True},
}


def station(schools=None, chosen=None, **changes):
    facts = survey(**{name: {**ALL.get(name, {}), **changes.get(name, {})} for name in {*ALL, *changes}})
    decided = choices(chosen, schools)
    return facts, decided, reckon(facts, decided, False)


def act(at_s: float, kind: str, value: float, target: str = "") -> TimedAction:
    return TimedAction(at_s, kind, target, value)


def run(made, *actions: TimedAction, until_s: float = 300.0, start_pa: float | None = None) -> Run:
    return rehearse(booster_bench(*made, start_pa), actions, until_s)


def told(found: Run) -> str:
    return "\n".join(f"{event.at_s:.0f} {event.worded(UnitSystem.METRIC)}" for event in found.events)


class ProofTest(unittest.TestCase):
    KINDS = (
        ("side by side, by speed", {"no_flow": "speed"}, {}),
        ("in a row, flow switch, night", {"sharing": "serial", "no_flow": "flow", "night": True}, {}),
        ("setback, short stop, slow fill", {"setback": "square", "no_flow": "bump", "slow_fill": True}, {"outlets": {"length_m": 30.0, "diameter_m": 0.06}, "pumping": {"starts_per_hour": 120.0}}),
        ("far sensor, standby, each stop", {"no_flow": "flow", "alternation": "each_stop"}, {"remote": {"height_m": 18.0, "range_pa": 600e3}, "pumping": {"standby": True}}),
        ("cut-in and cut-out", {}, {"control": {"kind": "on_off"}, "vessel": {"volume_m3": 2.0}, "outlets": {"permitted_pa": 800e3}}),
        ("a fill that ends stopped", {"no_flow": "flow", "slow_fill": True, "fill_end": "stop"}, {}),
        ("flow stop", {}, {"control": {"kind": "flow_stop"}, "outlets": {"permitted_pa": 800e3}}),
        ("flow stop, two at work", {}, {"control": {"kind": "flow_stop"}, "outlets": {"permitted_pa": 800e3}, "demand": {"mean_m3s": 0.005}}),
        ("one fixed speed", {}, {"control": {"kind": "fixed"}, "vessel": {"volume_m3": 2.0}, "outlets": {"permitted_pa": 800e3}}),
    )  # fmt: skip

    def test_every_kind_of_set_proves_itself(self) -> None:
        for name, schools, changes in self.KINDS:
            with self.subTest(name):
                made = station(schools, **changes)
                self.assertTrue(made[2].is_sound, [s.id for s in made[2].settings if s.window.is_empty])
                shown = prove_on_bench(*made)
                self.assertEqual(
                    [(p.proof.id, p.proof.expected, p.seen) for p in shown if p.verdict is not Verdict.PASSED], []
                )
                every = {proof.id for proof in proofs(*made)}
                self.assertLessEqual(every - {p.proof.id for p in shown}, {"precharge", "high", "max_run", "closed_rest"})  # by gauge, by hand

    def test_a_proof_is_played_as_its_words_ask(self) -> None:
        """One pump's draw where the turn passes at each stop; a tank of 2 m3 filled to the stop."""
        tank = {"control": {"kind": "fixed"}, "vessel": {"volume_m3": 2.0}, "outlets": {"permitted_pa": 800e3}, "supply": {"high_pa": 110e3}}
        for schools, changes, proof in (
            ({"no_flow": "flow", "alternation": "each_stop"}, {"pumping": {"count": 4}, "demand": {"mean_m3s": 0.004}}, "alternation"),
            ({}, tank, "high"),
        ):
            with self.subTest(proof):
                (shown,) = prove_on_bench(*station(schools, **changes), None, frozenset({proof}))
                self.assertIs(shown.verdict, Verdict.PASSED, shown.seen)

    def test_the_right_pump_leads_by_every_rule(self) -> None:
        for rule in ("clock", "run_hours", "fixed"):
            made = station({"no_flow": "flow", "alternation": rule})
            (shown,) = prove_on_bench(*made, None, frozenset({"lead"}))
            self.assertIs(shown.verdict, Verdict.PASSED, rule)
        facts, decided, plan = station({"no_flow": "flow", "alternation": "clock"})
        never = facts, choices(None, {"no_flow": "flow", "alternation": "fixed"}), plan
        bench = booster_bench(*never)
        bench.logic.set_clock(23.0)
        self.assertEqual(bench.logic.clock_s, 23.0 * 3600.0)

    def test_one_number_typed_wrong_fails_the_proof_of_that_number(self) -> None:
        facts, decided, plan = station({"no_flow": "flow", "night": True})
        value = {setting.id: setting.value for setting in plan.settings}
        typed = (
            ("restart", value["restart"] - 40e3, "wakes"),
            ("set_pressure", value["set_pressure"] + 40e3, "holds"),
            ("sleep_delay", 3.0 * value["sleep_delay"], "sleeps"),
            ("boost", value["boost"] + 40e3, "boost"),
            ("night_pressure", value["night_pressure"] + 30e3, "night"),
            ("low_suction_stop", value["low_suction_stop"] - 60e3, "low_suction"),
            ("low_suction_delay", 4.0 * value["low_suction_delay"], "low_suction_delay"),
            ("join_speed", value["join_speed"] - 0.12, "joins"),
            ("no_prime_delay", 2.5 * value["no_prime_delay"], "no_prime"),
            ("burst_delay", 2.0 * value["burst_delay"], "burst"),
            ("emergency_pumps", 3.0, "emergency"),
        )
        right = prove_on_bench(facts, decided, plan, None, frozenset(proof for *_, proof in typed))
        self.assertEqual([p.proof.id for p in right if p.verdict is not Verdict.PASSED], [])
        self.assertEqual({p.proof.id for p in right}, {proof for *_, proof in typed})
        for setting_id, wrong, proof in typed:
            with self.subTest(setting_id):
                as_held = choices({**value, setting_id: wrong}, {"no_flow": "flow", "night": True})
                held = Held(reckon(facts, as_held, False), numbers_of(facts, as_held, reckon(facts, as_held, False)))
                (shown,) = prove_on_bench(facts, decided, plan, held, frozenset({proof}))
                self.assertIs(shown.verdict, Verdict.FAILED, shown.seen)


class WaterTest(unittest.TestCase):
    def test_a_held_pressure_stands_at_the_operating_point(self) -> None:
        """Two pumps at one speed against the orifice at 4 bar: speed by affinity, 60 n^2 = H + 2e6 (Q/N)^2, within half a per cent."""
        made = station({"no_flow": "flow"}, {"set_pressure": 400e3})
        found = run(made, act(1.0, "outlets", 0.6), until_s=240.0)
        bench, last = found.bench, [row for row in found.trace if row[0] > 180.0]
        now_pa, flowed = (sum(row[place] for row in last) / len(last) for place in (1, 4))
        flow = 0.6 * 0.006 * ((now_pa - 20.0 * METRE_PA) / 150e3) ** 0.5
        pumps = len(bench.running)
        speed = (((now_pa - bench.plant.suction_pa) / METRE_PA + 2e6 * (flow / pumps) ** 2) / 60.0) ** 0.5
        self.assertAlmostEqual(now_pa, 400e3, delta=2e3)  # half a per cent
        for pump in bench.running:
            self.assertAlmostEqual(bench.plant.speeds[pump], speed, delta=0.01 * speed)
        self.assertAlmostEqual(flowed, flow, delta=0.005 * flow)

    @settings(max_examples=12, deadline=None)
    @given(st.lists(st.tuples(st.floats(1.0, 280.0), st.sampled_from([
        ("outlets", 0.0, ""), ("outlets", 0.5, ""), ("outlets", 1.5, ""), ("burst", 1.0, ""), ("burst", 0.0, ""), ("trip", 1.0, "1"),
        ("air", 1.0, "2"), ("check_valve", 1.0, "3"), ("power", 0.0, ""), ("power", 1.0, ""), ("loop_open", 1.0, ""), ("dry", 1.0, ""),
        ("waterlogged", 1.0, ""), ("suction", 100e3, ""), ("switch", 0.0, "2"), ("backwards", 1.0, "1"), ("generator", 1.0, ""),
    ])), max_size=8))  # fmt: skip
    def test_water_is_conserved_and_runs_repeat_whatever_is_broken(self, picked) -> None:
        actions = tuple(act(round(at_s, 1), *what) for at_s, what in sorted(picked))
        made = station({"no_flow": "flow"})
        first = run(made, *actions)
        self.assertEqual(first.digest(), run(made, *actions).digest())
        plant = first.bench.plant
        if any(action.kind == "waterlogged" for action in actions):
            return  # gas was lost, so the store itself changed
        started_m3 = booster_bench(*made).plant.stored_m3(made[2].value("set_pressure", 0.0))
        self.assertAlmostEqual(
            plant.stored_m3(plant.pressure_pa) - started_m3, plant.pumped_m3 - plant.drawn_m3, places=7
        )
        self.assertTrue(all(-101_325.0 < row[1] < 2e6 for row in first.trace))

    def test_a_setback_that_follows_at_once_swings_and_one_that_takes_its_time_is_calm(self) -> None:
        """What fills the tank looks like demand to a setback without a lag."""
        facts, decided, plan = station(
            {"setback": "square", "no_flow": "flow"}, {"set_pressure": 412e3, "no_flow_pressure": 390e3}
        )
        swings = []
        for lag_s in (plan.value("setback_time", 0.0), 0.0):
            numbers = replace(numbers_of(facts, decided, plan), setback_time=lag_s)
            found = rehearse(
                booster_bench(facts, decided, plan, None, numbers),
                (act(1.0, "outlets", 0.8), act(200.0, "outlets", 0.5)),
                500.0,
            )
            late = [row[1] for row in found.trace if row[0] > 400.0]
            swings.append(max(late) - min(late))
        self.assertLess(swings[0], 4e3)
        self.assertGreater(swings[1], 8e3)

    def test_no_demand_no_flow(self) -> None:
        bench = run(station({"no_flow": "flow"}), until_s=3600.0).bench
        self.assertEqual((bench.plant.pumped_m3, bench.starts), (0.0, [0, 0, 0]))


class FaultTest(unittest.TestCase):
    MADE = staticmethod(lambda: station({"no_flow": "flow"}))

    def test_what_broken_parts_do(self) -> None:
        draws = act(1.0, "outlets", 0.4)
        for fault, target, words in (
            ("trip", "1", "Alarm: pump 1: drive tripped"),
            ("air", "1", "Pump 1 given up: no prime"),
            ("loop_open", "", "Stopped: pressure sensor failed"),
            ("loop_short", "", "Stopped: pressure sensor failed"),
            ("dry", "", "Stopped: lack of water"),
            ("phase", "", "phase missing or swapped"),
            ("burst", "", "Stopped: run-out"),
            ("backwards", "1", "turns the wrong way"),
        ):
            with self.subTest(fault):
                found = run(self.MADE(), draws, act(60.0, fault, 1.0, target), until_s=400.0)
                self.assertIn(words, told(found))

    def test_a_frozen_sensor_is_not_noticed_and_the_pressure_runs_away(self) -> None:
        """Frozen in a dip, the regulator pushes on; nobody hears of it but the gauge."""
        found = run(
            self.MADE(), act(1.0, "outlets", 0.1), act(60.0, "outlets", 0.8), act(61.0, "frozen", 1.0), until_s=200.0
        )
        self.assertNotIn("sensor failed", told(found))
        self.assertGreater(abs(found.bench.plant.pressure_pa - found.bench.logic.numbers.set_pressure), 30e3)

    def test_a_drifting_sensor_lets_the_true_pressure_climb(self) -> None:
        found = run(self.MADE(), act(1.0, "outlets", 0.4), act(60.0, "drift", 1.0), until_s=260.0)
        self.assertGreater(found.bench.plant.pressure_pa, found.bench.logic.numbers.set_pressure + 20e3)  # 200 Pa/s

    def test_a_leaking_check_valve_and_a_waterlogged_tank_start_it_again_and_again(self) -> None:
        whole = run(self.MADE(), until_s=1800.0).bench.starts
        leaking = run(self.MADE(), act(1.0, "check_valve", 1.0, "1"), until_s=1800.0).bench.starts
        self.assertEqual(sum(whole), 0)
        self.assertGreater(sum(leaking), 1)
        tap = act(0.0, "outlets", 0.02)
        sound, logged = (
            run(self.MADE(), tap, *more, until_s=1800.0).bench.starts for more in ((), (act(0.5, "waterlogged", 1.0),))
        )
        self.assertGreater(sum(logged), 2 * sum(sound))

    def test_a_stuck_flow_switch_is_found_by_the_power_and_told(self) -> None:
        """Closed outlets, a switch that tells of flow: stopped within its time, not an hour of boiling, and an alarm."""
        for schools, changes in (
            ({"no_flow": "flow"}, {}), ({}, {"control": {"kind": "flow_stop"}, "outlets": {"permitted_pa": 800e3}})
        ):  # fmt: skip
            made = station(schools, **changes)
            stuck = (act(1.0, "outlets", 0.3), act(60.0, "flow_stuck", 1.0), act(60.0, "outlets", 0.0))
            found = run(made, *stuck, until_s=3600.0)
            self.assertFalse(found.bench.running)
            self.assertIn(Cause(Alarm.CLOSED), found.bench.logic.alarms.lamps)
            self.assertLess(found.bench.run_s[0], 60.0 + 5.0 * made[2].value("closed_delay", 0.0))
            healthy = run(made, act(1.0, "outlets", 0.3), act(60.0, "outlets", 0.0), until_s=600.0)
            self.assertNotIn(Cause(Alarm.CLOSED), healthy.bench.logic.alarms.lamps)

    def test_a_cut_out_beyond_shut_off_does_not_run_on(self) -> None:
        """Typed 6.5 bar instead of 4.7: 60 m on 0.6 bar end at 6.47 bar."""
        facts, decided, plan = station({}, control={"kind": "on_off"}, vessel={"volume_m3": 2.0}, outlets={"permitted_pa": 800e3})
        held = replace(numbers_of(facts, decided, plan), cut_out=655e3)
        acts = (act(1.0, "outlets", 0.5), act(300.0, "outlets", 0.0))
        found = rehearse(booster_bench(facts, decided, plan, None, held), acts, 3600.0)
        self.assertFalse(found.bench.running)
        self.assertIn(Cause(Alarm.CLOSED), found.bench.logic.alarms.lamps)

    def test_a_waterlogged_tank_is_told_by_its_starts(self) -> None:
        made = station({"alternation": "fixed"}, control={"kind": "on_off"}, vessel={"volume_m3": 2.0}, outlets={"permitted_pa": 800e3})
        half = act(1.0, "outlets", 0.2)
        found = run(made, half, act(1.0, "waterlogged", 1.0), until_s=3000.0)
        self.assertTrue(any(cause.what == Alarm.STARTS for cause in found.bench.logic.alarms.lamps), found.bench.starts)
        healthy = run(made, half, until_s=3600.0)
        self.assertFalse(any(cause.what == Alarm.STARTS for cause in healthy.bench.logic.alarms.lamps), healthy.bench.starts)

    def test_a_mended_drive_needs_a_person(self) -> None:
        acts = (act(1.0, "outlets", 0.4), act(60.0, "trip", 1.0, "1"), act(100.0, "trip", 0.0, "1"))
        self.assertNotIn(0, run(self.MADE(), *acts).bench.running)
        reset = (act(120.0, "switch", 1.0, "1"), act(122.0, "switch", 2.0, "1"))
        self.assertIn(0, run(self.MADE(), *acts, *reset).bench.running)

    def test_what_cannot_be_done_is_refused(self) -> None:
        bench = booster_bench(*station({"no_flow": "flow"}, motor={"generator": False}))
        for wrong in (
            act(1.0, "outlets", 2.5), act(1.0, "outlets", float("nan")), act(1.0, "suction", -2e5), act(1.0, "switch", 3.0, "1"),
            act(1.0, "switch", 1.0, "4"), act(1.0, "switch", 1.0, "x"), act(1.0, "generator", 1.0), act(1.0, "trip", 1.0, "9"),
            act(1.0, "levitate", 1.0), act(1.0, "hand_speed", 1.2),
        ):  # fmt: skip
            with self.assertRaises(OutOfRange, msg=wrong):
                bench.act(wrong)
        for start_pa in (-1.0, 2e6):
            with self.assertRaises(OutOfRange):
                booster_bench(*station(), start_pa)


class ReasonTest(unittest.TestCase):
    """At any instant every pump says why it runs or not, with the deciding link marked."""

    def lines(self, *actions, until_s: float = 120.0, schools=None, **changes) -> list[str]:
        bench = run(
            station(schools or {"no_flow": "flow"}, **changes), act(1.0, "outlets", 0.4), *actions, until_s=until_s
        ).bench
        found = []
        for line in bench.reasons():
            words = "; ".join(f"{link.name}: {link.worded(UnitSystem.METRIC)}" for link in line.links)
            self.assertTrue(line.links)
            found.append(words)
        return found

    def test_each_state_is_explained(self) -> None:
        for name, actions, pump, words in (
            ("runs", (), 1, "holds"),
            ("waits its turn", (), 3, "joins when the others reach"),
            ("off", (act(60.0, "switch", 1.0, "1"),), 1, "OFF"),
            ("by hand", (act(59.0, "hand_speed", 0.7), act(60.0, "switch", 0.0, "3")), 3, "set by hand"),
            ("tripped", (act(60.0, "trip", 1.0, "1"),), 1, "drive tripped"),
            ("no water", (act(60.0, "dry", 1.0),), 1, "water"),
            ("no power", (act(60.0, "power", 0.0),), 1, "no supply"),
            ("sensor", (act(60.0, "loop_open", 1.0),), 1, "the pressure is not known"),
            ("generator", (act(60.0, "generator", 1.0), act(61.0, "outlets", 2.0)), 3, "generator"),
        ):
            with self.subTest(name):
                self.assertIn(words, self.lines(*actions)[pump - 1])
