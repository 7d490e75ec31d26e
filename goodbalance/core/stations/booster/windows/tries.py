"""How a booster set begins again by itself after lack of water, and a pump of it after a lost prime: waits and counts in their windows."""

from goodbalance.core.balance.plan import TIMERS
from goodbalance.core.protection import again
from goodbalance.core.protection.again import Tried
from goodbalance.core.protection.names import After
from goodbalance.core.stations.booster.names import PRIME, WATER
from goodbalance.core.stations.booster.survey.control import SuctionBy
from goodbalance.core.stations.booster.windows.making import Windows

_WATER = (("Wait after lack of water", "restart delay, suction"), ("Tries after lack of water", "number of automatic restarts, suction"), ("Long wait after lack of water", "lock-out time, suction"))
_PRIME = (("Wait after a lost prime", "restart delay, prime"), ("Tries after a lost prime", "number of automatic restarts, prime"), ("Long wait after a lost prime", "lock-out time, prime"))


class Tries(Windows):
    """Only where it is chosen that they begin again by themselves, so often."""

    def make_all(self) -> None:
        """Of the set after lack of water, where something sees it; of each pump after it was given up."""
        allowed = self.survey.pumping.starts_per_hour
        if self.survey.control.suction_by is not SuctionBy.NONE:
            self._keep(Tried((*WATER,), _WATER, "Take the water away again each time it has come back", TIMERS, allowed), self.schools.suction_reset.after)
        self._keep(Tried((*PRIME,), _PRIME, "Leave the air in", TIMERS, allowed), self.schools.lost_prime)

    def _keep(self, tried: Tried, after: After) -> None:
        made = again.settings(tried, after, self.survey.protection, self.chosen)
        self.made += made
        self.so_far |= {setting.id: setting.value for setting in made}
