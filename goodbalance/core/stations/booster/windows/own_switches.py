"""Cut-in and cut-out of sets in which each pump has a pressure switch of its own: one under the other, so that pumps come and go one by one."""

from goodbalance.core.balance.window import RULE, Bound, Source
from goodbalance.core.stations.booster.names import CUT_INS, CUT_OUTS
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.windows.pressures import Pressures
from goodbalance.core.stations.shared.making import bound, term

HIGH_LEAN, LOW_LEAN = 0.9, 0.1  # each cut-in lies near the one before it, the first as low as its followers let it


class OwnSwitches(Pressures):
    """The switch that closes first is the first one's; the last must still supply the worst outlet."""

    def switched(self) -> None:
        """Every cut-in from the first to the last, then every cut-out."""
        count = self.survey.pumping.count
        for number in range(1, count + 1):
            self.own_cut_in(number, count)
        for number in range(1, count + 1):
            self.own_cut_out(number, count)

    def own_cut_in(self, number: int, count: int) -> None:
        """Of one switch: over what the worst outlet wants and the steps of those after it, a step under the one before it."""
        after = count - number
        lower = tuple(self.raised(each, after) for each in (self.supplies_the_worst(self.survey.demand.design_m3s, "at design flow"), self.above_the_column()))
        proof = "Every other pump in OFF, draw water slowly: its pump must start at it."
        if number == 1:
            reach = self.highest_stop()
            step_pa = count * self.rules.hysteresis_pa  # its own cut-out, and each further one a step lower
            terms = (
                term("o", "highest pressure at which the pumps still stop", reach.value), term("n", "switches, a step each", float(count)),
                term("h", "least step", self.rules.hysteresis_pa),
            )  # fmt: skip
            words = ("what the pumps can, less a step for each switch", "There is no room left for the cut-outs above the cut-ins.")
            upper: tuple[Bound, ...] = (bound("p = o - n · h", terms, reach.value - step_pa, "pump curve", words), self.at_the_lowest_outlet())
            self.make(S.CUT_IN, ("Cut-in of switch 1", "first start pressure"), lower, upper, LOW_LEAN, proof)
            return
        harm = "Two pumps start on one dip: their starting currents come together, and the second was not wanted."
        upper = (self.step_below(CUT_INS[number - 2], f"cut-in of switch {number - 1}", harm),)
        self.make(CUT_INS[number - 1], (f"Cut-in of switch {number}", "start pressure"), lower, upper, HIGH_LEAN, proof)

    def raised(self, least: Bound, after: int) -> Bound:
        """A limit from below with room for the switches that follow, a step each."""
        if not after:
            return least
        step_pa = self.rules.hysteresis_pa
        terms = (term("l", least.cause, least.value), term("n", "switches after it", float(after)), term("h", "least step between two switches", step_pa))
        words = (f"{least.cause}, and a step for each switch after it", least.harm)
        return bound("p = l + n · h", terms, least.value + after * step_pa, RULE, words, Source.RULE)

    def own_cut_out(self, number: int, count: int) -> None:
        """Of one switch: enough drawdown above its cut-in, a step under the one before it; the last to come is the first to go."""
        starts, name = CUT_INS[number - 1], f"cut-in of switch {number}"
        short = "It starts and stops all the time: motor and contactor overheat."
        lower: tuple[Bound, ...] = (self.step_above(starts, name, short), self.enough_drawdown(starts))
        proof = "Every other pump in OFF, close every outlet: its pump must stop at it and stay stopped."
        if number == 1:
            upper = (self.highest_stop(), self.at_the_lowest_outlet(), *self.under_the_rating(), self.in_sight_of_the_sensor())
        else:
            harm = "Pumps stop together: check valves slam, and all of them start again together."
            upper = (self.step_below(CUT_OUTS[number - 2], f"cut-out of switch {number - 1}", harm),)
        labels = (f"Cut-out of switch {number}", "stop pressure")
        self.make(CUT_OUTS[number - 1], labels, lower, upper, 0.6 if number == 1 else HIGH_LEAN, proof)
