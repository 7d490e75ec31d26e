"""A ring on the bench: water, heat, pump and clock joined, with the actions a person can take on it."""

import copy
import math
from dataclasses import dataclass, field, replace

from goodbalance.core.control.alarms import AlarmPanel
from goodbalance.core.control.reasons import ReasonLine
from goodbalance.core.errors import OutOfRange
from goodbalance.core.rehearsal.engine import Bench, TimedAction
from goodbalance.core.rehearsal.events import Doing, Event, Thing, among
from goodbalance.core.stations.circulator import wording
from goodbalance.core.stations.circulator.bench import habits
from goodbalance.core.stations.circulator.bench.happenings import Before, Hurt, Limits, harms
from goodbalance.core.stations.circulator.bench.reasons import reason
from goodbalance.core.stations.circulator.controller.alarms import causes_of
from goodbalance.core.stations.circulator.controller.logic import RingLogic
from goodbalance.core.stations.circulator.names import ACTS, Act, AnyAct, BranchFault, Mode, PumpFault, RingFault
from goodbalance.core.stations.circulator.plant.laws import LEARNS_SHARE, Law
from goodbalance.core.stations.circulator.plant.plant import WORN_SHARE, RingPlant
from goodbalance.core.stations.circulator.plant.steady import law_of
from goodbalance.core.stations.circulator.survey.use import Outside
from goodbalance.core.stations.shared.acts import named, switch_of, within
from goodbalance.core.stations.shared.faults import Faults
from goodbalance.core.stations.shared.week import DAY_S

LONGEST_S = 8.0 * 86400.0
WATCHED_S, CHANGES_S, LOOKS = 1.0, 20.0, 2.0  # between looks at an opened tap; at a ring that changes, at least; steps of the water between two looks
STEER, NEAR_K, BOLDEST, FIRST_SHARE = 0.4, 0.1, 0.3, 0.12  # how a constant return is held: how boldly, how near it counts, at most at once, and with what of its largest flow it begins
STAT_S = 10.0
SECOND_TIMER_S = (6.0 * 3600.0, 12.0 * 3600.0)  # of each day, in which it is off
MOST_TAP_M3S = 0.005
LONGEST_STEP_S = 0.25 * DAY_S


@dataclass
class RingBench(Bench):
    """Ring, heat, taps, circulator and its clock. The run begins on Monday at midnight."""

    plant: RingPlant
    logic: RingLogic
    faults: Faults
    limits: Limits
    starts: list[int] = field(default_factory=lambda: [0])
    run_s: list[float] = field(default_factory=lambda: [0.0])
    running: tuple[int, ...] = ()
    rested_s: float = 0.0  # since when it rests
    began_s: float = 0.0  # since when it runs
    dry_s: float | None = None  # since when it turns in air
    opened_s: dict[int, float] = field(default_factory=dict)  # taps not hot yet, 0 for the first, since when they are open
    cold_opened_s: dict[int, float] = field(default_factory=dict)
    harmed: Hurt = frozenset()
    steers_m3s: float = 0.0  # flow by which a constant return is held
    steered_s: float = -math.inf
    mains: bool = True
    pattern: bool = False  # whether people draw by habit
    by_habit: frozenset[int] = frozenset()  # taps that are open for that
    scan_s: float = 1.0

    def __post_init__(self) -> None:
        self.eq = self.plant.eq
        self.survey = self.eq.survey
        self.begun_c = self.plant.start_c
        self.steers_m3s = self.eq.curve.head.last_flow_m3s * FIRST_SHARE

    @property
    def alarms(self) -> AlarmPanel:
        return self.logic.alarms

    @property
    def start(self) -> float:
        return self.begun_c

    @property
    def columns(self) -> tuple[str, ...]:
        numbers = range(1, len(self.eq.pipes) + 1)
        each = [f"{name}_{number}_{unit}" for name, unit in (("far", "c"), ("end", "c"), ("tap", "c"), ("flow", "m3s"), ("draw", "m3s")) for number in numbers]
        return ("out_c", "divides_c", "back_c", "store_c", "flow_m3s", "power_w", *each, "pump_1")

    # what people do

    def act(self, action: TimedAction) -> list[Event]:
        """What a person does.

        tap, cold_tap (m3/s, target its branch), pattern (0/1: people draw by habit while it is wanted), valve (turns, target its branch), emitters (share), switch of pump 1 (0 hand, 1 off, 2 auto), power, set_clock, outside (0/1),
        button, silence, reset, or a fault (0/1), of a branch by its number.
        """
        act = named(action.kind, ACTS)
        self._take(act, action)
        return [wording.done(action, act)]

    def _branch(self, target: str) -> int:
        count = len(self.eq.pipes)
        if target not in {str(number) for number in range(1, count + 1)}:
            raise OutOfRange("target", target, f"1 to {count}")
        return int(target) - 1

    def _take(self, act: AnyAct, action: TimedAction) -> None:
        logic, plant, value = self.logic, self.plant, action.value
        if isinstance(act, RingFault):
            self.faults.put(act, bool(value), action.at_s)
            if act is RingFault.TWELVE_HOURS:
                logic.clock_off_s += 0.5 * DAY_S if value else -0.5 * DAY_S
        elif isinstance(act, PumpFault):
            self.faults.put_pump(act, bool(value), action.target)
        elif isinstance(act, BranchFault):
            number = self._branch(action.target)
            plant.shut = plant.shut | {number} if value else plant.shut - {number}
            plant.changed()
        elif act in (Act.TAP, Act.COLD_TAP):
            self._open(act is Act.COLD_TAP, self._branch(action.target), action)
        elif act is Act.PATTERN:
            self.pattern = bool(value) and not self.survey.heats
            if not self.pattern:
                self._draw(frozenset(), action.at_s)
        elif act is Act.VALVE:
            within(act, value, 0.0, self.eq.open_turns)
            plant.turn(self._branch(action.target), self.eq.kv_of(value))
        elif act is Act.EMITTERS:
            within(act, value, 0.0, 1.0)
            plant.emitters = value
            plant.changed()
        elif act is Act.SWITCH:
            if action.target != "1":
                raise OutOfRange("target", action.target, "1")
            logic.switch = switch_of(value)
        elif act is Act.POWER:
            self.mains = bool(value)
        else:
            self._press(act, value, action.at_s)

    def _press(self, act: AnyAct, value: float, at_s: float) -> None:
        logic = self.logic
        if act is Act.SET_CLOCK:
            logic.set_clock()
        elif act is Act.OUTSIDE:
            logic.contact = bool(value)
        elif act is Act.BUTTON:
            logic.pushed_s = at_s
        elif act is Act.SILENCE:
            logic.alarms.silence()
        else:
            logic.alarms.reset()

    def _open(self, cold: bool, number: int, action: TimedAction) -> None:
        if self.survey.heats or (cold and not self.survey.crosses):
            raise OutOfRange("kind", action.kind, "taps of hot water; cold taps where a crossover valve stands")
        within(action.kind, action.value, 0.0, MOST_TAP_M3S)
        taps, since = (self.plant.cold_taps, self.cold_opened_s) if cold else (self.plant.taps, self.opened_s)
        if action.value > 0.0 and taps[number] <= 0.0:
            since[number] = action.at_s
        elif action.value <= 0.0:
            since.pop(number, None)
        taps[number] = action.value
        self.plant.changed()

    # one scan

    def scan(self, now_s: float) -> list[Event]:
        logic, plant, before = self.logic, self.plant, Before(self.logic, self.running)
        if self.pattern:
            self._draw(habits.open_at(self.survey, now_s), now_s)
        self._break_things(now_s)
        dead = RingFault.SENSOR in self.faults.parts
        logic.scan(now_s, None if dead else plant.back_c, any(tap > 0.0 for tap in plant.taps))
        self._turn(now_s)
        still = logic.runs and plant.flows.running.flow_m3s <= 0.0
        causes = causes_of(logic, still)
        if causes.keys() != logic.alarms.causes or logic.alarms.lamps:
            logic.alarms.update(causes)
        changed = before.events(logic, self.running, plant.back_c, now_s)
        self.starts[0] += len(list(among(changed, Thing.PUMP, Doing.STARTS)))
        if self.running or before.running:
            self.rested_s = now_s
        if not self.running or not before.running:
            self.began_s = now_s
        air = plant.air and bool(self.running)
        self.dry_s = (now_s if self.dry_s is None else self.dry_s) if air else None
        said, self.harmed = harms(self, self.harmed, now_s)
        return [*changed, *self._taps(now_s), *said]

    def _draw(self, taps: frozenset[int], now_s: float) -> None:
        """Taps that people open and shut by habit; those that a person at the bench opened stay as they are."""
        for number in taps ^ self.by_habit:
            self.plant.taps[number] = self.survey.branches[number].tap_m3s if number in taps else 0.0
            if number in taps:
                self.opened_s[number] = now_s
            else:
                self.opened_s.pop(number, None)
        if taps != self.by_habit:
            self.by_habit = taps
            self.plant.changed()

    def _break_things(self, now_s: float) -> None:
        """Let what is broken act on water, heat, clock and supply."""
        plant, faults, parts = self.plant, self.faults, self.faults.parts
        air, stuck = RingFault.AIR in parts, bool(faults.of(PumpFault.STUCK)) or bool(faults.of(PumpFault.BACKWARDS))
        backflow = RingFault.BACKFLOW in parts or not self.survey.pump.check_valve
        weak, creep = RingFault.WEAK_HEATER in parts, RingFault.CREEP in parts
        if (air, stuck, backflow, weak, creep) != (plant.air, plant.stuck, plant.backflow, plant.weak, plant.creep):
            plant.air, plant.stuck, plant.backflow, plant.weak, plant.creep = air, stuck, backflow, weak, creep
            plant.changed()
        there = self.mains and not (RingFault.TWO_CONTROLS in parts and SECOND_TIMER_S[0] <= now_s % DAY_S < SECOND_TIMER_S[1])
        if there is not self.logic.power:
            self.logic.now_s = now_s
            self.logic.supply(there, self.logic.numbers.clock_backup and RingFault.CLOCK_LOST not in parts)

    def _turn(self, now_s: float) -> None:
        """The pump by its mode, or at rest."""
        logic, plant, numbers = self.logic, self.plant, self.logic.numbers
        held = bool(self.faults.of(PumpFault.STUCK))
        turning = logic.runs and not held
        if not turning:
            plant.stop()
            self.running = ()
            return
        share = WORN_SHARE if self.faults.of(PumpFault.WORN) else 1.0
        if numbers.mode is Mode.RETURN:
            if logic.failed:
                plant.set_law(Law(Mode.PRESSURE, LEARNS_SHARE * self.eq.curve.a, share))
            else:
                self._steer(now_s)
                plant.set_law(Law(Mode.FLOW, self.steers_m3s, share))
        else:
            plant.set_law(replace(law_of(self.eq, numbers.mode, numbers.by_mode()), share=share))
        if not self.running:
            self.steered_s = now_s
        self.running = (0,)

    def _steer(self, now_s: float) -> None:
        """The flow that holds a constant return: changed once the last change has come round, so that it does not hunt."""
        if self.steers_in_s(now_s) > 1e-6:
            return
        off_k, flow = self.logic.numbers.set_return - self.logic.return_c, self.plant.flows.running.flow_m3s
        span_k = max(1.0, self.eq.flow_c - self.logic.numbers.set_return)
        self.steered_s = now_s
        if abs(off_k) > NEAR_K and flow > 0.0:
            self.steers_m3s = min(self.eq.curve.head.last_flow_m3s, max(1e-6, flow * (1.0 + max(-BOLDEST, min(BOLDEST, STEER * off_k / span_k)))))

    def steers_in_s(self, now_s: float) -> float:
        """How long until what was changed last has come round the ring. [s]"""
        flow = self.plant.flows.running.flow_m3s
        if flow <= 0.0:
            return math.inf
        fills: float = sum(plug.piece.fills_m3 for plug in (self.plant.there, *self.plant.outs, *self.plant.returns, *((self.plant.back,) if self.plant.back else ())))
        return max(0.0, self.steered_s + fills / flow - now_s)

    def _taps(self, now_s: float) -> list[Event]:
        """Taps that have become hot, cold ones that run cold."""
        found = []
        for number, since_s in list(self.opened_s.items()):
            if self.plant.at_taps[number] >= self.survey.use.hot_c and now_s > since_s:
                found.append(wording.tap_hot(now_s, number + 1, now_s - since_s, self.plant.at_taps[number]))
                del self.opened_s[number]
        for number, since_s in list(self.cold_opened_s.items()):
            if self.plant.cold_taps_c[number] <= self.limits.cold_c and now_s > since_s:
                found.append(wording.cold_cool(now_s, number + 1, now_s - since_s))
                del self.cold_opened_s[number]
        return found

    # time goes on

    def quiet_s(self, now_s: float) -> float:
        if self.opened_s or self.cold_opened_s:
            return WATCHED_S
        waits: list[float] = [self.logic.until_s(), *((habits.until_s(self.survey, now_s),) if self.pattern else ())]
        if RingFault.TWO_CONTROLS in self.faults.parts:
            waits += [(edge - now_s) % DAY_S or DAY_S for edge in SECOND_TIMER_S]
        calm = self.plant.calm_s()
        if calm < math.inf:
            waits.append(max(CHANGES_S, calm * LOOKS))
        if not self.running and not self.survey.heats:
            waits.append(max(1.0, self.rested_s + self.limits.rest_s + 61.0 - now_s) if now_s - self.rested_s <= self.limits.rest_s + 60.0 else math.inf)
        if self.running and self.logic.numbers.mode is Mode.RETURN and not self.logic.failed and abs(self.logic.numbers.set_return - self.plant.back_c) > NEAR_K:
            waits.append(max(1.0, self.steers_in_s(now_s)))
        if self.logic.numbers.outside is Outside.THERMOSTAT and not self.logic.failed:
            waits.append(self._stat_s(calm))
        return min(LONGEST_STEP_S, *waits)

    def _stat_s(self, calm_s: float) -> float:
        """How long until the thermostat may change its mind: at rest by how the pipe cools, running while the return still moves. [s]"""
        n, plug = self.logic.numbers, self.plant.back or self.plant.returns[0]
        if self.running:
            return STAT_S if calm_s < math.inf else math.inf
        around, at_c = plug.piece.around_c, self.plant.back_c
        if at_c <= n.stat_start or n.stat_start <= around or at_c <= around:
            return math.inf
        return max(1.0, plug.piece.constant_s * math.log((at_c - around) / (n.stat_start - around)) + 1.0)

    def advance(self, now_s: float, step_s: float) -> None:
        self.plant.advance(step_s)
        if not self.running:
            self.plant.back_c = (self.plant.back or self.plant.returns[0]).end_c()
        self.run_s[0] += step_s if self.running else 0.0

    def peek(self, now_s: float, step_s: float) -> "RingBench":
        seen = copy.copy(self)
        seen.plant, seen.logic, seen.run_s = _moved_apart(self.plant), copy.copy(self.logic), list(self.run_s)
        seen.advance(now_s, step_s)
        seen.logic.now_s = now_s + step_s
        return seen

    def sample(self, now_s: float) -> tuple[float, ...]:
        plant, running = self.plant, self.plant.flows.running
        out_c = plant.out_c if running.flow_m3s > 0.0 or sum(plant.taps) > 0.0 else plant.there.begin_c
        far, end = [plug.end_c() for plug in plant.outs], [plug.end_c() for plug in plant.returns]
        return (
            out_c, plant.there.end_c(), plant.back_c, plant.store_c, running.flow_m3s, running.power_w, *far, *end, *plant.at_taps, *running.branches_m3s, *plant.taps, float(bool(self.running)),
        )  # fmt: skip

    def reasons(self) -> tuple[ReasonLine, ...]:
        return (reason(self.logic, bool(self.running), bool(self.faults.of(PumpFault.STUCK))),)


def _moved_apart(plant: RingPlant) -> RingPlant:
    """A copy whose plugs go their own way."""
    seen = copy.copy(plant)
    seen.there, seen.back = plant.there.copy(), None if plant.back is None else plant.back.copy()
    seen.outs, seen.returns = [plug.copy() for plug in plant.outs], [plug.copy() for plug in plant.returns]
    seen.runs_out = [None if plug is None else plug.copy() for plug in plant.runs_out]
    seen.taps, seen.cold_taps, seen.at_taps, seen.cold_taps_c = list(plant.taps), list(plant.cold_taps), list(plant.at_taps), list(plant.cold_taps_c)
    seen.opened, seen.balanced, seen.seen_c, seen.kvs = list(plant.opened), list(plant.balanced), list(plant.seen_c), list(plant.kvs)
    return seen


