"""The monitor of a station's supply: its windows worked by hand, what it does on the bench, and what nobody does without it."""

import math
import unittest
from dataclasses import replace

from goodbalance.core.errors import OutOfRange
from goodbalance.core.protection.monitor import MonitorNumbers, SupplyWatch
from goodbalance.core.protection.names import MonitorBy, Restart, SupplyAct, SupplyFault, Watching
from goodbalance.core.protection.readings import At, ReadCurrent
from goodbalance.core.protection.supply import voltage_at
from goodbalance.core.protection.thermal import uneven_heat, uneven_within
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.lift.controller.program import program_of
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.names import Harm
from goodbalance.core.stations.lift.plant.motors import duties
from goodbalance.core.stations.shared.held import Held
from tests import boosters, stations
from tests.trails import false_trails

WATCHED = {"control": {"phase_monitor": True}, "protection": {"monitor": MonitorBy.VOLTAGES}}
BOTH = ((LIFT, stations), (BOOSTER, boosters))
LIMITS = MonitorNumbers(True, 350.0, 430.0, 0.03, 4.0, 15.0)


def as_planned(kind, survey, choices, plan):
    """Devices that hold just this plan."""
    return Held(plan, (program_of if kind is LIFT else numbers_of)(survey, choices, plan))


def by_hand(choices):
    return choices.model_copy(update={"protection": choices.protection.model_copy(update={"power_return": Restart.BY_HAND})})


class WindowTest(unittest.TestCase):
    def plan(self, choices=None, **facts):
        protection = {**WATCHED["protection"], **facts}
        return LIFT.reckon(stations.survey(control=WATCHED["control"], protection=protection), choices or stations.choices(), False)

    def test_each_dial_between_its_two_harms(self) -> None:
        """Plate 400 V. Low: 0.85 x 400 = 340 to 0.9 x 400 x 0.99 = 356.4; high: 1.05 x 400 x 1.01 = 424.2 to 1.1 x 400 = 440;
        uneven: 1 % + 1 % to 5 %; delay: 1 s x 1.5 to the 12 s of the rotor; wait: 5 s to the 7200 s that can be waited."""
        plan = self.plan()
        wanted = {Watching.LOW: (340.0, 356.4), Watching.HIGH: (424.2, 440.0), Watching.UNEVEN: (0.02, 0.05), Watching.DELAY: (1.5, 12.0), Watching.BACK: (5.0, 7200.0)}
        for each, (low, high) in wanted.items():
            setting = plan.setting(each)
            self.assertAlmostEqual(setting.window.low, low, places=9, msg=each)
            self.assertAlmostEqual(setting.window.high, high, places=9, msg=each)
            self.assertTrue(low <= setting.value <= high, each)
            self.assertTrue(all(bound.harm for bound in (*setting.window.lower, *setting.window.upper)))
        self.assertEqual(false_trails(plan), [])

    def test_what_was_read_counts_where_it_is_worse(self) -> None:
        """349, 352 and 355 V were read while a pump ran: mean 352, uneven by 3/352 = 0.85 %; the lowest lies under 360 V, so 349 x 0.99 = 345.51 bounds."""
        read = ReadCurrent(pump=1, at=At.NORMAL, amps=(4.0, 4.0, 4.0), volts=(349.0, 352.0, 355.0))
        plan = LIFT.reckon(stations.survey(**WATCHED).model_copy(update={"clamped": (read,)}), stations.choices(), False)
        self.assertAlmostEqual(plan.setting(Watching.LOW).window.high, 345.51)
        self.assertEqual(plan.setting(Watching.LOW).window.governing_upper.cause, "lowest voltage read while a pump ran")
        self.assertAlmostEqual(plan.setting(Watching.UNEVEN).window.low, 0.02)  # the survey's 1 % is more than what was read

    def test_where_the_overload_would_trip_first(self) -> None:
        """I^2 = (m v)^2 + (w/v)^2: with m = 6, w = 8 and I = 11 A v = 0.8109, and there the current is 11 A again; an overload that is tight enough bounds."""
        share = voltage_at(11.0, 6.0, 8.0)
        self.assertAlmostEqual(math.hypot(6.0 * share, 8.0 / share), 11.0)
        self.assertIsNone(voltage_at(math.inf, 6.0, 8.0))
        self.assertIsNone(voltage_at(6.0, 6.0, 8.0))  # it never takes so little
        cause = "where the overload trips in honest work"
        loose, tight = (
            {bound.cause: bound for bound in self.plan(stations.choices(chosen={"overload_1": trip_a})).setting(Watching.LOW).window.lower}[cause] for trip_a in (5.5, 4.75)
        )  # fmt: skip
        self.assertEqual(tight.refers_to, "overload_1")
        self.assertGreater(tight.value, loose.value)
        (duty,) = duties(stations.survey())  # 2.862 A magnetise, 4.1 A x 2603.8 / 2840.6 = 3.758 A work
        self.assertAlmostEqual(duty.model.current_a(duty.highest.input_w / duty.plate.input_w, 1.0, tight.value / 400.0), 4.75)

    def test_an_overload_lasts_through_the_lowest_honest_voltage(self) -> None:
        """2.8618 A magnetise, 3.7583 A work: 4.7239 A; at 0.9 of the voltage sqrt(2.5756^2 + 4.1759^2) = 4.9063 A, 3.86 % more: 5 A (the plate bounds the doubt) becomes 5.193 A. At 0.8 it governs: 5.532 A."""
        for low, value, governs in ((0.9, 5.1931, False), (0.8, 5.5316, True)):
            plan = LIFT.reckon(stations.survey(protection={"low_voltage": low}), stations.choices(), False)
            window = plan.setting("overload_1").window
            (bound,) = [bound for bound in window.lower if "honest voltage" in bound.cause]
            self.assertAlmostEqual(bound.value, value, places=3)
            self.assertIs(window.governing_lower is bound, governs)
            self.assertEqual(false_trails(plan), [])

    def test_uneven_phases_heat_by_twice_the_square_of_the_per_cent(self) -> None:
        """3.5 %: 2 x 3.5^2 = 24.5 % more heat. At full load 40 % more burn it: sqrt(40/2) = 4.47 %; at 80 % load 1.4/0.64 - 1 = 118.75 %: 7.71 %."""
        self.assertAlmostEqual(uneven_heat(0.035), 1.245)
        self.assertAlmostEqual(uneven_within(1.0), math.sqrt(20.0) / 100.0)
        self.assertAlmostEqual(uneven_within(0.8), math.sqrt(118.75 / 2.0) / 100.0)
        self.assertEqual(uneven_within(1.3), 0.0)
        self.assertRaises(OutOfRange, uneven_heat, -0.01)

    def test_a_monitor_without_dials_and_a_single_phase_ask_for_less(self) -> None:
        plain = LIFT.reckon(stations.survey(control=WATCHED["control"]), stations.choices(), False)
        self.assertEqual([each for each in Watching if each in plain], [])
        single = stations.survey(**WATCHED, pump_1={"phases": "one", "rated_voltage_v": 230.0, "rated_current_a": 17.0})
        self.assertEqual([each for each in Watching if each in LIFT.reckon(single, stations.choices(), False)], [each for each in Watching if each is not Watching.UNEVEN])

    def test_the_largest_start_against_what_a_generator_takes(self) -> None:
        """400 V, 5 A: 3464 VA; six times that is 20.8 kVA, and a drive starts with the plate's own."""
        for drives, takes_va, asks_va, keeps in ((False, 21e3, 6 * 400 * 5 * math.sqrt(3.0), True), (False, 20e3, 6 * 400 * 5 * math.sqrt(3.0), False), (True, 4e3, 400 * 5 * math.sqrt(3.0), True)):
            survey = stations.survey(protection={"largest_start_va": takes_va}, drives={"fitted": drives})
            (figure,) = [each for each in LIFT.reckon(survey, stations.choices(), False).figures if each.id == "largest_start"]
            self.assertAlmostEqual(figure.value, asks_va)
            self.assertIs(figure.keeps, keeps)

    def test_earth_leakage_protection_and_drives(self) -> None:
        """Behind a drive a fault may leak smooth direct current, and its filters leak in health; straight on the line neither counts."""
        for drives, leakage_by, leakage_a, found in (
            (True, "pulsed", 0.3, ["leakage_blind"]), (True, "alternating", 0.03, ["leakage_blind", "leakage_trips"]), (True, "smooth", 0.3, []),
            (True, "smooth", 0.03, ["leakage_trips"]), (True, "nothing", 0.03, []), (False, "alternating", 0.03, []),
        ):  # fmt: skip
            survey = stations.survey(protection={"leakage_by": leakage_by, "leakage_a": leakage_a}, drives={"fitted": drives})
            plan = LIFT.reckon(survey, stations.choices(), False)
            self.assertEqual([finding.code for finding in plan.findings if finding.code.startswith("leakage")], found)


class MonitorTest(unittest.TestCase):
    """Table by table, as its leaflet would say it: 350 to 430 V, 3 % uneven, 4 s, back after 15 s."""

    def watch(self, numbers: MonitorNumbers = LIMITS, three: bool = True) -> SupplyWatch:
        return SupplyWatch(400.0, three, numbers)

    def test_what_makes_it_let_go_and_when(self) -> None:
        cases = (
            ("lost phase", {SupplyFault.PHASE}, 1.0, 0.0, 0.0), ("swapped", {SupplyFault.SWAPPED}, 1.0, 0.0, 0.0), ("three quarters", {SupplyFault.LOW}, 1.0, 0.0, 4.0),
            ("a fifth too much", {SupplyFault.HIGH}, 1.0, 0.0, 4.0), ("7 % uneven", {SupplyFault.UNEVEN}, 1.0, 0.0, 4.0), ("351 V", set(), 351.0 / 400.0, 0.0, None),
            ("349 V", set(), 349.0 / 400.0, 0.0, 4.0), ("429 V", set(), 429.0 / 400.0, 0.0, None), ("431 V", set(), 431.0 / 400.0, 0.0, 4.0),
            ("2.9 %", set(), 1.0, 0.029, None), ("3.1 %", set(), 1.0, 0.031, 4.0),
        )  # fmt: skip
        for words, faults, volts, apart, wanted_s in cases:
            with self.subTest(words):
                watch = self.watch()
                self.assertTrue(watch.look(0.0, set(), True))
                watch.volts, watch.apart = volts, apart
                let_go = next((at for at in range(20) if not watch.look(float(at), faults, True)), None)
                self.assertEqual(let_go, wanted_s)

    def test_a_short_dip_is_forgotten(self) -> None:
        watch = self.watch()
        for at_s, faults, lets in ((0.0, {SupplyFault.LOW}, True), (3.0, {SupplyFault.LOW}, True), (3.5, set(), True), (5.0, {SupplyFault.LOW}, True), (8.9, {SupplyFault.LOW}, True), (9.0, {SupplyFault.LOW}, False)):
            self.assertIs(watch.look(at_s, faults, True), lets, at_s)

    def test_it_comes_back_after_its_wait_counted_from_the_last_good_moment(self) -> None:
        watch = self.watch()
        self.assertFalse(watch.look(0.0, {SupplyFault.PHASE}, True))
        self.assertIsNone(watch.waits_s)
        for at_s, faults, lets in ((10.0, set(), False), (20.0, {SupplyFault.PHASE}, False), (30.0, set(), False), (44.0, set(), False)):
            self.assertIs(watch.look(at_s, faults, True), lets, at_s)
        self.assertAlmostEqual(watch.waits_s, 1.0)
        self.assertTrue(watch.look(45.0, set(), True))

    def test_a_power_cut_is_no_supply_either(self) -> None:
        watch = self.watch()
        self.assertFalse(watch.look(0.0, set(), False))
        self.assertFalse(watch.look(10.0, set(), True))
        self.assertTrue(watch.look(25.0, set(), True))

    def test_without_one_nothing_is_held_and_one_phase_has_no_order(self) -> None:
        none = self.watch(MonitorNumbers())
        self.assertTrue(all(none.look(0.0, {fault}, True) for fault in SupplyFault))
        one = self.watch(three=False)
        self.assertTrue(one.look(0.0, {SupplyFault.SWAPPED}, True))
        self.assertEqual(one.uneven({SupplyFault.UNEVEN}), 0.0)
        with self.assertRaises(OutOfRange):
            one.turn(SupplyAct.VOLTS, 1.6)
        with self.assertRaises(OutOfRange):
            one.turn(SupplyAct.UNEVENNESS, -0.1)


class BenchTest(unittest.TestCase):
    def test_every_dial_is_proved_and_a_wrong_one_fails_its_proof(self) -> None:
        """Right dials pass; one dial off at a time fails the proof of just that dial."""
        off = {Watching.LOW: 300.0, Watching.HIGH: 470.0, Watching.UNEVEN: 0.10, Watching.DELAY: 9.0, Watching.BACK: 60.0}
        for kind, made in BOTH:
            survey, choices = made.survey(**WATCHED), made.choices()
            plan = kind.reckon(survey, choices, False)
            ids = {f"supply_{each.removeprefix('supply_')}" for each in Watching} | {"swapped", "power_return", "phase"}
            found = {each.proof.id: each for each in kind.prove_on_bench(survey, choices, plan, only=frozenset(ids))}
            self.assertEqual({name: each.verdict.value for name, each in found.items()}, dict.fromkeys(ids, "passed"), kind.id)
            for wrong, value in off.items():
                held = self.held(kind, survey, choices, plan, wrong, value)
                failed = {each.proof.id for each in kind.prove_on_bench(survey, choices, plan, held, only=frozenset(ids)) if each.verdict.value != "passed"}
                self.assertIn(f"supply_{wrong.removeprefix('supply_')}", failed, (kind.id, wrong))
                self.assertLessEqual(failed, {f"supply_{wrong.removeprefix('supply_')}", "supply_delay", "power_return"}, (kind.id, wrong))

    def held(self, kind, survey, choices, plan, wrong, value):
        """The devices with one number that somebody saw to be another."""
        held = as_planned(kind, survey, choices, plan)
        monitor = held.program.monitor
        name = {Watching.LOW: "low_v", Watching.HIGH: "high_v", Watching.UNEVEN: "uneven", Watching.DELAY: "delay_s", Watching.BACK: "back_s"}[wrong]
        return replace(held, program=replace(held.program, monitor=replace(monitor, **{name: value})))

    def test_after_a_power_cut_a_person_comes_first_where_that_is_chosen(self) -> None:
        for kind, made in BOTH:
            survey, choices = made.survey(), by_hand(made.choices())
            plan = kind.reckon(survey, choices, False)
            (shown,) = kind.prove_on_bench(survey, choices, plan, only=frozenset({"power_return"}))
            self.assertEqual(shown.verdict.value, "passed", kind.id)
            bold = as_planned(kind, survey, made.choices(), plan)  # the devices start by themselves all the same
            (shown,) = kind.prove_on_bench(survey, choices, plan, bold, only=frozenset({"power_return"}))
            self.assertEqual(shown.verdict.value, "failed", kind.id)
            start = 1.8 if kind is LIFT else None
            acts = (TimedAction(5.0, "power", "", 0.0), TimedAction(60.0, "power", "", 1.0), TimedAction(300.0, "reset", "", 1.0))
            flow = TimedAction(0.0, "inflow", "", 0.004) if kind is LIFT else TimedAction(0.0, "outlets", "", 0.5)
            run = rehearse(kind.bench(survey, choices, plan, start), (flow, *acts), 420.0)
            starts = [event.at_s for event in among(run.events, Thing.PUMP, Doing.STARTS, after_s=59.0)]
            self.assertGreaterEqual(min(starts), 300.0, kind.id)
            waits = rehearse(kind.bench(survey, choices, plan, start), (flow, *acts), 290.0)
            self.assertIn("waits until a person resets", next(link.text for link in waits.bench.reasons()[0].links if link.name == "Restart"))
            self.assertIn("waits", {cause.what for cause in waits.bench.alarms.lamps})

    def test_what_a_motor_suffers_where_nothing_watches_its_supply(self) -> None:
        """Without a monitor: uneven phases heat one winding, swapped ones turn pumps the wrong way, a lost one is run on; with it nothing runs."""
        acts = (TimedAction(0.0, "inflow", "", 0.004),)
        for fault, harm in ((SupplyFault.SWAPPED, Harm.WRONG_WAY), (SupplyFault.PHASE, Harm.TWO_PHASES)):
            for facts in ({}, WATCHED):
                survey, choices = stations.survey(**facts), stations.choices()
                run = rehearse(LIFT.bench(survey, choices, LIFT.reckon(survey, choices, False), 1.8), (*acts, TimedAction(30.0, fault, "", 1.0)), 90.0)
                told = [event.of for event in among(run.events, Thing.HARM, Doing.COMES)]
                self.assertEqual(harm in told, not facts, (fault, facts))
        survey, choices = stations.survey(), stations.choices()
        run = rehearse(LIFT.bench(survey, choices, LIFT.reckon(survey, choices, False), 1.8), (*acts, TimedAction(30.0, SupplyFault.UNEVEN, "", 1.0)), 90.0)
        watch = run.bench.motors.watches[run.bench.running[0]]
        self.assertAlmostEqual(watch.uneven, 0.07)
        self.assertAlmostEqual(watch.felt_a / watch.current_a, 1.42)  # six times 7 %
        self.assertEqual([round(each / watch.current_a, 2) for each in watch.leads_a()], [1.42, 1.0, 0.58])
        lost = rehearse(LIFT.bench(survey, choices, LIFT.reckon(survey, choices, False), 1.8), (*acts, TimedAction(30.0, SupplyFault.PHASE, "", 1.0)), 60.0).bench
        leads = lost.motors.watches[lost.running[0]].leads_a()
        self.assertEqual((leads[0], leads[2]), (leads[1], 0.0))
        set_survey = boosters.survey(control={"kind": "on_off"})
        run = rehearse(BOOSTER.bench(set_survey, boosters.choices(), BOOSTER.reckon(set_survey, boosters.choices(), False)), (TimedAction(0.0, "outlets", "", 0.5), TimedAction(60.0, SupplyFault.PHASE, "", 1.0)), 120.0)
        self.assertIn("two_phases", [event.of for event in among(run.events, Thing.HARM, Doing.COMES)])

    def test_an_overload_turned_far_up_fails_the_proof_of_its_time(self) -> None:
        for kind, made, facts in ((LIFT, stations, {}), (BOOSTER, boosters, {"control": {"kind": "on_off"}})):
            survey, choices = made.survey(**facts), made.choices()
            plan = kind.reckon(survey, choices, False)
            (up,) = [each for each in kind.diagnosis.troubles(kind.bench(survey, choices, plan)) if each.id == "dial_up.1"]
            (shown,) = kind.prove_on_bench(survey, choices, plan, only=frozenset({"overload_1"}), broken=up)
            self.assertEqual(shown.verdict.value, "failed", kind.id)

    def test_a_welded_contactor_and_a_weak_capacitor(self) -> None:
        survey, choices = stations.survey(), stations.choices()
        plan = LIFT.reckon(survey, choices, False)
        acts = (TimedAction(0.0, "inflow", "", 0.003), TimedAction(30.0, "welded", "1", 1.0), TimedAction(60.0, "switch", "1", 1.0), TimedAction(120.0, "power", "", 0.0))
        self.assertIn(0, rehearse(LIFT.bench(survey, choices, plan, 1.8), acts, 100.0).bench.running)
        run = rehearse(LIFT.bench(survey, choices, plan, 1.8), acts, 180.0)
        self.assertEqual([(event.of, event.pump) for event in among(run.events, Thing.HARM, Doing.COMES)], [("uncalled", 1)])
        self.assertNotIn(0, run.bench.running)
        single = stations.survey(pump_1={"phases": "one", "rated_voltage_v": 230.0, "rated_current_a": 17.0})
        plan = LIFT.reckon(single, choices, False)
        run = rehearse(LIFT.bench(single, choices, plan, 1.0), (TimedAction(0.0, "inflow", "", 0.003), TimedAction(1.0, "capacitor", "1", 1.0)), 900.0)
        gone = next(among(run.events, Thing.PUMP, Doing.GIVEN_UP))
        self.assertEqual((gone.of, gone.pump), ("overload", 1))
        self.assertTrue(list(among(run.events, Thing.PUMP, Doing.STARTS, pump=2, after_s=gone.at_s - 1.0)))  # the other takes over
        set_survey = boosters.survey(control={"kind": "on_off"})
        plan = BOOSTER.reckon(set_survey, boosters.choices(), False)
        acts = (TimedAction(0.0, "outlets", "", 0.5), TimedAction(1.0, "welded", "1", 1.0), TimedAction(1.0, "welded", "2", 1.0), TimedAction(200.0, "outlets", "", 0.0))
        run = rehearse(BOOSTER.bench(set_survey, boosters.choices(), plan), acts, 600.0)
        self.assertIn("uncalled", [event.of for event in among(run.events, Thing.HARM, Doing.COMES)])
        self.assertTrue(run.bench.running)
