"""The wiring walk: strip by strip what must be found at each group of terminals, dead and live, and what was seen there.

Nothing is looked at live before all is right, or waived, dead.
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum

from goodbalance.core.balance.trail import Term, Worded
from goodbalance.core.sheets.differences import Matter
from goodbalance.core.sheets.terminals import Terminals, Unused

ELSEWHERE = "elsewhere"  # the strip for what no device of the job has terminals for
ELSEWHERE_NAME = "Joined elsewhere"


class Phase(StrEnum):
    """Whether somebody looks while all is dead, or with the supply on."""

    DEAD = "dead"
    LIVE = "live"


class Found(StrEnum):
    """How a look came out."""

    OK = "ok"
    FAULT = "fault"


@dataclass(frozen=True, slots=True)
class Look(Worded):
    """What to look at, and what must be found: words with {symbols} for their numbers."""

    text: str
    terms: tuple[Term, ...] = ()


@dataclass(frozen=True, slots=True)
class Joint:
    """Wires that a plan needs at terminals. meaning: by which groups of terminals name them; to: where their other end is.

    cores: what each wire is, where the device does not say. broken: what follows when one of them breaks. safety: whether a broken
    wire must stop pumps. of_device: every device has its own, at the terminals it names for it.
    """

    meaning: str
    title: str
    to: str
    cores: tuple[str, ...]
    dead: tuple[Look, ...]
    live: tuple[Look, ...]
    broken: str
    safety: bool = False
    of_device: bool = False


@dataclass(frozen=True, slots=True)
class Noted:
    """What somebody saw there. wants: what was to be there then, by `Step.wants`."""

    found: Found
    seen: str
    wants: str
    by: str
    at: str
    seq: int


NO_JOINT = {
    Unused.JUMPER: Look("A jumper sits between the two: this contact permits, and nothing else is wired to it. Continuity across it."),
}
NOTHING_BROKEN = "Without it nothing runs: the contact permits. With it nothing is watched here."


@dataclass(frozen=True, slots=True)
class Step:
    """One group of terminals of one device. group: None for wires that no device has terminals for. joint: None where none lead there."""

    device: str
    device_name: str
    place: str
    group: Terminals | None
    joint: Joint | None
    noted: Mapping[Phase, Noted]

    @property
    def id(self) -> str:
        """Its name in addresses."""
        return f"{self.device}/{self.place}"

    @property
    def labels(self) -> tuple[str, ...]:
        """What is printed beside the terminals; empty where nobody knows."""
        return self.group.labels if self.group is not None else ()

    @property
    def cores(self) -> tuple[str, ...]:
        """What each terminal takes: - where it takes nothing, since the plan's wires are fewer."""
        if self.joint is None:
            return ("jumper",) * len(self.labels) if self.is_jumper else ("-",) * len(self.labels)
        wires, own = self.joint.cores, self.group.cores if self.group is not None else ()
        spare = len(self.labels) - len(wires)
        if spare > 0:
            return (*wires[:-1], *("-",) * spare, wires[-1])
        return own if own and spare == 0 else wires

    @property
    def too_few(self) -> bool:
        """Whether there are more wires than terminals: then only the maker's drawing says how they go."""
        return self.joint is not None and 0 < len(self.labels) < len(self.joint.cores)

    @property
    def title(self) -> str:
        """What it is called."""
        return self.joint.title if self.joint is not None else self.group.name if self.group is not None else self.place

    @property
    def is_jumper(self) -> bool:
        """Whether a jumper belongs there, since nothing else does."""
        return self.joint is None and self.group is not None and self.group.unused is Unused.JUMPER

    @property
    def is_idle(self) -> bool:
        """Whether nothing belongs there at all."""
        return self.joint is None and not self.is_jumper

    @property
    def wants(self) -> str:
        """What must be there, in words without numbers: what was looked at counts while these stay."""
        return "a jumper" if self.joint is None else f"{self.joint.title}, {self.joint.to}"[:200]

    @property
    def broken(self) -> str:
        """What a broken wire does."""
        return NOTHING_BROKEN if self.joint is None else self.joint.broken

    def looks(self, phase: Phase) -> tuple[Look, ...]:
        """What to look at in a phase; empty where there is nothing to see then."""
        if self.joint is not None:
            return self.joint.dead if phase is Phase.DEAD else self.joint.live
        return (NO_JOINT[Unused.JUMPER],) if self.is_jumper and phase is Phase.DEAD else ()

    def state(self, phase: Phase) -> str:
        """ok, fault, again (something else must be there now than when somebody looked), open, or none where there is nothing to see."""
        if not self.looks(phase):
            return "none"
        noted = self.noted.get(phase)
        if noted is None:
            return "open"
        if noted.found is Found.FAULT:
            return "fault"
        return "ok" if noted.wants == self.wants else "again"

    def fault(self, phase: Phase) -> Matter | None:
        """The fault that stands there, to be cleared by a second look or waived."""
        noted = self.noted.get(phase)
        if noted is None or self.state(phase) != "fault":
            return None
        at = f", terminals {', '.join(self.labels)}" if self.labels else ""
        words = f"{self.device_name}{at}, {self.title}, {phase.value}: {noted.seen or 'not as it must be'}"
        return Matter(f"wire/{self.device}/{self.place}/{phase.value}={noted.seen}"[:120], words, self.broken)


@dataclass(frozen=True, slots=True)
class Strip:
    """The terminals of one device in their order."""

    device: str
    name: str
    steps: tuple[Step, ...]


@dataclass(frozen=True, slots=True)
class Walk:
    """Every strip of a job."""

    strips: tuple[Strip, ...]

    def __iter__(self) -> Iterator[Step]:
        """The steps at which something must be looked at, in their order."""
        return (step for strip in self.strips for step in strip.steps if not step.is_idle)

    def step(self, device: str, place: str) -> Step | None:
        """The step of that name."""
        return next((step for step in self if (step.device, step.place) == (device, place)), None)

    def states(self, phase: Phase) -> list[str]:
        """How each look of a phase stands."""
        return [state for step in self if (state := step.state(phase)) != "none"]

    @property
    def faults(self) -> tuple[Matter, ...]:
        """Everything that was found wrong and stands so."""
        return tuple(fault for phase in Phase for step in self if (fault := step.fault(phase)) is not None)

    def may_energise(self, waived: Iterable[str]) -> bool:
        """Whether all was looked at dead and found right, or is waived by name."""
        allowed = set(waived)
        for step in self:
            fault = step.fault(Phase.DEAD)
            if step.state(Phase.DEAD) in ("open", "again") or (fault is not None and fault.about not in allowed):
                return False
        return True

    def following(self, waived: Iterable[str]) -> tuple[Step, Phase] | None:
        """The next look to make: first all that is dead, then what is live; None where all is done."""
        phases = (Phase.DEAD, Phase.LIVE) if self.may_energise(waived) else (Phase.DEAD,)
        looks = ((step, phase) for phase in phases for step in self)
        return next(((step, phase) for step, phase in looks if step.state(phase) in ("open", "again")), None)


def walk(
    devices: Iterable[tuple[str, str, tuple[Terminals, ...]]],
    joints: tuple[Joint, ...],
    noted: Mapping[tuple[str, str], Mapping[Phase, Noted]],
) -> Walk:
    """The walk along these devices (id, name, terminals). Wires that none of them has terminals for come last."""
    wanted = {joint.meaning: joint for joint in joints}
    strips, led = [], set()
    for device, name, groups in devices:
        steps = []
        for group in groups:
            steps.append(Step(device, name, group.place, group, wanted.get(group.meaning), noted.get((device, group.place), {})))
            led.add(group.meaning)
        if steps:
            strips.append(Strip(device, name, tuple(steps)))
    left = [joint for joint in joints if joint.meaning not in led and not joint.of_device]
    if left:
        own = (Step(ELSEWHERE, ELSEWHERE_NAME, each.meaning, None, each, noted.get((ELSEWHERE, each.meaning), {})) for each in left)
        strips.append(Strip(ELSEWHERE, ELSEWHERE_NAME, tuple(own)))
    return Walk(tuple(strips))
