"""Why each pump of a lift station runs or not: the chain of permissives and demands, with the timers that count."""

import math

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.level_drive import DriveMode, OutsideLost
from goodbalance.core.control.reasons import Link, LinkState, ReasonLine
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.protection.reasons import supply_link
from goodbalance.core.stations.lift.controller.logic import LiftLogic
from goodbalance.core.stations.lift.controller.team import Leader
from goodbalance.core.stations.lift.names import STARTS, Role, float_id
from goodbalance.core.stations.lift.survey.team import Inputs
from goodbalance.core.stations.shared.crew import RESTS, STANDS

LOST_WORDS = {OutsideLost.FULL: "full", OutsideLost.HOLD: "held", OutsideLost.LEAST: "the least"}


def reason(logic: LiftLogic, pump: int, turns: bool) -> ReasonLine:
    """Power, phases, switch, starter; in AUTO low water, stop, call, turn; then rest and start gap.

    turns: whether the pump really runs, which a failed starter prevents.
    """
    panel, switch = logic.panel, logic.panel.switches[pump]
    links = [_link("Power", panel.power, "present", "no supply")]
    if pump in panel.unknown:
        links.append(Link("Controller", LinkState.BLOCKS, "it was told of fewer pumps: it does not know this one"))
    if pump in panel.held:
        links.append(Link("Backwards", LinkState.BLOCKS, "it turns backwards with returning water: held until it stands"))
    if pump in panel.dead:
        links.append(Link("Drive", LinkState.BLOCKS, "silent: its electronics are dead, or without supply"))
    if not panel.phases_ok:
        links.append(supply_link(logic.program.monitor, panel.supply_left_s))
    if panel.waits and switch is Switch.AUTO:
        links.append(Link("Restart", LinkState.BLOCKS, "the supply was away: it waits until a person resets"))
    if switch is Switch.AUTO:
        links += [Link("Switch", LinkState.HOLDS, "AUTO"), _starter(logic, pump, turns), *_auto_links(logic, pump)]
    elif switch is Switch.HAND:
        text = "HAND: no level contact stops it, stay beside it"
        links += [Link("Switch", LinkState.HOLDS, text, is_demand=True), _starter(logic, pump, turns)]
    else:
        links += [Link("Switch", LinkState.BLOCKS, "OFF"), _starter(logic, pump, turns)]
    if not panel.running[pump] and switch is Switch.AUTO and panel.rest_left_s(pump) > 0.0:
        links.append(Link("Rest", LinkState.WAITS, "it has just stopped", (), panel.rest_left_s(pump)))
    if panel.running[pump] or panel.gap_left_s() <= 0.0:
        links.append(Link("Start gap", LinkState.HOLDS, "clear"))
    else:
        text = "a pump has just started, or power returned"
        links.append(Link("Start gap", LinkState.WAITS, text, (), panel.gap_left_s()))
    if turns and logic.drive is not None:
        links.append(_speed(logic, pump))
    return ReasonLine(f"Pump {pump + 1}", turns, tuple(links))


def _speed(logic: LiftLogic, pump: int) -> Link:
    drive = logic.drive
    assert drive is not None
    if logic.panel.switches[pump] is Switch.HAND:
        return Link("Speed", LinkState.HOLDS, "full, in HAND")
    speed = Term("speed", "speed", drive.speed, Q.PERCENT)
    if drive.mode is DriveMode.OUTSIDE:
        if not logic.remote:
            return Link("Speed", LinkState.HOLDS, "{speed}, in local: full, whatever the outside says", (speed,))
        if logic.outside is None:
            return Link("Speed", LinkState.HOLDS, f"{{speed}}, the outside signal is lost: {LOST_WORDS[drive.outside_lost]}", (speed,))
        return Link("Speed", LinkState.HOLDS, "{speed}, the outside signal says {share}", (speed, Term("share", "outside signal", logic.outside, Q.PERCENT)))
    if drive.mode is DriveMode.FIXED or logic.on_floats or logic.level_m is None:
        return Link("Speed", LinkState.HOLDS, "{speed}, on its way to full" if drive.speed < 1.0 else "full", (speed,))
    if drive.mode is DriveMode.HOLD_LEVEL:
        hold = Term("hold", "level held", drive.hold_m, Q.LEVEL)
        return Link("Speed", LinkState.HOLDS, "{speed}, to hold {hold}", (speed, hold))
    full = Term("full", "full-speed level", drive.full_m, Q.LEVEL)
    if drive.mode is DriveMode.ECONOMICAL:
        words = "{speed}, the water came to {full}: full until all have stopped" if drive.flat_out else "{speed}, the economical one; full from {full}"
        return Link("Speed", LinkState.HOLDS, words, (speed, full))
    return Link("Speed", LinkState.HOLDS, "{speed}, full from {full}", (speed, full))


def _starter(logic: LiftLogic, pump: int, turns: bool) -> Link:
    why = logic.panel.tripped[pump]
    if why:
        return Link("Starter", LinkState.BLOCKS, f"tripped: {why}; OFF resets")
    left_s = logic.panel.feedback_left_s(pump)
    if left_s is not None:
        text = "runs, but its feedback is missing" if turns else "called, no feedback yet"
        return Link("Starter", LinkState.HOLDS if turns else LinkState.WAITS, text, (), left_s)
    return Link("Starter", LinkState.HOLDS, "healthy")


def _auto_links(logic: LiftLogic, pump: int) -> list[Link]:
    panel = logic.panel
    held = panel.running[pump] and pump not in panel.serving()
    if held and panel.phases_ok and panel.power:
        text = "stopped too soon otherwise"
        return [Link("Least run", LinkState.HOLDS, text, (), panel.run_left_s(pump), is_demand=True)]
    if logic.leader is not None and panel.alone is not None:
        return [_by_itself(logic, logic.leader, pump)]
    leads = [] if logic.leader is None else [_leads(logic.leader, len(logic.own) > 1)]
    leads += [Link("Run command", LinkState.BLOCKS, "the outside contact says no")] if logic.run_open else []
    links = [_low_water(logic)] if logic.low_float_open or Role.LOW_CUT_OUT in logic.acting else []
    return [*leads, *links, _stop(logic), _call(logic, pump), _turn(logic, pump)]


def _leads(leader: Leader, apart: bool) -> Link:
    """Who leads the drives, and whose reading counts. apart: whether they hold different numbers."""
    name = f"drive {leader.leader + 1} leads{', by what it holds itself' if apart else ''}"
    if leader.leader not in leader.alive:
        if leader.left_s() > 0.0 and leader.numbers.takes_over:
            return Link("Lead", LinkState.HOLDS, f"{name}, and is silent: a stand-by waits to take over", (), leader.left_s())
        return Link("Lead", LinkState.BLOCKS, f"{name}, and is silent: nobody takes over")
    if leader.reads is None:
        return Link("Lead", LinkState.HOLDS, f"{name}, without a level")
    other = "" if leader.reads == leader.leader or leader.numbers.inputs is Inputs.TOLD else f", by the reading of drive {leader.reads + 1}"
    return Link("Lead", LinkState.HOLDS, name + other)


def _by_itself(logic: LiftLogic, leader: Leader, pump: int) -> Link:
    """A drive that hears nobody goes by its own pair, where it may."""
    if pump >= logic.panel.duty_count:
        return Link("Alone", LinkState.BLOCKS, "the link is off: a standby has no pair of its own", is_demand=True)
    if not leader.goes_alone(pump):
        sees = leader.numbers.inputs is not Inputs.TOLD or pump == 0
        return Link("Alone", LinkState.BLOCKS, "the link is off: " + ("it stands, another leads" if sees else "it is told no level"), is_demand=True)
    start = Term("start", "its own start", logic.relays[logic.start_places[pump]].shuts_m, Q.LEVEL)
    stop = Term("stop", "its own stop", logic.relays[logic.stop_places[pump]].opens_m, Q.LEVEL)
    state = LinkState.HOLDS if leader.alone[pump] else LinkState.BLOCKS
    return Link("Alone", state, "the link is off: by its own pair, {start} to {stop}", (start, stop), is_demand=True)


def _low_water(logic: LiftLogic) -> Link:
    if logic.low_float_open:
        return Link("Low water", LinkState.BLOCKS, "the low-level float has opened")
    return _contact(logic, "Low water", Role.LOW_CUT_OUT)


def _stop(logic: LiftLogic) -> Link:
    if Role.STOP in logic.acting:
        return _contact(logic, "Stop float" if logic.on_floats else "Stop contact", Role.STOP)
    if not logic.on_floats:
        off = Term("off", "stop level", logic.relay(Role.START_1).off_m, Q.LEVEL)
        return Link("Stop", LinkState.HOLDS, "each relay at its own, the duty's at {off}", (off,))
    left_s = logic.run_on_left_s()
    if any(logic.panel.latched) and not math.isinf(left_s):
        return Link("Stop", LinkState.HOLDS, "by time: the start float decides", (), left_s)
    return Link("Stop", LinkState.HOLDS, "by time, no float stops it")


def _contact(logic: LiftLogic, name: str, role: str) -> Link:
    """A contact that must be closed: held by a relay or float that closes on rise."""
    relay, closed = logic.acting[role]
    terms = (Term("off", "opens at", relay.opens_m, Q.LEVEL), Term("on", "closes at", relay.shuts_m, Q.LEVEL))
    if closed:
        lost = logic.sensor_failed and not logic.on_floats
        return Link(
            name, LinkState.HOLDS, "closed although the signal is lost" if lost else "closed, opens at {off}", terms
        )
    if why := _not_through(logic, role):
        return Link(name, LinkState.BLOCKS, why, terms)
    if logic.on_floats:
        return Link(name, LinkState.BLOCKS, "open: hangs down, closes at {on}", terms)
    if logic.level_m is None or logic.doubted:
        return Link(name, LinkState.BLOCKS, "open, level signal lost", terms)
    level = Term("level", "level as read", logic.level_m, Q.LEVEL)
    return Link(name, LinkState.BLOCKS, "open at {level}, closes at {on}", (*terms, level))


def _not_through(logic: LiftLogic, role: str) -> str:
    """Why a contact is open although its relay or float is where it should close; empty where it is not."""
    if not logic.on_floats:
        relay, pulled = next((one, on) for one, on in zip(logic.relays, logic.energised) if one.role == role)
        if role in logic.cut and relay.closes(pulled):
            return f"open although its relay has {'let go' if relay.normally_closed else 'pulled'}: a wire is off"
        wrong_twin = relay.normally_closed is relay.energises_on_rise and pulled
        return "open although its relay has pulled: its contact that is closed at rest is wired" if wrong_twin else ""
    return "open whatever its float does: a wire is off" if (role if logic.alone else float_id(role)) in logic.cut else ""


def _call(logic: LiftLogic, pump: int) -> Link:
    panel, calls = logic.panel, sum(logic.panel.latched)
    by = " by floats" if logic.on_floats and not logic.alone else ""
    if calls:
        text = f"{calls} latched until stop{by}"
        left_s = panel.assist_left_s()
        if pump not in panel.serving() and not math.isinf(left_s):
            return Link("Call", LinkState.WAITS, "the assist timer calls one more", (), left_s, is_demand=True)
        return Link("Call", LinkState.HOLDS, text, is_demand=True)
    waits = [left for left in map(panel.delay_left_s, range(panel.duty_count)) if left is not None]
    if waits and min(waits) > 0.0:
        return Link("Call", LinkState.WAITS, "the start must last", (), min(waits), is_demand=True)
    if Role.START_1 not in logic.acting:
        return Link("Call", LinkState.BLOCKS, "none: the high float calls every pump", is_demand=True)
    if why := _not_through(logic, Role.START_1):
        return Link("Call", LinkState.BLOCKS, f"none: the start contact is {why}", is_demand=True)
    start = Term("start", "duty start level", logic.acting[Role.START_1][0].shuts_m, Q.LEVEL)
    if logic.on_floats:
        return Link("Call", LinkState.BLOCKS, "none: the start float hangs at {start}", (start,), is_demand=True)
    if logic.level_m is None or logic.doubted:
        return Link("Call", LinkState.BLOCKS, "none, level signal lost", is_demand=True)
    level = Term("level", "level as read", logic.level_m, Q.LEVEL)
    return Link("Call", LinkState.BLOCKS, "none: {level}, duty starts at {start}", (level, start), is_demand=True)


def _turn(logic: LiftLogic, pump: int) -> Link:
    panel, rotation = logic.panel, logic.panel.rotation
    serving = panel.serving()
    if pump in serving:
        return Link("Turn", LinkState.HOLDS, f"number {serving.index(pump) + 1}")
    if panel.tripped[pump] or pump in panel.out_of_call:
        return Link("Turn", LinkState.BLOCKS, "passed over")
    group = next((g for g, calls in enumerate(rotation.groups) if pump in calls), len(rotation.groups) - 1)
    calls = rotation.groups[group]
    if group == 0 and len(rotation.groups) > 1 and serving and all(p not in calls for p in serving):
        return Link("Turn", LinkState.BLOCKS, "rests while the larger pumps run")
    place = [other for other in rotation.members(group) if panel.is_available(other)].index(pump)
    if place >= len(calls):
        return Link("Turn", LinkState.BLOCKS, RESTS if rotation.all_turn else STANDS)
    role, number = STARTS[calls[place]], calls[place] + 1
    if role not in logic.acting:
        return Link("Turn", LinkState.BLOCKS, f"number {number}, joins when the high float is up")
    if math.isinf(logic.acting[role][0].shuts_m):
        return Link("Turn", LinkState.BLOCKS, f"number {number}: nobody gave it a start level")
    start = Term("start", "start level", logic.acting[role][0].shuts_m, Q.LEVEL)
    return Link("Turn", LinkState.BLOCKS, f"number {number}, joins at {{start}}", (start,))


def _link(name: str, holds: bool, good: str, bad: str) -> Link:
    return Link(name, LinkState.HOLDS if holds else LinkState.BLOCKS, good if holds else bad)
