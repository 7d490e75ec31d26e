"""The motors of any set of like pumps on the bench: what each takes at its flow and speed, and which of its guards trips."""

import math
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field

from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.casing import HEAT_JM3K
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.names import MotorFault
from goodbalance.core.protection.numbers import MotorNumbers
from goodbalance.core.protection.watch import Fed, Trouble, Watch
from goodbalance.core.stations.shared.faults import Faults


@dataclass
class MotorWatch:
    """One watch for each pump. share: what of the supply's power a motor gets; casing_m3: water in the casing of one."""

    duties: tuple[MotorDuty, ...]
    casing_m3: float
    share: float = 1.0
    watches: list[Watch] = field(default_factory=list)
    burnt: frozenset[int] = frozenset()
    humming: frozenset[int] = frozenset()  # switched on with a weak capacitor: they do not turn

    def __post_init__(self) -> None:
        casing_jk, by_pump = self.casing_m3 * HEAT_JM3K, {pump: duty for duty in self.duties for pump in duty.pumps}
        self.watches = self.watches or [
            Watch(duty.plate, duty.model, MotorNumbers(), water_c=duty.water_c, casing_c=duty.water_c, casing_jk=casing_jk) for _, duty in sorted(by_pump.items())
        ]

    def go_by(self, numbers: tuple[MotorNumbers, ...]) -> None:
        """What protects each of them."""
        for watch, each in zip(self.watches, numbers):
            watch.numbers = each

    def look(self, now_s: float, speeds: Sequence[float], powers_w: Sequence[float], running: Sequence[int], faults: Faults, fed: Fed, shut: Collection[int]) -> Iterator[tuple[int, Trip]]:
        """What trips now, pump by pump; from here on each takes this. powers_w: from the supply; shut: pumps whose water does not move."""
        whole = fed.whole and not faults.pumps
        for pump, watch in enumerate(self.watches):
            if pump not in running:
                watch.look(now_s, None)
                continue
            watch.dialled_up = pump in faults.of(MotorFault.DIAL_UP)
            watch.dialled, watch.open = pump in faults.of(MotorFault.DIAL), pump in faults.of(MotorFault.WINDING)
            trip = watch.look(now_s, powers_w[pump] * self.share, speeds[pump], Trouble.NONE if whole else self._trouble(pump, faults, fed.two), fed.voltage, fed.uneven, pump in shut)
            if trip is not None:
                yield pump, trip
                if trip is Trip.UNDERLOAD:
                    watch.retries.stopped(now_s, watch.numbers.again)

    def tries(self, now_s: float, tripped: Sequence[Trip | None]) -> Iterator[int]:
        """Pumps that may try again now. A trip that somebody reset counts no more."""
        for pump, (watch, why) in enumerate(zip(self.watches, tripped)):
            if why is not Trip.UNDERLOAD:
                if watch.retries.out:
                    watch.retries.reset()
            elif watch.retries.may_try(now_s):
                yield pump

    def waits_s(self, now_s: float) -> float:
        """Until one of them tries again. [s]"""
        return min((watch.retries.due_s - now_s for watch in self.watches if watch.retries.due_s is not None), default=math.inf)

    def left_s(self) -> float:
        """Until one of them trips as things stand. [s]"""
        return min((watch.left_s() for watch in self.watches if watch.current_a > 0.0), default=math.inf)

    def boiling(self) -> frozenset[int]:
        """Pumps whose casing boils."""
        return frozenset([pump for pump, watch in enumerate(self.watches) if watch.boils])

    def burning(self) -> frozenset[int]:
        """Pumps whose winding is hotter than it stands."""
        return frozenset([pump for pump, watch in enumerate(self.watches) if watch.burns])

    def _trouble(self, pump: int, faults: Faults, on_two: bool) -> Trouble:
        if pump in faults.of(MotorFault.STALLED) or pump in self.humming:
            return Trouble.STALLED
        if on_two:
            return Trouble.TWO_PHASES
        return Trouble.HEAVY if pump in faults.of(MotorFault.OVERLOAD) else Trouble.NONE
