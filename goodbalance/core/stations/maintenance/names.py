"""What a maintenance pump's line calls its things: one definition for each setting, state, action, fault, alarm, harm and proof."""

from enum import StrEnum

from goodbalance.core.protection.names import SupplyAct, SupplyFault

MAX_MAINS = 3
OTHERS = "others"  # the group of settings that are another's: recorded, never typed here
LICENSED = "Licensed people, the authority's rules and the maker come first. This tool records and checks order; it never says that a fire system satisfies a rule."


class SettingId(StrEnum):
    """Every setting: its name in plans, numbers, keypads and files."""

    STOP_PRESSURE = "stop_pressure"
    START_PRESSURE = "start_pressure"
    ON_DELAY = "on_delay"
    LEAST_RUN = "least_run"
    LONG_RUN = "long_run"
    MAIN_START_1 = "main_start_1"
    MAIN_START_2 = "main_start_2"
    MAIN_START_3 = "main_start_3"


def main_start(number: int) -> SettingId:
    """The start of a main pump, 1 for the first."""
    return SettingId(f"main_start_{number}")


class State(StrEnum):
    """What the maintenance pump is doing."""

    HELD = "held"
    WAIT = "wait"
    RUNS = "runs"
    LEAST = "least"
    OFF = "off"


class Wait(StrEnum):
    """A condition that counts only once it has lasted."""

    START = "start"
    LONG = "long"
    SENSOR = "sensor"


class Act(StrEnum):
    """What a person can do on the bench beside breaking things."""

    BLEED = "bleed"
    SPRINKLERS = "sprinklers"
    SUCTION = "suction"
    MAINS_OFF = "mains_off"
    SWITCH = "switch"
    POWER = "power"
    SILENCE = "silence"
    RESET = "reset"


class SetFault(StrEnum):
    """What can be broken of the line and its sensing."""

    LOOP_OPEN = "loop_open"
    LOOP_SHORT = "loop_short"
    FROZEN = "frozen"
    DRIFT = "drift"
    SENSING = "sensing"
    LEAK = "leak"
    AIR = "air"


class PumpFault(StrEnum):
    """What can be broken of the pump."""

    CHECK_VALVE = "check_valve"
    SHUT = "shut"
    WORN = "worn"
    BACKWARDS = "backwards"
    OVERLOAD = "overload"
    STALLED = "stalled"
    DIAL = "dial"
    DIAL_UP = "dial_up"
    WELDED = "welded"
    CAPACITOR = "capacitor"
    WINDING = "winding_contact"


AnyAct = Act | SetFault | PumpFault | SupplyFault | SupplyAct
ACTS: tuple[type[AnyAct], ...] = (Act, SetFault, PumpFault, SupplyFault, SupplyAct)


class Alarm(StrEnum):
    """What the controller can tell."""

    SENSOR = "sensor"
    LONG = "long"
    NOT_AUTO = "not_auto"
    PHASE = "phase"
    PUMP = "pump"
    WAITS = "waits"


class Harm(StrEnum):
    """What hurts pumps, pipes or people, or calls the brigade for nothing."""

    MAIN_STARTS = "main_starts"
    OVER_RATING = "over_rating"
    RELIEF = "relief"
    AGAINST = "against"
    BURNS = "burns"
    BOILS = "boils"
    TWO_PHASES = "two_phases"
    UNCALLED = "uncalled"
    WRONG_WAY = "wrong_way"
    UNKEPT = "unkept"


class Check(StrEnum):
    """Which proof."""

    TOLD = "told"
    STATIC = "static"
    STOPS = "stops"
    STARTS = "starts"
    LEAST_RUN = "least_run"
    ON_DELAY = "on_delay"
    HOLDS = "holds"
    OUT = "out"
    WITNESS = "witness"
    SHUT_OFF = "shut_off"
    SENSOR_FAILURE = "sensor_failure"
    LONG_RUN = "long_run"
    POWER_RETURN = "power_return"
    PHASE = "phase"
    SUPPLY = "supply"
    SWAPPED = "swapped"
    OVERLOAD = "overload"
    UNDERLOAD = "underload"
    RETRIES = "retries"
    TRIES = "tries"
    AWAKE = "awake"
    CASING = "casing"
    HOT = "hot"
    FAR_END = "far_end"
    AUTO = "auto"
