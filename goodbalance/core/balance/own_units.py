"""Numbers typed with a unit of their own, as people say them: 14 ft 6 in, 145 psi, 7 mWC, 120 gpm, 1 h 30 min, 6 1/2 in."""

import re
from functools import lru_cache

from pint import DimensionalityError

from goodbalance.core.balance.quantities import Quantity, si_per, si_unit

# how people write a unit, in small letters: how the units library names it
_NAMES: dict[str, str] = {
    "m": "m", "cm": "cm", "mm": "mm", "km": "km", "µm": "um", "um": "um", "ft": "foot", "feet": "foot", "foot": "foot", "'": "foot", "′": "foot", "in": "inch", "inch": "inch", "inches": "inch", '"': "inch", "″": "inch",
    "''": "inch", "yd": "yard", "m²": "m**2", "m2": "m**2", "cm²": "cm**2", "cm2": "cm**2", "ft²": "ft**2", "ft2": "ft**2", "sq ft": "ft**2", "in²": "inch**2", "in2": "inch**2",
    "m³": "m**3", "m3": "m**3", "l": "liter", "litre": "liter", "litres": "liter", "liter": "liter", "liters": "liter", "gal": "gallon", "us gal": "gallon", "imp gal": "imperial_gallon", "ft³": "ft**3", "ft3": "ft**3", "cu ft": "ft**3",
    "l/s": "l/s", "lps": "l/s", "l/min": "l/min", "lpm": "l/min", "l/h": "l/hour", "m³/h": "m**3/hour", "m3/h": "m**3/hour", "m³/s": "m**3/s", "m3/s": "m**3/s", "m³/d": "m**3/day", "m3/d": "m**3/day", "gpm": "gallon/minute",
    "us gpm": "gallon/minute", "igpm": "imperial_gallon/minute", "gph": "gallon/hour", "gpd": "gallon/day", "mgd": "1e6*gallon/day", "cfs": "ft**3/s", "cfm": "ft**3/minute",
    "pa": "Pa", "hpa": "hPa", "kpa": "kPa", "mpa": "MPa", "bar": "bar", "mbar": "mbar", "psi": "psi", "atm": "atm", "at": "technical_atmosphere", "kgf/cm²": "kgf/cm**2", "kg/cm²": "kgf/cm**2", "kg/cm2": "kgf/cm**2",
    "mwc": "m_H2O", "m wc": "m_H2O", "mws": "m_H2O", "mh2o": "m_H2O", "m of water": "m_H2O", "cmwc": "cm_H2O", "mmwc": "0.1*cm_H2O", "ftwc": "ftH2O", "fth2o": "ftH2O", "ft of water": "ftH2O", "inwc": "inH2O", "in of water": "inH2O", "inhg": "inHg",
    "m/s": "m/s", "ft/s": "ft/s", "fps": "ft/s", "mm/s": "mm/s", "cm/min": "cm/minute", "mm/min": "mm/minute", "m/h": "m/hour", "in/min": "inch/minute", "km/h": "km/hour",
    "s": "s", "sec": "s", "seconds": "s", "min": "minute", "minutes": "minute", "h": "hour", "hr": "hour", "hrs": "hour", "hours": "hour", "d": "day", "day": "day", "days": "day", "ms": "ms",
    "a": "A", "ma": "mA", "v": "V", "mv": "mV", "kv": "kV", "ohm": "ohm", "ohms": "ohm", "ω": "ohm", "kohm": "kohm", "kω": "kohm",
    "w": "W", "kw": "kW", "mw": "MW", "hp": "hp", "ps": "metric_horsepower", "kva": "kW", "va": "W", "kg/m³": "kg/m**3", "kg/m3": "kg/m**3", "kg/l": "kg/l", "g/cm³": "g/cm**3", "lb/ft³": "lb/ft**3", "lb/ft3": "lb/ft**3",
    "/h": "1/hour", "1/h": "1/hour", "per hour": "1/hour", "/min": "1/minute", "1/min": "1/minute", "rpm": "1/minute", "hz": "1/s", "j": "J", "kj": "kJ", "mj": "MJ", "wh": "Wh", "kwh": "kWh", "%": "percent", "%/m": "percent/m", "%/ft": "percent/ft",
    "kwh/m³": "kWh/m**3", "kwh/m3": "kWh/m**3",
}  # fmt: skip
_OF_WATER = {"mwc": "m", "m wc": "m", "mws": "m", "m of water": "m", "ftwc": "foot", "ft of water": "foot"}  # a head is a height of water already
_HEIGHTS = (Quantity.HEAD, Quantity.LEVEL, Quantity.LENGTH)
_VALVES = {"kv": "m**3/hour", "m³/h": "m**3/hour", "m3/h": "m**3/hour", "cv": "gallon/minute*(bar/psi)**0.5"}  # what a valve lets through has its own
_WARMTH = {"°c": (1.0, 0.0), "c": (1.0, 0.0), "degc": (1.0, 0.0), "°f": (1.8, 32.0), "f": (1.8, 32.0), "degf": (1.8, 32.0), "k": (1.0, 273.15)}
_AMOUNT = r"[0-9]+ [0-9]+/[0-9]+|[0-9]+/[0-9]+|[0-9]+(?: [0-9]{3})*(?:[.,][0-9]*)?(?:[eE][+-]?[0-9]+)?|[.,][0-9]+"
_PARTS = re.compile(rf"({_AMOUNT})\s*({'|'.join(sorted(map(re.escape, {*_NAMES, *_VALVES, *_WARMTH}), key=len, reverse=True))})(?![^\W\d_])", re.IGNORECASE)
LONGEST = 60


def in_si(text: str, quantity: Quantity) -> float:
    """The SI value of a number with a unit, or of several in a row that are added up: feet and inches, hours and minutes.

    ValueError says what is wrong: no number with a unit, or a unit of something else.
    """
    kept = text.strip().replace("\u2212", "-").replace("\u00a0", " ").replace("\u00b5", "µ")
    sign = -1.0 if kept.startswith("-") else 1.0
    rest = kept.lstrip("+-").strip()
    if not rest or len(rest) > LONGEST:
        raise ValueError("is not a number")
    total, parts = 0.0, 0
    while rest:
        found = _PARTS.match(rest)
        if found is None:
            raise ValueError("is not a number")
        total += _one(found[1], found[2].lower(), quantity, sign)
        rest, parts = rest[found.end() :].strip(), parts + 1
    if quantity is Quantity.TEMPERATURE:
        if parts > 1:
            raise ValueError("is two temperatures")
        return total
    return sign * total


def _one(amount: str, name: str, quantity: Quantity, sign: float) -> float:
    """One number with its unit in SI."""
    value = _amount(amount)
    if quantity is Quantity.TEMPERATURE:
        if name not in _WARMTH:
            raise ValueError(f"is in {name}, which is no unit of a temperature")
        per, zero = _WARMTH[name]
        return (sign * value - zero) / per
    factor = _factor(name, quantity)
    if factor is None:
        raise ValueError(f"is in {name}, which is no unit of this")
    return value * factor


def _amount(text: str) -> float:
    """A number as people write it: thousands by spaces, a comma or a point, a fraction behind it."""
    if "/" in text:
        whole, _, part = text.rpartition(" ")
        above, _, below = part.partition("/")
        if float(below) == 0.0:
            raise ValueError("is divided by nothing")
        return float(whole or 0.0) + float(above) / float(below)
    return float(text.replace(" ", "").replace(",", "."))


@lru_cache(maxsize=4096)
def _factor(name: str, quantity: Quantity) -> float | None:
    """How many of the SI unit of a quantity one of a unit is; None where it is a unit of something else."""
    unit = _NAMES.get(name)
    if quantity is Quantity.VALVE_FLOW:
        unit = _VALVES.get(name)
    elif quantity in _HEIGHTS and name in _OF_WATER:
        unit = _OF_WATER[name]
    if unit is None:
        return None
    try:
        return si_per(unit, si_unit(quantity))
    except DimensionalityError:
        return None
