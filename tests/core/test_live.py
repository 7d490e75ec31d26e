"""Live: what the plan expects of a controller that runs it, and of one that does not; proofs judged from a trend."""

import unittest
from dataclasses import replace

from goodbalance.core.balance.proof import Verdict, judge
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.rehearsal.engine import TimedAction, begun
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.lift.controller.program import program_of
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.names import Role
from tests import boosters, stations

METRIC = UnitSystem.METRIC
WAYS = (
    (LIFT, stations, {}),
    (LIFT, stations, {"control": {"kind": "relays_alone"}}),
    (LIFT, stations, {"control": {"kind": "pump_controller", "level_by": "sensor_and_floats", "floats": 3}}),
    (LIFT, stations, {"control": {"level_by": "floats", "floats": 4}}),
    (LIFT, stations, {"drives": {"fitted": True}}),
    (BOOSTER, boosters, {}),
    (BOOSTER, boosters, {"control": {"kind": "on_off"}}),
    (BOOSTER, boosters, {"remote": {"height_m": 18.0, "range_pa": 600e3}}),
)


def watch(kind, survey, choices, plan, actions, until_s, program=None, every_s=1.0):
    """Names and rows of what a controller tells, and what differed longer than it may at each row."""
    live = kind.live
    run = begun(kind.bench(survey, choices, plan, program=program), actions)
    rows, since, late = [], {}, []
    for step in range(int(until_s / every_s)):
        at_s = step * every_s
        run.go_to(at_s)
        told = live.told(run.seen_at(at_s), at_s)
        rows.append((at_s, tuple(told.values())))
        for one in live.expected(survey, choices, plan, told):
            if one.holds is False:
                since.setdefault(one.channel, at_s)
                if at_s - since[one.channel] > one.within_s:
                    late.append((at_s, one.channel, one.worded(METRIC)))
            else:
                since.pop(one.channel, None)
    return tuple(told), tuple(rows), late


class ExpectedTest(unittest.TestCase):
    def test_a_controller_that_runs_the_plan_is_never_said_to_differ(self) -> None:
        for kind, made, changes in WAYS:
            with self.subTest(kind=kind.id, changes=changes):
                survey, choices = made.survey(**changes), made.choices()
                plan = kind.reckon(survey, choices, False)
                acts = (TimedAction(0.0, "inflow", "", 0.004),) if kind is LIFT else (
                    TimedAction(5.0, "outlets", "", 0.3), TimedAction(300.0, "outlets", "", 0.9), TimedAction(600.0, "outlets", "", 0.0),
                )  # fmt: skip
                names, _, late = watch(kind, survey, choices, plan, acts, 1200.0)
                self.assertEqual(late[:3], [])
                channels = kind.live.channels(survey, choices, plan)
                self.assertEqual(tuple(channel.name for channel in channels), names)
                self.assertEqual(len({channel.label for channel in channels}), len(channels))

    def test_each_wrong_way_shows_at_its_own_channel(self) -> None:
        survey, choices = stations.survey(), stations.choices()
        plan, program = LIFT.reckon(survey, choices, False), None
        program = program_of(survey, choices, plan)
        lifted = tuple(replace(r, on_m=r.on_m + 0.3, off_m=r.off_m + 0.3) if r.role == Role.START_1 else r for r in program.relays)
        fill = (TimedAction(0.0, "inflow", "", 0.004),)
        wrong = {channel for _, channel, _ in watch(LIFT, survey, choices, plan, fill, 900.0, replace(program, relays=lifted))[2]}
        self.assertEqual(wrong, {"relay_start_1", "pump_1", "pump_2"})
        low = tuple(replace(r, on_m=0.60, off_m=0.55) if r.role == Role.STOP else r for r in program.relays)
        drawn = (TimedAction(0.0, "inflow", "", 0.004), TimedAction(700.0, "inflow", "", 0.0))
        wrong = {channel for _, channel, _ in watch(LIFT, survey, choices, plan, drawn, 1500.0, replace(program, relays=low))[2]}
        self.assertTrue({"relay_stop", "pump_1"} <= wrong, wrong)
        off = (TimedAction(0.0, "inflow", "", 0.004), TimedAction(5.0, "switch", "2", 1.0), TimedAction(10.0, "loop_open", "", 1.0))
        wrong = {channel for _, channel, _ in watch(LIFT, survey, choices, plan, off, 60.0)[2]}
        self.assertTrue({"switch_2", "alarm_sensor"} <= wrong, wrong)
        survey, choices = boosters.survey(), boosters.choices()
        plan = BOOSTER.reckon(survey, choices, False)
        dry = (TimedAction(5.0, "outlets", "", 0.4), TimedAction(120.0, "phase", "", 1.0))
        wrong = {channel for _, channel, _ in watch(BOOSTER, survey, choices, plan, dry, 400.0)[2]}
        self.assertTrue({"pressure_pa", "alarm_phase"} <= wrong, wrong)


class JudgedTest(unittest.TestCase):
    def seen(self, kind, survey, choices, plan, acts, until_s, every_s=1.0, program=None):
        names, rows, _ = watch(kind, survey, choices, plan, acts, until_s, program, every_s)
        proofs = kind.proofs(survey, choices, plan)
        found = kind.live.seen_in(survey, choices, plan, proofs, names, rows)
        return {proof.id: (found[proof.id], judge(proof, found[proof.id])) for proof in proofs if proof.id in found}

    def test_a_whole_cycle_proves_what_it_shows(self) -> None:
        """Filled to the assist, drawn down again, three times: each contact within 2 cm of where it is planned, and the lead changes."""
        survey, choices = stations.survey(), stations.choices()
        plan = LIFT.reckon(survey, choices, False)
        acts = tuple(TimedAction(600.0 * n, "inflow", "", flow) for n, flow in enumerate((0.02, 0.0) * 5))
        found = self.seen(LIFT, survey, choices, plan, acts, 6000.0)
        for proof in ("up_start_1", "down_start_1", "up_start_2", "assist_2", "common_stop", "alternation"):
            self.assertIs(found[proof][1], Verdict.PASSED, (proof, found[proof]))
        self.assertAlmostEqual(found["up_start_1"][0], plan.value("start_1", 0.0), delta=0.02)
        self.assertEqual(found["alternation"][0][:3], (1, 2, 1))
        self.assertNotIn("up_low_alarm", found)  # the water never went there

    def test_rows_too_far_apart_prove_no_level(self) -> None:
        survey, choices = stations.survey(), stations.choices()
        plan = LIFT.reckon(survey, choices, False)
        acts = tuple(TimedAction(600.0 * n, "inflow", "", flow) for n, flow in enumerate((0.02, 0.0) * 5))
        found = self.seen(LIFT, survey, choices, plan, acts, 6000.0, every_s=60.0)
        self.assertEqual({proof for proof in found if proof.startswith(("up", "down", "common"))}, set())

    def test_a_wrong_level_fails(self) -> None:
        survey, choices = stations.survey(), stations.choices()
        plan = LIFT.reckon(survey, choices, False)
        program = program_of(survey, choices, plan)
        lifted = tuple(replace(r, on_m=r.on_m + 0.1) if r.role == Role.START_1 else r for r in program.relays)
        found = self.seen(LIFT, survey, choices, plan, (TimedAction(0.0, "inflow", "", 0.004),), 900.0, program=replace(program, relays=lifted))
        self.assertIs(found["up_start_1"][1], Verdict.FAILED)

    def test_a_set_that_wakes_at_its_restart(self) -> None:
        survey, choices = boosters.survey(), boosters.choices()
        plan = BOOSTER.reckon(survey, choices, False)
        found = self.seen(BOOSTER, survey, choices, plan, (TimedAction(5.0, "outlets", "", 0.02),), 300.0)
        wakes_pa, verdict = found["wakes"]
        self.assertIs(verdict, Verdict.PASSED)
        self.assertAlmostEqual(wakes_pa, plan.value("restart", 0.0), delta=1e4)
