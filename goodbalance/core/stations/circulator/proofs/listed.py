"""What must be proved of a ring, in the order it is made on site: vented, branch by branch, pump, taps, hours, limits, handed over."""

import math
from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.stations.circulator.names import Check, Mode, crossing, valve
from goodbalance.core.stations.circulator.names import SettingId as S
from goodbalance.core.stations.circulator.plant.equations import equations
from goodbalance.core.stations.circulator.plant.pieces import CARRIES_JM3K
from goodbalance.core.stations.circulator.plant.steady import Steady
from goodbalance.core.stations.circulator.plant.year import lost_w
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices, Wins
from goodbalance.core.stations.circulator.survey.heat import HeatKind
from goodbalance.core.stations.circulator.survey.hours import by_clock, running
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.survey.use import Outside
from goodbalance.core.stations.circulator.windows.consequences import at_rest, wait_s, warm_cold_s
from goodbalance.core.stations.shared.week import rests

FIRST, BRANCHES, PUMP, TAPS, HOURS, LIMITS, LAST = "Filled and vented", "Branch by branch", "The pump", "At the taps", "Hours", "Limits and failures", "Handed over"
HOT = "Hot pipes and hot water: scalding."
STARTING = "The pump starts by itself."
SHOCK = "Lethal voltage: nothing inside is touched for this test."
READS_K, FLOW_SHARE, PRESSURE_SHARE, TIME_SHARE, LEAST_TIME_S, DRAW_S = 1.5, 0.08, 0.08, 0.25, 3.0, 600.0  # what a clip-on thermometer, a flow and a difference read on site may be off; a wait; a long draw


def proofs(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> tuple[Proof, ...]:
    """Every proof of this plan."""
    runs = at_rest(survey, choices, plan)
    return (*_first(survey, choices), *_branches(survey, plan, runs), *_pump(choices, plan, runs), *_taps(survey, choices, plan, runs), *_hours(survey, choices, plan), *_limits(survey, choices, plan), *_last())


def _yes(check: Check, title: str, group: str, before: str, cautions: tuple[str, ...], action: str, seen: str, proves: tuple[str, ...] = (), of: str = "", decided: str = "") -> Proof:
    return Proof(check, title, group, before, cautions, action, seen, Answer.YES_NO, proves=proves, of=of, decided=decided)


def _number(
    check: Check, title: str, group: str, texts: tuple[str, str, str], cautions: tuple[str, ...], expected: float, tolerance: float, quantity: Q, proves: tuple[str, ...] = (), of: str = ""
) -> Proof:
    before, action, seen = texts
    return Proof(check, title, group, before, cautions, action, seen, Answer.NUMBER, expected, tolerance, quantity, proves=proves, of=of)


def _first(survey: CirculatorSurvey, choices: CirculatorChoices) -> Iterator[Proof]:
    rules = choices.rules
    yield _yes(
        Check.VENTED, "Vented until quiet", FIRST, "Ring filled and at its pressure, every valve open; never dry.", (HOT, STARTING),
        f"Run it for {rules.vent_run_s:.0f} s, let it rest for {rules.vent_rest_s:.0f} s so that air rises, open the vents; again and again.",
        "No gurgle at pump or valves; its power, or its flow, stands still from pulse to pulse.",
    )  # fmt: skip
    if survey.heat.mixing:
        texts = ("It runs; nobody draws.", "Read the pipe behind the mixing valve after half an hour without a draw.", "It stands where it was set. It creeps up: the return does not reach its cold port.")
        yield _number(Check.MIXED, "What is mixed stays so", FIRST, texts, (HOT,), survey.heat.flow_c, 2.0, Q.TEMPERATURE)


def _branches(survey: CirculatorSurvey, plan: Plan, runs: Steady) -> Iterator[Proof]:
    eq = equations(survey)
    for number in range(1, len(eq.pipes) + 1):
        name, setting = survey.branch_name(number), valve(number)
        if setting in plan:
            turns = plan.value(setting, 0.0)
            texts = ("The pump may run.", "Turn it shut with its key, count the turns back open; write them on its tag.", "So many turns, and the tag says so.")
            yield _number(Check.VALVE, f"Valve of {name}, turns counted", BRANCHES, texts, (HOT,), turns, max(0.1, 0.05 * turns), Q.RATIO, of=str(number))
        if survey.crosses:
            continue
        proves = tuple(one for one in (setting,) if one in plan)
        end_c = runs.warmth.ends_c[number - 1]
        texts = ("In HAND, running until nothing changes any more, nobody draws.", "Read the return pipe of the branch just before it meets the others: under tape and insulation.", "As reckoned. Cooler: too little flow, bare pipe, or air; warmer: it takes the others' water.")
        yield _number(Check.RETURN, f"Return of {name}", BRANCHES, texts, (HOT,), end_c, READS_K, Q.TEMPERATURE, proves, str(number))


def _pump(choices: CirculatorChoices, plan: Plan, runs: Steady) -> Iterator[Proof]:
    asked = tuple(one for one in (S.SPEED, S.SET_PRESSURE, S.SET_FLOW) if one in plan)
    now = runs.running
    texts = ("In HAND, running, nobody draws.", "Read the flow at the pump's display, or at the nipples of the valves and add up.", "As reckoned.")
    yield _number(Check.FLOW, "Flow of the ring", PUMP, texts, (HOT,), now.flow_m3s, max(FLOW_SHARE * now.flow_m3s, 1e-6), Q.LEAK, asked)
    texts = ("The same.", "Read head at the display, or two gauges at the pump's nipples.", "As reckoned. Less: its mode or its number is another; more: something is shut.")
    yield _number(Check.PRESSURE, "What the pump adds", PUMP, texts, (HOT,), now.adds_pa, max(PRESSURE_SHARE * now.adds_pa, 300.0), Q.DIFFERENCE, asked)
    if choices.schools.mode is Mode.RETURN:
        texts = ("Running for so long that nothing changes any more.", "Read the return beside the pump's sensor.", "It holds it there, and does not hunt.")
        yield _number(Check.MODE, "It holds its return", PUMP, texts, (HOT,), plan.value(S.SET_RETURN, 0.0), READS_K, Q.TEMPERATURE, (S.SET_RETURN,))
    yield _yes(
        Check.QUIET, "Quiet at night", PUMP, "Running, the house still.", (), "Listen at pump, valves, and at the pipe where somebody sleeps.", "No hiss, no hum, no gurgle: velocity and pressure are what they should be.",
    )  # fmt: skip


def _taps(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan, runs: Steady) -> Iterator[Proof]:
    if survey.heats:
        return
    eq = equations(survey)
    for number in range(1, len(eq.pipes) + 1):
        name = survey.branch_name(number)
        if runs.warmth.taps_c[number - 1] >= survey.use.hot_c + READS_K:
            waits = wait_s(eq, number - 1, False)
            texts = ("Running for an hour, nobody has drawn for an hour.", "Open the farthest hot tap alone and take the time until it is hot to the hand, or to a thermometer.", "Hot after this time.")
            yield _number(Check.WAIT, f"Wait at the farthest tap, {name}", TAPS, texts, (HOT,), waits, max(LEAST_TIME_S, TIME_SHARE * waits), Q.TIME, of=str(number))
        if survey.crosses and choices.schools.mode is not Mode.LEARNING:
            lasts = warm_cold_s(eq, choices, number - 1, runs)
            if not 0.0 < lasts < math.inf:
                continue
            texts = ("Running for two hours, nobody has drawn.", "Open the cold tap beside it alone and take the time until it runs cold.", "Cold after this time. Longer: its crossover valve passes more than is set. Never: it leaks by.")
            proves = tuple(one for one in (crossing(number),) if one in plan)
            yield _number(Check.COLD, f"The cold tap runs cold, {name}", TAPS, texts, (), lasts, max(5.0, TIME_SHARE * lasts), Q.TIME, proves, str(number))


def recovers_s(survey: CirculatorSurvey) -> float:
    """How long a store may take until it has made good a draw of DRAW_S at its first tap, and half as much again. [s]"""
    branch, heat = survey.branches[0], survey.heat
    drawn_j = CARRIES_JM3K * branch.tap_m3s * DRAW_S * max(0.0, heat.flow_c - heat.cold_c)
    left_w = heat.watts - lost_w(equations(survey), (1e-5,) * len(survey.branches), equations(survey).warmth((1e-5,) * len(survey.branches)), heat.flow_c)
    return 900.0 + 1.5 * drawn_j / max(0.2 * heat.watts, left_w)


def rests_by_clock(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> bool:
    """Whether its own clock alone lets it rest at some time of the week, and run at another."""
    runs = running(survey, choices, plan.value(S.LEAD, 0.0))
    alone = survey.control.outside is Outside.NONE
    return by_clock(survey, choices) and alone and bool(runs) and bool(rests(runs))


def _hours(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> Iterator[Proof]:
    if rests_by_clock(survey, choices, plan):
        yield _yes(Check.STOPS, "It rests outside its hours", HOURS, "In AUTO, its clock right, within its hours.", (STARTING,), "Wait for the end of its hours, or set its clock close before it.", "It ran through its hours, stops within a minute of their end, and stays so until its next hour. Then set the clock right again.")
        if S.LEAD in plan:
            lead = plan.value(S.LEAD, 0.0)
            texts = ("In AUTO, at rest for long.", "Set its clock close before its start; read when it starts.", "So long before the warm time begins.")
            yield _number(Check.STARTS, "It starts by its lead", HOURS, texts, (STARTING,), lead, 90.0, Q.DURATION, (S.LEAD,))
            yield _yes(
                Check.IN_TIME, "Warm when people come", HOURS, "At rest for a night.", (HOT, STARTING), "Feel the pipe at the farthest tap when the warm time begins, before anybody draws.", "It is hot there by then.", (S.LEAD,),
            )  # fmt: skip
    if by_clock(survey, choices):
        keeps = survey.control.clock_backup
        seen = "Its clock still tells the time, and its hours are kept." if keeps else "It says that its clock is not set; its owner knows how to set it, and that it goes by a wrong one until then."
        yield _yes(Check.CLOCK, "Its clock after a power cut", HOURS, "Its clock is right.", (SHOCK, STARTING), "Switch its supply off for a quarter of an hour, and on.", seen, decided="keeps" if keeps else "loses")


def _limits(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> Iterator[Proof]:
    outside, wins = survey.control.outside, choices.schools.wins
    if not survey.heats and not survey.crosses:
        yield _yes(
            Check.BACKFLOW, "No cold water comes up the return", LIMITS, "The pump in OFF, the ring hot.", (HOT,), "Open the farthest hot tap for five minutes; feel the return at the pump.",
            "The tap gets hot and stays so; the return cools slowly, as it would anyway. Cold within a minute: the check valve hangs, or none is there.",
        )  # fmt: skip
    if not survey.heats and survey.heat.kind is not HeatKind.INSTANTANEOUS:
        yield _yes(
            Check.HEAT, "The heat keeps up", LIMITS, "In HAND, the store at its temperature.", (HOT,), f"Draw at a tap for ten minutes, shut it, and look at the store again after {round(recovers_s(survey) / 60.0)} minutes.",
            "It stands at its temperature again, within two degrees.",
        )  # fmt: skip
    if survey.heat.kind is HeatKind.INSTANTANEOUS:
        yield _yes(Check.LIT, "The heater stays lit", LIMITS, "Running, nobody draws.", (HOT,), "Watch its flame or its display for a quarter of an hour.", "It stays lit, or lights again by itself, for as long as the ring runs.")
    if outside is Outside.BUILDING:
        both = {Wins.BOTH: "within its hours only", Wins.EITHER: "at any hour", Wins.OUTSIDE: "at any hour"}[wins]
        yield _yes(Check.OUTSIDE, "The building's contact", LIMITS, "In AUTO, within its hours.", (STARTING,), "Have the building's control ask, and rest.", f"It runs when asked, {both}; and which of the two counts is written at the pump.")
    if outside is Outside.BUTTON and not (wins is Wins.EITHER and not by_clock(survey, choices)):
        lasts = plan.value(S.BUTTON_RUN, 0.0)
        texts = ("In AUTO, within its hours, at rest.", "Push the button, and take the time until the pump rests again.", "It runs so long.")
        yield _number(Check.BUTTON, "A push runs it", LIMITS, texts, (STARTING,), lasts, max(30.0, 0.05 * lasts), Q.DURATION, (S.BUTTON_RUN,))
    if outside is Outside.THERMOSTAT:
        for setting, of, words in ((S.STAT_STOP, "stop", "Let it run from cool and read the return when it stops."), (S.STAT_START, "start", "Let the ring cool and read the return when it starts.")):
            texts = ("In AUTO, within its hours, nobody draws.", words, "At this temperature.")
            yield _number(Check.STAT, f"The thermostat's {of}", LIMITS, texts, (STARTING, HOT), plan.value(setting, math.nan), READS_K, Q.TEMPERATURE, (setting,), of)
    if outside is Outside.THERMOSTAT or choices.schools.mode is Mode.RETURN:
        yield _yes(Check.SENSOR, "A dead sensor is told", LIMITS, "Running.", (SHOCK,), "Pull the plug of the sensor at the return for a minute; put it back.", "It says so, and runs on: warm, rather than cold.")
    if S.KICK_EVERY in plan:
        yield _yes(Check.KICK, "It turns for a moment in long rests", LIMITS, "At rest.", (STARTING,), "Read the function at the device; where it has a test, use it.", "It is on, with the interval of the sheet.", (S.KICK_EVERY,))


def _last() -> Iterator[Proof]:
    yield _yes(
        Check.OWNER, "The owner changes an hour alone", LAST, "Everything else is made.", (), "Hand over the card; have the owner move one hour and move it back, set the clock, and say what stays as it is.",
        "Hours and clock are the owner's; valves, mode and temperatures are not. The owner knows what to do after weeks away, and about scalding.",
    )  # fmt: skip
    yield _yes(Check.AUTO, "Left in AUTO", LAST, "Every other proof is made.", (STARTING,), "Switch or mode in AUTO, clock right, valves tagged, insulation closed again.", "AUTO is seen; nothing drips; nothing is bare.")
