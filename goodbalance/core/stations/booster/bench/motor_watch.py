"""The motors of a booster set on the bench: what each takes at its flow and speed, and which of its guards trips."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.casing import HEAT_JM3K
from goodbalance.core.protection.numbers import MotorNumbers
from goodbalance.core.protection.watch import Fed, Trouble, Watch
from goodbalance.core.stations.booster.names import PumpFault
from goodbalance.core.stations.booster.plant.faults import BoosterFaults
from goodbalance.core.stations.booster.plant.hydraulics import hydraulics
from goodbalance.core.stations.booster.plant.motors import duties
from goodbalance.core.stations.booster.plant.zone import BoosterPlant
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey


@dataclass
class MotorWatch:
    """One watch for each pump."""

    survey: BoosterSurvey
    watches: list[Watch] = field(default_factory=list)
    burnt: frozenset[int] = frozenset()
    humming: frozenset[int] = frozenset()  # switched on with a weak capacitor: they do not turn

    def __post_init__(self) -> None:
        (duty,) = duties(self.survey)
        self.share = hydraulics(self.survey).drive_efficiency  # what of the supply's power a motor gets
        water_c, casing_jk = duty.water_c, self.survey.protection.casing_m3 * HEAT_JM3K
        self.watches = self.watches or [Watch(duty.plate, duty.model, MotorNumbers(), water_c=water_c, casing_c=water_c, casing_jk=casing_jk) for _ in duty.pumps]

    def go_by(self, numbers: tuple[MotorNumbers, ...]) -> None:
        """What protects each of them."""
        for watch, each in zip(self.watches, numbers):
            watch.numbers = each

    def look(self, now_s: float, plant: BoosterPlant, powers_w: Sequence[float], running: Sequence[int], faults: BoosterFaults, fed: Fed) -> Iterator[tuple[int, Trip]]:
        """What trips now, pump by pump; from here on each takes this. powers_w: from the supply."""
        whole = fed.whole and not faults.pumps
        for pump, watch in enumerate(self.watches):
            if pump not in running:
                watch.look(now_s, None)
                continue
            watch.dialled_up = pump in faults.of(PumpFault.DIAL_UP)
            watch.dialled, watch.open = pump in faults.of(PumpFault.DIAL), pump in faults.of(PumpFault.WINDING)
            trip = watch.look(now_s, powers_w[pump] * self.share, plant.speeds[pump], Trouble.NONE if whole else self._trouble(pump, faults, fed.two), fed.voltage, fed.uneven, pump in plant.shut)
            if trip is not None:
                yield pump, trip
                if trip is Trip.UNDERLOAD:
                    watch.stopped(now_s)

    def tries(self, now_s: float, tripped: Sequence[Trip | None]) -> Iterator[int]:
        """Pumps that may try again now. A trip that somebody reset counts no more."""
        for pump, (watch, why) in enumerate(zip(self.watches, tripped)):
            if why is not Trip.UNDERLOAD:
                if watch.out:
                    watch.reset()
            elif watch.may_try(now_s):
                yield pump

    def waits_s(self, now_s: float) -> float:
        """Until one of them tries again. [s]"""
        return min((watch.due_s - now_s for watch in self.watches if watch.due_s is not None), default=math.inf)

    def left_s(self) -> float:
        """Until one of them trips as things stand. [s]"""
        return min((watch.left_s() for watch in self.watches if watch.current_a > 0.0), default=math.inf)

    def boiling(self) -> frozenset[int]:
        """Pumps whose casing boils."""
        return frozenset([pump for pump, watch in enumerate(self.watches) if watch.boils])

    def burning(self) -> frozenset[int]:
        """Pumps whose winding is hotter than it stands."""
        return frozenset([pump for pump, watch in enumerate(self.watches) if watch.burns])

    def _trouble(self, pump: int, faults: BoosterFaults, on_two: bool) -> Trouble:
        if pump in faults.of(PumpFault.STALLED) or pump in self.humming:
            return Trouble.STALLED
        if on_two:
            return Trouble.TWO_PHASES
        return Trouble.HEAVY if pump in faults.of(PumpFault.OVERLOAD) else Trouble.NONE
