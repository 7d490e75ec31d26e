"""How proofs stand, by what they go stale, and that each number a plan sets has a proof that a wrong one fails."""

import re
import unittest
from dataclasses import replace

from goodbalance.core.balance.facts import sections
from goodbalance.core.balance.proof import Answer, Proof, Verdict
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.protection.names import After, Restart
from goodbalance.core.record.history import Observed
from goodbalance.core.record.proved import Standing, claims_other, moved, noted, standing, values_proved
from goodbalance.core.stations.booster.controller.numbers import numbers_of
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.lift.controller.program import program_of
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.shared.held import Held
from goodbalance.demo.lifts import CLINIC_CHOICES, SEAL_CLINIC
from goodbalance.exchange.typed import Typed, answers_of, facts_from, read_facts
from tests import boosters, stations
from tools.hidden_faults import STATIONS

FLUID = r"[0-9.]+ ?|, or no further than[^.;]*"  # numbers, and what a number may add to a sentence


def clinic(mode: str):
    """Four pumps with drives, as somebody typed them, in one way of choosing their speed."""
    typed = {path: Typed(text) for path, text in SEAL_CLINIC.items()}
    survey = facts_from(LIFT.survey_model, read_facts(LIFT.survey_model, typed, UnitSystem.METRIC))
    decided = {path: Typed(text) for path, text in (CLINIC_CHOICES | {"schools.speed_mode": mode}).items()}
    choices = facts_from(LIFT.choices_model, read_facts(LIFT.choices_model, decided, UnitSystem.METRIC, answers_of(LIFT.survey_model, typed)))
    return survey, choices, LIFT.reckon(survey, choices)


def tried(verdict: str = "passed", method: str = "real_water", expected: float | None = None, **settings: float) -> Observed:
    return Observed("up_start_1", "1", "metric", method, "", verdict, expected, "Ada", "2026-01-01", 1, settings)


class StandingTest(unittest.TestCase):
    """The duty start at 1.21 m, step 0.01 m, told by a proof of 0.03 m tolerance."""

    def setUp(self) -> None:
        survey, choices = stations.survey(), stations.choices()
        self.plan = LIFT.reckon(survey, choices)
        self.start = self.plan.setting("start_1")
        self.proof = next(proof for proof in LIFT.proofs(survey, choices, self.plan) if proof.id == "up_start_1")

    def stands(self, *tries: Observed) -> Standing:
        return standing(self.proof, tries, self.plan)[0]

    def test_states(self) -> None:
        now = {"start_1": self.start.value}
        self.assertIs(self.stands(), Standing.OPEN)
        self.assertIs(self.stands(tried(**now), tried("failed")), Standing.FAILED)
        self.assertIs(self.stands(tried("failed"), tried(**now)), Standing.PASSED)
        self.assertIs(self.stands(tried(method="bench", **now)), Standing.BENCH)
        self.assertIs(self.stands(tried(method="simulation_outputs_held", **now)), Standing.HELD)
        self.assertIs(self.stands(tried(expected=self.proof.expected + 0.1, **now)), Standing.STALE)
        self.assertIs(self.stands(tried()), Standing.PASSED)  # an old record notes no settings

    def test_stale_by_a_setting_that_moved_more_than_a_hand_can_tell(self) -> None:
        """A quarter of the tolerance of a level, half a step of anything else; and a setting that is gone."""
        least = max(0.25 * self.proof.tolerance, 0.5 * self.start.step)
        for off, state in ((0.9 * least, Standing.PASSED), (1.1 * least, Standing.STALE), (-1.1 * least, Standing.STALE)):
            self.assertIs(self.stands(tried(start_1=self.start.value + off)), state)
        (one,) = moved(self.proof, {"start_1": self.start.value - 0.2}, self.plan)
        self.assertEqual((one.setting, one.now), ("start_1", self.start))
        self.assertIsNone(moved(self.proof, {"start_9": 1.0}, self.plan)[0].now)
        timer = Proof("timer", "", "", "", (), "", "", Answer.YES_NO, proves=("start_gap",))
        gap = self.plan.setting("start_gap")
        self.assertEqual(values_proved(timer, self.plan), {"start_gap": gap.value})
        self.assertEqual(moved(timer, {"start_gap": gap.value + 0.4 * gap.step}, self.plan), ())
        self.assertEqual(len(moved(timer, {"start_gap": gap.value + 0.6 * gap.step}, self.plan)), 1)


class ClaimTest(unittest.TestCase):
    """What must be seen may change with a school or a fact although no number does: then a proof made before is to be repeated."""

    def test_another_way_after_a_power_cut_is_another_thing_to_be_seen(self) -> None:
        survey, before = boosters.survey(), boosters.choices()
        plan = BOOSTER.reckon(survey, before)
        after = before.model_copy(update={"protection": before.protection.model_copy(update={"power_return": Restart.BY_HAND})})
        old, new = (next(proof for proof in BOOSTER.proofs(survey, each, plan) if proof.id == "power_return") for each in (before, after))
        body = noted(old, plan)
        made = replace(tried(), proof=old.id, settings=body["settings"], claim=body["claim"], must_see=body["must_see"])
        self.assertIs(standing(old, [made], plan)[0], Standing.PASSED)
        self.assertIs(standing(new, [made], plan)[0], Standing.STALE)
        self.assertTrue(claims_other(new, made))
        self.assertIs(standing(new, [replace(made, claim=None)], plan)[0], Standing.PASSED)  # an old record notes no claim

    def test_no_school_changes_what_must_be_seen_without_its_being_told(self) -> None:
        """Every school, turned by itself, of a station of each kind: words that differ by more than numbers come with another claim or other settings."""
        for kind, typed, decided in (STATIONS[2], *STATIONS[4:]):
            planned = self.proofs_of(kind, typed, decided)
            for asked in (each for section in sections(kind.choices_model) if section.id in ("schools", "protection") for each in section.facts):
                for option, _ in asked.fact.options:
                    for proof_id, (now, settings) in self.proofs_of(kind, typed, {**decided, asked.path: option}).items():
                        was, before = planned.get(proof_id, (now, settings))
                        if was.claim == now.claim and settings.keys() == before.keys():
                            self.assertEqual(re.sub(FLUID, "", was.must_see), re.sub(FLUID, "", now.must_see), (kind.id, proof_id, asked.path, option))

    @staticmethod
    def proofs_of(kind, typed, decided):
        answers = {path: Typed(text) for path, text in typed.items()}
        survey = facts_from(kind.survey_model, read_facts(kind.survey_model, answers, UnitSystem.METRIC))
        reading = read_facts(kind.choices_model, {path: Typed(text) for path, text in decided.items()}, UnitSystem.METRIC, answers_of(kind.survey_model, answers))
        choices = facts_from(kind.choices_model, reading)
        plan = kind.reckon(survey, choices, False)
        return {proof.id: (proof, values_proved(proof, plan)) for proof in kind.proofs(survey, choices, plan)}


class WrongNumbersTest(unittest.TestCase):
    def failing(self, kind, case, program, *proofs: str) -> set[str]:
        shown = kind.prove_on_bench(*case, Held(case[2], program), frozenset(proofs))
        self.assertEqual({each.proof.id for each in shown}, set(proofs))
        return {each.proof.id for each in shown if each.verdict is Verdict.FAILED}

    def test_a_booster_whose_drives_hold_something_else_fails_just_that_proof(self) -> None:
        survey, choices = boosters.survey(pumping={"count": 3}), boosters.choices()
        case = survey, choices, BOOSTER.reckon(survey, choices)
        right = numbers_of(*case)
        wrong = (
            ("settles", {"gain": 12.0 * right.gain, "reset_time": 0.1 * right.reset_time}), ("most_speed", {"most_speed": 0.9}),
            ("least_speed", {"least_speed": right.least_speed + 0.05}), ("ramp", {"ramp_s": right.ramp_s + 6.0}),
            ("join_delay", {"join_delay": 2.0 * right.join_delay}), ("leave_delay", {"leave_delay": 2.0 * right.leave_delay}),
        )  # fmt: skip
        self.assertEqual(self.failing(BOOSTER, case, right, *(proof for proof, _ in wrong)), set())
        for proof, change in wrong:
            with self.subTest(proof=proof):
                self.assertEqual(self.failing(BOOSTER, case, replace(right, **change), proof), {proof})

    def test_a_lift_whose_drives_hold_something_else_fails_just_that_proof(self) -> None:
        for mode, wrong in (("by_level", (("least_speed", {"least": 0.05}), ("ramp", {"ramp_s": 60.0}))), ("hold_level", (("holds", {"hold_m": 0.3}),))):
            case = clinic(mode)
            right = program_of(*case)
            self.assertEqual(self.failing(LIFT, case, right, *(proof for proof, _ in wrong)), set())
            for proof, change in wrong:
                with self.subTest(proof=proof):
                    drive = replace(right.drive, **{name: getattr(right.drive, name) + more for name, more in change.items()})
                    self.assertEqual(self.failing(LIFT, case, replace(right, drive=drive), proof), {proof})

    def test_every_number_of_a_plan_is_proved_or_named_here(self) -> None:
        """What a watch or an eye cannot take apart on site stays with the windows and the read-back."""
        not_proved = {"closed_delay", "least_run", "empty_rate", "stop_delay"}
        cases = [(LIFT, *clinic(mode)[:2]) for mode in ("by_level", "hold_level")]
        cases += [(BOOSTER, boosters.survey(pumping={"count": 3}), boosters.choices()), (LIFT, stations.survey(), stations.choices())]
        for kind, survey, choices in cases:
            plan = kind.reckon(survey, choices)
            proved = {one for proof in kind.proofs(survey, choices, plan) for one in proof.proves}
            ramp = {"ramp"} if "hold_level" in plan else set()
            self.assertEqual({setting.id for setting in plan.settings} - proved - not_proved - ramp, set())


class EachPumpTest(unittest.TestCase):
    def test_a_pump_that_moves_less_fails_its_own_proof_and_no_other(self) -> None:
        """Clogged it moves 35 %, shut nothing; a leaking valve of a pump at rest takes 30 % of what the other gives; a standby never asked shows too."""
        lift = stations.survey(), stations.choices()
        case = (*lift, LIFT.reckon(*lift))
        ids = frozenset(("flow_1", "flow_2"))
        troubles = {trouble.id: trouble for trouble in LIFT.diagnosis.troubles(LIFT.bench(*case))}
        for fault, failing in (("clogged.1", {"flow_1"}), ("shut.2", {"flow_2"}), ("check_valve.1", {"flow_2"}), ("seal.1", set())):
            shown = LIFT.prove_on_bench(*case, None, ids, troubles.get(fault))
            self.assertEqual({each.proof.id for each in shown if each.verdict is Verdict.FAILED}, failing, fault)
        well_m3 = 2.0 * 0.7 * (case[2].value("start_1", 0.0) - case[2].value("stop", 0.0))  # 2 m2 of well, seven tenths of the band
        (shown,) = LIFT.prove_on_bench(*case, None, frozenset(("flow_1",)))
        self.assertAlmostEqual(shown.seen, well_m3 / (shown.scene.until_s - 5.0), delta=0.02 * shown.seen)
        booster = boosters.survey(pumping={"count": 3, "standby": True}), boosters.choices()
        case = (*booster, BOOSTER.reckon(*booster))
        troubles = {trouble.id: trouble for trouble in BOOSTER.diagnosis.troubles(BOOSTER.bench(*case))}
        for fault in ("air.3", "shut.3", "backwards.3"):
            shown = BOOSTER.prove_on_bench(*case, None, frozenset(("each_pump_1", "each_pump_3")), troubles[fault])
            self.assertEqual({each.proof.id for each in shown if each.verdict is Verdict.FAILED}, {"each_pump_3"}, fault)


class NothingUnprovedTest(unittest.TestCase):
    def test_every_number_in_force_has_a_proof(self) -> None:
        """Whatever the kind of control and the schools: a setting that acts stands in some proof. A timer at nothing does not act."""
        driven = {"drives": {"fitted": True}}
        guards = {"protection": {"underload_by": "power", "follows": "from_speed", "monitor": "voltages", "winding_by": "contact"}}
        lifts = (
            {}, {"control": {"kind": "pump_controller", "level_by": "sensor_and_floats", "floats": 4, "phase_monitor": True}, **guards},
            {"control": {"level_by": "floats", "floats": 4}}, {**driven, **guards}, {"control": {"kind": "relays_alone"}}, {"control": {"kind": "drives_alone"}, **driven},
        )  # fmt: skip
        sets = ({}, {"control": {"kind": "on_off"}}, {"control": {"kind": "on_off", "own_switches": True}}, {"control": {"kind": "flow_stop"}}, {"control": {"kind": "fixed"}}, {"control": {"flow_switch": True, "flow_switch_m3s": 0.0002, "phase_monitor": True}, **guards})
        ways = {
            LIFT: ({}, {"speed_mode": "hold_level"}, {"speed_mode": "economical"}, {"assist_by": "level_or_timer", "stops": "own"}),
            BOOSTER: ({}, {"no_flow": "bump"}, {"no_flow": "flow"}, {"night": True, "slow_fill": True}),
        }
        looked = 0
        for kind, made, surveys in ((LIFT, stations, lifts), (BOOSTER, boosters, sets)):
            for facts in surveys:
                for schools in ways[kind]:
                    choices = made.choices(schools=schools)
                    choices = choices.model_copy(update={"protection": choices.protection.model_copy(update={"after": After.LONG_WAIT})})
                    survey = made.survey(**facts)
                    plan = kind.reckon(survey, choices, False)
                    listed = kind.proofs(survey, choices, plan)
                    proved = {setting for proof in listed for setting in proof.proves}
                    self.assertEqual([each.id for each in plan.settings if each.id not in proved and not (each.group == "timers" and each.value == 0.0)], [], (kind.id, facts, schools))
                    self.assertEqual(len({proof.id for proof in listed}), len(listed))
                    looked += len(plan.settings)
        self.assertGreater(looked, 800)
