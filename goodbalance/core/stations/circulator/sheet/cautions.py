"""The cautions of a ring, for its record and its door card."""

from goodbalance.core.stations.circulator.names import LOCAL_RULES, Mode
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.hours import by_clock
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey


def cautions(survey: CirculatorSurvey, choices: CirculatorChoices) -> tuple[str, ...]:
    """The cautions that apply, gravest first."""
    found = [LOCAL_RULES]
    if not survey.heats:
        found += [
            "Hot water scalds: children, old people and hands without feeling first. Valves against scalding are proved by a thermometer, not by hand.",
            "Bacteria grow in water that stands between 25 and 45 degrees. After weeks away draw every tap hot, windows open, nobody over the spray; then shower.",
        ]
    found += [
        "The pump starts by itself. Switch off and prove dead before touching it; its casing and pipes are hot.",
        "It never runs dry, not even to listen. Vent by pulses: run, rest, open the vents, until it is quiet.",
    ]
    if survey.crosses:
        found.append("Cold taps beside a crossover valve run warm for a while. Draw until it is cold before you drink.")
    if by_clock(survey, choices):
        found.append("Outside its hours it stands still: that is right. The owner may move the hours; valves, mode and temperatures stay as they are.")
    if choices.schools.mode is Mode.LEARNING:
        found.append("It learns from habits: after a holiday it is late for a week.")
    if survey.heat.mixing:
        found.append("The return goes to the heat and to the cold port of the mixing valve. Shut one of them, and its temperature creeps up.")
    return tuple(found)
