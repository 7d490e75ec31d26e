"""What is wrong with a transfer set and its plan, beyond windows that are empty."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Finding, Plan, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.physics.vessels import tank_for_drawdown_m3
from goodbalance.core.stations.shared import telemetry
from goodbalance.core.stations.shared.facts import controls_not_off, starved_loop
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.plant.closing import shock_pa, worst_closing
from goodbalance.core.stations.transfer.plant.hydraulics import TransferHydraulics, hydraulics
from goodbalance.core.stations.transfer.survey.choices import DelayFrom, TransferChoices
from goodbalance.core.stations.transfer.survey.control import SourceBy, TankWire
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey
from goodbalance.core.stations.transfer.windows.consequences import leak_starts


def findings(survey: TransferSurvey, choices: TransferChoices, plan: Plan) -> tuple[Finding, ...]:
    """Every one, gravest first."""
    hyd = hydraulics(survey)
    found = [*_reach(hyd), *_ratings(hyd, choices, plan), *_restart(hyd, choices, plan), *_as_found(hyd), *_tanks(hyd, plan), *_wires(survey), *_sources(hyd)]
    found += [*starved_loop("sensor.loop_supply_v", survey.sensor.budget), *telemetry.findings(survey.telemetry, False), *controls_not_off(survey.visit.controls_off)]
    weights = {Severity.STOP: 0, Severity.CAUTION: 1, Severity.NOTE: 2}
    return tuple(sorted(found, key=lambda finding: weights[finding.severity]))


def _reach(hyd: TransferHydraulics) -> Iterator[Finding]:
    """A tank that a pump does not reach at the lowest source."""
    levels = hyd.sources_m(False)
    for number, pump in enumerate(hyd.pumps, 1):
        for tank, branch in enumerate(hyd.branches):
            lift_m = branch.lift_m(branch.tank.closes_m) - levels[pump.source]
            if pump.a <= lift_m:
                terms = Term("l", "", lift_m, Q.HEAD), Term("h", "", pump.a, Q.HEAD)
                text = f"Pump {number} does not reach {hyd.survey.tank_name(tank + 1)} from the lowest source: it must lift {{l}} and gives {{h}} at most."
                yield Finding(f"reach_{number}_{tank + 1}", Severity.STOP, "pumping.curve.0.head_m", text, terms)


def _ratings(hyd: TransferHydraulics, choices: TransferChoices, plan: Plan) -> Iterator[Finding]:
    """Shut-off at the highest source against every rating; and the vessel that would take a shock."""
    most_pa = hyd.shut_off_pa(True)
    for name, rating_pa, down_pa in hyd.rated_parts:
        limit_pa = rating_pa * choices.rules.rating_share - down_pa
        if most_pa > limit_pa:
            terms = Term("p", "", most_pa, Q.PRESSURE), Term("r", "", limit_pa, Q.PRESSURE)
            text = f"Shut-off pressure at the highest source is {{p}} at the sensor; the {name} stands {{r}} there. The stop pressure is no protection: fit a relief valve, a smaller impeller, or a high-pressure switch of its own."
            yield Finding("rating_shut_off", Severity.STOP if hyd.survey.line.relief_pa is None else Severity.CAUTION, "line.rating_pa", text, terms)
    if S.STOP_PRESSURE not in plan:
        return
    stop_pa = plan.setting(S.STOP_PRESSURE).value
    worst, shock = worst_closing(hyd, stop_pa), max(shock_pa(hyd, tank) for tank in range(len(hyd.branches)))
    limit_pa = min(rating * choices.rules.rating_share - down for _, rating, down in hyd.rated_parts)
    if stop_pa + worst.past_pa + shock > limit_pa > stop_pa:
        # what comes in while the set reacts must fit between stop and rating
        volume_m3 = tank_for_drawdown_m3(hyd.most_rate_m3s * hyd.survey.sensor.reacts_s, hyd.precharge_pa, stop_pa, limit_pa, hyd.air_pa)
        passes = Term("d", "", worst.past_pa, Q.PRESSURE), Term("j", "", shock, Q.PRESSURE), Term("r", "", limit_pa, Q.PRESSURE), Term("v", "", volume_m3, Q.VOLUME)
        text = "At a stop the pressure goes {d} past it, and the valve's shock adds {j}: over the {r} that the weakest part stands at the sensor. A slower valve, a lower stop, or a pressure vessel of {v} at the pumps takes it."
        yield Finding("peak_over_rating", Severity.STOP, S.STOP_PRESSURE, text, passes)
    if worst.warms_k > hyd.survey.pumping.warm_k:
        terms = Term("t", "", worst.starved_s, Q.DURATION), Term("k", "", worst.warms_k, Q.RATIO)
        text = "While a valve closes slowly the pump runs {t} on less than its least flow: its water warms by {k} K. A lower stop, a valve that snaps shut, or a small way back to the source."
        yield Finding("starved", Severity.CAUTION, S.STOP_PRESSURE, text, terms)


def _restart(hyd: TransferHydraulics, choices: TransferChoices, plan: Plan) -> Iterator[Finding]:
    """A restart over the running pressure; a line that sags; a delay that protects nobody."""
    if S.RESTART_PRESSURE not in plan:
        return
    restart_pa, low_pa = plan.setting(S.RESTART_PRESSURE).value, hyd.lowest_running[0]
    if restart_pa > low_pa:
        terms = Term("r", "", restart_pa, Q.PRESSURE), Term("l", "", low_pa, Q.PRESSURE)
        text = "The restart, {r}, stands over the lowest running pressure, {l}: the moment the closed line sags, or a valve opens a little, it is reached. Only the delay keeps the pump from starting then."
        yield Finding("restart_over_running", Severity.CAUTION, S.RESTART_PRESSURE, text, terms)
    starts = leak_starts(hyd, choices, plan)
    if starts > hyd.survey.pumping.starts_per_hour:
        terms = Term("n", "", starts, Q.STARTS), Term("m", "", hyd.survey.pumping.starts_per_hour, Q.STARTS)
        text = "Its leak alone starts the pump {n}; {m} are allowed. Find the leak (foot valve, check valve, pipe), or let the delay count longer."
        yield Finding("leak_starts", Severity.CAUTION, "line.leak_m3s", text, terms)
    if choices.schools.delay_from is DelayFrom.STOP:
        for tank, branch in enumerate(hyd.branches):
            if branch.tank.opens_drop_m < branch.tank.throttles_m:
                text = f"The valve of {hyd.survey.tank_name(tank + 1)} opens by and by, and the delay counts from the stop: after a long rest the pump starts on a dribble and stops at once."
                yield Finding("stop_delay_dribbles", Severity.CAUTION, "schools.delay_from", text)


def _as_found(hyd: TransferHydraulics) -> Iterator[Finding]:
    """Tanks that could never call as the set was found."""
    found_pa = hyd.survey.as_found.restart_pressure
    if found_pa is None or not hyd.survey.control.by_pressure:
        return
    for tank, column_pa in enumerate(hyd.columns_pa):
        if found_pa <= column_pa:
            terms = Term("r", "", found_pa, Q.PRESSURE), Term("c", "", column_pa, Q.PRESSURE)
            text = f"As found the restart, {{r}}, stood under the column of {hyd.survey.tank_name(tank + 1)}, {{c}}: that tank could never call, and was filled only when another one did."
            yield Finding(f"found_under_column_{tank + 1}", Severity.NOTE, "as_found.restart_pressure", text, terms)


def _tanks(hyd: TransferHydraulics, plan: Plan) -> Iterator[Finding]:
    """Draws that no pump keeps up with, and tanks that take nothing while another is open."""
    survey, rate = hyd.survey, hyd.least_rate_m3s
    mean = sum(tank.mean_m3s for tank in survey.all_tanks)
    peak = sum(tank.peak_m3s for tank in survey.all_tanks)
    if mean >= rate:
        terms = Term("n", "", mean, Q.FLOW), Term("q", "", rate, Q.FLOW)
        yield Finding("mean_over_rate", Severity.STOP, "tank_1.mean_m3s", "Users draw {n} on the mean, and the weakest pump brings {q}: the tanks are never full, and no longest run can be told from a valve that sticks.", terms)
    elif peak > rate:
        terms = Term("n", "", peak, Q.FLOW), Term("q", "", rate, Q.FLOW)
        yield Finding("peak_over_rate", Severity.NOTE, "tank_1.peak_m3s", "The largest draw, {n}, is more than the weakest pump brings, {q}: levels fall while it fills. The longest run counts that in.", terms)
    yield from _first_fill(hyd, plan)
    if len(hyd.branches) > 1:
        filled = hyd.running(hyd.ways[-1], hyd.duty[:1], False).filled_m3s
        for tank, flow in enumerate(filled):
            if flow < 0.02 * sum(filled):
                text = f"With every valve open one pump brings nothing into {survey.tank_name(tank + 1)}: it fills only when the lower ones are shut. Its reserve must last so long, or throttle the lower valves."
                yield Finding(f"starves_{tank + 1}", Severity.NOTE, f"tank_{tank + 1}.entry_m", text)


def _first_fill(hyd: TransferHydraulics, plan: Plan) -> Iterator[Finding]:
    """A tank filled from empty takes longer than the longest run allows."""
    longest_s = plan.value(S.LONGEST_RUN, float("inf"))
    from_empty_s = sum(branch.tank.volume_m3(branch.tank.outlet_m, branch.tank.closes_m) for branch in hyd.branches) / hyd.least_rate_m3s
    if from_empty_s > longest_s:
        terms = Term("f", "", from_empty_s, Q.DURATION), Term("l", "", longest_s, Q.DURATION)
        text = "Filled from empty the tanks take {f} at least, and the longest run ends after {l}: the first filling, and one after an outage, locks out and wants a reset, or somebody beside it in HAND."
        yield Finding("first_fill", Severity.NOTE, S.LONGEST_RUN, text, terms)


def _wires(survey: TransferSurvey) -> Iterator[Finding]:
    """What a broken wire does where nobody is told."""
    control = survey.control
    if control.by_levels and control.tank_wire is TankWire.CLOSES:
        text = "A broken wire to a tank reads as water wanted: it fills until it overflows. Let contacts be closed while water is wanted, or watch the wire with a resistor at its end."
        yield Finding("wire_fills", Severity.STOP, "control.tank_wire", text)
    elif control.by_levels and control.tank_wire is TankWire.OPENS:
        text = "A broken wire to a tank stops the pump, and nobody is told until users run dry. Watch the wire with a resistor at its end, or let a low-level alarm come by another way."
        yield Finding("wire_silent", Severity.CAUTION, "control.tank_wire", text)
    if not survey.line.check_valve:
        text = "There is no check valve: after each stop the line runs back into the source, the pressure is gone, and the pump starts anew after each delay."
        yield Finding("no_check_valve", Severity.STOP if control.by_pressure else Severity.CAUTION, "line.check_valve", text)


def _sources(hyd: TransferHydraulics) -> Iterator[Finding]:
    """Sources that nothing watches, that give less than is taken, or that a pump cannot draw from."""
    survey = hyd.survey
    if survey.control.source_by is SourceBy.NONE:
        yield Finding("source_unwatched", Severity.CAUTION, "control.source_by", "Nothing watches the source: a pump draws air until its seal is gone. A float, a switch, or a load monitor at the motor sees it.")
    for place, source in enumerate(survey.sources):
        taken = sum(survey.all_tanks[tank].mean_m3s for tank in range(survey.tanks.count))
        if source.inflow_m3s and len(survey.sources) == 1 and source.inflow_m3s < taken:
            terms = Term("i", "", source.inflow_m3s, Q.FLOW), Term("n", "", taken, Q.FLOW)
            yield Finding("source_too_small", Severity.CAUTION, "source.inflow_m3s", "Into the source flow {i}, users draw {n} on the mean: it runs empty, and its stop acts every day.", terms)
        for number, pump in enumerate(hyd.pumps, 1):
            needed = pump.curves.npsh_columns
            if pump.source != place or needed is None:
                continue
            have_m = (hyd.air_pa - hyd.vapour_pa) / hyd.weight + source.low_m - source.loss_m - survey.sensor.height_m
            if have_m < max(needed[1]):
                terms = Term("h", "", have_m, Q.HEAD), Term("n", "", max(needed[1]), Q.HEAD)
                yield Finding(f"npsh_{number}", Severity.CAUTION, "pumping.curve.0.npsh_m", f"At the lowest source pump {number} has {{h}} at its suction if it stands as high as the sensor, and wants {{n}} at the end of its curve: it may cavitate.", terms)
