"""Rings by hand and by an independent march: heat along a pipe, flows that are needed, valves, set values of every mode, hours, a year."""

import math
import random
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from goodbalance.core.balance.plan import Severity
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.heat import along_c, loss_wmk, still_c
from goodbalance.core.stations.circulator.names import Mode
from goodbalance.core.stations.circulator.plant.crossing import most_m3s, warm_s
from goodbalance.core.stations.circulator.plant.equations import equations
from goodbalance.core.stations.circulator.plant.laws import Law, pump_curve
from goodbalance.core.stations.circulator.plant.steady import steady
from goodbalance.core.stations.circulator.plant.year import YEAR_S
from goodbalance.core.stations.circulator.survey.plausibility import plausibility
from goodbalance.core.stations.circulator.trials.modes import compare
from goodbalance.core.stations.circulator.windows.consequences import at_rest, plan_values
from goodbalance.core.stations.circulator.windows.reckon import reckon
from goodbalance.core.stations.shared.week import (
    WEEK_S,
    Days,
    Period,
    lasts_s,
    missing_s,
    most_rest_in_a_day_s,
    rests,
    runs_at,
    spans,
    until_change_s,
)
from tests.circulator import A_M, LOSES, C, choices, plan_of, survey
from tests.trails import false_trails, false_verdicts
from tools.march.rings import branch_pa, flows_at, marched_c, rings

MC = 985.0 * 4180.0  # J/(m3 K)
WEIGHT = 985.0 * 9.80665


class HeatTest(unittest.TestCase):
    def test_heat_lost_by_layers(self) -> None:
        """20 mm of insulation of 0.035 W/(m K) around 22 mm: ln(62/22)/(2 pi 0.035) = 4.71 K m/W, and some 0.6 outside at 8.5 W/(m2 K): 0.188."""
        inside = math.log(62.0 / 22.0) / (2.0 * math.pi * 0.035)
        lost = loss_wmk(0.02, 0.001, 380.0, 0.02, 0.035, 60.0, 20.0)
        self.assertAlmostEqual(lost, 1.0 / (inside + 1.0 / (8.5 * math.pi * 0.062)), delta=0.005)
        bare = loss_wmk(0.02, 0.001, 380.0, 0.0, 0.035, 60.0, 20.0)
        self.assertTrue(9.0 < bare / (math.pi * 0.022) < 16.0)  # free convection of some 7 and radiation of some 6 W/(m2 K)
        with self.assertRaises(OutOfRange):
            loss_wmk(0.0, 0.001, 380.0, 0.0, 0.035, 60.0, 20.0)

    def test_along_and_still_by_hand(self) -> None:
        """8 W/K on 0.1 l/s, which carries 411.7 W/K: 60 becomes 20 + 40 e^(-0.01943) = 59.23. A time constant of 3600 s: half an hour leaves 44.3."""
        self.assertAlmostEqual(along_c(60.0, 20.0, 8.0, MC * 1e-4), 59.230, places=3)
        self.assertAlmostEqual(still_c(60.0, 20.0, 1800.0, 3600.0), 44.261, places=3)
        self.assertAlmostEqual(along_c(60.0, 20.0, 8.0, MC * 1e-4), marched_c(60.0, 20.0, 0.2, 40.0, 1e-4), delta=1e-4)


class WeekTest(unittest.TestCase):
    def test_over_midnight_joined_and_counted(self) -> None:
        """Ten in the evening to two, every day, and five to nine on workdays: 7 · 4 + 5 · 4 h; no 24 hours rest more than 20."""
        found = spans((Period(Days.ALL, 22 * 3600.0, 2 * 3600.0), Period(Days.WORKDAYS, 5 * 3600.0, 9 * 3600.0)))
        self.assertEqual((lasts_s(found) / 3600.0, len(rests(found)), most_rest_in_a_day_s(found) / 3600.0), (48.0, 12, 20.0))
        self.assertEqual([runs_at(found, hour * 3600.0) for hour in (1, 3, 6, 10, 23, 167.5)], [True, False, True, False, True, True])
        self.assertEqual(until_change_s(found, 3 * 3600.0), 2 * 3600.0)
        self.assertEqual(missing_s(spans((Period(Days.ALL, 0.0, 3 * 3600.0),)), found), 7 * 3600.0)

    def test_no_length_never_always(self) -> None:
        self.assertEqual(spans((Period(Days.ALL, 3600.0, 3600.0),)), ())
        self.assertEqual((rests(()), rests(((0.0, WEEK_S),))), (((0.0, WEEK_S),), ()))
        self.assertEqual(spans((Period(Days.ALL, 0.0, 12 * 3600.0), Period(Days.ALL, 12 * 3600.0, 0.0))), ((0.0, WEEK_S),))

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.tuples(st.sampled_from(list(Days)), st.integers(0, 95), st.integers(0, 95)), min_size=1, max_size=5))
    def test_against_every_quarter_of_an_hour(self, rows: list[tuple[Days, int, int]]) -> None:
        """Counted quarter by quarter: what runs, and the most rest in any 24 hours."""
        periods = [Period(days, begin * 900.0, end * 900.0) for days, begin, end in rows]
        marks = [False] * 672
        for days, begin, end in rows:
            for day in days.numbers:
                for quarter in range((end - begin) % 96):
                    marks[(day * 96 + begin + quarter) % 672] = True
        found = spans(periods)
        self.assertEqual([runs_at(found, quarter * 900.0 + 450.0) for quarter in range(672)], marks)
        self.assertAlmostEqual(lasts_s(found), 900.0 * sum(marks))
        still = [not each for each in marks] * 2
        self.assertAlmostEqual(most_rest_in_a_day_s(found), 900.0 * max(sum(still[at : at + 96]) for at in range(672)))


class PumpTest(unittest.TestCase):
    def test_laws_by_hand(self) -> None:
        """At 0.3 l/s full speed adds 4 - 6e6 · 9e-8 = 3.46 m, half speed 1 - 0.54 = 0.46 m and takes an eighth of what it takes at twice the flow."""
        curve = pump_curve(survey().pump)
        self.assertAlmostEqual(curve.gives_pa(3e-4), 3.46 * WEIGHT, delta=1.0)
        self.assertAlmostEqual(curve.gives_pa(3e-4, 0.5), 0.46 * WEIGHT, delta=1.0)
        self.assertAlmostEqual(curve.power_w(3e-4, 0.5), (10.0 + 4e4 * 6e-4) / 8.0, delta=1e-6)
        self.assertAlmostEqual(curve.speed_for(3e-4, 0.46 * WEIGHT), 0.5, places=5)
        self.assertAlmostEqual(curve.flow_m3s(3.46 * WEIGHT), 3e-4, delta=1e-8)
        self.assertEqual(survey(pump={"speeds": 3, "shut_off_1_m": 1.44, "speed_2": 0.8}).pump.shares, (0.6, 0.8, 1.0))  # sqrt(1.44 / 4)
        held = Law(Mode.PRESSURE, 20e3)
        self.assertEqual(held.adds_pa(curve, 2e-4), 20e3)
        last = math.sqrt((A_M - 20e3 / WEIGHT) / C)  # beyond it full speed gives less
        self.assertAlmostEqual(Law(Mode.PROPORTIONAL, 20e3).adds_pa(curve, 0.5 * last), 15e3, delta=5.0)
        self.assertLess(held.adds_pa(curve, 1.2 * last), 20e3)


    def test_a_curve_of_its_own_for_each_speed(self) -> None:
        """Speed 1 gives 2 - 4e6 q^2 and takes 6 + 2e4 q: at 0.3 l/s 1.64 m and 12 W, where affinity at sqrt(2/4) of full speed says 2 - 0.54 = 1.46 m."""
        own = [{"flow_m3s": q, "head_m": 2.0 - 4e6 * q * q, "power_w": 6.0 + 2e4 * q} for q in (0.0, 2e-4, 4e-4, 6e-4)]
        pump = survey(pump={"speeds": 2, "own_curves": True, "curve_1": own}).pump
        curve = pump_curve(pump)
        law = Law(Mode.SPEED, 0.0, step=1)
        self.assertAlmostEqual(law.adds_pa(curve, 3e-4), 1.64 * WEIGHT, delta=1.0)
        self.assertAlmostEqual(curve.gives_pa(3e-4, math.sqrt(0.5)), 1.46 * WEIGHT, delta=1.0)
        self.assertAlmostEqual(law.power_w(curve, 3e-4, 0.7), 12.0, places=6)
        self.assertAlmostEqual(pump.shares[0], math.sqrt(0.5), places=9)
        self.assertAlmostEqual(pump_curve(pump.with_heads(1.1)).at_step_pa(1, 3e-4), 1.1 * 1.64 * WEIGHT, delta=1.0)
        without = [{**point, "power_w": None} for point in own]  # by affinity then: 0.7^3 (10 + 4e4 · 3e-4/0.7)
        self.assertAlmostEqual(law.power_w(pump_curve(survey(pump={"speeds": 2, "own_curves": True, "curve_1": without}).pump), 3e-4, 0.7), 0.343 * (10.0 + 12.0 / 0.7), places=6)

    def test_own_curves_that_follow_affinity_say_the_same(self) -> None:
        """Curves reckoned by affinity for 70 and 85 % give the plan, the flows and the watts that the shares give; weaker ones ask for a step more."""
        shares = {"speeds": 3, "speed_1": 0.7, "speed_2": 0.85}

        def own(share: float, of: float = 1.0) -> list[dict[str, float]]:
            return [{"flow_m3s": share * q, "head_m": of * share**2 * (A_M - C * q * q), "power_w": share**3 * (10.0 + 4e4 * q)} for q in (0.0, 2e-4, 4e-4, 6e-4, 8e-4)]

        by_share = survey(pump=shares)
        by_curve = survey(pump={"speeds": 3, "own_curves": True, "curve_1": own(0.7), "curve_2": own(0.85)})
        decided = choices(mode=Mode.SPEED)
        plans = [plan_of(each, decided) for each in (by_share, by_curve)]
        self.assertEqual(*({setting.id: setting.value for setting in plan.settings} for plan in plans))
        runs = [at_rest(each, decided, plan).running for each, plan in zip((by_share, by_curve), plans)]
        self.assertAlmostEqual(runs[0].flow_m3s, runs[1].flow_m3s, delta=1e-9)
        self.assertAlmostEqual(runs[0].power_w, runs[1].power_w, delta=0.05)
        step = round(plans[0].value("speed", 0.0))
        self.assertLess(step, 3)
        weaker = own((0.7, 0.85)[step - 1], 0.1)
        plan = plan_of(survey(pump={"speeds": 3, "own_curves": True, "curve_1": weaker if step == 1 else own(0.7), "curve_2": own(0.85) if step == 1 else weaker}), decided)
        self.assertGreater(plan.value("speed", 0.0), step)
        self.assertEqual([*false_trails(plan), *false_verdicts(plan)], [])

    def test_curves_of_speeds_that_cannot_be(self) -> None:
        typed: dict[str, object] = {"pump.speeds": 3, "pump.own_curves": True}
        for row, q in enumerate((0.0, 4e-4, 8e-4)):
            typed |= {f"pump.curve.{row}.flow_m3s": q, f"pump.curve.{row}.head_m": A_M - C * q * q}
            typed |= {f"pump.curve_2.{row}.flow_m3s": q, f"pump.curve_2.{row}.head_m": 1.2 * (A_M - C * q * q)}
        self.assertEqual({finding.code for finding in plausibility(typed) if finding.severity is Severity.STOP} & {"curve_2_over", "curve_1_missing", "curve_1_over"}, {"curve_2_over", "curve_1_missing"})
        typed |= {"pump.curve_1.0.flow_m3s": 1e-4, "pump.curve_2.0.head_m": 3.0, "pump.curve_2.1.head_m": 2.0, "pump.curve_2.2.head_m": None, "pump.curve_2.2.flow_m3s": None}
        self.assertLessEqual({"curve_1_half", "curve_2_short"}, {finding.code for finding in plausibility(typed)})


class ReckonTest(unittest.TestCase):
    def test_needed_flows_by_hand(self) -> None:
        """Both branches end at one temperature T' that the common way back, 1 W/K, cools to 53: and q = U L / (mc ln((T - 20)/(T' - 20)))."""
        eq = equations(survey())
        need = eq.needed(53.0)
        total = need.total_m3s
        starts, ends = 20.0 + 40.0 * math.exp(-1.0 / (MC * total)), 20.0 + 33.0 * math.exp(1.0 / (MC * total))
        for flow, length in zip(need.flows_m3s, (20.0, 40.0)):
            self.assertAlmostEqual(flow, LOSES * 2.0 * length / (MC * math.log((starts - 20.0) / (ends - 20.0))), delta=1e-4 * flow)
        self.assertAlmostEqual(eq.warmth(need.flows_m3s).back_c, 53.0, delta=1e-3)

    def test_balancing_by_hand(self) -> None:
        """The long branch is the index: its valve stands open. The short one makes up the difference, on a straight line from shut to open."""
        facts = survey()
        plan, eq = plan_of(facts), equations(facts)
        flows = eq.needed(53.0).flows_m3s
        header = branch_pa(facts, 1, flows[1], 1.0 / 3600.0)
        rest = header - branch_pa(facts, 0, flows[0], 1e9)
        turns = 4.0 * 3600.0 * flows[0] * math.sqrt(1e5 / rest)
        self.assertEqual(plan.value("valve_2", 0.0), 4.0)
        self.assertAlmostEqual(plan.setting("valve_1").window.low, turns, delta=0.01 * turns)
        self.assertEqual(false_trails(plan), [])
        self.assertEqual(false_verdicts(plan), [])

    def test_every_mode_carries_at_its_lower_bound_and_no_less(self) -> None:
        """Set to the lower end of its window the coldest point is where it was asked; a little less, and it is under it."""
        for mode in (Mode.PRESSURE, Mode.PROPORTIONAL, Mode.FLOW, Mode.RETURN):
            facts = survey(pump={"least_speed": 0.1})
            balanced = {"valve_1": plan_of(facts).setting("valve_1").window.low}
            setting = next(each for each in plan_of(facts, choices(mode=mode.value, chosen=balanced)).settings if each.group == "pump")
            ends = []
            for share in (1.0, 0.93):
                decided = choices(mode=mode.value, chosen={**balanced, setting.id: setting.window.low * share - (1.0 if mode is Mode.RETURN and share == 1.0 else 0.0)})
                ends.append(at_rest(facts, decided, plan_of(facts, decided)).coldest_c)
            with self.subTest(mode):
                self.assertAlmostEqual(ends[0], 53.0, delta=0.05)
                self.assertLess(ends[1], 52.95)

    def test_changing_one_pipe_reverses_the_order_of_modes(self) -> None:
        """With easy pipes the proportional line costs less than a fixed step; where valves shut it makes less noise. A narrow pipe turns the ring steep, and full speed is needed."""
        wide = {one.mode: one for one in compare(survey(), choices(), plan_of(survey()))}
        narrow_facts = survey(branch_2={"back_bore_m": 0.0065, "there_bore_m": 0.012})
        narrow = {one.mode: one for one in compare(narrow_facts, choices(), plan_of(narrow_facts))}
        self.assertEqual(wide[Mode.SPEED].setting.value if wide[Mode.SPEED].setting else 0, 1.0)
        self.assertGreater(narrow[Mode.SPEED].setting.value if narrow[Mode.SPEED].setting else 0, 1.0)
        rank = [sorted((Mode.PRESSURE, Mode.PROPORTIONAL, Mode.SPEED, Mode.FLOW, Mode.RETURN), key=lambda mode: found[mode].pump_j) for found in (wide, narrow)]
        self.assertNotEqual(rank[0], rank[1])

    def test_lead_rests_and_a_year_by_hand(self) -> None:
        """Hot at the far tap once both ways out are filled and warmed; a year is 365/7 weeks of hours and of rests."""
        facts, decided = survey(), choices()
        plan, eq = plan_of(facts), equations(facts)
        runs = at_rest(facts, decided, plan).running
        hot = max(eq.there.fills_m3 / runs.flow_m3s + pipe.there.fills_m3 / flow for pipe, flow in zip(eq.pipes, runs.branches_m3s))
        self.assertAlmostEqual(plan.setting("lead").window.low, 1.25 * hot, delta=1.0)
        wall = math.pi * 0.0012 * 0.0212 * 3.45e6
        self.assertAlmostEqual(eq.pipes[0].there.fills_m3, 20.0 * (math.pi * 1e-4 + wall / MC), delta=1e-5)
        lead = plan.value("lead", 0.0)
        figures = {figure.id: figure for figure in plan.figures}
        self.assertAlmostEqual(figures["hours"].value, 7.0 * (16.0 * 3600.0 + lead))
        self.assertAlmostEqual(figures["rest"].value, 8.0 * 3600.0 - lead)
        rest, tau = 8.0 * 3600.0 - lead, (math.pi * 1e-4 * MC + wall * 1.0) / LOSES  # of the 20 mm way out, by the metre
        far_c = at_rest(facts, decided, plan).warmth.taps_c[1]
        self.assertAlmostEqual(figures["cools_out_2"].value, 20.0 + (far_c - 20.0) * math.exp(-rest / tau), delta=0.02)
        self.assertNotIn("cools_out_2", {figure.id for figure in plan_of(facts, choices(hours="always")).figures})
        self.assertAlmostEqual(figures["pump_year"].value, runs.power_w * figures["hours"].value * 365.0 / 7.0, delta=10.0)

    def test_hours_against_a_mode_without_a_timer(self) -> None:
        """Wanted from six to ten in the evening a learning pump runs from five to eleven; one that holds its return runs always."""
        for pump, said in (({"by_return": False}, "learning"), ({"learns": False}, "return")):
            facts, decided = survey(pump=pump), choices()
            plan = plan_of(facts, decided)
            figures = {figure.id: figure for figure in plan.figures}
            other, now = (term.value for term in figures["saved_free"].trail.terms)
            self.assertIn(said, figures["saved_free"].trail.terms[0].meaning)
            self.assertAlmostEqual(now, figures["heat_year"].value + figures["pump_year"].value, delta=1.0)
            self.assertAlmostEqual(figures["saved_free"].value, other - now, delta=1.0)
            if said == "learning":  # the row of the modes' page says the same of the same valves
                row = next(one for one in compare(facts, decided, plan) if one.mode is Mode.LEARNING)
                self.assertEqual(row.hours_s, 18 * 7 * 3600.0)
                self.assertAlmostEqual(other, row.heat_j + row.pump_j, delta=1e-6 * other)
            else:  # at the flow whose return is the rule's 52 and its margin, without a rest
                held = steady(equations(facts), Mode.RETURN, {**plan_values(plan), "set_return": 53.0})
                self.assertGreaterEqual(held.warmth.back_c, 53.0 - 1e-3)  # its least speed gives a little more
                loses = MC * held.running.flow_m3s * (60.0 - held.warmth.back_c)
                self.assertAlmostEqual(other / YEAR_S, loses + held.running.power_w, delta=0.02 * loses)
        self.assertNotIn("saved_free", {figure.id for figure in plan_of(survey(pump={"learns": False, "by_return": False})).figures})

    def test_a_crossover_valve_between_hot_tap_and_cold_pipe(self) -> None:
        """0.5 l/min past a cold tap of 6 l/min: the pipe must give (25 · 6 - 55 · 0.5)/5.5 = 22.3; warm for mc q/(U) ln(35/2.3) metres."""
        facts = survey(ring={"kind": "crossover", "branches": 2})
        eq = equations(facts)
        flow, taken = 0.5 / 60e3, 1e-4
        mixed = (25.0 * taken - 55.0 * flow) / (taken - flow)
        length = min(20.0, MC * flow / LOSES * math.log(35.0 / (mixed - 20.0)))
        self.assertAlmostEqual(warm_s(eq, 0, flow, 55.0, 25.0), eq.pipes[0].back.fills_m3 * length / 20.0 / (taken - flow), delta=0.01)
        most = most_m3s(eq, 0, 60.0, 25.0, 20.0)
        tap_c = eq.pipes[0].there.leaves_c(60.0, most)
        self.assertLessEqual(warm_s(eq, 0, most, tap_c, 25.0), 20.0 + 1e-6)
        self.assertEqual(warm_s(eq, 0, 2e-4, 55.0, 25.0), math.inf)  # more than the tap takes

    def test_independent_flows_and_heat_of_random_rings(self) -> None:
        """Branches solved by another friction and by bisection, heat marched cell by cell: flows within 1 %, returns within 0.2 K."""
        seen = 0
        for facts, decided, plan in rings(random.Random(6), 22):
            if decided.schools.mode is not Mode.PRESSURE or facts.crosses or any(branch.valve.value == "thermostatic" for branch in facts.branches):
                continue
            runs, eq, seen = at_rest(facts, decided, plan), equations(facts), seen + 1
            flows = flows_at(facts, list(eq.kvs(plan_values(plan))), runs.running.adds_pa)
            divides = marched_c(eq.flow_c, eq.there.around_c, eq.there.lost_wmk, eq.there.length_m, sum(flows))
            for number, (flow, pipe, branch) in enumerate(zip(flows, eq.pipes, facts.branches)):
                self.assertAlmostEqual(flow, runs.running.branches_m3s[number], delta=0.01 * flow)
                tap_c = marched_c(divides, branch.around_c, pipe.there.lost_wmk, branch.there_m, flow)
                self.assertAlmostEqual(marched_c(eq.emits_c(number, tap_c, flow), branch.around_c, pipe.back.lost_wmk, branch.back_m, flow), runs.warmth.ends_c[number], delta=0.2)
        self.assertGreaterEqual(seen, 3)

    def test_an_empty_window_says_what_opens_it(self) -> None:
        plan = reckon(survey(heat={"set_c": 52.5}), choices())
        window = plan.setting("set_pressure").window
        self.assertTrue(window.is_empty)
        said = " ".join(opener.what for opener in window.openers)
        self.assertIn("heat at", said)
        self.assertIn("coldest point", said)


class FindingsTest(unittest.TestCase):
    def told(self, decided: object = None, **changes: dict[str, object]) -> dict[str, Severity]:
        facts = survey(**changes)
        return {finding.code: finding.severity for finding in plan_of(facts, decided or choices()).findings}  # type: ignore[arg-type]

    def test_what_hurts_is_found(self) -> None:
        stop, caution, note = Severity.STOP, Severity.CAUTION, Severity.NOTE
        self.assertEqual(self.told(), {"stands_still": note})
        for changes, decided, code, severity in (
            ({"heat": {"mixing": True, "mixed_c": 57.0, "to_cold": False}}, choices(), "creeps", stop), ({"heat": {"set_c": 65.0}}, choices(), "scalds", caution),
            ({"heat": {"watts": 300.0}}, choices(), "weak", stop), ({"heat": {"kind": "instantaneous", "least_m3s": 2e-4}}, choices(chosen={"set_pressure": 4e3}), "unlit", stop),
            ({"heat": {"kind": "low_temperature", "highest_return_c": 40.0}}, choices(), "warm_return", caution), ({"pump": {"check_valve": False}}, choices(), "no_check_valve", stop), ({"heat": {"kind": "low_temperature", "hours_day_s": 36e3}}, choices(), "source_hours", caution),
            ({"pump": {"shaft_level": False}}, choices(), "shaft", stop), ({"pump": {"ring_pa": 5e3}}, choices(), "low_inlet", stop), ({}, choices(hours="own", own={"count": 1, "from_1_h": 6.0, "to_1_h": 6.0}), "no_length_1", stop),
            ({}, choices(hours="own", own={"count": 1, "from_1_h": 6.0, "to_1_h": 9.0}), "stagnant", stop), ({}, choices(hours="own", own={"count": 1, "from_1_h": 22.0, "to_1_h": 6.0}), "not_covered", caution),
            ({"control": {"outside": "building", "building_timer": True}}, choices(), "two_clocks", stop), ({"control": {"outside": "button"}}, choices(), "button_in_hours", caution),
            ({"ring": {"kind": "crossover", "branches": 2}}, choices(), "crosses", caution), ({"ring": {"kind": "crossover", "branches": 2}, "branch_1": {"valve": "thermostatic"}}, choices(), "closes_1", note),
            ({"branch_1": {"valve": "thermostatic", "closes_c": 45.0}}, choices(), "closes_1", stop), ({}, choices(mode="learning"), "learning", caution), ({"pump": {"drive": False}}, choices(), "mode_unknown", stop),
            ({"ring": {"kind": "heating", "branches": 2}, "heat": {"boiler_least_m3s": 5e-5}}, choices(), "no_bypass", stop), ({"use": {"from_1_h": 0.05}}, choices(), "lead_cut", caution),
            ({"branch_1": {"emitter": "underfloor"}, "ring": {"kind": "heating", "branches": 2}}, choices(mode="fixed_speed"), "emitters_differ", caution), ({}, choices(rules={"source": ""}), "no_rule", caution),
        ):  # fmt: skip
            with self.subTest(code):
                self.assertEqual(self.told(decided, **changes).get(code), severity)

    def test_a_valve_nearly_shut_leaves_its_branch_cold(self) -> None:
        told = plan_of(survey(), choices(chosen={"valve_1": 0.1}))
        self.assertIn("valve_1", {finding.subject for finding in told.findings if finding.severity is Severity.STOP})
        self.assertFalse({figure.id: figure for figure in told.figures}["coldest"].keeps)

    def test_bad_facts(self) -> None:
        values = {
            "heat.set_c": 50.0, "heat.mixing": True, "heat.mixed_c": 55.0, "heat.cold_c": 51.0, "use.hot_c": 52.0, "branch_1.there_bore_m": 0.01, "branch_1.back_bore_m": 0.02, "branch_2.around_c": 55.0,
            "valves.points.0.turns": 1.0, "valves.points.0.kv_m3s": 2e-4, "valves.points.1.turns": 2.0, "valves.points.1.kv_m3s": 1e-4, "as_found.flow_c": 50.0, "as_found.return_c": 55.0, "branch_1.found_c": 20.0,
            "pump.curve.0.flow_m3s": 0.0,
        }  # fmt: skip
        codes = {finding.code for finding in plausibility(values)}
        self.assertLessEqual({"mixed_hotter", "cold_hotter", "never_hot", "wide_back_1", "warm_air_2", "valve_falls", "found_hotter", "found_cool_1", "curve_half"}, codes)
        for points, code in ((((0.0, 4.0), (1e-4, 4.5), (2e-4, 3.0)), "curve_rising"), (((0.0, 4.0), (1e-4, 3.0)), "curve_short"), (((0.0, 0.2), (1e-4, 0.15), (2e-4, 0.1)), "curve_low")):
            rows = {f"pump.curve.{row}.{name}": value for row, point in enumerate(points) for name, value in zip(("flow_m3s", "head_m"), point)}
            self.assertIn(code, {finding.code for finding in plausibility(rows)})
