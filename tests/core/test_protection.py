"""What protects the motors: plate, currents, readings, overload and under-load in their windows, on the sheet, on the bench and in the proofs."""

import math
import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from goodbalance.core.balance.plan import Severity
from goodbalance.core.balance.proof import Verdict
from goodbalance.core.control.trips import Trip
from goodbalance.core.errors import OutOfRange
from goodbalance.core.protection.currents import CLAMP_SPREAD, Clamped, fitted, of_plate
from goodbalance.core.protection.names import UnderloadBy
from goodbalance.core.protection.numbers import MotorNumbers
from goodbalance.core.protection.plate import Phases, Plate, Rotor, plate_findings
from goodbalance.core.protection.readings import At, ReadCurrent, remarks, unbalance
from goodbalance.core.protection.thermal import time_constant_s, trips_in_s, warmed
from goodbalance.core.protection.watch import Trouble, Watch
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.sheets.entry_sheet import entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.lift.controller.program import program_of
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.names import Harm
from goodbalance.core.stations.maintenance.kind import MAINTENANCE
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.transfer.kind import TRANSFER
from goodbalance.exchange.profiles import shipped_profiles
from tests import boosters, stations
from tests.read_backs import held
from tests.trails import false_trails

PLATE = Plate(phases=Phases.THREE, voltage_v=400.0, current_a=10.0, shaft_w=4700.0, power_factor=0.8)
SWITCHED = {"control": {"kind": "on_off"}, "vessel": {"volume_m3": 0.8}}


def at(pump: int, point: At, *amps: float, volts: tuple[float, ...] = ()) -> ReadCurrent:
    return ReadCurrent(pump=pump, at=point, amps=amps, volts=volts)


def read(*readings: ReadCurrent, kind=LIFT, made=stations, **changes):
    """A survey with readings in it."""
    return kind.motors.with_readings(made.survey(**changes), readings)


class PlateTest(unittest.TestCase):
    """400 V, 5 A, cos phi 0.82: 3464 VA, 2841 W; 2200 W at the shaft make 77.4 %."""

    def found(self, at: str = "motor", **more) -> list[tuple[str, Severity]]:
        read = {"rated_voltage_v": 400.0, "rated_current_a": 5.0, "power_factor": 0.82, "rated_power_w": 2200.0, "rated_hz": 50.0} | more
        return [(each.code, each.severity) for each in plate_findings({f"{at}.{name}": value for name, value in read.items()}, at)]

    def test_powers_that_do_not_fit_together(self) -> None:
        stops, odd = Severity.STOP, Severity.CAUTION
        for more, expected in (
            ({}, []), ({"rated_power_w": 22000.0}, [("plate_gives_more", stops)]),  # a slip of the comma
            ({"rated_power_w": 3000.0}, [("plate_gives_more", odd)]),  # 105.6 %, but within what it takes with cos phi 1
            ({"rated_power_w": 900.0}, [("plate_gives_little", odd)]),  # 31.7 %
            ({"efficiency": 0.90}, [("plate_efficiency", odd)]), ({"efficiency": 0.80}, []),  # 14 and 3 % off
            ({"phases": "one", "rated_power_w": 2100.0}, [("plate_gives_more", stops)]),  # 2000 VA in one phase
            ({"rated_current_a": None, "rated_power_w": 22000.0}, []),  # not known yet
        ):  # fmt: skip
            self.assertEqual(self.found(**more), expected, more)

    def test_a_speed_belongs_to_a_frequency(self) -> None:
        """3000, 1500, 1000 rpm and so on at 50 Hz, less up to an eighth of slip; magnets follow their drive."""
        for rpm, hz, fits in ((2880.0, 50.0, True), (1450.0, 50.0, True), (710.0, 50.0, True), (3450.0, 50.0, False), (3450.0, 60.0, True), (2600.0, 50.0, False), (3000.0, 50.0, True), (3010.0, 50.0, False)):
            self.assertEqual(self.found(rated_rpm=rpm, rated_hz=hz), [] if fits else [("plate_speed", Severity.CAUTION)], rpm)
        self.assertEqual(self.found(rated_rpm=4500.0, rotor=Rotor.PERMANENT), [])

    def test_every_kind_looks_at_its_plates_and_a_drive_brings_its_own_frequency(self) -> None:
        for kind, at in ((LIFT, "pump_1"), (BOOSTER, "motor"), (TRANSFER, "motor"), (MAINTENANCE, "motor")):
            values = {f"{at}.{name}": value for name, value in (("rated_voltage_v", 400.0), ("rated_current_a", 5.0), ("power_factor", 0.8), ("rated_power_w", 9e3), ("rated_hz", 50.0), ("rated_rpm", 3450.0))}
            self.assertEqual([each.code for each in kind.plausibility(values) if each.code.startswith("plate")], ["plate_gives_more", "plate_speed"])
        driven = {"pump_1.rated_hz": 50.0, "pump_1.rated_rpm": 3450.0, "drives.fitted": True, "drives.rated_hz": 60.0}
        self.assertEqual(LIFT.plausibility(driven), [])


class CurrentTest(unittest.TestCase):
    def test_by_the_plate_a_part_magnetises_and_a_part_works(self) -> None:
        """10 A at 0.8: 6 A magnetise, 8 A work. Half load: root(36 + 16) = 7.211. At 0.9 U: root(5.4^2 + (8/0.9)^2) = 10.401. Half the load at 0.8 n: root(36 + 25)."""
        model = of_plate(PLATE)
        for load, speed, voltage, wanted_a in ((1.0, 1.0, 1.0, 10.0), (0.5, 1.0, 1.0, 7.2111), (1.0, 1.0, 0.9, 10.4006), (0.5, 0.8, 1.0, 7.8102), (0.0, 1.0, 1.0, 6.0)):
            self.assertAlmostEqual(model.current_a(load, speed, voltage), wanted_a, places=4)
        magnets = of_plate(replace(PLATE, rotor=Rotor.PERMANENT))
        self.assertEqual((magnets.idle_a, magnets.current_a(0.5)), (0.0, 5.0))

    def test_what_it_takes_and_what_it_gives_are_two_powers(self) -> None:
        """1.732 x 400 V x 10 A x 0.8 = 5.543 kW in, 4.7 kW out; on one phase 400 x 10 x 0.8 = 3.2 kW."""
        self.assertAlmostEqual(PLATE.input_w, 5542.56, places=2)
        self.assertAlmostEqual(PLATE.efficiency, 4700.0 / 5542.56, places=5)
        self.assertAlmostEqual(replace(PLATE, phases=Phases.ONE).input_w, 3200.0)

    def test_readings_move_it_and_their_scatter_is_told(self) -> None:
        """5 A magnetising, 7 A working: read 5.22, 6.10 and 8.60 A. One reading alone turns both parts by one factor."""
        true = [Clamped(load, math.hypot(5.0, 7.0 * load)) for load in (0.2, 0.5, 1.0)]
        model = fitted(PLATE, tuple(true))
        self.assertAlmostEqual(model.idle_a, 5.0, places=9)
        self.assertAlmostEqual(model.active_a, 7.0, places=9)
        self.assertEqual((model.spread, model.read), (CLAMP_SPREAD, 3))
        one = fitted(PLATE, (Clamped(1.0, 9.0),))
        self.assertEqual((round(one.idle_a, 9), round(one.active_a, 9)), (5.4, 7.2))
        odd = fitted(PLATE, (*true, Clamped(0.6, 9.0)))  # 6.53 A expected
        self.assertGreater(odd.spread, 0.15)
        self.assertEqual(fitted(PLATE, ()).spread, of_plate(PLATE).spread)

    @given(st.floats(0.0, 1.5), st.floats(0.0, 1.5), st.floats(0.2, 1.0))
    def test_more_load_is_more_current_and_less_voltage_too_at_full_load(self, one, other, speed) -> None:
        model = of_plate(PLATE)
        low, high = sorted((one, other))
        self.assertLessEqual(model.current_a(low, speed), model.current_a(high, speed) + 1e-12)
        self.assertGreaterEqual(model.current_a(1.0, 1.0, 0.9), model.current_a(1.0))

    def test_impossible_plates_and_loads_are_refused(self) -> None:
        for wrong in (0.0, -1.0, math.nan):
            with self.assertRaises(OutOfRange):
                replace(PLATE, current_a=wrong)
            with self.assertRaises(OutOfRange):
                of_plate(PLATE).current_a(1.0, 1.0, wrong)
        with self.assertRaises(OutOfRange):
            of_plate(PLATE).current_a(math.nan)


class ReadingTest(unittest.TestCase):
    def test_unbalance_is_the_largest_deviation_over_the_mean(self) -> None:
        """230, 232 and 225 V: mean 229, largest deviation 4: 1.747 %. (NEMA MG 1)"""
        self.assertAlmostEqual(unbalance((230.0, 232.0, 225.0)), 4.0 / 229.0)
        self.assertEqual(unbalance((7.0,)), 0.0)
        for wrong in ((), (1.0, math.nan), (1.0, -1.0)):
            with self.assertRaises(OutOfRange):
                unbalance(wrong)

    def test_what_is_odd_is_told_at_once(self) -> None:
        codes = lambda *reads, plate=PLATE: [(f.code, f.severity) for f in remarks(plate, reads[0], reads)]  # noqa: E731
        normal, closed = at(1, At.NORMAL, 8.0, 8.2, 8.1), at(1, At.CLOSED, 6.2, 6.1, 6.3)
        self.assertEqual(codes(normal, closed), [])
        for reading, wanted in (
            (at(1, At.NORMAL, 8.0, 8.9, 8.1), ("uneven", Severity.CAUTION)),  # 0.567 of 8.333: 6.8 %
            (at(1, At.NORMAL, 7.0, 9.0, 8.0), ("uneven", Severity.STOP)),  # 12.5 %
            (at(1, At.NORMAL, 0.1, 9.9, 9.8), ("lead_dead", Severity.STOP)),
            (at(1, At.NORMAL, 10.2, 10.3, 10.4), ("over_plate", Severity.STOP)),
            (at(1, At.NORMAL, 8.0, 8.2, 8.1, volts=(398.0, 402.0, 391.0)), ("uneven_supply", Severity.CAUTION)),
            (at(1, At.NORMAL, 8.0, 8.2, 8.1, volts=(350.0, 350.0, 350.0)), ("off_voltage", Severity.CAUTION)),
        ):
            self.assertEqual(codes(reading, closed), [wanted], reading)
        self.assertEqual(codes(at(1, At.NORMAL, 10.2, 10.3, 10.4), plate=replace(PLATE, service_factor=1.15)), [("in_service_factor", Severity.CAUTION)])
        self.assertEqual(codes(at(1, At.DRY, 6.1, 6.1, 6.1), closed), [("dry_like_closed", Severity.CAUTION)])
        self.assertEqual(codes(at(1, At.NORMAL, 6.3, 6.3, 6.3), closed), [("closed_like_normal", Severity.CAUTION)])
        self.assertEqual(codes(at(2, At.DRY, 6.1, 6.1, 6.1), closed), [])  # another pump


class ThermalTest(unittest.TestCase):
    def test_a_class_trips_in_its_time_at_its_current(self) -> None:
        """Class 10: 10 s at 7.2 times rated, six times the trip current, so tau = 10 / ln(36/35) = 355.0 s; at twice it 355 ln(4/3) = 102.1 s."""
        self.assertAlmostEqual(time_constant_s(10.0), 354.98, places=2)
        self.assertAlmostEqual(trips_in_s(2.0, 10.0), 102.12, places=2)
        self.assertAlmostEqual(trips_in_s(2.0, 10.0, 0.5), 354.98 * math.log(3.5 / 3.0), places=2)  # warm
        self.assertEqual((trips_in_s(1.0, 10.0), trips_in_s(3.0, 10.0, 1.0)), (math.inf, 0.0))

    @given(st.floats(0.0, 6.0), st.floats(0.0, 0.99), st.floats(1.0, 500.0), st.integers(1, 20))
    def test_many_small_steps_are_one_large_one_and_the_time_told_is_the_time_it_takes(self, over, heat, step_s, parts) -> None:
        whole, small = warmed(heat, over, 355.0, step_s), heat
        for _ in range(parts):
            small = warmed(small, over, 355.0, step_s / parts)
        self.assertAlmostEqual(whole, small, places=9)
        if over > 1.001:
            self.assertAlmostEqual(warmed(heat, over, time_constant_s(10.0), trips_in_s(over, 10.0, heat)), 1.0, places=9)


class OverloadTest(unittest.TestCase):
    """The usual lift's motors: 5 A, service factor 1. What the code allows: 5.75 A."""

    def setting(self, name: str, survey, **protection):
        return LIFT.reckon(survey, stations.choices().model_copy(update={"protection": stations.choices().protection.model_copy(update=protection)}), False).setting(name)

    def test_highest_reading_plus_a_margin_never_over_the_code(self) -> None:
        """4.4 A read: at least 4.4 x 1.05 = 4.62, at most 4.4 x 1.3 = 5.72, recommended four fifths of the way up: 5.5 A."""
        trip = self.setting("overload_1", read(at(1, At.NORMAL, 4.2, 4.4, 4.3), at(2, At.NORMAL, 4.0, 4.0, 4.0)))
        self.assertAlmostEqual(trip.window.low, 4.62)
        self.assertAlmostEqual(trip.window.high, 5.72)
        self.assertAlmostEqual(trip.value, 5.5)
        higher = self.setting("overload_1", read(at(1, At.NORMAL, 4.6, 4.8, 4.7)))
        self.assertAlmostEqual(higher.window.high, 5.75)  # capped by the code
        self.assertTrue(self.setting("overload_1", read(at(1, At.MOST, 5.6, 5.6, 5.6))).window.is_empty)  # 5.88 > 5.75: a fault to find

    def test_without_readings_or_by_the_other_school_the_plate_counts(self) -> None:
        for survey, school in ((read(), "measured"), (read(at(1, At.NORMAL, 4.2, 4.4, 4.3)), "plate")):
            self.assertAlmostEqual(self.setting("overload_1", survey, overload=school).window.high, 5.75)
        served = self.setting("overload_1", read(pump_1={"service_factor": 1.15}))
        self.assertAlmostEqual(served.window.high, 6.25)

    def test_its_class_outlasts_a_start_and_beats_a_standing_rotor(self) -> None:
        """30 A at full voltage, 27 at nine tenths; trip 5.75 A, ln(36/35) = 0.028171. Start: 1.5 s x 0.028171 / ln(22.05/21.05) = 0.911; rotor: 12 s x .../ln(27.22/26.22) = 9.03."""
        klass = LIFT.reckon(stations.survey(), stations.choices(chosen={"overload_1": 5.75}), False).setting("overload_class_1")
        x2_start, x2_stands = (27.0 / 5.75) ** 2, (30.0 / 5.75) ** 2
        self.assertAlmostEqual(klass.window.low, 1.5 * math.log(36 / 35) / math.log(x2_start / (x2_start - 1.0)), places=6)
        self.assertAlmostEqual(klass.window.high, 12.0 * math.log(36 / 35) / math.log(x2_stands / (x2_stands - 1.0)), places=6)
        self.assertEqual(klass.value, 5.0)

    def test_unlike_pumps_each_have_their_own_and_a_drive_has_none(self) -> None:
        own = {"min_submergence_m": 0.3, "bell_diameter_m": 0.2, "starts_per_hour": 12.0, "rated_voltage_v": 400.0, "rated_current_a": 4.0, "rated_power_w": 1500.0, "curve": stations.CURVE}
        plan = LIFT.reckon(stations.survey(pumping={"twins": False}, pump_2=own), stations.choices(), False)
        self.assertEqual([s.id for s in plan.group("protection")], ["overload_1", "overload_class_1", "overload_2", "overload_class_2"])
        self.assertAlmostEqual(plan.setting("overload_2").window.high, 4.6)
        self.assertEqual(LIFT.reckon(stations.survey(drives={"fitted": True}), stations.choices(), False).group("protection"), ())
        self.assertEqual(BOOSTER.reckon(boosters.survey(), boosters.choices(), False).group("protection"), ())

    def test_a_dial_that_states_rated_current_shows_it_less_the_fifth_it_adds(self) -> None:
        """5.5 A trip: the dial says 5.5 / 1.2 = 4.58, and only 4.6 lies on its marks: 5.52 A. No factor of the code on top."""
        survey, choices = read(at(1, At.NORMAL, 4.2, 4.4, 4.3)), stations.choices()
        plan = LIFT.reckon(survey, choices, False)
        wheel, dials = (shipped_profiles()[name] for name in ("wrackline_wheel", "cowrie_dials"))
        sheet = entry_sheet(wheel, LIFT.keypad.values(survey, choices, plan, Display.METRES), LIFT.keypad.scale(survey, wheel, Display.METRES), (dials,))
        self.assertEqual((sheet.row("1 dial").shows, sheet.row("1 dial").unit, sheet.row("2 notch").shows), ("4.6", "A rated", "1"))
        self.assertAlmostEqual(sheet.row("1 dial").value, 5.52)
        motors = held(LIFT, survey, choices, sheet, {"2 dial": "9.0", "2 notch": "4"}, Display.METRES).program.motors
        self.assertEqual([(round(each.trip_a, 9), each.class_s) for each in motors], [(5.5, 5.0), (10.8, 20.0)])


class UnderloadTest(unittest.TestCase):
    def test_between_dry_and_the_least_of_honest_work_by_what_was_read(self) -> None:
        """Dry 2.0 A, closed 3.0, normal 4.0 A, 5 % apart: closed must trip: 3.15 to 3.80; it must not: 2.10 to 3.0 x 0.95 = 2.85."""
        reads = at(1, At.DRY, 2.0, 2.0, 2.0), at(1, At.CLOSED, 3.0, 3.0, 3.0), at(1, At.NORMAL, 4.0, 4.0, 4.0)
        for closed_trips, low, high in ((True, 3.15, 3.8), (False, 2.10, 2.85)):
            plan = LIFT.reckon(read(*reads, protection={"underload_by": "current", "closed_trips": closed_trips}), stations.choices(), False)
            window = plan.setting("underload_1").window
            self.assertAlmostEqual(window.low, low)
            self.assertAlmostEqual(window.high, high)
            self.assertEqual(false_trails(plan), [])
            self.assertNotIn("cannot_tell", [finding.code for finding in plan.findings])

    def test_it_stands_half_way_and_the_least_of_several_readings_counts(self) -> None:
        """Least work 3.8 A, normal 4.0: at most 3.8 x 0.95 = 3.61; half way from 3.15: 3.38, to a tenth 3.4. By power: closed 1420.28 W x 1.08 x 1.05 = 1610.6, least 2424.57 x 0.92 x 0.95 = 2119.1."""
        reads = at(1, At.DRY, 2.0, 2.0, 2.0), at(1, At.CLOSED, 3.0, 3.0, 3.0), at(1, At.NORMAL, 4.0, 4.0, 4.0), at(1, At.LEAST, 3.8, 3.8, 3.8)
        limit = LIFT.reckon(read(*reads, protection={"underload_by": "current"}), stations.choices(), False).setting("underload_1")
        self.assertAlmostEqual(limit.window.high, 3.61)
        self.assertAlmostEqual(limit.value, 3.4)
        limit = LIFT.reckon(read(protection={"underload_by": "power"}), stations.choices(), False).setting("underload_1")
        self.assertAlmostEqual(limit.window.low, 1610.6, places=1)
        self.assertAlmostEqual(limit.window.high, 2119.1, places=1)
        self.assertEqual(limit.value, 1860.0)  # of 1864.8, in steps of 10 W

    def test_where_current_cannot_tell_it_is_said_and_what_can(self) -> None:
        plan = LIFT.reckon(stations.survey(protection={"underload_by": "current"}), stations.choices(), False)
        self.assertTrue(plan.setting("underload_1").window.is_empty)
        (told,) = [finding for finding in plan.findings if finding.code == "cannot_tell"]
        self.assertIn("power can, between", told.text)
        driven = BOOSTER.reckon(boosters.survey(protection={"underload_by": "power"}), boosters.choices(), False)
        (told,) = [finding for finding in driven.findings if finding.code == "cannot_tell"]
        self.assertIn("falls with its speed", told.text)

    def test_its_delay_outlasts_priming_and_beats_the_seal(self) -> None:
        plan = LIFT.reckon(stations.survey(protection={"underload_by": "power", "start_s": 2.0, "prime_s": 9.0, "dry_s": 40.0}), stations.choices(), False)
        delay = plan.setting("underload_delay_1")
        self.assertEqual((delay.window.low, delay.window.high), (11.0, 40.0))
        self.assertEqual(delay.value, 20.0)  # 11 + 0.3 x 29 = 19.7

    def test_a_share_of_what_the_pump_usually_takes(self) -> None:
        """4.0 A usual, trip 3.5 A: 87.5 %, and the wheel has whole per cent."""
        survey = read(at(1, At.DRY, 2.0, 2.0, 2.0), at(1, At.CLOSED, 3.0, 3.0, 3.0), at(1, At.NORMAL, 4.0, 4.0, 4.0), protection={"underload_by": "current"})
        choices = stations.choices(chosen={"underload_1": 3.5})
        wheel, dials, watch = (shipped_profiles()[name] for name in ("wrackline_wheel", "cowrie_dials", "razorshell_watch"))
        values = LIFT.keypad.values(survey, choices, LIFT.reckon(survey, choices, False), Display.METRES)
        sheet = entry_sheet(wheel, values, LIFT.keypad.scale(survey, wheel, Display.METRES), (dials, watch))
        self.assertEqual(sheet.row("1 usual").shows, "4.0")
        self.assertIn(sheet.row("1 least").shows, ("87", "88"))
        motors = held(LIFT, survey, choices, sheet, {"1 least": "50"}, Display.METRES).program.motors
        self.assertAlmostEqual(motors[0].underload, 2.0)


class WatchTest(unittest.TestCase):
    """A motor of 10 A with its overload at 11 A, class 10: tau 355 s."""

    def watch(self, **numbers) -> Watch:
        return Watch(PLATE, of_plate(PLATE), MotorNumbers(trip_a=11.0, **numbers))

    def trips_after(self, watch: Watch, input_w: float, **at_) -> tuple[float, Trip | None]:
        now_s = 0.0
        while now_s < 4000.0:
            trip = watch.look(now_s, input_w, **at_)
            if trip is not None:
                return now_s, trip
            now_s += math.ceil(min(240.0, max(1.0, watch.left_s())))
        return now_s, None

    def test_table_of_troubles(self) -> None:
        """Heavy: 12 A working, root(36 + 144) = 13.42 A, x = 1.22: 355 ln(1.488/0.488) = 395.7 s. Standing: 60 A, 355 ln(29.75/28.75) = 12.1 s. Two phases: 17.32 A: 185 s."""
        full_w = PLATE.input_w
        for trouble, after_s in ((Trouble.NONE, None), (Trouble.HEAVY, 395.7), (Trouble.STALLED, 12.13), (Trouble.TWO_PHASES, 183.6)):
            with self.subTest(trouble):
                took_s, trip = self.trips_after(self.watch(), full_w, trouble=trouble)
                self.assertIs(trip, None if after_s is None else Trip.OVERLOAD)
                if after_s is not None:
                    self.assertAlmostEqual(took_s, after_s, delta=max(1.1, 0.01 * after_s))

    def test_too_little_load_counts_by_current_or_power_without_a_break(self) -> None:
        for by, least, low_w in ((UnderloadBy.CURRENT, 7.0, 0.3 * PLATE.input_w), (UnderloadBy.POWER, 2500.0, 2000.0)):
            watch = self.watch(by=by, underload=least, delay_s=8.0)
            self.assertEqual([watch.look(second, low_w) for second in (0.0, 4.0)], [None, None])
            self.assertIsNone(watch.look(6.0, PLATE.input_w))  # it moves water again
            self.assertEqual([watch.look(second, low_w) for second in (7.0, 14.0, 15.0)], [None, None, Trip.UNDERLOAD])

    def test_a_motor_without_an_overload_burns_and_one_with_it_does_not(self) -> None:
        for numbers, burns in ((MotorNumbers(), True), (MotorNumbers(trip_a=11.0), False)):
            watch, now_s = Watch(PLATE, of_plate(PLATE), numbers), 0.0
            while now_s < 3600.0 and watch.look(now_s, PLATE.input_w, trouble=Trouble.HEAVY) is None:
                now_s += 10.0
            self.assertIs(watch.burns, burns)

    def test_it_cools_while_it_rests(self) -> None:
        watch = self.watch()
        watch.look(0.0, PLATE.input_w)
        watch.look(600.0, None)
        warm = watch.heat
        watch.look(900.0, None)
        watch.look(955.0, PLATE.input_w)
        self.assertAlmostEqual(watch.heat, warm * math.exp(-355.0 / time_constant_s(10.0)), places=6)


class BenchTest(unittest.TestCase):
    def test_a_pump_that_turns_heavily_trips_and_the_other_takes_over(self) -> None:
        survey, choices = stations.survey(), stations.choices()
        bench = LIFT.bench(survey, choices, LIFT.reckon(survey, choices, False), 1.6)
        acts = (TimedAction(0.0, "inflow", "", 0.0075), TimedAction(5.0, "overload", "1", 1.0))
        run = rehearse(bench, acts, 1800.0)
        gone = next(among(run.events, Thing.PUMP, Doing.GIVEN_UP))
        self.assertEqual((gone.of, gone.pump), (Trip.OVERLOAD, 1))
        self.assertIn(1, run.bench.running)
        self.assertIn("trips in", [link.text for event in (30.0,) for link in rehearse(LIFT.bench(survey, choices, LIFT.reckon(survey, choices, False), 1.6), acts, event).bench.reasons()[0].links][-1])

    def test_what_is_not_carried_does_not_act_and_the_winding_burns(self) -> None:
        survey, choices = stations.survey(), stations.choices()
        plan = LIFT.reckon(survey, choices, False)
        for lacking, burns in ((frozenset(), False), (frozenset({"overload_1", "overload_class_1"}), True)):
            bench = LIFT.bench(survey, choices, plan, 1.6, program_of(survey, choices, plan, lacking=lacking))
            run = rehearse(bench, (TimedAction(0.0, "inflow", "", 0.0075), TimedAction(5.0, "stalled", "1", 1.0)), 600.0)
            self.assertIs(any(event.of == Harm.BURNS for event in run.events), burns)

    def test_a_drive_trips_by_the_current_typed_into_it(self) -> None:
        """A rotor that stands takes 24 A of 4 A: typed as listed it trips within seconds; typed as 30 A it does not."""
        survey, choices = boosters.survey(), boosters.choices()
        plan = BOOSTER.reckon(survey, choices, False)
        numbers = numbers_of(survey, choices, plan)
        for trip_a, given_up in ((numbers.motors[0].trip_a, True), (36.0, False)):
            motors = tuple(replace(each, trip_a=trip_a) for each in numbers.motors)
            bench = BOOSTER.bench(survey, choices, plan, None, replace(numbers, motors=motors))
            run = rehearse(bench, (TimedAction(0.0, "stalled", "1", 1.0), TimedAction(0.0, "switch", "1", 0.0), TimedAction(0.0, "outlets", "", 0.3)), 30.0)
            self.assertIs(any(event.of == Trip.OVERLOAD for event in among(run.events, Thing.PUMP, Doing.GIVEN_UP)), given_up)


class ProofTest(unittest.TestCase):
    """A right protection passes, a disabled or mis-set one fails its proof."""

    MOTORS = frozenset(f"{check}_{pump}" for check in ("overload", "underload") for pump in range(1, 5))
    KINDS = (
        (LIFT, stations, program_of, {"protection": {"underload_by": "power"}}),
        (LIFT, stations, program_of, {"pumping": {"count": 3, "standby": True}, "protection": {"underload_by": "power", "closed_trips": False}}),
        (LIFT, stations, program_of, {"control": {"level_by": "floats", "floats": 4}}),
        (LIFT, stations, program_of, {"control": {"kind": "relays_alone"}}),
        (BOOSTER, boosters, numbers_of, SWITCHED),
        (BOOSTER, boosters, numbers_of, {**SWITCHED, "protection": {"underload_by": "power", "closed_trips": False}}),
    )

    def failed(self, kind, survey, choices, plan, program, motors=None) -> list[str]:
        as_held = Held(plan, program if motors is None else replace(program, motors=motors))
        shown = kind.prove_on_bench(survey, choices, plan, as_held, self.MOTORS)
        self.assertEqual(len(shown), sum(proof.group == "Motors" for proof in kind.proofs(survey, choices, plan)))
        return [each.proof.id for each in shown if each.verdict is Verdict.FAILED]

    def test_each_wrong_number_fails_its_own_proof(self) -> None:
        for kind, made, program_by, changes in self.KINDS:
            survey, choices = made.survey(**changes), made.choices()
            plan = kind.reckon(survey, choices, False)
            program = program_by(survey, choices, plan)
            with self.subTest(kind=kind.id, changes=changes):
                self.assertEqual(self.failed(kind, survey, choices, plan, program), [])
                first, *rest = program.motors
                for wrong in (replace(first, trip_a=math.inf), replace(first, trip_a=1.5 * first.trip_a), replace(first, trip_a=0.6 * first.trip_a), replace(first, class_s=15.0)):
                    self.assertIn("overload_1", self.failed(kind, survey, choices, plan, program, (wrong, *rest)), wrong)
                if "underload_1" not in plan:
                    continue
                closed_trips = survey.protection.closed_trips
                wrongs = [replace(first, underload=5.0 * first.underload)]
                wrongs += [replace(first, underload=0.3 * first.underload), replace(first, delay_s=2.0 * first.delay_s)] if closed_trips else []
                for wrong in wrongs:
                    self.assertEqual(self.failed(kind, survey, choices, plan, program, (wrong, *rest)), ["underload_1"], wrong)
