"""Alarms as a person meets them: flashing and sounding until silenced, steady while the cause lasts, then clear or waiting."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum


@dataclass(frozen=True, slots=True)
class Cause:
    """What raises an alarm: which, by the enum of its kind of station, and the pump it is about (1 for pump 1, 0 for none)."""

    what: str
    pump: int = 0


class Lamp(StrEnum):
    """How an alarm's lamp stands."""

    FLASHING = "flashing"  # new: nobody has silenced it yet
    STEADY = "steady"  # known, its cause lasts
    WAITING = "waiting"  # its cause has gone, it waits for a reset by hand


@dataclass
class AlarmPanel:
    """Which alarms are up. With by_hand an alarm stays until somebody resets it after its cause has gone.

    flashes: whether a new one is told from a known one; sounds: whether a sounder calls until it is silenced.
    """

    by_hand: bool = False
    flashes: bool = True
    sounds: bool = True
    lamps: dict[Cause, Lamp] = field(default_factory=dict)
    causes: frozenset[Cause] = frozenset()
    words: dict[Cause, str] = field(default_factory=dict)  # what each alarm says

    @property
    def sounding(self) -> bool:
        """Whether the sounder is on: any alarm that nobody has silenced, where there is a sounder."""
        return self.sounds and Lamp.FLASHING in self.lamps.values()

    def update(self, causes: Mapping[Cause, str]) -> tuple[list[Cause], list[Cause]]:
        """Take the causes that hold now. Returns the alarms that came and those that cleared by themselves."""
        came = [alarm for alarm in causes if alarm not in self.causes]
        self.causes = frozenset(causes)
        self.words |= causes
        for alarm in came:
            self.lamps[alarm] = Lamp.FLASHING
        cleared = []
        for alarm in [alarm for alarm in self.lamps if alarm not in causes]:
            if not self.by_hand:
                del self.lamps[alarm]
                cleared.append(alarm)
            elif self.lamps[alarm] is Lamp.STEADY:
                self.lamps[alarm] = Lamp.WAITING
        return came, cleared

    def silence(self) -> None:
        """Stop the sounder; what flashed stands still, or waits where its cause has gone."""
        for alarm, lamp in self.lamps.items():
            if lamp is Lamp.FLASHING:
                self.lamps[alarm] = Lamp.STEADY if alarm in self.causes else Lamp.WAITING

    def reset(self) -> list[Cause]:
        """Clear every alarm whose cause has gone; the others stay. Returns what was cleared."""
        gone = [alarm for alarm in self.lamps if alarm not in self.causes]
        for alarm in gone:
            del self.lamps[alarm]
        return gone
