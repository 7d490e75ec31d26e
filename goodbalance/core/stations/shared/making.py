"""How the rooms of any kind make bounds and settings: a bound with its trail, and a setting placed in its window and kept."""

from abc import ABC, abstractmethod
from collections.abc import Mapping

from goodbalance.core.balance.plan import Setting, placed
from goodbalance.core.balance.quantities import Quantity as Q
from goodbalance.core.balance.trail import Term, Trail
from goodbalance.core.balance.window import RULE, Bound, Source, Window

Terms = tuple[Term, ...]  # the numbers of a trail


def term(symbol: str, meaning: str, value: float, quantity: Q = Q.PRESSURE) -> Term:
    """One number of a trail; a pressure unless said otherwise."""
    return Term(symbol, meaning, value, quantity)


def bound(
    formula: str, terms: Terms, value: float, says: str, words: tuple[str, str],
    source: Source = Source.PHYSICS, refers_to: str = "", quantity: Q = Q.PRESSURE,
) -> Bound:  # fmt: skip
    """A bound with its trail. words: its cause, and the harm beyond it; says: who says so."""
    result = Term(formula.partition(" = ")[0], "bound", value, quantity)
    return Bound(value, *words, source, Trail(formula, terms, result, says), refers_to)


def by_rule(symbol: str, meaning: str, value: float, words: tuple[str, str], quantity: Q) -> Bound:
    """A bound that a rule gives as it is."""
    return bound(f"t = {symbol}", (term(symbol, meaning, value, quantity),), value, RULE, words, Source.RULE, quantity=quantity)


class Maker(ABC):
    """Makes settings one after the other, each built on those before it. chosen: what the person set; step: of each group, in SI."""

    def __init__(self, chosen: Mapping[str, float], steps: Mapping[str, float], so_far: dict[str, float] | None = None) -> None:
        self.chosen, self.steps = chosen, steps
        self.so_far = {} if so_far is None else so_far  # values of the settings made before
        self.made: list[Setting] = []

    @abstractmethod
    def make_all(self) -> None:
        """Every setting of this room, each built on those before it."""

    def place(
        self, setting_id: str, labels: tuple[str, str], lower: tuple[Bound, ...], upper: tuple[Bound, ...], lean: float, proof: str, group: str,
        quantity: Q, step: float | None = None,
    ) -> float:  # fmt: skip
        """Place a setting in its window, recommended a share `lean` of the way up, and keep it. Returns its value."""
        step = step or self.steps[group]
        setting = placed(setting_id, labels, quantity, Window(lower, upper), lean, step, self.chosen.get(setting_id), proof, group)
        self.made.append(setting)
        self.so_far[setting_id] = setting.value
        return setting.value
