"""What follows from the whole plan of a ring: flows and temperatures branch by branch, waits, hours, and what a year costs."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Figure, Plan
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.physics.heat import still_c
from goodbalance.core.stations.circulator.names import Mode
from goodbalance.core.stations.circulator.names import SettingId as S
from goodbalance.core.stations.circulator.plant.crossing import warm_s
from goodbalance.core.stations.circulator.plant.equations import RingEquations, equations
from goodbalance.core.stations.circulator.plant.laws import is_able
from goodbalance.core.stations.circulator.plant.steady import Steady, steady
from goodbalance.core.stations.circulator.plant.year import Costs, costs, lost_w
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.hours import ALWAYS, in_mode, running
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.windows.making import least_c, velocities
from goodbalance.core.stations.shared.week import WEEK_S, lasts_s, most_rest_in_a_day_s, rests

HEAT_LAW, NEAR_K = "heat lost by each piece, exponential along it", 0.05


def plan_values(plan: Plan) -> dict[str, float]:
    """Every setting's value by its id."""
    return {setting.id: setting.value for setting in plan.settings}


def at_rest(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> Steady:
    """The ring as it runs on and on by this plan."""
    return steady(equations(survey), choices.schools.mode, plan_values(plan))


def figures(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> tuple[Figure, ...]:
    """Every consequence, the coldest point first."""
    eq, runs = equations(survey), at_rest(survey, choices, plan)
    found = [*_coldest(survey, choices, runs), *_branches(eq, runs), *_pump(eq, choices, runs)]
    if not survey.heats:
        found += _waits(eq, choices, plan, runs)
    return (*found, *_hours(survey, choices, plan), *_year(eq, choices, plan, runs), *_cools(eq, choices, plan, runs))


def _figure(name: str, label: str, value: float, quantity: Q, formula: str, terms: tuple[Term, ...], says: str, keeps: bool = True, limit: str = "", limits: tuple[Term, ...] = ()) -> Figure:
    return Figure(name, label, value, quantity, Trail(formula, terms, Term(formula.partition(" = ")[0], "", value, quantity), says), keeps, limit, limits)


def _coldest(survey: CirculatorSurvey, choices: CirculatorChoices, runs: Steady) -> Iterator[Figure]:
    warm = runs.warmth
    label = "Coolest of the farthest taps" if survey.crosses else "Coldest point of the ring"
    at = min(range(len(warm.taps_c)), key=lambda number: (warm.taps_c if survey.crosses else warm.ends_c)[number])
    asked = least_c(survey, choices) - choices.rules.margin_k
    terms = (Term("s", f"reckoned along its pieces; it is {survey.branch_name(at + 1)}", runs.coldest_c, Q.TEMPERATURE),)
    keeps = survey.heats or runs.coldest_c >= asked - NEAR_K
    limit = "" if survey.heats else "at least {l}: " + ("hot water there" if survey.crosses else "the rule in force")
    yield _figure("coldest", label, runs.coldest_c, Q.TEMPERATURE, "T = s", terms, HEAT_LAW, keeps, limit, () if survey.heats else (Term("l", "", asked, Q.TEMPERATURE),))


def _branches(eq: RingEquations, runs: Steady) -> Iterator[Figure]:
    """Flow and return of each."""
    for number, (flow, end_c) in enumerate(zip(runs.running.branches_m3s, runs.warmth.ends_c)):
        name, pipe = eq.survey.branch_name(number + 1), eq.pipes[number]
        terms = Term("h", "difference at the headers", runs.running.header_pa, Q.DIFFERENCE), Term("f", "lost in its pipes", pipe.loss_pa(flow), Q.DIFFERENCE), Term("s", "flow at which pipes and valve lose that", flow, Q.LEAK)
        yield _figure(f"flow_{number + 1}", f"Flow, {name}", flow, Q.LEAK, "q = s", terms, "losses of pipes and valve")
        if eq.survey.crosses:
            continue
        loses = (
            Term("i", "where the branches divide", runs.warmth.divides_c, Q.TEMPERATURE), Term("u", "lost on its way, W for each kelvin", pipe.there.lost_wk + pipe.back.lost_wk, Q.RATIO), Term("q", "its flow", flow, Q.LEAK),
            Term("s", "at the end of its way back", end_c, Q.TEMPERATURE),
        )  # fmt: skip
        yield _figure(f"end_{number + 1}", f"Return, {name}", end_c, Q.TEMPERATURE, "T = s", loses, HEAT_LAW)


def _pump(eq: RingEquations, choices: CirculatorChoices, runs: Steady) -> Iterator[Figure]:
    now = runs.running
    terms = Term("h", "difference at the headers", now.header_pa, Q.DIFFERENCE), Term("c", "lost in common", now.adds_pa - now.header_pa, Q.DIFFERENCE)
    yield _figure("adds", "The pump adds", now.adds_pa, Q.DIFFERENCE, "p = h + c", terms, "where pump and ring meet")
    yield _figure("total", "Flow of the ring", now.flow_m3s, Q.LEAK, "q = s", (Term("s", "all branches together", now.flow_m3s, Q.LEAK),), "flows add up")
    yield _figure("turns", "Its speed, of full speed", now.speed, Q.PERCENT, "n = s", (Term("s", "at which its curve passes there", now.speed, Q.PERCENT),), "affinity")
    worst = max((((flow / piece.area_m2) / eq.fastest_ms(piece.material, eq.flow_c, velocities(choices)), piece, flow) for piece, flow in _flowing(eq, runs)), key=lambda each: each[0]) if now.flow_m3s > 0.0 else None
    if worst is not None:
        share, piece, flow = worst
        limit_ms = eq.fastest_ms(piece.material, eq.flow_c, velocities(choices))
        terms = Term("q", f"flow through {piece.name}", flow, Q.LEAK), Term("A", "its bore", piece.area_m2, Q.AREA)
        yield _figure("velocity", "Fastest water", flow / piece.area_m2, Q.VELOCITY, "v = q / A", terms, "continuity", share <= 1.0001, "at most {l} there, by the rule", (Term("l", "", limit_ms, Q.VELOCITY),))


def _flowing(eq: RingEquations, runs: Steady) -> Iterator[tuple]:  # type: ignore[type-arg]
    for piece, branch in eq.always_pieces:
        yield piece, runs.running.flow_m3s if branch is None else runs.running.branches_m3s[branch]


def wait_s(eq: RingEquations, number: int, cold: bool) -> float:
    """How long an opened farthest tap runs until it is hot, 0 for the first: its own pipe, and from cold the way out too. [s]"""
    branch, out = eq.survey.branches[number], eq.runs_out[number]
    fills = (0.0 if out is None else out.fills_m3) + (eq.pipes[number].there.fills_m3 + eq.there.fills_m3 if cold else 0.0)
    return fills / branch.tap_m3s


def _waits(eq: RingEquations, choices: CirculatorChoices, plan: Plan, runs: Steady) -> Iterator[Figure]:
    use = eq.survey.use
    for cold, name, label in ((False, "wait_warm", "Wait at the slowest tap, while it runs"), (True, "wait_cold", "The same after the longest rest, from cold")):
        if cold and not rests(running(eq.survey, choices, plan.value(S.LEAD, 0.0))):
            continue
        times = [wait_s(eq, number, cold or runs.warmth.taps_c[number] < use.hot_c) for number in range(len(eq.pipes))]
        number = times.index(max(times))
        branch = eq.survey.branches[number]
        terms = Term("V", f"to be filled and warmed, {eq.survey.branch_name(number + 1)}", times[number] * branch.tap_m3s, Q.VOLUME), Term("d", "its tap gives", branch.tap_m3s, Q.LEAK)
        keeps = cold or times[number] <= use.wait_s * 1.0001
        yield _figure(name, label, times[number], Q.TIME, "t = V / d", terms, "plug flow", keeps, "" if cold else "at most {w}: what people wait", () if cold else (Term("w", "", use.wait_s, Q.TIME),))
    if eq.survey.crosses:
        yield from _cold_taps(eq, choices, runs)


def _cold_taps(eq: RingEquations, choices: CirculatorChoices, runs: Steady) -> Iterator[Figure]:
    """How long a cold tap runs warm, at the branch where it lasts longest."""
    worst = max(range(len(eq.pipes)), key=lambda number: warm_cold_s(eq, choices, number, runs))
    lasts = warm_cold_s(eq, choices, worst, runs)
    terms = (
        Term("f", "flow through its crossover valve", runs.running.branches_m3s[worst], Q.LEAK), Term("d", f"its cold tap gives, {eq.survey.branch_name(worst + 1)}", eq.survey.branches[worst].tap_m3s, Q.LEAK),
        Term("s", "until the warm length of its cold pipe has run out", lasts, Q.TIME),
    )  # fmt: skip
    limit = (Term("l", "", choices.rules.cold_s, Q.TIME),)
    yield _figure("cold_tap", "A cold tap runs warm for", lasts, Q.TIME, "t = s", terms, "heat lost along the cold pipe; plug flow", lasts <= choices.rules.cold_s * 1.001, "at most {l}, by the rule", limit)


def warm_cold_s(eq: RingEquations, choices: CirculatorChoices, number: int, runs: Steady) -> float:
    """How long the cold tap of a branch runs warmer than the rule allows, 0 for the first. [s]"""
    return warm_s(eq, number, runs.running.branches_m3s[number], runs.warmth.taps_c[number], choices.rules.cold_c)


def _hours(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> Iterator[Figure]:
    runs = running(survey, choices, plan.value(S.LEAD, 0.0))
    week = lasts_s(runs)
    yield _figure("hours", "It runs in a week, by its clock", week, Q.HOURS, "t = s", (Term("s", "its times added up", week, Q.HOURS),), "week's clock")
    if survey.heats:
        return
    most = most_rest_in_a_day_s(runs)
    limit = (Term("l", "", choices.rules.longest_rest_s, Q.HOURS),)
    yield _figure("rest", "Most rest in any 24 hours", most, Q.HOURS, "t = s", (Term("s", "rests added up", most, Q.HOURS),), "week's clock", most <= choices.rules.longest_rest_s + 1.0, "at most {l}, by the rule", limit)


def _cools(eq: RingEquations, choices: CirculatorChoices, plan: Plan, runs: Steady) -> Iterator[Figure]:
    """What the end of each piece cools to in the longest rest of its hours. Source: a body that cools in air, by its time constant."""
    rest_s = max((end - begin for begin, end in rests(running(eq.survey, choices, plan.value(S.LEAD, 0.0)))), default=0.0)
    if rest_s <= 0.0:
        return
    warm = runs.warmth
    pieces = [("common", eq.there, warm.divides_c)]
    for number, (pipe, far_c, end_c) in enumerate(zip(eq.pipes, warm.taps_c, warm.ends_c), 1):
        pieces += [(f"out_{number}", pipe.there, far_c), *([] if eq.survey.crosses else [(f"back_{number}", pipe.back, end_c)])]
    if eq.back is not None:
        pieces.append(("back", eq.back, warm.back_c))
    for name, piece, at_c in pieces:
        cooled_c = still_c(at_c, piece.around_c, rest_s, piece.constant_s)
        terms = (
            Term("a", "air around it", piece.around_c, Q.TEMPERATURE), Term("w", "at its end while it runs", at_c, Q.TEMPERATURE), Term("t", "longest rest", rest_s, Q.HOURS),
            Term("c", "its time constant: heat that water and wall hold, over what it loses for each kelvin", piece.constant_s, Q.HOURS),
        )  # fmt: skip
        yield _figure(f"cools_{name}", f"After the longest rest: {piece.name}", cooled_c, Q.TEMPERATURE, "T = a + (w - a) · exp(-t/c)", terms, "cooling by its time constant")


def _year(eq: RingEquations, choices: CirculatorChoices, plan: Plan, runs: Steady) -> Iterator[Figure]:
    flows, warm, power = runs.running.branches_m3s, runs.warmth, runs.running.power_w
    week = running(eq.survey, choices, plan.value(S.LEAD, 0.0))
    now, always = (costs(eq, flows, warm, eq.flow_c, power, hours) for hours in (week, ALWAYS))
    loses = lost_w(eq, flows, warm, eq.flow_c)
    terms = Term("l", "lost by its pipes while it runs", loses, Q.POWER), Term("t", "it runs, of the week", lasts_s(week) / WEEK_S, Q.PERCENT), Term("s", "with what each rest gives away", now.heat_j, Q.ENERGY)
    yield _figure("heat_year", "Heat its pipes lose in a year", now.heat_j, Q.ENERGY, "E = s", terms, "steady loss, and cooling in each rest")
    took = Term("P", "it takes", power, Q.POWER), Term("y", "hours it runs in a year, as seconds", 365.0 * 86400.0 * lasts_s(week) / WEEK_S, Q.TIME)
    yield _figure("pump_year", "The pump takes in a year", now.pump_j, Q.ENERGY, "E = P · y", took, "pump curve")
    if week != ALWAYS:
        saved = always.heat_j + always.pump_j - now.heat_j - now.pump_j
        both = Term("a", "heat and pump, running always", always.heat_j + always.pump_j, Q.ENERGY), Term("b", "the same in these hours", now.heat_j + now.pump_j, Q.ENERGY)
        yield _figure("saved", "Saved in a year against running always", saved, Q.ENERGY, "E = a - b", both, "both as above")
        yield from _against_no_timer(eq, choices, plan, now)


def _against_no_timer(eq: RingEquations, choices: CirculatorChoices, plan: Plan, now: Costs) -> Iterator[Figure]:
    """The same against what the pump could do without typed hours: learning them, or holding its return always; the cheaper of those it knows."""
    values, survey = {**plan_values(plan), S.SET_RETURN: least_c(eq.survey, choices)}, eq.survey
    tried = []
    for mode, hours in ((Mode.LEARNING, in_mode(survey, choices, 0.0, Mode.LEARNING)), (Mode.RETURN, ALWAYS)):
        if is_able(survey.pump, mode) and not (mode is Mode.RETURN and survey.crosses):
            runs = steady(eq, mode, values)
            year = costs(eq, runs.running.branches_m3s, runs.warmth, eq.flow_c, runs.running.power_w, hours)
            tried.append((year.heat_j + year.pump_j, mode))
    if not tried:
        return
    other_j, mode = min(tried)
    name = "learning the hours by itself" if mode is Mode.LEARNING else "holding its return, running always"
    both = Term("a", f"heat and pump, {name}", other_j, Q.ENERGY), Term("b", "the same in these hours", now.heat_j + now.pump_j, Q.ENERGY)
    yield _figure("saved_free", "Saved in a year against a mode without a timer", other_j - now.heat_j - now.pump_j, Q.ENERGY, "E = a - b", both, "both as above")
