"""What can be broken of a transfer set on the bench, part by part, as it is built."""

from collections.abc import Iterator

from goodbalance.core.protection.names import SupplyFault, WindingBy
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.troubles import Trouble
from goodbalance.core.stations.shared.acts import named
from goodbalance.core.stations.shared.supply import supply_troubles
from goodbalance.core.stations.transfer import wording
from goodbalance.core.stations.transfer.bench.rehearse import TransferBench
from goodbalance.core.stations.transfer.names import ACTS, Act, AnyAct, PumpFault, SetFault, TankFault
from goodbalance.core.stations.transfer.survey.control import SourceBy

_SENSOR: dict[AnyAct, str] = {SetFault.LOOP_OPEN: "loop open", SetFault.LOOP_SHORT: "loop short", SetFault.FROZEN: "frozen", SetFault.DRIFT: "drifts"}
_LINE: dict[AnyAct, str] = {SetFault.BURST: "burst", SetFault.LEAK: "leaks", SetFault.AIR: "air in it", SetFault.DENSITY: "heavier liquid"}
_VALVE: dict[AnyAct, str] = {TankFault.STUCK_OPEN: "stuck open", TankFault.STUCK_SHUT: "stuck shut", TankFault.DRIBBLES: "dribbles"}
_WIRE: dict[AnyAct, str] = {TankFault.WIRE_OFF: "wire off", TankFault.WIRE_JOINED: "wires touch"}
_PUMP: dict[AnyAct, str] = {
    PumpFault.CHECK_VALVE: "check valve leaks", PumpFault.SHUT: "valve closed", PumpFault.WORN: "worn", PumpFault.BACKWARDS: "wrong way", PumpFault.OVERLOAD: "turns heavily",
    PumpFault.STALLED: "blocked", PumpFault.DIAL: "overload turned down", PumpFault.DIAL_UP: "overload turned up", PumpFault.WELDED: "contactor welded",
}  # fmt: skip

_AT_REST = (PumpFault.CHECK_VALVE,)  # what is felt although its pump rests


def troubles(bench: TransferBench) -> tuple[Trouble, ...]:
    """Broken parts first, then what somebody may have left switched the wrong way."""
    return tuple(_troubles(bench))


def _troubles(bench: TransferBench) -> Iterator[Trouble]:
    survey = bench.survey
    if survey.control.by_pressure:
        yield from _each("Sensor", _SENSOR)
    yield from _each("Line", _LINE)
    seen = survey.control.source_by is not SourceBy.NONE
    yield from _each("Source", {SetFault.DRY: "runs empty" if seen else "runs empty, nothing sees it", **({SetFault.SOURCE_WIRE: "its wire off"} if seen else {})})
    for number, tank in enumerate(survey.all_tanks, 1):
        parts = (_VALVE if tank.has_valve else {}) | (_WIRE if survey.control.by_levels else {})
        yield from _each(f"Tank {number}", parts, str(number))
    of_pump = _PUMP | ({} if bench.supply.three else {PumpFault.CAPACITOR: "capacitor weak"})
    of_pump |= {PumpFault.WINDING: "winding's contacts off"} if survey.protection.winding_by is WindingBy.CONTACT else {}
    for pump in range(1, survey.pumping.count + 1):
        yield from _each(f"Pump {pump}", of_pump, str(pump))
    yield Trouble("Mains", "power", _said(Act.POWER, "", 0.0), Act.POWER, "", broken=0.0, mended=1.0)
    yield from supply_troubles("Mains", bench.supply)


_DANGERS = (PumpFault.STALLED, PumpFault.OVERLOAD, PumpFault.SHUT)
_OF_ALL = (SupplyFault.PHASE, SupplyFault.SWAPPED, SupplyFault.LOW, SupplyFault.UNEVEN, Act.POWER, SetFault.DRY, SetFault.BURST, SetFault.LOOP_OPEN)


def dangers(bench: TransferBench) -> tuple[Trouble, ...]:
    """What can harm a running pump 1, its line or its tank."""
    listed = troubles(bench)
    return (
        *(each for each in listed if each.kind in _DANGERS and each.target == "1"), *(each for each in listed if each.kind in _OF_ALL),
        *(each for each in listed if each.kind in (TankFault.STUCK_OPEN, TankFault.STUCK_SHUT) and each.target == "1"),
    )  # fmt: skip


def _each(place: str, listed: dict[AnyAct, str], target: str = "") -> Iterator[Trouble]:
    for kind, words in listed.items():
        turning = int(target) if isinstance(kind, PumpFault) and kind not in _AT_REST else None
        yield Trouble(place, words, _said(kind, target, 1.0), kind, target, turning=turning)


def _said(kind: str, target: str, value: float) -> str:
    return wording.done(TimedAction(0.0, kind, target, value), named(kind, ACTS)).text
