"""Windows of the times: start delay, least run, and the alarm of a long run."""

from goodbalance.core.balance.plan import TIMERS
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import Bound, Source
from goodbalance.core.protection.casing import HEAT_JM3K
from goodbalance.core.stations.maintenance.names import SettingId as S
from goodbalance.core.stations.maintenance.names import main_start
from goodbalance.core.stations.maintenance.survey.choices import RunOn
from goodbalance.core.stations.maintenance.windows.making import Windows
from goodbalance.core.stations.maintenance.windows.pressures import IN_FORCE
from goodbalance.core.stations.shared.making import bound, by_rule, term


class Times(Windows):
    """Built on the pressures."""

    def make_all(self) -> None:
        swing = by_rule("s", "longest swing of the line's pressure by rule", self.rules.swing_s, ("a swing", "Every swing of the line starts the pump."), Q.TIME)
        self._time(S.ON_DELAY, ("Start delay", "on-delay"), (swing,), (self._before_the_main(), self._no_longer()), 0.3, "Bleed at once under the start and take the time until the pump starts.")
        if self.schools.run_on is RunOn.TIMER:
            self._time(S.LEAST_RUN, ("Least run", "minimum run timer"), self._least_lower(), (self._warms(),), 0.1, "Close the bleed as soon as the pump runs and take the time until it stops.")
        self._time(S.LONG_RUN, ("Long run: alarm", "pump runs too long"), (self._honest(), self._worth_it()), (self._makes_good(),), 0.3, "Bleed as much as the pump brings and take the time until the alarm comes.")

    def _time(self, setting: S, labels: tuple[str, str], lower: tuple[Bound, ...], upper: tuple[Bound, ...], lean: float, proof: str) -> None:
        self.place(setting, labels, lower, upper, lean, proof, TIMERS, Q.TIME)

    def _before_the_main(self) -> Bound:
        start_pa, main_pa = self.so_far[S.START_PRESSURE], self.so_far[main_start(1)]
        value = self.hyd.sags_s(start_pa, main_pa, self.leaks_m3s)
        terms = (
            term("a", "start pressure", start_pa), term("b", "start of the first main pump", main_pa), term("q", "leak, as it is or as permitted", self.leaks_m3s, Q.LEAK),
            term("C", "what the line takes for each bar more", 1e5 * self.hyd.stores_m3pa(0.5 * (start_pa + main_pa)), Q.VOLUME), term("s", "added up over the sag", value, Q.TIME),
        )  # fmt: skip
        return bound("t = s", terms, value, "stiffness and leak of the line", ("the sag to the main pump's start", "The main pump starts while the delay counts: the brigade comes for a leak."), quantity=Q.TIME)

    def _no_longer(self) -> Bound:
        return by_rule("m", "start delay at most, by rule", self.rules.longest_delay_s, ("the rule", "A real fall of pressure waits for the timer."), Q.TIME)

    def _least_lower(self) -> tuple[Bound, ...]:
        """What the rule asks, and what the permitted starts leave of a cycle whose sag is as short as its leak makes it."""
        hyd, n = self.hyd, self.survey.pumping.starts_per_hour
        top_pa = hyd.settles_pa(False, self.leaks_m3s)
        sags = hyd.sags_s(max(top_pa, self.so_far[S.STOP_PRESSURE]), self.so_far[S.START_PRESSURE], self.leaks_m3s)
        cycle = term("T", "shortest cycle the motor stands", 3600.0 / n, Q.TIME)
        rest = term("r", "sag from where the pump leaves the line to the start", sags, Q.TIME)
        value = max(0.0, 3600.0 / n - sags)
        starts = bound("t = max(0, T - r)", (cycle, rest), value, "stiffness and leak of the line", ("permitted starts", "A stiff line starts it more often than the motor stands."), Source.MAKER, quantity=Q.TIME)
        rule = bound("t = m", (term("m", "least run by the rule in force", self.rules.least_run_s, Q.TIME),), self.rules.least_run_s, IN_FORCE, ("the rule in force", "Its people ask for a longer run."), Source.RULE, quantity=Q.TIME)
        return starts, rule

    def _warms(self) -> Bound:
        """Against the closed line all that the shaft gives warms the water in the casing."""
        hyd, facts = self.hyd, self.survey.protection
        power_w = hyd.curves.power_w(0.0) * min(1.0, hyd.curves.plate.efficiency)
        value = self.survey.pumping.warm_k * facts.casing_m3 * HEAT_JM3K / power_w
        terms = (
            term("k", "its water may warm by, in kelvin", self.survey.pumping.warm_k, Q.RATIO), term("V", "water in the casing", facts.casing_m3, Q.VOLUME), term("c", "heat of water, J/m3 K", HEAT_JM3K, Q.RATIO),
            term("P", "shaft power against the closed line", power_w, Q.POWER),
        )  # fmt: skip
        return bound("t = k · V · c / P", terms, value, "heat of the casing's water", ("the water in the casing", "It runs against the closed line until its seal is gone."), quantity=Q.TIME)

    def _honest(self) -> Bound:
        """From the main pump's start up to the stop with the lowest supply and the permitted leak, or the least run."""
        hyd, rules = self.hyd, self.rules
        fills = hyd.fills_s(self.so_far[main_start(1)], self.so_far[S.STOP_PRESSURE], False, self.leaks_m3s)
        least = self.so_far.get(S.LEAST_RUN, 0.0)
        terms = term("f", "from the main pump's start up to the stop, leaking", fills, Q.TIME), term("l", "least run", least, Q.TIME), term("x", "over it, by rule", rules.run_share, Q.PERCENT)
        words = ("longest honest run", "It calls somebody for an honest run: soon nobody comes.")
        return bound("t = (1 + x) · max(f, l)", terms, (1.0 + rules.run_share) * max(fills, least), "survey", words, quantity=Q.TIME)

    def _worth_it(self) -> Bound:
        return by_rule("s", "shortest run worth a call, by rule", self.rules.told_s, ("a run worth a call", "It calls somebody for every bleed."), Q.TIME)

    def _makes_good(self) -> Bound:
        """A pump that runs longer than the rule gives it for an hour's permitted leak meets more than that, or is worn."""
        hour_m3, within = 3600.0 * self.survey.line.permitted_m3s, self.rules.makes_good_s
        terms = term("m", "an hour's permitted leak is made good within, by rule", within, Q.TIME), term("V", "that is", hour_m3, Q.VOLUME)
        return bound("t = m", terms, within, IN_FORCE, ("time to make good the permitted leak", "A leak larger than permitted, or a worn pump, is not told."), Source.RULE, quantity=Q.TIME)

