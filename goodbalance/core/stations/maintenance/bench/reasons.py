"""Why the maintenance pump runs or not: the chain of permissives and demands, with the timers that count, and what would start it."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.reasons import Link, LinkState, ReasonLine
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.protection.reasons import supply_link
from goodbalance.core.stations.maintenance.controller.logic import MaintenanceLogic
from goodbalance.core.stations.maintenance.names import Wait


def reason(logic: MaintenanceLogic, read_pa: float, runs: bool) -> ReasonLine:
    """Power, phases, switch, starter; in AUTO sensor, long run, demand with its delay or least run. [Pa]"""
    links = [_link("Power", logic.power, "present", "no supply")]
    if not logic.phases_ok:
        links.append(supply_link(logic.numbers.monitor, logic.supply_left_s))
    if logic.waits and logic.switch is Switch.AUTO:
        links.append(Link("Restart", LinkState.BLOCKS, "the supply was away: it waits until a person resets"))
    starter = _link("Starter", logic.trip is None, "healthy", f"{logic.trip}; OFF resets")
    if logic.switch is Switch.OFF:
        links += [Link("Switch", LinkState.BLOCKS, "OFF: nothing keeps the line, the next sag starts the main pump"), starter]
    elif logic.switch is Switch.HAND:
        links += [Link("Switch", LinkState.HOLDS, "HAND: it climbs to its shut-off, nothing but its motor's guards stops it. Stay beside it", is_demand=True), starter]
    else:
        links += [Link("Switch", LinkState.HOLDS, "AUTO"), starter, *_sensor(logic), _demand(logic, read_pa)]
        left_s = logic.left_s(Wait.LONG, logic.numbers.long_run) if logic.numbers.long_run < 1e9 else None
        if left_s is not None:
            links.append(Link("Long run", LinkState.HOLDS, "told too long" if logic.too_long else "not told yet", (), None if logic.too_long else left_s))
    return ReasonLine("Maintenance pump", runs, tuple(links))


def _link(name: str, holds: bool, good: str, bad: str) -> Link:
    return Link(name, LinkState.HOLDS if holds else LinkState.BLOCKS, good if holds else bad)


def _sensor(logic: MaintenanceLogic) -> list[Link]:
    return [Link("Sensor", LinkState.BLOCKS, "the pressure is not known: nothing keeps the line")] if logic.failed else []


def _demand(logic: MaintenanceLogic, read_pa: float) -> Link:
    n, pressure = logic.numbers, Term("p", "pressure as read", read_pa, Q.PRESSURE)
    stop, start = Term("s", "stop pressure", n.stop_pressure, Q.PRESSURE), Term("r", "start pressure", n.start_pressure, Q.PRESSURE)
    if logic.called:
        if read_pa >= n.stop_pressure and logic.least_left_s > 0.0:
            return Link("Demand", LinkState.HOLDS, "{p}, over the stop {s}: the least run holds it", (pressure, stop), logic.least_left_s, is_demand=True)
        return Link("Demand", LinkState.HOLDS, "brings the line up to {s}, now {p}", (stop, pressure), logic.least_left_s or None, is_demand=True)
    left_s = logic.left_s(Wait.START, n.on_delay)
    if left_s is not None:
        return Link("Demand", LinkState.WAITS, "{p}, under the start {r}: the start delay counts", (pressure, start), left_s, is_demand=True)
    return Link("Demand", LinkState.BLOCKS, "the line holds {p}; it starts under {r}. A bleed, by the drop, would bring it there", (pressure, start), is_demand=True)
