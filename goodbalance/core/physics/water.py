"""Water: columns and pressures, and its properties by temperature."""

import math
from dataclasses import dataclass
from functools import lru_cache

from iapws import IAPWS97

from goodbalance.core.errors import OutOfRange

GRAVITY_MS2 = 9.80665  # standard gravity


def head_of_pressure_m(pressure_pa: float, density_kgm3: float) -> float:
    """Height of the column that makes this gauge pressure: h = p / (rho g). [m]

    Source: hydrostatics.
    """
    return pressure_pa / (density_kgm3 * GRAVITY_MS2)


def pressure_of_head_pa(head_m: float, density_kgm3: float) -> float:
    """Gauge pressure under a column of this height: p = rho g h. [Pa]

    Source: hydrostatics.
    """
    return head_m * density_kgm3 * GRAVITY_MS2


@dataclass(frozen=True, slots=True)
class Water:
    """What of cold or warm water matters to a pump."""

    density_kgm3: float
    vapour_pa: float
    viscosity_m2s: float  # kinematic


@lru_cache(maxsize=128)
def water_at(temperature_c: float) -> Water:
    """Density and viscosity at air pressure and vapour pressure of pure water (IAPWS-IF97). Raises OutOfRange beyond 0 to 95 degrees C."""
    if not 0.0 <= temperature_c <= 95.0:
        raise OutOfRange("temperature_c", temperature_c, "0 to 95")
    kelvin = max(temperature_c, 0.01) + 273.15
    liquid = IAPWS97(T=kelvin, P=0.101325)
    return Water(float(liquid.rho), float(IAPWS97(T=kelvin, x=0).P) * 1e6, float(liquid.nu))


def air_pressure_pa(altitude_m: float) -> float:
    """Pressure of the air by height above the sea, standard atmosphere: 101325 (1 - 2.25577e-5 h)^5.25588 (ISO 2533)."""
    return 101_325.0 * math.pow(1.0 - 2.25577e-5 * altitude_m, 5.25588)
