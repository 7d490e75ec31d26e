"""Heights to hang floats at: alone as the ladder of levels itself, or behind a sensor for the day it fails."""

from functools import cached_property

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import Bound, Source
from goodbalance.core.stations.lift.names import Role, is_float_id, last_start, role_of
from goodbalance.core.stations.lift.survey.choices import LiftChoices
from goodbalance.core.stations.lift.survey.sensing import LevelBy
from goodbalance.core.stations.lift.survey.survey import LiftSurvey
from goodbalance.core.stations.lift.windows.bands import Levels
from goodbalance.core.stations.lift.windows.ladder import HIGH, LOW_ALARM, START_RUNGS, STOP, Ladder, Rung
from goodbalance.core.stations.lift.windows.standing_bounds import MEAN_AREA

_RUNGS = {rung.id: rung for rung in (LOW_ALARM, STOP, *START_RUNGS, HIGH)}


def float_rungs(survey: LiftSurvey) -> tuple[Rung, ...]:
    """The rungs that have a float, from the floor up."""
    return tuple(_RUNGS[role] for role in survey.control.float_roles(survey.pumping.duty_count))


class FloatLadder(Ladder):
    """Bounds of every float. Neighbours stand at least a swing apart, so that one has let go before the next acts."""

    def __init__(self, survey: LiftSurvey, choices: LiftChoices, sensor_levels: Levels | None = None) -> None:
        super().__init__(survey, choices)
        self.rungs = float_rungs(survey)
        self.ids = tuple(rung.id for rung in self.rungs)
        self.sensor_levels = sensor_levels
        if sensor_levels is not None:
            self.chosen = {role_of(key): value for key, value in choices.chosen.items() if is_float_id(key)}
        swing_m = survey.control.swing_m
        if swing_m > choices.rules.separation_m:
            self.separation_m, self.separation_from = swing_m, "swing of a float, more than the least step by rule"
        else:
            self.separation_m, self.separation_from = (
                choices.rules.separation_m,
                "least step by rule, more than a swing",
            )

    @cached_property
    def reach_low(self) -> tuple[Bound, ...]:
        """None: a float is read wherever it hangs."""
        return ()

    @cached_property
    def reach_high(self) -> tuple[Bound, ...]:
        """None: a float is read wherever it hangs."""
        return ()

    def lower(self, rung_id: str, levels: Levels) -> tuple[Bound, ...]:
        """As for a level; behind a sensor the high float also stays out of the way of the normal work below it."""
        bounds = super().lower(rung_id, levels)
        if rung_id in (Role.START_1, Role.HIGH_ALARM) and Role.STOP not in self.ids and rung_id == self._first_start:
            bounds = (*bounds, self._room_to_run_on())
        if self.sensor_levels is None:
            return bounds
        return (*bounds, *self.above_the_sensors(rung_id)) or self._submerged

    def above_the_sensors(self, rung_id: str) -> tuple[Bound, ...]:
        """What a level of the sensor before it asks of this float."""
        if self.sensor_levels is None or rung_id != Role.HIGH_ALARM:
            return ()
        last = last_start(self.sensor_levels)
        return self.step_above(last, "last start of the sensor", self.sensor_levels)

    @property
    def _first_start(self) -> str:
        return Role.START_1 if Role.START_1 in self.ids else Role.HIGH_ALARM

    def _room_to_run_on(self) -> Bound:
        """Without a stop float the pumps run on by time: below the float there must be water for that."""
        well, swing_m = self.hydraulics.well, self.survey.control.swing_m
        low_m = self.maker_submergence.value
        volume_m3 = 2.0 * self.duty_volume_m3 * self.hydraulics.duty_count
        value = well.level_after_m(low_m, volume_m3) + swing_m
        terms = (
            Term("s", "least submergence", low_m, Q.LEVEL),
            Term("V", "volume for the permitted starts", self.duty_volume_m3, Q.VOLUME),
            Term("n", "pumps that may run on together", self.hydraulics.duty_count, Q.COUNT),
            Term("A", MEAN_AREA, well.mean_area_m2(low_m, volume_m3), Q.AREA),
            Term("w", "swing of the float", swing_m, Q.LEVEL),
        )
        trail = Trail(
            "h = s + 2 · V · n / A + w", terms, Term("h", "bound", value, Q.LEVEL), "run-on of 2 V / Q for each pump"
        )
        harm = "There is no time to run on: the pump starts too often, or draws air."
        return Bound(value, "water to run on below it", harm, Source.PHYSICS, trail)

    def upper(self, rung_id: str, levels: Levels) -> tuple[Bound, ...]:
        """As for a level; the lowest float behind a sensor sits at or under the low-level cut-out."""
        bounds = super().upper(rung_id, levels)
        if rung_id == Role.LOW_ALARM and self.sensor_levels is not None:
            bounds = (*bounds, self._under_cut_out(self.sensor_levels[Role.LOW_CUT_OUT]))
        if rung_id == Role.START_1 and self.ids[-1] == Role.START_1:
            bounds = (*bounds, self.response)
        return bounds

    def _under_cut_out(self, cut_out_m: float) -> Bound:
        term = Term("c", "low-level cut-out of the sensor", cut_out_m, Q.LEVEL)
        trail = Trail("h = c", (term,), Term("h", "bound", cut_out_m, Q.LEVEL), "floats bracket the sensor's levels")
        harm = "It alarms in normal work, before the cut-out."
        return Bound(cut_out_m, "low-level cut-out of the sensor", harm, Source.RULE, trail)


def main_ladder(survey: LiftSurvey, choices: LiftChoices) -> Ladder:
    """The ladder of levels that runs the station: the sensor's, or the floats' where there is no sensor."""
    return FloatLadder(survey, choices) if is_alone(survey) else Ladder(survey, choices)


def is_alone(survey: LiftSurvey) -> bool:
    """Whether floats alone know the level."""
    return survey.control.level_by is LevelBy.FLOATS
