"""The registers of a device on Modbus: which number of it stands where, and how it is written in sixteen-bit words.

Holding registers 0 to 3 say what answers: MARK, the version of the map, how many numbers follow, and the order of words. From
FIRST on each number of the device has two registers, in the order of its keypad: signed, 32 bits, what the display shows
without its decimal point, or for an option its place in the list. NOTHING stands where the display shows nothing.
"""

from collections.abc import Iterable
from dataclasses import dataclass

from goodbalance.core.balance.asked_number import number_before_unit
from goodbalance.core.sheets.entry_sheet import Row
from goodbalance.core.sheets.profile import MAIN

MARK, VERSION = 0x6762, 1
FIRST, EACH = 100, 2
SAVE = 10  # a one written here stores what was typed; without it a device forgets at its next start
NOTHING = 0x7FFFFFFF
THOUSANDTHS = 1000.0
LIVE = 10  # input registers from here on hold what happens now, two each, in thousandths; register 0 says how many there are,
BEAT = 1  # and this one goes on with every second of a device that is awake
SWITCHES = 20  # holding registers from here on, one a pump: where its switch stands, 0 HAND, 1 OFF, 2 AUTO; a hand at the panel


@dataclass(frozen=True, slots=True)
class Register:
    """One number of a device: its code, its first register, the decimals its display has, and its options in order."""

    code: str
    address: int
    decimals: int
    options: tuple[str, ...]

    def number(self, shown: str) -> int:
        """What stands in the registers while the display shows this. Raises ValueError for what the display cannot show."""
        if not shown.strip():
            return NOTHING
        if self.options:
            return [option.casefold() for option in self.options].index(shown.strip().casefold())
        return round(number_before_unit(shown) * 10.0**self.decimals)

    def shown(self, number: int) -> str:
        """The inverse of number; what no option has that place is told as it stands."""
        if number == NOTHING:
            return ""
        if self.options:
            return self.options[number] if 0 <= number < len(self.options) else f"option {number}"
        return f"{number / 10.0**self.decimals:.{self.decimals}f}"


def register_map(rows: Iterable[Row]) -> tuple[Register, ...]:
    """The registers of one device, from its rows in the order of its keypad."""
    found = []
    for place, row in enumerate(rows):
        parameter = row.parameter
        decimals = row.scale.decimals if row.scale is not None and parameter.unit in MAIN else parameter.decimals
        found.append(Register(parameter.code, FIRST + EACH * place, decimals, tuple(parameter.options.values())))
    return tuple(found)


def words_of(number: int, low_first: bool) -> tuple[int, int]:
    """A signed number of 32 bits as two words, the high one first unless low_first. Raises ValueError for a larger one."""
    if not -(2**31) <= number < 2**31:
        raise ValueError(f"{number} does not fit into 32 bits")
    high, low = (number >> 16) & 0xFFFF, number & 0xFFFF
    return (low, high) if low_first else (high, low)


def number_of(words: tuple[int, int], low_first: bool) -> int:
    """The inverse of words_of."""
    high, low = (words[1], words[0]) if low_first else words
    number = (high << 16) | low
    return number - 2**32 if number >= 2**31 else number
