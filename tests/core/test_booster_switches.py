"""Sets in which each pump has a pressure switch of its own: their marks by hand, how they call, what is broken, starts, sheet and proofs."""

import unittest
from dataclasses import replace

from goodbalance.core.balance.plan import Severity
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.proving import Verdict
from goodbalance.core.stations.booster.bench.breakable import troubles
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.controller.own_switches import OwnSwitches
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.names import CUT_INS, CUT_OUTS, PumpFault, SetFault
from goodbalance.core.stations.booster.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.booster.survey.plausibility import plausibility
from goodbalance.core.stations.shared.held import Held
from goodbalance.exchange.profiles import shipped_profiles
from tests.boosters import CURVE, METRE_PA, bounds, choices, plan_of, survey
from tests.core.test_booster_starts import marched_starts
from tests.trails import false_trails, false_verdicts

OWN = {"control": {"kind": "on_off", "own_switches": True}, "vessel": {"volume_m3": 2.0}, "outlets": {"permitted_pa": 800e3}, "demand": {"design_m3s": 0.005}}
WORST_PA = 20.0 * METRE_PA + 150e3  # what the worst outlet wants of a pipe without losses


def act(at_s: float, kind: str, value: float, target: str = "") -> TimedAction:
    return TimedAction(at_s, kind, target, value)


class MarksTest(unittest.TestCase):
    def test_marks_one_under_the_other_by_hand(self) -> None:
        """Three switches 0.2 bar apart: the last closes over what the worst outlet wants, the first two steps over that; 60 m on 0.2 bar end at 6.07 bar."""
        plan = plan_of(**OWN)
        lowest = [plan.setting(one).window.low for one in CUT_INS[:3]]
        for number, low in enumerate(lowest):
            self.assertAlmostEqual(low, WORST_PA + (2 - number) * 20e3, delta=1.0)
        first, last = plan.value("cut_in", 0.0), plan.value("cut_in_3", 0.0)
        self.assertAlmostEqual(plan.setting("cut_in_2").window.high, first - 20e3, delta=1.0)
        self.assertAlmostEqual(plan.setting("cut_out_2").window.high, plan.value("cut_out", 0.0) - 20e3, delta=1.0)
        shut_pa = 60.0 * METRE_PA + 20e3
        self.assertAlmostEqual(plan.setting("cut_in").window.high, shut_pa - 10e3 - 3 * 20e3, delta=1.0)
        self.assertAlmostEqual(plan.setting("cut_out").window.high, shut_pa - 10e3, delta=1.0)
        self.assertAlmostEqual(plan.setting("precharge").window.high, last, delta=1.0)  # the tank must not be empty before the last has come
        self.assertIn("last cut-in pressure less a step", bounds(plan, "burst_stop", "upper"))
        self.assertEqual([one.id for one in plan.settings if one.id in ("join_delay", "least_run")], [])  # springs have no timers
        self.assertEqual([*false_trails(plan), *false_verdicts(plan)], [])

    def test_enough_drawdown_for_each_alone(self) -> None:
        """20 starts an hour: 180 s of a pump's mean rate over four lie between each pair of marks, by marching one pump between them."""
        for supply in (20e3, 100e3):
            plan = plan_of(**{**OWN, "supply": {"low_pa": supply, "high_pa": supply + 1e3}, "vessel": {"volume_m3": 0.5}, "pumping": {"count": 3, "starts_per_hour": 30.0}})
            told = next(figure for figure in plan.figures if figure.id == "starts_worst").value
            worst = 0.0
            for starts, stops in zip(CUT_INS[:3], CUT_OUTS):
                low, high = plan.value(starts, 0.0), plan.value(stops, 0.0)
                demands = (share * 0.001 for share in (0.6, 0.8, 1.0, 1.2, 1.4, 1.6))
                worst = max(worst, *(marched_starts(0.5, plan.value("precharge", 0.0), low, high, supply + 1e3, each) for each in demands))
            self.assertLessEqual(worst, told + 1.0)
            self.assertLess(told, 1.25 * worst)

    def test_what_springs_do_not_know(self) -> None:
        facts = survey(**OWN)
        for alternation, stops in (("all_stopped", False), ("fixed", False), ("each_stop", True), ("run_hours", True), ("clock", True)):
            plan = BOOSTER.reckon(facts, choices(schools={"alternation": alternation}), False)
            self.assertIs(any(f.code == "own_turn" and f.severity is Severity.STOP for f in plan.findings), stops, alternation)
        typed = {"control.own_switches": True, "control.kind": "on_off", "pumping.standby": True}
        self.assertIn("own_standby", {finding.code for finding in plausibility(typed)})
        self.assertNotIn("own_standby", {finding.code for finding in plausibility({**typed, "control.kind": "constant"})})
        for kind, count in (("constant", 3), ("flow_stop", 3), ("on_off", 1)):
            self.assertFalse(survey(control={"kind": kind, "own_switches": True}, pumping={"count": count}).own_switches)


class CallsTest(unittest.TestCase):
    def made(self, **schools: str):
        facts, decided = survey(**OWN), choices(schools=schools)
        return facts, decided, BOOSTER.reckon(facts, decided, False)

    def test_a_spring_by_hand(self) -> None:
        both = OwnSwitches(((400e3, 500e3), (380e3, 470e3)))
        for pressure, closed in ((420e3, [False, False]), (400e3, [True, False]), (390e3, [True, False]), (380e3, [True, True]), (469e3, [True, True]), (470e3, [True, False]), (500e3, [False, False]), (401e3, [False, False])):
            both.look(pressure)
            self.assertEqual(both.closed, closed, pressure)
        both.stuck = {0: False, 1: True}
        both.look(600e3)
        self.assertEqual(both.closed, [False, True])

    def test_pumps_come_and_go_one_by_one_each_at_its_own_mark(self) -> None:
        facts, decided, plan = self.made(alternation="fixed")
        opened = [act(20.0 * step + 1.0, "outlets", 0.1 * step) for step in range(17)] + [act(900.0, "outlets", 0.0)]
        found = rehearse(booster_bench(facts, decided, plan), tuple(opened), 1500.0)
        for doing, marks, after_s in ((Doing.STARTS, CUT_INS, 0.0), (Doing.STOPS, CUT_OUTS, 899.0)):
            for pump in (1, 2, 3):
                moved = next((event for event in among(found.events, Thing.PUMP, doing, after_s=after_s) if event.pump == pump), None)
                if doing is Doing.STARTS or moved is not None:
                    assert moved is not None, pump
                    self.assertAlmostEqual(moved.value("p") or 0.0, plan.value(marks[pump - 1], 0.0), delta=6e3)
        self.assertFalse(found.bench.running)
        stops = [event.pump for event in among(found.events, Thing.PUMP, Doing.STOPS, after_s=899.0)]
        self.assertEqual(stops, sorted(stops, reverse=True))  # the last to come is the first to go

    def test_nobody_stands_in_for_a_pump_that_does_not_come(self) -> None:
        """With pump 1 in OFF nothing runs until the water has fallen to the second switch, and its reason says so."""
        facts, decided, plan = self.made(alternation="fixed")
        acts = (act(0.0, "switch", 1.0, "1"), act(1.0, "outlets", 0.1))
        found = rehearse(booster_bench(facts, decided, plan, plan.value("cut_in", 0.0) + 5e3), acts, 240.0)
        first = next(among(found.events, Thing.PUMP, Doing.STARTS))
        self.assertEqual(first.pump, 2)
        self.assertAlmostEqual(first.value("p") or 0.0, plan.value("cut_in_2", 0.0), delta=3e3)
        lines = [[link.text for link in line.links] for line in found.bench.reasons()]
        self.assertTrue(any("switch 2 has closed" in text for text in lines[1]), lines)
        tripped = rehearse(booster_bench(facts, decided, plan), (act(1.0, "outlets", 0.3), act(60.0, "trip", 1.0, "1")), 70.0)
        self.assertIn("nobody stands in for it: the next has a lower switch", [link.text for link in tripped.bench.reasons()[0].links])

    def test_sensor_and_supply_are_nothing_to_a_spring(self) -> None:
        """The sensor lost: by choice the monitor stops all, or the switches go on. A power cut: they stay closed, and pumps come back after the power-on delay of 7 s."""
        for failure, runs in (("stop_all", False), ("run_duty", True)):
            made = self.made(alternation="fixed", sensor_failure=failure)
            found = rehearse(booster_bench(*made), (act(1.0, "outlets", 0.3), act(30.0, SetFault.LOOP_OPEN, 1.0)), 600.0)
            started = any(among(found.events, Thing.PUMP, Doing.STARTS, after_s=60.0))
            self.assertIs(started, runs, failure)
        cut = (act(1.0, "outlets", 0.3), act(30.0, "power", 0.0), act(40.0, "power", 1.0))
        found = rehearse(booster_bench(*made, made[2].value("cut_in", 0.0) - 1e3), cut, 49.0)
        self.assertEqual([(round(event.at_s), event.doing) for event in among(found.events, Thing.PUMP)][-2:], [(30, Doing.STOPS), (47, Doing.STARTS)])

    def test_what_is_broken_of_a_switch_shows(self) -> None:
        made = self.made(alternation="fixed")
        listed = {(each.kind, each.target) for each in troubles(booster_bench(*made))}
        self.assertLessEqual({(PumpFault.NO_CALL, "3"), (PumpFault.CALLS_ON, "1")}, listed)
        one = BOOSTER.reckon(survey(control={"kind": "on_off"}), choices(), False)
        self.assertNotIn(PumpFault.NO_CALL, {each.kind for each in troubles(booster_bench(survey(control={"kind": "on_off"}), choices(), one))})
        acts = (act(0.0, PumpFault.CALLS_ON, 1.0, "1"), act(1.0, "outlets", 0.0))
        found = rehearse(booster_bench(*made), acts, 900.0)
        self.assertTrue(found.bench.logic.closed_noted)  # it runs against closed outlets: the monitor notes it
        acts = (act(0.0, PumpFault.NO_CALL, 1.0, "1"), act(1.0, "outlets", 0.2))
        self.assertEqual(next(among(rehearse(booster_bench(*made), acts, 600.0).events, Thing.PUMP, Doing.STARTS)).pump, 2)


class ProvedTest(unittest.TestCase):
    def test_they_prove_themselves_and_a_wrong_mark_fails_its_own_proof(self) -> None:
        for alternation in ("all_stopped", "fixed"):
            facts = survey(**{**OWN, "supply": {"low_pa": 90e3}, "pumping": {"curve": [{**point, "head_m": 60.0 - 2.6e6 * point["flow_m3s"] ** 2} for point in CURVE]}})
            decided = choices(schools={"alternation": alternation})
            plan = BOOSTER.reckon(facts, decided, False)
            self.assertTrue(plan.is_sound, [one.id for one in plan.settings if one.window.is_empty])
            shown = prove_on_bench(facts, decided, plan)
            self.assertEqual([(each.proof.id, each.seen) for each in shown if each.verdict is not Verdict.PASSED], [])
            self.assertGreaterEqual(len(shown), 15)
            program = numbers_of(facts, decided, plan)
            for place, (low, high) in enumerate(program.switches):
                for marks, check in (((low - 60e3, high), "cut_in"), ((low, high - 60e3), "cut_out")):
                    switches = (*program.switches[:place], marks, *program.switches[place + 1 :])
                    held = Held(plan, replace(program, switches=switches))
                    failed = {each.proof.id for each in prove_on_bench(facts, decided, plan, held, frozenset({f"{check}_{place + 1}"})) if each.verdict is Verdict.FAILED}
                    self.assertIn(f"{check}_{place + 1}", failed)
            for fault, proof_id in ((PumpFault.NO_CALL, "cut_in_2"), (PumpFault.CALLS_ON, "cut_out_2")):
                broken = next(each for each in troubles(booster_bench(facts, decided, plan)) if each.kind == fault and each.target == "2")
                failed = {each.proof.id for each in prove_on_bench(facts, decided, plan, None, frozenset({proof_id}), broken) if each.verdict is Verdict.FAILED}
                self.assertIn(proof_id, failed)

    def test_the_family_asks_for_each_mark_and_its_wires(self) -> None:
        facts, decided = survey(**OWN), choices()
        plan = BOOSTER.reckon(facts, decided, False)
        answers = {"control.kind": "on_off", "control.own_switches": "yes", "pumping.count": "3"}
        self.assertEqual(BOOSTER.keypad.family_of(answers), "pressure switches and their monitor")
        self.assertEqual(BOOSTER.keypad.family_of({**answers, "control.own_switches": "no"}), "pressure switch")
        self.assertEqual(BOOSTER.keypad.family_of({**answers, "pumping.count": "1"}), "pressure switch")
        asked = {parameter.meaning for parameter in shipped_profiles()["barnacle_rail"].parameter}
        self.assertLessEqual({f"setting.{one}" for one in (*CUT_INS, *CUT_OUTS)}, asked)
        self.assertLessEqual({f"contact.pressure.{number}" for number in (1, 2, 3)}, {joint.meaning for joint in BOOSTER.joints(facts, decided, plan)})
