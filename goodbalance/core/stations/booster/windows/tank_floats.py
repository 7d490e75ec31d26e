"""Where floats in the tank of a booster set let go: between air at its outlet and the lowest water of normal work."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.balance.window import Bound, Source
from goodbalance.core.physics.wells import vortex_submergence_m
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.survey.supply import SupplyKind
from goodbalance.core.stations.booster.windows.making import LEVELS
from goodbalance.core.stations.booster.windows.suction_stops import SuctionStops
from goodbalance.core.stations.shared.making import Terms, bound, term


class TankFloats(SuctionStops):
    """The low-level stop and the alarm before it, as heights above the datum of the site."""

    def make_all(self) -> None:
        """Only where a float or level switch in the tank tells of lack of water."""
        if not self.survey.switch_in_tank:
            return
        supply, switch = self.survey.supply, self.survey.suction_switch
        self.off_m, self.low_m = switch.off_m, supply.water_low_m or 0.0
        terms: Terms = (self._low(), term("b", "the float turns back over where it lets go by", switch.band_m, Q.LENGTH), self._off())
        words = ("the float must turn back", "On a day of low water it never comes back by itself.")
        back = bound("h = l - b - m", terms, self.low_m - switch.band_m - self.off_m, "float; survey", words, Source.MAKER, quantity=Q.LEVEL)
        self.make(
            S.LOW_LEVEL_STOP, ("Low-level stop", "low water cut-out"), (self.draws_air(), self.npsh_as_level()), (back,), 0.4,
            "Let the water fall, or lower the float: every pump must stop at this height.", LEVELS, Q.LEVEL,
        )  # fmt: skip
        if switch.alarm:
            self.low_alarm()

    def low_alarm(self) -> None:
        """The height of the second float: apart from the stop, and under the lowest water of normal work."""
        stop_m = self.so_far[S.LOW_LEVEL_STOP]
        terms: Terms = (term("s", "low-level stop", stop_m, Q.LEVEL), self._off(), term("k", "twice, for two floats", 2.0, Q.RATIO))
        words = ("the stop itself", "It comes with the stop or after it: nobody is warned.")
        lower = bound("h = s + k · m", terms, stop_m + 2.0 * self.off_m, "two floats", words, refers_to=S.LOW_LEVEL_STOP, quantity=Q.LEVEL)
        words = ("lowest water of normal work", "It warns on every day of low water: nobody listens to it any more.")
        upper = bound("h = l - m", (self._low(), self._off()), self.low_m - self.off_m, "survey", words, quantity=Q.LEVEL)
        proof = "Let the water fall, or lower the float: the alarm comes at this height, before the pumps stop."
        self.make(S.LOW_LEVEL_ALARM, ("Low-level alarm", "low water warning"), (lower,), (upper,), 0.5, proof, LEVELS, Q.LEVEL)

    def _low(self) -> Term:
        return term("l", "lowest water of normal work", self.low_m, Q.LEVEL)

    def _off(self) -> Term:
        return term("m", "how far a float may be off its mark", self.off_m, Q.LENGTH)

    def draws_air(self) -> Bound:
        """The water that must stand over the opening at design flow, so that no air is drawn in."""
        design = self.survey.demand.design_m3s
        opening_m, wide_m = self.opening()
        over_m = vortex_submergence_m(wide_m, design)
        terms: Terms = (
            term("o", "height of the opening", opening_m, Q.LEVEL), term("s", "water over it against a vortex at design flow, D (1 + 2.3 Fr)", over_m, Q.LENGTH), self._off(),
        )  # fmt: skip
        lifts = self.survey.supply.kind is SupplyKind.SUCTION_LIFT
        words = ("the foot valve draws air" if lifts else "the outlet draws air", "Pumps run dry and burn their seals: it never trips.")
        return bound("h = o + s + m", terms, opening_m + over_m + self.off_m, "survey; ANSI/HI 9.8", words, quantity=Q.LEVEL)

    def npsh_as_level(self) -> Bound:
        """The level that gives the pumps the suction their NPSH asks for, with the losses at design flow."""
        needs = self.npsh_of_the_pumps()
        pump_m, loss_pa = self.survey.supply.pump_m or 0.0, self.hyd.suction_loss_pa(self.survey.demand.design_m3s)
        needed_m, lost_m = self.hyd.head_of(needs.value), self.hyd.head_of(loss_pa)
        terms: Terms = (
            term("z", "height of the pump suction", pump_m, Q.LEVEL), term("n", "suction that the NPSH of the pumps asks for, as a column", needed_m, Q.HEAD),
            term("f", "lost on the suction side at design flow", lost_m, Q.HEAD), self._off(),
        )  # fmt: skip
        return bound("h = z + n + f + m", terms, pump_m + needed_m + lost_m + self.off_m, "pump maker's curve", (needs.cause, needs.harm), Source.MAKER, quantity=Q.LEVEL)
