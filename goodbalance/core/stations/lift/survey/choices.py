"""What the person decides for a lift station: levels, schools of practice, and the numbers of the rules."""

from enum import StrEnum
from typing import Self

from pydantic import Field

from goodbalance.core.balance.facts import Facts, choice, fact, section, words
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.level_drive import OutsideLost
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.control.sequencer import SUSPECT_CYCLES
from goodbalance.core.control.trips import Beyond
from goodbalance.core.protection.asked import ProtectionChoices
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.shared.choices import Choices


class StartsCredit(StrEnum):
    """Whether alternation counts toward the starts a motor stands."""

    NONE = "none"
    ALTERNATION = "alternation"


class SubmergenceSchool(StrEnum):
    """Which submergence counts: the maker's and that against vortices, or the maker's alone."""

    MAKER_AND_VORTEX = "maker_and_vortex"
    MAKER_ONLY = "maker_only"


class DetentionCounts(StrEnum):
    """Whether the water in the main counts for how long sewage stands."""

    WELL = "well"
    WELL_AND_MAIN = "well_and_main"


class OnSensorFailure(StrEnum):
    """What happens when the level sensor fails."""

    STOP_ALL = "stop_all"
    RUN_DUTY = "run_duty"


class Stops(StrEnum):
    """Whether all pumps stop at one level, or each at its own."""

    COMMON = "common"
    OWN = "own"


class AssistBy(StrEnum):
    """What calls the assist pump."""

    LEVEL = "level"
    LEVEL_OR_TIMER = "level_or_timer"


class SpeedMode(StrEnum):
    """How drives are led."""

    FIXED = "fixed"
    BY_LEVEL = "by_level"
    HOLD_LEVEL = "hold_level"
    ECONOMICAL = "economical"
    OUTSIDE = "outside"


class SealLeak(StrEnum):
    """What a wet seal does."""

    ALARM = "alarm"
    STOP = "stop"


class AlarmReset(StrEnum):
    """Whether an alarm clears by itself."""

    AUTOMATIC = "automatic"
    BY_HAND = "by_hand"


class AlarmLamp(StrEnum):
    """How a new alarm is shown."""

    FLASHING = "flashing"
    STEADY = "steady"


class AlarmSounder(StrEnum):
    """Whether a new alarm is heard too."""

    SOUNDER = "sounder"
    LAMP_ONLY = "lamp_only"


class ManyStarts(StrEnum):
    """What follows when a pump starts more often within an hour than it may."""

    UNCOUNTED = "uncounted"
    WARNS = "warns"
    STOPS = "stops"


class Suspects(StrEnum):
    """Whether a pump that needs help each time it leads is told of."""

    TOLD = "told"
    IGNORED = "ignored"


class AlarmRelay(StrEnum):
    """Whether the alarm relay pulls in alarm, or lets go."""

    IN_ALARM = "in_alarm"
    IN_HEALTH = "in_health"


class PumpRate(StrEnum):
    """Which rate of the pumps counts: by the curve, or as measured by drawdown."""

    CURVE = "curve"
    MEASURED = "measured"


_CALLS = (("control.kind", ("pump_controller", "drives_alone")),)
_TELLS = (("control.kind", ("relays_to_panel", "pump_controller", "drives_alone")),)


class Schools(Facts):
    """Where practitioners differ. The first answer is the default; the label says why."""

    starts_credit: StartsCredit = choice(
        "Starts per hour",
        StartsCredit,
        {
            "none": "No credit for alternation (default: with one pump out, the rest start twice as often)",
            "alternation": "Credit alternation (each pump sees every n-th start)",
        },
        default=StartsCredit.NONE,
    )
    submergence: SubmergenceSchool = choice(
        "Stop level",
        SubmergenceSchool,
        {
            "maker_and_vortex": "The higher of maker's and vortex rule (default: covers both harms)",
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
    stops: Stops = choice(
        "Stop levels",
        Stops,
        {
            "common": "One for all pumps (default: cleans the well, fewest parts)",
            "own": "Each pump its own, the assist above the duty pump (gentler on the main and the works after it)",
        },
        default=Stops.COMMON,
    )
    assist_by: AssistBy = choice(
        "The assist is called",
        AssistBy,
        {
            "level": "By level (default: it comes when the water says so)",
            "level_or_timer": "By level, or by time (when the duty pump has not reached the stop in time)",
        },
        default=AssistBy.LEVEL,
        only_if=(("control.kind", ("relays_to_panel", "pump_controller", "drives_alone")),),
    )
    speed_mode: SpeedMode = choice(
        "Drives run",
        SpeedMode,
        {
            "fixed": "At full speed (default: scours the main, no setting to go wrong)",
            "by_level": "Faster as the level rises (fewer starts, less surge in the main)",
            "hold_level": "So as to hold a level (steady flow to the works after it)",
            "economical": "At one economical speed, at full from a level up until all have stopped (least energy, and a storm is met)",
            "outside": "As an outside signal says (the works after it decide; levels still start and stop)",
        },
        default=SpeedMode.FIXED,
        only_if=(("drives.fitted", ("yes",)),),
    )
    outside_lost: OutsideLost = choice(
        "When the outside speed signal is lost",
        OutsideLost,
        {
            "full": "Full speed (default: the well is emptied whoever has lost whom)",
            "hold": "The last speed is held (the works after it stand no sudden flow)",
            "least": "Least speed (only where that carries the peak, or the assist comes in time)",
        },
        default=OutsideLost.FULL,
        only_if=(("drives.outside", ("yes",)),),
    )
    seal_leak: SealLeak = choice(
        "A leaking seal",
        SealLeak,
        {
            "alarm": "Raises an alarm (default: the pump may finish the storm)",
            "stop": "Raises an alarm and stops its pump",
        },
        default=SealLeak.ALARM,
        only_if=(("control.seal_probes", ("yes",)),),
    )
    alarm_reset: AlarmReset = choice(
        "Alarms clear",
        AlarmReset,
        {
            "automatic": "By themselves when the cause has gone (default: a passing alarm needs nobody; a tripped pump always waits for OFF)",
            "by_hand": "Only when somebody resets them (so that none is missed)",
        },
        default=AlarmReset.AUTOMATIC,
    )
    alarm_lamp: AlarmLamp = choice(
        "A new alarm", AlarmLamp,
        {"flashing": "Flashes until somebody has seen it (default: a second one is not taken for the first)", "steady": "Stands steady (one lamp, one alarm)"},
        default=AlarmLamp.FLASHING, only_if=_TELLS,
    )  # fmt: skip
    alarm_sounder: AlarmSounder = choice(
        "And it is heard",
        AlarmSounder,
        {
            "sounder": "By a sounder until it is silenced (default: heard before it is seen)",
            "lamp_only": "Not at all: lamp only (where it would wake a street, and telemetry calls somebody)",
        }, default=AlarmSounder.SOUNDER, only_if=_TELLS,
    )  # fmt: skip
    long_run: Beyond = choice(
        "A pump that runs longer than its limit", Beyond,
        {
            "stops": "Passes its turn to the next (default: one that moves nothing is out of the way)",
            "warns": "Is told of and runs on (where a long run is honest: a small pump, water that trickles in all night)",
        }, default=Beyond.STOPS, only_if=_CALLS,
    )  # fmt: skip
    many_starts: ManyStarts = choice(
        "A pump that starts more often than its motor may", ManyStarts,
        {
            "uncounted": "Is not counted (default: levels and least rest keep starts apart; one number less to set)",
            "warns": "Is told of, and starts on (a float that chatters is found; the water comes first)",
            "stops": "Is locked out until a person resets it, and the next takes over (it saves the motor; with the last of them the well fills)",
        }, default=ManyStarts.UNCOUNTED, only_if=_CALLS,
    )  # fmt: skip
    suspects: Suspects = choice(
        "A pump that needs help each time it leads", Suspects,
        {"told": "Is told of (default: worn and clogged pumps are found before a storm finds them)", "ignored": "Is not looked for (pumps that differ much in size)"},
        default=Suspects.TOLD, only_if=(*_CALLS, ("pumping.count", ("2", "3", "4"))),
    )  # fmt: skip
    alternation: Alternation = choice(
        "Who leads next",
        Alternation,
        {
            "all_stopped": "The next, when all have stopped (default: evens wear, finds a dead pump soon)",
            "each_stop": "The next, each time one stops (the one that led longest rests first)",
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
    detention_low_s: float = fact(
        "Longest detention at lowest inflow", Q.DURATION, 60.0, 172800.0, usual=(1800.0, 28800.0), default=7200.0,
        hint="at night; where smell or corrosion matter, less",
    )  # fmt: skip
    npsh_margin_m: float = fact("NPSH margin of pumps in a dry pit", Q.HEAD, 0.0, 10.0, default=0.5)
    periods: float = fact(
        "A ramp lasts at least, in pipe periods", Q.RATIO, 1.0, 50.0, usual=(3.0, 10.0), default=5.0,
        hint="a period: 2 L/a, to the far end and back",
    )  # fmt: skip
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
    scaling_error_share: float = fact(
        "Largest error of the level reading",
        Q.PERCENT,
        0.0005,
        0.2,
        usual=(0.002, 0.03),
        default=0.01,
        hint="of the span",
    )
    shortest_run_s: float = fact(
        "Shortest run worth a start", Q.TIME, 1.0, 600.0, usual=(5.0, 120.0), default=20.0,
        hint="long enough to carry the heat of starting away",
    )  # fmt: skip
    run_back_s: float = fact(
        "Time for the main to come to rest", Q.TIME, 0.0, 600.0, usual=(2.0, 120.0), default=10.0,
        hint="a pump turned backwards by returning water must not be started",
    )  # fmt: skip
    wave_s: float = fact("Longest wave or splash", Q.TIME, 0.1, 60.0, usual=(0.5, 10.0), default=1.0)
    useless_run_s: float = fact(
        "A pump may run without moving water for", Q.DURATION, 60.0, 86400.0, usual=(600.0, 28800.0), default=14400.0,
        hint="until seal and motor suffer; ask the maker",
    )  # fmt: skip
    false_echo_s: float = fact(
        "Longest false echo", Q.TIME, 0.5, 120.0, usual=(1.0, 30.0), default=5.0,
        hint="for a look-down sensor: foam, a cable, a falling stream",
    )  # fmt: skip
    suspect_cycles: int = fact(
        "A lead is suspected when it needed help in", Q.COUNT, 2, 20, default=SUSPECT_CYCLES,
        hint="cycles it led, one after the other, while the others did without; 4 come about by chance less than once in a hundred, 3 do not",
    )  # fmt: skip
    clock_period_s: float = fact(
        "Turn passes by the clock after",
        Q.DURATION,
        3600.0,
        30 * 86400.0,
        usual=(8 * 3600.0, 7 * 86400.0),
        default=86400.0,
        only_if=(("schools.alternation", ("clock",)),),
    )


class Keypad(Facts):
    """Which controller is typed into, and the unit its display shows levels in."""

    profile: str = words("Controller family", max_length=40)
    level_display: Display = choice(
        "Its display shows levels in",
        Display,
        {
            "m": "metres", "ft": "feet", "psi": "psi of water above the sensor's zero", "%": "per cent of the sensor's span",
            "% of depth": "per cent of the well's depth, floor to cover",
        },
        default=Display.METRES,
    )

    @property
    def display(self) -> Display:
        """The unit of its display."""
        return self.level_display


class LiftChoices(Choices):
    """All decisions. chosen holds, in SI, only the settings a person has set; the rest stay recommended."""

    schools: Schools = section("Schools", default=Schools())
    rules: Rules = section("Rules", default=Rules())
    protection: ProtectionChoices = section("Motors and their supply", default=ProtectionChoices())
    keypad: Keypad = section("Controller", default=Keypad())
    step_m: float = Field(default=0.01, gt=0.0, le=0.5)  # one step of the controller's display

    def stepped(self, step: float | None) -> Self:
        """The same with the controller's step, if it is known."""
        return self if step is None else self.model_copy(update={"step_m": step})
