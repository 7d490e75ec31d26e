"""What would open an empty window of a ring: each fact or rule changed alone, by the least that does it."""

from collections.abc import Callable

from goodbalance.core.balance.openers import Case, Lever, search, to
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import Opener
from goodbalance.core.stations.circulator.names import Mode
from goodbalance.core.stations.circulator.plant.laws import is_able
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey

STEPS = 7
_RULES = (
    ("least_return_c", "a coldest point of {needed} instead of {now} (ask who makes the rule)", 20.0, Q.TEMPERATURE), ("margin_k", "{needed} K over it instead of {now} K", 0.0, Q.RATIO),
    ("balance_share", "branches that may take {needed} over their need instead of {now}", 5.0, Q.PERCENT),
    ("copper_hot_ms", "{needed} in hot copper instead of {now} (ask the maker)", 0.9, Q.VELOCITY), ("copper_ms", "{needed} in copper instead of {now} (ask the maker)", 1.5, Q.VELOCITY),
    ("steel_ms", "{needed} in steel instead of {now} (ask the maker)", 3.0, Q.VELOCITY), ("plastic_ms", "{needed} in plastic instead of {now} (ask the maker)", 3.0, Q.VELOCITY),
    ("cold_s", "a cold tap that may run warm for {needed} instead of {now}", 300.0, Q.TIME), ("cold_c", "cold water of up to {needed} instead of {now}", 40.0, Q.TEMPERATURE),
    ("longest_lead_s", "a lead of up to {needed} instead of {now}", 6 * 3600.0, Q.DURATION), ("longest_button_s", "a push that runs it for up to {needed} instead of {now}", 3600.0, Q.DURATION),
    ("sensor_k", "a sensor that is {needed} K off instead of {now} K", 0.0, Q.RATIO), ("stat_k", "a thermostat whose stop is {needed} K over its start instead of {now} K", 0.5, Q.RATIO),
    ("lead_share", "{needed} over the time to be hot instead of {now}", 0.0, Q.PERCENT),
)  # fmt: skip
_FACTS = (
    ("heat", "set_c", "heat at {needed} instead of {now}", 75.0, Q.TEMPERATURE), ("heat", "mixed_c", "water mixed to {needed} instead of {now}", 65.0, Q.TEMPERATURE), ("use", "hot_c", "water that counts as hot from {needed} instead of {now}", 25.0, Q.TEMPERATURE),
    ("pump", "loudest_pa", "valves that stay quiet up to {needed} instead of {now}", 2e5, Q.DIFFERENCE), ("heat", "highest_return_c", "a source that stands a return of {needed} instead of {now}", 80.0, Q.TEMPERATURE),
    ("heat", "kv_m3s", "heat that lets {needed} through instead of {now}", 1e-2, Q.VALVE_FLOW), ("valves", "kv_m3s", "balancing valves that let {needed} through instead of {now}", 5e-3, Q.VALVE_FLOW),
)  # fmt: skip


def openers(survey: CirculatorSurvey, choices: CirculatorChoices, opens: Callable[[CirculatorSurvey, CirculatorChoices], bool]) -> tuple[Opener, ...]:
    """Every single change that opens it, with the least amount needed."""
    return search(_levers(survey, choices), opens, STEPS)


def _levers(survey: CirculatorSurvey, choices: CirculatorChoices) -> list[Lever]:
    rules = choices.rules

    def rule(name: str) -> Callable[[float], Case]:
        return lambda value: (survey, choices.model_copy(update={"rules": rules.model_copy(update={name: value})}))

    def fact(section: str, name: str) -> Callable[[float], Case]:
        part = getattr(survey, section)
        return lambda value: (with_sections(survey, **{section: part.model_copy(update={name: value})}), choices)

    def stronger(value: float) -> Case:
        return with_sections(survey, pump=survey.pump.with_heads(value)), choices

    def wrapped(value: float) -> Case:
        update = {f"branch_{number}": branch.model_copy(update={"insulation_m": branch.insulation_m + value, "back_insulation_m": branch.back_insulation_m + value}) for number, branch in enumerate(survey.branches, 1)}
        return with_sections(survey, **update), choices

    levers = [Lever(what, getattr(rules, name), limit, q, rule(name)) for name, what, limit, q in _RULES]
    levers += [Lever(what, getattr(getattr(survey, section), name), limit, q, fact(section, name)) for section, name, what, limit, q in _FACTS]
    levers += [Lever("a pump with {needed} of its head", 1.0, 3.0, Q.PERCENT, stronger), Lever("{needed} more insulation around the branches", 0.0, 0.06, Q.SMALL_LENGTH, wrapped)]
    for mode in Mode:
        if mode not in (choices.schools.mode, Mode.LEARNING) and is_able(survey.pump, mode):
            schools = choices.schools.model_copy(update={"mode": mode})
            levers.append(Lever(f"{mode.value.replace('_', ' ')} instead (see Schools)", 0.0, 1.0, "", to((survey, choices.model_copy(update={"schools": schools})))))
    for setting_id in choices.chosen:
        left = choices.model_copy(update={"chosen": {key: v for key, v in choices.chosen.items() if key != setting_id}})
        levers.append(Lever(f"the {setting_id.replace('_', ' ')} left to the tool instead of set by hand", 0.0, 1.0, "", to((survey, left))))
    return levers


def with_sections(survey: CirculatorSurvey, **update: object) -> CirculatorSurvey:
    """The same with sections changed; what was kept of it is made anew."""
    return CirculatorSurvey.model_construct(**{**dict(survey), **update})
