"""Bounds that one level of the ladder puts on another: steps, volumes for the permitted starts, detention."""

from collections.abc import Mapping
from functools import cached_property, lru_cache

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import Bound, Source
from goodbalance.core.stations.lift.names import STARTS, STOPS, Role
from goodbalance.core.stations.lift.windows.cycles import assist_volume_for_cycle_m3
from goodbalance.core.stations.lift.windows.standing_bounds import MEAN_AREA, StandingBounds

Levels = Mapping[str, float]

_assist_volume_m3 = lru_cache(maxsize=4096)(assist_volume_for_cycle_m3)


class Bands(StandingBounds):
    """Bounds between neighbours. Each is an empty tuple while the level it stands on is not among `levels`."""

    def step_above(self, neighbour: str, name: str, levels: Levels) -> tuple[Bound, ...]:
        """At least one step over a neighbour, if it has a level yet: waves must not close both."""
        return self._step(neighbour, name, levels, 1.0)

    def step_below(self, neighbour: str, name: str, levels: Levels) -> tuple[Bound, ...]:
        """At least one step under a neighbour, if it has a level yet."""
        return self._step(neighbour, name, levels, -1.0)

    def _step(self, neighbour: str, name: str, levels: Levels, way: float) -> tuple[Bound, ...]:
        if neighbour not in levels:
            return ()
        at, sign, word = levels[neighbour], "+" if way > 0.0 else "-", "above" if way > 0.0 else "below"
        value = at + way * self.separation_m
        terms = (
            Term("a", f"the {name}", at, Q.LEVEL),
            Term("d", self.separation_from, self.separation_m, Q.LEVEL),
        )
        trail = Trail(
            f"h = a {sign} d", terms, Term("h", "bound", value, Q.LEVEL), "rule of thumb; edit it under Rules"
        )
        harm = f"Waves make it act together with the {name}."
        return (Bound(value, f"one step {word} the {name}", harm, Source.RULE, trail, neighbour),)

    def _band_terms(self, from_m: float, volume_m3: float) -> tuple[Term, ...]:
        return (
            Term("Q", self._duty_words, self.duty_m3s, Q.FLOW),
            Term(
                "T",
                f"least time between starts, 1 h over {self.starts_per_hour:g} starts"
                + (f" over {self.shares_starts} pumps" if self.shares_starts > 1 else ""),
                self.cycle_s,
                Q.TIME,
            ),
            Term("A", MEAN_AREA, self.hydraulics.well.mean_area_m2(from_m, volume_m3), Q.AREA),
        )

    @cached_property
    def _duty_words(self) -> str:
        out = "; a large one, while the small one is out" if len(self.hydraulics.outages) > 1 else ""
        return f"largest rate of one pump, at the inlet invert{out}"

    @cached_property
    def _starts_source(self) -> Source:
        makers = min(pump.starts_per_hour for pump in self.survey.pumps)
        return Source.MAKER if makers <= self.survey.demands.starts_per_hour else Source.RULE

    def band_above_stop(self, levels: Levels) -> tuple[Bound, ...]:
        """Lowest duty start over a given stop that keeps the permitted starts: the active volume is Q T / 4."""
        if Role.STOP not in levels:
            return ()
        well, stop_m = self.hydraulics.well, levels[Role.STOP]
        value = well.level_after_m(stop_m, self.duty_volume_m3)
        terms = (Term("s", "stop level", stop_m, Q.LEVEL), *self._band_terms(stop_m, self.duty_volume_m3))
        trail = Trail(
            "h = s + Q · T / 4 / A",
            terms,
            Term("h", "bound", value, Q.LEVEL),
            "classic pump-well sizing, V = Q T / 4, worst at an inflow of half the pump rate",
        )
        return (
            Bound(
                value,
                "volume for the permitted starts",
                "The pump starts too often: motor and contactor overheat.",
                self._starts_source,
                trail,
                Role.STOP,
            ),
        )

    def band_below_start(self, levels: Levels) -> tuple[Bound, ...]:
        """Highest stop under a given duty start that keeps the permitted starts, by the same volume Q T / 4."""
        if Role.START_1 not in levels:
            return ()
        start_m = levels[Role.START_1]
        value = self.hydraulics.well.level_after_m(start_m, -self.duty_volume_m3)
        terms = (Term("s", "duty start level", start_m, Q.LEVEL), *self._band_terms(start_m, -self.duty_volume_m3))
        trail = Trail(
            "h = s - Q · T / 4 / A", terms, Term("h", "bound", value, Q.LEVEL), "classic pump-well sizing, V = Q T / 4"
        )
        return (
            Bound(
                value,
                "volume for the permitted starts",
                "The pump starts too often: motor and contactor overheat.",
                self._starts_source,
                trail,
                Role.START_1,
            ),
        )

    def increments_m3s(self, number: int) -> tuple[tuple[float, float], ...]:
        """Rate of the strongest pumps without and with the number-th call, where they are fastest; with a small pump
        first also while it is out."""
        hyd = self.hydraulics
        return tuple(
            (hyd.strongest_m3s(number - 1, hyd.fast_level_m, out), hyd.strongest_m3s(number, hyd.fast_level_m, out))
            for out in hyd.outages
        )

    def assist_band(self, number: int, levels: Levels) -> tuple[Bound, ...]:
        """Lower bound of the number-th start by the assist's permitted starts, with a common or its own stop."""
        own, before = STOPS[number - 1], STARTS[number - 2]
        if own in levels:
            return (self._own_band(number, levels[own], own, 1.0),)
        if Role.STOP not in levels or before not in levels:
            return ()
        well = self.hydraulics.well
        below_m3 = well.volume_m3(levels[Role.STOP])
        duty_m3 = max(0.0, well.volume_m3(levels[before]) - below_m3)
        cycle_s = 3600.0 / self.starts_per_hour
        needed_m3, alone_m3s, all_m3s = max(
            (_assist_volume_m3(round(duty_m3, 6), alone, both, cycle_s), alone, both)
            for alone, both in self.increments_m3s(number)
        )
        value = well.level_after_m(levels[Role.STOP], needed_m3)
        found = "least volume from stop to this start, found by searching the inflow that makes the shortest cycle"
        terms = (
            Term("s", "stop level", levels[Role.STOP], Q.LEVEL),
            Term("V", found, needed_m3, Q.VOLUME),
            Term("A", MEAN_AREA, well.mean_area_m2(levels[Role.STOP], needed_m3), Q.AREA),
            Term("q1", "rate of the pumps already running", alone_m3s, Q.FLOW),
            Term("q2", "rate with this pump too", all_m3s, Q.FLOW),
        )
        source = "cycle V/(q2 - i) + V1/i + (V - V1)/(i - q1) with a common stop, least over the inflow i"
        return (
            self._assist_bound(
                value, Trail("h = s + V / A", terms, Term("h", "bound", value, Q.LEVEL), source), before
            ),
        )

    def own_stop_band(self, number: int, levels: Levels) -> tuple[Bound, ...]:
        """Upper bound of the number-th pump's own stop by its permitted starts."""
        start = STARTS[number - 1]
        return (self._own_band(number, levels[start], start, -1.0),) if start in levels else ()

    def _own_band(self, number: int, from_m: float, neighbour: str, way: float) -> Bound:
        """With its own stop the assist cycles while the others run on: V = (q2 - q1) T / 4, as for one pump."""
        well = self.hydraulics.well
        alone_m3s, all_m3s = max(self.increments_m3s(number), key=lambda rates: rates[1] - rates[0])
        cycle_s = 3600.0 / self.starts_per_hour
        volume_m3 = way * max(0.0, all_m3s - alone_m3s) * cycle_s / 4.0
        value = well.level_after_m(from_m, volume_m3)
        terms = (
            Term("s", "its own stop level" if way > 0.0 else "its own start level", from_m, Q.LEVEL),
            Term("q1", "rate of the pumps already running", alone_m3s, Q.FLOW),
            Term("q2", "rate with this pump too", all_m3s, Q.FLOW),
            Term("T", f"least time between starts, 1 h over {self.starts_per_hour:g} starts", cycle_s, Q.TIME),
            Term("A", MEAN_AREA, well.mean_area_m2(from_m, volume_m3), Q.AREA),
        )
        formula = f"h = s {'+' if way > 0.0 else '-'} max(0, q2 - q1) · T / 4 / A"
        trail = Trail(formula, terms, Term("h", "bound", value, Q.LEVEL), "classic pump-well sizing, V = Q T / 4")
        return self._assist_bound(value, trail, neighbour)

    def _assist_bound(self, value: float, trail: Trail, neighbour: str) -> Bound:
        harm = "The assist starts too often: motor and contactor overheat."
        return Bound(value, "volume for the assist's permitted starts", harm, self._starts_source, trail, neighbour)

    def detention(self, levels: Levels) -> tuple[Bound, ...]:
        """By the mean and by the lowest inflow, each with its own limit; none for a night without any."""
        if Role.STOP not in levels:
            return ()
        inflow, rules = self.survey.inflow, self.choices.rules
        found = [self._detention(levels, "mean", inflow.mean_m3s, rules.detention_s)]
        if inflow.min_m3s > 0.0:
            found.append(self._detention(levels, "lowest", inflow.min_m3s, rules.detention_low_s))
        return tuple(found)

    def _detention(self, levels: Levels, name: str, mean_m3s: float, limit_s: float) -> Bound:
        well, main_m3 = self.hydraulics.well, self.counted_main_m3
        volume_m3 = mean_m3s * limit_s - main_m3
        value = well.level_after_m(levels[Role.STOP], volume_m3)
        terms = (
            Term("s", "stop level", levels[Role.STOP], Q.LEVEL),
            Term("i", f"{name} inflow", mean_m3s, Q.FLOW),
            Term("t", "longest detention", limit_s, Q.DURATION),
            Term("M", "content of the rising main, as counted", main_m3, Q.VOLUME),
            Term("A", MEAN_AREA, well.mean_area_m2(levels[Role.STOP], volume_m3), Q.AREA),
        )
        trail = Trail(
            "h = s + (i · t - M) / A", terms, Term("h", "bound", value, Q.LEVEL), "rule of thumb; edit it under Rules"
        )
        harm = "Sewage stands too long and turns septic."
        return Bound(value, f"longest detention at {name} inflow", harm, Source.RULE, trail, Role.STOP)
