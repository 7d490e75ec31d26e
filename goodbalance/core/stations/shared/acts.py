"""Reading what a person does at a bench: actions cross the boundary as text and numbers."""

from collections.abc import Sequence
from dataclasses import replace
from enum import StrEnum
from typing import TypeVar

from goodbalance.core.control.sequencer import Switch
from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.engine import TimedAction
from goodbalance.core.rehearsal.troubles import Lever

SWITCHES = (Switch.HAND, Switch.OFF, Switch.AUTO)  # the value of a switch action is the place in this list
BETWEEN_S = 2.0  # a hand between two places of a switch


Name = TypeVar("Name", bound=StrEnum)


def named(name: str, known: Sequence[type[Name]]) -> Name:
    """The action or fault of that name, looked for in one list after the other. Raises OutOfRange."""
    for names in known:
        if name in {member.value for member in names}:
            return names(name)
    raise OutOfRange("kind", name, ", ".join(member.value for names in known for member in names))


def within(name: str, value: float, low: float, high: float) -> None:
    """Raises OutOfRange where an amount is not low..high."""
    if not low <= value <= high:
        raise OutOfRange(name, value, f"{low:g} to {high:g}")


def switch_of(value: float) -> Switch:
    """The position of a switch by its place. Raises OutOfRange."""
    if value not in range(len(SWITCHES)):
        raise OutOfRange("target", f"{value:g}", f"0 to {len(SWITCHES) - 1}")
    return SWITCHES[int(value)]


def switch_levers(switch: StrEnum, pump: int, tripped: bool) -> list[Lever]:
    """What a person can do with the switch of a pump. switch: the action; tripped: only OFF lets go of a trip, in HAND as well."""
    hand, off, auto = (TimedAction(0.0, switch, str(pump), float(place)) for place in range(len(SWITCHES)))
    guarded = "nothing but its guards stops it then"
    return [
        Lever(f"Pump {pump} to OFF and back to AUTO", (off, _later(auto))),
        Lever(f"Pump {pump} to OFF, then to HAND: {guarded}", (off, _later(hand))) if tripped else Lever(f"Pump {pump} to HAND: {guarded}", (hand,)),
        Lever(f"Pump {pump} to OFF", (off,)),
    ]


def _later(action: TimedAction) -> TimedAction:
    return replace(action, at_s=BETWEEN_S)
