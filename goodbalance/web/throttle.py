"""Slows down who guesses passwords: for one name from one address the wait doubles; nobody else is kept out."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from time import monotonic

FREE_TRIES = 5
SHORTEST_S, LONGEST_S = 2.0, 600.0
KEPT = 20_000  # names and addresses remembered; the oldest are forgotten


class Throttle:
    """Counts failures by name and address. Each process counts for itself."""

    def __init__(self, clock: Callable[[], float] = monotonic) -> None:
        self._clock, self._lock = clock, threading.Lock()
        self._failed: OrderedDict[tuple[str, str], tuple[int, float]] = OrderedDict()

    def wait_s(self, name: str, address: str) -> float:
        """How long this name must wait at this address before its next try; 0 when it need not. [s]"""
        with self._lock:
            _, until_s = self._failed.get((name.casefold(), address), (0, 0.0))
        return max(0.0, until_s - self._clock())

    def failed(self, name: str, address: str) -> None:
        """One more wrong try: the first few are free, then each wait is twice the last."""
        key = (name.casefold(), address)
        with self._lock:
            count = self._failed.pop(key, (0, 0.0))[0] + 1
            beyond = count - FREE_TRIES
            wait_s = min(SHORTEST_S * 2.0 ** min(beyond, 20), LONGEST_S) if beyond >= 0 else 0.0
            self._failed[key] = (count, self._clock() + wait_s)
            while len(self._failed) > KEPT:
                self._failed.popitem(last=False)

    def succeeded(self, name: str, address: str) -> None:
        """Signed in: the count begins anew."""
        with self._lock:
            self._failed.pop((name.casefold(), address), None)
