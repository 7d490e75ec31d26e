"""Window of the number that goes with the mode: each limit is a difference between the headers, and each mode states it in its own way."""

import math
from dataclasses import dataclass
from functools import cached_property

from scipy.optimize import brentq

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import Bound, Source
from goodbalance.core.stations.circulator.names import Mode
from goodbalance.core.stations.circulator.names import SettingId as S
from goodbalance.core.stations.circulator.plant.laws import Law
from goodbalance.core.stations.circulator.plant.network import KV_PA, Network
from goodbalance.core.stations.circulator.survey.heat import HeatKind
from goodbalance.core.stations.circulator.survey.pipes import ValveKind
from goodbalance.core.stations.circulator.windows.making import FLOW_STEP_M3S, KELVIN_STEP, PUMP, Windows, between_pa
from goodbalance.core.stations.shared.making import Terms, bound, term

FLOW_FINE = 0.05  # of the needed flow: how fine a set flow is at least
EARS_PA = 1.0
NEAR_MORE = 1.0002  # of a pressure: as good as the same


@dataclass(frozen=True, slots=True)
class Limit:
    """Something that asks for at least, or allows at most, a difference between the headers. [Pa]"""

    header_pa: float
    words: tuple[str, str]
    says: str
    source: Source = Source.PHYSICS


class SetValues(Windows):
    """Built on the valves as they are set."""

    def make_all(self) -> None:
        mode = self.schools.mode
        if mode is Mode.LEARNING:
            return
        lower = tuple(self._stated(limit, False) for limit in self.lower)
        upper = tuple(self._stated(limit, True) for limit in self.upper)
        if mode is Mode.SPEED:
            upper = (*upper, bound("k = s", (term("s", "fixed speeds the pump has", float(self.survey.pump.speeds), Q.COUNT),), float(self.survey.pump.speeds), "maker", ("the pump's speeds", "It has no such speed."), Source.MAKER, quantity=Q.COUNT))
            lower = (*lower, bound("k = s", (term("s", "the first of them", 1.0, Q.COUNT),), 1.0, "maker", ("the pump's speeds", "It has no such speed."), Source.MAKER, quantity=Q.COUNT))
            self.place(S.SPEED, ("Speed", "step, 1 the lowest"), lower, upper, 0.0, "Read the step at the pump; flow or temperatures at every return say whether it carries.", PUMP, Q.COUNT, 1.0)
            return
        if mode is Mode.RETURN:
            self.place(S.SET_RETURN, ("Set return", "temperature at the pump"), lower, upper, 0.3, "After an hour's run read the return beside the sensor.", PUMP, Q.TEMPERATURE, KELVIN_STEP)
            return
        if mode is Mode.FLOW:
            step = FLOW_STEP_M3S if self.need.total_m3s > FLOW_STEP_M3S / FLOW_FINE else 0.1 * FLOW_STEP_M3S
            self.place(S.SET_FLOW, ("Set flow", "by the pump's own meter"), lower, upper, 0.1, "Read the flow at the pump or at the valves' nipples.", PUMP, Q.LEAK, step)
            return
        labels = ("Set pressure", "head") if mode is Mode.PRESSURE else ("Set pressure", "head at full flow; half of it at none")
        self.place(S.SET_PRESSURE, labels, lower, upper, 0.1, "Read head or flow at the pump, or the difference by gauges at its nipples.", PUMP, Q.DIFFERENCE)

    # limits

    @cached_property
    def network(self) -> Network:
        """The ring with its valves as set, thermostatic ones open."""
        return self.eq.network(self.eq.kvs(self.so_far), self.eq.caps(self.so_far))

    @cached_property
    def lower(self) -> tuple[Limit, ...]:
        """What asks for flow."""
        survey, net, need = self.survey, self.network, self.need
        asks = [net.header_for_pa(number, flow) for number, flow in enumerate(need.flows_m3s)]
        worst = asks.index(max(asks))
        name = survey.branch_name(worst + 1)
        harm = f"Its rooms, {name}, stay cold." if survey.heats else f"The far end, {name}, cools under the rule: bacteria grow there, and people wait."
        found = [Limit(max(asks), (f"the coldest point, {name}", harm), "heat lost by each piece; losses of pipes and valves")]
        lit = survey.heat.least_m3s if survey.heat.kind is HeatKind.INSTANTANEOUS else survey.heat.boiler_least_m3s if survey.heats and not survey.heat.bypass else 0.0
        if survey.pump.drive and self.schools.mode is not Mode.SPEED:
            slowest = net.running(self.eq.curve, Law(Mode.SPEED, survey.pump.slowest))
            found.append(Limit(slowest.header_pa, ("its slowest speed", "It turns no slower: it gives more than is set, and nothing is held."), "maker", Source.MAKER))
        if lit > 0.0:
            found.append(Limit(self._header_for(lit), ("flow that keeps the heat lit", "It goes out, and the ring cools down to its air."), "maker", Source.MAKER))
        return tuple(found)

    @cached_property
    def upper(self) -> tuple[Limit, ...]:
        """What must not be passed."""
        eq, net, survey = self.eq, self.network, self.survey
        full = net.running(eq.curve, Law(Mode.SPEED, 1.0))
        found = [Limit(full.header_pa, ("the pump's own curve", "It gives no more: it turns at full speed, and nothing is held."), "pump curve")]
        runs = [(net.header_for_pa(number, self.most_m3s(number)), survey.branch_name(number + 1)) for number in range(len(eq.pipes))]
        for piece in (eq.there, *(() if eq.back is None else (eq.back,))):
            runs.append((self._header_for(self.limit_ms(piece) * piece.area_m2), piece.name))
        fastest, where = min(runs)
        found.append(Limit(fastest, (f"velocity in {where}", "Water wears the pipe away, and it is heard at night."), "rule; edit it under Rules", Source.RULE))
        loud = [net.header_for_pa(number, kv * math.sqrt(survey.pump.loudest_pa / KV_PA)) for number, kv in enumerate(net.kvs) if kv > 0.0 and survey.branches[number].valve is not ValveKind.OPEN]
        if loud:
            found.append(Limit(min(loud), ("noise at a valve", "It whistles, and somebody turns it down in the night."), "rule of thumb; edit it at the circulator", Source.RULE))
        if survey.heat.kind is HeatKind.LOW_TEMPERATURE and not survey.crosses:
            found.append(Limit(self._header_at_return(survey.heat.highest_return_c), ("warmest return the source may see", "It stops, or wastes its gain."), "maker", Source.MAKER))
        return tuple(found)

    @cached_property
    def top_pa(self) -> float:
        """A difference no pump of this kind reaches."""
        return 4.0 * self.eq.curve.a

    def _header_for(self, flow_m3s: float) -> float:
        """The difference at which so much runs in all; the top where it never does. Source: bracketed root."""
        net = self.network
        if net.total_m3s(self.top_pa) <= flow_m3s:
            return self.top_pa
        return float(brentq(lambda header: net.total_m3s(header) - flow_m3s, 0.0, self.top_pa, xtol=1e-3))

    def _header_at_return(self, back_c: float) -> float:
        """The difference at which water comes back so warm. Source: bracketed root, for it grows with the flow."""
        def over(header_pa: float) -> float:
            return self.eq.warmth(self.network.flows_m3s(header_pa)).back_c - back_c

        if over(EARS_PA) >= 0.0:
            return EARS_PA
        return float(brentq(over, EARS_PA, self.top_pa, xtol=1e-2)) if over(self.top_pa) > 0.0 else self.top_pa

    # how each mode states them

    def _stated(self, limit: Limit, upper: bool) -> Bound:
        header_pa = min(limit.header_pa, self.top_pa)
        eq, mode, flow = self.eq, self.schools.mode, self.network.total_m3s(header_pa)
        common = eq.common.loss_pa(flow)
        adds = header_pa + common
        terms: Terms = (between_pa("h", "difference at the headers for it", header_pa), between_pa("c", "lost in the common pipes, the heat and its valves", common))
        running: Terms = (term("q", "flow of the ring then", flow, Q.LEAK),)
        if mode is Mode.PRESSURE:
            return bound("p = h + c", terms, adds, limit.says, limit.words, limit.source, quantity=Q.DIFFERENCE)
        if mode is Mode.PROPORTIONAL:
            value = self._line_value(flow, adds)
            return bound("p = s", (*terms, *running, between_pa("s", "set value whose line passes there", value)), value, limit.says, limit.words, limit.source, quantity=Q.DIFFERENCE)
        if mode is Mode.FLOW:
            return bound("q = s", (*terms, term("s", "flow of the ring then", flow, Q.LEAK)), flow, limit.says, limit.words, limit.source, quantity=Q.LEAK)
        if mode is Mode.RETURN:
            back_c, off = eq.warmth(self.network.flows_m3s(header_pa)).back_c, self.rules.sensor_k
            both = (term("b", "return then", back_c, Q.TEMPERATURE), term("e", "error of the sensor, kelvin", off, Q.RATIO))
            return bound("T = b - e" if upper else "T = b + e", both, back_c - off if upper else back_c + off, limit.says, limit.words, limit.source, quantity=Q.TEMPERATURE)
        gives = [eq.curve.at_step_pa(number, flow) for number in range(1, len(eq.curve.steps) + 1)]
        if upper:
            step = sum(each <= adds * NEAR_MORE for each in gives)
        else:
            step = sum(each < adds / NEAR_MORE for each in gives) + 1
        known = 1 <= step <= len(gives)
        told: Terms = (*terms, *running, term("s", "the step next to it, on its own side", float(step), Q.COUNT))
        if any(each.own is not None for each in eq.curve.steps):
            told = (*told, *((between_pa("g", "which adds at that flow, by its curve", gives[step - 1]),) if known else ()))
        else:
            told = (*told, term("n", "speed that gives it, of full speed", eq.curve.speed_for(flow, adds), Q.PERCENT))
        return bound("k = s", told, float(step), limit.says, limit.words, limit.source, quantity=Q.COUNT)

    def _line_value(self, flow_m3s: float, adds_pa: float) -> float:
        """The set value whose line passes through a point. Source: bisection, for the line lies higher with it. [m3/s, Pa]"""
        low, high = adds_pa, 2.0 * adds_pa
        for _ in range(48):
            middle = 0.5 * (low + high)
            low, high = (middle, high) if Law(Mode.PROPORTIONAL, middle).line_pa(self.eq.curve, flow_m3s) < adds_pa else (low, middle)
        return high
