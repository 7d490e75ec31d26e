"""Pressure tanks: how much water they give between two pressures, and how large they must be."""

from goodbalance.core.errors import OutOfRange

ATMOSPHERE_PA = 101_325.0


def drawdown_m3(
    tank_m3: float, precharge_pa: float, low_pa: float, high_pa: float, atmosphere_pa: float = ATMOSPHERE_PA
) -> float:
    """Water a tank gives while its pressure falls from high to low. Gauge pressures. [m3]

    Isothermal gas (Boyle): V = V_t P_0 (1/P_1 - 1/P_2) with absolute pressures. Below its precharge the bladder is
    empty, so a low pressure under the precharge counts as the precharge.

    >>> round(drawdown_m3(0.100, 180e3, 200e3, 300e3), 6)
    0.023264
    """
    for name, value in (("tank_m3", tank_m3), ("atmosphere_pa", atmosphere_pa)):
        if not value > 0.0:
            raise OutOfRange(name, value, "more than 0")
    if not precharge_pa > -atmosphere_pa:
        raise OutOfRange("precharge_pa", precharge_pa, f"more than {-atmosphere_pa:g}")
    if not high_pa >= low_pa:
        raise OutOfRange("high_pa", high_pa, f"{low_pa:g} or more, the lower pressure")
    empty = precharge_pa + atmosphere_pa
    low, high = max(low_pa + atmosphere_pa, empty), max(high_pa + atmosphere_pa, empty)
    return tank_m3 * empty * (1.0 / low - 1.0 / high)


def tank_for_drawdown_m3(
    needed_m3: float, precharge_pa: float, low_pa: float, high_pa: float, atmosphere_pa: float = ATMOSPHERE_PA
) -> float:
    """The tank that gives a volume between two pressures: drawdown_m3 solved for the tank. [m3]

    Raises OutOfRange where the pressures give no drawdown at all.

    Source: Boyle 1662, solved for the tank.
    """
    if not needed_m3 >= 0.0:
        raise OutOfRange("needed_m3", needed_m3, "0 or more")
    share = drawdown_m3(1.0, precharge_pa, low_pa, high_pa, atmosphere_pa)
    if not share > 0.0:
        raise OutOfRange("high_pa", high_pa, f"more than the precharge, {precharge_pa:g}, and the lower pressure")
    return needed_m3 / share


def drawdown_for_starts_m3(rate_m3s: float, starts_per_hour: float) -> float:
    """School of starts per hour: V_d = q T / 4 with T = 3600 / starts, worst when the demand is half the rate. [m3]

    Source: classic sizing of switched pumps, V = Q T / 4.
    """
    if not starts_per_hour > 0.0:
        raise OutOfRange("starts_per_hour", starts_per_hour, "more than 0")
    return rate_m3s * 3600.0 / starts_per_hour / 4.0


def drawdown_for_run_m3(rate_m3s: float, run_s: float = 60.0) -> float:
    """School of the least run: the pump at full rate runs for at least this time, V_d = q t. [m3]

    Source: volume is rate times time.
    """
    if not run_s >= 0.0:
        raise OutOfRange("run_s", run_s, "0 or more")
    return rate_m3s * run_s


def pressure_of_water_pa(
    water_m3: float, tank_m3: float, precharge_pa: float, atmosphere_pa: float = ATMOSPHERE_PA
) -> float:
    """Gauge pressure of a tank that holds so much water: P = P_0 V_t / (V_t - V). [Pa]

    Source: Boyle 1662.
    """
    if not 0.0 <= water_m3 < tank_m3:
        raise OutOfRange("water_m3", water_m3, f"0 to less than {tank_m3:g}")
    return (precharge_pa + atmosphere_pa) * tank_m3 / (tank_m3 - water_m3) - atmosphere_pa
