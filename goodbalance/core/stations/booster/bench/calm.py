"""When a booster set on the bench stands still, and for how long: then one long step takes the place of hundreds.

It stands still where pressure, drives and regulator stay where they are, every comparison of the controller is clear of its
limit by more than the reading's noise, and no timer ends. A regulator stands still at its working point alone, and only if
its loop would come back there by itself.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from goodbalance.core.stations.booster.bench.gliding import SWEEP_PA
from goodbalance.core.stations.booster.controller.logic import BOOST_LIMIT_S, BoosterLogic
from goodbalance.core.stations.booster.controller.regulator import DAY_S
from goodbalance.core.stations.booster.controller.stops import (
    BACK_DELAY_S,
    FAILURE_DELAY_S,
    NEAR_FULL,
    Seen,
    closed_load,
)
from goodbalance.core.stations.booster.names import Mode, SetFault, Wait
from goodbalance.core.stations.booster.plant.faults import BoosterFaults
from goodbalance.core.stations.booster.plant.loop_model import LinearRegulator, LinearZone, shrinks_by, slopes
from goodbalance.core.stations.booster.plant.zone import TURNING, BoosterPlant
from goodbalance.core.stations.booster.survey.choices import NoFlowBy, PrimeBy, Sharing
from goodbalance.core.stations.booster.survey.control import SHORT_STOP_S, ControlKind

LONGEST_S, LEAST_S = 30.0, 1.5
STRIDE_PA = 5e3  # a pressure that runs away by itself is followed in steps of this size
TRIES = 4
STAYS_AT_LIMIT = 0.5  # of the integral's pace: a slower pressure does not bring the regulator away from its end
NEAR_PA = 60.0  # nothing on site tells so little apart
NEAR_SPEED = 0.001  # a share of full speed: 0.05 Hz
NEAR_SHARE = 0.002  # of the design flow
CLEAR_SUCTION_PA = 500.0
CLEAR_SPEED = 0.02
CLEAR_HEAD_M = 0.01
CLEAR_LOAD = 0.01  # of a pump's power without flow
AROUND_PA = 50.0  # over which slopes are taken
MOST_OF_CURVE = 1.02  # of the flow at the end of a curve, from where a person is told of it
LASTING_S = 10.0  # twenty scans in a row: as long noise keeps nothing on the side where it does not belong
BACK_IN = 0.9995  # by how much a disturbance must shrink in each reckoning of the regulator
_MOVING = frozenset({SetFault.DRIFT})


@dataclass(frozen=True, slots=True)
class Rest:
    """Where the set stands still: the pressure, how long at most, and the pumps that regulate with their speed."""

    pressure_pa: float
    lasts_s: float
    drawn_m3s: float
    regulating: tuple[int, ...] = ()
    speed: float = 0.0
    breathes: float = 0.0  # how far speeds are from there, and noise moves them
    by_s: float = 0.0  # not still, but slow and far from every limit: the parts in which it is gone on


@dataclass(frozen=True, slots=True)
class Panel:
    """What the controller works with between its scans: its reading, what it tells each drive, and what it cannot tell apart."""

    read_pa: float
    signal_pa: float | None  # what the sensor says now, noise apart; None where that means failure
    remote_pa: float | None  # as the far sensor reads, where the set holds it
    told: list[float]
    noise_pa: float
    seen: Seen  # at the last scan
    flows_m3s: list[float]  # of each pump then
    no_flow_m3s: float  # under which the flow switch opens


def rest_of(plant: BoosterPlant, logic: BoosterLogic, faults: BoosterFaults, panel: Panel, now_s: float) -> Rest | None:
    """How the set stands still now; None where something moves or may move. The controller must have scanned at now_s. [s]"""
    if not faults.parts.isdisjoint(_MOVING) or logic.mode in (Mode.BOOSTING, Mode.TESTING):
        return None
    if panel.signal_pa is not None and abs(panel.read_pa - panel.signal_pa) > panel.noise_pa + NEAR_PA:
        return None
    whole = SetFault.FROZEN not in faults.parts
    held = () if logic.sensor_failed else logic.regulating()
    if held and not _at_limit(logic, panel):
        rest = _regulated(plant, logic, panel, held) if whole else None  # a frozen reading winds the integral up
    elif plant.speeds == panel.told and plant.driven == panel.told:
        rest = _unregulated(plant, logic, panel, min(LONGEST_S, timers_left_s(logic, now_s)))
        if rest and held and not _stays_at_limit(plant, logic, panel, rest):
            return None
    else:
        return None
    if rest is None or not _is_clear(plant, logic, panel, rest):
        return None
    return replace(rest, lasts_s=min(rest.lasts_s, timers_left_s(logic, now_s)))


def timers_left_s(logic: BoosterLogic, now_s: float) -> float:
    """Until the first timer of the controller ends, its clock comes to an hour it knows, or a start is an hour old. [s]"""
    n, delays = logic.numbers, _delays(logic)
    left_s = [math.inf]
    for (wait, _), began_s in logic.since.items():
        ends_s = began_s + delays[wait] - now_s
        if ends_s > -1e-9:
            left_s.append(ends_s)
    for hour in (n.night_from_h, n.night_to_h):
        if hour is not None:
            left_s.append((hour * 3600.0 - logic.clock_s - now_s) % DAY_S)
    for line in n.asking.lines:
        begins = (day * DAY_S + line.from_h * 3600.0 for day in line.days.numbers)
        left_s.append(min((at_s - logic.clock_s - now_s) % (7.0 * DAY_S) for at_s in begins))
    left_s += [each.due_s - now_s for each in (logic.water, *logic.primes) if each.due_s is not None and each.due_s > now_s - 1e-9]
    left_s += [starts[0] + 3600.0 - now_s for starts in logic.started_s if starts]
    return min(left_s)


def _delays(logic: BoosterLogic) -> dict[Wait, float]:
    """After which time each condition counts."""
    n = logic.numbers
    return {
        Wait.SENSOR: FAILURE_DELAY_S, Wait.REMOTE: FAILURE_DELAY_S, Wait.LOW_SUCTION: n.low_suction_delay,
        Wait.WATER_BACK: BACK_DELAY_S, Wait.LOW_WATER: FAILURE_DELAY_S, Wait.BURST: n.burst_delay, Wait.FILL: n.fill_timeout, Wait.AIR: n.no_prime_delay,
        Wait.LONG: n.max_run, Wait.CLOSED: n.closed_delay, Wait.BOOST: BOOST_LIMIT_S, Wait.TEST: SHORT_STOP_S,
        Wait.JOIN: n.join_delay, Wait.LEAVE: n.leave_delay, Wait.BUMP: n.sleep_delay, Wait.IDLE: n.sleep_delay,
        Wait.NO_FLOW: n.flow_delay, Wait.RAN: n.least_run, Wait.POWER_BACK: n.power_delay, Wait.GAP: n.start_gap,
    }  # fmt: skip


def _wobble(logic: BoosterLogic, panel: Panel) -> float:
    """How far the reading's noise moves the regulator; the far sensor is steady. [share of full speed]"""
    return logic.numbers.gain * panel.noise_pa / logic.numbers.range_pa if panel.remote_pa is None else 0.0


def _error_pa(logic: BoosterLogic, panel: Panel, pressure_pa: float) -> float:
    """By how much the regulator sees too little."""
    if panel.remote_pa is not None:
        return (logic.numbers.remote_pressure or 0.0) - panel.remote_pa
    return logic.target_pa(logic.flow_m3s) - pressure_pa


def _at_limit(logic: BoosterLogic, panel: Panel) -> bool:
    """Whether the regulator stands at an end of its range and noise cannot bring it away from there."""
    n = logic.numbers
    error_pa = _error_pa(logic, panel, panel.read_pa)
    if logic.output >= n.most_speed - 1e-9:
        return error_pa > panel.noise_pa + NEAR_PA
    return logic.output <= n.least_speed + 1e-9 and error_pa < -panel.noise_pa - NEAR_PA


def _stays_at_limit(plant: BoosterPlant, logic: BoosterLogic, panel: Panel, rest: Rest) -> bool:
    """Whether the pressure moves so slowly that the integral keeps the regulator at its end."""
    moved_pa, error_pa = abs(rest.pressure_pa - plant.pressure_pa), abs(_error_pa(logic, panel, panel.read_pa))
    return moved_pa * logic.numbers.reset_time <= STAYS_AT_LIMIT * (error_pa - moved_pa) * rest.lasts_s


def _unregulated(plant: BoosterPlant, logic: BoosterLogic, panel: Panel, lasts_s: float) -> Rest | None:
    """Every drive at its speed: the water is let go on by itself, no further than to the next limit."""
    here_pa, margin_pa, pace_pas = plant.pressure_pa, panel.noise_pa + NEAR_PA, abs(plant.pace_pas)
    if pace_pas * LEAST_S > STRIDE_PA:
        return None
    room_pa = [STRIDE_PA, STRIDE_PA]  # down and up
    for limit_pa in _limits_pa(plant, logic):
        up = limit_pa > here_pa
        room_pa[up] = min(room_pa[up], abs(limit_pa - here_pa) - margin_pa)
    most_pa = room_pa[plant.pace_pas > 0.0]
    if pace_pas * lasts_s > most_pa > NEAR_PA:
        lasts_s = most_pa / pace_pas
    for _ in range(TRIES):
        if lasts_s < LEAST_S:
            return None
        after = plant.after(lasts_s)
        moved_pa = after.pressure_pa - here_pa
        if abs(moved_pa) > max(NEAR_PA, room_pa[moved_pa > 0.0]):
            lasts_s *= max(0.0, 0.9 * room_pa[moved_pa > 0.0] / abs(moved_pa))
        elif _told_apart(after, panel, logic) != _told_apart(plant, panel, logic):
            lasts_s *= 0.5
        else:
            return Rest(after.pressure_pa, lasts_s, after.flow_m3s)
    return None


def _told_apart(plant: BoosterPlant, panel: Panel, logic: BoosterLogic) -> tuple[bool, ...]:
    """On which side of its limit everything stands that is seen of flow and power, for every pump."""
    flows_m3s = plant.flows_m3s()
    loads = [power_w / idle_w for power_w, idle_w in zip(plant.powers_w(flows_m3s), panel.seen.idle_powers_w) if idle_w > 0.0]
    inlet_pa, n, share = plant.inlet_pa, logic.numbers, logic.numbers.closed_load
    return (
        plant.flow_m3s < panel.no_flow_m3s, *(inlet_pa <= mark_pa for mark_pa in n.suction_marks_pa),
        *(load < n.no_prime_load for load in loads), *(load <= share for load in loads),
        *(flow_m3s > plant.hydraulics.most_m3s * speed for flow_m3s, speed in zip(flows_m3s, plant.speeds)),
    )  # fmt: skip


def _regulated(plant: BoosterPlant, logic: BoosterLogic, panel: Panel, regulating: tuple[int, ...]) -> Rest | None:
    """The working point, if the set stands at it: the pressure wanted, and the speed that gives just what is drawn there."""
    error_pa = _error_pa(logic, panel, plant.pressure_pa)
    if abs(error_pa) > panel.noise_pa + NEAR_PA:
        return None
    others = [pump for pump in range(len(plant.speeds)) if pump not in regulating]
    moves = any(plant.speeds[pump] != panel.told[pump] or plant.driven[pump] != panel.told[pump] for pump in others)
    if moves or not plant.gives(regulating):
        return None
    n, hyd, pressure_pa = logic.numbers, plant.hydraulics, plant.pressure_pa + error_pa
    drawn_m3s, little_m3s = plant.drawn_m3s(pressure_pa), NEAR_SHARE * logic.numbers.design_m3s
    flow_m3s = drawn_m3s - sum(plant.pump_m3s(pump, pressure_pa) for pump in others)
    if flow_m3s <= little_m3s or (n.no_flow_pressure is not None and abs(logic.flow_m3s - drawn_m3s) > little_m3s):
        return None  # without flow the check valves close and nothing holds the speed
    inlet_pa = plant.suction_pa - plant.suction_loss * drawn_m3s * drawn_m3s
    speed = hyd.speed(hyd.added_m(pressure_pa, inlet_pa), flow_m3s, len(regulating))
    stand = [logic.output, *(plant.speeds[pump] for pump in regulating), *(plant.driven[pump] for pump in regulating)]
    off, wobble = max(abs(each - speed) for each in stand), _wobble(logic, panel)
    if not n.least_speed < speed < n.most_speed or off > NEAR_SPEED + wobble:
        return None
    rest = Rest(pressure_pa, LONGEST_S, drawn_m3s, regulating, speed, off + wobble)
    return rest if comes_back(plant, logic, panel, rest, flow_m3s) else None


def comes_back(plant: BoosterPlant, logic: BoosterLogic, panel: Panel, rest: Rest, flow_m3s: float) -> bool:
    """Whether a small disturbance dies away, by the linear loop at the working point. flow_m3s: of the pumps that regulate."""
    n, hyd, pa = logic.numbers, plant.hydraulics, rest.pressure_pa
    per_speed, per_pa = slopes(hyd, rest.speed, flow_m3s, len(rest.regulating))
    drawn_m3s, far = plant.drawn_m3s(pa), panel.remote_pa is not None
    drawn_per_pa = (plant.drawn_m3s(pa + AROUND_PA) - plant.drawn_m3s(pa - AROUND_PA)) / (2.0 * AROUND_PA)
    stored_per_pa = (plant.stored_m3(pa + AROUND_PA) - plant.stored_m3(pa - AROUND_PA)) / (2.0 * AROUND_PA)
    around_m3s = NEAR_SHARE * n.design_m3s
    rise_pa = logic.target_pa(drawn_m3s + around_m3s) - logic.target_pa(drawn_m3s - around_m3s)
    zone = LinearZone(
        per_speed, per_pa, drawn_per_pa, stored_per_pa, plant.lag_s,
        seen=1.0 - 2.0 * plant.loss_pa * drawn_m3s * drawn_per_pa if far else 1.0,
    )  # fmt: skip
    regulator = LinearRegulator(
        gain=n.gain / (n.remote_range_pa if far else n.range_pa), reset_s=n.reset_time, filter_s=0.0 if far else n.filter_s,
        setback_pa=0.0 if far else rise_pa / (2.0 * around_m3s), setback_s=n.setback_time,
    )  # fmt: skip
    return shrinks_by(zone, regulator) < BACK_IN


def compared(plant: BoosterPlant, logic: BoosterLogic, panel: Panel) -> Iterator[tuple[float, float, float]]:
    """Everything that is compared with a limit now: the quantity, its limit, and by how much noise may move it."""
    n, hyd, seen, little_m3s = logic.numbers, plant.hydraulics, panel.seen, NEAR_SHARE * logic.numbers.design_m3s
    for limit_pa in _limits_pa(plant, logic):
        yield panel.read_pa, limit_pa, panel.noise_pa + NEAR_PA
    if plant.tank_m3 > 0.0:
        yield plant.pressure_pa, plant.precharge_pa, NEAR_PA  # the tank about to be empty: from there on the pressure falls at once
    breathes = _wobble(logic, panel) if logic.regulating() else 0.0
    wobble = NEAR_SPEED + breathes
    for speed, _, _ in _limit_speeds(logic):
        yield logic.output, speed, wobble
    if _may_be_flat_out(logic, panel):
        for pump in logic.served:
            yield plant.speeds[pump], n.most_speed - NEAR_FULL, wobble
    if hyd.survey.control.sees_flow:
        yield plant.flow_m3s, panel.no_flow_m3s, little_m3s
    added_m = hyd.added_m(plant.pressure_pa, plant.inlet_pa)
    for speed in {plant.speeds[pump] for pump in logic.served}:  # a check valve about to open or to close
        shut_off_m = hyd.curve.coefficients[0] * speed * speed
        yield shut_off_m, added_m, CLEAR_HEAD_M + 2.0 * shut_off_m / max(speed, TURNING) * breathes
    for flow_m3s, speed in zip(panel.flows_m3s, plant.speeds):
        if speed > TURNING:
            yield flow_m3s, MOST_OF_CURVE * hyd.most_m3s * speed, little_m3s
    for limit_pa in n.suction_marks_pa:
        yield plant.inlet_pa, limit_pa, CLEAR_SUCTION_PA
    yield hyd.npsh_available_m(plant.inlet_pa), hyd.most_npsh_m, hyd.head_of(CLEAR_SUCTION_PA)
    for power_w, idle_w in zip(seen.powers_w, seen.idle_powers_w):
        if idle_w > 0.0:
            yield power_w / idle_w, n.no_prime_load, CLEAR_LOAD
    load = closed_load(logic, seen)
    if load is not None:
        share = logic.numbers.closed_load
        yield load, share, CLEAR_LOAD
        yield logic.load, share, CLEAR_LOAD


def _may_be_flat_out(logic: BoosterLogic, panel: Panel) -> bool:
    """Whether speed is what keeps a burst from being told: all that can serve do, at a pressure that may come under its limit."""
    limit_pa = max(logic.numbers.burst_stop, logic.target_pa(logic.flow_m3s) - logic.numbers.band_pa)
    return panel.read_pa < limit_pa + SWEEP_PA and len(logic.served) >= logic.can_serve()


def _limits_pa(plant: BoosterPlant, logic: BoosterLogic) -> Iterator[float]:
    """Every pressure at which something may happen: by the controller as it stands, or to pipes and tank."""
    n, target_pa = logic.numbers, logic.target_pa(logic.flow_m3s)
    yield from (n.high_stop, plant.hydraulics.weakest.at_sensor_pa)
    if plant.drained:
        yield plant.hydraulics.column_pa
    if n.prime_by is not PrimeBy.POWER:
        yield n.calls_under_pa if n.prime_by is PrimeBy.FLOW else n.no_prime_pressure
    if n.kind is not ControlKind.CONSTANT:
        yield from (n.cut_in, n.cut_out, n.burst_stop, *(mark for marks in n.switches for mark in marks))
    elif logic.mode is Mode.FILLING:
        yield n.fill_pressure
    elif logic.mode is not Mode.RUNNING or len(logic.served) == 1:  # above it one that is left alone is watched for closed outlets
        yield n.restart
    if n.kind is not ControlKind.CONSTANT or not logic.stage:
        return
    if all(plant.speeds[pump] >= n.most_speed - NEAR_FULL - CLEAR_SPEED for pump in logic.served) and len(logic.served) >= logic.can_serve():
        yield from (target_pa - n.band_pa, n.burst_stop)  # flat out: a burst?
    if n.sharing is Sharing.SERIAL and logic.output >= n.join_speed - CLEAR_SPEED:
        yield target_pa - n.band_pa / 2.0
    if n.sharing is Sharing.SERIAL and logic.output <= n.leave_speed + CLEAR_SPEED:
        yield target_pa + 2.0 * n.band_pa


def _limit_speeds(logic: BoosterLogic) -> Iterator[tuple[float, Wait, float]]:
    """Every speed at which a pump joins or leaves, or the last one may rest, as many as run now, with what must last there and how long."""
    n = logic.numbers
    if logic.stage < logic.can_serve():
        yield n.join_speed, Wait.JOIN, n.join_delay
    if logic.stage > 1:
        yield n.leave_speed, Wait.LEAVE, n.leave_delay
    elif n.no_flow is NoFlowBy.BUMP:
        yield n.bump_below, Wait.BUMP, n.sleep_delay
    elif n.no_flow is NoFlowBy.SPEED:
        yield n.sleep_speed, Wait.IDLE, n.sleep_delay


def _clears_speed(logic: BoosterLogic, rest: Rest, limit: float, wait: Wait, delay_s: float) -> bool:
    """Whether noise leaves a regulator that stands on its side of a speed: it cannot keep it on the other side as long as it must last there."""
    beside = rest.speed < limit if wait is Wait.JOIN else rest.speed > limit
    passing = beside and delay_s >= LASTING_S and (wait, 0) not in logic.since
    return abs(rest.speed - limit) > NEAR_SPEED + (0.0 if passing else rest.breathes)


def _is_clear(plant: BoosterPlant, logic: BoosterLogic, panel: Panel, rest: Rest) -> bool:
    """Whether noise can bring no comparison of the controller to its other side."""
    n, margin_pa = logic.numbers, panel.noise_pa + NEAR_PA
    if any(abs(panel.read_pa - limit) <= margin_pa or abs(rest.pressure_pa - limit) <= margin_pa for limit in _limits_pa(plant, logic)):
        return False
    if any(abs(plant.inlet_pa - limit) <= CLEAR_SUCTION_PA for limit in n.suction_marks_pa):
        return False
    load, share = closed_load(logic, panel.seen), logic.numbers.closed_load
    if load is not None and ((load <= share) is not (logic.load <= share) or (rest.regulating and abs(load - share) <= CLEAR_LOAD)):
        return False
    if not rest.regulating:
        return True
    if not all(_clears_speed(logic, rest, *limit) for limit in _limit_speeds(logic)):
        return False
    if n.no_flow is not NoFlowBy.FLOW or logic.stage > 1:
        return True
    if rest.drawn_m3s > panel.no_flow_m3s and n.sleep_delay >= LASTING_S and (Wait.IDLE, 0) not in logic.since:
        return True  # noise opens the flow switch now and then, never for long
    breathes_m3s = rest.breathes * slopes(plant.hydraulics, rest.speed, rest.drawn_m3s, 1)[0]  # into the tank and out of it
    return abs(rest.drawn_m3s - panel.no_flow_m3s) > breathes_m3s
