"""Proofs of transfer sets: sound plans pass their own, a wrong number fails one, and faults are noticed; families, habits, wires."""

import random
import unittest
from dataclasses import replace

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.protection.names import GROUP
from goodbalance.core.rehearsal.noticing import Notice, noticed
from goodbalance.core.sheets.entry_sheet import RowKind, entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.shared.held import Held
from goodbalance.core.stations.transfer.bench.breakable import troubles
from goodbalance.core.stations.transfer.bench.put_on import transfer_bench
from goodbalance.core.stations.transfer.controller.numbers import numbers_of
from goodbalance.core.stations.transfer.kind import TRANSFER
from goodbalance.core.stations.transfer.plant.hydraulics import hydraulics
from goodbalance.core.stations.transfer.proofs.listed import proofs
from goodbalance.core.stations.transfer.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.transfer.survey.choices import AfterCut, DelayFrom, TransferChoices
from goodbalance.exchange.profiles import shipped_profiles
from tests.read_backs import held, read
from tests.transfers import CURVE, METRE_PA, choices, plan_of, survey, tank
from tools.march.transfers import sets

TWO = {"tanks": {"count": 2, "drinking": False, "lost_m3": 20.0}, "tank_2": tank(floor_m=26.0), "pumping": {"count": 2}, "line": {"diameter_m": 0.1}}
LEDGER, SLATE = shipped_profiles()["dunlin_ledger"], shipped_profiles()["sandeel_slate"]


class OwnProofsTest(unittest.TestCase):
    def test_sound_plans_pass_their_own_proofs(self) -> None:
        """A thousand and more of them in docs/safety.md; here a few of each way of knowing that a tank is full."""
        for own, facts, decided, plan in sets(random.Random(4), 8):
            failed = [(each.proof.id, each.proof.expected, each.seen) for each in prove_on_bench(facts, decided, plan) if each.verdict is Verdict.FAILED]
            self.assertEqual(failed, [], own.full_by)

    def test_a_pump_that_has_lost_head_shows_against_a_closed_valve(self) -> None:
        """Shut-off 60 m and water 2 to 4 m over the sensor: 63 m of it; 12 % less head is 55.8 m, and a twentieth may be off. Where no part stands it nobody is asked."""
        facts, decided, plan = survey(), choices(), plan_of(survey())
        (proof,) = [each for each in proofs(facts, decided, plan) if each.check == "shut_off"]
        middle_m = (facts.source.low_m + facts.source.high_m) / 2.0 - hydraulics(facts).sensor_m
        self.assertAlmostEqual(proof.expected, (middle_m + 60.0) * METRE_PA, delta=50.0)
        self.assertAlmostEqual(proof.tolerance, 0.05 * 60.0 * METRE_PA + 5e3, delta=50.0)
        worn = next(each for each in troubles(transfer_bench(facts, decided, plan)) if each.kind == "worn")
        for broken, head_m, verdict in ((None, 60.0, Verdict.PASSED), (worn, 0.88 * 60.0, Verdict.FAILED)):
            (found,) = prove_on_bench(facts, decided, plan, only=frozenset({proof.id}), broken=broken)
            self.assertIs(found.verdict, verdict)
            self.assertAlmostEqual(found.seen, (middle_m + head_m) * METRE_PA, delta=2e3)
        weak = survey(line={"rating_pa": 5.5e5})
        self.assertEqual([each for each in proofs(weak, decided, TRANSFER.reckon(weak, decided, False)) if each.check == "shut_off"], [])

    def test_after_a_power_cut_the_time_counts_from_when_pumps_may_run(self) -> None:
        """With a monitor that lets them wait, and where a person must press reset first."""
        for monitored, power_return in ((False, "by_hand"), (True, "by_itself"), (True, "by_hand")):
            facts = survey(line={"diameter_m": 0.1}, control={"phase_monitor": monitored}, protection={"monitor": "voltages"})
            decided = TransferChoices.model_validate({"protection": {"power_return": power_return}})
            (shown,) = prove_on_bench(facts, decided, plan_of(facts, decided), None, frozenset({"delay_after_cut"}))
            self.assertIs(shown.verdict, Verdict.PASSED, (monitored, power_return, shown.seen))
            self.assertEqual("press reset" in shown.proof.action, power_return == "by_hand")

    def test_two_sources_that_sink_at_their_own_pace_are_filled_up_in_turn(self) -> None:
        pool = {"low_m": 2.0, "high_m": 4.0, "safe_m": 1.0, "loss_m": 0.0, "inflow_m3s": 0.0}
        second = {"curve": CURVE, "rated_current_a": 3.4, "rated_power_w": 1500.0}
        facts = survey(**TWO, source={**pool, "area_m2": 3.0}, source_2={**pool, "area_m2": 0.4}, second=second)
        shown = prove_on_bench(facts, choices(), plan_of(facts), None, frozenset({"closes_1", "overshoot"}))
        self.assertEqual([each.verdict for each in shown], [Verdict.PASSED] * 2, [each.seen for each in shown])

    def test_every_setting_has_a_proof(self) -> None:
        for full_by in ("pressure", "levels", "both"):
            facts = survey(**TWO, control={"full_by": full_by, "phase_monitor": True}, protection={"monitor": "voltages"})
            plan = plan_of(facts)
            proved = {setting for proof in proofs(facts, choices(), plan) for setting in proof.proves}
            self.assertEqual({setting.id for setting in plan.settings} - proved, set(), full_by)

    def test_a_wrong_number_at_the_keypad_fails_its_proof(self) -> None:
        """Every setting far off, one at a time, as a device might hold it: a proof that says it proves that one fails."""
        for full_by in ("pressure", "levels"):
            facts = survey(**TWO, control={"full_by": full_by})
            plan = plan_of(facts)
            for setting in plan.settings:
                if setting.group == GROUP:
                    continue
                off = {"pressures": setting.window.high - setting.value + 8e4, "levels": -0.12, "sources": 0.15}.get(setting.group, 0.5 * setting.value + 30.0)
                wrong = replace(plan, settings=tuple(replace(each, value=each.value + off) if each.id == setting.id else each for each in plan.settings))
                program = numbers_of(facts, choices(), wrong)
                only = frozenset(proof.id for proof in proofs(facts, choices(), plan) if setting.id in proof.proves)
                shown = prove_on_bench(facts, choices(), plan, Held(wrong, program), only)
                with self.subTest(f"{full_by}: {setting.id}"):
                    self.assertIn(Verdict.FAILED, {each.verdict for each in shown})

    def test_what_the_device_does_with_its_delay_is_proved(self) -> None:
        """The plan wants the delay from the drop, kept over a power cut; a device that counts from the stop or skips it fails."""
        facts, decided = survey(line={"diameter_m": 0.1}), choices(after_cut="kept")
        plan = plan_of(facts, decided)
        program = numbers_of(facts, decided, plan)
        for change, check in (({"delay_from": DelayFrom.STOP}, "delay"), ({"after_cut": AfterCut.SKIPPED}, "delay_after_cut"), ({"after_cut": AfterCut.ANEW}, "delay_after_cut")):
            (shown,) = prove_on_bench(facts, decided, plan, Held(plan, replace(program, **change)), frozenset({check}))
            self.assertIs(shown.verdict, Verdict.FAILED, change)

    def test_grave_faults_are_noticed_by_a_proof(self) -> None:
        """Each of these is caught by a proof of the plan at least; what none catches the page tells."""
        facts = survey(**TWO, control={"full_by": "both", "tank_wire": "sensor"})
        plan = plan_of(facts)
        healthy = prove_on_bench(facts, choices(), plan)
        listed = {trouble.id: trouble for trouble in troubles(transfer_bench(facts, choices(), plan))}
        for one in ("stuck_open.1", "stuck_shut.1", "leak", "burst", "drift", "frozen", "density", "worn.1", "check_valve.1", "backwards.2", "shut.1", "source_wire", "wire_off.2", "loop_short", "dial_up.1"):
            broken = prove_on_bench(facts, choices(), plan, None, None, listed[one])
            with self.subTest(one):
                self.assertIs(noticed(listed[one], healthy, broken).best, Notice.FAILS)


class SheetTest(unittest.TestCase):
    def sheet(self, profile, facts, decided=None):
        decided, display = decided or choices(), next(iter(profile.steps))
        plan = plan_of(facts, decided)
        return plan, entry_sheet(profile, TRANSFER.keypad.values(facts, decided, plan, display), TRANSFER.keypad.scale(facts, profile, display)), display

    def test_metres_of_water_and_minutes(self) -> None:
        """The stop in metres of water to a tenth (1 m is 9.80665 kPa), the delay in minutes; what rounding moves stays inside."""
        facts = survey()
        plan, sheet, _ = self.sheet(LEDGER, facts)
        stop, rest = sheet.row("right 1"), sheet.row("right 3")
        self.assertEqual((stop.shows, stop.unit), (f"{round(plan.value('stop_pressure', 0.0) / 9806.65, 1):.1f}", "mWC"))
        self.assertEqual((rest.shows, rest.unit), (f"{plan.value('restart_delay', 0.0) / 60.0:.1f}", "min"))
        self.assertEqual([row.parameter.code for row in sheet.changes if row.trouble], [])
        self.assertTrue(TRANSFER.keypad.recheck(facts, choices(), sheet).is_sound)

    def test_one_pressure_as_a_step_under_the_other(self) -> None:
        plan, sheet, _ = self.sheet(SLATE, survey())
        step_pa = float(sheet.row("lower step").shows) * 1e5
        self.assertAlmostEqual(step_pa, plan.value("stop_pressure", 0.0) - plan.value("restart_pressure", 0.0), delta=5e3)
        self.assertEqual(sheet.row("frame again").shows, "mark and glass")

    def test_a_family_that_always_counts_from_the_stop_is_told_of_and_runs_so(self) -> None:
        """No row, no place to type it: the program follows the habit, and the plan's wish is told as not carried, with the harm."""
        facts = survey()
        plan, sheet, display = self.sheet(SLATE, facts)
        nobody = read(sheet, {})
        found = TRANSFER.keypad.held(facts, choices(), nobody, display)
        self.assertEqual((found.program.delay_from, found.program.after_cut), (DelayFrom.STOP, AfterCut.SKIPPED))
        told = {each.about: each.harm for each in found.uncarried}
        self.assertIn("one way of its own (stop)", told["control.delay_from"])
        as_it_is = TRANSFER.keypad.held(facts, choices(delay_from="stop", after_cut="skipped", alarm_reset="by_hand"), nobody, display)
        self.assertEqual([each.about for each in as_it_is.uncarried if not each.about.startswith("setting.overload")], [])  # dials stand at the starters

    def test_what_was_read_back_is_what_runs(self) -> None:
        facts = survey()
        _, sheet, display = self.sheet(LEDGER, facts)
        found = held(TRANSFER, facts, choices(), sheet, {"right 2": "20.0", "left 2": "its water"}, display)
        self.assertAlmostEqual(found.program.restart_pressure, 20.0 * 9806.65)
        self.assertEqual(found.program.full_by.value, "levels")
        column_pa = 23.0 * 9806.65  # the bench shows it: a restart under the column never starts
        self.assertLess(found.program.restart_pressure, column_pa)

    def test_levels_reach_the_ledger_and_not_the_slate(self) -> None:
        facts = survey(control={"full_by": "levels"})
        plan, sheet, display = self.sheet(LEDGER, facts)
        self.assertEqual(sheet.row("pool 1 call").shows, f"{plan.value('start_1', 0.0):.2f}")
        self.assertEqual(sheet.row("pool 2 call").kind, RowKind.LEAVE)
        _, slate, display = self.sheet(SLATE, facts)
        missing = {each.about for each in TRANSFER.keypad.held(facts, choices(), read(slate, {}), display).uncarried}
        self.assertTrue({"setting.start_1", "setting.stop_1", "control.full_by"} <= missing)
        self.assertIs(display, Display.BAR)

    def test_the_wires_of_the_plan(self) -> None:
        facts = survey(control={"full_by": "both", "tank_wire": "watched", "source_by": "switch"}, **TWO)
        named = {joint.meaning for joint in TRANSFER.joints(facts, choices(), plan_of(facts))}
        self.assertTrue({"input.line", "contact.source.1", "contact.tank.1", "contact.tank.2", "pump.2", "output.alarm"} <= named)
        broken = next(joint.broken for joint in TRANSFER.joints(survey(control={"full_by": "levels", "tank_wire": "closes"}), choices(), plan_of(survey(control={"full_by": "levels", "tank_wire": "closes"}))) if joint.meaning == "contact.tank.1")
        self.assertIn("overflows", broken)
