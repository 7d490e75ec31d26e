"""What protections call their settings: one definition, each with the number of the motor it belongs to."""

from enum import StrEnum

GROUP = "protection"  # of settings, shown together
MOST_MOTORS = 8


class Guarding(StrEnum):
    """A setting that each motor has, or that motors alike share under the number of the first of them."""

    OVERLOAD = "overload"
    OVERLOAD_CLASS = "overload_class"
    UNDERLOAD = "underload"
    UNDERLOAD_DELAY = "underload_delay"
    RETRY_WAIT = "retry_wait"
    RETRIES = "retries"
    LONG_WAIT = "long_wait"
    UNDERLOAD_SPEED = "underload_speed"
    CASING = "casing_stop"


class Watching(StrEnum):
    """A setting of the monitor that watches the supply of a whole station."""

    LOW = "supply_low"
    HIGH = "supply_high"
    UNEVEN = "supply_uneven"
    DELAY = "supply_delay"
    BACK = "supply_back"


class SupplyFault(StrEnum):
    """What can be wrong with the supply of a station on the bench, whatever its kind."""

    PHASE = "phase"
    SWAPPED = "swapped"
    LOW = "low_voltage"
    HIGH = "high_voltage"
    UNEVEN = "uneven"


class SupplyAct(StrEnum):
    """What a person can turn at the supply: its voltage, as a share of the plate's, and how uneven its phases are, as a share of their mean."""

    VOLTS = "volts"
    UNEVENNESS = "unevenness"


class MonitorBy(StrEnum):
    """What a phase monitor watches."""

    PHASES = "phases"
    VOLTAGES = "voltages"


class Restart(StrEnum):
    """What follows when the supply, or its monitor, lets pumps run again."""

    BY_ITSELF = "by_itself"
    BY_HAND = "by_hand"


class MotorFault(StrEnum):
    """What may be wrong with a motor or its starter; a kind of station has these among the faults of its pumps, by the same names."""

    OVERLOAD = "overload"
    STALLED = "stalled"
    DIAL = "dial"
    DIAL_UP = "dial_up"
    WELDED = "welded"
    CAPACITOR = "capacitor"
    WINDING = "winding_contact"


class After(StrEnum):
    """What follows when a load monitor has stopped a pump."""

    BY_HAND = "by_hand"
    TRIES = "tries"
    LONG_WAIT = "long_wait"


class Follows(StrEnum):
    """What becomes of the limit of a load monitor while a drive turns the pump slower."""

    FIXED = "fixed"
    FROM_SPEED = "from_speed"
    CUBE = "cube"


class WindingBy(StrEnum):
    """What watches the heat of a winding itself."""

    NOTHING = "nothing"
    CONTACT = "contact"


class CasingBy(StrEnum):
    """What watches the heat of the water in a casing."""

    NOTHING = "nothing"
    THERMOSTAT = "thermostat"


class LeakageBy(StrEnum):
    """Which fault currents an earth leakage protection sees."""

    NOTHING = "nothing"
    ALTERNATING = "alternating"
    PULSED = "pulsed"
    SMOOTH = "smooth"


class UnderloadBy(StrEnum):
    """What tells a pump that moves no water from one that works."""

    NOTHING = "nothing"
    CURRENT = "current"
    POWER = "power"


def motor_id(setting: Guarding, motor: int) -> str:
    """The id of a motor's setting: overload_1 for pump 1, or for all pumps where they are alike."""
    return f"{setting}_{motor}"


def guarding_of(setting_id: str) -> Guarding:
    """Which setting it is, of whichever motor: the inverse of motor_id."""
    return Guarding(setting_id.rpartition("_")[0])


def motor_ids() -> tuple[str, ...]:
    """Every id there can be."""
    return tuple(motor_id(setting, motor) for setting in Guarding for motor in range(1, MOST_MOTORS + 1))
