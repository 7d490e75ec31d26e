"""The supply of a station on the bench, and the monitor whose contact lets pumps run."""

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field

from goodbalance.core.errors import OutOfRange
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.names import MonitorBy, SupplyAct, SupplyFault, Watching
from goodbalance.core.protection.plate import Phases
from goodbalance.core.protection.readings import unbalance
from goodbalance.core.protection.supply import watched

LOW_SHARE, HIGH_SHARE, UNEVEN_SHARE = 0.75, 1.2, 0.07  # of the plate's voltage, and of the mean, with a fault in
WITHOUT: dict[Watching, float] = {  # what acts where no device has a place for it
    Watching.LOW: -math.inf, Watching.HIGH: math.inf, Watching.UNEVEN: math.inf, Watching.DELAY: math.inf, Watching.BACK: 0.0,
}  # fmt: skip
MEANINGS = tuple(f"supply.{each.removeprefix('supply_')}" for each in Watching)
MOST_TURNED: dict[SupplyAct, float] = {SupplyAct.VOLTS: 1.5, SupplyAct.UNEVENNESS: 0.2}
RATED = "supply.rated"  # what a monitor is told the supply should be


@dataclass(frozen=True, slots=True)
class MonitorNumbers:
    """What a monitor holds. low_v, high_v: V; uneven: a share of the mean. fitted: there is one at all; loss and order of phases it sees at once."""

    fitted: bool = False
    low_v: float = -math.inf
    high_v: float = math.inf
    uneven: float = math.inf
    delay_s: float = math.inf
    back_s: float = 0.0

    @property
    def has_dials(self) -> bool:
        """Whether it watches voltages too."""
        return self.delay_s < math.inf


def monitor_numbers(values: Mapping[str, float], fitted: bool, by: MonitorBy) -> MonitorNumbers:
    """By the plan's settings that some device has a place for; a monitor without dials has none of them."""
    held = (values.get(each, WITHOUT[each]) for each in Watching) if by is MonitorBy.VOLTAGES else WITHOUT.values()
    return MonitorNumbers(fitted, *held)


def monitor_as_told(planned: MonitorNumbers, told: Mapping[str, float | str]) -> MonitorNumbers:
    """The same with what somebody saw the monitor hold in the place of what is planned."""
    held = zip(MEANINGS, (planned.low_v, planned.high_v, planned.uneven, planned.delay_s, planned.back_s))
    return MonitorNumbers(planned.fitted, *(value if isinstance(value := told.get(meaning), float) else was for meaning, was in held))


@dataclass
class SupplyWatch:
    """The supply as it is, and the monitor that looks at it. plate_v: voltage of the motors; three: whether it has three phases."""

    plate_v: float
    three: bool
    numbers: MonitorNumbers = field(default_factory=MonitorNumbers)
    volts: float = 1.0  # as a person turned the supply, a share of the plate's
    apart: float = 0.0  # and how uneven its phases, a share of their mean
    now_s: float = 0.0
    bad_since_s: float | None = None  # since when voltages are out of their limits
    out: bool = False  # its contact holds pumps back
    good_since_s: float = -math.inf

    def turn(self, act: SupplyAct, value: float) -> None:
        """A person turns the supply. Raises OutOfRange beyond MOST_TURNED."""
        if not 0.0 <= value <= MOST_TURNED[act]:
            raise OutOfRange(act, value, f"0 to {MOST_TURNED[act]:g}")
        if act is SupplyAct.VOLTS:
            self.volts = value
        else:
            self.apart = value

    def whole(self, faults: Collection[str]) -> bool:
        """Whether nothing is wrong with the supply itself."""
        return self.volts == 1.0 and self.apart == 0.0 and not (faults and any(fault in faults for fault in SupplyFault))

    def phases(self, faults: Collection[str]) -> tuple[float, ...]:
        """The voltage of each phase as it is now, a share of the plate's."""
        share = self.volts * (LOW_SHARE if SupplyFault.LOW in faults else 1.0) * (HIGH_SHARE if SupplyFault.HIGH in faults else 1.0)
        apart = max(self.apart, UNEVEN_SHARE if SupplyFault.UNEVEN in faults else 0.0)
        each = [share * (1.0 + apart), share, share * (1.0 - apart)]  # so uneven they are, by the largest deviation from their mean
        if SupplyFault.PHASE in faults:
            each[-1] = 0.0
        return tuple(each) if self.three else (share if each[-1] else 0.0,)

    def share(self, faults: Collection[str]) -> float:
        """The mean voltage of the phases that are there, of the plate's."""
        there = [one for one in self.phases(faults) if one > 0.0]
        return sum(there) / len(there) if there else 0.0

    def uneven(self, faults: Collection[str]) -> float:
        """How uneven phases that are all there are. [share]"""
        return unbalance(self.phases(faults)) if self.three and SupplyFault.PHASE not in faults else 0.0

    def look(self, now_s: float, faults: Collection[str], power: bool) -> bool:
        """Whether its contact lets pumps run. A monitor without supply has dropped out, and counts its wait anew when it is back."""
        self.now_s = now_s
        if not self.numbers.fitted or (power and not self.out and self.bad_since_s is None and self.good_since_s < math.inf and self.whole(faults)):
            return True
        broken = not power or SupplyFault.PHASE in faults or (SupplyFault.SWAPPED in faults and self.three)
        strayed = power and self._strays(faults)
        self.bad_since_s = None if not strayed else now_s if self.bad_since_s is None else self.bad_since_s
        if broken or (self.bad_since_s is not None and now_s - self.bad_since_s >= self.numbers.delay_s - 1e-9):
            self.out = True
        if broken or strayed:
            self.good_since_s = math.inf
        elif math.isinf(self.good_since_s) and self.good_since_s > 0.0:
            self.good_since_s = now_s
        if self.out and now_s - self.good_since_s >= self.numbers.back_s - 1e-9:
            self.out = False
        return not self.out

    def _strays(self, faults: Collection[str]) -> bool:
        n = self.numbers
        each = [share * self.plate_v for share in self.phases(faults) if share > 0.0]
        return bool(each) and (min(each) < n.low_v or max(each) > n.high_v or self.uneven(faults) > n.uneven)

    def left_s(self) -> float:
        """Until its contact moves if the supply stays as it is. [s]"""
        if not self.out and self.bad_since_s is not None:
            return max(0.0, self.bad_since_s + self.numbers.delay_s - self.now_s)
        if self.out and self.good_since_s < math.inf:
            return max(0.0, self.good_since_s + self.numbers.back_s - self.now_s)
        return math.inf

    @property
    def waits_s(self) -> float | None:
        """How long it holds pumps back although the supply is right again; None where it does not. [s]"""
        return self.left_s() if self.out and self.good_since_s < math.inf else None


def supply_of(duties: Sequence[MotorDuty]) -> SupplyWatch:
    """The supply these motors hang on, at the voltage of their plates."""
    motors = watched(duties)
    return SupplyWatch(max(duty.plate.voltage_v for duty in motors), any(duty.plate.phases is Phases.THREE for duty in motors))
