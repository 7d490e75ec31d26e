"""When people want it warm, and what else may start or stop the pump."""

from enum import StrEnum
from typing import Any

from goodbalance.core.balance.facts import Facts, choice, fact, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.stations.circulator.survey.pipes import WATER
from goodbalance.core.stations.shared.week import DAY_LABELS, Days, Period

MAX_HOURS = 4
HOUR_S = 3600.0


def days(path: str, most: int, number: int, what: str, default: Days) -> Any:
    """On which days a numbered period begins. path: where their number is asked."""
    return choice(f"{what} {number} begins on", Days, DAY_LABELS, default=default, only_if=((path, tuple(map(str, range(number, most + 1)))),))


def hour(path: str, most: int, number: int, label: str, default: float) -> Any:
    """An hour of the day of a numbered period: 6.5 is half past six. [h]"""
    return fact(label, Q.RATIO, 0.0, 24.0, default=default, only_if=((path, tuple(map(str, range(number, most + 1)))),))


def _days(number: int, default: Days) -> Any:
    return days("use.periods", MAX_HOURS, number, "Warm time", default)


def _from(number: int, default: float) -> Any:
    return hour("use.periods", MAX_HOURS, number, f"Warm time {number} from, hour of the day", default)


def _to(number: int, default: float) -> Any:
    return hour("use.periods", MAX_HOURS, number, f"Warm time {number} to, hour of the day", default)


class Use(Facts):
    """What people want of it."""

    periods: int = fact("Times of the week when it is wanted warm", Q.COUNT, 1, MAX_HOURS, default=1, hint="half past six is 6.5; to before from: over midnight")
    days_1: Days = _days(1, Days.ALL)
    from_1_h: float = _from(1, 6.0)
    to_1_h: float = _to(1, 22.0)
    days_2: Days = _days(2, Days.WORKDAYS)
    from_2_h: float = _from(2, 17.0)
    to_2_h: float = _to(2, 22.0)
    days_3: Days = _days(3, Days.WEEKEND)
    from_3_h: float = _from(3, 7.0)
    to_3_h: float = _to(3, 23.0)
    days_4: Days = _days(4, Days.ALL)
    from_4_h: float = _from(4, 12.0)
    to_4_h: float = _to(4, 14.0)
    wait_s: float = fact("At the tap they wait at most", Q.TIME, 1.0, 600.0, usual=(5.0, 60.0), default=20.0, only_if=WATER)
    hot_c: float = fact("Water counts as hot from", Q.TEMPERATURE, 25.0, 60.0, usual=(38.0, 50.0), default=45.0, only_if=WATER)
    draws: float = fact("Draws at a tap in an hour in which it is wanted", Q.COUNT, 0.0, 60.0, default=2.0, only_if=WATER)
    draw_s: float = fact("One draw lasts", Q.TIME, 1.0, 3600.0, usual=(10.0, 600.0), default=60.0, only_if=WATER)

    @property
    def pattern(self) -> tuple[tuple[float, float], ...]:
        """When in an hour a first tap is opened and shut, by habit; the next taps follow at like distances. [s]"""
        count = round(self.draws)
        return tuple((HOUR_S * number / count, HOUR_S * number / count + min(self.draw_s, 0.9 * HOUR_S / count)) for number in range(count))

    @property
    def wanted(self) -> tuple[Period, ...]:
        """The times that are used, by the clock."""
        rows = (
            (self.days_1, self.from_1_h, self.to_1_h), (self.days_2, self.from_2_h, self.to_2_h), (self.days_3, self.from_3_h, self.to_3_h), (self.days_4, self.from_4_h, self.to_4_h),
        )  # fmt: skip
        return tuple(Period(which, HOUR_S * begins, HOUR_S * ends) for which, begins, ends in rows[: self.periods])


class Outside(StrEnum):
    """What beside its own clock may start or stop the pump."""

    NONE = "none"
    THERMOSTAT = "thermostat"
    BUTTON = "button"
    BUILDING = "building"


class ControlFacts(Facts):
    """What else speaks to the pump."""

    outside: Outside = choice(
        "Beside its own clock", Outside,
        {"none": "Nothing", "thermostat": "A thermostat at the return", "button": "A push button at the taps", "building": "A contact of the building's control"},
        default=Outside.NONE,
    )  # fmt: skip
    building_timer: bool = yes_no("The building's control has hours of its own", default=False, only_if=(("control.outside", ("building",)),))
    clock_backup: bool = yes_no("Its clock goes on through a power cut", default=True)
    alarm_contact: bool = yes_no("Its alarm contact is wired to somebody", default=False)
