"""Losses in pressure mains: two schools for pipe friction, and losses of fittings."""

import math
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from fluids.friction import Clamond

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.water import GRAVITY_MS2
from goodbalance.core.physics.wells import circle_area_m2

WATER_KINEMATIC_VISCOSITY_M2S = 1.1e-6  # clean water at about 16 degrees C


class FrictionSchool(StrEnum):
    """By which formula pipe friction is reckoned."""

    HAZEN_WILLIAMS = "hazen_williams"
    DARCY_WEISBACH = "darcy_weisbach"


@dataclass(frozen=True)
class Main:
    """A pressure main with its losses by flow.

    roughness: C of Hazen-Williams, or sand roughness in metres for Darcy-Weisbach, as the school says.
    viscosity_m2s: of the water in it, which counts with Darcy-Weisbach (C of Hazen-Williams holds for cold water).
    """

    length_m: float
    diameter_m: float
    school: FrictionSchool
    roughness: float
    minor_k: float
    viscosity_m2s: float = WATER_KINEMATIC_VISCOSITY_M2S

    def __post_init__(self) -> None:
        for name in ("diameter_m", "roughness"):
            if not getattr(self, name) > 0.0:
                raise OutOfRange(name, getattr(self, name), "more than 0")

    @cached_property
    def area_m2(self) -> float:
        """Cross-section of the bore. [m2]"""
        return circle_area_m2(self.diameter_m)

    @property
    def volume_m3(self) -> float:
        """What the main holds."""
        return self.area_m2 * self.length_m

    def velocity_ms(self, flow_m3s: float) -> float:
        """Mean velocity v = Q / A. [m/s]

        Source: continuity.
        """
        return flow_m3s / self.area_m2

    @cached_property
    def _hazen_williams_k(self) -> float:
        return 10.67 * self.length_m / (math.pow(self.roughness, 1.852) * math.pow(self.diameter_m, 4.8704))

    def friction_m(self, flow_m3s: float) -> float:
        """Friction loss over the length. [m]

        Hazen-Williams (SI): h = 10.67 L Q^1.852 / (C^1.852 D^4.8704).
        Darcy-Weisbach: h = f L/D v^2/2g, f by Colebrook.

        Source: Hazen and Williams 1905; Darcy 1857 and Weisbach 1845.
        """
        if flow_m3s <= 0.0:
            return 0.0
        if self.school is FrictionSchool.HAZEN_WILLIAMS:
            return self._hazen_williams_k * math.pow(flow_m3s, 1.852)
        velocity_ms = self.velocity_ms(flow_m3s)
        factor = darcy_friction_factor(velocity_ms, self.diameter_m, self.roughness, self.viscosity_m2s)
        return factor * self.length_m / self.diameter_m * velocity_ms**2 / (2.0 * GRAVITY_MS2)

    def loss_m(self, flow_m3s: float) -> float:
        """Friction plus fittings: h = h_f + K v^2/2g. [m]

        Source: Darcy 1857 and Weisbach 1845 for the fittings' velocity heads.
        """
        velocity_ms = self.velocity_ms(flow_m3s)
        return self.friction_m(flow_m3s) + self.minor_k * velocity_ms**2 / (2.0 * GRAVITY_MS2)


def darcy_friction_factor(
    velocity_ms: float,
    diameter_m: float,
    sand_roughness_m: float,
    viscosity_m2s: float = WATER_KINEMATIC_VISCOSITY_M2S,
) -> float:
    """Darcy friction factor: 64/Re when laminar (Re < 2300), else Colebrook, solved to rounding.

    Source: Colebrook 1939, 1/sqrt(f) = -2 log10(e/(3.7 D) + 2.51/(Re sqrt(f))); solved by Clamond 2009.
    """
    reynolds = velocity_ms * diameter_m / viscosity_m2s
    if not reynolds > 0.0:
        raise OutOfRange("reynolds", reynolds, "more than 0")
    if reynolds < 2300.0:
        return 64.0 / reynolds
    return float(Clamond(reynolds, sand_roughness_m / diameter_m))
