"""What would open an empty window of a transfer set: facts and rules changed one at a time, reckoned again."""

from collections.abc import Callable

from goodbalance.core.balance.openers import Case, Lever, search, to
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import Opener
from goodbalance.core.stations.transfer.survey.choices import RestartBy, TransferChoices
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey

STEPS = 8
_RULES = (  # name, what, how far it may go, quantity
    ("margin_pa", "a margin of {needed} beside running and shut-off pressure instead of {now}", 1e3, Q.PRESSURE),
    ("worn_share", "a pump that may lose {needed} of its head instead of {now}", 0.0, Q.PERCENT),
    ("separation_m", "a least step between levels of {needed} instead of {now}", 0.01, Q.LEVEL),
    ("source_band_m", "a band of {needed} at the source instead of {now}", 0.02, Q.LEVEL),
    ("run_share", "a longest run {needed} over the longest fill instead of {now}", 0.0, Q.PERCENT),
    ("turnover_s", "water that may be {needed} old instead of {now} (local rule first)", 14 * 86400.0, Q.DURATION),
    ("filled_s", "a line that is free of air after {needed} instead of {now}", 1.0, Q.TIME),
    ("dry_s", "{needed} of drawing air instead of {now} (ask the maker)", 600.0, Q.TIME),
)
_FACTS = (  # section, name, what, how far it may go, quantity
    ("line", "diameter_m", "a line of {needed} instead of {now}", 1.5, Q.SMALL_LENGTH),
    ("line", "rating_pa", "parts rated for {needed} instead of {now}", 6e6, Q.PRESSURE),
    ("line", "leak_m3s", "a leak of {needed} instead of {now}", 0.0, Q.FLOW),
    ("line", "vessel_m3", "a pressure vessel of {needed} instead of {now}", 5.0, Q.VOLUME),
    ("sensor", "range_pa", "a sensor that reads up to {needed} instead of {now}", 6e6, Q.PRESSURE),
    ("sensor", "noise_pa", "a calmer reading, {needed} of wobble instead of {now}", 0.0, Q.PRESSURE),
    ("sensor", "error_share", "a reading that is off by {needed} instead of {now}", 0.0, Q.PERCENT),
    ("source", "low_m", "a source that stays above {needed} instead of {now}", 5000.0, Q.LENGTH),
    ("source", "high_m", "a source that stays under {needed} instead of {now}", -1000.0, Q.LENGTH),
    ("source", "safe_m", "an intake that draws from {needed} on instead of {now}", -1000.0, Q.LENGTH),
    ("tanks", "outage_s", "{needed} without refill instead of {now}", 0.0, Q.DURATION),
    ("tanks", "peak_lasts_s", "a largest draw that lasts {needed} instead of {now}", 60.0, Q.DURATION),
    ("tanks", "lost_m3", "{needed} that may be lost instead of {now}", 5000.0, Q.VOLUME),
    ("tanks", "response_s", "a crew that comes within {needed} instead of {now}", 0.0, Q.DURATION),
    ("pumping", "starts_per_hour", "{needed} starts instead of {now} (ask the maker)", 60.0, Q.STARTS),
)  # fmt: skip
_OF_A_TANK = (
    ("opens_drop_m", "a valve of {who} that opens again at a drop of {{needed}} instead of {{now}}", 5.0, Q.LEVEL),
    ("throttles_m", "a valve of {who} that throttles over {{needed}} instead of {{now}}", 0.0, Q.LEVEL),
    ("closing_s", "a valve of {who} that takes {{needed}} to close instead of {{now}}", 600.0, Q.TIME),
    ("valve_m3s", "a valve of {who} of {{needed}} instead of {{now}}", 1.0, Q.VALVE_FLOW),
    ("overflow_m", "an overflow of {who} at {{needed}} instead of {{now}}", 50.0, Q.LEVEL),
    ("reserve_m3", "{{needed}} kept in {who} instead of {{now}}", 0.0, Q.VOLUME),
    ("mean_m3s", "a mean draw from {who} of {{needed}} instead of {{now}}", 0.0, Q.FLOW),
    ("peak_m3s", "a largest draw from {who} of {{needed}} instead of {{now}}", 0.0, Q.FLOW),
)


def openers(survey: TransferSurvey, choices: TransferChoices, opens: Callable[[TransferSurvey, TransferChoices], bool]) -> tuple[Opener, ...]:
    """Every single change that opens it, with the least amount needed."""
    return search(_levers(survey, choices), opens, STEPS)


def _levers(survey: TransferSurvey, choices: TransferChoices) -> list[Lever]:
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
    as_far = {"low_m": survey.source.high_m, "high_m": survey.source.low_m}  # no further than the fact beside it
    levers += [Lever(what, getattr(getattr(survey, section), name), as_far.get(name, limit), q, fact(section, name)) for section, name, what, limit, q in _FACTS]
    for number, tank in enumerate(survey.all_tanks, 1):
        who, section = survey.tank_name(number), f"tank_{number}"
        limits = {"mean_m3s": 0.0, "peak_m3s": tank.mean_m3s, "opens_drop_m": tank.closes_m}
        levers += [Lever(what.format(who=who), getattr(tank, name), limits.get(name, limit), q, fact(section, name)) for name, what, limit, q in _OF_A_TANK]
    levers.append(Lever("pumps with {needed} of their head", 1.0, 3.0, Q.PERCENT, stronger))
    if choices.schools.restart_by is RestartBy.PRESSURE_AND_TIME:
        schools = choices.schools.model_copy(update={"restart_by": RestartBy.TIME_ALONE})
        levers.append(Lever("a delay alone that starts the pump again, instead of the pressure (see Schools)", 0.0, 1.0, "", to((survey, choices.model_copy(update={"schools": schools})))))
    for setting_id in choices.chosen:
        left = choices.model_copy(update={"chosen": {key: v for key, v in choices.chosen.items() if key != setting_id}})
        levers.append(Lever(f"the {setting_id.replace('_', ' ')} left to the tool instead of set by hand", 0.0, 1.0, "", to((survey, left))))
    return levers
