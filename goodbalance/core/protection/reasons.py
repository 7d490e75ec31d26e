"""What protects a running motor, as a link of its pump's reason line: what it takes, what it may, and what is left until it trips."""

import math
from dataclasses import replace

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.reasons import Link, LinkState, ReasonLine
from goodbalance.core.protection.monitor import MonitorNumbers
from goodbalance.core.protection.names import UnderloadBy
from goodbalance.core.protection.watch import Watch


def motor_link(watch: Watch) -> Link:
    """Of a motor that runs now: it lets its pump run until one of its guards trips."""
    takes, trips = Term("i", "current", watch.felt_a, Q.CURRENT), Term("a", "trip current", watch.trip_a, Q.CURRENT)
    warm = Term("w", "heat of the overload", watch.heat, Q.PERCENT)
    left_s = watch.left_s()
    if watch.low_since_s is not None:
        by_power = watch.numbers.by is UnderloadBy.POWER
        quantity = Q.POWER if by_power else Q.CURRENT
        least, told = Term("u", "least", watch.limit, quantity), Term("p", "takes", watch.input_w if by_power else watch.current_a, quantity)
        return Link("Motor", LinkState.HOLDS, "{p}, less than the {u} of its load monitor: it is stopped in", (told, least), left_s)
    if watch.felt_a > watch.trip_a:
        return Link("Motor", LinkState.HOLDS, "{i}, over the {a} of its overload, {w} warm: it trips in", (takes, trips, warm), left_s)
    if not math.isfinite(watch.trip_a):
        return Link("Motor", LinkState.HOLDS, "{i}, and no overload that acts", (takes,))
    return Link("Motor", LinkState.HOLDS, "{i}, overload at {a}, {w} warm", (takes, trips, warm))


def with_motor(line: ReasonLine, watch: Watch, now_s: float) -> ReasonLine:
    """A pump's line with what protects its motor: what it takes while it runs, and when it tries again while its load monitor keeps it out."""
    if line.runs:
        return replace(line, links=(*line.links, motor_link(watch)))
    link = watch.retries.link(now_s, watch.numbers.again, "the load monitor")
    return line if link is None else replace(line, links=(link, *line.links))


def supply_link(monitor: MonitorNumbers, left_s: float | None) -> Link:
    """What the monitor of the supply holds pumps back for; left_s: its wait, once the supply is right again."""
    if left_s is not None:
        return Link("Phases", LinkState.WAITS, "the supply is right again: its monitor waits", (), left_s)
    text = "one is missing, two are swapped, or the voltage is out of its limits" if monitor.has_dials else "one is missing, or two are swapped"
    return Link("Phases", LinkState.BLOCKS, text)
