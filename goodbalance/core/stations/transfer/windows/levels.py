"""Windows of the levels in tanks and sources."""

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import RULE, Bound, Source
from goodbalance.core.stations.shared.making import Terms, bound, term
from goodbalance.core.stations.transfer.names import Level
from goodbalance.core.stations.transfer.survey.choices import OutageDraw
from goodbalance.core.stations.transfer.survey.control import FullBy, SourceBy
from goodbalance.core.stations.transfer.windows.making import LEVELS, SOURCES, Windows

Labels = tuple[str, str]


class TankLevels(Windows):
    """Of each tank: low alarm, assist start, start, stop, high alarm; where the pressure leads the two alarms alone."""

    def make_all(self) -> None:
        for tank in range(self.survey.tanks.count):
            if self.survey.control.full_by is FullBy.LEVELS:
                self._ladder(tank)
            elif self.survey.control.full_by is FullBy.BOTH:
                self._behind_pressure(tank)

    def _level(self, which: Level, tank: int, labels: Labels, lower: tuple[Bound, ...], upper: tuple[Bound, ...], lean: float, proof: str) -> float:
        return self.place(which.of(tank + 1), (f"{labels[0]}{self.of(tank)}", labels[1]), lower, upper, lean, proof, LEVELS, Q.LEVEL)

    def _ladder(self, tank: int) -> None:
        """From the floor up, each built on the one before it; the highest possible stop first, for the start stands a band below it."""
        duty, one = self.survey.pumping.duty_count, tank + 1
        band, ceiling = self._band(tank), self._ceiling(tank)
        highest = min(each.value for each in ceiling)
        below = self._below("start", highest - band.value - self.rules.separation_m * (1 if duty == 1 else 2), "the highest start that leaves a band under the stop", tank)
        self._level(Level.LOW_ALARM, tank, ("Low alarm", "low level"), self._low_alarm_lower(tank), (below,), 0.6, "Let it fall: the alarm comes at this level.")
        name = "low alarm"
        over_alarm = self.step_above(Level.LOW_ALARM.of(one), name, "The alarm comes in honest work: nobody listens to it any more.")
        start = self._below("stop", highest - band.value, "the highest stop less the band for the permitted starts", tank)
        self._level(Level.START, tank, ("Start level", "pump on"), (*self._reserve(tank), over_alarm), (start,), 0.7, "Let it fall: the pump starts at this level.")
        if duty > 1:
            under = self.step_below(Level.START.of(one), "start level", "Both pumps start together: the line takes its highest pressure for nothing.")
            self._level(Level.ASSIST, tank, ("Assist start level", "lag on"), (over_alarm,), (under,), 0.6, "Draw more than one pump brings: the second starts at this level.")
        value = self.so_far[Level.START.of(one)]
        terms = term("s", "start level", value, Q.LEVEL), term("b", "band for the permitted starts", band.value, Q.LEVEL)
        over = bound("h = s + b", terms, value + band.value, "survey", (band.cause, band.harm), band.source, Level.START.of(one), Q.LEVEL)
        self._level(Level.STOP, tank, ("Stop level", "pump off"), (over,), ceiling, 0.8, "Let it fill: the pump stops at this level.")
        after = self.step_above(Level.STOP.of(one), "stop level", "It alarms at every filling: nobody listens to it any more.")
        self._high_alarm(tank, (after,))

    def _behind_pressure(self, tank: int) -> None:
        facts, sep = self.hyd.branches[tank].tank, self.rules.separation_m
        terms = term("o", "level at which its valve opens again", facts.reopens_m, Q.LEVEL), term("x", "least step by rule", sep, Q.LEVEL)
        harm = "It starts the pump while the valve is still shut, and alarms in honest work."
        below = bound("h = o - x", terms, facts.reopens_m - sep, RULE, ("its valve opens again", harm), Source.RULE, quantity=Q.LEVEL)
        self._level(Level.LOW_ALARM, tank, ("Low level: alarm and start", "back-up start"), self._low_alarm_lower(tank), (below,), 0.7, "Let it fall: alarm, and a pump starts whatever the pressure says.")
        terms = term("c", "level at which its valve is shut", facts.closes_m, Q.LEVEL), term("x", "least step by rule", sep, Q.LEVEL)
        words = ("its valve is shut", "It stops the pump before the valve does: the line never learns that the tank is full.")
        over = bound("h = c + x", terms, facts.closes_m + sep, RULE, words, Source.RULE, quantity=Q.LEVEL)
        self._high_alarm(tank, (over,))

    # what bounds them

    def _band(self, tank: int) -> Bound:
        """The least band between start and stop: what the permitted starts ask, V = q T/4, or the shortest run worth a start."""
        facts, rate = self.hyd.branches[tank].tank, self.hyd.alone_m3s(tank, high=True)
        period_s = 3600.0 / self.survey.pumping.starts_per_hour
        run_m, starts_m = rate * self.rules.shortest_run_s / facts.area_m2, rate * period_s / 4.0 / facts.area_m2
        by_starts = starts_m >= run_m
        time_s = period_s / 4.0 if by_starts else self.rules.shortest_run_s
        terms = term("q", "most that is brought", rate, Q.FLOW), term("t", "a quarter of the shortest cycle" if by_starts else "shortest run by rule", time_s, Q.TIME), term("a", "plan area", facts.area_m2, Q.AREA)
        words = ("permitted starts" if by_starts else "shortest run", "It starts more often than the motor stands.")
        if max(run_m, starts_m) < self.rules.separation_m:
            step = (term("x", "least step by rule", self.rules.separation_m, Q.LEVEL),)
            return bound("b = x", step, self.rules.separation_m, RULE, ("least step", "A wave starts and stops it."), Source.RULE, quantity=Q.LEVEL)
        return bound("b = q · t / a", terms, max(run_m, starts_m), "classic sizing, T = 4 V/q", words, Source.MAKER if by_starts else Source.RULE, quantity=Q.LEVEL)

    def _ceiling(self, tank: int) -> tuple[Bound, ...]:
        """What bounds a stop from above: overflow, the valve, and water that grows old."""
        facts, rate = self.hyd.branches[tank].tank, self.hyd.alone_m3s(tank, high=True)
        rise = rate * self.survey.sensor.reacts_s / facts.area_m2
        terms: Terms = term("o", "overflow", facts.overflow_m, Q.LEVEL), term("x", "two steps by rule, for the high alarm between", 2.0 * self.rules.separation_m, Q.LEVEL), term("r", "what still comes while the set reacts", rise, Q.LEVEL)
        found = [bound("h = o - x - r", terms, facts.overflow_m - 2.0 * self.rules.separation_m - rise, "survey", ("overflow", "It spills at every filling."), quantity=Q.LEVEL)]
        if facts.has_valve:
            begins = facts.closes_m - facts.throttles_m
            terms = term("c", "its valve begins to close", begins, Q.LEVEL), term("r", "what still comes while the set reacts", rise, Q.LEVEL)
            words = ("float valve closes", "The valve shuts before the pump stops: it turns against closed water, and the stop never comes.")
            found.append(bound("h = c - r", terms, begins - rise, "survey", words, quantity=Q.LEVEL))
        if self.survey.tanks.drinking and facts.mean_m3s > 0.0:
            terms = term("t", "longest age by rule", self.rules.turnover_s, Q.DURATION), term("q", "mean draw", facts.mean_m3s, Q.FLOW), term("a", "plan area", facts.area_m2, Q.AREA)
            words = ("turnover", "The water grows old in the tank: chlorine is gone, germs grow.")
            found.append(bound("h = q · t / a", terms, self.rules.turnover_s * facts.mean_m3s / facts.area_m2, "rule of hygiene; local rule first", words, Source.CODE, quantity=Q.LEVEL))
        return tuple(found)

    def _below(self, of: str, value: float, meaning: str, tank: int) -> Bound:
        terms = (term("c", meaning, value, Q.LEVEL),)
        harm = "No band is left under the stop: it starts more often than the motor stands." if of == "stop" else "It stands where the start belongs."
        return bound("h = c", terms, value, "levels above it", (f"room for the {of}", harm), quantity=Q.LEVEL)

    def _reserve(self, tank: int) -> tuple[Bound, ...]:
        """What must be in the tank when the pump is called and does not come."""
        facts, tanks = self.hyd.branches[tank].tank, self.survey.tanks
        by_peak = self.schools.outage_draw is OutageDraw.PEAK
        draw = facts.peak_m3s if by_peak else facts.mean_m3s
        value = facts.outlet_m + (facts.reserve_m3 + draw * tanks.outage_s) / facts.area_m2
        terms = (
            term("u", "users get nothing under", facts.outlet_m, Q.LEVEL), term("R", "kept for fire or other need", facts.reserve_m3, Q.VOLUME),
            term("q", "largest draw" if by_peak else "mean draw", draw, Q.FLOW), term("t", "longest time without refill", tanks.outage_s, Q.DURATION), term("a", "plan area", facts.area_m2, Q.AREA),
        )  # fmt: skip
        return (bound("h = u + (R + q · t) / a", terms, value, "survey", ("reserve for an outage", "Users run dry before a pump is mended, or the fire reserve is drawn."), quantity=Q.LEVEL),)

    def _low_alarm_lower(self, tank: int) -> tuple[Bound, ...]:
        facts, tanks = self.hyd.branches[tank].tank, self.survey.tanks
        value = facts.outlet_m + (facts.reserve_m3 + facts.mean_m3s * tanks.response_s) / facts.area_m2
        terms = (
            term("u", "users get nothing under", facts.outlet_m, Q.LEVEL), term("R", "kept for fire or other need", facts.reserve_m3, Q.VOLUME), term("q", "mean draw", facts.mean_m3s, Q.FLOW),
            term("t", "crew's response time", tanks.response_s, Q.DURATION), term("a", "plan area", facts.area_m2, Q.AREA),
        )  # fmt: skip
        return (bound("h = u + (R + q · t) / a", terms, value, "survey", ("crew's response", "The tank is empty, or its reserve drawn, before anybody comes."), quantity=Q.LEVEL),)

    def _high_alarm(self, tank: int, lower: tuple[Bound, ...]) -> None:
        facts, rate = self.hyd.branches[tank].tank, self.hyd.alone_m3s(tank, high=True)
        rise = rate * self.survey.sensor.reacts_s / facts.area_m2
        terms = term("o", "overflow", facts.overflow_m, Q.LEVEL), term("r", "what still comes while the set reacts", rise, Q.LEVEL)
        words = ("overflow", "It stops the pump only when water already spills.")
        upper = bound("h = o - r", terms, facts.overflow_m - rise, "survey", words, quantity=Q.LEVEL)
        self._level(Level.HIGH_ALARM, tank, ("High alarm: it stops all pumps", "high level"), lower, (upper,), 0.4, "Fill by hand: alarm, and every pump stops at this level.")


class SourceLevels(Windows):
    """Of each source: where it stops the pumps on it, and where it gives them back. Heights above the datum."""

    def make_all(self) -> None:
        if self.survey.control.source_by is SourceBy.NONE:
            return
        for place, source in enumerate(self.survey.sources):
            number, sep = place + 1, self.rules.separation_m
            of = f" of source {number}" if len(self.survey.sources) > 1 else ""
            terms = term("i", "lowest level the pump may draw from", source.safe_m, Q.LEVEL), term("x", "least step by rule", sep, Q.LEVEL)
            lower = bound("h = i + x", terms, source.safe_m + sep, "maker", ("the pump's intake", "It draws air: the pump loses its water, its seal runs dry."), Source.MAKER, quantity=Q.LEVEL)
            terms = term("l", "lowest level in honest work", source.low_m, Q.LEVEL), term("x", "least step by rule", sep, Q.LEVEL)
            upper = bound("h = l - x", terms, source.low_m - sep, "survey", ("honest low water", "It stops the transfer although there is water: tanks run empty in a dry season."), quantity=Q.LEVEL)
            stop_m = self.place(
                Level.SOURCE_STOP.of(number), (f"Low-water stop{of}", "source low, permission"), (lower,), (upper,), 0.4,
                "Let the source fall, or lower its switch: every pump on it stops at this level.", SOURCES, Q.LEVEL,
            )  # fmt: skip
            self._back(number, of, stop_m)

    def _back(self, number: int, of: str, stop_m: float) -> None:
        source, band = self.survey.sources[number - 1], self.rules.source_band_m
        terms: Terms = term("s", "low-water stop", stop_m, Q.LEVEL), term("b", "band by rule", band, Q.LEVEL)
        words = ("stop and a band", "It gives back at once: the pump runs a moment on the water that flowed together, over and over.")
        lower = [bound("h = s + b", terms, stop_m + band, RULE, words, Source.RULE, Level.SOURCE_STOP.of(number), Q.LEVEL)]
        if source.area_m2:
            worth = self.hyd.most_rate_m3s * self.rules.shortest_run_s / source.area_m2
            terms = term("s", "low-water stop", stop_m, Q.LEVEL), term("q", "most that is drawn", self.hyd.most_rate_m3s, Q.FLOW), term("t", "shortest run by rule", self.rules.shortest_run_s, Q.TIME), term("a", "plan area", source.area_m2, Q.AREA)
            lower.append(bound("h = s + q · t / a", terms, stop_m + worth, RULE, ("shortest run", words[1]), Source.RULE, Level.SOURCE_STOP.of(number), Q.LEVEL))
        terms = term("m", "highest level", source.high_m, Q.LEVEL), term("b", "least step by rule", self.rules.separation_m, Q.LEVEL)
        upper = bound("h = m - b", terms, source.high_m - self.rules.separation_m, "survey", ("highest water", "The source never comes back so far: the pumps stay out for good."), quantity=Q.LEVEL)
        self.place(
            Level.SOURCE_BACK.of(number), (f"Source{of and f' {number}'} gives back", "reset level"), tuple(lower), (upper,), 0.1,
            "Let the source rise: pumps may run again at this level.", SOURCES, Q.LEVEL,
        )  # fmt: skip
