"""Windows of a transfer set by hand: running pressures, stop, restart, delay, longest run, levels, overshoot."""

import math
import unittest

from goodbalance.core.balance.plan import Plan, Severity
from goodbalance.core.balance.window import Bound
from goodbalance.core.physics.vessels import tank_for_drawdown_m3
from goodbalance.core.stations.transfer.plant.closing import closing, shock_pa
from goodbalance.core.stations.transfer.plant.hydraulics import hydraulics
from goodbalance.core.stations.transfer.survey.plausibility import plausibility
from goodbalance.core.stations.transfer.windows.consequences import leak_starts, refilled
from goodbalance.core.stations.transfer.windows.reckon import reckon
from goodbalance.core.stations.transfer.windows.times import fill_time_s
from tests.trails import false_trails, false_verdicts
from tests.transfers import A_M, METRE_PA, VALVE, C, choices, plan_of, survey, tank

APART_PA = 3e3 + 5e3 + 1e4  # three times the noise, half a per cent of the range, the margin
TWO = {"tanks": {"count": 2, "drinking": False, "lost_m3": 20.0}, "tank_2": tank(floor_m=26.0)}


def bounds(plan: Plan, setting: str, side: str) -> dict[str, Bound]:
    return {bound.cause: bound for bound in getattr(plan.setting(setting).window, side)}


def rate(lift_m: float, opening: float = 1.0, valves: float = 1.0) -> float:
    """What a pump brings through so many valves side by side: a - c q^2 = lift + v (q/n)^2 / x^2."""
    return math.sqrt((A_M - lift_m) / (C + VALVE / (valves * opening) ** 2))


class StopTest(unittest.TestCase):
    def test_above_the_highest_running_and_under_the_lowest_shut_off(self) -> None:
        """Source at 4 m: 41 m are left over the inlet at 23 m; q = sqrt(41 / 6.549e6) = 2.502 l/s, the valve takes 15.96 m of it."""
        plan = plan_of(survey())
        most = rate(23.0 - 4.0)
        self.assertAlmostEqual(most, 2.502e-3, delta=1e-6)
        running_pa = (23.0 + VALVE * most**2) * METRE_PA
        self.assertAlmostEqual(running_pa, 382.1e3, delta=100.0)
        self.assertAlmostEqual(bounds(plan, "stop_pressure", "lower")["running pressure"].value, running_pa + APART_PA, delta=30.0)
        shut_pa = (2.0 + 0.97 * 60.0) * METRE_PA  # the lowest source, three per cent of the head worn away
        self.assertAlmostEqual(bounds(plan, "stop_pressure", "upper")["shut-off pressure at the lowest source"].value, shut_pa - APART_PA, delta=1e-3)
        self.assertAlmostEqual(bounds(plan, "stop_pressure", "upper")["range of the sensor"].value, 10e5 - 8e3, delta=1e-3)
        self.assertNotIn("rating: line at its lowest point", bounds(plan, "stop_pressure", "upper"))  # shut-off and shock stay under it

    def test_one_tank_alone_and_both_open(self) -> None:
        """The higher tank alone gives the highest running pressure; both open the lowest, whose valves share the flow."""
        hyd = hydraulics(survey(**TWO))
        self.assertEqual((hyd.highest_running[1], hyd.lowest_running[1]), ((1,), (0, 1)))
        flows = hyd.running((0, 1), (0,), False)
        head_m = flows.pressure_pa / METRE_PA
        each = [math.sqrt(max(0.0, head_m - lift) / VALVE) for lift in (23.0, 29.0)]  # by the head that came out
        self.assertAlmostEqual(sum(each), flows.total_m3s, delta=1e-6)
        self.assertAlmostEqual(A_M + 2.0 - C * flows.total_m3s**2, head_m, delta=1e-3)

    def test_the_stop_is_no_protection(self) -> None:
        """Shut-off at the highest source is 64 m = 627.6 kPa: over parts rated for 6 bar, whatever the stop says."""
        plan = plan_of(survey(line={"rating_pa": 6e5}))
        (finding,) = [found for found in plan.findings if found.code == "rating_shut_off"]
        self.assertIs(finding.severity, Severity.STOP)
        self.assertAlmostEqual(finding.terms[0].value, 64.0 * METRE_PA, delta=1e-6)
        self.assertIn("rating: line at its lowest point", bounds(plan, "stop_pressure", "upper"))
        lower = plan_of(survey(line={"rating_pa": 7e5, "lowest_m": -12.0}))  # 118 kPa of column add at the lowest point
        self.assertIn("rating_shut_off", {found.code for found in lower.findings})

    def test_past_the_stop_by_hand(self) -> None:
        """Ten seconds to close, three to react: x falls by 0.3 from where p is the stop; then 64 - 4e6 q^2 = 23 + v q^2/x^2."""
        facts, stop_pa = survey(), 480e3
        head_m = stop_pa / METRE_PA
        at_stop = math.sqrt((64.0 - head_m) / C)
        opened = math.sqrt(VALVE) * at_stop / math.sqrt(head_m - 23.0)
        left = opened - 3.0 / 10.0
        after = math.sqrt(41.0 / (C + VALVE / left**2))
        past_pa = (64.0 - C * after**2) * METRE_PA - stop_pa
        self.assertAlmostEqual(hydraulics(facts).opened_for(0, stop_pa, (0,), True), opened, places=5)
        self.assertAlmostEqual(closing(hydraulics(facts), 0, stop_pa, (0,)).past_pa, past_pa, delta=1e-3 * past_pa)

    def test_a_shock_and_the_vessel_that_takes_it(self) -> None:
        """A valve that snaps shut in a tenth of a pipe period gives rho a v whole; the vessel holds what comes while the set reacts."""
        quick = survey(line={"diameter_m": 0.05, "rating_pa": 7e5, "wave_ms": 1000.0, "length_m": 400.0}, tank_1=tank(closing_s=0.05))
        hyd = hydraulics(quick)
        velocity = hyd.alone_m3s(0, high=True) / (math.pi * 0.05**2 / 4.0)
        self.assertAlmostEqual(shock_pa(hyd, 0), 1000.0 * 1000.0 * velocity, delta=1.0)
        slow = hydraulics(survey(line={"diameter_m": 0.05, "wave_ms": 1000.0, "length_m": 400.0}, tank_1=tank(closing_s=8.0)))
        self.assertAlmostEqual(shock_pa(slow, 0), 2.0 * 1000.0 * 400.1 * velocity / 8.0, delta=1.0)  # Michaud: 2 rho L v / t
        plan = plan_of(quick, choices(chosen={"stop_pressure": 5.4e5}))
        (finding,) = [found for found in plan.findings if found.code == "peak_over_rating"]
        vessel_m3 = tank_for_drawdown_m3(hyd.most_rate_m3s * 3.0, 0.9 * 23.0 * METRE_PA, 5.4e5, 7e5, hyd.air_pa)
        self.assertAlmostEqual(finding.terms[-1].value, vessel_m3, delta=1e-6)


class RestartTest(unittest.TestCase):
    def test_above_the_column_of_the_highest_inlet(self) -> None:
        plan = plan_of(survey(**TWO))
        self.assertAlmostEqual(bounds(plan, "restart_pressure", "lower")["standing column"].value, 29.0 * METRE_PA + 8e3, delta=1e-6)
        low = plan.setting("restart_pressure")
        self.assertLess((low.value - low.window.low) / low.window.width, 0.25)  # recommended low in its window
        # over the running pressure of the lower tank: only the delay keeps it from starting at once
        self.assertIn("restart_over_running", {found.code for found in plan.findings} if low.value > hydraulics(survey(**TWO)).lowest_running[0] else {"restart_over_running"})

    def test_a_bottom_entry_presses_with_its_full_tank(self) -> None:
        plan = plan_of(survey(tank_1=tank(entry="bottom", entry_m=0.1)))
        self.assertAlmostEqual(plan.setting("restart_pressure").window.low, 22.0 * METRE_PA + 8e3, delta=1e-6)

    def test_the_closed_line_sags_by_its_leak(self) -> None:
        """q = k sqrt(p): sqrt(p) falls evenly, t = 2 C sqrt(p0)/q0 (sqrt(p1) - sqrt(p2)); C = V/(rho a^2)."""
        facts = survey(line={"leak_m3s": 2e-7, "leak_at_pa": 4e5, "diameter_m": 0.1})
        hyd = hydraulics(facts)
        stores = hyd.volume_m3 / (1000.0 * 1000.0**2)
        time_s = 2.0 * stores * math.sqrt(4e5) / 2e-7 * (math.sqrt(5e5) - math.sqrt(3e5))
        self.assertAlmostEqual(hyd.sags_s(5e5, 3e5), time_s, delta=1e-6 * time_s)
        self.assertAlmostEqual(hyd.sags_to_pa(5e5, time_s), 3e5, delta=2.0)
        plan = plan_of(facts)
        rests_s = 0.4 * 10.0 / 2e-4  # until the valve opens again at the mean draw
        upper = bounds(plan, "restart_pressure", "upper")["stop pressure less the sag of the closed line"]
        stop_pa = plan.value("stop_pressure", 0.0)
        self.assertAlmostEqual(upper.value, hyd.sags_to_pa(stop_pa, rests_s) - 8e3, delta=1.0)
        # starts for the leak alone: filled to shut-off at the lowest source while it reacts, down to the restart, and the delay
        fills_s = refilled(hyd, plan.value("restart_pressure", 0.0), stop_pa)[1]
        self.assertTrue(3.0 < fills_s < 6.0, fills_s)  # three seconds to react, and what a stiff line takes
        sag_s = 2.0 * stores * math.sqrt(4e5) / 2e-7 * (math.sqrt(62.0 * METRE_PA) - math.sqrt(plan.value("restart_pressure", 0.0)))
        self.assertAlmostEqual(leak_starts(hyd, choices(), plan), 3600.0 / (sag_s + plan.value("restart_delay", 0.0) + fills_s), delta=1e-3)

    def test_as_found_under_the_column_of_one_tank(self) -> None:
        plan = plan_of(survey(**TWO, as_found={"restart_pressure": 25.0 * METRE_PA}))
        self.assertEqual([found.code for found in plan.findings if found.code.startswith("found_under")], ["found_under_column_2"])


class TimesTest(unittest.TestCase):
    def test_the_delay_between_starts_and_users(self) -> None:
        """12 starts an hour: 300 s less what 4 m3 take at 2.502 l/s is nothing; users: (1.6 - 0.2) 10 m3 over 0.6 l/s."""
        plan = plan_of(survey())
        self.assertEqual(bounds(plan, "restart_delay", "lower")["permitted starts"].value, 0.0)
        self.assertAlmostEqual(plan.setting("restart_delay").window.high, 14.0 / 6e-4, delta=1e-6)
        few = plan_of(survey(tank_1=tank(opens_drop_m=0.02, reserve_m3=3.0)))
        self.assertAlmostEqual(bounds(few, "restart_delay", "lower")["permitted starts"].value, 300.0 - 0.2 / rate(19.0), delta=0.01)
        self.assertAlmostEqual(few.setting("restart_delay").window.high, ((1.98 - 0.2) * 10.0 - 3.0) / 6e-4, delta=1e-6)

    def test_a_valve_that_dribbles_wants_its_time(self) -> None:
        """It opens again after a fall of 5 cm; and so much must be drawn that a start is worth it: (d a + q s)/draw."""
        facts = survey(tank_1=tank(throttles_m=0.2, opens_drop_m=0.05))
        plan = plan_of(facts)
        at_stop = math.sqrt((64.0 - plan.value("stop_pressure", 0.0) / METRE_PA) / C)
        self.assertAlmostEqual(bounds(plan, "restart_delay", "lower")["the valve opens"].value, (0.05 * 10.0 + at_stop * 30.0) / 2e-4, delta=0.5)

    def test_the_longest_fill_net_of_draw(self) -> None:
        self.assertAlmostEqual(fill_time_s(4.0, 2e-3, 2e-4, 6e-4, 7200.0), 4.0 / 1.4e-3)  # over within the peak
        self.assertAlmostEqual(fill_time_s(20.0, 2e-3, 2e-4, 6e-4, 7200.0), (20.0 + 4e-4 * 7200.0) / 1.8e-3)
        after_s = fill_time_s(20.0, 2e-3, 2e-4, 3e-3, 7200.0)  # the peak is more than the pump brings
        self.assertAlmostEqual(20.0 + 3e-3 * 7200.0 + 2e-4 * (after_s - 7200.0), 2e-3 * after_s)
        self.assertEqual(fill_time_s(1.0, 2e-3, 2e-3, 3e-3, 60.0), math.inf)

    def test_the_longest_run_and_a_draw_that_leaves_none(self) -> None:
        plan = plan_of(survey())
        delay_s, least, most = plan.value("restart_delay", 0.0), rate(21.0), rate(19.0)
        self.assertAlmostEqual(plan.setting("longest_run").window.low, 1.2 * (4.0 + 6e-4 * delay_s) / (least - 6e-4), delta=0.5)
        self.assertAlmostEqual(plan.setting("longest_run").window.high, (0.8 * 10.0 + 20.0) / most, delta=0.5)
        much = plan_of(survey(tank_1=tank(mean_m3s=2.5e-3, peak_m3s=2.6e-3)))
        self.assertTrue(much.setting("longest_run").window.is_empty)
        self.assertIn("mean_over_rate", {found.code for found in much.findings})

    def test_what_opens_an_empty_window_is_computed(self) -> None:
        plan = reckon(survey(tanks={"lost_m3": 0.1, "drinking": False}, tank_1=tank(overflow_m=2.05)), choices())
        window = plan.setting("longest_run").window
        self.assertTrue(window.is_empty)
        lost = next(opener for opener in window.openers if "may be lost" in opener.what)
        opened = plan_of(survey(tanks={"lost_m3": lost.needed * 1.001, "drinking": False}, tank_1=tank(overflow_m=2.05)))
        closed = plan_of(survey(tanks={"lost_m3": lost.needed * 0.97, "drinking": False}, tank_1=tank(overflow_m=2.05)))
        self.assertEqual((opened.setting("longest_run").window.is_empty, closed.setting("longest_run").window.is_empty), (False, True))


class LevelsTest(unittest.TestCase):
    LEVELS = {"control": {"full_by": "levels", "tank_wire": "sensor"}}

    def test_the_ladder_by_hand(self) -> None:
        """Reserve 2 m3 and four hours of the mean draw over what users reach: 0.2 + (2 + 2.88)/10 = 0.688 m; band q T/4/a."""
        plan = plan_of(survey(**self.LEVELS, tanks={"drinking": False, "outage_s": 14400.0}, tank_1=tank(reserve_m3=2.0, area_m2=10.0)))
        self.assertAlmostEqual(bounds(plan, "start_1", "lower")["reserve for an outage"].value, 0.2 + (2.0 + 2e-4 * 14400.0) / 10.0)
        start = plan.value("start_1", 0.0)
        self.assertAlmostEqual(bounds(plan, "stop_1", "lower")["least step"].value, start + 0.1)  # q T/4 is 0.19 m3 here: less than a step
        narrow = plan_of(survey(**self.LEVELS, tank_1=tank(area_m2=1.0, mean_m3s=1e-5)))
        self.assertAlmostEqual(bounds(narrow, "stop_1", "lower")["permitted starts"].value, narrow.value("start_1", 0.0) + rate(19.0) * 75.0, delta=1e-5)
        self.assertAlmostEqual(bounds(plan, "stop_1", "upper")["float valve closes"].value, 2.0 - rate(19.0) * 3.0 / 10.0, delta=1e-6)
        order = [plan.value(one, 0.0) for one in ("low_alarm_1", "start_1", "stop_1", "high_alarm_1")]
        self.assertEqual(order, sorted(order))
        self.assertNotIn("stop_pressure", plan)

    def test_drinking_water_must_not_grow_old(self) -> None:
        """36 h of the mean draw are 25.9 m3: in 30 m2 that is 0.864 m, under any other bound of the stop."""
        plan = plan_of(survey(**self.LEVELS, tanks={"drinking": True}, tank_1=tank(area_m2=30.0)))
        self.assertAlmostEqual(bounds(plan, "stop_1", "upper")["turnover"].value, 36 * 3600.0 * 2e-4 / 30.0)
        self.assertEqual(plan.setting("stop_1").window.governing_upper.cause, "turnover")

    def test_the_source_stops_and_gives_back(self) -> None:
        plan = plan_of(survey(source={"area_m2": 0.5}))
        stop = plan.setting("source_stop_1")
        self.assertAlmostEqual((stop.window.low, stop.window.high), (1.1, 1.9))
        worth = rate(19.0) * 30.0 / 0.5  # a narrow source: the shortest run takes 15 cm
        self.assertAlmostEqual(bounds(plan, "source_back_1", "lower")["shortest run"].value, stop.value + worth, delta=1e-5)
        self.assertAlmostEqual(bounds(plan, "source_back_1", "lower")["stop and a band"].value, stop.value + 0.3)

    def test_a_wire_that_fills_is_a_stop(self) -> None:
        for wire, code, severity in (("closes", "wire_fills", Severity.STOP), ("opens", "wire_silent", Severity.CAUTION)):
            plan = plan_of(survey(control={"full_by": "levels", "tank_wire": wire}))
            self.assertIn((code, severity), {(found.code, found.severity) for found in plan.findings})
            self.assertNotIn("wire_delay", plan)


class SaidTest(unittest.TestCase):
    def test_the_same_range_in_bar_and_in_metres(self) -> None:
        said = {"sensor.range_pa": 10e5, "sensor.range_head_m": 102.0, "visit.controls_off": True}
        self.assertEqual(plausibility(said), [])
        (finding,) = plausibility({**said, "sensor.range_head_m": 10.0})  # ten metres are one bar
        self.assertEqual((finding.code, finding.severity), ("range_said_twice", Severity.STOP))

    def test_an_open_pipe_raises_no_pressure(self) -> None:
        found = plausibility({"visit.controls_off": True, "tank_1.inlet": "open", "control.full_by": "pressure"})
        self.assertEqual([each.severity for each in found], [Severity.STOP])

    def test_every_trail_leads_to_its_number(self) -> None:
        cases = [
            survey(), survey(**TWO, line={"leak_m3s": 1e-7, "leak_at_pa": 4e5, "vessel_m3": 0.05}, pumping={"count": 3, "standby": True, "least_flow_m3s": 1.5e-3}),
            survey(control={"full_by": "levels"}, tanks={"drinking": True}), survey(control={"full_by": "both"}, pumping={"count": 2}, source={"area_m2": 3.0, "inflow_m3s": 1e-3}),
        ]  # fmt: skip
        for facts in cases:
            plan = plan_of(facts)
            self.assertEqual((false_trails(plan), false_verdicts(plan)), ([], []))
