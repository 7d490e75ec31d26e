"""The circulator itself: its curve, its speeds, what it can do by itself, how it hangs in the pipe."""

import math
from typing import Any

from goodbalance.core.balance.facts import Facts, fact, section, yes_no
from goodbalance.core.balance.quantities import Quantity as Q

MAX_SPEEDS = 4
POINTS = 8


class CirculatorPoint(Facts):
    """One point of its curve at full speed."""

    flow_m3s: float | None = fact("Flow", Q.LEAK, 0.0, 1.0, default=None)
    head_m: float | None = fact("Head", Q.HEAD, 0.0, 100.0, default=None)
    power_w: float | None = fact("Power taken", Q.POWER, 0.5, 1e5, default=None)


def _share(number: int, default: float) -> Any:
    asked = (("pump.speeds", tuple(str(count) for count in range(number + 1, MAX_SPEEDS + 1))),)
    return fact(f"Speed {number}, of full speed", Q.PERCENT, 0.1, 1.0, default=default, only_if=asked)


def _shut_off_m(number: int) -> Any:
    asked = (("pump.speeds", tuple(str(count) for count in range(number + 1, MAX_SPEEDS + 1))),)
    return fact(f"Head without flow at speed {number}", Q.HEAD, 0.05, 100.0, default=None, only_if=asked, hint="where its maker gives a curve for it: it goes before the share of full speed")


class PumpFacts(Facts):
    """One pump. The highest of its fixed speeds is full speed."""

    speeds: int = fact("Fixed speeds", Q.COUNT, 1, MAX_SPEEDS, default=3, hint="1 for a pump that knows only full speed; of a drive: the steps it offers")
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

    @property
    def shares(self) -> tuple[float, ...]:
        """Each of its fixed speeds as a share of full speed, the lowest first; by the head of its own curve where that is known.

        Source: affinity, heads go with the square of the speed.
        """
        full_m = max((point.head_m for point in self.curve if point.head_m is not None), default=0.0)
        told = ((self.speed_1, self.shut_off_1_m), (self.speed_2, self.shut_off_2_m), (self.speed_3, self.shut_off_3_m))
        found = [min(1.0, math.sqrt(head_m / full_m)) if head_m is not None and full_m > 0.0 else share for share, head_m in told]
        return (*sorted(found[: self.speeds - 1]), 1.0)

    @property
    def count(self) -> int:
        """Circulators in this ring: one."""
        return 1

    @property
    def slowest(self) -> float:
        """The least it can turn at, of full speed."""
        return self.least_speed if self.drive else self.shares[0]
