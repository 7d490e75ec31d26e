"""Pressures and flows of a ring: branches side by side between one header and another, with a pump that goes by its law."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from scipy.optimize import brentq

from goodbalance.core.stations.circulator.plant.laws import Law, PumpCurve
from goodbalance.core.stations.circulator.plant.pieces import Piece

KV_PA = 1e5  # at which a valve lets its Kv through
FINEST_M3S, COARSEST_M3S, GRID = 1e-7, 0.2, 181  # flows at which losses are tabulated, each a like share over the last
GROWS = (COARSEST_M3S / FINEST_M3S) ** (1.0 / (GRID - 1))
LOG_GROWS = math.log(GROWS)
FLOWS = tuple(FINEST_M3S * GROWS**place for place in range(GRID))
SQUARES = tuple(flow * flow for flow in FLOWS)
LEAST_PA = 1e-3
CAP_NEAR = 1.0 + 1e-9


@dataclass(frozen=True)
class BranchPipes:
    """What of a branch water runs through, without its valve."""

    there: Piece
    back: Piece

    @cached_property
    def lost(self) -> tuple[float, ...]:
        """The pressure lost in both pipes at each flow of the grid. [Pa]"""
        return tuple(self.loss_pa(flow) for flow in FLOWS)

    def flow_m3s(self, lost_pa: float, valve: float) -> float:
        """The flow at which pipes and valve lose so much, straight between the grid's flows as their logarithms go. valve: what it loses at 1 m3/s. [Pa]"""
        lost, low, high = self.lost, 0, GRID - 1
        if lost_pa <= lost[0] + valve * SQUARES[0]:
            return FINEST_M3S
        if lost_pa >= lost[-1] + valve * SQUARES[-1]:
            return COARSEST_M3S
        while high - low > 1:
            middle = (low + high) // 2
            if lost[middle] + valve * SQUARES[middle] <= lost_pa:
                low = middle
            else:
                high = middle
        under, over = lost[low] + valve * SQUARES[low], lost[high] + valve * SQUARES[high]
        return float(FLOWS[low] * GROWS ** (math.log(lost_pa / under) / math.log(over / under)))

    def loss_pa(self, flow_m3s: float) -> float:
        """In both pipes."""
        return self.there.loss_pa(flow_m3s) + self.back.loss_pa(flow_m3s)


@dataclass(frozen=True, slots=True)
class Running:
    """Where pump and ring meet: what the pump moves and adds, the difference between the headers, and each branch's flow. speed: of full speed."""

    flow_m3s: float
    adds_pa: float
    header_pa: float
    branches_m3s: tuple[float, ...]
    speed: float
    power_w: float


class Network:
    """A ring with its valves set. kvs: what each branch's valve lets through; 0 for one that is shut. caps: the most that each passes, for valves that hold a flow.

    Source: losses by Darcy and Weisbach, valves by Kv; flows at equal difference between the headers add up (Kirchhoff).
    """

    def __init__(self, pipes: Sequence[BranchPipes], kvs: Sequence[float], common: "CommonLoss", caps: Sequence[float] = ()) -> None:
        self.pipes, self.kvs, self.common = tuple(pipes), tuple(kvs), common
        self.caps = tuple(caps) or (math.inf,) * len(self.pipes)
        self.ways = tuple((pipe, KV_PA / (kv * kv) if kv > 0.0 else None, cap) for pipe, kv, cap in zip(self.pipes, self.kvs, self.caps))

    def flows_m3s(self, header_pa: float) -> tuple[float, ...]:
        """What runs through each branch at a difference between the headers, read off its table. [Pa]"""
        if header_pa <= LEAST_PA:
            return (0.0,) * len(self.pipes)
        return tuple([0.0 if valve is None else min(cap, pipe.flow_m3s(header_pa, valve)) for pipe, valve, cap in self.ways])

    def total_m3s(self, header_pa: float) -> float:
        """All of them together. [Pa]"""
        return sum(self.flows_m3s(header_pa))

    def header_for_pa(self, branch: int, flow_m3s: float) -> float:
        """The difference that drives a flow through a branch, 0 for the first; no end where its valve is shut or holds less. [m3/s]"""
        kv = self.kvs[branch] if flow_m3s <= self.caps[branch] * CAP_NEAR else 0.0
        return self.pipes[branch].loss_pa(flow_m3s) + KV_PA * (flow_m3s / kv) ** 2 if kv > 0.0 else float("inf")

    def adds_for_pa(self, header_pa: float) -> float:
        """What the pump must add for a difference between the headers. [Pa]"""
        return header_pa + self.common.loss_pa(self.total_m3s(header_pa))

    def running(self, curve: PumpCurve, law: Law) -> Running:
        """Where pump and ring meet under a law. Source: bracketed root on the difference between the headers."""
        top_pa = max(law.share * curve.a, law.adds_pa(curve, 0.0))
        if not top_pa > LEAST_PA or all(kv <= 0.0 for kv in self.kvs):
            return Running(0.0, law.adds_pa(curve, 0.0), 0.0, (0.0,) * len(self.pipes), law.speed(curve, 0.0, law.adds_pa(curve, 0.0)), 0.0)

        def surplus(header_pa: float) -> float:
            flow = self.total_m3s(header_pa)
            return law.adds_pa(curve, flow) - self.common.loss_pa(flow) - header_pa

        if surplus(LEAST_PA) <= 0.0:
            header = LEAST_PA
        else:
            header = float(brentq(surplus, LEAST_PA, top_pa, xtol=1e-3, rtol=1e-10))
        flows = self.flows_m3s(header)
        flow = sum(flows)
        adds = header + self.common.loss_pa(flow)
        speed = law.speed(curve, flow, adds)
        return Running(flow, adds, header, flows, speed, law.power_w(curve, flow, speed))


@dataclass(frozen=True)
class CommonLoss:
    """What all the water runs through: common pipes, heat, check valve, mixing valve. kvs: of what lets through by a Kv."""

    pieces: tuple[Piece, ...]
    kvs: tuple[float, ...]

    @cached_property
    def _lost(self) -> tuple[float, ...]:
        return tuple(self.exact_pa(flow) for flow in FLOWS)

    def exact_pa(self, flow_m3s: float) -> float:
        """By its formulas. [m3/s]"""
        return sum(piece.loss_pa(flow_m3s) for piece in self.pieces) + sum(KV_PA * (flow_m3s / kv) ** 2 for kv in self.kvs)

    def loss_pa(self, flow_m3s: float) -> float:
        """Read off its table, straight between the grid's flows as their logarithms go. [m3/s]"""
        if flow_m3s <= FINEST_M3S:
            return 0.0
        place = min(math.log(flow_m3s / FINEST_M3S) / LOG_GROWS, GRID - 1.0)
        at = min(int(place), GRID - 2)
        under = self._lost[at]
        return under * float((self._lost[at + 1] / under) ** (place - at)) if under > 0.0 else 0.0
