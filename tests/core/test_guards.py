"""Contacts that hold pumps back: how each is built, what a device makes of it, a broken wire, and who is obeyed in local and remote."""

import unittest

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.control.contacts import Guards, Takes
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Thing, among
from goodbalance.core.sheets.entry_sheet import entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.controller.program import program_of
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.names import GuardContact, Harm
from goodbalance.core.stations.lift.survey.plausibility import plausibility
from goodbalance.core.stations.shared.held import Held
from goodbalance.exchange.profiles import shipped_profiles
from tests.core.test_lift_bench import inflow
from tests.core.test_timers_and_drives import LEVELS
from tests.read_backs import held
from tests.stations import choices, survey
from tests.trails import false_trails

WHEEL = shipped_profiles()["wrackline_wheel"]
EVERY = {
    "kind": "pump_controller", "phase_monitor": True, "run_contact": True, "backwards_contact": True, "local_remote": True,
}  # fmt: skip
CLOSED, OPEN, NONE = Takes.CLOSED, Takes.OPEN, Takes.NONE


class TruthTest(unittest.TestCase):
    def test_every_way_a_contact_is_built_and_taken(self) -> None:
        """By hand: a closed one opens when it acts and when it is cut; an open one closes when it acts, and a cut changes nothing."""
        for built, taken, at_rest, acts, cut in (
            (CLOSED, CLOSED, False, True, True), (CLOSED, OPEN, True, False, False), (OPEN, OPEN, False, True, False), (OPEN, CLOSED, True, False, True),
            (CLOSED, NONE, False, False, False), (NONE, CLOSED, False, False, False), (NONE, OPEN, True, True, True),  # a jumper is closed for ever
        ):  # fmt: skip
            guards = Guards({GuardContact.RUN: built}, {GuardContact.RUN: taken})
            seen = guards.holds(GuardContact.RUN, False), guards.holds(GuardContact.RUN, True), guards.holds(GuardContact.RUN, False, cut=True)
            self.assertEqual(seen, (at_rest, acts, cut), (built, taken))
        self.assertFalse(Guards().heeded(GuardContact.PHASE))


class BenchTest(unittest.TestCase):
    def play(self, *actions: TimedAction, until_s: float = 90.0, **control):
        station = survey(control={**EVERY, **control})
        bench = lift_bench(station, choices(chosen=LEVELS), LIFT.reckon(station, choices(chosen=LEVELS), False), 1.59)
        return rehearse(bench, (inflow(0.0, 0.005), *actions), until_s)

    def test_who_is_obeyed(self) -> None:
        no, local = TimedAction(60.0, "run", "", 0.0), TimedAction(60.0, "remote", "", 0.0)
        stopped = self.play(no)
        self.assertEqual(stopped.bench.running, ())
        self.assertIn("the outside contact says no", [link.text for link in stopped.bench.reasons()[0].links])
        self.assertTrue(self.play(no, local).bench.running)
        self.assertTrue(self.play(no, TimedAction(60.0, "wire_off", "local", 1.0)).bench.running)  # a broken wire of the switch is local

    def test_a_pump_that_turns_backwards_waits_and_the_next_takes_its_place(self) -> None:
        turns = TimedAction(0.0, "backwards", "1", 1.0)
        held_back = self.play(turns)
        self.assertEqual(held_back.bench.running, (1,))
        self.assertIn("it turns backwards with returning water: held until it stands", [link.text for link in held_back.bench.reasons()[0].links])
        self.assertFalse(list(among(held_back.events, Thing.HARM, of=Harm.AGAINST)))
        blind = self.play(turns, backwards_contact=False)
        self.assertEqual([event.pump for event in among(blind.events, Thing.HARM, of=Harm.AGAINST)], [1])

    def test_a_contact_that_is_open_in_health_cannot_tell_a_broken_wire(self) -> None:
        off = TimedAction(60.0, "wire_off", "run", 1.0)
        self.assertEqual(self.play(off).bench.running, ())
        self.assertTrue(self.play(off, run_permits="open").bench.running)
        told = plausibility({"control.run_contact": True, "control.run_permits": "open", "demands.low_float": True, "demands.low_float_permits": "closed"})
        self.assertEqual([finding.subject for finding in told if finding.code == "guard_open"], ["control.run_permits"])


class DeviceTest(unittest.TestCase):
    def test_each_input_told_wrongly_fails_its_proof(self) -> None:
        station = survey(control=EVERY, demands={"low_float": True})
        decided = choices(chosen=LEVELS)
        plan = LIFT.reckon(station, decided, False)
        values = LIFT.keypad.values(station, decided, plan, Display.METRES)
        sheet = entry_sheet(WHEEL, values, LIFT.keypad.scale(station, WHEEL, Display.METRES), (shipped_profiles()["cowrie_dials"],))

        def failed(shown: dict[str, str]) -> set[str]:
            as_held = held(LIFT, station, decided, sheet, shown, Display.METRES)
            return {each.proof.id for each in LIFT.prove_on_bench(station, decided, plan, as_held) if each.verdict is Verdict.FAILED}

        self.assertEqual(failed({}), set())
        for code, shown, proof in (
            ("word ear", "deaf", "run_contact"), ("word ear", "runs while it gapes", "common_stop"), ("word ear", "deaf", "broken_wire_run"),
            ("spin ear", "deaf", "backwards"), ("home ear", "deaf", "local"), ("home ear", "runs while it gapes", "run_contact"),
            ("phase ear", "hears a gap", "phase"), ("low ear", "runs while it gapes", "low_float"),
        ):  # fmt: skip
            self.assertIn(proof, failed({code: shown}), (code, shown))

    def test_the_wires_say_how_each_is_built(self) -> None:
        station = survey(control={**EVERY, "phase_permits": "open"})
        joints = {joint.meaning: joint for joint in LIFT.joints(station, choices(), LIFT.reckon(station, choices(), False))}
        self.assertLessEqual({"contact.run", "contact.local", "contact.backwards.1", "contact.backwards.2", "contact.phase"}, set(joints))
        self.assertTrue(joints["contact.run"].safety)
        self.assertTrue(joints["contact.phase"].live[0].text.startswith("Open while"))
        self.assertNotIn("broken_wire_phase", {proof.id for proof in LIFT.proofs(station, choices(), LIFT.reckon(station, choices(), False))})


class SealTest(unittest.TestCase):
    FACTS = {"control": {"kind": "pump_controller", "seal_probes": True, "seal_dial": True, "seal_wet_ohm": 30e3, "seal_dry_ohm": 500e3}}

    def test_between_a_wet_chamber_and_a_damp_cable(self) -> None:
        """30 kohm x 1.2 = 36 to 500 x 0.8 = 400 kohm; three tenths of the way up 145 kohm."""
        plan = LIFT.reckon(survey(**self.FACTS), choices(), False)
        limit = plan.setting("seal_limit")
        self.assertAlmostEqual(limit.window.low, 36e3)
        self.assertAlmostEqual(limit.window.high, 400e3)
        self.assertEqual(limit.value, 145e3)
        self.assertEqual(false_trails(plan), [])
        self.assertNotIn("seal_limit", LIFT.reckon(survey(control={"seal_probes": True}), choices(), False))

    def test_too_deaf_it_sees_no_water_and_too_keen_it_cries_at_every_pump(self) -> None:
        station, decided = survey(**self.FACTS), choices()
        plan = LIFT.reckon(station, decided, False)
        for ohm, verdict in ((145e3, "passed"), (20e3, "failed"), (600e3, "failed")):
            chosen = decided.model_copy(update={"chosen": {"seal_limit": ohm}})
            held = Held(plan, program_of(station, chosen, LIFT.reckon(station, chosen, False)))
            (shown,) = LIFT.prove_on_bench(station, decided, plan, held, only=frozenset({"seal"}))
            self.assertEqual(shown.verdict.value, verdict, ohm)
        (proof,) = [proof for proof in LIFT.proofs(station, decided, plan) if proof.id == "seal_limit"]
        self.assertEqual((proof.expected, proof.tolerance), (145e3, 21750.0))

    def test_a_controller_is_told_in_kilohms(self) -> None:
        station, decided = survey(**self.FACTS), choices()
        plan = LIFT.reckon(station, decided, False)
        wheel = shipped_profiles()["wrackline_wheel"]
        sheet = entry_sheet(wheel, LIFT.keypad.values(station, decided, plan, Display.METRES), LIFT.keypad.scale(station, wheel, Display.METRES))
        row = sheet.row("seal skin")
        self.assertEqual((row.shows, row.unit), ("145", "kohm"))
