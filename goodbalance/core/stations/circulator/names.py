"""What a ring calls its things: one definition for each setting, mode, action, fault, alarm, harm and proof."""

from enum import StrEnum

MAX_BRANCHES = 6
IN_HOURS = "hours"  # the group of what goes into the hours that are typed
BY_HAND = "valves"  # the group of settings that are made with a key at a valve, and typed nowhere
LOCAL_RULES = "Local rules on hygiene and scalding, the makers' manuals and licensed people come first. Every temperature here is a default or theirs."


class SettingId(StrEnum):
    """Every setting: its name in plans, numbers, keypads and files."""

    SPEED = "speed"
    SET_PRESSURE = "set_pressure"
    SET_FLOW = "set_flow"
    SET_RETURN = "set_return"
    STAT_START = "stat_start"
    STAT_STOP = "stat_stop"
    BUTTON_RUN = "button_run"
    LEAD = "lead"
    KICK_EVERY = "kick_every"


def valve(number: int) -> str:
    """The turns of a branch's balancing valve, 1 for the first branch."""
    return f"valve_{number}"


def crossing(number: int) -> str:
    """The flow through a branch's crossover valve."""
    return f"crossing_{number}"


class Mode(StrEnum):
    """By what the pump goes while it runs."""

    SPEED = "fixed_speed"
    PRESSURE = "constant_pressure"
    PROPORTIONAL = "proportional_pressure"
    FLOW = "constant_flow"
    RETURN = "constant_return"
    LEARNING = "learning"


class State(StrEnum):
    """What the circulator is doing."""

    RUNS = "runs"
    RESTS = "rests"
    KICK = "kick"
    OFF = "off"


class Act(StrEnum):
    """What a person can do on the bench beside breaking things."""

    TAP = "tap"
    COLD_TAP = "cold_tap"
    PATTERN = "pattern"
    VALVE = "valve"
    EMITTERS = "emitters"
    SWITCH = "switch"
    POWER = "power"
    SET_CLOCK = "set_clock"
    OUTSIDE = "outside"
    BUTTON = "button"
    SILENCE = "silence"
    RESET = "reset"


class RingFault(StrEnum):
    """What can be broken of ring, heat and controls."""

    AIR = "air"
    BACKFLOW = "backflow"
    WEAK_HEATER = "weak_heater"
    CLOCK_LOST = "clock_lost"
    TWELVE_HOURS = "twelve_hours"
    SENSOR = "sensor"
    TWO_CONTROLS = "two_controls"
    CREEP = "creep"


class PumpFault(StrEnum):
    """What can be broken of the pump."""

    BACKWARDS = "backwards"
    STUCK = "stuck"
    WORN = "worn"


class BranchFault(StrEnum):
    """What can be broken of one branch; the target is its number."""

    SHUT = "shut"


AnyAct = Act | RingFault | PumpFault | BranchFault
ACTS: tuple[type[AnyAct], ...] = (Act, RingFault, PumpFault, BranchFault)


class Alarm(StrEnum):
    """What the circulator can tell."""

    NO_FLOW = "no_flow"
    SENSOR = "sensor"
    CLOCK = "clock"
    NOT_AUTO = "not_auto"


class Harm(StrEnum):
    """What hurts people, pipes or the pump."""

    COOL = "cool"
    STAGNANT = "stagnant"
    SCALD = "scald"
    WARM_COLD = "warm_cold"
    FAST = "fast"
    DRY = "dry"
    UNLIT = "unlit"
    HOT_RETURN = "hot_return"
    CROSSES = "crosses"


class Check(StrEnum):
    """Which proof."""

    VENTED = "vented"
    VALVE = "valve"
    FLOW = "flow"
    PRESSURE = "pressure"
    RETURN = "return"
    WAIT = "wait"
    STOPS = "stops"
    STARTS = "starts"
    IN_TIME = "in_time"
    MODE = "mode"
    CLOCK = "clock"
    LIT = "lit"
    HEAT = "heat"
    BACKFLOW = "backflow"
    COLD = "cold"
    MIXED = "mixed"
    OUTSIDE = "outside"
    BUTTON = "button"
    STAT = "stat"
    SENSOR = "sensor"
    KICK = "kick"
    QUIET = "quiet"
    OWNER = "owner"
    AUTO = "auto"
