"""A threshold that somebody worked out by head: checked against its own rule, and what it means for this motor."""

from enum import StrEnum

from goodbalance.core.balance.plan import Finding, Setting, Severity
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.protection.duty import Load, MotorDuty
from goodbalance.core.protection.names import Guarding, UnderloadBy, motor_id
from goodbalance.core.protection.readings import At
from goodbalance.core.protection.underload import measured

SLIP = 0.02  # a number this far off its own rule was rounded, one further off was slipped


class Base(StrEnum):
    """What a share is taken of."""

    PLATE = "plate"
    RUNNING = "running"
    OVERLOAD = "overload"


NAMES: dict[Base, str] = {Base.PLATE: "the nameplate", Base.RUNNING: "the running current", Base.OVERLOAD: "the overload"}


def base_a(duty: MotorDuty, base: Base, overload: Setting | None) -> float | None:
    """The current a share is taken of; running is what was read last of honest work, else what is reckoned at the most. [A]"""
    if base is Base.PLATE:
        return duty.plate.current_a
    if base is Base.OVERLOAD:
        return None if overload is None else overload.value
    read = duty.read(At.NORMAL) or duty.read(At.MOST)
    return max(each.highest_a for each in read) if read else duty.current_a(duty.highest)


def by_head(duty: MotorDuty, guard: Guarding, base: Base, share: float, stated_a: float | None, overload: Setting | None) -> tuple[Finding, ...]:
    """What a share of a base makes, how far off the number is that was to be it, and what that number does at this motor.

    overload: the plan's setting, None at a drive; without it neither a share of it nor an overload can be judged: no findings.
    """
    of_a, subject = base_a(duty, base, overload), motor_id(guard, duty.number)
    if of_a is None or (guard is Guarding.OVERLOAD and overload is None):
        return ()
    made_a = share * of_a
    terms = Term("s", "share", share, Q.PERCENT), Term("b", "base", of_a, Q.CURRENT), Term("a", "made", made_a, Q.CURRENT)
    found = [Finding("by_head", Severity.NOTE, subject, f"{{s}} of {NAMES[base]} ({{b}}) is {{a}}.", terms)]
    if stated_a is not None:
        found.append(_off(stated_a, made_a, subject))
    asked_a = made_a if stated_a is None else stated_a
    found += _as_underload(duty, asked_a, subject) if guard is Guarding.UNDERLOAD or overload is None else _as_overload(overload, asked_a)
    return tuple(found)


def _off(stated_a: float, made_a: float, subject: str) -> Finding:
    off = stated_a / made_a - 1.0
    terms = Term("t", "stated", stated_a, Q.CURRENT), Term("o", "off by", abs(off), Q.PERCENT)
    if abs(off) <= SLIP:
        return Finding("by_rule", Severity.NOTE, subject, "{t} is what that rule makes.", terms)
    return Finding("off_rule", Severity.CAUTION, subject, f"{{t}} is not what that rule makes: {{o}} {'more' if off > 0.0 else 'less'}.", terms)


def _as_overload(overload: Setting, asked_a: float) -> list[Finding]:
    """Each bound of the overload that it breaks, with its harm."""
    window = overload.window
    broken = [(bound, "under") for bound in window.lower if asked_a < bound.value] + [(bound, "over") for bound in window.upper if asked_a > bound.value]
    if not broken:
        return [Finding("head_inside", Severity.NOTE, overload.id, "As an overload it has room on both sides.")]
    return [
        Finding("head_outside", Severity.CAUTION, overload.id, f"As an overload it lies {side} {{b}}, {bound.cause}. {bound.harm}", (Term("b", bound.cause, bound.value, Q.CURRENT),))
        for bound, side in broken
    ]  # fmt: skip


def _as_underload(duty: MotorDuty, asked_a: float, subject: str) -> list[Finding]:
    """Whether it trips dry, at a closed valve and in honest work, over all heads and speeds of the work."""
    points: tuple[tuple[str, Load, tuple[At, ...], bool | None], ...] = (  # the last: whether it must trip; at a valve that is a matter of choice
        ("dry", duty.dry, (At.DRY,), True), ("at a closed valve", duty.closed, (At.CLOSED,), None), ("in honest work", duty.lowest, (At.LEAST, At.NORMAL), False),
    )  # fmt: skip
    found = []
    for words, load, at, must in points:
        value_a, spread, _ = measured(duty, UnderloadBy.CURRENT, load, at, must is False)
        told = "as read" if duty.read(*at) else "reckoned"
        terms = (Term("c", f"current {words}", value_a, Q.CURRENT),)
        if asked_a > value_a * (1.0 + spread):
            does, wrong = "trips", must is False
        elif asked_a < value_a * (1.0 - spread):
            does, wrong = "does not trip", must is True
        else:
            does, wrong = "may trip or not, nobody knows so well", True
        found.append(Finding("head_does", Severity.CAUTION if wrong else Severity.NOTE, subject, f"As an under-load it {does} {words}, where the motor takes {{c}} ({told}).", terms))
    return found
