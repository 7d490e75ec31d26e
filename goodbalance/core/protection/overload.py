"""The overload of a motor: the current at which it trips in the end, and its class, each between its two harms."""

import math
from collections.abc import Iterator, Mapping
from functools import partial

from goodbalance.core.balance.plan import Setting, placed
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import RULE, Bound, Source, Window
from goodbalance.core.protection.asked import OverloadSchool, ProtectionChoices, ProtectionFacts
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.names import GROUP, Guarding, motor_id
from goodbalance.core.protection.readings import At
from goodbalance.core.protection.thermal import RATED_TO_TRIP, trips_in_s

SERVICE = 1.15  # a service factor from which codes allow more
CLASS_STEP_S = 5.0
LEAN = 0.8  # of the way from the least margin to the most: a quarter over what was read
CLASS_LEAN = 0.7


def step_a(current_a: float) -> float:
    """A step of a dial of this size: a hundredth of an ampere for the smallest, else a tenth. [A]"""
    return 0.01 if current_a < 2.0 else 0.1


def code_factor(duty: MotorDuty, choices: ProtectionChoices) -> float:
    """What the code allows over the nameplate, by the service factor.

    Source: rule in force, editable; the usual one allows 125 % from a service factor of 1.15 on, else 115 %.
    """
    return choices.service_factor if duty.plate.service_factor >= SERVICE else choices.factor


def honest_bounds(duty: MotorDuty, facts: ProtectionFacts, margin: float) -> tuple[Bound, ...]:
    """Over the highest current of honest work: as it was read, else as it is reckoned with its doubt; and over what it becomes as the supply honestly strays."""
    harm = "It trips in honest work: nobody pumps."
    read = duty.read(At.NORMAL, At.MOST)
    if read:
        most = max(read, key=lambda each: each.highest_a)
        value = most.highest_a * (1.0 + margin)
        seen = duty.read_term("I", most, most.highest_a), Term("m", "least margin, by rule", margin, Q.PERCENT)
        trail = Trail("A = I · (1 + m)", seen, Term("A", "bound", value, Q.CURRENT), "clamp meter; margin by rule")
        return Bound(value, "highest current read in honest work", harm, Source.PHYSICS, trail), _strayed(duty, facts, seen[0])
    reckoned_a, spread = duty.current_a(duty.highest), duty.model.spread
    # a sound motor takes no more than its plate, unless its pump's own curve asks for more
    value = max(reckoned_a, min(reckoned_a * (1.0 + spread), duty.plate.current_a)) * (1.0 + margin)
    terms = (
        duty.reckoned("I", duty.highest), Term("s", "how unsure that is", spread, Q.PERCENT), Term("n", "nameplate current", duty.plate.current_a, Q.CURRENT),
        Term("m", "least margin, by rule", margin, Q.PERCENT),
    )  # fmt: skip
    trail = Trail("A = max(I, min(I · (1 + s), n)) · (1 + m)", terms, Term("A", "bound", value, Q.CURRENT), "plate and pump curve; read it with a clamp meter")
    doubted = Term("I", "the same current with its doubt", value / (1.0 + margin), Q.CURRENT)
    return Bound(value, "highest current of honest work, reckoned", harm, Source.PHYSICS, trail), _strayed(duty, facts, doubted)


def _strayed(duty: MotorDuty, facts: ProtectionFacts, honest: Term) -> Bound:
    """That current at the honest supply voltage at which it is highest, by the current triangle."""
    idle_a, works_a = duty.model.idle_a, duty.model.active_a * duty.highest.input_w / duty.plate.input_w
    now_a = math.hypot(idle_a, works_a)
    share = max((facts.low_voltage, facts.high_voltage), key=lambda v: math.hypot(idle_a * v, works_a / v))
    value = honest.value * math.hypot(idle_a * share, works_a / share) / now_a
    terms = (
        honest, Term("m", "magnetising current", idle_a, Q.CURRENT), Term("w", "working current there", works_a, Q.CURRENT),
        Term("v", f"{'lowest' if share < 1.0 else 'highest'} honest supply voltage, of the plate's", share, Q.PERCENT),
    )  # fmt: skip
    trail = Trail("A = I · sqrt((m · v)² + (w / v)²) / sqrt(m² + w²)", terms, Term("A", "bound", value, Q.CURRENT), "current triangle")
    return Bound(value, f"the same at the {'lowest' if share < 1.0 else 'highest'} honest voltage", "It trips in honest work whenever the supply strays.", Source.PHYSICS, trail)


def allowed_bounds(duty: MotorDuty, choices: ProtectionChoices) -> Iterator[Bound]:
    """Under what the code allows; by readings also under the most margin over them."""
    factor = code_factor(duty, choices)
    value = duty.plate.current_a * factor
    terms = Term("n", "nameplate current", duty.plate.current_a, Q.CURRENT), Term("f", f"factor of the code at a service factor of {duty.plate.service_factor:g}", factor, Q.RATIO)
    trail = Trail("A = n · f", terms, Term("A", "bound", value, Q.CURRENT), "code in force, by rule; local code first")
    yield Bound(value, "nameplate times the factor of the code", "The winding burns before it trips.", Source.CODE, trail)
    read = duty.read(At.NORMAL, At.MOST)
    if choices.overload is OverloadSchool.MEASURED and read:
        most = max(read, key=lambda each: each.highest_a)
        value = most.highest_a * (1.0 + choices.most_margin)
        terms = duty.read_term("I", most, most.highest_a), Term("m", "most margin, by rule", choices.most_margin, Q.PERCENT)
        trail = Trail("A = I · (1 + m)", terms, Term("A", "bound", value, Q.CURRENT), RULE)
        yield Bound(value, "highest current read, plus the most margin", "A rag or a worn bearing loads the motor, and nothing tells.", Source.RULE, trail)


def overload(duty: MotorDuty, facts: ProtectionFacts, choices: ProtectionChoices, chosen: Mapping[str, float]) -> Setting:
    """The current at which the motor's overload trips in the end, whatever its dial states. [A]"""
    setting_id = motor_id(Guarding.OVERLOAD, duty.number)
    return placed(
        setting_id, (f"Overload trip current{duty.of_which}", "heater setting"), Q.CURRENT,
        Window(honest_bounds(duty, facts, choices.least_margin), tuple(allowed_bounds(duty, choices))), LEAN,
        step_a(duty.plate.current_a), chosen.get(setting_id), "Set it under the running current for a moment: it must trip, and wait for a person.", GROUP,
    )  # fmt: skip


def overload_class(duty: MotorDuty, facts: ProtectionFacts, choices: ProtectionChoices, trip_a: float, chosen: Mapping[str, float]) -> Setting:
    """The class of the overload: in so many seconds it trips from cold at 7.2 times its rated current. [s]

    Time and class are in proportion: N = t ln(36/35) / ln(x^2/(x^2 - 1)), x the current over the trip current.
    """
    started_a = duty.plate.current_a * duty.plate.start_factor
    setting_id, bounds = motor_id(Guarding.OVERLOAD_CLASS, duty.number), partial(_class_bound, trip_a)
    low = bounds(
        started_a * facts.low_voltage, facts.start_s * choices.start_margin, "start at the lowest voltage", "It trips while the motor still runs up.",
        ("w", f"{choices.start_margin:g} times the time of that start", Source.RULE),
    )  # fmt: skip
    high = bounds(
        started_a, facts.stall_s, "standing rotor", "A blocked rotor burns before it trips.", ("w", "how long the rotor may stand under voltage", Source.MAKER),
    )  # fmt: skip
    return placed(
        setting_id, (f"Overload class{duty.of_which}", "trip class, in seconds"), Q.TIME, Window((low,), (high,)), CLASS_LEAN, CLASS_STEP_S,
        chosen.get(setting_id), "By its mark: the class printed on it, or its menu.", GROUP,
    )  # fmt: skip


def _class_bound(trip_a: float, current_a: float, within_s: float, cause: str, harm: str, words: tuple[str, str, Source]) -> Bound:
    """The class that trips at a current in just a time; infinite where that current is no overload at all."""
    symbol, meaning, source = words
    per_class = trips_in_s(current_a / trip_a, 1.0)
    value = within_s / per_class
    terms = (
        Term(symbol, meaning, within_s, Q.TIME), Term("I", f"current of the {cause}", current_a, Q.CURRENT), Term("A", "trip current", trip_a, Q.CURRENT),
        Term("k", f"where a class is told: {RATED_TO_TRIP:g} and 7.2 times the rated current make", 7.2 / RATED_TO_TRIP, Q.RATIO),
    )  # fmt: skip
    formula = "N = w · ln(k^2 / (k^2 - 1)) / ln((I / A)^2 / ((I / A)^2 - 1))" if current_a > trip_a else "N = 0 · w"  # no overload at all: no class trips
    trail = Trail(formula, terms, Term("N", "bound", value, Q.TIME), "thermal image of the first order; classes of IEC 60947-4-1")
    return Bound(value, cause, harm, source, trail)
