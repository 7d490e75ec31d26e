"""What can be broken of a maintenance pump and its line on the bench, part by part, as it is built."""

from collections.abc import Iterator

from goodbalance.core.protection.names import SupplyFault, WindingBy
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.troubles import Trouble
from goodbalance.core.stations.maintenance import wording
from goodbalance.core.stations.maintenance.bench.rehearse import MaintenanceBench
from goodbalance.core.stations.maintenance.names import ACTS, Act, AnyAct, PumpFault, SetFault
from goodbalance.core.stations.shared.acts import named
from goodbalance.core.stations.shared.supply import supply_troubles

_SENSOR: dict[AnyAct, str] = {
    SetFault.LOOP_OPEN: "loop open", SetFault.LOOP_SHORT: "loop short", SetFault.FROZEN: "frozen", SetFault.DRIFT: "drifts", SetFault.SENSING: "sensing line blocked",
}  # fmt: skip
_LINE: dict[AnyAct, str] = {SetFault.LEAK: "leaks more than permitted", SetFault.AIR: "air in it"}
_PUMP: dict[AnyAct, str] = {
    PumpFault.CHECK_VALVE: "check valve leaks", PumpFault.SHUT: "valve closed", PumpFault.WORN: "worn", PumpFault.BACKWARDS: "wrong way", PumpFault.OVERLOAD: "turns heavily",
    PumpFault.STALLED: "blocked", PumpFault.DIAL: "overload turned down", PumpFault.DIAL_UP: "overload turned up", PumpFault.WELDED: "contactor welded",
}  # fmt: skip


def troubles(bench: MaintenanceBench) -> tuple[Trouble, ...]:
    """Broken parts first, then what somebody may have left switched the wrong way."""
    return tuple(_troubles(bench))


def _troubles(bench: MaintenanceBench) -> Iterator[Trouble]:
    yield from _each("Sensor", _SENSOR)
    yield from _each("Line", _LINE)
    of_pump = _PUMP | ({} if bench.supply.three else {PumpFault.CAPACITOR: "capacitor weak"})
    of_pump |= {PumpFault.WINDING: "winding's contacts off"} if bench.survey.protection.winding_by is WindingBy.CONTACT else {}
    yield from _each("Pump 1", of_pump, "1")
    yield Trouble("Mains", "power", _said(Act.POWER, "", 0.0), Act.POWER, "", broken=0.0, mended=1.0)
    yield from supply_troubles("Mains", bench.supply)


_DANGERS = (
    PumpFault.STALLED, PumpFault.OVERLOAD, PumpFault.SHUT, SupplyFault.PHASE, SupplyFault.SWAPPED, SupplyFault.LOW, SupplyFault.UNEVEN, Act.POWER, SetFault.LEAK, SetFault.LOOP_OPEN, SetFault.SENSING,
)  # fmt: skip


def dangers(bench: MaintenanceBench) -> tuple[Trouble, ...]:
    """What can harm the running pump or its line."""
    return tuple(each for each in troubles(bench) if each.kind in _DANGERS)


def _each(place: str, listed: dict[AnyAct, str], target: str = "") -> Iterator[Trouble]:
    for kind, words in listed.items():
        yield Trouble(place, words, _said(kind, target, 1.0), kind, target)


def _said(kind: str, target: str, value: float) -> str:
    return wording.done(TimedAction(0.0, kind, target, value), named(kind, ACTS)).text
