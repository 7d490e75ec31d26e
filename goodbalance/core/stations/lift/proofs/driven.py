"""Proofs of drives and of what comes from outside, on the bench: speeds, a team without its leader, the run command, local and remote."""

from goodbalance.core.balance.proof import Proof
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.events import Doing, Thing, among
from goodbalance.core.rehearsal.proving import OFF, Scene
from goodbalance.core.stations.lift.bench import looks
from goodbalance.core.stations.lift.bench.looks import LiftRun, is_up, running_at_end
from goodbalance.core.stations.lift.names import Act, Alarm, Check, Outcome, PumpFault, Role, StationFault
from goodbalance.core.stations.lift.names import SettingId as S
from goodbalance.core.stations.lift.proofs.functions import SPEED_SHARE
from goodbalance.core.stations.lift.proofs.pace import HAND, holding_m3s
from goodbalance.core.stations.lift.proofs.scenes import BROKEN_AT_S, Scenes, Shown

SWINGS_M = 0.06  # in five minutes: more is not standing still


def shown(scenes: Scenes, proof: Proof) -> Shown | None:
    """The scene of one of these proofs and what to look at; None for what is done at a drive's own keys."""
    if proof.of == HAND:
        return None
    match Check(proof.check):
        case Check.FULL_SPEED:
            if proof.of == "falling":
                return _slow_fall(scenes), lambda run: looks.full_speed_level(run, False)
            return _slow_rise(scenes), looks.full_speed_level
        case Check.ECONOMICAL:
            return _at_speed(scenes, "economical speed", 0.5 * scenes.plan.value(S.ECONOMICAL_SPEED, 1.0)), looks.speed_at_end
        case Check.LEAST_SPEED:
            return scenes.cycles() if scenes.plan.value(S.FULL_SPEED_LEVEL, 0.0) else _drawn_down(scenes), _slowest
        case Check.RAMP:
            pumps = range(2, scenes.hyd.pump_count + 1)
            acts = (TimedAction(0.0, Act.INFLOW, "", scenes.hyd.strongest_m3s(1, scenes.top_m)), *(TimedAction(0.0, Act.SWITCH, str(pump), OFF) for pump in pumps))
            until_s = 20.0 + scenes.gap_s + scenes.plan.value(S.CALL_DELAY, 0.0) + 3.0 * scenes.plan.value(S.RAMP, 0.0)
            return Scene("started over the full-speed level", scenes.top_m, acts, until_s), _to_full_s
        case Check.HOLDS:
            return _steady(scenes), _stands_m
        case Check.OUTSIDE:
            told = TimedAction(0.0, Act.OUTSIDE, "", 0.0 if proof.of == "empty" else 1.0)
            return _at_speed(scenes, f"{proof.of} outside signal", 0.5, told), looks.speed_at_end
        case Check.OUTSIDE_LOST:
            return _outside_lost(scenes, Outcome(proof.expects))
        case Check.BACKWARDS:
            turns = TimedAction(0.0, PumpFault.BACKWARDS, "1", 1.0)
            return scenes.running_scene("pump 1 turns backwards", turns), lambda run: 0 not in running_at_end(run)
        case Check.RUN_CONTACT | Check.LOCAL:
            local = proof.check == Check.LOCAL
            acts = (TimedAction(0.0, Act.REMOTE, "", 0.0 if local else 1.0), TimedAction(BROKEN_AT_S, Act.RUN, "", 0.0))
            return scenes.running_scene("the run command is taken away", *acts), lambda run: bool(running_at_end(run)) is local
    return _team(scenes, Check(proof.check), Outcome(proof.expects))


def _at_speed(scenes: Scenes, name: str, share: float, *actions: TimedAction) -> Scene:
    """One pump runs long enough to come to its speed, while so much of its flow comes in."""
    flow = TimedAction(0.0, Act.INFLOW, "", share * scenes.hyd.strongest_m3s(1, scenes.stop_m))
    until_s = scenes.plan.value(S.CALL_DELAY, 0.0) + scenes.plan.value(S.RAMP, 0.0) + 20.0
    return Scene(name, min(scenes.start_m + 0.02, scenes.top_m), (flow, *actions), until_s)


def _slow_rise(scenes: Scenes) -> Scene:
    """A pump started by a slow rise; then a centimetre in twenty seconds more than it takes at full speed, up through that level."""
    rises_m3s = 0.0005 * scenes.hyd.well.area_m2(scenes.start_m)
    runs_s = scenes.plan.value(S.CALL_DELAY, 0.0) + 30.0  # a centimetre under its start, then at it for its delay
    calls = TimedAction(0.0, Act.INFLOW, "", rises_m3s)
    more = TimedAction(runs_s, Act.INFLOW, "", scenes.hyd.strongest_m3s(1, scenes.hyd.fast_level_m) + rises_m3s)
    full_m = scenes.plan.value(S.FULL_SPEED_LEVEL, scenes.start_m)
    until_s = runs_s + max(0.2, full_m - scenes.stop_m + 0.3) / 0.0003
    return Scene("slowly up to full speed", max(0.0, scenes.start_m - 0.01), (calls, more), until_s)


def _slow_fall(scenes: Scenes) -> Scene:
    """A pump started at its start level, which lies over that of full speed; then it draws the well slowly down through it."""
    calls_s = scenes.plan.value(S.CALL_DELAY, 0.0) + 60.0
    one_m3s = scenes.hyd.strongest_m3s(1, scenes.stop_m)
    calls, less = TimedAction(0.0, Act.INFLOW, "", 0.0006 * scenes.hyd.well.area_m2(scenes.start_m)), TimedAction(calls_s, Act.INFLOW, "", 0.6 * one_m3s)
    volume_m3 = scenes.hyd.well.volume_m3(scenes.top_m) - scenes.hyd.well.volume_m3(scenes.stop_m)
    return Scene("slowly down from full speed", max(0.0, scenes.start_m - 0.01), (calls, less), calls_s + volume_m3 / max(1e-6, 0.3 * one_m3s))


def _drawn_down(scenes: Scenes) -> Scene:
    """From the duty start down to the stop, with hardly anything coming in."""
    least = max(0.3, scenes.plan.value(S.LEAST_SPEED, 1.0))
    volume_m3 = scenes.hyd.well.volume_m3(scenes.start_m) - scenes.hyd.well.volume_m3(scenes.stop_m)
    flow = TimedAction(0.0, Act.INFLOW, "", 0.0006 * scenes.hyd.well.area_m2(scenes.start_m))
    calls_s = scenes.plan.value(S.CALL_DELAY, 0.0) + 60.0
    still = TimedAction(calls_s, Act.INFLOW, "", 0.0)
    return Scene("drawn down to the stop", max(0.0, scenes.start_m - 0.01), (flow, still), calls_s + 6.0 * volume_m3 / (least * scenes.hyd.strongest_m3s(1, scenes.stop_m)) + 600.0)


def _slowest(run: LiftRun) -> float | None:
    """The lowest speed at which a pump ran. A share of full."""
    place, pumps = run.bench.columns.index("speed") + 1, [n for n, name in enumerate(run.bench.columns, 1) if name.startswith("pump_")]
    return min((row[place] for row in run.trace if any(row[pump] for pump in pumps)), default=None)


def _to_full_s(run: LiftRun) -> float | None:
    """From the first start to full speed. [s]"""
    place = run.bench.columns.index("speed") + 1
    starts = next(among(run.events, Thing.PUMP, Doing.STARTS), None)
    full_s = next((row[0] for row in run.trace if starts is not None and row[0] >= starts.at_s and row[place] >= 1.0 - SPEED_SHARE), None)
    return None if starts is None or full_s is None else full_s - starts.at_s


def _steady(scenes: Scenes) -> Scene:
    """What one pump can hold comes in, for as long as it takes the level to come to rest."""
    resets_s = scenes.plan.value(S.HOLD_RESET, 60.0)
    flow = TimedAction(0.0, Act.INFLOW, "", holding_m3s(scenes.survey, scenes.plan) or 0.0)
    return Scene("a steady inflow", min(scenes.start_m + 0.02, scenes.top_m), (flow,), min(4.0 * 3600.0, 30.0 * resets_s + 1800.0))


def _stands_m(run: LiftRun) -> float | None:
    """The level at which it stands at the end; none where it still moves by more than a hand. [m]"""
    place = run.bench.columns.index("level_m") + 1
    last = [row[place] for row in run.trace if row[0] >= run.now_s - 300.0] + [run.bench.plant.level_m]
    return run.bench.plant.level_m if max(last) - min(last) < SWINGS_M else None


def _outside_lost(scenes: Scenes, expects: Outcome) -> Shown:
    """The speed signal taken off while a pump follows it."""
    plan = scenes.plan
    told, lost = TimedAction(0.0, Act.OUTSIDE, "", 0.5), TimedAction(BROKEN_AT_S, StationFault.OUTSIDE_LOST, "", 1.0)
    scene = scenes.running_scene("outside signal lost", told, lost, until_s=BROKEN_AT_S + plan.value(S.RAMP, 0.0) + 10.0)
    half = (plan.value(S.OUTSIDE_ZERO_SPEED, 0.0) + plan.value(S.OUTSIDE_FULL_SPEED, 1.0)) / 2.0
    held = {Outcome.FULL_SPEED: 1.0, Outcome.LEAST_SPEED: plan.value(S.LEAST_SPEED, 0.0)}.get(expects, half)
    return scene, lambda run: abs(looks.speed_at_end(run) - held) <= SPEED_SHARE


def _team(scenes: Scenes, check: Check, expects: Outcome) -> Shown:
    """Drives that decide by themselves, one thing of theirs broken while a pump runs."""
    plan, duty = scenes.plan, len(scenes.duty)
    if check is Check.LINK:
        at_m = min(plan.value(Role.START_2, scenes.start_m) + 0.02, scenes.top_m)
        flow = TimedAction(0.0, Act.INFLOW, "", scenes.hyd.strongest_m3s(duty, at_m))
        until_s = 10.0 + duty * (scenes.gap_s + 2.0) + plan.value(S.CALL_DELAY, 0.0)
        scene = Scene("the link is off", at_m, (flow, TimedAction(0.0, StationFault.LINK, "", 1.0)), until_s)
        each = expects is Outcome.EACH_ALONE
        return scene, lambda run: is_up(run, Alarm.LINK) and (running_at_end(run)[:2] == (0, 1) if each else running_at_end(run) == (0,))
    fault, alarm = (PumpFault.NODE, Alarm.NODE) if check is Check.NODE else (PumpFault.INPUT, Alarm.INPUT)
    waits_s = plan.value(S.TAKEOVER, 0.0) + 2.0 * scenes.gap_s + plan.value(S.STOP_DELAY, 0.0) + plan.value(S.LEAST_RUN, 0.0)
    broken = TimedAction(BROKEN_AT_S, fault, "1", 1.0)
    scene = scenes.running_scene(f"{fault} of drive 1 while a pump runs", broken, until_s=BROKEN_AT_S + 15.0 + waits_s)
    runs = expects in (Outcome.ANOTHER_LEADS, Outcome.ANOTHER_READS)
    return scene, lambda run: is_up(run, alarm, 1) and bool(running_at_end(run)) is runs and (not runs or not run.bench.logic.sensor_failed)
