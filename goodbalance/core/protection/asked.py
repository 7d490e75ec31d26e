"""What a survey asks about the protection of motors, and what is decided: schools and rules."""

from enum import StrEnum

from goodbalance.core.balance.facts import Facts, choice, fact, yes_no
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.protection.names import After, UnderloadBy

_WATCHED = (("protection.underload_by", (UnderloadBy.CURRENT, UnderloadBy.POWER)),)


class OverloadSchool(StrEnum):
    """From what the overload is set."""

    MEASURED = "measured"
    PLATE = "plate"


class ProtectionFacts(Facts):
    """How motors start, what they stand, and what watches their load."""

    start_s: float = fact("Time of a start at the lowest voltage", Q.TIME, 0.05, 60.0, usual=(0.2, 15.0), default=1.0, hint="straight on line a submerged pump needs a second, a fan-cooled one a few")
    stall_s: float = fact("How long the rotor may stand under voltage (maker)", Q.TIME, 1.0, 120.0, usual=(5.0, 30.0), default=12.0, hint="often called safe stall time")
    low_voltage: float = fact("Lowest supply voltage, of the plate's", Q.PERCENT, 0.5, 1.0, usual=(0.8, 1.0), default=0.9)
    underload_by: UnderloadBy = choice(
        "What watches that a running pump moves water", UnderloadBy,
        {"nothing": "Nothing by its motor", "current": "A load monitor by current", "power": "A load monitor by power (kW)"}, default=UnderloadBy.NOTHING,
    )  # fmt: skip
    closed_trips: bool = yes_no("It must also stop a pump against a closed valve", default=True, only_if=_WATCHED)
    prime_s: float = fact("Time until a started pump moves water", Q.TIME, 0.0, 600.0, usual=(0.5, 60.0), default=5.0, only_if=_WATCHED)
    refill_s: float = fact("Time in which water comes back", Q.DURATION, 0.0, 86400.0, usual=(60.0, 7200.0), default=600.0, only_if=_WATCHED, hint="until a sucked-down source gives again")
    patience_s: float = fact("How long users, or the well, can wait", Q.DURATION, 60.0, 172800.0, usual=(600.0, 28800.0), default=7200.0, only_if=_WATCHED)
    dry_s: float = fact("How long its seal stands without water (maker)", Q.TIME, 1.0, 3600.0, usual=(10.0, 300.0), default=30.0, only_if=_WATCHED)


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
            "tries": "It tries again by itself, a few times (for a source that is sucked down and fills again; it starts without warning)",
        },
        default=After.BY_HAND,
    )  # fmt: skip
    factor: float = fact("Code: trip current over nameplate, service factor under 1.15", Q.RATIO, 1.0, 1.4, default=1.15, hint="local code first")
    service_factor: float = fact("Code: the same, service factor 1.15 and more", Q.RATIO, 1.0, 1.4, default=1.25, hint="local code first")
    least_margin: float = fact("Overload at least over honest current by", Q.PERCENT, 0.0, 0.3, default=0.05)
    most_margin: float = fact("Overload at most over the highest current read by", Q.PERCENT, 0.1, 1.0, default=0.30)
    start_margin: float = fact("Overload lasts through a start, times its time", Q.RATIO, 1.0, 5.0, default=1.5)
    underload_margin: float = fact("Under-load apart from honest and from dry work by", Q.PERCENT, 0.0, 0.3, default=0.05)
