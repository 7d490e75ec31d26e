"""A ring that runs on and on: flows, temperatures, and thermostatic valves where they come to rest."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from scipy.optimize import brentq

from goodbalance.core.stations.circulator.names import Mode
from goodbalance.core.stations.circulator.names import SettingId as S
from goodbalance.core.stations.circulator.plant.equations import RingEquations, Warmth
from goodbalance.core.stations.circulator.plant.laws import Law
from goodbalance.core.stations.circulator.plant.network import Network, Running
from goodbalance.core.stations.circulator.survey.pipes import ValveKind

LEAST_OPEN = 0.02  # of a thermostatic valve: it never shuts off altogether
SETTLING, NEAR = 80, 1e-4
LEAST_SHARE, FINE_M3S = 1e-4, 1e-10  # of the most a pump moves, where the search for a return begins; how near it goes


@dataclass(frozen=True, slots=True)
class Steady:
    """Where it comes to rest. coldest_c: of the ring; of crossover valves the coolest of the farthest taps."""

    network: Network
    running: Running
    warmth: Warmth
    coldest_c: float


def law_of(eq: RingEquations, mode: Mode, values: Mapping[str, float]) -> Law:
    """What a mode and the settings tell the pump; half its shut-off pressure where it has no number of its own."""
    if mode is Mode.SPEED:
        step = eq.curve.step_of(values.get(S.SPEED, math.inf))
        return Law(mode, eq.curve.steps[step - 1].share, step=step)
    named = {Mode.PRESSURE: S.SET_PRESSURE, Mode.PROPORTIONAL: S.SET_PRESSURE, Mode.FLOW: S.SET_FLOW}
    return Law(mode, values.get(named[mode], 0.0)) if mode in named else Law(mode, 0.0)


def steady(eq: RingEquations, mode: Mode, values: Mapping[str, float], in_c: float | None = None) -> Steady:
    """The ring at rest in a mode with its settings; values by their ids."""
    kvs, caps = eq.kvs(values), eq.caps(values)
    if mode is Mode.RETURN:
        return _at_return(eq, kvs, caps, values.get(S.SET_RETURN, 0.0), in_c)
    return settled(eq, kvs, caps, law_of(eq, mode, values), in_c)


def settled(eq: RingEquations, kvs: tuple[float, ...], caps: tuple[float, ...], law: Law, in_c: float | None = None) -> Steady:
    """The same with the valves as they let through and a law. Thermostatic valves are closed step by step until they stand."""
    branches, opened = eq.survey.branches, [1.0] * len(kvs)
    follows, came = [1.0] * len(kvs), [0.0] * len(kvs)  # how far each valve goes towards what it wants: half as far each time it would turn back
    self_acting = [number for number, branch in enumerate(branches) if branch.valve is ValveKind.THERMOSTATIC]
    for _ in range(SETTLING if self_acting else 1):
        network = eq.network([kv * share for kv, share in zip(kvs, opened)], caps)
        running = network.running(eq.curve, law)
        warm = eq.warmth(running.branches_m3s, in_c)
        moved = 0.0
        for number in self_acting:
            wanted = stands_open(eq, number, warm.taps_c[number] if eq.survey.crosses else warm.ends_c[number])
            off = wanted - opened[number]
            moved = max(moved, abs(off))
            follows[number] *= 0.5 if off * came[number] < 0.0 else 1.0
            opened[number] += follows[number] * off
            came[number] = off
        if moved < NEAR:
            break
    return Steady(network, running, warm, min(warm.taps_c) if eq.survey.crosses else min((*warm.ends_c, warm.back_c)))


def stands_open(eq: RingEquations, number: int, water_c: float) -> float:
    """How far a thermostatic valve stands open in water of a temperature: shut where it says, open its band below."""
    return min(1.0, max(LEAST_OPEN, (eq.survey.branches[number].closes_c - water_c) / eq.survey.valves.band_k))


def _at_return(eq: RingEquations, kvs: tuple[float, ...], caps: tuple[float, ...], wanted_c: float, in_c: float | None) -> Steady:
    """The flow at which the water comes back as warm as is wanted, as far as the pump can. Source: bracketed root on the flow."""
    most = settled(eq, kvs, caps, Law(Mode.SPEED, 1.0), in_c)
    tried: dict[float, Steady] = {}

    def short_k(flow_m3s: float) -> float:
        tried[flow_m3s] = settled(eq, kvs, caps, Law(Mode.FLOW, flow_m3s), in_c)
        return wanted_c - tried[flow_m3s].warmth.back_c

    high = most.running.flow_m3s
    if short_k(high) >= 0.0:
        return tried[high]
    low = high * LEAST_SHARE
    if short_k(low) <= 0.0:
        return tried[low]
    flow = float(brentq(short_k, low, high, xtol=FINE_M3S))
    if flow not in tried:
        short_k(flow)
    return tried[flow]
