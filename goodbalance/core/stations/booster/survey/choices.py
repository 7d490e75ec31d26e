"""What the person decides for a booster set: settings, schools of practice, and the numbers of the rules."""

from enum import StrEnum
from typing import Self

from pydantic import Field

from goodbalance.core.balance.facts import Facts, choice, fact, section, words, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.control.trips import Beyond
from goodbalance.core.protection.asked import ProtectionChoices
from goodbalance.core.protection.names import After
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.booster.survey.week import Schedule
from goodbalance.core.stations.shared.choices import Choices


class TankSchool(StrEnum):
    """What a tank is sized by: the starts its pumps stand, or a least run."""

    STARTS = "starts"
    LEAST_RUN = "least_run"


class Sharing(StrEnum):
    """How pumps share the work: all at one speed, or one regulates after the other."""

    SYNCHRONOUS = "synchronous"
    SERIAL = "serial"


class NoFlowBy(StrEnum):
    """How the end of demand is told: by speed, by a flow switch, or by a short stop."""

    SPEED = "speed"
    FLOW = "flow"
    BUMP = "bump"


class Setback(StrEnum):
    """How the set pressure falls with the flow."""

    NONE = "none"
    SQUARE = "square"
    LINEAR = "linear"


class Tuning(StrEnum):
    """The rule by which gains are reckoned."""

    SIMC = "simc"
    LAMBDA = "lambda"
    AMIGO = "amigo"


class OnFailure(StrEnum):
    """What happens when the discharge sensor fails."""

    STOP_ALL = "stop_all"
    RUN_DUTY = "run_duty"


class Reset(StrEnum):
    """How a stop for lack of water ends."""

    AUTOMATIC = "automatic"
    BY_HAND = "by_hand"
    TRIES = "tries"
    LONG_WAIT = "long_wait"

    @property
    def after(self) -> After:
        """What follows where tries are counted; a person at once where none are."""
        return After(self.value) if self in (Reset.TRIES, Reset.LONG_WAIT) else After.BY_HAND


class PrimeBy(StrEnum):
    """What tells that a running pump has lost its water."""

    POWER = "power"
    FLOW = "flow"
    PRESSURE = "pressure"


class FillEnd(StrEnum):
    """What ends a slow filling that took too long."""

    GO_ON = "go_on"
    STOP = "stop"


class RunOut(StrEnum):
    """What follows when every pump runs flat out and the pressure stays away: a burst."""

    STOP = "stop"
    SLOW = "slow"


class ProcessBy(StrEnum):
    """Which model the gains follow: the step test's, or the reckoned one."""

    MEASURED = "measured"
    RECKONED = "reckoned"


class OutsideLost(StrEnum):
    """What a set does when nobody outside can be heard any more."""

    LOCAL = "local"
    HOLD = "hold"


_CONSTANT = (("control.kind", ("constant",)),)
_SEVERAL = (("pumping.count", ("2", "3", "4", "5")),)
_SHARED = _CONSTANT + _SEVERAL
_NIGHT = (("schools.night", ("yes",)),)


class Schools(Facts):
    """Where practitioners differ. The first answer is the default; the label says why."""

    sharing: Sharing = choice(
        "Several pumps run",
        Sharing,
        {
            "synchronous": "All at the same speed (default: least power in most sets, no pump off its curve)",
            "serial": "The others at full speed, the last one regulates (each drive is simple, wear is uneven)",
        },
        default=Sharing.SYNCHRONOUS,
        only_if=_SHARED,
    )
    alternation: Alternation = choice(
        "Who leads next",
        Alternation,
        {
            "all_stopped": "The next, when all have stopped (default: evens wear, never swaps while much is drawn)",
            "each_stop": "The next, each time one stops",
            "fixed": "Always pump 1",
            "run_hours": "The pump that has run least",
            "clock": "The next pump after a set time, when all have stopped",
        },
        default=Alternation.ALL_STOPPED,
        only_if=_SEVERAL,
    )
    no_flow: NoFlowBy = choice(
        "No flow is told by",
        NoFlowBy,
        {
            "speed": "Speed (default: needs nothing more, where the curve lets it)",
            "flow": "A flow switch",
            "bump": "A short stop: if the pressure stays, nobody draws (works with flat curves; while little is drawn each ends in a start)",
        },
        default=NoFlowBy.SPEED,
        only_if=_CONSTANT,
    )
    setback: Setback = choice(
        "Less pressure while little flows",
        Setback,
        {
            "none": "No (default: simple to prove)",
            "square": "Along the square of the flow (as the pipe's losses go: saves most)",
            "linear": "In a straight line (what some keypads offer)",
        },
        default=Setback.NONE,
        only_if=_CONSTANT + (("control.remote", ("no",)),),
    )
    night: bool = yes_no("Another set pressure by the clock", default=False, only_if=_CONSTANT)
    slow_fill: bool = yes_no(
        "Empty pipes are filled slowly", default=True, hint="after works or a power failure", only_if=_CONSTANT
    )
    fill_end: FillEnd = choice(
        "When filling takes too long",
        FillEnd,
        {
            "go_on": "It goes on to regulate (default: outlets may stand open; the burst stop guards)",
            "stop": "It stops and waits for a reset (where a burst would do great harm)",
        },
        default=FillEnd.GO_ON,
        only_if=_CONSTANT + (("schools.slow_fill", ("yes",)),),
    )
    run_out: RunOut = choice(
        "After a run-out, as with a burst",
        RunOut,
        {
            "stop": "The set stops and waits for a reset (default: what runs out floods)",
            "slow": "One pump goes on at the filling speed until a reset (for a house that must not be without water; it goes on running out)",
        },
        default=RunOut.STOP,
        only_if=_CONSTANT,
    )
    long_run: Beyond = choice(
        "A pump that runs longer than its limit", Beyond,
        {
            "warns": "Is told of and runs on (default: people need the water, and somebody looks for the leak)",
            "stops": "Is given up until a person resets it, and the next takes over (for irrigation and filling: an outlet left open empties the source)",
        }, default=Beyond.WARNS,
    )  # fmt: skip
    many_starts: Beyond = choice(
        "A pump that starts more often than its limit", Beyond,
        {
            "warns": "Is told of and starts on (default: water before wear, and somebody looks at the tank's gas)",
            "stops": "Is locked out until a person resets it, and the next takes over (it saves motor and contactor; with the last of them the water goes)",
        }, default=Beyond.WARNS,
    )  # fmt: skip
    tuning: Tuning = choice(
        "Gains are reckoned by",
        Tuning,
        {
            "simc": "SIMC (default: firm and robust, one knob)",
            "lambda": "Lambda (slower and smoother; where water hammer is feared)",
            "amigo": "AMIGO (robust by design, needs a clear dead time)",
        },
        default=Tuning.SIMC,
        only_if=_CONSTANT,
    )
    process: ProcessBy = choice(
        "The process of the loop is known by",
        ProcessBy,
        {
            "measured": "The last step test, where there is one (default: it is this set)",
            "reckoned": "Pump curve, tank and pipes",
        },
        default=ProcessBy.MEASURED,
        only_if=_CONSTANT,
    )
    tank: TankSchool = choice(
        "The tank is sized by",
        TankSchool,
        {
            "starts": "Starts per hour (default: it is what wears the motor)",
            "least_run": "A least run at full rate, however seldom it starts",
        },
        default=TankSchool.STARTS,
    )
    sensor_failure: OnFailure = choice(
        "When the pressure sensor fails",
        OnFailure,
        {
            "stop_all": "All pumps stop (default: nobody sees the pressure)",
            "run_duty": "One pump runs on at the fill speed, where water must not fail (relief valve needed)",
        },
        default=OnFailure.STOP_ALL,
    )
    outside_lost: OutsideLost = choice(
        "When nobody outside is heard any more",
        OutsideLost,
        {
            "local": "Its own set pressure comes back (default: it was proved here)",
            "hold": "The last value asked for is held (no step in the pressure; it may stand for days)",
        },
        default=OutsideLost.LOCAL,
        only_if=(*_CONSTANT, ("control.outside", ("signal", "link"))),
    )
    suction_reset: Reset = choice(
        "After lack of water",
        Reset,
        {
            "automatic": "It comes back by itself when the water is back (default: water comes and goes)",
            "tries": "By itself after a wait, a few times, then a person (for a source that is sucked down as soon as pumps start)",
            "long_wait": "By itself a few times, then a long wait and anew (for places where nobody comes for days)",
            "by_hand": "Somebody must reset it (where a start that nobody expects can hurt; until then nobody has water)",
        },
        default=Reset.AUTOMATIC,
    )
    prime_by: PrimeBy = choice(
        "A pump that lost its water is told by",
        PrimeBy,
        {
            "power": "Its power (default: each pump by itself, in HAND too)",
            "flow": "The flow switch, while the pressure is short (one for all: it cannot tell which pump; never in HAND)",
            "pressure": "A pressure that stays away though all run flat out (needs no part; a burst looks the same; never in HAND)",
        },
        default=PrimeBy.POWER,
    )
    lost_prime: After = choice(
        "After a pump without water was given up",
        After,
        {
            "by_hand": "A person resets it (default: it is vented and primed before it runs again)",
            "tries": "It tries by itself, a few times, then a person (where pumps prime themselves; each try runs the seal dry, it starts without warning)",
            "long_wait": "It tries a few times, then a long wait and anew (for places where nobody comes for days; it starts without warning)",
        },
        default=After.BY_HAND,
    )


class Rules(Facts):
    """Numbers of the rules of thumb. Defaults are ours; local codes and the makers come first."""

    regulation_pa: float = fact("Regulation error to allow for", Q.PRESSURE, 0.0, 3e5, usual=(5e3, 5e4), default=10e3)
    column_margin_pa: float = fact("Margin above the standing column", Q.PRESSURE, 0.0, 3e5, default=20e3)
    rating_share: float = fact("Share of a rating that may be used", Q.PERCENT, 0.3, 1.0, default=0.9)
    overshoot_pa: float = fact("Overshoot to allow for", Q.PRESSURE, 0.0, 1e6, usual=(2e4, 2e5), default=50e3)
    hysteresis_pa: float = fact("Least step between stop and reset", Q.PRESSURE, 1e3, 5e5, default=20e3)
    npsh_margin_m: float = fact("NPSH margin", Q.HEAD, 0.0, 10.0, default=0.5)
    speed_margin_share: float = fact("Least step between two speeds", Q.PERCENT, 0.001, 0.2, default=0.01)
    staging_share: float = fact("Flow to spare after dropping a pump", Q.PERCENT, 0.0, 0.5, default=0.10)
    main_floor_pa: float = fact(
        "Pressure to leave in a town main", Q.PRESSURE, 0.0, 1e6, usual=(1e5, 2.5e5), default=140e3,
        only_if=(("supply.kind", ("town_main",)),),
        hint="where its supplier names none: about the usual least in a public main; local rules count",
    )  # fmt: skip
    periods: float = fact(
        "A ramp lasts at least, in pipe periods", Q.RATIO, 1.0, 50.0, usual=(3.0, 10.0), default=5.0,
        hint="a period: 2 L/a, to the far end and back",
    )  # fmt: skip
    least_run_s: float = fact("Least run at full rate", Q.TIME, 5.0, 600.0, default=60.0)
    night_residual_pa: float = fact(
        "Pressure wanted at night at the worst outlet", Q.PRESSURE, 0.0, 2e6, default=100e3, only_if=_NIGHT
    )
    night_from_h: int = fact("Night begins at, hour of the day", Q.COUNT, 0, 23, default=22, only_if=_NIGHT)
    night_to_h: int = fact("Night ends at, hour of the day", Q.COUNT, 0, 23, default=6, only_if=_NIGHT)
    emergency_residual_pa: float = fact(
        "Pressure wanted on the generator at the worst outlet", Q.PRESSURE, 0.0, 2e6, default=80e3,
        only_if=(("motor.generator", ("yes",)),),
    )  # fmt: skip
    scaling_error_share: float = fact(
        "Largest error of the pressure reading",
        Q.PERCENT,
        0.0005,
        0.2,
        usual=(0.002, 0.03),
        default=0.01,
        hint="of the range",
    )
    pause_s: float = fact(
        "Pause of the users to sit out awake", Q.TIME, 1.0, 600.0, default=8.0, hint="between two taps of one wash"
    )
    hot_s: float = fact(
        "A pump may run against closed outlets for", Q.TIME, 5.0, 3600.0, default=120.0,
        hint="until its water is hot; ask the maker",
    )  # fmt: skip
    dry_s: float = fact(
        "A pump may run dry for", Q.TIME, 1.0, 600.0, default=20.0, hint="until its seal suffers; ask the maker"
    )
    prime_s: float = fact("Longest honest start to full pressure", Q.TIME, 0.5, 300.0, default=6.0)
    surge_s: float = fact("Longest honest dip of the suction", Q.TIME, 0.1, 60.0, default=1.5)
    fill_velocity_ms: float = fact("Velocity while empty pipes fill", Q.VELOCITY, 0.05, 2.0, default=0.5)
    wait_s: float = fact("Users may be short of pressure for", Q.TIME, 1.0, 300.0, default=15.0)
    settle_s: float = fact(
        "The pressure settles within", Q.TIME, 1.0, 300.0, usual=(5.0, 90.0), default=30.0, hint="after a tap is opened"
    )
    sensitivity: float = fact(
        "Largest sensitivity Ms of the loop", Q.RATIO, 1.2, 2.5, default=1.7, hint="1.4 calm, 2.0 lively"
    )
    wobble_share: float = fact(
        "Wobble of the speed to put up with",
        Q.PERCENT,
        0.002,
        0.2,
        default=0.01,
        hint="from the noise of the reading; more than a step between speeds and staging never settles",
    )
    longest_run_s: float = fact("Longest honest run without a stop", Q.DURATION, 600.0, 7 * 86400.0, default=43200.0)
    clock_period_s: float = fact(
        "Turn passes by the clock after", Q.DURATION, 3600.0, 30 * 86400.0, default=86400.0,
        only_if=(("schools.alternation", ("clock",)),),
    )  # fmt: skip


class Keypad(Facts):
    """Which controller is typed into, and the unit its display shows pressures in."""

    profile: str = words("Controller family", max_length=40)
    pressure_display: Display = choice(
        "Its display shows pressures in",
        Display,
        {"bar": "bar", "kPa": "kPa", "psi": "psi", "mWC": "metres of water", "%": "per cent of the sensor's range"},
        default=Display.BAR,
    )

    @property
    def display(self) -> Display:
        """The unit of its display."""
        return self.pressure_display


class BoosterChoices(Choices):
    """All decisions. chosen holds, in SI, only the settings a person has set; the rest stay recommended."""

    schools: Schools = section("Schools", default=Schools())
    rules: Rules = section("Rules", default=Rules())
    protection: ProtectionChoices = section("Motors and their supply", default=ProtectionChoices())
    schedule: Schedule = section("Weekly schedule", default=Schedule())
    keypad: Keypad = section("Controller", default=Keypad())
    step_pa: float = Field(default=1e3, gt=0.0)  # one step of the controller's display

    def stepped(self, step: float | None) -> Self:
        """The same with the controller's step, if it is known."""
        return self if step is None else self.model_copy(update={"step_pa": step})
