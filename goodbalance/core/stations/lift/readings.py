"""A level as the instruments show it: per cent of span, signal, counts of the controller's input; and their check."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from goodbalance.core.balance.quantities import Quantity, UnitSystem, show
from goodbalance.core.physics.scaling_check import CheckedScaling, CheckPoint, check_scaling
from goodbalance.core.physics.signals import Scaling
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

    def ways(self, system: UnitSystem) -> dict[str, str]:
        """The same one by one: per cent of span, signal, counts; nothing where a float knows the level."""
        if self.by_float:
            return {}
        signal = show(self.signal, self.quantity, system)
        return {"span": f"{self.share * 100.0:.1f} %", "signal": signal, "counts": str(self.counts)}


def readings(survey: LiftSurvey, level_m: float) -> Readings:
    """The level on a meter in the loop, on a display in per cent, and as raw counts."""
    hyd = hydraulics(survey)
    if survey.sensor is None:
        return Readings(level_m, 0.0, 0.0, hyd.signal.quantity, 0, by_float=True)
    share = (level_m - hyd.sensor_low_m) / hyd.sensor_span_m
    return Readings(
        level_m, share, hyd.scaling.signal(level_m), hyd.signal.quantity, round(share * survey.sensor.counts)
    )


def checked_scaling(survey: LiftSurvey, check: Mapping[str, Any]) -> CheckedScaling:
    """A scaling check worked out in metres. A signal that was applied stands for the level its scaling makes of it."""
    zero_m, full_m = check["zero"], check["full"]
    trues = [point["applied"] for point in check["points"]]
    if check["by"] == "signal":
        signal = hydraulics(survey).signal
        scaling = Scaling(signal.low, signal.high, zero_m, full_m)
        trues = [scaling.value(applied) for applied in trues]
    points = tuple(CheckPoint(true, point["shown"]) for true, point in zip(trues, check["points"]))
    return check_scaling(points, zero_m, full_m)
