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


class Alternation(StrEnum):
    """When the turn passes from one pump to the next."""

    ALL_STOPPED = "all_stopped"  # each time all pumps have stopped
    FIXED = "fixed"  # never: pump 1 always leads
    RUN_HOURS = "run_hours"  # at all stopped, to the pump that has run least
    CLOCK = "clock"  # at the first all stopped after each full period


@dataclass(frozen=True, slots=True)
class Contacts:
    """What the panel sees. A closed stop contact and a closed low-water contact let pumps run."""

    stop_closed: bool
    low_water_closed: bool
    start_closed: tuple[bool, ...]


@dataclass
class LatchPanel:
    """Start calls latch in order and drop together; the calls go to the available pumps in turn.

    A standby pump (the last one) is called only in the place of another that is not available. A pump whose
    starter gives no feedback for feedback_s is given up until its switch is turned to OFF.
    """

    pump_count: int
    start_gap_s: float
    alternation: Alternation = Alternation.ALL_STOPPED
    clock_period_s: float = 86400.0
    standby: bool = False
    feedback_s: float = 5.0
    switches: list[Switch] = field(default_factory=list)
    power: bool = True
    latched: list[bool] = field(default_factory=list)
    order: list[int] = field(default_factory=list)
    running: list[bool] = field(default_factory=list)  # called in: the contactor coil has voltage
    given_up: list[bool] = field(default_factory=list)
    run_s: list[float] = field(default_factory=list)
    missing_since_s: list[float | None] = field(default_factory=list)
    last_start_s: float = -1e9
    turned_at_s: float = 0.0
    now_s: float = 0.0

    def __post_init__(self) -> None:
        self.switches = self.switches or [Switch.AUTO] * self.pump_count
        self.latched = self.latched or [False] * self.duty_count
        self.order = self.order or list(range(self.pump_count))
        self.running = self.running or [False] * self.pump_count
        self.given_up = self.given_up or [False] * self.pump_count
        self.run_s = self.run_s or [0.0] * self.pump_count
        self.missing_since_s = self.missing_since_s or [None] * self.pump_count

    @property
    def duty_count(self) -> int:
        """Pumps that share the work; a standby is not among them."""
        return self.pump_count - 1 if self.standby and self.pump_count > 1 else self.pump_count

    def turn_switch(self, pump: int, place: Switch) -> None:
        """HAND, OFF or AUTO; OFF also resets a pump that was given up."""
        self.switches[pump] = place
        if place is Switch.OFF:
            self.given_up[pump] = False

    def scan(self, contacts: Contacts, now_s: float, feedback: tuple[bool, ...] | None = None) -> None:
        """Read the contacts and act once. feedback: which starters are pulled in; None takes all as called."""
        elapsed_s = now_s - self.now_s
        self.run_s = [run + elapsed_s * on for run, on in zip(self.run_s, self.running)]
        self.now_s = now_s
        if not self.power:
            self.latched = [False] * self.duty_count
            self.running = [False] * self.pump_count
            self.missing_since_s = [None] * self.pump_count
            self.last_start_s = now_s  # the first start after a power return waits one gap
            return
        self._watch_starters(feedback if feedback is not None else tuple(self.running))
        self._latch(contacts)
        served = self.serving()
        for pump in range(self.pump_count):
            by_hand = self.switches[pump] is Switch.HAND and not self.given_up[pump]
            if not (by_hand or pump in served):
                self.running[pump] = False
            elif not self.running[pump] and self.gap_left_s() <= 0.0:
                self.running[pump] = True
                self.last_start_s = now_s

    def _watch_starters(self, feedback: tuple[bool, ...]) -> None:
        for pump, (called, seen) in enumerate(zip(self.running, feedback)):
            if not called or seen:
                self.missing_since_s[pump] = None
                continue
            since_s = self.missing_since_s[pump]
            self.missing_since_s[pump] = since_s = self.now_s if since_s is None else since_s
            if self.now_s - since_s >= self.feedback_s:
                self.given_up[pump] = True
                self.missing_since_s[pump] = None

    def _latch(self, contacts: Contacts) -> None:
        had_calls = any(self.latched)
        if not (contacts.stop_closed and contacts.low_water_closed):
            self.latched = [False] * self.duty_count
        else:
            self.latched = [held or closed for held, closed in zip(self.latched, contacts.start_closed)]
        if had_calls and not any(self.latched):
            self._pass_the_turn()

    def _pass_the_turn(self) -> None:
        """All have stopped: who leads next, by the rule of alternation. The standby keeps its place at the end."""
        duty = [pump for pump in self.order if pump < self.duty_count]
        rest = [pump for pump in self.order if pump >= self.duty_count]
        if self.alternation is Alternation.FIXED:
            return
        if self.alternation is Alternation.RUN_HOURS:
            duty.sort(key=lambda pump: self.run_s[pump])  # stable: among equals the order stays
        elif self.alternation is Alternation.ALL_STOPPED or self._period_is_over():
            first = next((pump for pump in duty if self.is_available(pump)), None)
            if first is not None:
                duty = [pump for pump in duty if pump != first] + [first]
        self.order = duty + rest

    def _period_is_over(self) -> bool:
        if self.now_s - self.turned_at_s < self.clock_period_s:
            return False
        self.turned_at_s = self.now_s
        return True

    def is_available(self, pump: int) -> bool:
        """Whether calls can go to this pump: in AUTO and not given up."""
        return self.switches[pump] is Switch.AUTO and not self.given_up[pump]

    def serving(self) -> tuple[int, ...]:
        """Which pumps the latched calls go to: the first available ones in turn."""
        available = [pump for pump in self.order if self.is_available(pump)]
        return tuple(available[: sum(self.latched)])

    def gap_left_s(self) -> float:
        """Time until another pump may start. 0 when one may start now. [s]"""
        return max(0.0, self.last_start_s + self.start_gap_s - self.now_s)

    def feedback_left_s(self, pump: int) -> float | None:
        """Time until a starter without feedback is given up; None where nothing is missing. [s]"""
        since_s = self.missing_since_s[pump]
        return None if since_s is None else max(0.0, since_s + self.feedback_s - self.now_s)
