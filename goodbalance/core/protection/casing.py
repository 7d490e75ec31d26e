"""The water in a pump's casing, which heats up while it does not move: the stop of a thermostat on it, and the time it takes."""

from collections.abc import Mapping

from goodbalance.core.balance.plan import Figure, Setting, placed
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import RULE, Bound, Source, Window
from goodbalance.core.protection.asked import ProtectionFacts
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.names import GROUP, Guarding, motor_id

HEAT_JM3K = 4.18e6  # of a cubic metre of water by one kelvin; warm water differs by less than a hundredth
APART_K, STEP_K, LEAN = 10.0, 1.0, 0.5


def heats_ks(duty: MotorDuty, volume_m3: float) -> float:
    """How fast the water in a casing heats up at a closed valve: all that the shaft gives stays in it. [K/s]

    Source: first law, P = rho c V dT/dt; the casing itself and its air take some of it, so that it is slower on site.
    """
    return duty.closed.input_w * min(1.0, duty.plate.efficiency) / (HEAT_JM3K * volume_m3)


def casing_stop(duty: MotorDuty, facts: ProtectionFacts, chosen: Mapping[str, float]) -> Setting:
    """At which temperature of its casing a pump is stopped. [degrees C]"""
    setting_id = motor_id(Guarding.CASING, duty.number)
    apart = Term("m", "apart by, kelvin, a rule of ours", APART_K, Q.RATIO)
    low, high = duty.water_c + APART_K, facts.casing_most_c - APART_K
    lower = Bound(
        low, "warm water that only flows through", "It stops a pump that works.", Source.PHYSICS,
        Trail("T = w + m", (Term("w", "warmest water", duty.water_c, Q.TEMPERATURE), apart), Term("T", "bound", low, Q.TEMPERATURE), f"survey; {RULE}"),
    )  # fmt: skip
    upper = Bound(
        high, "what seal and gaskets stand", "Seal and gaskets give in, and who opens the next tap is scalded.", Source.MAKER,
        Trail("T = s - m", (Term("s", "hottest water the seal stands", facts.casing_most_c, Q.TEMPERATURE), apart), Term("T", "bound", high, Q.TEMPERATURE), f"maker; {RULE}"),
    )  # fmt: skip
    labels = (f"Casing stop{duty.of_which}", "high casing temperature")
    proof = "Its bulb in a pot of warm water beside a thermometer: the pump must stop."
    return placed(setting_id, labels, Q.TEMPERATURE, Window((lower,), (upper,)), LEAN, STEP_K, chosen.get(setting_id), proof, GROUP)


def until_stopped(duty: MotorDuty, facts: ProtectionFacts, stop_c: float) -> Figure:
    """How long it takes at a closed valve until the casing stop is reached, from the warmest water. [s]"""
    rate = heats_ks(duty, facts.casing_m3)
    time_s = (stop_c - duty.water_c) / rate
    terms = (
        Term("T", "casing stop", stop_c, Q.TEMPERATURE), Term("w", "warmest water", duty.water_c, Q.TEMPERATURE), Term("V", "water in the casing", facts.casing_m3, Q.VOLUME),
        Term("c", "heat of a cubic metre of water, J per kelvin", HEAT_JM3K, Q.RATIO), Term("P", "shaft power at closed valve", rate * HEAT_JM3K * facts.casing_m3, Q.POWER),
    )  # fmt: skip
    trail = Trail("t = V · c · (T - w) / P", terms, Term("t", "time", time_s, Q.DURATION), "first law; the casing itself takes some heat")
    return Figure(f"casing_time_{duty.number}", f"Closed valve until the casing stop{duty.of_which}", time_s, Q.DURATION, trail)
