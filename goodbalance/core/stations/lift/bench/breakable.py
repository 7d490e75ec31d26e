"""What can be broken of a lift station on the bench, part by part, as it is built."""

from collections.abc import Iterator

from goodbalance.core.control.level_drive import DriveMode
from goodbalance.core.protection.names import SupplyFault, WindingBy
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.troubles import Trouble
from goodbalance.core.stations.lift import wording
from goodbalance.core.stations.lift.bench.rehearse import LiftBench
from goodbalance.core.stations.lift.names import ACTS, Act, AnyAct, FloatFault, PumpFault, StationFault, WireFault
from goodbalance.core.stations.lift.survey.level_sensor import SensorKind
from goodbalance.core.stations.shared.acts import named
from goodbalance.core.stations.shared.supply import supply_troubles

_SENSOR: dict[AnyAct, str] = {
    StationFault.LOOP_OPEN: "loop open", StationFault.LOOP_SHORT: "loop short", StationFault.FROZEN: "frozen", StationFault.DRIFT: "drifts",
}  # fmt: skip
_LOOKS_DOWN: dict[AnyAct, str] = {StationFault.ECHO: "false echo", StationFault.LOST_ECHO: "no echo"}
_FLOAT: dict[AnyAct, str] = {FloatFault.UP: "caught up", FloatFault.DOWN: "caught down"}
_PUMP: dict[AnyAct, str] = {
    PumpFault.STARTER: "starter", PumpFault.FEEDBACK: "feedback", PumpFault.OVERLOAD: "turns heavily", PumpFault.STALLED: "blocked", PumpFault.SHUT: "valve shut",
    PumpFault.CLOGGED: "clogged", PumpFault.DIAL: "overload turned down", PumpFault.DIAL_UP: "overload turned up", PumpFault.CHECK_VALVE: "check valve",
}  # fmt: skip

_AT_REST = (PumpFault.CHECK_VALVE, PumpFault.SEAL, PumpFault.NODE, PumpFault.INPUT, PumpFault.BACKWARDS)  # what is felt although its pump rests


def troubles(bench: LiftBench) -> tuple[Trouble, ...]:
    """Broken parts first, then what somebody may have left switched the wrong way."""
    return tuple(_troubles(bench))


def _troubles(bench: LiftBench) -> Iterator[Trouble]:
    survey, logic = bench.plant.hydraulics.survey, bench.logic
    control = survey.control
    if survey.sensor is not None:
        looks_down = survey.sensor.kind is SensorKind.LOOK_DOWN
        yield from _each("Sensor", _SENSOR | (_LOOKS_DOWN if looks_down else {}))
    for relay in bench.float_relays:
        yield from _each(f"{relay.label} float" if logic.alone else relay.label, _FLOAT, relay.role)
    wires = [] if logic.alone else [(relay.role, relay.label) for relay in logic.relays]
    wires += [(contact, wording.place_of(contact).capitalize()) for contact in bench.faults.wired[len(logic.relays) :]]
    for contact, label in wires:
        yield from _each(f"{label}: its wires", {WireFault.OFF: "a wire off"}, contact)
    if logic.drive is not None and logic.drive.mode is DriveMode.OUTSIDE:
        yield from _each("Outside signal", {StationFault.OUTSIDE_LOST: "a wire off"})
    if survey.demands.low_float:
        yield from _each("Low-level float", {StationFault.LOW_FLOAT: "turned down"})
    of_pump = dict(_PUMP)
    of_pump |= {PumpFault.SEAL: "seal"} if control.seal_probes else {}
    of_pump |= {PumpFault.BACKWARDS: "turns backwards"} if control.backwards_contact else {}
    of_pump |= {} if logic.drive is not None else {PumpFault.WELDED: "contactor welded"}
    of_pump |= {} if bench.supply.three else {PumpFault.CAPACITOR: "capacitor weak"}
    of_pump |= {PumpFault.WINDING: "winding's contacts off"} if survey.protection.winding_by is WindingBy.CONTACT else {}
    of_pump |= {PumpFault.NODE: "silent drive", PumpFault.INPUT: "level input"} if logic.leader is not None else {}
    for pump in range(1, logic.panel.pump_count + 1):
        yield from _each(f"Pump {pump}", of_pump, str(pump))
    if control.run_contact:
        yield _left("Outside", "run contact says no", Act.RUN)
    if control.local_remote:
        yield _left("Outside", "switched to local", Act.REMOTE)
    if logic.leader is not None:
        yield from _each("Link between the drives", {StationFault.LINK: "off"})
    yield _left("Supply", "power", Act.POWER)
    yield from supply_troubles("Supply", bench.supply)


_DANGERS = (PumpFault.STALLED, PumpFault.OVERLOAD, PumpFault.SHUT, PumpFault.SEAL)


def dangers(bench: LiftBench) -> tuple[Trouble, ...]:
    """What can harm a running pump 1, or let the well run empty."""
    listed = troubles(bench)
    empty = Trouble("Well", "runs empty", "The well runs empty: nothing comes in", Act.INFLOW, "", broken=0.0, mended=0.0)
    return (
        *(each for each in listed if each.kind in _DANGERS and each.target == "1"), *(each for each in listed if each.kind in (SupplyFault.PHASE, SupplyFault.SWAPPED, SupplyFault.LOW, SupplyFault.UNEVEN, Act.POWER)), empty,
        *(each for each in listed if each.kind in (StationFault.LOW_FLOAT, StationFault.LOOP_OPEN)),
    )  # fmt: skip


def _each(place: str, listed: dict[AnyAct, str], target: str = "") -> Iterator[Trouble]:
    for kind, words in listed.items():
        turning = int(target) if isinstance(kind, PumpFault) and kind not in _AT_REST else None
        yield Trouble(place, words, _said(kind, target, 1.0), kind, target, turning=turning)


def _left(place: str, words: str, kind: Act) -> Trouble:
    """Something that stands at 1 as it should, and that somebody, or the supply, has put to 0."""
    return Trouble(place, words, _said(kind, "", 0.0), kind, "", broken=0.0, mended=1.0)


def _said(kind: str, target: str, value: float) -> str:
    return wording.done(TimedAction(0.0, kind, target, value), named(kind, ACTS)).text
