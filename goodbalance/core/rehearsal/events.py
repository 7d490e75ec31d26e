"""What happens on a bench, as types: to what, what it did, and when. The words beside it are put on by each kind of station."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from goodbalance.core.balance.trail import Term, Worded


class Thing(StrEnum):
    """To what something happened."""

    YOU = "you"  # what a person does at the bench; of: the action
    PUMP = "pump"
    CONTACT = "contact"  # a relay that the signal moves, or a float where floats are alone; of: its role
    FLOAT = "float"  # one behind a sensor; of: its role
    SENSOR = "sensor"
    SPEED = "speed"  # of all drives together
    SET = "set"  # all pumps together; of: the mode it goes into
    LIMIT = "limit"  # what stops all pumps; of: which
    TURN = "turn"
    ALARM = "alarm"  # of: which
    HARM = "harm"  # what hurts people, parts or ground; of: which


class Doing(StrEnum):
    """What it did."""

    DOES = "does"
    STARTS = "starts"
    STOPS = "stops"
    GIVEN_UP = "given_up"
    CLOSES = "closes"  # a contact: a relay energises
    OPENS = "opens"
    FAILS = "fails"
    RETURNS = "returns"
    ENTERS = "enters"
    PASSES = "passes"
    COMES = "comes"
    CLEARS = "clears"


@dataclass(frozen=True, slots=True)
class Event(Worded):
    """Something that happened. of: which of its kind, by id; pump: 1 for pump 1, 0 where it is about no one pump.

    text and terms say it in words, with {symbols} for its numbers; nothing is decided by them.
    """

    at_s: float
    thing: Thing
    doing: Doing
    of: str
    pump: int
    text: str
    terms: tuple[Term, ...] = ()

    def value(self, symbol: str) -> float | None:
        """The number it names by that symbol, in SI."""
        return next((term.value for term in self.terms if term.symbol == symbol), None)


def among(
    events: Iterable[Event], thing: Thing, *doings: Doing, of: str | None = None, pump: int | None = None, after_s: float = -1.0
) -> Iterator[Event]:
    """The events of a thing that did one of these (anything where none is named) later than a time."""
    for event in events:
        if event.thing is thing and event.at_s > after_s and (not doings or event.doing in doings):
            if (of is None or event.of == of) and (pump is None or event.pump == pump):
                yield event
