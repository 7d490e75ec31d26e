"""Whatever a survey says within its limits: no crash, and a plan that is sound proves itself on the bench."""

import unittest

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from goodbalance.core.balance.facts import AskedFact, sections
from goodbalance.core.balance.plan import Severity
from goodbalance.core.balance.proof import Verdict
from goodbalance.core.balance.quantities import UnitSystem, display_unit
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.rehearsal.engine import TimedAction, rehearse
from goodbalance.core.sheets.entry_sheet import RowKind, entry_sheet
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.lift.bench.week import report
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.lift.sheet.retrofit import retrofit_map
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.exchange.profiles import shipped_profiles
from goodbalance.exchange.typed import Typed, answers_of, facts_from, read_facts
from goodbalance.web.kinds.lift.picture import drawing
from tests.read_backs import held
from tests.trails import false_trails, false_verdicts
from tools.stage.typed_stations import DEEP_WELL, ROUND_WELL

M = UnitSystem.METRIC
PROFILES = {profile.family: profile for profile in shipped_profiles().values()}
QUESTIONS = [question for part in sections(LIFT.survey_model) for question in part.facts]


def answers(question: AskedFact) -> st.SearchStrategy[str]:
    """Texts that the field accepts, the ends of its limits among them."""
    asked = question.fact
    if asked.options:
        return st.sampled_from([value for value, _ in asked.options])
    if asked.quantity is None or asked.low is None or asked.high is None:
        return st.text(max_size=10)
    unit = display_unit(asked.quantity, M)
    if question.kind is int:
        return st.integers(int(asked.low), int(asked.high)).map(str)
    low, high = asked.usual or (asked.low, asked.high)
    wide = st.sampled_from([asked.low, asked.high]) | st.floats(asked.low, asked.high)
    return (st.floats(low, high) | wide).map(lambda value: f"{unit.from_si(value):.6g}")


@st.composite
def any_answers(draw) -> dict[str, Typed]:
    typed = {path: Typed(text) for path, text in draw(st.sampled_from([ROUND_WELL, DEEP_WELL])).items()}
    for question in draw(st.lists(st.sampled_from(QUESTIONS), max_size=8, unique_by=lambda q: q.path)):
        typed[question.path] = Typed(draw(answers(question)))
    return typed


any_control = st.fixed_dictionaries(
    {
        "control.kind": st.sampled_from(["relays_to_panel", "pump_controller", "relays_alone", "drives_alone"]),
        "control.level_by": st.sampled_from(["sensor", "sensor_and_floats", "floats"]),
        "control.floats": st.sampled_from("12345"),
        "control.lowest_float": st.sampled_from(["stop", "low_alarm"]),
        "control.phase_monitor": st.sampled_from(["yes", "no"]),
        "control.seal_probes": st.sampled_from(["yes", "no"]),
        "drives.fitted": st.sampled_from(["yes", "no"]),
        "drives.outside": st.sampled_from(["yes", "no"]),
        "drives.decide": st.sampled_from(["controller", "among_themselves"]),
        "pumping.count": st.sampled_from("1234"),
        "pumping.standby": st.sampled_from(["yes", "no"]),
        "pumping.most_at_once": st.sampled_from(["", "1", "2"]),
        "pumping.arrangement": st.sampled_from(["one_group", "small_first", "two_pairs"]),
        "pumping.first_rests": st.sampled_from(["yes", "no"]),
    }
)
any_schools = st.fixed_dictionaries(
    {
        "alternation": st.sampled_from(["all_stopped", "each_stop", "fixed", "run_hours", "clock"]),
        "stops": st.sampled_from(["common", "own"]),
        "assist_by": st.sampled_from(["level", "level_or_timer"]),
        "speed_mode": st.sampled_from(["fixed", "by_level", "hold_level", "economical", "outside"]),
        "seal_leak": st.sampled_from(["alarm", "stop"]),
        "alarm_reset": st.sampled_from(["automatic", "by_hand"]),
        "alarm_relay": st.sampled_from(["in_alarm", "in_health"]),
        "starts_credit": st.sampled_from(["none", "alternation"]),
        "submergence": st.sampled_from(["maker_and_vortex", "maker_only"]),
        "sensor_failure": st.sampled_from(["stop_all", "run_duty"]),
    }
)


class AnySurveyTest(unittest.TestCase):
    @settings(max_examples=90, deadline=None, suppress_health_check=list(HealthCheck))
    @given(any_answers(), any_control, any_schools, st.sampled_from(list(Display)))
    def test_it_is_refused_in_words_or_goes_all_the_way(self, typed, control, schools, display) -> None:
        typed = {**{path: Typed(text) for path, text in control.items()}, **typed} if len(typed) % 3 else typed
        reading = read_facts(LIFT.survey_model, typed, M)
        findings = LIFT.plausibility(reading.values)
        for finding in findings:
            self.assertTrue(finding.worded(UnitSystem.US))
        if not reading.complete or any(finding.severity is Severity.STOP for finding in findings):
            return
        survey, choices = facts_from(LIFT.survey_model, reading), LiftChoices.model_validate({"schools": schools})
        try:
            plan = LIFT.reckon(survey, choices, len(typed) % 4 == 0)  # what opens empty windows takes long to search
        except GoodBalanceError as wrong:
            self.assertTrue(str(wrong))
            return
        drawing(survey, choices, plan)
        self.assertEqual(false_trails(plan) + false_verdicts(plan), [])
        if not plan.is_sound or any(finding.severity is Severity.STOP for finding in plan.findings):
            return
        if len(typed) % 4 == 1:  # chances reckon seven times over
            chances = LIFT.chances(survey, choices, plan)
            self.assertTrue(all(0.0 <= share <= 1.0 for share in chances.values()))
        told = answers_of(LIFT.survey_model, typed)
        profile, *others = (PROFILES[family] for family in (LIFT.keypad.family_of(told), *LIFT.keypad.companions_of(told)))
        display = display if display in profile.steps else Display.METRES
        values = LIFT.keypad.values(survey, choices, plan, display)
        scale = LIFT.keypad.scale(survey, profile, display)
        sheet = entry_sheet(profile, values, scale, tuple(others))
        as_said = LIFT.keypad.recheck(survey, choices, sheet)
        typed_in = {row.parameter.code: row.shows for row in sheet.rows if row.kind in (RowKind.CHANGE, RowKind.CHECK)}
        as_typed = held(LIFT, survey, choices, sheet, typed_in, display)
        self.assertEqual(held(LIFT, survey, choices, sheet, {}, display).uncarried, as_typed.uncarried)
        whole = len(typed_in) == sum(row.kind is not RowKind.LEAVE for row in sheet.rows) and not any(u.harm for u in as_typed.uncarried)
        retrofit_map(survey, choices, plan)
        run = rehearse(LIFT.bench(survey, choices, plan), (TimedAction(0.0, "pattern", "", 1.0),), 3600.0)
        report(run)
        # what stands on the keypads after rounding passes every proof, as the plan itself does
        shown = LIFT.prove_on_bench(survey, choices, *((as_said, as_typed) if whole and len(typed) % 2 else (plan, None)))
        wrong = [(p.proof.id, p.proof.expected, p.seen) for p in shown if p.verdict is not Verdict.PASSED]
        self.assertEqual(wrong, [])
