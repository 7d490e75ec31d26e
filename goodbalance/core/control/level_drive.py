"""The speed that drives give their pumps: full, by the level, at one economical speed, by a loop that holds a level, or as told from outside."""

import math
from dataclasses import dataclass
from enum import StrEnum

BEYOND = 0.05  # so far beyond a limit a small change of level brings no change of speed


class DriveMode(StrEnum):
    """How a lift station's drives are led: at one speed, by the level, so as to hold a level, at an economical speed, or from outside."""

    FIXED = "fixed"
    BY_LEVEL = "by_level"
    HOLD_LEVEL = "hold_level"
    ECONOMICAL = "economical"
    OUTSIDE = "outside"


class OutsideLost(StrEnum):
    """What drives do when the outside signal that says their speed is lost."""

    FULL = "full"
    HOLD = "hold"
    LEAST = "least"


@dataclass
class LevelDrive:
    """One speed for all running pumps, as a share of full speed. Without a level they run at full speed.

    by_level: least speed at low_m, full speed at full_m, straight between.
    hold_level: n = least + K (h - hold) + K/T integral of (h - hold), kept between least and full; the integral
    stops while the speed stands at a limit (no wind-up).
    economical: one speed from each start on, and full from full_m up until every pump has stopped.
    outside: from outside_zero at an empty signal to outside_full at a full one, no less than least; outside_lost without it.
    """

    mode: DriveMode
    least: float
    ramp_s: float
    low_m: float = 0.0
    full_m: float = 1.0
    hold_m: float = 0.0
    gain: float = 0.0  # share of speed per metre
    reset_s: float = math.inf
    economical: float = 1.0
    outside_zero: float = 0.0
    outside_full: float = 1.0
    outside_lost: OutsideLost = OutsideLost.FULL
    speed: float = 0.0
    wanted: float = 0.0
    asked: float = 0.0  # before the limits
    integral: float = 0.0
    flat_out: bool = False  # economical: the level of full speed was reached since all stood

    def go_by(self, other: "LevelDrive") -> None:
        """Go on by the numbers of another drive, from the speed that stands now."""
        other.speed, other.wanted, other.asked, other.integral, other.flat_out = self.speed, self.wanted, self.asked, self.integral, self.flat_out
        self.__dict__.update(other.__dict__)

    def scan(self, level_m: float | None, running: bool, elapsed_s: float, outside: float | None = None, remote: bool = True) -> None:
        """Act once. level_m None: the level is not known. outside: what the outside signal says, as a share of its span; None: lost.

        remote: whether the outside is obeyed; in local the pumps run at full speed.
        """
        if not running:
            self.speed = self.wanted = self.integral = 0.0
            self.flat_out = False
            return
        if self.mode is DriveMode.OUTSIDE:
            self.wanted = self._told(outside) if remote else 1.0
        else:
            self.wanted = self._wanted(level_m, elapsed_s)
        if self.speed == 0.0:
            self.speed = self.least  # a drive comes to its least speed at once
        most = elapsed_s / self.ramp_s
        self.speed += min(most, max(-most, self.wanted - self.speed))

    def _told(self, outside: float | None) -> float:
        """What the outside signal says, or what is done without it; a drive that has told nothing yet has nothing to hold."""
        if outside is not None:
            return min(1.0, max(self.least, self.outside_zero + (self.outside_full - self.outside_zero) * outside))
        if self.outside_lost is OutsideLost.HOLD and self.wanted > 0.0:
            return self.wanted
        return self.least if self.outside_lost is OutsideLost.LEAST else 1.0

    def _wanted(self, level_m: float | None, elapsed_s: float) -> float:
        if level_m is None or self.mode is DriveMode.FIXED:
            return 1.0
        if self.mode is DriveMode.ECONOMICAL:
            self.flat_out = self.flat_out or level_m >= self.full_m
            return 1.0 if self.flat_out else self.economical
        if self.mode is DriveMode.BY_LEVEL:
            share = (level_m - self.low_m) / (self.full_m - self.low_m)
            self.asked = self.least + (1.0 - self.least) * share
            return self.least + (1.0 - self.least) * min(1.0, max(0.0, share))
        error_m = level_m - self.hold_m
        step = self.gain * error_m * elapsed_s / self.reset_s
        asked = self.least + self.gain * error_m + self.integral + step
        if self.least < asked < 1.0 or (asked >= 1.0 and step < 0.0) or (asked <= self.least and step > 0.0):
            self.integral += step
        self.asked = self.least + self.gain * error_m + self.integral
        return min(1.0, max(self.least, self.least + self.gain * error_m + self.integral))

    @property
    def goes_full(self) -> bool:
        """Whether a level brings it to full speed."""
        return self.mode in (DriveMode.BY_LEVEL, DriveMode.ECONOMICAL)

    @property
    def slope(self) -> float:
        """How much speed changes with level. [1/m]"""
        if self.mode is DriveMode.BY_LEVEL:
            return (1.0 - self.least) / (self.full_m - self.low_m)
        return self.gain if self.mode is DriveMode.HOLD_LEVEL else 0.0

    def calm_s(self, level_m: float, rate_ms: float, flow_per_speed_m3s: float, area_m2: float) -> float:
        """How long the speed may stay as it is, so that it errs by no more than two hundredths and stays stable. [s]"""
        if abs(self.speed - self.wanted) > 1e-6:
            return 0.0  # on the ramp
        if not self.slope:
            return math.inf
        if (self.asked <= self.least and rate_ms < 0.0) or (self.asked >= 1.0 and rate_ms > 0.0):
            return 60.0  # at a limit, and on its way farther
        if not self.least - BEYOND < self.asked < 1.0 + BEYOND:
            return 20.0  # at a limit, and far from leaving it
        steps = [0.5 * area_m2 / (flow_per_speed_m3s * self.slope), 0.02 / (self.slope * max(abs(rate_ms), 1e-9))]
        if self.mode is DriveMode.HOLD_LEVEL:
            steps.append(0.03 * self.reset_s / (self.gain * max(abs(level_m - self.hold_m), 1e-9)))
        return min(steps)
