"""The weekly schedule of a booster set: when another pressure begins, and how much is wanted then."""

from typing import Any

from goodbalance.core.balance.facts import Conditions, Facts, choice, fact
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.stations.shared.week import DAY_LABELS, Days

_CONSTANT = (("control.kind", ("constant",)),)
TIMES = 4  # in a week at which another pressure may begin


def _times(number: int) -> Conditions:
    return (*_CONSTANT, ("schedule.times", tuple(map(str, range(number, TIMES + 1)))))


def _days(number: int) -> Any:
    return choice(f"Time {number} begins on", Days, DAY_LABELS, default=Days.ALL, only_if=_times(number))


def _from_h(number: int) -> Any:
    return fact(f"Time {number}, hour of the day", Q.COUNT, 0, 23, default=6 if number % 2 else 22, only_if=_times(number))


def _wanted(number: int) -> Any:
    hint = "its window in the plan follows from it"
    return fact(f"Time {number}, pressure wanted at the worst outlet", Q.PRESSURE, 0.0, 2e6, default=1.5e5, only_if=_times(number), hint=hint)


class Schedule(Facts):
    """Set pressures by the week's clock; each holds until the next begins."""

    times: int = fact("Times in the week when another pressure begins", Q.COUNT, 0, TIMES, default=0, only_if=_CONSTANT, hint="0: one set pressure all week")
    days_1: Days = _days(1)
    from_1_h: int = _from_h(1)
    wanted_1_pa: float = _wanted(1)
    days_2: Days = _days(2)
    from_2_h: int = _from_h(2)
    wanted_2_pa: float = _wanted(2)
    days_3: Days = _days(3)
    from_3_h: int = _from_h(3)
    wanted_3_pa: float = _wanted(3)
    days_4: Days = _days(4)
    from_4_h: int = _from_h(4)
    wanted_4_pa: float = _wanted(4)

    @property
    def begins(self) -> tuple[tuple[Days, int, float], ...]:
        """Days, hour and pressure wanted at the worst outlet of each time that is used. [h, Pa]"""
        rows = ((self.days_1, self.from_1_h, self.wanted_1_pa), (self.days_2, self.from_2_h, self.wanted_2_pa),
                (self.days_3, self.from_3_h, self.wanted_3_pa), (self.days_4, self.from_4_h, self.wanted_4_pa))  # fmt: skip
        return rows[: self.times]
