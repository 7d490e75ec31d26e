"""A number somebody types: what it is called, in which unit it is read, what is accepted. The one place that checks it."""

import math
import re

from pydantic import BaseModel, ConfigDict

from goodbalance.core.balance.own_units import in_si
from goodbalance.core.balance.quantities import DisplayUnit, Quantity, UnitSystem, display_unit, show
from goodbalance.core.errors import NotANumber, OutOfRange

_NUMBER = re.compile(r"^[+-]?([0-9]+([.,][0-9]*)?|[.,][0-9]+)([eE][+-]?[0-9]+)?$")
_WITH_UNIT = re.compile(r"^([+-]?(?:[0-9]+(?: [0-9]{3})*(?:[.,][0-9]*)?|[.,][0-9]+)(?:[eE][+-]?[0-9]+)?) *(?:[^0-9., ].*)?$")
_WITH_OWN = re.compile(r"^[+\-\u2212]? *[0-9.,]")
LONGEST_NUMBER = 40


def typed_number(text: str) -> float:
    """A finite number with comma or point decimals; spaces as thousands. ValueError says what is wrong."""
    kept = text.strip().replace("\u2212", "-").replace("\u00a0", "").replace(" ", "")
    if len(kept) > LONGEST_NUMBER or not _NUMBER.match(kept):
        raise ValueError("is not a number")
    value = float(kept.replace(",", "."))
    if not math.isfinite(value):
        raise ValueError("is not a finite number")
    return value


def has_own_unit(text: str) -> bool:
    """Whether a unit seems to stand in a text: it begins with a number, and something is behind it."""
    kept = text.strip()
    return bool(_WITH_OWN.match(kept)) and not _NUMBER.match(kept.replace("\u2212", "-").replace("\u00a0", "").replace(" ", ""))


def number_before_unit(text: str) -> float:
    """The same, with its unit behind it, as a display shows it. ValueError if there is none."""
    found = _WITH_UNIT.match(text.strip().replace("\u2212", "-"))
    return typed_number(found[1] if found else "")


class AskedNumber(BaseModel):
    """A number that is asked for by a form, a table or a keypad. Limits in SI.

    above_low: the lower limit itself is not accepted. unit: what it is read in, where that is not the person's choice.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    label: str
    quantity: Quantity = Quantity.RATIO
    low: float = -math.inf
    high: float = math.inf
    above_low: bool = False
    whole: bool = False
    unit: DisplayUnit | None = None

    def accepted(self, units: UnitSystem) -> str:
        """What is accepted, in words and in a person's units."""
        unit, symbol = self._unit(units), self._unit(units).symbol
        if math.isinf(self.low) or math.isinf(self.high):
            return f"a number in {symbol}" if symbol else "a number"
        if self.unit is not None:
            return f"{unit.from_si(self.low):g} to {unit.from_si(self.high):g} {symbol}"
        low, high = self._shown(self.low, units), self._shown(self.high, units)
        if self.above_low:
            return f"more than {low}, up to {high}"
        return f"a whole number, {low} to {high}" if self.whole else f"{low} to {high}"

    def read(self, text: str, units: UnitSystem, shown_in: UnitSystem | None = None) -> float:
        """The SI value of a text typed in a person's units, or with a unit of its own; refusals are worded in those of shown_in.

        Raises NotANumber, or OutOfRange where it is none that is accepted.
        """
        reader, kept = shown_in or units, text.strip()
        accepted = self.accepted(reader)
        try:
            value_si = self._unit(units).to_si(typed_number(text)) if not has_own_unit(text) or self.unit is not None else in_si(text, self.quantity)
        except ValueError as wrong:
            raise NotANumber(self.label, kept[:LONGEST_NUMBER], str(wrong), accepted) from None
        inside = self.low < value_si if self.above_low else self.low <= value_si
        if not inside or not value_si <= self.high:
            shown = kept[:LONGEST_NUMBER] if abs(value_si) >= 1e9 else self._shown(value_si, reader)
            raise OutOfRange(self.label, shown, accepted)
        if self.whole and value_si != int(value_si):
            raise OutOfRange(self.label, kept, accepted)
        return int(value_si) if self.whole else value_si

    def read_or_note(self, text: str, units: UnitSystem, problems: list[str]) -> float | None:
        """The same for one field of many: None where it is refused, which is noted among the problems."""
        try:
            return self.read(text, units)
        except OutOfRange as wrong:
            problems.append(f"{wrong}.")
            return None

    def _unit(self, units: UnitSystem) -> DisplayUnit:
        return self.unit or display_unit(self.quantity, units)

    def _shown(self, value_si: float, units: UnitSystem) -> str:
        if self.unit is None:
            return show(value_si, self.quantity, units)
        return f"{self.unit.from_si(value_si):g} {self.unit.symbol}"
