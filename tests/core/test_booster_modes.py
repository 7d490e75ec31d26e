"""Every way a booster set works in counts: night, setback, generator, far sensor; what its sheet holds of each; what closing outlets do.

Of one pump H = 60 - 2e6 Q^2; the speed without flow at p under a suction s is n = sqrt((p - s) / (60 METRE_PA)).
"""

import math
import unittest
from dataclasses import replace

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.control.trips import Trip
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.sheets.entry_sheet import RowKind, entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.booster.trials.energy import in_a_row, together
from goodbalance.core.stations.booster.windows.closing import Regulator, overshoot_pa
from goodbalance.core.stations.booster.windows.reckon import reckon
from goodbalance.core.stations.shared.held import Held
from tests import boosters
from tests.boosters import CURVE, METRE_PA, bounds, choices, plan_of, survey
from tests.core.test_booster_bench import station
from tests.core.test_booster_sheets import MOTOR, WALL


def idle(pressure_pa: float, suction_pa: float) -> float:
    """Speed at which a pump just holds a pressure without flow."""
    return math.sqrt((pressure_pa - suction_pa) / METRE_PA / 60.0)


def rows_of(profile, facts, decided, plan, display=Display.BAR):
    return entry_sheet(profile, BOOSTER.keypad.values(facts, decided, plan, display), BOOSTER.keypad.scale(facts, profile, display))


class SpeedTest(unittest.TestCase):
    def test_the_least_speed_stays_under_the_calmest_way_the_set_works_in(self) -> None:
        """By day 4 bar, at night 3.7, setback down to 3.6, on the generator 3.5; the supply at most at 1 bar."""
        generator = {"motor": {"generator": True, "generator_va": 9e3}}
        for name, chosen, schools, changes, lowest_pa in (
            ("day", {}, {}, {}, 400e3),
            ("night", {"night_pressure": 370e3}, {"night": True}, {}, 370e3),
            ("setback", {"no_flow_pressure": 360e3}, {"setback": "linear"}, {}, 360e3),
            ("generator", {"emergency_pressure": 350e3}, {}, generator, 350e3),
        ):
            with self.subTest(name):
                plan = plan_of({"set_pressure": 400e3, **chosen}, {"no_flow": "speed", **schools}, **changes)
                self.assertLessEqual(plan.setting("least_speed").window.high, idle(lowest_pa, 100e3) + 1e-6)
                self.assertGreater(plan.setting("least_speed").window.high, idle(lowest_pa, 100e3) - 0.08)

    def test_the_sleep_speed_is_passed_in_every_way_the_set_works_in(self) -> None:
        """It sleeps under its sleep speed: over the speed without flow of each way, at either end of the supply."""
        plan = plan_of(
            {"set_pressure": 400e3, "night_pressure": 370e3}, {"no_flow": "speed", "night": True}, supply={"high_pa": 22e3}
        )
        window = plan.setting("sleep_speed").window
        for held_pa in (400e3, 370e3):
            for suction_pa in (20e3, 22e3):
                self.assertGreaterEqual(window.low, idle(held_pa, suction_pa) - 1e-6)


class EndOfCurveTest(unittest.TestCase):
    def test_the_highest_supply_counts(self) -> None:
        """At 4 l/s a pump gives 60 - 32 = 28 m; behind it 1 bar more than the 28 m of a supply at nothing."""
        for high_pa in (100e3, 180e3):
            low = bounds(plan_of(supply={"high_pa": high_pa}), "burst_stop", "lower")["end of the pump curve"]
            self.assertAlmostEqual(low, 28.0 * METRE_PA + high_pa, delta=5.0)


class ClosingTest(unittest.TestCase):
    """Outlets closed at once with the gains in force: the trial of the plan against the whole bench with its controller."""

    LOOP = Regulator(400e3, 300e3, 4.0, 3.0, 0.2, 0.4, 1.0, 4.0)

    def test_a_stiffer_zone_and_a_slower_ramp_overshoot_more(self) -> None:
        small, large = (survey(vessel={"volume_m3": volume}) for volume in (0.05, 0.5))
        self.assertGreater(overshoot_pa(small, self.LOOP, 1.0, 0.3), 1.5 * overshoot_pa(large, self.LOOP, 1.0, 0.3))
        slow = Regulator(400e3, 300e3, 4.0, 3.0, 0.2, 0.4, 1.0, 12.0)
        self.assertGreater(overshoot_pa(small, slow, 1.0, 0.3), overshoot_pa(small, self.LOOP, 1.0, 0.3))

    def test_it_never_passes_what_the_pump_can_give_without_flow(self) -> None:
        facts = survey(vessel={"volume_m3": 0.02})
        most_pa = 60.0 * METRE_PA + 100e3 - 400e3
        for before, after in ((1.0, 0.0), (0.5, 0.01), (0.3, 0.3)):
            self.assertLessEqual(overshoot_pa(facts, self.LOOP, before, after), most_pa)
        self.assertLess(overshoot_pa(facts, self.LOOP, 0.3, 0.3), 2e3)  # nothing closes

    def test_no_sound_plan_trips_its_own_latching_stop(self) -> None:
        for schools, changes in (
            ({"no_flow": "speed"}, {}),
            ({"no_flow": "flow", "sharing": "serial"}, {}),
            ({"no_flow": "flow", "tuning": "amigo"}, {"vessel": {"volume_m3": 0.12}}),
        ):
            with self.subTest(schools=schools, changes=changes):
                made = station(schools, **changes)
                self.assertTrue(made[2].is_sound)
                demand = made[0].demand
                mean, tap = (flow / demand.design_m3s for flow in (demand.mean_m3s, demand.least_m3s))
                acts = [
                    TimedAction(0.0, "suction", "", hydraulics(made[0]).source_pa(True)),
                    *(TimedAction(at_s, "outlets", "", share) for at_s, share in ((1.0, 1.0), (180.0, mean), (260.0, 1.0), (440.0, mean), (520.0, tap))),
                ]  # fmt: skip
                found = rehearse(booster_bench(*made), tuple(acts), 620.0)
                self.assertNotIn("high", found.bench.logic.stops)
                self.assertLess(max(row[1] for row in found.trace), made[2].value("high_stop", 0.0))


class EnergyTest(unittest.TestCase):
    def test_a_full_pump_beyond_its_curve_or_without_suction_is_no_way(self) -> None:
        """At 3 bar from 0.6 bar a full pump gives sqrt((60 - 24.5) / 2e6) = 4.2 l/s, beyond the 4 l/s its curve ends at."""
        facts = survey(supply={"low_pa": 60e3})
        hyd = hydraulics(facts)
        full = math.sqrt((60.0 - 240e3 / METRE_PA) / 2e6)
        self.assertGreater(full, 0.004)
        self.assertIsNone(in_a_row(hyd, 300e3, 60e3, full + 0.0005, 2))
        self.assertIsNotNone(together(hyd, 300e3, 60e3, full + 0.0005, 2))
        way = in_a_row(hyd, 400e3, 60e3, 0.005, 2)  # 4 bar: 3.56 l/s by the full one, 1.44 by the other
        self.assertIsNotNone(way)
        full = math.sqrt((60.0 - 340e3 / METRE_PA) / 2e6)
        rest = math.sqrt((340e3 / METRE_PA + 2e6 * (0.005 - full) ** 2) / 60.0)
        self.assertAlmostEqual(way.speeds[1], rest, places=6)
        thirsty = survey(pumping={"curve": [{**point, "npsh_m": 16.5} for point in CURVE]}, supply={"low_pa": 60e3})
        self.assertIsNone(in_a_row(hydraulics(thirsty), 400e3, 60e3, 0.005, 2))  # 10.3 + 6.1 - 0.2 = 16.2 m are there


class SheetTest(unittest.TestCase):
    def test_a_per_cent_is_of_the_sensor_that_reads_the_value(self) -> None:
        """Set 4 bar of 10; far end 2.1 bar of 6: 35 %; suction -0.15 bar on -1 to 1 bar: 42.5 %."""
        facts = survey(
            control={"suction_by": "sensor"}, supply={"low_pa": 60e3, "high_pa": 62e3},
            suction_sensor={"low_pa": -1e5, "high_pa": 1e5}, remote={"height_m": 18.0, "range_pa": 600e3},
        )  # fmt: skip
        decided = choices({"set_pressure": 400e3, "remote_pressure": 210e3, "low_suction_stop": -15e3}, {"no_flow": "flow"})
        plan = reckon(facts, decided, False)
        sheet = rows_of(MOTOR, facts, decided, plan, Display.PERCENT_OF_SPAN)
        shown = {row.setting: row.shows for row in sheet.rows if row.setting}
        self.assertEqual(float(shown["set_pressure"]), 40.0)
        self.assertEqual(float(shown["remote_pressure"]), 35.0)
        self.assertEqual(float(shown["low_suction_stop"]), 42.5)

    def test_a_suction_sensor_without_a_range_is_not_shown_in_per_cent(self) -> None:
        facts = survey(control={"suction_by": "sensor"}, supply={"low_pa": 60e3, "high_pa": 62e3})
        decided = choices({"low_suction_stop": -15e3}, {"no_flow": "flow"})
        sheet = rows_of(MOTOR, facts, decided, reckon(facts, decided, False), Display.PERCENT_OF_SPAN)
        row = next(row for row in sheet.rows if row.parameter.meaning == "drive.1.low_suction_stop")
        self.assertIs(row.kind, RowKind.REFUSED)

    def test_the_clock_is_typed_where_something_hangs_on_it_and_only_there(self) -> None:
        facts = survey()
        decided = choices({}, {"night": True, "alternation": "clock"}, night_from_h=22, night_to_h=5, clock_period_s=8 * 3600.0)
        plan = reckon(facts, decided, False)
        for profile in (MOTOR, WALL):
            rows = {row.parameter.meaning: row for row in rows_of(profile, facts, decided, plan).rows}
            self.assertEqual(rows["drive.1.night_from"].shows, "22")
            self.assertEqual(rows["drive.3.night_to"].shows, "5")
            told = " ".join(BOOSTER.by_clock(facts, decided))
            self.assertIn("22 h to 5 h", told)
            self.assertIn("8 h", told)
            always = choices({}, {"night": False, "alternation": "all_stopped", "slow_fill": False})
            changes = {
                row.parameter.meaning for row in rows_of(profile, facts, always, reckon(facts, always, False)).rows
                if row.kind is RowKind.CHANGE
            }  # fmt: skip
            self.assertFalse({m for m in changes if "night" in m or "clock" in m or "remote" in m or "fill_" in m}, changes)
            self.assertEqual(BOOSTER.by_clock(facts, always), ())

    def test_the_gain_is_rescaled_for_the_span_of_the_far_sensor(self) -> None:
        """The same loop behind a range of 5 instead of 10 bar has twice the per cent for a bar: half the gain will do."""
        remote = {"height_m": 0.0}
        wide, narrow = (
            plan_of({"set_pressure": 400e3}, {"no_flow": "flow"}, remote={**remote, "range_pa": span}, sensor={"range_pa": span})
            for span in (1000e3, 500e3)
        )
        self.assertAlmostEqual(narrow.setting("gain").window.high, wide.setting("gain").window.high / 2.0, delta=0.02 * wide.setting("gain").window.high)
        mixed = plan_of({"set_pressure": 400e3}, {"no_flow": "flow"}, remote={**remote, "range_pa": 500e3})
        self.assertLessEqual(mixed.setting("gain").window.high, 1.02 * narrow.setting("gain").window.high)


class NightTest(unittest.TestCase):
    def test_the_bench_goes_by_the_clock_into_the_night_and_out_of_it(self) -> None:
        facts, decided, plan = station({"no_flow": "flow", "night": True})
        bench = booster_bench(facts, decided, plan)
        for hour, night in ((21.9, False), (22.0, True), (2.0, True), (5.99, True), (6.0, False), (12.0, False)):
            bench.logic.set_clock(hour)
            self.assertIs(bench.logic.night, night, hour)
        (shown,) = prove_on_bench(facts, decided, plan, None, frozenset({"night"}))
        self.assertIs(shown.verdict, Verdict.PASSED)


class RunOutTest(unittest.TestCase):
    """A burst: the set stops, or one pump goes on slowly, as was chosen; either is proved, and the other one fails."""

    def test_one_pump_goes_on_at_the_filling_speed_until_somebody_resets(self) -> None:
        survey, choices = boosters.survey(), boosters.choices(schools={"run_out": "slow"})
        plan = BOOSTER.reckon(survey, choices, False)
        (shown,) = BOOSTER.prove_on_bench(survey, choices, plan, only=frozenset({"burst"}))
        self.assertEqual(shown.verdict.value, "passed")
        acts = shown.scene.actions
        run = rehearse(BOOSTER.bench(survey, choices, plan), acts, shown.scene.until_s + 120.0)
        self.assertEqual(len(run.bench.running), 1)
        self.assertAlmostEqual(run.bench.plant.speeds[run.bench.running[0]], run.bench.logic.numbers.fill_speed, delta=0.01)
        self.assertIn("burst", {cause.what for cause in run.bench.alarms.lamps})
        self.assertIn("after a run-out", "".join(link.text for line in run.bench.reasons() for link in line.links))
        end_s = shown.scene.until_s + 120.0
        mended = (*acts, TimedAction(end_s, "burst", "", 0.0), TimedAction(end_s, "outlets", "", 0.4), TimedAction(end_s + 5.0, "reset", "", 1.0))
        run = rehearse(BOOSTER.bench(survey, choices, plan), mended, end_s + 200.0)
        self.assertFalse(run.bench.logic.slowed)
        self.assertAlmostEqual(run.bench.plant.pressure_pa, plan.value("set_pressure", 0.0), delta=2e4)

    def test_the_other_way_fails_the_proof(self) -> None:
        for wanted, does in (("slow", "stop"), ("stop", "slow")):
            survey, choices = boosters.survey(), boosters.choices(schools={"run_out": wanted})
            plan = BOOSTER.reckon(survey, choices, False)
            held = Held(plan, numbers_of(survey, boosters.choices(schools={"run_out": does}), plan))
            (shown,) = BOOSTER.prove_on_bench(survey, choices, plan, held, only=frozenset({"burst"}))
            self.assertEqual(shown.verdict.value, "failed", wanted)


class LimitTest(unittest.TestCase):
    """A pump that runs too long or starts too often is told of, or given up, as was chosen; the next takes over."""

    def run_with(self, acts: tuple[TimedAction, ...], until_s: float, schools: dict[str, str], **limits: float):
        survey, choices = boosters.survey(), boosters.choices(schools=schools)
        station = BOOSTER.bench(survey, choices, BOOSTER.reckon(survey, choices, False))
        station.logic.numbers = replace(station.logic.numbers, **limits)
        return rehearse(station, acts, until_s)

    def given_up(self, run, why: Trip) -> list[tuple[float, int]]:
        return [(event.at_s, event.pump) for event in among(run.events, Thing.PUMP, Doing.GIVEN_UP, of=why)]

    def test_a_run_over_the_limit(self) -> None:
        draw = (TimedAction(0.0, "outlets", "", 0.4),)
        told = self.run_with(draw, 1000.0, {}, max_run=600.0)
        self.assertEqual(self.given_up(told, Trip.TOO_LONG), [])
        self.assertIn(("long", 1), {(cause.what, cause.pump) for cause in told.bench.alarms.lamps})
        self.assertIn(0, told.bench.running)
        stopped = self.run_with(draw, 1000.0, {"long_run": "stops"}, max_run=600.0)
        started = next(among(stopped.events, Thing.PUMP, Doing.STARTS, pump=1)).at_s
        ((at_s, pump),) = self.given_up(stopped, Trip.TOO_LONG)
        self.assertEqual((pump, stopped.bench.running), (1, (1,)))
        self.assertAlmostEqual(at_s, started + 600.0, delta=1.0)
        self.assertIn("pump 1: ran too long", stopped.bench.alarms.words.values())

    def test_starts_over_the_limit(self) -> None:
        """Drawn and closed six times within an hour, two starts allowed: whoever leads is given up at its third."""
        acts = tuple(TimedAction(600.0 * turn + at_s, "outlets", "", share) for turn in range(6) for at_s, share in ((1.0, 0.4), (120.0, 0.0)))
        fixed = {"alternation": "fixed"}
        told = self.run_with(acts, 3600.0, fixed, starts_alarm=2.0)
        self.assertEqual(self.given_up(told, Trip.TOO_OFTEN), [])
        self.assertIn(("starts", 1), {(cause.what, cause.pump) for cause in told.bench.alarms.lamps})
        locked = self.run_with(acts, 3600.0, {**fixed, "many_starts": "stops"}, starts_alarm=2.0)
        gone = self.given_up(locked, Trip.TOO_OFTEN)
        self.assertEqual([pump for _, pump in gone][:2], [1, 2])  # the second starts as often in the place of the first
        for at_s, pump in gone:
            starts = [event.at_s for event in among(locked.events, Thing.PUMP, Doing.STARTS, pump=pump)]
            self.assertEqual(len(starts), 3)
            self.assertAlmostEqual(at_s, starts[2], delta=1.0)
        again = (*acts, TimedAction(3601.0, "switch", "1", 1.0), TimedAction(3602.0, "switch", "1", 2.0), TimedAction(3603.0, "outlets", "", 0.4))
        self.assertEqual(self.run_with(again, 3660.0, {**fixed, "many_starts": "stops"}, starts_alarm=2.0).bench.running, (0,))

    def test_another_limit_or_another_end_fails_the_proof_of_the_starts(self) -> None:
        """As planned it passes for each kind; one start more or less, or told of where it should be locked out, fails."""
        for kind, many in (("constant", "stops"), ("on_off", "stops"), ("flow_stop", "warns")):
            survey, choices = boosters.survey(control={"kind": kind, "flow_switch_m3s": 0.0003}), boosters.choices(schools={"many_starts": many})
            plan = BOOSTER.reckon(survey, choices, False)
            held = numbers_of(survey, choices, plan)
            for change, verdict in (({}, "passed"), ({"starts_alarm": held.starts_alarm + 1.0}, "failed"), ({"starts_alarm": held.starts_alarm - 1.0}, "failed"), ({"starts_lock": many == "warns"}, "failed")):
                (found,) = BOOSTER.prove_on_bench(survey, choices, plan, Held(plan, replace(held, **change)), only=frozenset({"starts_alarm"}))
                self.assertEqual(found.verdict.value, verdict, (kind, change))

    def test_both_are_typed_and_read_back(self) -> None:
        survey, choices = boosters.survey(), boosters.choices(schools={"long_run": "stops", "many_starts": "stops"})
        plan = BOOSTER.reckon(survey, choices, False)
        self.assertTrue(numbers_of(survey, choices, plan).long_stops and numbers_of(survey, choices, plan).starts_lock)
        asked = BOOSTER.keypad.values(survey, choices, plan, Display.BAR)
        self.assertEqual((asked["control.long_run"].value, asked["control.many_starts"].value), ("stops", "stops"))
        titles = " ".join(proof.title for proof in BOOSTER.proofs(survey, choices, plan))
        self.assertIn("A pump that runs too long is given up", titles)
