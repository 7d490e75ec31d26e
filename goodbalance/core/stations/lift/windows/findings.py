"""What a careful colleague would say about the plan of a lift station."""

from goodbalance.core.balance.plan import Finding, Setting, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.physics.surge import joukowsky_pa, pipe_period_s, slowing_ms2
from goodbalance.core.physics.water import GRAVITY_MS2, water_at
from goodbalance.core.stations.lift.names import STARTS, Role
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.survey.choices import AlarmRelay, OnSensorFailure
from goodbalance.core.stations.lift.survey.sensing import WhoDecides
from goodbalance.core.stations.lift.survey.survey import Entry, LiftSurvey
from goodbalance.core.stations.lift.windows.ladder import Ladder
from goodbalance.core.stations.shared import telemetry
from goodbalance.core.stations.shared.facts import controls_not_off, starved_loop

SLAMS_MS2 = 2.5  # a column that slows down faster than this meets most check valves still open


def findings(ladder: Ladder) -> tuple[Finding, ...]:
    """What a careful colleague would say about this plan, gravest first."""
    return (
        *_of_lift(ladder),
        *controls_not_off(ladder.survey.visit.controls_off),
        *_of_entry(ladder.survey),
        *_of_capacity(ladder),
        *_of_failed_sensor(ladder),
        *_of_contacts(ladder.survey),
        *_of_pumps(ladder),
        *_of_main(ladder),
        *_of_loop(ladder.survey),
        *_of_content(ladder),
        *telemetry.findings(ladder.survey.telemetry, ladder.choices.schools.alarm_relay is AlarmRelay.IN_HEALTH),
    )


def _of_contacts(survey: LiftSurvey) -> list[Finding]:
    """Contacts that are closed at rest although they stop or call pumps: a dead controller then does the wrong thing."""
    closed, found = survey.relays.closed_at_rest, []
    for role, words in ((Role.STOP, "the stop stays closed and nothing stops the pumps"), (Role.LOW_CUT_OUT, "the cut-out stays closed and nothing keeps the pumps from running dry"),
                        (Role.START_1, "the duty pump is called for ever"), (Role.START_2, "the assist is called for ever")):  # fmt: skip
        if role in closed:
            text = f"Wired to the contact that is closed at rest: without power at the controller {words}. Use the one that is open at rest, or a cut-out of its own."
            found.append(Finding(f"closed_at_rest_{role}", Severity.STOP, f"relays.{role}_contact", text))
    return found


def _of_lift(ladder: Ladder) -> list[Finding]:
    """Pumps that cannot lift the water at all."""
    survey, hyd, found = ladder.survey, ladder.hydraulics, []
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
    return found


def _of_entry(survey: LiftSurvey) -> list[Finding]:
    """Entry that is needed and not permitted."""
    found: list[Finding] = []
    if survey.visit.entry is Entry.NO_ENTRY:
        found.append(
            Finding(
                "no_entry",
                Severity.STOP,
                "visit.entry",
                "Entry is needed but there is no permit. Do not enter: gas in wet wells kills without warning.",
            )
        )
    return found


def _of_capacity(ladder: Ladder) -> list[Finding]:
    """Pumps that cannot keep up with the peak inflow, with the strongest out and all together."""
    survey, hyd, found = ladder.survey, ladder.hydraulics, []
    peak = Term("peak", "peak inflow", survey.inflow.peak_m3s, Q.FLOW)
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
    return found


def _of_failed_sensor(ladder: Ladder) -> list[Finding]:
    """What the choice for a failed sensor asks for."""
    survey, found = ladder.survey, []
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
    return found


def _of_loop(survey: LiftSurvey) -> list[Finding]:
    """The supply of the sensor's current loop."""
    if survey.sensor is None:
        return []
    return list(starved_loop("sensor.loop_supply_v", survey.level_budget))


def _of_content(ladder: Ladder) -> list[Finding]:
    """A rising main that holds too much of the mean inflow."""
    survey, found = ladder.survey, []
    main = ladder.hydraulics.main
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
    return found


def _of_pumps(ladder: Ladder) -> list[Finding]:
    """Pumps beyond their curve, motors beyond their nameplate, dry pits without NPSH."""
    survey, hyd, found = ladder.survey, ladder.hydraulics, []
    for index, pump in enumerate(survey.pumps):
        if survey.pumping.twins and index:
            break
        name, subject = "A pump" if survey.pumping.twins else f"Pump {index + 1}", f"pump_{index + 1}"
        flow_m3s, last_m3s = hyd.point((index,), hyd.fast_level_m).flow_m3s, hyd.curves[index].last_flow_m3s
        if flow_m3s > last_m3s * 1.001:
            terms: tuple[Term, ...] = (Term("q", "", flow_m3s, Q.FLOW), Term("l", "", last_m3s, Q.FLOW))
            text = f"{name} alone, at the inlet invert, works at {{q}}, beyond the last point of its curve at {{l}}: what it gives there is guessed, and it may cavitate and overload. Ask its maker, or throttle."
            found.append(Finding("beyond_curve", Severity.CAUTION, f"{subject}.curve", text, terms))
        powers = [(p.power_w, p.flow_m3s) for p in pump.curve if p.power_w is not None and p.flow_m3s is not None]
        if powers and max(powers)[0] > pump.rated_power_w * 1.001:
            most_w, at_m3s = max(powers)
            terms = (Term("q", "", at_m3s, Q.FLOW), Term("p", "", most_w, Q.POWER), Term("r", "", pump.rated_power_w, Q.POWER))
            text = f"At {{q}} the shaft of {name[0].lower()}{name[1:]} takes {{p}}, more than the {{r}} of its nameplate: its motor overloads there."
            found.append(Finding("motor_overloads", Severity.CAUTION, f"{subject}.rated_power_w", text, terms))
        if pump.dry_pit_m is not None and hyd.npsh_required_m(index, flow_m3s) is None:
            text = f"{name} stands in a dry pit, but its NPSH is not noted: whether the stop level keeps it from cavitating is not known."
            found.append(Finding("npsh_unknown", Severity.CAUTION, f"{subject}.curve", text))
    return found


def _of_main(ladder: Ladder) -> list[Finding]:
    """What a sudden stop does to the main and its check valves."""
    survey, hyd, found = ladder.survey, ladder.hydraulics, []
    main, level_m = survey.main, ladder.hydraulics.fast_level_m
    flow_m3s = hyd.strongest_m3s(hyd.duty_count, level_m)
    velocity_ms, static_m = hyd.main.velocity_ms(flow_m3s), max(0.0, main.outlet_m - level_m)
    slowing = slowing_ms2(static_m, main.length_m, velocity_ms, hyd.main.loss_m(flow_m3s))
    if slowing > SLAMS_MS2:
        term = Term("t", "", velocity_ms / slowing, Q.TIME)
        text = "When the pumps stop the water in the main stands still within {t} and comes back: a slow check valve slams. Fit ones that close at once, or slow the stop."
        found.append(Finding("check_valve_slams", Severity.CAUTION, "main.length_m", text, (term,)))
    density = water_at(main.temperature_c).density_kgm3
    shock_pa, rest_pa = joukowsky_pa(density, main.wave_ms, velocity_ms), density * GRAVITY_MS2 * static_m
    if main.rating_pa is not None and rest_pa + shock_pa > main.rating_pa:
        period_s = pipe_period_s(main.length_m, main.wave_ms)
        terms = (
            Term("t", "", period_s, Q.TIME), Term("d", "", shock_pa, Q.PRESSURE), Term("s", "", rest_pa, Q.PRESSURE),
            Term("w", "", main.rating_pa, Q.PRESSURE),
        )  # fmt: skip
        text = "A stop of all pumps within the pipe period of {t}, as at a power failure, adds up to {d} to the {s} at rest, over the {w} the main is rated for: ask for a surge study."
        found.append(Finding("surge", Severity.CAUTION, "main.rating_pa", text, terms))
    return found


def timing_findings(survey: LiftSurvey, settings: tuple[Setting, ...]) -> tuple[Finding, ...]:
    """What timers, floats and drives together make of the station."""
    found: list[Finding] = []
    values = {setting.id: setting.value for setting in settings}
    run_s, rest_s = values.get(S.LEAST_RUN, 0.0), values.get(S.LEAST_REST, 0.0)
    cycle_s = 3600.0 / min(survey.demands.starts_per_hour, *(pump.starts_per_hour for pump in survey.pumps))
    if run_s + rest_s > cycle_s:
        terms = (Term("both", "both", run_s + rest_s, Q.TIME), Term("cycle", "cycle", cycle_s, Q.TIME))
        text = "Least run and least rest together take {both}, longer than the {cycle} between permitted starts: timers, not levels, run the pumps."
        found.append(Finding("timers_rule", Severity.CAUTION, S.LEAST_RUN, text, terms))
    control = survey.control
    roles = control.float_roles(survey.pumping.duty_count)
    if not control.has_sensor and Role.HIGH_ALARM not in roles:
        text = "No float is left for a high alarm: nobody is told before the well overflows. Consider one more."
        found.append(Finding("no_high_float", Severity.CAUTION, "control.floats", text))
    first = survey.pumping.first_group
    if first and not control.has_sensor and not {*STARTS[first : first + 1], Role.HIGH_ALARM} & set(roles):
        text = "No float calls the pumps of the second group: they never run. Consider one more float."
        found.append(Finding("second_group_idle", Severity.STOP, "control.floats", text))
    if control.has_sensor and control.has_floats:
        calls = "The high float calls every pump whenever it is up, and a" if Role.HIGH_ALARM in roles else "With the sensor out no float tells of high water; a"
        text = f"{calls} float that contradicts the sensor puts the sensor out of service."
        found.append(Finding("floats_behind", Severity.NOTE, "control.level_by", text))
    if survey.drives.fitted and survey.drives.decide is WhoDecides.AMONG_THEMSELVES:
        text = "The drives decide among themselves: each needs its own address; shared values are copied from drive 1, and every drive is stored and read back on its own."
        found.append(Finding("drives_alone", Severity.NOTE, "drives.decide", text))
    if not control.has_sensor and {S.FULL_SPEED_LEVEL, S.HOLD_LEVEL} & values.keys():
        text = "The drives are to go by the level, and floats alone tell no level between them: they run at full speed. Fit a level sensor, or choose full speed."
        found.append(Finding("speed_blind", Severity.CAUTION, "control.level_by", text))
    if S.OUTSIDE_ZERO_SPEED in values and not survey.drives.outside:
        text = "The drives are to run as an outside signal says, and the survey knows of none: wire one and say so, or choose another way."
        found.append(Finding("no_outside_signal", Severity.STOP, "drives.outside", text))
    return tuple(found)
