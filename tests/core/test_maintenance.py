"""The maintenance pump of a fire line: windows by hand, starts for a leak by marching, states and faults on the bench, proofs of sound plans."""

import math
import random
import unittest

from goodbalance.core.balance.plan import Severity
from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.engine import Run, TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.stations.maintenance.bench import looks
from goodbalance.core.stations.maintenance.bench.breakable import troubles
from goodbalance.core.stations.maintenance.bench.put_on import maintenance_bench
from goodbalance.core.stations.maintenance.bench.rehearse import MaintenanceBench
from goodbalance.core.stations.maintenance.controller.numbers import numbers_of
from goodbalance.core.stations.maintenance.names import ACTS, Alarm, Harm, State
from goodbalance.core.stations.maintenance.plant.hydraulics import hydraulics
from goodbalance.core.stations.maintenance.proofs.listed import proofs
from goodbalance.core.stations.maintenance.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.maintenance.survey.plausibility import plausibility
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.maintenance.windows.reckon import reckon
from goodbalance.core.stations.shared.held import Held
from tests.maintenance import A_M, C, choices, plan_of, survey
from tests.trails import false_trails
from tools.march.fire_lines import lines

WEIGHT = 999.1 * 9.80665  # of water at 15 degrees


def run(until_s: float, *acts: tuple[float, str, str, float], facts: MaintenanceSurvey | None = None, **schools: object) -> Run[MaintenanceBench]:
    facts, decided = facts or survey(), choices(**schools)
    return rehearse(maintenance_bench(facts, decided, plan_of(facts, decided)), tuple(TimedAction(*act) for act in acts), until_s)


class WindowsTest(unittest.TestCase):
    def test_pressures_by_hand(self) -> None:
        """Churn 8 bar on 2 bar of supply: 10 bar. Shut-off of the worn pump on it: 2 bar and 0.97 · 120 m, less what is read wrong and 0.1 bar."""
        plan = plan_of(survey())
        stop, start = plan.setting("stop_pressure"), plan.setting("start_pressure")
        self.assertAlmostEqual(stop.window.low, 10e5)
        off_pa = max(3e3, 5.0 * 20e5 / 4000) + 0.0025 * 20e5
        self.assertAlmostEqual(stop.window.high, 2e5 + 0.97 * A_M * WEIGHT - off_pa - 1e4, delta=60.0)
        self.assertAlmostEqual(start.window.high, stop.value - 7e4)  # the differential
        self.assertAlmostEqual(start.window.low, 8.4e5 + 3.5e4)  # the main pump as its people set it, and the separation
        main = plan.setting("main_start_1")
        self.assertEqual(main.value, 8.4e5)
        self.assertAlmostEqual(main.window.high, start.value - 3.5e4)
        self.assertAlmostEqual(main.window.low, 3e5 + off_pa)
        self.assertEqual(false_trails(plan), [])

    def test_main_pumps_without_a_known_start_leave_room_one_under_the_other(self) -> None:
        plan = plan_of(survey(mains={"count": 3, "churn_pa": 8e5, "start_1_pa": None}))
        values = [plan.value(f"main_start_{number}", 0.0) for number in (1, 2, 3)]
        self.assertLessEqual(values[0], plan.value("start_pressure", 0.0) - 3.5e4)
        self.assertTrue(all(below <= above - 7e4 for above, below in zip(values, values[1:])))
        self.assertEqual(sum(finding.severity is Severity.CAUTION and "not known" in finding.text for finding in plan.findings), 3)

    def test_times_by_hand(self) -> None:
        """The line takes V / (rho a^2) = 2 / (999.1 · 1e6) = 2.0e-9 m3 a pascal; the permitted leak, 5e-6 m3/s at 10 bar, sags it by some 2.5 kPa a second."""
        facts = survey()
        plan, hyd = plan_of(facts), hydraulics(facts)
        stiff = 2.0 / (999.1 * 1e6)
        self.assertAlmostEqual(hyd.stores_m3pa(9e5), stiff, delta=1e-4 * stiff)
        start, main = plan.value("start_pressure", 0.0), 8.4e5
        sag_s = 2.0 * stiff * math.sqrt(10e5) / 5e-6 * (math.sqrt(start) - math.sqrt(main))  # dp/dt = -q/C with q = k sqrt(p)
        delay = {bound.cause: bound.value for bound in plan.setting("on_delay").window.upper}
        self.assertAlmostEqual(delay["the sag to the main pump's start"], sag_s, delta=2e-3 * sag_s)
        least = plan.setting("least_run").window
        heat_s = 15.0 * facts.protection.casing_m3 * 4.186e6 / (900.0 * min(1.0, hyd.curves.plate.efficiency))
        self.assertAlmostEqual(least.high, heat_s, delta=0.01 * heat_s)
        top = hyd.settles_pa(False, 5e-6)
        rest_s = 2.0 * stiff * math.sqrt(10e5) / 5e-6 * (math.sqrt(top) - math.sqrt(start))
        self.assertAlmostEqual({bound.cause: bound.value for bound in least.lower}["permitted starts"], 240.0 - rest_s, delta=0.5)

    def test_flows_against_leak_and_sprinkler(self) -> None:
        """At the stop the pump gives sqrt((120 - (p - 2 bar) / w) / 3e7); a sprinkler of 1.5 l/s at 1 bar gives 4.3 l/s at the main pump's start."""
        plan = plan_of(survey())
        figures = {figure.id: figure for figure in plan.figures}
        stop = plan.value("stop_pressure", 0.0)
        self.assertAlmostEqual(figures["makes_good"].value, math.sqrt((A_M - (stop - 2e5) / WEIGHT) / C), delta=2e-6)
        self.assertEqual((figures["makes_good"].keeps, figures["under_sprinkler"].keeps), (True, True))
        small = plan_of(survey(line={"sprinkler_m3s": 4e-4}))
        self.assertFalse({figure.id: figure for figure in small.figures}["under_sprinkler"].keeps)
        self.assertIn("line.sprinkler_m3s", {finding.subject for finding in small.findings if finding.severity is Severity.STOP})

    def test_a_stiff_line_without_a_least_run_wants_a_vessel_or_the_timer(self) -> None:
        told = {finding.subject: finding.text for finding in plan_of(survey(), choices(run_on="none")).findings}
        self.assertIn("A small vessel, or the least-run timer", told["schools.run_on"])
        soft = plan_of(survey(line={"vessel_m3": 0.05}), choices(run_on="none"))
        self.assertNotIn("schools.run_on", {finding.subject for finding in soft.findings})

    def test_an_empty_window_says_what_opens_it(self) -> None:
        plan = reckon(survey(mains={"churn_pa": 8e5, "start_1_pa": 9.6e5}), choices())
        window = plan.setting("start_pressure").window
        self.assertTrue(window.is_empty)
        self.assertTrue(any("first main pump that starts at" in opener.what for opener in window.openers))

    def test_bad_facts(self) -> None:
        found = {finding.subject for finding in plausibility({"suction.low_pa": 3e5, "suction.high_pa": 2e5, "line.relief_pa": 30e5, "line.rating_pa": 16e5, "mains.start_1_pa": 5e5, "mains.start_2_pa": 6e5})}
        self.assertLessEqual({"suction.low_pa", "line.relief_pa", "mains.start_2_pa"}, found)
        weak = plan_of(survey(mains={"churn_pa": 13e5, "start_1_pa": None}))
        self.assertIn(Severity.STOP, {finding.severity for finding in weak.findings if "never hold" in finding.text})


class BenchTest(unittest.TestCase):
    def test_starts_for_a_leak_alone_as_reckoned(self) -> None:
        """A day of nothing but the leak, with and without a least run: starts within 1 % of what is reckoned."""
        for run_on, facts in (("timer", survey(line={"leak_m3s": 4e-6})), ("none", survey(line={"leak_m3s": 2e-6, "vessel_m3": 0.05}))):
            middle = {"suction": {"low_pa": 2.5e5, "high_pa": 2.5e5}}
            facts = MaintenanceSurvey.model_validate(facts.model_dump() | middle)
            figures = {figure.id: figure for figure in plan_of(facts, choices(run_on=run_on)).figures}
            found = run(12.0 * 3600.0, facts=facts, run_on=run_on)
            begun = [event.at_s for event in among(found.events, Thing.PUMP, Doing.STARTS)]
            self.assertGreater(len(begun), 3)
            with self.subTest(run_on):
                self.assertAlmostEqual(3600.0 * (len(begun) - 1) / (begun[-1] - begun[0]), figures["leak_starts"].value, delta=0.01 * figures["leak_starts"].value)
                self.assertTrue(looks.main_out(found))

    def test_a_cycle_with_its_delay_and_its_least_run(self) -> None:
        plan = plan_of(survey())
        found = run(400.0, (5.0, "bleed", "", 4e-6))
        began, started, stopped = looks.enters(found, State.WAIT), looks.first_start(found), looks.first_stop(found)
        self.assertAlmostEqual(looks.at_pa(began) or 0.0, plan.value("start_pressure", 0.0), delta=1.5e3)
        self.assertAlmostEqual(looks.between_s(began, started) or 0.0, plan.value("on_delay", 0.0), delta=0.11)
        self.assertAlmostEqual(looks.between_s(started, stopped) or 0.0, plan.value("least_run", 0.0), delta=0.11)
        self.assertGreater(looks.at_pa(stopped) or 0.0, plan.value("stop_pressure", 0.0))
        self.assertIsNotNone(looks.enters(found, State.LEAST))
        self.assertTrue(looks.main_out(found))

    def test_a_sprinkler_calls_the_main_pump_and_that_is_no_harm(self) -> None:
        found = run(120.0, (10.0, "sprinklers", "", 1.0))
        self.assertEqual(found.bench.plant.mains, {0})
        self.assertFalse(list(among(found.events, Thing.HARM, Doing.COMES, of=Harm.MAIN_STARTS)))
        self.assertGreater(found.bench.pressure_pa, 9e5)  # its churn, less what one sprinkler draws

    def test_what_is_broken_shows(self) -> None:
        """A blocked sensing line and a long delay start the main pump for nothing; a large leak, a dead pump and OFF are told."""
        for acts, schools, alarm, harm in (
            ([(5.0, "sensing", "", 1.0), (10.0, "bleed", "", 2e-4)], {}, None, Harm.MAIN_STARTS),
            ([(5.0, "bleed", "", 8e-6)], {"chosen": {"on_delay": 240.0}}, None, Harm.MAIN_STARTS),
            ([(5.0, "switch", "1", 1.0), (6.0, "bleed", "", 2e-5)], {}, Alarm.NOT_AUTO, Harm.MAIN_STARTS),
            ([(5.0, "shut", "1", 1.0), (6.0, "bleed", "", 2e-6)], {}, None, Harm.AGAINST),
            ([(5.0, "welded", "1", 1.0), (6.0, "bleed", "", 2e-6)], {}, None, Harm.UNCALLED),
            ([(5.0, "loop_open", "", 1.0)], {}, Alarm.SENSOR, None),
            ([(5.0, "worn", "1", 1.0), (6.0, "bleed", "", 1.1e-3)], {}, None, Harm.MAIN_STARTS),
        ):  # fmt: skip
            found = run(900.0, *acts, **schools)
            with self.subTest(acts[0][1]):
                if alarm is not None:
                    self.assertIsNotNone(looks.alarm(found, alarm))
                if harm is not None:
                    self.assertTrue(list(among(found.events, Thing.HARM, Doing.COMES, of=harm)), [event.text for event in found.events])

    def test_water_is_kept_and_a_run_told_twice_goes_the_same_way(self) -> None:
        acts = ((60.0, "bleed", "", 3e-5), (400.0, "bleed", "", 0.0), (900.0, "leak", "", 1.0))
        one, two = run(3600.0, *acts), run(3600.0, *acts)
        self.assertEqual(one.digest(), two.digest())
        plant, hyd = one.bench.plant, hydraulics(survey())
        stored = hyd.stores_m3pa(1e6) * (plant.pressure_pa - 1e6)
        self.assertAlmostEqual(plant.pumped_m3 - plant.lost_m3, stored, delta=0.01 * plant.pumped_m3 + 1e-4)

    def test_bad_actions_are_refused_by_name(self) -> None:
        for act in ((1.0, "bleed", "", -1.0), (1.0, "sprinklers", "", 900.0), (1.0, "suction", "", -2.0), (1.0, "switch", "2", 1.0), (1.0, "shut", "2", 1.0), (1.0, "draw", "", 1.0), (1.0, "switch", "1", 7.0)):
            with self.subTest(act), self.assertRaises(OutOfRange):
                run(5.0, act)

    def test_everything_that_can_be_broken_is_an_act(self) -> None:
        known = {member.value for names in ACTS for member in names}
        facts = survey()
        for trouble in troubles(maintenance_bench(facts, choices(), plan_of(facts))):
            self.assertIn(trouble.kind, known)


class ProofsTest(unittest.TestCase):
    def test_a_sound_plan_passes_its_own_proofs(self) -> None:
        for facts, schools in (
            (survey(control={"phase_monitor": True}), {}), (survey(), {"run_on": "none"}), (survey(line={"vessel_m3": 0.04, "air_m3": 0.01}), {}),
            (survey(mains={"count": 3, "churn_pa": 8e5, "start_1_pa": None}), {"alarm_reset": "by_hand"}),
        ):  # fmt: skip
            decided = choices(**schools)
            plan = plan_of(facts, decided)
            shown = prove_on_bench(facts, decided, plan)
            self.assertGreaterEqual(len(shown), 9)
            self.assertEqual([(each.proof.id, each.seen) for each in shown if each.verdict != "passed"], [])

    def test_random_sound_lines_pass_their_own_proofs(self) -> None:
        for facts, decided, plan in lines(random.Random(17), 4):
            failed = [(each.proof.id, each.seen, each.proof.expected) for each in prove_on_bench(facts, decided, plan) if each.verdict != "passed"]
            self.assertEqual(failed, [], facts.model_dump_json()[:400])
            self.assertEqual(false_trails(plan), [])

    def test_each_wrong_number_fails_a_proof(self) -> None:
        facts, decided = survey(), choices()
        plan = plan_of(facts, decided)
        for setting, factor in (("stop_pressure", 1.06), ("start_pressure", 0.94), ("on_delay", 6.0), ("least_run", 0.3), ("long_run", 0.5)):
            wrong = plan_of(facts, choices(chosen={setting: plan.value(setting, 0.0) * factor}))
            shown = prove_on_bench(facts, decided, plan, Held(plan, numbers_of(facts, decided, wrong)))
            with self.subTest(setting):
                self.assertTrue([each for each in shown if each.verdict != "passed" and setting in each.proof.proves])

    def test_every_number_in_force_has_a_proof_and_the_main_pump_is_never_run_from_here(self) -> None:
        facts = survey(mains={"count": 2, "churn_pa": 8e5, "start_1_pa": 8.4e5, "start_2_pa": 7.5e5})
        plan = plan_of(facts)
        listed = proofs(facts, choices(), plan)
        proved = {setting for proof in listed for setting in proof.proves}
        self.assertLessEqual({setting.id for setting in plan.settings if setting.group != "protection"}, proved)
        self.assertEqual((listed[0].check, listed[-1].check), ("told", "auto"))
        witnessed = [proof for proof in listed if proof.check == "witness"]
        self.assertEqual(len(witnessed), 2)
        self.assertTrue(all("not run from here" in proof.precondition for proof in witnessed))
        said = " ".join(f"{proof.title} {proof.action} {proof.must_see}" for proof in listed).lower()
        self.assertNotIn("complian", said)
