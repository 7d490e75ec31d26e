"""What would open an empty window of a booster set: facts and rules changed one at a time, reckoned again."""

from collections.abc import Callable, Mapping

from goodbalance.core.balance.openers import Case, Lever, search, to
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import Opener
from goodbalance.core.stations.booster.names import SettingId as S
from goodbalance.core.stations.booster.survey.choices import BoosterChoices, NoFlowBy
from goodbalance.core.stations.booster.survey.survey import BoosterSurvey

STEPS = 10
_RULES = (  # name, what, how far it may go, quantity
    ("column_margin_pa", "a margin above the standing column of {needed} instead of {now}", 0.0, Q.PRESSURE),
    ("regulation_pa", "a regulation error of {needed} instead of {now}", 0.0, Q.PRESSURE),
    ("overshoot_pa", "an overshoot of {needed} instead of {now}", 0.0, Q.PRESSURE),
    ("hysteresis_pa", "a least step between pressures of {needed} instead of {now}", 1e3, Q.PRESSURE),
    ("speed_margin_share", "a least step between speeds of {needed} instead of {now}", 0.001, Q.PERCENT),
    ("settle_s", "a settling time of {needed} instead of {now}", 300.0, Q.TIME),
    ("sensitivity", "a livelier loop, Ms {needed} instead of {now}", 2.5, Q.RATIO),
    ("prime_s", "starts of at most {needed} instead of {now}", 0.5, Q.TIME),
    ("dry_s", "{needed} of running dry instead of {now} (ask the maker)", 600.0, Q.TIME),
    ("hot_s", "{needed} against closed outlets instead of {now} (ask the maker)", 3600.0, Q.TIME),
    ("wait_s", "users who wait {needed} instead of {now}", 300.0, Q.TIME),
)
_FACTS = (  # section, name, what, how far it may go, quantity
    ("outlets", "residual_pa", "{needed} at the worst outlet instead of {now}", 0.0, Q.PRESSURE),
    ("outlets", "permitted_pa", "{needed} permitted at the lowest outlet instead of {now} (pressure reducers there)", 4e6, Q.PRESSURE),
    ("outlets", "diameter_m", "a pipe of {needed} instead of {now}", 1.0, Q.SMALL_LENGTH),
    ("vessel", "rating_pa", "parts rated for {needed} instead of {now}", 4e6, Q.PRESSURE),
    ("vessel", "relief_pa", "a relief valve set to {needed} instead of {now}", 4e6, Q.PRESSURE),
    ("vessel", "volume_m3", "a tank of {needed} instead of {now}", 20.0, Q.VOLUME),
    ("sensor", "range_pa", "a sensor that reads up to {needed} instead of {now}", 6e6, Q.PRESSURE),
    ("sensor", "noise_pa", "a calmer reading, {needed} of wobble instead of {now}", 0.0, Q.PRESSURE),
    ("supply", "low_pa", "a main that keeps {needed} instead of {now}", 2e6, Q.PRESSURE),
    ("supply", "high_pa", "a main that stays under {needed} instead of {now} (a pressure reducer before the set)", 0.0, Q.PRESSURE),
    ("supply", "water_low_m", "a supply that stays above {needed} instead of {now}", 5000.0, Q.LENGTH),
    ("demand", "design_m3s", "a design flow of {needed} instead of {now}", 1e-6, Q.FLOW),
    ("demand", "least_m3s", "{needed} as the smallest flow worth running for, instead of {now}", 1.0, Q.FLOW),
    ("motor", "generator_va", "a generator for {needed} instead of {now}", 5e6, Q.APPARENT_POWER),
    ("motor", "least_hz", "motors cooled down to {needed} instead of {now} (ask the maker)", 0.0, Q.FREQUENCY),
)  # fmt: skip


def openers(
    survey: BoosterSurvey, choices: BoosterChoices, opens: Callable[[BoosterSurvey, BoosterChoices], bool],
    values: Mapping[str, float] | None = None,
) -> tuple[Opener, ...]:  # fmt: skip
    """Every single change that opens it, with the least amount needed. values: of the settings now, by id."""
    return search(_levers(survey, choices, values or {}), opens, STEPS)


def _levers(survey: BoosterSurvey, choices: BoosterChoices, values: Mapping[str, float]) -> list[Lever]:
    rules = choices.rules

    def rule(name: str) -> Callable[[float], Case]:
        return lambda value: (survey, choices.model_copy(update={"rules": rules.model_copy(update={name: value})}))

    def fact(section: str, name: str) -> Callable[[float], Case]:
        part = getattr(survey, section)
        return lambda value: (survey.model_copy(update={section: part.model_copy(update={name: value})}), choices)

    def stronger(value: float) -> Case:
        curve = tuple(
            p if p.head_m is None else p.model_copy(update={"head_m": p.head_m * value}) for p in survey.pumping.curve
        )
        return survey.model_copy(update={"pumping": survey.pumping.model_copy(update={"curve": curve})}), choices

    def more(value: float) -> Case:
        pumping = survey.pumping.model_copy(update={"count": survey.pumping.count + 1})
        return survey.model_copy(update={"pumping": pumping}), choices

    levers = [Lever(what, getattr(rules, name), limit, q, rule(name)) for name, what, limit, q in _RULES]
    as_far = {  # no further than the fact beside it
        "low_pa": survey.supply.high_pa, "high_pa": survey.supply.low_pa, "water_low_m": survey.supply.water_high_m,
        "least_m3s": survey.demand.mean_m3s, "design_m3s": survey.demand.mean_m3s,
    }  # fmt: skip
    for section, name, what, farthest, quantity in _FACTS:
        now, beside = getattr(getattr(survey, section), name), as_far.get(name)
        limit = farthest if beside is None else beside
        if now is not None:
            levers.append(Lever(what, now, limit, quantity, fact(section, name)))
    if S.NIGHT_PRESSURE in values:

        def nearer(value: float) -> Case:
            return survey, choices.model_copy(update={"chosen": {**choices.chosen, S.NIGHT_PRESSURE: value}})

        what = "a night set pressure of {needed} instead of {now}"
        levers.append(Lever(what, values[S.NIGHT_PRESSURE], values[S.SET_PRESSURE], Q.PRESSURE, nearer))
    levers.append(Lever("pumps with {needed} of their head", 1.0, 3.0, Q.PERCENT, stronger))
    levers.append(Lever("one pump more", 0.0, 1.0, "", more))
    if survey.holds_constant and choices.schools.no_flow is NoFlowBy.SPEED:
        schools = choices.schools.model_copy(update={"no_flow": NoFlowBy.BUMP})
        what = "a short stop that tells no flow, instead of the speed (see Schools)"
        levers.append(Lever(what, 0.0, 1.0, "", to((survey, choices.model_copy(update={"schools": schools})))))
    for setting_id in choices.chosen:
        left = choices.model_copy(update={"chosen": {key: v for key, v in choices.chosen.items() if key != setting_id}})
        what = f"the {setting_id.replace('_', ' ')} left to the tool instead of set by hand"
        levers.append(Lever(what, 0.0, 1.0, "", to((survey, left))))
    return levers
