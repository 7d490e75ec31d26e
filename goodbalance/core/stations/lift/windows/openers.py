"""What would open an empty window: facts and rules changed one at a time, reckoned again until the ladder fits."""

from collections.abc import Callable

from goodbalance.core.balance.openers import Lever, search, to
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import Opener
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.stations.lift.survey.choices import LiftChoices, StartsCredit
from goodbalance.core.stations.lift.survey.survey import LiftSurvey, WellShape
from goodbalance.core.stations.lift.windows.float_ladder import main_ladder
from goodbalance.core.stations.lift.windows.ladder import climb

Case = tuple[LiftSurvey, LiftChoices]


def openers(
    survey: LiftSurvey, choices: LiftChoices, opens: Callable[[LiftSurvey, LiftChoices], bool] | None = None
) -> tuple[Opener, ...]:
    """Every single change that opens it, with the least amount needed.

    opens: tells whether a case is open; by default whether the whole ladder fits.
    """
    steps = 20 if opens is None else 10  # asking for one setting means reckoning all
    return search(_levers(survey, choices), opens or fits, steps)


def fits(survey: LiftSurvey, choices: LiftChoices) -> bool:
    """Whether every rung has an open window when the free rungs sit as low as they may."""
    try:
        ladder = main_ladder(survey, choices)
        levels = climb(ladder, 0.0)
    except GoodBalanceError:
        return False
    for rung_id in ladder.ids:
        others = {other: level for other, level in levels.items() if other != rung_id}
        low = max(bound.value for bound in ladder.lower(rung_id, others))
        high = min(bound.value for bound in ladder.upper(rung_id, others))
        if not low - 1e-9 <= levels[rung_id] <= high + 1e-9:
            return False
    return True


class _Change:
    """The case with one thing changed; each method gives the case for a value."""

    def __init__(self, survey: LiftSurvey, choices: LiftChoices) -> None:
        self.survey, self.choices, self.well = survey, choices, survey.well
        self.is_round = survey.well.shape in (WellShape.CIRCLE, WellShape.BENCHED)

    def _surveyed(self, **change: object) -> Case:
        return self.survey.model_copy(update=change), self.choices

    def demand(self, **change: float) -> Case:
        """The case with a demand changed."""
        return self._surveyed(demands=self.survey.demands.model_copy(update=change))

    def rule(self, **change: float) -> Case:
        """The case with a rule changed."""
        return self.survey, self.choices.model_copy(update={"rules": self.choices.rules.model_copy(update=change)})

    def school(self, **change: StartsCredit) -> Case:
        """The case with another school."""
        return self.survey, self.choices.model_copy(update={"schools": self.choices.schools.model_copy(update=change)})

    def starts(self, value: float) -> Case:
        """The case with pumps and demand that allow so many starts. [1/h]"""
        pumps: dict[str, object] = {
            f"pump_{number}": pump.model_copy(update={"starts_per_hour": max(pump.starts_per_hour, value)})
            for number, pump in enumerate(self.survey.pumps, 1)
        }
        return self._surveyed(**pumps, demands=self.survey.demands.model_copy(update={"starts_per_hour": value}))

    def pump_scale(self, value: float) -> Case:
        """The case with pumps of so many times the flow at each head."""
        pumps: dict[str, object] = {}
        for number, pump in enumerate(self.survey.pumps, 1):
            curve = tuple(
                p.model_copy(update={"flow_m3s": p.flow_m3s * value}) if p.flow_m3s is not None else p for p in pump.curve
            )
            pumps[f"pump_{number}"] = pump.model_copy(update={"curve": curve})
        return self._surveyed(**pumps)

    def wider(self, value: float) -> Case:
        """The case with a well of another diameter or width. [m]"""
        return self._surveyed(well=self.well.model_copy(update={"diameter_m" if self.is_round else "width_m": value}))

    def deeper(self, value: float) -> Case:
        """The case with the intake at another height. [m]"""
        return self._surveyed(well=self.well.model_copy(update={"intake_m": value}))

    def stored_in_the_sewer(self) -> Case:
        """The case where the sewer may store."""
        return self._surveyed(inlet=self.survey.inlet.model_copy(update={"sewer_storage": True}))

    def left_to_the_tool(self, rung_id: str) -> Case:
        """The case with a chosen level left to the tool."""
        chosen = {key: value for key, value in self.choices.chosen.items() if key != rung_id}
        return self.survey, self.choices.model_copy(update={"chosen": chosen})


def _levers(survey: LiftSurvey, choices: LiftChoices) -> list[Lever]:
    demands, well, rules, change = survey.demands, survey.well, choices.rules, _Change(survey, choices)
    now = main_ladder(survey, choices)
    names = {rung.id: rung.label.lower() for rung in now.rungs}
    width_m = (well.diameter_m if change.is_round else well.width_m) or 0.0
    width = f"a well with {'an inside diameter' if change.is_round else 'an inside width'} of {{needed}} instead of {{now}}"
    levers = [
        Lever("{needed} starts permitted instead of {now} (ask the maker)", now.starts_per_hour, 60.0, Q.STARTS, change.starts),
        Lever("a response time of {needed} instead of {now}", demands.response_s, 0.0, Q.DURATION, lambda v: change.demand(response_s=v)),
        Lever("a detention limit of {needed} instead of {now}", rules.detention_s, 86400.0, Q.DURATION, lambda v: change.rule(detention_s=v)),
        Lever("a freeboard of {needed} instead of {now}", rules.freeboard_m, 0.0, Q.LEVEL, lambda v: change.rule(freeboard_m=v)),
        Lever("a least step of {needed} between levels instead of {now}", rules.separation_m, 0.02, Q.LEVEL, lambda v: change.rule(separation_m=v)),
        Lever("pump intakes at {needed} instead of {now}", well.intake_m, 0.0, Q.LEVEL, change.deeper),
        Lever(width, width_m, 4.0 * width_m, Q.LENGTH, change.wider),
        Lever("smaller pumps, or drives that hold them to {needed} of their flow", 1.0, 0.2, Q.PERCENT, change.pump_scale),
    ]  # fmt: skip
    levers += _timing_levers(survey, choices, change.rule)
    if choices.schools.starts_credit is StartsCredit.NONE and survey.pumping.count > 1:
        case = change.school(starts_credit=StartsCredit.ALTERNATION)
        levers.append(Lever("crediting alternation between the pumps (see Schools)", 0.0, 1.0, "", to(case)))
    if not survey.inlet.sewer_storage:
        what = "the incoming sewer used for storage, if it was designed for that"
        levers.append(Lever(what, 0.0, 1.0, "", to(change.stored_in_the_sewer())))
    for rung_id, level_m in choices.chosen.items():
        if rung_id in names:
            what = f"the {names[rung_id]} left to the tool instead of set by hand"
            levers.append(Lever(what, level_m, level_m, "", to(change.left_to_the_tool(rung_id))))
    return levers


def _timing_levers(survey: LiftSurvey, choices: LiftChoices, rule: Callable[..., Case]) -> list[Lever]:
    """What may open the window of a timer or of a drive's setting."""
    rules, control, drives = choices.rules, survey.control, survey.drives

    def starting(value: float) -> Case:
        return survey.model_copy(update={"control": control.model_copy(update={"starting_s": value})}), choices

    def cooled(value: float) -> Case:
        return survey.model_copy(update={"drives": drives.model_copy(update={"least_hz": value})}), choices

    levers = [
        Lever("motors that start in {needed} instead of {now}", control.starting_s, 0.1, Q.TIME, starting),
        Lever("waves of at most {needed} instead of {now}", rules.wave_s, 0.1, Q.TIME, lambda v: rule(wave_s=v)),
        Lever("a shortest run of {needed} instead of {now}", rules.shortest_run_s, 1.0, Q.TIME, lambda v: rule(shortest_run_s=v)),
        Lever("a main at rest within {needed} instead of {now}", rules.run_back_s, 0.0, Q.TIME, lambda v: rule(run_back_s=v)),
        Lever("false echoes of at most {needed} instead of {now}", rules.false_echo_s, 0.5, Q.TIME, lambda v: rule(false_echo_s=v)),
        Lever("{needed} of running without moving water instead of {now} (ask the maker)", rules.useless_run_s, 86400.0, Q.DURATION, lambda v: rule(useless_run_s=v)),
        Lever("a lowest velocity of {needed} instead of {now}, with the main flushed at full speed now and then", rules.velocity_low_ms, 0.1, Q.VELOCITY, lambda v: rule(velocity_low_ms=v)),
    ]  # fmt: skip
    if drives.fitted:
        what = "motors cooled down to {needed} instead of {now} (ask the maker)"
        levers.append(Lever(what, drives.least_hz, 5.0, Q.FREQUENCY, cooled))
    return levers
