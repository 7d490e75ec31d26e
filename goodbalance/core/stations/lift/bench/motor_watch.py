"""The motors of a lift station on the bench: what each takes as the water stands, and which of its guards trips."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from goodbalance.core.control.trips import Trip
from goodbalance.core.protection.casing import HEAT_JM3K
from goodbalance.core.protection.duty import AIR_SHARE
from goodbalance.core.protection.names import CasingBy
from goodbalance.core.protection.numbers import MotorNumbers
from goodbalance.core.protection.watch import Fed, Trouble, Watch
from goodbalance.core.stations.lift.names import PumpFault
from goodbalance.core.stations.lift.plant.faults import CLOGGED_SHARE, LiftFaults
from goodbalance.core.stations.lift.plant.motors import duties, motors
from goodbalance.core.stations.lift.plant.water import LiftPlant
from goodbalance.core.stations.lift.survey.survey import LiftSurvey

NEAR_S = 5.0  # between two looks where a load monitor is near its limit
NEAR_SHARE = 0.15  # of the limit
NO_FLOW = (PumpFault.SHUT, PumpFault.STALLED)  # a pump that turns or stands and gives nothing


@dataclass
class MotorWatch:
    """One watch for each pump."""

    survey: LiftSurvey
    watches: list[Watch] = field(default_factory=list)
    burnt: frozenset[int] = frozenset()
    humming: frozenset[int] = frozenset()  # switched on with a weak capacitor: they do not turn

    def __post_init__(self) -> None:
        self.warms = self.survey.protection.casing_by is not CasingBy.NOTHING  # a submerged casing gives its heat to the well
        of = motors(self.survey)
        models = {pump: duty.model for duty in duties(self.survey) for pump in duty.pumps}
        water_c, casing_jk = self.survey.main.temperature_c, self.survey.protection.casing_m3 * HEAT_JM3K
        self.watches = self.watches or [
            Watch(plate, models[pump], MotorNumbers(), water_c=water_c, casing_c=water_c, casing_jk=casing_jk) for pump, plate in enumerate(of.plates, 1)
        ]

    def go_by(self, numbers: tuple[MotorNumbers, ...]) -> None:
        """What protects each of them."""
        for watch, each in zip(self.watches, numbers):
            watch.numbers = each

    def look(self, now_s: float, plant: LiftPlant, running: tuple[int, ...], faults: LiftFaults, on: Fed) -> Iterator[tuple[int, Trip]]:
        """What trips now, pump by pump; from here on each takes what it takes as the water stands."""
        loads = dict(self._loads_w(plant, running, faults, plant.drawn_share(running, now_s))) if running else {}
        whole = on.whole and not faults.pumps
        for pump, watch in enumerate(self.watches):
            if whole and pump not in loads and watch.current_a == 0.0:
                continue
            watch.dialled_up = pump in faults.of(PumpFault.DIAL_UP)
            watch.dialled, watch.open = pump in faults.of(PumpFault.DIAL), pump in faults.of(PumpFault.WINDING)
            trip = watch.look(now_s, loads.get(pump), plant.speed, Trouble.NONE if whole else self._trouble(pump, faults, on.two), on.voltage, on.uneven, self.warms and pump in faults.of(PumpFault.SHUT))
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

    def _loads_w(self, plant: LiftPlant, running: tuple[int, ...], faults: LiftFaults, water: float) -> Iterator[tuple[int, float]]:
        """What each running motor takes from its supply: by the flow its pump gives at this level. water: how much of that is not air."""
        of = motors(self.survey)
        moving = plant.moving(running)
        given = dict(zip(moving, of.inputs_w(moving, plant.level_m, plant.speed))) if moving and water else {}
        for pump in running:
            closed_w = of.input_w(pump, 0.0, plant.speed)
            full_w = given.get(pump, closed_w)
            if pump in plant.clogged:
                full_w = closed_w + CLOGGED_SHARE * (full_w - closed_w)
            dry_w = AIR_SHARE * closed_w
            yield pump, dry_w + (full_w - dry_w) * water

    def _trouble(self, pump: int, faults: LiftFaults, on_two: bool) -> Trouble:
        if pump in faults.of(PumpFault.STALLED) or pump in self.humming:
            return Trouble.STALLED
        if on_two:
            return Trouble.TWO_PHASES
        return Trouble.HEAVY if pump in faults.of(PumpFault.OVERLOAD) else Trouble.NONE

    def left_s(self, running: tuple[int, ...]) -> float:
        """Until one of them trips as things stand, or must be looked at again. [s]"""
        left_s = math.inf
        for pump in running:
            watch = self.watches[pump]
            left_s = min(left_s, watch.left_s())
            if watch.numbers.underload > 0.0 and watch.low_since_s is None and watch.margin() < NEAR_SHARE:
                left_s = min(left_s, NEAR_S)
        return left_s

    def boiling(self) -> frozenset[int]:
        """Pumps whose casing boils."""
        return frozenset([pump for pump, watch in enumerate(self.watches) if watch.boils]) if self.warms else frozenset()

    def burning(self) -> frozenset[int]:
        """Pumps whose winding is hotter than it stands and was not told of yet."""
        now = frozenset([pump for pump, watch in enumerate(self.watches) if watch.burns])
        fresh, self.burnt = now - self.burnt, self.burnt | now
        return fresh
