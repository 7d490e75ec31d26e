"""How a station tells of what is wrong: lamp and sounder, the pump that needs help each time, and the unit that calls somebody."""

import unittest

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.control.alarms import AlarmPanel, Cause, Lamp
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.sheets.entry_sheet import entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.survey.choices import BoosterChoices
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.names import Alarm
from goodbalance.exchange.profiles import shipped_profiles
from tests import boosters
from tests.core.test_lift_bench import inflow
from tests.core.test_timers_and_drives import CONTROLLER, LEVELS
from tests.read_backs import held
from tests.stations import choices, survey


class LampTest(unittest.TestCase):
    def test_a_lamp_without_a_sounder_never_sounds_and_is_silenced_all_the_same(self) -> None:
        for flashes, sounds in ((True, True), (True, False), (False, True), (False, False)):
            panel = AlarmPanel(False, flashes, sounds)
            panel.update({Cause("high"): "High level"})
            self.assertIs(panel.sounding, sounds)
            panel.silence()
            self.assertEqual((panel.sounding, panel.lamps[Cause("high")]), (False, Lamp.STEADY))

    def test_each_way_of_telling_is_proved_and_a_wrong_one_fails(self) -> None:
        wheel = shipped_profiles()["wrackline_wheel"]
        for lamp, sounder, wrong in (("flashing", "sounder", {"lamp is": "stands"}), ("steady", "lamp_only", {"bell is": "rings"}), ("flashing", "lamp_only", {"bell is": "rings"})):
            station, decided = survey(control=CONTROLLER), choices(schools={"alarm_lamp": lamp, "alarm_sounder": sounder}, chosen=LEVELS)
            plan = LIFT.reckon(station, decided, False)
            sheet = entry_sheet(wheel, LIFT.keypad.values(station, decided, plan, Display.METRES), LIFT.keypad.scale(station, wheel, Display.METRES))
            one = frozenset({"alarm_tells"})
            (right,) = LIFT.prove_on_bench(station, decided, plan, held(LIFT, station, decided, sheet, {}, Display.METRES), one)
            self.assertIs(right.verdict, Verdict.PASSED, (lamp, sounder))
            (failed,) = LIFT.prove_on_bench(station, decided, plan, held(LIFT, station, decided, sheet, wrong, Display.METRES), one)
            self.assertIs(failed.verdict, Verdict.FAILED, wrong)


class SuspectTest(unittest.TestCase):
    def suspects(self, shown: dict[str, str]) -> set[int]:
        """Three hours with pump 1 clogged to 35 %: 3.3 l/s of its 9.5; 4 l/s come in, which the other carries alone."""
        station, decided, wheel = survey(control=CONTROLLER), choices(chosen=LEVELS), shipped_profiles()["wrackline_wheel"]
        plan = LIFT.reckon(station, decided, False)
        sheet = entry_sheet(wheel, LIFT.keypad.values(station, decided, plan, Display.METRES), LIFT.keypad.scale(station, wheel, Display.METRES))
        program = held(LIFT, station, decided, sheet, shown, Display.METRES).program
        bench = lift_bench(station, decided, plan, None, program)
        run = rehearse(bench, (inflow(0.0, 0.004), TimedAction(0.0, "clogged", "1", 1.0)), 3 * 3600.0)
        return {cause.pump for cause in run.bench.alarms.lamps if cause.what == Alarm.SUSPECT}

    def test_it_is_named_unless_the_device_does_not_look(self) -> None:
        self.assertEqual(self.suspects({}), {1})
        self.assertEqual(self.suspects({"weak hand": "is let be"}), set())
        self.assertEqual(self.suspects({"weak after": "20"}), set())  # 3 hours are about 18 cycles, fewer than 39

    def test_a_panel_of_relays_looks_for_nobody(self) -> None:
        station = survey()
        self.assertEqual(lift_bench(station, choices(), LIFT.reckon(station, choices(), False)).logic.program.suspect_cycles, 0)


class TelemetryTest(unittest.TestCase):
    CALLS = {"fitted": True, "answered_by": "Idun, the watch"}

    def test_each_contact_is_wired_proved_to_the_far_end_and_its_wire_too(self) -> None:
        for kind, station, decided in (
            (LIFT, survey(telemetry=self.CALLS), choices()), (BOOSTER, boosters.survey(telemetry=self.CALLS), BoosterChoices()),
        ):  # fmt: skip
            plan = kind.reckon(station, decided, False)
            self.assertEqual([proof.id for proof in kind.proofs(station, decided, plan) if proof.check == "far_end"], ["far_end_grave", "far_end_other", "far_end_wire"])
            joints = {joint.meaning: joint for joint in kind.joints(station, decided, plan) if joint.meaning.startswith("telemetry")}
            self.assertEqual(set(joints), {"telemetry.grave", "telemetry.other"})
            self.assertIn("Idun, the watch", joints["telemetry.grave"].to)
            self.assertEqual({each.proof.check for each in kind.prove_on_bench(station, decided, plan) if each.proof.check == "far_end"}, set())

    def test_which_twin_is_wired_and_what_nobody_would_notice(self) -> None:
        """Relays energised in health: the contact open at rest is closed while all is well. It opens in alarm, and when power goes."""
        for relay, when, used, codes in (
            ("in_health", "opens", "open at rest", set()), ("in_alarm", "opens", "closed at rest", {"far_power_silent"}),
            ("in_alarm", "closes", "open at rest", {"far_power_silent", "far_wire_silent"}), ("in_health", "closes", "closed at rest", {"far_wire_silent"}),
        ):  # fmt: skip
            station = survey(telemetry={**self.CALLS, "points": "common", "alarms_when": when})
            decided = choices(schools={"alarm_relay": relay})
            plan = LIFT.reckon(station, decided, False)
            (joint,) = [joint for joint in LIFT.joints(station, decided, plan) if joint.meaning == "telemetry.common"]
            self.assertEqual(joint.cores[1], used, (relay, when))
            self.assertEqual({finding.code for finding in plan.findings if finding.code.startswith("far_")}, codes)
        self.assertFalse([joint for joint in LIFT.joints(survey(), choices(), LIFT.reckon(survey(), choices(), False)) if joint.meaning.startswith("telemetry")])
