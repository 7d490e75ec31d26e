"""Windows of what is set at the branches by hand: turns of balancing valves, flows of crossover valves."""

from scipy.optimize import brentq

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import Bound, Source
from goodbalance.core.stations.circulator.names import BY_HAND, crossing, valve
from goodbalance.core.stations.circulator.plant.crossing import most_m3s
from goodbalance.core.stations.circulator.survey.pipes import ValveKind
from goodbalance.core.stations.circulator.windows.making import CROSSING_STEP_M3S, Windows, between_pa
from goodbalance.core.stations.shared.making import bound, term


class Valves(Windows):
    """One for each branch that has a valve to be set."""

    def make_all(self) -> None:
        for number, branch in enumerate(self.survey.branches):
            if branch.valve is not ValveKind.BALANCING:
                continue
            name = self.survey.branch_name(number + 1)
            if self.survey.crosses:
                lower, upper = (self._keeps_hot(number),), (self._stays_cold(number), self._not_too_fast(number))
                labels = (f"Crossover valve, {name}", "its flow")
                self.place(
                    crossing(number + 1), labels, lower, upper, 0.25, "Set it by its scale or its stop; the tap is hot, and the cold tap beside it runs warm only for seconds.", BY_HAND, Q.LEAK, CROSSING_STEP_M3S,
                )  # fmt: skip
                continue
            proof = "Shut it, count the turns open; after an hour's run read the return of the branch with a clip-on thermometer."
            self.place(valve(number + 1), (f"Valve of {name}", "turns open"), (self._carries(number),), (self._starves(number), self._wears(number), self._opens(), *self._even(number)), 0.3, proof, BY_HAND, Q.RATIO)

    # balancing valves

    def _carries(self, number: int) -> Bound:
        """The index branch stands open: every other valve makes the difference that is left to it."""
        eq, flow = self.eq, self.need.flows_m3s[number]
        turns = eq.open_turns if number == self.index else eq.turns_of(eq.kv_for(number, flow, self.header_pa))
        terms = (
            term("q", "flow that keeps its coldest point", flow, Q.LEAK), between_pa("h", "difference at the headers, by the index branch", self.header_pa), between_pa("f", "lost in its pipes", eq.pipes[number].loss_pa(flow)),
            term("K", "so its valve lets through", min(eq.kv_for(number, flow, self.header_pa), eq.open_kv(number)), Q.VALVE_FLOW), term("s", "turns, by the valve's table", turns, Q.RATIO),
        )  # fmt: skip
        words = ("index branch: open" if number == self.index else "its own coldest point", "Its farthest end cools under the rule: bacteria grow there." if not self.survey.heats else "Its rooms stay cold.")
        return bound("n = s", terms, turns, "balancing to the index branch; heat lost by each piece", words, quantity=Q.RATIO)

    def _starves(self, number: int) -> Bound:
        """So much as leaves the index branch what it needs, while the pump gives all it can."""
        eq = self.eq
        others = self.need.total_m3s - self.need.flows_m3s[number]
        most = self._pump_most_m3s()
        flow = max(0.0, most - others)
        turns = eq.turns_of(eq.kv_for(number, flow, self.header_pa)) if flow > 0.0 else 0.0
        terms = (
            term("p", "what the pump gives at this difference", most, Q.LEAK), term("o", "what the other branches need of it", others, Q.LEAK), term("s", "turns, by the valve's table, for what is left", turns, Q.RATIO),
        )  # fmt: skip
        return bound("n = s", terms, turns, "pump curve, valve's table", ("the others' flows", "It takes the water: the farthest branch runs cold, however fast the pump."), quantity=Q.RATIO)

    def _even(self, number: int) -> tuple[Bound, ...]:
        """How much over its need a branch may take; the index branch stands open whatever it takes."""
        if number == self.index:
            return ()
        flow = (1.0 + self.rules.balance_share) * self.need.flows_m3s[number]
        turns = self.eq.turns_of(self.eq.kv_for(number, flow, self.header_pa))
        terms = (
            term("q", "flow that keeps its coldest point", self.need.flows_m3s[number], Q.LEAK), term("x", "a branch may take over its need, by rule", self.rules.balance_share, Q.PERCENT), term("s", "turns, by the valve's table", turns, Q.RATIO),
        )  # fmt: skip
        return (bound("n = s", terms, turns, "rule; edit it under Rules", ("balance", "It takes more than its share: the pump works for it, and the index branch is the first to cool."), Source.RULE, quantity=Q.RATIO),)

    def _pump_most_m3s(self) -> float:
        """What the pump gives at full speed while the headers stand at the difference that is needed. Source: bracketed root."""
        eq, last = self.eq, self.eq.curve.flow_m3s(0.0)

        def surplus(flow_m3s: float) -> float:
            return eq.curve.gives_pa(flow_m3s) - eq.common.loss_pa(flow_m3s) - self.header_pa

        return float(brentq(surplus, 0.0, last, xtol=1e-10)) if surplus(0.0) > 0.0 > surplus(last) else 0.0

    def _wears(self, number: int) -> Bound:
        eq, flow = self.eq, self.most_m3s(number)
        turns = eq.turns_of(eq.kv_for(number, flow, self.header_pa))
        pipe = min((eq.pipes[number].there, eq.pipes[number].back), key=lambda each: self.limit_ms(each) * each.area_m2)
        terms = term("v", "velocity allowed in its narrower pipe", self.limit_ms(pipe), Q.VELOCITY), term("q", "that is", flow, Q.LEAK), term("s", "turns, by the valve's table", turns, Q.RATIO)
        return bound("n = s", terms, turns, "rule; edit it under Rules", ("velocity in its pipe", "Water wears the pipe away, and it is heard at night."), Source.RULE, quantity=Q.RATIO)

    def _opens(self) -> Bound:
        open_turns = self.eq.open_turns
        return bound("n = s", (term("s", "turns from shut to open", open_turns, Q.RATIO),), open_turns, "maker", ("its own travel", "It turns no further."), Source.MAKER, quantity=Q.RATIO)

    # crossover valves

    def _keeps_hot(self, number: int) -> Bound:
        flow = self.need.flows_m3s[number]
        terms = term("a", "temperature asked at the farthest tap", self.least_c, Q.TEMPERATURE), term("s", "flow at which it stays there, by what the way out loses", flow, Q.LEAK)
        return bound("q = s", terms, flow, "heat lost along the way out", ("the farthest tap", "It cools between draws: people let it run."), quantity=Q.LEAK)

    def _stays_cold(self, number: int) -> Bound:
        """Warm water creeps into the cold pipe so far as it cools on its way; a cold tap must run that length out, and the valve passes meanwhile."""
        eq, pipe, branch, rules = self.eq, self.eq.pipes[number].back, self.survey.branches[number], self.rules
        divides_c = eq.there.leaves_c(eq.flow_c, max(self.need.total_m3s, 1e-9))
        flow = most_m3s(eq, number, divides_c, rules.cold_c, rules.cold_s)
        terms = (
            term("t", "a cold tap may run warm for", rules.cold_s, Q.TIME), term("l", "cold water at most", rules.cold_c, Q.TEMPERATURE), term("d", "what the tap gives", branch.tap_m3s, Q.LEAK), term("V", "the cold pipe, its wall with it", pipe.fills_m3, Q.VOLUME),
            term("u", "lost by it, W for each kelvin", pipe.lost_wk, Q.RATIO), term("s", "largest flow with which it is cold by then", flow, Q.LEAK),
        )  # fmt: skip
        harm = "The cold tap runs warm for longer: nobody drinks that, and bacteria like it."
        return bound("q = s", terms, flow, "heat lost along the cold pipe; plug flow", ("warm water in the cold pipe", harm), Source.RULE, quantity=Q.LEAK)

    def _not_too_fast(self, number: int) -> Bound:
        flow = self.most_m3s(number)
        return bound("q = s", (term("s", "flow at the velocity allowed", flow, Q.LEAK),), flow, "rule; edit it under Rules", ("velocity in its pipe", "Water wears the pipe away, and it is heard at night."), Source.RULE, quantity=Q.LEAK)
