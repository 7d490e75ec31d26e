"""Every setting that protects the motors of a station, and what is odd about their readings."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from goodbalance.core.balance.plan import Figure, Finding, Setting, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.protection import again
from goodbalance.core.protection.asked import ProtectionChoices, ProtectionFacts
from goodbalance.core.protection.casing import casing_stop, until_stopped
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.names import (
    CasingBy,
    Guarding,
    LeakageBy,
    MonitorBy,
    UnderloadBy,
    Watching,
    motor_id,
)
from goodbalance.core.protection.overload import overload, overload_class
from goodbalance.core.protection.readings import At, remarks
from goodbalance.core.protection.supply import monitor_settings
from goodbalance.core.protection.thermal import RATED_TO_TRIP
from goodbalance.core.protection.underload import cannot_tell, tried_again, underload

DRIVE_SPARE = 1.02  # a drive's own image must be so far from honest work
FILTERS_LEAK_A = 0.03  # drives leak so much in health


@dataclass(frozen=True, slots=True)
class Protected:
    """What the protection of a station's motors brings to its plan."""

    settings: tuple[Setting, ...]
    figures: tuple[Figure, ...]
    findings: tuple[Finding, ...]


def protect(duties: tuple[MotorDuty, ...], facts: ProtectionFacts, choices: ProtectionChoices, chosen: Mapping[str, float], monitored: bool) -> Protected:
    """Overload and its class for motors on the line, under-load where something watches it, and the dials of a monitor of the supply.

    A drive has a thermal image of its own, from the nameplate that is typed there. monitored: whether a phase monitor is fitted.
    """
    settings: list[Setting] = []
    findings: list[Finding] = []
    figures: list[Figure] = []
    for duty in duties:
        if not duty.driven:
            trip = overload(duty, facts, choices, chosen)
            settings += [trip, overload_class(duty, facts, choices, trip.value, chosen)]
        if facts.underload_by is not UnderloadBy.NOTHING:
            settings += underload(duty, facts, choices, chosen)
            settings += again.settings(tried_again(duty), choices.after, facts, chosen)
        if facts.casing_by is CasingBy.THERMOSTAT:
            settings.append(casing := casing_stop(duty, facts, chosen))
            figures.append(until_stopped(duty, facts, casing.value))
        findings += [*_drive_trips(duty), *cannot_tell(duty, facts, choices)]
        for read in duty.readings:
            findings += remarks(duty.plate, read, duty.readings)
    if monitored and facts.monitor is MonitorBy.VOLTAGES:
        settings += monitor_settings(duties, facts, choices, {each.id: each.value for each in settings}, chosen)
    findings += _leaks(facts, sum(len(duty.pumps) for duty in duties if duty.driven))
    starts = () if facts.largest_start_va is None else (largest_start(duties, facts.largest_start_va),)
    return Protected(tuple(settings), (*(loading(duty) for duty in duties), *figures, *starts), tuple(findings))


def _drive_trips(duty: MotorDuty) -> Iterator[Finding]:
    """Where a drive, which has a thermal image of its own, cannot let the motor do its honest work."""
    takes_a, trips_a = duty.current_a(duty.highest), duty.plate.current_a * RATED_TO_TRIP
    if duty.driven and takes_a * DRIVE_SPARE > trips_a:
        text = f"At {duty.highest.name} a motor takes {{i}}, and its drive trips at {{a}}: curve or plate is wrong, or the motor too small."
        yield Finding("drive_trips", Severity.STOP, motor_id(Guarding.OVERLOAD, duty.number), text, (Term("i", "takes", takes_a, Q.CURRENT), Term("a", "trips at", trips_a, Q.CURRENT)))


def _leaks(facts: ProtectionFacts, drives: int) -> Iterator[Finding]:
    """Where an earth leakage protection and drives do not go together: blind to what a drive leaks, or tripped by it in health."""
    if not drives or not facts.watches_leakage:
        return
    if facts.leakage_by is not LeakageBy.SMOOTH:
        text = "Behind a drive a fault may leak smooth direct current. This earth leakage protection does not see it, and may be blinded by it: the drive's maker says which type it asks for."
        yield Finding("leakage_blind", Severity.CAUTION, "protection.leakage_by", text)
    if facts.leakage_a <= FILTERS_LEAK_A:
        text = "The filters of drives leak in health too: at {a} it may trip without a fault. It is not to be bridged for that; the drive's maker and the local code say what may stand in its place."
        yield Finding("leakage_trips", Severity.CAUTION, "protection.leakage_a", text, (Term("a", "trips at", facts.leakage_a, Q.CURRENT),))


def loading(duty: MotorDuty) -> Figure:
    """The highest current of honest work over the plate's."""
    read = duty.read(At.NORMAL, At.MOST)
    if read:
        most = max(read, key=lambda each: each.highest_a)
        term = duty.read_term("I", most, most.highest_a)
    else:
        term = duty.reckoned("I", duty.highest)
    plate, most_share = duty.plate.current_a, duty.plate.service_factor
    share = term.value / plate
    trail = Trail("L = I / n", (term, Term("n", "nameplate current", plate, Q.CURRENT)), Term("L", "loading", share, Q.PERCENT), "plate and readings")
    limit = (Term("m", "service factor", most_share, Q.PERCENT),)
    return Figure(f"loading_{duty.number}", f"Loading of the motor{duty.of_which}", share, Q.PERCENT, trail, share <= most_share * 1.001, "at most {m}", limit)


def largest_start(duties: tuple[MotorDuty, ...], takes_va: float) -> Figure:
    """What the largest start asks of a supply that is no mains: the standing rotor's current on the line, the plate's through a drive. [VA]"""
    asks_va, factor, most = max(((duty.plate.apparent_va * (k := 1.0 if duty.driven else duty.plate.start_factor), k, duty) for duty in duties), key=lambda each: each[0])
    terms = Term("P", f"apparent power of the plate{most.of_which}", most.plate.apparent_va, Q.APPARENT_POWER), Term("k", "current of the start over the plate's", factor, Q.RATIO)
    trail = Trail("S = P · k", terms, Term("S", "largest start", asks_va, Q.APPARENT_POWER), "plate; definition of apparent power")
    limit = (Term("g", "what the generator takes at once", takes_va, Q.APPARENT_POWER),)
    return Figure("largest_start", "Largest start", asks_va, Q.APPARENT_POWER, trail, asks_va <= takes_va, "at most {g}", limit)


def declinable(count: int) -> dict[str, tuple[str, ...]]:
    """What of it a job may do without: the under-load, with its delay and its tries; and the unbalance, which not every monitor sees."""
    with_it = (Guarding.UNDERLOAD_DELAY, Guarding.RETRY_WAIT, Guarding.RETRIES, Guarding.LONG_WAIT, Guarding.UNDERLOAD_SPEED)
    loads = {motor_id(Guarding.UNDERLOAD, number): tuple(motor_id(each, number) for each in with_it) for number in range(1, count + 1)}
    casings: dict[str, tuple[str, ...]] = {motor_id(Guarding.CASING, number): () for number in range(1, count + 1)}
    return {**loads, **casings, Watching.UNEVEN: ()}
