"""Reading what a person does at a bench: actions cross the boundary as text and numbers."""

from collections.abc import Sequence
from enum import StrEnum
from typing import TypeVar

from goodbalance.core.control.sequencer import Switch
from goodbalance.core.errors import OutOfRange

SWITCHES = (Switch.HAND, Switch.OFF, Switch.AUTO)  # the value of a switch action is the place in this list


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
