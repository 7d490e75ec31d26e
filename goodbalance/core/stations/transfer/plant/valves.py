"""The float valves of a transfer set as they stand: how far each is open, by the water under it, its play and its own time."""

from dataclasses import dataclass

from goodbalance.core.stations.transfer.survey.tanks import TankFacts

BEHIND = 0.01  # by which a valve that follows the water may be behind it, a share of full
FOLLOWS_M = 1e-6  # of water, within which it counts as following it
DRIBBLE = 0.02  # of full, at which a worn valve stays open


@dataclass
class Valve:
    """One of them. opening: a share of full; goal: where the water last pushed it, with the play between rising and falling."""

    tank: TankFacts
    opening: float
    goal: float = 1.0

    def pushed(self, level_m: float) -> float:
        """Where the water pushes it: shut by and by as it rises, open again only when it has fallen by the valve's play. [m]"""
        tank = self.tank
        if not tank.has_valve:
            return 1.0
        shut_at, opens_at = tank.closes_m - level_m, tank.closes_m - tank.opens_drop_m - level_m
        if tank.throttles_m > 0.0:
            most, least = min(1.0, max(0.0, shut_at / tank.throttles_m)), min(1.0, max(0.0, opens_at / tank.throttles_m))
        else:
            most, least = float(shut_at > 1e-9), float(opens_at > 1e-9)
        return min(most, max(least, self.goal))

    def move(self, level_m: float, step_s: float) -> None:
        """Follow the water, no faster than its own time. [m, s]"""
        self.goal = self.pushed(level_m)
        if self.tank.closing_s <= 0.0:
            self.opening = self.goal
            return
        reach = step_s / self.tank.closing_s
        self.opening += max(-reach, min(reach, self.goal - self.opening))

    def put(self, level_m: float) -> None:
        """Somebody fills or empties the tank to a level: it stands where the water has pushed it by then. [m]"""
        self.goal = self.pushed(level_m)
        self.opening = self.goal

    def next_m(self, level_m: float, rises: bool) -> float | None:
        """The level at which it begins to move next, as the water goes; None where it does not."""
        tank = self.tank
        if not tank.has_valve:
            return None
        if rises:
            begins = tank.closes_m - self.goal * tank.throttles_m
            return begins if self.goal > 0.0 and level_m < begins - FOLLOWS_M else None
        opens = tank.closes_m - tank.opens_drop_m - self.goal * tank.throttles_m
        return opens if self.goal < 1.0 and level_m > opens + FOLLOWS_M else None

    def travels(self, level_m: float) -> bool:
        """Whether it is on its way by its own time. [m]"""
        return abs(self.pushed(level_m) - self.opening) > BEHIND

    def throttles(self, level_m: float, rises: bool) -> bool:
        """Whether it follows the water now, as that goes. [m]"""
        if not self.tank.has_valve or self.tank.throttles_m <= 0.0:
            return False
        at = self.next_m(level_m, rises)
        return at is None and (self.goal > 0.0 if rises else self.goal < 1.0)
