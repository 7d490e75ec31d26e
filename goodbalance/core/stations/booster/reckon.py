"""From survey and choices to the plan of a booster set."""

from goodbalance.core.balance.plan import Figure, Finding, Plan, Setting, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.physics.vessels import drawdown_for_run_m3, drawdown_for_starts_m3, drawdown_m3
from goodbalance.core.stations.common_facts import controls_not_off
from goodbalance.core.stations.booster.choices import BoosterChoices, TankSchool
from goodbalance.core.stations.booster.hydraulics import hydraulics
from goodbalance.core.stations.booster.pressures import Pressures
from goodbalance.core.stations.booster.speeds import Speeds
from goodbalance.core.stations.booster.survey import BoosterSurvey


def reckon(survey: BoosterSurvey, choices: BoosterChoices) -> Plan:
    """The plan: every pressure and speed in its window, what follows, and what is wrong with it.

    Raises OutOfRange or NoSolution where the facts make no station.
    """
    settings = Pressures(survey, choices).settings()
    held_pa = settings[0].value
    speeds = Speeds(survey, choices, held_pa)
    whole = (*settings, *speeds.settings())
    figures = (*_capacity(survey, held_pa), *_tank(survey, choices, whole))
    return Plan(whole, figures, (*_findings(survey, held_pa), *speeds.findings()))


def _capacity(survey: BoosterSurvey, held_pa: float) -> tuple[Figure, ...]:
    """What all duty pumps, and all but one, still supply at the lowest suction."""
    hyd, design_m3s = hydraulics(survey), survey.demand.design_m3s
    found = []
    for figure, label, pumps in (
        ("speed_all", "Speed at design flow, all duty pumps", survey.pumping.duty_count),
        ("speed_firm", "Speed at design flow, one pump out", survey.pumping.count - 1),
    ):
        if pumps < 1:
            continue
        holding = hyd.holding(held_pa, survey.supply.low_pa, design_m3s, pumps)
        terms = (
            Term("H", "head the pumps add at the lowest suction", hyd.added_m(held_pa, survey.supply.low_pa), Q.HEAD),
            Term("Q", f"design flow over {pumps} pumps", design_m3s / pumps, Q.FLOW),
        )
        result = Term("n", "speed", holding.speed, Q.PERCENT)
        trail = Trail("n = n", (result, *terms), result, "a n^2 + b n Q + c Q^2 = H, affinity")
        found.append(
            Figure(
                figure, label, holding.speed, Q.PERCENT, trail, holding.feasible, "at most full speed, with its NPSH"
            )
        )
    return tuple(found)


def _tank(survey: BoosterSurvey, choices: BoosterChoices, settings: tuple[Setting, ...]) -> tuple[Figure, ...]:
    """What the tank gives between the two pressures, beside what each school asks. The mean flow counts as the rate."""
    values = {setting.id: setting.value for setting in settings}
    if "precharge" not in values:
        return ()
    low_pa, high_pa = values.get("restart", values.get("cut_in", 0.0)), settings[0].value
    gives_m3 = drawdown_m3(survey.vessel.volume_m3, values["precharge"], low_pa, max(high_pa, low_pa))
    rate_m3s = survey.demand.mean_m3s
    by_starts_m3 = drawdown_for_starts_m3(rate_m3s, survey.pumping.starts_per_hour)
    by_run_m3 = drawdown_for_run_m3(rate_m3s, choices.rules.least_run_s)
    needed_m3 = by_starts_m3 if choices.schools.tank is TankSchool.STARTS else by_run_m3
    terms = (
        Term("V", "volume of the tank", survey.vessel.volume_m3, Q.VOLUME),
        Term("P0", "precharge, gauge", values["precharge"], Q.PRESSURE),
        Term("P1", "pressure at which pumps come back, gauge", low_pa, Q.PRESSURE),
        Term("P2", "pressure at which they stop, gauge", high_pa, Q.PRESSURE),
    )
    trail = Trail(
        "D = D",
        (Term("D", "drawdown", gives_m3, Q.VOLUME), *terms),
        Term("D", "drawdown", gives_m3, Q.VOLUME),
        "Boyle, absolute pressures: V P0 (1/P1 - 1/P2)",
    )
    limits = (Term("S", "", by_starts_m3, Q.VOLUME), Term("R", "", by_run_m3, Q.VOLUME))
    return (
        Figure(
            "drawdown",
            "Drawdown of the tank",
            gives_m3,
            Q.VOLUME,
            trail,
            gives_m3 >= needed_m3,
            "{S} by starts, {R} by least run",
            limits,
        ),
    )


def _findings(survey: BoosterSurvey, held_pa: float) -> tuple[Finding, ...]:
    hyd, found = hydraulics(survey), []
    holding = hyd.holding(held_pa, survey.supply.low_pa, survey.demand.design_m3s, survey.pumping.duty_count)
    if holding.npsh_margin_m is not None and holding.npsh_margin_m < 0.0:
        terms = (Term("lack", "", -holding.npsh_margin_m, Q.HEAD),)
        text = "At design flow the pumps lack {lack} of NPSH at the lowest suction: they cavitate. Hold this flow by hand before anything else."
        found.append(Finding("npsh", Severity.STOP, "supply.low_pa", text, terms))
    if not hyd.curve.is_falling():
        text = "The pump curve rises somewhere: two flows for one head, and speed cannot tell them apart."
        found.append(Finding("curve_rising", Severity.CAUTION, "pumping.curve", text))
    found += controls_not_off(survey.visit.controls_off)
    return tuple(found)
