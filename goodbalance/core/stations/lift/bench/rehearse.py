"""A lift station on the bench: plant and logic joined, with the actions a person can take on it."""

import copy
import math
from dataclasses import dataclass, field
from itertools import repeat

from goodbalance.core.control.alarms import AlarmPanel
from goodbalance.core.control.reasons import ReasonLine
from goodbalance.core.control.relays import LevelRelay
from goodbalance.core.control.sequencer import Switch
from goodbalance.core.protection.monitor import supply_of
from goodbalance.core.protection.names import SupplyAct, SupplyFault
from goodbalance.core.protection.reasons import with_motor
from goodbalance.core.protection.watch import WELL_FED, Fed
from goodbalance.core.rehearsal.engine import SCAN_S, Bench, TimedAction
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among
from goodbalance.core.stations.lift import wording
from goodbalance.core.stations.lift.bench.breaking import Outside, broken_to_logic, team_sees
from goodbalance.core.stations.lift.bench.happenings import Before
from goodbalance.core.stations.lift.bench.harms import Hurt, Now, harms
from goodbalance.core.stations.lift.bench.marks import false_reading_left_s, next_mark_m
from goodbalance.core.stations.lift.bench.motor_watch import MotorWatch
from goodbalance.core.stations.lift.controller.logic import LiftLogic
from goodbalance.core.stations.lift.controller.program import LiftProgram
from goodbalance.core.stations.lift.controller.reasons import reason
from goodbalance.core.stations.lift.names import (
    ACTS,
    Act,
    AnyAct,
    FloatFault,
    GuardContact,
    PumpFault,
    StationFault,
    WireFault,
    float_id,
)
from goodbalance.core.stations.lift.plant.eye import Eye
from goodbalance.core.stations.lift.plant.faults import LEAK_SHARE, LiftFaults
from goodbalance.core.stations.lift.plant.motors import duties
from goodbalance.core.stations.lift.plant.water import LiftPlant, day_pattern_m3s
from goodbalance.core.stations.shared.acts import named, switch_of, within
from goodbalance.core.stations.shared.faults import pump_of

LONGEST_STEP_S, LONGEST_REST_S, SPILLS_S = 240.0, 1200.0, 60.0  # while pumps run, while the well only fills, and while it spills
DRIFT_SHARE = 0.02  # how much the net flow may change on the way to a mark, by the lift of the pumps
LAG_M = 0.001
MOST_INFLOW_M3S = 10.0


@dataclass
class LiftBench(Bench):
    """Well, pumps, sensor, floats, controller and panel of one lift station."""

    plant: LiftPlant
    logic: LiftLogic
    faults: LiftFaults = field(default_factory=lambda: LiftFaults(0))
    flow_per_speed_m3s: float = 0.0
    starts: list[int] = field(default_factory=list)
    run_s: list[float] = field(default_factory=list)
    running: tuple[int, ...] = ()  # pumps that turn, as of the last scan
    spilling: bool = False
    hurt: Hurt = frozenset()  # harms that were told of and last
    welded: frozenset[int] = frozenset()  # pumps whose contactor does not open again
    alarm_stamp: tuple[object, ...] = ()
    shown_m: float | None = None  # the level that its signal stood for at the last scan; None where that means failure
    outside: float = 0.5  # what comes from outside for the speed, a share of its span
    run_closed: bool = True  # whether the outside gives the run command
    remote: bool = True  # as the switch stands
    scan_s: float = SCAN_S

    def __post_init__(self) -> None:
        count = self.logic.panel.pump_count
        self.faults.pump_count, self.faults.float_roles = count, tuple(relay.role for relay in self.float_relays)
        self.faults.wired = (*(relay.role for relay in self.logic.relays), *(float_id(relay.role) for relay in self.logic.floats), *self.logic.program.guards.fitted)
        self.starts, self.run_s = self.starts or [0] * count, self.run_s or [0.0] * count
        self.floats_wet = [relay.follows(False, self.plant.level_m) for relay in self.float_relays]
        output = self.logic.program.output
        self.output = self.plant.hydraulics.scaling if output is None else output.scaling
        if output is not None:
            self.faults.lost, self.faults.lost_s = output.lost, output.lost_s
        self.eye = Eye() if output is None else Eye(output.fill_ms, output.empty_ms)
        self.roles = tuple(relay.role for relay in self.logic.relays)
        self.motors = MotorWatch(self.plant.hydraulics.survey)
        self.supply = supply_of(duties(self.plant.hydraulics.survey))
        self.fed = WELL_FED
        self.logic.panel.waits_after = self.logic.program.waits_after
        self._go_by(self.logic.program)

    def _go_by(self, program: LiftProgram) -> None:
        """What the controller that leads takes its signal for, and the levels at which something turns."""
        self.gone_by, hyd, sensor = program, self.plant.hydraulics, program.sensor
        self.motors.go_by(program.motors)
        self.supply.numbers = program.monitor
        self.reads_true = sensor.signal == hyd.signal and sensor.scaling.is_as(self.output)
        by_sensor = [] if self.logic.alone else self.logic.relays
        self.turns_m = [(r.energises_on_rise, self._true_m(r.on_m), self._true_m(r.off_m)) for r in by_sensor]
        self.turns_m += [(r.energises_on_rise, r.on_m, r.off_m) for r in self.float_relays]

    def _read_m(self, level_m: float) -> float:
        """What the controller takes a level for."""
        if self.reads_true:
            return level_m
        hyd = self.plant.hydraulics
        return self.logic.scaling.value(hyd.signal.healthy(self.output.signal(level_m)))

    def _true_m(self, read_m: float) -> float:
        """The level that the controller takes for this one."""
        return read_m if self.reads_true else self.output.value(self.logic.scaling.signal(read_m))

    @property
    def float_relays(self) -> tuple[LevelRelay, ...]:
        """The floats of this station, alone or behind a sensor."""
        return self.logic.relays if self.logic.alone else self.logic.floats

    @property
    def alarms(self) -> AlarmPanel:
        return self.logic.alarms

    @property
    def start(self) -> float:
        return self.plant.level_m

    @property
    def columns(self) -> tuple[str, ...]:
        pumps = tuple(f"pump_{index + 1}" for index in range(self.logic.panel.pump_count))
        relays = tuple(f"relay_{role}" for role in self.roles)
        floats = tuple(f"float_{relay.role}" for relay in self.logic.floats)
        speed = ("speed",) if self.logic.drive is not None else ()
        return ("level_m", "inflow_m3s", "outflow_m3s", *pumps, *relays, *floats, *speed)

    def _turning(self) -> tuple[int, ...]:
        """Pumps that really turn: called in, and their starters pull."""
        called, stuck = self.logic.panel.running, self.welded if self.logic.panel.power else frozenset()
        if True not in called and not stuck:
            return ()
        broken = self.faults.of(PumpFault.STARTER) | self.faults.of(PumpFault.NODE)
        return tuple([index for index, on in enumerate(called) if (on and index not in broken) or index in stuck])

    def act(self, action: TimedAction) -> list[Event]:
        """What a person does.

        inflow (m3/s), pattern and rain (0/1), outside (share of the signal for the speed), run and remote (0/1), switch of pump n (0 hand, 1 off, 2 auto), power (0/1), volts (share of the plate's), unevenness (share), silence, reset, or a fault (0/1).
        """
        act = named(action.kind, ACTS)
        late = isinstance(act, StationFault) and action.at_s > self.logic.now_s + self.scan_s  # over a long step the controller saw the water until now
        seen = self.scan(action.at_s - self.scan_s) if late else []
        self._take(act, action)
        return [*seen, wording.done(action, act)]

    def _take(self, act: AnyAct, action: TimedAction) -> None:
        panel, plant, value = self.logic.panel, self.plant, action.value
        if isinstance(act, StationFault | SupplyFault):
            self.faults.put(act, bool(value), action.at_s)
        elif isinstance(act, FloatFault):
            self.faults.put_float(act, bool(value), action.target)
        elif isinstance(act, PumpFault):
            self.faults.put_pump(act, bool(value), action.target)
        elif isinstance(act, WireFault):
            self.faults.put_wire(bool(value), action.target)
            self.logic.cut = self.faults.wires
        elif isinstance(act, SupplyAct):
            self.supply.turn(act, value)
        elif act is Act.INFLOW:
            within(act, value, 0.0, MOST_INFLOW_M3S)
            plant.inflow_m3s, plant.pattern_m3s = value, None
        elif act is Act.PATTERN:
            plant.pattern_m3s = day_pattern_m3s(plant.hydraulics.survey.inflow) if value else None
        elif act is Act.RAIN:
            plant.rain_at_s = action.at_s if value else None
        elif act is Act.SWITCH:
            panel.turn_switch(pump_of(action.target, panel.pump_count), switch_of(value))
        elif act is Act.POWER:
            panel.power = bool(value)
        elif act is Act.OUTSIDE:
            within(act, value, 0.0, 1.0)
            self.outside = value
        elif act is Act.RUN:
            self.run_closed = bool(value)
        elif act is Act.REMOTE:
            self.remote = bool(value)
        elif act is Act.SILENCE:
            self.logic.alarms.silence()
        else:
            self.logic.reset()

    def scan(self, now_s: float) -> list[Event]:
        logic = self.logic
        before = Before(logic, self.running)
        hyd = self.plant.hydraulics  # the sensor as it is, whatever the controller takes it for
        seen_m = self.eye.look(self.plant.level_m + self.faults.before_m, now_s)
        signal = self.faults.signal(seen_m, now_s, self.output, hyd.signal)
        supplied = self.supply.look(now_s, self.faults.parts, logic.panel.power)
        logic.panel.supply_left_s = None if supplied else self.supply.waits_s
        broken_to_logic(logic, self.faults, Outside(self.outside, self.run_closed, self.remote), supplied)
        self._guard_motors(now_s)
        if logic.leader is not None:
            team_sees(logic, logic.leader, self.faults, signal, hyd.signal)
        turning = self._turning()
        unseen = self.faults.of(PumpFault.FEEDBACK)
        feedback = tuple(pump in turning and pump not in unseen for pump in range(logic.panel.pump_count))
        logic.scan(signal, now_s, feedback, self._float_contacts())
        self.shown_m = None if logic.signal_range.has_failed(signal) else logic.scaling.value(signal)
        if logic.program is not self.gone_by:
            self._go_by(logic.program)
        self.running = self._turning()
        self.plant.speed = 1.0 if logic.drive is None else self._speed()
        broken = bool(self.faults.pumps) or self.fed is not WELL_FED or not self.supply.whole(self.faults.parts)
        if broken:
            self._set_broken(before.pumps)
        if self.running != before.pumps or broken:
            self._guard_motors(now_s)  # what they take from here on
        changed = before.events(logic, self.running, self.plant.level_m, now_s)
        for event in among(changed, Thing.PUMP, Doing.STARTS):
            self.starts[event.pump - 1] += 1
        return [*changed, *self._alarm_events(now_s), *self._harms(now_s, broken)]

    def _guard_motors(self, now_s: float) -> None:
        """Let what protects the motors act on what they take."""
        panel = self.logic.panel
        for pump, trip in self.motors.look(now_s, self.plant, self.running, self.faults, self.fed):
            panel.tripped[pump] = panel.tripped[pump] or trip
        for pump in self.motors.tries(now_s, panel.tripped):
            panel.tripped[pump] = None

    def _speed(self) -> float:
        """The drives' speed; a pump in HAND runs at full speed, and all share one."""
        by_hand = any(self.logic.panel.switches[pump] is Switch.HAND for pump in self.running)
        return 1.0 if by_hand or self.logic.drive is None else self.logic.drive.speed

    def _float_contacts(self) -> tuple[bool, ...]:
        """Each float's contact: by the water, or as it is caught."""
        relays = self.float_relays
        if not relays:
            return ()
        self.floats_wet = [relay.follows(was, self.plant.level_m) for relay, was in zip(relays, self.floats_wet)]
        if not self.faults.floats and not self.faults.wires:
            return tuple(self.floats_wet)
        closed = []
        for relay, wet in zip(relays, self.floats_wet):
            caught = self.faults.floats.get(relay.role)
            shut = wet if caught is None else (caught is FloatFault.UP) is relay.energises_on_rise
            closed.append(shut and (relay.role if self.logic.alone else float_id(relay.role)) not in self.faults.wires)
        return tuple(closed)

    def _set_broken(self, before: tuple[int, ...]) -> None:
        """Tell plant and motors what they run on, which pumps move little or nothing, and how much runs back through those at rest."""
        faults, supply, started = self.faults, self.supply, {*self.running} - {*before}
        driven = self.logic.drive is not None  # a drive makes its own voltage and order
        whole = supply.whole(faults.parts)
        two = SupplyFault.PHASE in faults.parts and not self.logic.program.guards.heeded(GuardContact.PHASE)
        self.fed = WELL_FED if whole else Fed(two) if driven else Fed(two, supply.share(faults.parts), supply.uneven(faults.parts))
        self.welded = (self.welded | {*self.running}) & faults.of(PumpFault.WELDED)
        self.motors.humming = (self.motors.humming | started) & faults.of(PumpFault.CAPACITOR) & {*self.running}
        self.plant.clogged = self.all_pumps if self.turns_wrong else faults.of(PumpFault.CLOGGED)
        self.plant.still = faults.of(PumpFault.SHUT) | faults.of(PumpFault.STALLED) | self.motors.humming
        leaking = self.faults.of(PumpFault.CHECK_VALVE) - {*self.running}
        self.plant.leak_share = min(0.9, LEAK_SHARE * len(leaking))

    def _alarm_events(self, now_s: float) -> list[Event]:
        """What came up on the alarm panel and what went. Nothing is looked up while nothing that raises alarms moves."""
        logic, panel = self.logic, self.logic.panel
        stamp = (
            *logic.energised, *logic.floats_closed, *panel.tripped, panel.cycles, logic.sensor_failed,
            logic.doubted, panel.phases_ok, panel.power, panel.waits, len(panel.over_run), len(panel.over_often), logic.seal_leaks, len(logic.alarms.lamps), *self._team_stamp(),
        )  # fmt: skip
        if stamp == self.alarm_stamp:
            return []
        self.alarm_stamp = stamp
        causes = self.logic.causes()
        if causes.keys() == self.logic.alarms.causes and causes.keys() == self.logic.alarms.lamps.keys():
            return []
        came, cleared = self.logic.alarms.update(causes)
        events = [wording.alarm_moves(now_s, alarm, True, causes[alarm]) for alarm in came]
        return events + [wording.alarm_moves(now_s, alarm, False, self.logic.alarms.words[alarm]) for alarm in cleared]

    def _team_stamp(self) -> tuple[object, ...]:
        """What a team of drives may raise alarms by."""
        leader = self.logic.leader
        return () if leader is None else (leader.alive, leader.linked, self.logic.signals)

    def _harms(self, now_s: float, broken: bool) -> list[Event]:
        """What begins to hurt. Nothing is looked up while nothing is broken and the water stands between intake and overflow."""
        self.spilling = self.plant.volume_m3 >= self.plant.overflow_m3 - 1e-9
        burning = self.motors.burning()
        dry = self.plant.level_m <= self.plant.intake_m + 1e-9
        if not (broken or dry or self.spilling or self.hurt or burning):
            return []
        now = Now(self.running, self.logic.panel.running, self.fed.two, self.turns_wrong, self.faults.of(PumpFault.BACKWARDS), burning, self.motors.boiling())
        said, self.hurt = harms(self.plant, now, self.hurt, now_s)
        return said

    @property
    def all_pumps(self) -> frozenset[int]:
        """Every pump that is installed, 0 for pump 1."""
        return frozenset(range(self.logic.panel.pump_count))

    @property
    def turns_wrong(self) -> bool:
        """Whether swapped phases turn the pumps the wrong way; a drive makes its own order."""
        return SupplyFault.SWAPPED in self.faults.parts and self.logic.drive is None and self.supply.three

    def quiet_s(self, now_s: float) -> float:
        """Time until a timer ends, the pattern bends, or the level can reach the next switching point."""
        plant = self.plant
        if self._reading_lags() or (self.faults.pumps and self._unnoticed()):
            return 0.0  # the reading moves by itself, or a starter's feedback is about to be missed: scan every second
        timer_s = min(self.logic.timer_left_s(), self.motors.left_s(self.running), self.motors.waits_s(now_s), self.supply.left_s(), false_reading_left_s(plant, self.logic, self.faults, self._true_m, self.running, now_s))
        if timer_s <= self.scan_s:
            return timer_s
        limit_s = min(LONGEST_STEP_S if self.running else LONGEST_REST_S, plant.knot_left_s(now_s))
        net_m3s = plant.net_m3s(self.running, now_s)
        rises = net_m3s > 0.0 or not self.running  # water at rest can only rise
        stands_s = SPILLS_S if rises and self.spilling else plant.snores_for_s(self.running, now_s, limit_s)
        if stands_s:  # the water stands, at the overflow or at the intakes
            return min(limit_s, timer_s, stands_s, self._speeds_stay_s())
        mark_m = self._next_mark_m(rises)
        within_s = min(limit_s, timer_s)
        if self.running and self.logic.drive is not None:
            well = plant.hydraulics.well
            area_m2 = min(well.area_m2(plant.level_m), well.area_m2(mark_m))  # a well that narrows moves faster there
            limit_s = min(limit_s, self.logic.drive.calm_s(plant.level_m, net_m3s / area_m2, self.flow_per_speed_m3s, area_m2))
            turns_m3s = abs(plant.inflow_at_m3s(now_s + within_s) - plant.inflow_at_m3s(now_s))  # how much the pattern may add
            rate_ms = (abs(net_m3s) * (1.0 + DRIFT_SHARE) + turns_m3s) / area_m2
            mark_s = abs(mark_m - plant.level_m) / max(rate_ms, 1e-12)
        elif self.running:
            mark_s = plant.empties_in_s(self.running, now_s, mark_m, within_s) * (1.0 - DRIFT_SHARE)
        else:
            mark_s = plant.fills_in_s(now_s, mark_m, within_s)
        scans = math.ceil(min(timer_s, mark_s, LONGEST_REST_S) / self.scan_s - 1e-6)  # the first scan that can see it
        return min(limit_s, scans * self.scan_s)

    def _speeds_stay_s(self) -> float:
        """How long drives may keep their speed while the water stands. [s]"""
        drive, level_m = self.logic.drive if self.running else None, self.plant.level_m
        return math.inf if drive is None else drive.calm_s(level_m, 0.0, self.flow_per_speed_m3s, self.plant.hydraulics.well.area_m2(level_m))

    def _unnoticed(self) -> bool:
        """Whether a starter gives no feedback and the panel does not count that yet."""
        panel, unseen = self.logic.panel, self.faults.of(PumpFault.FEEDBACK)
        missing = [pump for pump, called in enumerate(panel.running) if called and (pump not in self.running or pump in unseen)]
        return any(panel.feedback_left_s(pump) is None for pump in missing)

    def _reading_lags(self) -> bool:
        """Whether a damped reading is still on its way to the water, or to what stands for it."""
        logic = self.logic
        if self.eye.lags(self.plant.level_m + self.faults.before_m):
            return True
        if math.isinf(logic.believed_rate_ms) or logic.sensor_failed or logic.level_m is None:
            return False
        return self.shown_m is not None and abs(logic.level_m - self.shown_m) > LAG_M

    def _next_mark_m(self, rises: bool) -> float:
        """The next level on the way at which something moves. [m]"""
        states = [*self.logic.energised, *self.floats_wet] if self.logic.floats else self.logic.energised
        turns = list(zip(self.turns_m, states))
        if not self.faults.reading_is_true and not self.logic.alone:  # its relays go by the reading then
            turns = turns[len(self.logic.energised) :]
        return next_mark_m(self.plant, self.logic, turns, self._true_m, bool(self.running), rises)

    def advance(self, now_s: float, step_s: float) -> None:
        self.plant.advance(self.running, now_s, step_s)
        for index in self.running:
            self.run_s[index] += step_s

    def peek(self, now_s: float, step_s: float) -> "LiftBench":
        seen = copy.copy(self)
        seen.plant, seen.logic = copy.copy(self.plant), copy.copy(self.logic)
        seen.logic.panel = copy.copy(self.logic.panel)
        seen.plant.advance(self.running, now_s, step_s)
        seen.logic.now_s = seen.logic.panel.now_s = now_s + step_s
        if not self.logic.sensor_failed and self.faults.reading_is_true and not self.logic.alone:
            seen.logic.level_m = self._read_m(seen.plant.level_m)
        return seen

    def sample(self, now_s: float) -> tuple[float, ...]:
        running, drive = self.running, self.logic.drive
        return (
            self.plant.level_m,
            self.plant.inflow_at_m3s(now_s),
            self.plant.taken_m3s(running, now_s),
            *(float(index in running) for index in range(self.logic.panel.pump_count)),
            *self._pulled(),
            *(float(closed) for closed in self.logic.floats_closed),
            *(() if drive is None else (self.plant.speed if running else 0.0,)),
        )

    def _pulled(self) -> tuple[float, ...]:
        """Whether each relay has pulled, in the order of the columns; the drive that leads now may know of fewer."""
        energised = self.logic.energised
        if len(self.logic.own) > 1:
            by_role = {relay.role: on for relay, on in zip(self.logic.relays, energised)}
            energised = [by_role.get(role, False) for role in self.roles]
        return tuple(map(float, energised))

    def reasons(self) -> tuple[ReasonLine, ...]:
        lines = [reason(self.logic, pump, pump in self.running) for pump in range(self.logic.panel.pump_count)]
        return tuple(map(with_motor, lines, self.motors.watches, repeat(self.logic.now_s)))
