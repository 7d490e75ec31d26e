"""What follows from the whole plan of a lift station: figures with their limits."""

import math

from goodbalance.core.balance.plan import Figure
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.physics.surge import joukowsky_pa, pipe_period_s
from goodbalance.core.physics.water import water_at
from goodbalance.core.physics.wells import cycle_s, shortest_cycle_s
from goodbalance.core.stations.lift.names import Role, last_start
from goodbalance.core.stations.lift.windows.bands import Bands, Levels
from goodbalance.core.stations.lift.windows.ladder import Ladder

SLICES = 8  # of the band, for the rate at mean inflow
BEST_SHARES = (0.7, 1.2)  # preferred range of operation around the best-efficiency flow, ANSI/HI 9.6.3


def figures(ladder: Ladder, levels: Levels) -> tuple[Figure, ...]:
    """The consequences a technician checks before leaving: starts, cycle, detention, storage, velocity, capacity."""
    return (
        *_starts(ladder, levels),
        *_detentions(ladder, levels),
        _storage(ladder, levels),
        *_velocities(ladder),
        *_best(ladder, levels),
        _firm(ladder),
        *_shocks(ladder),
    )


def _active_m3(ladder: Bands, levels: Levels) -> float:
    well = ladder.hydraulics.well
    stop_m = levels.get(Role.STOP, ladder.maker_submergence.value)  # floats alone may stop the pumps by time
    return max(0.0, well.volume_m3(levels[Role.START_1]) - well.volume_m3(stop_m))


def worst_starts(ladder: Bands, levels: Levels) -> float:
    """Most starts of one healthy pump within an hour: at the worst inflow, alternation credited where the school does."""
    shortest_s = shortest_cycle_s(_active_m3(ladder, levels), ladder.duty_m3s) if ladder.duty_m3s > 0.0 else math.inf
    return 3600.0 / shortest_s / ladder.shares_starts if shortest_s > 0.0 else math.inf


def _usual_rate_m3s(ladder: Ladder, levels: Levels) -> float:
    """The rate that empties the band in the time the strongest pump really takes at mean inflow, as it slows down with
    the level: i + V / sum of dV/(q(h) - i), in slices of equal volume."""
    hyd, mean_m3s = ladder.hydraulics, ladder.survey.inflow.mean_m3s
    stop_m = levels.get(Role.STOP, ladder.maker_submergence.value)
    below_m3, active_m3 = hyd.well.volume_m3(stop_m), _active_m3(ladder, levels)
    part_m3, time_s = active_m3 / SLICES, 0.0
    for step in range(SLICES):
        level_m = hyd.well.level_m(below_m3 + part_m3 * (step + 0.5))
        spare_m3s = hyd.strongest_m3s(1, level_m) - mean_m3s
        if spare_m3s <= 0.0:
            return hyd.strongest_m3s(1, level_m)
        time_s += part_m3 / spare_m3s
    return mean_m3s + active_m3 / time_s if time_s > 0.0 else hyd.strongest_m3s(1, stop_m)


def _starts(ladder: Ladder, levels: Levels) -> tuple[Figure, ...]:
    active_m3, duty_m3s = _active_m3(ladder, levels), ladder.duty_m3s
    mean_m3s, pumps = ladder.survey.inflow.mean_m3s, ladder.taking_turns
    volume = Term("V", "volume between stop and duty start", active_m3, Q.VOLUME)
    rate = Term("Q", "largest rate of one pump", duty_m3s, Q.FLOW)
    permitted = Term("N", "permitted", ladder.starts_per_hour, Q.STARTS)
    credited = worst_starts(ladder, levels)
    worst = credited * ladder.shares_starts
    usual_m3s = _usual_rate_m3s(ladder, levels)
    mean_s = cycle_s(active_m3, usual_m3s, mean_m3s)
    usual = Term("q", "rate of one pump on its way from start to stop at that inflow", usual_m3s, Q.FLOW)
    spread = Term("n", "pumps sharing the starts", pumps, Q.COUNT)
    worst_result = Term("S", "starts per hour", worst, Q.STARTS)
    return (
        Figure(
            "starts_worst",
            "Starts at the worst inflow, one pump in service",
            worst,
            Q.STARTS,
            Trail(
                "S = 3600 · Q / (4 · V)",
                (volume, rate),
                worst_result,
                "shortest cycle 4 V / Q, at an inflow of half the pump rate",
            ),
            credited <= ladder.starts_per_hour * 1.0001,
            "at most {N}" + (" per pump with alternation credited" if ladder.shares_starts > 1 else ""),
            (permitted,),
        ),
        Figure(
            "starts_shared",
            "The same with all pumps alternating",
            worst / pumps,
            Q.STARTS,
            Trail(
                "s = S / n",
                (worst_result, spread),
                Term("s", "starts per hour and pump", worst / pumps, Q.STARTS),
                "each pump sees every n-th start",
            ),
            worst / pumps <= ladder.starts_per_hour * 1.0001,
            "at most {N}",
            (permitted,),
        ),
        Figure(
            "cycle_mean",
            "Cycle at mean inflow",
            mean_s,
            Q.DURATION,
            Trail(
                "T = V / i + V / (q - i)",
                (volume, Term("i", "mean inflow", mean_m3s, Q.FLOW), usual),
                Term("T", "cycle", mean_s, Q.DURATION),
                "fill time plus emptying time",
            ),
            mean_m3s < usual_m3s,
            "mean inflow below the rate of one pump",
        ),
    )


def _detentions(ladder: Ladder, levels: Levels) -> tuple[Figure, ...]:
    """At mean inflow, and at the lowest where any comes in at all."""
    inflow, rules = ladder.survey.inflow, ladder.choices.rules
    found = [_detention(ladder, levels, "detention", "mean", inflow.mean_m3s, rules.detention_s)]
    if inflow.min_m3s > 0.0:
        found.append(_detention(ladder, levels, "detention_low", "lowest", inflow.min_m3s, rules.detention_low_s))
    return tuple(found)


def _detention(ladder: Ladder, levels: Levels, figure: str, name: str, flow_m3s: float, limit_s: float) -> Figure:
    active_m3, main_m3 = _active_m3(ladder, levels), ladder.counted_main_m3
    detention_s = (active_m3 + main_m3) / flow_m3s
    terms = (
        Term("V", "volume between stop and duty start", active_m3, Q.VOLUME),
        Term("M", "content of the rising main, as counted", main_m3, Q.VOLUME),
        Term("i", f"{name} inflow", flow_m3s, Q.FLOW),
    )
    trail = Trail("t = (V + M) / i", terms, Term("t", "detention", detention_s, Q.DURATION), "rule of thumb")
    limit = (Term("L", "limit", limit_s, Q.DURATION),)
    keeps = detention_s <= limit_s * 1.0001
    return Figure(figure, f"Detention at {name} inflow", detention_s, Q.DURATION, trail, keeps, "at most {L}", limit)


def _shocks(ladder: Ladder) -> tuple[Figure, Figure]:
    """What a stop of all pumps within one pipe period would add, and how long such a period is."""
    hyd, main = ladder.hydraulics, ladder.survey.main
    flow_m3s = hyd.strongest_m3s(hyd.duty_count, hyd.fast_level_m)
    density, velocity = water_at(main.temperature_c).density_kgm3, hyd.main.velocity_ms(flow_m3s)
    value = joukowsky_pa(density, main.wave_ms, velocity)
    wave = Term("a", "speed of a pressure wave in the main", main.wave_ms, Q.VELOCITY)
    terms = (Term("r", "density", density, Q.DENSITY), wave, Term("v", "velocity, all pumps", velocity, Q.VELOCITY))
    trail = Trail("p = r · a · v", terms, Term("p", "shock", value, Q.PRESSURE), "Joukowsky: all flow stopped within one pipe period")
    period_s = pipe_period_s(main.length_m, main.wave_ms)
    period = Trail("t = 2 · L / a", (Term("L", "length of main", main.length_m, Q.LENGTH), wave), Term("t", "pipe period", period_s, Q.TIME), "there and back")
    return (
        Figure("surge", "Shock of a sudden stop, at most", value, Q.PRESSURE, trail),
        Figure("pipe_period", "Pipe period: no stop should be as quick", period_s, Q.TIME, period),
    )


def _best(ladder: Ladder, levels: Levels) -> tuple[Figure, ...]:
    """Where each pump that tells its flow of best efficiency works, half way between stop and start."""
    hyd, found = ladder.hydraulics, []
    stop_m = levels.get(Role.STOP, ladder.maker_submergence.value)
    level_m = (stop_m + levels[Role.START_1]) / 2.0
    low, high = BEST_SHARES
    limits = (Term("L", "lowest", low, Q.PERCENT), Term("H", "highest", high, Q.PERCENT))
    for index, pump in enumerate(ladder.survey.pumps):
        if pump.best_flow_m3s is None or (ladder.survey.pumping.twins and index):
            continue
        flow_m3s = hyd.point((index,), level_m).flow_m3s
        value = flow_m3s / pump.best_flow_m3s
        terms = (
            Term("q", "its flow alone, half way between stop and start", flow_m3s, Q.FLOW),
            Term("b", "flow of best efficiency", pump.best_flow_m3s, Q.FLOW),
        )
        trail = Trail("k = q / b", terms, Term("k", "share", value, Q.PERCENT), "preferred range of operation, ANSI/HI 9.6.3")
        label = "Flow of a pump, of its best-efficiency flow" if ladder.survey.pumping.twins else f"Flow of pump {index + 1}, of its best-efficiency flow"
        found.append(Figure(f"best_share_{index + 1}", label, value, Q.PERCENT, trail, low <= value <= high, "{L} to {H}", limits))
    return tuple(found)


def _storage(ladder: Ladder, levels: Levels) -> Figure:
    well, survey = ladder.hydraulics.well, ladder.survey
    top = Role.HIGH_ALARM if Role.HIGH_ALARM in levels else last_start(levels)
    name = "high alarm" if top == Role.HIGH_ALARM else "last start"
    left_m3 = max(0.0, well.volume_m3(survey.inlet.overflow_m) - well.volume_m3(levels[top]))
    time_s, response_s = left_m3 / survey.inflow.peak_m3s, survey.demands.response_s
    terms = (
        Term("V", f"volume from {name} to overflow", left_m3, Q.VOLUME),
        Term("i", "peak inflow, no pump running", survey.inflow.peak_m3s, Q.FLOW),
    )
    trail = Trail("t = V / i", terms, Term("t", "time to overflow", time_s, Q.DURATION), "survey")
    return Figure(
        "storage",
        f"Time from {name} to overflow",
        time_s,
        Q.DURATION,
        trail,
        time_s >= response_s * 0.9999,
        "at least {R}",
        (Term("R", "response time", response_s, Q.DURATION),),
    )


def _velocities(ladder: Ladder) -> tuple[Figure, ...]:
    hyd, rules, found = ladder.hydraulics, ladder.choices.rules, []
    limits = (
        Term("L", "lowest", rules.velocity_low_ms, Q.VELOCITY),
        Term("H", "highest", rules.velocity_high_ms, Q.VELOCITY),
    )
    for count in range(1, hyd.duty_count + 1):
        flow_m3s = hyd.strongest_m3s(count, hyd.fast_level_m)
        velocity_ms = hyd.main.velocity_ms(flow_m3s)
        terms = (
            Term("Q", f"flow of {count} pump{'s' if count > 1 else ''}", flow_m3s, Q.FLOW),
            Term("D", "inner diameter", hyd.main.diameter_m, Q.SMALL_LENGTH),
        )
        trail = Trail(
            "v = 4 · Q / (3.1416 · D · D)", terms, Term("v", "velocity", velocity_ms, Q.VELOCITY), "continuity"
        )
        keeps = rules.velocity_low_ms <= velocity_ms <= rules.velocity_high_ms
        label = "Velocity in the main, one pump" if count == 1 else f"Velocity in the main, {count} pumps"
        found.append(Figure(f"velocity_{count}", label, velocity_ms, Q.VELOCITY, trail, keeps, "{L} to {H}", limits))
    return tuple(found)


def _firm(ladder: Ladder) -> Figure:
    firm_m3s, peak_m3s = ladder.hydraulics.firm_m3s(), ladder.survey.inflow.peak_m3s
    term = Term("F", "all pumps but the strongest, at the lowest level", firm_m3s, Q.FLOW)
    return Figure(
        "firm",
        "Firm capacity, strongest pump out",
        firm_m3s,
        Q.FLOW,
        Trail("F = F", (term,), term, "operating point of the remaining pumps on the main"),
        firm_m3s >= peak_m3s,
        "at least peak inflow {P}",
        (Term("P", "peak inflow", peak_m3s, Q.FLOW),),
    )
