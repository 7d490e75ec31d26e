"""What follows from the whole plan of a lift station, and what is wrong with it."""

import math

from goodbalance.core.balance.plan import Figure, Finding, Setting, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.physics.wells import cycle_s, shortest_cycle_s
from goodbalance.core.stations.lift.choices import OnSensorFailure
from goodbalance.core.stations.common_facts import controls_not_off
from goodbalance.core.stations.lift.bands import Levels
from goodbalance.core.stations.lift.ladder import Ladder
from goodbalance.core.stations.lift.sensing import WhoDecides
from goodbalance.core.stations.lift.survey import Entry, LiftSurvey


def figures(ladder: Ladder, levels: Levels) -> tuple[Figure, ...]:
    """The consequences a technician checks before leaving: starts, cycle, detention, storage, velocity, capacity."""
    return (
        *_starts(ladder, levels),
        _detention(ladder, levels),
        _storage(ladder, levels),
        *_velocities(ladder),
        _firm(ladder),
    )


def _active_m3(ladder: Ladder, levels: Levels) -> float:
    well = ladder.hydraulics.well
    stop_m = levels.get("stop", ladder.maker_submergence().value)  # floats alone may stop the pumps by time
    return max(0.0, well.volume_m3(levels["start_1"]) - well.volume_m3(stop_m))


def _starts(ladder: Ladder, levels: Levels) -> tuple[Figure, ...]:
    active_m3, duty_m3s = _active_m3(ladder, levels), ladder.duty_m3s
    mean_m3s, pumps = ladder.survey.inflow.mean_m3s, ladder.taking_turns()
    volume = Term("V", "volume between stop and duty start", active_m3, Q.VOLUME)
    rate = Term("Q", "largest rate of one pump", duty_m3s, Q.FLOW)
    permitted = Term("N", "permitted", ladder.starts_per_hour, Q.STARTS)
    shortest_s = shortest_cycle_s(active_m3, duty_m3s) if duty_m3s > 0.0 else math.inf
    worst = 3600.0 / shortest_s if shortest_s > 0.0 else math.inf
    mean_s = cycle_s(active_m3, duty_m3s, mean_m3s)
    spread = Term("n", "pumps sharing the starts", pumps, Q.COUNT)
    worst_result = Term("S", "starts per hour", worst, Q.STARTS)
    credited = worst / ladder.shares_starts
    return (
        Figure(
            "starts_worst",
            "Starts at the worst inflow, one pump in service",
            worst,
            Q.STARTS,
            Trail(
                "S = 1 / (4 · V / Q)",
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
                "T = V / i + V / (Q - i)",
                (volume, Term("i", "mean inflow", mean_m3s, Q.FLOW), rate),
                Term("T", "cycle", mean_s, Q.DURATION),
                "fill time plus emptying time",
            ),
            mean_m3s < duty_m3s,
            "mean inflow below the rate of one pump",
        ),
    )


def _detention(ladder: Ladder, levels: Levels) -> Figure:
    active_m3, main_m3, mean_m3s = _active_m3(ladder, levels), ladder.counted_main_m3, ladder.survey.inflow.mean_m3s
    detention_s, limit_s = (active_m3 + main_m3) / mean_m3s, ladder.choices.rules.detention_s
    terms = (
        Term("V", "volume between stop and duty start", active_m3, Q.VOLUME),
        Term("M", "content of the rising main, as counted", main_m3, Q.VOLUME),
        Term("i", "mean inflow", mean_m3s, Q.FLOW),
    )
    trail = Trail("t = (V + M) / i", terms, Term("t", "detention", detention_s, Q.DURATION), "rule of thumb")
    return Figure(
        "detention",
        "Detention at mean inflow",
        detention_s,
        Q.DURATION,
        trail,
        detention_s <= limit_s * 1.0001,
        "at most {L}",
        (Term("L", "limit", limit_s, Q.DURATION),),
    )


def _storage(ladder: Ladder, levels: Levels) -> Figure:
    well, survey = ladder.hydraulics.well, ladder.survey
    top = "high_alarm" if "high_alarm" in levels else max(key for key in levels if key.startswith("start_"))
    name = "high alarm" if top == "high_alarm" else "last start"
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


def findings(ladder: Ladder, levels: Levels) -> tuple[Finding, ...]:
    """What a careful colleague would say about this plan, gravest first."""
    found: list[Finding] = []
    survey, hyd = ladder.survey, ladder.hydraulics
    peak = Term("peak", "peak inflow", survey.inflow.peak_m3s, Q.FLOW)
    for index in range(hyd.pump_count):
        rate_m3s = hyd.point((index,), hyd.slow_level_m).flow_m3s
        if rate_m3s <= 0.0:
            terms = (
                Term("head", "shut-off head", hyd.curves[index].shut_off_head_m, Q.HEAD),
                Term("lift", "static lift", survey.main.outlet_m - hyd.slow_level_m, Q.HEAD),
            )
            found.append(
                Finding(
                    "pump_cannot_lift",
                    Severity.STOP,
                    f"pump_{index + 1}",
                    f"Pump {index + 1} cannot lift: shut-off head {{head}} against a static lift of {{lift}}.",
                    terms,
                )
            )
    found += controls_not_off(survey.visit.controls_off)
    if survey.visit.entry is Entry.NO_ENTRY:
        found.append(
            Finding(
                "no_entry",
                Severity.STOP,
                "visit.entry",
                "Entry is needed but there is no permit. Do not enter: gas in wet wells kills without warning.",
            )
        )
    if hyd.pump_count > 1 and hyd.firm_m3s() < peak.value:
        found.append(
            Finding(
                "firm_below_peak",
                Severity.CAUTION,
                "inflow.peak_m3s",
                "With the strongest pump out, {firm} is less than the peak inflow of {peak}: the well fills in a storm.",
                (Term("firm", "firm capacity", hyd.firm_m3s(), Q.FLOW), peak),
            )
        )
    if hyd.strongest_m3s(hyd.duty_count, hyd.slow_level_m) < peak.value:
        found.append(
            Finding(
                "all_below_peak",
                Severity.STOP,
                "inflow.peak_m3s",
                "All pumps together give {all}, less than the peak inflow of {peak}: no setting prevents a flood.",
                (Term("all", "all pumps", hyd.strongest_m3s(hyd.duty_count, hyd.slow_level_m), Q.FLOW), peak),
            )
        )
    runs_on = ladder.choices.schools.sensor_failure is OnSensorFailure.RUN_DUTY
    if runs_on and not survey.demands.low_float:
        found.append(
            Finding(
                "run_duty_without_float",
                Severity.STOP,
                "demands.low_float",
                "Running the duty pump on a failed sensor needs a separate low-level float: without it the pump runs dry until it burns.",
            )
        )
    if not runs_on and not survey.control.has_floats:
        found.append(
            Finding(
                "stop_on_failure",
                Severity.NOTE,
                "schools.sensor_failure",
                "When the sensor fails all pumps stop and the well fills: the alarm must reach a person who can come in time.",
            )
        )
    main = hyd.main
    if main.volume_m3 / survey.inflow.mean_m3s > ladder.choices.rules.detention_s:
        found.append(
            Finding(
                "main_septic",
                Severity.NOTE,
                "main.length_m",
                "The rising main alone holds {content}, {time} of mean inflow: expect septic sewage whatever the levels.",
                (
                    Term("content", "content", main.volume_m3, Q.VOLUME),
                    Term("time", "time", main.volume_m3 / survey.inflow.mean_m3s, Q.DURATION),
                ),
            )
        )
    return tuple(found)


def timing_findings(survey: LiftSurvey, settings: tuple[Setting, ...]) -> tuple[Finding, ...]:
    """What timers, floats and drives together make of the station."""
    found: list[Finding] = []
    values = {setting.id: setting.value for setting in settings}
    run_s, rest_s = values.get("least_run", 0.0), values.get("least_rest", 0.0)
    cycle_s = 3600.0 / min(survey.demands.starts_per_hour, *(pump.starts_per_hour for pump in survey.pumps))
    if run_s + rest_s > cycle_s:
        terms = (Term("both", "both", run_s + rest_s, Q.TIME), Term("cycle", "cycle", cycle_s, Q.TIME))
        text = "Least run and least rest together take {both}, longer than the {cycle} between permitted starts: timers, not levels, run the pumps."
        found.append(Finding("timers_rule", Severity.CAUTION, "least_run", text, terms))
    control = survey.control
    roles = control.float_roles(survey.pumping.duty_count)
    if not control.has_sensor and "high_alarm" not in roles:
        text = "No float is left for a high alarm: nobody is told before the well overflows. Consider one more."
        found.append(Finding("no_high_float", Severity.CAUTION, "control.floats", text))
    first = survey.pumping.first_group
    if first and not control.has_sensor and not {f"start_{first + 1}", "high_alarm"} & set(roles):
        text = "No float calls the pumps of the second group: they never run. Consider one more float."
        found.append(Finding("second_group_idle", Severity.STOP, "control.floats", text))
    if control.has_sensor and control.has_floats:
        text = "The high float calls every pump whenever it is up, and a float that contradicts the sensor puts the sensor out of service."
        found.append(Finding("floats_behind", Severity.NOTE, "control.level_by", text))
    if survey.drives.fitted and survey.drives.decide is WhoDecides.AMONG_THEMSELVES:
        text = "The drives decide among themselves: each needs its own address; shared values are copied from drive 1, and every drive is stored and read back on its own."
        found.append(Finding("drives_alone", Severity.NOTE, "drives.decide", text))
    return tuple(found)
