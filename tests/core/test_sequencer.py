"""The panel's rules as the manual would print them: contacts in, pumps out, scan by scan."""

import math
import unittest
from dataclasses import replace

from goodbalance.core.control.alarms import AlarmPanel, Lamp
from goodbalance.core.control.level_drive import DriveMode, LevelDrive
from goodbalance.core.control.relays import LevelRelay, OnFailure
from goodbalance.core.control.rotation import Alternation, Rotation
from goodbalance.core.control.sequencer import SUSPECT_CYCLES, Contacts, Sequencer, Switch, Timing
from goodbalance.core.control.trips import Trip
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.controller.program import program_of
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.windows.reckon import reckon
from goodbalance.core.stations.shared.crew import Standby
from goodbalance.core.stations.shared.held import Held
from tests import boosters, stations
from tests.stations import choices, survey

AT_ONCE = Timing(start_gap_s=0.0)


def panel(pumps: int, timing: Timing = AT_ONCE, **rotation) -> Sequencer:
    return Sequencer(Rotation(pumps, **rotation), timing)


def called(seq: Sequencer, calls: int, stops: int = 0) -> Contacts:
    """The first `calls` start contacts closed; the stop contacts of the last `stops` calls open."""
    count = seq.duty_count
    return Contacts(tuple(k < count - stops for k in range(count)), True, tuple(k < calls for k in range(count)))


def numbers(seq: Sequencer) -> tuple[int, ...]:
    return tuple(pump + 1 for pump, on in enumerate(seq.running) if on)


def leads(seq: Sequencer, cycles: int, run_s: float = 100.0) -> list[int]:
    """Which pump leads in each of several cycles: called for run_s, then at rest for as long."""
    found, now_s = [], 0.0
    for _ in range(cycles):
        seq.scan(called(seq, 1), now_s)
        found.append(seq.running.index(True) + 1)
        now_s += run_s
        seq.scan(called(seq, 1), now_s)
        seq.scan(called(seq, 0, seq.duty_count), now_s)
        now_s += run_s
    return found


class AlternationTest(unittest.TestCase):
    def test_who_leads_cycle_by_cycle(self) -> None:
        for rule, more, expected in (
            (Alternation.ALL_STOPPED, {}, [1, 2, 3, 1, 2]),
            (Alternation.ALL_STOPPED, {"standby": True}, [1, 2, 1, 2, 1]),  # pump 3 stands by
            (Alternation.ALL_STOPPED, {"standby": True, "all_turn": True}, [1, 2, 3, 1, 2]),  # it takes its turn
            (Alternation.EACH_STOP, {}, [1, 2, 3, 1, 2]),
            (Alternation.FIXED, {}, [1, 1, 1, 1, 1]),
            (Alternation.CLOCK, {"clock_period_s": 500.0}, [1, 1, 1, 2, 2]),  # a cycle takes 200 s
            (Alternation.ALL_STOPPED, {"first_group": 1}, [1, 1, 1, 1, 1]),  # the small pump always comes first
        ):
            with self.subTest(rule=rule, **more):
                self.assertEqual(leads(panel(3, alternation=rule, **more), 5), expected)

    def test_run_hours_give_the_turn_to_the_pump_that_has_run_least(self) -> None:
        seq = panel(3, alternation=Alternation.RUN_HOURS)
        seq.run_s = [0.0, 500.0, 120.0]
        # pump 1 runs 100 (100 < 120), again (200 > 120): then pump 3 runs to 220, then pump 1 (200 < 220)
        self.assertEqual(leads(seq, 4), [1, 1, 3, 1])

    def test_with_own_stops_which_pump_stops_first(self) -> None:
        """Both pumps run; the assist's stop contact opens, then the duty's. First on, first off, or last on."""
        for rule, after_assist_stop in ((Alternation.FIXED, (1,)), (Alternation.EACH_STOP, (2,))):
            seq = panel(2, alternation=rule)
            for second, (calls, stops, expected) in enumerate(
                ((1, 0, (1,)), (2, 0, (1, 2)), (0, 1, after_assist_stop), (0, 0, after_assist_stop), (0, 2, ()))
            ):
                seq.scan(called(seq, calls, stops), float(second))
                self.assertEqual(numbers(seq), expected, f"{rule}, row {second}")

    def test_groups_small_first_and_two_pairs(self) -> None:
        """calls latched so far, then who runs; the first group rests while a larger pump serves a call."""
        for first, rests, rows in (
            (1, True, ((1, (1,)), (2, (2,)), (3, (2, 3)))),
            (1, False, ((1, (1,)), (2, (1, 2)), (3, (1, 2, 3)))),
            (2, True, ((1, (1,)), (2, (1, 2)), (3, (3,)), (4, (3, 4)))),
        ):
            seq = panel(4 if first == 2 else 3, first_group=first, first_rests=rests)
            for second, (calls, expected) in enumerate(rows):
                seq.scan(called(seq, calls), float(second))
                self.assertEqual(numbers(seq), expected, (first, rests, calls))
            seq.scan(called(seq, 0, seq.duty_count), 10.0)
            seq.scan(called(seq, first + 1), 20.0)  # the larger pumps have taken turns among themselves
            self.assertIn(first + 2, numbers(seq))

    def test_a_dead_small_pump_sends_its_call_to_the_others(self) -> None:
        seq = panel(3, first_group=1)
        seq.turn_switch(0, Switch.OFF)
        seq.scan(called(seq, 1), 0.0)
        self.assertEqual(numbers(seq), (2,))

    def test_a_standby_runs_only_in_the_place_of_another(self) -> None:
        seq = panel(3, standby=True)
        seq.scan(called(seq, 2), 0.0)
        self.assertEqual(numbers(seq), (1, 2))
        seq.turn_switch(1, Switch.OFF)
        seq.scan(called(seq, 2), 1.0)
        self.assertEqual(numbers(seq), (1, 3))

    def test_of_two_called_at_once_the_lead_starts_first(self) -> None:
        seq = panel(3, Timing(start_gap_s=5.0))
        seq.rotation.order = [2, 0, 1]
        seq.scan(called(seq, 2), 100.0)
        self.assertEqual(numbers(seq), (3,))
        seq.scan(called(seq, 2), 105.0)
        self.assertEqual(numbers(seq), (1, 3))


class PumpUpTest(unittest.TestCase):
    def test_a_tank_is_filled_by_relays_that_energise_on_fall(self) -> None:
        """Pump-up: starts at 2.0 m and 1.5 m on the fall, stop at 3.0 m on the rise; the same panel latches and shares."""
        relays = (
            LevelRelay("stop", "Stop", 2.9, 3.0, OnFailure.RELEASE),
            LevelRelay("start_1", "Start", 2.0, 2.1, OnFailure.RELEASE),
            LevelRelay("start_2", "Assist", 1.5, 1.6, OnFailure.RELEASE),
        )
        self.assertFalse(any(relay.energises_on_rise for relay in relays))
        seq, states = panel(2), [False] * 3
        for second, (level_m, expected) in enumerate(
            ((3.1, ()), (2.5, ()), (2.0, (1,)), (2.4, (1,)), (1.5, (1, 2)), (2.8, (1, 2)), (3.0, ()), (2.0, (2,)))
        ):
            states = [relay.follows(was, level_m) for relay, was in zip(relays, states)]
            seq.scan(Contacts((states[0],) * 2, True, tuple(states[1:])), float(second))
            self.assertEqual(numbers(seq), expected, level_m)
        states = [relay.follows(was, None) for relay, was in zip(relays, states)]
        self.assertEqual(states, [False] * 3)  # level lost: the stop opens, nothing floods


class TimerTest(unittest.TestCase):
    def first_second(self, seq: Sequencer, contacts, wanted: tuple[int, ...], upto: int = 400, begin: int = 0) -> int:
        for second in range(begin, upto):
            seq.scan(contacts, float(second))
            if numbers(seq) == wanted:
                return second
        self.fail(f"{wanted} never ran alone")

    def test_each_timer_by_the_watch(self) -> None:
        """The second at which a pump starts or stops, told by each timer alone."""
        seq = panel(2, Timing(start_gap_s=0.0, start_delay_s=4.0))
        self.assertEqual(self.first_second(seq, called(seq, 1), (1,)), 4)
        seq = panel(2, Timing(start_gap_s=7.0))
        self.assertEqual(self.first_second(seq, called(seq, 2), (1, 2)), 7)
        seq = panel(2, Timing(start_gap_s=0.0, stop_delay_s=6.0))
        seq.scan(called(seq, 1), 0.0)
        self.assertEqual(self.first_second(seq, called(seq, 0, 2), (), begin=1), 7)
        seq = panel(2, Timing(start_gap_s=0.0, min_run_s=30.0))
        seq.scan(called(seq, 1), 0.0)
        self.assertEqual(self.first_second(seq, called(seq, 0, 2), (), begin=1), 30)
        seq = panel(1, Timing(start_gap_s=0.0, min_off_s=50.0))
        seq.scan(called(seq, 1), 0.0)
        seq.scan(called(seq, 0, 1), 10.0)
        self.assertEqual(self.first_second(seq, called(seq, 1), (1,), begin=11), 60)
        seq = panel(2, Timing(start_gap_s=0.0, assist_s=90.0))
        seq.scan(called(seq, 0), 0.0)  # the panel has been at rest for long: the timer counts from the call alone
        self.assertEqual(self.first_second(seq, called(seq, 1), (1, 2), upto=700, begin=500), 590)
        seq = panel(2, Timing(start_gap_s=0.0, max_run_s=120.0))
        self.assertEqual(self.first_second(seq, called(seq, 1), (2,)), 120)
        self.assertEqual(seq.over_run, {0})

    def test_low_water_ends_a_least_run_at_once(self) -> None:
        seq = panel(1, Timing(start_gap_s=0.0, min_run_s=30.0))
        seq.scan(called(seq, 1), 0.0)
        seq.scan(Contacts((True,), False, (False,)), 5.0)
        self.assertEqual(numbers(seq), ())

    def test_a_start_shorter_than_its_delay_is_forgotten(self) -> None:
        seq = panel(1, Timing(start_gap_s=0.0, start_delay_s=4.0))
        for second in range(40):
            seq.scan(called(seq, 1 if second % 4 < 3 else 0), float(second))
            self.assertEqual(numbers(seq), ())

    def test_the_next_change_is_when_something_changes(self) -> None:
        """Scanning only at the promised times gives the same starts as scanning every second."""
        timing = Timing(3.0, 5.0, 2.0, 4.0, 20.0, 15.0, 60.0, 30.0)

        def starts(every_second: bool) -> list[tuple[float, tuple[int, ...]]]:
            seq, now_s, found = panel(2, timing), 0.0, []
            while now_s < 300.0:
                seq.scan(called(seq, 1 if now_s % 150.0 < 100.0 else 0, 0 if now_s % 150.0 < 100.0 else 2), now_s)
                if not found or found[-1][1] != numbers(seq):
                    found.append((now_s, numbers(seq)))
                edge_s = min(edge for edge in (100.0, 150.0, 250.0, 300.0) if edge > now_s)
                step_s = (
                    1.0
                    if every_second
                    else max(1.0, math.floor(seq.next_change_s()) if seq.next_change_s() < 1e9 else 1e9)
                )
                now_s = min(now_s + step_s, edge_s)
            return found

        self.assertGreater(len(starts(True)), 6)
        self.assertEqual(starts(False), starts(True))


class ProtectionTest(unittest.TestCase):
    def test_a_starter_without_feedback_is_given_up_and_off_resets_it(self) -> None:
        seq = panel(2, Timing(start_gap_s=0.0, feedback_s=5.0))
        for second in range(7):
            seq.scan(called(seq, 1), float(second), (False, seq.running[1]))
        self.assertEqual((seq.tripped, numbers(seq)), ([Trip.NO_FEEDBACK, None], (2,)))
        seq.turn_switch(0, Switch.OFF)
        seq.turn_switch(0, Switch.AUTO)
        self.assertEqual(seq.tripped, [None, None])

    def test_a_pump_that_starts_too_often_is_told_of_or_locked_out(self) -> None:
        """Two starts within an hour, called each 20 minutes, pump 1 always leads; the third is within 40 minutes of the first, the fourth an hour after it."""
        for locks, runs, told, gone in ((False, [(1,), (1,), (1,), (1,)], {0}, None), (True, [(1,), (1,), (), (2,)], set(), Trip.TOO_OFTEN)):
            seq, seen = panel(2, replace(AT_ONCE, most_starts=2, starts_lock=locks), alternation=Alternation.FIXED), []
            for turn in range(4):
                seq.scan(called(seq, 1), 1200.0 * turn)
                seen.append(numbers(seq))
                seq.scan(called(seq, 0, seq.duty_count), 1200.0 * turn + 60.0)
            self.assertEqual((seen, seq.over_often, seq.tripped[0]), (runs, told, gone))
        seq.turn_switch(0, Switch.OFF)
        seq.turn_switch(0, Switch.AUTO)
        seq.scan(called(seq, 1), 4000.0)
        self.assertEqual(numbers(seq), (1,))  # counted anew
        by_hand = panel(1, replace(AT_ONCE, most_starts=1, starts_lock=True))
        for turn, place in enumerate((Switch.HAND, Switch.OFF, Switch.HAND)):
            by_hand.turn_switch(0, place)
            by_hand.scan(called(by_hand, 0, 1), 10.0 * turn)
        self.assertEqual((numbers(by_hand), by_hand.tripped), ((1,), [None]))  # who stands at the switch decides

    def test_a_pump_that_runs_too_long_passes_its_turn_or_is_told_of(self) -> None:
        for passes, runs in ((True, (2,)), (False, (1,))):
            seq = panel(2, replace(AT_ONCE, max_run_s=100.0, long_passes=passes))
            for now_s in (0.0, 99.0, 101.0, 102.0):
                seq.scan(called(seq, 1), now_s)
            self.assertEqual((numbers(seq), seq.over_run), (runs, {0}))

    def test_a_lost_phase_stops_all_even_in_hand_and_they_return_one_by_one(self) -> None:
        seq = panel(2, Timing(start_gap_s=10.0))
        seq.turn_switch(1, Switch.HAND)
        for second in range(36):
            seq.phases_ok = not 12 <= second < 15
            seq.scan(called(seq, 1), float(second))
            # called and in HAND: 1 at once, 2 after a gap; out from 12; the gap runs from its return at 15
            expected = {5: (1,), 11: (1, 2), 12: (), 24: (), 25: (1,), 34: (1,), 35: (1, 2)}.get(second)
            if expected is not None:
                self.assertEqual(numbers(seq), expected, second)

    def test_off_forgives_that_pump_alone(self) -> None:
        seq = panel(2)
        seq.cycles = ((0, True), (1, False), (0, True))
        seq.turn_switch(1, Switch.HAND)
        self.assertEqual(len(seq.cycles), 3)
        seq.turn_switch(0, Switch.OFF)
        self.assertEqual(seq.cycles, ((1, False),))

    def test_who_is_suspected_of_pumping_nothing(self) -> None:
        """Cycles as (assist needed?) in turn; with alternation every second cycle is led by pump 1."""
        for needs, alternation, suspects in (
            ((True, False) * 4, Alternation.ALL_STOPPED, (0,)),  # pump 1 needs help each time it leads
            ((True, False) * 3, Alternation.ALL_STOPPED, ()),  # only three times so far
            ((True,) * 8, Alternation.ALL_STOPPED, ()),  # both need it: a storm
            ((True,) * 7 + (False,) * 2, Alternation.ALL_STOPPED, ()),  # a storm that has passed accuses nobody either
            ((True, False) * 4 + (False, False), Alternation.ALL_STOPPED, ()),  # one good cycle clears it
            ((True,) * 7, Alternation.FIXED, ()),  # nobody to compare it with
        ):
            seq, now_s = panel(2, alternation=alternation), 0.0
            for need in needs:
                for contacts in (called(seq, 1), called(seq, 2 if need else 1), called(seq, 0, 2)):
                    seq.scan(contacts, now_s)
                    now_s += 10.0
            self.assertEqual(seq.suspects(), suspects, (needs, alternation))

    def test_how_many_cycles_accuse_is_a_rule_and_its_default_is_hard_to_reach_by_chance(self) -> None:
        """Worst case over the share p of cycles that need help by chance: p^k (1 - p)^(k - 1), tried in steps of 0.001."""
        worst = {k: max((p / 1000) ** k * (1 - p / 1000) ** (k - 1) for p in range(1001)) for k in (3, SUSPECT_CYCLES)}
        self.assertGreater(worst[3], 0.01)
        self.assertLess(worst[SUSPECT_CYCLES], 0.01)
        for count in (2, 6):
            facts, decided = survey(control={"kind": "pump_controller"}), choices(rules={"suspect_cycles": count})
            seq, now_s = lift_bench(facts, decided, reckon(facts, decided, False)).logic.panel, 0.0
            for cycle in range(2 * count):
                self.assertEqual(seq.suspects(), () if cycle < 2 * count - 1 else (0,), (count, cycle))
                for contacts in (called(seq, 1), called(seq, 2 if cycle % 2 == 0 else 1), called(seq, 0, 2)):
                    for _ in range(3):  # past every delay
                        seq.scan(contacts, now_s)
                        now_s += 300.0


class AlarmTest(unittest.TestCase):
    def test_a_lamp_from_new_to_clear(self) -> None:
        """What happens, the lamp after it with automatic reset, and with reset by hand."""
        for by_hand, expected in (
            (False, (Lamp.FLASHING, Lamp.STEADY, None, Lamp.FLASHING, None, None)),
            (True, (Lamp.FLASHING, Lamp.STEADY, Lamp.WAITING, Lamp.FLASHING, Lamp.FLASHING, None)),
        ):
            alarms, seen = AlarmPanel(by_hand), []
            for doing in ("comes", "silence", "goes", "comes", "goes", "reset"):
                if doing in ("silence", "reset"):
                    getattr(alarms, doing)()
                else:
                    alarms.update({"high": "High level"} if doing == "comes" else {})
                seen.append(alarms.lamps.get("high"))
            self.assertEqual(tuple(seen), expected)

    def test_reset_does_not_clear_what_still_holds(self) -> None:
        alarms = AlarmPanel(True)
        alarms.update({"high": "High level"})
        self.assertTrue(alarms.sounding)
        self.assertEqual(alarms.reset(), [])
        alarms.silence()
        self.assertFalse(alarms.sounding)


class LevelDriveTest(unittest.TestCase):
    def test_speed_by_level_is_a_straight_line_between_its_ends(self) -> None:
        drive = LevelDrive(DriveMode.BY_LEVEL, 0.6, ramp_s=1e-6, low_m=1.0, full_m=2.0)
        for level_m, expected in ((0.5, 0.6), (1.0, 0.6), (1.5, 0.8), (2.0, 1.0), (3.0, 1.0), (None, 1.0)):
            drive.scan(level_m, True, 1.0)
            self.assertAlmostEqual(drive.speed, expected)
        drive.scan(1.5, False, 1.0)
        self.assertEqual(drive.speed, 0.0)

    def test_the_ramp_limits_the_speed(self) -> None:
        drive = LevelDrive(DriveMode.FIXED, 0.5, ramp_s=10.0)
        seen = []
        for _ in range(7):
            drive.scan(1.0, True, 1.0)
            seen.append(round(drive.speed, 6))
        self.assertEqual(seen, [0.6, 0.7, 0.8, 0.9, 1.0, 1.0, 1.0])  # at least speed at once, then a tenth a second

    def test_holding_a_level_on_a_tank_settles_without_winding_up(self) -> None:
        """A = 3 m2, 0.02 m3/s per share of speed: K = 2 /m, T = 4 A / (k K) = 300 s, inflow 4 l/s above least speed."""
        drive = LevelDrive(DriveMode.HOLD_LEVEL, 0.5, 5.0, hold_m=1.5, gain=2.0, reset_s=300.0)
        level_m, highest_m = 1.5, 1.5
        for second in range(7200):
            inflow_m3s = 0.030 if second < 1800 else 0.004  # far more than it can take, then a steady flow
            drive.scan(level_m, True, 1.0)
            level_m = min(4.0, level_m + (inflow_m3s - 0.02 * (drive.speed - 0.5)) / 3.0)
            highest_m = max(highest_m, level_m)
        self.assertEqual(highest_m, 4.0)
        self.assertAlmostEqual(level_m, 1.5, delta=0.02)
        self.assertAlmostEqual(drive.speed, 0.7, delta=0.01)  # 0.5 + 0.004 / 0.02


class TurningStandbyTest(unittest.TestCase):
    """A standby that takes its turn: every pump leads now and then, and no more run at once than share the work."""

    def test_two_of_three_run_whoever_they_are(self) -> None:
        seq, now_s, ran = panel(3, standby=True, all_turn=True), 0.0, []
        for _ in range(4):
            for calls in (1, 2, 2):
                seq.scan(called(seq, calls), now_s)
                now_s += 30.0
            ran.append({index + 1 for index, on in enumerate(seq.running) if on})
            seq.scan(called(seq, 0, seq.duty_count), now_s)
            now_s += 100.0
        self.assertEqual(ran, [{1, 2}, {2, 3}, {1, 3}, {1, 2}])

    def test_both_kinds_prove_the_whole_round_and_a_device_that_leaves_the_standby_out_fails(self) -> None:
        for kind, made in ((LIFT, stations), (BOOSTER, boosters)):
            survey, choices = made.survey(pumping={"count": 3, "standby": True, "standby_turns": True}), made.choices()
            plan = kind.reckon(survey, choices, False)
            (proof,) = [proof for proof in kind.proofs(survey, choices, plan) if proof.id == "alternation"]
            self.assertEqual(proof.pumps, 3)
            found = kind.prove_on_bench(survey, choices, plan, only=frozenset({"alternation", "standby", "takeover", "assist_2", "joins"}))
            self.assertEqual({each.verdict.value for each in found}, {"passed"}, kind.id)
        survey = stations.survey(pumping={"count": 3, "standby": True, "standby_turns": True}, control={"kind": "pump_controller"})
        plan = LIFT.reckon(survey, stations.choices(), False)
        program = program_of(survey, stations.choices(), plan)
        held = Held(plan, replace(program, standby=Standby(1)))
        (shown,) = LIFT.prove_on_bench(survey, stations.choices(), plan, held, only=frozenset({"alternation"}))
        self.assertEqual(shown.verdict.value, "failed")
        self.assertEqual(LIFT.keypad.values(survey, stations.choices(), plan, Display.METRES)["pumps.standby"].value, "turns")

    def test_it_must_be_like_the_others(self) -> None:
        told = LIFT.plausibility({"pumping.standby": True, "pumping.standby_turns": True, "pumping.twins": False, "pumping.count": 3})
        self.assertIn("standby_unlike", [finding.code for finding in told])
        alike = LIFT.plausibility({"pumping.standby": True, "pumping.standby_turns": True, "pumping.twins": True, "pumping.count": 3})
        self.assertNotIn("standby_unlike", [finding.code for finding in alike])
