"""What follows from the whole plan of a maintenance pump: shut-off against ratings, what it makes good, starts for its leak."""

import math
from collections.abc import Iterator

from goodbalance.core.balance.plan import Figure, Plan
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.names import main_start
from goodbalance.core.stations.maintenance.plant.hydraulics import MaintenanceHydraulics, hydraulics
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey


def figures(survey: MaintenanceSurvey, choices: MaintenanceChoices, plan: Plan) -> tuple[Figure, ...]:
    """Every consequence, pressures first."""
    hyd = hydraulics(survey)
    return (*_pressures(hyd, choices), *_flows(hyd, choices, plan), *_leaks(hyd, plan))


def _pressures(hyd: MaintenanceHydraulics, choices: MaintenanceChoices) -> Iterator[Figure]:
    for high, name in ((False, "lowest"), (True, "highest")):
        terms = Term("c", "what a main pump adds without flow", hyd.survey.mains.churn_pa, Q.PRESSURE), Term("s", f"{name} pressure of the supply", hyd.supply_pa(high), Q.PRESSURE)
        trail = Trail("p = c + s", terms, Term("p", "", hyd.churn_pa(high), Q.PRESSURE), "test sheet of the main pump")
        yield Figure(f"churn_{name}", f"Main pump's churn, {name} supply", hyd.churn_pa(high), Q.PRESSURE, trail)
    limit_pa, part = min((choices.rules.rating_share * rating - down, name) for name, rating, down in hyd.rated_parts)
    most_pa = hyd.shut_off_pa(True)
    terms2 = (
        Term("s", "highest pressure of the supply", hyd.supply_pa(True), Q.PRESSURE), Term("H", "shut-off head", hyd.a, Q.HEAD), Term("g", "weight of water over that of its head, Pa/m", hyd.weight, Q.RATIO),
    )  # fmt: skip
    trail = Trail("p = s + g · H", terms2, Term("p", "", most_pa, Q.PRESSURE), "pump curve")
    limit = (Term("r", f"{part}, at the sensor", limit_pa, Q.PRESSURE),)
    yield Figure("shut_off_high", "Its shut-off, highest supply", most_pa, Q.PRESSURE, trail, most_pa <= limit_pa, "a least run carries it there: at most {r}", limit)


def _flows(hyd: MaintenanceHydraulics, choices: MaintenanceChoices, plan: Plan) -> Iterator[Figure]:
    """Enough for the permitted leak, too little to hide a sprinkler."""
    line, supply = hyd.survey.line, (hyd.supply_pa(False), hyd.supply_pa(True))
    stop_pa, main_pa = plan.value(S.STOP_PRESSURE, 0.0), plan.value(main_start(1), 0.0)
    gives, hour_m3 = hyd.gives_m3s(stop_pa, supply[0]), 3600.0 * line.permitted_m3s
    needed = hour_m3 / choices.rules.makes_good_s
    terms = (Term("q", "what it gives at the stop, lowest supply", gives, Q.FLOW), Term("l", "stop pressure", stop_pa, Q.PRESSURE))
    trail = Trail("q = q", terms, Term("q", "", gives, Q.FLOW), "pump curve")
    limit = (Term("n", "an hour's permitted leak in the rule's time", needed, Q.FLOW),)
    yield Figure("makes_good", "It gives at the stop", gives, Q.FLOW, trail, gives >= needed, "at least {n}: an hour's permitted leak in the rule's time", limit)
    most, small = hyd.gives_m3s(main_pa, supply[1]), hyd.sprinkler_m3s(main_pa)
    terms = (Term("q", "what it gives at the main pump's start, highest supply", most, Q.FLOW), Term("m", "start of the first main pump", main_pa, Q.PRESSURE))
    trail = Trail("q = q", terms, Term("q", "", most, Q.FLOW), "pump curve")
    yield Figure("under_sprinkler", "It gives at the main pump's start", most, Q.FLOW, trail, most < small, "less than the {k} of one sprinkler, or it hides a fire", (Term("k", "", small, Q.FLOW),))


def _leaks(hyd: MaintenanceHydraulics, plan: Plan) -> Iterator[Figure]:
    """Starts for the leak alone, as it is and as permitted."""
    line, limit = hyd.survey.line, (Term("m", "", hyd.survey.pumping.starts_per_hour, Q.STARTS),)
    named = (("leak_starts", "Starts for its leak, as it is", line.leak_m3s), ("permitted_starts", "Starts for the permitted leak", line.permitted_m3s))
    for name, label, told in named:
        if told <= 0.0:
            continue
        cycle_s = leak_cycle_s(hyd, plan, told)
        starts = 3600.0 / cycle_s if cycle_s < math.inf else 0.0
        terms = Term("c", "sag to the start, start delay, and the run", cycle_s, Q.TIME), Term("q", "leak", told, Q.LEAK)
        trail = Trail("n = 3600 / c", terms, Term("n", "", starts, Q.STARTS), "stiffness and leak of the line")
        yield Figure(name, label, starts, Q.STARTS, trail, starts <= hyd.survey.pumping.starts_per_hour * 1.0001, "at most {m}", limit)


def leak_cycle_s(hyd: MaintenanceHydraulics, plan: Plan, told_m3s: float) -> float:
    """From start to start of a line that only leaks: it sags from where the run left it to the start, the delay counts, it runs. [s]

    A run without a least time ends at the stop, but for what the line climbs while the controller reacts. Source: sag and fill of the closed line.
    """
    sensor = hyd.survey.sensor
    sees_s = sensor.filter_s + 0.5 * sensor.scan_s  # so far its reading is behind, in the middle
    stop_pa, start_pa, delay_s = plan.value(S.STOP_PRESSURE, 0.0), plan.value(S.START_PRESSURE, 0.0), plan.value(S.ON_DELAY, 0.0) + sees_s
    below_pa = sagged_pa(hyd, start_pa, delay_s, told_m3s)
    fills_s = hyd.fills_s(below_pa, stop_pa, False, told_m3s)
    runs_s = max(fills_s + sees_s, plan.value(S.LEAST_RUN, 0.0)) + sensor.run_down_s
    top_pa = risen_pa(hyd, below_pa, runs_s, told_m3s)
    return hyd.sags_s(top_pa, start_pa, told_m3s) + delay_s + runs_s


def sagged_pa(hyd: MaintenanceHydraulics, from_pa: float, time_s: float, told_m3s: float) -> float:
    """Where the closed line stands after leaking for a time, marched in 32 parts. [Pa, s]"""
    pressure_pa, part_s = from_pa, time_s / 32.0
    for _ in range(32):
        pressure_pa = max(hyd.supply_pa(False), pressure_pa - hyd.leaks_m3s(pressure_pa, told_m3s) / hyd.stores_m3pa(pressure_pa) * part_s)
    return pressure_pa


def risen_pa(hyd: MaintenanceHydraulics, from_pa: float, time_s: float, told_m3s: float) -> float:
    """Where the pump brings the line in a time with the lowest supply: by equal steps of pressure towards where it settles. [Pa, s]"""
    top_pa = hyd.settles_pa(False, told_m3s)
    if top_pa <= from_pa:
        return from_pa
    left_s, pressure_pa, step_pa = time_s, from_pa, (top_pa - from_pa) / 400.0
    for _ in range(399):
        middle = pressure_pa + 0.5 * step_pa
        net = hyd.gives_m3s(middle, hyd.supply_pa(False)) - hyd.leaks_m3s(middle, told_m3s)
        takes_s = hyd.stores_m3pa(middle) * step_pa / net if net > 0.0 else math.inf
        if takes_s >= left_s:
            return pressure_pa + step_pa * left_s / takes_s
        left_s, pressure_pa = left_s - takes_s, pressure_pa + step_pa
    return top_pa
