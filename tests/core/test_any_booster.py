"""Whatever a booster's survey says within its limits: no crash, and a plan that is sound proves itself on the bench."""

import unittest

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from goodbalance.core.balance.facts import sections
from goodbalance.core.balance.plan import Severity
from goodbalance.core.balance.proof import Verdict
from goodbalance.core.balance.quantities import UnitSystem
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.sheets.entry_sheet import RowKind, entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.bench_proofs import prove_on_bench
from goodbalance.core.stations.booster.choices import BoosterChoices
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.sweep import hand_sweep
from goodbalance.demo.aquarium import AQUARIUM
from goodbalance.exchange.profiles import shipped_profiles
from goodbalance.exchange.typed import Typed, answers_of, facts_from, read_facts
from tests.core.test_any_survey import answers

M = UnitSystem.METRIC
PROFILES = {profile.family: profile for profile in shipped_profiles().values()}
QUESTIONS = [question for part in sections(BOOSTER.survey_model) for question in part.facts]
# proofs whose outcome hangs on how much water there is, not on the settings alone
BY_WATER = ("holds", "dip", "rise", "power_return", "joins", "leaves", "no_hunting", "takeover", "burst", "starts", "remote", "emergency")

any_control = st.fixed_dictionaries(
    {
        "control.kind": st.sampled_from(["constant", "on_off", "flow_stop", "fixed"]),
        "control.device": st.sampled_from(["motor_mounted", "wall_drive"]),
        "control.flow_switch": st.sampled_from(["yes", "no"]),
        "control.suction_by": st.sampled_from(["sensor", "switch", "none"]),
        "control.phase_monitor": st.sampled_from(["yes", "no"]),
        "supply.kind": st.sampled_from(["flooded", "town_main", "suction_lift"]),
        "pumping.count": st.sampled_from("12345"),
        "pumping.standby": st.sampled_from(["yes", "no"]),
        "motor.generator": st.sampled_from(["yes", "no"]),
        "vessel.volume_m3": st.sampled_from(["0", "0.05", "0.3", "1.5"]),
        "sensor.signal": st.sampled_from(["4_20_ma", "0_20_ma", "0_10_v"]),
    }
)
any_schools = st.fixed_dictionaries(
    {
        "sharing": st.sampled_from(["synchronous", "serial"]),
        "alternation": st.sampled_from(["all_stopped", "each_stop", "fixed", "run_hours", "clock"]),
        "no_flow": st.sampled_from(["speed", "flow", "bump"]),
        "setback": st.sampled_from(["none", "square", "linear"]),
        "night": st.booleans(),
        "soft_fill": st.booleans(),
        "fill_end": st.sampled_from(["go_on", "stop"]),
        "tuning": st.sampled_from(["simc", "lambda", "amigo"]),
        "tank": st.sampled_from(["starts", "least_run"]),
        "sensor_failure": st.sampled_from(["stop_all", "run_duty"]),
        "suction_reset": st.sampled_from(["automatic", "by_hand"]),
    }
)
OTHER_SUPPLY = {"supply.low_pa": "1.2", "supply.high_pa": "1.6"}


@st.composite
def any_answers(draw) -> dict[str, Typed]:
    typed = {path: Typed(text) for path, text in {**AQUARIUM, **OTHER_SUPPLY, **draw(any_control)}.items()}
    for question in draw(st.lists(st.sampled_from(QUESTIONS), max_size=5, unique_by=lambda q: q.path)):
        typed[question.path] = Typed(draw(answers(question)))
    return typed


class AnyBoosterTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
    @given(any_answers(), any_schools, st.sampled_from([Display.BAR, Display.PSI, Display.PERCENT_OF_SPAN, Display.KILOPASCAL]))
    def test_it_is_refused_in_words_or_goes_all_the_way(self, typed, schools, display) -> None:
        reading = read_facts(BOOSTER.survey_model, typed, M)
        findings = BOOSTER.plausibility(reading.values)
        for finding in findings:
            self.assertTrue(finding.worded(UnitSystem.US))
        if not reading.complete or any(finding.severity is Severity.STOP for finding in findings):
            return
        survey = facts_from(BOOSTER.survey_model, reading)
        if survey.remote is not None:
            schools = {**schools, "setback": "none"}  # as the form offers it
        choices = BoosterChoices.model_validate({"schools": schools})
        try:
            plan = BOOSTER.reckon(survey, choices, False)
        except GoodBalanceError as wrong:
            self.assertTrue(str(wrong))
            return
        BOOSTER.drawing(survey, choices, plan)
        for setting in plan.settings:
            for bound in (*setting.window.lower, *setting.window.upper):
                self.assertTrue(bound.trail.lines(UnitSystem.US))
        if not plan.is_sound or any(finding.severity is Severity.STOP for finding in plan.findings):
            return
        self.assertTrue(all(0.0 <= share <= 1.0 for share in BOOSTER.chances(survey, choices, plan).values()))
        told = answers_of(BOOSTER.survey_model, typed)
        profile, *others = (PROFILES[family] for family in (BOOSTER.family_of(told), *BOOSTER.companions_of(told)))
        values = BOOSTER.keypad_values(survey, choices, plan, display)
        scale = BOOSTER.keypad_scale(survey, profile, display)
        sheet = entry_sheet(profile, values, scale, tuple(others))
        if not any(row.kind is RowKind.REFUSED for row in sheet.rows):
            for before, after in zip(plan.settings, BOOSTER.recheck(survey, choices, sheet).settings):
                self.assertAlmostEqual(before.value, after.value, delta=max(0.02 * abs(before.value), 6e3))
        BOOSTER.held(survey, choices, sheet, {}, scale)
        able = all(row.best is not None for row in hand_sweep(survey, choices, plan) if row.name != "with flushing")
        kept = frozenset(p.id for p in BOOSTER.proofs(survey, choices, plan) if able or p.id not in BY_WATER)
        wrong = [(p.proof.id, p.proof.expected, p.seen) for p in prove_on_bench(survey, choices, plan, None, kept) if p.verdict is not Verdict.PASSED]
        self.assertEqual(wrong, [])
