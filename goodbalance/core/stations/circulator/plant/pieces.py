"""One stretch of pipe as equations: what it holds, loses and lets through, and how fast water may run in it."""

import math
from dataclasses import dataclass
from functools import cached_property

from goodbalance.core.physics.heat import HEAT_JKGK, along_c, loss_wmk
from goodbalance.core.physics.pipework import FrictionSchool, Main
from goodbalance.core.physics.water import GRAVITY_MS2
from goodbalance.core.stations.circulator.survey.pipes import Material

MEAN_KGM3 = 985.0  # of water at about 55 degrees C
CARRIES_JM3K = MEAN_KGM3 * HEAT_JKGK  # of a cubic metre of it
VISCOSITY_M2S = 0.5e-6  # of water at about 55 degrees C
ROUGHNESS_M = {Material.COPPER: 1.5e-6, Material.STAINLESS: 5e-6, Material.PLASTIC: 7e-6, Material.STEEL: 1e-4}
WALL_SHARE = {Material.COPPER: 0.06, Material.STAINLESS: 0.07, Material.PLASTIC: 0.16, Material.STEEL: 0.12}  # of the bore
LEAST_WALL_M = 0.001
CONDUCTS_WMK = {Material.COPPER: 380.0, Material.STAINLESS: 15.0, Material.PLASTIC: 0.4, Material.STEEL: 50.0}
HOLDS_JM3K = {Material.COPPER: 3.45e6, Material.STAINLESS: 3.9e6, Material.PLASTIC: 2.1e6, Material.STEEL: 3.7e6}


@dataclass(frozen=True)
class Piece:
    """A stretch of one pipe in one air. lost_wmk: what a metre loses for each kelvin."""

    name: str
    length_m: float
    bore_m: float
    material: Material
    lost_wmk: float
    around_c: float
    fittings_k: float = 0.0

    @cached_property
    def area_m2(self) -> float:
        """Of its bore."""
        return math.pi / 4.0 * self.bore_m**2

    @cached_property
    def lost_wk(self) -> float:
        """What the whole of it loses for each kelvin."""
        return self.lost_wmk * self.length_m

    @cached_property
    def holds_jk(self) -> float:
        """Heat that its water and its wall hold for each kelvin: the wall goes with the water."""
        wall_m = wall_of(self.bore_m, self.material)
        wall_m2 = math.pi * wall_m * (self.bore_m + wall_m)
        return self.length_m * (CARRIES_JM3K * self.area_m2 + HOLDS_JM3K[self.material] * wall_m2)

    @cached_property
    def fills_m3(self) -> float:
        """How much hot water must come in until hot water comes out: its own volume, and what warms the wall."""
        return self.holds_jk / CARRIES_JM3K

    @cached_property
    def constant_s(self) -> float:
        """The time constant with which it cools while it stands: what it holds over what it loses."""
        return self.holds_jk / self.lost_wk

    @cached_property
    def main(self) -> Main:
        """Its losses by flow."""
        return Main(self.length_m, self.bore_m, FrictionSchool.DARCY_WEISBACH, ROUGHNESS_M[self.material], self.fittings_k, VISCOSITY_M2S)

    def loss_pa(self, flow_m3s: float) -> float:
        """Pressure lost in it. Source: Darcy and Weisbach with Colebrook, fittings by K."""
        return self.main.loss_m(flow_m3s) * MEAN_KGM3 * GRAVITY_MS2 if flow_m3s > 0.0 else 0.0

    def leaves_c(self, in_c: float, flow_m3s: float) -> float:
        """Where water leaves it that came in at a temperature, running steadily."""
        return along_c(in_c, self.around_c, self.lost_wk, CARRIES_JM3K * flow_m3s)


def wall_of(bore_m: float, material: Material) -> float:
    """How thick the wall of a usual pipe of that bore is."""
    return max(LEAST_WALL_M, WALL_SHARE[material] * bore_m)


def piece(
    name: str, size: tuple[float, float], material: Material, insulation: tuple[float, float], known_wmk: float | None, air: tuple[float, float], fittings_k: float = 0.0
) -> Piece:
    """A piece from what was surveyed. size: length and bore; insulation: thickness and what it conducts; air: the water's temperature and its own."""
    length_m, bore_m = size
    water_c, around_c = air
    lost = known_wmk
    if lost is None:
        lost = loss_wmk(bore_m, wall_of(bore_m, material), CONDUCTS_WMK[material], insulation[0], insulation[1], water_c, around_c)
    return Piece(name, length_m, bore_m, material, lost, around_c, fittings_k)
