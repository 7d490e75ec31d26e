"""Limits, timers, night, setback, generator and tank of a booster set by hand; what is said of it; what opens its windows."""

import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from goodbalance.core.balance.plan import Severity
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.physics.vessels import drawdown_m3
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.plausibility import plausibility
from goodbalance.core.stations.booster.windows.openers import openers
from goodbalance.core.stations.booster.windows.reckon import reckon
from tests.boosters import METRE_PA, bounds, choices, plan_of, survey

AT_4_BAR = {"set_pressure": 400e3}
ON_OFF = {"control": {"kind": "on_off"}, "vessel": {"volume_m3": 1.5}}


def codes(plan) -> set[str]:
    return {finding.code for finding in plan.findings}


class LimitTest(unittest.TestCase):
    def test_run_out_is_where_the_maker_stops_drawing(self) -> None:
        """Each pump at 4 l/s, 60 - 2e6 (0.004)^2 = 28 m on top of the highest supply, 1.0 bar; a band under the set pressure."""
        plan = plan_of(AT_4_BAR)
        window = plan.setting("burst_stop").window
        self.assertAlmostEqual(window.low, 100e3 + 28.0 * METRE_PA, delta=2.0)
        self.assertAlmostEqual(window.high, 400e3 - 10e3)

    def test_filling_slowly(self) -> None:
        """Up to the standing column, by one pump at a velocity of 0.5 m/s; the timeout from the pipe's own content."""
        plan = plan_of(AT_4_BAR, {"slow_fill": True}, outlets={"length_m": 40.0, "diameter_m": 0.05})
        self.assertAlmostEqual(bounds(plan, "fill_pressure", "lower")["standing column"], 25.0 * METRE_PA, delta=1.0)
        fill_pa, speed = plan.setting("fill_pressure").value, plan.setting("fill_speed").value
        area = math.pi * 0.05**2 / 4.0
        head_m = (fill_pa - 100e3) / METRE_PA  # highest supply
        fastest = math.sqrt((head_m + 2e6 * (0.5 * area) ** 2) / 60.0)
        self.assertAlmostEqual(bounds(plan, "fill_speed", "upper")["slow filling"], fastest, places=3)
        flow = math.sqrt((60.0 * speed**2 - (0.5 * fill_pa - 20e3) / METRE_PA) / 2e6)
        self.assertAlmostEqual(plan.setting("fill_timeout").window.low, (40.0 * area + 0.15) / flow, delta=0.5)

    def test_slow_fill_by_day_is_told_where_it_never_ends(self) -> None:
        narrow = {"length_m": 40.0, "diameter_m": 0.05}
        self.assertIn("fill_by_day", codes(plan_of(AT_4_BAR, {"slow_fill": True}, outlets=narrow)))
        self.assertNotIn("fill_by_day", codes(plan_of(AT_4_BAR, {"slow_fill": False}, outlets=narrow)))

    def test_the_generator_carries_whole_pumps_and_one_start(self) -> None:
        """A pump takes sqrt 3 x 400 x 4 = 2771 VA, its start half as much again: 9 kVA less 1.5 pumps, and the one starting."""
        for carried_va, pumps in ((9000.0, 2.0), (6900.0, 1.0), (20000.0, 3.0)):
            plan = plan_of(AT_4_BAR, motor={"generator": True, "generator_va": carried_va, "start_factor": 1.5})
            self.assertEqual(plan.setting("emergency_pumps").value, pumps)
            self.assertEqual(math.floor(carried_va / (math.sqrt(3.0) * 1600.0) - 1.5 + 1.0) >= pumps, True)
        weak = plan_of(AT_4_BAR, motor={"generator": True, "generator_va": 3000.0, "start_factor": 6.0})
        self.assertTrue(weak.setting("emergency_pumps").window.is_empty)
        pressure = plan_of(AT_4_BAR, motor={"generator": True, "generator_va": 6900.0}).setting("emergency_pressure")
        # one pump at 2 l/s: 60 - 8 = 52 m over 0.2 bar; and no more than by day
        self.assertAlmostEqual(bounds_of(pressure, "upper")["what those pumps can"], 20e3 + 52.0 * METRE_PA, delta=2.0)
        self.assertAlmostEqual(pressure.window.high, 400e3)

    def test_a_water_company_s_floor_governs_the_low_suction_stop(self) -> None:
        plan = plan_of(AT_4_BAR, supply={"low_pa": 150e3, "high_pa": 200e3, "main_floor_pa": 80e3})
        bound = plan.setting("low_suction_stop").window.governing_lower
        self.assertEqual((bound.value, bound.source.value), (80e3, "code"))


def bounds_of(setting, side: str) -> dict[str, float]:
    return {bound.cause: bound.value for bound in getattr(setting.window, side)}


class PressureTest(unittest.TestCase):
    def test_night_setback_and_the_far_sensor(self) -> None:
        plan = plan_of(AT_4_BAR, {"night": True}, {"night_residual_pa": 60e3})
        self.assertAlmostEqual(
            bounds(plan, "night_pressure", "lower")["worst outlet at mean flow"], 20.0 * METRE_PA + 60e3, delta=2.0
        )
        self.assertAlmostEqual(plan.setting("night_pressure").window.high, 400e3)
        back = plan_of(AT_4_BAR, {"setback": "square"})
        # no pipe to speak of: without flow the worst outlet wants as much as with it
        self.assertAlmostEqual(
            bounds(back, "no_flow_pressure", "lower")["worst outlet without flow"], 20.0 * METRE_PA + 150e3, delta=2.0
        )
        far = plan_of(AT_4_BAR, remote={"height_m": 18.0, "range_pa": 600e3})
        lower = bounds(far, "remote_pressure", "lower")
        self.assertAlmostEqual(lower["worst outlet"], 150e3 + 2.0 * METRE_PA, delta=2.0)
        # without flow the set holds this and the column: it must not be its own restart
        restart_pa = far.setting("restart").value
        self.assertAlmostEqual(
            lower["restart pressure, seen from the far end"], restart_pa + 10e3 - 18.0 * METRE_PA, delta=2.0
        )
        self.assertAlmostEqual(far.setting("remote_pressure").window.high, 400e3 - 18.0 * METRE_PA, delta=2.0)

    def test_the_boost_stays_under_every_limit(self) -> None:
        """Permitted 6 bar five metres below the sensor, an overshoot of 0.5 bar; a pump reaches 0.2 bar and 60 m."""
        plan = plan_of(AT_4_BAR)
        upper = bounds(plan, "boost", "upper")
        self.assertAlmostEqual(upper["limits above the set pressure"], 600e3 - 5.0 * METRE_PA - 50e3 - 400e3, delta=2.0)
        self.assertAlmostEqual(upper["shut-off pressure of a pump"], 20e3 + 60.0 * METRE_PA - 400e3 - 10e3, delta=2.0)

    def test_a_switched_set_needs_a_tank_and_is_told_how_large(self) -> None:
        """The pump's own rate counts, not the users' mean: with one pump D = q T/4; 6 l/s bring in two of 3.5 l/s, which
        start together every (180 s - 4 s until the second joins)/2 at worst, so D = 88 q. Boyle, absolute pressures."""
        for changes, times in (({}, 88.0), ({"demand": {"design_m3s": 0.0035}}, 45.0)):
            plan = plan_of({"cut_in": 360e3, "precharge": 324e3}, **{**ON_OFF, "vessel": {"volume_m3": 4.0}, **changes})
            needed = bounds(plan, "cut_out", "lower")["starts per hour with this tank"]
            stored = [drawdown_m3(4.0, 324e3, 360e3, 360e3 + (needed - 360e3) * k / 200) for k in range(201)]
            rates = [math.sqrt((60.0 - (260e3 + (needed - 360e3) * (k + 0.5) / 200) / METRE_PA) / 2e6) for k in range(200)]
            mean = sum(q * (b - a) for q, a, b in zip(rates, stored, stored[1:])) / stored[-1]
            self.assertAlmostEqual(stored[-1], times * mean, delta=0.002 * stored[-1])
        bare = reckon(survey(**{**ON_OFF, "vessel": {"volume_m3": 0.0}}), choices({"cut_in": 360e3}))
        self.assertTrue(bare.setting("cut_out").window.is_empty)
        tank_m3 = next(o.needed for o in bare.setting("cut_out").window.openers if "a tank of" in o.what)
        for share, empty in ((1.0, False), (0.9, True)):
            station = survey(**{**ON_OFF, "vessel": {"volume_m3": tank_m3 * share}})
            self.assertEqual(
                reckon(station, choices({"cut_in": 360e3})).setting("cut_out").window.is_empty, empty, share
            )

    def test_where_only_the_flow_stops_a_pump_it_reaches_its_shut_off_pressure(self) -> None:
        """1.0 bar of supply and 60 m: 6.87 bar at the sensor, 7.36 bar at the lowest outlet, where 6 bar are permitted."""
        plan = plan_of(control={"kind": "flow_stop"})
        self.assertNotIn("cut_out", [setting.id for setting in plan.settings])
        self.assertAlmostEqual(
            bounds(plan, "high_stop", "lower")["normal work and its overshoot"],
            100e3 + 60.0 * METRE_PA + 50e3,
            delta=2.0,
        )
        told = next(finding for finding in plan.findings if finding.code == "shut_off_over")
        self.assertIs(told.severity, Severity.STOP)
        self.assertIn("7.36 bar", told.worded(UnitSystem.METRIC))
        strong = plan_of(control={"kind": "flow_stop"}, outlets={"permitted_pa": 750e3})
        self.assertNotIn("shut_off_over", codes(strong))


class TimerTest(unittest.TestCase):
    def test_delays_by_their_rules(self) -> None:
        plan = plan_of(AT_4_BAR, {"no_flow": "flow"}, control={"flow_switch": True, "flow_switch_m3s": 1e-4})
        for setting_id, low, high in (
            ("sleep_delay", 8.0, 120.0),  # a pause of the users; hot water
            ("leave_delay", 30.0, 300.0),  # the loop settles; idle pumps
            ("low_suction_delay", 1.5, 20.0),  # honest dips; a dry seal
            ("no_prime_delay", 6.0, 20.0),
            ("max_run", 43200.0, 604800.0),
        ):
            window = plan.setting(setting_id).window
            self.assertAlmostEqual(window.low, low, msg=setting_id)
            self.assertAlmostEqual(window.high, high, msg=setting_id)
        join = plan.setting("join_delay").value
        self.assertAlmostEqual(plan.setting("burst_delay").window.low, 6.0 + 2.0 * join)

    def test_no_pump_joins_while_one_alone_fills_the_tank(self) -> None:
        """D litres from restart to set pressure, by what one pump gives half way, less the mean flow."""
        plan = plan_of({"set_pressure": 400e3, "restart": 340e3, "precharge": 306e3}, vessel={"volume_m3": 0.3})
        gives = math.sqrt((60.0 - (370e3 - 20e3) / METRE_PA) / 2e6) - 0.002
        by_hand = drawdown_m3(0.3, 306e3, 340e3, 400e3) / gives
        self.assertAlmostEqual(bounds(plan, "join_delay", "lower")["one pump filling the tank"], by_hand, delta=0.02)
        vast = plan_of({"set_pressure": 400e3, "restart": 340e3, "precharge": 306e3}, vessel={"volume_m3": 3.0})
        self.assertTrue(vast.setting("join_delay").window.is_empty)

    def test_setback_follows_more_slowly_than_the_tank_can_answer(self) -> None:
        """S = 2 x 30 kPa / 6 l/s at the design flow; C = V P0 / P^2 by Boyle and 2 ml per bar of the rest: S C three times."""
        chosen = {"set_pressure": 400e3, "restart": 340e3, "no_flow_pressure": 370e3, "precharge": 300e3}
        plan = plan_of(chosen, {"setback": "square"}, vessel={"volume_m3": 0.5})
        stores = 0.5 * 401_325.0 / 471_325.0**2
        by_hand = 3.0 * 2.0 * 30e3 / 0.006 * stores
        self.assertAlmostEqual(bounds(plan, "setback_time", "lower")["water that fills the tank"], by_hand, delta=0.3)
        straight = plan_of(chosen, {"setback": "linear"}, vessel={"volume_m3": 0.5})
        self.assertAlmostEqual(
            bounds(straight, "setback_time", "lower")["water that fills the tank"], by_hand / 2.0, delta=0.2
        )

    def test_short_stops_count_as_starts(self) -> None:
        plan = plan_of({**AT_4_BAR, "sleep_delay": 31.0}, {"no_flow": "bump"})
        figure = next(f for f in plan.figures if f.id == "starts_worst")
        self.assertAlmostEqual(figure.value, 3600.0 / 31.0)  # a tap of more than nothing ends each short stop at once
        self.assertFalse(figure.keeps)

    def test_how_long_a_switched_pump_may_run_on(self) -> None:
        """What the tank takes from cut-out to the high-pressure stop, at the flow of a pump there, highest supply."""
        plan = plan_of({"cut_in": 360e3, "cut_out": 480e3, "high_stop": 560e3, "precharge": 324e3}, **ON_OFF)
        takes = drawdown_m3(1.5, 324e3, 480e3, 560e3)
        flow = math.sqrt((60.0 - (480e3 - 100e3) / METRE_PA) / 2e6)
        self.assertAlmostEqual(plan.setting("least_run").window.high, takes / flow, delta=0.1)


class SaidTest(unittest.TestCase):
    def test_each_finding_where_it_applies_and_not_elsewhere(self) -> None:
        plain = codes(plan_of(AT_4_BAR, {"no_flow": "bump"}, control={"suction_by": "sensor"}))
        for code, schools, changes in (
            ("no_flow_switch", {"no_flow": "flow"}, {}),
            ("trickle", {"no_flow": "flow"}, {"control": {"trickle": True, "flow_switch": True}}),
            ("no_check_valve", {}, {"pumping": {"check_valves": False}}),
            ("no_dry_protection", {}, {"control": {"suction_by": "none"}}),
            ("blind_run", {"sensor_failure": "run_duty"}, {}),
            ("dead_zero", {}, {"sensor": {"signal": "0_10_v"}}),
            ("bump_felt", {"no_flow": "bump"}, {"vessel": {"volume_m3": 0.0}}),
            ("flush", {}, {"demand": {"flush_m3s": 0.02}}),
        ):
            self.assertNotIn(code, plain)
            found = plan_of(AT_4_BAR, schools, **changes)
            self.assertIn(code, codes(found))
            for finding in found.findings:
                for units in UnitSystem:
                    self.assertNotIn("{", finding.worded(units))

    def test_implausible_facts_are_named_at_their_field(self) -> None:
        curve = {
            f"pumping.curve.{row}.{part}": value
            for row, pair in enumerate(((0.0, 50.0), (0.002, 45.0), (0.004, 30.0)))
            for part, value in zip(("flow_m3s", "head_m"), pair)
        }
        sound = {"visit.controls_off": True, "pumping.starts_per_hour": 20.0, "pumping.count": 2, **curve}
        self.assertEqual([f.code for f in plausibility(sound)], [])
        for changes, subject, severity in (
            ({"supply.low_pa": 3e5, "supply.high_pa": 2e5}, "supply.low_pa", Severity.STOP),
            ({"demand.least_m3s": 3e-3, "demand.mean_m3s": 2e-3}, "demand.least_m3s", Severity.STOP),
            ({"demand.mean_m3s": 9e-3, "demand.design_m3s": 8e-3}, "demand.mean_m3s", Severity.STOP),
            ({"pumping.standby": True, "pumping.count": 1}, "pumping.standby", Severity.STOP),
            ({"pumping.curve.1.head_m": None}, "pumping.curve.0.flow_m3s", Severity.STOP),
            ({"pumping.curve.1.head_m": 60.0}, "pumping.curve.0.flow_m3s", Severity.STOP),
            ({"pumping.curve.0.flow_m3s": 1.5e-3}, "pumping.curve.0.flow_m3s", Severity.CAUTION),
            ({"supply.kind": "suction_lift", "supply.pump_m": 10.0, "supply.water_low_m": 1.0}, "supply.water_low_m", Severity.STOP),
            ({"supply.kind": "flooded", "supply.pump_m": 3.0, "supply.water_low_m": 1.0}, "supply.kind", Severity.CAUTION),
            ({"vessel.relief_pa": 9e5, "vessel.rating_pa": 8e5}, "vessel.relief_pa", Severity.CAUTION),
            ({"sensor.range_pa": 2e5, "outlets.permitted_pa": 6e5}, "sensor.range_pa", Severity.CAUTION),
            ({"as_found.restart": 5e5, "as_found.set_pressure": 4e5}, "as_found.restart", Severity.CAUTION),
            ({"visit.controls_off": False}, "visit.controls_off", Severity.CAUTION),
        ):  # fmt: skip
            found = [f for f in plausibility({**sound, **changes}) if f.subject == subject]
            self.assertEqual([f.severity for f in found], [severity], changes)


class PropertyTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.floats(350e3, 520e3), st.floats(0.0, 1.0), st.sampled_from(["none", "square"]), st.booleans())
    def test_recommended_numbers_stand_in_order_and_inside(self, set_pa, suction, setback, night) -> None:
        plan = plan_of(
            {"set_pressure": set_pa},
            {"setback": setback, "night": night, "no_flow": "bump"},
            supply={"low_pa": 100e3 * suction},
        )
        for setting in plan.settings:
            if not setting.window.is_empty and setting.chosen is None:
                self.assertTrue(setting.window.holds(setting.value), setting.id)
        value = {setting.id: setting.value for setting in plan.settings}
        order = [value[name] for name in ("precharge", "restart", "set_pressure", "high_stop")]
        self.assertEqual(order, sorted(order))
        if night:
            self.assertLessEqual(value["restart"], value["night_pressure"])
        self.assertLess(value["low_suction_stop"] if "low_suction_stop" in value else -1e9, value["restart"])

    def test_every_opener_opens_and_a_little_less_does_not(self) -> None:
        """The empty sleep window of the plain set: each change told is applied, then nine tenths of it."""
        station = survey(supply={"low_pa": 60e3}, demand={"least_m3s": 0.001})
        decided = choices(AT_4_BAR)

        def opens(other, chosen) -> bool:
            made = {setting.id: setting for setting in reckon(other, chosen, False).settings}
            return "sleep_speed" not in made or not made["sleep_speed"].window.is_empty

        self.assertFalse(opens(station, decided))
        told = openers(station, decided, opens)
        self.assertTrue(any("a short stop that tells no flow" in opener.what for opener in told))
        main = next(opener for opener in told if opener.what.startswith("a main that keeps"))
        # no flow at 60 n^2 = H, 1 l/s at the highest supply two metres more, and a step of 1 % on either side
        without = math.sqrt((300e3 / METRE_PA + 2.0) / 60.0) - 0.02
        self.assertAlmostEqual(main.needed, 400e3 - 60.0 * without**2 * METRE_PA, delta=100.0)
        for share, opened in ((1.0, True), (0.9, False)):
            low_pa = main.now + share * (main.needed - main.now)
            other = survey(supply={"low_pa": low_pa}, demand={"least_m3s": 0.001})
            self.assertEqual(opens(other, decided), opened)

    def test_colder_thicker_higher(self) -> None:
        """Hot water boils sooner, thin air presses less: both leave less NPSH."""
        cold, hot = (hydraulics(survey(supply={"temperature_c": t})).npsh_available_m(20e3) for t in (10.0, 60.0))
        low, high = (hydraulics(survey(supply={"altitude_m": z})).npsh_available_m(20e3) for z in (0.0, 2000.0))
        self.assertGreater(cold, hot + 1.5)  # 1.2 kPa against 19.9 kPa of vapour pressure: 1.9 m
        self.assertAlmostEqual(low - high, (101_325.0 - 79_495.0) / METRE_PA, delta=0.05)  # standard atmosphere at 2 km
