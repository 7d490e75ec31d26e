"""What the person decides for a lift station: levels, schools of practice, and the numbers of the rules."""

from enum import StrEnum

from pydantic import Field

from goodbalance.core.balance.facts import Facts, choice, fact, section, words
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.latch_panel import Alternation
from goodbalance.core.sheets.profile import LevelDisplay


class StartsCredit(StrEnum):
    NONE = "none"
    ALTERNATION = "alternation"


class SubmergenceSchool(StrEnum):
    MAKER_AND_VORTEX = "maker_and_vortex"
    MAKER_ONLY = "maker_only"


class DetentionCounts(StrEnum):
    WELL = "well"
    WELL_AND_MAIN = "well_and_main"


class OnSensorFailure(StrEnum):
    STOP_ALL = "stop_all"
    RUN_DUTY = "run_duty"


class AlarmRelay(StrEnum):
    IN_ALARM = "in_alarm"
    IN_HEALTH = "in_health"


class PumpRate(StrEnum):
    CURVE = "curve"
    MEASURED = "measured"


class Schools(Facts):
    """Where practitioners differ. The first answer is the default; the label says why."""

    starts_credit: StartsCredit = choice(
        "Starts per hour",
        StartsCredit,
        {
            "none": "No credit for alternation (default: with one pump out, the rest start twice as often)",
            "alternation": "Credit alternation: each pump sees every n-th start",
        },
        default=StartsCredit.NONE,
    )
    submergence: SubmergenceSchool = choice(
        "Stop level",
        SubmergenceSchool,
        {
            "maker_and_vortex": "The higher of the maker's submergence and the vortex rule (default: covers both harms)",
            "maker_only": "The maker's submergence only",
        },
        default=SubmergenceSchool.MAKER_AND_VORTEX,
    )
    detention: DetentionCounts = choice(
        "Detention counts",
        DetentionCounts,
        {
            "well": "Water in the well (default: what the levels can change)",
            "well_and_main": "Water in the well and the rising main",
        },
        default=DetentionCounts.WELL,
    )
    sensor_failure: OnSensorFailure = choice(
        "When the level sensor fails",
        OnSensorFailure,
        {
            "stop_all": "Stop all pumps and alarm (default: no pump runs dry unseen)",
            "run_duty": "Run the duty pump and alarm (only with a separate low-level float)",
        },
        default=OnSensorFailure.STOP_ALL,
    )

    alarm_relay: AlarmRelay = choice(
        "Alarm relays are energised",
        AlarmRelay,
        {
            "in_alarm": "In alarm, normally open contact (default: as the old float worked; silent without power)",
            "in_health": "In health, normally closed contact (a dead controller raises the alarm too)",
        },
        default=AlarmRelay.IN_ALARM,
    )
    pump_rate: PumpRate = choice(
        "Rate of the pumps",
        PumpRate,
        {
            "curve": "By curve and main (default: known before the visit)",
            "measured": "As measured by timed drawdown, where a pump was measured",
        },
        default=PumpRate.CURVE,
    )
    alternation: Alternation = choice(
        "Who leads next",
        Alternation,
        {
            "all_stopped": "The next pump each time all have stopped (default: evens wear, finds a dead pump soon)",
            "fixed": "Always pump 1 (one pump fresh for the day the other fails)",
            "run_hours": "The pump that has run least",
            "clock": "The next pump after a set time",
        },
        default=Alternation.ALL_STOPPED,
    )


class Rules(Facts):
    """Numbers of the rules of thumb. Defaults are ours; local codes and the makers come first."""

    separation_m: float = fact("Least step between levels", Q.LEVEL, 0.01, 2.0, usual=(0.05, 0.5), default=0.15)
    freeboard_m: float = fact("Freeboard under the inlet invert", Q.LEVEL, 0.0, 2.0, usual=(0.0, 0.5), default=0.10)
    detention_s: float = fact(
        "Longest detention at mean inflow", Q.DURATION, 60.0, 86400.0, usual=(600.0, 7200.0), default=1800.0
    )
    velocity_low_ms: float = fact("Lowest velocity in the main", Q.VELOCITY, 0.0, 3.0, usual=(0.5, 1.0), default=0.7)
    velocity_high_ms: float = fact("Highest velocity in the main", Q.VELOCITY, 0.5, 10.0, usual=(1.5, 3.5), default=2.5)
    relay_gap_m: float = fact(
        "Gap between a relay's two levels",
        Q.LEVEL,
        0.005,
        1.0,
        usual=(0.02, 0.2),
        default=0.05,
        hint="so that waves do not make it chatter",
    )
    start_gap_s: float = fact(
        "Time between two pump starts",
        Q.TIME,
        0.0,
        600.0,
        usual=(2.0, 60.0),
        default=10.0,
        hint="after a power return, and when two are called at once",
    )

    feedback_s: float = fact(
        "Starter feedback may be missing for",
        Q.TIME,
        0.5,
        60.0,
        usual=(2.0, 20.0),
        default=5.0,
        hint="longer than the starter takes to pull in",
    )
    clock_period_s: float = fact(
        "Turn passes by the clock after",
        Q.DURATION,
        3600.0,
        30 * 86400.0,
        usual=(8 * 3600.0, 7 * 86400.0),
        default=86400.0,
    )


class Keypad(Facts):
    """Which controller is typed into, and the unit its display shows levels in."""

    profile: str = words("Controller family", max_length=40)
    level_display: LevelDisplay = choice(
        "Its display shows levels in",
        LevelDisplay,
        {"m": "metres", "ft": "feet", "%": "per cent of the sensor's span"},
        default=LevelDisplay.METRES,
    )


class LiftChoices(Facts):
    """All decisions. levels_m holds only the levels a person has set; the rest stay recommended."""

    schools: Schools = section("Schools", default=Schools())
    rules: Rules = section("Rules", default=Rules())
    keypad: Keypad = section("Controller", default=Keypad())
    levels_m: dict[str, float] = Field(default_factory=dict)
    step_m: float = Field(default=0.01, gt=0.0, le=0.5)  # one step of the controller's display
