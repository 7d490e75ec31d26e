"""The controller of a lift station on the bench: level relays into the old latching panel, and the reason lines."""

import math
from dataclasses import dataclass, field

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.control.latch_panel import Contacts, LatchPanel, Switch
from goodbalance.core.control.reasons import Link, LinkState, ReasonLine
from goodbalance.core.control.relays import LevelRelay, OnFailure
from goodbalance.core.physics.signals import Scaling, SignalRange
from goodbalance.core.stations.lift.choices import AlarmRelay, LiftChoices, OnSensorFailure

FAILURE_DELAY_S = 3.0  # a loop fault must last this long before the controller believes it


def relays_of(plan: Plan, choices: LiftChoices) -> tuple[LevelRelay, ...]:
    """The relays that make this plan work with a latching panel, common stop first.

    Stop and low-level cut-out energise on rise and release on fall, so that a dead controller stops the pumps.
    """
    gap_m = choices.rules.relay_gap_m
    levels = {setting.id: setting.value for setting in plan.settings}
    runs_on = choices.schools.sensor_failure is OnSensorFailure.RUN_DUTY
    keep = OnFailure.ENERGISE if runs_on else OnFailure.RELEASE
    relays = [_permit("stop", "Common stop", levels["stop"], gap_m, keep)]
    for setting in plan.settings:
        if setting.id.startswith("start_"):
            on_failure = keep if setting.id == "start_1" else OnFailure.RELEASE
            label = setting.label.removesuffix(" level")
            relays.append(LevelRelay(setting.id, label, setting.value, setting.value - gap_m, on_failure))
    in_health = choices.schools.alarm_relay is AlarmRelay.IN_HEALTH
    relays.append(_alarm("high_alarm", "High alarm", levels["high_alarm"], -gap_m, OnFailure.ENERGISE, in_health))
    relays.append(_alarm("low_alarm", "Low alarm", levels["low_alarm"], gap_m, OnFailure.RELEASE, in_health))
    relays.append(_permit("low_cut_out", "Low-level cut-out", levels["low_cut_out"], gap_m, keep))
    return tuple(relays)


def _permit(role: str, label: str, level_m: float, gap_m: float, on_failure: OnFailure) -> LevelRelay:
    """A relay that permits above its level: energises one gap above, releases at the level."""
    return LevelRelay(role, label, level_m + gap_m, level_m, on_failure, sets_at_off=True)


def _alarm(role: str, label: str, level_m: float, gap_m: float, on_failure: OnFailure, in_health: bool) -> LevelRelay:
    """An alarm relay: energised in alarm, or in health on its normally closed contact, then released on failure."""
    if not in_health:
        return LevelRelay(role, label, level_m, level_m + gap_m, on_failure)
    return LevelRelay(role, label, level_m + gap_m, level_m, OnFailure.RELEASE, normally_closed=True, sets_at_off=True)


@dataclass
class LiftLogic:
    """One scan reads the loop current, moves the relays, and lets the panel act on their contacts."""

    relays: tuple[LevelRelay, ...]
    signal_range: SignalRange
    scaling: Scaling
    panel: LatchPanel
    energised: list[bool] = field(default_factory=list)
    level_m: float | None = None
    failed_since_s: float | None = None
    low_float_open: bool = False
    now_s: float = 0.0

    def __post_init__(self) -> None:
        self.energised = self.energised or [False] * len(self.relays)

    def scan(self, signal: float, now_s: float, feedback: tuple[bool, ...] | None = None) -> None:
        """Act once on the sensor's signal (A or V) and the starters' feedback at this time."""
        self.now_s = now_s
        self.level_m = self._believed_level_m(signal)
        if self.panel.power:
            self.energised = [relay.follows(was, self.level_m) for relay, was in zip(self.relays, self.energised)]
        else:
            self.energised = [False] * len(self.relays)
        starts = tuple(self.is_closed(f"start_{k + 1}") for k in range(self.panel.duty_count))
        low_water_closed = self.is_closed("low_cut_out") and not self.low_float_open
        self.panel.scan(Contacts(self.is_closed("stop"), low_water_closed, starts), now_s, feedback)

    def _believed_level_m(self, signal: float) -> float | None:
        if not self.signal_range.has_failed(signal):
            self.failed_since_s = None
            return self.scaling.value(signal)
        if self.failed_since_s is None:
            self.failed_since_s = self.now_s
        return self.level_m if self.now_s - self.failed_since_s < FAILURE_DELAY_S else None

    @property
    def sensor_failed(self) -> bool:
        """Whether the controller has given the level signal up."""
        return self.level_m is None

    def is_closed(self, role: str) -> bool:
        """Whether the contact wired for this role is closed: for an alarm, whether it is on."""
        return any(relay.closes(on) for relay, on in zip(self.relays, self.energised) if relay.role == role)

    def relay(self, role: str) -> LevelRelay:
        """The relay of that role; StopIteration never leaves: every plan has each role asked for."""
        return next(relay for relay in self.relays if relay.role == role)

    def timer_left_s(self) -> float:
        """Shortest running timer, or infinity: until then the clock alone changes nothing. [s]"""
        timers = [math.inf]
        if self.failed_since_s is not None and self.level_m is not None:
            timers.append(self.failed_since_s + FAILURE_DELAY_S - self.now_s)
        if self._someone_waits():
            timers.append(self.panel.gap_left_s())
        for pump in range(self.panel.pump_count):
            left_s = self.panel.feedback_left_s(pump)
            if left_s is not None:
                timers.append(left_s)
        return max(0.0, min(timers))

    def _someone_waits(self) -> bool:
        served = self.panel.serving()
        return any(
            not self.panel.running[pump]
            and (pump in served or (self.panel.switches[pump] is Switch.HAND and not self.panel.given_up[pump]))
            for pump in range(self.panel.pump_count)
        )

    # why

    def reason(self, pump: int, turns: bool) -> ReasonLine:
        """Why this pump runs or not: power, switch, starter, in AUTO low water, stop contact, call, turn; start gap.

        turns: whether the pump really runs, which a failed starter prevents.
        """
        panel, switch = self.panel, self.panel.switches[pump]
        links = [_link("Power", panel.power, "present", "no supply")]
        if switch is Switch.AUTO:
            links += [Link("Switch", LinkState.HOLDS, "AUTO"), self._starter(pump, turns), *self._auto_links(pump)]
        elif switch is Switch.HAND:
            text = "HAND: no level contact stops it, stay beside it"
            links += [Link("Switch", LinkState.HOLDS, text, is_demand=True), self._starter(pump, turns)]
        else:
            links += [Link("Switch", LinkState.BLOCKS, "OFF"), self._starter(pump, turns)]
        if panel.running[pump] or panel.gap_left_s() <= 0.0:
            links.append(Link("Start gap", LinkState.HOLDS, "clear"))
        else:
            text = "a pump has just started, or power returned"
            links.append(Link("Start gap", LinkState.WAITS, text, (), panel.gap_left_s()))
        return ReasonLine(f"Pump {pump + 1}", turns, tuple(links))

    def _starter(self, pump: int, turns: bool) -> Link:
        if self.panel.given_up[pump]:
            return Link("Starter", LinkState.BLOCKS, "given up: no feedback; OFF resets")
        if self.panel.running[pump] and not turns:
            return Link("Starter", LinkState.WAITS, "called, no feedback yet", (), self.panel.feedback_left_s(pump))
        return Link("Starter", LinkState.HOLDS, "healthy")

    def _auto_links(self, pump: int) -> list[Link]:
        if self.low_float_open:
            low_water = Link("Low water", LinkState.BLOCKS, "the low-level float has opened")
        else:
            low_water = self._contact("Low water", "low_cut_out")
        return [low_water, self._contact("Stop contact", "stop"), self._call(), self._turn(pump)]

    def _contact(self, name: str, role: str) -> Link:
        """A contact that must be closed: held by a relay that energises on rise."""
        relay = self.relay(role)
        terms = (Term("off", "off level", relay.off_m, Q.LEVEL), Term("on", "on level", relay.on_m, Q.LEVEL))
        if self.is_closed(role):
            text = "closed although the signal is lost" if self.sensor_failed else "closed, opens at {off}"
            return Link(name, LinkState.HOLDS, text, terms)
        if self.level_m is None:
            return Link(name, LinkState.BLOCKS, "open, level signal lost", terms)
        level = Term("level", "level as read", self.level_m, Q.LEVEL)
        return Link(name, LinkState.BLOCKS, "open at {level}, closes at {on}", (*terms, level))

    def _call(self) -> Link:
        calls = sum(self.panel.latched)
        if calls:
            return Link("Call", LinkState.HOLDS, f"{calls} latched until stop", is_demand=True)
        start = Term("start", "duty start level", self.relay("start_1").on_m, Q.LEVEL)
        if self.level_m is None:
            return Link("Call", LinkState.BLOCKS, "none, level signal lost", is_demand=True)
        level = Term("level", "level as read", self.level_m, Q.LEVEL)
        return Link("Call", LinkState.BLOCKS, "none: {level}, duty starts at {start}", (level, start), is_demand=True)

    def _turn(self, pump: int) -> Link:
        panel = self.panel
        if pump in panel.serving():
            return Link("Turn", LinkState.HOLDS, f"number {panel.serving().index(pump) + 1}")
        if panel.given_up[pump]:
            return Link("Turn", LinkState.BLOCKS, "passed over")
        place = [other for other in panel.order if panel.is_available(other)].index(pump) + 1
        if place > panel.duty_count:
            return Link("Turn", LinkState.BLOCKS, "standby: runs in the place of another")
        start = Term("start", "start level", self.relay(f"start_{place}").on_m, Q.LEVEL)
        return Link("Turn", LinkState.BLOCKS, f"number {place}, joins at {{start}}", (start,))


def _link(name: str, holds: bool, good: str, bad: str) -> Link:
    return Link(name, LinkState.HOLDS if holds else LinkState.BLOCKS, good if holds else bad)
