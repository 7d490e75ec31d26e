"""Relays, panel, plant and reasons of a lift station on the bench."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.control.relays import LevelRelay, OnFailure
from goodbalance.core.control.rotation import Rotation
from goodbalance.core.control.sequencer import Contacts, Sequencer, Switch, Timing
from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.engine import TimedAction, begun, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.names import Harm, Role
from goodbalance.core.stations.lift.plant.water import day_pattern_m3s
from goodbalance.core.stations.lift.windows.reckon import reckon
from tests.stations import choices, survey

M = UnitSystem.METRIC


def bench(level_m: float | None = None, decided=None, **changes):
    decided = decided or choices()
    station = survey(**changes)
    return lift_bench(station, decided, reckon(station, decided), level_m)


def inflow(at_s: float, flow_m3s: float) -> TimedAction:
    return TimedAction(at_s, "inflow", "", flow_m3s)


def starts_of(run, pump: int) -> list[float]:
    return [event.at_s for event in among(run.events, Thing.PUMP, Doing.STARTS, pump=pump)]


class RelayTest(unittest.TestCase):
    def test_pairs_on_rise_and_on_fall(self) -> None:
        rise = LevelRelay("start_1", "Duty start", 1.00, 0.90, OnFailure.RELEASE)
        fall = LevelRelay("low_alarm", "Low alarm", 0.40, 0.50, OnFailure.HOLD)
        for relay, levels, expected in (
            (rise, (0.95, 1.00, 0.95, 0.90, 0.95), (False, True, True, False, False)),
            (fall, (0.45, 0.40, 0.45, 0.50, 0.45), (False, True, True, False, False)),
        ):
            energised, seen = False, []
            for level_m in levels:
                energised = relay.follows(energised, level_m)
                seen.append(energised)
            self.assertEqual(tuple(seen), expected)

    def test_each_way_to_fail(self) -> None:
        for on_failure, was, expected in (
            (OnFailure.RELEASE, True, False),
            (OnFailure.ENERGISE, False, True),
            (OnFailure.HOLD, True, True),
            (OnFailure.HOLD, False, False),
        ):
            self.assertIs(LevelRelay("stop", "Stop", 1.0, 0.9, on_failure).follows(was, None), expected)


class SequencerTest(unittest.TestCase):
    """The panel's rules as a table: contacts (stop, low water, duty start, assist start) and who runs after."""

    def test_calls_latch_until_the_stop_contact_opens_and_the_turn_changes(self) -> None:
        panel = Sequencer(Rotation(2), Timing(start_gap_s=0.0))
        table = (
            # stop   low    duty   assist  running
            (False, True, False, False, ()),  # below stop
            (True, True, False, False, ()),  # risen over stop: nothing calls yet
            (True, True, True, False, (1,)),  # duty start
            (True, True, False, False, (1,)),  # contact open again: latched
            (True, True, True, True, (1, 2)),  # assist joins
            (True, True, False, False, (1, 2)),
            (False, True, False, False, ()),  # stop: both drop
            (True, True, True, False, (2,)),  # next cycle: the other leads
            (True, False, True, False, ()),  # low water opens
            (True, True, True, False, (1,)),  # and turn has changed again
        )
        for second, (stop, low, duty, assist, expected) in enumerate(table):
            panel.scan(Contacts((stop, stop), low, (duty, assist)), float(second))
            running = tuple(pump + 1 for pump, on in enumerate(panel.running) if on)
            self.assertEqual(running, expected, f"row {second}")

    def test_a_pump_in_off_is_passed_over_and_one_in_hand_runs_anyway(self) -> None:
        panel = Sequencer(Rotation(3), Timing(start_gap_s=0.0))
        panel.switches = [Switch.OFF, Switch.AUTO, Switch.HAND]
        panel.scan(Contacts((True,) * 3, True, (True, False, False)), 0.0)
        self.assertEqual(panel.running, [False, True, True])
        panel.scan(Contacts((False,) * 3, False, (False,) * 3), 1.0)
        self.assertEqual(panel.running, [False, False, True])  # HAND knows no levels

    def test_two_starts_keep_their_gap_also_after_a_power_return(self) -> None:
        panel = Sequencer(Rotation(2), Timing(start_gap_s=10.0))
        both = Contacts((True, True), True, (True, True))
        panel.power = False
        panel.scan(both, 100.0)
        panel.power = True
        seen = []
        for second in range(101, 125):
            panel.scan(both, float(second))
            seen.append((second, sum(panel.running)))
        self.assertEqual(next(s for s, count in seen if count == 1), 111)
        self.assertEqual(next(s for s, count in seen if count == 2), 121)

    def test_after_a_long_outage_no_pump_starts_at_once(self) -> None:
        """Nobody scans while the supply is away: the gap counts from its return, not from when it went."""
        panel = Sequencer(Rotation(2), Timing(start_gap_s=10.0))
        both = Contacts((True, True), True, (True, True))
        panel.power = False
        panel.scan(both, 100.0)
        panel.power = True
        panel.scan(both, 4000.0)
        self.assertEqual(panel.running, [False, False])
        panel.scan(both, 4010.0)
        self.assertEqual(panel.running, [True, False])


class PlantTest(unittest.TestCase):
    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.floats(0.0, 0.03), min_size=1, max_size=6), st.floats(0.3, 4.0))
    def test_water_is_conserved_whatever_the_inflow(self, flows, level_m) -> None:
        station = bench(level_m)
        before_m3 = station.plant.volume_m3
        rehearse(station, tuple(inflow(i * 900.0, flow) for i, flow in enumerate(flows)), 900.0 * len(flows) + 600.0)
        plant = station.plant
        change_m3 = plant.inflow_total_m3 - plant.pumped_total_m3 - plant.spilled_total_m3
        self.assertAlmostEqual(plant.volume_m3 - before_m3, change_m3, places=8)

    def test_the_smallest_band_found_by_trying_equals_the_formula(self) -> None:
        """Run the bench at the worst inflow with ever other bands; the smallest that keeps T is V = Q T / 4 within 1 %.

        The pumps give 10 l/s at every level here, as the formula takes them.
        """
        station, stop_m, wanted_s = survey(), 0.7, 900.0

        def cycle_s(start_m: float) -> float:
            decided = choices(chosen={"stop": stop_m, "start_1": start_m, "call_delay": 0.0})
            found = lift_bench(station, decided, reckon(station, decided))
            found.plant.pumped_m3s = lambda running, level_m: 0.010 * len(running)
            run = rehearse(found, (inflow(0.0, 0.005),), 10_000.0)
            both = sorted(starts_of(run, 1) + starts_of(run, 2))
            return (both[-1] - both[1]) / (len(both) - 2)

        low_m, high_m = stop_m + 0.3, stop_m + 1.8
        for _ in range(12):
            middle_m = (low_m + high_m) / 2.0
            low_m, high_m = (middle_m, high_m) if cycle_s(middle_m) < wanted_s else (low_m, middle_m)
        # V = 0.010 * 900 / 4 = 2.25 m3 on 2 m2: 1.125 m
        self.assertAlmostEqual(high_m - stop_m, 1.125, delta=0.01125)

    def test_the_day_pattern_keeps_mean_and_limits(self) -> None:
        for low, mean, peak in ((0.0005, 0.002, 0.006), (0.0, 0.002, 0.0025), (0.002, 0.002, 0.002)):
            pattern = day_pattern_m3s(survey(inflow={"min_m3s": low, "mean_m3s": mean, "peak_m3s": peak}).inflow)
            self.assertAlmostEqual(sum(pattern) / 24.0, mean, places=9)
            self.assertGreaterEqual(min(pattern), low - 1e-12)
            self.assertLessEqual(max(pattern), peak + 1e-12)

    def test_hours_of_the_survey_are_the_pattern(self) -> None:
        flows = tuple(0.001 + 0.0001 * hour for hour in range(24))
        station = survey(inflow={"hourly": True, "hours": [{"flow_m3s": flow} for flow in flows]})
        self.assertEqual(day_pattern_m3s(station.inflow), flows)

    def test_a_rain_front_brings_its_water_and_runs_off(self) -> None:
        """(peak - mean) x (half an hour rising + an hour full + three hours falling): 4 l/s x (900 + 3600 + 5400) s."""
        station = bench()
        actions = (inflow(0.0, 0.002), TimedAction(600.0, "rain", "", 1.0))
        run = rehearse(station, actions, 6 * 3600.0)
        rain_m3 = station.plant.inflow_total_m3 - 0.002 * run.now_s
        self.assertAlmostEqual(rain_m3, 0.004 * (900.0 + 3600.0 + 5400.0), places=6)
        self.assertAlmostEqual(max(row[2] for row in run.trace), 0.006, places=9)


class CycleTest(unittest.TestCase):
    def test_pumps_start_and_stop_at_their_levels_and_take_turns(self) -> None:
        station = bench()
        plan = reckon(survey(), choices())
        run = rehearse(station, (inflow(0.0, 0.005),), 4 * 3600.0)
        late_m = (plan.setting("call_delay").value + 1.0) * 0.005 / 2.0  # what flows in until the start is believed
        self.assertGreater(len(starts_of(run, 1)), 3)
        self.assertLessEqual(abs(len(starts_of(run, 1)) - len(starts_of(run, 2))), 1)
        for event in among(run.events, Thing.PUMP, Doing.STARTS):
            self.assertAlmostEqual(event.value("level"), plan.setting("start_1").value, delta=0.003 + late_m)
        for event in among(run.events, Thing.PUMP, Doing.STOPS):
            self.assertAlmostEqual(event.value("level"), plan.setting("stop").value, delta=0.006)

    def test_inflow_over_one_pump_brings_the_assist(self) -> None:
        run = rehearse(bench(), (inflow(0.0, 0.013),), 3600.0)
        self.assertTrue(any(among(run.events, Thing.CONTACT, Doing.CLOSES, of=Role.START_2)))
        self.assertFalse(any(among(run.events, Thing.HARM)))

    def test_a_flood_spills_and_is_told(self) -> None:
        run = rehearse(bench(), (inflow(0.0, 0.040),), 3600.0)
        self.assertTrue(any(among(run.events, Thing.HARM, of=Harm.OVERFLOWS)))
        self.assertAlmostEqual(run.bench.plant.level_m, 4.5, places=6)

    def test_a_pump_in_hand_draws_air_and_it_is_told(self) -> None:
        run = rehearse(bench(), (inflow(0.0, 0.0), TimedAction(0.0, "switch", "1", 0.0)), 1200.0)
        self.assertTrue(any(among(run.events, Thing.HARM, of=Harm.DRAWS_AIR)))

    def test_water_stands_at_the_intake_of_a_pump_that_could_take_more_than_comes(self) -> None:
        # lift 13 - 0.2 = 12.8 m; 20 - 100,000 Q^2 = 12.8 gives 8.485 l/s; 3 l/s come: 35.36 % of what it draws is water
        run = rehearse(bench(), (inflow(0.0, 0.003), TimedAction(0.0, "switch", "1", 0.0)), 3600.0)
        plant = run.bench.plant
        self.assertEqual([event.of for event in among(run.events, Thing.HARM)], [Harm.DRAWS_AIR])  # told once
        self.assertAlmostEqual(plant.level_m, 0.20, places=9)
        self.assertAlmostEqual(run.trace[-1][3], 0.003, places=9)  # goes out as it comes
        self.assertAlmostEqual(plant.inflow_total_m3 - plant.pumped_total_m3, plant.volume_m3 - 2.0 * run.trace[0][1], places=9)
        self.assertAlmostEqual(plant.drawn_share((0,), run.now_s), 0.003 / 0.072**0.5 * 10.0**0.5 * 10.0, places=5)
        motors = run.bench.motors
        dry_w, full_w, mixed_w = (dict(motors._loads_w(plant, (0,), run.bench.faults, share))[0] for share in (0.0, 1.0, 0.25))
        self.assertAlmostEqual(mixed_w, 0.75 * dry_w + 0.25 * full_w)
        self.assertLess(dry_w, full_w)
        flood = rehearse(bench(0.20), (inflow(0.0, 0.009), TimedAction(0.0, "switch", "1", 0.0)), 60.0)
        self.assertAlmostEqual(flood.seen_at(60.0).plant.level_m, 0.20 + 60.0 * (0.009 - 0.008485) / 2.0, delta=3e-4)  # more comes than it takes


class SensorFailureTest(unittest.TestCase):
    def run_with_open_loop(self, decided):
        actions = (inflow(0.0, 0.005), TimedAction(400.0, "loop_open", "", 1.0))
        station = bench(decided=decided, demands={"low_float": True})
        return rehearse(station, actions, 460.0)

    def test_stop_all_stops_and_alarms_after_the_delay(self) -> None:
        run = self.run_with_open_loop(choices())
        self.assertEqual(run.bench.logic.panel.running, [False, False])
        self.assertTrue(run.bench.logic.is_closed("high_alarm"))
        given_up = next(among(run.events, Thing.SENSOR, Doing.FAILS)).at_s
        self.assertAlmostEqual(given_up, 403.0, delta=1.0)

    def test_run_duty_keeps_one_pump_running(self) -> None:
        run = self.run_with_open_loop(choices(schools={"sensor_failure": "run_duty"}))
        self.assertEqual(sum(run.bench.logic.panel.running), 1)
        self.assertTrue(run.bench.logic.is_closed("high_alarm"))


class ReasonTest(unittest.TestCase):
    def deciding(self, run, pump: int) -> tuple[bool, str, str]:
        line = run.bench.reasons()[pump - 1]
        link = line.links[line.deciding]
        return line.runs, link.name, link.worded(M)

    def test_the_deciding_link_is_named(self) -> None:
        off = TimedAction(0.0, "switch", "1", 1.0)
        dead = TimedAction(0.0, "power", "", 0.0)
        open_loop = (inflow(0.0, 0.0), TimedAction(0.0, "loop_open", "", 1.0))
        plan = reckon(survey(), choices())
        start = f"{plan.setting('start_1').value:.2f} m"
        for actions, until_s, runs, name, part in (
            ((inflow(0.0, 0.0),), 5.0, False, "Call", start),
            ((off,), 5.0, False, "Switch", "OFF"),
            ((dead,), 5.0, False, "Power", "no supply"),
            (open_loop, 30.0, False, "Low water", "level signal lost"),
            ((TimedAction(0.0, "switch", "1", 0.0),), 5.0, True, "Switch", "HAND"),
        ):
            with self.subTest(name=name, part=part):
                told = self.deciding(rehearse(bench(), actions, until_s), 1)
                self.assertEqual(told[:2], (runs, name))
                self.assertIn(part, told[2])

    def test_the_second_in_turn_is_told_where_it_joins(self) -> None:
        run = rehearse(bench(1.2), (inflow(0.0, 0.009),), 300.0)
        self.assertTrue(self.deciding(run, 1)[0])
        runs, name, text = self.deciding(run, 2)
        self.assertEqual((runs, name), (False, "Turn"))
        self.assertIn("joins at", text)

    def test_a_running_timer_says_what_is_left(self) -> None:
        both = (TimedAction(0.0, "switch", "1", 0.0), TimedAction(4.0, "switch", "2", 0.0))
        run = rehearse(bench(decided=choices(chosen={"start_gap": 10.0})), both, 4.0)
        line = run.bench.reasons()[1]
        self.assertEqual(line.links[line.deciding].remaining_s, 6.0)  # started at 0 s, gap 10 s, now 4 s


class ReplayTest(unittest.TestCase):
    ACTIONS = (
        TimedAction(0.0, "pattern", "", 1.0),
        TimedAction(1234.5, "switch", "2", 1.0),
        TimedAction(7000.0, "loop_open", "", 1.0),
        TimedAction(7600.2, "loop_open", "", 0.0),
    )

    def test_looking_often_does_not_change_the_run(self) -> None:
        whole = rehearse(bench(), self.ACTIONS, 20000.0)
        watched = rehearse(bench(), self.ACTIONS, 0.0)
        for glance in range(1, 2001):
            watched.go_to(glance * 10.0)
            watched.seen_at(glance * 10.0).reasons()
        self.assertEqual(whole.digest(), watched.digest())

    def test_another_action_gives_another_run(self) -> None:
        other = (*self.ACTIONS[:3], TimedAction(7601.2, "loop_open", "", 0.0))
        self.assertNotEqual(rehearse(bench(), self.ACTIONS, 9000.0).digest(), rehearse(bench(), other, 9000.0).digest())

    def test_bad_actions_are_refused(self) -> None:
        for actions in (
            (TimedAction(0.0, "explode", "", 1.0),),
            (TimedAction(0.0, "switch", "7", 0.0),),
            (TimedAction(0.0, "switch", "1", 5.0),),
            (TimedAction(0.0, "inflow", "", -1.0),),
            (TimedAction(5.0, "power", "", 0.0), TimedAction(1.0, "power", "", 1.0)),
            (TimedAction(-1.0, "power", "", 0.0),),
        ):
            with self.subTest(actions=actions), self.assertRaises(OutOfRange):
                rehearse(bench(), actions, 10.0)
        with self.assertRaises(OutOfRange):
            rehearse(bench(), (), 1e9)
        with self.assertRaises(OutOfRange):
            bench(level_m=4.6)


class InPartsTest(unittest.TestCase):
    @settings(max_examples=20, deadline=None)
    @given(st.lists(st.integers(1, 40), min_size=1, max_size=12), st.floats(600.0, 7200.0))
    def test_a_run_that_is_interrupted_anywhere_goes_the_same_way(self, parts: list[int], until_s: float) -> None:
        """Every part ends after some steps; between the parts somebody looks at how it stands."""
        acts = (inflow(0.0, 0.004), inflow(450.0, 0.0065))
        at_once = rehearse(bench(1.0), acts, until_s)
        run, left = begun(bench(1.0), acts), iter(parts * 10_000)
        there = False
        while not there:
            steps = iter(range(next(left)))
            there = run.go_to(until_s, lambda steps=steps: next(steps, None) is None)
            self.assertLessEqual(run.now_s, until_s)
            self.assertEqual(run.trace[-1][0], run.now_s)  # what happens at this instant has been seen
        self.assertEqual(run.digest(), at_once.digest())

    def test_from_event_to_event_stops_at_each_and_changes_nothing(self) -> None:
        acts, until_s = (inflow(0.0, 0.004), inflow(450.0, 0.0065)), 3600.0
        at_once, run = rehearse(bench(1.0), acts, until_s), begun(bench(1.0), acts)
        run.go_to(0.0)
        stops = []
        while run.go_to(until_s, to_event=True) and run.events[-1].at_s == run.now_s and run.now_s not in stops:
            stops.append(run.now_s)
        self.assertEqual(stops, sorted({event.at_s for event in at_once.events if event.at_s > 0.0}))
        self.assertGreater(len(stops), 3)
        run.go_to(until_s)
        self.assertEqual(run.digest(), at_once.digest())

    def test_actions_out_of_order_are_refused_before_anything_moves(self) -> None:
        for acts in ((inflow(10.0, 0.0), inflow(5.0, 0.0)), (inflow(-1.0, 0.0),)):
            with self.assertRaises(OutOfRange):
                begun(bench(1.0), acts)
