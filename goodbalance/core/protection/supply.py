"""The windows of the monitor that watches a station's supply: its voltages, their unbalance, and how long it waits."""

import math
from collections.abc import Mapping, Sequence

from goodbalance.core.balance.plan import Setting, placed
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import RULE, Bound, Source, Window
from goodbalance.core.protection.asked import ProtectionChoices, ProtectionFacts
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.names import GROUP, Guarding, Watching, motor_id
from goodbalance.core.protection.plate import Phases
from goodbalance.core.protection.readings import unbalance
from goodbalance.core.protection.thermal import BURNS_AT, uneven_within

NO_IDLE_A = 1e-9  # a motor with permanent magnets takes nothing to magnetise
ALIKE = 0.9  # motors whose plates say less of the highest voltage hang on one phase of it, or on a transformer
LEAN, DELAY_LEAN, BACK_LEAN = 0.4, 0.2, 0.15  # of the way up a window, the last by ratio
STEP_V, STEP_SHARE, STEP_S = 1.0, 0.001, 0.5


def watched(duties: Sequence[MotorDuty]) -> tuple[MotorDuty, ...]:
    """The motors that hang on the voltage which the monitor watches: that of the highest plate."""
    top_v = max(duty.plate.voltage_v for duty in duties)
    return tuple(duty for duty in duties if duty.plate.voltage_v >= ALIKE * top_v)


def monitor_settings(duties: Sequence[MotorDuty], facts: ProtectionFacts, choices: ProtectionChoices, held: Mapping[str, float], chosen: Mapping[str, float]) -> tuple[Setting, ...]:
    """Every dial of a monitor that watches voltages. held: the plan's overloads, which the lowest voltage goes by. [V, share, s]"""
    motors = watched(duties)
    phased = any(duty.plate.phases is Phases.THREE for duty in motors)
    return (
        _low(motors, facts, choices, held, chosen), _high(motors, facts, choices, chosen), *((_uneven(motors, facts, choices, chosen),) if phased else ()),
        _delay(facts, choices, chosen), _back(facts, chosen),
    )  # fmt: skip


def _low(motors: Sequence[MotorDuty], facts: ProtectionFacts, choices: ProtectionChoices, held: Mapping[str, float], chosen: Mapping[str, float]) -> Setting:
    top_v, bottom_v = max(duty.plate.voltage_v for duty in motors), min(duty.plate.voltage_v for duty in motors)
    share, margin = choices.least_voltage, choices.voltage_margin
    lower = [_of_plate(top_v, share, "least voltage, by maker or rule", "Motors work at less than they stand: they take more current and heat up.")]
    lower += [bound for duty in motors if (bound := _overload_first(duty, held)) is not None]
    read_v = min((min(read.volts) for duty in motors for read in duty.readings if read.volts), default=math.inf)
    by_fact_v = facts.low_voltage * bottom_v
    honest_v, words = (read_v, "lowest voltage read while a pump ran") if read_v < by_fact_v else (by_fact_v, "lowest honest supply voltage")
    value = honest_v * (1.0 - margin)
    terms = Term("V", words, honest_v, Q.VOLTAGE), Term("m", "apart by, by rule", margin, Q.PERCENT)
    trail = Trail("U = V · (1 - m)", terms, Term("U", "bound", value, Q.VOLTAGE), "survey and readings; margin by rule")
    upper = Bound(value, words, "It trips on a supply that is as low as it honestly gets: nobody pumps.", Source.PHYSICS, trail)
    proof = "With an adjustable source at its leads, or its dial turned up under the voltage that is there: it must let go."
    return placed(Watching.LOW, ("Under-voltage trip", "low voltage, U<"), Q.VOLTAGE, Window(tuple(lower), (upper,)), LEAN, STEP_V, chosen.get(Watching.LOW), proof, GROUP)


def _of_plate(plate_v: float, share: float, cause: str, harm: str) -> Bound:
    value = plate_v * share
    terms = Term("n", "nameplate voltage", plate_v, Q.VOLTAGE), Term("s", cause, share, Q.PERCENT)
    return Bound(value, cause, harm, Source.MAKER, Trail("U = n · s", terms, Term("U", "bound", value, Q.VOLTAGE), "maker; rule, editable"))


def _overload_first(duty: MotorDuty, held: Mapping[str, float]) -> Bound | None:
    """Under which voltage the overload trips in honest work; None where a motor on a drive, or a generous overload, leaves it no say. [V]

    Source: current triangle at a share v of the plate's voltage, I^2 = (m v)^2 + (a l / v)^2, solved for v at I = the trip.
    """
    overload_id = motor_id(Guarding.OVERLOAD, duty.number)
    if duty.driven or overload_id not in held:
        return None
    trip_a, idle_a = held[overload_id], duty.model.idle_a
    works_a = duty.model.active_a * duty.highest.input_w / duty.plate.input_w
    share = voltage_at(trip_a, idle_a, works_a)
    if share is None or share >= 1.0:
        return None
    value = share * duty.plate.voltage_v
    terms = (
        Term("I", "trip current of the overload", trip_a, Q.CURRENT), Term("m", "magnetising current", idle_a, Q.CURRENT),
        Term("w", "working current of the highest honest load", works_a, Q.CURRENT), Term("n", "nameplate voltage", duty.plate.voltage_v, Q.VOLTAGE),
    )  # fmt: skip
    formula = "U = n · sqrt((I² - sqrt((I²)² - 4 · m² · w²)) / (2 · m²))" if idle_a > NO_IDLE_A else "U = n · w / I"
    trail = Trail(formula, terms, Term("U", "bound", value, Q.VOLTAGE), "current triangle")
    harm = "The overload trips first, and waits for a person: a dip that passes leaves the station out."
    return Bound(value, f"where the overload{duty.of_which} trips in honest work", harm, Source.PHYSICS, trail, overload_id)


def voltage_at(trip_a: float, idle_a: float, works_a: float) -> float | None:
    """The share of the plate's voltage under which a motor takes more than this current; None where it never does on the way down.

    Source: the lower root of m^2 x^2 - I^2 x + w^2 = 0 in x = v^2; w/I without a magnetising part.

    >>> round(voltage_at(11.0, 6.0, 8.0), 4), round(voltage_at(10.0, 0.0, 8.0), 4)
    (0.8109, 0.8)
    """
    if not trip_a < math.inf:
        return None
    if idle_a <= NO_IDLE_A:
        return works_a / trip_a
    inner = trip_a**4 - 4.0 * idle_a**2 * works_a**2
    return None if inner < 0.0 else math.sqrt((trip_a**2 - math.sqrt(inner)) / (2.0 * idle_a**2))


def _high(motors: Sequence[MotorDuty], facts: ProtectionFacts, choices: ProtectionChoices, chosen: Mapping[str, float]) -> Setting:
    top_v, bottom_v = max(duty.plate.voltage_v for duty in motors), min(duty.plate.voltage_v for duty in motors)
    read_v, margin = max((max(read.volts) for duty in motors for read in duty.readings if read.volts), default=0.0), choices.voltage_margin
    by_fact_v = facts.high_voltage * top_v
    honest_v, words = (read_v, "highest voltage read") if read_v > by_fact_v else (by_fact_v, "highest honest supply voltage")
    value = honest_v * (1.0 + margin)
    terms = Term("V", words, honest_v, Q.VOLTAGE), Term("m", "apart by, by rule", margin, Q.PERCENT)
    trail = Trail("U = V · (1 + m)", terms, Term("U", "bound", value, Q.VOLTAGE), "survey and readings; margin by rule")
    lower = Bound(value, words, "It trips on a quiet night, when the supply is at its highest: nobody pumps.", Source.PHYSICS, trail)
    upper = _of_plate(bottom_v, choices.most_voltage, "most voltage, by maker or rule", "Iron saturates and insulation ages: the winding burns at no load.")
    proof = "With an adjustable source at its leads, or its dial turned down under the voltage that is there: it must let go."
    return placed(Watching.HIGH, ("Over-voltage trip", "high voltage, U>"), Q.VOLTAGE, Window((lower,), (upper,)), LEAN, STEP_V, chosen.get(Watching.HIGH), proof, GROUP)


def _uneven(motors: Sequence[MotorDuty], facts: ProtectionFacts, choices: ProtectionChoices, chosen: Mapping[str, float]) -> Setting:
    read = max((unbalance(each.volts) for duty in motors for each in duty.readings if len(each.volts) == 3), default=0.0)
    honest, words = (read, "unbalance read while a pump ran") if read > facts.uneven else (facts.uneven, "usual unbalance of the supply")
    value = honest + choices.voltage_margin
    terms = Term("u", words, honest, Q.PERCENT), Term("m", "apart by, by rule", choices.voltage_margin, Q.PERCENT)
    lower = Bound(value, words, "It trips on the supply as it always is: nobody pumps.", Source.PHYSICS, Trail("U = u + m", terms, Term("U", "bound", value, Q.PERCENT), "survey and readings; margin by rule"))
    rule = Term("s", "most unbalance, by rule", choices.most_uneven, Q.PERCENT)
    upper = [Bound(choices.most_uneven, "most unbalance, by rule", "One phase of the winding burns while the others are cool.", Source.CODE, Trail("U = s", (rule,), Term("U", "bound", choices.most_uneven, Q.PERCENT), f"NEMA MG 1, unbalance; {RULE}"))]
    upper += [_burns_from(duty) for duty in motors if duty.plate.phases is Phases.THREE and not duty.driven]
    labels = ("Unbalance trip", "voltage asymmetry")
    proof = "With an adjustable source on one of its leads: it must let go."
    return placed(Watching.UNEVEN, labels, Q.PERCENT, Window((lower,), tuple(upper)), LEAN, STEP_SHARE, chosen.get(Watching.UNEVEN), proof, GROUP)


def _burns_from(duty: MotorDuty) -> Bound:
    """From which unbalance the winding gets hotter than it stands, at the highest honest load. [share]"""
    load = min(1.0, duty.current_a(duty.highest) / (duty.plate.current_a * duty.plate.service_factor))
    value = uneven_within(load)
    terms = Term("L", "highest honest current, of what the plate allows", load, Q.PERCENT), Term("b", "heat at which it burns, of that of full load", BURNS_AT, Q.RATIO)
    trail = Trail("U = sqrt((b / L² - 1) / 200)", terms, Term("U", "bound", value, Q.PERCENT), "NEMA MG 1: the winding is warmer by twice the square of the per cent")
    return Bound(value, f"where the winding{duty.of_which} burns", "One phase of the winding gets hotter than its insulation stands.", Source.PHYSICS, trail)


def _delay(facts: ProtectionFacts, choices: ProtectionChoices, chosen: Mapping[str, float]) -> Setting:
    low_s = facts.start_s * choices.start_margin
    starts = Term("s", "time of a start at the lowest voltage", facts.start_s, Q.TIME), Term("k", "times it, by rule", choices.start_margin, Q.RATIO)
    lower = Bound(low_s, "a start, which pulls the voltage down", "Every start trips it.", Source.PHYSICS, Trail("t = s · k", starts, Term("t", "bound", low_s, Q.TIME), "survey; margin by rule"))
    stall = Term("d", "how long the rotor may stand", facts.stall_s, Q.TIME)
    harm = "At a voltage too low to turn the motor stands and burns before it trips."
    upper = Bound(facts.stall_s, "safe stall time", harm, Source.MAKER, Trail("t = d", (stall,), Term("t", "bound", facts.stall_s, Q.TIME), "maker"))
    proof = "Let the voltage fall and take the time until it lets go."
    return placed(Watching.DELAY, ("Supply trip delay", "response delay"), Q.TIME, Window((lower,), (upper,)), DELAY_LEAN, STEP_S, chosen.get(Watching.DELAY), proof, GROUP)


def _back(facts: ProtectionFacts, chosen: Mapping[str, float]) -> Setting:
    settles = Term("s", "time until a supply that came back has settled", facts.settles_s, Q.DURATION)
    waits = Term("w", "how long users, or the well, can wait", facts.patience_s, Q.DURATION)
    lower = Bound(facts.settles_s, "the supply settles", "Pumps start into a supply that still swings, and drop out again.", Source.PHYSICS, Trail("t = s", (settles,), Term("t", "bound", facts.settles_s, Q.DURATION), "survey"))
    upper = Bound(facts.patience_s, "how long users, or the well, can wait", "Nobody has water, or the well floods, long after the supply is back.", Source.PHYSICS, Trail("t = w", (waits,), Term("t", "bound", facts.patience_s, Q.DURATION), "survey"))
    proof = "Take the supply away, give it back and take the time until it lets pumps run."
    return placed(Watching.BACK, ("Wait after the supply is back", "power-on delay"), Q.DURATION, Window((lower,), (upper,)), BACK_LEAN, 1.0, chosen.get(Watching.BACK), proof, GROUP)
