"""Heat of water in pipes: what a pipe loses through its layers, how water cools along it, and how it cools standing still."""

import math
from functools import lru_cache

from ht.conduction import cylindrical_heat_transfer
from ht.conv_free_immersed import Nu_horizontal_cylinder

from goodbalance.core.errors import OutOfRange
from goodbalance.core.physics.water import GRAVITY_MS2

HEAT_JKGK = 4180.0  # of water from 20 to 80 degrees C, within a half per cent (IAPWS)
INNER_WM2K = 2000.0  # from warm water to its pipe: hardly counts beside insulation or still air
EMISSIVITY = 0.9  # of painted or covered surfaces
STEFAN_WM2K4 = 5.670374e-8
AIR_CONDUCTS_WMK, AIR_M2S, AIR_PRANDTL = 0.0265, 1.66e-5, 0.71  # at about 30 degrees C
ROUNDS = 6  # in which the surface's temperature settles


@lru_cache(maxsize=1024)
def loss_wmk(bore_m: float, wall_m: float, wall_wmk: float, insulation_m: float, insulation_wmk: float, water_c: float, around_c: float) -> float:
    """What one metre of a pipe loses for each kelvin between water and surroundings. [W/(m K)]

    Wall and insulation conduct as cylinders; outside, still air takes heat by free convection and by radiation, whose share is found for
    the temperature of the surface. Raises OutOfRange for a pipe without a bore.

    Source: Fourier for hollow cylinders and Nusselt numbers of a horizontal cylinder in still air (the library `ht`), Stefan and Boltzmann.
    """
    if not bore_m > 0.0 or wall_m < 0.0 or insulation_m < 0.0:
        raise OutOfRange("bore_m", bore_m, "more than 0, walls and insulation not less than 0")
    outer_m = bore_m + 2.0 * (wall_m + insulation_m)
    layers, conducts = [max(wall_m, 1e-5)], [wall_wmk]
    if insulation_m > 0.0:
        layers, conducts = [*layers, insulation_m], [*conducts, insulation_wmk]
    warm_c, cold_c = max(water_c, around_c + 1.0), around_c
    surface_c, lost = 0.5 * (warm_c + cold_c), 0.0
    for _ in range(ROUNDS):
        outside = _outside_wm2k(outer_m, surface_c, cold_c)
        found = cylindrical_heat_transfer(Ti=warm_c, To=cold_c, hi=INNER_WM2K, ho=outside, Di=bore_m, ts=layers, ks=conducts)
        lost = float(found["UA"])  # type: ignore[arg-type]
        surface_c = cold_c + lost * (warm_c - cold_c) / (outside * math.pi * outer_m)
    return lost


def _outside_wm2k(outer_m: float, surface_c: float, around_c: float) -> float:
    """Free convection and radiation together."""
    over_k = max(0.1, surface_c - around_c)
    mean_k, surface_k, around_k = 273.15 + 0.5 * (surface_c + around_c), 273.15 + surface_c, 273.15 + around_c
    grashof = GRAVITY_MS2 * over_k * outer_m**3 / (mean_k * AIR_M2S**2)
    convection = float(Nu_horizontal_cylinder(AIR_PRANDTL, grashof)) * AIR_CONDUCTS_WMK / outer_m
    return convection + EMISSIVITY * STEFAN_WM2K4 * (surface_k**2 + around_k**2) * (surface_k + around_k)


def along_c(in_c: float, around_c: float, lost_wk: float, carries_wk: float) -> float:
    """Where water that enters a pipe leaves it: T = T_a + (T_in - T_a) e^(-U L / (m c)). [degrees C, W/K, W/K]

    Source: energy balance of plug flow; exact where what a metre loses does not change along it.
    """
    return around_c if carries_wk <= 0.0 else around_c + (in_c - around_c) * math.exp(-lost_wk / carries_wk)


def still_c(from_c: float, around_c: float, time_s: float, constant_s: float) -> float:
    """Where standing water has cooled to: T = T_a + (T_0 - T_a) e^(-t/tau). [degrees C, s]

    Source: Newton's law of cooling.
    """
    return around_c + (from_c - around_c) * math.exp(-time_s / constant_s)
