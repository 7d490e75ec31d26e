"""What current a motor takes at a load: from its plate, and made better by what a clamp meter read."""

import math
from dataclasses import dataclass

import numpy as np

from goodbalance.core.errors import OutOfRange
from goodbalance.core.protection.plate import Plate, Rotor

PLATE_SPREAD = 0.10  # of a current that was only reckoned from a plate: makers' tolerance, the curve's powers, the supply
CLAMP_SPREAD = 0.03  # of a reading: clamp meter, supply while it was read
APART = 0.15  # by so much the squares of two loads must differ to tell both parts of the current
LEAST_SPEED = 0.05  # a share of full: slower, the voltage of a drive is no longer as its frequency


@dataclass(frozen=True, slots=True)
class Clamped:
    """A current that was read at a known load. load: input of the motor over its plate's."""

    load: float
    current_a: float


@dataclass(frozen=True, slots=True)
class CurrentModel:
    """I = sqrt(idle^2 + (active load)^2): the part that magnetises, and that which works. [A at the plate's voltage]

    spread: by what share a current may be off, half the width within which 95 of 100 lie. read: how many readings it stands on.
    """

    idle_a: float
    active_a: float
    spread: float
    read: int = 0
    worst_share: float = 0.0  # by which the worst reading is off the model

    def current_a(self, load: float, speed: float = 1.0, voltage: float = 1.0) -> float:
        """Motor current at an input power, a share of the plate's, at a share of full speed and of the plate's voltage. [A]

        A drive keeps voltage in step with frequency: the magnetising part stays, and the working part of a power P is
        P/(V n). Straight on the line a low voltage takes magnetising current away in step and makes the working part larger.

        Source: current triangle; V/f = constant below the plate's frequency.
        """
        if not load >= 0.0:
            raise OutOfRange("load", load, "0 or more")
        if not voltage > 0.0:
            raise OutOfRange("voltage", voltage, "more than 0")
        working_a = self.active_a * load / (max(speed, LEAST_SPEED) * voltage)
        return math.hypot(self.idle_a * voltage, working_a)


def of_plate(plate: Plate) -> CurrentModel:
    """As the plate says: I_n sin phi magnetises, I_n cos phi works; with permanent magnets all of it works.

    >>> from goodbalance.core.protection.plate import Phases
    >>> model = of_plate(Plate(phases=Phases.THREE, voltage_v=400.0, current_a=10.0, shaft_w=4700.0, power_factor=0.8))
    >>> round(model.idle_a, 6), round(model.active_a, 6), round(model.current_a(0.5), 4)
    (6.0, 8.0, 7.2111)

    Source: current triangle at the plate's power factor.
    """
    idle_a = plate.current_a * plate.idle_share
    return CurrentModel(idle_a, math.sqrt(max(0.0, plate.current_a**2 - idle_a**2)), PLATE_SPREAD)


def fitted(plate: Plate, readings: tuple[Clamped, ...]) -> CurrentModel:
    """The plate's model moved to what was read. With loads far enough apart both parts are fitted, else both by one factor.

    I^2 = idle^2 + active^2 load^2 is straight in the squares: least squares over the readings, no part below nothing. The
    spread is that of a clamp meter, or what the readings stray by where that is more.

    Source: linear least squares on the current triangle.
    """
    told = of_plate(plate)
    good = [each for each in readings if each.current_a > 0.0]
    if not good:
        return told
    squares = np.array([each.load**2 for each in good])
    currents = np.array([each.current_a**2 for each in good])
    both = plate.rotor is Rotor.INDUCTION and float(squares.max() - squares.min()) >= APART
    if both:
        active, idle = np.polyfit(squares, currents, 1)
        both = bool(active > 0.0 and idle > 0.0)
    if both:
        idle_a, active_a = math.sqrt(float(idle)), math.sqrt(float(active))
    else:
        factor = float(np.mean([each.current_a / told.current_a(each.load) for each in good]))
        idle_a, active_a = told.idle_a * factor, told.active_a * factor
    model = CurrentModel(idle_a, active_a, CLAMP_SPREAD, len(good))
    off = [abs(each.current_a / model.current_a(each.load) - 1.0) for each in good]
    worst = max(off)
    # one factor over one load says little of another: there the plate's doubt stays beside the meter's
    spread = max(CLAMP_SPREAD, worst) if both else max(CLAMP_SPREAD, worst, PLATE_SPREAD / 2.0)
    return CurrentModel(idle_a, active_a, spread, len(good), worst)
