"""A lift station while it runs: what its controller tells, what the plan expects then, and what a trend of it proves."""

from collections.abc import Iterator, Mapping

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.relays import LevelRelay
from goodbalance.core.rehearsal.engine import Run
from goodbalance.core.rehearsal.events import Doing, Event
from goodbalance.core.rehearsal.proving import Seen
from goodbalance.core.stations.lift import wording
from goodbalance.core.stations.lift.bench import looks
from goodbalance.core.stations.lift.bench.put_on import lift_bench
from goodbalance.core.stations.lift.bench.rehearse import LiftBench
from goodbalance.core.stations.lift.controller.program import LiftProgram, program_of
from goodbalance.core.stations.lift.names import STARTS, Alarm, Check, Outcome, Role
from goodbalance.core.stations.lift.plant.hydraulics import hydraulics
from goodbalance.core.stations.lift.survey.choices import AlarmReset, LiftChoices
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.shared.live import (
    SWITCH,
    Channel,
    Expected,
    Rows,
    control_channels,
    expected_of_controls,
    of_controls,
)

SLACK_S = 3.0  # for a scan, a poll and a contactor
ALARMS: dict[str, str] = {
    Alarm.HIGH: "High level", Alarm.LOW: "Low level", Alarm.SENSOR: "Level signal", Alarm.PHASE: "Phases", Alarm.PUMP: "Pump given up",
    Alarm.SUSPECT: "Pump needs help", Alarm.LONG_RUN: "Ran too long", Alarm.STARTS: "Too many starts", Alarm.SEAL: "Water in a seal", Alarm.NODE: "Drive silent", Alarm.LINK: "Link between drives", Alarm.INPUT: "Level input of a drive", Alarm.WAITS: "Waits after a power cut",
}  # fmt: skip
MEASURED = {"level_m": ("Level", Q.LEVEL), "inflow_m3s": ("Inflow", Q.FLOW), "outflow_m3s": ("Pumped", Q.FLOW), "speed": ("Speed", Q.PERCENT)}


class LiftLive:
    """Level, pumps, relays and floats, switches and alarms."""

    def channels(self, survey: LiftSurvey, choices: LiftChoices, plan: Plan) -> tuple[Channel, ...]:
        """By the columns of its bench, then what people see at the panel."""
        bench = lift_bench(survey, choices, plan)
        own = tuple(_channel(name, bench.logic.relays + bench.logic.floats) for name in bench.columns)
        return (*own, *control_channels(bench.logic.panel.pump_count, ALARMS))

    def told(self, bench: LiftBench, at_s: float) -> dict[str, float]:
        """What a stand-in tells of itself."""
        own = dict(zip(bench.columns, bench.sample(at_s), strict=True))
        return own | of_controls(bench.logic.panel.switches, bench.alarms, Alarm)

    def expected(self, survey: LiftSurvey, choices: LiftChoices, plan: Plan, now: Mapping[str, float]) -> tuple[Expected, ...]:
        """Every contact by the level, pumps by the calls, alarms by both."""
        return tuple(_expected(survey, choices, plan, now))

    def seen_in(
        self, survey: LiftSurvey, choices: LiftChoices, plan: Plan, proofs: tuple[Proof, ...], names: tuple[str, ...], rows: Rows
    ) -> dict[str, Seen]:
        """The levels at which contacts moved and pumps stopped, and who led."""
        return _seen_in(program_of(survey, choices, plan).relays, proofs, names, rows)


def _channel(name: str, relays: tuple[LevelRelay, ...]) -> Channel:
    if name in MEASURED:
        return Channel(name, *MEASURED[name])
    kind, _, of = name.partition("_")
    if kind == "pump":
        return Channel(name, f"Pump {of}", words=("stands", "runs"))
    relay = next((relay for relay in relays if relay.role == of), None)
    label = of if relay is None else relay.label
    if kind == "relay":
        return Channel(name, f"Relay {relay.number}: {label.lower()}" if relay is not None and relay.number else label, words=("let go", "pulled"))
    return Channel(name, label if "float" in label.lower() else f"{label} float", words=("open", "closed"))


def _expected(survey: LiftSurvey, choices: LiftChoices, plan: Plan, now: Mapping[str, float]) -> Iterator[Expected]:
    program, hyd = program_of(survey, choices, plan), hydraulics(survey)
    level_m, step_m = now.get("level_m", 0.0), max(choices.step_m, hyd.reading_margin_m)
    if survey.sensor is not None:
        ends = Term("low", "", hyd.sensor_low_m, Q.LEVEL), Term("high", "", hyd.sensor_low_m + hyd.sensor_span_m, Q.LEVEL)
        yield Expected("level_m", "{low} to {high}, what the sensor reads", ends, hyd.sensor_low_m <= level_m <= hyd.sensor_low_m + hyd.sensor_span_m)
    late_s = SLACK_S + program.sensor.fail_delay_s
    for relay in program.relays:
        yield _contact(f"relay_{relay.role}", relay, level_m, step_m, now, late_s)
    for relay in program.floats:
        yield _contact(f"float_{relay.role}", relay, level_m, max(step_m, survey.control.swing_m), now, late_s)
    yield from _pumps(program, plan, level_m, step_m, now)
    high_m, low_m = plan.value(Role.HIGH_ALARM, 1e9), plan.value(Role.LOW_ALARM, -1e9)
    stays = None if choices.schools.alarm_reset is AlarmReset.BY_HAND else False
    gap_m = survey.control.swing_m if program.alone else choices.rules.relay_gap_m
    alarms: dict[str, bool | None] = dict.fromkeys(ALARMS, False)
    alarms[Alarm.HIGH] = True if level_m >= high_m + step_m else None if level_m > high_m - gap_m - step_m else stays
    alarms[Alarm.LOW] = True if level_m <= low_m - step_m else None if level_m < low_m + gap_m + step_m else stays
    yield from expected_of_controls(now, alarms, late_s)


def _contact(name: str, relay: LevelRelay, level_m: float, step_m: float, now: Mapping[str, float], within_s: float) -> Expected:
    """A relay beyond its two levels stands one way; between them it stands as it came."""
    top_m, bottom_m = max(relay.on_m, relay.off_m), min(relay.on_m, relay.off_m)
    terms = (Term("on", "", relay.on_m, Q.LEVEL), Term("off", "", relay.off_m, Q.LEVEL))
    if bottom_m - step_m < level_m < top_m + step_m:
        return Expected(name, "as it came: moves at {on} and {off}", terms, None)
    must = (level_m >= top_m) is relay.energises_on_rise
    on_pulls = "closed" if name.startswith("float") else "pulled"
    at = "on" if must else "off"
    return Expected(name, f"{on_pulls if must else 'open' if name.startswith('float') else 'let go'}, since {{{at}}}", terms, (now.get(name, 0.0) > 0.5) is must, within_s)


def _pumps(program: LiftProgram, plan: Plan, level_m: float, step_m: float, now: Mapping[str, float]) -> Iterator[Expected]:
    """Pumps in AUTO by the calls: none where the stop is past, as many as are called beyond a start."""
    pumps = [name for name in now if name.startswith("pump_")]
    in_auto = [name for name in pumps if round(now.get(SWITCH + name.removeprefix("pump_"), 2.0)) == 2]
    runs = sum(now[name] > 0.5 for name in in_auto)
    starts = [role for role in STARTS if role in plan]
    calls = sum(level_m >= plan.value(role, 0.0) + step_m for role in starts)
    stop_m = min((plan.value(role, 0.0) for role in plan_stops(plan)), default=None)
    timing = program.timing
    for name in pumps:
        on = now[name] > 0.5
        if name not in in_auto:
            yield Expected(name, "by hand, as its switch says", (), None)
        elif stop_m is not None and level_m <= stop_m - step_m:
            stays_s = SLACK_S + timing.stop_delay_s + timing.min_run_s
            yield Expected(name, "stands: below the stop, {stop}", (Term("stop", "", stop_m, Q.LEVEL),), not on, stays_s)
        elif not on and runs < min(calls, len(in_auto)):
            waits_s = SLACK_S + timing.start_delay_s + timing.min_off_s + timing.start_gap_s * (runs + 1)
            start = Term("start", "", plan.value(starts[runs], 0.0), Q.LEVEL)
            yield Expected(name, f"one more runs: {calls} called, the next from {{start}}", (start,), False, waits_s)
        else:
            yield Expected(name, f"{calls} called" if calls else "as it came, until the stop", (), True if calls and on else None)


def plan_stops(plan: Plan) -> list[Role]:
    """The stop levels of a plan."""
    return [Role(setting.id) for setting in plan.group("levels") if Role(setting.id).is_stop]


def _seen_in(relays: tuple[LevelRelay, ...], proofs: tuple[Proof, ...], names: tuple[str, ...], rows: Rows) -> dict[str, Seen]:
    """What a trend shows, read as a bench run is. What moved did so between two rows: half way counts, if they are close enough."""
    if "level_m" not in names:
        return {}
    turns = {relay.role: relay.energises_on_rise for relay in relays}
    events, doubt_m = _events(relays, names, rows)
    run: Run[LiftBench] = Run(None, events=events)  # type: ignore[arg-type]
    found: dict[str, Seen] = {}
    for proof in proofs:
        seen: Seen = None
        match Check(proof.check):
            case Check.UP | Check.DOWN if proof.of in turns:
                pulls = turns[proof.of] is (proof.check == Check.UP)
                moved = looks.contact(run, proof.of, Doing.CLOSES if pulls else Doing.OPENS)
                seen = None if moved is None else moved.value("level")
            case Check.COMMON_STOP:
                seen = looks.stop_level(run)
            case Check.ASSIST:
                seen = looks.joined_level(run, STARTS[int(proof.of) - 1], int(proof.of))
            case Check.ALTERNATION:
                seen = looks.leads(run)[: proof.cycles] if len(looks.leads(run)) >= proof.cycles else None
            case Check.LEAD if proof.expects == Outcome.PUMP_1_LEADS and looks.leads(run):
                seen = set(looks.leads(run)) == {1}
        if seen is not None and (proof.answer is not Answer.NUMBER or doubt_m <= proof.tolerance):
            found[proof.id] = seen
    return found


def _events(relays: tuple[LevelRelay, ...], names: tuple[str, ...], rows: Rows) -> tuple[list[Event], float]:
    """What changed from row to row, as the bench would tell it, and how far off the level of a change may be. [m]"""
    at = {name: place for place, name in enumerate(names)}
    level = at["level_m"]
    contacts = [(relay, at[f"relay_{relay.role}"]) for relay in relays if f"relay_{relay.role}" in at]
    pumps = [(int(name.removeprefix("pump_")) - 1, place) for name, place in at.items() if name.startswith("pump_")]
    found: list[Event] = []
    doubt_m = 0.0
    for (_, before), (now_s, row) in zip(rows, rows[1:]):
        level_m, known = (before[level] + row[level]) / 2.0, len(found)
        for relay, place in contacts:
            if (row[place] > 0.5) is not (before[place] > 0.5):
                found.append(wording.contact_moves(now_s, relay, row[place] > 0.5, False, level_m))
        for pump, place in pumps:
            if (row[place] > 0.5) is not (before[place] > 0.5):
                found.append(wording.pump_moves(now_s, pump, row[place] > 0.5, level_m))
        if len(found) > known:
            doubt_m = max(doubt_m, abs(row[level] - before[level]) / 2.0)
    return found, doubt_m


LIVE = LiftLive()
