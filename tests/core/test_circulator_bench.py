"""Rings on the bench: heat kept and counted, against a march in small cells, faults that show, hours and lead found again, proofs of sound plans."""

import math
import random
import unittest
import unittest.mock

from goodbalance.core.balance.plan import Severity
from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.engine import Run, TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.stations.circulator.bench import looks
from goodbalance.core.stations.circulator.bench.breakable import troubles
from goodbalance.core.stations.circulator.bench.put_on import ring_bench
from goodbalance.core.stations.circulator.bench.rehearse import RingBench
from goodbalance.core.stations.circulator.controller.numbers import numbers_of
from goodbalance.core.stations.circulator.names import ACTS, Alarm, Harm
from goodbalance.core.stations.circulator.plant import plant
from goodbalance.core.stations.circulator.plant.equations import equations
from goodbalance.core.stations.circulator.plant.year import YEAR_S
from goodbalance.core.stations.circulator.proofs.listed import proofs
from goodbalance.core.stations.circulator.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.windows.consequences import at_rest
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.shared.week import WEEK_S
from tests.circulator import choices, plan_of, survey
from tests.trails import false_trails
from tools.march.rings import rings

HOUR, MC = 3600.0, 985.0 * 4180.0


def run(until_s: float, *acts: tuple[float, str, str, float], facts: CirculatorSurvey | None = None, start: float | None = None, **schools: object) -> Run[RingBench]:
    facts, decided = facts or survey(), choices(**schools)
    return rehearse(ring_bench(facts, decided, plan_of(facts, decided), start), tuple(TimedAction(*act) for act in acts), until_s)


def heat_missing(bench: RingBench, held_before: float) -> float:
    """What was given less what went anywhere, as a share of what was given."""
    plant = bench.plant
    held, lost = sum(plug.held_j for plug in plant.plugs), sum(plug.lost_j for plug in plant.plugs)
    return (plant.heated_j - (held - held_before + lost + plant.drawn_j + plant.given_j + plant.store_j)) / plant.heated_j


class WaterTest(unittest.TestCase):
    def test_heat_is_kept_and_a_run_told_twice_goes_the_same_way(self) -> None:
        """Two days with draws, a shut valve, a weak heater: what the heat gave is in pipes, taps, air and store to half a per cent."""
        acts = ((7 * HOUR, "tap", "1", 1e-4), (7 * HOUR + 300.0, "tap", "1", 0.0), (9 * HOUR, "shut", "2", 1.0), (12 * HOUR, "shut", "2", 0.0), (13 * HOUR, "weak_heater", "", 1.0), (15 * HOUR, "weak_heater", "", 0.0), (30 * HOUR, "tap", "2", 1e-4))
        one, two = run(40 * HOUR, *acts, start=20.0), run(40 * HOUR, *acts, start=20.0)
        self.assertEqual(one.digest(), two.digest())
        begun = ring_bench(survey(), choices(), plan_of(survey()), 20.0)
        self.assertLess(abs(heat_missing(one.bench, sum(plug.held_j for plug in begun.plant.plugs))), 0.005)

    def test_against_a_march_in_small_cells(self) -> None:
        """One branch, started from cold in HAND: cells that move by one each step, water and wall together, give the return within 0.2 K at every minute."""
        facts = survey(ring={"branches": 1})
        decided = choices(hours="always")
        plan = plan_of(facts, decided)
        eq, flow = equations(facts), at_rest(facts, decided, plan).running.flow_m3s
        pieces = [eq.there, eq.pipes[0].there, eq.pipes[0].back, eq.back]
        step_s = sum(piece.fills_m3 for piece in pieces if piece) / flow / 1200.0
        cells = [[20.0] * max(1, round(piece.fills_m3 / flow / step_s)) for piece in pieces if piece]
        marched, time_s = {}, 0.0
        while time_s < 1500.0:
            coming = eq.flow_c
            for row, piece in zip(cells, (piece for piece in pieces if piece)):
                decay = math.exp(-step_s * piece.lost_wk / piece.holds_jk)
                leaving = row.pop()
                row.insert(0, coming)
                row[:] = [piece.around_c + (at - piece.around_c) * decay for at in row]
                coming = leaving
            time_s += step_s
            marched[round(time_s)] = coming
        front = sum(piece.fills_m3 for piece in pieces if piece) / flow
        for at_s in (0.5 * front, 0.9 * front, 1.15 * front, 1400.0):
            with self.subTest(round(at_s)):
                seen = run(at_s, facts=facts, start=20.0, hours="always").seen_at(at_s)
                self.assertAlmostEqual(seen.plant.back_c, marched[min(marched, key=lambda known: abs(known - at_s))], delta=0.2)

    def test_it_comes_to_rest_where_it_was_reckoned_and_cools_by_the_exponential(self) -> None:
        for mode in ("constant_pressure", "fixed_speed", "constant_flow", "proportional_pressure"):
            decided = choices(mode=mode, hours="always")
            warm = at_rest(survey(), decided, plan_of(survey(), decided)).warmth
            plant = run(3 * HOUR, mode=mode, hours="always").bench.plant
            with self.subTest(mode):
                self.assertAlmostEqual(plant.back_c, warm.back_c, delta=0.05)
                self.assertEqual([round(plug.end_c(), 1) for plug in plant.returns], [round(end, 1) for end in warm.ends_c])
        still = run(5 * HOUR, facts=survey(), start=58.0).seen_at(5 * HOUR).plant  # Monday, before its hours
        pipe = equations(survey()).pipes[1].there
        self.assertAlmostEqual(still.outs[1].end_c(), 20.0 + 38.0 * math.exp(-5 * HOUR * pipe.lost_wk / pipe.holds_jk), delta=0.01)

    def test_long_steps_tell_what_short_ones_tell(self) -> None:
        """Thermostatic valves and taps opened by habit, from before the warm hours on: every return within 0.2 K of a grid six times as fine, and the same said."""
        acting: dict[str, object] = {"valve": "thermostatic", "closes_c": 57.0}
        ring, people = survey(branch_1=acting, branch_2=acting), (TimedAction(0.0, "pattern", "", 1.0),)
        runs, until_s = [], 8.5 * 3600.0
        for finer in (1.0, 6.0):
            steps = {"PARTS": plant.PARTS * finer, "SHORT_S": plant.SHORT_S / finer, "MOVED_SHARE": plant.MOVED_SHARE / finer, "WAX_S": plant.WAX_S}
            with unittest.mock.patch.multiple(plant, **steps):
                runs.append(rehearse(ring_bench(ring, choices(), plan_of(ring)), people, until_s))
        self.assertEqual(*([(event.thing, event.of, event.pump, event.at_s) for event in run.events] for run in runs))
        columns = [place for place, name in enumerate(runs[0].bench.columns, 1) if name.startswith(("end_", "far_"))]
        fine = {row[0]: row for row in runs[1].trace}
        both = [(row, fine[row[0]]) for row in runs[0].trace if row[0] in fine and row[0] > 6.4 * 3600.0]
        self.assertGreater(len(both), 100)
        self.assertLess(max(abs(row[place] - other[place]) for row, other in both for place in columns), 0.2)

    def test_a_week_costs_what_was_reckoned(self) -> None:
        """Heat its pipes lose in a week on the bench, against a year by formula; the lead is found again: hot at the farthest tap before the warm time, and not by more than it."""
        found = run(WEEK_S - 1.0, start=56.0)
        figures = {figure.id: figure for figure in plan_of(survey()).figures}
        lost = sum(plug.lost_j for plug in found.bench.plant.plugs if plug not in found.bench.plant.runs_out)
        self.assertAlmostEqual(lost * YEAR_S / WEEK_S, figures["heat_year"].value, delta=0.02 * figures["heat_year"].value)
        self.assertAlmostEqual(found.bench.run_s[0], figures["hours"].value, delta=60.0)
        column = 1 + found.bench.columns.index("far_2_c")
        hot_s = next(row[0] for row in found.trace if row[0] > HOUR and row[column] >= 45.0)
        lead = plan_of(survey()).setting("lead").window.low / 1.25
        self.assertAlmostEqual(hot_s - (6 * HOUR - plan_of(survey()).value("lead", 0.0)), lead, delta=60.0)


class FaultsTest(unittest.TestCase):
    def test_what_is_broken_shows(self) -> None:
        tap, draw = (7.5 * HOUR, "tap", "1", 1e-4), 6.0 * HOUR
        for acts, changes, alarm, harm in (
            (((draw, "air", "", 1.0),), {}, Alarm.NO_FLOW, Harm.DRY), (((draw, "backwards", "1", 1.0),), {}, Alarm.NO_FLOW, None), (((draw, "shut", "1", 1.0),), {}, None, Harm.COOL),
            (((draw, "weak_heater", "", 1.0),), {"heat": {"volume_m3": 0.05}}, None, Harm.COOL), (((5.0, "power", "", 0.0), (60.0, "power", "", 1.0)), {"control": {"clock_backup": False}}, Alarm.CLOCK, None),
            (((5.0, "stuck", "1", 1.0),), {}, None, Harm.STAGNANT), (((5.0, "switch", "1", 1.0),), {}, Alarm.NOT_AUTO, Harm.STAGNANT), (((5.0, "backflow", "", 1.0), (HOUR, "tap", "1", 1e-4)), {}, None, Harm.CROSSES),
            (((draw, "creep", "", 1.0), (9.0 * HOUR, "tap", "1", 1e-4)), {"heat": {"set_c": 75.0, "mixing": True, "mixed_c": 58.0}}, None, Harm.SCALD), (((draw, "weak_heater", "", 0.0), tap), {"heat": {"kind": "instantaneous", "least_m3s": 3e-4}}, None, Harm.UNLIT),
            ((tap,), {"heat": {"kind": "low_temperature", "highest_return_c": 40.0}}, None, Harm.HOT_RETURN),
        ):  # fmt: skip
            found = run(16.0 * HOUR, *acts, facts=survey(**changes))
            with self.subTest((acts[0][1], harm)):
                if alarm is not None:
                    self.assertIsNotNone(looks.alarm(found, alarm))
                if harm is not None:
                    self.assertIsNotNone(looks.harm(found, harm), [event.text for event in found.events])

    def test_a_clock_twelve_hours_wrong_and_a_second_timer(self) -> None:
        """Twelve hours off it rests by day: wanted from six to ten. A second timer in its supply stops it from six to noon, and the reason says the supply."""
        wrong = run(13 * HOUR, (1.0, "twelve_hours", "", 1.0))
        self.assertFalse(wrong.bench.running)
        self.assertIn("outside its hours", wrong.bench.reasons()[0].links[-1].text)
        cut = run(8 * HOUR, (1.0, "two_controls", "", 1.0))
        reason = cut.bench.reasons()[0]
        self.assertEqual((reason.runs, reason.links[reason.deciding].name), (False, "Power"))
        self.assertTrue(run(13 * HOUR, (1.0, "two_controls", "", 1.0)).bench.running)

    def test_which_of_two_controls_wins(self) -> None:
        facts = survey(control={"outside": "building"})
        for wins, contact, hour, runs in (("both", 1.0, 3, False), ("both", 0.0, 12, False), ("both", 1.0, 12, True), ("either", 1.0, 3, True), ("either", 0.0, 12, True), ("outside", 1.0, 3, True), ("outside", 0.0, 12, False)):
            with self.subTest((wins, contact, hour)):
                self.assertEqual(bool(run(hour * HOUR, (1.0, "outside", "", contact), facts=facts, wins=wins).bench.running), runs)

    def test_a_held_return_a_dead_sensor_and_a_learning_pump(self) -> None:
        held = run(8 * HOUR, mode="constant_return", hours="always")
        wanted = plan_of(survey(), choices(mode="constant_return", hours="always")).value("set_return", 0.0)
        self.assertAlmostEqual(held.bench.plant.back_c, wanted, delta=0.3)
        dead = run(8 * HOUR, (HOUR, "sensor", "", 1.0), mode="constant_return", hours="always")
        self.assertIsNotNone(looks.alarm(dead, Alarm.SENSOR))
        self.assertTrue(dead.bench.running)
        week = [(day * 86400.0 + 7.2 * HOUR + late, "tap", "1", flow) for day in range(7) for late, flow in ((0.0, 1e-4), (60.0, 0.0))]
        learnt = run(7.9 * 86400.0, *week, mode="learning")
        begun = [event.at_s % 86400.0 / HOUR for event in among(learnt.events, Thing.PUMP, Doing.STARTS, after_s=WEEK_S)]
        self.assertEqual([round(hour) for hour in begun], [6])  # the hour before people draw

    def test_people_draw_by_habit_and_heaters_shut(self) -> None:
        """Twice an hour for a minute at two taps of 0.1 l/s, 16 h from six: 384 l a day. Shut radiators leave a boiler without its least flow."""
        found = run(86400.0 - 1.0, (0.0, "pattern", "", 1.0))
        self.assertAlmostEqual(found.bench.plant.drawn_m3, 2 * 2 * 60.0 * 16 * 1e-4, delta=0.001)
        circuits = survey(ring={"kind": "heating", "branches": 2}, heat={"boiler_least_m3s": 8e-5})
        shut = run(10 * HOUR, (9 * HOUR, "emitters", "", 0.0), facts=circuits, mode="proportional_pressure", chosen={"set_pressure": 25e3})
        self.assertIsNotNone(looks.harm(shut, Harm.UNLIT))
        self.assertLess(shut.bench.plant.flows.running.flow_m3s, 8e-5)

    def test_the_wait_at_a_tap_running_and_from_cold(self) -> None:
        """1 m of 12 mm to the tap and its wall, 0.1 l/s: some 1.5 s. From cold the ways out as well."""
        eq = equations(survey())
        warm = run(12.2 * HOUR, (12 * HOUR, "tap", "2", 1e-4))
        run_out = eq.runs_out[1]
        self.assertAlmostEqual(looks.passed(warm, "tap_2") or 0.0, 1e4 * (run_out.fills_m3 if run_out else 0.0), delta=1.01)
        cold = run(2.5 * HOUR, (2 * HOUR, "tap", "2", 1e-4), start=20.0)
        fills = eq.there.fills_m3 + eq.pipes[1].there.fills_m3 + (run_out.fills_m3 if run_out else 0.0)
        self.assertAlmostEqual(looks.passed(cold, "tap_2") or 0.0, 1e4 * fills, delta=6.0)

    def test_bad_actions_are_refused_by_name(self) -> None:
        for act in ((1.0, "tap", "1", -1.0), (1.0, "tap", "7", 1e-4), (1.0, "tap", "", 1e-4), (1.0, "cold_tap", "1", 1e-4), (1.0, "valve", "1", 99.0), (1.0, "emitters", "", 2.0), (1.0, "switch", "2", 1.0), (1.0, "switch", "1", 7.0), (1.0, "stuck", "2", 1.0), (1.0, "shut", "9", 1.0), (1.0, "draw", "", 1.0)):
            with self.subTest(act), self.assertRaises(OutOfRange):
                run(5.0, act)
        with self.assertRaises(OutOfRange):
            run(5.0, start=400.0)

    def test_everything_that_can_be_broken_is_an_act(self) -> None:
        known = {member.value for names in ACTS for member in names}
        facts, decided = survey(control={"outside": "thermostat"}, heat={"mixing": True, "mixed_c": 57.0}), choices()
        listed = troubles(ring_bench(facts, decided, plan_of(facts, decided)))
        self.assertGreater(len(listed), 10)
        for trouble in listed:
            self.assertIn(trouble.kind, known)


class ProofsTest(unittest.TestCase):
    def test_a_sound_plan_passes_its_own_proofs(self) -> None:
        short = {"ring": {"kind": "crossover", "branches": 2}, "branch_1": {"there_m": 8.0, "back_m": 6.0, "back_bore_m": 0.01, "tap_m3s": 1.5e-4}, "branch_2": {"there_m": 10.0, "back_m": 8.0, "back_bore_m": 0.01, "tap_m3s": 1.5e-4}}
        for changes, schools in (
            ({}, {}), ({}, {"mode": "fixed_speed"}), ({}, {"mode": "constant_return"}), ({"control": {"outside": "thermostat"}}, {"rules": {"least_return_c": 48.0}}), ({"control": {"outside": "button"}}, {}), (short, {}),
            ({"heat": {"set_c": 64.0, "mixing": True, "mixed_c": 58.0}, "control": {"clock_backup": False}}, {"hours": "own", "own": {"count": 2}, "rules": {"longest_rest_s": 86400.0}}),
        ):  # fmt: skip
            facts, decided = survey(**changes), choices(**schools)
            plan = plan_of(facts, decided)
            self.assertTrue(plan.is_sound, [setting.id for setting in plan.settings if setting.window.is_empty])
            shown = prove_on_bench(facts, decided, plan)
            self.assertGreaterEqual(len(shown), 8)
            self.assertEqual([(each.proof.id, each.seen, each.proof.expected) for each in shown if each.verdict != "passed"], [])

    def test_random_sound_rings_pass_their_own_proofs(self) -> None:
        for facts, decided, plan in rings(random.Random(3), 6):
            failed = [(each.proof.id, each.seen, each.proof.expected) for each in prove_on_bench(facts, decided, plan) if each.verdict != "passed"]
            self.assertEqual(failed, [], facts.model_dump_json()[:300])
            self.assertEqual(false_trails(plan), [])

    def test_each_wrong_number_fails_a_proof(self) -> None:
        for schools, wrong in (
            ({}, {"set_pressure": 2.0}), ({}, {"valve_1": 2.5}), ({}, {"lead": 0.3}), ({"mode": "constant_flow"}, {"set_flow": 0.7}), ({"mode": "fixed_speed"}, {"speed": 3.0}), ({"mode": "constant_return"}, {"set_return": 1.05}),
        ):  # fmt: skip
            facts, decided = survey(), choices(**schools)
            plan = plan_of(facts, decided)
            chosen = {setting: plan.value(setting, 0.0) * factor for setting, factor in wrong.items()}
            held = Held(plan, numbers_of(facts, decided, plan_of(facts, choices(**schools, chosen=chosen))))
            shown = prove_on_bench(facts, decided, plan, held)
            with self.subTest(wrong):
                self.assertTrue([each for each in shown if each.verdict != "passed" and set(wrong) & set(each.proof.proves)])

    def test_every_number_in_force_has_a_proof_in_its_order(self) -> None:
        facts = survey(control={"outside": "button"})
        listed = proofs(facts, choices(wins="either"), plan_of(facts, choices(wins="either")))
        plan = plan_of(facts, choices(wins="either"))
        self.assertLessEqual({setting.id for setting in plan.settings if setting.id != "lead"}, {setting for proof in listed for setting in proof.proves})
        self.assertEqual((listed[0].check, listed[-1].check), ("vented", "auto"))
        self.assertFalse([finding for finding in plan.findings if finding.severity is Severity.STOP])
