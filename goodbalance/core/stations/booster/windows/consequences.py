"""What follows from the plan of a booster set: figures with their limits."""

from goodbalance.core.balance.plan import Figure
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.physics.surge import joukowsky_pa, pipe_period_s
from goodbalance.core.physics.vessels import drawdown_for_run_m3
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, TankSchool
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows.switched import (
    mean_rate_m3s,
    most_starts,
    rest_by_flow,
    rests,
    stored_for_m3,
    stored_m3,
    switched,
)
from goodbalance.core.stations.shared.making import term

VELOCITY_HIGH_MS = 2.5
BEST_SHARES = (0.7, 1.2)  # preferred range of operation around the best-efficiency flow, ANSI/HI 9.6.3


def figures(survey: BoosterSurvey, choices: BoosterChoices, values: dict[str, float]) -> tuple[Figure, ...]:
    """Capacity, tank, starts, velocity, pressure at full speed, shocks, power."""
    return (
        *_capacity(survey, values), *_tank(survey, choices, values), *_starts(survey, choices, values),
        _velocity(survey), _full_speed(survey, values), *_power(survey, values), *_best(survey, values), *_shocks(survey),
    )  # fmt: skip


def _held_pa(values: dict[str, float]) -> float:
    """The pressure users are to have: set pressure, or where switched pumps come back."""
    return values.get(S.SET_PRESSURE, values.get(S.CUT_IN, 0.0))


def _capacity(survey: BoosterSurvey, values: dict[str, float]) -> tuple[Figure, ...]:
    """What all duty pumps, and all but one, still supply at the lowest suction: by their speed, or the pressure they give."""
    hyd, design_m3s, held_pa = hydraulics(survey), survey.demand.design_m3s, _held_pa(values)
    found = []
    all_of = ", all duty pumps" if survey.pumping.duty_count > 1 else ""
    for which, words, pumps in (
        ("all", all_of, survey.pumping.duty_count), ("firm", ", one pump out", min(survey.pumping.duty_count, survey.pumping.count - 1))
    ):  # fmt: skip
        if pumps < 1:
            continue
        if not survey.holds_constant:
            found.append(_gives(survey, values, which, words, pumps))
            continue
        holding = hyd.holding(held_pa, hyd.suction_low_pa, design_m3s, pumps)
        terms = (
            term("H", "head the pumps add at the lowest suction", hyd.added_m(held_pa, hyd.suction_low_pa), Q.HEAD),
            term("Q", f"design flow over {pumps} pump{'s' if pumps > 1 else ''}", design_m3s / pumps, Q.FLOW),
        )
        result = term("n", "speed", holding.speed, Q.PERCENT)
        trail = Trail("n = n", (result, *terms), result, "a n^2 + b n Q + c Q^2 = H, affinity")
        limit, label = "at most full speed, with its NPSH, on its curve", f"Speed at design flow{words}"
        found.append(Figure(f"speed_{which}", label, holding.speed, Q.PERCENT, trail, holding.feasible, limit))
    return tuple(found)


def _gives(survey: BoosterSurvey, values: dict[str, float], which: str, words: str, pumps: int) -> Figure:
    """Switched pumps have one speed: what pressure so many give at the design flow."""
    hyd, design_m3s = hydraulics(survey), survey.demand.design_m3s
    speed = values.get(S.FIXED_SPEED, 1.0)
    value = hyd.delivered_pa(design_m3s, pumps, hyd.suction_low_pa, speed)
    wanted_pa = hyd.wanted_pa(design_m3s)
    terms = (
        term("s", "lowest suction pressure, at design flow", hyd.suction_low_pa),
        term("d", f"what {pumps} pump{'s' if pumps > 1 else ''} add{'s' if pumps == 1 else ''} at design flow", value - hyd.suction_low_pa),
    )  # fmt: skip
    trail = Trail("p = s + d", terms, term("p", "pressure", value), "pump curve, affinity")
    limit = (term("W", "", wanted_pa),)
    label = f"Pressure at design flow{words}"
    return Figure(f"speed_{which}", label, value, Q.PRESSURE, trail, value >= wanted_pa, "at least {W}", limit)


def _tank(survey: BoosterSurvey, choices: BoosterChoices, values: dict[str, float]) -> tuple[Figure, ...]:
    """What the tank gives between the two pressures, beside what each school asks."""
    if S.PRECHARGE not in values:
        return ()
    gives_m3, low_pa, high_pa = stored_m3(survey, values)
    cycle_s = 3600.0 / survey.pumping.starts_per_hour
    if survey.holds_constant:  # it slows down to the flow drawn before it stops, and waits before it does
        rest = min(rests(survey, choices, values), key=lambda each: each.cycle_s(0.0))
        rate, by_starts_m3 = rest.flow_m3s, rest.stored_for_m3(cycle_s, values[S.SLEEP_DELAY])
    elif S.CUT_OUT in values:
        rate, pumps, join_s = switched(survey, choices, values)
        by_starts_m3 = stored_for_m3(cycle_s, rate, pumps, join_s)
    else:
        rest = rest_by_flow(survey, values)
        rate, by_starts_m3 = rest.flow_m3s, rest.stored_for_m3(cycle_s, values[S.FLOW_DELAY])
    by_run_m3 = drawdown_for_run_m3(rate, choices.rules.least_run_s)
    needed_m3 = by_starts_m3 if choices.schools.tank is TankSchool.STARTS else by_run_m3
    terms = (
        term("V", "volume of the tank", survey.vessel.volume_m3, Q.VOLUME),
        term("P0", "precharge, gauge", values[S.PRECHARGE]),
        term("P1", "pressure at which pumps come back, gauge", low_pa),
        term("P2", "pressure at which they stop, gauge", high_pa),
        term("a", "pressure of the air there", hydraulics(survey).air_pa),
    )
    result = term("D", "drawdown", gives_m3, Q.VOLUME)
    formula = "D = V · (P0 + a) · (1 / (max(P0, P1) + a) - 1 / (max(P0, P1, P2) + a))"
    trail = Trail(formula, terms, result, "Boyle, absolute pressures")
    limits = (term("S", "", by_starts_m3, Q.VOLUME), term("R", "", by_run_m3, Q.VOLUME))
    keeps = gives_m3 >= needed_m3 * (1.0 - 1e-6)
    text = "{S} by starts, {R} by least run"
    return (Figure("drawdown", "Drawdown of the tank", gives_m3, Q.VOLUME, trail, keeps, text, limits),)


def _starts(survey: BoosterSurvey, choices: BoosterChoices, values: dict[str, float]) -> tuple[Figure, ...]:
    """Most starts an hour of one pump, at the demand that makes most; no turn is credited, for one pump may be out."""
    hour = term("h", "an hour", 3600.0, Q.TIME)
    worst = most_starts(survey, choices, values)
    if worst.short_stops:
        terms: tuple[Term, ...] = (term("w", "sleep delay", worst.delay_s, Q.TIME), hour)
        formula, says = "S = h/w", "each short stop ends in a start while little is drawn"
    elif worst.rest is not None:
        terms = (
            term("D", "water the tank gives between stop and start", worst.rest.stored_m3, Q.VOLUME),
            term("q", "largest flow at which it stops", worst.rest.flow_m3s, Q.FLOW),
            term("r", "refilling", worst.rest.refill_s, Q.TIME), term("w", "delay before it stops", worst.delay_s, Q.TIME), hour,
        )  # fmt: skip
        formula, says = "S = h/(D/q + r + w)", "drawdown, refill and delay, at the demand that makes most starts"
    else:
        terms = (
            term("D", "water the tank gives between stop and start", worst.stored_m3, Q.VOLUME),
            term("q", "mean rate of a pump between the two pressures, highest supply", worst.rate_m3s, Q.FLOW), hour,
        )  # fmt: skip
        formula, says = "S = h/(4 · D/q)", "worst at half the rate of the pump"
        if worst.pumps > 1:
            n = float(worst.pumps)
            terms += (
                term("n", "pumps that join and stop together", n, Q.COUNT), term("k", "one of them less", n - 1.0, Q.COUNT),
                term("j", "join delay", worst.delay_s, Q.TIME),
            )  # fmt: skip
            formula, says = "S = h/(D/q · n/k + k · j)", "worst just over what one pump less gives"
    trail = Trail(formula, terms, term("S", "starts", worst.per_hour, Q.STARTS), says)
    limit = (term("A", "", survey.pumping.starts_per_hour, Q.STARTS),)
    keeps = worst.per_hour <= survey.pumping.starts_per_hour * (1.0 + 1e-6)
    return (
        Figure("starts_worst", "Most starts of a pump", worst.per_hour, Q.STARTS, trail, keeps, "at most {A} (maker)", limit),
    )


def _velocity(survey: BoosterSurvey) -> Figure:
    hyd, flow = hydraulics(survey), survey.demand.design_m3s
    value = hyd.pipe.velocity_ms(flow)
    terms = (term("Q", "design flow", flow, Q.FLOW), term("A", "area of the pipe", hyd.pipe.area_m2, Q.AREA))
    trail = Trail("v = Q/A", terms, term("v", "velocity", value, Q.VELOCITY), "continuity")
    limit = (term("L", "", VELOCITY_HIGH_MS, Q.VELOCITY),)
    return Figure(
        "velocity", "Velocity in the pipe", value, Q.VELOCITY, trail, value <= VELOCITY_HIGH_MS, "at most {L}", limit
    )


def _full_speed(survey: BoosterSurvey, values: dict[str, float]) -> Figure:
    """What presses on the weakest part if a drive is left at full speed with every outlet closed."""
    hyd = hydraulics(survey)
    speed, part = values.get(S.MOST_SPEED, values.get(S.FIXED_SPEED, 1.0)), hyd.weakest
    at_sensor_pa = hyd.delivered_pa(0.0, 1, hyd.suction_high_pa, speed)
    value = at_sensor_pa + part.down_pa
    terms = (
        term("s", "highest suction pressure", hyd.suction_high_pa),
        term("z", "shut-off head at the most speed", at_sensor_pa - hyd.suction_high_pa),
        term("c", f"column from the sensor down to it: {part.name}", part.down_pa),
    )
    trail = Trail("p = s + z + c", terms, term("p", "pressure", value), "pump curve, affinity")
    limit = (term("W", "", part.rating_pa),)
    return Figure(
        "full_speed", f"Pressure at most speed, outlets closed, at the {part.name}", value, Q.PRESSURE, trail,
        value <= part.rating_pa, "at most {W}", limit,
    )  # fmt: skip


def _shocks(survey: BoosterSurvey) -> tuple[Figure, Figure]:
    """What a stop within one pipe period would add, and how long such a period is."""
    hyd, outlets = hydraulics(survey), survey.outlets
    velocity = hyd.pipe.velocity_ms(survey.demand.design_m3s)
    wave = term("a", "speed of a pressure wave in the pipe", outlets.wave_ms, Q.VELOCITY)
    value = joukowsky_pa(hyd.density_kgm3, outlets.wave_ms, velocity)
    terms = (
        term("r", "density", hyd.density_kgm3, Q.DENSITY), wave, term("v", "velocity at design flow", velocity, Q.VELOCITY)
    )  # fmt: skip
    trail = Trail("p = r · a · v", terms, term("p", "shock", value), "Joukowsky: all flow stopped within one pipe period")
    period_s = pipe_period_s(outlets.length_m, outlets.wave_ms)
    length = term("L", "length of pipe", outlets.length_m, Q.LENGTH)
    period = Trail("t = 2 · L/a", (length, wave), term("t", "pipe period", period_s, Q.TIME), "there and back")
    return (
        Figure("surge", "Shock of a sudden stop, at most", value, Q.PRESSURE, trail),
        Figure("pipe_period", "Pipe period: no change of flow should be as quick", period_s, Q.TIME, period),
    )


def _power(survey: BoosterSurvey, values: dict[str, float]) -> tuple[Figure, ...]:
    hyd, mean, held_pa = hydraulics(survey), survey.demand.mean_m3s, _held_pa(values)
    if survey.holds_constant:
        ways = [hyd.holding(held_pa, hyd.suction_low_pa, mean, n) for n in range(1, survey.pumping.duty_count + 1)]
        able = [holding for holding in ways if holding.feasible]
        if not able:
            return ()
        best = min(able, key=lambda holding: holding.power_w)
        power, flow = best.power_w, mean
        several = f"{best.pumps} pumps" if best.pumps > 1 else "one pump"
        words = f"power of {several} at mean flow, lowest suction"
    else:  # one speed: a pump works at its own flow, not at the users'
        speed = values.get(S.FIXED_SPEED, 1.0)
        high_pa = values.get(S.CUT_OUT, hyd.shut_off_pa())
        flow = mean_rate_m3s(hyd, speed, values[S.CUT_IN], high_pa, values.get(S.PRECHARGE, 0.0), high_supply=False)
        if flow <= 0.0:
            return ()
        power, words = hyd.power_w(flow, speed), "power of one pump at its mean rate between the two pressures"
    value = power / flow
    terms = (
        term("P", words, power, Q.POWER),
        term("Q", "mean flow" if survey.holds_constant else "that mean rate, lowest supply", flow, Q.FLOW),
    )
    says = "maker's power curve, affinity" if hyd.knows_power else "power estimated from the nameplate"
    trail = Trail("e = P/Q", terms, term("e", "energy for each cubic metre", value, Q.ENERGY_PER_VOLUME), says)
    return (Figure("energy", "Energy at mean flow", value, Q.ENERGY_PER_VOLUME, trail),)


def _best(survey: BoosterSurvey, values: dict[str, float]) -> tuple[Figure, ...]:
    """Where a pump works at design flow, against its flow of best efficiency."""
    hyd = hydraulics(survey)
    best = hyd.best_flow_m3s
    if best is None:
        return ()
    duty, design = survey.pumping.duty_count, survey.demand.design_m3s
    if survey.holds_constant:
        speed, each = hyd.speed(hyd.added_m(_held_pa(values), hyd.suction_low_pa), design, duty), design / duty
    else:
        speed = values.get(S.FIXED_SPEED, 1.0)
        each = hyd.flow_at(speed, hyd.added_m(values[S.CUT_IN], hyd.suction_low_pa))
    if not 0.0 < speed <= 1.0:
        return ()
    value = each / speed / best
    terms = (
        term("q", "flow of each pump" + (" at design flow" if survey.holds_constant else " at cut-in"), each, Q.FLOW),
        term("n", "its speed", speed, Q.PERCENT), term("b", "flow of best efficiency at full speed", best, Q.FLOW),
    )  # fmt: skip
    trail = Trail("k = q/(n · b)", terms, term("k", "share", value, Q.PERCENT), "preferred range of operation, ANSI/HI 9.6.3")
    low, high = BEST_SHARES
    limits = (term("L", "", low, Q.PERCENT), term("H", "", high, Q.PERCENT))
    label = "Flow of a pump, of its best-efficiency flow"
    return (Figure("best_share", label, value, Q.PERCENT, trail, low <= value <= high, "{L} to {H}", limits),)
