"""What the devices that protect the motors hold, motor by motor: as planned, or as somebody saw it."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from goodbalance.core.control.retries import Again
from goodbalance.core.protection.asked import ProtectionFacts
from goodbalance.core.protection.duty import MotorDuty
from goodbalance.core.protection.monitor import WITHOUT as OF_THE_SUPPLY
from goodbalance.core.protection.names import Follows, Guarding, UnderloadBy, Watching, WindingBy, guarding_of, motor_id
from goodbalance.core.protection.thermal import RATED_TO_TRIP

USUAL_CLASS_S = 10.0
WITHOUT: dict[Guarding, float] = {  # what acts where no device has a place for it
    Guarding.OVERLOAD: math.inf, Guarding.OVERLOAD_CLASS: USUAL_CLASS_S, Guarding.UNDERLOAD: -math.inf, Guarding.UNDERLOAD_DELAY: math.inf,
    Guarding.RETRY_WAIT: math.inf, Guarding.RETRIES: 0.0, Guarding.LONG_WAIT: math.inf, Guarding.UNDERLOAD_SPEED: 0.0, Guarding.CASING: math.inf,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class MotorNumbers:
    """What protects one motor. trip_a: the current at which its overload trips in the end; underload: A or W, as it is watched by."""

    trip_a: float = math.inf
    class_s: float = USUAL_CLASS_S
    underload: float = -math.inf
    delay_s: float = math.inf
    again: Again = Again()  # what follows when its load monitor has stopped it
    by: UnderloadBy = UnderloadBy.NOTHING
    from_speed: float = 0.0  # from which speed on its under-load counts, a share of full
    cube: bool = False  # whether that falls with the cube of the speed
    casing_c: float = math.inf  # at which a thermostat on its casing stops it
    hot: bool = False  # contacts in the winding stop it
    driven: bool = False  # a drive has a thermal image of its own, from the current that is typed there


def numbers_of(values: Mapping[str, float], duties: Sequence[MotorDuty], facts: ProtectionFacts) -> tuple[MotorNumbers, ...]:
    """For each pump, by the plan's settings that some device has a place for."""
    found: dict[int, MotorNumbers] = {}
    for duty in duties:
        held = {setting: values.get(motor_id(setting, duty.number), WITHOUT[setting]) for setting in Guarding}
        if duty.driven:
            held[Guarding.OVERLOAD] = duty.plate.current_a * RATED_TO_TRIP
        found |= dict.fromkeys(duty.pumps, _numbers(held, facts.underload_by, duty.driven and facts.follows is Follows.CUBE, facts.winding_by is WindingBy.CONTACT, duty.driven))
    return tuple(found[pump] for pump in sorted(found))


def _numbers(held: Mapping[Guarding, float], by: UnderloadBy, cube: bool, hot: bool, driven: bool) -> MotorNumbers:
    again = Again(held[Guarding.RETRY_WAIT], held[Guarding.RETRIES], held[Guarding.LONG_WAIT])
    return MotorNumbers(
        held[Guarding.OVERLOAD], held[Guarding.OVERLOAD_CLASS], held[Guarding.UNDERLOAD], held[Guarding.UNDERLOAD_DELAY], again,
        by, held[Guarding.UNDERLOAD_SPEED], cube, held[Guarding.CASING], hot, driven,
    )  # fmt: skip


def acts_without(setting_id: str) -> float:
    """What acts in the place of a setting of a motor that no device holds: nothing."""
    return OF_THE_SUPPLY[Watching(setting_id)] if setting_id in set(Watching) else WITHOUT[guarding_of(setting_id)]


def meaning(setting: Guarding, pump: int) -> str:
    """Under which meaning a device is told it: by pump, although motors alike share a setting."""
    return f"pump.{pump}.{setting}"


MEANINGS = tuple(f"pump.{{n}}.{setting}" for setting in Guarding)


def as_told(planned: tuple[MotorNumbers, ...], told: Mapping[str, float | str]) -> tuple[MotorNumbers, ...]:
    """The same with what somebody saw the devices hold in the place of what is planned."""
    found = []
    for pump, each in enumerate(planned, 1):
        held = dict(zip(Guarding, (each.trip_a, each.class_s, each.underload, each.delay_s, each.again.wait_s, each.again.count, each.again.long_s, each.from_speed, each.casing_c)))
        held |= {setting: value for setting in Guarding if isinstance(value := told.get(meaning(setting, pump)), float)}
        rated = told.get(f"drive.{pump}.current")
        if each.driven and isinstance(rated, float):
            held[Guarding.OVERLOAD] = rated * RATED_TO_TRIP
        found.append(_numbers(held, each.by, each.cube, each.hot, each.driven))
    return tuple(found)
