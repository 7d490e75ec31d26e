"""How something that was stopped begins again by itself: after a wait, so often, and then a person must come or a long wait follows."""

import math
from dataclasses import dataclass

from goodbalance.core.control.reasons import Link, LinkState


@dataclass(frozen=True, slots=True)
class Again:
    """What a device holds of it. count: 0 where a person must come at once; long_s: finite where a long wait takes the person's place."""

    wait_s: float = math.inf
    count: float = 0.0
    long_s: float = math.inf


@dataclass(slots=True)
class Retries:
    """What is left of the tries. made: since a person was there, or since it worked as long as a wait lasts."""

    made: int = 0
    out: bool = False  # whether it is kept out now
    due_s: float | None = None  # when it tries again
    well_since_s: float | None = None  # since when it has worked without a break

    def stopped(self, now_s: float, again: Again) -> None:
        """It was stopped just now: it waits for the next try, if there is one left."""
        self.out, self.due_s, self.well_since_s = True, None, None
        if self.made < again.count:
            self.made, self.due_s = self.made + 1, now_s + again.wait_s
        elif again.count and again.long_s < math.inf:
            self.made, self.due_s = 0, now_s + again.long_s

    def may_try(self, now_s: float) -> bool:
        """Whether its wait is over; then it begins again."""
        if self.due_s is None or now_s < self.due_s - 1e-9:
            return False
        self.out, self.due_s = False, None
        return True

    def works(self, now_s: float, again: Again) -> None:
        """It works: once it has done so for as long as a wait, all tries are there again."""
        self.well_since_s = now_s if self.well_since_s is None else self.well_since_s
        if self.made and now_s - self.well_since_s >= again.wait_s:
            self.made = 0

    def falters(self) -> None:
        """It does not work now; how long it did counts no more."""
        self.well_since_s = None

    def reset(self) -> None:
        """A person has been there: it begins to count anew."""
        self.made, self.out, self.due_s, self.well_since_s = 0, False, None, None

    def link(self, now_s: float, again: Again, who: str) -> Link | None:
        """The next try and what is left of them, for a reason line; None where none is to come. who: what waits."""
        if self.due_s is None:
            return None
        left = round(again.count) - self.made
        after = f"{left} more after it" if left else f"after it {'a long wait' if math.isfinite(again.long_s) else 'a person must come'}"
        text = f"{who} waits before try {self.made}; {after}" if self.made else f"all its tries are spent: {who} takes its long wait, then begins anew"
        return Link("Next try", LinkState.WAITS, text, (), max(0.0, self.due_s - now_s))
