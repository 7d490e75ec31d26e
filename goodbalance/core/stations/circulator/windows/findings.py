"""What is wrong with a ring and its plan, beyond windows that are empty."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Finding, Plan, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.stations.circulator.names import Mode
from goodbalance.core.stations.circulator.names import SettingId as S
from goodbalance.core.stations.circulator.plant.equations import RingEquations, equations
from goodbalance.core.stations.circulator.plant.laws import is_able
from goodbalance.core.stations.circulator.plant.steady import Steady
from goodbalance.core.stations.circulator.plant.year import lost_w
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices, Hours, Wins
from goodbalance.core.stations.circulator.survey.heat import HeatKind
from goodbalance.core.stations.circulator.survey.hours import by_clock, running, typed
from goodbalance.core.stations.circulator.survey.pipes import Emitter, ValveKind
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.survey.use import Outside
from goodbalance.core.stations.circulator.windows.consequences import NEAR_K, at_rest
from goodbalance.core.stations.shared.facts import controls_not_off
from goodbalance.core.stations.shared.week import DAY_S, lasts_s, missing_s, most_rest_in_a_day_s, rests, spans

STOP, CAUTION, NOTE = Severity.STOP, Severity.CAUTION, Severity.NOTE
SENSIBLE = {Emitter.RADIATORS: Mode.PROPORTIONAL, Emitter.UNDERFLOOR: Mode.PRESSURE, Emitter.SINGLE_PIPE: Mode.SPEED}
WHY = {Emitter.RADIATORS: "their valves close one after the other", Emitter.UNDERFLOOR: "its loops lose most of the pressure themselves", Emitter.SINGLE_PIPE: "its flow must not change"}
SAID = {Mode.PROPORTIONAL: "a proportional pressure", Mode.PRESSURE: "a constant pressure", Mode.SPEED: "a fixed speed"}


def _deg(symbol: str, value: float) -> Term:
    return Term(symbol, "", value, Q.TEMPERATURE)


def findings(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> tuple[Finding, ...]:
    """Every one, gravest first."""
    eq, runs = equations(survey), at_rest(survey, choices, plan)
    found = [*_mode(survey, choices), *_cold(eq, choices, runs), *_hot(survey, choices), *_heat(eq, runs), *_source_hours(survey, choices, plan), *_pump(survey), *_hours(survey, choices, plan), *_outside(survey, choices)]
    if survey.heats:
        found += _heating(survey, choices)
    else:
        found += _water(survey, choices)
    found += controls_not_off(survey.visit.controls_off)
    weights = {STOP: 0, CAUTION: 1, NOTE: 2}
    return tuple(sorted(found, key=lambda finding: weights[finding.severity]))


def _mode(survey: CirculatorSurvey, choices: CirculatorChoices) -> Iterator[Finding]:
    if not is_able(survey.pump, choices.schools.mode):
        yield Finding("mode_unknown", STOP, "schools.mode", "This pump does not know the mode that is chosen, by the survey: choose another mode, or another pump.")
    if choices.schools.mode is Mode.LEARNING:
        text = "It learns from a week's habits: in the first week it runs always, after a holiday it is late, and no rest or temperature is promised. Hygiene must not hang on it."
        yield Finding("learning", CAUTION if not survey.heats else NOTE, "schools.mode", text)


def _cold(eq: RingEquations, choices: CirculatorChoices, runs: Steady) -> Iterator[Finding]:
    """Branches under the rule, as they run."""
    survey, rules = eq.survey, choices.rules
    if survey.heats:
        return
    where, asked = (runs.warmth.taps_c, survey.use.hot_c) if survey.crosses else (runs.warmth.ends_c, rules.least_return_c)
    for number, at_c in enumerate(where):
        if at_c < asked - NEAR_K:
            name = survey.branch_name(number + 1)
            terms = _deg("t", at_c), _deg("l", asked), Term("q", "", runs.running.branches_m3s[number], Q.LEAK)
            text = f"With {{q}} {name} ends at {{t}}; {{l}} is asked there. Open its valve, throttle the others, or give the pump more; insulate."
            yield Finding(f"cool_{number + 1}", STOP, f"valve_{number + 1}", text, terms)
    for number, branch in enumerate(survey.branches):
        if branch.valve is not ValveKind.THERMOSTATIC:
            continue
        name, closes = survey.branch_name(number + 1), _deg("s", branch.closes_c)
        if survey.crosses:
            text = f"The crossover valve of {name} shuts at {{s}}: once it is hot nothing comes back, and the cold pipe cools. A return temperature cannot be promised there; the cold pipe needs a limit of its own."
            yield Finding(f"closes_{number + 1}", NOTE, f"branch_{number + 1}.valve", text, (closes,))
        elif branch.closes_c < rules.least_return_c:
            text = f"The thermostatic valve of {name} shuts at {{s}}, under the {{l}} that is asked: its return can never be that warm. A warmer one."
            yield Finding(f"closes_{number + 1}", STOP, f"branch_{number + 1}.closes_c", text, (closes, _deg("l", rules.least_return_c)))


def _hot(survey: CirculatorSurvey, choices: CirculatorChoices) -> Iterator[Finding]:
    heat, rules = survey.heat, choices.rules
    if heat.mixing and not heat.to_cold:
        text = "The return does not go to the cold port of the mixing valve: while nobody draws, the ring creeps up to {t}, and the first hand is scalded. Pipe it to both, or lock the ring out."
        yield Finding("creeps", STOP, "heat.to_cold", text, (_deg("t", heat.set_c),))
    if heat.mixing and heat.mixed_c > heat.set_c:
        yield Finding("mixes_up", STOP, "heat.mixed_c", "The mixing valve is set to {m}, over the {t} behind it: it mixes nothing.", (_deg("m", heat.mixed_c), _deg("t", heat.set_c)))
    if not survey.heats and heat.flow_c > rules.scald_c:
        text = "Taps get {t}; {s} is the limit against scalding. Valves against scalding at the taps, or mix it down: by the local rule."
        yield Finding("scalds", CAUTION, "heat.set_c", text, (_deg("t", heat.flow_c), _deg("s", rules.scald_c)))


def _heat(eq: RingEquations, runs: Steady) -> Iterator[Finding]:
    """Whether the source can do it, stays lit, and likes its return."""
    heat, now = eq.survey.heat, runs.running
    gives = sum(branch.load_w for branch in eq.survey.branches) if eq.survey.heats else 0.0
    loses = lost_w(eq, now.branches_m3s, runs.warmth, eq.flow_c)
    if loses + gives > heat.watts:
        terms = Term("l", "", loses + gives, Q.POWER), Term("w", "", heat.watts, Q.POWER)
        yield Finding("weak", STOP, "heat.watts", "The ring asks {l}, and the heat gives {w}: it cools until they agree.", terms)
    if heat.kind is HeatKind.INSTANTANEOUS and now.flow_m3s < heat.least_m3s:
        terms = Term("q", "", now.flow_m3s, Q.LEAK), Term("n", "", heat.least_m3s, Q.LEAK)
        yield Finding("unlit", STOP, "heat.least_m3s", "The ring runs {q}; the heater stays lit from {n} on: it goes out, and the ring cools.", terms)
    if heat.kind is HeatKind.LOW_TEMPERATURE and runs.warmth.back_c > heat.highest_return_c:
        terms = _deg("t", runs.warmth.back_c), _deg("h", heat.highest_return_c)
        text = "Water comes back at {t}; the source wants at most {h}. Fewer hours, a small heater of its own for the ring, or an exchanger: its maker says."
        yield Finding("warm_return", CAUTION, "heat.highest_return_c", text, terms)


def _source_hours(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> Iterator[Finding]:
    """A low-temperature source that serves the ring for longer than its maker allows."""
    mean_s = lasts_s(running(survey, choices, plan.value(S.LEAD, 0.0))) / 7.0
    if survey.heat.kind is HeatKind.LOW_TEMPERATURE and mean_s > survey.heat.hours_day_s + 60.0:
        terms = Term("r", "", mean_s, Q.HOURS), Term("a", "", survey.heat.hours_day_s, Q.HOURS)
        yield Finding("source_hours", CAUTION, "heat.hours_day_s", "It runs {r} a day in the mean; the source may serve it for {a}. Fewer hours, or another heat for the ring.", terms)


def _pump(survey: CirculatorSurvey) -> Iterator[Finding]:
    pump = survey.pump
    if not pump.check_valve and not survey.heats:
        yield Finding("no_check_valve", STOP, "pump.check_valve", "No check valve: when a tap is opened while the pump rests, cold water comes up the return, and the tap mixes both. Fit one at the pump.")
    if not pump.shaft_level:
        yield Finding("shaft", STOP, "pump.shaft_level", "Its shaft stands upright: the bearings run dry and air stays in it. Turn it until the shaft lies level.")
    if not pump.vented:
        yield Finding("not_vented", CAUTION, "pump.vented", "Pump and ring are not noted as vented: it must not run dry, not even to listen. Fill, vent, then pulses until it is quiet.")
    if pump.ring_pa < pump.inlet_pa:
        terms = Term("p", "", pump.ring_pa, Q.PRESSURE), Term("n", "", pump.inlet_pa, Q.PRESSURE)
        yield Finding("low_inlet", STOP, "pump.ring_pa", "The ring stands at {p}; the pump wants {n} at its inlet: it boils there, and hisses.", terms)


def _hours(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> Iterator[Finding]:
    """Times that are no times, that miss what is wanted, or that rest too long; and that rest is meant so."""
    if not by_clock(survey, choices):
        return
    lead_s, rules = plan.value(S.LEAD, 0.0), choices.rules
    times, runs = typed(survey, choices, lead_s), running(survey, choices, lead_s)
    subject = "hours.count" if choices.schools.hours is Hours.OWN else "use.periods"
    for number, each in enumerate(times, 1):
        if each.lasts_s <= 0.0:
            path = f"hours.from_{number}_h" if choices.schools.hours is Hours.OWN else f"use.from_{number}_h"
            yield Finding(f"no_length_{number}", STOP, path, f"Time {number} begins when it ends: it never runs.")
    missed = missing_s(spans(survey.use.wanted), runs)
    if missed > 60.0:
        text = "Of the hours in which it is wanted warm, {m} of the week are not covered: people find it cold."
        yield Finding("not_covered", STOP if not runs else CAUTION, subject, text, (Term("m", "", missed, Q.HOURS),))
    if choices.schools.hours is Hours.WANTED and any(period.from_s < lead_s for period in survey.use.wanted):
        yield Finding("lead_cut", CAUTION, subject, "A warm time begins so soon after midnight that its lead does not fit on the same day: begin it the evening before, over midnight.")
    most = most_rest_in_a_day_s(runs)
    if not survey.heats and most > rules.longest_rest_s + 1.0:
        terms = Term("r", "", most, Q.HOURS), Term("l", "", rules.longest_rest_s, Q.HOURS)
        text = "Rests add up to {r} of 24 hours; the rule allows {l}. Bacteria grow in water that stands and cools: more hours, or always."
        yield Finding("stagnant", STOP, "schools.hours", text, terms)
    longest = max((end - begin for begin, end in rests(runs)), default=0.0)
    if not survey.heats and longest > DAY_S:
        yield Finding("long_rest", CAUTION, subject, "It rests for {r} at a stretch: afterwards draw every tap hot before anybody showers, by the local rule.", (Term("r", "", longest, Q.HOURS),))
    if runs and rests(runs):
        yield Finding("stands_still", NOTE, "schools.hours", "Outside its hours it stands still: that is right, and not a fault. Cool pipes at night are meant so.")


def _outside(survey: CirculatorSurvey, choices: CirculatorChoices) -> Iterator[Finding]:
    control, schools = survey.control, choices.schools
    if control.outside is Outside.NONE:
        return
    how = {
        Wins.BOTH: "It runs only where its clock and the outside control both ask.", Wins.EITHER: "It runs where its clock or the outside control asks.",
        Wins.OUTSIDE: "Only the outside control starts and stops it; its own clock stands on always.",
    }[schools.wins]  # fmt: skip
    yield Finding("who_wins", NOTE, "schools.wins", how)
    if control.outside is Outside.BUILDING and control.building_timer and by_clock(survey, choices):
        text = "Two clocks in series: the building's control has hours of its own, and the pump too. It runs only where both agree, and nobody will find out why. Set one of them to always."
        yield Finding("two_clocks", STOP if schools.wins is Wins.BOTH else CAUTION, "control.building_timer", text)
    if schools.wins is Wins.EITHER and not by_clock(survey, choices):
        yield Finding("never_rests", CAUTION, "schools.wins", "Either may ask, and its own clock asks always: the outside control changes nothing. Both, or the outside alone.")
    if control.outside is Outside.BUTTON and schools.wins is Wins.BOTH and by_clock(survey, choices):
        yield Finding("button_in_hours", CAUTION, "schools.wins", "A push outside its hours does nothing: people push again and again. Either, or the button alone.")


def _water(survey: CirculatorSurvey, choices: CirculatorChoices) -> Iterator[Finding]:
    if not choices.rules.source.strip():
        yield Finding("no_rule", CAUTION, "rules.source", "The rule in force on hygiene is not named: least return, longest rest and limits are ours until the local code says otherwise.")
    if survey.heat.kind is HeatKind.INSTANTANEOUS and by_clock(survey, choices):
        yield Finding("instant_hours", NOTE, "heat.kind", "An instantaneous heater holds nothing: after each rest the whole ring is warmed anew, and it lights for the ring alone.")
    if survey.crosses:
        text = "The cold pipe is the way back: a return rule cannot be kept in it, and cold taps run warm for a while. Where the local rule forbids that, a return pipe."
        yield Finding("crosses", CAUTION, "ring.kind", text)


def _heating(survey: CirculatorSurvey, choices: CirculatorChoices) -> Iterator[Finding]:
    emitters = {branch.emitter for branch in survey.branches}
    for emitter in sorted(emitters):
        sensible = SENSIBLE[emitter]
        if choices.schools.mode not in (sensible, Mode.RETURN, Mode.LEARNING):
            yield Finding(f"emitter_{emitter}", NOTE, "schools.mode", f"For {emitter.value.replace('_', ' ')} {SAID[sensible]} is the sensible mode: {WHY[emitter]}.")
    if len(emitters) > 1:
        yield Finding("emitters_differ", CAUTION, "branch_2.emitter", "Circuits of unlike emitters hang on one pump: each wants a mode and a temperature of its own; a mixing group for one of them.")
    if survey.heat.boiler_least_m3s > 0.0 and not survey.heat.bypass and Emitter.RADIATORS in emitters:
        terms = (Term("q", "", survey.heat.boiler_least_m3s, Q.LEAK),)
        yield Finding("no_bypass", STOP, "heat.bypass", "When the radiators' valves close nothing keeps the boiler's {q}: it overheats and locks out. A bypass that opens by pressure.", terms)
    for number, branch in enumerate(survey.branches, 1):
        if survey.heat.flow_c - branch.drop_k <= branch.room_c:
            yield Finding(f"drop_{number}", STOP, f"branch_{number}.drop_k", "Water that cools so far ends as cool as the room: less drop, or hotter water.")
