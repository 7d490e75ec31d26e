"""Proofs: what must be made to happen on site, what must be seen, and whether it was."""

import math
import re
from dataclasses import dataclass
from enum import StrEnum

from goodbalance.core.balance.quantities import Quantity


class Method(StrEnum):
    """How a function was made to happen. On the bench alone nothing of the real controller is touched."""

    REAL_WATER = "real_water"
    OUTPUTS_MOVING = "simulation_outputs_moving"  # level or pressure feigned in the controller, contacts move
    OUTPUTS_HELD = "simulation_outputs_held"  # the same, contacts stay: nothing starts
    BENCH = "bench"


PROVING = frozenset((Method.REAL_WATER, Method.OUTPUTS_MOVING))  # real contacts moved; else it was shown, not proved


class Answer(StrEnum):
    """What kind of answer a proof asks for."""

    NUMBER = "number"
    YES_NO = "yes_no"
    SEQUENCE = "sequence"


class Verdict(StrEnum):
    """How a proof came out."""

    PASSED = "passed"
    FAILED = "failed"


@dataclass(frozen=True, slots=True)
class Proof:
    """One function to be proved.

    check: which, by the enum of its kind of station, and of: the role, timer or number it is about, where it is about one.
    expects: which of several outcomes must be seen, where the plan decides; must_see says the same in words. decided: what
    else of the plan, beside settings, decides what must be seen, in words that stay whatever must_see is worded like.
    """

    check: str
    title: str
    group: str
    precondition: str
    cautions: tuple[str, ...]
    action: str
    must_see: str
    answer: Answer
    expected: float = math.nan  # SI; for NUMBER
    tolerance: float = math.nan
    quantity: Quantity = Quantity.LEVEL
    pumps: int = 0  # for SEQUENCE: how many pumps take turns
    cycles: int = 0
    proves: tuple[str, ...] = ()  # ids of the settings it proves
    of: str = ""
    expects: str = ""
    decided: str = ""

    @property
    def id(self) -> str:
        """Its name in records and addresses."""
        return f"{self.check}_{self.of}" if self.of else str(self.check)

    @property
    def claim(self) -> str:
        """What is claimed beside numbers: another claim is another thing to be seen. Empty where nothing was decided."""
        return " ".join(filter(None, (self.expects, self.decided, f"{self.pumps} pumps" if self.pumps else "")))


def judge(proof: Proof, seen: float | bool | tuple[int, ...]) -> Verdict:
    """Whether what was seen is what must be seen."""
    if proof.answer is Answer.NUMBER:
        good = abs(float(seen) - proof.expected) <= proof.tolerance + 1e-9  # type: ignore[arg-type]
    elif proof.answer is Answer.YES_NO:
        good = seen is True
    else:
        good = isinstance(seen, tuple) and takes_turns(seen, proof.pumps, proof.cycles)
    return Verdict.PASSED if good else Verdict.FAILED


def takes_turns(sequence: tuple[int, ...], pumps: int, cycles: int) -> bool:
    """Whether the duty pumps seen over the cycles come one after the other, round and round."""
    if len(sequence) < cycles or any(not 1 <= pump <= pumps for pump in sequence):
        return False
    return all(following == earlier % pumps + 1 for earlier, following in zip(sequence, sequence[1:]))


def read_sequence(text: str) -> tuple[int, ...]:
    """Pump numbers as typed: '1 2 1', '1,2,1' or '1-2-1'. ValueError where something else stands."""
    parts = [part for part in re.split(r"[\s,;>-]+", text.strip()) if part]
    if not parts:
        raise ValueError("no pump numbers")
    return tuple(int(part) for part in parts)
