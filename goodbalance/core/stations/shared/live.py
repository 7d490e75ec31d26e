"""What a controller tells while it runs: its channels, and what the plan expects of them as things stand."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Protocol

from goodbalance.core.balance.proof import Proof
from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.balance.trail import Term, Worded
from goodbalance.core.control.alarms import AlarmPanel
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.rehearsal.proving import Seen
from goodbalance.core.stations.shared.acts import SWITCHES

Rows = tuple[tuple[float, tuple[float, ...]], ...]  # a time [s], and the channels then
ALARM, SWITCH = "alarm_", "switch_"  # before the name of an alarm, before the number of a pump


@dataclass(frozen=True, slots=True)
class Channel:
    """One value a controller tells. quantity: of a measured one, in SI; words: of a state, by its place, what it is called."""

    name: str
    label: str
    quantity: Quantity | None = None
    words: tuple[str, ...] = ()

    def worded(self, value: float, system: UnitSystem) -> str:
        """The value as a person reads it."""
        if self.quantity is not None:
            return show(value, self.quantity, system)
        place = round(value)
        return self.words[place] if 0 <= place < len(self.words) else f"{value:g}"


@dataclass(frozen=True, slots=True)
class Expected(Worded):
    """What the plan expects of a channel now. holds: whether it is so; None where either is right. within_s: so long it may differ."""

    channel: str
    text: str
    terms: tuple[Term, ...]
    holds: bool | None
    within_s: float = 0.0


class Live(Protocol):
    """The live side of a kind's controller."""

    def channels(self, survey: Any, choices: Any, plan: Any) -> tuple[Channel, ...]:
        """What its controller tells, in the order of the registers."""

    def told(self, bench: Any, at_s: float) -> dict[str, float]:
        """The same of a bench: what a stand-in tells."""

    def expected(self, survey: Any, choices: Any, plan: Any, now: Mapping[str, float]) -> tuple[Expected, ...]:
        """What the plan expects of the channels, as they stand."""

    def seen_in(self, survey: Any, choices: Any, plan: Any, proofs: tuple[Proof, ...], names: tuple[str, ...], rows: Rows) -> dict[str, Seen]:
        """What a trend of these channels shows of proofs, by their ids: a number in SI, a yes or no, or pump numbers."""


def of_controls(switches: Iterable[Switch], panel: AlarmPanel, alarms: type[StrEnum]) -> dict[str, float]:
    """Switches and alarms of a bench as channels."""
    up = {cause.what for cause in panel.lamps}
    found = {f"{SWITCH}{pump}": float(SWITCHES.index(switch)) for pump, switch in enumerate(switches, 1)}
    return {**found, **{f"{ALARM}{alarm}": float(alarm in up) for alarm in alarms}}


def control_channels(pumps: int, alarms: Mapping[str, str]) -> tuple[Channel, ...]:
    """The channels of switches and alarms. alarms: what each is called."""
    switches = tuple(Channel(f"{SWITCH}{pump}", f"Switch of pump {pump}", words=("HAND", "OFF", "AUTO")) for pump in range(1, pumps + 1))
    return (*switches, *(Channel(f"{ALARM}{name}", label, words=("no", "ALARM")) for name, label in alarms.items()))


def expected_of_controls(now: Mapping[str, float], alarms: Mapping[str, bool | None], within_s: float) -> tuple[Expected, ...]:
    """Switches in AUTO, and each alarm up or not. alarms: by name, whether it must be up; None where either is right."""
    found = [
        Expected(name, "AUTO", (), round(value) == SWITCHES.index(Switch.AUTO))
        for name, value in now.items() if name.startswith(SWITCH)
    ]  # fmt: skip
    for name, must in alarms.items():
        up = now.get(f"{ALARM}{name}", 0.0) > 0.5
        text = "either is right here" if must is None else "up" if must else "not up"
        found.append(Expected(f"{ALARM}{name}", text, (), None if must is None else up is must, within_s))
    return tuple(found)
