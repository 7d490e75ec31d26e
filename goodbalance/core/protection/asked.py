"""What a survey asks about the protection of motors, and what is decided: schools and rules."""

from enum import StrEnum

from goodbalance.core.balance.facts import Facts, choice, fact, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.protection.names import (
    After,
    CasingBy,
    Follows,
    LeakageBy,
    MonitorBy,
    Restart,
    UnderloadBy,
    WindingBy,
)

_WATCHED = (("protection.underload_by", (UnderloadBy.CURRENT, UnderloadBy.POWER)),)


_BULB = (("protection.casing_by", ("thermostat",)),)
_FITTED = (("control.phase_monitor", ("yes",)),)
_LEAKAGE = (("protection.leakage_by", (LeakageBy.ALTERNATING, LeakageBy.PULSED, LeakageBy.SMOOTH)),)
_VOLTAGES = (*_FITTED, ("protection.monitor", (MonitorBy.VOLTAGES,)))


class OverloadSchool(StrEnum):
    """From what the overload is set."""

    MEASURED = "measured"
    PLATE = "plate"


class ProtectionFacts(Facts):
    """How motors start, what they stand, and what watches their load."""

    start_s: float = fact("Time of a start at the lowest voltage", Q.TIME, 0.05, 60.0, usual=(0.2, 15.0), default=1.0, doubt=0.5, hint="straight on line a submerged pump needs a second, a fan-cooled one a few")
    stall_s: float = fact("How long the rotor may stand under voltage (maker)", Q.TIME, 1.0, 120.0, usual=(5.0, 30.0), default=12.0, doubt=0.25, hint="often called safe stall time")
    low_voltage: float = fact("Lowest supply voltage, of the plate's", Q.PERCENT, 0.5, 1.0, usual=(0.8, 1.0), default=0.9)
    winding_by: WindingBy = choice(
        "What watches the heat of the winding itself", WindingBy,
        {"nothing": "Nothing, or it is not wired", "contact": "Thermal contacts or thermistors in it, wired into its starter or drive"}, default=WindingBy.NOTHING,
    )  # fmt: skip
    casing_by: CasingBy = choice(
        "What watches the water in the casing", CasingBy, {"nothing": "Nothing", "thermostat": "A thermostat on each casing (a pump that turns against closed valves boils it)"},
        default=CasingBy.NOTHING,
    )  # fmt: skip
    casing_m3: float = fact("Water in the casing of a pump", Q.VOLUME, 1e-4, 2.0, usual=(5e-4, 0.05), default=2e-3, only_if=_BULB)
    casing_most_c: float = fact("Hottest water its seal and gaskets stand (maker)", Q.TEMPERATURE, 40.0, 160.0, usual=(60.0, 120.0), default=90.0, only_if=_BULB)
    leakage_by: LeakageBy = choice(
        "Earth leakage protection ahead of the motors", LeakageBy,
        {
            "nothing": "None, or nobody knows", "alternating": "Fitted for alternating current (type AC)",
            "pulsed": "Fitted, pulsed direct too (type A, F)", "smooth": "Fitted, smooth direct too (type B)",
        }, default=LeakageBy.NOTHING, hint="as its label says; whether one must be there is for the local code",
    )  # fmt: skip
    leakage_a: float = fact("It trips at a leakage of", Q.CURRENT, 0.005, 30.0, usual=(0.03, 0.5), default=0.3, only_if=_LEAKAGE)
    largest_start_va: float | None = fact("Largest start that a generator takes at once", Q.APPARENT_POWER, 100.0, 1e7, default=None, hint="its sheet says it, as kVA of motor starting; empty on the mains")
    underload_by: UnderloadBy = choice(
        "What watches that a running pump moves water", UnderloadBy,
        {"nothing": "Nothing by its motor", "current": "A load monitor by current", "power": "A load monitor by power (kW)"}, default=UnderloadBy.NOTHING,
    )  # fmt: skip
    follows: Follows = choice(
        "With a drive, its limit", Follows,
        {"fixed": "Stays as it is at any speed", "from_speed": "Counts from a speed on", "cube": "Falls with the cube of the speed (by power)"},
        default=Follows.FIXED, only_if=_WATCHED, hint="load falls with speed: one limit at any speed trips falsely, or sees nothing",
    )  # fmt: skip
    closed_trips: bool = yes_no("It must also stop a pump against a closed valve", default=True, only_if=_WATCHED)
    prime_s: float = fact("Time until a started pump moves water", Q.TIME, 0.0, 600.0, usual=(0.5, 60.0), default=5.0, only_if=_WATCHED)
    refill_s: float = fact("Time in which water comes back", Q.DURATION, 0.0, 86400.0, usual=(60.0, 7200.0), default=600.0, hint="until a sucked-down source gives again: so long is waited at least before a try")
    patience_s: float = fact("How long users, or the well, can wait", Q.DURATION, 60.0, 172800.0, usual=(600.0, 28800.0), default=7200.0)
    dry_s: float = fact("How long its seal stands without water (maker)", Q.TIME, 1.0, 3600.0, usual=(10.0, 300.0), default=30.0, only_if=_WATCHED)
    monitor: MonitorBy = choice(
        "What the phase monitor watches", MonitorBy,
        {"phases": "Phases and their order", "voltages": "Phases, order, voltages, unbalance (it has dials)"},
        default=MonitorBy.PHASES, only_if=_FITTED,
    )  # fmt: skip
    high_voltage: float = fact("Highest supply voltage, of the plate's", Q.PERCENT, 1.0, 1.3, usual=(1.0, 1.1), default=1.05, only_if=_VOLTAGES, hint="at night, with nobody drawing")
    uneven: float = fact("Usual unbalance of the supply", Q.PERCENT, 0.0, 0.05, usual=(0.0, 0.02), default=0.01, only_if=_VOLTAGES, hint="largest deviation from the mean over the mean")
    settles_s: float = fact("Time until a supply that came back has settled", Q.TIME, 0.5, 600.0, usual=(1.0, 60.0), default=5.0, hint="a generator that takes over runs up first")

    @property
    def watches_leakage(self) -> bool:
        """Whether an earth leakage protection is known to be fitted."""
        return self.leakage_by is not LeakageBy.NOTHING


class ProtectionChoices(Facts):
    """Schools and rules of motor protection; local code and maker come first."""

    overload: OverloadSchool = choice(
        "Overload set by", OverloadSchool,
        {
            "measured": "Highest current read in honest work plus a margin, never over what the code allows (default: it sees a rag or a worn bearing early)",
            "plate": "Nameplate times the factor of the code (needs no readings; sees trouble late in a motor that is lightly loaded)",
        },
        default=OverloadSchool.MEASURED,
    )  # fmt: skip
    after: After = choice(
        "After the load monitor has stopped a pump", After,
        {
            "by_hand": "A person resets it (default: a pump that ran dry is looked at before it runs again)",
            "tries": "It tries by itself, a few times, then a person (for a source that is sucked down and fills again; it starts without warning)",
            "long_wait": "It tries a few times, then a long wait and anew (for places where nobody comes for days; it starts without warning)",
        },
        default=After.BY_HAND,
    )  # fmt: skip
    power_return: Restart = choice(
        "When the supply comes back", Restart,
        {
            "by_itself": "Pumps start again by themselves (default: water goes on; they start without warning, whoever stands beside them)",
            "by_hand": "They wait until a person resets (where a start that nobody expects can hurt; until somebody comes nobody pumps)",
        },
        default=Restart.BY_ITSELF,
    )  # fmt: skip
    factor: float = fact("Code: trip current over nameplate, service factor under 1.15", Q.RATIO, 1.0, 1.4, default=1.15, hint="local code first")
    service_factor: float = fact("Code: the same, service factor 1.15 and more", Q.RATIO, 1.0, 1.4, default=1.25, hint="local code first")
    least_margin: float = fact("Overload at least over honest current by", Q.PERCENT, 0.0, 0.3, default=0.05)
    most_margin: float = fact("Overload at most over the highest current read by", Q.PERCENT, 0.1, 1.0, default=0.30)
    start_margin: float = fact("Overload lasts through a start, times its time", Q.RATIO, 1.0, 5.0, default=1.5)
    underload_margin: float = fact("Under-load apart from honest and from dry work by", Q.PERCENT, 0.0, 0.3, default=0.05)
    least_voltage: float = fact("Under-voltage trips at least at, of the plate's", Q.PERCENT, 0.7, 1.0, default=0.85, hint="maker first; the overload guards a little below the plate's tenth")
    most_voltage: float = fact("Over-voltage trips at most at, of the plate's", Q.PERCENT, 1.0, 1.3, default=1.10, hint="maker first; nothing else guards iron and insulation from it")
    voltage_margin: float = fact("Supply trips apart from the honest supply by", Q.PERCENT, 0.0, 0.05, default=0.01)
    most_uneven: float = fact("Unbalance of voltages trips at most at", Q.PERCENT, 0.01, 0.10, default=0.05, hint="maker first; beyond 5 % no motor may run")
