"""Who may ask for which pressure: the week's clock, keys, the outside with its limits, local and remote, and the loop by hand."""

import unittest

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.sheets.entry_sheet import entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.bench.put_on import booster_bench
from goodbalance.core.stations.booster.controller.set_value import Asking, Asks, Line, SetValue, scheduled
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, OutsideLost
from goodbalance.core.stations.booster.survey.control import OutsideSet
from goodbalance.core.stations.booster.survey.plausibility import plausibility
from goodbalance.core.stations.shared.week import Days
from goodbalance.exchange.profiles import shipped_profiles
from tests.boosters import survey
from tests.read_backs import held

HOUR_S, DAY_S = 3600.0, 86400.0
WEEK = {
    "times": 2, "days_1": "workdays", "from_1_h": 6, "wanted_1_pa": 2e5, "days_2": "all", "from_2_h": 22, "wanted_2_pa": 1.2e5,
}  # fmt: skip
ASKED = {"outside": "link", "outside_zero_pa": 1e5, "outside_full_pa": 8e5, "local_remote": True, "run_contact": True}


def station(**control):
    return survey(control={"device": "panel_regulator", **ASKED, **control})


class WeekTest(unittest.TestCase):
    def test_the_line_that_began_last_holds(self) -> None:
        """By hand, workdays from 06 h and every day from 22 h: Monday 05 h is still Sunday's night, Saturday noon Friday's."""
        day, night = Line(1, Days.WORKDAYS, 6.0, 4e5), Line(2, Days.ALL, 22.0, 3e5)
        for weekday, hour, expected in ((0, 5.0, night), (0, 6.0, day), (0, 21.9, day), (0, 22.0, night), (5, 12.0, night), (6, 23.0, night), (4, 12.0, day)):
            self.assertIs(scheduled((day, night), weekday * DAY_S + hour * HOUR_S), expected, (weekday, hour))
        self.assertIsNone(scheduled((), 0.0))
        self.assertEqual((Days.MONDAY.numbers, Days.SUNDAY.numbers, Days.WEEKEND.numbers), ((0,), (6,), (5, 6)))

    def test_whose_value_is_in_force(self) -> None:
        """Own 4 bar, limits 3.5 and 4.5, by the week 3 bar (never under the limit), from outside 1 to 8 bar: half of it asks for 4.5."""
        line = Line(1, Days.ALL, 0.0, 3e5)
        for asking, share, remote, keyed, by_week, expected in (
            (Asking(), None, True, None, True, (4e5, Asks.OWN)),
            (Asking(lines=(line,)), None, True, None, True, (3.5e5, Asks.SCHEDULE)),
            (Asking(lines=(line,)), None, True, None, False, (4e5, Asks.OWN)),
            (Asking(keys=True), None, True, 4.2e5, True, (4.2e5, Asks.KEYS)),
            (Asking(keys=True), None, True, 9e5, True, (4.5e5, Asks.KEYS)),
            (Asking(), None, True, 9e5, True, (4e5, Asks.OWN)),  # locked keys ask for nothing
            (Asking(outside=OutsideSet.LINK, zero_pa=1e5, full_pa=8e5), 0.45, True, None, True, (4.15e5, Asks.OUTSIDE)),
            (Asking(outside=OutsideSet.LINK, zero_pa=1e5, full_pa=8e5), 1.0, True, None, True, (4.5e5, Asks.OUTSIDE)),
            (Asking(outside=OutsideSet.LINK, zero_pa=1e5, full_pa=8e5, local_remote=True), 1.0, False, None, True, (4e5, Asks.OWN)),
            (Asking(outside=OutsideSet.LINK, zero_pa=1e5, full_pa=8e5), 1.0, False, None, True, (4.5e5, Asks.OUTSIDE)),  # no switch, no local
        ):  # fmt: skip
            value = SetValue(asking, remote=remote, keyed=keyed, by_week=by_week)
            value.hears(share)
            self.assertEqual(value.in_force(4e5, 0.0, 3.5e5, 4.5e5), expected)

    def test_what_a_silent_outside_leaves(self) -> None:
        for lost, expected in ((OutsideLost.LOCAL, (4e5, Asks.LOST)), (OutsideLost.HOLD, (4.15e5, Asks.HELD))):
            value = SetValue(Asking(outside=OutsideSet.SIGNAL, zero_pa=1e5, full_pa=8e5, lost=lost))
            value.hears(None)
            self.assertEqual(value.in_force(4e5, 0.0, 0.0, 9e5)[1], Asks.LOST)  # nothing was ever heard
            value.hears(0.45)
            value.hears(None)
            self.assertEqual(value.in_force(4e5, 0.0, 0.0, 9e5), expected)
            self.assertAlmostEqual(value.share_for(4.15e5), 0.45)


class WindowTest(unittest.TestCase):
    def test_each_time_of_the_week_has_its_own_window(self) -> None:
        """2 bar where 1.5 are wanted by day: half a bar over the set pressure's lower bound; 1.2 bar at mean flow: its losses, not those at design."""
        plan = BOOSTER.reckon(station(), BoosterChoices.model_validate({"schedule": WEEK}), False)
        hyd, by_day = hydraulics(station()), plan.setting("set_pressure").window
        more, less = plan.setting("schedule_1").window, plan.setting("schedule_2").window
        wanted_pa = station().outlets.residual_pa
        self.assertAlmostEqual(more.low - by_day.low, 2e5 - wanted_pa, delta=1.0)
        self.assertAlmostEqual(more.high, by_day.high)
        saved_pa = hyd.column_of(hyd.pipe.loss_m(station().demand.design_m3s) - hyd.pipe.loss_m(station().demand.mean_m3s))
        worst = next(bound.value for bound in less.lower if bound.cause == "worst outlet at mean flow")
        self.assertAlmostEqual(worst, by_day.low - (wanted_pa - 1.2e5) - saved_pa, delta=1.0)
        lowest, highest = plan.setting("lowest_set"), plan.setting("highest_set")
        values = [plan.value(one, 0.0) for one in ("set_pressure", "schedule_1", "schedule_2")]
        self.assertLessEqual(lowest.value, min(values))
        self.assertGreaterEqual(highest.value, max(values))
        self.assertGreater(lowest.value, plan.value("restart", 0.0))
        self.assertGreaterEqual(plan.setting("high_stop").window.low, highest.value)  # asked for the most, it must not trip

    def test_no_limits_where_nobody_asks(self) -> None:
        plan = BOOSTER.reckon(survey(), BoosterChoices(), False)
        self.assertNotIn("lowest_set", plan)
        self.assertNotIn("schedule_1", plan)

    def test_what_is_told(self) -> None:
        plan = BOOSTER.reckon(station(direct_keys=True), BoosterChoices(), False)
        self.assertLessEqual({"direct_keys", "asked_beyond", "prove_in_local"}, {finding.code for finding in plan.findings})
        turned = plausibility({"control.outside_zero_pa": 8e5, "control.outside_full_pa": 1e5})
        self.assertIn("order_control.outside_zero_pa", {finding.code for finding in turned})


class BenchTest(unittest.TestCase):
    def bench(self, *actions: TimedAction, until_s: float = 120.0, **control):
        chosen = BoosterChoices.model_validate({"schedule": WEEK})
        made = station(**control)
        return rehearse(booster_bench(made, chosen, BOOSTER.reckon(made, chosen, False)), actions, until_s).bench

    def act(self, kind: str, value: float, at_s: float = 0.0) -> TimedAction:
        return TimedAction(at_s, kind, "", value)

    def test_the_pressure_goes_where_it_is_asked_to(self) -> None:
        bench = self.bench(self.act("outside", 0.46), self.act("outlets", 0.4, 1.0), outside_zero_pa=1e5, outside_full_pa=8e5)
        self.assertAlmostEqual(bench.plant.pressure_pa, 4.22e5, delta=1.2e4)
        text = next(link.text for link in bench.reasons()[0].links if link.name == "Demand")
        self.assertIn("as asked from outside", text)
        back = self.bench(self.act("outside", 0.46), self.act("outlets", 0.4, 1.0), self.act("remote", 0.0, 60.0), self.act("week", 0.0, 60.0))
        self.assertAlmostEqual(back.plant.pressure_pa, back.logic.numbers.set_pressure, delta=1.2e4)

    def test_the_schedule_changes_the_pressure_at_its_hour(self) -> None:
        """From Monday noon on to 21:59:30 and a minute more."""
        on_h = 22.0 - 12.0 - 30.0 / 3600.0
        acts = (self.act("remote", 0.0), self.act("clock", on_h), self.act("outlets", 0.4, 1.0))
        before, after = self.bench(*acts, until_s=25.0), self.bench(*acts, until_s=200.0)
        plan = BOOSTER.reckon(station(), BoosterChoices.model_validate({"schedule": WEEK}), False)
        self.assertAlmostEqual(before.logic.in_force()[0], plan.value("schedule_1", 0.0))
        self.assertAlmostEqual(after.plant.pressure_pa, plan.value("schedule_2", 0.0), delta=1.2e4)

    def test_an_open_run_contact_stops_the_set_but_in_local(self) -> None:
        draws = self.act("outlets", 0.4, 1.0)
        stopped = self.bench(draws, self.act("run", 0.0, 60.0))
        self.assertEqual(stopped.running, ())
        link = next(link for link in stopped.reasons()[0].links if link.name == "Run command")
        self.assertEqual(link.text, "the outside contact is open")
        self.assertTrue(self.bench(draws, self.act("run", 0.0, 60.0), self.act("remote", 0.0, 60.0)).running)

    def test_the_loop_goes_on_from_the_speed_by_hand(self) -> None:
        acts = (self.act("outlets", 0.4, 1.0), self.act("loop", 0.0, 60.0), self.act("loop_speed", 0.7, 60.5))
        by_hand = self.bench(*acts, until_s=70.0)
        self.assertEqual(by_hand.logic.output, 0.7)
        self.assertIn("by hand", next(link.text for link in by_hand.reasons()[0].links if link.name == "Demand"))
        self.assertEqual(by_hand.logic.stage, self.bench(*acts[:1], until_s=60.0).logic.stage)
        back = self.bench(*acts, self.act("loop", 1.0, 70.0), until_s=70.4)
        self.assertAlmostEqual(back.logic.output, 0.7, delta=0.08)


class DeviceTest(unittest.TestCase):
    def sheet(self, made, chosen):
        page, drive, gas = (shipped_profiles()[one] for one in ("whelk_page", "limpet_beads", "gas_valve"))
        plan = BOOSTER.reckon(made, chosen, False)
        values = BOOSTER.keypad.values(made, chosen, plan, Display.BAR)
        return plan, entry_sheet(page, values, BOOSTER.keypad.scale(made, page, Display.BAR), (drive, gas))

    def code_of(self, sheet, meaning: str) -> str:
        return next(row.parameter.code for row in sheet.rows if row.parameter.meaning == meaning)

    def test_every_row_that_is_wrong_fails_its_proof(self) -> None:
        chosen, made = BoosterChoices.model_validate({"schedule": WEEK}), station()
        plan, sheet = self.sheet(made, chosen)
        self.assertEqual([row.trouble for row in sheet.rows if "schedule" in row.parameter.meaning and row.trouble], [])
        right = held(BOOSTER, made, chosen, sheet, {}, Display.BAR)
        mine = {"schedule_1", "schedule_2", "lowest_set", "highest_set", "outside", "outside_lost", "local", "run_contact", "loop"}
        verdicts = {each.proof.id: each.verdict for each in BOOSTER.prove_on_bench(made, chosen, plan, right, frozenset(mine))}
        self.assertEqual(set(verdicts), mine)
        self.assertEqual(set(verdicts.values()), {Verdict.PASSED}, verdicts)
        for meaning, shows, failing in (
            ("control.outside", "nobody", "outside"), ("control.outside_zero", "2.00", "outside"), ("control.outside_full", "6.00", "outside"),
            ("control.outside_lost", "its last word", "outside_lost"), ("control.local_remote", "no", "local"), ("control.run_contact", "no", "run_contact"),
            ("setting.lowest_set", "3.70", "lowest_set"), ("setting.highest_set", "6.00", "highest_set"), ("control.smooth", "no", "loop"),
            ("control.schedule_1_days", "the two", "schedule_1"), ("control.schedule_1_days", "all seven", "schedule_1"), ("control.schedule_2_from", "23", "schedule_2"), ("setting.schedule_1", "3.95", "schedule_1"),
        ):  # fmt: skip
            with self.subTest(meaning):
                wrong = held(BOOSTER, made, chosen, sheet, {self.code_of(sheet, meaning): shows}, Display.BAR)
                failed = {each.proof.id for each in BOOSTER.prove_on_bench(made, chosen, plan, wrong, frozenset(mine)) if each.verdict is Verdict.FAILED}
                self.assertIn(failing, failed)

    def test_keys_left_unlocked_are_a_difference_and_a_family_without_a_link_is_told_so(self) -> None:
        made, chosen = survey(), BoosterChoices()
        plan = BOOSTER.reckon(made, chosen, False)
        book = shipped_profiles()["marram_book"]
        sheet = entry_sheet(book, BOOSTER.keypad.values(made, chosen, plan, Display.BAR), BOOSTER.keypad.scale(made, book, Display.BAR))
        self.assertEqual(sheet.row(self.code_of(sheet, "drive.1.direct_keys")).shows, "never")
        linked = survey(control=ASKED)
        values = BOOSTER.keypad.values(linked, chosen, BOOSTER.reckon(linked, chosen, False), Display.BAR)
        plain = entry_sheet(book, values, BOOSTER.keypad.scale(linked, book, Display.BAR))
        told = {each.about for each in held(BOOSTER, linked, chosen, plain, {}, Display.BAR).uncarried if each.harm}
        self.assertLessEqual({"control.outside", "control.local_remote", "control.run_contact"}, told)
