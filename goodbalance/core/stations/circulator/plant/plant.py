"""The water of a ring on the bench: pump, valves, plugs of water on their way, taps, and the heat that warms them."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

from goodbalance.core.stations.circulator.plant.equations import RingEquations
from goodbalance.core.stations.circulator.plant.laws import Law
from goodbalance.core.stations.circulator.plant.network import Network, Running
from goodbalance.core.stations.circulator.plant.pieces import CARRIES_JM3K
from goodbalance.core.stations.circulator.plant.plug import Plug
from goodbalance.core.stations.circulator.plant.steady import LEAST_OPEN, stands_open
from goodbalance.core.stations.circulator.survey.heat import HeatKind
from goodbalance.core.stations.circulator.survey.pipes import Emitter, ValveKind

CREEP_S = 900.0  # in which a mixing valve without a cool return creeps up
WEAK_SHARE, WORN_SHARE = 0.05, 0.6  # of the heat that is left; of the head
CROSS_SHARE = 0.4  # of what a tap takes while the pump rests: up the return where no check valve holds
PARTS, MOST_STEP_S, SHORT_S, STORE_K, WAX_S = 16.0, 600.0, 5.0, 0.2, 20.0  # parts of a pipe that one step may fill; longest step while it changes, and shortest for a pipe; a step of the store; a thermostatic valve looks so often
THERMAL_K, WAX_SHARE = 0.05, 0.02  # by which a return must move until a thermostatic valve is looked at again; by how much it must want to move until it does
MOVED_SHARE = 0.01  # of its opening: so far a thermostatic valve goes until flows are balanced anew


@dataclass
class Flows:
    """What runs where. cold: taps on the cold pipe, of crossover valves."""

    running: Running
    branches: tuple[float, ...]
    taps: tuple[float, ...]
    cold: tuple[float, ...]


@dataclass
class RingPlant:
    """Plugs in every pipe, the store's temperature, and what went where since the start [J]. kvs: what the valves let through, as set."""

    eq: RingEquations
    kvs: list[float]
    start_c: float
    caps: tuple[float, ...] = ()  # the most that each branch passes
    law: Law | None = None  # what the running pump goes by; None while it stands
    taps: list[float] = field(default_factory=list)  # opened, m3/s
    cold_taps: list[float] = field(default_factory=list)
    shut: frozenset[int] = frozenset()
    air: bool = False
    stuck: bool = False
    backflow: bool = False
    weak: bool = False
    creep: bool = False
    emitters: float = 1.0  # of the heaters' valves, open
    store_c: float = 0.0
    creeps_s: float = 0.0  # without a draw, where the mixing valve gets no cool return
    heated_j: float = 0.0
    drawn_j: float = 0.0
    given_j: float = 0.0
    store_j: float = 0.0
    energy_j: float = 0.0
    drawn_m3: float = 0.0

    def __post_init__(self) -> None:
        eq, at = self.eq, self.start_c
        count = len(eq.pipes)
        self.there, self.back = Plug(eq.there, at), None if eq.back is None else Plug(eq.back, at)
        self.outs = [Plug(pipe.there, at) for pipe in eq.pipes]
        self.returns = [Plug(pipe.back, at if not eq.survey.crosses else pipe.back.around_c) for pipe in eq.pipes]
        self.runs_out = [None if piece is None else Plug(piece, piece.around_c) for piece in eq.runs_out]
        self.taps, self.cold_taps = self.taps or [0.0] * count, self.cold_taps or [0.0] * count
        self.opened, self.balanced = [1.0] * count, [1.0] * count
        self.seen_c = [math.nan] * count
        self.store_c = eq.survey.heat.set_c
        self.back_c, self.out_c = at, eq.flow_c
        self.at_taps = [at if plug is None else plug.piece.around_c for plug in self.runs_out]
        self.cold_taps_c = [pipe.back.around_c for pipe in eq.pipes]
        self.network: Network | None = None
        self.flows = self._balance()

    @property
    def plugs(self) -> tuple[Plug, ...]:
        """Every pipe."""
        ends = () if self.back is None else (self.back,)
        return (self.there, *self.outs, *self.returns, *ends, *(plug for plug in self.runs_out if plug is not None))

    @property
    def cold_c(self) -> float:
        """What comes from the mains."""
        return self.eq.survey.heat.cold_c

    # what moves

    def changed(self) -> None:
        """A valve, a tap, the pump or a fault moved: everything is balanced anew."""
        self.network = None
        self.flows = self._balance()

    def _balance(self) -> Flows:
        """Pump against ring. Air, a held rotor or a pump the wrong way round move nothing; draws come on top."""
        count = len(self.kvs)
        still = Running(0.0, 0.0, 0.0, (0.0,) * count, 0.0, 0.0)
        running = still
        if self.law is not None:
            running = still if self.air or self.stuck else self._net().running(self.eq.curve, self.law)
        return Flows(running, running.branches_m3s, tuple(self.taps), tuple(self.cold_taps))

    def _net(self) -> Network:
        if self.network is None:
            self.balanced = list(self.opened)
            kvs = [0.0 if number in self.shut else kv * share * self._heaters(number) for number, (kv, share) in enumerate(zip(self.kvs, self.opened))]
            self.network = self.eq.network(kvs, self.caps)
        return self.network

    def _heaters(self, number: int) -> float:
        """How far the valves of a circuit's radiators stand open; other heaters have none of their own."""
        branch = self.eq.survey.branches[number]
        return max(LEAST_OPEN, self.emitters) if self.eq.survey.heats and branch.emitter is Emitter.RADIATORS else 1.0

    # heat

    def flow_c(self, flow_m3s: float, back_c: float) -> float:
        """What goes out into the ring: from the store, through the heater, and mixed down."""
        heat = self.eq.survey.heat
        hot_c = self.store_c
        if heat.kind is HeatKind.INSTANTANEOUS:
            lit = flow_m3s >= heat.least_m3s
            hot_c = min(heat.set_c, back_c + self.watts / (CARRIES_JM3K * flow_m3s)) if lit and flow_m3s > 0.0 else back_c
        if not heat.mixing:
            return hot_c
        mixed = min(hot_c, heat.mixed_c)
        over = hot_c - mixed
        return mixed + over * -math.expm1(-self.creeps_s / CREEP_S) if self.creeping else mixed

    @property
    def creeping(self) -> bool:
        """Whether the mixing valve gets no cool water while nobody draws."""
        heat = self.eq.survey.heat
        return heat.mixing and (self.creep or not heat.to_cold)

    @property
    def watts(self) -> float:
        """What the heat can give."""
        return self.eq.survey.heat.watts * (WEAK_SHARE if self.weak else 1.0)

    @property
    def lit(self) -> bool:
        """Whether an instantaneous heater, or a boiler without a bypass, has the flow that keeps it lit; any other heat is."""
        heat = self.eq.survey.heat
        if self.eq.survey.heats and heat.boiler_least_m3s > 0.0 and not heat.bypass:
            return self.flows.running.flow_m3s >= heat.boiler_least_m3s
        return heat.kind is not HeatKind.INSTANTANEOUS or self.flows.running.flow_m3s + sum(self.taps) >= heat.least_m3s

    # time goes on

    def calm_s(self) -> float:
        """So long a step may be: a part of the time a change takes through the pipe it passes first, or until the store has moved a little; no end where all stands still.

        A plug that came in during one step is as warm throughout: with long steps water would leave a pipe as warm as it is in its middle.
        """
        waits = [math.inf]
        flows = self.flows
        total = flows.running.flow_m3s + sum(flows.taps)
        if total > 0.0:
            waits += [max(SHORT_S, takes / PARTS) for takes in self._passing(total) if takes < math.inf]
        if self.creeping and sum(flows.taps) <= 0.0 and self.creeps_s < 6.0 * CREEP_S:
            waits.append(60.0)
        waits.append(self._store_s(total))
        if self._self_acting and flows.running.flow_m3s > 0.0 and any(abs(seen - self._at_valve(number)) > THERMAL_K for number, seen in enumerate(self.seen_c) if not math.isnan(seen) or number in self._self_acting):
            waits.append(WAX_S)
        return min(waits)

    def _passing(self, total_m3s: float) -> list[float]:
        flows = self.flows
        found = [self.there.takes_s(total_m3s)]
        for number, (out, back) in enumerate(zip(self.outs, self.returns)):
            tapped = flows.branches[number] + flows.taps[number]
            found += [out.takes_s(tapped), back.takes_s(abs(flows.branches[number] - flows.cold[number]))]
            run = self.runs_out[number]
            if run is not None and flows.taps[number] > 0.0:
                found.append(run.takes_s(flows.taps[number]))
        if self.back is not None:
            found.append(self.back.takes_s(flows.running.flow_m3s))
        return found

    def _store_s(self, total_m3s: float) -> float:
        """How long until a store has moved by a little. [s]"""
        rate = self._store_rate(total_m3s)
        return math.inf if abs(rate) < 1e-9 else max(1.0, STORE_K / abs(rate))

    def _store_rate(self, total_m3s: float) -> float:
        """How fast the store cools or warms. [K/s]"""
        heat = self.eq.survey.heat
        if heat.kind is HeatKind.INSTANTANEOUS:
            return 0.0
        needs = self._asked_w(total_m3s)
        gives = self.watts if self.store_c < heat.set_c - 1e-6 else min(self.watts, needs)
        rate = (gives - needs) / (CARRIES_JM3K * heat.volume_m3)
        return min(rate, (heat.set_c - self.store_c)) if rate > 0.0 else rate

    def _asked_w(self, total_m3s: float) -> float:
        """What ring and taps take from the heat now."""
        circulates = self.flows.running.flow_m3s
        out_c = self.flow_c(total_m3s, self._comes_c(total_m3s))
        return CARRIES_JM3K * (circulates * (out_c - self.back_c) + (total_m3s - circulates) * (out_c - self.cold_c))

    def _comes_c(self, total_m3s: float) -> float:
        """What comes to the heat: the ring's return, and cold water for what is drawn."""
        circulates = self.flows.running.flow_m3s
        return (circulates * self.back_c + (total_m3s - circulates) * self.cold_c) / total_m3s if total_m3s > 0.0 else self.back_c

    def advance(self, step_s: float) -> None:
        """Go on for a time, in parts no longer than a change takes through a pipe."""
        left = step_s
        while left > 1e-9:
            part = min(left, max(1e-3, self.calm_s()), MOST_STEP_S if self._moves else left)
            self._part(part)
            left -= part

    @property
    def _moves(self) -> bool:
        return self.flows.running.flow_m3s > 0.0 or sum(self.flows.taps) + sum(self.flows.cold) > 0.0

    def _part(self, step_s: float) -> None:
        flows = self.flows
        circulates, drawn = flows.running.flow_m3s, sum(flows.taps)
        self.energy_j += flows.running.power_w * step_s
        self.creeps_s = 0.0 if drawn > 0.0 or not self.creeping else self.creeps_s + (step_s if circulates > 0.0 else 0.0)
        if not self._moves:
            for plug in self.plugs:
                plug.rest(step_s)
            self._warm(0.0, self.out_c, self._store_rate(0.0), step_s)
            return
        crossing = drawn * CROSS_SHARE if self.backflow and circulates <= 0.0 and self.back is not None else 0.0
        total = circulates + drawn - crossing
        comes_c = self._comes_c(total)
        out_c = self.flow_c(total, comes_c)
        rate = self._store_rate(total)
        divides_c = self.there.run(out_c, total, step_s)
        self._branches(divides_c, crossing / drawn if drawn > 0.0 else 0.0, step_s)
        self.out_c = out_c
        self._warm(total, out_c, rate, step_s)
        self._look(step_s)

    def _branches(self, divides_c: float, crosses: float, step_s: float) -> None:
        """Out to the taps, and back. crosses: the share of a draw that comes up the return."""
        flows, meets, moved = self.flows, 0.0, 0.0
        for number, (out, back) in enumerate(zip(self.outs, self.returns)):
            flow, tap, cold = flows.branches[number], flows.taps[number], flows.cold[number]
            tap_c = out.run(divides_c, flow + tap * (1.0 - crosses), step_s)
            if crosses > 0.0 and tap > 0.0:
                up_c = back.run(self.cold_c, tap * crosses, step_s, False)
                tap_c = (1.0 - crosses) * tap_c + crosses * up_c
            elif flow > 0.0 or cold > 0.0:
                warm_c = self.eq.emits_c(number, tap_c, flow, self.emitters)
                self.given_j += CARRIES_JM3K * flow * (tap_c - warm_c) * step_s
                end_c = self._cold_pipe(number, back, warm_c, flow, cold, step_s)
                meets, moved = meets + flow * end_c, moved + flow
            else:
                back.rest(step_s)
            self._tap(number, tap_c, tap, step_s)
        if self.back is not None:
            self.back_c = self.back.run(meets / moved, moved, step_s) if moved > 0.0 else self._rested(self.back, step_s)
        elif moved > 0.0:
            self.back_c = meets / moved

    def _cold_pipe(self, number: int, back: Plug, warm_c: float, flow: float, cold: float, step_s: float) -> float:
        """The way back; where a cold tap is open beside a crossover valve, cold water comes the other way and drives the warm out of it."""
        if cold <= 0.0:
            return back.run(warm_c, flow, step_s)
        net = cold - flow
        if net > 0.0:
            here_c = back.run(self.cold_c, net, step_s, False)
            self.cold_taps_c[number] = (net * here_c + flow * warm_c) / cold
            self.drawn_j += CARRIES_JM3K * step_s * (cold * self.cold_taps_c[number] - net * self.cold_c)
            return self.cold_c
        self.cold_taps_c[number] = warm_c
        self.drawn_j += CARRIES_JM3K * step_s * cold * warm_c
        return back.run(warm_c, -net, step_s)

    @staticmethod
    def _rested(plug: Plug, step_s: float) -> float:
        plug.rest(step_s)
        return plug.end_c()

    def _tap(self, number: int, ring_c: float, tap: float, step_s: float) -> None:
        """From the ring to the tap itself."""
        run = self.runs_out[number]
        if tap <= 0.0:
            if run is not None:
                run.rest(step_s)
            self.at_taps[number] = ring_c if run is None else run.end_c()
            return
        leaves_c = ring_c if run is None else run.run(ring_c, tap, step_s)
        self.at_taps[number] = leaves_c if run is None else run.end_c()
        self.drawn_j += CARRIES_JM3K * tap * step_s * (leaves_c - self.cold_c)
        self.drawn_m3 += tap * step_s

    def _warm(self, total_m3s: float, out_c: float, rate: float, step_s: float) -> None:
        """The heat gives what is asked, as far as it can."""
        heat = self.eq.survey.heat
        circulates = self.flows.running.flow_m3s
        asked = CARRIES_JM3K * (circulates * (out_c - self.back_c) + (total_m3s - circulates) * (out_c - self.cold_c)) * step_s
        if heat.kind is HeatKind.INSTANTANEOUS:
            self.heated_j += asked
            return
        before = self.store_c
        self.store_c = min(heat.set_c, self.store_c + rate * step_s)
        stored = CARRIES_JM3K * heat.volume_m3 * (self.store_c - before)
        self.store_j += stored
        self.heated_j += asked + stored

    @cached_property
    def _self_acting(self) -> tuple[int, ...]:
        return tuple(number for number, branch in enumerate(self.eq.survey.branches) if branch.valve is ValveKind.THERMOSTATIC)

    def _at_valve(self, number: int) -> float:
        return (self.outs if self.eq.survey.crosses else self.returns)[number].end_c()

    def _look(self, step_s: float) -> None:
        """Thermostatic valves follow their water slowly; flows are balanced anew once one has moved by a little."""
        if not self._self_acting:
            return
        for number in self._self_acting:
            at_c = self._at_valve(number)
            wanted = stands_open(self.eq, number, at_c)
            follows = 1.0 - math.exp(-step_s / (5.0 * WAX_S))
            if abs(wanted - self.opened[number]) > WAX_SHARE:
                self.opened[number] += follows * (wanted - self.opened[number])
            self.seen_c[number] = at_c
        if any(abs(self.opened[number] - self.balanced[number]) > MOVED_SHARE for number in self._self_acting):
            self.changed()

    def set_law(self, law: Law) -> None:
        """What the running pump goes by from now on."""
        if law != self.law:
            self.law = law
            self.flows = self._balance()

    def stop(self) -> None:
        """The pump stands."""
        if self.law is not None:
            self.law = None
            self.flows = self._balance()

    def turn(self, number: int, kv_m3s: float) -> None:
        """A branch's valve set to let so much through, 0 for the first."""
        self.kvs[number] = kv_m3s
        self.changed()

    def coldest(self) -> tuple[float, Sequence[float]]:
        """The coolest of the ends, and all of them; of crossover valves those of the ways out."""
        ends = [plug.end_c() for plug in (self.outs if self.eq.survey.crosses else self.returns)]
        return min((*ends, *(() if self.back is None else (self.back_c,)))), ends
