"""What is wrong with a maintenance pump and its plan, beyond windows that are empty."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Finding, Plan, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.names import main_start
from goodbalance.core.stations.maintenance.plant.hydraulics import MaintenanceHydraulics, hydraulics
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices, RunOn
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.maintenance.windows.consequences import leak_cycle_s
from goodbalance.core.stations.shared import telemetry
from goodbalance.core.stations.shared.facts import controls_not_off, starved_loop

SOFT_M3BAR = 2e-4  # under which a line takes less than a glass of water for a bar


def findings(survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> tuple[Finding, ...]:
    """Every one, gravest first."""
    hyd = hydraulics(survey)
    found = [*_authority(survey), *_ratings(hyd, choices), *_flows(hyd, choices, plan), *_stiff(hyd, choices, plan), *_mains(survey, plan), *_sensing(survey)]
    found += [*starved_loop("sensor.loop_supply_v", survey.sensor.budget), *telemetry.findings(survey.telemetry, False), *controls_not_off(survey.visit.controls_off)]
    weights = {Severity.STOP: 0, Severity.CAUTION: 1, Severity.NOTE: 2}
    return tuple(sorted(found, key=lambda finding: weights[finding.severity]))


def _authority(survey: MaintenanceSurvey) -> Iterator[Finding]:
    asked = survey.authority
    if not asked.licensed.strip():
        yield Finding("nobody_licensed", Severity.CAUTION, "authority.licensed", "No licensed person is named. Nothing of a fire system is moved without one.")
    if not asked.rule.strip():
        yield Finding("no_rule", Severity.CAUTION, "authority.rule", "The rule in force is not named: differential, separation and least run are ours until its people say theirs.")
    if not asked.receiver_told or not asked.impaired:
        text = "The alarm receiver is not told, or the impairment procedure is not begun: before any bleed both are."
        yield Finding("not_told", Severity.CAUTION, "authority.receiver_told", text)


def _ratings(hyd: MaintenanceHydraulics, choices: MaintenanceChoices) -> Iterator[Finding]:
    for pa, what in ((hyd.shut_off_pa(True), "Its shut-off"), (hyd.churn_pa(True), "The main pump's churn")):
        for name, rating_pa, down_pa in hyd.rated_parts:
            limit_pa = choices.rules.rating_share * rating_pa - down_pa
            if pa > limit_pa:
                terms = Term("p", "", pa, Q.PRESSURE), Term("r", "", limit_pa, Q.PRESSURE)
                text = f"{what} with the highest supply is {{p}} at the sensor; the {name} stands {{r}} there. A smaller impeller, a higher rating, or less supply: licensed people decide."
                yield Finding(f"rating_{name.partition(' ')[0]}_{what.split()[1]}", Severity.STOP if name != "relief valve" else Severity.CAUTION, "line.rating_pa", text, terms)
    if hyd.shut_off_pa(False) <= hyd.churn_pa(False):
        terms = Term("p", "", hyd.shut_off_pa(False), Q.PRESSURE), Term("c", "", hyd.churn_pa(False), Q.PRESSURE)
        text = "Its shut-off with the lowest supply, {p}, does not reach the main pump's churn, {c}: it can never hold the line after a test."
        yield Finding("too_weak", Severity.STOP, "pumping.curve.0.head_m", text, terms)


def _flows(hyd: MaintenanceHydraulics, choices: MaintenanceChoices, plan: Plan) -> Iterator[Finding]:
    line, stop_pa, main_pa = hyd.survey.line, plan.value(S.STOP_PRESSURE, 0.0), plan.value(main_start(1), 0.0)
    gives, needed = hyd.gives_m3s(stop_pa, hyd.supply_pa(False)), 3600.0 * line.permitted_m3s / choices.rules.makes_good_s
    if gives < needed:
        terms = Term("q", "", gives, Q.FLOW), Term("n", "", needed, Q.FLOW)
        yield Finding("too_small", Severity.CAUTION, "line.permitted_m3s", "At the stop it gives {q}; an hour's permitted leak in the rule's time needs {n}: the pump is too small, or the permitted leak too large.", terms)
    most, small = hyd.gives_m3s(main_pa, hyd.supply_pa(True)), hyd.sprinkler_m3s(main_pa)
    if most >= small:
        terms = Term("q", "", most, Q.FLOW), Term("k", "", small, Q.FLOW)
        text = "At the main pump's start it gives {q}, and one sprinkler takes {k}: it may feed a fire without the main pump ever starting. An orifice, or a smaller pump: licensed people decide."
        yield Finding("hides_sprinkler", Severity.STOP, "line.sprinkler_m3s", text, terms)


def _stiff(hyd: MaintenanceHydraulics, choices: MaintenanceChoices, plan: Plan) -> Iterator[Finding]:
    """A line without air: what starts it, and what would soften it."""
    line, n = hyd.survey.line, hyd.survey.pumping.starts_per_hour
    told = max(line.leak_m3s, line.permitted_m3s)
    starts = 3600.0 / leak_cycle_s(hyd, plan, told)
    if starts > n * 1.001:
        terms = Term("s", "", starts, Q.STARTS), Term("n", "", n, Q.STARTS)
        text = "For its leak alone it starts {s}, and stands {n}: the line is stiff. A small vessel, or the least-run timer."
        yield Finding("stiff_starts", Severity.CAUTION, S.LEAST_RUN if choices.schools.run_on is RunOn.TIMER else "schools.run_on", text, terms)
    soft = 1e5 * hyd.stores_m3pa(plan.value(S.START_PRESSURE, 1e5))
    if soft < SOFT_M3BAR and line.vessel_m3 <= 0.0:
        terms = Term("v", "", soft, Q.VOLUME), Term("b", "", 1e5, Q.PRESSURE)
        text = "The line takes only {v} for {b} more: in a moment it is at its shut-off. Sound, but every drop of leak is a sag, and the gauge jumps: bleed by the drop."
        yield Finding("stiff_line", Severity.NOTE, "line.air_m3", text, terms)


def _mains(survey: MaintenanceSurvey, plan: Plan) -> Iterator[Finding]:
    """Main pumps' starts as they are set, against where they should stand."""
    for number in range(1, survey.mains.count + 1):
        start_pa, setting = survey.mains.start_pa(number), plan.setting(main_start(number))
        if start_pa is None:
            text = f"The start of main pump {number} is not known. Its people read it before anything is bled: its window stands below."
            yield Finding(f"main_unknown_{number}", Severity.CAUTION, f"mains.start_{number}_pa", text)
        elif not setting.window.is_empty and not setting.window.holds(start_pa):
            terms = Term("p", "", start_pa, Q.PRESSURE), Term("a", "", setting.window.low, Q.PRESSURE), Term("b", "", setting.window.high, Q.PRESSURE)
            text = f"Main pump {number} starts at {{p}}; with this plan it should start from {{a}} to {{b}}. Its people move it, or the maintenance pump's start moves: never this tool."
            yield Finding(f"main_off_{number}", Severity.CAUTION, f"mains.start_{number}_pa", text, terms)


def _sensing(survey: MaintenanceSurvey) -> Iterator[Finding]:
    if not survey.line.sensing_valve:
        text = "Its sensing line has no check valve with a hole, or no test cock: water hammer starts pumps, and no proof of a pressure can be made without touching the line."
        yield Finding("sensing", Severity.CAUTION, "line.sensing_valve", text)
    if not survey.pumping.check_valve:
        yield Finding("no_check_valve", Severity.STOP, "pumping.check_valve", "Without a check valve at the pump the line runs back into the supply: it never holds.")
