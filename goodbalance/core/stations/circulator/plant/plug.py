"""Water in one pipe as it really runs: plug after plug, each cooling on its way; and the same pipe once nothing in it changes any more."""

import math
from collections import deque
from dataclasses import dataclass, field

from goodbalance.core.stations.circulator.plant.pieces import CARRIES_JM3K, Piece

SLICES = 48  # into which a settled pipe is cut when its water begins to move in another way
ALIKE_K, ALIKE_SHARE = 0.005, 1e-6  # two temperatures, and two flows, that are the same
RENEWED = 1e-60  # under which the common factor of all plugs is taken into each of them
DUST_M3 = 1e-12


@dataclass
class Plug:
    """Plugs of water from the pipe's end to its begin: volume (with the wall's share, as water), and how far over the air of the pipe, before `faded`.

    A pipe is settled once it has been filled at one temperature and one flow: then it stands as the exponential says, and its plugs are not moved.
    """

    piece: Piece
    over_c: float  # where all of it stands at first
    plugs: deque[tuple[float, float]] = field(default_factory=deque)
    faded: float = 1.0
    settled: tuple[float, float] | None = None  # temperature coming in, and flow
    coming: tuple[float, float] = (math.nan, 0.0)  # the same since `filled_m3`
    filled_m3: float = 0.0
    lost_j: float = 0.0
    added: float = 0.0  # of all plugs, volume by how far over the air

    def __post_init__(self) -> None:
        if not self.plugs:
            self.plugs.append((self.piece.fills_m3, self.over_c - self.piece.around_c))
            self._add_up()

    def copy(self) -> "Plug":
        """One that goes its own way."""
        return Plug(self.piece, self.over_c, deque(self.plugs), self.faded, self.settled, self.coming, self.filled_m3, self.lost_j, self.added)

    @property
    def held_j(self) -> float:
        """Heat in it over that of its air."""
        if self.settled is not None:
            in_c, flow = self.settled
            return self.piece.holds_jk * CARRIES_JM3K * flow * (in_c - self.piece.leaves_c(in_c, flow)) / self.piece.lost_wk
        return CARRIES_JM3K * self.faded * self.added

    def end_c(self, forward: bool = True) -> float:
        """At the end the water leaves by."""
        if self.settled is not None and forward:
            return self.piece.leaves_c(*self.settled)
        self._unsettle()
        return self.piece.around_c + self.faded * self.plugs[0 if forward else -1][1]

    @property
    def begin_c(self) -> float:
        """At the end where it comes in."""
        if self.settled is not None:
            return self.settled[0]
        return self.piece.around_c + self.faded * self.plugs[-1][1]

    def takes_s(self, flow_m3s: float) -> float:
        """How long a change takes through it; no end where it is settled at this flow, or does not move. [s]"""
        still = flow_m3s <= 0.0 or (self.settled is not None and abs(self.settled[1] - flow_m3s) <= ALIKE_SHARE * flow_m3s)
        return math.inf if still else self.piece.fills_m3 / flow_m3s

    def rest(self, time_s: float) -> None:
        """It stands. Source: each plug cools with the pipe's time constant, exact for any time. [s]"""
        self._unsettle()
        self.coming, self.filled_m3 = (math.nan, 0.0), 0.0
        before = self.held_j
        self._fade(time_s)
        self.lost_j += before - self.held_j

    def run(self, in_c: float, flow_m3s: float, time_s: float, forward: bool = True) -> float:
        """Water comes in at a temperature and goes out at the other end for a time; where it leaves on average. forward: from begin to end.

        Half of the cooling is done before the plugs move and half after, so that a plug's part of the step counts once. [degrees C, m3/s, s]
        """
        if flow_m3s <= 0.0:
            self.rest(time_s)
            return self.end_c(forward)
        if self.settled is not None and not (forward and self._alike(self.settled, (in_c, flow_m3s))):
            self._unsettle()
        if self.settled is not None:
            out_c = self.piece.leaves_c(*self.settled)
            self.lost_j += CARRIES_JM3K * flow_m3s * time_s * (in_c - out_c)
            return out_c
        around, volume = self.piece.around_c, flow_m3s * time_s
        before = self.held_j
        self._fade(0.5 * time_s)
        out = self._push(volume, (in_c - around) / self.faded, forward) * self.faded
        self._fade(0.5 * time_s)
        self.lost_j += before + CARRIES_JM3K * volume * (in_c - around - out) - self.held_j
        self._notice(in_c, flow_m3s, volume, forward)
        return around + out

    def _push(self, volume: float, over: float, forward: bool) -> float:
        """Plugs in at one end, out at the other. Returns how far over the air what leaves is on average, before `faded`."""
        plugs = self.plugs
        last, over_last = plugs[-1 if forward else 0]
        if abs(over_last - over) * self.faded < ALIKE_K:
            plugs[-1 if forward else 0] = (last + volume, (last * over_last + volume * over) / (last + volume))
        elif forward:
            plugs.append((volume, over))
        else:
            plugs.appendleft((volume, over))
        left, carried = volume, 0.0
        while left > DUST_M3 and plugs:
            size, each = plugs.popleft() if forward else plugs.pop()
            part = min(size, left)
            carried += part * each
            left -= part
            if size > part:
                if forward:
                    plugs.appendleft((size - part, each))
                else:
                    plugs.append((size - part, each))
        self.added += volume * over - carried
        return carried / volume

    def _fade(self, time_s: float) -> None:
        self.faded *= math.exp(-time_s / self.piece.constant_s)
        if self.faded < RENEWED:
            self.plugs = deque((volume, over * self.faded) for volume, over in self.plugs)
            self.faded = 1.0
            self._add_up()

    def _add_up(self) -> None:
        self.added = sum(volume * over for volume, over in self.plugs)

    @staticmethod
    def _alike(one: tuple[float, float], other: tuple[float, float]) -> bool:
        return abs(one[0] - other[0]) < ALIKE_K and abs(one[1] - other[1]) <= ALIKE_SHARE * one[1]

    def _notice(self, in_c: float, flow_m3s: float, volume: float, forward: bool) -> None:
        """Count what came in at one temperature and one flow; once it fills the pipe it is settled."""
        if not forward or not self._alike(self.coming, (in_c, flow_m3s)):
            self.coming, self.filled_m3 = ((in_c, flow_m3s) if forward else (math.nan, 0.0)), 0.0
        self.filled_m3 += volume
        if forward and self.filled_m3 >= self.piece.fills_m3 * 1.02:
            before = self.held_j
            self.settled = self.coming
            self.lost_j += before - self.held_j  # what the plugs' steps were off the exponential

    def _unsettle(self) -> None:
        """Cut a settled pipe into plugs as the exponential leaves them, each at its own mean."""
        if self.settled is None:
            return
        in_c, flow = self.settled
        around, decay = self.piece.around_c, self.piece.lost_wk / (CARRIES_JM3K * flow)
        over, part = in_c - around, decay / SLICES
        share = -math.expm1(-part) / part
        self.plugs = deque((self.piece.fills_m3 / SLICES, over * math.exp(-part * place) * share) for place in reversed(range(SLICES)))
        self.faded, self.settled = 1.0, None
        self._add_up()
