"""The under-load of a motor: what tells a pump that moves no water, by current or by power, and after what time."""

from collections.abc import Iterator, Mapping

from goodbalance.core.balance.plan import Finding, Setting, Severity, placed
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import Bound, Source, Window
from goodbalance.core.protection.asked import ProtectionChoices, ProtectionFacts
from goodbalance.core.protection.duty import Load, MotorDuty
from goodbalance.core.protection.names import GROUP, Guarding, UnderloadBy, motor_id
from goodbalance.core.protection.overload import step_a
from goodbalance.core.protection.readings import WORDS, At

STEP_W, DELAY_STEP_S = 10.0, 1.0
WAIT_LEAN, WAIT_STEP_S, COUNT_LEAN = 0.1, 60.0, 0.3
LEAN, DELAY_LEAN = 0.5, 0.3
POWER_SPREAD = 0.08  # of a power by the pump's curve


def measured(duty: MotorDuty, by: UnderloadBy, load: Load, at: tuple[At, ...], lowest: bool) -> tuple[float, float, Term]:
    """What a load is told by: the reading there, else what is reckoned; its doubt, and the term that says so."""
    if by is UnderloadBy.POWER:
        return load.input_w, POWER_SPREAD, Term("P", f"power at {load.name}, reckoned", load.input_w, Q.POWER)
    read = duty.read(*at)
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


def upper_bound(duty: MotorDuty, by: UnderloadBy, margin: float) -> Bound:
    """Under the least that honest work takes, over all heads and, with a drive, over its speeds."""
    value, spread, term = measured(duty, by, duty.lowest, (At.LEAST, At.NORMAL), True)
    bound = value * (1.0 - spread) * (1.0 - margin)
    quantity = Q.POWER if by is UnderloadBy.POWER else Q.CURRENT
    terms = term, Term("s", "how unsure that is", spread, Q.PERCENT), Term("m", "apart by, by rule", margin, Q.PERCENT)
    trail = Trail("U = P · (1 - s) · (1 - m)", terms, Term("U", "bound", bound, quantity), "motor model and readings; margin by rule")
    return Bound(bound, "least of honest work", "It trips in honest work: nobody pumps.", Source.PHYSICS, trail)


def window(duty: MotorDuty, by: UnderloadBy, facts: ProtectionFacts, choices: ProtectionChoices) -> Window:
    """Between a pump that moves no water and the least of honest work."""
    margin = choices.underload_margin
    return Window(tuple(lower_bounds(duty, by, facts.closed_trips, margin)), (upper_bound(duty, by, margin),))


def underload(duty: MotorDuty, facts: ProtectionFacts, choices: ProtectionChoices, chosen: Mapping[str, float]) -> tuple[Setting, Setting]:
    """At how little the motor is stopped, and after what time. [A or W, s]"""
    by, setting_id, delay_id = facts.underload_by, motor_id(Guarding.UNDERLOAD, duty.number), motor_id(Guarding.UNDERLOAD_DELAY, duty.number)
    by_power = by is UnderloadBy.POWER
    proof = "Close the valve for a moment: it must trip." if facts.closed_trips else "Close the valve for a moment: it must not trip."
    limit = placed(
        setting_id, (f"Under-load trip{duty.of_which}", "dry-run protection, minimum load"), Q.POWER if by_power else Q.CURRENT,
        window(duty, by, facts, choices), LEAN, STEP_W if by_power else step_a(duty.plate.current_a), chosen.get(setting_id), proof, GROUP,
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
    return limit, delay


def retries(duty: MotorDuty, facts: ProtectionFacts, chosen: Mapping[str, float]) -> tuple[Setting, Setting]:
    """How long it waits before it lets the pump try again, and how often it does before a person must come. [s, count]"""
    wait_id, count_id = motor_id(Guarding.RETRY_WAIT, duty.number), motor_id(Guarding.RETRIES, duty.number)
    cools_s = 3600.0 / duty.starts_per_hour
    lower = (
        _plain(facts.refill_s, "r", "time in which water comes back", "It starts into a source that is still empty.", Source.PHYSICS, "survey"),
        Bound(cools_s, "cooling between two starts", "Motor and contactor are started too often.", Source.MAKER,
              Trail("t = 3600 / N", (Term("N", "starts allowed per hour", duty.starts_per_hour, Q.COUNT),), Term("t", "bound", cools_s, Q.DURATION), "maker")),
    )  # fmt: skip
    upper = _plain(facts.patience_s, "w", "how long users, or the well, can wait", "Users have no water, or the well floods, before it has tried once.", Source.PHYSICS, "survey")
    labels = (f"Wait before it tries again{duty.of_which}", "restart delay after dry run")
    wait = placed(wait_id, labels, Q.DURATION, Window(lower, (upper,)), WAIT_LEAN, WAIT_STEP_S, chosen.get(wait_id), "Take the time from the trip to the next start.", GROUP)
    most = facts.patience_s / wait.value if wait.value > 0.0 else 0.0
    terms = Term("w", "how long users, or the well, can wait", facts.patience_s, Q.DURATION), Term("t", "wait before each try", wait.value, Q.DURATION)
    once = Term("n", "one, or it would not try at all", 1.0, Q.COUNT)
    count = placed(
        count_id, (f"Tries before a person must come{duty.of_which}", "number of automatic restarts"), Q.COUNT,
        Window(
            (Bound(1.0, "one try", "It never tries again, though it was asked to.", Source.CHOICE, Trail("k = n", (once,), Term("k", "bound", 1.0, Q.COUNT), "choice")),),
            (Bound(most, "patience of users, or of the well", "It goes on trying while nobody comes.", Source.PHYSICS,
                   Trail("k = w / t", terms, Term("k", "bound", most, Q.COUNT), "survey"), wait_id),),
        ),
        COUNT_LEAN, 1.0, chosen.get(count_id), "Leave the cause in: after so many tries it must stay out.", GROUP,
    )  # fmt: skip
    return wait, count


def _plain(value: float, symbol: str, meaning: str, harm: str, source: Source, says: str) -> Bound:
    """A bound that is a fact as it stands. [s]"""
    return Bound(value, meaning, harm, source, Trail(f"t = {symbol}", (Term(symbol, meaning, value, Q.DURATION),), Term("t", "bound", value, Q.DURATION), says))


def cannot_tell(duty: MotorDuty, facts: ProtectionFacts, choices: ProtectionChoices) -> Iterator[Finding]:
    """Where what is watched does not tell a pump without water from one that works: so, and what can."""
    by = facts.underload_by
    if by is UnderloadBy.NOTHING or not window(duty, by, facts, choices).is_empty:
        return
    which = f"pump {duty.number}" if len(duty.pumps) == 1 else "these pumps"
    other = UnderloadBy.CURRENT if by is UnderloadBy.POWER else UnderloadBy.POWER
    instead = window(duty, other, facts, choices)
    subject = motor_id(Guarding.UNDERLOAD, duty.number)
    told = "Power" if by is UnderloadBy.POWER else "Current"
    text = f"{told} cannot tell {which} without water from honest work: "
    if not instead.is_empty:
        quantity = Q.POWER if other is UnderloadBy.POWER else Q.CURRENT
        terms = Term("a", "from", instead.low, quantity), Term("b", "to", instead.high, quantity)
        yield Finding("cannot_tell", Severity.CAUTION, subject, text + f"{other} can, between {{a}} and {{b}}.", terms)
        return
    speeds = " Its load falls with its speed: watch it only above a speed, or as a share of what it takes without flow at that speed." if duty.driven else ""
    yield Finding("cannot_tell", Severity.CAUTION, subject, text + f"neither can {other}. Watch a flow switch, the level or the suction pressure.{speeds}")
