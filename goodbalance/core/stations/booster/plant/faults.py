"""How a broken part of a booster set behaves on the bench."""

from dataclasses import dataclass

from goodbalance.core.stations.shared.faults import Faults

DRIFT_PAS = 200.0  # how fast a drifting sensor reads less: a tenth of a bar in 50 s


@dataclass
class BoosterFaults(Faults):
    """Which faults of the set and its pumps are in."""

    drift_per_s: float = DRIFT_PAS
