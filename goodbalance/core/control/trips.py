"""Why a pump is passed over until its switch is turned to OFF, and what follows where it runs too long or starts too often."""

from enum import StrEnum


class Trip(StrEnum):
    """The cause of a trip; the value is how a person calls it."""

    NO_FEEDBACK = "no feedback"
    OVERLOAD = "overload"
    SEAL_LEAK = "seal leak"
    NO_PRIME = "no prime"
    DRIVE = "drive tripped"
    UNDERLOAD = "under-load"
    HOT = "winding hot"
    CASING = "casing hot"
    TOO_LONG = "ran too long"
    TOO_OFTEN = "started too often"


class Beyond(StrEnum):
    """What follows when a pump runs longer, or starts more often, than its limit."""

    WARNS = "warns"
    STOPS = "stops"
