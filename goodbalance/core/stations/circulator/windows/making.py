"""What every room of the settings shares: the survey as equations, the flows that are needed, and the difference between the headers that drives them."""

from abc import abstractmethod

from goodbalance.core.balance.plan import TIMERS
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term
from goodbalance.core.stations.circulator.names import BY_HAND, IN_HOURS
from goodbalance.core.stations.circulator.plant.equations import equations
from goodbalance.core.stations.circulator.plant.pieces import Piece
from goodbalance.core.stations.circulator.survey.choices import CirculatorChoices
from goodbalance.core.stations.circulator.survey.survey import CirculatorSurvey
from goodbalance.core.stations.shared.making import Maker, term

PUMP = "pump"  # a group, beside the valves and the times
TURN_STEP, FLOW_STEP_M3S, TIME_STEP_S, KELVIN_STEP = 0.1, 1.0 / 60e3, 60.0, 1.0
CROSSING_STEP_M3S = 0.1 / 60e3


class Windows(Maker):
    """Makes the settings of one survey and one set of choices."""

    def __init__(self, survey: CirculatorSurvey, choices: CirculatorChoices, so_far: dict[str, float] | None = None) -> None:
        steps = {PUMP: choices.step_pa, BY_HAND: TURN_STEP, TIMERS: TIME_STEP_S, IN_HOURS: TIME_STEP_S}
        super().__init__(choices.chosen, steps, so_far)
        self.survey, self.choices, self.rules, self.schools = survey, choices, choices.rules, choices.schools
        self.eq = equations(survey)
        self.least_c = least_c(survey, choices)
        self.need = self.eq.needed(self.least_c)
        self.header_pa, self.index = self.eq.index_pa(self.need.flows_m3s)

    @abstractmethod
    def make_all(self) -> None:
        """Every setting of this room, each built on those before it."""

    def limit_ms(self, piece: Piece) -> float:
        """How fast water may run in a piece."""
        return self.eq.fastest_ms(piece.material, self.eq.flow_c, velocities(self.choices))

    def most_m3s(self, number: int) -> float:
        """The most that may run through a branch by its velocity, 0 for the first: the narrower of its pipes counts."""
        pipe = self.eq.pipes[number]
        return min(self.limit_ms(piece) * piece.area_m2 for piece in (pipe.there, pipe.back))


def between_pa(symbol: str, meaning: str, value: float) -> Term:
    """A difference of pressure as one number of a trail. [Pa]"""
    return term(symbol, meaning, value, Q.DIFFERENCE)


def least_c(survey: CirculatorSurvey, choices: CirculatorChoices) -> float:
    """What is asked of the coldest point: the rule, or hot water at the farthest tap where the cold pipe is the way back; with its margin."""
    rules = choices.rules
    return (survey.use.hot_c if survey.crosses else rules.least_return_c) + rules.margin_k


def velocities(choices: CirculatorChoices) -> dict[str, float]:
    """How fast water may run, by the rules' names."""
    rules = choices.rules
    return {"copper_hot_ms": rules.copper_hot_ms, "copper_ms": rules.copper_ms, "steel_ms": rules.steel_ms, "plastic_ms": rules.plastic_ms}
