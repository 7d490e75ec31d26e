"""Constants and conversions of still water."""

GRAVITY_MS2 = 9.80665  # standard gravity


def head_of_pressure_m(pressure_pa: float, density_kgm3: float) -> float:
    """Height of the column that makes this gauge pressure: h = p / (rho g). [m]"""
    return pressure_pa / (density_kgm3 * GRAVITY_MS2)


def pressure_of_head_pa(head_m: float, density_kgm3: float) -> float:
    """Gauge pressure under a column of this height: p = rho g h. [Pa]"""
    return head_m * density_kgm3 * GRAVITY_MS2
