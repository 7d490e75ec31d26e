"""The old float panel that stays: it latches start calls until the stop contact opens, shares them, alternates.

It knows nothing of levels: it sees contacts only. Scan by scan, time is an argument.
"""

from dataclasses import dataclass, field
from enum import StrEnum


class Switch(StrEnum):
    """HAND-OFF-AUTO of one pump."""

    HAND = "hand"
    OFF = "off"
    AUTO = "auto"


@dataclass(frozen=True, slots=True)
class Contacts:
    """What the panel sees. A closed stop contact and a closed low-water contact let pumps run."""

    stop_closed: bool
    low_water_closed: bool
    start_closed: tuple[bool, ...]


@dataclass
class LatchPanel:
    """Start calls latch in order and drop together; the calls go to the available pumps in turn."""

    pump_count: int
    start_gap_s: float
    switches: list[Switch] = field(default_factory=list)
    power: bool = True
    latched: list[bool] = field(default_factory=list)
    order: list[int] = field(default_factory=list)
    running: list[bool] = field(default_factory=list)
    last_start_s: float = -1e9
    now_s: float = 0.0

    def __post_init__(self) -> None:
        self.switches = self.switches or [Switch.AUTO] * self.pump_count
        self.latched = self.latched or [False] * self.pump_count
        self.order = self.order or list(range(self.pump_count))
        self.running = self.running or [False] * self.pump_count

    def scan(self, contacts: Contacts, now_s: float) -> None:
        """Read the contacts and act once."""
        self.now_s = now_s
        if not self.power:
            self.latched = [False] * self.pump_count
            self.running = [False] * self.pump_count
            self.last_start_s = now_s  # the first start after a power return waits one gap
            return
        self._latch(contacts)
        served = self.serving()
        for pump in range(self.pump_count):
            wanted = self.switches[pump] is Switch.HAND or pump in served
            if not wanted:
                self.running[pump] = False
            elif not self.running[pump] and self.gap_left_s() <= 0.0:
                self.running[pump] = True
                self.last_start_s = now_s

    def _latch(self, contacts: Contacts) -> None:
        had_calls = any(self.latched)
        if not (contacts.stop_closed and contacts.low_water_closed):
            self.latched = [False] * self.pump_count
        else:
            self.latched = [held or closed for held, closed in zip(self.latched, contacts.start_closed)]
        if had_calls and not any(self.latched):
            self._alternate()

    def _alternate(self) -> None:
        """At all-stopped the pump that had the first turn goes to the end of the order."""
        for pump in self.order:
            if self.switches[pump] is Switch.AUTO:
                self.order = [other for other in self.order if other != pump] + [pump]
                return

    def serving(self) -> tuple[int, ...]:
        """Which pumps the latched calls go to: the first available ones in turn."""
        available = [pump for pump in self.order if self.switches[pump] is Switch.AUTO]
        return tuple(available[: sum(self.latched)])

    def gap_left_s(self) -> float:
        """Time until another pump may start. 0 when one may start now. [s]"""
        return max(0.0, self.last_start_s + self.start_gap_s - self.now_s)
