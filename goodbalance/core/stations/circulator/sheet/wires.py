"""The wires of a circulator: what leads where for this plan, how it is checked, and what a broken one does."""

from collections.abc import Iterator

from goodbalance.core.balance.plan import Plan
from goodbalance.core.sheets.wiring import Joint, Look
from goodbalance.core.stations.circulator.names import Mode
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.circulator.survey.use import Outside
from goodbalance.core.stations.shared import joints as shared
from goodbalance.core.stations.shared.joints import DRY_CONTACT

MEANINGS = frozenset(("supply", "input.return", "contact.outside", "output.alarm"))
_OUTSIDE = {
    Outside.THERMOSTAT: ("Thermostat at the return", "the thermostat strapped to the return"), Outside.BUTTON: ("Push button", "the buttons at the taps, side by side"),
    Outside.BUILDING: ("Contact of the building's control", "a dry contact in the building's panel"),
}  # fmt: skip


def joints(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> tuple[Joint, ...]:
    """The wires of this plan, in the order they are walked."""
    return tuple(_joints(survey, choices))


def _joints(survey: CirculatorSurvey, choices: CirculatorChoices) -> Iterator[Joint]:
    yield shared.supply()
    if choices.schools.mode is Mode.RETURN:
        yield Joint(
            "input.return", "Sensor at the return", "the clip-on sensor at the return, under its insulation", ("sensor", "sensor"), (),
            (Look("It shows what a thermometer beside it reads, within two degrees."),), "It says so, and runs on by a pressure of its own: warm, rather than cold.",
        )  # fmt: skip
    if survey.control.outside in _OUTSIDE:
        label, leads = _OUTSIDE[survey.control.outside]
        yield Joint("contact.outside", label, leads, ("common", "closes to ask"), (DRY_CONTACT,), (Look("Open: it does not ask. Bridged for a second: it asks."),), "It never asks: where both must, the ring stays cold.")
    if survey.control.alarm_contact:
        yield Joint("output.alarm", "Alarm contact", "whoever is called", ("common", "closes in alarm"), (DRY_CONTACT,), (Look("Pull the plug of a sensor or stop it by its switch: seen where it is answered."),), "Nothing tells of it: somebody finds cold taps.")
