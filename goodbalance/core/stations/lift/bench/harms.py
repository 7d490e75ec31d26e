"""What hurts pump, motor or street on the bench of a lift station, told once as it begins."""

from collections.abc import Sequence
from dataclasses import dataclass

from goodbalance.core.rehearsal.events import Event
from goodbalance.core.stations.lift import wording
from goodbalance.core.stations.lift.names import Harm
from goodbalance.core.stations.lift.plant.water import LiftPlant

Hurt = frozenset[tuple[Harm, int]]  # each harm with the pump it is done to, 1 for pump 1, 0 for none


@dataclass(frozen=True, slots=True)
class Now:
    """How pumps (0 is pump 1) stand at a scan. two, wrong: whether they run on two phases, or the wrong way; burning: those told of just now."""

    running: tuple[int, ...]
    called: Sequence[bool]
    two: bool
    wrong: bool
    turned: frozenset[int]
    burning: frozenset[int]
    boiling: frozenset[int]


def harms(plant: LiftPlant, now: Now, known: Hurt, now_s: float) -> tuple[list[Event], Hurt]:
    """What begins to hurt now, and all that hurts."""
    found: list[tuple[Harm, int]] = [(Harm.AGAINST, pump + 1) for pump in sorted(now.turned.intersection(now.running))]
    if now.running and plant.level_m <= plant.intake_m + 1e-9:
        found.append((Harm.DRAWS_AIR, 0))
    for harm, holds in ((Harm.TWO_PHASES, now.two), (Harm.WRONG_WAY, now.wrong)):
        found += [(harm, pump + 1) for pump in now.running] if holds else []
    found += [(Harm.UNCALLED, pump + 1) for pump in now.running if not now.called[pump]]
    found += [(Harm.BURNS, pump + 1) for pump in sorted(now.burning)]
    found += [(Harm.BOILS, pump + 1) for pump in sorted(now.boiling)]
    if plant.volume_m3 >= plant.overflow_m3 - 1e-9:
        found.append((Harm.OVERFLOWS, 0))
    if not found:
        return [], frozenset()
    return [wording.harms(now_s, harm, plant.level_m, pump) for harm, pump in found if (harm, pump) not in known], frozenset(found)
