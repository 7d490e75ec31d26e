"""What a closing float valve does to a running pump: how far the pressure goes past the stop, how long it runs on little water, and the shock."""

from collections.abc import Callable
from dataclasses import dataclass

from goodbalance.core.physics.surge import joukowsky_pa, pipe_period_s
from goodbalance.core.protection.casing import HEAT_JM3K
from goodbalance.core.stations.transfer.plant.hydraulics import SHUT, PumpSide, TransferHydraulics

PARTS = 6  # of the time looked at


@dataclass(frozen=True, slots=True)
class Closing:
    """A tank's valve closing against running pumps: pressure past the stop [Pa], time on less than the least flow [s], by how much its water warms [K]."""

    tank: int
    past_pa: float
    starved_s: float
    warms_k: float


def falls_per_s(hyd: TransferHydraulics, tank: int, flow_m3s: float) -> float:
    """How fast the opening of a valve falls while so much flows in and nobody draws, a share of full a second.

    A ball float follows the water: q/(A band); no valve closes faster than its own time. Infinite for one that snaps shut at once.
    """
    facts = hyd.branches[tank].tank
    by_water = flow_m3s / (facts.area_m2 * facts.throttles_m) if facts.throttles_m > 0.0 else float("inf")
    by_itself = 1.0 / facts.closing_s if facts.closing_s > 0.0 else float("inf")
    return min(by_water, by_itself)


def closing(hyd: TransferHydraulics, tank: int, stop_pa: float, pumps: tuple[int, ...], high: bool = True, joined: bool = False) -> Closing:
    """From the stop pressure on pumps give water for as long as the set takes to react, while the valve goes on closing.

    joined: the others join the first at the moment it reaches the stop. The opening is marched in PARTS steps of the reaction time; nobody draws, the source stands high. Source: continuity of the tank.
    """
    sensor, sides = hyd.survey.sensor, [hyd.pumps[pump] for pump in pumps]
    levels, sources = [branch.tank.closes_m for branch in hyd.branches], hyd.sources_m(high)
    shut_pa = max(hyd.column_pa(sources[side.source] + side.a) for side in sides)

    def at(opening: float) -> tuple[float, float]:
        if opening <= SHUT:
            return shut_pa, 0.0
        flows = hyd.flows(pumps, [opening if each == tank else 0.0 for each in range(len(levels))], levels, sources)
        return flows.pressure_pa, flows.total_m3s

    begins = hyd.opened_for(tank, stop_pa, pumps[:1] if joined else pumps, high)
    pressure_pa, flow = at(_closed_to(hyd, tank, begins, sensor.reacts_s, at))
    starved_s, least = 0.0, hyd.survey.pumping.least_flow_m3s * len(pumps)
    if least > 0.0 and flow < least:
        starved_s = sensor.reacts_s + _starved_before_s(hyd, tank, begins, least, at)
    return Closing(tank, max(0.0, pressure_pa - stop_pa), starved_s, _warms_k(hyd, sides[0], flow / len(pumps), starved_s))


def _closed_to(hyd: TransferHydraulics, tank: int, begins: float, time_s: float, at: Callable[[float], tuple[float, float]]) -> float:
    """How far a valve is open a time later: straight on where it takes its own time, by midpoints where it follows the water."""
    if hyd.branches[tank].tank.throttles_m <= 0.0:
        return max(0.0, begins - time_s * falls_per_s(hyd, tank, 0.0))
    opening, step_s = begins, time_s / PARTS
    for _ in range(PARTS):
        middle = max(0.0, opening - 0.5 * step_s * falls_per_s(hyd, tank, at(opening)[1]))
        opening = max(0.0, opening - step_s * falls_per_s(hyd, tank, at(middle)[1]))
    return opening


def _warms_k(hyd: TransferHydraulics, side: PumpSide, flow_m3s: float, time_s: float) -> float:
    """By how much the water in a pump warms while so little passes: by all that the shaft gives, or as far as what passes carries it away. [K]"""
    if time_s <= 0.0:
        return 0.0
    power_w = side.curves.power_w(flow_m3s) * min(1.0, side.curves.plate.efficiency)
    stored_k = power_w * time_s / (HEAT_JM3K * hyd.survey.protection.casing_m3)
    return stored_k if flow_m3s <= 0.0 else min(stored_k, power_w / (HEAT_JM3K * flow_m3s))


def worst_closing(hyd: TransferHydraulics, stop_pa: float) -> Closing:
    """The valve and the pumps that take the pressure furthest past a stop. [Pa]"""
    known: Closing | None = hyd.closings.get(stop_pa)
    if known is None:
        ways = [(tank, pumps) for tank in range(len(hyd.branches)) for pumps in hyd.teams]
        found = [closing(hyd, tank, stop_pa, pumps) for tank, pumps in ways]
        found += [closing(hyd, tank, stop_pa, pumps, joined=True) for tank, pumps in ways if len(pumps) > 1]
        known = max(found, key=lambda each: each.past_pa)
        hyd.closings[stop_pa] = known
    return known


def _starved_before_s(hyd: TransferHydraulics, tank: int, ends: float, least: float, at: Callable[[float], tuple[float, float]]) -> float:
    """How long before the stop the flow was already under the least. [s]"""
    opening, total_s = ends, 0.0
    while opening < 1.0:
        flow = at(opening)[1]
        if flow >= least:
            break
        wider = min(1.0, opening * 1.15 + 1e-4)
        total_s += (wider - opening) / falls_per_s(hyd, tank, max(flow, 1e-9))
        opening = wider
    return total_s


def shock_pa(hyd: TransferHydraulics, tank: int) -> float:
    """The shock of a valve that closes: rho a v within a pipe period, less for a slower one, 2 rho L v / t. [Pa]

    Source: Joukowsky 1898; Michaud 1878 for slow closing.
    """
    flow = hyd.alone_m3s(tank, high=True)
    length_m, velocity_ms = hyd.line.length_m + hyd.branches[tank].pipe.length_m, hyd.line.velocity_ms(flow)
    sudden = joukowsky_pa(hyd.density_kgm3, hyd.survey.line.wave_ms, velocity_ms)
    takes_s, period_s = closes_in_s(hyd, tank), pipe_period_s(length_m, hyd.survey.line.wave_ms)
    return sudden if takes_s <= period_s else sudden * period_s / takes_s


def closes_in_s(hyd: TransferHydraulics, tank: int) -> float:
    """The least time in which a valve goes from open to shut, nobody drawing: its own, or the water's. [s]"""
    facts = hyd.branches[tank].tank
    return max(facts.closing_s, facts.area_m2 * facts.throttles_m / max(hyd.alone_m3s(tank, high=True), 1e-9))
