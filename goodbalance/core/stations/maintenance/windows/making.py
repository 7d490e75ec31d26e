"""What every room of the settings shares: the survey as equations, and margins of the reading."""

from abc import abstractmethod

from goodbalance.core.balance.plan import TIMERS
from goodbalance.core.stations.maintenance.names import OTHERS, main_start
from goodbalance.core.stations.maintenance.plant.hydraulics import hydraulics
from goodbalance.core.stations.maintenance.survey.choices import MaintenanceChoices
from goodbalance.core.stations.maintenance.survey.survey import MaintenanceSurvey
from goodbalance.core.stations.shared.making import Maker, Terms, term

PRESSURES = "pressures"  # a group, beside the timers and what is another's
TIMER_STEP_S = 1.0


class Windows(Maker):
    """Makes the settings of one survey and one set of choices. A main pump's start stands where its people set it."""

    def __init__(self, survey: MaintenanceSurvey, choices: MaintenanceChoices, so_far: dict[str, float] | None = None) -> None:
        steps = {PRESSURES: choices.step_pa, TIMERS: TIMER_STEP_S, OTHERS: choices.step_pa}
        known: dict[str, float] = {main_start(number): start_pa for number in range(1, survey.mains.count + 1) if (start_pa := survey.mains.start_pa(number)) is not None}
        super().__init__({**known, **choices.chosen}, steps, so_far)
        self.survey, self.choices, self.rules, self.schools = survey, choices, choices.rules, choices.schools
        self.hyd = hydraulics(survey)
        sensor = survey.sensor
        self.wobble_pa = max(3.0 * sensor.noise_pa, 5.0 * sensor.range_pa / sensor.counts)
        self.error_pa = sensor.error_share * sensor.range_pa

    @abstractmethod
    def make_all(self) -> None:
        """Every setting of this room, each built on those before it."""

    @property
    def off_pa(self) -> float:
        """What a reading may be off."""
        return self.wobble_pa + self.error_pa

    def wobbles(self) -> Terms:
        """The same as terms."""
        return term("w", "wobble: three times the noise, or five counts", self.wobble_pa), term("e", "error of sensor and input", self.error_pa)

    @property
    def leaks_m3s(self) -> float:
        """The leak that is reckoned with: as it is, or as permitted where that is more."""
        line = self.survey.line
        return max(line.leak_m3s, line.permitted_m3s)
