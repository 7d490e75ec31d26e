"""What the person decides for a ring: mode, hours, settings, and the numbers of the rules."""

from enum import StrEnum
from typing import Any, Self

from pydantic import Field

from goodbalance.core.balance.facts import Facts, choice, fact, section, words
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.sheets.profile import Display
from goodbalance.core.stations.circulator.names import Mode
from goodbalance.core.stations.circulator.survey.use import HOUR_S, days, hour
from goodbalance.core.stations.shared.choices import Choices
from goodbalance.core.stations.shared.week import Days, Period

MAX_OWN = 6


class Hours(StrEnum):
    """When it runs."""

    WANTED = "wanted"
    ALWAYS = "always"
    OWN = "own"


class Wins(StrEnum):
    """Which counts where clock and outside control differ."""

    BOTH = "both"
    EITHER = "either"
    OUTSIDE = "outside"


class Schools(Facts):
    """Where practitioners and devices differ. The first answer is the default; the label says why."""

    mode: Mode = choice(
        "The pump goes by", Mode,
        {
            "constant_pressure": "A constant pressure (default: balanced branches keep their flows, whichever tap is open)",
            "proportional_pressure": "A pressure that grows with the flow (where valves of radiators close one after the other)",
            "fixed_speed": "A fixed speed (where the pump knows nothing else, or the flow must not change)",
            "constant_flow": "A constant flow (one loop whose resistance changes, a heater that must stay lit)",
            "constant_return": "A constant return temperature (as little flow as the rule allows, by a sensor)",
            "learning": "It learns the hours by itself (nobody can say when; a week's habits are needed, and no rest is promised)",
        },
        default=Mode.PRESSURE,
    )  # fmt: skip
    hours: Hours = choice(
        "It runs", Hours,
        {
            "wanted": "In the hours it is wanted, begun earlier by its lead (default: heat and power are lost only then)",
            "always": "Always (where the rule allows no rest, or nobody can say when it is wanted)",
            "own": "In hours of your own (see Hours)",
        },
        default=Hours.WANTED,
    )  # fmt: skip
    wins: Wins = choice(
        "Where its clock and the outside control differ", Wins,
        {
            "both": "It runs where both ask (default: neither runs it when the other says rest)",
            "either": "It runs where either asks",
            "outside": "Only the outside control counts; its own clock is set to always",
        },
        default=Wins.BOTH,
    )  # fmt: skip


def _days(number: int) -> Any:
    return days("hours.count", MAX_OWN, number, "Time", Days.ALL)


def _from(number: int, default: float) -> Any:
    return hour("hours.count", MAX_OWN, number, f"Time {number} from, hour of the day", default)


def _to(number: int, default: float) -> Any:
    return hour("hours.count", MAX_OWN, number, f"Time {number} to, hour of the day", default)


class OwnHours(Facts):
    """A week's hours typed by hand, as the device gets them; without a lead."""

    count: int = fact("Times of the week", Q.COUNT, 0, MAX_OWN, default=0, hint="used where it runs in hours of your own (Schools); half past six is 6.5; to before from: over midnight")
    days_1: Days = _days(1)
    from_1_h: float = _from(1, 6.0)
    to_1_h: float = _to(1, 9.0)
    days_2: Days = _days(2)
    from_2_h: float = _from(2, 17.0)
    to_2_h: float = _to(2, 22.0)
    days_3: Days = _days(3)
    from_3_h: float = _from(3, 12.0)
    to_3_h: float = _to(3, 14.0)
    days_4: Days = _days(4)
    from_4_h: float = _from(4, 9.0)
    to_4_h: float = _to(4, 12.0)
    days_5: Days = _days(5)
    from_5_h: float = _from(5, 14.0)
    to_5_h: float = _to(5, 17.0)
    days_6: Days = _days(6)
    from_6_h: float = _from(6, 22.0)
    to_6_h: float = _to(6, 23.0)

    @property
    def periods(self) -> tuple[Period, ...]:
        """The times that are used, by the clock."""
        numbers = range(1, self.count + 1)
        return tuple(Period(getattr(self, f"days_{n}"), HOUR_S * getattr(self, f"from_{n}_h"), HOUR_S * getattr(self, f"to_{n}_h")) for n in numbers)


class Rules(Facts):
    """Numbers of the rules in force and of rules of thumb. Defaults are ours: the local code and the makers come first."""

    source: str = words("Rule in force on hygiene, as its people name it", max_length=80)
    least_return_c: float = fact("Coldest point of the ring, at least (the rule in force)", Q.TEMPERATURE, 20.0, 75.0, usual=(50.0, 60.0), default=52.0)
    margin_k: float = fact("Over that by, for what is not known", Q.RATIO, 0.0, 10.0, default=1.0, hint="kelvin")
    balance_share: float = fact("A branch may take over its need by", Q.PERCENT, 0.02, 5.0, usual=(0.1, 1.0), default=0.5, hint="balancing; more is taken from the farthest")
    longest_rest_s: float = fact("Longest rest in any 24 hours (the rule in force)", Q.HOURS, 0.0, 7 * 86400.0, usual=(0.0, 8 * 3600.0), default=8 * 3600.0)
    scald_c: float = fact("At taps at most, against scalding (the rule in force)", Q.TEMPERATURE, 35.0, 80.0, default=60.0)
    copper_hot_ms: float = fact("Velocity in copper at 60 degrees and over", Q.VELOCITY, 0.1, 3.0, usual=(0.4, 0.9), default=0.6, hint="running always: faster water wears it away; never over 0.9")
    copper_ms: float = fact("Velocity in copper, cooler", Q.VELOCITY, 0.1, 3.0, usual=(0.5, 1.2), default=0.9)
    steel_ms: float = fact("Velocity in steel or stainless steel", Q.VELOCITY, 0.1, 4.0, usual=(0.7, 2.0), default=1.2)
    plastic_ms: float = fact("Velocity in plastic", Q.VELOCITY, 0.1, 4.0, usual=(0.7, 2.0), default=1.5)
    cold_c: float = fact("Cold water at most", Q.TEMPERATURE, 10.0, 40.0, usual=(20.0, 30.0), default=25.0)
    cold_s: float = fact("A cold tap may run warm for at most", Q.TIME, 0.0, 300.0, usual=(5.0, 60.0), default=30.0)
    sensor_k: float = fact("Error of a temperature sensor", Q.RATIO, 0.0, 5.0, default=1.0, hint="kelvin")
    stat_k: float = fact("A thermostat's stop over its start by at least", Q.RATIO, 0.5, 20.0, default=2.0, hint="kelvin")
    longest_lead_s: float = fact("Lead at most", Q.DURATION, 60.0, 6 * 3600.0, default=3600.0)
    lead_share: float = fact("Lead over the time until the farthest is hot, by", Q.PERCENT, 0.0, 3.0, default=0.25)
    longest_button_s: float = fact("A push runs it for at most", Q.DURATION, 60.0, 3600.0, default=900.0)
    kick_after_s: float = fact("A pump that rests longer is turned for a moment", Q.HOURS, 3600.0, 30 * 86400.0, default=86400.0)
    seizes_s: float = fact("It may stand at most", Q.HOURS, 3600.0, 60 * 86400.0, default=7 * 86400.0, hint="then scale or rust may hold it")
    vent_run_s: float = fact("Venting: it runs for", Q.TIME, 5.0, 600.0, default=30.0)
    vent_rest_s: float = fact("Venting: it rests for", Q.TIME, 5.0, 600.0, default=60.0, hint="so that air rises to the vents")


class Keypad(Facts):
    """Which controller is typed into, and the unit its display shows pressures in."""

    profile: str = words("Controller family", max_length=40)
    pressure_display: Display = choice("Its display shows pressures in", Display, {"mWC": "metres of water", "kPa": "kPa", "bar": "bar", "psi": "psi"}, default=Display.METRES_OF_WATER)

    @property
    def display(self) -> Display:
        """The unit of its display."""
        return self.pressure_display


class CirculatorChoices(Choices):
    """All decisions. chosen holds, in SI, only the settings a person has set; the rest stay recommended."""

    schools: Schools = section("Schools", default=Schools())
    hours: OwnHours = section("Hours", default=OwnHours())
    rules: Rules = section("Rules", default=Rules())
    keypad: Keypad = section("Controller", default=Keypad())
    step_pa: float = Field(default=980.665, gt=0.0)  # one step of the controller's display: a tenth of a metre of water

    def stepped(self, step: float | None) -> Self:
        """The same with the controller's step, if it is known."""
        return self if step is None else self.model_copy(update={"step_pa": step})
