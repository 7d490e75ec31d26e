"""What is measured, and the unit each person reads it in.

The core computes in SI. This is the one place that knows how large a unit is: forms, sheets, files and
reports call `to_si`, `from_si` and `si_per`; nothing else converts.
"""

import math
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import pint


class UnitSystem(StrEnum):
    """The units a person reads in."""

    METRIC = "metric"
    US = "us"


class Quantity(StrEnum):
    """A kind of measured thing. The value is its name in files."""

    LEVEL = "level"
    LENGTH = "length"
    SMALL_LENGTH = "small_length"
    AREA = "area"
    VOLUME = "volume"
    FLOW = "flow"
    VALVE_FLOW = "valve_flow"
    LEAK = "leak"
    HEAD = "head"
    PRESSURE = "pressure"
    DIFFERENCE = "difference"
    VELOCITY = "velocity"
    TIME = "time"
    DURATION = "duration"
    HOURS = "hours"
    CURRENT = "current"
    LOOP_CURRENT = "loop_current"
    VOLTAGE = "voltage"
    SIGNAL_VOLTAGE = "signal_voltage"
    POWER = "power"
    DENSITY = "density"
    STARTS = "starts"
    ROTATION = "rotation"
    RATE_OF_LEVEL = "rate_of_level"
    FREQUENCY = "frequency"
    SPEED_PER_LEVEL = "speed_per_level"
    RATIO = "ratio"
    PERCENT = "percent"
    COUNT = "count"
    TEMPERATURE = "temperature"
    ENERGY = "energy"
    ENERGY_PER_VOLUME = "energy_per_volume"
    APPARENT_POWER = "apparent_power"
    RESISTANCE = "resistance"


@dataclass(frozen=True, slots=True)
class DisplayUnit:
    """A unit as shown: its symbol, the decimals that make sense, the SI value of one of it, and what it shows at zero."""

    symbol: str
    decimals: int
    si_per_unit: float
    at_zero: float = 0.0

    def from_si(self, value_si: float) -> float:
        """The number a person reads."""
        return value_si / self.si_per_unit + self.at_zero

    def to_si(self, value: float) -> float:
        """The SI value of a number a person read."""
        return (value - self.at_zero) * self.si_per_unit


# quantity: (SI unit, metric symbol, metric unit, decimals, US symbol, US unit, decimals)
_TABLE: dict[Quantity, tuple[str, str, str, int, str, str, int]] = {
    Quantity.LEVEL: ("m", "m", "m", 2, "ft", "ft", 2),
    Quantity.LENGTH: ("m", "m", "m", 2, "ft", "ft", 2),
    Quantity.SMALL_LENGTH: ("m", "mm", "mm", 0, "in", "inch", 2),
    Quantity.AREA: ("m**2", "m²", "m**2", 2, "ft²", "ft**2", 1),
    Quantity.VOLUME: ("m**3", "m³", "m**3", 2, "gal", "gallon", 0),
    Quantity.FLOW: ("m**3/s", "l/s", "l/s", 1, "gpm", "gallon/minute", 0),
    Quantity.LEAK: ("m**3/s", "l/min", "liter/minute", 2, "gpm", "gallon/minute", 2),  # a flow too small for the unit of flows
    # a valve's flow at a pressure difference of its own: Kv at 1 bar, Cv at 1 psi; SI at 1 bar, so 1 Cv is 0.865 Kv
    Quantity.VALVE_FLOW: ("m**3/s", "m³/h (Kv)", "m**3/hour", 1, "gpm (Cv)", "gallon/minute*(bar/psi)**0.5", 1),
    Quantity.HEAD: ("m", "m", "m", 1, "ft", "ft", 1),
    Quantity.PRESSURE: ("Pa", "bar", "bar", 2, "psi", "psi", 1),
    Quantity.DIFFERENCE: ("Pa", "kPa", "kPa", 1, "ft of water", "ftH2O", 1),  # of pressure, too small for the unit of pressures
    Quantity.VELOCITY: ("m/s", "m/s", "m/s", 2, "ft/s", "ft/s", 1),
    Quantity.TIME: ("s", "s", "s", 0, "s", "s", 0),
    Quantity.DURATION: ("s", "min", "minute", 1, "min", "minute", 1),
    Quantity.HOURS: ("s", "h", "hour", 1, "h", "hour", 1),
    Quantity.CURRENT: ("A", "A", "A", 1, "A", "A", 1),
    Quantity.LOOP_CURRENT: ("A", "mA", "mA", 2, "mA", "mA", 2),
    Quantity.SIGNAL_VOLTAGE: ("V", "V", "V", 2, "V", "V", 2),
    Quantity.VOLTAGE: ("V", "V", "V", 0, "V", "V", 0),
    Quantity.POWER: ("W", "kW", "kW", 2, "hp", "hp", 1),
    Quantity.DENSITY: ("kg/m**3", "kg/m³", "kg/m**3", 0, "lb/ft³", "lb/ft**3", 1),
    Quantity.STARTS: ("1/hour", "/h", "1/hour", 1, "/h", "1/hour", 1),
    Quantity.ROTATION: ("1/minute", "rpm", "1/minute", 0, "rpm", "1/minute", 0),
    Quantity.RATE_OF_LEVEL: ("m/s", "mm/s", "mm/s", 2, "in/min", "inch/minute", 1),
    Quantity.FREQUENCY: ("1/s", "Hz", "1/s", 1, "Hz", "1/s", 1),
    Quantity.SPEED_PER_LEVEL: ("1/m", "%/m", "percent/m", 0, "%/ft", "percent/ft", 0),
    Quantity.RATIO: ("", "", "", 2, "", "", 2),
    Quantity.PERCENT: ("", "%", "percent", 0, "%", "percent", 0),
    Quantity.COUNT: ("", "", "", 0, "", "", 0),
    Quantity.TEMPERATURE: ("K", "°C", "K", 0, "°F", "delta_degree_Fahrenheit", 0),  # reckoned with in degrees C
    Quantity.ENERGY: ("J", "kWh", "kWh", 1, "kWh", "kWh", 1),
    Quantity.ENERGY_PER_VOLUME: ("J/m**3", "kWh/m³", "kWh/m**3", 3, "kWh/kgal", "kWh/kilogallon", 3),
    Quantity.RESISTANCE: ("ohm", "ohm", "ohm", 0, "ohm", "ohm", 0),
    Quantity.APPARENT_POWER: ("W", "kVA", "kW", 1, "kVA", "kW", 1),
}
_AT_ZERO = {(Quantity.TEMPERATURE, UnitSystem.US): 32.0}  # what is shown at 0 degrees C


@lru_cache(maxsize=1)
def _registry() -> pint.UnitRegistry[float]:
    return pint.UnitRegistry()


def si_per(unit: str, si: str) -> float:
    """How many of the SI unit one of this unit is, both as the units library names them: si_per("foot", "m") is 0.3048.

    Raises the library's DimensionalityError where one cannot be turned into the other.
    """
    return float(f"{_registry().Quantity(1.0, unit).to(si).magnitude:.14g}")  # a foot is 0.3048 m to the last digit


def si_unit(quantity: Quantity) -> str:
    """The unit a quantity is reckoned with, as the units library names it."""
    return _TABLE[quantity][0] or "dimensionless"


@lru_cache(maxsize=1)
def _display_units() -> dict[tuple[Quantity, UnitSystem], DisplayUnit]:
    """Every shown unit with its SI value, worked out once by the units library."""
    units: dict[tuple[Quantity, UnitSystem], DisplayUnit] = {}
    for quantity, (si, symbol, unit, decimals, us_symbol, us_unit, us_decimals) in _TABLE.items():
        for system, label, name, places in (
            (UnitSystem.METRIC, symbol, unit, decimals),
            (UnitSystem.US, us_symbol, us_unit, us_decimals),
        ):
            at_zero = _AT_ZERO.get((quantity, system), 0.0)
            units[quantity, system] = DisplayUnit(label, places, si_per(name, si or "dimensionless"), at_zero)
    return units


def display_unit(quantity: Quantity, system: UnitSystem) -> DisplayUnit:
    """The unit a person of this unit system reads this quantity in."""
    return _display_units()[quantity, system]


@lru_cache(maxsize=16384)
def show_number(value_si: float, quantity: Quantity, system: UnitSystem, extra_decimals: int = 0) -> str:
    """The number alone, rounded for reading; 'none' where there is no finite number."""
    unit = display_unit(quantity, system)
    value = unit.from_si(value_si)
    if not math.isfinite(value):
        return "none" if math.isnan(value) else ("no limit" if value > 0 else "no lower limit")
    text = f"{value:.{unit.decimals + extra_decimals + _finer(value, quantity)}f}"
    return text.lstrip("-") if float(text) == 0 else text


def _finer(value: float, quantity: Quantity) -> int:
    """Decimals more for small amounts: a tap's flow, a small tank's water, a part of a second, a small motor's current."""
    size = abs(value)
    if quantity is Quantity.CURRENT:
        return 1 if 0.0 < size < 10.0 else 0
    if quantity is Quantity.TIME:
        return 1 if 0.0 < size < 10.0 and abs(value - round(value)) > 0.04 else 0
    if quantity not in (Quantity.FLOW, Quantity.VOLUME) or not 0.0 < size < 1.0:
        return 0
    return 1 if size >= 0.1 else 2


def show(value_si: float, quantity: Quantity, system: UnitSystem, extra_decimals: int = 0) -> str:
    """The number with its unit, as every page and print shows it."""
    symbol = display_unit(quantity, system).symbol
    number = show_number(value_si, quantity, system, extra_decimals)
    if not symbol or not number[-1].isdigit():
        return number
    return f"{number}{symbol}" if symbol.startswith("/") else f"{number} {symbol}"
