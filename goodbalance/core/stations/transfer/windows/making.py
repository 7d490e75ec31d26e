"""What every room of a transfer set's settings shares: the survey as equations, margins of the reading, tanks by number."""

from abc import abstractmethod

from goodbalance.core.balance.plan import TIMERS
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.window import RULE, Bound, Source
from goodbalance.core.stations.shared.making import Maker, Terms, bound, term
from goodbalance.core.stations.transfer.names import SettingId
from goodbalance.core.stations.transfer.plant.hydraulics import hydraulics
from goodbalance.core.stations.transfer.survey.choices import TransferChoices
from goodbalance.core.stations.transfer.survey.survey import TransferSurvey

PRESSURES, LEVELS, SOURCES = "pressures", "levels", "sources"  # groups, beside the timers
LEVEL_STEP_M = 0.01


class Windows(Maker):
    """Makes the settings of one survey and one set of choices; the rooms of settings build on it."""

    def __init__(self, survey: TransferSurvey, choices: TransferChoices, so_far: dict[str, float] | None = None) -> None:
        steps = {PRESSURES: choices.step_pa, LEVELS: LEVEL_STEP_M, SOURCES: LEVEL_STEP_M, TIMERS: 1.0}
        super().__init__(choices.chosen, steps, so_far)
        self.survey, self.choices, self.rules, self.schools = survey, choices, choices.rules, choices.schools
        self.hyd = hydraulics(survey)
        sensor = survey.sensor
        self.wobble_pa = max(3.0 * sensor.noise_pa, 5.0 * sensor.range_pa / sensor.counts)
        self.error_pa = sensor.error_share * sensor.range_pa

    @abstractmethod
    def make_all(self) -> None:
        """Every setting of this room, each built on those before it."""

    def wobbles(self) -> Terms:
        """What a reading may be off, as terms: its wobble and its error."""
        return term("w", "wobble: three times the noise, or five counts", self.wobble_pa), term("e", "error of sensor and input", self.error_pa)

    def apart(self) -> Terms:
        """The same with the margin by rule."""
        return (*self.wobbles(), term("m", "margin by rule", self.rules.margin_pa))

    @property
    def apart_pa(self) -> float:
        """How far a switching point stands from what must not touch it."""
        return self.wobble_pa + self.error_pa + self.rules.margin_pa

    def of(self, tank: int) -> str:
        """A tank behind a label, 0 for tank 1; nothing where there is one alone."""
        return f" of {self.survey.tank_name(tank + 1)}" if self.survey.tanks.count > 1 else ""

    def step_above(self, setting_id: SettingId, name: str, harm: str) -> Bound:
        """A step above another level."""
        value = self.so_far[setting_id]
        terms = term("s", name, value, Q.LEVEL), term("x", "least step by rule", self.rules.separation_m, Q.LEVEL)
        return bound("h = s + x", terms, value + self.rules.separation_m, RULE, (f"{name} and a step", harm), Source.RULE, setting_id, Q.LEVEL)

    def step_below(self, setting_id: SettingId, name: str, harm: str) -> Bound:
        """A step under another level."""
        value = self.so_far[setting_id]
        terms = term("s", name, value, Q.LEVEL), term("x", "least step by rule", self.rules.separation_m, Q.LEVEL)
        return bound("h = s - x", terms, value - self.rules.separation_m, RULE, (f"{name} less a step", harm), Source.RULE, setting_id, Q.LEVEL)
