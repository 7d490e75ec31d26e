"""Windows of the times and of the outside thermostat: lead, push of the button, a moment's turn after long rests."""

import math
from functools import cached_property

from goodbalance.core.balance.plan import TIMERS
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import RULE, Bound, Source
from goodbalance.core.stations.circulator.names import IN_HOURS
from goodbalance.core.stations.circulator.names import SettingId as S
from goodbalance.core.stations.circulator.plant.steady import Steady, steady
from goodbalance.core.stations.circulator.survey.choices import Hours
from goodbalance.core.stations.circulator.survey.hours import by_clock, running
from goodbalance.core.stations.circulator.survey.use import Outside
from goodbalance.core.stations.circulator.windows.making import KELVIN_STEP, PUMP, Windows
from goodbalance.core.stations.shared.making import bound, by_rule, term
from goodbalance.core.stations.shared.week import rests, spans

KICK_STEP_S = 3600.0
NEVER_S = 1e7  # shown where a tap never gets hot


class Times(Windows):
    """Built on valves and set value."""

    def make_all(self) -> None:
        outside = self.survey.control.outside
        if outside is Outside.THERMOSTAT:
            self._thermostat()
        if outside is Outside.BUTTON:
            longest = by_rule("m", "a push runs it for at most, by rule", self.rules.longest_button_s, ("the rule", "It runs on for nobody."), Q.DURATION)
            self._time(S.BUTTON_RUN, ("A push runs it for", "button"), (self._gets_hot(),), (longest,), "Push, and take the time until the farthest tap is hot, and until the pump rests.")
        if by_clock(self.survey, self.choices) and self.schools.hours is Hours.WANTED:
            longest = by_rule("m", "lead at most, by rule", self.rules.longest_lead_s, ("the rule", "It runs for nobody."), Q.DURATION)
            self._time(S.LEAD, ("Lead", "it starts so much earlier"), (self._gets_hot(),), (longest, *self._rest_is_left()), "Start it from cold and take the time until the farthest tap is hot; or come early in the morning.", IN_HOURS)
        still_s = self._longest_rest_s()
        if still_s > self.rules.kick_after_s:
            often = by_rule("a", "a pump that rests longer is turned for a moment, by rule", self.rules.kick_after_s, ("turned too often", "It wakes people and wears its bearings for nothing."), Q.HOURS)
            seizes = bound("t = m", (term("m", "it may stand at most", self.rules.seizes_s, Q.HOURS),), self.rules.seizes_s, "maker; edit it under Rules", ("a pump that stands", "Scale or rust holds its rotor: it does not start when it is wanted."), Source.MAKER, quantity=Q.HOURS)
            self.place(S.KICK_EVERY, ("Turned for a moment every", "anti-seize"), (often,), (seizes,), 0.0, "Read it at the device, or hear it turn on the bench of the workshop.", TIMERS, Q.HOURS, KICK_STEP_S)

    def _time(self, setting: S, labels: tuple[str, str], lower: tuple[Bound, ...], upper: tuple[Bound, ...], proof: str, group: str = TIMERS) -> None:
        self.place(setting, labels, lower, upper, 0.15, proof, group, Q.DURATION)

    @cached_property
    def runs(self) -> Steady:
        """The ring as it runs with what is set so far."""
        return steady(self.eq, self.schools.mode, self.so_far)

    def _gets_hot(self) -> Bound:
        hot_c = None if self.survey.heats else self.survey.use.hot_c
        times = self.eq.hot_after_s(self.runs.running.branches_m3s, hot_c)
        worst = max(times)
        number = times.index(worst)
        worst = worst if math.isfinite(worst) else NEVER_S
        pipe, flow = self.eq.pipes[number].there, self.runs.running.branches_m3s[number]
        name = self.survey.branch_name(number + 1)
        terms = (
            term("V", "the common pipe out, its wall warmed with it", self.eq.there.fills_m3, Q.VOLUME), term("Q", "flow of the ring", self.runs.running.flow_m3s, Q.LEAK), term("b", f"the way out, {name}, likewise", pipe.fills_m3, Q.VOLUME),
            term("q", "its flow", flow, Q.LEAK), term("x", "over it, by rule", self.rules.lead_share, Q.PERCENT), term("s", "until it is hot, from cold", worst, Q.DURATION),
        )  # fmt: skip
        words = (f"{name} hot from cold", "People find it cold, and let it run." if not self.survey.heats else "Rooms are cold when people come.")
        return bound("t = (1 + x) · s", terms, (1.0 + self.rules.lead_share) * worst, "plug flow through cold pipes", words, quantity=Q.DURATION)

    def _rest_is_left(self) -> tuple[Bound, ...]:
        """So much lead that no rest is left saves nothing."""
        between = [end - begin for begin, end in rests(spans(self.survey.use.wanted))]
        if not between:
            return ()
        shortest = min(between)
        words = ("the shortest rest", "It never rests between two warm times: nothing is saved.")
        return (bound("t = r", (term("r", "shortest time between two warm times", shortest, Q.DURATION),), shortest, "survey", words, quantity=Q.DURATION),)

    def _longest_rest_s(self) -> float:
        if self.survey.control.outside is not Outside.NONE:
            return math.inf  # nobody knows when it is asked
        found = rests(running(self.survey, self.choices, self.so_far.get(S.LEAD, 0.0)))
        longest = max((end - begin for begin, end in found), default=0.0)
        return math.inf if self.survey.heats else longest  # a summer

    def _thermostat(self) -> None:
        rules, back_c = self.rules, self.runs.warmth.back_c
        off, step = term("e", "error of the sensor, kelvin", rules.sensor_k, Q.RATIO), term("d", "stop over start by, kelvin", rules.stat_k, Q.RATIO)
        back = term("b", "return while it runs", back_c, Q.TEMPERATURE)
        least = rules.least_return_c if not (self.survey.heats or self.survey.crosses) else (self.survey.branches[0].room_c if self.survey.heats else rules.cold_c)
        low = bound("T = l + e", (term("l", "coldest point allowed", least, Q.TEMPERATURE), off), least + rules.sensor_k, RULE, ("the coldest point", "It waits until the ring has cooled under the rule."), Source.RULE, quantity=Q.TEMPERATURE)
        high = bound("T = b - e - d", (back, off, step), back_c - rules.sensor_k - rules.stat_k, "heat lost by each piece", ("room for the stop", "No stop fits over it: it never rests."), quantity=Q.TEMPERATURE)
        self.place(S.STAT_START, ("Thermostat starts it at", "cut-in"), (low,), (high,), 0.5, "Let the ring cool and read the return when it starts.", PUMP, Q.TEMPERATURE, KELVIN_STEP)
        start_c = self.so_far[S.STAT_START]
        over = bound("T = a + d", (term("a", "its start", start_c, Q.TEMPERATURE), step), start_c + rules.stat_k, RULE, ("its start", "It starts and stops all day."), Source.RULE, S.STAT_START, Q.TEMPERATURE)
        under = bound("T = b - e", (back, off), back_c - rules.sensor_k, "heat lost by each piece", ("the return while it runs", "It is never reached: the pump never rests."), quantity=Q.TEMPERATURE)
        self.place(S.STAT_STOP, ("Thermostat stops it at", "cut-out"), (over,), (under,), 0.5, "Let it run and read the return when it stops.", PUMP, Q.TEMPERATURE, KELVIN_STEP)
