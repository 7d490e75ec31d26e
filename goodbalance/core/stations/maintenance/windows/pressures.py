"""Windows of stop and start, and of the main pumps' starts under them: each pressure separated from the next."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import RULE, Bound, Source
from goodbalance.core.stations.maintenance.names import OTHERS, main_start
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.survey.choices import RunOn
from goodbalance.core.stations.maintenance.windows.making import PRESSURES, Windows
from goodbalance.core.stations.shared.making import bound, term

IN_FORCE = "the rule in force; edit it under Rules"


class Pressures(Windows):
    """Stop first, then start under it, then the main pumps' starts in their order."""

    def make_all(self) -> None:
        self.place(
            S.STOP_PRESSURE, ("Stop pressure", "cut-out"), (self._over_churn(),), (self._under_shut_off(), self._in_sight(), *self._under_ratings()), 0.15,
            "Bleed until the pump starts, close the bleed: it stops at this pressure (with a least run: once that is over).", PRESSURES, Q.PRESSURE,
        )  # fmt: skip
        self.place(
            S.START_PRESSURE, ("Start pressure", "cut-in"), (self._over_mains(),), (self._under_stop(), self._apart()), 0.9,
            "Bleed slowly: the pump starts at this pressure.", PRESSURES, Q.PRESSURE,
        )  # fmt: skip
        for number in range(1, self.survey.mains.count + 1):
            self._main(number)

    def _over_churn(self) -> Bound:
        hyd, over = self.hyd, self.rules.over_churn_pa
        terms = (
            term("c", "what a main pump adds without flow", self.survey.mains.churn_pa), term("s", "lowest pressure of the supply", hyd.supply_pa(False)), term("o", "over it, by rule", over),
        )  # fmt: skip
        harm = "After each test of the main pump the line sags from its churn to the stop before the maintenance pump counts; a swing then reaches the main pump's start."
        return bound("p = c + s + o", terms, hyd.churn_pa(False) + over, IN_FORCE, ("main pump's churn with the lowest supply", harm), Source.RULE)

    def _under_shut_off(self) -> Bound:
        hyd, rules = self.hyd, self.rules
        terms = (
            term("s", "lowest pressure of the supply", hyd.supply_pa(False)), term("H", "shut-off head", hyd.a, Q.HEAD), term("k", "of it lost while it wears", rules.worn_share, Q.PERCENT),
            term("g", "weight of water over that of its head, Pa/m", hyd.weight, Q.RATIO), *self.wobbles(), term("m", "margin by rule", rules.margin_pa),
        )  # fmt: skip
        value = hyd.shut_off_pa(False, 1.0 - rules.worn_share) - self.off_pa - rules.margin_pa
        words = ("its own shut-off with the lowest supply", "It never comes to the stop: it runs against the closed line until its water boils.")
        return bound("p = s + g · H · (1 - k) - w - e - m", terms, value, "pump curve", words)

    def _in_sight(self) -> Bound:
        terms = (term("r", "range of the sensor", self.survey.sensor.range_pa), *self.wobbles())
        return bound("p = r - w - e", terms, self.survey.sensor.range_pa - self.off_pa, "sensor", ("range of the sensor", "The reading never gets so high: it never stops."))

    def _under_ratings(self) -> tuple[Bound, ...]:
        found = []
        for name, rating_pa, down_pa in self.hyd.rated_parts:
            terms = term("n", f"rating: {name}", rating_pa), term("f", "share of it that may be used", self.rules.rating_share, Q.PERCENT), term("c", "column from the sensor down to it", down_pa), *self.wobbles()
            value = self.rules.rating_share * rating_pa - down_pa - self.off_pa
            harm = "It lets water out at every stop, and the line never holds." if name == "relief valve" else "A pipe or fitting gives way."
            found.append(bound("p = f · n - c - w - e", terms, value, "maker", (name, harm), Source.MAKER))
        return tuple(found)

    def _under_stop(self) -> Bound:
        stop_pa, step = self.so_far[S.STOP_PRESSURE], self.rules.differential_pa
        terms = term("s", "stop pressure", stop_pa), term("d", "differential by rule", step)
        return bound("p = s - d", terms, stop_pa - step, IN_FORCE, ("differential under the stop", "It starts and stops all day: it wears out, and nobody hears any more when it runs."), Source.RULE, S.STOP_PRESSURE)

    def _apart(self) -> Bound:
        """As far under the stop as two readings may be off; where a least run lets it climb, under what it leaves behind."""
        stop_pa = self.so_far[S.STOP_PRESSURE]
        terms = term("s", "stop pressure", stop_pa), *self.wobbles()
        harm = "What the reading wobbles starts it again at once." + (" A least run hides it." if self.schools.run_on is RunOn.TIMER else "")
        return bound("p = s - 2 · (w + e)", terms, stop_pa - 2.0 * self.off_pa, RULE, ("the reading's wobble", harm), Source.RULE, S.STOP_PRESSURE)

    def _over_mains(self) -> Bound:
        """Over the highest main pump's start, as it is set; where that is not known, with room for all of them over the supply."""
        known = self.chosen.get(main_start(1))
        step = self.rules.separation_pa
        harm = "A sag that the maintenance pump should catch starts the main pump: the brigade comes for nothing."
        if known is not None:
            set_so = (term("m", "start of the first main pump, as set", known), term("d", "separation by rule", step))
            return bound("p = m + d", set_so, known + step, IN_FORCE, ("first main pump's start", harm), Source.RULE)
        further = (self.survey.mains.count - 1) * self.rules.schedule_pa
        low_pa = self.hyd.supply_pa(True) + self.off_pa
        terms = (
            term("s", "highest pressure of the supply", self.hyd.supply_pa(True)), *self.wobbles(), term("d", "separation by rule", step),
            term("f", "further main pumps, by rule", further),
        )  # fmt: skip
        return bound("p = s + w + e + d + f", terms, low_pa + step + further, IN_FORCE, ("room for the main pumps' starts", harm), Source.RULE)

    def _main(self, number: int) -> None:
        """A main pump's start: its people's. Recommended high under what stands over it."""
        above, step, who = (S.START_PRESSURE, self.rules.separation_pa, "the maintenance pump's start") if number == 1 else (main_start(number - 1), self.rules.schedule_pa, "the main pump before it")
        top_pa = self.so_far[above]
        terms = term("u", who, top_pa), term("d", "separation by rule", step)
        words = (f"separation under {who}", "A sag that the pump before it should catch starts it: the brigade comes for nothing.")
        upper = bound("p = u - d", terms, top_pa - step, IN_FORCE, words, Source.RULE, above)
        supply_pa = self.hyd.supply_pa(True)
        holds = term("s", "highest pressure of the supply", supply_pa), *self.wobbles()
        lower = bound("p = s + w + e", holds, supply_pa + self.off_pa, "survey", ("highest supply", "The supply alone holds the line over it: the main pump does not start at a fire."))
        self.place(
            main_start(number), (f"Main pump {number}'s start", "set by licensed people"), (lower,), (upper,), 0.9,
            "Witnessed: licensed people run the main pump, not from here.", OTHERS, Q.PRESSURE,
        )  # fmt: skip
