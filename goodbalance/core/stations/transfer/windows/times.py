"""Windows of the times: restart delay, broken wires, lack of water, run-out, assist, the longest run."""

import math

from goodbalance.core.balance.plan import TIMERS
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import Bound, Source
from goodbalance.core.stations.shared.making import Terms, bound, by_rule, term
from goodbalance.core.stations.transfer.names import Level
from goodbalance.core.stations.transfer.names import SettingId as S
from goodbalance.core.stations.transfer.survey.control import FullBy, SourceBy
from goodbalance.core.stations.transfer.survey.tanks import TankFacts
from goodbalance.core.stations.transfer.windows.making import Windows

NEVER_S = 3000.0 * 86400.0  # what an endless fill is told as


class Times(Windows):
    """Every timer, the restart delay first."""

    def make_all(self) -> None:
        control, duty = self.survey.control, self.survey.pumping.duty_count
        if control.by_pressure:
            self._time(
                S.RESTART_DELAY, ("Restart delay", "off-time, pause"), (*self._delay_lower(),), tuple(self._users_wait(tank) for tank in range(self.survey.tanks.count)), 0.25,
                "Let the pressure fall and take the time until the pump starts.", Q.DURATION,
            )  # fmt: skip
            self._run_out()
        if control.source_by is not SourceBy.NONE:
            waves = by_rule("w", "longest wave or bounce by rule", self.rules.wave_s, ("waves", "A wave or a bouncing contact stops the pumps for nothing."), Q.TIME)
            self._time(S.SOURCE_DELAY, ("Low water counts after", "low-level delay"), (waves,), self._draws_air(), 0.3, "Let the source fall under its stop and take the time until the pumps stop.")
        if control.by_levels and control.tells_broken_wire:
            bounce = by_rule("w", "longest bounce, or lightning, by rule", self.rules.wave_s, ("lightning", "Every thunderstorm stops the transfer and calls somebody."), Q.TIME)
            self._time(S.WIRE_DELAY, ("A broken wire counts after", "signal loss delay"), (bounce,), self._spills(), 0.3, "Take a wire of the tank off and take the time until the pumps stop.")
        if control.full_by is FullBy.LEVELS and duty > 1:
            start = term("t", "time of a start", self.survey.protection.start_s, Q.TIME)
            lower = bound("t = t", (start,), self.survey.protection.start_s, "survey", ("a start", "Two motors start at once: the supply sags, a fuse goes."), quantity=Q.TIME)
            upper = by_rule("w", "time for the line to come to rest by rule", 6.0 * self.rules.settle_s, ("users wait", "The assist comes late without need."), Q.TIME)
            self._time(S.START_GAP, ("Gap between two starts", "stagger"), (lower,), (upper,), 0.3, "Switch the supply off and on with the tanks low: pumps start one after the other.")
        self._longest_run()
        if control.by_pressure and duty > 1:
            self._assist()

    def _time(self, setting: S, labels: tuple[str, str], lower: tuple[Bound, ...], upper: tuple[Bound, ...], lean: float, proof: str, quantity: Q = Q.TIME) -> float:
        return self.place(setting, labels, lower, upper, lean, proof, TIMERS, quantity)

    # the restart delay

    def _delay_lower(self) -> list[Bound]:
        rests = by_rule("s", "time for the line to come to rest by rule", self.rules.settle_s, ("the line comes to rest", "It starts into water that still swings."), Q.DURATION)
        return [self._starts(), *(self._dribbles(tank) for tank in range(self.survey.tanks.count)), rests]

    def _starts(self) -> Bound:
        """The permitted starts: the shortest cycle is the delay, and the time a pump needs for what a valve lets the level fall."""
        period_s = 3600.0 / self.survey.pumping.starts_per_hour
        tanks, most = [branch.tank for branch in self.hyd.branches], self.hyd.most_rate_m3s
        least_m3 = min(tank.area_m2 * tank.opens_drop_m for tank in tanks)
        terms = (
            term("T", "shortest cycle the motor stands", period_s, Q.TIME), term("V", "least water a valve takes before it shuts again", least_m3, Q.VOLUME), term("q", "most that is brought", most, Q.FLOW),
        )  # fmt: skip
        value = max(0.0, period_s - least_m3 / most)
        return bound("t = max(0, T - V / q)", terms, value, "maker", ("permitted starts", "It starts more often than the motor stands."), Source.MAKER, quantity=Q.DURATION)

    def _dribbles(self, tank: int) -> Bound:
        """Until a valve passes so much that a started pump stays under its stop: one that snaps needs its own time, one that follows the water its play and some draw."""
        hyd = self.hyd
        facts, stop_pa = hyd.branches[tank].tank, self.so_far[S.STOP_PRESSURE]
        harm = "Its valve only dribbles yet: the pump starts, reaches its stop and stops at once, over and over."
        words = (f"the valve{self.of(tank)} opens", harm)
        if facts.throttles_m <= 0.0:
            wide = max(hyd.opened_for(tank, stop_pa, (pump,), True) for pump in hyd.duty)
            terms: Terms = term("x", "it must be open so far that the pressure stays under the stop", wide, Q.PERCENT), term("c", "it takes so long to open or close", facts.closing_s, Q.TIME)
            return bound("t = x · c", terms, wide * facts.closing_s, "survey", words, quantity=Q.DURATION)
        levels = hyd.sources_m(True)
        at_stop = max(hyd.pumps[pump].flow_m3s(hyd.head_m(stop_pa) - levels[hyd.pumps[pump].source]) for pump in hyd.duty)
        terms = (
            term("d", "the level must fall so far until it opens again", facts.opens_drop_m, Q.LEVEL), term("a", "plan area", facts.area_m2, Q.AREA), term("f", "flow at the stop pressure", at_stop, Q.FLOW),
            term("s", "shortest run by rule", self.rules.shortest_run_s, Q.TIME), term("q", "mean draw", facts.mean_m3s, Q.FLOW),
        )  # fmt: skip
        value = (facts.opens_drop_m * facts.area_m2 + at_stop * self.rules.shortest_run_s) / facts.mean_m3s if facts.mean_m3s > 0.0 else 0.0
        return bound("t = (d · a + f · s) / q", terms, value, "survey", words, quantity=Q.DURATION)

    def _users_wait(self, tank: int) -> Bound:
        facts = self.hyd.branches[tank].tank
        kept_m3 = facts.volume_m3(facts.outlet_m, facts.reopens_m) - facts.reserve_m3
        terms = (
            term("V", "water over what users reach, when the valve opens", facts.volume_m3(facts.outlet_m, facts.reopens_m), Q.VOLUME), term("R", "kept for fire or other need", facts.reserve_m3, Q.VOLUME),
            term("q", "largest draw", facts.peak_m3s, Q.FLOW),
        )  # fmt: skip
        words = (f"the reserve{self.of(tank)}", "Users run dry, or the fire reserve is drawn, while the delay counts.")
        return bound("t = max(0, V - R) / q", terms, max(0.0, kept_m3) / max(facts.peak_m3s, 1e-9), "survey", words, quantity=Q.DURATION)

    # source, wires, run-out

    def _draws_air(self) -> tuple[Bound, ...]:
        found = [by_rule("d", "a pump may draw air for, by rule; ask the maker", self.rules.dry_s, ("dry running", "The pump runs dry until its seal is gone."), Q.TIME)]
        for number, source in enumerate(self.survey.sources, 1):
            falls = self.hyd.most_rate_m3s - source.inflow_m3s
            if source.area_m2 and falls > 0.0:
                stop_m = self.so_far[Level.SOURCE_STOP.of(number)]
                terms = (
                    term("s", "low-water stop", stop_m, Q.LEVEL), term("i", "lowest level the pump may draw from", source.safe_m, Q.LEVEL), term("a", "plan area of the source", source.area_m2, Q.AREA),
                    term("q", "most that is drawn", self.hyd.most_rate_m3s, Q.FLOW), term("n", "what flows in", source.inflow_m3s, Q.FLOW),
                )  # fmt: skip
                words = (f"water over the intake{f' of source {number}' if len(self.survey.sources) > 1 else ''}", "The water is under the intake before low water counts.")
                found.append(bound("t = max(0, s - i) · a / (q - n)", terms, max(0.0, (stop_m - source.safe_m) * source.area_m2 / falls), "survey", words, refers_to=Level.SOURCE_STOP.of(number), quantity=Q.TIME))
        return tuple(found)

    def _spills(self) -> tuple[Bound, ...]:
        """From the stop to the overflow at the most that is brought: the wire may have broken just before the stop."""
        found = []
        for tank, branch in enumerate(self.hyd.branches):
            facts, rate = branch.tank, self.hyd.alone_m3s(tank, high=True)
            full_m = self.so_far.get(Level.STOP.of(tank + 1), facts.closes_m)
            terms = (
                term("o", "overflow", facts.overflow_m, Q.LEVEL), term("s", "level at which it is full", full_m, Q.LEVEL), term("a", "plan area", facts.area_m2, Q.AREA), term("q", "most that is brought", rate, Q.FLOW),
            )  # fmt: skip
            words = (f"the overflow{self.of(tank)}", "It spills before the broken wire counts.")
            found.append(bound("t = max(0, o - s) · a / q", terms, max(0.0, facts.overflow_m - full_m) * facts.area_m2 / rate, "survey", words, quantity=Q.TIME))
        return tuple(found)

    def _run_out(self) -> None:
        rate, line = self.hyd.least_rate_m3s, self.survey.line
        filled = by_rule("f", "air is out of the line after, by rule", self.rules.filled_s, ("air in the line", "It stops a pump that only presses the air out."), Q.TIME)
        lower = [filled]
        if not line.check_valve:
            terms = term("V", "water in the line", self.hyd.volume_m3, Q.VOLUME), term("q", "least that is brought", rate, Q.FLOW)
            lower.append(bound("t = V / q", terms, self.hyd.volume_m3 / rate, "survey", ("the line fills anew", "It stops a pump that fills the line which ran back."), quantity=Q.TIME))
        terms = term("l", "water that may be lost", self.survey.tanks.lost_m3, Q.VOLUME), term("q", "most that is brought", self.hyd.most_rate_m3s, Q.FLOW)
        upper = bound("t = l / q", terms, self.survey.tanks.lost_m3 / self.hyd.most_rate_m3s, "survey", ("water that may be lost", "A broken pipe floods the ground, and empties the source."), quantity=Q.TIME)
        self._time(S.LEAST_DELAY, ("Run-out counts after", "burst delay"), tuple(lower), (upper,), 0.3, "A pump runs into an open pipe: take the time until it stops.")

    # the assist, and the longest run

    def _assist(self) -> None:
        """By time: one pump has had the time it needs; users still have water."""
        rate, tanks = self.hyd.least_rate_m3s, [branch.tank for branch in self.hyd.branches]
        mean, peak = sum(tank.mean_m3s for tank in tanks), sum(tank.peak_m3s for tank in tanks)
        volume_m3 = sum(tank.volume_m3(tank.reopens_m, tank.closes_m) for tank in tanks)
        shortest = by_rule("r", "shortest run by rule", self.rules.shortest_run_s, ("shortest run", "The second pump starts with the first: two starts where one was enough."), Q.DURATION)
        lower = [shortest]
        if rate > mean:
            terms = term("V", "what the valves let the levels fall", volume_m3, Q.VOLUME), term("q", "what the weakest pump brings", rate, Q.FLOW), term("n", "mean draw", mean, Q.FLOW)
            lower.append(bound("t = V / (q - n)", terms, volume_m3 / (rate - mean), "survey", ("one pump fills", "The second pump comes where one was enough: more friction, more energy."), quantity=Q.DURATION))
        kept_m3 = sum(max(0.0, tank.volume_m3(tank.outlet_m, tank.reopens_m) - tank.reserve_m3) for tank in tanks)
        upper = []
        if peak > rate:
            needs = term("V", "water in the tanks over what is kept", kept_m3, Q.VOLUME), term("n", "largest draw", peak, Q.FLOW), term("q", "what the weakest pump brings", rate, Q.FLOW)
            upper.append(bound("t = V / (n - q)", needs, kept_m3 / (peak - rate), "survey", ("the reserve", "Users run dry before the second pump comes."), quantity=Q.DURATION))
        longest_s = self.so_far[S.LONGEST_RUN]
        ends = term("L", "longest run", longest_s, Q.DURATION), term("r", "shortest run by rule", self.rules.shortest_run_s, Q.DURATION)
        locks = bound("t = L - r", ends, longest_s - self.rules.shortest_run_s, "plan", ("the longest run", "It locks out before the second pump ever comes."), refers_to=S.LONGEST_RUN, quantity=Q.DURATION)
        self._time(S.ASSIST_AFTER, ("Assist comes after", "lag delay"), tuple(lower), (*upper, locks), 0.3, "Let one pump fill that long: the second starts after this time.", Q.DURATION)

    def _longest_run(self) -> None:
        tanks = [branch.tank for branch in self.hyd.branches]
        delay_s = self.so_far.get(S.RESTART_DELAY, 0.0)
        mean, peak, lasts_s = sum(t.mean_m3s for t in tanks), sum(t.peak_m3s for t in tanks), self.survey.tanks.peak_lasts_s
        volume_m3 = sum(t.volume_m3(*self._fills(place, t)) for place, t in enumerate(tanks)) + peak * delay_s
        rate, share = self.hyd.least_rate_m3s, 1.0 + self.rules.run_share
        fill_s = fill_time_s(volume_m3, rate, mean, peak, lasts_s)
        terms: Terms = (
            term("V", "what tanks take, and the draw while the delay counts", volume_m3, Q.VOLUME), term("q", "what the weakest pump brings", rate, Q.FLOW), term("n", "mean draw", mean, Q.FLOW),
            term("p", "largest draw", peak, Q.FLOW), term("l", "it lasts", lasts_s, Q.DURATION), term("k", "by rule over the longest honest fill", self.rules.run_share, Q.PERCENT),
        )  # fmt: skip
        formula = "t = (1 + k) · V / (q - p)" if volume_m3 <= (rate - peak) * lasts_s else "t = (1 + k) · (V + (p - n) · l) / (q - n)"
        harm = "It locks out in the middle of an honest fill: the tank stays empty until somebody resets."
        lower = bound(formula, terms, min(share * fill_s, NEVER_S), "survey", ("longest honest fill, net of draw", harm), quantity=Q.DURATION)
        upper = tuple(self._lost(tank, facts) for tank, facts in enumerate(tanks))
        self._time(S.LONGEST_RUN, ("Longest run: locks out", "run-time limit"), (lower,), upper, 0.35, "Turn it down to a few minutes, let a pump fill: it locks out after this time. Turn it back.", Q.DURATION)

    def _fills(self, place: int, tank: TankFacts) -> tuple[float, float]:
        """From where to where a tank is filled in honest work."""
        number = place + 1
        return self.so_far.get(Level.START.of(number), tank.reopens_m), self.so_far.get(Level.STOP.of(number), tank.closes_m)

    def _lost(self, tank: int, facts: TankFacts) -> Bound:
        """A valve that does not shut, or a stop that never comes: it fills to the overflow, and so much more is lost."""
        rate, begins_m = self.hyd.alone_m3s(tank, high=True), self._fills(tank, facts)[0]
        room_m3 = facts.volume_m3(begins_m, facts.overflow_m)
        terms = term("V", "from where it is called to the overflow", room_m3, Q.VOLUME), term("l", "water that may be lost", self.survey.tanks.lost_m3, Q.VOLUME), term("q", "most that is brought", rate, Q.FLOW)
        words = (f"water that may be lost{self.of(tank)}", "A valve that sticks open, or a stop that never comes, floods the ground and empties the source.")
        return bound("t = (V + l) / q", terms, (room_m3 + self.survey.tanks.lost_m3) / rate, "survey", words, quantity=Q.DURATION)


def fill_time_s(volume_m3: float, rate_m3s: float, mean_m3s: float, peak_m3s: float, lasts_s: float) -> float:
    """How long a volume takes while users draw their most at first, then their mean; infinite where they draw more than comes. [s]

    V + D(t) = q t with D = p t up to the end of the peak and p l + n (t - l) after it. Source: continuity.
    """
    if rate_m3s > peak_m3s and volume_m3 <= (rate_m3s - peak_m3s) * lasts_s:
        return volume_m3 / (rate_m3s - peak_m3s)
    if rate_m3s <= mean_m3s:
        return math.inf
    return (volume_m3 + (peak_m3s - mean_m3s) * lasts_s) / (rate_m3s - mean_m3s)
