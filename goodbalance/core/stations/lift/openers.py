"""What would open an empty window: facts and rules changed one at a time, reckoned again until the ladder fits."""

from collections.abc import Callable
from dataclasses import dataclass

from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import Opener
from goodbalance.core.errors import GoodBalanceError
from goodbalance.core.stations.lift.choices import LiftChoices, StartsCredit
from goodbalance.core.stations.lift.hydraulics import hydraulics
from goodbalance.core.stations.lift.ladder import Ladder, climb, rungs
from goodbalance.core.stations.lift.survey import LiftSurvey, WellShape

Case = tuple[LiftSurvey, LiftChoices]


@dataclass(frozen=True, slots=True)
class _Lever:
    """One thing that could be changed: its value now, how far it may go, and the case with it changed."""

    what: str
    now: float
    limit: float
    quantity: str
    changed: Callable[[float], Case]


def openers(survey: LiftSurvey, choices: LiftChoices) -> tuple[Opener, ...]:
    """Every single change that lets the whole ladder fit, with the least amount needed, found by bisection."""
    found = []
    for lever in _levers(survey, choices):
        if lever.now == lever.limit and lever.quantity:
            continue  # already as far as it goes, or not a fact of this station
        if not fits(*lever.changed(lever.limit)):
            continue
        if not lever.quantity:
            found.append(Opener(lever.what, lever.now, lever.limit, lever.quantity))
            continue
        closed, opened = lever.now, lever.limit
        for _ in range(24):
            middle = (closed + opened) / 2.0
            closed, opened = (closed, middle) if fits(*lever.changed(middle)) else (middle, opened)
        found.append(Opener(lever.what, lever.now, opened, lever.quantity))
    return tuple(found)


def fits(survey: LiftSurvey, choices: LiftChoices) -> bool:
    """Whether every rung has an open window when the free rungs sit as low as they may."""
    try:
        ladder = Ladder(survey, choices)
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


def _levers(survey: LiftSurvey, choices: LiftChoices) -> list[_Lever]:
    demands, well, inlet, rules = survey.demands, survey.well, survey.inlet, choices.rules
    names = {rung.id: rung.label.lower() for rung in rungs(hydraulics(survey).duty_count)}

    def demand(**change: float) -> Case:
        return survey.model_copy(update={"demands": demands.model_copy(update=change)}), choices

    def rule(**change: float) -> Case:
        return survey, choices.model_copy(update={"rules": rules.model_copy(update=change)})

    def starts(value: float) -> Case:
        pumps = {
            f"pump_{n}": p.model_copy(update={"starts_per_hour": max(p.starts_per_hour, value)})
            for n, p in enumerate(survey.pumps, 1)
        }
        return survey.model_copy(
            update={**pumps, "demands": demands.model_copy(update={"starts_per_hour": value})}
        ), choices

    def pump_scale(value: float) -> Case:
        pumps = {}
        for number, pump in enumerate(survey.pumps, 1):
            curve = tuple(
                p.model_copy(update={"flow_m3s": p.flow_m3s * value}) if p.flow_m3s is not None else p
                for p in pump.curve
            )
            pumps[f"pump_{number}"] = pump.model_copy(update={"curve": curve})
        return survey.model_copy(update=pumps), choices

    def wider(value: float) -> Case:
        change = {"diameter_m": value} if is_round else {"width_m": value}
        return survey.model_copy(update={"well": well.model_copy(update=change)}), choices

    def deeper(value: float) -> Case:
        return survey.model_copy(update={"well": well.model_copy(update={"intake_m": value})}), choices

    def schools(**change: StartsCredit) -> Case:
        return survey, choices.model_copy(update={"schools": choices.schools.model_copy(update=change)})

    now_starts = Ladder(survey, choices).starts_per_hour
    is_round = well.shape in (WellShape.CIRCLE, WellShape.BENCHED)
    width_m = (well.diameter_m if is_round else well.width_m) or 0.0
    width_name = "an inside diameter" if is_round else "an inside width"
    levers = [
        _Lever("{needed} starts permitted instead of {now} (ask the maker)", now_starts, 60.0, Q.STARTS, starts),
        _Lever(
            "a response time of {needed} instead of {now}",
            demands.response_s,
            0.0,
            Q.DURATION,
            lambda v: demand(response_s=v),
        ),
        _Lever(
            "a detention limit of {needed} instead of {now}",
            rules.detention_s,
            86400.0,
            Q.DURATION,
            lambda v: rule(detention_s=v),
        ),
        _Lever(
            "a freeboard of {needed} instead of {now}", rules.freeboard_m, 0.0, Q.LEVEL, lambda v: rule(freeboard_m=v)
        ),
        _Lever(
            "a least step of {needed} between levels instead of {now}",
            rules.separation_m,
            0.02,
            Q.LEVEL,
            lambda v: rule(separation_m=v),
        ),
        _Lever("pump intakes at {needed} instead of {now}", well.intake_m, 0.0, Q.LEVEL, deeper),
        _Lever("a well with " + width_name + " of {needed} instead of {now}", width_m, 4.0 * width_m, Q.LENGTH, wider),
        _Lever("smaller pumps, or drives that hold them to {needed} of their flow", 1.0, 0.2, Q.PERCENT, pump_scale),
    ]
    if choices.schools.starts_credit is StartsCredit.NONE and survey.pumping.count > 1:
        levers.append(
            _Lever(
                "crediting alternation between the pumps (see Schools)",
                0.0,
                1.0,
                "",
                lambda _: schools(starts_credit=StartsCredit.ALTERNATION),
            )
        )
    if not inlet.sewer_storage:
        levers.append(
            _Lever(
                "the incoming sewer used for storage, if it was designed for that",
                0.0,
                1.0,
                "",
                lambda _: (
                    survey.model_copy(update={"inlet": inlet.model_copy(update={"sewer_storage": True})}),
                    choices,
                ),
            )
        )
    for rung_id, level_m in choices.levels_m.items():
        if rung_id in names:
            rest = {k: v for k, v in choices.levels_m.items() if k != rung_id}
            levers.append(
                _Lever(
                    f"the {names[rung_id]} left to the tool instead of set by hand",
                    level_m,
                    level_m,
                    "",
                    lambda _, rest=rest: (survey, choices.model_copy(update={"levels_m": rest})),
                )
            )
    return levers
