"""The windows of a lift station: hand-worked bounds, properties over many stations, and what opens an empty one."""

import math
import unittest

from hypothesis import assume, given, settings
from hypothesis import strategies as st

from goodbalance.core.balance.plan import Standing
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.balance.window import Source
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.windows.openers import fits, openers
from goodbalance.core.stations.lift.windows.reckon import reckon
from tests.stations import choices, survey

ORDER = ("low_cut_out", "low_alarm", "stop", "start_1", "start_2", "high_alarm")


def bounds(plan, setting_id: str, side: str) -> dict[str, float]:
    return {bound.cause: bound.value for bound in getattr(plan.setting(setting_id).window, side)}


class HandWorkedTest(unittest.TestCase):
    """2 m2 of well, 10 l/s at the inlet invert (static head 13 - 3 = 10 m on H = 20 - 100000 Q^2)."""

    def setUp(self) -> None:
        self.plan = reckon(survey(), choices())

    def test_rates_follow_from_curve_and_lift(self) -> None:
        hyd = hydraulics(survey())
        self.assertAlmostEqual(hyd.strongest_m3s(1, 3.0), 0.010, places=5)
        self.assertAlmostEqual(hyd.strongest_m3s(2, 3.0), 0.020, places=4)  # no loss in the main: twice
        # firm: one pump at the intake, lift 13 - 0.2 = 12.8 m: Q = sqrt(7.2 / 100000) = 8.485 l/s
        self.assertAlmostEqual(hyd.firm_m3s(), 0.008485, places=5)

    def test_stop_stands_on_intake_submergence_and_low_alarm(self) -> None:
        low = bounds(self.plan, "stop", "lower")
        self.assertAlmostEqual(low["maker's least submergence"], 0.20 + 0.30)
        # v = 0.010 / (pi 0.04 / 4) = 0.31831; Fr = 0.31831 / sqrt(9.80665 * 0.2) = 0.22729; S = 0.2 (1 + 0.52277)
        self.assertAlmostEqual(low["submergence against a vortex"], 0.20 + 0.30455, places=4)
        self.assertAlmostEqual(low["one step above the low alarm"], self.plan.setting("low_alarm").value + 0.15)

    def test_duty_start_is_stop_plus_q_t_over_4(self) -> None:
        stop_m = self.plan.setting("stop").value
        # T = 3600 / 10 = 360 s; V = 0.010 * 360 / 4 = 0.9 m3; 0.9 / 2 = 0.45 m
        self.assertAlmostEqual(
            bounds(self.plan, "start_1", "lower")["volume for the permitted starts"], stop_m + 0.45, places=4
        )
        high = bounds(self.plan, "start_1", "upper")
        self.assertAlmostEqual(high["inlet invert less freeboard"], 3.0 - 0.10)
        # 30 min at 2 l/s are 3.6 m3, 1.8 m above stop
        self.assertAlmostEqual(high["longest detention at mean inflow"], stop_m + 1.8)

    def test_alarm_leaves_the_crew_its_time(self) -> None:
        # 4.5 m hold 9 m3; 600 s at 6 l/s are 3.6 m3; 5.4 m3 stand at 2.70 m
        self.assertAlmostEqual(bounds(self.plan, "high_alarm", "upper")["crew's response time"], 2.70)

    def test_the_sensor_bounds_what_it_cannot_see(self) -> None:
        # reading margin: the larger of 3 x 0.01 m and 5 counts of 5 m / 4000 = 6.25 mm
        low = bounds(self.plan, "low_cut_out", "lower")["lowest level the sensor can read"]
        self.assertAlmostEqual(low, 0.10 + 0.03)
        look_down = {
            "kind": "look_down",
            "face_m": 4.8,
            "blanking_m": 0.35,
            "far_m": 4.7,
            "mounting_m": None,
            "range_m": None,
        }
        plan = reckon(survey(sensor=look_down), choices())
        self.assertAlmostEqual(bounds(plan, "high_alarm", "upper")["highest level the sensor can read"], 4.45 - 0.03)
        self.assertAlmostEqual(bounds(plan, "low_cut_out", "lower")["lowest level the sensor can read"], 0.10 + 0.03)

    def test_figures_follow(self) -> None:
        figures = {figure.id: figure for figure in self.plan.figures}
        stop, start = (self.plan.setting(name).value for name in ("stop", "start_1"))
        volume_m3 = (start - stop) * 2.0
        self.assertAlmostEqual(figures["starts_worst"].value, 3600.0 / (4.0 * volume_m3 / 0.010), places=3)
        self.assertAlmostEqual(figures["starts_shared"].value, figures["starts_worst"].value / 2.0)
        # the pump slows down with the level: its curve is 20 - 1e5 Q^2 against a lift of 13 m less the level
        rates = [math.sqrt((7.0 + stop + (start - stop) * (k + 0.5) / 400) / 1e5) for k in range(400)]
        emptying = sum(volume_m3 / 400 / (rate - 0.002) for rate in rates)
        self.assertAlmostEqual(figures["cycle_mean"].value, volume_m3 / 0.002 + emptying, delta=0.2)
        self.assertAlmostEqual(figures["detention_low"].value, volume_m3 / 0.0005)
        self.assertAlmostEqual(figures["detention"].value, volume_m3 / 0.002)
        alarm = self.plan.setting("high_alarm").value
        self.assertAlmostEqual(figures["storage"].value, (4.5 - alarm) * 2.0 / 0.006)

    def test_every_number_has_a_trail_that_prints(self) -> None:
        for system in UnitSystem:
            for setting in self.plan.settings:
                for bound in (*setting.window.lower, *setting.window.upper):
                    self.assertGreaterEqual(len(bound.trail.lines(system)), 4)
                    self.assertAlmostEqual(bound.trail.result.value, bound.value)

    def test_the_makers_starts_govern_when_lower_and_are_marked_as_his(self) -> None:
        plan = reckon(survey(demands={"starts_per_hour": 20.0}), choices())
        bound = plan.setting("start_1").window.governing_lower
        self.assertIs(bound.source, Source.MAKER)
        # 15 starts per hour: T = 240 s, V = 0.6 m3, 0.30 m
        self.assertAlmostEqual(bound.value, plan.setting("stop").value + 0.30, places=4)


class SchoolsTest(unittest.TestCase):
    def test_crediting_alternation_halves_the_volume(self) -> None:
        plan = reckon(survey(), choices(schools={"starts_credit": "alternation"}))
        low = bounds(plan, "start_1", "lower")["volume for the permitted starts"]
        self.assertAlmostEqual(low, plan.setting("stop").value + 0.225, places=4)

    def test_maker_only_drops_the_vortex_bound(self) -> None:
        plan = reckon(survey(), choices(schools={"submergence": "maker_only"}))
        self.assertNotIn("submergence against a vortex", bounds(plan, "stop", "lower"))

    def test_sewer_storage_lifts_the_starts_to_the_overflow(self) -> None:
        plan = reckon(survey(inlet={"sewer_storage": True}), choices())
        self.assertEqual(bounds(plan, "start_2", "upper")["overflow level"], 4.5)

    def test_running_on_without_a_low_float_is_stopped(self) -> None:
        run_on = choices(schools={"sensor_failure": "run_duty"})
        self.assertIn("run_duty_without_float", [f.code for f in reckon(survey(), run_on).findings])
        safe = survey(demands={"low_float": True})
        self.assertNotIn("run_duty_without_float", [f.code for f in reckon(safe, run_on).findings])


class ChosenTest(unittest.TestCase):
    def test_a_level_outside_its_window_is_said_to_be_outside(self) -> None:
        plan = reckon(survey(), choices(chosen={"stop": 0.40}))
        self.assertIs(plan.setting("stop").standing, Standing.BELOW)
        self.assertFalse(plan.is_sound)

    def test_free_levels_make_room_for_a_chosen_one(self) -> None:
        plan = reckon(survey(), choices(chosen={"start_1": 1.60}))
        self.assertTrue(plan.is_sound)
        self.assertEqual(plan.setting("start_1").value, 1.60)
        self.assertGreaterEqual(plan.setting("start_2").value, 1.75)

    def test_swapped_levels_leave_no_room_between_them(self) -> None:
        plan = reckon(survey(), choices(chosen={"stop": 1.50, "start_1": 0.80}))
        self.assertTrue(any(s.standing in (Standing.BELOW, Standing.ABOVE, Standing.EMPTY) for s in plan.settings))
        self.assertFalse(plan.is_sound)


class EmptyWindowTest(unittest.TestCase):
    SHALLOW = {"invert_m": 1.0}  # starts at most at 0.90 m, but stop 0.505 + band 0.45 asks for more

    def test_the_two_facts_that_collide_are_named(self) -> None:
        plan = reckon(survey(inlet=self.SHALLOW), choices())
        window = next(s.window for s in plan.settings if s.window.is_empty)
        self.assertEqual(window.governing_upper.cause, "inlet invert less freeboard")
        self.assertTrue(window.openers)
        chain = [bound.cause for bound in plan.built_on(window.governing_lower, True)]
        # lift 13 - 1 = 12 m: Q = sqrt(8 / 100000) = 8.94 l/s; vortex S = 0.2 (1 + 2.3 * 0.2033) = 0.294 < 0.30 m
        self.assertEqual(chain[:2], ["maker's least submergence", "volume for the permitted starts"])

    def test_each_opener_opens_and_a_little_less_does_not(self) -> None:
        shallow = survey(inlet=self.SHALLOW)
        found = {opener.what: opener for opener in openers(shallow, choices())}
        starts = next(opener for what, opener in found.items() if "starts permitted" in what)
        for permitted, expected in ((starts.needed * 1.001, True), (starts.needed * 0.99, False)):
            pump = {**shallow.pump_1.model_dump(), "starts_per_hour": max(15.0, permitted)}
            case = survey(inlet=self.SHALLOW, demands={"starts_per_hour": permitted}, pump_1=pump)
            self.assertIs(fits(case, choices()), expected)

    def test_openers_include_both_yes_no_and_amounts_and_none_that_fails(self) -> None:
        found = [opener.what for opener in openers(survey(inlet=self.SHALLOW), choices())]
        self.assertTrue(any("sewer used for storage" in what for what in found))
        self.assertTrue(any("inside width" in what for what in found))
        self.assertFalse(any("response time" in what for what in found))  # the crew's time is not what collides


@st.composite
def any_station(draw):
    """Stations over wide ranges; whether a ladder fits is left to chance."""
    intake_m = draw(st.floats(0.0, 0.5))
    invert_m = intake_m + draw(st.floats(0.5, 4.0))
    overflow_m = invert_m + draw(st.floats(0.2, 3.0))
    mean_m3s = draw(st.floats(0.0005, 0.006))
    return survey(
        well={"length_m": draw(st.floats(1.0, 6.0)), "intake_m": intake_m, "depth_m": overflow_m + 0.3},
        inlet={"invert_m": invert_m, "overflow_m": overflow_m},
        inflow={"min_m3s": mean_m3s / 4, "mean_m3s": mean_m3s, "peak_m3s": mean_m3s * draw(st.floats(1.5, 5.0))},
        main={"outlet_m": draw(st.floats(8.0, 14.0)), "length_m": draw(st.floats(1.0, 200.0)), "diameter_m": 0.1},
        pumping={"count": draw(st.integers(1, 4))},
        sensor={"mounting_m": draw(st.floats(0.0, 0.3)), "range_m": draw(st.floats(3.0, 10.0))},
        demands={"starts_per_hour": draw(st.floats(4.0, 20.0)), "response_s": draw(st.floats(60.0, 1800.0))},
    )


class PropertiesTest(unittest.TestCase):
    @settings(max_examples=150, deadline=None)
    @given(any_station())
    def test_a_recommended_level_is_always_inside_its_window(self, station) -> None:
        assume(fits(station, choices()))
        plan = reckon(station, choices())
        levels = plan.group("levels")
        outside = [(s.id, s.value, s.window.low, s.window.high) for s in levels if not s.window.holds(s.value)]
        self.assertEqual(outside, [])
        values = [setting.value for setting in levels]
        self.assertEqual(values, sorted(values))
        for setting in plan.settings:
            if not setting.window.is_empty:
                self.assertTrue(setting.window.holds(setting.value), setting.id)
        for setting in levels:
            self.assertAlmostEqual(setting.value / 0.01, round(setting.value / 0.01), places=6)

    @settings(max_examples=60, deadline=None)
    @given(any_station())
    def test_a_station_that_does_not_fit_shows_an_empty_window(self, station) -> None:
        assume(not fits(station, choices()))
        try:
            plan = reckon(station, choices(), explain_empty=False)
        except GoodBalanceError:
            return
        self.assertFalse(plan.is_sound)

    @settings(max_examples=40, deadline=None)
    @given(any_station(), st.floats(1.05, 2.0))
    def test_more_permitted_starts_never_ask_for_a_wider_band(self, station, more) -> None:
        assume(fits(station, choices()))
        demands = station.demands.model_copy(update={"starts_per_hour": station.demands.starts_per_hour * more})
        bands = []
        for case in (station, station.model_copy(update={"demands": demands})):
            plan = reckon(case, choices())
            low = bounds(plan, "start_1", "lower")["volume for the permitted starts"]
            bands.append(low - plan.setting("stop").value)
        self.assertLessEqual(bands[1], bands[0] + 1e-9)
