"""A transfer set on the bench: water and controller joined, with the actions a person can take on it."""

import copy
import math
from dataclasses import dataclass, field
from itertools import repeat

from goodbalance.core.control.alarms import AlarmPanel
from goodbalance.core.control.reasons import ReasonLine
from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.signals import Scaling
from goodbalance.core.protection.duty import AIR_SHARE
from goodbalance.core.protection.monitor import supply_of
from goodbalance.core.protection.names import SupplyAct, SupplyFault
from goodbalance.core.protection.reasons import with_motor
from goodbalance.core.protection.watch import WELL_FED, Fed
from goodbalance.core.rehearsal.engine import Bench, TimedAction
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among
from goodbalance.core.stations.shared.acts import named, switch_of, within
from goodbalance.core.stations.shared.faults import LoopFault, pump_of
from goodbalance.core.stations.shared.motor_watch import MotorWatch
from goodbalance.core.stations.transfer import wording
from goodbalance.core.stations.transfer.bench.calm import READS_PA, calm_s, drifts_s
from goodbalance.core.stations.transfer.bench.happenings import AGAINST_S, Before, Hurt, harms
from goodbalance.core.stations.transfer.bench.reasons import reason
from goodbalance.core.stations.transfer.controller.alarms import causes_of
from goodbalance.core.stations.transfer.controller.logic import Seen, TransferLogic
from goodbalance.core.stations.transfer.names import ACTS, Act, AnyAct, PumpFault, SetFault, TankFault
from goodbalance.core.stations.transfer.plant.faults import TransferFaults
from goodbalance.core.stations.transfer.plant.motors import duties
from goodbalance.core.stations.transfer.plant.plant import HEAVIER, TransferPlant
from goodbalance.core.stations.transfer.survey.control import SourceBy, TankWire

LONGEST_S = 8.0 * 86400.0
STILL_SHARE = 1e-3  # of what is brought: less carries no heat worth having away
FRESH_S = 2.0  # after a change the water is looked at scan by scan
UNSEEN_M = math.inf  # what an unwatched source reads
BROKEN_M = -math.inf  # what a source's switch or sensor without its wire is taken for: normally closed may run
_LIMITS: dict[AnyAct, tuple[float, float]] = {  # of the amounts a person can turn to
    Act.DRAW: (0.0, 1e6), Act.SOURCE: (-1000.0, 5000.0), Act.LEVEL: (0.0, 60.0), Act.THROTTLE: (0.0, 1.0), Act.BLEED: (0.0, 2e5),
}  # fmt: skip


@dataclass
class TransferBench(Bench):
    """Sources, pumps, line, tanks, sensors and controller of one transfer set."""

    plant: TransferPlant
    logic: TransferLogic
    faults: TransferFaults
    starts: list[int] = field(default_factory=list)
    run_s: list[float] = field(default_factory=list)
    running: tuple[int, ...] = ()
    commanded: tuple[int, ...] = ()
    ends_s: dict[int, float] = field(default_factory=dict)  # pumps that run down, and until when
    read_pa: float = 0.0  # filtered, as the controller believes it
    lowest_pa: float = math.inf  # since the last action, for the person who watches
    highest_pa: float = -math.inf
    powers_w: list[float] = field(default_factory=list)
    harmed: Hurt = frozenset()
    welded: frozenset[int] = frozenset()
    still_s: dict[int, float] = field(default_factory=dict)  # since when a pump has turned and moved no water
    seen: Seen | None = None
    fresh_s: float = -1.0  # until when a change is too fresh to tell how things will go on
    scan_s: float = 1.0

    def __post_init__(self) -> None:
        count = len(self.plant.hydraulics.pumps)
        self.starts, self.run_s = self.starts or [0] * count, self.run_s or [0.0] * count
        self.powers_w = self.powers_w or [0.0] * count
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
        self.scan_s = min(1.0, max(0.1, self.survey.sensor.scan_s))

    @property
    def alarms(self) -> AlarmPanel:
        return self.logic.alarms

    @property
    def start(self) -> float:
        return self.plant.levels_m[0]

    @property
    def pressure_pa(self) -> float:
        """At the sensor, of the liquid that is in the line."""
        return self.plant.pressure_pa * (HEAVIER if self.plant.heavy else 1.0)

    @property
    def columns(self) -> tuple[str, ...]:
        tanks, pumps = range(1, len(self.hyd.branches) + 1), range(1, len(self.hyd.pumps) + 1)
        sources = range(1, len(self.survey.sources) + 1)
        return (
            "pressure_pa", "flow_m3s", "draw_m3s", "power_w", *(f"level_{n}_m" for n in tanks), *(f"open_{n}" for n in tanks), *(f"fill_{n}_m3s" for n in tanks),
            *(f"source_{n}_m" for n in sources), *(f"pump_{n}" for n in pumps),
        )  # fmt: skip

    # what people do

    def act(self, action: TimedAction) -> list[Event]:
        """What a person does.

        draw (share of the mean), pattern (0/1), source of number n (height in m), level of tank n (m), throttle (share closed), bleed (Pa a second), switch of pump n
        (0 hand, 1 off, 2 auto), start, power, silence, reset, volts (share of the plate's), unevenness (share), or a fault (0/1).
        """
        act = named(action.kind, ACTS)
        self.lowest_pa, self.highest_pa, self.fresh_s = math.inf, -math.inf, action.at_s + FRESH_S
        self._take(act, action)
        return [wording.done(action, act)]

    def _take(self, act: AnyAct, action: TimedAction) -> None:
        logic, value = self.logic, action.value
        if isinstance(act, SetFault | SupplyFault):
            self.faults.put(act, bool(value), action.at_s)
        elif isinstance(act, TankFault):
            self.faults.put_tank(act, bool(value), action.target)
        elif isinstance(act, PumpFault):
            self.faults.put_pump(act, bool(value), action.target)
        elif isinstance(act, SupplyAct):
            self.supply.turn(act, value)
        elif act in _LIMITS:
            within(act, value, *_LIMITS[act])
            self._set(act, action)
        elif act is Act.PATTERN:
            self.plant.pattern = bool(value)
        elif act is Act.SWITCH:
            logic.turn_switch(pump_of(action.target, len(self.starts)), switch_of(value))
        elif act is Act.START:
            logic.start()
        elif act is Act.POWER:
            logic.power = bool(value)
        elif act is Act.SILENCE:
            logic.alarms.silence()
        else:
            logic.reset()

    def _set(self, act: AnyAct, action: TimedAction) -> None:
        """An amount that a person turns to."""
        plant = self.plant
        if act is Act.DRAW:
            plant.draw_share = action.value
        elif act is Act.THROTTLE:
            plant.throttled = action.value
        elif act is Act.BLEED:
            plant.bleeds_pas = action.value
        elif act is Act.SOURCE:
            plant.sources_m[_one_of(action.target, len(plant.sources_m))] = action.value
        else:
            tank = _one_of(action.target, len(plant.levels_m))
            facts = self.hyd.branches[tank].tank
            within("level", action.value, 0.0, facts.overflow_m)
            plant.levels_m[tank] = action.value
            plant.valves[tank].put(action.value)

    # one scan

    def scan(self, now_s: float) -> list[Event]:
        logic, before = self.logic, Before(self.logic, self.running)
        fed = self._break_things(now_s)
        self.powers_w = self._powers()
        for pump, trip in self.motors.look(now_s, [1.0] * len(self.starts), self.powers_w, self.running, self.faults, fed, self._still(now_s)):
            logic.tripped[pump] = logic.tripped[pump] or trip
        for pump in self.motors.tries(now_s, logic.tripped):
            logic.tripped[pump] = None
        logic.run_s = self.run_s
        self.seen = self._seen(now_s)
        logic.scan(self.seen, now_s)
        causes = causes_of(logic, self.seen)
        if causes.keys() != logic.alarms.causes or logic.alarms.lamps:
            logic.alarms.update(causes)
        self._command(now_s)
        if self.running != before.running or now_s == 0.0:
            self.fresh_s = now_s + FRESH_S
            self.powers_w = self._powers()  # a motor takes its current from its start on
            for pump, trip in self.motors.look(now_s, [1.0] * len(self.starts), self.powers_w, self.running, self.faults, fed, self._still(now_s)):
                logic.tripped[pump] = logic.tripped[pump] or trip
        changed = before.events(logic, self.running, self.pressure_pa, now_s, self.seen)
        for event in among(changed, Thing.PUMP, Doing.STARTS):
            self.starts[event.pump - 1] += 1
        said, self.harmed = harms(self, self.harmed, now_s, fed.two)
        return [*changed, *said]

    def _command(self, now_s: float) -> None:
        """Who is told to run; who ran until now runs down."""
        logic = self.logic
        powered = logic.power and logic.phases_ok
        called = frozenset((*logic.served, *logic.by_hand())) if powered else frozenset()
        called -= frozenset(p for p in called if logic.tripped[p])
        weak, welds = self.faults.of(PumpFault.CAPACITOR), self.faults.of(PumpFault.WELDED)
        self.motors.humming = (self.motors.humming | (called - frozenset(self.running))) & weak & called
        self.welded = (self.welded | called) & welds
        turning = called | (self.welded if logic.power else frozenset())
        for pump in frozenset(self.running) - turning:
            self.ends_s[pump] = now_s + self.run_down_s
        self.ends_s = {pump: ends for pump, ends in self.ends_s.items() if pump not in turning and ends > now_s}
        self.commanded, self.running = tuple(sorted(called)), tuple(sorted(turning))

    def _break_things(self, now_s: float) -> Fed:
        """Let what is broken, and the supply as the person left it, act on water, motors and logic. Returns what motors run on."""
        plant, faults, parts = self.plant, self.faults, self.faults.parts
        supplied = self.supply.look(now_s, parts, self.logic.power)
        self.logic.phases_ok = not self.logic.power or supplied or not self.supply.numbers.fitted
        self.logic.supply_left_s = None if supplied else self.supply.waits_s
        every = frozenset(range(len(self.starts)))
        plant.stuck_open, plant.stuck_shut, plant.dribbling = faults.at(TankFault.STUCK_OPEN), faults.at(TankFault.STUCK_SHUT), faults.at(TankFault.DRIBBLES)
        plant.shut = faults.of(PumpFault.SHUT) | faults.of(PumpFault.STALLED) | self.motors.humming
        plant.worn, plant.backflow = faults.of(PumpFault.WORN), faults.of(PumpFault.CHECK_VALVE) if self.survey.line.check_valve else every
        wrong = SupplyFault.SWAPPED in parts and self.supply.three
        plant.backwards = every if wrong else faults.of(PumpFault.BACKWARDS)
        plant.leaks, plant.burst, plant.air, plant.dry, plant.heavy = (one in parts for one in (SetFault.LEAK, SetFault.BURST, SetFault.AIR, SetFault.DRY, SetFault.DENSITY))
        if self.supply.whole(parts):
            return WELL_FED
        return Fed(SupplyFault.PHASE in parts and self.supply.three, self.supply.share(parts), self.supply.uneven(parts))

    def _powers(self) -> list[float]:
        """What each motor takes from the supply at what it gives. In air it takes a quarter of that without flow."""
        found, gives = [], self.plant.gives(self.running)
        for pump, side in enumerate(self.hyd.pumps):
            if pump not in self.running:
                found.append(0.0)
            elif pump in gives or pump in self.plant.shut:
                found.append(side.curves.power_w(self.plant.pumped_m3s[pump] if pump in gives else 0.0))
            else:
                found.append(AIR_SHARE * side.curves.power_w(0.0))
        return found

    def _still(self, now_s: float) -> frozenset[int]:
        """Pumps that turn and move no water, from the scan after their start on."""
        still = [p for p in self.running if self.plant.pumped_m3s[p] <= STILL_SHARE * self.plant.rate_m3s]
        self.still_s = {pump: self.still_s.get(pump, now_s) for pump in still}
        return frozenset(pump for pump, since in self.still_s.items() if now_s > since)

    # what the controller sees

    def _reading_pa(self, now_s: float) -> float | None:
        """What the controller makes of the sensor's signal; None where it means failure."""
        signal = self.faults.signal(self.pressure_pa, now_s, self.hyd.scaling, self.hyd.signal)
        return None if self.logic.numbers.signal.has_failed(signal) else self.takes_for.value(signal)

    def _seen(self, now_s: float) -> Seen:
        failed = self._reading_pa(now_s) is None
        if not self.survey.control.by_levels:
            return Seen(None if failed else self.read_pa, (), self._sources())
        tanks, silent = [], set()
        for tank, level in enumerate(self.plant.levels_m):
            told: float | None = level
            off, joined = tank in self.faults.at(TankFault.WIRE_OFF), tank in self.faults.at(TankFault.WIRE_JOINED)
            if (off or joined) and self.logic.numbers.watched:
                told = None
            elif off or joined:
                silent.add(tank)
                wants_if_open = self.survey.control.tank_wire is not TankWire.OPENS  # a sensor without a live zero reads empty too
                told = -math.inf if wants_if_open is off else math.inf
            tanks.append(told)
        return Seen(None if failed else self.read_pa, tuple(tanks), self._sources(), frozenset(silent))

    def _sources(self) -> tuple[float, ...]:
        if self.survey.control.source_by is SourceBy.NONE:
            return tuple(UNSEEN_M for _ in self.plant.sources_m)
        if SetFault.SOURCE_WIRE in self.faults.parts:
            return tuple(BROKEN_M for _ in self.plant.sources_m)
        dry = SetFault.DRY in self.faults.parts
        return tuple(source.safe_m - 0.01 if dry else level for source, level in zip(self.survey.sources, self.plant.sources_m))

    # time goes on

    def quiet_s(self, now_s: float) -> float:
        drifts = LoopFault.DRIFT in self.faults.parts
        if self.seen is None or self.ends_s or now_s < self.fresh_s:
            return 0.0
        shown_pa = self._reading_pa(now_s)
        if shown_pa is not None and LoopFault.FROZEN in self.faults.parts and abs(shown_pa - self.read_pa) <= READS_PA:
            shown_pa = None  # it stands, whatever the water does
        told = [since + AGAINST_S - now_s for since in self.still_s.values() if since + AGAINST_S > now_s]
        waits = min([self.motors.left_s(), self.motors.waits_s(now_s), self.supply.left_s(), *told])
        left_s = drifts_s(self.logic, self.read_pa, self.faults.drift_per_s) if drifts else math.inf
        return min(waits, left_s, calm_s(self.plant, self.logic, self.read_pa, shown_pa, self.running, now_s))

    def advance(self, now_s: float, step_s: float) -> None:
        done_s = 0.0
        while done_s < step_s - 1e-9:
            part_s = min([step_s - done_s, *(ends - now_s - done_s for ends in self.ends_s.values() if ends - now_s - done_s > 1e-9)])
            turning = tuple(sorted({*self.running, *(pump for pump, ends in self.ends_s.items() if ends > now_s + done_s + 1e-9)}))
            before_pa = self.pressure_pa
            self.plant.advance(turning, now_s + done_s, part_s)
            self._filter(before_pa, part_s, now_s + done_s + part_s)
            done_s += part_s
        for pump in self.running:
            self.run_s[pump] += step_s
        self.plant.energy_j += sum(self.powers_w) * step_s
        self.lowest_pa, self.highest_pa = min(self.lowest_pa, self.pressure_pa), max(self.highest_pa, self.pressure_pa)

    def _filter(self, before_pa: float, step_s: float, at_s: float) -> None:
        """The reading follows the pressure, which is taken to have gone straight from where it stood. Source: first-order lag on a ramp."""
        reading_pa = self._reading_pa(at_s)
        if reading_pa is None:
            return
        lag_s = self.logic.numbers.filter_s
        if lag_s <= 0.0:
            self.read_pa = reading_pa
            return
        drift_pas = self.faults.drift_per_s if SetFault.DRIFT in self.faults.parts else 0.0
        rate = (self.pressure_pa - before_pa) / step_s - drift_pas if SetFault.FROZEN not in self.faults.parts else 0.0
        begun = reading_pa - rate * step_s
        self.read_pa = reading_pa - rate * lag_s + (self.read_pa - begun + rate * lag_s) * math.exp(-step_s / lag_s)

    def peek(self, now_s: float, step_s: float) -> "TransferBench":
        seen = copy.copy(self)
        seen.plant, seen.logic = copy.copy(self.plant), copy.copy(self.logic)
        for name in ("levels_m", "sources_m", "pumped_m3s", "filled_m3s", "drawn_m3s"):
            setattr(seen.plant, name, list(getattr(self.plant, name)))
        seen.plant.valves = [copy.copy(valve) for valve in self.plant.valves]
        seen.logic.since, seen.run_s = dict(self.logic.since), list(self.run_s)
        seen.advance(now_s, step_s)
        seen.logic.now_s = now_s + step_s
        return seen

    def sample(self, now_s: float) -> tuple[float, ...]:
        plant = self.plant
        return (
            self.pressure_pa, sum(plant.pumped_m3s), sum(plant.drawn_m3s), sum(self.powers_w), *plant.levels_m, *plant.openings(), *plant.filled_m3s, *plant.sources_m,
            *(float(pump in self.running) for pump in range(len(self.starts))),
        )  # fmt: skip

    def reasons(self) -> tuple[ReasonLine, ...]:
        lines = [reason(self.logic, self.read_pa, self.running, pump) for pump in range(len(self.starts))]
        return tuple(map(with_motor, lines, self.motors.watches, repeat(self.logic.now_s)))


def _one_of(target: str, count: int) -> int:
    """The tank or source a person means, 0 for the first. Raises OutOfRange."""
    if target not in {str(number) for number in range(1, count + 1)}:
        raise OutOfRange("target", target, f"1 to {count}")
    return int(target) - 1
