"""Timed drawdown by hand, against a simulated pump, and put in place of the curve."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.drawdown import DrawdownRun, Stretch, drawdown
from goodbalance.core.physics.wells import straight_well
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.trials.measured import measure, measured_findings, with_measured
from goodbalance.core.stations.lift.windows.reckon import reckon
from tests.core.test_lift_bench import bench
from tests.stations import choices, survey

WELL = straight_well(2.0, 5.0)
# fill 10 cm in 100 s on 2 m2: 2 l/s; drawn down 30 cm in 75 s: 8 l/s and the inflow: 10 l/s
RUN = DrawdownRun(Stretch(1.0, 1.1, 100.0), Stretch(1.1, 0.8, 75.0), Stretch(0.8, 0.9, 100.0))


class DrawdownTest(unittest.TestCase):
    def test_a_run_by_hand(self) -> None:
        found = drawdown(WELL, (RUN,), 0.005)
        self.assertAlmostEqual(found.runs[0].inflow_m3s, 0.002)
        self.assertAlmostEqual(found.rate_m3s, 0.010)
        self.assertAlmostEqual(found.mean_level_m, 0.95)
        # levels: 2 x 0.005 sqrt 2 = 14.14 l: over 75 s 0.1886 l/s; each fill, halved, 0.0707 l/s
        # watch: 0.6 / 75^2 x 0.5 sqrt 2 = 0.0754 l/s; fills 0.2 / 100^2 x 0.5 sqrt 2 / 2 = 0.0071 l/s
        expected = math.sqrt(0.1886**2 + 0.0754**2 + 2 * (0.0707**2 + 0.0071**2)) / 1000.0
        self.assertAlmostEqual(found.error_m3s, expected, places=6)

    def test_scatter_counts_when_it_is_larger(self) -> None:
        runs = tuple(DrawdownRun(RUN.before, Stretch(1.1, 0.8, time_s)) for time_s in (60.0, 75.0, 100.0))
        found = drawdown(WELL, runs, 0.005)
        # rates 12, 10, 8 l/s: s = 2, t(0.975, 2) = 4.3027, error 4.3027 x 2 / sqrt 3 = 4.968 l/s
        self.assertAlmostEqual(found.rate_m3s, 0.010)
        self.assertAlmostEqual(found.error_m3s, 0.004968, places=6)

    @given(st.floats(0.0, 0.004), st.floats(0.002, 0.02))
    def test_a_pump_of_known_rate_is_found_again(self, inflow_m3s: float, rate_m3s: float) -> None:
        if rate_m3s <= inflow_m3s * 1.1:
            return
        rise_m, fall_m = inflow_m3s * 120.0 / 2.0, (rate_m3s - inflow_m3s) * 60.0 / 2.0
        run = DrawdownRun(Stretch(1.0, 1.0 + rise_m, 120.0), Stretch(2.0, 2.0 - fall_m, 60.0))
        self.assertAlmostEqual(drawdown(WELL, (run,), 0.005).rate_m3s, rate_m3s, places=9)

    def test_what_goes_the_wrong_way_is_refused(self) -> None:
        for run, words in (
            (DrawdownRun(Stretch(1.1, 1.0, 60.0), RUN.pumping), "the level rises"),
            (DrawdownRun(RUN.before, Stretch(0.8, 1.1, 60.0)), "draws the level down"),
            (DrawdownRun(RUN.before, Stretch(1.0, 1.0, 60.0)), "draws the level down"),
            (DrawdownRun(RUN.before, Stretch(1.1, 0.8, 0.0)), "more than 0"),
            (DrawdownRun(RUN.before, Stretch(1.1, 0.8, math.nan)), "more than 0"),
        ):
            with self.assertRaisesRegex(OutOfRange, words):
                drawdown(WELL, (run,), 0.005)
        with self.assertRaisesRegex(OutOfRange, "at least one"):
            drawdown(WELL, (), 0.005)


class MeasuredTest(unittest.TestCase):
    RUNS = [
        {
            "before": {"from_m": 1.0, "to_m": 1.1, "time_s": 100.0},
            "pumping": {"from_m": 1.1, "to_m": 0.8, "time_s": 120.0},
        }
    ]

    def test_a_weak_pump_is_found_out(self) -> None:
        found = measure(survey(), 1, self.RUNS)  # 2 + 600 / 120 = 7 l/s
        self.assertAlmostEqual(found.result.rate_m3s, 0.007)
        # by curve at 0.95 m: lift 12.05 m, Q = sqrt(7.95 / 100000) = 8.916 l/s; 78.5 %
        self.assertAlmostEqual(found.curve_m3s, 0.008916, places=5)
        self.assertAlmostEqual(found.share, 0.7851, places=3)
        (finding,) = measured_findings(survey(), choices(), (found,))
        self.assertIn("less than its curve's", finding.text)

    def test_the_bench_measures_what_its_plant_pumps(self) -> None:
        """Read a drawdown off the bench's own trend: the rate must be that of the curve within 1 %."""
        still, hand = TimedAction(0.0, "inflow", "", 0.002), TimedAction(200.0, "switch", "1", 0.0)
        off = TimedAction(0.0, "switch", "2", 1.0)
        run = rehearse(bench(1.2), (still, off, TimedAction(0.0, "switch", "1", 1.0), hand), 320.0)
        at = {round(row[0]): row[1] for row in run.trace}
        times = sorted(at)
        end = max(t for t in times if t <= 320)
        begin = next(t for t in times if t >= 200)
        runs = [
            {
                "before": {"from_m": at[0], "to_m": at[begin], "time_s": float(begin)},
                "pumping": {"from_m": at[begin], "to_m": at[end], "time_s": float(end - begin)},
            }
        ]
        found = measure(survey(), 1, runs)
        self.assertAlmostEqual(found.share, 1.0, delta=0.01)

    def test_levels_are_reckoned_with_the_measured_rate_when_the_school_says_so(self) -> None:
        station, found = survey(), measure(survey(), 1, self.RUNS)
        self.assertIs(with_measured(station, choices(), (found,)), station)
        scaled = with_measured(station, choices(schools={"pump_rate": "measured"}), (found,))
        point = hydraulics(scaled).point((0,), found.result.mean_level_m)
        self.assertAlmostEqual(point.flow_m3s, 0.007, places=4)
        other = hydraulics(scaled).point((1,), found.result.mean_level_m)
        self.assertAlmostEqual(other.flow_m3s, 0.008916, places=4)
        # the strongest pump still decides the band; firm capacity falls to the weak one
        self.assertLess(hydraulics(scaled).firm_m3s(), hydraulics(station).firm_m3s() * 0.8)
        self.assertTrue(reckon(scaled, choices()).is_sound)
