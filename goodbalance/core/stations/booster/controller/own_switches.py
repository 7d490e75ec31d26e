"""Pressure switches at the header, one for each pump: springs that know of nothing but the water at them."""

from dataclasses import dataclass, field


@dataclass
class OwnSwitches:
    """Each closes at its cut-in and opens at its cut-out, whatever sensor, controller and supply say. marks: both, switch by switch [Pa].

    stuck: switches that do not move any more, 0 for the first: open, or closed.
    """

    marks: tuple[tuple[float, float], ...]
    closed: list[bool] = field(default_factory=list)
    stuck: dict[int, bool] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.closed = self.closed or [False] * len(self.marks)

    def look(self, pressure_pa: float) -> None:
        """What the water at them does to them. [Pa]"""
        for place, (low_pa, high_pa) in enumerate(self.marks):
            if place in self.stuck:
                self.closed[place] = self.stuck[place]
            elif pressure_pa <= low_pa:
                self.closed[place] = True
            elif pressure_pa >= high_pa:
                self.closed[place] = False

    def let_go(self) -> None:
        """A monitor has put the pumps to rest: each comes back when the water has fallen to its cut-in again."""
        self.closed = [False] * len(self.marks)
