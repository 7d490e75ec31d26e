"""What a booster set calls its things: one definition for each mode, stop, action, fault, alarm, harm and proof."""

from enum import StrEnum

from goodbalance.core.protection.names import SupplyAct, SupplyFault


class SettingId(StrEnum):
    """Every setting a booster set may have: its name in plans, numbers, keypads and files."""

    SET_PRESSURE = "set_pressure"
    NO_FLOW_PRESSURE = "no_flow_pressure"
    NIGHT_PRESSURE = "night_pressure"
    REMOTE_PRESSURE = "remote_pressure"
    EMERGENCY_PRESSURE = "emergency_pressure"
    SCHEDULE_1 = "schedule_1"
    SCHEDULE_2 = "schedule_2"
    SCHEDULE_3 = "schedule_3"
    SCHEDULE_4 = "schedule_4"
    LOWEST_SET = "lowest_set"
    HIGHEST_SET = "highest_set"
    RESTART = "restart"
    BOOST = "boost"
    CUT_IN = "cut_in"
    CUT_OUT = "cut_out"
    CUT_IN_2 = "cut_in_2"
    CUT_OUT_2 = "cut_out_2"
    CUT_IN_3 = "cut_in_3"
    CUT_OUT_3 = "cut_out_3"
    CUT_IN_4 = "cut_in_4"
    CUT_OUT_4 = "cut_out_4"
    CUT_IN_5 = "cut_in_5"
    CUT_OUT_5 = "cut_out_5"
    HIGH_STOP = "high_stop"
    BURST_STOP = "burst_stop"
    LOW_SUCTION_STOP = "low_suction_stop"
    LOW_SUCTION_RESET = "low_suction_reset"
    LOW_SUCTION_ALARM = "low_suction_alarm"
    LOW_LEVEL_STOP = "low_level_stop"
    LOW_LEVEL_ALARM = "low_level_alarm"
    FILL_PRESSURE = "fill_pressure"
    PRECHARGE = "precharge"
    FIXED_SPEED = "fixed_speed"
    LEAST_SPEED = "least_speed"
    MOST_SPEED = "most_speed"
    SLEEP_SPEED = "sleep_speed"
    JOIN_SPEED = "join_speed"
    LEAVE_SPEED = "leave_speed"
    FILL_SPEED = "fill_speed"
    EMERGENCY_PUMPS = "emergency_pumps"
    SLEEP_DELAY = "sleep_delay"
    FLOW_DELAY = "flow_delay"
    JOIN_DELAY = "join_delay"
    LEAVE_DELAY = "leave_delay"
    LEAST_RUN = "least_run"
    SETBACK_TIME = "setback_time"
    FILL_TIMEOUT = "fill_timeout"
    LOW_SUCTION_DELAY = "low_suction_delay"
    WATER_WAIT = "water_wait"
    WATER_TRIES = "water_tries"
    WATER_LONG_WAIT = "water_long_wait"
    NO_PRIME_DELAY = "no_prime_delay"
    PRIME_WAIT = "prime_wait"
    PRIME_TRIES = "prime_tries"
    PRIME_LONG_WAIT = "prime_long_wait"
    BURST_DELAY = "burst_delay"
    CLOSED_DELAY = "closed_delay"
    NO_PRIME_LOAD = "no_prime_load"
    NO_PRIME_PRESSURE = "no_prime_pressure"
    CLOSED_LOAD = "closed_load"
    STARTS_ALARM = "starts_alarm"
    MAX_RUN = "max_run"
    POWER_DELAY = "power_delay"
    START_GAP = "start_gap"
    RAMP = "ramp"
    FILTER = "filter"
    GAIN = "gain"
    RESET_TIME = "reset_time"


CUT_INS = (SettingId.CUT_IN, SettingId.CUT_IN_2, SettingId.CUT_IN_3, SettingId.CUT_IN_4, SettingId.CUT_IN_5)  # where each pump has a switch of its own
CUT_OUTS = (SettingId.CUT_OUT, SettingId.CUT_OUT_2, SettingId.CUT_OUT_3, SettingId.CUT_OUT_4, SettingId.CUT_OUT_5)
WATER = (SettingId.WATER_WAIT, SettingId.WATER_TRIES, SettingId.WATER_LONG_WAIT)  # how it begins again after lack of water
PRIME = (SettingId.PRIME_WAIT, SettingId.PRIME_TRIES, SettingId.PRIME_LONG_WAIT)  # and a pump after a lost prime
BY_DIAL = (SettingId.LOW_SUCTION_STOP, SettingId.LOW_SUCTION_ALARM, SettingId.LOW_LEVEL_STOP, SettingId.LOW_LEVEL_ALARM)  # where switches tell: set at themselves
SCHEDULED = (SettingId.SCHEDULE_1, SettingId.SCHEDULE_2, SettingId.SCHEDULE_3, SettingId.SCHEDULE_4)


class Mode(StrEnum):
    """What the set is doing."""

    ASLEEP = "asleep"
    FILLING = "filling"
    RUNNING = "running"
    BOOSTING = "boosting"
    TESTING = "testing"


class Stop(StrEnum):
    """What stops all pumps."""

    SENSOR = "sensor"
    LOW_SUCTION = "low_suction"
    HIGH = "high"
    BURST = "burst"
    FILL = "fill"


class Wait(StrEnum):
    """A condition that counts only once it has lasted."""

    SENSOR = "sensor"
    REMOTE = "remote"
    LOW_SUCTION = "low_suction"
    WATER_BACK = "water_back"
    LOW_WATER = "low_water"
    BURST = "burst"
    FILL = "fill"
    AIR = "air"
    LONG = "long"
    CLOSED = "closed"
    BOOST = "boost"
    TEST = "test"
    JOIN = "join"
    LEAVE = "leave"
    BUMP = "bump"
    IDLE = "idle"
    NO_FLOW = "no_flow"
    RAN = "ran"
    POWER_BACK = "power_back"
    GAP = "gap"


class Act(StrEnum):
    """What a person can do on the bench beside breaking things."""

    OUTLETS = "outlets"
    SUCTION = "suction"
    SWITCH = "switch"
    HAND_SPEED = "hand_speed"
    POWER = "power"
    GENERATOR = "generator"
    NIGHT = "night"
    CLOCK = "clock"
    RAN = "ran"
    DRAIN = "drain"
    OUTSIDE = "outside"
    REMOTE = "remote"
    RUN = "run"
    KEYS = "keys"
    WEEK = "week"
    LOOP = "loop"
    LOOP_SPEED = "loop_speed"
    SILENCE = "silence"
    RESET = "reset"


class SetFault(StrEnum):
    """What can be broken of the whole set."""

    LOOP_OPEN = "loop_open"
    LOOP_SHORT = "loop_short"
    FROZEN = "frozen"
    DRIFT = "drift"
    REMOTE_LOST = "remote_lost"
    DRY = "dry"
    FLOW_STUCK = "flow_stuck"
    WATERLOGGED = "waterlogged"
    BURST = "burst"
    SUCTION_WIRE = "suction_wire"
    SUCTION_JUMPER = "suction_jumper"
    OUTSIDE_LOST = "outside_lost"


class PumpFault(StrEnum):
    """What can be broken of one pump."""

    TRIP = "trip"
    AIR = "air"
    CHECK_VALVE = "check_valve"
    SHUT = "shut"
    BACKWARDS = "backwards"
    OVERLOAD = "overload"
    STALLED = "stalled"
    DIAL = "dial"
    DIAL_UP = "dial_up"
    WELDED = "welded"
    CAPACITOR = "capacitor"
    WINDING = "winding_contact"
    NO_CALL = "no_call"
    CALLS_ON = "calls_on"


AnyAct = Act | SetFault | PumpFault | SupplyFault | SupplyAct
ACTS: tuple[type[AnyAct], ...] = (Act, SetFault, PumpFault, SupplyFault, SupplyAct)
SHUT_PA = -95e3  # the least a person can throttle the suction to
LIMITS: dict[AnyAct, tuple[float, float]] = {  # of the amounts a person can turn to
    Act.OUTLETS: (0.0, 2.0),
    Act.SUCTION: (SHUT_PA, 2e6),
    Act.HAND_SPEED: (0.0, 1.0),
    Act.CLOCK: (0.0, 30.0 * 24.0),
    Act.RAN: (0.0, 30.0 * 24.0),
    Act.OUTSIDE: (0.0, 1.0),
    Act.KEYS: (0.0, 5e6),
    Act.LOOP_SPEED: (0.0, 1.0),
}


class Alarm(StrEnum):
    """What the controller can tell; those of a pump come with its number."""

    SENSOR = "sensor"
    LOW_SUCTION = "low_suction"
    LOW_WATER = "low_water"
    HIGH = "high"
    BURST = "burst"
    FILL = "fill"
    REMOTE = "remote"
    PHASE = "phase"
    CLOSED = "closed"
    STARTS = "starts"
    PUMP = "pump"
    LONG = "long"
    WAITS = "waits"


class Harm(StrEnum):
    """What hurts pipes, pumps or seals."""

    OVER_RATING = "over_rating"
    CAVITATES = "cavitates"
    BEYOND_CURVE = "beyond_curve"
    BACKWARDS = "backwards"
    RUNS_DRY = "runs_dry"
    BURNS = "burns"
    TWO_PHASES = "two_phases"
    UNCALLED = "uncalled"
    BOILS = "boils"


class Check(StrEnum):
    """Which proof."""

    PRECHARGE = "precharge"
    STAYS_STOPPED = "stays_stopped"
    HOLDS = "holds"
    DIP = "dip"
    RISE = "rise"
    SLEEPS = "sleeps"
    BOOST = "boost"
    STAYS_ASLEEP = "stays_asleep"
    WAKES = "wakes"
    NIGHT = "night"
    SETBACK = "setback"
    REMOTE = "remote"
    STARTS = "starts"
    CUT_IN = "cut_in"
    FLOW_STOP = "flow_stop"
    CUT_OUT = "cut_out"
    FIXED_SPEED = "fixed_speed"
    JOINS = "joins"
    LEAVES = "leaves"
    NO_HUNTING = "no_hunting"
    TAKEOVER = "takeover"
    MOST_AT_ONCE = "most_at_once"
    STANDBY = "standby"
    EMERGENCY = "emergency"
    EMERGENCY_PRESSURE = "emergency_pressure"
    LEAD = "lead"
    LOW_SUCTION = "low_suction"
    WATER_BACK = "water_back"
    LOW_WATER = "low_water"
    BROKEN_WIRE = "broken_wire"
    LOW_SUCTION_DELAY = "low_suction_delay"
    WATER_WAIT = "water_wait"
    WATER_TRIES = "water_tries"
    HIGH = "high"
    BURST = "burst"
    NO_PRIME = "no_prime"
    PRIME_WAIT = "prime_wait"
    PRIME_TRIES = "prime_tries"
    CLOSED = "closed"
    TAP_RUNS = "tap_runs"
    STARTS_ALARM = "starts_alarm"
    SENSOR_FAILURE = "sensor_failure"
    REMOTE_FAILURE = "remote_failure"
    SLOW_FILL = "slow_fill"
    FILL_ENDS = "fill_ends"
    PHASE = "phase"
    POWER_RETURN = "power_return"
    POWER_DELAY = "power_delay"
    START_GAP = "start_gap"
    OVERLOAD = "overload"
    UNDERLOAD = "underload"
    RETRIES = "retries"
    TRIES = "tries"
    AWAKE = "awake"
    CASING = "casing"
    HOT = "hot"
    SUPPLY = "supply"
    SWAPPED = "swapped"
    MAX_RUN = "max_run"
    EACH_PUMP = "each_pump"
    LEAST_RUN = "least_run"
    SETTLES = "settles"
    LEAST_SPEED = "least_speed"
    MOST_SPEED = "most_speed"
    RAMP = "ramp"
    JOIN_DELAY = "join_delay"
    LEAVE_DELAY = "leave_delay"
    FILLED = "filled"
    SCHEDULE = "schedule"
    LOWEST_SET = "lowest_set"
    HIGHEST_SET = "highest_set"
    OUTSIDE = "outside"
    OUTSIDE_LOST = "outside_lost"
    LOCAL = "local"
    RUN_CONTACT = "run_contact"
    LOOP = "loop"
    FAR_END = "far_end"
    ALTERNATION = "alternation"
