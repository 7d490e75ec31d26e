"""What follows from the whole plan of a transfer set: running pressures, overshoot, starts, fill times, energy, age of the water."""

import math
from collections.abc import Iterator

from goodbalance.core.balance.plan import Figure, Plan
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.closing import PARTS, shock_pa, worst_closing
from goodbalance.core.stations.transfer.plant.hydraulics import TransferHydraulics, hydraulics
from goodbalance.core.stations.transfer.survey.choices import DelayFrom, TransferChoices
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey


def figures(survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> tuple[Figure, ...]:
    """Every consequence, pressures first."""
    hyd = hydraulics(survey)
    return (*_pressures(hyd, choices, plan), *_filling(hyd), *_water(hyd, choices, plan))


def _pressures(hyd: TransferHydraulics, choices: TransferChoices, plan: Plan) -> Iterator[Figure]:
    survey, low, high = hyd.survey, hyd.lowest_running, hyd.highest_running
    span = (("lowest", low, "one pump, source at its lowest"), ("highest", high, "all duty pumps, source at its highest"))
    for name, (pressure_pa, way), how in span:
        tanks = " and ".join(survey.tank_name(tank + 1) for tank in way)
        terms = Term("s", f"standing column of what is open: {tanks}", min(hyd.columns_pa[tank] for tank in way), Q.PRESSURE), Term("f", "friction of line, branch and valve", pressure_pa - min(hyd.columns_pa[tank] for tank in way), Q.PRESSURE)
        yield Figure(f"running_{name}", f"{name.capitalize()} running pressure", pressure_pa, Q.PRESSURE, Trail("p = s + f", terms, Term("p", how, pressure_pa, Q.PRESSURE), "balance of pump curve, line and valves"))
    most_pa, limits = hyd.shut_off_pa(True), [(rating * choices.rules.rating_share - down, name) for name, rating, down in hyd.rated_parts]
    limit_pa, part = min(limits)
    rated = (Term("r", f"{part}, at the sensor", limit_pa, Q.PRESSURE),)
    trail = Trail("p = g · (z + H)", (Term("g", "weight of the liquid, Pa/m", hyd.weight, Q.RATIO), *_reach(hyd)), Term("p", "", most_pa, Q.PRESSURE), "pump curve")
    yield Figure("shut_off_high", "Shut-off pressure, source at its highest", most_pa, Q.PRESSURE, trail, most_pa <= limit_pa, "the stop is no protection: at most {r}", rated)
    if S.STOP_PRESSURE not in plan:
        return
    stop_pa = plan.setting(S.STOP_PRESSURE).value
    worst = worst_closing(hyd, stop_pa)
    shock = max(shock_pa(hyd, tank) for tank in range(len(hyd.branches)))
    peak_pa = stop_pa + worst.past_pa + shock
    reacts = Term("t", "so long it goes on: filter, scan and run-down", survey.sensor.reacts_s, Q.TIME)
    marched = Term("m", "the highest pressure, marched", stop_pa + worst.past_pa, Q.PRESSURE)
    trail = Trail("d = m - s", (Term("s", "stop pressure", stop_pa, Q.PRESSURE), marched, reacts), Term("d", "", worst.past_pa, Q.PRESSURE), f"pump curve against the closing valve of {survey.tank_name(worst.tank + 1)}, marched; nobody draws")
    yield Figure("overshoot", "Past the stop", worst.past_pa, Q.PRESSURE, trail)
    trail = Trail("p = s + d + J", (Term("s", "stop pressure", stop_pa, Q.PRESSURE), Term("d", "past the stop", worst.past_pa, Q.PRESSURE), Term("J", "shock of the closing valve", shock, Q.PRESSURE)), Term("p", "", peak_pa, Q.PRESSURE), "Joukowsky 1898, Michaud 1878")
    yield Figure("peak", "Highest pressure at a stop", peak_pa, Q.PRESSURE, trail, peak_pa <= limit_pa, "at most {r}", rated)
    if survey.pumping.least_flow_m3s > 0.0:
        trail = Trail("t = m", (Term("m", "marched: so long the valve lets less through", worst.starved_s, Q.DURATION), Term("q", "least flow of the pump", survey.pumping.least_flow_m3s, Q.FLOW), Term("k", "its water warms by, kelvin", worst.warms_k, Q.RATIO)), Term("t", "", worst.starved_s, Q.DURATION), "closing valve, pump curve")
        limit = (Term("w", "", survey.pumping.warm_k, Q.RATIO),)
        yield Figure("starved", "On less than its least flow while a valve closes", worst.starved_s, Q.DURATION, trail, worst.warms_k <= survey.pumping.warm_k, "its water may warm by {w} K", limit)


def _reach(hyd: TransferHydraulics) -> tuple[Term, Term]:
    levels = hyd.sources_m(True)
    most = max(hyd.pumps, key=lambda pump: levels[pump.source] + pump.a)
    return Term("z", "water of its source over the sensor", levels[most.source] - hyd.sensor_m, Q.HEAD), Term("H", "shut-off head", most.a, Q.HEAD)


def _filling(hyd: TransferHydraulics) -> Iterator[Figure]:
    """Each tank alone: how long what its valve lets fall takes, and what a cubic metre costs."""
    survey = hyd.survey
    for tank, branch in enumerate(hyd.branches):
        facts, number = branch.tank, tank + 1
        rate = hyd.alone_m3s(tank)
        volume_m3 = facts.volume_m3(facts.reopens_m, facts.closes_m) if survey.control.by_pressure else facts.volume_m3(facts.outlet_m, facts.overflow_m)
        terms = Term("V", "what its valve lets the level fall" if survey.control.by_pressure else "from empty to the overflow", volume_m3, Q.VOLUME), Term("q", "what the weakest pump brings", rate, Q.FLOW), Term("n", "mean draw", facts.mean_m3s, Q.FLOW)
        net = rate - facts.mean_m3s
        time_s = volume_m3 / net if net > 0.0 else math.inf
        yield Figure(f"fill_{number}", f"Filling {survey.tank_name(number)} alone", time_s, Q.DURATION, Trail("t = V / (q - n)", terms, Term("t", "", time_s, Q.DURATION), "survey"), net > 0.0, "must end: more must come than is drawn")
    flows = hyd.running(hyd.ways[-1], hyd.duty[:1], False)
    power_w = hyd.pumps[0].curves.power_w(flows.pumped_m3s[0])
    each = power_w / max(flows.total_m3s, 1e-9)
    terms2 = Term("P", "what pump 1 takes", power_w, Q.POWER), Term("q", "what it brings, all open", flows.total_m3s, Q.FLOW)
    yield Figure("energy", "Energy of the water", each, Q.ENERGY_PER_VOLUME, Trail("e = P / q", terms2, Term("e", "", each, Q.ENERGY_PER_VOLUME), "pump curve"))


def leak_starts(hyd: TransferHydraulics, choices: TransferChoices, plan: Plan, leaks: float = 1.0) -> float:
    """Starts an hour of a line that nobody draws from: it sags to the restart, the delay counts, the pump fills it in a moment. leaks: times its leak.

    A stiff line goes on to the shut-off pressure while the set reacts, and sags from there. Source: sag of the closed line.
    """
    stop_pa, restart_pa, delay_s = plan.value(S.STOP_PRESSURE, 0.0), plan.value(S.RESTART_PRESSURE, 0.0), plan.value(S.RESTART_DELAY, 0.0)
    if S.RESTART_PRESSURE not in plan:
        return 3600.0 / max(delay_s, 1.0)
    filled_pa, fills_s = refilled(hyd, restart_pa, stop_pa)
    sags_s = hyd.sags_s(filled_pa, restart_pa, leaks)
    cycle_s = max(sags_s, delay_s) + fills_s if choices.schools.delay_from is DelayFrom.STOP else sags_s + delay_s + fills_s
    return 3600.0 / cycle_s if cycle_s < math.inf else 0.0


def refilled(hyd: TransferHydraulics, restart_pa: float, stop_pa: float) -> tuple[float, float]:
    """Where the weakest pump brings the closed line at the lowest source, and how long it runs for it: to the stop, and on while the set reacts. [Pa, s]"""
    levels, reacts_s = hyd.sources_m(False), hyd.survey.sensor.reacts_s
    weakest = min(hyd.pumps, key=lambda pump: levels[pump.source] + pump.a)
    most_pa, pressure_pa, time_s = hyd.column_pa(levels[weakest.source] + weakest.a), restart_pa, reacts_s
    step_pa = max(0.0, min(stop_pa, most_pa) - restart_pa) / PARTS
    for part in range(PARTS):
        middle_pa = restart_pa + (part + 0.5) * step_pa
        time_s += step_pa * hyd.stores_m3pa(middle_pa) / max(weakest.flow_m3s(hyd.head_m(middle_pa) - levels[weakest.source]), 1e-9)
    pressure_pa = min(stop_pa, most_pa)
    for _ in range(PARTS):
        gives = weakest.flow_m3s(hyd.head_m(pressure_pa) - levels[weakest.source])
        pressure_pa = min(most_pa, pressure_pa + gives / hyd.stores_m3pa(pressure_pa) * reacts_s / PARTS)
    return pressure_pa, time_s


def _water(hyd: TransferHydraulics, choices: TransferChoices, plan: Plan) -> Iterator[Figure]:
    survey = hyd.survey
    if survey.control.by_pressure and survey.line.leak_m3s > 0.0:
        starts = leak_starts(hyd, choices, plan)
        terms = Term("s", "stop pressure", plan.value(S.STOP_PRESSURE, 0.0), Q.PRESSURE), Term("r", "restart pressure", plan.value(S.RESTART_PRESSURE, 0.0), Q.PRESSURE), Term("t", "restart delay", plan.value(S.RESTART_DELAY, 0.0), Q.DURATION)
        cycle = Term("c", "from start to start: it sags from where it was filled to the restart, and the delay counts", 3600.0 / starts if starts > 0.0 else math.inf, Q.TIME)
        trail = Trail("n = 3600 / c", (*terms, cycle), Term("n", "", starts, Q.STARTS), "stiffness and leak of the closed line")
        limit = (Term("m", "", survey.pumping.starts_per_hour, Q.STARTS),)
        yield Figure("leak_starts", "Starts for its leak alone", starts, Q.STARTS, trail, starts <= survey.pumping.starts_per_hour, "at most {m}", limit)
    for tank, branch in enumerate(hyd.branches):
        facts = branch.tank
        if not survey.tanks.drinking or facts.mean_m3s <= 0.0:
            continue
        full_m = plan.value(f"stop_{tank + 1}", facts.closes_m)
        age_s = full_m * facts.area_m2 / facts.mean_m3s
        trail = Trail("t = h · a / q", (Term("h", "full level", full_m, Q.LEVEL), Term("a", "plan area", facts.area_m2, Q.AREA), Term("q", "mean draw", facts.mean_m3s, Q.FLOW)), Term("t", "", age_s, Q.DURATION), "whole volume over mean draw")
        limit = (Term("m", "", choices.rules.turnover_s, Q.DURATION),)
        yield Figure(f"age_{tank + 1}", f"Age of the water in {survey.tank_name(tank + 1)}", age_s, Q.DURATION, trail, age_s <= choices.rules.turnover_s, "at most {m}; local rule first", limit)
