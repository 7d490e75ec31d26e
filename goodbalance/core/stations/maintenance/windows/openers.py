"""What would open an empty window of a maintenance pump: each fact or rule changed alone, by the least that does it."""

from collections.abc import Callable

from goodbalance.core.balance.openers import Case, Lever, search, to
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import Opener
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices, RunOn
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey

STEPS = 8
_RULES = (
    ("over_churn_pa", "a stop {needed} over the churn instead of {now}", 0.0, Q.PRESSURE), ("differential_pa", "a differential of {needed} instead of {now} (ask the authority)", 5e3, Q.PRESSURE),
    ("separation_pa", "a separation of {needed} instead of {now} (ask the authority)", 2e3, Q.PRESSURE), ("schedule_pa", "main pumps {needed} apart instead of {now} (ask the authority)", 2e3, Q.PRESSURE),
    ("margin_pa", "a margin of {needed} to shut-off instead of {now}", 1e3, Q.PRESSURE), ("worn_share", "a pump that loses {needed} of its head instead of {now}", 0.0, Q.PERCENT),
    ("least_run_s", "a least run of {needed} by rule instead of {now} (ask the authority)", 0.0, Q.TIME), ("makes_good_s", "{needed} to make good the permitted leak instead of {now}", 7200.0, Q.DURATION),
    ("run_share", "a long-run alarm {needed} over the longest honest run instead of {now}", 0.0, Q.PERCENT), ("longest_delay_s", "a start delay of at most {needed} instead of {now}", 300.0, Q.TIME),
    ("swing_s", "swings of {needed} instead of {now}", 0.05, Q.TIME),
)  # fmt: skip
_FACTS = (
    ("line", "vessel_m3", "a small vessel of {needed} instead of {now}", 5.0, Q.VOLUME), ("line", "permitted_m3s", "a permitted leak of {needed} instead of {now}", 1e-7, Q.LEAK),
    ("line", "leak_m3s", "a leak mended to {needed} from {now}", 0.0, Q.LEAK), ("line", "rating_pa", "a weakest rating of {needed} instead of {now}", 1e7, Q.PRESSURE),
    ("mains", "churn_pa", "a main pump that adds {needed} without flow instead of {now}", 1e4, Q.PRESSURE), ("suction", "low_pa", "a supply of at least {needed} instead of {now}", 5e6, Q.PRESSURE),
    ("suction", "high_pa", "a supply of at most {needed} instead of {now}", 0.0, Q.PRESSURE), ("sensor", "error_share", "a sensor whose error is {needed} of its range instead of {now}", 0.0, Q.PERCENT),
    ("sensor", "noise_pa", "a reading that wobbles by {needed} instead of {now}", 0.0, Q.PRESSURE), ("pumping", "starts_per_hour", "{needed} starts instead of {now} (ask the maker)", 120.0, Q.STARTS),
    ("pumping", "warm_k", "water that may warm by {needed} K instead of {now} K (ask the maker)", 80.0, Q.RATIO), ("mains", "start_1_pa", "a first main pump that starts at {needed} instead of {now} (its people)", 0.0, Q.PRESSURE),
)  # fmt: skip


def openers(survey: MaintenanceSurvey, choices: MaintenanceChoices, opens: Callable[[MaintenanceSurvey, MaintenanceChoices], bool]) -> tuple[Opener, ...]:
    """Every single change that opens it, with the least amount needed."""
    return search(_levers(survey, choices), opens, STEPS)


def _levers(survey: MaintenanceSurvey, choices: MaintenanceChoices) -> list[Lever]:
    rules = choices.rules

    def rule(name: str) -> Callable[[float], Case]:
        return lambda value: (survey, choices.model_copy(update={"rules": rules.model_copy(update={name: value})}))

    def fact(section: str, name: str) -> Callable[[float], Case]:
        part = getattr(survey, section)
        return lambda value: (survey.model_copy(update={section: part.model_copy(update={name: value})}), choices)

    def stronger(value: float) -> Case:
        curve = tuple(p if p.head_m is None else p.model_copy(update={"head_m": p.head_m * value}) for p in survey.pumping.curve)
        return survey.model_copy(update={"pumping": survey.pumping.model_copy(update={"curve": curve})}), choices

    levers = [Lever(what, getattr(rules, name), limit, q, rule(name)) for name, what, limit, q in _RULES]
    as_far = {"low_pa": survey.suction.high_pa, "high_pa": survey.suction.low_pa}  # no further than the fact beside it
    for section, name, what, limit, q in _FACTS:
        now = getattr(getattr(survey, section), name)
        if now is not None:
            levers.append(Lever(what, now, as_far.get(name, limit), q, fact(section, name)))
    levers.append(Lever("a pump with {needed} of its head", 1.0, 3.0, Q.PERCENT, stronger))
    if choices.schools.run_on is RunOn.TIMER:
        schools = choices.schools.model_copy(update={"run_on": RunOn.NONE})
        levers.append(Lever("no least run (see Schools)", 0.0, 1.0, "", to((survey, choices.model_copy(update={"schools": schools})))))
    for setting_id in choices.chosen:
        left = choices.model_copy(update={"chosen": {key: v for key, v in choices.chosen.items() if key != setting_id}})
        levers.append(Lever(f"the {setting_id.replace('_', ' ')} left to the tool instead of set by hand", 0.0, 1.0, "", to((survey, left))))
    return levers
