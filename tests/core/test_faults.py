"""Faults told apart: against the proofs of a plan, by what is seen of them, and by what would start a pump again."""

import unittest
from dataclasses import replace

from goodbalance.core.balance.proof import Answer, Proof, Verdict
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.rehearsal.diagnosis import Glimpse, Played, causes, checks, play_all
from goodbalance.core.rehearsal.engine import TimedAction, begun
from goodbalance.core.rehearsal.noticing import Notice, may_notice, noticed
from goodbalance.core.rehearsal.proving import BenchProof, Scene
from goodbalance.core.rehearsal.troubles import Lever, Sign, Trouble
from goodbalance.core.rehearsal.trying import tries
from goodbalance.core.rehearsal.what_would import what_would
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.exchange.typed import Typed, answers_of, facts_from, read_facts
from tools.stage.typed_stations import ROUND_WELL, TANK_SET

WET, DRY = Trouble("Seal", "wet", "The seal is wet", "seal"), Trouble("Well", "dry", "The well is dry", "dry")
RUNS = Sign("runs", "Pump", "It runs", None)
TAKES = Sign("takes", "Pump", "Its current", None, Q.CURRENT, near=0.5)
LEVEL = Sign("level", "Water", "Level", None, Q.LEVEL, near=0.1)


def made(kind, facts):
    typed = {path: Typed(text) for path, text in facts.items()}
    survey = facts_from(kind.survey_model, read_facts(kind.survey_model, typed, UnitSystem.METRIC))
    choices = facts_from(kind.choices_model, read_facts(kind.choices_model, {}, UnitSystem.METRIC, answers_of(kind.survey_model, typed)))
    return survey, choices, kind.reckon(survey, choices)


def look(*values: float | None) -> Glimpse:
    return Glimpse("story", 10.0, values)


class NoticingTest(unittest.TestCase):
    @staticmethod
    def shown(name: str, passed: bool, alarms: frozenset[str] = frozenset(), ended: tuple[Sign, ...] = ()) -> BenchProof:
        proof = Proof(name, name, "Group", "", (), "", "", Answer.YES_NO)
        return BenchProof(proof, passed, Verdict.PASSED if passed else Verdict.FAILED, Scene(name, 0.0, (), 1.0), alarms, ended)

    def test_a_cell_says_what_the_run_said(self) -> None:
        healthy = [self.shown(name, name != "c") for name in "abcd"]
        broken = [self.shown("a", False), self.shown("b", True, frozenset({"Low level"})), self.shown("c", False), self.shown("d", True)]
        row = noticed(WET, healthy, broken)
        self.assertEqual(dict(row.cells), {"a": Notice.FAILS, "b": Notice.ALARM, "c": Notice.ANYWAY, "d": Notice.NOTHING})
        self.assertIs(row.best, Notice.FAILS)
        self.assertIs(noticed(WET, healthy[1:], broken[1:]).best, Notice.ALARM)
        self.assertIs(noticed(WET, healthy[2:], broken[2:]).best, Notice.NOTHING)

    def test_what_needs_its_pump_is_played_only_where_that_ran(self) -> None:
        """And the table is the same as if every proof had been played."""
        for kind, facts in ((LIFT, ROUND_WELL), (BOOSTER, TANK_SET)):
            case = made(kind, facts)
            healthy = kind.prove_on_bench(*case)
            pumps = kind.diagnosis.troubles(kind.bench(*case))
            last = max(each.turning for each in pumps if each.turning is not None)
            left_out = 0
            for trouble in (each for each in pumps if each.turning == last):
                only = may_notice(trouble, healthy)
                left_out += len(healthy) - len(only)
                rows = [noticed(trouble, healthy, kind.prove_on_bench(*case, None, asked, trouble)) for asked in (only, None)]
                self.assertEqual(rows[0], rows[1])
            self.assertGreater(left_out, 0)
            self.assertIsNone(may_notice(next(each for each in pumps if each.kind == "check_valve"), healthy))

    def test_what_would_tell_is_what_differs_most_where_a_scene_ends(self) -> None:
        """9.0 instead of 6.0 A is six steps of half an ampere; 0.2 m two of a decimetre, which nobody would swear to."""
        ends = [(Sign("takes", "Pump", "Its current", amps, Q.CURRENT, near=0.5), Sign("level", "Water", "Level", metres, Q.LEVEL, near=0.1)) for amps, metres in ((6.0, 1.0), (9.0, 1.2))]
        row = noticed(WET, [self.shown("a", True, ended=ends[0])], [self.shown("a", True, ended=ends[1])])
        self.assertEqual([(closing.sign.id, closing.sign.value, closing.broken) for closing in row.closing], [("takes", 6.0, 9.0)])

    def test_a_disabled_guard_is_caught_and_every_fault_of_the_bench_can_be_put_in(self) -> None:
        for kind, facts in ((LIFT, ROUND_WELL), (BOOSTER, TANK_SET)):
            case = made(kind, facts)
            bench = kind.bench(*case)
            troubles = kind.diagnosis.troubles(bench)
            self.assertEqual(len({trouble.id for trouble in troubles}), len(troubles))
            ids = [sign.id for sign in kind.diagnosis.signs(bench)]
            self.assertEqual(len(set(ids)), len(ids))
            for trouble in troubles:
                with self.subTest(kind=kind.id, trouble=trouble.id):
                    fresh = kind.bench(*case)
                    self.assertEqual(fresh.act(trouble.put(0.0))[0].text, trouble.said)
                    run = begun(fresh, (trouble.mend(5.0),))
                    run.go_to(10.0)
                    self.assertEqual([sign.id for sign in kind.diagnosis.signs(run.bench)], ids)

    def test_faults_that_proofs_are_made_for_fail_them(self) -> None:
        case = made(LIFT, ROUND_WELL)
        healthy = LIFT.prove_on_bench(*case)
        troubles = {trouble.id: trouble for trouble in LIFT.diagnosis.troubles(LIFT.bench(*case))}
        for fault, proof in (("loop_open", "up_high_alarm"), ("starter.1", "alternation"), ("wire_off.low_cut_out", "timer_start_gap"), ("wire_off.low_alarm", "down_low_alarm")):
            row = noticed(troubles[fault], healthy, LIFT.prove_on_bench(*case, broken=troubles[fault]))
            self.assertIs(row.cells[proof], Notice.FAILS)
            self.assertEqual(row.closing, ())


class DiagnosisTest(unittest.TestCase):
    """Two faults, each with two looks. The seal wet: it runs at 6 A, or stands. The well dry: it stands in both."""

    played = Played((RUNS, TAKES, LEVEL), (WET, DRY), {"": (look(1.0, 6.0, 1.0), look(1.0, 6.0, 2.0)), "seal": (look(1.0, 6.0, 1.0), look(0.0, 0.0, 1.0)), "dry": (look(0.0, 0.0, 1.0), look(0.0, 0.0, 0.0))})

    def shares(self, **seen: float | None) -> dict[str, float]:
        return {cause.trouble.id if cause.trouble else "": cause.share for cause in causes(self.played, seen)}

    def test_shares_by_bayes(self) -> None:
        """It stands: 0.02 of nothing broken, (0.02 + 1) / 2 of the seal, 1 of the well: over their sum 1.53."""
        shares = self.shares(runs=0.0)
        for name, worth in (("", 0.02), ("seal", 0.51), ("dry", 1.0)):
            self.assertAlmostEqual(shares[name], worth / 1.53)
        self.assertEqual(list(shares), ["dry", "seal", ""])

    def test_a_number_counts_by_how_far_it_is_off(self) -> None:
        """At 5.5 A, one step under 6: e^-0.5 each where it runs. Both of nothing's looks, one of the seal's, none of the well's."""
        one = 2.718281828459045**-0.5
        shares, whole = self.shares(takes=5.5), one + (one + 0.02) / 2 + 0.02
        self.assertAlmostEqual(shares[""], one / whole)
        self.assertAlmostEqual(shares["dry"], 0.02 / whole)

    def test_what_does_not_fit_is_named_with_what_it_would_be(self) -> None:
        found = {cause.trouble: cause for cause in causes(self.played, {"runs": 0.0, "level": 1.0})}
        self.assertEqual([(sign.id, sign.value) for sign in found[None].against], [("runs", 1.0)])
        self.assertEqual(found[DRY].against, ())

    def test_the_next_look_is_the_one_that_leaves_least_doubt(self) -> None:
        """Before anything is seen log2(3) = 1.585 bits. It runs (half of all looks): nothing 2/3, seal 1/3, 0.918 bits; it stands: the same, seal
        and well. So looking whether it runs leaves 0.918 of them and takes 0.667 away."""
        first = checks(self.played, {})[0]
        self.assertEqual(first.sign.id, "runs")
        self.assertAlmostEqual(first.bits, 1.584963 - 0.918296, places=5)
        self.assertEqual(sorted((outcome.low, outcome.share) for outcome in first.outcomes), [(0.0, 0.5), (1.0, 0.5)])
        self.assertEqual({outcome.leaves for outcome in first.outcomes}, {None, DRY})
        self.assertNotIn("runs", [check.sign.id for check in checks(self.played, {"runs": 0.0})])

    def test_hidden_faults_are_among_the_first_three(self) -> None:
        """Both kinds, a few plain ones; tools/hidden_faults.py counts on random stations."""
        for kind, facts, faults in ((LIFT, ROUND_WELL, ("loop_open", "starter.1", "phase", "power")), (BOOSTER, TANK_SET, ("dry", "trip.1", "burst"))):
            case = made(kind, facts)
            bench, stories = kind.bench(*case), kind.diagnosis.stories(*case)
            troubles = tuple(trouble for trouble in kind.diagnosis.troubles(bench) if trouble.target in ("", "1"))
            looks = play_all(lambda start, kind=kind, case=case: kind.bench(*case, start), kind.diagnosis.signs, (None, *troubles), stories)
            played = Played(kind.diagnosis.signs(bench), troubles, looks)
            for trouble in (each for each in troubles if each.id in faults):
                with self.subTest(kind=kind.id, trouble=trouble.id):
                    story = stories[0]
                    run = begun(kind.bench(*case, 0.99 * story.start), (*story.actions, trouble.put(0.6 * story.until_s)))
                    run.go_to(0.9 * story.until_s)
                    found = causes(played, {sign.id: sign.value for sign in kind.diagnosis.signs(run.bench)})
                    self.assertIn(trouble, [cause.trouble for cause in found[:3]])
                    self.assertAlmostEqual(sum(cause.share for cause in found), 1.0)


class WaysTest(unittest.TestCase):
    """The well of the tests over its duty start, pump 2 in OFF and pump 1 broken."""

    def run_to(self, *actions: TimedAction):
        self.case = made(LIFT, ROUND_WELL)
        start_m = self.case[2].value("start_1", 0.0) + 0.05
        run = begun(LIFT.bench(*self.case, start_m), (TimedAction(0.0, "inflow", "", 0.001), TimedAction(0.0, "switch", "2", 1.0), *actions))
        run.go_to(120.0)
        return run

    def ways(self, run, pump: int, starts: bool, *broken: str) -> list[tuple[str, ...]]:
        listed = LIFT.diagnosis.troubles(run.bench)
        return [way.words for way in what_would(run, pump, starts, LIFT.diagnosis.levers(run.bench), [each for each in listed if each.id in broken])]

    def test_a_trip_needs_the_part_mended_and_then_a_person(self) -> None:
        run = self.run_to(TimedAction(0.0, "starter", "1", 1.0))
        found = self.ways(run, 0, True, "starter.1")
        self.assertEqual(found[0], ("Pump 1: starter, put right", "Pump 1 to OFF and back to AUTO"))
        self.assertTrue(all(len(way) == 2 for way in found))

    def test_a_wire_needs_only_the_wire(self) -> None:
        run = self.run_to(TimedAction(0.0, "wire_off", "low_cut_out", 1.0))
        self.assertIn(("Low-level cut-out: its wires: a wire off, put right",), self.ways(run, 0, True, "wire_off.low_cut_out"))

    def test_what_stops_it_and_what_needs_nothing(self) -> None:
        run = self.run_to()
        self.assertEqual(self.ways(run, 0, True), [])  # it runs
        found = [way.words for way in what_would(run, 0, False, LIFT.diagnosis.levers(run.bench), ())]
        self.assertIn(found[0], [(), ("Pump 1 to OFF",), ("Pump 1 to OFF and back to AUTO",)])

    def test_trying_tells_a_stuck_starter_from_a_lost_feedback(self) -> None:
        """Both are given up for want of feedback; switched off and on again, one takes current and the other does not."""
        run = self.run_to()
        troubles = [each for each in LIFT.diagnosis.troubles(run.bench) if each.id in ("starter.1", "feedback.1")]
        signs, stories = LIFT.diagnosis.signs(run.bench), LIFT.diagnosis.stories(*self.case)
        looks = play_all(lambda start: LIFT.bench(*self.case, start), LIFT.diagnosis.signs, troubles, stories[:1])
        played = Played(signs, tuple(troubles), looks)
        found = causes(played, {"tripped.1": 1.0, "runs.1": 0.0, "no_feedback.1": 1.0})
        self.assertEqual({cause.trouble for cause in found}, set(troubles))
        ways = tries(lambda start: LIFT.bench(*self.case, start), LIFT.diagnosis.signs, LIFT.diagnosis.levers, played, found, {stories[0].name: stories[0]})
        self.assertTrue(ways)
        self.assertIsInstance(ways[0].lever, Lever)
        self.assertAlmostEqual(ways[0].check.bits, 1.0, delta=0.2)
        self.assertEqual({outcome.leaves for outcome in ways[0].check.outcomes}, set(troubles))

    def test_a_tripped_pump_goes_by_hand_only_after_off(self) -> None:
        """The contactor pulls at once, and is given up after the 7 s of its feedback: seen after four seconds, gone after ten."""
        run = self.run_to(TimedAction(0.0, "feedback", "1", 1.0))
        lever = next(each for each in LIFT.diagnosis.levers(run.bench) if each.words.startswith("Pump 1 to OFF, then to HAND"))
        for action in lever.actions:
            run.actions += (replace(action, at_s=200.0 + action.at_s),)
        run.go_to(206.0)
        self.assertIn(0, run.bench.running)
        run.go_to(212.0)
        self.assertNotIn(0, run.bench.running)
        healthy = LIFT.diagnosis.levers(self.run_to().bench)
        self.assertIn("Pump 1 to HAND: nothing but its guards stops it then", [each.words for each in healthy])


