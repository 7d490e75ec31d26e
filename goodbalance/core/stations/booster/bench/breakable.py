"""What can be broken of a booster set on the bench, part by part, as it is built."""

from collections.abc import Iterator

from goodbalance.core.protection.names import SupplyFault, WindingBy
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.troubles import Trouble
from goodbalance.core.stations.booster import wording
from goodbalance.core.stations.booster.bench.rehearse import BoosterBench
from goodbalance.core.stations.booster.names import ACTS, Act, AnyAct, PumpFault, SetFault
from goodbalance.core.stations.booster.survey.control import ControlKind, OutsideSet, SuctionBy
from goodbalance.core.stations.shared.acts import named
from goodbalance.core.stations.shared.supply import supply_troubles

_SENSOR: dict[AnyAct, str] = {SetFault.LOOP_OPEN: "loop open", SetFault.LOOP_SHORT: "loop short", SetFault.FROZEN: "frozen", SetFault.DRIFT: "drifts"}
_PUMP: dict[AnyAct, str] = {
    PumpFault.TRIP: "trips", PumpFault.AIR: "air-bound", PumpFault.CHECK_VALVE: "check valve leaks", PumpFault.SHUT: "valve closed",
    PumpFault.BACKWARDS: "wrong way", PumpFault.OVERLOAD: "turns heavily", PumpFault.STALLED: "blocked", PumpFault.DIAL: "overload turned down", PumpFault.DIAL_UP: "overload turned up",
}  # fmt: skip

_AT_REST = (PumpFault.TRIP, PumpFault.CHECK_VALVE, PumpFault.NO_CALL, PumpFault.CALLS_ON)  # what is felt although its pump rests


def troubles(bench: BoosterBench) -> tuple[Trouble, ...]:
    """Broken parts first, then what somebody may have left switched the wrong way."""
    return tuple(_troubles(bench))


def _troubles(bench: BoosterBench) -> Iterator[Trouble]:
    survey = bench.survey
    control = survey.control
    yield from _each("Sensor", _SENSOR)
    if survey.remote is not None:
        yield from _each("Remote sensor", {SetFault.REMOTE_LOST: "unplugged"})
    if control.flow_switch or control.kind is ControlKind.FLOW_STOP:
        yield from _each("Flow switch", {SetFault.FLOW_STUCK: "stuck"})
    seen = control.suction_by is not SuctionBy.NONE
    yield from _each("Supply", {SetFault.DRY: "runs empty" if seen else "runs empty, nothing sees it", **({SetFault.SUCTION_WIRE: "its wire off"} if seen else {}), **({SetFault.SUCTION_JUMPER: "its switch jumpered"} if control.by_contact else {})})
    yield from _each("Pipes", {SetFault.BURST: "burst", **({SetFault.WATERLOGGED: "tank waterlogged"} if survey.vessel.volume_m3 > 0.0 else {})})
    of_pump = _PUMP | ({} if survey.has_drives else {PumpFault.WELDED: "contactor welded"}) | ({} if bench.supply.three else {PumpFault.CAPACITOR: "capacitor weak"})
    of_pump |= {PumpFault.WINDING: "winding's contacts off"} if survey.protection.winding_by is WindingBy.CONTACT else {}
    of_pump |= {PumpFault.NO_CALL: "its switch does not close", PumpFault.CALLS_ON: "its switch does not open"} if survey.own_switches else {}
    for pump in range(1, survey.pumping.count + 1):
        yield from _each(f"Pump {pump}", of_pump, str(pump), survey.pumping.check_valves)
    yield from _left_switched(bench)
    yield _left("Mains", "power", Act.POWER)
    yield from supply_troubles("Mains", bench.supply)


def _left_switched(bench: BoosterBench) -> Iterator[Trouble]:
    """Who asks, and whether anybody listens."""
    numbers, asking = bench.logic.numbers, bench.logic.numbers.asking
    if asking.outside is not OutsideSet.NONE:
        yield from _each("Outside", {SetFault.OUTSIDE_LOST: "not heard"})
    if asking.local_remote:
        yield _left("Outside", "switched to local", Act.REMOTE)
    if asking.run_contact:
        yield _left("Outside", "run contact open", Act.RUN)
    if asking.lines:
        yield _left("Week's clock", "put off", Act.WEEK)
    if numbers.driven and numbers.kind is ControlKind.CONSTANT:
        yield _left("Loop", "by hand", Act.LOOP)


_DANGERS = (PumpFault.STALLED, PumpFault.OVERLOAD, PumpFault.SHUT, PumpFault.AIR)


def dangers(bench: BoosterBench) -> tuple[Trouble, ...]:
    """What can harm a running pump 1, or the pipes behind it."""
    listed = troubles(bench)
    closed = Trouble("Outlets", "all closed", "Every outlet is closed while it runs", Act.OUTLETS, "", broken=0.0, mended=0.0)
    return (
        *(each for each in listed if each.kind in _DANGERS and each.target == "1"), *(each for each in listed if each.kind in (SupplyFault.PHASE, SupplyFault.SWAPPED, SupplyFault.LOW, SupplyFault.UNEVEN, Act.POWER, SetFault.DRY)), closed,
        *(each for each in listed if each.kind in (SetFault.BURST, SetFault.LOOP_OPEN)),
    )  # fmt: skip


def _each(place: str, listed: dict[AnyAct, str], target: str = "", check_valves: bool = True) -> Iterator[Trouble]:
    felt = _AT_REST if check_valves else (*_AT_REST, PumpFault.SHUT, PumpFault.STALLED)  # without them water runs back through pumps at rest
    for kind, words in listed.items():
        turning = int(target) if isinstance(kind, PumpFault) and kind not in felt else None
        yield Trouble(place, words, _said(kind, target, 1.0), kind, target, turning=turning)


def _left(place: str, words: str, kind: Act) -> Trouble:
    """Something that stands at 1 as it should, and that somebody, or the supply, has put to 0."""
    return Trouble(place, words, _said(kind, "", 0.0), kind, "", broken=0.0, mended=1.0)


def _said(kind: str, target: str, value: float) -> str:
    return wording.done(TimedAction(0.0, kind, target, value), named(kind, ACTS)).text
