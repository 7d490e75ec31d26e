"""A unit that calls somebody far away: which contacts tell it, what a broken wire does, and that it is proved to the far end."""

from enum import StrEnum

from goodbalance.core.balance.facts import Facts, choice, words, yes_no
from goodbalance.core.balance.plan import Finding, Severity
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.sheets.wiring import Joint, Look
from goodbalance.core.stations.shared.joints import DRY_CONTACT

FAR = "far_end"  # the name of these proofs in every kind
_FITTED = (("telemetry.fitted", ("yes",)),)
TESTING = "Whoever answers knows that you are testing, and until when."


class FarAlarm(StrEnum):
    """At what its unit takes a contact for an alarm."""

    OPENS = "opens"
    CLOSES = "closes"


class Points(StrEnum):
    """How many contacts lead to it."""

    COMMON = "common"
    APART = "apart"


class Telemetry(Facts):
    """What calls somebody who is not there."""

    fitted: bool = yes_no("A telemetry unit calls somebody", default=False)
    points: Points = choice(
        "It is told by",
        Points,
        {"common": "One contact for every alarm", "apart": "The gravest alarm by a contact of its own, the rest by another (default: who is called knows how fast)"},
        default=Points.APART,
        only_if=_FITTED,
    )
    alarms_when: FarAlarm = choice(
        "It takes for an alarm that a contact",
        FarAlarm,
        {"opens": "opens (default: a cut wire and a dead controller call too)", "closes": "closes (a cut wire is silent)"},
        default=FarAlarm.OPENS,
        only_if=_FITTED,
    )
    answered_by: str = words("Who is called, and by what number", max_length=200)

    @property
    def names(self) -> tuple[str, ...]:
        """Its contacts: grave is the one of its own."""
        if not self.fitted:
            return ()
        return ("grave", "other") if self.points is Points.APART else ("common",)


def joints(telemetry: Telemetry, grave: str, in_health: bool) -> tuple[Joint, ...]:
    """Its wires. grave: the gravest alarm in words; in_health: whether the alarm relays are energised while all is well."""
    opens = telemetry.alarms_when is FarAlarm.OPENS
    used = "open at rest" if opens is in_health else "closed at rest"  # the twin that stands the right way while all is well
    found = []
    for name in telemetry.names:
        what = {"grave": grave, "other": "every other alarm", "common": "every alarm"}[name]
        rest = Look(f"Controller without power: {'open, as in an alarm' if opens is in_health else 'closed, as while all is well: a dead controller is silent here'}.")
        live = Look(f"{'Closed' if opens else 'Open'} while all is well: raise {what}, and it {'opens' if opens else 'closes'}; the unit shows it, and the person who is called says so.")
        broken = "It calls, as in an alarm: safe." if opens else "Nobody is ever called: the unit waits for a contact that cannot close."
        found.append(
            Joint(
                f"telemetry.{name}", f"Telemetry: {what}", f"the unit's input; {telemetry.answered_by or 'who is called is not noted'}", ("common", used),
                (DRY_CONTACT, rest), (live,), broken,
            )
        )  # fmt: skip
    return tuple(found)


def proofs(telemetry: Telemetry, check: StrEnum, grave: str, raises: str) -> list[Proof]:
    """Each contact to the far end, and its wire. raises: how the gravest alarm is raised."""
    found = []
    for name in telemetry.names:
        what = {"grave": grave, "other": "another alarm", "common": grave}[name]
        action = raises if name != "other" else "Raise any other alarm: take a feedback or an input off, or use the controller's own test."
        found.append(
            Proof(
                check, f"{what[0].upper()}{what[1:]} reaches the person who is called", "To the far end", "The person who is called is at the telephone.", (TESTING,),
                f"{action} Note the time until the call.", "The right person is called, with the right words; it clears there too.", Answer.YES_NO, of=name,
            )
        )  # fmt: skip
    if telemetry.names:
        opens = telemetry.alarms_when is FarAlarm.OPENS
        seen = "A call comes." if opens else "No call comes: write it down as an open point, or let the unit alarm when the contact opens."
        found.append(
            Proof(
                check, "A cut wire to the telemetry unit", "To the far end", "The person who is called is at the telephone.", (TESTING,),
                "Take one wire of its contact off; put it back after.", seen, Answer.YES_NO, of="wire",
            )
        )  # fmt: skip
    return found


def findings(telemetry: Telemetry, in_health: bool) -> list[Finding]:
    """What of it nobody would notice."""
    if not telemetry.fitted:
        return []
    found = []
    if telemetry.alarms_when is FarAlarm.CLOSES:
        text = "The telemetry unit takes a closing contact for an alarm: a cut wire calls nobody. Let it alarm when the contact opens."
        found.append(Finding("far_wire_silent", Severity.CAUTION, "telemetry.alarms_when", text))
    if not in_health:
        text = "Without power the alarm relays stand as while all is well: nobody is called when the controller dies. Energise them in health, or give the unit a power alarm of its own."
        found.append(Finding("far_power_silent", Severity.CAUTION, "telemetry.fitted", text))
    if not telemetry.answered_by.strip():
        text = "Who is called is not noted: the proof to the far end needs a name."
        found.append(Finding("far_nobody", Severity.NOTE, "telemetry.answered_by", text))
    return found
