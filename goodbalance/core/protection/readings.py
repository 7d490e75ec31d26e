"""Currents read with a clamp meter, pump by pump in HAND: what to expect at each point, and what is odd about a reading."""

import math
from collections.abc import Iterable, Iterator
from enum import StrEnum

from goodbalance.core.balance.facts import Facts
from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.errors import OutOfRange
from goodbalance.core.protection.plate import Plate

UNEVEN, VERY_UNEVEN = 0.05, 0.10  # shares of the mean by which a phase may be off: look, and do not run
UNEVEN_VOLTAGE, VERY_UNEVEN_VOLTAGE = 0.01, 0.05  # the same of voltages: derate, do not run
LIKE_CLOSED = 0.05  # two currents nearer than this are one to a clamp meter
OFF_VOLTAGE = 0.10  # of the plate's voltage


class At(StrEnum):
    """Where a pump worked while its current was read."""

    CLOSED = "closed"
    LEAST = "least"
    NORMAL = "normal"
    MOST = "most"
    DRY = "dry"


WORDS: dict[At, str] = {
    At.CLOSED: "closed valve", At.LEAST: "least work", At.NORMAL: "normal work", At.MOST: "most flow", At.DRY: "dry",
}  # fmt: skip


class ReadCurrent(Facts):
    """What a clamp meter read of one pump (1 for pump 1) at one point, a value for each lead; and the supply meanwhile. [A, V]"""

    pump: int
    at: At
    amps: tuple[float, ...]
    volts: tuple[float, ...] = ()

    @property
    def mean_a(self) -> float:
        """The mean over the leads."""
        return sum(self.amps) / len(self.amps)

    @property
    def highest_a(self) -> float:
        """Of the lead that carries most: its winding heats first."""
        return max(self.amps)


def unbalance(values: Iterable[float]) -> float:
    """Largest deviation from the mean over the mean, a share.

    Source: NEMA MG 1, unbalance of voltages and currents.

    >>> round(unbalance((398.0, 402.0, 391.0)), 5)
    0.01511
    """
    each = tuple(values)
    if not each or not all(math.isfinite(value) and value >= 0.0 for value in each):
        raise OutOfRange("values", str(each), "one or more, each 0 or more")
    mean = sum(each) / len(each)
    return max(abs(value - mean) for value in each) / mean if mean > 0.0 else 0.0


def remarks(plate: Plate, read: ReadCurrent, others: Iterable[ReadCurrent]) -> list[Finding]:
    """What is odd about a reading, told while the meter is still on: one lead, loading, the supply, and beside the other points of this pump."""
    beside = {each.at: each for each in others if each.pump == read.pump and each.at is not read.at} | {read.at: read}
    return [*_uneven(read), *_uneven_supply(read), *_loading(plate, read), *_off_voltage(plate, read), *_order(read.pump, beside)]


def _found(read: ReadCurrent, code: str, severity: Severity, text: str, *terms: Term) -> Finding:
    return Finding(code, severity, f"motor_{read.pump}_{read.at}", text, terms)


def _uneven(read: ReadCurrent) -> Iterator[Finding]:
    if len(read.amps) != 3:
        return
    if min(read.amps) <= 0.05 * max(read.amps):
        text = f"One lead of pump {read.pump} carries nothing: it runs on two phases. Off, isolate, prove dead, then fuse, contact, terminal."
        yield _found(read, "lead_dead", Severity.STOP, text)
        return
    share = unbalance(read.amps)
    if share > UNEVEN:
        text = (
            f"At {WORDS[read.at]} the leads of pump {read.pump} differ by {{u}} from their mean. Isolate, prove dead, move all three leads on by one and "
            "read again: what moves with the lead is the motor, what stays is the supply."
        )
        heavy = share > VERY_UNEVEN
        yield _found(
            read, "uneven", Severity.STOP if heavy else Severity.CAUTION, text + (" Do not run it so." if heavy else ""), Term("u", "unbalance", share, Q.PERCENT)
        )


def _uneven_supply(read: ReadCurrent) -> Iterator[Finding]:
    share = unbalance(read.volts) if len(read.volts) == 3 else 0.0
    if share > UNEVEN_VOLTAGE:
        heavy = share > VERY_UNEVEN_VOLTAGE
        ends = "do not run the motor on them." if heavy else "the motor must be loaded less, as its maker says."
        text = f"The phases of the supply differ by {{u}}: {ends}"
        yield _found(read, "uneven_supply", Severity.STOP if heavy else Severity.CAUTION, text, Term("u", "unbalance", share, Q.PERCENT))


def _loading(plate: Plate, read: ReadCurrent) -> Iterator[Finding]:
    terms = Term("i", "read", read.highest_a, Q.CURRENT), Term("n", "plate", plate.current_a, Q.CURRENT)
    if read.highest_a > plate.current_a * plate.service_factor:
        text = (
            f"At {WORDS[read.at]} pump {read.pump} takes {{i}}, more than the {{n}} of its plate: a fault to find (rag, bearing, voltage, wrong rotation, "
            "too much flow), not a margin to add."
        )
        yield _found(read, "over_plate", Severity.STOP, text, *terms)
    elif read.highest_a > plate.current_a:
        text = (
            f"At {WORDS[read.at]} pump {read.pump} takes {{i}}: over its plate's {{n}}, within its service factor. It has nothing left for a low voltage "
            "or a warm day."
        )
        yield _found(read, "in_service_factor", Severity.CAUTION, text, *terms)


def _off_voltage(plate: Plate, read: ReadCurrent) -> Iterator[Finding]:
    worst_v = max(read.volts, key=lambda volts: abs(volts - plate.voltage_v), default=plate.voltage_v)
    if abs(worst_v / plate.voltage_v - 1.0) > OFF_VOLTAGE + 1e-9:
        text = "The supply is {v}, more than a tenth off the plate's {n}: the maker says what the motor stands."
        terms = Term("v", "read", worst_v, Q.VOLTAGE), Term("n", "plate", plate.voltage_v, Q.VOLTAGE)
        yield _found(read, "off_voltage", Severity.CAUTION, text, *terms)


def _order(pump: int, beside: dict[At, ReadCurrent]) -> Iterator[Finding]:
    closed, normal, dry = (beside.get(at) for at in (At.CLOSED, At.NORMAL, At.DRY))
    if dry is not None and closed is not None and dry.mean_a > closed.mean_a * (1.0 - LIKE_CLOSED):
        text = f"Pump {pump} takes {{d}} dry and {{c}} at closed valve: its current cannot tell the two apart."
        terms = Term("d", "dry", dry.mean_a, Q.CURRENT), Term("c", "closed", closed.mean_a, Q.CURRENT)
        yield _found(dry, "dry_like_closed", Severity.CAUTION, text, *terms)
    if closed is not None and normal is not None and abs(closed.mean_a / normal.mean_a - 1.0) < LIKE_CLOSED:
        text = (
            f"Pump {pump} takes {{c}} at closed valve and {{i}} in normal work: its current hardly tells its flow. Was the valve really closed, does it "
            "turn the right way?"
        )
        terms = Term("c", "closed", closed.mean_a, Q.CURRENT), Term("i", "normal", normal.mean_a, Q.CURRENT)
        yield _found(closed, "closed_like_normal", Severity.CAUTION, text, *terms)
