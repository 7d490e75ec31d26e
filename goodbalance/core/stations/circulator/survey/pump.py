"""The circulator itself: its curve, its speeds, what it can do by itself, how it hangs in the pipe."""

import math
from dataclasses import dataclass
from typing import Any, Self

from goodbalance.core.balance.facts import Conditions, Facts, fact, section, yes_no
from goodbalance.core.balance.quantities import Quantity as Q

MAX_SPEEDS = 4
POINTS, OWN_POINTS = 8, 5
LEAST_POINTS = 3  # that make a curve


_BY_SHARE: Conditions = (("pump.own_curves", ("no",)),)
_BY_CURVE: Conditions = (("pump.own_curves", ("yes",)),)


class CirculatorPoint(Facts):
    """One point of a curve of it."""

    flow_m3s: float | None = fact("Flow", Q.LEAK, 0.0, 1.0, default=None)
    head_m: float | None = fact("Head", Q.HEAD, 0.0, 100.0, default=None)
    power_w: float | None = fact("Power taken", Q.POWER, 0.5, 1e5, default=None)


def _lower(number: int) -> Conditions:
    """When there is such a speed under full speed."""
    return (("pump.speeds", tuple(str(count) for count in range(number + 1, MAX_SPEEDS + 1))),)


def _share(number: int, default: float) -> Any:
    return fact(f"Speed {number}, of full speed", Q.PERCENT, 0.1, 1.0, default=default, only_if=(*_lower(number), *_BY_SHARE))


def _shut_off_m(number: int) -> Any:
    hint = "where it is known: it goes before the share of full speed"
    return fact(f"Head without flow at speed {number}", Q.HEAD, 0.05, 100.0, default=None, only_if=(*_lower(number), *_BY_SHARE), hint=hint)


def _own_curve(number: int) -> Any:
    lead = "Three or more points, from no flow on; power where its maker gives it."
    return section(f"Pump curve at speed {number}", lead, rows=OWN_POINTS, only_if=(*_lower(number), *_BY_CURVE), default=())


@dataclass(frozen=True, slots=True)
class Step:
    """One fixed speed: its share of full speed, and its own curve where its maker gives one."""

    share: float
    curve: tuple[CirculatorPoint, ...] = ()


def _highest_m(curve: tuple[CirculatorPoint, ...]) -> float:
    return max((point.head_m for point in curve if point.head_m is not None), default=0.0)


class PumpFacts(Facts):
    """One pump. The highest of its fixed speeds is full speed."""

    speeds: int = fact("Fixed speeds", Q.COUNT, 1, MAX_SPEEDS, default=3, hint="1 for a pump that knows only full speed; of a drive: the steps it offers")
    own_curves: bool = yes_no("Its maker gives a curve for each speed", default=False, only_if=_lower(1), hint="windings switched in steps do not follow the law by which heads go with the square of the speed")
    speed_1: float = _share(1, 0.55)
    speed_2: float = _share(2, 0.8)
    speed_3: float = _share(3, 0.9)
    shut_off_1_m: float | None = _shut_off_m(1)
    shut_off_2_m: float | None = _shut_off_m(2)
    shut_off_3_m: float | None = _shut_off_m(3)
    drive: bool = yes_no("It changes its speed by itself", default=True)
    least_speed: float = fact("Its least speed, of full speed", Q.PERCENT, 0.1, 1.0, default=0.3, only_if=(("pump.drive", ("yes",)),))
    by_pressure: bool = yes_no("It knows a constant pressure", default=True)
    by_proportion: bool = yes_no("It knows a proportional pressure", default=True)
    by_flow: bool = yes_no("It knows a constant flow", default=False)
    by_return: bool = yes_no("It knows a constant return temperature, by a sensor at the return", default=False)
    learns: bool = yes_no("It learns the hours by itself", default=False)
    check_valve: bool = yes_no("A check valve stands in the return", default=True)
    shaft_level: bool = yes_no("Its shaft lies level", default=True, hint="a shaft that stands upright runs its bearings dry")
    vented: bool = yes_no("Pump and ring are vented", default=False)
    ring_pa: float = fact("Pressure of the ring at its inlet, cold", Q.PRESSURE, 0.0, 2e6, usual=(5e4, 8e5), default=2e5)
    inlet_pa: float = fact("Least its maker wants there", Q.PRESSURE, 0.0, 1e6, usual=(5e3, 2e5), default=1e4)
    loudest_pa: float = fact("Pressure over a valve from which it whistles", Q.DIFFERENCE, 2e3, 2e5, usual=(1e4, 4e4), default=2e4)
    curve: tuple[CirculatorPoint, ...] = section("Pump curve at full speed", "Three or more points, from no flow on; leave the rest empty. Power: what it takes from the supply.", rows=POINTS)

    curve_1: tuple[CirculatorPoint, ...] = _own_curve(1)
    curve_2: tuple[CirculatorPoint, ...] = _own_curve(2)
    curve_3: tuple[CirculatorPoint, ...] = _own_curve(3)

    @property
    def steps(self) -> tuple[Step, ...]:
        """Each of its fixed speeds, the lowest first; its share of full speed by the heads without flow where those are known.

        Source: affinity, heads go with the square of the speed.
        """
        full_m = _highest_m(self.curve)
        found = []
        for share, head_m, curve in ((self.speed_1, self.shut_off_1_m, self.curve_1), (self.speed_2, self.shut_off_2_m, self.curve_2), (self.speed_3, self.shut_off_3_m, self.curve_3)):
            own = curve if self.own_curves and sum(point.flow_m3s is not None and point.head_m is not None for point in curve) >= LEAST_POINTS else ()
            rests_m = _highest_m(own) if own else None if self.own_curves else head_m
            found.append(Step(min(1.0, math.sqrt(rests_m / full_m)) if rests_m is not None and full_m > 0.0 else share, own))
        return (*sorted(found[: self.speeds - 1], key=lambda step: step.share), Step(1.0))

    @property
    def shares(self) -> tuple[float, ...]:
        """Each of its fixed speeds as a share of full speed, the lowest first."""
        return tuple(step.share for step in self.steps)

    def with_heads(self, factor: float) -> Self:
        """The same pump with every head that is known of it so many times over."""
        update: dict[str, object] = {
            name: tuple(p if p.head_m is None else p.model_copy(update={"head_m": p.head_m * factor}) for p in getattr(self, name)) for name in ("curve", "curve_1", "curve_2", "curve_3")
        }
        heads = {name: getattr(self, name) for name in ("shut_off_1_m", "shut_off_2_m", "shut_off_3_m")}
        update |= {name: head_m * factor for name, head_m in heads.items() if head_m is not None}
        return self.model_copy(update=update)

    @property
    def count(self) -> int:
        """Circulators in this ring: one."""
        return 1

    @property
    def slowest(self) -> float:
        """The least it can turn at, of full speed."""
        return self.least_speed if self.drive else self.shares[0]
