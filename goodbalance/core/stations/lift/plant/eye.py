"""A look-down sensor that follows the water no faster than it is told to: what it takes the level for."""

import math
from dataclasses import dataclass

LAGS_M = 0.001  # closer than this it stands at the water


@dataclass
class Eye:
    """Follows what it sees by no more than fill_ms upward and empty_ms downward; infinite: at once. [m/s]"""

    fill_ms: float = math.inf
    empty_ms: float = math.inf
    seen_m: float | None = None
    at_s: float = 0.0

    def look(self, there_m: float, now_s: float) -> float:
        """The level it gives, for what stands before it at this time. [m, s]"""
        elapsed_s, self.at_s = now_s - self.at_s, now_s
        if self.seen_m is None:
            self.seen_m = there_m
        most_m, least_m = self.fill_ms * elapsed_s if elapsed_s else 0.0, self.empty_ms * elapsed_s if elapsed_s else 0.0
        self.seen_m += min(most_m, max(-least_m, there_m - self.seen_m))
        return self.seen_m

    def lags(self, there_m: float) -> bool:
        """Whether it is still on its way to what stands before it."""
        return self.seen_m is not None and abs(there_m - self.seen_m) > LAGS_M
