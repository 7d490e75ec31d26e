"""Long steps where nothing changes say what the fine grid says, and scenes with a common beginning share it."""

import random
import unittest
from dataclasses import replace

from goodbalance.core.rehearsal.engine import Run, TimedAction, begun, rehearse
from goodbalance.core.rehearsal.proving import Scene, play
from goodbalance.core.stations.booster.bench.calm import timers_left_s
from goodbalance.core.stations.booster.bench.gliding import Glide, glance, glide_of
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.booster.bench.rehearse import BoosterBench
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.names import Mode, PumpFault, SetFault, Wait
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.plant.loop_model import LinearRegulator, LinearZone, shrinks_by, slopes
from tests.boosters import choices, reckon, survey
from tests.runs import SET_DAY, acts

SETS = (
    ({}, {}),
    ({"sharing": "serial"}, {}),
    ({"no_flow": "bump"}, {}),
    ({"no_flow": "speed"}, {"vessel": {"volume_m3": 0.0}}),
    ({"setback": "square"}, {}),
    ({}, {"remote": {"height_m": 18.0, "range_pa": 6e5}}),
    ({}, {"control": {"kind": "on_off"}}),
    ({}, {"control": {"kind": "fixed"}}),
    ({}, {"control": {"kind": "flow_stop"}}),
    ({}, {"control": {"kind": "on_off", "own_switches": True}, "vessel": {"volume_m3": 0.8}}),
)
NIGHT_AND_DAY = (0.0, 0.02, 0.1, 0.3, 0.5, 0.8, 1.0)  # of the design demand


def made(schools, noise_pa=0.0, **changes):
    facts = survey(**{**changes, "sensor": {"noise_pa": noise_pa}})
    decided = choices(None, schools)
    return facts, decided, reckon(facts, decided, False)


def fine(bench: BoosterBench) -> BoosterBench:
    """The same bench, never at rest."""
    bench.quiet_s = lambda now_s: 0.0
    return bench


def demand(seed: int, until_s: float = 1500.0) -> tuple[TimedAction, ...]:
    picked, found, at_s = random.Random(seed), [], 1.0
    while at_s < until_s:
        found.append(TimedAction(at_s, "outlets", "", picked.choice(NIGHT_AND_DAY)))
        at_s += picked.choice((20.0, 60.0, 150.0, 400.0))
    return tuple(found)


def breaking(seed: int, until_s: float = 1200.0) -> tuple[TimedAction, ...]:
    """Taps, supply, switches and parts, turned and broken and mended at random."""
    picked, found, at_s = random.Random(seed), [], 1.0
    while at_s < until_s:
        kind = picked.choice(("outlets",) * 4 + ("suction", "switch") + (*SetFault, *PumpFault))
        values = {"outlets": NIGHT_AND_DAY, "suction": (0.0, 2e4, 6e4, 1e5), "switch": (0.0, 1.0, 2.0, 2.0)}.get(kind, (0.0, 1.0))
        target = str(picked.randint(1, 3)) if kind in ("switch", *PumpFault) else ""
        found.append(TimedAction(at_s, kind, target, picked.choice(values)))
        at_s += picked.choice((10.0, 30.0, 90.0, 200.0))
    return tuple(found)


def happened(run: Run) -> list[tuple]:
    return [(event.thing, event.doing, event.of, event.pump) for event in run.events]


class SameAnswersTest(unittest.TestCase):
    def assert_same(self, station, actions, until_s: float, share: float = 0.62) -> None:
        long = rehearse(booster_bench(*station), actions, until_s)
        grid = rehearse(fine(booster_bench(*station)), actions, long.now_s)
        self.assertEqual(happened(long), happened(grid))
        for one, other in zip(long.events, grid.events):
            self.assertAlmostEqual(one.at_s, other.at_s, delta=0.51, msg=str(one))
        self.assertLess(len(long.trace), share * len(grid.trace))
        rows = {row[0]: row for row in grid.trace}
        moved_at = {event.at_s for run in (long, grid) for event in run.events}
        for row in long.trace:
            if row[0] in rows and not any(0.0 <= row[0] - at_s < 10.0 for at_s in moved_at):
                near = [rows[at_s][1] for at_s in (row[0] - 1.0, row[0] - 0.5, row[0], row[0] + 0.5, row[0] + 1.0) if at_s in rows]
                self.assertLess(min(near) - 2500.0, row[1], f"pressure at {row[0]}")
                self.assertGreater(max(near) + 2500.0, row[1], f"pressure at {row[0]}")
        self.assertAlmostEqual(long.bench.plant.pumped_m3, grid.bench.plant.pumped_m3, delta=0.003 * abs(grid.bench.plant.pumped_m3))
        self.assertAlmostEqual(long.bench.plant.energy_j, grid.bench.plant.energy_j, delta=0.006 * grid.bench.plant.energy_j)

    def test_the_fine_grid_says_the_same(self) -> None:
        for number, (schools, changes) in enumerate(SETS):
            with self.subTest(schools=schools, changes=changes):
                self.assert_same(made(schools, **changes), demand(number), 1600.0)

    def test_with_parts_broken_too(self) -> None:
        for schools in ({}, {"sharing": "serial"}):
            with self.subTest(schools=schools):
                self.assert_same(made(schools), acts(SET_DAY), 700.0, 0.9)

    def test_whatever_is_broken_and_mended(self) -> None:
        for number, seed in ((0, 1), (1, 2), (5, 3), (6, 148), (8, 6)):
            schools, changes = SETS[number]
            wired = {"control": {"suction_by": "sensor", "flow_switch": True, "flow_switch_m3s": 0.0003, **changes.get("control", {})}}
            with self.subTest(schools=schools, changes=changes, seed=seed):
                self.assert_same(made(schools, **{**changes, **wired}), breaking(seed), 1000.0, 1.01)

    def test_noise_moves_no_mean(self) -> None:
        station = made({}, 2000.0)
        actions = (TimedAction(1.0, "outlets", "", 0.7),)
        long = rehearse(booster_bench(*station), actions, 900.0)
        grid = rehearse(fine(booster_bench(*station)), actions, long.now_s)
        self.assertLess(len(long.trace), 0.2 * len(grid.trace))
        self.assertAlmostEqual(long.bench.plant.drawn_m3, grid.bench.plant.drawn_m3, delta=0.002 * grid.bench.plant.drawn_m3)
        self.assertAlmostEqual(long.bench.plant.energy_j, grid.bench.plant.energy_j, delta=0.004 * grid.bench.plant.energy_j)

    def test_water_is_conserved_over_long_steps(self) -> None:
        for schools, changes in SETS:
            bench = booster_bench(*made(schools, 2000.0, **changes))
            before = bench.plant.stored_m3(bench.plant.pressure_pa)
            rehearse(bench, demand(3), 1600.0)
            gained = bench.plant.stored_m3(bench.plant.pressure_pa) - before
            self.assertAlmostEqual(bench.plant.pumped_m3 - bench.plant.drawn_m3, gained, delta=1e-9 + 1e-9 * bench.plant.pumped_m3)


class HowLongTest(unittest.TestCase):
    def test_until_the_first_thing_that_comes(self) -> None:
        bench = booster_bench(*made({"night": True}))
        logic, n = bench.logic, bench.logic.numbers
        self.assertEqual(timers_left_s(logic, 0.0), (n.night_from_h - 12.0) * 3600.0)  # the bench begins at noon
        logic.clock_s = 20.0 * 3600.0
        evening_s = (n.night_from_h - 20.0) * 3600.0
        self.assertEqual(timers_left_s(logic, 100.0), evening_s - 100.0)
        self.assertEqual(timers_left_s(logic, evening_s + 60.0), (n.night_to_h - n.night_from_h) % 24 * 3600.0 - 60.0)
        logic.started_s[1] = [-3000.0, 50.0]
        self.assertEqual(timers_left_s(logic, 100.0), 500.0)
        for wait, delay_s in ((Wait.JOIN, n.join_delay), (Wait.LEAVE, n.leave_delay), (Wait.IDLE, n.sleep_delay), (Wait.BURST, n.burst_delay)):
            logic.since = {(wait, 0): 99.0, (Wait.LONG, 1): 0.0}
            self.assertAlmostEqual(timers_left_s(logic, 100.0), min(500.0, delay_s - 1.0), msg=wait)
        logic.since = {(Wait.JOIN, 0): 0.0}  # over: what it waited for has come
        self.assertEqual(timers_left_s(logic, 100.0), 500.0)


class GlideTest(unittest.TestCase):
    """Looks a second apart; a glide lasts 4, 2 or 1 s, so a quantity that moved by 1 may move 1.5 * 2 * 1 = 3 more in one of 2 s."""

    def test_how_long_and_how_coarsely_it_may_be_let_go_on(self) -> None:
        for name, paces_pas, (there, here), expected in (
            ("bends by 800 Pa/s2: 800 * 0.5 s * 0.5 s = 200 Pa in a part; 800 * 4 s * 4 s / 8 = 1600 Pa off the line", (-4000.0, -3200.0), (9.0, 8.0), (2.0, 0.5)),
            ("801 * 0.25 is more; in quarters of a second 801 / 16 = 50 Pa", (-4000.0, -3199.0), (9.0, 8.0), (2.0, 0.25)),
            ("3200 / 16 = 200 Pa", (-4000.0, -800.0), (9.0, 8.0), (2.0, 0.25)),
            ("and not more", (-4000.0, -799.0), (9.0, 8.0), None),
            ("200 Pa/s2 * 16 s2 / 8 = 400 Pa off the line, 7 - 0.9 = 6.1 > 1.5 * 4 * 1", (-1000.0, -1200.0), (8.0, 7.0), (4.0, 0.5)),
            ("and not more", (-1000.0, -1201.0), (8.0, 7.0), (2.0, 0.5)),
            ("7.5 kPa/s * 4 s = 30 kPa", (7.5e3, 7.5e3), (9.0, 8.0), (4.0, 0.5)),
            ("15 kPa/s * 2 s = 30 kPa", (15e3, 15e3), (9.0, 8.0), (2.0, 0.5)),
            ("30 kPa/s * 1 s = 30 kPa", (30e3, 30e3), (9.0, 8.0), (1.0, 0.5)),
            ("and not more", (30.1e3, 30.1e3), (9.0, 8.0), None),
            ("4 away, margin 0.9, moved by 1: 3 + 0.9 < 4", (0.0, 0.0), (-5.0, -4.0), (2.0, 0.5)),
            ("3.8 away: 1.5 + 0.9 < 3.8 for one second", (0.0, 0.0), (-4.8, -3.8), (1.0, 0.5)),
            ("2.3 away: not surely clear of its limit", (0.0, 0.0), (-3.3, -2.3), None),
            ("away from its limit as fast: it may come back", (0.0, 0.0), (1.2, 2.2), None),
            ("nearer than noise tells", (0.0, 0.0), (0.8, 0.8), None),
        ):
            with self.subTest(name, paces_pas=paces_pas):
                looks = [glance(at_s, Mode.RUNNING, (0,), pace, iter([(7.0 + away, 7.0, 0.9), (1.0, float("inf"), 0.0)])) for at_s, pace, away in zip((10.0, 11.0), paces_pas, (there, here))]
                self.assertEqual(glide_of(looks[1], looks[0]), None if expected is None else Glide(*expected))
                self.assertIsNone(glide_of(looks[1], None))
                self.assertIsNone(glide_of(replace(looks[1], served=(0, 1)), looks[0]))
                self.assertIsNone(glide_of(replace(looks[1], mode=Mode.FILLING), looks[0]))

    def test_a_set_on_its_way_to_rest_is_scanned_less(self) -> None:
        """A tank of 200 l after a tap was opened: no event for a minute, and the same pressures."""
        station = made({}, vessel={"volume_m3": 0.2})
        acts = (TimedAction(1.0, "outlets", "", 0.3), TimedAction(120.0, "outlets", "", 0.4))
        long, grid = rehearse(booster_bench(*station), acts, 160.0), rehearse(fine(booster_bench(*station)), acts, 160.0)
        scans = [[row for row in run.trace if 121.0 < row[0] < 160.0] for run in (long, grid)]
        self.assertLess(len(scans[0]), 0.5 * len(scans[1]))
        exact = {row[0]: row[1] for row in scans[1]}
        for row in scans[0]:
            self.assertAlmostEqual(row[1], exact[row[0]], delta=1200.0)


class SlicesTest(unittest.TestCase):
    def test_a_run_that_is_watched_goes_as_one_that_is_not(self) -> None:
        """Asked to go on by bits, by odd ones and by long ones: every row and event is the same."""
        for schools, changes in (SETS[0], SETS[1], SETS[5], SETS[6]):
            station, acts = made(schools, 1500.0, **changes), demand(4, 500.0)
            whole = rehearse(booster_bench(*station), acts, 600.0)
            for bit_s in (0.3, 1.0, 7.7):
                run = begun(booster_bench(*station), acts)
                for number in range(1, int(600.0 / bit_s) + 1):
                    run.go_to(number * bit_s)
                run.go_to(600.0)
                with self.subTest(schools=schools, changes=changes, bit_s=bit_s):
                    self.assertEqual(run.digest(), whole.digest())


class HuntingTest(unittest.TestCase):
    def test_a_loop_that_hunts_is_never_taken_for_calm(self) -> None:
        facts, decided, plan = made({}, 500.0)
        numbers = numbers_of(facts, decided, plan)
        wild = replace(numbers, gain=numbers.gain * 12.0, reset_time=numbers.reset_time / 4.0)
        actions = (TimedAction(1.0, "outlets", "", 0.3),)
        swings = []
        for bench in (booster_bench(facts, decided, plan, None, wild), fine(booster_bench(facts, decided, plan, None, wild))):
            late = [row[1] for row in rehearse(bench, actions, 300.0).trace if row[0] > 200.0]
            self.assertGreater(len(late), 190)
            swings.append(max(late) - min(late))
        self.assertGreater(swings[1], 5e3)
        self.assertAlmostEqual(swings[0], swings[1], delta=0.1 * swings[1])

    def test_the_linear_loop_by_hand(self) -> None:
        # No lag, no filter, no storage. Zone: 0.01 m3/s for full speed, 1e-8 + 1e-8 m3/s/Pa, so 5e5 Pa for full
        # speed. Gain 1e-6 per Pa, Ti 1 s: the proportional part makes up for 0.5, the integral for 0.05 in each reckoning.
        zone = LinearZone(per_speed=0.01, per_pa=1e-8, drawn_per_pa=1e-8, stored_per_pa=0.0, lag_s=0.0)
        regulator = LinearRegulator(gain=1e-6, reset_s=1.0, filter_s=0.0)
        # p' = 5e5 n', n' = -k p + i', i' = i - 0.1 k p, k p = 0.5 (n in shares): p' = -0.5 p - 0.05 p + I, I = 5e5 i
        # so [p', I'] = [[-0.55, 1], [-0.05, 1]] [p, I]: z^2 - 0.45 z - 0.5 = 0: z = (0.45 +- sqrt(0.2025 + 2)) / 2
        self.assertAlmostEqual(shrinks_by(zone, regulator), (0.45 + (0.2025 + 2.0) ** 0.5) / 2.0, delta=1e-9)
        self.assertGreater(shrinks_by(zone, replace(regulator, gain=3e-6)), 1.0)  # 1.65 of what was there comes back, turned round

    def test_slopes_are_those_of_the_pumps(self) -> None:
        facts, _, _ = made({})
        hyd = hydraulics(facts)
        speed, flow_m3s = 0.9, 0.003
        per_speed, per_pa = slopes(hyd, speed, flow_m3s, 2)
        at_pa = hyd.delivered_pa(flow_m3s, 2, 0.0, speed)

        def flow(n: float, pa: float) -> float:
            return 2.0 * hyd.flow_at(n, hyd.added_m(pa, 0.0))

        self.assertAlmostEqual((flow(speed + 1e-4, at_pa) - flow(speed - 1e-4, at_pa)) / 2e-4, per_speed, delta=1e-3 * per_speed)
        self.assertAlmostEqual((flow(speed, at_pa - 100.0) - flow(speed, at_pa + 100.0)) / 200.0, per_pa, delta=1e-3 * per_pa)


class SharedBeginningTest(unittest.TestCase):
    def test_scenes_go_as_if_each_were_played_alone(self) -> None:
        station = made({}, 2000.0)
        tap, more = TimedAction(1.0, "outlets", "", 0.3), TimedAction(60.0, "outlets", "", 1.0)
        trip, night = TimedAction(60.0, "trip", "1", 1.0), TimedAction(61.5, "suction", "", 2e4)
        start = booster_bench(*station).start
        scenes = [
            Scene("rests", start, (), 100.0),
            Scene("one tap", start, (tap,), 100.0),
            Scene("one tap, longer", start, (tap,), 260.0),
            Scene("one tap, ends where others go on", start, (tap,), 60.0),
            Scene("more", start, (tap, more), 200.0),
            Scene("more, and a trip at once", start, (tap, more, trip), 200.0),
            Scene("more, a trip, little water", start, (tap, more, trip, night), 200.0),
            Scene("more, then less", start, (tap, more, TimedAction(130.3, "outlets", "", 0.1)), 200.0),
            Scene("from lower", start - 2e4, (tap, more), 200.0),
        ]
        runs = play(scenes, lambda pa: booster_bench(*station, pa))
        for scene in scenes:
            alone = rehearse(booster_bench(*station, scene.start), scene.actions, scene.until_s)
            self.assertEqual(runs[scene].digest(), alone.digest(), scene.name)
            self.assertEqual(repr(runs[scene].bench), repr(alone.bench), scene.name)
