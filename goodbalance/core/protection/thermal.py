"""How a thermal overload warms up and trips, and how a motor's winding does."""

import math

from goodbalance.core.errors import OutOfRange

RATED_TO_TRIP = 1.2  # of its rated current, at which a thermal overload trips in the end
BURNS_AT = 1.4  # of the heat of a motor loaded for good as far as its plate allows: the next class of insulation
CLASS_AT = 7.2  # times its rated current, at which a class says in how many seconds it trips from cold
_CLASS_LOG = math.log((CLASS_AT / RATED_TO_TRIP) ** 2 / ((CLASS_AT / RATED_TO_TRIP) ** 2 - 1.0))  # ln(36/35)


def time_constant_s(class_s: float) -> float:
    """Of an overload of a class: from cold it trips at 7.2 times its rated current in just so many seconds. [s]

    Source: first-order thermal image, d theta/dt = ((I/I_t)^2 - theta)/tau; classes of IEC 60947-4-1.

    >>> round(time_constant_s(10.0), 1)
    355.0
    """
    if not class_s > 0.0:
        raise OutOfRange("class_s", class_s, "more than 0")
    return class_s / _CLASS_LOG


def trips_in_s(over: float, class_s: float, heat: float = 0.0) -> float:
    """Time until it trips at a current, a share of the one it trips at in the end; infinite at or under it. [s]

    heat: what it has taken up, 0 from cold, 1 where it trips.

    Source: solution of the first-order thermal image: t = tau ln((x^2 - theta)/(x^2 - 1)).

    >>> round(trips_in_s(6.0, 10.0), 6), trips_in_s(1.0, 10.0)
    (10.0, inf)
    """
    if not over >= 0.0:
        raise OutOfRange("over", over, "0 or more")
    if heat >= 1.0:
        return 0.0
    if over <= 1.0:
        return math.inf
    return time_constant_s(class_s) * math.log((over * over - heat) / (over * over - 1.0))


def warmed(heat: float, over: float, time_constant: float, step_s: float) -> float:
    """The heat after a time at a steady current, exactly: theta goes to x^2 with the time constant.

    Source: the same.
    """
    return over * over + (heat - over * over) * math.exp(-step_s / time_constant)


def uneven_heat(uneven: float) -> float:
    """By how much more a winding heats at an unbalance of the voltages, a share of the mean: 1 + 2 (100 u)^2 / 100.

    Source: NEMA MG 1: the rise of temperature grows by about twice the square of the per cent of voltage unbalance.

    >>> round(uneven_heat(0.035), 4)
    1.245
    """
    if not uneven >= 0.0:
        raise OutOfRange("uneven", uneven, "0 or more")
    return 1.0 + 200.0 * uneven * uneven


def uneven_within(load: float) -> float:
    """The unbalance at which a winding burns that carries this share of its full current for good; L^2 (1 + 200 u^2) = BURNS_AT.

    Source: the same, solved for u.

    >>> round(uneven_within(1.0), 4)
    0.0447
    """
    if not 0.0 < load:
        raise OutOfRange("load", load, "more than 0")
    return math.sqrt(max(0.0, BURNS_AT / (load * load) - 1.0) / 200.0)
