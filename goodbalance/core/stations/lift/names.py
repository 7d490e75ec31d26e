"""What a lift station calls its things: one definition for each role, action, fault, alarm and harm."""

from collections.abc import Container
from enum import StrEnum

from goodbalance.core.protection.names import SupplyAct, SupplyFault


class Role(StrEnum):
    """What a relay or a float is there for. Starts and stops that have a number follow below."""

    LOW_CUT_OUT = "low_cut_out"
    LOW_ALARM = "low_alarm"
    STOP = "stop"
    STOP_2 = "stop_2"
    STOP_3 = "stop_3"
    STOP_4 = "stop_4"
    START_1 = "start_1"
    START_2 = "start_2"
    START_3 = "start_3"
    START_4 = "start_4"
    HIGH_ALARM = "high_alarm"

    @property
    def call(self) -> int:
        """Which call a start brings, or a stop ends: 1 for the duty's; 0 for what is neither."""
        return _CALLS.get(self, 0)

    @property
    def is_start(self) -> bool:
        """A start level of a pump."""
        return self in STARTS

    @property
    def is_stop(self) -> bool:
        """A stop level, common or of one pump."""
        return self in STOPS


STARTS = (Role.START_1, Role.START_2, Role.START_3, Role.START_4)
STOPS = (Role.STOP, Role.STOP_2, Role.STOP_3, Role.STOP_4)
_CALLS = {role: place for roles in (STARTS, STOPS) for place, role in enumerate(roles, 1)}


def last_start(levels: Container[str]) -> Role:
    """The start of the highest call among these."""
    return [role for role in STARTS if role in levels][-1]


_FLOAT = "float_"  # before the role, in the id of the setting of a float behind a sensor


def float_id(role: str) -> str:
    """The id of the setting that says how high the float of a role hangs."""
    return _FLOAT + role


def role_of(setting_id: str) -> Role:
    """The inverse of float_id."""
    return Role(setting_id.removeprefix(_FLOAT))


def is_float_id(setting_id: str) -> bool:
    """Whether a setting says how high a float behind a sensor hangs."""
    return setting_id.startswith(_FLOAT)


class Act(StrEnum):
    """What a person can do on the bench beside breaking things."""

    INFLOW = "inflow"
    PATTERN = "pattern"
    RAIN = "rain"
    SWITCH = "switch"
    POWER = "power"
    OUTSIDE = "outside"
    RUN = "run"
    REMOTE = "remote"
    SILENCE = "silence"
    RESET = "reset"


class StationFault(StrEnum):
    """What can be broken of the whole station."""

    LOOP_OPEN = "loop_open"
    LOOP_SHORT = "loop_short"
    FROZEN = "frozen"
    DRIFT = "drift"
    ECHO = "echo"
    LOST_ECHO = "lost_echo"
    LOW_FLOAT = "low_float"
    OUTSIDE_LOST = "outside_lost"
    LINK = "link"


class FloatFault(StrEnum):
    """What can be wrong with one float."""

    UP = "float_up"
    DOWN = "float_down"


class PumpFault(StrEnum):
    """What can be broken of one pump."""

    STARTER = "starter"
    CLOGGED = "clogged"
    CHECK_VALVE = "check_valve"
    FEEDBACK = "feedback"
    OVERLOAD = "overload"
    STALLED = "stalled"
    SHUT = "shut"
    DIAL = "dial"
    DIAL_UP = "dial_up"
    SEAL = "seal"
    NODE = "node"
    INPUT = "input"
    BACKWARDS = "backwards"
    WELDED = "welded"
    CAPACITOR = "capacitor"
    WINDING = "winding_contact"


class GuardContact(StrEnum):
    """A contact of its own that holds pumps back, or says who is obeyed."""

    LOW_FLOAT = "low_float"
    PHASE = "phase"
    RUN = "run"
    BACKWARDS = "backwards"
    LOCAL = "local"


class WireFault(StrEnum):
    """What can be wrong with the wires of one contact, named by its role, or by the id of its float behind a sensor."""

    OFF = "wire_off"


AnyAct = Act | StationFault | FloatFault | PumpFault | WireFault | SupplyFault | SupplyAct
ACTS: tuple[type[AnyAct], ...] = (Act, StationFault, FloatFault, PumpFault, WireFault, SupplyFault, SupplyAct)


class Alarm(StrEnum):
    """What the alarm panel can tell; those of a pump come with its number."""

    HIGH = "high"
    LOW = "low"
    SENSOR = "sensor"
    PHASE = "phase"
    PUMP = "pump"
    SUSPECT = "suspect"
    LONG_RUN = "long_run"
    STARTS = "starts"
    SEAL = "seal"
    NODE = "node"
    LINK = "link"
    INPUT = "input"
    WAITS = "waits"


class Check(StrEnum):
    """Which proof."""

    UP = "up"
    DOWN = "down"
    COMMON_STOP = "common_stop"
    OWN_STOP = "own"
    ASSIST = "assist"
    ALTERNATION = "alternation"
    LEAD = "lead"
    FIRST_RESTS = "first_rests"
    MOST_AT_ONCE = "most_at_once"
    STANDBY = "standby"
    FLOAT = "float"
    HIGH_ALARM_CLEARS = "high_alarm_clears"
    SENSOR_FAILURE = "sensor_failure"
    LOST_ECHO = "lost_echo"
    FALSE_ECHO = "false_echo"
    LOW_FLOAT = "low_float"
    PHASE = "phase"
    SEAL = "seal"
    BROKEN_WIRE = "broken_wire"
    TIMER = "timer"
    FULL_SPEED = "full_speed"
    ECONOMICAL = "economical"
    LEAST_SPEED = "least_speed"
    RAMP = "ramp"
    HOLDS = "holds"
    FLOW = "flow"
    OUTSIDE = "outside"
    OUTSIDE_LOST = "outside_lost"
    NODE = "node"
    LINK = "link"
    INPUT = "input"
    FAR_END = "far_end"
    ALARM_TELLS = "alarm_tells"
    OVERLOAD = "overload"
    UNDERLOAD = "underload"
    RETRIES = "retries"
    TRIES = "tries"
    AWAKE = "awake"
    CASING = "casing"
    HOT = "hot"
    SUPPLY = "supply"
    SWAPPED = "swapped"
    POWER_RETURN = "power_return"
    RUN_CONTACT = "run_contact"
    BACKWARDS = "backwards"
    LOCAL = "local"


class Outcome(StrEnum):
    """What a proof expects where the plan decides it."""

    PUMP_1_LEADS = "pump_1_leads"
    ALL_STOP = "all_stop"
    DUTY_RUNS = "duty_runs"
    FLOATS_TAKE_OVER = "floats_take_over"
    PUMP_STOPS = "pump_stops"
    ALARM_ONLY = "alarm_only"
    READING_HELD = "reading_held"
    WAITS_FOR_RESET = "waits_for_reset"
    CLEARS_ITSELF = "clears_itself"
    FULL_SPEED = "full_speed"
    SPEED_HELD = "speed_held"
    LEAST_SPEED = "least_speed"
    ANOTHER_LEADS = "another_leads"
    EACH_ALONE = "each_alone"
    LEADER_ALONE = "leader_alone"
    ANOTHER_READS = "another_reads"
    BY_ITSELF = "by_itself"
    WAITS_FOR_PERSON = "waits_for_person"


class SettingId(StrEnum):
    """Every setting beside levels and floats: its name in plans, programs, keypads and files. A level's is its role."""

    BELIEVED_RATE = "believed_rate"
    FILL_RATE = "fill_rate"
    EMPTY_RATE = "empty_rate"
    CALL_DELAY = "call_delay"
    START_GAP = "start_gap"
    FEEDBACK_LOST = "feedback_lost"
    LEAST_RUN = "least_run"
    LEAST_REST = "least_rest"
    STOP_DELAY = "stop_delay"
    LONGEST_RUN = "longest_run"
    STARTS_LIMIT = "starts_limit"
    ASSIST_AFTER = "assist_after"
    RUN_ON = "run_on"
    TAKEOVER = "takeover"
    RAMP = "ramp"
    LEAST_SPEED = "least_speed"
    FULL_SPEED_LEVEL = "full_speed_level"
    ECONOMICAL_SPEED = "economical_speed"
    OUTSIDE_ZERO_SPEED = "outside_zero_speed"
    OUTSIDE_FULL_SPEED = "outside_full_speed"
    HOLD_LEVEL = "hold_level"
    HOLD_GAIN = "hold_gain"
    HOLD_RESET = "hold_reset"
    SEAL_LIMIT = "seal_limit"


class Harm(StrEnum):
    """What hurts pump, motor or street."""

    DRAWS_AIR = "draws_air"
    TWO_PHASES = "two_phases"
    OVERFLOWS = "overflows"
    AGAINST = "against"
    BURNS = "burns"
    WRONG_WAY = "wrong_way"
    UNCALLED = "uncalled"
    BOILS = "boils"
