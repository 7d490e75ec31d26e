"""Why the circulator runs or not: the chain of permissives and demands, with the clocks that count, and what would start it."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.reasons import Link, LinkState, ReasonLine
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.stations.circulator.controller.logic import LEARNS_S, RingLogic
from goodbalance.core.stations.circulator.names import Mode
from goodbalance.core.stations.circulator.survey.choices import Wins
from goodbalance.core.stations.circulator.survey.use import Outside
from goodbalance.core.stations.shared.week import DAY_S, until_change_s

HOLDS, BLOCKS, WAITS = LinkState.HOLDS, LinkState.BLOCKS, LinkState.WAITS
DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


def reason(logic: RingLogic, runs: bool, held_fast: bool) -> ReasonLine:
    """Power, switch, rotor; in AUTO its clock and the outside control, in the order in which they decide."""
    links = [Link("Power", HOLDS if logic.power else BLOCKS, "present" if logic.power else "no supply: its own switch, a timer before it, or the mains")]
    if held_fast:
        links.append(Link("Rotor", BLOCKS, "held fast: scale, rust, or air in its bearings"))
    if logic.switch is Switch.OFF:
        links.append(Link("Switch", BLOCKS, "OFF: the ring cools and stands"))
    elif logic.switch is Switch.HAND:
        links.append(Link("Switch", HOLDS, "HAND: it runs whatever clock and controls say", is_demand=True))
    else:
        links += [Link("Switch", HOLDS, "AUTO"), *_asking(logic)]
    return ReasonLine("Circulator", runs, tuple(links))


def _asking(logic: RingLogic) -> list[Link]:
    if logic.kicks and not logic.called:
        return [Link("Long rest", HOLDS, "it turns for a moment, so that it does not seize", (), logic.kicks_until_s - logic.now_s, is_demand=True)]
    outside, wins = logic.outside_asks, logic.numbers.wins
    if outside is None:
        return [_clock(logic, logic.clock_asks)]
    other = _outside(logic, outside)
    if wins is Wins.OUTSIDE:
        return [other]
    clock = _clock(logic, logic.clock_asks)
    if wins is Wins.BOTH:
        return [clock, other]
    decides = clock if logic.clock_asks or not outside else other  # either: the one that asks is said
    return [decides]


def _clock(logic: RingLogic, asks: bool) -> Link:
    n, off = logic.numbers, " (its clock was lost: it is set to nothing real)" if logic.clock_lost else ""
    if n.mode is Mode.LEARNING:
        if logic.now_s < LEARNS_S:
            return Link("Learning", HOLDS, "its first week: it runs always and looks when people draw", (), LEARNS_S - logic.now_s, is_demand=True)
        return Link("Learning", HOLDS if asks else BLOCKS, "people drew in this hour or the next" if asks else "nobody drew in these hours before: it rests. A draw teaches it", is_demand=True)
    if not n.by_clock:
        return Link("Clock", HOLDS, "always", is_demand=True)
    left = until_change_s(logic.week, logic.week_s)
    at = f"{DAYS[int(logic.week_s // DAY_S) % 7]} {int(logic.week_s % DAY_S // 3600.0):02d}:{int(logic.week_s % 3600.0 // 60.0):02d}"
    if asks:
        return Link("Clock", HOLDS, f"{at}, within its hours{off}", (), left, is_demand=True)
    return Link("Clock", WAITS, f"{at}, outside its hours: it stands still, and that is right{off}", (), left if left < 1e9 else None, is_demand=True)


def _outside(logic: RingLogic, asks: bool) -> Link:
    n, state = logic.numbers, HOLDS if asks else BLOCKS
    if n.outside is Outside.BUTTON:
        if asks:
            return Link("Button", HOLDS, "pushed", (), logic.pushed_s + n.button_run - logic.now_s, is_demand=True)
        return Link("Button", BLOCKS, "nobody pushed it", is_demand=True)
    if n.outside is Outside.BUILDING:
        return Link("Building", state, "its contact asks" if asks else "its contact is open: the building's control says rest", is_demand=True)
    terms = (Term("t", "return", logic.return_c, Q.TEMPERATURE), Term("a", "start", n.stat_start, Q.TEMPERATURE), Term("b", "stop", n.stat_stop, Q.TEMPERATURE))
    if logic.failed:
        return Link("Thermostat", HOLDS, "its sensor is dead: it runs, so that the ring stays warm", is_demand=True)
    return Link("Thermostat", state, "{t}, until {b}" if asks else "{t}: it starts again at {a}", terms, is_demand=True)
