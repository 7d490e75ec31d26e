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
from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.booster.proofs.on_bench import prove_on_bench
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, NoFlowBy
from goodbalance.core.stations.booster.trials.sweep import hand_sweep
from goodbalance.exchange.profiles import shipped_profiles
from goodbalance.exchange.typed import Typed, answers_of, facts_from, read_facts
from goodbalance.web.kinds.booster.picture import drawing
from tests.core.test_any_survey import answers
from tests.core.test_booster_bench import station
from tests.read_backs import held
from tests.trails import false_trails, false_verdicts
from tools.stage.typed_stations import TANK_SET

M = UnitSystem.METRIC
PROFILES = {profile.family: profile for profile in shipped_profiles().values()}
QUESTIONS = [question for part in sections(BOOSTER.survey_model) for question in part.facts]
# proofs whose outcome hangs on how much water there is, not on the settings alone
BY_WATER = (
    "holds",
    "dip",
    "rise",
    "power_return",
    "joins",
    "leaves",
    "no_hunting",
    "takeover",
    "burst",
    "starts",
    "remote",
    "emergency",
)

any_control = st.fixed_dictionaries(
    {
        "control.kind": st.sampled_from(["constant", "on_off", "flow_stop", "fixed"]),
        "control.own_switches": st.sampled_from(["yes", "no"]),
        "control.device": st.sampled_from(["motor_mounted", "wall_drive", "panel_regulator"]),
        "control.flow_switch": st.sampled_from(["yes", "no"]),
        "control.outside": st.sampled_from(["none", "signal", "link"]),
        "control.outside_zero_pa": st.sampled_from(["0", "1.5"]),
        "control.outside_full_pa": st.sampled_from(["4", "9"]),
        "control.local_remote": st.sampled_from(["yes", "no"]),
        "control.run_contact": st.sampled_from(["yes", "no"]),
        "control.direct_keys": st.sampled_from(["yes", "no"]),
        "control.suction_by": st.sampled_from(["sensor", "switch", "float", "none"]),
        "suction_switch.permits": st.sampled_from(["closed", "open"]),
        "suction_switch.alarm": st.sampled_from(["yes", "no"]),
        "control.phase_monitor": st.sampled_from(["yes", "no"]),
        "supply.kind": st.sampled_from(["flooded", "town_main", "suction_lift"]),
        "pumping.count": st.sampled_from("12345"),
        "pumping.standby": st.sampled_from(["yes", "no"]),
        "pumping.standby_turns": st.sampled_from(["yes", "no"]),
        "pumping.most_at_once": st.sampled_from(["", "1", "2"]),
        "motor.generator": st.sampled_from(["yes", "no"]),
        "vessel.volume_m3": st.sampled_from(["0", "0.05", "0.3", "1.5"]),
        "outlets.permitted_pa": st.sampled_from(["6", "7.5", "9"]),
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
        "slow_fill": st.booleans(),
        "fill_end": st.sampled_from(["go_on", "stop"]),
        "tuning": st.sampled_from(["simc", "lambda", "amigo"]),
        "tank": st.sampled_from(["starts", "least_run"]),
        "sensor_failure": st.sampled_from(["stop_all", "run_duty"]),
        "outside_lost": st.sampled_from(["local", "hold"]),
        "suction_reset": st.sampled_from(["automatic", "tries", "long_wait", "by_hand"]),
        "prime_by": st.sampled_from(["power", "flow", "pressure"]),
        "lost_prime": st.sampled_from(["by_hand", "tries", "long_wait"]),
    }
)
OTHER_SUPPLY = {"supply.low_pa": "1.2", "supply.high_pa": "1.6"}


KEPT = (
    "pumping.count",
    "pumping.curve",
    "vessel.volume_m3",
)  # by the control above; one point of a curve alone breaks it
NUMBERS = [
    q.path for q in QUESTIONS if TANK_SET.get(q.path, "").replace(".", "", 1).isdigit() and not q.path.startswith(KEPT)
]


@st.composite
def any_answers(draw) -> dict[str, Typed]:
    """The demo's booster with another control and supply, some of its numbers larger or smaller, and now and then any fact at all."""
    told = {**TANK_SET, **OTHER_SUPPLY, **draw(any_control)}
    for path in draw(st.lists(st.sampled_from(NUMBERS), max_size=6, unique=True)):
        told[path] = f"{float(told[path]) * draw(st.sampled_from([0.7, 0.85, 1.2, 1.5])):.6g}"
    if told["pumping.count"] == "1":
        told["pumping.standby"] = "no"
    typed = {path: Typed(text) for path, text in told.items()}
    for question in draw(st.lists(st.sampled_from(QUESTIONS), max_size=1)) if draw(st.booleans()) else []:
        typed[question.path] = Typed(draw(answers(question)))
    return typed


def not_settled(survey, choices, plan) -> frozenset[str]:
    """Proofs that this station cannot pass by its water, whatever is set: the plan says so by a figure or a finding."""
    kept = {figure.id: figure.keeps for figure in plan.figures}
    found: set[str] = set()
    if any(row.best is None for row in hand_sweep(survey, choices, plan) if row.name != "with flushing"):
        found.update(BY_WATER)
    if not kept.get("speed_firm", True):
        found.add("takeover")
    if not kept.get("starts_worst", True):
        found.add("starts")
    if choices.schools.setback != "none":
        found.add("dip")  # it begins nearer to the restart, and the set pressure follows the flow slowly
    if survey.vessel.volume_m3 <= 0.0 or choices.schools.no_flow is NoFlowBy.BUMP:  # it may stand still just then
        found.update(("dip", "rise"))  # within seconds, by how fast taps are turned
    if any(finding.code == "fill_by_day" for finding in plan.findings):
        found.add("power_return")
    if not survey.pumping.check_valves:
        found.update(("stays_stopped", "stays_asleep", "starts", "wakes", "cut_in"))
    return frozenset(found)


class AnyBoosterTest(unittest.TestCase):
    @settings(max_examples=30, deadline=None, suppress_health_check=list(HealthCheck))
    @given(
        any_answers(),
        any_schools,
        st.sampled_from([Display.BAR, Display.PSI, Display.PERCENT_OF_SPAN, Display.KILOPASCAL]),
    )
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
        drawing(survey, choices, plan)
        self.assertEqual(false_trails(plan) + false_verdicts(plan), [])
        for setting in plan.settings:
            for bound in (*setting.window.lower, *setting.window.upper):
                self.assertTrue(bound.trail.lines(UnitSystem.US))
        if not plan.is_sound or any(finding.severity is Severity.STOP for finding in plan.findings):
            return
        self.assertTrue(all(0.0 <= share <= 1.0 for share in BOOSTER.chances(survey, choices, plan).values()))
        told = answers_of(BOOSTER.survey_model, typed)
        profile, *others = (PROFILES[family] for family in (BOOSTER.keypad.family_of(told), *BOOSTER.keypad.companions_of(told)))
        values = BOOSTER.keypad.values(survey, choices, plan, display)
        scale = BOOSTER.keypad.scale(survey, profile, display)
        sheet = entry_sheet(profile, values, scale, tuple(others))
        if not any(row.kind is RowKind.REFUSED for row in sheet.rows):
            for before, after in zip(plan.settings, BOOSTER.keypad.recheck(survey, choices, sheet).settings):
                self.assertAlmostEqual(before.value, after.value, delta=max(0.02 * abs(before.value), 6e3))
        typed_in = {row.parameter.code: row.shows for row in sheet.rows if row.kind in (RowKind.CHANGE, RowKind.CHECK)}
        as_typed = held(BOOSTER, survey, choices, sheet, typed_in, display)
        whole = len(typed_in) == sum(row.kind is not RowKind.LEAVE for row in sheet.rows) and not any(u.harm for u in as_typed.uncarried)
        # what stands on the keypads after rounding passes every proof, as the plan itself does
        shown, as_held = (BOOSTER.keypad.recheck(survey, choices, sheet), as_typed) if whole and len(typed) % 2 else (plan, None)
        left_out = not_settled(survey, choices, shown)
        kept = frozenset(p.id for p in BOOSTER.proofs(survey, choices, shown) if p.id not in left_out)
        wrong = [
            (p.proof.id, p.proof.expected, p.seen)
            for p in prove_on_bench(survey, choices, shown, as_held, kept)
            if p.verdict is not Verdict.PASSED
        ]
        self.assertEqual(wrong, [])

    def test_any_number_dragged_to_is_reckoned_and_worded(self) -> None:
        """A setting dragged far out or far below nothing: windows, words, chances and sheet still come."""
        facts, decided, plan = station(
            {"no_flow": "flow", "setback": "square"}, supply={"low_pa": 60e3, "high_pa": 62e3}
        )
        for setting in plan.settings:
            for value in (-1e9, 3.0 * setting.value):
                with self.subTest(setting=setting.id, value=value):
                    dragged = decided.model_copy(update={"chosen": {setting.id: value}})
                    try:
                        moved = BOOSTER.reckon(facts, dragged, False)
                    except GoodBalanceError as wrong:
                        self.assertTrue(str(wrong))
                        continue
                    drawing(facts, dragged, moved)
                    if value > 0.0:  # chances reckon seven times over
                        found = BOOSTER.chances(facts, dragged, moved).values()
                        self.assertTrue(all(0.0 <= share <= 1.0 for share in found))
                    for each in moved.settings:
                        for bound in (*each.window.lower, *each.window.upper):
                            self.assertTrue(bound.trail.lines(UnitSystem.METRIC))
                        BOOSTER.otherwise(facts, moved, each)
