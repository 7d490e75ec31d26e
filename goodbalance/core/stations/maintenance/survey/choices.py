"""What the person decides for a maintenance pump: settings, schools of practice, and the numbers of the rules."""

from enum import StrEnum
from typing import Self

from pydantic import Field

from goodbalance.core.balance.facts import Facts, choice, fact, section, words
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.protection.asked import ProtectionChoices
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.shared.choices import Choices


class RunOn(StrEnum):
    """Whether a started pump runs a least time."""

    TIMER = "timer"
    NONE = "none"


class AlarmReset(StrEnum):
    """Whether an alarm clears by itself."""

    AUTOMATIC = "automatic"
    BY_HAND = "by_hand"


class Schools(Facts):
    """Where practitioners and devices differ. The first answer is the default; the label says why."""

    run_on: RunOn = choice(
        "A started pump", RunOn,
        {
            "timer": "Runs a least time (default: a stiff line would start it many times an hour; the pressure climbs to its shut-off meanwhile)",
            "none": "Stops at the stop pressure (where a small vessel or air makes the line soft enough)",
        },
        default=RunOn.TIMER,
    )  # fmt: skip
    alarm_reset: AlarmReset = choice(
        "Alarms clear", AlarmReset,
        {"automatic": "By themselves when the cause has gone (default: the log keeps them)", "by_hand": "Only when somebody resets them"},
        default=AlarmReset.AUTOMATIC,
    )  # fmt: skip


class Rules(Facts):
    """Numbers of the rule in force and of rules of thumb. Defaults are ours; the authority's and the makers' come first."""

    over_churn_pa: float = fact("Stop over the main pump's churn with the lowest supply by", Q.PRESSURE, 0.0, 3e5, usual=(0.0, 1e5), default=0.0)
    differential_pa: float = fact("Start under the stop by at least (the rule in force)", Q.PRESSURE, 1e4, 5e5, usual=(3e4, 2e5), default=7e4)
    separation_pa: float = fact("First main pump's start under that by at least (the rule in force)", Q.PRESSURE, 5e3, 5e5, usual=(2e4, 2e5), default=3.5e4)
    schedule_pa: float = fact("Each further main pump under the one before by at least", Q.PRESSURE, 5e3, 5e5, usual=(2e4, 2e5), default=7e4)
    least_run_s: float = fact("Least run (the rule in force)", Q.TIME, 0.0, 1800.0, usual=(15.0, 300.0), default=60.0)
    makes_good_s: float = fact("An hour's permitted leak is made good within", Q.DURATION, 60.0, 7200.0, usual=(300.0, 1200.0), default=600.0)
    margin_pa: float = fact("Apart from shut-off pressure by", Q.PRESSURE, 1e3, 5e5, usual=(5e3, 5e4), default=1e4, hint="beside wobble and error of the reading")
    worn_share: float = fact("The pump may lose of its head while it wears", Q.PERCENT, 0.0, 0.3, default=0.03)
    rating_share: float = fact("Pressure may reach of a rating", Q.PERCENT, 0.5, 1.0, default=1.0)
    swing_s: float = fact("Longest swing of the line's pressure", Q.TIME, 0.05, 60.0, usual=(0.2, 5.0), default=0.5)
    longest_delay_s: float = fact("Start delay at most", Q.TIME, 0.5, 300.0, usual=(2.0, 30.0), default=10.0, hint="a sprinkler that opens is helped by the main pump, not waited for")
    told_s: float = fact("Long run is told after at least", Q.TIME, 5.0, 3600.0, usual=(30.0, 300.0), default=60.0)
    run_share: float = fact("Long-run alarm over the longest honest run by", Q.PERCENT, 0.0, 4.0, default=0.5)
    scaling_error_share: float = fact("Largest error of the pressure reading", Q.PERCENT, 0.0005, 0.2, usual=(0.002, 0.03), default=0.01, hint="of the range")


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


class MaintenanceChoices(Choices):
    """All decisions. chosen holds, in SI, only the settings a person has set; the rest stay recommended."""

    schools: Schools = section("Schools", default=Schools())
    rules: Rules = section("Rules", default=Rules())
    protection: ProtectionChoices = section("Motors and their supply", default=ProtectionChoices())
    keypad: Keypad = section("Controller", default=Keypad())
    step_pa: float = Field(default=1e3, gt=0.0)  # one step of the controller's display

    def stepped(self, step: float | None) -> Self:
        """The same with the controller's step, if it is known."""
        return self if step is None else self.model_copy(update={"step_pa": step})
