"""What stops a booster set or one of its pumps, and what raises its alarms; and what its controller sees."""

from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

from goodbalance.core.stations.booster.survey.choices import OnFailure, Reset
from goodbalance.core.stations.booster.survey.control import ControlKind

if TYPE_CHECKING:
    from goodbalance.core.stations.booster.controller.logic import BoosterLogic

FAILURE_DELAY_S = 2.0
BACK_DELAY_S = 5.0  # how long the water must be back before it counts
AIR_SHARE = 0.6  # of its power without flow under which a pump turns in air
SMOOTH_S = 5.0  # over which a power is averaged
LOADED = 2.0  # times its power without flow: a pump that surely moves water
NEAR_FULL = 0.06  # noise keeps a regulator a little under its upper end


class Mode(StrEnum):
    """What the set is doing."""

    ASLEEP = "asleep"
    FILLING = "filling"
    RUNNING = "running"
    BOOSTING = "boosting"
    TESTING = "testing"


@dataclass(frozen=True, slots=True)
class Seen:
    """What the controller reads at one scan. suction_pa is None where nothing measures it; water_ok is the switch's word."""

    pressure_pa: float | None  # None: the signal means failure
    remote_pa: float | None
    suction_pa: float | None
    water_ok: bool
    flow_open: bool  # the flow switch says that nothing flows
    flow_m3s: float  # as the controller works it out from speed and pressure, for the setback
    powers_w: tuple[float, ...]
    idle_powers_w: tuple[float, ...]  # what each would take without flow at its speed
    speeds: tuple[float, ...]


def judge_stops(logic: "BoosterLogic", seen: Seen) -> None:
    n = logic.numbers
    _stop(
        logic,
        "sensor",
        logic.lasts("sensor", seen.pressure_pa is None, FAILURE_DELAY_S) and n.on_failure is OnFailure.STOP_ALL,
    )
    logic.remote_lost = n.remote_pressure is not None and logic.lasts("remote", seen.remote_pa is None, FAILURE_DELAY_S)
    low = not seen.water_ok or (seen.suction_pa is not None and seen.suction_pa <= n.low_suction_stop)
    back = seen.water_ok and (seen.suction_pa is None or seen.suction_pa >= n.low_suction_reset)
    if logic.lasts("low_suction", low, n.low_suction_delay):
        logic.stops["low_suction"] = n.suction_reset is Reset.BY_HAND
    if (
        "low_suction" in logic.stops
        and logic.lasts("water_back", back, BACK_DELAY_S)
        and not logic.stops["low_suction"]
    ):
        del logic.stops["low_suction"]
    if seen.pressure_pa is not None and seen.pressure_pa >= n.high_stop:
        logic.stops["high"] = True
    serving = logic.serving()
    flat_out = bool(serving) and len(serving) >= logic.can_serve() and _all_full(logic, serving, seen)
    limit_pa = (
        n.burst_stop
        if n.kind is not ControlKind.CONSTANT
        else min(n.burst_stop, logic.target_pa(logic.flow_m3s) - n.band_pa)
    )
    low_pressure = seen.pressure_pa is not None and seen.pressure_pa < limit_pa
    if logic.lasts("burst", flat_out and low_pressure and logic.mode is not Mode.FILLING, n.burst_delay):
        logic.stops["burst"] = True
    if logic.lasts("fill", logic.mode is Mode.FILLING, n.fill_timeout):
        if n.fill_stops:
            logic.stops["fill"] = True
        else:
            logic.mode = Mode.RUNNING
            logic.take_over(n.fill_speed)


def _stop(logic: "BoosterLogic", name: str, holds: bool) -> None:
    """A stop that lasts as long as its cause."""
    if holds:
        logic.stops[name] = False
    else:
        logic.stops.pop(name, None)


def _all_full(logic: "BoosterLogic", serving: tuple[int, ...], seen: Seen) -> bool:
    full = logic.numbers.most_speed if logic.numbers.kind is ControlKind.CONSTANT else logic.numbers.fixed_speed
    return all(seen.speeds[pump] >= full - NEAR_FULL for pump in serving)


def judge_pumps(logic: "BoosterLogic", seen: Seen) -> None:
    """Give up a pump that turns in air; note one that runs too long."""
    n = logic.numbers
    running = {*logic.serving(), *logic.by_hand()}
    for pump in range(logic.rotation.pump_count):
        idle_w = seen.idle_powers_w[pump]
        in_air = pump in running and idle_w > 0.0 and seen.powers_w[pump] < AIR_SHARE * idle_w
        if logic.lasts(f"air_{pump}", in_air, n.no_prime_delay):
            logic.tripped[pump] = "no prime"
        logic.lasts(f"long_{pump}", pump in running, n.max_run)
    logic.count_starts()


def runs_closed(logic: "BoosterLogic", seen: Seen) -> bool:
    """Whether one pump has taken no more power than without flow for too long, though the pressure is there."""
    n, serving = logic.numbers, logic.serving()
    back_pa = n.restart if n.kind is ControlKind.CONSTANT else n.cut_in
    alone = len(serving) == 1 and seen.pressure_pa is not None and seen.pressure_pa > back_pa
    idle_w = seen.idle_powers_w[serving[0]] if alone else 0.0
    if idle_w <= 0.0:
        logic.load = LOADED
        return logic.lasts("closed", False, n.closed_delay)
    # the reading's noise lets the pump breathe in and out of the tank: its power is looked at smoothly
    share = min(1.0, (logic.now_s - logic.scanned_s) / SMOOTH_S)
    logic.load += (seen.powers_w[serving[0]] / idle_w - logic.load) * share
    return logic.lasts("closed", logic.load <= n.closed_share, n.closed_delay)


def causes_of(logic: "BoosterLogic") -> dict[str, str]:
    """What raises an alarm now, in words."""
    words = {
        "sensor": "pressure sensor failed", "low_suction": "lack of water", "high": "high pressure",
        "burst": "run-out: a burst?", "fill": "pipes do not fill",
    }  # fmt: skip
    found = {name: words[name] for name in logic.stops}
    if logic.sensor_failed:
        found["sensor"] = words["sensor"]
    if logic.remote_lost:
        found["remote"] = "remote sensor failed"
    if not logic.phases_ok:
        found["phase"] = "phase missing or swapped"
    if logic.closed_noted:
        found["closed"] = "a pump ran against closed outlets: flow switch, sensor or cut-out"
    for pump in logic.over_started:
        found[f"starts_{pump + 1}"] = f"pump {pump + 1} starts too often: has the tank lost its gas?"
    for pump, why in enumerate(logic.tripped):
        if why:
            found[f"pump_{pump + 1}"] = f"pump {pump + 1}: {why}"
        if logic.left_s(f"long_{pump}", logic.numbers.max_run) == 0.0:
            found[f"long_{pump + 1}"] = f"pump {pump + 1} runs too long"
    return found
