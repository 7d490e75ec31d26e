"""Proofs of what pumps, drives and loop do by themselves: the longest run, settling after a step of demand, least and full speed, ramp, delays of joining and leaving."""

import math
from collections.abc import Callable, Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.trips import Beyond
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.proving import HAND, OFF, Scene
from goodbalance.core.stations.booster.bench import looks
from goodbalance.core.stations.booster.bench.looks import BoosterRun
from goodbalance.core.stations.booster.names import Act, Alarm, Check, Mode
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.proofs.scenes import CALM_S, Scenes, Shown, act
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey

GROUP = "Running by itself"
STARTING = "Pumps start by themselves: keep hands and clothes away."
BY_HAND = "Pump 1 in AUTO and running, the others in OFF."
ALONE = "The other pumps stand in OFF: somebody minds the pressure of the house meanwhile."
HOT = "A pump turns slowly against closed outlets: no longer than it takes."
SPEED_SHARE, WATCH_SHARE, LEAST_S, LEAST_SHOWN = 0.02, 0.25, 2.0, 0.06
HUNTS = 0.05  # of full speed: a regulator that moves its pumps by more does not stand
RUNS_S = 25.0  # by when a pump that was called runs
NEAR_PA = 5e3  # by which a reading may be behind the water
FULL, LAST_S = 0.98, 20.0  # of the speed asked for; the end of a scene in which the pressure must stand
CHECKS = frozenset((Check.SETTLES, Check.LEAST_SPEED, Check.MOST_SPEED, Check.RAMP, Check.JOIN_DELAY, Check.LEAVE_DELAY, Check.FILLED, Check.MAX_RUN, Check.LEAST_RUN, Check.TAP_RUNS))
AHEAD_S, ABOUT_S = 180.0, 90.0  # so long before its longest run is over a pump is looked at; by which the alarm may be off
WATCHED = 2.0  # times the delay of the closed-outlet stop


def drive_proofs(survey: BoosterSurvey, plan: Plan, serial: bool, by_flow: bool, long_stops: bool) -> Iterator[Proof]:
    """What runs by itself. serial: whether only the last drive regulates, and leaves where the pressure climbs; by_flow: whether a flow switch puts the set to rest; long_stops: whether a pump that runs too long is given up."""
    if S.MAX_RUN in plan:
        yield Proof(
            Check.MAX_RUN, f"A pump that runs too long {'is given up' if long_stops else 'raises an alarm'}", GROUP, "A pump runs in AUTO; note the number that must go back.", (STARTING,),
            "Lower the longest run to less than it has run by now. Set it back and read it back.", f"The alarm names the pump{', it stops, the next takes over' if long_stops else ''}; the value is back.", Answer.YES_NO, proves=(S.MAX_RUN,), decided="stops" if long_stops else "warns",
        )  # fmt: skip
    if S.CLOSED_DELAY in plan and not by_flow:
        yield _closed(plan.value(S.CLOSED_DELAY, 0.0), survey.holds_constant)
    if S.CLOSED_LOAD in plan:
        yield _tap_runs(plan, survey.holds_constant)
    if S.LEAST_RUN in plan:
        least_s = plan.value(S.LEAST_RUN, 0.0)
        yield Proof(
            Check.LEAST_RUN, f"It runs for {least_s:.0f} s at least", GROUP, "In AUTO and at rest, every tap closed.", (STARTING,), "Draw one glass until a pump starts, close the tap, and take the time until it stops.",
            "It runs at least so long, however soon the pressure is there.", Answer.YES_NO, proves=(S.LEAST_RUN,),
        )  # fmt: skip
    if not survey.holds_constant:
        yield from [_ramp(plan)] if S.RAMP in plan else []
        return
    tuned = tuple(one for one in (S.GAIN, S.RESET_TIME, S.FILTER, S.SETBACK_TIME) if one in plan)
    yield Proof(
        Check.SETTLES, "After a step of demand it settles", GROUP, "In AUTO and at rest, every tap closed.", (STARTING,),
        "Open outlets up to the mean flow at once and watch the gauge until every delay is over.", "The pressure comes back and stands: it does not swing on.",
        Answer.YES_NO, proves=tuned,
    )  # fmt: skip

    def speed(check: Check, setting: str, title: str, before: str, cautions: tuple[str, ...], do: str, see: str) -> Proof:
        return Proof(check, title, GROUP, before, cautions, do, see, Answer.NUMBER, plan.value(setting, 0.0), SPEED_SHARE, Q.PERCENT, proves=(setting,))

    def delay(check: Check, setting: str, title: str, before: str, do: str, see: str) -> Proof:
        seconds = plan.value(setting, 0.0)
        return Proof(check, title, GROUP, before, (STARTING,), do, see, Answer.NUMBER, seconds, max(LEAST_S, WATCH_SHARE * seconds), Q.TIME, proves=(setting,))

    if S.MOST_SPEED in plan:
        yield speed(Check.MOST_SPEED, S.MOST_SPEED, "The fastest it turns", BY_HAND, (STARTING, ALONE), "Open outlets for about what one pump gives, put the loop by and ask for full speed; put it back in auto after.", "It turns at this, and no faster.")
    if plan.value(S.LEAST_SPEED, 0.0) > LEAST_SHOWN:
        yield speed(Check.LEAST_SPEED, S.LEAST_SPEED, "The slowest it turns", BY_HAND, (STARTING, HOT), "Put the loop by and ask for no speed at all; put it back in auto after.", "It turns at this, and no slower.")
    if S.RAMP in plan:
        yield _ramp(plan)
    if survey.pumping.duty_count > 1 and S.JOIN_SPEED in plan:
        yield delay(Check.JOIN_DELAY, S.JOIN_DELAY, "How long the next pump waits", "In AUTO, one pump runs.", "Open outlets wide at once; take the time from its joining speed until the next pump starts.", "The next pump starts after this.")
    if survey.pumping.duty_count > 1 and S.LEAVE_SPEED in plan and not serial:
        yield delay(Check.LEAVE_DELAY, S.LEAVE_DELAY, "How long one pump too many stays", "In AUTO, two pumps run.", "Close all outlets but one tap; take the time from the leaving speed until one stops.", "One stops after this.")
    if S.FILL_PRESSURE in plan:
        yield Proof(
            Check.FILLED, "From the fill pressure on it regulates", GROUP, "Pipes drained, air let out at the top.", (STARTING,), "Switch to AUTO and read the gauge when its speed first changes.",
            "It keeps the filling speed up to the fill pressure and regulates from there on.", Answer.YES_NO, proves=(S.FILL_PRESSURE,),
        )  # fmt: skip


def _ramp(plan: Plan) -> Proof:
    """How long a drive takes from rest to full speed."""
    seconds = plan.value(S.RAMP, 0.0)
    return Proof(
        Check.RAMP, "From rest to full speed", GROUP, "Pump 1 in OFF, its speed in HAND at full.", (STARTING,), "Turn it to HAND and take the time until it turns at full speed.",
        "It takes this long by the watch.", Answer.NUMBER, seconds, max(LEAST_S, WATCH_SHARE * seconds), Q.TIME, proves=(S.RAMP,),
    )  # fmt: skip


def _closed(delay_s: float, constant: bool) -> Proof:
    """What guards a pump against closed outlets where what puts it to rest fails: that is put out of reach for the proof."""
    rests = "sleep speed" if constant else "cut-out"
    where = "to nothing" if constant else "over what the pump can reach, no higher than the pipes stand"
    return Proof(
        Check.CLOSED, "Against closed outlets it is stopped although nothing puts it to rest", GROUP, f"In AUTO, one pump runs; the {rests} noted, and in the list of what must go back.", (STARTING, HOT),
        f"Set the {rests} {where}, close every outlet and take the time. Set it back and read it back.", "The pump stops after this, and an alarm comes.",
        Answer.NUMBER, delay_s, max(10.0, WATCH_SHARE * delay_s), Q.TIME, proves=(S.CLOSED_DELAY, S.CLOSED_LOAD), of="rest",
    )  # fmt: skip


def _tap_runs(plan: Plan, constant: bool) -> Proof:
    """Honest work at a small flow is let be. constant: drives hold the pressure, and sleep at the smallest of all."""
    watch_s = WATCHED * plan.value(S.CLOSED_DELAY, 0.0)
    return Proof(
        Check.TAP_RUNS, "With a tap open no pump counts as closed or dry", GROUP, "In AUTO, every outlet closed.", (STARTING,), f"Open {'two taps' if constant else 'one tap'}, the smallest that must be supplied, and watch for {watch_s:.0f} s.",
        "No alarm of closed outlets comes, and no pump is given up.", Answer.YES_NO, proves=(S.CLOSED_LOAD, *((S.NO_PRIME_LOAD,) if S.NO_PRIME_LOAD in plan else ())),
    )  # fmt: skip


def shown(scenes: Scenes, proof: Proof) -> Shown | None:
    """The scene of one of these proofs and what to look at."""
    count = scenes.survey.pumping.count
    others = tuple(TimedAction(0.0, Act.SWITCH, str(pump), OFF) for pump in range(2, count + 1))
    match Check(proof.check):
        case Check.MAX_RUN:
            return _max_run(scenes)
        case Check.SETTLES:
            swing_pa = 2.0 * max(scenes.choices.rules.regulation_pa, 3.0 * scenes.survey.sensor.noise_pa)
            return scenes.calm(), lambda run: _swings_pa(run) <= swing_pa and _hunts(run) <= HUNTS
        case Check.TAP_RUNS:
            until_s = CALM_S + WATCHED * scenes.wanted.value(S.CLOSED_DELAY, 0.0)
            return scenes.scene("one tap open, watched", until_s, act(1.0, Act.OUTLETS, scenes.tap * (2.0 if scenes.survey.holds_constant else 1.0))), lambda run: not run.bench.logic.closed_noted and not any(run.bench.logic.tripped)
        case Check.MOST_SPEED:
            return _by_hand(scenes, "pump 1 asked for full speed", others, 1.0 / scenes.survey.pumping.duty_count, 1.0), looks.speed_at_end
        case Check.LEAST_SPEED:
            return _by_hand(scenes, "pump 1 asked for no speed", others, scenes.mean, 0.0), looks.speed_at_end
        case Check.RAMP:
            off, hand = TimedAction(0.0, Act.SWITCH, "1", OFF), TimedAction(5.0, Act.SWITCH, "1", HAND)
            until_s = 10.0 + 3.0 * max(scenes.n.ramp_s, scenes.wanted.value(S.RAMP, 0.0))
            return scenes.scene("pump 1 from rest to full", until_s, off, *others, act(0.0, Act.OUTLETS, scenes.mean), act(0.0, Act.HAND_SPEED, 1.0), hand), _to_full_s
        case Check.LEAST_RUN:
            least_s = scenes.wanted.value(S.LEAST_RUN, 0.0)
            fills_s = 4.0 * scenes.store_s + 60.0
            return scenes.scene("a glass drawn", least_s + fills_s, start_pa=max(0.0, scenes.n.cut_in - 1e3)), lambda run: _ran_s(run) >= least_s - 1.0
        case Check.JOIN_DELAY:
            at_s, until_s = CALM_S, CALM_S + 60.0 + 3.0 * scenes.n.join_delay
            acts = (act(1.0, Act.OUTLETS, scenes.tap), act(at_s, Act.OUTLETS, 1.0))
            joins = scenes.wanted.value(S.JOIN_SPEED, 1.0)
            return scenes.scene("outlets wide at once", until_s, *acts), lambda run: _since_s(run, at_s, looks.joined_s(run, at_s), lambda speed: speed >= joins - SPEED_SHARE)
        case Check.LEAVE_DELAY:
            at_s = 2.0 * CALM_S + scenes.calls_s + 60.0
            wide = (act(1.0, Act.OUTLETS, scenes.tap), act(CALM_S, Act.OUTLETS, 1.0))
            leaves = scenes.wanted.value(S.LEAVE_SPEED, 0.0)
            return scenes.scene("all but one tap closed", at_s + 60.0 + 3.0 * scenes.n.leave_delay, *wide, act(at_s, Act.OUTLETS, scenes.tap)), lambda run: _since_s(run, at_s, looks.left_s(run, at_s), lambda speed: speed <= leaves + SPEED_SHARE)
        case Check.FILLED:
            return scenes.scene("pipes drained", min(scenes.n.fill_timeout, 1200.0), act(1.0, Act.DRAIN, 1.0)), lambda run: _filled_pa(run) >= scenes.wanted.value(S.FILL_PRESSURE, 0.0) - NEAR_PA
    return None


def _max_run(scenes: Scenes) -> Shown:
    """A pump that runs without a stop, as if it had done so until shortly before the longest run is over."""
    share, wanted_s, warns = scenes.mean, scenes.wanted.value(S.MAX_RUN, 0.0), scenes.choices.schools.long_run is Beyond.WARNS
    if not scenes.survey.holds_constant:  # so much drawn that the pressure stays between start and stop
        starts_pa, stops_pa = scenes.n.switches[0] if scenes.n.switches else (scenes.n.cut_in, scenes.n.cut_out)
        at_pa = 0.3 * starts_pa + 0.7 * min(stops_pa, scenes.hyd.shut_off_pa())
        share = scenes.opened(scenes.hyd.flow_at(scenes.n.fixed_speed, scenes.hyd.added_m(at_pa, scenes.supply_pa)), at_pa)
    begins_s = CALM_S if scenes.survey.holds_constant else CALM_S + scenes.drains_s
    aged_s = max(0.0, wanted_s - begins_s - AHEAD_S)
    acts = (act(1.0, Act.OUTLETS, share), act(begins_s, Act.RAN, aged_s / 3600.0))

    def look(run: BoosterRun) -> bool:
        begun = next(among(run.events, Thing.PUMP, Doing.STARTS), None)
        told = next(among(run.events, Thing.ALARM, Doing.COMES, of=Alarm.LONG if warns else Alarm.PUMP), None)
        if begun is None or told is None or told.pump != begun.pump:
            return False
        return abs(told.at_s - begun.at_s - wanted_s + aged_s) <= ABOUT_S and (begun.pump - 1 in looks.running_at_end(run)) is warns

    return scenes.scene("a pump runs on and on", wanted_s - aged_s + begins_s + ABOUT_S, *acts), look


def _by_hand(scenes: Scenes, name: str, others: tuple[TimedAction, ...], share: float, speed: float) -> Scene:
    """Pump 1 alone at these outlets; then the loop is put by and asked for a speed."""
    until_s = RUNS_S + 5.0 + 2.0 * scenes.n.ramp_s
    return scenes.scene(name, until_s, *others, act(1.0, Act.OUTLETS, share), act(RUNS_S, Act.LOOP, 0.0), act(RUNS_S + 1.0, Act.LOOP_SPEED, speed))


def _speeds(run: BoosterRun, row: tuple[float, ...]) -> tuple[float, ...]:
    place = run.bench.columns.index("speed_1") + 1
    return row[place : place + len(run.bench.plant.speeds)]


def _last_rows(run: BoosterRun) -> list[tuple[float, ...]]:
    """How it went in the end; with short stops before the last of them, for they disturb it on purpose."""
    stops = [event.at_s for event in among(run.events, Thing.SET, Doing.ENTERS, of=Mode.TESTING)]
    end_s = stops[-1] if stops else math.inf
    last = [row for row in run.trace if row[0] < end_s]
    return [row for row in last if row[0] >= last[-1][0] - LAST_S]


def _swings_pa(run: BoosterRun) -> float:
    """By how much the pressure still moves at the end. [Pa]"""
    place = run.bench.columns.index("pressure_pa") + 1
    last = [row[place] for row in _last_rows(run)]
    return max(last) - min(last)


def _hunts(run: BoosterRun) -> float:
    """By how much the speed of any pump that stays on still moves at the end, a share of full."""
    swings: list[float] = [max(each) - min(each) for each in zip(*(_speeds(run, row) for row in _last_rows(run)))]
    return max(swings)


def _to_full_s(run: BoosterRun) -> float | None:
    """From the start of pump 1 to full speed. [s]"""
    starts = next(among(run.events, Thing.PUMP, Doing.STARTS, pump=1, after_s=1.0), None)
    full_s = next((row[0] for row in run.trace if starts is not None and row[0] > starts.at_s and _speeds(run, row)[0] >= FULL), None)
    return None if starts is None or full_s is None else full_s - starts.at_s


def _since_s(run: BoosterRun, after_s: float, moved_s: float | None, there: Callable[[float], bool]) -> float | None:
    """From the moment that a pump's speed is there until one joined or left. [s]"""
    begins_s = next((row[0] for row in run.trace if row[0] > after_s and any(n > 0.0 and there(n) for n in _speeds(run, row))), None)
    return None if moved_s is None or begins_s is None else max(0.0, moved_s - begins_s)


def _filled_pa(run: BoosterRun) -> float:
    """The pressure at which slow filling ended and it began to regulate; none where it did not. [Pa]"""
    regulates = next(among(run.events, Thing.SET, Doing.ENTERS, of=Mode.RUNNING), None)
    return -math.inf if regulates is None else regulates.value("p") or 0.0


def _ran_s(run: BoosterRun) -> float:
    """How long the first run took; nothing where none began, or did not end."""
    begins, ends = (next(among(run.events, Thing.PUMP, doing), None) for doing in (Doing.STARTS, Doing.STOPS))
    return ends.at_s - begins.at_s if begins is not None and ends is not None else 0.0
