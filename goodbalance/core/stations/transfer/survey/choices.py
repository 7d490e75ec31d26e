"""What the person decides for a transfer set: settings, schools of practice, and the numbers of the rules."""

from enum import StrEnum
from typing import Self

from pydantic import Field

from goodbalance.core.balance.facts import Facts, choice, fact, section, words
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.control.rotation import Alternation
from goodbalance.core.protection.asked import ProtectionChoices
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.shared.choices import Choices
from goodbalance.core.stations.transfer.survey.control import BY_PRESSURE


class DelayFrom(StrEnum):
    """From when on the restart delay counts."""

    DROP = "drop"
    STOP = "stop"


class RestartBy(StrEnum):
    """What lets a pump that filled start again."""

    PRESSURE_AND_TIME = "pressure_and_time"
    TIME_ALONE = "time_alone"


class AfterCut(StrEnum):
    """What a power cut does to a restart delay that counts."""

    ANEW = "anew"
    KEPT = "kept"
    SKIPPED = "skipped"


class Reset(StrEnum):
    """What lets pumps run again once the source has water."""

    AUTOMATIC = "automatic"
    BY_HAND = "by_hand"


class OutageDraw(StrEnum):
    """Which draw the reserve of an outage is reckoned with."""

    MEAN = "mean"
    PEAK = "peak"


class AlarmReset(StrEnum):
    """Whether an alarm clears by itself."""

    AUTOMATIC = "automatic"
    BY_HAND = "by_hand"


_SEVERAL = (("pumping.count", ("2", "3")),)


class Schools(Facts):
    """Where practitioners and devices differ. The first answer is the default; the label says why."""

    restart_by: RestartBy = choice(
        "A filled line starts again by", RestartBy,
        {
            "pressure_and_time": "Pressure and then the delay (default: it starts for a tank that wants water)",
            "time_alone": "The delay alone (each time it looks whether the line takes water: works where no restart pressure can, costs a start each time)",
        },
        default=RestartBy.PRESSURE_AND_TIME, only_if=BY_PRESSURE,
    )  # fmt: skip
    delay_from: DelayFrom = choice(
        "The restart delay counts from", DelayFrom,
        {
            "drop": "The fall of the pressure (default: every valve gets its time to open; the tank falls a little further)",
            "stop": "The stop of the pump (after a long rest it starts at once: it hunts on a valve that dribbles)",
        },
        default=DelayFrom.DROP, only_if=BY_PRESSURE,
    )  # fmt: skip
    after_cut: AfterCut = choice(
        "After a power cut the delay", AfterCut,
        {
            "anew": "Begins anew (default: nothing starts at the moment the lights come on)",
            "kept": "Goes on from where it stood",
            "skipped": "Is skipped: the pump starts at once where the pressure is low",
        },
        default=AfterCut.ANEW, only_if=BY_PRESSURE,
    )  # fmt: skip
    outage_draw: OutageDraw = choice(
        "While the refill is out users draw", OutageDraw,
        {"mean": "Their mean (default: an outage lasts through peaks and nights)", "peak": "The most they ever draw (short outages; a hospital, a kitchen)"},
        default=OutageDraw.MEAN,
    )  # fmt: skip
    source_reset: Reset = choice(
        "When the source has water again", Reset,
        {"automatic": "Pumps go on by themselves (default: tanks do not run empty for want of a person)", "by_hand": "A person resets (where a dry run must be looked at first)"},
        default=Reset.AUTOMATIC,
    )  # fmt: skip
    alternation: Alternation = choice(
        "Who leads next", Alternation,
        {
            "all_stopped": "The next, when all have stopped (default: evens wear, finds a dead pump soon)", "fixed": "Always pump 1",
            "run_hours": "The pump that has run least", "clock": "The next pump after a set time, when all have stopped",
        },
        default=Alternation.ALL_STOPPED, only_if=_SEVERAL,
    )  # fmt: skip
    alarm_reset: AlarmReset = choice(
        "Alarms clear", AlarmReset,
        {"automatic": "By themselves when the cause has gone (default: a passing alarm needs nobody; a lock-out always waits for a reset)", "by_hand": "Only when somebody resets them"},
        default=AlarmReset.AUTOMATIC,
    )  # fmt: skip


class Rules(Facts):
    """Numbers of the rules of thumb. Defaults are ours; local codes and the makers come first."""

    margin_pa: float = fact("Stop apart from running and shut-off pressure by", Q.PRESSURE, 1e3, 5e5, usual=(5e3, 5e4), default=1e4, hint="beside wobble and error of the reading")
    worn_share: float = fact("A pump may lose of its head while it wears", Q.PERCENT, 0.0, 0.3, default=0.03, hint="then it must still reach the stop pressure")
    rating_share: float = fact("Pressure may reach of a rating", Q.PERCENT, 0.5, 1.0, default=1.0)
    separation_m: float = fact("Least step between levels", Q.LEVEL, 0.01, 2.0, usual=(0.05, 0.5), default=0.10)
    source_band_m: float = fact("The source gives back above its stop by", Q.LEVEL, 0.02, 20.0, usual=(0.1, 3.0), default=0.30)
    turnover_s: float = fact("Drinking water may stay in a tank for", Q.DURATION, 3600.0, 14 * 86400.0, usual=(86400.0, 3 * 86400.0), default=36 * 3600.0, hint="the whole of it over the mean draw; local rule first, 24 to 48 h are common")
    shortest_run_s: float = fact("Shortest run worth a start", Q.TIME, 1.0, 3600.0, usual=(10.0, 300.0), default=30.0)
    settle_s: float = fact("Time for the line to come to rest", Q.TIME, 1.0, 600.0, usual=(2.0, 60.0), default=10.0)
    wave_s: float = fact("Longest wave, bounce of a contact, or lightning on a wire", Q.TIME, 0.1, 120.0, usual=(0.5, 10.0), default=2.0)
    filled_s: float = fact("Time until a started pump has pressed the air out of the line", Q.TIME, 1.0, 1800.0, usual=(5.0, 300.0), default=20.0)
    run_share: float = fact("Longest run at least over the longest honest fill by", Q.PERCENT, 0.0, 2.0, default=0.20)
    fill_share: float = fact("A drive fills a tank with, of its largest draw", Q.PERCENT, 0.2, 20.0, usual=(1.0, 3.0), default=1.5, hint="for the comparison with a constant pressure: over 100 %, so that levels rise while most is drawn")
    drive_share: float = fact("A drive passes on, of what it takes", Q.PERCENT, 0.5, 1.0, usual=(0.9, 0.98), default=0.96, hint="its losses, filters and long cables")
    dry_s: float = fact("A pump may draw air for", Q.TIME, 1.0, 600.0, usual=(5.0, 60.0), default=20.0, hint="ask the maker")
    scaling_error_share: float = fact("Largest error of the pressure reading", Q.PERCENT, 0.0005, 0.2, usual=(0.002, 0.03), default=0.01, hint="of the range")
    clock_period_s: float = fact(
        "Turn passes by the clock after", Q.DURATION, 3600.0, 30 * 86400.0, usual=(8 * 3600.0, 7 * 86400.0), default=86400.0,
        only_if=(("schools.alternation", ("clock",)),),
    )  # fmt: skip


class Keypad(Facts):
    """Which controller is typed into, and the unit its display shows pressures in."""

    profile: str = words("Controller family", max_length=40)
    pressure_display: Display = choice(
        "Its display shows pressures in", Display, {"bar": "bar", "kPa": "kPa", "psi": "psi", "mWC": "metres of water", "%": "per cent of the sensor's range"},
        default=Display.BAR,
    )  # fmt: skip

    @property
    def display(self) -> Display:
        """The unit of its display."""
        return self.pressure_display


class TransferChoices(Choices):
    """All decisions. chosen holds, in SI, only the settings a person has set; the rest stay recommended."""

    schools: Schools = section("Schools", default=Schools())
    rules: Rules = section("Rules", default=Rules())
    protection: ProtectionChoices = section("Motors and their supply", default=ProtectionChoices())
    keypad: Keypad = section("Controller", default=Keypad())
    step_pa: float = Field(default=1e3, gt=0.0)  # one step of the controller's display

    def stepped(self, step: float | None) -> Self:
        """The same with the controller's step, if it is known."""
        return self if step is None else self.model_copy(update={"step_pa": step})
