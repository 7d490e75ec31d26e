"""Floats alone and behind a sensor: what each is, where it hangs, and what it does, as the manual would print it."""

import unittest

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.control.alarms import Cause
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.sheets.entry_sheet import entry_sheet
from goodbalance.core.sheets.profile import Display, Profile
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.names import Alarm, Harm, Role
from goodbalance.core.stations.lift.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.lift.survey.plausibility import plausibility
from goodbalance.core.stations.lift.survey.sensing import Control
from goodbalance.core.stations.lift.windows.reckon import reckon
from goodbalance.exchange.profiles import shipped_profiles
from tests.core.test_lift_bench import inflow
from tests.read_backs import held
from tests.stations import choices, survey

LEVELS = {"low_cut_out": 0.4, "low_alarm": 0.6, "stop": 1.0, "start_1": 1.6, "start_2": 2.0, "high_alarm": 2.4}
HEIGHTS = {
    "float_low_alarm": 0.35,
    "float_stop": 0.9,
    "float_start_1": 1.8,
    "float_start_2": 2.2,
    "float_high_alarm": 2.6,
}


def backed(count: int, lowest: str = "stop", chosen=None, **changes):
    """The test station with a sensor and so many floats behind it, its plan and choices."""
    control = {"kind": "pump_controller", "level_by": "sensor_and_floats", "floats": count, "lowest_float": lowest}
    station = survey(control=control, **changes)
    decided = choices(chosen={**LEVELS, **HEIGHTS, "call_delay": 0.0, "start_gap": 2.0, **(chosen or {})})
    return station, decided, reckon(station, decided)


def by_floats(count: int, lowest: str = "stop", pumps: int = 2):
    control = {"kind": "pump_controller", "level_by": "floats", "floats": count, "lowest_float": lowest}
    station = survey(control=control, pumping={"count": pumps}).model_copy(update={"sensor": None})
    return station, choices(), reckon(station, choices())


class RoleTest(unittest.TestCase):
    def test_what_each_float_is(self) -> None:
        for by, lowest, count, pumps, expected in (
            ("floats", "stop", 1, 2, "start_1"),
            ("floats", "stop", 2, 2, "stop start_1"),
            ("floats", "stop", 3, 2, "stop start_1 high_alarm"),
            ("floats", "stop", 4, 2, "stop start_1 start_2 high_alarm"),
            ("floats", "stop", 5, 2, "low_alarm stop start_1 start_2 high_alarm"),
            ("floats", "low_alarm", 2, 2, "low_alarm start_1"),
            ("floats", "low_alarm", 4, 2, "low_alarm stop start_1 high_alarm"),
            ("floats", "stop", 4, 1, "low_alarm stop start_1 high_alarm"),  # one pump has no assist to call
            ("sensor_and_floats", "stop", 1, 2, "high_alarm"),
            ("sensor_and_floats", "stop", 2, 2, "stop high_alarm"),
            ("sensor_and_floats", "low_alarm", 2, 2, "low_alarm high_alarm"),
            ("sensor_and_floats", "stop", 4, 2, "stop start_1 start_2 high_alarm"),
            ("sensor", "stop", 4, 2, ""),
        ):
            with self.subTest(by=by, lowest=lowest, count=count, pumps=pumps):
                control = Control(level_by=by, lowest_float=lowest, floats=count)
                self.assertEqual(" ".join(control.float_roles(pumps)), expected)


class HeightTest(unittest.TestCase):
    def test_floats_behind_a_sensor_bracket_its_levels(self) -> None:
        _, _, plan = backed(5)
        low, high = plan.setting("float_low_alarm").window, plan.setting("float_high_alarm").window
        self.assertEqual((low.low, low.governing_upper.cause), (0.20, "low-level cut-out of the sensor"))
        self.assertAlmostEqual(low.high, 0.4)
        bounds = {bound.cause: bound.value for bound in high.lower}
        self.assertAlmostEqual(bounds["one step above the last start of the sensor"], 2.0 + 0.15)

    def test_heights_of_floats_alone(self) -> None:
        """No sensor reach counts; steps are the larger of rule (0.15 m) and swing; V = Q T / 4 as ever."""
        station, decided, plan = by_floats(4)
        self.assertEqual([s.id for s in plan.group("levels")], ["stop", "start_1", "start_2", "high_alarm"])
        bands = {bound.cause: bound.value for bound in plan.setting("start_1").window.lower}
        # 10 l/s, 10 starts/h: V = 0.010 x 360 / 4 = 0.9 m3 on 2 m2
        self.assertAlmostEqual(bands["volume for the permitted starts"], plan.setting("stop").value + 0.45, places=3)
        wide = station.model_copy(update={"control": station.control.model_copy(update={"swing_m": 0.3})})
        gap = reckon(wide, decided).setting("high_alarm").window.governing_lower.value
        self.assertAlmostEqual(gap, reckon(wide, decided).setting("start_2").value + 0.3)

    def test_one_float_needs_water_below_it_to_run_on(self) -> None:
        _, _, plan = by_floats(1, pumps=1)
        # least submergence 0.50 m + 2 x 0.9 m3 / 2 m2 + swing 0.10 m = 1.50 m
        self.assertAlmostEqual(plan.setting("start_1").window.low, 1.50, places=6)
        run_on = plan.setting("run_on").window
        self.assertAlmostEqual(run_on.low, 2.0 * (0.9 - 0.2) / 0.010, places=3)  # swing holds 0.2 m3: 140 s
        self.assertFalse(run_on.is_empty)


class AtWorkTest(unittest.TestCase):
    def play(self, case, level_m: float, *actions: TimedAction, until_s: float = 120.0, flow_m3s: float = 0.0):
        station, decided, plan = case
        return rehearse(lift_bench(station, decided, plan, level_m), (inflow(0.0, flow_m3s), *actions), until_s)

    def running(self, run) -> tuple[int, ...]:
        return tuple(pump + 1 for pump in run.bench.running)

    def test_when_the_sensor_is_lost_each_set_of_floats_does_its_part(self) -> None:
        """floats, where the water stands when the loop is found open, who runs 20 s later."""
        for count, level_m, expected in (
            (1, 2.0, ()),  # under the high float: nothing
            (1, 2.65, (1, 2)),  # over it: all
            (2, 1.95, ()),
            (2, 2.65, (1, 2)),
            (4, 1.85, (1,)),  # over the start float
            (4, 2.25, (1, 2)),  # over the assist float
            (4, 1.70, ()),
        ):
            with self.subTest(floats=count, level_m=level_m):
                run = self.play(backed(count), level_m, TimedAction(0.0, "loop_open", "", 1.0), until_s=20.0)
                self.assertTrue(run.bench.logic.on_floats)
                self.assertEqual(self.running(run), expected)

    def test_a_running_pump_goes_on_by_floats_to_their_stop(self) -> None:
        run = self.play(backed(2), 1.95, TimedAction(5.0, "loop_open", "", 1.0), until_s=20.0)
        self.assertEqual(self.running(run), (1,))

    def test_floats_stop_the_pumps_at_the_stop_float_or_by_time(self) -> None:
        lost = TimedAction(0.0, "loop_open", "", 1.0)
        run = self.play(backed(2), 2.65, lost, until_s=1200.0)
        stop = next(among(run.events, Thing.PUMP, Doing.STOPS, pump=1))
        self.assertAlmostEqual(stop.terms[0].value, 0.90, delta=0.03)
        case = backed(1, chosen={"run_on": 30.0})
        run = self.play(case, 2.65, lost, until_s=1200.0)
        let_go = next(among(run.events, Thing.FLOAT, Doing.OPENS, of=Role.HIGH_ALARM)).at_s
        stop_s = next(among(run.events, Thing.PUMP, Doing.STOPS, pump=1)).at_s
        self.assertAlmostEqual(stop_s - let_go, 30.0, delta=1.1)

    def test_the_high_float_saves_a_well_whose_sensor_has_frozen(self) -> None:
        frozen = TimedAction(1.0, "frozen", "", 1.0)
        run = self.play(backed(2), 1.2, frozen, flow_m3s=0.006, until_s=4000.0)
        self.assertFalse(any(among(run.events, Thing.HARM, of=Harm.OVERFLOWS)))
        self.assertTrue(run.bench.logic.doubted)
        self.assertIn(Cause(Alarm.SENSOR), run.bench.logic.alarms.lamps)
        run = self.play(
            backed(2),
            1.2,
            frozen,
            TimedAction(3000.0, "frozen", "", 0.0),
            TimedAction(3000.0, "reset", "", 1.0),
            flow_m3s=0.006,
            until_s=3100.0,
        )
        self.assertFalse(run.bench.logic.doubted)

    def test_a_float_out_of_the_sensors_sight_does_not_contradict_it(self) -> None:
        """A sensor that hangs at 1.2 m reads 1.2 m over a stop float at 0.9 m in an emptied well: both are right."""
        high = backed(2, sensor={"mounting_m": 1.2, "range_m": 4.0, "noise_m": 0.01, "counts": 4000})
        self.assertFalse(self.play(high, 0.5, until_s=60.0).bench.logic.doubted)
        hung_up = TimedAction(0.0, "float_down", "stop", 1.0)
        self.assertTrue(self.play(high, 1.5, hung_up, until_s=60.0).bench.logic.doubted)
        short = backed(2, sensor={"mounting_m": 0.1, "range_m": 2.0, "noise_m": 0.01, "counts": 4000})
        self.assertFalse(self.play(short, 2.9, until_s=60.0).bench.logic.doubted)

    def test_a_broken_wire_that_reads_empty_is_told_by_a_float_in_the_water_only(self) -> None:
        for count, told in ((1, False), (2, True), (4, True)):
            case = backed(count, sensor={"signal": "0_10_v", "mounting_m": 0.1, "range_m": 5.0, "noise_m": 0.01, "counts": 4000})
            (shown,) = prove_on_bench(*case, None, frozenset({"sensor_failure"}))
            self.assertIs("floats take over" in shown.proof.must_see, told, count)
            self.assertIs(shown.verdict, Verdict.PASSED, count)

    def test_a_float_caught_up_cannot_run_the_pumps_dry(self) -> None:
        """The contradiction puts the sensor out; then the stop float decides, and it hangs down."""
        caught = TimedAction(5.0, "float_up", "high_alarm", 1.0)
        run = self.play(backed(2), 1.3, caught, until_s=1200.0)
        self.assertEqual(self.running(run), ())
        self.assertFalse(any(among(run.events, Thing.HARM, of=Harm.DRAWS_AIR)))

    def test_floats_alone_cycle_between_their_heights(self) -> None:
        case = by_floats(3)
        plan = case[2]
        run = self.play(case, 1.0, flow_m3s=0.004, until_s=3600.0)
        starts = [event.value("level") for event in among(run.events, Thing.PUMP, Doing.STARTS)]
        stops = [event.value("level") for event in among(run.events, Thing.PUMP, Doing.STOPS)]
        self.assertGreater(len(stops), 2)
        for level_m in starts:
            self.assertAlmostEqual(level_m, plan.setting("start_1").value, delta=0.015)
        for level_m in stops:
            self.assertAlmostEqual(level_m, plan.setting("stop").value, delta=0.015)

    def test_a_standby_that_stopped_by_time_again_has_taken_over(self) -> None:
        control = {"kind": "relays_to_panel", "level_by": "floats", "floats": 1, "lowest_float": "stop"}
        station = survey(control=control, pumping={"count": 2, "standby": True}).model_copy(update={"sensor": None})
        decided = choices(chosen={"start_gap": 84.0})  # two gaps are longer than its run
        (shown,) = prove_on_bench(station, decided, reckon(station, decided), None, frozenset({"standby"}))
        self.assertIs(shown.verdict, Verdict.PASSED)

    def test_a_start_float_caught_down_floods_and_is_told(self) -> None:
        down = TimedAction(0.0, "float_down", "start_1", 1.0)
        run = self.play(by_floats(2), 1.0, down, flow_m3s=0.006, until_s=3600.0)
        self.assertTrue(any(among(run.events, Thing.HARM, of=Harm.OVERFLOWS)))


class ChosenFloatsTest(unittest.TestCase):
    """Roles chosen one by one: three pumps with a float each, no stop float, and none that tells of high water."""

    ROLES = {"float_stop": False, "float_start_2": True, "float_start_3": True, "float_high_alarm": False}

    def station(self, by: str, pumps: int = 3, **roles: bool):
        control = {"kind": "pump_controller", "level_by": by, "floats_are": "each", **{**self.ROLES, **roles}}
        found = survey(control=control, pumping={"count": pumps})
        return found.model_copy(update={"sensor": None}) if by == "floats" else found

    def test_every_choice_that_makes_sense_goes_all_the_way_and_proves_itself(self) -> None:
        for by in ("floats", "sensor_and_floats"):
            for change in ({}, {"float_stop": True}, {"float_low_alarm": True, "float_stop": True, "float_high_alarm": True}, {"float_start_3": False}):
                station = self.station(by, **change)
                roles = station.control.float_roles(3)
                plan = reckon(station, choices(), False)
                hung = [setting.id for setting in plan.group("levels" if by == "floats" else "floats")]
                self.assertEqual(hung, [role if by == "floats" else f"float_{role}" for role in roles])
                failed = [each.proof.id for each in prove_on_bench(station, choices(), plan) if each.verdict is Verdict.FAILED]
                self.assertEqual(failed, [], (by, roles))

    def test_what_makes_no_sense_is_refused_in_words(self) -> None:
        typed = {"control.level_by": "floats", "control.floats_are": "each", "pumping.count": 2}
        for change, code in (
            ({"float_start_1": False}, "floats_never_start"), ({"float_start_3": True}, "starts_with_a_gap"),
            ({"float_start_2": True, "float_start_3": True}, "start_without_pump"), ({}, "float_roles"),
        ):  # fmt: skip
            codes = {finding.code for finding in plausibility(typed | {f"control.{role}": yes for role, yes in change.items()})}
            self.assertIn(code, codes, change)
        none = dict.fromkeys((f"control.float_{role}" for role in ("stop", "start_1", "high_alarm")), False)
        self.assertIn("no_floats", {finding.code for finding in plausibility(typed | none)})

    def test_a_device_must_be_told_what_no_table_says_and_a_wrong_telling_shows(self) -> None:
        """Told that the float of the duty start ends too, it calls nobody: the proof of that float fails."""
        station = self.station("sensor_and_floats", float_stop=True)
        plan, wheel = reckon(station, choices(), False), shipped_profiles()["wrackline_wheel"]
        self.assertFalse(station.control.has_usual_floats(3))
        values = LIFT.keypad.values(station, choices(), plan, Display.METRES)
        sheet = entry_sheet(wheel, values, LIFT.keypad.scale(station, wheel, Display.METRES), (shipped_profiles()["cowrie_dials"],))
        self.assertEqual([sheet.row(f"cord {n}").shows for n in range(1, 5)], ["ends", "calls one", "calls two", "calls three"])
        right = held(LIFT, station, choices(), sheet, {}, Display.METRES)
        self.assertEqual([each.verdict for each in prove_on_bench(station, choices(), plan, right) if each.verdict is Verdict.FAILED], [])
        wrong = held(LIFT, station, choices(), sheet, {"cord 2": "ends"}, Display.METRES)
        failed = {each.proof.id for each in prove_on_bench(station, choices(), plan, wrong) if each.verdict is Verdict.FAILED}
        self.assertIn("float_start_1", failed)
        rows = tuple(row for row in wheel.parameter if row.code != "cord {n}")
        counts_only = Profile(**{**{name: getattr(wheel, name) for name in Profile.model_fields}, "parameter": rows})
        plain = entry_sheet(counts_only, values, LIFT.keypad.scale(station, wheel, Display.METRES))
        self.assertIn("float.1.role", {each.about for each in held(LIFT, station, choices(), plain, {}, Display.METRES).uncarried if each.harm})


class TopFloatTest(unittest.TestCase):
    def test_the_top_float_is_one_more_start_where_one_is_missing(self) -> None:
        """By hand: of stop, duty start and high the top becomes the assist; of five floats none is left to become another."""
        for by, floats, pumps, roles in (
            ("floats", 3, 2, ("stop", "start_1", "start_2")), ("floats", 3, 1, ("stop", "start_1", "high_alarm")),
            ("sensor_and_floats", 1, 2, ("start_1",)), ("sensor_and_floats", 2, 2, ("stop", "start_1")), ("sensor_and_floats", 3, 2, ("stop", "start_1", "start_2")),
            ("floats", 5, 2, ("low_alarm", "stop", "start_1", "start_2", "high_alarm")),
        ):  # fmt: skip
            control = {"level_by": by, "floats": floats, "top_float": "start"}
            station = survey(control=control, pumping={"count": pumps})
            self.assertEqual(station.control.float_roles(pumps), roles)
            typed = {f"control.{name}": value for name, value in control.items()} | {"pumping.count": pumps}
            (told,) = [finding.text for finding in plausibility(typed) if finding.code == "float_roles"]
            self.assertEqual(told.count(","), len(roles))
            if by == "floats":
                station = station.model_copy(update={"sensor": None})
            plan = reckon(station, choices(), False)
            codes = {finding.code for finding in plan.findings}
            self.assertEqual("no_high_float" in codes, by == "floats" and "high_alarm" not in roles)
            failed = [each.proof.id for each in prove_on_bench(station, choices(), plan) if each.verdict is Verdict.FAILED]
            self.assertEqual(failed, [], roles)
