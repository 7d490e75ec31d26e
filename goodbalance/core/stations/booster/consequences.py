"""What follows from the plan of a booster set: figures with their limits, and findings."""

from goodbalance.core.balance.plan import Figure, Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.physics.signals import MA_4_20
from goodbalance.core.physics.vessels import drawdown_for_run_m3, drawdown_for_starts_m3, drawdown_m3
from goodbalance.core.stations.booster.choices import BoosterChoices, FillEnd, NoFlowBy, OnFailure, TankSchool
from goodbalance.core.stations.booster.control import SHORT_STOP_S, ControlKind, SuctionBy
from goodbalance.core.stations.booster.hydraulics import hydraulics
from goodbalance.core.stations.booster.supply import SupplyKind
from goodbalance.core.stations.booster.survey import BoosterSurvey
from goodbalance.core.stations.booster.windows import term
from goodbalance.core.stations.common_facts import controls_not_off

VELOCITY_HIGH_MS = 2.5


def figures(survey: BoosterSurvey, choices: BoosterChoices, values: dict[str, float]) -> tuple[Figure, ...]:
    """Capacity, tank, starts, velocity, pressure at full speed, power."""
    held_pa = values.get("set_pressure", values.get("cut_in", 0.0))
    return (
        *_capacity(survey, held_pa), *_tank(survey, choices, values), *_starts(survey, choices, values),
        _velocity(survey), _full_speed(survey, values), *_power(survey, held_pa),
    )  # fmt: skip


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
        holding = hyd.holding(held_pa, hyd.suction_low_pa, design_m3s, pumps)
        terms = (
            term("H", "head the pumps add at the lowest suction", hyd.added_m(held_pa, hyd.suction_low_pa), Q.HEAD),
            term("Q", f"design flow over {pumps} pumps", design_m3s / pumps, Q.FLOW),
        )
        result = term("n", "speed", holding.speed, Q.PERCENT)
        trail = Trail("n = n", (result, *terms), result, "a n^2 + b n Q + c Q^2 = H, affinity")
        limit = "at most full speed, with its NPSH, on its curve"
        found.append(Figure(figure, label, holding.speed, Q.PERCENT, trail, holding.feasible, limit))
    return tuple(found)


def stored_m3(survey: BoosterSurvey, values: dict[str, float]) -> tuple[float, float, float]:
    """What the tank gives between stop and start, and the two pressures; nothing without a tank. [m3, Pa, Pa]"""
    low_pa = values.get("restart", values.get("cut_in", 0.0))
    works_to_pa = values.get("set_pressure", values.get("cut_out"))
    high_pa = hydraulics(survey).shut_off_pa() if works_to_pa is None else works_to_pa + values.get("boost", 0.0)
    if "precharge" not in values:
        return 0.0, low_pa, high_pa
    air_pa = hydraulics(survey).air_pa
    gives = drawdown_m3(survey.vessel.volume_m3, values["precharge"], low_pa, max(high_pa, low_pa), air_pa)
    return gives, low_pa, high_pa


def _tank(survey: BoosterSurvey, choices: BoosterChoices, values: dict[str, float]) -> tuple[Figure, ...]:
    """What the tank gives between the two pressures, beside what each school asks. The mean flow counts as the rate."""
    if "precharge" not in values:
        return ()
    gives_m3, low_pa, high_pa = stored_m3(survey, values)
    # a set with drives slows down to the smallest flow before it stops; a switched pump gives its full rate
    rate_m3s = survey.demand.least_m3s if survey.holds_constant else survey.demand.mean_m3s
    by_starts_m3 = drawdown_for_starts_m3(rate_m3s, survey.pumping.starts_per_hour)
    by_run_m3 = drawdown_for_run_m3(rate_m3s, choices.rules.least_run_s)
    needed_m3 = by_starts_m3 if choices.schools.tank is TankSchool.STARTS else by_run_m3
    terms = (
        term("V", "volume of the tank", survey.vessel.volume_m3, Q.VOLUME),
        term("P0", "precharge, gauge", values["precharge"]),
        term("P1", "pressure at which pumps come back, gauge", low_pa),
        term("P2", "pressure at which they stop, gauge", high_pa),
    )
    result = term("D", "drawdown", gives_m3, Q.VOLUME)
    trail = Trail("D = D", (result, *terms), result, "Boyle, absolute pressures: V P0 (1/P1 - 1/P2)")
    limits = (term("S", "", by_starts_m3, Q.VOLUME), term("R", "", by_run_m3, Q.VOLUME))
    keeps = gives_m3 >= needed_m3 - 1e-9
    text = "{S} by starts, {R} by least run"
    return (Figure("drawdown", "Drawdown of the tank", gives_m3, Q.VOLUME, trail, keeps, text, limits),)


def _starts(survey: BoosterSurvey, choices: BoosterChoices, values: dict[str, float]) -> tuple[Figure, ...]:
    """Most starts an hour, at half the rate the pumps stop at: T = 4 D/q and what the delays add."""
    gives_m3, _, _ = stored_m3(survey, values)
    rate_m3s = survey.demand.least_m3s if survey.holds_constant else survey.demand.mean_m3s
    waits_s = values.get("sleep_delay", values.get("flow_delay", values.get("least_run", 0.0)))
    cycle_s = 4.0 * gives_m3 / rate_m3s + waits_s
    starts = 3600.0 / cycle_s if cycle_s > 0.0 else 3600.0
    terms = (
        term("D", "water the tank gives between stop and start", gives_m3, Q.VOLUME),
        term("q", "smallest flow worth running for" if survey.holds_constant else "mean flow", rate_m3s, Q.FLOW),
        term("w", "delay before it stops, or least run", waits_s, Q.TIME),
        term("h", "an hour", 3600.0, Q.TIME),
    )
    result = term("S", "starts", starts, Q.STARTS)
    trail = Trail("S = h/(4 · D/q + w)", terms, result, "worst at half the rate; delays add to the cycle")
    if choices.schools.no_flow is NoFlowBy.BUMP and survey.holds_constant:
        each_s = values["sleep_delay"] + SHORT_STOP_S
        if 3600.0 / each_s > starts:  # while little is drawn each short stop ends in a start
            starts = 3600.0 / each_s
            terms = (
                term("w", "sleep delay", values["sleep_delay"], Q.TIME),
                term("s", "short stop", SHORT_STOP_S, Q.TIME),
                term("h", "an hour", 3600.0, Q.TIME),
            )
            result = term("S", "starts", starts, Q.STARTS)
            trail = Trail("S = h/(w + s)", terms, result, "each short stop ends in a start while little is drawn")
    limit = (term("A", "", survey.pumping.starts_per_hour, Q.STARTS),)
    keeps = starts <= survey.pumping.starts_per_hour + 1e-9
    return (
        Figure("starts_worst", "Most starts of a pump", starts, Q.STARTS, trail, keeps, "at most {A} (maker)", limit),
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
    """What presses on the parts if a drive is left at full speed with every outlet closed."""
    hyd, vessel = hydraulics(survey), survey.vessel
    speed = values.get("most_speed", values.get("fixed_speed", 1.0))
    value = hyd.delivered_pa(0.0, 1, hyd.suction_high_pa, speed)
    terms = (
        term("s", "highest suction pressure", hyd.suction_high_pa),
        term("z", "shut-off head at the most speed", value - hyd.suction_high_pa),
    )
    trail = Trail("p = s + z", terms, term("p", "pressure", value), "pump curve, affinity")
    weakest = min(vessel.rating_pa, vessel.relief_pa or vessel.rating_pa)
    limit = (term("W", "", weakest),)
    return Figure(
        "full_speed", "Pressure at most speed, outlets closed", value, Q.PRESSURE, trail, value <= weakest,
        "at most {W}, weakest part or relief valve", limit,
    )  # fmt: skip


def _power(survey: BoosterSurvey, held_pa: float) -> tuple[Figure, ...]:
    hyd, flow = hydraulics(survey), survey.demand.mean_m3s
    choices = [hyd.holding(held_pa, hyd.suction_low_pa, flow, n) for n in range(1, survey.pumping.duty_count + 1)]
    able = [holding for holding in choices if holding.feasible]
    if not able:
        return ()
    best = min(able, key=lambda holding: holding.power_w)
    value = best.power_w / flow
    terms = (
        term("P", f"power of {best.pumps} pumps at mean flow, lowest suction", best.power_w, Q.POWER),
        term("Q", "mean flow", flow, Q.FLOW),
    )
    says = "maker's power curve, affinity" if hyd.knows_power else "power estimated from the nameplate"
    trail = Trail("e = P/Q", terms, term("e", "energy for each cubic metre", value, Q.ENERGY_PER_VOLUME), says)
    return (Figure("energy", "Energy at mean flow", value, Q.ENERGY_PER_VOLUME, trail),)


def findings(survey: BoosterSurvey, choices: BoosterChoices, values: dict[str, float]) -> tuple[Finding, ...]:
    """What is wrong with the plan or needs a look, the gravest first."""
    hyd, found = hydraulics(survey), []
    schools, control, supply = choices.schools, survey.control, survey.supply
    held_pa = values.get("set_pressure", values.get("cut_in", 0.0))

    def say(code: str, severity: Severity, subject: str, text: str, *terms: Term) -> None:
        found.append(Finding(code, severity, subject, text, terms))

    holding = hyd.holding(held_pa, hyd.suction_low_pa, survey.demand.design_m3s, survey.pumping.duty_count)
    if holding.npsh_margin_m is not None and holding.npsh_margin_m < 0.0:
        text = "At design flow the pumps lack {lack} of NPSH at the lowest suction: they cavitate. Hold this flow by hand before anything else."
        say("npsh", Severity.STOP, "supply.low_pa", text, term("lack", "", -holding.npsh_margin_m, Q.HEAD))
    if schools.no_flow is NoFlowBy.FLOW and survey.holds_constant and not control.flow_switch:
        say(
            "no_flow_switch",
            Severity.STOP,
            "schools.no_flow",
            "A flow switch is to tell no flow, but none is fitted: it would never sleep.",
        )
    if control.trickle and (control.kind is ControlKind.FLOW_STOP or schools.no_flow is NoFlowBy.FLOW):
        text = "A very small flow goes on all day: a flow switch never opens, the pump never stops. Stop it by pressure instead."
        say("trickle", Severity.STOP, "control.trickle", text)
    if "fill_speed" in values:
        mean_m3s = survey.demand.mean_m3s
        needed = hyd.speed(hyd.added_m(values["fill_pressure"], hyd.suction_pa(mean_m3s)), mean_m3s, 1)
        if needed > values["fill_speed"]:
            after = (
                "the set stops until somebody resets it"
                if schools.fill_end is FillEnd.STOP
                else "users have little pressure until then"
            )
            text = f"With taps open at mean flow the fill speed of {{n}} never reaches the fill pressure: after a power failure by day the fill timeout of {{t}} runs out, and {after}."
            say(
                "fill_by_day",
                Severity.CAUTION,
                "fill_speed",
                text,
                term("n", "", values["fill_speed"], Q.PERCENT),
                term("t", "", values["fill_timeout"], Q.TIME),
            )
    if control.kind is ControlKind.FLOW_STOP:
        shut_pa = hyd.shut_off_pa(high=True)
        drop_pa = hyd.column_of(survey.outlets.sensor_m - survey.outlets.lowest_m)
        if shut_pa + drop_pa > survey.outlets.permitted_pa:
            text = "Each time the flow ends the pump rises to its shut-off pressure: {p} at the lowest outlet, where {a} is permitted. Reduce it there, or stop by pressure."
            say(
                "shut_off_over",
                Severity.STOP,
                "outlets.permitted_pa",
                text,
                term("p", "", shut_pa + drop_pa),
                term("a", "", survey.outlets.permitted_pa),
            )
    if not survey.pumping.check_valves:
        text = "Without a check valve on each pump water runs back through it: the set does not stop cleanly, pumps turn backwards."
        say("no_check_valve", Severity.CAUTION, "pumping.check_valves", text)
    if supply.kind is SupplyKind.SUCTION_LIFT and not supply.foot_valve:
        say(
            "no_foot_valve",
            Severity.CAUTION,
            "supply.foot_valve",
            "Without a foot valve the suction pipe empties at rest: pumps start dry.",
        )
    if control.suction_by is SuctionBy.NONE:
        text = "Nothing sees a lack of water at the suction: only the airlock delay protects the seals."
        say("no_dry_protection", Severity.CAUTION, "control.suction_by", text)
    if schools.sensor_failure is OnFailure.RUN_DUTY and survey.vessel.relief_pa is None:
        text = "A pump that runs on without a pressure sensor needs a relief valve; none is noted."
        say("blind_run", Severity.CAUTION, "schools.sensor_failure", text)
    if hyd.signal is not MA_4_20:
        text = "A signal that starts at zero cannot tell a broken wire from no pressure: all pumps would run up to full speed. No proof can show it stopping."
        say("dead_zero", Severity.CAUTION, "sensor.signal", text)
    if not hyd.curve.is_falling():
        text = "The pump curve rises somewhere: two flows for one head, and speed cannot tell them apart."
        say("curve_rising", Severity.CAUTION, "pumping.curve", text)
    if schools.no_flow is NoFlowBy.BUMP and survey.holds_constant and survey.vessel.volume_m3 <= 0.0:
        text = "Without a tank a short stop is felt at every tap. Use it only where that is no harm."
        say("bump_felt", Severity.CAUTION, "schools.no_flow", text)
    if not hyd.knows_power:
        say(
            "power_guessed",
            Severity.NOTE,
            "pumping.curve",
            "No power curve was noted: power and energy are estimated from the nameplate.",
        )
    flush = survey.demand.flush_m3s
    if flush:
        both = hyd.holding(held_pa, hyd.suction_low_pa, survey.demand.design_m3s + flush, survey.pumping.duty_count)
        if not both.feasible:
            text = "Design flow with {flush} of fire or flushing flow cannot be held. Fire systems are for licensed people."
            say("flush", Severity.CAUTION, "demand.flush_m3s", text, term("flush", "", flush, Q.FLOW))
    found += controls_not_off(survey.visit.controls_off)
    return tuple(found)
