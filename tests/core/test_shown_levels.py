"""Levels as a display shows them, the field offset of a sensor, and one transmitter looped through two inputs."""

import unittest

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.sheets.entry_sheet import Scale, entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.survey.plausibility import plausibility
from goodbalance.core.stations.shared.facts import LoopBudget, starved_loop
from goodbalance.exchange.profiles import shipped_profiles
from tests.boosters import survey as booster_survey
from tests.read_backs import held
from tests.stations import choices, survey


class ShownTest(unittest.TestCase):
    def test_one_level_in_every_unit(self) -> None:
        """1.90 m over the floor, the sensor's face at 0.20 m, span 4 m, well 6 m deep, 1000 kg/m3.

        psi: 1.70 m x 1000 x 9.80665 / 6894.757 = 2.418; % of span: 1.70/4 = 42.5; % of depth: 1.90/6 = 31.67; ft: 6.2336.
        """
        for display, shown in (
            (Display.METRES, 1.90), (Display.FEET, 6.23360), (Display.PSI, 2.41797), (Display.PERCENT_OF_SPAN, 42.5), (Display.PERCENT_OF_DEPTH, 31.6667),
        ):  # fmt: skip
            scale = Scale(display, 0.01, 2, 0.2, 4.0, depth=6.0, weight=9806.65)
            self.assertAlmostEqual(scale.shown(1.90), shown, places=4)
            self.assertAlmostEqual(scale.si(scale.shown(1.90)), 1.90)
            self.assertAlmostEqual(scale.si(scale.shown(1.0) + 0.3 / scale.per_unit), 1.30)  # a step is a step wherever it stands
        pressure = Scale(Display.PSI, 0.1, 1, 0.0, 1e6)
        self.assertAlmostEqual(pressure.shown(400_000.0), 58.0151, places=3)

    def test_a_sheet_in_each_unit_holds_the_same_levels(self) -> None:
        plan = LIFT.reckon(survey(), choices(), False)
        tray, panel = (shipped_profiles()[one] for one in ("ebbstone_tray", "dabberlock_panel"))
        for display in tray.steps:
            values = LIFT.keypad.values(survey(), choices(), plan, display)
            sheet = entry_sheet(tray, values, LIFT.keypad.scale(survey(), tray, display), (panel,))
            back = LIFT.keypad.recheck(survey(), choices(), sheet)
            for setting in plan.group("levels"):
                self.assertAlmostEqual(back.setting(setting.id).value, setting.value, delta=0.012, msg=f"{display} {setting.id}")
                self.assertTrue(back.setting(setting.id).window.holds(back.setting(setting.id).value), f"{display} {setting.id}")


class OffsetTest(unittest.TestCase):
    def with_offset(self, offset_m: float):
        return survey(sensor={**survey().sensor.model_dump(), "offset_m": offset_m})

    def test_the_offset_moves_what_it_reads_and_a_wrong_one_misreads_every_level(self) -> None:
        plain, moved = hydraulics(survey()), hydraulics(self.with_offset(0.12))
        self.assertAlmostEqual(moved.scaling.value_low, plain.scaling.value_low + 0.12)
        self.assertAlmostEqual(moved.sensor_high_m, plain.sensor_high_m + 0.12)
        station = self.with_offset(0.12)
        plan, rungs = LIFT.reckon(station, choices(), False), shipped_profiles()["rockpool_rungs"]
        values = LIFT.keypad.values(station, choices(), plan, Display.METRES)
        sheet = entry_sheet(rungs, values, LIFT.keypad.scale(station, rungs, Display.METRES))
        self.assertEqual(sheet.row("glass shim").shows, "0.12")
        self.assertEqual(float(sheet.row("glass foot").shows), round(plain.scaling.value_low, 2))  # as on its drawing
        right = held(LIFT, station, choices(), sheet, {}, Display.METRES)
        self.assertAlmostEqual(lift_bench(station, choices(), plan, 1.7, right.program)._read_m(1.7), 1.7, places=6)
        wrong = held(LIFT, station, choices(), sheet, {"glass shim": "-0.12"}, Display.METRES)
        self.assertAlmostEqual(lift_bench(station, choices(), plan, 1.7, wrong.program)._read_m(1.7), 1.46, places=6)
        failed = [each.proof.id for each in LIFT.prove_on_bench(station, choices(), plan, wrong) if each.verdict is Verdict.FAILED]
        self.assertIn("up_start_1", failed)

    def test_a_family_without_an_offset_takes_it_into_the_ends_of_its_scale(self) -> None:
        station, tray = self.with_offset(0.12), shipped_profiles()["ebbstone_tray"]
        values = LIFT.keypad.values(station, choices(), LIFT.reckon(station, choices(), False), Display.METRES)
        sheet = entry_sheet(tray, values, LIFT.keypad.scale(station, tray, Display.METRES))
        self.assertEqual(float(sheet.row("eye empty").shows), round(hydraulics(survey()).scaling.value_low + 0.12, 2))

    def test_a_large_one_is_questioned(self) -> None:
        self.assertIn("offset_large", {finding.code for finding in plausibility({"sensor.offset_m": -0.35})})
        self.assertNotIn("offset_large", {finding.code for finding in plausibility({"sensor.offset_m": 0.3})})


class TwoInputsTest(unittest.TestCase):
    """24 V, 250 + 20 ohm here and 250 ohm there: 24 - 0.022 x 520 = 12.56 V are left; without the second input 18.06 V."""

    def test_resistances_add(self) -> None:
        one, two = LoopBudget(24.0, 270.0, None, 14.0), LoopBudget(24.0, 270.0, 250.0, 14.0)
        self.assertAlmostEqual(one.left_v or 0.0, 18.06)
        self.assertAlmostEqual(two.left_v or 0.0, 12.56)
        self.assertFalse(starved_loop("x", one))
        self.assertEqual([finding.code for finding in starved_loop("x", two)], ["loop_starved"])

    def test_both_kinds_walk_the_second_input(self) -> None:
        loop = {"loop_supply_v": 24.0, "loop_ohm": 270.0, "second_input_ohm": 250.0, "least_loop_v": 12.0}
        for kind, station, chosen, name in (
            (LIFT, survey(sensor={**survey().sensor.model_dump(), **loop}), choices(), "input.level"),
            (BOOSTER, booster_survey(sensor=loop), BoosterChoices(), "input.discharge"),
        ):  # fmt: skip
            joint = next(each for each in kind.joints(station, chosen, kind.reckon(station, chosen, False)) if each.meaning == name)
            said = " ".join(look.text for look in joint.live)
            self.assertIn("both inputs and the cable", said)
            self.assertIn("The second input reads the same", said)
            self.assertIn("its own plug pulled", joint.broken)
