"""What devices really hold: readings and their sources, the program they make, what none carries, and why a number differs."""

import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.sheets.devices import Match, Source, Stand, stands_of, values_of
from goodbalance.core.sheets.differences import hint_of, matters
from goodbalance.core.sheets.entry_sheet import RowKind, entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.names import Stop
from goodbalance.core.stations.booster.proofs.on_bench import prove_on_bench as prove_set
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.controller.program import program_of
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.names import Alarm, Role
from goodbalance.core.stations.lift.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.lift.windows.reckon import reckon
from goodbalance.exchange.profiles import shipped_profiles
from tests.core.test_booster_sheets import MOTOR, REGULATOR, WALL, made
from tests.core.test_booster_sheets import sheet_of as set_sheet
from tests.core.test_sheets import PANEL, sheet_of
from tests.read_backs import held, noted, read
from tests.stations import choices, survey

WHEEL, LEAF, STARTERS = (shipped_profiles()[name] for name in ("wrackline_wheel", "skerry_leaf", "cowrie_dials"))


def failing(station, decided, plan, as_held) -> set[str]:
    return {p.proof.id for p in prove_on_bench(station, decided, plan, as_held) if p.verdict is Verdict.FAILED}


class SourceTest(unittest.TestCase):
    """The latest that is known counts, and a reset makes untrue what was noted before it."""

    def setUp(self) -> None:
        _, self.sheet = sheet_of(survey(), choices(), beside=(PANEL,))

    def stand(self, code: str, found=None, back=None, resets=None) -> Stand:
        return next(s for s in stands_of(self.sheet, found or {}, back or {}, resets or {}) if s.row.parameter.code == code)

    def test_who_says_so_last_counts(self) -> None:
        found, back = noted({"4 lift": "1.90"}, Source.AS_FOUND, 3), noted({"4 lift": "0.60"}, Source.READ_BACK, 7)
        at = lambda seq: {"ebbstone_tray": noted({"-": ""}, Source.RESET, seq)["", "-"]}  # noqa: E731
        for given_, source, text in (
            ({}, None, ""),
            ({"found": found}, Source.AS_FOUND, "1.90"),
            ({"found": found, "resets": at(5)}, Source.RESET, "1.75"),  # what a new device shows
            ({"found": found, "resets": at(5), "back": back}, Source.READ_BACK, "0.60"),
            ({"back": back, "resets": at(9)}, Source.RESET, "1.75"),
        ):
            stand = self.stand("4 lift", **given_)
            self.assertEqual((stand.noted and stand.noted.source, stand.noted.text if stand.noted else ""), (source, text))
        self.assertIs(self.stand("4 lift", back=noted({"4 lift": " "})).match, Match.NOT_READ)  # taken back

    def test_a_note_belongs_to_its_device(self) -> None:
        other = {("whelk_page", "4 lift"): noted({"4 lift": "9"})["", "4 lift"]}
        self.assertIsNone(self.stand("4 lift", back=other).noted)

    def test_what_nobody_looked_at_stays_as_planned_and_what_was_found_acts(self) -> None:
        station, decided = survey(), choices()
        plan = reckon(station, decided, False)
        as_planned = LIFT.keypad.held(station, decided, read(self.sheet, {}), Display.METRES)
        self.assertEqual(as_planned.program, program_of(station, decided, plan))
        self.assertEqual(as_planned.uncarried, ())
        stands = stands_of(self.sheet, noted({"chart gap": "30"}, Source.AS_FOUND), {}, {})
        as_found = LIFT.keypad.held(station, decided, values_of(self.sheet, stands), Display.METRES)
        self.assertEqual(as_found.program.timing.start_gap_s, 60.0)  # a mark is 2 s


class ProgramTest(unittest.TestCase):
    """One wrong number or option of a controller is seen on the bench."""

    def test_a_wrong_end_of_the_scale_misreads_every_level(self) -> None:
        """The sensor reads 0.10 to 5.10 m. Told 0 to 5 m, its controller takes 1.00 m for 0.90 m: every point comes 10 cm late."""
        station, decided = survey(), choices()
        plan, sheet = sheet_of(station, decided, beside=(PANEL,))
        wrong = held(LIFT, station, decided, sheet, {"eye empty": "0.00", "eye full": "5.00"}, Display.METRES)
        bench = lift_bench(station, decided, wrong.plan, 0.5, wrong.program)
        run = rehearse(bench, (TimedAction(0.0, "inflow", "", 0.004),), 900.0)
        started = next(among(run.events, Thing.PUMP, Doing.STARTS))
        self.assertAlmostEqual(started.value("level"), plan.value("start_1", 0.0) + 0.10, delta=0.02)
        self.assertLessEqual({"up_start_1", "up_high_alarm", "common_stop"}, failing(station, decided, plan, wrong))
        self.assertEqual(failing(station, decided, plan, held(LIFT, station, decided, sheet, {"eye empty": "0.10"}, Display.METRES)), set())

    def test_each_wrong_option_fails_its_proof(self) -> None:
        facts = {"control": {"kind": "pump_controller", "phase_monitor": True, "seal_probes": True}}
        station, decided = survey(**facts), choices(schools={"seal_leak": "stop", "alarm_reset": "by_hand"})
        plan = reckon(station, decided, False)
        values = LIFT.keypad.values(station, decided, plan, Display.METRES)
        sheet = entry_sheet(WHEEL, values, LIFT.keypad.scale(station, WHEEL, Display.METRES), (STARTERS,))
        self.assertEqual(failing(station, decided, plan, held(LIFT, station, decided, sheet, {}, Display.METRES)), set())
        for code, shown, proof in (
            ("next hand", "never", "alternation"), ("phase ear", "deaf", "phase"), ("seal ear", "tells", "seal"), ("seal ear", "deaf", "seal"),
            ("bell rests", "by itself", "high_alarm_clears"), ("if deaf", "one runs", "sensor_failure"), ("eye speaks", "0 to 20", "up_start_1"),
            ("call one", "2.00", "up_start_1"), ("end one", "0.10", "common_stop"), ("space apart", "300", "timer_start_gap"),
        ):  # fmt: skip
            with self.subTest(code, shown=shown):
                as_held = held(LIFT, station, decided, sheet, {code: shown}, Display.METRES)
                self.assertIn(proof, {p.partition(":")[0] for p in failing(station, decided, plan, as_held)}, as_held.program)

    def test_a_relay_told_to_rest_never_calls(self) -> None:
        station, decided = survey(), choices()
        plan, sheet = sheet_of(station, decided, beside=(PANEL,))
        as_held = held(LIFT, station, decided, sheet, {"4 token": "blank", "6 blind": "falls"}, Display.METRES)
        self.assertTrue(math.isinf(as_held.program.relay(Role.START_1).on_m))
        self.assertIn("up_start_1", failing(station, decided, plan, as_held))

    def test_a_family_of_levels_gaps_and_ways_carries_the_same_relays_and_a_wrong_way_turns_one_over(self) -> None:
        """A stop that lets go as the water falls: 0.80 m, back 0.05 m above. Its flag the wrong way, it lets go on the rise."""
        rungs = shipped_profiles()["rockpool_rungs"]
        for relay in ("in_alarm", "in_health"):
            station, decided = survey(), choices(schools={"alarm_relay": relay})
            plan = reckon(station, decided, False)
            values = LIFT.keypad.values(station, decided, plan, Display.METRES)
            sheet = entry_sheet(rungs, values, LIFT.keypad.scale(station, rungs, Display.METRES), (PANEL, STARTERS))
            typed = {row.parameter.code: row.shows for row in sheet.rows if row.kind is not RowKind.LEAVE}
            as_typed = held(LIFT, station, decided, sheet, typed, Display.METRES)
            self.assertEqual(as_typed.uncarried, ())
            for told, planned in zip(as_typed.program.relays, program_of(station, decided, plan).relays):
                self.assertEqual((told.turns, told.normally_closed, told.on_failure), (planned.turns, planned.normally_closed, planned.on_failure))
                self.assertAlmostEqual(told.on_m, planned.on_m, delta=0.011)
                self.assertAlmostEqual(told.off_m, planned.off_m, delta=0.011)
            self.assertEqual(failing(station, decided, plan, as_typed), set())
            for code, shown, proof in (
                ("flag 3", "down, held", "common_stop"), ("flag 4", "furled", "up_start_1"), ("flag 4", "down", "up_start_1"), ("pin 6", {"inner": "outer", "outer": "inner"}[sheet.row("pin 6").shows], "high_alarm_clears"),
                ("cork 4", "2.40", "up_start_1"), ("cord 3", "0.60", "up_stop"), ("night 6", "falls" if relay == "in_alarm" else "rises", "sensor_failure"),
            ):  # fmt: skip
                with self.subTest(relay, code=code, shown=shown):
                    self.assertIn(proof, failing(station, decided, plan, held(LIFT, station, decided, sheet, {**typed, code: shown}, Display.METRES)))

    def test_a_timer_that_the_plan_does_not_use_acts_where_it_was_found(self) -> None:
        """Longest run 5 min, which this plan never asked for: the alarm comes in a storm."""
        station, decided = survey(control={"kind": "pump_controller"}), choices()
        plan = reckon(station, decided, False)
        values = LIFT.keypad.values(station, decided, plan, Display.METRES)
        sheet = entry_sheet(WHEEL, values, LIFT.keypad.scale(station, WHEEL, Display.METRES), (STARTERS,))
        used = sheet.row("run most").kind is not RowKind.LEAVE
        as_held = held(LIFT, station, decided, sheet, {"run most": "5"}, Display.METRES)
        self.assertIs(used, "longest_run" in plan)
        self.assertAlmostEqual(as_held.program.timing.max_run_s, 300.0)
        run = rehearse(lift_bench(station, decided, plan, 1.0, as_held.program), (TimedAction(0.0, "inflow", "", 0.0095),), 1200.0)
        self.assertIn(Alarm.LONG_RUN, {cause.what for cause in run.bench.alarms.lamps})

    def test_a_wrong_range_of_the_pressure_sensor_holds_a_wrong_pressure(self) -> None:
        """Told 16 bar where the sensor reads to 10, the regulator takes 2.5 bar for 4 and stays there; 4 bar are 6.4 and stop it."""
        facts, decided, plan = made()
        sheet, _ = set_sheet(WALL, (facts, decided, plan))
        typed = {f"{n} Loft 2": "16" for n in (1, 2, 3)}
        as_held = held(BOOSTER, facts, decided, sheet, typed, Display.BAR)
        acts = (TimedAction(1.0, "outlets", "", 1.0),)
        high = rehearse(BOOSTER.bench(facts, decided, as_held.plan, 400e3, as_held.program), acts, 10.0)
        self.assertIn(Stop.HIGH, high.bench.logic.stops)
        run = rehearse(BOOSTER.bench(facts, decided, as_held.plan, 180e3, as_held.program), acts, 120.0)
        self.assertAlmostEqual(run.bench.plant.pressure_pa, plan.value("set_pressure", 0.0) * 10.0 / 16.0, delta=8e3)
        (shown,) = prove_set(facts, decided, plan, as_held, frozenset({"holds"}))
        self.assertIs(shown.verdict, Verdict.FAILED)

    def test_options_of_a_set_and_the_form_of_its_gains(self) -> None:
        facts, decided, plan = made()
        sheet, _ = set_sheet(REGULATOR, (facts, decided, plan))
        program = held(BOOSTER, facts, decided, sheet, {"line 49": "keep one", "line 44": "go on", "line 26": "each stop"}, Display.BAR).program
        self.assertEqual((program.on_failure.value, program.suction_reset.value, program.alternation.value), ("run_duty", "automatic", "each_stop"))
        planned = held(BOOSTER, facts, decided, sheet, {}, Display.BAR).program
        loose = held(BOOSTER, facts, decided, sheet, {"line 16": "each part"}, Display.BAR).program
        # u = K e + (1/T) of the integral is u = K (e + 1/(K T) of the integral)
        self.assertAlmostEqual(loose.reset_time, planned.gain * planned.reset_time)


class CarriedTest(unittest.TestCase):
    def test_a_role_beyond_the_last_relay_never_acts_and_is_told_with_its_harm(self) -> None:
        station, decided = survey(relays={"high_alarm": 9}), choices()  # the tray has eight
        plan, sheet = sheet_of(station, decided, beside=(PANEL,))
        as_held = held(LIFT, station, decided, sheet, {}, Display.METRES)
        self.assertEqual([(each.label, each.harm) for each in as_held.uncarried], [("High alarm", "Nobody is told that the water rises: it floods unseen.")])
        self.assertIn("up_high_alarm", failing(station, decided, plan, as_held))
        (matter,) = matters(stands_of(sheet, {}, {}, {}), as_held.uncarried, plan)
        self.assertEqual((matter.about, matter.words), ("setting.high_alarm", "High alarm: none of these devices has a place for it."))

    def test_a_pump_beyond_the_last_drive_is_told(self) -> None:
        facts, decided, plan = made()
        two = WALL.model_copy(update={"drives": 2})
        values = BOOSTER.keypad.values(facts, decided, plan, Display.BAR)
        sheet = entry_sheet(two, values, BOOSTER.keypad.scale(facts, two, Display.BAR))
        told = [each.label for each in held(BOOSTER, facts, decided, sheet, {}, Display.BAR).uncarried if each.about.startswith("drive.")]
        self.assertEqual((facts.pumping.count, told), (3, ["Drive of pump 3"]))

    def test_without_a_panel_its_timers_do_not_act(self) -> None:
        station, decided = survey(), choices()
        plan, sheet = sheet_of(station, decided)
        as_held = held(LIFT, station, decided, sheet, {}, Display.METRES)
        self.assertEqual(as_held.program.timing.start_gap_s, 0.0)
        self.assertTrue(math.isinf(as_held.program.timing.feedback_s))
        told = {each.about: each.harm for each in as_held.uncarried}
        self.assertLessEqual({"setting.start_gap", "setting.feedback_lost", "pumps.alternation"}, told.keys())
        self.assertEqual(told["setting.start_gap"], plan.setting("start_gap").window.governing_lower.harm)  # 0 s, under its window

    @settings(max_examples=25, deadline=None)
    @given(st.sampled_from([MOTOR, WALL, REGULATOR]), st.booleans(), st.sampled_from(["speed", "flow", "bump"]), st.sampled_from(["all_stopped", "each_stop", "clock"]))
    def test_every_number_of_a_set_is_carried_refused_or_told(self, profile, night, no_flow, alternation) -> None:
        """What a family has no place for does not act; what it has comes back from the sheet within rounding."""
        facts, decided, plan = made({}, {"night": night, "no_flow": no_flow, "alternation": alternation})
        beside = tuple(shipped_profiles()[name] for name in ("limpet_beads", "gas_valve"))
        values = BOOSTER.keypad.values(facts, decided, plan, Display.BAR)
        sheet = entry_sheet(profile, values, BOOSTER.keypad.scale(facts, profile, Display.BAR), beside)
        typed = {row.parameter.code: row.shows for row in sheet.rows if row.kind in (RowKind.CHANGE, RowKind.CHECK)}
        as_held = held(BOOSTER, facts, decided, sheet, typed, Display.BAR)
        told = {each.about.removeprefix("setting.") for each in as_held.uncarried}
        refused = {row.setting for row in sheet.rows if row.kind is RowKind.REFUSED}
        for setting in plan.settings:
            if setting.id not in told | refused:
                self.assertAlmostEqual(as_held.plan.value(setting.id, math.nan), setting.value, delta=0.02 * abs(setting.value) + 6e3 * (setting.quantity.value == "pressure") + 0.011)
        planned = BOOSTER.keypad.held(facts, decided, read(sheet, {}), Display.BAR).program
        for name in ("sharing", "no_flow", "on_failure", "suction_reset", "alternation", "setback_square", "fill_stops", "signal", "night_from_h"):
            self.assertEqual(getattr(as_held.program, name), getattr(planned, name), name)


class AnythingShownTest(unittest.TestCase):
    """Whatever somebody says a display shows, the page, the bench and its reasons come; what it cannot show is not believed."""

    ANY = st.one_of(st.sampled_from(["0", "-1", "1e9", "nan", "inf", "abc", "99999", " "]), st.floats(-60.0, 600.0).map(lambda x: f"{x:.2f}"))

    @settings(max_examples=60, deadline=None)
    @given(st.data())
    def test_it(self, data) -> None:
        if data.draw(st.booleans()):
            station = survey(control={"kind": "pump_controller"}), choices()
            kind, plan, acts = LIFT, reckon(*station, False), (TimedAction(0.0, "inflow", "", 0.006),)
            display = Display.METRES
            sheet = entry_sheet(WHEEL, LIFT.keypad.values(*station, plan, display), LIFT.keypad.scale(station[0], WHEEL, display), (STARTERS,))
        else:
            *station, plan = made()
            kind, display, acts = BOOSTER, Display.BAR, (TimedAction(0.0, "outlets", "", 0.5),)
            sheet, _ = set_sheet(data.draw(st.sampled_from([MOTOR, WALL, REGULATOR])), (*station, plan))
        rows = data.draw(st.lists(st.sampled_from(sheet.rows), min_size=1, max_size=4, unique_by=lambda row: row.number))
        typed = {
            row.parameter.code: data.draw(st.sampled_from(list(row.parameter.options.values()))) if row.parameter.options else data.draw(self.ANY)
            for row in rows
        }
        stands = stands_of(sheet, {}, noted(typed), {})
        as_held = kind.keypad.held(*station, values_of(sheet, stands), display)
        told = matters(stands, as_held.uncarried, plan)
        differing = [stand for stand in stands if stand.match is Match.DIFFERS]
        self.assertGreaterEqual(len(told), len(differing))
        self.assertTrue(all(matter.words and matter.harm for matter in told))
        run = rehearse(kind.bench(*station, as_held.plan, None, as_held.program), acts, 90.0)
        self.assertTrue(all(line.links for line in run.bench.reasons()))


class HintTest(unittest.TestCase):
    """The usual slips are named from the number alone."""

    def setUp(self) -> None:
        facts, decided, plan = made()
        self.wall, _ = set_sheet(WALL, (facts, decided, plan))
        self.page, _ = set_sheet(REGULATOR, (facts, decided, plan))
        self.motor, _ = set_sheet(MOTOR, (facts, decided, plan))
        _, self.tray = sheet_of(survey(), choices(), beside=(PANEL,))

    def hint(self, sheet, code: str, shown: str, found: str = "") -> str:
        stands = stands_of(sheet, noted({code: found} if found else {}, Source.AS_FOUND, 2), noted({code: shown}), {})
        return hint_of(next(s for s in stands if s.row.parameter.code == code), stands)

    def test_each_slip(self) -> None:
        set_pressure = self.wall.row("1 Loft 15")  # 4.00 bar
        self.assertEqual(set_pressure.shows, "4.00")
        restart = self.wall.row("1 Loft 16")
        start, stop = self.tray.row("4 lift").shows, self.tray.row("3 drop").shows
        for sheet, code, shown, found, words in (
            (self.wall, "1 Loft 15", "0.00", "", "what a new device shows"),
            (self.wall, "1 Loft 15", "3.70", "3.7", "what was found before"),
            (self.wall, "1 Loft 15", "40.0", "", "decimal point slipped"),
            (self.wall, "1 Loft 15", "58.02", "", "the number in psi: the display counts in bar"),
            (self.wall, "1 Loft 15", "400", "", "decimal point slipped"),
            (self.wall, "1 Loft 16", f"{4.0 - float(restart.shows):.2f}", "", "value itself: the display wants it measured from"),
            (self.page, "line 7", f"{4.0 * float(self.page.row('line 7').shows) / 100.0:.1f}", "", "value itself"),
            (self.motor, "1 p 48", f"{float(self.motor.row('1 p 48').shows) / 60.0:.1f}", "", "the number in h: the display counts in min"),
            (self.motor, "1 p 4", f"{float(self.motor.row('1 p 4').shows) * 12.0:.0f}", "", "counts in dozen"),
            (self.tray, "4 lift", self.tray.row("5 lift").shows, "", "belongs under 5 lift: the numbers of two pumps or relays were swapped"),
            (self.tray, "3 drop", self.tray.row("3 lift").shows, "", "belongs under 3 lift: typed one row off"),
            (self.tray, "4 lift", f"{float(start) / 0.3048:.2f}", "", "the number in ft"),
            (self.tray, "next to nothing", "", "", ""),
        )[:-1]:
            with self.subTest(code, shown=shown):
                self.assertIn(words, self.hint(sheet, code, shown, found))
        self.assertEqual(self.hint(self.tray, "3 drop", f"{float(stop) + 0.37:.2f}"), "")
        self.assertIn("offers", self.hint(self.tray, "4 token", "drum"))
        self.assertIn("no number", self.hint(self.tray, "4 lift", "abc"))
        self.assertEqual(self.hint(self.tray, "4 lift", "31"), "The display shows 0 to 30: it cannot show that. Look again.")

    def test_a_difference_is_told_with_the_harm_of_the_side_it_lies_on(self) -> None:
        station, decided = survey(), choices()
        plan, sheet = sheet_of(station, decided, beside=(PANEL,))
        for shown, harm in (
            ("4.90", plan.setting("start_1").window.governing_upper.harm),
            (f"{plan.value('start_1', 0.0) + 0.01:.2f}", "None by its window; it is another number than planned."),
        ):
            stands = stands_of(sheet, {}, noted({"4 lift": shown}), {})
            (matter,) = matters(stands, (), plan)
            self.assertEqual((matter.about, matter.harm), (f"ebbstone_tray/4 lift={shown}", harm))


class LowFloatTest(unittest.TestCase):
    def test_an_input_told_the_wrong_way_or_nothing_fails_its_proofs(self) -> None:
        """The drum of a pump controller: deaf, a dry well is not seen; running while the contact gapes, no pump runs and a broken wire permits."""
        station = survey(control={"kind": "pump_controller"}, demands={"low_float": True})
        decided = choices()
        plan = LIFT.reckon(station, decided, False)
        values = LIFT.keypad.values(station, decided, plan, Display.METRES)
        sheet = entry_sheet(WHEEL, values, LIFT.keypad.scale(station, WHEEL, Display.METRES), (STARTERS,))
        row = next(row for row in sheet.rows if row.parameter.code == "low ear")
        self.assertEqual((row.shows, row.default_shows), ("runs while it is shut", "deaf"))
        for shown, wrong in (("runs while it is shut", set()), ("deaf", {"low_float", "broken_wire_low_float"}), ("runs while it gapes", {"low_float", "broken_wire_low_float", "common_stop"})):
            as_held = held(LIFT, station, decided, sheet, {"low ear": shown}, Display.METRES)
            failed = {each.proof.id for each in LIFT.prove_on_bench(station, decided, plan, as_held) if each.verdict is Verdict.FAILED}
            self.assertTrue(wrong <= failed if wrong else not failed, (shown, failed))
