"""Why each pump of a booster set runs or not: the chain of permissives and demands, with the timers that count."""

from dataclasses import dataclass

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.reasons import Link, LinkState, ReasonLine
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.reasons import supply_link
from goodbalance.core.stations.booster.controller.logic import BOOST_LIMIT_S, BoosterLogic
from goodbalance.core.stations.booster.controller.own_switches import OwnSwitches
from goodbalance.core.stations.booster.controller.set_value import Asks
from goodbalance.core.stations.booster.names import Mode, Stop, Wait
from goodbalance.core.stations.booster.survey.choices import NoFlowBy, Sharing
from goodbalance.core.stations.booster.survey.control import SHORT_STOP_S, ControlKind
from goodbalance.core.stations.shared.crew import RESTS, STANDS

_STOPS = (
    (Stop.SENSOR, "Sensor", "the pressure is not known"),
    (Stop.LOW_SUCTION, "Suction", "lack of water"),
    (Stop.HIGH, "High pressure", "tripped, waits for a reset"),
    (Stop.BURST, "Run-out", "tripped, waits for a reset"),
    (Stop.FILL, "Filling", "took too long, waits for a reset"),
)


@dataclass(frozen=True, slots=True)
class Looked:
    """What a person at the panel sees: the controller, who turns and how fast, and the reading."""

    logic: BoosterLogic
    running: tuple[int, ...]
    speeds: tuple[float, ...]
    read_pa: float


_WHO = {  # beside the pressure in force: whose it is
    Asks.OWN: "", Asks.SCHEDULE: " by the schedule", Asks.KEYS: " as the keys ask", Asks.OUTSIDE: " as asked from outside",
    Asks.HELD: " as last asked from outside", Asks.LOST: ", its own: nobody outside is heard",
}  # fmt: skip


def reason(at: Looked, pump: int) -> ReasonLine:
    """Power, phases, switch, drive; in AUTO what stops the set, the demand and the turn; then the speed."""
    logic, switch = at.logic, at.logic.switches[pump]
    turns = pump in at.running
    links = [_link("Power", logic.power, "present", "no supply")]
    if not logic.value.may_run and switch is Switch.AUTO:
        links.append(Link("Run command", LinkState.BLOCKS, "the outside contact is open"))
    if not logic.phases_ok:
        links.append(supply_link(logic.numbers.monitor, logic.supply_left_s))
    if logic.waits and switch is Switch.AUTO:
        links.append(Link("Restart", LinkState.BLOCKS, "the supply was away: it waits until a person resets"))
    if logic.comes_back and not logic.waits and switch is Switch.AUTO:
        links.append(Link("Restart", LinkState.WAITS, "the supply was away: it waits until it has settled", (), logic.left_s(Wait.POWER_BACK, logic.numbers.power_delay)))
    thing = "Drive" if logic.numbers.driven else "Starter"
    drive = _link(thing, not logic.tripped[pump], "healthy", f"{logic.tripped[pump]}; OFF resets")
    if switch is Switch.OFF:
        links += [Link("Switch", LinkState.BLOCKS, "OFF"), drive]
    elif switch is Switch.HAND:
        text = "HAND: only high pressure stops it, stay beside it"
        high = [Link("High pressure", LinkState.BLOCKS, "tripped, waits for a reset")] if Stop.HIGH in logic.stops else []
        links += [Link("Switch", LinkState.HOLDS, text, is_demand=True), drive, *high]
    else:
        links += [
            Link("Switch", LinkState.HOLDS, "AUTO"),
            drive,
            *_stops(at),
            _demand(at, pump),
            _turn(logic, pump),
        ]
    again = logic.primes[pump].link(logic.now_s, logic.numbers.prime_again, "the controller") if logic.tripped[pump] is Trip.NO_PRIME else None
    if again is not None:
        links.insert(0, again)
    if turns:
        links.append(_speed(at, pump))
    return ReasonLine(f"Pump {pump + 1}", turns, tuple(links))


def _stops(at: Looked) -> list[Link]:
    """What stops the whole set, or is on its way to."""
    logic, n, found = at.logic, at.logic.numbers, []
    for name, label, text in _STOPS:
        if name in logic.stops:
            left_s = logic.left_s(Wait.WATER_BACK, 5.0) if name is Stop.LOW_SUCTION else None
            state = LinkState.WAITS if left_s is not None and not logic.stops[name] else LinkState.BLOCKS
            waits = ", waits for a reset" if name is Stop.LOW_SUCTION and logic.stops[name] else ""
            again = logic.water.link(logic.now_s, n.water_again, "the controller") if name is Stop.LOW_SUCTION else None
            if again is not None and again.remaining_s == 0.0:
                waits = ", it tries again as soon as water is back"
            elif again is not None:
                found.append(again)
            found.append(Link(label, state, text + waits, (), left_s))
    counting = logic.left_s(Wait.LOW_SUCTION, n.low_suction_delay)
    if not found and counting is not None:
        found.append(Link("Suction", LinkState.HOLDS, "too low, not yet for long enough", (), counting))
    counting = logic.left_s(Wait.CLOSED, n.closed_delay)
    if not found and counting is not None:
        found.append(Link("Outlets", LinkState.HOLDS, "no more power than without flow: closed?", (), counting))
    counting = logic.left_s(Wait.BURST, n.burst_delay)
    if not found and counting is not None:
        found.append(Link("Run-out", LinkState.HOLDS, "flat out and still too low", (), counting))
    return found or [Link("Limits", LinkState.HOLDS, "suction and pressures in range")]


def _demand(at: Looked, pump: int) -> Link:
    logic, n = at.logic, at.logic.numbers
    pressure = Term("p", "pressure as read", at.read_pa, Q.PRESSURE)
    if n.kind is not ControlKind.CONSTANT:
        return _switched(at, pressure) if logic.callers is None else _own_switch(at.logic, logic.callers, pump, pressure)
    target = Term("s", "set pressure now", logic.target_pa(logic.flow_m3s), Q.PRESSURE)
    if logic.blind:
        return Link(
            "Demand", LinkState.HOLDS, "runs blind at the fill speed: the pressure is not known", is_demand=True
        )
    match logic.mode:
        case Mode.ASLEEP:
            restart = Term("r", "restart pressure", n.restart, Q.PRESSURE)
            return Link("Demand", LinkState.BLOCKS, "asleep: {p}, wakes at {r}", (pressure, restart), is_demand=True)
        case Mode.FILLING:
            fill = Term("f", "fill pressure", n.fill_pressure, Q.PRESSURE)
            return Link(
                "Demand",
                LinkState.HOLDS,
                "fills slowly up to {f}",
                (fill,),
                logic.left_s(Wait.FILL, n.fill_timeout),
                is_demand=True,
            )
        case Mode.BOOSTING:
            return Link(
                "Demand",
                LinkState.HOLDS,
                "boosts to {s}, then sleeps",
                (target,),
                logic.left_s(Wait.BOOST, BOOST_LIMIT_S),
                is_demand=True,
            )
        case Mode.TESTING:
            return Link(
                "Demand",
                LinkState.WAITS,
                "short stop: stays {p} if nobody draws",
                (pressure,),
                logic.left_s(Wait.TEST, SHORT_STOP_S),
                is_demand=True,
            )
    left_s = logic.left_s(Wait.BUMP if n.no_flow is NoFlowBy.BUMP else Wait.IDLE, n.sleep_delay)
    if left_s is not None:
        return Link("Demand", LinkState.HOLDS, "nobody draws: about to stop", (), left_s, is_demand=True)
    if n.remote_pressure is not None and not logic.remote_lost and not logic.night and not logic.on_generator:
        far = Term("r", "remote set pressure", n.remote_pressure, Q.PRESSURE)
        return Link("Demand", LinkState.HOLDS, "holds {r} at the far end", (far,), is_demand=True)
    if logic.value.loop_by_hand:
        return Link("Demand", LinkState.HOLDS, "the loop is by hand: nobody holds {s}, reads {p}", (target, pressure), is_demand=True)
    lost = ", the remote sensor is lost" if logic.remote_lost else ""
    return Link("Demand", LinkState.HOLDS, f"holds {{s}}{_WHO[logic.in_force()[1]]}, reads {{p}}{lost}", (target, pressure), is_demand=True)


def _switched(at: Looked, pressure: Term) -> Link:
    logic, n = at.logic, at.logic.numbers
    cut_in, cut_out = Term("i", "cut-in", n.cut_in, Q.PRESSURE), Term("o", "cut-out", n.cut_out, Q.PRESSURE)
    if logic.stage == 0:
        return Link("Demand", LinkState.BLOCKS, "none: {p}, starts at {i}", (pressure, cut_in), is_demand=True)
    if n.kind is ControlKind.FLOW_STOP:
        left_s = logic.left_s(Wait.NO_FLOW, n.flow_delay)
        text = "the flow has ended: about to stop" if left_s is not None else "runs until the flow ends"
        return Link("Demand", LinkState.HOLDS, text, (), left_s, is_demand=True)
    left_s = max(0.0, logic.since.get((Wait.RAN, 0), logic.now_s) + n.least_run - logic.now_s)
    if left_s > 0.0 and at.read_pa >= n.cut_out:
        return Link("Demand", LinkState.HOLDS, "stopped too soon otherwise", (), left_s, is_demand=True)
    return Link(
        "Demand", LinkState.HOLDS, "started at {i}, stops at {o}, now {p}", (cut_in, cut_out, pressure), is_demand=True
    )


def _own_switch(logic: BoosterLogic, callers: OwnSwitches, pump: int, pressure: Term) -> Link:
    """What the pressure switch says that calls this pump now."""
    place = logic.rotation.order.index(pump)
    low, high = (Term(symbol, "", mark, Q.PRESSURE) for symbol, mark in zip("io", callers.marks[place]))
    if not callers.closed[place]:
        return Link("Demand", LinkState.BLOCKS, f"switch {place + 1} is open: {{p}}, closes at {{i}}", (pressure, low), is_demand=True)
    return Link("Demand", LinkState.HOLDS, f"switch {place + 1} has closed at {{i}}, opens at {{o}}, now {{p}}", (low, high, pressure), is_demand=True)


def _turn(logic: BoosterLogic, pump: int) -> Link:
    n, serving = logic.numbers, logic.serving()
    own = ", by what its own drive holds" if logic.leads(pump) and pump in (*serving[:1], *(() if serving else (logic.lead,))) else ""
    if logic.callers is not None and not logic.tripped[pump]:
        gap_s = logic.left_s(Wait.GAP, n.start_gap)
        if gap_s and pump not in serving and logic.callers.closed[logic.rotation.order.index(pump)]:
            return Link("Turn", LinkState.WAITS, "one after the other: it follows the last start", (), gap_s)
        most = logic.callers.closed[logic.rotation.order.index(pump)] and pump not in serving and logic.on_generator
        switch = f"called by switch {logic.rotation.order.index(pump) + 1} of {len(logic.callers.marks)}"
        return Link("Turn", LinkState.BLOCKS, "no more pumps on the generator") if most else Link("Turn", LinkState.HOLDS, switch)
    if pump in serving:
        return Link("Turn", LinkState.HOLDS, f"number {serving.index(pump) + 1} of {len(serving)}{own}")
    if pump >= n.pumps:
        return Link("Turn", LinkState.BLOCKS, "the controller was told of fewer pumps: it does not know this one")
    if logic.tripped[pump]:
        alone = "nobody stands in for it: the next has a lower switch"
        return Link("Turn", LinkState.BLOCKS, "passed over" if logic.callers is None else alone)
    if logic.stage >= logic.most_pumps and logic.on_generator:
        return Link("Turn", LinkState.BLOCKS, "no more pumps on the generator")
    left_s = logic.left_s(Wait.JOIN, n.join_delay)
    waiting = [p for p in logic.rotation.order if logic.is_available(p) and p not in serving]
    following = bool(waiting) and waiting[0] == pump and logic.stage < logic.most_pumps
    if following and left_s is not None:
        return Link("Turn", LinkState.WAITS, "about to join", (), left_s)
    if pump >= logic.rotation.duty_count and not following and not logic.rotation.all_turn:
        return Link("Turn", LinkState.BLOCKS, STANDS)
    if len(serving) >= logic.rotation.duty_count < logic.rotation.pump_count:
        return Link("Turn", LinkState.BLOCKS, RESTS)
    if logic.stage == 0:
        return Link(
            "Turn", LinkState.BLOCKS, f"next to start{own}" if following else f"number {waiting.index(pump) + 1} in turn"
        )
    if n.kind is ControlKind.CONSTANT:
        join = Term("j", "a pump joins at", n.join_speed, Q.PERCENT)
        return Link(
            "Turn", LinkState.BLOCKS, "joins when the others reach {j}" if following else "behind another", (join,)
        )
    return Link("Turn", LinkState.BLOCKS, "joins if the pressure stays under cut-in" if following else "behind another")


def _speed(at: Looked, pump: int) -> Link:
    logic, n = at.logic, at.logic.numbers
    speed = Term("n", "speed", at.speeds[pump], Q.PERCENT)
    if not n.driven:
        return Link("Speed", LinkState.HOLDS, "full, straight on line")
    if logic.switches[pump] is Switch.HAND:
        return Link("Speed", LinkState.HOLDS, "{n}, set by hand", (speed,))
    if n.kind is ControlKind.FIXED:
        return Link("Speed", LinkState.HOLDS, "{n}, fixed", (speed,))
    if logic.slowed:
        return Link("Speed", LinkState.HOLDS, "{n}, slowly after a run-out, waits for a reset", (speed,))
    serving = logic.serving()
    if n.sharing is Sharing.SERIAL and pump in serving[:-1]:
        return Link("Speed", LinkState.HOLDS, "{n}, full while another regulates", (speed,))
    return Link("Speed", LinkState.HOLDS, "{n}, the loop by hand" if logic.value.loop_by_hand else "{n}, regulates", (speed,))


def _link(name: str, holds: bool, good: str, bad: str) -> Link:
    return Link(name, LinkState.HOLDS if holds else LinkState.BLOCKS, good if holds else bad)
