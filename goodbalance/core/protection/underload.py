"""The under-load of a motor: what tells a pump that moves no water, by current or by power, and after what time."""

import math
from collections.abc import Iterator, Mapping

from goodbalance.core.balance.plan import Finding, Setting, Severity, placed
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import Bound, Source, Window
from goodbalance.core.protection.again import Tried
from goodbalance.core.protection.asked import ProtectionChoices, ProtectionFacts
from goodbalance.core.protection.duty import Load, MotorDuty
from goodbalance.core.protection.names import GROUP, Follows, Guarding, UnderloadBy, motor_id
from goodbalance.core.protection.overload import step_a
from goodbalance.core.protection.readings import WORDS, At

STEP_W, DELAY_STEP_S = 10.0, 1.0
LEAN, DELAY_LEAN = 0.5, 0.3
FULL_SPEED, SPEED_STEP = 0.97, 0.01  # nearly full speed; of a speed that is typed
POWER_SPREAD = 0.08  # of a power by the pump's curve


def measured(duty: MotorDuty, by: UnderloadBy, load: Load, at: tuple[At, ...], lowest: bool) -> tuple[float, float, Term]:
    """What a load is told by: the reading there, else what is reckoned; its doubt, and the term that says so."""
    if by is UnderloadBy.POWER:
        return load.input_w, POWER_SPREAD, Term("P", f"power at {load.name}, reckoned", load.input_w, Q.POWER)
    read = duty.read(*at) if load.speed >= 1.0 else ()  # read in HAND, at full speed
    if read:
        one = min(read, key=lambda each: each.mean_a) if lowest else max(read, key=lambda each: each.mean_a)
        return one.mean_a, 0.0, duty.read_term("P", one, one.mean_a)
    return duty.current_a(load), duty.model.spread, duty.reckoned("P", load)


def _over(duty: MotorDuty, by: UnderloadBy, load: Load, at: At, margin: float, harm: str) -> Bound:
    """Over what a pump takes that moves no water."""
    value, spread, term = measured(duty, by, load, (at,), False)
    bound = value * (1.0 + spread) * (1.0 + margin)
    quantity = Q.POWER if by is UnderloadBy.POWER else Q.CURRENT
    terms = term, Term("s", "how unsure that is", spread, Q.PERCENT), Term("m", "apart by, by rule", margin, Q.PERCENT)
    trail = Trail("U = P · (1 + s) · (1 + m)", terms, Term("U", "bound", bound, quantity), "motor model and readings; margin by rule")
    return Bound(bound, f"{WORDS[at]}", harm, Source.PHYSICS, trail)


def lower_bounds(duty: MotorDuty, by: UnderloadBy, closed_trips: bool, margin: float) -> Iterator[Bound]:
    """Over the dry pump, and over the closed valve where that must trip too."""
    yield _over(duty, by, duty.dry, At.DRY, margin, "It never trips: the pump runs dry until its seal and bearings burn.")
    if closed_trips:
        yield _over(duty, by, duty.closed, At.CLOSED, margin, "It never trips at a closed valve: the water in the casing boils.")


def follows(duty: MotorDuty, facts: ProtectionFacts) -> Follows:
    """What its limit does at less than full speed; on the line there is none, and a current is not as the cube of it."""
    by_power = facts.underload_by is UnderloadBy.POWER
    return facts.follows if duty.driven and (by_power or facts.follows is not Follows.CUBE) else Follows.FIXED


def honest(duty: MotorDuty, closed_trips: bool) -> tuple[tuple[Load, tuple[At, ...]], ...]:
    """The lightest honest loads at full speed, and where they are read; a closed valve is one of them where the pump must be let work against it."""
    closed = () if closed_trips else ((duty.closed, (At.CLOSED,)),)
    return ((duty.least, (At.LEAST, At.NORMAL)), *closed)


def watched(duty: MotorDuty, load: Load, way: Follows, from_speed: float) -> Load:
    """Such a load at the slowest at which the limit counts. A limit that falls with the cube of the speed is as the pump's power: full speed stands for all."""
    if way is Follows.FIXED:
        return duty.lowest if load is duty.least else duty.slower(load, duty.lowest.speed)
    return duty.slower(load, from_speed) if way is Follows.FROM_SPEED else load


def upper_bound(duty: MotorDuty, by: UnderloadBy, load: Load, at: tuple[At, ...], margin: float) -> Bound:
    """Under what honest work takes at its lightest, with its doubt."""
    value, spread, term = measured(duty, by, load, at, True)
    bound = value * (1.0 - spread) * (1.0 - margin)
    quantity = Q.POWER if by is UnderloadBy.POWER else Q.CURRENT
    terms = term, Term("s", "how unsure that is", spread, Q.PERCENT), Term("m", "apart by, by rule", margin, Q.PERCENT)
    trail = Trail("U = P · (1 - s) · (1 - m)", terms, Term("U", "bound", bound, quantity), "motor model and readings; margin by rule")
    closed = At.CLOSED in at
    harm = "It trips against a closed valve, which the job lets it work against." if closed else "It trips in honest work: nobody pumps."
    return Bound(bound, WORDS[At.CLOSED] if closed else "least of honest work", harm, Source.PHYSICS, trail)


def window(duty: MotorDuty, by: UnderloadBy, facts: ProtectionFacts, choices: ProtectionChoices, from_speed: float = 1.0) -> Window:
    """Between a pump that moves no water and the least of honest work. from_speed: on which it counts, where that is told."""
    margin, way = choices.underload_margin, follows(duty, facts)
    upper = tuple(upper_bound(duty, by, watched(duty, load, way, from_speed), at, margin) for load, at in honest(duty, facts.closed_trips))
    return Window(tuple(lower_bounds(duty, by, facts.closed_trips, margin)), upper)


def _from_power(duty: MotorDuty, load: Load, over: Bound, keeps: float) -> tuple[float, Trail]:
    """Where an honest power, falling as n cubed, comes down to a bound; keeps: what its doubt and the margin leave of it. [share]"""
    speed = (over.value / (load.input_w * keeps)) ** (1.0 / 3.0)
    terms = (
        Term("U", f"over {over.cause}", over.value, Q.POWER), Term("P", f"{load.name}, at full speed", load.input_w, Q.POWER),
        Term("k", "what its doubt and the margin leave of it", keeps, Q.PERCENT),
    )  # fmt: skip
    return speed, Trail("n = (U / (P · k))^(1/3)", terms, Term("n", "bound", speed, Q.PERCENT), "affinity laws")


def _from_current(duty: MotorDuty, load: Load, over: Bound, keeps: float) -> tuple[float, Trail]:
    """The same by current: its working part falls as the square of the speed, its magnetising part stays. [share]"""
    idle_a, works_a = duty.model.idle_a, duty.model.active_a * load.input_w / duty.plate.input_w
    least_a = over.value / keeps
    speed = math.sqrt(math.sqrt(max(0.0, least_a**2 - idle_a**2)) / works_a)
    terms = (
        Term("U", f"over {over.cause}", over.value, Q.CURRENT), Term("k", "what its doubt and the margin leave of it", keeps, Q.PERCENT),
        Term("m", "magnetising current", idle_a, Q.CURRENT), Term("w", f"working current at {load.name}, full speed", works_a, Q.CURRENT),
    )  # fmt: skip
    return speed, Trail("n = sqrt(sqrt(max(0, (U / k)² - m²)) / w)", terms, Term("n", "bound", speed, Q.PERCENT), "affinity laws; current triangle")


def watched_from(duty: MotorDuty, facts: ProtectionFacts, choices: ProtectionChoices, chosen: Mapping[str, float]) -> Setting:
    """The speed from which its limit counts: below it honest work takes no more than a pump without water at full speed. [share]

    Source: power as the cube of the speed; the current of the motor model at that power and speed.
    """
    setting_id, by, margin = motor_id(Guarding.UNDERLOAD_SPEED, duty.number), facts.underload_by, choices.underload_margin
    over = max(lower_bounds(duty, by, facts.closed_trips, margin), key=lambda bound: bound.value)
    keeps = (1.0 - margin) * (1.0 - (POWER_SPREAD if by is UnderloadBy.POWER else duty.model.spread))
    lightest = min((load for load, _ in honest(duty, facts.closed_trips)), key=lambda load: load.input_w)
    bound, trail = (_from_power if by is UnderloadBy.POWER else _from_current)(duty, lightest, over, keeps)
    lower = Bound(bound, "honest work as light as a pump without water", "Turning slowly in honest work it is stopped for nothing.", Source.PHYSICS, trail)
    full = Term("m", "nearly full speed, which a pump without water comes to", FULL_SPEED, Q.PERCENT)
    upper = Bound(FULL_SPEED, "full speed", "It never counts: a pump without water is not seen.", Source.PHYSICS, Trail("n = m", (full,), Term("n", "bound", FULL_SPEED, Q.PERCENT), "no pressure comes, so the drive goes to full speed"))
    proof = "In HAND under this speed a closed valve must not trip it, at full speed it must."
    labels = (f"Under-load counts from a speed of{duty.of_which}", "dry-run enable speed")
    return placed(setting_id, labels, Q.PERCENT, Window((lower,), (upper,)), LEAN, SPEED_STEP, chosen.get(setting_id), proof, GROUP)


def underload(duty: MotorDuty, facts: ProtectionFacts, choices: ProtectionChoices, chosen: Mapping[str, float]) -> tuple[Setting, ...]:
    """From which speed on it counts, where that is told; at how little the motor is stopped, and after what time. [share; A or W; s]"""
    by, setting_id, delay_id = facts.underload_by, motor_id(Guarding.UNDERLOAD, duty.number), motor_id(Guarding.UNDERLOAD_DELAY, duty.number)
    by_power, told = by is UnderloadBy.POWER, []
    if follows(duty, facts) is Follows.FROM_SPEED:
        told = [watched_from(duty, facts, choices, chosen)]
    proof = "Close the valve for a moment: it must trip." if facts.closed_trips else "Close the valve for a moment: it must not trip."
    limit = placed(
        setting_id, (f"Under-load trip{duty.of_which}", "dry-run protection, minimum load"), Q.POWER if by_power else Q.CURRENT,
        window(duty, by, facts, choices, told[0].value if told else 1.0), LEAN, STEP_W if by_power else step_a(duty.plate.current_a), chosen.get(setting_id), proof, GROUP,
    )  # fmt: skip
    started_s, dry_s = facts.start_s + facts.prime_s, facts.dry_s
    low = Bound(
        started_s, "start and priming", "It trips before the water comes.", Source.PHYSICS,
        Trail("t = s + p", (Term("s", "time of a start", facts.start_s, Q.TIME), Term("p", "time until a started pump moves water", facts.prime_s, Q.TIME)),
              Term("t", "bound", started_s, Q.TIME), "survey"),
    )  # fmt: skip
    high = Bound(
        dry_s, "dry time of the seal", "The seal burns before it trips.", Source.MAKER,
        Trail("t = d", (Term("d", "how long its seal stands without water", dry_s, Q.TIME),), Term("t", "bound", dry_s, Q.TIME), "maker"),
    )  # fmt: skip
    labels = (f"Under-load delay{duty.of_which}", "dry-run delay")
    delay = placed(delay_id, labels, Q.TIME, Window((low,), (high,)), DELAY_LEAN, DELAY_STEP_S, chosen.get(delay_id), "Take the time until it trips.", GROUP)
    return (*told, limit, delay)


def tried_again(duty: MotorDuty) -> Tried:
    """What a load monitor does once it has stopped a pump."""
    ids = tuple(motor_id(each, duty.number) for each in (Guarding.RETRY_WAIT, Guarding.RETRIES, Guarding.LONG_WAIT))
    labels = (
        (f"Wait before it tries again{duty.of_which}", "restart delay after dry run"),
        (f"Tries before a person must come{duty.of_which}", "number of automatic restarts"),
        (f"Long wait after all tries{duty.of_which}", "lock-out time"),
    )
    return Tried((ids[0], ids[1], ids[2]), labels, "Leave the cause in", GROUP, duty.starts_per_hour)


def cannot_tell(duty: MotorDuty, facts: ProtectionFacts, choices: ProtectionChoices) -> Iterator[Finding]:
    """Where what is watched does not tell a pump without water from one that works: so, and what can."""
    by = facts.underload_by
    if duty.driven and by is UnderloadBy.CURRENT and facts.follows is Follows.CUBE:
        text = "A current does not fall with the cube of the speed: its limit is taken for one that stays. Watch the power, or from a speed on."
        yield Finding("cube_of_current", Severity.CAUTION, motor_id(Guarding.UNDERLOAD, duty.number), text)
    from_speed = FULL_SPEED if follows(duty, facts) is Follows.FROM_SPEED else 1.0  # the best that can be chosen
    if by is UnderloadBy.NOTHING or not window(duty, by, facts, choices, from_speed).is_empty:
        return
    which = f"pump {duty.number}" if len(duty.pumps) == 1 else "these pumps"
    other = UnderloadBy.CURRENT if by is UnderloadBy.POWER else UnderloadBy.POWER
    instead = window(duty, other, facts, choices, from_speed)
    subject = motor_id(Guarding.UNDERLOAD, duty.number)
    told = "Power" if by is UnderloadBy.POWER else "Current"
    text = f"{told} cannot tell {which} without water from honest work: "
    if not instead.is_empty:
        quantity = Q.POWER if other is UnderloadBy.POWER else Q.CURRENT
        terms = Term("a", "from", instead.low, quantity), Term("b", "to", instead.high, quantity)
        yield Finding("cannot_tell", Severity.CAUTION, subject, text + f"{other} can, between {{a}} and {{b}}.", terms)
        return
    speeds = " Its load falls with its speed: watch it only above a speed, or by a limit that falls with it." if duty.driven and facts.follows is Follows.FIXED else ""
    yield Finding("cannot_tell", Severity.CAUTION, subject, text + f"neither can {other}. Watch a flow switch, the level or the suction pressure.{speeds}")
