"""A maintenance pump on the bench: line and controller joined, with the actions a person can take on it."""

import copy
import math
from dataclasses import dataclass, field

from goodbalance.core.control.alarms import AlarmPanel
from goodbalance.core.control.reasons import ReasonLine
from goodbalance.core.physics.signals import Scaling
from goodbalance.core.protection.monitor import supply_of
from goodbalance.core.protection.names import SupplyAct, SupplyFault
from goodbalance.core.protection.reasons import with_motor
from goodbalance.core.protection.watch import WELL_FED, Fed
from goodbalance.core.rehearsal.engine import Bench, TimedAction
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among
from goodbalance.core.stations.maintenance import wording
from goodbalance.core.stations.maintenance.bench.calm import calm_s
from goodbalance.core.stations.maintenance.bench.happenings import Before, Hurt, harms
from goodbalance.core.stations.maintenance.bench.reasons import reason
from goodbalance.core.stations.maintenance.controller.alarms import causes_of
from goodbalance.core.stations.maintenance.controller.logic import MaintenanceLogic
from goodbalance.core.stations.maintenance.names import ACTS, Act, AnyAct, PumpFault, SetFault
from goodbalance.core.stations.maintenance.plant.motors import duties
from goodbalance.core.stations.maintenance.plant.plant import MaintenancePlant
from goodbalance.core.stations.shared.acts import named, switch_of, within
from goodbalance.core.stations.shared.faults import Faults, LoopFault, pump_of
from goodbalance.core.stations.shared.motor_watch import MotorWatch

LONGEST_S = 3.0 * 86400.0
FRESH_S = 2.0  # after a change the line is looked at scan by scan
UNKEPT_PA = 1e4  # under the start, that counts
STILL_SHARE = 1e-3  # of what is brought: less carries no heat worth having away
_LIMITS: dict[AnyAct, tuple[float, float]] = {Act.BLEED: (0.0, 0.1), Act.SPRINKLERS: (0.0, 20.0), Act.SUCTION: (0.0, 5e6)}  # of the amounts a person can turn to


@dataclass
class MaintenanceBench(Bench):
    """Supply, pump, line, sensing line and controller."""

    plant: MaintenancePlant
    logic: MaintenanceLogic
    faults: Faults
    starts: list[int] = field(default_factory=lambda: [0])
    run_s: list[float] = field(default_factory=lambda: [0.0])
    running: tuple[int, ...] = ()
    commanded: tuple[int, ...] = ()
    ends_s: float = -math.inf  # until when the pump runs down
    read_pa: float = 0.0  # filtered, as the controller believes it
    trapped_pa: float | None = None  # in a sensing line that is shut off
    lowest_pa: float = math.inf  # since the last action, for the person who watches
    highest_pa: float = -math.inf
    power_w: float = 0.0
    harmed: Hurt = frozenset()
    welded: bool = False
    still_s: float | None = None  # since when the pump has turned and moved no water
    under_s: float | None = None  # since when the line stands under the start and nothing brings it up
    told_mains: frozenset[int] = frozenset()  # main pumps whose start was told
    failed: bool = False
    fresh_s: float = -1.0  # until when a change is too fresh to tell how things will go on
    scan_s: float = 0.2

    def __post_init__(self) -> None:
        self.hyd = self.plant.hydraulics
        self.survey = self.hyd.survey
        motors = duties(self.survey)
        self.motors, self.supply = MotorWatch(motors, self.survey.protection.casing_m3), supply_of(motors)
        self.motors.go_by(self.logic.numbers.motors)
        self.supply.numbers = self.logic.numbers.monitor
        told = self.logic.numbers.signal
        self.takes_for = Scaling(told.low, told.high, 0.0, self.logic.numbers.range_pa)
        self.read_pa = self._reading_pa(0.0) or 0.0
        self.run_down_s = self.survey.sensor.run_down_s
        self.scan_s = min(0.5, max(0.05, self.survey.sensor.scan_s))

    @property
    def alarms(self) -> AlarmPanel:
        return self.logic.alarms

    @property
    def start(self) -> float:
        return self.plant.pressure_pa

    @property
    def pressure_pa(self) -> float:
        """At the sensor, in the line."""
        return self.plant.pressure_pa

    @property
    def columns(self) -> tuple[str, ...]:
        return ("pressure_pa", "flow_m3s", "out_m3s", "power_w", "supply_pa", "mains", "pump_1")

    # what people do

    def act(self, action: TimedAction) -> list[Event]:
        """What a person does.

        bleed (m3/s, as told at the main pump's churn), sprinklers (how many), suction (Pa), mains_off, switch of pump 1 (0 hand, 1 off, 2 auto), power, silence, reset,
        volts (share of the plate's), unevenness (share), or a fault (0/1).
        """
        act = named(action.kind, ACTS)
        self.lowest_pa, self.highest_pa, self.fresh_s = math.inf, -math.inf, action.at_s + FRESH_S
        self._take(act, action)
        return [wording.done(action, act)]

    def _take(self, act: AnyAct, action: TimedAction) -> None:
        logic, plant, value = self.logic, self.plant, action.value
        if isinstance(act, SetFault | SupplyFault):
            self.faults.put(act, bool(value), action.at_s)
            if act is SetFault.SENSING:
                self.trapped_pa = plant.pressure_pa if value else None
        elif isinstance(act, PumpFault):
            self.faults.put_pump(act, bool(value), action.target)
        elif isinstance(act, SupplyAct):
            self.supply.turn(act, value)
        elif act in _LIMITS:
            within(act, value, *_LIMITS[act])
            name = {Act.BLEED: "bleed_m3s", Act.SUCTION: "supply_pa"}.get(Act(act))
            setattr(plant, name or "sprinklers", value if name else round(value))
        elif act is Act.SWITCH:
            pump_of(action.target, 1)
            logic.turn_switch(switch_of(value))
        elif act is Act.MAINS_OFF:
            plant.mains, plant.for_fire = set(), set()
        elif act is Act.POWER:
            logic.power = plant.mains_power = bool(value)
        elif act is Act.SILENCE:
            logic.alarms.silence()
        else:
            logic.reset()

    # one scan

    def scan(self, now_s: float) -> list[Event]:
        logic, before = self.logic, Before(self.logic, self.running, self.told_mains)
        self.told_mains = frozenset(self.plant.mains)
        fed = self._break_things(now_s)
        self._guard(now_s, fed)
        self.failed = self._reading_pa(now_s) is None
        logic.scan(None if self.failed else self.read_pa, now_s)
        causes = causes_of(logic)
        if causes.keys() != logic.alarms.causes or logic.alarms.lamps:
            logic.alarms.update(causes)
        self._command(now_s)
        if self.running != before.running or now_s == 0.0:
            self.fresh_s = now_s + FRESH_S
            self._guard(now_s, fed)  # a motor takes its current from its start on
        changed = before.events(logic, self.running, self.pressure_pa, now_s, self.plant)
        self.starts[0] += len(list(among(changed, Thing.PUMP, Doing.STARTS)))
        under = not self.running and not self.plant.mains and self.pressure_pa < logic.numbers.start_pressure - UNKEPT_PA
        self.under_s = (now_s if self.under_s is None else self.under_s) if under else None
        said, self.harmed = harms(self, self.harmed, now_s, fed.two)
        return [*changed, *said]

    def _guard(self, now_s: float, fed: Fed) -> None:
        """What watches the motor: it may trip, or let it try again."""
        self.power_w = self._power_w()
        turns = bool(self.running)
        still = turns and self.plant.gives_m3s <= STILL_SHARE * self.plant.rate_m3s
        self.still_s = (now_s if self.still_s is None else self.still_s) if still else None
        shut = frozenset({0}) if self.still_s is not None and now_s > self.still_s else frozenset()
        for _, trip in self.motors.look(now_s, [1.0], [self.power_w], self.running, self.faults, fed, shut):
            self.logic.trip = self.logic.trip or trip
        for _ in self.motors.tries(now_s, [self.logic.trip]):
            self.logic.trip = None

    def _command(self, now_s: float) -> None:
        """Whether it is told to run; where it ran until now it runs down."""
        logic = self.logic
        called = (logic.serves or logic.by_hand) and logic.trip is None
        weak, welds = bool(self.faults.of(PumpFault.CAPACITOR)), bool(self.faults.of(PumpFault.WELDED))
        hums = weak and called and (bool(self.motors.humming) or not self.running)
        self.motors.humming = frozenset({0}) if hums else frozenset()
        self.welded = (self.welded or called) and welds
        turning = called or (self.welded and logic.power)
        if self.running and not turning:
            self.ends_s = now_s + self.run_down_s
        self.commanded, self.running = (0,) if called else (), (0,) if turning else ()

    def _break_things(self, now_s: float) -> Fed:
        """Let what is broken, and the supply as the person left it, act on water, motor and logic. Returns what the motor runs on."""
        plant, faults, parts = self.plant, self.faults, self.faults.parts
        supplied = self.supply.look(now_s, parts, self.logic.power)
        self.logic.phases_ok = not self.logic.power or supplied or not self.supply.numbers.fitted
        self.logic.supply_left_s = None if supplied else self.supply.waits_s
        plant.shut = bool(faults.of(PumpFault.SHUT) or faults.of(PumpFault.STALLED) or self.motors.humming)
        plant.worn, plant.backflow = bool(faults.of(PumpFault.WORN)), bool(faults.of(PumpFault.CHECK_VALVE)) or not self.survey.pumping.check_valve
        plant.backwards = bool(faults.of(PumpFault.BACKWARDS)) or (SupplyFault.SWAPPED in parts and self.supply.three)
        plant.leaks, plant.air = SetFault.LEAK in parts, SetFault.AIR in parts
        if self.supply.whole(parts):
            return WELL_FED
        return Fed(SupplyFault.PHASE in parts and self.supply.three, self.supply.share(parts), self.supply.uneven(parts))

    def _power_w(self) -> float:
        """What the motor takes from the supply at what it gives."""
        return self.hyd.curves.power_w(self.plant.gives_m3s if self.running else 0.0) if self.running else 0.0

    def _reading_pa(self, now_s: float) -> float | None:
        """What the controller makes of the sensor's signal; None where it means failure."""
        at_pa = self.pressure_pa if self.trapped_pa is None else self.trapped_pa
        signal = self.faults.signal(at_pa, now_s, self.hyd.scaling, self.hyd.signal)
        return None if self.logic.numbers.signal.has_failed(signal) else self.takes_for.value(signal)

    # time goes on

    def quiet_s(self, now_s: float) -> float:
        if now_s < self.fresh_s or now_s < self.ends_s or LoopFault.DRIFT in self.faults.parts:
            return 0.0
        shown_pa = self._reading_pa(now_s)
        waits = min(self.motors.left_s(), self.motors.waits_s(now_s), self.supply.left_s())
        return min(waits, calm_s(self.plant, self.logic, self.read_pa, self.read_pa if shown_pa is None else shown_pa, bool(self.running)))

    def advance(self, now_s: float, step_s: float) -> None:
        done_s = 0.0
        while done_s < step_s - 1e-9:
            left_s = self.ends_s - now_s - done_s
            part_s = min(step_s - done_s, left_s) if left_s > 1e-9 else step_s - done_s
            before_pa = self.pressure_pa
            self.plant.advance(bool(self.running) or left_s > 1e-9, part_s)
            self._filter(before_pa, part_s, now_s + done_s + part_s)
            done_s += part_s
            self.lowest_pa, self.highest_pa = min(self.lowest_pa, self.pressure_pa), max(self.highest_pa, self.pressure_pa)
        self.run_s[0] += step_s if self.running else 0.0
        self.plant.energy_j += self.power_w * step_s

    def _filter(self, before_pa: float, step_s: float, at_s: float) -> None:
        """The reading follows the pressure, which is taken to have gone straight from where it stood. Source: first-order lag on a ramp."""
        reading_pa, lag_s = self._reading_pa(at_s), self.logic.numbers.filter_s
        if reading_pa is None:
            return
        if lag_s <= 0.0:
            self.read_pa = reading_pa
            return
        stands = self.trapped_pa is not None or SetFault.FROZEN in self.faults.parts
        rate = 0.0 if stands else (self.pressure_pa - before_pa) / step_s
        begun = reading_pa - rate * step_s
        self.read_pa = reading_pa - rate * lag_s + (self.read_pa - begun + rate * lag_s) * math.exp(-step_s / lag_s)

    def peek(self, now_s: float, step_s: float) -> "MaintenanceBench":
        seen = copy.copy(self)
        seen.plant, seen.logic = copy.copy(self.plant), copy.copy(self.logic)
        seen.plant.mains, seen.plant.for_fire, seen.logic.since, seen.run_s = set(self.plant.mains), set(self.plant.for_fire), dict(self.logic.since), list(self.run_s)
        seen.advance(now_s, step_s)
        seen.logic.now_s = now_s + step_s
        return seen

    def sample(self, now_s: float) -> tuple[float, ...]:
        plant = self.plant
        return (self.pressure_pa, plant.gives_m3s, plant.out_m3s, self.power_w, plant.supply_pa, float(len(plant.mains)), float(bool(self.running)))

    def reasons(self) -> tuple[ReasonLine, ...]:
        line = reason(self.logic, self.read_pa, bool(self.running))
        return (with_motor(line, self.motors.watches[0], self.logic.now_s),)
