"""A booster set on the bench: plant and logic joined, with the actions a person can take on it."""

import copy
import math
from dataclasses import dataclass, field, replace
from itertools import repeat

from goodbalance.core.control.alarms import AlarmPanel
from goodbalance.core.control.reasons import ReasonLine
from goodbalance.core.control.trips import Trip
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.signals import Scaling
from goodbalance.core.protection.monitor import supply_of
from goodbalance.core.protection.names import SupplyAct, SupplyFault
from goodbalance.core.protection.reasons import with_motor
from goodbalance.core.protection.watch import Fed
from goodbalance.core.rehearsal.engine import Bench, TimedAction
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among
from goodbalance.core.stations.booster import wording
from goodbalance.core.stations.booster.bench.breaking import (
    broken_to_plant,
    burst_share,
    fed_by,
    lets_run,
    suction_reads_pa,
    told_of_water,
    turns_wrong,
)
from goodbalance.core.stations.booster.bench.calm import Panel, Rest, compared, rest_of, timers_left_s
from goodbalance.core.stations.booster.bench.gliding import Glance, glance, glide_of
from goodbalance.core.stations.booster.bench.happenings import Before, Hurt, harms
from goodbalance.core.stations.booster.bench.reasons import Looked, reason
from goodbalance.core.stations.booster.controller import stops
from goodbalance.core.stations.booster.controller.logic import BoosterLogic
from goodbalance.core.stations.booster.controller.numbers import Numbers
from goodbalance.core.stations.booster.controller.stops import Seen
from goodbalance.core.stations.booster.controller.water_switch import Seeing
from goodbalance.core.stations.booster.names import ACTS, LIMITS, Act, AnyAct, PumpFault, SetFault
from goodbalance.core.stations.booster.plant.faults import BoosterFaults
from goodbalance.core.stations.booster.plant.loop_model import SCAN_S, passes
from goodbalance.core.stations.booster.plant.motors import duties
from goodbalance.core.stations.booster.plant.zone import BoosterPlant
from goodbalance.core.stations.booster.survey.control import OutsideSet, SuctionBy
from goodbalance.core.stations.booster.windows.switched import flow_switch_m3s
from goodbalance.core.stations.shared.acts import named, switch_of, within
from goodbalance.core.stations.shared.faults import pump_of
from goodbalance.core.stations.shared.motor_watch import MotorWatch

STEP_S = stops.SCAN_S  # between scans of the slow logic; the regulator and the water go on every SCAN_S
STRAIGHT_RAMP_S = 0.5  # a motor straight on line
LOOK_EVERY_S = 1.0  # whether it stands still by now
EMPTY_PA = 0.0  # what a suction sensor reads when tank or main has run empty: air
LONGEST_S = 4.0 * 3600.0


@dataclass
class BoosterBench(Bench):
    """Supply, pumps, zone, outlets, sensors and controller of one booster set."""

    plant: BoosterPlant
    logic: BoosterLogic
    faults: BoosterFaults
    suction_by: SuctionBy = SuctionBy.SENSOR
    generator: bool = False
    outside: float = math.nan  # what comes from outside for the set pressure, a share of its span
    ramps_s: tuple[float, ...] = ()  # of each drive
    starts: list[int] = field(default_factory=list)
    run_s: list[float] = field(default_factory=list)
    running: tuple[int, ...] = ()
    noise_state: int = 1
    read_pa: float = 0.0  # filtered, as the controller believes it
    lowest_pa: float = math.inf  # since the last action, for the person who watches
    highest_pa: float = -math.inf
    flows_m3s: list[float] = field(default_factory=list)  # of each pump, as of the last scan
    powers_w: list[float] = field(default_factory=list)
    harmed: Hurt = frozenset()
    seen: Seen | None = None  # at the last scan
    welded: frozenset[int] = frozenset()  # pumps whose contactor does not open again
    whole: bool = False  # nothing was broken at the last scan, and the plant knows
    look_again_s: float = 0.0  # whether everything stands still
    looked_s: float = -1.0  # when that was looked at, and how it stood still
    rest: Rest | None = None
    glanced: Glance | None = None  # how it moved when that was last looked at
    water: Seeing | None = None  # how the switches of lack of water stand
    told: list[float] = field(default_factory=list)  # what each drive or contactor was told then
    scan_s: float = STEP_S

    def __post_init__(self) -> None:
        count = len(self.plant.speeds)
        self.starts, self.run_s = self.starts or [0] * count, self.run_s or [0.0] * count
        self.read_pa = self.plant.pressure_pa
        self.logic.believed_pa = self.plant.pressure_pa
        self.hyd = self.plant.hydraulics
        self.survey = self.hyd.survey
        self.noise_pa = self.survey.sensor.noise_pa
        self.burst_share = burst_share(self.plant, self.logic.rotation.duty_count)
        self.supply_pa = self.plant.suction_pa
        if math.isnan(self.outside):  # at first the outside asks for what the set would hold by itself
            self.outside = self.logic.value.share_for(self.logic.numbers.set_pressure)
        self.no_flow_m3s = flow_switch_m3s(self.survey)
        self.sees_pa = tuple(self.hyd.scaling.value(end) for end in (self.hyd.signal.lowest, self.hyd.signal.highest))
        motors = duties(self.survey)
        self.motors, self.supply = MotorWatch(motors, self.survey.protection.casing_m3, self.hyd.drive_efficiency), supply_of(motors)
        self._go_by(self.logic.numbers)
        if not self.reads_true:
            self.read_pa = self.logic.believed_pa = self._reading_pa(0.0, 0.0) or 0.0

    def _go_by(self, told: Numbers) -> None:
        """What the controller that leads takes the signal for, which may not be what it is, and how it filters it."""
        self.gone_by, self.far = told, told.remote_pressure is not None
        self.motors.go_by(self.logic.own[0].motors)
        self.supply.numbers = told.monitor
        self.water = None if told.water is None else Seeing(told.water) if self.water is None else replace(self.water, switch=told.water)
        self.scan_share = passes(SCAN_S, told.filter_s)
        self.takes_for = Scaling(told.signal.low, told.signal.high, 0.0, told.range_pa)
        self.reads_true = told.signal == self.hyd.signal and self.takes_for.is_as(self.hyd.scaling)

    @property
    def alarms(self) -> AlarmPanel:
        return self.logic.alarms

    @property
    def start(self) -> float:
        return self.plant.pressure_pa

    @property
    def columns(self) -> tuple[str, ...]:
        count = len(self.plant.speeds)
        pumps = tuple(f"pump_{n + 1}" for n in range(count))
        return ("pressure_pa", "set_pa", "suction_pa", "flow_m3s", "power_w", *pumps, *(f"speed_{n + 1}" for n in range(count)))

    def act(self, action: TimedAction) -> list[Event]:
        """What a person does.

        outlets (share of the design demand), suction (Pa of the supply), switch of pump n (0 hand, 1 off, 2 auto),
        hand_speed (share), outside (share of its signal), remote, run and week (0/1), keys (Pa), loop (0 by hand, 1 auto), loop_speed (share), power, generator, night (0/1), volts (share of the plate's), unevenness (share), drain, silence, reset, or a fault (0/1).
        """
        act = named(action.kind, ACTS)
        self.lowest_pa, self.highest_pa, self.glanced, self.looked_s = math.inf, -math.inf, None, -1.0
        self._take(act, action)
        return [wording.done(action, act)]

    def _take(self, act: AnyAct, action: TimedAction) -> None:
        logic, plant, value = self.logic, self.plant, action.value
        if isinstance(act, SetFault | SupplyFault):
            self.faults.put(act, bool(value), action.at_s)
        elif isinstance(act, PumpFault):
            pump = self.faults.put_pump(act, bool(value), action.target)
            if act is PumpFault.TRIP and value:
                logic.tripped[pump] = Trip.DRIVE
        elif isinstance(act, SupplyAct):
            self.supply.turn(act, value)
        elif act in LIMITS:
            within(act, value, *LIMITS[act])
            self._set(act, value)
        elif act is Act.SWITCH:
            logic.turn_switch(pump_of(action.target, len(plant.speeds)), switch_of(value))
        elif act is Act.POWER:
            logic.power = bool(value)
        elif act is Act.GENERATOR:
            if not self.generator:
                raise OutOfRange("generator", value, "nothing: the survey has no generator")
            logic.on_generator = bool(value)
        elif act is Act.NIGHT:
            hour = logic.numbers.night_from_h if value else logic.numbers.night_to_h
            if hour is not None:  # without a night set apart the clock changes nothing
                logic.set_clock(hour)
        elif act is Act.DRAIN:
            plant.drained, plant.pressure_pa = True, 0.0
            self.read_pa = 0.0
        elif act is Act.REMOTE:
            logic.value.remote = bool(value)
        elif act is Act.RUN:
            logic.value.closed = bool(value)
        elif act is Act.WEEK:
            logic.value.by_week = bool(value)
        elif act is Act.LOOP:
            logic.put_by(not value)
        elif act is Act.SILENCE:
            logic.alarms.silence()
        else:
            logic.reset()

    def _set(self, act: AnyAct, value: float) -> None:
        """An amount that a person turns to."""
        if act is Act.OUTLETS:
            self.plant.open_share = value
        elif act is Act.SUCTION:
            self.supply_pa = value
        elif act is Act.HAND_SPEED:
            self.logic.hand_speed = value
        elif act is Act.OUTSIDE:
            self.outside = value
        elif act is Act.KEYS:
            self.logic.value.keyed = value
        elif act is Act.LOOP_SPEED:
            if self.logic.value.loop_by_hand:  # the drive's own limits hold by hand too
                self.logic.output = min(self.logic.numbers.most_speed, max(self.logic.numbers.least_speed, value))
        elif act is Act.RAN:
            stops.run_longer(self.logic, value * 3600.0)
        else:
            self.logic.clock_s += value * 3600.0

    def scan(self, now_s: float) -> list[Event]:
        logic, before = self.logic, Before(self.logic, self.running)
        fed = self._break_things(now_s)
        self.flows_m3s = self.plant.flows_m3s()
        self.powers_w = self.plant.powers_w(self.flows_m3s)
        for pump, trip in self.motors.look(now_s, self.plant.speeds, self.powers_w, self.running, self.faults, fed, self.plant.shut):
            logic.tripped[pump] = logic.tripped[pump] or trip
        for pump in self.motors.tries(now_s, logic.tripped):
            logic.tripped[pump] = None
        logic.run_s = self.run_s
        for pump in self.faults.of(PumpFault.TRIP):
            logic.tripped[pump] = logic.tripped[pump] or Trip.DRIVE
        self.seen = self._seen(now_s)
        if logic.numbers.asking.outside is not OutsideSet.NONE:
            logic.value.hears(None if SetFault.OUTSIDE_LOST in self.faults.parts else self.outside)
        logic.scan(self.seen, now_s)
        if logic.numbers is not self.gone_by:
            self._go_by(logic.numbers)
        powered = logic.power and logic.phases_ok
        self.told = logic.wanted_speeds() if powered else [0.0] * len(self.plant.speeds)
        called = tuple([pump for pump, speed in enumerate(self.told) if speed > 0.0])
        uncalled = self._weld(called)
        self.running = called if not uncalled else tuple(sorted({*called} | uncalled))
        changed = before.events(logic, self.running, self.plant.pressure_pa, now_s)
        for event in among(changed, Thing.PUMP, Doing.STARTS):
            self.starts[event.pump - 1] += 1
        said, self.harmed = harms(self.plant, self.running, self.flows_m3s, self.harmed, now_s, self.motors.burning(), fed.two, uncalled, self.motors.boiling())
        return [*changed, *said]

    def _break_things(self, now_s: float) -> Fed:
        """Let what is broken, and the supplies as the person left them, act on water, motors and logic. Returns what motors run on."""
        plant, faults, driven = self.plant, self.faults, self.logic.numbers.driven
        supplied = self.supply.look(now_s, faults.parts, self.logic.power)
        self.logic.phases_ok = not self.logic.power or lets_run(self.supply, supplied, faults, driven)  # a dead controller tells of nothing
        if self.logic.callers is not None:
            self.logic.callers.stuck = {pump: on for fault, on in ((PumpFault.NO_CALL, False), (PumpFault.CALLS_ON, True)) for pump in faults.of(fault)}
        self.logic.supply_left_s = None if supplied else self.supply.waits_s
        dry = SetFault.DRY in faults.parts
        plant.suction_pa = EMPTY_PA if dry else self.supply_pa
        draws = not dry and plant.inlet_pa >= self.hyd.vapour_pa - self.hyd.air_pa + 1e4
        before, self.whole = self.whole, faults.none and draws
        if not before or not self.whole:
            broken_to_plant(plant, faults, draws, self.motors.humming, turns_wrong(self.supply, faults, driven), self.burst_share)
        return fed_by(self.supply, faults, driven)

    def _weld(self, called: tuple[int, ...]) -> frozenset[int]:
        """Pumps that turn although nobody calls them: a contactor that welded while it was closed. A capacitor too weak keeps others from turning."""
        if not self.faults.pumps:
            self.welded = self.motors.humming = frozenset()
            return self.welded
        weak, welds = self.faults.of(PumpFault.CAPACITOR), self.faults.of(PumpFault.WELDED)
        self.motors.humming = (self.motors.humming | ({*called} - {*self.running})) & weak & {*called}
        self.welded = (self.welded | {*called}) & welds
        uncalled = self.welded - {*called} if self.logic.power and not self.logic.numbers.driven else frozenset()
        for pump in uncalled:
            self.told[pump] = 1.0
        return uncalled

    def _reading_pa(self, now_s: float, noise_pa: float) -> float | None:
        """What the controller makes of the sensor's signal; None where it means failure."""
        noisy_pa = self.plant.pressure_pa + noise_pa
        if self.reads_true and not self.faults.parts:  # a whole sensor: it stops at its ends
            return min(self.sees_pa[1], max(self.sees_pa[0], noisy_pa))
        signal = self.faults.signal(noisy_pa, now_s, self.hyd.scaling, self.hyd.signal)
        return None if self.logic.numbers.signal.has_failed(signal) else self.takes_for.value(signal)

    def _noise(self) -> float:
        """The same wobble in every run, -1 to 1."""
        self.noise_state = (self.noise_state * 1103515245 + 12345) & 0x7FFFFFFF
        return self.noise_state / 1073741824.0 - 1.0

    def _remote_pa(self) -> float | None:
        remote = self.survey.remote
        if remote is None or SetFault.REMOTE_LOST in self.faults.parts:
            return None
        pressure_pa = self.plant.remote_pa(remote.height_m)
        return pressure_pa if 0.0 < pressure_pa < remote.range_pa else min(remote.range_pa, max(0.0, pressure_pa))

    def _seen(self, now_s: float) -> Seen:
        plant, hyd = self.plant, self.hyd
        raw_pa = self._reading_pa(now_s, self.noise_pa * self._noise())
        inlet_pa = plant.inlet_pa
        flow_open = not self.survey.control.sees_flow or (plant.flow_m3s < self.no_flow_m3s and SetFault.FLOW_STUCK not in self.faults.parts)
        water_ok, low_water = told_of_water(self.water, self.faults, inlet_pa, plant.suction_pa)
        return Seen(
            None if raw_pa is None else self.read_pa, self._remote_pa(),
            suction_reads_pa(self.survey, self.faults, inlet_pa) if self.suction_by is SuctionBy.SENSOR else None,
            water_ok, flow_open, plant.flow_m3s, tuple(self.powers_w),
            tuple([hyd.idle_w * n * n * n if n > 0.05 else 0.0 for n in plant.speeds]), tuple(plant.speeds), low_water, plant.pressure_pa,
        )  # fmt: skip

    def quiet_s(self, now_s: float) -> float:
        if now_s < self.look_again_s:
            return 0.0
        if self.looked_s != now_s:  # a run that is asked to go on stands where it stood, and is not looked at twice
            before, self.looked_s = self.glanced, now_s
            self.rest = self._rest(now_s)
            if self.rest is None:
                told = self.glanced is None or self.glanced.follows(before)  # two looks tell how it moves
                self.look_again_s = now_s + (LOOK_EVERY_S if told else STEP_S)
        if self.rest is None:
            return 0.0
        return min(self.rest.lasts_s, self.motors.left_s(), self.motors.waits_s(now_s), self.supply.left_s())

    def _rest(self, now_s: float) -> Rest | None:
        """How everything stands still now or glides, if it does."""
        before, self.glanced = self.glanced, None
        if self.seen is None or not self.reads_true or self.welded:
            return None
        remote_pa = self._remote_pa() if self.far and self.logic.holds_far_end() else None
        panel = Panel(self.read_pa, self._reading_pa(now_s, 0.0), remote_pa, self.told, self.noise_pa, self.seen, self.flows_m3s, self.no_flow_m3s)
        rest = rest_of(self.plant, self.logic, self.faults, panel, now_s)
        if rest is not None:
            return rest
        logic, plant = self.logic, self.plant
        self.glanced = glance(now_s, logic.mode, logic.served, plant.pace_pas, compared(plant, logic, panel))
        glide = glide_of(self.glanced, before)
        return Rest(plant.pressure_pa, min(glide.lasts_s, timers_left_s(logic, now_s)), plant.flow_m3s, by_s=glide.part_s) if glide else None

    def advance(self, now_s: float, step_s: float) -> None:
        rest = self.rest if self.rest and self.looked_s == now_s and step_s > (STEP_S if self.rest.by_s else 2.0 * STEP_S) else None
        for pump in self.running:
            self.run_s[pump] += step_s
        if rest is None or rest.by_s:
            done_s, most_s = 0.0, rest.by_s if rest else SCAN_S
            noise_pa = self.noise_pa * math.sqrt(SCAN_S / most_s)  # as much as the mean of so many
            wanted, regulating = list(self.told), self.logic.regulating()
            while done_s < step_s - 1e-9:
                part_s = min(most_s, step_s - done_s)
                self._go_on(wanted, regulating, now_s + done_s, part_s, noise_pa * self._noise())
                done_s += part_s
        elif rest.regulating:
            self.plant.stand(rest.pressure_pa, rest.regulating, rest.speed, step_s)
            self.logic.stands(rest.speed, rest.pressure_pa, rest.drawn_m3s)
            self.read_pa = rest.pressure_pa
        else:
            self.plant.run_on(step_s)
            self._read(now_s + step_s, step_s)
            self._watch()
        self.plant.energy_j += sum(self.powers_w) * step_s

    def _go_on(self, wanted: list[float], regulating: tuple[int, ...], at_s: float, step_s: float, noise_pa: float) -> None:
        """Sensor, regulator, drives and water, one after the other. wanted follows the regulator."""
        ahead_s = max(0.0, 0.5 * (step_s - SCAN_S))  # in the middle of a coarse step things stand as on its mean
        if self._read(at_s, step_s, noise_pa, self.plant.pace_pas * ahead_s):
            for pump in regulating:
                wanted[pump] = self.logic.within_own(pump, self.logic.output)
        self.plant.follow(wanted, self.ramps_s, step_s, ahead_s)
        self._watch()

    def _read(self, at_s: float, step_s: float, noise_pa: float = 0.0, ahead_pa: float = 0.0) -> bool:
        """Sensor, filter, regulator. ahead_pa: what the pressure gains until it is read. Returns whether it reckoned."""
        reading_pa = self._reading_pa(at_s, noise_pa + ahead_pa)
        if reading_pa is None:
            return False
        share, logic = self.scan_share if step_s == SCAN_S else passes(step_s, self.logic.numbers.filter_s), self.logic
        self.read_pa += share * (reading_pa - self.read_pa)
        far_pa = self._remote_pa() if self.far else None
        return logic.regulate(self.read_pa, None if far_pa is None else far_pa + ahead_pa, self.plant.flow_m3s, step_s)

    def _watch(self) -> None:
        """The person at the gauge sees how low and how high it goes."""
        pressure_pa = self.plant.pressure_pa
        if pressure_pa < self.lowest_pa:
            self.lowest_pa = pressure_pa
        if pressure_pa > self.highest_pa:
            self.highest_pa = pressure_pa

    def peek(self, now_s: float, step_s: float) -> "BoosterBench":
        seen = copy.copy(self)
        seen.plant, seen.logic = copy.copy(self.plant), copy.copy(self.logic)
        seen.logic.pid, seen.logic.since = copy.copy(self.logic.pid), dict(self.logic.since)
        seen.run_s = list(self.run_s)
        seen.advance(now_s, step_s)
        seen.logic.now_s = now_s + step_s
        return seen

    def sample(self, now_s: float) -> tuple[float, ...]:
        plant, logic = self.plant, self.logic
        n = logic.numbers
        target = logic.target_pa(logic.flow_m3s) if n.driven and n.restart > -math.inf else min(n.cut_out, n.set_pressure)
        far_pa = self._remote_pa() if self.far and logic.regulating() and logic.holds_far_end() else None
        if far_pa is not None and n.remote_pressure is not None:  # what the far end asks for here
            target = plant.pressure_pa + n.remote_pressure - far_pa
        return (
            plant.pressure_pa, target, plant.inlet_pa, plant.flow_m3s, sum(self.powers_w),
            *(float(pump in self.running) for pump in range(len(plant.speeds))), *plant.speeds,
        )  # fmt: skip

    def reasons(self) -> tuple[ReasonLine, ...]:
        at = Looked(self.logic, self.running, tuple(self.plant.speeds), self.read_pa)
        lines = [reason(at, pump) for pump in range(len(self.plant.speeds))]
        return tuple(map(with_motor, lines, self.motors.watches, repeat(self.logic.now_s)))
