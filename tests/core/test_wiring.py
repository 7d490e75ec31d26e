"""The wiring walk: what must be found where, when it may be energised, and broken wires on the bench."""

import unittest
from dataclasses import replace
from functools import partial

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.control.contacts import Guards
from goodbalance.core.control.reasons import LinkState
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.sheets.wiring import Found, Noted, Phase, Walk, walk
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.controller.program import program_of
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.names import Role
from goodbalance.core.stations.lift.sheet.retrofit import retrofit_map
from goodbalance.core.stations.shared.held import Held
from goodbalance.exchange.profiles import shipped_profiles
from tests import boosters, stations

METRIC = UnitSystem.METRIC
ONE_OF_EACH = (  # a kind, what is changed of its usual survey, and the devices of its job
    (LIFT, {}, ("ebbstone_tray", "dabberlock_panel")),
    (LIFT, {"control": {"kind": "relays_alone", "phase_monitor": True}}, ("rockpool_rungs",)),
    (LIFT, {"control": {"kind": "pump_controller", "level_by": "sensor_and_floats", "floats": 3, "seal_probes": True}}, ("wrackline_wheel",)),
    (LIFT, {"control": {"level_by": "floats", "floats": 4}}, ("dabberlock_panel",)),
    (LIFT, {"control": {"kind": "pump_controller"}, "drives": {"fitted": True}, "demands": {"low_float": True}}, ("wrackline_wheel", "skerry_leaf")),
    (LIFT, {"control": {"kind": "drives_alone", "phase_monitor": True}, "drives": {"fitted": True}}, ("brittlestar_ring",)),
    (LIFT, {"drives": {"fitted": True}}, ("ebbstone_tray", "dabberlock_panel", "skerry_leaf")),
    (BOOSTER, {}, ("marram_book", "gas_valve")),
    (BOOSTER, {"control": {"device": "wall_drive", "phase_monitor": True, "suction_by": "switch"}}, ("sandhopper_lanes",)),
    (BOOSTER, {"control": {"device": "panel_regulator", "flow_switch": True}, "motor": {"phases": "one"}}, ("whelk_page", "limpet_beads")),
    (BOOSTER, {"control": {"kind": "on_off"}}, ("shingle_face",)),
    (BOOSTER, {"control": {"kind": "on_off", "own_switches": True}, "vessel": {"volume_m3": 0.8}}, ("barnacle_rail",)),
    (BOOSTER, {"control": {"kind": "fixed"}}, ("shingle_face", "limpet_beads")),
)


def walk_of(kind, changes, devices, seen=None) -> Walk:
    made = stations if kind is LIFT else boosters
    survey, choices = made.survey(**changes), made.choices()
    profiles = [shipped_profiles()[device] for device in devices]
    strips = [(each.id, each.name, each.strip(survey.pumping.count)) for each in profiles]
    return walk(strips, kind.joints(survey, choices, kind.reckon(survey, choices, False)), seen or {})


def seen(found: Found, wants: str, text: str = "") -> Noted:
    return Noted(found, text, wants, "Ada Wren", "2026-11-27T10:00:00.000Z", 7)


class WalkTest(unittest.TestCase):
    def test_every_wire_of_every_plan_is_walked_once_at_each_end_with_a_core_for_each_terminal(self) -> None:
        for kind, changes, devices in ONE_OF_EACH:
            with self.subTest(changes=changes, devices=devices):
                made = stations if kind is LIFT else boosters
                survey, choices = made.survey(**changes), made.choices()
                joints = kind.joints(survey, choices, kind.reckon(survey, choices, False))
                self.assertEqual(len({joint.meaning for joint in joints}), len(joints))
                steps = list(walk_of(kind, changes, devices))
                at = [(step.device, step.place) for step in steps]
                self.assertEqual(len(set(at)), len(at))
                walked = {step.joint.meaning for step in steps if step.joint is not None}
                self.assertEqual({joint.meaning for joint in joints if not joint.of_device}, walked - {"supply"})
                for step in steps:
                    self.assertTrue(step.looks(Phase.DEAD), step.id)
                    if step.labels and not step.too_few:
                        self.assertEqual(len(step.cores), len(step.labels), step.id)
                    for look in (*step.looks(Phase.DEAD), *step.looks(Phase.LIVE)):
                        self.assertNotIn("{", look.worded(METRIC))
                motors = [step for step in steps if step.joint and step.joint.to.startswith("the motor of pump")]
                self.assertEqual(len(motors), survey.pumping.count)

    def test_the_loop_by_hand(self) -> None:
        """(1.68 - 0.10) m / 5 m x 16 mA + 4 mA = 9.06 mA at the duty start; 24 V - 0.022 A x 300 ohm = 17.4 V."""
        sensor = {"loop_supply_v": 24.0, "loop_ohm": 300.0, "least_loop_v": 18.0}
        step = walk_of(LIFT, {"sensor": sensor}, ("ebbstone_tray",)).step("ebbstone_tray", "input.level")
        self.assertEqual((step.labels, step.cores), (("R1", "R2"), ("+ supply", "- signal")))
        signal, budget = (look.worded(METRIC) for look in step.looks(Phase.LIVE))
        self.assertIn("9.06 mA at 1.68 m, the duty start", signal)
        self.assertIn("4.00 mA at 0.10 m, the end of its range", signal)
        self.assertIn("leave 17.40 V at the transmitter; it needs 18.00 V: NOT enough", budget)

    def test_an_alarm_that_is_healthy_when_energised_is_wired_to_the_other_contact(self) -> None:
        plan_of = partial(LIFT.reckon, stations.survey())
        for school, at_rest, moves in (("in_alarm", "is open", "closes at 2.40 m and opens at 2.35 m"), ("in_health", "is closed", "closes at 2.40 m and opens at 2.")):
            choices = stations.choices(schools={"alarm_relay": school})
            joints = LIFT.joints(stations.survey(), choices, plan_of(choices, False))
            alarm = next(joint for joint in joints if joint.title == "Relay 6: high alarm")
            self.assertIn(at_rest, alarm.dead[0].worded(METRIC))
            self.assertIn(moves, alarm.live[0].worded(METRIC))

    def test_a_contact_nothing_leads_to_is_bridged_where_it_permits_and_empty_elsewhere(self) -> None:
        strip = walk_of(LIFT, {}, ("ebbstone_tray", "dabberlock_panel")).strips[1]
        steps = {step.place: step for step in strip.steps}
        self.assertTrue(steps["contact.phase"].is_jumper)
        self.assertEqual(steps["contact.phase"].looks(Phase.LIVE), ())
        self.assertTrue(steps["motor.3" if "motor.3" in steps else "starter.3"].is_idle)
        self.assertFalse(steps["contact.low_cut_out"].is_jumper)


class EnergisingTest(unittest.TestCase):
    def test_dead_first_and_a_fault_holds_until_it_is_mended_or_waived(self) -> None:
        steps = list(walk_of(LIFT, {}, ("ebbstone_tray",)))
        all_right = {(step.device, step.place): {Phase.DEAD: seen(Found.OK, step.wants)} for step in steps}
        made = partial(walk_of, LIFT, {}, ("ebbstone_tray",))
        self.assertFalse(made(seen={}).may_energise(()))
        self.assertEqual(made(seen={}).following(())[1], Phase.DEAD)
        self.assertTrue(made(seen=all_right).may_energise(()))
        self.assertEqual(made(seen=all_right).following(()), (made(seen=all_right).step(steps[0].device, steps[0].place), Phase.LIVE))
        one = steps[2]
        broken = {**all_right, (one.device, one.place): {Phase.DEAD: seen(Found.FAULT, one.wants, "common and rest swapped")}}
        (fault,) = made(seen=broken).faults
        self.assertIn("terminals 1a, 1b, Relay 1: low-level cut-out, dead: common and rest swapped", fault.words)
        self.assertEqual(fault.harm, "Every pump stops, as at low water: safe.")
        self.assertFalse(made(seen=broken).may_energise(()))
        self.assertTrue(made(seen=broken).may_energise((fault.about,)))
        self.assertFalse(made(seen=broken).may_energise((fault.about + "x",)))
        other = {**all_right, (one.device, one.place): {Phase.DEAD: seen(Found.OK, "Relay 1: high alarm, the bell")}}
        self.assertEqual(made(seen=other).step(one.device, one.place).state(Phase.DEAD), "again")
        self.assertFalse(made(seen=other).may_energise(()))


class BrokenWireTest(unittest.TestCase):
    """One wire off at a time, on the bench."""

    def run_with(self, contact: str, level_m: float = 1.70, **changes):
        survey, choices = stations.survey(**changes), stations.choices()
        bench = lift_bench(survey, choices, LIFT.reckon(survey, choices, False), level_m)
        acts = (TimedAction(0.0, "inflow", "", 0.001), TimedAction(20.0, "wire_off", contact, 1.0))
        return rehearse(bench, acts, 40.0)

    def test_what_permits_stops_and_what_calls_stays_away(self) -> None:
        self.assertEqual(len(self.run_with("high_alarm").bench.running), 1)
        for contact in ("stop", "low_cut_out"):
            run = self.run_with(contact)
            self.assertEqual(run.bench.running, (), contact)
            said = [link.text for link in run.bench.reasons()[0].links if link.state is LinkState.BLOCKS]
            self.assertIn("open although its relay has pulled: a wire is off", said)
        survey, choices = stations.survey(), stations.choices()
        bench = lift_bench(survey, choices, LIFT.reckon(survey, choices, False), 1.60)
        run = rehearse(bench, (TimedAction(0.0, "wire_off", "start_1", 1.0), TimedAction(0.0, "inflow", "", 0.004)), 120.0)
        self.assertEqual((run.bench.running, run.bench.plant.level_m > 1.68), ((), True))
        self.assertEqual(run.events[0].text, "A wire of the duty start contact is off")
        said = [link.text for link in run.bench.reasons()[0].links]
        self.assertIn("none: the start contact is open although its relay has pulled: a wire is off", said)

    def test_each_proof_holds_and_fails_where_the_contact_permits_when_it_opens(self) -> None:
        """The stop's other contact wired: its panel sees a stop that is closed at rest, so the relay that pulls stops the pumps."""
        for kind, changes, _ in ONE_OF_EACH:
            made = stations if kind is LIFT else boosters
            survey, choices = made.survey(**changes), made.choices()
            plan = kind.reckon(survey, choices, False)
            wires = frozenset(proof.id for proof in kind.proofs(survey, choices, plan) if proof.check == "broken_wire")
            shown = kind.prove_on_bench(survey, choices, plan, only=wires)
            self.assertEqual([(each.proof.id, each.verdict) for each in shown], [(each.proof.id, Verdict.PASSED) for each in shown], changes)
            self.assertEqual(len(shown), len(wires))
        survey, choices = stations.survey(), stations.choices()
        plan = LIFT.reckon(survey, choices, False)
        program = program_of(survey, choices, plan)
        turned = tuple(replace(relay, normally_closed=True) if relay.role == Role.STOP else relay for relay in program.relays)
        shown = LIFT.prove_on_bench(survey, choices, plan, Held(plan, replace(program, relays=turned)))
        failed = {each.proof.id for each in shown if each.verdict is Verdict.FAILED}
        self.assertIn("common_stop", failed)

    def test_a_guard_that_no_device_heeds_fails(self) -> None:
        survey, choices = stations.survey(control={"phase_monitor": True}), stations.choices()
        plan = LIFT.reckon(survey, choices, False)
        heeds = program_of(survey, choices, plan)
        program = replace(heeds, guards=Guards(heeds.guards.fitted, {}))
        (shown,) = LIFT.prove_on_bench(survey, choices, plan, Held(plan, program), only=frozenset(("broken_wire_phase",)))
        self.assertIs(shown.verdict, Verdict.FAILED)

    def test_a_float_with_a_wire_off_hangs_down_for_the_panel(self) -> None:
        run = self.run_with("stop", control={"level_by": "floats", "floats": 4})
        self.assertEqual(run.bench.running, ())
        self.assertIn("open whatever its float does: a wire is off", [link.text for link in run.bench.reasons()[0].links])


class TwinContactTest(unittest.TestCase):
    def test_the_sheet_types_the_levels_the_other_way_round(self) -> None:
        for kind in ("relays_to_panel", "relays_alone"):
            for role in ("low_cut_out", "start_1", "start_2", "high_alarm"):
                survey, choices = stations.survey(control={"kind": kind}, relays={f"{role}_contact": "closed"}), stations.choices()
                plan = LIFT.reckon(survey, choices, False)
                values = LIFT.keypad.values(survey, choices, plan, choices.keypad.display)
                for relay in program_of(survey, choices, plan).relays:
                    typed = {name: values[f"relay.{relay.number}.{name}"].value for name in ("on", "off", "level", "contact", "on_failure")}
                    wanted = {"on": relay.on_m, "off": relay.off_m, "level": relay.level_m, "contact": "closed" if relay.normally_closed else "open", "on_failure": relay.on_failure.value}
                    self.assertEqual(typed, wanted, (kind, relay.role))

    def test_the_panel_sees_the_same_by_either_contact_but_for_a_dead_controller(self) -> None:
        """The truth table of the old panel row by row; only without power do contacts that are closed at rest stay closed."""
        plain = stations.survey()
        for role in ("low_cut_out", "low_alarm", "stop", "start_1", "start_2", "high_alarm"):
            with self.subTest(role=role):
                survey, choices = stations.survey(relays={f"{role}_contact": "closed"}), stations.choices()
                plan = LIFT.reckon(survey, choices, False)
                there, twin = (retrofit_map(each, choices, plan) for each in (plain, survey))
                bands = [(band.closed, band.called) for band in (*there.rising, *there.falling, there.without_level[1])]
                self.assertEqual([(band.closed, band.called) for band in (*twin.rising, *twin.falling, twin.without_level[1])], bands)
                place = [wire.relay.role for wire in twin.wires].index(role)
                self.assertTrue(twin.without_level[0].closed[place])
                if role not in ("low_alarm", "high_alarm"):
                    self.assertIn(f"closed_at_rest_{role}", {finding.code for finding in plan.findings})
                self.assertNotIn("stop_turned", {finding.code for finding in twin.findings})
                shown = LIFT.prove_on_bench(survey, choices, plan)
                self.assertEqual([each.proof.id for each in shown if each.verdict is Verdict.FAILED], [])
