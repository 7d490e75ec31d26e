"""Terminals of a device as its family has them: what each group is called, what of ours leads there, which core goes where."""

from enum import StrEnum
from typing import Protocol

from pydantic import BaseModel, ConfigDict, Field, model_validator


class Unused(StrEnum):
    """What must be at terminals that a plan has no use for."""

    EMPTY = "empty"
    JUMPER = "jumper"  # a contact that permits: closed = may run


class Repeat(StrEnum):
    """What a row or a group of terminals is repeated for."""

    RELAY = "relay"
    DRIVE = "drive"
    PUMP = "pump"
    INPUT = "input"


class Repeated(Protocol):
    """Something that says what it is repeated for."""

    @property
    def per_relay(self) -> bool:
        """For each relay."""

    @property
    def per_drive(self) -> bool:
        """For each drive."""

    @property
    def per_pump(self) -> bool:
        """For each pump."""

    @property
    def per_input(self) -> bool:
        """For each input: of a float, a sensor, a contact."""


def repeat_of(row: Repeated) -> Repeat | None:
    """What it is repeated for; None where it stands once. Raises ValueError where that is said twice."""
    found = [repeat for repeat in Repeat if getattr(row, f"per_{repeat}")]
    if len(found) > 1:
        raise ValueError(f"it is repeated per {' and per '.join(found)}: one of them only")
    return found[0] if found else None


class Terminals(BaseModel):
    """A group of neighbouring terminals that belong together: a supply, a motor, a loop, a contact.

    labels: as printed beside them. cores: what each of them takes, for example L, N, PE; empty where the two ends are alike.
    meaning: which wires of ours lead there; empty where we have nothing to say. unused: what must be there without any.
    per_relay, per_drive, per_pump and per_input repeat the group, {n} in labels, name and meaning.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    labels: tuple[str, ...] = Field(min_length=1, max_length=8)
    name: str = Field(min_length=1, max_length=60)
    meaning: str = Field(default="", max_length=60)
    cores: tuple[str, ...] = ()
    unused: Unused = Unused.EMPTY
    per_relay: bool = False
    per_drive: bool = False
    per_pump: bool = False
    per_input: bool = False
    note: str = Field(default="", max_length=200)

    @model_validator(mode="after")
    def _fits(self) -> "Terminals":
        if self.cores and len(self.cores) != len(self.labels):
            raise ValueError(f"cores are {len(self.cores)} and labels {len(self.labels)}: each terminal takes one core")
        for text, longest in ((label, 8) for label in self.labels):
            if not 1 <= len(text) <= longest:
                raise ValueError(f"label {text!r} is not 1 to {longest} letters long")
        for text in self.cores:
            if not 1 <= len(text) <= 12:
                raise ValueError(f"core {text!r} is not 1 to 12 letters long")
        repeat_of(self)
        return self

    @property
    def place(self) -> str:
        """Its name in records: what leads there, or its first label."""
        return self.meaning or f"terminal.{self.labels[0]}"

    def numbered(self, number: int) -> "Terminals":
        """The same for one relay or drive."""

        def told(text: str) -> str:
            return text.replace("{n}", str(number))

        change = {"name": told(self.name), "meaning": told(self.meaning), "labels": tuple(map(told, self.labels))}
        return self.model_copy(update=change)
