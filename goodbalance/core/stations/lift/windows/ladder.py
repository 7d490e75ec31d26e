"""The ladder of levels: the rungs from the floor up, and every bound each rung must keep."""

import math
from dataclasses import dataclass
from functools import cached_property

from goodbalance.core.balance.window import Bound
from goodbalance.core.stations.lift.names import STARTS, Role
from goodbalance.core.stations.lift.survey.choices import LiftChoices, Stops, SubmergenceSchool
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.bands import Bands, Levels


@dataclass(frozen=True, slots=True)
class Rung:
    """One level. `lean` is the share of its free play the recommendation uses.

    It grows up the ladder; the high alarm leans less, because the peak inflow above it is the least sure of all facts.
    """

    id: str
    label: str
    twin: str
    lean: float
    proved_by: str


LOW_CUT_OUT = Rung(
    Role.LOW_CUT_OUT, "Low-level cut-out", "dry-run level", 0.10, "Draw the level down to it: every pump must stop."
)
LOW_ALARM = Rung(Role.LOW_ALARM, "Low alarm", "low warning", 0.12, "Draw the level down to it: the alarm must come.")
STOP = Rung(Role.STOP, "Stop level", "common stop, off level", 0.15, "Let the pumps run: all must stop at it.")
OWN_STOPS = (
    Rung(Role.STOP, "Duty stop level", "lead off", 0.15, "Let the well empty: the last pump must stop at it."),
    Rung(Role.STOP_2, "Assist stop level", "lag off", 0.20, "Let the well empty: one pump must stop at it."),
    Rung(Role.STOP_3, "Second assist stop level", "lag 2 off", 0.22, "Let the well empty: one pump must stop at it."),
    Rung(Role.STOP_4, "Third assist stop level", "lag 3 off", 0.24, "Let the well empty: one pump must stop at it."),
)
START_RUNGS = (
    Rung(Role.START_1, "Duty start level", "lead on", 0.25, "Let the well fill: the duty pump must start at it."),
    Rung(Role.START_2, "Assist start level", "lag on", 0.40, "Fill past the duty start: the assist must join."),
    Rung(Role.START_3, "Second assist start level", "lag 2 on", 0.45, "Fill on: the second assist must join."),
    Rung(Role.START_4, "Third assist start level", "lag 3 on", 0.50, "Fill on: the third assist must join."),
)
HIGH = Rung(Role.HIGH_ALARM, "High alarm", "high level warning", 0.30, "Fill to it: the alarm must come and clear again.")


def rungs(pump_count: int, stops: Stops = Stops.COMMON) -> tuple[Rung, ...]:
    """The rungs of a station with this many pumps, from the floor up."""
    own = stops is Stops.OWN and pump_count > 1
    return (LOW_CUT_OUT, LOW_ALARM, *(OWN_STOPS[:pump_count] if own else (STOP,)), *START_RUNGS[:pump_count], HIGH)


class Ladder(Bands):
    """Bounds of every rung for one survey and one set of choices.

    Bounds that refer to a neighbour appear when that neighbour's level is among `levels`.
    """

    def __init__(self, survey: LiftSurvey, choices: LiftChoices) -> None:
        super().__init__(survey, choices)
        self.rungs = rungs(self.hydraulics.duty_count, choices.schools.stops)
        self.ids = tuple(rung.id for rung in self.rungs)
        self.chosen = choices.chosen

    def lower(self, rung_id: str, levels: Levels) -> tuple[Bound, ...]:
        """Every lower bound of a rung, given the levels below it."""
        if rung_id == Role.LOW_CUT_OUT:
            return (self.above_intake, *self.reach_low)
        if rung_id == Role.LOW_ALARM:
            return (*(self.reach_low or (self.above_intake,)), *self._above_the_one_below(rung_id, levels))
        if rung_id == Role.STOP:
            return (*self._submerged, *self.reach_low, *self._above_the_one_below(rung_id, levels))
        if rung_id == Role.START_1:
            band = self.band_above_stop(levels) if Role.STOP in self.ids else self._submerged
            return (*band, *self._above_the_one_below(rung_id, levels))
        role = Role(rung_id)
        if role.is_start:
            before = STARTS[role.call - 2]
            return (
                *self.assist_band(role.call, levels),
                *self.step_above(before, "start before it", levels),
            )
        return self._above_the_one_below(rung_id, levels)

    @cached_property
    def _submerged(self) -> tuple[Bound, ...]:
        if self.choices.schools.submergence is SubmergenceSchool.MAKER_AND_VORTEX:
            return (self.maker_submergence, self.vortex, *self.dry_pit)
        return (self.maker_submergence, *self.dry_pit)

    def upper(self, rung_id: str, levels: Levels) -> tuple[Bound, ...]:
        """Every upper bound of a rung, given the levels above it (and the stop level, for detention)."""
        if rung_id == Role.HIGH_ALARM:
            return (self.response, *self.reach_high)
        step = self._below_the_one_above(rung_id, levels)
        if rung_id == Role.STOP:
            return (*self.band_below_start(levels), *step, self.below_inlet)
        role = Role(rung_id)
        if role.is_stop:
            return (*self.own_stop_band(role.call, levels), *step, self.below_inlet)
        if not role.is_start:
            return step or (self.below_inlet,)
        detention = self.detention(levels) if rung_id == Role.START_1 else ()
        return (self.below_inlet, *self.reach_high, *detention, *step)

    def _above_the_one_below(self, rung_id: str, levels: Levels) -> tuple[Bound, ...]:
        place = self.ids.index(rung_id)
        if not place:
            return ()
        name = "last start level" if rung_id == Role.HIGH_ALARM else self._name(place - 1)
        return self.step_above(self.ids[place - 1], name, levels)

    def _below_the_one_above(self, rung_id: str, levels: Levels) -> tuple[Bound, ...]:
        place = self.ids.index(rung_id) + 1
        return self.step_below(self.ids[place], self._name(place), levels) if place < len(self.ids) else ()

    def _name(self, place: int) -> str:
        label = self.rungs[place].label
        return label[0].lower() + label[1:]


def climb(ladder: Ladder, lean_share: float) -> dict[str, float]:
    """A level for every rung, from the floor up: chosen ones as chosen, the rest as their bounds allow.

    Upper limits are passed down first, so that each rung leaves room for those above it; then each rung takes
    its lower bound plus `lean_share` of its lean through its free play, rounded up to the controller's step.
    """
    chosen, step = ladder.chosen, ladder.choices.step_m
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
