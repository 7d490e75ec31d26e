"""Which faults the proofs of a plan would notice: each fault is put in, every proof is made on the bench, and the two are compared.

Nothing is taken from what a proof says it is for: each cell of the table comes from a run.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from goodbalance.core.balance.proof import Verdict
from goodbalance.core.rehearsal.proving import BenchProof
from goodbalance.core.rehearsal.troubles import PLAIN, Sign, Trouble

MOST_CLOSING = 3


class Notice(StrEnum):
    """What a proof makes of a fault."""

    FAILS = "fails"  # the proof is not passed
    ALARM = "alarm"  # it is passed, and an alarm comes that does not come in health
    NOTHING = "nothing"
    ANYWAY = "anyway"  # it fails in health too, so it tells nothing


@dataclass(frozen=True, slots=True)
class Closing:
    """What would tell of a fault that no proof notices: something to look at where a proof's scene ends."""

    proof: str
    scene: str
    sign: Sign  # as it is in health
    broken: float | None  # the same with the fault


@dataclass(frozen=True, slots=True)
class Noticed:
    """One fault against every proof. cells: by the proof's id; closing: where nothing notices it, what would."""

    trouble: Trouble
    cells: Mapping[str, Notice]
    closing: tuple[Closing, ...] = ()

    @property
    def best(self) -> Notice:
        """The most that any proof makes of it."""
        found = set(self.cells.values())
        return next((each for each in (Notice.FAILS, Notice.ALARM) if each in found), Notice.NOTHING)


def may_notice(trouble: Trouble, healthy: Sequence[BenchProof]) -> frozenset[str] | None:
    """The proofs that go another way with this fault, or may: those in which the pump it is of ran in health. All where that is None."""
    return None if trouble.turning is None else frozenset(each.proof.id for each in healthy if trouble.turning in each.turned)


def noticed(trouble: Trouble, healthy: Sequence[BenchProof], broken: Sequence[BenchProof]) -> Noticed:
    """The fault's row. healthy, broken: the proofs made on the bench without and with it; one that is not among the broken goes as in health."""
    with_it = {each.proof.id: each for each in (*healthy, *broken)}
    cells = {each.proof.id: _notice(each, with_it[each.proof.id]) for each in healthy}
    row = Noticed(trouble, cells)
    return row if row.best is Notice.FAILS else Noticed(trouble, cells, _closing(healthy, with_it))


def _notice(healthy: BenchProof, broken: BenchProof) -> Notice:
    if healthy.verdict is not Verdict.PASSED:
        return Notice.ANYWAY
    if broken.verdict is not Verdict.PASSED:
        return Notice.FAILS
    return Notice.ALARM if broken.alarms - healthy.alarms else Notice.NOTHING


def _closing(healthy: Sequence[BenchProof], with_it: Mapping[str, BenchProof]) -> tuple[Closing, ...]:
    """The plainest differences between the ends of a scene with and without the fault, one of each sign."""
    found: dict[str, tuple[float, Closing]] = {}
    for each in healthy:
        for sign, other in zip(each.ended, with_it[each.proof.id].ended):
            off = sign.differs(other.value)
            if off >= PLAIN and off > found.get(sign.id, (0.0,))[0]:
                found[sign.id] = (off, Closing(each.proof.id, each.scene.name, sign, other.value))
    plainest = sorted(found.values(), key=lambda pair: -pair[0])
    return tuple(closing for _, closing in plainest[:MOST_CLOSING])
