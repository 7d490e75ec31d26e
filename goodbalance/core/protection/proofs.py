"""Proofs of what protects the motors: made to act pump by pump, and looked at in honest work too."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.protection.asked import ProtectionFacts
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.names import Guarding, motor_id
from goodbalance.core.protection.thermal import trips_in_s

GROUP = "Motors"
DEAD = "Off, isolated, locked, proved dead: a test set feeds live current into the starter."
HOT = "No longer than it takes: the water in the casing heats up."
RUNS = "In HAND nothing but this guard stops the pump: stay beside it."
OVERLOAD_SHARE, UNDERLOAD_SHARE, LEAST_S = 0.2, 0.1, 1.5  # of the expected time that a guard may be off; and at least so much
WATCHED_S = 10.0  # beyond its delay, so long a guard must not trip


def proofs(overload: str, underload: str, plan: Plan, duties: tuple[MotorDuty, ...], facts: ProtectionFacts) -> Iterator[Proof]:
    """The overload and the under-load of each pump. overload, underload: what the kind of station calls these checks."""
    for duty in duties:
        trip_id, least_id = motor_id(Guarding.OVERLOAD, duty.number), motor_id(Guarding.UNDERLOAD, duty.number)
        for pump in duty.pumps:
            if trip_id in plan:
                yield _overload(overload, plan, duty, pump, trip_id)
            if least_id in plan:
                yield _underload(underload, plan, duty, pump, least_id, facts.closed_trips)


def standing_s(plan: Plan, duty: MotorDuty) -> tuple[float, float]:
    """The current of the standing rotor, and after which time the overload trips at it from cold. [A, s]"""
    trip_a, class_s = (plan.setting(motor_id(setting, duty.number)).value for setting in (Guarding.OVERLOAD, Guarding.OVERLOAD_CLASS))
    current_a = duty.plate.current_a * duty.plate.start_factor
    return current_a, trips_in_s(current_a / trip_a, class_s)


def _overload(check: str, plan: Plan, duty: MotorDuty, pump: int, trip_id: str) -> Proof:
    current_a, expected_s = standing_s(plan, duty)
    return Proof(
        check, f"The overload of pump {pump} trips in its time", GROUP, "The pump has rested for an hour: its overload is cold.", (DEAD, RUNS),
        f"With a test set send {current_a:.1f} A, the current of its standing rotor, through the overload and take the time. Without a test set: run the pump in HAND and turn "
        "the overload under the running current; that shows that it opens and is told, not when. Then back to what the sheet says.",
        "It trips after this time, its alarm comes, and it stays out until somebody resets it.", Answer.NUMBER, expected_s,
        max(LEAST_S, OVERLOAD_SHARE * expected_s), Q.TIME, proves=(trip_id, motor_id(Guarding.OVERLOAD_CLASS, duty.number)), of=str(pump),
    )  # fmt: skip


def _underload(check: str, plan: Plan, duty: MotorDuty, pump: int, least_id: str, closed_trips: bool) -> Proof:
    delay_id = motor_id(Guarding.UNDERLOAD_DELAY, duty.number)
    delay_s, before = plan.setting(delay_id).value, "The pump runs in HAND and moves water."
    if closed_trips:
        return Proof(
            check, f"The load monitor of pump {pump} stops it at a closed valve", GROUP, before, (HOT, RUNS), "Close its discharge valve and take the time until it stops.",
            "It stops after this time, its alarm comes, and it stays out until somebody resets it.", Answer.NUMBER, delay_s,
            max(LEAST_S, UNDERLOAD_SHARE * delay_s), Q.TIME, proves=(least_id, delay_id), of=str(pump),
        )  # fmt: skip
    return Proof(
        check, f"The load monitor of pump {pump} lets it work against a closed valve", GROUP, before, (HOT, RUNS),
        f"Close its discharge valve for {delay_s + WATCHED_S:.0f} s, then open it again.", "It runs on. (That it stops a dry pump is shown only as the pump's maker permits.)",
        Answer.YES_NO, proves=(least_id, delay_id), of=str(pump),
    )  # fmt: skip
