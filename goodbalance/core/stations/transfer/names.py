"""What a transfer set calls its things: one definition for each setting, state, action, fault, alarm, harm and proof."""

from enum import StrEnum

from goodbalance.core.protection.names import SupplyAct, SupplyFault

MAX_TANKS, MAX_PUMPS = 3, 3


class SettingId(StrEnum):
    """Every setting a transfer set may have: its name in plans, numbers, keypads and files. Those of a tank or a source end in its number."""

    STOP_PRESSURE = "stop_pressure"
    RESTART_PRESSURE = "restart_pressure"
    LEAST_PRESSURE = "least_pressure"
    STOP_1 = "stop_1"
    STOP_2 = "stop_2"
    STOP_3 = "stop_3"
    START_1 = "start_1"
    START_2 = "start_2"
    START_3 = "start_3"
    ASSIST_1 = "assist_1"
    ASSIST_2 = "assist_2"
    ASSIST_3 = "assist_3"
    HIGH_ALARM_1 = "high_alarm_1"
    HIGH_ALARM_2 = "high_alarm_2"
    HIGH_ALARM_3 = "high_alarm_3"
    LOW_ALARM_1 = "low_alarm_1"
    LOW_ALARM_2 = "low_alarm_2"
    LOW_ALARM_3 = "low_alarm_3"
    SOURCE_STOP_1 = "source_stop_1"
    SOURCE_STOP_2 = "source_stop_2"
    SOURCE_BACK_1 = "source_back_1"
    SOURCE_BACK_2 = "source_back_2"
    RESTART_DELAY = "restart_delay"
    SOURCE_DELAY = "source_delay"
    WIRE_DELAY = "wire_delay"
    ASSIST_AFTER = "assist_after"
    LEAST_DELAY = "least_delay"
    LONGEST_RUN = "longest_run"
    START_GAP = "start_gap"


class Level(StrEnum):
    """What a level of a tank or source is there for; its settings are these with a number."""

    STOP = "stop"
    START = "start"
    ASSIST = "assist"
    HIGH_ALARM = "high_alarm"
    LOW_ALARM = "low_alarm"
    SOURCE_STOP = "source_stop"
    SOURCE_BACK = "source_back"

    def of(self, number: int) -> SettingId:
        """The setting of that tank or source, 1 for the first."""
        return SettingId(f"{self}_{number}")


OF_A_TANK = (Level.LOW_ALARM, Level.ASSIST, Level.START, Level.STOP, Level.HIGH_ALARM)


class State(StrEnum):
    """What the set is doing."""

    FILL = "fill"
    THROTTLE = "throttle"
    HELD = "held"
    WAIT = "wait"
    OFF = "off"
    LOCKED = "locked"


class Lock(StrEnum):
    """What locks the pumps out until a person resets."""

    LONG = "long"
    BURST = "burst"


class Hold(StrEnum):
    """What holds pumps back and lets them go by itself."""

    SOURCE = "source"
    WIRE = "wire"
    SENSOR = "sensor"
    HIGH = "high"


class Wait(StrEnum):
    """A condition that counts only once it has lasted."""

    RESTART = "restart"
    SOURCE = "source"
    BACK = "back"
    WIRE = "wire"
    SENSOR = "sensor"
    BURST = "burst"
    RUN = "run"
    ASSIST = "assist"
    GAP = "gap"


class Act(StrEnum):
    """What a person can do on the bench beside breaking things."""

    DRAW = "draw"
    PATTERN = "pattern"
    SOURCE = "source"
    LEVEL = "level"
    THROTTLE = "throttle"
    BLEED = "bleed"
    SWITCH = "switch"
    START = "start"
    POWER = "power"
    SILENCE = "silence"
    RESET = "reset"


class SetFault(StrEnum):
    """What can be broken of the whole set."""

    LOOP_OPEN = "loop_open"
    LOOP_SHORT = "loop_short"
    FROZEN = "frozen"
    DRIFT = "drift"
    BURST = "burst"
    LEAK = "leak"
    AIR = "air"
    DRY = "dry"
    SOURCE_WIRE = "source_wire"
    DENSITY = "density"


class TankFault(StrEnum):
    """What can be wrong at one tank."""

    STUCK_OPEN = "stuck_open"
    STUCK_SHUT = "stuck_shut"
    DRIBBLES = "dribbles"
    WIRE_OFF = "wire_off"
    WIRE_JOINED = "wire_joined"


class PumpFault(StrEnum):
    """What can be broken of one pump."""

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


AnyAct = Act | SetFault | TankFault | PumpFault | SupplyFault | SupplyAct
ACTS: tuple[type[AnyAct], ...] = (Act, SetFault, TankFault, PumpFault, SupplyFault, SupplyAct)


class Alarm(StrEnum):
    """What the controller can tell; those of a pump, tank or source come with its number."""

    SENSOR = "sensor"
    SOURCE = "source"
    WIRE = "wire"
    HIGH = "high"
    LOW = "low"
    LONG = "long"
    BURST = "burst"
    PHASE = "phase"
    PUMP = "pump"
    WAITS = "waits"


class Harm(StrEnum):
    """What hurts pipes, pumps, floors or users."""

    OVERFLOWS = "overflows"
    RUNS_EMPTY = "runs_empty"
    OVER_RATING = "over_rating"
    AGAINST = "against"
    DRAWS_AIR = "draws_air"
    BURNS = "burns"
    BOILS = "boils"
    TWO_PHASES = "two_phases"
    UNCALLED = "uncalled"
    WRONG_WAY = "wrong_way"


class Check(StrEnum):
    """Which proof."""

    FREE = "free"
    STOPS = "stops"
    OVERSHOOT = "overshoot"
    HOLDS = "holds"
    RESTARTS = "restarts"
    DELAY = "delay"
    FORCED = "forced"
    CLOSES = "closes"
    UP = "up"
    DOWN = "down"
    ASSIST = "assist"
    ASSIST_AFTER = "assist_after"
    HIGH_ALARM = "high_alarm"
    LOW_ALARM = "low_alarm"
    WIRE = "wire"
    SOURCE = "source"
    SOURCE_BACK = "source_back"
    SOURCE_DELAY = "source_delay"
    SOURCE_WIRE = "source_wire"
    SENSOR_FAILURE = "sensor_failure"
    BURST = "burst"
    BURST_DELAY = "burst_delay"
    LONGEST_RUN = "longest_run"
    POWER_RETURN = "power_return"
    DELAY_AFTER_CUT = "delay_after_cut"
    START_GAP = "start_gap"
    EACH_PUMP = "each_pump"
    SHUT_OFF = "shut_off"
    ALTERNATION = "alternation"
    LEAD = "lead"
    MOST_AT_ONCE = "most_at_once"
    STANDBY = "standby"
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
