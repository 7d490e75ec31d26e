"""How often and after what wait something that was stopped may begin again by itself, and the long wait after that: each in its window."""

from collections.abc import Mapping
from dataclasses import dataclass

from goodbalance.core.balance.plan import Setting, placed
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import RULE, Bound, Source, Window
from goodbalance.core.protection.asked import ProtectionFacts
from goodbalance.core.protection.names import After

WAIT_LEAN, WAIT_STEP_S, COUNT_LEAN = 0.1, 60.0, 0.3
LONGEST_WAIT_S, LONG_LEAN = 86400.0, 0.25


@dataclass(frozen=True, slots=True)
class Tried:
    """What is tried again. ids: of the wait, the count and the long wait; labels: of each, with its twin; cause: what is left in to prove it."""

    ids: tuple[str, str, str]
    labels: tuple[tuple[str, str], tuple[str, str], tuple[str, str]]
    cause: str
    group: str
    starts_per_hour: float


def settings(tried: Tried, after: After, facts: ProtectionFacts, chosen: Mapping[str, float]) -> tuple[Setting, ...]:
    """Wait and count where it tries by itself, and the long wait where that takes the place of a person. [s, count, s]"""
    if after is After.BY_HAND:
        return ()
    wait = _wait(tried, facts, chosen)
    count = _count(tried, wait, facts, chosen)
    return (wait, count, _long_wait(tried, wait, count, chosen)) if after is After.LONG_WAIT else (wait, count)


def _wait(tried: Tried, facts: ProtectionFacts, chosen: Mapping[str, float]) -> Setting:
    """How long it waits before it begins again."""
    cools_s = 3600.0 / tried.starts_per_hour
    lower = (
        _plain(facts.refill_s, "r", "time in which water comes back", "It starts into a source that is still empty.", Source.PHYSICS, "survey"),
        Bound(cools_s, "cooling between two starts", "Motor and contactor are started too often.", Source.MAKER,
              Trail("t = 3600 / N", (Term("N", "starts allowed per hour", tried.starts_per_hour, Q.COUNT),), Term("t", "bound", cools_s, Q.DURATION), "maker")),
    )  # fmt: skip
    upper = _plain(facts.patience_s, "w", "how long users, or the well, can wait", "Users have no water, or the well floods, before it has tried once.", Source.PHYSICS, "survey")
    setting_id = tried.ids[0]
    proof = "Take the time from the trip to the next start."
    return placed(setting_id, tried.labels[0], Q.DURATION, Window(lower, (upper,)), WAIT_LEAN, WAIT_STEP_S, chosen.get(setting_id), proof, tried.group)


def _count(tried: Tried, wait: Setting, facts: ProtectionFacts, chosen: Mapping[str, float]) -> Setting:
    """How often it does before a person must come."""
    most = facts.patience_s / wait.value if wait.value > 0.0 else 0.0
    terms = Term("w", "how long users, or the well, can wait", facts.patience_s, Q.DURATION), Term("t", "wait before each try", wait.value, Q.DURATION)
    once = Term("n", "one, or it would not try at all", 1.0, Q.COUNT)
    window = Window(
        (Bound(1.0, "one try", "It never tries again, though it was asked to.", Source.CHOICE, Trail("k = n", (once,), Term("k", "bound", 1.0, Q.COUNT), "choice")),),
        (Bound(most, "patience of users, or of the well", "It goes on trying while nobody comes.", Source.PHYSICS,
               Trail("k = w / t", terms, Term("k", "bound", most, Q.COUNT), "survey"), wait.id),),
    )  # fmt: skip
    setting_id = tried.ids[1]
    proof = f"{tried.cause}: after so many tries it must stay out."
    return placed(setting_id, tried.labels[1], Q.COUNT, window, COUNT_LEAN, 1.0, chosen.get(setting_id), proof, tried.group)


def _long_wait(tried: Tried, wait: Setting, count: Setting, chosen: Mapping[str, float]) -> Setting:
    """How long it rests when all its tries are spent, before it begins anew."""
    spent_s = wait.value * count.value
    terms = Term("k", "tries", count.value, Q.COUNT), Term("w", "wait before each", wait.value, Q.DURATION)
    trail = Trail("t = k · w", terms, Term("t", "bound", spent_s, Q.DURATION), "as long as the tries took")
    lower = Bound(spent_s, "all its tries", "It is no rest: motor and seal go on being tried as before.", Source.RULE, trail, wait.id)
    upper = _plain(LONGEST_WAIT_S, "d", "a day, by rule", "Water has been back since yesterday, and nobody pumps.", Source.RULE, RULE)
    setting_id = tried.ids[2]
    proof = f"{tried.cause} until all tries are spent, and take the time until it tries anew."
    return placed(setting_id, tried.labels[2], Q.DURATION, Window((lower,), (upper,)), LONG_LEAN, WAIT_STEP_S, chosen.get(setting_id), proof, tried.group)


def _plain(value: float, symbol: str, meaning: str, harm: str, source: Source, says: str) -> Bound:
    """A bound that is a fact as it stands. [s]"""
    return Bound(value, meaning, harm, source, Trail(f"t = {symbol}", (Term(symbol, meaning, value, Q.DURATION),), Term("t", "bound", value, Q.DURATION), says))
