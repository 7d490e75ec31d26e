"""Proofs of what protects the motors: made to act pump by pump, and looked at in honest work too."""

from collections.abc import Iterator
from typing import NamedTuple

from goodbalance.core.balance.plan import Plan
from goodbalance.core.balance.proof import Answer, Proof
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.protection.asked import ProtectionFacts
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.names import Guarding, Watching, WindingBy, motor_id
from goodbalance.core.protection.thermal import trips_in_s

GROUP = "Motors"
DEAD = "Off, isolated, locked, proved dead: a test set feeds live current into the starter."
ITSELF = "It starts by itself and without warning: nobody near the pump."
DEAD_CONTACT = "Its circuit may be fed from elsewhere: prove it dead too."
HOT = "No longer than it takes: the water in the casing heats up."
RUNS = "In HAND nothing but this guard stops the pump: stay beside it."
OVERLOAD_SHARE, UNDERLOAD_SHARE, LEAST_S = 0.2, 0.1, 1.5  # of the expected time that a guard may be off; and at least so much
CASING_K = 4.0  # a bulb and a thermometer beside each other
UNDER_SPEED = 0.05  # so much under the speed from which it counts
WATCHED_S = 10.0  # beyond its delay, so long a guard must not trip


class Checks(NamedTuple):
    """What a kind of station calls its checks of motors. waits, tries: how long before a try, and how many; awake: from which speed on a load monitor counts."""

    overload: str
    underload: str
    waits: str
    tries: str
    awake: str
    hot: str
    casing: str


def proofs(checks: Checks, plan: Plan, duties: tuple[MotorDuty, ...], facts: ProtectionFacts) -> Iterator[Proof]:
    """The overload, the under-load with its tries, and the contacts in the winding and the thermostat of each pump."""
    for duty in duties:
        trip_id, least_id = motor_id(Guarding.OVERLOAD, duty.number), motor_id(Guarding.UNDERLOAD, duty.number)
        for pump in duty.pumps:
            if trip_id in plan:
                yield _overload(checks.overload, plan, duty, pump, trip_id)
            if least_id in plan:
                yield _underload(checks.underload, plan, duty, pump, least_id, facts.closed_trips)
                yield from _awake(checks.awake, plan, duty, pump, facts.closed_trips)
                yield from _tries(checks, plan, duty, pump, facts.closed_trips)
            if motor_id(Guarding.CASING, duty.number) in plan:
                yield _casing(checks.casing, plan, duty, pump)
            if facts.winding_by is WindingBy.CONTACT:
                yield _hot(checks.hot, pump)


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


def _awake(check: str, plan: Plan, duty: MotorDuty, pump: int, closed_trips: bool) -> Iterator[Proof]:
    """That the load monitor does not count while its drive turns slowly."""
    speed_id = motor_id(Guarding.UNDERLOAD_SPEED, duty.number)
    if speed_id not in plan:
        return
    slow = plan.value(speed_id, 0.0) - UNDER_SPEED
    watched_s = plan.value(motor_id(Guarding.UNDERLOAD_DELAY, duty.number), 0.0) + WATCHED_S
    does = "close its discharge valve" if closed_trips else "turn the monitor's limit over what it takes there"
    yield Proof(
        check, f"The load monitor of pump {pump} lets it be while it turns slowly", GROUP, f"The pump in HAND at {slow:.0%} of its speed.", (HOT, RUNS),
        f"At that speed {does} for {watched_s:.0f} s; put it back after.", "It runs on. (At full speed it is stopped: that is its own proof.)", Answer.YES_NO, proves=(speed_id,), of=str(pump),
    )  # fmt: skip


def _hot(check: str, pump: int) -> Proof:
    return Proof(
        check, f"The contacts in the winding of pump {pump} stop it", GROUP, "Off, isolated, locked, proved dead.", (DEAD_CONTACT, RUNS),
        "Take one lead of the winding's contacts off at its terminal; switch on, turn to HAND; off and dead again, put the lead back.",
        "It does not start, and it is told why; with the lead back it waits until somebody resets it.", Answer.YES_NO, of=str(pump),
    )  # fmt: skip


def _casing(check: str, plan: Plan, duty: MotorDuty, pump: int) -> Proof:
    setting_id = motor_id(Guarding.CASING, duty.number)
    return Proof(
        check, f"The thermostat on the casing of pump {pump} stops it", GROUP, "The pump runs in HAND and moves water; the bulb off its casing.", (RUNS, "Hot water: no bare hand in the pot."),
        "Hold the bulb in a pot beside a thermometer, warm the pot slowly and read it when the pump stops; bulb back on the casing. Not by a closed valve: that boils the pump.",
        "It stops at this temperature, its alarm comes, and it stays out until somebody resets it.", Answer.NUMBER, plan.value(setting_id, 0.0), CASING_K, Q.TEMPERATURE,
        proves=(setting_id,), of=str(pump),
    )  # fmt: skip


def _tries(checks: Checks, plan: Plan, duty: MotorDuty, pump: int, closed_trips: bool) -> Iterator[Proof]:
    """How long it waits before it tries again, and what comes when all tries are spent."""
    wait_id, count_id, long_id = (motor_id(each, duty.number) for each in (Guarding.RETRY_WAIT, Guarding.RETRIES, Guarding.LONG_WAIT))
    if wait_id not in plan:
        return
    wait_s, count, long_s = plan.value(wait_id, 0.0), plan.value(count_id, 0.0), plan.value(long_id, 0.0)
    does = "Close its discharge valve, let the load monitor stop it" if closed_trips else "Turn the monitor's limit over what the pump takes now, let it stop it"
    before = "The pump runs in HAND and moves water; signs say that it starts by itself."
    yield Proof(
        checks.waits, f"The load monitor of pump {pump} waits before it tries again", GROUP, before, (HOT, ITSELF), f"{does}, and take the time until the pump starts.",
        "It starts by itself after this time.", Answer.NUMBER, wait_s, max(LEAST_S, 0.05 * wait_s), Q.DURATION, proves=(wait_id,), of=str(pump),
    )  # fmt: skip
    ends = f"then it waits {_minutes(long_s)} and begins anew" if long_s else "then it stays out until somebody resets it"
    yield Proof(
        checks.tries, f"The tries of pump {pump} end", GROUP, before, (HOT, ITSELF), f"{does}, and leave the cause in. (To be done sooner the wait may be turned down; put it back after.)",
        f"It tries {count:.0f} times, {ends}.", Answer.YES_NO, proves=(count_id, *((long_id,) if long_s else ())), of=str(pump),
    )  # fmt: skip


def _minutes(time_s: float) -> str:
    return f"{time_s / 60.0:.0f} min"


def _underload(check: str, plan: Plan, duty: MotorDuty, pump: int, least_id: str, closed_trips: bool) -> Proof:
    delay_id = motor_id(Guarding.UNDERLOAD_DELAY, duty.number)
    delay_s, before = plan.setting(delay_id).value, "The pump runs in HAND and moves water."
    if closed_trips:
        return Proof(
            check, f"The load monitor of pump {pump} stops it at a closed valve", GROUP, before, (HOT, RUNS), "Close its discharge valve and take the time until it stops.",
            f"It stops after this time, its alarm comes, and it {'waits for its next try' if motor_id(Guarding.RETRIES, duty.number) in plan else 'stays out until somebody resets it'}.", Answer.NUMBER, delay_s,
            max(LEAST_S, UNDERLOAD_SHARE * delay_s), Q.TIME, proves=(least_id, delay_id), of=str(pump),
        )  # fmt: skip
    return Proof(
        check, f"The load monitor of pump {pump} lets it work against a closed valve", GROUP, before, (HOT, RUNS),
        f"Close its discharge valve for {delay_s + WATCHED_S:.0f} s, then open it again.", "It runs on. (That it stops a dry pump is shown only as the pump's maker permits.)",
        Answer.YES_NO, proves=(least_id, delay_id), of=str(pump),
    )  # fmt: skip


SUPPLY = "Supply"
SOURCE = "A live panel: licensed people only. The monitor's own leads are taken off and proved dead before a test source goes on them, and nothing else hangs on that source."
STARTS = "Nobody near the pumps: they start by themselves when the supply is right again."
NEAR_SHARE, APART, LEAST_SUPPLY_S = 0.01, 0.005, 1.5  # how far off a voltage, an unbalance and a time may be


def supply_proofs(check: str, swapped: str, plan: Plan, phased: bool, gap_s: float) -> Iterator[Proof]:
    """The monitor of the supply: each of its dials, and the order of the phases. check, swapped: what the kind of station calls them.

    gap_s: so long after it has let go the first pump starts.
    """
    before, low, high = "Pump 1 runs in HAND; every other pump in OFF.", Watching.LOW, Watching.HIGH
    if phased:
        yield Proof(
            swapped, "Swapped phases stop every pump", SUPPLY, "Off, isolated, locked, proved dead.", (SOURCE, STARTS),
            "Swap two of the monitor's own dead leads, and only those: no pump is ever turned backwards for a proof. Switch on, turn pump 1 to HAND. Put the leads back dead.",
            "No pump starts, and the monitor shows it.", Answer.YES_NO,
        )  # fmt: skip
    if low not in plan:
        return
    for each, way, dial in ((low, "down", "up over"), (high, "up", "down under")):
        value = plan.value(each, 0.0)
        yield Proof(
            check, f"The monitor lets go at its {'lowest' if each is low else 'highest'} voltage", SUPPLY, before, (SOURCE, STARTS),
            f"Turn an adjustable source on the monitor's leads slowly {way} and read the voltage at which it lets go. Without one: turn the dial {dial} the voltage that is "
            "there until it lets go, compare dial and meter, and turn it back to the sheet's number.",
            "Every pump stops at this voltage.", Answer.NUMBER, value, NEAR_SHARE * value, Q.VOLTAGE, proves=(each,), of=short(each),
        )  # fmt: skip
    if Watching.UNEVEN in plan:
        yield Proof(
            check, "The monitor lets go when phases are uneven", SUPPLY, before, (SOURCE, STARTS),
            "Turn one phase of an adjustable three-phase source down; reckon the largest deviation from the mean over the mean. Without one: the dial, as before.",
            "Every pump stops at this unbalance.", Answer.NUMBER, plan.value(Watching.UNEVEN, 0.0), APART, Q.PERCENT, proves=(Watching.UNEVEN,), of=short(Watching.UNEVEN),
        )  # fmt: skip
    delay_s, back_s = plan.value(Watching.DELAY, 0.0), plan.value(Watching.BACK, 0.0) + gap_s
    yield Proof(
        check, "A voltage that falls stops pumps in its time", SUPPLY, before, (SOURCE, STARTS), "Turn the source well under the lowest voltage at once and take the time until the pump stops.",
        "It stops after this time.", Answer.NUMBER, delay_s, max(LEAST_SUPPLY_S, 0.2 * delay_s), Q.TIME, proves=(Watching.DELAY, low), of=short(Watching.DELAY),
    )  # fmt: skip
    yield Proof(
        check, "It waits after the supply is back", SUPPLY, before, (SOURCE, STARTS), "Take one fuse of the monitor's circuit out for ten seconds, put it back and take the time until the pump starts.",
        "It starts after this time.", Answer.NUMBER, back_s, max(LEAST_SUPPLY_S, 0.1 * back_s), Q.DURATION, proves=(Watching.BACK,), of=short(Watching.BACK),
    )  # fmt: skip


def short(setting: Watching) -> str:
    """A dial's name without what it belongs to."""
    return setting.removeprefix("supply_")


def returns(by_hand: bool) -> tuple[str, str]:
    """What is done, and what must be seen after a power cut."""
    if by_hand:
        return "Switch the supply off and on again; wait; then press reset.", "Nothing starts, and an alarm says that it waits for a person. After the reset pumps start when they are wanted."
    return "Switch the supply off and on again.", "When the waits are over pumps start by themselves."
