"""Tanks, PID forms, step tests and tuning rules: hand-worked, against scipy, and against published margins."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import signal

from goodbalance.core.control.identification import Fopdt, UnusableStep, fit_step
from goodbalance.core.control.pid import (
    Gains,
    Pid,
    from_independent,
    from_series,
    gain_from_band,
    gain_from_unit,
    gain_per_unit,
)
from goodbalance.core.control.tuning import amigo, lambda_tuning, margins, simc, ziegler_nichols
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.vessels import (
    drawdown_for_run_m3,
    drawdown_for_starts_m3,
    drawdown_m3,
    pressure_of_water_pa,
    tank_for_drawdown_m3,
)


class VesselTest(unittest.TestCase):
    def test_drawdown_by_hand_and_as_the_difference_of_two_fillings(self) -> None:
        """100 l, precharge 1.8 bar, 2 to 3 bar: 0.1 x 2.81325 (1/3.01325 - 1/4.01325) = 0.02326 m3."""
        given_m3 = drawdown_m3(0.1, 180e3, 200e3, 300e3)
        self.assertAlmostEqual(given_m3, 0.1 * 2.81325 * (1 / 3.01325 - 1 / 4.01325), places=9)
        low_m3 = 0.1 * (1 - 2.81325 / 3.01325)  # water in the tank at 2 bar
        self.assertAlmostEqual(pressure_of_water_pa(low_m3, 0.1, 180e3), 200e3, delta=1e-3)
        self.assertAlmostEqual(pressure_of_water_pa(low_m3 + given_m3, 0.1, 180e3), 300e3, delta=1e-3)

    def test_a_tank_charged_above_its_cut_in_is_empty_there(self) -> None:
        self.assertAlmostEqual(drawdown_m3(0.1, 250e3, 200e3, 300e3), drawdown_m3(0.1, 250e3, 250e3, 300e3))
        self.assertEqual(drawdown_m3(0.1, 350e3, 200e3, 300e3), 0.0)

    def test_both_schools_and_the_way_back(self) -> None:
        self.assertAlmostEqual(drawdown_for_starts_m3(0.002, 20.0), 0.09)  # 2 l/s, 20 starts: 180 s / 4
        self.assertAlmostEqual(drawdown_for_run_m3(0.002), 0.12)
        tank_m3 = tank_for_drawdown_m3(0.09, 180e3, 200e3, 300e3)
        self.assertAlmostEqual(drawdown_m3(tank_m3, 180e3, 200e3, 300e3), 0.09)

    def test_what_cannot_be_is_refused(self) -> None:
        for call in (
            lambda: drawdown_m3(0.0, 1e5, 2e5, 3e5),
            lambda: drawdown_m3(0.1, 1e5, 3e5, 2e5),
            lambda: drawdown_m3(0.1, -2e5, 2e5, 3e5),
            lambda: tank_for_drawdown_m3(0.1, 4e5, 2e5, 3e5),
            lambda: pressure_of_water_pa(0.2, 0.1, 1e5),
            lambda: drawdown_for_starts_m3(0.1, math.nan),
        ):
            with self.assertRaises(OutOfRange):
                call()


class PidFormTest(unittest.TestCase):
    @given(st.floats(0.01, 50.0), st.floats(0.1, 1000.0), st.floats(0.0, 0.24))
    def test_round_trips_between_all_forms(self, kc, ti, share) -> None:
        gains = Gains(kc, ti, share * ti)
        for back in (from_independent(*gains.independent()), from_series(*gains.series())):
            for now, then in ((back.kc, kc), (back.ti_s, ti), (back.td_s, share * ti)):
                self.assertAlmostEqual(now, then, delta=1e-6 * max(1.0, then))
        self.assertAlmostEqual(gain_from_band(gains.proportional_band), kc, delta=1e-9 * kc)

    def test_conventions_by_hand(self) -> None:
        gains = Gains(2.0, 30.0, 0.0)
        self.assertEqual(gains.independent(), (2.0, 2.0 / 30.0, 0.0))
        self.assertEqual((gains.proportional_band, gains.repeats_per_min), (50.0, 2.0))
        # 2 %/% on a sensor of 10 bar: 20 % of speed per bar, or 10 Hz per bar of 50 Hz
        self.assertEqual((gain_per_unit(2.0, 10.0), gain_per_unit(2.0, 10.0, 50.0)), (20.0, 10.0))
        self.assertEqual(gain_from_unit(10.0, 10.0, 50.0), 2.0)

    def test_what_has_no_other_form_is_refused(self) -> None:
        for call in (
            lambda: Gains(1.0, 10.0, 3.0).series(),
            lambda: from_series(1.0, 0.0, 0.1),
            lambda: from_independent(0.0, 1.0),
            lambda: Gains(1.0, 0.0),
            lambda: gain_from_band(0.0),
        ):
            with self.assertRaises(OutOfRange):
                call()

    def test_forms_act_alike(self) -> None:
        """The frequency response of the series form equals that of the dependent form it came from."""
        gains = Gains(1.7, 40.0, 6.0)
        k, ti, td = gains.series()
        s = 1j * np.geomspace(1e-3, 10.0, 50)
        dependent = gains.kc * (1 + 1 / (gains.ti_s * s) + gains.td_s * s)
        np.testing.assert_allclose(k * (1 + 1 / (ti * s)) * (1 + td * s), dependent, rtol=1e-9)


class PidAtWorkTest(unittest.TestCase):
    def test_the_answer_to_a_constant_error_by_hand(self) -> None:
        pid = Pid(Gains(2.0, 10.0), 0.0, 100.0)
        # Kc e = 10, and each second Kc e / Ti = 1 more
        self.assertEqual([round(pid.scan(55.0, 50.0, 1.0), 9) for _ in range(4)], [11.0, 12.0, 13.0, 14.0])

    def test_no_wind_up_at_a_limit_and_no_jump_from_hand(self) -> None:
        pid = Pid(Gains(2.0, 10.0), 0.0, 100.0)
        for _ in range(1000):
            pid.scan(100.0, 0.0, 1.0)
        self.assertLess(pid.integral, 100.0)
        self.assertLess(pid.scan(50.0, 52.0, 1.0), 100.0)  # leaves the limit at once
        pid.take_over(63.0, 50.0, 48.0)
        self.assertAlmostEqual(pid.scan(50.0, 48.0, 1e-9), 63.0, places=6)

    def test_it_brings_a_first_order_process_to_its_set_point(self) -> None:
        pid, y = Pid(simc(Fopdt(0.8, 2.0, 20.0)), 0.0, 100.0), 0.0
        for _ in range(3000):
            y += (0.8 * pid.scan(40.0, y, 0.1) - y) / 20.0 * 0.1
        self.assertAlmostEqual(y, 40.0, delta=0.01)


def record(model: Fopdt, noise: float = 0.0, step: float = 10.0, lasts_s: float = 120.0, seed: int = 1):
    """Times, outputs and measurement of a step at 20 s, as the exact first-order answer plus noise."""
    times = np.arange(0.0, lasts_s, 0.5)
    outputs = np.where(times < 20.0, 50.0, 50.0 + step)
    exact = signal.lsim(([model.gain], [model.time_s, 1.0]), np.where(times < 20.0 + model.dead_s, 0.0, step), times)[1]
    return times, outputs, 40.0 + exact + np.random.default_rng(seed).normal(0.0, noise, len(times))


class StepTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.floats(0.2, 3.0), st.floats(2.0, 8.0), st.floats(3.0, 15.0), st.booleans())
    def test_a_known_process_is_found_again_through_noise(self, gain, dead, time, down) -> None:
        found = fit_step(*record(Fopdt(gain, dead, time), noise=0.02 * gain * 10.0, step=-10.0 if down else 10.0))
        self.assertAlmostEqual(found.model.gain, gain, delta=0.03 * gain)
        self.assertAlmostEqual(found.model.dead_s + found.model.time_s, dead + time, delta=0.10 * (dead + time) + 0.3)
        self.assertGreater(found.fit, 0.95)

    def test_without_noise_both_fits_agree(self) -> None:
        found = fit_step(*record(Fopdt(1.2, 4.0, 10.0)))
        for model in (found.model, found.two_points):
            self.assertAlmostEqual(model.gain, 1.2, delta=0.02)
            self.assertAlmostEqual(model.dead_s, 4.0, delta=0.7)
            self.assertAlmostEqual(model.time_s, 10.0, delta=0.8)
        self.assertEqual((found.step_at_s, found.step), (19.75, 10.0))  # somewhere between two rows

    def test_unusable_records_are_refused_with_the_reason(self) -> None:
        good = Fopdt(1.2, 4.0, 10.0)
        times, outputs, measured = record(good)
        twice = np.where(times < 60.0, outputs, outputs - 5.0)
        for data, words in (
            ((times[:10], outputs[:10], measured[:10]), "20 or more"),
            ((times, np.full_like(outputs, 50.0), measured), "no step"),
            ((times, twice, measured), "more than once"),
            (record(good, noise=8.0), "noise"),
            (record(good, lasts_s=32.0), "still moving"),
            ((times[38:], outputs[38:], measured[38:]), "before the step"),
            ((times, outputs, measured + 0.8 * np.minimum(times, 20.0)), "not at rest"),
            ((times, outputs, np.where(times < 2.0, measured - 9.0, measured)), "something moved"),
            ((times, outputs, np.minimum(measured + 55.0, 100.0)), "end of its range"),
            ((times, outputs, measured + 8.0 * np.sin(times) * (times > 24.0)), "first order"),
        ):
            with self.subTest(words=words), self.assertRaisesRegex(UnusableStep, words):
                fit_step(*data)


class DoubtTest(unittest.TestCase):
    """What a record leaves open, and what spoils it. A row each 0.25 s, 0.1 % of noise on an answer of 12 %."""

    TRUE = Fopdt(1.2, 2.0, 10.0)

    def made(self, row_s: float = 0.25, step_at_s: float = 20.0, noise: float = 0.1, lasts_s: float = 120.0, model=None, seed=3):
        model = model or self.TRUE
        times = np.arange(0.0, lasts_s, row_s)
        since = np.maximum(0.0, times - step_at_s - model.dead_s)
        exact = 40.0 + model.gain * 10.0 * (1.0 - np.exp(-since / model.time_s))
        return times, np.where(times < step_at_s, 50.0, 60.0), exact + np.random.default_rng(seed).normal(0.0, noise, len(times))

    @settings(max_examples=40, deadline=None)
    @given(st.floats(0.0, 0.499), st.integers(1, 50))
    def test_the_step_lies_anywhere_within_a_row_and_the_doubt_says_so(self, late, seed) -> None:
        found = fit_step(*self.made(0.5, 20.0 - late, seed=seed))
        low, high = found.between("dead_s")
        self.assertLessEqual(low, 2.0)  # the middle of the row is taken: the truth is at most half a row and the noise away
        self.assertGreaterEqual(high, 2.0)
        self.assertAlmostEqual(found.model.dead_s, 2.0, delta=0.25 + 0.35)

    def test_rows_too_far_apart_for_the_dead_time_are_refused(self) -> None:
        with self.assertRaisesRegex(UnusableStep, "rows 1 s apart cannot show a dead time"):
            fit_step(*self.made(1.0, model=Fopdt(1.2, 0.6, 10.0)))
        self.assertAlmostEqual(fit_step(*self.made(0.1, model=Fopdt(1.2, 0.6, 10.0))).model.dead_s, 0.6, delta=0.25)

    def test_a_drift_is_fitted_beside_the_answer(self) -> None:
        """A fifth of the answer over the record: without a slope T would come out half as long again, gains with it."""
        times, outputs, measured = self.made()
        for way in (1.0, -1.0):
            found = fit_step(times, outputs, measured + way * 2.4 * (times - 20.0) / 100.0)
            self.assertAlmostEqual(found.model.gain, 1.2, delta=0.04)
            self.assertAlmostEqual(found.model.time_s, 10.0, delta=0.8)
            self.assertAlmostEqual(found.drift, way * 0.024, delta=0.004)

    def test_what_cannot_be_told_apart_is_refused(self) -> None:
        """A slow answer cut off early looks like drift: gain and time constant lie anywhere."""
        times, outputs, measured = self.made(lasts_s=62.0, model=Fopdt(1.2, 2.0, 25.0), noise=0.25)
        with self.assertRaisesRegex(UnusableStep, "lies anywhere|still moving"):
            fit_step(times, outputs, measured + 0.03 * (times - 20.0))

    def test_a_tap_opened_and_a_clipped_reading_are_refused(self) -> None:
        times, outputs, measured = self.made()
        tap = measured - 2.5 * np.where(times > 70.0, np.exp(-np.maximum(0.0, times - 70.0) / 8.0), 0.0)
        with self.assertRaisesRegex(UnusableStep, "hands off"):
            fit_step(times, outputs, tap)
        with self.assertRaisesRegex(UnusableStep, "clipped"):
            fit_step(times, outputs, np.minimum(measured, 51.0))

    @settings(max_examples=15, deadline=None)
    @given(st.integers(1, 200), st.floats(0.1, 0.5))
    def test_the_truth_lies_within_what_is_told_nearly_always(self, seed, noise) -> None:
        found = fit_step(*self.made(seed=seed, noise=noise))
        for part in ("gain", "dead_s", "time_s"):
            low, high = found.between(part)
            slack = 0.35 * (high - low)  # 95 of 100, not all
            self.assertLess(low - slack, getattr(self.TRUE, part))
            self.assertGreater(high + slack, getattr(self.TRUE, part))


class TuningTest(unittest.TestCase):
    MODEL = Fopdt(1.5, 3.0, 12.0)

    def test_every_rule_by_hand(self) -> None:
        """K = 1.5, theta = 3, T = 12."""
        for gains, kc, ti in (
            (simc(self.MODEL), 12.0 / (1.5 * 6.0), 12.0),  # min(12, 4 x 6)
            (simc(Fopdt(1.5, 1.0, 12.0)), 12.0 / (1.5 * 2.0), 8.0),  # min(12, 4 x 2)
            (lambda_tuning(self.MODEL, 10.0), 12.0 / (1.5 * 13.0), 12.0),
            (lambda_tuning(self.MODEL), 12.0 / (1.5 * 39.0), 12.0),
            (
                amigo(self.MODEL),
                0.15 / 1.5 + (0.35 - 36.0 / 225.0) * 12.0 / 4.5,
                1.05 + 13.0 * 3.0 * 144.0 / (144.0 + 432.0 + 63.0),
            ),
            (ziegler_nichols(self.MODEL), 0.9 * 12.0 / 4.5, 10.0),
        ):
            self.assertAlmostEqual(gains.kc, kc, places=9)
            self.assertAlmostEqual(gains.ti_s, ti, places=9)

    def test_published_margins_of_simc(self) -> None:
        """With Ti = T and tc = theta: Ms 1.59, gain margin 3.14, phase margin 61.4 degrees, whatever K and T."""
        for model in (Fopdt(1.0, 1.0, 2.0), Fopdt(-0.4, 5.0, 30.0)):
            found = margins(model, simc(model))
            self.assertAlmostEqual(found.ms, 1.59, delta=0.005)
            self.assertAlmostEqual(found.gain_margin, math.pi, delta=0.01)
            self.assertAlmostEqual(found.phase_margin_deg, 61.35, delta=0.1)

    def test_at_the_gain_margin_the_loop_swings_on(self) -> None:
        """Multiply the gain by its margin: a marched loop neither grows nor dies."""
        gains = simc(self.MODEL)
        edge = margins(self.MODEL, gains).gain_margin
        swings = []
        for share in (0.9, 1.1):
            dt, y, late = 0.02, 0.0, [0.0] * round(3.0 / 0.02)
            pid = Pid(Gains(gains.kc * edge * share, gains.ti_s), -1e9, 1e9)
            trace = []
            for _ in range(round(300.0 / dt)):
                late.append(pid.scan(1.0, y, dt))
                y += (1.5 * late.pop(0) - y) / 12.0 * dt
                trace.append(y)
            swings.append(np.ptp(trace[-2000:]) / np.ptp(trace[:4000]))
        self.assertLess(swings[0], 0.5)
        self.assertGreater(swings[1], 2.0)

    def test_ziegler_nichols_is_the_least_robust(self) -> None:
        ms = [margins(self.MODEL, rule(self.MODEL)).ms for rule in (lambda_tuning, amigo, simc, ziegler_nichols)]
        self.assertEqual(max(ms), ms[-1])
        self.assertLess(ms[0], 1.3)

    def test_models_without_answer_or_dead_time_are_refused(self) -> None:
        for call in (
            lambda: simc(Fopdt(0.0, 1.0, 2.0)),
            lambda: simc(Fopdt(1.0, 0.0, 2.0)),
            lambda: amigo(Fopdt(1.0, 0.0, 2.0)),
        ):
            with self.assertRaises(OutOfRange):
                call()
