"""Lack of water at a booster set told by switches: where they are set, how their contact is built, and what wires, jumpers and floats do."""

import unittest
from dataclasses import replace

from goodbalance.core.control.contacts import Guards, Takes
from goodbalance.core.physics.water import head_of_pressure_m
from goodbalance.core.physics.wells import vortex_submergence_m
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.controller.water_switch import STOP, Seeing, WaterSwitch
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.names import Alarm, Stop
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.shared.held import Held
from tests import boosters
from tests.boosters import bounds
from tests.trails import false_trails

BY_SWITCH = {"suction_by": "switch"}
TANK = {"kind": "flooded", "pump_m": 0.0, "water_low_m": 2.0, "water_high_m": 4.0, "outlet_m": 0.5, "outlet_diameter_m": 0.1}
WATER = frozenset({"low_suction", "low_water", "water_back", "low_suction_delay", "broken_wire_suction"})


def station(at: str, **switch):
    survey = boosters.survey(control=BY_SWITCH if at == "pipe" else {"suction_by": "float"}, suction_switch={"alarm": True, **switch}, supply=TANK if at == "tank" else {**TANK, "outlet_m": 0.1})
    choices = boosters.choices()
    return survey, choices, BOOSTER.reckon(survey, choices, False)


class WindowTest(unittest.TestCase):
    def test_a_switch_in_the_pipe_lies_over_an_emptied_suction_and_turns_back_under_the_lowest_supply(self) -> None:
        """Main of 20 kPa at least, no losses: off by 2 kPa and back after 10 kPa it stands at 2 to 20 - 10 - 2 = 8 kPa; the warning 4 kPa over it, under 18."""
        plan = boosters.plan_of(control=BY_SWITCH, suction_switch={"alarm": True})
        stop, alarm = plan.setting(S.LOW_SUCTION_STOP), plan.setting(S.LOW_SUCTION_ALARM)
        self.assertEqual((stop.window.low, stop.window.high), (2e3, 8e3))
        self.assertEqual(bounds(plan, S.LOW_SUCTION_STOP, "upper")["room for the reset"], 20e3 - 0.0 - 2.0 * 2e3)
        self.assertEqual((alarm.window.low, alarm.window.high), (stop.value + 4e3, 18e3))
        self.assertNotIn(S.LOW_SUCTION_RESET, plan)
        self.assertEqual(false_trails(plan), [])

    def test_a_float_lies_over_the_outlet_by_what_keeps_air_out_and_tips_back_under_the_lowest_water(self) -> None:
        """Outlet at 0.50 m of 100 mm, 6 l/s: v = 0.764 m/s, Fr = 0.764/sqrt(9.807 x 0.1) = 0.771, S = 0.1 (1 + 2.3 x 0.771) = 0.277 m; with 0.02 m 0.797. Up to 2 - 0.1 - 0.02 = 1.88 m."""
        _, _, plan = station("tank")
        stop, alarm = plan.setting(S.LOW_LEVEL_STOP), plan.setting(S.LOW_LEVEL_ALARM)
        self.assertAlmostEqual(vortex_submergence_m(0.1, 0.006), 0.2774, places=4)
        self.assertAlmostEqual(stop.window.low, 0.7974, places=4)
        self.assertAlmostEqual(stop.window.high, 1.88)
        self.assertAlmostEqual(stop.value, 0.797 + 0.4 * (1.88 - 0.797), delta=0.01)
        self.assertEqual((alarm.window.low, alarm.window.high), (stop.value + 0.04, 1.98))
        self.assertNotIn(S.LOW_SUCTION_STOP, plan)
        self.assertEqual(false_trails(plan), [])
        needed_pa = bounds(boosters.plan_of(control=BY_SWITCH, supply=TANK), S.LOW_SUCTION_STOP, "lower")["NPSH of the pumps"]
        self.assertAlmostEqual(bounds(plan, S.LOW_LEVEL_STOP, "lower")["NPSH of the pumps"], head_of_pressure_m(needed_pa, 998.2061) + 0.02, places=4)

    def test_a_band_within_the_spring_back_is_told(self) -> None:
        """10 kPa are lost on the suction side at design flow: so much it springs back; a switch with 8 kPa closes at once."""
        for band_pa, told in ((8e3, True), (12e3, False)):
            plan = boosters.plan_of(control=BY_SWITCH, suction_switch={"band_pa": band_pa}, supply={"low_pa": 60e3, "loss_pa": 10e3})
            self.assertEqual("switch_chatters" in [finding.code for finding in plan.findings], told)


class ContactTest(unittest.TestCase):
    def test_what_a_contact_says_as_it_is_built_taken_cut_and_jumpered(self) -> None:
        table = (  # built, taken, water there: whether it may run as it is, with a wire off, with a jumper
            ("closed", "closed", True, (True, False, True)), ("closed", "closed", False, (False, False, True)),
            ("open", "open", True, (True, True, False)), ("open", "open", False, (False, True, False)),
            ("closed", "open", True, (False, True, False)), ("closed", "open", False, (True, True, False)),
        )  # fmt: skip
        for built, taken, water, runs in table:
            seeing = Seeing(WaterSwitch(False, 5e3, 10e3, None, Guards({STOP: Takes(built)}, {STOP: Takes(taken)})))
            seeing.look(20e3 if water else 1e3, 0.0)
            found = tuple(seeing.says_water(cut, jumper) for cut, jumper in ((False, False), (True, False), (False, True)))
            self.assertEqual(found, runs, (built, taken, water))

    def test_it_turns_back_over_its_band_and_not_before(self) -> None:
        seeing = Seeing(WaterSwitch(False, 5e3, 10e3, 12e3))
        for inlet_pa, lacks, warns in ((20e3, False, False), (12e3, False, True), (5e3, True, True), (14.9e3, True, True), (15e3, False, True), (22e3, False, False)):
            seeing.look(inlet_pa, 0.0)
            self.assertEqual((seeing.lacks, seeing.warns), (lacks, warns), inlet_pa)


class ProofTest(unittest.TestCase):
    def failing(self, made, change=None, broken=None) -> set[str]:
        survey, choices, plan = made
        numbers = numbers_of(survey, choices, plan)
        numbers = replace(numbers, water=replace(numbers.water, **(change or {})))
        found = BOOSTER.prove_on_bench(survey, choices, plan, Held(plan, numbers), WATER, broken)
        self.assertGreaterEqual(len(found), 4)
        return {each.proof.id for each in found if each.verdict.value != "passed"}

    def test_each_passes_as_planned_and_a_dial_or_a_contact_that_is_wrong_fails(self) -> None:
        for at, step_pa in (("pipe", 6e3), ("tank", 3e3)):
            made = station(at)
            water = numbers_of(*made).water
            self.assertEqual(self.failing(made), set(), at)
            self.assertEqual(self.failing(station(at, permits="open")), set(), at)
            self.assertIn("low_suction", self.failing(made, {"stop_pa": water.stop_pa - step_pa}))
            self.assertEqual(self.failing(made, {"alarm_pa": water.alarm_pa + step_pa}), {"low_water"})
            self.assertLessEqual({"low_suction", "low_suction_delay"}, self.failing(made, {"guards": Guards(water.guards.fitted, {STOP: Takes.OPEN})}))
            self.assertEqual(self.failing(made, {"band_pa": 40e3}), {"water_back"})
            jumper = next(each for each in BOOSTER.diagnosis.troubles(BOOSTER.bench(*made)) if each.kind == "suction_jumper")
            self.assertEqual(self.failing(made, broken=jumper), WATER - {"low_water"})

    def test_an_open_contact_is_told_and_no_proof_of_its_wire_is_asked(self) -> None:
        survey, choices, plan = station("pipe", permits="open")
        self.assertIn("switch_wire", [finding.code for finding in plan.findings])
        self.assertNotIn("broken_wire_suction", [proof.id for proof in BOOSTER.proofs(survey, choices, plan)])

    def test_the_warning_comes_first_and_the_pumps_run_on(self) -> None:
        """The water of the tank falls by 5 cm every half minute."""
        survey, choices, plan = station("tank")
        levels = [2.0 - 0.05 * step for step in range(30)]
        acts = [TimedAction(1.0, "outlets", "", 0.3), *(TimedAction(60.0 + 30.0 * step, "suction", "", level * boosters.METRE_PA) for step, level in enumerate(levels))]
        run = rehearse(BOOSTER.bench(survey, choices, plan), tuple(acts), 960.0)
        warned = next(among(run.events, Thing.ALARM, Doing.COMES, of=Alarm.LOW_WATER)).at_s
        stopped = next(among(run.events, Thing.LIMIT, Doing.COMES, of=Stop.LOW_SUCTION)).at_s
        for at_s, setting_id in ((warned, S.LOW_LEVEL_ALARM), (stopped, S.LOW_LEVEL_STOP)):
            level_m = levels[int((at_s - 60.0) / 30.0)]
            self.assertLessEqual(abs(level_m - plan.value(setting_id, 0.0)), 0.05)
        self.assertTrue(any(line.runs for line in rehearse(BOOSTER.bench(survey, choices, plan), tuple(acts), warned + 20.0).bench.reasons()))


class LoadTest(unittest.TestCase):
    """At which load a pump counts as dry, or as running against closed outlets: shares of its power without flow."""

    POWERS = [{"flow_m3s": q, "head_m": 60.0 - 2e6 * q * q, "power_w": w} for q, w in ((0.0, 1000.0), (0.001, 1200.0), (0.002, 1400.0), (0.004, 1700.0))]
    FALLING = [{**point, "power_w": 2000.0 - point["power_w"] / 2.0} for point in POWERS]

    def test_both_windows_by_hand(self) -> None:
        """Air takes 0.25, doubt 8 %: 0.27 to 0.92. A tap of 0.5 l/s asks 1100 of 1000 W: 1.002 to 1.098; switched, three share it: 1 + 0.2 / 6 = 1.033, less 0.002."""
        for kind, upper in (("constant", 1.098), ("on_off", 1.0 + 0.2 / 6.0 - 0.002)):
            plan = boosters.plan_of(control={"kind": kind}, pumping={"curve": self.POWERS})
            dry, closed = plan.setting(S.NO_PRIME_LOAD), plan.setting(S.CLOSED_LOAD)
            self.assertAlmostEqual(dry.window.low, 0.27)
            self.assertAlmostEqual(dry.window.high, 0.92)
            self.assertAlmostEqual(closed.window.low, 1.002)
            self.assertAlmostEqual(closed.window.high, upper)
            self.assertEqual(false_trails(plan), [])

    def test_where_power_falls_with_the_flow_it_cannot_tell_closed_outlets(self) -> None:
        """1500 W without flow and 1150 at the end: no load over one means flow, so the window is empty; a dry pump is told under 1150 / 1500 less 8 %."""
        plan = boosters.plan_of(pumping={"curve": self.FALLING})
        self.assertTrue(plan.setting(S.CLOSED_LOAD).window.is_empty)
        self.assertAlmostEqual(plan.setting(S.NO_PRIME_LOAD).window.high, 1150.0 / 1500.0 * 0.92)
        without = BOOSTER.reckon(boosters.survey(pumping={"curve": self.FALLING}), boosters.choices().model_copy(update={"declined": ("closed_delay",)}), False)
        self.assertNotIn(S.CLOSED_LOAD, without)

    def test_a_threshold_out_of_its_window_fails_a_proof(self) -> None:
        """Too low air is not seen; too high an honest pump is given up; a closed load over that of one tap stops a pump that is wanted."""
        survey, choices = boosters.survey(control={"kind": "flow_stop", "flow_switch_m3s": 0.0003}), boosters.choices()
        plan = BOOSTER.reckon(survey, choices, False)
        program = numbers_of(survey, choices, plan)
        for change, fails in (({}, set()), ({"no_prime_load": 0.2}, {"no_prime"}), ({"closed_load": 0.9}, {"closed"}), ({"closed_load": 1.4}, {"tap_runs"})):
            found = BOOSTER.prove_on_bench(survey, choices, plan, Held(plan, replace(program, **change)), frozenset({"no_prime", "closed", "tap_runs"}))
            self.assertEqual({each.proof.id for each in found if each.verdict.value != "passed"}, fails, change)


if __name__ == "__main__":
    unittest.main()
