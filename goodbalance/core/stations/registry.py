"""The kinds of station there are. A new kind is a package beside this file and one line here."""

from goodbalance.core.stations.booster.kind import BOOSTER
from goodbalance.core.stations.circulator.kind import CIRCULATOR
from goodbalance.core.stations.kind import AnyKind
from goodbalance.core.stations.lift.kind import LIFT
from goodbalance.core.stations.maintenance.kind import MAINTENANCE
from goodbalance.core.stations.transfer.kind import TRANSFER

KINDS: dict[str, AnyKind] = {kind.id: kind for kind in (LIFT, BOOSTER, TRANSFER, MAINTENANCE, CIRCULATOR)}
