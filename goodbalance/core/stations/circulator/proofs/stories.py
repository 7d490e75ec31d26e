"""What usually happens at a ring before somebody comes and looks, and what taps and hands can do there then."""

from goodbalance.core.balance.plan import Plan
from goodbalance.core.rehearsal.proving import HAND, OFF, Scene
from goodbalance.core.rehearsal.troubles import Lever
from goodbalance.core.stations.circulator.bench.rehearse import RingBench
from goodbalance.core.stations.circulator.names import Act
from goodbalance.core.stations.circulator.plant.equations import equations
from goodbalance.core.stations.circulator.proofs.on_bench import COLD_C, act
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey

AUTO, BETWEEN_S = 2.0, 2.0  # the place of a switch; a hand between two places of it
HOUR_S = 3600.0
WORKS_S = 6.0 * HOUR_S


def stories(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> tuple[Scene, ...]:
    """A morning, a whole day, a draw, and a power cut in the night."""
    hot_c = equations(survey).flow_c
    cut = (act(2.0 * HOUR_S, Act.POWER, 0.0), act(3.0 * HOUR_S, Act.POWER, 1.0))
    found = [Scene("a morning", COLD_C, (), 9.0 * HOUR_S), Scene("a day, seen at noon", hot_c, (), 36.0 * HOUR_S), Scene("a power cut in the night", hot_c, cut, 12.0 * HOUR_S)]
    if not survey.heats:
        draw = survey.branches[0].tap_m3s
        found.append(Scene("somebody draws at nine", hot_c, (act(9.0 * HOUR_S, Act.TAP, draw, "1"), act(9.0 * HOUR_S + 240.0, Act.TAP, 0.0, "1")), 9.5 * HOUR_S))
    return tuple(found)


def at_work(survey: CirculatorSurvey, choices: CirculatorChoices, plan: Plan) -> Scene:
    """The pump in HAND."""
    return Scene("the pump at work", equations(survey).flow_c, (act(0.0, Act.SWITCH, HAND, "1"),), WORKS_S)


def levers(bench: RingBench) -> tuple[Lever, ...]:
    """A tap, the clock set right, the outside contact, the button, the switch."""
    off, auto = act(0.0, Act.SWITCH, OFF, "1"), act(BETWEEN_S, Act.SWITCH, AUTO, "1")
    taps = () if bench.survey.heats else (Lever("Tap 1 opened", (act(0.0, Act.TAP, bench.survey.branches[0].tap_m3s, "1"),)),)
    return (
        *taps, Lever("Clock set to the time", (act(0.0, Act.SET_CLOCK, 1.0),)), Lever("Outside contact closed", (act(0.0, Act.OUTSIDE, 1.0),)), Lever("Button pushed", (act(0.0, Act.BUTTON, 1.0),)),
        Lever("The pump to HAND", (act(0.0, Act.SWITCH, HAND, "1"),)), Lever("The pump to OFF and back to AUTO", (off, auto)), Lever("The pump to OFF", (off,)),
    )  # fmt: skip
