"""What can be broken of a ring on the bench, part by part, as it is built."""

from collections.abc import Iterator

from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.troubles import Trouble
from goodbalance.core.stations.circulator import wording
from goodbalance.core.stations.circulator.bench.rehearse import RingBench
from goodbalance.core.stations.circulator.names import ACTS, Act, AnyAct, BranchFault, Mode, PumpFault, RingFault
from goodbalance.core.stations.circulator.survey.use import Outside
from goodbalance.core.stations.shared.acts import named

_PUMP: dict[AnyAct, str] = {PumpFault.BACKWARDS: "mounted backwards", PumpFault.STUCK: "rotor held fast", PumpFault.WORN: "worn"}


def troubles(bench: RingBench) -> tuple[Trouble, ...]:
    """Broken parts first, then what somebody may have left switched the wrong way."""
    return tuple(_troubles(bench))


def _troubles(bench: RingBench) -> Iterator[Trouble]:
    survey, numbers = bench.survey, bench.logic.numbers
    yield from _each("Pump 1", {RingFault.AIR: "air in it"})
    yield from _each("Pump 1", _PUMP, "1")
    for number in range(1, len(bench.eq.pipes) + 1):
        yield from _each("Branches", {BranchFault.SHUT: f"valve {number} shut"}, str(number))
    if not survey.heats and not survey.crosses and survey.pump.check_valve:
        yield from _each("Ring", {RingFault.BACKFLOW: "check valve missing"})
    if survey.heat.mixing and survey.heat.to_cold:
        yield from _each("Heat", {RingFault.CREEP: "no return to mixing valve"})
    yield from _each("Heat", {RingFault.WEAK_HEATER: "too weak"})
    if numbers.by_clock:
        yield from _each("Clock", {RingFault.TWELVE_HOURS: "twelve hours wrong"})
        if numbers.clock_backup:
            yield from _each("Clock", {RingFault.CLOCK_LOST: "reserve dead"})
    if numbers.mode is Mode.RETURN or numbers.outside is Outside.THERMOSTAT:
        yield from _each("Controls", {RingFault.SENSOR: "return sensor dead"})
    yield from _each("Controls", {RingFault.TWO_CONTROLS: "second timer in its supply"})
    yield Trouble("Mains", "power", _said(Act.POWER, "", 0.0), Act.POWER, "", broken=0.0, mended=1.0)


_DANGERS = (RingFault.AIR, PumpFault.STUCK, PumpFault.BACKWARDS, RingFault.WEAK_HEATER, RingFault.CREEP, RingFault.SENSOR, BranchFault.SHUT, Act.POWER)


def dangers(bench: RingBench) -> tuple[Trouble, ...]:
    """What can harm the running pump or the people at the taps."""
    return tuple(each for each in troubles(bench) if each.kind in _DANGERS)


def _each(place: str, listed: dict[AnyAct, str], target: str = "") -> Iterator[Trouble]:
    for kind, words in listed.items():
        yield Trouble(place, words, _said(kind, target, 1.0), kind, target)


def _said(kind: str, target: str, value: float) -> str:
    return wording.done(TimedAction(0.0, kind, target, value), named(kind, ACTS)).text
