"""Why each pump of a transfer set runs or not: the chain of permissives and demands, with the timers that count, and what would start it now."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.reasons import Link, LinkState, ReasonLine
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.protection.reasons import supply_link
from goodbalance.core.stations.shared.crew import RESTS, STANDS
from goodbalance.core.stations.transfer.controller.logic import TransferLogic
from goodbalance.core.stations.transfer.names import Hold, Level, Lock, State, Wait
from goodbalance.core.stations.transfer.survey.choices import DelayFrom, RestartBy
from goodbalance.core.stations.transfer.survey.control import FullBy

_LOCKS = {Lock.LONG: "the longest run is over: does a valve stick, does a pipe leak? waits for a reset", Lock.BURST: "no pressure came: is the line open? waits for a reset"}


def reason(logic: TransferLogic, read_pa: float, running: tuple[int, ...], pump: int) -> ReasonLine:
    """Power, phases, switch, starter; in AUTO what holds and locks, the source, the demand, the delay and the turn. [Pa]"""
    switch, turns = logic.switches[pump], pump in running
    links = [_link("Power", logic.power, "present", "no supply")]
    if not logic.phases_ok:
        links.append(supply_link(logic.numbers.monitor, logic.supply_left_s))
    if logic.waits and switch is Switch.AUTO:
        links.append(Link("Restart", LinkState.BLOCKS, "the supply was away: it waits until a person resets"))
    starter = _link("Starter", not logic.tripped[pump], "healthy", f"{logic.tripped[pump]}; OFF resets")
    if switch is Switch.OFF:
        links += [Link("Switch", LinkState.BLOCKS, "OFF"), starter]
    elif switch is Switch.HAND:
        links += [Link("Switch", LinkState.HOLDS, "HAND: nothing but its motor's guards stops it, stay beside it", is_demand=True), starter]
    else:
        links += [Link("Switch", LinkState.HOLDS, "AUTO"), starter, *_locks(logic), *_holds(logic), _source(logic, pump), _demand(logic, read_pa), _turn(logic, pump)]
    return ReasonLine(f"Pump {pump + 1}", turns, tuple(links))


def _link(name: str, holds: bool, good: str, bad: str) -> Link:
    return Link(name, LinkState.HOLDS if holds else LinkState.BLOCKS, good if holds else bad)


def _locks(logic: TransferLogic) -> list[Link]:
    found = [Link("Lock-out", LinkState.BLOCKS, _LOCKS[lock]) for lock in logic.locks]
    left_s = logic.left_s(Wait.RUN, logic.numbers.longest_run) if logic.numbers.longest_run < 1e9 else None
    if not found and left_s is not None:
        found.append(Link("Longest run", LinkState.HOLDS, "not over yet", (), left_s))
    burst_s = logic.left_s(Wait.BURST, logic.numbers.least_delay)
    if Lock.BURST not in logic.locks and burst_s is not None:
        found.append(Link("Run-out", LinkState.HOLDS, "less pressure than a filling line has", (), burst_s))
    return found


def _holds(logic: TransferLogic) -> list[Link]:
    found = []
    levels = logic.numbers.full_by is FullBy.LEVELS
    for hold, of in sorted(logic.holds):
        if hold is Hold.SENSOR:
            found.append(Link("Sensor", LinkState.BLOCKS, "the pressure is not known"))
        elif hold is Hold.HIGH:
            found.append(Link("High level", LinkState.BLOCKS, f"tank {of + 1} stands too high"))
        elif hold is Hold.WIRE:
            text = f"the wire to tank {of + 1} is broken" + ("" if levels else ": nothing stands behind the pressure there")
            found.append(Link("Wire", LinkState.BLOCKS if levels and logic.stopped else LinkState.HOLDS, text))
    for (wait, of), _ in logic.since.items():
        if wait is Wait.WIRE and (Hold.WIRE, of) not in logic.holds:
            found.append(Link("Wire", LinkState.HOLDS, f"nothing comes from tank {of + 1}, not yet for long enough", (), logic.left_s(Wait.WIRE, logic.numbers.wire_delay, of)))
    return found


def _source(logic: TransferLogic, pump: int) -> Link:
    source, n = logic.pump_source[pump], logic.numbers
    if (Hold.SOURCE, source) in logic.holds:
        back = Term("b", "gives back at", n.sources[source][Level.SOURCE_BACK], Q.LEVEL)
        return Link("Source", LinkState.BLOCKS, "low: it gives back at {b}", (back,))
    left_s = logic.left_s(Wait.SOURCE, n.source_delay, source)
    if left_s is not None:
        return Link("Source", LinkState.HOLDS, "low, not yet for long enough", (), left_s)
    return Link("Source", LinkState.HOLDS, "has water")


def _demand(logic: TransferLogic, read_pa: float) -> Link:
    n, pressure = logic.numbers, Term("p", "pressure as read", read_pa, Q.PRESSURE)
    if n.full_by is FullBy.LEVELS:
        return _by_levels(logic)
    stop, restart = Term("s", "stop pressure", n.stop_pressure, Q.PRESSURE), Term("r", "restart pressure", n.restart_pressure, Q.PRESSURE)
    if logic.filling:
        text = "a valve throttles: {p}, it stops at {s}" if logic.state is State.THROTTLE else "fills until {s}, now {p}"
        return Link("Demand", LinkState.HOLDS, text, (pressure, stop), is_demand=True)
    left_s = logic.restarts_in_s()
    if left_s is not None and n.restart_by is RestartBy.TIME_ALONE:
        return Link("Demand", LinkState.WAITS, "the delay alone starts it: it then looks whether the line takes water. Start would do it now", (), left_s, is_demand=True)
    if left_s is not None:
        since = "since the stop" if n.delay_from is DelayFrom.STOP else "since the pressure fell"
        text = f"{{p}}, under the restart {{r}}: the delay counts {since}. Start would do it now, at the cost of a start on a valve that may only dribble yet"
        return Link("Demand", LinkState.WAITS, text, (pressure, restart), left_s, is_demand=True)
    if n.restart_by is RestartBy.TIME_ALONE:
        return Link("Demand", LinkState.BLOCKS, "filled: {p}", (pressure,), is_demand=True)
    return Link("Demand", LinkState.BLOCKS, "filled: {p} holds, the delay begins under {r}. Drawing until a valve opens, or start, would begin it", (pressure, restart), is_demand=True)


def _by_levels(logic: TransferLogic) -> Link:
    calling = [str(tank + 1) for tank, call in enumerate(logic.calls) if call]
    if logic.forced and not calling:
        return Link("Demand", LinkState.HOLDS, "start was pressed: it fills until every tank is at its stop", is_demand=True)
    if calling:
        one = int(calling[0]) - 1
        stop = Term("s", "stop level", logic.numbers.tanks[one][Level.STOP], Q.LEVEL)
        return Link("Demand", LinkState.HOLDS, f"tank {', '.join(calling)} wants water, until {{s}}", (stop,), is_demand=True)
    start = Term("s", "start level", max(levels[Level.START] for levels in logic.numbers.tanks), Q.LEVEL)
    return Link("Demand", LinkState.BLOCKS, "no tank stands low: the highest start is {s}", (start,), is_demand=True)


def _turn(logic: TransferLogic, pump: int) -> Link:
    served = logic.served
    if pump in served:
        return Link("Turn", LinkState.HOLDS, f"number {served.index(pump) + 1} of {len(served)}" if len(served) > 1 else "its turn")
    if pump >= logic.numbers.pumps:
        return Link("Turn", LinkState.BLOCKS, "the controller was told of fewer pumps: it does not know this one")
    if not logic.is_available(pump):
        return Link("Turn", LinkState.BLOCKS, "passed over")
    waiting = [p for p in logic.rotation.order if logic.is_available(p) and p not in served]
    following = bool(waiting) and waiting[0] == pump and len(served) < logic.rotation.duty_count
    if pump >= logic.rotation.duty_count and not following and not logic.rotation.all_turn:
        return Link("Turn", LinkState.BLOCKS, STANDS)
    if len(served) >= logic.rotation.duty_count < logic.rotation.pump_count:
        return Link("Turn", LinkState.BLOCKS, RESTS)
    if not served:
        return Link("Turn", LinkState.HOLDS, "next to start") if following else Link("Turn", LinkState.BLOCKS, f"number {waiting.index(pump) + 1} in turn")
    gap_s = logic.left_s(Wait.GAP, logic.numbers.start_gap)
    if following and logic.wanted > len(served) and gap_s is not None:
        return Link("Turn", LinkState.WAITS, "one start after the other", (), gap_s)
    if following and logic.numbers.assist_after < 1e9 and logic.numbers.by_pressure:
        begun = logic.since.get((Wait.ASSIST, 0), logic.now_s)
        return Link("Turn", LinkState.WAITS, "comes when the others have not filled it", (), max(0.0, begun + len(served) * logic.numbers.assist_after - logic.now_s))
    return Link("Turn", LinkState.BLOCKS, "joins at the assist level" if following else "behind another")
