"""A surveyed ring as equations: its pieces, the flows its coldest points need, its valves, and temperatures for given flows."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from goodbalance.core.balance.facts import once_each
from goodbalance.core.stations.circulator.names import crossing, valve
from goodbalance.core.stations.circulator.plant.laws import pump_curve
from goodbalance.core.stations.circulator.plant.network import KV_PA, BranchPipes, CommonLoss, Network
from goodbalance.core.stations.circulator.plant.pieces import CARRIES_JM3K, Piece, piece
from goodbalance.core.stations.circulator.survey.pipes import BranchFacts, Material, ValveKind
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey

CHECK_K, MIXER_KV_SHARE = 2.0, 1.0  # loss of a check valve; a mixing valve lets through as much as the heat's own Kv
MOST_M3S = 0.1  # a flow that no ring of this size has: needed where no flow is enough
ROUNDS, HALVINGS = 12, 48
SHUT_TURNS = 0.02  # of the valve's turns: less is shut


@dataclass(frozen=True, slots=True)
class Needed:
    """The flows that keep each branch's coldest point at what is asked of it, and the temperature asked there. [m3/s, degrees C]"""

    flows_m3s: tuple[float, ...]
    ends_c: tuple[float, ...]

    @property
    def total_m3s(self) -> float:
        """All of them together."""
        return sum(self.flows_m3s)


@dataclass(frozen=True, slots=True)
class Warmth:
    """Temperatures of a ring that runs steadily: where branches divide, at the far end of each way out, at the end of each way back, where they met, and at the heat."""

    divides_c: float
    taps_c: tuple[float, ...]
    ends_c: tuple[float, ...]
    meets_c: float
    back_c: float


class RingEquations:
    """Everything a ring is reckoned from. Built once per survey and kept."""

    def __init__(self, survey: CirculatorSurvey) -> None:
        self.survey, heat, common = survey, survey.heat, survey.common
        self.flow_c = heat.flow_c
        self.curve = pump_curve(survey.pump)
        conducts = survey.ring.insulation_wmk
        warm = self.flow_c
        share = 1.0 if survey.crosses else 0.5  # of the fittings, on the way out
        self.there = piece("the common pipe out", (common.there_m, common.bore_m), common.material, (common.insulation_m, conducts), common.loss_wmk, (warm, common.around_c), share * common.fittings_k)
        self.back = None if survey.crosses else piece(
            "the common pipe back", (common.back_m, common.back_bore_m), common.material, (common.insulation_m, conducts), common.loss_wmk, (warm, common.around_c), 0.5 * common.fittings_k
        )  # fmt: skip
        self.pipes = tuple(self._branch(number, branch) for number, branch in enumerate(survey.branches, 1))
        self.runs_out = tuple(self._to_tap(number, branch) for number, branch in enumerate(survey.branches, 1))
        kvs = (heat.kv_m3s, *((MIXER_KV_SHARE * heat.kv_m3s,) if heat.mixing else ()))
        self.common = CommonLoss((self.there, *(() if self.back is None else (self.back,))), kvs)

    def __deepcopy__(self, memo: dict[int, object]) -> "RingEquations":
        return self  # what it keeps stays true for every copy

    def _branch(self, number: int, branch: BranchFacts) -> BranchPipes:
        name, conducts, warm = self.survey.branch_name(number), self.survey.ring.insulation_wmk, self.flow_c
        there = piece(f"{name}, out", (branch.there_m, branch.there_bore_m), branch.material, (branch.insulation_m, conducts), branch.loss_wmk, (warm, branch.around_c), 0.5 * branch.fittings_k)
        back = piece(f"{name}, back", (branch.back_m, branch.back_bore_m), branch.material, (branch.back_insulation_m, conducts), branch.loss_wmk, (warm, branch.around_c), 0.5 * branch.fittings_k)
        return BranchPipes(there, back)

    def _to_tap(self, number: int, branch: BranchFacts) -> Piece | None:
        if self.survey.heats or branch.tap_m <= 0.0:
            return None
        return piece(f"to the tap of {self.survey.branch_name(number)}", (branch.tap_m, branch.tap_bore_m), branch.material, (0.0, 0.035), None, (self.flow_c, branch.around_c))

    # valves

    @cached_property
    def _turning(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Turns of a balancing valve and what it lets through, from shut to open."""
        valves = self.survey.valves
        known = sorted((p.turns, p.kv_m3s) for p in valves.points if p.turns is not None and p.kv_m3s is not None)
        if len(known) < 2:
            known = [(valves.turns, valves.kv_m3s)]
        turns, kvs = zip(*((0.0, 0.0), *known))
        return turns, tuple(np.maximum.accumulate(kvs).tolist())

    @property
    def open_turns(self) -> float:
        """Turns of a balancing valve that stands open."""
        return self._turning[0][-1]

    def kv_of(self, turns: float) -> float:
        """What a balancing valve lets through so many turns open, straight between the maker's points; nothing where it is shut."""
        return float(np.interp(turns, *self._turning)) if turns > SHUT_TURNS else 0.0

    def turns_of(self, kv_m3s: float) -> float:
        """The turns at which it lets so much through; open where it never does."""
        turns, kvs = self._turning
        return float(np.interp(kv_m3s, kvs, turns))

    def open_kv(self, number: int) -> float:
        """What a branch's valve lets through, open; 0 for the first branch."""
        kind = self.survey.branches[number].valve
        if kind is ValveKind.BALANCING:
            return self._turning[1][-1]
        if kind is ValveKind.THERMOSTATIC:
            return self.survey.valves.thermostatic_m3s
        return 10.0 * self.survey.valves.kv_m3s

    def kv_for(self, number: int, flow_m3s: float, header_pa: float) -> float:
        """What a branch's valve must let through so that this flow runs at a difference between the headers; no end where its pipes alone lose more. [Pa]"""
        rest = header_pa - self.pipes[number].loss_pa(flow_m3s)
        return flow_m3s * math.sqrt(KV_PA / rest) if rest > 0.0 else math.inf

    def kvs(self, values: Mapping[str, float]) -> tuple[float, ...]:
        """What each branch's valve lets through as it is set. values: turns by the settings' ids; a valve that no setting names stands open."""
        turns = [values.get(valve(number + 1)) for number in range(len(self.pipes))]
        return tuple(self.open_kv(number) if turned is None else self.kv_of(turned) for number, turned in enumerate(turns))

    def caps(self, values: Mapping[str, float]) -> tuple[float, ...]:
        """The most that each branch passes: crossover valves hold the flow they are set to, by the settings' ids. [m3/s]"""
        return tuple(values.get(crossing(number + 1), math.inf) for number in range(len(self.pipes)))

    def network(self, kvs: Sequence[float], caps: Sequence[float] = ()) -> Network:
        """The ring with its valves set."""
        return Network(self.pipes, kvs, self.common, caps)

    # flows that are needed

    def needed(self, least_c: float) -> Needed:
        """What each branch needs so that its coldest point keeps a temperature; heating circuits by their load.

        Of a ring with a return the coldest point is where it comes back to the heat; with crossover valves the farthest taps. Found by going
        round: the flow of all branches tells what is lost in common, and that tells what each of them needs.
        """
        branches = self.survey.branches
        if self.survey.heats:
            flows = tuple(branch.load_w / (CARRIES_JM3K * branch.drop_k) for branch in branches)
            return Needed(flows, tuple(self.flow_c - branch.drop_k for branch in branches))
        total, flows, end_c = 1e-3, (0.0,) * len(branches), least_c
        for _ in range(ROUNDS):
            starts_c = self.there.leaves_c(self.flow_c, total)
            if self.back is not None:
                around = self.back.around_c
                end_c = around + (least_c - around) * math.exp(min(50.0, self.back.lost_wk / (CARRIES_JM3K * total)))
            flows = tuple(self._needs(pipe, starts_c, end_c) for pipe in self.pipes)
            before, total = total, sum(flows)
            if abs(total - before) < 1e-9 * total:
                break
        return Needed(flows, (end_c,) * len(branches))

    def _needs(self, pipe: BranchPipes, starts_c: float, end_c: float) -> float:
        """The least flow at which a branch ends no cooler. Source: bisection, for the end grows with the flow."""
        if self._ends_c(pipe, starts_c, MOST_M3S) <= end_c:
            return MOST_M3S
        low, high = math.log(1e-9), math.log(MOST_M3S)
        for _ in range(HALVINGS):
            middle = 0.5 * (low + high)
            low, high = (middle, high) if self._ends_c(pipe, starts_c, math.exp(middle)) < end_c else (low, middle)
        return math.exp(high)

    def _ends_c(self, pipe: BranchPipes, starts_c: float, flow_m3s: float) -> float:
        tap_c = pipe.there.leaves_c(starts_c, flow_m3s)
        return tap_c if self.survey.crosses else pipe.back.leaves_c(tap_c, flow_m3s)

    def index_pa(self, flows_m3s: Sequence[float]) -> tuple[float, int]:
        """The difference between the headers that drives these flows with every valve open, and the branch that asks for it: the index branch."""
        asked = [pipe.loss_pa(flow) + KV_PA * (flow / self.open_kv(number)) ** 2 for number, (pipe, flow) in enumerate(zip(self.pipes, flows_m3s))]
        return max(asked), asked.index(max(asked))

    # temperatures

    def warmth(self, flows_m3s: Sequence[float], in_c: float | None = None, open_share: float = 1.0) -> Warmth:
        """Temperatures of the ring running steadily. in_c: what goes out; open_share: of the heaters' valves, for heating.

        Source: exponential cooling along each piece; heat adds up where branches meet.
        """
        total = sum(flows_m3s)
        start_c = self.flow_c if in_c is None else in_c
        divides_c = self.there.leaves_c(start_c, total)
        taps, ends = [], []
        for number, (pipe, flow) in enumerate(zip(self.pipes, flows_m3s)):
            taps.append(pipe.there.leaves_c(divides_c, flow))
            ends.append(pipe.back.leaves_c(self.emits_c(number, taps[-1], flow, open_share), flow))
        meets = sum(flow * end for flow, end in zip(flows_m3s, ends)) / total if total > 0.0 else min(ends)
        return Warmth(divides_c, tuple(taps), tuple(ends), meets, meets if self.back is None else self.back.leaves_c(meets, total))

    def emits_c(self, number: int, in_c: float, flow_m3s: float, open_share: float = 1.0) -> float:
        """Where water leaves the heaters of a circuit, 0 for the first; of hot water it leaves as it came.

        Source: heat from water to room in proportion to the difference, so that it cools exponentially on its way through.
        """
        branch = self.survey.branches[number]
        gives = self._emits_wk[number] if self.survey.heats else 0.0
        if gives <= 0.0 or flow_m3s <= 0.0:
            return in_c
        return branch.room_c + (in_c - branch.room_c) * math.exp(-gives * open_share / (CARRIES_JM3K * flow_m3s))

    @cached_property
    def _emits_wk(self) -> tuple[float, ...]:
        """What each circuit's heaters give for each kelvin, from its load at the temperature that goes out."""
        found = []
        for branch in self.survey.branches:
            over = self.flow_c - branch.room_c
            found.append(branch.load_w / branch.drop_k * math.log(over / (over - branch.drop_k)) if over > branch.drop_k else 0.0)
        return tuple(found)

    # water that runs

    @property
    def always_pieces(self) -> tuple[tuple[Piece, int | None], ...]:
        """Every piece that circulating water runs through, with its branch, 0 for the first; None for what is common."""
        found: list[tuple[Piece, int | None]] = [(self.there, None)]
        for number, pipe in enumerate(self.pipes):
            found += [(pipe.there, number), (pipe.back, number)]
        return (*found, *(() if self.back is None else ((self.back, None),)))

    def fastest_ms(self, material: Material, water_c: float, rules: dict[str, float]) -> float:
        """How fast water may run in a pipe, by its material. rules: copper_hot_ms, copper_ms, steel_ms, plastic_ms."""
        if material is Material.COPPER:
            return rules["copper_hot_ms"] if water_c >= 60.0 else rules["copper_ms"]
        return rules["plastic_ms"] if material is Material.PLASTIC else rules["steel_ms"]

    def hot_after_s(self, flows_m3s: Sequence[float], hot_c: float | None = None) -> tuple[float, ...]:
        """How long after a start from cold each farthest tap gets hot water, running at these flows: its pipes must be filled and warmed. [s]

        No end for a branch without a flow, or where it never gets that hot. Source: plug flow, the wall warmed with the water.
        """
        total, warm = sum(flows_m3s), self.warmth(flows_m3s)
        found = []
        for pipe, flow, tap_c in zip(self.pipes, flows_m3s, warm.taps_c):
            never = flow <= 0.0 or (hot_c is not None and tap_c < hot_c)
            found.append(math.inf if never else self.there.fills_m3 / total + pipe.there.fills_m3 / flow)
        return tuple(found)


@once_each
def equations(survey: CirculatorSurvey) -> RingEquations:
    """The equations of a survey."""
    return RingEquations(survey)
