"""The ladder of levels: the rungs from the floor up, and every bound each rung must keep."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import Bound, Source
from goodbalance.core.stations.lift.choices import LiftChoices, SubmergenceSchool
from goodbalance.core.stations.lift.cycles import assist_volume_for_cycle_m3
from goodbalance.core.stations.lift.standing_bounds import StandingBounds
from goodbalance.core.stations.lift.survey import LiftSurvey

Levels = Mapping[str, float]

_assist_volume_m3 = lru_cache(maxsize=4096)(assist_volume_for_cycle_m3)


@dataclass(frozen=True, slots=True)
class Rung:
    """One level. `lean` is the share of its free play the recommendation uses, growing up the ladder."""

    id: str
    label: str
    twin: str
    lean: float
    proved_by: str


_BELOW = (
    Rung("low_cut_out", "Low-level cut-out", "dry-run level", 0.10, "Draw the level down to it: every pump must stop."),
    Rung("low_alarm", "Low alarm", "low warning", 0.12, "Draw the level down to it: the alarm must come."),
    Rung("stop", "Stop level", "common stop, off level", 0.15, "Let the pumps run: all must stop at it."),
)
_STARTS = (
    Rung("start_1", "Duty start level", "lead on", 0.25, "Let the well fill: the duty pump must start at it."),
    Rung("start_2", "Assist start level", "lag on", 0.40, "Fill past the duty start: the assist must join."),
    Rung("start_3", "Second assist start level", "lag 2 on", 0.45, "Fill on: the second assist must join."),
    Rung("start_4", "Third assist start level", "lag 3 on", 0.50, "Fill on: the third assist must join."),
)
_HIGH = Rung("high_alarm", "High alarm", "high level warning", 0.55, "Fill to it: the alarm must come and clear again.")


def rungs(pump_count: int) -> tuple[Rung, ...]:
    """The rungs of a station with this many pumps, from the floor up."""
    return (*_BELOW, *_STARTS[:pump_count], _HIGH)


class Ladder(StandingBounds):
    """Bounds of every rung for one survey and one set of choices.

    Bounds that refer to a neighbour appear when that neighbour's level is among `levels`.
    """

    def __init__(self, survey: LiftSurvey, choices: LiftChoices) -> None:
        super().__init__(survey, choices)
        self.rungs = rungs(self.hydraulics.duty_count)
        self.ids = tuple(rung.id for rung in self.rungs)

    def lower(self, rung_id: str, levels: Levels) -> tuple[Bound, ...]:
        """Every lower bound of a rung, given the levels below it."""
        if rung_id == "low_cut_out":
            return (self.above_intake(), self.above_sensor_low())
        if rung_id == "low_alarm":
            return (self.above_sensor_low(), *self._step_above("low_cut_out", "low-level cut-out", levels))
        if rung_id == "stop":
            bounds = [
                self.maker_submergence(),
                self.above_sensor_low(),
                *self._step_above("low_alarm", "low alarm", levels),
            ]
            if self.choices.schools.submergence is SubmergenceSchool.MAKER_AND_VORTEX:
                bounds.insert(1, self.vortex())
            return tuple(bounds)
        if rung_id == "start_1":
            return (*self._band_above_stop(levels), *self._step_above("stop", "stop level", levels))
        if rung_id == "high_alarm":
            return self._step_above(self.ids[-2], "last start level", levels)
        return (
            *self._assist_band(rung_id, levels),
            *self._step_above(self._below(rung_id), "start before it", levels),
        )

    def upper(self, rung_id: str, levels: Levels) -> tuple[Bound, ...]:
        """Every upper bound of a rung, given the levels above it (and the stop level, for detention)."""
        if rung_id == "high_alarm":
            return (self.response(), self.below_sensor_high())
        step = self._step_below(rung_id, levels)
        if rung_id == "stop":
            return (*self._band_below_start(levels), *step, self.below_inlet())
        if not rung_id.startswith("start"):
            return step or (self.below_inlet(),)
        detention = self._detention(levels) if rung_id == "start_1" else ()
        return (self.below_inlet(), self.below_sensor_high(), *detention, *step)

    def _below(self, rung_id: str) -> str:
        return self.ids[self.ids.index(rung_id) - 1]

    def _above(self, rung_id: str) -> str:
        return self.ids[self.ids.index(rung_id) + 1]

    def _step_above(self, neighbour: str, name: str, levels: Levels) -> tuple[Bound, ...]:
        if neighbour not in levels:
            return ()
        at = levels[neighbour]
        trail = self._step_trail("h = a + d", at, f"the {name}", at + self.separation_m)
        return (
            Bound(
                at + self.separation_m,
                f"one step above the {name}",
                f"Waves make it act together with the {name}.",
                Source.RULE,
                trail,
                neighbour,
            ),
        )

    def _step_below(self, rung_id: str, levels: Levels) -> tuple[Bound, ...]:
        neighbour = self._above(rung_id)
        if neighbour not in levels:
            return ()
        at, name = levels[neighbour], self._label(neighbour)
        trail = self._step_trail("h = a - d", at, f"the {name}", at - self.separation_m)
        return (
            Bound(
                at - self.separation_m,
                f"one step below the {name}",
                f"Waves make it act together with the {name}.",
                Source.RULE,
                trail,
                neighbour,
            ),
        )

    def _label(self, rung_id: str) -> str:
        label = next(rung.label for rung in self.rungs if rung.id == rung_id)
        return label[0].lower() + label[1:]

    def _step_trail(self, formula: str, at: float, name: str, result: float) -> Trail:
        return Trail(
            formula,
            (
                Term("a", name, at, Q.LEVEL),
                Term(
                    "d",
                    "least step: the largest of the rule, 3 x wobble and 5 counts of the sensor",
                    self.separation_m,
                    Q.LEVEL,
                ),
            ),
            Term("h", "bound", result, Q.LEVEL),
            "rule of thumb; edit it under Rules",
        )

    def _band_terms(self) -> tuple[Term, ...]:
        return (
            Term("Q", "largest rate of one pump, at the inlet invert", self.duty_m3s, Q.FLOW),
            Term(
                "T",
                f"least time between starts, 1 h over {self.starts_per_hour:g} starts"
                + (f" over {self.shares_starts} pumps" if self.shares_starts > 1 else ""),
                self.cycle_s,
                Q.TIME,
            ),
            Term("A", "area of the well", self.hydraulics.well.area_m2(self.survey.inlet.invert_m), Q.AREA),
        )

    def _starts_source(self) -> Source:
        makers = min(pump.starts_per_hour for pump in self.survey.pumps)
        return Source.MAKER if makers <= self.survey.demands.starts_per_hour else Source.RULE

    def _band_above_stop(self, levels: Levels) -> tuple[Bound, ...]:
        if "stop" not in levels:
            return ()
        well, stop_m = self.hydraulics.well, levels["stop"]
        value = well.level_m(well.volume_m3(stop_m) + self.duty_volume_m3)
        terms = (Term("s", "stop level", stop_m, Q.LEVEL), *self._band_terms())
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
                self._starts_source(),
                trail,
                "stop",
            ),
        )

    def _band_below_start(self, levels: Levels) -> tuple[Bound, ...]:
        if "start_1" not in levels:
            return ()
        well, start_m = self.hydraulics.well, levels["start_1"]
        value = well.level_m(max(0.0, well.volume_m3(start_m) - self.duty_volume_m3))
        terms = (Term("s", "duty start level", start_m, Q.LEVEL), *self._band_terms())
        trail = Trail(
            "h = s - Q · T / 4 / A", terms, Term("h", "bound", value, Q.LEVEL), "classic pump-well sizing, V = Q T / 4"
        )
        return (
            Bound(
                value,
                "volume for the permitted starts",
                "The pump starts too often: motor and contactor overheat.",
                self._starts_source(),
                trail,
                "start_1",
            ),
        )

    def _assist_band(self, rung_id: str, levels: Levels) -> tuple[Bound, ...]:
        before = self._below(rung_id)
        if "stop" not in levels or before not in levels:
            return ()
        hyd, well = self.hydraulics, self.hydraulics.well
        running = int(rung_id[-1]) - 1
        alone_m3s = hyd.strongest_m3s(running, hyd.fast_level_m)
        all_m3s = hyd.strongest_m3s(running + 1, hyd.fast_level_m)
        below_m3 = well.volume_m3(levels["stop"])
        duty_m3 = max(0.0, well.volume_m3(levels[before]) - below_m3)
        needed_m3 = _assist_volume_m3(round(duty_m3, 6), alone_m3s, all_m3s, 3600.0 / self.starts_per_hour)
        value = well.level_m(below_m3 + needed_m3)
        terms = (
            Term("s", "stop level", levels["stop"], Q.LEVEL),
            Term(
                "V",
                "least volume from stop to this start, found by searching the inflow that makes the shortest cycle",
                needed_m3,
                Q.VOLUME,
            ),
            Term("A", "area of the well", well.area_m2(value), Q.AREA),
            Term("q1", "rate of the pumps already running", alone_m3s, Q.FLOW),
            Term("q2", "rate with this pump too", all_m3s, Q.FLOW),
        )
        trail = Trail(
            "h = s + V / A",
            terms,
            Term("h", "bound", value, Q.LEVEL),
            "cycle V/(q2 - i) + V1/i + (V - V1)/(i - q1) with a common stop, least over the inflow i",
        )
        return (
            Bound(
                value,
                "volume for the assist's permitted starts",
                "The assist starts too often: motor and contactor overheat.",
                self._starts_source(),
                trail,
                before,
            ),
        )

    def _detention(self, levels: Levels) -> tuple[Bound, ...]:
        if "stop" not in levels:
            return ()
        well, limit_s = self.hydraulics.well, self.choices.rules.detention_s
        mean_m3s, main_m3 = self.survey.inflow.mean_m3s, self.counted_main_m3
        below_m3 = well.volume_m3(levels["stop"])
        value = well.level_m(max(0.0, below_m3 + mean_m3s * limit_s - main_m3))
        terms = (
            Term("s", "stop level", levels["stop"], Q.LEVEL),
            Term("i", "mean inflow", mean_m3s, Q.FLOW),
            Term("t", "longest detention", limit_s, Q.DURATION),
            Term("M", "content of the rising main, as counted", main_m3, Q.VOLUME),
            Term("A", "area of the well", well.area_m2(value), Q.AREA),
        )
        trail = Trail(
            "h = s + (i · t - M) / A", terms, Term("h", "bound", value, Q.LEVEL), "rule of thumb; edit it under Rules"
        )
        return (
            Bound(
                value,
                "longest detention at mean inflow",
                "Sewage stands too long and turns septic.",
                Source.RULE,
                trail,
                "stop",
            ),
        )


def climb(ladder: Ladder, lean_share: float) -> dict[str, float]:
    """A level for every rung, from the floor up: chosen ones as chosen, the rest as their bounds allow.

    Upper limits are passed down first, so that each rung leaves room for those above it; then each rung takes
    its lower bound plus `lean_share` of its lean through its free play, rounded up to the controller's step.
    """
    chosen, step = ladder.choices.levels_m, ladder.choices.step_m
    ceilings: dict[str, float] = {}
    for rung in reversed(ladder.rungs):
        high = min(bound.value for bound in ladder.upper(rung.id, ceilings))
        ceilings[rung.id] = min(chosen.get(rung.id, high), high)
    levels: dict[str, float] = {}
    basis: dict[
        str, float
    ] = {}  # levels as the rungs above take them: a chosen one outside its window counts as at its edge
    for position, rung in enumerate(ladder.rungs):
        above = {other: ceilings[other] for other in ladder.ids[position + 1 :]}
        low = max(bound.value for bound in ladder.lower(rung.id, basis))
        high = min(bound.value for bound in ladder.upper(rung.id, {**above, **basis}))
        if rung.id in chosen:
            levels[rung.id] = chosen[rung.id]
            basis[rung.id] = min(max(chosen[rung.id], low), max(high, low))
            continue
        wanted = math.ceil((low + lean_share * rung.lean * max(0.0, high - low)) / step - 1e-6) * step
        if wanted > high + 1e-9 and high > low:
            wanted = math.floor(high / step + 1e-6) * step
        levels[rung.id] = basis[rung.id] = round(wanted, 9)
    return levels
