"""A level as the instruments show it: per cent of span, signal, counts of the controller's input."""

from dataclasses import dataclass

from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.stations.lift.hydraulics import hydraulics
from goodbalance.core.stations.lift.survey import LiftSurvey


@dataclass(frozen=True, slots=True)
class Readings:
    """One level seen four ways. signal is in amperes or volts, as its quantity says."""

    level_m: float
    share: float
    signal: float
    quantity: Quantity
    counts: int
    by_float: bool = False

    def worded(self, system: UnitSystem) -> str:
        """For example: 24.5 % of span, 7.92 mA, 980 counts."""
        if self.by_float:
            return "no reading, a float hangs there"
        signal = show(self.signal, self.quantity, system)
        return f"{self.share * 100.0:.1f} % of span, {signal}, {self.counts} counts"


def readings(survey: LiftSurvey, level_m: float) -> Readings:
    """The level on a meter in the loop, on a display in per cent, and as raw counts."""
    hyd = hydraulics(survey)
    if survey.sensor is None:
        return Readings(level_m, 0.0, 0.0, hyd.signal.quantity, 0, by_float=True)
    share = (level_m - hyd.sensor_low_m) / hyd.sensor_span_m
    return Readings(
        level_m, share, hyd.scaling.signal(level_m), hyd.signal.quantity, round(share * survey.sensor.counts)
    )
