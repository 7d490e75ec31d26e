"""The trail behind a number: the formula, what was put in, what came out, and who says so."""

import re
from dataclasses import dataclass

from goodbalance.core.balance.quantities import Quantity, UnitSystem, show

_SYMBOL = re.compile(r"[A-Za-z][A-Za-z0-9_]*")


@dataclass(frozen=True, slots=True)
class Term:
    """One number of a formula: its symbol, what it means, its SI value and its quantity."""

    symbol: str
    meaning: str
    value: float
    quantity: Quantity


class Worded:
    """Words with {symbols} where their numbers stand; each edge words them in its reader's units."""

    __slots__ = ()
    text: str
    terms: tuple[Term, ...]

    def worded(self, system: UnitSystem) -> str:
        """The words with their numbers in a person's units."""
        return self.text.format(**{term.symbol: show(term.value, term.quantity, system) for term in self.terms})


@dataclass(frozen=True, slots=True)
class Otherwise(Worded):
    """A number as other controllers state it: from another number, as a share, or as its inverse."""

    text: str
    terms: tuple[Term, ...] = ()


@dataclass(frozen=True, slots=True)
class Trail:
    """How a number came about. `formula` reads 'result = expression' in the terms' symbols."""

    formula: str
    terms: tuple[Term, ...]
    result: Term
    source: str

    def with_numbers(self, system: UnitSystem) -> str:
        """The right-hand side with each symbol replaced by its number and unit, and the result."""
        shown = {term.symbol: show(term.value, term.quantity, system, 1) for term in self.terms}
        expression = self.formula.partition(" = ")[2]
        filled = _SYMBOL.sub(lambda found: shown.get(found.group(), found.group()), expression)
        return f"{self.result.symbol} = {filled} = {show(self.result.value, self.result.quantity, system, 1)}"

    def lines(self, system: UnitSystem) -> list[str]:
        """The trail line by line: formula, every term with its meaning, numbers put in, source."""
        terms = [f"{t.symbol} = {show(t.value, t.quantity, system, 1)}: {t.meaning}" for t in self.terms]
        return [self.formula, *terms, self.with_numbers(system), f"Source: {self.source}"]


def given(symbol: str, meaning: str, value: float, quantity: Quantity, source: str = "survey") -> Trail:
    """The trail of a number that was measured or decided, not computed."""
    term = Term(symbol, meaning, value, quantity)
    return Trail(f"{symbol} = {symbol}", (term,), term, source)
