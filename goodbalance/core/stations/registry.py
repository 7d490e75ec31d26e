"""The kinds of station there are. A new kind is a package beside this file and one line here."""

from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.kind import StationKind
from goodbalance.core.stations.lift.kind import LIFT

KINDS: dict[str, StationKind] = {kind.id: kind for kind in (LIFT, BOOSTER)}
